"""From a class's ideas to what is changed, measured and kept the same; what each kind of study can and cannot conclude."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ..draft import Draft, Held, StudyKind
from ..families import Variable, family, known
from ..readings import find_unit, read
from ..words import said, unlike

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


def in_play(draft: Draft, not_with: Iterable[str]) -> bool:
    """Whether none of these names is what the plan changes or measures."""
    return not varied(draft) & {said(n) for n in not_with}


def varied(draft: Draft) -> frozenset[str]:
    """What a plan changes or measures, as names are compared: none of it can be held."""
    second = draft.second.name if draft.second is not None else ""
    return frozenset({said(draft.variable.name), said(second), *(said(m.name) for m in draft.measures)} - {""})


DROP_HEIGHT = "drop height"


def holds(draft: Draft) -> tuple[Held, ...]:
    """Everything that is written down as held; the one height of a drop plan is held too, though it is written with the drops."""
    drop = draft.drop
    own = next((h for h in draft.hold if said(h.name) == DROP_HEIGHT and h.value.strip()), None)
    if drop is None or drop.plan != "one_height" or not any(t.strip() for t in drop.heights) or own is not None or DROP_HEIGHT in varied(draft):
        return tuple(draft.hold)
    text = drop.heights[0].strip()
    height = Held(name=DROP_HEIGHT, value=f"{text} {drop.unit}" if text[-1].isdigit() else text)
    return (height, *(h for h in draft.hold if said(h.name) != DROP_HEIGHT))


def kept_same(draft: Draft) -> tuple[KeptSame, ...]:
    """Everything on the wall that is not changed, with what the family always keeps the same: each once, each with how it
    is held. A thing that is measured, or that is changed under another name, is not held (the family says which); nor is the
    drop height where a drop plan says it."""
    usual = family(draft.family).keep_same if known(draft.family) else ()
    names = unlike([*(k.name for k in usual), *draft.could_change, *(h.name for h in draft.hold)])
    free = set(varied(draft))
    free |= {said(k.name) for k in usual if not in_play(draft, k.not_with)}
    if draft.drop is not None:
        free.add("drop height")
    held = {said(h.name): h for h in draft.hold}
    return tuple(KeptSame(name=n, how=how_held(held.get(said(n)))) for n in names if said(n) not in free)


#: Ideas that begin so are clauses ("how heavy the car is"), not names of a thing.
_CLAUSES = ("how ", "what ", "which ", "where ", "who ", "when ", "whether ")


def question_for(change: str, measures: Iterable[str]) -> str:
    """The question that a choice from the wall asks; empty while nothing is chosen."""
    read = " and ".join(m.strip() for m in measures if m.strip())
    what = change.strip()
    if not what or not read:
        return ""
    if what.casefold().startswith(_CLAUSES):
        return f"What does changing {what} do to {read}?"
    return f"How does {what} affect {read}?"


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
    if not known(draft.family):
        return None
    return next((v for v in family(draft.family).variables if said(v.name) == said(name)), None)


def limited(draft: Draft) -> bool:
    """Whether the variable stores energy or height, so that it needs the teacher's limit."""
    v = draft.variable
    known = variable_named(draft, v.name)
    return v.kind == "number" and (v.quantity == "pressure" or (known is not None and known.limited))


def limit_on_variable(draft: Draft) -> float | None:
    """The teacher's limit on the variable, in its unit; None where none is set or it cannot be read."""
    v = draft.variable
    typed = next((one for one in draft.limits if one.on == "variable" and one.value.strip()), None)
    if typed is None or v.kind != "number" or find_unit(v.unit, v.quantity) != v.unit:
        return None
    try:
        return read(typed.value, v.quantity, v.unit).to(v.unit)
    except ValueError:
        return None


def suggested_levels(draft: Draft, count: int = 4) -> tuple[str, ...]:
    """A spread of levels for the variable from the family's data. Under a teacher's limit the whole spread keeps below it, so
    that no suggestion raises pressure, height or pull past it; what needs a limit is not suggested before there is one. Empty
    where the family knows nothing."""
    known = variable_named(draft, draft.variable.name)
    if known is None:
        return ()
    if known.kind == "name":
        return tuple(str(v) for v in known.typical)
    typical = [float(v) for v in known.typical if isinstance(v, int | float)]
    same_unit = known.unit == draft.variable.unit
    limit = limit_on_variable(draft) if same_unit else None
    if known.limited and limit is None:
        return ()
    if limit is None or not typical or max(typical) <= limit:
        return tuple(f"{v:g}" for v in typical)
    low = min(min(typical), limit / 2)
    spread = (low + i * (limit - low) / (count - 1) for i in range(count))
    return tuple(dict.fromkeys(f"{min(float(f'{v:.3g}'), limit):g}" for v in spread))
