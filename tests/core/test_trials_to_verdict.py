"""From small tables of trials to levels, effects, doubts and verdicts."""

from __future__ import annotations

import itertools
import math
import re
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bendro.core.analyse import analyse, described
from bendro.core.context import Context
from bendro.core.errors import TableRefused
from bendro.core.judgement.deciding import by_p
from bendro.core.judgement.working import how_difference, how_mean
from bendro.core.results import Analysis, TrendEffect
from bendro.core.statistics.compare import places
from bendro.core.statistics.describe import describe, place_of
from bendro.core.statistics.power import detectable, power_of, repeats_needed
from bendro.core.statistics.shuffle import bound_scores, shuffle_slope, shuffle_two
from bendro.core.trials import Trial


def trials(table: dict[Any, list[float]], **same: Any) -> list[Trial]:
    """Level -> readings; written block by block, so that order is not mixed up with level."""
    rows = [
        (level, value)
        for values in itertools.zip_longest(*table.values())
        for level, value in zip(table, values, strict=True)
        if value is not None
    ]
    return [Trial(level=level, value=value, order=i, row=i + 1, **same) for i, (level, value) in enumerate(rows, 1)]


def ask(rows: list[Trial], **more: Any) -> Analysis:
    return analyse(rows, Context(factor="band", response="distance", unit="m", **more))


def codes(a: Analysis) -> set[str]:
    return {f.code for f in a.audit}


# --- describing a level ---------------------------------------------------------------------------------------------


def test_one_trial_shows_no_spread_and_none_is_given() -> None:
    s = describe("a", trials({"a": [4.5]}))
    assert (s.mean, s.half_range, s.sd, s.ci95) == (4.5, None, None, None)


def test_a_bound_makes_the_mean_a_bound_and_the_median_stays_exact_while_it_can() -> None:
    rows = [*trials({"a": [3.0, 3.4, 3.5]}), Trial(level="a", value=3.8, kind="at_least"), Trial(level="a", value=3.2)]
    s = describe("a", rows, unit="m")
    assert (s.mean_is, s.median_is, s.censored, s.sd, s.ci95) == ("at_least", "exact", 1, None, None)
    assert s.quoted is not None
    assert s.quoted.startswith("≥ ")
    low = [*trials({"a": [3.9, 4.0, 4.1]}), Trial(level="a", value=3.8, kind="at_least")]
    assert describe("a", low).median_is == "at_least"  # the bound lies below the median, so it may belong above


def test_void_trials_are_counted_and_left_out() -> None:
    rows = [*trials({"a": [1.0, 3.0]}), Trial(level="a", value=99.0, state="void", fault="slipped")]
    s = describe("a", rows)
    assert (s.n_kept, s.n_void, s.mean) == (2, 1, 2.0)


PLACES = [
    (0.16, 0.01, 5, 2),
    (0.24, 0.01, 4, 1),
    (0.0996, 0.001, 5, 2),
    (3.0, 0.01, 5, 0),
    (30, 1, 4, -1),
    (14, 1, 4, 0),
    (0.001, 0.1, 4, 1),
    (None, 0.01, 1, 2),
]


@pytest.mark.parametrize(("doubt", "resolution", "n", "places_wanted"), PLACES)
def test_quoted_to_the_place_of_the_doubt_and_never_finer_than_the_tool(
    doubt: float | None, resolution: float, n: int, places_wanted: int
) -> None:
    assert place_of(doubt, resolution, n) == places_wanted


# --- shuffles ---------------------------------------------------------------------------------------------------------


def slow_shuffle(a: list[float], b: list[float]) -> float:
    """The obvious enumeration, in whole hundredths so that ties are exact."""
    whole = [round(100 * v) for v in a + b]
    seen = abs(sum(whole[len(a) :]) * len(a) - sum(whole[: len(a)]) * len(b))
    every = [set(c) for c in itertools.combinations(range(len(whole)), len(a))]
    hits = 0
    for chosen in every:
        first = sum(whole[i] for i in chosen)
        hits += abs((sum(whole) - first) * len(a) - first * len(b)) >= seen
    return hits / len(every)


