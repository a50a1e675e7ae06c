"""Trials: kept, voided, mended, placed, taken back. Every write may be sent again."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import insert as plain_insert
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import select

from bendro.core.errors import CoreError
from bendro.core.measuring.out_of_line import ask_about, usual_range
from bendro.core.measuring.taking import Taken, same_quantity, take
from bendro.core.planning.draft import Draft, MeasureDraft
from bendro.core.planning.plan import planned_turns
from bendro.core.planning.safety import safety_mark
from bendro.core.planning.stock import OUTSIDE_WHY, Place, Ran, Stock, take_stock
from bendro.store.owned import Owned
from bendro.store.tables import Run, Study, TrialEvent, TrialRow

from .errors import Clash, Refused
from .plans import plan_of

#: A release before or after these years is no clock of a school, and cannot be told in every time zone.
FIRST_YEAR, LAST_YEAR = 1970, 2199


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialGiven:
    """A trial as the browser gives it. unit, also_unit: of a bare number when it was written. plan_version: of the study under
    which it was written, None where it is not known. placed: the teacher puts it in the plan at this block and level.
    revision: 1, and one more for each change made to it there."""

    block: int
    level: str
    group: str = ""
    person: str = ""
    device: str = ""
    texts: Sequence[str] = ()
    unit: str = ""
    also_text: str = ""
    also_unit: str = ""
    behaviour: str = ""
    state: str = "kept"
    fault: str = ""
    note: str = ""
    placed: bool = False
    plan_version: int | None = None
    released_at: datetime
    revision: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialSeen:
    """A trial with its readings in the plan's units and its place in the plan. why: the reason why it stands outside."""

    row: TrialRow
    number: int
    reading: Taken | None
    also_reading: Taken | None
    place: Place
    why: str


def put_trial(owned: Owned, study_id: UUID, trial_id: UUID, given: TrialGiven, *, now: datetime) -> TrialRow:
    """Store a revision of a trial exactly once.

    Sent again: nothing changes. An older revision that arrives late is kept in the history only. The same revision with
    other contents is a clash, answered with both. The plan cannot change while a trial is being stored. Raises ReadingRefused,
    Refused, Clash, NotFound.
    """
    study = owned.get(Study, study_id, lock="share")
    draft = plan_of(study)
    values = _checked(draft, given)
    session = owned.session
    row = owned.find(TrialRow, trial_id, lock="update")
    if row is None:
        _check_run(owned, study, draft, given)
        outside = "finished" if study.finished and not given.placed else ""
        created = session.exec(
            insert(TrialRow)
            .values(  # type: ignore[call-overload]
                id=trial_id, workspace_id=owned.workspace_id, study_id=study_id, revision=given.revision, received_at=now,
                outside=outside, others=[], **values,
            )
            .on_conflict_do_nothing(index_elements=["id"])
            .returning(TrialRow.id)
        ).first()  # fmt: skip
        row = owned.get(TrialRow, trial_id, lock="update") if created is None else None
    if row is not None:
        if row.study_id != study_id:
            raise Refused("This trial belongs to another study.", code="trial_elsewhere")
        held = session.exec(owned.select(TrialEvent).where(TrialEvent.trial_id == trial_id, TrialEvent.revision == given.revision)).first()
        if held is not None:
            if not _same_meant(held.body, given):
                raise Clash(
                    "This trial was changed on another device. Look at both and choose.",
                    code="trial_changed",
                    facts={"yours": event_body(given), "theirs": _row_body(row), "revision": row.revision},
                )
            session.rollback()
            return owned.get(TrialRow, trial_id)
        if given.revision > row.revision:
            changed = {**values, "revision": given.revision, "received_at": now, **({"outside": ""} if given.placed else {})}
            for key, value in changed.items():
                setattr(row, key, value)
            session.add(row)
    session.exec(
        plain_insert(TrialEvent).values(  # type: ignore[call-overload]
            workspace_id=owned.workspace_id, trial_id=trial_id, revision=given.revision, body=event_body(given), received_at=now
        )
    )
    session.commit()
    return owned.get(TrialRow, trial_id)


def _check_run(owned: Owned, study: Study, draft: Draft, given: TrialGiven) -> None:
    """A first trial needs a run that the adult in charge has opened for the plan under which it was written."""
    run = last_run(owned, study.id)
    if run is None:
        raise Refused(
            "No run is open for this study. The adult in charge reads the cautions and opens it first.", code="run_not_open", where="run"
        )
    if given.plan_version == study.version and run.mark != safety_mark(draft):
        raise Refused(
            "The plan has changed since the run was opened. The adult in charge reads the cautions and opens it again.",
            code="run_lapsed",
            where="run",
        )


def last_run(owned: Owned, study_id: UUID) -> Run | None:
    """The run opened last, or None."""
    return owned.session.exec(owned.select(Run).where(Run.study_id == study_id).order_by(Run.opened_at.desc()).limit(1)).first()


