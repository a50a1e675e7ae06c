"""`bin/calibrate`: how often the verdict errs, by simulating studies without an effect and with known ones, each judged by the whole
of `analyse`. Seeded; both cores. `--short` for a look within a minute; `--write` puts the tables into docs/calibration.md; further words
choose tables by their titles."""

from __future__ import annotations

import re
import sys
import time
from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
from scipy import stats

from bendro.core.analyse import analyse
from bendro.core.context import Context
from bendro.core.results import Analysis
from bendro.core.statistics.shuffle import shuffle_shapes
from bendro.core.trials import Trial

PAGE = Path(__file__).resolve().parent.parent / "docs" / "calibration.md"
Rng = np.random.Generator
LEVELS, REPEATS = (2, 3, 4, 6, 8), (3, 4, 5, 8)
WITHIN = ("pairs", "blocks", "gaps")  # kinds that are compared within blocks
STEP = 0.25  # of the tool, in standard deviations, where readings are rounded to it


@dataclass(frozen=True)
class Cell:
    """One kind of study. scatter: normal, heavy (t with 3 freedoms), rounded, unequal (one level three times as wide), first (the first level
    three times as wide). wanted: of this cell, where it is not that of its table."""

    kind: str  # number, name, pairs, blocks, gaps (blocks that lack a level), hits, points, survival, groups (that repeated levels), places, bounds, two (variables)
    levels: int
    repeats: int
    scatter: str = "normal"
    school: str = "shuffle"
    effect: float = 0.0  # between the first and the last level, in standard deviations
    shape: str = "line"
    sizes: tuple[int, ...] = ()  # readings of each level, where they are unlike
    groups: int = 0  # of a class, each with its own answer to a level
    wanted: float | None = None
    columns: int = 0  # further columns that mean nothing
    seen: bool = False  # of advice: further trials are as the first ones were seen


#: What the levels do, from 0 at the first to 1 where the effect is whole; levels lie between 0 and 1.
SHAPES: dict[str, Callable[[np.ndarray], np.ndarray]] = {
    "line": lambda at: at,
    "flattens": lambda at: (1 - np.exp(-3 * at)) / (1 - np.exp(-3)),
    "step": lambda at: (at > 0.5).astype(float),
    "peak": lambda at: 1 - (2 * at - 1) ** 2,
}


def noise(cell: Cell, rng: Rng) -> np.ndarray:
    shape = (cell.levels, cell.repeats)
    found = rng.standard_t(3, shape) if cell.scatter == "heavy" else rng.normal(size=shape)
    if cell.scatter == "unequal":
        found[rng.integers(cell.levels)] *= 3
    if cell.scatter == "first":
        found[0] *= 3
    for level, n in enumerate(cell.sizes):
        found[level, n:] = np.nan
    return found


def readings(cell: Cell, rng: Rng) -> np.ndarray:
    """levels × repeats; not a number where a block lacks a level."""
    if cell.kind in ("hits", "points"):
        size = (cell.levels, cell.repeats)
        return (rng.poisson(3.0, size) if cell.kind == "hits" else rng.choice((0, 1, 3, 5), size, p=(0.3, 0.3, 0.25, 0.15))).astype(float)
    at = np.linspace(0, 1, cell.levels)
    found = noise(cell, rng) + cell.effect * SHAPES[cell.shape](at)[:, None]
    if cell.kind in WITHIN:
        found += rng.normal(size=cell.repeats) * 1.5
    if cell.kind == "gaps":
        for block in range(0, cell.repeats, 2):
            found[rng.integers(cell.levels), block] = np.nan
    return np.round(found / STEP) * STEP if cell.scatter == "rounded" else found


def study(cell: Cell, table: np.ndarray, rng: Rng, upto: int | None = None) -> list[Trial]:
    """Trials of a table, shuffled within blocks as a plan does it. Readings far from zero, so that power laws can be fitted."""
    made, order, from_zero = [], 0, 0 if cell.kind in ("hits", "points") else 40
    for block in range(table.shape[1] if upto is None else upto):
        for at in rng.permutation(cell.levels):
            if np.isnan(table[at, block]):
                continue
            order += 1
            level: float | str = float(10 * (at + 1)) if cell.kind == "number" else "abcdefgh"[at]
            made.append(
                Trial(
                    level=level,
                    value=float(table[at, block]) + from_zero,
                    order=order,
                    row=order,
                    block=str(block),
                    resolution=STEP if cell.scatter == "rounded" else None,
                )
            )
    return made