@given(st.lists(st.integers(100, 180), min_size=1, max_size=5), st.lists(st.integers(100, 180), min_size=1, max_size=5))
def test_shuffle_against_direct_enumeration(a: list[int], b: list[int]) -> None:
    one, two = [v / 100 for v in a], [v / 100 for v in b]
    assert shuffle_two(one, two).p == pytest.approx(slow_shuffle(one, two))


@given(st.lists(st.integers(100, 180), min_size=2, max_size=4), st.lists(st.integers(100, 180), min_size=2, max_size=4))
def test_the_shuffle_does_not_depend_on_which_level_is_first(a: list[int], b: list[int]) -> None:
    assert shuffle_two(a, b).p == pytest.approx(shuffle_two(b, a).p)


def test_the_smallest_p_that_small_counts_allow_is_told() -> None:
    assert shuffle_two([1, 2, 3], [4, 5, 6]).p == 2 / 20  # 20 splits, 2 as extreme
    assert shuffle_two([1, 2, 3], [4, 5, 6]).smallest_p == 0.1
    assert shuffle_two([1, 2, 3, 4], [5, 6, 7, 8]).smallest_p == pytest.approx(2 / 70)


def test_large_tables_are_drawn_with_a_stored_seed_and_repeat() -> None:
    a, b = [math.sqrt(i % 7) for i in range(20)], [math.sqrt(i % 5) + 0.3 for i in range(20)]  # on no step, so they are dealt out
    first, again = shuffle_two(a, b), shuffle_two(a, b)
    assert (first.exact, first.arrangements, first.seed) == (False, 2_000, 20_000)  # chance did as much a thousand times by then
    assert first.p == again.p


def test_a_flat_reading_gives_p_one() -> None:
    assert shuffle_two([2.0, 2.0], [2.0, 2.0]).p == 1.0
    assert shuffle_slope([1, 2, 3], [5, 5, 5]).p == 1.0


def test_gehan_scores_compare_a_bound_only_as_far_as_it_reaches() -> None:
    # 3.8+ is surely above 3.0 and 3.5, not surely above 4.0; each row: surely smaller less surely larger
    assert bound_scores([3.0, 3.5, 3.8, 4.0], ["exact", "exact", "at_least", "exact"]) == [-3, -1, 2, 2]


# --- effects and verdicts ----------------------------------------------------------------------------------------------


def test_two_names_give_a_difference_second_minus_first() -> None:
    a = ask(trials({"thin": [1.21, 1.34, 1.28, 1.40], "thick": [1.35, 1.49, 1.52, 1.44]}))
    assert a.effect.kind == "difference"
    assert a.effect.difference.between == ("thin", "thick")
    assert a.verdict.answer == "clear"  # 4 of 70 is 0.057, but the shuffle's steps are 0.029 and 0.057: the interval decides
    assert "0.14 m" in a.verdict.says
    assert "4 of 70" in (a.verdict.detail or "")


def test_the_school_of_evidence_decides() -> None:
    rows = trials({"thin": [1.21, 1.34, 1.28, 1.40], "thick": [1.35, 1.49, 1.52, 1.44]})
    assert [ask(rows, evidence=school).verdict.answer for school in ("shuffle", "interval", "ranges")] == [
        "clear",
        "clear",
        "cannot_tell",
    ]
    five = trials({"thin": [1.21, 1.34, 1.28, 1.40, 1.30], "thick": [1.35, 1.49, 1.52, 1.30, 1.36]})  # steps fine enough: the shuffle decides
    (shuffled, interval) = (ask(five, evidence=school) for school in ("shuffle", "interval"))
    assert shuffled.effect.kind == "difference"
    assert shuffled.verdict.answer == by_p(shuffled.effect.difference.p_shuffle)
    assert interval.verdict.answer == by_p(shuffled.effect.difference.p_t)


VERDICTS = [(0.05, "clear"), (0.0501, "leaning"), (0.1, "leaning"), (0.1001, "cannot_tell"), (None, "cannot_tell")]


