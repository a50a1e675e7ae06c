"""A reading out of line with its level, judged by all levels together."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from .tails import t_two

#: Chance of a false question over the whole table (two-sided, divided over its readings by Bonferroni); and where the reading would be in
#: line if a common slip were taken back, which luck seldom offers as well.
ODD_P, SLIP_P = 0.02, 0.3


def odd_of_all(levels: Sequence[Sequence[float]], *, step: float = 0.0) -> tuple[int, int, float] | tuple[()] | None:
    """(level, position, p) of the reading with the largest deleted studentised residual; () when none differs, None
    when there is too little to go by (three readings at a level, four left for the scatter). step: of the tool, whose own doubt no
    scatter is below. Never a reason to drop a reading.
    Source: Cook & Weisberg 1982, Residuals and Influence in Regression, section 2.2.2 (mean-shift outlier model, Bonferroni)."""
    counted = [(at, np.asarray(v, float)) for at, v in enumerate(levels) if len(v) >= 2]
    n, k = sum(v.size for _, v in counted), len(counted)
    df = n - k - 1
    if df < 1 or not any(v.size >= 3 for _, v in counted):
        return None
    residuals = [v - v.mean() for _, v in counted]
    rss = float(sum(r @ r for r in residuals))
    worst: tuple[float, int, int] = (0.0, -1, -1)
    for (at, values), residual in zip(counted, residuals, strict=True):
        if values.size < 3:
            continue  # of two readings neither is the odd one
        free = 1 - 1 / values.size
        left = np.maximum((rss - residual**2 / free) / df, step**2 / 12)
        with np.errstate(divide="ignore", invalid="ignore"):
            t = np.where(left > 0, np.abs(residual) / np.sqrt(left * free), np.where(residual == 0, 0.0, np.inf))
        place = int(np.argmax(t))
        if float(t[place]) > worst[0]:
            worst = (float(t[place]), at, place)
    scale = max((float(np.max(np.abs(v))) for _, v in counted), default=0.0)
    if worst[1] < 0 or math.sqrt(rss / n) <= 1e-12 * scale:
        return ()
    return worst[1], worst[2], min(1.0, t_two(worst[0], df) * n)
