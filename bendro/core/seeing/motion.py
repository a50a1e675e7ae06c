"""A track in metres: where a thing was in each picture, and how quick, with the doubt of each."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..draft import Typed
from ..errors import CoreError
from .marks import Corners, Marks, Plane, plane_of

Numbers = NDArray[np.float64]
MOST_POINTS, FEWEST_POINTS = 12_000, 6
#: A place is known to no less than so many points of the picture.
LEAST_POINTS = 0.1
#: Pictures to either side from which a speed is taken.
AROUND = 3


class Track(Typed):
    """Where a thing was. t: in s, rising; x, y: in points of the picture, y downwards; lost: pictures in which it was not found are left out of
    it, and how many they were."""

    t: list[float] = Field(max_length=MOST_POINTS)
    x: list[float] = Field(max_length=MOST_POINTS)
    y: list[float] = Field(max_length=MOST_POINTS)
    lost: int = Field(default=0, ge=0, le=MOST_POINTS)


@dataclass(frozen=True, slots=True, kw_only=True)
class Motion:
    """A track in metres (x to the right, y upwards) with speed and acceleration in m/s and m/s² at each time in s. u_place, u_speed, u_acceleration:
    standard uncertainties of each, without that of the scale, which all share (relative)."""

    t: Numbers
    x: Numbers
    y: Numbers
    vx: Numbers
    vy: Numbers
    ax: Numbers
    ay: Numbers
    u_place: float
    u_speed: Numbers
    u_acceleration: Numbers
    relative: float
    gap: float

    @property
    def speed(self) -> Numbers:
        return np.hypot(self.vx, self.vy)


def motion_of(track: Track, laid: Marks | Corners) -> Motion:
    """Position, speed and acceleration against time. Each is that of a parabola laid through the places around it by least squares (Savitzky & Golay
    1964, Analytical Chemistry 36, for times that need not be even). Raises CoreError `track_short`, `track_times`, `marks_close`,
    `corners_crossed`."""
    t = np.asarray(track.t, dtype=np.float64)
    if not (len(track.t) == len(track.x) == len(track.y)):
        raise CoreError("Each place of a track needs its time.", code="track_times", where="track")
    if len(t) < FEWEST_POINTS:
        raise CoreError(f"It was found in {len(t)} pictures; {FEWEST_POINTS} are needed. Follow it through more of the clip.", code="track_short", where="track")
    if not np.all(np.diff(t) > 0):
        raise CoreError("The times of a track must rise from picture to picture.", code="track_times", where="track")
    plane = plane_of(laid)
    points = np.column_stack([track.x, track.y]).astype(np.float64)
    metres = plane.metres(points)
    n, k = len(t), min(AROUND, (len(t) - 1) // 2)
    rows = {name: np.empty(n) for name in ("vx", "vy", "ax", "ay", "x", "y", "uv", "ua")}
    scatter = _scatter(t, metres, k, plane, points)
    for i in range(n):
        low = min(max(0, i - k), n - 2 * k - 1)
        part = slice(low, low + 2 * k + 1)
        h = t[part] - t[i]
        design = np.column_stack([np.ones_like(h), h, h * h])
        inverse = np.linalg.pinv(design)
        for axis, place, v, a in ((0, "x", "vx", "ax"), (1, "y", "vy", "ay")):
            c = inverse @ metres[part, axis]
            rows[place][i], rows[v][i], rows[a][i] = c[0], c[1], 2 * c[2]
        rows["uv"][i] = scatter * float(np.linalg.norm(inverse[1]))
        rows["ua"][i] = scatter * 2 * float(np.linalg.norm(inverse[2]))
    return Motion(
        t=t, x=metres[:, 0], y=metres[:, 1], vx=rows["vx"], vy=rows["vy"], ax=rows["ax"], ay=rows["ay"], u_place=scatter,
        u_speed=rows["uv"], u_acceleration=rows["ua"], relative=plane.relative, gap=float(np.median(np.diff(t))),
    )  # fmt: skip


def _scatter(t: Numbers, metres: Numbers, k: int, plane: Plane, points: Numbers) -> float:
    """How far places lie from the curve through their neighbours, m: the middle one of all (a stop or a bounce is not scatter), for a normal one
    0.6745 of its standard deviation."""
    width = 2 * k + 1
    off = []
    for low in range(0, len(t) - width + 1):
        h = t[low : low + width] - t[low + k]
        design = np.column_stack([np.ones_like(h), h, h * h])
        for axis in (0, 1):
            c, *_ = np.linalg.lstsq(design, metres[low : low + width, axis], rcond=None)
            off.append(abs(metres[low + k, axis] - c[0]) / math.sqrt(max(1e-9, 1 - float((design @ np.linalg.pinv(design))[k, k]))))
    least = LEAST_POINTS * plane.point_m(points)
    return max(least, float(np.median(off)) / 0.6745 if off else least)


Fit = tuple[Numbers, Numbers]


def fit(t: Numbers, values: Numbers, degree: int, u_place: float) -> Fit:
    """Coefficients (lowest power first) and their standard uncertainties, by least squares with the scatter of the places, or what is left over
    where that is more."""
    design = np.vander(t, degree + 1, increasing=True)
    c, *_ = np.linalg.lstsq(design, values, rcond=None)
    left = values - design @ c
    free = max(1, len(t) - degree - 1)
    scatter = max(u_place, math.sqrt(float(left @ left) / free))
    return np.asarray(c, dtype=np.float64), np.asarray(scatter * np.sqrt(np.diag(np.linalg.pinv(design.T @ design))), dtype=np.float64)


def table_of(m: Motion) -> tuple[tuple[str, ...], list[list[float]]]:
    """The track as a table: names of columns with their units, and rows."""
    head = ("t_s", "x_m", "y_m", "vx_m_s", "vy_m_s", "ax_m_s2", "ay_m_s2", "u_speed_m_s", "u_acceleration_m_s2")
    columns: Sequence[Numbers] = (m.t, m.x, m.y, m.vx, m.vy, m.ax, m.ay, m.u_speed, m.u_acceleration)
    return head, [[float(f"{c[i]:.7g}") for c in columns] for i in range(len(m.t))]
