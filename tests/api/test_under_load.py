"""A whole class at one moment, slow senders, and answers that nobody foresaw: all kept, nobody locked out, every answer whole."""

from __future__ import annotations

import asyncio
import io
import socket
import time
from collections import Counter
from typing import Any
from urllib.parse import urlparse
from uuid import uuid4

import httpx
import pytest
from PIL import Image

from tests.conftest import PASSWORD, Application, TeacherClient, new_study, sign_up, trial_body

pytestmark = pytest.mark.api
#: More than the connections to the database and the worker threads together.
AT_ONCE = 150
SLOW = 30


async def _save_all(app: Application, teacher: TeacherClient, study: str) -> Counter[int]:
    answers: Counter[int] = Counter()
    limits = httpx.Limits(max_connections=AT_ONCE)
    async with httpx.AsyncClient(base_url=app.url, cookies=teacher.http.cookies, timeout=60, limits=limits) as http:

        async def save() -> None:
            path = f"/api/studies/{study}/trials/{uuid4()}"
            for _ in range(60):
                answer = await http.put(path, json=trial_body())
                answers[answer.status_code] += 1
                if answer.status_code != 503:
                    return
                assert answer.json()["code"] == "busy"
                await asyncio.sleep(float(answer.headers["Retry-After"]))

        await asyncio.gather(*[save() for _ in range(AT_ONCE)])
    return answers


def test_far_more_saves_than_connections_at_one_moment_are_all_kept(app: Application, teacher: TeacherClient) -> None:
    study = new_study(teacher)
    answers = asyncio.run(_save_all(app, teacher, study["id"]))
    assert set(answers) <= {200, 503}
    assert answers[200] == AT_ONCE
    assert len(teacher.ok("GET", f"/api/studies/{study['id']}/trials")) == AT_ONCE


def _begin_slowly(app: Application, teacher: TeacherClient, length: int) -> socket.socket:
    at = urlparse(app.url)
    opened = socket.create_connection(("127.0.0.1", at.port or 80), timeout=60)
    cookie = "; ".join(f"{k}={v}" for k, v in teacher.http.cookies.items())
    head = f"PUT /api/studies/{uuid4()}/trials/{uuid4()} HTTP/1.1\r\nHost: {at.netloc}\r\nCookie: {cookie}\r\nContent-Type: application/json\r\nContent-Length: {length}\r\n\r\n"
    opened.sendall(head.encode() + b'{"block"')
    return opened


def test_those_who_send_slowly_hold_nobody_up_and_are_given_up(app: Application, teacher: TeacherClient) -> None:
    study = new_study(teacher)
    slow = [_begin_slowly(app, teacher, 500) for _ in range(SLOW)]
    try:
        time.sleep(0.3)
        kept = teacher.http.put(f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body())
        assert kept.status_code == 200
        answer = ""
        while "}" not in answer:
            answer += slow[0].recv(65_536).decode()
        assert answer.startswith("HTTP/1.1 408")
        assert "body_slow" in answer
    finally:
        for opened in slow:
            opened.close()


def test_guessing_passwords_holds_no_save_up(app: Application, teacher: TeacherClient) -> None:
    study = new_study(teacher)

    async def both() -> tuple[Counter[int], list[int]]:
        guesses: Counter[int] = Counter()
        saves: list[int] = []
        limits = httpx.Limits(max_connections=80)
        async with httpx.AsyncClient(base_url=app.url, timeout=60, limits=limits) as http:

            async def guess() -> None:
                body = {"sign_in_name": f"nobody-{uuid4()}", "password": "a wrong password"}
                guesses[(await http.post("/api/session", json=body)).status_code] += 1

            async def save() -> None:
                path = f"/api/studies/{study['id']}/trials/{uuid4()}"
                saves.append((await http.put(path, json=trial_body(), cookies=teacher.http.cookies)).status_code)

            await asyncio.gather(*[guess() for _ in range(60)], *[save() for _ in range(10)])
        return guesses, saves

    guesses, saves = asyncio.run(both())
    assert saves == [200] * 10
    assert set(guesses) <= {422, 503}
    assert guesses[503] > 0  # those beyond the slots are sent away rather than kept waiting


@pytest.mark.parametrize(
    "send",
    [
        {"method": "POST", "url": "/api/studies", "headers": {"Origin": "http://elsewhere.example"}, "json": {}},
        {"method": "POST", "url": "/api/tables", "content": b"x" * 7_000_000},
        {"method": "GET", "url": "/api/nothing-here"},
        {"method": "POST", "url": "/api/studies", "content": b'{"title": "\\ud800"}'},
        {"method": "POST", "url": "/api/studies", "content": b'{"title": ' + b"9" * 5_000 + b"}"},
        {"method": "POST", "url": "/api/studies", "content": b'{"title": "\\u0000"}'},
    ],
)
def test_refusals_are_problem_documents_with_every_header(teacher: TeacherClient, send: dict[str, object]) -> None:
    answer = teacher.http.request(**send)  # type: ignore[arg-type]
    assert 400 <= answer.status_code < 500
    assert answer.headers["content-type"] == "application/problem+json"
    assert answer.headers["x-content-type-options"] == "nosniff"
    assert answer.headers["referrer-policy"] == "same-origin"
    assert answer.headers["cache-control"] == "no-store"
    assert "frame-ancestors 'none'" in answer.headers["content-security-policy"]
    assert len(answer.json()["detail"]) > 15


