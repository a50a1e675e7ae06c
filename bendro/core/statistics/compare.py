"""Effects between levels: two levels, pairs, three or more."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from typing import Literal

import numpy as np
from scipy import stats

from ..results import Difference, Groups, LevelName, Pair
from ..trials import Trial
from .bounds import SEPARATE_P, groups_with_bounds, near_end, scores_of
from .counts import are_counts, counts_of
from .describe import bound_of_mean, t_interval
from .quiet import answered_here
from .ranges import range_isf, range_sf
from .shuffle import bound_scores, shuffle_groups, shuffle_signs, shuffle_two
from .unequal import groups_unequal, spreads_ask

#: Below this p the Brown-Forsythe test says that spreads differ, and pairs are compared by Games-Howell.
SPREADS_DIFFER_P = 0.05


def readings_of(trials: Sequence[Trial]) -> tuple[list[float], list[str]]:
    """Values and kinds of the trials that count."""
    kept = [t for t in trials if t.counts and t.value is not None]
    return [t.value for t in kept if t.value is not None], [t.kind for t in kept]


def overlap(a: Sequence[float], b: Sequence[float]) -> bool:
    """Whether the ranges of two levels touch."""
    return not (max(a) < min(b) or max(b) < min(a))


#: Readings alike to this share of their size differ only by how a unit was turned into another.
SAME_SHARE = 8 * float(np.finfo(float).eps)


def _no_spread(*groups: Sequence[float]) -> bool:
    return all(np.ptp(g) <= SAME_SHARE * max(abs(np.max(g)), abs(np.min(g))) for g in groups)


@answered_here()
def two_levels(
    between: tuple[LevelName, LevelName], first: Sequence[Trial], second: Sequence[Trial], *, counted: bool = False
) -> Difference:
    """Difference of means (second − first) with Welch's interval and the exact shuffle.

    With *at least* or *at most* readings the t figures are left out and the shuffle works on Gehan scores. counted: readings are
    counts or points, which have a test of their own beside it. Source: Welch 1947, Biometrika 34, 28-35.
    """
    a, kinds_a = readings_of(first)
    b, kinds_b = readings_of(second)
    estimate = math.fsum(b) / len(b) - math.fsum(a) / len(a)
    bound = _bound_of_difference(bound_of_mean(kinds_a), bound_of_mean(kinds_b))
    t = df = p_t = ci = None
    enough = len(a) >= 2 and len(b) >= 2
    if bound is None and enough and not _no_spread(a, b):
        welch = stats.ttest_ind(b, a, equal_var=False)
        interval = welch.confidence_interval(0.95)
        t, df, p_t = float(welch.statistic), float(welch.df), float(welch.pvalue)
        ci = (float(interval.low), float(interval.high))
    if bound is None:
        shuffled = shuffle_two(a, b)
    else:
        scores = bound_scores([*a, *b], [*kinds_a, *kinds_b])
        shuffled = shuffle_two(scores[: len(a)], scores[len(a) :])
    near = None if bound is None else near_end(estimate, bound, a, b)
    p_t = p_t if near is None else near[1]
    mean_a = math.fsum(a) / len(a)
    counts = None
    if counted and bound is None and are_counts([*a, *b]):
        counts, (pair,) = counts_of({between[0]: a, between[1]: b})
        ci = pair.ci95
    return Difference(
        between=between,
        estimate=estimate,
        ci95=ci,
        t=t,
        df=df,
        p_t=p_t,
        p_shuffle=shuffled.p,
        shuffle_exact=shuffled.exact,
        shuffle_arrangements=shuffled.arrangements,
        smallest_p=shuffled.smallest_p,
        shuffle_seed=shuffled.seed,
        shuffle_method=shuffled.method,
        n_per_level=(len(a), len(b)),
        near_end=None if near is None else near[0],
        shuffle_grain=shuffled.largest_below if bound is None or near is not None else 0.05,
        ratio=(math.fsum(b) / len(b)) / mean_a if mean_a > 0 else None,
        bound=bound,
        ranges_overlap=overlap(a, b),
        counts=counts,
    )


def _bound_of_difference(first: str, second: str) -> Literal["at_least", "at_most", "unknown"] | None:
    if first == second == "exact":
        return None
    if first in ("exact", "at_most") and second in ("exact", "at_least"):
        return "at_least"
    if first in ("exact", "at_least") and second in ("exact", "at_most"):
        return "at_most"
    return "unknown"


def paired(between: tuple[LevelName, LevelName], pairs: Sequence[tuple[float, float]]) -> Difference:
    """Mean of (second − first) within pairs with Student's interval and the sign-flip shuffle.
    Source: Student 1908; Fisher 1935, The Design of Experiments, section 21."""
    differences = [b - a for a, b in pairs]
    n = len(differences)
    estimate = math.fsum(differences) / n
    t = df = p_t = None
    ci = None if n < 2 or _no_spread(differences) else t_interval(differences)
    if ci is not None:
        test = stats.ttest_1samp(differences, 0.0)
        t, df, p_t = float(test.statistic), float(test.df), float(test.pvalue)
    shuffled = shuffle_signs(differences)
    mean_a = math.fsum(a for a, _ in pairs) / n
    return Difference(
        between=between,
        estimate=estimate,
        ci95=ci,
        t=t,
        df=df,
        p_t=p_t,
        p_shuffle=shuffled.p,
        shuffle_exact=shuffled.exact,
        shuffle_arrangements=shuffled.arrangements,
        smallest_p=shuffled.smallest_p,
        shuffle_seed=shuffled.seed,
        shuffle_method=shuffled.method,
        n_per_level=(n, n),
        shuffle_grain=shuffled.largest_below,
        ratio=1 + estimate / mean_a if mean_a > 0 else None,
        paired=True,
        pairs=n,
        ranges_overlap=min(differences) <= 0 <= max(differences),
    )


@answered_here()
def three_or_more(levels: Mapping[LevelName, Sequence[Trial]], *, best_is: str = "high", counted: bool = False) -> Groups:
    """Classical and Welch ANOVA, shuffle on F, and every pair by Tukey-Kramer, or Games-Howell where spreads differ; counts
    and points (counted) by the test for counts and its pairs.

    Source: Fisher 1925; Welch 1951, Biometrika 38; Tukey 1949, Kramer 1956, Biometrics; Games & Howell 1976, J. Educ. Stat. 1.
    """
    names = list(levels)
    values, kinds = zip(*(readings_of(levels[n]) for n in names), strict=True)
    if any(bound_of_mean(k) != "exact" for k in kinds):
        bounds = [_bound_of_difference(bound_of_mean(kinds[i]), bound_of_mean(kinds[j])) for i, j in itertools.combinations(range(len(names)), 2)]
        found = groups_with_bounds(names, values, kinds, bounds, places=(), ranges_overlap=any(overlap(a, b) for a, b in itertools.combinations(values, 2)))
        return found.model_copy(update={"places": places(names, scores_of(values, kinds), found.pairs, best_is=best_is)})
    f = p = f_welch = p_welch = df = None
    many = [len(v) >= 2 for v in values]
    if sum(map(len, values)) > len(names) and not _no_spread(*values):
        anova = stats.f_oneway(*values)
        f, p = _never_below_zero(float(anova.statistic), float(anova.pvalue))
        df = (float(len(names) - 1), float(sum(map(len, values)) - len(names)))
        if all(many) and not any(_no_spread(v) for v in values):
            welch = stats.f_oneway(*values, equal_var=False)
            f_welch, p_welch = _never_below_zero(float(welch.statistic), float(welch.pvalue))
    counts, shuffled = None, shuffle_groups(values)
    if counted and are_counts([v for group in values for v in group]):
        counts, pairs = counts_of(dict(zip(names, values, strict=True)))
        method: str | None = "counts_holm"
    else:
        pairs, method = _pairs(names, values, f is not None)
    step = max((t.resolution or 0.0 for n in names for t in levels[n] if t.counts), default=0.0)
    return Groups(
        f=f,
        p_anova=p,
        f_welch=f_welch,
        p_welch=p_welch,
        p_shuffle=shuffled.p,
        shuffle_exact=shuffled.exact,
        shuffle_arrangements=shuffled.arrangements,
        shuffle_seed=shuffled.seed,
        shuffle_method=shuffled.method,
        smallest_p=shuffled.smallest_p,
        p_unequal=_allowing(values, step, p_welch),
        spreads_ask=spreads_ask(values, step),
        pairs=pairs,
        pairs_method=method,
        places=places(names, [math.fsum(v) / len(v) for v in values], pairs, best_is=best_is),
        df=df,
        ranges_overlap=any(overlap(a, b) for a, b in itertools.combinations(values, 2)),
        counts=counts,
    )


#: With a level of so many times fewer trials than another Welch's test must agree as well (found by simulation).
FEW_BESIDE_MANY = 1.5


def _allowing(values: Sequence[Sequence[float]], step: float, p_welch: float | None) -> float | None:
    """p that allows for unequal spreads."""
    sizes, p = [len(v) for v in values], groups_unequal(values, step)
    return p if p is None or p_welch is None or max(sizes) <= FEW_BESIDE_MANY * min(sizes) else max(p, p_welch)


def _never_below_zero(f: float, p: float) -> tuple[float, float]:
    """Levels with one and the same mean: rounding may leave F a hair below zero, where the library has no p."""
    return (f, p) if f > 0 else (0.0, 1.0)


@answered_here()
def spreads_differ(values: Sequence[Sequence[float]]) -> float | None:
    """p of the Brown-Forsythe test that spreads are alike; None when a level has fewer than three readings.
    Source: Brown & Forsythe 1974, J. Am. Stat. Assoc. 69, 364-367."""
    if len(values) < 2 or any(len(v) < 3 for v in values) or _no_spread(*values):
        return None
    p = float(stats.levene(*values, center="median").pvalue)
    return p if math.isfinite(p) else None


def _pairs(names: Sequence[LevelName], values: Sequence[Sequence[float]], can: bool) -> tuple[tuple[Pair, ...], str | None]:
    singles = any(len(v) < 2 for v in values)
    if not can or singles:
        return tuple(
            Pair(
                between=(names[i], names[j]),
                estimate=math.fsum(values[j]) / len(values[j]) - math.fsum(values[i]) / len(values[i]),
                ci95=None,
                p_adjusted=None,
            )
            for i, j in itertools.combinations(range(len(names)), 2)
        ), None
    differ = spreads_differ(values)
    flat = any(_no_spread(v) for v in values)
    howell = differ is not None and differ < SPREADS_DIFFER_P and not flat
    n = [len(v) for v in values]
    means = [math.fsum(v) / len(v) for v in values]
    spreads = [float(np.var(v, ddof=1)) for v in values]
    free = sum(n) - len(n)
    pooled = sum((m - 1) * v for m, v in zip(n, spreads, strict=True)) / free
    made = []
    for i, j in itertools.combinations(range(len(names)), 2):
        parts = [(spreads[at] if howell else pooled) / n[at] for at in (i, j)]
        df = sum(parts) ** 2 / sum(v**2 / (n[at] - 1) for v, at in zip(parts, (i, j), strict=True)) if howell else float(free)
        se, estimate = math.sqrt(sum(parts) / 2), means[j] - means[i]
        half = range_isf(0.05, len(names), df) * se
        made.append(
            Pair(
                between=(names[i], names[j]),
                estimate=estimate,
                ci95=(estimate - half, estimate + half),
                p_adjusted=range_sf(abs(estimate) / se, len(names), df),
            )
        )
    return tuple(made), "games_howell" if howell else "tukey_kramer"


def places(
    names: Sequence[LevelName], middles: Sequence[float], pairs: Sequence[Pair], *, best_is: str = "high", alpha: float = SEPARATE_P
) -> tuple[tuple[LevelName, ...], ...]:
    """Ranking, best first. A new place starts only where every device above it is separated from every device below it,
    so any two that cannot be separated share a place."""
    order = sorted(range(len(names)), key=lambda i: middles[i], reverse=best_is == "high")
    apart = {frozenset(p.between) for p in pairs if p.p_adjusted is not None and p.p_adjusted < alpha}
    result: list[list[LevelName]] = [[]]
    for at, i in enumerate(order):
        if at and all(frozenset((names[a], names[b])) in apart for a in order[:at] for b in order[at:]):
            result.append([])
        result[-1].append(names[i])
    return tuple(tuple(p) for p in result)
