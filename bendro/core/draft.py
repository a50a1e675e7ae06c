"""A plan as it is typed: every part may be empty, and a teacher's own words stand as they were written. `plan.py` says what
stands between a draft and its first trial."""

from __future__ import annotations

import re
from typing import Annotated, Any, Final, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationInfo, field_validator, model_validator

#: The measuring rule of a study that was read in from a table.
FROM_TABLE = "As in the table that was read in."
MOST_TIMERS, MOST_MEASURES, MOST_PAYLOADS, MOST_DERIVED = 3, 8, 6, 8
MOST_IDEAS, MOST_MATERIALS, MOST_PACKS = 60, 40, 8
Text = Field(default="", max_length=300)
Short = Field(default="", max_length=60)
Amount = Field(default="", max_length=30)
Idea = Annotated[str, Field(max_length=60)]

#: So many can be let go together, and heard landing by one pair of hands.
MOST_IN_HEAT = 6
Order = Literal["blocks", "listed", "random", "unknown"]
StudyKind = Literal["fair_test", "design_rounds", "contest"]
DropPlan = Literal["one_height", "rungs", "ladder"]
MaterialForm = Literal["count", "length", "sheet", "mass", "volume"]
Scale = Literal["quantity", "count", "outcome", "zone", "order", "behaviour"]
BindTo = Literal["", "reading", "setting", "held", "version", "typed"]


_UNSTORABLE: Final = re.compile("[\x00\ud800-\udfff]")


def storable(value: Any) -> Any:
    """The value, when every text in it can be stored. Raises ValueError for a zero byte or half a character, which no
    keyboard makes and no database takes."""
    if _unstorable(value):
        raise ValueError("There is a character in it that cannot be stored")
    return value


def _unstorable(value: Any) -> bool:
    """Whether a text in it cannot be stored. Ten thousand trials of a table come through here, so a text is looked at where it lies."""
    if isinstance(value, str):
        return _UNSTORABLE.search(value) is not None
    inside: Any = ()
    if isinstance(value, dict):
        if any(isinstance(key, str) and _UNSTORABLE.search(key) for key in value):
            return True
        inside = value.values()
    elif isinstance(value, list):
        inside = value
    for item in inside:
        kind = item.__class__
        if (kind is str and _UNSTORABLE.search(item)) or ((kind is dict or kind is list) and _unstorable(item)):
            return True
    return False


class Typed(BaseModel):
    """Something typed: strict, finite, storable, never changed in place."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True)
    _storable = model_validator(mode="before")(storable)


class VariableDraft(Typed):
    """The one thing that is changed. levels: as typed, numbers with or without a unit, or names. level_ids: the identity of each
    level, in the same order; "" for a level that has never been typed otherwise, whose identity is its text."""

    name: str = Short
    kind: Literal["number", "name"] = "number"
    quantity: str = Field(default="number", max_length=20)
    unit: str = Field(default="", max_length=12)
    levels: list[str] = Field(default=[], max_length=250)
    level_ids: list[Annotated[str, Field(max_length=60)]] = Field(default=[], max_length=250)


class Zone(Typed):
    """One band along the tape, in the measure's unit, and the points that a landing in it scores."""

    start: str = Amount
    end: str = Amount
    points: int = Field(default=0, ge=-1000, le=1000)


class MeasureDraft(Typed):
    """What is read. id: its identity, by which readings know it whatever it is called. step: smallest step of the tool, in `unit`;
    empty when it is the last digit written. words: of an outcome, the best first; survived: how many of them, counted from the best,
    count as survived (0: not yet said). zones: bands that score points; edge: which of two bands a landing on their line belongs to.
    of: of a count, out of how many (hits of five shots), 0 where it has no end. end: where the track or the tape ends, in `unit`: an exact reading there is asked about. each_payload: read for every payload of a device."""

    id: str = Field(default="", max_length=12)
    name: str = Short
    scale: Scale = "quantity"
    quantity: str = Field(default="length", max_length=20)
    unit: str = Field(default="m", max_length=12)
    rule: str = Text
    step: str = Field(default="", max_length=20)
    better: Literal["high", "low"] = "high"
    signed: bool = False
    timed: bool = False
    timers: int = Field(default=1, ge=1, le=MOST_TIMERS)
    words: list[Annotated[str, Field(max_length=30)]] = Field(default=[], max_length=12)
    survived: int = Field(default=0, ge=0, le=12)
    zones: list[Zone] = Field(default=[], max_length=12)
    edge: Literal["higher", "lower"] = "higher"
    of: int = Field(default=0, ge=0, le=1000)
    end: str = Amount
    each_payload: bool = False


