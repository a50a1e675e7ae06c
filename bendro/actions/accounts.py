"""Accounts and signing in."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID, uuid4

from pwdlib import PasswordHash
from sqlalchemy import delete, func, text
from sqlalchemy.exc import IntegrityError
from sqlmodel import Session, col, select

from bendro.core.rights import Role
from bendro.settings import settings
from bendro.store.tables import Account, Invitation, KnownDevice, SignIn, Workspace

from .errors import NotSignedIn, Refused
from .tries import forgive, reserve

LEAST_PASSWORD = 10
#: Without those that are mistaken for each other when they are read off a screen.
CODE_LETTERS = "ABCDEFGHJKMNPQRSTUVWXYZ23456789"
#: A browser that has not been used for so long is no longer known.
DEVICE_DAYS = 400
DEMO_NAME = "demo"
_hasher = PasswordHash.recommended()
#: Checked when no account has the name, so that the answer takes as long as for a wrong password.
_NOBODY = _hasher.hash(secrets.token_hex())


@dataclass(frozen=True, slots=True, kw_only=True)
class Who:
    """The signed-in teacher, or a seat of a lesson. account_id: of the account, or of the seat; seat: the label whose own things alone it may
    touch in this call, None where it may touch all."""

    account_id: UUID
    workspace_id: UUID
    shown_name: str
    workspace: str
    demo: bool
    seat: str | None = None
    role: Role = "teacher"


@dataclass(frozen=True, slots=True, kw_only=True)
class Door:
    """Where somebody stands who wants in. address: of the network; device: in words; known: the token that a browser got when it
    signed in before, or None."""

    address: str
    device: str
    known: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Let:
    """Let in: token of the session, and of the device."""

    token: str
    known: str


def anyone(session: Session) -> bool:
    """Whether there is an account beside the demo's."""
    return session.exec(select(func.count()).select_from(Account).where(Account.password_hash.is_not(None))).one() > 0  # type: ignore[union-attr]


def first_account(session: Session, *, code: str, sign_in_name: str, password: str, school: str, at: Door, now: datetime) -> Account:
    """The first account, for whoever can read the terminal. Refused when there is one already, or with another code."""
    _try_code(session, at, now)
    session.exec(text("select pg_advisory_xact_lock(7001)"))  # type: ignore[call-overload]  # two first runs at once make one account
    if anyone(session):
        raise Refused("There is an account already; sign in with it.", code="account_exists")
    wanted = settings().first_code
    if not wanted or not secrets.compare_digest(as_code(code), as_code(wanted)):
        raise Refused("This is not the code that the terminal shows where Bendro was started.", code="code_wrong", where="code")
    account = add_account(session, sign_in_name=sign_in_name, password=password, school=school, now=now)
    forgive(session, once=(f"address:{at.address}",))
    return account


def invited_account(session: Session, *, code: str, sign_in_name: str, password: str, at: Door, now: datetime) -> Account:
    """An account in the school of whoever made the invitation, which is used up by it. Raises Refused `code_wrong`."""
    _try_code(session, at, now)
    account = add_account(session, sign_in_name=sign_in_name, password=password, invitation=code, now=now)
    forgive(session, once=(f"address:{at.address}",))
    return account


def _try_code(session: Session, at: Door, now: datetime) -> None:
    reserve(session, {f"address:{at.address}": settings().sign_in_tries_of_address}, now)


def add_account(
    session: Session, *, sign_in_name: str, password: str | None, school: str = "", invitation: str = "", now: datetime, demo: bool = False
) -> Account:
    """A teacher in a school of their own, which is named `school`; or, with an invitation, in the one that invited.
    password None only for the demo."""
    workspace_id = _use_up(session, invitation, now) if invitation else uuid4()
    name = sign_in_name.strip()
    if not 2 <= len(name) <= 80:
        raise Refused("The sign-in name needs 2 to 80 characters.", code="name_length", where="sign_in_name")
    if password is not None:
        _check_password(password)
    taken = Refused("This sign-in name is taken; choose another.", code="name_taken", where="sign_in_name")
    if session.exec(select(Account).where(Account.sign_in_name == name.casefold())).first() is not None:
        raise taken
    if not invitation:
        session.add(Workspace(id=workspace_id, name=school.strip()[:120] or "My classes", demo=demo, created_at=now))
        session.flush()
    account = Account(
        id=uuid4(),
        workspace_id=workspace_id,
        sign_in_name=name.casefold(),
        shown_name=name,
        password_hash=None if password is None else _hasher.hash(password),
        created_at=now,
    )
    session.add(account)
    try:
        session.flush()
    except IntegrityError as why:  # somebody took it at the same moment
        raise taken from why
    return account


def as_code(typed: str) -> str:
    """A code as it is compared: capitals and digits only, however it was typed."""
    return "".join(c for c in typed.upper() if c.isascii() and c.isalnum())


def new_code() -> str:
    """A code to be read off and typed: eight of the characters that are not mistaken for another, 39 bits."""
    letters = "".join(secrets.choice(CODE_LETTERS) for _ in range(8))
    return f"{letters[:4]}-{letters[4:]}"


def _use_up(session: Session, code: str, now: datetime) -> UUID:
    """The workspace that a code lets into; it lets nobody else in. Raises Refused `code_wrong`."""
    found = session.exec(
        select(Invitation).where(Invitation.code_hash == digest(as_code(code)), Invitation.expires_at > now).with_for_update()
    ).first()
    if found is None:
        raise Refused(
            "This code lets nobody in: it was used, has run out or is mistyped. Ask the colleague for a new one.",
            code="code_wrong",
            where="code",
        )
    session.delete(found)
    return found.workspace_id


