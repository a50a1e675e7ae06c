"""What each kind of effect says: its answer by the school chosen, its sentence in spans, and what happened."""

from __future__ import annotations

import statistics
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from ..results import (
    Answer,
    Difference,
    DifferenceEffect,
    Effect,
    Form,
    Groups,
    GroupsEffect,
    Interval,
    LevelName,
    LevelSummary,
    NoEffect,
    Pair,
    PairedEffect,
    Span,
    Survival,
    Trend,
    TrendEffect,
)
from ..statistics.blocks import PAIRS_ONE_WAY, SEVERAL
from ..written import level_label, listed, plural, start
from .deciding import CLEAR_P, Decision, answer_of, by_p, of_difference, of_groups, of_slope, of_survival, of_trend, pairs_err, ranges_err
from .places import first_of, not_told_from, ranked
from .wording import NOTHING_TO_SHUFFLE, begins_at, chance, more_or_less, percent, several, sized, spanned, with_level

if TYPE_CHECKING:
    from ..context import Context


@dataclass(frozen=True, slots=True, kw_only=True)
class Judged:
    """spans: the sentence; more: what is said after it. size: the size of the effect as text; seen: the same without "about", where it is a
    difference that could be luck. happened: rises, falls, peak, valley, or a level."""

    answer: Answer
    spans: tuple[Span, ...]
    more: tuple[Span, ...] = ()
    size: str | None = None
    seen: str | None = None
    detail: str | None = None
    happened: str | None = None
    wanted_difference: float | None = None
    between: tuple[str, str] | None = None
    beside: str | None = None

    @property
    def headline(self) -> str:
        """The sentence as text."""
        return said(self.spans)


def said(spans: Sequence[Span]) -> str:
    """Spans read one after the other."""
    return "".join(s.text for s in spans)


def span(text: str, holds: Literal["words", "size", "interval", "level"] = "words") -> Span:
    return Span(text=text, holds=holds)


def words(text: str) -> tuple[Span, ...]:
    return (span(text),)


def decimals_of_means(levels: Sequence[LevelSummary]) -> int | None:
    """Decimals with which the means of these levels are written."""
    return max((s.places for s in levels if s.places is not None), default=None)


def _interval(interval: Interval | None, asked: Context, value: float, most: int | None) -> tuple[Span, ...]:
    """The interval in a sentence of its own; left out at the first reading level."""
    if interval is None or asked.reading == "first" or interval[1] - interval[0] <= 1e-9 * max(abs(v) for v in interval):
        return ()  # one of no width says nothing: every trial gave the same
    return (span("The 95 % interval goes from "), span(spanned(interval, asked.unit, value, most), "interval"), span("."))


def _open(near: float | None, asked: Context, value: float, most: int | None) -> tuple[Span, ...]:
    """An interval that is open on the far side: where it begins."""
    if near is None or asked.reading == "first":
        return ()
    begins = begins_at(near if value > 0 else -near, abs(value), asked.unit, most)
    return (span("The 95 % interval begins at "), span(begins, "interval"), span(" and is open above."))


def _as_whole(near: float | None, value: float) -> Interval | None:
    """An open interval as if it were whole, by which its size has its decimals."""
    return None if near is None else (min(near, 2 * value - near), max(near, 2 * value - near))


def judge(effect: Effect, levels: Sequence[LevelSummary], asked: Context) -> Judged:
    if isinstance(effect, NoEffect):
        return Judged(answer="cannot_tell", spans=words(effect.says))
    if isinstance(effect, DifferenceEffect | PairedEffect):
        return _judge_difference(effect.difference, levels, asked)
    if isinstance(effect, TrendEffect):
        return _judge_trend(effect.trend, levels, asked)
    if isinstance(effect, GroupsEffect):
        return _judge_groups(effect.groups, levels, asked)
    return _judge_survival(effect.survival, asked)


#: Rarer than this is said as "fewer than 1 in 1,000" at the first and middle levels.
SPOKEN_P = 0.001


