"""Every calculator by its identifier. Formulas are written once in the functions and once as text for the working."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Any

from scipy.constants import g as STANDARD_G

from ..errors import CalculationRefused
from .calculator import Answer, Calculator, Function, Input, Value, carry, shown, value_of, work
from .motion import AIR_DENSITY, cos_of, drag_fall_speed, drag_fall_time, flight_range, flight_time, sin_of, terminal_speed
from .paths import ATMOSPHERE, GAMMA, best_water, flight_with_drag, terminal_from_descent, water_rocket

X = Mapping[str, float]


def _tan(angle: float) -> float:
    return math.tan(math.radians(angle))


MECHANICS = "Newtonian mechanics, constant acceleration; any school text"
NO_AIR = "No air resistance."


def _in(name: str, quantity: str, unit: str, **more: Any) -> Input:
    return Input(name=name, quantity=quantity, unit=unit, **more)


_height0 = _in("release_height", "length", "m", above=False, default=0.0)
_eye = _in("eye_height", "length", "m", above=False, default=0.0)
_air = _in("air_density", "density", "kg/m³", default=AIR_DENSITY)
_mass = _in("mass", "mass", "g")
_area = _in("area", "area", "m²")
_drag = _in("drag_coefficient", "number", "", high=100)
_flat: dict[str, Any] = {"low": -90.0, "high": 90.0, "above": False}
_steep: dict[str, Any] = {"low": 0.0, "high": 89.999}


def _projectile(x: X) -> dict[str, float]:
    v, a, h, g = x["speed"], x["angle"], x["release_height"], x["g"]
    up, along, t = v * sin_of(a), v * cos_of(a), flight_time(v, a, h, g)
    down = math.sqrt(up * up + 2 * g * h) if t else 0.0
    return {
        "range": flight_range(v, a, h, g),
        "flight_time": t,
        "apex_height": h + max(up, 0.0) ** 2 / (2 * g),
        "impact_speed": math.sqrt(v * v + 2 * g * h),
        "impact_angle": math.degrees(math.atan2(down, along)),
    }


def _launch_speed(x: X) -> dict[str, float]:
    fall = x["release_height"] + x["range"] * _tan(x["angle"])
    if fall <= 0:
        raise CalculationRefused(
            "At this angle from this height nothing could land so far away. Check the angle.", code="range_impossible", where="angle"
        )
    return {"speed": x["range"] / cos_of(x["angle"]) * math.sqrt(x["g"] / (2 * fall))}


def _tube(x: X) -> dict[str, float]:
    bore = math.pi * x["tube_diameter"] ** 2 / 4
    lift = x["mass"] * x["g"] * x["push_length"] * sin_of(x["angle"])
    energy = x["gauge_pressure"] * bore * x["push_length"]
    found = {"energy": energy, "speed": math.sqrt(max(2 * (energy - lift) / x["mass"], 0.0))}
    if "air_volume" in x:
        first, last = x["air_volume"], x["air_volume"] + bore * x["push_length"]
        pushed = (x["gauge_pressure"] + ATMOSPHERE) * first / (GAMMA - 1) * -math.expm1(
            (GAMMA - 1) * math.log(first / last)
        ) - ATMOSPHERE * (last - first)
        found |= {"energy_lower": max(pushed, 0.0), "speed_lower": math.sqrt(max(2 * (pushed - lift) / x["mass"], 0.0))}
    return found


def _water(x: X) -> dict[str, float]:
    if x["water_volume"] >= x["bottle_volume"]:
        raise CalculationRefused("There is more water than bottle.", code="water_over_bottle", where="water_volume")
    rest = (x["nozzle_diameter"], x["dry_mass"], x["body_diameter"], x["drag_coefficient"], x["g"])
    found = water_rocket(x["gauge_pressure"], x["bottle_volume"], x["water_volume"], *rest)
    return {
        "burnout_speed": found.burnout_speed,
        "apex_height": found.apex_height,
        "time_to_apex": found.time_to_apex,
        "best_water_volume": best_water(x["gauge_pressure"], x["bottle_volume"], *rest),
    }


def _flight(x: X) -> dict[str, float]:
    p = flight_with_drag(x["speed"], x["angle"], x["release_height"], x["mass"], x["area"], x["drag_coefficient"], x["air_density"], x["g"])
    return {"range": p.range, "flight_time": p.flight_time, "apex_height": p.apex_height, "impact_speed": p.impact_speed}


def _glide(x: X) -> dict[str, float]:
    found = {"ratio": x["distance"] / x["height"]}
    return found | ({"mean_speed": math.hypot(x["distance"], x["height"]) / x["time"]} if "time" in x else {})


def _best_angle(x: X) -> dict[str, float]:
    v, whole = x["speed"], math.sqrt(x["speed"] ** 2 + 2 * x["g"] * x["release_height"])
    return {"angle": math.degrees(math.atan2(v, whole)), "range": v / x["g"] * whole}


def _elastic(x: X) -> dict[str, float]:
    energy = 0.5 * x["stiffness"] * x["stretch"] ** 2
    found = {"energy": energy, "speed": math.sqrt(2 * energy / x["mass"])}
    if "measured_speed" in x:
        found["efficiency"] = 0.5 * x["mass"] * x["measured_speed"] ** 2 / energy
    return found


def _fall_drag(x: X) -> dict[str, float]:
    end = terminal_speed(x["mass"], x["area"], x["drag_coefficient"], x["air_density"], x["g"])
    return {
        "terminal_speed": end,
        "time": drag_fall_time(x["height"], end, x["g"]),
        "impact_speed": drag_fall_speed(x["height"], end, x["g"]),
    }


def _descent(x: X) -> dict[str, float]:
    end = terminal_from_descent(x["height"], x["time"], x["g"])
    return {"terminal_speed": end, "drag_coefficient": 2 * x["mass"] * x["g"] / (x["air_density"] * x["area"] * end**2)}


def _canopy(x: X) -> dict[str, float]:
    area = 2 * x["mass"] * x["g"] / (x["air_density"] * x["drag_coefficient"] * x["speed"] ** 2)
    return {"area": area, "square_side": math.sqrt(area), "circle_diameter": math.sqrt(4 * area / math.pi)}


def _impact(x: X) -> dict[str, float]:
    change = x["mass"] * (x["impact_speed"] + x["rebound_speed"])
    force = change / x["stop_time"] if "stop_time" in x else x["mass"] * x["impact_speed"] ** 2 / (2 * x["stop_distance"])
    return {
        "momentum_change": change,
        "average_force": force,
        "contact_force": force + x["mass"] * x["g"],
        "deceleration_g": force / (x["mass"] * STANDARD_G),
    }


def _gates(x: X) -> dict[str, float]:
    found = {"speed": x["spacing"] / x["time"]}
    if "time_2" in x or "interval" in x:
        if not {"time_2", "interval"} <= set(x):
            raise CalculationRefused("An acceleration needs time_2 and interval together.", code="input_missing", where="interval")
        found["speed_2"] = x.get("spacing_2", x["spacing"]) / x["time_2"]
        found["acceleration"] = (found["speed_2"] - found["speed"]) / x["interval"]
    return found


def _spin(x: X) -> dict[str, float]:
    n = x["turns"] / x["time"]
    return {"revolutions_per_second": n, "rpm": 60 * n} | ({"tip_speed": 2 * math.pi * x["radius"] * n} if "radius" in x else {})


def _stability(x: X) -> dict[str, float]:
    d, s, a, b, sweep, n = (x[k] for k in ("body_diameter", "span", "root", "tip", "sweep", "fins"))
    nose_at = (2 / 3 if "nose_cone" in x else 0.466) * x["nose_length"]
    middle = math.hypot(s, sweep + b / 2 - a / 2)
    fins = (1 + d / 2 / (s + d / 2)) * 4 * n * (s / d) ** 2 / (1 + math.sqrt(1 + (2 * middle / (a + b)) ** 2))
    fins_at = x["fin_position"] + sweep / 3 * (a + 2 * b) / (a + b) + (a + b - a * b / (a + b)) / 6
    centre = (2 * nose_at + fins * fins_at) / (2 + fins)
    return {"fin_centre": fins_at, "centre_of_pressure": centre, "margin_calibers": (centre - x["balance_point"]) / d}


def _share(x: X) -> dict[str, float]:
    time = x["time"] if "time" in x else math.sqrt(2 * x["height"] / x["g"])
    return {"share": x["timing_scatter"] / time, "height_for_5_percent": 0.5 * x["g"] * (x["timing_scatter"] / 0.05) ** 2}


def _c(
    id: str,
    title: str,
    inputs: Sequence[Input],
    outputs: dict[str, str],
    formulas: dict[str, str],
    function: Function,
    assumptions: Sequence[str],
    source: str = MECHANICS,
    **more: Any,
) -> Calculator:
    return Calculator(
        id=id,
        title=title,
        inputs=tuple(inputs),
        outputs=outputs,
        formulas=formulas,
        function=function,
        assumptions=tuple(assumptions),
        source=source,
        **more,
    )


CALCULATORS: dict[str, Calculator] = {
    c.id: c
    for c in (
        _c(
            "average-speed",
            "Average speed",
            [_in("distance", "length", "m"), _in("time", "time", "s")],
            {"speed": "m/s"},
            {"speed": "{distance} / {time}"},
            lambda x: {"speed": x["distance"] / x["time"]},
            ["The average over the whole way, not the speed at any moment."],
        ),
        _c(
            "projectile",
            "Flight of a thrown body",
            [_in("speed", "speed", "m/s"), _in("angle", "angle", "°", **_flat), _height0],
            {"range": "m", "flight_time": "s", "apex_height": "m", "impact_speed": "m/s", "impact_angle": "°"},
            {
                "flight_time": "({speed}·sin {angle} + √(({speed}·sin {angle})² + 2·{g}·{release_height})) / {g}",
                "range": "{speed}·cos {angle} · {flight_time}",
                "apex_height": "{release_height} + ({speed}·sin {angle})² / (2·{g})",
                "impact_speed": "√({speed}² + 2·{g}·{release_height})",
                "impact_angle": "arctan(speed downwards / speed along), below level",
            },
            _projectile,
            [NO_AIR, "It lands on the level of the floor."],
        ),
        _c(
            "launch-speed-from-range",
            "Launch speed from the range",
            [_in("range", "length", "m"), _in("angle", "angle", "°", low=-89.0, high=89.999), _height0],
            {"speed": "m/s"},
            {"speed": "{range} / cos {angle} · √({g} / (2·({release_height} + {range}·tan {angle})))"},
            _launch_speed,
            [NO_AIR],
        ),
        _c(
            "hang-time",
            "Height and launch speed from hang time",
            [_in("time", "time", "s")],
            {"apex_height": "m", "launch_speed": "m/s"},
            {"apex_height": "{g}·{time}² / 8", "launch_speed": "{g}·{time} / 2"},
            lambda x: {"apex_height": x["g"] * x["time"] ** 2 / 8, "launch_speed": x["g"] * x["time"] / 2},
            [NO_AIR, "Straight up and down, from and to one level."],
        ),
        _c(
            "tube-launch",
            "Launch from a tube by air pressure",
            [
                _in("gauge_pressure", "pressure", "bar"),
                _in("tube_diameter", "length", "mm"),
                _in("push_length", "length", "cm"),
                _mass,
                _in("angle", "angle", "°", **_flat, default=0.0),
                _in("air_volume", "volume", "ml", optional=True),
            ],
            {"energy": "J", "speed": "m/s", "energy_lower": "J", "speed_lower": "m/s"},
            {
                "energy": "{gauge_pressure} · π·{tube_diameter}²/4 · {push_length}",
                "speed": "√(2·({energy} − {mass}·{g}·{push_length}·sin {angle}) / {mass})",
                "energy_lower": "adiabatic work of the air in {air_volume} less the push of the atmosphere",
                "speed_lower": "√(2·({energy_lower} − {mass}·{g}·{push_length}·sin {angle}) / {mass})",
            },
            _tube,
            [
                "No leak and no friction.",
                "energy and speed are upper bounds: the pressure stays as it is.",
                "With air_volume the lower bound lets a fixed amount of air expand (γ = 1.4).",
            ],
            "Work of a gas on a piston; any thermodynamics text",
        ),
        _c(
            "water-rocket",
            "Water rocket, straight up",
            [
                _in("gauge_pressure", "pressure", "bar"),
                _in("bottle_volume", "volume", "l"),
                _in("water_volume", "volume", "l"),
                _in("nozzle_diameter", "length", "mm"),
                _in("dry_mass", "mass", "g"),
                _in("body_diameter", "length", "mm"),
                _drag,
            ],
            {"burnout_speed": "m/s", "apex_height": "m", "time_to_apex": "s", "best_water_volume": "m³"},
            {
                "burnout_speed": "integrated until the water is out",
                "apex_height": "integrated until the speed is 0",
                "time_to_apex": "the same",
                "best_water_volume": "largest apex_height at {gauge_pressure}",
            },
            _water,
            [
                "Air expands adiabatically; water leaves by Bernoulli’s rule.",
                "The push of the air after the water is left out, so it goes somewhat higher.",
                "The pressure is never raised: keep to the limit that the teacher has set.",
            ],
            "Prusa 2000, Hydrodynamics of a water rocket, SIAM Review 42, 719-726",
        ),
        _c(
            "projectile-drag",
            "Flight of a thrown body with air",
            [_in("speed", "speed", "m/s"), _in("angle", "angle", "°", **_flat), _height0, _mass, _area, _drag, _air],
            {"range": "m", "flight_time": "s", "apex_height": "m", "impact_speed": "m/s"},
            dict.fromkeys(
                ("range", "flight_time", "apex_height", "impact_speed"), "integrated with drag ½·{air_density}·v²·{area}·{drag_coefficient}"
            ),
            _flight,
            ["Drag grows with the square of the speed; no wind, no lift."],
            "Newton’s second law with quadratic drag, integrated by scipy’s solve_ivp",
        ),
        _c(
            "best-angle",
            "Angle of the longest throw",
            [_in("speed", "speed", "m/s"), _height0],
            {"angle": "°", "range": "m"},
            {
                "angle": "arctan({speed} / √({speed}² + 2·{g}·{release_height}))",
                "range": "{speed}/{g} · √({speed}² + 2·{g}·{release_height})",
            },
            _best_angle,
            [NO_AIR],
        ),
        _c(
            "height-by-angle",
            "Height from one angle",
            [_in("baseline", "length", "m"), _in("angle", "angle", "°", **_steep), _eye],
            {"height": "m"},
            {"height": "{eye_height} + {baseline}·tan {angle}"},
            lambda x: {"height": x["eye_height"] + x["baseline"] * _tan(x["angle"])},
            ["Level ground; the highest point is over the far end of the baseline."],
            "Trigonometry",
        ),
        _c(
            "height-by-two-angles",
            "Height from two angles on opposite sides",
            [_in("baseline", "length", "m"), _in("angle_1", "angle", "°", **_steep), _in("angle_2", "angle", "°", **_steep), _eye],
            {"height": "m"},
            {"height": "{eye_height} + {baseline} / (1/tan {angle_1} + 1/tan {angle_2})"},
            lambda x: {"height": x["eye_height"] + x["baseline"] / (1 / _tan(x["angle_1"]) + 1 / _tan(x["angle_2"]))},
            ["Both stations and the path lie in one plane, on level ground."],
            "Trigonometry",
        ),
        _c(
            "elastic-launch",
            "Launch by a stretched band",
            [
                _in("stiffness", "stiffness", "N/m"),
                _in("stretch", "length", "cm"),
                _mass,
                _in("measured_speed", "speed", "m/s", optional=True),
            ],
            {"energy": "J", "speed": "m/s", "efficiency": ""},
            {
                "energy": "½·{stiffness}·{stretch}²",
                "speed": "√(2·{energy} / {mass})",
                "efficiency": "½·{mass}·{measured_speed}² / {energy}",
            },
            _elastic,
            ["The force rises in proportion to the stretch; all energy goes to the projectile (speed is an upper bound)."],
            "Hooke’s law; any school text",
            aliases={"speed": "measured_speed"},
        ),
        _c(
            "free-fall",
            "Fall from rest without air",
            [_in("height", "length", "m")],
            {"time": "s", "impact_speed": "m/s"},
            {"time": "√(2·{height} / {g})", "impact_speed": "√(2·{g}·{height})"},
            lambda x: {"time": math.sqrt(2 * x["height"] / x["g"]), "impact_speed": math.sqrt(2 * x["g"] * x["height"])},
            [NO_AIR],
        ),
        _c(
            "fall-drag",
            "Fall from rest with air",
            [_in("height", "length", "m"), _mass, _area, _drag, _air],
            {"time": "s", "impact_speed": "m/s", "terminal_speed": "m/s"},
            {
                "terminal_speed": "√(2·{mass}·{g} / ({air_density}·{area}·{drag_coefficient}))",
                "time": "{terminal_speed}/{g} · arcosh(exp({g}·{height} / {terminal_speed}²))",
                "impact_speed": "{terminal_speed} · √(1 − exp(−2·{g}·{height} / {terminal_speed}²))",
            },
            _fall_drag,
            ["Drag grows with the square of the speed; it opens at once."],
            "Quadratic drag from rest; v = v∞·tanh(gt/v∞)",
        ),
        _c(
            "drag-from-descent",
            "Drag coefficient from a timed fall",
            [_in("height", "length", "m"), _in("time", "time", "s"), _mass, _area, _air],
            {"drag_coefficient": "", "terminal_speed": "m/s"},
            {
                "terminal_speed": "the speed for which falling {height} from rest takes {time}",
                "drag_coefficient": "2·{mass}·{g} / ({air_density}·{area}·{terminal_speed}²)",
            },
            _descent,
            ["The whole fall is inverted, with its speeding-up; terminal speed is not assumed."],
            "Quadratic drag from rest, solved for the terminal speed",
        ),
        _c(
            "canopy-for-speed",
            "Canopy for a wanted speed",
            [_mass, _in("speed", "speed", "m/s"), _drag, _air],
            {"area": "m²", "square_side": "m", "circle_diameter": "m"},
            {
                "area": "2·{mass}·{g} / ({air_density}·{drag_coefficient}·{speed}²)",
                "square_side": "√{area}",
                "circle_diameter": "√(4·{area}/π)",
            },
            _canopy,
            ["It falls at its steady speed."],
            "Drag equals weight",
        ),
        _c(
            "impact",
            "Force while something is stopped",
            [
                _mass,
                _in("impact_speed", "speed", "m/s"),
                _in("rebound_speed", "speed", "m/s", above=False, default=0.0),
                _in("stop_time", "time", "ms"),
                _in("stop_distance", "length", "mm"),
            ],
            {"momentum_change": "kg·m/s", "average_force": "N", "contact_force": "N", "deceleration_g": ""},
            {
                "momentum_change": "{mass}·({impact_speed} + {rebound_speed})",
                "average_force": "momentum_change / stop_time, or ½·mass·impact_speed² / stop_distance",
                "contact_force": "{average_force} + {mass}·{g}",
                "deceleration_g": "{average_force} / ({mass}·9.80665 m/s²)",
            },
            _impact,
            ["average_force is the net force; the contact force is that plus the weight.", "Averaged over the time, or over the distance."],
            one_of=("stop_time", "stop_distance"),
        ),
        _c(
            "friction-from-slide",
            "Friction coefficient from a slide",
            [_in("speed", "speed", "m/s"), _in("distance", "length", "m")],
            {"coefficient": ""},
            {"coefficient": "{speed}² / (2·{g}·{distance})"},
            lambda x: {"coefficient": x["speed"] ** 2 / (2 * x["g"] * x["distance"])},
            ["Level surface; only friction stops it."],
        ),
        _c(
            "friction-from-tilt",
            "Friction coefficient from a tilt",
            [_in("angle", "angle", "°", **_steep)],
            {"coefficient": ""},
            {"coefficient": "tan {angle}"},
            lambda x: {"coefficient": _tan(x["angle"])},
            ["The tilt at which it slides on at a steady speed (sliding), or just begins to (holding)."],
        ),
        _c(
            "glide-ratio",
            "Glide ratio and mean speed",
            [_in("distance", "length", "m"), _in("height", "length", "m"), _in("time", "time", "s", optional=True)],
            {"ratio": "", "mean_speed": "m/s"},
            {"ratio": "{distance} / {height}", "mean_speed": "√({distance}² + {height}²) / {time}"},
            _glide,
            ["A straight path from the hand to the floor; still air."],
        ),
        _c(
            "spin-down",
            "How fast a spin dies down",
            [_in("turns", "count", "count"), _in("time", "time", "s")],
            {"mean_rate": "1/s", "first_rate": "1/s", "lost_each_second": "1/s²"},
            {"mean_rate": "{turns} / {time}", "first_rate": "2·{turns} / {time}", "lost_each_second": "2·{turns} / {time}²"},
            lambda x: {
                "mean_rate": x["turns"] / x["time"],
                "first_rate": 2 * x["turns"] / x["time"],
                "lost_each_second": 2 * x["turns"] / x["time"] ** 2,
            },
            ["It slows down evenly until it stands still."],
        ),
        _c(
            "gate-speed",
            "Speed and acceleration from gates",
            [
                _in("spacing", "length", "cm"),
                _in("time", "time", "s"),
                _in("spacing_2", "length", "cm", optional=True),
                _in("time_2", "time", "s", optional=True),
                _in("interval", "time", "s", optional=True),
            ],
            {"speed": "m/s", "speed_2": "m/s", "acceleration": "m/s²"},
            {"speed": "{spacing} / {time}", "speed_2": "second spacing / {time_2}", "acceleration": "({speed_2} − {speed}) / {interval}"},
            _gates,
            ["interval runs from the middle of the first pair to the middle of the second."],
        ),
        _c(
            "lifting",
            "Work and power of lifting",
            [_mass, _in("height", "length", "m"), _in("time", "time", "s")],
            {"work": "J", "power": "W"},
            {"work": "{mass}·{g}·{height}", "power": "{work} / {time}"},
            lambda x: {"work": x["mass"] * x["g"] * x["height"], "power": x["mass"] * x["g"] * x["height"] / x["time"]},
            ["Only the work against gravity."],
        ),
        _c(
            "wind-power",
            "Share of the wind’s power",
            [_air, _in("area", "area", "m²"), _in("wind_speed", "speed", "m/s"), _in("power_out", "power", "W", above=False)],
            {"power_in": "W", "share": ""},
            {"power_in": "½·{air_density}·{area}·{wind_speed}³", "share": "{power_out} / {power_in}"},
            lambda x: {
                "power_in": 0.5 * x["air_density"] * x["area"] * x["wind_speed"] ** 3,
                "share": x["power_out"] / (0.5 * x["air_density"] * x["area"] * x["wind_speed"] ** 3),
            },
            [
                "The wind is even over the swept area.",
                "No rotor in free wind takes more than 16/27 (Betz 1920); a larger share means that a reading is wrong.",
            ],
            "Kinetic energy of moving air",
        ),
        _c(
            "spin",
            "Turning rate",
            [_in("turns", "count", "count"), _in("time", "time", "s"), _in("radius", "length", "cm", optional=True)],
            {"revolutions_per_second": "1/s", "rpm": "rpm", "tip_speed": "m/s"},
            {
                "revolutions_per_second": "{turns} / {time}",
                "rpm": "60 · {revolutions_per_second}",
                "tip_speed": "2π·{radius}·{revolutions_per_second}",
            },
            _spin,
            ["The average over the time."],
        ),
        _c(
            "balance-point",
            "Balance point of parts",
            [],
            {"mass": "kg", "position": "m", "moment_of_inertia": "kg·m²"},
            {"mass": "Σm", "position": "Σm·x / Σm", "moment_of_inertia": "Σm·(x − position)²"},
            lambda x: dict(x),
            ["Each part counts as a point at its own balance point."],
            lists="part",
        ),
        _c(
            "rocket-stability",
            "Centre of pressure and margin",
            [
                _in("nose_length", "length", "mm"),
                _in("body_diameter", "length", "mm"),
                _in("fins", "count", "count", low=3, high=8, above=False),
                _in("root", "length", "mm"),
                _in("tip", "length", "mm", above=False),
                _in("span", "length", "mm"),
                _in("sweep", "length", "mm", low=-10, above=False),
                _in("fin_position", "length", "mm", above=False),
                _in("balance_point", "length", "mm", above=False),
            ],
            {"centre_of_pressure": "m", "margin_calibers": "", "fin_centre": "m"},
            {
                "fin_centre": "{fin_position} + {sweep}/3·({root} + 2·{tip})/({root} + {tip}) + ({root} + {tip} − {root}·{tip}/({root} + {tip}))/6",
                "centre_of_pressure": "nose (2) and fins weighted by their normal-force slopes",
                "margin_calibers": "({centre_of_pressure} − {balance_point}) / {body_diameter}",
            },
            _stability,
            [
                "Small angles, slow flight, thin flat fins, a slim body of one diameter.",
                "Positions are from the nose’s tip; one to two calibers is common practice.",
            ],
            "Barrowman 1966, The practical calculation of the aerodynamic characteristics of slender finned vehicles",
            choices={"nose": ("cone", "ogive")},
        ),
        _c(
            "timing-share",
            "Share of hand timing in a fall",
            [_in("height", "length", "m"), _in("time", "time", "s"), _in("timing_scatter", "time", "s")],
            {"share": "", "height_for_5_percent": "m"},
            {"share": "{timing_scatter} / fall time", "height_for_5_percent": "½·{g}·({timing_scatter}/0.05)²"},
            _share,
            ["From a height the fall time is that without air."],
            one_of=("height", "time"),
        ),
    )
}


def calculator(id: str) -> Calculator:
    """The calculator called `id`. Raises CalculationRefused `calculator_unknown`."""
    if id not in CALCULATORS:
        raise CalculationRefused(
            f"There is no calculator “{id[:40]}”. There are {', '.join(CALCULATORS)}.", code="calculator_unknown", where="id"
        )
    return CALCULATORS[id]


def calculate(id: str, given: Sequence[tuple[str, str]], *, g: float = STANDARD_G) -> Answer:
    """Work out a calculator from written inputs (name, text); a name may come again only where a list is taken."""
    found = calculator(id)
    if not 0 < g < 100:
        raise CalculationRefused(
            f"g = {g:g} m/s² is not a gravity on which trials are run; use 9.8, 9.81 or 10.", code="input_range", where="g"
        )
    if found.lists:
        return _balance(found, given)
    names = [n for n, _ in given]
    twice = next((n for n in names if names.count(n) > 1), None)
    if twice:
        raise CalculationRefused(f"{twice} is given twice.", code="input_twice", where=twice)
    return work(found, dict(given), g=g)


def _balance(found: Calculator, given: Sequence[tuple[str, str]]) -> Answer:
    """balance-point: part="12 g @ 30 mm", again and again."""
    mass, place = _in("part", "mass", "g"), _in("part", "length", "mm", low=-1e6)
    values: dict[str, Value] = {}
    for at, (name, text) in enumerate(given, 1):
        left, sign, right = text.partition("@")
        if name != "part" or not sign:
            raise CalculationRefused(f'“{name}={text[:40]}” is not a part; write part="12 g @ 30 mm".', code="input_unknown", where=name)
        values[f"mass_{at}"], values[f"position_{at}"] = value_of(mass, left), value_of(place, right)
    if not values:
        raise CalculationRefused('Give at least one part="12 g @ 30 mm".', code="input_missing", where="part")
    count = len(values) // 2

    def sums(x: X) -> dict[str, float]:
        m, p = [x[f"mass_{i}"] for i in range(1, count + 1)], [x[f"position_{i}"] for i in range(1, count + 1)]
        middle = math.fsum(a * b for a, b in zip(m, p, strict=True)) / math.fsum(m)
        return {
            "mass": math.fsum(m),
            "position": middle,
            "moment_of_inertia": math.fsum(a * (b - middle) ** 2 for a, b in zip(m, p, strict=True)),
        }

    outputs = carry(sums, values, found.outputs)
    terms = " + ".join(f"{shown(values[f'mass_{i}'])}·{shown(values[f'position_{i}'])}" for i in range(1, count + 1))
    masses = " + ".join(shown(values[f"mass_{i}"]) for i in range(1, count + 1))
    return Answer(
        id=found.id,
        inputs=values,
        outputs=outputs,
        assumptions=found.assumptions,
        source=found.source,
        working=(
            f"mass = Σm = {masses} = {shown(outputs['mass'])}",
            f"position = Σm·x / Σm = ({terms}) / {shown(outputs['mass'])} = {shown(outputs['position'])}",
            f"moment_of_inertia = Σm·(x − position)² = {shown(outputs['moment_of_inertia'])}",
        ),
    )
