"""The server holds what the page holds: runs, turns, units, limits; whatever no longer fits is kept, shown and counted for nothing."""

from __future__ import annotations

import json
import threading
from typing import Any
from uuid import uuid4

import httpx
import psycopg
import pytest

from bendro.core.draft import Draft
from tests.conftest import DRAFT, Application, TeacherClient, new_study, open_run, read_of, texts_of, trial_body

pytestmark = pytest.mark.api


def put(teacher: TeacherClient, study: dict[str, Any], **change: Any) -> httpx.Response:
    return teacher.http.put(f"/api/studies/{study['id']}/trials/{change.pop('id', uuid4())}", json=trial_body(**change))


def study_now(teacher: TeacherClient, study: dict[str, Any]) -> dict[str, Any]:
    found: dict[str, Any] = teacher.ok("GET", f"/api/studies/{study['id']}")
    return found


def patch(teacher: TeacherClient, study: dict[str, Any], **change: Any) -> dict[str, Any]:
    now = study_now(teacher, study)
    body = {"version": now["version"], "draft": {**now["draft"], **change}}
    found: dict[str, Any] = teacher.ok("PATCH", f"/api/studies/{study['id']}", json=body)
    return found


# --- runs ------------------------------------------------------------------------------------------------------------


def test_no_trial_is_taken_before_an_adult_has_opened_a_run(teacher: TeacherClient) -> None:
    study = new_study(teacher, run=False)
    refused = put(teacher, study)
    assert (refused.status_code, refused.json()["code"]) == (422, "run_not_open")
    open_run(teacher, study)
    assert put(teacher, study).status_code == 200


