"""Survived or failed: shares with their intervals, devices compared, and the height that half survive."""

from __future__ import annotations

import itertools
import math
import warnings
from collections.abc import Mapping, Sequence

import numpy as np
from scipy import stats
from statsmodels.genmod.families import Binomial
from statsmodels.genmod.generalized_linear_model import GLM
from statsmodels.stats.proportion import proportion_confint

from ..results import FisherPair, LevelName, Survival, SurvivalLevel


def share(level: LevelName, survived: int, n: int) -> SurvivalLevel:
    """k of n (n >= 1) with Wilson's and Clopper-Pearson's 95 % intervals.
    Source: Wilson 1927, J. Am. Stat. Assoc. 22; Clopper & Pearson 1934, Biometrika 26."""
    wilson = proportion_confint(survived, n, 0.05, method="wilson")
    exact = proportion_confint(survived, n, 0.05, method="beta")
    low, high = (0.0 if survived == 0 else float(exact[0])), (1.0 if survived == n else float(exact[1]))
    return SurvivalLevel(level=level, survived=survived, n=n, wilson95=_within(wilson), exact95=(low, high))


def _within(pair: tuple[float, float]) -> tuple[float, float]:
    low, high = float(pair[0]), float(pair[1])
    return (0.0 if low < 1e-12 else low), (1.0 if high > 1 - 1e-12 else high)


def survival(levels: Mapping[LevelName, Sequence[bool]], *, numeric: bool) -> Survival:
    """Shares per level, Fisher's exact test for each pair, and on numeric levels the half height or the bracket.
    levels: each level's outcomes (True survived), at least one each. Source: Fisher 1935."""
    shares = tuple(share(level, sum(o), len(o)) for level, o in levels.items())
    fisher = tuple(
        FisherPair(
            between=(a.level, b.level), p=float(stats.fisher_exact([[a.survived, a.n - a.survived], [b.survived, b.n - b.survived]]).pvalue)
        )
        for a, b in itertools.combinations(shares, 2)
    )
    if not numeric:
        return Survival(levels=shares, fisher=fisher)
    passed = [float(s.level) for s in shares if s.survived > 0]
    failed = [float(s.level) for s in shares if s.survived < s.n]
    bracket = (max(passed) if passed else None, min(failed) if failed else None)
    separated = not passed or not failed or max(passed) <= min(failed) or min(passed) >= max(failed)
    half, interval = (None, None) if separated else half_height(levels)
    return Survival(levels=shares, fisher=fisher, half_height=half, half_height_ci95=interval, bracket=bracket, separated=separated)


def half_height(levels: Mapping[LevelName, Sequence[bool]]) -> tuple[float | None, tuple[float, float] | None]:
    """Height that half survive, by logistic regression, with its interval by the delta method; (None, None) where the
    fit does not fall with height. Heights in the factor's unit. Source: McCullagh & Nelder 1989, chapter 4."""
    x = np.array([float(level) for level, o in levels.items() for _ in o])
    y = np.array([float(v) for o in levels.values() for v in o])
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
