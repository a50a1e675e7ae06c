"""Trials as they are run and mended, and readings as they are typed."""

import asyncio
import dataclasses
from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

import orjson
from fastapi import APIRouter, Response
from fastapi.concurrency import run_in_threadpool
from psycopg import AsyncConnection, OperationalError
from psycopg_pool import PoolTimeout

from bendro.actions import record, responses, trials
from bendro.actions.accounts import digest, who
from bendro.actions.errors import Refused
from bendro.actions.plans import plan_of
from bendro.actions.record import Save
from bendro.actions.responses import Deriving
from bendro.actions.trials import ReadingSeen, TrialSeen
from bendro.core.measuring.derived import Worked
from bendro.core.measuring.heard import READS
from bendro.core.measuring.held import not_held
from bendro.core.record import ReadingRecord, TrialRecord
from bendro.core.statistics.describe import written_of
from bendro.live.lanes import lanes
from bendro.settings import settings
from bendro.store.connect import hot_pool
from bendro.store.connect import session as open_session
from bendro.store.owned import Owned
from bendro.store.tables import Event, Study
from bendro.store.trial_writes import LOOK_SIGNED_IN, as_sent

from .needs import Mine, Token
from .shapes_lane import ConditionsBody, LookedOut, NotHeldOut, ReadingBody, TrialBody, TrialChangeOut, TrialOut
from .verdicts import begin, following

router = APIRouter(prefix="/api", tags=["running"])
#: Whose trial it is, and the trial as it is told.
_Told = tuple[UUID, dict[str, Any]]
_SAME = ("block", "level", "person", "device", "version", "specimen", "rung", "practice", "heat", "answered", "state", "fault", "note", "revision")


def _out(seen: TrialSeen, work: Deriving | None, *, clock_off_s: float = 0.0) -> dict[str, Any]:
    """A trial as `TrialOut` has it. Built by hand: a page of ten thousand is not checked a second time on its way out."""
    row, released = seen.row, seen.row["released_at"]
    return {
        **{k: row[k] for k in _SAME},
        "id": str(row["id"]),
        "group": row["group_label"],
        "released_at": (released if isinstance(released, str) else released.astimezone(UTC).isoformat()).replace("+00:00", "Z"),
        "readings": [_reading(r) for r in seen.readings],
        "derived": [] if work is None or seen.place == "outside" or row["state"] != "kept" else _worked(seen, work),
        "conditions": dict(seen.conditions),
        "number": seen.number,
        "place": seen.place,
        "why": seen.why,
        "clock_off_s": clock_off_s,
    }


def _reading(r: ReadingSeen) -> dict[str, Any]:
    t = r.reading
    told = None
    if t is not None:
        told = {
            "kind": t.kind, "value": t.value, "resolution": t.resolution, "doubt": t.doubt, "timers": t.timers, "flagged": t.flagged,
            "method": t.method, "scatter": t.scatter,
        }  # fmt: skip
    return {
        "measure": r.measure, "payload": r.payload, "texts": r.texts, "unit": r.unit, "taken": r.taken, "stamps": r.stamps, "source": r.source,
        "reading": told, "words": r.words,
    }  # fmt: skip


def _worked(seen: TrialSeen, work: Deriving) -> list[dict[str, Any]]:
    made: list[dict[str, Any]] = []
    for one, got in work.at(seen).items():
        if isinstance(got, Worked):
            made.append({"id": one, "value": got.value, "text": written_of(got.value, got.doubt + got.shared, got.kind, got.unit), "says": ""})
        else:
            made.append({"id": one, "value": None, "text": "", "says": got})
    return made


def _work(mine: Owned, study_id: UUID) -> Deriving | None:
    study = mine.get(Study, study_id)
    return responses.deriving(mine, study, plan_of(study))


def trial_documents(mine: Owned, study_id: UUID, seen: Sequence[TrialSeen]) -> list[dict[str, Any]]:
    """Trials as they are told."""
    work = _work(mine, study_id)
    return [_out(t, work) for t in seen]


@router.get("/studies/{study_id}/trials", operation_id="trials", response_model=list[TrialOut])
def all_trials(study_id: UUID, mine: Mine) -> Response:
    return _json(trial_documents(mine, study_id, trials.study_trials(mine, study_id)))


@router.get("/studies/{study_id}/trials/taken-back", operation_id="taken_back", response_model=list[TrialOut])
def taken_back(study_id: UUID, mine: Mine) -> Response:
    return _json([_out(t, None) for t in trials.taken_back(mine, study_id)])


