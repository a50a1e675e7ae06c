"""By what each school decides, and how sure it must be: the one place where a p becomes an answer.

Every threshold that was set by simulation stands here; `bin/calibrate` shows what it leads to (docs/calibration.md)."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from scipy import stats

from ..results import Answer, Counts, Difference, Groups, Looked, Survival, Trend

School = Literal["shuffle", "interval", "ranges"]
#: p at or below which chance is set aside, and at or below which the answer leans. 0.1 is the least that three against
#: three can reach, so a complete separation there leans (formulas, section 3).
CLEAR_P, LEANING_P = 0.05, 0.1
#: Before the planned trials are in, and after trials were added to a complete plan whose verdict had been read.
#: Source: Haybittle 1971, Br. J. Radiol. 44; Peto et al. 1976, Br. J. Cancer 34. The second by simulation.
SO_FAR_P, ADDED_P = 0.001, 0.01
#: Where the plan reserved further repeats beforehand: at the end of the first ones, and when the reserve is used.
#: Source: simulated; Pocock 1977, Biometrika 64 for equal bounds.
RESERVED_P, RESERVE_USED_P = 0.04, 0.02
#: Where a study stands: every planned trial is in; some are still to come; trials were added to a complete plan; further repeats are
#: reserved; the reserve is used.
Stage = Literal["whole", "so_far", "added", "reserved", "reserve_used"]
BOUND: dict[Stage, float] = {"whole": CLEAR_P, "so_far": SO_FAR_P, "added": ADDED_P, "reserved": RESERVED_P, "reserve_used": RESERVE_USED_P}
#: A shuffle whose steps cannot come nearer to 0.05 than this cannot decide at 0.05; the interval does (3 against 3 cannot at
#: all, 4 against 4 only at 0.029).
GRAIN = 0.04
#: Shares of the bound: the shape that is looked at first (the one predicted before the first trial, else the slope), and the other one.
FIRST_SHARE, OTHER_SHARE = 0.8, 0.2
#: What a p that allows for unequal spreads may be beside a p of 0.05 that does not: of two levels (where 5 or more readings a level let the
#: shuffle decide), and of blocks.
TWO_UNEQUAL, BLOCKS_UNEQUAL = 0.06, 0.05
#: Of two levels with unlike numbers of trials Welch's interval decides alone up to this many times as many; beyond, the plain test as well.
UNLIKE_TIMES = 2
Shape = Literal["slope", "bend"]
#: From so many readings at each of two levels the steps of the shuffle are fine enough.
SHUFFLE_FROM = 5
_EDGE = 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class Decision:
    """p: what the answer goes by, None where nothing can be said. by: the evidence that decided (counts: their own test); coarse: the
    shuffle's steps were too coarse; unlike: levels have unlike numbers of trials; unequal: it would be surer if the levels scattered alike.
    shape: of a number variable, what the answer goes by; first: what was looked at first, when a second was looked at as well."""

    p: float | None
    by: Literal["shuffle", "interval", "counts"]
    coarse: bool = False
    unlike: bool = False
    unequal: bool = False
    shape: Shape = "slope"
    first: Shape | None = None


def by_p(p: float | None, clear: float = CLEAR_P) -> Answer:
    """Answer for a p: both bounds belong to the stronger answer. clear: how rare chance must be here."""
    if p is None:
        return "cannot_tell"
    return "clear" if p <= clear + _EDGE else "leaning" if p <= LEANING_P + _EDGE else "cannot_tell"


def _beside(p: float | None, unequal: float | None, most: float, by: Literal["shuffle", "interval"]) -> Decision:
    """A p with the one that allows for unequal spreads beside it, which may be as large as `most` when p is 0.05."""
    if p is None or unequal is None:
        return Decision(p=p, by=by)
    allowed = min(1.0, unequal * CLEAR_P / most)
    return Decision(p=max(p, allowed), by=by, unequal=p <= CLEAR_P < allowed)


def of_difference(d: Difference, school: School) -> Decision:
    """Two levels, or pairs."""
    if d.counts is not None:
        return _of_counts(d.counts, d.p_shuffle, d.shuffle_grain, school)
    if school == "interval" or d.p_t is None:
        bare = d.bound is not None and d.p_t is None  # the bound is not on the safe side: ranks decide in every school
        interval = school == "interval" and not bare
        return Decision(p=d.p_t if interval else d.p_shuffle, by="interval" if interval else "shuffle")
    if d.bound is not None:  # the interval is open on its side; where the shuffle's steps are too coarse it decides
        coarse = d.shuffle_grain is not None and d.shuffle_grain < GRAIN
        return Decision(p=d.p_t if coarse else d.p_shuffle, by="interval" if coarse else "shuffle", coarse=coarse)
    unlike = d.n_per_level is not None and d.n_per_level[0] != d.n_per_level[1]
    coarse = d.shuffle_grain is not None and d.shuffle_grain < GRAIN
    if unlike and d.n_per_level is not None and max(d.n_per_level) > UNLIKE_TIMES * min(d.n_per_level):
        return Decision(p=d.p_t if d.p_shuffle is None else max(d.p_t, d.p_shuffle), by="interval", unlike=True)
    if unlike or coarse:
        return Decision(p=d.p_t, by="interval", coarse=coarse, unlike=unlike and not coarse)
    return Decision(p=d.p_shuffle, by="shuffle") if d.paired else _beside(d.p_shuffle, d.p_t, TWO_UNEQUAL, "shuffle")


def _of_counts(counts: Counts, shuffled: float | None, grain: float | None, school: School) -> Decision:
    """Counts and points by their own test, alone where levels were tried once, for intervals, or where the shuffle's steps are coarse;
    else the shuffle beside it, which does not ask how counts scatter."""
    coarse = grain is not None and grain < GRAIN
    if school == "interval" or shuffled is None or coarse or counts.freedoms == 0:
        return Decision(p=counts.p, by="counts", coarse=coarse and school == "shuffle")
    return Decision(p=max(shuffled, counts.p), by="shuffle")


def of_groups(g: Groups, school: School) -> Decision:
    """Three or more levels; within blocks; at a common slope."""
    if g.counts is not None:
        return _of_counts(g.counts, g.p_shuffle, None, school)
    bare = g.p_anova is None and g.p is None  # readings are bounds, or nothing is left to judge by: ranks decide in every school
    by: Literal["shuffle", "interval"] = "interval" if g.p_shuffle is None or (school == "interval" and not bare) else "shuffle"
    plain = g.p_shuffle if by == "shuffle" else g.p_anova if g.p is None else g.p
    if g.blocked:
        return _beside(plain, g.p_unequal, BLOCKS_UNEQUAL, by)
    return _where_asked(plain, g.p_unequal, by, asked=g.spreads_ask)


def _where_asked(p: float | None, unequal: float | None, by: Literal["shuffle", "interval"], *, asked: bool) -> Decision:
    """A p, and where the spreads ask for it the one that allows for them."""
    if p is None or unequal is None or not asked:
        return Decision(p=p, by=by)
    return Decision(p=max(p, unequal), by=by, unequal=p <= CLEAR_P < unequal)


def of_trend(t: Trend, levels: int, school: School, first: Shape = "slope") -> Decision:
    """A numeric variable: whether it rises or falls, and whether it bends; the one that was predicted before the first trial is looked at with
    four fifths of the bound, the other with what is left, so that p is the lesser of the two by their shares. levels: how many are tried;
    with two the slope is a difference of two levels. Source: Bonferroni's inequality with weights (Rosenthal & Rubin 1983, J. Educ. Psychol. 76)."""
    if t.slope is None:
        return Decision(p=None, by="shuffle")
    interval = school == "interval" and not t.bound
    if levels == 2 and not t.bound:
        p = t.slope.p_unequal if t.slope.p_unequal is not None else t.slope.p_t
        return Decision(p=p, by="interval", coarse=not interval)
    if t.bend is None:
        return _of_shape(t, t.slope, 1.0, interval=interval)
    one = _of_shape(t, t.slope, FIRST_SHARE if first == "slope" else OTHER_SHARE, interval=interval)
    other = replace(_of_shape(t, t.bend, FIRST_SHARE if first == "bend" else OTHER_SHARE, interval=interval), shape="bend")
    best = other if one.p is None or (other.p is not None and other.p < one.p) else one
    # what is not clear for the spreads alone is told whichever shape it is
    return replace(best, first=first, unequal=one.unequal or other.unequal if (best.p or 0.0) > CLEAR_P else False)


