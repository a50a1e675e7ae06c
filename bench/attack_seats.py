"""Attacks by seats and by those who have none: guessed signs, closed lessons, foreign studies, roles that ask for more, a flood of joins while the
lanes save, and screens that say too much."""

from __future__ import annotations

import asyncio
import random
import time
from collections import Counter
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx

from bench.attack_class import client, running, saved
from bendro.actions.seats import LONG, SIGNS
from tests.conftest import Application, TeacherClient, new_study, sign_up, trial_body

#: So many signs are guessed; at the pace that is let through a million would take longer than any lesson is open.
GUESSES, WANTED, OPEN_S = 3_000, 1_000_000, 24 * 3600


def _lesson(teacher: TeacherClient, study: dict[str, Any]) -> str:
    code: str = teacher.ok("POST", f"/api/studies/{study['id']}/joining", json={"minutes": 60})["code"].replace(" ", "")
    return code


def _sit(app: Application, code: str, role: str, label: str = "") -> httpx.Client:
    http = httpx.Client(base_url=app.url, timeout=60)
    http.post("/api/join", json={"code": code, "role": role, "label": label}).raise_for_status()
    return http


def guessed_signs(folder: Path, dice: random.Random) -> str:
    """Many guess the signs of a lesson while its groups come in."""
    with running(folder) as (app, teacher, _):
        study = new_study(teacher, groups=["Curlew"])
        code = _lesson(teacher, study)
        answers: Counter[int] = Counter()

        async def guess(http: httpx.AsyncClient, signs: str) -> None:
            answer = await http.get("/api/join", params={"code": signs})
            answers[answer.status_code] += 1
            assert answer.status_code != 200 or signs == code, f"{signs} let somebody in"

        async def all_of_them() -> float:
            async with client(app, 60) as http:
                began = time.monotonic()
                for start in range(0, GUESSES, 300):
                    await asyncio.gather(*(guess(http, "".join(dice.choice(SIGNS) for _ in range(LONG))) for _ in range(min(300, GUESSES - start))))
                return time.monotonic() - began

        took = asyncio.run(all_of_them())
        looked = answers[422]
        assert answers[200] == 0, f"{answers[200]} guesses were let in"
        assert looked <= 80, f"{looked} guesses of one address were looked at within the window"
        assert WANTED / max(1, looked) * 600 > OPEN_S, "a million guesses would fit into a lesson"
        return f"{GUESSES} guesses in {took:.0f} s: {looked} looked at, {GUESSES - looked} turned away, none let in; of {len(SIGNS) ** LONG:.1e} signs"


def closed_lessons(folder: Path, _: random.Random) -> str:
    """Seats of a closed lesson, of one sent out, and of another study try everything they could before."""
    with running(folder) as (app, teacher, _path):
        tried = 0
        study, other = new_study(teacher, groups=["Curlew", "Avocet"]), new_study(teacher, groups=["Curlew"])
        strange = new_study(sign_up(app), groups=["Curlew"])
        code = _lesson(teacher, study)
        seats = {role: _sit(app, code, role, "Curlew") for role in ("group", "timer", "wall", "colleague")}
        for role, http in seats.items():
            for foreign in (other, strange):
                for method, path, body in _calls(foreign):
                    answer = http.request(method, path, json=body)
                    assert answer.status_code in (403, 404), f"a {role}’s seat got {answer.status_code} from {method} {path} of another study"
                    tried += 1
        teacher.ok("DELETE", f"/api/studies/{study['id']}/joining")
        for role, http in seats.items():
            for method, path, body in _calls(study):
                answer = http.request(method, path, json=body)
                assert answer.status_code == 401, f"a {role}’s seat of a closed lesson got {answer.status_code} from {method} {path}"
                tried += 1
        assert httpx.post(f"{app.url}/api/join", json={"code": code, "role": "group", "label": "Curlew"}).status_code == 422, "a closed code let somebody in"
        assert teacher.ok("GET", f"/api/studies/{study['id']}/trials") == [], "a trial was kept by a seat of a closed lesson"
        return f"{tried} calls of seats to foreign studies and after the end: none did anything"


