"""Planning arithmetic: time, materials, packs, money, mass rules."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp

from ..errors import PlanRefused

MOST_LANES = 6


@dataclass(frozen=True, slots=True, kw_only=True)
class LessonTime:
    """minutes: for all trials over the lanes. change: the smallest change that makes it fit, or None when it fits."""

    minutes: float
    fits: bool
    change: str | None


def lesson_time(
    *,
    levels: int,
    repeats: int,
    lanes: int,
    setup_s: float,
    flight_s: float,
    reading_s: float,
    reset_s: float,
    lesson_min: float,
    practice: int = 0,
    adult_each: bool = False,
    fewer: str = "levels",
) -> LessonTime:
    """Time for levels × repeats trials and the practice trials over the lanes. All at least one, practice >= 0; seconds >= 0;
    lesson_min > 0. adult_each: one more lane takes one more adult, and the sentence says so. fewer: what
    could be fewer, as it is called; "" where every device has its trials. Raises PlanRefused `time_inputs`."""
    one = setup_s + flight_s + reading_s + reset_s
    if min(levels, repeats, lanes) < 1 or practice < 0 or one <= 0 or min(setup_s, flight_s, reading_s, reset_s) < 0 or lesson_min <= 0:
        raise PlanRefused("Levels, repeats and lanes are at least 1, and times are above zero.", code="time_inputs")

    def minutes(n_levels: int, n_repeats: int, n_lanes: int) -> float:
        return (math.ceil(n_levels * n_repeats / n_lanes) + math.ceil(practice / n_lanes)) * one / 60

    need = minutes(levels, repeats, lanes)
    if need <= lesson_min:
        return LessonTime(minutes=need, fits=True, change=None)
    over = f"It takes {math.ceil(need)} min, {math.ceil(need - lesson_min)} too many."
    for change, sentence in _time_changes(levels, repeats, lanes, adult_each, fewer):
        if minutes(*change) <= lesson_min:
            return LessonTime(minutes=need, fits=False, change=f"{over} {sentence}")
    return LessonTime(minutes=need, fits=False, change=f"{over} Share it over {math.ceil(need / lesson_min)} lessons.")


def _time_changes(levels: int, repeats: int, lanes: int, adult_each: bool, of_what: str) -> list[tuple[tuple[int, int, int], str]]:
    """(levels, repeats, lanes) and its sentence, the smallest change first."""
    made: list[tuple[tuple[int, int, int], str]] = []
    adults = " with an adult at it" if adult_each else ""
    if lanes < MOST_LANES:
        made.append(((levels, repeats, lanes + 1), f"One more lane{adults} makes it fit."))
    made += [((levels, fewer, lanes), f"{fewer} repeats instead of {repeats} make it fit.") for fewer in range(repeats - 1, 2, -1)]
    least = min(repeats, 3)
    if of_what:
        made += [((fewer, least, lanes), f"{fewer} {of_what} with {least} repeats make it fit.") for fewer in range(levels - 1, 2, -1)]
    adults = " with an adult at each" if adult_each else ""
    made += [((levels, repeats, more), f"{more} lanes{adults} make it fit.") for more in range(lanes + 2, MOST_LANES + 1)]
    return made


def needed(per_device: float, devices: int, spare: int = 0) -> float:
    """Amount for so many devices and spare ones, in the unit of per_device. Raises PlanRefused `material_inputs`."""
    if per_device <= 0 or devices < 1 or spare < 0:
        raise PlanRefused(
            "An amount per device is above zero, devices are at least 1, and spares are not below zero.", code="material_inputs"
        )
    return per_device * (devices + spare)


@dataclass(frozen=True, slots=True, kw_only=True)
class Pack:
    """size: what one pack holds, in the unit of the need. price: for one pack, >= 0, in any money."""

    name: str
    size: float
    price: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Purchase:
    counts: tuple[int, ...]
    cost: float
    left_over: float
    unit_prices: tuple[float, ...]
    best_unit_price: str


def cheapest_packs(need: float, packs: Sequence[Pack]) -> Purchase:
    """The packs to buy at least cost; among equally cheap ways the one with least left over. Integer programme through
    scipy's milp. Raises PlanRefused `packs_inputs`."""
    if need <= 0 or not packs or any(p.size <= 0 or p.price < 0 for p in packs):
        raise PlanRefused("A need is above zero, and each pack holds something and has a price.", code="packs_inputs")
    return _cheapest(need, tuple(packs))


@lru_cache(maxsize=2048)  # a list is worked out anew at every change to one of its lines
def _cheapest(need: float, packs: tuple[Pack, ...]) -> Purchase:
    sizes, prices = np.array([p.size for p in packs]), np.array([p.price for p in packs])
    most = np.ceil(need / sizes)

    def solve(goal: np.ndarray, limits: list[LinearConstraint]) -> np.ndarray:
        found = milp(goal, constraints=limits, integrality=np.ones(len(packs)), bounds=Bounds(0, most))
        if found.x is None:
            raise PlanRefused("No choice of packs could be found.", code="packs_inputs")
        return np.asarray(np.round(found.x))

    enough = LinearConstraint(sizes, need * (1 - 1e-12), np.inf)
    first = solve(prices, [enough])
    chosen = solve(sizes, [enough, LinearConstraint(prices, -np.inf, float(prices @ first) + 1e-9)])
    each = prices / sizes
    return Purchase(
        counts=tuple(int(c) for c in chosen),
        cost=float(prices @ chosen),
        left_over=float(sizes @ chosen) - need,
        unit_prices=tuple(float(v) for v in each),
        best_unit_price=packs[int(np.argmin(each))].name,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceCost:
    one: float
    thousand: float


def device_cost(materials: float, assembly_min: float = 0.0, hourly: float = 0.0) -> DeviceCost:
    """Money for one device and for a thousand, with assembly time. Raises PlanRefused `cost_inputs`."""
    if min(materials, assembly_min, hourly) < 0:
        raise PlanRefused("Costs and times are not below zero.", code="cost_inputs")
    one = materials + assembly_min / 60 * hourly
    return DeviceCost(one=one, thousand=1000 * one)


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleMet:
    rule: str
    met: bool
    says: str


def mass_rules(
    device_g: float,
    *,
    payload_g: float | None = None,
    limit_g: float | None = None,
    multiple: float | None = None,
    last_device_g: float | None = None,
    share_of_last: float = 0.75,
) -> tuple[RuleMet, ...]:
    """The mass rules in use, each met or broken with its numbers. Masses in g, > 0. limit_g: of the device. multiple: device
    and payload together at most so many payload masses. share_of_last: of the last version's mass."""
    found = []

    def rule(name: str, value: float, bound: float, what: str) -> None:
        word = "keeps" if value <= bound * (1 + 1e-12) else "breaks"
        found.append(RuleMet(rule=name, met=word == "keeps", says=f"{what} {value:.4g} g {word} the limit of {bound:.4g} g."))

    if limit_g is not None:
        rule("limit", device_g, limit_g, "The device’s")
    if multiple is not None and payload_g is not None:
        rule("multiple", device_g + payload_g, multiple * payload_g, "Device and payload together,")
    if last_device_g is not None:
        rule("share_of_last", device_g, share_of_last * last_device_g, "The new version’s")
    return tuple(found)
