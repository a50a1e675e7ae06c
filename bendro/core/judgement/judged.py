"""What each kind of effect says: its answer by the school chosen, its sentence in spans, and what happened."""

from __future__ import annotations

import math
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
from .deciding import BOUND, CLEAR_P, Decision, School, Stage, answer_of, of_difference, of_groups, of_survival, of_trend, ranges_err
from .evidence import level_label
from .places import first_of, not_told_from, ranked
from .wording import ReadingLevel, chance, more_or_less, percent, sized, spanned, start


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
    survival: bool = False  # outcomes are judged, not numbers
    rounds: bool = False  # design rounds: is the newest version better than the one before
    contest: bool = False  # the places by the rule agreed come first
    stage: Stage = "whole"
    planned: bool = False  # there is a plan, so further trials would be added to it
    result: str = "mean"  # what the study calls the result of a level
    hedged: bool = False  # said as leaning at most: the level cannot be told from something else

    @property
    def clear_p(self) -> float:
        """How rare chance must be before it is set aside."""
        return -1.0 if self.hedged else BOUND[self.stage]


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
    beside: str | None = None


def span(text: str, holds: Literal["words", "size", "interval", "level"] = "words") -> Span:
    return Span(text=text, holds=holds)


def words(text: str) -> tuple[Span, ...]:
    return (span(text),)


def _interval(interval: Interval | None, unit: str | None, asked: Asked) -> tuple[Span, ...]:
    """The interval in brackets; left out at the first reading level."""
    if interval is None or asked.reading == "first" or math.isclose(*interval, rel_tol=1e-9):
        return ()  # one of no width says nothing: every trial gave the same
    return (span(" (95 % interval "), span(spanned(interval, unit), "interval"), span(")"))


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


#: Rarer than this is said as "fewer than 1 in 1 000" at the first and middle levels.
SPOKEN_P = 0.001


def _hedge(answer: Answer, sure: str, unsure: str) -> str:
    return sure if answer == "clear" else unsure


#: How the size of a difference is introduced when some of its readings are only bounds; None: it is not known from one side.
_SIZE_OF_BOUND = {None: "about ", "at_least": "at least ", "at_most": "at most "}


def _judge_difference(d: Difference, asked: Asked) -> Judged:
    decision = of_difference(d, asked.school)
    answer = answer_of(decision, asked.school, d.ranges_overlap, asked.clear_p)
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
        detail=_chance_sentence(d.p_shuffle, d.shuffle_arrangements, d.shuffle_exact, decision, asked),
        beside=_of_ranges(None if d.paired else d.n_per_level, asked),
    )


def _turned(interval: tuple[float, float], estimate: float) -> tuple[float, float]:
    return (-interval[1], -interval[0]) if estimate < 0 else interval


def _chance_sentence(p: float | None, arrangements: int | None, exact: bool | None, decision: Decision, asked: Asked) -> str | None:
    """How often luck alone does it, and where something else decided, by what."""
    if p is None or arrangements is None:
        return None
    least = 0.0 if asked.reading == "senior" else SPOKEN_P
    if p < least:
        often = "fewer than 1 in 1 000"
    elif arrangements == 0:  # from the limit: there are too many to deal them out
        often = f"about {100 * p:.2g} in 100"
    else:
        often = chance(p, arrangements, bool(exact))
    if asked.reading == "first":
        text = f"Luck alone would do this in {often} shuffles."
    else:
        text = f"Shuffling the readings among the levels gives an effect this large in {often} arrangements"
        text += f" (p = {p:.2g})." if asked.reading == "senior" else "."
    why = _why_interval(decision, asked)
    return f"{text} {why}" if why else text


