"""A rehearsal: likely readings from the family's physics and usual reading errors, before anything is built, to see whether
so many repeats could show the effect. Seeded; its numbers are never mixed with real trials."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache, partial

import numpy as np

from ..errors import PlanRefused
from ..families import family, known
from ..judgement.deciding import School
from ..judgement.foreseen import Kind, clear_of
from .expectations import FORMS, Form

#: Studies played through; a share is then known to about ±3.5 %. SEARCHED: while the fewest repeats that would do are looked for.
STUDIES, SEARCHED = 200, 80
WANTED = 0.8


@dataclass(frozen=True, slots=True, kw_only=True)
class Model:
    """true: level (variable's unit) -> reading (measure's unit). scatter: share by which devices and people vary.
    reading_error: SD of taking one reading, in the measure's unit. timed: the error is a thumb's."""

    true: Callable[[float], float]
    scatter: float
    reading_error: float
    timed: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Rehearsal:
    """readings: one likely study, level by level. share_clear: of the studies played, how many would show the effect at 5 %.
    repeats_wanted: the fewest (3 to 12) with which four in five would, or None."""

    expected: tuple[float, ...]
    sd: tuple[float, ...]
    readings: tuple[tuple[float, ...], ...]
    share_clear: float
    repeats_wanted: int | None
    timing_share: float | None
    says: str


@lru_cache(maxsize=256)
def modelled(family_id: str, variable: str, measure: str) -> Model | None:
    """The family's physics for this variable and measure, as its file has it, or None where none is known. Raises PlanRefused for an unknown
    family or form."""
    found = next((e for e in family(family_id).expected if (e.variable, e.measure) == (variable, measure)), None) if known(family_id) else None
    if found is None:
        return None
    form, sizes = FORMS.get(found.form), found.sizes
    if form is None:
        raise PlanRefused(f"“{found.form}” is not one of the forms that are known.", code="no_model", where="variable")
    return Model(true=partial(_of_form, form, sizes), scatter=found.scatter, reading_error=found.reading_error, timed=found.timed)


def _of_form(form: Form, sizes: Mapping[str, float], x: float) -> float:
    return form(x, sizes)


def rehearse(family_id: str, variable: str, measure: str, levels: Sequence[float], repeats: int, *, timers: int = 1, seed: int) -> Rehearsal:
    """Play the study through. levels in the variable's unit, at least two; repeats >= 2; timers 1 to 3 (their errors are
    averaged). Raises PlanRefused `no_model` where no physics is known, or `rehearsal_inputs`."""
    model = modelled(family_id, variable, measure)
    if model is None:
        there = ", ".join(f"{e.variable} with {e.measure}" for e in family(family_id).expected) if known(family_id) else ""
        raise PlanRefused(
            f"There is no model for {variable} and {measure} here; in this family there is {there or 'none'}.",
            code="no_model",
            where="variable",
        )
    return play(model, levels, repeats, timers=timers, seed=seed)


def play(model: Model, levels: Sequence[float], repeats: int, *, timers: int = 1, seed: int, school: School = "shuffle", number: bool = False) -> Rehearsal:
    """The same for a model given. Shares are counted by the rule by which the school will decide. number: the levels are compared as
    numbers. Raises PlanRefused `rehearsal_inputs`."""
    if len(set(levels)) < 2 or not 2 <= repeats <= 50 or not 1 <= timers <= 3:
        raise PlanRefused("A rehearsal needs two levels, 2 to 50 repeats and 1 to 3 timers.", code="rehearsal_inputs")
    expected = [model.true(x) for x in levels]
    error = model.reading_error / math.sqrt(timers)
    sd = [math.hypot(model.scatter * m, error) for m in expected]
    rng = np.random.default_rng(seed)
    one = rng.normal(np.array(expected)[:, None], np.array(sd)[:, None], (len(levels), repeats))
    at = [float(x) for x in levels] if number and len(levels) > 2 else None
    share = _share_clear(expected, sd, repeats, at, school, rng, STUDIES)
    wanted = next((n for n in range(3, 13) if _share_clear(expected, sd, n, at, school, np.random.default_rng(seed), SEARCHED) >= WANTED), None)
    timing = error / min(expected) if model.timed and min(expected) > 0 else None
    return Rehearsal(
        expected=tuple(expected),
        sd=tuple(sd),
        readings=tuple(tuple(float(v) for v in row) for row in one),
        share_clear=share,
        repeats_wanted=wanted,
        timing_share=timing,
        says=_says(share, repeats, wanted, timing),
    )


def _share_clear(
    expected: Sequence[float], sd: Sequence[float], repeats: int, at: Sequence[float] | None, school: School, rng: np.random.Generator, studies: int
) -> float:
    """Of so many studies drawn, the share that the school would call clear."""
    drawn = rng.normal(np.array(expected)[:, None], np.array(sd)[:, None], (studies, len(expected), repeats))
    kind: Kind = "trend" if at is not None else "two" if len(expected) == 2 else "groups"
    return float(np.mean(clear_of(kind, drawn, school, at=at or ())))


def _says(share: float, repeats: int, wanted: int | None, timing: float | None) -> str:
    text = f"With {repeats} repeats about {round(10 * share)} of 10 such studies would show the effect."
    if share < WANTED:
        text += (
            f" {wanted} repeats would do."
            if wanted
            else " More repeats alone would not do: change the variable further or measure more finely."
        )
    if timing is not None and timing > 0.05:
        text += f" Hand timing is {100 * timing:.0f} % of the shortest time: use more timers or count frames."
    return text
