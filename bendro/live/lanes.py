"""The lanes that listen to instruments: what an instrument sends is understood once and told to every screen of its study. Held in this
process only: a reading becomes a record when a screen keeps it, by the road of every trial."""

from __future__ import annotations

import asyncio
from dataclasses import dataclass, field
from uuid import UUID

from bendro.core.measuring.heard import Got, Heard, Listener
from bendro.core.planning.draft import MeasureDraft

#: A screen that reads no more is let go of when so much waits for it.
MOST_WAITING = 200


@dataclass(slots=True)
class _Lane:
    listener: Listener
    measure: MeasureDraft
    screens: set[asyncio.Queue[Got]] = field(default_factory=set)


class Lanes:
    """By study. All calls are made on the loop's own thread."""

    def __init__(self) -> None:
        self._lanes: dict[UUID, _Lane] = {}

    def listen(self, study_id: UUID, measure: MeasureDraft) -> asyncio.Queue[Got]:
        """A screen begins to listen. What it has heard of a plan that has changed since is forgotten."""
        lane = self._lanes.get(study_id)
        if lane is None or lane.measure != measure:
            lane = _Lane(listener=Listener(measure), measure=measure, screens=lane.screens if lane else set())
            self._lanes[study_id] = lane
        queue: asyncio.Queue[Got] = asyncio.Queue(MOST_WAITING)
        lane.screens.add(queue)
        return queue

    def leave(self, study_id: UUID, queue: asyncio.Queue[Got]) -> None:
        """A screen is gone; with the last one the lane is."""
        lane = self._lanes.get(study_id)
        if lane is None:
            return
        lane.screens.discard(queue)
        if not lane.screens:
            del self._lanes[study_id]

    def hear(self, study_id: UUID, event: Heard) -> list[Got] | None:
        """What an event gives, told to every screen; None when no screen listens."""
        lane = self._lanes.get(study_id)
        if lane is None:
            return None
        got = lane.listener.hear(event)
        for queue in list(lane.screens):
            for one in got:
                try:
                    queue.put_nowait(one)
                except asyncio.QueueFull:
                    lane.screens.discard(queue)
                    break
        return got


lanes = Lanes()
