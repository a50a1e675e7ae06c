"""The shapes of an analysis. Keys and meanings are those of the open contract; numbers are in the response's unit at full
precision and `None` where there is none (never NaN)."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

Interval = tuple[float, float]
LevelName = float | str
Severity = Literal["stop", "warn", "note"]
Answer = Literal["clear", "leaning", "cannot_tell"]
#: Every arrangement tried, many drawn, or worked out from the limit that many readings follow.
ShuffleMethod = Literal["all", "drawn", "limit"]


class Result(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Factor(Result):
    name: str
    unit: str | None
    treated_as: Literal["number", "group"]


class Response(Result):
    name: str
    unit: str | None


class LevelShown(Result):
    """A level's numbers as they are shown, without their unit (the rule stands in `written`)."""

    mean: str
    median: str
    half_range: str | None
    sd: str | None
    ci95: str | None
    result: str
    best: str | None = None
    total: str | None = None
    smallest: str | None = None
    largest: str | None = None
    range: str | None = None


class LevelSummary(Result):
    """One level described. half_range, sd, sem, ci95 are None for one trial (one trial shows no spread); sd, sem and ci95
    are None as well when a reading is only a bound. mean_is and median_is tell whether the number is a bound."""

    level: LevelName
    n_kept: int
    n_void: int
    mean: float | None
    median: float | None
    sd: float | None
    sem: float | None
    min: float | None
    max: float | None
    half_range: float | None
    ci95: Interval | None
    censored: int
    estimated: int = 0
    range: float | None = None
    total: float | None = None
    best: float | None = None
    percentage_uncertainty: float | None = None
    mean_is: Literal["exact", "at_least", "at_most", "unknown"] = "exact"
    median_is: Literal["exact", "at_least", "at_most", "unknown"] = "exact"
    best_is: Literal["exact", "at_least", "at_most", "unknown"] = "exact"
    quoted: str | None = None
    result: float | None = None  # what the study calls the result of a level: mean, median, best or total
    result_quoted: str | None = None
    odd_rows: tuple[int, ...] = ()
    places: int | None = None  # decimals of its mean
    reading_places: int | None = None  # decimals of a single reading
    total_places: int | None = None  # decimals of what is added
    shown: LevelShown | None = None


class Counts(Result):
    """Counts or points compared by their totals. excess: their scatter as a multiple of what independent hits would have,
    with its freedoms;
    exact: every way to share the total was tried."""

    p: float
    excess: float
    freedoms: int
    exact: bool
    totals: tuple[float, ...]


class DifferenceShown(Result):
    """A difference as it is shown, without its unit; in a table of them one column has one number of decimals."""

    estimate: str
    ci95: str | None
    p: str | None


class Difference(Result):
    """Second level minus first. bound: the estimate is only a bound because readings are."""

    between: tuple[LevelName, LevelName]
    estimate: float
    ci95: Interval | None
    t: float | None
    df: float | None
    p_t: float | None
    p_shuffle: float | None
    shuffle_exact: bool
    shuffle_arrangements: int
    smallest_p: float | None = None
    shuffle_seed: int | None = None
    shuffle_method: ShuffleMethod | None = None
    n_per_level: tuple[int, int] | None = None
    shuffle_grain: float | None = None  # the largest p at or below 0.05 that these arrangements could give without ties
    ratio: float | None = None
    paired: bool | None = None
    pairs: int | None = None
    bound: Literal["at_least", "at_most", "unknown"] | None = None
    near_end: float | None = None  # of an interval that is open on the far side, because readings are bounds
    ranges_overlap: bool | None = None
    counts: Counts | None = None
    shown: DifferenceShown | None = None


class Pair(Result):
    between: tuple[LevelName, LevelName]
    estimate: float
    ci95: Interval | None
    p_adjusted: float | None
    near_end: float | None = None  # of an interval that is open on the far side, because readings are bounds
    shown: DifferenceShown | None = None


class Adjusted(Result):
    name: str
    slope: float
    slope_se: float
    p_slopes_differ: float | None


class Friedman(Result):
    chi2: float
    p: float
    kendall_w: float


