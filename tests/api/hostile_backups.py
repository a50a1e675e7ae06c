"""Backups that nobody should take back, made from a good one: cut, changed, and such as try to run something. Used by the tests and by
`bin/attack backups`."""

from __future__ import annotations

import hashlib
import json
import subprocess
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import psycopg

from bendro.server.backup.manifest import FIRST_LINE, HEAD_BYTES, read_head
from bendro.server.postgres import programs


@dataclass(frozen=True, slots=True, kw_only=True)
class Hostile:
    """name: what is wrong with it. code: with which it is refused. data: its bytes."""

    name: str
    code: str
    data: bytes


def hostile(whole: bytes, plain: str, url: str, mark: Path) -> Iterator[Hostile]:
    """whole: a good archive with its head; plain: a good backup of an earlier version. url: a database that may be spoilt on the way, of
    the same tables. mark: a file that none of them may ever make."""
    first = plain.index("COPY public.")
    run, shell = f"COPY public.workspace (name) FROM PROGRAM 'touch {mark}';", f"\\! touch {mark}"
    function = "CREATE FUNCTION public.f() RETURNS trigger LANGUAGE plpgsql AS 'begin return new; end';"
    yield Hostile(name="a command of the shell before a good backup", code="backup_commands", data=f"{shell}\n{plain}".encode())
    yield Hostile(name="a command of the shell within", code="backup_commands", data=(plain[:first] + shell + "\n" + plain[first:]).encode())
    yield Hostile(name="another file read in", code="backup_commands", data=(plain[:first] + "\\i /etc/passwd\n" + plain[first:]).encode())
    yield Hostile(name="rows from a program", code="backup_commands", data=(plain[:first] + run + "\n" + plain[first:]).encode())
    yield Hostile(name="a function in plain SQL", code="backup_commands", data=(plain[:first] + function + "\n" + plain[first:]).encode())
    yield Hostile(name="an extension", code="backup_commands", data=(plain[:first] + "CREATE EXTENSION dblink;\n" + plain[first:]).encode())
    two = plain.replace("SET client_encoding = 'UTF8';", f"SET client_encoding = 'UTF8'; {run}", 1)
    yield Hostile(name="two statements in one line", code="backup_commands", data=two.encode())
    yield Hostile(name="plain SQL cut short", code="backup_cut", data=plain[: len(plain) // 2].encode())
    yield Hostile(name="an archive cut short", code="backup_cut", data=whole[:-200])
    yield Hostile(name="a byte changed", code="backup_changed", data=whole[:-300] + bytes([whole[-300] ^ 1]) + whole[-299:])
    yield Hostile(name="a head that lies", code="backup_other", data=with_head(whole, counts=lambda n: n + 1))
    yield Hostile(name="a head that is no head", code="backup_other", data=FIRST_LINE + b"[]".ljust(HEAD_BYTES) + whole[HEAD_BYTES:])
    yield Hostile(name="of a version to come", code="backup_newer", data=with_head(whole, schema="0999"))
    # the statement that fills a table stands in an archive as it is: one of the same length that runs a program
    said = whole[whole.index(b"COPY public.workspace (") :].split(b"\n", 1)[0]
    program = f"COPY public.workspace FROM PROGRAM 'touch {mark}';".encode().ljust(len(said))
    assert len(program) == len(said), "the path of the mark is too long to be put in"
    yield Hostile(name="rows of an archive from a program", code="backup_failed", data=with_head(whole.replace(said, program, 1)))
    delete = b"DELETE FROM public.workspace;".ljust(len(said))
    yield Hostile(name="a statement of its own in an archive", code="backup_failed", data=with_head(whole.replace(said, delete, 1)))
    with psycopg.connect(url, autocommit=True) as rows:
        rows.execute(function.encode())
        rows.execute("create trigger t before insert on workspace for each row execute function f()")
    yield Hostile(name="a trigger in an archive", code="backup_commands", data=with_head(whole, archive=archive_of(url)))


def archive_of(url: str) -> bytes:
    """An archive of a database, without a head."""
    return subprocess.run([programs() / "pg_dump", "--format=custom", "--no-owner", "--no-privileges", url], check=True, capture_output=True, timeout=60).stdout


def with_head(whole: bytes, *, archive: bytes | None = None, schema: str = "", counts: object = None) -> bytes:
    """A file whose head fits what lies behind it, but for what is asked to be wrong."""
    held = whole[HEAD_BYTES:] if archive is None else archive
    told = json.loads(read_head(whole[:HEAD_BYTES], "whole").model_dump_json())
    told |= {"length": len(held), "sha256": hashlib.sha256(held).hexdigest()}
    if schema:
        told["schema_version"] = schema
    if callable(counts):
        told["counts"] = {name: counts(n) for name, n in told["counts"].items()}
    return (FIRST_LINE + json.dumps(told).encode()).ljust(HEAD_BYTES - 1) + b"\n" + held
