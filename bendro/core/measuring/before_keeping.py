"""Everything that is asked about a reading before it is kept, while the device still lies on the floor. The lane, the sheet and the list
of trials ask the same; what is kept all the same is kept with the question."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from scipy.special import stdtrit

from ..draft import MeasureDraft
from ..errors import CoreError
from ..readings import read, step_of
from .out_of_line import EDGE, Usual, ask_about, number_text, slip, usual_range
from .scales import scale_of
from .taking import STEADY, Taken

#: One clean reading in a hundred is asked about.
SURE = 0.995
#: Two others at the level, and two degrees of freedom over all levels, before the scatter is known at all.
OTHERS_AT_LEVEL, FREE = 2, 2
#: Standard deviation of rounding to a step of 1.
ROUNDING = 1 / math.sqrt(12)


@dataclass(frozen=True, slots=True, kw_only=True)
class Others:
    """Kept readings of the study in the measure's unit, bounds left out. at: of the level in hand; elsewhere: of each other level;
    before: the reading of the trial just before, None where there is none; label: of the level in hand, "" where it is not known."""

    at: Sequence[float] = ()
    elsewhere: Sequence[Sequence[float]] = ()
    before: float | None = None
    label: str = ""

    @property
    def all(self) -> list[float]:
        return [*self.at, *(v for level in self.elsewhere for v in level)]


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """doubt: track_end, finer, level, line, timers or meter. offer: what could be written instead, "" where nothing is offered."""

    doubt: str
    says: str
    offer: str = ""


def level_range(others: Others, step: float) -> Usual | None:
    """Between which values a further reading of this level falls in 99 of 100 clean trials: a prediction interval from the scatter
    within all levels, or the level's own where that is wider; None while the scatter is not known. step: of the tool, >= 0.
    Source: Hahn & Meeker 1991, Statistical Intervals, 4.7 (prediction interval for one future observation)."""
    levels = [v for v in (others.at, *others.elsewhere) if len(v) >= OTHERS_AT_LEVEL]
    free = sum(len(v) - 1 for v in levels)
    n = len(others.at)
    if n < OTHERS_AT_LEVEL or free < FREE:
        return None
    mean = math.fsum(others.at) / n
    spread = max(math.sqrt(math.fsum(_squares(v) for v in levels) / free), step * ROUNDING)
    half = float(stdtrit(free, SURE)) * spread * math.sqrt(1 + 1 / n)
    if n > FREE:
        half = max(half, float(stdtrit(n - 1, SURE)) * math.sqrt(_squares(others.at) / (n - 1)) * math.sqrt(1 + 1 / n))
    return Usual(low=mean - half, high=mean + half)


def _squares(values: Sequence[float]) -> float:
    mean = math.fsum(values) / len(values)
    return math.fsum((v - mean) ** 2 for v in values)


def step_in(measure: MeasureDraft, unit: str) -> float:
    """The tool's step in `unit`, 0 where none is agreed."""
    try:
        return float(step_of(measure.step, measure.quantity, measure.unit, to=unit)) if measure.step.strip() else 0.0
    except CoreError:
        return 0.0  # the plan names the fault of its step itself


def end_in(measure: MeasureDraft, unit: str) -> float | None:
    """Where the track or tape ends, in `unit`; None where that is not said."""
    if not measure.end.strip():
        return None
    try:
        return read(measure.end, measure.quantity, measure.unit).to(unit)
    except CoreError:
        return None  # the plan names the fault of its end itself


def questions(measure: MeasureDraft, taken: Taken, others: Others, *, texts: Sequence[str] = (), how: str = "typed") -> list[Question]:
    """What is asked before this reading is kept, the weightiest first. texts: as it was written. how: it was taken."""
    found: list[Question] = []
    line = ask_about(taken, others.all, measure.quantity, signed=measure.signed)
    if line is not None:
        found.append(Question(doubt="timers" if taken.flagged else "line", says=line))
    else:
        found += _of_the_level(measure, taken, others)
    return [*_at_the_end(measure, taken, texts), *found, *_too_fine(measure, taken, texts, how), *_not_cleared(measure, taken, others)]


