"""Templates, their files, and the pictures of a school's own build sheet, over the real application."""

from __future__ import annotations

import io
from typing import Any
from uuid import uuid4

from PIL import Image

from tests.conftest import Application, TeacherClient, new_study, sign_up


def usual(teacher: TeacherClient, family: str, test: str) -> dict[str, Any]:
    found: dict[str, Any] = teacher.ok("POST", "/api/studies/usual", json={"id": str(uuid4()), "family": family, "test": test, "class_label": "", "groups": ["Avocet"]})
    return found


def picture(colour: str = "teal") -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (80, 60), colour).save(out, "JPEG")
    return out.getvalue()


def put_picture(teacher: TeacherClient, study: dict[str, Any], one: str, data: bytes) -> Any:
    return teacher.http.put(f"/api/studies/{study['id']}/sheet-pictures/{one}", content=data, headers={"content-type": "image/jpeg"})


def test_templates_follow_the_plan_and_the_versions(teacher: TeacherClient) -> None:
    study = usual(teacher, "rotor", "clip")
    made = teacher.ok("GET", f"/api/studies/{study['id']}/templates")
    assert (made["device"], made["groups"], made["build"]["name"]) == ("rotor", ["Avocet"], "two-bladed rotor")
    assert next(s for s in made["sizes"] if s["name"] == "blade length") | {"hint": ""} == {
        "name": "blade length", "kind": "length", "unit": "cm", "value": "8 cm", "source": "usual", "choices": [], "hint": "",
    }  # fmt: skip
    for name in ("Avocet", "Curlew"):
        draft = {"properties": [{"name": "blade length", "value": "9 cm"}, {"name": "blade width", "value": "3 cm" if name == "Avocet" else "4 cm"}]}
        teacher.ok("PUT", f"/api/studies/{study['id']}/versions/{uuid4()}", json={"device": name, "draft": draft, "revision": 0})
    sizes = {s["name"]: (s["value"], s["source"]) for s in teacher.ok("GET", f"/api/studies/{study['id']}/templates")["sizes"]}
    assert sizes["blade length"] == ("9 cm", "built")
    assert sizes["blade width"] == ("2.5 cm", "usual")  # the versions do not agree in it


def test_what_cannot_be_printed_is_refused_with_a_sentence(teacher: TeacherClient) -> None:
    study = usual(teacher, "rotor", "blade-length")
    for query, code in (({"margin": 60}, "margin_range"), ({"line": 30}, "ruler_strange"), ({"square": 5}, "ruler_strange")):
        answer = teacher.http.get(f"/api/studies/{study['id']}/templates", params=query)
        assert (answer.status_code, answer.json()["code"]) == (422, code)
    assert teacher.http.get(f"/api/studies/{study['id']}/templates", params={"paper": "b5"}).status_code == 422
    assert teacher.http.get(f"/api/studies/{study['id']}/templates.svg", params={"piece": 99}).status_code == 404
    text = teacher.http.get(f"/api/studies/{study['id']}/templates.svg", params={"group": "<Curlew & Co>"})
    assert text.headers["content-type"] == "image/svg+xml"
    assert "&lt;Curlew &amp; Co&gt;" in text.text


def test_a_study_without_a_family_says_what_is_missing(teacher: TeacherClient) -> None:
    study = teacher.ok("POST", "/api/studies", json={"id": str(uuid4()), "title": "Bare", "draft": {}})
    made = teacher.ok("GET", f"/api/studies/{study['id']}/templates")
    assert [p["code"] for p in made["problems"]] == ["family_unknown"]
    assert made["build"] is None
    assert made["layout"]["sheets"] == []


def test_pictures_of_the_schools_own_sheet(app: Application, teacher: TeacherClient) -> None:
    study, other = new_study(teacher), new_study(teacher)
    ids = [str(uuid4()) for _ in range(7)]
    for one in ids[:6]:
        assert put_picture(teacher, study, one, picture()).json()[-1] == one
    assert put_picture(teacher, study, ids[0], picture("red")).json() == ids[:6]  # sent again, nothing changes
    full = put_picture(teacher, study, ids[6], picture())
    assert (full.status_code, full.json()["code"]) == (422, "pictures_many")
    assert put_picture(teacher, other, str(uuid4()), b"no picture").status_code == 422
    shown = teacher.http.get(f"/api/studies/{study['id']}/sheet-pictures/{ids[0]}")
    assert Image.open(io.BytesIO(shown.content)).size == (80, 60)
    assert teacher.http.get(f"/api/studies/{other['id']}/sheet-pictures/{ids[0]}").status_code == 404
    stranger = sign_up(app)
    assert stranger.http.get(f"/api/studies/{study['id']}/sheet-pictures/{ids[0]}").status_code == 404
    assert stranger.http.delete(f"/api/studies/{study['id']}/sheet-pictures/{ids[0]}").status_code in (200, 404)
    assert teacher.ok("GET", f"/api/studies/{study['id']}/sheet-pictures") == ids[:6]
    assert teacher.ok("DELETE", f"/api/studies/{study['id']}/sheet-pictures/{ids[0]}") == ids[1:6]


def test_the_measured_size_is_asked_and_kept(teacher: TeacherClient) -> None:
    study = usual(teacher, "rocket", "fins")
    one = str(uuid4())
    path = f"/api/studies/{study['id']}/versions/{one}"
    body = {"device": "Red", "draft": {"properties": [{"name": "fin area", "value": "12 cm²"}]}, "revision": 0}
    made = teacher.ok("PUT", path, json=body)
    assert made["as_cut"] == {"what": "root edge of the fin", "called": "4.9 cm", "unit": "cm", "level": "12 cm²"}
    draft = made["draft"] | {"measured": [{"name": "root edge of the fin", "value": "4.7"}]}
    assert teacher.ok("PUT", path, json={"device": "Red", "draft": draft, "revision": made["revision"]})["draft"]["measured"] == draft["measured"]
