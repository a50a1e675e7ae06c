"""What changed between two drafts of a plan, in words, and what may no longer change once trials are kept."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..draft import Draft, VariableDraft
from .choices import label_of

_WORDS = {
    "question": "the question",
    "class_label": "the class",
    "year": "the year",
    "asked_by": "who sets the question",
    "family": "the family",
    "study_kind": "the kind of study",
    "variable": "the variable",
    "variable.levels": "the levels",
    "second": "the second variable",
    "measures": "the measures",
    "measures.rule": "the measuring rule",
    "measures.timers": "the number of timers",
    "measures.survived": "what counts as survived",
    "derived": "what is worked out",
    "payloads": "the payloads",
    "margin": "the margin",
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
    "expect": "the prediction’s shape",
    "order": "the order of trials",
    "start_line": "the start line",
    "void_rule": "what voids a trial",
    "survival": "what counts as survived",
    "drop": "the drop plan",
    "evidence": "when a difference is real",
    "result": "what the result of a level is",
    "doubt": "how doubt is shown",
    "rank": "what places go by",
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
    "templates": "the templates",
    "guess": "what is expected",
    "decided": "what was decided",
}
#: Ways of judging: changed after the first kept trial they are recorded and told beside the verdict.
JUDGING = ("reserve", "evidence", "result", "rank", "doubt", "odd", "within", "timers_by")


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


def _chosen(field: str, value: Any) -> str:
    return label_of(field, value, _said(value)) if isinstance(value, str) else _said(value)


def plan_changes(before: Draft, after: Draft) -> tuple[PlanChanged, ...]:
    """Every difference between two drafts, in the order of the plan."""
    old, new = before.model_dump(mode="json"), after.model_dump(mode="json")
    found: list[PlanChanged] = []
    for key, was in old.items():
        now = new[key]
        if was == now:
            continue
        if key == "variable":
            found += [
                PlanChanged(where=f"{key}.{k}", name=_WORDS.get(f"{key}.{k}", f"the variable’s {k}"), was=_said(was[k]), now=_said(now[k]))
                for k in was
                if was[k] != now[k] and k != "level_ids"
            ]
        elif key == "measures":
            found += _measure_changes(was, now)
        else:
            found.append(PlanChanged(where=key, name=_WORDS[key], was=_chosen(key, was), now=_chosen(key, now)))
    return tuple(found)


def _measure_changes(was: list[dict[str, Any]], now: list[dict[str, Any]]) -> list[PlanChanged]:
    """Measures are known by their identity; their place in the list and each of their parts may change."""
    old, new = {m["id"]: m for m in was}, {m["id"]: m for m in now}
    found = []
    for at, (one, before) in enumerate(old.items()):
        what = "the measure" if at == 0 else f"“{before['name']}”"
        after = new.get(one)
        if after is None:
            found.append(PlanChanged(where=f"measures.{at}", name=what, was=before["name"] or "a measure", now="nothing"))
            continue
        for k in before:
            if before[k] != after[k]:
                name = _WORDS.get(f"measures.{k}", "the measure" if k == "name" else f"{what}’s {k.replace('_', ' ')}")
                found.append(PlanChanged(where=f"measures.{at}.{k}", name=name, was=_said(before[k]), now=_said(after[k])))
    for one, after in new.items():
        if one not in old:
            found.append(PlanChanged(where=f"measures.{list(new).index(one)}", name="a further measure", was="nothing", now=after["name"] or "a measure"))
    if [i for i in old if i in new] != [i for i in new if i in old]:
        found.append(PlanChanged(where="measures", name="the order of measures", was=_said([m["name"] for m in was]), now=_said([m["name"] for m in now])))
    return found


def locked_by_trials(before: Draft, after: Draft) -> PlanChanged | None:
    """The first change that would make kept readings mean something else; None when the change is honest."""
    for change in plan_changes(before, after):
        if change.where in (
            "variable.name",
            "variable.kind",
            "variable.quantity",
            "variable.unit",
            "family",
            "measures",
        ) or (change.where == "second" and (before.second is None or after.second is None or _meaning(before.second) != _meaning(after.second))):
            return change
        if change.where == "study_kind" or (change.where == "survival" and before.survival):
            return change
    fixed = _measures_locked(before, after)
    if fixed is not None:
        return fixed
    for name, was, now in _drop_parts(before, after):
        if was != now:
            return PlanChanged(where=f"drop.{name}", name=_WORDS["drop"], was=_said(was), now=_said(now))
    return None


def _meaning(variable: VariableDraft) -> tuple[str, ...]:
    return variable.name, variable.kind, variable.quantity, variable.unit


def _measures_locked(before: Draft, after: Draft) -> PlanChanged | None:
    """The first change of a measure under which a kept reading would mean something else. Another name, or another unit of the same
    quantity, changes no reading; an outcome scale may gain words."""
    for at, old in enumerate(before.measures):
        new = after.measure_of(old.id)
        where, what = f"measures.{at}", "the measure" if at == 0 else f"“{old.name}”"
        if new is None:
            return PlanChanged(where=where, name=what, was=old.name or "a measure", now="nothing")
        for part in ("quantity", "scale", "edge"):
            if getattr(old, part) != getattr(new, part):
                return PlanChanged(where=f"{where}.{part}", name=f"{what}’s {part}", was=_said(getattr(old, part)), now=_said(getattr(new, part)))
        if old.rule.strip() and old.rule != new.rule:
            return PlanChanged(where=f"{where}.rule", name=_WORDS["measures.rule"], was=_said(old.rule), now=_said(new.rule))
        if [w for w in new.words if w in old.words] != old.words:
            return PlanChanged(where=f"{where}.words", name="the outcomes", was=_said(old.words), now=_said(new.words))
        line = (old.words[: old.survived], [w for w in new.words[: new.survived] if w in old.words])
        if old.survived and line[0] != line[1]:
            return PlanChanged(where=f"{where}.survived", name=_WORDS["measures.survived"], was=_said(line[0]), now=_said(new.words[: new.survived]))
        if old.zones and old.zones != new.zones:
            return PlanChanged(where=f"{where}.zones", name="the zones", was=f"{len(old.zones)} zones", now=f"{len(new.zones)} zones, otherwise")
    return None


def _drop_parts(before: Draft, after: Draft) -> list[tuple[str, Any, Any]]:
    if before.drop is None:
        return []
    if after.drop is None:
        return [("plan", before.drop.plan, None)]
    return [("plan", before.drop.plan, after.drop.plan), ("payload", before.drop.payload, after.drop.payload)]
