"""Signing in and out, and the first account."""

from fastapi import APIRouter, Response
from sqlmodel import select

from bendro.actions import accounts
from bendro.actions.errors import NotSignedIn
from bendro.settings import settings
from bendro.store.tables import Account

from .needs import COOKIE, Database, Now, Teacher, Token
from .shapes import FirstAccountBody, Me, PasswordBody, SignInBody

router = APIRouter(prefix="/api/session", tags=["session"])


def _give(response: Response, token: str) -> None:
    response.set_cookie(COOKIE, token, max_age=settings().session_hours * 3600, httponly=True, samesite="strict", path="/")


def _me(session: Database, token: str | None, now: Now) -> Me:
    demo = settings().demo and session.exec(select(Account).where(Account.sign_in_name == accounts.DEMO_NAME)).first() is not None
    try:
        me = accounts.who(session, token, now=now)
    except NotSignedIn:
        return Me(signed_in=False, demo_offered=demo, first_run=not accounts.anyone(session) and not demo)
    return Me(signed_in=True, shown_name=me.shown_name, workspace=me.workspace, demo=me.demo)


@router.get("", operation_id="who_am_i")
def who_am_i(session: Database, now: Now, token: Token = None) -> Me:
    return _me(session, token, now)


@router.post("", operation_id="sign_in")
def sign_in(body: SignInBody, response: Response, session: Database, now: Now) -> Me:
    token = accounts.sign_in(session, sign_in_name=body.sign_in_name, password=body.password, now=now)
    _give(response, token)
    return _me(session, token, now)


@router.post("/demo", operation_id="sign_in_demo")
def sign_in_demo(response: Response, session: Database, now: Now) -> Me:
    token = accounts.sign_in_demo(session, now=now)
    _give(response, token)
    return _me(session, token, now)


@router.post("/first", operation_id="first_account")
def first_account(body: FirstAccountBody, response: Response, session: Database, now: Now) -> Me:
    accounts.first_account(session, sign_in_name=body.sign_in_name, password=body.password, school=body.school, now=now)
    token = accounts.sign_in(session, sign_in_name=body.sign_in_name, password=body.password, now=now)
    _give(response, token)
    return _me(session, token, now)


@router.put("/password", operation_id="change_password", status_code=204)
def change_password(body: PasswordBody, session: Database, me: Teacher, token: Token = None) -> None:
    accounts.change_password(session, me.account_id, token=token, now_used=body.now, wanted=body.wanted)


@router.delete("", operation_id="sign_out", status_code=204)
def sign_out(response: Response, session: Database, token: Token = None) -> None:
    accounts.sign_out(session, token)
    response.delete_cookie(COOKIE, path="/")
