"""Backups of earlier versions: plain SQL as `pg_dump` wrote it. Nothing of such a file is run. Its rows are taken out and put into tables of
our own making; every other line only has to be of a kind that pg_dump writes, and the first that is not is named."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from psycopg import Connection, sql

from .contents import not_data
from .trouble import BackupTrouble

#: What pg_dump writes last, and how far from the end that stands at most.
END, END_BYTES = b"PostgreSQL database dump complete", 2_000
#: A statement ends within so many lines; the longest is the making of a table.
MOST_LINES = 200
_COPY = re.compile(r'^COPY public\.([a-z_]+) \(([a-z_0-9", ]+)\) FROM stdin;$')
_NAME = r'(?:public\.)?"?[a-z_0-9]+"?'
#: How a statement of a dump begins, by whatever version of pg_dump and with the options that earlier versions of the README named.
_KINDS = re.compile(
    "^(?:"
    + "|".join(
        (
            r"SET [a-z_]+ = [^;]*;$",
            r"SELECT pg_catalog\.set_config\('search_path', '', false\);$",
            rf"SELECT pg_catalog\.setval\('{_NAME}', \d+, (?:true|false)\);$",
            rf"CREATE (?:TABLE|SEQUENCE|UNIQUE INDEX|INDEX) {_NAME}(?: |$)",
            rf"ALTER (?:TABLE|SEQUENCE)(?: IF EXISTS)?(?: ONLY)? {_NAME}(?: |$)",
            rf"DROP (?:TABLE|SEQUENCE|INDEX) IF EXISTS {_NAME};$",
            r"ALTER SCHEMA public OWNER TO [a-z_]+;$",
            r"(?:GRANT|REVOKE) [A-Z ,]+ ON SCHEMA public (?:TO|FROM) [A-Za-z_]+;$",
        )
    )
    + ")"
)
#: Words that no making of a table, an index or a constraint of Bendro's has; a dump has them only where somebody put them there.
_NEVER = re.compile(r"\b(?:function|procedure|trigger|extension|program|language|security|execute|perform|do)\b|\$[a-z_]*\$|\\", re.IGNORECASE)
#: Newer versions of pg_dump fence a dump with a word by chance; that and nothing else may begin with a backslash.
_FENCE = re.compile(r"^\\(?:un)?restrict [A-Za-z0-9]+$")


@dataclass(frozen=True, slots=True, kw_only=True)
class Rows:
    """The rows of one table. begins, ends: where in the file, in bytes."""

    table: str
    columns: tuple[str, ...]
    begins: int
    ends: int
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Plain:
    """What a file of plain SQL holds. schema: of its tables."""

    file: Path
    rows: tuple[Rows, ...]
    schema: str

    def counts(self) -> dict[str, int]:
        """Rows of each table that it holds."""
        return {r.table: r.count for r in self.rows}


def look_into(file: Path) -> Plain:
    """Look through a whole file. Raises BackupTrouble `backup_cut`, `backup_commands` with the line, `backup_other`."""
    with file.open("rb") as opened:
        opened.seek(max(0, file.stat().st_size - END_BYTES))
        if END not in opened.read():
            raise BackupTrouble(f"{file.name} is no backup, or it was cut short: its last lines are missing.", code="backup_cut", where="file")
    found = tuple(_parts(file))
    schema = next((r for r in found if r.table == "alembic_version" and r.count == 1), None)
    if schema is None or not any(r.table == "study" for r in found):
        raise BackupTrouble("This file holds no backup of Bendro. The data in use are as they were.", code="backup_other", where="file")
    with file.open("rb") as opened:
        opened.seek(schema.begins)
        return Plain(file=file, rows=found, schema=opened.readline().decode(errors="replace").strip())


def _parts(file: Path) -> Iterator[Rows]:
    """Each table's rows; every line beside them is checked."""
    statement: list[str] = []
    with file.open("rb") as opened:
        number = 0
        while raw := opened.readline():
            number += 1
            line = raw.decode(errors="replace").rstrip("\n")
            if not statement and (not line or line.startswith("--") or _FENCE.match(line)):
                continue
            copied = _COPY.match(line) if not statement else None
            if copied:
                begins, count = opened.tell(), 0
                while (row := opened.readline()) not in (b"\\.\n", b"\\.\r\n"):
                    if not row:
                        raise BackupTrouble(f"{file.name} was cut short: the rows of {copied[1]} do not end.", code="backup_cut", where="file")
                    count += 1
                columns = tuple(c.strip(' "') for c in copied[2].split(","))
                yield Rows(table=copied[1], columns=columns, begins=begins, ends=opened.tell() - len(row), count=count)
                number += count + 1
                continue
            statement.append(line)
            if (len(statement) == 1 and not _KINDS.match(line)) or _NEVER.search(line) or len(statement) > MOST_LINES:
                raise not_data(line, number)
            ended = line.rstrip().endswith(";")
            if ";" in line.rstrip().removesuffix(";"):
                raise not_data(line, number)
            if ended:
                statement = []


def put_in(plain: Plain, connection: Connection[object]) -> None:
    """Put the rows into the tables, which are there and empty. Raises BackupTrouble where they do not fit, and psycopg's errors."""
    with plain.file.open("rb") as opened, connection.cursor() as cursor:
        for part in plain.rows:
            into = sql.SQL("copy {} ({}) from stdin").format(
                sql.Identifier("public", part.table), sql.SQL(", ").join(sql.Identifier(c) for c in part.columns)
            )
            opened.seek(part.begins)
            with cursor.copy(into) as copying:
                left = part.ends - part.begins
                while left:
                    piece = opened.read(min(left, 1_000_000))
                    copying.write(piece)
                    left -= len(piece)
