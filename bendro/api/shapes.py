"""Bodies and answers that are shared, and those of accounts. Bodies are strict: unknown keys and non-finite numbers are refused."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field, model_validator

from bendro.core.draft import storable


class Body(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    _storable = model_validator(mode="before")(storable)


class SignInBody(Body):
    sign_in_name: str = Field(max_length=200)
    password: str = Field(max_length=1000)


class PasswordBody(Body):
    now: str = Field(max_length=1000)
    wanted: str = Field(max_length=1000)


class InvitedBody(SignInBody):
    code: str = Field(max_length=40)


class FirstAccountBody(InvitedBody):
    school: str = Field("", max_length=120)


class Answered(BaseModel):
    model_config = ConfigDict(from_attributes=True)


class SeatSeen(Answered):
    """The seat of a lesson that this browser has, in place of an account."""

    role: Literal["colleague", "group", "timer", "wall"]
    label: str
    study_id: UUID
    until: datetime


class Me(Answered):
    """seat: of whoever has no account but came by a lesson's code. id: of the account; school: of its workspace; first_run: there is no account beside the demo's."""

    signed_in: bool
    id: UUID | None = None
    school: UUID | None = None
    shown_name: str = ""
    workspace: str = ""
    demo: bool = False
    demo_offered: bool = False
    first_run: bool = False
    seat: SeatSeen | None = None


class TeacherOut(Answered):
    """me: the one who asks."""

    id: UUID
    shown_name: str
    since: datetime
    me: bool


class InvitationOut(Answered):
    id: UUID
    made_by: str
    until: datetime


class SignInOut(Answered):
    """here: the session that asks."""

    id: UUID
    device: str
    since: datetime
    here: bool


class SchoolOut(Answered):
    name: str
    teachers: list[TeacherOut]
    invitations: list[InvitationOut]
    sign_ins: list[SignInOut]


class InvitedOut(Answered):
    """code: shown this once."""

    code: str
    days: int


class ProblemOut(Answered):
    code: str
    where: str
    says: str
    grave: bool


class CalculatorOut(Answered):
    """How something is worked out: inputs with their quantities, outputs with their units."""

    id: str
    title: str
    inputs: list[CalculatorInputOut]
    outputs: list[str]
    one_of: list[str]


class CalculatorInputOut(Answered):
    name: str
    quantity: str
    unit: str
    optional: bool


class WorkingOut(Answered):
    title: str
    lines: list[str]


class Sorry(BaseModel):
    """RFC 9457 problem details, with the sentence, the code and the place."""

    type: str
    title: str
    status: int
    detail: str
    code: str
    where: str | None = None
    errors: list[dict[str, str]] = Field(default_factory=list)
    facts: dict[str, Any] = Field(default_factory=dict)


class HereOut(Answered):
    """addresses: for tablets in the same network, told only at the machine itself; picture: of the first, as the path of its dark modules in a
    square of picture_size. trust: whether tablets trust an authority of this machine first."""

    addresses: list[str]
    picture_size: int
    picture: str
    trust: bool


class TrustOut(Answered):
    """The authority of this machine: fingerprint: SHA-256, in fours. today: by the clock of the machine."""

    name: str
    fingerprint: str
    until: datetime
    today: datetime


class HelpOut(Answered):
    """A page of help: html is made of our own text."""

    title: str
    html: str
