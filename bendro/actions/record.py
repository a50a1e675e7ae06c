"""The only writer of trials and readings: it checks plan and run, gives the trial its place, and writes trial, readings and event at
once. Every write may be sent again."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from typing import Any
from uuid import UUID, uuid5

from sqlalchemy import insert

from bendro.core.errors import CoreError
from bendro.core.measuring.taking import Read, Told, same_quantity, understand
from bendro.core.planning.draft import Draft, MeasureDraft
from bendro.core.planning.plan import planned_turns
from bendro.core.planning.safety import safety_mark
from bendro.core.planning.upgrade import read_plan
from bendro.core.record import BEHAVIOUR, ReadingRecord, TrialRecord
from bendro.core.record.model import same_meant
from bendro.store.errors import NotFound
from bendro.store.owned import Owned
from bendro.store.tables import Conditions, Event, ReadingRow, TrialRow
from bendro.store.trial_writes import ADD, CHANGE, LATE, LOOK

from .errors import Clash, Refused

#: A release before or after these years is no clock of a school, and cannot be told in every time zone.
FIRST_YEAR, LAST_YEAR = 1970, 2199
ROWS_AT_ONCE = 1000
BEHAVIOURS = MeasureDraft(id=BEHAVIOUR, name="behaviour", scale="behaviour", quantity="number", unit="")


@dataclass(frozen=True, slots=True, kw_only=True)
class Kept:
    """What a save was answered with. number: in the order of release, 0 for a trial taken back; place None: to be worked out from the
    whole record (drops of a specimen, or a revision)."""

    trial: dict[str, Any]
    readings: list[dict[str, Any]]
    number: int
    place: str | None


@lru_cache(maxsize=256)
def _plan(study_id: UUID, version: int, text: str) -> tuple[Draft, str, frozenset[tuple[int, str]]]:
    """A plan read once for each of its versions: the draft, its safety mark, and the cells that it has turns for."""
    draft = read_plan(json.loads(text))
    return draft, safety_mark(draft), frozenset((t.block, t.level) for t in planned_turns(draft, 0))


def put_trial(owned: Owned, study_id: UUID, trial_id: UUID, given: TrialRecord, *, now: datetime) -> Kept:
    """Store a revision of a trial exactly once.

    Sent again: nothing changes. An older revision that arrives late is kept in the history only. The same revision with
    other contents is a clash, answered with both. The plan cannot change while a trial is being stored. Raises ReadingRefused,
    Refused, Clash, NotFound.
    """
    for _ in range(2):
        done = _put(owned, study_id, trial_id, given, now)
        if done is not None:
            return done
        owned.session.rollback()  # the same id was being written at this moment: look again, what stands is compared then
    raise NotFound("trial")  # the id is another workspace's


def _put(owned: Owned, study_id: UUID, trial_id: UUID, given: TrialRecord, now: datetime) -> Kept | None:
    session = owned.session
    seen = session.execute(
        LOOK,
        {
            "study_id": study_id, "workspace_id": owned.workspace_id, "trial_id": trial_id, "revision": given.revision,
            "block": given.block, "level": given.level, "released_at": _storable_time(given),
        },
    ).first()  # fmt: skip
    if seen is None:
        raise NotFound("study")
    draft, mark, cells = _plan(study_id, seen.version, json.dumps(seen.draft))
    trial, readings = checked(draft, given)
    if seen.held_study is not None and seen.held_study != study_id:
        raise Refused("This trial belongs to another study.", code="trial_elsewhere")
    if seen.held_body is not None:
        if not same_meant(seen.held_body, given):
            raise Clash(
                "This trial was changed on another device. Look at both and choose.",
                code="trial_changed",
                facts={"yours": given.meant(), "theirs": _as_it_stands(owned, trial_id), "revision": seen.held_revision},
            )
        session.rollback()
        return _stored(owned, trial_id)
    if seen.held_revision is None:
        _check_run(seen.run_mark, seen.version, mark, given)
    outside = "finished" if seen.finished and not given.placed else ""
    row = _row(owned, study_id, trial_id, given, trial, outside, now)
    event = _event(owned, study_id, trial_id, given, now)
    values = {
        "trial": json.dumps(row), "readings": json.dumps(_reading_rows(owned, trial_id, readings)), "event": json.dumps(event),
        "conditions": json.dumps(_conditions(owned, study_id, given, now)), "placed": given.placed,
    }  # fmt: skip
    statement = ADD if seen.held_revision is None else CHANGE if given.revision > seen.held_revision else LATE
    wanted = {k: v for k, v in values.items() if f":{k}" in statement.text}
    if session.execute(statement, wanted).first() is None:
        return None
    session.commit()
    if statement is not ADD or draft.drop is not None or given.practice:
        return _stored(owned, trial_id)
    cell = (given.block, given.level)
    place = "outside" if outside or (cells and cell not in cells) or not _fits(draft, readings) else "extra" if seen.filled_before else "turn"
    return Kept(trial=row, readings=_reading_rows(owned, trial_id, readings), number=seen.before_it + 1, place=place if place != "outside" else None)


def _storable_time(given: TrialRecord) -> datetime:
    if not FIRST_YEAR <= given.released_at.year <= LAST_YEAR:
        raise Refused(
            f"The clock of this device says the year {given.released_at.year}. Set its date, or write the trial down again.",
            code="release_year",
            where="released_at",
        )
    return given.released_at


def _check_run(run_mark: str | None, version: int, mark: str, given: TrialRecord) -> None:
    """A first trial needs a run that the adult in charge has opened for the plan under which it was written."""
    if run_mark is None:
        raise Refused(
            "No run is open for this study. The adult in charge reads the cautions and opens it first.", code="run_not_open", where="run"
        )
    if given.plan_version == version and run_mark != mark:
        raise Refused(
            "The plan has changed since the run was opened. The adult in charge reads the cautions and opens it again.",
            code="run_lapsed",
            where="run",
        )


def checked(draft: Draft, given: TrialRecord) -> tuple[TrialRecord, list[tuple[ReadingRecord, Read | None]]]:
    """The trial with its readings understood. A void trial keeps what was written even where it is no reading. Raises Refused,
    ReadingRefused."""
    _storable_time(given)
    if given.state == "void" and not given.fault.strip():
        raise Refused("A void trial needs its fault named: what went wrong?", code="fault_missing", where="fault")
    read: list[tuple[ReadingRecord, Read | None]] = []
    for one in given.readings:
        if not one.written:
            continue
        try:
            read.append((one, understood(draft, one)))
        except CoreError:
            if given.state == "kept":
                raise
            read.append((one, None))
    first = draft.measure.id
    if given.state == "kept" and not any(one.measure == first and got is not None for one, got in read):
        raise Refused(
            "Nothing is written for this trial. Type the reading, or void the trial and name the fault.",
            code="reading_empty",
            where="reading",
        )
    return given, read


def understood(draft: Draft, one: ReadingRecord) -> Read | None:
    """A reading under the unit in which it was written. A measure that the plan does not have, and a unit that the measure does not
    have, are refused with what fits."""
    measure = BEHAVIOURS if one.measure == BEHAVIOUR else draft.measure_of(one.measure)
    if measure is None:
        raise Refused(
            "The plan no longer has the measure that this was read for. Look at the plan and write it again.", code="measure_gone", where="reading"
        )
    if one.payload > max(1, len(draft.payloads)):
        raise Refused(f"The plan has no payload {one.payload}. Look at the plan and write it again.", code="payload_gone", where="reading")
    if not same_quantity(one.unit, measure):
        raise Refused(
            f"This was written in {one.unit or 'no unit'}, and {measure.name or 'the measure'} is read in {measure.unit or 'no unit'} now. "
            "Look at the plan and write it again.",
            code="reading_unit",
            where="reading",
        )
    return understand(measure, one.texts, unit=one.unit, by=draft.timers_by)


def _fits(draft: Draft, readings: Sequence[tuple[ReadingRecord, Read | None]]) -> bool:
    first = draft.measure
    return all(same_quantity(one.unit, first) for one, _ in readings if one.measure == first.id)


def _row(
    owned: Owned, study_id: UUID, trial_id: UUID, given: TrialRecord, trial: TrialRecord, outside: str, now: datetime,
    others: Sequence[Sequence[str]] = (),
) -> dict[str, Any]:  # fmt: skip
    return {
        **trial.model_dump(mode="json", exclude={"group", "readings", "conditions", "placed", "fault", "released_at"}),
        "id": str(trial_id), "workspace_id": str(owned.workspace_id), "study_id": str(study_id), "group_label": given.group,
        "fault": given.fault.strip(), "conditions_id": None if not given.conditions else str(conditions_id(study_id, given.conditions)),
        "outside": outside, "others": [list(pair) for pair in others], "released_at": given.released_at.isoformat(),
        "by": None if owned.by is None else str(owned.by), "received_at": now.isoformat(),
    }  # fmt: skip


def _reading_rows(owned: Owned, trial_id: UUID, readings: Sequence[tuple[ReadingRecord, Read | None]]) -> list[dict[str, Any]]:
    return [
        {
            "trial_id": str(trial_id), "measure": one.measure, "payload": one.payload, "workspace_id": str(owned.workspace_id),
            "texts": list(one.texts), "unit": one.unit, "taken": one.taken, "stamps": list(one.stamps), **_understood_columns(got),
        }
        for one, got in readings
    ]  # fmt: skip


def _understood_columns(got: Read | None) -> dict[str, Any]:
    none: dict[str, Any] = {"kind": "", "value": None, "resolution": None, "doubt": None, "words": None, "raw": None}
    if isinstance(got, Told):
        return {**none, "kind": "words", "words": list(got.words)}
    if got is None:
        return none
    held = got.model_dump(mode="json", exclude_none=True)
    held.pop("unit", None)
    numbers = {k: held.pop(k) for k in ("kind", "value", "resolution", "doubt")}
    return {**none, **numbers, "raw": held or None}


def conditions_id(study_id: UUID, held: Mapping[str, str]) -> UUID:
    """One identity for one set of conditions, so that trials made offline share it."""
    return uuid5(study_id, "conditions:" + json.dumps(dict(sorted(held.items())), ensure_ascii=False))


def _conditions(owned: Owned, study_id: UUID, given: TrialRecord, now: datetime) -> list[dict[str, Any]]:
    if not given.conditions:
        return []
    return [
        {
            "id": str(conditions_id(study_id, given.conditions)), "workspace_id": str(owned.workspace_id), "study_id": str(study_id),
            "held": given.conditions, "confirmed_at": now.isoformat(),
        }
    ]  # fmt: skip


def _event(owned: Owned, study_id: UUID, trial_id: UUID, given: TrialRecord, now: datetime) -> dict[str, Any]:
    return {
        "workspace_id": str(owned.workspace_id), "study_id": str(study_id), "kind": "trial", "subject": str(trial_id),
        "revision": given.revision, "body": given.meant(), "by": None if owned.by is None else str(owned.by),
        "device_at": given.released_at.isoformat(), "received_at": now.isoformat(),
    }  # fmt: skip


def _stored(owned: Owned, trial_id: UUID) -> Kept:
    row = owned.get(TrialRow, trial_id)
    readings = owned.all(owned.select(ReadingRow).where(ReadingRow.trial_id == trial_id))
    return Kept(trial=row.model_dump(), readings=[r.model_dump() for r in readings], number=0, place=None)


def _as_it_stands(owned: Owned, trial_id: UUID) -> dict[str, Any]:
    """A trial in the form in which it is given."""
    row = owned.get(TrialRow, trial_id)
    readings = owned.all(owned.select(ReadingRow).where(ReadingRow.trial_id == trial_id))
    held = owned.find(Conditions, row.conditions_id) if row.conditions_id else None
    return TrialRecord(
        **row.model_dump(include={"block", "level", "person", "device", "version", "specimen", "rung", "practice", "state", "fault", "note", "released_at", "revision"}),
        group=row.group_label,
        conditions=held.held if held else {},
        readings=[ReadingRecord(**r.model_dump(include={"measure", "payload", "texts", "unit", "taken", "stamps"})) for r in readings],
    ).meant()


@dataclass(frozen=True, slots=True, kw_only=True)
class Ready:
    """A trial that was understood already, such as one of a table: others are its further columns."""

    id: UUID
    given: TrialRecord
    readings: Sequence[tuple[ReadingRecord, Read | None]]
    others: Sequence[tuple[str, str]] = ()


def add_many(owned: Owned, study_id: UUID, trials: Sequence[Ready], *, now: datetime) -> None:
    """Many new trials of a study at once, each with its readings and its first event; nothing is committed."""
    rows, readings, events = [], [], []
    held: dict[str, dict[str, Any]] = {}
    for t in trials:
        rows.append(_row(owned, study_id, t.id, t.given, t.given, "", now, t.others))
        readings += _reading_rows(owned, t.id, t.readings)
        events.append(_event(owned, study_id, t.id, t.given, now))
        held |= {c["id"]: c for c in _conditions(owned, study_id, t.given, now)}
    for table, made in ((Conditions, list(held.values())), (TrialRow, rows), (ReadingRow, readings), (Event, events)):
        for start in range(0, len(made), ROWS_AT_ONCE):
            owned.session.execute(insert(table), [_plain(r) for r in made[start : start + ROWS_AT_ONCE]])


def _plain(row: dict[str, Any]) -> dict[str, Any]:
    """A row for an insert by the library: identities and times as they are, not as text."""
    made = dict(row)
    for key, value in row.items():
        if value is not None and (key == "id" or key.endswith("_id") or key in ("subject", "by")):
            made[key] = UUID(value)
        elif value is not None and key.endswith("_at"):
            made[key] = datetime.fromisoformat(value)
    return made


def note_event(owned: Owned, study_id: UUID, kind: str, subject: UUID, revision: int, body: Mapping[str, Any], *, now: datetime) -> None:
    """Append an event about something else than a trial; nothing is committed. The same again changes nothing."""
    event = {
        "workspace_id": str(owned.workspace_id), "study_id": str(study_id), "kind": kind, "subject": str(subject), "revision": revision,
        "body": dict(body), "by": None if owned.by is None else str(owned.by), "device_at": None, "received_at": now.isoformat(),
    }  # fmt: skip
    owned.session.execute(LATE, {"event": json.dumps(event)})
