"""A study's trials through the core: the verdict, and how a number came about."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace
from uuid import UUID

from bendro.core.analyse import Question, analyse, can_pair, described
from bendro.core.errors import TableRefused
from bendro.core.families import family
from bendro.core.judgement.deciding import Stage
from bendro.core.judgement.working import Working, how_difference, how_mean
from bendro.core.planning.draft import Draft
from bendro.core.planning.plan import level_of, planned_levels, unreadable
from bendro.core.planning.record import JUDGING, plan_changes
from bendro.core.planning.stock import Stock
from bendro.core.results import Analysis
from bendro.core.statistics.describe import Doubt
from bendro.core.statistics.trend import ALL_FORMS, FormName
from bendro.core.trials import Level, Trial
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .building import versions_of
from .errors import Refused
from .plan_record import agreed_plan
from .plans import plan_of
from .trials import TrialSeen, seen_trials, trials_of


def core_trials(draft: Draft, seen: Sequence[TrialSeen]) -> list[Trial]:
    """Trials as the core sees them, in order of release; those outside the plan are left out."""
    made = []
    for t in seen:
        if t.place == "outside":
            continue
        row, reading = t.row, t.reading
        level: Level = level_of(draft.variable, row.level).level
        made.append(
            Trial(
                level=level,
                value=None if reading is None else reading.value,
                kind="exact" if reading is None else reading.kind,
                resolution=None if reading is None else reading.resolution,
                doubt=None if reading is None else reading.doubt,
                timers=() if reading is None else reading.timers or (),
                timers_apart=() if reading is None else reading.flagged or (),
                state="void" if row.state == "void" else "kept",
                fault=row.fault or None,
                note=row.note or None,
                order=t.number,
                block=str(row.block),
                group=row.group_label or None,
                person=row.person or None,
                device=row.device or None,
                others={_bare(name): _value(text) for name, text in row.others},
                row=t.number,
            )
        )
    return made


def _bare(header: str) -> str:
    """A column's name without its unit."""
    return re.sub(r"\s*\([^()]*\)$", "", header) or header


def _value(text: str) -> Level | None:
    """A further column's cell: a number where it is one, else its words; None where it is empty."""
    return float(text) if re.fullmatch(r"[+-]?\d+(\.\d+)?", text) else text or None


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
    grave = unreadable(draft)
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
    trials, asked = _question(owned, owned.get(Study, study_id))
    return analyse(trials, asked)


def _question(owned: Owned, study: Study) -> tuple[list[Trial], Question]:
    """The trials of a study and what is asked of them."""
    draft = plan_of(study)
    asked = _asked(draft)
    seen, stock = seen_trials(study, trials_of(owned, study.id))
    trials = core_trials(draft, seen)
    agreed = agreed_plan(owned, study.id)
    rounds = draft.study_kind == "design_rounds"
    within = draft.within or ("block" if draft.compared == "side_by_side" else "")
    return trials, replace(
        asked,
        pair_by=within if within and can_pair(trials, within) else None,
        rounds=rounds,
        contest=draft.study_kind == "contest",
        changed_since=_changed_since(owned, study.id) if rounds else {},
        judging_changed=_judging_changed(agreed, draft),
        planned=True,
        stage=_stage(draft, agreed, stock, rounds=rounds),
    )


def _stage(draft: Draft, agreed: Draft | None, stock: Stock, *, rounds: bool) -> Stage:
    """Whether planned trials are still to come, or repeats were added to what was agreed before the first trial was kept. In design
    rounds versions come when they are built: only the two newest that were tried must be whole."""
    left = {t.level for t in stock.left}
    if rounds:
        left &= set([p.text for p in planned_levels(draft) if p.text in stock.tried][-2:])
    if left:
        return "so_far"
    began = draft.repeats if agreed is None else agreed.repeats
    reserve = draft.reserve if agreed is None else agreed.reserve
    if draft.repeats > began:
        return "reserve_used" if draft.repeats <= began + reserve else "added"
    return "reserved" if reserve else "whole"


def _changed_since(owned: Owned, study_id: UUID) -> dict[str, tuple[str, ...]]:
    """What each version changed, by its number; of the device with most versions where a study holds several."""
    seen = versions_of(owned, study_id)
    if not seen:
        return {}
    devices = [v.row.device for v in seen]
    device = max(dict.fromkeys(devices), key=devices.count)
    return {str(v.row.number): tuple(str(c) for c in v.changed) for v in seen if v.row.device == device}


def _judging_changed(agreed: Draft | None, draft: Draft) -> tuple[str, ...]:
    """Ways of judging that differ from what was agreed when the first trial was kept. One changed and put back is as agreed."""
    return () if agreed is None else tuple(c.name for c in plan_changes(agreed, draft) if c.where in JUDGING)


def how(owned: Owned, study_id: UUID, *, about: str, first: str, second: str | None) -> Working:
    """The working of one mean, or of the difference between two levels, at the study's reading level. Levels as they are stored."""
    study = owned.get(Study, study_id)
    variable = plan_of(study).variable
    trials, asked = _question(owned, study)
    one = level_of(variable, first).level
    if about == "mean":
        summary = next((s for s in described(trials, asked) if s.level == one), None)
        if summary is None:
            raise TableRefused(f"There is no kept trial at {first}.", code="level_unknown", where="level")
        return how_mean(trials, one, asked.factor_unit, summary, unit=asked.unit, reading=asked.reading)
    two = level_of(variable, second or "").level
    return how_difference(trials, one, two, asked.factor_unit, asked.unit, reading=asked.reading)
