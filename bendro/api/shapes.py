"""Bodies and answers. Bodies are strict: unknown keys and non-finite numbers are refused."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any, Literal
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field, model_validator

from bendro.core.building.side_view import SideView
from bendro.core.building.version import Change, VersionDraft
from bendro.core.planning.arithmetic import RuleMet
from bendro.core.planning.draft import Draft, storable


class Body(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    _storable = model_validator(mode="before")(storable)


class SignInBody(Body):
    sign_in_name: str = Field(max_length=200)
    password: str = Field(max_length=1000)


class FirstAccountBody(SignInBody):
    school: str = Field("", max_length=120)


class NewStudyBody(Body):
    id: UUID
    title: str = Field(max_length=120)
    draft: Draft = Draft()


class StudyPatch(Body):
    """Left out: not changed. next_lesson: a day, or "clear"."""

    version: int = Field(ge=1, le=2**31 - 1)
    title: str = Field("", max_length=120)
    draft: Draft = Draft()
    finished: bool = False
    next_lesson: date | Literal["clear"] = "clear"


class RunBody(Body):
    id: UUID
    adult: str = Field(max_length=80)
    cautions: list[str] = Field(max_length=30)


class SignOffBody(Body):
    id: UUID
    adult: str = Field(max_length=80)
    cautions: list[str] = Field(max_length=30)


class UndoBody(Body):
    version: int = Field(ge=1, le=2**31 - 1)


class CopyBody(Body):
    """groups left out: the same labels."""

    id: UUID
    title: str = Field(max_length=120)
    groups: list[str] | None = Field(None, max_length=100)


class PlanFormBody(Body):
    id: UUID
    title: str = Field("", max_length=120)
    text: str


class VersionBody(Body):
    """revision: the one that was being edited, 0 for a new version."""

    device: str = Field(max_length=40)
    draft: VersionDraft = VersionDraft()
    revision: int = Field(0, ge=0, le=2**31 - 1)
    withdrawn: bool = False


class TrialBody(Body):
    """texts: the reading as written, one per timer; never a number, so that "12.30" stays what it was."""

    block: int = Field(ge=1, le=100_000)
    level: str = Field(min_length=1, max_length=60)
    group: str = Field("", max_length=30)
    person: str = Field("", max_length=60)
    texts: list[str] = Field(default=[], max_length=3)
    also_text: str = Field("", max_length=10_000)
    behaviour: str = Field("", max_length=60)
    state: Literal["kept", "void", "withdrawn"] = "kept"
    fault: str = Field("", max_length=80)
    note: str = Field("", max_length=500)
    released_at: datetime
    revision: int = Field(1, ge=1, le=1_000_000)


class ReadingBody(Body):
    text: str = Field(max_length=20_000)
    quantity: str = Field(max_length=20)
    unit: str = Field(max_length=12)
    step: str = Field("", max_length=20)
    signed: bool = False


class TableBody(Body):
    text: str


class ImportBody(TableBody):
    id: UUID
    title: str = Field(max_length=120)
    family: str = Field(max_length=20)
    factor: str = Field(max_length=200)
    response: str = Field(max_length=200)


class Answered(BaseModel):
    model_config = ConfigDict(from_attributes=True)


class Me(Answered):
    signed_in: bool
    shown_name: str = ""
    workspace: str = ""
    demo: bool = False
    demo_offered: bool = False
    first_run: bool = False


class ProblemOut(Answered):
    code: str
    where: str
    says: str
    grave: bool


class StudyLine(Answered):
    """A study on the home page."""

    id: UUID
    title: str
    question: str
    family: str
    stage: Literal["ask", "plan", "build", "run", "work_out", "show"]
    kept: int
    void: int
    planned: int
    missing: str
    next_act: str
    next_lesson: date | None
    groups: int
    version: int


class TurnOut(Answered):
    position: int
    block: int
    level: str
    group: str


class LevelOut(Answered):
    text: str
    label: str


class RunOut(Answered):
    id: UUID
    adult: str
    opened_at: datetime


class SignOffOut(Answered):
    """covers: the plan stands as it was signed."""

    id: UUID
    adult: str
    signed_at: datetime
    covers: bool


class PlanChangedOut(Answered):
    where: str
    name: str
    was: str
    now: str


class PlanChangeOut(Answered):
    id: int
    at: datetime
    with_trials: bool
    undone: bool
    changes: list[PlanChangedOut]


class StudyOut(StudyLine):
    draft: Draft
    problems: list[ProblemOut]
    levels: list[LevelOut]
    turns: list[TurnOut]
    run: RunOut | None
    sign_off: SignOffOut | None
    finished: bool
    changed_at: datetime


class ReadingOut(Answered):
    """As understood; value, resolution and doubt in the measure's unit."""

    kind: Literal["exact", "at_least", "at_most", "estimate"]
    value: float
    resolution: float
    doubt: float
    timers: list[float] | None = None
    flagged: list[int] | None = None
    method: str | None = None
    scatter: float | None = None


class TrialOut(Answered):
    id: UUID
    block: int
    level: str
    group: str
    person: str
    texts: list[str]
    reading: ReadingOut | None
    also_text: str
    also_reading: ReadingOut | None
    behaviour: str
    state: Literal["kept", "void", "withdrawn"]
    fault: str
    note: str
    released_at: datetime
    revision: int


class VersionOut(Answered):
    id: UUID
    device: str
    number: int
    revision: int
    created_at: datetime
    draft: VersionDraft
    changed: list[Change]
    says: str
    rules: list[RuleMet]
    side: SideView | None
    cost: float
    photo: bool


class WorkingOut(Answered):
    title: str
    lines: list[str]


class TableOut(Answered):
    columns: list[str]
    rows: int


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
