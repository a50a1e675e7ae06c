"""Reports: frozen as they were told, written over, told of what came later."""

from __future__ import annotations

import base64
import io
from typing import Any
from uuid import UUID, uuid4

import pytest
from PIL import Image
from sqlmodel import Session

from bendro.store.tables import Report
from tests.conftest import Application, TeacherClient, new_study, sign_up, trial_body

pytestmark = pytest.mark.api


def run_some(teacher: TeacherClient, study: dict[str, Any], readings: dict[int, list[str]], **more: Any) -> None:
    for at, texts in readings.items():
        for block, text in enumerate(texts, 1):
            body = trial_body(study["levels"][at]["id"], text, block=block, released_at=f"2026-05-04T{9 + at:02}:{block:02}:00Z", **more)
            teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=body)


def make(teacher: TeacherClient, study: dict[str, Any]) -> dict[str, Any]:
    found: dict[str, Any] = teacher.ok("POST", f"/api/studies/{study['id']}/reports", json={"id": str(uuid4())})
    return found


def test_a_report_says_the_same_whatever_comes_later_and_tells_what_changed(teacher: TeacherClient) -> None:
    study = new_study(teacher, repeats=3)
    run_some(teacher, study, {0: ["4.1", "4.2", "4.3"], 1: ["6.1", "6.2", "6.3"]})
    made = make(teacher, study)
    path = f"/api/studies/{study['id']}/reports/{made['id']}"
    assert made["changed"] == []
    assert made["analysis"] == teacher.ok("GET", f"/api/studies/{study['id']}/analysis")
    assert made["sections"]["who"].endswith("4 May 2026")
    assert [t["texts"] for t in (r["readings"][0] for r in made["trials"])] == [["4.1"], ["4.2"], ["4.3"], ["6.1"], ["6.2"], ["6.3"]]
    assert made["places"][0]["result"].endswith(" m")
    assert made["conclusion"] == teacher.ok("GET", f"/api/studies/{study['id']}/conclusion")
    assert made["workings"][0]["lines"]
    teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body(study["levels"][0]["id"], "9.9", block=2, released_at="2026-05-04T12:00:00Z"))
    later = teacher.ok("GET", path)
    assert later["changed"] != []
    assert any("1 kept trial more." in c for c in later["changed"])
    for part in ("analysis", "conclusion", "card", "sections", "places", "trials", "workings", "made_by", "made_at"):
        assert later[part] == made[part]
    new = make(teacher, study)
    assert [r["id"] for r in teacher.ok("GET", f"/api/studies/{study['id']}/reports")] == [new["id"], made["id"]]


def test_the_same_report_asked_for_twice_is_one(teacher: TeacherClient) -> None:
    study = new_study(teacher, repeats=2)
    run_some(teacher, study, {0: ["4.1", "4.2"]})
    one = str(uuid4())
    for _ in range(2):
        teacher.ok("POST", f"/api/studies/{study['id']}/reports", json={"id": one})
    assert len(teacher.ok("GET", f"/api/studies/{study['id']}/reports")) == 1
    teacher.ok("DELETE", f"/api/studies/{study['id']}/reports/{one}")
    assert teacher.ok("GET", f"/api/studies/{study['id']}/reports") == []


