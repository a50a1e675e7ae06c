"""Calculators against handbook examples, integration, Monte Carlo and laws; the source stands beside each check."""

from __future__ import annotations

import json
import math
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp
from scipy.optimize import minimize_scalar

from bendro.core.errors import CalculationRefused
from bendro.core.families import families
from bendro.core.physics.calculators import CALCULATORS, calculate
from bendro.core.physics.motion import drag_fall_speed, drag_fall_time, flight_range

ROOT = Path(__file__).resolve().parent.parent.parent
G = 9.80665
# id, inputs, outputs: worked out twice before the project began unless a source is named
CHECKS = [
    (
        "projectile",
        "speed=70.0 m/s|angle=75.0°",
        {"apex_height": (233, 0.5)},
    ),  # OpenStax, College Physics, projectile example (from memory); g below
    (
        "projectile",
        "speed=6 m/s|angle=40|release_height=0.9 m",
        {
            "range": (4.4806, 5e-5),
            "flight_time": (0.97484, 5e-6),
            "apex_height": (1.6584, 5e-5),
            "impact_speed": (7.3248, 5e-5),
            "impact_angle": (51.134, 5e-4),
        },
    ),
    ("fall-drag", "height=4.2 m|mass=60 g|area=0.16 m²|drag_coefficient=1.3", {"terminal_speed": (2.1491, 5e-5), "time": (2.1062, 5e-5)}),
    ("drag-from-descent", "height=4.2 m|time=2.10623003 s|mass=60 g|area=0.16 m²", {"drag_coefficient": (1.3, 1e-6)}),
    ("free-fall", "height=2.5 m", {"time": (0.71404, 5e-6), "impact_speed": (7.0024, 5e-5)}),
    ("timing-share", "height=2.5 m|timing_scatter=0.1 s", {"share": (0.140, 5e-4)}),
    ("impact", "mass=65 g|impact_speed=7.0024 m/s|stop_time=8 ms", {"average_force": (56.89, 6e-3), "deceleration_g": (89.3, 0.05)}),
    ("impact", "mass=65 g|impact_speed=7.0024 m/s|stop_distance=12 mm", {"average_force": (132.8, 0.05), "deceleration_g": (208.3, 0.05)}),
    ("friction-from-slide", "speed=1.8 m/s|distance=0.62 m", {"coefficient": (0.2664, 5e-5)}),
    ("friction-from-tilt", "angle=17°", {"coefficient": (0.3057, 5e-5)}),
    (
        "rocket-stability",
        "nose=cone|nose_length=60 mm|body_diameter=24 mm|fins=4|root=60 mm|tip=30 mm|span=40 mm|sweep=25 mm|fin_position=260 mm|balance_point=220 mm",
        {"fin_centre": (0.28278, 5e-6), "centre_of_pressure": (0.26352, 5e-6), "margin_calibers": (1.813, 1e-3)},
    ),
    # by hand
    ("average-speed", "distance=12 ft|time=2 s", {"speed": (12 * 0.3048 / 2, 1e-12)}),  # the foot: NIST SP 811, 0.3048 m exactly
    ("hang-time", "time=2.4 s", {"apex_height": (G * 2.4**2 / 8, 1e-12), "launch_speed": (G * 1.2, 1e-12)}),
    ("lifting", "mass=250 g|height=0.6 m|time=4 s", {"work": (0.25 * G * 0.6, 1e-12), "power": (0.25 * G * 0.15, 1e-12)}),
    ("wind-power", "area=0.1 m²|wind_speed=4 m/s|power_out=0.5 W", {"power_in": (3.92, 1e-9), "share": (0.5 / 3.92, 1e-9)}),
    (
        "spin",
        "turns=30|time=12 s|radius=5 cm",
        {"revolutions_per_second": (2.5, 1e-12), "rpm": (150, 1e-9), "tip_speed": (2 * math.pi * 0.05 * 2.5, 1e-12)},
    ),
    (
        "gate-speed",
        "spacing=10 cm|time=0.1 s|time_2=0.05 s|interval=0.5 s",
        {"speed": (1, 1e-12), "speed_2": (2, 1e-12), "acceleration": (2, 1e-12)},
    ),
    ("height-by-angle", "baseline=10 m|angle=45°|eye_height=1.5 m", {"height": (11.5, 1e-9)}),
    ("height-by-two-angles", "baseline=20 m|angle_1=45°|angle_2=45°|eye_height=1.5 m", {"height": (11.5, 1e-9)}),
    (
        "elastic-launch",
        "stiffness=80 N/m|stretch=10 cm|mass=5 g|measured_speed=10 m/s",
        {"energy": (0.4, 1e-12), "speed": (math.sqrt(160), 1e-9), "efficiency": (0.625, 1e-9)},
    ),
    ("canopy-for-speed", "mass=60 g|speed=2.1490734 m/s|drag_coefficient=1.3", {"area": (0.16, 1e-7), "square_side": (0.4, 1e-7)}),
    ("launch-speed-from-range", "range=4.480558 m|angle=40|release_height=0.9 m", {"speed": (6, 1e-4)}),
    (
        "tube-launch",
        "gauge_pressure=2 bar|tube_diameter=15 mm|push_length=30 cm|mass=20 g|angle=0",
        {"energy": (2e5 * math.pi * 0.0075**2 * 0.3, 1e-9)},
    ),
]