@pytest.mark.parametrize(("p", "answer"), VERDICTS)
def test_both_sides_of_each_bound(p: float | None, answer: str) -> None:
    assert by_p(p) == answer


def test_single_trials_stop_the_verdict() -> None:
    a = ask(trials({"thin": [1.0], "thick": [9.0]}))
    assert (a.verdict.answer, a.audit[0].code, a.audit[0].severity) == ("cannot_tell", "single_trial", "stop")


def test_a_clear_result_says_stop_and_an_unclear_one_how_many_more() -> None:
    clear = ask(trials({"thin": [1.0, 1.1, 1.2, 1.1], "thick": [5.0, 5.1, 5.2, 5.1]}))
    assert clear.verdict.answer == "clear"
    assert clear.verdict.next.startswith("The result is clear; you can stop.")
    unclear = ask(trials({"thin": [1.0, 2.0, 3.0], "thick": [2.0, 3.0, 4.0]}))
    assert unclear.verdict.answer == "cannot_tell"
    # d = 1 needs 17 at each level by power 0.8 when the spread is known, and 3 are there: no fewer than 14 more
    told = re.match(r"About (\d+) more trials at each level", unclear.verdict.next)
    assert told is not None
    assert int(told[1]) >= 14


def test_numbers_give_a_trend_in_steps_of_the_levels() -> None:
    a = ask(trials({1.0: [2.0, 2.1], 1.5: [3.0, 3.1], 2.0: [4.0, 4.1]}), factor_unit="kg", expect="rises")
    assert a.effect.kind == "trend"
    assert a.verdict.size == "about 1.0 m for every 0.5 kg"
    assert a.verdict.prediction is not None
    assert a.verdict.prediction.endswith("the trials agree.")


def test_a_peak_inside_the_levels_is_found_and_one_beyond_is_not_offered() -> None:
    inside = ask(trials({5.0: [1.7, 1.8], 10.0: [2.2, 2.25], 15.0: [2.1, 2.05], 20.0: [1.5, 1.6]}))
    assert inside.effect.kind == "trend"
    assert inside.effect.trend.preferred == "peak"
    rising = ask(trials({5.0: [1.0, 1.1], 10.0: [1.9, 2.0], 15.0: [2.6, 2.7], 20.0: [3.0, 3.1]}))
    assert rising.effect.kind == "trend"
    peak = next(f for f in rising.effect.trend.forms if f.form == "peak")
    assert peak.optimum is None
    assert rising.effect.trend.best_beyond == "highest"
    assert "rest between blocks" in rising.verdict.next  # the readings also drift, and that comes first
    still = ask([replace(t, order=None) for t in trials({5.0: [1.0, 1.1, 1.0], 10.0: [1.9, 2.0, 1.9], 15.0: [2.6, 2.7, 2.6], 20.0: [3.0, 3.1, 3.0]})])
    assert "beyond 20" in still.verdict.next


def test_three_names_are_ranked_and_those_that_cannot_be_separated_share_a_place() -> None:
    a = ask(trials({"felt": [1.0, 1.1, 1.2], "card": [3.0, 3.2, 3.1], "film": [3.1, 3.3, 3.2]}))
    assert a.effect.kind == "groups"
    assert a.effect.groups.places == (("film", "card"), ("felt",))


def test_levels_stand_in_the_plans_order_whatever_was_run_first() -> None:
    rows = trials({"felt": [1.0, 1.1, 1.2], "card": [3.0, 3.2, 3.1]})
    assert [s.level for s in ask(rows).levels] == ["felt", "card"]
    assert [s.level for s in ask(rows, level_order=("card", "film", "felt")).levels] == ["card", "felt"]


def test_a_column_left_out_becomes_the_next_step() -> None:
    rows = [
        Trial(level=d, value=base + step, others={"ramp": ramp}, row=1)
        for ramp, base in ((1.0, 10.0), (2.0, 20.0), (3.0, 30.0))
        for d, step in (("a", 0.0), ("b", 1.5), ("c", 3.2 if ramp == 2 else 3.0))
    ]
    unsure = ask(rows)
    assert unsure.verdict.answer == "cannot_tell"
    assert unsure.verdict.next == "Adjust for ramp, so that it is held equal."
    assert ask(rows, adjust_for="ramp").verdict.answer == "clear"


