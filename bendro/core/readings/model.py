"""What a reading is once it has been understood."""

from __future__ import annotations

import math
from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

from .units import quantity, ratio

Kind = Literal["exact", "at_least", "at_most", "estimate"]
_MARK = {"exact": "", "at_least": "≥", "at_most": "≤", "estimate": "~"}
#: Share of the value taken as its standard uncertainty when someone estimates and gives no range (formulas, section 1).
BARE_ESTIMATE_SHARE = 0.25


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """One reading as it was written and as it was understood.

    amount: exact value in `unit` (the last unit written). step: resolution in `unit`, > 0 (the smallest step of the
    tool, or the place of the last digit written). half: half-width of a stated range in `unit`, or None.
    """

    text: str
    kind: Kind
    quantity: str
    amount: Fraction
    unit: str
    step: Fraction
    half: Fraction | None = None

    @property
    def value(self) -> float:
        return float(self.amount)

    @property
    def resolution(self) -> float:
        return float(self.step)

    @property
    def half_width(self) -> float | None:
        return None if self.half is None else float(self.half)

    @property
    def si_unit(self) -> str:
        return quantity(self.quantity).si

    @property
    def si_value(self) -> float:
        return self.to(self.si_unit)

    def to(self, unit: str) -> float:
        """The value expressed in `unit` of the same quantity."""
        return float(self.amount_in(unit))

    def amount_in(self, unit: str) -> Fraction:
        """The exact value in `unit` of the same quantity. Raises CoreError `unit_mismatch`."""
        return self.amount if unit == self.unit else self.amount * ratio(self.unit, unit)

    @property
    def standard_uncertainty(self) -> float:
        """In `unit`, >= 0. Source: GUM, JCGM 100:2008, F.2.2.1 (resolution/√12) and 4.3.7 (half-width/√3)."""
        if self.half is not None:
            return float(self.half) / math.sqrt(3)
        if self.kind == "estimate":
            return BARE_ESTIMATE_SHARE * abs(self.value)
        return float(self.step) / math.sqrt(12)


def _plain(amount: Fraction, step: Fraction) -> str:
    """A number that shows `step` as its last place: decimals, a power of ten, or a vulgar fraction."""
    if step.numerator == 1 and _is_ten_power(step.denominator):
        places = len(str(step.denominator)) - 1
        scaled = round(amount * step.denominator)
        digits = f"{abs(scaled):0{places + 1}d}"
        body = digits if places == 0 else f"{digits[:-places]}.{digits[-places:]}"
        return ("-" if scaled < 0 else "") + body
    if step.denominator == 1 and _is_ten_power(step.numerator):
        return f"{round(amount / step)}e{len(str(step.numerator)) - 1}"
    top = round(amount / step) * step.numerator
    return f"{top}/{step.denominator}"


def _is_ten_power(n: int) -> bool:
    return str(n).strip("0") == "1"


def write(reading: Reading) -> str:
    """The reading in the one form that `read` understands back to the same kind, value, resolution and half-width."""
    unit = f" {reading.unit}" if reading.unit and reading.unit != "count" else ""
    if reading.half is not None and reading.kind == "estimate":
        low, high = reading.amount - reading.half, reading.amount + reading.half
        return f"{_plain(low, reading.step)} to {_plain(high, reading.step)}{unit}"
    body = _plain(reading.amount, reading.step)
    if reading.half is not None:
        return f"{body} ± {_plain(reading.half, reading.step)}{unit}"
    return f"{_MARK[reading.kind]}{body}{unit}"
