"""Whether an effect still stands when the levels do not scatter alike: a p for each kind of comparison that allows for it, and whether
the spreads themselves ask for it.

With three repeats a test that always allows for one level that scatters three times as much sees a third less than the plain one. So it
comes in where the spreads show it, or where levels have unlike numbers of trials (found by simulation, docs/calibration.md)."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from scipy import special

from ..results import Interval
from .tails import f_sf, t_isf

#: One spread of three readings counts as standing out where luck would do so in fewer than this share of tables: more readily, the more
#: levels there are, because the plain tests then err more, and less readily with more repeats, because then it shows by itself.
STANDS_OUT_EACH, STANDS_OUT_MOST, STANDS_OUT_REPEATS = 0.08, 0.2, 3


def described(values: Sequence[Sequence[float]], step: float = 0.0) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Means, variances and numbers of each level's readings. step: of the tool, whose own doubt (step/√12) no spread is below."""
    return (
        np.array([math.fsum(v) / len(v) for v in values]),
        np.array([max(float(np.var(v, ddof=1)), step**2 / 12) if len(v) > 1 else np.nan for v in values]),
        np.array([len(v) for v in values], float),
    )


def spreads_ask(values: Sequence[Sequence[float]], step: float = 0.0) -> bool:
    """Whether unequal spreads must be allowed for: the widest level stands out from the others together, or levels have unlike numbers of
    trials. Never where a level has fewer than two, or with two levels. step: of the tool."""
    _, spread, n = described(values, step)
    if len(n) < 3 or n.min() < 2:
        return False
    return bool(n.min() != n.max() or one_stands_out(spread, n[0]))


def one_stands_out(spread: np.ndarray, n: float) -> np.ndarray:
    """Whether the largest of the levels' variances (… × levels, each of n readings) stands out from the others together.
    Source: Cochran 1941, Ann. Eugenics 11, 47-52, as an F by Bonferroni."""
    k, top = spread.shape[-1], spread.max(axis=-1)
    rest = (spread.sum(axis=-1) - top) / (k - 1)
    with np.errstate(divide="ignore", invalid="ignore"):
        p = k * special.fdtrc(n - 1, (n - 1) * (k - 1), np.where(top > 0, top / rest, 1.0))
    return np.asarray(p < min(STANDS_OUT_MOST, STANDS_OUT_EACH * (k - 2)) * STANDS_OUT_REPEATS / n)


def largest_stands_out(values: Sequence[Sequence[float]]) -> float | None:
    """p of the largest of the levels' variances beside the others together; None below two levels with two readings each, or where none
    scatters. Source: as `one_stands_out`, with each level's own number of readings."""
    if len(values) < 2:
        return None
    _, spread, n = described(values)
    free = n - 1
    rest = (float(spread @ free) - spread * free) / (free.sum() - free)
    if spread.max() <= 0:
        return None
    ratio = np.divide(spread, rest, out=np.full_like(spread, np.inf), where=rest > 0)
    return min(1.0, len(n) * min(f_sf(float(r), float(f), float(free.sum() - f)) for r, f in zip(ratio, free, strict=True)))


def groups_unequal(values: Sequence[Sequence[float]], step: float = 0.0) -> float | None:
    """p of the modified F test. None unless every level has at least two readings, or where nothing differs at all."""
    means, spread, n = described(values, step)
    if n.min() < 2 or (spread.max() <= 0 and np.ptp(means) == 0):
        return None
    return float(modified_f(means, spread, n))


def modified_f(means: np.ndarray, spread: np.ndarray, n: np.ndarray) -> np.ndarray:
    """p of the modified F test: as the analysis of variance, with freedoms that shrink as spreads differ. means, spread: (… × levels), the
    levels' means and variances; n: readings of each level.
    Source: Brown & Forsythe 1974, Technometrics 16, 129-132; numerator's freedom by Mehrotra 1997, Commun. Stat. Simul. 26."""
    share = n / n.sum()
    between = ((means - (means @ share)[..., None]) ** 2) @ n
    within = (1 - share) * spread
    total = within.sum(axis=-1)
    with np.errstate(divide="ignore", invalid="ignore"):
        df2 = total**2 / (within**2 / (n - 1)).sum(axis=-1)
        df1 = total**2 / ((spread**2).sum(axis=-1) + (spread @ share) ** 2 - 2 * (spread**2 @ share))
        p = special.fdtrc(df1, df2, between / total)
    return np.asarray(np.where(total > 0, p, np.where(between > 0, 0.0, 1.0)))


def shapes_of(levels: Sequence[float], n: np.ndarray) -> np.ndarray:
    """Slope, and with three levels or more the bend at right angles to it, as parts of the levels' means (levels × shapes), so that the
    square of what they give is a sum of squares of the readings."""
    at = np.asarray(levels, float)
    across = at - float(at @ n) / n.sum()
    across /= float(np.ptp(at)) or 1.0
    raw = np.column_stack([across**power for power in range(3 if len(at) > 2 else 2)]) * np.sqrt(n)[:, None]
    return np.asarray(np.linalg.qr(raw)[0][:, 1:] * np.sqrt(n)[:, None])


