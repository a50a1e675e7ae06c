"""The verdict: clear, leaning or cannot tell, in one sentence, with what limits it and what to do next."""

from __future__ import annotations

import math
import statistics
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, cast

from ..results import (
    Answer,
    Difference,
    DifferenceEffect,
    Effect,
    Finding,
    Form,
    Groups,
    GroupsEffect,
    LevelSummary,
    NoEffect,
    PairedEffect,
    Survival,
    Trend,
    TrendEffect,
    Verdict,
)
from ..statistics.power import detectable, repeats_needed
from .evidence import level_label
from .wording import ReadingLevel, chance, more_or_less, sized, spanned, start

School = Literal["shuffle", "interval", "ranges"]
#: p at or below which chance is set aside, and at or below which the answer leans. 0.1 is the least that three against
#: three can reach, so a complete separation there leans (formulas, section 3).
CLEAR_P, LEANING_P = 0.05, 0.1
#: More repeats than this in one study is not a plan.
MOST_REPEATS = 40
_EDGE = 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """What was asked and how it is to be said. expect: rises, falls, peak, none, or the level thought best."""

    factor: str
    factor_unit: str | None
    response: str
    unit: str | None
    school: School = "shuffle"
    reading: ReadingLevel = "middle"
    best_is: Literal["high", "low"] = "high"
    expect: str | None = None
    rounds: bool = False  # design rounds: is the newest version better than the one before


@dataclass(frozen=True, slots=True, kw_only=True)
class _Judged:
    answer: Answer
    says: str
    size: str | None = None
    detail: str | None = None
    happened: str | None = None  # rises, falls, peak, none, or a level
    wanted_difference: float | None = None
    between: tuple[str, str] | None = None


def by_p(p: float | None) -> Answer:
    """Answer for a p: both bounds belong to the stronger answer."""
    if p is None:
        return "cannot_tell"
    return "clear" if p <= CLEAR_P + _EDGE else "leaning" if p <= LEANING_P + _EDGE else "cannot_tell"


def by_school(school: School, *, p_shuffle: float | None, p_interval: float | None, ranges_overlap: bool | None) -> Answer:
    """An interval excludes zero at 95 % exactly when its p is below 0.05; ranges that do not touch are clear."""
    if school == "ranges":
        return "cannot_tell" if ranges_overlap is None or ranges_overlap else "clear"
    return by_p(p_shuffle if school == "shuffle" else p_interval)


def verdict(effect: Effect, levels: Sequence[LevelSummary], findings: Sequence[Finding], asked: Asked) -> Verdict:
    """The verdict on an effect. A finding of severity `stop` caps the answer at cannot tell; when more than one thing was
    changed the verdict is about the design, never about the variable."""
    judged = _judge(effect, levels, asked)
    stops = [f for f in findings if f.severity == "stop"]
    design = any(f.code == "more_than_one_change" and _about_newest(f, levels, asked) for f in findings)
    answer: Answer = "cannot_tell" if stops and not (design and len(stops) == 1) else judged.answer
    says = judged.says
    if answer == "cannot_tell" and not isinstance(effect, NoEffect):
        says = _cannot_say(asked, judged)
    detail = judged.detail
    if answer == "cannot_tell" and not stops and asked.reading != "first":
        detail = " ".join(part for part in (detail, _could_have_seen(levels, asked)) if part) or None
    if design and answer != "cannot_tell":
        more = "in it more than one thing was changed" if asked.rounds else f"not only {asked.factor} was changed"
        says = f"The design made the difference, but {more}: {says[:1].lower()}{says[1:]}"
    return Verdict(
        answer=answer,
        says=says,
        next=_next(effect, levels, judged, answer, asked, stops, next((f for f in findings if f.code == "column_explains_scatter"), None)),
        about="design" if design else "variable",
        size=judged.size if answer != "cannot_tell" else None,
        detail=detail,
        prediction=_prediction(asked, judged, answer),
        limits=tuple(f.says for f in findings if f.severity != "note"),
    )


def _about_newest(finding: Finding, levels: Sequence[LevelSummary], asked: Asked) -> bool:
    """In design rounds only the newest version's changes bear on the verdict; the older ones stay among the doubts."""
    if not asked.rounds or "versions" not in finding.evidence or not levels:
        return True
    return str(levels[-1].level) in str(finding.evidence["versions"]).split(", ")


