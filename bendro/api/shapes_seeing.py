"""What a camera and a sensor send after they have looked and felt, and what is told of it."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from pydantic import Field

from bendro.core.seeing.felt import Log
from bendro.core.seeing.found import Found
from bendro.core.seeing.given import FollowedGiven, GatesGiven, HeardTimeGiven, SeenGiven, TapePictureGiven

from .shapes import Answered, Body


class GatesBody(GatesGiven):
    """Two gates that were crossed, and the tape."""


class TapePictureBody(TapePictureGiven):
    """The touches on a picture of a landing."""


class FollowedBody(FollowedGiven):
    """A track and by what it becomes metres."""


class HeardTimeBody(HeardTimeGiven):
    """Moments by the sound's clock, and how far the microphone was from each."""


class KeepSeenBody(SeenGiven):
    """What is kept beside a trial."""


class FeltBody(Body):
    """A phone's log. number: of its drops, 1 …; lane: of a heat, 0 where one thing falls."""

    log: Log
    number: int = Field(ge=1, le=100_000)
    lane: int = Field(default=0, ge=0, le=6)


class FoundOut(Answered):
    """A number that was worked out. texts: how it is written in each unit in which the plan reads such a quantity, its own first."""

    id: str
    name: str
    quantity: str
    unit: str
    kind: str
    text: str
    value: float
    u: float
    texts: dict[str, str]


class FoundAllOut(Answered):
    found: list[FoundOut]
    says: list[str]


class FollowedOut(FoundAllOut):
    """columns and rows: the track in metres, with speeds and accelerations."""

    columns: list[str]
    rows: list[list[float]]


class FeltOut(FoundAllOut):
    """rate: how often a second the sensor told; told: what the lanes that listen made of it, one sentence each; heard: whether any does."""

    rate: float
    heard: bool
    told: list[str]


class SeenOut(Answered):
    trial_id: UUID
    kind: str
    columns: list[str]
    rows: list[list[float]]
    found: list[FoundOut]
    pictures: int


def found_out(found: Found, units: list[str]) -> FoundOut:
    """units: in which the plan reads its quantity."""
    texts = {u: found.in_unit(u) for u in dict.fromkeys([found.unit, *units])}
    return FoundOut.model_validate({**found.model_dump(), "texts": texts})


def found_outs(found: Any, units: dict[str, list[str]]) -> list[FoundOut]:
    """units: of each quantity that the plan reads."""
    return [found_out(f, units.get(f.quantity, [])) for f in found]
