"""Two people, or one impatient one, at the same moment: numbers given once, clashes told, nothing lost."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from typing import Any
from uuid import uuid4

import httpx
import psycopg
import pytest

from tests.conftest import Application, TeacherClient, new_study, trial_body

pytestmark = pytest.mark.api
AT_ONCE = 8


def at_once(calls: list[Any]) -> list[httpx.Response]:
    with ThreadPoolExecutor(len(calls)) as pool:
        return list(pool.map(lambda call: call(), calls))


def test_versions_written_at_once_each_get_a_number_of_their_own(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    path = f"/api/studies/{study['id']}/versions"
    answers = at_once([lambda: teacher.http.put(f"{path}/{uuid4()}", json={"device": "Red"}) for _ in range(AT_ONCE)])
    assert [a.status_code for a in answers] == [200] * AT_ONCE
    assert sorted(a.json()["number"] for a in answers) == list(range(1, AT_ONCE + 1))


def test_the_same_version_pressed_eight_times_is_one(teacher: TeacherClient) -> None:
    study, version = new_study(teacher), uuid4()
    path = f"/api/studies/{study['id']}/versions"
    answers = at_once([lambda: teacher.http.put(f"{path}/{version}", json={"device": "Red"})] * AT_ONCE)
    assert {(a.status_code, a.json()["number"], a.json()["revision"]) for a in answers} == {(200, 1, 1)}
    assert len(teacher.ok("GET", path)) == 1


def test_a_save_that_is_committed_after_a_later_one_is_in_the_verdict(app: Application, teacher: TeacherClient) -> None:
    """Two saves at one moment: the first to take its number is the last to be committed, and the verdict was asked for in between."""
    study = new_study(teacher)
    path = f"/api/studies/{study['id']}"
    first, slow = uuid4(), uuid4()
    teacher.ok("PUT", f"{path}/trials/{first}", json=trial_body("4", "4.1"))

    def kept() -> int:
        return sum(s["n_kept"] for s in teacher.ok("GET", f"{path}/analysis")["levels"])

    def at_home() -> int:
        return int(next(s["kept"] for s in teacher.ok("GET", "/api/studies") if s["id"] == study["id"]))

    with psycopg.connect(app.database()) as other:
        for table, key in (("trial", "id"), ("reading", "trial_id")):
            other.execute(
                f"insert into {table} select (jsonb_populate_record(x, jsonb_build_object('{key}', %s::text, 'block', 2))).* from {table} x where {key} = %s", (str(slow), first)
            )
        other.execute(
            "insert into event (workspace_id, study_id, kind, subject, revision, body, by, device_at, received_at)"
            " select workspace_id, study_id, kind, %s, revision, body, by, device_at, received_at from event where kind = 'trial' and subject = %s",
            (slow, first),
        )
        other.execute("update turn set trial_id = %s where (study_id, block, level) = (select study_id, block, level from trial where id = %s)", (slow, slow))
        teacher.ok("PUT", f"{path}/trials/{uuid4()}", json=trial_body("6", "6.1"))
        assert (kept(), at_home()) == (2, 2)
        other.commit()
    assert (kept(), at_home()) == (3, 3)


def test_of_many_changes_to_one_plan_one_is_taken_and_the_others_see_it(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    path = f"/api/studies/{study['id']}"

    def change(repeats: int) -> Any:
        body = {"version": study["version"], "draft": {**study["draft"], "repeats": repeats}}
        return lambda: teacher.http.patch(path, json=body)

    answers = at_once([change(n) for n in range(4, 4 + AT_ONCE)])
    assert sorted(a.status_code for a in answers) == [200] + [409] * (AT_ONCE - 1)
    taken = next(a.json()["draft"]["repeats"] for a in answers if a.status_code == 200)
    assert {a.json()["facts"]["theirs"]["draft"]["repeats"] for a in answers if a.status_code == 409} == {taken}
    assert len(teacher.ok("GET", f"{path}/changes")) == 1


def test_one_change_is_taken_back_once_however_often_it_is_pressed(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    path = f"/api/studies/{study['id']}"
    changed = teacher.ok("PATCH", path, json={"version": 1, "draft": {**study["draft"], "repeats": 6}})
    answers = at_once([lambda: teacher.http.post(f"{path}/undo", json={"version": changed["version"]})] * AT_ONCE)
    assert sorted(a.status_code for a in answers) == [200] + [409] * (AT_ONCE - 1)
    assert teacher.ok("GET", path)["draft"]["repeats"] == 3


def test_copies_sign_offs_and_rotas_pressed_twice_are_one(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    path = f"/api/studies/{study['id']}"
    copy = {"id": str(uuid4()), "title": "Copied twice"}
    assert {a.status_code for a in at_once([lambda: teacher.http.post(f"{path}/copy", json=copy)] * AT_ONCE)} == {201}
    assert [s["title"] for s in teacher.ok("GET", "/api/studies")].count("Copied twice") == 1
    sign = {"id": str(uuid4()), "adult": "technician", "cautions": study["cautions"]}
    signed = at_once([lambda: teacher.http.post(f"{path}/sign-off", json=sign)] * AT_ONCE)
    assert len({a.json()["sign_off"]["signed_at"] for a in signed}) == 1
    rotas = at_once([lambda: teacher.http.post(f"{path}/rota")] * 4)
    assert {a.status_code for a in rotas} == {200}
    assert len({str(a.json()["rota"]) for a in rotas}) == 1


def test_a_photo_sent_twice_at_once_is_one_photo(teacher: TeacherClient) -> None:
    from tests.api.test_planning_and_building import camera_photo

    study = new_study(teacher)
    version = teacher.ok("PUT", f"/api/studies/{study['id']}/versions/{uuid4()}", json={"device": "Red"})
    path = f"/api/studies/{study['id']}/versions/{version['id']}/photo"
    photo = camera_photo(200, 100)
    assert {a.status_code for a in at_once([lambda: teacher.http.put(path, content=photo)] * 4)} == {200}
    assert teacher.http.get(path).headers["content-type"] == "image/jpeg"
