"""Wrong tries at the door, counted so that many at one moment count as many."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, timedelta

from sqlalchemy import text
from sqlmodel import Session

from bendro.settings import settings

from .errors import TooManyTries

_PURGE = text("delete from sign_in_try where id in (select id from sign_in_try where at <= :since for update skip locked)")
_LOCK = text("select pg_advisory_xact_lock(hashtextextended(:key, 7002))")
_COUNT = text("select count(*), min(at) from (select at from sign_in_try where key = :key order by at desc limit :most) newest")
_ADD = text("insert into sign_in_try (key, at) values (:key, :now)")


def reserve(session: Session, most: Mapping[str, int], now: datetime) -> None:
    """Count one more try under each key before it is looked at, so that tries at one moment cannot all pass. The one act that commits by
    itself: a wrong try counts though the request is refused, and no lock is held while a password is checked. most: key to how many wrong tries are allowed in the window. Raises TooManyTries, and then counts nothing."""
    window = timedelta(seconds=settings().sign_in_window_s)
    session.connection().execute(_PURGE, {"since": now - window})
    for key in sorted(most):  # in one order, so that two tries never wait for each other
        session.connection().execute(_LOCK, {"key": key})
        counted, oldest = session.connection().execute(_COUNT, {"key": key, "most": most[key]}).one()
        if counted >= most[key]:
            wait = max(1, int((oldest + window - now).total_seconds()) + 1)
            session.commit()
            raise TooManyTries(
                f"Too many wrong tries. Wait {-(-wait // 60)} min and try again.", code="sign_in_throttled", facts={"wait_s": wait}
            )
    for key in sorted(most):
        session.connection().execute(_ADD, {"key": key, "now": now})
    session.commit()


def forgive(session: Session, *, wholly: tuple[str, ...] = (), once: tuple[str, ...] = ()) -> None:
    """A try was right: nothing wrong is held against `wholly` any more, and one try less against `once`. Does not commit."""
    for key in wholly:
        session.connection().execute(text("delete from sign_in_try where key = :key"), {"key": key})
    for key in once:
        session.connection().execute(
            # of two that are right at one moment each takes a row of its own: none is left standing against the others
            text("delete from sign_in_try where id = (select id from sign_in_try where key = :key order by id desc limit 1 for update skip locked)"), {"key": key}
        )
