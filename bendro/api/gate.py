"""The gate before every call: what is too large, too slow or from another page is refused before anything is held for it;
the rest is received whole, and only then let in, no more at one moment than there are connections to the database."""

from __future__ import annotations

import asyncio
import re
import socket
import time
from collections.abc import Awaitable, Callable, Iterator, MutableMapping
from functools import cache
from ipaddress import ip_address
from typing import Any
from urllib.parse import urlparse
from uuid import UUID

from fastapi.concurrency import run_in_threadpool
from fastapi.responses import JSONResponse
from psycopg import OperationalError
from psycopg.errors import ReadOnlySqlTransaction
from psycopg_pool import PoolTimeout
from starlette.datastructures import Headers, MutableHeaders

from bendro.settings import settings
from bendro.store.connect import connect_anew

from .errors import database_away, problem, unforeseen
from .figures import figures
from .visitors import INSTRUMENT_BYTES, STRANGER_BYTES, Visitors, instrument_of, is_open

Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
App = Callable[[MutableMapping[str, Any], Receive, Send], Awaitable[None]]

#: Checking a password takes tens of megabytes and a whole core: so few at one moment, in a queue apart from the class's.
PASSWORDS_AT_ONCE = 2
#: So many come in, and so many screens say what they do, at one moment.
JOINS_AT_ONCE, SCREENS_AT_ONCE = 3, 4
#: Bodies above this size are heavy calls, as are those that read or make a whole study: of one account so many at once, the others wait
#: their turn behind them; and so many of all accounts are worked on at one moment.
LARGE_BYTES, HEAVY_OF_ONE, HEAVY_AT_ONCE = 1_000_000, 2, 2
ACCOUNTS_REMEMBERED = 500
#: A browser that came by https once comes by https for so long, in seconds (RFC 6797).
SECURE_S = 31_536_000
_HEAVY = re.compile(r"^(?:PUT .*/(?:photo|package|sheet-pictures/[^/]+|seen/[^/]+)|POST /api/(?:tables|tables/study|plans|waiting)|GET .*/(?:package\.zip|study\.ods|trials\.csv|templates(?:\.svg)?))$")
#: An answer is handed on in pieces of this size, so that it lies in memory once, however slowly it is read.
PIECE_BYTES = 64_000
_WITH_PASSWORD = {
    ("POST", "/api/session"),
    ("POST", "/api/session/first"),
    ("POST", "/api/session/invited"),
    ("PUT", "/api/session/password"),
}
_PAGE_POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; media-src 'self' blob:; font-src 'self' data:; "
    "object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
)


class Full(Exception):
    """Nobody was let in within the time that one waits."""


class Slots:
    """So many at one moment; the others wait their turn, `wait_s` seconds at most. Raises Full."""

    def __init__(self, at_once: int, wait_s: float) -> None:
        self._free, self._wait_s = asyncio.Semaphore(at_once), wait_s
        self._in = self._waiting = 0

    async def __aenter__(self) -> None:
        self._waiting += 1
        try:
            async with asyncio.timeout(self._wait_s):
                await self._free.acquire()
        except TimeoutError as why:
            raise Full from why
        finally:
            self._waiting -= 1
        self._in += 1

    async def __aexit__(self, *_: object) -> None:
        self._in -= 1
        self._free.release()

    @property
    def idle(self) -> bool:
        """Whether nobody is in and nobody waits."""
        return self._in == self._waiting == 0