def _judge(effect: Effect, levels: Sequence[LevelSummary], asked: Asked) -> _Judged:
    if isinstance(effect, NoEffect):
        return _Judged(answer="cannot_tell", says=effect.says)
    if isinstance(effect, DifferenceEffect | PairedEffect):
        return _judge_difference(effect.difference, asked)
    if isinstance(effect, TrendEffect):
        return _judge_trend(effect.trend, levels, asked)
    if isinstance(effect, GroupsEffect):
        return _judge_groups(effect.groups, levels, asked)
    return _judge_survival(effect.survival, asked)


def _hedge(answer: Answer, sure: str, unsure: str) -> str:
    return sure if answer == "clear" else unsure


def _judge_difference(d: Difference, asked: Asked) -> _Judged:
    answer = by_school(asked.school, p_shuffle=d.p_shuffle, p_interval=d.p_t, ranges_overlap=d.ranges_overlap)
    a, b = (level_label(v, asked.factor_unit) for v in d.between)
    word = more_or_less(asked.unit, d.estimate > 0)
    size = f"about {'at least ' if d.bound == 'at_least' else ''}{sized(d.estimate, d.ci95, asked.unit)}"
    span = f" (95 % interval {spanned(_turned(d.ci95, d.estimate), asked.unit)})" if d.ci95 and asked.reading != "first" else ""
    verb = _hedge(answer, "was", "seems to be")
    named = f"{asked.factor} " if asked.rounds else ""
    says = f"{start(asked.response)} {verb} {size} {word} with {named}{b} than with {named}{a}{span}."
    happened = d.between[1 if (d.estimate > 0) == (asked.best_is == "high") else 0]
    return _Judged(
        answer=answer,
        says=says,
        size=size,
        happened=str(happened),
        wanted_difference=abs(d.estimate),
        between=(a, b),
        detail=_chance_sentence(d.p_shuffle, d.shuffle_arrangements, d.shuffle_exact, d.smallest_p, asked),
    )


def _turned(interval: tuple[float, float], estimate: float) -> tuple[float, float]:
    return (-interval[1], -interval[0]) if estimate < 0 else interval


def _chance_sentence(p: float | None, arrangements: int | None, exact: bool | None, smallest: float | None, asked: Asked) -> str | None:
    if p is None or arrangements is None:
        return None
    often = chance(p, arrangements, bool(exact))
    if asked.reading == "first":
        return f"Luck alone would do this in {often} shuffles."
    text = f"Shuffling the readings among the levels gives an effect this large in {often} arrangements"
    text += f" (p = {p:.2g})." if asked.reading == "senior" else "."
    if smallest is not None and smallest > CLEAR_P:
        text += f" With so few trials no result could be rarer than {smallest:.2g}."
    return text


def _step(levels: Sequence[LevelSummary]) -> float:
    values = [float(s.level) for s in levels]
    return statistics.median(b - a for a, b in zip(values, values[1:], strict=False))


def _judge_trend(trend: Trend, levels: Sequence[LevelSummary], asked: Asked) -> _Judged:
    line = next(f for f in trend.forms if f.form == "line")
    best = next(f for f in trend.forms if f.form == trend.preferred)
    if trend.preferred == "peak" and best.optimum is not None:
        return _judge_peak(trend, best, asked)
    p_interval = line.p if line.residual_sd or trend.bound else 0.0
    answer = by_school(asked.school, p_shuffle=trend.p_shuffle, p_interval=p_interval, ranges_overlap=trend.ranges_overlap)
    step = _step(levels)
    slope = line.coefficients["slope"] * step
    interval = None if line.ci95["slope"] is None else _turned((line.ci95["slope"][0] * step, line.ci95["slope"][1] * step), slope)
    size = f"about {sized(slope, interval, asked.unit)} for every {level_label(step, asked.factor_unit)}"
    span = f" (95 % interval {spanned(interval, asked.unit)})" if interval and asked.reading != "first" else ""
    verb = _hedge(answer, "rose", "seems to rise") if slope > 0 else _hedge(answer, "fell", "seems to fall")
    says = f"{start(asked.response)} {verb} with {asked.factor}: {size}{span}."
    if trend.bound:  # ranks honour a bound, a slope does not
        says, size = (
            f"{start(asked.response)} {verb} with {asked.factor}; how steeply cannot be told, because readings are only bounds.",
            "",
        )
    extremes = (float(levels[0].mean or 0.0), float(levels[-1].mean or 0.0))
    return _Judged(
        answer=answer,
        says=says,
        size=size or None,
        happened="rises" if slope > 0 else "falls",
        wanted_difference=abs(extremes[1] - extremes[0]),
        detail=_chance_sentence(trend.p_shuffle, trend.shuffle_arrangements, trend.shuffle_exact, trend.smallest_p, asked),
    )


