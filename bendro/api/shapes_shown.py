"""What is told beside a verdict, and what is shown: tables, reports, sums, what would be otherwise."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import Field

from bendro.core.building.drawing import Drawing
from bendro.core.conclusion.model import Conclusion, Placed
from bendro.core.report.poster import Further, Part
from bendro.core.results import Analysis

from .shapes import Answered, Body, WorkingOut
from .shapes_lane import TrialOut
from .shapes_study import StudyOut


class ReportBody(Body):
    id: UUID


class NextBody(ReportBody):
    """best: identity of the level that is held. change: the one thing that is changed next; between: the same thing instead, at levels about
    the best; past: at levels past it."""

    best: str = Field(max_length=130)
    change: str = Field(default="", max_length=60)
    between: bool = False
    past: bool = False


class OwnBody(Body):
    """What a class wrote over the parts of a report, which parts it left out, and which further ones it took in. comment: the teacher's, for
    the group."""

    texts: dict[Part, Annotated[str, Field(max_length=1200)]] = Field(default={}, max_length=20)
    without: list[Annotated[str, Field(max_length=20)]] = Field(default=[], max_length=20)
    also: list[Further] = Field(default=[], max_length=20)
    comment: str = Field(default="", max_length=2000)
    revision: int = Field(ge=1, le=1_000_000)


class WhatIfBody(Body):
    """The same trials judged otherwise: core.conclusion.what_if. response: as in the analysis."""

    response: str = Field(default="", max_length=12)
    evidence: Literal["shuffle", "interval", "ranges"] | None = None
    result: Literal["mean", "median", "best", "total"] | None = None
    without: list[Annotated[int, Field(ge=1, le=1_000_000)]] = Field(default=[], max_length=200)
    estimates: bool = True
    groups: list[Annotated[str, Field(max_length=30)]] = Field(default=[], max_length=100)


class AnswerBody(Body):
    """level: its identity. text: as the pupil wrote it. who: the label of its row, kept only where it is a group of the plan."""

    level: str = Field(max_length=60)
    about: Literal["mean", "range"] = "mean"
    text: str = Field(max_length=40)
    who: str = Field(default="", max_length=30)


class SumsBody(Body):
    """keep: how many were right, and in which groups of the plan some were not, is kept with the study for the class's page; never what was
    written, nor any other label."""

    response: str = Field(default="", max_length=12)
    keep: bool = False
    answers: list[AnswerBody] = Field(max_length=1000)


class TableBody(Body):
    text: str


class WaitingBody(Body):
    text: str = Field(max_length=19_000_000)


class CameOut(Answered):
    """What became of one study of what waited. made: it was not there, and is a new one. kept: trials that are there now. refused: what was
    not taken, each in a sentence."""

    study_id: UUID
    title: str
    made: bool
    kept: int
    refused: list[str]


class ImportBody(TableBody):
    id: UUID
    title: str = Field(max_length=120)
    family: str = Field(max_length=20)
    factor: str = Field(max_length=200)
    response: str = Field(max_length=200)
    also: list[str] = Field(default=[], max_length=7)
    blanks: Literal["ask", "same", "none"] = "ask"
    leave_bad: bool = False
    as_names: bool = False


class LadderOut(Answered):
    """What the drops of one specimen tell. next: the rung that comes, None when its ladder is over. survived, of: rungs."""

    block: int
    level: str
    known: Literal["between", "at_least", "below", "mixed", "nothing"]
    passed: float | None
    failed: float | None
    over: bool
    next: float | None
    survived: int
    of: int


class ShareOut(Answered):
    """How many went well at one level, of how many, with Wilson's 95 % interval: hits of the shots of a measure, or drops survived from one
    rung, or how one payload of several (its name) fared."""

    measure: str
    level: str
    payload: str
    rung: float | None
    well: int
    of: int
    interval: tuple[float, float]


class BehaviourCount(Answered):
    word: str
    count: int


class BehavioursOut(Answered):
    """How the devices behaved at one level, or as one version. trials: counted ones in which anything was noted."""

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


class BesideOut(Answered):
    """What stands beside the numbers: ladders of specimens, behaviours by level, straightness against distance (decided: the
    decision with two measures, "" where none was agreed)."""

    ladders: list[LadderOut]
    shares: list[ShareOut]
    behaviours: list[BehavioursOut]
    by_version: list[BehavioursOut]
    straighter: list[StraighterOut]
    decided: str


class TableColumnOut(Answered):
    """becomes: what a column is read as when it is neither the variable nor a reading."""

    header: str
    becomes: Literal[
        "order", "block", "group", "device", "person", "state", "fault", "note", "behaviour", "timer", "outcome", "version", "specimen", "rung", "held", "column"
    ]


class TableOut(Answered):
    columns: list[TableColumnOut]
    rows: int
    notes: list[str]


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
    besides: list[str]
    stems: list[str]
    marker: list[str]
    does: str
    groups: list[str] = Field(default=[])


class BestOut(Answered):
    id: str
    label: str


class FollowingOut(Answered):
    """What stands first and why; what could be changed next; levels about the best, where it is a number."""

    best: list[BestOut]
    why: str
    ideas: list[str]
    between: list[str]
    past: list[str]


class OwnOut(Answered):
    texts: dict[str, str]
    without: list[str]
    also: list[str]
    comment: str


class ReportLineOut(Answered):
    """made_by: version of the core. answer, says: the verdict as it was told. kept: trials."""

    id: UUID
    made_at: datetime
    made_by: str
    answer: Literal["clear", "leaning", "cannot_tell"]
    says: str
    kept: int
    revision: int
    own: OwnOut


class LookOut(Answered):
    """How a device looks: a photo (the picture itself, as an address), the strokes of a sketch on a square from 0 to 1, or else its plain
    drawing; None in a report of an earlier version."""

    label: str
    photo: str
    sketch: list[list[tuple[float, float]]]
    drawing: Drawing | None


class CardOut(Answered):
    """What a product card says, as it was when it was made; "" where it was not known. look: of its version, None where nothing is drawn of it."""

    name: str
    mass: str
    parts: str
    one: str
    thousand: str
    assembly: str
    look: LookOut | None


class ReportOut(ReportLineOut):
    """A report as it was frozen. trials: none where they were too many. conclusion, card: None in a report of an earlier version, whose places
    stand beside. changed: what the study says otherwise now."""

    study: StudyOut
    trials: list[TrialOut]
    analysis: Analysis
    conclusion: Conclusion | None
    card: CardOut | None
    places: list[Placed]
    places_said: str
    looks: list[LookOut]
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
