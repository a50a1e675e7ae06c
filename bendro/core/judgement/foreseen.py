"""Which of many studies would be clear: by the same tests that decide a study, over whole batches of tables at once. The shuffle's p is
taken from its limit, which for even scatter differs from it by less than a share of studies is known."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy import special, stats

from ..statistics.blocks import PAIRS_ONE_WAY
from ..statistics.curve import BEATS_P
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
    if kind != "trend" or len(at) < 3:
        return np.asarray(p_of(kind, tables, school, at=at) <= bound)
    p = _of_shapes(tables, at, first)
    clear, bends = p[:, 0] <= bound, p[:, 1] <= bound
    only = np.flatnonzero(bends & ~clear)
    clear[only] = _middle_beats(tables[only])  # to which side it goes is not known, so a best in the middle must be
    return np.asarray(clear)


def _middle_beats(tables: Array) -> Flags:
    """Whether a level in the middle surely beats both ends, or both surely beat it (`statistics.curve.middle_of`)."""
    _, k, each = tables.shape
    means, spread = tables.mean(axis=2), tables.var(axis=2, ddof=1)
    pure, ask = spread.mean(axis=1), one_stands_out(spread, each)
    beats = np.zeros(len(tables), dtype=bool)
    rows = np.arange(len(tables))
    for sign in (1, -1):
        at = 1 + np.argmax(sign * means[:, 1:-1], axis=1)
        sure = np.ones(len(tables), dtype=bool)
        for end in (0, k - 1):
            own, other = spread[rows, at] / each, spread[:, end] / each
            both = np.where(ask, own + other, 2 * pure / each)
            df = np.where(ask, (own + other) ** 2 / (own**2 + other**2) * (each - 1), k * (each - 1))
            sure &= special.stdtr(df, -sign * (means[rows, at] - means[:, end]) / np.sqrt(both)) <= BEATS_P / (k - 2)
        beats |= sure
    return np.asarray(beats)


def _apart(kind: Kind, tables: Array) -> Flags:
    """Ranges that do not touch: of the ends of a trend, of pairs and in blocks all on one side, else of every pair of levels."""
    if kind == "pairs":
        d = tables[:, 1] - tables[:, 0]
        return np.asarray(((d > 0).all(axis=1) | (d < 0).all(axis=1)) & (d.shape[1] >= PAIRS_ONE_WAY))
    if kind == "blocks":
        one, other = np.triu_indices(tables.shape[1], 1)
        d = tables[:, one] - tables[:, other]
        one_way = np.all(d > 0, axis=2) | np.all(d < 0, axis=2)
        return np.asarray(np.all(one_way, axis=1) & (d.shape[2] >= PAIRS_ONE_WAY))
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
        plain = special.fdtrc(k - 1, k * (each - 1), between / spread.mean(axis=1))
        return np.asarray(np.where(ask, np.maximum(plain, modified_f(means, spread, n)), plain))
    return np.asarray(np.minimum(_of_shapes(tables, at, first).min(axis=1), 1.0))


def _of_shapes(tables: Array, at: Sequence[float], first: Shape) -> Array:
    """p of slope and bend of each table, each by its share of the bound."""
    _, k, each = tables.shape
    n, means, spread = np.full(k, float(each)), tables.mean(axis=2), tables.var(axis=2, ddof=1)
    ask = one_stands_out(spread, each)
    squares = ((tables - tables.mean(axis=(1, 2), keepdims=True)) ** 2).sum(axis=(1, 2))
    shapes = shapes_of(at, n)
    p = shapes_alike(shapes, means, squares, n)
    p = np.where(ask[:, None], np.maximum(p, shapes_unequal(shapes, means, spread, n)), p)
    shares = [1.0] if shapes.shape[1] == 1 else [FIRST_SHARE, OTHER_SHARE] if first == "slope" else [OTHER_SHARE, FIRST_SHARE]
    return np.asarray(p / np.array(shares))


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
    return np.asarray(np.maximum(special.fdtrc(k - 1, free, f), special.fdtrc(share * (k - 1), share * free, f) * CLEAR_P / BLOCKS_UNEQUAL))


#: So many studies are drawn to see which number of repeats would do, with this seed, and this share of them must be clear.
DRAWN, DRAWN_SEED, WANTED = 200, 20_001, 0.8
#: Numbers of further repeats that are tried: beyond twelve nobody tells one more or less apart.
TRIED = (*range(1, 13), 14, 16, 18, 20, 24, 28, 32, 36, 40)


@lru_cache(maxsize=8)
def _drawn(levels: int, repeats: int) -> Array:
    """Scatter of one, studies × levels × readings: always the same, so that more repeats are tried on the same luck."""
    return np.random.default_rng(DRAWN_SEED).normal(size=(DRAWN, levels, repeats))


@dataclass(frozen=True, slots=True, kw_only=True)
class Seen:
    """What a study has shown so far. means: of the levels (of pairs 0 and the mean difference; of blocks with the blocks taken out); spreads: of
    the readings of each level; scatter: of further readings; repeats: at each level, or pairs, or blocks; at: the levels of a trend. All in the
    unit of the reading."""

    kind: Kind
    means: tuple[float, ...]
    spreads: tuple[float, ...]
    scatter: float
    repeats: int
    at: tuple[float, ...] = ()
    first: Shape = "slope"

    def share(self, more: int, school: School, bound: float, *, of: float = 1.0) -> float:
        """Share of studies that would be clear with so many more. of: the effect as a share of what is seen; a lesser one is drawn whole, so
        that the readings at hand do not speak for the larger."""
        return float(np.mean(clear_of(self.kind, self._tables(more, of), school, bound, at=self.at, first=self.first)))

    def _tables(self, more: int, of: float) -> Array:
        k = len(self.means)
        noise = _drawn(k, self.repeats + TRIED[-1])[:, :, : self.repeats + more]
        scatter = np.full((k, 1), self.scatter)
        if self.kind == "pairs":
            scatter[0] = 0.0  # only the differences count
        middle = np.mean(self.means)
        means = middle + of * (np.array(self.means) - middle) if self.kind != "pairs" else of * np.array(self.means)
        tables = means[:, None] + scatter * noise
        if of == 1.0 and self.kind != "blocks":
            tables[:, :, : self.repeats] = self._at_hand()
        return np.asarray(tables)

    def _at_hand(self) -> Array:
        """Readings with the means and spreads of those at hand."""
        if self.repeats < 2:
            return np.repeat(np.array(self.means)[:, None], self.repeats, axis=1)
        even = stats.norm.ppf((np.arange(self.repeats) + 0.5) / self.repeats)
        even /= even.std(ddof=1)
        return np.asarray(np.array(self.means)[:, None] + np.array(self.spreads)[:, None] * even)

    def wanted(self, school: School, bound: float, *, of: float = 1.0, least: int = 1) -> int | None:
        """Fewest more (of TRIED, from `least` on) with which WANTED of studies would be clear; None where the most of them would not do."""
        tried: list[int] = [n for n in TRIED if n >= least]
        if not tried or self.share(tried[-1], school, bound, of=of) < WANTED:
            return None
        place: int = bisect_left(tried[:-1], True, key=lambda more: self.share(more, school, bound, of=of) >= WANTED)
        return tried[place]
