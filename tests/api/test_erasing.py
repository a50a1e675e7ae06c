"""A class is erased with the proof of it; labels that look like a person's name are asked about."""

from __future__ import annotations

import os
import subprocess
import sys
from uuid import uuid4

import psycopg
import pytest

from bendro.core.planning.labels import asked_about, looks_like_a_name
from tests.api.test_seats import lesson, sit
from tests.conftest import ROOT, Application, TeacherClient, new_study, sign_up, trial_body

pytestmark = pytest.mark.api


def filled(teacher: TeacherClient, label: str) -> dict[str, object]:
    study = new_study(teacher, f"Of {label}", class_label=label, groups=["Avocet", "Curlew"])
    teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body(group="Curlew"))
    teacher.ok("PUT", f"/api/studies/{study['id']}/versions/{uuid4()}", json={"device": "Curlew", "draft": {"mass": "20 g"}, "revision": 0})
    return study


def test_every_row_of_a_class_goes_and_of_no_other(app: Application) -> None:
    teacher = sign_up(app)
    gone, stays = filled(teacher, "8b"), filled(teacher, "8c")
    also = filled(teacher, "8b")
    teacher.ok("DELETE", f"/api/studies/{also['id']}")  # thrown away, and erased with the others
    seat = sit(app, lesson(teacher, gone)["code"], "group", "Curlew")
    screen = str(uuid4())
    seat.put(f"/api/studies/{gone['id']}/screens/{screen}", json={"doing": "looking"})
    there = {c["label"]: c for c in teacher.ok("GET", "/api/school/classes")}
    assert len(there["8b"]["titles"]) == 2
    before = there["8c"]["rows"]
    wrong = teacher.http.post("/api/school/classes/erase", json={"class_label": "8b", "typed": "8c"})
    assert (wrong.status_code, wrong.json()["code"]) == (422, "class_not_typed")
    proof = teacher.ok("POST", "/api/school/classes/erase", json={"class_label": "8b", "typed": "8B "})
    assert proof["before"]["study"] == 2
    assert all(proof["before"][t] > 0 for t in ("trial", "reading", "event", "device_version", "run", "seat", "joining", "screen", "turn"))
    assert set(proof["after"].values()) == {0}
    assert {c["label"]: c["rows"] for c in teacher.ok("GET", "/api/school/classes")} == {"8c": before}
    assert teacher.http.get(f"/api/studies/{gone['id']}").status_code == 404
    assert seat.get(f"/api/studies/{gone['id']}").status_code == 401  # its seats are gone as well
    assert teacher.http.post("/api/school/classes/erase", json={"class_label": "8b", "typed": "8b"}).json()["code"] == "class_unknown"  # pressed twice
    with psycopg.connect(app.database()) as rows:
        for (table,) in rows.execute("select table_name from information_schema.columns where column_name = 'study_id' and table_schema = 'public'").fetchall():
            assert rows.execute(f"select count(*) from {table} where study_id = any(%s)", [[gone["id"], also["id"]]]).fetchone() == (0,), table
    assert teacher.ok("GET", f"/api/studies/{stays['id']}/trials")


def test_another_school_and_a_seat_erase_nothing(app: Application) -> None:
    teacher, other = sign_up(app), sign_up(app)
    study = filled(teacher, "8d")
    assert other.http.post("/api/school/classes/erase", json={"class_label": "8d", "typed": "8d"}).json()["code"] == "class_unknown"
    seat = sit(app, lesson(teacher, study)["code"], "colleague")
    assert seat.post("/api/school/classes/erase", json={"class_label": "8d", "typed": "8d"}).status_code == 403
    assert teacher.ok("GET", f"/api/studies/{study['id']}/trials")


def test_one_command_erases_and_names_the_backups(app: Application) -> None:
    teacher = sign_up(app)
    filled(teacher, "9z")
    school = teacher.ok("GET", "/api/school")["name"]
    with psycopg.connect(app.database(), autocommit=True) as rows:
        rows.execute("update workspace set name = 'Reedbank' where id = (select workspace_id from study where draft->>'class_label' = '9z' limit 1)")
    run = {"capture_output": True, "text": True, "cwd": ROOT, "env": {**os.environ}, "check": False, "timeout": 180}
    backup = app.folder.parent / f"{uuid4().hex}.backup"
    assert school is not None
    assert subprocess.run([sys.executable, "-m", "bendro.terminal", "backup", str(backup), "--data", str(app.folder)], **run).returncode == 0
    done = subprocess.run([sys.executable, "-m", "bendro.terminal", "erase", "9z", "--school", "Reedbank", "--yes", "--data", str(app.folder)], **run)
    backup.unlink()
    assert done.returncode == 0, done.stderr
    assert "Erased 9z: Of 9z." in done.stdout
    assert "trial" in done.stdout
    assert " 0 now" in done.stdout
    assert str(backup) in done.stdout
    again = subprocess.run([sys.executable, "-m", "bendro.terminal", "erase", "9z", "--school", "Reedbank", "--yes", "--data", str(app.folder)], **run)
    assert again.returncode == 2
    assert "There is no class" in again.stderr


@pytest.mark.parametrize(
    ("label", "asked"),
    [
        ("Xaviera Quillfeather", True), ("Quillfeather, Xaviera", True), ("X. Quillfeather", True), ("xaviera@mail.example", True), ("Xaviera van Quill", False),
        ("Curlew", False), ("Red", False), ("Team Curlew", False), ("Seat 2", False), ("Group Red", False), ("red kite", False), ("8B", False), ("", False),
    ],
)  # fmt: skip
def test_a_label_that_looks_like_a_name_is_asked_about(label: str, asked: bool) -> None:
    assert looks_like_a_name(label) is asked
    assert label in asked_about(label)


def test_the_plan_asks_about_a_group_that_looks_like_a_person_and_may_be_run(teacher: TeacherClient) -> None:
    study = new_study(teacher, groups=["Xaviera Quillfeather", "Curlew"])
    found = [p for p in study["problems"] if p["code"] == "group_named"]
    assert [(p["where"], p["grave"]) for p in found] == [("groups", False)]
    assert "no names of pupils" in found[0]["says"]
    assert study["run"]["covers"]
