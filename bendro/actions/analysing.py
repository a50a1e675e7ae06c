"""A study's trials through the core: the verdict, and how a number came about."""

from __future__ import annotations

from dataclasses import replace
from uuid import UUID

from sqlalchemy import func
from sqlmodel import select

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
from bendro.core.trials import Trial
from bendro.store.owned import Owned
from bendro.store.tables import Event, Study

from .building import versions_of
from .errors import Refused
from .plan_record import agreed_plan
from .plans import plan_of
from .responses import HELD, ResponseSeen, core_trials, deriving, levels_by_id, responses_of, tolerances
from .trials import rows_of, seen_trials


def _forms(draft: Draft) -> tuple[FormName, ...]:
    """The forms that the family's physics allows for this variable; all of them for a teacher's own."""
    usual = next((v for v in family(draft.family).variables if v.name == draft.variable.name), None)
    return usual.forms if usual else ALL_FORMS


def _only_first(draft: Draft, one: ResponseSeen) -> bool:
    return one.id == draft.measure.id


def _doubt(draft: Draft) -> Doubt:
    """The school of the plan; by default half the range at the first reading level and the interval above."""
    if draft.doubt != "auto":
        return draft.doubt
    return "half_range" if draft.reading_level == "first" else "ci95"


def _asked(draft: Draft, one: ResponseSeen, factor: str) -> Question:
    measure = draft.measure_of(one.id)
    if factor:  # what was recorded beside: not what the plan set out to compare
        named = factor.removeprefix(HELD)
        return Question(
            factor=named, response=one.name, unit=one.unit or None, survival=one.shape == "survival", treat_as="group", evidence=draft.evidence,
            reading=draft.reading_level, doubt=_doubt(draft), ask_about_odd=draft.odd == "flag", result=draft.result, best_is=one.better,
            prediction=draft.prediction or draft.expect, measuring_rule=measure.rule if measure else "as the plan works it out",
            hand_timed=measure.timed if measure is not None and measure.quantity == "time" else None, not_planned=True,
            counted=measure is not None and measure.scale in ("count", "zone"),
        )  # fmt: skip
    return Question(
        factor=draft.variable.name if draft.second is None else f"{draft.variable.name} and {draft.second.name}",
        factor_unit=(draft.variable.unit or None) if draft.second is None else None,
        response=one.name,
        unit=one.unit or None,
        survival=one.shape == "survival",
        treat_as=None if draft.variable.kind == "number" and one.shape != "rungs" and draft.second is None else "group",
        forms=_forms(draft) if _only_first(draft, one) else ALL_FORMS,
        level_order=tuple(p.level for p in planned_levels(draft)),
        evidence=draft.evidence,
        reading=draft.reading_level,
        doubt=_doubt(draft),
        ask_about_odd=draft.odd == "flag",
        result=draft.result,
        best_is=one.better,
        expect=(draft.expect or None) if _only_first(draft, one) else None,
        prediction=draft.prediction or draft.expect,
        measuring_rule=measure.rule if measure is not None and measure.scale in ("quantity", "count", "zone") else "as the plan works it out",
        hand_timed=measure.timed if measure is not None and measure.quantity == "time" else None,
        counted=measure is not None and measure.scale in ("count", "zone"),
    )


def analyse_study(owned: Owned, study_id: UUID, *, response: str = "", factor: str = "") -> Analysis:
    """The analysis of a study as it stands, for any of its measures (response: its identity, "" for the first), over the variable or
    anything else that is recorded of trials (factor). Raises Refused."""
    trials, asked = _question(owned, owned.get(Study, study_id), response, factor)
    return analyse(trials, asked)


def state_of(owned: Owned, study_id: UUID) -> tuple[object, ...]:
    """The mark of a study's state: as long as it is the same, so is every analysis of it. Raises NotFound."""
    study = owned.get(Study, study_id)
    # the newest number alone would not do: of two saves at one moment the one with the lower number may be committed second
    last, events = owned.first(select(func.max(Event.id), func.count()).where(Event.study_id == study_id))
    return (study_id, study.version, study.finished, last, events)


