"""A study's trials as the open trial table, and a table as a new study."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from itertools import pairwise
from typing import Literal, cast
from uuid import UUID, uuid5

from bendro.core.analyse import FAILED_WORDS, SURVIVED_WORDS
from bendro.core.draft import FROM_TABLE, MOST_MEASURES, MOST_TIMERS, Draft, MeasureDraft, Order, VariableDraft
from bendro.core.errors import TableRefused
from bendro.core.measuring.derived import Worked
from bendro.core.measuring.scales import scale_of, understand
from bendro.core.measuring.taking import Read, Taken, TimersBy, Told, take
from bendro.core.planning.ideas import question_for
from bendro.core.planning.plan import MOST_LEVELS, level_unit, planned_levels, settings_of, unreadable
from bendro.core.readings.units import find_unit, quantities_of
from bendro.core.record import BEHAVIOUR, ReadingRecord, TrialRecord
from bendro.core.record.given import points_at
from bendro.core.record.ladders import payloads_of, whole_word
from bendro.core.record.responses import ResponseSeen, responses_of
from bendro.core.record.seen import TrialSeen
from bendro.core.trials import Level, Trial
from bendro.files.trial_table import (
    HELD_IN,
    RESERVED,
    Column,
    Table,
    TableTrials,
    filled_down,
    merged,
    parse_table,
    take_trials,
    write_table,
)
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .plans import plan_of
from .record import Ready, add_many
from .responses import deriving
from .studies import add_study
from .trials import rows_of, seen_trials

_BARE = re.compile(r"[\s\d.,+−-]+")
_TIMER = re.compile(r"timer (\d)$", re.I)
#: Columns in which Bendro writes what the table's shape has no name for.
BEHAVIOURS_IN, BETWEEN, OWN = "behaviour", "; ", ("version", "specimen", "rung")


@dataclass(frozen=True, slots=True, kw_only=True)
class _Out:
    """One column of the table that goes out: its heading and its cell."""

    head: str
    cell: Callable[[TrialSeen], object]


#: How a reading is taken where nothing needs to be said of it.
PLAIN = frozenset({"typed", "table"})


def study_table(owned: Owned, study_id: UUID) -> str:
    """The CSV of a study: every measure as it was written, what is worked out, the version, specimen, rung and conditions of each trial,
    in the order of release. A trial outside the plan and a practice go out as void, for they count for nothing."""
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    seen, _ = seen_trials(study, rows_of(owned, study_id))
    columns = [*_trial_columns(seen), *_level_columns(draft), *_measure_columns(draft, seen), *_worked_out(owned, study, draft, seen)]
    if any(t.heat for t in seen):
        heats = {heat: n for n, heat in enumerate(dict.fromkeys(t.heat for t in seen if t.heat), 1)}
        columns.append(_Out(head="heat", cell=lambda t: heats.get(t.heat, "")))
    if any(r.taken not in PLAIN for t in seen for r in t.readings):
        columns.append(_Out(head="taken", cell=lambda t: ", ".join(dict.fromkeys(r.taken for r in t.readings if r.measure != BEHAVIOUR))))
    columns.append(_Out(head=BEHAVIOURS_IN, cell=lambda t: BETWEEN.join(t.behaviours)))
    columns += [_held_column(name) for name in dict.fromkeys(k for t in seen for k in t.conditions)]
    columns += [_other_column(name) for name in dict.fromkeys(name for t in seen for name, _ in t.others)]
    return write_table([c.head for c in columns], [[c.cell(t) for c in columns] for t in seen])


def _held_column(name: str) -> _Out:
    return _Out(head=f"{HELD_IN}{name}", cell=lambda t: t.conditions.get(name, ""))


def _other_column(name: str) -> _Out:
    return _Out(head=name, cell=lambda t: next((text for own, text in t.others if own == name), ""))


def _trial_columns(seen: Sequence[TrialSeen]) -> list[_Out]:
    def column(head: str, key: str) -> _Out:
        return _Out(head=head, cell=lambda t: getattr(t, key))

    made = [_Out(head="trial", cell=lambda t: t.number), column("block", "block"), column("group", "group")]
    made += [column(name, name) for name in ("device", *OWN) if any(getattr(t, name) for t in seen)]
    return [
        *made,
        column("person", "person"),
        _Out(head="state", cell=lambda t: "void" if t.place in ("outside", "practice") else t.state),
        _Out(head="fault", cell=_fault),
        column("note", "note"),
    ]


def _fault(t: TrialSeen) -> str:
    own = str(t.fault)
    return own or ("practice" if t.place == "practice" else f"outside the plan: {t.why}" if t.place == "outside" else "")


def _level_columns(draft: Draft) -> list[_Out]:
    """The setting of each trial; of two variables each in a column of its own."""
    if draft.second is not None:
        settings = settings_of(draft) if not unreadable(draft) else {}

        def one(at: int, variable: VariableDraft) -> _Out:
            return _Out(head=_head(variable.name, level_unit(variable)), cell=lambda t: _plain(settings[t.level][at]) if t.level in settings else t.level)

        return [one(0, draft.variable), one(1, draft.second)]
    texts = {p.id: p.text for p in planned_levels(draft)} if not unreadable(draft) else {}
    head = _head(draft.variable.name, level_unit(draft.variable))
    return [_Out(head=head, cell=lambda t: str(texts.get(t.level, t.level)).replace("−", "-"))]


def _plain(level: Level) -> str:
    return level if isinstance(level, str) else f"{level:.10g}"


def _head(name: str, unit: str) -> str:
    return f"{name} ({unit})" if unit and unit != "count" else name


def _measure_columns(draft: Draft, seen: Sequence[TrialSeen]) -> list[_Out]:
    made = []
    for at, m in enumerate(draft.measures):
        payloads = payloads_of(draft, m.id)
        own = scale_of(m).column if at == 0 else ""  # the table's own word for it
        if own and payloads > 1:  # of the trial as a whole; each payload follows
            made.append(_Out(head=own, cell=lambda t: whole_word(draft, t.readings) or ""))
        for payload in range(1, payloads + 1):
            name = m.name if payloads == 1 else f"{m.name}, payload {payload}"
            if own and payloads == 1:
                name = own
            timers = m.timers > 1 and at == 0
            made.append(_reading_column(m, name, payload, together=timers))
            if timers:
                most = max((len(r.texts) for t in seen if (r := t.of(m.id))), default=1)
                made += [_timer_column(m, n) for n in range(most)]
    return made


def _reading_column(m: MeasureDraft, name: str, payload: int, *, together: bool) -> _Out:
    unit = scale_of(m).unit(m)

    def cell(t: TrialSeen) -> str:
        found = t.of(m.id, payload)
        if found is None:
            return ""
        if together:
            return "" if found.reading is None else f"{found.reading.value:.10g}"
        return BETWEEN.join(_with_unit(text, found.unit, unit) for text in found.texts)

    return _Out(head=_head(name, unit), cell=cell)


def _timer_column(m: MeasureDraft, at: int) -> _Out:
    def cell(t: TrialSeen) -> str:
        found = t.of(m.id)
        return "" if found is None or at >= len(found.texts) else _with_unit(found.texts[at], found.unit, m.unit)

    return _Out(head=_head(f"timer {at + 1}", m.unit), cell=cell)


def _worked_out(owned: Owned, study: Study, draft: Draft, seen: Sequence[TrialSeen]) -> list[_Out]:
    """A column for the points of each zone measure and for each derived measure; a cell is empty where it lacks an input."""
    scored = [_points_column(draft, r) for r in responses_of(draft) if r.scored]
    work = deriving(owned, study, draft)
    if work is None:
        return scored
    values = {t.id: work.at(t) for t in seen if t.place != "outside"}

    def column(one: str, head: str) -> _Out:
        def cell(t: TrialSeen) -> str:
            got = values.get(t.id, {}).get(one)
            return f"{_BOUND[got.kind]}{got.value:.6g}" if isinstance(got, Worked) else ""

        return _Out(head=head, cell=cell)

    return [*scored, *(column(one, _head(p.draft.name, p.unit)) for one, p in work.ready.items())]


def _points_column(draft: Draft, one: ResponseSeen) -> _Out:
    def cell(t: TrialSeen) -> str:
        points = dict(points_at(draft, t)).get(one.id) if t.place != "outside" else None
        return "" if points is None else f"{points:g}"

    return _Out(head=one.name, cell=cell)


_BOUND = {"exact": "", "at_least": ">=", "at_most": "<=", "estimate": "~"}


def _with_unit(text: str, unit: str, heading: str) -> str:
    """A text as it was written; a bare number carries its unit where the heading's is another."""
    return f"{text} {unit}" if unit != heading and unit not in ("", "count") and _BARE.fullmatch(text) else text


