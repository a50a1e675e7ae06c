"""The engine, sessions and migrations: the only place that opens the database."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine
from sqlmodel import Session, create_engine

from bendro.settings import settings


@cache
def engine() -> Engine:
    return create_engine(settings().database_url, pool_size=10, max_overflow=10, pool_pre_ping=True)


@contextmanager
def session() -> Iterator[Session]:
    with Session(engine()) as opened:
        yield opened


def migrate(url: str) -> None:
    """Bring the database at `url` to the newest shape. Doing it again changes nothing."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.attributes["url"] = url
    command.upgrade(config, "head")
