"""A backup is made: an archive of PostgreSQL's own, with a manifest in front."""

from __future__ import annotations

import hashlib
import os
import subprocess
import tempfile
from datetime import datetime
from pathlib import Path
from typing import BinaryIO

import psycopg
from psycopg import sql

from bendro import __version__
from bendro.server.postgres import Server, programs

from .contents import tables_in
from .manifest import HEAD_BYTES, Manifest
from .trouble import BackupTrouble, stopped

PIECE_BYTES = 1_000_000


def back_up(server: Server, port: int, file: Path, *, now: datetime) -> int:
    """Write everything into `file`, in place of what was there, and give its length in bytes. What was written is read again before it
    takes its place; a backup that fails leaves the file as it was. Raises BackupTrouble."""
    written = file.with_name(f"{file.name}.part")
    try:
        written.touch(0o600)
        with written.open("r+b") as out:
            manifest = _write(server, port, out, now=now)
            out.flush()
            os.fsync(out.fileno())
        _read_again(written, manifest)
        written.replace(file)
    except OSError as why:
        raise BackupTrouble(f"{file} cannot be written: {why.strerror}. Choose another place.", where="file") from why
    finally:
        written.unlink(missing_ok=True)
    return file.stat().st_size


def _write(server: Server, port: int, out: BinaryIO, *, now: datetime) -> Manifest:
    """Counts and archive are of one and the same moment, also while others write."""
    with psycopg.connect(server.address(port, "bendro")) as reading:
        reading.isolation_level = psycopg.IsolationLevel.REPEATABLE_READ
        snapshot = reading.execute("select pg_export_snapshot()").fetchone()
        schema = reading.execute("select version_num from alembic_version").fetchone()
        names = [name for (name,) in reading.execute("select tablename from pg_tables where schemaname = 'public' order by 1")]
        counts = {n: reading.execute(sql.SQL("select count(*) from {}").format(sql.Identifier("public", n))).fetchone() for n in names}
        if snapshot is None or schema is None:
            raise BackupTrouble("The database holds no data of Bendro, so there is nothing to back up. Start Bendro once.", where="file")
        out.seek(HEAD_BYTES)
        length, digest = _dump(server, port, out, snapshot=str(snapshot[0]))
    manifest = Manifest(
        program=__version__, schema_version=schema[0], made_at=now, counts={n: c[0] for n, c in counts.items() if c is not None}, length=length, sha256=digest
    )
    out.seek(0)
    out.write(manifest.head())
    return manifest


def _dump(server: Server, port: int, out: BinaryIO, *, snapshot: str) -> tuple[int, str]:
    """Length and hash of the archive. The password goes in the program's environment, never into the list of processes."""
    command = [
        str(programs() / "pg_dump"), "--no-password", "-h", "127.0.0.1", "-p", str(port), "-U", "bendro", "-d", "bendro",
        "--format=custom", "--no-owner", "--no-privileges", f"--snapshot={snapshot}",
    ]  # fmt: skip
    length, hashed = 0, hashlib.sha256()
    with tempfile.TemporaryFile() as errors:
        with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=errors, env={**os.environ, "PGPASSWORD": server.password()}) as dumping:
            assert dumping.stdout is not None
            while piece := dumping.stdout.read(PIECE_BYTES):
                out.write(piece)
                hashed.update(piece)
                length += len(piece)
        if dumping.returncode:
            errors.seek(0)
            raise stopped("pg_dump", errors.read().decode(errors="replace"))
    return length, hashed.hexdigest()


def _read_again(file: Path, manifest: Manifest) -> None:
    """Raises BackupTrouble where the archive's own table of contents lacks one of the tables."""
    missing = manifest.counts.keys() - tables_in(file)
    if missing:
        raise BackupTrouble(
            f"The backup that was just written lacks {', '.join(sorted(missing))}, so it was thrown away. Try again, on another disk.", where="file"
        )
