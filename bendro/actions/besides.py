"""What stands beside the numbers of a study: ladders of specimens, behaviours by level, straightness against distance."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from uuid import UUID

from bendro.core.errors import CoreError, TableRefused
from bendro.core.judgement.ranking import Entrant, PlaceTaken, ranking
from bendro.core.measuring.drops import Bracket, next_rung
from bendro.core.measuring.taking import survived
from bendro.core.planning.draft import Draft, MeasureDraft
from bendro.core.planning.ideas import said
from bendro.core.planning.plan import planned_levels, settings_of, unreadable
from bendro.core.planning.safety import drop_heights, read_any
from bendro.core.readings import read
from bendro.core.statistics.landing import straighter_without_loss, two_variables
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .building import versions_of
from .plans import plan_of
from .trials import TrialSeen, brackets_of, drops_of, on_rungs, rows_of, seen_trials

#: Fewer landings than this at a level decide nothing about its scatter.
LANDINGS = 3


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
class Decision:
    """Straighter without losing distance, from the first level to the second (identities); loss and worst_loss in the unit of distance."""

    first: str
    second: str
    straighter: bool
    loss: float
    worst_loss: float | None
    keeps_distance: bool
    says: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Two:
    """Two planned variables: p of each and of their interaction, None where it cannot be weighed yet."""

    says: str
    p_first: float | None
    p_second: float | None
    p_interaction: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Beside:
    ladders: tuple[Ladder, ...]
    behaviours: tuple[Behaviours, ...]
    by_version: tuple[Behaviours, ...]
    straighter: tuple[Decision, ...]
    two: Two | None
    places: tuple[PlaceTaken, ...]


def beside(owned: Owned, study_id: UUID) -> Beside:
    """All of it, as the study stands. Raises NotFound."""
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    seen, _ = seen_trials(study, rows_of(owned, study_id))
    ready = not unreadable(draft)
    return Beside(
        ladders=_ladders(draft, seen) if ready and on_rungs(draft) else (),
        behaviours=_behaviours(seen, [(p.id, p.id) for p in planned_levels(draft)], lambda t: str(t.row["level"])) if ready else (),
        by_version=_by_version(seen),
        straighter=_straighter(draft, seen) if ready else (),
        two=_two(draft, seen) if ready else None,
        places=_places(owned, study, draft, seen) if ready else (),
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
    keys = sorted({(t.row["device"] or t.row["group_label"], t.row["version"]) for t in seen if t.counts and t.row["version"] is not None})
    if len(keys) < 2:
        return ()
    names = [(f"{device} {number}", f"{device} version {number}".strip()) for device, number in keys]
    return _behaviours(seen, names, lambda t: f"{t.row['device'] or t.row['group_label']} {t.row['version']}")


def along_and_off(draft: Draft) -> tuple[MeasureDraft, MeasureDraft] | None:
    """The distance and the distance off the line, where the plan measures both."""
    first = draft.measure
    off = next((m for m in draft.measures[1:] if m.signed and m.quantity == "length"), None)
    if first.quantity != "length" or first.scale != "quantity" or off is None:
        return None
    return first, off


def _straighter(draft: Draft, seen: Sequence[TrialSeen]) -> tuple[Decision, ...]:
    """From each level to the next: is it straighter, and does it keep its distance within the margin agreed?"""
    pair = along_and_off(draft)
    if pair is None or not draft.margin.strip():
        return ()
    along, off = pair
    try:
        margin = read(draft.margin, along.quantity, along.unit).to(along.unit)
    except CoreError:  # said where the plan is checked
        return ()
    landed: dict[str, tuple[list[float], list[float]]] = {}
    for t in seen:
        one, two = t.taken(along.id), t.taken(off.id)
        if t.counts and one is not None and two is not None and one.kind == two.kind == "exact":
            at = landed.setdefault(t.row["level"], ([], []))
            at[0].append(one.value)
            at[1].append(two.in_unit(along.unit).value)
    ids = [p.id for p in planned_levels(draft) if len(landed.get(p.id, ((), ()))[0]) >= LANDINGS]
    made = []
    for a, b in zip(ids, ids[1:], strict=False):
        found = straighter_without_loss(landed[a], landed[b], margin, along.unit)
        made.append(
            Decision(
                first=a, second=b, straighter=found.straighter, loss=found.loss, worst_loss=found.worst_loss,
                keeps_distance=found.keeps_distance, says=found.says,
            )
        )  # fmt: skip
    return tuple(made)


def _two(draft: Draft, seen: Sequence[TrialSeen]) -> Two | None:
    """What each of two planned variables does, and whether one depends on the other; for the first measure."""
    settings = settings_of(draft)
    if draft.second is None or draft.measure.scale not in ("quantity", "count"):
        return None
    rows = [(got.value, *settings[t.row["level"]]) for t in seen if t.counts and t.row["level"] in settings and (got := t.taken(draft.measure.id)) is not None and got.kind == "exact"]
    try:
        found = two_variables([r[0] for r in rows], [r[1] for r in rows], [r[2] for r in rows], (draft.variable.name, draft.second.name))
    except (TableRefused, ValueError) as why:
        says = why.says if isinstance(why, TableRefused) else "There are too few trials to weigh two variables."
        return Two(says=says, p_first=None, p_second=None, p_interaction=None)
    return Two(says=found.says, p_first=found.p_first, p_second=found.p_second, p_interaction=found.p_interaction)


def _places(owned: Owned, study: Study, draft: Draft, seen: Sequence[TrialSeen]) -> tuple[PlaceTaken, ...]:
    """The places of a contest by the rule agreed, where that is not the result of its levels."""
    if draft.study_kind != "contest" or draft.rank == "result" or draft.measure.scale != "outcome":
        return ()
    newest = {said(v.row.device): v for v in versions_of(owned, study.id)}
    brackets = brackets_of(draft, seen)
    made = []
    for p in planned_levels(draft):
        climbs = [b.passed or 0.0 for (_, level), b in brackets.items() if level == p.id]
        lived = [survived(draft.measure, r.words[0]) for t in seen if t.counts and t.row["level"] == p.id for r in t.readings if r.measure == draft.measure.id and r.words]
        version = newest.get(said(p.text))
        mass = None if version is None else read_any(version.draft.mass)
        made.append(
            Entrant(
                name=p.text,
                rung=max(climbs) if climbs else None,
                mass=mass.to("g") if mass is not None and mass.quantity == "mass" else None,
                cost=version.cost if version is not None and version.draft.used else None,
                survived=sum(v is True for v in lived),
                drops=len(lived),
            )
        )
    return ranking(made, draft.rank, draft.drop.unit if draft.drop is not None else "")