def _hedge(answer: Answer, sure: str, unsure: str) -> str:
    return sure if answer == "clear" else unsure


#: How the size of a difference is introduced when some of its readings are only bounds; None: it is not known from one side.
_SIZE_OF_BOUND = {None: "about ", "at_least": "at least ", "at_most": "at most "}


def _judge_difference(d: Difference, levels: Sequence[LevelSummary], asked: Context) -> Judged:
    decision = of_difference(d, asked.evidence)
    answer = answer_of(decision, asked.evidence, None if d.paired and (d.pairs or 0) < PAIRS_ONE_WAY else d.ranges_overlap, asked.clear_p)
    a, b = (level_label(v, asked.factor_unit) for v in d.between)
    more = d.estimate > 0
    word = more_or_less(asked.unit, more)
    named = f"{asked.factor} " if asked.rounds else ""
    # a bound on (second − first) is one on its size only while it is above zero; below zero it turns round
    bound = {"at_least": "at_most", "at_most": "at_least"}.get(d.bound, d.bound) if d.bound and not more else d.bound
    most = decimals_of_means(levels)
    plain = sized(d.estimate, d.ci95 or _as_whole(d.near_end, d.estimate), asked.unit, most)
    size = f"{_SIZE_OF_BOUND[bound]}{plain}" if bound in _SIZE_OF_BOUND and not asked.on_rungs else None
    much = (span(size, "size"), span(" ")) if size else ()
    spans = (
        span(f"{start(asked.response)} {_hedge(answer, *(('were', 'seem to be') if several(asked.response) else ('was', 'seems to be')))} "),
        *much,
        span(f"{word} {with_level(b, named)}"),
        span(b, "level"),
        span(f" than {with_level(a, named)}"),
        span(a, "level"),
        span("."),
    )
    unsized = words("By how much cannot be told finer than the rungs." if asked.on_rungs else "By how much cannot be told, because readings are only bounds.")
    numbers = all(isinstance(v, float | int) for v in d.between)
    better = d.between[1 if more == (asked.best_is == "high") else 0]
    return Judged(
        answer=answer,
        spans=spans,
        more=(_open(d.near_end, asked, d.estimate, most) if size else ()) or (_interval(None if d.ci95 is None else _turned(d.ci95, d.estimate), asked, d.estimate, most) if size else unsized),
        size=size,
        seen=(plain if bound is None else size) if size else None,
        happened=("rises" if more else "falls") if numbers else str(better),
        wanted_difference=abs(d.estimate),
        between=(a, b),
        detail=_chance_sentence(d.p_shuffle, d.shuffle_arrangements, d.shuffle_exact, decision, asked),
        beside=_of_pairs(d.pairs or 0, asked) if d.paired else _of_ranges(d.n_per_level, asked),
    )


def _turned(interval: tuple[float, float], estimate: float) -> tuple[float, float]:
    return (-interval[1], -interval[0]) if estimate < 0 else interval


def _chance_sentence(p: float | None, arrangements: int | None, exact: bool | None, decision: Decision, asked: Context) -> str | None:
    """How often luck alone does it, and where something else decided, by what."""
    if p is None or arrangements is None:
        return None
    if exact and arrangements == 1:
        return NOTHING_TO_SHUFFLE
    least = 0.0 if asked.reading == "senior" else SPOKEN_P
    if p < least:
        often = "fewer than 1 in 1,000"
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


def _why_interval(decision: Decision, asked: Context) -> str | None:
    if asked.evidence != "shuffle":
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


def _of_pairs(pairs: int, asked: Context) -> str | None:
    """What the school of ranges must say of itself where pairs are compared."""
    if asked.evidence != "ranges":
        return None
    luck = f"Pairs that all point one way count as a difference; luck alone points {plural(pairs, 'pair')} one way in {_in_hundred(pairs_err(pairs))}"
    return f"{luck}." if pairs >= PAIRS_ONE_WAY else f"{luck}, so below {PAIRS_ONE_WAY} pairs there is no verdict."


