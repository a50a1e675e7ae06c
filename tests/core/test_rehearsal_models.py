"""What a rehearsal expects, against the same motion stepped through in time; its scatters; and the bounds of a plan's numbers."""

from __future__ import annotations

import math
from typing import Any

import pytest
from annotated_types import Ge, Le
from scipy.integrate import solve_ivp

from bendro.core.draft import Draft, MaterialsDraft, MeasureDraft, RotaDraft, TimingDraft
from tests.records import MODELS

G, AIR = 9.80665, 1.225  # standard gravity (CGPM 1901); air at 15 °C (ISO 2533:1975)


def thrown(speed: float, angle: float, height: float) -> tuple[float, float]:
    """Seconds and metres to first touch, stepped through."""
    up, along = speed * math.sin(math.radians(angle)), speed * math.cos(math.radians(angle))

    def floor(_: float, y: Any) -> float:
        return float(y[0])

    floor.terminal, floor.direction = True, -1  # type: ignore[attr-defined]
    found = solve_ivp(lambda t, y: [y[1], -G], (0, 60), [height + 1e-12, up], events=floor, rtol=1e-10, atol=1e-12)
    seconds = float(found.t_events[0][0])
    return seconds, along * seconds


def fallen(height: float, mass: float, area: float, drag: float) -> float:
    """Seconds to fall through air from rest, stepped through."""

    def floor(_: float, y: Any) -> float:
        return float(y[0])

    floor.terminal, floor.direction = True, -1  # type: ignore[attr-defined]
    pull = 0.5 * AIR * area * drag / mass
    found = solve_ivp(lambda t, y: [-y[1], G - pull * y[1] ** 2], (0, 200), [height, 0], events=floor, rtol=1e-10, atol=1e-12)
    return float(found.t_events[0][0])


def speed_of(joules: float, kilograms: float) -> float:
    return math.sqrt(2 * joules / kilograms)


#: model, level, reading expected: sizes of ordinary school devices (common practice).
MOVED = [
    (("launcher", "counterweight", "distance to first touch"), 2.0, thrown(speed_of(0.4 * 2 * 9.81 * 0.5, 0.12), 42, 0.9)[1]),
    (("launcher", "pull-back", "distance to first touch"), 10.0, thrown(speed_of(0.5 * 120 * 0.01 * 0.6, 0.01), 42, 0.9)[1]),
    (("launcher", "release angle", "distance to first touch"), 30.0, thrown(6, 30, 0.9)[1]),
    (("rocket", "water", "hang time"), 23.5, thrown(11 / math.e, 86, 0)[0]),
    (("rocket", "launch angle", "distance"), 50.0, thrown(12, 50, 0.5)[1]),
    (("glider", "nose clay", "distance"), 3.5, 1.5 * 2.5),
    (("rotor", "blade length", "fall time"), 8.0, fallen(2.5, 0.003, math.pi * 0.0064, 0.8)),
    (("rotor", "tail mass", "fall time"), 2.0, fallen(2.5, 0.005, 0.02, 0.8)),
    (("parachute", "canopy side", "descent time"), 30.0, fallen(4.2, 0.06, 0.09, 1.3)),
    (("parachute", "spill-hole width", "descent time"), 10.0, fallen(4.2, 0.06, 0.1936 - math.pi * 0.0025, 0.95)),
    (("parachute", "payload mass", "descent time"), 50.0, fallen(4.2, 0.05, 0.16, 1.3)),
]


@pytest.mark.parametrize(("key", "level", "expected"), MOVED)
def test_what_a_model_expects_is_what_the_motion_gives(key: tuple[str, str, str], level: float, expected: float) -> None:
    assert MODELS[key].true(level) == pytest.approx(expected, rel=2e-3)


def test_the_scatter_of_devices_and_the_error_of_thumbs_and_tapes() -> None:
    """Common practice: a thumb scatters by a tenth of a second, a tape by a centimetre or two on grass."""
    assert {k[0] + ", " + k[1]: (m.scatter, m.reading_error, m.timed) for k, m in MODELS.items()} == {
        "launcher, counterweight": (0.03, 0.02, False),
        "launcher, pull-back": (0.05, 0.02, False),
        "launcher, release angle": (0.04, 0.02, False),
        "rocket, water": (0.05, 0.1, True),
        "rocket, launch angle": (0.07, 0.05, False),
        "glider, nose clay": (0.1, 0.02, False),
        "rotor, blade length": (0.05, 0.1, True),
        "rotor, tail mass": (0.05, 0.1, True),
        "parachute, canopy side": (0.04, 0.1, True),
        "parachute, spill-hole width": (0.04, 0.1, True),
        "parachute, payload mass": (0.04, 0.1, True),
        "vehicle, push speed": (0.08, 0.01, False),
        "vehicle, ramp height": (0.08, 0.01, False),
        "spinner, ring radius": (0.12, 0.1, True),
        "turbine, blade pitch": (0.08, 0.1, True),
        "protector, crumple length": (0.12, 4, False),
    }


#: The numbers of a plan as its form promises them: where it begins, least, most.
PROMISED: list[tuple[type, str, float, float, float]] = [
    (MeasureDraft, "timers", 1, 1, 3),
    *[(TimingDraft, name, start, 0, 3600) for name, start in (("setup_s", 20), ("flight_s", 5), ("reading_s", 20), ("reset_s", 15))],
    (TimingDraft, "trials_min", 25, 0, 600),
    (TimingDraft, "lanes", 1, 1, 12),
    (TimingDraft, "adults", 1, 0, 12),
    (RotaDraft, "lesson_min", 50, 1, 600),
    *[(RotaDraft, name, start, 0, 600) for name, start in (("build_min", 10), ("test_min", 0), ("improve_min", 5))],
    (RotaDraft, "rounds", 2, 1, 6),
    (RotaDraft, "tidy_min", 5, 0, 120),
    (MaterialsDraft, "devices_each", 1, 0, 50),
    (MaterialsDraft, "spare", 1, 0, 500),
    (Draft, "practice", 1, 0, 20),
    (Draft, "people", 3, 1, 6),
]


@pytest.mark.parametrize(("form", "name", "start", "least", "most"), PROMISED)
def test_a_number_of_the_plan_begins_and_ends_where_its_form_says(form: Any, name: str, start: float, least: float, most: float) -> None:
    field = form.model_fields[name]
    bounds = {type(b): getattr(b, "ge", None) if isinstance(b, Ge) else getattr(b, "le", None) for b in field.metadata}
    assert (field.default, bounds[Ge], bounds[Le]) == (start, least, most)