def asked(cell: Cell, **more: Any) -> Context:
    pair = "block" if cell.kind in WITHIN else None
    treat = "number" if cell.kind == "number" and cell.levels > 2 else None
    return Context(
        factor="f", response="outcome" if cell.kind == "survival" else "r", pair_by=pair, treat_as=treat, evidence=cell.school,
        counted=cell.kind in ("hits", "points"), **more
    )  # type: ignore[arg-type]  # fmt: skip


#: What a group or a person adds of its own, and by how much each answers otherwise to a level, in standard deviations of a reading.
OF_GROUP, OF_ANSWER = 1.5, 1.0
#: Where a tape ends, in standard deviations above the middle of all readings.
TAPE_ENDS = 0.8


def in_groups(cell: Cell, rng: Rng) -> tuple[list[Trial], Context]:
    """Every group repeats every level, and answers to it in its own way."""
    own, answer = rng.normal(size=cell.groups) * OF_GROUP, rng.normal(size=(cell.levels, cell.groups)) * OF_ANSWER
    made = [
        Trial(level="abcdefgh"[at], value=40 + float(cell.effect * at / (cell.levels - 1) + own[g] + answer[at, g] + rng.normal()), group=str(g), row=1)
        for at in range(cell.levels)
        for g in range(cell.groups)
        for _ in range(cell.repeats)
    ]
    return made, Context(factor="f", response="r", pair_by="group")


def in_heats(cell: Cell, rng: Rng) -> tuple[list[Trial], Context]:
    """Places of all levels in every heat, by luck."""
    made = [
        Trial(level="abcdefgh"[at], value=float(place), heat=str(heat), row=1)
        for heat in range(cell.repeats)
        for place, at in enumerate(rng.permutation(cell.levels), 1)
    ]
    return made, Context(factor="f", response="place", pair_by="heat", places=True, best_is="low")


def beyond_tape(cell: Cell, rng: Rng) -> tuple[list[Trial], Context]:
    """Readings of which those beyond the tape are *at least* its end."""
    rows = study(replace(cell, kind="name" if cell.kind == "bounds" else cell.kind), noise(cell, rng), rng)
    end = 40 + TAPE_ENDS
    return [replace(t, value=end, kind="at_least") if (t.value or 0) > end else t for t in rows], Context(factor="f", response="r", evidence=cell.school)  # type: ignore[arg-type]


def two_at_once(cell: Cell, rng: Rng) -> tuple[list[Trial], Context]:
    """Two variables, each of so many levels, every combination repeated."""
    made, settings = [], {}
    for a in range(cell.levels):
        for b in range(cell.levels):
            level = f"{'abcd'[a]} {'wxyz'[b]}"
            settings[level] = ("abcd"[a], "wxyz"[b])
            made += [
                Trial(level=level, value=40 + cell.effect * a / (cell.levels - 1) + float(rng.normal()), row=1, others={"one": "abcd"[a], "other": "wxyz"[b]})
                for _ in range(cell.repeats)
            ]
    return made, Context(factor="one and other", response="r", treat_as="group", two=("one", "other"), settings=settings)  # type: ignore[arg-type]


SPECIAL: dict[str, Callable[[Cell, Rng], tuple[list[Trial], Context]]] = {"groups": in_groups, "places": in_heats, "bounds": beyond_tape, "two": two_at_once}


def one(cell: Cell, rng: Rng) -> Analysis:
    if cell.kind in SPECIAL:
        return analyse(*SPECIAL[cell.kind](cell, rng))
    if cell.kind == "survival":
        rows = [
            Trial(level="abcdefgh"[at], outcome="survived" if rng.random() < 0.6 else "failed", order=None, row=1 + at)
            for at in range(cell.levels)
            for _ in range(cell.repeats)
        ]
        return analyse(rows, asked(cell))
    return analyse(study(cell, readings(cell, rng), rng), asked(cell))


def share_clear(job: tuple[Cell, int, int]) -> float:
    cell, studies, seed = job
    rng = np.random.default_rng(seed)
    return sum(one(cell, rng).verdict.answer == "clear" for _ in range(studies)) / studies


