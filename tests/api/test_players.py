"""A class that plays itself: it comes in by the code as everybody does, keeps every turn once, and what it did bears its seats."""

from __future__ import annotations

import asyncio
import os
import subprocess
import sys
from typing import Any

import httpx
import pytest

from bendro.demo.players.device import Device, Refused
from bendro.demo.players.lesson import run_class
from tests.api.test_seats import lesson
from tests.conftest import ROOT, Application, TeacherClient, new_study

pytestmark = pytest.mark.api
TIMED = [{"id": "m1", "name": "fall time", "quantity": "time", "unit": "s", "timed": True, "timers": 3, "step": "0.01"}]


def play(teacher: TeacherClient, study: dict[str, Any], **more: Any) -> list[str]:
    told: list[str] = []
    code = lesson(teacher, study)["code"]
    try:
        asyncio.run(asyncio.wait_for(run_class(teacher.url, code, tell=told.append, **{"speed": 60, "seed": 3, **more}), 120))
    except TimeoutError:
        pytest.fail(f"the class did not come to an end: {told[-12:]}")
    return told


def test_every_turn_is_kept_once_and_bears_its_seat(teacher: TeacherClient) -> None:
    study = new_study(teacher, groups=["Avocet", "Bittern", "Curlew", "Dunlin"], repeats=4, timing={"lanes": 2})
    told = play(teacher, study)
    trials = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
    kept = [t for t in trials if t["state"] == "kept"]
    turns = {(t["block"], t["level"]): t["group"] for t in study["turns"]}
    assert {(t["block"], t["level"]): t["group"] for t in kept} == turns
    assert len(kept) == len(turns)  # two screens never kept the same turn
    history = teacher.ok("GET", f"/api/studies/{study['id']}/trials/{kept[0]['id']}/history")
    assert history[0]["sent_by"] == kept[0]["group"]
    assert any("falls silent" in line for line in told)
    assert any("is back" in line for line in told)


def test_timers_join_the_falls_and_the_same_seed_reads_the_same(teacher: TeacherClient) -> None:
    first = new_study(teacher, groups=["Avocet", "Curlew"], repeats=2, measures=TIMED)
    play(teacher, first, timers=2)
    kept = [t for t in teacher.ok("GET", f"/api/studies/{first['id']}/trials") if t["state"] == "kept"]
    of_phones = [t["readings"][0] for t in kept if t["readings"][0]["taken"] == "phones"]
    assert len(of_phones) >= len(kept) // 2
    for r in of_phones:
        assert 2 <= len(r["texts"]) <= 3
        assert "Timer" in r["source"]
        assert r["reading"]["value"] == pytest.approx(float(r["texts"][0]), abs=0.5)
        assert 0 < r["clock_s"] < 0.5


def test_a_wrong_code_lets_no_class_in(app: Application, teacher: TeacherClient) -> None:
    with pytest.raises(Refused, match="lets nobody in"):
        asyncio.run(run_class(teacher.url, "ZZZ ZZZ", tell=lambda line: None))
    answer = subprocess.run([sys.executable, "-m", "bendro.terminal", "class", "ZZZZZZ", "--to", app.url], capture_output=True, text=True, cwd=ROOT, env={**os.environ}, check=False, timeout=120)
    assert answer.returncode == 2
    assert "lets nobody in" in answer.stderr


def test_the_class_ends_with_the_lesson(teacher: TeacherClient) -> None:
    study = new_study(teacher, groups=["Avocet", "Curlew"], repeats=6)
    code = lesson(teacher, study)["code"]

    async def both() -> int:
        playing = asyncio.create_task(run_class(teacher.url, code, speed=30, tell=lambda line: None))
        await asyncio.sleep(2)
        await asyncio.to_thread(teacher.http.delete, f"/api/studies/{study['id']}/joining")
        return await asyncio.wait_for(playing, 60)

    assert asyncio.run(both()) < len(study["turns"])


def test_only_the_demo_lets_a_made_class_in_by_a_button(app: Application, teacher: TeacherClient) -> None:
    study = new_study(teacher, groups=["Avocet", "Curlew"])
    refused = teacher.http.post(f"/api/studies/{study['id']}/players")
    assert (refused.status_code, refused.json()["code"]) == (403, "only_demo")


def test_a_clock_is_compared_by_round_trips(teacher: TeacherClient) -> None:
    study = new_study(teacher, groups=["Avocet"])
    code = lesson(teacher, study)["code"]

    async def compared() -> tuple[float, float]:
        phone = Device(teacher.url, "timer")
        await phone.join(code)
        await phone.listen()
        await asyncio.sleep(0.5)
        await phone.compare_clocks()
        await phone.close()
        return phone.ahead_s, phone.trip_s

    ahead, trip = asyncio.run(compared())
    assert abs(ahead) <= trip / 2 + 0.001  # one machine: the clocks are the same, and that lies within what is said
    assert 0 < trip < 0.5


def test_the_demo_button_plays_a_lesson(own_app: Any) -> None:
    app = own_app()
    client = httpx.Client(base_url=app.url, timeout=60)
    assert client.post("/api/session/demo", headers={"Origin": app.url}).status_code == 200
    home = client.get("/api/studies").json()
    study = client.get(f"/api/studies/{next(s['id'] for s in home if s['title'].startswith('Medicine'))}").json() if any(s["title"].startswith("Medicine") for s in home) else client.get(f"/api/studies/{home[0]['id']}").json()
    answer = client.post(f"/api/studies/{study['id']}/players", headers={"Origin": app.url})
    assert answer.status_code == 204, answer.text
    for _ in range(200):
        seats = client.get(f"/api/studies/{study['id']}/joining").json()["seats"]
        if len(seats) >= 3:
            break
        asyncio.run(asyncio.sleep(0.2))
    assert len(seats) >= 3
    assert client.post(f"/api/studies/{study['id']}/players", headers={"Origin": app.url}).status_code == 204  # pressed twice: one class
