"""The strict models of a trial and its readings. A field added here needs a column and a migration, and nothing else."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Field, field_validator

from ..draft import MOST_PAYLOADS, Typed

#: The identity under which a trial's behaviour words are read, whatever the plan measures.
BEHAVIOUR = "behaviour"
MOST_READINGS = 48
#: Release, landing, and the marks passed between them.
MOST_STAMPS = 12
#: A clock that is wrong by more than this is told, and the release is put right by it.
CLOCK_S = 60.0
#: No clock of a school is further off, in seconds: two hundred years.
MOST_CLOCK_S = 200 * 366 * 86_400.0
#: What a sending says of itself and not of the trial.
OF_SENDING = {"revision", "plan_version", "sent_at", "kept_by"}
Word = Annotated[str, Field(max_length=60)]
State = Literal["kept", "void", "withdrawn"]
#: How a reading came about. Pressed by a thumb: pressed, phones (of several timers, by clocks that were compared), lanes (several landings of one release), laps. Taken by something steadier than
#: a thumb: frames of a video, camera (its picture a gate), followed (through a clip), sound, felt (by a phone in the carrier), gate, scale, meter, picture (of the tape). Written: typed, map (pointed at), sheet (from paper), table.
HowTaken = Literal["typed", "pressed", "phones", "lanes", "laps", "frames", "camera", "followed", "sound", "felt", "gate", "scale", "meter", "picture", "map", "sheet", "table"]


class ReadingRecord(Typed):
    """One reading of a trial. measure: its identity in the plan, or `behaviour`. payload: 1 … within the device. texts: as written, one
    for each timer, or the words of an outcome or behaviour; never a number, so that "12.30" stays what it was. unit: of a bare number,
    as it stood beside the field. stamps: where it was pressed or marked, in seconds of the device's own clock (or of the video) at the release, between and at the
    landing. source: whose timer, or which instrument. clock_s: by how many seconds the clocks that timed it may differ (standard uncertainty), 0
    for one clock."""

    measure: str = Field(min_length=1, max_length=12)
    payload: int = Field(default=1, ge=1, le=MOST_PAYLOADS)
    texts: list[Annotated[str, Field(max_length=10_000)]] = Field(default=[], max_length=12)
    unit: str = Field(default="", max_length=12)
    taken: HowTaken = "typed"
    stamps: list[float] = Field(default=[], max_length=MOST_STAMPS)
    source: Word = ""
    clock_s: float = Field(default=0.0, ge=0, le=10)

    @property
    def written(self) -> bool:
        """Whether anything stands in it."""
        return any(t.strip() for t in self.texts)


class TrialRecord(Typed):
    """A trial as it is given. level: the identity of a level of the plan. version: of the device. specimen: which of several alike was
    released. rung: the height of a drop, as written. practice: recorded, never counted. conditions: how the held things stood, as last
    confirmed. heat: the same text for all that were let go together. answered: what was asked before it was kept, and kept all the same. placed: the teacher puts it in the plan at this block and level. plan_version: of the study under which it was written,
    None where it is not known. sent_at: the device's own time when it was sent, by which a clock that is wrong is known where the device did not know it at the
    release. clock_ahead_s: by how many seconds the device's clock was ahead of the server's at the release, as the device had measured it;
    None where it had not. tablet, tablet_number: on which device it was kept, as which of that device's trials: they were released in this
    order, whatever its clock said. kept_by: the teacher in whose sign-in it was kept, where another sends it. revision: 1, and one more for
    each change made to it."""

    block: int = Field(ge=1, le=100_000)
    level: str = Field(min_length=1, max_length=60)
    group: str = Field(default="", max_length=30)
    person: str = Field(default="", max_length=60)
    device: str = Field(default="", max_length=60)
    version: int | None = Field(default=None, ge=1, le=10_000)
    specimen: str = Field(default="", max_length=30)
    rung: str = Field(default="", max_length=30)
    practice: bool = False
    readings: list[ReadingRecord] = Field(default=[], max_length=MOST_READINGS)
    conditions: dict[Word, Word] = Field(default={}, max_length=60)
    heat: str = Field(default="", max_length=36)
    answered: list[Annotated[str, Field(max_length=300)]] = Field(default=[], max_length=12)
    state: State = "kept"
    fault: str = Field(default="", max_length=80)
    note: str = Field(default="", max_length=500)
    placed: bool = False
    plan_version: int | None = Field(default=None, ge=1, le=2**31 - 1)
    released_at: datetime
    sent_at: datetime | None = None
    clock_ahead_s: float | None = Field(default=None, ge=-MOST_CLOCK_S, le=MOST_CLOCK_S)
    tablet: str = Field(default="", max_length=36)
    tablet_number: int | None = Field(default=None, ge=1, le=2**31 - 1)
    kept_by: str = Field(default="", max_length=80)
    revision: int = Field(default=1, ge=1, le=1_000_000)

    @field_validator("readings")
    @classmethod
    def _each_once(cls, given: list[ReadingRecord]) -> list[ReadingRecord]:
        if len({(r.measure, r.payload) for r in given}) < len(given):
            raise ValueError("One measure is given twice for the same payload")
        return given

    def reading(self, measure_id: str, payload: int = 1) -> ReadingRecord | None:
        """The reading of a measure, or None when nothing was written for it."""
        return next((r for r in self.readings if (r.measure, r.payload) == (measure_id, payload) and r.written), None)

    def clock_off_s(self, received: datetime) -> float:
        """By how many seconds the device's clock is slow (fast where negative); 0 within a minute, which a school's clocks are."""
        off = 0.0 if self.sent_at is None else (received - self.sent_at).total_seconds()
        return off if abs(off) > CLOCK_S else 0.0

    def release_off_s(self, received: datetime) -> float:
        """The same at the release: as the device had measured it then, which a clock put right before sending does not change; else as it
        is when it is sent."""
        return self.clock_off_s(received) if self.clock_ahead_s is None else -self.clock_ahead_s

    def meant(self) -> dict[str, Any]:
        """What it says, as it lies in the history: without what only sending needs, and without empty readings."""
        said = self.model_dump(mode="json", exclude=OF_SENDING)
        return {**said, "readings": [r.model_dump(mode="json") for r in self.readings if r.written], "released_at": self.released_at.isoformat()}


def same_meant(held: dict[str, Any], given: TrialRecord) -> bool:
    """Whether a stored revision says the same as one that is sent again. What an older program did not write down is not compared."""
    now = given.meant()
    for key, was in held.items():
        if key == "released_at":
            if datetime.fromisoformat(was) != given.released_at:
                return False
        elif key == "readings":
            if len(was) != len(now[key]) or not all(_same_reading(a, b) for a, b in zip(_sorted(was), _sorted(now[key]), strict=True)):
                return False
        elif key in now and was != now[key]:
            return False
    return True


def _sorted(readings: list[dict[str, Any]]) -> list[dict[str, Any]]:
    return sorted(readings, key=lambda r: (r["measure"], r["payload"]))


def _same_reading(held: dict[str, Any], now: dict[str, Any]) -> bool:
    return all(now.get(k) == v for k, v in held.items() if k in now)
