"""A study's trials as the open trial table, and a table as a new study."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, Literal
from uuid import UUID, uuid5

from sqlalchemy import insert

from bendro.core.errors import TableRefused
from bendro.core.measuring.taking import Taken, TimersBy, take
from bendro.core.planning.draft import MOST_TIMERS, Draft, MeasureDraft, VariableDraft
from bendro.core.planning.ideas import question_for
from bendro.core.planning.plan import MOST_LEVELS
from bendro.core.readings.units import find_unit, quantities_of
from bendro.core.trials import Trial
from bendro.files.trial_table import RESERVED, Column, Table, TableTrials, parse_table, take_trials, write_table
from bendro.store.owned import Owned
from bendro.store.tables import Study, TrialEvent, TrialRow

from .plans import plan_of
from .studies import add_study
from .trials import TrialGiven, TrialSeen, event_body, seen_trials, stored, trials_of

_BARE = re.compile(r"[\s\d.,+−-]+")
_TIMER = re.compile(r"timer (\d)$", re.I)
#: Column in which Bendro writes how a device behaved.
BEHAVIOUR = "behaviour"
ROWS_AT_ONCE = 1000


def study_table(owned: Owned, study_id: UUID) -> str:
    """The CSV of a study: readings as they were written, in the order of release. A trial outside the plan goes out as void, for
    it counts for nothing."""
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    seen, _ = seen_trials(study, trials_of(owned, study_id))
    devices = any(t.row.device for t in seen)
    timers = max((len(t.row.texts) for t in seen), default=1) if draft.measure.timers > 1 else 0
    others = list(dict.fromkeys(name for t in seen for name, _ in t.row.others))
    heads = ["trial", "block", "group", *(["device"] if devices else []), "person", "state", "fault", "note"]
    heads += [_head(draft.variable.name, draft.variable.unit), _head(draft.measure.name, draft.measure.unit)]
    heads += [_head(f"timer {n}", draft.measure.unit) for n in range(1, timers + 1)]
    if draft.also is not None:
        heads.append(_head(draft.also.name, draft.also.unit))
    heads += [BEHAVIOUR, *others]
    return write_table(heads, [_cells(draft, t, timers, devices, others) for t in seen])


def _head(name: str, unit: str) -> str:
    return f"{name} ({unit})" if unit and unit != "count" else name


def _with_unit(text: str, unit: str, heading: str) -> str:
    """A text as it was written; a bare number carries its unit where the heading's is another."""
    return f"{text} {unit}" if unit != heading and unit not in ("", "count") and _BARE.fullmatch(text) else text


def _cells(draft: Draft, t: TrialSeen, timers: int, devices: bool, others: Sequence[str]) -> list[Any]:
    row, unit = t.row, draft.measure.unit
    texts = [_with_unit(text, row.unit, unit) for text in row.texts]
    one = (texts[0] if texts else "") if not timers else "" if t.reading is None else f"{t.reading.value:.10g}"
    state, fault = (row.state, row.fault) if t.place != "outside" else ("void", row.fault or f"outside the plan: {t.why}")
    cells: list[Any] = [t.number, row.block, row.group_label, *([row.device] if devices else []), row.person, state, fault, row.note]
    cells += [row.level.replace("−", "-"), one]
    cells += [texts[i] if i < len(texts) else "" for i in range(timers)]
    if draft.also is not None:
        cells.append(_with_unit(row.also_text, row.also_unit, draft.also.unit))
    return [*cells, row.behaviour, *(dict(row.others).get(name, "") for name in others)]


Becomes = Literal["order", "block", "group", "device", "person", "state", "fault", "note", "behaviour", "timer", "outcome", "column"]
_PART: dict[str, Becomes] = {"trial": "order", **{n: n for n in RESERVED if n != "trial"}, BEHAVIOUR: "behaviour"}  # type: ignore[dict-item]


@dataclass(frozen=True, slots=True, kw_only=True)
class ColumnSeen:
    """A column of a table before anything is chosen. becomes: what it is read as when it is neither the variable nor a reading."""

    header: str
    becomes: Becomes


def look_into(data: bytes) -> tuple[Table, tuple[ColumnSeen, ...]]:
    """The columns of a table before choosing which is what."""
    table = parse_table(data)
    return table, tuple(ColumnSeen(header=c.header, becomes=_becomes(c)) for c in table.columns)


def _becomes(column: Column) -> Becomes:
    return "timer" if _TIMER.match(column.name) else _PART.get(column.name.casefold(), "column")


