"""For whoever looks after Bendro: whether it lives, whether it is ready, figures for a monitor, the log, the pages of help and the licences."""

from __future__ import annotations

import json
import os
import re
import signal
import socket
import time
from collections.abc import Callable
from pathlib import Path

import httpx
import pytest
from prometheus_client.parser import text_string_to_metric_families

from bendro.server.listening import listen
from tests.conftest import ROOT, Application, TeacherClient, free_port, new_study, trial_body

pytestmark = pytest.mark.api


def figures(app: Application) -> dict[tuple[str, str], float]:
    """What a monitor reads: by name and kind, read by the reference parser of the format."""
    told = httpx.get(f"{app.url}/metrics", timeout=30)
    assert told.status_code == 200
    found: dict[tuple[str, str], float] = {}
    for family in text_string_to_metric_families(told.text):
        for sample in family.samples:
            key = (sample.name, sample.labels.get("kind", ""))
            found[key] = found.get(key, 0) + sample.value if sample.name.endswith("_total") else sample.value
    return found


def test_it_lives_and_is_ready(app: Application) -> None:
    assert (httpx.get(f"{app.url}/healthz").text, httpx.get(f"{app.url}/healthz").status_code) == ("It lives.\n", 200)
    assert (httpx.get(f"{app.url}/readyz").text, httpx.get(f"{app.url}/readyz").status_code) == ("It is ready.\n", 200)


def test_without_its_database_it_lives_and_is_not_ready(own_app: Callable[..., Application]) -> None:
    app = own_app("--no-demo")
    os.kill(int((app.folder / "postgres" / "cluster" / "postmaster.pid").read_text().split()[0]), signal.SIGKILL)
    for _ in range(100):
        answer = httpx.get(f"{app.url}/readyz", timeout=40)
        if answer.status_code == 503:
            break
        time.sleep(0.02)
    else:
        pytest.fail("it was ready all the time")
    assert answer.text == "The database does not answer.\n"
    assert httpx.get(f"{app.url}/healthz").status_code == 200
    for _ in range(300):
        if httpx.get(f"{app.url}/readyz", timeout=40).status_code == 200:
            break
        time.sleep(0.1)
    else:
        pytest.fail("it was never ready again")


def test_figures_are_counted_and_told_to_this_machine_alone(app: Application, teacher: TeacherClient, own_app: Callable[..., Application]) -> None:
    before = figures(app)
    study = new_study(teacher)
    for n in range(3):
        teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{study['id'][:-1]}{n}", json=trial_body())
    after = figures(app)
    assert after["bendro_calls_total", "save"] - before.get(("bendro_calls_total", "save"), 0) == 3
    assert after["bendro_call_seconds_count", "save"] - before.get(("bendro_call_seconds_count", "save"), 0) == 3
    assert after["bendro_database_answers", ""] == 1
    assert after["bendro_free_bytes", ""] > 0
    behind = own_app("--no-demo", "--proxy", "127.0.0.1", monitors="10.9.9.9")
    elsewhere = {"X-Forwarded-For": "10.1.2.3"}
    assert httpx.get(f"{behind.url}/metrics", headers=elsewhere).status_code == 403
    assert httpx.get(f"{behind.url}/metrics", headers={"X-Forwarded-For": "10.9.9.9"}).status_code == 200
    assert httpx.get(f"{behind.url}/api/here", headers=elsewhere).json()["addresses"] == []


def test_the_log_is_json_where_that_is_asked_for_and_holds_nothing_of_the_class(own_app: Callable[..., Application]) -> None:
    app = own_app("--no-demo", "--log-json")
    os.kill(int((app.folder / "postgres" / "cluster" / "postmaster.pid").read_text().split()[0]), signal.SIGKILL)
    for _ in range(50):
        httpx.post(f"{app.url}/api/session", json={"sign_in_name": "a-name-that-is-private", "password": "and a password"}, timeout=40)
        lines = [line for line in app.told().splitlines() if line.startswith("{")]
        if lines:
            break
        time.sleep(0.05)
    assert json.loads(lines[0])["event"] == "database_away"
    assert "private" not in app.told()
    assert "and a password" not in app.told()


def test_a_small_answer_is_sent_at_once() -> None:
    """asyncio turns the waiting of small packets off (TCP_NODELAY) only where the socket that listens names its protocol."""
    with listen("127.0.0.1", free_port()) as made:
        assert made.proto == socket.IPPROTO_TCP


def test_help_is_served_as_it_lies_in_docs(app: Application) -> None:
    for page in ("guide", "technician"):
        told = httpx.get(f"{app.url}/api/help/{page}").json()
        assert told["title"] == (ROOT / "docs" / f"{page}.md").read_text().split("\n")[0].lstrip("# ")
        assert "<h2>" in told["html"]
        assert {link for link in re.findall(r'href="([^"]+)"', told["html"]) if not link.startswith("https:")} <= {"/help/guide", "/help/technician"}
        assert "<script" not in told["html"]


def test_the_licences_of_what_is_in_it_are_served(app: Application) -> None:
    served = httpx.get(f"{app.url}/licences.txt")
    assert served.headers["content-type"].startswith("text/plain")
    runs = re.findall(r"^([a-z0-9._-]+)==", (ROOT / "requirements.txt").read_text(), re.MULTILINE)
    for name in (*runs, "react", "radix-ui", "@fontsource-variable/archivo"):
        assert re.search(rf"^{re.escape(name)} \S+: \S", served.text, re.MULTILINE), name
    for name in re.findall(r"^([a-z0-9._-]+)==", (ROOT / "requirements-test.txt").read_text(), re.MULTILINE):
        assert not re.search(rf"^{re.escape(name)} \S+: ", served.text, re.MULTILINE) or name in Path(ROOT / "web" / "package-lock.json").read_text(), name