def _of_ranges(sizes: tuple[int, ...] | None, asked: Context) -> str | None:
    """What the school of ranges must say of itself."""
    if asked.evidence != "ranges" or sizes is None:
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
    return f"{100 * share:.0f} in 100" if share >= 0.01 else f"{1000 * share:.1g} in 1,000"


def _step(levels: Sequence[LevelSummary]) -> float:
    values = [float(s.level) for s in levels]
    return statistics.median(b - a for a, b in zip(values, values[1:], strict=False))


def _judge_trend(trend: Trend, levels: Sequence[LevelSummary], asked: Context) -> Judged:
    decision = of_trend(trend, len(levels), asked.evidence, asked.looks_first)
    if trend.middle is not None:
        return _judge_middle(trend, decision, levels, asked, trend.middle)
    bends = decision.shape == "bend" and by_p(of_slope(trend, len(levels), asked.evidence, asked.looks_first).p, asked.clear_p) != "clear"
    turns = _turns_inside(trend, levels)
    if turns is not None and (bends or (trend.preferred == "peak" and trend.rise_ci95 is None)):
        return _judge_middle(trend, decision, levels, asked, turns)
    answer = answer_of(decision, asked.evidence, trend.ranges_overlap, asked.clear_p)
    if bends and answer == "clear":  # it bends, but to which side it goes is not known
        answer = "leaning"
    line = next(f for f in trend.forms if f.form == "line")
    slope = line.coefficients["slope"]
    seem = "seem" if several(asked.response) else "seems"
    verb = _hedge(answer, "rose", f"{seem} to rise") if slope > 0 else _hedge(answer, "fell", f"{seem} to fall")
    begins = f"{start(asked.response)} {verb} with {asked.factor}"
    plain, interval, value, most = _how_steep(trend, line, levels, asked)
    size = plain and f"about {plain}"
    spans = (span(f"{begins}: "), span(size, "size"), span(".")) if size else words(f"{begins}.")
    # ranks honour a bound, a slope does not
    more = _interval(interval, asked, value, most) if size else words("How steeply cannot be told, because readings are only bounds.")
    if answer == "clear" and (shape := _shape_said(trend, asked, "rises" if slope > 0 else "falls")):
        more = (span(f"{shape} " if more else shape), *more)
    return Judged(
        answer=answer,
        spans=spans,
        more=more,
        size=size,
        seen=plain,
        happened="rises" if slope > 0 else "falls",
        wanted_difference=abs(float(levels[-1].mean or 0.0) - float(levels[0].mean or 0.0)),
        detail=_chance_of_shape(trend, decision, asked),
        beside=_of_ranges((levels[0].n_kept, levels[-1].n_kept), asked) or _of_spreads(trend.spreads_ask, answer, decision, levels),
    )


def _how_steep(trend: Trend, line: Form, levels: Sequence[LevelSummary], asked: Context) -> tuple[str | None, Interval | None, float, int | None]:
    """What it rises or falls by, its interval and the value to write it by: for every step of the levels where a straight line fits, else from
    the first level to the last. None where readings are only bounds."""
    most = decimals_of_means(levels)
    if trend.bound:
        return None, None, 0.0, most
    if trend.shape is not None and trend.rise is not None:
        ends = f"from {level_label(levels[0].level, asked.factor_unit)} to {level_label(levels[-1].level, asked.factor_unit)}"
        interval = None if trend.rise_ci95 is None else _turned(trend.rise_ci95, trend.rise)
        return f"{sized(trend.rise, interval, asked.unit, most)} {ends}", interval, trend.rise, most
    step = _step(levels)
    slope = line.coefficients["slope"] * step
    interval = None if line.ci95["slope"] is None else _turned((line.ci95["slope"][0] * step, line.ci95["slope"][1] * step), slope)
    bare = "" if asked.factor_unit not in (None, "", "count") else " more"  # a bare number needs a word: "for every 2 more"
    return f"{sized(slope, interval, asked.unit, most)} for every {level_label(step, asked.factor_unit)}{bare}", interval, slope, most


