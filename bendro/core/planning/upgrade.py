"""A stored plan read back: plans carry the version of their form, and older ones are brought up step by step."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from pydantic import ValidationError

from ..draft import Draft
from ..errors import PlanRefused

#: Version of the form that this program writes. 1: limits bound by words; 2: limits bound to a quantity by its identity;
#: 3: an ordered list of measures in place of one and a second.
PLAN_VERSION = 3
_KEY = "schema_version"

#: Words by which version 1 bound a limit to a variable whose name held one of them.
_WORDS_OF_1 = {
    "pressure": ("pressure",),
    "height": ("drop height", "ramp height", "height"),
    "pull-back": ("pull-back", "stretch"),
    "counterweight": ("counterweight",),
    "speed": ("push speed", "speed"),
    "fan setting": ("fan setting",),
}


def _plain(text: Any) -> str:
    return " ".join(str(text or "").casefold().split())


def _bind_limits(plan: dict[str, Any]) -> dict[str, Any]:
    """Version 1 to 2: a limit that bound by its words binds to the same quantity by identity; one that bound nothing says so."""
    variable = _plain((plan.get("variable") or {}).get("name"))
    limits = []
    for limit in plan.get("limits") or []:
        name = _plain(limit.get("name"))
        words = (name, *_WORDS_OF_1.get(name, ()))
        if name and any(w in variable for w in words):
            limits.append({"on": "variable", "name": "", "value": limit.get("value", "")})
        elif name and plan.get("drop") is not None and any(w in "drop height" for w in words):
            limits.append({"on": "rungs", "name": "", "value": limit.get("value", "")})
        else:
            held = next((h.get("name", "") for h in plan.get("hold") or [] if name and any(w in _plain(h.get("name")) for w in words)), "")
            limits.append({"on": "held" if held else "", "name": held or limit.get("name", ""), "value": limit.get("value", "")})
    return {**plan, "limits": limits}


def _list_measures(plan: dict[str, Any]) -> dict[str, Any]:
    """Version 2 to 3: the measure and the second one become the first two of a list, known as m1 and m2."""
    one, two = plan.pop("measure", None), plan.pop("also", None)
    return {**plan, "measures": [{**(one or {}), "id": "m1"}, *([{**two, "id": "m2"}] if two else [])]}


UPGRADES: Mapping[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: _bind_limits, 2: _list_measures}


def read_plan(stored: Mapping[str, Any]) -> Draft:
    """The draft in a stored plan of any version up to this program's. Raises PlanRefused `plan_newer` or `plan_unreadable`, with
    the place at fault."""
    plan = dict(stored)
    version = plan.pop(_KEY, 1)
    if not isinstance(version, int) or not 1 <= version <= PLAN_VERSION:
        raise PlanRefused(
            f"This plan is in version {str(version)[:20]} of its form; this program reads up to version {PLAN_VERSION}. Take it out as a "
            "file and open it with the newer program.",
            code="plan_newer",
            where=_KEY,
        )
    try:
        for step in range(version, PLAN_VERSION):
            plan = UPGRADES[step](plan)
        return Draft.model_validate(plan)
    except ValidationError as why:
        first = why.errors()[0]
        place = ".".join(str(p) for p in first["loc"]) or "plan"
        raise PlanRefused(f"In the plan, {place} cannot be read: {first['msg'][:120]}.", code="plan_unreadable", where=place) from why
    except (AttributeError, KeyError, TypeError) as why:
        raise PlanRefused("The plan is not in a form that can be read.", code="plan_unreadable", where="plan") from why


def read_told(told: Mapping[str, Any]) -> Draft:
    """The draft in a plan as the pages were told it, which carries no version of its form: that is known by what stands in it. Raises as read_plan."""
    if _KEY in told:
        return read_plan(told)
    limits = told.get("limits") or []
    bound = all("on" in limit for limit in limits if isinstance(limit, Mapping))
    return read_plan({_KEY: 3 if "measures" in told else 2 if bound else 1, **told})


def write_plan(draft: Draft) -> dict[str, Any]:
    """The draft as it is stored, with the version of its form."""
    return {_KEY: PLAN_VERSION, **draft.model_dump(mode="json")}
