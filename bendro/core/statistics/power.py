"""How many repeats, and what the present repeats could have seen."""

from __future__ import annotations

import math
import warnings

from scipy import optimize, stats

POWER = 0.8
ALPHA = 0.05
MOST = 1000.0


def power_of(n: float, d: float, *, alpha: float = ALPHA) -> float | None:
    """Power of the two-sided two-level t test with n readings a level and a difference of d standard deviations.
    Source: Cohen 1988, Statistical Power Analysis, chapter 2 (noncentral t). None where the far tail cannot be computed."""
    df = 2 * n - 2
    if df <= 0:
        return None
    lam, cut = d * math.sqrt(n / 2), float(stats.t.isf(alpha / 2, df))
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", RuntimeWarning)  # the far tail is answered by the check below
        above, below = float(stats.nct.sf(cut, df, lam)), float(stats.nct.cdf(-cut, df, lam))
    if not math.isfinite(below) and lam > cut:  # the wrong side of zero: its share is below that of a normal tail at cut + lam
        below = 0.0
    value = above + below
    if not math.isfinite(value):
        return 1.0 if lam > cut + 10 else None
    return value


def repeats_for(d: float, *, power: float = POWER, alpha: float = ALPHA) -> float | None:
    """Readings at each of two levels for a difference of d standard deviations (not rounded); None when over 1,000."""
    if d <= 0:
        return None

    def short(n: float) -> float:
        found = power_of(n, d, alpha=alpha)
        return (1.0 if found is None else found) - power

    if short(1.05) >= 0:
        return 1.05
    if short(MOST) < 0:
        return None
    return float(optimize.brentq(short, 1.05, MOST, xtol=1e-9))


def repeats_needed(difference: float, sd: float, *, power: float = POWER, alpha: float = ALPHA) -> int | None:
    """Whole repeats at each level, at least 2, for `difference` with the pooled SD `sd` (one unit). None: not within 1,000."""
    if sd <= 0:
        return 2
    found = repeats_for(abs(difference) / sd, power=power, alpha=alpha)
    return None if found is None else max(2, math.ceil(found - 1e-9))


def detectable(n: float, sd: float, *, power: float = POWER, alpha: float = ALPHA) -> float | None:
    """The difference that n readings a level could have seen with the wanted power, in the unit of sd; None below 2."""
    if n < 2:
        return None

    def short(d: float) -> float:
        found = power_of(n, d, alpha=alpha)
        return (1.0 if found is None else found) - power

    return sd * float(optimize.brentq(short, 1e-6, 60.0, xtol=1e-9))
