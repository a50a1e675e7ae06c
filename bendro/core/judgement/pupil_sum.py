"""Checking a pupil's average: right to the rounding allowed, or the slip that reproduces the pupil's number."""

from __future__ import annotations

import math
import re
import statistics
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ..errors import CoreError
from ..readings import QUANTITIES, find_unit, read
from ..statistics.describe import odd_reading
from ..written import decimals_of_step

#: What is worked out, such as a speed, is asked for with two figures.
TWO_FIGURES = 10.0
UNIT_SLIPS = (
    (10, "ten times"),
    (100, "a hundred times"),
    (1000, "a thousand times"),
    (2.54, "2.54 times (inches and centimetres)"),
    (12, "twelve times (feet and inches)"),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class SumChecked:
    """slip: None when right or when no slip reproduces the number."""

    right: bool
    slip: str | None
    says: str
    working: tuple[str, ...]


def plain_number(answer: str, unit: str = "") -> tuple[float, float]:
    """A pupil's answer and the place of its last digit: one number, with nothing behind it or its unit. Raises CoreError `sum_not_plain`."""
    text = answer.strip()
    m = re.fullmatch(r"(?P<number>[+−-]?[\d\s.,]*\d)\s*(?P<unit>\D*)", text)
    own = m["unit"].strip() if m is not None else ""
    if m is None or (own and own.casefold() != unit.casefold() and not _same_unit(own, unit)):
        wanted = f"one number, alone or with {unit}" if unit and unit != "count" else "one number with nothing behind it"
        raise CoreError(f"“{text[:30]}” is not a plain number. Write {wanted}.", code="sum_not_plain", where="answer")
    written = read(m["number"].replace("−", "-"), "number", "", signed=True)
    return written.value, written.resolution


def _same_unit(one: str, two: str) -> bool:
    return any((found := find_unit(one, q)) is not None and found == two for q in QUANTITIES)


def _coarsest(step: float) -> float:
    """The place to which an answer may be rounded: that of the readings, so a whole number only where they are whole."""
    return float(10.0 ** -decimals_of_step(step))


def check_sum(answer: str, kept: Sequence[float], void: Sequence[float] = (), *, step: float, unit: str = "") -> SumChecked:
    """Check a written answer against the mean of the kept readings (same unit; step: their resolution, > 0). Right is what the rule of
    `written` writes, and every further decimal that is right.

    A slip is claimed only when it gives the pupil's number to the places that the pupil wrote. Raises CoreError
    `sum_no_readings`, or `sum_not_plain` for an answer that is not a number.
    """
    if not kept:
        raise CoreError("There is no kept reading to average.", code="sum_no_readings", where="readings")
    given, place = plain_number(answer, unit)
    mean = math.fsum(kept) / len(kept)
    working = (f"sum = {_sum_text(kept)} = {math.fsum(kept):.6g}", f"mean = {math.fsum(kept):.6g} ÷ {len(kept)} = {mean:.6g}")
    if _gives(mean, given, place):
        if place > _coarsest(step) * (1 + 1e-9):
            return SumChecked(
                right=False,
                slip="rounded_too_far",
                working=working,
                says=f"The mean is {mean:.6g}; {answer.strip()} rounds it further than the readings allow.",
            )
        return SumChecked(right=True, slip=None, says="Right.", working=working)
    for slip, value, says in _slips(kept, void, mean, step, place):
        if _gives(value, given, place):
            return SumChecked(right=False, slip=slip, says=says, working=working)
    if sorted(_digits(answer)) == sorted(_digits(_as_written(mean, place))) and _swapped(answer, _as_written(mean, place)):
        return SumChecked(
            right=False, slip="digits_swapped", says=f"Two digits changed places: the mean is {_as_written(mean, place)}.", working=working
        )
    return SumChecked(right=False, slip=None, says="This does not match. Look at the working and find where it parts.", working=working)


def _gives(value: float, given: float, place: float) -> bool:
    return abs(value - given) <= place / 2 * (1 + 1e-9) + 1e-12


def _sum_text(values: Sequence[float]) -> str:
    return " + ".join(f"{v:g}" for v in values)


def _slips(kept: Sequence[float], void: Sequence[float], mean: float, step: float, place: float) -> Iterator[tuple[str, float, str]]:
    """Slips in the order in which they are likely: (code, the number it gives, the sentence)."""
    n, total = len(kept), math.fsum(kept)
    if n > 1:
        yield "not_divided", total, f"The readings were added but not divided by {n}."
    if void:
        every = [*kept, *void]
        yield "void_included", math.fsum(every) / len(every), f"{'A void trial was' if len(void) == 1 else 'Void trials were'} counted in."
        yield "void_in_sum_only", math.fsum(every) / n, "A void trial was added in, though not counted when dividing."
        yield "void_in_count_only", total / len(every), "A void trial was counted when dividing, though not added in."
    odd = odd_reading(kept)
    if odd is not None:
        rest = [v for i, v in enumerate(kept) if i != odd]
        yield (
            "anomaly_left_out",
            math.fsum(rest) / len(rest),
            f"The odd reading {kept[odd]:g} was left out, though no fault was named for it.",
        )
    for value in dict.fromkeys(kept) if n > 2 else ():
        yield "one_left_out", (total - value) / (n - 1), f"The reading {value:g} was left out."
    yield "median_for_mean", statistics.median(kept), "This is the median, the middle reading, not the mean."
    for by in [k for k in range(2, n + 4) if k != n]:
        yield "divided_by_wrong_number", total / by, f"The sum was divided by {by} and not by {n}."
    for times, words in UNIT_SLIPS:
        yield "unit_slip", mean * times, f"The answer is {words} too large: a decimal mark or a unit slipped."
        yield "unit_slip", mean / times, f"The answer is {words} too small: a decimal mark or a unit slipped."
    if place > 0:
        cut = math.floor(mean / place + 1e-9) * place
        yield "cut_not_rounded", cut, f"The mean was cut off after that digit; it rounds to {_as_written(mean, place)}."
    for coarse in (10 * step, 100 * step):
        early = [round(v / coarse) * coarse for v in kept]
        if early != list(kept):
            yield "rounded_too_early", math.fsum(early) / n, "The readings were rounded before they were averaged."


def _as_written(value: float, place: float) -> str:
    return f"{value:.{max(0, -math.floor(math.log10(place) + 1e-9))}f}"


def _digits(text: str) -> list[str]:
    return [c for c in text if c.isdigit()]


def _swapped(one: str, two: str) -> bool:
    a, b = _digits(one), _digits(two)
    apart = [i for i, (x, y) in enumerate(zip(a, b, strict=False)) if x != y]
    return len(a) == len(b) and len(apart) == 2 and apart[1] == apart[0] + 1 and a[apart[0]] == b[apart[1]] and a[apart[1]] == b[apart[0]]


def check_range(answer: str, kept: Sequence[float], void: Sequence[float] = (), *, step: float, unit: str = "") -> SumChecked:
    """Check a written answer against the range of the kept readings, largest less smallest (same unit; step: their resolution, > 0).
    Raises CoreError `sum_no_readings`, or `sum_not_plain` for an answer that is not a number."""
    if not kept:
        raise CoreError("There is no kept reading to take a range of.", code="sum_no_readings", where="readings")
    given, place = plain_number(answer, unit)
    low, high = min(kept), max(kept)
    working = (f"range = largest − smallest = {high:g} − {low:g} = {high - low:.6g}",)
    if _gives(high - low, given, place) and place <= _coarsest(step) * (1 + 1e-9):
        return SumChecked(right=True, slip=None, says="Right.", working=working)
    every = [*kept, *void]
    slips = [
        ("half_range", (high - low) / 2, "This is half the range."),
        ("largest_only", high, "This is the largest reading; take the smallest away from it."),
        ("smallest_only", low, "This is the smallest reading; take it away from the largest."),
        ("added", high + low, "The smallest was added; take it away."),
        ("void_included", max(every) - min(every), "A void trial was counted in."),
        ("first_and_last", abs(kept[-1] - kept[0]), "This is the last reading less the first, not the largest less the smallest."),
        *(("unit_slip", (high - low) * times, f"The answer is {words} too large: a decimal mark or a unit slipped.") for times, words in UNIT_SLIPS),
        *(("unit_slip", (high - low) / times, f"The answer is {words} too small: a decimal mark or a unit slipped.") for times, words in UNIT_SLIPS),
    ]
    for slip, value, says in slips:
        if _gives(value, given, place) and not _gives(high - low, given, place):
            return SumChecked(right=False, slip=slip, says=says, working=working)
    return SumChecked(right=False, slip=None, says="This does not match. Look at the working and find where it parts.", working=working)


def check_worked(answer: str, each: Sequence[float], of_means: float | None = None, *, unit: str = "") -> SumChecked:
    """Check what a pupil worked out for a level, such as a speed, in the unit in which the study works it out. each: it for every kept trial;
    of_means: it for the means of the readings, which is as good a way. Two figures are asked for. Raises CoreError `sum_no_readings`, or
    `sum_not_plain` for an answer that is not a number."""
    if not each:
        raise CoreError("There is no kept trial to work it out from.", code="sum_no_readings", where="readings")
    given, place = plain_number(answer, unit)
    mean = math.fsum(each) / len(each)
    working = [f"worked out for each trial: {', '.join(f'{v:.4g}' for v in each)}", f"their mean = {mean:.4g}"]
    ways = [mean]
    if of_means is not None:
        ways.append(of_means)
        working.append(f"from the means of the readings: {of_means:.4g}")
    if any(_gives(way, given, place) for way in ways):
        if place > abs(mean) / TWO_FIGURES * (1 + 1e-9):
            return SumChecked(right=False, slip="rounded_too_far", working=tuple(working), says=f"It is {mean:.3g}; {answer.strip()} rounds it to fewer than two figures.")
        return SumChecked(right=True, slip=None, says="Right.", working=tuple(working))
    for slip, value, says in _worked_slips(each, ways):
        if _gives(value, given, place):
            return SumChecked(right=False, slip=slip, says=says, working=tuple(working))
    return SumChecked(right=False, slip=None, says="This does not match. Look at the working and find where it parts.", working=tuple(working))


def _worked_slips(each: Sequence[float], ways: Sequence[float]) -> Iterator[tuple[str, float, str]]:
    for way in ways:
        if way:
            yield "upside_down", 1 / way, "This was divided the wrong way up."
    if len(each) > 1:
        yield "not_divided", math.fsum(each), f"Those of the trials were added but not divided by {len(each)}."
        for n, value in enumerate(each, 1):
            yield "one_trial_only", value, f"This is trial {n} of {len(each)} alone, not the level."
    for way in ways:
        for times, words in (*UNIT_SLIPS, (60, "sixty times (minutes and seconds)")):
            yield "unit_slip", way * times, f"The answer is {words} too large: a decimal mark or a unit slipped."
            yield "unit_slip", way / times, f"The answer is {words} too small: a decimal mark or a unit slipped."
        yield "doubled", way * 2, "The answer is twice too large."
        yield "halved", way / 2, "The answer is half of what it should be."
