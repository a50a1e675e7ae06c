"""What the audit may look at, and how levels are read aloud."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from ..results import LevelName, LevelSummary
from ..trials import Trial

#: Fewer kept trials than this at a level is few (common practice: at least three).
FEW = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Evidence:
    """What the checks may look at."""

    trials: Sequence[Trial]
    levels: Sequence[LevelSummary]
    factor: str
    factor_unit: str | None
    response: str
    unit: str | None
    single_by_design: bool = False  # a trend over many levels, each tried once, or blocks: repeats are across, not within
    blocks_are_repeats: bool = False
    hold: Mapping[str, float | None] = field(default_factory=dict)  # columns meant to stay the same, with their tolerance
    used: frozenset[str] = frozenset()  # columns that the comparison already uses
    prediction: str | None = None  # None: not known (a file); "": none was written
    measuring_rule: str | None = None
    hand_timed: bool | None = None
    ask_about_odd: bool = True
    changed_since: Mapping[str, tuple[str, ...]] = field(default_factory=dict)  # version -> what changed in it, as written down
    judging_changed: tuple[str, ...] = ()  # ways of judging that were changed after the first kept trial
    judging_known: bool = False  # whether a record of the plan was looked at
    not_planned: bool = False  # compared over something that was recorded beside the variable
    own_device: bool = False  # a contest: each group releases its own device, so group and level go together by design

    def label(self, level: LevelName) -> str:
        """A count is said with what is counted ("2 bands"), or it would read like a number of trials."""
        if self.factor_unit == "count" and not isinstance(level, str):
            return f"{self.factor} {level_label(level, None)}"
        return level_label(level, self.factor_unit)

    def kept(self) -> list[Trial]:
        return [t for t in self.trials if t.counts]


def level_label(level: LevelName, unit: str | None) -> str:
    """A level as it is read aloud: "2.5 kg", "felt"."""
    if isinstance(level, str):
        return level
    text = f"{level:g}".replace("-", "−")
    if unit == "count":
        return text
    return f"{text}{'' if unit in (None, '°', '%') else ' '}{unit or ''}".strip()


def _and(words: Sequence[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def few_names(names: Sequence[str], noun: str = "level", most: int = 4) -> str:
    """The first few of many names. noun: what they are, for counting the rest ("and 2 more levels")."""
    rest = len(names) - most
    return _and(names) if rest <= 0 else f"{', '.join(names[:most])} and {rest} more {noun}{'' if rest == 1 else 's'}"


def counted(n: int, noun: str) -> str:
    """ "1 reading", "3 readings"."""
    return f"{n} {noun}{'' if n == 1 else 's'}"


class NotLooked:
    """A check that had nothing to look at, so that it is not called clean."""


NOT_LOOKED = NotLooked()
