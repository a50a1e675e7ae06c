"""What a plan can already say while it is made."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from bendro.core.analyse import analyse
from bendro.core.context import Context
from bendro.core.draft import Draft
from bendro.core.errors import PlanRefused
from bendro.core.planning.clock import start_minutes
from bendro.core.planning.lesson import lesson_of, visit_minutes
from bendro.core.planning.outlook import ROLES, lanes_open, outlook, roles, seconds_of_trial, who_releases
from bendro.core.planning.plan import planned_turns
from bendro.core.planning.rehearsal import Model, play
from bendro.core.planning.safety import needs_adult
from bendro.core.trials import Trial
from tests.conftest import DRAFT

DROP: dict[str, Any] = {
    "question": "Spill-hole?",
    "family": "parachute",
    "variable": {"name": "spill-hole width", "kind": "number", "quantity": "length", "unit": "cm", "levels": ["0", "4", "8", "12"]},
    "measures": [{"name": "descent time", "quantity": "time", "unit": "s", "rule": "To first touch.", "timed": True, "timers": 3}],
    "repeats": 4,
    "groups": ["Avocet", "Bittern"],
    "prediction": "Faster.",
}


def plan(**change: Any) -> Draft:
    return Draft.model_validate({**DROP, **change})


def objections(d: Draft) -> dict[str, str]:
    return {f.code: f.says for f in outlook(d, 1).objections}


def test_a_whole_plan_says_how_many_how_long_and_what_to_expect() -> None:
    found = outlook(plan(timing={"lanes": 2, "adults": 2}), 3)
    assert (found.trials, found.practice, found.lanes_open) == (16, 2, 2)
    assert found.time is not None
    # 16 trials on two lanes and one practice each, 60 s apiece: eight and one minutes
    assert found.time.minutes == pytest.approx(9.0)
    assert found.time.fits
    assert found.rehearsal is not None
    assert found.basis == "physics"
    assert list(found.rehearsal.expected) == sorted(found.rehearsal.expected, reverse=True)
    assert [len(r) for r in found.rehearsal.readings] == [4] * 4
    assert found.expects is not None
    assert "at 12 cm" in found.expects


def test_a_plan_is_rehearsed_once_for_what_it_expects() -> None:
    first = outlook(plan(), 3).rehearsal
    assert first is not None
    assert outlook(plan(groups=["Curlew"], prediction="It slows.", void_rule="It hit the wall."), 3).rehearsal is first  # typed words change nothing of it
    guess = {"first": "2 s", "last": "1 s", "scatter": "0.1 s"}
    others = [outlook(plan(**change), seed).rehearsal for change, seed in (({"repeats": 5}, 3), ({"evidence": "ranges"}, 3), ({"guess": guess}, 3), ({}, 4))]
    others += [outlook(plan(measures=[{**DROP["measures"][0], "timers": 1}]), 3).rehearsal]
    assert len({id(first), *map(id, others)}) == 6
    assert outlook(plan(guess={**guess, "scatter": "0.2 s"}), 3).rehearsal != others[2]


def test_an_unready_plan_says_why_there_is_no_rehearsal() -> None:
    found = outlook(plan(variable={**DROP["variable"], "levels": ["4"]}), 1)
    assert (found.trials, found.time, found.rehearsal) == (0, None, None)
    assert found.why_not == "With one level there is nothing to compare. Choose at least two, better three or more."


def test_what_the_teacher_expects_stands_in_where_no_physics_is_known() -> None:
    own = {"variable": {**DROP["variable"], "name": "colour depth"}}
    assert outlook(plan(**own), 1).rehearsal is None
    found = outlook(plan(**own, guess={"first": "2.0 s", "last": "2600 ms", "scatter": "0.1 s"}), 1)
    assert found.basis == "guess"
    assert found.rehearsal is not None
    assert found.rehearsal.expected == pytest.approx((2.0, 2.2, 2.4, 2.6))
    # against the power of the classical F test by the noncentral F distribution (Cohen 1988, chapter 8)
    lam = 4 * float(np.sum((np.array([2.0, 2.2, 2.4, 2.6]) - 2.3) ** 2)) / (0.1**2 / 3)
    power = stats.ncf.sf(stats.f.isf(0.05, 3, 12), 3, 12, lam)
    assert found.rehearsal.share_clear == pytest.approx(power, abs=0.05)


@settings(derandomize=True, max_examples=10)
@given(st.floats(0.02, 0.5), st.integers(3, 6))
def test_the_share_of_studies_that_would_show_it_lies_under_the_power_of_the_slope(scatter: float, repeats: int) -> None:
    """Monte Carlo by the school's own rule against the noncentral F: at most the power of a planned slope at 0.05, and not far below it
    at half of that; 200 studies know a share to about 3.5 %, so 3 of those are allowed."""
    found = outlook(
        plan(
            repeats=repeats,
            measures=[{**DROP["measures"][0], "timers": 1}],
            guess={"first": "2 s", "last": "2.3 s", "scatter": f"{scatter:.3f} s"},
        ),
        7,
    )
    assert found.rehearsal is not None
    sd = float(f"{scatter:.3f}")
    lam = repeats * float(np.sum((np.linspace(2, 2.3, 4) - 2.15) ** 2)) / sd**2
    high, low = (float(stats.ncf.sf(stats.f.isf(alpha, 1, 4 * repeats - 3), 1, 4 * repeats - 3, lam)) for alpha in (0.05, 0.02))
    if np.isfinite(high) and np.isfinite(low):
        assert low - 0.15 <= found.rehearsal.share_clear <= high + 0.1


@pytest.mark.parametrize(("repeats", "school"), [(3, "shuffle"), (4, "shuffle"), (5, "interval"), (3, "ranges")])
def test_the_plans_share_is_what_the_verdict_then_says(repeats: int, school: str) -> None:
    """Studies drawn from the same model, each judged by the whole of the analysis, are clear as often as the plan said."""
    expected, sd = (2.0, 2.1, 2.2, 2.3), 0.08
    model = Model(true=lambda x: 2.0 + 0.1 * x, scatter=0.0, reading_error=sd)
    share = play(model, [0.0, 1.0, 2.0, 3.0], repeats, seed=3, school=school, number=True).share_clear  # type: ignore[arg-type]
    rng, clear, studies = np.random.default_rng(4), 0, 120
    for _ in range(studies):
        rows = [Trial(level=float(at), value=float(v), row=1) for at, m in enumerate(expected) for v in rng.normal(m, sd, repeats)]
        clear += analyse(rows, Context(factor="f", response="r", treat_as="number", evidence=school)).verdict.answer == "clear"  # type: ignore[arg-type]
    assert clear / studies == pytest.approx(share, abs=0.15)


@pytest.mark.parametrize(
    ("change", "code", "words"),
    [
        ({"repeats": 1}, "single_trial", "One trial at each level"),
        ({"repeats": 2}, "few_repeats", "Two trials"),
        ({"order": "listed"}, "order_mixed_with_level", "before the next"),
        ({"prediction": ""}, "prediction_missing", "No prediction"),
        ({"measures": [{**DROP["measures"][0], "rule": ""}]}, "measuring_rule_missing", "Nobody has said"),
        ({"guess": {"first": "0.5 s", "last": "0.6 s"}}, "reaction_dominates", "20 % of it"),
        (
            {"measures": [{**DROP["measures"][0], "step": "1 s"}], "guess": {"first": "2 s", "last": "2.3 s"}},
            "resolution_too_coarse",
            "one step of the tool (1 s)",
        ),
        ({"timing": {"adults": 0}}, "adult_missing", "No adult"),
        ({"drop": {"plan": "ladder", "heights": ["1", "2"], "payload": "reused"}}, "payload_reused", "damage adds up"),
        ({}, "control_not_held", "drop height, payload, how the canopy is folded and "),
    ],
)
def test_what_the_audit_would_object_to_is_told_before_the_first_trial(change: dict[str, Any], code: str, words: str) -> None:
    assert words in objections(plan(**change))[code]


def test_a_good_plan_meets_no_grave_objection() -> None:
    assert {f.severity for f in outlook(plan(), 1).objections} <= {"note"}


def test_one_group_alone_at_a_level_is_told() -> None:
    lone = plan(groups=["A", "B"], repeats=2, variable={**DROP["variable"], "levels": ["0", "4"]}, order="listed")
    by_level = {level: {t.group for t in planned_turns(lone, 1) if t.level == level} for level in ("0", "4")}
    assert ("person_mixed_with_level" in objections(lone)) is any(len(g) == 1 for g in by_level.values())


def test_a_trial_up_a_ladder_takes_a_drop_for_each_rung() -> None:
    timing = {"setup_s": 10, "flight_s": 5, "reading_s": 15, "reset_s": 20}
    assert seconds_of_trial(plan(timing=timing)) == 50
    assert (
        seconds_of_trial(plan(timing=timing, drop={"plan": "ladder", "heights": ["1", "2", "3"], "payload": "fresh"})) == 10 + 3 * 20 + 20
    )


@given(st.integers(1, 6), st.integers(1, 12))
def test_every_role_is_filled_in_every_block_and_everyone_releases_in_turn(people: int, blocks: int) -> None:
    rows = roles(people, blocks)
    for row in rows:
        assert sorted(r for seat in row if seat != "watch the lane" for r in seat.split(" and ")) == sorted(ROLES)
    if blocks >= people:
        assert {next(i for i, seat in enumerate(row) if "release" in seat) for row in rows} == set(range(people))


@given(st.integers(1, 6), st.integers(1, 12))
def test_where_one_releases_it_is_always_the_same_and_where_an_adult_does_it_is_no_pupil(people: int, blocks: int) -> None:
    for row in roles(people, blocks, releases="one"):
        assert "release" in row[0]
        assert not any("release" in seat for seat in row[1:])
        assert sorted(r for seat in row if seat != "watch the lane" for r in seat.split(" and ")) == sorted(ROLES)
    assert not any("release" in seat for row in roles(people, blocks, releases="adult") for seat in row)


@pytest.mark.parametrize(
    ("change", "who"),
    [
        ({"family": "launcher"}, "in turn"),
        ({"family": "launcher", "hold": [{"name": "person who releases"}]}, "in turn"),  # on the wall, and nobody has said how
        ({"family": "launcher", "hold": [{"name": "person who releases", "how": "one releaser for the whole test"}]}, "one"),
        ({"family": "glider", "hold": [{"name": "who throws", "how": "one thrower for the whole test"}]}, "one"),
        ({"family": "parachute", "hold": [{"name": "who releases", "how": "the adult at the rail"}]}, "adult"),
        ({"family": "rotor"}, "adult"),
        ({"drop": {"heights": ["1 m"]}}, "adult"),
    ],
)
def test_who_releases_is_nothing_that_the_plan_denies(change: dict[str, object], who: str) -> None:
    assert who_releases(plan(**change)) == who


# --- the lesson that a rota is made for ------------------------------------------------------------------------------


def test_the_minutes_of_a_visit_follow_from_the_trials() -> None:
    d = plan(rota={"rounds": 2}, practice=1)
    # 16 trials over two groups and one practice: 9 over two rounds: 5 a visit at 60 s
    assert visit_minutes(d, 16) == 5
    assert visit_minutes(plan(rota={"test_min": 7}), 16) == 7
    assert lesson_of(d, 16).groups == ("Avocet", "Bittern")
    with pytest.raises(PlanRefused, match="how long a test takes"):
        lesson_of(Draft.model_validate(DRAFT), 0)


@pytest.mark.parametrize(("clock", "minutes"), [("09:10", 550), ("9.05", 545), ("00:00", 0), ("23:59", 1439)])
def test_a_clock_time_is_understood(clock: str, minutes: int) -> None:
    assert start_minutes(clock) == minutes


@pytest.mark.parametrize("clock", ["", "24:00", "9:60", "noon", "9", "09:1"])
def test_a_clock_time_that_is_none_is_refused(clock: str) -> None:
    with pytest.raises(PlanRefused, match="not a time of day"):
        start_minutes(clock)


@pytest.mark.parametrize(
    ("change", "because"),
    [
        ({"family": "rocket"}, "a rocket holds pressure or stored energy"),
        ({"family": "parachute"}, "it is let go from a height"),
        ({"family": "launcher", "drop": {"plan": "one_height", "heights": ["2"]}}, "things are dropped from a height"),
        ({"family": "vehicle", "hold": [{"name": "pump", "value": "2 bar"}]}, "pressure is used"),
        ({"family": "vehicle"}, None),
    ],
)
def test_pressure_and_height_only_go_with_an_adult_whatever_is_ticked(change: dict[str, Any], because: str | None) -> None:
    d = plan(timing={"lanes": 3, "adults": 1}, rota={"adult_needed": False, "test_min": 4}, **change)
    assert needs_adult(d) == because
    assert lesson_of(d, 0).open_lanes == (1 if because else 3)
    assert lanes_open(d) == (1 if because else 3)
