"""What happens to the record, told to every open screen: one connection of this process listens to PostgreSQL, whichever process wrote. A word
that is lost costs nothing: each has the running number of its event, and a screen that finds a gap, or comes back, reads the record anew."""

from __future__ import annotations

import asyncio
import contextlib
from collections import Counter, OrderedDict
from collections.abc import Awaitable, Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any
from uuid import UUID

import orjson
from psycopg import AsyncConnection, Error

CHANNEL = "bendro_event"
#: A screen that reads no more is told to come back when so much waits for it.
MOST_WAITING = 200
#: So many trials that this process has kept are told with their whole document; of others a screen asks.
REMEMBERED = 500
#: A trial that this process is keeping is looked for so often, so many seconds apart; one that another keeps is told without its document.
LOOKS, LOOK_S = 6, 0.002
#: After the connection was lost it is opened again so soon, in seconds.
AGAIN_S = 0.25


@dataclass(frozen=True, slots=True)
class Word:
    """Of one event. n: its running number; kind: as in the record, `again` when words may have been
    lost; trial: the document of a trial, None where it must be asked for; more: what is told of something that is no record (n is 0)."""

    n: int
    kind: str
    subject: str = ""
    revision: int = 0
    trial: Mapping[str, Any] | None = None
    more: Mapping[str, Any] | None = None


class Events:
    """Of one process. All calls are made on the loop's own thread."""

    def __init__(self, connect: Callable[[], Awaitable[AsyncConnection[Any]]]) -> None:
        self._connect = connect
        self._screens: dict[UUID, set[asyncio.Queue[Word]]] = {}
        self._listening: asyncio.Task[None] | None = None
        self._hears = asyncio.Event()
        self._kept: OrderedDict[tuple[str, int], Mapping[str, Any]] = OrderedDict()
        self._saving: Counter[tuple[str, int]] = Counter()

    @contextlib.contextmanager
    def saving(self, trial_id: UUID, revision: int) -> Iterator[None]:
        """While this process keeps a trial: its word may be here before its document. Words of others' trials wait for nothing."""
        key = (str(trial_id), revision)
        self._saving[key] += 1
        try:
            yield
        finally:
            self._saving[key] -= 1
            if not self._saving[key]:
                del self._saving[key]

    def remember(self, document: Mapping[str, Any]) -> None:
        """A trial that this process has just kept, as it is told."""
        if not self._screens:
            return
        self._kept[str(document["id"]), int(document["revision"])] = document
        while len(self._kept) > REMEMBERED:
            self._kept.popitem(last=False)

    @contextlib.contextmanager
    def screen(self, study_id: UUID) -> Iterator[asyncio.Queue[Word]]:
        """While a screen of this study is open: what is told to it."""
        queue: asyncio.Queue[Word] = asyncio.Queue(MOST_WAITING)
        self._screens.setdefault(study_id, set()).add(queue)
        if self._listening is None or self._listening.done():
            self._hears = asyncio.Event()
            self._listening = asyncio.create_task(self._listen())
        try:
            yield queue
        finally:
            here = self._screens.get(study_id, set())
            here.discard(queue)
            if not here:
                self._screens.pop(study_id, None)
            if not self._screens and self._listening is not None:
                self._listening.cancel()  # nobody is there: nothing is held
                self._listening = None  # whoever comes while it ends has one of its own

    async def hears(self) -> None:
        """Until this process listens: what is read of the record after this, misses nothing."""
        await self._hears.wait()

    async def _listen(self) -> None:
        while True:
            try:
                connection = await self._connect()
            except (Error, OSError):
                await asyncio.sleep(AGAIN_S)
                continue
            try:
                async with connection:
                    await connection.execute(f"listen {CHANNEL}".encode())
                    if self._hears.is_set():  # words may have been lost meanwhile
                        for study_id in list(self._screens):
                            self._tell(study_id, Word(0, "again"))
                    self._hears.set()
                    async for heard in connection.notifies():
                        await self._hear(heard.payload)
            except (Error, OSError):
                await asyncio.sleep(AGAIN_S)

    async def _hear(self, payload: str) -> None:
        said = orjson.loads(payload)
        study_id = UUID(said["study"])
        if study_id not in self._screens:
            return
        trial = None
        more = {k: said[k] for k in ("screen", "press", "got") if k in said}
        if said["kind"] == "trial":
            key = (said["subject"], said["revision"])
            trial = self._kept.get(key)
            for _ in range(LOOKS):  # the word may be here before the save that it tells of has its answer
                if trial is not None or key not in self._saving:
                    break
                await asyncio.sleep(LOOK_S)
                trial = self._kept.get(key)
        self._tell(study_id, Word(said["n"], said["kind"], said["subject"], said["revision"], trial, more or None))

    def _tell(self, study_id: UUID, word: Word) -> None:
        for queue in list(self._screens.get(study_id, ())):
            if queue.full():  # it reads no more: what waits is thrown away, and it reads the record anew when it reads again
                while not queue.empty():
                    queue.get_nowait()
                word = Word(0, "again")
            queue.put_nowait(word)
