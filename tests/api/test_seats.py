"""The class comes in by a code: who may do what, tried with every route and every role; codes that are wrong, closed or over; whose trials are whose."""

from __future__ import annotations

import re
from concurrent.futures import ThreadPoolExecutor
from typing import Any
from uuid import uuid4

import httpx
import psycopg
import pytest

from bendro.actions.seats import as_signs
from bendro.api.needs import SEAT_COOKIE
from bendro.core.rights import CALLS, MAY, Role, act_of, may
from tests.api.test_access_and_ownership import body_for, routes
from tests.conftest import Application, TeacherClient, new_study, sign_up, trial_body

SEATS: tuple[Role, ...] = ("colleague", "group", "timer", "wall")


def lesson(teacher: TeacherClient, study: dict[str, Any], minutes: float = 60) -> dict[str, Any]:
    found: dict[str, Any] = teacher.ok("POST", f"/api/studies/{study['id']}/joining", json={"minutes": minutes})
    return found


def sit(app: Application, code: str, role: str, label: str = "") -> httpx.Client:
    """A browser of the class that has come in."""
    client = httpx.Client(base_url=app.url, timeout=60)
    answer = client.post("/api/join", json={"code": code, "role": role, "label": label})
    assert answer.status_code == 200, answer.text
    return client


@pytest.fixture
def grouped(teacher: TeacherClient) -> dict[str, Any]:
    return new_study(teacher, groups=["Avocet", "Curlew"], repeats=3)


def test_the_table_names_every_call_and_nothing_else(app: Application) -> None:
    named = {spec["operationId"] for _, _, spec in routes(app)}
    assert set(CALLS) - named == {"live", "lane"}  # these two are connections that stay
    assert all(act_of(call) in MAY["teacher"] for call in named)
    leads = {call for call in named if act_of(call) == "lead"}
    assert {"change_study", "throw_away", "make_report", "open_run", "open_joining", "end_seat"} <= leads


@pytest.mark.parametrize("role", SEATS)
def test_every_route_lets_a_seat_do_what_the_table_says_and_no_more(app: Application, teacher: TeacherClient, grouped: dict[str, Any], role: Role) -> None:
    other, strange = new_study(teacher), new_study(sign_up(app))
    seat = sit(app, lesson(teacher, grouped)["code"], role, "Curlew")
    checked = 0
    for method, path, spec in routes(app):
        call = spec["operationId"]
        if call == "sign_out" or act_of(call) == "enter":
            continue
        query = {p["name"]: "4" for p in spec.get("parameters", []) if p["in"] == "query" and p.get("required")}
        for study, own in ((grouped, True), (other, False), (strange, False)):
            filled = re.sub(r"\{\w+\}", lambda _: str(uuid4()), path.replace("{study_id}", study["id"]))
            answer = seat.request(method, filled, params=query, json=body_for(path, method, study))
            if answer.status_code == 422 and answer.json()["code"] == "body_refused":
                continue  # nothing was looked at yet
            if not own and "{study_id}" in path:
                assert answer.status_code == 404, (role, method, path, answer.text)
            elif may(role, call):
                assert answer.status_code not in (401, 403) or answer.json()["code"] == "not_own", (role, method, path, answer.text)
            else:
                assert (answer.status_code, answer.json()["code"]) == (403, "not_allowed"), (role, method, path, answer.text)
            checked += 1
    assert checked > 60


def test_a_group_keeps_and_mends_its_own_trials_and_no_others(app: Application, teacher: TeacherClient, grouped: dict[str, Any]) -> None:
    seat = sit(app, lesson(teacher, grouped)["code"], "group", "curlew")
    path = f"/api/studies/{grouped['id']}/trials"
    mine, theirs = str(uuid4()), str(uuid4())
    kept = seat.put(f"{path}/{mine}", json=trial_body(group="Curlew"))
    assert kept.status_code == 200, kept.text
    teacher.ok("PUT", f"{path}/{theirs}", json=trial_body(group="Avocet", block=2))
    for one, body in ((str(uuid4()), trial_body(group="Avocet")), (theirs, trial_body(group="Avocet") | {"revision": 2, "state": "void", "fault": "slipped from the cup"}), (theirs, trial_body(group="Curlew") | {"revision": 2})):
        refused = seat.put(f"{path}/{one}", json=body)
        assert (refused.status_code, refused.json()["code"]) == (403, "not_own")
    void = seat.put(f"{path}/{mine}", json=trial_body(group="Curlew") | {"revision": 2, "state": "void", "fault": "slipped from the cup"})
    assert void.status_code == 200, void.text
    history = teacher.ok("GET", f"{path}/{mine}/history")
    assert [h["sent_by"] for h in history] == ["Curlew", "Curlew"]  # what a seat did bears its seat
    colleague = sit(app, lesson(teacher, grouped)["code"], "colleague")
    assert colleague.put(f"{path}/{uuid4()}", json=trial_body(group="Avocet", block=3)).status_code == 200
    assert sit(app, lesson(teacher, grouped)["code"], "timer").put(f"{path}/{uuid4()}", json=trial_body()).status_code == 403


