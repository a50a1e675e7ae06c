"""From a class's ideas to what is kept the same; limits, drops, survival, and what a sign-off covers."""

from __future__ import annotations

from typing import Any, get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bendro.core.draft import Draft, Held, StudyKind
from bendro.core.families import families, family
from bendro.core.planning.ideas import CONCLUDES, kept_same, limit_on_variable, question_for, suggested_levels
from bendro.core.planning.plan import check, planned_turns
from bendro.core.planning.record import locked_by_trials, plan_changes
from bendro.core.planning.safety import cautions_of, limit_places, limits_in_words, safety_mark
from bendro.core.readings.amounts import read_any
from bendro.core.words import said, unlike
from tests.conftest import DRAFT


def draft(**change: Any) -> Draft:
    """The usual draft changed; its limit on the pull-back stays only while the pull-back is what is changed."""
    own = {} if "limits" in change or ("family" not in change and "variable" not in change) else {"limits": []}
    return Draft.model_validate({**DRAFT, **own, **change})


def codes(d: Draft, grave: bool = True) -> list[str]:
    return [p.code for p in check(d) if p.grave is grave]


# --- the wall --------------------------------------------------------------------------------------------------------


def test_what_is_not_changed_and_not_measured_is_kept_the_same_by_itself() -> None:
    d = draft(
        could_change=["pull-back", "The projectile ", "band colour", "distance to first touch"],
        hold=[{"name": "projectile", "value": "12 g", "tolerance": "1 g"}, {"name": "band colour", "how": "only blue bands"}],
    )
    found = {k.name: k.how for k in kept_same(d)}
    assert "pull-back" not in found  # it is changed
    assert "distance to first touch" not in found  # it is measured
    assert found["projectile"] == "12 g, within 1 g"
    assert found["band colour"] == "only blue bands"
    assert sum(said(n) == "projectile" for n in found) == 1  # the family's own and the wall's are one


@pytest.mark.parametrize("family_id", [f.id for f in families()])
def test_every_family_says_what_stays_the_same_before_anyone_has_an_idea(family_id: str) -> None:
    f = family(family_id)
    names = {k.name for k in kept_same(Draft(family=f.id))}
    assert {k.name for k in f.keep_same} <= names


@given(st.lists(st.text(max_size=12)))
def test_ideas_stand_once_whatever_their_case_and_spaces(ideas: list[str]) -> None:
    found = unlike(ideas)
    assert len({said(i) for i in found}) == len(found)
    assert {said(i) for i in found} == {said(i) for i in ideas if i.strip()}


def test_each_kind_of_study_says_what_it_can_and_cannot_conclude() -> None:
    assert set(CONCLUDES) == set(get_args(StudyKind))
    for can, cannot in CONCLUDES.values():
        assert can.startswith("It can ")
        assert "annot" in cannot


def test_in_a_contest_every_group_releases_its_own_device() -> None:
    contest = draft(study_kind="contest", groups=["Red", "Blue"], variable={"name": "device", "kind": "name", "levels": ["Red", "Blue"]})
    assert {(t.level, t.group) for t in planned_turns(contest, 5)} == {("Red", "Red"), ("Blue", "Blue")}


@pytest.mark.parametrize(
    ("family_id", "variable", "not_held"),
    [
        ("parachute", "line length", "line length"),
        ("parachute", "payload mass", "payload"),
        ("rocket", "gauge pressure", "pressure or stamp"),
        ("launcher", "pull-back", "pull-back mark"),
        ("turbine", "fan distance", "fan distance"),
        ("rotor", "paper stock", "paper"),
        ("vehicle", "runner surface", "surface"),
        ("vehicle", "load mass", "load"),
        ("vehicle", "push speed", "push"),
        ("vehicle", "runner surface", "fan or dryer setting and place"),
    ],
)
def test_what_is_changed_is_not_kept_the_same_under_another_name(family_id: str, variable: str, not_held: str) -> None:
    d = Draft.model_validate({"family": family_id, "variable": {"name": variable}})
    assert not_held in {k.name for k in family(family_id).keep_same}
    assert not_held not in {k.name for k in kept_same(d)}
    assert not_held in {k.name for k in kept_same(Draft(family=family_id))}