def _why_interval(decision: Decision, asked: Asked) -> str | None:
    if asked.school != "shuffle":
        return None
    if decision.by == "counts":
        few = "With so few trials shuffles come in steps too coarse to decide, so" if decision.coarse else "Each level was tried once, so"
        return f"{few} the totals decide, by a test for counts."
    if decision.coarse:
        return "With so few trials shuffles come in steps too coarse to decide, so the interval decides."
    if decision.unlike:
        return "The levels have unlike numbers of trials, so the interval, which allows for unequal spreads, decides."
    if decision.unequal:
        return "One level may scatter more than another; allowing for that, luck is less easily set aside."
    return None


def _of_ranges(sizes: tuple[int, ...] | None, asked: Asked) -> str | None:
    """What the school of ranges must say of itself."""
    if asked.school != "ranges" or sizes is None:
        return None
    err = ranges_err(sizes)
    if err is None:
        return None
    luck, missed = err
    return (
        f"With these repeats ranges fail to touch by luck alone in about {_in_hundred(luck)} comparisons of nothing, and they still touch in "
        f"about {_in_hundred(missed)} where the levels differ by twice their scatter."
    )


def _in_hundred(share: float) -> str:
    return f"{100 * share:.0f} in 100" if share >= 0.01 else f"{1000 * share:.1g} in 1 000"


def _step(levels: Sequence[LevelSummary]) -> float:
    values = [float(s.level) for s in levels]
    return statistics.median(b - a for a, b in zip(values, values[1:], strict=False))


def _judge_trend(trend: Trend, levels: Sequence[LevelSummary], asked: Asked) -> Judged:
    line = next(f for f in trend.forms if f.form == "line")
    best = next(f for f in trend.forms if f.form == trend.preferred)
    if trend.preferred == "peak":
        return _judge_peak(trend, best, levels, asked)
    decision = of_trend(trend, len(levels), asked.school)
    answer = answer_of(decision, asked.school, trend.ranges_overlap, asked.clear_p)
    step = _step(levels)
    slope = line.coefficients["slope"] * step
    interval = None if line.ci95["slope"] is None else _turned((line.ci95["slope"][0] * step, line.ci95["slope"][1] * step), slope)
    verb = _hedge(answer, "rose", "seems to rise") if slope > 0 else _hedge(answer, "fell", "seems to fall")
    begins = f"{start(asked.response)} {verb} with {asked.factor}"
    more = "" if asked.factor_unit not in (None, "", "count") else " more"  # a bare number needs a word: "for every 2 more"
    plain = None if trend.bound else f"{sized(slope, interval, asked.unit)} for every {level_label(step, asked.factor_unit)}{more}"
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
        detail=_chance_sentence(trend.p_forms, trend.p_forms_arrangements, trend.p_forms_method == "all", decision, asked),
        beside=_of_ranges((levels[0].n_kept, levels[-1].n_kept), asked),
    )


def _judge_peak(trend: Trend, best: Form, levels: Sequence[LevelSummary], asked: Asked) -> Judged:
    """One turning point inside the levels tried: a best in the middle, or, turned the wrong way, a worst. Where the best lies is said
    between levels that were tried, because a curve need not be a parabola; both ends must be surely beaten before it is clear."""
    decision = of_trend(trend, len(levels), asked.school)
    answer = answer_of(decision, asked.school, trend.ranges_overlap and (decision.p is None or decision.p > CLEAR_P), asked.clear_p)
    hill = best.coefficients["c"] < 0
    right_way = hill == (asked.best_is == "high")
    if right_way and answer == "clear" and not trend.best_inside:
        answer = "leaning"
    begins = f"{start(asked.response)} {_hedge(answer, 'is', 'seems to be')} {'greatest' if hill else 'least'} in the middle"
    size = None
    if not right_way:
        spans = words(f"{begins} of the levels tried and {'less' if hill else 'greater'} towards both ends.")
    elif trend.bound or trend.best_between is None:
        why = "because readings are only bounds" if trend.bound else "because each level was tried once"
        spans = words(f"{begins}; where exactly cannot be told, {why}.")
    else:
        size = f"between {level_label(trend.best_between[0], None)} and {level_label(trend.best_between[1], asked.factor_unit)}"
        spans = (span(f"{begins}, with {asked.factor} "), span(size, "size"), span("."))
    return Judged(
        answer=answer,
        spans=spans,
        size=size,
        happened="peak" if right_way else "valley",
        detail=_chance_sentence(trend.p_forms, trend.p_forms_arrangements, trend.p_forms_method == "all", decision, asked),
        beside=_of_ranges((levels[0].n_kept, levels[-1].n_kept), asked),
    )


