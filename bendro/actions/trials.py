"""Trials as they are seen: their readings in the plan's units, their places in the plan, what is out of line."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, cast
from uuid import UUID

from sqlalchemy import CursorResult, and_, or_
from sqlmodel import col, select

from bendro.core.draft import Draft, MeasureDraft
from bendro.core.measuring.before_keeping import Bounds, Others, Question, bounds_of, questions
from bendro.core.measuring.drops import Drop
from bendro.core.measuring.scales import same_quantity, scale_of
from bendro.core.measuring.taking import STEADY, Read, Taken, Told, whole_of
from bendro.core.measuring.thumb import Thumb, share_says
from bendro.core.planning.plan import planned_levels, planned_turns
from bendro.core.planning.stock import OUTSIDE_WHY, Place, Ran, Stock, take_stock
from bendro.core.readings import convert
from bendro.core.record import BEHAVIOUR, ReadingRecord
from bendro.core.record.ladders import drop_of, is_over, on_rungs, payloads_of, whole_word
from bendro.core.record.seen import ReadingSeen, TrialSeen
from bendro.store.errors import NotFound
from bendro.store.owned import Owned
from bendro.store.tables import Conditions, Event, ReadingRow, Run, Study, TrialRow, TurnRow

from .errors import Refused
from .plans import plan_of
from .understanding import BEHAVIOURS, understood

Row = Mapping[str, Any]
_COLUMNS: list[Any] = [*TrialRow.__table__.columns, col(TurnRow.trial_id).is_not(None).label("holds")]  # type: ignore[attr-defined]
_READING_COLUMNS = list(ReadingRow.__table__.columns)  # type: ignore[attr-defined]
#: Whether a trial fills the turn that it was of; one that was placed elsewhere since has given it up.
_HOLDS = and_(col(TurnRow.trial_id) == TrialRow.id, col(TurnRow.block) == TrialRow.block, col(TurnRow.level) == TrialRow.level)


@dataclass(frozen=True, slots=True, kw_only=True)
class Kept:
    """What a save was answered with. number: in the order of release, 0 for a trial taken back; place None: to be worked out from the
    whole record (drops of a specimen, or a revision)."""

    trial: dict[str, Any]
    readings: list[dict[str, Any]]
    number: int
    place: str | None
    why: str = ""


def last_run(owned: Owned, study_id: UUID) -> Run | None:
    """The run opened last, or None."""
    found: Run | None = owned.first(owned.select(Run).where(Run.study_id == study_id).order_by(col(Run.opened_at).desc()).limit(1))
    return found


def in_plan_unit(measure: MeasureDraft | None, row: Row) -> tuple[Taken | None, tuple[str, ...], bool]:
    """A stored reading in the plan's unit, its words, and whether the plan can have it at all."""
    if measure is None:
        return None, (), False
    if row["words"] is not None:
        words = tuple(row["words"])
        return None, words, scale_of(measure).worded
    if row["value"] is None:
        return None, (), True
    taken = Taken(
        kind=row["kind"], value=row["value"], resolution=row["resolution"] or 0.0, doubt=row["doubt"] or 0.0, unit=row["unit"], **_raw(row["raw"])
    )
    return (scale_of(measure).in_plan_unit(measure, taken), (), True) if same_quantity(row["unit"], measure) else (None, (), False)


def _raw(held: Mapping[str, Any] | None) -> dict[str, Any]:
    return {k: tuple(v) if isinstance(v, list) else v for k, v in (held or {}).items()}


def _reading_seen(draft: Draft, row: Row) -> tuple[ReadingSeen, bool]:
    measure = BEHAVIOURS if row["measure"] == BEHAVIOUR else draft.measure_of(row["measure"])
    taken, words, fits = in_plan_unit(measure, row)
    seen = ReadingSeen(
        measure=row["measure"], payload=row["payload"], texts=row["texts"], unit=row["unit"], taken=row["taken"], stamps=row["stamps"],
        source=row["source"], clock_s=row["clock_s"], reading=taken, words=words,
    )  # fmt: skip
    return seen, fits


