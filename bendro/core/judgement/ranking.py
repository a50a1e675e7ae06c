"""Places of a contest by a rule of its own: the highest rung and then the lightest, or the cheapest that survived."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

Rule = Literal["rung_lightest", "cheapest"]
#: A device survived when more than this share of its drops did.
SURVIVES = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Entrant:
    """What is known of one device. rung: the highest it survived, 0 where it failed the first, None where it was not dropped; mass in g;
    cost in play money; survived of drops. None: not written down."""

    name: str
    rung: float | None = None
    mass: float | None = None
    cost: float | None = None
    survived: int = 0
    drops: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceTaken:
    """A place, shared where the rule cannot tell devices apart. why: what decided, in words."""

    place: int
    names: tuple[str, ...]
    why: str


def ranking(entrants: Sequence[Entrant], rule: Rule, unit: str) -> tuple[PlaceTaken, ...]:
    """The places from the first; devices that were not dropped, and for the cheapest those that did not survive or have no cost, have
    none. A device whose mass is not written down stands behind those of its rung that have one. unit: of the rungs."""
    keyed: list[tuple[tuple[float, float], Entrant]] = []
    for e in entrants:
        if rule == "rung_lightest" and e.rung is not None:
            keyed.append(((-e.rung, e.mass if e.mass is not None else float("inf")), e))
        elif rule == "cheapest" and e.drops and e.survived / e.drops > SURVIVES and e.cost is not None:
            keyed.append(((e.cost, 0.0), e))
    made: list[PlaceTaken] = []
    for key in sorted({k for k, _ in keyed}):
        same = [e for k, e in keyed if k == key]
        made.append(PlaceTaken(place=1 + sum(len(p.names) for p in made), names=tuple(e.name for e in same), why=_why(same[0], rule, unit)))
    return tuple(made)


def _why(e: Entrant, rule: Rule, unit: str) -> str:
    if rule == "cheapest":
        return f"survived {e.survived} of {e.drops}, costs {e.cost:g}"
    mass = f"{e.mass:g} g" if e.mass is not None else "mass not written down"
    return f"{e.rung:g} {unit}, {mass}" if e.rung else f"no rung, {mass}"
