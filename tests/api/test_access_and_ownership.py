"""Signing in, and that nobody reaches another workspace's rows by any route."""

from __future__ import annotations

import re
from typing import Any
from uuid import uuid4

import httpx
import pytest

from bendro.instruments.made import phone_log
from tests.conftest import PASSWORD, Application, TeacherClient, new_study, sign_up, trial_body

pytestmark = pytest.mark.api
#: A fall from rest, as a camera followed it.
TRACK = {"t": [n / 30 for n in range(20)], "x": [100.0] * 20, "y": [60 + 4.9 * 200 * (n / 30) ** 2 for n in range(20)]}
OPEN_ROUTES = {
    ("post", "/api/instruments/{code}"),  # the code is the whole right to send
    ("get", "/api/here"),  # what the sign-in page shows at the machine itself
    ("get", "/api/trust"),
    ("get", "/api/help/{page}"),
    ("get", "/api/made/{name}"),  # to try the camera without one
    ("get", "/api/made-log"),
    ("get", "/api/practice/{kind}"),  # pupils have no account
    ("post", "/api/practice/{kind}"),
    ("get", "/api/session"),
    ("post", "/api/session"),
    ("post", "/api/session/demo"),
    ("post", "/api/session/first"),
    ("post", "/api/session/invited"),
    ("delete", "/api/session"),
    ("get", "/api/join"),
    ("post", "/api/join"),
}


def routes(app: Application) -> list[tuple[str, str, dict[str, Any]]]:
    document = httpx.get(f"{app.url}/api/openapi.json").json()
    return [(method, path, spec) for path, methods in document["paths"].items() for method, spec in methods.items()]


def body_for(path: str, method: str, study: dict[str, Any]) -> dict[str, Any] | None:
    """A body that would be accepted if the row were one's own, so that a refusal is about ownership."""
    if method == "patch":
        return {"version": study["version"], "title": "taken over"}
    if path.endswith("/runs"):
        return {"id": str(uuid4()), "adult": "teacher", "cautions": []}
    if path.endswith("/sign-off"):
        return {"id": str(uuid4()), "adult": "teacher", "cautions": []}
    if path.endswith("/copy"):
        return {"id": str(uuid4()), "title": "taken over"}
    if path.endswith("/undo"):
        return {"version": study["version"]}
    if path.endswith("versions/{version_id}"):
        return {"device": "Red", "draft": {}, "revision": 0}
    more = {
        "/conditions": {"conditions": {}},
        "/joining": {"minutes": 60},
        "/lanes": {"stopped": False},
        "/lanes/{lane}": {"state": "closed"},
        "/screens/{screen_id}": {"doing": "looking"},
        "/hand": {"to": None},
        "/words/{group}": {"says": "It falls slower."},
        "/presses/{screen_id}": {"landed_at": 1.0},
        "/instruments/simulate": {"instrument": "gate"},
        "/thumbs": {"who": "seat 1", "shown": [1.0] * 5, "pressed": [1.0] * 5},
        "/reports": {"id": str(uuid4())},
        "/final": {"id": str(uuid4())},
        "/following": {"id": str(uuid4()), "best": "1", "change": "wing"},
        "/what-if": {},
        "/sums": {"answers": []},
        "reports/{report_id}": {"revision": 1},
        "/gates": {"first": {"t": 0, "u": 0}, "last": {"t": 1, "u": 0}, "rate": 30},
        "/followed": {"looked": "fall", "track": TRACK, "marks": {"a": {"x": 0, "y": 400}, "b": {"x": 0, "y": 0}, "apart": "2 m"}},
        "/tape-picture": {"numbers": [{"where": {"x": 0, "y": 0}, "at": "1"}, {"where": {"x": 400, "y": 0}, "at": "2"}], "mark": {"x": 200, "y": 0}},
        "/heard-time": {"from_s": 0, "to_s": 1},
        "/felt": {"log": phone_log().model_dump(), "number": 1},
        "/seen/{trial_id}": {},
    }
    for end, body in more.items():
        if path.endswith(end):
            return body
    if path.endswith("/readings"):
        return {"measure": "m1", "texts": ["4.52"], "unit": "m"}
    if "trials/{trial_id}" in path:
        return trial_body(text="9.99")
    return None


