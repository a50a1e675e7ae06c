"""The reading of one trial from what was written, one text for each timer."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Literal

from pydantic import BaseModel, ConfigDict

from ..errors import CoreError
from ..planning.draft import MeasureDraft
from ..readings import Kind, Reading, combine, convert, find_unit, read

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


def take(measure: MeasureDraft, texts: Sequence[str], *, unit: str | None = None, by: TimersBy = "auto") -> Taken | None:
    """What was written at one trial, understood; None when nothing was written. unit: of a bare number, when it is not the
    measure's own. by: how several timers become one (auto: the median from three on). Raises ReadingRefused, or CoreError
    `timer_bound`."""
    written = [t for t in texts if t.strip()]
    if not written:
        return None
    own = measure.unit if unit is None else unit
    step = measure.step.strip()
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


def same_quantity(unit: str, measure: MeasureDraft) -> bool:
    """Whether a unit is one of the measure's quantity."""
    return find_unit(unit, measure.quantity) == unit
