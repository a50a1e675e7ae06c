"""Comparing within blocks, and with a numeric covariate: additive least squares through statsmodels."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from typing import Any

import numpy as np
import pandas as pd
from scipy import stats
from statsmodels.regression.linear_model import OLS
from statsmodels.stats.anova import anova_lm

from ..errors import TableRefused
from ..results import Adjusted, Friedman, Groups, LevelName, Pair
from .compare import places
from .quiet import answered_here


def _frame(values: Sequence[float], levels: Sequence[LevelName], other: Sequence[object]) -> tuple[pd.DataFrame, list[LevelName]]:
    names = list(dict.fromkeys(levels))
    codes = [names.index(level) for level in levels]
    return pd.DataFrame({"y": np.asarray(values, float), "level": codes, "other": list(other)}), names


def _pairs_of(fit: Any, names: Sequence[LevelName]) -> tuple[Pair, ...]:
    """Every pair of levels in a fitted additive model, by Tukey's studentized range on the contrasts.
    Source: Tukey 1949; Kramer 1956; Hsu 1996, Multiple Comparisons, 7.2 (adjusted means)."""
    terms = list(fit.params.index)
    df, k = float(fit.df_resid), len(names)
    critical = float(stats.studentized_range.isf(0.05, k, df)) / math.sqrt(2) if df > 0 else math.nan
    made = []
    for i, j in itertools.combinations(range(k), 2):
        contrast = np.zeros(len(terms))
        for sign, at in ((1, j), (-1, i)):
            if at:
                contrast[terms.index(f"C(level)[T.{at}]")] += sign
        estimate = float(contrast @ fit.params)
        se = math.sqrt(max(float(contrast @ fit.cov_params() @ contrast), 0.0))
        p = ci = None
        if df > 0 and se > 0:
            p = min(1.0, float(stats.studentized_range.sf(abs(estimate) / se * math.sqrt(2), k, df)))
            ci = (estimate - critical * se, estimate + critical * se)
        made.append(Pair(between=(names[i], names[j]), estimate=estimate, ci95=ci, p_adjusted=p))
    return tuple(made)


def _adjusted_middles(fit: Any, names: Sequence[LevelName]) -> list[float]:
    return [0.0 if i == 0 else float(fit.params[f"C(level)[T.{i}]"]) for i in range(len(names))]


@answered_here()
def blocked(values: Sequence[float], levels: Sequence[LevelName], blocks: Sequence[str], *, best_is: str = "high") -> Groups:
    """Effect of the level in the additive level + block model (type II), with Friedman's test and Kendall's W beside it
    where every block holds every level once.

    Source: Montgomery, Design and Analysis of Experiments, randomized complete blocks; Friedman 1937; Kendall & Babington
    Smith 1939. Raises TableRefused `blocks_confounded` when level and block cannot be told apart.
    """
    frame, names = _frame(values, levels, blocks)
    model = OLS.from_formula("y ~ C(level) + C(other)", frame)
    if np.linalg.matrix_rank(model.exog) < model.exog.shape[1]:
        raise TableRefused(
            "Level and block cannot be told apart: each block needs more than one level.", code="blocks_confounded", where="pair-by"
        )
    fit = model.fit()
    f = p = df = None
    if fit.df_resid > 0 and fit.mse_resid > 0:
        row = anova_lm(fit, typ=2).loc["C(level)"]
        f, p, df = float(row["F"]), float(row["PR(>F)"]), (float(row["df"]), float(fit.df_resid))
    pairs = _pairs_of(fit, names)
    return Groups(
        f=f,
        p_anova=p,
        p=p,
        blocked=True,
        pairs=pairs,
        pairs_method="tukey_within_blocks",
        df=df,
        places=places(names, _adjusted_middles(fit, names), pairs, best_is=best_is),
        friedman=friedman_of(frame, len(names)),
    )


def friedman_of(frame: pd.DataFrame, k: int) -> Friedman | None:
    """Friedman's chi² and Kendall's W from a complete table; None when a block lacks a level or repeats one
    (repeats inside a block are averaged first)."""
    table = frame.groupby(["other", "level"])["y"].mean().unstack("level")
    table = table.dropna()
    if len(table) < 2 or k < 3 or bool((table.nunique(axis=1) == 1).all()):
        return None
    found = stats.friedmanchisquare(*(table[c] for c in table.columns))
    chi2 = float(found.statistic)
    return Friedman(chi2=chi2, p=float(found.pvalue), kendall_w=chi2 / (len(table) * (k - 1)))


@answered_here()
def adjusted(
    values: Sequence[float], levels: Sequence[LevelName], covariate: Sequence[float], name: str, *, best_is: str = "high"
) -> Groups:
    """Levels compared at a common slope of a numeric covariate (analysis of covariance, type II), with the test that the
    slopes differ. Source: Fisher 1932; Montgomery, analysis of covariance."""
    frame, names = _frame(values, levels, [float(c) for c in covariate])
    if frame["other"].nunique() < 2:
        raise TableRefused(
            f"“{name}” is the same in every trial, so there is nothing to adjust for.", code="covariate_constant", where="adjust-for"
        )
    model = OLS.from_formula("y ~ C(level) + other", frame)
    if np.linalg.matrix_rank(model.exog) < model.exog.shape[1]:
        raise TableRefused(f"“{name}” and the level cannot be told apart.", code="covariate_confounded", where="adjust-for")
    fit = model.fit()
    f = p = df = differ = None
    if fit.df_resid > 0 and fit.mse_resid > 0:
        row = anova_lm(fit, typ=2).loc["C(level)"]
        f, p, df = float(row["F"]), float(row["PR(>F)"]), (float(row["df"]), float(fit.df_resid))
        own_slopes = OLS.from_formula("y ~ C(level) * other", frame)
        if len(frame) > own_slopes.exog.shape[1] == np.linalg.matrix_rank(own_slopes.exog):
            tested = own_slopes.fit().compare_f_test(fit)
            differ = float(tested[1]) if math.isfinite(tested[1]) else None
    pairs = _pairs_of(fit, names)
    return Groups(
        f=f,
        p_anova=p,
        p=p,
        pairs=pairs,
        pairs_method="tukey_adjusted",
        df=df,
        places=places(names, _adjusted_middles(fit, names), pairs, best_is=best_is),
        adjusted_for=Adjusted(
            name=name,
            slope=float(fit.params["other"]),
            slope_se=float(fit.bse["other"]) if fit.df_resid > 0 else 0.0,
            p_slopes_differ=differ,
        ),
    )
