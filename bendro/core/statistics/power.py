"""How many repeats, and what the present repeats could have seen."""

from __future__ import annotations

import math
import warnings
from dataclasses import dataclass
from typing import Literal

from scipy import optimize, special, stats

from .tails import chi2_isf

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


@dataclass(frozen=True, slots=True, kw_only=True)
class Design:
    """What further trials must show. kind: of the comparison; levels: how many; each: noncentrality that one more trial at each level
    (or one more pair) brings, for the effect as it is seen."""

    kind: Literal["two", "pairs", "groups", "trend"]
    levels: int
    each: float

    def power(self, n: float, alpha: float) -> float:
        """Share of studies with n trials at each level that would be clear at alpha. Source: noncentral F (Cohen 1988, chapter 8)."""
        df1 = self.levels - 1 if self.kind == "groups" else 1
        df2 = {"two": 2 * n - 2, "pairs": n - 1, "groups": self.levels * (n - 1), "trend": self.levels * n - 2}[self.kind]
        if df2 < 1:
            return 0.0
        cut = float(special.fdtri(df1, df2, 1 - alpha * OF_ALPHA[self.kind]))
        found = 1 - float(special.ncfdtr(df1, df2, n * self.each, cut))
        return found if math.isfinite(found) else 1.0  # the far tail, where all would be clear

    def wanted(self, least: int, alpha: float, most: int = 200, share: float = 1.0) -> int | None:
        """Fewest trials at each level, `least` or more, with power POWER for `share` of the effect; None when more than `most`."""
        design = Design(kind=self.kind, levels=self.levels, each=self.each * share**2)
        low, high = max(least, 2), most
        if design.power(high, alpha) < POWER:
            return None
        while low < high:
            middle = (low + high) // 2
            low, high = (low, middle) if design.power(middle, alpha) >= POWER else (middle + 1, high)
        return low


#: Of a slope four fifths of the bound are left, and where spreads show that they differ a test that allows for it stands beside the plain
#: one: as much of the alpha is left for the plain test's formula (found by simulation).
OF_ALPHA = {"two": 0.9, "pairs": 0.9, "groups": 0.75, "trend": 0.7}


def sd_at_most(sd: float, df: int, sure: float = 0.5) -> float:
    """The spread that the true one does not exceed, every second time: the spread of few readings is more often too small than too large.
    Source: chi-squared limit of a variance (any handbook)."""
    return sd * math.sqrt(df / chi2_isf(sure, df)) if df > 0 else sd


def detectable_by(kind: Literal["two", "groups", "trend"], levels: int, n: int, sd: float, alpha: float) -> float | None:
    """The difference between the two ends that n trials at each of so many levels would show with power POWER, in the unit of sd. The
    levels between lie evenly for a trend, and in the middle for groups. None when nothing short of 60 sd would."""
    spacing = sum((i / (levels - 1) - 0.5) ** 2 for i in range(levels)) if kind == "trend" else 0.5

    def short(d: float) -> float:
        return Design(kind=kind, levels=levels, each=d * d * spacing).power(n, alpha) - POWER

    if short(60.0) < 0:
        return None
    return sd * float(optimize.brentq(short, 1e-6, 60.0, xtol=1e-6))
