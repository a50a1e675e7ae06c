"""A place within a heat; ties are allowed."""

from __future__ import annotations

import re
from collections.abc import Sequence

from ...draft import MeasureDraft
from ...errors import CoreError
from ..taking import Taken, TimersBy
from .rules import ScaleRules

_PLACE = re.compile(r"(\d{1,2})(?:st|nd|rd|th)?\s*(?:=|equal)?", re.I)


class Order(ScaleRules):
    """A place: "1", "2nd", "2=" where two land together."""

    name = "order"
    shape = "places"
    whole = True

    def understand(self, measure: MeasureDraft, texts: Sequence[str], *, unit: str | None, by: TimersBy, how: str) -> Taken | None:
        said = next((t.strip() for t in texts if t.strip()), None)
        if said is None:
            return None
        found = _PLACE.fullmatch(said)
        if found is None or int(found[1]) < 1:
            raise CoreError(f"“{said}” is not a place. Write 1 for the first to land, 2 for the next, 2= where two land together.", code="place_unknown", where="reading")
        return Taken(kind="exact", value=float(found[1]), resolution=1.0, doubt=0.0, unit="")

    def limits(self, measure: MeasureDraft) -> tuple[float | None, float | None]:
        return 1.0, None
