"""The forms by which a family's file says what it expects of a variable: each a function of the level and of the file's own sizes."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping

from ..physics.motion import drag_fall_time, flight_range, flight_time, terminal_speed

G = 9.81
Form = Callable[[float, Mapping[str, float]], float]


def _thrown(energy_j: float, s: Mapping[str, float]) -> float:
    """Range, m, of a mass (kg) that leaves with this energy at an angle (°) and height (m)."""
    return flight_range(math.sqrt(2 * max(energy_j, 1e-9) / s["mass"]), s["angle"], s["height"])


def _falling(area: float, mass: float, s: Mapping[str, float], drag: float | None = None) -> float:
    """Time, s, of a fall from a height (m) under an area (m²)."""
    return drag_fall_time(s["height"], terminal_speed(mass, max(area, 1e-4), s["drag"] if drag is None else drag))


#: x: the level in the variable's unit; s: sizes in SI unless their name says otherwise; gives the reading in the measure's unit.
FORMS: dict[str, Form] = {
    "line": lambda x, s: s["start"] + s["slope"] * x,
    "power": lambda x, s: s["start"] + s["scale"] * x ** s["exponent"],
    "parabola": lambda x, s: s["best"] + s["bend"] * (x - s["at"]) ** 2,
    "thrown by a weight": lambda kg, s: _thrown(s["fall"] * kg * G * s["share"], s),
    "thrown by a band": lambda cm, s: _thrown(0.5 * s["stiffness"] * (cm / 100) ** 2 * s["share"], s),
    "range of an angle": lambda a, s: flight_range(s["speed"], a, s["height"]),
    "hang time of a charge": lambda x, s: flight_time(s["speed"] * math.exp(-(((x - s["at"]) / s["width"]) ** 2)), s["angle"]),
    "falls under a disc": lambda cm, s: _falling(math.pi * (cm / 100) ** 2, s["mass"], s),
    "falls under a square": lambda cm, s: _falling((cm / 100) ** 2, s["mass"], s),
    "falls with a hole": lambda cm, s: _falling(s["side"] ** 2 - math.pi * (cm / 200) ** 2, s["mass"], s, max(s["drag"] - s["leak"] * cm, 0.3)),
    "falls with a mass": lambda g, s: _falling(s["area"], s["mass"] + g / 1000, s),
    "slides to rest": lambda v, s: v * v / (2 * s["friction"] * G),
}
