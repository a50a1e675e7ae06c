"""The verdict: clear, leaning or cannot tell, in one sentence, with what limits it and what to do next."""

from __future__ import annotations

import math
import statistics
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Literal

from ..results import (
    Act,
    Answer,
    DifferenceEffect,
    Effect,
    Finding,
    Groups,
    GroupsEffect,
    LevelSummary,
    MainEffect,
    NoEffect,
    PairedEffect,
    Span,
    SurvivalEffect,
    TrendEffect,
    TwoFound,
    Verdict,
)
from ..statistics.power import Design, detectable_by, sd_at_most
from ..written import RESULT_SAID, level_label, listed, start
from .deciding import ADDED_P, RESERVE_USED_P, Stage
from .evidence import FEW
from .foreseen import TRIED, Seen
from .judged import Judged, blocks_called, decimals_of_means, judge, said, span, words
from .places import first_of, ranked
from .wording import EXPECTED, sized

if TYPE_CHECKING:
    from ..context import Context

#: More repeats than this in one study is not a plan.
MOST_REPEATS = TRIED[-1]


def _lower_first(spans: tuple[Span, ...]) -> tuple[Span, ...]:
    first = spans[0]
    keep = first.holds == "level" or first.text[1:2].isupper()  # a name stays as it is written
    return spans if keep else (first.model_copy(update={"text": first.text[:1].lower() + first.text[1:]}), *spans[1:])


def verdict(effect: Effect, levels: Sequence[LevelSummary], findings: Sequence[Finding], asked: Context, *, two: TwoFound | None = None) -> Verdict:
    """The verdict on an effect. A finding caps the answer as it says; when more than one thing was changed the verdict is about the design, never about the variable. two: of two variables, what each
    does."""
    judged = judge_two(two, asked) if two is not None else judge(effect, levels, asked)
    stops = [f for f in findings if f.caps == "cannot_tell"]
    mixed = [f for f in findings if f.caps == "leaning"]
    design = any(f.design and _about_newest(f, levels) for f in findings)
    answer: Answer = "cannot_tell" if stops and not (design and len(stops) == 1) else judged.answer
    if answer == "clear" and mixed:
        answer = "leaning"
        hedged = replace(asked, hedged=True)
        judged = judge_two(two, hedged) if two is not None else judge(effect, levels, hedged)
    spans, more = judged.spans, judged.more
    if answer == "cannot_tell" and not isinstance(effect, NoEffect):
        spans, more = _cannot_say(asked, judged)
    detail = judged.detail
    if answer == "cannot_tell" and not stops and asked.reading != "first":
        detail = " ".join(part for part in (detail, _could_have_seen(effect, levels, asked)) if part) or None
    if design and answer != "cannot_tell":
        # outside design rounds what changed besides may be how it was run: the difference is told, and laid to nothing
        sure = answer == "clear"
        if asked.rounds:
            laid = f"The design {'made' if sure else 'seems to make'} the difference, but in it more than one thing was changed."
        else:
            laid = f"There {'is' if sure else 'seems to be'} a difference, but not only {asked.factor} was changed."
        spans, more = words(laid), (*spans, span(" "), *more)
    if asked.decision and not isinstance(effect, NoEffect):
        more = (*more, span(" " if more else ""), span(asked.decision))
    if asked.contest and not isinstance(effect, NoEffect):
        told = judged.more if isinstance(effect, GroupsEffect) else (*spans, span(" "), *more)
        spans, more = _contest(levels, effect, asked, words("The trials cannot tell them apart from luck yet.") if answer == "cannot_tell" else told)
    if asked.stage == "so_far" and not isinstance(effect, NoEffect):
        begins = "So far " if answer == "cannot_tell" and not asked.contest else "So far: "
        spans = (span(begins), *_lower_first(spans))
    staged = STAGE_SAYS.get(asked.stage) if judged.answer != "cannot_tell" or asked.stage != "so_far" else None
    beside = " ".join(part for part in (staged, judged.beside) if part) or None
    after = _next(effect, levels, answer, asked, findings, stops, mixed)
    return Verdict(
        answer=answer,
        says=" ".join(part for part in (said(spans), said(more).strip()) if part),
        headline=said(spans),
        spans=spans,
        more=more,
        next=after.says,
        act=after.act,
        so_far=asked.stage == "so_far",
        about="design" if design else "variable",
        size=judged.size if answer != "cannot_tell" else None,
        detail=detail,
        beside=beside,
        prediction=_prediction(asked, judged, answer),
        limits=(*(f.says for f in findings if f.severity != "note"), *((staged,) if staged else ())),
    )


