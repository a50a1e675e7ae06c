"""Bodies and answers. Bodies are strict: unknown keys and non-finite numbers are refused."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Any, Literal
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field, model_validator

from bendro.core.building.side_view import SideView
from bendro.core.building.version import Change, VersionDraft
from bendro.core.measuring.heard import Instrument
from bendro.core.planning.arithmetic import RuleMet
from bendro.core.planning.draft import Draft, storable
from bendro.core.record import ReadingRecord, TrialRecord
from bendro.core.record.model import HowTaken, Word
from bendro.core.report.poster import Part
from bendro.core.results import Analysis


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


class TrialBody(TrialRecord):
    """A trial as the record says (core.record)."""


class ReadingBody(ReadingRecord):
    """A reading of a study that is being typed or is about to be kept. besides: a trial that is being mended. level: for which it
    is read."""

    besides: UUID | None = None
    level: str = Field(default="", max_length=60)


class ConditionsBody(Body):
    """How the held things stand now: each by its name, as written."""

    conditions: dict[Word, Word] = Field(default={}, max_length=60)


class SimulateBody(Body):
    """first: number of the first event, after those that were sent before."""

    instrument: Instrument
    trials: int = Field(default=1, ge=1, le=50)
    faults: bool = False
    first: int = Field(default=1, ge=1, le=10_000_000)


class ThumbBody(Body):
    """Ten intervals in seconds, as they were shown and as they were pressed. who: by seat or number."""

    who: str = Field(min_length=1, max_length=40)
    shown: list[float] = Field(max_length=20)
    pressed: list[float] = Field(max_length=20)


class ReportBody(Body):
    id: UUID


class OwnBody(Body):
    """What a class wrote over the parts of a report, and which parts it left out. comment: the teacher's, for the group."""

    texts: dict[Part, Annotated[str, Field(max_length=1200)]] = Field(default={}, max_length=20)
    without: list[Annotated[str, Field(max_length=20)]] = Field(default=[], max_length=20)
    comment: str = Field(default="", max_length=2000)
    revision: int = Field(ge=1, le=1_000_000)


class WhatIfBody(Body):
    """The same trials judged otherwise: core.judgement.what_if. response: as in the analysis."""

    response: str = Field(default="", max_length=12)
    evidence: Literal["shuffle", "interval", "ranges"] | None = None
    result: Literal["mean", "median", "best", "total"] | None = None
    without: list[Annotated[int, Field(ge=1, le=1_000_000)]] = Field(default=[], max_length=200)
    estimates: bool = True
    groups: list[Annotated[str, Field(max_length=30)]] = Field(default=[], max_length=100)


class AnswerBody(Body):
    """level: its identity. text: as the pupil wrote it."""

    level: str = Field(max_length=60)
    about: Literal["mean", "range"] = "mean"
    text: str = Field(max_length=40)


class SumsBody(Body):
    response: str = Field(default="", max_length=12)
    answers: list[AnswerBody] = Field(max_length=1000)


class TableBody(Body):
    text: str


class ImportBody(TableBody):
    id: UUID
    title: str = Field(max_length=120)
    family: str = Field(max_length=20)
    factor: str = Field(max_length=200)
    response: str = Field(max_length=200)
    also: list[str] = Field(default=[], max_length=7)


class Answered(BaseModel):
    model_config = ConfigDict(from_attributes=True)


class Me(Answered):
    """id: of the account; first_run: there is no account beside the demo's."""

    signed_in: bool
    id: UUID | None = None
    shown_name: str = ""
    workspace: str = ""
    demo: bool = False
    demo_offered: bool = False
    first_run: bool = False


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


class TurnOut(Answered):
    position: int
    block: int
    level: str
    group: str
    lane: int
    heat: int


class NotHeldOut(Answered):
    """Something that should have stayed the same, and what is off about it."""

    name: str
    says: str


class LevelOut(Answered):
    """id: what trials know it by."""

    id: str
    text: str
    label: str


class ResponseOut(Answered):
    """Something that can be analysed: a measure, or what is worked out."""

    id: str
    name: str
    unit: str
    shape: Literal["number", "survival", "rungs", "places", "behaviour"]
    better: Literal["high", "low"]
    derived: bool


class FactorOut(Answered):
    """Something that trials can be compared over. id "": the variable."""

    id: str
    name: str


class LadderOut(Answered):
    """What the drops of one specimen tell. next: the rung that comes, None when its ladder is over."""

    block: int
    level: str
    known: Literal["between", "at_least", "below", "mixed", "nothing"]
    passed: float | None
    failed: float | None
    over: bool
    next: float | None


class BehaviourCount(Answered):
    word: str
    count: int


class BehavioursOut(Answered):
    """How the devices behaved at one level. trials: counted ones in which anything was noted."""

    level: str
    trials: int
    words: list[BehaviourCount]


class StraighterOut(Answered):
    """The decision with two measures between two levels, in the unit of the distance."""

    first: str
    second: str
    straighter: bool
    loss: float
    worst_loss: float | None
    keeps_distance: bool
    says: str


class TwoOut(Answered):
    """Two planned variables: p of each and of their interaction, None where it cannot be weighed yet."""

    says: str
    p_first: float | None
    p_second: float | None
    p_interaction: float | None


