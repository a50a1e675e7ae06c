"""What is asked of a study's trials: from its record to the one question that every analysis answers."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Literal

import numpy as np

from .analyse import can_pair
from .context import Context
from .draft import Draft, MeasureDraft
from .errors import PlanRefused
from .families import family
from .judgement.deciding import Stage
from .judgement.places import Agreed
from .judgement.ranking import Entrant, ranking
from .measuring.scales import scale_of
from .measuring.taking import STEADY, survived
from .planning.ideas import holds
from .planning.plan import level_unit, planned_levels, settings_of, unreadable
from .planning.record import JUDGING, plan_changes
from .record.built import with_properties
from .record.given import held_units, held_value, rung_step, tolerances, trials_of
from .record.ladders import brackets_of, payloads_of, whole_word
from .record.responses import HELD, ResponseSeen, response_named
from .record.study import StudyRecord
from .record.two_measures import two_measures
from .statistics.describe import Doubt
from .statistics.trend import ALL_FORMS, FormName
from .templates.as_cut import not_as_called
from .trials import Level, Trial

#: What a landing in the zones scores.
POINTS = "points"
#: Under this name the variable's level stands beside a trial that is compared over something else.
LEVEL = "level of the variable"


def asked_of(record: StudyRecord, response: str = "", factor: str = "") -> tuple[list[Trial], Context]:
    """The trials of a study and what is asked of them, for any of its measures (response: its identity, "" for the first), over the variable
    or anything else that is recorded of trials (factor). Raises PlanRefused."""
    draft = record.draft
    grave = unreadable(draft)
    if grave:
        raise PlanRefused(f"The plan is not ready: {grave[0].says}", code="plan_not_ready", where=grave[0].where)
    one = response_named(draft, response)
    if one is None:
        raise PlanRefused("This measure is not in the plan.", code="measure_unknown", where="response")
    trials = trials_of(draft, record.trials, one, factor=factor, work=record.work)
    if not factor:
        trials = with_properties(record, trials)
    hold = tolerances(draft, trials)
    if factor:
        named = factor.removeprefix(HELD)
        hold.pop(named, None)
        trials = _beside_level(record, trials)
        crossed = one.shape != "survival" and _crossed(trials)
        return trials, replace(_common(record, one), factor=named, treat_as="group", hold=hold, hold_units=held_units(draft, hold), held_at=_held_at(draft, hold), not_planned=True, pair_by=LEVEL if crossed else None)
    rounds, line = draft.study_kind == "design_rounds", record.line_of()
    second = draft.second
    asked = replace(
        _common(record, one),
        factor=draft.variable.name if second is None else f"{draft.variable.name} and {second.name}",
        factor_unit=(level_unit(draft.variable) or None) if second is None else None,
        treat_as=None if draft.variable.kind == "number" and not on_ladder(one) and second is None else "group",
        forms=_forms(draft) if one.id == draft.measure.id else ALL_FORMS,
        level_order=tuple(p.shown for p in planned_levels(draft)),
        expect=(draft.expect or None) if one.id == draft.measure.id else None,
        expected_late=record.agreed is not None and record.agreed.expect != draft.expect,
        pair_by=_within(draft, one, trials),
        rounds=rounds,
        contest=draft.study_kind == "contest",
        changed_since={n: v.changed for n, v in line.items()} if rounds else {},
        changed_in={f"{v.device} {v.number}".strip(): v.changed for v in record.versions if v.changed},
        made_from={n: str(v.since) for n, v in line.items() if v.since is not None} if rounds else {},
        judging_changed=_judging_changed(record.agreed, draft),
        hold=hold,
        hold_units=held_units(draft, hold),
        held_at=_held_at(draft, hold),
        planned=True,
        stage=_stage(record, rounds=rounds),
        agreed=_agreed(record, one),
        outside=_outside(record),
        decision=_decision(record) if one.id == draft.measure.id else "",
        as_cut=tuple((c.says, c.share) for c in not_as_called(draft, record.versions)) if any(v.measured for v in record.versions) else None,
    )
    if second is None:
        return trials, asked
    settings = settings_of(draft)
    by_level = {p.shown: settings[p.id] for p in planned_levels(draft)}
    names = (draft.variable.name, second.name)
    made = [replace(t, others={**t.others, names[0]: by_level[t.level][0], names[1]: by_level[t.level][1]}) if t.level in by_level else t for t in trials]
    units = (level_unit(draft.variable) or None, level_unit(second) or None)
    return made, replace(asked, two=names, two_units=units, settings=by_level)


def _within(draft: Draft, one: ResponseSeen, trials: Sequence[Trial]) -> str | None:
    """The column within which trials are compared. Places are always compared within what was released together: of one heat one place
    gives the others away."""
    if one.shape == "survival":
        return None
    if one.shape == "places":
        return next((c for c in ("heat", "block") if can_pair(trials, c) or _connected(trials, c)), None)
    within = draft.within or ("block" if draft.compared == "side_by_side" else "")
    return within if within and can_pair(trials, within) else None


def _connected(trials: Sequence[Trial], column: str) -> bool:
    """Whether more than two levels can be told apart within a column though none of its values holds all of them."""
    kept = [t for t in trials if t.counts]
    if len({t.level for t in kept}) < 3 or any(t.column(column) is None or t.kind in ("at_least", "at_most") for t in kept):
        return False
    return _told_apart([t.level for t in kept], [t.column(column) for t in kept])


def _told_apart(levels: Sequence[object], blocks: Sequence[object]) -> bool:
    """Whether levels and blocks can be told apart in one additive model, with trials to spare."""
    names, rows = list(dict.fromkeys(levels)), list(dict.fromkeys(blocks))
    design = np.array([[1.0, *(float(v == n) for n in names[1:]), *(float(b == r) for r in rows[1:])] for v, b in zip(levels, blocks, strict=True)])
    return bool(len(levels) > design.shape[1] and int(np.linalg.matrix_rank(design)) == design.shape[1])


def on_ladder(one: ResponseSeen) -> bool:
    """Whether what is compared is the highest rung of a ladder, which is only known as a bracket."""
    return one.shape == "rungs" and not one.every


def _common(record: StudyRecord, one: ResponseSeen) -> Context:
    draft = record.draft
    measure = draft.measure_of(one.id)
    return Context(
        factor=draft.variable.name,
        response=one.name,
        unit=POINTS if one.scored else "rungs" if one.every else one.unit or None,
        survival=one.shape == "survival",
        passed=one.passed or "survived",
        payloads=payloads_of(draft, one.id),
        evidence=draft.evidence,
        reading=draft.reading_level,
        doubt=doubt_of(draft),
        ask_about_odd=draft.odd == "flag",
        result="median" if on_ladder(one) and draft.result == "mean" else draft.result,
        on_rungs=on_ladder(one),
        best_is=one.better,
        prediction=draft.prediction or draft.expect,
        measuring_rule=measure.rule if measure is not None and scale_of(measure).number else "as the plan works it out",
        hand_timed=None if measure is None or measure.quantity != "time" else measure.timed and not _steadily(record, one.id),
        counted=one.every or (measure is not None and scale_of(measure).number and scale_of(measure).whole),
        whole=one.whole,
        least=one.least,
        most=one.most,
        by_size=one.by_size,
        names_best=one.id == draft.measure.id,
        places=one.shape == "places",
        dropped=family(draft.family).dropped,
        cover=_cover(measure),
    )


def _steadily(record: StudyRecord, measure: str) -> bool:
    """Whether every counted reading of a measure was taken by something steadier than a thumb, and there is one."""
    taken = [r.taken for t in record.counted if (r := t.of(measure)) is not None]
    return bool(taken) and all(how in STEADY for how in taken)


def _cover(measure: MeasureDraft | None) -> Literal["tape", "time", "height", "other"]:
    """What a reading that is only a bound ran out of."""
    if measure is None:
        return "other"
    if scale_of(measure).survives:
        return "height"
    if measure.quantity == "time":
        return "time"
    if measure.quantity == "length":
        return "height" if "height" in measure.name.casefold() else "tape"
    return "other"


def doubt_of(draft: Draft) -> Doubt:
    """The school of the plan; by default half the range at the first reading level and the interval above."""
    if draft.doubt != "auto":
        return draft.doubt
    return "half_range" if draft.reading_level == "first" else "ci95"


def _forms(draft: Draft) -> tuple[FormName, ...]:
    """The forms that the family's physics allows for this variable; all of them for a teacher's own."""
    usual = next((v for v in family(draft.family).variables if v.name == draft.variable.name), None)
    return usual.forms if usual else ALL_FORMS


def _held_at(draft: Draft, hold: Mapping[str, float | None]) -> dict[str, Level | None]:
    """What the plan holds each of these at, in the form in which trials tell it."""
    planned = {h.name.casefold().strip(): h.value for h in holds(draft)}
    return {name: held_value(draft, name, planned.get(name.casefold().strip(), "")) for name in hold}


def _beside_level(record: StudyRecord, trials: Sequence[Trial]) -> list[Trial]:
    """Each trial with the level of the variable that it was run at."""
    labels = {p.id: p.label for p in planned_levels(record.draft)}
    at = {t.number: labels.get(t.level, t.level) for t in record.trials}
    return [replace(t, others={**t.others, LEVEL: at[t.row]}) for t in trials]


def _crossed(trials: Sequence[Trial]) -> bool:
    """Whether what is compared and the variable's levels can be told apart in one additive model, with trials to spare."""
    kept = [t for t in trials if t.counts]
    levels, blocks = [t.level for t in kept], [t.others[LEVEL] for t in kept]
    if len(set(levels)) < 2 or len(set(blocks)) < 2 or any(t.kind in ("at_least", "at_most") or t.value is None for t in kept):
        return False
    return _told_apart(levels, blocks)