@dataclass(frozen=True, slots=True, kw_only=True)
class Held:
    """The rows of one study as they lie in the tables: its trials in the order of release, their readings by trial, and the conditions
    by identity."""

    trials: Sequence[Row]
    readings: Mapping[UUID, Sequence[Row]]
    conditions: Mapping[UUID, Mapping[str, str]]


def _rows(found: CursorResult[Any]) -> list[dict[str, Any]]:
    names = list(found.keys())
    return [dict(zip(names, row, strict=True)) for row in found.fetchall()]


def rows_of(owned: Owned, study_id: UUID, *, taken_back: bool = False) -> Held:
    """The rows of a study; those that were taken back only when they are asked for."""
    state = TrialRow.state == "withdrawn" if taken_back else TrialRow.state != "withdrawn"
    mine = (TrialRow.workspace_id == owned.workspace_id, TrialRow.study_id == study_id, state)
    # by the connection, not the session: ten thousand rows are no objects of a mapper
    connection = owned.session.connection()
    trials = _rows(connection.execute(select(*_COLUMNS).outerjoin(TurnRow, _HOLDS).where(*mine).order_by(TrialRow.released_at, TrialRow.id)))
    readings = connection.execute(
        select(*_READING_COLUMNS).where(ReadingRow.trial_id == TrialRow.id, *mine).order_by(ReadingRow.trial_id, ReadingRow.payload, ReadingRow.measure == BEHAVIOUR, ReadingRow.measure)
    )
    by_trial: dict[UUID, list[Row]] = {}
    for r in _rows(readings):
        by_trial.setdefault(r["trial_id"], []).append(r)
    held: dict[UUID, Mapping[str, str]] = {}
    if any(t["conditions_id"] for t in trials):
        held = {c.id: c.held for c in owned.all(owned.select(Conditions).where(Conditions.study_id == study_id))}
    return Held(trials=trials, readings=by_trial, conditions=held)


def seen_trials(study: Study, held: Held) -> tuple[list[TrialSeen], Stock]:
    """The trials of a study with their places in its plan, numbered in the order of release, and the stock of the plan."""
    draft = plan_of(study)
    read_in: dict[UUID, list[ReadingSeen]] = {}
    fits: dict[UUID, bool] = {}
    for t in held.trials:
        seen = [_reading_seen(draft, r) for r in held.readings.get(t["id"], ())]
        read_in[t["id"]] = [s for s, _ in seen]
        fits[t["id"]] = all(ok for s, ok in seen if s.measure == draft.measure.id)
    over = _overs(draft, held.trials, {i: whole_word(draft, seen) for i, seen in read_in.items()})
    ran = [
        Ran(
            id=r["id"], block=r["block"], level=r["level"], state=r["state"], practice=r["practice"], fills=over.get(r["id"], True), holds=r["holds"],
            outside=r["outside"] or ("" if fits[r["id"]] else "measure"),
        )
        for r in held.trials
    ]  # fmt: skip
    stock = take_stock(planned_turns(draft, study.seed), ran)
    made = [
        _seen(
            row,
            number,
            tuple(read_in[row["id"]]),
            stock.place[row["id"]],
            OUTSIDE_WHY[stock.why[row["id"]]] if row["id"] in stock.why else "",
            held.conditions.get(row["conditions_id"], {}) if row["conditions_id"] else {},
        )
        for number, row in enumerate(held.trials, 1)
    ]
    return made, stock


def _seen(row: Row, number: int, readings: tuple[ReadingSeen, ...], place: Place, why: str, conditions: Mapping[str, str]) -> TrialSeen:
    return TrialSeen(
        id=row["id"], number=number, block=row["block"], level=row["level"], group=row["group_label"], person=row["person"], device=row["device"],
        version=row["version"], specimen=row["specimen"], rung=row["rung"], practice=row["practice"], heat=row["heat"], answered=row["answered"],
        kept_by=row["kept_by"], state=row["state"], fault=row["fault"], note=row["note"], released_at=row["released_at"], revision=row["revision"], others=row["others"],
        readings=readings, place=place, why=why, conditions=conditions,
    )  # fmt: skip


