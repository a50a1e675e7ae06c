"""Times that were heard: the way of the sound is taken off, and what is not known of it stays as doubt."""

from __future__ import annotations

import math

from pydantic import Field

from ..draft import Typed
from ..errors import CoreError
from ..measuring.taking import HAND_S
from .found import Found, found, together

#: Speed of sound in air at 20 °C, m/s (handbook value; from memory: 331.3 m/s × √(1 + 20/273.15)), and what a hall's warmth adds or takes, as a share.
SOUND_M_S, WARMTH = 343.2, 0.02
#: The beginning of a sound is found to about this, s: standard uncertainty of one onset in the microphone's own clock.
ONSET_S = 0.001
#: A distance of the microphone that was guessed, m: standard uncertainty.
GUESSED_M = 0.5


class HeardTime(Typed):
    """from_s, to_s: the release and the landing by the sound's clock, s; pressed: whether the release was pressed by a thumb instead of heard. release_m,
    land_m: how far each was from the microphone, m; None where that is not said."""

    from_s: float = Field(ge=-1e9, le=1e9)
    to_s: float = Field(ge=-1e9, le=1e9)
    pressed: bool = False
    release_m: float | None = Field(default=None, ge=0, le=200)
    land_m: float | None = Field(default=None, ge=0, le=200)


def heard_time(given: HeardTime) -> tuple[Found, str]:
    """The time between release and landing, and what is said of the sound's way. Raises CoreError `heard_order`."""
    if given.to_s <= given.from_s:
        raise CoreError("The landing was heard before the release.", code="heard_order", where="to_s")
    took = given.to_s - given.from_s
    late, u_late = _way(given.land_m)
    early, u_early = (0.0, 0.0) if given.pressed else _way(given.release_m)
    hand = HAND_S if given.pressed else 0.0
    value = took - late + early
    time = found("time", "time heard", "time", value, together(ONSET_S * math.sqrt(1 if given.pressed else 2), u_late, u_early, hand))
    if given.land_m is None:
        says = "Sound needs 3 ms for every metre: write how far the microphone is, and that is taken off."
    else:
        off = 1000 * (late - early)
        says = f"The way of the sound, {abs(off):.0f} ms, is taken off." if off >= 0 else f"The release was heard {abs(off):.0f} ms later than the landing; that is put right."
    return time, f"{says} The release was pressed, so the thumb’s scatter is part of the doubt." if given.pressed else says


def _way(metres: float | None) -> tuple[float, float]:
    """How late a sound is heard from so far, s, and its standard uncertainty; where it is not said, up to 5 m."""
    if metres is None:
        return 0.0, 5.0 / SOUND_M_S / math.sqrt(12)
    late = metres / SOUND_M_S
    return late, together(GUESSED_M / SOUND_M_S if metres else 0.0, late * WARMTH)
