"""A study's plan as it is stored, read back whatever version wrote it."""

from __future__ import annotations

from bendro.core.planning.draft import Draft
from bendro.core.planning.upgrade import read_plan
from bendro.store.tables import Study


def plan_of(study: Study) -> Draft:
    """The plan of a study. Raises PlanRefused `plan_newer` or `plan_unreadable`."""
    return read_plan(study.draft)
