"""What a family of devices is made of. The nine files beside this one are checked against it; a teacher's own variables,
measures and faults have the same shape."""

from __future__ import annotations

from functools import cache
from importlib import resources
from importlib.resources.abc import Traversable
from typing import Any, Literal

import yaml
from pydantic import BaseModel, ConfigDict, Field, model_validator

from ..errors import PlanRefused
from ..readings import find_unit, quantity

FormName = Literal["line", "proportional", "power", "peak"]
#: Where the files of the families lie; a further folder adds its families to them.
FOLDERS: list[Traversable] = [resources.files(__package__)]


class Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Variable(Part):
    """Something that can be changed. sensible: range in `unit` outside which a level is asked about, not refused. limited: it
    stores energy or height, so that the teacher's limit is needed before the plan is signed off, and no level is suggested
    without one."""

    name: str = Field(min_length=2, max_length=60)
    kind: Literal["number", "name"] = "number"
    quantity: str | None = None
    unit: str = ""
    sensible: tuple[float, float] | None = None
    typical: tuple[float | str, ...] = ()
    forms: tuple[FormName, ...] = ("line", "proportional", "power", "peak")
    hint: str = ""
    limited: bool = False

    @model_validator(mode="after")
    def _fits(self) -> Variable:
        if self.kind == "number" and self.quantity and find_unit(self.unit, self.quantity) != self.unit:
            raise ValueError(f"{self.unit} is not a printed unit of {self.quantity}")
        if self.sensible and any(isinstance(v, float | int) and not self.sensible[0] <= v <= self.sensible[1] for v in self.typical):
            raise ValueError(f"a typical level of {self.name} lies outside its sensible range")
        return self


class Measure(Part):
    """Something that can be read. rule: how, in one sentence. step: smallest step of the usual tool, in `unit`. timed: taken with
    the stopwatch, by so many timers. signed: below zero is possible (off the line). survival: it turns on a payload that
    survives. of: of a count, out of how many. flight_s, reading_s: how long a trial flies, falls or spins, and how long it takes to read and write down
    (common practice)."""

    name: str = Field(min_length=2, max_length=60)
    quantity: str
    unit: str
    rule: str
    tool: str
    step: float = Field(gt=0)
    better: Literal["high", "low"] = "high"
    timed: bool = False
    timers: int = Field(default=1, ge=1, le=3)
    signed: bool = False
    survival: bool = False
    scale: Literal["quantity", "count", "outcome", "zone", "order", "behaviour"] = "quantity"
    words: tuple[str, ...] = ()
    each_payload: bool = False
    of: int = Field(default=0, ge=0, le=1000)
    flight_s: float = Field(default=5, gt=0)
    reading_s: float = Field(default=20, gt=0)

    @model_validator(mode="after")
    def _fits(self) -> Measure:
        if find_unit(self.unit, self.quantity) != self.unit:
            raise ValueError(f"{self.unit} is not a printed unit of {quantity(self.quantity).name}")
        return self


class WorkedOut(Part):
    """A measure that is usually worked out. inputs: input of the calculator -> where it comes from, "reading:fall time",
    "held:drop height", "version:mass", "worked:launch speed", or "typed" for a value that the teacher writes once."""

    name: str = Field(min_length=2, max_length=60)
    calculator: str
    output: str
    unit: str = ""
    better: Literal["high", "low"] = "high"
    inputs: dict[str, str]


class UsualHold(Part):
    """How a usual test keeps one thing the same. A height or energy has no value here: the teacher writes it with the limit."""

    name: str
    value: str = ""
    tolerance: str = ""
    how: str = ""


class UsualDrop(Part):
    """How a usual test drops. No height stands here: the teacher's limit comes first."""

    plan: Literal["one_height", "rungs", "ladder"]
    payload: Literal["", "fresh", "reused"] = ""


class UsualMaterial(Part):
    name: str
    form: Literal["count", "length", "sheet", "mass", "volume"] = "count"
    per_device: str = "1"
    piece: str = ""


