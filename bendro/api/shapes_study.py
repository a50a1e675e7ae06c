"""What is sent and told of a study, its plan, its runs and its devices."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal
from uuid import UUID

from pydantic import Field

from bendro.core.building.drawing import Drawing
from bendro.core.building.side_view import SideView
from bendro.core.building.version import Change, VersionDraft
from bendro.core.draft import Draft
from bendro.core.measuring.heard import Instrument
from bendro.core.planning.arithmetic import RuleMet
from bendro.core.templates.as_cut import Asked

from .shapes import Answered, Body, ProblemOut
from .shapes_lane import BoundsOut, TurnOut


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
    archived: bool = False


class UsualBody(Body):
    """A study from a family's usual test."""

    id: UUID
    family: str = Field(max_length=20)
    test: str = Field(max_length=40)
    class_label: str = Field("", max_length=60)
    groups: list[str] = Field(default=[], max_length=60)


class RunBody(Body):
    """mark: of the plan whose cautions were read (`StudyOut.safety_mark`); "" for the plan as it stands."""

    id: UUID
    adult: str = Field(max_length=80)
    cautions: list[str] = Field(max_length=30)
    mark: str = Field("", max_length=64)


class SignOffBody(Body):
    id: UUID
    adult: str = Field(max_length=80)
    cautions: list[str] = Field(max_length=30)


class UndoBody(Body):
    version: int = Field(ge=1, le=2**31 - 1)


class CopyBody(Body):
    """groups, class_label left out: the same."""

    id: UUID
    title: str = Field(max_length=120)
    groups: list[str] | None = Field(None, max_length=100)
    class_label: str | None = Field(None, max_length=60)


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


class StudyLine(Answered):
    """A study on the home page. kept: turns of the plan that a kept trial fills. readable false: the plan cannot be read, and
    `missing` says why."""

    id: UUID
    title: str
    question: str
    family: str
    stage: Literal["ask", "plan", "build", "run", "work_out", "show"]
    kept: int
    void: int
    extra: int
    outside: int
    planned: int
    readable: bool
    missing: str
    next_act: str
    next_lesson: date | None
    class_label: str
    year: str
    archived: bool
    groups: int
    version: int


class ThrownAwayOut(Answered):
    """A study that can be taken back until a day."""

    id: UUID
    title: str
    until: date


class LevelOut(Answered):
    """id: what trials know it by."""

    id: str
    text: str
    label: str


class ResponseOut(Answered):
    """Something that can be analysed: a measure, or what is worked out. scored: the points of a landing. by_size: how far off the line,
    whichever side. every: of drops from every rung, how many were survived. passed: of an outcome, what is said of a trial above its line."""

    id: str
    name: str
    unit: str
    shape: Literal["number", "survival", "rungs", "places", "behaviour"]
    better: Literal["high", "low"]
    derived: bool
    scored: bool
    by_size: bool
    every: bool
    passed: str


class FactorOut(Answered):
    """Something that trials can be compared over. id "": the variable."""

    id: str
    name: str


class RunOut(Answered):
    """covers: the plan stands as it was read when the run was opened. cautions: that were ticked then."""

    id: UUID
    adult: str
    cautions: list[str]
    opened_at: datetime
    open_until: datetime
    covers: bool


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


class HeldOut(Answered):
    """How one thing is kept the same: at a value with its tolerance, or as the sentence says."""

    name: str
    how: str
    value: str
    tolerance: str


class ShutOut(Answered):
    """A lane that calls nothing new."""

    state: Literal["paused", "closed"]
    why: str
    since: datetime


class LanesOut(Answered):
    """What the teacher says to every lane now. shut: lanes that call nothing, by number. last_from: what is let go after this is the last trial
    of its lane."""

    stopped: bool = False
    said: str = ""
    shut: dict[str, ShutOut] = Field(default={})
    last_from: datetime | None = None


class StudyOut(StudyLine):
    """usual: for each measure, between which values a reading is not asked about. rungs: of the drop plan, where each trial is one drop.
    roles: block by block, what each seat does. timing: how much of a time that is read is the thumb.
    limits_said, held_said, survival_said: what stands at the lane. line_said: which outcomes count as survived. newest: number of its newest event. instruments: kinds that read its first measure, and what they are called. safety_mark: of what a sign-off covers."""

    draft: Draft
    problems: list[ProblemOut]
    levels: list[LevelOut]
    turns: list[TurnOut]
    roles: list[list[str]]
    timing: str
    usual: dict[str, BoundsOut]
    responses: list[ResponseOut]
    factors: list[FactorOut]
    rungs: list[float]
    cautions: list[str]
    limits_said: list[str]
    held_said: list[HeldOut]
    survival_said: str
    line_said: str
    instruments: list[tuple[Instrument, str]]
    lanes: LanesOut
    newest: int
    safety_mark: str
    run: RunOut | None
    sign_off: SignOffOut | None
    finished: bool
    changed_at: datetime


class VersionOut(Answered):
    id: UUID
    device: str
    number: int
    revision: int
    created_at: datetime
    draft: VersionDraft
    changed: list[Change]
    changes_said: list[str]
    says: str
    rules: list[RuleMet]
    side: SideView | None
    drawing: Drawing | None
    cost: float
    photo: bool
    as_cut: Asked | None
    withdrawn: bool