def _stage(record: StudyRecord, *, rounds: bool) -> Stage:
    """Whether planned trials are still to come, or repeats were added to what was agreed before the first trial was kept. In design
    rounds versions come when they are built: only the newest that was tried, and the one it was made from, must be whole."""
    draft, agreed, stock = record.draft, record.agreed, record.stock
    left = {t.level for t in stock.left}
    if rounds:
        tried = [p.id for p in planned_levels(draft) if p.id in stock.tried]
        line = record.line_of()
        since = next((str(v.since) for n, v in line.items() if tried and n == tried[-1] and v.since is not None), None)
        left &= {*tried[-1:], since} if since in tried else set(tried[-2:])
    if left:
        return "so_far"
    began = draft.repeats if agreed is None else agreed.repeats
    reserve = draft.reserve if agreed is None else agreed.reserve
    if draft.repeats > began:
        return "reserve_used" if draft.repeats <= began + reserve else "added"
    return "reserved" if reserve else "whole"


def _judging_changed(agreed: Draft | None, draft: Draft) -> tuple[str, ...]:
    """Ways of judging that differ from what was agreed when the first trial was kept. One changed and put back is as agreed."""
    return () if agreed is None else tuple(c.name for c in plan_changes(agreed, draft) if c.where in JUDGING)


