"""How a number came about: the formula, the numbers put in, the answer."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from ..errors import TableRefused
from ..results import Effect, Groups, GroupsEffect, LevelSummary, Pair
from ..statistics.compare import two_levels
from ..statistics.describe import NO_MEAN, bound_of_mean, describe
from ..trials import Level, Trial
from ..written import ReadingLevel, at_place, level_label
from .wording import NOTHING_TO_SHUFFLE, chance

if TYPE_CHECKING:
    from ..context import Context


@dataclass(frozen=True, slots=True, kw_only=True)
class Working:
    """title, and lines to be read from the top."""

    title: str
    lines: tuple[str, ...]


def _at(trials: Sequence[Trial], level: Level) -> list[Trial]:
    found = [t for t in trials if t.level == level and t.counts and t.value is not None]
    if not found:
        raise TableRefused(f"There is no kept trial at {level}.", code="level_unknown", where="level")
    return found


def _number(value: float) -> str:
    return f"{value:.6g}".replace("-", "−")


def _written(trial: Trial) -> str:
    places = None if not trial.resolution else max(0, -math.floor(math.log10(trial.resolution) + 1e-9))
    mark = {"exact": "", "at_least": "≥", "at_most": "≤", "estimate": "~"}[trial.kind]
    value = trial.value or 0.0
    text = at_place(value, places) if places is not None and abs(round(value, places) - value) < 1e-9 else _number(value)
    return f"{mark}{text}"


def how_mean(
    trials: Sequence[Trial], level: Level, factor_unit: str | None, s: LevelSummary, *, unit: str | None, reading: ReadingLevel = "middle"
) -> Working:
    """The mean, the half-range and the SD of one level, with every reading put in. s: the level as the table shows it, so that
    the answer is the same text. reading: the first level stops at half the range."""
    kept = _at(trials, level)
    n, u = len(kept), f" {unit}" if unit else ""
    if s.shown is not None and s.shown.mean == NO_MEAN:
        return _how_rungs(kept, level, factor_unit, s, u)
    numbers = " + ".join(_written(t) for t in kept)
    lines = [
        "mean = sum of the kept readings ÷ how many",
        f"= ({numbers}) ÷ {n}",
        f"= {_number(s.total or 0.0)} ÷ {n} = {_number(s.mean or 0.0)}{u}",
    ]
    bound = bound_of_mean([t.kind for t in kept])
    if bound != "exact":
        lines.append(
            "A reading in it is only a bound, so the mean is one too: "
            + {"at_least": "at least", "at_most": "at most"}.get(bound, "not known from one side")
            + f" {_number(s.mean or 0.0)}{u}"
        )
    if n == 1:
        lines.append("One trial shows no spread.")
    else:
        lines.append(
            f"half range = (largest − smallest) ÷ 2 = ({_number(s.max or 0.0)} − {_number(s.min or 0.0)}) ÷ 2 = {_number(s.half_range or 0.0)}{u}"
        )
    if s.sd is not None and s.ci95 is not None and reading != "first":
        squares = sum((v - (s.mean or 0.0)) ** 2 for v in (t.value or 0.0 for t in kept))
        lines += [
            f"SD = √(sum of squared distances from the mean ÷ (n − 1)) = √({_number(squares)} ÷ {n - 1}) = {_number(s.sd)}{u}",
            f"95 % interval of the mean = mean ± t × SD ÷ √n = {_number(s.mean or 0.0)} ± {_number((s.ci95[1] - s.ci95[0]) / 2 / (s.sd / math.sqrt(n)) if s.sd else 0.0)}"
            f" × {_number(s.sd)} ÷ √{n} = {_number(s.ci95[0])} to {_number(s.ci95[1])}{u}",
        ]
    void = sum(t.level == level and t.state == "void" for t in trials)
    if void:
        lines.append(f"{void} void trial{'' if void == 1 else 's'} left out.")
    lines.append(f"Written with {_as_many(s)}: {s.quoted}")
    return Working(title=f"Mean at {level_label(level, factor_unit)}", lines=tuple(lines))


def _how_rungs(kept: Sequence[Trial], level: Level, factor_unit: str | None, s: LevelSummary, unit: str) -> Working:
    """Of a ladder the middle specimen: each is known only as between two rungs, so they have no mean."""
    climbs = ", ".join(_written(t) for t in sorted(kept, key=lambda t: t.value or 0.0))
    middle = "the middle one" if len(kept) % 2 else "the lower of the two in the middle"
    lines = (
        f"The highest rung that each specimen survived, from the lowest up: {climbs}{unit}.",
        "Each would have survived a little more, but not the next rung, so they have no mean.",
        f"The result is {middle}: {s.result_quoted}",
    )
    return Working(title=f"Result at {level_label(level, factor_unit)}", lines=lines)


def _as_many(s: LevelSummary) -> str:
    if s.places == s.reading_places:
        return "as many decimals as the readings have"
    return "one decimal, as a mean of whole numbers is" if s.places == 1 else "two decimals, as a mean of many whole numbers is"


#: How every pair of several levels is judged, so that looking at many of them is paid for.
_PAIRS = {
    "tukey_kramer": "Tukey and Kramer’s range test", "games_howell": "Games and Howell’s range test, which allows for unlike scatter",
    "tukey_within_blocks": "Tukey’s range test within the blocks", "tukey_adjusted": "Tukey’s range test at a common slope", "rank_shuffle_closed": "a shuffle of ranks, every way in which they may be alike (closed testing)", "rank_shuffle_shaffer": "a shuffle of ranks, each p among all pairs (Shaffer)",
}  # fmt: skip


def _how_pair(pair: Pair, groups: Groups, lines: Sequence[str], title: str, u: str) -> Working:
    """Among several levels a pair is judged together with all others: the table's own interval and p."""
    method = _PAIRS.get(groups.pairs_method or "", "a test for all pairs together")
    within = " It is at like blocks, so it need not be the difference of the plain means." if groups.blocked or groups.adjusted_for else ""
    many = len(groups.pairs)
    more = [f"Among {many} pairs each is judged together with the others, by {method}.{within}"]
    if pair.shown is not None and pair.shown.ci95:
        more.append(f"difference = {pair.shown.estimate}{u}, 95 % interval = {pair.shown.ci95}{u}")
    if pair.shown is not None and pair.shown.p:
        more.append(f"p among all pairs: {pair.shown.p}")
    return Working(title=title, lines=(*lines, *more))