def inputs(text: str) -> list[tuple[str, str]]:
    return [tuple(part.split("=", 1)) for part in text.split("|")]  # type: ignore[misc]


@pytest.mark.parametrize(("id", "text", "outputs"), CHECKS)
def test_worked_examples(id: str, text: str, outputs: dict[str, tuple[float, float]]) -> None:
    answer = calculate(id, inputs(text), g=9.80 if "75.0" in text else G)
    for name, (value, tolerance) in outputs.items():
        assert answer.outputs[name].value == pytest.approx(value, abs=tolerance), name
    assert answer.working
    assert answer.source


def test_every_calculator_is_checked_and_every_family_names_only_known_ones() -> None:
    assert {c[0] for c in CHECKS} | {"water-rocket", "projectile-drag", "best-angle", "balance-point", "glide-ratio", "spin-down"} == set(CALCULATORS)  # the last two: tests/core/test_record.py
    assert {c for f in families() for c in f.calculators} <= set(CALCULATORS)


positive = st.floats(0.05, 30)


@settings(max_examples=40, deadline=None)
@given(st.floats(1e-3, 60), st.floats(0.3, 2000))
def test_fall_with_drag_against_integration(height: float, terminal: float) -> None:
    """solve_ivp on v' = g(1 − (v/v∞)²), from tiny drag to nearly steady, heights from a millimetre."""

    def floor(_: float, s: np.ndarray) -> float:
        return float(s[0] - height)

    floor.terminal = True  # type: ignore[attr-defined]
    longest = height / terminal + 5 * math.sqrt(2 * height / G) + 5 * terminal / G
    found = solve_ivp(
        lambda _, s: [s[1], G * (1 - (s[1] / terminal) ** 2)], (0, longest), [0, 0], "DOP853", events=floor, rtol=1e-11, atol=1e-13
    )
    assert drag_fall_time(height, terminal) == pytest.approx(found.t_events[0][0], rel=1e-6)
    assert drag_fall_speed(height, terminal) == pytest.approx(found.y_events[0][0][1], rel=1e-6)


@settings(max_examples=40, deadline=None)
@given(st.floats(0.01, 50), st.floats(0.01, 20), st.floats(0.001, 2))
def test_drag_is_found_again_from_its_own_fall(height: float, coefficient: float, area: float) -> None:
    text = f"height={height!r} m|mass=60 g|area={area!r} m²"
    down = calculate("fall-drag", inputs(f"{text}|drag_coefficient={coefficient!r}"))
    back = (
        calculate("drag-from-descent", [*inputs(text), ("time", f"{down.outputs['time'].value!r} s")])
        if _slowed(down.outputs["time"].value, height)
        else None
    )
    if back is not None:
        assert back.outputs["drag_coefficient"].value == pytest.approx(coefficient, rel=1e-4)


def _slowed(time: float, height: float) -> bool:
    return time > math.sqrt(2 * height / G) * 1.00001


@settings(max_examples=30, deadline=None)
@given(positive, st.floats(-60, 89).map(lambda a: round(a, 3)), st.floats(0, 20).map(lambda h: round(h, 3)))
def test_flight_without_air_against_the_integrated_path_in_thin_air(speed: float, angle: float, height: float) -> None:
    one = calculate("projectile", inputs(f"speed={speed!r}|angle={angle!r}|release_height={height!r}"))
    two = calculate(
        "projectile-drag",
        inputs(f"speed={speed!r}|angle={angle!r}|release_height={height!r}|mass=1 kg|area=0.000000001 m²|drag_coefficient=0.1"),
    )
    for name in ("range", "flight_time", "apex_height", "impact_speed"):
        assert two.outputs[name].value == pytest.approx(one.outputs[name].value, rel=1e-6, abs=1e-6), name