def test_cautions_fit_what_is_done() -> None:
    def cautions(variable: str, measure: str) -> str:
        return " ".join(cautions_of(Draft.model_validate({"family": "vehicle", "variable": {"name": variable}, "measures": [{"name": measure}]})))

    assert "Fans" not in cautions("runner surface", "slide distance")
    assert "Fans" in cautions("sail area", "distance to rest")
    assert "Fans" in cautions("", "")  # before anything is chosen, nothing is left out


@pytest.mark.parametrize(
    ("change", "measures", "question"),
    [
        ("arm length", ["distance"], "How does arm length affect distance?"),
        ("how heavy the car is", ["distance", "time"], "What does changing how heavy the car is do to distance and time?"),
        ("", ["distance"], ""),
        ("arm length", [" "], ""),
    ],
)
def test_the_question_reads_aloud(change: str, measures: list[str], question: str) -> None:
    assert question_for(change, measures) == question


# --- limits ----------------------------------------------------------------------------------------------------------

PRESSURE: dict[str, Any] = {
    "family": "rocket",
    "variable": {"name": "gauge pressure", "kind": "number", "quantity": "pressure", "unit": "bar", "levels": ["1", "1.5"]},
}


@pytest.mark.parametrize(
    ("limit", "levels", "refused"),
    [
        # at the limit is within it, above is not; other units are understood
        ("2 bar", ["1", "2"], False),
        ("2 bar", ["1", "2.01"], True),
        ("150 kPa", ["1", "1.5"], False),
        ("150 kPa", ["1", "1.51"], True),
        ("30 psi", ["1", "2.1"], True),
    ],
)
def test_a_level_past_the_teachers_limit_is_refused_and_never_only_asked_about(limit: str, levels: list[str], refused: bool) -> None:
    d = draft(**{**PRESSURE, "variable": {**PRESSURE["variable"], "levels": levels}}, limits=[{"on": "variable", "value": limit}])
    assert ("level_over_limit" in codes(d)) is refused


@given(st.floats(0.05, 4))
def test_no_suggested_level_is_above_the_limit(limit: float) -> None:
    d = draft(**PRESSURE, limits=[{"on": "variable", "value": f"{limit:.4f} bar"}])
    bound = limit_on_variable(d)
    assert bound is not None
    levels = [float(v) for v in suggested_levels(d)]
    assert levels
    assert max(levels) <= bound
    assert len(set(levels)) == len(levels)


@pytest.mark.parametrize(
    ("limits", "wanted"),
    [
        ([{"on": "variable", "value": "quite high"}], "limit_unreadable"),
        ([{"on": "variable", "value": "4 s"}], "limit_unreadable"),  # seconds are no pressure
        ([{"on": "variable", "value": "0 bar"}], "limit_unreadable"),
        ([{"on": "rungs", "value": "4 m"}], "limit_unbound"),  # nothing is dropped here
        ([{"on": "held", "name": "max pressure", "value": "2 bar"}], "limit_unbound"),
        ([{"on": "", "name": "air pressure", "value": "2 bar"}], "limit_unbound"),
        ([], "limit_missing"),
        ([{"on": "variable", "value": ""}], "limit_missing"),
        ([{"on": "variable", "value": "2 bars"}], None),
        ([{"on": "variable", "value": "29 psi"}], None),
        ([{"on": "variable", "value": "2"}], None),  # in the variable's own unit
    ],
)
def test_a_limit_binds_to_a_quantity_of_the_plan_or_stops_it(limits: list[dict[str, str]], wanted: str | None) -> None:
    found = [c for c in codes(draft(**PRESSURE, limits=limits)) if c.startswith("limit_")]
    assert (wanted in found) if wanted else found == []


@pytest.mark.parametrize("levels", [["1"], ["1.5"], ["9"]])
def test_no_pressure_is_planned_to_run_without_a_limit(levels: list[str]) -> None:
    d = draft(**{**PRESSURE, "variable": {**PRESSURE["variable"], "levels": ["0.5", *levels]}})
    assert "limit_missing" in codes(d)
    assert suggested_levels(d) == ()


