"""The levels or devices in the order of their results, for steps that are shared where the trials cannot tell them apart."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

from ..judgement.ranking import PlaceTaken
from ..results import Analysis, DifferenceEffect, GroupsEffect, LevelSummary, PairedEffect, SurvivalEffect
from ..statistics.describe import at_place
from ..trials import Level


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """place: 1 for the first; shared: with others. level: as analysed; label: as it is called. number: the result as it is shown, with
    its unit. shape: which of the levels it is in the order of the plan, by which it is drawn."""

    place: int
    shared: bool
    label: str
    number: str
    shape: int


def podium(a: Analysis, labels: Sequence[tuple[Level, str]], *, better: Literal["high", "low"], agreed: Sequence[PlaceTaken] = ()) -> tuple[Step, ...]:
    """The steps, best first; levels without a kept trial have none. labels: of every level in the order of the plan. agreed: the places
    by a rule of the plan's own, where it has one; else those that the trials can tell apart."""
    label, shape = dict(labels), {level: n for n, (level, _) in enumerate(labels)}
    numbers = _numbers(a)
    if agreed:
        by_name = {name: level for level, name in labels}
        tiers = [[by_name.get(n, n) for n in p.names] for p in agreed]
    else:
        tiers = [[s for s in tier if s in numbers] for tier in _tiers(a, better)]
    steps: list[Step] = []
    for tier in (t for t in tiers if t):
        place = 1 + len(steps)
        steps += [
            Step(place=place, shared=len(tier) > 1, label=label.get(level, str(level)), number=numbers.get(level, ""), shape=shape.get(level, 0))
            for level in tier
        ]
    return tuple(steps)


def _tiers(a: Analysis, better: Literal["high", "low"]) -> list[list[Level]]:
    if isinstance(a.effect, GroupsEffect):
        return [list(tier) for tier in a.effect.groups.places]
    if isinstance(a.effect, SurvivalEffect):
        shares = {s.level: s.survived / s.n if s.n else -1.0 for s in a.effect.survival.levels}
        return _alike(list(shares), lambda level: -shares[level])
    ranked = [s for s in a.levels if s.n_kept and _result(s) is not None]
    sign = -1.0 if better == "high" else 1.0
    if isinstance(a.effect, DifferenceEffect | PairedEffect) and a.verdict.answer != "clear":
        return [[s.level for s in ranked]]  # two that cannot be told apart share the step
    value = {s.level: _result(s) for s in ranked}
    return _alike([s.level for s in ranked], lambda level: sign * (value[level] or 0.0))


def _alike(levels: Sequence[Level], key: Callable[[Level], float]) -> list[list[Level]]:
    tiers: dict[float, list[Level]] = {}
    for level in levels:
        tiers.setdefault(round(key(level), 9), []).append(level)
    return [tiers[k] for k in sorted(tiers)]


def _result(s: LevelSummary) -> float | None:
    return s.result if s.result is not None else s.mean


def _numbers(a: Analysis) -> dict[Level, str]:
    if isinstance(a.effect, SurvivalEffect):
        return {s.level: f"{s.survived} of {s.n}" for s in a.effect.survival.levels if s.n}
    unit = "" if a.response.unit in (None, "", "count") else f" {a.response.unit}"
    return {s.level: f"{s.shown.result if s.shown is not None else at_place(_result(s) or 0.0, s.places)}{unit}" for s in a.levels if s.n_kept and _result(s) is not None}
