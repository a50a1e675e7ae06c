"""What waited in a browser: taken in from a file, in the order of its tablet, at the time of the server."""

from __future__ import annotations

import base64
import io
import json
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import uuid4

import pytest
from PIL import Image

from tests.conftest import DRAFT, Application, TeacherClient, new_study, sign_up, texts_of, trial_body

pytestmark = pytest.mark.api


def waiting(study: dict[str, Any], trials: list[dict[str, Any]], **more: Any) -> dict[str, Any]:
    made = [{"id": str(uuid4()), "body": t} for t in trials]
    one = {"id": study["id"], "title": study["title"], "plan": study["draft"], "trials": made, **more}
    return {"form": "bendro waiting", "version": 1, "kept_by": "T Marsh", "studies": [one]}


def take(teacher: TeacherClient, file: dict[str, Any]) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = teacher.ok("POST", "/api/waiting", json={"text": json.dumps(file)})
    return found


def test_what_waits_goes_into_its_study_once_and_a_refused_one_holds_nothing_up(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    file = waiting(study, [trial_body("4", "4.52"), trial_body("6", "far away"), trial_body("8", "6.10")])
    for _ in range(2):
        [came] = take(teacher, file)
        assert (came["made"], came["kept"]) == (False, 2)
        assert "“far away” is not a number" in came["refused"][0]
    trials = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
    assert sorted(texts_of(t) for t in trials) == [["4.52"], ["6.10"]]
    assert {t["kept_by"] for t in trials} == {"T Marsh"}


def test_a_study_that_is_not_here_is_made_from_the_plan_with_its_versions_and_photos(app: Application, teacher: TeacherClient) -> None:
    study = new_study(teacher, "Over the pond")
    picture = io.BytesIO()
    Image.new("RGB", (60, 40), (200, 120, 0)).save(picture, "JPEG")
    version = str(uuid4())
    more = {
        "versions": [{"id": version, "device": "Red", "draft": {"properties": [{"name": "wing", "value": "9 cm"}]}}],
        "photos": [{"version_id": version, "jpeg": base64.b64encode(picture.getvalue()).decode()}],
    }
    first = trial_body("4", "4.52")
    file = waiting(study, [first, trial_body("6", "6.02", state="void", fault="slipped")], **more)
    file["studies"][0]["trials"].append({"id": file["studies"][0]["trials"][0]["id"], "body": {**first, "note": "gusty", "revision": 2}})
    other = sign_up(app)
    for _ in range(2):
        [came] = take(other, file)
        assert came["refused"] == []
        assert came["kept"] == 2
    [made] = other.ok("GET", "/api/studies")
    assert (made["title"], made["id"] != study["id"]) == ("Over the pond", True)
    trials = other.ok("GET", f"/api/studies/{made['id']}/trials")
    assert sorted((texts_of(t)[0], t["state"], t["note"]) for t in trials) == [("4.52", "kept", "gusty"), ("6.02", "void", "")]
    [seen] = other.ok("GET", f"/api/studies/{made['id']}/versions")
    assert (seen["device"], seen["photo"]) == ("Red", True)
    assert teacher.ok("GET", f"/api/studies/{study['id']}/trials") == []
    [lost] = take(other, {**file, "studies": [{**file["studies"][0], "id": str(uuid4()), "plan": None}]})
    assert "stay in the file" in lost["refused"][0]


@pytest.mark.parametrize("text", ["", "{}", "[1]", '{"form": "bendro waiting", "version": 2, "studies": []}', "not json", '{"form": "bendro waiting", "version": 1, "studies": [{"id": 5}]}', '{"form": "bendro waiting", "version": 1, "kept_by": "\\u0000", "studies": []}'])
def test_another_file_is_refused_with_the_place(teacher: TeacherClient, text: str) -> None:
    answer = teacher.http.post("/api/waiting", json={"text": text})
    assert (answer.status_code, answer.json()["code"]) == (422, "waiting_other")


@pytest.mark.parametrize("ahead", [365 * 86_400.0, -365 * 86_400.0, 3_600.0, 0.0])
def test_trials_of_one_tablet_stand_in_its_own_order_at_the_servers_time(teacher: TeacherClient, ahead: float) -> None:
    """Six are kept while the clock is wrong, two after it was put right; they come in any order."""
    study = new_study(teacher)
    begin = datetime.now(UTC) - timedelta(minutes=10)
    sent = []
    for n in range(8):
        off = ahead if n < 6 else 0.0
        wrong = begin + timedelta(seconds=20 * n + off)
        sent.append(trial_body("4", f"4.{n}", released_at=wrong.isoformat(), clock_ahead_s=off, tablet="tablet-1", tablet_number=n + 1, sent_at=datetime.now(UTC).isoformat()))
    for body in sent:
        teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=body)
    trials = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
    assert [texts_of(t)[0] for t in trials] == [f"4.{n}" for n in range(8)]
    for n, t in enumerate(trials):
        assert abs(datetime.fromisoformat(t["released_at"]) - (begin + timedelta(seconds=20 * n))) < timedelta(seconds=1)


