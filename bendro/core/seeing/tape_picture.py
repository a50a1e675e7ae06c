"""A landing read off a picture of it with the tape: touched at two or three of the tape's numbers and at the mark."""

from __future__ import annotations

import math
from dataclasses import dataclass

from pydantic import Field

from ..draft import Typed
from ..errors import CoreError
from ..written import COVERS, at_place, decimals_of_step
from .found import Found
from .gate import Touched
from .marks import FEWEST_APART, Point

#: A mark further beside the line of the tape than this share of the touched stretch may have been read aslant.
BESIDE = 0.15
#: Beyond the touched numbers by more than this share of the stretch between them the tape is not read.
BEYOND = 1.0


class TapePicture(Typed):
    """numbers: two or three places of the picture with what the tape shows there, in m; mark: the landing; step_m: the tape's smallest step, m, 0 where it is
    not known; touch: standard uncertainty of a touch, points."""

    numbers: list[Touched] = Field(min_length=2, max_length=3)
    mark: Point
    step_m: float = Field(default=0.0, ge=0, le=10)
    touch: float = Field(default=1.5, gt=0, le=100)


@dataclass(frozen=True, slots=True, kw_only=True)
class TapeRead:
    """distance: rounded to the tape's step, with what the touches add. says: what is to be looked at again."""

    distance: Found
    says: tuple[str, ...]


def read_off(given: TapePicture) -> TapeRead:
    """The number of the tape at the mark. With two numbers the tape is even in the picture; with three it may run away from the camera (the projective
    line through them: Hartley & Zisserman 2004, 2.5). Raises CoreError `marks_close`, `tape_crooked`, `mark_beyond`."""
    where, beside, _ = _along(given)
    value = _number(given, where)
    u = math.sqrt(sum((_moved(given, i) - value) ** 2 for i in range(len(given.numbers) + 1)))
    step = given.step_m
    rounded = round(value / step) * step if step else value
    # rounding to the step is part of it. Source: JCGM 100:2008, F.2.2.1
    whole = math.hypot(u, step / math.sqrt(12))
    says = []
    if beside > BESIDE:
        says.append("The mark lies beside the tape: read where a line square to the tape meets it, or lay the tape nearer.")
    numbers = [n.at_m for n in given.numbers]
    if not min(numbers) <= value <= max(numbers):
        says.append("The mark lies beyond the numbers that were touched. Touch two with the mark between them.")
    if step and COVERS * u > step:
        says.append(f"From this picture the tape is read to about {1000 * COVERS * u:.0f} mm, not to its step. Go nearer, or touch numbers close to the mark.")
    places = decimals_of_step(step) if step else 3
    text = f"{at_place(rounded, places)} ± {at_place(max(COVERS * whole, 10.0**-places), places)}".replace("−", "-")
    return TapeRead(distance=Found(id="distance", name="distance on the tape", quantity="length", value=rounded, u=whole, unit="m", text=text), says=tuple(says))


def _along(given: TapePicture) -> tuple[list[float], float, float]:
    """How far the numbers and the mark lie along the line through the outer two numbers, in points, how far the mark lies beside it as a share of that
    stretch, and the stretch."""
    a, b = max(((p, q) for p in given.numbers for q in given.numbers), key=lambda pq: math.dist(_xy(pq[0].where), _xy(pq[1].where)))
    (ax, ay), (bx, by) = _xy(a.where), _xy(b.where)
    apart = math.hypot(bx - ax, by - ay)
    near = min(math.dist(_xy(p.where), _xy(q.where)) for i, p in enumerate(given.numbers) for q in given.numbers[:i])
    if near < FEWEST_APART or len({n.at_m for n in given.numbers}) < len(given.numbers):
        raise CoreError("Two of the numbers lie on each other. Touch numbers that are further apart, and type what stands there.", code="marks_close", where="numbers")
    ux, uy = (bx - ax) / apart, (by - ay) / apart
    where = [((p.x - ax) * ux + (p.y - ay) * uy) for p in (*(n.where for n in given.numbers), given.mark)]
    beside = abs((given.mark.x - ax) * uy - (given.mark.y - ay) * ux) / apart
    if not -BEYOND * apart <= where[-1] <= (1 + BEYOND) * apart:
        raise CoreError("The mark lies far beyond the numbers that were touched. Touch two numbers with the mark between them.", code="mark_beyond", where="mark")
    rank = sorted(range(len(given.numbers)), key=lambda i: where[i])
    told = [given.numbers[i].at_m for i in rank]
    if told not in (sorted(told), sorted(told, reverse=True)):
        raise CoreError("The numbers do not rise along the tape. Look at what was typed beside each touch.", code="tape_crooked", where="numbers")
    return where, beside, apart


def _xy(p: Point) -> tuple[float, float]:
    return p.x, p.y


def _number(given: TapePicture, where: list[float]) -> float:
    told, m = [n.at_m for n in given.numbers], where[-1]
    if len(told) == 2:
        return told[0] + (told[1] - told[0]) * (m - where[0]) / (where[1] - where[0])
    (x0, x1, x2), (v0, v1, v2) = where[:3], told
    if m == x1:
        return v1
    # the cross-ratio of the four places is that of the four numbers
    k = (x0 - m) * (x1 - x2) / ((x1 - m) * (x0 - x2)) * (v0 - v2) / (v1 - v2)
    return (v0 - k * v1) / (1 - k)


def _moved(given: TapePicture, i: int) -> float:
    """The number at the mark where touch i is moved by its uncertainty along the tape."""
    where, _, _ = _along(given)
    where[i if i < len(given.numbers) else -1] += given.touch
    return _number(given, where)
