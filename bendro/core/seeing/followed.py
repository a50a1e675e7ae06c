"""What a followed thing did: from where it was in each picture to speeds, angles, times and depths, each with its doubt."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.optimize import least_squares

from ..errors import CoreError
from .found import Found, found, together
from .marks import Corners, Marks
from .motion import AROUND, FEWEST_POINTS, Motion, Numbers, Track, fit, motion_of

Looked = Literal["fall", "launch", "slide", "impact", "spin"]
#: What can be looked for in a track, as it is said.
LOOKED: dict[Looked, str] = {
    "fall": "How it fell",
    "launch": "How it was launched",
    "slide": "How it slowed down",
    "impact": "How it was stopped",
    "spin": "How it turned",
}
#: What a family's lesson most likely looks for; a fall where it is none of these.
LIKELY: dict[str, Looked] = {"launcher": "launch", "rocket": "launch", "glider": "launch", "vehicle": "slide", "spinner": "spin", "turbine": "spin", "protector": "impact"}
#: What wanders by less than so many points of the picture stands still.
STILL_POINTS = 6.0
#: Below this share of its greatest speed a thing is at rest.
AT_REST = 0.08
#: Through so many pictures the way before a stop is laid, and so many after it are held against it.
LAID_ON, AHEAD = 16, 4
#: A turn from picture to picture beyond this share cannot be told from one the other way.
MOST_TURN = 0.4
#: Less than this share of a turn is no turning.
LEAST_TURN = 0.3
_NO_CIRCLE = "The mark does not go round in a circle in these pictures. Touch a mark on the rim and film it from straight in front."
#: Between two pictures more than so many times the usual gap, pictures are missing.
LEFT_OUT = 1.8


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What was looked for: numbers, and what is said of them."""

    found: tuple[Found, ...]
    says: tuple[str, ...]
    motion: Motion


def look(kind: Looked, track: Track, laid: Marks | Corners, *, g: float) -> Told:
    """What a track tells of one of LOOKED. g in m/s². Raises CoreError as motion_of, and `track_still` where nothing moved, `track_no_end` where what is
    looked for is not in it."""
    motion = motion_of(track, laid)
    if np.ptp(track.x) + np.ptp(track.y) < STILL_POINTS:
        raise CoreError("It did not move in these pictures. Touch what moves, and follow it to its end.", code="track_still", where="track")
    values, says = _LOOK[kind](motion, g)
    missing = [float(d) for d in np.diff(motion.t) if d > LEFT_OUT * motion.gap]
    notes = list(says)
    if track.lost or missing:
        notes.append(f"It was not found in {track.lost or len(missing)} of the pictures; what lies between is laid through.")
    return Told(found=tuple(values), says=tuple(notes), motion=motion)


def _moving(m: Motion) -> slice:
    """From the first to the last picture in which it moves, for good: what went before it was let go and after it lay still is left out."""
    quick = np.flatnonzero(m.speed > max(AT_REST * float(m.speed.max()), 2 * float(np.median(m.u_speed))))
    return slice(int(quick[0]), int(quick[-1]) + 1) if len(quick) else slice(0, len(m.t))


def _falls(m: Motion) -> slice:
    """The pictures from when it was let go to just before it was stopped: the longest stretch in which it goes down."""
    down = -m.vy > max(AT_REST * float(np.max(-m.vy)), 2 * float(np.median(m.u_speed)))
    best, start = (0, 0), None
    for i, goes in enumerate([*down.tolist(), False]):
        if goes and start is None:
            start = i
        if not goes and start is not None:
            best, start = max(best, (start, i), key=lambda p: p[1] - p[0]), None
    low, high = best
    if high - low < FEWEST_POINTS:
        raise CoreError("There is no fall in this track. Follow it from before it is let go until it is down.", code="track_no_end", where="track")
    # a place near the landing is laid through by places after it, and one near the release by places at rest: those are left out
    end = high if high == len(m.t) else _before_stop(m, low, high)
    return slice(low + (AROUND if low > 0 and high - low > 3 * AROUND else 0), max(end, low + FEWEST_POINTS))


