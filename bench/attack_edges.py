"""Attacks at the edges: backups that are not what they say, strangers who send slowly, heavy callers, a disk that fills, sockets of those who
were sent away, and a tablet's store, clock and account in a real browser."""

from __future__ import annotations

import asyncio
import io
import json
import os
import random
import subprocess
import sys
import tempfile
import time
from collections import Counter
from datetime import UTC, datetime
from pathlib import Path
from uuid import uuid4

import httpx
import psycopg
from PIL import Image
from websockets.exceptions import ConnectionClosed
from websockets.sync.client import connect

from bench.attack_class import _compared, _five_tablets, _nothing, running
from bendro.server.backup import BackupTrouble, back_up, restore
from bendro.server.postgres import Server, programs
from tests.api.hostile_backups import hostile
from tests.api.test_upgrade import database_of
from tests.conftest import ROOT, texts_of, trial_body

SLOW, HEAVY = 60, 16


def hostile_backups(folder: Path, _: random.Random) -> str:
    """Sixteen backups that would run something, were cut or were changed: none leaves a file, a row, a database or a role."""
    mark = Path(tempfile.gettempdir()) / "m"
    mark.unlink(missing_ok=True)
    with running(folder) as (app, teacher, path):
        for n in range(20):
            teacher.ok("PUT", f"{path}/{uuid4()}", json=trial_body(text=f"4.{n}"))
        server = Server(app.folder / "postgres")
        port = server.running_port() or 0
        back_up(server, port, folder / "whole", now=datetime.now(UTC))
        plain = subprocess.run([programs() / "pg_dump", "--no-owner", app.database()], check=True, capture_output=True, text=True).stdout
        refused: Counter[str] = Counter()
        with database_of(app, "head") as url:
            for one in hostile((folder / "whole").read_bytes(), plain, url, mark):
                (folder / "bad").write_bytes(one.data)
                try:
                    restore(server, port, folder / "bad", now=datetime.now(UTC))
                except BackupTrouble as why:
                    refused[why.code] += 1
                else:
                    raise AssertionError(f"{one.name} was taken")
                assert not mark.exists(), f"{one.name} ran a program"
        assert len(teacher.ok("GET", path)) == 20, "the data in use were changed"
        return f"{refused.total()} hostile and cut backups refused ({', '.join(f'{n} {code}' for code, n in sorted(refused.items()))}); no file, no row"


def slow_strangers(folder: Path, _: random.Random) -> str:
    """Sixty strangers begin a large body and never go on; a teacher's photo and the class's saves go on beside."""
    with running(folder) as (app, teacher, path):
        version = f"{path.removesuffix('/trials')}/versions/{uuid4()}"
        teacher.ok("PUT", version, json={"device": "Red"})
        took: list[float] = []
        refused: Counter[bytes] = Counter()

        async def strangers(http: httpx.AsyncClient, ended: asyncio.Event) -> None:
            async def hold() -> None:
                while not ended.is_set():
                    reader, writer = await asyncio.open_connection("127.0.0.1", app.port)
                    writer.write(f"PUT {version}/photo HTTP/1.1\r\nHost: localhost\r\nContent-Length: 19000000\r\n\r\nx".encode())
                    refused[(await reader.readline()).strip()] += 1
                    await asyncio.sleep(0.5)
                    writer.close()

            async def photos() -> None:
                data = _small_picture()
                while not ended.is_set():
                    began = time.monotonic()
                    answer = await http.put(f"{version}/photo", content=data, cookies=teacher.http.cookies, headers={"Content-Type": "image/png"})
                    assert answer.status_code == 200, answer.text
                    took.append(time.monotonic() - began)

            await asyncio.gather(photos(), *[hold() for _ in range(SLOW)])

        quiet = asyncio.run(_five_tablets(app, teacher, path, _nothing, 4))
        loud = asyncio.run(_five_tablets(app, teacher, path, strangers, 10))
        assert set(refused) == {b"HTTP/1.1 401 Unauthorized"}, f"answers {dict(refused)}"
        assert max(took) < 10, f"a teacher's photo took {max(took):.0f} s"
        return f"{refused.total()} strangers sent away unread; {len(took)} photos of the teacher meanwhile, the slowest {max(took):.1f} s; {_compared(quiet, loud)}"


def _small_picture() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (600, 400), "red").save(out, "PNG")
    return out.getvalue()


