"""A quantity with a unit; it may be signed."""

from __future__ import annotations

from .rules import NumberRules


class Quantity(NumberRules):
    """Read with a tool."""

    name = "quantity"
