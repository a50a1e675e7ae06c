"""Which of many studies would be clear: by the same tests that decide a study, over whole batches of tables at once. The shuffle's p is
taken from its limit, which for even scatter differs from it by less than a share of studies is known."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy import stats

from ..statistics.unequal import modified_f, one_stands_out, shapes_alike, shapes_of, shapes_unequal
from .deciding import BLOCKS_UNEQUAL, CLEAR_P, FIRST_SHARE, OTHER_SHARE, SHUFFLE_FROM, TWO_UNEQUAL, School, Shape

Array = NDArray[np.float64]
Flags = NDArray[np.bool_]
Kind = Literal["two", "pairs", "blocks", "groups", "trend"]


def clear_of(kind: Kind, tables: Array, school: School, bound: float = CLEAR_P, *, at: Sequence[float] = (), first: Shape = "slope") -> Flags:
    """Whether each table (studies × levels × readings, the readings of pairs and blocks in one order) would be clear at a bound. at: the levels
    of a trend."""
    if school == "ranges":
        return np.asarray(_apart(kind, tables) & (bound >= CLEAR_P))
    return np.asarray(p_of(kind, tables, school, at=at, first=first) <= bound)


def _apart(kind: Kind, tables: Array) -> Flags:
    """Ranges that do not touch: of the ends of a trend, of pairs all on one side, else of every pair of levels."""
    if kind == "pairs":
        d = tables[:, 1] - tables[:, 0]
        return np.asarray((d > 0).all(axis=1) | (d < 0).all(axis=1))
    low, high = tables.min(axis=2), tables.max(axis=2)
    if kind == "trend":
        low, high = low[:, [0, -1]], high[:, [0, -1]]
    order = np.argsort(low, axis=1)
    low, high = np.take_along_axis(low, order, axis=1), np.take_along_axis(high, order, axis=1)
    return np.asarray((np.maximum.accumulate(high, axis=1)[:, :-1] < low[:, 1:]).all(axis=1))


def p_of(kind: Kind, tables: Array, school: School, *, at: Sequence[float] = (), first: Shape = "slope") -> Array:
    """The p by which each table is decided (`judgement.deciding`)."""
    _studies, k, each = tables.shape
    n = np.full(k, float(each))
    if kind == "pairs":
        return np.asarray(stats.ttest_1samp(tables[:, 1] - tables[:, 0], 0.0, axis=1).pvalue)
    if kind == "blocks":
        return _of_blocks(tables)
    means, spread = tables.mean(axis=2), tables.var(axis=2, ddof=1)
    if kind == "two":
        welch = stats.ttest_ind(tables[:, 0], tables[:, 1], axis=1, equal_var=False).pvalue
        if school == "interval" or each < SHUFFLE_FROM:
            return np.asarray(welch)
        return np.asarray(np.maximum(stats.ttest_ind(tables[:, 0], tables[:, 1], axis=1).pvalue, welch * CLEAR_P / TWO_UNEQUAL))
    ask = one_stands_out(spread, each)
    if kind == "groups":
        between = each * ((means - means.mean(axis=1, keepdims=True)) ** 2).sum(axis=1) / (k - 1)
        plain = stats.f.sf(between / spread.mean(axis=1), k - 1, k * (each - 1))
        return np.asarray(np.where(ask, np.maximum(plain, modified_f(means, spread, n)), plain))
    squares = ((tables - tables.mean(axis=(1, 2), keepdims=True)) ** 2).sum(axis=(1, 2))
    shapes = shapes_of(at, n)
    p = shapes_alike(shapes, means, squares, n)
    p = np.where(ask[:, None], np.maximum(p, shapes_unequal(shapes, means, spread, n)), p)
    shares = [1.0] if shapes.shape[1] == 1 else [FIRST_SHARE, OTHER_SHARE] if first == "slope" else [OTHER_SHARE, FIRST_SHARE]
    return np.asarray(np.minimum((p / np.array(shares)).min(axis=1), 1.0))


def _of_blocks(tables: Array) -> Array:
    """The F of blocks × levels, beside it the one whose freedoms shrink as levels go together unalike."""
    _, k, blocks = tables.shape
    within = tables - tables.mean(axis=1, keepdims=True)  # the blocks taken out
    at = within.mean(axis=2)
    between = blocks * ((at - at.mean(axis=1, keepdims=True)) ** 2).sum(axis=1)
    rest = ((within - at[:, :, None]) ** 2).sum(axis=(1, 2))
    free = (k - 1) * (blocks - 1)
    f = between / (k - 1) / (rest / free)
    left = within - at[:, :, None]
    covariance = left @ left.transpose(0, 2, 1) / (blocks - 1)  # of the levels, their mean already taken out
    trace = np.trace(covariance, axis1=1, axis2=2)
    share = np.maximum(trace**2 / ((k - 1) * (covariance**2).sum(axis=(1, 2))), 1 / (k - 1))
    return np.asarray(np.maximum(stats.f.sf(f, k - 1, free), stats.f.sf(f, share * (k - 1), share * free) * CLEAR_P / BLOCKS_UNEQUAL))
