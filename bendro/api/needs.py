"""What routes need: the clock, a session, and the signed-in teacher's rows."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime
from typing import Annotated

from fastapi import Cookie, Depends
from sqlmodel import Session

from bendro.actions.accounts import Who, who
from bendro.store.connect import session as open_session
from bendro.store.owned import Owned

COOKIE = "bendro_session"


def now() -> datetime:
    return datetime.now(UTC)


def database() -> Iterator[Session]:
    """The session of a request. Its work is committed once, when the answer is made and before it is sent (the scope `function`): what is
    acknowledged is stored, and what was refused leaves nothing behind."""
    with open_session() as opened:
        yield opened
        opened.commit()


Now = Annotated[datetime, Depends(now)]
Database = Annotated[Session, Depends(database, scope="function")]
Token = Annotated[str | None, Cookie(alias=COOKIE)]


def teacher(session: Database, at: Now, token: Token = None) -> Who:
    return who(session, token, now=at)


Teacher = Annotated[Who, Depends(teacher)]


def owned(session: Database, me: Teacher) -> Owned:
    return Owned(session, me.workspace_id, by=me.account_id)


Mine = Annotated[Owned, Depends(owned)]
