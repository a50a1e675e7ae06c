"""The choices of a plan in words, each with its reason: where teachers differ there is a default, its reason, and the other ways. What
is advised stands first and is what a new plan begins with. The pages take them from here (bin/types)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from ..judgement.wording import EXPECTED


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice:
    """id: as the draft has it. label: what it is called. why: what speaks for it, or what it means. advised: by common practice."""

    id: str
    label: str
    why: str = ""
    advised: bool = False


def _choice(id: str, label: str, why: str = "", *, advised: bool = False) -> Choice:
    return Choice(id=id, label=label, why=why, advised=advised)


#: By the name of the draft's field.
CHOICES: Final[dict[str, tuple[Choice, ...]]] = {
    "order": (
        _choice("blocks", "shuffled in blocks", "Each block has every level once, shuffled: tiredness and slackening bands fall on all levels alike.", advised=True),
        _choice("listed", "as listed", "Level after level: order and level cannot be told apart afterwards."),
        _choice("random", "fully random", "All trials shuffled together; by bad luck one level can still come mostly early."),
        _choice("unknown", "not told", "The table that the trials came from does not tell in which order they were run, so nothing is judged by it."),
    ),
    "evidence": (
        _choice(
            "shuffle", "chance alone would rarely produce this", "How often dealing the readings anew among the levels gives a difference as large.", advised=True
        ),
        _choice("interval", "the 95 % interval excludes zero", "The usual interval of a difference or slope."),
        _choice("ranges", "the ranges do not overlap", "Simple and strict; it pays no regard to how many trials there were."),
    ),
    "result": (
        _choice("mean", "the mean", "Every kept trial counts alike. The mean, the median, the best and the total are all shown.", advised=True),
        _choice("median", "the median", "One odd reading moves it little; it wants five trials or more."),
        _choice("best", "the best", "Contests like it. It grows with the number of tries, so everyone needs the same number."),
        _choice("total", "the total", "For points over a fixed number of tries."),
    ),
    "rank": (
        _choice("result", "the result of each device", "Devices that cannot be separated share a place.", advised=True),
        _choice("rung_lightest", "the highest rung, then the lightest", "It needs an outcome for every drop, and the mass of each device on its sheet."),
        _choice("cheapest", "the cheapest that survived", "It needs an outcome for every drop, and what each device is made of on its sheet."),
    ),
    "doubt": (
        _choice("auto", "by reading level", "Half the range at the first level; the 95 % interval of the mean above it.", advised=True),
        _choice("half_range", "half the range", "Largest less smallest, halved: done by hand in a moment."),
        _choice("sd", "the standard deviation", "How far single trials scatter."),
        _choice("ci95", "the 95 % interval of the mean", "How well the mean itself is known."),
    ),
    "odd": (
        _choice(
            "flag",
            "keep it, and ask about it",
            "A reading that Grubbs’ test finds odd is pointed out: was a fault seen? It counts until someone names one.",
            advised=True,
        ),
        _choice("quiet", "keep it and say nothing", "Never tested. It counts unless the trial is made void with a fault."),
    ),
    "timers_by": (
        _choice("auto", "median of three, mean of two", "The median bears one slow thumb.", advised=True),
        _choice("mean", "the mean", "Every thumb counts alike."),
        _choice("median", "the median", "The middle one of three; of two it is the mean."),
    ),
    "compared": (
        _choice("timed", "one at a time, measured", "Gives sizes, not only an order.", advised=True),
        _choice(
            "side_by_side",
            "side by side",
            "Each block is a heat: all levels released together from one height, so the air of the day is shared. Release them at one call.",
        ),
    ),
    "within": (
        _choice("", "all together", "Every trial counts at its level, whichever block or group it came from.", advised=True),
        _choice("block", "within each block", "Each block is compared with itself, so that a day or a draught falls on all levels alike."),
        _choice(
            "group",
            "within each group",
            "Each group is compared with itself, so that one strong group does not favour a level. Every group needs every level.",
        ),
        _choice("person", "within each person", "Each person is compared with themselves. It needs who released every trial."),
        _choice("device", "within each device", "Each device is compared with itself. It needs the device of every trial."),
    ),
    "reading_level": (
        _choice("first", "first (ages 7 to 10)"),
        _choice("middle", "middle (ages 11 to 14)"),
        _choice("senior", "senior (ages 15 to 18)"),
    ),
    "study_kind": (
        _choice("fair_test", "Fair test", "one thing is changed, everything else is held"),
        _choice("design_rounds", "Design rounds", "one device is made better, version by version"),
        _choice("contest", "Contest", "many devices under one rule"),
    ),
    "survival": (
        _choice("", "not agreed yet", "Teachers differ on a hairline crack, so there is no default."),
        _choice("untouched", "untouched only", "Not a crack, not a hairline."),
        _choice("hairline", "a hairline crack is allowed", "Anything wider is a fail."),
        _choice("inside", "still inside and whole", "The payload has not left the device."),
    ),
    "drop.plan": (
        _choice("", "nothing is dropped"),
        _choice("ladder", "a ladder until it fails", "Each rung higher than the last; the highest rung survived is the reading."),
        _choice("rungs", "fixed rungs for all", "Every device goes through every rung."),
        _choice("one_height", "one height", "Everything from the same height."),
    ),
    "drop.payload": (
        _choice("", "not agreed yet", "Damage adds up in a payload that is used again."),
        _choice("fresh", "a fresh payload at every drop", "Each drop stands for itself."),
        _choice("reused", "one payload for all rungs", "Damage adds up: a late failure may belong to an earlier drop."),
    ),
    "asked_by": (
        _choice("pupils", "learners choose from the wall"),
        _choice("teacher", "the teacher sets it"),
    ),
    "measures.scale": (
        _choice("quantity", "a number with a unit"),
        _choice("count", "a count"),
        _choice("outcome", "an outcome in words"),
        _choice("zone", "zones with points"),
        _choice("order", "a place in a heat"),
        _choice("behaviour", "behaviours seen"),
    ),
    "materials.form": (
        _choice("count", "pieces"),
        _choice("length", "cut lengths"),
        _choice("sheet", "cut from sheets"),
        _choice("mass", "a mass"),
        _choice("volume", "a volume"),
    ),
    "derived.source": (
        _choice("reading", "a reading"),
        _choice("setting", "the setting"),
        _choice("held", "a thing held"),
        _choice("version", "the version"),
        _choice("typed", "typed here"),
    ),
    "expect": tuple(_choice(one, says) for one, says in EXPECTED.items()),
}

#: In what a class measures and sets, as quantity and unit; a family may name others, and what is typed with its unit is always understood.
UNITS_OFFERED: Final[tuple[tuple[str, str], ...]] = (
    ("length", "mm"),
    ("length", "cm"),
    ("length", "m"),
    ("length", "in"),
    ("length", "ft"),
    ("time", "s"),
    ("time", "min"),
    ("mass", "g"),
    ("mass", "kg"),
    ("mass", "oz"),
    ("angle", "°"),
    ("speed", "m/s"),
    ("count", "count"),
    ("voltage", "V"),
    ("area", "cm²"),
    ("volume", "ml"),
    ("pressure", "bar"),
    ("pressure", "psi"),
)


def label_of(field: str, value: str, otherwise: str) -> str:
    """What a value of this field is called; `otherwise` where the field has no such choice."""
    return next((c.label for c in CHOICES.get(field, ()) if c.id == value), otherwise)