def test_a_group_builds_its_own_versions(app: Application, teacher: TeacherClient, grouped: dict[str, Any]) -> None:
    seat = sit(app, lesson(teacher, grouped)["code"], "group", "Curlew")
    path = f"/api/studies/{grouped['id']}/versions"
    assert seat.put(f"{path}/{uuid4()}", json={"device": "Curlew", "draft": {"mass": "20 g"}, "revision": 0}).status_code == 200
    assert seat.put(f"{path}/{uuid4()}", json={"device": "Avocet", "draft": {}, "revision": 0}).json()["code"] == "not_own"
    theirs = str(uuid4())
    teacher.ok("PUT", f"{path}/{theirs}", json={"device": "Avocet", "draft": {}, "revision": 0})
    assert seat.put(f"{path}/{theirs}", json={"device": "Curlew", "draft": {}, "revision": 1}).json()["code"] == "not_own"


def test_codes_are_read_as_they_are_typed_and_wrong_ones_let_nobody_in(app: Application, teacher: TeacherClient, grouped: dict[str, Any]) -> None:
    opened = lesson(teacher, grouped)
    assert re.fullmatch(r"[A-HJ-NP-Z2-9]{3} [A-HJ-NP-Z2-9]{3}", opened["code"])
    assert lesson(teacher, grouped)["code"] == opened["code"]  # opened twice it is the same lesson
    for typed in (opened["code"], opened["code"].lower(), opened["code"].replace(" ", ""), f" {opened['code']} "):
        offered = httpx.get(f"{app.url}/api/join", params={"code": typed})
        assert (offered.status_code, offered.json()[0]["groups"]) == (200, ["Avocet", "Curlew"])
    assert as_signs("k7m 4qx") == "K7M4QX"
    for wrong in ("", "ZZZZZZ", opened["code"][:-1], "'; drop table seat"):
        refused = httpx.get(f"{app.url}/api/join", params={"code": wrong})
        assert (refused.status_code, refused.json()["code"]) == (422, "code_wrong")
    strange = httpx.post(f"{app.url}/api/join", json={"code": opened["code"], "role": "group", "label": "Owl"})
    assert strange.json()["code"] == "seat_group"
    assert httpx.post(f"{app.url}/api/join", json={"code": opened["code"], "role": "teacher"}).status_code == 422


def test_a_seat_survives_and_ends_with_the_lesson(app: Application, teacher: TeacherClient, grouped: dict[str, Any]) -> None:
    opened = lesson(teacher, grouped)
    first = sit(app, opened["code"], "group", "Curlew")
    me = first.get("/api/session").json()
    assert (me["signed_in"], me["seat"]["role"], me["seat"]["label"], me["seat"]["study_id"]) == (True, "group", "Curlew", grouped["id"])
    again = sit(app, opened["code"], "group", "Curlew")  # a dead battery: the teacher sees both
    in_ = teacher.ok("GET", f"/api/studies/{grouped['id']}/joining")["seats"]
    assert [s["label"] for s in in_] == ["Curlew", "Curlew"]
    teacher.ok("DELETE", f"/api/studies/{grouped['id']}/seats/{in_[0]['id']}")
    assert first.get(f"/api/studies/{grouped['id']}").status_code == 401
    assert again.get(f"/api/studies/{grouped['id']}").status_code == 200
    again.delete("/api/session")
    assert teacher.ok("GET", f"/api/studies/{grouped['id']}/joining")["seats"] == []
    wall = sit(app, opened["code"], "wall")
    closed = teacher.ok("DELETE", f"/api/studies/{grouped['id']}/joining")
    assert (closed["open"], closed["seats"]) == (False, [])
    assert wall.get(f"/api/studies/{grouped['id']}").status_code == 401
    assert httpx.get(f"{app.url}/api/join", params={"code": opened["code"]}).json()["code"] == "code_wrong"
    anew = lesson(teacher, grouped)
    assert anew["code"] != opened["code"]
    with psycopg.connect(app.database(), autocommit=True) as rows:  # its time is over
        rows.execute("update joining set until = now() - interval '1 minute' where study_id = %s", (grouped["id"],))
    assert httpx.get(f"{app.url}/api/join", params={"code": anew["code"]}).json()["code"] == "code_wrong"


