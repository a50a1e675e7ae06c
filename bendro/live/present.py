"""Which screens are here: one whose stream stands. Its coming and going is written down and told; while it stays it is noted now and then, so
that a screen whose server process died is known to be away as well."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Coroutine, Iterator, Sequence
from contextlib import contextmanager
from uuid import UUID

from anyio.to_thread import run_sync

#: The screens that are here are noted so often, in seconds.
NOTE_S = 25.0
#: A page that is loaded anew is back at once: its going is told only when it stayed away so long, in seconds.
LINGER_S = 1.5

#: A screen: of which study, which, and whose (school; account or seat).
Known = tuple[UUID, UUID, tuple[UUID, UUID]]


class Present:
    """Of one process. All calls are made on the loop's own thread."""

    def __init__(self, tell: Callable[..., None], note: Callable[[Sequence[UUID]], None], unknown: tuple[type[Exception], ...]) -> None:
        """tell(screens, gone=…), note(screens): write it down; unknown: raised by them when the database is away, when nothing can be told."""
        self._tell, self._note, self._unknown = tell, note, unknown
        self._here: dict[UUID, tuple[Known, int]] = {}
        self._noting: asyncio.Task[None] | None = None
        self._working: set[asyncio.Task[None]] = set()

    @contextmanager
    def held(self, study_id: UUID, screen: UUID | None, whose: tuple[UUID, UUID]) -> Iterator[None]:
        """While the stream of a screen stands; of one without a name nothing is known."""
        if screen is None:
            yield
            return
        known: Known = (study_id, screen, whose)
        _, streams = self._here.get(screen, (known, 0))
        self._here[screen] = (known, streams + 1)
        self._start(self._say(known, gone=False))
        if self._noting is None or self._noting.done():
            self._noting = asyncio.create_task(self._go_on())
        try:
            yield
        finally:
            _, streams = self._here[screen]
            if streams > 1:
                self._here[screen] = (known, streams - 1)
            else:
                del self._here[screen]
                self._start(self._left(known))

    def _start(self, work: Coroutine[None, None, None]) -> None:
        task = asyncio.create_task(work)
        self._working.add(task)
        task.add_done_callback(self._working.discard)

    async def _left(self, known: Known) -> None:
        await asyncio.sleep(LINGER_S)
        if known[1] not in self._here:
            await self._say(known, gone=True)

    async def _say(self, known: Known, *, gone: bool) -> None:
        try:
            await run_sync(lambda: self._tell([known], gone=gone))
        except self._unknown:
            return  # it is noted later, or taken for away since nothing notes it

    async def _go_on(self) -> None:
        while self._here:
            await asyncio.sleep(NOTE_S)
            screens = list(self._here)
            if not screens:
                return
            try:
                await run_sync(lambda: self._note(screens))
            except self._unknown:
                continue
