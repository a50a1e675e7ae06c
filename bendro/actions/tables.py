"""A study's trials as the open trial table, and a table as a new study."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any
from uuid import UUID, uuid5

from bendro.core.errors import TableRefused
from bendro.core.planning.draft import Draft, MeasureDraft, VariableDraft
from bendro.core.planning.plan import MOST_LEVELS
from bendro.core.readings.units import find_unit, quantities_of
from bendro.core.trials import Trial
from bendro.files.trial_table import RESERVED, Table, TableTrials, parse_table, take_trials, write_table
from bendro.store.owned import Owned
from bendro.store.tables import Study, TrialRow

from .studies import make_study
from .trials import TrialGiven, put_trial, trials_of


def study_table(owned: Owned, study_id: UUID) -> str:
    """The CSV of a study: readings as they were written."""
    draft = Draft.model_validate(owned.get(Study, study_id).draft)
    rows = trials_of(owned, study_id)
    heads = [
        "trial",
        "block",
        "group",
        "person",
        "state",
        "fault",
        "note",
        _head(draft.variable.name, draft.variable.unit),
        _head(draft.measure.name, draft.measure.unit),
    ]
    timers = max((len(r.texts) for r in rows), default=1) if draft.measure.timers > 1 else 0
    heads += [_head(f"timer {n}", draft.measure.unit) for n in range(1, timers + 1)]
    if draft.also is not None:
        heads.append(_head(draft.also.name, draft.also.unit))
    heads.append("behaviour")
    return write_table(heads, [_cells(draft, order, row, timers) for order, row in enumerate(rows, 1)])


def _head(name: str, unit: str) -> str:
    return f"{name} ({unit})" if unit and unit != "count" else name


def _cells(draft: Draft, order: int, row: TrialRow, timers: int) -> list[Any]:
    one = (row.texts[0] if row.texts else "") if not timers else "" if row.reading is None else f"{row.reading['value']:.10g}"
    cells: list[Any] = [order, row.block, row.group_label, row.person, row.state, row.fault, row.note, row.level.replace("−", "-"), one]
    cells += [row.texts[i] if i < len(row.texts) else "" for i in range(timers)]
    if draft.also is not None:
        cells.append(row.also_text)
    return [*cells, row.behaviour]


def look_into(data: bytes) -> Table:
    """The columns of a table before choosing which is what."""
    return parse_table(data)


def study_from_table(
    owned: Owned, data: bytes, *, study_id: UUID, title: str, factor: str, response: str, family: str, now: datetime
) -> Study:
    """A new study with the trials of a table; refused whole when a cell is bad. The same study_id again adds nothing."""
    table = parse_table(data)
    taken = take_trials(table, factor, response)
    if not taken.trials:
        raise TableRefused("The table has a header but no trial.", code="table_empty", where="file")
    if any(t.outcome and t.value is None for t in taken.trials) and response.casefold() == "outcome":
        raise TableRefused(
            "Survival tables can be analysed at the terminal (bin/bendro analyse); a study needs a reading.",
            code="outcome_study",
            where="response",
        )
    draft = _draft_of(taken, family)
    study = make_study(owned, study_id=study_id, title=title, draft=draft, now=now)
    for at, (trial, given) in enumerate(zip(taken.trials, _given(taken, study.created_at), strict=True)):
        put_trial(owned, study.id, uuid5(study_id, f"{at}:{trial.row}"), given, now=now)
    return study


def _level_text(trial: Trial) -> str:
    return trial.level if isinstance(trial.level, str) else f"{trial.level:.10g}".replace("-", "−")


def _draft_of(taken: TableTrials, family: str) -> Draft:
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
    unit = taken.unit or ""
    quantity = (quantities_of(unit) or ["number"])[0] if unit else "number"
    per_level = max(sum(_level_text(t) == v and t.state == "kept" for t in taken.trials) for v in levels)
    return Draft(
        question=f"How does {taken.factor.name} change {taken.response.name}?"[:300],
        family=family,
        variable=VariableDraft(
            name=taken.factor.name[:60],
            kind="number" if numeric else "name",
            quantity=factor_quantity if numeric else "number",
            unit=(find_unit(taken.factor_unit or "", factor_quantity) or "") if numeric else "",
            levels=levels,
        ),
        measure=MeasureDraft(
            name=taken.response.name[:60],
            quantity=quantity,
            unit=find_unit(unit, quantity) or "",
            rule="As in the table that was read in.",
            signed=quantity == "length",
            timed=quantity == "time",
        ),
        repeats=max(1, min(50, per_level)),
        groups=list(dict.fromkeys(t.group for t in taken.trials if t.group))[:12],
        order="listed",
    )


def _given(taken: TableTrials, begun: datetime) -> list[TrialGiven]:
    """In the table's trial order, a second apart and counted from the study's making, so that sending it again is the same."""
    order = sorted(range(len(taken.trials)), key=lambda i: (taken.trials[i].order is None, taken.trials[i].order or 0, i))
    seat = {i: place for place, i in enumerate(order)}
    seen: dict[str, int] = {}
    made = []
    for i, trial in enumerate(taken.trials):
        level = _level_text(trial)
        seen[level] = seen.get(level, 0) + 1
        made.append(
            TrialGiven(
                block=seen[level],
                level=level,
                group=(trial.group or "")[:30],
                person=(trial.person or "")[:60],
                texts=[taken.texts[trial.row]],
                also_text="",
                behaviour="",
                state=trial.state,
                fault=(trial.fault or "not named in the table")[:80] if trial.state == "void" else "",
                note="",
                released_at=begun + timedelta(seconds=seat[i] - len(order)),
                revision=1,
            )
        )
    return made


def column_names(table: Table) -> list[str]:
    """Columns that may be a factor or a response."""
    return [
        c.header for c in table.columns if c.name.casefold() not in RESERVED or c.name.casefold() in ("group", "device", "person", "block")
    ]