def _checked(draft: Draft, given: TrialGiven) -> dict[str, Any]:
    if not FIRST_YEAR <= given.released_at.year <= LAST_YEAR:
        raise Refused(
            f"The clock of this device says the year {given.released_at.year}. Set its date, or write the trial down again.",
            code="release_year",
            where="released_at",
        )
    if given.state == "void" and not given.fault.strip():
        raise Refused("A void trial needs its fault named: what went wrong?", code="fault_missing", where="fault")
    try:
        reading = _understood(draft, draft.measure, given.texts, given.unit)
        also = _understood(draft, draft.also, [given.also_text], given.also_unit) if draft.also and given.also_text.strip() else None
    except CoreError:
        if given.state == "kept":
            raise
        reading = also = None
    if given.state == "kept" and reading is None:
        raise Refused(
            "Nothing is written for this trial. Type the reading, or void the trial and name the fault.",
            code="reading_empty",
            where="reading",
        )
    return {
        "block": given.block,
        "level": given.level,
        "group_label": given.group,
        "person": given.person,
        "device": given.device,
        "texts": list(given.texts),
        "unit": given.unit,
        "reading": None if reading is None else stored(reading),
        "also_text": given.also_text,
        "also_unit": given.also_unit,
        "also_reading": None if also is None else stored(also),
        "behaviour": given.behaviour,
        "state": given.state,
        "fault": given.fault.strip(),
        "note": given.note,
        "plan_version": given.plan_version,
        "released_at": given.released_at,
    }


def _understood(draft: Draft, measure: MeasureDraft, texts: Sequence[str], unit: str) -> Taken | None:
    """The reading under the unit in which it was written. A unit that the measure does not have is refused with what fits."""
    if not same_quantity(unit, measure):
        raise Refused(
            f"This was written in {unit or 'no unit'}, and {measure.name or 'the measure'} is read in {measure.unit or 'no unit'} now. "
            "Look at the plan and write it again.",
            code="reading_unit",
            where="reading",
        )
    return take(measure, texts, unit=unit, by=draft.timers_by)


def stored(taken: Taken) -> dict[str, Any]:
    """A reading as it lies in the table: in the unit under which it was written."""
    return taken.model_dump(mode="json", exclude_none=True)


def _taken(held: Mapping[str, Any] | None, unit: str, measure: MeasureDraft) -> tuple[Taken | None, bool]:
    """A stored reading in the plan's unit, and whether it can be expressed in it."""
    if held is None:
        return None, True
    taken = Taken.model_validate({**held, "unit": unit})
    return (taken.in_unit(measure.unit), True) if same_quantity(unit, measure) else (None, False)


_NOT_STATED = {"revision", "plan_version"}


def event_body(given: TrialGiven) -> dict[str, Any]:
    """A revision as it lies in the history."""
    return {
        **{f.name: getattr(given, f.name) for f in fields(given) if f.name not in _NOT_STATED},
        "texts": list(given.texts),
        "released_at": given.released_at.isoformat(),
    }


def _same_meant(held: Mapping[str, Any], given: TrialGiven) -> bool:
    """Whether a stored revision says the same. What an older version of the program did not write down is not compared."""
    now = event_body(given)
    return all(
        datetime.fromisoformat(v) == given.released_at if k == "released_at" else v == now.get(k) for k, v in held.items() if k in now
    )


def _row_body(row: TrialRow) -> dict[str, Any]:
    return {
        "block": row.block,
        "level": row.level,
        "group": row.group_label,
        "person": row.person,
        "device": row.device,
        "texts": row.texts,
        "unit": row.unit,
        "also_text": row.also_text,
        "also_unit": row.also_unit,
        "behaviour": row.behaviour,
        "state": row.state,
        "fault": row.fault,
        "note": row.note,
        "released_at": row.released_at.isoformat(),
    }


def trials_of(owned: Owned, study_id: UUID) -> list[TrialRow]:
    """Trials in the order in which they were released; taken-back ones are left out."""
    return owned.all(
        owned.select(TrialRow)
        .where(TrialRow.study_id == study_id, TrialRow.state != "withdrawn")
        .order_by(TrialRow.released_at, TrialRow.id)
    )


def seen_trials(study: Study, rows: Sequence[TrialRow]) -> tuple[list[TrialSeen], Stock]:
    """The trials of a study with their places in its plan, numbered in the order of release, and the stock of the plan."""
    draft = plan_of(study)
    read = {row.id: _taken(row.reading, row.unit, draft.measure) for row in rows}
    ran = [
        Ran(id=r.id, block=r.block, level=r.level, state=r.state, outside=r.outside or ("" if read[r.id][1] else "measure")) for r in rows
    ]
    stock = take_stock(planned_turns(draft, study.seed), ran)
    made = [
        TrialSeen(
            row=row,
            number=number,
            reading=read[row.id][0],
            also_reading=_taken(row.also_reading, row.also_unit, draft.also)[0] if draft.also else None,
            place=stock.place[row.id],
            why=OUTSIDE_WHY[stock.why[row.id]] if row.id in stock.why else "",
        )
        for number, row in enumerate(rows, 1)
    ]
    return made, stock


