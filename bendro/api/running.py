"""Trials as they are run and mended, and readings as they are typed."""

import asyncio
import contextlib
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

import orjson
from fastapi import APIRouter, Response
from fastapi.concurrency import run_in_threadpool
from sqlalchemy.exc import OperationalError

from bendro.actions import hearing, trials
from bendro.actions.accounts import names_of
from bendro.actions.analysing import state_of
from bendro.actions.errors import Refused
from bendro.actions.plans import plan_of
from bendro.actions.seats import seats_named
from bendro.core.measuring.heard import READS
from bendro.core.planning.held import not_held
from bendro.core.planning.labels import asked_about, looks_like_a_name
from bendro.core.record import ReadingRecord, TrialRecord
from bendro.store.connect import session as open_session
from bendro.store.tables import Event, Hearing, Study

from .live import told_live
from .needs import Mine, SeatToken, Token
from .saving import saved
from .shapes_lane import ConditionsBody, LookedOut, NotHeldOut, ReadingBody, TrialBody, TrialChangeOut, TrialOut
from .told import as_list, told
from .trial_documents import trial_document, trial_documents
from .verdicts import begin, following

router = APIRouter(prefix="/api", tags=["running"])
@router.get("/studies/{study_id}/trials", operation_id="trials", response_model=list[TrialOut])
def all_trials(study_id: UUID, mine: Mine) -> Response:
    state = ("trials", *state_of(mine, study_id))
    return _plain(told.answer(state, mine, lambda: as_list(trial_documents(mine, study_id, trials.study_trials(mine, study_id)))))


@router.get("/studies/{study_id}/trials/taken-back", operation_id="taken_back", response_model=list[TrialOut])
def taken_back(study_id: UUID, mine: Mine) -> Response:
    return _json([trial_document(t, None, None) for t in trials.taken_back(mine, study_id)])


@router.put("/studies/{study_id}/trials/{trial_id}", operation_id="put_trial", response_model=TrialOut)
async def put_trial(study_id: UUID, trial_id: UUID, body: TrialBody, token: Token = None, seat: SeatToken = None) -> Response:
    now, given = datetime.now(UTC), TrialRecord.model_construct(**dict(body))
    heard = {(r.source, tuple(r.stamps)) for r in given.readings if r.source and r.stamps and r.taken in READS} if given.state == "kept" else set()
    with_instruments = _Instruments(study_id, trial_id, list(heard)) if heard else None
    try:
        if with_instruments is not None:
            await run_in_threadpool(with_instruments.claim)
        with told_live.saving(trial_id, given.revision):
            kept = await saved(study_id, trial_id, given, token, seat, now)
            told_live.remember(kept.document)
    except BaseException:
        if with_instruments is not None:
            await run_in_threadpool(with_instruments.give_back)
        raise
    if with_instruments is not None:
        await run_in_threadpool(with_instruments.tell)
    if following.take(study_id):  # who asked for the verdict after the last trial asks for it after this one
        asyncio.get_running_loop().run_in_executor(None, begin, kept.workspace_id, study_id)
    return _json(kept.document)


class _Instruments:
    """The readings of instruments in one trial that is being kept."""

    def __init__(self, study_id: UUID, trial_id: UUID, heard: list[hearing.Reading]) -> None:
        self._study_id, self._trial_id, self._heard = study_id, trial_id, heard
        self._fresh: list[hearing.Reading] = []

    def claim(self) -> None:
        """Raises Refused `reading_kept`."""
        with open_session() as session:
            listens = session.get(Hearing, self._study_id) is not None
            self._fresh, elsewhere = hearing.claim(session, self._study_id, self._trial_id, self._heard) if listens else ([], "")
            session.commit()
        if elsewhere:
            raise Refused(
                f"This reading of {elsewhere} was kept on another screen already, for the same release. Give this one up, or read the turn anew.",
                code="reading_kept", where="readings",
            )  # fmt: skip

    def give_back(self) -> None:
        """What an earlier sending of this trial holds, it keeps. Where the database is away the readings stay this trial's, which is sent again."""
        if not self._fresh:
            return
        with contextlib.suppress(OperationalError), open_session() as session:
            hearing.give_back(session, self._study_id, self._trial_id, self._fresh)
            session.commit()

    def tell(self) -> None:
        with open_session() as session:
            hearing.was_kept(session, self._study_id, self._heard)
            session.commit()


def _json(document: Any) -> Response:
    return _plain(orjson.dumps(document))


def _plain(document: bytes) -> Response:
    return Response(document, media_type="application/json")


@router.get("/studies/{study_id}/trials/{trial_id}/history", operation_id="trial_history")
def trial_history(study_id: UUID, trial_id: UUID, mine: Mine) -> list[TrialChangeOut]:
    events = trials.history_of(mine, study_id, trial_id)
    by = {e.by for e in events if e.by is not None}
    names = names_of(mine.session, by) | seats_named(mine.session, list(by))
    return [_change(e, names.get(e.by, "") if e.by else "") for e in events]


def _change(event: Event, sent_by: str) -> TrialChangeOut:
    said = event.body
    return TrialChangeOut(
        revision=event.revision, received_at=event.received_at, sent_by=sent_by, readings=[ReadingRecord.model_validate(r) for r in said["readings"]],
        level=said["level"], block=said["block"], state=said["state"], fault=said["fault"], note=said["note"],
    )  # fmt: skip


@router.post("/studies/{study_id}/readings", operation_id="look_at_reading")
def look_at_reading(study_id: UUID, body: ReadingBody, mine: Mine) -> LookedOut:
    given = ReadingRecord.model_validate(body.model_dump(exclude={"besides", "level"}))
    return LookedOut.model_validate(trials.look_at(mine, study_id, given, besides=body.besides, level=body.level))


@router.post("/studies/{study_id}/conditions", operation_id="look_at_conditions")
def look_at_conditions(study_id: UUID, body: ConditionsBody, mine: Mine) -> list[NotHeldOut]:
    """What of these conditions is not as planned; nothing is stored, the trials carry them."""
    named = [NotHeldOut(name="Who releases", says=asked_about(body.person))] if looks_like_a_name(body.person) else []
    return [*named, *(NotHeldOut.model_validate(n) for n in not_held(plan_of(mine.get(Study, study_id)), body.conditions))]
