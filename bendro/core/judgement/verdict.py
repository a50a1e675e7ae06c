"""The verdict: clear, leaning or cannot tell, in one sentence, with what limits it and what to do next."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ..results import Answer, Effect, Finding, GroupsEffect, LevelSummary, NoEffect, Span, TrendEffect, Verdict
from ..statistics.power import detectable, repeats_needed
from .evidence import level_label
from .judged import Asked, Judged, judge, span, words
from .wording import sized

#: More repeats than this in one study is not a plan.
MOST_REPEATS = 40


def _lower_first(spans: tuple[Span, ...]) -> tuple[Span, ...]:
    first = spans[0]
    return (first.model_copy(update={"text": first.text[:1].lower() + first.text[1:]}), *spans[1:])


def verdict(effect: Effect, levels: Sequence[LevelSummary], findings: Sequence[Finding], asked: Asked) -> Verdict:
    """The verdict on an effect. A finding of severity `stop` caps the answer at cannot tell; when more than one thing was
    changed the verdict is about the design, never about the variable."""
    judged = judge(effect, levels, asked)
    stops = [f for f in findings if f.severity == "stop"]
    design = any(f.code == "more_than_one_change" and _about_newest(f, levels, asked) for f in findings)
    answer: Answer = "cannot_tell" if stops and not (design and len(stops) == 1) else judged.answer
    spans = judged.spans
    if answer == "cannot_tell" and not isinstance(effect, NoEffect):
        spans = _cannot_say(asked, judged)
    detail = judged.detail
    if answer == "cannot_tell" and not stops and asked.reading != "first":
        detail = " ".join(part for part in (detail, _could_have_seen(levels, asked)) if part) or None
    if design and answer != "cannot_tell":
        more = "in it more than one thing was changed" if asked.rounds else f"not only {asked.factor} was changed"
        spans = (span(f"The design made the difference, but {more}: "), *_lower_first(spans))
    return Verdict(
        answer=answer,
        says="".join(s.text for s in spans),
        spans=spans,
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


def _cannot_say(asked: Asked, judged: Judged) -> tuple[Span, ...]:
    seen: tuple[Span, ...] = ()
    if judged.wanted_difference == 0:
        seen = words(" No difference is seen.")
    elif judged.seen:
        seen = (span(" The difference seen, "), span(judged.seen, "size"), span(", could be luck."))
    what = "survival" if asked.response == "outcome" else asked.response
    if asked.rounds and judged.between is not None:
        one, two = judged.between
        begins = "We cannot tell yet" if asked.reading == "first" else "These trials cannot tell"
        return (span(f"{begins} whether {asked.factor} {two} beats {asked.factor} {one}."), *seen)
    if asked.reading == "first":
        return words(f"We cannot tell yet whether {asked.factor} changes {what}.")
    return (span(f"These trials cannot tell whether {asked.factor} changes {what}."), *seen)


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
    judged: Judged,
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


#: Short predictions about a variable of numbers, as they are said.
EXPECTED = {"rises": "it rises", "falls": "it falls", "peak": "a best in the middle", "none": "no effect"}


def _prediction(asked: Asked, judged: Judged, answer: Answer) -> str | None:
    if not asked.expect:
        return None
    said = EXPECTED.get(asked.expect, f"{asked.expect} is best")
    if answer == "cannot_tell":
        return f"The prediction was “{said}”; these trials cannot yet say."
    agrees = judged.happened is not None and asked.expect.casefold() == judged.happened.casefold()
    return f"The prediction was “{said}”: the trials {'agree' if agrees else 'do not agree'}{'' if answer == 'clear' else ' so far'}."