class Binding(Typed):
    """Where an input of a calculator comes from: a reading of the same trial (of: the measure's id), the setting, a thing that is held
    (of: its name), a property of the version that was used (of: its name), or a value typed once with its doubt."""

    input: str = Field(default="", max_length=40)
    source: BindTo = ""
    of: str = Short
    value: str = Amount


class DerivedDraft(Typed):
    """A measure that is worked out from others by a calculator of the core."""

    id: str = Field(default="", max_length=12)
    name: str = Short
    calculator: str = Field(default="", max_length=40)
    output: str = Field(default="", max_length=40)
    unit: str = Field(default="", max_length=12)
    better: Literal["high", "low"] = "high"
    inputs: list[Binding] = Field(default=[], max_length=16)


class Held(Typed):
    """How one thing is kept the same: a value with a tolerance ("4.2 m", "5 cm"), or a sentence."""

    name: str = Short
    value: str = Amount
    tolerance: str = Amount
    how: str = Field(default="", max_length=200)


class Limit(Typed):
    """A limit that the teacher has set, never exceeded. on: which quantity of the plan it limits, chosen and not guessed: the
    variable, the rungs or height of the drops, or a thing that is held (by its name). value: the largest value with its unit."""

    on: Literal["", "variable", "rungs", "held"] = ""
    name: str = Short
    value: str = Amount


class DropDraft(Typed):
    """How drops are made. heights: rungs from low to high, or the one height. payload "": not yet said."""

    plan: DropPlan = "ladder"
    heights: list[str] = Field(default=[], max_length=30)
    unit: str = Field(default="m", max_length=12)
    payload: Literal["", "fresh", "reused"] = ""


class TimingDraft(Typed):
    """Seconds of one trial; minutes of the lesson that are left for trials; lanes and adults."""

    trials_min: float = Field(default=25, ge=0, le=600)
    lanes: int = Field(default=1, ge=1, le=12)
    adults: int = Field(default=1, ge=0, le=12)
    setup_s: float = Field(default=20, ge=0, le=3600)
    flight_s: float = Field(default=5, ge=0, le=3600)
    reading_s: float = Field(default=20, ge=0, le=3600)
    reset_s: float = Field(default=15, ge=0, le=3600)


class RotaDraft(Typed):
    """The lesson around the trials. start: clock time "09:10". test_min 0: worked out from the trials. rounds: how often
    each group tests, with improving in between."""

    start: str = Field(default="09:00", max_length=5)
    lesson_min: int = Field(default=50, ge=1, le=600)
    build_min: int = Field(default=10, ge=0, le=600)
    test_min: int = Field(default=0, ge=0, le=600)
    improve_min: int = Field(default=5, ge=0, le=600)
    rounds: int = Field(default=2, ge=1, le=6)
    tidy_min: int = Field(default=5, ge=0, le=120)
    adult_needed: bool = True


class Guess(Typed):
    """What the teacher expects where no physics is known: the mean at the first and at the last level, and by how much
    repeats scatter (SD), in the measure's unit."""

    first: str = Amount
    last: str = Amount
    scatter: str = Amount


class PackDraft(Typed):
    """One pack that can be bought. holds: "12", "10 m", "42 x 59.4 cm", "500 g". price: for one pack."""

    name: str = Short
    holds: str = Amount
    price: str = Amount


class MaterialDraft(Typed):
    """One material. per_device: how many pieces each device takes (count, length, sheet), or the amount itself (mass,
    volume). piece: size of one piece ("30 cm", "44 x 44 cm"), or of several shapes that are cut from one sheet together ("10 x 19 cm; 5 x 5 cm"). shop_price: play money for one piece. allowed: pieces that
    a device may have under a fixed list; empty where it is free."""

    name: str = Short
    form: MaterialForm = "count"
    per_device: str = Amount
    piece: str = Field(default="", max_length=90)
    packs: list[PackDraft] = Field(default=[], max_length=MOST_PACKS)
    shop_price: str = Amount
    allowed: str = Amount


class MaterialsDraft(Typed):
    """What is bought and what it costs. devices_each: of a group, 0 for one at each level. money: how money is written ("£"); assembly_min and hourly: minutes to put one
    together and what an hour of it costs."""

    items: list[MaterialDraft] = Field(default=[], max_length=MOST_MATERIALS)
    devices_each: int = Field(default=1, ge=0, le=50)
    spare: int = Field(default=1, ge=0, le=500)
    money: str = Field(default="", max_length=8)
    assembly_min: str = Amount
    hourly: str = Amount


class RulesDraft(Typed):
    """Rules that a device is held to; empty where there is none. mass_limit: of the device. payload_mass with
    payload_multiple: device and payload together at most so many payloads. share_of_last: of the version before, such as
    0.75. budget: play money for a group. fixed_list: only the allowed pieces. shows: part of the payload must show."""

    mass_limit: str = Amount
    payload_mass: str = Amount
    payload_multiple: str = Amount
    share_of_last: str = Amount
    budget: str = Amount
    fixed_list: bool = False
    payload_shows: bool = False


