"""The engine, sessions and migrations: the only place that opens the database."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any

import orjson
from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from psycopg import AsyncConnection
from psycopg.rows import namedtuple_row
from psycopg_pool import AsyncConnectionPool
from sqlalchemy import Engine, NullPool, text
from sqlalchemy.exc import OperationalError
from sqlmodel import Session, create_engine

from bendro.settings import settings

from .errors import NewerData


@cache
def engine() -> Engine:
    # the values of a statement are the class's: they stay out of every log
    return create_engine(
        settings().database_url,
        pool_size=10,
        max_overflow=10,
        pool_timeout=2,
        pool_pre_ping=True,
        hide_parameters=True,
        json_deserializer=orjson.loads,
        connect_args={"connect_timeout": 3},
    )


@cache
def hot_pool() -> AsyncConnectionPool[AsyncConnection[Any]]:
    """The connections of the one road that is taken all the time, a trial being saved: it waits for no thread, and its statements go as
    they stand, without a mapper between; each commits by itself unless a transaction is begun. To be opened in the loop that uses it."""
    return AsyncConnectionPool(
        settings().database_url.replace("postgresql+psycopg://", "postgresql://"),
        min_size=2, max_size=12, open=False, timeout=2, name="saves", kwargs={"connect_timeout": 3, "row_factory": namedtuple_row, "autocommit": True},
    )  # fmt: skip


async def listening() -> AsyncConnection[Any]:
    """A connection of its own that listens for what others write; none of a pool is held by it."""
    return await AsyncConnection.connect(settings().database_url.replace("postgresql+psycopg://", "postgresql://"), autocommit=True, connect_timeout=3)


@contextmanager
def session() -> Iterator[Session]:
    opened = Session(engine())
    try:
        yield opened
    finally:
        try:
            opened.close()
        except OperationalError:
            # the database went when the work was done, or that was told already: there is nothing left to roll back
            opened.invalidate()


@contextmanager
def alone_with(url: str) -> Iterator[None]:
    """Nobody else brings this database up meanwhile: others who want to wait here."""
    aside = create_engine(url, poolclass=NullPool)
    with aside.begin() as connection:  # held by a transaction, so that a pooler may lie between
        connection.execute(text("select pg_advisory_xact_lock(7003)"))
        yield


def migrate(url: str, *, to: str = "head") -> None:
    """Bring the database at `url` to the newest shape, or to an earlier one on its way there. Doing it again changes nothing. Raises
    NewerData, with nothing changed, where its shape or the one that is asked for is not known here."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.attributes["url"] = url
    known = {step.revision for step in ScriptDirectory.from_config(config).walk_revisions()}
    with create_engine(url, poolclass=NullPool).connect() as connection:
        if not set(MigrationContext.configure(connection).get_current_heads()) <= known or to not in {"head", *known}:
            raise NewerData
    command.upgrade(config, to)
