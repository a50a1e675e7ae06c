"""The sizes that pieces are drawn from: a level of the variable, what the plan holds, what was typed for the template, or what is usual."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from ..errors import CoreError, PlanRefused
from ..readings import read
from ..words import said

SizeKind = Literal["length", "area", "count", "angle", "choice"]
_TO: Mapping[SizeKind, tuple[str, str]] = {"length": ("length", "mm"), "area": ("area", "mm²"), "count": ("count", "count"), "angle": ("angle", "°")}


class Size(BaseModel):
    """A size that the pieces of a device are drawn from. usual: what is drawn where nothing is written, "" where it is asked. range: what can be
    cut, in `unit`."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    name: str = Field(min_length=2, max_length=60)
    kind: SizeKind = "length"
    unit: str = "cm"
    usual: str = ""
    choices: tuple[str, ...] = ()
    range: tuple[float, float] = (0.1, 300)
    hint: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Setting:
    """One level as it is called, and in mm (mm² of an area, degrees of an angle)."""

    label: str
    value: float


@dataclass
class Sizes:
    """defs: the device's sizes by name. written: what stands for each, as typed. marked: all levels of what one piece bears a mark for at each.
    varied: the size that differs between the levels."""

    defs: Mapping[str, Size]
    written: Mapping[str, str]
    varied: str = ""
    marked: Mapping[str, Sequence[str]] = field(default_factory=dict)

    def _text(self, name: str) -> str:
        text = self.written.get(said(name), "").strip()
        if not text:
            raise PlanRefused(f"Write the {name}: the pieces are drawn from it.", code="size_missing", where=name)
        return text

    def _read(self, name: str, text: str) -> float:
        d = self.defs[name]
        quantity, unit = _TO[d.kind]
        try:
            value = read(text, quantity, d.unit)
        except CoreError as why:
            raise PlanRefused(f"The {name}: {why.says}", code="size_unreadable", where=name) from why
        low, high = d.range
        there = value.to(d.unit)
        if not low - 1e-9 <= there <= high + 1e-9:
            raise PlanRefused(
                f"A {name} of {text} cannot be cut. Choose {low:g} to {high:g}{'' if d.unit in ('count',) else ' ' + d.unit}."
                if there > 0 or low < 0
                else f"A {name} of {text} leaves nothing to cut. Choose {low:g}{'' if d.unit in ('count',) else ' ' + d.unit} or more.",
                code="size_range",
                where=name,
            )
        return value.to(unit)

    def of(self, name: str) -> float:
        """In mm, mm², degrees or a count. Raises PlanRefused `size_missing`, `size_unreadable`, `size_range`."""
        return self._read(name, self._text(name))

    def whole(self, name: str) -> int:
        """A whole number. Raises PlanRefused as `of`, and `size_range` for a part of one."""
        value = self.of(name)
        if abs(value - round(value)) > 1e-6:
            raise PlanRefused(f"A {name} of {value:g} cannot be made. Write a whole number.", code="size_range", where=name)
        return round(value)

    def choice(self, name: str) -> str:
        """One of the device's choices. Raises PlanRefused `size_choice`."""
        text = said(self._text(name))
        found = next((c for c in self.defs[name].choices if said(c) == text), None)
        if found is None:
            known = ", ".join(self.defs[name].choices)
            raise PlanRefused(f"No outline is known for the {name} “{text}”. Choose one of {known}.", code="size_choice", where=name)
        return found

    def has(self, name: str) -> bool:
        return bool(self.written.get(said(name), "").strip())

    def settings(self, name: str) -> tuple[Setting, ...]:
        """Every level that is marked, else the one value that is written; none where nothing is."""
        texts = self.marked.get(said(name)) or ([self.written[said(name)]] if self.has(name) else [])
        return tuple(Setting(label=text, value=self._read(name, text)) for text in texts)

    def is_varied(self, name: str) -> bool:
        return said(name) == said(self.varied)