def plain_tests(job: tuple[Cell, int, int]) -> str:
    """Beside the verdict, on the same studies: how often the plain shuffle of the slope and the analysis of variance lie at or below 0.05."""
    cell, studies, seed = job
    rng, slope, f = np.random.default_rng(seed), 0, 0
    for _ in range(studies):
        table = readings(cell, rng)
        rows = study(cell, table, rng)
        f += float(stats.f_oneway(*table).pvalue) <= 0.05
        if cell.kind == "number":
            slope += shuffle_shapes([float(t.level or 0) for t in rows], [t.value or 0.0 for t in rows], 1)[0].p <= 0.05
    said = f"F {100 * f / studies:.0f} %"
    return f"slope {100 * slope / studies:.0f} %, {said}" if cell.kind == "number" else said


def in_the_middle(job: tuple[Cell, int, int]) -> float:
    """Share of studies in which a best or a worst in the middle is said, leaning or clear, as the sure one."""
    cell, studies, seed = job
    rng, hits = np.random.default_rng(seed), 0
    for _ in range(studies):
        verdict = one(cell, rng).verdict
        hits += verdict.answer == "clear" and "in the middle" in verdict.headline
    return hits / studies


def watched(job: tuple[Cell, int, int]) -> float:
    """A study without effect, looked at after every block until it is clear or complete; called so far before the end."""
    cell, studies, seed = job
    rng, hits = np.random.default_rng(seed), 0
    for _ in range(studies):
        rows = study(cell, readings(cell, rng), rng)
        for block in range(2, cell.repeats + 1):
            found = analyse(rows[: block * cell.levels], asked(cell, planned=True, stage="so_far" if block < cell.repeats else "whole"))
            if found.verdict.answer == "clear":
                hits += 1
                break
    return hits / studies


def advised(text: str) -> int:
    found = re.search(r"(?:About|at least) (\d+|two) more", text)
    return 0 if found is None else 2 if found[1] == "two" else int(found[1])


def extended(job: tuple[Cell, int, int]) -> float:
    """A study without effect, complete, then extended by what is advised, twice at most, while it is not clear."""
    cell, studies, seed = job
    rng, hits = np.random.default_rng(seed), 0
    for _ in range(studies):
        table = readings(Cell(cell.kind, cell.levels, 60, cell.scatter), rng)
        upto, found = cell.repeats, None
        for extension in range(3):
            found = analyse(study(cell, table, rng, upto), asked(cell, planned=True, stage="added" if extension else "whole"))
            more = advised(found.verdict.next)
            if found.verdict.answer == "clear" or not more or upto >= 60:
                break
            upto = min(60, upto + more)
        hits += found is not None and found.verdict.answer == "clear"
    return hits / studies


def settled(job: tuple[Cell, int, int]) -> float:
    """Of studies with an effect that were not clear at first: the share that is clear after as many more as the advice says. seen: the
    further trials are as the first ones were seen, so that the advice is held to its word; else they come from the true effect."""
    cell, studies, seed = job
    rng, told, hits = np.random.default_rng(seed), 0, 0
    for _ in range(50 * studies):
        if told == studies:
            break
        table = readings(cell, rng)
        first = analyse(study(cell, table, rng), asked(cell))
        more = advised(first.verdict.next)
        if first.verdict.answer == "clear" or not more:
            continue
        told += 1
        if cell.seen:
            means = table.mean(axis=1)
            within = table - table.mean(axis=0) if cell.kind in ("pairs", "blocks") else table
            spread = float(
                np.sqrt(within.var(axis=1, ddof=1).mean() * (cell.levels / (cell.levels - 1) if cell.kind in ("pairs", "blocks") else 1))
            )
            fresh = means[:, None] + spread * rng.normal(size=(cell.levels, more))
        else:
            fresh = readings(replace(cell, repeats=more), rng)
        whole = replace(cell, repeats=cell.repeats + more)
        hits += analyse(study(whole, np.hstack([table, fresh]), rng), asked(whole)).verdict.answer == "clear"
    return hits / max(told, 1)


#: Doubts that luck alone can raise.
STATISTICAL = {"odd_reading", "drift_with_order", "spread_unequal", "column_explains_scatter", "resolution_too_coarse"}


