"""Backing up and going back: everything or nothing, from this version and from every earlier one."""

from __future__ import annotations

import subprocess
import sys
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx
import psycopg
import pytest

from bendro.backup import restore
from bendro.core.errors import CoreError
from bendro.postgres import Server, programs
from tests.api.test_upgrade import database_of, fill
from tests.conftest import PASSWORD, ROOT, Application, TeacherClient, new_study, sign_up, trial_body

pytestmark = pytest.mark.api


def bendro(app: Application, *words: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "bendro.cli", *words, "--data", str(app.folder)]
    return subprocess.run(command, cwd=ROOT, capture_output=True, text=True, timeout=120)


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
    file = tmp_path / "bendro.sql"
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


def test_a_file_that_is_no_whole_backup_changes_nothing(own_app: Any, tmp_path: Path) -> None:
    app = own_app("--no-demo")
    teacher = sign_up(app)
    study = new_study(teacher)
    file = tmp_path / "whole.sql"
    assert bendro(app, "backup", str(file)).returncode == 0
    whole = file.read_text()
    bad = {
        "missing.sql": None,
        "empty.sql": "",
        "other.sql": "create table elsewhere (n int);\n-- PostgreSQL database dump complete\n",
        "garbled.sql": whole.replace("CREATE TABLE public.study", "CREATE TABEL public.study"),
        "cut.sql": whole[: len(whole) // 2],
        "nearly.sql": whole.removesuffix("\n")[:-120],
        "newer.sql": whole.replace("\n0008\n", "\n0999\n"),
    }
    stop(app)
    server = Server(app.folder / "postgres")
    server.start()
    for name, text in bad.items():
        if text is not None:
            (tmp_path / name).write_text(text)
        with pytest.raises(CoreError) as told:
            restore(server, server.running_port() or 0, tmp_path / name, now=datetime.now(UTC))
        assert len(told.value.says) > 25, name
    server.stop()
    done = bendro(app, "restore", str(tmp_path / "nearly.sql"))
    assert (done.returncode, "Traceback" in done.stderr) == (2, False)
    app.start()
    assert [s["id"] for s in teacher.ok("GET", "/api/studies")] == [study["id"]]
    with psycopg.connect(app.database()) as rows:
        assert rows.execute("select datname from pg_database where datname like 'bendro_%'").fetchall() == []


def test_no_password_stands_in_the_list_of_processes(app: Application, teacher: TeacherClient, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from bendro import backup

    seen: list[list[str]] = []
    run = subprocess.run

    def watched(command: list[str], **given: Any) -> Any:
        seen.append([str(word) for word in command])
        return run(command, **given)

    monkeypatch.setattr(backup.subprocess, "run", watched)
    server = Server(app.folder / "postgres")
    port = server.running_port()
    assert port is not None
    assert backup.back_up(server, port, tmp_path / "b.sql") > 1000
    assert seen
    assert not any(server.password() in word for command in seen for word in command)
    with pytest.raises(backup.BackupTrouble, match="cannot be written"):
        backup.back_up(server, port, tmp_path / "no" / "folder" / "b.sql")
