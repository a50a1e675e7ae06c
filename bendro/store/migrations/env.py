"""Alembic's entry: runs the migrations over the address that `migrate` passes."""

from alembic import context
from sqlalchemy import pool
from sqlmodel import SQLModel

from bendro.store import tables  # noqa: F401  (registers the tables)
from bendro.store.connect import engine_at

engine = engine_at(context.config.attributes["url"], poolclass=pool.NullPool)
with engine.connect() as connection:
    context.configure(connection=connection, target_metadata=SQLModel.metadata)
    with context.begin_transaction():
        context.run_migrations()
