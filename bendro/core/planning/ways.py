"""Which way of timing is good enough for a plan: how large the doubt of each would be, and how many trials the effect would take with it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..measuring.taking import HAND_S
from ..measuring.thumb import FRAMES
from ..statistics.power import repeats_needed
from ..written import COVERS, spread

WayId = Literal["thumb", "thumbs", "sound", "felt", "frames", "camera"]
#: A made run's crossing is known to less than a tenth of the time between two pictures (web/src/machines/seeing/gate.test.ts); a real one is given a tenth.
GATE_SHARE = 0.1
#: Sound goes 1 m in 3 ms (common practice: 340 m/s), and a hall's devices stand some metres from the microphone; an onset is heard to about this, s.
SOUND_S = 0.004
#: A phone's sensor tells so often a second in a browser (common practice).
SENSOR = 60.0
#: More trials at each level than this are no plan.
MOST_TRIALS = 50

#: Each way, what it is called, and its standard uncertainty in s for a time between two moments. Two moments that each lie somewhere between two
#: pictures or values: 1/√6 of the gap (JCGM 100:2008, 4.3.7 and 5.1.2).
WAYS: dict[WayId, tuple[str, float]] = {
    "thumb": ("one thumb", HAND_S),
    "thumbs": ("three thumbs together", HAND_S / math.sqrt(3)),
    "frames": ("frames of a clip", 1 / FRAMES / math.sqrt(6)),
    "felt": ("a phone in the carrier", 1 / SENSOR / math.sqrt(6)),
    "camera": ("the camera as a gate", math.sqrt(2) * GATE_SHARE / FRAMES),
    "sound": ("sound, release and landing", SOUND_S),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Way:
    """u: standard uncertainty of one time, in the plan's unit; text: what holds 95 of 100, as it is written; needed: trials at each level with which four studies in five would show the effect, None
    where 50 would not; enough: whether the planned ones are as many."""

    id: WayId
    name: str
    u: float
    text: str
    needed: int | None
    enough: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Ways:
    """The ways in order from the coarsest, and what to do in one sentence."""

    ways: tuple[Way, ...]
    says: str


def ways_of(expected: Sequence[float], device_sd: float, repeats: int, *, second: float = 1.0, planned: WayId = "thumb", unit: str = "s", carried: bool = True) -> Ways | None:
    """What each way of timing would do for the effect that is expected from the first level to the last. expected: of each level, in the plan's unit of
    time, of which `second` make a second; device_sd: scatter of repeats beside the timing's, >= 0, same unit; planned: how the plan means to time;
    carried: whether something is carried, in whose place a phone can lie. None where no effect is expected."""
    effect = max(expected) - min(expected)
    if effect <= 0 or repeats < 2:
        return None
    made = []
    for id, (name, u_s) in WAYS.items():
        if id == "felt" and not carried:
            continue
        u = u_s * second
        needed = repeats_needed(effect, math.hypot(device_sd, u))
        needed = needed if needed is not None and needed <= MOST_TRIALS else None
        made.append(Way(id=id, name=name, u=u, text=spread(COVERS * u), needed=needed, enough=needed is not None and needed <= repeats))
    return Ways(ways=tuple(made), says=_says(made, planned, effect, repeats, unit))


def _says(ways: Sequence[Way], planned: WayId, effect: float, repeats: int, unit: str) -> str:
    own = next(w for w in ways if w.id == planned)
    looked = f"an effect of about {effect:.2g} {unit}"
    if own.enough:
        return f"{own.name.capitalize()} will do for {looked}: {_trials(own.needed or 2)} at each level would show it, and {repeats} are planned."
    better = next((w for w in ways if w.enough), None)
    takes = "more than fifty trials" if own.needed is None else _trials(own.needed)
    if better is not None:
        return f"With {own.name} {looked} takes {takes} at each level; with {better.name} (known to ± {better.text} {unit}) the {repeats} that are planned will do."
    best = min(ways, key=lambda w: w.u)
    return f"No way of timing shows {looked} with {repeats} trials at each level: with {best.name} it takes {'more than fifty' if best.needed is None else best.needed}. The devices themselves differ by as much; change the variable further."


def _trials(n: int) -> str:
    return "one trial" if n == 1 else f"{n} trials"
