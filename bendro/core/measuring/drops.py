"""Drops of one specimen at rising rungs, and what is then known of it: a bracket on a ladder, a count where every rung is run. A
specimen's drops are not independent; the specimen is what is compared."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..readings import Kind

Known = Literal["between", "at_least", "below", "mixed", "nothing"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Drop:
    """height: of the rung, in the plan's unit. survived: by the agreed line."""

    height: float
    survived: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Bracket:
    """What the drops of a specimen tell. passed: highest rung survived, None when none; failed: lowest rung failed. mixed: it passed
    higher than it had failed."""

    known: Known
    passed: float | None
    failed: float | None
    over: bool  # it failed, or stood on the top rung: no drop is left

    @property
    def reading(self) -> tuple[float, Kind] | None:
        """The highest rung survived as a reading: *at least* the top rung, *at most* 0 … where the first was failed it is 0."""
        if self.known == "nothing":
            return None
        if self.passed is None:
            return 0.0, "exact"
        return self.passed, "at_least" if self.known == "at_least" else "exact"


def over(drops: Sequence[Drop], rungs: Sequence[float], *, every: bool = False) -> bool:
    """Whether no drop is left for a specimen: on a ladder once it failed or stood on the top rung. every: it is dropped from every rung,
    whatever became of it on the others, and is over when it was."""
    return {d.height for d in drops} >= set(rungs) if every else bracket(drops, rungs).over


def bracket(drops: Sequence[Drop], rungs: Sequence[float]) -> Bracket:
    """The bracket from the drops of one specimen, in the order in which they were made. rungs: of the plan, from low to high."""
    passed = [d.height for d in drops if d.survived]
    failed = [d.height for d in drops if not d.survived]
    high, low = (max(passed) if passed else None), (min(failed) if failed else None)
    top = max(rungs) if rungs else None
    on_top = high is not None and top is not None and high >= top
    known: Known
    if not drops:
        known = "nothing"
    elif high is not None and low is not None and high > low:
        known = "mixed"
    elif low is None:
        known = "at_least"
    else:
        known = "below" if high is None else "between"
    return Bracket(known=known, passed=high, failed=low, over=bool(failed) or on_top)


def next_rung(drops: Sequence[Drop], rungs: Sequence[float], *, every: bool = False) -> float | None:
    """The rung that a specimen is dropped from next: the lowest not yet tried, on a ladder above what it survived; None when it is over."""
    if over(drops, rungs, every=every):
        return None
    tried = {d.height for d in drops}
    above = max((d.height for d in drops if d.survived and not every), default=float("-inf"))
    return next((r for r in sorted(rungs) if r not in tried and r > above), None)
