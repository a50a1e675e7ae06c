"""What a plan must say before anything is dropped or launched: limits, drop heights, what counts as survival, how things are
held. Bendro never says that a launch is safe; the school's own risk assessment, local rules and qualified staff decide."""

from __future__ import annotations

import hashlib
import json
import re
from dataclasses import dataclass
from typing import Literal

from ..draft import Draft, Held, Limit
from ..errors import CoreError
from ..families import family, known
from ..families.schema import Caution
from ..measuring.scales import scale_named, scale_of
from ..measuring.taking import passed_said
from ..problem import Problem
from ..readings import Reading, find_unit, read
from ..readings.amounts import read_any
from ..words import said
from .ideas import how_held, in_play, kept_same, limit_on_variable, limited


def own_unit(text: str) -> str:
    """The unit in which a value was written, whatever its tolerance is in: "2.4 m ± 2 cm" is in m; "" where it is no amount."""
    found = read_any(re.split(r"±|\+/?-", text, maxsplit=1)[0])
    return "" if found is None else found.unit


@dataclass(frozen=True, slots=True, kw_only=True)
class LimitPlace:
    """A quantity of the plan that a limit can bind to. on and name: as in `Limit`. label: how it is called. unit: of a bare
    number, "" where the limit carries its own. needed: the plan is not signed off without a limit here."""

    on: Literal["variable", "rungs", "held"]
    name: str
    label: str
    unit: str
    needed: bool


def limit_places(draft: Draft) -> tuple[LimitPlace, ...]:
    """What of this plan can be limited: the variable, the drops, and what is held. Pressure, height and pull-back are needed."""
    found = []
    v = draft.variable
    if v.kind == "number" and v.name.strip():
        found.append(LimitPlace(on="variable", name="", label=v.name.strip(), unit=v.unit, needed=limited(draft)))
    if draft.drop is not None:
        found.append(LimitPlace(on="rungs", name="", label="drop height", unit=draft.drop.unit, needed=True))
    usual = {said(k.name): k for k in (family(draft.family).keep_same if known(draft.family) else ())}
    for kept in kept_same(draft):
        rule = usual[said(kept.name)].limited if said(kept.name) in usual else "no"
        value = _held_value(draft, kept.name)
        needed = rule == "always" or (value is not None and (rule == "value" or value.quantity == "pressure"))
        if rule == "no" and value is None:
            continue  # nothing about it is a size that could be too large
        found.append(LimitPlace(on="held", name=kept.name, label=kept.name, unit=_unit_held(draft, kept.name) if value else "", needed=needed))
    return tuple(found)


def _held_value(draft: Draft, name: str) -> Reading | None:
    held = next((h for h in draft.hold if said(h.name) == said(name)), None)
    return None if held is None else read_any(held.value)


def _unit_held(draft: Draft, name: str) -> str:
    return next((own_unit(h.value) for h in draft.hold if said(h.name) == said(name)), "")


def place_of_limit(draft: Draft, limit: Limit) -> LimitPlace | None:
    """The quantity that a limit binds to; None where it binds nothing. A limit on the held drop height is one on the drops, once the plan
    has a part for them."""
    drops = draft.drop is not None and limit.on == "held" and said(limit.name) == "drop height"
    for place in limit_places(draft):
        if (drops and place.on == "rungs") or (place.on == limit.on and (limit.on != "held" or said(place.name) == said(limit.name))):
            return place
    return None


def limits_in_words(draft: Draft) -> tuple[str, ...]:
    """Every limit that binds, in the unit in which it was typed: "pull-back: never above 10 cm"."""
    made = []
    for limit in draft.limits:
        place, text = place_of_limit(draft, limit), limit.value.strip()
        if place is not None and text:
            bare = not re.search(r"[^\d\s.,]", text)
            made.append(f"{place.label}: never above {text}{f' {place.unit}' if bare and place.unit not in ('', 'count') else ''}")
    return tuple(made)


def check_safety(draft: Draft) -> list[Problem]:
    """Limits that bind nothing, cannot be read or are missing; what lies past them; drops that are not agreed; things held in
    words that contradict themselves."""
    return [
        *_check_limits(draft),
        *_needed_limits(draft),
        *check_levels_under(draft),
        *_check_drop(draft),
        *_check_survival(draft),
        *(p for at, h in enumerate(draft.hold) for p in _check_held(at, h)),
    ]