@pytest.mark.parametrize(
    ("change", "label"),
    [
        ({"family": "launcher"}, "pull-back"),
        ({"family": "parachute", "variable": {"name": "vent", "kind": "name", "levels": ["a", "b"]}}, "drop height"),
        ({"family": "rotor", "variable": {"name": "paper stock", "kind": "name", "levels": ["a", "b"]}}, "drop height"),
        ({"family": "vehicle", "hold": [{"name": "pump", "value": "3 bar"}]}, "pump"),
        ({"family": "launcher", "variable": {"name": "arm length", "levels": ["20"]}, "hold": [{"name": "pull-back mark", "value": "8 cm"}]}, "pull-back mark"),
    ],
)
def test_pressure_height_and_pull_back_need_a_limit(change: dict[str, Any], label: str) -> None:
    d = draft(**{"limits": [], **change})
    assert label in [p.label for p in limit_places(d) if p.needed]
    assert any(p.code == "limit_missing" and label in p.says for p in check(d))


def test_what_is_held_stays_under_its_limit_and_says_its_value() -> None:
    def held(value: str, limit: str) -> list[str]:
        d = draft(
            family="parachute",
            variable={"name": "vent", "kind": "name", "levels": ["a", "b"]},
            hold=[{"name": "drop height", "value": value}],
            limits=[{"on": "held", "name": "Drop height ", "value": limit}],
        )
        return [c for c in codes(d) if c.startswith(("held_", "limit_"))]

    assert held("4.2 m", "4.2 m") == []
    assert held("4.2 m", "14 ft") == []
    assert held("4.2 m", "13 ft") == ["held_over_limit"]
    assert held("", "4 m") == ["held_value_missing"]


def test_limits_stand_in_the_unit_in_which_they_were_typed() -> None:
    d = draft(**PRESSURE, limits=[{"on": "variable", "value": "20 psi"}])
    assert limits_in_words(d) == ("gauge pressure: never above 20 psi",)
    assert limits_in_words(draft(**PRESSURE, limits=[{"on": "variable", "value": "1.5"}])) == ("gauge pressure: never above 1.5 bar",)
    over = next(p for p in check(draft(**{**PRESSURE, "variable": {**PRESSURE["variable"], "levels": ["1", "1.5"]}}, limits=d.model_dump()["limits"])) if p.code == "level_over_limit")
    assert "20 psi" in over.says


def test_an_amount_says_what_kind_it_is_or_is_none() -> None:
    assert read_any("4.2 m") is not None
    assert read_any("about 4 m") is None


# --- drops and survival ----------------------------------------------------------------------------------------------

POD: dict[str, Any] = {
    "family": "protector",
    "variable": {"name": "skirt folds", "kind": "number", "quantity": "count", "unit": "count", "levels": ["0", "1"]},
    "measures": [{"name": "peak height survived", "quantity": "length", "unit": "m", "rule": "Highest rung."}],
}
LADDER = {"plan": "ladder", "heights": ["1", "2"], "payload": "fresh"}


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"drop": LADDER}, "survival_missing"),  # no silent default
        ({"survival": "hairline"}, "drop_missing"),
        ({"survival": "hairline", "drop": {**LADDER, "payload": ""}}, "payload_use_missing"),
        ({"survival": "hairline", "drop": {**LADDER, "heights": ["1"]}}, "rungs_few"),
        ({"survival": "hairline", "drop": {**LADDER, "heights": ["2", "1"]}}, "rung_order"),
        ({"survival": "hairline", "drop": {**LADDER, "heights": ["1", "1"]}}, "rung_order"),
        ({"survival": "hairline", "drop": {**LADDER, "heights": ["0", "1"]}}, "rung_order"),
        ({"survival": "hairline", "drop": {**LADDER, "heights": ["1", "high"]}}, "reading_words"),
        ({"survival": "hairline", "drop": {**LADDER, "unit": "s"}}, "unit_unknown"),
        ({"survival": "hairline", "drop": LADDER, "limits": [{"on": "rungs", "value": "180 cm"}]}, "height_over_limit"),
    ],
)
def test_what_must_be_agreed_before_anything_is_dropped(change: dict[str, Any], code: str) -> None:
    assert code in codes(draft(**POD, **change))