@router.put("/studies/{study_id}/trials/{trial_id}", operation_id="put_trial", response_model=TrialOut)
async def put_trial(study_id: UUID, trial_id: UUID, body: TrialBody, token: Token = None) -> Response:
    """The road of a save: one look, one write, and the answer from what was written. Whatever is not plain (sent again, mended, drops of
    a specimen, no sign-in) goes the slower road, where everything is looked up."""
    now, given = datetime.now(UTC), TrialRecord.model_construct(**dict(body))
    heard = {(r.source, tuple(r.stamps)) for r in given.readings if r.source and r.stamps and r.taken in READS} if given.state == "kept" else set()
    fresh: list[tuple[str, tuple[float, ...]]] = []
    try:
        for source, stamps in heard:
            had = lanes.claim(study_id, trial_id, source, stamps)
            if had is None:
                fresh.append((source, stamps))
            elif had != trial_id:
                raise Refused(
                    f"This reading of {source} was kept on another screen already, for the same release. Give this one up, or read the turn anew.",
                    code="reading_kept", where="readings",
                )  # fmt: skip
        done = await _saved_at_once(study_id, trial_id, given, token, now) if token else None
        if done is None:
            done = await run_in_threadpool(_saved, study_id, trial_id, given, token, now)
    except BaseException:
        for source, stamps in fresh:  # what an earlier sending of this trial holds, it keeps
            lanes.give_back(study_id, source, stamps)
        raise
    workspace_id, told = done
    for source, stamps in heard:
        lanes.kept(study_id, source, stamps)
    if following.take(study_id):  # who asked for the verdict after the last trial asks for it after this one
        asyncio.get_running_loop().run_in_executor(None, begin, workspace_id, study_id)
    return _json(told)


def _json(told: Any) -> Response:
    return Response(orjson.dumps(told), media_type="application/json")


async def _saved_at_once(study_id: UUID, trial_id: UUID, given: TrialRecord, token: str, now: datetime) -> _Told | None:
    """The plain case, or None with nothing done."""
    pool = hot_pool()
    if pool.closed:
        await pool.open()
    try:
        async with pool.connection() as connection:
            return await _plain_save(connection, study_id, trial_id, given, token, now)
    except (OperationalError, PoolTimeout):  # the database was started again meanwhile, or all are at work: the slower road waits or tells
        return None


async def _plain_save(
    connection: AsyncConnection[Any], study_id: UUID, trial_id: UUID, given: TrialRecord, token: str, now: datetime
) -> _Told | None:  # fmt: skip
    save = Save(workspace_id=study_id, by=None, study_id=study_id, trial_id=trial_id, given=given, now=now)
    looks = {**save.looks(), "token_hash": digest(token), "now": now, "demo": settings().demo}
    looks.pop("workspace_id")
    seen = await (await connection.execute(as_sent(LOOK_SIGNED_IN), looks)).fetchone()
    if seen is None or seen.held_study is not None or seen.held_body is not None:
        return None
    save = dataclasses.replace(save, workspace_id=seen.workspace_id, by=seen.account_id)
    write = save.judge(seen)
    if write.kept is None or write.statement is None or write.draft.derived:
        return None
    done = await (await connection.execute(as_sent(write.statement), write.values)).fetchone()
    kept = None if done is None else write.told(done)
    if kept is None:
        return None
    await connection.commit()
    return save.workspace_id, _out(trials.seen_at_once(write.draft, kept, given.conditions), None, clock_off_s=given.clock_off_s(now))


def _saved(study_id: UUID, trial_id: UUID, given: TrialRecord, token: str | None, now: datetime) -> _Told:
    with open_session() as session:
        me = who(session, token, now=now)
        mine = Owned(session, me.workspace_id, by=me.account_id)
        kept = record.put_trial(mine, study_id, trial_id, given, now=now)
        told = _out(trials.one_trial(mine, study_id, kept, given.conditions), _work(mine, study_id), clock_off_s=given.clock_off_s(now))
        session.commit()
        return me.workspace_id, told


@router.get("/studies/{study_id}/trials/{trial_id}/history", operation_id="trial_history")
def trial_history(study_id: UUID, trial_id: UUID, mine: Mine) -> list[TrialChangeOut]:
    return [_change(e) for e in trials.history_of(mine, study_id, trial_id)]


def _change(event: Event) -> TrialChangeOut:
    said = event.body
    return TrialChangeOut(
        revision=event.revision, received_at=event.received_at, readings=[ReadingRecord.model_validate(r) for r in said["readings"]],
        level=said["level"], block=said["block"], state=said["state"], fault=said["fault"], note=said["note"],
    )  # fmt: skip


@router.post("/studies/{study_id}/readings", operation_id="look_at_reading")
def look_at_reading(study_id: UUID, body: ReadingBody, mine: Mine) -> LookedOut:
    given = ReadingRecord.model_validate(body.model_dump(exclude={"besides", "level"}))
    return LookedOut.model_validate(trials.look_at(mine, study_id, given, besides=body.besides, level=body.level))


@router.post("/studies/{study_id}/conditions", operation_id="look_at_conditions")
def look_at_conditions(study_id: UUID, body: ConditionsBody, mine: Mine) -> list[NotHeldOut]:
    """What of these conditions is not as planned; nothing is stored, the trials carry them."""
    return [NotHeldOut.model_validate(n) for n in not_held(plan_of(mine.get(Study, study_id)), body.conditions)]
