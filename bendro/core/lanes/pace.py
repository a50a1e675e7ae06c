"""When the last trial will be in, at the pace that the lanes have had so far."""

from __future__ import annotations

import math
import statistics
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

#: The pace is that of so many trials at each lane, the newest; fewer than these say nothing yet.
NEWEST, FEWEST = 8, 3
#: A pause longer than this many times the middle one was a pause (a closed lane, a talk) and not the pace.
PAUSE = 4.0
#: A run that was opened so long before the class came in was an earlier lesson of the same day.
EARLIER = timedelta(hours=2)


@dataclass(frozen=True, slots=True, kw_only=True)
class Forecast:
    """kept of planned turns; last_at: when the last is in, None where all are in or no lane is open; by: the pace so far, or the plan's
    seconds for a trial while too few are in; each_s: seconds from one release to the next at a lane."""

    kept: int
    planned: int
    last_at: datetime | None
    by: Literal["pace", "plan"]
    each_s: float


def seconds_each(released: Sequence[datetime]) -> float | None:
    """Seconds from one release to the next at one lane: the middle of the newest, long pauses left out; None while too few are in."""
    at = sorted(released)[-NEWEST - 1 :]
    apart = [(b - a).total_seconds() for a, b in zip(at, at[1:], strict=False)]
    if len(apart) < FEWEST:
        return None
    middle = statistics.median(apart)
    return statistics.median([s for s in apart if s <= PAUSE * middle] or apart)


def forecast(
    released: Mapping[int, Sequence[datetime]], left: Mapping[int, int], *, kept: int, planned: int, plan_s: float, closed: frozenset[int], now: datetime
) -> Forecast:
    """released: by lane, when its trials were let go (void ones took their time as well); left: turns that each lane still has; plan_s: seconds
    of a trial by the plan, > 0; closed: lanes that call nothing. What a closed lane has left, the open ones share."""
    paces = {lane: s for lane, at in released.items() if (s := seconds_each(at)) is not None}
    usual = statistics.median(paces.values()) if paces else plan_s
    by: Literal["pace", "plan"] = "pace" if paces else "plan"
    open_ = [lane for lane in left if lane not in closed]
    if not sum(left.values()) or not open_:
        return Forecast(kept=kept, planned=planned, last_at=None, by=by, each_s=usual)
    shared = sum(n for lane, n in left.items() if lane in closed)
    extra = math.ceil(shared / len(open_))
    longest = max((left[lane] + extra) * paces.get(lane, usual) for lane in open_)
    return Forecast(kept=kept, planned=planned, last_at=now + timedelta(seconds=longest), by=by, each_s=usual)


def lesson_window(run: datetime | None, came_in: datetime | None, *, until: datetime | None, minutes: int, now: datetime) -> tuple[datetime, datetime]:
    """When the lesson began and ends: from the opening of the run or of the class, whichever came first, for its minutes, or as long as the class is open. run,
    came_in: when they were opened today, None where they were not; until: how long the class is open, None where it is not."""
    begins = min([at for at in (run, came_in) if at is not None], default=now)
    if run is not None and came_in is not None and run < came_in - EARLIER:
        begins = came_in
    return begins, max(begins + timedelta(minutes=minutes), until or begins)