Becomes = Literal["order", "block", "group", "device", "person", "state", "fault", "note", "behaviour", "timer", "outcome", "version", "specimen", "rung", "held", "column"]
_PART: dict[str, Becomes] = {"trial": "order", **{n: cast(Becomes, n) for n in (*RESERVED, *OWN) if n != "trial"}, BEHAVIOURS_IN: "behaviour"}


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
    if column.header.casefold().startswith(HELD_IN):
        return "held"
    return "timer" if _TIMER.match(column.name) else _PART.get(column.name.casefold(), "column")


def study_from_table(
    owned: Owned, data: bytes, *, study_id: UUID, title: str, factor: str, response: str, family: str, now: datetime, also: Sequence[str] = (),
    blanks: Literal["ask", "same", "none"] = "ask", leave_bad: bool = False, as_names: bool = False,
) -> Study:  # fmt: skip
    """A new study with the trials of a table, all of them or none; refused whole when a cell is bad, with every bad cell named. also: headers
    of further readings. blanks: rows that are empty below a name are asked about, the same as it, or without one. leave_bad: rows with a bad
    cell are left out. as_names: levels are names though they are numbers. Every further column stays with its trial. The same study_id
    again adds nothing."""
    table = _filled(parse_table(data), factor, blanks)
    treat_as: Literal["group"] | None = "group" if as_names else None
    every = take_trials(table, factor, response, treat_as=treat_as, skip_bad=True)
    if len(every.skipped) > 1 and not leave_bad:
        more = f" And {len(every.skipped) - MOST_BAD} more." if len(every.skipped) > MOST_BAD else ""
        raise TableRefused(
            f"{len(every.skipped)} cells are not understood. {' '.join(every.skipped[:MOST_BAD])}{more} Correct them, or make the study without these rows.",
            code="cells_bad",
            where=every.skipped[0].split(":")[0],
        )
    taken = every if leave_bad or not every.skipped else take_trials(table, factor, response, treat_as=treat_as)
    if as_names:
        taken = _named(taken)
    if not taken.trials:
        raise TableRefused("The table has a header but no trial.", code="table_empty", where="file")
    voids = {t.row for t in taken.trials if t.state == "void"}
    further = [take_trials(table, factor, name, void_rows=voids, treat_as=treat_as, skip_bad=leave_bad) for name in also if name][: MOST_MEASURES - 1]
    timers = [c for c in table.columns if _becomes(c) == "timer" and c not in (taken.response, taken.factor)][:MOST_TIMERS]
    times = {line: [row[c.header] for c in timers] for row, line in zip(table.rows, table.lines, strict=True)}
    draft = _draft_of(taken, further, family, len(timers), _timers_by(taken, times))
    if add_study(owned, study_id=study_id, title=title, draft=draft, now=now):
        add_many(owned, study_id, _rows_of(table, taken, further, times, draft, now, study_id), now=now)
    return owned.get(Study, study_id)


