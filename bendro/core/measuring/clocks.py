"""Several clocks on one fall: how surely a phone's clock is known beside the server's, and what time it gives."""

from __future__ import annotations

import math


def clock_doubt(round_trip_s: float) -> float:
    """Standard uncertainty in s of a clock that was compared by a round trip of so many seconds (>= 0): the way there and the way back may differ by all
    of it, a rectangular distribution of half the trip to either side. Source: JCGM 100:2008, 4.3.7."""
    return round_trip_s / 2 / math.sqrt(3)


def timed(released_at: float | None, landed_at: float | None, *doubts_s: float) -> tuple[float | None, float]:
    """(seconds, standard uncertainty of the clocks in s) of a fall from two moments by the server's clock in s; doubts_s: of the clocks by which they were
    told, none where one clock told both. No seconds where a moment is missing or the landing does not follow the release. Source: JCGM 100:2008, 5.1.2."""
    if released_at is None or landed_at is None or landed_at <= released_at:
        return None, 0.0
    return landed_at - released_at, math.hypot(*doubts_s)
