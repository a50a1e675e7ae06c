"""What a plan must say before anything is dropped or launched: limits, drop heights, what counts as survival, how things are
held. Bendro never says that a launch is safe; the school's own risk assessment, local rules and qualified staff decide."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass

from ..errors import CoreError
from ..readings import QUANTITIES, Reading, find_unit, read
from .draft import Draft, Held
from .ideas import limit_for


@dataclass(frozen=True, slots=True, kw_only=True)
class Problem:
    """What is missing or wrong in a draft, at its field. grave: the run cannot start."""

    code: str
    where: str
    says: str
    grave: bool = True


def read_any(text: str) -> Reading | None:
    """A written amount of whatever quantity its unit belongs to; None when it is not one value with a unit."""
    for name in QUANTITIES:
        if name in ("number", "count"):
            continue
        try:
            found = read(text, name)
        except CoreError:
            continue
        return found if found.kind == "exact" else None
    return None


def check_safety(draft: Draft) -> list[Problem]:
    """Limits that cannot be read, drops that are not agreed, and things held in words that contradict themselves."""
    found = [
        Problem(
            code="limit_unreadable",
            where=f"limits.{at}",
            says=f"“{limit.value.strip() or limit.name.strip()}” is not a limit: write the largest value with its unit, such as 2 bar or 3 m.",
        )
        for at, limit in enumerate(draft.limits)
        if limit.value.strip() and read_any(limit.value) is None
    ]
    return [*found, *_check_drop(draft), *_check_survival(draft), *(p for at, h in enumerate(draft.hold) for p in _check_held(at, h))]


def _check_held(at: int, held: Held) -> list[Problem]:
    if not held.tolerance.strip():
        return []
    value, within = read_any(held.value), read_any(held.tolerance)
    if value is None or within is None or value.quantity != within.quantity:
        says = f"How {held.name.strip() or 'it'} is held: a tolerance needs a value of the same kind, such as 4.2 m within 5 cm."
        return [Problem(code="hold_unreadable", where=f"hold.{at}", says=says, grave=False)]
    return []


def drop_heights(draft: Draft) -> tuple[float, ...]:
    """The heights of the drop plan in its unit, as typed. Raises CoreError for one that cannot be read."""
    return (
        () if draft.drop is None else tuple(read(t, "length", draft.drop.unit).to(draft.drop.unit) for t in draft.drop.heights if t.strip())
    )


def _check_drop(draft: Draft) -> list[Problem]:
    drop = draft.drop
    if drop is None:
        return []
    if find_unit(drop.unit, "length") != drop.unit:
        return [Problem(code="unit_unknown", where="drop.unit", says=f"“{drop.unit}” is not a unit of length.")]
    found: list[Problem] = []
    limit = limit_for(draft, "drop height", "length", drop.unit)
    last = 0.0
    for at, text in enumerate(drop.heights):
        place = f"drop.heights.{at}"
        try:
            height = read(text, "length", drop.unit).to(drop.unit)
        except CoreError as why:
            found.append(Problem(code=why.code, where=place, says=why.says))
            continue
        if height <= last:
            says = (
                f"“{text.strip()}” is not higher than the rung before; rungs rise one by one." if last else "A drop height is above zero."
            )
            found.append(Problem(code="rung_order", where=place, says=says))
        if limit is not None and height > limit * (1 + 1e-12):
            says = f"{text.strip()} is above the height limit of {limit:g} {drop.unit} that you have set. Lower it."
            found.append(Problem(code="height_over_limit", where=place, says=says))
        last = max(last, height)
    wanted = 1 if drop.plan == "one_height" else 2
    if len(drop.heights) < wanted:
        says = "Say the height that everything is dropped from." if wanted == 1 else "A ladder needs at least two rungs, from low to high."
        found.append(Problem(code="rungs_few", where="drop.heights", says=says))
    if drop.plan != "one_height" and not drop.payload:
        says = "Say whether one payload climbs all rungs or each rung has a fresh one: damage adds up in a payload that is used again."
        found.append(Problem(code="payload_use_missing", where="drop.payload", says=says))
    return found


def judges_survival(draft: Draft) -> bool:
    """Whether what is measured turns on a payload that survives."""
    return draft.family == "protector" and any("surviv" in m.name.casefold() for m in (draft.measure, draft.also) if m is not None)


def _check_survival(draft: Draft) -> list[Problem]:
    if not judges_survival(draft):
        return []
    found = []
    if not draft.survival:
        says = "Say what counts as survived: teachers differ on a hairline crack, so there is no default."
        found.append(Problem(code="survival_missing", where="survival", says=says))
    if draft.drop is None:
        says = "Say how it is dropped: from one height, on fixed rungs, or up a ladder until it fails."
        found.append(Problem(code="drop_missing", where="drop", says=says))
    return found


#: Families that never go without an adult at the lane, and why.
_ADULT_FAMILIES = {
    "rocket": "a rocket holds pressure or stored energy",
    "parachute": "it is let go from a height",
    "protector": "it is dropped from a height",
    "rotor": "it is let go from a height",
}


def needs_adult(draft: Draft) -> str | None:
    """Why every open lane needs an adult of its own: pressure or height is in play. None where the teacher decides."""
    if draft.family in _ADULT_FAMILIES:
        return _ADULT_FAMILIES[draft.family]
    if draft.drop is not None:
        return "things are dropped from a height"
    if draft.variable.quantity == "pressure" or any("pressure" in one.name.casefold() for one in draft.limits):
        return "pressure is used"
    return None


def safety_mark(draft: Draft) -> str:
    """A mark of everything in a draft that a sign-off covers; it changes when any of that changes."""
    covered = {
        "family": draft.family,
        "variable": draft.variable.model_dump(mode="json"),
        "drop": None if draft.drop is None else draft.drop.model_dump(mode="json"),
        "limits": [one.model_dump(mode="json") for one in draft.limits],
        "adults": draft.timing.adults,
        "lanes": draft.timing.lanes,
    }
    return hashlib.sha256(json.dumps(covered, sort_keys=True).encode()).hexdigest()[:32]
