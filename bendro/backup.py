"""All that teachers keep, written into one file of plain SQL, and taken back from it: wholly, or not at all."""

from __future__ import annotations

import os
import subprocess
from datetime import datetime
from pathlib import Path

import psycopg
from psycopg import sql

from bendro.core.errors import CoreError
from bendro.postgres import Server, programs
from bendro.store.connect import migrate
from bendro.store.errors import NewerData

#: The database into which a backup is read before it takes the place of the one in use.
_COMING = "bendro_coming"
#: What pg_dump writes last.
_END = b"PostgreSQL database dump complete"


class BackupTrouble(CoreError):
    """A backup that could not be made, or a file that could not be taken back; the data in use are as they were."""

    code = "backup_failed"


def _run(server: Server, port: int, program: str, *options: str, database: str = "bendro") -> None:
    """One of PostgreSQL's programs; the password goes in its environment, never into the list of processes."""
    done = subprocess.run(
        [str(programs() / program), "--no-password", "-h", "127.0.0.1", "-p", str(port), "-U", "bendro", "-d", database, *options],
        capture_output=True,
        text=True,
        errors="replace",
        env={**os.environ, "PGPASSWORD": server.password()},
        check=False,
    )
    if done.returncode:
        first = next((line for line in done.stderr.splitlines() if "ERROR" in line or "error" in line), done.stderr.strip()[-300:])
        raise BackupTrouble(f"{program} stopped: {first}. The data in use are as they were.", code="backup_failed", where="file")


def back_up(server: Server, port: int, file: Path) -> int:
    """Write everything into `file`, in place of what was there, and give its length in bytes. A backup that fails leaves the
    file as it was. Raises BackupTrouble."""
    written = file.with_name(f"{file.name}.part")
    try:
        written.touch(0o600)
        _run(server, port, "pg_dump", "--no-owner", "--no-privileges", "--file", str(written))
        written.replace(file)
    except OSError as why:
        raise BackupTrouble(f"{file} cannot be written: {why.strerror}. Choose another place.", where="file") from why
    finally:
        written.unlink(missing_ok=True)
    return file.stat().st_size


def restore(server: Server, port: int, file: Path, *, now: datetime) -> str:
    """Put what `file` holds in place of the data, from this or any earlier version, and give the name under which the database
    that was in use is kept. Whatever fails, the data in use are as they were. Nobody else may use them. Raises BackupTrouble."""
    check_file(file)
    kept = f"bendro_until_{now:%Y%m%d_%H%M%S}"
    coming, before = sql.Identifier(_COMING), sql.Identifier(kept)
    with psycopg.connect(server.address(port, "postgres"), autocommit=True) as connection:
        connection.execute(sql.SQL("drop database if exists {}").format(coming))
        connection.execute(sql.SQL("create database {} template template0 encoding 'UTF8' lc_collate 'C.UTF-8' lc_ctype 'C.UTF-8'").format(coming))
        try:
            _run(
                server,
                port,
                "psql",
                "--no-psqlrc",
                "--quiet",
                "--single-transaction",
                "--set",
                "ON_ERROR_STOP=1",
                "--file",
                str(file),
                database=_COMING,
            )
            _check(server.address(port, _COMING))
            migrate(server.address(port, _COMING).replace("postgresql://", "postgresql+psycopg://"))
            with connection.transaction():  # both names change, or neither
                connection.execute(sql.SQL("alter database bendro rename to {}").format(before))
                connection.execute(sql.SQL("alter database {} rename to bendro").format(coming))
        except NewerData as why:
            raise BackupTrouble(str(why), code="backup_newer", where="file") from why
        finally:
            connection.execute(sql.SQL("drop database if exists {}").format(coming))
    return kept


def check_file(file: Path) -> None:
    """Refuse what can be seen to be no whole backup before anything is begun. Raises BackupTrouble."""
    if not file.is_file():
        raise BackupTrouble(f"There is no file {file}. Give the path of a backup.", code="backup_missing", where="file")
    with file.open("rb") as opened:
        opened.seek(max(0, file.stat().st_size - 2_000))
        if _END not in opened.read():
            raise BackupTrouble(f"{file.name} is no backup, or it was cut short: its last lines are missing.", code="backup_cut", where="file")


def _check(address: str) -> None:
    with psycopg.connect(address) as connection:
        tables = connection.execute("select to_regclass('public.alembic_version'), to_regclass('public.study')").fetchone()
        if tables is None or None in tables or connection.execute("select count(*) from alembic_version").fetchone() != (1,):
            raise BackupTrouble("This file holds no backup of Bendro. The data in use are as they were.", code="backup_other", where="file")
