"""A database that is not Bendro's own: what is wrong with it is said at the start; several processes work on it, also behind a pooler."""

from __future__ import annotations

import json
import os
import signal
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from uuid import uuid4

import httpx
import psycopg
import pytest
from websockets.sync.client import connect

from bench.pair import Pooler
from bendro.server.outside import look_at
from bendro.server.postgres import ServerTrouble
from tests.conftest import Application, TeacherClient, free_port, new_study, sign_up, trial_body
from tests.forked import starter

pytestmark = pytest.mark.api


@contextmanager
def beside(app: Application, options: str = "", *after: str) -> Iterator[str]:
    """A database beside the application's own, made with these options and then set so."""
    name = f"outside_{uuid4().hex[:8]}"
    with psycopg.connect(app.database(), autocommit=True) as rows:
        rows.execute(f"create database {name} template template0 {options}")  # type: ignore[arg-type]
        for one in after:
            rows.execute(one.format(name=name))  # type: ignore[arg-type]
        yield app.database().rsplit("/", 1)[0] + f"/{name}"
        rows.execute(f"drop database {name} with (force)")  # type: ignore[arg-type]


def said(address: str, direct: str = "") -> str:
    with pytest.raises(ServerTrouble) as told:
        look_at(address, direct)
    return str(told.value)


def test_what_is_wrong_with_a_database_is_said_with_what_to_do(app: Application) -> None:
    own = app.database()
    password = own.split(":")[2].partition("@")[0]
    assert "does not take the password of bendro. Look at BENDRO_DATABASE" in said(own.replace(password, "not-this-one"))
    assert "has no database “elsewhere”. Make it there" in said(own.rsplit("/", 1)[0] + "/elsewhere")
    assert "cannot be reached" in said(f"postgresql://bendro:x@127.0.0.1:{free_port()}/bendro")
    assert "is no address of a database" in said("host=127.0.0.1 colour=blue")
    assert "secret" not in said("postgresql://bendro:a secret one@127.0.0.1/bendro")
    assert "cannot be reached over TLS" in said(f"{own}?sslmode=require")
    with beside(app, "", "alter database {name} set default_transaction_read_only = on") as url:
        assert "This database is read-only" in said(url)
        assert "none takes writes just now" in said(f"{url}?target_session_attrs=read-write")
    with beside(app, "encoding 'LATIN1' lc_collate 'C' lc_ctype 'C'") as url:
        assert "keeps its text in LATIN1. Make one with encoding UTF8" in said(url)
    with psycopg.connect(own, autocommit=True) as rows, beside(app) as url:
        rows.execute("create role looker login password 'looks only'")
        try:
            assert "looker may make no tables in this database" in said(url.replace(f"bendro:{password}", "looker:looks only".replace(" ", "%20")))
        finally:
            rows.execute("drop role looker")


