"""A whole class at one moment, slow senders, and answers that nobody foresaw: all kept, nobody locked out, every answer whole."""

from __future__ import annotations

import asyncio
import socket
import time
from collections import Counter
from urllib.parse import urlparse
from uuid import uuid4

import httpx
import pytest

from tests.conftest import Application, TeacherClient, new_study, trial_body

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


def _begin_slowly(app: Application, length: int) -> socket.socket:
    at = urlparse(app.url)
    opened = socket.create_connection(("127.0.0.1", at.port or 80), timeout=60)
    head = f"PUT /api/studies/{uuid4()}/trials/{uuid4()} HTTP/1.1\r\nHost: {at.netloc}\r\nContent-Type: application/json\r\nContent-Length: {length}\r\n\r\n"
    opened.sendall(head.encode() + b'{"block"')
    return opened


def test_those_who_send_slowly_hold_nobody_up_and_are_given_up(app: Application, teacher: TeacherClient) -> None:
    study = new_study(teacher)
    slow = [_begin_slowly(app, 500) for _ in range(SLOW)]
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
