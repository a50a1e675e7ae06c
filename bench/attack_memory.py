"""Attacks on the machine's memory: ten screens on a very large study at once."""

from __future__ import annotations

import random
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from uuid import uuid4

import httpx

from bench.attack_class import running
from tests.conftest import Application, TeacherClient

SCREENS, ROUNDS, TRIALS = 10, 3, 10_000
#: What the server and the process beside it may take, in MB: at the peak, and a minute after.
PEAK_MB, AFTER_MB, AFTER_S = 600, 400, 60


def memory_mb(process: int) -> float:
    """Memory that a process and those that it started hold by themselves, the database's left out; shared pages count by their share."""
    found = 0.0
    for one in [process, *_started_by(process)]:
        try:
            lines = Path(f"/proc/{one}/smaps_rollup").read_text().splitlines()
        except OSError:
            continue
        found += next(int(line.split()[1]) for line in lines if line.startswith("Pss:")) / 1000
    return found


def _started_by(process: int) -> Iterator[int]:
    for children in Path(f"/proc/{process}/task").glob("*/children"):
        for child in children.read_text().split():
            try:
                command = Path(f"/proc/{child}/cmdline").read_bytes()
            except OSError:
                continue
            if b"postgres" not in command:
                yield int(child)
                yield from _started_by(int(child))


@contextmanager
def watched(process: int, seen: list[float]) -> Iterator[None]:
    """Memory is looked at all the time."""
    ended = threading.Event()

    def look() -> None:
        while not ended.wait(0.05):
            seen.append(memory_mb(process))

    thread = threading.Thread(target=look)
    thread.start()
    try:
        yield
    finally:
        ended.set()
        thread.join()


def large_study(teacher: TeacherClient, trials: int = TRIALS) -> str:
    """A study of so many trials, read from a table; its id."""
    rows = "\n".join(f"{n},{4 + 2 * (n % 4)},{random.Random(n).gauss(4 + n % 4, 0.4):.2f}" for n in range(1, trials + 1))
    body = {"id": str(uuid4()), "title": "Very many", "text": f"trial,pull-back (cm),distance (m)\n{rows}\n", "factor": "pull-back", "response": "distance"}
    made: str = teacher.ok("POST", "/api/tables/study", json={**body, "family": "launcher"})["id"]
    return made


def a_screen(app: Application, cookies: httpx.Cookies, study: str) -> int:
    """What the pages ask of a study, one after the other; how often one was asked to come again."""
    again = 0
    with httpx.Client(base_url=app.url, cookies=cookies, timeout=120) as http:
        for _ in range(ROUNDS):
            for path in ("", "/analysis", "/trials", "/pictures", "/beside", "/versions"):
                while (answer := http.get(f"/api/studies/{study}{path}")).status_code == 503:
                    again += 1
                    time.sleep(float(answer.headers["Retry-After"]))
                assert answer.status_code == 200, f"{path} was answered with {answer.status_code}: {answer.text[:200]}"
    return again


def ten_screens(folder: Path, _: random.Random) -> str:
    """Ten screens ask for all of a study of 10,000 trials, again and again."""
    with running(folder) as (app, teacher, _):
        study = large_study(teacher)
        teacher.ok("GET", f"/api/studies/{study}/analysis")
        time.sleep(5)
        assert app.process is not None
        process = app.process.pid
        before = memory_mb(process)
        seen: list[float] = []
        began = time.monotonic()
        with watched(process, seen), ThreadPoolExecutor(SCREENS) as screens:
            again = sum(screens.map(lambda _: a_screen(app, teacher.http.cookies, study), range(SCREENS)))
        took = time.monotonic() - began
        peak, until = max(seen), time.monotonic() + AFTER_S
        after = memory_mb(process)
        while time.monotonic() < until and after > AFTER_MB:
            time.sleep(1)
            after = memory_mb(process)
        figures = f"{before:.0f} MB before, {peak:.0f} at the peak, {after:.0f} after; {took:.0f} s, {again} asked to come again"
        assert peak <= PEAK_MB, f"{figures}: at most {PEAK_MB} at the peak"
        assert after <= AFTER_MB, f"{figures}: at most {AFTER_MB} a minute after"
        return f"{SCREENS} screens on {TRIALS} trials: {figures}"