def _calls(study: dict[str, Any]) -> list[tuple[str, str, object]]:
    p = f"/api/studies/{study['id']}"
    t = study["turns"][0]
    return [
        ("GET", p, None), ("GET", f"{p}/trials", None), ("GET", f"{p}/screens", None), ("GET", f"{p}/words", None),
        ("PUT", f"{p}/trials/{uuid4()}", trial_body(group="Curlew")), ("PUT", f"{p}/screens/{uuid4()}", {"doing": "calling", "turns": [{"block": t["block"], "level": t["level"]}]}),
        ("PUT", f"{p}/falls/{uuid4()}/presses/{uuid4()}", {"landed_at": 1.0}), ("POST", f"{p}/screens/{uuid4()}/hand", {"to": None}),
        ("PUT", f"{p}/lanes", {"stopped": True}), ("PUT", f"{p}/words/Curlew", {"says": "x"}), ("PATCH", p, {"version": 1, "title": "taken over"}), ("DELETE", p, None),
    ]  # fmt: skip


def joins_while_lanes_save(folder: Path, _: random.Random) -> str:
    """A thousand joins at once, right and wrong ones, while the lanes of a class save: no save is refused, and each seat is one."""
    joins, saves = 1_000, 150
    with running(folder) as (app, teacher, path):
        study = new_study(teacher, groups=["Curlew"], run=False)
        codes = [_lesson(teacher, study)] + [_lesson(teacher, new_study(teacher, groups=["Curlew"], run=False)) for _ in range(7)]
        answers: Counter[int] = Counter()
        saved_as: Counter[int] = Counter()

        async def join(http: httpx.AsyncClient, n: int) -> None:
            code = codes[n % len(codes)] if n % 10 else "AAAAAA"
            answer = await http.post("/api/join", json={"code": code, "role": "group", "label": "Curlew"}, headers={"Cookie": ""})
            answers[answer.status_code] += 1

        async def both() -> list[float]:
            async with client(app, 200) as http, client(app, 20) as lanes:
                flood = asyncio.create_task(_in_turn(join, http, joins))
                took = []
                for _ in range(saves // 5):
                    took += await asyncio.gather(*(saved(lanes, path, saved_as, teacher.http.cookies) for _ in range(5)))
                await flood
                return took

        took = asyncio.run(both())
        kept = len(teacher.ok("GET", path))
        assert kept == saves, f"{kept} of {saves} saves are there"
        assert set(answers) <= {200, 422, 429, 503}, f"answers {dict(answers)}"
        assert answers[200] > 0, "nobody came in"
        return f"{joins} joins: {answers[200]} in, {answers[422]} wrong, {answers[429] + answers[503]} asked to come again; {kept} saves kept meanwhile, the slowest {max(took):.1f} s"


async def _in_turn(join: Any, http: httpx.AsyncClient, joins: int) -> None:
    await asyncio.gather(*(join(http, n) for n in range(joins)))


def loud_screens(folder: Path, dice: random.Random) -> str:
    """Screens that say far too much, far too often, and in the name of others: the lanes go on, and nobody's turn is taken."""
    with running(folder) as (app, teacher, path):
        study = new_study(teacher, groups=["Curlew", "Avocet"])
        code = _lesson(teacher, study)
        curlew, avocet = _sit(app, code, "group", "Curlew"), _sit(app, code, "group", "Avocet")
        own = next(t for t in study["turns"] if t["group"] == "Curlew")
        screens, mine = f"/api/studies/{study['id']}/screens", str(uuid4())
        turn = {"block": own["block"], "level": own["level"]}
        assert curlew.put(f"{screens}/{mine}", json={"doing": "calling", "turns": [turn], "half": {"0": "4.5"}}).json()["granted"]
        refused: Counter[int] = Counter()
        for n in range(400):
            body = dice.choice([
                {"doing": "calling", "turns": [turn]}, {"doing": "falling", "fall": str(uuid4()), "released_at": 1e300}, {"half": {"0": "x" * 5_000}},
                {"turns": [turn] * 50}, {"doing": "dancing"}, {"holds": -1}, {"lane": 10**9}, {"half": {str(k): "💥" * 100 for k in range(24)}},
            ])  # fmt: skip
            answer = avocet.put(f"{screens}/{mine if n % 3 else uuid4()}", json=body)
            refused[answer.status_code] += 1
            assert answer.status_code in (200, 403, 422, 429, 503), f"{answer.status_code} for {str(body)[:80]}"
            handed = avocet.post(f"{screens}/{mine}/hand", json={"to": None})
            assert handed.status_code in (403, 429, 503), "another group handed a lane on"
        stands = next(s for s in teacher.ok("GET", screens)["screens"] if s["id"] == mine)
        assert (stands["turns"], stands["half"], stands["by"]) == ([turn], {"0": "4.5"}, stands["by"]), "a turn was taken from its lane"
        assert len(teacher.ok("GET", path)) == 0
        return f"400 loud words: {dict(sorted(refused.items()))}; the lane that was aimed at still calls its turn"
