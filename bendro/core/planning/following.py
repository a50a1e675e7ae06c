"""What follows a verdict: the best by the rule agreed, the one thing to change next, and the plan that does so with the rest held."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..errors import PlanRefused
from ..families import Variable, family, known
from ..judgement.evidence import level_label
from ..judgement.wording import RESULT_SAID
from ..results import Analysis
from .draft import DecidedDraft, Draft, Held, Limit, VariableDraft
from .ideas import question_for, said, suggested_levels, unlike, variable_named
from .plan import planned_levels

#: So many things to change next are offered.
OFFERED = 8
#: Between two neighbours of the best so many levels are set.
BETWEEN = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class BestLevel:
    """id: the level's identity in the plan; label: as it is called."""

    id: str
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Following:
    """best: those that stand first, several where their results are equal as written. why: by which rule, and how sure. ideas: what could be
    changed next, the class's own first. between: levels about the best, in the unit of the variable, where it is a number and the best
    has neighbours."""

    best: tuple[BestLevel, ...]
    why: str
    ideas: tuple[str, ...]
    between: tuple[str, ...]


_SURE = {
    "clear": "Luck would hardly do this.",
    "leaning": "It leans that way; luck could still have done it.",
    "cannot_tell": "The trials cannot tell them apart from luck yet.",
}


def following(draft: Draft, a: Analysis, first: Sequence[str], *, like: str = "") -> Following:
    """first: the labels that stand first on the podium. like: the next of them, where the trials cannot tell it from the first; ""."""
    levels = [(p.id, level_label(p.level, draft.variable.unit)) for p in planned_levels(draft)]
    best = tuple(BestLevel(id=i, label=label) for i, label in levels if label in first)
    if not best:
        return Following(best=(), why="No trial is kept yet, so none is best.", ideas=_ideas(draft), between=())
    agreed = {"rung_lightest": "highest rung, then the lightest", "cheapest": "cheapest that survived"}.get(draft.rank, RESULT_SAID[draft.result])
    rule = agreed if draft.study_kind == "contest" else RESULT_SAID[draft.result]
    names = " and ".join(b.label for b in best)
    sure = f"The trials cannot tell {'it' if len(best) == 1 else 'them'} from {like} yet." if like else _SURE[a.verdict.answer]
    why = f"By the {rule} {names} {'is' if len(best) == 1 else 'share the first place; they are'} best. {sure}"
    return Following(best=best, why=why, ideas=_ideas(draft), between=_between(draft, best))


def _ideas(draft: Draft) -> tuple[str, ...]:
    """The class's ideas, then the family's, without what was changed here and what is measured."""
    usual = [v.name for v in family(draft.family).variables] if known(draft.family) else []
    gone = {said(draft.variable.name), *(said(m.name) for m in draft.measures)} | ({said(draft.second.name)} if draft.second else set())
    return tuple(n for n in unlike([*draft.could_change, *usual]) if said(n) not in gone)[:OFFERED]


def _between(draft: Draft, best: Sequence[BestLevel]) -> tuple[str, ...]:
    if draft.variable.kind != "number" or len(best) != 1 or draft.second is not None:
        return ()
    values = sorted({float(p.level) for p in planned_levels(draft) if isinstance(p.level, float | int)})
    mine = next((float(p.level) for p in planned_levels(draft) if p.id == best[0].id and isinstance(p.level, float | int)), None)
    if mine is None or len(values) < 2:
        return ()
    at = values.index(mine)
    low, high = values[max(0, at - 1)], values[min(len(values) - 1, at + 1)]
    steps = (low + i * (high - low) / (BETWEEN - 1) for i in range(BETWEEN))
    return tuple(dict.fromkeys(f"{float(f'{v:.3g}'):g}" for v in steps))


def next_plan(draft: Draft, *, best: str, change: str, between: bool = False) -> Draft:
    """The plan of the study that follows: the best level held and one other thing changed, or the same thing between the neighbours of the
    best. Measures, measuring rule, limits and order stay; the prediction is made anew. best: identity of a level. Raises PlanRefused
    where there is no such level or nothing to change."""
    level = next((p for p in planned_levels(draft) if p.id == best), None)
    if level is None:
        raise PlanRefused("This level is not in the plan, so it cannot be held.", code="next_best_unknown", where="best")
    fresh = {"prediction": "", "reason": "", "expect": "", "reserve": 0, "second": None, "decided": DecidedDraft()}
    held_as = level_label(level.level, draft.variable.unit)
    if between:
        levels = _between(draft, [BestLevel(id=level.id, label=held_as)])
        if not levels:
            raise PlanRefused("Between names there are no levels. Choose another thing to change.", code="next_between", where="between")
        return draft.model_copy(update={**fresh, "variable": draft.variable.model_copy(update={"levels": list(levels), "level_ids": []})})
    name = " ".join(change.split())
    if not name or said(name) == said(draft.variable.name):
        raise PlanRefused("Say which one other thing is changed next.", code="next_change_missing", where="change")
    usual = variable_named(draft, name)
    held = [h for h in draft.hold if said(h.name) not in (said(name), said(draft.variable.name))]
    held.append(
        Held(name=draft.variable.name, value=held_as if draft.variable.kind == "number" else "", how="" if draft.variable.kind == "number" else held_as)
    )
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
    kept = f" with {draft.variable.name} at {level_label(level.level, draft.variable.unit)}" if level is not None else ""
    why = d.why.strip()
    return f"Next we change {d.change.strip()}{kept}{': ' + why if why else ''}{'' if why.endswith('.') else '.'}"

