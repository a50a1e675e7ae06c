"""Several studies of the same test judged together, with whoever ran them as block; and how alike their effects are."""

from __future__ import annotations

import math
import statistics
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from scipy import stats

from ..analyse import analyse
from ..context import Context
from ..errors import CoreError, TableRefused
from ..judgement.deciding import BOUND, Stage
from ..readings import convert
from ..results import Analysis, Finding, LevelSummary, NoEffect
from ..statistics.describe import describe, in_columns
from ..statistics.landing import two_variables
from ..trials import Trial
from ..words import said
from ..written import level_label, listed, plural, with_unit

#: A spread is called wide when it is this many times the middle one of the class, and luck would do so in fewer than WIDE_P.
WIDE, WIDE_P = 1.5, 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """One study of several: its trials as the core sees them, and what was asked of them. name: how it is told from the others."""

    name: str
    trials: Sequence[Trial]
    asked: Context


@dataclass(frozen=True, slots=True, kw_only=True)
class Runner:
    """Who ran trials: a group of a study, or the study itself where it names none. trials: kept; spread: of the readings about the means of
    their levels (standard deviation, unit of the reading), None below two at a level; wide: beside the others of the class."""

    name: str
    kept: int
    void: int
    spread: float | None
    freedoms: int
    wide: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Judged:
    """within: each runner was compared with itself; blocks: how many kept trials; alike: whether the effect depends on who ran it."""

    trials: list[Trial]
    asked: Context
    analysis: Analysis
    within: bool
    blocks: int
    alike: str | None


def test_of(asked: Context, family: str) -> tuple[str, ...]:
    """By what studies are of the same test: the family, what is changed and what is measured."""
    return (family, said(asked.factor), said(asked.response), "survival" if asked.survival else "number")


def pooled(parts: Sequence[Part]) -> tuple[list[Trial], Context]:
    """The trials of all parts in the units of the first, each with who ran it as its block, and the question judged within these blocks.
    Raises TableRefused where a unit cannot be turned into the other or levels are numbers here and names there."""
    if len(parts) < 1:
        raise TableRefused("Choose at least one study.", code="pool_empty", where="studies")
    first = parts[0].asked
    made = [_in_units(t, part, first, alone=len(parts) == 1) for part in parts for t in part.trials]
    kinds = {isinstance(t.level, str) for t in made if t.level is not None}
    if len(kinds) > 1:
        raise TableRefused("In one study the levels are numbers and in another names, so they cannot be judged together.", code="pool_levels", where="studies")
    whole = len({t.block for t in made if t.counts}) > 1
    question = replace(
        first,
        treat_as="group" if whole else first.treat_as,
        pair_by="block" if whole and not first.survival else None,
        pair_noun="group",
        adjust_for=None,
        # what one plan holds, expects or was made from means nothing in another
        hold={},
        held_at={},
        prediction=None,
        expect=None,
        judging_changed=None,
        contest=False,
        agreed=(),
        outside={},
        rounds=False,
        decision="",
        stage=_stage([p.asked.stage for p in parts]),
    )
    return made, question


def _stage(stages: Sequence[Stage]) -> Stage:
    """Of several studies: while planned trials of any are still to come it is so far; else the strictest of them."""
    return min(stages, key=lambda s: BOUND[s])


def _doubts(parts: Sequence[Part]) -> tuple[Finding, ...]:
    """What the audit of each study found that several of them do not mend: with the names of the studies. A doubt caps the answer where
    every study has it; mixed payloads wherever they are."""
    if len(parts) < 2:
        return ()
    found: dict[str, list[tuple[str, Finding]]] = {}
    for part in parts:
        try:
            own = analyse(part.trials, part.asked)
        except CoreError:  # a study that cannot be judged alone still gives its trials
            continue
        for f in own.audit:
            if f.code in _OF_EACH:
                found.setdefault(f.code, []).append((part.name, f))
    made = []
    for seen in found.values():
        names, first = [name for name, _ in seen], seen[0][1]
        caps = first.caps if len(seen) == len(parts) or first.caps == "cannot_tell" else "none"
        made.append(first.model_copy(update={"says": f"In {listed(names[:3])}{f' and {len(names) - 3} more' if len(names) > 3 else ''}: {first.says}", "caps": caps, "act": None}))
    return tuple(made)


#: Doubts about how one study was run; those about too few or too scattered trials are judged of all together.
_OF_EACH = frozenset({
    "order_mixed_with_level", "person_mixed_with_level", "device_mixed_with_level", "payload_mixed", "payload_reused", "control_not_held", "more_than_one_change", "judging_changed", "instrument_not_reset", "voids_pile_up",
    "drift_with_order", "estimated_mixed_with_measured",
})  # fmt: skip