def test_only_a_hash_of_the_token_is_kept(app: Application, teacher: TeacherClient, grouped: dict[str, Any]) -> None:
    seat = sit(app, lesson(teacher, grouped)["code"], "wall")
    token = seat.cookies[SEAT_COOKIE]
    with psycopg.connect(app.database()) as rows:
        kept = rows.execute("select token_hash from seat where study_id = %s", (grouped["id"],)).fetchone()
    assert kept is not None
    assert token.encode() not in bytes(kept[0])
    forged = httpx.get(f"{app.url}/api/studies/{grouped['id']}", cookies={SEAT_COOKIE: "0" * 43})
    assert forged.status_code == 401


def test_guesses_never_enter(own_app: Any) -> None:
    """Wrong codes are counted by where they come from; after so many the right one waits as well."""
    app = own_app(join_tries_of_address=20)
    teacher = sign_up(app)
    study = new_study(teacher)
    code = lesson(teacher, study)["code"]
    answers = [httpx.get(f"{app.url}/api/join", params={"code": f"AAA{n:03}"}).status_code for n in range(25)]
    assert answers[:20].count(422) == 20
    assert set(answers[20:]) == {429}
    assert httpx.get(f"{app.url}/api/join", params={"code": code}).status_code == 429
    with psycopg.connect(app.database(), autocommit=True) as rows:
        rows.execute("delete from sign_in_try")
    assert httpx.get(f"{app.url}/api/join", params={"code": code}).status_code == 200


def test_a_lesson_without_groups_is_the_class_and_a_contest_its_devices(app: Application, teacher: TeacherClient) -> None:
    alone = new_study(teacher, groups=[])
    whole = sit(app, lesson(teacher, alone)["code"], "group")
    assert whole.put(f"/api/studies/{alone['id']}/trials/{uuid4()}", json=trial_body(group="")).status_code == 200
    contest = teacher.ok("POST", "/api/studies/usual", json={"id": str(uuid4()), "family": "vehicle", "test": "puck-zones", "class_label": "", "groups": []})
    draft = contest["draft"]
    draft["variable"] |= {"levels": ["Amber", "Birch"], "level_ids": []}
    contest = teacher.ok("PATCH", f"/api/studies/{contest['id']}", json={"version": contest["version"], "draft": draft})
    code = lesson(teacher, contest)["code"]
    assert httpx.get(f"{app.url}/api/join", params={"code": code}).json()[0]["groups"] == ["Amber", "Birch"]
    assert sit(app, code, "group", "Amber").get("/api/session").json()["seat"]["label"] == "Amber"


def test_several_studies_are_let_in_by_one_code_and_closed_together(app: Application, teacher: TeacherClient, grouped: dict[str, Any]) -> None:
    other = new_study(teacher, "The other test", groups=["Bittern", "Curlew"])
    code = teacher.ok("POST", f"/api/studies/{grouped['id']}/joining", json={"minutes": 60, "also": [other["id"]]})["code"]
    offered = httpx.get(f"{app.url}/api/join", params={"code": code}).json()
    assert {o["study_id"]: o["groups"] for o in offered} == {grouped["id"]: ["Avocet", "Curlew"], other["id"]: ["Bittern", "Curlew"]}
    unclear = httpx.post(f"{app.url}/api/join", json={"code": code, "role": "group", "label": "Curlew"})
    assert (unclear.status_code, unclear.json()["code"]) == (422, "seat_study")
    seats = {}
    for study in (grouped, other):
        client = httpx.Client(base_url=app.url, timeout=60)
        assert client.post("/api/join", json={"code": code, "role": "group", "label": "Curlew", "study_id": study["id"]}).status_code == 200
        seats[study["id"]] = client
    assert seats[grouped["id"]].get(f"/api/studies/{other['id']}").status_code == 404  # a seat is in one of them
    assert seats[other["id"]].get(f"/api/studies/{other['id']}").status_code == 200
    teacher.ok("DELETE", f"/api/studies/{grouped['id']}/joining")
    assert [s.get("/api/session").json()["signed_in"] for s in seats.values()] == [False, False]
    assert httpx.get(f"{app.url}/api/join", params={"code": code}).json()["code"] == "code_wrong"
    strange = new_study(sign_up(app))
    assert teacher.http.post(f"/api/studies/{grouped['id']}/joining", json={"minutes": 60, "also": [strange["id"]]}).status_code == 404


