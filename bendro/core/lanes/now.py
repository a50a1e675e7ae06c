"""What a screen of the class says of itself while a run goes on."""

from __future__ import annotations

from typing import Annotated, Literal
from uuid import UUID

from pydantic import Field

from ..draft import MOST_IN_HEAT, Typed

#: looking: nothing is called. calling: a turn is called, or something is typed for it. falling: it was let go and is timed. asked: a question
#: stands before it is kept. ready: a further phone waits for a release. timing: it has seen the release.
Doing = Literal["looking", "calling", "falling", "asked", "ready", "timing"]
#: Seconds by the server's clock, since 1970; the shortest round trip by which a clock was compared with it, in s.
ServerSeconds = Annotated[float, Field(ge=0, le=1e11)]
RoundTrip = Annotated[float, Field(ge=0, le=10)]


class TurnOf(Typed):
    """A turn by its place in the plan."""

    block: int = Field(ge=1, le=100_000)
    level: str = Field(min_length=1, max_length=60)


class ScreenNow(Typed):
    """lane: that it calls, 0 for all. turns: that it calls or has in hand, together where they are let go together. half: what is half typed, by the
    name of its place. holds: trials that wait in it. fall: a name for what is being timed, released_at when it was let go; round_trip_s: by which its clock was compared."""

    lane: int = Field(default=0, ge=0, le=24)
    doing: Doing = "looking"
    turns: list[TurnOf] = Field(default=[], max_length=MOST_IN_HEAT)
    half: dict[Annotated[str, Field(max_length=40)], Annotated[str, Field(max_length=120)]] = Field(default={}, max_length=24)
    holds: int = Field(default=0, ge=0, le=100_000)
    fall: UUID | None = None
    released_at: ServerSeconds | None = None
    round_trip_s: RoundTrip | None = None


class Pressed(Typed):
    """A further phone's press of a fall. landed_at: None where it did not see it. released_at: where it pressed the release as well.
    round_trip_s: by which its clock was compared with the server's. heard: its microphone heard the landing."""

    released_at: ServerSeconds | None = None
    landed_at: ServerSeconds | None = None
    round_trip_s: RoundTrip = 0.0
    heard: bool = False
