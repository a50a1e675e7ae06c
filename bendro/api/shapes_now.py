"""What a screen says of itself while a run goes on, and what the desk is told."""

from __future__ import annotations

from datetime import datetime
from typing import Literal
from uuid import UUID

from pydantic import Field

from bendro.core.lanes.now import Doing, Pressed, ScreenNow

from .shapes import Answered, Body


class ScreenBody(ScreenNow):
    """As the core says (core.lanes.now)."""


class PressBody(Pressed):
    """As the core says (core.lanes.now)."""


class HandBody(Body):
    """to: another screen, None for whoever is next."""

    to: UUID | None = None


class LanesBody(Body):
    """said: a line for every lane, "" for none. last: what is let go now is the last trial of its lane."""

    stopped: bool = False
    said: str = Field(default="", max_length=300)
    last: bool = False


class LaneBody(Body):
    state: Literal["open", "paused", "closed"]
    why: str = Field(default="", max_length=300)


class TurnOfOut(Answered):
    block: int
    level: str


class ScreenOut(Answered):
    """A screen of the class as it is now. handed: "from" whom it took its turn over, "to" whom it gave it. since: when it began what it does.
    away_at: since when nothing is heard of it."""

    id: UUID
    by: UUID
    role: Literal["teacher", "colleague", "group", "timer", "wall"]
    label: str
    lane: int
    doing: Doing
    turns: list[TurnOfOut]
    half: dict[str, str]
    holds: int
    fall: UUID | None
    released_at: float | None
    doubt_s: float | None
    handed: str
    since: datetime
    away_at: datetime | None


class PressOut(Answered):
    """landed_at: None where it did not see it. seconds: that it gives, from the lane's release or its own; clock_s: by how much the clocks may differ. heard: by its microphone."""

    fall: UUID
    screen_id: UUID
    label: str
    released_at: float | None
    landed_at: float | None
    seconds: float | None
    clock_s: float
    heard: bool
    at: datetime


class ScreensOut(Answered):
    """granted: whether the turns that were asked for are the caller's."""

    screens: list[ScreenOut]
    presses: list[PressOut]
    granted: bool


class ForecastOut(Answered):
    kept: int
    planned: int
    last_at: datetime | None
    by: Literal["pace", "plan"]
    each_s: float


class LookOut(Answered):
    code: Literal["silent", "voids", "asked", "long_call", "behind"]
    says: str
    screen: UUID | None
    lane: int


class DeskOut(Answered):
    """begins, ends: of the lesson; last_call: when the lanes should let go for the last time."""

    begins: datetime
    ends: datetime
    last_call: datetime
    forecast: ForecastOut
    look: list[LookOut]
