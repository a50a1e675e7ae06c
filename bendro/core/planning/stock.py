"""What of a plan is done and what is left: the one rule that the lane, Home and the analysis share.

A turn is filled by one kept trial: the one that holds it, or else the first of them. A further kept trial of the same turn is *extra*: it
stays and is read like any other, but it fills nothing. A trial at a level or block that the plan does not have, or one that came when it could not fit, is *outside the
plan*: shown, counted for nothing, placed or voided by the teacher.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal
from uuid import UUID

from .order import Turn

Place = Literal["turn", "extra", "outside", "practice"]
#: Why a trial cannot be in the plan, whatever its turn: stored with it, or found when it is read.
OUTSIDE_WHY = {
    "finished": "It came after the study was marked as finished.",
    "level": "The plan has no such level.",
    "block": "The plan has fewer repeats.",
    "measure": "It was read in another quantity than the plan measures now.",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Ran:
    """One trial as it concerns the plan. state: kept, void or withdrawn. outside: why it was outside when it came, or "". fills: it
    ends its turn (a drop that leads to the next rung does not). practice: recorded, never counted. holds: it has been given its turn, which it
    keeps as long as it can fill it, whichever trial comes later."""

    id: UUID
    block: int
    level: str
    state: str
    outside: str = ""
    fills: bool = True
    practice: bool = False
    holds: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Counts:
    """How much of a plan is done: turns that are planned, those that a kept trial fills, and trials that are void, extra, or outside it."""

    planned: int
    filled: int
    void: int = 0
    extra: int = 0
    outside: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Stock:
    """left: turns still to run, in the order in which they are called. filled: turns that a kept trial fills. void: void trials in
    the plan. place: where each trial stands; why: for those outside. filled_by: the trial that fills each turn, by block and level."""

    left: tuple[Turn, ...]
    filled: int
    void: int
    extra: int
    outside: int
    tried: frozenset[str]  # levels with a kept trial
    place: Mapping[UUID, Place]
    why: Mapping[UUID, str]
    filled_by: Mapping[tuple[int, str], UUID]

    @property
    def counts(self) -> Counts:
        return Counts(planned=self.filled + len(self.left), filled=self.filled, void=self.void, extra=self.extra, outside=self.outside)


def take_stock(turns: Sequence[Turn], trials: Sequence[Ran]) -> Stock:
    """The stock of a plan. turns: in planned order; trials: in the order of release, withdrawn ones may be among them. While
    the plan has no turns (it is not ready) nothing is outside it."""
    cells = {(t.block, t.level) for t in turns}
    levels = {t.level for t in turns}
    place: dict[UUID, Place] = {}
    why: dict[UUID, str] = {}
    filled: dict[tuple[int, str], UUID] = {
        (t.block, t.level): t.id
        for t in trials
        if t.holds and t.fills and t.state == "kept" and not t.practice and not t.outside and (t.block, t.level) in cells
    }
    ended: set[tuple[int, str]] = set()
    tried: set[str] = set()
    voids: dict[tuple[int, str], int] = {}
    for t in trials:
        if t.state == "withdrawn":
            continue
        if t.practice:
            place[t.id] = "practice"
            continue
        cell = (t.block, t.level)
        reason = t.outside or ("" if not turns or cell in cells else "block" if t.level in levels else "level")
        if reason:
            place[t.id], why[t.id] = "outside", reason
        elif t.state == "kept":
            tried.add(t.level)
            if t.fills:
                place[t.id] = "turn" if filled.setdefault(cell, t.id) == t.id else "extra"
                ended.add(cell)
            else:  # drops that lead up to the one that ends the turn are of the turn as well
                place[t.id] = "extra" if cell in ended else "turn"
        else:
            place[t.id] = "turn"
            voids[cell] = voids.get(cell, 0) + 1
    counts = list(place.values())
    return Stock(
        left=_calling_order(turns, filled, voids),
        filled=len(filled),
        void=sum(voids.values()),
        extra=counts.count("extra"),
        outside=counts.count("outside"),
        tried=frozenset(tried),
        place=place,
        why=why,
        filled_by=filled,
    )


def _calling_order(turns: Sequence[Turn], filled: Mapping[tuple[int, str], UUID], voids: Mapping[tuple[int, str], int]) -> tuple[Turn, ...]:
    """A turn that was void comes again when the rest of its sitting is done, or of its block; in an order without either, after all the
    others."""
    by_block = all(a.block <= b.block for a, b in zip(turns, turns[1:], strict=False))
    left = [t for t in turns if (t.block, t.level) not in filled]
    return tuple(sorted(left, key=lambda t: (t.sitting or (t.block if by_block else 0), voids.get((t.block, t.level), 0))))
