"""Instruments and thumbs at the lane: lines of JSON in, over HTTP or a WebSocket; what they give out to every open screen."""

from __future__ import annotations

import asyncio
import contextlib
import dataclasses
import json
import secrets
from collections.abc import Coroutine, Sequence
from datetime import UTC, datetime
from typing import Any
from uuid import UUID, uuid4

from fastapi import APIRouter, Request, Response, WebSocket
from fastapi.concurrency import run_in_threadpool
from psycopg import OperationalError
from psycopg_pool import PoolTimeout
from pydantic import ValidationError
from sqlalchemy.exc import OperationalError as SqlTrouble
from starlette.websockets import WebSocketDisconnect

from bendro.actions import hearing
from bendro.actions import instruments as doing
from bendro.actions.accounts import digest, who
from bendro.actions.errors import Refused
from bendro.core.measuring.heard import Got, Heard
from bendro.core.measuring.thumb import Thumb, thumb_says
from bendro.instruments.simulate import events
from bendro.live.events import Word
from bendro.live.standing import Standing, until_either
from bendro.store.connect import session as open_session
from bendro.store.errors import NotFound
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .live import told_live
from .needs import COOKIE, Mine, Now
from .shapes_lane import CodeOut, SimulateBody, ThumbBody, ThumbOut
from .visitors import open_lanes, signed_in

router = APIRouter(prefix="/api", tags=["instruments"])
MOST_LINES = 500
#: Nobody is there under this code, or the sign-in is none (codes from 4000 on are a program's own).
NOT_HERE, SIGNED_OUT = 4404, 4401


_MISSED = Got(state="told", says="What instruments sent was not heard for a moment. If a trial ran meanwhile, run it again.", lost=True)
_SIGN_INS = Standing(signed_in, (OperationalError, PoolTimeout))
_CODES = Standing(open_lanes, (OperationalError, PoolTimeout))


@router.post("/studies/{study_id}/instruments", operation_id="instrument_code")
def make_code(study_id: UUID, mine: Mine, anew: bool = False) -> CodeOut:
    """The code under which instruments send. anew: another one; connections under the one before end."""
    return CodeOut(code=doing.instrument_code(mine, study_id, anew=anew))


@router.post("/studies/{study_id}/instruments/simulate", operation_id="simulate_instrument")
def simulate(study_id: UUID, body: SimulateBody, mine: Mine, now: Now) -> list[dict[str, Any]]:
    """Send the events of a simulated instrument to this study's lane."""
    mine.get(Study, study_id)
    made = events(body.instrument, body.trials, seed=secrets.randbits(32), faults=body.faults, first=body.first, lanes=body.lanes)
    return _answers(made, hearing.hear(mine.session, study_id, made, now=now))


@router.post("/instruments/{code}", operation_id="send_events", openapi_extra={"requestBody": {"content": {"text/plain": {"schema": {"type": "string"}}}}})
async def send(code: str, request: Request) -> Response:
    """Lines of JSON, one event each; the answer has a line for what became of each."""
    text = (await request.body()).decode("utf-8", "replace")
    study_id = await run_in_threadpool(_study_of, code)
    lines = [line for line in text.splitlines() if line.strip()]
    if len(lines) > MOST_LINES:
        raise Refused(f"{len(lines)} events in one message; at most {MOST_LINES} can be taken. Send them in parts.", code="events_many", where="body")
    told = await run_in_threadpool(_heard, study_id, lines)
    return Response("".join(json.dumps(t, ensure_ascii=False) + "\n" for t in told), media_type="application/jsonl")


@router.websocket("/instruments/{code}")
async def send_all_along(socket: WebSocket, code: str) -> None:
    """The same lines over a connection that stays."""
    try:
        study_id = await run_in_threadpool(_study_of, code)
    except NotFound:
        await socket.close(NOT_HERE)
        return
    await socket.accept()

    async def hear() -> None:
        while True:
            for answer in await run_in_threadpool(_heard, study_id, [await socket.receive_text()]):
                await socket.send_text(json.dumps(answer, ensure_ascii=False))

    with _CODES.held(doing.as_instrument_code(code)) as ended:
        await _until_ended(socket, hear(), ended, NOT_HERE)


