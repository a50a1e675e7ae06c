"""Pupils' sums, lesson time, packs, mass rules, rehearsal, ranks, landings and two variables."""

from __future__ import annotations

import itertools
import math
import subprocess
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from bendro.core.errors import CoreError, PlanRefused, TableRefused
from bendro.core.families import family, order
from bendro.core.judgement.pupil_sum import check_sum, check_worked
from bendro.core.planning.arithmetic import Pack, cheapest_packs, device_cost, lesson_time, mass_rules, needed
from bendro.core.planning.rehearsal import rehearse
from bendro.core.statistics.landing import landing, ranks, straighter_without_loss, two_variables
from tests.forked import starter
from tests.records import MODELS

ROOT = Path(__file__).resolve().parent.parent.parent

# --- a pupil's sum ---------------------------------------------------------------------------------------------------
KEPT, VOID = [4.12, 4.25, 4.31, 4.20], [2.05]  # sum 16.88, mean 4.22
SUMS = [
    ("4.22", None),
    ("4.2", "rounded_too_far"),
    ("4.220", None),
    ("4", "rounded_too_far"),
    ("16.88", "not_divided"),
    ("3.786", "void_included"),
    ("4.7325", "void_in_sum_only"),
    ("3.376", "void_in_count_only"),
    ("5.63", "divided_by_wrong_number"),
    ("4.225", "median_for_mean"),
    ("42.2", "unit_slip"),
    ("0.0422", "unit_slip"),
    ("10.72", "unit_slip"),
    ("50.64", "unit_slip"),
    ("4.19", "one_left_out"),
    ("4.225", "median_for_mean"),
    ("2.42", "digits_swapped"),
]


@pytest.mark.parametrize(("answer", "slip"), SUMS)
def test_the_slip_that_gives_the_pupils_number_is_named(answer: str, slip: str | None) -> None:
    found = check_sum(answer, KEPT, VOID, step=0.01)
    assert found.slip == slip, found.says
    assert found.right == (slip is None)


def test_the_odd_reading_left_out_and_early_rounding_and_cutting_off() -> None:
    assert check_sum("2.02", [2.0, 2.02, 2.01, 2.05, 9.0], step=0.01).slip == "anomaly_left_out"
    assert check_sum("4.28", [4.26, 4.34, 4.24, 4.37, 4.17], step=0.01).right
    assert check_sum("2.468", [2.44, 2.44, 2.46, 2.46, 2.54], step=0.01).right
    assert check_sum("4.16", [4.1, 4.2, 4.2], step=0.1).slip == "cut_not_rounded"
    assert check_sum("2.67", [2.45, 2.61, 2.75], step=0.01).slip == "rounded_too_early"


@settings(max_examples=200)
@given(st.lists(st.integers(100, 900), min_size=1, max_size=6), st.lists(st.integers(100, 900), max_size=2), st.integers(0, 200_000))
def test_no_slip_is_claimed_that_does_not_give_the_number(kept: list[int], void: list[int], answer: int) -> None:
    values, out, text = [v / 100 for v in kept], [v / 100 for v in void], f"{answer / 100:.2f}"
    found = check_sum(text, values, out, step=0.01)
    mean = sum(values) / len(values)
    assert found.right == (abs(mean - answer / 100) <= 0.005 + 1e-9)
    if found.slip == "not_divided":
        assert sum(values) == pytest.approx(answer / 100, abs=0.0051)
    if found.slip == "void_included":
        assert sum(values + out) / len(values + out) == pytest.approx(answer / 100, abs=0.0051)
    if found.slip == "unit_slip":
        assert any(abs(mean * f - answer / 100) < 0.0051 for t in (10, 100, 1000, 2.54, 12) for f in (t, 1 / t))
    if found.slip is None and not found.right:
        assert "does not match" in found.says


def test_a_sum_without_readings_or_without_a_number_is_refused() -> None:
    with pytest.raises(CoreError, match="no kept reading"):
        check_sum("4", [], step=1)
    with pytest.raises(CoreError, match="is not a plain number"):
        check_sum("about right", [1.0], step=1)


#: A fall of 3 m in 1.5 s, 2 s and 2.5 s: speeds 2, 1.5 and 1.2 m/s, their mean 1.5667 (by hand); 3 m over the mean time of 2 s is 1.5.
SPEEDS = [
    ("1.57", None),
    ("1.5", None),
    ("1.6", None),
    ("2", "rounded_too_far"),
    ("0.67", "upside_down"),
    ("4.7", "not_divided"),
    ("1.2", "one_trial_only"),
    ("150", "unit_slip"),
    ("90", "unit_slip"),
    ("3.0", "doubled"),
    ("0.75", "halved"),
]


