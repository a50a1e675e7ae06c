"""What of a study can be analysed, and over what: each measure, what is worked out, and everything the record tells of a trial."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..draft import Draft, MeasureDraft
from ..measuring.derived import prepare_all
from ..measuring.scales import scale_of
from ..measuring.taking import passed_said
from ..once import once_for_each
from ..planning.ideas import varied
from ..planning.question import better_place, better_time
from ..planning.safety import drop_heights
from ..trials import Better
from ..words import said
from .ladders import every_rung, on_rungs
from .seen import TrialSeen

Shape = Literal["number", "survival", "rungs", "places", "behaviour"]
#: What trials can be told apart by besides the variable, and what it is called on the page.
FACTORS = {"version": "version", "device": "device", "specimen": "specimen", "group": "group", "person": "person"}
HELD = "held:"
RUNG_RESPONSE, RUNGS_RESPONSE = "highest rung survived", "rungs survived"


@dataclass(frozen=True, slots=True, kw_only=True)
class ResponseSeen:
    """One thing that can be analysed. id: of the measure or derived measure; unit "" where it has none. scored: points for a reading,
    not the reading itself. whole: its values are counts, points or places. least, most: beyond which no value can lie. by_size: how far
    off the line, whichever side. every: of drops from every rung, how many were survived. passed: of an outcome, what is said of a trial above
    its line: "survived"."""

    id: str
    name: str
    unit: str
    shape: Shape
    better: Better
    derived: bool
    scored: bool = False
    whole: bool = False
    least: float | None = None
    most: float | None = None
    by_size: bool = False
    every: bool = False
    passed: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class FactorSeen:
    """One thing that trials can be compared over. id "": the variable."""

    id: str
    name: str


@once_for_each
def responses_of(draft: Draft) -> tuple[ResponseSeen, ...]:
    """Everything that a plan's trials can be analysed for, the first measure first."""
    made = [_response(draft, m, first=at == 0) for at, m in enumerate(draft.measures)]
    ready, _ = prepare_all(draft)
    made += [
        ResponseSeen(id=one.draft.id, name=one.draft.name, unit=one.unit, shape="number", better=one.draft.better, derived=True) for one in ready.values()
    ]
    return tuple(made)


def response_named(draft: Draft, response: str = "") -> ResponseSeen | None:
    """One of them by its identity, "" for the first measure."""
    return next((r for r in responses_of(draft) if r.id == (response or draft.measure.id)), None)


def result_of_plan(draft: Draft) -> Literal["mean", "median", "best", "total"]:
    """What the result of a level is: as the plan has it; the highest rung of a ladder has no mean, so there it is the middle one."""
    one = response_named(draft)
    ladder = one is not None and one.shape == "rungs" and not one.every
    return "median" if ladder and draft.result == "mean" else draft.result


#: How a distance to the side is called.
_SIDEWAYS = re.compile(r"\boff\b|\bmiss|side|course|stray|drift|wander|deviat", re.IGNORECASE)


def off_the_line(m: MeasureDraft) -> bool:
    """Whether a measure is a distance to the left or right of a line: the size of it is what is better or worse, its sign is the lean."""
    return m.signed and scale_of(m).quantity(m) == "length" and _SIDEWAYS.search(m.name) is not None


def better_of(draft: Draft, m: MeasureDraft) -> Better:
    """Which end of a measure is best: of what is timed first by the question, where that is plain."""
    rules = scale_of(m)
    if rules.shape == "places":
        return better_place(draft.question)
    asked = better_time(draft.question) if rules.quantity(m) == "time" and m.id == draft.measure.id else None
    return rules.best or asked or m.better


def _response(draft: Draft, m: MeasureDraft, *, first: bool) -> ResponseSeen:
    rules = scale_of(m)
    if first and every_rung(draft):
        rungs = float(len(drop_heights(draft)))
        return ResponseSeen(id=m.id, name=RUNGS_RESPONSE, unit="", shape="rungs", better="high", derived=False, whole=True, least=0.0, most=rungs, every=True)
    if rules.survives and first and on_rungs(draft) and draft.drop is not None:
        return ResponseSeen(id=m.id, name=RUNG_RESPONSE, unit=draft.drop.unit, shape="rungs", better="high", derived=False, least=0.0)
    by_size = off_the_line(m)
    least, most = rules.limits(m)
    return ResponseSeen(
        id=m.id, name=rules.result_name(m), unit="" if rules.scored else rules.unit(m), shape=rules.shape, better="low" if by_size else better_of(draft, m),
        derived=False, scored=rules.scored, whole=rules.whole, least=0.0 if by_size else least, most=most, by_size=by_size,
        passed=passed_said(m) if rules.survives else "",
    )  # fmt: skip


def factor_of(t: TrialSeen, factor: str) -> str:
    """The value of a factor other than the variable at one trial; "" where it is not recorded."""
    if factor.startswith(HELD):
        return t.conditions.get(factor.removeprefix(HELD), "").strip()
    if factor == "version":
        return "" if t.version is None else f"{t.made_by} version {t.version}".strip()
    return str({"device": t.device, "specimen": t.specimen, "group": t.group, "person": t.person}[factor]).strip()


def factors_of(draft: Draft, seen: Sequence[TrialSeen]) -> tuple[FactorSeen, ...]:
    """What differs between counted trials, so that something can be compared over it; the variable first."""
    made = [FactorSeen(id="", name=draft.variable.name)]
    counted = [t for t in seen if t.counts]
    for one, name in FACTORS.items():
        if len({v for t in counted if (v := factor_of(t, one))}) > 1:
            made.append(FactorSeen(id=one, name=name))
    gone = varied(draft)
    held = dict.fromkeys(k for t in counted for k in t.conditions if said(k) not in gone)
    made += [FactorSeen(id=f"{HELD}{k}", name=k) for k in held if len({t.conditions.get(k, "") for t in counted}) > 1]
    return tuple(made)