def test_places_never_part_two_that_cannot_be_separated() -> None:
    from bendro.core.results import Pair

    pairs = [
        Pair(between=("a", "b"), estimate=1, ci95=None, p_adjusted=0.3),
        Pair(between=("b", "c"), estimate=1, ci95=None, p_adjusted=0.3),
        Pair(between=("a", "c"), estimate=2, ci95=None, p_adjusted=0.01),
    ]
    assert places(["a", "b", "c"], [3, 2, 1], pairs) == (("a", "b", "c"),)


def test_nothing_to_compare_is_said_and_never_a_number() -> None:
    assert ask([]).effect.kind == "none"
    assert ask(trials({"thin": [1.0, 2.0]})).verdict.answer == "cannot_tell"
    flat = ask(trials({"thin": [2.0, 2.0], "thick": [2.0, 2.0]}))
    assert flat.effect.kind == "difference"
    assert flat.effect.difference.t is None
    assert flat.effect.difference.p_shuffle == 1.0


def test_bounds_take_the_interval_away_and_leave_a_rank_shuffle() -> None:
    rows = [
        *trials({"felt": [1.0, 1.1, 1.2, 1.0], "film": [2.0, 2.1]}),
        Trial(level="film", value=2.4, kind="at_least", order=9),
        Trial(level="film", value=2.4, kind="at_least", order=10),
    ]
    a = ask(rows)
    assert a.effect.kind == "difference"
    d = a.effect.difference
    assert (d.ci95, d.t, d.bound) == (None, None, "at_least")
    assert d.p_shuffle == pytest.approx(2 / 70)


def test_pairs_blocks_and_covariates_need_their_column() -> None:
    with pytest.raises(TableRefused, match="no partner"):
        ask(trials({"a": [1.0, 2.0], "b": [2.0, 3.0]}), pair_by="heat")


@pytest.mark.parametrize("level", ["first", "middle", "senior"])
def test_every_reading_level_speaks_in_whole_sentences(level: str) -> None:
    for rows in (
        trials({"a": [1.0, 1.1, 1.2, 1.3], "b": [5.0, 5.1, 5.2, 5.3]}),
        trials({1.0: [1.0, 1.1], 2.0: [2.0, 2.1], 3.0: [3.2, 3.0]}),
    ):
        said = ask(rows, reading=level).verdict
        assert said.says[0].isupper()
        assert said.says.endswith(".")
        assert ("95 %" in said.says) == (level != "first")


# --- the first six doubts, each with a table that has it and one that has not ---------------------------------------------

GOOD = {"a": [1.0, 1.2, 1.1, 1.15], "b": [2.0, 2.2, 2.1, 2.15]}


def test_a_clean_audit_says_what_was_checked() -> None:
    a = ask(trials(GOOD))
    assert codes(a) == set()
    assert {"single_trial", "few_repeats", "unequal_repeats", "voids_pile_up", "censored", "drift_with_order"} <= set(a.audit_checked)


def test_few_repeats() -> None:
    assert "few_repeats" in codes(ask(trials({"a": [1.0, 1.1], "b": [2.0, 2.1]})))


def test_unequal_repeats_names_both_counts() -> None:
    a = ask(trials({"a": [1.0, 1.1, 1.2], "b": [2.0, 2.1, 2.2, 2.3, 2.1, 2.2]}))
    finding = next(f for f in a.audit if f.code == "unequal_repeats")
    assert finding.severity == "warn"
    assert "A has 3 kept trials, b has 6" in finding.says


def test_voids_pile_up_at_one_level_only() -> None:
    lost = [Trial(level="b", state="void", fault="tangled", order=20 + i) for i in range(3)]
    assert "voids_pile_up" in codes(ask([*trials(GOOD), *lost]))
    even = [Trial(level=level, state="void", fault="tangled", order=20 + i) for i, level in enumerate("aabb")]
    assert "voids_pile_up" not in codes(ask([*trials(GOOD), *even]))


