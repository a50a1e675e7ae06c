"""One stream for each open screen: what happens to its study, as it happens."""

from __future__ import annotations

import asyncio
from datetime import UTC, datetime
from uuid import UUID

import orjson
from fastapi import APIRouter, WebSocket
from fastapi.concurrency import run_in_threadpool
from psycopg import OperationalError
from psycopg_pool import PoolTimeout
from starlette.websockets import WebSocketDisconnect

from bendro.actions.accounts import digest
from bendro.actions.analysing import newest_event
from bendro.actions.errors import Refused
from bendro.live.events import Events, Word
from bendro.live.standing import Standing, until_either
from bendro.store.connect import listening
from bendro.store.connect import session as open_session
from bendro.store.errors import NotFound
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .needs import COOKIE, SEAT_COOKIE, caller
from .visitors import signed_in

router = APIRouter(prefix="/api", tags=["running"])
#: The sign-in is none, or has ended (codes from 4000 on are a program's own).
SIGNED_OUT = 4401
told_live = Events(listening)
_SIGN_INS = Standing(signed_in, (OperationalError, PoolTimeout))


@router.websocket("/studies/{study_id}/live")
async def live(socket: WebSocket, study_id: UUID) -> None:
    """Lines of JSON: first the number of the newest event, then each event with its number, its kind and, of a trial, its document where this
    process has kept it. A screen that was away sees by the first number whether it missed anything."""
    token, seat = socket.cookies.get(COOKIE), socket.cookies.get(SEAT_COOKIE)
    with told_live.screen(study_id) as queue:
        await told_live.hears()
        try:
            newest, key = await run_in_threadpool(_newest, study_id, token, seat)
        except (NotFound, Refused):
            await socket.close(SIGNED_OUT)
            return
        await socket.accept()
        await _say(socket, Word(newest, "newest"))

        async def stay() -> None:
            while True:
                await socket.receive_text()  # a screen says nothing here; this ends when it goes

        async def tell() -> None:
            while True:
                await _say(socket, await queue.get())

        telling = asyncio.create_task(tell())
        try:
            with _SIGN_INS.held(key) as ended:
                if not await until_either(stay(), ended):
                    await socket.close(SIGNED_OUT)
        except WebSocketDisconnect:
            return
        finally:
            telling.cancel()


async def _say(socket: WebSocket, word: Word) -> None:
    said = {"n": word.n, "kind": word.kind, "subject": word.subject, "revision": word.revision, **({"trial": word.trial} if word.trial is not None else {})}
    await socket.send_text(orjson.dumps(said).decode())


def _newest(study_id: UUID, token: str | None, seat: str | None) -> tuple[int, bytes]:
    """The number of the newest event, and by what whoever listens was let in."""
    with open_session() as session:
        me = caller(session, "live", study_id, token=token, seat=seat, now=datetime.now(UTC))
        mine = Owned(session, me.workspace_id, by=me.account_id)
        mine.get(Study, study_id)
        return newest_event(mine, study_id), digest((token if me.role == "teacher" else seat) or "")
