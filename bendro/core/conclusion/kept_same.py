"""What was kept the same: only what was agreed, each held (recorded so), said (never recorded) or changed."""

from __future__ import annotations

from collections.abc import Sequence

from ..draft import Held
from ..planning.ideas import DROP_HEIGHT, holds, how_held
from ..planning.ideas import kept_same as planned_same
from ..planning.plan import planned_levels
from ..readings import Reading
from ..readings.amounts import read_any
from ..record.seen import TrialSeen
from ..record.study import StudyRecord
from ..words import said
from ..written import listed, plural
from .model import KeptSame

#: A condition is recorded in so many characters.
WORD = 60
#: So many values of a thing that changed are named.
NAMED = 3
_SAME = 1e-9


def kept_same(record: StudyRecord) -> tuple[KeptSame, ...]:
    """Each thing of the plan that somebody said how to hold; what is varied or measured can never be among them."""
    draft = record.draft
    agreed = {said(k.name) for k in planned_same(draft) if k.how}
    one_height = draft.drop is not None and draft.drop.plan == "one_height"
    return tuple(_one(record, h) for h in holds(draft) if how_held(h) and (said(h.name) in agreed or (one_height and said(h.name) == DROP_HEIGHT)))


def _one(record: StudyRecord, held: Held) -> KeptSame:
    given = [(t, text) for t in record.counted for name, text in t.conditions.items() if said(name) == said(held.name) and text.strip()]
    if not given and said(held.name) == DROP_HEIGHT:
        given = [(t, t.rung) for t in record.counted if t.rung.strip()]  # as it was written with each drop
    return _judged(record, held, given, how_held(held))


def _judged(record: StudyRecord, held: Held, given: Sequence[tuple[TrialSeen, str]], how: str) -> KeptSame:
    name = held.name.strip()
    if not given:
        return KeptSame(name=name, how=how, state="said", says=f"{name}: {how} (not recorded)")
    off = [(t, text) for t, text in given if not _as_agreed(held, text)]
    recorded = len({t.id for t, _ in given})
    part = "" if recorded == len(record.counted) else f" (recorded in {recorded} of {plural(len(record.counted), 'trial')})"
    texts = list(dict.fromkeys(" ".join(text.split()) for _, text in given))
    if not off and (held.value.strip() or len({said(t) for t in texts}) == 1):
        return KeptSame(name=name, how=how, state="held", says=f"{name}: {how}{part}")
    if not held.value.strip() and len({said(t) for t in texts}) == 1:
        return KeptSame(name=name, how=how, state="held", says=f"{name}: {texts[0]}{part}")
    was = listed(texts[:NAMED]) if len(texts) <= NAMED else f"{', '.join(texts[:NAMED])} and {len(texts) - NAMED} more"
    away = list(dict.fromkeys(" ".join(t.split()) for _, t in off))
    between = _between(record, given)
    if not held.value.strip():
        says = f"{name}: changed ({was}){between}"
    else:
        named = listed(away[:NAMED]) if len(away) <= NAMED else f"{', '.join(away[:NAMED])} and more"
        says = f"{name}: agreed {how}, but {named} in {len(off)} of {plural(len(given), 'trial')}{between}"
    return KeptSame(name=name, how=how, state="changed", says=says)


def _as_agreed(held: Held, text: str) -> bool:
    """Whether what was recorded is what was agreed, within its tolerance; a thing held by a sentence is not judged here."""
    if not held.value.strip():
        return not held.how.strip() or said(text) == said(held.how.strip()[:WORD])
    planned, now, within = read_any(held.value), read_any(text), read_any(held.tolerance)
    if planned is None or now is None or planned.quantity != now.quantity:
        return said(text) == said(held.value)
    return abs(now.to(planned.unit) - planned.to(planned.unit)) <= _room(planned, within) + _SAME * abs(planned.to(planned.unit))


def _room(planned: Reading, within: Reading | None) -> float:
    if within is not None and within.quantity == planned.quantity:
        return within.to(planned.unit)
    return planned.half_width or 0.0


def _between(record: StudyRecord, given: Sequence[tuple[TrialSeen, str]]) -> str:
    """Whether it went along with the level."""
    by_level: dict[str, set[str]] = {}
    for t, text in given:
        by_level.setdefault(t.level, set()).add(said(text))
    alone = all(len(v) == 1 for v in by_level.values())
    if not alone or len(by_level) < 2 or len({next(iter(v)) for v in by_level.values()}) < 2:
        return ""
    labels = {p.id: p.label for p in planned_levels(record.draft)}
    first = {level: next(text for t, text in given if t.level == level) for level in by_level}
    return "; it changed with the level (" + ", ".join(f"{labels.get(level, level)}: {text}" for level, text in list(first.items())[:NAMED]) + ")"
