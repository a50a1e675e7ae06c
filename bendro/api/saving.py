"""The roads of a save, the shortest first. Nothing is answered that is not stored.

1. What the save before it saw (the sign-in, the plan, the run) is remembered: one statement writes the trial, and writes nothing unless all
   of that still stands.
2. One look, one write.
3. Whatever is not plain (sent again, mended, drops of a specimen, no sign-in): everything is looked up.
"""

from __future__ import annotations

import dataclasses
from collections import OrderedDict
from datetime import datetime
from typing import Any
from uuid import UUID

from fastapi.concurrency import run_in_threadpool
from psycopg import AsyncConnection, OperationalError
from psycopg_pool import PoolTimeout

from bendro.actions import record, trials
from bendro.actions.accounts import digest
from bendro.actions.record import WHOLE_CLASS, Known, Save, Write
from bendro.core.errors import CoreError
from bendro.core.record import TrialRecord
from bendro.settings import settings
from bendro.store.connect import session as open_session
from bendro.store.owned import Owned
from bendro.store.trial_writes import ADD, ADD_AS_KNOWN, ADD_AS_KNOWN_SEATED, LOOK_SEATED, LOOK_SIGNED_IN, as_sent

from .needs import caller
from .trial_documents import plan_and_work, trial_document
from .visitors import opened

#: Of so many lanes it is remembered what the last save saw.
LANES_REMEMBERED = 500


@dataclasses.dataclass(frozen=True, slots=True)
class Told:
    """Whose trial it is, and the trial as it is told."""

    workspace_id: UUID
    document: dict[str, Any]


async def saved(study_id: UUID, trial_id: UUID, given: TrialRecord, token: str | None, seat: str | None, now: datetime) -> Told:
    """Store a revision of a trial, by the shortest road that it can go. Raises as `record.put_trial`, NotAllowed."""
    if given.revision == 1:
        for one, seated in ((token, False), (seat, True)):
            told = await _at_once(Lane(study_id, digest(one), seated), trial_id, given, now) if one else None
            if told is not None:
                return told
    return await run_in_threadpool(_looked_up, study_id, trial_id, given, token, seat, now)


@dataclasses.dataclass(frozen=True, slots=True)
class Lane:
    """A study as one sign-in or one seat runs it."""

    study_id: UUID
    token_hash: bytes
    seated: bool = False

    def who(self, given: TrialRecord) -> dict[str, Any]:
        """What tells whether whoever runs it may keep this trial."""
        if self.seated:
            return {"token_hash": self.token_hash, "own_group": given.group.strip().lower(), "whole_class": WHOLE_CLASS}
        return {"token_hash": self.token_hash, "demo": settings().demo}


class _Remembered(OrderedDict[Lane, Known]):
    def keep(self, lane: Lane, known: Known) -> None:
        self[lane] = known
        self.move_to_end(lane)
        while len(self) > LANES_REMEMBERED:
            self.popitem(last=False)


_known = _Remembered()


async def _at_once(lane: Lane, trial_id: UUID, given: TrialRecord, now: datetime) -> Told | None:
    """The plain case, or None with nothing done."""
    try:
        async with (await opened()).connection() as connection:
            return await _as_known(connection, lane, trial_id, given, now) or await _with_a_look(connection, lane, trial_id, given, now)
    except (OperationalError, PoolTimeout):  # the database was started again meanwhile, or all are at work: the slower road waits or tells
        return None


async def _as_known(connection: AsyncConnection[Any], lane: Lane, trial_id: UUID, given: TrialRecord, now: datetime) -> Told | None:
    known = _known.get(lane)
    if known is None:
        return None
    save = Save(workspace_id=known.workspace_id, by=known.account_id, study_id=lane.study_id, trial_id=trial_id, given=given, now=now)
    try:
        write = save.judge(known)
    except CoreError:  # by a plan that may have changed: only what stands now may refuse it
        return None
    if write.statement is not ADD or write.kept is None or write.draft.derived:
        return None
    stands = {
        "study_id": lane.study_id, "workspace_id": known.workspace_id, "version": known.version, "run_mark": known.run_mark,
        "now": now, "by": known.account_id, **lane.who(given),
    }  # fmt: skip
    done = await (await connection.execute(as_sent(ADD_AS_KNOWN_SEATED if lane.seated else ADD_AS_KNOWN), {**write.values, **stands})).fetchone()
    if done is None:
        _known.pop(lane, None)
        return None
    return _told(save, write, done)


async def _with_a_look(connection: AsyncConnection[Any], lane: Lane, trial_id: UUID, given: TrialRecord, now: datetime) -> Told | None:
    save = Save(workspace_id=lane.study_id, by=None, study_id=lane.study_id, trial_id=trial_id, given=given, now=now)
    looks = {**save.looks(), "now": now, **lane.who(given)}
    looks.pop("workspace_id")
    async with connection.transaction():
        seen = await (await connection.execute(as_sent(LOOK_SEATED if lane.seated else LOOK_SIGNED_IN), looks)).fetchone()
        if seen is None or seen.held_study is not None or seen.held_body is not None:
            return None
        save = dataclasses.replace(save, workspace_id=seen.workspace_id, by=seen.account_id)
        write = save.judge(seen)
        if write.kept is None or write.statement is None or write.draft.derived:
            return None
        done = await (await connection.execute(as_sent(write.statement), write.values)).fetchone()
        if done is None:
            return None
    if not seen.finished:
        known = Known(workspace_id=seen.workspace_id, account_id=seen.account_id, draft=seen.draft, version=seen.version, run_mark=seen.run_mark)
        _known.keep(lane, known)
    return _told(save, write, done)


def _told(save: Save, write: Write, done: Any) -> Told | None:
    kept = write.told(done)
    if kept is None:
        return None
    seen = trials.seen_at_once(write.draft, kept, save.given.conditions)
    return Told(save.workspace_id, trial_document(seen, write.draft, None, clock_off_s=save.given.clock_off_s(save.now)))


def _looked_up(study_id: UUID, trial_id: UUID, given: TrialRecord, token: str | None, seat: str | None, now: datetime) -> Told:
    with open_session() as session:
        me = caller(session, "put_trial", study_id, token=token, seat=seat, now=now)
        mine = Owned(session, me.workspace_id, by=me.account_id)
        if me.seat is not None:
            record.check_own(mine, study_id, trial_id, given, me.seat)
        kept = record.put_trial(mine, study_id, trial_id, given, now=now)
        seen = trials.one_trial(mine, study_id, kept, given.conditions)
        told = Told(me.workspace_id, trial_document(seen, *plan_and_work(mine, study_id), clock_off_s=given.clock_off_s(now)))
        session.commit()
        return told
