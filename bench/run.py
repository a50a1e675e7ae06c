"""Speed beside a bare reference in the same run: `bin/bench`. Prints; asserts nothing, since machines are shared and noisy."""

from __future__ import annotations

import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx
import numpy as np
import psycopg
from scipy import stats

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))
from bendro.core.analyse import analyse
from bendro.core.context import Context
from bendro.core.statistics.shuffle import ARRANGEMENTS, SHUFFLE_SEED
from bendro.core.trials import Trial
from tests.conftest import DRAFT, ROOT, Application, TeacherClient, free_port, new_study, sign_up, trial_body

SAVES, STRETCH, ANALYSED, TABLE_ROWS = 400, 50, (20, 1_000, 10_000), 10_000


def times(n: int, act: object) -> list[float]:
    found = []
    for i in range(n):
        began = time.perf_counter()
        act(i)  # type: ignore[operator]
        found.append(time.perf_counter() - began)
    return found


def told(name: str, seconds: list[float]) -> float:
    middle = statistics.median(seconds)
    print(
        f"  {name:34} {len(seconds) / sum(seconds):8.0f} a second   median {1e3 * middle:7.2f} ms   95 % {1e3 * sorted(seconds)[int(len(seconds) * 0.95)]:7.2f} ms"
    )
    return middle


CLIENTS, EACH = 30, 20
SCREENS, SECONDS = 10, 15
LEVELS, REPEATS = 8, 50
STUDIES, TRIALS_EACH, MANY = 300, 40, 10_000


@contextmanager
def served(*options: str) -> Iterator[tuple[Application, TeacherClient]]:
    """The application on data of its own, with a teacher signed in."""
    with tempfile.TemporaryDirectory(prefix="bendro-bench-") as folder:
        app = Application(Path(folder) / "data", "--no-demo", *options)
        app.folder.mkdir()
        app.start()
        try:
            yield app, sign_up(app)
        finally:
            app.stop()


def wide(teacher: TeacherClient, title: str) -> dict[str, Any]:
    """A study with a turn for every save of the benchmark."""
    variable = {**DRAFT["variable"], "levels": [str(4 + 2 * n) for n in range(LEVELS)]}
    return new_study(teacher, title, variable=variable, repeats=REPEATS, limits=[{"on": "variable", "name": "", "value": "40 cm"}])