def _turns_inside(trend: Trend, levels: Sequence[LevelSummary]) -> Literal["hill", "valley"] | None:
    """Whether the curve turns at a level in the middle: its highest mean there where it bends down, its lowest where it bends up."""
    curve = next((f for f in trend.forms if f.form == "peak"), None)
    means = [float(s.mean or 0.0) for s in levels]
    if curve is None or len(means) < 3:
        return None
    hill = curve.coefficients["c"] < 0
    at = means.index(max(means) if hill else min(means))
    return ("hill" if hill else "valley") if 0 < at < len(means) - 1 else None


def _shape_said(trend: Trend, asked: Context, verb: str) -> str | None:
    """What it does that a straight line does not."""
    shape = trend.shape
    if shape is None:
        return None
    low, high = (None if v is None else level_label(v, asked.factor_unit) for v in (shape.low, shape.high))
    match shape.kind:
        case "step":
            return f"There is a step between {low} and {high}; on either side of it little changes."
        case "levels_off":
            return f"From {low} on it hardly {verb}."
        case "starts_late":
            return f"Up to {low} it hardly {verb}."
        case "less_and_less":
            return f"It {verb} less and less."
        case "more_and_more":
            return f"It {verb} more and more."
        case "other":
            return "It does not go along a straight line."


def _chance_of_shape(trend: Trend, decision: Decision, asked: Context) -> str | None:
    """How often luck alone does it, for the shape that the answer goes by."""
    p = trend.bend.p_shuffle if decision.shape == "bend" and trend.bend is not None else trend.p_shuffle
    text = _chance_sentence(p, trend.shuffle_arrangements, trend.shuffle_method == "all", decision, asked)
    if text is None or decision.first is None or decision.by != "shuffle" or decision.unequal or p is None or not p <= CLEAR_P < (decision.p or 0.0):
        return text
    one, other = ("a slope", "a bend") if decision.shape == "slope" else ("a bend", "a slope")
    rare = "4" if decision.first == decision.shape else "1"
    return f"{text} {start(other)} was looked for as well, so {one} must be rarer than {rare} in 100."


#: In how many of 100 studies without an effect, at most, one is called clear where one level scatters three times as much (docs/calibration.md).
ERRS_WITH_SPREADS = 8


def _of_spreads(ask: bool, answer: Answer, decision: Decision, levels: Sequence[LevelSummary]) -> str | None:
    """What must be said where a clear answer rests on spreads that differ."""
    if not ask or answer != "clear" or len({s.n_kept for s in levels}) > 1:
        return None
    return f"One level scatters more than the others. The verdict allows for it, but where one scatters three times as much up to {ERRS_WITH_SPREADS} in 100 studies of nothing are called clear."


def _judge_middle(trend: Trend, decision: Decision, levels: Sequence[LevelSummary], asked: Context, turns: Literal["hill", "valley"]) -> Judged:
    """A best, or a worst, at a level in the middle. It is clear only where that level surely beats both ends; where the best lies is said
    between levels that were tried, because a curve need not be a parabola."""
    hill = turns == "hill"
    answer = answer_of(decision, asked.evidence, _middle_touches(levels, hill=hill), asked.clear_p)
    right_way = hill == (asked.best_is == "high")
    if answer == "clear" and trend.middle is None:
        answer = "leaning"
    are = ("are", "seem to be") if several(asked.response) else ("is", "seems to be")
    begins = f"{start(asked.response)} {_hedge(answer, *are)} {'greatest' if hill else 'least'} in the middle"
    size = None
    more: tuple[Span, ...] = ()
    if not right_way:
        spans = words(f"{begins} of the levels tried, {'less' if hill else 'greater'} towards both ends.")
    elif trend.bound or trend.best_between is None:
        why = "because readings are only bounds" if trend.bound else "because each level was tried once"
        spans, more = words(f"{begins}."), words(f"Where exactly cannot be told, {why}.")
    else:
        size = f"between {level_label(trend.best_between[0], None)} and {level_label(trend.best_between[1], asked.factor_unit)}"
        spans = (span(f"{begins}, with {asked.factor} "), span(size, "size"), span("."))
    return Judged(
        answer=answer,
        spans=spans,
        more=more,
        size=size,
        happened="peak" if right_way else "valley",
        detail=_chance_of_shape(trend, decision, asked),
        beside=_of_ranges((levels[0].n_kept, levels[-1].n_kept), asked) or _of_spreads(trend.spreads_ask, answer, decision, levels),
    )