def judge_two(two: TwoFound, asked: Context) -> Judged:
    """Two variables at once: what each does at like values of the other, and whether one depends on the other."""
    one, other = two.first, two.second
    answers = {one.answer, other.answer} | ({"clear"} if two.depends else set())
    answer: Answer = "clear" if "clear" in answers else "leaning" if "leaning" in answers else "cannot_tell"
    verb = {"clear": "depends", "leaning": "seems to depend"}
    if two.depends:
        spans = words(f"What {one.name} does to {asked.response} depends on {other.name}.")
        each = "; ".join(f"with {level_label(at.at, other.unit)}, {level_label(at.best, one.unit)} is best ({at.result})" for at in two.at_each)
        return Judged(answer=answer, spans=spans, more=words(f"{start(each)}." if each else ""))
    seen = sorted((m for m in (one, other) if m.answer in verb), key=lambda m: m.answer != "clear")
    best = "" if not asked.names_best else "; " + " with ".join(level_label(m.levels[0], m.unit) for m in seen) + " is best"
    if len(seen) == 2 and seen[0].answer == seen[1].answer:
        spans = words(f"{start(asked.response)} {verb[answer]} on {one.name} and on {other.name}{best}.")
    elif len(seen) == 2:
        spans = words(f"{start(asked.response)} depends on {seen[0].name} and seems to depend on {seen[1].name}{best}.")
    elif seen:
        rest = other if seen[0] is one else one
        spans = words(f"{start(asked.response)} {verb[answer]} on {seen[0].name}, not visibly on {rest.name}{best}.")
    else:
        spans = words(f"{start(asked.response)} does not visibly depend on {one.name} or {other.name}.")
    more = [_at_like(m, rest, asked) for m, rest in ((one, other), (other, one)) if m.size]
    if two.depends is None or answer != "cannot_tell":
        more.append(two.says)
    return Judged(answer=answer, spans=spans, more=words(" ".join(more)))


def _at_like(m: MainEffect, rest: MainEffect, asked: Context) -> str:
    interval = f" (95 % interval {m.interval})" if m.interval and asked.reading != "first" else ""
    return f"At the same {rest.name}, {level_label(m.levels[0], m.unit)} and {level_label(m.levels[-1], m.unit)} differ by about {m.size}{interval}."


#: What must be said of the stage at which a study is judged.
STAGE_SAYS: dict[Stage, str] = {
    "so_far": "Trials that were planned are still to come; until they are in, luck must be rarer than 1 in 1,000 before this is called clear.",
    "added": "Trials were added after the plan was complete and its verdict could be read, so luck must be rarer than 1 in 100 before this is called clear.",
    "reserved": "The plan has further repeats in reserve, so luck must be rarer than 4 in 100 before this is called clear.",
    "reserve_used": "The repeats held in reserve were used, so luck must be rarer than 2 in 100 before this is called clear.",
}


#: What places go by where the plan has a rule of its own.
RULE_SAID = "rule agreed"


def _contest(levels: Sequence[LevelSummary], effect: Effect, asked: Context, rest: tuple[Span, ...]) -> tuple[tuple[Span, ...], tuple[Span, ...]]:
    """Who is first by the rule agreed, and after it all further places; who stands below the line; what the trials can tell apart."""
    places = ranked(levels, effect, unit=asked.unit, best_is=asked.best_is, clear=False, agreed=asked.agreed, outside=asked.outside)
    inside = [r for r in places if r.place is not None]
    below = [r for r in places if r.place is None]
    rule = RULE_SAID if asked.agreed else RESULT_SAID[asked.result]
    if not inside:
        return words(f"By the {rule} no device has a place yet."), rest
    first = first_of(inside)
    names = listed([level_label(r.level, asked.factor_unit) for r in first])
    does = "is first" if len(first) == 1 else "share the first place"
    spans = (span(f"By the {rule} "), span(names, "level"), span(f" {does} with {first[0].result or first[0].why}."))
    after: list[Span] = []
    for place in dict.fromkeys(r.place for r in inside if r.place != 1):
        here = [r for r in inside if r.place == place]
        after += [span(", then " if after else "Then "), span(listed([level_label(r.level, asked.factor_unit) for r in here]), "level"), span(f" ({here[0].result})")]
    after += [span(". ")] if after else []
    if below:
        listing = "; ".join(f"{level_label(r.level, asked.factor_unit)} ({(r.outside or '').rstrip('.')})" for r in below)
        after.append(span(f"Below the line: {listing}. "))
    return spans, (*after, *rest)


