"""Who sends, looked at before a byte of what they send is read: strangers cost nothing, and one account holds up nobody but itself."""

from __future__ import annotations

import re
import time
from collections import OrderedDict
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from http.cookies import CookieError, SimpleCookie
from typing import Any
from uuid import UUID

from psycopg import AsyncConnection
from psycopg_pool import AsyncConnectionPool

from bendro.actions.accounts import digest
from bendro.actions.instruments import as_instrument_code
from bendro.core.planning.safety import RUN_HOURS
from bendro.settings import settings
from bendro.store.connect import hot_pool

from .needs import COOKIE, SEAT_COOKIE

#: A sign-in that was seen is believed so long without another look, in seconds: it only opens the ear, the call itself looks again.
BELIEVED_S, BELIEVED = 20.0, 2_000
#: What somebody without a sign-in may send, in bytes: a name and a password, an answer; and an instrument its lines.
STRANGER_BYTES, INSTRUMENT_BYTES = 20_000, 300_000
_OPEN = {("POST", "/api/join"), ("POST", "/api/session"), ("POST", "/api/session/first"), ("POST", "/api/session/invited"), ("POST", "/api/session/demo")}
_INSTRUMENT = re.compile(r"^/api/instruments/([^/]{1,40})$")
_ACCOUNT = (
    "select i.account_id from sign_in i join workspace w on w.id = i.workspace_id"
    " where i.token_hash = %s and i.expires_at > %s and (%s or not w.demo)"
)
_SEAT = "select id from seat where token_hash = %s and ended_at is null and until > %s"
#: Who is signed in, of some; and which codes an instrument may send under, while the run of their study is open.
_SIGNED_IN = (
    "select token_hash from sign_in where token_hash = any(%s) and expires_at > %s"
    " union all select token_hash from seat where token_hash = any(%s) and until > %s and ended_at is null"
)
_LANES = (
    "select instrument_code from study s where instrument_code = any(%s) and deleted_at is null and not finished"
    " and exists (select 1 from run r where r.study_id = s.id and r.opened_at > %s)"
)


def is_open(method: str, path: str) -> bool:
    """Whether anybody may call this."""
    return (method, path) in _OPEN or path.startswith("/api/practice/")


def instrument_of(path: str) -> str | None:
    """The code under which an instrument sends, where this is what is called."""
    found = _INSTRUMENT.match(path)
    return None if found is None else found[1]


def token_of(cookies: str) -> str | None:
    """The sign-in's token among the cookies of a call."""
    return _cookie(cookies, COOKIE)


def _cookie(cookies: str, name: str) -> str | None:
    try:
        found = SimpleCookie(cookies).get(name)
    except CookieError:
        return None
    return None if found is None else found.value


async def opened() -> AsyncConnectionPool[AsyncConnection[Any]]:
    """The connections of whatever waits for no thread, opened with the first use."""
    pool = hot_pool()
    if pool.closed:
        await pool.open()
    return pool


class Visitors:
    """Of one process. Raises what the database raises when it is away."""

    def __init__(self) -> None:
        self._seen: OrderedDict[bytes, tuple[UUID, float]] = OrderedDict()

    async def account(self, cookies: str) -> UUID | None:
        """The account of a call, or the seat of a lesson; None for a stranger."""
        token, seat = token_of(cookies), _cookie(cookies, SEAT_COOKIE)
        account = await self._known(digest(token), _ACCOUNT, (datetime.now(UTC), settings().demo)) if token else None
        return account or (await self._known(digest(seat), _SEAT, (datetime.now(UTC),)) if seat else None)

    async def _known(self, key: bytes, statement: str, more: tuple[object, ...]) -> UUID | None:
        now = time.monotonic()
        seen = self._seen.get(key)
        if seen is not None and now - seen[1] < BELIEVED_S:
            return seen[0]
        row = await _first(statement, (key, *more))
        if row is None:
            self._seen.pop(key, None)
            return None
        self._seen[key] = (row[0], now)
        self._seen.move_to_end(key)
        while len(self._seen) > BELIEVED:
            self._seen.popitem(last=False)
        return UUID(str(row[0]))

    @staticmethod
    async def instrument(code: str) -> bool:
        """Whether anybody listens under this code."""
        plain = as_instrument_code(code)
        return plain is not None and plain in await open_lanes([plain])


async def signed_in(tokens: Sequence[object]) -> set[object]:
    """Which of these sign-ins, by their digests, still stand."""
    asked = (list(tokens), datetime.now(UTC))
    return {bytes(row[0]) for row in await _all(_SIGNED_IN, (*asked, *asked))}


async def open_lanes(codes: Sequence[object]) -> set[object]:
    """Which of these codes an instrument may send under now."""
    return {row[0] for row in await _all(_LANES, (list(codes), datetime.now(UTC) - timedelta(hours=RUN_HOURS)))}


async def _first(statement: str, values: tuple[object, ...]) -> Any:
    return next(iter(await _all(statement, values)), None)


async def _all(statement: str, values: tuple[object, ...]) -> list[Any]:
    async with (await opened()).connection() as connection:
        return await (await connection.execute(statement.encode(), values)).fetchall()
