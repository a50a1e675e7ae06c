"""One server process: the application, served at each socket that was given to it, until it is told to end."""

from __future__ import annotations

import asyncio
import contextlib
import ctypes
import gc
import os
import signal
import socket
import ssl
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import uvicorn

#: Of glibc: into how many heaps memory is divided, and how much free memory at its end is kept.
_ARENAS, _TRIM = -8, -1
#: Of prctl: a signal when the process above dies, so that nobody serves on without it.
_DIE_WITH = 1
#: A certificate that was renewed is taken up so often, in seconds.
LOOK_S = 60.0


@dataclass(frozen=True, slots=True)
class Place:
    """A socket that listens, and for https the files of its certificate and key."""

    socket: socket.socket
    certificate: tuple[Path, Path] | None = None


def spare_memory() -> None:
    """Threads share two heaps, and what is free is given back, where the library of C can: a server that once made a large answer would
    otherwise hold that memory to its end."""
    try:
        mallopt = ctypes.CDLL("libc.so.6").mallopt
    except (OSError, AttributeError):
        return
    mallopt(_ARENAS, 2)
    mallopt(_TRIM, 16_000_000)


def work_below(places: list[Place], above: int) -> None:
    """A process of several: ends with the one above it."""
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL("libc.so.6").prctl(_DIE_WITH, signal.SIGTERM, 0, 0, 0)
    if os.getppid() == above:  # it has not died meanwhile
        spare_memory()
        work(places)


def work(places: list[Place]) -> None:
    """Serve until a signal ends it."""
    from bendro.api.app import make_app

    app = make_app()
    # what was loaded stays to the end: it need not be looked through again and again while thousands of rows pass
    gc.collect()
    gc.freeze()
    gc.set_threshold(20_000, 20, 50)
    servers = [_Server(_config(app, place, first=n == 0)) for n, place in enumerate(places)]
    with asyncio.Runner(loop_factory=servers[0].config.get_loop_factory()) as runner:
        runner.run(_serve(servers, places))


async def _serve(servers: list[_Server], places: list[Place]) -> None:
    renewing = asyncio.create_task(_renewed(servers, places))

    def end(*_: object) -> None:
        for server in servers:
            server.handle_exit(signal.SIGTERM, None)

    loop = asyncio.get_running_loop()
    for one in (signal.SIGTERM, signal.SIGINT):
        loop.add_signal_handler(one, end)
    try:
        await asyncio.gather(*(server.serve([place.socket]) for server, place in zip(servers, places, strict=True)))
    finally:
        renewing.cancel()


class _Server(uvicorn.Server):
    """One of several at the same application: signals are for all of them."""

    @contextlib.contextmanager
    def capture_signals(self) -> Iterator[None]:
        yield


def _config(app: Any, place: Place, *, first: bool) -> uvicorn.Config:
    from bendro.settings import settings

    proxies = settings().proxies
    secure = {} if place.certificate is None else {"ssl_certfile": place.certificate[0], "ssl_keyfile": str(place.certificate[1])}
    return uvicorn.Config(
        app,
        lifespan="on" if first else "off",
        log_level="warning",
        access_log=False,
        proxy_headers=bool(proxies),  # from nobody else is it believed who calls
        forwarded_allow_ips=proxies,
        timeout_graceful_shutdown=5,
        ws="websockets-sansio",
        ws_max_size=64_000,  # a line of an instrument is short
        timeout_keep_alive=75,  # tablets come back every few seconds: the connection is still there
        backlog=2048,
        **secure,  # type: ignore[arg-type]
    )


async def _renewed(servers: list[_Server], places: list[Place]) -> None:
    """A certificate that was renewed is used by whoever connects from then on."""
    seen = [_stamp(place) for place in places]
    while True:
        await asyncio.sleep(LOOK_S)
        for n, (server, place) in enumerate(zip(servers, places, strict=True)):
            now = _stamp(place)
            if place.certificate is None or now == seen[n] or server.config.ssl is None:
                continue
            with contextlib.suppress(OSError, ssl.SSLError):  # written half: looked at again, and the one before still holds
                server.config.ssl.load_cert_chain(*place.certificate)
                seen[n] = now


def _stamp(place: Place) -> tuple[float, ...]:
    try:
        return () if place.certificate is None else tuple(f.stat().st_mtime for f in place.certificate)
    except OSError:
        return ()
