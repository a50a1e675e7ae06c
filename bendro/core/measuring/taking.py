"""The reading of one trial from what was written, one text for each timer."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from typing import Literal

from pydantic import BaseModel, ConfigDict

from ..draft import MeasureDraft
from ..errors import CoreError
from ..readings import Kind, Reading, combine, convert, read

TimersBy = Literal["auto", "mean", "median"]
_BARE = re.compile(r"[\s\d.,]+")


class Taken(BaseModel):
    """A reading as understood; value, resolution, doubt (standard uncertainty), timers and scatter in `unit`. flagged: positions
    of timers that stand apart from the others."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    kind: Kind
    value: float
    resolution: float
    doubt: float
    unit: str = ""
    timers: tuple[float, ...] | None = None
    flagged: tuple[int, ...] | None = None
    method: Literal["mean", "median"] | None = None
    scatter: float | None = None

    def in_unit(self, unit: str) -> Taken:
        """The same reading in another unit of its quantity. Raises CoreError `unit_mismatch`."""
        if unit == self.unit:
            return self

        def to(value: float) -> float:
            return convert(value, self.unit, unit)

        return self.model_copy(
            update={
                "value": to(self.value),
                "resolution": to(self.resolution),
                "doubt": to(self.doubt),
                "unit": unit,
                "timers": None if self.timers is None else tuple(to(t) for t in self.timers),
                "scatter": None if self.scatter is None else to(self.scatter),
            }
        )


class Told(BaseModel):
    """Words instead of a number: an outcome on its scale, or how a device behaved."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    words: tuple[str, ...]


Read = Taken | Told
MOST_WORDS = 12


#: What takes a reading more steadily than a thumb or an eye; its own digits then tell its step, not those of the plan's tool.
STEADY = frozenset({"frames", "camera", "followed", "sound", "felt", "gate", "scale", "meter", "picture"})


def survived(measure: MeasureDraft, word: str) -> bool | None:
    """Whether an outcome lies above the line agreed in the plan; None where no line is agreed or the word is not on the scale."""
    at = next((n for n, w in enumerate(measure.words) if w.strip().casefold() == word.strip().casefold()), None)
    return None if at is None or not measure.survived else at < measure.survived


#: Words that say no more than that it went well.
_SAYS_LITTLE = frozenset({"yes", "y", "pass", "passed", "ok", "good", "well", "true", "1"})
#: Words of things that are meant to stay whole.
_WHOLE = ("surviv", "untouched", "whole", "intact", "unbroken", "hairline", "undamaged")


def passed_said(measure: MeasureDraft) -> str:
    """What is said of a trial whose outcome lies above the line: "survived" of what is meant to stay whole, else the class's own word where
    one alone lies above it."""
    above = [" ".join(w.split()) for w in measure.words[: measure.survived]]
    if any(part in text.casefold() for text in (measure.name, *above) for part in _WHOLE) or not above:
        return "survived"
    if len(above) == 1:
        return f"came out “{above[0]}”" if above[0].casefold() in _SAYS_LITTLE else above[0]
    return "came out well"


def take(measure: MeasureDraft, texts: Sequence[str], *, unit: str | None = None, by: TimersBy = "auto", how: str = "typed") -> Taken | None:
    """What was written at one trial, understood; None when nothing was written. unit: of a bare number, when it is not the
    measure's own. by: how several timers become one (auto: the median from three on). how: it was taken. Raises ReadingRefused, or CoreError
    `timer_bound`."""
    written = [t for t in texts if t.strip()]
    if not written:
        return None
    own = measure.unit if unit is None else unit
    step = "" if how in STEADY else measure.step.strip()
    if step and _BARE.fullmatch(step):
        step = f"{step} {measure.unit}" if measure.unit not in ("", "count") else step  # the tool's step was written for the plan's unit
    parts = [read(t, measure.quantity, own, tool_step=step or None, signed=measure.signed or None) for t in written]
    if len(parts) == 1:
        return _taken(parts[0], own)
    if any(p.kind in ("at_least", "at_most") for p in parts):
        raise CoreError(
            "One of several timers cannot be “at least”: write the one reading that holds, or void the trial.",
            code="timer_bound",
            where="reading",
        )
    together = combine([p.to(own) for p in parts], method=None if by == "auto" else by)
    doubts = [convert(p.standard_uncertainty, p.unit, own) for p in parts]
    return Taken(
        kind="estimate" if any(p.kind == "estimate" for p in parts) else "exact",
        value=together.value,
        resolution=max(convert(p.resolution, p.unit, own) for p in parts),
        doubt=max(doubts),
        unit=own,
        timers=tuple(p.to(own) for p in parts),
        flagged=together.flagged,
        method=together.method,
        scatter=together.scatter,
    )


def _taken(reading: Reading, unit: str) -> Taken:
    return Taken(
        kind=reading.kind,
        value=reading.to(unit),
        resolution=convert(reading.resolution, reading.unit, unit),
        doubt=convert(reading.standard_uncertainty, reading.unit, unit),
        unit=unit,
    )


def whole_of(measure: MeasureDraft, words: Sequence[str], payloads: int) -> str | None:
    """What became of a trial with so many payloads, on the measure's own scale: as the payload that fared worst. None where that is not
    known: nothing was judged, a word is not on the scale, or a payload was not judged while none of the others failed."""
    scale = [w.strip().casefold() for w in measure.words]
    places = [scale.index(w.strip().casefold()) if w.strip().casefold() in scale else None for w in words]
    known = [p for p in places if p is not None]
    if not known or len(known) < len(places):
        return None
    worst = max(known)
    failed = bool(measure.survived) and worst >= measure.survived
    return measure.words[worst].strip() if failed or len(known) >= max(1, payloads) else None


def one_of(taken: Sequence[Taken]) -> Taken:
    """One reading from several (at least one, in one unit), of the payloads of a trial or the trials of a level: their mean; a bound where
    one is a bound, an estimate where one is estimated or they are bounds from both sides."""
    if len(taken) == 1:
        return taken[0]
    kinds = {t.kind for t in taken} - {"exact"}
    kind: Kind = "exact" if not kinds else kinds.pop() if len(kinds) == 1 else "estimate"
    return Taken(kind=kind, value=math.fsum(t.value for t in taken) / len(taken), resolution=taken[0].resolution, doubt=taken[0].doubt, unit=taken[0].unit)


def with_clocks(taken: Taken, clock_s: float) -> Taken:
    """A time that several clocks gave: their difference, known to clock_s (standard uncertainty in s, >= 0), is part of its doubt. Source: JCGM
    100:2008, 5.1.2."""
    return taken.model_copy(update={"doubt": math.hypot(taken.doubt, abs(convert(clock_s, "s", taken.unit)))}) if clock_s else taken


#: Scatter of one thumb on a stopwatch, s (common practice).
HAND_S = 0.1


def doubt_of(measure: MeasureDraft, taken: Taken, *, how: str = "pressed", scatter_s: float = HAND_S) -> float:
    """Standard uncertainty of a reading in its unit: the tool's, and for a time that was taken by hand the thumb's as well, less by the
    root of how many timers there were. how: it was taken. scatter_s: of the thumb, in s, > 0. Source: JCGM 100:2008, 5.1.2."""
    if not measure.timed or measure.quantity != "time" or how in STEADY:
        return taken.doubt
    hand = abs(convert(scatter_s, "s", taken.unit)) / max(1, len(taken.timers or ())) ** 0.5
    return math.hypot(taken.doubt, hand)
