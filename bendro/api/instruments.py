"""Instruments and thumbs at the lane: lines of JSON in, over HTTP or a WebSocket; what they give out to every open screen."""

from __future__ import annotations

import asyncio
import dataclasses
import json
import secrets
from collections.abc import Coroutine
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

from fastapi import APIRouter, Request, Response, WebSocket
from fastapi.concurrency import run_in_threadpool
from psycopg import OperationalError
from psycopg_pool import PoolTimeout
from pydantic import ValidationError
from starlette.websockets import WebSocketDisconnect

from bendro.actions import instruments as doing
from bendro.actions.accounts import digest, who
from bendro.actions.errors import Refused
from bendro.actions.plans import plan_of
from bendro.core.draft import MeasureDraft
from bendro.core.measuring.heard import Got, Heard, heard_by
from bendro.core.measuring.thumb import Thumb, thumb_says
from bendro.instruments.simulate import events
from bendro.live.lanes import lanes
from bendro.live.standing import Standing, until_either
from bendro.store.connect import session as open_session
from bendro.store.errors import NotFound
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .needs import COOKIE, Mine, Now
from .shapes_lane import CodeOut, SimulateBody, ThumbBody, ThumbOut
from .visitors import open_lanes, signed_in

router = APIRouter(prefix="/api", tags=["instruments"])
MOST_LINES = 500
#: Nobody is there under this code, or the sign-in is none (codes from 4000 on are a program's own).
NOT_HERE, SIGNED_OUT = 4404, 4401


_SIGN_INS = Standing(signed_in, (OperationalError, PoolTimeout))
_CODES = Standing(open_lanes, (OperationalError, PoolTimeout))


@router.post("/studies/{study_id}/instruments", operation_id="instrument_code")
def make_code(study_id: UUID, mine: Mine, anew: bool = False) -> CodeOut:
    """The code under which instruments send. anew: another one; connections under the one before end."""
    return CodeOut(code=doing.instrument_code(mine, study_id, anew=anew))


@router.post("/studies/{study_id}/instruments/simulate", operation_id="simulate_instrument")
async def simulate(study_id: UUID, body: SimulateBody, mine: Mine) -> list[dict[str, Any]]:
    """Send the events of a simulated instrument to this study's lane."""
    mine.get(Study, study_id)
    made = events(body.instrument, body.trials, seed=secrets.randbits(32), faults=body.faults, first=body.first, lanes=body.lanes)
    return [line for event in made for line in _answer(event, lanes.hear(study_id, event))]


@router.post("/instruments/{code}", operation_id="send_events", openapi_extra={"requestBody": {"content": {"text/plain": {"schema": {"type": "string"}}}}})
async def send(code: str, request: Request) -> Response:
    """Lines of JSON, one event each; the answer has a line for what became of each."""
    text = (await request.body()).decode("utf-8", "replace")
    study_id = await run_in_threadpool(_study_of, code)
    lines = [line for line in text.splitlines() if line.strip()]
    if len(lines) > MOST_LINES:
        raise Refused(f"{len(lines)} events in one message; at most {MOST_LINES} can be taken. Send them in parts.", code="events_many", where="body")
    told = [answer for line in lines for answer in _heard(study_id, line)]
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
            for answer in _heard(study_id, await socket.receive_text()):
                await socket.send_text(json.dumps(answer, ensure_ascii=False))

    with _CODES.held(doing.as_instrument_code(code)) as ended:
        await _until_ended(socket, hear(), ended, NOT_HERE)


@router.websocket("/studies/{study_id}/lane")
async def listen(socket: WebSocket, study_id: UUID) -> None:
    """A lane listens: every reading and fault of its study's instruments, as lines of JSON; until its sign-in ends."""
    token = socket.cookies.get(COOKIE)
    try:
        measure = await run_in_threadpool(_measure_of, study_id, token)
    except (NotFound, Refused):
        await socket.close(SIGNED_OUT)
        return
    await socket.accept()
    queue = lanes.listen(study_id, measure)
    sending = asyncio.create_task(_send_on(socket, queue))

    async def stay() -> None:
        while True:
            await socket.receive_text()  # a lane says nothing; this ends when it goes

    try:
        with _SIGN_INS.held(digest(token or "")) as ended:
            await _until_ended(socket, stay(), ended, SIGNED_OUT)
    finally:
        sending.cancel()
        lanes.leave(study_id, queue)


async def _until_ended(socket: WebSocket, work: Coroutine[None, None, None], ended: asyncio.Event, code: int) -> None:
    """Until whoever is there goes, or what let them in has ended: then they are told so and sent away."""
    try:
        if not await until_either(work, ended):
            await socket.close(code)
    except WebSocketDisconnect:
        return


async def _send_on(socket: WebSocket, queue: asyncio.Queue[Got]) -> None:
    while True:
        await socket.send_text(json.dumps(dataclasses.asdict(await queue.get()), ensure_ascii=False))


def _study_of(code: str) -> UUID:
    with open_session() as session:
        return doing.study_of_code(session, code, now=datetime.now(UTC))


def _measure_of(study_id: UUID, token: str | None) -> MeasureDraft:
    with open_session() as session:
        me = who(session, token, now=datetime.now(UTC))
        return heard_by(plan_of(Owned(session, me.workspace_id, by=me.account_id).get(Study, study_id)))


def _heard(study_id: UUID, line: str) -> list[dict[str, Any]]:
    try:
        event = Heard.model_validate_json(line)
    except ValidationError as why:
        first = why.errors()[0]
        where = ".".join(str(p) for p in first["loc"]) or "the line"
        return [{"n": None, "state": "refused", "says": f"{where}: {first['msg']}. A line is one event as docs/instruments.md shows."}]
    return _answer(event, lanes.hear(study_id, event))


def _answer(event: Heard, got: list[Got] | None) -> list[dict[str, Any]]:
    if got is None:
        return [{"n": event.n, "state": "nobody", "says": "No lane of this study is open. Open Run and Instruments there first."}]
    return [{"n": event.n, "state": g.state, "says": g.says} for g in got]


@router.post("/studies/{study_id}/thumbs", operation_id="practise_thumb")
def practise_thumb(study_id: UUID, body: ThumbBody, mine: Mine, now: Now) -> ThumbOut:
    return _thumb_out(body.who, doing.practise_thumb(mine, study_id, body.who, body.shown, body.pressed, now=now))


@router.get("/studies/{study_id}/thumbs", operation_id="thumbs")
def thumbs(study_id: UUID, mine: Mine) -> list[ThumbOut]:
    mine.get(Study, study_id)
    return [_thumb_out(name, t) for name, t in doing.thumbs_of(mine, study_id).items()]


def _thumb_out(name: str, thumb: Thumb) -> ThumbOut:
    return ThumbOut(who=name, bias_s=thumb.bias_s, scatter_s=thumb.scatter_s, n=thumb.n, says=thumb_says(thumb))
