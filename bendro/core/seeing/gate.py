"""The camera as a gate: from the moments at which something crossed a line of the picture to a time, a length and a speed."""

from __future__ import annotations

import math
from dataclasses import dataclass

from pydantic import Field

from ..draft import Typed
from ..errors import CoreError
from ..written import COVERS
from .found import Found, found, together
from .marks import FEWEST_APART, Point

#: A gate that is off by less than this share of the length between both stands where it should.
NEAR = 0.01


class Crossed(Typed):
    """t: when, in s of the pictures' own clock; u: standard uncertainty in s."""

    t: float = Field(ge=-1e9, le=1e9)
    u: float = Field(ge=0, le=10)


class Touched(Typed):
    """A place of the picture at which the laid tape shows a number. at_m: that number in m."""

    where: Point
    at_m: float = Field(ge=-1e3, le=1e3)


class Gates(Typed):
    """Two gates and, where it is laid, the tape. start, end: where the middle of each line lies in the picture. rate: pictures a second that really came."""

    first: Crossed
    last: Crossed
    start: Point | None = None
    end: Point | None = None
    tape: list[Touched] = Field(default=[], max_length=2)
    touch: float = Field(default=1.5, ge=0, le=100)
    rate: float = Field(gt=0, le=2000)


@dataclass(frozen=True, slots=True, kw_only=True)
class Passed:
    """time, and where the tape is laid the length between the gates and the mean speed. says: one sentence of them."""

    found: tuple[Found, ...]
    says: str


def passed(gates: Gates) -> Passed:
    """What two crossings give. Raises CoreError `gates_order`, `marks_close`."""
    took = gates.last.t - gates.first.t
    if took <= 0:
        raise CoreError("The end was crossed before the start. Change the two gates, or run it the other way.", code="gates_order", where="last")
    u_took = together(gates.first.u, gates.last.u)
    values = [found("time", "time between the gates", "time", took, u_took)]
    if len(gates.tape) < 2 or gates.start is None or gates.end is None:
        return Passed(found=tuple(values), says="")
    length, u_length = _length(gates, gates.start, gates.end)
    speed = length / took
    values += [
        found("length", "length between the gates", "length", length, u_length),
        found("speed", "mean speed", "speed", speed, speed * math.hypot(u_length / length, u_took / took)),
    ]
    return Passed(found=tuple(values), says=f"{_first(values[1])} m in {_first(values[0])} s: {values[2].text} m/s")


def not_as_planned(gates: Passed, planned_m: float, u: float) -> str:
    """What is said where the gates lie further apart, or nearer, than the plan reckons with; "" where they do not or nothing is laid. planned_m, u: its length
    and standard uncertainty, m."""
    length = next((f for f in gates.found if f.id == "length"), None)
    if length is None or abs(length.value - planned_m) <= max(COVERS * together(length.u, u), NEAR * planned_m):
        return ""
    return f"The gates lie {_first(length)} m apart, and the plan reckons with {planned_m:g} m. Drag them, or its speed is wrong."


def _first(one: Found) -> str:
    return one.text.split(" ")[0]


def _length(gates: Gates, start: Point, end: Point) -> tuple[float, float]:
    """How far the gates are apart along the tape, m, with its standard uncertainty."""
    a, b = gates.tape
    dx, dy = b.where.x - a.where.x, b.where.y - a.where.y
    apart = math.hypot(dx, dy)
    if apart < FEWEST_APART or a.at_m == b.at_m:
        raise CoreError("The two numbers of the tape lie on each other. Touch two that are further apart.", code="marks_close", where="tape")
    along = [((p.x - a.where.x) * dx + (p.y - a.where.y) * dy) / apart**2 for p in (start, end)]
    scale = abs(b.at_m - a.at_m)
    share = abs(along[1] - along[0])
    if share * apart < 4:
        raise CoreError("Both gates lie at one place of the tape. Drag them apart.", code="marks_close", where="tape")
    # each touch moves its end of the scale; a gate's own place is drawn, not touched
    u_share = gates.touch / apart * math.sqrt(sum((1 - s) ** 2 + s**2 for s in along))
    return scale * share, scale * min(u_share, math.sqrt(2) * gates.touch / apart * max(1.0, share))
