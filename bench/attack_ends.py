"""Attacks by the power: kills of the application and of the database at any moment, and going back to a backup."""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
import threading
import time
from collections import Counter
from pathlib import Path
from uuid import uuid4

import httpx
import psycopg

from bench.attack_class import running
from bendro.server.postgres import Server, programs
from tests.api.test_first_start import kill_all, of, start
from tests.api.test_upgrade import database_of, fill
from tests.conftest import ROOT, Application, free_port, texts_of, trial_body

WRITERS, KILLS = 4, 12


class Writers:
    """Four tablets that send each trial again until it is acknowledged, as the page does."""

    def __init__(self, app: Application, cookies: httpx.Cookies, path: str, *, pause: float = 0.0) -> None:
        """pause: between two trials of a tablet, in seconds."""
        self._pause = pause
        self.app, self.cookies, self.path = app, dict(cookies), path
        self.acknowledged: dict[str, str] = {}
        self.answers: Counter[str] = Counter()
        self._ended = threading.Event()
        self._threads = [threading.Thread(target=self._write, args=(n,)) for n in range(WRITERS)]

    def __enter__(self) -> Writers:
        for thread in self._threads:
            thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._ended.set()
        for thread in self._threads:
            thread.join(60)

    def _write(self, number: int) -> None:
        with httpx.Client(base_url=self.app.url, cookies=self.cookies, timeout=40) as http:
            count = 0
            while not self._ended.is_set():
                count += 1
                trial, text = str(uuid4()), f"{number + 1}.{count:04d}"
                while not self._ended.is_set():
                    try:
                        answer = http.put(f"{self.path}/{trial}", json=trial_body(text=text))
                    except httpx.TransportError:
                        self.answers["no answer"] += 1
                        time.sleep(0.2)
                        continue
                    self.answers[str(answer.status_code)] += 1
                    if answer.status_code == 200:
                        self.acknowledged[trial] = text
                        self._ended.wait(self._pause)
                        break
                    time.sleep(float(answer.headers.get("Retry-After", "0.2")))


def _all_there(app: Application, writers: Writers) -> None:
    there = {t["id"]: texts_of(t) for t in httpx.get(app.url + writers.path, cookies=writers.cookies, timeout=60).json()}
    lost = [t for t, text in writers.acknowledged.items() if there.get(t) != [text]]
    assert not lost, f"{len(lost)} of {len(writers.acknowledged)} acknowledged trials are lost"
    assert not [a for a in writers.answers if a not in ("200", "503", "no answer")], f"answers {dict(writers.answers)}"


def kill_storm(folder: Path, chance: random.Random) -> str:
    """The application and the database are killed in turn, at moments by chance, under four writers."""
    with running(folder) as (app, teacher, path):
        with Writers(app, teacher.http.cookies, path) as writers:
            for kill in range(KILLS):
                time.sleep(chance.uniform(0.5, 2.5))
                if kill % 2:
                    os.kill(int((app.folder / "postgres" / "cluster" / "postmaster.pid").read_text().split()[0]), signal.SIGKILL)
                    continue
                assert app.process is not None
                app.process.kill()
                app.process.wait()
                app.start()
            time.sleep(4)
        _all_there(app, writers)
        return f"{KILLS} kills of application and database under {WRITERS} writers: {len(writers.acknowledged)} trials acknowledged, all there ({writers.answers['no answer']} calls without an answer, {writers.answers['503']} asked to come again)"


def first_start(folder: Path, chance: random.Random) -> str:
    """Everything is killed at a moment of the first start; the next start works on the same folder."""
    moments = []
    for number in range(8):
        data = folder / f"data-{number}"
        cut = start(data, free_port())
        moment = chance.uniform(0.3, 7.0)
        time.sleep(moment)
        kill_all(data)
        cut.communicate()
        time.sleep(0.1)
        kill_all(data)  # what was just being started when the others went
        moments.append(moment)
        app = Application(data)
        try:
            app.start()
            studies = httpx.Client(base_url=app.url, timeout=60)
            studies.post("/api/session/demo").raise_for_status()
            assert len(studies.get("/api/studies").json()) >= 7, f"killed after {moment:.2f} s, the demo is not whole"
        except RuntimeError as why:
            raise AssertionError(f"killed after {moment:.2f} s, the folder does not start: {why}") from why
        finally:
            app.stop()
        assert not of(data), f"processes are left: {of(data)}"
    return f"{len(moments)} first starts killed after {min(moments):.1f} to {max(moments):.1f} s: each folder starts, with the demo whole"


def database_away(folder: Path, _: random.Random) -> str:
    """PostgreSQL does not answer for twenty seconds, then goes on; five seconds later it is killed, and comes back."""
    with running(folder) as (app, teacher, path):
        with Writers(app, teacher.http.cookies, path) as writers:
            time.sleep(3)
            stopped = of(app.folder / "postgres")
            for process in stopped:
                os.kill(process, signal.SIGSTOP)
            before = len(writers.acknowledged)
            waited = []
            until = time.monotonic() + 20
            while time.monotonic() < until:
                began = time.monotonic()
                page = httpx.get(app.url, timeout=30)
                waited.append(time.monotonic() - began)
                assert page.status_code == 200, "the pages are away as well"
                time.sleep(0.5)
            for process in stopped:
                os.kill(process, signal.SIGCONT)
            time.sleep(5)
            after = len(writers.acknowledged)
            assert after > before, "nothing is kept after the database came back"
            os.kill(int((app.folder / "postgres" / "cluster" / "postmaster.pid").read_text().split()[0]), signal.SIGKILL)
            time.sleep(5)
            assert len(writers.acknowledged) > after, "nothing is kept after the database was killed"
        _all_there(app, writers)
        return f"20 s without the database, then killed: {len(writers.acknowledged)} trials acknowledged, all there; {writers.answers['503']} asked to come again; pages within {max(waited):.1f} s meanwhile"


def earlier_backups(folder: Path, _: random.Random) -> str:
    """A backup of every earlier version takes the place of the data and is brought up."""
    brought = []
    with running(folder) as (app, _, _):
        files = {}
        for revision in ("0001", "0002", "0003", "0004"):
            files[revision] = folder / f"{revision}.sql"
            with database_of(app, revision) as url:
                if revision == "0001":  # its tables had other columns than those that are filled here
                    with psycopg.connect(url, autocommit=True) as rows:
                        rows.execute(
                            "insert into workspace (id, name, demo, created_at) values (gen_random_uuid(), 'Old school', false, now())"
                        )
                else:
                    fill(url)
                subprocess.run([programs() / "pg_dump", "--clean", "--if-exists", "-f", files[revision], url], check=True)
        assert app.process is not None
        app.process.terminate()
        app.process.wait(30)
        for revision, file in files.items():
            done = subprocess.run(
                [sys.executable, "-m", "bendro.terminal", "restore", str(file), "--data", str(app.folder)],
                cwd=ROOT,
                capture_output=True,
                text=True,
            )
            assert done.returncode == 0, f"{revision}: {done.stderr}"
            app.start()
            with psycopg.connect(app.database()) as rows:
                found = rows.execute("select (select count(*) from workspace), (select count(*) from trial)").fetchone()
            assert found == (1, 0 if revision == "0001" else 6), f"{revision}: {found}"
            app.process.terminate()
            app.process.wait(30)
            brought.append(revision)
        assert Server(app.folder / "postgres").running_port() is None, "the database was left running"
        return f"backups of {', '.join(brought)} restored by the command, brought up, and started"
