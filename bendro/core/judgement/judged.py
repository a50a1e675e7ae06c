"""What each kind of effect says: its answer by the school chosen, its sentence in spans, and what happened."""

from __future__ import annotations

import statistics
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..results import (
    Answer,
    Difference,
    DifferenceEffect,
    Effect,
    Form,
    Groups,
    GroupsEffect,
    Interval,
    LevelSummary,
    NoEffect,
    PairedEffect,
    Span,
    Survival,
    Trend,
    TrendEffect,
)
from .evidence import level_label
from .wording import ReadingLevel, chance, more_or_less, percent, sized, spanned, start

School = Literal["shuffle", "interval", "ranges"]
#: p at or below which chance is set aside, and at or below which the answer leans. 0.1 is the least that three against
#: three can reach, so a complete separation there leans (formulas, section 3).
CLEAR_P, LEANING_P = 0.05, 0.1
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
class Judged:
    """spans: the sentence. size: the size of the effect as text; seen: the same without "about", where it is a difference that
    could be luck. happened: rises, falls, peak, valley, or a level."""

    answer: Answer
    spans: tuple[Span, ...]
    size: str | None = None
    seen: str | None = None
    detail: str | None = None
    happened: str | None = None
    wanted_difference: float | None = None
    between: tuple[str, str] | None = None


def span(text: str, holds: Literal["words", "size", "interval", "level"] = "words") -> Span:
    return Span(text=text, holds=holds)


def words(text: str) -> tuple[Span, ...]:
    return (span(text),)


def _interval(interval: Interval | None, unit: str | None, asked: Asked) -> tuple[Span, ...]:
    """The interval in brackets; left out at the first reading level."""
    if interval is None or asked.reading == "first":
        return ()
    return (span(" (95 % interval "), span(spanned(interval, unit), "interval"), span(")"))


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


def judge(effect: Effect, levels: Sequence[LevelSummary], asked: Asked) -> Judged:
    if isinstance(effect, NoEffect):
        return Judged(answer="cannot_tell", spans=words(effect.says))
    if isinstance(effect, DifferenceEffect | PairedEffect):
        return _judge_difference(effect.difference, asked)
    if isinstance(effect, TrendEffect):
        return _judge_trend(effect.trend, levels, asked)
    if isinstance(effect, GroupsEffect):
        return _judge_groups(effect.groups, levels, asked)
    return _judge_survival(effect.survival, asked)


def _hedge(answer: Answer, sure: str, unsure: str) -> str:
    return sure if answer == "clear" else unsure


#: How the size of a difference is introduced when some of its readings are only bounds; None: it is not known from one side.
_SIZE_OF_BOUND = {None: "about ", "at_least": "at least ", "at_most": "at most "}