def test_a_run_lapses_with_what_it_was_opened_for_and_is_asked_again(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    assert study["run"]["covers"] is True
    assert study["sign_off"]["covers"] is True  # opening the run read the cautions of this plan
    higher = patch(teacher, study, limits=[{"on": "variable", "name": "", "value": "20 cm"}])
    assert (higher["run"]["covers"], higher["sign_off"]["covers"]) == (False, False)
    known = put(teacher, study, plan_version=higher["version"])
    assert (known.status_code, known.json()["code"]) == (422, "run_lapsed")
    # written under the plan as it was when the run was opened, and arriving late
    assert put(teacher, study, plan_version=study["version"]).json()["place"] == "turn"
    again = open_run(teacher, higher)
    assert again["run"]["covers"] is True
    assert put(teacher, study, level="6", plan_version=again["version"]).status_code == 200


def test_an_adult_who_read_the_plan_as_it_was_has_not_read_it_as_it_is(teacher: TeacherClient) -> None:
    study = new_study(teacher, run=False)
    patch(teacher, study, variable={**DRAFT["variable"], "levels": ["4", "6", "11"]})
    assert open_run(teacher, study)["run"]["covers"] is False  # the tablet had shown the plan from before


def test_pressure_without_a_limit_is_neither_signed_off_nor_run(teacher: TeacherClient) -> None:
    variable = {"name": "gauge pressure", "kind": "number", "quantity": "pressure", "unit": "bar", "levels": ["1", "1.5", "9"]}
    study = new_study(teacher, family="rocket", variable=variable)
    body = {"id": str(uuid4()), "adult": "teacher", "cautions": study["cautions"]}
    for where, code in (("sign-off", "limit_missing"), ("runs", "plan_not_ready")):
        answer = teacher.http.post(f"/api/studies/{study['id']}/{where}", json=body)
        assert (answer.status_code, answer.json()["code"]) == (422, code)
        assert "Set your limit on gauge pressure" in answer.json()["detail"]


# --- turns, extra trials, and trials outside the plan ----------------------------------------------------------------


def test_the_same_turn_run_on_two_tablets_fills_one_turn(teacher: TeacherClient) -> None:
    study = new_study(teacher, variable={**DRAFT["variable"], "levels": ["4", "6"]}, repeats=2, limits=DRAFT["limits"])
    answers = [put(teacher, study, text=t, released_at=f"2026-05-04T10:0{i}:00Z").json() for i, t in enumerate(["4.1", "4.2", "4.3", "4.4"])]
    assert [a["place"] for a in answers] == ["turn", "extra", "extra", "extra"]
    now = study_now(teacher, study)
    assert (now["kept"], now["extra"], now["planned"], now["stage"]) == (1, 3, 4, "run")
    level = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")["levels"][0]
    assert level["n_kept"] == 4  # all four were released and read


@pytest.mark.parametrize(
    ("change", "why"),
    [({"level": "banana"}, "The plan has no such level."), ({"block": 40}, "The plan has fewer repeats.")],
)
def test_what_is_not_in_the_plan_is_kept_outside_it_and_counts_for_nothing(teacher: TeacherClient, change: dict[str, Any], why: str) -> None:
    study = new_study(teacher)
    put(teacher, study)
    before = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")["levels"]
    trial = str(uuid4())
    answer = put(teacher, study, id=trial, text="9.99", **change).json()
    assert (answer["place"], answer["why"]) == ("outside", why)
    now = study_now(teacher, study)
    assert (now["kept"], now["outside"]) == (1, 1)
    assert teacher.ok("GET", f"/api/studies/{study['id']}/analysis")["levels"] == before
    # placed by the teacher it counts
    placed = put(teacher, study, id=trial, text="4.44", level="6", revision=2, placed=True).json()
    assert placed["place"] == "turn"
    assert study_now(teacher, study)["kept"] == 2


def test_a_trial_that_reaches_a_finished_study_stands_outside_until_it_is_placed(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": study["version"], "finished": True})
    trial = str(uuid4())
    late = put(teacher, study, id=trial).json()
    assert (late["place"], late["why"]) == ("outside", "It came after the study was marked as finished.")
    assert put(teacher, study, id=trial, revision=2, placed=True).json()["place"] == "turn"


@pytest.mark.parametrize("year", ["0001", "9999"])
def test_a_clock_that_no_school_has_is_told_and_leaves_the_pages_standing(teacher: TeacherClient, year: str) -> None:
    study = new_study(teacher)
    answer = put(teacher, study, released_at=f"{year}-12-31T23:59:59Z")
    assert (answer.status_code, answer.json()["code"]) == (422, "release_year")
    assert teacher.ok("GET", f"/api/studies/{study['id']}/trials") == []
    assert put(teacher, study, released_at="1970-01-01T00:00:00Z").status_code == 200  # a tablet whose battery was flat


def test_levels_and_repeats_with_trials_stay_however_the_plan_is_typed(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    put(teacher, study, level="8", block=3)
    patch(teacher, study, variable={**DRAFT["variable"], "levels": ["4", "6", "8", ""]})
    now = study_now(teacher, study)
    for change, code in (
        ({"variable": {**DRAFT["variable"], "levels": ["4", "6", "9"]}}, "level_has_trials"),
        ({"variable": {**DRAFT["variable"], "levels": ["4", ""]}}, "level_has_trials"),
        ({"repeats": 2}, "repeat_has_trials"),
    ):
        answer = teacher.http.patch(f"/api/studies/{study['id']}", json={"version": now["version"], "draft": {**now["draft"], **change}})
        assert (answer.status_code, answer.json()["code"]) == (409, code)


# --- units -----------------------------------------------------------------------------------------------------------


def test_a_trial_keeps_the_unit_under_which_it_was_written(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    patch(teacher, study, measures=[{**DRAFT["measures"][0], "unit": "cm"}])
    kept = put(teacher, study, text="4.52", unit="m").json()
    assert (kept["readings"][0]["unit"], texts_of(kept), read_of(kept)["value"]) == ("m", ["4.52"], 452.0)
    assert put(teacher, study, text="4.52", unit="s").json()["code"] == "reading_unit"
    assert "4.52 m" in teacher.ok("GET", f"/api/studies/{study['id']}/trials.csv")


def test_metres_never_become_centimetres_while_somebody_changes_the_plan(teacher: TeacherClient) -> None:
    values = set()
    for _ in range(12):
        study = new_study(teacher)
        to_cm = {"version": study["version"], "draft": {**study["draft"], "measures": [{**study["draft"]["measures"][0], "unit": "cm"}]}}
        threads = [
            threading.Thread(target=lambda s=study: put(teacher, s, text="4.52", unit="m")),
            threading.Thread(target=lambda s=study, b=to_cm: teacher.http.patch(f"/api/studies/{s['id']}", json=b)),
        ]
        for t in threads:
            t.start()
        for t in threads:
            t.join()
        unit = study_now(teacher, study)["draft"]["measures"][0]["unit"]
        (trial,) = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
        values.add((unit, read_of(trial)["value"]))
    assert values <= {("m", 4.52), ("cm", 452.0)}


def test_what_an_earlier_program_sent_is_the_same_when_it_is_sent_again(app: Application, teacher: TeacherClient) -> None:
    """Keys that a newer program adds to a trial are no clash with the older one's history."""
    study, trial = new_study(teacher), str(uuid4())
    put(teacher, study, id=trial)
    with psycopg.connect(app.database(), autocommit=True) as connection:
        connection.execute("update event set body = body - 'device' - 'placed' - 'conditions' where subject = %s", (trial,))
    assert put(teacher, study, id=trial).status_code == 200
    assert put(teacher, study, id=trial, text="9.9").status_code == 409


# --- looking before keeping, and the list of trials ------------------------------------------------------------------


def test_a_reading_that_is_out_of_line_is_asked_about_with_the_slip(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    for i, text in enumerate(["4.2", "4.4", "4.6"]):
        put(teacher, study, text=text, block=i + 1)
    assert study_now(teacher, study)["usual"]["m1"]["anywhere"]["high"] == pytest.approx(23.0)

    def asks(text: str) -> str | None:
        found = teacher.ok("POST", f"/api/studies/{study['id']}/readings", json={"measure": "m1", "texts": [text], "unit": "m"})["questions"]
        return found[0]["says"] if found else None

    assert asks("4.5") is None
    assert "centimetres written as metres" in str(asks("452"))
    assert "far from the others" in str(asks("99999"))


def test_three_timers_are_looked_at_together(teacher: TeacherClient) -> None:
    measure = {"name": "fall time", "quantity": "time", "unit": "s", "rule": "r", "timers": 3}
    study = new_study(teacher, measures=[measure], timers_by="mean")
    body = {"measure": "m1", "texts": ["2.10", "2.14", "12.1"], "unit": "s"}
    found = teacher.ok("POST", f"/api/studies/{study['id']}/readings", json=body)
    assert found["reading"]["value"] == pytest.approx(5.4467, abs=1e-4)
    assert "12.1 s stands apart" in found["questions"][0]["says"]
    put(teacher, study, texts=body["texts"], unit="s")
    put(teacher, study, texts=["2.1", "2.2", "2.3"], unit="s", block=2, released_at="2026-05-04T10:01:00Z")
    audit = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")["audit"]
    told = next(f for f in audit if f["code"] == "timers_apart")
    assert told["act"] == {"kind": "trials", "rows": [1], "column": None, "where": None, "more": None}


def test_every_change_to_a_trial_stands_in_its_history_with_its_time(teacher: TeacherClient) -> None:
    study, trial = new_study(teacher), str(uuid4())
    put(teacher, study, id=trial, text="4.4")
    put(teacher, study, id=trial, text="4.5", revision=2, note="read again")
    put(teacher, study, id=trial, text="4.5", revision=3, state="void", fault="frame lifted")
    put(teacher, study, id=trial, text="4.5", revision=4)
    history = teacher.ok("GET", f"/api/studies/{study['id']}/trials/{trial}/history")
    assert [(c["state"], c["readings"][0]["texts"], c["fault"]) for c in history] == [
        ("kept", ["4.4"], ""),
        ("kept", ["4.5"], ""),
        ("void", ["4.5"], "frame lifted"),
        ("kept", ["4.5"], ""),
    ]
    times = [c["received_at"] for c in history]
    assert times == sorted(times)
    other = new_study(teacher)
    assert teacher.http.get(f"/api/studies/{other['id']}/trials/{trial}/history").json()["code"] == "trial_elsewhere"


def test_the_person_is_known_only_when_someone_said_so(teacher: TeacherClient) -> None:
    """Groups meet levels unevenly here; nobody is named, so nobody is scolded. In a contest each group has its own device."""
    study = new_study(teacher, repeats=3)
    for block in (1, 2, 3):
        for level, text in (("4", "4.1"), ("6", "5.1")):
            put(teacher, study, level=level, block=block, text=text, group="Red" if level == "4" else "Blue")
    audit = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")["audit"]
    assert "person_mixed_with_level" not in [f["code"] for f in audit]
    assert all(t["person"] == "" for t in teacher.ok("GET", f"/api/studies/{study['id']}/trials"))


def test_trials_are_compared_within_groups_when_the_audit_advises_it(teacher: TeacherClient) -> None:
    study = new_study(teacher, variable={"name": "runner", "kind": "name", "levels": ["card", "felt"]}, repeats=4)
    for block in range(1, 5):
        for group, base in (("Red", 2.0), ("Blue", 4.0)):
            for level, more in (("card", 0.0), ("felt", 0.3)):
                text = f"{base + more + 0.01 * block:.2f}"
                put(teacher, study, level=level, block=block, group=group, text=text)
    found = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")
    told = next(f for f in found["audit"] if f["code"] == "column_explains_scatter")
    assert (told["act"]["kind"], told["act"]["column"]) == ("within", "group")
    patch(teacher, study, within="group")
    again = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")
    assert again["effect"]["kind"] == "paired"
    assert again["effect"]["difference"]["estimate"] == pytest.approx(0.3)
    assert "judging_changed" in [f["code"] for f in again["audit"]]


# --- plans that cannot be read ---------------------------------------------------------------------------------------


def test_a_plan_with_a_retired_field_stands_alone_and_can_be_taken_out(app: Application, teacher: TeacherClient) -> None:
    good, bad = new_study(teacher, "Good"), new_study(teacher, "Old")
    with psycopg.connect(app.database(), autocommit=True) as connection:
        connection.execute("update study set draft = draft || '{\"wind_rose\": 3}' where id = %s", (bad["id"],))
    lines = {s["title"]: s for s in teacher.ok("GET", "/api/studies")}
    assert lines["Good"]["readable"] is True
    assert (lines["Old"]["readable"], lines["Old"]["next_act"]) == (False, "Take its plan out as a file")
    assert "wind_rose cannot be read" in lines["Old"]["missing"]
    assert teacher.http.get(f"/api/studies/{bad['id']}").json()["code"] == "plan_unreadable"
    form = teacher.ok("GET", f"/api/studies/{bad['id']}/plan.json")
    assert form["draft"]["wind_rose"] == 3
    assert teacher.ok("GET", f"/api/studies/{good['id']}")["title"] == "Good"


def test_a_plan_of_the_first_version_is_brought_up(app: Application, teacher: TeacherClient) -> None:
    study = new_study(teacher)
    old = {**study["draft"], "limits": [{"name": "Pull-back", "value": "12 cm"}]}
    with psycopg.connect(app.database(), autocommit=True) as connection:
        connection.execute("update study set draft = %s where id = %s", (json.dumps(old), study["id"]))
    now = study_now(teacher, study)
    assert now["draft"]["limits"] == [{"on": "variable", "name": "", "value": "12 cm"}]
    assert now["limits_said"] == ["pull-back: never above 12 cm"]


# --- every field of a plan is saved, and the record names it ---------------------------------------------------------

OTHER: dict[str, Any] = {
    "question": "Another?", "class_label": "9 Teal", "family": "glider", "study_kind": "contest", "asked_by": "teacher", "could_change": ["a"],
    "could_measure": ["b"], "variable": {**DRAFT["variable"], "levels": ["5", "7"]}, "measures": [{**DRAFT["measures"][0], "rule": "To rest."}],
    "year": "2026", "rank": "cheapest", "second": {"name": "band", "kind": "name", "levels": ["thin", "thick"]}, "derived": [{"name": "speed"}], "payloads": ["one"], "margin": "1 m", "hold": [{"name": "projectile", "how": "one bag"}], "repeats": 4, "reserve": 2, "practice": 2,
    "groups": ["Owl"], "people": 4, "prediction": "Nearer.", "reason": "Because.", "expect": "falls", "order": "random", "start_line": "Tape",
    "void_rule": "Bounce", "survival": "hairline", "drop": {"plan": "one_height", "heights": ["2"]}, "evidence": "interval", "result": "median",
    "doubt": "sd", "odd": "quiet", "timers_by": "mean", "compared": "side_by_side", "within": "block", "reading_level": "senior",
    "limits": [{"on": "variable", "value": "11 cm"}], "timing": {"lanes": 2}, "rota": {"rounds": 3}, "guess": {"first": "2 m"},
    "materials": {"spare": 3}, "rules": {"budget": "20"}, "templates": {"device": "hoops", "sizes": [{"name": "overlap", "value": "2 cm"}]}, "decided": {"change": "wing shape", "why": "It flutters."},
}  # fmt: skip


@pytest.mark.parametrize("field", list(Draft.model_fields))
def test_every_field_of_a_plan_is_saved_and_named_in_the_record(teacher: TeacherClient, field: str) -> None:
    study = new_study(teacher, run=False)
    now = patch(teacher, study, **{field: OTHER[field]})
    assert now["draft"][field] != study["draft"][field]
    (change,) = teacher.ok("GET", f"/api/studies/{study['id']}/changes")
    assert [c["where"].split(".")[0] for c in change["changes"]] == [field]
    assert all(c["name"].startswith("the ") or c["name"].startswith(("what ", "when ", "how ", "who ", "times")) for c in change["changes"])