def study_trials(owned: Owned, study_id: UUID) -> list[TrialSeen]:
    """Every trial of a study that was not taken back. Raises NotFound."""
    study = owned.get(Study, study_id)
    return seen_trials(study, trials_of(owned, study_id))[0]


def taken_back(owned: Owned, study_id: UUID) -> list[TrialSeen]:
    """Trials that were taken back by undo, the newest first: they fill nothing and can be brought back."""
    study = owned.get(Study, study_id)
    measure = plan_of(study).measure
    rows = owned.all(
        owned.select(TrialRow)
        .where(TrialRow.study_id == study_id, TrialRow.state == "withdrawn")
        .order_by(TrialRow.released_at.desc(), TrialRow.id)
    )
    return [
        TrialSeen(row=r, number=0, reading=_taken(r.reading, r.unit, measure)[0], also_reading=None, place="turn", why="") for r in rows
    ]


def one_trial(owned: Owned, study_id: UUID, row: TrialRow) -> TrialSeen:
    """A trial just stored, with its number and place; one that was taken back fills nothing."""
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    stock = stocks_of(owned, [(study, draft)])[study.id]
    order = list(stock.place)  # in the order of release
    why = stock.why.get(row.id)
    return TrialSeen(
        row=row,
        number=order.index(row.id) + 1 if row.id in stock.place else 0,
        reading=_taken(row.reading, row.unit, draft.measure)[0],
        also_reading=_taken(row.also_reading, row.also_unit, draft.also)[0] if draft.also else None,
        place=stock.place.get(row.id, "turn"),
        why=OUTSIDE_WHY[why] if why else "",
    )


def stocks_of(owned: Owned, studies: Sequence[tuple[Study, Draft]]) -> dict[UUID, Stock]:
    """The stock of several studies from one look at their trials."""
    rows = owned.session.exec(
        select(TrialRow.study_id, TrialRow.id, TrialRow.block, TrialRow.level, TrialRow.state, TrialRow.outside, TrialRow.unit)  # type: ignore[call-overload]
        .where(TrialRow.workspace_id == owned.workspace_id, TrialRow.study_id.in_([s.id for s, _ in studies]))  # type: ignore[attr-defined]
        .where(TrialRow.state != "withdrawn")
        .order_by(TrialRow.released_at, TrialRow.id)
    ).all()
    by_study: dict[UUID, list[Any]] = {}
    for row in rows:
        by_study.setdefault(row[0], []).append(row[1:])
    made = {}
    for study, draft in studies:
        ran = [
            Ran(
                id=i, block=b, level=lv, state=st,
                outside=out or ("" if st != "kept" or same_quantity(unit, draft.measure) else "measure"),
            )
            for i, b, lv, st, out, unit in by_study.get(study.id, [])
        ]  # fmt: skip
        made[study.id] = take_stock(planned_turns(draft, study.seed), ran)
    return made


@dataclass(frozen=True, slots=True, kw_only=True)
class Looked:
    """A reading that is about to be kept: as it is understood, and what is asked about it first."""

    reading: Taken | None
    asks: str | None


def look_at(
    owned: Owned, study_id: UUID, *, texts: Sequence[str], unit: str, also: bool = False, besides: UUID | None = None
) -> Looked:
    """How a reading of this study is understood, and whether it is out of line with the others. also: it is the second measure.
    besides: a trial that is being mended, which is not among the others. Raises ReadingRefused, Refused."""
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    measure = draft.also if also else draft.measure
    if measure is None:
        raise Refused("The plan has no second measure.", code="measure_unknown", where="also")
    taken = _understood(draft, measure, texts, unit)
    if taken is None:
        return Looked(reading=None, asks=None)
    taken = taken.in_unit(measure.unit)
    others = [v for t, v in _kept_values(seen_trials(study, trials_of(owned, study_id))[0], also=also) if t.row.id != besides]
    return Looked(reading=taken, asks=ask_about(taken, others, measure.quantity, signed=measure.signed))


def _kept_values(trials: Sequence[TrialSeen], *, also: bool = False) -> list[tuple[TrialSeen, float]]:
    readings = [(t, t.also_reading if also else t.reading) for t in trials if t.row.state == "kept" and t.place != "outside"]
    return [(t, r.value) for t, r in readings if r is not None]


def usual_of(draft: Draft, trials: Sequence[TrialSeen]) -> tuple[float, float]:
    """Between which values a reading is not asked about, in the measure's unit."""
    usual = usual_range(
        [v for _, v in _kept_values(trials)], draft.measure.quantity, draft.measure.unit, signed=draft.measure.signed
    )
    return usual.low, usual.high


def history_of(owned: Owned, study_id: UUID, trial_id: UUID) -> list[TrialEvent]:
    """Every revision of a trial as it arrived, the oldest first. Raises NotFound, Refused."""
    row = owned.get(TrialRow, trial_id)
    if row.study_id != study_id:
        raise Refused("This trial belongs to another study.", code="trial_elsewhere")
    return owned.all(owned.select(TrialEvent).where(TrialEvent.trial_id == trial_id).order_by(TrialEvent.revision))
