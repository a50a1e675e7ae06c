"""What was worked out from a track, a log or a picture: a number with its doubt, written as a reading is written."""

from __future__ import annotations

import math

from pydantic import Field

from ..draft import Typed
from ..readings import QUANTITIES, Kind, convert
from ..written import stated

#: Units in which such a number is said to a class, where that is not the SI one.
_SAID = {"angle": "°"}


class Found(Typed):
    """One number. id: stable word for programs; name: as it is called; value and u (standard uncertainty) in `unit`, the SI unit of `quantity`
    (an angle in degrees); kind: exact, or a bound that the device could not see beyond; text: as a reading is written, in that unit."""

    id: str
    name: str
    quantity: str
    value: float
    u: float = Field(ge=0)
    unit: str
    kind: Kind = "exact"
    text: str

    def in_unit(self, unit: str) -> str:
        """The text of it for a field whose unit is another of its quantity. Raises CoreError `unit_mismatch`."""
        if unit == self.unit or unit not in QUANTITIES[self.quantity].units:
            return self.text
        return stated(convert(self.value, self.unit, unit), abs(convert(self.u, self.unit, unit)), self.kind)


def found(id: str, name: str, quantity: str, value: float, u: float, kind: Kind = "exact") -> Found:
    """A number found, with its text. value and u in the SI unit of the quantity, an angle in degrees."""
    unit = _SAID.get(quantity, QUANTITIES[quantity].si)
    return Found(id=id, name=name, quantity=quantity, value=value, u=u, unit=unit, kind=kind, text=stated(value, u, kind))


def together(*u: float) -> float:
    """Standard uncertainties that have nothing to do with one another. Source: JCGM 100:2008, 5.1.2."""
    return math.hypot(*u)