def _named(taken: TableTrials) -> TableTrials:
    """The same trials with their levels as names."""
    return replace(taken, trials=tuple(replace(t, level=_level_text(t)) for t in taken.trials))


#: So many bad cells are named.
MOST_BAD = 12


def _filled(table: Table, factor: str, blanks: Literal["ask", "same", "none"]) -> Table:
    """The table with rows that are empty below a name as the teacher means them. Raises TableRefused `cells_merged`."""
    while blanks != "none" and (found := merged(table, table.column(factor))) is not None:
        column, empty, name = found
        if blanks == "ask":
            raise TableRefused(
                f"{empty} of {len(table.rows)} rows have no {column.name} below a name such as “{name[:40]}”. Is the name above meant for them, or have they none?",
                code="cells_merged",
                where=f"column {column.header}",
            )
        table = filled_down(table, column)
    return table


def _level_text(trial: Trial) -> str:
    return trial.level if isinstance(trial.level, str) else f"{trial.level:.10g}".replace("-", "−")


def _outcome_of(taken: TableTrials) -> MeasureDraft:
    """Outcomes in words, those that are known as survived first; where some are not known, the teacher says the line."""
    words = list(dict.fromkeys(t.outcome for t in taken.trials if t.outcome and t.state == "kept"))[:12]
    survived = [w for w in words if w.casefold() in SURVIVED_WORDS]
    rest = [w for w in words if w not in survived]
    told = all(w.casefold() in FAILED_WORDS for w in rest) and bool(survived) and bool(rest)
    if not rest:
        rest = ["failed"]
    if not survived and rest == ["failed"]:
        survived, told = ["survived"], True
    return MeasureDraft(
        name="outcome", scale="outcome", quantity="number", unit="", words=[*survived, *rest], survived=len(survived) if told or len(words) < 2 else 0,
        rule=FROM_TABLE,
    )  # fmt: skip