def put_trial(http: httpx.Client, study: dict[str, Any], i: int) -> None:
    body = trial_body(str(4 + 2 * (i % LEVELS)), block=i // LEVELS % REPEATS + 1)
    answer = http.put(f"/api/studies/{study['id']}/trials/{uuid4()}", json=body)
    while answer.status_code == 503:
        time.sleep(float(answer.headers["retry-after"]))
        answer = http.put(f"/api/studies/{study['id']}/trials/{uuid4()}", json=body)
    answer.raise_for_status()


class BareRoute:
    """The reference beside the application (bench/bare_route.py), in a process of its own."""

    def __init__(self, database: str) -> None:
        self.address = f"http://127.0.0.1:{(port := free_port())}"
        self.process = subprocess.Popen([sys.executable, "-m", "bench.bare_route", database, str(port)], cwd=ROOT)
        self.http = httpx.Client(timeout=60)
        while True:
            try:
                self.http.get(self.address)
                return
            except httpx.TransportError:
                time.sleep(0.1)

    def put(self, study: str, http: httpx.Client | None = None) -> None:
        (http or self.http).put(f"{self.address}/{study}/{uuid4()}", json=trial_body()).raise_for_status()

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait(10)


def at_once(name: str, client: Callable[[], httpx.Client], act: Callable[[httpx.Client, int], None]) -> float:
    """So many clients at the same time, each with its own connection; how many a second are served."""
    took: list[float] = []

    def one(n: int) -> None:
        with client() as http:
            for i in range(EACH):
                began = time.perf_counter()
                act(http, n + i * CLIENTS)
                took.append(time.perf_counter() - began)

    threads = [threading.Thread(target=one, args=(n,)) for n in range(CLIENTS)]
    began = time.perf_counter()
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    rate = len(took) / (time.perf_counter() - began)
    print(f"  {name:34} {rate:8.0f} a second   median {1e3 * statistics.median(took):7.2f} ms   99 % {1e3 * sorted(took)[int(len(took) * 0.99)]:7.2f} ms")
    return rate


def saving() -> None:
    print("Saving a trial, one after another")
    with served() as (app, teacher):
        study = wide(teacher, "One after another")
        with psycopg.connect(app.database(), autocommit=True) as bare:
            bare.execute("create table bare (id uuid primary key, level text, text text)")
            insert = "insert into bare values (%s, %s, %s)"
            one = told(
                "bare single-row INSERT (psycopg)",
                times(SAVES, lambda _: bare.execute(insert, (uuid4(), "4", "4.52"))),
            )
        route = BareRoute(app.database())
        try:
            # in stretches by turns, so that a machine that grows slow grows slow for both; both clients carry the teacher's cookie
            route.http.cookies.update(dict(teacher.http.cookies))
            bare_took, took = [], []
            for first in range(0, SAVES, STRETCH):
                bare_took += times(STRETCH, lambda _: route.put(study["id"]))
                took += times(STRETCH, lambda i, first=first: put_trial(teacher.http, study, first + i))
            bare_one = told("bare route: SELECT and INSERT", bare_took)
            two = told("PUT of a trial over HTTP", took)
            print(f"  ratio of medians {two / bare_one:.2f} to the bare route, {two / one:.1f} to the bare INSERT")
            print(f"Saving trials, {CLIENTS} clients at once")
            slow = at_once("bare route", lambda: httpx.Client(timeout=60), lambda http, i: route.put(study["id"], http))
            studies = [wide(teacher, f"Group {n}") for n in range(CLIENTS)]
            cookies = dict(teacher.http.cookies)
            mine = at_once("trials", lambda: httpx.Client(base_url=app.url, cookies=cookies, timeout=60), lambda http, i: put_trial(http, studies[i % CLIENTS], i))
            print(f"  ratio of throughput {mine / slow:.2f}")
        finally:
            route.stop()


def class_at_work() -> None:
    """Thirty tablets that keep a trial a second each, alone and while ten screens show the verdict of their studies each second."""
    print(f"{CLIENTS} clients saving a trial a second, without and with {SCREENS} screens that show the verdict")
    with served() as (app, teacher):
        studies = [wide(teacher, f"Group {n}") for n in range(CLIENTS)]
        cookies = dict(teacher.http.cookies)
        for s in studies[:SCREENS]:  # the process that works verdicts out is awake
            put_trial(teacher.http, s, 0)
            teacher.http.get(f"/api/studies/{s['id']}/analysis").raise_for_status()

        def save(n: int, took: list[float], first: int) -> None:
            with httpx.Client(base_url=app.url, cookies=cookies, timeout=60) as http:
                time.sleep(n / CLIENTS)
                for i in range(SECONDS):
                    began = time.perf_counter()
                    put_trial(http, studies[n], first + i)
                    took.append(time.perf_counter() - began)
                    time.sleep(max(0.0, 1 - (time.perf_counter() - began)))

        def look(n: int, seen: list[float]) -> None:
            with httpx.Client(base_url=app.url, cookies=cookies, timeout=60) as http:
                for _ in range(SECONDS):
                    began = time.perf_counter()
                    http.get(f"/api/studies/{studies[n]['id']}/analysis").raise_for_status()
                    seen.append(time.perf_counter() - began)
                    time.sleep(max(0.0, 1 - (time.perf_counter() - began)))

        late: dict[bool, float] = {}
        for screens in (False, True):
            took: list[float] = []
            seen: list[float] = []
            work = [threading.Thread(target=save, args=(n, took, 1 + SECONDS * screens)) for n in range(CLIENTS)]
            work += [threading.Thread(target=look, args=(n, seen)) for n in range(SCREENS)] if screens else []
            for t in work:
                t.start()
            for t in work:
                t.join()
            told("saves, with the screens" if screens else "saves, alone", took)
            late[screens] = sorted(took)[int(len(took) * 0.99)]
            if seen:
                told("verdicts on the screens", seen)
        print(f"  99 %: {1e3 * late[False]:.1f} ms alone, {1e3 * late[True]:.1f} ms with the screens; ratio {late[True] / late[False]:.2f}")


def bare_trend(x: np.ndarray, y: np.ndarray) -> None:
    """The scipy calls that an analysis of a trend stands on."""
    stats.linregress(x, y)
    stats.spearmanr(x, y)
    across = x - x.mean()
    levels = [y[x == v] for v in np.unique(x)]
    rng = np.random.default_rng(SHUFFLE_SEED)
    batch = max(2_000_000 // len(x), 1)
    stats.permutation_test(
        (y,),
        lambda d, axis=-1: np.abs(np.sum(d * across, axis=axis)),
        permutation_type="pairings",
        alternative="greater",
        n_resamples=ARRANGEMENTS,
        batch=batch,
        rng=rng,
        vectorized=True,
    )
    stats.permutation_test(
        tuple(levels),
        lambda *s, axis=-1: sum(g.shape[axis] * np.mean(g, axis=axis) ** 2 for g in s),
        permutation_type="independent",
        alternative="greater",
        n_resamples=ARRANGEMENTS,
        batch=batch,
        rng=rng,
        vectorized=True,
    )


def plain_shuffle(x: np.ndarray, y: np.ndarray) -> float:
    """The same shuffle of the slope in plain vectorised numpy, with as many arrangements."""
    across, rng, hits = x - x.mean(), np.random.default_rng(SHUFFLE_SEED), 0
    batch = max(2_000_000 // len(x), 1)
    least = abs(float(across @ y))
    for begun in range(0, ARRANGEMENTS, batch):
        dealt = rng.permuted(np.broadcast_to(y, (min(batch, ARRANGEMENTS - begun), len(y))), axis=1)
        hits += int(np.count_nonzero(np.abs(dealt @ across) >= least))
    return (hits + 1) / (ARRANGEMENTS + 1)


def opening() -> None:
    """Home with many studies and one study with very many trials, against the bare queries for the same rows."""
    print(f"Opening Home with {STUDIES} studies of {TRIALS_EACH} trials, and a study of {MANY} trials")
    with served() as (app, teacher):
        for n in range(STUDIES):
            teacher.http.post("/api/tables/study", json=table_of(TRIALS_EACH, f"Study {n}", f"pull {n} (cm)")).raise_for_status()
        large = teacher.http.post("/api/tables/study", json=table_of(MANY, "Large")).raise_for_status().json()["id"]
        with psycopg.connect(app.database()) as bare:
            school = bare.execute("select workspace_id from study limit 1").fetchone()
            assert school is not None

            def home(_: int) -> None:
                bare.execute("select * from study where workspace_id = %s", school).fetchall()
                bare.execute("select t.study_id, t.id, t.block, t.level, t.state, r.unit from trial t join reading r on r.trial_id = t.id where t.workspace_id = %s", school).fetchall()

            def one_study(_: int) -> None:
                bare.execute("select * from study where id = %s", (large,)).fetchall()
                bare.execute("select * from trial where study_id = %s order by released_at, id", (large,)).fetchall()
                bare.execute("select r.* from reading r join trial t on t.id = r.trial_id where t.study_id = %s", (large,)).fetchall()

            bare_home, bare_study = told("bare queries for Home", times(7, home)), told("bare queries for the study", times(7, one_study))
        first_home = told("GET of Home, the first one", times(1, lambda _: teacher.http.get("/api/studies").raise_for_status()))
        of_home = told("GET of Home", times(7, lambda _: teacher.http.get("/api/studies").raise_for_status()))
        of_study = told("GET of the study", times(7, lambda _: teacher.http.get(f"/api/studies/{large}").raise_for_status()))
        of_trials = told("GET of its trials", times(7, lambda _: teacher.http.get(f"/api/studies/{large}/trials").raise_for_status()))
        print(f"  ratios: Home {of_home / bare_home:.1f} (the first one {first_home / bare_home:.1f}), study {of_study / bare_study:.1f}, its trials {of_trials / bare_study:.1f}")


def table_of(rows: int, title: str, factor: str = "pull (cm)") -> dict[str, str]:
    """The body with which a table of so many trials becomes a study."""
    lines = [f"{n + 1},{4 + 2 * (n % 3)},{(4 + 2 * (n % 3)) / 2 + (n % 97) / 100:.2f}" for n in range(rows)]
    text = f"trial,{factor},distance (m)\r\n" + "\r\n".join(lines) + "\r\n"
    return {"id": str(uuid4()), "text": text, "title": title, "family": "launcher", "factor": factor, "response": "distance (m)"}


def analysing() -> None:
    for n in ANALYSED:
        rng = np.random.default_rng(1)
        x = np.repeat([1.0, 2.0, 3.0, 4.0], n // 4)
        y = 2 * x + rng.normal(0, 1, n)
        rows = [Trial(level=float(a), value=float(b), order=i + 1, resolution=0.01) for i, (a, b) in enumerate(zip(x, y, strict=True))]
        asked = Context(factor="pull-back", response="distance", factor_unit="cm", unit="m")
        print(f"Analysing {n} trials")
        one = told("plain scipy calls", times(3, lambda _: bare_trend(x, y)))
        shuffled = told("plain numpy shuffle", times(3, lambda _: plain_shuffle(x, y)))
        analyse(rows, asked)
        two = told("analysis, with audit and verdict", times(15 if n < 100 else 3, lambda _: analyse(rows, asked)))
        print(f"  ratio of medians {two / one:.3f} to scipy, {two / shuffled:.3f} to the numpy shuffle")


def reading_in() -> None:
    """A results table of ten thousand rows read in over HTTP, against the same rows copied bare, one INSERT each in one transaction."""
    rows = [f"{n % 40 + 1},Red,{4 + 2 * (n % 3)},{(4 + 2 * (n % 3)) / 2 + (n % 97) / 100:.2f},curved" for n in range(TABLE_ROWS)]
    text = "block,group,pull (cm),distance (m),behaviour\r\n" + "\r\n".join(rows) + "\r\n"
    print(f"Reading in a table of {TABLE_ROWS} rows")
    with served() as (app, teacher):
        with psycopg.connect(app.database()) as bare:
            bare.execute("create table bare (id uuid primary key, level text, text text)")

            def plain(_: int) -> None:
                for line in rows:
                    bare.execute("insert into bare values (%s, %s, %s)", (uuid4(), line, line))
                bare.commit()

            one = told("bare INSERTs in one transaction (psycopg)", times(1, plain))
        body = {"text": text, "title": "Bench", "family": "launcher", "factor": "pull (cm)", "response": "distance (m)"}
        two = told(
            "POST of the table over HTTP",
            times(3, lambda _: teacher.http.post("/api/tables/study", json={**body, "id": str(uuid4())}).raise_for_status()),
        )
        print(f"  ratio of medians {two / one:.2f}; {TABLE_ROWS / two:.0f} rows a second")


def starting() -> None:
    """A command at the terminal, against importing what its statistics stand on."""
    print("A command at the terminal, from its start to its end")
    table = ["analyse", "tests/outside/data/elasticband.csv", "--factor", "stretch", "--response", "distance"]

    def run(*words: str) -> Callable[[int], None]:
        return lambda _: subprocess.run([sys.executable, *words], cwd=ROOT, check=True, capture_output=True) and None

    bare, whole, short = [], [], []
    for _ in range(9):  # by turns, so that a slow moment is slow for all
        bare += times(1, run("-c", "import numpy, scipy.stats"))
        whole += times(1, run("-m", "bendro.terminal", *table))
        short += times(1, run("-m", "bendro.terminal", "read", "4.52 m", "--as", "length"))
    one = told("importing numpy and scipy.stats", bare)
    print(f"  ratios of medians: analyse {told('bendro analyse', whole) / one:.2f}, read {told('bendro read', short) / one:.2f}")


if __name__ == "__main__":
    starting()
    saving()
    class_at_work()
    opening()
    reading_in()
    analysing()
