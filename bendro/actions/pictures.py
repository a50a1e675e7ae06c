"""What the pictures of a study draw, for any of its measures."""

from __future__ import annotations

from collections.abc import Sequence
from uuid import UUID

from bendro.core.analyse import evidence_of
from bendro.core.conclusion.pictures import Cell, Landed, Pictures, crossed_of, fit_of, heats_of, landed_of, order_of
from bendro.core.context import Context
from bendro.core.draft import Draft
from bendro.core.planning.plan import planned_levels, settings_of
from bendro.core.record.two_measures import along_and_off
from bendro.core.results import Analysis, LevelName, TrendEffect
from bendro.core.trials import Trial
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .plans import plan_of
from .trials import rows_of, seen_trials


def pictures_of(owned: Owned, study_id: UUID, trials: Sequence[Trial], asked: Context, found: Analysis) -> Pictures:
    """trials, asked: as `analysing.question_of` gives them; found: their analysis. Raises NotFound."""
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    return Pictures(
        fit=fit_of(trials, found.effect) if isinstance(found.effect, TrendEffect) else None,
        order=None if asked.survival else order_of(evidence_of(trials, found, asked)),
        landed=_landed(owned, study, draft),
        crossed=_crossed(draft, trials),
        heats=heats_of(trials, best_is=asked.best_is, column=asked.pair_by) if asked.pair_by in ("block", "heat") else None,
    )


def _landed(owned: Owned, study: Study, draft: Draft) -> tuple[Landed, ...]:
    pair = along_and_off(draft)
    if pair is None:
        return ()
    along, off = pair
    seen, _ = seen_trials(study, rows_of(owned, study.id))
    names = {p.id: p.shown for p in planned_levels(draft)}
    levels: dict[LevelName, list[tuple[int | None, float, float]]] = {level: [] for level in names.values()}
    for t in seen:
        one, two = t.taken(along.id), t.taken(off.id)
        if t.counts and one is not None and two is not None and one.kind == two.kind == "exact" and t.level in names:
            levels[names[t.level]].append((t.number, one.value, two.in_unit(along.unit).value))
    return landed_of(levels)


def _crossed(draft: Draft, trials: Sequence[Trial]) -> tuple[Cell, ...]:
    settings = settings_of(draft)
    if not settings:
        return ()
    by_name = {p.shown: settings[p.id] for p in planned_levels(draft)}
    rows = [(float(t.value), *by_name[t.level]) for t in trials if t.counts and t.value is not None and t.level in by_name]
    return crossed_of(rows)
