"""Backing up and going back: everything or nothing, from this version and from every earlier one."""

from __future__ import annotations

import subprocess
import tempfile
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx
import psycopg
import pytest

from bendro.server.backup import BackupTrouble, back_up, restore
from bendro.server.backup.manifest import HEAD_BYTES, read_head
from bendro.server.postgres import Server, programs
from tests.api.hostile_backups import hostile
from tests.api.test_upgrade import database_of, fill
from tests.conftest import PASSWORD, Application, TeacherClient, new_study, sign_up, trial_body
from tests.forked import starter

pytestmark = pytest.mark.api


def bendro(app: Application, *words: str) -> subprocess.CompletedProcess[str]:
    return starter.run("terminal", [*words, "--data", str(app.folder)])


def stop(app: Application) -> None:
    assert app.process is not None
    app.process.terminate()
    app.process.wait(30)


def test_what_was_backed_up_comes_back_whole_and_what_came_after_is_kept_aside(own_app: Any, tmp_path: Path) -> None:
    app = own_app("--no-demo")
    teacher = sign_up(app)
    study = new_study(teacher, title="Before")
    trials = f"/api/studies/{study['id']}/trials"
    for _ in range(5):
        teacher.ok("PUT", f"{trials}/{uuid4()}", json=trial_body())
    before = teacher.ok("GET", trials)
    file = tmp_path / "bendro.backup"
    done = bendro(app, "backup", str(file))
    assert (done.returncode, "Everything is in" in done.stdout) == (0, True), done.stderr
    assert file.stat().st_mode & 0o077 == 0
    new_study(teacher, title="After")

    refused = bendro(app, "restore", str(file))
    assert (refused.returncode, "Stop it first" in refused.stderr) == (2, True)
    stop(app)
    done = bendro(app, "restore", str(file))
    assert done.returncode == 0, done.stderr
    kept = done.stdout.split("database ")[1].strip(" .\n")
    app.start()
    client = httpx.Client(base_url=app.url, timeout=60)
    client.post("/api/session", json={"sign_in_name": teacher.name, "password": PASSWORD}).raise_for_status()
    assert [s["title"] for s in client.get("/api/studies").json()] == ["Before"]
    assert client.get(trials).json() == before
    with psycopg.connect(app.database().rsplit("/", 1)[0] + f"/{kept}") as aside:
        assert aside.execute("select count(*) from study").fetchone() == (2,)


def test_a_backup_of_an_earlier_version_is_taken_back_and_brought_up(own_app: Any, app: Application, tmp_path: Path) -> None:
    """One of 0003; `bin/attack backups` takes those of every earlier version back."""
    file = tmp_path / "old.sql"
    with database_of(app, "0003") as url:
        fill(url)
        with psycopg.connect(url, autocommit=True) as rows:
            rows.execute("update trial set unit = 'm'")
        # as the README of those versions told it
        subprocess.run([programs() / "pg_dump", "--clean", "--if-exists", "-f", file, url], check=True, timeout=60)
    mine = own_app("--no-demo")
    stop(mine)
    done = bendro(mine, "restore", str(file))
    assert done.returncode == 0, done.stderr
    mine.start()
    with psycopg.connect(mine.database()) as rows:
        assert rows.execute("select name from workspace").fetchall() == [("Old school",)]
        assert rows.execute("select count(*) from reading where unit = 'm' and measure = 'm1'").fetchone() == (6,)


