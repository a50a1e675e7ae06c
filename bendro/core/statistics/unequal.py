"""Whether an effect still stands when the levels do not scatter alike: a p for each kind of comparison that allows for it.

With three repeats nobody can see that one level scatters three times as much, and then the plain tests call one study in ten
clear that has no effect; so these p stand beside the shuffle always, not only where the spreads are seen to differ."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from scipy import stats

#: The better of a slope and a bend is looked at, so its p is taken so many times. Less than two, because the shuffle that stands
#: beside it has allowed for the choice as well: found by simulation (docs/calibration.md).
OF_THREE_LEVELS, OF_MORE_LEVELS = 1.1, 1.6


def groups_unequal(values: Sequence[Sequence[float]], step: float = 0.0) -> float | None:
    """p of the modified F test: as the analysis of variance, with freedoms that shrink as spreads differ. None unless every level
    has at least two readings. step: of the tool, whose own doubt (step/√12) no spread is below.
    Source: Brown & Forsythe 1974, Technometrics 16, 129-132; numerator's freedom by Mehrotra 1997, Commun. Stat. Simul. 26."""
    n = np.array([len(v) for v in values], float)
    if n.min() < 2:
        return None
    spread = _spreads(values, step)
    means = np.array([math.fsum(v) / len(v) for v in values])
    share = n / n.sum()
    between = float(n @ (means - float(share @ means)) ** 2)
    within = (1 - share) * spread
    if within.sum() <= 0:
        return 0.0 if between > 0 else None
    weight = within / within.sum()
    df2 = 1 / float(np.sum(weight**2 / (n - 1)))
    df1 = float(within.sum()) ** 2 / float((spread**2).sum() + (share @ spread) ** 2 - 2 * (share @ spread**2))
    return float(stats.f.sf(between / within.sum(), df1, df2))


def _spreads(values: Sequence[Sequence[float]], step: float) -> np.ndarray:
    return np.array([max(float(np.var(v, ddof=1)), step**2 / 12) for v in values])


def trend_unequal(levels: Sequence[float], values: Sequence[Sequence[float]], step: float = 0.0, *, bends: bool = True) -> float | None:
    """p of the better of slope and bend over the levels' means, each with a freedom of its own by Satterthwaite; of the slope alone
    where no bend is allowed. None unless every level has at least two readings. Source: Satterthwaite 1946, Biometrics 2, 110-114 (contrasts of means)."""
    n = np.array([len(v) for v in values], float)
    if n.min() < 2 or len(levels) < 2:
        return None
    rows = np.repeat(np.asarray(levels, float), n.astype(int))
    across = (np.asarray(levels, float) - rows.mean()) / (float(np.ptp(rows)) or 1.0)
    shapes = 2 if bends and len(levels) > 2 else 1
    raw = np.column_stack([across**power for power in range(shapes + 1)]) * np.sqrt(n)[:, None]
    contrast = np.linalg.qr(raw)[0][:, 1:] * np.sqrt(n)[:, None]  # levels × shapes, on means
    means = np.array([math.fsum(v) / len(v) for v in values])
    spread = _spreads(values, step) / n
    found = []
    for column in contrast.T:
        parts = column**2 * spread
        if parts.sum() <= 0:
            return 0.0 if np.ptp(means) > 0 else None
        df = float(parts.sum()) ** 2 / float(np.sum(parts**2 / (n - 1)))
        found.append(2 * float(stats.t.sf(abs(float(column @ means)) / math.sqrt(float(parts.sum())), df)))
    if shapes == 1:
        return found[0]
    return min(1.0, (OF_THREE_LEVELS if len(levels) == 3 else OF_MORE_LEVELS) * min(found))


def best_between(levels: Sequence[float], values: Sequence[Sequence[float]], *, best_is: str) -> tuple[float, float, bool] | None:
    """Between which levels tried the best lies, whatever the shape of the curve, as long as it has one peak: (lowest, highest, whether
    both ends are surely beaten), 95 %. A level may hold the best unless another beats it beyond doubt; the best setting lies between
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
            if (means[top] - means[at]) / math.sqrt(both) <= float(stats.t.isf(0.05 / (len(levels) - 1), df)):
                may.append(at)
    low, high = may[0], may[-1]
    return float(levels[max(low - 1, 0)]), float(levels[min(high + 1, len(levels) - 1)]), low > 0 and high < len(levels) - 1


def blocks_unequal(table: np.ndarray, f: float, rest: float | None = None) -> float:
    """p of the F of a table of blocks × levels, with freedoms that shrink as levels scatter and go together unalike. rest: freedoms of the
    scatter where cells were missing and the table holds for them what the model expects; None for a complete table. Source: Box 1954, Ann. Math. Stat. 25; Greenhouse & Geisser 1959, Psychometrika 24, 95-112."""
    blocks, k = table.shape
    covariance = np.cov(table, rowvar=False)
    centred = covariance - covariance.mean(axis=0) - covariance.mean(axis=1)[:, None] + covariance.mean()
    square = float((centred**2).sum())
    share = max(float(np.trace(centred)) ** 2 / ((k - 1) * square), 1 / (k - 1)) if square > 0 else 1.0
    return float(stats.f.sf(f, share * (k - 1), share * ((k - 1) * (blocks - 1) if rest is None else rest)))


def forms_p(x: Sequence[float], y: Sequence[float]) -> float | None:
    """p of the better of slope and bend, whatever the readings' scatter, from the scatter about both together: two t tests at right
    angles, of which the better is taken. None without freedom left. Source: Šidák 1967, J. Am. Stat. Assoc. 62, 626-633."""
    distinct = len(set(x))
    shapes = min(distinct - 1, 2)
    across = (np.asarray(x, float) - np.mean(x)) / (float(np.ptp(np.asarray(x, float))) or 1.0)
    basis = np.linalg.qr(np.column_stack([across**power for power in range(shapes + 1)]))[0]
    values = np.asarray(y, float) - np.mean(y)
    along = basis[:, 1:].T @ values
    df = values.size - 1 - shapes
    rest = float(values @ values - along @ along)
    if df < 1 or np.ptp(values) == 0:
        return None
    if rest <= 1e-18 * float(values @ values):
        return 0.0
    one = 2 * float(stats.t.sf(float(np.max(np.abs(along))) / math.sqrt(rest / df), df))
    return 1 - (1 - one) ** shapes
