"""Describing one level: middle, spread, doubt, the odd reading, and how many digits may be quoted."""

from __future__ import annotations

import math
from collections.abc import Sequence
from decimal import ROUND_HALF_UP, Decimal
from typing import Literal

import numpy as np
from scipy import stats

from ..results import DifferenceShown, Interval, LevelShown, LevelSummary
from ..trials import Level, Trial

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
    half = float(stats.t.ppf(0.5 + confidence / 2, n - 1)) * float(np.std(values, ddof=1)) / math.sqrt(n)
    mean = math.fsum(values) / n
    return mean - half, mean + half


def grubbs_critical(n: int, alpha: float = GRUBBS_ALPHA) -> float:
    """Two-sided critical value of Grubbs' test for n >= 3 values.
    Source: Grubbs 1969, Technometrics 11, 1-21; NIST/SEMATECH e-Handbook 1.3.5.17.1."""
    if n < 3:
        raise ValueError("Grubbs’ test needs three values")
    t2 = float(stats.t.isf(alpha / (2 * n), n - 2)) ** 2
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


def place_of(doubt: float | None, resolution: float | None, n: int) -> int | None:
    """Decimal places that a mean may be quoted to (negative: tens, hundreds); None when nothing limits it.

    One significant figure of the doubt, two if it starts with 1, and never finer than resolution/√n justifies.
    Source: common practice; GUM, JCGM 100:2008, 7.2.6.
    """
    places: list[int] = []
    if doubt:
        first = math.floor(math.log10(doubt) + 1e-12)
        leading = int(f"{doubt:.1e}"[0])
        if int(f"{doubt:.1e}".split("e")[1]) > first:
            first += 1
        places.append(-first + (1 if leading == 1 else 0))
    if resolution:
        places.append(math.floor(-math.log10(resolution / math.sqrt(max(n, 1))) + 1e-9))
    return min(places) if places else None


def at_place(value: float, places: int | None) -> str:
    """A number written to so many places, halves away from zero as they are rounded by hand (5.35 gives 5.4, 8.05 gives 8.1),
    with a true minus sign."""
    if places is None:
        text = f"{value:.6g}"
    else:
        # twelve digits first: a mean that is 5.35 on paper may be 5.3499999999999996 in the machine
        rounded = Decimal(f"{value:.12g}").quantize(Decimal(1).scaleb(-places), ROUND_HALF_UP)
        text = f"{rounded if rounded else 0:.{max(places, 0)}f}"
    return text.replace("-", "−")


_MARKS = {"exact": "", "at_least": "at least ", "at_most": "at most ", "estimate": "about "}


def written_of(value: float, doubt: float, kind: str, unit: str) -> str:
    """One value as it is read aloud, to the place of its doubt: "1.41 m/s", "at least 3.6 m"."""
    text = f"{_MARKS[kind]}{at_place(value, place_of(doubt, None, 1)) if doubt else at_place(float(f'{value:.4g}'), None)}"
    return text if unit in ("", "count") else f"{text}{'' if unit == '°' else ' '}{unit}"


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


def describe(
    level: Level,
    trials: Sequence[Trial],
    *,
    unit: str | None = None,
    doubt: Doubt = "ci95",
    best_is: Literal["high", "low"] = "high",
    result: ResultOf = "mean",
) -> LevelSummary:
    """One level from its trials (kept and void). Values are in the response's unit. result: what the study calls the result of
    a level; the others are given as well."""
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
    places = place_of(doubted, max(steps) if steps else None, n)
    quoted = at_place(mean, places)
    best = max(values) if best_is == "high" else min(values)
    median = float(np.median(values))
    chosen = {"mean": mean, "median": median, "best": best, "total": math.fsum(values)}[result]
    of_one = place_of(None, max(steps) if steps else None, 1)
    result_text = quoted if result == "mean" else at_place(chosen, of_one)
    kind = {
        "mean": bound_of_mean(kinds),
        "median": bound_of_median(values, kinds),
        "best": bound_of_best(values, kinds, best),
        "total": bound_of_mean(kinds),
    }
    unit_text = f" {unit}" if unit else ""
    return LevelSummary(
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
        median_is=bound_of_median(values, kinds),
        best_is=bound_of_best(values, kinds, best),
        quoted=_MARK[bound_of_mean(kinds)] + quoted + unit_text,
        result=chosen,
        result_quoted=_MARK[kind[result]] + result_text + unit_text,
        odd_rows=() if odd is None else (kept[odd].row,),
        places=places,
        reading_places=of_one,
    )