def _check_limits(draft: Draft) -> list[Problem]:
    found = []
    for at, limit in enumerate(draft.limits):
        typed, where = limit.value.strip(), f"limits.{at}"
        if not typed:
            continue
        place = place_of_limit(draft, limit)
        if place is None:
            says = f"The limit of {typed} limits nothing in this plan. Choose what it is a limit on, or remove it."
            found.append(Problem(code="limit_unbound", where=where, says=says))
            continue
        most = _limit_value(draft, limit, place)
        if most is None:
            says = f"“{typed}” is not a limit on {place.label}: write the largest value with its unit, such as {_example(place)}."
            found.append(Problem(code="limit_unreadable", where=where, says=says))
        elif place.on == "held":
            found += _check_held_under(draft, place, most, typed)
    return found


def _example(place: LimitPlace) -> str:
    return {"rungs": "3 m", "held": "3 m or 2 bar"}.get(place.on, f"10 {place.unit}" if place.unit not in ("", "count") else "10")


def _limit_value(draft: Draft, limit: Limit, place: LimitPlace) -> Reading | None:
    """The limit understood as a value of what it limits; None where it cannot be."""
    if place.on == "held":
        held = _held_value(draft, place.name)
        if held is None:
            return read_any(limit.value)
        name, unit = held.quantity, place.unit
    else:
        name, unit = ("length", place.unit) if place.on == "rungs" else (draft.variable.quantity, place.unit)
    try:
        found = read(limit.value, name, unit)
    except CoreError:
        return None
    return found if found.kind == "exact" and found.amount > 0 else None


def _check_held_under(draft: Draft, place: LimitPlace, most: Reading, typed: str) -> list[Problem]:
    value = _held_value(draft, place.name)
    at = next((i for i, h in enumerate(draft.hold) if said(h.name) == said(place.name)), None)
    where = "hold" if at is None else f"hold.{at}"
    if value is None:
        says = f"Write at what value {place.label} is kept the same: without it the limit of {typed} cannot be held."
        return [Problem(code="held_value_missing", where=where, says=says)]
    if value.si_value > most.si_value * (1 + 1e-12):
        says = f"{place.label} is kept at {value.text.strip()}, above the limit of {typed} that you have set. Lower it; the limit is never exceeded."
        return [Problem(code="held_over_limit", where=where, says=says)]
    return []


def _needed_limits(draft: Draft) -> list[Problem]:
    """Pressure, height and pull-back are not signed off without the teacher's own limit."""
    bound = [place for limit in draft.limits if limit.value.strip() and (place := place_of_limit(draft, limit)) is not None]
    return [
        Problem(code="limit_missing", where="limits", says=f"Set your limit on {place.label}: nothing is signed off or run without it.")
        for place in limit_places(draft)
        if place.needed and place not in bound
    ]


def check_levels_under(draft: Draft) -> list[Problem]:
    """Levels past the limit that the teacher has set are refused, never only asked about."""
    v, most = draft.variable, limit_on_variable(draft)
    if most is None:
        return []
    typed = next(one.value.strip() for one in draft.limits if one.on == "variable" and one.value.strip())
    found = []
    for at, text in enumerate(v.levels):
        try:
            level = read(text, v.quantity, v.unit, signed=True).to(v.unit)
        except CoreError:
            continue  # said already where levels are checked
        if level > most * (1 + 1e-12):
            says = f"{text.strip()} is above the limit of {typed} that you have set. Lower it; the limit is never exceeded."
            found.append(Problem(code="level_over_limit", where=f"variable.levels.{at}", says=says))
    return found


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
    typed = next((one for one in draft.limits if one.value.strip() and (bound := place_of_limit(draft, one)) is not None and bound.on == "rungs"), None)
    limit = _rungs_limit(typed, drop.unit)
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
            says = f"{text.strip()} is above the height limit of {typed.value.strip() if typed else ''} that you have set. Lower it."
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


