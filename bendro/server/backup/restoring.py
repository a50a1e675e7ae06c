"""A backup takes the place of the data, wholly or not at all.

The tables are made by this program's own migrations, in the shape that the file says it has; the file gives rows and nothing else, and they
are put in by a role that owns nothing, may do nothing but add rows to those tables, and is gone afterwards. Then the data are brought up to
the newest shape, and the two databases change their names.
"""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

import psycopg
from psycopg import sql

from bendro.actions.bringing_up import to_newest
from bendro.server.postgres import Server
from bendro.store.connect import migrate
from bendro.store.errors import NewerData

from .contents import read_archive, tables_in
from .manifest import FIRST_LINE, HEAD_BYTES, Manifest, read_head
from .plain import Plain, look_into, put_in
from .trouble import BackupTrouble

#: The database into which a backup is read before it takes the place of the one in use.
_COMING = "bendro_coming"
#: Roles that put rows into it begin so.
_ROLE = "bendro_reading_"


@dataclass(frozen=True, slots=True, kw_only=True)
class Given:
    """A file that was looked through: its kind, the schema of its tables, and how many rows it says each has."""

    file: Path
    schema: str
    counts: dict[str, int]
    plain: Plain | None


def restore(server: Server, port: int, file: Path, *, now: datetime) -> str:
    """Put what `file` holds in place of the data, from this or any earlier version, and give the name under which the database
    that was in use is kept. Whatever fails, the data in use are as they were. Nobody else may use them. Raises BackupTrouble."""
    given = look_through(file)
    kept = f"bendro_until_{now:%Y%m%d_%H%M%S}"
    coming, before = sql.Identifier(_COMING), sql.Identifier(kept)
    with psycopg.connect(server.address(port, "postgres"), autocommit=True) as connection:
        connection.execute(sql.SQL("drop database if exists {}").format(coming))
        connection.execute(sql.SQL("create database {} template template0 encoding 'UTF8' lc_collate 'C.UTF-8' lc_ctype 'C.UTF-8'").format(coming))
        try:
            address = server.address(port, _COMING)
            migrate(address, to=given.schema)
            _ask_for_nothing(address)
            _fill(connection, address, port, given)
            to_newest(address)
            with connection.transaction():  # both names change, or neither
                connection.execute(sql.SQL("alter database bendro rename to {}").format(before))
                connection.execute(sql.SQL("alter database {} rename to bendro").format(coming))
        except NewerData as why:
            raise BackupTrouble(str(why), code="backup_newer", where="file") from why
        finally:
            connection.execute(sql.SQL("drop database if exists {}").format(coming))
            _forget_roles(connection)
    return kept


def _ask_for_nothing(address: str) -> None:
    """The tables were made anew: what was to be brought up in them is told by the file, where there is anything."""
    with psycopg.connect(address) as own:
        if own.execute("select to_regclass('public.to_bring_up')").fetchone() != (None,):
            own.execute("delete from to_bring_up")


def look_through(file: Path) -> Given:
    """What a file says of itself, and whether it is whole; nothing is begun yet. Raises BackupTrouble `backup_missing`, `backup_cut`,
    `backup_changed`, `backup_commands`, `backup_other`."""
    if not file.is_file():
        raise BackupTrouble(f"There is no file {file}. Give the path of a backup.", code="backup_missing", where="file")
    with file.open("rb") as opened:
        head = opened.read(HEAD_BYTES)
    if not head.startswith(FIRST_LINE):
        plain = look_into(file)
        return Given(file=file, schema=plain.schema, counts=plain.counts(), plain=plain)
    manifest = read_head(head, file.name)
    _check_hash(file, manifest)
    if {"alembic_version", "study"} - tables_in(file):
        raise BackupTrouble("This file holds no backup of Bendro. The data in use are as they were.", code="backup_other", where="file")
    return Given(file=file, schema=manifest.schema_version, counts=manifest.counts, plain=None)


def _check_hash(file: Path, manifest: Manifest) -> None:
    length = file.stat().st_size - HEAD_BYTES
    if length < manifest.length:
        raise BackupTrouble(
            f"{file.name} was cut short: {length} of {manifest.length} bytes are there. Take another backup.", code="backup_cut", where="file"
        )
    with file.open("rb") as opened:
        opened.seek(HEAD_BYTES)
        found = hashlib.file_digest(opened, "sha256").hexdigest()
    if found != manifest.sha256:
        raise BackupTrouble(
            f"{file.name} is not as it was written: what lies in it was changed or damaged. Take another backup.", code="backup_changed", where="file"
        )


