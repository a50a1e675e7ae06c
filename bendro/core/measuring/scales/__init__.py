"""The scales of a measure in one table. A new one is a name in `draft.Scale`, a file here, a control on the page and a test."""

from __future__ import annotations

from collections.abc import Sequence
from typing import assert_never

from ...draft import MeasureDraft, Scale
from ..taking import Read, TimersBy
from .behaviour import Behaviour
from .count import Count
from .order import Order
from .outcome import Outcome
from .quantity import Quantity
from .rules import ScaleRules
from .zone import ZoneScale

_QUANTITY, _COUNT, _OUTCOME, _ZONE, _ORDER, _BEHAVIOUR = Quantity(), Count(), Outcome(), ZoneScale(), Order(), Behaviour()


def scale_named(name: Scale) -> ScaleRules:
    """The rules of a scale by its name; a name without a file does not pass the type checker."""
    match name:
        case "quantity":
            return _QUANTITY
        case "count":
            return _COUNT
        case "outcome":
            return _OUTCOME
        case "zone":
            return _ZONE
        case "order":
            return _ORDER
        case "behaviour":
            return _BEHAVIOUR
        case _:
            assert_never(name)


def scale_of(measure: MeasureDraft) -> ScaleRules:
    """The rules of a measure's scale."""
    return scale_named(measure.scale)


def understand(measure: MeasureDraft, texts: Sequence[str], *, unit: str | None = None, by: TimersBy = "auto", how: str = "typed") -> Read | None:
    """What was written at one trial under this measure's scale; None when nothing was written. how: it was taken. Raises
    ReadingRefused, CoreError `outcome_unknown`, `place_unknown`, `timer_bound`."""
    return scale_of(measure).understand(measure, texts, unit=unit, by=by, how=how)


def same_quantity(unit: str, measure: MeasureDraft) -> bool:
    """Whether a unit is one of the measure's quantity; words and places have none."""
    return scale_of(measure).has(unit, measure)
