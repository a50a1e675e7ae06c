"""A study copied for another class, and a plan as an open JSON form, out and in."""

from __future__ import annotations

import json
from collections.abc import Sequence
from datetime import datetime
from typing import Any
from uuid import UUID

from pydantic import ValidationError

from bendro.core.planning.draft import Draft
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .errors import Refused
from .studies import make_study

FORM, FORM_VERSION = "bendro-plan", 1
MOST_BYTES = 1_000_000


def copy_study(owned: Owned, study_id: UUID, *, copy_id: UUID, title: str, groups: Sequence[str] | None, now: datetime) -> Study:
    """The study's plan as a new one without its trials. The prediction is left out: another class makes its own. groups None:
    the same labels. The same copy_id again gives the first copy."""
    draft = Draft.model_validate(owned.get(Study, study_id).draft)
    fresh = draft.model_copy(update={"prediction": "", "reason": "", "expect": "", **({} if groups is None else {"groups": list(groups)})})
    return make_study(owned, study_id=copy_id, title=title, draft=Draft.model_validate(fresh.model_dump()), now=now)


def plan_form(owned: Owned, study_id: UUID) -> dict[str, Any]:
    """The plan as the open JSON form: what it is, which version of the form, the title and the draft."""
    study = owned.get(Study, study_id)
    return {"form": FORM, "version": FORM_VERSION, "title": study.title, "draft": Draft.model_validate(study.draft).model_dump(mode="json")}


def study_from_form(owned: Owned, text: str, *, study_id: UUID, title: str, now: datetime) -> Study:
    """A new study from a plan's JSON form. Raises Refused with the place at fault."""
    if len(text.encode()) > MOST_BYTES:
        raise Refused(f"A plan has at most {MOST_BYTES / 1e6:.0f} MB.", code="plan_form_large", where="file")
    try:
        found = json.loads(text.removeprefix("\ufeff"))
    except (json.JSONDecodeError, RecursionError) as why:
        line = getattr(why, "lineno", 1)
        raise Refused(f"This is not a plan in JSON: line {line} cannot be read.", code="plan_form_unreadable", where="file") from why
    if not isinstance(found, dict) or found.get("form") != FORM:
        raise Refused(f"This is JSON, but not a plan: it does not say “form”: “{FORM}”.", code="plan_form_other", where="file")
    if found.get("version") != FORM_VERSION:
        raise Refused(
            f"This plan is in version {str(found.get('version'))[:20]} of the form; version {FORM_VERSION} can be read.",
            code="plan_form_version",
            where="file",
        )
    try:
        draft = Draft.model_validate(found.get("draft", {}))
    except ValidationError as why:
        first = why.errors()[0]
        place = ".".join(str(p) for p in first["loc"]) or "draft"
        raise Refused(f"In the plan, {place} cannot be read: {first['msg'][:120]}.", code="plan_form_bad", where=place) from why
    return make_study(owned, study_id=study_id, title=title.strip() or str(found.get("title", ""))[:120], draft=draft, now=now)
