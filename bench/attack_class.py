"""Attacks by a whole class at one moment: saves, guesses at the door, photos that do not arrive."""

from __future__ import annotations

import asyncio
import io
import random
import statistics
import time
from collections import Counter
from collections.abc import Awaitable, Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from uuid import uuid4

import httpx
from PIL import Image

from tests.conftest import Application, TeacherClient, new_study, sign_up, trial_body


@contextmanager
def running(folder: Path, *options: str, **settings: object) -> Iterator[tuple[Application, TeacherClient, str]]:
    """A Bendro with one teacher and the path of a study's trials."""
    app = Application(folder / "data", *(options or ("--no-demo",)), **settings)
    app.start()
    try:
        teacher = sign_up(app)
        yield app, teacher, f"/api/studies/{new_study(teacher)['id']}/trials"
    finally:
        app.stop()


async def saved(http: httpx.AsyncClient, path: str, answers: Counter[int], cookies: httpx.Cookies) -> float:
    """One trial, sent again as the page sends it while the server says that it is full; seconds until it was acknowledged."""
    began = time.monotonic()
    for _ in range(120):
        answer = await http.put(f"{path}/{uuid4()}", json=trial_body(), cookies=cookies)
        answers[answer.status_code] += 1
        if answer.status_code != 503:
            assert answer.status_code == 200, f"a save was answered with {answer.status_code}: {answer.text[:200]}"
            return time.monotonic() - began
        await asyncio.sleep(float(answer.headers["Retry-After"]) * (1 + random.random()))
    raise AssertionError("a save was never let in")


def client(app: Application, most: int) -> httpx.AsyncClient:
    return httpx.AsyncClient(base_url=app.url, timeout=120, limits=httpx.Limits(max_connections=most))


def saves_at_one_moment(folder: Path, _: random.Random) -> str:
    at_once = 500
    with running(folder) as (app, teacher, path):

        async def all_of_them() -> tuple[list[float], Counter[int]]:
            answers: Counter[int] = Counter()
            async with client(app, at_once) as http:
                return await asyncio.gather(*[saved(http, path, answers, teacher.http.cookies) for _ in range(at_once)]), answers

        took, answers = asyncio.run(all_of_them())
        kept = len(teacher.ok("GET", path))
        assert kept == at_once, f"{kept} of {at_once} are there"
        assert set(answers) <= {200, 503}, f"answers {dict(answers)}"
        return f"{kept} of {at_once} saves at one moment kept, none failed, {answers[503]} asked to come again; the last after {max(took):.1f} s"


async def _five_tablets(
    app: Application,
    teacher: TeacherClient,
    path: str,
    beside: Callable[[httpx.AsyncClient, asyncio.Event], Awaitable[None]],
    seconds: float,
) -> list[float]:
    """Five tablets each save, again and again, while something else goes on."""
    took: list[float] = []
    ended = asyncio.Event()
    until = time.monotonic() + seconds
    async with client(app, 120) as http, client(app, 10) as others:

        async def tablet() -> None:
            while time.monotonic() < until:
                took.append(await saved(others, path, Counter(), teacher.http.cookies))
                await asyncio.sleep(0.05)

        going = asyncio.create_task(beside(http, ended))  # type: ignore[arg-type]
        await asyncio.gather(*[tablet() for _ in range(5)])
        ended.set()
        await going
    return took


async def _nothing(_: httpx.AsyncClient, ended: asyncio.Event) -> None:
    await ended.wait()


def _compared(quiet: list[float], loud: list[float]) -> str:
    p99 = [1e3 * sorted(t)[int(len(t) * 0.99)] for t in (quiet, loud)]
    return f"{len(loud)} saves kept meanwhile, median {1e3 * statistics.median(loud):.0f} ms ({1e3 * statistics.median(quiet):.0f} ms quiet), 99 % {p99[1]:.0f} ms ({p99[0]:.0f} ms quiet)"