class Gate:
    """ASGI middleware around the application."""

    def __init__(self, app: App) -> None:
        given = settings()
        self.app = app
        self._calls = Slots(given.calls_at_once, given.wait_for_turn_s)
        self._passwords = Slots(PASSWORDS_AT_ONCE, given.wait_for_turn_s)
        self._photos = Slots(1, given.body_s)
        # a school that comes in, and what screens say of themselves, never stand before a save
        self._joins, self._now = Slots(JOINS_AT_ONCE, given.wait_for_turn_s), Slots(SCREENS_AT_ONCE, given.wait_for_turn_s)
        self._heavy = Slots(HEAVY_AT_ONCE, given.body_s)
        self._turns: dict[UUID, Slots] = {}
        self._visitors = Visitors()

    async def __call__(self, scope: MutableMapping[str, Any], receive: Receive, send: Send) -> None:
        if scope["type"] == "websocket" and not _may_connect(Headers(scope=scope)):
            await receive()
            await send({"type": "websocket.close", "code": 4403})
            return
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return

        began = time.perf_counter()

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                _add_headers(MutableHeaders(scope=message), scope["path"], secure=scope.get("scheme") == "https")
                figures().note(scope["method"], scope["path"], message["status"], time.perf_counter() - began)
            await send(message)

        refused = _refused(scope["method"], scope["path"], Headers(scope=scope))
        if refused is not None:
            await refused(scope, receive, with_headers)
        elif not scope["path"].startswith("/api"):
            await self.app(scope, receive, with_headers)
        else:
            for message in await self._call(scope, receive):
                for piece in _pieces(message):
                    await with_headers(piece)

    def _queue(self, method: str, path: str) -> Slots:
        """Where a call waits: what is heavy has a queue of its own, so that it holds up nothing but its like."""
        if (method, path) in _WITH_PASSWORD:
            return self._passwords
        if method == "PUT" and (path.endswith("/photo") or "/sheet-pictures/" in path):
            return self._photos
        if path == "/api/join":
            return self._joins
        if "/screens" in path or "/presses/" in path:
            return self._now
        return self._heavy if _is_heavy(method, path) else self._calls

    def _turn(self, account: UUID) -> Slots:
        """Where one account's heavy calls wait for each other."""
        turn = self._turns.get(account)
        if turn is None:
            turn = self._turns[account] = Slots(HEAVY_OF_ONE, settings().body_s)
            if len(self._turns) > ACCOUNTS_REMEMBERED:
                for one in [a for a, t in self._turns.items() if t.idle and a != account]:
                    del self._turns[one]
        return turn

    async def _call(self, scope: MutableMapping[str, Any], receive: Receive) -> list[Message]:
        """The whole answer to one call. It is handed on only when its slot is free again, so that a slow reader holds nothing."""
        answer: list[Message] = []

        async def collect(message: Message) -> None:
            answer.append(message)

        method, path, headers = scope["method"], scope["path"].rstrip("/"), Headers(scope=scope)
        length = int(headers.get("content-length", "0"))
        heavy = length > LARGE_BYTES or _is_heavy(method, path)
        try:
            account: UUID | None = None
            if length or heavy:
                account, refused = await self._sender(method, path, headers.get("cookie", ""), length)
                if refused is not None:
                    await refused(scope, receive, collect)
                    return answer
            if heavy and account is not None:
                async with self._turn(account):
                    await self._received(scope, receive, collect, length)
            else:
                await self._received(scope, receive, collect, length)
        except Full:
            await _busy()(scope, receive, collect)
        except (OperationalError, PoolTimeout) as why:
            await database_away(why)(scope, receive, collect)
        except Exception as error:
            answer.clear()
            if _takes_no_writes(error):  # another has taken its place: whoever calls again finds that one
                await run_in_threadpool(connect_anew)
                await database_away(error)(scope, receive, collect)
                return answer
            await unforeseen(scope["path"], error)(scope, receive, collect)
        return answer

    async def _sender(self, method: str, path: str, cookies: str, length: int) -> tuple[UUID | None, JSONResponse | None]:
        """Whose call it is, before anything that it sends is read; or the answer to one who may not send."""
        code = instrument_of(path) if method == "POST" else None
        if code is not None:
            most, known = INSTRUMENT_BYTES, await self._visitors.instrument(code)
            if not known:
                return None, problem(404, "not_found", "No study listens under this code. Open Run and Instruments there and use the code that it shows.")
        elif is_open(method, path):
            most = STRANGER_BYTES
        else:
            account = await self._visitors.account(cookies)
            return account, problem(401, "not_signed_in", "Sign in first.") if account is None else None
        if length > most:
            return None, problem(413, "too_large", f"That is {length / 1000:.0f} kB; at most {most / 1000:.0f} kB can be read here. Send less.")
        return None, None

    async def _received(self, scope: MutableMapping[str, Any], receive: Receive, collect: Send, length: int) -> None:
        """The body is received whole, and only then the call is let in."""
        try:
            body = await _whole(receive) if length else b""
        except TimeoutError:
            await problem(408, "body_slow", "What was sent did not arrive in time, and nothing of it was kept. Send it again.")(
                scope, receive, collect
            )
            return
        if body is None:  # whoever sent it has gone
            return
        held = {"type": "http.request", "body": body, "more_body": False}

        async def again() -> Message:
            nonlocal held
            given, held = held, {"type": "http.disconnect"}
            return given

        async with self._queue(scope["method"], scope["path"].rstrip("/")):
            await self.app(scope, again, collect)