def _middle_touches(levels: Sequence[LevelSummary], *, hill: bool) -> bool:
    """By ranges: whether the level in the middle that stands out touches either end."""
    inside = (max if hill else min)(levels[1:-1], key=lambda s: s.mean or 0.0)
    edges = [(inside.min, end.max) if hill else (end.min, inside.max) for end in (levels[0], levels[-1])]
    return any(above is None or below is None or above <= below for above, below in edges)


def _judge_groups(g: Groups, levels: Sequence[LevelSummary], asked: Context) -> Judged:
    decision = of_groups(g, asked.evidence)
    answer = answer_of(decision, asked.evidence, g.ranges_overlap, asked.clear_p)
    effect = GroupsEffect(groups=g)
    places = ranked(levels, effect, unit=asked.unit, best_is=asked.best_is, clear=answer == "clear", outside=asked.outside)
    inside = [r for r in places if r.place is not None] or list(places)
    top, bottom = inside[0].level, inside[-1].level
    pair = next((p for p in g.pairs if set(p.between) == {top, bottom}), None)
    most = decimals_of_means(levels)
    bound = _bound_of_ends(top, bottom, pair, levels)
    plain = None if pair is None or bound == "unknown" or asked.on_rungs else sized(pair.estimate, pair.ci95 or _as_whole(pair.near_end, pair.estimate), "places" if asked.places else asked.unit, most)
    size = plain and f"{_SIZE_OF_BOUND[bound]}{plain}"
    ends: tuple[Span, ...] = ()
    if pair is not None and size is not None:
        ends = (
            span(start(level_label(top, asked.factor_unit)), "level"),
            span(" and "),
            span(level_label(bottom, asked.factor_unit), "level"),
            span(" differ by "),
            span(f"{size} a trial" if asked.result == "total" else size, "size"),
            *_in_brackets(None if pair.ci95 is None else _turned(pair.ci95, pair.estimate), asked, pair.estimate, most),
            span("."),
            *((span(" "), *opened) if (opened := _open(pair.near_end, asked, pair.estimate, most)) else ()),
        )
    first = first_of(inside)
    names = listed([level_label(r.level, asked.factor_unit) for r in first])
    like = [level_label(v, asked.factor_unit) for v in not_told_from(top, inside, effect, clear=answer == "clear")]
    alone_first = len(first) == 1 and not like
    but = words(f"It cannot be told from {listed(like if len(like) <= MOST_NAMED else [like[0], f'{len(like) - 1} others'], 'or')}. ") if like and len(first) == 1 else ()
    within = f" at like {blocks_called(asked)}" if asked.not_planned and asked.pair_by else ""
    stands = _is_best(asked) if alone_first else _on_average(asked, many=len(first) > 1)
    spans = (
        span(f"{start(asked.response)} {_hedge(answer, *(('depend', 'seem to depend') if several(asked.response) else ('depends', 'seems to depend')))} on {asked.factor}{within}; "),
        span(names, "level"),
        span(f"{stands}."),
    )
    numbers = all(isinstance(v, float | int) for place in g.places for v in place)
    alone = str(top) if alone_first else None
    every = (
        f"By ranges every two levels must differ the same way in every {asked.block_called}, and there must be at least {PAIRS_ONE_WAY}; so this way of judging misses much."
        if g.blocked
        else "By ranges every pair of levels must keep apart: one pair that touches is enough for no verdict, so this way of judging misses much."
    )
    return Judged(
        answer=answer,
        spans=spans,
        more=(*but, *ends),
        size=size,
        seen=plain,
        happened=_course(levels, asked) if numbers else alone,
        wanted_difference=None if pair is None else abs(pair.estimate),
        detail=_chance_sentence(g.p_shuffle, g.shuffle_arrangements, g.shuffle_exact, decision, asked),
        beside=every if asked.evidence == "ranges" else _of_spreads(g.spreads_ask, answer, decision, levels) or _of_whom(g, answer, asked),
    )


