"""What is said of a verdict in counts: in how many heats or rounds one came before another; and the whole of it at the first reading level, in
so few words that a class of eight-year-olds reads it aloud."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from ..results import Analysis, LevelName, Ranked, Span, SurvivalEffect, TrendEffect, Verdict
from ..trials import Trial
from ..written import level_label, listed, start
from .judged import most_of, said, words
from .places import first_of
from .wording import more_or_less, with_level

if TYPE_CHECKING:
    from ..context import Context

#: A headline at the first reading level has at most so many words.
MOST_WORDS = 12
SURE = {"clear": "We are sure.", "leaning": "It looks so."}
#: So many rounds at least before they are counted out.
FEWEST = 2


def in_counts(found: Analysis, counted: Mapping[LevelName, Sequence[Trial]], asked: Context) -> Analysis:
    """The analysis with its verdict said in counts where that is plainer. counted: the counted trials of each level."""
    v = found.verdict
    inside = [r for r in found.ranking if r.place is not None]
    if v.answer == "cannot_tell" or not inside:
        return found
    if isinstance(found.effect, SurvivalEffect):
        return _best_share(found, inside[0], asked) if asked.reading == "first" and len(v.headline.split()) > MOST_WORDS and v.about == "variable" else found
    counts = _heats(inside, counted, asked) if asked.places else ""
    if asked.reading == "first" and v.about == "variable" and not asked.rounds and asked.two is None and not v.so_far:
        counts = counts or _rounds(inside, counted, asked)
        spans = _short(found, inside, asked)
        sure = words(f" {SURE[v.answer]}")
        fits = len(said((*spans, *sure)).split()) <= MOST_WORDS
        more = words(" ".join(part for part in ("" if fits else SURE[v.answer], counts) if part))
        return _with(found, (*spans, *sure) if fits else spans, more if said(more) else ())
    if not counts:
        return found
    return _with(found, v.spans, (*words(f"{counts} "), *v.more) if v.more else words(counts))


def _with(found: Analysis, spans: tuple[Span, ...], more: tuple[Span, ...]) -> Analysis:
    v: Verdict = found.verdict.model_copy(
        update={"spans": spans, "more": more, "headline": said(spans), "says": " ".join(part for part in (said(spans), said(more).strip()) if part)}
    )
    return found.model_copy(update={"verdict": v})


def _best_share(found: Analysis, best: Ranked, asked: Context) -> Analysis:
    """Only how the best fared, where all of it is too much to read."""
    label = level_label(best.level, asked.factor_unit)
    return _with(found, words(f"{best.result} {asked.passed} {with_level(label)}{label}."), found.verdict.more)


def _short(found: Analysis, inside: Sequence[Ranked], asked: Context) -> tuple[Span, ...]:
    """The answer in one short sentence without a number."""
    first = first_of(inside)
    names = start(listed([level_label(r.level, asked.factor_unit) for r in first]))
    many = len(first) > 1
    if asked.contest:
        return words(f"{names} {'share the first place' if many else 'is first'}.")
    if asked.places:
        return words(f"{names} {'land' if many else 'lands'} {'first' if asked.best_is == 'low' else 'last'}.")
    if isinstance(found.effect, TrendEffect) and found.effect.trend.middle is None and found.verdict.size:
        rises = next(f for f in found.effect.trend.forms if f.form == "line").coefficients["slope"] > 0
        return words(f"More {asked.factor} gives {more_or_less(asked.unit, rises)} {asked.response}.")
    return words(f"{names} {'give' if many else 'gives'} the {most_of(asked)} {asked.response}.")


def _heats(inside: Sequence[Ranked], counted: Mapping[LevelName, Sequence[Trial]], asked: Context) -> str:
    """In how many of its heats the best landed first (or last, where that is asked)."""
    first = first_of(inside)
    if len(first) != 1:
        return ""
    heats: dict[str, list[tuple[float, LevelName]]] = {}
    for level, rows in counted.items():
        for t in rows:
            if t.value is not None and t.block is not None:
                heats.setdefault(t.heat or t.block, []).append((t.value, level))
    own = [at for at in heats.values() if len(at) > 1 and any(level == first[0].level for _, level in at)]
    if not own:
        return ""
    best = min if asked.best_is == "low" else max
    won = sum(best(v for v, _ in at) == next(v for v, level in at if level == first[0].level) for at in own)
    return f"{start(level_label(first[0].level, asked.factor_unit))} landed {'first' if asked.best_is == 'low' else 'last'} in {won} of {len(own)} heats."


def _rounds(inside: Sequence[Ranked], counted: Mapping[LevelName, Sequence[Trial]], asked: Context) -> str:
    """In how many rounds the best beat the last: trials of both in one block of the order."""
    top, bottom = inside[0].level, inside[-1].level
    one, other = ({t.block: t.value for t in counted.get(level, ()) if t.block is not None and t.value is not None and t.kind == "exact"} for level in (top, bottom))
    both = [b for b in one if b in other]
    if top == bottom or len(both) < FEWEST:
        return ""
    won = sum((one[b] > other[b]) if asked.best_is == "high" else (one[b] < other[b]) for b in both)
    names = [level_label(level, asked.factor_unit) for level in (top, bottom)]
    return f"{start(names[0])} beat {names[1]} in {won} of {len(both)} rounds."
