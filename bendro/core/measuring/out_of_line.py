"""What is asked about before a reading is kept: it is out of line with the others, or with anything that a school trial reads. The
lane, the list of trials and the table reader ask the same."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..readings import convert, quantity
from ..written import at_place
from .taking import Taken

#: A reading this many times larger or smaller than every other of the study is asked about.
TIMES = 5.0
#: With fewer others than this nothing is known about what is usual.
OTHERS = 3
#: A reading at the very edge is not asked about, whatever its last bits say.
EDGE = 1e-9
#: Slips that are asked about when one of them brings the reading among the others: factor, quantity (None: any) and question.
SLIPS: tuple[tuple[float, str | None, str], ...] = (
    (100.0, "length", "Were centimetres written as metres, or did the decimal mark slip?"),
    (10.0, None, "Did the decimal mark slip?"),
    (12.0, "length", "Were inches written as feet?"),
    (60.0, "time", "Were seconds written as minutes?"),
    (100.0, None, "Did the decimal mark slip?"),
    (1000.0, None, "Was it written in a unit a thousand times smaller or larger?"),
)
#: The others' range is widened by this share when a slip is looked for.
NEAR = 0.2


@dataclass(frozen=True, slots=True, kw_only=True)
class Usual:
    """low to high: readings between these are not asked about, in the measure's unit."""

    low: float
    high: float


def usual_range(others: Sequence[float], quantity_name: str, unit: str, *, signed: bool) -> Usual:
    """What is not asked about, from the other kept readings of the study and what a school trial can read at all."""
    most = quantity(quantity_name).unlikely
    bound = 1e300 if most is None else convert(most, quantity(quantity_name).si, unit)
    low = -bound if signed else 0.0
    if len(others) < OTHERS:
        return Usual(low=low, high=bound)
    sizes = [abs(v) for v in others if v]
    if not sizes:
        return Usual(low=low, high=bound)
    large = min(bound, TIMES * max(sizes) * (1 + EDGE))
    if signed and min(others) < 0:
        return Usual(low=-large, high=large)
    # a signed measure of which nothing was below zero so far: the first below zero is asked about
    return Usual(low=min(sizes) / TIMES * (1 - EDGE) if min(others) > 0 else 0.0, high=large)


def ask_about(taken: Taken, others: Sequence[float], quantity_name: str, *, signed: bool) -> str | None:
    """The question before this reading is kept, or None. others: values of the study's kept readings, in taken.unit. Timers that
    stand apart are asked about as well."""
    if taken.flagged:
        return _timers(taken)
    usual = usual_range(others, quantity_name, taken.unit, signed=signed)
    if usual.low <= taken.value <= usual.high:
        return None
    own = number_text(taken.value, taken.unit)
    if len(others) < OTHERS:
        return f"{own} is more than a trial of this kind usually reads. Is it what was read? Check the unit and the decimal mark."
    span = f"from {number_text(min(others), '')} to {number_text(max(others), taken.unit)}"
    slipped = slip(taken.value, others, quantity_name)
    if taken.value < 0 <= min(others):
        return f"{own} is below zero; the others are {span}. Is the sign right?"
    return f"{own} is far from the others, which are {span}. {slipped or 'Is it what was read?'}"


def slip(value: float, others: Sequence[float], quantity_name: str) -> str | None:
    """The slip of the pen that would bring this value among the others, as a question, or None."""
    sizes = [abs(v) for v in others]
    low, high, size = min(sizes) * (1 - NEAR), max(sizes) * (1 + NEAR), abs(value)
    for factor, of, question in SLIPS:
        if of in (None, quantity_name) and (low <= size / factor <= high or low <= size * factor <= high):
            return question
    return None


def _timers(taken: Taken) -> str:
    times = taken.timers or ()
    apart = [number_text(times[i], taken.unit) for i in taken.flagged or ()]
    whole = f"together they give {number_text(taken.value, taken.unit)} (the {taken.method})"
    if len(times) == 2:
        return f"The two timers are far apart ({number_text(times[0], '')} and {number_text(times[1], taken.unit)}); {whole}. Was one stopped late?"
    verb, was = ("stands", "Was it") if len(apart) == 1 else ("stand", "Were they")
    return f"{' and '.join(apart)} {verb} apart from the other timers; {whole}. {was} stopped late, or not at all?"


def number_text(value: float, unit: str) -> str:
    """A number as it stands in a question, to four figures, with its unit."""
    text = at_place(float(f"{value:.4g}"), None)
    return f"{text} {unit}" if unit and unit != "count" else text
