"""The levels or devices in the order of their results, as they stand on a podium: the places of the analysis, or those by a rule of the
plan's own."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..judgement.ranking import PlaceTaken
from ..results import Analysis
from ..trials import Level


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """place: 1 for the first; shared: with others. label: as the level is called. number: the result as it is shown, with its unit. shape:
    which of the levels it is in the order of the plan, by which it is drawn. apart_from_next: whether the trials can tell it from the one
    that stands next, None where that was not looked at."""

    place: int
    shared: bool
    label: str
    number: str
    shape: int
    apart_from_next: bool | None = None


def podium(a: Analysis, labels: Sequence[tuple[Level, str]], *, agreed: Sequence[PlaceTaken] = ()) -> tuple[Step, ...]:
    """The steps, best first; levels without a kept trial have none. labels: of every level in the order of the plan. agreed: the places
    by a rule of the plan's own, where it has one; else those of the analysis."""
    label, shape = dict(labels), {level: n for n, (level, _) in enumerate(labels)}
    if not agreed:
        return tuple(
            Step(
                place=r.place, shared=r.shared, label=label.get(r.level, str(r.level)), number=r.result, shape=shape.get(r.level, 0),
                apart_from_next=r.apart_from_next,
            )
            for r in a.ranking
        )  # fmt: skip
    by_name = {name: level for level, name in labels}
    numbers = {r.level: r.result for r in a.ranking}
    steps: list[Step] = []
    for taken in agreed:
        levels = [by_name.get(n, n) for n in taken.names]
        place = 1 + len(steps)
        steps += [
            Step(place=place, shared=len(levels) > 1, label=label.get(level, str(level)), number=numbers.get(level, ""), shape=shape.get(level, 0))
            for level in levels
        ]
    return tuple(steps)


def said_of(steps: Sequence[Step]) -> str:
    """One line beside the podium, on what the trials can tell apart; "" where that was not looked at."""
    looked = [(one, two) for one, two in zip(steps, steps[1:], strict=False) if one.apart_from_next is not None and not (one.shared and one.place == two.place)]
    like = [(one.label, two.label) for one, two in looked if one.apart_from_next is False]
    if not looked or not like:
        return ""
    if len(like) == len(looked):
        return "By results; the trials cannot tell neighbours apart yet." if len(steps) > 2 else "By results; the trials cannot tell the two apart yet."
    named = "; ".join(f"{one} and {two}" for one, two in like[:3])
    return f"The trials cannot tell apart: {named}{' and more' if len(like) > 3 else ''}."
