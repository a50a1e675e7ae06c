"""Connections that stay end when what let them in has ended: a sign-in that was ended, an instrument's code that was renewed, a run that is
over. It is looked at for all of them together, twice a second while there are any."""

from __future__ import annotations

import asyncio
from collections.abc import Awaitable, Callable, Iterator, Sequence
from contextlib import contextmanager

#: A connection outlives what let it in by so much at most, in seconds.
LOOK_S = 0.5

#: Which of these keys still stand; raises OSError or what the database raises when that cannot be told just now.
Look = Callable[[Sequence[object]], Awaitable[set[object]]]


class Standing:
    """Of one kind. All calls are made on the loop's own thread."""

    def __init__(self, look: Look, unknown: tuple[type[Exception], ...]) -> None:
        """unknown: raised by look when it cannot be told; then all stand."""
        self._look, self._unknown = look, unknown
        self._held: dict[asyncio.Event, object] = {}
        self._looking: asyncio.Task[None] | None = None

    @contextmanager
    def held(self, key: object) -> Iterator[asyncio.Event]:
        """While a connection stays: the event is set when its key stands no more."""
        ended = asyncio.Event()
        self._held[ended] = key
        if self._looking is None or self._looking.done():
            self._looking = asyncio.create_task(self._go_on())
        try:
            yield ended
        finally:
            self._held.pop(ended, None)

    async def _go_on(self) -> None:
        while self._held:
            await asyncio.sleep(LOOK_S)
            asked = list(dict.fromkeys(self._held.values()))
            try:
                stand = await self._look(asked) if asked else set()
            except self._unknown:
                continue
            for ended, key in self._held.items():
                if key in asked and key not in stand:
                    ended.set()


async def until_either(work: Awaitable[object], ended: asyncio.Event) -> bool:
    """Go on with work until it is done (True) or what let it in has ended (False); what work raises is raised."""
    working, waiting = asyncio.ensure_future(work), asyncio.ensure_future(ended.wait())
    try:
        await asyncio.wait({working, waiting}, return_when=asyncio.FIRST_COMPLETED)
        if working.done():
            working.result()
            return True
        return False
    finally:
        for task in (working, waiting):
            task.cancel()