class SizeDraft(Typed):
    """A size that the templates are drawn from and the plan does not say elsewhere: "blade width" "2.5 cm"."""

    name: str = Short
    value: str = Amount


class TemplatesDraft(Typed):
    """What is cut from paper. device: which of the family's devices, "" for the one that fits the variable. title, steps: a build sheet of the
    school's own, a step on each line; "" for the one that ships."""

    device: str = Field(default="", max_length=20)
    sizes: list[SizeDraft] = Field(default=[], max_length=40)
    title: str = Short
    steps: str = Field(default="", max_length=4000)


class DecidedDraft(Typed):
    """What a group wrote down after the verdict: the level that it keeps (its identity), the one thing to change next, and why."""

    best: str = Field(default="", max_length=130)
    change: str = Short
    why: str = Text


class Draft(Typed):
    """A plan in the making. Everything may be empty except what has a default."""

    question: str = Text
    class_label: str = Short
    year: str = Field(default="", max_length=20)
    family: str = Field(default="", max_length=20)
    study_kind: StudyKind = "fair_test"
    asked_by: Literal["pupils", "teacher"] = "pupils"
    could_change: list[Idea] = Field(default=[], max_length=MOST_IDEAS)
    could_measure: list[Idea] = Field(default=[], max_length=MOST_IDEAS)
    variable: VariableDraft = VariableDraft()
    second: VariableDraft | None = None
    measures: list[MeasureDraft] = Field(default=[MeasureDraft(id="m1")], min_length=1, max_length=MOST_MEASURES)
    derived: list[DerivedDraft] = Field(default=[], max_length=MOST_DERIVED)
    payloads: list[Annotated[str, Field(max_length=30)]] = Field(default=[], max_length=MOST_PAYLOADS)
    margin: str = Amount
    hold: list[Held] = Field(default=[], max_length=MOST_IDEAS)
    repeats: int = Field(default=5, ge=-1_000_000, le=1_000_000)
    reserve: int = Field(default=0, ge=0, le=20, description="Further repeats that may be added after the verdict was read, agreed beforehand")
    practice: int = Field(default=1, ge=0, le=20)
    groups: list[str] = Field(default=[], max_length=100)
    people: int = Field(default=3, ge=1, le=6)
    prediction: str = Text
    reason: str = Text
    expect: str = Field(default="", max_length=60)
    order: Order = "blocks"
    start_line: str = Text
    void_rule: str = Text
    survival: Literal["", "untouched", "hairline", "inside"] = ""
    drop: DropDraft | None = None
    evidence: Literal["shuffle", "interval", "ranges"] = "shuffle"
    result: Literal["mean", "median", "best", "total"] = "mean"
    rank: Literal["result", "rung_lightest", "cheapest"] = "result"
    doubt: Literal["auto", "half_range", "sd", "ci95"] = "auto"
    odd: Literal["flag", "quiet"] = "flag"
    timers_by: Literal["auto", "mean", "median"] = "auto"
    compared: Literal["timed", "side_by_side"] = "timed"
    within: Literal["", "block", "group", "person", "device"] = ""
    reading_level: Literal["first", "middle", "senior"] = "middle"
    limits: list[Limit] = Field(default=[], max_length=12)
    timing: TimingDraft = TimingDraft()
    rota: RotaDraft = RotaDraft()
    guess: Guess = Guess()
    materials: MaterialsDraft = MaterialsDraft()
    rules: RulesDraft = RulesDraft()
    templates: TemplatesDraft = TemplatesDraft()
    decided: DecidedDraft = DecidedDraft()

    @field_validator("measures", "derived")
    @classmethod
    def _known_by_id(cls, given: list[Any], info: ValidationInfo) -> list[Any]:
        """Every measure has an identity of its own; one that has none yet gets the first that is free."""
        letter = "m" if info.field_name == "measures" else "d"
        taken = {m.id for m in given if m.id}
        made, seen = [], set[str]()
        for m in given:
            own = m.id if m.id and m.id not in seen else next(f"{letter}{n}" for n in range(1, 99) if f"{letter}{n}" not in taken | seen)
            seen.add(own)
            made.append(m if m.id == own else m.model_copy(update={"id": own}))
        return made

    @property
    def measure(self) -> MeasureDraft:
        """The first measure: it answers the question."""
        return self.measures[0]

    def measure_of(self, measure_id: str) -> MeasureDraft | None:
        """The measure of this identity, or None."""
        for m in self.measures:  # asked for every reading of ten thousand: no generator is made for it
            if m.id == measure_id:
                return m
        return None