def test_air_shortens_and_slows() -> None:
    text = "speed=20 m/s|angle=40|mass=2.7 g|area=0.001257 m²|drag_coefficient=0.47"  # a table-tennis ball: 40 mm, 2.7 g (ITTF)
    with_air, without = calculate("projectile-drag", inputs(text)), calculate("projectile", inputs("speed=20 m/s|angle=40"))
    assert with_air.outputs["range"].value < 0.5 * without.outputs["range"].value
    assert with_air.outputs["impact_speed"].value < 10


@settings(max_examples=25, deadline=None)
@given(positive, st.floats(0, 20).map(lambda h: round(h, 3)))
def test_best_angle_against_a_search(speed: float, height: float) -> None:
    answer = calculate("best-angle", inputs(f"speed={speed!r}|release_height={height!r}"))
    searched = minimize_scalar(lambda a: -flight_range(speed, a, height), bounds=(0, 90), method="bounded", options={"xatol": 1e-9})
    assert answer.outputs["range"].value == pytest.approx(-searched.fun, rel=1e-7)
    assert answer.outputs["angle"].value == pytest.approx(searched.x, abs=1e-2)


def test_balance_point_by_hand() -> None:
    answer = calculate("balance-point", [("part", "12 g @ 30 mm"), ("part", "20 g @ 80 mm")])
    assert answer.outputs["position"].value == pytest.approx(0.06125)
    assert answer.outputs["moment_of_inertia"].value == pytest.approx(0.012 * 0.03125**2 + 0.020 * 0.01875**2)


def test_water_rocket_against_a_fixed_step_integration_and_its_own_best() -> None:
    """A plain Euler integration with tiny steps of the same balance (Prusa 2000)."""
    text = "gauge_pressure=3 bar|bottle_volume=1.5 l|water_volume=0.5 l|nozzle_diameter=21 mm|dry_mass=120 g|body_diameter=88 mm|drag_coefficient=0.5"
    answer = calculate("water-rocket", inputs(text)).outputs
    water, v, h, t, dt = 0.5e-3, 0.0, 0.0, 0.0, 2e-6
    nozzle, drag = math.pi * 0.021**2 / 4, 0.5 * 1.225 * 0.5 * math.pi * 0.088**2 / 4
    while water > 0:
        over = (3e5 + 101_325) * (1e-3 / (1.5e-3 - water)) ** 1.4 - 101_325
        if over <= 0:
            break
        out = math.sqrt(2 * over / 999.1)
        v += dt * ((999.1 * nozzle * out**2 - drag * v * v) / (0.12 + 999.1 * water) - G)
        h, water, t = h + v * dt, water - nozzle * out * dt, t + dt
    assert answer["burnout_speed"].value == pytest.approx(v, rel=2e-3)
    dt = 1e-4
    while v > 0:
        v -= dt * (drag * v * v / 0.12 + G)
        h, t = h + v * dt, t + dt
    assert answer["apex_height"].value == pytest.approx(h, rel=3e-3)
    assert answer["time_to_apex"].value == pytest.approx(t, rel=3e-3)
    best = answer["best_water_volume"].value
    for other in (0.8, 1.25):
        near = calculate("water-rocket", inputs(text.replace("0.5 l|nozzle", f"{best * other * 1000!r} l|nozzle")))
        at = calculate("water-rocket", inputs(text.replace("0.5 l|nozzle", f"{best * 1000!r} l|nozzle")))
        assert near.outputs["apex_height"].value < at.outputs["apex_height"].value


def test_doubts_against_monte_carlo() -> None:
    """GUM Supplement 1: propagation by drawing; the first-order doubt agrees where doubts are small."""
    answer = calculate("projectile", inputs("speed=6.0 ± 0.1 m/s|angle=40 ± 1 deg|release_height=0.90 ± 0.01 m"))
    rng = np.random.default_rng(3)
    drawn = [
        flight_range(*d) for d in zip(rng.normal(6, 0.1, 40_000), rng.normal(40, 1, 40_000), rng.normal(0.9, 0.01, 40_000), strict=True)
    ]
    assert answer.outputs["range"].doubt == pytest.approx(float(np.std(drawn)), rel=0.02)
    fall = calculate("drag-from-descent", inputs("height=4.2 m|time=2.106 ± 0.05 s|mass=60 g|area=0.16 m²"))
    up, down = (
        calculate("drag-from-descent", inputs(f"height=4.2 m|time={t} s|mass=60 g|area=0.16 m²")).outputs["drag_coefficient"].value
        for t in (2.107, 2.105)
    )
    assert fall.outputs["drag_coefficient"].doubt == pytest.approx((up - down) / 0.002 * 0.05, rel=1e-3)


