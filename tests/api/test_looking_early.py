"""How sure the verdict must be while trials are still to come, when they were added, and when a reserve was agreed."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import pytest

from tests.conftest import DRAFT, TeacherClient, new_study, trial_body

pytestmark = pytest.mark.api


def run_blocks(teacher: TeacherClient, study: dict[str, Any], blocks: range) -> dict[str, Any]:
    """Trials of these blocks, and the verdict then."""
    for block in blocks:
        for n, level in enumerate(("4", "6", "8")):
            text = f"{4 + n * 0.3 + (block * 7 + n * 5) % 4 * 0.05:.2f}"
            at = f"2026-05-04T10:{block:02d}:{(n * 7 + block * 3) % 50:02d}Z"
            teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body(level, text, block=block, released_at=at))
    verdict: dict[str, Any] = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")["verdict"]
    return verdict


def repeats(teacher: TeacherClient, study: dict[str, Any], **change: Any) -> None:
    now = teacher.ok("GET", f"/api/studies/{study['id']}")
    teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": now["version"], "draft": {**now["draft"], **change}})


def test_so_far_until_the_plan_is_complete_and_stricter_when_trials_are_added(teacher: TeacherClient) -> None:
    study = new_study(teacher, order="blocks")
    early = run_blocks(teacher, study, range(1, 3))
    assert (early["so_far"], early["says"][:6]) == (True, "So far")
    assert "still planned" in early["next"]
    whole = run_blocks(teacher, study, range(3, 4))
    assert (whole["so_far"], whole["beside"]) == (False, None)
    repeats(teacher, study, repeats=4)
    assert teacher.ok("GET", f"/api/studies/{study['id']}/analysis")["verdict"]["so_far"] is True
    added = run_blocks(teacher, study, range(4, 5))
    assert "rarer than 1 in 100" in added["beside"]


def test_a_reserve_that_was_agreed_beforehand_costs_less(teacher: TeacherClient) -> None:
    study = new_study(teacher, order="blocks", reserve=1)
    assert "rarer than 4 in 100" in run_blocks(teacher, study, range(1, DRAFT["repeats"] + 1))["beside"]
    repeats(teacher, study, repeats=DRAFT["repeats"] + 1)
    assert "rarer than 2 in 100" in run_blocks(teacher, study, range(4, 5))["beside"]
    repeats(teacher, study, repeats=DRAFT["repeats"] + 2)
    assert "rarer than 1 in 100" in run_blocks(teacher, study, range(5, 6))["beside"]


def test_a_reserve_agreed_only_after_the_first_trial_is_none(teacher: TeacherClient) -> None:
    study = new_study(teacher, order="blocks")
    run_blocks(teacher, study, range(1, 4))
    repeats(teacher, study, reserve=5)
    repeats(teacher, study, repeats=4)
    verdict = run_blocks(teacher, study, range(4, 5))
    assert "rarer than 1 in 100" in verdict["beside"]


def test_design_rounds_are_whole_when_the_two_newest_versions_are(teacher: TeacherClient) -> None:
    variable = {"name": "version", "kind": "name", "quantity": "number", "unit": "", "levels": ["1", "2", "3"]}
    study = new_study(teacher, variable=variable, study_kind="design_rounds", expect="")
    for block in range(1, 4):
        for level, base in (("1", 4.0), ("2", 5.0)):
            body = trial_body(level, f"{base + block / 10:.1f}", block=block, released_at=f"2026-05-04T10:{block:02d}:{int(level):02d}Z")
            teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=body)
    verdict = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")["verdict"]
    assert verdict["so_far"] is False  # version 3 comes when it is built
