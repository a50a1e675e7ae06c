"""The lanes that listen to instruments: what an instrument sends is understood once and told to every screen of its study. Held in this
process only: a reading becomes a record when a screen keeps it, by the road of every trial."""

from __future__ import annotations

import asyncio
from collections.abc import Sequence
from dataclasses import dataclass, field
from uuid import UUID

from bendro.core.draft import MeasureDraft
from bendro.core.measuring.heard import Got, Heard, Listener

#: A screen that reads no more is let go of when so much waits for it.
MOST_WAITING = 200


@dataclass(slots=True)
class _Lane:
    listener: Listener
    measure: MeasureDraft
    screens: set[asyncio.Queue[Got]] = field(default_factory=set)
    kept: dict[tuple[str, tuple[float, ...]], UUID] = field(default_factory=dict)


#: So many kept readings of a lane are remembered.
MOST_KEPT = 200


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
        self._tell(lane, got)
        return got

    def claim(self, study_id: UUID, trial_id: UUID, source: str, stamps: Sequence[float]) -> UUID | None:
        """Take a reading of an instrument for a trial that is about to be kept, where it is free; the trial that had it before, None
        where none had: one release is one trial, whatever number of screens heard it."""
        lane = self._lanes.get(study_id)
        if lane is None:
            return None
        key = (source, tuple(stamps))
        before = lane.kept.get(key)
        if before is None:
            lane.kept[key] = trial_id
            while len(lane.kept) > MOST_KEPT:
                del lane.kept[next(iter(lane.kept))]
        return before

    def give_back(self, study_id: UUID, source: str, stamps: Sequence[float]) -> None:
        """The trial for which it was taken was not kept after all."""
        lane = self._lanes.get(study_id)
        if lane is not None:
            lane.kept.pop((source, tuple(stamps)), None)

    def kept(self, study_id: UUID, source: str, stamps: Sequence[float]) -> None:
        """A screen has kept a reading of an instrument: the others let go of it."""
        lane = self._lanes.get(study_id)
        if lane is not None:
            self._tell(lane, [Got(state="kept", says=f"The reading of {source} was kept on another screen.", stamps=tuple(stamps), source=source)])

    @staticmethod
    def _tell(lane: _Lane, got: Sequence[Got]) -> None:
        for queue in list(lane.screens):
            for one in got:
                try:
                    queue.put_nowait(one)
                except asyncio.QueueFull:
                    lane.screens.discard(queue)
                    break


lanes = Lanes()
