"""A gate, a scale, a meter, a sound trigger and a phone in the carrier that are not there: plausible events from the core's physics, with what goes wrong in a
hall: noise, drop-outs, doubled and late events."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from scipy.constants import g as STANDARD_G

from bendro.core.measuring.heard import Heard, Instrument
from bendro.core.seeing.felt import felt

from .made import phone_log

#: Scatter of a repeated release, of a scale and of a meter, as a share of the reading (common practice: a few in a hundred).
RELEASE_SCATTER, SCALE_SCATTER, METER_SCATTER = 0.03, 0.004, 0.05
#: A sound trigger hears the landing a little late, s, and with scatter (sound over some metres of a hall).
HEARD_LATE_S, HEARD_SCATTER_S = 0.006, 0.003
#: What goes wrong with so many of a hundred events, where faults are asked for.
LOST, DOUBLED, LATE = 0.06, 0.08, 0.06
#: Between two trials, s of the instrument's clock.
BETWEEN_S = 20.0


def events(kind: Instrument, trials: int, *, seed: int, faults: bool = False, height_m: float = 2.0, mass_g: float = 40.0, peak_v: float = 2.2, first: int = 1, lanes: int = 0) -> list[Heard]:
    """The events of so many trials as a lane hears them. trials >= 1. height_m: of the fall that a gate or sound trigger times, > 0;
    mass_g, peak_v: what a scale or meter reads about. first: number of the first event; lanes: of a heat, how many are let go together, 0 where
    one thing falls."""
    rng = np.random.default_rng(seed)
    made = list(_clean(kind, trials, rng, height_m, mass_g, peak_v, first, lanes))
    return _spoiled(made, rng) if faults else made


def _clean(kind: Instrument, trials: int, rng: np.random.Generator, height_m: float, mass_g: float, peak_v: float, first: int, lanes: int) -> Iterator[Heard]:
    name, n, t = f"{kind} 1", first, 5.0 + BETWEEN_S * first
    for _ in range(trials):
        t += BETWEEN_S
        if kind in ("gate", "sound"):
            step = 0.001 if kind == "gate" else 0.01
            yield Heard(instrument=kind, name=name, n=n, t=round(t, 4), what="release", step=step)
            for took, lane in sorted((_fall(kind, height_m, rng), lane) for lane in (range(1, lanes + 1) if lanes else (0,))):
                n += 1
                yield Heard(instrument=kind, name=name, n=n, t=round(t + took, 4), what="land", step=step, lane=lane)
            n += 1
        elif kind == "felt":
            drop = felt(phone_log(height=height_m * float(1 + RELEASE_SCATTER * rng.standard_normal()), seed=int(rng.integers(2**31))), g=STANDARD_G)
            yield Heard(instrument=kind, name=name, n=n, t=round(t, 4), what="release", step=drop.gap_s)
            yield Heard(instrument=kind, name=name, n=n + 1, t=round(t + drop.land_s - drop.release_s, 4), what="land", step=drop.gap_s, u=drop.found[0].u)
            n += 2
        elif kind == "scale":
            value = round(float(mass_g * (1 + SCALE_SCATTER * rng.standard_normal())), 1)
            yield Heard(instrument=kind, name=name, n=n, t=t, what="value", value=value, unit="g", step=0.1)
            n += 1
        else:
            value = round(float(peak_v * (1 + METER_SCATTER * rng.standard_normal())), 2)
            yield Heard(instrument=kind, name=name, n=n, t=t, what="cleared", step=0.01)
            yield Heard(instrument=kind, name=name, n=n + 1, t=t + 4, what="value", value=value, unit="V", step=0.01)
            n += 2


def _fall(kind: Instrument, height_m: float, rng: np.random.Generator) -> float:
    fall = float(np.sqrt(2 * height_m / STANDARD_G) * (1 + RELEASE_SCATTER * rng.standard_normal()))
    late = float(HEARD_LATE_S + HEARD_SCATTER_S * rng.standard_normal()) if kind == "sound" else 0.0
    return fall + late


def _spoiled(made: list[Heard], rng: np.random.Generator) -> list[Heard]:
    out: list[Heard] = []
    held: list[Heard] = []
    for event in made:
        luck = rng.random()
        if luck < LOST:
            continue
        if luck < LOST + LATE:
            held.append(event)
            continue
        out.append(event)
        if luck < LOST + LATE + DOUBLED:
            out.append(event)
        out += held
        held = []
    return out + held