def _of_the_level(measure: MeasureDraft, taken: Taken, others: Others) -> list[Question]:
    usual = level_range(others, step_in(measure, taken.unit)) if taken.kind in ("exact", "estimate") else None
    if usual is None or usual.low <= taken.value <= usual.high:
        return []
    own = number_text(taken.value, taken.unit)
    shown = sorted(others.at)
    near = " and ".join(", ".join(number_text(v, "") for v in part) for part in (shown[:-1], shown[-1:]) if part) if len(shown) <= 4 else f"{number_text(shown[0], '')} to {number_text(shown[-1], '')}"
    where = f" at {others.label}" if others.label else ""
    says = f"{own} is far from {near} {taken.unit if taken.unit != 'count' else ''}".rstrip() + f"{where}."
    return [Question(doubt="level", says=f"{says} {slip(taken.value, others.at, measure.quantity) or 'Read it again, or keep it.'}")]


def _at_the_end(measure: MeasureDraft, taken: Taken, texts: Sequence[str]) -> list[Question]:
    end = end_in(measure, taken.unit)
    if end is None or taken.kind != "exact" or taken.value < end - max(step_in(measure, taken.unit) / 2, abs(end) * EDGE):
        return []
    written = texts[0].strip() if len(texts) == 1 else number_text(taken.value, "")
    past = "is where the track ends" if taken.value <= end * (1 + EDGE) else f"is past the track’s end at {number_text(end, taken.unit)}"
    return [
        Question(
            doubt="track_end",
            says=f"{number_text(taken.value, taken.unit)} {past}. If it would have gone on, it is at least that.",
            offer=f"{written}+",
        )
    ]


def _too_fine(measure: MeasureDraft, taken: Taken, texts: Sequence[str], how: str) -> list[Question]:
    step = step_in(measure, measure.unit)
    if not step or how in STEADY or how in ("pressed", "phones", "lanes", "laps", "map") or taken.kind != "exact" or taken.timers or scale_of(measure).counted:
        return []
    try:
        written = read(texts[0], measure.quantity, measure.unit, signed=measure.signed or None) if len(texts) == 1 else None
    except CoreError:
        return []  # it was understood under the tool's step; without it the text stands for nothing
    if written is None or written.unit != measure.unit:
        return []
    steps = written.to(measure.unit) / step
    if abs(steps - round(steps)) < 1e-6 * max(1.0, abs(steps)):
        return []
    tool = f"{measure.step.strip()} {_bare_unit(measure)}".strip()
    return [Question(doubt="finer", says=f"{texts[0].strip()} {measure.unit} is finer than the tool reads, which is {tool}. Write what it shows.")]


def _bare_unit(measure: MeasureDraft) -> str:
    return "" if any(c.isalpha() for c in measure.step) else measure.unit


def _not_cleared(measure: MeasureDraft, taken: Taken, others: Others) -> list[Question]:
    if measure.quantity != "voltage" or others.before is None or taken.value != others.before:
        return []
    return [Question(doubt="meter", says=f"{number_text(taken.value, taken.unit)} again, as in the trial before. Was the meter cleared?")]


@dataclass(frozen=True, slots=True, kw_only=True)
class Bounds:
    """Between which values a plain number is kept without a question, in the measure's unit: anywhere, and at each level by identity."""

    anywhere: Usual
    at: Mapping[str, Usual] = field(default_factory=dict)


def bounds_of(measure: MeasureDraft, by_level: Mapping[str, Sequence[float]]) -> Bounds:
    """The bounds of a measure from its kept readings by level. The track's end is a bound as well."""
    every = [v for values in by_level.values() for v in values]
    anywhere = _below(usual_range(every, measure.quantity, measure.unit, signed=measure.signed), end_in(measure, measure.unit), step_in(measure, measure.unit))
    made = {}
    for level, values in by_level.items():
        near = level_range(Others(at=values, elsewhere=[v for other, v in by_level.items() if other != level]), step_in(measure, measure.unit))
        if near is not None:
            made[level] = Usual(low=max(near.low, anywhere.low), high=min(near.high, anywhere.high))
    return Bounds(anywhere=anywhere, at=made)


def _below(usual: Usual, end: float | None, step: float) -> Usual:
    return usual if end is None else Usual(low=usual.low, high=min(usual.high, end - max(step, abs(end) * 1e-6) * 0.6))
