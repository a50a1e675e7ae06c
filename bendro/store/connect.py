"""The engine, sessions and migrations: the only place that opens the database."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any

import orjson
import psycopg
from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from psycopg import AsyncConnection
from psycopg.rows import namedtuple_row
from psycopg.types.json import set_json_loads
from psycopg_pool import AsyncConnectionPool
from sqlalchemy import Engine, NullPool, text
from sqlalchemy.exc import OperationalError
from sqlmodel import Session, create_engine

from bendro.settings import settings

from .errors import NewerData

set_json_loads(orjson.loads)  # a study of ten thousand trials is read in half the time
#: Connections of one process: to work with, more when many ask, and of the road of the saves.
POOL, MORE, HOT = 10, 10, 12
#: A lost connection is tried again by itself for so long, in seconds.
AGAIN_S = 1.0
#: Nobody waits longer for a connection to one host, in seconds.
CONNECT_S = 3


def plain(address: str) -> str:
    """An address as libpq takes it."""
    return address.replace("postgresql+psycopg://", "postgresql://", 1)


def _how() -> dict[str, Any]:
    """Behind a pooler statements are not prepared: the next one may go to another connection of the server's."""
    return {"connect_timeout": CONNECT_S, **({"prepare_threshold": None} if settings().database_direct else {})}


def engine_at(address: str, **more: Any) -> Engine:
    """An engine for an address as libpq takes it: several hosts, certificates and all."""
    # the values of a statement are the class's: they stay out of every log
    return create_engine(
        "postgresql+psycopg://", creator=lambda: psycopg.connect(plain(address), **_how()), hide_parameters=True, json_deserializer=orjson.loads, **more
    )


@cache
def engine() -> Engine:
    return engine_at(settings().database, pool_size=POOL, max_overflow=MORE, pool_timeout=2, pool_pre_ping=True)


@cache
def hot_pool() -> AsyncConnectionPool[AsyncConnection[Any]]:
    """The connections of the one road that is taken all the time, a trial being saved: it waits for no thread, and its statements go as
    they stand, without a mapper between; each commits by itself unless a transaction is begun. To be opened in the loop that uses it."""
    return AsyncConnectionPool(
        plain(settings().database), min_size=2, max_size=HOT, open=False, timeout=2, name="saves",
        reconnect_timeout=AGAIN_S,  # then whoever asks next tries at once: tries that grow rarer would outlast a long failover
        kwargs={**_how(), "row_factory": namedtuple_row, "autocommit": True},
    )  # fmt: skip


async def listening() -> AsyncConnection[Any]:
    """A connection of its own that listens for what others write; none of a pool is held by it, and no pooler lies between."""
    return await AsyncConnection.connect(plain(settings().database_direct or settings().database), autocommit=True, connect_timeout=CONNECT_S)


def connect_anew() -> None:
    """The database that answered takes no writes any more: what is connected to it is let go, and the next call finds the one that does."""
    engine().dispose()


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
    aside = engine_at(url, poolclass=NullPool)
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
    with engine_at(url, poolclass=NullPool).connect() as connection:
        if not set(MigrationContext.configure(connection).get_current_heads()) <= known or to not in {"head", *known}:
            raise NewerData
    command.upgrade(config, to)
