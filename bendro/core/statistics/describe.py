"""Describing one level: middle, spread, doubt, the odd reading, and how many digits may be quoted."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

import numpy as np

from ..results import DifferenceShown, Interval, LevelShown, LevelSummary
from ..trials import Level, Trial
from ..written import (
    MOST_DECIMALS,
at_place,
    decimals_of_step,
    decimals_of_value,
    half_decimals,
    interval,
    most_common,
    p_text,
    place_of,
    spread,
    two_figures,
    whole_mean,
    with_unit,
)
from .tails import t_isf

Bound = Literal["exact", "at_least", "at_most", "unknown"]
Doubt = Literal["half_range", "sd", "ci95"]
ResultOf = Literal["mean", "median", "best", "total"]
#: Two-sided level of the test for an odd reading.
GRUBBS_ALPHA = 0.05


def t_interval(values: Sequence[float], confidence: float = 0.95) -> Interval | None:
    """Interval of the mean by Student's t, in the unit of the values; None below two values.
    Source: Student 1908, Biometrika 6, 1-25; any handbook (NIST/SEMATECH e-Handbook 1.3.5.2)."""
    n = len(values)
    if n < 2:
        return None
    half = t_isf(0.5 - confidence / 2, n - 1) * float(np.std(values, ddof=1)) / math.sqrt(n)
    mean = math.fsum(values) / n
    return mean - half, mean + half


def grubbs_critical(n: int, alpha: float = GRUBBS_ALPHA) -> float:
    """Two-sided critical value of Grubbs' test for n >= 3 values.
    Source: Grubbs 1969, Technometrics 11, 1-21; NIST/SEMATECH e-Handbook 1.3.5.17.1."""
    if n < 3:
        raise ValueError("Grubbs’ test needs three values")
    t2 = t_isf(alpha / (2 * n), n - 2) ** 2
    return (n - 1) / math.sqrt(n) * math.sqrt(t2 / (n - 2 + t2))


def odd_reading(values: Sequence[float], alpha: float = GRUBBS_ALPHA, *, step: float = 0.0) -> int | None:
    """Position of the value that Grubbs' test (two-sided) finds odd, or None. Never a reason to drop it.

    step: the readings' resolution. Its own doubt (step/√12, GUM F.2.2.1) is part of the spread: of three readings two that are
    alike only because the tool is coarse would otherwise always make the third one odd."""
    n = len(values)
    spread = math.hypot(float(np.std(values, ddof=1)), step / math.sqrt(12)) if n >= 3 else 0.0
    if spread <= 1e-12 * max((abs(v) for v in values), default=0.0):
        return None
    distance = np.abs(np.asarray(values) - np.mean(values)) / spread
    at = int(np.argmax(distance))
    return at if float(distance[at]) > grubbs_critical(n, alpha) else None


_MARK: dict[Bound, str] = {"at_least": "≥ ", "at_most": "≤ ", "unknown": "about ", "exact": ""}


def bound_of_mean(kinds: Sequence[str]) -> Bound:
    """What the mean of readings of these kinds is."""
    low, high = "at_least" in kinds, "at_most" in kinds
    return "unknown" if low and high else "at_least" if low else "at_most" if high else "exact"


def bound_of_best(values: Sequence[float], kinds: Sequence[str], best: float) -> Bound:
    """The best reading is a bound when the reading that holds it is one."""
    at = [k for v, k in zip(values, kinds, strict=True) if v == best]
    return bound_of_mean([k for k in at if k in ("at_least", "at_most")] or ["exact"])


def bound_of_median(values: Sequence[float], kinds: Sequence[str]) -> Bound:
    """The median is exact when fewer than half are bounds and each bound lies on its own side of it."""
    middle = float(np.median(values))
    low = [v for v, k in zip(values, kinds, strict=True) if k == "at_least"]
    high = [v for v, k in zip(values, kinds, strict=True) if k == "at_most"]
    if not low and not high:
        return "exact"
    if 2 * (len(low) + len(high)) < len(values) and all(v >= middle for v in low) and all(v <= middle for v in high):
        return "exact"
    return bound_of_mean(kinds)


def _doubt_of(summary_half: float | None, sd: float | None, ci: Interval | None, school: Doubt) -> float | None:
    if school == "half_range":
        return summary_half
    if school == "sd":
        return sd
    return None if ci is None else (ci[1] - ci[0]) / 2


def _without_reading(level: Level, kept: int, void: int) -> LevelSummary:
    """A level that has no reading: only void trials, or outcomes."""
    none = dict.fromkeys(("mean", "median", "sd", "sem", "min", "max", "half_range", "ci95"))
    return LevelSummary.model_validate({"level": level, "n_kept": kept, "n_void": void, "censored": 0, **none})


def reading_decimals(trials: Sequence[Trial]) -> int:
    """Decimals that most of the readings of counted trials have: of the exact ones, where there are none of the estimates, else of the
    bounds. What is worked out has those of its doubt."""
    for kinds in (("exact",), ("estimate",), ("at_least", "at_most")):
        found = most_common(_decimals(t) for t in trials if t.kind in kinds and t.value is not None)
        if found is not None:
            return found
    return 0


def _decimals(t: Trial) -> int:
    if t.resolution:
        return decimals_of_step(t.resolution)
    place = place_of(t.doubt, None, 1) if t.doubt else None
    return max(0, place) if place is not None else decimals_of_value(t.value or 0.0)


def describe(
    level: Level,
    trials: Sequence[Trial],
    *,
    unit: str | None = None,
    doubt: Doubt = "ci95",
    best_is: Literal["high", "low"] = "high",
    result: ResultOf = "mean",
    rungs: bool = False,
) -> LevelSummary:
    """One level from its trials (kept and void). Values are in the response's unit. result: what the study calls the result of
    a level; the others are given as well. rungs: readings are the highest rungs of specimens. Its numbers are written by `in_columns`."""
    kept = [t for t in trials if t.counts and t.value is not None]
    values = [t.value for t in kept if t.value is not None]
    kinds = [t.kind for t in kept]
    n, void = len(values), sum(t.state == "void" for t in trials)
    if n == 0:
        return _without_reading(level, sum(t.counts for t in trials), void)
    mean = math.fsum(values) / n
    is_bound = [k in ("at_least", "at_most") for k in kinds]
    free = n >= 2 and not any(is_bound)
    sd = float(np.std(values, ddof=1)) if free else None
    ci = t_interval(values) if free else None
    half = (max(values) - min(values)) / 2 if n >= 2 else None
    steps = [t.resolution for t in kept if t.resolution]
    doubted = _doubt_of(half, sd, ci, doubt)
    odd = odd_reading(values, step=max(steps) if steps else 0.0) if free else None
    best = max(values) if best_is == "high" else min(values)
    middle = sorted(kept, key=lambda t: (t.value or 0.0, t.kind == "at_least"))[(n - 1) // 2]
    median = float(middle.value or 0.0) if rungs else float(np.median(values))  # of a ladder a rung that there is
    added = [_decimals(t) for t in kept if t.kind == "exact"] or [_decimals(t) for t in kept]
    made = LevelSummary(
        level=level,
        n_kept=n,
        n_void=void,
        mean=mean,
        median=median,
        sd=sd,
        sem=None if sd is None else sd / math.sqrt(n),
        min=min(values),
        max=max(values),
        half_range=half,
        ci95=ci,
        censored=sum(is_bound),
        estimated=kinds.count("estimate"),
        range=max(values) - min(values) if n >= 2 else None,
        total=math.fsum(values),
        best=best,
        percentage_uncertainty=None if doubted is None or mean == 0 else 100 * doubted / abs(mean),
        mean_is=bound_of_mean(kinds),
        median_is=("at_least" if middle.kind == "at_least" else "exact") if rungs else bound_of_median(values, kinds),
        best_is=bound_of_best(values, kinds, best),
        result={"mean": mean, "median": median, "best": best, "total": math.fsum(values)}[result],
        odd_rows=() if odd is None else (kept[odd].row,),
        reading_places=reading_decimals(kept),
        total_places=max(added),
    )
    return in_columns([made], unit=unit, result=result)[0]


#: Stands where a mean would mean nothing.
NO_MEAN = "–"
#: Whole numbers with a unit whose means are smaller than this are averaged to one decimal like counts: 4.5 g is not 5 g.
FEW_WHOLE = 10


def in_columns(
    levels: Sequence[LevelSummary], *, unit: str | None, result: ResultOf = "mean", whole: bool = False, least: float | None = None, most: float | None = None, rungs: bool = False
) -> tuple[LevelSummary, ...]:
    """The same levels with their numbers written out for a table, by the rule of `written`; the mean is the same text wherever it is
    shown. whole: readings are counts, points or places. least, most: where no reading can lie beyond. rungs: of a ladder, whose results are
    brackets, so that they have no mean and no spread."""
    read = [s for s in levels if s.mean is not None]
    reads = most_common(s.reading_places or 0 for s in read for _ in range(s.n_kept)) or 0
    small = reads == 0 and max((abs(s.mean or 0.0) for s in read), default=0.0) < FEW_WHOLE
    means = max(reads, whole_mean(max((s.n_kept for s in read), default=1))) if whole or unit == "count" or small else reads
    halves = max((half_decimals(s.half_range, reads) for s in read if s.half_range is not None), default=reads)
    totals = max((s.total_places or 0 for s in read), default=0)

    def written(s: LevelSummary) -> LevelSummary:
        if s.mean is None or s.median is None or s.result is None or s.min is None or s.max is None:
            return s
        of_many = _MARK[s.mean_is]
        texts = {
            "mean": of_many + at_place(s.mean, means),
            "median": _MARK[s.median_is] + at_place(s.median, means),
            "best": _MARK[s.best_is] + at_place(s.min if s.best is None else s.best, reads),
            "total": of_many + at_place(s.total or 0.0, totals),
        }
        ci = None if s.ci95 is None else interval(*s.ci95, means, least=least, most=most)
        shown = LevelShown(
            mean=NO_MEAN if rungs else texts["mean"],
            median=texts["median"],
            half_range=None if s.half_range is None else at_place(s.half_range, halves),
            sd=None if s.sd is None or rungs else spread(s.sd),
            ci95=None if rungs else ci,
            result=texts[result],
            best=texts["best"],
            total=texts["total"],
            smallest=at_place(s.min, reads),
            largest=at_place(s.max, reads),
            range=at_place(s.max - s.min, reads),
        )
        return s.model_copy(
            update={"quoted": with_unit(texts[result if rungs else "mean"], unit), "result_quoted": with_unit(texts[result], unit), "shown": shown, "places": means, "reading_places": reads}
        )

    return tuple(written(s) for s in levels)


def differences_in_columns(found: Sequence[tuple[float, Interval | None, float | None]], most: int | None = None) -> tuple[DifferenceShown, ...]:
    """Differences with their intervals and p, written out for a table. found: (estimate, interval, p). The decimals are those
    that the widest half-width has with two figures, yet no more than the means have (most); without any interval, three figures of the
    smallest difference. None that is not zero reads as zero."""
    halves = [(ci[1] - ci[0]) / 2 for e, ci, _ in found if ci is not None and ci[1] - ci[0] > 1e-9 * max(abs(e), abs(ci[0]))]
    sizes = [abs(e) for e, _, _ in found if e]
    places = two_figures(max(halves)) if halves else 1 + (two_figures(min(sizes)) or 0) if sizes else 0
    places = 0 if places is None else places
    if most is not None:
        places = min(places, most)
    while sizes and round(min(sizes), places) == 0 and places < MOST_DECIMALS:
        places += 1
    return tuple(
        DifferenceShown(
            estimate=at_place(e, places),
            ci95=None if ci is None else interval(*ci, places),
            p=p_text(p),
        )
        for e, ci, p in found
    )