def test_every_route_but_signing_in_refuses_without_a_session(app: Application) -> None:
    checked = 0
    for method, path, _ in routes(app):
        if (method, path) in OPEN_ROUTES:
            continue
        filled = re.sub(r"\{\w+\}", lambda _: str(uuid4()), path)
        answer = httpx.request(method, app.url + filled, json={} if method != "get" else None)
        assert answer.status_code in (401, 422), (method, path, answer.status_code)
        assert answer.status_code == 401 or method != "get", (method, path)
        checked += 1
    assert checked >= 11


def test_no_route_shows_or_changes_another_workspaces_study(app: Application) -> None:
    mine, other = sign_up(app), sign_up(app)
    study = new_study(mine)
    trial_id = str(uuid4())
    mine.ok("PUT", f"/api/studies/{study['id']}/trials/{trial_id}", json=trial_body())
    version_id = str(uuid4())
    mine.ok("PUT", f"/api/studies/{study['id']}/versions/{version_id}", json={"device": "Red"})
    before = (mine.ok("GET", f"/api/studies/{study['id']}"), mine.ok("GET", f"/api/studies/{study['id']}/trials"))
    reached = 0
    for method, path, spec in routes(app):
        if "{study_id}" not in path:
            continue
        query = {
            p["name"]: ("mean" if p["name"] == "about" else version_id if path.endswith("compare") else "4")
            for p in spec.get("parameters", [])
            if p["in"] == "query" and p.get("required")
        }
        filled = path.replace("{study_id}", study["id"]).replace("{trial_id}", trial_id).replace("{version_id}", version_id).replace("{report_id}", str(uuid4())).replace("{picture_id}", str(uuid4())).replace("{seat_id}", str(uuid4())).replace("{lane}", "1").replace("{place}", "1")
        filled = re.sub(r"\{\w+\}", lambda _: str(uuid4()), filled)
        answer = other.http.request(method, filled, params=query, json=body_for(path, method, study))
        assert answer.status_code == 404, (method, path, answer.text)
        assert study["title"] not in answer.text
        reached += 1
    assert reached >= 20
    # the same trial id under a study of one's own reaches nothing either
    own = new_study(other, "Own study")
    stolen = other.http.put(f"/api/studies/{own['id']}/trials/{trial_id}", json=trial_body(text="1.11", revision=2))
    assert stolen.status_code == 404
    assert other.http.post("/api/studies", json={"id": study["id"], "title": "Same id"}).status_code == 404
    assert study["id"] not in other.ok("GET", "/api/studies").__repr__()
    assert before == (mine.ok("GET", f"/api/studies/{study['id']}"), mine.ok("GET", f"/api/studies/{study['id']}/trials"))


def test_the_cookie_is_out_of_reach_of_scripts_and_other_pages(app: Application, teacher: TeacherClient) -> None:
    answer = httpx.post(f"{app.url}/api/session", json={"sign_in_name": teacher.name.upper(), "password": PASSWORD})
    cookie = answer.headers["set-cookie"]
    assert "HttpOnly" in cookie
    assert "SameSite=strict" in cookie
    refused = teacher.http.post("/api/studies", json={"id": str(uuid4()), "title": "x"}, headers={"Origin": "http://elsewhere.example"})
    assert (refused.status_code, refused.json()["code"]) == (403, "other_origin")


def test_signing_out_ends_the_session_on_the_server(app: Application) -> None:
    teacher = sign_up(app)
    kept = dict(teacher.http.cookies)
    teacher.ok("DELETE", "/api/session")
    assert httpx.get(f"{app.url}/api/studies", cookies=kept).status_code == 401


def test_a_wrong_name_and_a_wrong_password_sound_the_same(app: Application, teacher: TeacherClient) -> None:
    one = httpx.post(f"{app.url}/api/session", json={"sign_in_name": teacher.name, "password": "wrong wrong wrong"}).json()
    two = httpx.post(f"{app.url}/api/session", json={"sign_in_name": "nobody-here", "password": "wrong wrong wrong"}).json()
    assert one == two
