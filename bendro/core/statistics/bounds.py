"""Readings that are only bounds: levels compared by Gehan scores, every pair by closed testing, and a difference computed with the bound
itself where that is on the safe side."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence

import numpy as np
from scipy import stats

from ..results import Groups, LevelName, Pair
from .holm import shaffer
from .shuffle import bound_scores, shuffle_groups, shuffle_parts, shuffle_two
from .tails import t_isf, t_two

#: A pair is told apart below this.
SEPARATE_P = 0.05
#: Up to so many levels every way in which some of them may be alike is tested; of more there are too many.
CLOSED = 5


def near_end(estimate: float, bound: str | None, one: Sequence[float], two: Sequence[float]) -> tuple[float, float] | None:
    """Of a difference of which only one side is known (second less first): the near end of its 95 % interval, and p, where the bound is on the
    safe side, so that the true difference can only be larger. None otherwise, or with fewer than two readings. A level of bounds hides its
    scatter, so neither counts as scattering less than the other. Source: as Welch 1947, Biometrika 34."""
    if (bound, estimate > 0) not in (("at_least", True), ("at_most", False)) or min(len(one), len(two)) < 2 or estimate == 0:
        return None
    wide = max(float(np.var(one, ddof=1)), float(np.var(two, ddof=1)))
    if wide <= 0:
        return None
    se, df = math.sqrt(wide * (1 / len(one) + 1 / len(two))), min(len(one), len(two)) - 1
    half = t_isf(0.025, df) * se
    return estimate - math.copysign(half, estimate), t_two(estimate / se, df)


def groups_with_bounds(
    names: Sequence[LevelName], values: Sequence[Sequence[float]], kinds: Sequence[Sequence[str]], bounds: Sequence[str | None], **more: object
) -> Groups:
    """Three levels or more of which some readings are bounds. bounds: of each pair's difference, in the order of their pairs; more: what is told
    whatever the readings are. No intervals but those open on one side."""
    parts = _scored(values, kinds)
    shuffled = shuffle_groups(parts)
    pairs_of = list(itertools.combinations(range(len(names)), 2))
    alone = [_of_two(values[i], kinds[i], values[j], kinds[j], bound) for (i, j), bound in zip(pairs_of, bounds, strict=True)]
    adjusted = _closed(values, kinds, shuffled.p, alone) if len(names) <= CLOSED else shaffer(alone, len(names), shuffled.p)
    pairs = []
    for (i, j), p, bound in zip(pairs_of, adjusted, bounds, strict=True):
        estimate = math.fsum(values[j]) / len(values[j]) - math.fsum(values[i]) / len(values[i])
        near = near_end(estimate, bound, values[i], values[j])
        pairs.append(Pair(between=(names[i], names[j]), estimate=estimate, ci95=None, p_adjusted=p, near_end=None if near is None else near[0]))
    return Groups(
        f=None,
        p_anova=None,
        p_shuffle=shuffled.p,
        shuffle_exact=shuffled.exact,
        shuffle_arrangements=shuffled.arrangements,
        shuffle_seed=shuffled.seed,
        shuffle_method=shuffled.method,
        smallest_p=shuffled.smallest_p,
        pairs=tuple(pairs),
        pairs_method="rank_shuffle_closed" if len(names) <= CLOSED else "rank_shuffle_shaffer",
        **more,
    )


def scores_of(values: Sequence[Sequence[float]], kinds: Sequence[Sequence[str]]) -> list[float]:
    """The mean Gehan score of each level among all."""
    return [math.fsum(p) / len(p) for p in _scored(values, kinds)]


def _scored(values: Sequence[Sequence[float]], kinds: Sequence[Sequence[str]]) -> list[list[float]]:
    scores = bound_scores([v for group in values for v in group], [k for group in kinds for k in group])
    cuts = list(itertools.accumulate(len(v) for v in values))
    return [scores[start:end] for start, end in zip([0, *cuts], cuts, strict=False)]


def _of_two(one: Sequence[float], kinds_one: Sequence[str], two: Sequence[float], kinds_two: Sequence[str], bound: str | None) -> float:
    """p of two levels by themselves: by the shuffle of scores; where its steps cannot reach the bound (three against three) by the interval,
    Welch's or the one that is open on its side."""
    first, second = _scored([one, two], [kinds_one, kinds_two])
    shuffled = shuffle_two(first, second)
    if shuffled.smallest_p <= SEPARATE_P:
        return shuffled.p
    if bound is not None:
        near = near_end(math.fsum(two) / len(two) - math.fsum(one) / len(one), bound, one, two)
        return shuffled.p if near is None else near[1]
    if min(len(one), len(two)) < 2 or max(float(np.ptp(one)), float(np.ptp(two))) == 0:
        return shuffled.p
    return float(stats.ttest_ind(one, two, equal_var=False).pvalue)


def _closed(values: Sequence[Sequence[float]], kinds: Sequence[Sequence[str]], overall: float, alone: Sequence[float]) -> list[float]:
    """p of each pair among all: the largest of those of every way in which the two, and some of the others, may be alike. alone: p of each
    pair by itself. Source: Marcus, Peritz & Gabriel 1976, Biometrika 63, 655-660."""
    k = len(values)
    found = dict.fromkeys(itertools.combinations(range(k), 2), 0.0)
    by_pair = dict(zip(found, alone, strict=True))
    for ways in _partitions(list(range(k))):
        several = [part for part in ways if len(part) > 1]
        if not several:
            continue
        if len(several[0]) == k:
            p = overall
        elif len(several) == 1 and len(several[0]) == 2:
            one, two = sorted(several[0])
            p = by_pair[one, two]
        else:
            p = shuffle_parts([_scored([values[i] for i in part], [kinds[i] for i in part]) for part in several]).p
        for part in several:
            for pair in itertools.combinations(sorted(part), 2):
                found[pair] = max(found[pair], p)
    return list(found.values())


def _partitions(names: list[int]) -> Iterator[list[list[int]]]:
    """Every way to part them into sets."""
    if not names:
        yield []
        return
    first, rest = names[0], names[1:]
    for ways in _partitions(rest):
        yield [[first], *ways]
        for at, part in enumerate(ways):
            yield [*ways[:at], [first, *part], *ways[at + 1 :]]
