"""A count."""

from __future__ import annotations

from collections.abc import Sequence

from ...draft import MeasureDraft
from ...errors import CoreError
from ..taking import Taken, TimersBy
from .rules import NumberRules


class Count(NumberRules):
    """Counted out: whole numbers, out of so many where the plan says of how many."""

    name = "count"
    counted = True
    whole = True

    def understand(self, measure: MeasureDraft, texts: Sequence[str], *, unit: str | None, by: TimersBy, how: str) -> Taken | None:
        found = super().understand(measure, texts, unit=unit, by=by, how=how)
        if found is not None and measure.of and not (float(found.value).is_integer() and 0 <= found.value <= measure.of):
            said = next(t.strip() for t in texts if t.strip())
            raise CoreError(f"“{said}” cannot be: {measure.name} is a whole number from 0 to {measure.of}. Write how many there were.", code="count_outside", where="reading")
        return found

    def limits(self, measure: MeasureDraft) -> tuple[float | None, float | None]:
        return 0.0, float(measure.of) or None