def test_what_is_no_backup_or_would_run_something_is_refused_and_leaves_no_file_and_no_row(own_app: Any, app: Application, tmp_path: Path) -> None:
    mine = own_app("--no-demo")
    teacher = sign_up(mine)
    study = new_study(teacher)
    file, mark = tmp_path / "whole.bendro", Path(tempfile.gettempdir()) / "m"
    mark.unlink(missing_ok=True)
    assert bendro(mine, "backup", str(file)).returncode == 0
    plain = subprocess.run([programs() / "pg_dump", "--no-owner", mine.database()], check=True, capture_output=True, text=True, timeout=60).stdout
    stop(mine)
    server = Server(mine.folder / "postgres")
    server.start()
    port = server.running_port() or 0
    tried = 0
    with database_of(app, "head") as url:
        for one in hostile(file.read_bytes(), plain, url, mark):
            (tmp_path / "bad").write_bytes(one.data)
            with pytest.raises(BackupTrouble) as told:
                restore(server, port, tmp_path / "bad", now=datetime.now(UTC))
            assert (one.name, told.value.code) == (one.name, one.code), told.value.says
            assert len(told.value.says) > 25
            assert not mark.exists(), one.name
            tried += 1
    assert tried == 16
    for name, text in {"missing": None, "empty": "", "other": "CREATE TABLE public.elsewhere (n int);\n-- PostgreSQL database dump complete\n"}.items():
        if text is not None:
            (tmp_path / name).write_text(text)
        with pytest.raises(BackupTrouble, match=r"no file|no backup"):
            restore(server, port, tmp_path / name, now=datetime.now(UTC))
    with psycopg.connect(server.address(port, "postgres")) as rows:
        assert rows.execute("select datname from pg_database where datname like 'bendro_%'").fetchall() == []
        assert rows.execute("select rolname from pg_roles where rolname like 'bendro_%'").fetchall() == []
    # the good ones that they were made from are taken
    (tmp_path / "plain.sql").write_text(plain)
    for good in ("plain.sql", "whole.bendro"):
        assert restore(server, port, tmp_path / good, now=datetime.now(UTC)).startswith("bendro_until_")
        with psycopg.connect(server.address(port, "postgres"), autocommit=True) as rows:
            for (kept,) in rows.execute("select datname from pg_database where datname like 'bendro_until_%'").fetchall():
                rows.execute(f'drop database "{kept}"'.encode())
    server.stop()
    done = bendro(mine, "restore", str(tmp_path / "bad"))
    assert (done.returncode, "Traceback" in done.stderr, "no data" in done.stderr) == (2, False, True)
    mine.start()
    assert [s["id"] for s in teacher.ok("GET", "/api/studies")] == [study["id"]]
    teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body())  # numbers go on after those that came back


def test_a_killed_restore_leaves_nothing_that_stands_in_the_way_of_the_next(own_app: Any, tmp_path: Path) -> None:
    app = own_app("--no-demo")
    file = tmp_path / "whole.bendro"
    assert bendro(app, "backup", str(file)).returncode == 0
    with psycopg.connect(app.database(), autocommit=True) as rows:  # as one leaves it that was killed while it was reading
        rows.execute("create database bendro_coming")
        rows.execute("create role bendro_reading_00000000 login")
        with psycopg.connect(app.database().rsplit("/", 1)[0] + "/bendro_coming", autocommit=True) as coming:
            coming.execute("create table public.study (n int)")
            coming.execute("grant insert on study to bendro_reading_00000000")
    stop(app)
    done = bendro(app, "restore", str(file))
    assert done.returncode == 0, done.stderr
    app.start()
    with psycopg.connect(app.database()) as rows:
        assert rows.execute("select rolname from pg_roles where rolname like 'bendro_%'").fetchall() == []


def test_debians_own_tools_read_what_lies_behind_the_head(app: Application, tmp_path: Path) -> None:
    server = Server(app.folder / "postgres")
    file = tmp_path / "b.bendro"
    back_up(server, server.running_port() or 0, file, now=datetime.now(UTC))
    whole = file.read_bytes()
    (tmp_path / "archive").write_bytes(whole[HEAD_BYTES:])
    told = subprocess.run([programs() / "pg_restore", "--list", tmp_path / "archive"], check=True, capture_output=True, text=True, timeout=60).stdout
    manifest = read_head(whole[:HEAD_BYTES], "b")
    assert all(f"TABLE DATA public {name} " in told for name in manifest.counts)
    with psycopg.connect(app.database()) as rows:
        assert rows.execute("select count(*) from workspace").fetchone()[0] >= manifest.counts["workspace"] >= 1  # type: ignore[index]


def test_no_password_stands_in_the_list_of_processes(app: Application, teacher: TeacherClient, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    seen: list[list[str]] = []

    class Watched(subprocess.Popen[bytes]):
        def __init__(self, command: list[str], **given: Any) -> None:
            seen.append([str(word) for word in command])
            super().__init__(command, **given)

    monkeypatch.setattr(subprocess, "Popen", Watched)
    server = Server(app.folder / "postgres")
    port = server.running_port()
    assert port is not None
    assert back_up(server, port, tmp_path / "b", now=datetime.now(UTC)) > 1000
    assert seen
    assert not any(server.password() in word for command in seen for word in command)
    with pytest.raises(BackupTrouble, match="cannot be written"):
        back_up(server, port, tmp_path / "no" / "folder" / "b", now=datetime.now(UTC))
