"""Ranks of side-by-side drops, landing scatter with the two-measure decision, and two variables at once."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy import stats

from ..errors import TableRefused
from ..results import LevelName
from .shuffle import shuffle_two


@dataclass(frozen=True, slots=True, kw_only=True)
class Ranked:
    """mean_ranks: 1 is first. chi2, p: Friedman's test; kendall_w from 0 (no agreement) to 1. None below two heats."""

    mean_ranks: Mapping[str, float]
    chi2: float | None
    p: float | None
    kendall_w: float | None


def ranks(heats: Sequence[Mapping[str, float]]) -> Ranked:
    """Landing orders of several heats; every heat ranks the same devices (ties share a mean rank).
    Source: Friedman 1937, J. Am. Stat. Assoc. 32; Kendall & Babington Smith 1939. Raises TableRefused `heats_differ`."""
    devices = list(heats[0]) if heats else []
    if len(devices) < 2 or any(set(h) != set(devices) for h in heats):
        raise TableRefused("Every heat needs the same devices, at least two.", code="heats_differ", where="heat")
    table = np.array([stats.rankdata([h[d] for d in devices]) for h in heats])
    means = {d: float(v) for d, v in zip(devices, table.mean(axis=0), strict=True)}
    if len(heats) < 2 or len(devices) < 3 or bool(np.all(table == table[:, :1])):
        return Ranked(mean_ranks=means, chi2=None, p=None, kendall_w=None)
    found = stats.friedmanchisquare(*table.T)
    chi2 = float(found.statistic)
    return Ranked(mean_ranks=means, chi2=chi2, p=float(found.pvalue), kendall_w=chi2 / (len(heats) * (len(devices) - 1)))


@dataclass(frozen=True, slots=True, kw_only=True)
class Landing:
    """Where the trials of one level landed, in one unit. half_radius: circle about the mean point that holds half."""

    n: int
    mean_along: float
    mean_off: float
    sd_along: float | None
    sd_off: float | None
    mean_abs_off: float
    half_radius: float


def landing(along: Sequence[float], off: Sequence[float]) -> Landing:
    """Scatter of landing points; along and off the line in one unit, at least one point."""
    a, o = np.asarray(along, float), np.asarray(off, float)
    many = len(a) > 1
    distance = np.hypot(a - a.mean(), o - o.mean())
    return Landing(
        n=len(a),
        mean_along=float(a.mean()),
        mean_off=float(o.mean()),
        sd_along=float(a.std(ddof=1)) if many else None,
        sd_off=float(o.std(ddof=1)) if many else None,
        mean_abs_off=float(np.abs(o).mean()),
        half_radius=float(np.median(distance)),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Straighter:
    """p_straighter: shuffle on mean |off the line|. worst_loss: loss of distance at the interval's worst end."""

    straighter: bool
    p_straighter: float
    loss: float
    worst_loss: float | None
    keeps_distance: bool
    says: str


def straighter_without_loss(
    first: tuple[Sequence[float], Sequence[float]], second: tuple[Sequence[float], Sequence[float]], margin: float, unit: str = ""
) -> Straighter:
    """The two-measure decision: the second level flies straighter than the first, while its loss of distance stays within
    `margin` even at the worse end of Welch's 95 % interval. Each level: (along, off), one unit, at least two trials."""
    shuffled = shuffle_two([abs(v) for v in first[1]], [abs(v) for v in second[1]])
    less = float(np.mean(np.abs(second[1]))) < float(np.mean(np.abs(first[1])))
    loss = float(np.mean(first[0]) - np.mean(second[0]))
    worst: float | None = None
    if len(first[0]) > 1 and len(second[0]) > 1 and (np.ptp(first[0]) > 0 or np.ptp(second[0]) > 0):
        worst = float(stats.ttest_ind(first[0], second[0], equal_var=False).confidence_interval(0.95).high)
    straight, keeps = less and shuffled.p <= 0.05, worst is not None and worst <= margin
    says = "It flies straighter" if straight else "It is not shown to fly straighter"
    joint = "and" if straight == keeps else "but"
    u = f" {unit}" if unit else ""
    kept = "loses no distance." if (worst or 0.0) <= 0 else f"loses at most {worst:.3g}{u} of distance, within the margin of {margin:g}{u}."
    says += f", {joint} " + (
        kept if keeps else f"may lose more than the margin of {margin:g}{u}" + ("." if worst is None else f" (up to {worst:.3g}{u}).")
    )
    return Straighter(straighter=straight, p_straighter=shuffled.p, loss=loss, worst_loss=worst, keeps_distance=keeps, says=says)


@dataclass(frozen=True, slots=True, kw_only=True)
class TwoVariables:
    """p of each main effect and of the interaction (type II), and the sentence on the interaction."""

    p_first: float
    p_second: float
    p_interaction: float
    says: str


def two_variables(values: Sequence[float], first: Sequence[LevelName], second: Sequence[LevelName], names: tuple[str, str]) -> TwoVariables:
    """Two planned variables at once by two-way ANOVA with interaction. Source: Fisher 1935; Montgomery, factorial designs.
    Raises TableRefused `two_way_thin` where a combination has no trial or nothing is repeated."""
    import pandas as pd  # slow to load, and seldom used
    from statsmodels.regression.linear_model import OLS
    from statsmodels.stats.anova import anova_lm

    frame = pd.DataFrame({"y": np.asarray(values, float), "a": [str(v) for v in first], "b": [str(v) for v in second]})
    cells = frame.groupby(["a", "b"]).size().unstack()
    if cells.isna().any().any() or len(frame) <= cells.size or min(cells.shape) < 2:
        raise TableRefused("Every combination of the two variables needs a trial, and some need two.", code="two_way_thin", where="factor")
    table = anova_lm(OLS.from_formula("y ~ C(a) * C(b)", frame).fit(), typ=2)["PR(>F)"]
    p = [float(table[k]) for k in ("C(a)", "C(b)", "C(a):C(b)")]
    if not all(math.isfinite(v) for v in p):
        raise TableRefused("The readings do not scatter at all, so nothing can be weighed.", code="two_way_thin", where="response")
    depends = p[2] < 0.05
    says = f"What {names[0]} does {'depends' if depends else 'does not visibly depend'} on {names[1]} (interaction p = {p[2]:.2g})."
    return TwoVariables(p_first=p[0], p_second=p[1], p_interaction=p[2], says=says)
