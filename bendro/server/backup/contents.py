"""What stands in an archive, by its own table of contents, read by PostgreSQL's `pg_restore`."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import tempfile
from pathlib import Path
from typing import IO, BinaryIO

from bendro.server.postgres import programs

from .manifest import HEAD_BYTES
from .trouble import BackupTrouble, stopped

#: Kinds of entries that a dump of Bendro's tables has. Whatever could be called later (a function, a trigger, a rule, an extension, a
#: large object, a policy) is not among them.
KINDS = (
    "TABLE DATA", "TABLE", "SEQUENCE SET", "SEQUENCE OWNED BY", "SEQUENCE", "DEFAULT", "FK CONSTRAINT", "CHECK CONSTRAINT", "CONSTRAINT",
    "INDEX", "ENCODING", "STDSTRINGS", "SEARCHPATH",
)  # fmt: skip
_ENTRY = re.compile(r"^\d+; \d+ \d+ (.+)$")
_KIND = re.compile(rf"^({'|'.join(KINDS)}) (\S+) (\S+)")
#: A program that reads a file of unknown origin is nobody's where that can be had.
NOBODY = ["setpriv", "--reuid=65534", "--regid=65534", "--clear-groups", "--no-new-privs", "--inh-caps=-all", "--bounding-set=-all"]


def as_nobody(command: list[str]) -> list[str]:
    """The command line that runs a program with no rights on this machine."""
    return [*NOBODY, *command] if os.geteuid() == 0 and shutil.which("setpriv") else command


def read_archive(file: Path, *options: str, password: str = "") -> str:
    """Let pg_restore read the archive behind the head of `file`, and give what it writes. Raises BackupTrouble."""
    command = as_nobody([str(programs() / "pg_restore"), "--no-password", *options])
    environment = {"PATH": os.environ.get("PATH", ""), "LC_ALL": "C.UTF-8", "PGPASSWORD": password}
    with file.open("rb") as whole, tempfile.TemporaryFile() as out, tempfile.TemporaryFile() as errors:
        whole.seek(HEAD_BYTES)
        with subprocess.Popen(command, stdin=subprocess.PIPE, stdout=out, stderr=errors, env=environment, cwd="/") as reading:
            assert reading.stdin is not None
            _pour(whole, reading.stdin)
        out.seek(0)
        errors.seek(0)
        if reading.returncode:
            raise stopped("pg_restore", errors.read().decode(errors="replace"))
        return out.read().decode(errors="replace")


def _pour(whole: BinaryIO, into: IO[bytes]) -> None:
    try:
        shutil.copyfileobj(whole, into, 1_000_000)
        into.close()
    except BrokenPipeError:
        return  # it has read all that it needs, or stopped: its end code tells which


def tables_in(file: Path) -> set[str]:
    """Tables whose rows the archive holds. Raises BackupTrouble `backup_commands` for anything that is no table of data."""
    found: set[str] = set()
    for line in read_archive(file, "--list").splitlines():
        entry = _ENTRY.match(line)
        if entry is None:
            if line and not line.startswith(";"):
                raise not_data(line)
            continue
        kind = _KIND.match(entry[1])
        if kind is None or kind[2] not in ("public", "-"):
            raise not_data(entry[1])
        if kind[1] == "TABLE DATA":
            found.add(kind[3])
    return found


def not_data(what: str, line: int | None = None) -> BackupTrouble:
    """Something in a backup that is no data."""
    said, where = " ".join(what.split()), "" if line is None else f" in line {line}"
    shown = said if len(said) <= 60 else said[:60] + "…"
    return BackupTrouble(
        f"This file holds something that is no data{where}: “{shown}”. A backup of Bendro never does, so nothing of it was read. "
        "Take a backup that nobody has changed.",
        code="backup_commands", where="file",
    )  # fmt: skip