def study_from_table(
    owned: Owned, data: bytes, *, study_id: UUID, title: str, factor: str, response: str, family: str, now: datetime, also: str = ""
) -> Study:
    """A new study with the trials of a table, all of them or none; refused whole when a cell is bad. also: header of a second
    reading, or "". Every further column stays with its trial. The same study_id again adds nothing."""
    table = parse_table(data)
    taken = take_trials(table, factor, response)
    if not taken.trials:
        raise TableRefused("The table has a header but no trial.", code="table_empty", where="file")
    if taken.response.name.casefold() == "outcome":
        raise TableRefused(
            "Survival tables can be analysed at the terminal (bin/bendro analyse); a study needs a reading.",
            code="outcome_study",
            where="response",
        )
    second = take_trials(table, factor, also, void_rows={t.row for t in taken.trials if t.state == "void"}) if also else None
    timers = [c for c in table.columns if _becomes(c) == "timer" and c not in (taken.response, taken.factor)][:MOST_TIMERS]
    times = {line: [row[c.header] for c in timers] for row, line in zip(table.rows, table.lines, strict=True)}
    draft = _draft_of(taken, second, family, len(timers), _timers_by(taken, times))
    if add_study(owned, study_id=study_id, title=title, draft=draft, now=now):
        _add_trials(owned, study_id, draft, _rows_of(table, taken, second, times, draft, now), now)
    owned.session.commit()
    return owned.get(Study, study_id)


def _add_trials(
    owned: Owned, study_id: UUID, draft: Draft, rows: Sequence[tuple[TrialGiven, Taken | None, Taken | None, Sequence[tuple[str, str]]]], now: datetime
) -> None:
    """Many trials at once, each with its first event."""
    trials, events = [], []
    for at, (given, reading, also, others) in enumerate(rows):
        trial_id = uuid5(study_id, f"trial:{at}")
        trials.append(
            {
                "id": trial_id, "workspace_id": owned.workspace_id, "study_id": study_id, "block": given.block, "level": given.level,
                "group_label": given.group, "person": given.person, "device": given.device, "texts": list(given.texts), "unit": given.unit,
                "reading": None if reading is None else stored(reading), "also_text": given.also_text, "also_unit": given.also_unit,
                "also_reading": None if also is None else stored(also), "behaviour": given.behaviour, "state": given.state,
                "fault": given.fault, "note": given.note, "outside": "", "plan_version": 1, "others": [list(pair) for pair in others],
                "released_at": given.released_at, "revision": 1, "received_at": now,
            }
        )  # fmt: skip
        events.append(
            {"workspace_id": owned.workspace_id, "trial_id": trial_id, "revision": 1, "body": event_body(given), "received_at": now}
        )
    for start in range(0, len(trials), ROWS_AT_ONCE):
        owned.session.execute(insert(TrialRow), trials[start : start + ROWS_AT_ONCE])
        owned.session.execute(insert(TrialEvent), events[start : start + ROWS_AT_ONCE])


def _level_text(trial: Trial) -> str:
    return trial.level if isinstance(trial.level, str) else f"{trial.level:.10g}".replace("-", "−")


def _measure_of(taken: TableTrials, timers: int = 1) -> MeasureDraft:
    unit = taken.unit or ""
    quantity = (quantities_of(unit) or ["number"])[0] if unit else "number"
    return MeasureDraft(
        name=taken.response.name[:60],
        quantity=quantity,
        unit=find_unit(unit, quantity) or "",
        rule="As in the table that was read in.",
        signed=quantity == "length" and any((t.value or 0.0) < 0 for t in taken.trials),
        timed=quantity == "time",
        timers=max(1, timers),
    )


def _draft_of(taken: TableTrials, second: TableTrials | None, family: str, timers: int, timers_by: TimersBy) -> Draft:
    levels = list(dict.fromkeys(_level_text(t) for t in taken.trials))
    if len(levels) > MOST_LEVELS:
        raise TableRefused(
            f"“{taken.factor.name}” has {len(levels)} different levels; a study has at most {MOST_LEVELS}.",
            code="levels_many",
            where="factor",
        )
    numeric = not isinstance(taken.trials[0].level, str)
    if numeric:
        levels.sort(key=lambda v: float(v.replace("−", "-")))
    factor_quantity = (quantities_of(taken.factor_unit) or ["number"])[0] if taken.factor_unit else "number"
    measure = _measure_of(taken, timers)
    also = None if second is None else _measure_of(second).model_copy(update={"timed": False})
    return Draft(
        question=question_for(taken.factor.name, [measure.name, also.name if also else ""])[:300],
        family=family,
        variable=VariableDraft(
            name=taken.factor.name[:60],
            kind="number" if numeric else "name",
            quantity=factor_quantity if numeric else "number",
            unit=(find_unit(taken.factor_unit or "", factor_quantity) or "") if numeric else "",
            levels=levels,
        ),
        measure=measure,
        also=also,
        repeats=max(1, min(50, max(_blocks(taken), default=1))),
        groups=list(dict.fromkeys(t.group for t in taken.trials if t.group))[:12],
        order="listed",
        timers_by=timers_by,
    )


