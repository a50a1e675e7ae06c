"""Flights that have no closed form: drag in the air, and the water rocket. SI units; angles in degrees."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.integrate import solve_ivp
from scipy.optimize import brentq, minimize_scalar

from ..errors import CalculationRefused
from .motion import AIR_DENSITY, cos_of, drag_fall_time, flight_time, sin_of

#: Standard atmosphere at sea level, Pa, and ratio of specific heats of air. Source: ISO 2533.
ATMOSPHERE, GAMMA = 101_325.0, 1.4
#: Water at 15 °C, kg/m³. Source: handbook value, from memory.
WATER = 999.1
#: Relative and absolute tolerance of every integration.
RTOL, ATOL = 1e-10, 1e-12


@dataclass(frozen=True, slots=True, kw_only=True)
class Path:
    range: float
    flight_time: float
    apex_height: float
    impact_speed: float


def flight_with_drag(
    speed: float, angle: float, release_height: float, mass: float, area: float, drag_coefficient: float, air_density: float, g: float
) -> Path:
    """A thrown body with quadratic drag until it touches the floor. Source: Newton's second law, integrated by scipy's solve_ivp."""
    k = 0.5 * air_density * area * drag_coefficient / mass

    def rates(_: float, s: np.ndarray) -> list[float]:
        v = math.hypot(s[2], s[3])
        return [s[2], s[3], -k * v * s[2], -g - k * v * s[3]]

    def floor(_: float, s: np.ndarray) -> float:
        return float(s[1])

    def top(_: float, s: np.ndarray) -> float:
        return float(s[3])

    floor.terminal, floor.direction, top.direction = True, -1, -1  # type: ignore[attr-defined]
    vx, vy = speed * cos_of(angle), speed * sin_of(angle)
    if release_height == 0 and vy <= 0:
        return Path(range=0.0, flight_time=0.0, apex_height=0.0, impact_speed=speed)
    first = flight_time(speed, angle, release_height, g) / 1000  # a first step over the whole flight would miss the floor
    longest = 10 * (abs(vy) / g + math.sqrt(2 * release_height / g)) + 10
    while True:
        found = solve_ivp(
            rates, (0, longest), [0.0, release_height, vx, vy], "DOP853", events=(floor, top), rtol=RTOL, atol=ATOL, first_step=first
        )
        if found.t_events[0].size:
            break
        longest *= 4  # a light body floats down slowly
        if longest > 1e7:
            raise CalculationRefused("This body hardly falls at all; check mass and area.", code="answer_not_finite", where="mass")
    end = found.y_events[0][0]
    apex = max(release_height, float(found.y_events[1][0][1]) if found.y_events[1].size else release_height)
    return Path(range=float(end[0]), flight_time=float(found.t_events[0][0]), apex_height=apex, impact_speed=math.hypot(end[2], end[3]))


def terminal_from_descent(height: float, time: float, g: float) -> float:
    """Terminal speed in m/s of a body that takes `time` s for `height` m from rest. The whole fall is inverted, with its
    speeding-up. Raises CalculationRefused when nothing could fall so fast."""
    free = math.sqrt(2 * height / g)
    if time <= free * (1 + 1e-9):
        raise CalculationRefused(
            f"Falling {height:g} m takes {free:.4g} s without any air; {time:g} s is not longer, so no drag can be found. "
            "Check the timing.",
            code="fall_too_fast",
            where="time",
        )
    low = height / time  # the mean speed lies below the terminal speed

    def late(log_terminal: float) -> float:
        return drag_fall_time(height, math.exp(log_terminal), g) - time

    return math.exp(brentq(late, math.log(low), math.log(low) + 30, xtol=1e-14, rtol=1e-15))


@dataclass(frozen=True, slots=True, kw_only=True)
class Launch:
    burnout_speed: float
    apex_height: float
    time_to_apex: float


def water_rocket(
    gauge_pressure: float,
    bottle_volume: float,
    water_volume: float,
    nozzle_diameter: float,
    dry_mass: float,
    body_diameter: float,
    drag_coefficient: float,
    g: float,
    air_density: float = AIR_DENSITY,
) -> Launch:
    """Straight up: adiabatic air drives water out by Bernoulli's rule, then the rocket coasts with drag. The push of the air
    that is left after the water is left out. Source: Prusa 2000, SIAM Review 42, 719-726 (same balance of momentum)."""
    start_air = bottle_volume - water_volume
    start = gauge_pressure + ATMOSPHERE
    nozzle, drag = math.pi * nozzle_diameter**2 / 4, 0.5 * air_density * drag_coefficient * math.pi * body_diameter**2 / 4

    def pressure(water: float) -> float:
        return start * math.pow(start_air / (bottle_volume - water), GAMMA)

    def rates(_: float, s: np.ndarray) -> list[float]:
        height, v, water = s
        over = max(pressure(water) - ATMOSPHERE, 0.0)
        exhaust = math.sqrt(2 * over / WATER)
        pull = (WATER * nozzle * exhaust**2 - drag * v * abs(v)) / (dry_mass + WATER * max(water, 0.0)) - g
        resting = height <= 0 and v <= 0 and pull < 0  # it stands on the launcher until the thrust exceeds the weight
        return [0.0 if resting else v, 0.0 if resting else pull, -nozzle * exhaust]

    def empty(_: float, s: np.ndarray) -> float:
        return float(s[2])

    def spent(_: float, s: np.ndarray) -> float:
        return pressure(float(s[2])) - ATMOSPHERE * (1 + 1e-6)

    empty.terminal = spent.terminal = True  # type: ignore[attr-defined]
    push = solve_ivp(rates, (0, 30), [0.0, 0.0, water_volume], "LSODA", events=(empty, spent), rtol=1e-9, atol=1e-12, max_step=0.01)
    height, speed, left = push.y[:, -1]
    burnt = float(push.t[-1])
    if speed <= 0:
        return Launch(burnout_speed=0.0, apex_height=0.0, time_to_apex=burnt)
    mass = dry_mass + WATER * max(float(left), 0.0)
    # Coasting up with drag has a closed form: v∞ = √(mg/k), height v∞²/(2g)·ln(1 + v²/v∞²), time (v∞/g)·arctan(v/v∞).
    v2 = mass * g / drag if drag else math.inf
    rise = v2 / (2 * g) * math.log1p(speed**2 / v2) if math.isfinite(v2) else speed**2 / (2 * g)
    time = math.sqrt(v2) / g * math.atan(speed / math.sqrt(v2)) if math.isfinite(v2) else speed / g
    return Launch(burnout_speed=float(speed), apex_height=float(height) + rise, time_to_apex=burnt + time)


def best_water(
    gauge_pressure: float,
    bottle_volume: float,
    nozzle_diameter: float,
    dry_mass: float,
    body_diameter: float,
    drag_coefficient: float,
    g: float,
) -> float:
    """The water volume in m³ that goes highest at this pressure."""

    def low(share: float) -> float:
        return -water_rocket(
            gauge_pressure, bottle_volume, share * bottle_volume, nozzle_diameter, dry_mass, body_diameter, drag_coefficient, g
        ).apex_height

    grid = np.linspace(0.04, 0.92, 12)
    at = int(np.argmin([low(float(s)) for s in grid]))
    inside = (float(grid[max(at - 1, 0)]), float(grid[min(at + 1, len(grid) - 1)]))
    return float(minimize_scalar(low, bounds=inside, method="bounded", options={"xatol": 1e-4}).x) * bottle_volume
