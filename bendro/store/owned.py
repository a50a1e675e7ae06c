"""The one door to a workspace's rows. Whoever holds an `Owned` can neither see nor write another workspace's."""

from __future__ import annotations

from typing import Any, Literal, TypeVar
from uuid import UUID

from sqlmodel import Session, SQLModel, select

from .errors import NotFound

T = TypeVar("T", bound=SQLModel)
Lock = Literal["none", "share", "update"]


class Owned:
    """A session seen through one workspace. by: the account that writes, None where no one is signed in (the demo's making)."""

    def __init__(self, session: Session, workspace_id: UUID, *, by: UUID | None = None) -> None:
        self.session = session
        self.workspace_id = workspace_id
        self.by = by

    def select(self, table: type[T]) -> Any:
        """A select of this workspace's rows; add filters and order to it."""
        return select(table).where(table.workspace_id == self.workspace_id)  # type: ignore[attr-defined]

    def all(self, statement: Any) -> list[Any]:
        return list(self.session.exec(statement).all())

    def first(self, statement: Any) -> Any:
        """The first row of a select, or None."""
        return self.session.exec(statement).first()

    def find(self, table: type[T], row_id: UUID, *, lock: Lock = "none") -> T | None:
        """The row or None. lock: `share` keeps others from changing it, `update` from changing or share-locking it."""
        statement = self.select(table).where(table.id == row_id)  # type: ignore[attr-defined]
        found: T | None = self.session.exec(statement if lock == "none" else statement.with_for_update(read=lock == "share")).first()
        return found

    def get(self, table: type[T], row_id: UUID, *, lock: Lock = "none") -> T:
        """The row, or NotFound: another workspace's row is not there."""
        row = self.find(table, row_id, lock=lock)
        if row is None:
            raise NotFound(table.__tablename__)  # type: ignore[arg-type]
        return row

    def new(self, table: type[T], **values: Any) -> T:
        """A row of this workspace, added to the session."""
        row = table(workspace_id=self.workspace_id, **values)
        self.session.add(row)
        return row