def how_difference(trials: Sequence[Trial], first: Level, second: Level, asked: Context, effect: Effect) -> Working:
    """The difference between two levels with its interval and its shuffle, numbers put in. The first reading level sees the
    difference alone. effect: of the analysis, by which a pair among several levels is judged."""
    factor_unit, unit, reading = asked.factor_unit, asked.unit, asked.reading
    a, b = _at(trials, first), _at(trials, second)
    d, u = two_levels((first, second), a, b, counted=asked.are_counted), f" {unit}" if unit not in (None, "", "count") else ""
    one, two = describe(first, a), describe(second, b)
    names = level_label(first, factor_unit), level_label(second, factor_unit)
    lines = [
        f"difference = mean at {names[1]} − mean at {names[0]}",
        f"= {_number(two.mean or 0.0)} − {_number(one.mean or 0.0)} = {_number(d.estimate)}{u}",
    ]
    if reading == "first":
        return Working(title=f"{names[1]} against {names[0]}", lines=tuple(lines))
    if isinstance(effect, GroupsEffect):
        pair = next((p for p in effect.groups.pairs if set(p.between) == {first, second}), None)
        if pair is not None and d.counts is None:
            return _how_pair(pair, effect.groups, lines, f"{names[1]} against {names[0]}", u)
    if d.counts is not None:
        lines += [
            f"totals: {_number(d.counts.totals[0])} in {len(a)} and {_number(d.counts.totals[1])} in {len(b)} trials",
            f"Within the levels they scatter {_number(d.counts.excess)} times as much as independent hits would, as wide as so few trials leave it."
            if d.counts.freedoms
            else "Each level was tried once, so hits are taken as independent.",
            f"Test for counts: totals so unlike come by luck with p = {d.counts.p:.3g}.",
        ]
        if d.ci95 is not None:
            lines.append(f"95 % interval = {_number(d.ci95[0])} to {_number(d.ci95[1])}{u}")
    elif d.ci95 is not None and d.df is not None and d.t is not None and one.sd is not None and two.sd is not None:
        se = math.sqrt(one.sd**2 / len(a) + two.sd**2 / len(b))
        lines += [
            f"its standard error = √(SD² ÷ n + SD² ÷ n) = √({_number(one.sd)}² ÷ {len(a)} + {_number(two.sd)}² ÷ {len(b)}) = {_number(se)}{u}",
            f"t = difference ÷ standard error = {_number(d.t)}, with {d.df:.1f} degrees of freedom (Welch)",
            f"95 % interval = {_number(d.ci95[0])} to {_number(d.ci95[1])}{u}",
        ]
    elif d.bound is not None:
        lines.append("A reading is only a bound, so no interval is given; the shuffle below compares by rank as far as the bounds allow.")
    else:
        lines.append("An interval needs at least two different readings at each level.")
    if d.shuffle_exact and d.shuffle_arrangements == 1:
        lines.append(NOTHING_TO_SHUFFLE)
    elif d.p_shuffle is not None:
        how = "every way" if d.shuffle_exact else f"{d.shuffle_arrangements} random ways (seed {d.shuffle_seed})"
        lines.append(
            f"Shuffle: dealing the {len(a) + len(b)} readings anew in {how} gives a difference as large in "
            f"{chance(d.p_shuffle, d.shuffle_arrangements, d.shuffle_exact)} (p = {d.p_shuffle:.3g})."
        )
    return Working(title=f"{names[1]} against {names[0]}", lines=tuple(lines))
