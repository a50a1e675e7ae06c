"""Trials are stored exactly once, clashes are told, plans stay honest, and what is acknowledged survives a kill."""

from __future__ import annotations

import os
import signal
import threading
import time
from typing import Any
from uuid import uuid4

import httpx
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.conftest import TeacherClient, new_study, read_of, sign_up, texts_of, trial_body

pytestmark = pytest.mark.api


def put(teacher: TeacherClient, study: dict[str, Any], trial_id: str, **change: Any) -> httpx.Response:
    return teacher.http.put(f"/api/studies/{study['id']}/trials/{trial_id}", json=trial_body(**change))


def stored(teacher: TeacherClient, study: dict[str, Any]) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
    return found


def test_a_reading_keeps_its_text_and_gains_its_value(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    answer = put(teacher, study, str(uuid4()), text="14 ft 10 in").json()
    assert texts_of(answer) == ["14 ft 10 in"]
    assert read_of(answer)["value"] == pytest.approx(4.5212)


def test_the_same_trial_sent_again_is_stored_once(teacher: TeacherClient) -> None:
    study, trial = new_study(teacher), str(uuid4())
    answers = [put(teacher, study, trial) for _ in range(3)]
    assert [a.status_code for a in answers] == [200, 200, 200]
    assert len(stored(teacher, study)) == 1


def test_revisions_out_of_order_leave_the_newest(teacher: TeacherClient) -> None:
    study, trial = new_study(teacher), str(uuid4())
    put(teacher, study, trial, state="void", fault="slipped from the cup", revision=2)
    assert put(teacher, study, trial, text="4.40", revision=1).json()["state"] == "void"
    assert [t["state"] for t in stored(teacher, study)] == ["void"]


def test_two_edits_at_once_are_told_with_both_versions(teacher: TeacherClient) -> None:
    study, trial = new_study(teacher), str(uuid4())
    put(teacher, study, trial, text="4.40")
    assert put(teacher, study, trial, text="4.41", revision=2).status_code == 200
    clash = put(teacher, study, trial, text="4.99", revision=2)
    assert (clash.status_code, clash.json()["code"]) == (409, "trial_changed")
    assert (clash.json()["facts"]["theirs"]["readings"][0]["texts"], clash.json()["facts"]["yours"]["readings"][0]["texts"]) == (["4.41"], ["4.99"])
    assert read_of(put(teacher, study, trial, text="4.99", revision=3).json())["value"] == 4.99


def test_many_senders_of_one_trial_at_once_store_it_once(teacher: TeacherClient) -> None:
    study, trial = new_study(teacher), str(uuid4())
    codes: list[int] = []
    threads = [threading.Thread(target=lambda: codes.append(put(teacher, study, trial).status_code)) for _ in range(12)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert codes == [200] * 12
    assert len(stored(teacher, study)) == 1


def test_void_needs_its_fault_and_keep_needs_its_reading(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    assert put(teacher, study, str(uuid4()), state="void", text="").json()["code"] == "fault_missing"
    assert put(teacher, study, str(uuid4()), texts=[]).json()["code"] == "reading_empty"
    assert put(teacher, study, str(uuid4()), state="void", fault="frame lifted", text="nonsense").status_code == 200


def test_three_timers_count_by_their_median(teacher: TeacherClient) -> None:
    measure = {"name": "fall time", "quantity": "time", "unit": "s", "rule": "r", "timers": 3}
    study = new_study(teacher, measures=[measure])
    reading = read_of(put(teacher, study, str(uuid4()), texts=["2.10", "2.14", "2.61"], unit="s").json())
    assert (reading["value"], reading["flagged"], reading["method"]) == (2.14, [2], "median")


def test_once_trials_are_kept_the_plan_changes_only_where_that_is_honest(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    put(teacher, study, str(uuid4()))
    draft = study["draft"]
    path = f"/api/studies/{study['id']}"
    refused = teacher.http.patch(path, json={"version": 1, "draft": {**draft, "measures": [{**draft["measures"][0], "quantity": "mass", "unit": "g"}]}})
    assert (refused.status_code, refused.json()["code"], refused.json()["where"]) == (409, "plan_locked", "measures.0.quantity")
    assert teacher.http.patch(path, json={"version": 1, "draft": {**draft, "prediction": "Nearer."}}).json()["code"] == "prediction_locked"
    assert (
        teacher.http.patch(path, json={"version": 1, "draft": {**draft, "variable": {**draft["variable"], "levels": ["6", "8"]}}}).json()[
            "code"
        ]
        == "level_has_trials"
    )
    more = teacher.ok("PATCH", path, json={"version": 1, "draft": {**draft, "repeats": 5}})
    assert (more["planned"], more["version"]) == (15, 2)


def test_two_teachers_planning_at_once_are_told(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    path = f"/api/studies/{study['id']}"
    teacher.ok("PATCH", path, json={"version": 1, "title": "Mine"})
    late = teacher.http.patch(path, json={"version": 1, "title": "Theirs"})
    assert (late.status_code, late.json()["code"], late.json()["facts"]["theirs"]["title"]) == (409, "study_changed", "Mine")
    assert teacher.ok("PATCH", path, json={"version": 1, "title": "Mine"})["version"] == 2  # already so: nothing changes
    assert teacher.http.patch(path, json={"version": 2, "title": None}).status_code == 422


def test_a_run_opens_only_when_every_caution_is_ticked(teacher: TeacherClient) -> None:
    study = new_study(teacher, run=False)
    cautions = study["cautions"]
    path, run = f"/api/studies/{study['id']}/runs", str(uuid4())
    assert teacher.http.post(path, json={"id": run, "adult": "teacher", "cautions": cautions[:-1]}).json()["code"] == "cautions_left"
    assert teacher.http.post(path, json={"id": run, "adult": " ", "cautions": cautions}).json()["code"] == "adult_missing"
    once, again = (teacher.ok("POST", path, json={"id": run, "adult": "teacher", "cautions": cautions})["run"] for _ in range(2))
    assert once == again
    assert teacher.ok("GET", f"/api/studies/{study['id']}")["run"]["id"] == run


def test_a_table_out_and_in_again_gives_the_same_results(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    for i, (level, text) in enumerate(
        [
            ("4", "2.10"),
            ("6", "≥3.8"),
            ("8", "14 ft 10 in"),
            ("4", "2.2"),
            ("6", "~3 m"),
            ("8", "4.6"),
            ("4", "2.15"),
            ("6", "3.31"),
            ("8", "4.4"),
        ]
    ):
        put(teacher, study, str(uuid4()), level=level, text=text, block=1 + i // 3, released_at=f"2026-05-04T10:{i:02d}:00Z")
    put(teacher, study, str(uuid4()), level="8", text="", state="void", fault="frame lifted", released_at="2026-05-04T10:30:00Z")
    csv = teacher.ok("GET", f"/api/studies/{study['id']}/trials.csv")
    assert csv.splitlines()[0] == "\ufefftrial,block,group,person,state,fault,note,pull-back (cm),distance to first touch (m),behaviour"
    body = {
        "id": str(uuid4()),
        "text": csv,
        "title": "Again",
        "family": "launcher",
        "factor": "pull-back (cm)",
        "response": "distance to first touch (m)",
    }
    again, twice = (teacher.ok("POST", "/api/tables/study", json=body) for _ in range(2))
    assert again["id"] == twice["id"]
    one, two = (teacher.ok("GET", f"/api/studies/{s['id']}/analysis") for s in (study, again))
    for key in ("levels", "effect"):
        assert one[key] == two[key], key
    # a table carries no prediction, so that one doubt is new
    assert [f for f in two["audit"] if f["code"] != "prediction_missing"] == one["audit"]


NASTY = st.recursive(
    st.none() | st.booleans() | st.floats(allow_nan=False, allow_infinity=False) | st.text(max_size=20),
    lambda inner: st.lists(inner, max_size=3),
    max_leaves=4,
)


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.dictionaries(
        st.sampled_from(["block", "level", "readings", "state", "fault", "released_at", "revision", "rung", "note", "group"]),
        NASTY,
        max_size=4,
    )
)
def test_no_body_makes_the_server_fail(teacher: TeacherClient, change: dict[str, Any]) -> None:
    study = _study_of(teacher)
    answer = teacher.http.put(f"/api/studies/{study}/trials/{uuid4()}", json={**trial_body(), **change})
    assert answer.status_code in (200, 422)
    if answer.status_code == 422:
        assert answer.json()["detail"].endswith(".")


_studies: dict[str, str] = {}


def _study_of(teacher: TeacherClient) -> str:
    if teacher.name not in _studies:
        _studies[teacher.name] = new_study(teacher)["id"]
    return _studies[teacher.name]


BAD_TEXTS = ["-2 s", "two and a half", "1e400", "1.2.3", "9" * 10_000, "3\u200bm", "4 s"]


@pytest.mark.parametrize("text", BAD_TEXTS)
def test_bad_readings_get_a_sentence_at_their_place(teacher: TeacherClient, text: str) -> None:
    answer = put(teacher, new_study(teacher), str(uuid4()), text=text)
    assert answer.status_code == 422
    assert answer.json()["where"] == "reading"
    assert len(answer.json()["detail"]) > 20


def test_fifty_megabytes_are_refused_before_they_are_read(teacher: TeacherClient) -> None:
    answer = teacher.http.post("/api/tables", content=b"x" * 50_000_000, headers={"Content-Type": "application/json"})
    assert (answer.status_code, answer.json()["code"]) == (413, "too_large")
    assert "50 MB" in answer.json()["detail"]


def test_every_acknowledged_trial_survives_a_kill_of_everything(own_app: Any) -> None:
    """SIGKILL while trials stream in, twice; every one that was acknowledged is there once, and the rest can be sent again."""
    app = own_app("--no-demo")
    teacher = sign_up(app)
    study = new_study(teacher)
    sent = [str(uuid4()) for _ in range(400)]
    acknowledged: set[str] = set()

    def stream() -> None:
        for trial in sent:
            if trial in acknowledged:
                continue
            try:
                if put(teacher, study, trial).status_code == 200:
                    acknowledged.add(trial)
            except httpx.TransportError:
                return

    for wanted in (40, 120):
        sender = threading.Thread(target=stream)
        sender.start()
        while len(acknowledged) < wanted:
            time.sleep(0.002)
        postmaster = int((app.folder / "postgres" / "cluster" / "postmaster.pid").read_text().split()[0])
        os.kill(postmaster, signal.SIGKILL)
        app.process.kill()
        sender.join()
        app.process.wait()
        assert app.start() < 30
        found = [t["id"] for t in stored(teacher, study)]
        assert len(found) == len(set(found))
        assert acknowledged <= set(found)
    stream()
    assert {t["id"] for t in stored(teacher, study)} == set(sent)


def test_what_no_database_can_hold_is_refused_with_a_sentence(teacher: TeacherClient) -> None:
    for body in ({"id": str(uuid4()), "title": "a\x00b"}, {"id": str(uuid4()), "title": "ok", "draft": {"question": "why\x00"}}):
        answer = teacher.http.post("/api/studies", json=body)
        assert answer.status_code == 422
        assert "cannot be stored" in answer.json()["detail"]