def test_censored_counts_the_readings_that_left_the_tape() -> None:
    a = ask([*trials(GOOD), Trial(level="b", value=2.5, kind="at_least", order=9), Trial(level="a", value=1.1, order=10)])
    assert next(f for f in a.audit if f.code == "censored").evidence["readings"] == 1


def test_drift_is_seen_only_where_the_order_is_known() -> None:
    tired = [Trial(level="ab"[i % 2], value=(1.0 if i % 2 else 3.0) - 0.05 * i, order=i) for i in range(1, 13)]
    assert "drift_with_order" in codes(ask(tired))
    unknown = [Trial(level=t.level, value=t.value) for t in tired]
    a = ask(unknown)
    assert "drift_with_order" not in codes(a)
    assert "drift_with_order" not in a.audit_checked  # not looked at, so not called clean


# --- power and working -----------------------------------------------------------------------------------------------


def test_what_the_present_repeats_could_have_seen_is_the_inverse_of_power() -> None:
    found = detectable(5, 2.0)
    assert found is not None
    assert power_of(5, found / 2.0) == pytest.approx(0.8, abs=1e-6)
    assert detectable(1, 2.0) is None


def test_more_than_a_thousand_repeats_are_answered_in_words() -> None:
    assert repeats_needed(0.001, 1.0) is None
    assert repeats_needed(50.0, 1.0) == 2


def test_the_working_shows_the_numbers_put_in() -> None:
    rows = trials({"a": [1.0, 1.5, 1.1], "b": [2.0, 2.5, 2.1]}, resolution=0.1)
    summary = described(rows, Context(factor="f", response="r", unit="m"))[0]
    lines = how_mean(rows, "a", None, summary, unit="m").lines
    assert lines[1] == "= (1.0 + 1.5 + 1.1) ÷ 3"
    assert lines[2] == "= 3.6 ÷ 3 = 1.2 m"
    asked = Context(factor="f", response="r", unit="m")
    assert any("= 1 m" in line for line in how_difference(rows, "a", "b", asked, analyse(rows, asked).effect).lines)


def test_no_number_in_an_analysis_is_ever_nan() -> None:
    for table in (
        {"a": [1.0]},
        {"a": [1.0, 1.0], "b": [1.0, 1.0]},
        {1.0: [2.0], 2.0: [2.0], 3.0: [2.0]},
        {1.0: [1.0], 2.0: [2.0], 3.0: [3.0]},
    ):
        dumped = ask(trials(table)).model_dump()

        def walk(value: Any) -> None:
            if isinstance(value, dict):
                [walk(v) for v in value.values()]
            elif isinstance(value, list | tuple):
                [walk(v) for v in value]
            elif isinstance(value, float):
                assert math.isfinite(value)

        walk(dumped)


def test_a_trend_through_bounds_is_drawn_and_only_its_ranks_are_concluded_from() -> None:
    values = {4.0: [2.1, 2.2, 2.3], 6.0: [3.0, 3.1, 3.2], 8.0: [3.9, 4.0, 4.0]}
    rows = [Trial(level=x, value=v, kind="at_least" if v == 4.0 else "exact", resolution=0.01) for x, vs in values.items() for v in vs]
    found = analyse(rows, Context(factor="pull", response="distance", factor_unit="cm", unit="m"))
    assert isinstance(found.effect, TrendEffect)
    trend = found.effect.trend
    assert trend.bound is True
    for form in trend.forms:
        assert set(form.ci95.values()) | set(form.se.values()) == {None}
        assert (form.r2, form.p, form.aicc, form.optimum_ci95) == (None, None, None, None)
        assert form.curve
    assert found.verdict.answer == "clear"
    assert found.verdict.says == "Distance rose with pull. How steeply cannot be told, because readings are only bounds."
    assert found.verdict.size is None
    by_interval = analyse(rows, Context(factor="pull", response="distance", evidence="interval"))
    assert by_interval.verdict.answer == "clear"  # there is no interval to go by, so ranks decide there too