def test_a_group_says_it_in_its_own_words_and_predicts_before_its_first_trial(app: Application, teacher: TeacherClient, grouped: dict[str, Any]) -> None:
    code = lesson(teacher, grouped)["code"]
    curlew, wall = sit(app, code, "group", "Curlew"), sit(app, code, "wall")
    path = f"/api/studies/{grouped['id']}/words"
    first = curlew.put(f"{path}/Curlew", json={"predicts": "It  goes further, since it is pulled longer."})
    assert (first.status_code, first.json()["predicts"], first.json()["revision"]) == (200, "It goes further, since it is pulled longer.", 1)
    assert curlew.put(f"{path}/Curlew", json={"predicts": "It goes further, since it is pulled longer."}).json()["revision"] == 1  # sent again
    assert curlew.put(f"{path}/Avocet", json={"says": "Ours is best."}).json()["code"] == "not_own"
    assert wall.put(f"{path}/Curlew", json={"says": "x"}).status_code == 403
    assert curlew.put(f"{path}/Curlew", json={"predicts": "Other", "revision": 0}).json()["code"] == "words_changed"
    teacher.ok("PUT", f"/api/studies/{grouped['id']}/trials/{uuid4()}", json=trial_body(group="Curlew"))
    late = curlew.put(f"{path}/Curlew", json={"predicts": "It goes less far.", "revision": 1})
    assert (late.status_code, late.json()["code"]) == (422, "predicted_late")
    said = curlew.put(f"{path}/Curlew", json={"predicts": first.json()["predicts"], "says": "It went further each time", "revision": 1})
    assert said.json()["revision"] == 2
    report = teacher.ok("POST", f"/api/studies/{grouped['id']}/reports", json={"id": str(uuid4())})
    assert report["sections"]["groups"] == ["Curlew predicted “It goes further, since it is pulled longer”, and says “It went further each time”."]
    assert report["own"]["also"] == ["groups"]  # it stands on the first poster without a press


def test_a_class_that_comes_in_at_one_moment_leaves_no_wrong_try_behind(app: Application, teacher: TeacherClient, grouped: dict[str, Any]) -> None:
    """Right tries at one moment are forgiven each by itself: a school behind one address is not shut out by its own joins."""
    code = lesson(teacher, grouped)["code"]
    with psycopg.connect(app.database(), autocommit=True) as rows:
        counted = "select count(*) from sign_in_try where key = 'join:all'"
        before = rows.execute(counted).fetchone()
        with ThreadPoolExecutor(8) as pool:
            answers = list(pool.map(lambda _: httpx.post(f"{app.url}/api/join", json={"code": code, "role": "group", "label": "Curlew"}, timeout=60).status_code, range(40)))
        assert answers.count(200) >= 30
        assert rows.execute(counted).fetchone() == before


def test_the_wall_sees_who_is_in_and_not_on_which_device(app: Application, teacher: TeacherClient, grouped: dict[str, Any]) -> None:
    code = lesson(teacher, grouped)["code"]
    sit(app, code, "group", "Curlew")
    wall = sit(app, code, "wall")
    seen = wall.get(f"/api/studies/{grouped['id']}/joining").json()
    assert (seen["code"], [(s["label"], s["device"]) for s in seen["seats"]]) == (code, [("Curlew", ""), ("wall", "")])
    assert all(s["device"] for s in teacher.ok("GET", f"/api/studies/{grouped['id']}/joining")["seats"])
    assert wall.delete(f"/api/studies/{grouped['id']}/joining").status_code == 403
