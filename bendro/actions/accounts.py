"""Accounts and signing in."""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID, uuid4

from pwdlib import PasswordHash
from sqlalchemy import delete, func, text
from sqlmodel import Session, select

from bendro.settings import settings
from bendro.store.tables import Account, SignIn, Workspace, WrongPassword

from .errors import NotSignedIn, Refused, TooManyTries

LEAST_PASSWORD = 10
DEMO_NAME = "demo"
_hasher = PasswordHash.recommended()
#: Checked when no account has the name, so that the answer takes as long as for a wrong password.
_NOBODY = _hasher.hash(secrets.token_hex())


@dataclass(frozen=True, slots=True, kw_only=True)
class Who:
    """The signed-in teacher."""

    account_id: UUID
    workspace_id: UUID
    shown_name: str
    workspace: str
    demo: bool


def anyone(session: Session) -> bool:
    """Whether there is an account beside the demo's."""
    return session.exec(select(func.count()).select_from(Account).where(Account.password_hash.is_not(None))).one() > 0  # type: ignore[union-attr]


def first_account(session: Session, *, sign_in_name: str, password: str, school: str, now: datetime) -> Account:
    """The first account, made on the first-run page or at the terminal. Refused when there is one already."""
    session.exec(text("select pg_advisory_xact_lock(7001)"))  # type: ignore[call-overload]  # two first runs at once make one account
    if anyone(session):
        raise Refused("There is an account already; sign in with it.", code="account_exists")
    account = add_account(session, sign_in_name=sign_in_name, password=password, school=school, now=now)
    session.commit()
    return account


def add_account(session: Session, *, sign_in_name: str, password: str | None, school: str, now: datetime, demo: bool = False) -> Account:
    """A teacher in the workspace of that school, which is made when it is new; without a school, in one of their own.
    password None only for the demo. Does not commit."""
    name = sign_in_name.strip()
    if not 2 <= len(name) <= 80:
        raise Refused("The sign-in name needs 2 to 80 characters.", code="name_length", where="sign_in_name")
    if password is not None:
        _check_password(password)
    if session.exec(select(Account).where(Account.sign_in_name == name.casefold())).first() is not None:
        raise Refused("This sign-in name is taken; choose another.", code="name_taken", where="sign_in_name")
    named = school.strip()[:120]
    workspace = session.exec(select(Workspace).where(Workspace.name == named, Workspace.demo == demo)).first() if named else None
    if workspace is None:
        workspace = Workspace(id=uuid4(), name=named or "My classes", demo=demo, created_at=now)
        session.add(workspace)
        session.flush()
    account = Account(
        id=uuid4(),
        workspace_id=workspace.id,
        sign_in_name=name.casefold(),
        shown_name=name,
        password_hash=None if password is None else _hasher.hash(password),
        created_at=now,
    )
    session.add(account)
    session.flush()
    return account


def _check_password(password: str) -> None:
    if len(password) < LEAST_PASSWORD or not password.strip():
        raise Refused(
            f"The password has {len(password.strip())} characters besides blanks; it needs at least {LEAST_PASSWORD}.",
            code="password_short",
            where="password",
        )


def change_password(session: Session, account_id: UUID, *, token: str | None, now_used: str, wanted: str) -> None:
    """A new password for the teacher who knows the present one; other devices are signed out. Raises Refused."""
    account = session.get(Account, account_id)
    if account is None or account.password_hash is None:
        raise Refused("The demo has no password to change.", code="demo_password", where="now")
    if not _hasher.verify(now_used, account.password_hash):
        raise Refused("This is not the present password.", code="password_wrong", where="now")
    _check_password(wanted)
    account.password_hash = _hasher.hash(wanted)
    session.add(account)
    keep = _digest(token) if token else b""
    session.exec(delete(SignIn).where(SignIn.account_id == account_id, SignIn.token_hash != keep))  # type: ignore[call-overload, arg-type]
    session.commit()