def judged(parts: Sequence[Part]) -> Judged:
    """The verdict over all parts, each runner compared with itself where runners tried more than one level, else all trials together.
    Raises TableRefused as `pooled`."""
    trials, asked = pooled(parts)
    within, doubts = asked.pair_by is not None, _doubts(parts)
    if not within:
        trials = [replace(t, group=t.block) for t in trials]  # so that one group to a level is seen
    try:
        found = analyse(trials, asked, also=doubts)
        if within and isinstance(found.effect, NoEffect):
            raise TableRefused("No one tried two levels.", code="blocks_confounded", where="studies")
    except TableRefused as why:
        if not within or why.code not in ("blocks_confounded", "bound_in_model"):
            raise
        within, asked = False, replace(asked, pair_by=None, treat_as=parts[0].asked.treat_as)
        trials = [replace(t, group=t.block) for t in trials]  # so that one group to a level is seen
        found = analyse(trials, asked, also=doubts)
    blocks = len({t.block for t in trials if t.counts})
    return Judged(trials=trials, asked=asked, analysis=found, within=within, blocks=blocks, alike=alike(trials, asked.factor) if blocks > 1 else None)


def _in_units(t: Trial, part: Part, first: Context, *, alone: bool) -> Trial:
    who = (t.group if alone else f"{part.name}: {t.group}") if t.group else part.name
    try:
        value = None if t.value is None else _turned(t.value, part.asked.unit, first.unit)
        level = _turned(float(t.level), part.asked.factor_unit, first.factor_unit) if isinstance(t.level, float | int) else t.level
    except CoreError as why:
        raise TableRefused(f"“{part.name}” is in other units than the first study, which cannot be turned into them.", code="pool_units", where="studies") from why
    # the order of one lesson says nothing about another's, and columns of one plan mean nothing in another
    return replace(t, value=value, level=level, block=who, group=None, order=None, others={}, timers=(), timers_apart=())


def _turned(value: float, unit: str | None, to: str | None) -> float:
    return value if (unit or "") == (to or "") else float(f"{convert(value, unit or '', to or ''):.10g}")


def runners(trials: Sequence[Trial]) -> tuple[Runner, ...]:
    """Who ran how many, and whose readings scatter widely beside the others. trials: as `pooled` gives them."""
    by_block: dict[str, list[Trial]] = {}
    for t in trials:
        by_block.setdefault(str(t.block), []).append(t)
    seen = {name: (rows, *_spread(rows)) for name, rows in by_block.items()}
    spreads = [spread for _, spread, _ in seen.values() if spread]
    middle = statistics.median(spreads) if len(spreads) > 1 else None
    made = []
    for name, (rows, spread, free) in seen.items():
        made.append(
            Runner(
                name=name,
                kept=sum(t.counts for t in rows),
                void=sum(t.state == "void" for t in rows),
                spread=spread,
                freedoms=free,
                wide=_wide(spread, free, middle),
            )
        )
    return tuple(made)


def _wide(spread: float | None, free: int, middle: float | None) -> bool:
    """Against the middle spread of the class, which is known from many readings; chi squared of so few freedoms."""
    if spread is None or not middle or free < 1 or spread < WIDE * middle:
        return False
    return float(stats.chi2.sf(free * (spread / middle) ** 2, free)) < WIDE_P


def _spread(rows: Sequence[Trial]) -> tuple[float | None, int]:
    levels: dict[object, list[float]] = {}
    for t in rows:
        if t.counts and t.value is not None and t.kind not in ("at_least", "at_most"):
            levels.setdefault(t.level, []).append(t.value)
    free = sum(len(v) - 1 for v in levels.values())
    if free < 1:
        return None, 0
    squares = math.fsum((x - math.fsum(v) / len(v)) ** 2 for v in levels.values() for x in v)
    return math.sqrt(squares / free), free


def alike(trials: Sequence[Trial], factor: str) -> str | None:
    """Whether what the variable does depends on who ran it, in a sentence; None where that cannot be weighed."""
    rows = [t for t in trials if t.counts and t.value is not None and t.kind == "exact" and t.level is not None]
    try:
        found = two_variables([t.value or 0.0 for t in rows], [t.level or "" for t in rows], [str(t.block) for t in rows], (factor, "who ran it"))
    except (TableRefused, ValueError):
        return None
    return found.says


@dataclass(frozen=True, slots=True, kw_only=True)
class Record:
    """The best mean of a level that was ever reached in a test, in the unit of the first. at: that level of that runner described."""

    name: str
    level: float | str
    at: LevelSummary


def record_of(trials: Sequence[Trial], *, best_is: Literal["high", "low"], unit: str | None = None, whole: bool = False) -> Record | None:
    """The best mean of one level by one runner, of those with the most repeats that any has, or at least three. None without readings."""
    cells: dict[tuple[str, float | str], list[Trial]] = {}
    for t in trials:
        if t.counts and t.value is not None and t.kind == "exact" and t.level is not None:
            cells.setdefault((str(t.block), t.level), []).append(t)
    if not cells:
        return None
    enough = min(3, max(map(len, cells.values())))
    found = {k: describe(k[1], rows, unit=unit) for k, rows in cells.items() if len(rows) >= enough}
    sign = 1.0 if best_is == "high" else -1.0
    name, level = max(found, key=lambda k: sign * (found[k].mean or 0.0))
    (at,) = in_columns([found[name, level]], unit=unit, whole=whole)
    return Record(name=name, level=level, at=at)


def record_said(record: Record, asked: Context) -> str:
    """A record as it is read aloud."""
    within = record.at.shown.ci95 if record.at.shown is not None else None
    doubt = f", 95 % interval {with_unit(within, asked.unit)}" if within else ""
    return f"{record.at.quoted} at {level_label(record.level, asked.factor_unit)}, {plural(record.at.n_kept, 'trial')}{doubt}"