def in_columns(levels: Sequence[LevelSummary], *, unit: str | None, result: ResultOf = "mean") -> tuple[LevelSummary, ...]:
    """The same levels with their numbers written out for a table: each column to one number of decimals, decided by its coarsest
    doubt; the mean is the same text wherever it is shown."""
    means = [s.places for s in levels if s.places is not None]
    reads = [s.reading_places for s in levels if s.reading_places is not None]
    # the coarsest doubt decides, but one level of wild readings does not take every other mean its digits
    mean_at = max(min(means), max(means) - 1) if means else None
    read_at = min(reads, default=None if mean_at is None else mean_at + 1)
    doubt_at = read_at if mean_at is None else min(mean_at + 1, mean_at + 1 if read_at is None else max(read_at, mean_at))
    unit_text = f" {unit}" if unit else ""

    def written(s: LevelSummary) -> LevelSummary:
        if s.mean is None or s.median is None or s.result is None:
            return s
        mean = _MARK[s.mean_is] + at_place(s.mean, mean_at)
        median = _MARK[s.median_is] + at_place(s.median, read_at)
        chosen = {"mean": mean, "median": median}.get(result) or _result_mark(s) + at_place(s.result, read_at)
        shown = LevelShown(
            mean=mean,
            median=median,
            half_range=None if s.half_range is None else at_place(s.half_range, doubt_at),
            sd=None if s.sd is None else at_place(s.sd, doubt_at),
            ci95=None if s.ci95 is None else f"{at_place(s.ci95[0], doubt_at)} to {at_place(s.ci95[1], doubt_at)}",
            result=chosen,
            best=None if s.best is None else _MARK[s.best_is] + at_place(s.best, read_at),
            total=None if s.total is None else _MARK[s.mean_is] + at_place(s.total, read_at),
        )
        return s.model_copy(update={"quoted": mean + unit_text, "result_quoted": chosen + unit_text, "shown": shown})

    return tuple(written(s) for s in levels)


def _result_mark(s: LevelSummary) -> str:
    """The mark of a best or total, as `describe` gave it."""
    return next((m for m in _MARK.values() if m and (s.result_quoted or "").startswith(m)), "")


#: A p below this is written as such: further digits mean nothing to a class.
LEAST_P = 0.001


def p_text(p: float | None) -> str | None:
    """A p as it is read aloud: "0.042", "below 0.001"."""
    if p is None:
        return None
    return f"below {LEAST_P:g}" if p < LEAST_P else at_place(p, 3 if p < 0.1 else 2)


def differences_in_columns(found: Sequence[tuple[float, Interval | None, float | None]]) -> tuple[DifferenceShown, ...]:
    """Differences with their intervals and p, written out for a table. found: (estimate, interval, p). The decimals are those
    that the coarsest interval allows, and one more; without any interval, three figures of the smallest difference."""
    halves = [(ci[1] - ci[0]) / 2 for _, ci, _ in found if ci is not None and ci[1] > ci[0]]
    sizes = [abs(e) for e, _, _ in found if e]
    own = place_of(max(halves), None, 1) if halves else None
    places = own + 1 if own is not None else 2 - math.floor(math.log10(min(sizes))) if sizes else 0
    return tuple(
        DifferenceShown(
            estimate=at_place(e, places),
            ci95=None if ci is None else f"{at_place(ci[0], places)} to {at_place(ci[1], places)}",
            p=p_text(p),
        )
        for e, ci, p in found
    )