def _rungs_limit(typed: Limit | None, unit: str) -> float | None:
    if typed is None:
        return None
    try:
        return read(typed.value, "length", unit).to(unit)
    except CoreError:
        return None  # said already where limits are checked


def judges_survival(draft: Draft) -> bool:
    """Whether what is measured turns on a payload that survives: the family says it of its own measures; a measure of the
    teacher's own says it in its name."""
    if not known(draft.family):
        return False
    usual = {m.name: m.survival for m in family(draft.family).measures}
    carries = any(m.survival and scale_named(m.scale).survives for m in family(draft.family).measures)  # its devices are dropped to be judged
    return any(
        usual.get(m.name, (carries and scale_of(m).survives) or "surviv" in m.name.casefold() or (scale_of(m).survives and passed_said(m) == "survived" and bool(m.survived)))
        for m in draft.measures
    )


def _check_survival(draft: Draft) -> list[Problem]:
    if not judges_survival(draft):
        return []
    found = []
    if not draft.survival and not any(scale_of(m).survives for m in draft.measures):  # an outcome says it by its own line
        says = "Say what counts as survived: teachers differ on a hairline crack, so there is no default."
        found.append(Problem(code="survival_missing", where="survival", says=says))
    held = any(p.name == "drop height" for p in limit_places(draft) if p.on == "held" and p.needed)
    if draft.drop is None and not held:
        says = "Say how it is dropped: from one height, on fixed rungs, or up a ladder until it fails."
        found.append(Problem(code="drop_missing", where="drop", says=says))
    return found


def needs_adult(draft: Draft) -> str | None:
    """Why every open lane needs an adult of its own: pressure or height is in play. None where the teacher decides."""
    if known(draft.family) and family(draft.family).adult_because:
        return family(draft.family).adult_because
    if draft.drop is not None:
        return "things are dropped from a height"
    held = [_held_value(draft, h.name) for h in draft.hold]
    if draft.variable.quantity == "pressure" or any(h is not None and h.quantity == "pressure" for h in held):
        return "pressure is used"
    return None


def cautions_of(draft: Draft) -> tuple[str, ...]:
    """The family's cautions that fit what is done; empty while no family is chosen."""
    if not known(draft.family):
        return ()
    return tuple(c.says for c in family(draft.family).cautions if in_play(draft, c.not_with) and not _ruled_out(draft, c))


def _ruled_out(draft: Draft, caution: Caution) -> bool:
    """Whether what is held shows that a caution does not arise: a held ramp height, and nothing in the plan that speaks of a fan. In doubt it
    is read out."""
    held = {said(h.name) for h in draft.hold if how_held(h)}
    if not caution.arises_with or not held & {said(n) for n in caution.not_with}:
        return False
    words = " ".join([draft.question, draft.variable.name, *(m.name for m in draft.measures), *(f"{h.name} {h.value} {h.how}" for h in draft.hold if how_held(h)), *(m.name for m in draft.materials.items)])
    return not any(re.search(rf"\b{re.escape(w)}", words, re.IGNORECASE) for w in caution.arises_with)


#: An opened run holds for one lesson; after so many hours the cautions are read again (common practice).
RUN_HOURS = 4


def _only_called(draft: Draft) -> bool:
    """Whether the levels are only what devices or versions are called: one more of them changes nothing that was signed."""
    return draft.study_kind != "fair_test" and draft.variable.kind == "name"


def safety_mark(draft: Draft) -> str:
    """A mark of everything in a draft that a sign-off covers; it changes when any of that changes."""
    held = {said(place.name) for limit in draft.limits if (place := place_of_limit(draft, limit)) is not None and place.on == "held"}
    covered = {
        "family": draft.family,
        "variable": draft.variable.model_dump(mode="json", exclude={"level_ids", "levels"} if _only_called(draft) else {"level_ids"}),
        "drop": None if draft.drop is None else draft.drop.model_dump(mode="json"),
        "limits": [one.model_dump(mode="json") for one in draft.limits],
        "held": [h.value.strip() for h in draft.hold if said(h.name) in held],
        "cautions": cautions_of(draft),
        "adults": draft.timing.adults,
        "lanes": draft.timing.lanes,
    }
    return hashlib.sha256(json.dumps(covered, sort_keys=True).encode()).hexdigest()[:32]