@pytest.mark.parametrize(("answer", "slip"), SPEEDS)
def test_what_a_pupil_works_out_for_a_level_may_come_from_the_trials_or_from_their_means(answer: str, slip: str | None) -> None:
    found = check_worked(answer, [2.0, 1.5, 1.2], 1.5)
    assert (found.slip, found.right) == (slip, slip is None), found.says
    assert found.working[-1] == "from the means of the readings: 1.5"


def test_what_matches_nothing_or_has_nothing_to_match_is_told() -> None:
    assert check_worked("7.77", [2.0, 1.5]).slip is None
    assert not check_worked("7.77", [2.0, 1.5]).right
    with pytest.raises(CoreError, match="no kept trial"):
        check_worked("1", [])
    with pytest.raises(CoreError, match="is not a plain number"):
        check_worked("fast", [1.0])


# --- time, packs, money, mass ------------------------------------------------------------------------------------------


def test_time_fits_or_the_smallest_change_is_told() -> None:
    same = {"setup_s": 40, "flight_s": 5, "reading_s": 20, "reset_s": 15}
    assert lesson_time(levels=4, repeats=4, lanes=1, lesson_min=25, **same).fits  # 16 × 80 s = 21.3 min
    over = lesson_time(levels=4, repeats=5, lanes=1, lesson_min=25, **same)
    assert (over.fits, round(over.minutes, 1)) == (False, 26.7)
    assert "One more lane" in (over.change or "")
    full = lesson_time(levels=5, repeats=8, lanes=6, lesson_min=8, **same)
    assert "repeats instead of 8" in (full.change or "")
    never = lesson_time(levels=6, repeats=5, lanes=6, lesson_min=1, **same)
    assert "lessons" in (never.change or "")
    with pytest.raises(PlanRefused):
        lesson_time(levels=0, repeats=5, lanes=1, lesson_min=25, **same)


@settings(max_examples=60, deadline=None)
@given(st.integers(1, 40), st.lists(st.tuples(st.integers(1, 12), st.integers(0, 40)), min_size=1, max_size=3))
def test_packs_against_trying_everything(need: int, sizes: list[tuple[int, int]]) -> None:
    packs = [Pack(name=f"p{i}", size=s, price=p) for i, (s, p) in enumerate(sizes)]
    found = cheapest_packs(need, packs)
    tried = [
        (sum(c * p.price for c, p in zip(counts, packs, strict=True)), sum(c * p.size for c, p in zip(counts, packs, strict=True)) - need)
        for counts in itertools.product(*(range(math.ceil(need / p.size) + 1) for p in packs))
    ]
    best = min(t for t in tried if t[1] >= 0)
    assert (found.cost, found.left_over) == pytest.approx(best)


def test_money_and_amounts() -> None:
    assert needed(0.8, 6, 2) == pytest.approx(6.4)
    assert device_cost(0.40, assembly_min=3, hourly=12).thousand == pytest.approx(1000)
    for bad in (lambda: needed(0, 3), lambda: cheapest_packs(5, [Pack(name="none", size=0, price=1)]), lambda: device_cost(-1)):
        with pytest.raises(PlanRefused):
            bad()


def test_mass_rules_are_met_or_broken_with_numbers() -> None:
    found = {r.rule: r for r in mass_rules(60, payload_g=55, limit_g=60, multiple=2, last_device_g=70)}
    assert (found["limit"].met, found["multiple"].met, found["share_of_last"].met) == (True, False, False)
    assert "115 g breaks the limit of 110 g" in found["multiple"].says


# --- rehearsal -----------------------------------------------------------------------------------------------------------


def test_every_family_can_be_rehearsed_and_its_words_are_the_familys_own() -> None:
    assert {f for f, _, _ in MODELS} == set(order())
    for name, variable, measure in MODELS:
        f = family(name)
        v = next(v for v in f.variables if v.name == variable)
        assert measure in [m.name for m in f.measures]
        found = rehearse(name, variable, measure, [float(x) for x in v.typical], 5, seed=3)
        assert all(m > 0 and math.isfinite(m) for m in found.expected), (name, variable)
    assert found == rehearse(name, variable, measure, [float(x) for x in v.typical], 5, seed=3)  # the same number gives the same again


def test_more_repeats_show_more_and_a_hopeless_step_is_told() -> None:
    few, many = (rehearse("parachute", "canopy side", "descent time", [40, 42], n, seed=1).share_clear for n in (3, 12))
    assert few < many
    hopeless = rehearse("parachute", "canopy side", "descent time", [40, 40.2], 5, seed=1)
    assert (hopeless.repeats_wanted, "change the variable further" in hopeless.says) == (None, True)
    assert rehearse("launcher", "counterweight", "distance to first touch", [1, 2], 5, seed=1).share_clear > 0.95
    with pytest.raises(PlanRefused, match="no model"):
        rehearse("spinner", "tip", "turns", [1, 2], 5, seed=1)


# --- ranks, landings, two variables ------------------------------------------------------------------------------------------


