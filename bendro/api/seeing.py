"""The camera, the microphone and the sensor: what they noticed becomes readings here; what they saw and heard stays on the device."""

from functools import cache
from pathlib import Path
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Response
from pydantic import Field

from bendro.actions import seeing
from bendro.actions.plans import plan_of
from bendro.core.measuring.before_keeping import step_in
from bendro.core.seeing.felt import Log
from bendro.core.seeing.gate import not_as_planned, passed
from bendro.core.seeing.motion import table_of
from bendro.core.seeing.sound import heard_time
from bendro.core.seeing.tape_picture import read_off
from bendro.instruments.made import MADE, phone_log
from bendro.store.errors import NotFound
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .building import JPEG
from .needs import Mine, Now, Teacher
from .shapes_seeing import (
    FeltBody,
    FeltOut,
    FollowedBody,
    FollowedOut,
    FoundAllOut,
    GatesBody,
    HeardTimeBody,
    KeepSeenBody,
    SeenOut,
    TapePictureBody,
    found_outs,
)

#: Of a picture among those of its trial.
Place = Annotated[int, Field(ge=1, le=seeing.MOST_PICTURES)]
router = APIRouter(prefix="/api", tags=["seeing"])
_SHIPPED = Path(__file__).resolve().parents[1] / "instruments" / "made"


def _units(owned: Owned, study_id: UUID) -> dict[str, list[str]]:
    """In which units the plan reads each quantity."""
    found: dict[str, list[str]] = {}
    for m in plan_of(owned.get(Study, study_id)).measures:
        found.setdefault(m.quantity, []).append(m.unit)
    return found


def _step(owned: Owned, study_id: UUID) -> float:
    """The smallest step of the plan's tape, m; 0 where none is agreed."""
    tape = next((m for m in plan_of(owned.get(Study, study_id)).measures if m.quantity == "length"), None)
    return 0.0 if tape is None else step_in(tape, "m")


@router.post("/studies/{study_id}/gates", operation_id="look_at_gates")
def look_at_gates(study_id: UUID, body: GatesBody, mine: Mine) -> FoundAllOut:
    """A time and, where the tape is laid, a length and a speed; nothing is stored, the trial carries them."""
    got = passed(body.gates())
    planned = seeing.apart_in_plan(mine, study_id)
    off = "" if planned is None else not_as_planned(got, *planned)
    return FoundAllOut(found=found_outs(got.found, _units(mine, study_id)), says=[s for s in (got.says, off) if s])


@router.post("/studies/{study_id}/followed", operation_id="look_at_followed")
def look_at_followed(study_id: UUID, body: FollowedBody, mine: Mine) -> FollowedOut:
    units = _units(mine, study_id)
    told = seeing.followed(body.looked, body.track, body.laid())
    columns, rows = table_of(told.motion)
    return FollowedOut(found=found_outs(told.found, units), says=list(told.says), columns=list(columns), rows=rows)


@router.post("/studies/{study_id}/tape-picture", operation_id="look_at_tape_picture")
def look_at_tape_picture(study_id: UUID, body: TapePictureBody, mine: Mine) -> FoundAllOut:
    read = read_off(body.picture(_step(mine, study_id)))
    return FoundAllOut(found=found_outs([read.distance], _units(mine, study_id)), says=list(read.says))


@router.post("/studies/{study_id}/heard-time", operation_id="look_at_heard_time")
def look_at_heard_time(study_id: UUID, body: HeardTimeBody, mine: Mine) -> FoundAllOut:
    time, says = heard_time(body.heard())
    return FoundAllOut(found=found_outs([time], _units(mine, study_id)), says=[says])


@router.post("/studies/{study_id}/felt", operation_id="look_at_felt")
def look_at_felt(study_id: UUID, body: FeltBody, mine: Mine, me: Teacher, now: Now) -> FeltOut:
    """A drop that a phone felt, told to the lanes that listen."""
    units = _units(mine, study_id)
    got = seeing.fell(body.log)
    told = seeing.tell_lane(mine, study_id, me.shown_name if me.role != "teacher" else "the phone", body.log, got, number=body.number, lane=body.lane, units=units, now=now)
    return FeltOut(found=found_outs(got.found, units), says=list(got.says), rate=got.rate, heard=told is not None, told=[g.says for g in told or []])


@router.put("/studies/{study_id}/seen/{trial_id}", operation_id="keep_seen")
def keep_seen(study_id: UUID, trial_id: UUID, body: KeepSeenBody, mine: Mine, me: Teacher, now: Now) -> SeenOut:
    return _out(seeing.keep_seen(mine, study_id, trial_id, body, own=me.seat, now=now))


def _out(seen: seeing.Seen) -> SeenOut:
    return SeenOut(trial_id=seen.trial_id, kind=seen.kind, columns=list(seen.columns), rows=[list(r) for r in seen.rows], found=found_outs(seen.found, {}), pictures=seen.pictures)


@router.get("/studies/{study_id}/seen/{trial_id}", operation_id="seen")
def seen(study_id: UUID, trial_id: UUID, mine: Mine) -> SeenOut:
    return _out(seeing.seen_of(mine, study_id, trial_id))


@router.get("/studies/{study_id}/seen", operation_id="all_seen")
def all_seen(study_id: UUID, mine: Mine) -> list[UUID]:
    """Of which trials something is kept that was followed, felt or pictured."""
    return seeing.seen_ids(mine, study_id)


@router.get("/studies/{study_id}/seen/{trial_id}/{place}", operation_id="trial_picture", response_class=Response, responses=JPEG)
def trial_picture(study_id: UUID, trial_id: UUID, place: Place, mine: Mine) -> Response:
    return Response(seeing.picture_of(mine, study_id, trial_id, place), media_type="image/jpeg")


@cache
def _made(name: str) -> bytes:
    return (_SHIPPED / name).read_bytes()


@router.get("/made/{name}", operation_id="made", response_class=Response, responses={200: {"content": {"video/webm": {}}}})
def made(name: str) -> Response:
    """A made clip, to try the camera without one."""
    if name not in MADE:
        raise NotFound("made")
    return Response(_made(f"{name}.webm"), media_type="video/webm", headers={"cache-control": "max-age=86400"})


@router.get("/made-log", operation_id="made_log")
def made_log() -> Log:
    """What a phone in a carrier told of a made drop, to try it without dropping one."""
    return phone_log()
