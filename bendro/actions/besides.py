"""What stands beside the numbers of a study: ladders of specimens, behaviours by level, straightness against distance."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from uuid import UUID

from bendro.core.draft import Draft
from bendro.core.measuring.drops import Bracket, next_rung
from bendro.core.planning.plan import planned_levels, unreadable
from bendro.core.planning.safety import drop_heights
from bendro.core.record.ladders import brackets_of, drops_of, on_rungs
from bendro.core.record.seen import TrialSeen
from bendro.core.record.two_measures import Pair, two_measures
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
        behaviours=_behaviours(seen, [(p.id, p.id) for p in planned_levels(draft)], lambda t: str(t.level)) if ready else (),
        by_version=_by_version(seen),
        straighter=() if decided is None else decided.pairs,
        decided="" if decided is None else decided.says,
    )


def _ladders(draft: Draft, seen: Sequence[TrialSeen]) -> tuple[Ladder, ...]:
    rungs = drop_heights(draft)
    drops = drops_of(draft, seen)
    found: dict[tuple[int, str], Bracket] = brackets_of(draft, seen)
    return tuple(
        Ladder(block=block, level=level, known=b.known, passed=b.passed, failed=b.failed, over=b.over, next=next_rung(drops[block, level], rungs))
        for (block, level), b in found.items()
    )


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