def question_of(owned: Owned, study_id: UUID, *, response: str = "", factor: str = "") -> tuple[list[Trial], Question]:
    """The trials of a study and what is asked of them. Raises Refused."""
    return _question(owned, owned.get(Study, study_id), response, factor)


def _question(owned: Owned, study: Study, response: str = "", factor: str = "") -> tuple[list[Trial], Question]:
    """The trials of a study and what is asked of them."""
    draft = plan_of(study)
    grave = unreadable(draft)
    if grave:
        raise Refused(f"The plan is not ready: {grave[0].says}", code="plan_not_ready", where=grave[0].where)
    one = next((r for r in responses_of(draft) if r.id == (response or draft.measure.id)), None)
    if one is None:
        raise Refused("This measure is not in the plan.", code="measure_unknown", where="response")
    seen, stock = seen_trials(study, rows_of(owned, study.id))
    trials = core_trials(owned, study, draft, seen, response=one.id, factor=factor)
    asked = _asked(draft, one, factor)
    hold = tolerances(draft, trials)
    if factor:
        hold.pop(factor.removeprefix(HELD), None)
        return trials, replace(asked, hold=hold)
    agreed = agreed_plan(owned, study.id)
    rounds = draft.study_kind == "design_rounds"
    within = draft.within or ("block" if draft.compared == "side_by_side" else "")
    return trials, replace(
        asked,
        pair_by=within if within and one.shape != "survival" and can_pair(trials, within) else None,
        rounds=rounds,
        contest=draft.study_kind == "contest",
        changed_since=_changed_since(owned, study.id) if rounds else {},
        judging_changed=_judging_changed(agreed, draft),
        hold=hold,
        planned=True,
        stage=_stage(draft, agreed, stock, rounds=rounds),
    )


def _stage(draft: Draft, agreed: Draft | None, stock: Stock, *, rounds: bool) -> Stage:
    """Whether planned trials are still to come, or repeats were added to what was agreed before the first trial was kept. In design
    rounds versions come when they are built: only the two newest that were tried must be whole."""
    left = {t.level for t in stock.left}
    if rounds:
        left &= set([p.id for p in planned_levels(draft) if p.id in stock.tried][-2:])
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


def how(owned: Owned, study_id: UUID, *, about: str, first: str, second: str | None, response: str = "") -> Working:
    """The working of one mean, of the difference between two levels (by their identities), or of what is worked out for one trial
    (about `trial`, first its number), at the study's reading level. Raises Refused, TableRefused."""
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    if about == "trial":
        return _how_trial(owned, study, draft, response, first)
    trials, asked = _question(owned, study, response)
    levels = levels_by_id(draft)
    one = levels[first] if first in levels else level_of(draft.variable, first).level
    if about == "mean":
        summary = next((s for s in described(trials, asked) if s.level == one), None)
        if summary is None:
            raise TableRefused(f"There is no kept trial at {first}.", code="level_unknown", where="level")
        return how_mean(trials, one, asked.factor_unit, summary, unit=asked.unit, reading=asked.reading)
    two = levels[second] if second in levels else level_of(draft.variable, second or "").level
    return how_difference(trials, one, two, asked.factor_unit, asked.unit, reading=asked.reading, counted=asked.are_counted)


def _how_trial(owned: Owned, study: Study, draft: Draft, response: str, number: str) -> Working:
    seen, _ = seen_trials(study, rows_of(owned, study.id))
    trial = next((t for t in seen if str(t.number) == number), None)
    work = deriving(owned, study, draft)
    if trial is None or work is None or response not in work.ready:
        raise Refused("There is nothing worked out for this trial.", code="measure_unknown", where="response")
    got = work.at(trial)[response]
    prepared = work.ready[response]
    title = f"{prepared.draft.name} of trial {number}"
    if isinstance(got, str):
        return Working(title=title, lines=(f"It cannot be worked out here: {got}.",))
    shared = (f"± {got.shared:.2g} {got.unit} is shared by all trials: it moves them together and changes no difference between levels by chance.",) if got.shared else ()
    return Working(title=title, lines=(*got.lines, *shared, *prepared.calculator.assumptions))