def of_slope(t: Trend, levels: int, school: School, first: Shape = "slope") -> Decision:
    """The slope alone, by its share of the bound."""
    if levels == 2 or t.slope is None or t.bend is None:
        return of_trend(t, levels, school, first)
    return _of_shape(t, t.slope, FIRST_SHARE if first == "slope" else OTHER_SHARE, interval=school == "interval" and not t.bound)


def _of_shape(t: Trend, seen: Looked, share: float, *, interval: bool) -> Decision:
    """The p of one shape by its share of the bound. Where the steps of the shuffle are too coarse for that share, the interval decides."""
    coarse = not interval and seen.smallest_p is not None and seen.smallest_p > share * CLEAR_P and seen.p_t is not None
    plain = seen.p_t if interval or coarse else seen.p_shuffle
    found = _where_asked(None if plain is None else min(1.0, plain / share), None if seen.p_unequal is None else min(1.0, seen.p_unequal / share), "interval" if interval else "shuffle", asked=t.spreads_ask)
    return replace(found, coarse=coarse)


def of_survival(s: Survival) -> Decision:
    """One exact test over all levels, in every school."""
    return Decision(p=s.p, by="shuffle")


def answer_of(decision: Decision, school: School, ranges_overlap: bool | None, clear: float) -> Answer:
    """Ranges that do not touch are clear in the school of ranges, once the planned trials are in."""
    if school != "ranges":
        return by_p(decision.p, clear)
    if ranges_overlap is None or ranges_overlap:
        return "cannot_tell"
    return "clear" if clear >= CLEAR_P else "leaning"


def pairs_err(pairs: int) -> float:
    """How often luck alone points so many pairs one way. Source: the sign test (any handbook)."""
    return float(2 * 0.5**pairs)


#: A difference of so many standard deviations is one that a class sees with the naked eye (common practice).
LARGE = 2.0


def ranges_err(sizes: tuple[int, ...]) -> tuple[float, float] | None:
    """How often the ranges of two levels with so many readings do not touch by luck alone, and how often they touch although the levels
    differ by LARGE standard deviations. Order statistics of equal normal spreads; by numerical integration."""
    if len(sizes) != 2 or min(sizes) < 1:
        return None
    n, m = sizes
    x = np.linspace(-7.0, 7.0 + LARGE, 2001)

    def above(shift: float) -> float:
        """The least of m, shifted, above the largest of n."""
        density = n * stats.norm.pdf(x) * stats.norm.cdf(x) ** (n - 1)
        return float(np.trapezoid(density * stats.norm.sf(x - shift) ** m, x))

    luck = 2 / math.comb(n + m, n)
    return luck, 1 - above(LARGE) - above(-LARGE)
