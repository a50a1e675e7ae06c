"""Whether what should stay the same stands as the plan has it, said at the moment in which it is written down."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..draft import Draft, Held
from ..readings import Reading
from ..readings.amounts import read_any
from ..words import said
from .ideas import DROP_HEIGHT, holds

#: Two values that differ by less than this share of them are the same, whatever their last bits say.
SAME = 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class NotHeld:
    """name: of what should stay the same. says: what is off, and by how much."""

    name: str
    says: str


def not_held(draft: Draft, conditions: Mapping[str, str]) -> tuple[NotHeld, ...]:
    """What of these conditions is not as planned: past a limit, or outside its tolerance. A thing held by a sentence is judged by eye."""
    by_name: dict[str, Held] = {said(h.name): h for h in holds(draft) if h.name.strip()}
    found = []
    for name, text in conditions.items():
        now, held = read_any(text), by_name.get(said(name))
        if now is None:
            continue
        past = _past_limit(draft, name, now)
        if past:
            found.append(NotHeld(name=name, says=past))
        elif held is not None and (off := _off(held, now)):
            found.append(NotHeld(name=name, says=off))
    return tuple(found)


def _past_limit(draft: Draft, name: str, now: Reading) -> str:
    for limit in draft.limits:
        bound = said(limit.name) == said(name) if limit.on == "held" else limit.on == "rungs" and said(name) == DROP_HEIGHT
        most = (read_any(limit.value) or _height(draft, limit.value)) if bound else None
        if most is not None and most.quantity == now.quantity and now.to(most.unit) > most.to(most.unit) * (1 + SAME):
            return f"{name} is at {now.text}, and the limit that was set is {limit.value.strip()}. Bring it back below before the next release."
    return ""


def _height(draft: Draft, text: str) -> Reading | None:
    """A bare number as a height in the unit of the drops."""
    return None if draft.drop is None else read_any(f"{text.strip()} {draft.drop.unit}")


def _off(held: Held, now: Reading) -> str:
    planned, within = read_any(held.value), read_any(held.tolerance)
    if planned is None or planned.quantity != now.quantity:
        return ""
    unit = planned.unit
    room = within.to(unit) if within is not None and within.quantity == planned.quantity else 0.0
    if abs(now.to(unit) - planned.to(unit)) <= room + abs(planned.to(unit)) * SAME:
        return ""
    span = f"{held.value.strip()}, within {held.tolerance.strip()}" if room else held.value.strip()
    return f"{held.name} is at {now.text}, and the plan holds it at {span}. Put it back, or go on and every trial from here on says so."
