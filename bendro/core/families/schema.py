"""What a family of devices is made of. The nine files beside this one are checked against it; a teacher's own variables,
measures and faults have the same shape."""

from __future__ import annotations

from functools import cache
from importlib import resources
from typing import Literal

import yaml
from pydantic import BaseModel, ConfigDict, Field, model_validator

from ..errors import PlanRefused
from ..readings import find_unit, quantity

FormName = Literal["line", "proportional", "power", "peak"]
ORDER = ("launcher", "rocket", "glider", "rotor", "parachute", "vehicle", "spinner", "turbine", "protector")


class Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Variable(Part):
    """Something that can be changed. sensible: range in `unit` outside which a level is asked about, not refused."""

    name: str = Field(min_length=2, max_length=60)
    kind: Literal["number", "name"] = "number"
    quantity: str | None = None
    unit: str = ""
    sensible: tuple[float, float] | None = None
    typical: tuple[float | str, ...] = ()
    forms: tuple[FormName, ...] = ("line", "proportional", "power", "peak")
    hint: str = ""

    @model_validator(mode="after")
    def _fits(self) -> Variable:
        if self.kind == "number" and self.quantity and find_unit(self.unit, self.quantity) != self.unit:
            raise ValueError(f"{self.unit} is not a printed unit of {self.quantity}")
        if self.sensible and any(isinstance(v, float | int) and not self.sensible[0] <= v <= self.sensible[1] for v in self.typical):
            raise ValueError(f"a typical level of {self.name} lies outside its sensible range")
        return self


class Measure(Part):
    """Something that can be read. rule: how, in one sentence. step: smallest step of the usual tool, in `unit`.
    timed: taken with the stopwatch. signed: below zero is possible (off the line)."""

    name: str = Field(min_length=2, max_length=60)
    quantity: str
    unit: str
    rule: str
    tool: str
    step: float = Field(gt=0)
    better: Literal["high", "low"] = "high"
    timed: bool = False
    signed: bool = False

    @model_validator(mode="after")
    def _fits(self) -> Measure:
        if find_unit(self.unit, self.quantity) != self.unit:
            raise ValueError(f"{self.unit} is not a printed unit of {quantity(self.quantity).name}")
        return self


class Levels3(Part):
    """The same thing said at three reading levels."""

    first: str
    middle: str
    senior: str


class Questions(Part):
    before: tuple[str, ...] = Field(min_length=2)
    after: tuple[str, ...] = Field(min_length=2)


class Family(Part):
    id: str
    name: str
    covers: str
    variables: tuple[Variable, ...] = Field(min_length=3)
    measures: tuple[Measure, ...] = Field(min_length=2)
    keep_same: tuple[str, ...] = Field(min_length=3)
    faults: tuple[str, ...] = Field(min_length=2)
    behaviours: tuple[str, ...] = Field(min_length=2)
    build_checks: tuple[str, ...] = Field(min_length=2)
    cautions: tuple[str, ...] = Field(min_length=2)
    calculators: tuple[str, ...] = Field(min_length=2)
    materials: tuple[str, ...] = Field(min_length=3)
    forces: Levels3
    terms: dict[str, Levels3] = Field(min_length=2)
    questions: Questions


@cache
def family(family_id: str) -> Family:
    """One family by its id. Raises PlanRefused `family_unknown`."""
    if family_id not in ORDER:
        raise PlanRefused(f"“{family_id[:40]}” is not one of the nine families.", code="family_unknown", where="family")
    text = resources.files(__package__).joinpath(f"{family_id}.yaml").read_text(encoding="utf-8")
    return Family.model_validate(yaml.safe_load(text))


def families() -> tuple[Family, ...]:
    """All nine, in the order of the job's list."""
    return tuple(family(name) for name in ORDER)
