"""A trial as the computation sees it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from .readings import Kind

State = Literal["kept", "void"]
Level = float | str
#: Which end of a reading is best.
Better = Literal["high", "low"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """One release. level: setting of the factor (a number in the factor's unit, or a name), None when not recorded.
    value: reading in the response's unit. order: 1… in which it was done, None when not known. others: every other
    column (numbers or names). row: line in the table, for messages."""

    level: Level | None
    value: float | None = None
    kind: Kind = "exact"
    resolution: float | None = None
    doubt: float | None = None  # standard uncertainty of the single reading, unit of value
    state: State = "kept"
    fault: str | None = None
    note: str | None = None
    order: int | None = None
    block: str | None = None
    heat: str | None = None  # what was released together
    group: str | None = None
    device: str | None = None
    version: str | None = None  # of the device
    person: str | None = None
    outcome: str | None = None
    lean: float | None = None  # of a distance off the line, the value with its sign
    timers: tuple[float, ...] = ()  # the times of several timers on one fall, unit of value
    timers_apart: tuple[int, ...] = ()  # positions of those that stand apart from the others
    others: Mapping[str, Level | None] = field(default_factory=dict)
    row: int = 0

    @property
    def counts(self) -> bool:
        """Kept, with a level and a reading or an outcome."""
        return self.state == "kept" and self.level is not None and (self.value is not None or self.outcome is not None)

    def column(self, name: str) -> Level | None:
        """The value of any named column beside the factor and the response."""
        if name in ("block", "group", "device", "person"):
            held: str | None = getattr(self, name)
            return held
        if name == "trial":
            return None if self.order is None else float(self.order)
        own = {"heat": self.heat, "version": self.version}.get(name)
        return self.others.get(name) if own is None else own  # a table of one's own may have such a column
