"""A count."""

from __future__ import annotations

from .rules import NumberRules


class Count(NumberRules):
    """Counted out: whole numbers."""

    name = "count"
    counted = True
    whole = True
