"""Places of a contest by a rule of its own: the highest rung and then the lightest, or the cheapest that survived."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..written import at_place, decimals_of_step, decimals_of_value, with_unit

Rule = Literal["rung_lightest", "cheapest"]
#: A device survived when more than this share of its drops did.
SURVIVES = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Entrant:
    """What is known of one device. rung: the highest it survived, 0 where it failed the first, None where it was not dropped; on_top: it
    survived the top rung, so that its limit is higher; mass in g; cost in play money; survived of drops. None: not written down."""

    name: str
    rung: float | None = None
    on_top: bool = False
    mass: float | None = None
    cost: float | None = None
    survived: int = 0
    drops: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Taken:
    """A device in the order of a rule. place: None where it has none; shared: where the rule cannot tell devices apart. result: what
    counted, as it is written; why: what decided, or why it has no place."""

    name: str
    place: int | None
    shared: bool
    result: str
    why: str


def ranking(entrants: Sequence[Entrant], rule: Rule, unit: str, step: float | None = None) -> tuple[Taken, ...]:
    """The devices from the first place on; those that were not dropped, and for the cheapest those that did not survive or have no cost, stand
    behind without a place. A device whose mass is not written down stands behind those of its rung that have one. unit: of the rungs; step:
    to which they are written, None for as many decimals as those reached need."""
    keyed: list[tuple[tuple[float, float], Entrant]] = []
    without: list[Taken] = []
    decimals = decimals_of_step(step) if step else max((decimals_of_value(e.rung) for e in entrants if e.rung is not None), default=0)
    for e in entrants:
        lacks = _lacks(e, rule)
        if lacks:
            without.append(Taken(name=e.name, place=None, shared=False, result=_result(e, rule, unit, decimals), why=lacks))
        elif rule == "rung_lightest":
            keyed.append(((-(e.rung or 0.0), e.mass if e.mass is not None else float("inf")), e))
        else:
            keyed.append(((e.cost or 0.0, 0.0), e))
    keyed.sort(key=lambda pair: pair[0])
    keys = [k for k, _ in keyed]
    placed = [
        Taken(name=e.name, place=1 + keys.index(key), shared=keys.count(key) > 1, result=_result(e, rule, unit, decimals), why=_why(e, rule, unit, decimals))
        for key, e in keyed
    ]
    return (*placed, *without)


def _lacks(e: Entrant, rule: Rule) -> str:
    if rule == "rung_lightest":
        return "" if e.rung is not None else "not dropped yet"
    if not e.drops:
        return "not dropped yet"
    if e.survived / e.drops <= SURVIVES:
        return f"survived only {e.survived} of {e.drops}"
    return "" if e.cost is not None else "what it costs is not written down"


def _result(e: Entrant, rule: Rule, unit: str, decimals: int) -> str:
    if rule == "cheapest":
        return f"{e.survived} of {e.drops}" if e.drops else ""
    return _why(e, rule, unit, decimals) if e.rung is not None else ""


def _rung(e: Entrant, unit: str, decimals: int) -> str:
    if not e.rung:
        return "no rung"
    return f"{'≥ ' if e.on_top else ''}{with_unit(at_place(e.rung, decimals), unit)}"


def _why(e: Entrant, rule: Rule, unit: str, decimals: int) -> str:
    if rule == "cheapest":
        return f"survived {e.survived} of {e.drops}, costs {e.cost:g}"
    return f"{_rung(e, unit, decimals)}, {f'{e.mass:g} g' if e.mass is not None else 'mass not written down'}"
