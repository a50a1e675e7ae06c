"""Survived or failed: shares with their intervals, devices compared, and the height that half survive."""

from __future__ import annotations

import itertools
import math
import warnings
from collections.abc import Mapping, Sequence

import numpy as np
from scipy import stats
from scipy.optimize import isotonic_regression

from ..results import FisherPair, LevelName, Survival, SurvivalLevel
from .holm import holm
from .shuffle import ARRANGEMENTS, SHUFFLE_SEED

#: Tables with fixed margins are all tried while there are no more than so many; tables as likely to this share of a logarithm tie.
MOST_TABLES, TIE = 200_000, 1e-9


def share(level: LevelName, survived: int, n: int) -> SurvivalLevel:
    """k of n (n >= 1) with Wilson's and Clopper-Pearson's 95 % intervals.
    Source: Wilson 1927, J. Am. Stat. Assoc. 22; Clopper & Pearson 1934, Biometrika 26."""
    found = stats.binomtest(survived, n)
    wilson, exact = (found.proportion_ci(0.95, method=m) for m in ("wilson", "exact"))
    return SurvivalLevel(level=level, survived=survived, n=n, wilson95=_within(wilson), exact95=_within(exact))


def _within(pair: tuple[float, float]) -> tuple[float, float]:
    low, high = float(pair[0]), float(pair[1])
    return (0.0 if low < 1e-12 else low), (1.0 if high > 1 - 1e-12 else high)


def survival(levels: Mapping[LevelName, Sequence[bool]], *, numeric: bool) -> Survival:
    """Shares per level, Fisher's exact test for each pair, and on numeric levels the half height or the bracket.
    levels: each level's outcomes (True survived), at least one each. Source: Fisher 1935."""
    shares = tuple(share(level, sum(o), len(o)) for level, o in levels.items())
    pairs = list(itertools.combinations(shares, 2))
    raw = [fisher_p(a, b) for a, b in pairs]
    fisher, held = (
        tuple(FisherPair(between=(a.level, b.level), p=p) for (a, b), p in zip(pairs, given, strict=True)) for given in (raw, holm(raw))
    )
    p, all_tried = over_all([s.survived for s in shares], [s.n for s in shares])
    if not numeric:
        return Survival(levels=shares, fisher=fisher, fisher_holm=held, p=p, p_exact=all_tried)
    passed = [float(s.level) for s in shares if s.survived > 0]
    failed = [float(s.level) for s in shares if s.survived < s.n]
    bracket = (max(passed) if passed else None, min(failed) if failed else None)
    separated = not passed or not failed or max(passed) <= min(failed) or min(passed) >= max(failed)
    half, interval = (None, None) if separated else half_height(levels)
    between = None if separated else half_between(shares)
    if between is not None and any(s.survived == s.n and float(s.level) >= between[1] > between[0] for s in shares):
        half = interval = between = None  # a level that all survived is not beyond the limit
    if half is not None and not min(float(s.level) for s in shares) <= half <= max(float(s.level) for s in shares):
        half = interval = None  # beyond everything tried: a curve knows nothing there
    return Survival(
        levels=shares,
        fisher=fisher,
        fisher_holm=held,
        p=p,
        p_exact=all_tried,
        half_height=half,
        half_height_ci95=interval,
        half_between=between,
        bracket=bracket,
        separated=separated,
        mixed=not separated,
    )


def fisher_p(a: SurvivalLevel, b: SurvivalLevel) -> float:
    """Two-sided. Source: Fisher 1935, J. R. Stat. Soc. 98."""
    return float(stats.fisher_exact([[a.survived, a.n - a.survived], [b.survived, b.n - b.survived]]).pvalue)


def over_all(survived: Sequence[int], n: Sequence[int]) -> tuple[float | None, bool]:
    """p of one exact test over all levels, and whether every table was tried (else so many were drawn, seeded). None for one level.
    Source: Freeman & Halton 1951, Biometrika 38, 141-149."""
    if len(n) < 2:
        return None, True
    kept, sizes, total = np.asarray(survived), np.asarray(n), int(sum(survived))
    ways = np.asarray(stats.multivariate_hypergeom.logpmf(kept, sizes, total))
    if math.prod(int(v) + 1 for v in n) <= MOST_TABLES:
        tables = np.indices([int(v) + 1 for v in n]).reshape(len(n), -1).T
        tables = tables[tables.sum(axis=1) == total]
        logs = stats.multivariate_hypergeom.logpmf(tables, sizes, total)
        return min(1.0, float(np.exp(logs[logs <= ways + TIE]).sum())), True
    drawn = np.random.default_rng(SHUFFLE_SEED).multivariate_hypergeometric(sizes, total, size=ARRANGEMENTS)
    logs = stats.multivariate_hypergeom.logpmf(drawn, sizes, total)
    return (int(np.count_nonzero(logs <= ways + TIE)) + 1) / (ARRANGEMENTS + 1), False


def falling_shares(shares: Sequence[SurvivalLevel]) -> list[float]:
    """The shares, from the lowest level up, made never to rise: neighbours that rise are pooled.
    Source: Ayer, Brunk, Ewing, Reid & Silverman 1955, Ann. Math. Stat. 26, 641-647 (pool adjacent violators)."""
    ordered = sorted(shares, key=lambda s: float(s.level))
    found = isotonic_regression([s.survived / s.n for s in ordered], weights=[s.n for s in ordered], increasing=False)
    return [float(v) for v in found.x]


def half_between(shares: Sequence[SurvivalLevel]) -> tuple[float, float] | None:
    """The two neighbouring levels between which survival, made never to rise, passes one half (the same twice where it is one half at a
    level); None where it does not pass it. Whatever the curve's shape."""
    at, fallen = sorted(float(s.level) for s in shares), falling_shares(shares)
    above = [x for x, v in zip(at, fallen, strict=True) if v > 0.5 + TIE]
    below = [x for x, v in zip(at, fallen, strict=True) if v < 0.5 - TIE]
    even = [x for x, v in zip(at, fallen, strict=True) if abs(v - 0.5) <= TIE]
    if even:
        return even[0], even[-1]
    return (above[-1], below[0]) if above and below else None


def half_height(levels: Mapping[LevelName, Sequence[bool]]) -> tuple[float | None, tuple[float, float] | None]:
    """Height that half survive, by logistic regression, with its interval by the delta method; (None, None) where the
    fit does not fall with height. Heights in the factor's unit. Source: McCullagh & Nelder 1989, chapter 4."""
    x = np.array([float(level) for level, o in levels.items() for _ in o])
    y = np.array([float(v) for o in levels.values() for v in o])
    from statsmodels.genmod.families import Binomial  # slow to load, and seldom used
    from statsmodels.genmod.generalized_linear_model import GLM

    centre, scale = float(x.mean()), float(np.ptp(x)) or 1.0
    design = np.column_stack([np.ones_like(x), (x - centre) / scale])
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # near-separation warns; what matters is checked on the estimates below
        fit = GLM(y, design, family=Binomial()).fit(maxiter=100)
    a, b = (float(v) for v in fit.params)
    covariance = np.asarray(fit.cov_params())
    if not fit.converged or b >= 0 or not np.all(np.isfinite(covariance)):
        return None, None
    gradient = np.array([-1 / b, a / b**2])
    half = float(stats.norm.isf(0.025)) * math.sqrt(max(float(gradient @ covariance @ gradient), 0.0)) * scale
    middle = centre - a / b * scale
    return middle, (middle - half, middle + half)