def reset_password(session: Session, *, sign_in_name: str, wanted: str) -> None:
    """A new password set at the terminal for someone who has forgotten theirs; they are signed out everywhere. Raises Refused."""
    account = session.exec(select(Account).where(Account.sign_in_name == sign_in_name.strip().casefold())).first()
    if account is None or account.password_hash is None:
        raise Refused(f"There is no account “{sign_in_name.strip()}” with a password here.", code="account_unknown", where="sign_in_name")
    _check_password(wanted)
    account.password_hash = _hasher.hash(wanted)
    session.add(account)
    session.exec(delete(SignIn).where(SignIn.account_id == account.id))  # type: ignore[call-overload, arg-type]
    session.exec(delete(WrongPassword).where(WrongPassword.sign_in_name == account.sign_in_name))  # type: ignore[call-overload, arg-type]
    session.commit()


def sign_in(session: Session, *, sign_in_name: str, password: str, now: datetime) -> str:
    """A fresh session's token. Raises TooManyTries, or Refused `sign_in_wrong` without telling which part was wrong."""
    name = sign_in_name.strip().casefold()[:80]
    limit, window = settings().sign_in_tries, settings().sign_in_window_s
    since = now - timedelta(seconds=window)
    tries = session.exec(
        select(WrongPassword).where(WrongPassword.sign_in_name == name, WrongPassword.at > since).order_by(WrongPassword.at)
    ).all()  # type: ignore[arg-type]
    if len(tries) >= limit:
        wait = int((tries[-limit].at + timedelta(seconds=window) - now).total_seconds()) + 1
        raise TooManyTries(
            f"Too many wrong passwords for this name. Wait {-(-wait // 60)} min and try again.",
            code="sign_in_throttled",
            facts={"wait_s": wait},
        )
    account = session.exec(select(Account).where(Account.sign_in_name == name)).first()
    known = account.password_hash if account and account.password_hash else _NOBODY
    if not _hasher.verify(password, known) or account is None or account.password_hash is None:
        session.add(WrongPassword(sign_in_name=name, at=now))
        session.commit()
        raise Refused("The name or the password is not right.", code="sign_in_wrong", where="password")
    session.exec(delete(WrongPassword).where(WrongPassword.sign_in_name == name))  # type: ignore[call-overload, arg-type]
    return _open(session, account, now)


def sign_in_demo(session: Session, *, now: datetime) -> str:
    """A session for the demo account, only while the demo is on."""
    account = session.exec(select(Account).where(Account.sign_in_name == DEMO_NAME)).first()
    if not settings().demo or account is None or account.password_hash is not None:
        raise Refused("There is no demo here. Start with bin/start to have it.", code="demo_off")
    return _open(session, account, now)


def _open(session: Session, account: Account, now: datetime) -> str:
    token = secrets.token_urlsafe(32)
    session.exec(delete(SignIn).where(SignIn.expires_at < now))  # type: ignore[call-overload, arg-type]
    session.add(
        SignIn(
            token_hash=_digest(token),
            account_id=account.id,
            workspace_id=account.workspace_id,
            expires_at=now + timedelta(hours=settings().session_hours),
        )
    )
    session.commit()
    return token


def _digest(token: str) -> bytes:
    return hashlib.sha256(token.encode()).digest()


def who(session: Session, token: str | None, *, now: datetime) -> Who:
    """The teacher behind a cookie. Raises NotSignedIn."""
    row = None
    if token:
        row = session.exec(
            select(SignIn, Account, Workspace).where(
                SignIn.token_hash == _digest(token),
                SignIn.expires_at > now,
                Account.id == SignIn.account_id,
                Workspace.id == SignIn.workspace_id,
            )
        ).first()
    if row is None or (row[2].demo and not settings().demo):
        raise NotSignedIn("Sign in first.", code="not_signed_in")
    _, account, workspace = row
    return Who(
        account_id=account.id, workspace_id=workspace.id, shown_name=account.shown_name, workspace=workspace.name, demo=workspace.demo
    )


def sign_out(session: Session, token: str | None) -> None:
    """End the session; ending it twice is the same."""
    if token:
        session.exec(delete(SignIn).where(SignIn.token_hash == _digest(token)))  # type: ignore[call-overload, arg-type]
        session.commit()
