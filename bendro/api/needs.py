"""What routes need: the clock, a session, and the signed-in teacher's rows."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime
from typing import Annotated

from fastapi import Cookie, Depends, Request
from sqlmodel import Session

from bendro.actions.accounts import Who, who
from bendro.actions.errors import NotAllowed, NotSignedIn
from bendro.actions.seats import role_of, seat_of
from bendro.core.rights import WHAT, may, only_own
from bendro.store.connect import session as open_session
from bendro.store.errors import NotFound
from bendro.store.owned import Owned

COOKIE, SEAT_COOKIE = "bendro_session", "bendro_seat"


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


SeatToken = Annotated[str | None, Cookie(alias=SEAT_COOKIE, max_length=200)]


def caller(session: Session, call: str, study_id: object, *, token: str | None, seat: str | None, now: datetime) -> Who:
    """Who makes a call: a signed-in teacher, or a seat that may make it of its own study. study_id: None for a call of no study. Raises
    NotSignedIn, NotAllowed, NotFound."""
    try:
        return who(session, token, now=now)
    except NotSignedIn:
        mine = seat_of(session, seat, now=now)
        if mine is None:
            raise
    if study_id is not None and str(study_id) != str(mine.study_id):
        raise NotFound("study")
    role = role_of(mine)
    if not may(role, call):
        raise NotAllowed(f"{WHAT[role]} may not do this. Ask the teacher.", code="not_allowed")
    return Who(account_id=mine.id, workspace_id=mine.workspace_id, shown_name=mine.label, workspace="", demo=False, seat=mine.label if only_own(role, call) else None, role=role)


def teacher(request: Request, session: Database, at: Now, token: Token = None, seat: SeatToken = None) -> Who:
    """Whoever calls and may: the name of the call is the route's."""
    call = getattr(request.scope.get("route"), "operation_id", None) or ""
    return caller(session, call, request.path_params.get("study_id"), token=token, seat=seat, now=at)


Teacher = Annotated[Who, Depends(teacher)]


def owned(session: Database, me: Teacher) -> Owned:
    return Owned(session, me.workspace_id, by=me.account_id)


Mine = Annotated[Owned, Depends(owned)]