def _takes_no_writes(error: BaseException) -> bool:
    return isinstance(error, ReadOnlySqlTransaction) or isinstance(getattr(error, "orig", None), ReadOnlySqlTransaction)


def _is_heavy(method: str, path: str) -> bool:
    return _HEAVY.match(f"{method} {path}") is not None


def _pieces(message: Message) -> Iterator[Message]:
    body = message.get("body", b"")
    if len(body) <= PIECE_BYTES:
        yield message
        return
    whole = memoryview(body)
    for at in range(0, len(body), PIECE_BYTES):
        yield {**message, "body": bytes(whole[at : at + PIECE_BYTES]), "more_body": at + PIECE_BYTES < len(body) or message.get("more_body", False)}


def _busy() -> JSONResponse:
    return problem(
        503, "busy", "Very many ask at this moment. Nothing is lost; it will be tried again by itself.", headers={"Retry-After": "1"}
    )


async def _whole(receive: Receive) -> bytes | None:
    """The whole body, or None when whoever sent it went away. Raises TimeoutError when it takes too long."""
    parts: list[bytes] = []
    async with asyncio.timeout(settings().body_s):
        while True:
            message = await receive()
            if message["type"] != "http.request":
                return None
            parts.append(message.get("body", b""))
            if not message.get("more_body", False):
                return b"".join(parts)


def _refused(method: str, path: str, headers: Headers) -> JSONResponse | None:
    host = headers.get("host", "")
    if not _is_ours(host):
        return problem(
            421,
            "host_unknown",
            f"Bendro does not answer to the name {_name(host)[:60]!r}. Open it under the address that the terminal shows, "
            "or start it with --name for a further name.",
        )
    length = headers.get("content-length", "0")
    most = settings().most_photo_bytes if path.endswith(("/photo", "/package", "/waiting")) or "/sheet-pictures/" in path else settings().most_body_bytes
    if not (length.isascii() and length.isdigit()):
        return problem(413, "length_unreadable", "The length of the message is not a number.")
    if int(length[:20]) > most:
        sent = f"{int(length[:20]) / 1e6:.0f} MB"
        return problem(413, "too_large", f"That is {sent}; at most {most / 1e6:.0f} MB can be read. Send a smaller file.")
    if "transfer-encoding" in headers and method in ("POST", "PUT", "PATCH"):
        return problem(413, "length_unknown", "The message does not say how long it is.")
    origin = headers.get("origin")
    if method not in ("GET", "HEAD") and origin and urlparse(origin).netloc != headers.get("host"):
        return problem(403, "other_origin", "This came from a page that is not Bendro’s.")
    return None


def _may_connect(headers: Headers) -> bool:
    """A connection that stays is opened by our own pages, or by a program that is no page and says no origin."""
    origin = headers.get("origin")
    return _is_ours(headers.get("host", "")) and (not origin or urlparse(origin).netloc == headers.get("host"))


def _name(host: str) -> str:
    """The name or number in a Host header, without its port."""
    if host.startswith("["):
        return host[1:].partition("]")[0]
    return host.rpartition(":")[0] if host.rpartition(":")[2].isdigit() and ":" in host else host


@cache
def _our_names() -> frozenset[str]:
    machine = socket.gethostname().casefold()
    further = (n.strip().casefold() for n in settings().host_names.split(","))
    return frozenset({"localhost", machine, f"{machine}.local", *further} - {""})


def _is_ours(host: str) -> bool:
    """A page of somebody else's may give its own name this machine's number and so read what only this network may: a number, or
    a name of this machine's, is asked for."""
    name = _name(host)
    try:
        ip_address(name.partition("%")[0])
    except ValueError:
        return name.casefold().rstrip(".") in _our_names()
    return True


def _add_headers(headers: MutableHeaders, path: str, *, secure: bool) -> None:
    if secure:
        headers["Strict-Transport-Security"] = f"max-age={SECURE_S}"
    headers["X-Content-Type-Options"] = "nosniff"
    headers["Referrer-Policy"] = "same-origin"
    headers.setdefault("Content-Security-Policy", _PAGE_POLICY)
    if path.startswith("/api"):
        headers.setdefault("Cache-Control", "no-store")