class Groups(Result):
    """Three or more levels. places: best first; devices that cannot be separated share a place."""

    f: float | None
    p_anova: float | None
    f_welch: float | None = None
    p_welch: float | None = None
    p_shuffle: float | None = None
    shuffle_exact: bool | None = None
    shuffle_arrangements: int | None = None
    shuffle_seed: int | None = None
    smallest_p: float | None = None
    shuffle_method: ShuffleMethod | None = None
    p_unequal: float | None = None  # allowing for spreads that differ
    spreads_ask: bool = False  # unequal spreads show themselves, so they are allowed for
    pairs: tuple[Pair, ...]
    pairs_method: str | None = None
    places: tuple[tuple[LevelName, ...], ...]
    blocked: bool | None = None
    blocks: int | None = None  # how many
    over: Literal["these", "like_these"] | None = None  # blocks that repeated levels: the answer is of these, or of blocks like these
    p: float | None = None
    friedman: Friedman | None = None
    adjusted_for: Adjusted | None = None
    df: Interval | None = None
    ranges_overlap: bool | None = None
    counts: Counts | None = None


class Form(Result):
    """One fitted form. residual_sd: in the response's unit (on logs for `power`). curve: points (factor, response) for drawing
    it over the levels tried."""

    form: Literal["line", "proportional", "power", "peak"]
    coefficients: dict[str, float]
    se: dict[str, float | None]
    ci95: dict[str, Interval | None]
    r2: float | None
    p: float | None
    aicc: float | None
    residual_sd: float | None = None
    optimum: float | None = None
    optimum_ci95: Interval | None = None
    curve: tuple[Interval, ...] = ()


class Looked(Result):
    """One shape of a trend, a slope or a bend: p by the shuffle and the smallest that it can give, by t, and allowing for spreads that differ."""

    p_shuffle: float
    smallest_p: float | None = None
    p_t: float | None = None
    p_unequal: float | None = None


class Shape(Result):
    """What the levels do that a straight line does not, and p of the lack of fit. step: between two levels; levels_off, starts_late: from or up to
    a level."""

    kind: Literal["step", "levels_off", "starts_late", "less_and_less", "more_and_more", "other"]
    p: float
    low: float | None = None
    high: float | None = None


class Trend(Result):
    preferred: Literal["line", "proportional", "power", "peak"]
    spearman: float | None
    p_shuffle: float | None = None
    shuffle_exact: bool | None = None
    shuffle_arrangements: int | None = None
    shuffle_seed: int | None = None
    smallest_p: float | None = None
    shuffle_method: ShuffleMethod | None = None
    slope: Looked | None = None
    bend: Looked | None = None  # None where no bend is looked for
    spreads_ask: bool = False  # unequal spreads show themselves, so they are allowed for
    best_between: Interval | None = None  # the best setting lies between these levels, whatever the curve's shape
    middle: Literal["hill", "valley"] | None = None  # a level in the middle is surely above, or below, both ends
    rise: float | None = None  # the last level less the first
    rise_ci95: Interval | None = None
    shape: Shape | None = None  # what the levels do that a straight line does not; None where a line fits or nothing was repeated
    drawn: bool = True  # the preferred form may be drawn through the trials: there is a relation, and it fits
    best_beyond: Literal["lowest", "highest"] | None = None
    bound: bool | None = None  # readings are only bounds: forms are drawn through what is written, without intervals
    forms: tuple[Form, ...]
    ranges_overlap: bool | None = None


class SurvivalLevel(Result):
    level: LevelName
    survived: int
    n: int
    wilson95: Interval
    exact95: Interval


class FisherPair(Result):
    between: tuple[LevelName, LevelName]
    p: float


class Survival(Result):
    levels: tuple[SurvivalLevel, ...]
    fisher: tuple[FisherPair, ...]
    fisher_holm: tuple[FisherPair, ...] = ()  # each p among all pairs
    p: float | None = None  # one exact test over all levels
    p_exact: bool | None = None
    mixed: bool | None = None  # something survived above where something failed, so there is no bracket
    half_height: float | None = None
    half_height_ci95: Interval | None = None
    half_between: Interval | None = None  # neighbouring levels between which survival passes one half, whatever the curve's shape
    bracket: tuple[float | None, float | None] | None = None
    separated: bool | None = None


class NoEffect(Result):
    """No comparison can be made, and why. Never a number."""

    kind: Literal["none"] = "none"
    reason: Literal["no_trials", "no_reading", "one_level", "too_few_trials", "no_spread"]
    says: str


class DifferenceEffect(Result):
    kind: Literal["difference"] = "difference"
    difference: Difference


class PairedEffect(Result):
    kind: Literal["paired"] = "paired"
    difference: Difference