def _judge_peak(trend: Trend, best: Form, asked: Asked) -> _Judged:
    optimum = cast(float, best.optimum)
    p = trend.p_shuffle_levels if trend.p_shuffle_levels is not None else best.p
    answer = by_school(asked.school, p_shuffle=p, p_interval=best.p, ranges_overlap=trend.ranges_overlap and (p is None or p > CLEAR_P))
    turn = "greatest" if best.coefficients["c"] < 0 else "least"
    size = f"about {sized(optimum, best.optimum_ci95, asked.factor_unit)}"
    span = f" (95 % interval {spanned(best.optimum_ci95, asked.factor_unit)})" if best.optimum_ci95 and asked.reading != "first" else ""
    verb = _hedge(answer, "is", "seems to be")
    says = f"{start(asked.response)} {verb} {turn} in the middle, with {asked.factor} at {size}{span}."
    if trend.bound:
        says = f"{start(asked.response)} {verb} {turn} in the middle; where exactly cannot be told, because readings are only bounds."
    return _Judged(
        answer=answer,
        says=says,
        size=None if trend.bound else size,
        happened="peak",
        detail=_chance_sentence(trend.p_shuffle_levels, trend.shuffle_arrangements, trend.shuffle_exact, None, asked),
    )


def _judge_groups(g: Groups, levels: Sequence[LevelSummary], asked: Asked) -> _Judged:
    p_shuffle = g.p_shuffle if g.p_shuffle is not None else g.p
    answer = by_school(asked.school, p_shuffle=p_shuffle, p_interval=g.p_anova, ranges_overlap=g.ranges_overlap)
    label = [[level_label(v, asked.factor_unit) for v in place] for place in g.places]
    top, bottom = g.places[0][0], g.places[-1][-1]
    pair = next((p for p in g.pairs if set(p.between) == {top, bottom}), None)
    size = None
    if pair is not None:
        size = f"about {sized(pair.estimate, pair.ci95, asked.unit)}"
    between = f": {label[0][0]} and {label[-1][-1]} differ by {size}" if size else ""
    if pair is not None and pair.ci95 and asked.reading != "first":
        between += f" (95 % interval {spanned(_turned(pair.ci95, pair.estimate), asked.unit)})"
    if len(g.places) == 1:
        says = (
            f"{start(asked.response)} {_hedge(answer, 'differs', 'seems to differ')} between the levels of {asked.factor}{between}, but not every "
            "neighbouring pair can be separated, so they share a place."
        )
    else:
        first = " and ".join(label[0]) if len(label[0]) < 3 else f"{', '.join(label[0][:-1])} and {label[0][-1]}"
        says = (
            f"{start(asked.response)} {_hedge(answer, 'depends', 'seems to depend')} on {asked.factor}; {first} "
            f"{'is' if len(label[0]) == 1 else 'share the place'} {'best' if len(label[0]) == 1 else 'of the best'}{between}."
        )
    happened = str(g.places[0][0]) if len(g.places[0]) == 1 else None
    return _Judged(
        answer=answer,
        says=says,
        size=size,
        happened=happened,
        wanted_difference=None if pair is None else abs(pair.estimate),
        detail=_chance_sentence(g.p_shuffle, g.shuffle_arrangements, g.shuffle_exact, g.smallest_p, asked),
    )


def _judge_survival(s: Survival, asked: Asked) -> _Judged:
    shares = sorted(s.levels, key=lambda v: v.survived / v.n, reverse=True)
    best, worst = shares[0], shares[-1]
    p = next((f.p for f in s.fisher if set(f.between) == {best.level, worst.level}), None)
    apart = best.wilson95[0] > worst.wilson95[1]
    answer = "clear" if asked.school != "shuffle" and apart else by_p(p)
    names = [level_label(v.level, asked.factor_unit) for v in (best, worst)]
    says = (
        f"{best.survived} of {best.n} survived with {names[0]} against {worst.survived} of {worst.n} with {names[1]}"
        f" (95 % intervals {best.wilson95[0]:.0%} to {best.wilson95[1]:.0%} and {worst.wilson95[0]:.0%} to {worst.wilson95[1]:.0%})."
    )
    detail = None
    if s.half_height is not None:
        detail = f"Half survive at about {level_label(float(f'{s.half_height:.3g}'), asked.factor_unit)}."
    elif s.bracket is not None and None not in s.bracket:
        detail = (
            f"The limit lies between {level_label(s.bracket[0] or 0.0, asked.factor_unit)} (passed) and "
            f"{level_label(s.bracket[1] or 0.0, asked.factor_unit)} (failed)."
        )
    return _Judged(answer=answer, says=says.replace("%", " %"), happened=str(best.level), detail=detail)


