"""From points of a picture to metres: two marks whose distance is known, or four corners of a rectangle whose sides are known."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..draft import Typed
from ..errors import CoreError

Points = NDArray[np.float64]
#: Fewer points of the picture than this between two marks say nothing of a distance.
FEWEST_APART = 20.0


class Point(Typed):
    """A place in a picture, in points: x to the right, y downwards."""

    x: float = Field(ge=-1e5, le=1e5)
    y: float = Field(ge=-1e5, le=1e5)


class Marks(Typed):
    """Two places `apart_m` metres apart (u: standard uncertainty, m). touch: standard uncertainty of a touch, points. lie: how they lie in the hall:
    `level` and `upright` turn the picture straight; `any` takes it as it stands."""

    a: Point
    b: Point
    apart_m: float = Field(gt=0, le=1e3)
    u: float = Field(default=0.0, ge=0, le=1e3)
    touch: float = Field(default=1.5, ge=0, le=100)
    lie: Literal["level", "upright", "any"] = "any"


class Corners(Typed):
    """A rectangle seen aslant: its corners, the lower left first and then against the clock; wide_m and high_m, its sides in m (u: standard uncertainty of
    either). touch: as of Marks."""

    corners: list[Point] = Field(min_length=4, max_length=4)
    wide_m: float = Field(gt=0, le=1e3)
    high_m: float = Field(gt=0, le=1e3)
    u: float = Field(default=0.0, ge=0, le=1e3)
    touch: float = Field(default=1.5, ge=0, le=100)


class Plane:
    """How points of a picture lie in metres: x to the right, y upwards. matrix: 3 × 3, of homogeneous points; relative: standard uncertainty of every
    length as a share of it; touch_m: of a single place, m."""

    def __init__(self, matrix: Points, relative: float, touch: float) -> None:
        self.matrix, self.relative, self.touch = matrix, relative, touch

    def metres(self, points: Points) -> Points:
        """Places in metres (n × 2) of places in points (n × 2)."""
        whole = np.column_stack([points, np.ones(len(points))]) @ self.matrix.T
        return np.asarray(whole[:, :2] / whole[:, 2:3], dtype=np.float64)

    def point_m(self, points: Points) -> float:
        """How many metres one point of the picture is, in the middle of these places."""
        middle = points.mean(axis=0)
        around = self.metres(np.array([middle, middle + np.array([1.0, 0.0]), middle + np.array([0.0, 1.0])]))
        return float(math.hypot(*(around[1] - around[0])) + math.hypot(*(around[2] - around[0]))) / 2


def plane_of(laid: Marks | Corners) -> Plane:
    """The plane in which things move. Raises CoreError `marks_close`, `corners_crossed`."""
    return _straight(laid) if isinstance(laid, Marks) else _aslant(laid)


def _straight(laid: Marks) -> Plane:
    dx, dy = laid.b.x - laid.a.x, laid.a.y - laid.b.y  # upwards
    apart = math.hypot(dx, dy)
    if apart < FEWEST_APART:
        raise CoreError("The two marks lie on each other in the picture. Touch two that are further apart.", code="marks_close", where="marks")
    k = laid.apart_m / apart
    lies = math.atan2(dy, dx)
    # turned the shorter way, so that marks touched from right to left or from the top down do not turn the picture over
    turn = {"any": 0.0, "level": _least(lies, math.pi), "upright": _least(lies - math.pi / 2, math.pi)}[laid.lie]
    c, s = math.cos(-turn), math.sin(-turn)
    first = np.array([[k, 0.0, -k * laid.a.x], [0.0, -k, k * laid.a.y], [0.0, 0.0, 1.0]])
    turned = np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])
    relative = math.hypot(math.sqrt(2) * laid.touch / apart, laid.u / laid.apart_m)
    return Plane(turned @ first, relative, laid.touch * k)


def _least(angle: float, period: float) -> float:
    return (angle + period / 2) % period - period / 2


def _aslant(laid: Corners) -> Plane:
    """The plane homography by four points. Source: Hartley & Zisserman 2004, Multiple View Geometry, 4.1 (direct linear transformation; eight equations
    for eight unknowns)."""
    seen = [(p.x, p.y) for p in laid.corners]
    if not _round(seen):
        raise CoreError("These four corners do not go round a rectangle. Touch the lower left one, the lower right, the upper right, the upper left.", code="corners_crossed", where="corners")
    real = [(0.0, 0.0), (laid.wide_m, 0.0), (laid.wide_m, laid.high_m), (0.0, laid.high_m)]
    rows, right = [], []
    for (x, y), (across, up) in zip(seen, real, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -across * x, -across * y], [0, 0, 0, x, y, 1, -up * x, -up * y]]
        right += [across, up]
    h = np.linalg.solve(np.array(rows, dtype=np.float64), np.array(right, dtype=np.float64))
    apart = min(math.dist(seen[i], seen[(i + 1) % 4]) for i in range(4))
    relative = math.hypot(math.sqrt(2) * laid.touch / apart, laid.u / min(laid.wide_m, laid.high_m))
    return Plane(np.append(h, 1.0).reshape(3, 3), relative, laid.touch * max(laid.wide_m, laid.high_m) / apart)


def _round(corners: Sequence[tuple[float, float]]) -> bool:
    """Whether four points of a picture (y downwards) go round a convex figure against the clock as it is seen, and are not on one line."""
    ways = []
    for i in range(4):
        (ax, ay), (bx, by), (cx, cy) = (corners[(i + k) % 4] for k in range(3))
        ways.append((bx - ax) * (cy - by) - (by - ay) * (cx - bx))
    return all(w < -FEWEST_APART for w in ways)
