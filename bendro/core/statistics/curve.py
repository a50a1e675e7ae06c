"""The shape of what happens along a variable of numbers, by the repeats: whether a form fits, where a step or a plateau lies, and whether a
level in the middle beats both ends."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from typing import Literal

import numpy as np

from ..results import Interval, Shape
from .tails import f_sf, t_isf, t_sf
from .unequal import described, spreads_ask

#: A form does not fit where luck would leave the levels so far from it in fewer studies than this.
FITS_P = 0.05
#: Levels that a step or a plateau takes together differ by no more than this share of the whole change; where the repeats scatter by more,
#: by no more than the doubt of such a difference, up to the second share.
HARDLY, HARDLY_MOST = 0.15, 0.3
#: One-sided, over the levels in the middle: how rare luck must be before one of them beats an end.
BEATS_P = 0.035


def lack_of_fit(levels: Sequence[float], values: Sequence[Sequence[float]], says: Callable[[float], float], parameters: int, step: float = 0.0) -> float | None:
    """p of the levels' distances from a form, beside how repeats scatter; None without repeats, or with no level to spare. says: what the
    form gives at a level; parameters: of the form. Source: Draper & Smith 1998, Applied Regression Analysis, 2.1 (pure error)."""
    means, _, n = described(values)
    free, over = int(n.sum()) - len(n), len(n) - parameters
    if free < 1 or over < 1:
        return None
    off = math.fsum(m * (mean - says(x)) ** 2 for m, mean, x in zip(n, means, levels, strict=True))
    pure = _pure(values, step)
    if pure <= 0:
        return 0.0 if off > 1e-12 * float((n * means**2).sum()) else 1.0
    return f_sf(off / over / pure, over, free)


def _pure(values: Sequence[Sequence[float]], step: float) -> float:
    """Variance of the repeats, all levels together, not below the tool's own."""
    free = sum(len(v) - 1 for v in values)
    return max(math.fsum(float(np.var(v)) * len(v) for v in values) / free, step**2 / 12) if free > 0 else 0.0


def middle_of(levels: Sequence[float], values: Sequence[Sequence[float]], step: float = 0.0) -> Literal["hill", "valley"] | None:
    """Whether a level in the middle is surely above both ends, or below both. Both comparisons must hold, so neither needs a smaller share;
    the middle levels share it. By the scatter of all levels together, or of the two where spreads ask for it.
    Source: Berger 1982, Technometrics 24, 295-300 (intersection-union); Bonferroni over the levels."""
    means, spread, n = described(values)
    if len(n) < 3 or n.min() < 2:
        return None
    pure, free, apart = _pure(values, step), float(n.sum()) - len(n), spreads_ask(values, step)
    for kind, sign in (("hill", 1), ("valley", -1)):
        at = 1 + int(np.argmax(sign * means[1:-1]))
        if all(_beats(sign * (means[at] - means[end]), at, end, spread, n, pure, free, apart) <= BEATS_P / (len(n) - 2) for end in (0, -1)):
            return "hill" if kind == "hill" else "valley"
    return None


def _beats(by: float, at: int, end: int, spread: np.ndarray, n: np.ndarray, pure: float, free: float, apart: bool) -> float:
    """One-sided p."""
    parts = np.array([spread[at] / n[at], spread[end] / n[end]]) if apart else np.array([pure / n[at], pure / n[end]])
    if parts.sum() <= 0:
        return 0.0 if by > 0 else 1.0
    df = float(parts.sum() ** 2 / (parts**2 / (n[[at, end]] - 1)).sum()) if apart else free
    return t_sf(by / math.sqrt(parts.sum()), df)


def ends_of(values: Sequence[Sequence[float]], step: float = 0.0) -> tuple[float, Interval | None]:
    """How much the last level lies above the first, and the 95 % interval from the scatter of all levels; None without repeats."""
    means, _, n = described(values)
    rise, free, pure = float(means[-1] - means[0]), float(n.sum()) - len(n), _pure(values, step)
    if free < 1 or pure <= 0:
        return rise, None
    half = t_isf(0.025, free) * math.sqrt(pure * (1 / n[0] + 1 / n[-1]))
    return rise, (rise - half, rise + half)


def shape_of(levels: Sequence[float], values: Sequence[Sequence[float]], step: float = 0.0) -> Shape | None:
    """What the levels do that a straight line does not; None where a line fits, or without repeats. The simplest that describes their means:
    a step, a plateau at either end, then a change that grows less and less or more and more, else only that no line fits."""
    rows, flat = np.repeat(np.asarray(levels, float), [len(v) for v in values]), [x for v in values for x in v]
    slope, intercept = np.polyfit(rows, flat, 1)
    p = lack_of_fit(levels, values, lambda x: float(intercept + slope * x), 2, step)
    if p is None or p > FITS_P:
        return None
    means = [math.fsum(v) / len(v) for v in values]
    k, whole = len(levels), means[-1] - means[0]
    doubt = math.sqrt(_pure(values, step) * 2 / min(map(len, values)))
    little = min(max(HARDLY * abs(whole), doubt), HARDLY_MOST * abs(whole))
    if whole == 0 or any((b - a) * math.copysign(1, whole) < -little for a, b in itertools.pairwise(means)):
        return Shape(kind="other", p=p)  # it goes up and down

    def alike(first: int, last: int) -> bool:
        return max(means[first:last]) - min(means[first:last]) <= little

    for at in range(2, k - 1):
        if alike(0, at) and alike(at, k):
            return Shape(kind="step", p=p, low=levels[at - 1], high=levels[at])
    for at in range(1, k - 1):
        if alike(at, k):
            return Shape(kind="levels_off", p=p, low=levels[at], high=levels[at])
    for at in range(k - 1, 1, -1):
        if alike(0, at):
            return Shape(kind="starts_late", p=p, low=levels[at - 1], high=levels[at - 1])
    c, b, a = (float(v) for v in np.polyfit(rows - rows.mean(), flat, 2))
    bent = lack_of_fit(levels, values, lambda x: a + b * (x - rows.mean()) + c * (x - rows.mean()) ** 2, 3, step)
    if bent is None or bent > FITS_P:
        return Shape(kind="less_and_less" if c * whole < 0 else "more_and_more", p=p)
    return Shape(kind="other", p=p)
