"""Pictures, the class together, reports to mark, and practice."""

from __future__ import annotations

from datetime import datetime
from typing import Literal
from uuid import UUID

from pydantic import Field

from bendro.core.practice.items import MOST_SEED, Kind
from bendro.core.results import Analysis

from .shapes import Answered, Body
from .shapes_shown import ReportLineOut


class DotOut(Answered):
    """A trial in a picture, by its number."""

    trial: int | None
    level: float | str
    x: float
    y: float


class FitOut(Answered):
    """The preferred form against its readings: what each misses it by, and the 95 % band of the fitted mean (setting, low, high)."""

    form: str
    misses: list[DotOut]
    band: list[tuple[float, float, float]]
    spread: float | None


class InOrderOut(Answered):
    """Each reading less its level's mean, over the order of release."""

    dots: list[DotOut]
    slope: float | None
    p: float | None


class LandedOut(Answered):
    """Landings of one level along (x) and off the line (y), with their middle and the radius that holds half."""

    level: float | str
    dots: list[DotOut]
    along: float
    off: float
    half_radius: float
    mean_off: float


class CellOut(Answered):
    first: float | str
    second: float | str
    mean: float
    trials: int


class RankOut(Answered):
    level: float | str
    mean_rank: float


class HeatsOut(Answered):
    heats: int
    places: list[RankOut]
    p: float | None
    kendall_w: float | None
    says: str


class PicturesOut(Answered):
    """What the pictures beside a verdict draw, in the unit of the reading."""

    fit: FitOut | None
    order: InOrderOut | None
    landed: list[LandedOut]
    crossed: list[CellOut]
    heats: HeatsOut | None


class MarkingOut(ReportLineOut):
    """The newest report of a study, for marking: what is missing in it, in sentences."""

    study_id: UUID
    title: str
    class_label: str
    year: str
    groups: list[str]
    missing: list[str]


class StudyOfTest(Answered):
    id: UUID
    title: str
    class_label: str
    year: str
    groups: list[str]
    kept: int
    void: int
    planned: int
    archived: bool
    sums_right: int | None
    sums_of: int | None
    sums_wrong: list[str]


class SameTestOut(Answered):
    """Studies that change and measure the same."""

    name: str
    family: str
    studies: list[StudyOfTest]


class RunnerOut(Answered):
    """Who ran trials. spread: of the readings about their levels' means, in the unit of the reading; wide: beside the others."""

    name: str
    kept: int
    void: int
    spread: float | None
    freedoms: int
    wide: bool


class RecordOut(Answered):
    name: str
    says: str


class MarkTogether(Answered):
    id: str
    who: str
    level: float | str
    value: float
    kind: Literal["exact", "at_least", "at_most", "estimate"]
    void: bool


class TogetherOut(Answered):
    """Studies of one test judged together. within: each who ran them compared with itself; alike: whether the effect depends on who ran it;
    labels: of the levels of the analysis, as they are called."""

    analysis: Analysis
    blocks: int
    within: bool
    alike: str | None
    runners: list[RunnerOut]
    record: RecordOut | None
    labels: list[str]
    marks: list[MarkTogether]


class PracticeBody(Body):
    """answer: as it was written, or the id of what was chosen."""

    seed: int = Field(ge=0, le=MOST_SEED)
    answer: str = Field(max_length=60)


class PracticeRowOut(Answered):
    order: int
    level: str
    reading: str
    value: float
    person: str
    held: str
    void: bool


class ChoiceOut(Answered):
    id: str
    says: str


class PracticeOut(Answered):
    """A problem made from its number: a table of trials, choices, or a tape that is drawn over its span with a mark at value (in a fall:
    the seconds that it takes)."""

    kind: Kind
    seed: int
    asks: str
    unit: str
    rows: list[PracticeRowOut]
    choices: list[ChoiceOut]
    held_name: str
    span: tuple[float, float] | None
    step: float | None
    value: float | None


class MarkedOut(Answered):
    right: bool
    says: str
    working: list[str]


SeatRole = Literal["colleague", "group", "timer", "wall"]


class SeatOut(Answered):
    """A device of the class that is in. label: the group's, or what it does."""

    id: UUID
    study_id: UUID
    role: SeatRole
    label: str
    device: str
    joined_at: datetime
    until: datetime


class JoiningOut(Answered):
    """Whether the class may come in. picture: path data of what is scanned, on a square of so many modules."""

    open: bool
    code: str
    until: datetime | None
    address: str
    picture_size: int
    picture: str
    seats: list[SeatOut]


class OpenBody(Body):
    """minutes: for so long, at most a day. also: further studies under the same signs."""

    minutes: float = Field(default=60, ge=1, le=1440)
    also: list[UUID] = Field(default=[], max_length=20)


class OfferedOut(Answered):
    """What may be chosen. taken: groups of which a device is in."""

    study_id: UUID
    title: str
    groups: list[str]
    taken: list[str]


class JoinBody(Body):
    code: str = Field(max_length=40)
    role: SeatRole
    label: str = Field(default="", max_length=30)
    study_id: UUID | None = None


class ClassOut(Answered):
    """A class as its studies name it, "" for those of none. rows: in the database, of all its studies."""

    label: str
    year: str
    titles: list[str]
    rows: int


class EraseBody(Body):
    """typed: the class once more, as whoever asks has typed it."""

    class_label: str = Field(max_length=60)
    year: str = Field(default="", max_length=20)
    typed: str = Field(max_length=60)


class ErasedOut(Answered):
    """before, after: rows by table. copies: what still holds what was there when it was made."""

    label: str
    titles: list[str]
    before: dict[str, int]
    after: dict[str, int]
    copies: list[str]
    at: datetime


class GroupWordsBody(Body):
    """revision: that is written over, 0 for none."""

    predicts: str = Field(default="", max_length=1_000)
    says: str = Field(default="", max_length=1_000)
    revision: int = Field(default=0, ge=0)


class GroupWordOut(Answered):
    group_label: str
    predicts: str
    says: str
    revision: int
