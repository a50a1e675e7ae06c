"""From a class's ideas to what is changed, measured and kept the same; what each kind of study can and cannot conclude."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ..families import ORDER as FAMILIES
from ..families import Variable, family
from ..readings import find_unit, read
from .draft import Draft, Held, StudyKind

#: What a kind of study can conclude, and what it cannot (docs/words.md: study kind).
CONCLUDES: dict[StudyKind, tuple[str, str]] = {
    "fair_test": (
        "It can say what the one thing that is changed does to what is measured, and how sure that is.",
        "It cannot say anything about things that were held still, nor about levels beyond those tried.",
    ),
    "design_rounds": (
        "It can say whether the newest version beats the one before.",
        "When two things were changed at once it cannot say which of them did it.",
    ),
    "contest": (
        "It can rank the devices under one rule; devices that the trials cannot separate share a place.",
        "It cannot say why a device is better: the devices differ in many things at once.",
    ),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptSame:
    """One thing that stays the same. how: the sentence for the class, empty while nobody has said how it is held."""

    name: str
    how: str


def said(text: str) -> str:
    """An idea as it is compared: without case, articles at the front and extra spaces."""
    words = text.casefold().split()
    return " ".join(words[1:] if len(words) > 1 and words[0] in ("the", "a", "an") else words)


def unlike(ideas: Iterable[str]) -> list[str]:
    """Ideas in order, each once, blank ones left out."""
    seen: dict[str, str] = {}
    for idea in ideas:
        if idea.strip():
            seen.setdefault(said(idea), " ".join(idea.split()))
    return list(seen.values())


def kept_same(draft: Draft) -> tuple[KeptSame, ...]:
    """Everything on the wall that is not changed, with what the family always keeps the same: each once, each with how it
    is held. A thing that is measured (drop height in a ladder, device mass) is not held."""
    names = unlike(
        [*(family(draft.family).keep_same if draft.family in FAMILIES else ()), *draft.could_change, *(h.name for h in draft.hold)]
    )
    free = {said(draft.variable.name), said(draft.measure.name), said(draft.also.name) if draft.also else ""}
    held = {said(h.name): h for h in draft.hold}
    return tuple(KeptSame(name=n, how=how_held(held.get(said(n)))) for n in names if said(n) not in free)


def how_held(held: Held | None) -> str:
    """The sentence that says how one thing is held; empty where nothing is said yet."""
    if held is None:
        return ""
    if held.value.strip():
        within = f", within {held.tolerance.strip()}" if held.tolerance.strip() else ""
        return f"{held.value.strip()}{within}{'; ' + held.how.strip() if held.how.strip() else ''}"
    return held.how.strip()


def variable_named(draft: Draft, name: str) -> Variable | None:
    """The family's own variable of that name, or None where it is the class's own."""
    if draft.family not in FAMILIES:
        return None
    return next((v for v in family(draft.family).variables if said(v.name) == said(name)), None)


#: A limit named so bounds every variable whose name holds one of these words.
_BOUNDS = {
    "pressure": ("pressure",),
    "height": ("drop height", "ramp height", "height"),
    "pull-back": ("pull-back", "stretch"),
    "counterweight": ("counterweight",),
    "speed": ("push speed", "speed"),
    "fan setting": ("fan setting",),
}


def limit_for(draft: Draft, variable: str, quantity: str, unit: str) -> float | None:
    """The teacher's limit on a variable, in `unit`; None where none is set or it cannot be read."""
    for limit in draft.limits:
        names = (said(limit.name), *_BOUNDS.get(said(limit.name), ()))
        if not limit.value.strip() or not any(n and n in said(variable) for n in names):
            continue
        if find_unit(unit, quantity) != unit:
            continue
        try:
            return read(limit.value, quantity, unit).to(unit)
        except ValueError:
            continue
    return None


def suggested_levels(draft: Draft, count: int = 4) -> tuple[str, ...]:
    """A spread of levels for the variable from the family's data. Under a teacher's limit the whole spread keeps below it, so
    that no suggestion raises pressure, height or pull past it. Empty where the family knows nothing."""
    known = variable_named(draft, draft.variable.name)
    if known is None:
        return ()
    if known.kind == "name":
        return tuple(str(v) for v in known.typical)
    typical = [float(v) for v in known.typical if isinstance(v, int | float)]
    limit = limit_for(draft, known.name, known.quantity or "number", known.unit)
    if limit is None or not typical or max(typical) <= limit:
        return tuple(f"{v:g}" for v in typical)
    low = min(min(typical), limit / 2)
    spread = (low + i * (limit - low) / (count - 1) for i in range(count))
    return tuple(dict.fromkeys(f"{min(float(f'{v:.3g}'), limit):g}" for v in spread))
