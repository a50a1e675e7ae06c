"""Trials: kept, voided, taken back. Every write may be sent again."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal, cast
from uuid import UUID

from sqlalchemy import insert as plain_insert
from sqlalchemy.dialects.postgresql import insert

from bendro.core.errors import CoreError
from bendro.core.planning.draft import Draft, MeasureDraft
from bendro.core.readings import Reading, combine, convert, read
from bendro.store.owned import Owned
from bendro.store.tables import Study, TrialEvent, TrialRow

from .errors import Clash, Refused


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialGiven:
    """A trial as the browser gives it. revision: 1, and one more for each change made to it there."""

    block: int
    level: str
    group: str
    person: str
    texts: Sequence[str]
    also_text: str
    behaviour: str
    state: str
    fault: str
    note: str
    released_at: datetime
    revision: int


def understand(measure: MeasureDraft, texts: Sequence[str], *, by: str = "auto") -> dict[str, Any] | None:
    """The reading of one trial from what was written, one text per timer; None when nothing was written. by: how several timers
    become one (mean, median, or auto: the median from three on).
    Values are in the measure's unit. Raises ReadingRefused."""
    written = [t for t in texts if t.strip()]
    if not written:
        return None
    parts = [read(t, measure.quantity, measure.unit, tool_step=measure.step or None, signed=measure.signed or None) for t in written]
    if len(parts) == 1:
        return _stored(parts[0], measure.unit)
    bounds = [p for p in parts if p.kind in ("at_least", "at_most")]
    if bounds:
        raise Refused(
            "One of several timers cannot be “at least”: write the one reading that holds, or void the trial.",
            code="timer_bound",
            where="reading",
        )
    together = combine([p.to(measure.unit) for p in parts], method=None if by == "auto" else cast(Literal["mean", "median"], by))
    doubt = max(p.standard_uncertainty * p.to(measure.unit) / p.value if p.value else 0.0 for p in parts)
    return {
        "kind": "estimate" if any(p.kind == "estimate" for p in parts) else "exact",
        "value": together.value,
        "resolution": max(_stored(p, measure.unit)["resolution"] for p in parts),
        "doubt": doubt,
        "timers": [p.to(measure.unit) for p in parts],
        "flagged": list(together.flagged),
        "method": together.method,
        "scatter": together.scatter,
    }


def _stored(reading: Reading, unit: str) -> dict[str, Any]:
    return {
        "kind": reading.kind,
        "value": reading.to(unit),
        "resolution": convert(reading.resolution, reading.unit, unit),
        "doubt": convert(reading.standard_uncertainty, reading.unit, unit),
    }


def put_trial(owned: Owned, study_id: UUID, trial_id: UUID, given: TrialGiven, *, now: datetime) -> TrialRow:
    """Store a revision of a trial exactly once.

    Sent again: nothing changes. An older revision that arrives late is kept in the history only. The same revision with
    other contents is a clash, answered with both. Raises ReadingRefused, Refused, Clash, NotFound.
    """
    study = owned.get(Study, study_id)
    draft = Draft.model_validate(study.draft)
    values = _checked(draft, given)
    body = _body(given)
    session = owned.session
    created = session.exec(
        insert(TrialRow)
        .values(  # type: ignore[call-overload]
            id=trial_id, workspace_id=owned.workspace_id, study_id=study_id, revision=given.revision, received_at=now, **values
        )
        .on_conflict_do_nothing(index_elements=["id"])
        .returning(TrialRow.id)
    ).first()
    if created is None:
        row = owned.get(TrialRow, trial_id, lock=True)
        if row.study_id != study_id:
            raise Refused("This trial belongs to another study.", code="trial_elsewhere")
        held = session.exec(owned.select(TrialEvent).where(TrialEvent.trial_id == trial_id, TrialEvent.revision == given.revision)).first()
        if held is not None:
            if held.body != body:
                raise Clash(
                    "This trial was changed on another device. Look at both and choose.",
                    code="trial_changed",
                    facts={"yours": body, "theirs": _row_body(row), "revision": row.revision},
                )
            session.rollback()
            return owned.get(TrialRow, trial_id)
        if given.revision > row.revision:
            for key, value in {**values, "revision": given.revision, "received_at": now}.items():
                setattr(row, key, value)
            session.add(row)
    session.exec(
        plain_insert(TrialEvent).values(  # type: ignore[call-overload]
            workspace_id=owned.workspace_id, trial_id=trial_id, revision=given.revision, body=body, received_at=now
        )
    )
    session.commit()
    return owned.get(TrialRow, trial_id)


def _checked(draft: Draft, given: TrialGiven) -> dict[str, Any]:
    if given.state == "void" and not given.fault.strip():
        raise Refused("A void trial needs its fault named: what went wrong?", code="fault_missing", where="fault")
    try:
        reading = understand(draft.measure, given.texts, by=draft.timers_by)
        also = understand(draft.also, [given.also_text]) if draft.also and given.also_text.strip() else None
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
        "texts": list(given.texts),
        "reading": reading,
        "also_text": given.also_text,
        "also_reading": also,
        "behaviour": given.behaviour,
        "state": given.state,
        "fault": given.fault.strip(),
        "note": given.note,
        "released_at": given.released_at,
    }


def _body(given: TrialGiven) -> dict[str, Any]:
    return {
        "block": given.block,
        "level": given.level,
        "group": given.group,
        "person": given.person,
        "texts": list(given.texts),
        "also_text": given.also_text,
        "behaviour": given.behaviour,
        "state": given.state,
        "fault": given.fault,
        "note": given.note,
        "released_at": given.released_at.isoformat(),
    }


def _row_body(row: TrialRow) -> dict[str, Any]:
    return {
        "block": row.block,
        "level": row.level,
        "group": row.group_label,
        "person": row.person,
        "texts": row.texts,
        "also_text": row.also_text,
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
