"""However offline queues, claims, hand-overs, reloads and sendings twice over follow each other, the record is the same: every trial once, each
turn filled by one of those that were kept for it, and no two screens calling one turn."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any
from uuid import UUID, uuid5

import httpx
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.api.test_seats import lesson, sit
from tests.conftest import Application, TeacherClient, new_study, trial_body

pytestmark = pytest.mark.api
SCREENS = 3
NAMES = UUID("6f1c0b5e-4a52-4d06-9a55-0d7a3a3c6d10")
ACTS = st.lists(
    st.tuples(st.sampled_from(["call", "keep", "offline", "online", "hand", "reload", "again", "void", "leave"]), st.integers(0, SCREENS - 1), st.integers(0, 7)),
    min_size=3, max_size=28,
)  # fmt: skip


@dataclass
class Tablet:
    """A device of a group: what it calls, what waits in it, whether it has a network."""

    http: httpx.Client
    screen: str
    calls: dict[str, Any] | None = None
    offline: bool = False
    waits: list[tuple[str, dict[str, Any]]] = field(default_factory=list)
    sent: list[tuple[str, dict[str, Any]]] = field(default_factory=list)


class Lesson:
    def __init__(self, app: Application, teacher: TeacherClient) -> None:
        self.teacher = teacher
        self.study = new_study(teacher, groups=["Curlew"], repeats=4)
        code = lesson(teacher, self.study)["code"]
        self.path = f"/api/studies/{self.study['id']}"
        self.tablets = [Tablet(sit(app, code, "group", "Curlew"), str(uuid5(NAMES, f"{self.study['id']} {n}"))) for n in range(SCREENS)]
        self.given: dict[str, dict[str, Any]] = {}
        self.n = 0

    def say(self, t: Tablet, turn: dict[str, Any] | None) -> bool:
        if t.offline:
            return True  # it calls what it likes; one of two is extra then
        body = {"doing": "calling" if turn else "looking", "turns": [{"block": turn["block"], "level": turn["level"]}] if turn else [], "holds": len(t.waits)}
        answer = t.http.put(f"{self.path}/screens/{t.screen}", json=body)
        assert answer.status_code == 200, answer.text
        return bool(answer.json()["granted"])

    def send(self, t: Tablet) -> None:
        for trial, body in t.waits:
            answer = t.http.put(f"{self.path}/trials/{trial}", json=body)
            assert answer.status_code == 200, answer.text
        t.sent += t.waits
        t.waits = []

    def act(self, what: str, who: int, which: int) -> None:
        t = self.tablets[who]
        turn = self.study["turns"][which % len(self.study["turns"])]
        if what == "call":
            t.calls = turn if self.say(t, turn) else None
        elif what in ("keep", "void") and t.calls is not None:
            self.n += 1
            trial = str(uuid5(NAMES, f"{self.study['id']} trial {self.n}"))
            body = trial_body(block=t.calls["block"], level=t.calls["level"], group="Curlew", text=f"4.{self.n:02}") | {"released_at": f"2026-05-04T10:{self.n:02}:00Z"}
            if what == "void":
                body |= {"state": "void", "fault": "slipped from the cup"}
            self.given[trial] = body
            t.waits.append((trial, body))
            t.calls = None
            if not t.offline:
                self.send(t)
                self.say(t, None)
        elif what == "offline":
            t.offline = True
        elif what == "online":
            t.offline = False
            self.send(t)
        elif what == "hand" and not t.offline and t.calls is not None:
            to = self.tablets[(who + 1) % SCREENS]
            self.say(to, to.calls)
            answer = t.http.post(f"{self.path}/screens/{t.screen}/hand", json={"to": to.screen})
            assert answer.status_code == 200, answer.text
            to.calls, t.calls = t.calls, None
        elif what == "reload":
            t.calls = t.calls if t.calls is not None and self.say(t, t.calls) else None
        elif what == "again" and not t.offline:
            for trial, body in t.sent[-2:]:  # an answer was lost: it is sent once more
                assert t.http.put(f"{self.path}/trials/{trial}", json=body).status_code == 200
        elif what == "leave" and not t.offline:
            assert t.http.delete(f"{self.path}/screens/{t.screen}").status_code == 204
            t.calls = None
        self.check_calls()

    def check_calls(self) -> None:
        said = self.teacher.ok("GET", f"{self.path}/screens")["screens"]
        turns = [(t["block"], t["level"]) for s in said for t in s["turns"] if s["doing"] == "calling"]
        assert len(turns) == len(set(turns))

    def check_record(self) -> None:
        for t in self.tablets:
            t.offline = False
            self.send(t)
        trials = self.teacher.ok("GET", f"{self.path}/trials")
        assert {t["id"]: (t["block"], t["level"], t["state"], t["readings"][0]["texts"]) for t in trials} == {
            one: (b["block"], b["level"], b.get("state", "kept"), b["readings"][0]["texts"]) for one, b in self.given.items()
        }
        kept = [t for t in trials if t["state"] == "kept"]
        fills = [(t["block"], t["level"]) for t in kept if t["place"] == "turn"]
        assert len(fills) == len(set(fills))
        assert set(fills) == {(t["block"], t["level"]) for t in kept}  # each turn that was run is filled, by one
        assert all(t["place"] in ("turn", "extra") for t in kept)


@settings(max_examples=20, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(acts=ACTS)
def test_any_interleaving_gives_the_same_record(app: Application, teacher: TeacherClient, acts: list[tuple[str, int, int]]) -> None:
    made = Lesson(app, teacher)
    for what, who, which in acts:
        made.act(what, who, which)
    made.check_record()


def test_two_processes_serve_one_class_and_one_of_them_is_killed(own_app: Any) -> None:
    """A second server process on the same data is killed with -9 in the middle: nothing acknowledged is lost, and the other tells of what went through it."""
    import os
    import signal
    import subprocess
    import sys
    import time

    from tests.api.test_live import heard, screen
    from tests.conftest import ROOT, SETTINGS, free_port, sign_up

    app = own_app()
    teacher = sign_up(app)
    study = new_study(teacher, groups=["Curlew", "Avocet"], repeats=4)
    port = free_port()
    settings_ = {f"BENDRO_{k.upper()}": str(v) for k, v in SETTINGS.items()}
    address = app.database().replace("postgresql://", "postgresql+psycopg://")
    command = [sys.executable, "-m", "uvicorn", "--factory", "bendro.api.app:make_app", "--port", str(port), "--log-level", "error", "--ws", "websockets-sansio"]
    second = subprocess.Popen(command, cwd=ROOT, env={**os.environ, **settings_, "BENDRO_DATABASE": address})
    try:
        other = httpx.Client(base_url=f"http://localhost:{port}", cookies=dict(teacher.http.cookies), timeout=30)
        for _ in range(300):
            try:
                if other.get("/api/session").status_code == 200:
                    break
            except httpx.TransportError:
                time.sleep(0.1)
        kept: list[str] = []
        turns = iter(study["turns"])
        with screen(teacher, study) as desk:
            assert heard(desk)["kind"] == "newest"
            for _ in range(3):
                t = next(turns)
                trial = str(uuid5(NAMES, f"{study['id']} {t['block']} {t['level']}"))
                answer = other.put(f"/api/studies/{study['id']}/trials/{trial}", json=trial_body(block=t["block"], level=t["level"], group=t["group"]))
                assert answer.status_code == 200, answer.text
                kept.append(trial)
                assert heard(desk)["subject"] == trial  # told by the process that did not keep it
            t = next(turns)
            other.put(f"/api/studies/{study['id']}/screens/{uuid5(NAMES, 'dies')}", json={"doing": "calling", "turns": [{"block": t["block"], "level": t["level"]}]}).raise_for_status()
            assert heard(desk)["kind"] == "screen"
            second.send_signal(signal.SIGKILL)
            second.wait(30)
            trial = str(uuid5(NAMES, f"{study['id']} after"))
            began = time.monotonic()
            teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{trial}", json=trial_body(block=t["block"], level=t["level"], group=t["group"]))
            kept.append(trial)
            assert heard(desk)["subject"] == trial
            assert time.monotonic() - began < 20
        assert {one["id"] for one in teacher.ok("GET", f"/api/studies/{study['id']}/trials")} == set(kept)
    finally:
        if second.poll() is None:
            second.kill()
            second.wait(30)
