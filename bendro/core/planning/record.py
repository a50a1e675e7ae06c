"""What changed between two drafts of a plan, in words, and what may no longer change once trials are kept."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from .draft import Draft

_WORDS = {
    "question": "the question",
    "class_label": "the class",
    "asked_by": "who sets the question",
    "family": "the family",
    "study_kind": "the kind of study",
    "variable": "the variable",
    "variable.levels": "the levels",
    "measure": "the measure",
    "measure.rule": "the measuring rule",
    "measure.timers": "the number of timers",
    "also": "the second measure",
    "could_change": "the ideas to change",
    "could_measure": "the ideas to measure",
    "hold": "what is kept the same",
    "repeats": "the repeats",
    "reserve": "the repeats in reserve",
    "practice": "the practice trials",
    "groups": "the groups",
    "people": "the people in a group",
    "prediction": "the prediction",
    "reason": "the reason",
    "expect": "the prediction's shape",
    "order": "the order of trials",
    "start_line": "the start line",
    "void_rule": "what voids a trial",
    "survival": "what counts as survived",
    "drop": "the drop plan",
    "evidence": "when a difference is real",
    "result": "what the result of a level is",
    "doubt": "how doubt is shown",
    "odd": "what is said of an odd reading",
    "timers_by": "how several timers become one",
    "compared": "how devices are compared",
    "within": "what the trials are compared within",
    "reading_level": "the reading level",
    "limits": "the limits",
    "timing": "times, lanes and adults",
    "rota": "the lesson",
    "materials": "the materials",
    "rules": "the rules",
    "guess": "what is expected",
}
#: Ways of judging: changed after the first kept trial they are recorded and told beside the verdict.
JUDGING = ("reserve", "evidence", "result", "doubt", "odd", "within", "timers_by")


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanChanged:
    """One thing that changed: its place in the draft, what it is called, and both values in words."""

    where: str
    name: str
    was: str
    now: str


def _said(value: Any) -> str:
    if value in ("", None, [], {}):
        return "nothing"
    if isinstance(value, list):
        return ", ".join(_said(v) for v in value)[:200]
    if isinstance(value, Mapping):
        return (
            ", ".join(f"{k.replace('_', ' ')} {_said(v)}" for k, v in value.items() if v not in ("", None, [], {}, False))[:200]
            or "nothing"
        )
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, float) else str(value)[:200]


def plan_changes(before: Draft, after: Draft) -> tuple[PlanChanged, ...]:
    """Every difference between two drafts, in the order of the plan."""
    old, new = before.model_dump(mode="json"), after.model_dump(mode="json")
    found: list[PlanChanged] = []
    for key, was in old.items():
        now = new[key]
        if was == now:
            continue
        if isinstance(was, dict) and isinstance(now, dict) and key in ("variable", "measure"):
            found += [
                PlanChanged(where=f"{key}.{k}", name=_WORDS.get(f"{key}.{k}", f"{_WORDS[key]}’s {k}"), was=_said(was[k]), now=_said(now[k]))
                for k in was
                if was[k] != now[k]
            ]
        else:
            found.append(PlanChanged(where=key, name=_WORDS[key], was=_said(was), now=_said(now)))
    return tuple(found)


def locked_by_trials(before: Draft, after: Draft) -> PlanChanged | None:
    """The first change that would make kept readings mean something else; None when the change is honest."""
    for change in plan_changes(before, after):
        if change.where in (
            "variable.name",
            "variable.kind",
            "variable.quantity",
            "variable.unit",
            "measure.quantity",
            "measure.unit",
            "family",
        ):
            return change
        if change.where in ("measure.rule", "survival", "study_kind") and change.was != "nothing":
            return change
    for name, was, now in _drop_parts(before, after):
        if was != now:
            return PlanChanged(where=f"drop.{name}", name=_WORDS["drop"], was=_said(was), now=_said(now))
    if before.also is not None and (
        after.also is None or (before.also.quantity, before.also.unit) != (after.also.quantity, after.also.unit)
    ):
        return PlanChanged(
            where="also", name=_WORDS["also"], was=before.also.name, now="nothing" if after.also is None else after.also.name
        )
    return None


def _drop_parts(before: Draft, after: Draft) -> list[tuple[str, Any, Any]]:
    if before.drop is None:
        return []
    if after.drop is None:
        return [("plan", before.drop.plan, None)]
    return [("plan", before.drop.plan, after.drop.plan), ("payload", before.drop.payload, after.drop.payload)]
