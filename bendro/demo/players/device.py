"""One device of the class, as a browser of it would be: it comes in by the code, listens, and says what it does."""

from __future__ import annotations

import asyncio
import contextlib
import json
import time
from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any
from uuid import uuid4

import httpx
from websockets.asyncio.client import ClientConnection, connect
from websockets.exceptions import ConnectionClosed

#: An answer may take so long, in seconds; a busy server is asked again after so long.
PATIENCE_S, AGAIN_S = 30.0, 0.5
#: A server that cannot be reached for so long is gone, in seconds.
GIVE_UP_S = 30.0
#: Round trips by which a clock is compared.
ROUNDS = 20


class Refused(Exception):
    """The server said no, with its sentence."""


class Over(Refused):
    """The seat has ended: the lesson is over, or it was sent out."""


class Device:
    """role, label: as it comes in. study, trials, screens: as they are known now; heard: called with every word of the stream."""

    def __init__(self, url: str, role: str, label: str = "") -> None:
        self.url, self.role, self.label = url.rstrip("/"), role, label
        self.screen = str(uuid4())
        self.study: dict[str, Any] = {}
        self.trials: dict[str, dict[str, Any]] = {}
        self.screens: dict[str, dict[str, Any]] = {}
        self.changed = asyncio.Event()
        self.heard: Callable[[dict[str, Any]], None] = lambda word: None
        self.over = False
        self.ahead_s, self.trip_s = 0.0, 0.0
        self._http = httpx.AsyncClient(base_url=self.url, timeout=PATIENCE_S)
        self._stream: ClientConnection | None = None
        self._listening: asyncio.Task[None] | None = None
        self._trips: dict[str, asyncio.Future[float]] = {}
        self._number = 0
        self.tablet = uuid4().hex[:24]

    async def ask(self, method: str, path: str, body: object = None) -> Any:
        """What the server answers; asked again while it is busy. Raises Refused."""
        asked = time.monotonic()
        while True:
            try:
                answer = await self._http.request(method, path, json=body)
            except httpx.TransportError as why:
                if time.monotonic() - asked > GIVE_UP_S:
                    self.over = True
                    raise Over(f"Bendro does not answer at {self.url}. Is it started, and is the address right?") from why
                await asyncio.sleep(AGAIN_S)
                continue
            if answer.status_code in (429, 503):
                await asyncio.sleep(float(answer.headers.get("Retry-After", AGAIN_S)))
                continue
            if answer.status_code == 401:
                self.over = True
                self.changed.set()
                raise Over(answer.json().get("detail", ""))
            if answer.status_code >= 400:
                told = answer.json() if answer.headers.get("content-type", "").startswith("application/") else {}
                raise Refused(told.get("detail", f"The server answered {answer.status_code}."))
            return answer.json() if answer.content else None

    async def join(self, code: str) -> None:
        """Come in. Raises Refused."""
        seat = await self.ask("POST", "/api/join", {"code": code, "role": self.role, "label": self.label})
        self.label, self._path = seat["label"], f"/api/studies/{seat['study_id']}"
        await self.look()

    async def look(self) -> None:
        """Read the study, its trials and the other screens anew."""
        self.study = await self.ask("GET", self._path)
        self.trials = {t["id"]: t for t in await self.ask("GET", f"{self._path}/trials")}
        self._take(await self.ask("GET", f"{self._path}/screens"))

    def _take(self, told: dict[str, Any]) -> None:
        self.screens = {s["id"]: s for s in told["screens"]}

    async def listen(self) -> None:
        """Follow the study until `close` or `silent`; comes back by itself."""
        self._listening = asyncio.create_task(self._follow())

    async def _follow(self) -> None:
        address = f"{self.url.replace('http', 'ws', 1)}{self._path}/live?screen={self.screen}"
        cookies = "; ".join(f"{c.name}={c.value}" for c in self._http.cookies.jar)
        while not self.over:
            with contextlib.suppress(OSError, ConnectionClosed, TimeoutError, Over):
                async with connect(address, additional_headers={"Cookie": cookies}) as stream:
                    self._stream = stream
                    async for line in stream:
                        await self._hear(json.loads(line))
            if self._stream is not None and self._stream.close_code == 4401:
                self.over = True
            self._stream = None
            self.changed.set()
            await asyncio.sleep(AGAIN_S)

    async def _hear(self, word: dict[str, Any]) -> None:
        kind = word["kind"]
        if kind == "clock":
            trip = self._trips.pop(word["subject"], None)
            if trip is not None and not trip.done():
                trip.set_result(word["at"])
            return
        if kind == "trial" and "trial" in word:
            self.trials[word["trial"]["id"]] = word["trial"]
        elif kind == "screen":
            if word.get("screen") is None:
                self.screens.pop(word["subject"], None)
            else:
                self.screens[word["subject"]] = word["screen"]
        elif kind != "press":  # also what happened before the stream stood is read
            await self.look()
        self.heard(word)
        self.changed.set()

    async def compare_clocks(self) -> None:
        """The best of many round trips: by how much the server's clock is ahead of this one's, and how long the shortest took."""
        best: tuple[float, float] | None = None
        for n in range(ROUNDS):
            if self._stream is None:
                await asyncio.sleep(0.05)
                continue
            trip: asyncio.Future[float] = asyncio.get_running_loop().create_future()
            self._trips[str(n)] = trip
            sent = time.time()
            await self._stream.send(f"clock {n}")
            with contextlib.suppress(TimeoutError):
                async with asyncio.timeout(5):
                    at = await trip
                back = time.time()
                if best is None or back - sent < best[0]:
                    best = (back - sent, at - (sent + back) / 2)
        if best is not None:
            self.trip_s, self.ahead_s = best

    async def until_something(self, at_most_s: float) -> None:
        """Until a word comes, or so long."""
        self.changed.clear()
        with contextlib.suppress(TimeoutError):
            async with asyncio.timeout(at_most_s):  # a cancel while it waits is never lost in it
                await self.changed.wait()

    async def say(self, **now: Any) -> bool:
        """What this screen does now; whether the turns that it asks for are its own."""
        told = await self.ask("PUT", f"{self._path}/screens/{self.screen}", now)
        self._take(told)
        return bool(told["granted"])

    async def press(self, fall: str, landed_at: float | None) -> None:
        await self.ask("PUT", f"{self._path}/falls/{fall}/presses/{self.screen}", {"landed_at": landed_at, "round_trip_s": self.trip_s})

    async def keep(self, body: dict[str, Any], trial: str | None = None) -> dict[str, Any]:
        """Save a trial."""
        self._number += 1
        sent = {"released_at": datetime.now(UTC).isoformat(), "tablet": self.tablet, "tablet_number": self._number, "plan_version": self.study["version"], "revision": 1, **body}
        kept: dict[str, Any] = await self.ask("PUT", f"{self._path}/trials/{trial or uuid4()}", sent)
        self.trials[kept["id"]] = kept
        return kept

    async def silent(self) -> None:
        """The battery is empty: nothing more is heard or said."""
        if self._listening is not None:
            self._listening.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await self._listening
        self._listening = self._stream = None

    async def close(self) -> None:
        self.over = True
        await self.silent()
        await self._http.aclose()