def test_ranks_against_scipy_and_the_definition_of_w() -> None:
    heats = [{"a": 1, "b": 2, "c": 3}, {"a": 1, "b": 3, "c": 2}, {"a": 1, "b": 2, "c": 3}, {"a": 2, "b": 1, "c": 3}]
    found = ranks(heats)
    table = np.array([list(h.values()) for h in heats], float)
    assert found.chi2 == pytest.approx(float(stats.friedmanchisquare(*table.T).statistic))
    s = float(((table.sum(0) - table.sum(0).mean()) ** 2).sum())
    assert found.kendall_w == pytest.approx(12 * s / (4**2 * (3**3 - 3)))  # Kendall & Babington Smith 1939
    assert found.mean_ranks["a"] == 1.25
    with pytest.raises(TableRefused, match="same devices"):
        ranks([{"a": 1, "b": 2}, {"a": 1}])


def test_landing_scatter_by_hand() -> None:
    found = landing([4.0, 5.0, 6.0], [-0.3, 0.0, 0.6])
    assert (found.mean_along, found.mean_abs_off, found.sd_along) == pytest.approx((5.0, 0.3, 1.0))
    assert found.half_radius == pytest.approx(math.hypot(1, 0.4))


def test_straighter_without_losing_distance_is_a_decision_on_two_measures() -> None:
    wild = ([6.0, 6.2, 5.9, 6.1, 6.0], [0.9, -0.8, 1.1, -0.7, 1.0])
    tame = ([5.9, 6.1, 5.95, 6.0, 6.05], [0.1, -0.1, 0.2, 0.0, -0.2])
    assert straighter_without_loss(wild, tame, 0.5).says.startswith("It flies straighter, and loses at most")
    short = ([4.9, 5.1, 4.95, 5.0, 5.05], tame[1])
    lost = straighter_without_loss(wild, short, 0.5)
    assert (lost.straighter, lost.keeps_distance) == (True, False)
    assert "but may lose more than the margin" in lost.says
    assert not straighter_without_loss(tame, wild, 0.5).straighter


def test_two_variables_see_an_interaction_and_refuse_thin_tables() -> None:
    rng = np.random.default_rng(2)
    first, second = ["a", "b"] * 8, (["x"] * 2 + ["y"] * 2) * 4
    crossed = [(3.0 if (f == "a") == (s == "x") else 1.0) + rng.normal(0, 0.1) for f, s in zip(first, second, strict=True)]
    found = two_variables(crossed, first, second, ("stretch", "angle"))
    assert found.p_interaction < 1e-6
    assert "depends on angle" in found.says
    added = [(f == "a") + 2 * (s == "x") + rng.normal(0, 0.1) for f, s in zip(first, second, strict=True)]
    plain = two_variables(added, first, second, ("stretch", "angle"))
    assert max(plain.p_first, plain.p_second) < 1e-6 < plain.p_interaction
    with pytest.raises(TableRefused, match="Every combination"):
        two_variables([1, 2, 3, 4], ["a", "a", "b", "b"], ["x", "y", "x", "y"], ("one", "two"))


def test_the_further_commands_answer_at_the_terminal() -> None:
    def run(*words: str) -> subprocess.CompletedProcess[str]:
        return starter.run("terminal", list(words))

    assert "not divided by 4" in run("sum", "16.88", "--readings", "4.12, 4.25, 4.31, 4.20").stdout
    assert "fits" in run("time", "--levels", "4", "--repeats", "4").stdout
    assert "cost 5" in run("packs", "12", "small=5@2", "large=10@3").stdout
    assert "studies would show" in run("rehearse", "parachute", "canopy side", "descent time", "--levels", "20,30,40").stdout
    assert run("packs", "12", "small").returncode == 2


@pytest.mark.parametrize(
    ("answer", "kept", "step", "right"),
    [
        ("3.75", [3.7, 3.8], 0.1, True), ("3.8", [3.7, 3.8], 0.1, True), ("4", [3.7, 3.8], 0.1, False),  # one decimal more is right, a whole number is not
        ("4", [3.0, 4.0, 5.0, 3.0], 1.0, True), ("3.8", [3.0, 4.0, 5.0, 3.0], 1.0, True), ("3.75 m", [3.7, 3.8], 0.1, True), ("3.75m", [3.7, 3.8], 0.1, True),
    ],
)  # fmt: skip
def test_what_the_rule_of_the_class_writes_is_right_and_so_is_one_decimal_more(answer: str, kept: list[float], step: float, right: bool) -> None:
    assert check_sum(answer, kept, step=step, unit="m").right is right


@pytest.mark.parametrize("answer", ["≥23", "~23", "23 c", "about 23", "2 3/4", "23 cm", ""])
def test_a_bound_an_estimate_and_words_are_no_answer(answer: str) -> None:
    with pytest.raises(CoreError, match="is not a plain number") as told:
        check_sum(answer, [23.0], step=1.0, unit="m")
    assert "unit of number" not in told.value.says