def doubted(job: tuple[Cell, int, int]) -> float:
    """Share of clean tables that get any statistical doubt. columns: further ones, of numbers and of names, that mean nothing."""
    cell, studies, seed = job
    rng, hits = np.random.default_rng(seed), 0
    for _ in range(studies):
        rows = study(cell, readings(cell, rng), rng)
        for n in range(cell.columns):
            told = rng.permutation(len(rows))
            rows = [replace(t, others={**t.others, f"column {n}": float(told[i]) if n % 2 else "abc"[int(told[i]) % 3]}) for i, t in enumerate(rows)]
        hits += any(f.code in STATISTICAL for f in analyse(rows, asked(cell)).audit)
    return hits / studies


#: Scatter of the tables that get a slip, as a share of their readings; and from where swapped digits are far enough off to be found, in
#: standard deviations.
SLIP_SCATTER, SLIP_FAR = 0.05, 6.0


def slipped(job: tuple[Cell, int, int]) -> float:
    """Share of tables in which one reading spoilt is found: ten times what it was, eight standard deviations off, inches written for
    centimetres, or two digits swapped."""
    cell, studies, seed = job
    rng, hits = np.random.default_rng(seed), 0
    for _ in range(studies):
        table = readings(cell, rng)
        if cell.scatter in ("inch", "swapped"):
            table = np.round(np.linspace(40, 60, cell.levels)[:, None] * (1 + SLIP_SCATTER * rng.normal(size=table.shape)), 1) - 40
        at = int(rng.integers(table.size))
        right = table.flat[at] + 40
        if cell.scatter == "swapped":
            text = f"{right:.1f}"
            while abs(float(text[1] + text[0] + text[2:]) - right) < SLIP_FAR * SLIP_SCATTER * right:  # swapped, it would hardly differ
                at = int(rng.integers(table.size))
                right = float(np.round(rng.uniform(38, 62), 1))
                text = f"{right:.1f}"
                table.flat[at] = right - 40
            table[at // cell.repeats] = np.round(right * (1 + SLIP_SCATTER * rng.normal(size=cell.repeats)), 1) - 40
            table.flat[at] = float(text[1] + text[0] + text[2:]) - 40
        elif cell.scatter == "inch":
            table.flat[at] = round(right / 2.54, 1) - 40
        else:
            table.flat[at] = right * 10 - 40 if cell.scatter == "slip" else table.flat[at] + 8 * (-1) ** at
        rows = study(Cell("name", cell.levels, cell.repeats), table, rng)
        odd = [f for f in analyse(rows, asked(Cell("name", cell.levels, cell.repeats))).audit if f.code == "odd_reading"]
        wrong = next(t for t in rows if t.value == float(table.flat[at]) + 40)
        hits += bool(odd) and odd[0].evidence["row"] == wrong.row
    return hits / studies


#: Curves with one best that are no parabolas, over levels 1 to 6, with their best setting.
CURVES: dict[str, tuple[Callable[[float], float], float]] = {
    "skewed": (lambda x: 6 * (x / 2.6) * np.exp(1 - x / 2.6), 2.6),
    "tent": (lambda x: 6 - 2 * abs(x - 3.4), 3.4),
    "plateau": (lambda x: 6 / (1 + ((x - 4.3) / 1.6) ** 4), 4.3),
}


def covered(job: tuple[Cell, int, int]) -> float:
    """Share of studies in which the best setting lies where it is said to lie."""
    cell, studies, seed = job
    curve, best = CURVES[cell.shape]
    rng, told, hits = np.random.default_rng(seed), 0, 0
    for _ in range(studies):
        table = np.array([[curve(x)] * cell.repeats for x in range(1, 7)]) + rng.normal(size=(6, cell.repeats)) * 0.8
        rows = [
            Trial(level=float(x + 1), value=float(v) + 40, row=1 + x * cell.repeats + i) for x in range(6) for i, v in enumerate(table[x])
        ]
        found = analyse(rows, Context(factor="f", response="r"))
        trend = found.effect.trend  # type: ignore[union-attr]
        if trend.preferred == "peak" and trend.best_between is not None:
            told += 1
            hits += trend.best_between[0] <= best <= trend.best_between[1]
    return hits / max(told, 1)


Measure = Callable[[tuple[Cell, int, int]], float]


@dataclass(frozen=True)
class Table:
    title: str
    measure: Measure
    cells: Sequence[Cell]
    bound: float
    above: bool = False  # the share must be at least the bound
    short: int = 60
    long: int = 400
    beside: Callable[[tuple[Cell, int, int]], str] | None = None


def false_alarms(school: str, repeats: Sequence[int]) -> list[Cell]:
    cells = [Cell("name", 2, n, s, school) for n in repeats for s in ("normal", "heavy", "rounded", "unequal")]
    cells += [
        Cell(kind, k, n, s, school)
        for kind in ("number", "name")
        for k in LEVELS[1:]
        for n in repeats
        for s in ("normal", "heavy", "rounded", "unequal")
    ]
    cells += [Cell("pairs", 2, n, s, school) for n in repeats for s in ("normal", "heavy")]
    return cells + [Cell("blocks", k, n, s, school) for k in (3, 4, 6) for n in repeats for s in ("normal", "unequal")]


POWER = [
    Cell("number", 3, 3, effect=2, wanted=0.47),
    Cell("number", 3, 3, effect=3, wanted=0.80),
    Cell("number", 4, 3, effect=2, wanted=0.52),
    Cell("number", 4, 3, effect=3, wanted=0.85),
    Cell("number", 4, 5, effect=1.5, wanted=0.60),
    Cell("name", 3, 3, effect=3, wanted=0.60),
    Cell("name", 4, 3, effect=2, wanted=0.33),
    Cell("number", 5, 3, effect=5, shape="flattens", wanted=0.90),
    Cell("number", 4, 3, effect=4, shape="flattens", wanted=0.90),
    Cell("number", 5, 5, effect=8, shape="flattens", wanted=0.90),
    Cell("number", 5, 3, effect=3, shape="peak", wanted=0.60),
]
ADVICE = [
    ("name", 2, 1.2, "line"), ("pairs", 2, 1.2, "line"), ("blocks", 3, 1.2, "line"), ("name", 4, 1.4, "line"), ("number", 4, 1.4, "line"),
    ("number", 4, 1.4, "flattens"), ("number", 5, 1.4, "peak"),
]  # fmt: skip
TABLES = [
    Table("False alarms, shuffle school: clear without an effect", share_clear, false_alarms("shuffle", REPEATS), 0.05, short=8),
    Table("False alarms, interval school: clear without an effect", share_clear, false_alarms("interval", (3, 5)), 0.05, short=4),
    Table("What is seen, effects from end to end in standard deviations", share_clear, POWER, 0.0, True, short=20, long=2_000, beside=plain_tests),
    Table(
        "A best in the middle that is none: a rise that flattens, a step",
        in_the_middle,
        [Cell("number", k, n, effect=d, shape=s) for s, k, n, d in (("flattens", 4, 3, 4), ("flattens", 5, 3, 5), ("flattens", 5, 5, 8), ("step", 4, 5, 8), ("step", 4, 3, 4))],
        0.05,
        short=10,
    ),
    Table(
        "False alarms, unlike numbers of trials",
        share_clear,
        [
            Cell(kind, len(sizes), max(sizes), s, sizes=sizes, wanted=0.08 if s == "first" else 0.06)
            for kind, sizes in (("name", (3, 8)), ("name", (3, 5)), ("name", (2, 5, 5, 5)), ("name", (3, 5, 5, 5)), ("name", (2, 5, 5)), ("number", (2, 5, 5, 5)), ("number", (3, 5, 5)))
            for s in ("normal", "first")
        ],
        0.06,
        short=20,
        long=1_000,
    ),
    Table("False alarms, groups that repeated levels and answer to them in their own way", share_clear, [Cell("groups", k, 3, groups=g) for k, g in ((2, 6), (3, 4), (3, 6), (4, 8))], 0.05, short=20),
    Table("False alarms, places within heats", share_clear, [Cell("places", k, n) for k, n in ((2, 8), (3, 6), (4, 5), (6, 5))], 0.05, short=20),
    Table("False alarms, readings beyond the tape", share_clear, [Cell("bounds", k, n, school=school) for school in ("shuffle", "interval") for k, n in ((2, 3), (2, 4), (2, 6), (3, 3), (3, 4), (4, 4))], 0.05, short=10, long=2_000),
    Table("False alarms, two variables", share_clear, [Cell("two", k, n) for k, n in ((2, 3), (2, 5), (3, 3))], 0.05, short=20),
    Table("False alarms, pairs by ranges", share_clear, [Cell("pairs", 2, n, school="ranges") for n in (3, 5, 6, 8)], 0.05, short=20),
    Table(
        "False alarms, counts and points, and blocks that lack a level",
        share_clear,
        [Cell(kind, k, n, "normal", school) for school in ("shuffle", "interval") for kind in ("hits", "points") for k in (2, 4, 6) for n in (3, 5)]
        + [Cell("gaps", k, n, s, school) for school in ("shuffle", "interval") for k in (3, 4, 6) for n in (4, 6) for s in ("normal", "unequal")],
        0.05,
        short=8,
    ),
    Table(
        "False alarms, survival",
        share_clear,
        [Cell("survival", k, n) for k in (2, 3, 4, 6, 8) for n in (5, 10)],
        0.05,
        short=20,
        long=1_000,
    ),
    Table(
        "Watched after every block until clear or complete, without an effect",
        watched,
        [Cell(kind, k, 5) for kind in ("name", "number") for k in (2, 3, 4)],
        0.05,
        short=25,
    ),
    Table(
        "Extended by the advice, twice at most, without an effect",
        extended,
        [Cell(kind, k, n) for kind, k in (("name", 2), ("name", 4), ("number", 4)) for n in (3, 5)],
        0.065,
        short=25,
    ),
    Table(
        "Clear after as many more as the advice says, further trials as the first were seen",
        settled,
        [Cell(kind, k, n, effect=d, shape=s, seen=True) for kind, k, d, s in ADVICE for n in (3, 5)],
        0.75,
        True,
        short=8,
    ),
    Table(
        "Clear after as many more as the advice says, further trials from the true effect",
        settled,
        [Cell(kind, k, n, effect=d, shape=s) for kind, k, d, s in ADVICE for n in (3, 5)],
        0.75,
        True,
        short=8,
    ),
    Table(
        "Clean tables that get a statistical doubt",
        doubted,
        [
            Cell(kind, k, n, s)
            for kind, k in (("name", 2), ("name", 4), ("number", 4), ("number", 6), ("number", 8), ("blocks", 4))
            for n in (3, 5)
            for s in ("normal", "rounded")
        ]
        + [Cell("name", k, 5, columns=3) for k in (2, 4, 6)],
        0.08,
        short=20,
    ),
    Table(
        "A reading ten times too large, an inch for a centimetre or two digits swapped is found, at a scatter of 5 %",
        slipped,
        [Cell("name", k, n, s) for s in ("slip", "inch", "swapped") for k in (2, 4) for n in (3, 5)],
        0.95,
        True,
        short=20,
    ),
    Table("A reading 8 SD off is found, four levels", slipped, [Cell("name", 4, n, "far") for n in (3, 5)], 0.80, True, short=60),
    Table(
        "The best setting lies between the levels named, other curves than a parabola",
        covered,
        [Cell("number", 6, n, shape=s) for s in CURVES for n in (3, 5)],
        0.95,
        True,
        short=60,
    ),
]


def wanted_of(table: Table, cell: Cell) -> float:
    """The bound of a cell: its own or its table's; 8 % where one level scatters three times as much, 6 % where tails are heavy."""
    if cell.wanted is not None:
        return cell.wanted
    return {"unequal": 0.08, "heavy": 0.06}.get(cell.scatter, table.bound) if table.bound == 0.05 else table.bound


def allowed(table: Table, cell: Cell, studies: int) -> float:
    """The bound with three of the simulation's own errors."""
    bound = wanted_of(table, cell)
    error = (bound * (1 - bound) / studies) ** 0.5 * (3.2 if studies < 400 else 2.6)
    return bound - error if table.above else bound + error


def mark(table: Table, cell: Cell, share: float, studies: int) -> str:
    """What is said of a cell: nothing where it keeps its bound; that the simulation's own error could be it; or that it is beyond."""
    bound, limit = wanted_of(table, cell), allowed(table, cell, studies)
    if share >= bound if table.above else share <= bound:
        return ""
    return " ~" if (share >= limit if table.above else share <= limit) else " beyond"


def rows_of(table: Table, studies: int, pool: ProcessPoolExecutor) -> Iterable[tuple[Cell, float, str]]:
    jobs = [(cell, studies, 1_000 + n) for n, cell in enumerate(table.cells)]
    beside = pool.map(table.beside, jobs, chunksize=1) if table.beside is not None else iter([""] * len(jobs))
    yield from zip(table.cells, pool.map(table.measure, jobs, chunksize=1), beside, strict=True)


def told_of(cell: Cell) -> str:
    """A cell in a word or two beside its kind, levels and repeats."""
    parts = [cell.shape if cell.shape != "line" or cell.effect else "", f"{cell.effect:g} SD" if cell.effect else "", "" if cell.scatter == "normal" else cell.scatter]
    parts += [cell.school if cell.school != "shuffle" else "", " ".join(map(str, cell.sizes)), f"{cell.groups} groups" if cell.groups else "", f"{cell.columns} columns" if cell.columns else ""]
    return ", ".join(p for p in parts if p) or "–"


def run(short: bool, titles: Sequence[str] = ()) -> tuple[str, list[str]]:
    """The tables as text, and what lies beyond its bound."""
    text, beyond = [], []
    with ProcessPoolExecutor(2) as pool:
        for table in TABLES:
            if titles and not any(t in table.title for t in titles):
                continue
            studies, began = table.short if short else table.long, time.monotonic()
            found = list(rows_of(table, studies, pool))
            worst = min if table.above else max
            least = worst(share for _, share, _ in found)
            mean = sum(share for _, share, _ in found) / len(found)
            word = "at least" if table.above else "at most"
            own = any(cell.wanted is not None for cell in table.cells)
            bound = f"Wanted as each row says, {word}" if own else f"Wanted {word} {100 * table.bound:g} %"
            head = f"## {table.title}\n{bound}; {studies} studies a cell. {'Least' if table.above else 'Most'} {100 * least:.1f} %, on average {100 * mean:.1f} %. ({time.monotonic() - began:.0f} s)\n"
            print(head, flush=True)
            lines = [f"| kind | levels | repeats | what | % |{' wanted |' if own else ''}{' plain tests |' if table.beside else ''}", f"|---|---|---|---|---|{'---|' if own else ''}{'---|' if table.beside else ''}"]
            for cell, share, told in found:
                sign = mark(table, cell, share, studies)
                wanted = f" {100 * wanted_of(table, cell):g} |" if own else ""
                lines.append(f"| {cell.kind} | {cell.levels} | {cell.repeats} | {told_of(cell)} | {100 * share:.1f}{sign} |{wanted}{f' {told} |' if table.beside else ''}")
                if sign == " beyond":
                    beyond.append(f"{table.title}: {cell} {100 * share:.1f} %")
            text.append("\n".join([head, *lines, ""]))
    return "\n".join(text), beyond


def with_tables(page: str, text: str) -> str:
    """The page with some of its tables made anew."""
    parts = re.split(r"(?m)^(?=## )", page)
    fresh = {part.partition("\n")[0]: part for part in re.split(r"(?m)^(?=## )", text) if part.startswith("## ")}
    return "\n\n".join(fresh.get(part.partition("\n")[0], part).rstrip() for part in parts) + "\n"


def main() -> int:
    words = sys.argv[1:]
    short, write = "--short" in words, "--write" in words
    text, beyond = run(short, [w for w in words if not w.startswith("--")])
    if write and any(not w.startswith("--") for w in words):
        PAGE.write_text(with_tables(PAGE.read_text(), text))
    elif write:
        PAGE.write_text(
            "# How often the verdict errs\nMade by `bin/calibrate --write`. Every study is made by chance with a stored seed and judged by the whole of `analyse`. "
            "A share marked ~ misses its bound by no more than the simulation’s own error (2.6 standard errors) could make.\n\n"
            "Where one level scatters three times as much as the others, up to 8 % of studies without an effect are called clear: a test that "
            "always allows for it would see a third less of what is there at three repeats, so it comes in where the spreads show it, or where "
            "levels have unlike numbers of trials.\n\n"
            + text
        )
    for line in beyond:
        print(f"BEYOND {line}")
    return 1 if beyond else 0


if __name__ == "__main__":
    sys.exit(main())