def _judge_groups(g: Groups, levels: Sequence[LevelSummary], asked: Asked) -> Judged:
    decision = of_groups(g, asked.school)
    answer = answer_of(decision, asked.school, g.ranges_overlap, asked.clear_p)
    effect = GroupsEffect(groups=g)
    places = ranked(levels, effect, unit=asked.unit, best_is=asked.best_is, clear=answer == "clear")
    top, bottom = places[0].level, places[-1].level
    pair = next((p for p in g.pairs if set(p.between) == {top, bottom}), None)
    plain = None if pair is None else sized(pair.estimate, pair.ci95, asked.unit)
    size = plain and f"about {plain}"
    between: tuple[Span, ...] = ()
    if pair is not None and size is not None:
        between = (
            span(": "),
            span(level_label(top, asked.factor_unit), "level"),
            span(" and "),
            span(level_label(bottom, asked.factor_unit), "level"),
            span(" differ by "),
            span(size, "size"),
            *_interval(None if pair.ci95 is None else _turned(pair.ci95, pair.estimate), asked.unit, asked),
        )
    first = first_of(places)
    names = _listed([level_label(r.level, asked.factor_unit) for r in first])
    like = [level_label(v, asked.factor_unit) for v in not_told_from(top, places, effect, clear=answer == "clear")]
    stands = "best" if len(first) == 1 and not like else "first" if len(first) == 1 else "first together"
    but = f", but cannot be told from {_listed(like if len(like) <= MOST_NAMED else [like[0], f'{len(like) - 1} others'], 'or')}" if like else ""
    spans = (
        span(f"{start(asked.response)} {_hedge(answer, 'depends', 'seems to depend')} on {asked.factor}; "),
        span(names, "level"),
        span(f" {'is' if stands == 'best' else 'stands' if len(first) == 1 else 'stand'} {stands}{but}"),
        *between,
        span("."),
    )
    numbers = all(isinstance(v, float | int) for place in g.places for v in place)
    alone = str(top) if stands == "best" else None
    every = "By ranges every pair of levels must keep apart: one pair that touches is enough for no verdict, so this way of judging misses much."
    return Judged(
        answer=answer,
        spans=spans,
        size=size,
        seen=plain,
        happened=_course(levels, asked) if numbers else alone,
        wanted_difference=None if pair is None else abs(pair.estimate),
        detail=_chance_sentence(g.p_shuffle, g.shuffle_arrangements, g.shuffle_exact, decision, asked),
        beside=every if asked.school == "ranges" else None,
    )


#: So many are named in a headline; of more the first, and how many others.
MOST_NAMED = 2


def _listed(names: Sequence[str], word: str = "and") -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} {word} {names[-1]}"


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
    answer = answer_of(of_survival(s), "shuffle", None, asked.clear_p)
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
    if s.half_between is not None and s.mixed:
        low, high = (level_label(v, asked.factor_unit) for v in s.half_between)
        where = f"at {low}" if low == high else f"between {low} and {high}"
        near = f", at about {level_label(float(f'{s.half_height:.3g}'), asked.factor_unit)} by a smooth curve" if s.half_height is not None else ""
        return f"Half survive {where}{near}."
    if s.bracket is None or None in s.bracket:
        return None
    if s.mixed:
        return "Some survived above where others failed, so the limit is mixed: there is no bracket yet."
    passed, failed = (level_label(v or 0.0, asked.factor_unit) for v in s.bracket)
    if passed == failed:
        return f"At {passed} some survive and some fail, so the limit lies near it."
    return f"The limit lies between {passed} (passed) and {failed} (failed)."