def _outside(record: StudyRecord) -> dict[Level, str]:
    """In a contest, the devices that break a rule of the plan, each with its reason."""
    if record.draft.study_kind != "contest":
        return {}
    found = {p.shown: record.used_by(p.text) for p in planned_levels(record.draft)}
    return {level: v.broken[0] for level, v in found.items() if v is not None and v.broken}


def _decision(record: StudyRecord) -> str:
    found = two_measures(record.draft, record.trials)
    return "" if found is None else found.says


def _agreed(record: StudyRecord, one: ResponseSeen) -> tuple[Agreed, ...]:
    """The places of a contest by a rule of the plan's own: the highest rung and then the lightest, or the cheapest that survived. Empty where
    they go by the results."""
    draft = record.draft
    if draft.study_kind != "contest" or draft.rank == "result" or not scale_of(draft.measure).survives or one.id != draft.measure.id:
        return ()
    brackets = brackets_of(draft, record.trials)
    entrants: dict[str, tuple[Level, Entrant]] = {}
    for p in planned_levels(draft):
        known = [b for (_, level), b in brackets.items() if level == p.id]
        climbs = [b.passed or 0.0 for b in known]
        words = [whole_word(draft, t.readings) for t in record.counted if t.level == p.id]
        lived = [survived(draft.measure, w) for w in words if w is not None]
        version = record.used_by(p.text)
        best = max(climbs) if climbs else None
        entrants[p.text] = (
            p.shown,
            Entrant(
                name=p.text,
                rung=best,
                on_top=any(b.known == "at_least" and b.passed == best for b in known),
                mass=None if version is None else version.mass,
                cost=None if version is None else version.cost,
                survived=sum(v is True for v in lived),
                drops=len(lived),
            ),
        )
    made = ranking([e for _, e in entrants.values()], draft.rank, draft.drop.unit if draft.drop is not None else "", rung_step(draft))
    return tuple(Agreed(level=entrants[r.name][0], place=r.place, shared=r.shared, result=r.result, why=r.why) for r in made)