class UsualSecond(Part):
    """The second variable of a usual test, crossed with the first."""

    variable: str
    levels: tuple[str, ...] = Field(min_length=2)


class UsualRules(Part):
    """Rules that the devices of a usual test are held to. payload_multiple: device and payload together at most so many payloads.
    share_of_last: of the mass of the version before."""

    payload_multiple: str = ""
    share_of_last: str = ""
    fixed_list: bool = False
    payload_shows: bool = False


class UsualTest(Part):
    """A whole test to start from. says: what a teacher would call it. kind: of a contest the class's devices are the levels, of design
    rounds the versions. levels: of the variable, none where it stores energy or height. measures, worked: by name, the first measure answers
    the question. survived: of an outcome, how many words count as survived (0: the teacher says it). margin: of distance, for the decision
    with two measures. one_device: the levels are settings of one device, so that a group builds one and not one at each. timers: on
    the first measure, 0 for as many as it usually has. rank: by what a contest goes. device: whose templates and build sheet it comes with. payloads: of one device, each judged."""

    id: str = Field(pattern="^[a-z0-9-]+$")
    says: str = Field(min_length=10, max_length=120)
    kind: Literal["fair_test", "design_rounds", "contest"] = "fair_test"
    variable: str
    second: UsualSecond | None = None
    levels: tuple[str, ...] = ()
    measures: tuple[str, ...] = Field(min_length=1)
    worked: tuple[str, ...] = ()
    repeats: int = Field(default=3, ge=1, le=8)
    hold: tuple[UsualHold, ...] = ()
    void_rule: str
    people: int = Field(default=3, ge=2, le=4)
    compared: Literal["timed", "side_by_side"] = "timed"
    drop: UsualDrop | None = None
    survived: int = 0
    margin: str = ""
    rank: Literal["result", "rung_lightest", "cheapest"] = "result"
    result: Literal["mean", "median", "best", "total"] = "mean"
    rules: UsualRules = UsualRules()
    payloads: tuple[str, ...] = ()
    one_device: bool = False
    timers: int = Field(default=0, ge=0, le=3)
    device: str = ""
    materials: tuple[UsualMaterial, ...] = ()


class Kept(Part):
    """Something that is kept the same. not_with: variables and measures under which it is changed or read itself, or has no part
    in what is done. limited: `always` where it is a height that needs the teacher's limit, `value` where it needs one once a
    value is written for it."""

    name: str = Field(min_length=2, max_length=60)
    not_with: tuple[str, ...] = ()
    limited: Literal["no", "value", "always"] = "no"


class Caution(Part):
    """A caution that the adult in charge ticks. not_with: variables, measures and held things with which it does not arise; arises_with: words
    with which it does all the same."""

    says: str
    not_with: tuple[str, ...] = ()
    arises_with: tuple[str, ...] = ()


class Levels3(Part):
    """The same thing said at three reading levels."""

    first: str
    middle: str
    senior: str


class Questions(Part):
    before: tuple[str, ...] = Field(min_length=2)
    after: tuple[str, ...] = Field(min_length=2)


class Expected(Part):
    """What a variable is expected to do to a measure, with ordinary sizes of school devices (common practice): a form that the core knows
    (planning.expectations), its sizes, the share by which devices and people vary, and the SD of taking one reading in the measure's unit; timed:
    that error is a thumb's."""

    variable: str
    measure: str
    form: str
    sizes: dict[str, float] = {}
    scatter: float = Field(gt=0, le=1)
    reading_error: float = Field(gt=0)
    timed: bool = False