def _overs(draft: Draft, trials: Sequence[Row], words: Mapping[UUID, str | None]) -> dict[UUID, bool]:
    """On rungs, whether a drop ends its specimen's turn: the others only lead to it."""
    if not on_rungs(draft):
        return {}
    drops: dict[tuple[int, str], list[Drop]] = {}
    found: dict[UUID, bool] = {}
    for t in trials:
        if t["state"] != "kept" or t["practice"]:
            continue
        cell = drops.setdefault((t["block"], t["level"]), [])
        one = drop_of(draft, t["rung"], words.get(t["id"]))
        if one is not None:
            cell.append(one)
        found[t["id"]] = is_over(draft, cell)
    return found


def study_trials(owned: Owned, study_id: UUID) -> list[TrialSeen]:
    """Every trial of a study that was not taken back. Raises NotFound."""
    study = owned.get(Study, study_id)
    return seen_trials(study, rows_of(owned, study_id))[0]


def taken_back(owned: Owned, study_id: UUID) -> list[TrialSeen]:
    """Trials that were taken back by undo, the newest first: they fill nothing and can be brought back."""
    draft = plan_of(owned.get(Study, study_id))
    held = rows_of(owned, study_id, taken_back=True)
    return [_alone(draft, r, held.readings.get(r["id"], ()), held) for r in reversed(held.trials)]


def _alone(draft: Draft, row: Row, readings: Sequence[Row], held: Held) -> TrialSeen:
    own = held.conditions.get(row["conditions_id"], {}) if row["conditions_id"] else {}
    return _seen(row, 0, tuple(_reading_seen(draft, r)[0] for r in readings), "turn", "", own)


def seen_at_once(draft: Draft, kept: Kept, conditions: Mapping[str, str]) -> TrialSeen:
    """A trial just stored whose place was told by the save itself."""
    seen = tuple(_reading_seen(draft, r)[0] for r in kept.readings)
    return _seen(kept.trial, kept.number, seen, cast(Place, kept.place), kept.why, conditions)


def one_trial(owned: Owned, study_id: UUID, kept: Kept, conditions: Mapping[str, str]) -> TrialSeen:
    """A trial just stored, with its number and place; one that was taken back fills nothing."""
    study = owned.get(Study, study_id)
    if kept.place is not None:
        return seen_at_once(plan_of(study), kept, conditions)
    trial_id = UUID(str(kept.trial["id"]))
    found = next((t for t in seen_trials(study, rows_of(owned, study_id))[0] if t.id == trial_id), None)
    if found is not None:
        return found
    held = rows_of(owned, study_id, taken_back=True)
    row = next((r for r in held.trials if r["id"] == trial_id), None)
    if row is None:
        raise NotFound("trial")
    return _alone(plan_of(study), row, held.readings.get(trial_id, ()), held)


def stocks_of(owned: Owned, studies: Sequence[tuple[Study, Draft]]) -> dict[UUID, Stock]:
    """The stock of several studies from one look at their trials."""
    rows = owned.session.execute(
        select(  # type: ignore[call-overload]
            TrialRow.study_id, TrialRow.id, TrialRow.block, TrialRow.level, TrialRow.state, TrialRow.outside, TrialRow.practice, TrialRow.rung,
            ReadingRow.unit, ReadingRow.measure, ReadingRow.words, col(TurnRow.trial_id).is_not(None).label("holds"),
        )
        .outerjoin(TurnRow, _HOLDS)
        .outerjoin(ReadingRow, and_(col(ReadingRow.trial_id) == TrialRow.id, col(ReadingRow.measure) != BEHAVIOUR, or_(col(ReadingRow.payload) == 1, col(ReadingRow.words).is_not(None))))
        .where(TrialRow.workspace_id == owned.workspace_id, TrialRow.study_id.in_([s.id for s, _ in studies]))  # type: ignore[attr-defined]
        .where(TrialRow.state != "withdrawn")
        .order_by(TrialRow.released_at, TrialRow.id)
    ).mappings()  # fmt: skip
    by_study: dict[UUID, dict[UUID, list[Row]]] = {}
    for row in rows:
        by_study.setdefault(row["study_id"], {}).setdefault(row["id"], []).append(dict(row))
    return {study.id: _stock(study, draft, by_study.get(study.id, {})) for study, draft in studies}