def _measure_of(taken: TableTrials, timers: int = 1) -> MeasureDraft:
    if taken.response.name.casefold() == "outcome":
        return _outcome_of(taken)
    unit = taken.unit or ""
    quantity = (quantities_of(unit) or ["number"])[0] if unit else "number"
    return MeasureDraft(
        name=taken.response.name[:60],
        quantity=quantity,
        unit=find_unit(unit, quantity) or "",
        rule=FROM_TABLE,
        signed=quantity == "length" and any((t.value or 0.0) < 0 for t in taken.trials),
        timed=quantity == "time",
        timers=max(1, timers),
    )


def _draft_of(taken: TableTrials, further: Sequence[TableTrials], family: str, timers: int, timers_by: TimersBy) -> Draft:
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
    others = [_measure_of(one).model_copy(update={"timed": False, "id": f"m{n}"}) for n, one in enumerate(further, 2)]
    return Draft(
        question=question_for(taken.factor.name, [measure.name, *(m.name for m in others)])[:300],
        family=family,
        variable=VariableDraft(
            name=taken.factor.name[:60],
            kind="number" if numeric else "name",
            quantity=factor_quantity if numeric else "number",
            unit=(find_unit(taken.factor_unit or "", factor_quantity) or "") if numeric else "",
            levels=levels,
        ),
        measures=[measure.model_copy(update={"id": "m1"}), *others],
        repeats=max(1, min(50, max(_blocks(taken), default=1))),
        groups=list(dict.fromkeys(t.group for t in taken.trials if t.group))[:12],
        order=_order_of(taken),
        timers_by=timers_by,
    )


