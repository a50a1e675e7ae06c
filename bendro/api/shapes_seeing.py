"""What a camera and a sensor send after they have looked and felt, and what is told of it. No picture of the scene is in any of it but those that
somebody chose to keep with a trial."""

from __future__ import annotations

from typing import Annotated, Any, Literal
from uuid import UUID

from pydantic import Field, model_validator

from bendro.core.errors import CoreError
from bendro.core.readings import convert, read
from bendro.core.seeing.felt import Log
from bendro.core.seeing.followed import Looked, Track
from bendro.core.seeing.found import Found
from bendro.core.seeing.gate import Crossed, Gates, Touched
from bendro.core.seeing.marks import Corners, Marks, Point
from bendro.core.seeing.sound import HeardTime
from bendro.core.seeing.tape_picture import TapePicture

from .shapes import Answered, Body

#: What no hall or field is longer than, m; a side of a scale is never nothing.
MOST_M, SIDE = 1_000.0, 1e-3


def _metres(text: str, where: str, low: float = 0.0) -> tuple[float, float]:
    """A length as written, in m, and its standard uncertainty. What a tape shows at a mark is as good as the touch, however few digits it is written with:
    only what is written with ± is doubted. low: the least that it can be. Raises CoreError at `where`."""
    try:
        got = read(text, "length", "m")
    except CoreError as why:
        raise why.at(where) from why
    if not low <= got.to("m") <= MOST_M:
        raise CoreError(f"{text.strip()} is no length of a hall’s floor or wall. Write it like 2 m or 10 ft.", code="length_absurd", where=where)
    return got.to("m"), convert(got.standard_uncertainty, got.unit, "m") if got.half is not None else 0.0


Length = Annotated[str, Field(max_length=30)]


class NumberAtBody(Body):
    """A place of the picture at which the tape shows a number, as written (a bare one in m)."""

    where: Point
    at: Length

    def touched(self, where: str) -> Touched:
        """Raises ReadingRefused."""
        return Touched(where=self.where, at_m=_metres(self.at, where)[0])


class GatesBody(Body):
    """Two gates that were crossed, and the tape. start, end: where the middle of each line lies in the picture."""

    first: Crossed
    last: Crossed
    start: Point | None = None
    end: Point | None = None
    tape: list[NumberAtBody] = Field(default=[], max_length=2)
    touch: float = Field(default=1.5, ge=0, le=100)
    rate: float = Field(gt=0, le=2000)

    def gates(self) -> Gates:
        """Raises ReadingRefused."""
        return Gates(**{**dict(self), "tape": [n.touched("tape") for n in self.tape]})


class TapePictureBody(Body):
    """The touches on a picture of a landing."""

    numbers: list[NumberAtBody] = Field(min_length=2, max_length=3)
    mark: Point
    touch: float = Field(default=1.5, gt=0, le=100)

    def picture(self, step_m: float) -> TapePicture:
        """step_m: the tape's smallest step, m. Raises ReadingRefused."""
        return TapePicture(numbers=[n.touched("numbers") for n in self.numbers], mark=self.mark, step_m=step_m, touch=self.touch)


class MarksBody(Body):
    """Two places of the picture whose distance is known, as written."""

    a: Point
    b: Point
    apart: Length
    touch: float = Field(default=1.5, ge=0, le=100)
    lie: Literal["level", "upright", "any"] = "any"


class CornersBody(Body):
    """The corners of a rectangle in the picture, the lower left first and then against the clock, and its sides, as written."""

    corners: list[Point] = Field(min_length=4, max_length=4)
    wide: Length
    high: Length
    touch: float = Field(default=1.5, ge=0, le=100)


class FollowedBody(Body):
    """A track and by what it becomes metres: two marks, or four corners of a rectangle. looked: what is looked for in it."""

    looked: Looked
    track: Track
    marks: MarksBody | None = None
    corners: CornersBody | None = None

    @model_validator(mode="after")
    def _one_of(self) -> FollowedBody:
        if (self.marks is None) == (self.corners is None):
            raise ValueError("Give two marks or four corners")
        return self

    def laid(self) -> Marks | Corners:
        """By what it becomes metres. Raises ReadingRefused."""
        if self.marks is not None:
            apart, u = _metres(self.marks.apart, "apart", SIDE)
            return Marks(a=self.marks.a, b=self.marks.b, apart_m=apart, u=u, touch=self.marks.touch, lie=self.marks.lie)
        assert self.corners is not None, "one of them is given: the body was checked"
        wide, u = _metres(self.corners.wide, "wide", SIDE)
        return Corners(corners=self.corners.corners, wide_m=wide, high_m=_metres(self.corners.high, "high", SIDE)[0], u=u, touch=self.corners.touch)


class FeltBody(Body):
    """A phone's log. number: of its drops, 1 …; lane: of a heat, 0 where one thing falls."""

    log: Log
    number: int = Field(ge=1, le=100_000)
    lane: int = Field(default=0, ge=0, le=6)


class HeardOfBody(Body):
    """A reading as the lane heard it from a phone: whose, and its stamps."""

    source: str = Field(max_length=60)
    stamps: list[float] = Field(max_length=12)


class HeardTimeBody(Body):
    """Moments by the sound's clock, and how far the microphone was from each, as written ("" where it is not said)."""

    from_s: float = Field(ge=-1e9, le=1e9)
    to_s: float = Field(ge=-1e9, le=1e9)
    pressed: bool = False
    release: Length = ""
    land: Length = ""

    def heard(self) -> HeardTime:
        """Raises ReadingRefused."""
        release, land = (min(200.0, _metres(t, n)[0]) if t.strip() else None for t, n in ((self.release, "release"), (self.land, "land")))
        return HeardTime(from_s=self.from_s, to_s=self.to_s, pressed=self.pressed, release_m=release, land_m=land)


class KeepSeenBody(Body):
    """What is kept beside a trial. felt: the log of which reading. pictures: JPEG files as base64 text."""

    followed: FollowedBody | None = None
    felt: HeardOfBody | None = None
    pictures: list[str] = Field(default=[], max_length=8)


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
