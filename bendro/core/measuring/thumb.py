"""How a timer's thumb does against a known interval, and what that means for the reading in hand."""

from __future__ import annotations

import math
import statistics
from collections.abc import Sequence
from dataclasses import dataclass

from ..errors import CoreError
from ..written import at_place
from .taking import HAND_S

FEWEST, MOST = 5, 20
#: A press this far from the interval was not one of the light: someone looked away.
LOST_S = 1.0
#: A video of this many pictures a second is what a school has (common practice).
FRAMES = 30.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Thumb:
    """bias_s: mean of pressed less shown, s; scatter_s: their sample standard deviation, s; n: tries counted; lost: tries left out."""

    bias_s: float
    scatter_s: float
    n: int
    lost: int


def thumb_of(shown: Sequence[float], pressed: Sequence[float]) -> Thumb:
    """Bias and scatter of a thumb from intervals shown and pressed, both in s, one of each a try. Raises CoreError `thumb_few`,
    `thumb_uneven`."""
    if len(shown) != len(pressed) or any(not math.isfinite(v) or v <= 0 for v in (*shown, *pressed)):
        raise CoreError("Each interval that is shown needs the one that was pressed, both above zero.", code="thumb_uneven", where="pressed")
    off = [p - s for s, p in zip(shown, pressed, strict=True) if abs(p - s) <= LOST_S]
    if len(off) < FEWEST:
        raise CoreError(f"{len(off)} of {len(shown)} tries can be counted; {FEWEST} are needed. Watch the light and try again.", code="thumb_few", where="pressed")
    mean = math.fsum(off) / len(off)
    scatter = math.sqrt(math.fsum((v - mean) ** 2 for v in off) / (len(off) - 1))
    return Thumb(bias_s=mean, scatter_s=scatter, n=len(off), lost=len(shown) - len(off))


def thumb_says(thumb: Thumb) -> str:
    """What a practice showed, in a sentence."""
    late = abs(thumb.bias_s)
    way = f"{at_place(late, 2)} s too long" if thumb.bias_s >= 0.005 else f"{at_place(late, 2)} s too short" if thumb.bias_s <= -0.005 else "right"
    lost = f" {thumb.lost} tries were left out." if thumb.lost > 1 else " One try was left out." if thumb.lost else ""
    return f"In {thumb.n} tries this thumb reads {way} on average and scatters by {at_place(thumb.scatter_s, 2)} s.{lost}"


def scatter_of(thumbs: Sequence[Thumb]) -> float:
    """The scatter of one of these thumbs, in s: the root of the mean of their squares; a thumb's usual scatter without any."""
    return math.sqrt(math.fsum(t.scatter_s**2 for t in thumbs) / len(thumbs)) if thumbs else HAND_S


def share_says(times_s: Sequence[float], thumbs: Sequence[Thumb], timers: int = 1) -> str:
    """How much of the middle one of these times (in s) the thumb's scatter is, and what would do better where that is much; "" without
    times. thumbs: of the practices of this study; without any, a thumb's usual scatter stands in."""
    reading_s = statistics.median(times_s) if times_s else 0.0
    if reading_s <= 0:
        return ""
    own = scatter_of(thumbs)
    scatter = own / max(1, timers) ** 0.5
    share = scatter / reading_s
    whose = "These thumbs scatter" if thumbs else "A thumb scatters"
    together = f", {timers} of them together by {at_place(scatter, 2)} s" if timers > 1 else ""
    text = f"{whose} by about {at_place(own, 2)} s{together}: {_percent(share)} of {at_place(reading_s, 2)} s."
    frames = 1 / FRAMES / math.sqrt(6)
    if share >= 0.05 and frames < scatter / 2:
        return f"{text} Frames of a video would read to about {at_place(frames, 2)} s."
    return text


def _percent(share: float) -> str:
    return "less than 1 %" if share < 0.01 else f"{100 * share:.0f} %"