def _order_of(taken: TableTrials) -> Order:
    """In which order the table says that its trials were run; nothing is read from the order of its rows."""
    if any(t.order is None for t in taken.trials):
        return "unknown"
    ran = [_level_text(t) for t in sorted(taken.trials, key=lambda t: t.order or 0)]
    levels = len(set(ran))
    if sum(a != b for a, b in pairwise(ran)) == levels - 1:
        return "listed"
    whole = all(len(set(ran[i : i + levels])) == len(ran[i : i + levels]) for i in range(0, len(ran), levels))
    return "blocks" if whole else "random"


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
    table: Table, taken: TableTrials, further: Sequence[TableTrials], times: Mapping[int, Sequence[str]], draft: Draft, begun: datetime, study_id: UUID
) -> list[Ready]:
    """In the table's trial order, a second apart and counted back from the study's making."""
    order = sorted(range(len(taken.trials)), key=lambda i: (taken.trials[i].order is None, taken.trials[i].order or 0, i))
    seat = {i: place for place, i in enumerate(order)}
    cells = dict(zip(table.lines, table.rows, strict=True))
    used = (taken.factor, taken.response, *(one.response for one in further))
    others = [c for c in table.columns if _becomes(c) == "column" and c not in used]
    part = {_becomes(c): c for c in table.columns if _becomes(c) in ("behaviour", *OWN) and c not in used}
    held = [c for c in table.columns if _becomes(c) == "held" and c not in used]
    by_row = [{t.row: t for t in one.trials} for one in further]
    blocks = _blocks(taken)
    made = []
    for i, trial in enumerate(taken.trials):
        row = cells[trial.row]
        readings = _first_reading(trial, taken, times[trial.row], draft)
        for n, (one, rows) in enumerate(zip(further, by_row, strict=True), 1):
            readings += _a_reading(draft.measures[n], one, rows.get(trial.row))
        if "behaviour" in part and row[part["behaviour"].header]:
            words = [w[:60] for w in row[part["behaviour"].header].split(BETWEEN) if w.strip()][:12]
            readings.append((ReadingRecord(measure=BEHAVIOUR, texts=words, taken="table"), Told(words=tuple(words))))
        version = row[part["version"].header] if "version" in part else ""
        given = TrialRecord(
            block=_own_block(trial, blocks[i], draft),
            level=_level_text(trial),
            group=(trial.group or "")[:30],
            person=(trial.person or "")[:60],
            device=(trial.device or "")[:60],
            version=int(version) if version.isdecimal() and 0 < int(version) <= 10_000 else None,
            specimen=row[part["specimen"].header][:30] if "specimen" in part else "",
            rung=row[part["rung"].header][:30] if "rung" in part else "",
            readings=[r for r, _ in readings],
            conditions={c.header[len(HELD_IN) :][:60]: row[c.header][:60] for c in held if row[c.header]},
            state=trial.state,
            fault=(trial.fault or "not named in the table")[:80] if trial.state == "void" else "",
            note=(trial.note or "")[:500],
            plan_version=1,
            released_at=begun + timedelta(seconds=seat[i] - len(order)),
        )
        made.append(Ready(id=uuid5(study_id, f"trial:{i}"), given=given, readings=readings, others=[(c.header, row[c.header]) for c in others]))
    return made


def _first_reading(trial: Trial, taken: TableTrials, times: Sequence[str], draft: Draft) -> list[tuple[ReadingRecord, Read | None]]:
    written = [t for t in times if t]
    if trial.value is not None and len(written) > 1:
        record = ReadingRecord(measure="m1", texts=written, unit=draft.measure.unit, taken="table")
        return [(record, take(draft.measure, written, by=draft.timers_by))]
    return _a_reading(draft.measure, taken, trial)


def _a_reading(measure: MeasureDraft, taken: TableTrials, trial: Trial | None) -> list[tuple[ReadingRecord, Read | None]]:
    """The reading that the table reader has understood already."""
    if trial is None:
        return []
    if scale_of(measure).survives:
        if not trial.outcome:
            return []
        return [(ReadingRecord(measure=measure.id, texts=[trial.outcome[:60]], taken="table"), understand(measure, [trial.outcome]) if trial.state == "kept" else None)]
    text = taken.texts.get(trial.row, "")
    if not text:
        return []
    got = None
    if trial.value is not None:
        got = Taken(kind=trial.kind, value=trial.value, resolution=trial.resolution or 0.0, doubt=trial.doubt or 0.0, unit=measure.unit)
    return [(ReadingRecord(measure=measure.id, texts=[text], unit=measure.unit, taken="table"), got)]


def _own_block(trial: Trial, counted: int, draft: Draft) -> int:
    """The block that the table gives, where it is one of the plan's."""
    given = int(trial.block) if trial.block and trial.block.isdecimal() and len(trial.block) < 6 else 0
    return given if 1 <= given <= draft.repeats else min(counted, draft.repeats)
