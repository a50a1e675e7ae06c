"""A plan as it is typed (a draft that may be incomplete) and as it is accepted (checked, with numbers)."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from ..draft import Draft, MeasureDraft, VariableDraft
from ..errors import CoreError, PlanRefused
from ..families import family, known
from ..measuring.derived import WITH_PAYLOAD, prepare_all
from ..measuring.scales import scale_of
from ..once import once_for_each
from ..problem import Problem
from ..readings import QUANTITIES, convert, find_unit, read, step_of
from ..trials import Level
from ..words import said
from ..written import level_label
from .clock import start_minutes
from .labels import asked_about, looks_like_a_name
from .order import Turn, in_heats, in_lanes, turns
from .question import better_time
from .safety import check_safety

MOST_LEVELS, MOST_REPEATS, MOST_GROUPS, MOST_ID = 24, 50, 60, 60


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedLevel:
    """text, label: as it is shown, without and with its unit. level: number in the variable's unit, or the name. shown: the number in the unit in
    which the levels were written (`level_unit`), or the name. id: what trials know it by, whatever it is called."""

    text: str
    level: Level
    id: str = ""
    shown: Level = ""
    label: str = ""


@once_for_each
def check(draft: Draft) -> tuple[Problem, ...]:
    """Everything that stands between this draft and a first trial, and what is only worth asking about."""
    return (*_check_test(draft), *check_safety(draft), *_check_heats(draft), *_check_rules(draft), *_check_clock(draft))


@once_for_each
def unreadable(draft: Draft) -> tuple[Problem, ...]:
    """What keeps trials of this draft from being understood at all: its levels, measures, repeats or family. A plan whose limits
    or drops are not agreed cannot be run, but trials that were made by it can still be worked out."""
    return tuple(p for p in _check_test(draft) if p.grave)


@once_for_each
def _check_test(draft: Draft) -> tuple[Problem, ...]:
    found = [*_check_words(draft), *_check_levels(draft), *_check_second(draft)]
    for at, measure in enumerate(draft.measures):
        found += _check_measure(measure, f"measures.{at}")
    found += _check_measures(draft)
    if not 1 <= draft.repeats <= MOST_REPEATS:
        found.append(
            Problem(code="repeats_range", where="repeats", says=f"{draft.repeats} repeats cannot be run; choose 1 to {MOST_REPEATS}.")
        )
    elif draft.repeats < 3:
        found.append(
            Problem(
                code="repeats_few",
                where="repeats",
                grave=False,
                says=f"{draft.repeats} {'repeat shows' if draft.repeats == 1 else 'repeats show'} little of the spread; "
                "3 is the least by common practice, 5 is comfortable.",
            )
        )
    return tuple(found)


def _check_words(draft: Draft) -> list[Problem]:
    found = []
    if not draft.question.strip():
        found.append(
            Problem(code="question_missing", where="question", says="Write the question that the trials will answer.", grave=False)
        )
    if not known(draft.family):
        found.append(Problem(code="family_unknown", where="family", says="Choose the family of devices; it brings the cautions."))
    if not draft.prediction.strip() and not draft.expect:
        found.append(Problem(code="prediction_missing", where="prediction", grave=False, says="Write a prediction before the first trial."))
    labels = [g.strip() for g in draft.groups]
    if len(labels) > MOST_GROUPS:
        found.append(Problem(code="groups_many", where="groups", says=f"{len(labels)} groups are more than {MOST_GROUPS}."))
    if any(not g or len(g) > 30 for g in labels):
        found.append(Problem(code="group_blank", where="groups", says="Each group needs a label of 1 to 30 characters."))
    if len({g.casefold() for g in labels}) < len(labels):
        found.append(Problem(code="group_twice", where="groups", says="Two groups have the same label."))
    found += [Problem(code="group_named", where="groups", says=asked_about(g), grave=False) for g in labels if looks_like_a_name(g)]
    return found


def _check_measures(draft: Draft) -> list[Problem]:
    """What concerns the measures together, and what is worked out from them."""
    found = []
    names: dict[str, int] = {}
    for at, name in enumerate([*(m.name for m in draft.measures), *(d.name for d in draft.derived)]):
        key = said(name)
        where = f"measures.{at}.name" if at < len(draft.measures) else f"derived.{at - len(draft.measures)}.name"
        if key and key in names:
            found.append(Problem(code="measure_twice", where=where, says=f"“{name.strip()}” is there twice; give one of them another name."))
        names[key] = at
    if not scale_of(draft.measure).answers:
        says = "Behaviours explain the numbers; put something that can be compared first."
        found.append(Problem(code="measure_first", where="measures.0.scale", says=says))
    if draft.drop is not None and draft.drop.plan != "one_height" and scale_of(draft.measure).survives and any(scale_of(m).survives for m in draft.measures[1:]):
        says = "On a ladder one outcome decides whether it goes on; judge the payloads on one scale."
        found.append(Problem(code="outcome_twice", where="measures.1.scale", says=says))
    if len({said(p) for p in draft.payloads}) < len(draft.payloads) or any(not p.strip() for p in draft.payloads):
        found.append(Problem(code="payload_name", where="payloads", says="Each payload needs a name of its own."))
    if draft.margin.strip():
        try:
            read(draft.margin, draft.measure.quantity, draft.measure.unit)
        except CoreError as why:
            found.append(Problem(code=why.code, where="margin", says=f"The margin: {why.says}", grave=False))
    return [*found, *_check_better(draft), *prepare_all(draft)[1]]


def _check_better(draft: Draft) -> list[Problem]:
    """Which end of a time is best: by the question, where that is plain; in a contest it is asked where it is not."""
    first = draft.measure
    if scale_of(first).quantity(first) != "time":
        return []
    asked, ends = better_time(draft.question), {"high": "longest", "low": "shortest"}
    if asked is not None and asked != first.better:
        says = f"The question asks for the {ends[asked]} time, so that is best, whatever is chosen here. Word the question otherwise if it is not meant."
        return [Problem(code="better_by_question", where="measures.0.better", says=says, grave=False)]
    if asked is None and draft.study_kind == "contest":
        says = f"The question does not say which time wins; as it is chosen here the {ends[first.better]} does."
        return [Problem(code="better_unsaid", where="measures.0.better", says=says, grave=False)]
    return []


def _check_measure(measure: MeasureDraft, where: str) -> list[Problem]:
    found = []
    if not measure.name.strip():
        found.append(Problem(code="measure_missing", where=f"{where}.name", says="Say what is measured."))
    found += scale_of(measure).problems(measure, where)
    if not scale_of(measure).number:
        return found
    if measure.quantity not in QUANTITIES:
        return [*found, Problem(code="quantity_unknown", where=f"{where}.quantity", says="Choose what kind of quantity is measured.")]
    if find_unit(measure.unit, measure.quantity) != measure.unit:
        units = ", ".join(QUANTITIES[measure.quantity].units)
        found.append(
            Problem(code="unit_unknown", where=f"{where}.unit", says=f"“{measure.unit}” is not a unit of {measure.quantity}; use {units}.")
        )
    else:
        found += _check_tool(measure, where)
    if not measure.rule.strip():
        found.append(
            Problem(
                code="measuring_rule_missing",
                where=f"{where}.rule",
                grave=False,
                says="Say how the reading is taken: from where, to where, which edge.",
            )
        )
    return found


def _check_tool(measure: MeasureDraft, where: str) -> list[Problem]:
    found = []
    if measure.step.strip():
        try:
            step_of(measure.step, measure.quantity, measure.unit)
        except CoreError as why:
            found.append(Problem(code="step_unreadable", where=f"{where}.step", says=f"The smallest step of the tool: {why.says}"))
    if measure.end.strip():
        try:
            read(measure.end, measure.quantity, measure.unit)
        except CoreError as why:
            found.append(Problem(code="end_unreadable", where=f"{where}.end", says=f"Where the track or tape ends: {why.says}"))
    return found


def _check_levels(draft: Draft) -> list[Problem]:
    variable, found = draft.variable, []
    if not variable.name.strip():
        found.append(Problem(code="variable_missing", where="variable.name", says="Say what is changed."))
    if variable.kind == "number" and (variable.quantity not in QUANTITIES or find_unit(variable.unit, variable.quantity) != variable.unit):
        return [
            *found,
            Problem(code="unit_unknown", where="variable.unit", says=f"“{variable.unit}” is not a unit of {variable.quantity}."),
        ]
    typed = variable.levels
    if len(typed) > MOST_LEVELS:
        return [
            *found,
            Problem(
                code="levels_many", where="variable.levels", says=f"{len(typed)} levels are more than {MOST_LEVELS}; a class runs 3 to 6."
            ),
        ]
    seen: dict[Level, str] = {}
    for at, text in enumerate(typed):
        place = f"variable.levels.{at}"
        try:
            planned = level_of(variable, text)
        except CoreError as why:
            found.append(Problem(code=why.code, where=place, says=why.says))
            continue
        key = planned.level.casefold() if isinstance(planned.level, str) else planned.level
        if key in seen:
            found.append(Problem(code="level_twice", where=place, says=f"“{text.strip()}” is the same level as “{seen[key]}”."))
        seen[key] = text.strip()
    if not found and len(seen) < 2:
        says = "No level is chosen." if not seen else "With one level there is nothing to compare."
        found.append(Problem(code="levels_few", where="variable.levels", says=f"{says} Choose at least two, better three or more."))
    return found + _ask_about_range(draft, seen)


def _check_second(draft: Draft) -> list[Problem]:
    """A second variable: its own levels, every combination of both as a level, and no more than can be run."""
    if draft.second is None:
        return []
    found = [
        Problem(code=p.code, where=p.where.replace("variable", "second", 1), says=p.says, grave=p.grave)
        for p in _check_levels(draft.model_copy(update={"variable": draft.second, "family": ""}))
    ]
    if said(draft.second.name) == said(draft.variable.name) and draft.second.name.strip():
        found.append(Problem(code="variable_twice", where="second.name", says="Both variables have the same name."))
    many = len(draft.variable.levels) * len(draft.second.levels)
    if many > MOST_LEVELS:
        says = f"{len(draft.variable.levels)} × {len(draft.second.levels)} are {many} combinations; at most {MOST_LEVELS} can be run. Take fewer levels."
        found.append(Problem(code="levels_many", where="second.levels", says=says))
    if any(len(one) > MOST_ID for one in all_level_ids(draft)):
        found.append(Problem(code="level_long", where="second.levels", says=f"The names of two levels have more than {MOST_ID - 3} characters together; shorten them."))
    if draft.study_kind != "fair_test":
        found.append(Problem(code="second_not_fair", where="second.name", says="Two variables are for a fair test; a contest or design rounds has one."))
    return found


def _ask_about_range(draft: Draft, seen: dict[Level, str]) -> list[Problem]:
    if not known(draft.family):
        return []
    usual = next((v for v in family(draft.family).variables if v.name == draft.variable.name and v.unit == draft.variable.unit), None)
    if usual is None or usual.sensible is None:
        return []
    low, high = usual.sensible
    out = [text for level, text in seen.items() if isinstance(level, float) and not low <= level <= high]
    return [
        Problem(
            code="level_unusual",
            where="variable.levels",
            grave=False,
            says=f"{text} is outside what is usual for {usual.name} ({low:g} to {level_label(high, usual.unit)})."
            + (f" {usual.hint}" if usual.hint else "")
            + " Check the unit, or go on if it is meant.",
        )
        for text in out
    ]


def _check_heats(draft: Draft) -> list[Problem]:
    """A place is read only where several are let go together; trials that were made otherwise can still be worked out."""
    if scale_of(draft.measure).shape == "places" and not runs_heats(draft):
        says = f"{draft.measure.name.strip() or 'A place'} is read where several are let go together. Compare them side by side, or measure a time."
        return [Problem(code="places_alone", where="compared", says=says)]
    return []


def _check_rules(draft: Draft) -> list[Problem]:
    summed = any(b.source == "version" and b.of == WITH_PAYLOAD for d in draft.derived for b in d.inputs)
    if (summed or draft.rules.payload_multiple.strip()) and not draft.rules.payload_mass.strip():
        goes = "the rule of mass goes by it" if draft.rules.payload_multiple.strip() else "the force is worked out with it, 0 g where nothing is carried"
        return [Problem(code="payload_mass_missing", where="rules.payload_mass", grave=False, says=f"Write what the payload weighs: {goes}.")]
    return []


def _check_clock(draft: Draft) -> list[Problem]:
    try:
        start_minutes(draft.rota.start)
    except PlanRefused as why:
        return [Problem(code=why.code, where="rota.start", says=why.says, grave=False)]
    return []


def level_of(variable: VariableDraft, text: str) -> PlannedLevel:
    """One typed level understood. Raises CoreError with the reason."""
    clean = re.sub(r"\s+", " ", text).strip()
    if not clean:
        raise PlanRefused("This level is empty; write it or remove it.", code="level_blank")
    if variable.kind == "name":
        if len(clean) > 40:
            raise PlanRefused(f"A level’s name has at most 40 characters; this has {len(clean)}.", code="level_long")
        return PlannedLevel(text=clean, level=clean)
    found = read(clean, variable.quantity, variable.unit, signed=True)
    if found.kind != "exact":
        raise PlanRefused(f"“{clean}” is not one value; a level is a setting that can be made again.", code="level_not_exact")
    value = found.to(variable.unit)
    rounded = float(f"{value:.10g}")
    return PlannedLevel(text=f"{rounded:g}".replace("-", "−"), level=rounded)


@once_for_each
def planned_levels(draft: Draft) -> tuple[PlannedLevel, ...]:
    """The levels of a draft that has passed `check`, each with its identity."""
    first = _levels_of(draft.variable)
    if draft.second is None:
        return first
    return tuple(together(draft, a, b) for a in first for b in _levels_of(draft.second))


def _levels_of(variable: VariableDraft) -> tuple[PlannedLevel, ...]:
    unit = level_unit(variable)
    made = [replace(level_of(variable, text), id=one) for text, one in zip(variable.levels, level_ids(variable), strict=True)]
    return tuple(_written(p, variable.unit, unit) for p in made)


def level_unit(variable: VariableDraft) -> str:
    """The unit in which levels are told: the one in which all of them were written, else the variable's own; "" for names."""
    if variable.kind == "name":
        return ""
    try:
        units = {read(text, variable.quantity, variable.unit, signed=True).unit for text in variable.levels}
    except CoreError:  # said where levels are checked
        return variable.unit
    return units.pop() if len(units) == 1 else variable.unit