class Family(Part):
    """dropped: its devices are let fall from a height; the others are launched, pushed or set going. place: in the list that people see, 1 first. reset: what is put back before the next release, called at the lane."""

    id: str
    place: int = Field(ge=1, le=999)
    name: str
    covers: str
    variables: tuple[Variable, ...] = Field(min_length=3)
    measures: tuple[Measure, ...] = Field(min_length=2)
    keep_same: tuple[Kept, ...] = Field(min_length=3)
    faults: tuple[str, ...] = Field(min_length=2)
    behaviours: tuple[str, ...] = Field(min_length=2)
    build_checks: tuple[str, ...] = Field(min_length=2)
    cautions: tuple[Caution, ...] = Field(min_length=2)
    calculators: tuple[str, ...] = Field(min_length=2)
    materials: tuple[str, ...] = Field(min_length=2)
    tools: tuple[str, ...] = ()
    dropped: bool = False
    expected: tuple[Expected, ...] = ()
    worked: tuple[WorkedOut, ...] = Field(min_length=1)
    tests: tuple[UsualTest, ...] = Field(min_length=2, max_length=8)
    setup_s: float = Field(default=20, gt=0)
    reset_s: float = Field(default=15, gt=0)
    reset: tuple[str, ...] = ()
    adult_because: str = ""
    forces: Levels3
    terms: dict[str, Levels3] = Field(min_length=2)
    questions: Questions

    @model_validator(mode="before")
    @classmethod
    def _plain_words(cls, data: Any) -> Any:
        """In the files a kept thing or a caution without conditions is its words alone."""
        data = dict(data)
        data["keep_same"] = [{"name": k} if isinstance(k, str) else k for k in data.get("keep_same", ())]
        data["cautions"] = [{"says": c} if isinstance(c, str) else c for c in data.get("cautions", ())]
        return data

    @model_validator(mode="after")
    def _known_parts(self) -> Family:
        measures, variables, worked = ({p.name for p in parts} for parts in (self.measures, self.variables, self.worked))
        for w in self.worked:
            for source in w.inputs.values():
                kind, _, name = source.partition(":")
                if kind not in ("reading", "held", "version", "worked", "typed") or (kind == "reading" and name not in measures):
                    raise ValueError(f"{self.id}: {w.name} is worked out from “{source}”, which the family does not have")
        for e in self.expected:
            if e.variable not in variables or e.measure not in measures:
                raise ValueError(f"{self.id}: {e.measure} over {e.variable} is expected, which the family does not have")
        for t in self.tests:
            changed = ({t.variable} if t.kind == "fair_test" else set()) | ({t.second.variable} if t.second else set())
            strange = (set(t.measures) - measures) | (set(t.worked) - worked) | (changed - variables)
            if strange:
                raise ValueError(f"{self.id}: the test {t.id} names what the family does not have: {', '.join(sorted(strange))}")
        return self

    @model_validator(mode="after")
    def _known_names(self) -> Family:
        names = {v.name for v in self.variables} | {m.name for m in self.measures}
        for not_with in (*(k.not_with for k in self.keep_same), *(c.not_with for c in self.cautions)):
            strange = set(not_with) - names
            if strange:
                raise ValueError(f"{self.id}: not_with names what the family does not have: {', '.join(sorted(strange))}")
        return self


@cache
def _all() -> dict[str, Family]:
    """Every family that has a file, in the order of their places."""
    files = [f for folder in FOLDERS for f in folder.iterdir() if f.name.endswith(".yaml")]
    read = [Family.model_validate(yaml.safe_load(f.read_text(encoding="utf-8"))) for f in files]
    return {f.id: f for f in sorted(read, key=lambda f: (f.place, f.id))}


def order() -> tuple[str, ...]:
    """The ids of the families, in the order of the job's list."""
    return tuple(_all())


def known(family_id: str) -> bool:
    """Whether there is such a family."""
    return family_id in _all()


def family(family_id: str) -> Family:
    """One family by its id. Raises PlanRefused `family_unknown`."""
    if not known(family_id):
        raise PlanRefused(f"“{family_id[:40]}” is not one of the families.", code="family_unknown", where="family")
    return _all()[family_id]


def families() -> tuple[Family, ...]:
    """All of them, in the order of the job's list."""
    return tuple(_all().values())
