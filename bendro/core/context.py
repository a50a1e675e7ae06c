"""Everything that a comparison is about beside its trials: what is asked, by which school, and what the plan and the record say of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from .judgement.deciding import BOUND, School, Stage
from .judgement.places import Agreed
from .statistics.describe import Doubt, ResultOf
from .statistics.trend import ALL_FORMS, FormName
from .trials import Better, Level
from .written import ReadingLevel

#: What a reading that is only a bound ran out of.
Cover = Literal["tape", "time", "height", "other"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Context:
    """What is asked of the trials, and all that the audit may want to know of them.

    treat_as None: numbers as a trend from three levels on, names as levels. survived_when: outcome words that count as survival, when
    the study has its own scale. expect: rises, falls, peak, none, or the level thought best."""

    factor: str
    response: str
    factor_unit: str | None = None
    unit: str | None = None
    treat_as: Literal["number", "group"] | None = None
    pair_by: str | None = None
    pair_noun: str | None = None  # what a block is called where the column does not say it
    adjust_for: str | None = None
    evidence: School = "shuffle"
    reading: ReadingLevel = "middle"
    doubt: Doubt = "ci95"
    best_is: Better = "high"
    forms: Sequence[FormName] = ALL_FORMS
    expect: str | None = None
    expected_late: bool = False  # the prediction was changed after the first kept trial
    survived_when: frozenset[str] | None = None
    level_order: tuple[Level, ...] = ()  # of names, when the plan gives one
    hold_units: Mapping[str, str] = field(default_factory=dict)  # of those that are amounts
    hold: Mapping[str, float | None] = field(default_factory=dict)  # columns meant to stay the same, with a tolerance
    held_at: Mapping[str, Level | None] = field(default_factory=dict)  # what the plan holds them at
    prediction: str | None = None  # None: not known (a file); "": none was written
    measuring_rule: str | None = None
    hand_timed: bool | None = None
    rounds: bool = False  # design rounds: the levels are versions, the newest last
    made_from: Mapping[str, str] = field(default_factory=dict)  # version -> the one it was made from
    contest: bool = False  # every group releases its own device
    agreed: tuple[Agreed, ...] = ()  # places by a rule of the plan's own
    outside: Mapping[Level, str] = field(default_factory=dict)  # levels that break a rule of the plan, with the reason
    as_cut: tuple[tuple[str, float | None], ...] | None = None  # levels that were cut otherwise: what is said, and the share of the way to the next level; None: nothing was measured
    ask_about_odd: bool = True
    result: ResultOf = "mean"
    changed_since: Mapping[str, tuple[str, ...]] = field(default_factory=dict)  # version -> what changed in it, as written down
    changed_in: Mapping[str, tuple[str, ...]] = field(default_factory=dict)  # version, with its device -> what changed in it
    judging_changed: tuple[str, ...] | None = None  # ways of judging changed after the first kept trial; None: there is no record of the plan
    planned: bool = False  # the trials belong to a plan
    survival: bool = False  # outcomes are judged, not numbers
    passed: str = "survived"  # what is said of a trial whose outcome lies above the line
    payloads: int = 1  # of each device; an outcome counts only when every one of them lies above the line
    not_planned: bool = False  # compared over something that was recorded beside the variable
    stage: Stage = "whole"  # planned trials to come, or added (judgement.deciding)
    counted: bool = False  # readings are counts or points
    whole: bool = False  # readings are whole numbers: counts, points or places
    least: float | None = None  # no reading lies below
    most: float | None = None  # no reading lies above
    by_size: bool = False  # distances off the line, by their size
    dropped: bool | None = None  # the devices are let fall, or launched; None: not known
    cover: Cover = "other"
    two: tuple[str, str] | None = None  # two variables: their names, under which each trial has its settings
    two_units: tuple[str | None, str | None] = (None, None)
    settings: Mapping[Level, tuple[Level, Level]] = field(default_factory=dict)  # of two variables, by level
    names_best: bool = True  # what is best is said by the first measure alone; of a further one what is greatest or least
    on_rungs: bool = False  # the highest rung of a ladder, known as a bracket: no mean of it, no spread and no size is written
    places: bool = False  # readings are places in heats
    decision: str = ""  # what the plan's decision with two measures says; it, and not the one measure, says what is best
    hedged: bool = False  # said as leaning at most: the level cannot be told from something else

    @property
    def are_counted(self) -> bool:
        """Whether readings are compared by their totals."""
        return self.counted or self.unit == "count"

    @property
    def judges_survival(self) -> bool:
        """Whether outcomes are judged, not numbers."""
        return self.survival or self.response == "outcome"

    @property
    def block_called(self) -> str:
        """One of the blocks that trials are compared within."""
        return self.pair_noun or self.pair_by or "block"

    @property
    def looks_first(self) -> Literal["slope", "bend"]:
        """The shape that is looked at first: the one predicted before the first kept trial, without such a prediction the slope."""
        return "bend" if self.expect == "peak" and not self.expected_late else "slope"

    @property
    def clear_p(self) -> float:
        """How rare chance must be before it is set aside."""
        return -1.0 if self.hedged else BOUND[self.stage]