def _timers_by(taken: TableTrials, times: Mapping[int, Sequence[str]]) -> TimersBy:
    """How the table made one time of several timers: by the first trial in which it can be told."""
    measure = _measure_of(taken)
    for trial in taken.trials:
        written = [t for t in times[trial.row] if t]
        if trial.value is None or len(written) < MOST_TIMERS:
            continue
        mean, median = (take(measure, written, by=by) for by in ("mean", "median"))
        if mean is not None and median is not None and mean.value != median.value:
            return "mean" if abs(mean.value - trial.value) < abs(median.value - trial.value) else "auto"
    return "auto"


def _blocks(taken: TableTrials) -> list[int]:
    """The block of each trial: how many kept ones of its level have come before it, in the order of the file."""
    kept: dict[str, int] = {}
    made = []
    for trial in taken.trials:
        level = _level_text(trial)
        if trial.state == "kept":
            kept[level] = kept.get(level, 0) + 1
        made.append(kept.get(level, 0) if trial.state == "kept" else kept.get(level, 0) + 1)
    last = max((b for b, t in zip(made, taken.trials, strict=True) if t.state == "kept"), default=1)
    return [min(b, last) for b in made]


def _rows_of(
    table: Table, taken: TableTrials, second: TableTrials | None, times: Mapping[int, Sequence[str]], draft: Draft, begun: datetime
) -> list[tuple[TrialGiven, Taken | None, Taken | None, list[tuple[str, str]]]]:
    """In the table's trial order, a second apart and counted back from the study's making."""
    order = sorted(range(len(taken.trials)), key=lambda i: (taken.trials[i].order is None, taken.trials[i].order or 0, i))
    seat = {i: place for place, i in enumerate(order)}
    cells = dict(zip(table.lines, table.rows, strict=True))
    by_row = {t.row: t for t in second.trials} if second else {}
    further = [c for c in table.columns if _becomes(c) == "column" and c not in (taken.factor, taken.response, second.response if second else None)]
    behaviour = next((c for c in table.columns if _becomes(c) == "behaviour"), None)
    blocks = _blocks(taken)
    made = []
    for i, trial in enumerate(taken.trials):
        row = cells[trial.row]
        written = [t for t in times[trial.row] if t]
        texts = written if len(written) > 1 else [taken.texts[trial.row]] if taken.texts.get(trial.row) else []
        several = trial.value is not None and len(written) > 1
        reading = take(draft.measure, written, by=draft.timers_by) if several else _as_taken(trial, draft.measure)
        other = by_row.get(trial.row)
        given = TrialGiven(
            block=_own_block(trial, blocks[i], draft),
            level=_level_text(trial),
            group=(trial.group or "")[:30],
            person=(trial.person or "")[:60],
            device=(trial.device or "")[:60],
            texts=texts,
            unit=draft.measure.unit,
            also_text=second.texts.get(trial.row, "") if second else "",
            also_unit=draft.also.unit if draft.also else "",
            behaviour=row[behaviour.header][:60] if behaviour else "",
            state=trial.state,
            fault=(trial.fault or "not named in the table")[:80] if trial.state == "void" else "",
            note=(trial.note or "")[:500],
            plan_version=1,
            released_at=begun + timedelta(seconds=seat[i] - len(order)),
        )
        made.append((given, reading, None if other is None or draft.also is None else _as_taken(other, draft.also), [(c.header, row[c.header]) for c in further]))
    return made


def _own_block(trial: Trial, counted: int, draft: Draft) -> int:
    """The block that the table gives, where it is one of the plan's."""
    given = int(trial.block) if trial.block and trial.block.isdecimal() and len(trial.block) < 6 else 0
    return given if 1 <= given <= draft.repeats else min(counted, draft.repeats)


def _as_taken(trial: Trial, measure: MeasureDraft) -> Taken | None:
    """The reading that the table reader has understood already."""
    if trial.value is None:
        return None
    return Taken(kind=trial.kind, value=trial.value, resolution=trial.resolution or 0.0, doubt=trial.doubt or 0.0, unit=measure.unit)