def _fill(connection: psycopg.Connection[tuple[object, ...]], address: str, port: int, given: Given) -> None:
    """Put the rows of the file into the tables of the coming database, and see that they are all there and belong together."""
    with psycopg.connect(address) as own:
        belonging = _let_go_of_belonging(own)
    with _role(connection, address) as (role, password):
        try:
            if given.plain is not None:
                with psycopg.connect(address, user=role, password=password) as filling:
                    put_in(given.plain, filling)
            else:
                options = ("-h", "127.0.0.1", "-p", str(port), "-U", role, "-d", _COMING)
                read_archive(
                    given.file, *options, "--data-only", "--single-transaction", "--exit-on-error", "--no-owner", "--no-privileges", password=password
                )
        except psycopg.Error as why:
            said = (why.diag.message_primary or str(why)).strip()
            raise BackupTrouble(f"The rows of this file do not fit the tables: {said}. The data in use are as they were.", where="file") from why
    with psycopg.connect(address) as own:
        _check_counts(own, given)
        try:
            for table, name, rule in belonging:
                own.execute(sql.SQL("alter table {} add constraint {} ").format(sql.Identifier("public", table), sql.Identifier(name)) + sql.SQL(rule))  # the rule is our own
        except psycopg.errors.ForeignKeyViolation as why:
            raise BackupTrouble(
                f"Rows of this file belong to others that are not in it ({why.diag.table_name}). The data in use are as they were.",
                code="backup_other", where="file",
            ) from why  # fmt: skip
        _set_numbers(own)


def _let_go_of_belonging(own: psycopg.Connection[tuple[object, ...]]) -> list[tuple[str, str, str]]:
    """Tables are filled in any order, so which row belongs to which is looked at when all are there: table, name and rule of each. The row
    that tells the shape comes from the file."""
    found = own.execute(
        "select c.relname, f.conname, pg_get_constraintdef(f.oid) from pg_constraint f join pg_class c on c.oid = f.conrelid"
        " where f.contype = 'f' and f.connamespace = 'public'::regnamespace order by 1, 2"
    ).fetchall()
    for table, name, _ in found:
        own.execute(sql.SQL("alter table {} drop constraint {}").format(sql.Identifier("public", str(table)), sql.Identifier(str(name))))
    own.execute("delete from alembic_version")
    return [(str(t), str(n), str(rule)) for t, n, rule in found]


@contextmanager
def _role(connection: psycopg.Connection[tuple[object, ...]], address: str) -> Iterator[tuple[str, str]]:
    """A role that may add rows to the tables of the coming database and move their numbers on, and nothing else; and its password."""
    name, password = _ROLE + secrets.token_hex(4), secrets.token_urlsafe(24)
    role = sql.Identifier(name)
    connection.execute(
        sql.SQL("create role {} login nosuperuser nocreatedb nocreaterole noinherit noreplication connection limit 2 password {}").format(
            role, sql.Literal(password)
        )
    )
    with psycopg.connect(address, autocommit=True) as own:
        own.execute("revoke create on schema public from public")
        own.execute(sql.SQL("grant usage on schema public to {}").format(role))
        own.execute(sql.SQL("grant insert on all tables in schema public to {}").format(role))
        own.execute(sql.SQL("grant update on all sequences in schema public to {}").format(role))
        try:
            yield name, password
        finally:
            own.execute(sql.SQL("drop owned by {}").format(role))


def _forget_roles(connection: psycopg.Connection[tuple[object, ...]]) -> None:
    """Also of a restore that was killed."""
    for (name,) in connection.execute("select rolname from pg_roles where starts_with(rolname, %s)", (_ROLE,)).fetchall():
        connection.execute(sql.SQL("drop role {}").format(sql.Identifier(str(name))))


def _check_counts(own: psycopg.Connection[tuple[object, ...]], given: Given) -> None:
    names = [str(n) for (n,) in own.execute("select tablename from pg_tables where schemaname = 'public'")]
    for name in sorted({*names, *given.counts}):
        row = own.execute(sql.SQL("select count(*) from {}").format(sql.Identifier("public", name))).fetchone() if name in names else None
        there = 0 if row is None else row[0]
        if there != given.counts.get(name, 0):
            raise BackupTrouble(
                f"This file says that it holds {given.counts.get(name, 0)} rows of {name}, and {there} came out of it. The data in use are as they were.",
                code="backup_other", where="file",
            )  # fmt: skip
    version = own.execute("select version_num from alembic_version").fetchall()
    if version != [(given.schema,)]:
        raise BackupTrouble("This file holds no backup of Bendro. The data in use are as they were.", code="backup_other", where="file")


def _set_numbers(own: psycopg.Connection[tuple[object, ...]]) -> None:
    """The next number of every counted column is the one after the highest."""
    counted = own.execute(
        "select c.table_name, c.column_name, pg_get_serial_sequence(format('public.%I', c.table_name), c.column_name) from information_schema.columns c"
        " where c.table_schema = 'public' and pg_get_serial_sequence(format('public.%I', c.table_name), c.column_name) is not null"
    ).fetchall()
    for table, column, sequence in counted:
        own.execute(
            sql.SQL("select setval(%s, coalesce((select max({}) from {}), 0) + 1, false)").format(
                sql.Identifier(str(column)), sql.Identifier("public", str(table))
            ),
            (sequence,),
        )
