"""A study's trials through the core: the verdict, and how a number came about."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from uuid import UUID

from bendro.core.analyse import Question, analyse, can_pair
from bendro.core.families import family
from bendro.core.judgement.working import Working, how_difference, how_mean
from bendro.core.planning.draft import Draft
from bendro.core.planning.plan import check, level_of, planned_levels
from bendro.core.planning.record import JUDGING, plan_changes
from bendro.core.results import Analysis
from bendro.core.statistics.describe import Doubt
from bendro.core.statistics.trend import ALL_FORMS, FormName
from bendro.core.trials import Level, Trial
from bendro.store.owned import Owned
from bendro.store.tables import Study, TrialRow

from .building import versions_of
from .errors import Refused
from .plan_record import agreed_plan
from .trials import trials_of


def core_trials(draft: Draft, rows: Sequence[TrialRow]) -> list[Trial]:
    """Stored trials as the core sees them, in order of release."""
    made = []
    for order, row in enumerate(rows, 1):
        reading = row.reading or {}
        level: Level = level_of(draft.variable, row.level).level
        made.append(
            Trial(
                level=level,
                value=reading.get("value"),
                kind=reading.get("kind", "exact"),
                resolution=reading.get("resolution"),
                doubt=reading.get("doubt"),
                state="void" if row.state == "void" else "kept",
                fault=row.fault or None,
                note=row.note or None,
                order=order,
                block=str(row.block),
                group=row.group_label or None,
                person=row.person or None,
                row=order,
            )
        )
    return made


def _forms(draft: Draft) -> tuple[FormName, ...]:
    """The forms that the family's physics allows for this variable; all of them for a teacher's own."""
    usual = next((v for v in family(draft.family).variables if v.name == draft.variable.name), None)
    return usual.forms if usual else ALL_FORMS


def _doubt(draft: Draft) -> Doubt:
    """The school of the plan; by default half the range at the first reading level and the interval above."""
    if draft.doubt != "auto":
        return draft.doubt
    return "half_range" if draft.reading_level == "first" else "ci95"


def _asked(draft: Draft) -> Question:
    grave = [p for p in check(draft) if p.grave]
    if grave:
        raise Refused(f"The plan is not ready: {grave[0].says}", code="plan_not_ready", where=grave[0].where)
    return Question(
        factor=draft.variable.name,
        factor_unit=draft.variable.unit or None,
        response=draft.measure.name,
        unit=draft.measure.unit or None,
        treat_as=None if draft.variable.kind == "number" else "group",
        forms=_forms(draft),
        level_order=tuple(p.level for p in planned_levels(draft)),
        evidence=draft.evidence,
        reading=draft.reading_level,
        doubt=_doubt(draft),
        ask_about_odd=draft.odd == "flag",
        result=draft.result,
        best_is=draft.measure.better,
        expect=draft.expect or None,
        prediction=draft.prediction or draft.expect,
        measuring_rule=draft.measure.rule,
        hand_timed=draft.measure.timed if draft.measure.quantity == "time" else None,
    )


def analyse_study(owned: Owned, study_id: UUID) -> Analysis:
    """The analysis of a study as it stands."""
    draft = Draft.model_validate(owned.get(Study, study_id).draft)
    trials = core_trials(draft, trials_of(owned, study_id))
    asked = replace(
        _asked(draft),
        pair_by="block" if draft.compared == "side_by_side" and can_pair(trials) else None,
        rounds=draft.study_kind == "design_rounds",
        changed_since=_changed_since(owned, study_id) if draft.study_kind == "design_rounds" else {},
        judging_changed=_judging_changed(owned, study_id),
    )
    return analyse(trials, asked)


def _changed_since(owned: Owned, study_id: UUID) -> dict[str, tuple[str, ...]]:
    """What each version changed, by its number; of the device with most versions where a study holds several."""
    seen = versions_of(owned, study_id)
    if not seen:
        return {}
    devices = [v.row.device for v in seen]
    device = max(dict.fromkeys(devices), key=devices.count)
    return {str(v.row.number): tuple(str(c) for c in v.changed) for v in seen if v.row.device == device}


def _judging_changed(owned: Owned, study_id: UUID) -> tuple[str, ...]:
    """Ways of judging that differ from what was agreed when the first trial was kept. One changed and put back is as agreed."""
    agreed = agreed_plan(owned, study_id)
    if agreed is None:
        return ()
    now = Draft.model_validate(owned.get(Study, study_id).draft)
    return tuple(c.name for c in plan_changes(agreed, now) if c.where in JUDGING)


def how(owned: Owned, study_id: UUID, *, about: str, first: str, second: str | None) -> Working:
    """The working of one mean, or of the difference between two levels. Levels as they are stored."""
    draft = Draft.model_validate(owned.get(Study, study_id).draft)
    asked = _asked(draft)
    trials = core_trials(draft, trials_of(owned, study_id))
    one = level_of(draft.variable, first).level
    if about == "mean":
        return how_mean(trials, one, asked.factor_unit, asked.unit)
    return how_difference(trials, one, level_of(draft.variable, second or "").level, asked.factor_unit, asked.unit)