def _written(p: PlannedLevel, unit: str, to: str) -> PlannedLevel:
    if isinstance(p.level, str):
        return replace(p, shown=p.level, label=p.text)
    shown = float(f"{convert(p.level, unit, to):.10g}") if to != unit else p.level
    return replace(p, shown=shown, text=f"{shown:g}".replace("-", "−"), label=level_label(shown, to))


def together(draft: Draft, a: PlannedLevel, b: PlannedLevel) -> PlannedLevel:
    """One setting of two variables, as it is called at the lane: "20 cm, felt"."""
    assert draft.second is not None  # only asked where there are two
    text = f"{a.label}, {b.label}"
    return PlannedLevel(text=text, level=text, id=f"{a.id} × {b.id}", shown=text, label=text)


def settings_of(draft: Draft) -> dict[str, tuple[Level, Level]]:
    """For a plan of two variables, the two settings of each level by its identity; empty for a plan of one."""
    if draft.second is None:
        return {}
    return {together(draft, a, b).id: (a.shown, b.shown) for a in _levels_of(draft.variable) for b in _levels_of(draft.second)}


def all_level_ids(draft: Draft) -> frozenset[str]:
    """The identities of every level that trials of this draft can be of, readable or not."""
    if draft.second is None:
        return frozenset(level_ids(draft.variable))
    return frozenset(f"{a} × {b}" for a in level_ids(draft.variable) for b in level_ids(draft.second))