def _about_newest(finding: Finding, levels: Sequence[LevelSummary]) -> bool:
    """In design rounds only the newest version's changes bear on the verdict; the older ones stay among the doubts."""
    if not finding.about or not levels:
        return True
    newest = levels[-1].level
    return (newest if isinstance(newest, str) else f"{newest:g}") in finding.about


def _cannot_say(asked: Context, judged: Judged) -> tuple[tuple[Span, ...], tuple[Span, ...]]:
    seen: tuple[Span, ...] = ()
    if judged.wanted_difference == 0:
        seen = words("No difference is seen.")
    elif judged.seen:
        but = ", goes with ranges that touch." if asked.evidence == "ranges" else ", could be luck."
        seen = (span("The difference seen, "), span(judged.seen, "size"), span(but))
    what = asked.response if asked.judges_survival and asked.passed != "survived" else "survival" if asked.judges_survival else asked.response
    if asked.rounds and judged.between is not None:
        one, two = judged.between
        begins = "We cannot tell yet" if asked.reading == "first" else "These trials cannot tell"
        if not asked.names_best:  # said beside the first measure: which one it is has to be said
            return words(f"{begins} whether {what} changed from {asked.factor} {one} to {asked.factor} {two}."), seen
        return words(f"{begins} whether {asked.factor} {two} beats {asked.factor} {one}."), seen
    factor = asked.factor if asked.two is None else f"{asked.two[0]} or {asked.two[1]}"
    if asked.reading == "first":
        return words(f"We cannot tell yet whether {factor} changes {what}."), ()
    return words(f"These trials cannot tell whether {factor} changes {what}."), seen


def _pooled_sd(levels: Sequence[LevelSummary]) -> float | None:
    parts = [(s.n_kept - 1, s.sd) for s in levels if s.sd is not None]
    freedom = sum(n for n, _ in parts)
    return math.sqrt(sum(n * (sd or 0.0) ** 2 for n, sd in parts) / freedom) if freedom else None


#: The scatter of few readings is more often too small than too large: what the true one does not exceed so often. More of it where levels
#: lie beside each other without an order, because the differences seen are then more often too large (found by simulation).
SURE, SURE_OF_MANY, SURE_OF_BLOCKS = 0.55, 0.7, 0.75


def _seen(effect: Effect, levels: Sequence[LevelSummary], asked: Context) -> Seen | None:
    """What further trials would have to confirm; None where no effect or no scatter is seen, or where readings are only bounds."""
    if isinstance(effect, PairedEffect):
        d = effect.difference
        if not d.t or not d.pairs:
            return None
        apart = abs(d.estimate / d.t) * math.sqrt(d.pairs)
        return Seen(kind="pairs", means=(0.0, d.estimate), spreads=(0.0, apart), scatter=sd_at_most(apart, d.pairs - 1, SURE_OF_MANY), repeats=d.pairs)
    if isinstance(effect, GroupsEffect) and (effect.groups.blocked or effect.groups.adjusted_for):
        return _seen_in_blocks(effect.groups, levels)
    used = [s for s in levels if s.mean is not None]
    sd, means = _pooled_sd(levels), [float(s.mean or 0.0) for s in used]
    free = sum(s.n_kept - 1 for s in used)
    if not sd or len(means) < 2 or len(set(means)) == 1 or any(s.mean_is != "exact" for s in used):
        return None
    numbers = isinstance(effect, TrendEffect) and len(means) > 2
    return Seen(
        kind="trend" if numbers else "two" if len(means) == 2 else "groups",
        means=tuple(means),
        spreads=tuple(s.sd or 0.0 for s in used),
        scatter=sd_at_most(sd, free, SURE if numbers or len(means) == 2 else SURE_OF_MANY),
        repeats=_fewest(levels),
        at=tuple(float(s.level) for s in used) if numbers else (),
        first=asked.looks_first,
    )


def _seen_in_blocks(g: Groups, levels: Sequence[LevelSummary]) -> Seen | None:
    """Of blocks: the levels as the model has them apart, and the scatter that it leaves."""
    names = [s.level for s in levels if s.n_kept]
    if not g.f or not g.df or len(names) < 2:
        return None
    above = {names[0]: 0.0}
    for p in g.pairs:
        if names[0] in p.between:
            other = p.between[1] if p.between[0] == names[0] else p.between[0]
            above[other] = p.estimate if p.between[0] == names[0] else -p.estimate
    means = [above.get(n, 0.0) for n in names]
    middle, repeats = statistics.fmean(means), max(round((g.df[1] / (len(names) - 1)) + 1), 2) if g.blocked else _fewest(levels)
    left = repeats * sum((m - middle) ** 2 for m in means) / (len(names) - 1) / g.f
    if left <= 0:
        return None
    scatter = sd_at_most(math.sqrt(left), int(g.df[1]), SURE_OF_BLOCKS)
    return Seen(kind="blocks" if g.blocked else "groups", means=tuple(means), spreads=(scatter,) * len(means), scatter=scatter, repeats=repeats)


