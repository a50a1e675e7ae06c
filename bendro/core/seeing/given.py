"""What a camera and a sensor send, as it was touched and written: lengths as texts, which are read here as readings are. No picture of the scene is in any
of it but those that somebody chose to keep with a trial."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ..draft import Typed
from ..errors import CoreError
from ..readings import convert, read
from .followed import Looked
from .gate import Crossed, Gates, Touched
from .marks import Corners, Marks, Point
from .motion import Track
from .sound import HeardTime
from .tape_picture import TapePicture

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


class NumberAt(Typed):
    """A place of the picture at which the tape shows a number, as written (a bare one in m)."""

    where: Point
    at: Length

    def touched(self, where: str) -> Touched:
        """Raises ReadingRefused."""
        return Touched(where=self.where, at_m=_metres(self.at, where)[0])


class GatesGiven(Typed):
    """Two gates that were crossed, and the tape. start, end: where the middle of each line lies in the picture."""

    first: Crossed
    last: Crossed
    start: Point | None = None
    end: Point | None = None
    tape: list[NumberAt] = Field(default=[], max_length=2)
    touch: float = Field(default=1.5, ge=0, le=100)
    rate: float = Field(gt=0, le=2000)

    def gates(self) -> Gates:
        """Raises ReadingRefused."""
        return Gates(**{**dict(self), "tape": [n.touched("tape") for n in self.tape]})


class TapePictureGiven(Typed):
    """The touches on a picture of a landing."""

    numbers: list[NumberAt] = Field(min_length=2, max_length=3)
    mark: Point
    touch: float = Field(default=1.5, gt=0, le=100)

    def picture(self, step_m: float) -> TapePicture:
        """step_m: the tape's smallest step, m. Raises ReadingRefused."""
        return TapePicture(numbers=[n.touched("numbers") for n in self.numbers], mark=self.mark, step_m=step_m, touch=self.touch)


class MarksGiven(Typed):
    """Two places of the picture whose distance is known, as written."""

    a: Point
    b: Point
    apart: Length
    touch: float = Field(default=1.5, ge=0, le=100)
    lie: Literal["level", "upright", "any"] = "any"


class CornersGiven(Typed):
    """The corners of a rectangle in the picture, the lower left first and then against the clock, and its sides, as written."""

    corners: list[Point] = Field(min_length=4, max_length=4)
    wide: Length
    high: Length
    touch: float = Field(default=1.5, ge=0, le=100)


class FollowedGiven(Typed):
    """A track and by what it becomes metres: two marks, or four corners of a rectangle. looked: what is looked for in it."""

    looked: Looked
    track: Track
    marks: MarksGiven | None = None
    corners: CornersGiven | None = None

    @model_validator(mode="after")
    def _one_of(self) -> FollowedGiven:
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


class HeardOf(Typed):
    """A reading as the lane heard it from a phone: whose, and its stamps."""

    source: str = Field(max_length=60)
    stamps: list[float] = Field(max_length=12)


class HeardTimeGiven(Typed):
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


class SeenGiven(Typed):
    """What is kept beside a trial. felt: the log of which reading. pictures: JPEG files as base64 text."""

    followed: FollowedGiven | None = None
    felt: HeardOf | None = None
    pictures: list[str] = Field(default=[], max_length=8)