@pytest.mark.parametrize("angle", [45.0, 44.0, 43.0])
def test_doubts_near_the_best_angle_against_monte_carlo(angle: float) -> None:
    """GUM Supplement 1, where the range hardly changes with the angle: 3° of doubt, by drawing 200,000 angles."""
    answer = calculate("projectile", inputs(f"speed=6 m/s|angle={angle} ± 3 deg"))
    drawn = np.array([flight_range(6.0, a) for a in np.random.default_rng(4).normal(angle, 3, 200_000)])
    assert answer.outputs["range"].doubt == pytest.approx(float(np.std(drawn)), rel=0.05)
    assert answer.outputs["range"].curved == ("angle",)
    assert any(line.startswith("Here range hardly changes with angle") for line in answer.working)


def test_a_result_at_an_edge_is_nought_and_is_said_in_words() -> None:
    straight_up = calculate("projectile", inputs("speed=6 m/s|angle=90 ± 3 deg"))
    assert straight_up.outputs["range"].value == 0.0
    assert "Here range is 0 and cannot be less; with the doubts given it may be as much as about 0.38 m." in straight_up.working
    level = calculate("projectile", inputs("speed=6 m/s|angle=0 deg"))
    assert (level.outputs["range"].value, level.outputs["flight_time"].doubt) == (0.0, 0.0)
    assert not any("cannot be less" in line for line in level.working)


REFUSED = [
    ("free-fall", "height=0 m", "input_range"),
    ("free-fall", "height=2 s", "reading_wrong_dimension"),
    ("free-fall", "", "input_missing"),
    ("free-fall", "hight=2", "input_unknown"),
    ("impact", "mass=1 kg|impact_speed=2|stop_time=1 ms|stop_distance=1 mm", "input_one_of"),
    ("impact", "mass=1 kg|impact_speed=2", "input_one_of"),
    ("drag-from-descent", "height=4.2 m|time=0.5 s|mass=60 g|area=0.16 m²", "fall_too_fast"),
    ("launch-speed-from-range", "range=4 m|angle=-30", "range_impossible"),
    (
        "water-rocket",
        "gauge_pressure=3 bar|bottle_volume=1 l|water_volume=2 l|nozzle_diameter=21 mm|dry_mass=120 g|body_diameter=88 mm|drag_coefficient=0.5",
        "water_over_bottle",
    ),
    (
        "rocket-stability",
        "nose=round|nose_length=1|body_diameter=1|fins=3|root=1|tip=1|span=1|sweep=1|fin_position=1|balance_point=1",
        "input_choice",
    ),
    ("teleport", "", "calculator_unknown"),
    ("balance-point", "part=12 g", "input_unknown"),
    ("free-fall", "height=≥2 m", "input_bound"),
]


@pytest.mark.parametrize(("id", "text", "code"), REFUSED)
def test_what_a_calculator_refuses(id: str, text: str, code: str) -> None:
    with pytest.raises(CalculationRefused) as caught:
        calculate(id, inputs(text) if text else [])
    assert caught.value.code == code


def test_the_command_line_answers_in_the_contracts_shape() -> None:
    done = subprocess.run(
        [sys.executable, "-m", "bendro.terminal", "calc", "free-fall", "height=2.5 m ± 1 cm", "--g", "9.81", "--json"],
        capture_output=True,
        text=True,
        cwd=ROOT,
        check=True,
    )
    shape = json.loads(done.stdout)
    assert set(shape) == {"id", "inputs", "outputs", "working", "assumptions", "source"}
    assert shape["inputs"] == {"height": {"value": 2.5, "unit": "m"}}
    assert shape["outputs"]["time"]["unit"] == "s"
    assert shape["outputs"]["time"]["uncertainty"] == pytest.approx(0.01 * shape["outputs"]["time"]["value"] / 5, rel=1e-5)
    refused = subprocess.run(
        [sys.executable, "-m", "bendro.terminal", "calc", "free-fall", "height=-1 m", "--json"], capture_output=True, text=True, cwd=ROOT
    )
    assert refused.returncode == 2
    assert json.loads(refused.stdout)["error"]["code"] == "input_range"
    assert "height" in refused.stderr