def test_a_stranger_is_sent_away_before_anything_is_read_and_the_class_goes_on(app: Application, teacher: TeacherClient) -> None:
    study = new_study(teacher)
    at = urlparse(app.url)
    slow = []
    for _ in range(12):
        opened = socket.create_connection(("127.0.0.1", at.port or 80), timeout=20)
        path = f"/api/studies/{study['id']}/versions/{uuid4()}/photo"
        opened.sendall(f"PUT {path} HTTP/1.1\r\nHost: {at.netloc}\r\nContent-Type: image/png\r\nContent-Length: 9000000\r\n\r\nx".encode())
        slow.append(opened)
    try:
        began = time.monotonic()
        told = slow[0].recv(65_536).decode()
        assert told.startswith("HTTP/1.1 401")  # and not after the time that a body may take
        version = str(uuid4())
        teacher.ok("PUT", f"/api/studies/{study['id']}/versions/{version}", json={"device": "Red", "draft": {}, "revision": 0})
        picture = io.BytesIO()
        Image.new("RGB", (60, 40), (200, 120, 0)).save(picture, "JPEG")
        photo = teacher.http.put(f"/api/studies/{study['id']}/versions/{version}/photo", content=picture.getvalue(), headers={"Content-Type": "image/jpeg"})
        assert photo.status_code in (200, 204)
        assert time.monotonic() - began < 8  # body_s of the tests
    finally:
        for opened in slow:
            opened.close()


@pytest.mark.parametrize(
    ("path", "length", "code"),
    [("/api/session", 50_000, "too_large"), ("/api/practice/unfair", 50_000, "too_large"), ("/api/instruments/ABCDEFGHJK", 100, "not_found"), ("/api/instruments/x", 9, "not_found")],
)
def test_what_strangers_may_send_is_small(app: Application, path: str, length: int, code: str) -> None:
    answer = httpx.post(app.url + path, content=b"x" * length, timeout=20)
    assert answer.json()["code"] == code


def test_one_accounts_heavy_calls_wait_behind_each_other_and_all_are_answered(app: Application, teacher: TeacherClient) -> None:
    study = new_study(teacher)
    for n in range(8):
        teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body(block=1 + n % 3))
    package = teacher.http.get(f"/api/studies/{study['id']}/package.zip").content

    async def all_of_them() -> list[int]:
        async with httpx.AsyncClient(base_url=app.url, cookies=teacher.http.cookies, timeout=60, limits=httpx.Limits(max_connections=20)) as http:
            answers = await asyncio.gather(*[http.put(f"/api/studies/{uuid4()}/package", content=package) for _ in range(16)])
            return [a.status_code for a in answers]

    assert asyncio.run(all_of_them()) == [201] * 16


def test_long_constant_answers_are_not_sent_twice(app: Application, teacher: TeacherClient) -> None:
    for path in ("/api/openapi.json", "/api/families", "/api/calculators"):
        first = teacher.http.get(path)
        assert first.status_code == 200
        again = teacher.http.get(path, headers={"If-None-Match": first.headers["etag"]})
        assert (again.status_code, again.content) == (304, b"")
        other = teacher.http.get(path, headers={"If-None-Match": '"another"'})
        assert other.content == first.content
    assert httpx.get(f"{app.url}/api/families").status_code == 401


def test_a_proxy_is_only_believed_when_it_was_named(app: Application, own_app: Any) -> None:
    """X-Forwarded-For from loopback would let one machine guess from a thousand addresses."""
    forged = {"X-Forwarded-For": "198.51.100.7", "X-Forwarded-Proto": "https"}
    plain = sign_up(app)
    for url, name, address, secure in ((app.url, plain.name, "127.0.0.1", False), *_behind_a_proxy(own_app)):
        with httpx.Client(base_url=url, timeout=60) as http:
            answer = http.post("/api/session", json={"sign_in_name": name, "password": PASSWORD}, headers=forged)
            assert answer.status_code == 200
            assert [("secure" in c.lower()) for c in answer.headers.get_list("set-cookie")] == [secure] * 2
            token = next(c.split("=", 1)[1].split(";")[0] for c in answer.headers.get_list("set-cookie") if c.startswith("bendro_session"))
            school = http.get("/api/school", headers={"Cookie": f"bendro_session={token}"}).json()
            assert f"computer at {address}" in [s["device"] for s in school["sign_ins"]]


def _behind_a_proxy(own_app: Any) -> list[tuple[str, str, str, bool]]:
    behind = own_app("--no-demo", "--proxy", "127.0.0.1")
    return [(behind.url, sign_up(behind).name, "198.51.100.7", True)]
