"""The class comes in by a code: opening and closing for the teacher, joining for everybody."""

from __future__ import annotations

import tempfile
from datetime import datetime
from pathlib import Path
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Request, Response

from bendro.actions import seats
from bendro.actions.errors import NotAllowed
from bendro.core.rights import Role
from bendro.live.players import play
from bendro.settings import settings
from bendro.store.tables import Joining, Seat, Study

from .access import At
from .addresses import base, picture
from .needs import SEAT_COOKIE, Database, Mine, Now, Teacher
from .shapes_class import JoinBody, JoiningOut, OfferedOut, OpenBody, SeatOut

router = APIRouter(prefix="/api", tags=["class"])
#: The picture to scan: path data on a grid of modules, with a quiet border of four (ISO/IEC 18004).
#: So many times as quick as a class: a lesson of the demo is seen in a few minutes.
DEMO_SPEED = 4.0


def _out(mine: Mine, study_id: UUID, joining: Joining | None, request: Request, now: datetime) -> JoiningOut:
    in_ = [seat_out(s) for s in seats.seats_of(mine, study_id, now=now)]
    if joining is None:
        return JoiningOut(open=False, code="", until=None, address="", picture_size=0, picture="", seats=in_)
    address = f"{base(request)}/join"
    size, d = picture(f"{address}?code={joining.code}")
    return JoiningOut(open=True, code=f"{joining.code[:3]} {joining.code[3:]}", until=joining.until, address=address, picture_size=size, picture=d, seats=in_)


@router.post("/studies/{study_id}/players", operation_id="play_class", status_code=204)
def play_class(study_id: UUID, request: Request, me: Teacher, mine: Mine, now: Now) -> None:
    """In the demo: a made class comes in by the code and runs the lesson. Pressed twice it is one class."""
    mine.get(Study, study_id)
    if not me.demo:
        raise NotAllowed("A made class plays in the demo only: here it would write into your record. Sign in to the demo, or start one with bin/bendro class.", code="only_demo")
    found = seats.joining_of(mine, study_id, now=now) or seats.open_joining(mine, study_id, minutes=60, now=now)
    mine.session.commit()  # the class looks for the code at once
    play(study_id, found.code, settings().here, (settings().data or Path(tempfile.gettempdir())) / "playing", speed=DEMO_SPEED)


def seat_out(seat: Seat) -> SeatOut:
    return SeatOut.model_validate(seat)


@router.get("/studies/{study_id}/joining", operation_id="joining")
def joining(study_id: UUID, request: Request, me: Teacher, mine: Mine, now: Now) -> JoiningOut:
    """Whether the class may come in, by which code, and who is in; on which devices, the teacher alone is told."""
    found = _out(mine, study_id, seats.joining_of(mine, study_id, now=now), request, now)
    return found if me.role == "teacher" else found.model_copy(update={"seats": [s.model_copy(update={"device": ""}) for s in found.seats]})


@router.post("/studies/{study_id}/joining", operation_id="open_joining")
def open_joining(study_id: UUID, body: OpenBody, request: Request, mine: Mine, now: Now) -> JoiningOut:
    made = seats.open_joining(mine, study_id, minutes=body.minutes, also=body.also, now=now)
    mine.session.flush()
    return _out(mine, study_id, made, request, now)


@router.delete("/studies/{study_id}/joining", operation_id="close_joining")
def close_joining(study_id: UUID, request: Request, mine: Mine, now: Now) -> JoiningOut:
    """The lesson is over: the code lets nobody in, and every seat ends."""
    seats.close_joining(mine, study_id, now=now)
    mine.session.flush()
    return _out(mine, study_id, None, request, now)


@router.delete("/studies/{study_id}/seats/{seat_id}", operation_id="end_seat")
def end_seat(study_id: UUID, seat_id: UUID, request: Request, mine: Mine, now: Now) -> JoiningOut:
    seats.end_seat(mine, study_id, seat_id, now=now)
    mine.session.flush()
    return _out(mine, study_id, seats.joining_of(mine, study_id, now=now), request, now)


@router.get("/join", operation_id="look_at_code")
def look_at_code(session: Database, at: At, now: Now, code: Annotated[str, Query(max_length=40)] = "") -> list[OfferedOut]:
    """What may be chosen under this code: the lesson's studies, most often one."""
    return [OfferedOut.model_validate(one) for one in seats.look_at_code(session, code, at=at, now=now)]


@router.post("/join", operation_id="join")
def join(body: JoinBody, request: Request, response: Response, session: Database, at: At, now: Now) -> SeatOut:
    role: Role = body.role
    token, seat = seats.join(session, body.code, role=role, label=body.label, at=at, now=now, study_id=body.study_id)
    left = int((seat.until - now).total_seconds())
    response.set_cookie(SEAT_COOKIE, token, max_age=left, httponly=True, secure=request.url.scheme == "https", samesite="strict", path="/")
    return seat_out(seat)