class PlaceTakenOut(Answered):
    """A place of a contest by the rule agreed, shared where the rule cannot tell devices apart."""

    place: int
    names: list[str]
    why: str


class BesideOut(Answered):
    """What stands beside the numbers: ladders of specimens, behaviours by level, straightness against distance."""

    ladders: list[LadderOut]
    behaviours: list[BehavioursOut]
    straighter: list[StraighterOut]
    two: TwoOut | None
    places: list[PlaceTakenOut]


class RunOut(Answered):
    """covers: the plan stands as it was read when the run was opened."""

    id: UUID
    adult: str
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
    """How one thing is kept the same."""

    name: str
    how: str


class CodeOut(Answered):
    code: str


class ThumbOut(Answered):
    who: str
    bias_s: float
    scatter_s: float
    n: int
    says: str


class RangeOut(Answered):
    low: float
    high: float


class BoundsOut(Answered):
    """Between which values a plain number of a measure is kept without a question: anywhere, and at each level by its identity."""

    anywhere: RangeOut
    at: dict[str, RangeOut]


class StudyOut(StudyLine):
    """usual: for each measure, between which values a reading is not asked about. rungs: of the drop plan, where each trial is one drop.
    roles: block by block, what each seat does. timing: how much of a time that is read is the thumb.
    limits_said, held_said: what stands at the lane. safety_mark: of what a sign-off covers."""

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
    safety_mark: str
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


class QuestionOut(Answered):
    """doubt: of what kind. offer: what could be written instead, "" where nothing is offered."""

    doubt: Literal["track_end", "finer", "level", "line", "timers", "meter"]
    says: str
    offer: str


class LookedOut(Answered):
    """reading: as understood, None when nothing is written or it is words. questions: what is asked before it is kept, the weightiest
    first."""

    reading: ReadingOut | None
    words: list[str]
    questions: list[QuestionOut]


class ReadingSeenOut(Answered):
    """A reading of a trial: as it was written, and as understood in the measure's unit."""

    measure: str
    payload: int
    texts: list[str]
    unit: str
    taken: HowTaken
    stamps: list[float]
    source: str
    reading: ReadingOut | None
    words: list[str]


class WorkedOut(Answered):
    """A derived measure of a trial. says: what it lacks there, "" where it could be worked out."""

    id: str
    value: float | None
    text: str
    says: str


class TrialOut(Answered):
    """number: in the order of release. place: whether it fills a turn of the plan, is a further one of the same turn, stands
    outside the plan, or is a practice; why: the reason then. clock_off_s: in the answer to a save, by how many seconds the device's
    clock is slow (0 within a minute)."""

    id: UUID
    block: int
    level: str
    group: str
    person: str
    device: str
    version: int | None
    specimen: str
    rung: str
    practice: bool
    readings: list[ReadingSeenOut]
    derived: list[WorkedOut]
    conditions: dict[str, str]
    heat: str
    answered: list[str]
    state: Literal["kept", "void", "withdrawn"]
    fault: str
    note: str
    released_at: datetime
    revision: int
    number: int
    place: Literal["turn", "extra", "outside", "practice"]
    why: str
    clock_off_s: float


class TrialChangeOut(Answered):
    """One revision of a trial: when it arrived and what it says."""

    revision: int
    received_at: datetime
    readings: list[ReadingRecord]
    level: str
    block: int
    state: Literal["kept", "void", "withdrawn"]
    fault: str
    note: str


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
    withdrawn: bool


class WorkingOut(Answered):
    title: str
    lines: list[str]


class TableColumnOut(Answered):
    """becomes: what a column is read as when it is neither the variable nor a reading."""

    header: str
    becomes: Literal[
        "order", "block", "group", "device", "person", "state", "fault", "note", "behaviour", "timer", "outcome", "version", "specimen", "rung", "held", "column"
    ]


class TableOut(Answered):
    columns: list[TableColumnOut]
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


class StepOut(Answered):
    """A step of the podium. shape: which level it is in the order of the plan."""

    place: int
    shared: bool
    label: str
    number: str
    shape: int


class SectionsOut(Answered):
    """What stands in the parts of a poster and report before anything is written over them."""

    who: str
    predicted: str
    found: str
    kept_same: list[str]
    how_sure: str
    fairer: str
    next: str
    method: list[str]
    stems: list[str]
    marker: list[str]
    does: str


class OwnOut(Answered):
    texts: dict[str, str]
    without: list[str]
    comment: str


class ReportLineOut(Answered):
    """made_by: version of the core. answer, says: the verdict as it was told. kept: trials."""

    id: UUID
    made_at: datetime
    made_by: str
    answer: str
    says: str
    kept: int
    revision: int
    own: OwnOut


class ReportOut(ReportLineOut):
    """A report as it was frozen. trials: none where they were too many. changed: what the study says otherwise now."""

    study: StudyOut
    trials: list[TrialOut]
    analysis: Analysis
    steps: list[StepOut]
    sections: SectionsOut
    workings: list[WorkingOut]
    changed: list[str]


class SupposedOut(Answered):
    """says: what is supposed, as a heading."""

    says: str
    analysis: Analysis


class SumOut(Answered):
    """slip: None when it is right, or when no slip gives the number."""

    right: bool
    slip: str | None
    says: str
    working: list[str]
