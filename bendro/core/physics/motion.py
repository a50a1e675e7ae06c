"""Flight and fall: closed forms that keep their digits at both ends of the range. SI units; angles in degrees."""

from __future__ import annotations

import math

from scipy.constants import g as STANDARD_G

#: Air at sea level and 15 °C, kg/m³. Source: ISO 2533.
AIR_DENSITY = 1.225


def sin_of(angle: float) -> float:
    """Sine of an angle in degrees, 0 where it is 0."""
    return 0.0 if angle % 180 == 0 else math.sin(math.radians(angle))


def cos_of(angle: float) -> float:
    """Cosine of an angle in degrees, 0 where it is 0: straight up nothing flies a millionth of a millionth along."""
    return 0.0 if angle % 180 == 90 else math.cos(math.radians(angle))


def flight_time(speed: float, angle: float, release_height: float = 0.0, g: float = STANDARD_G) -> float:
    """Seconds from release at `speed` m/s, `angle` degrees above level, `release_height` m >= 0, to the floor; no air.
    Source: any mechanics text (constant acceleration). The root is written so that a small height loses no digits."""
    up = speed * sin_of(angle)
    root = math.sqrt(up * up + 2 * g * release_height)
    if up >= 0:
        return (up + root) / g
    return 2 * release_height / (root - up) if release_height > 0 else 0.0


def flight_range(speed: float, angle: float, release_height: float = 0.0, g: float = STANDARD_G) -> float:
    """Metres along the floor from below the release to first touch; no air."""
    return speed * cos_of(angle) * flight_time(speed, angle, release_height, g)


def terminal_speed(mass: float, area: float, drag_coefficient: float, air_density: float = AIR_DENSITY, g: float = STANDARD_G) -> float:
    """Speed in m/s at which drag ½ρv²SC balances the weight. mass kg > 0, area m² > 0, drag_coefficient > 0.
    Source: any fluid mechanics text; quadratic drag."""
    return math.sqrt(2 * mass * g / (air_density * area * drag_coefficient))


def drag_fall_time(height: float, terminal: float, g: float = STANDARD_G) -> float:
    """Seconds to fall `height` m >= 0 from rest with quadratic drag and terminal speed `terminal` m/s > 0.
    From v = v∞ tanh(gt/v∞): t = (v∞/g)·arcosh(exp(gh/v∞²)), written with log1p and expm1 so that tiny drag and tiny heights
    keep their digits. Source: e.g. Timmerman & van der Weele 1999, Am. J. Phys. 67, 538 (from memory)."""
    x = g * height / terminal**2
    return terminal / g * (x + math.log1p(math.sqrt(-math.expm1(-2 * x))))


def drag_fall_speed(height: float, terminal: float, g: float = STANDARD_G) -> float:
    """Speed in m/s after falling `height` m from rest with quadratic drag: v∞·√(1 − exp(−2gh/v∞²))."""
    return terminal * math.sqrt(-math.expm1(-2 * g * height / terminal**2))
