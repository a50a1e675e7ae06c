"""What the lane sends and is told: trials, readings, instruments, thumbs."""

from __future__ import annotations

from datetime import datetime
from typing import Literal
from uuid import UUID

from pydantic import Field

from bendro.core.measuring.heard import Instrument
from bendro.core.record import ReadingRecord, TrialRecord
from bendro.core.record.model import HowTaken, Word

from .shapes import Answered, Body


class TrialBody(TrialRecord):
    """A trial as the record says (core.record)."""


class ReadingBody(ReadingRecord):
    """A reading of a study that is being typed or is about to be kept. besides: a trial that is being mended. level: for which it
    is read."""

    besides: UUID | None = None
    level: str = Field(default="", max_length=60)


class ConditionsBody(Body):
    """How the held things stand now: each by its name, as written. person: who releases, by seat or number."""

    conditions: dict[Word, Word] = Field(default={}, max_length=60)
    person: Word = ""


class SimulateBody(Body):
    """first: number of the first event, after those that were sent before; lanes: of a heat, how many are let go together."""

    instrument: Instrument
    trials: int = Field(default=1, ge=1, le=50)
    faults: bool = False
    first: int = Field(default=1, ge=1, le=10_000_000)
    lanes: int = Field(default=0, ge=0, le=6)


class ThumbBody(Body):
    """Ten intervals in seconds, as they were shown and as they were pressed. who: by seat or number."""

    who: str = Field(min_length=1, max_length=40)
    shown: list[float] = Field(max_length=20)
    pressed: list[float] = Field(max_length=20)


class TurnOut(Answered):
    position: int
    block: int
    level: str
    group: str
    lane: int
    heat: int
    sitting: int


class NotHeldOut(Answered):
    """Something that should have stayed the same, and what is off about it."""

    name: str
    says: str


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
    clock_s: float
    reading: ReadingOut | None
    words: list[str]


class DerivedOut(Answered):
    """A derived measure of a trial. says: what it lacks there, "" where it could be worked out."""

    id: str
    value: float | None
    text: str
    says: str


class GivenOut(Answered):
    """What a trial gives for a response (id), as every table and picture has it: value, a bound where kind says so; word and survived: what
    became of it as a whole; text: as it is read aloud; says: why it gives nothing, "" where it does."""

    id: str
    value: float | None
    kind: Literal["exact", "at_least", "at_most", "estimate"]
    word: str | None
    survived: bool | None
    text: str
    says: str


class TrialOut(Answered):
    """number: in the order of release. place: whether it fills a turn of the plan, is a further one of the same turn, stands
    outside the plan, or is a practice; why: the reason then. kept_by: the teacher in whose sign-in it was kept, where another sent it.
    clock_off_s: in the answer to a save, by how many seconds the device's
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
    derived: list[DerivedOut]
    given: list[GivenOut]
    conditions: dict[str, str]
    heat: str
    answered: list[str]
    state: Literal["kept", "void", "withdrawn"]
    fault: str
    note: str
    released_at: datetime
    kept_by: str
    revision: int
    number: int
    place: Literal["turn", "extra", "outside", "practice"]
    why: str
    clock_off_s: float


class TrialChangeOut(Answered):
    """One revision of a trial: when it arrived, from whom (the account's name, "" where it is gone), and what it says."""

    revision: int
    received_at: datetime
    sent_by: str
    readings: list[ReadingRecord]
    level: str
    block: int
    state: Literal["kept", "void", "withdrawn"]
    fault: str
    note: str

