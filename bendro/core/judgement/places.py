"""The levels or devices in the order of their results: worked out once, and said by the headline, the numbers, Decide, the podium, the
final, the poster and the terminal alike.

A place goes by the rule agreed in the direction of the question. It is shared only where results are equal as written. Who breaks a rule
stands below the line with the reason. Beside each neighbouring pair stands whether the trials can tell them apart; nothing is chained.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..results import DifferenceEffect, Effect, GroupsEffect, LevelName, LevelSummary, PairedEffect, Ranked, SurvivalEffect
from ..statistics.bounds import SEPARATE_P
from ..trials import Better, Level
from ..written import at_place, with_unit


@dataclass(frozen=True, slots=True, kw_only=True)
class Agreed:
    """Where a level stands by a rule of the plan's own. place: None where the rule gives it none."""

    level: Level
    place: int | None
    shared: bool
    result: str
    why: str


def ranked(
    levels: Sequence[LevelSummary],
    effect: Effect,
    *,
    unit: str | None,
    best_is: Better,
    clear: bool,
    agreed: Sequence[Agreed] = (),
    outside: Mapping[Level, str] | None = None,
) -> tuple[Ranked, ...]:
    """Every level with a result, best first; below them those that break a rule. unit: of the results, None or "count" for none. clear:
    whether the answer to the study is clear, by which two that are compared alone are told apart. agreed: places by a rule of the plan's
    own. outside: levels that break a rule, with the reason."""
    below = outside or {}
    if agreed:
        return _by_rule(agreed, levels, below)
    if isinstance(effect, SurvivalEffect):
        found = [(s.level, s.survived / s.n, f"{s.survived} of {s.n}") for s in effect.survival.levels if s.n]
        sign = -1.0
    else:
        found = [(s.level, value, with_unit(_written(s, value), unit)) for s in levels if s.n_kept and (value := result_of(s)) is not None]
        sign = -1.0 if best_is == "high" else 1.0
    # stable: those that are equal as written stay in the order of the plan
    by_result = sorted(found, key=lambda one: sign * (one[1] if isinstance(effect, SurvivalEffect) else _as_written(one[2], one[1])))
    ordered = [one for one in by_result if one[0] not in below]
    keys: list[object] = [round(value, 9) if isinstance(effect, SurvivalEffect) else text for _, value, text in ordered]
    made: list[Ranked] = []
    for n, (level, value, text) in enumerate(ordered):
        after = ordered[n + 1][0] if n + 1 < len(ordered) else None
        apart = None if after is None else told_apart(effect, level, after, clear=clear)
        made.append(
            Ranked(level=level, place=1 + keys.index(keys[n]), shared=keys.count(keys[n]) > 1, value=value, result=text, apart_from_next=apart)
        )
    made += [
        Ranked(level=level, place=None, shared=False, value=value, result=text, apart_from_next=None, outside=below[level])
        for level, value, text in by_result
        if level in below
    ]
    return tuple(made)


def _by_rule(agreed: Sequence[Agreed], levels: Sequence[LevelSummary], below: Mapping[Level, str]) -> tuple[Ranked, ...]:
    """By a rule of the plan's own; places close up over those that stand below the line."""
    values = {s.level: result_of(s) for s in levels}
    inside = [a for a in agreed if a.place is not None and a.level not in below]
    places = [a.place for a in inside]
    made = [
        Ranked(
            level=a.level, place=1 + places.index(a.place), shared=places.count(a.place) > 1, value=values.get(a.level), result=a.result, why=a.why,
            apart_from_next=None,
        )
        for a in inside
    ]  # fmt: skip
    made += [
        Ranked(level=a.level, place=None, shared=False, value=values.get(a.level), result=a.result, why="", apart_from_next=None, outside=below.get(a.level, a.why))
        for a in agreed
        if a not in inside
    ]
    return tuple(made)


def result_of(s: LevelSummary) -> float | None:
    """What counts for a level by the rule agreed; its mean where no other was."""
    return s.result if s.result is not None else s.mean


def _written(s: LevelSummary, value: float) -> str:
    return s.shown.result if s.shown is not None else at_place(value, s.places)


def _as_written(text: str, value: float) -> float:
    """The number that a result reads as; its value where no number stands in it."""
    found = re.search(r"−?\d+(\.\d+)?", text)
    return float(found[0].replace("−", "-")) if found else value


def told_apart(effect: Effect, one: LevelName, two: LevelName, *, clear: bool) -> bool | None:
    """Whether the trials can tell two levels apart; None where that was not looked at (a relation over numbers)."""
    if isinstance(effect, DifferenceEffect | PairedEffect):
        return clear
    pairs: Sequence[tuple[tuple[LevelName, LevelName], float | None]] = ()
    if isinstance(effect, GroupsEffect):
        pairs = [(p.between, p.p_adjusted) for p in effect.groups.pairs]
    elif isinstance(effect, SurvivalEffect):
        pairs = [(p.between, p.p) for p in effect.survival.fisher_holm or effect.survival.fisher]
    found = next((p for between, p in pairs if set(between) == {one, two}), None)
    return None if found is None else found < SEPARATE_P


def first_of(places: Sequence[Ranked]) -> list[Ranked]:
    """Those that stand first: one, or several with equal results."""
    return [r for r in places if r.place == 1]


def not_told_from(first: LevelName, places: Sequence[Ranked], effect: Effect, *, clear: bool) -> list[LevelName]:
    """Levels with lesser results which the trials cannot tell from the first, in the order of their places."""
    return [r.level for r in places if r.place is not None and r.place > 1 and told_apart(effect, first, r.level, clear=clear) is False]
