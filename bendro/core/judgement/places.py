"""The levels or devices in the order of their results: worked out once, and said by the headline, the numbers, Decide, the podium, the
final, the poster and the terminal alike.

A place goes by the result agreed (mean, median, best or total) in the direction of the question. It is shared only where results are equal
to the last digit that the readings have. Beside each neighbouring pair stands whether the trials can tell them apart; nothing is chained through that.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Literal

from ..results import DifferenceEffect, Effect, GroupsEffect, LevelName, LevelSummary, PairedEffect, Ranked, SurvivalEffect
from ..statistics.compare import SEPARATE_P
from ..statistics.describe import at_place


def ranked(levels: Sequence[LevelSummary], effect: Effect, *, unit: str | None, best_is: Literal["high", "low"], clear: bool) -> tuple[Ranked, ...]:
    """Every level with a result, best first. unit: of the results, None or "count" for none. clear: whether the answer to the study is
    clear, by which two that are compared alone are told apart."""
    if isinstance(effect, SurvivalEffect):
        found = [(s.level, s.survived / s.n, f"{s.survived} of {s.n}") for s in effect.survival.levels if s.n]
        sign, digits = -1.0, 9
    else:
        with_unit = "" if unit in (None, "", "count") else f" {unit}"
        found = [(s.level, value, f"{_written(s, value)}{with_unit}") for s in levels if s.n_kept and (value := result_of(s)) is not None]
        sign = -1.0 if best_is == "high" else 1.0
        digits = max([1, *(s.reading_places or 0 for s in levels)])  # whole numbers have a mean with one decimal
    ordered = sorted(found, key=lambda one: sign * one[1])  # stable: those that are equal stay in the order of the plan
    keys = [round(value, digits) for _, value, _ in ordered]
    made: list[Ranked] = []
    for n, (level, value, text) in enumerate(ordered):
        after = ordered[n + 1][0] if n + 1 < len(ordered) else None
        apart = None if after is None else told_apart(effect, level, after, clear=clear)
        made.append(
            Ranked(level=level, place=1 + keys.index(keys[n]), shared=keys.count(keys[n]) > 1, value=value, result=text, apart_from_next=apart)
        )
    return tuple(made)


def better_place(question: str) -> Literal["high", "low"]:
    """Which end of the places is best: the last where the question asks who lands last, else the first."""
    asks = {w for w in ("first", "last") if re.search(rf"\b{w}\b", question, re.IGNORECASE)}
    return "high" if asks == {"last"} else "low"


def result_of(s: LevelSummary) -> float | None:
    """What counts for a level by the rule agreed; its mean where no other was."""
    return s.result if s.result is not None else s.mean


def _written(s: LevelSummary, value: float) -> str:
    return s.shown.result if s.shown is not None else at_place(value, s.places)


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
    return [r.level for r in places if r.place > 1 and told_apart(effect, first, r.level, clear=clear) is False]