def _judge_difference(d: Difference, asked: Asked) -> Judged:
    answer = by_school(asked.school, p_shuffle=d.p_shuffle, p_interval=d.p_t, ranges_overlap=d.ranges_overlap)
    a, b = (level_label(v, asked.factor_unit) for v in d.between)
    more = d.estimate > 0
    word = more_or_less(asked.unit, more)
    named = f"{asked.factor} " if asked.rounds else ""
    # a bound on (second − first) is one on its size only while it is above zero; below zero it turns round
    bound = {"at_least": "at_most", "at_most": "at_least"}.get(d.bound, d.bound) if d.bound and not more else d.bound
    plain = sized(d.estimate, d.ci95, asked.unit)
    size = f"{_SIZE_OF_BOUND[bound]}{plain}" if bound in _SIZE_OF_BOUND else None
    much = (span(size, "size"), span(" ")) if size else ()
    spans = (
        span(f"{start(asked.response)} {_hedge(answer, 'was', 'seems to be')} "),
        *much,
        span(f"{word} with {named}"),
        span(b, "level"),
        span(f" than with {named}"),
        span(a, "level"),
        *_interval(None if d.ci95 is None else _turned(d.ci95, d.estimate), asked.unit, asked),
        span("." if size else "; by how much cannot be told, because readings are only bounds."),
    )
    numbers = all(isinstance(v, float | int) for v in d.between)
    better = d.between[1 if more == (asked.best_is == "high") else 0]
    return Judged(
        answer=answer,
        spans=spans,
        size=size,
        seen=(plain if bound is None else size) if size else None,
        happened=("rises" if more else "falls") if numbers else str(better),
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


def _judge_trend(trend: Trend, levels: Sequence[LevelSummary], asked: Asked) -> Judged:
    line = next(f for f in trend.forms if f.form == "line")
    best = next(f for f in trend.forms if f.form == trend.preferred)
    if trend.preferred == "peak":
        return _judge_peak(trend, best, asked)
    p_interval = line.p if line.residual_sd or trend.bound else 0.0
    answer = by_school(asked.school, p_shuffle=trend.p_shuffle, p_interval=p_interval, ranges_overlap=trend.ranges_overlap)
    step = _step(levels)
    slope = line.coefficients["slope"] * step
    interval = None if line.ci95["slope"] is None else _turned((line.ci95["slope"][0] * step, line.ci95["slope"][1] * step), slope)
    verb = _hedge(answer, "rose", "seems to rise") if slope > 0 else _hedge(answer, "fell", "seems to fall")
    begins = f"{start(asked.response)} {verb} with {asked.factor}"
    plain = None if trend.bound else f"{sized(slope, interval, asked.unit)} for every {level_label(step, asked.factor_unit)}"
    size = plain and f"about {plain}"
    spans = (
        (span(f"{begins}: "), span(size, "size"), *_interval(interval, asked.unit, asked), span("."))
        if size
        else words(f"{begins}; how steeply cannot be told, because readings are only bounds.")  # ranks honour a bound, a slope does not
    )
    extremes = (float(levels[0].mean or 0.0), float(levels[-1].mean or 0.0))
    return Judged(
        answer=answer,
        spans=spans,
        size=size,
        seen=plain,
        happened="rises" if slope > 0 else "falls",
        wanted_difference=abs(extremes[1] - extremes[0]),
        detail=_chance_sentence(trend.p_shuffle, trend.shuffle_arrangements, trend.shuffle_exact, trend.smallest_p, asked),
    )


def _judge_peak(trend: Trend, best: Form, asked: Asked) -> Judged:
    """One turning point inside the levels tried: a best in the middle, or, turned the wrong way, a worst, of which no optimum is
    offered."""
    p = trend.p_shuffle_levels if trend.p_shuffle_levels is not None else best.p
    answer = by_school(asked.school, p_shuffle=p, p_interval=best.p, ranges_overlap=trend.ranges_overlap and (p is None or p > CLEAR_P))
    hill = best.coefficients["c"] < 0
    right_way = hill == (asked.best_is == "high")
    begins = f"{start(asked.response)} {_hedge(answer, 'is', 'seems to be')} {'greatest' if hill else 'least'} in the middle"
    size = None
    if not right_way:
        spans = words(f"{begins} of the levels tried and {'less' if hill else 'greater'} towards both ends.")
    elif trend.bound or best.optimum is None:
        spans = words(f"{begins}; where exactly cannot be told, because readings are only bounds.")
    else:
        size = f"about {sized(best.optimum, best.optimum_ci95, asked.factor_unit)}"
        spans = (
            span(f"{begins}, with {asked.factor} at "),
            span(size, "size"),
            *_interval(best.optimum_ci95, asked.factor_unit, asked),
            span("."),
        )
    return Judged(
        answer=answer,
        spans=spans,
        size=size,
        happened="peak" if right_way else "valley",
        detail=_chance_sentence(trend.p_shuffle_levels, trend.shuffle_arrangements, trend.shuffle_exact, None, asked),
    )


def _judge_groups(g: Groups, levels: Sequence[LevelSummary], asked: Asked) -> Judged:
    p_shuffle = g.p_shuffle if g.p_shuffle is not None else g.p
    answer = by_school(asked.school, p_shuffle=p_shuffle, p_interval=g.p_anova, ranges_overlap=g.ranges_overlap)
    label = [[level_label(v, asked.factor_unit) for v in place] for place in g.places]
    top, bottom = g.places[0][0], g.places[-1][-1]
    pair = next((p for p in g.pairs if set(p.between) == {top, bottom}), None)
    plain = None if pair is None else sized(pair.estimate, pair.ci95, asked.unit)
    size = plain and f"about {plain}"
    between: tuple[Span, ...] = ()
    if pair is not None and size is not None:
        between = (
            span(": "),
            span(label[0][0], "level"),
            span(" and "),
            span(label[-1][-1], "level"),
            span(" differ by "),
            span(size, "size"),
            *_interval(None if pair.ci95 is None else _turned(pair.ci95, pair.estimate), asked.unit, asked),
        )
    if len(g.places) == 1:
        spans = (
            span(f"{start(asked.response)} {_hedge(answer, 'differs', 'seems to differ')} between the levels of {asked.factor}"),
            *between,
            span("; not every neighbouring pair can be separated, so they share a place."),
        )
    else:
        first = " and ".join(label[0]) if len(label[0]) < 3 else f"{', '.join(label[0][:-1])} and {label[0][-1]}"
        spans = (
            span(f"{start(asked.response)} {_hedge(answer, 'depends', 'seems to depend')} on {asked.factor}; "),
            span(first, "level"),
            span(" is best" if len(label[0]) == 1 else " share the best place"),
            *between,
            span("."),
        )
    numbers = all(isinstance(v, float | int) for place in g.places for v in place)
    alone = str(g.places[0][0]) if len(g.places[0]) == 1 else None
    return Judged(
        answer=answer,
        spans=spans,
        size=size,
        seen=plain,
        happened=_course(levels, asked) if numbers else alone,
        wanted_difference=None if pair is None else abs(pair.estimate),
        detail=_chance_sentence(g.p_shuffle, g.shuffle_arrangements, g.shuffle_exact, g.smallest_p, asked),
    )


def _course(levels: Sequence[LevelSummary], asked: Asked) -> str | None:
    """What the means do along a variable of numbers when its levels were compared as groups; None where they do none of these."""
    means = [s.mean for s in levels if s.mean is not None]
    if len(means) < 2:
        return None
    if means == sorted(means):
        return "rises"
    if means == sorted(means, reverse=True):
        return "falls"
    inside = range(1, len(means) - 1)
    if means.index(max(means)) in inside:
        return "peak" if asked.best_is == "high" else "valley"
    if means.index(min(means)) in inside:
        return "peak" if asked.best_is == "low" else "valley"
    return None


def _judge_survival(s: Survival, asked: Asked) -> Judged:
    shares = sorted(s.levels, key=lambda v: v.survived / v.n, reverse=True)
    best, worst = shares[0], shares[-1]
    p = next((f.p for f in s.fisher if set(f.between) == {best.level, worst.level}), None)
    apart = best.wilson95[0] > worst.wilson95[1]
    answer = "clear" if asked.school != "shuffle" and apart else by_p(p)
    names = [level_label(v.level, asked.factor_unit) for v in (best, worst)]
    of = [f"{v.survived} of {v.n}" for v in (best, worst)]
    spans = (
        span(of[0], "size"),
        span(" survived with "),
        span(names[0], "level"),
        span(" against "),
        span(of[1], "size"),
        span(" with "),
        span(names[1], "level"),
        span(" (95 % intervals "),
        span(_shares(best.wilson95), "interval"),
        span(" and "),
        span(_shares(worst.wilson95), "interval"),
        span(")."),
    )
    return Judged(answer=answer, spans=spans, happened=_survival_course(s, best.level), detail=_limit_sentence(s, asked))


def _survival_course(s: Survival, best: float | str) -> str:
    numbers = sorted(float(v.level) for v in s.levels if isinstance(v.level, float | int))
    if len(numbers) < len(s.levels):
        return str(best)
    return "rises" if best == numbers[-1] else "falls" if best == numbers[0] else "peak"


def _shares(interval: Interval) -> str:
    return f"{percent(interval[0])} to {percent(interval[1])}"


def _limit_sentence(s: Survival, asked: Asked) -> str | None:
    """Where survival ends on a variable of numbers."""
    if s.half_height is not None:
        return f"Half survive at about {level_label(float(f'{s.half_height:.3g}'), asked.factor_unit)}."
    if s.bracket is None or None in s.bracket:
        return None
    passed, failed = (level_label(v or 0.0, asked.factor_unit) for v in s.bracket)
    if passed == failed:
        return f"At {passed} some survive and some fail, so the limit lies near it."
    return f"The limit lies between {passed} (passed) and {failed} (failed)."
