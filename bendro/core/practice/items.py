"""Practice for pupils: small problems made from a seed and marked by the same rules that judge a study. Nothing is stored, and the seed
alone brings an item back, so that a whole class can have the same one."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..analyse import analyse
from ..context import Context
from ..errors import CoreError
from ..judgement.pupil_sum import check_sum
from ..measuring.taking import HAND_S
from ..readings import convert, read
from ..results import Analysis
from ..trials import Trial
from ..written import level_label

Kind = Literal["unfair", "tape", "fall", "luck", "average"]
KINDS: tuple[Kind, ...] = ("unfair", "tape", "fall", "luck", "average")
#: Seeds are whole numbers from 0 to here, short enough to be read aloud.
MOST_SEED = 9_999
#: A thumb that is within so many seconds of the known time did well (common practice: about the scatter of a thumb).
GOOD_THUMB_S = 2 * HAND_S
TRIES = 400
#: m/s². Source: CGPM 1901, the standard acceleration of free fall.
STANDARD_GRAVITY = 9.80665


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """One trial of a made-up test, as a table shows it. reading: in `unit`, as written."""

    order: int
    level: str
    reading: str
    value: float
    person: str
    held: str
    void: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice:
    id: str
    says: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Item:
    """One problem. asks: the question in a sentence. rows: trials of a table; choices: answers to choose from; unit: of readings; span and
    step: of a tape that is drawn, with its mark at `value`; value: also the length of a fall in seconds, which is shown and not told."""

    kind: Kind
    seed: int
    asks: str
    unit: str = ""
    rows: tuple[Row, ...] = ()
    choices: tuple[Choice, ...] = ()
    held_name: str = ""
    span: tuple[float, float] | None = None
    step: float | None = None
    value: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Marked:
    """right: of an answer; says: the reason; working: how it is found."""

    right: bool
    says: str
    working: tuple[str, ...] = ()


def item(kind: Kind, seed: int) -> Item:
    """The problem of a seed. Raises CoreError `practice_seed` outside 0 to MOST_SEED."""
    return _MAKE[kind](_checked(seed))


def mark(kind: Kind, seed: int, answer: str) -> Marked:
    """Mark an answer. Raises CoreError `practice_seed`, and ReadingRefused for an answer that cannot be read."""
    return _MARK[kind](item(kind, seed), answer.strip())


def _checked(seed: int) -> int:
    if not 0 <= seed <= MOST_SEED:
        raise CoreError(f"Problems have numbers from 0 to {MOST_SEED}.", code="practice_seed", where="seed")
    return seed


def _rng(kind: Kind, seed: int) -> np.random.Generator:
    return np.random.default_rng([KINDS.index(kind), seed])


# --- what is unfair -------------------------------------------------------------------------------------------------

#: Flaws that can be planted, by the code under which the audit finds them; "" plants none.
FLAWS: dict[str, str] = {
    "control_not_held": "Something else was changed as well.",
    "person_mixed_with_level": "Each level was released by another person.",
    "order_mixed_with_level": "The levels were run one after another, not mixed.",
    "unequal_repeats": "One level has fewer trials than the others.",
    "": "Nothing: it is fair.",
}
_TESTS = (("wing length", "cm", (6.0, 9.0, 12.0), "fall time", "s", 1.8, "paper clip"), ("ramp height", "cm", (10.0, 20.0, 30.0), "distance", "m", 1.6, "load"))
_PEOPLE, _THINGS = ("Avocet", "Bittern", "Curlew"), {"paper clip": ("small", "large"), "load": ("2 washers", "4 washers")}


def _unfair(seed: int) -> Item:
    rng = _rng("unfair", seed)
    factor, unit, levels, response, r_unit, base, held = _TESTS[seed % len(_TESTS)]
    flaw = list(FLAWS)[int(rng.integers(len(FLAWS)))]
    for _ in range(TRIES):
        rows = _table(rng, flaw, levels, base, held)
        if flaw in _planted(rows) and len(_planted(rows)) == 1:
            break
    else:  # every flaw is found within a few tries; a table that shows another by chance is thrown away
        raise CoreError("This problem cannot be made. Take the next one.", code="practice_unmade", where="seed")
    return Item(
        kind="unfair",
        seed=seed,
        asks=f"Does {factor} change the {response}? Here are all trials. What makes this test unfair?",
        unit=r_unit,
        rows=tuple(Row(order=r.order, level=level_label(levels[int(r.level)], unit), reading=r.reading, value=r.value, person=r.person, held=r.held) for r in rows),
        choices=tuple(Choice(id=code or "fair", says=says) for code, says in FLAWS.items()),
        held_name=held,
    )


def _table(rng: np.random.Generator, flaw: str, levels: tuple[float, ...], base: float, held: str) -> list[Row]:
    repeats, thing = 4, _THINGS[held]
    cells = [(i, n) for i in range(len(levels)) for n in range(repeats)]
    if flaw == "unequal_repeats":
        cells = [c for c in cells if c not in ((1, 2), (1, 3))]
    if flaw != "order_mixed_with_level":  # every level once, then every level again, in shuffled order each time
        cells = [c for n in range(repeats) for c in rng.permutation([c for c in cells if c[1] == n]).tolist()]
    rows = []
    for order, (i, _) in enumerate(cells, 1):
        value = round(base * (1 + 0.15 * i) + float(rng.normal()) * 0.05, 2)
        person = _PEOPLE[i] if flaw == "person_mixed_with_level" else _PEOPLE[int(rng.integers(len(_PEOPLE)))]
        which = thing[1] if flaw == "control_not_held" and i == len(levels) - 1 else thing[0]
        rows.append(Row(order=order, level=str(i), reading=f"{value:.2f}", value=value, person=person, held=which))
    return rows


def _planted(rows: list[Row]) -> set[str]:
    """What the audit finds of the flaws that can be planted; {""} where it finds none."""
    found = _judged(rows, held=True)
    return {f.code for f in found.audit if f.code in FLAWS} or {""}


def _judged(rows: list[Row], *, held: bool = False) -> Analysis:
    trials = [
        Trial(level=r.level, value=r.value, order=r.order, row=r.order, person=r.person, others={"held": r.held} if held else {}, state="void" if r.void else "kept")
        for r in rows
    ]
    return analyse(trials, Context(factor="level", response="reading", hold={"held": None} if held else {}, ask_about_odd=False))


def _mark_unfair(one: Item, answer: str) -> Marked:
    levels = list(dict.fromkeys(r.level for r in one.rows))
    rows = [Row(order=r.order, level=str(levels.index(r.level)), reading=r.reading, value=r.value, person=r.person, held=r.held) for r in one.rows]
    (planted,) = _planted(rows)
    right = answer == (planted or "fair")
    if planted == "":
        return Marked(right=right, says="It is fair: every level has as many trials, mixed in order and hands, and everything else stayed the same.")
    counts = {level: sum(r.level == level for r in one.rows) for level in levels}
    least = min(levels, key=lambda level: counts[level])
    told, do = {
        "control_not_held": (
            f"The {one.held_name} was not the same at every level, so nobody can tell which of the two did it.",
            f"Keep the {one.held_name} the same in every trial.",
        ),
        "person_mixed_with_level": (
            "Each level has its own person, so nobody can tell the level from the hand.",
            "Let every person release every level as often.",
        ),
        "order_mixed_with_level": (
            "All trials of a level stand together, so anything that changed during the lesson looks like an effect.",
            "Shuffle the levels within blocks: one trial at each level, then again.",
        ),
        "unequal_repeats": (
            f"{least} has only {counts[least]} trials where others have {max(counts.values())}, so its mean is known less well.",
            f"Run {max(counts.values()) - counts[least]} more at {least}.",
        ),
    }[planted]
    return Marked(right=right, says=told, working=(do,))


# --- reading a tape -------------------------------------------------------------------------------------------------


def _tape(seed: int) -> Item:
    rng = _rng("tape", seed)
    unit, step, room = (("cm", 1.0, 40.0), ("m", 0.05, 2.0), ("cm", 0.5, 20.0), ("m", 0.1, 4.0))[int(rng.integers(4))]
    start = round(float(rng.integers(0, 12)) * room / 4, 2)
    at = start + step * float(rng.integers(int(room / step * 0.15), int(room / step * 0.85)))
    return Item(
        kind="tape", seed=seed, asks=f"Read the mark on the tape, to its step, in {unit}.", unit=unit, span=(start, start + room), step=step, value=round(at, 4)
    )


def _mark_tape(one: Item, answer: str) -> Marked:
    assert one.value is not None
    assert one.step is not None
    assert one.span is not None
    got = read(answer, "length", one.unit)
    if got.kind != "exact":
        return Marked(right=False, says="The mark shows one place: write one number, not a bound or a guess.")
    given, step = got.to(one.unit), one.step
    shown = level_label(float(f"{one.value:g}"), one.unit)
    working = (f"The mark is at {shown}; one step of this tape is {level_label(step, one.unit)}.",)
    if abs(given - one.value) <= step / 2 * (1 - 1e-9):
        if convert(got.resolution, got.unit, one.unit) < step / 10 * (1 + 1e-9):
            return Marked(right=False, says="That is finer than this tape shows: write what its step allows.", working=working)
        return Marked(right=True, says="Right.", working=working)
    if abs(given - one.value) <= 2 * step * (1 + 1e-9):
        return Marked(right=False, says="Close: count the small steps from the last number again.", working=working)
    if abs(given + one.span[0] - one.value) <= step:
        return Marked(right=False, says="That is how far the mark lies from the torn end; read it from the numbers on the tape.", working=working)
    for times in (10, 100, 1000):
        if any(abs(given * f - one.value) <= step for f in (times, 1 / times)):
            return Marked(right=False, says="A decimal mark or a unit slipped.", working=working)
    return Marked(right=False, says="Find the last number before the mark, then count the small steps.", working=working)


# --- timing a fall --------------------------------------------------------------------------------------------------


def _fall(seed: int) -> Item:
    height = float(_rng("fall", seed).uniform(1.2, 11.0))
    return Item(
        kind="fall", seed=seed, asks="Press when the weight is let go and again when it lands. How near does your thumb come?", unit="s",
        value=round(math.sqrt(2 * height / STANDARD_GRAVITY), 3),
    )  # fmt: skip


def _mark_fall(one: Item, answer: str) -> Marked:
    assert one.value is not None  # every fall takes its time
    got = read(answer, "time", "s")
    if got.kind != "exact":
        return Marked(right=False, says="Write the time that your watch shows: one number, not a bound or a guess.")
    given = got.to("s")
    off, known = given - one.value, one.value
    share = abs(off) / known
    way = "too long" if off > 0 else "too short"
    working = (f"known time {known:.2f} s; yours {given:.2f} s; difference {abs(off):.2f} s, which is {100 * share:.0f} % of the fall",)
    if abs(off) <= GOOD_THUMB_S:
        return Marked(right=True, says=f"{abs(off):.2f} s {way if round(abs(off), 2) else 'off'}: as near as a thumb can be expected to come.", working=working)
    return Marked(right=False, says=f"{abs(off):.2f} s {way}. Watch where it lands, not the weight, and practise; several timers and their middle help.", working=working)


# --- different, or luck? --------------------------------------------------------------------------------------------


def _luck(seed: int) -> Item:
    rng = _rng("luck", seed)
    for _ in range(TRIES):
        apart = float(rng.choice((0.0, 0.0, 0.4, 1.2)))
        spread = float(rng.choice((0.15, 0.35, 0.6)))
        rows = [
            Row(order=i + 1, level="AB"[i % 2], reading=f"{v:.1f}", value=v, person="", held="")
            for i, v in enumerate(round(4 + apart * (i % 2) + float(rng.normal()) * spread, 1) for i in range(10))
        ]
        if _judged(rows).verdict.answer != "leaning":  # what leans is no problem for a beginner
            break
    return Item(
        kind="luck", seed=seed, asks="Two designs, five trials each. Are they really different, or could it be luck?", unit="m", rows=tuple(rows),
        choices=(Choice(id="different", says="Really different"), Choice(id="luck", says="It could be luck")),
    )  # fmt: skip


def _mark_luck(one: Item, answer: str) -> Marked:
    found = _judged(list(one.rows))
    truth = "different" if found.verdict.answer == "clear" else "luck"
    means = {s.level: s.quoted for s in found.levels}
    says = (
        "Really different: luck alone would hardly part them so."
        if truth == "different"
        else "It could be luck: the two spreads lie over one another too much for so few trials."
    )
    working = [f"A: mean {means.get('A')} m; B: mean {means.get('B')} m"]
    if found.verdict.detail:
        working.append(found.verdict.detail)
    return Marked(right=answer == truth, says=says, working=tuple(working))


# --- average without the void ---------------------------------------------------------------------------------------


def _average(seed: int) -> Item:
    rng = _rng("average", seed)
    count = int(rng.integers(3, 6))
    values = [round(float(rng.uniform(2.5, 6.5)) / 5 + 3, 1) for _ in range(count)]
    void_at, void = int(rng.integers(count + 1)), round(float(rng.uniform(0.4, 1.6)), 1)
    values.insert(void_at, void)
    rows = tuple(Row(order=i + 1, level="", reading=f"{v:.1f}", value=v, person="", held="", void=i == void_at) for i, v in enumerate(values))
    return Item(kind="average", seed=seed, asks="One trial was void: it hit the wall. What is the average of the trials that count?", unit="m", rows=rows)


def _mark_average(one: Item, answer: str) -> Marked:
    kept, void = ([r.value for r in one.rows if r.void is state] for state in (False, True))
    found = check_sum(answer, kept, void, step=0.1, unit=one.unit)
    return Marked(right=found.right, says=found.says, working=found.working)


_MAKE: dict[Kind, Callable[[int], Item]] = {"unfair": _unfair, "tape": _tape, "fall": _fall, "luck": _luck, "average": _average}
_MARK: dict[Kind, Callable[[Item, str], Marked]] = {
    "unfair": _mark_unfair,
    "tape": _mark_tape,
    "fall": _mark_fall,
    "luck": _mark_luck,
    "average": _mark_average,
}