def _cannot_say(asked: Asked, judged: _Judged) -> str:
    seen = (
        " No difference is seen."
        if judged.wanted_difference == 0
        else (
            f" The difference seen, {judged.size.removeprefix('about ')}, could be luck."
            if judged.size and "middle" not in judged.says
            else ""
        )
    )
    what = "survival" if asked.response == "outcome" else asked.response
    if asked.rounds and judged.between is not None:
        one, two = judged.between
        return f"{'We cannot tell yet' if asked.reading == 'first' else 'These trials cannot tell'} whether {asked.factor} {two} beats {asked.factor} {one}.{seen}"
    if asked.reading == "first":
        return f"We cannot tell yet whether {asked.factor} changes {what}."
    return f"These trials cannot tell whether {asked.factor} changes {what}.{seen}"


def _pooled_sd(levels: Sequence[LevelSummary]) -> float | None:
    parts = [(s.n_kept - 1, s.sd) for s in levels if s.sd is not None]
    freedom = sum(n for n, _ in parts)
    return math.sqrt(sum(n * (sd or 0.0) ** 2 for n, sd in parts) / freedom) if freedom else None


def _could_have_seen(levels: Sequence[LevelSummary], asked: Asked) -> str | None:
    """What difference the present repeats would show four times in five."""
    sd, fewest = _pooled_sd(levels), min((s.n_kept for s in levels if s.n_kept), default=0)
    size = detectable(fewest, sd) if sd else None
    if size is None:
        return None
    return f"With {fewest} at each level a difference of about {sized(size, None, asked.unit)} would have shown in 4 of 5 such studies."


def _next(
    effect: Effect,
    levels: Sequence[LevelSummary],
    judged: _Judged,
    answer: Answer,
    asked: Asked,
    stops: Sequence[Finding],
    left_out: Finding | None,
) -> str:
    if stops and answer == "cannot_tell":
        return stops[0].do
    if answer != "clear" and left_out is not None:
        return left_out.do
    if isinstance(effect, NoEffect):
        return {
            "no_trials": "Run the first trials.",
            "one_level": "Run trials at another level: an effect needs two.",
            "too_few_trials": "Run more trials at every level.",
            "no_spread": "Read with a finer step: every reading is the same.",
        }[effect.reason]
    if isinstance(effect, TrendEffect) and effect.trend.best_beyond is not None and answer == "clear":
        end = levels[-1] if effect.trend.best_beyond == "highest" else levels[0]
        return f"The best may lie beyond {level_label(end.level, asked.factor_unit)}: try a level past it, within your limits."
    if answer == "clear" and isinstance(effect, GroupsEffect) and len(effect.groups.places) < len(levels):
        return "Stop if the best place is enough; more trials would separate those that share a place."
    if answer == "clear":
        return "Stop: it is clear. Change one other thing next, or test a level in between."
    fewest = min((s.n_kept for s in levels if s.n_kept), default=0)
    sd = _pooled_sd(levels)
    if sd is not None and judged.wanted_difference:
        wanted = repeats_needed(judged.wanted_difference, sd)
        if wanted is None or wanted > MOST_REPEATS:
            return (
                "A difference this small would take more repeats than a class can run. Change the variable further, or measure more finely."
            )
        more = max(wanted - fewest, 2)
        return f"About {more} more trials at each level would settle a difference of that size."
    return "Run at least two more trials at each level."


def _prediction(asked: Asked, judged: _Judged, answer: Answer) -> str | None:
    if not asked.expect:
        return None
    words = {"rises": "it rises", "falls": "it falls", "peak": "a best in the middle", "none": "no effect"}
    said = words.get(asked.expect, f"{asked.expect} is best")
    if answer == "cannot_tell":
        return f"The prediction was “{said}”; these trials cannot yet say."
    agrees = asked.expect == judged.happened
    return f"The prediction was “{said}”: the trials {'agree' if agrees else 'do not agree'}{'' if answer == 'clear' else ' so far'}."