def blocks_called(asked: Context) -> str:
    """Several of the blocks that trials are compared within."""
    one, of, rest = asked.block_called.partition(" of ")
    return "people" if one == "person" else f"{one}s{of}{rest}"


def _of_whom(g: Groups, answer: Answer, asked: Context) -> str | None:
    """For whom an answer within groups holds, where they repeated levels."""
    if g.over is None or g.blocks is None or answer == "cannot_tell":
        return None
    many = blocks_called(asked)
    if g.over == "these":
        return f"This is so for these {g.blocks} {many}; what holds for {many} like these would take at least {SEVERAL}."
    return f"This holds for {many} like these: each one’s mean at a level counts once, however often it repeated it."


def _bound_of_ends(top: LevelName, bottom: LevelName, pair: Pair | None, levels: Sequence[LevelSummary]) -> Literal["at_least", "at_most", "unknown"] | None:
    """What the difference between the first and the last is, where the mean of either is only a bound."""
    kinds = {s.level: s.mean_is for s in levels}
    one, two = kinds.get(top, "exact"), kinds.get(bottom, "exact")
    if pair is None or (one, two) == ("exact", "exact"):
        return None
    first_greater = (pair.estimate < 0) == (pair.between[0] == top)
    high, low = (one, two) if first_greater else (two, one)
    if high in ("exact", "at_least") and low in ("exact", "at_most"):
        return "at_least"
    return "at_most" if high in ("exact", "at_most") and low in ("exact", "at_least") else "unknown"


def _on_average(asked: Context, *, many: bool) -> str:
    """What is said of those that stand first without being told from the next."""
    if asked.places:
        return f" land{'' if many else 's'} {'first' if asked.best_is == 'low' else 'last'} on average"
    if not asked.names_best:  # said beside another measure: what it is first in has to be said
        return f" {'have' if many else 'has'} the {most_of(asked)} on average"
    return " stand first together" if many else " stands first"


def _is_best(asked: Context) -> str:
    """What is said of the one that stands first: best, where the study goes by this measure alone; else what it is by this measure."""
    if asked.places:
        return " lands first" if asked.best_is == "low" else " lands last"
    if asked.names_best and not asked.decision:
        return " is best"
    return f" gives the {most_of(asked)}"


def most_of(asked: Context) -> str:
    """The superlative of the better end: "greatest", "longest", "fewest"."""
    word = more_or_less(asked.unit, asked.best_is == "high")
    most = {"greater": "greatest", "less": "least", "longer": "longest", "shorter": "shortest", "more": "most", "fewer": "fewest"}
    return most.get(word, word.removesuffix("er") + "est")


def _in_brackets(interval: Interval | None, asked: Context, value: float, most: int | None) -> tuple[Span, ...]:
    """An interval within a sentence; left out at the first reading level."""
    if interval is None or not _interval(interval, asked, value, most):
        return ()
    return (span(" (95 % interval "), span(spanned(interval, asked.unit, value, most), "interval"), span(")"))


#: So many are named in a headline; of more the first, and how many others.
MOST_NAMED = 2


def _course(levels: Sequence[LevelSummary], asked: Context) -> str | None:
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