def test_nothing_kept_is_nothing_to_show(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    refused = teacher.http.post(f"/api/studies/{study['id']}/reports", json={"id": str(uuid4())})
    assert refused.status_code == 422
    assert "No trial has been kept yet" in refused.json()["detail"]


def test_what_a_class_writes_over_it_is_kept_once_and_a_second_writer_is_told(teacher: TeacherClient) -> None:
    study = new_study(teacher, repeats=2)
    run_some(teacher, study, {0: ["4.1", "4.2"], 1: ["5.1", "5.2"]})
    made = make(teacher, study)
    path = f"/api/studies/{study['id']}/reports/{made['id']}"
    own = {"texts": {"next": "A longer arm.", "fairer": "   "}, "without": ["podium"], "also": ["versions"], "comment": "Say which reading was odd.", "revision": 1}
    for _ in range(2):
        line = teacher.ok("PUT", path, json=own)
    assert line["revision"] == 2
    assert line["own"] == {"texts": {"next": "A longer arm."}, "without": ["podium"], "also": ["versions"], "comment": "Say which reading was odd."}
    clash = teacher.http.put(path, json={**own, "texts": {"next": "A shorter arm."}})
    assert clash.status_code == 409
    assert clash.json()["facts"]["theirs"]["texts"] == {"next": "A longer arm."}
    assert teacher.http.put(path, json={**own, "texts": {"elsewhere": "x"}}).status_code == 422


def test_a_report_is_its_schools_own(app: Application, teacher: TeacherClient) -> None:
    study = new_study(teacher, repeats=2)
    run_some(teacher, study, {0: ["4.1"]})
    made = make(teacher, study)
    stranger, other = sign_up(app), new_study(teacher)
    for client, at in ((stranger, study["id"]), (teacher, other["id"])):
        assert client.http.get(f"/api/studies/{at}/reports/{made['id']}").status_code == 404
        assert client.http.delete(f"/api/studies/{at}/reports/{made['id']}").status_code == 404


def test_every_demo_study_with_trials_has_its_poster(app: Application) -> None:
    demo = sign_up(app)
    demo.http.post("/api/session/demo")
    shown = 0
    for line in demo.ok("GET", "/api/studies"):
        answer = demo.http.post(f"/api/studies/{line['id']}/reports", json={"id": str(uuid4())})
        if line["kept"]:
            assert answer.status_code == 201, answer.text
            body = answer.json()
            assert body["places"] or body["analysis"]["effect"]["kind"] == "none"
            assert all(body["sections"][p] for p in ("who", "how_sure", "fairer", "next"))
            shown += 1
        else:
            assert answer.status_code == 422
    assert shown >= 5


def test_a_report_opens_when_the_study_can_no_longer_be_analysed(teacher: TeacherClient) -> None:
    study = new_study(teacher, repeats=2)
    run_some(teacher, study, {0: ["4.1", "4.2"], 1: ["5.1", "5.2"]})
    made = make(teacher, study)
    now = teacher.ok("GET", f"/api/studies/{study['id']}")
    draft = {**now["draft"], "measures": [{**now["draft"]["measures"][0], "step": "coarse"}]}
    teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": now["version"], "draft": draft})
    assert teacher.http.get(f"/api/studies/{study['id']}/analysis").status_code == 422
    later = teacher.ok("GET", f"/api/studies/{study['id']}/reports/{made['id']}")
    assert later["analysis"] == made["analysis"]
    assert "The plan is not ready" in later["changed"][0]


def test_the_podium_shows_how_each_device_looked_when_the_report_was_made(teacher: TeacherClient) -> None:
    levels = {"name": "device", "kind": "name", "quantity": "number", "unit": "", "levels": ["Red", "Blue", "Gold"]}
    study = new_study(teacher, repeats=2, variable=levels, study_kind="contest", groups=["Red", "Blue", "Gold"])
    run_some(teacher, study, {0: ["4.1", "4.2"], 1: ["6.1", "6.2"], 2: ["5.1", "5.2"]})
    sketch = [[[0.1, 0.9], [0.5, 0.1], [0.9, 0.9]]]
    ids = {device: str(uuid4()) for device in ("red", "Blue")}
    for device, one in ids.items():
        draft = {"sketch": sketch} if device == "red" else {}
        teacher.ok("PUT", f"/api/studies/{study['id']}/versions/{one}", json={"device": device, "draft": draft, "revision": 0})
    picture = io.BytesIO()
    Image.new("RGB", (1200, 800), (200, 120, 0)).save(picture, "JPEG")
    path = f"/api/studies/{study['id']}/versions/{ids['Blue']}"
    teacher.http.put(f"{path}/photo", content=picture.getvalue(), headers={"content-type": "image/jpeg"}).raise_for_status()
    made = make(teacher, study)
    looks = {one["label"]: one for one in made["looks"]}
    assert looks.keys() == {"Red", "Blue"}
    assert looks["Red"]["sketch"] == sketch
    with Image.open(io.BytesIO(base64.b64decode(looks["Blue"]["photo"].split(",")[1]))) as shown:
        assert shown.size == (320, 213)
    teacher.ok("DELETE", f"{path}/photo")
    assert teacher.ok("GET", f"/api/studies/{study['id']}/reports/{made['id']}")["looks"] == made["looks"]


def test_a_device_without_a_picture_is_drawn_on_its_step_and_on_its_card(teacher: TeacherClient) -> None:
    """In a fair test a step shows the version that was built for its level; the card is the version's, never a bare level."""
    variable = {"name": "arm length", "kind": "number", "quantity": "length", "unit": "cm", "levels": ["20", "30"]}
    study = new_study(teacher, repeats=2, variable=variable, expect="rises")
    for n, (group, arm) in enumerate((("Red", "20 cm"), ("Blue", "0.3 m"))):
        draft = {"properties": [{"name": "arm length", "value": arm}], "mass": "90 g"}
        teacher.ok("PUT", f"/api/studies/{study['id']}/versions/{study['id'][:-1]}{n}", json={"device": group, "draft": draft})
    run_some(teacher, study, {0: ["4.1", "4.2"], 1: ["6.1", "6.2"]})
    shelf = teacher.ok("GET", f"/api/studies/{study['id']}/versions")
    assert [v["drawing"]["to_scale"] for v in shelf] == [True, True]
    widths = {v["device"]: v["drawing"]["width"] for v in shelf}
    assert widths["Blue"] > widths["Red"]
    told = {v["device"]: v["result"] for v in teacher.ok("GET", f"/api/studies/{study['id']}/conclusion")["versions"]}
    assert told == {"Red": "4.2 m", "Blue": "6.2 m"}
    made = make(teacher, study)
    looks = {one["label"]: one["drawing"]["width"] for one in made["looks"]}
    assert looks == {"20 cm": widths["Red"], "30 cm": widths["Blue"]}
    assert made["card"]["look"]["drawing"]["width"] == widths["Blue"]
    assert made["card"]["mass"] == "90 g"
    assert made["card"]["name"] == "Test study: arm length 30 cm"


def test_a_report_of_an_earlier_version_has_neither_drawings_nor_further_parts(teacher: TeacherClient, app: Application) -> None:
    study = new_study(teacher, repeats=2)
    run_some(teacher, study, {0: ["4.1", "4.2"], 1: ["6.1", "6.2"]})
    made = make(teacher, study)
    with Session(app.engine()) as session:
        row = session.get(Report, UUID(made["id"]))
        assert row is not None
        frozen = dict(row.frozen)
        frozen["card"] = {k: v for k, v in frozen["card"].items() if k != "look"}
        frozen["looks"] = [{"label": "4 cm", "photo": "", "sketch": []}]
        row.frozen, row.own = frozen, {"texts": {}, "without": [], "comment": ""}
        session.add(row)
        session.commit()
    old = teacher.ok("GET", f"/api/studies/{study['id']}/reports/{made['id']}")
    assert old["looks"] == [{"label": "4 cm", "photo": "", "sketch": [], "drawing": None}]
    assert old["card"]["look"] is None
    assert old["own"]["also"] == []
