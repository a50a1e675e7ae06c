"""A save that goes the shortest road is judged by what the save before it saw, and only while all of that still stands."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import httpx
import psycopg
import pytest

from tests.conftest import DRAFT, Application, TeacherClient, new_study, open_run, trial_body

pytestmark = pytest.mark.api


def save(teacher: TeacherClient, study: dict[str, Any], level: str = "4", **change: Any) -> httpx.Response:
    return teacher.http.put(f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body(level, **change))


@pytest.fixture
def study(teacher: TeacherClient) -> dict[str, Any]:
    """A study of which a trial has just been saved, so that the next one is judged by what is known."""
    made = new_study(teacher)
    assert save(teacher, made, block=3).json()["place"] == "turn"
    return made


def test_numbers_and_places_are_those_of_the_whole_record(teacher: TeacherClient, study: dict[str, Any]) -> None:
    told = [save(teacher, study, "6", block=b, released_at=f"2026-05-04T10:{m}:00Z").json() for b, m in ((1, "40"), (2, "20"), (1, "30"), (9, "50"))]
    assert [(t["number"], t["place"]) for t in told] == [(2, "turn"), (2, "turn"), (3, "extra"), (5, "outside")]
    stands = {t["id"]: (t["number"], t["place"]) for t in teacher.ok("GET", f"/api/studies/{study['id']}/trials")}
    assert [stands[t["id"]] for t in told] == [(4, "turn"), (2, "turn"), (3, "extra"), (5, "outside")]


def test_a_plan_that_was_changed_meanwhile_judges_the_next_trial(teacher: TeacherClient, study: dict[str, Any]) -> None:
    now = teacher.ok("GET", f"/api/studies/{study['id']}")
    variable = {**DRAFT["variable"], "levels": ["4", "6"]}
    teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": now["version"], "draft": {**now["draft"], "variable": variable}})
    assert (save(teacher, study, "8").json()["place"], save(teacher, study, "6").json()["place"]) == ("outside", "turn")


def test_a_study_that_was_finished_meanwhile_takes_the_next_trial_outside_its_plan(teacher: TeacherClient, study: dict[str, Any]) -> None:
    now = teacher.ok("GET", f"/api/studies/{study['id']}")
    teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": now["version"], "finished": True})
    told = save(teacher, study).json()
    assert (told["place"], "finished" in told["why"]) == ("outside", True)


def test_a_run_that_lapsed_meanwhile_is_asked_for_again(teacher: TeacherClient, study: dict[str, Any]) -> None:
    now = teacher.ok("GET", f"/api/studies/{study['id']}")
    changed = teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": now["version"], "draft": {**now["draft"], "limits": [{"on": "variable", "name": "", "value": "11 cm"}]}})
    assert save(teacher, study, plan_version=changed["version"]).json()["code"] == "run_lapsed"
    open_run(teacher, changed)
    assert save(teacher, study, plan_version=changed["version"]).status_code == 200


def test_whoever_signed_out_meanwhile_writes_nothing_more(app: Application, teacher: TeacherClient, study: dict[str, Any]) -> None:
    token = dict(teacher.http.cookies)
    teacher.http.delete("/api/session").raise_for_status()
    with httpx.Client(base_url=app.url, cookies=token, timeout=60) as gone:
        answer = gone.put(f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body(conditions={"fan": "2"}))
    assert (answer.status_code, answer.json()["code"]) == (401, "not_signed_in")
    with psycopg.connect(app.database()) as database:
        for table, kept in (("trial", 1), ("conditions", 0)):
            assert database.execute(f"select count(*) from {table} where study_id = %s", (study["id"],)).fetchone() == (kept,)


def test_a_trial_sent_twice_on_the_shortest_road_is_one(teacher: TeacherClient, study: dict[str, Any]) -> None:
    one = f"/api/studies/{study['id']}/trials/{uuid4()}"
    answers = [teacher.http.put(one, json=trial_body("6", block=2, released_at="2026-05-04T10:30:00Z")) for _ in range(3)]
    assert {(a.status_code, a.json()["place"], a.json()["number"]) for a in answers} == {(200, "turn", 2)}
    assert len(teacher.ok("GET", f"/api/studies/{study['id']}/trials")) == 2