def _judge_survival(s: Survival, asked: Context) -> Judged:
    shares = sorted(s.levels, key=lambda v: v.survived / v.n, reverse=True)
    best, worst = shares[0], shares[-1]
    answer = answer_of(of_survival(s), "shuffle", None, asked.clear_p)
    names = [level_label(v.level, asked.factor_unit) for v in (best, worst)]
    of = [f"{v.survived} of {v.n}" for v in (best, worst)]
    alike = best.survived * worst.n == worst.survived * best.n
    spans = (
        (span(of[0], "size"), span(f" {asked.passed} {with_level(names[0])}"), span(names[0], "level"), span(", "), span(of[1], "size"), span(f" {with_level(names[1])}"), span(names[1], "level"), span("."))
        if not alike
        else (span(f"As many {asked.passed} {with_level(names[0])}"), span(names[0], "level"), span(f" as {with_level(names[1])}"), span(names[1], "level"), span(f": {of[0]} and {of[1]}."))
    )
    every = words(f"A trial counts only when {'both' if asked.payloads == 2 else f'all {asked.payloads}'} {asked.passed}.") if asked.payloads > 1 else ()
    more = (
        *((*every, span(" ")) if every else ()),
        span("95 % intervals: "),
        span(_shares(best.wilson95), "interval"),
        span(" and "),
        span(_shares(worst.wilson95), "interval"),
        span("."),
    )
    return Judged(answer=answer, spans=spans, more=more if asked.reading != "first" else every, happened=_survival_course(s, best.level), detail=_limit_sentence(s, asked))


def _survival_course(s: Survival, best: float | str) -> str:
    numbers = sorted(float(v.level) for v in s.levels if isinstance(v.level, float | int))
    if len(numbers) < len(s.levels):
        return str(best)
    return "rises" if best == numbers[-1] else "falls" if best == numbers[0] else "peak"


def _shares(interval: Interval) -> str:
    return f"{percent(interval[0])} to {percent(interval[1])}"


def _saved_from(s: Survival) -> tuple[float, float] | None:
    """The highest level that none survived and the lowest that all survived, where more of the variable saves: then no limit is passed on
    the way up. None otherwise."""
    none = [float(v.level) for v in s.levels if v.survived == 0]
    every = [float(v.level) for v in s.levels if v.survived == v.n]
    if not none or not every or max(none) > min(every):
        return None
    between = [float(v.level) for v in s.levels if 0 < v.survived < v.n]
    return (max(none), min(every)) if all(max(none) < v < min(every) for v in between) else None


def _limit_sentence(s: Survival, asked: Context) -> str | None:
    """Where survival ends on a variable of numbers."""
    lived = asked.passed == "survived"
    if s.half_between is not None and s.mixed:
        low, high = (level_label(v, asked.factor_unit) for v in s.half_between)
        where = f"at {low}" if low == high else f"between {low} and {high}"
        within = s.half_height is not None and s.half_between[0] <= s.half_height <= s.half_between[1]  # a curve of another shape says nothing here
        near = f", at about {level_label(float(f'{s.half_height:.3g}'), asked.factor_unit)} by a smooth curve" if within else ""
        return f"Half {'survive' if lived else asked.passed} {where}{near}."
    if s.bracket is None or None in s.bracket:
        return None
    if (saved := _saved_from(s)) is not None:
        low, high = (level_label(v, asked.factor_unit) for v in saved)
        return f"None {asked.passed} up to {low}, and all from {high} on."
    if s.mixed or (s.bracket[0] or 0.0) > (s.bracket[1] or 0.0):
        return f"Some {asked.passed} above where others {'failed' if lived else 'did not'}, so the limit is mixed: there is no bracket yet."
    passed, failed = (level_label(v or 0.0, asked.factor_unit) for v in s.bracket)
    if passed == failed:
        return f"At {passed} some {'survive and some fail' if lived else f'{asked.passed} and some did not'}, so the limit lies near it."
    return f"The limit lies between {passed} (passed) and {failed} (failed)."