def test_data_of_a_newer_program_are_left_alone(app: Application, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    with beside(app) as url:
        with psycopg.connect(url) as rows:
            rows.execute("create table alembic_version (version_num varchar(32) primary key)")
            rows.execute("insert into alembic_version values ('9999')")
        monkeypatch.setenv("BENDRO_DATABASE", url)
        done = starter.run("start", ["--port", str(free_port()), "--data", str(tmp_path / "data")])
    assert (done.returncode, done.stderr.strip()) == (1, "These data were written by a newer version of Bendro. Start that version; nothing was changed here.")


def test_a_pooler_is_seen_and_its_mode_is_looked_at(app: Application, tmp_path: Path) -> None:
    for above in (tmp_path, tmp_path.parent, tmp_path.parent.parent):
        above.chmod(0o755)
    own = app.database()
    port, password = int(own.rpartition(":")[2].partition("/")[0]), own.split(":")[2].partition("@")[0]
    transaction, statement = Pooler(tmp_path / "one", port, password), Pooler(tmp_path / "two", port, password, "statement")
    try:
        assert "lies a pooler, behind which nothing can be told live. Give the database’s own address as well: BENDRO_DATABASE_DIRECT" in said(transaction.address)
        assert "BENDRO_DATABASE_DIRECT leads through a pooler as well" in said(transaction.address, transaction.address)
        assert "Set it to transaction mode" in said(statement.address, own)
        look_at(transaction.address, own)
        look_at(own)
    finally:
        transaction.stop()
        statement.stop()


@pytest.fixture
def several(app: Application, own_app: Callable[..., Application], tmp_path: Path) -> Iterator[Application]:
    """Two processes on an outside database, behind a pooler."""
    for above in (tmp_path, tmp_path.parent, tmp_path.parent.parent):
        above.chmod(0o755)
    with beside(app) as url:
        name = url.rsplit("/", 1)[1]
        port, password = int(url.rpartition(":")[2].partition("/")[0]), url.split(":")[2].partition("@")[0]
        pooler = Pooler(tmp_path / "pooler", port, password, database=name)
        made = own_app("--no-demo", "--processes", "2", database=pooler.address, database_direct=url)
        yield made
        made.stop()
        pooler.stop()


def test_two_processes_behind_a_pooler_run_one_lesson(several: Application) -> None:
    """A trial kept by one is told by the other; an instrument sends to whichever takes its call; one of them dies, and nothing is lost."""
    app = several
    teacher: TeacherClient = sign_up(app)
    study = new_study(teacher, measures=[{"id": "m1", "name": "fall time", "quantity": "time", "unit": "s", "timed": True, "better": "high"}])
    path = f"/api/studies/{study['id']}"
    cookies = "; ".join(f"{c.name}={c.value}" for c in teacher.http.cookies.jar)
    address = app.url.replace("http", "ws", 1)
    screens = [connect(f"{address}{path}/live", additional_headers={"Cookie": cookies}) for _ in range(8)]  # some at either
    for screen in screens:
        assert json.loads(screen.recv(timeout=20))["kind"] == "newest"
    kept = []
    for n in range(6):
        with httpx.Client(base_url=app.url, cookies=teacher.http.cookies, timeout=30) as anew:  # a connection of its own: either may take it
            kept.append(str(uuid4()))
            anew.put(f"{path}/trials/{kept[-1]}", json=trial_body(block=1 + n % 3, level=study["levels"][n % 3]["id"], text=f"1.{n}1", unit="s")).raise_for_status()
    for screen in screens:
        heard: list[str] = []
        while len(heard) < 6:
            word = json.loads(screen.recv(timeout=20))
            heard += [word["subject"]] if word["kind"] == "trial" else []
        assert heard == kept
        screen.close()
    code = teacher.ok("POST", f"{path}/instruments")["code"]
    lanes = [connect(f"{address}{path}/lane", additional_headers={"Cookie": cookies}) for _ in range(4)]
    time.sleep(1)
    for n, (what, t) in enumerate([("release", 1.0), ("land", 2.25), ("land", 2.26)], 1):
        line = json.dumps({"instrument": "gate", "name": "gate A", "n": n, "t": t, "what": what})
        answer = httpx.post(f"{app.url}/api/instruments/{code}", content=line, timeout=30)
        assert answer.status_code == 200
        assert json.loads(answer.text)["state"] == ("started", "reading", "told")[n - 1], answer.text
    for lane in lanes:
        assert [json.loads(lane.recv(timeout=20))["state"] for _ in range(3)] == ["started", "reading", "told"]
        lane.close()
    first, second = app.workers()[:2]
    os.kill(first, signal.SIGKILL)
    after = str(uuid4())
    for _ in range(3):  # sent again, as a page does, where the one that died had taken the call
        try:
            httpx.put(f"{app.url}{path}/trials/{after}", json=trial_body(text="1.77", unit="s"), cookies=teacher.http.cookies, timeout=30).raise_for_status()
            break
        except httpx.TransportError:
            continue
    assert {t["id"] for t in httpx.get(f"{app.url}{path}/trials", cookies=teacher.http.cookies, timeout=30).json()} == {*kept, after}
    for _ in range(200):
        now = app.workers()
        if len(now) >= 2 and first not in now:
            break
        time.sleep(0.1)
    else:
        pytest.fail(f"no other process took the place of the one that died: {app.workers()}")
    assert second in now


def test_commands_at_the_terminal_use_the_database_outside(app: Application, monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setenv("BENDRO_DATABASE", app.database())
    assert starter.run("terminal", ["database", "--data", str(tmp_path)]).stdout.strip() == app.database()
    told = starter.run("terminal", ["export", "--data", str(tmp_path)])
    assert (told.returncode, "Fizz" in told.stdout + told.stderr) == (0, True)
    backup = starter.run("terminal", ["backup", str(tmp_path / "x"), "--data", str(tmp_path)])
    assert (backup.returncode, "with its own tools: pg_dump" in backup.stderr) == (2, True)
