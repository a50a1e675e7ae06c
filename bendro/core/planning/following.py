"""What follows a verdict: the best by the rule agreed, the one thing to change next, and the plan that does so with the rest held."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..draft import DecidedDraft, Draft, Held, Limit, VariableDraft
from ..errors import PlanRefused
from ..families import Variable, family, known
from ..problem import Problem
from ..words import said, unlike
from ..written import level_label
from .ideas import question_for, suggested_levels, variable_named
from .plan import level_unit, planned_levels, settings_of
from .safety import check_levels_under

#: So many things to change next are offered.
OFFERED = 8
#: Between two neighbours of the best so many levels are set.
BETWEEN = 4
#: Of counts every one between them, up to so many.
MOST_BETWEEN = 6
#: Past a best that stands at an end so many levels are set, itself the first.
PAST = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class BestLevel:
    """id: the level's identity in the plan; label: as it is called."""

    id: str
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Following:
    """best: those that stand first, several where their results are equal as written. why: by which rule, and how sure. ideas: what could be
    changed next, the class's own first. between: levels about the best, in the unit of the variable, where it is a number and the best
    has neighbours. past: from a best at an end of what was tried on, a step at a time, as far as the teacher's limit lets."""

    best: tuple[BestLevel, ...]
    why: str
    ideas: tuple[str, ...]
    between: tuple[str, ...]
    past: tuple[str, ...] = ()


def following(draft: Draft, best: Sequence[str], why: str) -> Following:
    """best: the labels that the conclusion names best, and why."""
    found = tuple(BestLevel(id=p.id, label=p.label) for p in planned_levels(draft) if p.label in best)
    return Following(best=found, why=why, ideas=_ideas(draft), between=_between(draft, found), past=_past(draft, found))


def _ideas(draft: Draft) -> tuple[str, ...]:
    """The class's ideas, then the family's, without what was changed here and what is measured."""
    usual = [v.name for v in family(draft.family).variables] if known(draft.family) else []
    gone = {said(draft.variable.name), *(said(m.name) for m in draft.measures)} | ({said(draft.second.name)} if draft.second else set())
    return tuple(n for n in unlike([*draft.could_change, *usual]) if said(n) not in gone)[:OFFERED]


def _about(draft: Draft, best: Sequence[BestLevel]) -> tuple[list[float], int] | None:
    """The levels from the lowest up and where the one best stands among them; None where there is no such order."""
    if draft.variable.kind != "number" or len(best) != 1 or draft.second is not None:
        return None
    values = sorted({float(p.shown) for p in planned_levels(draft) if isinstance(p.shown, float | int)})
    mine = next((float(p.shown) for p in planned_levels(draft) if p.id == best[0].id and isinstance(p.shown, float | int)), None)
    return None if mine is None or len(values) < 2 else (values, values.index(mine))


def _as_levels(draft: Draft, values: Iterable[float]) -> tuple[str, ...]:
    unit = level_unit(draft.variable)
    own = "" if unit == draft.variable.unit else f" {unit}"
    return tuple(dict.fromkeys(f"{float(f'{v:.3g}'):g}{own}" for v in values))


def _between(draft: Draft, best: Sequence[BestLevel]) -> tuple[str, ...]:
    found = _about(draft, best)
    if found is None:
        return ()
    values, at = found
    low, high = values[max(0, at - 1)], values[min(len(values) - 1, at + 1)]
    steps = [low + i * (high - low) / (BETWEEN - 1) for i in range(BETWEEN)]
    if draft.variable.quantity == "count":  # half a band is none
        steps = [float(v) for v in range(math.ceil(low), math.floor(high) + 1)][:MOST_BETWEEN]
    made = _as_levels(draft, steps)
    return made if len(made) > 1 and not set(made) <= set(_as_levels(draft, values)) else ()


def _past(draft: Draft, best: Sequence[BestLevel]) -> tuple[str, ...]:
    found = _about(draft, best)
    if found is None or found[1] not in (0, len(found[0]) - 1):
        return ()
    values, at = found
    step = values[at] - values[1 if at == 0 else at - 1]
    further = [values[at] + i * step for i in range(PAST)]
    made = _as_levels(draft, (v for v in further if v > 0 or values[0] < 0))  # nothing is set below nothing, unless it was
    kept = [one for one in made if not any(p.code == "level_over_limit" for p in _check_levels(draft, one))]
    return tuple(kept) if len(kept) > 1 else ()