@router.websocket("/studies/{study_id}/lane")
async def listen(socket: WebSocket, study_id: UUID) -> None:
    """A lane listens: every reading and fault of its study's instruments, as lines of JSON; until its sign-in ends."""
    token, screen = socket.cookies.get(COOKIE), uuid4()
    with told_live.screen(study_id) as queue:
        await told_live.hears()
        try:
            await run_in_threadpool(_listen, study_id, screen, token)
        except (NotFound, Refused):
            await socket.close(SIGNED_OUT)
            return
        await socket.accept()
        beside = [asyncio.create_task(_send_on(socket, queue)), asyncio.create_task(_still_listens(study_id, screen))]

        async def stay() -> None:
            while True:
                await socket.receive_text()  # a lane says nothing; this ends when it goes

        try:
            with _SIGN_INS.held(digest(token or "")) as ended:
                await _until_ended(socket, stay(), ended, SIGNED_OUT)
        finally:
            for task in beside:
                task.cancel()
            with contextlib.suppress(OperationalError, PoolTimeout, SqlTrouble):  # then it is taken for gone a little later
                await run_in_threadpool(_gone, study_id, screen)


async def _until_ended(socket: WebSocket, work: Coroutine[None, None, None], ended: asyncio.Event, code: int) -> None:
    """Until whoever is there goes, or what let them in has ended: then they are told so and sent away."""
    try:
        if not await until_either(work, ended):
            await socket.close(code)
    except WebSocketDisconnect:
        return


async def _send_on(socket: WebSocket, queue: asyncio.Queue[Word]) -> None:
    while True:
        word = await queue.get()
        if word.kind == "again":  # this process heard nothing for a moment
            await socket.send_text(json.dumps(dataclasses.asdict(_MISSED), ensure_ascii=False))
        elif word.kind == "heard" and word.more is not None:
            await socket.send_text(json.dumps(word.more["got"], ensure_ascii=False))


async def _still_listens(study_id: UUID, screen: UUID) -> None:
    while True:
        await asyncio.sleep(hearing.LISTENS_S / 3)
        with contextlib.suppress(OperationalError, PoolTimeout, SqlTrouble):  # said again the next time
            await run_in_threadpool(_say_still, study_id, screen)


def _study_of(code: str) -> UUID:
    with open_session() as session:
        return doing.study_of_code(session, code, now=datetime.now(UTC))


def _listen(study_id: UUID, screen: UUID, token: str | None) -> None:
    with open_session() as session:
        now = datetime.now(UTC)
        me = who(session, token, now=now)
        hearing.listen(Owned(session, me.workspace_id, by=me.account_id), study_id, screen, now=now)
        session.commit()


def _say_still(study_id: UUID, screen: UUID) -> None:
    with open_session() as session:
        hearing.still_listens(session, study_id, screen, now=datetime.now(UTC))
        session.commit()


def _gone(study_id: UUID, screen: UUID) -> None:
    with open_session() as session:
        hearing.listens_no_more(session, study_id, screen)
        session.commit()


def _heard(study_id: UUID, lines: Sequence[str]) -> list[dict[str, Any]]:
    """What becomes of each line, in their order; a line that is no event is told and holds up none of the others."""
    read = [_event(line) for line in lines]
    events = [event for event in read if isinstance(event, Heard)]
    with open_session() as session:
        given = hearing.hear(session, study_id, events, now=datetime.now(UTC)) if events else []
        session.commit()
    answers = iter([_answers([event], None if given is None else [given[n]]) for n, event in enumerate(events)])
    return [answer for one in read for answer in (next(answers) if isinstance(one, Heard) else [one])]


def _event(line: str) -> Heard | dict[str, Any]:
    try:
        return Heard.model_validate_json(line)
    except ValidationError as why:
        first = why.errors()[0]
        where = ".".join(str(p) for p in first["loc"]) or "the line"
        return {"n": None, "state": "refused", "says": f"{where}: {first['msg']}. A line is one event as docs/instruments.md shows."}


def _answers(events: Sequence[Heard], given: Sequence[Sequence[Got]] | None) -> list[dict[str, Any]]:
    if given is None:
        return [{"n": event.n, "state": "nobody", "says": "No lane of this study is open. Open Run and Instruments there first."} for event in events]
    return [{"n": event.n, "state": g.state, "says": g.says} for event, got in zip(events, given, strict=True) for g in got]


@router.post("/studies/{study_id}/thumbs", operation_id="practise_thumb")
def practise_thumb(study_id: UUID, body: ThumbBody, mine: Mine, now: Now) -> ThumbOut:
    return _thumb_out(body.who, doing.practise_thumb(mine, study_id, body.who, body.shown, body.pressed, now=now))


@router.get("/studies/{study_id}/thumbs", operation_id="thumbs")
def thumbs(study_id: UUID, mine: Mine) -> list[ThumbOut]:
    mine.get(Study, study_id)
    return [_thumb_out(name, t) for name, t in doing.thumbs_of(mine, study_id).items()]


def _thumb_out(name: str, thumb: Thumb) -> ThumbOut:
    return ThumbOut(who=name, bias_s=thumb.bias_s, scatter_s=thumb.scatter_s, n=thumb.n, says=thumb_says(thumb))