def _of_survival(effect: SurvivalEffect) -> Design | None:
    """Shares on the arcsine scale, where each trial brings a spread of one (Cohen 1988, chapter 6)."""
    at = [2 * math.asin(math.sqrt(v.survived / v.n)) for v in effect.survival.levels]
    seen = sum((x - statistics.fmean(at)) ** 2 for x in at)
    return Design(kind="two" if len(at) == 2 else "groups", levels=len(at), each=seen) if seen > 0 else None


def _fewest(levels: Sequence[LevelSummary]) -> int:
    return min((s.n_kept for s in levels if s.n_kept), default=0)


def _could_have_seen(effect: Effect, levels: Sequence[LevelSummary], asked: Context) -> str | None:
    """What difference between two levels the present repeats would show four times in five."""
    sd, fewest = _pooled_sd(levels), _fewest(levels)
    if not sd or fewest < 2 or not isinstance(effect, DifferenceEffect | GroupsEffect | TrendEffect):
        return None
    if isinstance(effect, GroupsEffect) and effect.groups.blocked:
        return None
    kind: Literal["two", "groups", "trend"] = "two" if len(levels) == 2 else "trend" if isinstance(effect, TrendEffect) else "groups"
    size = detectable_by(kind, len(levels), fewest, sd, asked.clear_p)
    if size is None:
        return None
    ends = {"two": "", "groups": " between the best and the worst", "trend": " between the first and the last"}[kind]
    return (
        f"With {fewest} at each level a difference of about {sized(size, None, asked.unit, decimals_of_means(levels))}{ends} would have shown in 4 of 5 such studies."
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _After:
    """What to do next, and the control for it."""

    says: str
    act: Act | None = None


def _next(
    effect: Effect,
    levels: Sequence[LevelSummary],
    answer: Answer,
    asked: Context,
    findings: Sequence[Finding],
    stops: Sequence[Finding],
    mixed: Sequence[Finding],
) -> _After:
    left_out = next((f for f in findings if f.code == "column_explains_scatter"), None)
    if stops and answer == "cannot_tell":
        return _After(says=stops[0].do, act=stops[0].act)
    if isinstance(effect, NoEffect):
        return _before_any(effect, asked)
    if asked.stage == "so_far":
        return _After(says="Run the trials that are still planned; then the verdict is whole.", act=Act(kind="run"))
    if mixed:
        return _After(says=mixed[0].do, act=mixed[0].act)
    if answer != "clear" and left_out is not None:
        return _After(says=left_out.do, act=left_out.act)
    if answer == "clear":
        return _after_clear(effect, levels, asked, findings)
    return _more(effect, levels, asked, findings)


def _before_any(effect: NoEffect, asked: Context) -> _After:
    if effect.reason == "one_level" and asked.rounds:
        return _After(says="Build the next version and try it beside this one.", act=Act(kind="build"))
    says = {
        "no_trials": "Run the first trials.",
        "no_reading": "Read it in the next trials; what is worked out needs everything that it is worked out from.",
        "one_level": "Run trials at another level: an effect needs two.",
        "too_few_trials": "Run more trials at every level.",
        "no_spread": "Read with a finer step: every reading is the same.",
    }[effect.reason]
    return _After(says=says, act=Act(kind="plan", where="measure") if effect.reason in ("no_spread", "no_reading") else Act(kind="run"))


def _after_clear(effect: Effect, levels: Sequence[LevelSummary], asked: Context, findings: Sequence[Finding]) -> _After:
    """What follows a clear answer: never "stop" while something of weight is in doubt or a level has few trials."""
    grave = next((f for f in findings if f.severity in ("stop", "warn") and f.code not in ("few_repeats", "single_trial")), None)
    if grave is not None:
        return _After(says=grave.do, act=grave.act)
    if isinstance(effect, TrendEffect) and effect.trend.best_beyond is not None:
        end = levels[-1] if effect.trend.best_beyond == "highest" else levels[0]
        says = f"The best may lie beyond {level_label(end.level, asked.factor_unit)}: try a level past it, within your limits."
        return _After(says=says, act=Act(kind="plan", where="levels"))
    if (
        _fewest(levels) < FEW
        and not isinstance(effect, PairedEffect)
        and not (isinstance(effect, GroupsEffect) and effect.groups.blocked)
    ):
        return _After(says=f"Repeat until every level has at least {FEW}.", act=Act(kind="more", more=FEW - _fewest(levels)))
    if isinstance(effect, GroupsEffect) and any(r.apart_from_next is False for r in ranked(levels, effect, unit=None, best_is=asked.best_is, clear=True)):
        return _After(says="Stop if that is enough; more trials would tell apart those that cannot be told apart yet.", act=Act(kind="decide"))
    if asked.rounds:
        return _After(says="Keep it, and change one other thing in the next version.", act=Act(kind="build"))
    if isinstance(effect, TrendEffect) and effect.trend.shape is not None and effect.trend.shape.kind == "step":
        low, high = (level_label(v or 0.0, asked.factor_unit) for v in (effect.trend.shape.low, effect.trend.shape.high))
        return _After(says=f"The result is clear; you can stop. Try a level between {low} and {high} to find where the step lies, or change one other thing next.", act=Act(kind="decide"))
    between = ", or test a level in between" if all(not isinstance(s.level, str) for s in levels) else ""
    return _After(says=f"The result is clear; you can stop. Change one other thing next{between}.", act=Act(kind="decide"))


def _more(effect: Effect, levels: Sequence[LevelSummary], asked: Context, findings: Sequence[Finding]) -> _After:
    """How many further trials would settle what is seen, and half of it, by the test and the bound that will then hold. Never a number
    where none would: an odd reading that a slip explains, and readings that ran out of room, come first."""
    look = next((f for f in findings if f.code == "odd_reading" and "slip" in f.evidence), None) or next((f for f in findings if f.code == "censored"), None)
    if look is not None:
        return _After(says=f"Look at that reading first. {look.do}" if look.code == "odd_reading" else look.do, act=look.act)
    blocks = isinstance(effect, PairedEffect) or (isinstance(effect, GroupsEffect) and effect.groups.blocked)
    what = blocks_called(asked) if blocks and asked.block_called != "block" else "pairs" if isinstance(effect, PairedEffect) else "blocks" if blocks else "trials at each level"
    if asked.rounds:
        what = "trials of each of the two, run beside each other"
    # further trials are added to a plan whose verdict was read
    bound = RESERVE_USED_P if asked.stage == "reserved" else ADDED_P if asked.planned else asked.clear_p
    if isinstance(effect, SurvivalEffect):
        design, fewest = _of_survival(effect), _fewest(levels)
        found = None if design is None else [None if n is None else n - fewest for n in (design.wanted(fewest + 1, bound, share=share) for share in (1.0, 0.5))]
    else:
        seen = _seen(effect, levels, asked)
        found = None
        if seen is not None:
            whole = seen.wanted(asked.evidence, bound)
            found = [whole, None if whole is None else seen.wanted(asked.evidence, bound, of=0.5, least=whole)]
    if found is None:
        return _After(says=f"Run at least two more {what}.", act=Act(kind="more", more=2))
    wanted, half = (None if n is None or n > MOST_REPEATS else max(n, 2) for n in found)
    if wanted is None:
        return _After(says=_TOO_SMALL["ranges" if asked.evidence == "ranges" else "other"], act=Act(kind="plan", where="evidence" if asked.evidence == "ranges" else "levels"))
    small = f"about {half} one half as large" if half is not None else f"one half as large would take more than {MOST_REPEATS}"
    return _After(says=f"About {wanted} more {what} would settle a difference of that size; {small}.", act=Act(kind="more", more=wanted))


_TOO_SMALL = {
    "ranges": "More repeats widen ranges, so none would settle it this way. Judge the next study by the interval or the shuffle, or change the variable further.",
    "other": "A difference this small would take more repeats than a class can run. Change the variable further, or measure more finely.",
}


def _prediction(asked: Context, judged: Judged, answer: Answer) -> str | None:
    if not asked.expect:
        return None
    thought = EXPECTED.get(asked.expect, f"{asked.expect} is best")
    if answer == "cannot_tell" or judged.happened is None:
        return f"The prediction was “{thought}”; these trials cannot yet say."
    agrees = asked.expect.casefold() == judged.happened.casefold()
    return f"The prediction was “{thought}”: the trials {'agree' if agrees else 'do not agree'}{'' if answer == 'clear' else ' so far'}."
