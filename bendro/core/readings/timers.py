"""Several timers on one fall made into one time."""

from __future__ import annotations

import statistics
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..errors import CoreError

#: A timer is asked about when it is further from the median than both of these (formulas, section 1).
FLAG_MADS = 3.0
FLAG_SECONDS = 0.15
#: Two timers are asked about when they are further apart than this: a thumb scatters by about 0.1 s, so that two differ by 0.14 s as a
#: rule and by this much once in some thousands (common practice).
TWO_APART_SECONDS = 0.5
#: Makes the median absolute deviation estimate a standard deviation (Rousseeuw & Croux 1993, J. Am. Stat. Assoc. 88).
MAD_SCALE = 1.4826


@dataclass(frozen=True, slots=True, kw_only=True)
class TimersTogether:
    """value: seconds. flagged: positions of timers that stand apart; they are flagged, not dropped.
    With two timers it cannot be told which of them slipped, so both are flagged. scatter: sample SD of the timers in s, None for one. bias_applied: per-timer corrections in s, or None."""

    value: float
    method: Literal["mean", "median"]
    flagged: tuple[int, ...]
    scatter: float | None
    bias_applied: tuple[float, ...] | None = None


def combine(
    seconds: Sequence[float], *, method: Literal["mean", "median"] | None = None, bias: Sequence[float] | None = None
) -> TimersTogether:
    """One time from the timers of one fall, in s.

    method: mean or median; by default the median from three timers on. bias: each timer's known lateness in s (from a
    practice against a known interval), taken off before. Raises CoreError `timers_missing` or `timers_bias`.
    """
    if not seconds:
        raise CoreError("No timer gave a time for this fall.", code="timers_missing", where="timers")
    if bias is not None and len(bias) != len(seconds):
        raise CoreError(f"There are {len(seconds)} timers but {len(bias)} corrections.", code="timers_bias", where="timers")
    values = [s - b for s, b in zip(seconds, bias or [0.0] * len(seconds), strict=True)]
    chosen = method or ("median" if len(values) >= 3 else "mean")
    middle = statistics.median(values)
    flagged: tuple[int, ...] = ()
    if len(values) >= 3:
        mad = MAD_SCALE * statistics.median(abs(v - middle) for v in values)
        flagged = tuple(i for i, v in enumerate(values) if abs(v - middle) > max(FLAG_MADS * mad, FLAG_SECONDS))
    elif len(values) == 2 and abs(values[0] - values[1]) > TWO_APART_SECONDS:
        flagged = (0, 1)
    return TimersTogether(
        value=middle if chosen == "median" else statistics.fmean(values),
        method=chosen,
        flagged=flagged,
        scatter=statistics.stdev(values) if len(values) > 1 else None,
        bias_applied=None if bias is None else tuple(bias),
    )
