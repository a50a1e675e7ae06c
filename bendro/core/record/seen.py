"""A trial of the record as the core works with it: what was written, what was understood, and its place in the plan."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from uuid import UUID

from ..measuring.taking import Taken
from ..planning.stock import Place
from .model import BEHAVIOUR


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingSeen:
    """A reading in the plan's unit; None where nothing was understood, or it cannot be expressed in it."""

    measure: str
    payload: int = 1
    texts: Sequence[str] = ()
    unit: str = ""
    taken: str = "typed"
    stamps: Sequence[float] = ()
    source: str = ""
    clock_s: float = 0.0
    reading: Taken | None = None
    words: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialSeen:
    """A trial with its readings and its place in the plan. number: in the order of release. why: the reason why it stands outside.
    conditions: as they stood. others: further columns of the table that it was read from."""

    id: UUID
    number: int
    block: int
    level: str
    group: str = ""
    person: str = ""
    device: str = ""
    version: int | None = None
    specimen: str = ""
    rung: str = ""
    practice: bool = False
    heat: str = ""
    answered: Sequence[str] = ()
    state: str = "kept"
    fault: str = ""
    note: str = ""
    kept_by: str = ""
    released_at: datetime | str = ""
    revision: int = 1
    others: Sequence[Sequence[str]] = ()
    readings: tuple[ReadingSeen, ...] = ()
    place: Place = "turn"
    why: str = ""
    conditions: Mapping[str, str] = field(default_factory=dict)

    def of(self, measure_id: str, payload: int = 1) -> ReadingSeen | None:
        """The reading of a measure, or None."""
        return next((r for r in self.readings if (r.measure, r.payload) == (measure_id, payload)), None)

    def taken(self, measure_id: str, payload: int = 1) -> Taken | None:
        """The number read for a measure, in its unit, or None."""
        found = self.of(measure_id, payload)
        return None if found is None else found.reading

    @property
    def behaviours(self) -> tuple[str, ...]:
        """How the device behaved, in words."""
        found = self.of(BEHAVIOUR)
        return () if found is None else found.words or tuple(found.texts)

    @property
    def counts(self) -> bool:
        """Kept, in the plan, and no practice."""
        return self.state == "kept" and self.place in ("turn", "extra")

    @property
    def made_by(self) -> str:
        """Whose device it was: its own label, else the group's."""
        return self.device or self.group
