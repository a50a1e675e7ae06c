"""A study's plan as it is stored, read back whatever version wrote it."""

from __future__ import annotations

import json
from collections.abc import Mapping
from functools import lru_cache
from typing import Any

from bendro.core.draft import Draft
from bendro.core.planning.upgrade import read_plan
from bendro.store.tables import Study


def plan_in(stored: Mapping[str, Any]) -> Draft:
    """A plan as it was stored. Raises PlanRefused `plan_newer` or `plan_unreadable`."""
    return _read(json.dumps(stored))


def plan_of(study: Study) -> Draft:
    """The plan of a study. Raises PlanRefused `plan_newer` or `plan_unreadable`."""
    return plan_in(study.draft)


@lru_cache(maxsize=512)
def _read(text: str) -> Draft:
    """The very same plan for the same text: what follows from it is remembered by its identity. A class of one lesson reads few plans many
    times."""
    return read_plan(json.loads(text))
