"""From trials to verdict: the one road that the command line and the application both take."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Literal, cast

from .context import Context
from .errors import TableRefused
from .judgement.audit import audit
from .judgement.deciding import by_p, of_trend
from .judgement.evidence import Evidence
from .judgement.in_numbers import in_numbers
from .judgement.judged import decimals_of_means, judge
from .judgement.places import ranked
from .judgement.plainly import in_counts
from .judgement.two import like_pairs, two_found
from .judgement.verdict import verdict
from .results import (
    Against,
    Analysis,
    DifferenceEffect,
    DifferenceShown,
    Effect,
    Factor,
    Finding,
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
from .statistics.describe import describe, differences_in_columns, in_columns, reading_decimals
from .statistics.survival import survival
from .statistics.trend import fit_trend
from .trials import Level, Trial
from .written import at_place, level_label, with_unit

#: A trend over at least this many levels, each tried once, has its repeats across the levels.
LEVELS_AS_REPEATS = 5
SURVIVED_WORDS = {"survived", "survive", "pass", "passed", "yes", "y", "1", "true", "untouched", "intact", "ok"}
FAILED_WORDS = {"failed", "fail", "no", "n", "0", "false", "broken", "cracked", "lost"}


def analyse(trials: Sequence[Trial], asked: Context, *, skipped: Sequence[str] = (), also: Sequence[Finding] = ()) -> Analysis:
    """Describe every level, weigh the effect, audit, and give the verdict. also: doubts that were found elsewhere. Raises TableRefused where the question does
    not fit the trials."""
    numeric, by_level, summaries = _described(trials, asked)
    treated: Literal["number", "group"] = asked.treat_as or ("number" if numeric and not (asked.pair_by or asked.adjust_for) else "group")
    counted = {level: [t for t in rows if t.counts] for level, rows in by_level.items()}
    counted = {level: rows for level, rows in counted.items() if rows}
    kept = sum(t.state == "kept" for t in trials)
    effect = _effect(counted, asked, treated, explicit=asked.treat_as is not None) if counted else _nothing_counted(kept, asked)
    effect = _drawn(_written_out(effect, decimals_of_means(summaries)), len(counted), asked)
    shown = [s for s in summaries if s.n_kept or s.n_void]
    findings, clean = audit(_evidence(trials, shown, effect, len(counted), asked))
    findings = (*findings, *(f for f in also if f.code not in {own.code for own in findings}))
    judged, weighed = effect, [s for s in summaries if s.n_kept]
    against: tuple[Against, ...] = ()
    if asked.rounds and len(weighed) > 1:  # what is asked is whether the newest version beats the one it was made from
        newest = weighed[-1]
        other, role = made_from(weighed, asked)
        judged, weighed = _two_of(counted, other.level, newest.level, asked), [other, newest]
        against = _against(counted, summaries, newest, other, role, asked)
    two = two_found(counted, asked) if asked.two is not None and isinstance(effect, GroupsEffect) else None
    said = verdict(judged, weighed, findings, asked, two=two)
    ranking = ranked(
        summaries, effect, unit=asked.unit, best_is=asked.best_is, clear=said.answer == "clear", agreed=asked.agreed, outside=asked.outside
    )
    made = Analysis(
        factor=Factor(name=asked.factor, unit=asked.factor_unit, treated_as=treated),
        response=Response(name=asked.response, unit=asked.unit),
        levels=summaries,
        effect=like_pairs(effect, asked) if two is not None else effect,
        audit=findings,
        audit_checked=clean,
        verdict=said,
        ranking=ranking,
        two=two,
        against=against,
        in_numbers=in_numbers(judged if asked.rounds else effect, asked, sum(map(len, counted.values()))),
        lean=_lean(trials, asked) if asked.by_size else None,
        skipped=tuple(skipped),
    )
    return in_counts(made, counted, asked)


def made_from(weighed: Sequence[LevelSummary], asked: Context) -> tuple[LevelSummary, Literal["made_from", "before"]]:
    """The tried version that the newest was made from, or one further back in its line where that was never tried; the one before it where
    nothing is written of its line. weighed: versions with kept trials, the newest last."""
    tried = {_version(s): s for s in weighed[:-1]}
    at = asked.made_from.get(_version(weighed[-1]))
    seen: set[str] = set()
    while at is not None and at not in tried and at not in seen:
        seen.add(at)
        at = asked.made_from.get(at)
    return (tried[at], "made_from") if at in tried else (weighed[-2], "before")


def _version(s: LevelSummary) -> str:
    return s.level if isinstance(s.level, str) else f"{s.level:g}"


def _two_of(counted: Mapping[LevelName, list[Trial]], other: LevelName, newest: LevelName, asked: Context) -> Effect:
    if asked.judges_survival:
        outcomes = {level: [_survived(t, asked) for t in counted[level]] for level in (other, newest)}
        return SurvivalEffect(survival=survival(outcomes, numeric=False))
    return DifferenceEffect(difference=two_levels((other, newest), counted[other], counted[newest], counted=asked.are_counted))


def _against(
    counted: Mapping[LevelName, list[Trial]],
    summaries: Sequence[LevelSummary],
    newest: LevelSummary,
    other: LevelSummary,
    role: Literal["made_from", "before"],
    asked: Context,
) -> tuple[Against, ...]:
    """The newest version against the one it was made from, and against the best so far where that is another."""
    plain = ranked([s for s in summaries if s.n_kept and s is not newest], NoEffect(reason="one_level", says=""), unit=asked.unit, best_is=asked.best_is, clear=False)
    best = plain[0].level if plain and not asked.judges_survival else None
    pairs: list[tuple[LevelName, Literal["made_from", "best_so_far", "before"]]] = [(other.level, role)]
    if best is not None and best != other.level:
        pairs.append((best, "best_so_far"))
    made = []
    for level, what in pairs:
        found = judge(_two_of(counted, level, newest.level, asked), [s for s in summaries if s.level in (level, newest.level)], asked)
        called = {"made_from": "the one it was made from", "best_so_far": "the best so far", "before": "the one before"}[what]
        one, two = level_label(newest.level, None), level_label(level, None)
        says = found.headline if found.answer != "cannot_tell" else f"The trials cannot tell whether {asked.factor} {one} beats {asked.factor} {two}."
        made.append(Against(newest=newest.level, other=level, role=what, answer=found.answer, says=f"Against {asked.factor} {two}, {called}: {says[:1].lower() if says[1:2].islower() else says[:1]}{says[1:]}"))
    return tuple(made)


def _lean(trials: Sequence[Trial], asked: Context) -> str | None:
    """To which side distances off the line lean, all levels together; None where nothing leans."""
    rows = [t.lean for t in trials if t.counts and t.lean is not None]
    if len(rows) < 2 or not any(rows):
        return None
    left, right = sum(v < 0 for v in rows), sum(v > 0 for v in rows)
    middle = math.fsum(rows) / len(rows)
    side = "left" if middle < 0 else "right"
    places = reading_decimals([t for t in trials if t.counts])
    if not float(at_place(abs(middle), places).replace("−", "-")):
        return f"{left} landed left and {right} right of the line; the middle of all lies on it."
    return f"{left} landed left and {right} right of the line; the middle of all lies {with_unit(at_place(abs(middle), places), asked.unit)} to the {side}."


def _described(
    trials: Sequence[Trial], asked: Context
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
        describe(level, rows, unit=asked.unit, doubt=asked.doubt, best_is=asked.best_is, result=asked.result, rungs=asked.on_rungs)
        for level, rows in by_level.items()
    ]
    written = in_columns(alone, unit=asked.unit, result=asked.result, whole=asked.whole or asked.are_counted, least=asked.least, most=asked.most, rungs=asked.on_rungs)
    return numeric, by_level, written


def described(trials: Sequence[Trial], asked: Context) -> tuple[LevelSummary, ...]:
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


def _written_out(effect: Effect, most: int | None) -> Effect:
    """The effect with its differences written as a table shows them."""
    if isinstance(effect, GroupsEffect):
        pairs = effect.groups.pairs
        shown = differences_in_columns([(p.estimate, p.ci95, p.p_adjusted) for p in pairs], most)
        written = tuple(p.model_copy(update={"shown": _opened(text, p.near_end)}) for p, text in zip(pairs, shown, strict=True))
        return effect.model_copy(update={"groups": effect.groups.model_copy(update={"pairs": written})})
    if isinstance(effect, DifferenceEffect | PairedEffect):
        d = effect.difference
        (text,) = differences_in_columns([(d.estimate, d.ci95, d.p_shuffle)], most)
        return effect.model_copy(update={"difference": d.model_copy(update={"shown": _opened(text, d.near_end)})})
    return effect


def _opened(text: DifferenceShown, near: float | None) -> DifferenceShown:
    """An interval that is open on its far side, written by where it begins, with the decimals of its difference."""
    if near is None:
        return text
    places = len(text.estimate.partition(".")[2])
    return text.model_copy(update={"ci95": f"beyond {at_place(near, places)}"})


def _drawn(effect: Effect, levels: int, asked: Context) -> Effect:
    """A form is drawn through the trials only where there is a relation to be drawn: one that luck does not make as easily as not."""
    if not isinstance(effect, TrendEffect) or not effect.trend.drawn:
        return effect
    seen = by_p(of_trend(effect.trend, levels, asked.evidence, asked.looks_first).p) != "cannot_tell"
    return effect.model_copy(update={"trend": effect.trend.model_copy(update={"drawn": seen})})


def _evidence(trials: Sequence[Trial], shown: Sequence[LevelSummary], effect: Effect, levels: int, asked: Context) -> Evidence:
    """What the audit may look at. shown: levels with any trial; levels: how many have a kept one."""
    single = isinstance(effect, TrendEffect) and levels >= LEVELS_AS_REPEATS
    return Evidence(trials=trials, levels=shown, asked=asked, single_by_design=single, trend=effect.trend if isinstance(effect, TrendEffect) else None)


def evidence_of(trials: Sequence[Trial], found: Analysis, asked: Context) -> Evidence:
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


def _effect(counted: Mapping[LevelName, list[Trial]], asked: Context, treated: str, *, explicit: bool) -> Effect:
    if asked.judges_survival:
        outcomes = {level: [_survived(t, asked) for t in rows] for level, rows in counted.items()}
        return SurvivalEffect(survival=survival(outcomes, numeric=all(isinstance(v, float | int) for v in outcomes)), passed=asked.passed)
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


def _nothing_counted(kept: int, asked: Context) -> NoEffect:
    if not kept:
        return NoEffect(reason="no_trials", says="No kept trial yet.")
    return NoEffect(reason="no_reading", says=f"One trial is kept, but it has no {asked.response}." if kept == 1 else f"{kept} trials are kept, but none of them has {asked.response}.")


def _survived(trial: Trial, asked: Context) -> bool:
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


def _adjusted(counted: Mapping[LevelName, list[Trial]], asked: Context) -> Groups:
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


def _within(counted: Mapping[LevelName, list[Trial]], asked: Context) -> Effect:
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
    if len(counted) > 2 or asked.not_planned:
        return GroupsEffect(
            groups=blocked(
                [cast(float, t.value) for t in rows],
                [cast(Level, t.level) for t in rows],
                [str(t.column(name)) for t in rows],
                best_is=asked.best_is,
                sampled=not asked.not_planned,  # over something that was recorded the levels of the variable are the blocks: there are no others
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
