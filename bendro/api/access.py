"""Signing in and out, the first account, and who comes by invitation."""

from typing import Annotated

from fastapi import APIRouter, Cookie, Depends, Request, Response
from sqlmodel import select

from bendro.actions import accounts, seats
from bendro.actions.accounts import Door, Let
from bendro.actions.errors import NotSignedIn
from bendro.settings import settings
from bendro.store.tables import Account

from .needs import COOKIE, SEAT_COOKIE, Database, Now, SeatToken, Teacher, Token
from .shapes import FirstAccountBody, InvitedBody, Me, PasswordBody, SeatSeen, SignInBody

router = APIRouter(prefix="/api/session", tags=["session"])
DEVICE_COOKIE = "bendro_device"


def door(request: Request, known: Annotated[str | None, Cookie(alias=DEVICE_COOKIE, max_length=200)] = None) -> Door:
    """Where the call comes from: only words that anybody may read, no fingerprint."""
    sent = request.headers.get("user-agent", "")
    device = "tablet" if "Tablet" in sent else "phone" if "Mobi" in sent else "computer"
    return Door(address=request.client.host if request.client else "unknown", device=device, known=known)


At = Annotated[Door, Depends(door)]


def _give(request: Request, response: Response, let: Let) -> None:
    secure = request.url.scheme == "https"
    response.set_cookie(COOKIE, let.token, max_age=settings().session_hours * 3600, httponly=True, secure=secure, samesite="strict", path="/")
    response.set_cookie(
        DEVICE_COOKIE, let.known, max_age=accounts.DEVICE_DAYS * 86_400, httponly=True, secure=secure, samesite="strict", path="/api/session"
    )


def _me(session: Database, token: str | None, now: Now, seat_token: str | None = None) -> Me:
    demo = settings().demo and session.exec(select(Account).where(Account.sign_in_name == accounts.DEMO_NAME)).first() is not None
    try:
        me = accounts.who(session, token, now=now)
    except NotSignedIn:
        seat = seats.seat_of(session, seat_token, now=now)
        if seat is not None:
            told = SeatSeen.model_validate({"role": seats.role_of(seat), "label": seat.label, "study_id": seat.study_id, "until": seat.until})
            return Me(signed_in=True, id=seat.id, school=seat.workspace_id, shown_name=seat.label, seat=told)
        return Me(signed_in=False, demo_offered=demo, first_run=not accounts.anyone(session))
    return Me(signed_in=True, id=me.account_id, school=me.workspace_id, shown_name=me.shown_name, workspace=me.workspace, demo=me.demo)


@router.get("", operation_id="who_am_i")
def who_am_i(session: Database, now: Now, token: Token = None, seat: SeatToken = None) -> Me:
    return _me(session, token, now, seat)


@router.post("", operation_id="sign_in")
def sign_in(body: SignInBody, request: Request, response: Response, session: Database, at: At, now: Now) -> Me:
    let = accounts.sign_in(session, sign_in_name=body.sign_in_name, password=body.password, at=at, now=now)
    _give(request, response, let)
    return _me(session, let.token, now)


@router.post("/demo", operation_id="sign_in_demo")
def sign_in_demo(request: Request, response: Response, session: Database, at: At, now: Now) -> Me:
    let = accounts.sign_in_demo(session, at=at, now=now)
    _give(request, response, let)
    return _me(session, let.token, now)


@router.post("/first", operation_id="first_account")
def first_account(body: FirstAccountBody, request: Request, response: Response, session: Database, at: At, now: Now) -> Me:
    made = accounts.first_account(
        session, code=body.code, sign_in_name=body.sign_in_name, password=body.password, school=body.school, at=at, now=now
    )
    let = accounts.let_in(session, made, at=at, now=now)
    _give(request, response, let)
    return _me(session, let.token, now)


@router.post("/invited", operation_id="invited_account")
def invited_account(body: InvitedBody, request: Request, response: Response, session: Database, at: At, now: Now) -> Me:
    made = accounts.invited_account(session, code=body.code, sign_in_name=body.sign_in_name, password=body.password, at=at, now=now)
    let = accounts.let_in(session, made, at=at, now=now)
    _give(request, response, let)
    return _me(session, let.token, now)


@router.put("/password", operation_id="change_password", status_code=204)
def change_password(body: PasswordBody, session: Database, me: Teacher, now: Now, token: Token = None) -> None:
    accounts.change_password(session, me.account_id, token=token, now_used=body.now, wanted=body.wanted, now=now)


@router.delete("", operation_id="sign_out", status_code=204)
def sign_out(response: Response, session: Database, now: Now, token: Token = None, seat: SeatToken = None) -> None:
    """Of an account's sign-in, else of a lesson's seat."""
    accounts.sign_out(session, token)
    if not token:
        seats.leave(session, seat, now=now)
    response.delete_cookie(COOKIE, path="/")
    response.delete_cookie(SEAT_COOKIE, path="/")