def _check_password(password: str) -> None:
    if len(password) < LEAST_PASSWORD or not password.strip():
        raise Refused(
            f"The password has {len(password.strip())} characters besides blanks; it needs at least {LEAST_PASSWORD}.",
            code="password_short",
            where="password",
        )


def change_password(session: Session, account_id: UUID, *, token: str | None, now_used: str, wanted: str, now: datetime) -> None:
    """A new password for the teacher who knows the present one; other devices are signed out. Raises Refused."""
    account = session.get(Account, account_id)
    if account is None or account.password_hash is None:
        raise Refused("The demo has no password to change.", code="demo_password", where="now")
    present, of_account = account.password_hash, f"password:{account_id}"
    reserve(session, {of_account: settings().sign_in_tries}, now)
    if not _hasher.verify(now_used, present):
        raise Refused("This is not the present password.", code="password_wrong", where="now")
    forgive(session, wholly=(of_account,))
    _check_password(wanted)
    account.password_hash = _hasher.hash(wanted)
    session.add(account)
    keep = digest(token) if token else b""
    session.exec(delete(SignIn).where(SignIn.account_id == account_id, SignIn.token_hash != keep))  # type: ignore[arg-type]


def reset_password(session: Session, *, sign_in_name: str, wanted: str) -> None:
    """A new password set at the terminal for someone who has forgotten theirs; they are signed out everywhere. Raises Refused."""
    account = session.exec(select(Account).where(Account.sign_in_name == sign_in_name.strip().casefold())).first()
    if account is None or account.password_hash is None:
        raise Refused(f"There is no account “{sign_in_name.strip()}” with a password here.", code="account_unknown", where="sign_in_name")
    _check_password(wanted)
    account.password_hash = _hasher.hash(wanted)
    session.add(account)
    session.exec(delete(SignIn).where(SignIn.account_id == account.id))  # type: ignore[arg-type]
    forgive(session, wholly=(f"name:{account.sign_in_name}",))


def sign_in(session: Session, *, sign_in_name: str, password: str, at: Door, now: datetime) -> Let:
    """A fresh session. Raises TooManyTries, or Refused `sign_in_wrong` without telling which part was wrong. Wrong tries are
    counted by name and by address; in a browser that has signed in before by that browser alone, so that others' guesses
    do not lock its teacher out."""
    name = sign_in_name.strip().casefold()[:80]
    account = session.exec(select(Account).where(Account.sign_in_name == name)).first()
    known_hash = digest(at.known) if at.known else b""
    device = session.get(KnownDevice, (known_hash, account.id)) if account else None
    of_name, of_address, of_device = f"name:{name}", f"address:{at.address}", f"device:{known_hash.hex()}:{name}"
    one, many = settings().sign_in_tries, settings().sign_in_tries_of_address
    password_hash = account.password_hash if account and account.password_hash else None
    reserve(session, {of_device: one} if device else {of_name: one, of_address: many}, now)
    # no connection is held while the password is checked
    right = _hasher.verify(password, password_hash or _NOBODY)
    if not right or account is None or password_hash is None:
        raise Refused("The name or the password is not right.", code="sign_in_wrong", where="password")
    forgive(session, wholly=(of_name, of_device), once=() if device else (of_address,))
    return let_in(session, account, at=at, now=now)


def sign_in_demo(session: Session, *, at: Door, now: datetime) -> Let:
    """A session for the demo account, only while the demo is on."""
    account = session.exec(select(Account).where(Account.sign_in_name == DEMO_NAME)).first()
    if not settings().demo or account is None or account.password_hash is not None:
        raise Refused("There is no demo here. Start with bin/start to have it.", code="demo_off")
    return let_in(session, account, at=at, now=now)


def let_in(session: Session, account: Account, *, at: Door, now: datetime) -> Let:
    """A session in this browser, which is known from now on; what has run out is cleared away."""
    token, known = secrets.token_urlsafe(32), at.known or secrets.token_urlsafe(32)
    session.exec(delete(SignIn).where(SignIn.expires_at < now))  # type: ignore[arg-type]
    session.exec(delete(Invitation).where(Invitation.expires_at < now))  # type: ignore[arg-type]
    session.exec(delete(KnownDevice).where(KnownDevice.used_at < now - timedelta(days=DEVICE_DAYS)))  # type: ignore[arg-type]
    session.add(
        SignIn(
            token_hash=digest(token),
            id=uuid4(),
            account_id=account.id,
            workspace_id=account.workspace_id,
            device=f"{at.device} at {at.address}",
            created_at=now,
            expires_at=now + timedelta(hours=settings().session_hours),
        )
    )
    if account.password_hash is not None:
        session.merge(KnownDevice(token_hash=digest(known), account_id=account.id, used_at=now))
    return Let(token=token, known=known)


def digest(token: str) -> bytes:
    """What is kept of a token or a code."""
    return hashlib.sha256(token.encode()).digest()


def who(session: Session, token: str | None, *, now: datetime) -> Who:
    """The teacher behind a cookie. Raises NotSignedIn."""
    row = None
    if token:
        row = session.exec(
            select(SignIn, Account, Workspace).where(
                SignIn.token_hash == digest(token),
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


def names_of(session: Session, accounts: Collection[UUID]) -> dict[UUID, str]:
    """What these teachers are called; those that are gone are left out."""
    return {a.id: a.shown_name for a in session.exec(select(Account).where(col(Account.id).in_(accounts))).all()}


def sign_out(session: Session, token: str | None) -> None:
    """End the session; ending it twice is the same."""
    if token:
        session.exec(delete(SignIn).where(SignIn.token_hash == digest(token)))  # type: ignore[arg-type]
