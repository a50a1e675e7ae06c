"""A study copied for another class, and a plan as an open JSON form, out and in."""

from __future__ import annotations

import json
from collections.abc import Sequence
from datetime import datetime
from typing import Any
from uuid import UUID

from bendro.core.draft import FROM_TABLE, DecidedDraft, Draft, storable
from bendro.core.errors import PlanRefused
from bendro.core.planning.upgrade import PLAN_VERSION, read_plan, write_plan
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .errors import Refused
from .plans import plan_of
from .studies import make_study

FORM = "bendro-plan"
MOST_BYTES = 1_000_000


def copy_study(owned: Owned, study_id: UUID, *, copy_id: UUID, title: str, groups: Sequence[str] | None, class_label: str | None = None, now: datetime) -> Study:
    """The study's plan as a new one without its trials. The prediction and what was decided are left out: another class makes its own. groups,
    class_label None: the same. How a table that was read in was run and read is no plan for the next class: it shuffles, and agrees on its
    own rule. The same copy_id again gives the first copy."""
    draft = plan_of(owned.get(Study, study_id))
    fresh = draft.model_copy(update={"prediction": "", "reason": "", "expect": "", "decided": DecidedDraft(), **({} if groups is None else {"groups": list(groups)}), **({} if class_label is None else {"class_label": class_label})})
    if any(m.rule == FROM_TABLE for m in fresh.measures):
        fresh = fresh.model_copy(update={"order": Draft().order, "measures": [m.model_copy(update={"rule": ""}) if m.rule == FROM_TABLE else m for m in fresh.measures]})
    return make_study(owned, study_id=copy_id, title=title, draft=Draft.model_validate(fresh.model_dump()), now=now)


def plan_form(owned: Owned, study_id: UUID) -> dict[str, Any]:
    """The plan as the open JSON form: what it is, which version of the form, the title and the draft."""
    study = owned.get(Study, study_id)
    try:
        plan = write_plan(plan_of(study))
    except PlanRefused:  # one that cannot be read goes out as it lies there, so that nothing of it is lost
        plan = dict(study.draft)
    return {"form": FORM, "version": plan.pop("schema_version", 1), "title": study.title, "draft": plan}


def form_of(draft: Draft, title: str) -> dict[str, Any]:
    """Any plan as the open JSON form."""
    plan = write_plan(draft)
    return {"form": FORM, "version": plan.pop("schema_version", 1), "title": title, "draft": plan}


def study_from_form(owned: Owned, text: str, *, study_id: UUID, title: str, now: datetime) -> Study:
    """A new study from a plan's JSON form. Raises Refused with the place at fault."""
    draft, own_title = read_form(text)
    return make_study(owned, study_id=study_id, title=title.strip() or own_title, draft=draft, now=now)


def read_form(text: str) -> tuple[Draft, str]:
    """The plan of a JSON form, and the title that stands in it. Raises Refused with the place at fault."""
    if len(text) > MOST_BYTES:
        raise Refused(f"A plan has at most {MOST_BYTES / 1e6:.0f} MB.", code="plan_form_large", where="file")
    try:
        found = storable(json.loads(text.removeprefix("\ufeff")))
    except (json.JSONDecodeError, RecursionError) as why:
        line = getattr(why, "lineno", 1)
        raise Refused(f"This is not a plan in JSON: line {line} cannot be read.", code="plan_form_unreadable", where="file") from why
    except ValueError as why:  # a number of thousands of digits, a zero byte, half a character
        raise Refused(
            "There is a number or a character in this file that no plan holds. Open it in a text editor and take it out.",
            code="plan_form_unreadable",
            where="file",
        ) from why
    if not isinstance(found, dict) or found.get("form") != FORM:
        raise Refused(f"This is JSON, but not a plan: it does not say “form”: “{FORM}”.", code="plan_form_other", where="file")
    version, plan = found.get("version"), found.get("draft", {})
    if not isinstance(version, int) or not 1 <= version <= PLAN_VERSION:
        raise Refused(
            f"This plan is in version {str(version)[:20]} of the form; versions up to {PLAN_VERSION} can be read.",
            code="plan_form_version",
            where="file",
        )
    try:
        draft = read_plan({**(plan if isinstance(plan, dict) else {"draft": plan}), "schema_version": version})
    except PlanRefused as why:
        raise Refused(why.says, code="plan_form_bad", where=why.where) from why
    return draft, str(found.get("title", ""))[:120]
