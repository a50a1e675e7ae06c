"""What a phone in the carrier felt: when its free fall began and ended, from how high it fell, how hard it landed and how long that took."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..draft import Typed
from ..errors import CoreError
from .found import Found, found, together

Numbers = NDArray[np.float64]
MOST_POINTS, FEWEST_POINTS = 12_000, 20
#: A phone that is let go feels less than this share of its weight, one that lies or is held about all of it, and a landing more than twice.
LET_GO, FREE, LANDS = 0.6, 0.35, 2.0
#: No fall is shorter, s.
SHORTEST_S = 0.08
#: A sensor shows no more than its range, a power of two times g in nearly every phone (common practice); so near to it, or so often the same, it was clipped.
RANGES_G, NEAR = (2.0, 4.0, 8.0, 16.0, 32.0, 64.0), 0.02
#: A blow is over when less than this share of its peak is felt; of fewer pictures of it than these the length cannot be told.
PULSE, FEWEST_IN_PULSE = 0.25, 4
#: Pulling at a string or the air holds it: a fall that feels more than this share of the weight on the average is not free.
HELD_BY_AIR = 0.3


class Log(Typed):
    """What the sensor told. t: in s, rising; a: how much it felt in m/s², weight included (9.8 lying still), of all three directions together."""

    t: list[float] = Field(max_length=MOST_POINTS)
    a: list[float] = Field(max_length=MOST_POINTS)


@dataclass(frozen=True, slots=True, kw_only=True)
class Felt:
    """found: numbers; says: what is said of them. release_s, land_s: by the log's clock; rate: how often a second the sensor really told."""

    found: tuple[Found, ...]
    says: tuple[str, ...]
    release_s: float
    land_s: float
    rate: float
    gap_s: float


def felt(log: Log, *, g: float) -> Felt:
    """The last drop in a log. g in m/s². Raises CoreError `log_short`, `log_times`, `log_no_fall`."""
    t, a = np.asarray(log.t, dtype=np.float64), np.asarray(log.a, dtype=np.float64)
    if len(t) != len(a) or (len(t) > 1 and not np.all(np.diff(t) > 0)):
        raise CoreError("Each value of a log needs its time, and the times must rise.", code="log_times", where="log")
    if len(t) < FEWEST_POINTS:
        raise CoreError(f"The sensor told {len(t)} times; {FEWEST_POINTS} are needed. Start the log, then drop it.", code="log_short", where="log")
    gap = float(np.median(np.diff(t)))
    low, high = _drop(t, a, gap, g)
    release, land = _between(t, a, low, LET_GO * g), _lands(t, a, high, g)
    took, u_took = land - release, together(_u_edge(gap), _u_edge(gap))
    inside = a[low + 1 : high]
    held = float(inside.mean()) / g if len(inside) else 0.0
    values = [found("fall_time", "time of the fall", "time", took, u_took)]
    says: list[str] = []
    if held > HELD_BY_AIR:
        says.append(f"While it fell it felt {100 * held:.0f} % of its weight: the air held it, so a height is not worked out.")
    else:
        values.append(found("fall_height", "height of the free fall", "length", g * took * took / 2, g * took * u_took))
    more, told = _blow(t, a, high, gap, g)
    return Felt(found=(*values, *more), says=(*says, *told), release_s=release, land_s=land, rate=1 / gap, gap_s=gap)


def _u_edge(gap: float) -> float:
    """Standard uncertainty in s of a moment that lies somewhere between two values. Source: JCGM 100:2008, 4.3.7."""
    return gap / math.sqrt(12)


def _drop(t: Numbers, a: Numbers, gap: float, g: float) -> tuple[int, int]:
    """The last value before the fall and the first of the landing: the last stretch of light that ends with a blow."""
    light = a < LET_GO * g
    found: tuple[int, int] | None = None
    start = None
    for i, now in enumerate([*light.tolist(), False]):
        if now and start is None:
            start = i
        if not now and start is not None:
            ends = min(i, len(t) - 1)
            blow = a[ends : ends + max(3, int(0.08 / gap))]
            # a sensor that tells seldom may miss a short blow: a stretch without weight that ends is a fall all the same
            landed = len(blow) > 0 and (float(blow.max()) > LANDS * g or (i < len(t) and float(np.median(a[start:i])) < FREE * g))
            if t[ends] - t[start] >= SHORTEST_S and start > 0 and landed:
                found = (start - 1, ends)
            start = None
    if found is None:
        raise CoreError("No drop was felt: it must lie still, be let go, and land. Start the log, wait a moment, and drop it.", code="log_no_fall", where="log")
    return found


def _between(t: Numbers, a: Numbers, i: int, level: float) -> float:
    """When what is felt goes through a level between value i and the next, s."""
    before, after = float(a[i]), float(a[i + 1])
    share = 0.5 if before == after else min(1.0, max(0.0, (before - level) / (before - after)))
    return float(t[i] + share * (t[i + 1] - t[i]))


def _lands(t: Numbers, a: Numbers, high: int, g: float) -> float:
    """When it touched: between the last value of the fall and the first of the blow."""
    return _between(t, a, high - 1, 1.0 * g)


def _blow(t: Numbers, a: Numbers, high: int, gap: float, g: float) -> tuple[list[Found], list[str]]:
    end = min(len(a), high + max(4, int(0.25 / gap)))
    blow = a[high - 1 : end]
    top = float(blow.max())
    clipped = _clipped(a, top, g)
    peak = int(blow.argmax())
    over = blow > max(PULSE * top, 1.3 * g)
    first = peak - next((k for k in range(peak + 1) if not over[peak - k]), peak + 1) + 1
    last = peak + next((k for k in range(len(blow) - peak) if not over[peak + k]), len(blow) - peak) - 1
    times = t[high - 1 : end]
    inside = last - first + 1
    values: list[Found] = []
    says: list[str] = []
    if clipped:
        values.append(found("peak", "greatest deceleration", "acceleration", top, 0.0, "at_least"))
        says.append(f"The sensor shows no more than {top / g:.0f} g: the blow was at least that.")
    elif inside < FEWEST_IN_PULSE:
        # between two values the greatest may have gone by
        values.append(found("peak", "greatest deceleration", "acceleration", top, 0.0, "at_least"))
        says.append(f"The blow was over within {inside if inside > 1 else 'one or two'} values of the sensor, so its peak is at least what it showed.")
    else:
        values.append(found("peak", "greatest deceleration", "acceleration", top, 0.05 * top))
    took = float(times[min(last + 1, len(times) - 1)] - times[max(first - 1, 0)]) if inside else 2 * gap
    if inside < FEWEST_IN_PULSE:
        values.append(found("stop_time", "stop time", "time", took, gap / 4, "at_most"))
    else:
        values.append(found("stop_time", "stop time", "time", took - gap, gap / math.sqrt(6)))
    return values, says


def _clipped(a: Numbers, top: float, g: float) -> bool:
    """Whether a sensor stopped at its range: the greatest stands there twice running, or lies at one of the usual ranges."""
    same = np.abs(a - top) < 1e-3 * top
    running = bool(np.any(same[1:] & same[:-1]))
    return running or any(abs(top / g - r) < NEAR * r for r in RANGES_G)


def table_of(log: Log) -> tuple[tuple[str, ...], list[list[float]]]:
    """The log as a table: names of columns with their units, and rows."""
    return ("t_s", "felt_m_s2"), [[float(f"{t:.7g}"), float(f"{a:.5g}")] for t, a in zip(log.t, log.a, strict=True)]
