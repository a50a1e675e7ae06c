"""Tails of the usual laws, as the library's, without its looking over of every argument, which takes longer than the tail itself."""

from __future__ import annotations

from scipy import special


def t_sf(x: float, df: float) -> float:
    """P(t > x)."""
    return float(special.stdtr(df, -x))


def t_two(x: float, df: float) -> float:
    """P(|t| > |x|)."""
    return 2 * float(special.stdtr(df, -abs(x)))


def t_isf(p: float, df: float) -> float:
    """What t exceeds with probability p."""
    return -float(special.stdtrit(df, p))


def f_sf(x: float, more: float, free: float) -> float:
    """P(F > x). more, free: freedoms above and below."""
    return float(special.fdtrc(more, free, x))


def chi2_isf(p: float, df: float) -> float:
    """What chi squared exceeds with probability p."""
    return float(special.chdtri(df, p))
