"""Comparing within blocks, and with a numeric covariate: additive least squares."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy import stats

from ..errors import TableRefused
from ..results import Adjusted, Friedman, Groups, LevelName, Pair
from .compare import places
from .quiet import answered_here
from .ranges import range_isf, range_sf
from .shuffle import ShuffleResult, shuffle_blocks
from .tails import f_sf
from .unequal import blocks_unequal


@dataclass(frozen=True, slots=True)
class _Fit:
    """Least squares of y on some columns. covariance: of the coefficients."""

    params: np.ndarray
    covariance: np.ndarray
    rss: float
    df: int


def _fit(design: np.ndarray, y: np.ndarray) -> _Fit:
    inverse = np.linalg.pinv(design.T @ design)
    params = inverse @ design.T @ y
    rss, df = float(((y - design @ params) ** 2).sum()), len(y) - int(np.linalg.matrix_rank(design))
    return _Fit(params, inverse * (rss / df if df > 0 else math.nan), rss, df)


def _marks(values: Sequence[object]) -> tuple[np.ndarray, list[object]]:
    """A column of 0 and 1 for each value but the first, and the values in the order in which they come."""
    names = list(dict.fromkeys(values))
    found = np.array([[1.0 if v == n else 0.0 for n in names[1:]] for v in values]).reshape(len(values), len(names) - 1)
    return found, names


def _f_of(full: _Fit, without: _Fit) -> tuple[float | None, float | None, tuple[float, float] | None]:
    """F of what the full model has more, its p and freedoms (type II). None without freedom or scatter."""
    if full.df <= 0 or full.rss <= 0:
        return None, None, None
    more = without.df - full.df
    f = (without.rss - full.rss) / more / (full.rss / full.df)
    return f, f_sf(f, more, full.df), (float(more), float(full.df))


def _pairs_of(fit: _Fit, names: Sequence[LevelName]) -> tuple[Pair, ...]:
    """Every pair of levels in a fitted additive model (levels in columns 1 …), by Tukey's studentized range on the contrasts.
    Source: Tukey 1949; Kramer 1956; Hsu 1996, Multiple Comparisons, 7.2 (adjusted means)."""
    made, k = [], len(names)
    for i, j in itertools.combinations(range(k), 2):
        contrast = np.zeros(len(fit.params))
        for sign, at in ((1, j), (-1, i)):
            if at:
                contrast[at] += sign
        estimate = float(contrast @ fit.params)
        variance = float(contrast @ fit.covariance @ contrast) if fit.df > 0 else 0.0
        p = ci = None
        if variance > 0:
            se = math.sqrt(variance / 2)
            half = range_isf(0.05, k, fit.df) * se
            p, ci = range_sf(abs(estimate) / se, k, fit.df), (estimate - half, estimate + half)
        made.append(Pair(between=(names[i], names[j]), estimate=estimate, ci95=ci, p_adjusted=p))
    return tuple(made)


def _middles(fit: _Fit, names: Sequence[LevelName]) -> list[float]:
    return [0.0 if at == 0 else float(fit.params[at]) for at in range(len(names))]


@answered_here()
def blocked(values: Sequence[float], levels: Sequence[LevelName], blocks: Sequence[str], *, best_is: str = "high", sampled: bool = False) -> Groups:
    """Effect of the level in the additive level + block model (type II), with Friedman's test and Kendall's W beside it
    where every block holds every level once.

    sampled: the blocks are groups, people or devices of which there might have been others. Where there are several and they repeated levels,
    each one's mean at a level counts once, because its repeats share what the level does for this one: so the level is tested against
    how differently the blocks answer to it. Of few blocks the answer holds for these.

    Source: Montgomery, Design and Analysis of Experiments, randomized complete blocks; Friedman 1937; Kendall & Babington
    Smith 1939. Raises TableRefused `blocks_confounded` when level and block cannot be told apart.
    """
    over: Literal["these", "like_these"] | None = None
    n_blocks = len(set(blocks))
    if sampled and len(values) > len(set(zip(blocks, levels, strict=True))):
        over = "like_these" if n_blocks >= SEVERAL else "these"
        if over == "like_these":
            values, levels, blocks = _each_once(values, levels, blocks)
    y = np.asarray(values, float)
    of_level, names = _marks(levels)
    of_block, _ = _marks(blocks)
    one = np.ones((len(y), 1))
    design = np.hstack([one, of_level, of_block])
    if np.linalg.matrix_rank(design) < design.shape[1]:
        raise TableRefused(
            "Level and block cannot be told apart: each block needs more than one level.", code="blocks_confounded", where="pair-by"
        )
    fit = _fit(design, y)
    f, p, df = _f_of(fit, _fit(np.hstack([one, of_block]), y))
    named = [n for n in names if isinstance(n, float | int | str)]
    pairs = _pairs_of(fit, named)
    whole, complete = _whole_blocks(y, levels, blocks)
    shuffled = _dealt_within(y, np.hstack([one, of_block]), of_level, blocks)
    return Groups(
        f=f,
        p_anova=p,
        p=p,
        blocked=True,
        p_shuffle=shuffled.p,
        shuffle_exact=shuffled.exact,
        shuffle_arrangements=shuffled.arrangements,
        shuffle_seed=shuffled.seed,
        smallest_p=shuffled.smallest_p,
        shuffle_method=shuffled.method,
        p_unequal=None if f is None or over == "these" else blocks_unequal(whole, f) if complete else blocks_unequal(_filled(y, levels, blocks, fit.params), f, fit.df),
        pairs=pairs,
        pairs_method="tukey_within_blocks",
        df=df,
        places=places(named, _middles(fit, named), pairs, best_is=best_is),
        friedman=friedman_of(whole),
        ranges_overlap=None if len(whole) < PAIRS_ONE_WAY else any(min(d) <= 0 <= max(d) for d in (whole[:, i] - whole[:, j] for i, j in itertools.combinations(range(len(named)), 2))),
        over=over,
        blocks=n_blocks,
    )


#: By ranges two levels differ where they do so the same way in every block, of which there are at least so many (the sign test).
PAIRS_ONE_WAY = 6
#: From so many groups on the answer is for groups like these; of fewer their own scatter from group to group is not known well enough.
SEVERAL = 4


def _each_once(values: Sequence[float], levels: Sequence[LevelName], blocks: Sequence[str]) -> tuple[list[float], list[LevelName], list[str]]:
    """The mean of each block at each level, in the order in which they come."""
    cells: dict[tuple[str, LevelName], list[float]] = {}
    for value, level, block in zip(values, levels, blocks, strict=True):
        cells.setdefault((block, level), []).append(value)
    return [math.fsum(v) / len(v) for v in cells.values()], [level for _, level in cells], [block for block, _ in cells]


def _dealt_within(y: np.ndarray, block: np.ndarray, of_level: np.ndarray, blocks: Sequence[str]) -> ShuffleResult:
    """The shuffle within blocks, which may lack levels or hold one twice. block, of_level: columns of the model (readings × …)."""
    beyond = of_level - block @ np.linalg.lstsq(block, of_level, rcond=None)[0]
    directions = np.linalg.qr(beyond)[0]
    rows = [np.flatnonzero(np.asarray(blocks) == name) for name in dict.fromkeys(blocks)]
    return shuffle_blocks([y[at] for at in rows], [directions[at] for at in rows])


def _filled(y: np.ndarray, levels: Sequence[LevelName], blocks: Sequence[str], params: np.ndarray) -> np.ndarray:
    """The means of blocks × levels; where a block lacks a level, what the additive model (1, levels, blocks) expects of it."""
    names, rows = list(dict.fromkeys(levels)), list(dict.fromkeys(blocks))
    of_level, of_block = (np.concatenate([[0.0], part]) for part in (params[1 : len(names)], params[len(names) :]))
    cells: dict[tuple[str, LevelName], list[float]] = {}
    for value, level, block in zip(y, levels, blocks, strict=True):
        cells.setdefault((block, level), []).append(float(value))
    return np.array(
        [
            [
                math.fsum(cells[b, n]) / len(cells[b, n]) if (b, n) in cells else float(params[0] + of_level[i] + of_block[r])
                for i, n in enumerate(names)
            ]
            for r, b in enumerate(rows)
        ]
    )


def _whole_blocks(y: np.ndarray, levels: Sequence[LevelName], blocks: Sequence[str]) -> tuple[np.ndarray, bool]:
    """Means of the blocks that have every level (blocks × levels; repeats inside a block are averaged), and whether all have."""
    names = list(dict.fromkeys(levels))
    cells: dict[str, dict[LevelName, list[float]]] = {}
    for value, level, block in zip(y, levels, blocks, strict=True):
        cells.setdefault(block, {}).setdefault(level, []).append(float(value))
    whole = [[math.fsum(row[n]) / len(row[n]) for n in names] for row in cells.values() if len(row) == len(names)]
    return np.array(whole).reshape(len(whole), len(names)), len(whole) == len(cells) and len(whole) > 1


def friedman_of(whole: np.ndarray) -> Friedman | None:
    """Friedman's chi² and Kendall's W from complete blocks; None with fewer than two of them or three levels, or all alike."""
    blocks, k = whole.shape
    if blocks < 2 or k < 3 or bool((np.ptp(whole, axis=1) == 0).all()):
        return None
    found = stats.friedmanchisquare(*whole.T)
    chi2 = float(found.statistic)
    return Friedman(chi2=chi2, p=float(found.pvalue), kendall_w=chi2 / (blocks * (k - 1)))


@answered_here()
def adjusted(
    values: Sequence[float], levels: Sequence[LevelName], covariate: Sequence[float], name: str, *, best_is: str = "high"
) -> Groups:
    """Levels compared at a common slope of a numeric covariate (analysis of covariance, type II), with the test that the
    slopes differ. Source: Fisher 1932; Montgomery, analysis of covariance."""
    y, x = np.asarray(values, float), np.asarray(covariate, float)
    if np.ptp(x) == 0:
        raise TableRefused(
            f"“{name}” is the same in every trial, so there is nothing to adjust for.", code="covariate_constant", where="adjust-for"
        )
    of_level, found = _marks(levels)
    names = [n for n in found if isinstance(n, float | int | str)]
    one, column = np.ones((len(y), 1)), x[:, None]
    design = np.hstack([one, of_level, column])
    if np.linalg.matrix_rank(design) < design.shape[1]:
        raise TableRefused(f"“{name}” and the level cannot be told apart.", code="covariate_confounded", where="adjust-for")
    fit = _fit(design, y)
    f, p, df = _f_of(fit, _fit(np.hstack([one, column]), y))
    own_slopes = np.hstack([design, of_level * column])
    differ = _f_of(_fit(own_slopes, y), fit)[1] if len(y) > own_slopes.shape[1] == np.linalg.matrix_rank(own_slopes) else None
    pairs = _pairs_of(fit, names)
    return Groups(
        f=f,
        p_anova=p,
        p=p,
        pairs=pairs,
        pairs_method="tukey_adjusted",
        df=df,
        places=places(names, _middles(fit, names), pairs, best_is=best_is),
        adjusted_for=Adjusted(
            name=name,
            slope=float(fit.params[-1]),
            slope_se=math.sqrt(float(fit.covariance[-1, -1])) if fit.df > 0 else 0.0,
            p_slopes_differ=differ,
        ),
    )
