"""Counts and points: as many hits, loads or points in a trial. Their scatter grows with their number, so they are compared by their
totals, with the scatter seen within the levels beside the one that independent hits would have."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence

import numpy as np
from scipy import special, stats

from ..results import Counts, LevelName, Pair
from .holm import holm

#: Compositions of a total are all tried while there are no more than so many.
MOST_TABLES = 200_000
TIE = 1e-9
#: Of a number that is rounded to a whole one.
STEP_VARIANCE = 1 / 12


def are_counts(values: Sequence[float]) -> bool:
    """Whole numbers from zero, not all of them zero."""
    return all(v >= 0 and float(v).is_integer() for v in values) and any(values)


def excess_of(groups: Sequence[Sequence[float]]) -> tuple[float, int]:
    """Scatter within levels as a multiple of what independent hits would have, as wide as its own few freedoms leave it, and those
    freedoms; 1 where every level was tried once, and hits must be taken as independent. Turns that are counted scatter far less than hits;
    never less than whole numbers do by being whole.
    Source: McCullagh & Nelder 1989, section 6.2 (Pearson's estimate); widened by Student's quantile over the normal's."""
    squares, free = 0.0, 0
    middle = math.fsum(itertools.chain.from_iterable(groups)) / sum(map(len, groups))
    for group in groups:
        mean = math.fsum(group) / len(group)
        if mean > 0:
            squares += math.fsum((v - mean) ** 2 for v in group) / mean
        free += len(group) - 1
    if free == 0:
        return 1.0, 0
    return max(squares / free, STEP_VARIANCE / middle) * widened(free) ** 2, free


def widened(free: int) -> float:
    """By how much Student's quantile is wider than the normal's."""
    return float(stats.t.isf(0.025, free) / stats.norm.isf(0.025))


def counts_of(levels: Mapping[LevelName, Sequence[float]]) -> tuple[Counts, tuple[Pair, ...]]:
    """One test over all levels (two or more; counts from `are_counts`), and every pair by Holm. Given the total of all, equal levels share
    it as their numbers of trials do. Source: Przyborowski & Wilenski 1940, Biometrika 31, 313-323 (two counts); Holm 1979."""
    names, groups = list(levels), list(levels.values())
    excess, free = excess_of(groups)
    totals, trials = [math.fsum(g) for g in groups], [len(g) for g in groups]
    p, exact = over_all(totals, trials, excess, free)
    found = Counts(p=p, excess=excess, freedoms=free, exact=exact, totals=tuple(totals))
    order = list(itertools.combinations(range(len(names)), 2))
    raw = [two_totals((totals[i], trials[i]), (totals[j], trials[j]), excess) for i, j in order]
    alpha = 0.05 / max(len(order), 1)
    pairs = tuple(
        Pair(
            between=(names[i], names[j]),
            estimate=totals[j] / trials[j] - totals[i] / trials[i],
            ci95=difference_interval((totals[i], trials[i]), (totals[j], trials[j]), excess, alpha),
            p_adjusted=held,
        )
        for (i, j), held in zip(order, holm(raw), strict=True)
    )
    return found, pairs


def two_totals(first: tuple[float, int], second: tuple[float, int], excess: float) -> float:
    """Two-sided p that two totals (total, trials) come from one rate: twice the smaller tail of the binomial law of the first among
    both, at totals made smaller by the excess."""
    (a, n), (b, m) = first, second
    a, b = a / excess, b / excess
    if a + b == 0:
        return 1.0
    share = n / (n + m)
    below = special.betainc(b, a + 1, 1 - share) if b > 0 else 1.0
    above = special.betainc(a, b + 1, share) if a > 0 else 1.0
    return float(min(1.0, 2 * min(below, above)))


def over_all(totals: Sequence[float], trials: Sequence[int], excess: float, free: int) -> tuple[float, bool]:
    """p that all totals come from one rate, and whether every way to share the total was tried; else by chi squared, or by F where the
    excess is an estimate with so many freedoms."""
    if len(totals) == 2:
        return two_totals((totals[0], trials[0]), (totals[1], trials[1]), excess), free == 0
    total = math.fsum(totals)
    share = np.asarray(trials, float) / sum(trials)
    if free == 0 and math.comb(int(total) + len(totals) - 1, len(totals) - 1) <= MOST_TABLES:
        law = stats.multinomial(int(total), share)
        ways = np.array(list(_shared_out(int(total), len(totals))))
        logs = law.logpmf(ways)
        return min(1.0, float(np.exp(logs[logs <= float(law.logpmf(np.asarray(totals, int))) + TIE]).sum())), True
    expected = total * share
    chi2, more = float(((np.asarray(totals) - expected) ** 2 / expected).sum()), len(totals) - 1
    if free == 0:
        return float(stats.chi2.sf(chi2, more)), False
    return float(stats.f.sf(chi2 / more * widened(free) ** 2 / excess, more, free)), False


def _shared_out(total: int, parts: int) -> list[tuple[int, ...]]:
    """Every way to share a total among so many parts."""
    bars = itertools.combinations(range(total + parts - 1), parts - 1)
    return [tuple(b - a - 1 for a, b in itertools.pairwise((-1, *cut, total + parts - 1))) for cut in bars]


def difference_interval(first: tuple[float, int], second: tuple[float, int], excess: float, alpha: float = 0.05) -> tuple[float, float]:
    """Interval of (second − first) per trial, from each rate's own.
    Source: Garwood 1936, Biometrika 28 (each rate); Donner & Zou 2012, Stat. Methods Med. Res. 21 (the difference)."""
    (one, low_one, high_one), (two, low_two, high_two) = (_rate(t, n, excess, alpha) for t, n in (first, second))
    gap = two - one
    return (
        gap - math.hypot(two - low_two, high_one - one),
        gap + math.hypot(high_two - two, one - low_one),
    )


def _rate(total: float, trials: int, excess: float, alpha: float) -> tuple[float, float, float]:
    seen = total / excess
    low = float(special.gammaincinv(seen, alpha / 2)) if seen > 0 else 0.0
    high = float(special.gammainccinv(seen + 1, alpha / 2))
    return total / trials, low * excess / trials, high * excess / trials
