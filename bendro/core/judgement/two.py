"""Two planned variables at once: what each does at like values of the other, and whether one depends on the other."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, cast

from ..errors import TableRefused
from ..results import Effect, Groups, GroupsEffect, LevelName, LikePlace, MainEffect, TwoFound
from ..statistics.blocks import blocked
from ..statistics.describe import describe, in_columns
from ..statistics.holm import holm
from ..statistics.landing import two_variables
from ..trials import Level, Trial
from ..written import with_unit
from .deciding import by_p, of_groups
from .judged import decimals_of_means
from .wording import sized, spanned

if TYPE_CHECKING:
    from ..context import Context

def two_found(counted: Mapping[LevelName, list[Trial]], asked: Context) -> TwoFound | None:
    """None where readings are only bounds, or the two cannot be told apart. counted: kept trials by setting of both."""
    names = asked.two
    rows = [t for of in counted.values() for t in of if t.value is not None]
    if names is None or any(t.kind in ("at_least", "at_most") for t in rows):
        return None
    try:
        one, two = _main(rows, asked, 0), _main(rows, asked, 1)
    except TableRefused:  # a variable of which one value was tried, or both changed together
        return None
    values, first, second = [t.value or 0.0 for t in rows], [_at(t, names[0]) for t in rows], [_at(t, names[1]) for t in rows]
    p: float | None
    try:
        p = two_variables(values, first, second, names).p_interaction
    except (TableRefused, ValueError):  # a combination is missing, or nothing was repeated: whether one depends on the other is not known
        p = None
    # three questions are asked at once
    adjusted = holm([v for v in (one.p, two.p, p) if v is not None])
    at = iter(adjusted)
    p_one, p_two, p_depends = (None if v is None else next(at) for v in (one.p, two.p, p))
    return TwoFound(
        first=one.model_copy(update={"p": p_one, "answer": by_p(p_one, asked.clear_p)}),
        second=two.model_copy(update={"p": p_two, "answer": by_p(p_two, asked.clear_p)}),
        depends=None if p_depends is None else by_p(p_depends, asked.clear_p) == "clear",
        p_depends=p_depends,
        at_each=_at_each(rows, asked),
        says=_depends(p_depends, asked),
    )


def _depends(p: float | None, asked: Context) -> str:
    assert asked.two is not None  # only asked of two
    first, second = asked.two
    if p is None:
        return "Whether one depends on the other cannot be weighed yet: every combination must be tried, and some twice."
    if by_p(p, asked.clear_p) == "clear":
        return f"What {first} does depends on {second}."
    return f"What {first} does is not seen to depend on {second}."


def _at(t: Trial, name: str) -> Level:
    return cast(Level, t.others[name])


def _main(rows: Sequence[Trial], asked: Context, which: int) -> MainEffect:
    """One variable with the other's levels taken out: the additive model, so that an uneven number of trials does no harm."""
    assert asked.two is not None  # only asked of two
    name, other = asked.two[which], asked.two[1 - which]
    levels = [_at(t, name) for t in rows]
    found: Groups = blocked([t.value or 0.0 for t in rows], levels, [str(_at(t, other)) for t in rows], best_is=asked.best_is)
    # allowing for unequal spreads goes by the means of blocks, of which two variables have too few to say anything
    plain = found.model_copy(update={"p_unequal": None})
    decision = of_groups(plain, "shuffle" if asked.evidence == "ranges" else asked.evidence)
    described = in_columns([describe(v, [t for t in rows if _at(t, name) == v], unit=asked.unit) for v in dict.fromkeys(levels)], unit=asked.unit, whole=asked.whole)
    order = _best_first(found, [s.level for s in described], asked)
    by_level = {s.level: s for s in described}
    pair = next((p for p in found.pairs if set(p.between) == {order[0], order[-1]}), None)
    return MainEffect(
        name=name,
        unit=asked.two_units[which],
        levels=tuple(order),
        means=tuple(by_level[v].quoted or "" for v in order),
        answer="cannot_tell",
        p=decision.p,
        size=None if pair is None else sized(pair.estimate, pair.ci95, asked.unit, decimals_of_means(described)),
        interval=None if pair is None or pair.ci95 is None else spanned((-pair.ci95[1], -pair.ci95[0]) if pair.estimate < 0 else pair.ci95, asked.unit, pair.estimate, decimals_of_means(described)),
    )


def _best_first(found: Groups, levels: Sequence[LevelName], asked: Context) -> list[LevelName]:
    """By the differences of the model: they are at like values of the other, plain means need not be."""
    base = levels[0]
    above = {base: 0.0}
    for p in found.pairs:
        if base in p.between:
            other = p.between[1] if p.between[0] == base else p.between[0]
            above[other] = p.estimate if p.between[0] == base else -p.estimate
    return sorted(levels, key=lambda v: (-1 if asked.best_is == "high" else 1) * above[v])


def _at_each(rows: Sequence[Trial], asked: Context) -> tuple[LikePlace, ...]:
    assert asked.two is not None  # only asked of two
    first, second = asked.two
    made = []
    for at in dict.fromkeys(_at(t, second) for t in rows):
        here = [t for t in rows if _at(t, second) == at]
        means = in_columns([describe(v, [t for t in here if _at(t, first) == v], unit=asked.unit) for v in dict.fromkeys(_at(t, first) for t in here)], unit=asked.unit, whole=asked.whole)
        if len(means) > 1:
            best = (max if asked.best_is == "high" else min)(means, key=lambda s: s.mean or 0.0)
            made.append(LikePlace(at=at, best=best.level, result=with_unit(best.shown.mean if best.shown else "", asked.unit)))
    return tuple(made)


def like_pairs(effect: Effect, asked: Context) -> Effect:
    """Of all pairs of settings those that differ in one variable alone: the others compare two things at once."""
    if not isinstance(effect, GroupsEffect):
        return effect

    def like(between: tuple[LevelName, LevelName]) -> bool:
        a, b = (asked.settings.get(v) for v in between)
        return a is not None and b is not None and (a[0] == b[0]) != (a[1] == b[1])

    groups = effect.groups
    return effect.model_copy(update={"groups": groups.model_copy(update={"pairs": tuple(p for p in groups.pairs if like(p.between))})})
