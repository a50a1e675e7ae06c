"""What the audit may look at, and how levels are read aloud."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from ..results import LevelName, LevelSummary, Trend
from ..trials import Trial
from ..written import level_label, listed

if TYPE_CHECKING:
    from ..context import Context

#: Fewer kept trials than this at a level is few (common practice: at least three).
FEW = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Evidence:
    """What the checks may look at. single_by_design: a trend over many levels, each tried once: repeats are across, not within. trend: of a
    number variable."""

    trials: Sequence[Trial]
    levels: Sequence[LevelSummary]
    asked: Context
    single_by_design: bool = False
    trend: Trend | None = None

    @property
    def used(self) -> frozenset[str]:
        """Columns that the comparison already uses."""
        a = self.asked
        return frozenset(c.casefold() for c in (a.pair_by, a.adjust_for, a.factor, *(a.two or ())) if c)

    def label(self, level: LevelName) -> str:
        """A count is said with what is counted ("2 bands"), or it would read like a number of trials."""
        if self.asked.factor_unit == "count" and not isinstance(level, str):
            return f"{self.asked.factor} {level_label(level, None)}"
        return level_label(level, self.asked.factor_unit)

    def kept(self) -> list[Trial]:
        """Trials that count."""
        return [t for t in self.trials if t.counts]


def few_names(names: Sequence[str], noun: str = "level", most: int = 4) -> str:
    """The first few of many names. noun: what they are, for counting the rest ("and 2 more levels")."""
    rest = len(names) - most
    return listed(names) if rest <= 0 else f"{', '.join(names[:most])} and {rest} more {noun}{'' if rest == 1 else 's'}"


class NotLooked:
    """A check that had nothing to look at, so that it is not called clean."""


NOT_LOOKED = NotLooked()