def test_a_clock_put_back_that_nobody_measured_changes_no_order(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    begin = datetime.now(UTC) - timedelta(minutes=10)
    for n, minutes in enumerate((0, 1, -40, -39)):  # put back by 41 minutes between the second and the third
        body = trial_body("4", f"4.{n}", released_at=(begin + timedelta(minutes=minutes)).isoformat(), tablet="tablet-1", tablet_number=n + 1)
        answer = teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=body)
        assert answer["number"] == n + 1
    trials = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
    assert [texts_of(t)[0] for t in trials] == ["4.0", "4.1", "4.2", "4.3"]


def test_a_run_or_a_report_of_another_study_or_school_is_not_taken_for_ones_own(app: Application, teacher: TeacherClient) -> None:
    mine, second, other = new_study(teacher), new_study(teacher), sign_up(app)
    theirs = new_study(other, **{k: DRAFT[k] for k in ("question",)})
    for who, study in ((teacher, mine), (other, theirs), (teacher, second)):
        who.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body())
    report = str(uuid4())
    teacher.ok("POST", f"/api/studies/{mine['id']}/reports", json={"id": report})
    assert teacher.http.post(f"/api/studies/{mine['id']}/reports", json={"id": report}).status_code == 201
    assert other.http.post(f"/api/studies/{theirs['id']}/reports", json={"id": report}).status_code == 404
    assert teacher.http.post(f"/api/studies/{second['id']}/reports", json={"id": report}).status_code == 404
    run = {"id": mine["run"]["id"], "adult": "class teacher", "cautions": second["cautions"], "mark": second["safety_mark"]}
    refused = teacher.http.post(f"/api/studies/{second['id']}/runs", json=run)
    assert (refused.status_code, refused.json()["code"]) == (422, "run_elsewhere")
    assert other.http.post(f"/api/studies/{theirs['id']}/runs", json={**run, "cautions": theirs["cautions"]}).status_code == 404


def test_a_study_made_anew_from_a_file_has_its_own_measures(teacher: TeacherClient) -> None:
    """The plan as a page was told it says no version of its form, and is none the less the plan of today: a fall timed in s stays one."""
    measures = [{"id": "m1", "name": "fall time", "quantity": "time", "unit": "s", "rule": "To first touch.", "timed": True}]
    study = new_study(teacher, measures=measures)
    trial = trial_body(readings=[{"measure": "m1", "texts": ["0.64"], "unit": "s"}])
    whole = {"id": study["id"], "title": "Falls", "plan": study["draft"], "runs": [], "versions": [], "photos": [], "trials": [{"id": str(uuid4()), "body": trial}]}
    teacher.ok("DELETE", f"/api/studies/{study['id']}")
    (came,) = teacher.ok("POST", "/api/waiting", json={"text": json.dumps({"form": "bendro waiting", "version": 1, "kept_by": "", "studies": [whole]})})
    assert (came["made"], came["kept"], came["refused"]) == (True, 1, [])
    made = teacher.ok("GET", f"/api/studies/{came['study_id']}")
    assert made["draft"]["measures"][0]["unit"] == "s"