class GroupsEffect(Result):
    kind: Literal["groups"] = "groups"
    groups: Groups


class TrendEffect(Result):
    kind: Literal["trend"] = "trend"
    trend: Trend


class SurvivalEffect(Result):
    kind: Literal["survival"] = "survival"
    survival: Survival
    passed: str = "survived"


Effect = Annotated[DifferenceEffect | PairedEffect | GroupsEffect | TrendEffect | SurvivalEffect | NoEffect, Field(discriminator="kind")]


class Act(Result):
    """Where the control stands for what is advised: trials to look at (by their number), a column to compare within, a place in the
    plan, trials to run, `more` repeats to add to the plan, versions to build, or what comes next to be decided."""

    kind: Literal["trials", "within", "plan", "run", "more", "build", "decide"]
    more: int | None = None
    rows: tuple[int, ...] = ()
    column: str | None = None
    where: str | None = None


class Finding(Result):
    """One doubt: evidence in numbers, one sentence for the class, one action. caps: the most that the answer can be while it stands. design: more
    than the variable was changed, so that the verdict is about the design. about: the levels that it bears on; all where empty."""

    code: str
    severity: Severity
    caps: Literal["none", "leaning", "cannot_tell"] = "none"
    design: bool = False
    about: tuple[str, ...] = ()
    says: str
    do: str
    evidence: dict[str, float | str] = Field(default_factory=dict)
    act: Act | None = None


class Span(Result):
    """A piece of a sentence and what it holds, so that a page can set it without searching in the words."""

    text: str
    holds: Literal["words", "size", "interval", "level"] = "words"


class Verdict(Result):
    """headline: the spans read one after the other: one sentence; more: what is said after it; says: both. beside: what must be said of
    the way of judging itself."""

    answer: Answer
    says: str
    next: str
    act: Act | None = None  # the control of what comes next
    so_far: bool = False  # before the planned trials are in
    about: Literal["variable", "design"] = "variable"
    size: str | None = None
    detail: str | None = None
    beside: str | None = None
    prediction: str | None = None
    limits: tuple[str, ...] = ()
    headline: str = ""
    spans: tuple[Span, ...] = ()
    more: tuple[Span, ...] = ()


class Ranked(Result):
    """One level in the order of the results. place: by the rule agreed, shared only where results are equal as written; None below the line.
    value: the result, of outcomes the share that survived; result: the same as written, with its unit. why: what decided, where the plan has a rule of
    its own. apart_from_next: whether the trials can tell it from the level that stands next; None for the last, and where that was not looked at.
    outside: why it stands below the line, None where it does not."""

    level: LevelName
    place: int | None
    shared: bool
    value: float | None
    result: str
    why: str = ""
    apart_from_next: bool | None
    outside: str | None = None


class MainEffect(Result):
    """What one of two variables does, at like values of the other. levels: its own, best first, each with its mean over the other's levels as
    written. size: between the best and the worst, as text; interval: of it, with its unit."""

    name: str
    unit: str | None
    levels: tuple[LevelName, ...]
    means: tuple[str, ...]
    answer: Answer
    p: float | None
    size: str | None
    interval: str | None


class LikePlace(Result):
    """The best of the first variable at one value of the second."""

    at: LevelName
    best: LevelName
    result: str


class TwoFound(Result):
    """Two variables at once. depends: whether what the first does depends on the second, None where that cannot be weighed; p_depends: its
    p. at_each: the best of the first at each value of the second. says: whether one depends on the other, in a sentence."""

    first: MainEffect
    second: MainEffect
    depends: bool | None
    p_depends: float | None
    at_each: tuple[LikePlace, ...]
    says: str = ""


class Against(Result):
    """Design rounds: the newest version against another. says: a sentence."""

    newest: LevelName
    other: LevelName
    role: Literal["made_from", "best_so_far", "before"]
    answer: Answer
    says: str


class Analysis(Result):
    factor: Factor
    response: Response
    levels: tuple[LevelSummary, ...]
    effect: Effect
    audit: tuple[Finding, ...]
    audit_checked: tuple[str, ...] = ()
    verdict: Verdict
    ranking: tuple[Ranked, ...] = ()
    two: TwoFound | None = None
    against: tuple[Against, ...] = ()
    in_numbers: tuple[str, ...] = ()  # the effect in numbers, as lines to be read
    lean: str | None = None  # of distances off the line: to which side, in a sentence
    skipped: tuple[str, ...] = ()
