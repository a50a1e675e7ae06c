"""What a scale of a measure decides; each scale is one file beside this one."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Sequence
from typing import ClassVar, Literal

from ...draft import MeasureDraft, Scale
from ...problem import Problem
from ...readings import QUANTITIES, find_unit
from ...trials import Better
from ..taking import Read, Taken, TimersBy, take


class ScaleRules(ABC):
    """Everything that one scale decides, from what is written to what is judged. One object a scale, without state."""

    name: ClassVar[Scale]
    #: What is judged of it.
    shape: ClassVar[Literal["number", "survival", "places", "behaviour"]]
    #: A reading is a number in a unit, with a step and a doubt.
    number: ClassVar[bool] = False
    #: A reading is one of agreed words.
    worded: ClassVar[bool] = False
    #: A reading is counted out, so that no tool's step rounds it.
    counted: ClassVar[bool] = False
    #: What is judged are whole numbers.
    whole: ClassVar[bool] = False
    #: What is judged are points for a reading, not the reading.
    scored: ClassVar[bool] = False
    #: Which end is best, where the scale itself says so.
    best: ClassVar[Better | None] = None
    #: May stand first in a plan, so that it answers the question.
    answers: ClassVar[bool] = True
    #: The column of the open table in which a first measure stands, "" for one of its own name.
    column: ClassVar[str] = ""

    @property
    def survives(self) -> bool:
        """Whether it has a line above which a device survived."""
        return self.shape == "survival"

    @abstractmethod
    def understand(self, measure: MeasureDraft, texts: Sequence[str], *, unit: str | None, by: TimersBy, how: str) -> Read | None:
        """What was written at one trial; None when nothing was. Raises ReadingRefused or CoreError with a sentence."""

    def problems(self, measure: MeasureDraft, where: str) -> list[Problem]:
        """What it still needs of the plan. where: of the measure in the draft."""
        return []

    def unit(self, measure: MeasureDraft) -> str:
        """The unit of a reading, "" where it has none."""
        return ""

    def quantity(self, measure: MeasureDraft) -> str:
        """The quantity of what is judged, "" where it is no number."""
        return ""

    def result_unit(self, measure: MeasureDraft) -> str:
        """What is said behind a result, "" where nothing is."""
        return ""

    def result_name(self, measure: MeasureDraft) -> str:
        """What the result is called."""
        return measure.name

    def limits(self, measure: MeasureDraft) -> tuple[float | None, float | None]:
        """Beyond which no result can lie, in its unit."""
        return None, None

    def in_plan_unit(self, measure: MeasureDraft, taken: Taken) -> Taken:
        """A reading in the unit of the plan. Raises CoreError `unit_mismatch`."""
        return taken

    def has(self, unit: str, measure: MeasureDraft) -> bool:
        """Whether a unit is one that its readings can have; where they have none, any."""
        return True


class NumberRules(ScaleRules):
    """A number with a unit."""

    shape = "number"
    number = True

    def understand(self, measure: MeasureDraft, texts: Sequence[str], *, unit: str | None, by: TimersBy, how: str) -> Taken | None:
        return take(measure, texts, unit=unit, by=by, how=how)

    def unit(self, measure: MeasureDraft) -> str:
        return measure.unit

    def quantity(self, measure: MeasureDraft) -> str:
        return measure.quantity

    def result_unit(self, measure: MeasureDraft) -> str:
        return "" if measure.unit == "count" else measure.unit

    def limits(self, measure: MeasureDraft) -> tuple[float | None, float | None]:
        known = QUANTITIES.get(measure.quantity)
        return (None if known is None or known.signed or measure.signed else 0.0), None

    def in_plan_unit(self, measure: MeasureDraft, taken: Taken) -> Taken:
        return taken.in_unit(measure.unit)

    def has(self, unit: str, measure: MeasureDraft) -> bool:
        return find_unit(unit, measure.quantity) == unit
