"""What stands beside the numbers of a study: ladders of specimens, behaviours by level, straightness against distance."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from uuid import UUID

from bendro.core.draft import Draft
from bendro.core.measuring.drops import Bracket, next_rung
from bendro.core.measuring.scales import scale_of
from bendro.core.measuring.taking import survived
from bendro.core.planning.plan import planned_levels, unreadable
from bendro.core.planning.safety import drop_heights
from bendro.core.record.ladders import brackets_of, drops_of, every_rung, is_over, on_rungs, payloads_of
from bendro.core.record.seen import TrialSeen
from bendro.core.record.two_measures import Pair, two_measures
from bendro.core.statistics.survival import share
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .plans import plan_of
from .trials import rows_of, seen_trials


@dataclass(frozen=True, slots=True, kw_only=True)
class Ladder:
    """What the drops of one specimen tell, by the block and level of its turn. next: the rung that comes, None when it is over."""

    block: int
    level: str
    known: str
    passed: float | None
    failed: float | None
    over: bool
    next: float | None
    survived: int
    of: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ShareAt:
    """How many went well at one level (its identity), of how many, with Wilson's 95 % interval: hits of the shots of a measure (its identity), or
    drops survived from one rung (in the plan's unit), or how one payload of several (its name) fared."""

    measure: str
    level: str
    payload: str
    rung: float | None
    well: int
    of: int
    interval: tuple[float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class WordCount:
    word: str
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Behaviours:
    """trials: counted ones at this level (its identity; by version, as the version is called) in which anything was noted."""

    level: str
    trials: int
    words: tuple[WordCount, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Beside:
    ladders: tuple[Ladder, ...]
    shares: tuple[ShareAt, ...]
    behaviours: tuple[Behaviours, ...]
    by_version: tuple[Behaviours, ...]
    straighter: tuple[Pair, ...]
    decided: str


def beside(owned: Owned, study_id: UUID) -> Beside:
    """All of it, as the study stands. Raises NotFound."""
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    seen, _ = seen_trials(study, rows_of(owned, study_id))
    ready = not unreadable(draft)
    decided = two_measures(draft, seen) if ready else None
    return Beside(
        ladders=_ladders(draft, seen) if ready and on_rungs(draft) else (),
        shares=(*_by_rung(draft, seen), *_hits(draft, seen), *_by_payload(draft, seen)) if ready else (),
        behaviours=_behaviours(seen, [(p.id, p.id) for p in planned_levels(draft)], lambda t: str(t.level)) if ready else (),
        by_version=_by_version(seen),
        straighter=() if decided is None else decided.pairs,
        decided="" if decided is None else decided.says,
    )


def _ladders(draft: Draft, seen: Sequence[TrialSeen]) -> tuple[Ladder, ...]:
    rungs = drop_heights(draft)
    drops = drops_of(draft, seen)
    every = every_rung(draft)
    found: dict[tuple[int, str], Bracket] = brackets_of(draft, seen)
    return tuple(
        Ladder(block=block, level=level, known=b.known, passed=b.passed, failed=b.failed, over=is_over(draft, drops[block, level]), next=next_rung(drops[block, level], rungs, every=every),
               survived=len({d.height for d in drops[block, level] if d.survived}), of=len(rungs))
        for (block, level), b in found.items()
    )


def _by_rung(draft: Draft, seen: Sequence[TrialSeen]) -> list[ShareAt]:
    """Survival at each rung, level by level from the lowest rung up, where every rung is run."""
    if not every_rung(draft):
        return []
    drops, first = drops_of(draft, seen), draft.measure.id
    made = []
    for p in planned_levels(draft):
        for rung in sorted(drop_heights(draft)):
            at = [d.survived for (_, level), of in drops.items() if level == p.id for d in of if d.height == rung]
            made += [_share(first, p.id, rung, sum(at), len(at))] if at else []
    return made


def _hits(draft: Draft, seen: Sequence[TrialSeen]) -> list[ShareAt]:
    """Hits of the shots, level by level, of each measure that counts out of so many."""
    made = []
    for m in draft.measures:
        if not m.of or not scale_of(m).counted:
            continue
        for p in planned_levels(draft):
            hits = [int(r.reading.value) for t in seen if t.counts and t.level == p.id for r in t.readings if r.measure == m.id and r.reading is not None]
            made += [_share(m.id, p.id, None, sum(hits), m.of * len(hits))] if hits else []
    return made


def _by_payload(draft: Draft, seen: Sequence[TrialSeen]) -> list[ShareAt]:
    """How each payload of several fared, level by level."""
    made = []
    for m in draft.measures:
        if not scale_of(m).survives or payloads_of(draft, m.id) < 2:
            continue
        for p in planned_levels(draft):
            for n, payload in enumerate(draft.payloads, 1):
                words = [r.words[0] for t in seen if t.counts and t.level == p.id for r in t.readings if r.measure == m.id and r.payload == n and r.words]
                well = [survived(m, w) is True for w in words]
                made += [_share(m.id, p.id, None, sum(well), len(well), payload)] if well else []
    return made


def _share(measure: str, level: str, rung: float | None, well: int, of: int, payload: str = "") -> ShareAt:
    return ShareAt(measure=measure, level=level, payload=payload, rung=rung, well=well, of=of, interval=share(level, well, of).wilson95)


def _behaviours(seen: Sequence[TrialSeen], called: Sequence[tuple[str, str]], of: Callable[[TrialSeen], str]) -> tuple[Behaviours, ...]:
    """called: each key and what it is called; of: the key of a trial."""
    made = []
    for key, name in called:
        noted = [t for t in seen if t.counts and of(t) == key and t.behaviours]
        if noted:
            counts = Counter(w for t in noted for w in t.behaviours)
            made.append(Behaviours(level=name, trials=len(noted), words=tuple(WordCount(word=w, count=n) for w, n in counts.most_common())))
    return tuple(made)


def _by_version(seen: Sequence[TrialSeen]) -> tuple[Behaviours, ...]:
    """Version by version, where trials tell of more than one."""
    keys = sorted({(t.made_by, t.version) for t in seen if t.counts and t.version is not None})
    if len(keys) < 2:
        return ()
    names = [(f"{device} {number}", f"{device} version {number}".strip()) for device, number in keys]
    return _behaviours(seen, names, lambda t: f"{t.made_by} {t.version}")
