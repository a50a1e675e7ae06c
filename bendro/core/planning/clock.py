"""A time of day as it is written for a lesson."""

from __future__ import annotations

import re

from ..errors import PlanRefused

_CLOCK = re.compile(r"^\s*(\d{1,2})[:.](\d{2})\s*$")


def start_minutes(clock: str) -> int:
    """Minutes after midnight of "09:10". Raises PlanRefused `clock_unreadable`."""
    m = _CLOCK.match(clock)
    if m is None or int(m[1]) > 23 or int(m[2]) > 59:
        raise PlanRefused(f"“{clock.strip()}” is not a time of day; write it like 09:10.", code="clock_unreadable", where="rota.start")
    return 60 * int(m[1]) + int(m[2])
