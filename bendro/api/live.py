"""One stream for each open screen: what happens to its study, as it happens."""

from __future__ import annotations

import asyncio
import contextlib
import time
from collections.abc import Sequence
from datetime import UTC, datetime
from uuid import UUID

import orjson
from fastapi import APIRouter, WebSocket
from fastapi.concurrency import run_in_threadpool
from psycopg import OperationalError
from psycopg_pool import PoolTimeout
from sqlalchemy import update
from sqlalchemy.exc import OperationalError as SqlTrouble
from sqlmodel import col
from starlette.websockets import WebSocketDisconnect

from bendro.actions.accounts import digest
from bendro.actions.analysing import newest_event
from bendro.actions.errors import Refused
from bendro.actions.screens import away, leave_screen
from bendro.live.events import Events, Word
from bendro.live.present import Known, Present
from bendro.live.standing import Standing, until_either
from bendro.store.connect import listening
from bendro.store.connect import session as open_session
from bendro.store.errors import NotFound
from bendro.store.owned import Owned
from bendro.store.tables import ScreenRow, Study

from .figures import figures
from .needs import COOKIE, SEAT_COOKIE, caller
from .visitors import signed_in

router = APIRouter(prefix="/api", tags=["running"])
#: The sign-in is none, or has ended (codes from 4000 on are a program's own).
SIGNED_OUT = 4401
told_live = Events(listening)
_SIGN_INS = Standing(signed_in, (OperationalError, PoolTimeout))


@router.websocket("/studies/{study_id}/live")
async def live(socket: WebSocket, study_id: UUID, screen: UUID | None = None) -> None:
    """Lines of JSON: first the number of the newest event, then each event with its number, its kind and, of a trial, its document where this
    process has kept it. A screen that was away sees by the first number whether it missed anything. screen: the stream of this screen; while it
    stands the screen is here. A screen may ask for the server's clock: `clock` and a number, answered at once; and it says `leave` when its page goes."""
    token, seat = socket.cookies.get(COOKIE), socket.cookies.get(SEAT_COOKIE)
    with told_live.screen(study_id) as queue:
        await told_live.hears()
        try:
            newest, key, whose = await run_in_threadpool(_newest, study_id, token, seat)
        except (NotFound, Refused):
            await socket.close(SIGNED_OUT)
            return
        await socket.accept()
        await _say(socket, Word(newest, "newest"))

        async def stay() -> None:
            while True:  # this ends when the screen goes
                asked = await socket.receive_text()
                if asked == "leave" and screen is not None:
                    await run_in_threadpool(_leave, study_id, screen, whose)
                elif asked.startswith("clock ") and len(asked) < 20:
                    await socket.send_text(orjson.dumps({"n": 0, "kind": "clock", "subject": asked[6:], "revision": 0, "at": time.time()}).decode())

        async def tell() -> None:
            while True:
                word = await queue.get()
                if word.kind != "heard":  # what instruments send is told to lanes that listen to them
                    await _say(socket, word)

        telling = asyncio.create_task(tell())
        try:
            with figures().screens.track_inprogress(), _SIGN_INS.held(key) as ended, told_present.held(study_id, screen, whose):
                if not await until_either(stay(), ended):
                    await socket.close(SIGNED_OUT)
        except WebSocketDisconnect:
            return
        finally:
            telling.cancel()


async def _say(socket: WebSocket, word: Word) -> None:
    said = {"n": word.n, "kind": word.kind, "subject": word.subject, "revision": word.revision, **({"trial": word.trial} if word.trial is not None else {}), **(word.more or {})}
    await socket.send_text(orjson.dumps(said).decode())


def _newest(study_id: UUID, token: str | None, seat: str | None) -> tuple[int, bytes, tuple[UUID, UUID]]:
    """The number of the newest event, by what whoever listens was let in, and who it is (school, account or seat)."""
    with open_session() as session:
        me = caller(session, "live", study_id, token=token, seat=seat, now=datetime.now(UTC))
        mine = Owned(session, me.workspace_id, by=me.account_id)
        mine.get(Study, study_id)
        return newest_event(mine, study_id), digest((token if me.role == "teacher" else seat) or ""), (me.workspace_id, me.account_id)


def _leave(study_id: UUID, screen: UUID, whose: tuple[UUID, UUID]) -> None:
    with open_session() as session, contextlib.suppress(NotFound):
        leave_screen(Owned(session, whose[0], by=whose[1]), study_id, screen, now=datetime.now(UTC))
        session.commit()


def _present(screens: Sequence[Known], *, gone: bool) -> None:
    with open_session() as session:
        for study_id, screen_id, (workspace_id, by) in screens:
            with contextlib.suppress(NotFound):  # the study was thrown away meanwhile
                away(Owned(session, workspace_id, by=by), study_id, screen_id, gone=gone, now=datetime.now(UTC))
        session.commit()


def _heard(screens: Sequence[UUID]) -> None:
    with open_session() as session:
        session.execute(update(ScreenRow).where(col(ScreenRow.id).in_(screens)).values(seen_at=datetime.now(UTC)))
        session.commit()


told_present = Present(_present, _heard, (OperationalError, PoolTimeout, SqlTrouble))
