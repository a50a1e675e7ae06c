"""The teachers of one school: inviting and removing one, and the devices in which one is signed in."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID, uuid4

from sqlalchemy import delete
from sqlmodel import Session, col, select

from bendro.store.errors import NotFound
from bendro.store.tables import Account, Invitation, SignIn

from .accounts import Who, as_code, digest, new_code
from .errors import Refused

INVITATION_DAYS = 7
MOST_INVITATIONS = 20


@dataclass(frozen=True, slots=True, kw_only=True)
class School:
    """What a teacher sees of their own school. here: the session that asks."""

    teachers: list[Account]
    invitations: list[Invitation]
    sign_ins: list[SignIn]
    here: UUID | None


def school(session: Session, me: Who, *, token: str | None, now: datetime) -> School:
    """Teachers and open invitations of this school, and where this teacher is signed in, newest first."""
    _not_the_demo(me)
    mine = session.exec(
        select(SignIn).where(SignIn.account_id == me.account_id, SignIn.expires_at > now).order_by(col(SignIn.created_at).desc())
    ).all()
    return School(
        teachers=list(session.exec(select(Account).where(Account.workspace_id == me.workspace_id).order_by(col(Account.created_at))).all()),
        invitations=list(
            session.exec(
                select(Invitation)
                .where(Invitation.workspace_id == me.workspace_id, Invitation.expires_at > now)
                .order_by(col(Invitation.created_at))
            ).all()
        ),
        sign_ins=list(mine),
        here=next((s.id for s in mine if token and s.token_hash == digest(token)), None),
    )


def invite(session: Session, me: Who, *, now: datetime) -> str:
    """A code for one colleague, shown this once. Raises Refused."""
    _not_the_demo(me)
    open_now = session.exec(select(Invitation).where(Invitation.workspace_id == me.workspace_id, Invitation.expires_at > now)).all()
    if len(open_now) >= MOST_INVITATIONS:
        raise Refused(f"There are {len(open_now)} open invitations already; withdraw one first.", code="invitations_many")
    code = new_code()
    session.add(
        Invitation(
            id=uuid4(),
            code_hash=digest(as_code(code)),
            workspace_id=me.workspace_id,
            made_by=me.shown_name,
            created_at=now,
            expires_at=now + timedelta(days=INVITATION_DAYS),
        )
    )
    return code


def withdraw_invitation(session: Session, me: Who, invitation_id: UUID) -> None:
    """Nobody comes in with it any more; doing it twice is the same."""
    session.exec(delete(Invitation).where(Invitation.id == invitation_id, Invitation.workspace_id == me.workspace_id))  # type: ignore[arg-type]


def remove_teacher(session: Session, me: Who, account_id: UUID) -> None:
    """The account goes and is signed out everywhere; its studies belong to the school and stay. Raises NotFound, Refused."""
    _not_the_demo(me)
    if account_id == me.account_id:
        raise Refused("This is your own account; a colleague can remove it.", code="own_account")
    account = session.get(Account, account_id)
    if account is None or account.workspace_id != me.workspace_id:
        raise NotFound("teacher")
    session.delete(account)


def end_sign_in(session: Session, me: Who, sign_in_id: UUID) -> None:
    """One of this teacher's own devices is signed out; doing it twice is the same."""
    session.exec(delete(SignIn).where(SignIn.id == sign_in_id, SignIn.account_id == me.account_id))  # type: ignore[arg-type]


def _not_the_demo(me: Who) -> None:
    if me.demo:
        raise Refused("The demo belongs to everybody who opens it: it has no colleagues and no list of devices.", code="demo_school")
