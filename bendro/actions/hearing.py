"""The lanes that listen to instruments: what an instrument sends is understood once, whichever server process it came to, and told to every
screen of its study. A reading becomes a record when a screen keeps it, by the road of every trial."""

from __future__ import annotations

import dataclasses
import json
from collections.abc import Sequence
from datetime import datetime, timedelta
from uuid import UUID

from sqlalchemy import text
from sqlmodel import Session

from bendro.core.draft import MeasureDraft
from bendro.core.measuring.heard import Got, Heard, Listener, heard_by
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .plans import plan_of

#: A screen that listens says so again well within this time; one whose process died is taken for gone after it, in seconds.
LISTENS_S = 30.0

_MAKE = text("insert into hearing (study_id, workspace_id, measure, known, screens) values (:study_id, :workspace_id, '{}', '{}', '{}') on conflict do nothing")
_LOCK = text("select measure, known, screens from hearing where study_id = :study_id for update")
_ANEW = text("update hearing set measure = :measure, known = :known where study_id = :study_id")
_HERE = text("update hearing set screens = screens || jsonb_build_object(cast(:screen as text), cast(:until as float8)) where study_id = :study_id")
_GONE = text("update hearing set screens = screens - cast(:screen as text) where study_id = :study_id")
_LET_GO = text("delete from heard_reading where study_id = :study_id")
_TAKE = text("insert into heard_reading (study_id, source, stamps, trial_id) values (:study_id, :source, :stamps, :trial_id) on conflict do nothing returning trial_id")
_WHOSE = text("select trial_id from heard_reading where study_id = :study_id and source = :source and stamps = :stamps")
_GIVE_BACK = text("delete from heard_reading where study_id = :study_id and source = :source and stamps = :stamps and trial_id = :trial_id")
_TELL = text("select pg_notify('bendro_event', :said)")

#: An instrument and the counts of its own clock between which it read.
Reading = tuple[str, tuple[float, ...]]


def listen(owned: Owned, study_id: UUID, screen: UUID, *, now: datetime) -> None:
    """A screen begins to listen. Where none did, or the plan has changed since, what was heard before is forgotten. Raises NotFound, PlanRefused."""
    measure = heard_by(plan_of(owned.get(Study, study_id))).model_dump_json()
    of = {"study_id": study_id}
    owned.session.execute(_MAKE, {**of, "workspace_id": owned.workspace_id})
    before, _, screens = owned.session.execute(_LOCK, of).one()
    alone = not _alive(screens, now)
    if alone or before != measure:
        owned.session.execute(_ANEW, {**of, "measure": measure, "known": "{}"})
    if alone:
        owned.session.execute(_LET_GO, of)
    still_listens(owned.session, study_id, screen, now=now)


def still_listens(session: Session, study_id: UUID, screen: UUID, *, now: datetime) -> None:
    """It is there for LISTENS_S more."""
    session.execute(_HERE, {"study_id": study_id, "screen": str(screen), "until": (now + timedelta(seconds=LISTENS_S)).timestamp()})


def listens_no_more(session: Session, study_id: UUID, screen: UUID) -> None:
    session.execute(_GONE, {"study_id": study_id, "screen": str(screen)})


More = tuple[tuple[str, str, tuple[tuple[str, str], ...]], ...]


def hear(session: Session, study_id: UUID, events: Sequence[Heard], *, now: datetime, more: More = ()) -> list[list[Got]] | None:
    """What each event gives, told to every screen when this is committed; None when no screen listens. more: what else goes with the reading."""
    row = session.execute(_LOCK, {"study_id": study_id}).first()
    if row is None or not _alive(row[2], now):
        return None
    listener = Listener(MeasureDraft.model_validate_json(row[0]), row[1])
    given = [[dataclasses.replace(g, more=more) if more and g.state == "reading" else g for g in listener.hear(event)] for event in events]
    session.execute(_ANEW, {"study_id": study_id, "measure": row[0], "known": listener.known()})
    _tell(session, study_id, [got for several in given for got in several])
    return given


def claim(session: Session, study_id: UUID, trial_id: UUID, heard: Sequence[Reading]) -> tuple[list[Reading], str]:
    """Take readings of instruments for a trial that is about to be kept: those that were free, and the instrument whose reading another trial
    has, "" where none: one release is one trial, whatever number of screens heard it."""
    fresh: list[Reading] = []
    for source, stamps in sorted(heard):
        values = {"study_id": study_id, "source": source, "stamps": json.dumps(stamps), "trial_id": trial_id}
        if session.execute(_TAKE, values).first() is not None:
            fresh.append((source, stamps))
        elif session.execute(_WHOSE, values).scalar() != trial_id:
            return fresh, source
    return fresh, ""


def give_back(session: Session, study_id: UUID, trial_id: UUID, fresh: Sequence[Reading]) -> None:
    """The trial for which they were taken was not kept after all."""
    for source, stamps in fresh:
        session.execute(_GIVE_BACK, {"study_id": study_id, "source": source, "stamps": json.dumps(stamps), "trial_id": trial_id})


def was_kept(session: Session, study_id: UUID, heard: Sequence[Reading]) -> None:
    """A screen has kept readings of instruments: the others let go of them."""
    _tell(session, study_id, [Got(state="kept", says=f"The reading of {source} was kept on another screen.", stamps=stamps, source=source) for source, stamps in heard])


def _alive(screens: dict[str, float], now: datetime) -> bool:
    return any(until > now.timestamp() for until in screens.values())


def _tell(session: Session, study_id: UUID, given: Sequence[Got]) -> None:
    for k, got in enumerate(given):  # numbered: of two equal words in one transaction PostgreSQL tells one
        said = {"study": str(study_id), "n": 0, "kind": "heard", "subject": "", "revision": k, "got": dataclasses.asdict(got)}
        session.execute(_TELL, {"said": json.dumps(said, ensure_ascii=False)})