def sign_in_flood(folder: Path, _: random.Random) -> str:
    """Sixty connections guess passwords, of many names and of the teacher's own, while five tablets save."""
    with running(folder, sign_in_tries_of_address=40) as (app, teacher, path):
        answers: Counter[int] = Counter()

        async def flood(http: httpx.AsyncClient, ended: asyncio.Event) -> None:
            async def guess(n: int) -> None:
                while not ended.is_set():
                    name = teacher.name if n % 2 else f"nobody-{n}"
                    answer = await http.post("/api/session", json={"sign_in_name": name, "password": f"guess {uuid4()}"})
                    answers[answer.status_code] += 1
                    if answer.status_code == 503:
                        await asyncio.sleep(0.2)

            await asyncio.gather(*[guess(n) for n in range(60)])

        quiet = asyncio.run(_five_tablets(app, teacher, path, _nothing, 6))
        loud = asyncio.run(_five_tablets(app, teacher, path, flood, 15))
        kept = len(teacher.ok("GET", path))
        assert kept == len(quiet) + len(loud), f"{kept} kept of {len(quiet) + len(loud)} acknowledged"
        assert set(answers) <= {422, 429, 503}, f"answers to guesses {dict(answers)}"
        assert answers[422] <= 48, f"{answers[422]} guesses were looked at"
        known = teacher.http.post("/api/session", json={"sign_in_name": teacher.name, "password": "a long enough password"})
        assert known.status_code == 200, "the teacher's own device was locked out"
        return f"{answers.total()} guesses, {answers[422]} looked at; {_compared(quiet, loud)}; the known device signs in"


def _memory(pid: int) -> float:
    """Of this process, in MB."""
    return next(int(line.split()[1]) / 1e3 for line in Path(f"/proc/{pid}/status").read_text().splitlines() if line.startswith("VmRSS"))


def slow_photos(folder: Path, _: random.Random) -> str:
    """Twenty photos that trickle in, and pictures of many points in few bytes, while five tablets save."""
    large = io.BytesIO()
    Image.new("L", (20_000, 20_000)).save(large, "PNG")
    fair = io.BytesIO()
    Image.new("RGB", (6_000, 4_000), "red").save(fair, "JPEG")
    with running(folder) as (app, teacher, path):
        version = f"{path.removesuffix('/trials')}/versions/{uuid4()}"
        teacher.ok("PUT", version, json={"device": "Red"})
        assert app.process is not None
        answers: Counter[int] = Counter()
        most = [_memory(app.process.pid)]

        async def photos(http: httpx.AsyncClient, ended: asyncio.Event) -> None:
            async def trickle() -> None:
                reader, writer = await asyncio.open_connection("127.0.0.1", app.port)
                writer.write(f"PUT {version}/photo HTTP/1.1\r\nHost: localhost\r\nContent-Length: 3000000\r\n\r\n".encode())
                while not ended.is_set() and not reader.at_eof():
                    try:
                        writer.write(b"x")
                        await writer.drain()
                    except ConnectionError:
                        break
                    await asyncio.sleep(0.2)
                writer.close()

            async def send(picture: bytes) -> None:
                while not ended.is_set():
                    answer = await http.put(
                        f"{version}/photo", content=picture, cookies=teacher.http.cookies, headers={"Content-Type": "image/png"}
                    )
                    answers[answer.status_code] += 1
                    assert app.process is not None
                    most.append(_memory(app.process.pid))

            await asyncio.gather(*[trickle() for _ in range(20)], send(large.getvalue()), send(fair.getvalue()))

        quiet = asyncio.run(_five_tablets(app, teacher, path, _nothing, 5))
        loud = asyncio.run(_five_tablets(app, teacher, path, photos, 15))
        kept = len(teacher.ok("GET", path))
        assert kept == len(quiet) + len(loud), f"{kept} kept of {len(quiet) + len(loud)} acknowledged"
        assert set(answers) <= {200, 422, 503}, f"answers to photos {dict(answers)}"
        assert answers[200] > 0, "no photo was kept"
        grown = max(most) - most[0]
        assert grown < 150, f"the server grew by {grown:.0f} MB"
        return f"{answers.total()} photos ({answers[200]} kept, a {len(large.getvalue()) // 1000} kB picture of 400 Mpx refused), 20 that trickle; the server grew by {grown:.0f} MB; {_compared(quiet, loud)}"