def _check_levels(draft: Draft, level: str) -> list[Problem]:
    return check_levels_under(draft.model_copy(update={"variable": draft.variable.model_copy(update={"levels": [level], "level_ids": []})}))


def next_plan(draft: Draft, *, best: str, change: str, between: bool = False, past: bool = False) -> Draft:
    """The plan of the study that follows: the best level held and one other thing changed, or the same thing between the neighbours of the
    best, or past it. Measures, measuring rule, limits and order stay; the prediction is made anew. best: identity of a level. Raises PlanRefused
    where there is no such level or nothing to change."""
    level = next((p for p in planned_levels(draft) if p.id == best), None)
    if level is None:
        raise PlanRefused("This level is not in the plan, so it cannot be held.", code="next_best_unknown", where="best")
    fresh = {"prediction": "", "reason": "", "expect": "", "reserve": 0, "second": None, "decided": DecidedDraft()}
    held_as = level.label
    if between or past:
        levels = (_past if past else _between)(draft, [BestLevel(id=level.id, label=held_as)])
        if not levels and past:
            raise PlanRefused("No level can be set past this one. Choose another thing to change.", code="next_past", where="past")
        if not levels:
            raise PlanRefused("Between names there are no levels. Choose another thing to change.", code="next_between", where="between")
        return draft.model_copy(update={**fresh, "variable": draft.variable.model_copy(update={"levels": list(levels), "level_ids": []})})
    name = " ".join(change.split())
    if not name or said(name) == said(draft.variable.name):
        raise PlanRefused("Say which one other thing is changed next.", code="next_change_missing", where="change")
    usual = variable_named(draft, name)
    held = [h for h in draft.hold if said(h.name) not in (said(name), said(draft.variable.name), said(draft.second.name if draft.second else ""))]
    held += _held_at(draft, best, held_as, name)
    limits = [
        Limit(on="held", name=draft.variable.name, value=limit.value) if limit.on == "variable" else limit
        for limit in draft.limits
        if not (limit.on == "held" and said(limit.name) == said(name))
    ]
    plan = draft.model_copy(
        update={
            **fresh,
            "study_kind": "fair_test",
            "question": question_for(name, [draft.measure.name]),
            "variable": _variable(name, usual),
            "could_change": unlike([*draft.could_change, draft.variable.name, name]),
            "hold": held,
            "limits": limits,
        }
    )
    return plan.model_copy(update={"variable": plan.variable.model_copy(update={"levels": list(suggested_levels(plan))})})


def _held_at(draft: Draft, best: str, label: str, change: str) -> list[Held]:
    """What was varied, held at its best setting; of two variables each at its own."""
    if draft.second is None:
        at: list[tuple[VariableDraft, str]] = [(draft.variable, label)]
    else:
        one, two = settings_of(draft)[best]
        at = [(draft.variable, level_label(one, level_unit(draft.variable) or None)), (draft.second, level_label(two, level_unit(draft.second) or None))]
    return [Held(name=v.name, value=text if v.kind == "number" else "", how="" if v.kind == "number" else text) for v, text in at if said(v.name) != said(change)]


def _variable(name: str, usual: Variable | None) -> VariableDraft:
    if usual is None:
        return VariableDraft(name=name)
    return VariableDraft(name=usual.name, kind=usual.kind, quantity=usual.quantity or "number", unit=usual.unit)


def said_next(draft: Draft) -> str:
    """What the group wrote down to change next, as a poster says it; empty where nothing is written."""
    d = draft.decided
    if not d.change.strip():
        return d.why.strip()
    level = next((p for p in planned_levels(draft) if p.id == d.best), None)
    kept = f" with {draft.variable.name} at {level.label}" if level is not None else ""
    why = d.why.strip()
    return f"Next we change {d.change.strip()}{kept}{': ' + why if why else ''}{'' if why.endswith('.') else '.'}"