def shapes_unequal(shapes: np.ndarray, means: np.ndarray, spread: np.ndarray, n: np.ndarray) -> np.ndarray:
    """p of each shape (… × shapes) over the levels' means, each with a freedom of its own.
    Source: Satterthwaite 1946, Biometrics 2, 110-114 (contrasts of means)."""
    parts = (spread / n)[..., None] * shapes**2
    size, along = parts.sum(axis=-2), np.abs(means @ shapes)
    with np.errstate(divide="ignore", invalid="ignore"):
        df = size**2 / (parts**2 / (n - 1)[:, None]).sum(axis=-2)
        p = 2 * special.stdtr(df, -along / np.sqrt(size))
    scale = 1e-12 * np.max(np.abs(means), axis=-1, keepdims=True)
    return np.asarray(np.where(size > 0, p, np.where(along > scale, 0.0, 1.0)))


def shapes_alike(shapes: np.ndarray, means: np.ndarray, squares: np.ndarray, n: np.ndarray) -> np.ndarray:
    """p of each shape by its t beside all that it leaves, as the shuffle of each is in its limit. squares: of all readings about their
    common mean. Source: any handbook; Pitman 1937, Biometrika 29, 322-335."""
    df, along = float(n.sum()) - 2, (means @ shapes) ** 2
    rest = np.asarray(squares)[..., None] - along
    with np.errstate(divide="ignore", invalid="ignore"):
        p = 2 * special.stdtr(df, -np.sqrt(along * df / rest))
    return np.asarray(np.where(rest <= 1e-18 * np.asarray(squares)[..., None], 0.0, p))


def trend_unequal(levels: Sequence[float], values: Sequence[Sequence[float]], step: float = 0.0) -> tuple[float, ...] | None:
    """p of the slope, and with three levels or more that of the bend, allowing for spreads that differ. None unless every level has at
    least two readings. levels: ascending, at least two."""
    means, spread, n = described(values, step)
    if n.min() < 2 or len(levels) < 2:
        return None
    return tuple(float(p) for p in shapes_unequal(shapes_of(levels, n), means, spread, n))


def shapes_p(levels: Sequence[float], values: Sequence[Sequence[float]]) -> tuple[float, ...] | None:
    """p of the slope, and with three levels or more that of the bend, where spreads are alike. None without freedom left or scatter."""
    means, _, n = described(values)
    flat = np.array([v for level in values for v in level])
    if flat.size < 3 or np.ptp(flat) == 0:
        return None
    squares = float(((flat - flat.mean()) ** 2).sum())
    return tuple(float(p) for p in shapes_alike(shapes_of(levels, n), means, np.asarray(squares), n))


def best_between(levels: Sequence[float], values: Sequence[Sequence[float]], *, best_is: str) -> Interval | None:
    """Between which levels tried the best lies, whatever the shape of the curve, as long as it has one peak: (lowest, highest), 95 %. A level may hold the best unless another beats it beyond doubt; the best setting lies between
    the neighbours of those that may. None unless every level has at least two readings.
    Source: Hsu 1996, Multiple Comparisons, chapter 4 (comparison with the best), with Welch's intervals and Bonferroni's share."""
    n = np.array([len(v) for v in values], float)
    if len(levels) < 3 or n.min() < 2:
        return None
    means = np.array([math.fsum(v) / len(v) for v in values]) * (1 if best_is == "high" else -1)
    spread = np.array([float(np.var(v, ddof=1)) for v in values]) / n
    top = int(np.argmax(means))
    may = []
    for at in range(len(levels)):
        both = spread[top] + spread[at]
        if at == top or means[top] - means[at] <= 0:
            may.append(at)
        elif both > 0:
            df = both**2 / (spread[top] ** 2 / (n[top] - 1) + spread[at] ** 2 / (n[at] - 1))
            if (means[top] - means[at]) / math.sqrt(both) <= t_isf(0.05 / (len(levels) - 1), df):
                may.append(at)
    low, high = may[0], may[-1]
    return float(levels[max(low - 1, 0)]), float(levels[min(high + 1, len(levels) - 1)])


def blocks_unequal(table: np.ndarray, f: float, rest: float | None = None) -> float:
    """p of the F of a table of blocks × levels, with freedoms that shrink as levels scatter and go together unalike. rest: freedoms of the
    scatter where cells were missing and the table holds for them what the model expects; None for a complete table. Source: Box 1954, Ann. Math. Stat. 25; Greenhouse & Geisser 1959, Psychometrika 24, 95-112."""
    blocks, k = table.shape
    covariance = np.cov(table, rowvar=False)
    centred = covariance - covariance.mean(axis=0) - covariance.mean(axis=1)[:, None] + covariance.mean()
    square = float((centred**2).sum())
    share = max(float(np.trace(centred)) ** 2 / ((k - 1) * square), 1 / (k - 1)) if square > 0 else 1.0
    return f_sf(f, share * (k - 1), share * ((k - 1) * (blocks - 1) if rest is None else rest))