def test_a_ladder_that_is_agreed_can_be_run() -> None:
    limits = [{"on": "rungs", "value": "2 m"}]
    assert codes(draft(**POD, survival="untouched", drop=LADDER, limits=limits)) == []
    assert codes(draft(**POD, survival="untouched", drop={"plan": "one_height", "heights": ["6 ft"]}, limits=limits)) == []
    assert codes(draft(**POD, survival="untouched", drop=LADDER)) == ["limit_missing"]


def test_a_tolerance_without_a_value_is_asked_about_and_allowed() -> None:
    assert "hold_unreadable" in codes(draft(hold=[Held(name="height", tolerance="5 cm").model_dump()]), grave=False)
    assert "hold_unreadable" in codes(draft(hold=[{"name": "height", "value": "4 m", "tolerance": "5 s"}]), grave=False)
    assert "hold_unreadable" not in codes(draft(hold=[{"name": "height", "value": "4 m", "tolerance": "2 in"}]), grave=False)


def test_a_sign_off_covers_what_is_dangerous_and_nothing_else() -> None:
    plain = draft()
    for change in (
        {"limits": [{"on": "variable", "value": "13 cm"}]},
        {"variable": {**DRAFT["variable"], "levels": ["4", "9"]}},
        {"drop": LADDER},
    ):
        assert safety_mark(draft(**change)) != safety_mark(plain)
    for change in ({"question": "Another?"}, {"repeats": 9}, {"prediction": "Farther."}):
        assert safety_mark(draft(**change)) == safety_mark(plain)


# --- changes to a plan -----------------------------------------------------------------------------------------------


def test_a_change_is_told_with_both_values() -> None:
    found = plan_changes(draft(), draft(repeats=6, variable={**DRAFT["variable"], "levels": ["4", "9"]}, limits=DRAFT["limits"]))
    assert [(c.where, c.was, c.now) for c in found] == [("variable.levels", "4, 6, 8", "4, 9"), ("repeats", "3", "6")]
    assert plan_changes(draft(), draft()) == ()


@pytest.mark.parametrize(
    ("before", "after", "where"),
    [
        ({}, {"variable": {**DRAFT["variable"], "unit": "mm"}}, "variable.unit"),
        ({}, {"measures": [{**DRAFT["measures"][0], "quantity": "mass", "unit": "g"}]}, "measures.0.quantity"),
        ({}, {"measures": [{**DRAFT["measures"][0], "unit": "cm"}]}, None),
        ({}, {"measures": [{**DRAFT["measures"][0], "rule": "To rest."}]}, "measures.0.rule"),
        ({"survival": "hairline"}, {"survival": "untouched"}, "survival"),
        ({"drop": LADDER}, {"drop": {**LADDER, "payload": "reused"}}, "drop.payload"),
        ({"drop": LADDER}, {"drop": None}, "drop.plan"),
        ({"measures": [*DRAFT["measures"], {"name": "off", "quantity": "length", "unit": "cm"}]}, {"measures": DRAFT["measures"]}, "measures.1"),
        # honest: more repeats, another level, a rule where there was none, a way of judging (which is told beside the verdict)
        ({}, {"repeats": 9}, None),
        ({}, {"variable": {**DRAFT["variable"], "levels": ["4", "6", "8", "10"]}}, None),
        ({"measures": [{**DRAFT["measures"][0], "rule": ""}]}, {"measures": DRAFT["measures"]}, None),
        ({"survival": ""}, {"survival": "hairline"}, None),
        ({}, {"evidence": "ranges"}, None),
        ({"drop": LADDER}, {"drop": {**LADDER, "heights": ["1", "2", "3"]}}, None),
    ],
)
def test_what_kept_trials_lock(before: dict[str, Any], after: dict[str, Any], where: str | None) -> None:
    found = locked_by_trials(draft(**before), draft(**{**before, **after}))
    assert (None if found is None else found.where) == where