def _before_stop(m: Motion, low: int, high: int) -> int:
    """The picture after the last that lies on the way of those before it: the next ones lie further and further above that way, laid on."""
    for end in range(low + FEWEST_POINTS, high):
        part = slice(max(low, end - LAID_ON), end)
        t = m.t[part] - m.t[end - 1]
        c, u = fit(t, m.y[part], 2 if len(t) > FEWEST_POINTS else 1, m.u_place)
        for ahead in range(end, min(end + AHEAD, len(m.t))):
            h = float(m.t[ahead] - m.t[end - 1])
            doubt = math.hypot(m.u_place, *(float(v) * h**i for i, v in enumerate(u)))
            if float(m.y[ahead]) - float(np.polyval(c[::-1], h)) > 6 * doubt:
                return end
    return high


def _fall(m: Motion, g: float) -> tuple[list[Found], list[str]]:
    part = _falls(m)
    t, y, v = m.t[part] - m.t[part][0], m.y[part], -m.vy[part]
    c, u = fit(t, -y, 2, m.u_place)
    a, u_a = 2 * float(c[2]), together(2 * float(u[2]), 2 * float(c[2]) * m.relative)
    third = max(FEWEST_POINTS, len(t) // 3)
    late, u_late = fit(t[-third:] - t[-1], -y[-third:], 1 if len(t) <= third else 2, m.u_place)
    end, u_end = float(late[1]), together(float(u_late[1]), float(late[1]) * m.relative)
    ends, told, at = _whole_fall(m, part)
    if at is not None and len(late) > 1:  # the last pictures are left out of the way; its speed at the touch is that of the way, laid on
        h = at - float(m.t[part][-1])
        end, u_end = float(np.polyval(np.polyder(late[::-1]), h)), together(u_end, (float(u_late[2]) if len(late) > 2 else 0.0) * 2 * h)
    values = [found("end_speed", "speed at the touch" if at is not None else "speed in the last picture of the fall", "speed", end, u_end), *ends]
    steady, u_steady = fit(t[-third:] - t[-1], -y[-third:], 1, m.u_place)
    gains = float(late[2]) * 2 * float(t[-1] - t[-third]) if len(late) > 2 else 0.0
    u_gains = float(u_late[2]) * 2 * float(t[-1] - t[-third]) if len(late) > 2 else math.inf
    reached = abs(gains) <= 0.06 * abs(end) + u_gains and u_gains < 0.25 * abs(end) and a < 0.7 * g
    if reached:
        values.insert(0, found("terminal_speed", "terminal speed", "speed", float(steady[1]), together(float(u_steady[1]), float(steady[1]) * m.relative)))
        return values, ["It no longer gains speed at the end: this is its terminal speed, as nearly as these pictures tell.", *told]
    values.insert(0, found("acceleration", "acceleration of the fall", "acceleration", a, u_a))
    grew = float(v[-1] - v[0])
    says = f"It still gains speed at the end ({gains:.2g} m/s over the last third): no terminal speed yet." if grew > 0 and a < 0.85 * g else "It gains speed evenly: the air hardly holds it."
    return values, [says, *told]


def _whole_fall(m: Motion, part: slice) -> tuple[list[Found], list[str], float | None]:
    """Time and height from the release to the first touch, where both are in the track: when its speed was nothing, and where its way bends; and when it
    touched, s."""
    not_told = "The {} is not in the track, so how long it fell is not told. Follow it from before it is let go until it lies still."
    if part.stop >= len(m.t) - 1:
        return [], [not_told.format("landing")], None
    early = slice(part.start, min(part.stop, part.start + max(FEWEST_POINTS, (part.stop - part.start) // 2)))
    t0 = float(m.t[early.start])
    c, u = fit(m.t[early] - t0, -m.y[early], 2, m.u_place)
    if c[2] <= 0:
        return [], [], None
    released = t0 - float(c[1] / (2 * c[2]))
    if released < float(m.t[0]) - m.gap / 2:
        return [], [not_told.format("release")], None
    u_released = together(float(u[1] / (2 * c[2])), float(c[1] * u[2] / (2 * c[2] ** 2)), 0.1 * m.gap)
    before = slice(max(part.start, part.stop - LAID_ON), part.stop)
    t1 = float(m.t[part.stop - 1])
    late, _ = fit(m.t[before] - t1, -m.y[before], 2 if part.stop - before.start > FEWEST_POINTS else 1, m.u_place)
    low = part.stop - 1 + int(np.argmin(m.y[part.stop - 1 :][: _until_rest(m, part.stop)]))
    stop = _stopped(m, late, slice(before.start, min(len(m.t), low + 2)), t1)
    touched, u_touched, place = t1 + stop.at, stop.u_at, -float(np.polyval(late[::-1], stop.at))
    if stop.took < 4 * m.gap:  # stopped at once, or nearly: where it lies then is where it touched
        place = float(m.y[low])
        speed = float(np.polyval(np.polyder(late[::-1]), stop.at))
        h = stop.at
        for _ in range(20):
            h -= (float(np.polyval(late[::-1], h)) + place) / max(1e-6, float(np.polyval(np.polyder(late[::-1]), h)))
        touched, u_touched = t1 + h, together(2 * m.u_place / max(1e-6, speed), stop.took / 8)
    height = -float(np.polyval(c[::-1], released - t0)) - place
    return [
        found("fall_time", "time of the fall, release to touch", "time", touched - released, together(u_released, u_touched, 0.1 * m.gap)),
        found("fall_height", "height of the fall", "length", height, together(math.sqrt(2) * m.u_place, height * m.relative)),
    ], [], touched


def _launch(m: Motion, g: float) -> tuple[list[Found], list[str]]:
    part = _flight(m)
    t = m.t[part] - m.t[part][0]
    (x, ux), (y, uy) = fit(t, m.x[part], 1, m.u_place), fit(t, m.y[part], 2, m.u_place)
    vx, vy = float(x[1]), float(y[1])
    speed = math.hypot(vx, vy)
    u_speed = together(together(vx * float(ux[1]), vy * float(uy[1])) / speed, speed * m.relative)
    angle = math.degrees(math.atan2(vy, abs(vx)))
    u_angle = math.degrees(together(vx * float(uy[1]), vy * float(ux[1])) / speed**2)
    values = [found("launch_speed", "launch speed", "speed", speed, u_speed), found("launch_angle", "launch angle", "angle", angle, u_angle)]
    down = -2 * float(y[2])
    says = [] if abs(down - g) <= max(4 * together(2 * float(uy[2]), down * m.relative), 0.1 * g) else [f"It came down with {down:.1f} m/s², not with {g:.1f}: the picture is not straight, the scale is wrong, or the air carried it."]
    if vy > 0 and down > 0 and vy / down <= float(t[-1]):
        apex = vy * vy / (2 * down)
        values.append(found("apex", "height of the apex above the release", "length", apex, together(apex * 2 * float(uy[1]) / vy, apex * m.relative)))
    elif vy > 0:
        says.append("The apex is not in these pictures.")
    return values, says


def _flight(m: Motion) -> slice:
    """The longest stretch of its way that one parabola goes through."""
    moving = _moving(m)
    low, high = moving.start, moving.stop
    for _ in range(60):
        t = m.t[low:high] - m.t[low]
        if len(t) <= FEWEST_POINTS + 1:
            break
        x, y = fit(t, m.x[low:high], 1, 0.0)[0], fit(t, m.y[low:high], 2, 0.0)[0]
        off = np.hypot(m.x[low:high] - np.polyval(x[::-1], t), m.y[low:high] - np.polyval(y[::-1], t))
        if float(np.sqrt(np.mean(off**2))) < 2.5 * m.u_place:
            break
        if off[:3].max() > off[-3:].max():
            low += 1
        else:
            high -= 1
    return slice(low, high)


def _slide(m: Motion, g: float) -> tuple[list[Found], list[str]]:
    way = np.column_stack([m.x - m.x.mean(), m.y - m.y.mean()])
    along = np.linalg.svd(way, full_matrices=False)[2][0]
    s = way @ along
    s = s if s[-1] > s[0] else -s
    v = np.gradient(s, m.t)
    smooth = np.array([v[max(0, i - 2) : i + 3].mean() for i in range(len(v))])
    top = int(smooth.argmax())
    slow = np.flatnonzero(smooth[top:] < AT_REST * float(smooth.max()))
    rest = len(slow) > 0
    end = top + int(slow[0]) if rest else len(s)
    if end - top < FEWEST_POINTS:
        raise CoreError("It is not slowing down long enough in this track. Follow it from its quickest until it lies still.", code="track_no_end", where="track")
    # while it is let go it is still pushed, and the last bit before rest is a matter of the floor's own bumps
    part = slice(top + (2 if end - top > 2 * FEWEST_POINTS else 0), max(top + FEWEST_POINTS, end - (2 if end - top > 2 * FEWEST_POINTS else 0)))
    t = m.t[part] - m.t[part][0]
    c, u = fit(t, s[part], 2, m.u_place)
    a, u_a = -2 * float(c[2]), together(2 * float(u[2]), 2 * float(c[2]) * m.relative)
    v0, u_v = float(c[1]), together(float(u[1]), float(c[1]) * m.relative)
    length = float(s[-1] - s[part][0])
    values = [
        found("deceleration", "deceleration while it slides", "acceleration", a, u_a),
        found("first_speed", "speed at the start of the slide", "speed", v0, u_v),
        found("slide", "distance from there", "length", length, together(math.sqrt(2) * m.u_place, length * m.relative), "exact" if rest else "at_least"),
        found("stop_time", "time from there until it lies still", "time", float(m.t[end if rest else -1] - m.t[part][0]), m.gap / math.sqrt(6), "exact" if rest else "at_least"),
    ]
    bend = fit(t, s[part], 3, m.u_place) if len(t) > FEWEST_POINTS + 2 else None
    uneven = bend is not None and abs(float(bend[0][3])) > 4 * float(bend[1][3]) and abs(6 * float(bend[0][3]) * float(t[-1])) > 0.3 * abs(a)
    says = [f"On a level floor this is a friction coefficient of {a / g:.3f}."] if a > 0 else []
    says += ["It does not slow down evenly: the air, a bump or a push is at work beside the floor."] if uneven else []
    return values, says + ([] if rest else ["It was still going in the last picture."])


def _impact(m: Motion, g: float) -> tuple[list[Found], list[str]]:
    part = _falls(m)
    touch = part.stop
    if touch >= len(m.t) - 1:
        raise CoreError("The impact is not in this track. Follow it until it lies still.", code="track_no_end", where="track")
    before = slice(max(part.start, touch - LAID_ON), touch)
    t0 = float(m.t[touch - 1])
    c, u = fit(m.t[before] - t0, -m.y[before], 2 if touch - before.start > FEWEST_POINTS else 1, m.u_place)
    low = touch - 1 + int(np.argmin(m.y[touch - 1 :][: _until_rest(m, touch)]))
    stop = _stopped(m, c, slice(before.start, min(len(m.t), low + 1)), t0)
    at, took, u_took = stop.at, stop.took, stop.u_took
    speed = float(np.polyval(np.polyder(c[::-1]), at))
    u_speed = together(float(u[1]), speed * m.relative)
    values = [found("impact_speed", "impact speed", "speed", speed, u_speed)]
    # the way before it, and that the stop is even, are not sure either: half as much again
    u_took = together(1.5 * u_took, 0.1 * m.gap)
    if took < 1.5 * m.gap:
        most = max(took + 2 * u_took, 2 * m.gap)
        values += [found("stop_time", "stop time", "time", most, m.gap / 4, "at_most"), found("crush", "crush depth", "length", speed * most / 2, u_speed * most / 2, "at_most")]
        return values, ["It was stopped from one picture to the next or the one after: more quickly than these pictures can tell. A clip with more pictures a second would."]
    depth = speed * took / 2
    values += [found("stop_time", "stop time", "time", took, u_took), found("crush", "crush depth", "length", depth, together(depth * u_took / took, depth * u_speed / speed, m.u_place))]
    return values, ["The stop time and the depth are those of an even stop through the places that were seen."]


@dataclass(frozen=True, slots=True, kw_only=True)
class _Stop:
    """at: when it touched, s after a moment; took: how long it took to rest, s; u_at, u_took: their standard uncertainties."""

    at: float
    took: float
    u_at: float
    u_took: float


def _stopped(m: Motion, c: Numbers, part: slice, t0: float) -> _Stop:
    """A free way, then an even stop from the speed at the touch to rest, laid through the places by least squares."""
    t, y = m.t[part] - t0, -m.y[part]

    def off(p: Numbers) -> Numbers:
        at, took = float(p[0]), max(float(p[1]), 1e-6)
        v = float(np.polyval(np.polyder(c[::-1]), at))
        h = np.clip(t - at, 0.0, took)
        return np.asarray((np.where(t < at, np.polyval(c[::-1], t), np.polyval(c[::-1], at) + v * h - v * h * h / (2 * took)) - y) / m.u_place)

    end = float(t[-1])
    # the least of several beginnings: the way bends where it touches
    fits = [least_squares(off, [at, max(end - at, m.gap / 2)], bounds=([-4 * m.gap, 1e-5], [end + m.gap, max(2 * end, 0.0) + 4 * m.gap])) for at in (-m.gap / 2, m.gap / 4, min(m.gap, end))]
    best = min(fits, key=lambda f: float(f.cost))
    covariance = np.linalg.pinv(best.jac.T @ best.jac) * max(1.0, 2 * float(best.cost) / max(1, len(t) - 2))
    u = np.sqrt(np.maximum(0.0, np.diag(covariance)))
    return _Stop(at=float(best.x[0]), took=float(best.x[1]), u_at=float(u[0]), u_took=float(u[1]))


def _until_rest(m: Motion, touch: int) -> int:
    """So many pictures from the touch on until it first comes back up or lies still."""
    for n in range(1, len(m.t) - touch + 1):
        if touch + n >= len(m.t) or float(m.y[touch + n]) - float(np.min(m.y[touch - 1 : touch + n])) > 3 * m.u_place:
            return n + 1
    return len(m.t) - touch + 1


def _spin(m: Motion, g: float) -> tuple[list[Found], list[str]]:
    part = _moving(m)
    t, x, y = m.t[part], m.x[part], m.y[part]
    start = [float(x.mean()), float(y.mean()), float(np.hypot(x - x.mean(), y - y.mean()).mean())]
    circle = least_squares(lambda p: np.hypot(x - p[0], y - p[1]) - p[2], start).x
    radius = abs(float(circle[2]))
    off = np.abs(np.hypot(x - circle[0], y - circle[1]) - radius)
    if float(np.median(off)) > 0.25 * radius or len(t) < FEWEST_POINTS:
        raise CoreError(_NO_CIRCLE, code="track_no_end", where="track")
    turn = np.unwrap(np.arctan2(y - circle[1], x - circle[0])) / (2 * np.pi)
    steps = np.abs(np.diff(turn))
    if abs(float(turn[-1] - turn[0])) < LEAST_TURN:
        raise CoreError(_NO_CIRCLE, code="track_no_end", where="track")
    if float(np.median(steps)) > MOST_TURN / 2 or float(steps.max()) > MOST_TURN:
        raise CoreError("It turns nearly half round from one picture to the next, so it cannot be told which way, or how often. Film it with more pictures a second.", code="spin_quick", where="track")
    sign = 1.0 if turn[-1] > turn[0] else -1.0
    u_turn = max(m.u_place, float(np.std(np.hypot(x - circle[0], y - circle[1])))) / (2 * np.pi * radius)
    c, u = fit(t - t[0], sign * turn, 1, u_turn)
    bent, u_bent = fit(t - t[0], sign * turn, 2, u_turn)
    slowing, u_slowing = -2 * float(bent[2]), 2 * float(u_bent[2])
    values = [
        found("spin_rate", "turns a second", "rate", float(c[1]), float(u[1])),
        found("turns", "turns that were followed", "number", float(sign * (turn[-1] - turn[0])), math.sqrt(2) * u_turn),
        found("tip_speed", "speed of the mark", "speed", 2 * math.pi * radius * float(c[1]), together(2 * math.pi * radius * float(u[1]), 2 * math.pi * radius * float(c[1]) * m.relative)),
    ]
    if abs(slowing) > 3 * u_slowing:
        values[0] = found("spin_rate", "turns a second at the start", "rate", float(bent[1]), float(u_bent[1]))
        values.append(found("slowing", "slowing down", "slowing", slowing, u_slowing))
        return values, [f"It {'slows down' if slowing > 0 else 'speeds up'} by {abs(slowing):.2g} turns a second each second."]
    return values, []


_LOOK: dict[Looked, Callable[[Motion, float], tuple[list[Found], list[str]]]] = {"fall": _fall, "launch": _launch, "slide": _slide, "impact": _impact, "spin": _spin}