def level_ids(variable: VariableDraft) -> tuple[str, ...]:
    """The identity of each level, in the order of the plan: the one it has been given, else its text as it is shown. A text that is
    taken as the identity of another level gets a mark."""
    given = [*variable.level_ids, *[""] * len(variable.levels)][: len(variable.levels)]
    made: list[str] = []
    taken = {one for one in given if one}
    for text, one in zip(variable.levels, given, strict=True):
        if not one or one in made:
            try:
                one = level_of(variable, text).text
            except CoreError:  # said where levels are checked
                one = text.strip()[:60]
            while one in taken or one in made:
                one = f"{one[:58]}′"
        made.append(one)
    return tuple(made)


def runs_heats(draft: Draft) -> bool:
    """Whether a whole block is let go together: side by side, and what counts is when or as which each lands."""
    return draft.compared == "side_by_side" and draft.drop is None and (draft.measure.timed or scale_of(draft.measure).shape == "places")


@once_for_each
def planned_turns(draft: Draft, seed: int) -> tuple[Turn, ...]:
    """The order of trials of a draft; empty while it cannot be understood."""
    if unreadable(draft):
        return ()
    together = runs_heats(draft)
    order = "blocks" if together else draft.order
    groups = [g.strip() for g in draft.groups]
    dealt = turns([p.id for p in planned_levels(draft)], draft.repeats, groups, order, seed)
    made = in_heats(dealt) if together else in_lanes(dealt, draft.timing.lanes, groups)
    if draft.study_kind == "contest":  # every group releases its own device
        texts = {p.id: p.text for p in planned_levels(draft)}
        return tuple(replace(t, group=texts[t.level]) for t in made)
    return made
