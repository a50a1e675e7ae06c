"""From trials to verdict: the one road that the command line and the application both take."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal, cast

from .errors import TableRefused
from .judgement.audit import audit
from .judgement.deciding import School, Stage
from .judgement.evidence import Evidence
from .judgement.judged import Asked
from .judgement.places import ranked
from .judgement.verdict import verdict
from .judgement.wording import ReadingLevel
from .results import (
    Analysis,
    DifferenceEffect,
    Effect,
    Factor,
    Groups,
    GroupsEffect,
    LevelName,
    LevelSummary,
    NoEffect,
    PairedEffect,
    Response,
    SurvivalEffect,
    TrendEffect,
)
from .statistics.blocks import adjusted, blocked
from .statistics.compare import paired, three_or_more, two_levels
from .statistics.describe import Doubt, ResultOf, describe, differences_in_columns, in_columns
from .statistics.survival import survival
from .statistics.trend import ALL_FORMS, FormName, fit_trend
from .trials import Level, Trial

#: A trend over at least this many levels, each tried once, has its repeats across the levels.
LEVELS_AS_REPEATS = 5
SURVIVED_WORDS = {"survived", "survive", "pass", "passed", "yes", "y", "1", "true", "untouched", "intact", "ok"}
FAILED_WORDS = {"failed", "fail", "no", "n", "0", "false", "broken", "cracked", "lost"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """What is asked of the trials and by which school. treat_as None: numbers as a trend from three levels on, names as
    levels. survived_when: outcome words that count as survival, when the study has its own scale."""

    factor: str
    response: str
    factor_unit: str | None = None
    unit: str | None = None
    treat_as: Literal["number", "group"] | None = None
    pair_by: str | None = None
    adjust_for: str | None = None
    evidence: School = "shuffle"
    reading: ReadingLevel = "middle"
    doubt: Doubt = "ci95"
    best_is: Literal["high", "low"] = "high"
    forms: Sequence[FormName] = ALL_FORMS
    expect: str | None = None
    survived_when: frozenset[str] | None = None
    level_order: tuple[Level, ...] = ()  # of names, when the plan gives one
    hold: Mapping[str, float | None] = field(default_factory=dict)  # columns meant to stay the same, with a tolerance
    prediction: str | None = None
    measuring_rule: str | None = None
    hand_timed: bool | None = None
    rounds: bool = False  # design rounds: the levels are versions, the newest last
    contest: bool = False  # every group releases its own device
    ask_about_odd: bool = True
    result: ResultOf = "mean"
    changed_since: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    judging_changed: tuple[str, ...] | None = None  # None: there is no record of the plan
    planned: bool = False  # the trials belong to a plan
    survival: bool = False  # outcomes are judged, not numbers
    not_planned: bool = False  # compared over something that was recorded beside the variable
    stage: Stage = "whole"  # planned trials to come, or added (judgement.deciding)
    counted: bool = False  # readings are counts or points

    @property
    def are_counted(self) -> bool:
        return self.counted or self.unit == "count"


def analyse(trials: Sequence[Trial], asked: Question, *, skipped: Sequence[str] = ()) -> Analysis:
    """Describe every level, weigh the effect, audit, and give the verdict. Raises TableRefused where the question does
    not fit the trials."""
    numeric, by_level, summaries = _described(trials, asked)
    treated: Literal["number", "group"] = asked.treat_as or ("number" if numeric and not (asked.pair_by or asked.adjust_for) else "group")
    counted = {level: [t for t in rows if t.counts] for level, rows in by_level.items()}
    counted = {level: rows for level, rows in counted.items() if rows}
    kept = sum(t.state == "kept" for t in trials)
    effect = _effect(counted, asked, treated, explicit=asked.treat_as is not None) if counted else _nothing_counted(kept, asked)
    effect = _written_out(effect)
    shown = [s for s in summaries if s.n_kept or s.n_void]
    findings, clean = audit(_evidence(trials, shown, effect, len(counted), asked))
    judged, weighed = effect, [s for s in summaries if s.n_kept]
    if asked.rounds and len(weighed) > 2:  # what is asked is only whether the newest version beats the one before
        (a, first), (b, second) = list(counted.items())[-2:]
        judged, weighed = DifferenceEffect(difference=two_levels((a, b), first, second, counted=asked.are_counted)), weighed[-2:]
    said = verdict(
        judged,
        weighed,
        findings,
        Asked(
            factor=asked.factor,
            factor_unit=asked.factor_unit,
            response=asked.response,
            unit=asked.unit,
            school=asked.evidence,
            reading=asked.reading,
            best_is=asked.best_is,
            expect=asked.expect,
            rounds=asked.rounds,
            contest=asked.contest,
            planned=asked.planned,
            survival=asked.survival or asked.response == "outcome",
            stage=asked.stage,
            result=asked.result,
        ),
    )
    return Analysis(
        factor=Factor(name=asked.factor, unit=asked.factor_unit, treated_as=treated),
        response=Response(name=asked.response, unit=asked.unit),
        levels=summaries,
        effect=effect,
        audit=findings,
        audit_checked=clean,
        verdict=said,
        ranking=ranked(summaries, effect, unit=asked.unit, best_is=asked.best_is, clear=said.answer == "clear"),
        skipped=tuple(skipped),
    )


def _described(
    trials: Sequence[Trial], asked: Question
) -> tuple[bool, Mapping[LevelName, list[Trial]], tuple[LevelSummary, ...]]:
    """Whether the levels are numbers, the trials of each level, and every level described. Raises TableRefused."""
    placed = [t for t in trials if t.level is not None]
    odd = next((t for t in placed if isinstance(t.level, str)), None)
    if odd is not None and asked.treat_as == "number":
        raise TableRefused(
            f"“{odd.level}” in {asked.factor} is not a number; take the levels as groups.",
            code="factor_not_number",
            where=f"row {odd.row}" if odd.row else "factor",
        )
    numeric = all(isinstance(t.level, float | int) for t in placed) and bool(placed)
    by_level = _by_level(placed, numeric, asked.level_order)
    alone = [
        describe(level, rows, unit=asked.unit, doubt=asked.doubt, best_is=asked.best_is, result=asked.result)
        for level, rows in by_level.items()
    ]
    return numeric, by_level, in_columns(alone, unit=asked.unit, result=asked.result)


def described(trials: Sequence[Trial], asked: Question) -> tuple[LevelSummary, ...]:
    """Every level described, with its numbers written as in the table. Raises TableRefused."""
    return _described(trials, asked)[2]


def can_pair(trials: Sequence[Trial], column: str = "block") -> bool:
    """Whether trials can be compared within a column, such as the block of drops side by side: at least two of its values hold
    every level, none holds a mere bound, and no trial stands outside."""
    kept = [t for t in trials if t.counts]
    if any(t.column(column) is None or t.kind in ("at_least", "at_most") for t in kept):
        return False
    levels = {t.level for t in kept}
    blocks = {t.column(column) for t in kept}
    whole = [b for b in blocks if {t.level for t in kept if t.column(column) == b} == levels]
    return len(levels) >= 2 and len(whole) >= 2


def _written_out(effect: Effect) -> Effect:
    """The effect with its differences written as a table shows them."""
    if isinstance(effect, GroupsEffect):
        pairs = effect.groups.pairs
        shown = differences_in_columns([(p.estimate, p.ci95, p.p_adjusted) for p in pairs])
        written = tuple(p.model_copy(update={"shown": text}) for p, text in zip(pairs, shown, strict=True))
        return effect.model_copy(update={"groups": effect.groups.model_copy(update={"pairs": written})})
    if isinstance(effect, DifferenceEffect | PairedEffect):
        d = effect.difference
        (text,) = differences_in_columns([(d.estimate, d.ci95, d.p_shuffle)])
        return effect.model_copy(update={"difference": d.model_copy(update={"shown": text})})
    return effect


def _evidence(trials: Sequence[Trial], shown: Sequence[LevelSummary], effect: Effect, levels: int, asked: Question) -> Evidence:
    """What the audit may look at. shown: levels with any trial; levels: how many have a kept one."""
    return Evidence(
        trials=trials,
        levels=shown,
        factor=asked.factor,
        factor_unit=asked.factor_unit,
        response=asked.response,
        unit=asked.unit,
        single_by_design=isinstance(effect, TrendEffect) and levels >= LEVELS_AS_REPEATS,
        blocks_are_repeats=asked.pair_by is not None,
        hold=asked.hold,
        used=frozenset(c.casefold() for c in (asked.pair_by, asked.adjust_for, asked.factor) if c),
        prediction=asked.prediction,
        measuring_rule=asked.measuring_rule,
        hand_timed=asked.hand_timed,
        ask_about_odd=asked.ask_about_odd,
        changed_since=asked.changed_since,
        judging_changed=asked.judging_changed or (),
        judging_known=asked.judging_changed is not None,
        own_device=asked.contest,
        not_planned=asked.not_planned,
    )


def evidence_of(trials: Sequence[Trial], found: Analysis, asked: Question) -> Evidence:
    """What the audit looked at for an analysis."""
    shown = [s for s in found.levels if s.n_kept or s.n_void]
    return _evidence(trials, shown, found.effect, sum(1 for s in shown if s.n_kept), asked)


def _by_level(trials: Sequence[Trial], numeric: bool, order: Sequence[Level]) -> dict[LevelName, list[Trial]]:
    """Numbers ascending; names in the order of the plan, or of the file where there is none."""
    used = {t.level for t in trials}
    found: dict[LevelName, list[Trial]] = {level: [] for level in order if level in used}
    for t in trials:
        found.setdefault(cast(Level, t.level), []).append(t)
    return dict(sorted(found.items(), key=lambda p: cast(float, p[0]))) if numeric else found


def _effect(counted: Mapping[LevelName, list[Trial]], asked: Question, treated: str, *, explicit: bool) -> Effect:
    if asked.survival or asked.response == "outcome":
        outcomes = {level: [_survived(t, asked) for t in rows] for level, rows in counted.items()}
        return SurvivalEffect(survival=survival(outcomes, numeric=all(isinstance(v, float | int) for v in outcomes)))
    if len(counted) == 1 and asked.rounds:
        return NoEffect(reason="one_level", says="One version is tried so far; the next is compared with it when it is built.")
    if len(counted) == 1:
        return NoEffect(reason="one_level", says=f"Only one level of {asked.factor} has kept trials, so there is nothing to compare.")
    total = sum(map(len, counted.values()))
    if asked.adjust_for:
        return GroupsEffect(groups=_adjusted(counted, asked))
    if asked.pair_by:
        return _within(counted, asked)
    if treated == "number" and (len(counted) > 2 or explicit):
        if total < 3:
            return NoEffect(reason="too_few_trials", says="A line needs at least three trials.")
        return TrendEffect(trend=fit_trend([t for rows in counted.values() for t in rows], allowed=asked.forms, best_is=asked.best_is))
    if len(counted) == 2:
        (a, first), (b, second) = counted.items()
        return DifferenceEffect(difference=two_levels((a, b), first, second, counted=asked.are_counted))
    return GroupsEffect(groups=three_or_more(counted, best_is=asked.best_is, counted=asked.are_counted))


def _nothing_counted(kept: int, asked: Question) -> NoEffect:
    if not kept:
        return NoEffect(reason="no_trials", says="No kept trial yet.")
    return NoEffect(reason="no_reading", says=f"One trial is kept, but it has no {asked.response}." if kept == 1 else f"{kept} trials are kept, but none of them has {asked.response}.")


def _survived(trial: Trial, asked: Question) -> bool:
    word = (trial.outcome or "").strip().casefold()
    if asked.survived_when is not None:
        return word in asked.survived_when
    if word in SURVIVED_WORDS:
        return True
    if word in FAILED_WORDS:
        return False
    raise TableRefused(
        f"The outcome “{trial.outcome}” is neither survived nor failed. Say which outcomes count as survival.",
        code="outcome_unknown",
        where=f"row {trial.row}, column outcome",
    )


def _exact_only(rows: Sequence[Trial], how: str) -> None:
    bound = next((t for t in rows if t.kind in ("at_least", "at_most")), None)
    if bound is not None:
        raise TableRefused(
            f"A reading that is only a bound (row {bound.row}) cannot be compared {how}. Leave that out, or mark the row void.",
            code="bound_in_model",
            where=f"row {bound.row}",
        )


def _adjusted(counted: Mapping[LevelName, list[Trial]], asked: Question) -> Groups:
    name = cast(str, asked.adjust_for)
    rows = [t for trials in counted.values() for t in trials]
    _exact_only(rows, f"at a common slope of {name}")
    found = [(t, t.column(name)) for t in rows]
    lacking = next((t for t, c in found if not isinstance(c, float | int)), None)
    if lacking is not None:
        raise TableRefused(
            f"“{name}” has no number in row {lacking.row}; adjusting needs one in every kept trial.",
            code="covariate_not_number",
            where=f"row {lacking.row}, column {name}",
        )
    return adjusted(
        [cast(float, t.value) for t, _ in found],
        [cast(Level, t.level) for t, _ in found],
        [float(cast(float, c)) for _, c in found],
        name,
        best_is=asked.best_is,
    )


def _within(counted: Mapping[LevelName, list[Trial]], asked: Question) -> Effect:
    """Two levels: pairs by the column; more: the additive level + block model."""
    name = cast(str, asked.pair_by)
    rows = [t for trials in counted.values() for t in trials]
    _exact_only(rows, f"within {name}")
    lacking = next((t for t in rows if t.column(name) is None), None)
    if lacking is not None:
        raise TableRefused(
            f"Row {lacking.row} has nothing in “{name}”, so it has no partner.",
            code="pair_missing",
            where=f"row {lacking.row}, column {name}",
        )
    if len(counted) > 2:
        return GroupsEffect(
            groups=blocked(
                [cast(float, t.value) for t in rows],
                [cast(Level, t.level) for t in rows],
                [str(t.column(name)) for t in rows],
                best_is=asked.best_is,
            )
        )
    levels = list(counted)
    table: dict[str, dict[LevelName, list[float]]] = {}
    for t in rows:
        table.setdefault(str(t.column(name)), {}).setdefault(cast(Level, t.level), []).append(cast(float, t.value))
    pairs = [tuple(sum(cells[v]) / len(cells[v]) for v in levels) for cells in table.values() if len(cells) == 2]
    if not pairs:
        return NoEffect(reason="too_few_trials", says=f"No {name} has a trial at both levels, so there are no pairs.")
    return PairedEffect(difference=paired((levels[0], levels[1]), [(p[0], p[1]) for p in pairs]))