def _stock(study: Study, draft: Draft, trials: Mapping[UUID, Sequence[Row]]) -> Stock:
    first = draft.measure
    own = {i: next((r for r in rows if r["measure"] == first.id), rows[0]) for i, rows in trials.items()}
    payloads = payloads_of(draft, first.id)
    words = {i: whole_of(first, [r["words"][0] for r in rows if r["measure"] == first.id and r["words"]], payloads) for i, rows in trials.items()} if first.words else {}
    over = _overs(draft, list(own.values()), words)
    ran = [
        Ran(
            id=i, block=r["block"], level=r["level"], state=r["state"], practice=r["practice"], fills=over.get(i, True), holds=r["holds"],
            outside=r["outside"] or ("" if r["state"] != "kept" or r["measure"] != first.id or same_quantity(r["unit"], first) else "measure"),
        )
        for i, r in own.items()
    ]  # fmt: skip
    return take_stock(planned_turns(draft, study.seed), ran)


@dataclass(frozen=True, slots=True, kw_only=True)
class Looked:
    """A reading that is about to be kept: as it is understood, and what is asked about it first."""

    reading: Taken | None
    words: tuple[str, ...]
    questions: tuple[Question, ...] = ()


def look_at(owned: Owned, study_id: UUID, given: ReadingRecord, *, besides: UUID | None = None, level: str = "") -> Looked:
    """How a reading of this study is understood, and what is asked about it first. besides: a trial that is being mended, which is not
    among the others. level: for which it is read, "" where that is not known. Raises ReadingRefused, Refused."""
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    got: Read | None = understood(draft, given)
    measure = draft.measure_of(given.measure)
    if isinstance(got, Told):
        return Looked(reading=None, words=got.words)
    if got is None or measure is None or not scale_of(measure).number:
        return Looked(reading=got, words=())
    taken = got.in_unit(measure.unit)
    seen = [t for t in seen_trials(study, rows_of(owned, study_id))[0] if t.id != besides]
    found = questions(measure, taken, _others(draft, seen, measure.id, level), texts=given.texts, how=given.taken)
    return Looked(reading=taken, words=(), questions=tuple(found))


def _others(draft: Draft, trials: Sequence[TrialSeen], measure_id: str, level: str) -> Others:
    by_level = _by_level(trials, measure_id)
    before = next((t.taken(measure_id) for t in reversed(trials) if t.state == "kept"), None)
    label = next((p.label for p in planned_levels(draft) if p.id == level), "")
    return Others(
        at=by_level.pop(level, []), elsewhere=list(by_level.values()), before=None if before is None else before.value, label=label
    )  # fmt: skip


def _by_level(trials: Sequence[TrialSeen], measure_id: str) -> dict[str, list[float]]:
    """The kept numbers of a measure at each level, mere bounds left out."""
    made: dict[str, list[float]] = {}
    for t in trials:
        if t.counts:
            made.setdefault(t.level, []).extend(
                r.reading.value for r in t.readings if r.measure == measure_id and r.reading is not None and r.reading.kind in ("exact", "estimate")
            )
    return made


def usual_of(draft: Draft, trials: Sequence[TrialSeen]) -> dict[str, Bounds]:
    """For each measure that is a number, between which values a reading is not asked about."""
    return {m.id: bounds_of(m, _by_level(trials, m.id)) for m in draft.measures if scale_of(m).number}


def timing_of(draft: Draft, trials: Sequence[TrialSeen], thumbs: Sequence[Thumb]) -> str:
    """How much of a time that was taken by hand is the thumb, in a sentence; "" while nothing was."""
    first = draft.measure
    read_by_hand = [t.of(first.id) for t in trials if t.counts]
    times = [r.reading.value for r in read_by_hand if r is not None and r.reading is not None and r.taken not in STEADY]
    if not first.timed or first.quantity != "time":
        return ""
    return share_says([convert(t, first.unit, "s") for t in times], thumbs, first.timers)


def history_of(owned: Owned, study_id: UUID, trial_id: UUID) -> list[Event]:
    """Every revision of a trial as it arrived, the oldest first. Raises NotFound, Refused."""
    row = owned.get(TrialRow, trial_id)
    if row.study_id != study_id:
        raise Refused("This trial belongs to another study.", code="trial_elsewhere")
    return owned.all(owned.select(Event).where(Event.kind == "trial", Event.subject == trial_id).order_by(Event.revision))