def heavy_callers(folder: Path, _: random.Random) -> str:
    """One account reads in sixteen packages of a large study at once; the class saves beside."""
    with running(folder) as (app, teacher, path):
        for n in range(200):
            teacher.ok("PUT", f"{path}/{uuid4()}", json=trial_body(text=f"4.{n:03}", block=1 + n % 3))
        package = teacher.http.get(f"{path.removesuffix('/trials')}/package.zip").content
        answers: Counter[int] = Counter()

        async def packages(http: httpx.AsyncClient, ended: asyncio.Event) -> None:
            async def send() -> None:
                while not ended.is_set():
                    answer = await http.put(f"/api/studies/{uuid4()}/package", content=package, cookies=teacher.http.cookies)
                    answers[answer.status_code] += 1

            await asyncio.gather(*[send() for _ in range(HEAVY)])

        quiet = asyncio.run(_five_tablets(app, teacher, path, _nothing, 4))
        loud = asyncio.run(_five_tablets(app, teacher, path, packages, 15))
        assert set(answers) == {201}, f"answers {dict(answers)}"
        kept = len(teacher.ok("GET", path)) - 200
        assert kept == len(quiet) + len(loud), f"{kept} kept of {len(quiet) + len(loud)} acknowledged"
        return f"{answers[201]} packages by one account, {HEAVY} at a time, all read in; {_compared(quiet, loud)}"


def sent_away(folder: Path, _: random.Random) -> str:
    """Sockets of lanes whose sign-in ends, by signing out, by a changed password and by removal."""
    with running(folder) as (app, teacher, path):
        study = path.split("/")[3]
        code = teacher.ok("POST", f"/api/studies/{study}/instruments")["code"]
        took = []
        for way in ("signed out", "ended at the terminal"):
            cookie = "; ".join(f"{k}={v}" for k, v in teacher.http.cookies.items())
            with connect(f"{app.url.replace('http', 'ws')}/api/studies/{study}/lane", additional_headers={"Cookie": cookie}) as socket:
                time.sleep(0.3)
                if way == "signed out":
                    teacher.http.delete("/api/session").raise_for_status()
                else:
                    with psycopg.connect(app.database(), autocommit=True) as rows:
                        rows.execute("delete from sign_in")
                began = time.monotonic()
                httpx.post(f"{app.url}/api/instruments/{code}", content=json.dumps({"n": 1, "source": "g", "kind": "release", "t": 1.0}))
                try:
                    while True:
                        socket.recv(timeout=5)
                except ConnectionClosed:
                    took.append(time.monotonic() - began)
                except TimeoutError as why:
                    raise AssertionError(f"{way}: the socket went on") from why
            teacher.http.post("/api/session", json={"sign_in_name": teacher.name, "password": "a long enough password"}).raise_for_status()
        assert max(took) < 1.5, f"the slowest ended after {max(took):.1f} s"
        return f"{len(took)} sockets ended within {max(took):.2f} s of their sign-in"


def full_disk(folder: Path, chance: random.Random) -> str:
    """The data lie on a small disk that fills while four tablets save; it is told, and goes on when there is room."""
    disk = folder / "disk"
    disk.mkdir()
    disk.chmod(0o755)
    if os.geteuid() != 0 or subprocess.run(["mount", "-t", "tmpfs", "-o", "size=160m,mode=755", "tmpfs", str(disk)], capture_output=True).returncode:
        return "not tried: no small disk can be made here"
    try:
        with running(disk) as (_, teacher, path):
            acknowledged: dict[str, str] = {}
            answers: Counter[str] = Counter()

            def save(n: int) -> None:
                trial, text = str(uuid4()), f"{n}.5"
                answer = teacher.http.put(f"{path}/{trial}", json=trial_body(text=text))
                answers[answer.json().get("code", "kept") if answer.status_code != 200 else "kept"] += 1
                if answer.status_code == 200:
                    acknowledged[trial] = text

            for n in range(chance.randrange(15, 30)):
                save(n)
            filler = disk / "filler"
            try:
                with filler.open("wb") as out:
                    while True:
                        out.write(bytes(1_000_000))
                        out.flush()
            except OSError:
                pass
            # no room for another segment: what was preallocated is used up first
            for n in range(400):
                save(n)
                if answers["disk_full"] >= 5:
                    break
            filler.unlink()
            until = time.monotonic() + 60
            before = answers["kept"]
            while answers["kept"] == before and time.monotonic() < until:
                save(1)
                time.sleep(0.5)
            assert answers["kept"] > before, f"nothing is kept after there was room again: {dict(answers)}"
            assert set(answers) <= {"kept", "disk_full", "database_away", "busy"}, f"answers {dict(answers)}"
            there = {t["id"]: texts_of(t) for t in teacher.ok("GET", path)}
            lost = [t for t, text in acknowledged.items() if there.get(t) != [text]]
            assert not lost, f"{len(lost)} acknowledged trials are lost"
            return f"a disk of 160 MB filled: {len(acknowledged)} acknowledged, all there; answers {dict(answers)}"
    finally:
        subprocess.run(["umount", "-l", str(disk)], capture_output=True)


def in_a_browser(folder: Path, _: random.Random) -> str:
    """The store full, refused and cleared, a colleague removed with trials waiting, a study gone, three clocks: in a real browser."""
    done = subprocess.run([sys.executable, "-m", "pytest", "tests/ui/test_waiting.py", "-q"], cwd=ROOT, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout[-3_000:]
    return done.stdout.strip().splitlines()[-1]
