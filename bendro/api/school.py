"""The teachers of a school, its invitations, and where one is signed in."""

from uuid import UUID

from fastapi import APIRouter

from bendro.actions import colleagues, erasing
from bendro.settings import settings

from .needs import Database, Mine, Now, Teacher, Token
from .shapes import InvitationOut, InvitedOut, SchoolOut, SignInOut, TeacherOut
from .shapes_class import ClassOut, EraseBody, ErasedOut

router = APIRouter(prefix="/api/school", tags=["school"])


@router.get("", operation_id="school")
def school(session: Database, me: Teacher, now: Now, token: Token = None) -> SchoolOut:
    found = colleagues.school(session, me, token=token, now=now)
    return SchoolOut(
        name=me.workspace,
        teachers=[TeacherOut(id=t.id, shown_name=t.shown_name, since=t.created_at, me=t.id == me.account_id) for t in found.teachers],
        invitations=[InvitationOut(id=i.id, made_by=i.made_by, until=i.expires_at) for i in found.invitations],
        sign_ins=[SignInOut(id=s.id, device=s.device, since=s.created_at, here=s.id == found.here) for s in found.sign_ins],
    )


@router.post("/invitations", operation_id="invite")
def invite(session: Database, me: Teacher, now: Now) -> InvitedOut:
    return InvitedOut(code=colleagues.invite(session, me, now=now), days=colleagues.INVITATION_DAYS)


@router.delete("/invitations/{invitation_id}", operation_id="withdraw_invitation", status_code=204)
def withdraw_invitation(invitation_id: UUID, session: Database, me: Teacher) -> None:
    colleagues.withdraw_invitation(session, me, invitation_id)


@router.delete("/teachers/{account_id}", operation_id="remove_teacher", status_code=204)
def remove_teacher(account_id: UUID, session: Database, me: Teacher) -> None:
    colleagues.remove_teacher(session, me, account_id)


@router.delete("/sign-ins/{sign_in_id}", operation_id="end_sign_in", status_code=204)
def end_sign_in(sign_in_id: UUID, session: Database, me: Teacher) -> None:
    colleagues.end_sign_in(session, me, sign_in_id)


@router.get("/classes", operation_id="classes")
def classes(mine: Mine) -> list[ClassOut]:
    """Every class that studies are of, with what is kept of it."""
    return [ClassOut(label=c.label, year=c.year, titles=[t for _, t in c.studies], rows=c.rows) for c in erasing.classes(mine)]


@router.post("/classes/erase", operation_id="erase_class")
def erase_class(body: EraseBody, mine: Mine, now: Now) -> ErasedOut:
    """Erase a class for good; the answer is the proof of it."""
    return ErasedOut.model_validate(erasing.erase_class(mine, body.class_label, body.year, typed=body.typed, now=now, data=settings().data))
