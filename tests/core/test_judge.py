"""The judge: by what each school decides, how sure it must be, and what it says; thresholds on both sides."""

from __future__ import annotations

import itertools
import math
import re
from typing import Any

import numpy as np
import pytest
from scipy import stats

from bendro.core.analyse import analyse
from bendro.core.context import Context
from bendro.core.judgement.checks import slip_of
from bendro.core.judgement.deciding import (
    BOUND,
    FIRST_SHARE,
    OTHER_SHARE,
    answer_of,
    by_p,
    of_difference,
    of_groups,
    of_slope,
    of_trend,
    ranges_err,
)
from bendro.core.results import Analysis
from bendro.core.statistics.odd import odd_of_all
from bendro.core.statistics.power import Design
from bendro.core.statistics.ranges import range_isf, range_sf
from bendro.core.statistics.shuffle import LIMIT_ERROR, LIMIT_FROM, shuffle_groups, shuffle_shapes, shuffle_two
from bendro.core.statistics.survival import over_all
from bendro.core.statistics.unequal import best_between, blocks_unequal, groups_unequal, shapes_p, spreads_ask, trend_unequal
from bendro.core.trials import Trial


def rows(table: dict[Any, list[float]], **same: Any) -> list[Trial]:
    """Level -> readings, in an order that is mixed neither with level nor with drift."""
    flat = [
        (level, v) for values in itertools.zip_longest(*table.values()) for level, v in zip(table, values, strict=True) if v is not None
    ]
    return [Trial(level=level, value=v, row=i + 1, **same) for i, (level, v) in enumerate(flat, 1)]


def ask(table: dict[Any, list[float]], **more: Any) -> Analysis:
    return analyse(rows(table), Context(factor="band", response="distance", unit="m", **more))


# --- three repeats can speak -----------------------------------------------------------------------------------------


def test_three_against_three_is_clear_where_the_interval_is() -> None:
    found = ask({"thin": [2.0, 2.1, 2.2], "thick": [4.1, 4.2, 4.3]})
    assert found.verdict.answer == "clear"
    assert "so the interval decides" in (found.verdict.detail or "")
    assert found.effect.kind == "difference"
    assert (found.effect.difference.p_shuffle, found.effect.difference.smallest_p) == (0.1, 0.1)


@pytest.mark.parametrize(("n", "by"), [(3, "interval"), (4, "interval"), (5, "shuffle"), (6, "shuffle")])
def test_the_shuffle_decides_where_its_steps_are_fine_enough(n: int, by: str) -> None:
    rng = np.random.default_rng(n)
    found = ask({"a": list(rng.normal(size=n)), "b": list(rng.normal(1, 1, n))}).effect
    assert found.kind == "difference"
    assert of_difference(found.difference, "shuffle").by == by


def test_with_unlike_numbers_the_interval_decides_and_says_why() -> None:
    found = ask({"a": [1.0, 1.2, 1.1, 1.3, 0.9, 1.05, 1.15], "b": [1.4, 1.6, 1.5, 1.45, 1.7]})
    assert "unlike numbers of trials" in (found.verdict.detail or "")


# --- looking early ---------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("stage", "bound"), [("whole", 0.05), ("so_far", 0.001), ("added", 0.01), ("reserved", 0.04), ("reserve_used", 0.02)]
)
def test_how_sure_each_stage_must_be(stage: Any, bound: float) -> None:
    assert BOUND[stage] == bound
    assert (by_p(bound, bound), by_p(bound * 1.0001, bound)) == ("clear", "leaning")


def test_a_study_is_so_far_until_the_planned_trials_are_in_and_never_says_stop() -> None:
    table = {"thin": [2.0, 2.1, 2.2, 2.15, 2.05], "thick": [2.3, 2.4, 2.5, 2.45, 2.35]}
    whole, early, added = (ask(table, stage=s, planned=True).verdict for s in ("whole", "so_far", "added"))
    assert (whole.answer, early.answer) == ("clear", "leaning")
    assert (early.so_far, whole.so_far) == (True, False)
    assert early.says.startswith("So far: distance seems to be")
    assert early.next.startswith("Run the trials that are still planned")
    assert "1 in 1,000" in (early.beside or "")
    assert "1 in 100" in (added.beside or "")
    assert not early.next.startswith("Stop")


# --- unequal spreads, forms, peaks -----------------------------------------------------------------------------------


def test_the_modified_f_is_the_classical_one_where_spreads_are_alike_and_larger_where_they_differ() -> None:
    """Equal variances and sizes give the freedoms of the analysis of variance (Brown & Forsythe 1974)."""
    alike = [[1.0, 2.0, 3.0], [2.0, 3.0, 4.0], [4.0, 5.0, 6.0]]
    assert groups_unequal(alike) == pytest.approx(float(stats.f_oneway(*alike).pvalue), rel=1e-12)
    unlike = [[1.0, 2.0, 3.0], [2.9, 3.0, 3.1], [4.0, 5.0, 6.0]]
    assert groups_unequal(unlike) > float(stats.f_oneway(*unlike).pvalue)  # type: ignore[operator]
    assert groups_unequal([[1.0], [2.0, 3.0]]) is None


def test_two_levels_of_a_number_are_allowed_for_as_by_welch() -> None:
    a, b = [1.0, 1.4, 1.1], [2.0, 3.4, 2.2, 2.9]
    assert trend_unequal([1.0, 2.0], [a, b]) == (pytest.approx(float(stats.ttest_ind(a, b, equal_var=False).pvalue), rel=1e-9),)


def test_blocks_of_two_levels_are_a_paired_t_whatever_the_spreads() -> None:
    table = np.array([[1.0, 1.3], [2.0, 2.2], [1.5, 2.1], [3.0, 3.1]])
    paired = stats.ttest_rel(table[:, 0], table[:, 1])
    assert blocks_unequal(table, float(paired.statistic) ** 2) == pytest.approx(float(paired.pvalue), rel=1e-9)


@pytest.mark.parametrize("y", [[1.0, 1.3, 2.1, 2.2, 2.4, 1.9], [1.0, 1.3, 2.1, 2.2, 1.4, 1.2]])
@pytest.mark.parametrize("x", [[1.0, 1.0, 2.0, 2.0, 3.0, 3.0], [1.0, 1.0, 2.0, 2.0, 3.0, 4.0]])
def test_slope_and_bend_are_each_counted_over_every_order(x: list[float], y: list[float]) -> None:
    """Six readings dealt over the levels, against a direct count over all 720 orders with numpy's own polynomials."""
    across = np.array(x) - np.mean(x)
    bend = across**2 - np.polyval(np.polyfit(across, across**2, 1), across)
    centred = np.array(y) - np.mean(y)
    for shape, found in zip((across, bend), shuffle_shapes(x, y), strict=True):
        counted = [abs(float(shape @ np.array(o))) >= abs(float(shape @ centred)) - 1e-9 for o in itertools.permutations(centred)]
        assert found.p == pytest.approx(sum(counted) / 720, abs=1e-12)
        assert found.exact


def test_the_t_of_a_slope_is_the_librarys_and_that_of_a_bend_its_limit() -> None:
    """scipy's own regression; the bend beside 20,000 dealt orders."""
    rng = np.random.default_rng(3)
    table = rng.normal(size=(4, 5)) + np.array([0.0, 1.2, 1.3, 0.2])[:, None]
    x, y = np.repeat([1.0, 2.0, 3.0, 4.0], 5).tolist(), table.ravel().tolist()
    slope, bend = shapes_p([1.0, 2.0, 3.0, 4.0], table.tolist()) or (0.0, 0.0)
    assert slope == pytest.approx(float(stats.linregress(x, y).pvalue), rel=1e-9)
    assert bend == pytest.approx(shuffle_shapes(x, y)[1].p, abs=0.01)


def test_the_shape_predicted_has_four_fifths_of_the_bound_and_the_other_one_fifth() -> None:
    """A bend that luck makes in 2 of 100: clear where it was predicted before the first trial, not where it was thought of afterwards."""
    table = {5.0: [1.9, 2.3, 0.8], 10.0: [2.4, 3.4, 3.2], 15.0: [2.3, 2.9, 1.5], 20.0: [0.6, 1.0, 1.6]}
    plain, thought, late = (ask(table, **more) for more in ({}, {"expect": "peak"}, {"expect": "peak", "expected_late": True}))
    assert plain.effect.kind == thought.effect.kind == "trend"
    trend = plain.effect.trend
    assert trend.bend is not None
    assert OTHER_SHARE * 0.05 < trend.bend.p_shuffle < FIRST_SHARE * 0.05
    assert of_trend(trend, 4, "shuffle", "bend").p == pytest.approx(trend.bend.p_shuffle / FIRST_SHARE)
    assert of_trend(trend, 4, "shuffle", "slope").p == pytest.approx(min(1.0, trend.bend.p_shuffle / OTHER_SHARE))
    assert of_slope(trend, 4, "shuffle").p == pytest.approx(min(1.0, trend.slope.p_shuffle / FIRST_SHARE))  # type: ignore[union-attr]
    assert (plain.verdict.answer, late.verdict.answer) == ("leaning", "leaning")
    assert thought.verdict.answer == "clear"
    assert "A slope was looked for as well" not in (thought.verdict.detail or "")
    assert (plain.verdict.detail or "").endswith("A slope was looked for as well, so a bend must be rarer than 1 in 100.")


def test_spreads_are_allowed_for_where_one_stands_out_or_numbers_are_unlike() -> None:
    """One of three levels ten times as wide; then as wide as the others; then one with a trial fewer."""
    wide, alike, fewer = [[0.0, 10.0, 20.0], [5.0, 6.0, 7.0], [5.0, 6.2, 7.0]], [[0.0, 1.0, 2.0], [5.0, 6.0, 7.0], [5.0, 6.2, 7.0]], [[0.0, 1.0], [5.0, 6.0, 7.0], [5.0, 6.2, 7.0]]
    assert [spreads_ask(v) for v in (wide, alike, fewer, [[1.0], *alike], wide[:2])] == [True, False, True, False, False]
    found = ask({"a": [0.0, 3.5, 7.0], "b": [5.9, 6.0, 6.1], "c": [8.8, 9.0, 9.2]})
    assert found.effect.kind == "groups"
    g = found.effect.groups
    assert g.spreads_ask
    assert of_groups(g, "shuffle").p == max(g.p_shuffle or 0, g.p_unequal or 0)


# --- the shape is a second sentence ----------------------------------------------------------------------------------

#: Readings about these means, each 0.1 above and below.
SHAPES = [
    ([41, 41, 70, 71], "step", "There is a step between 20 g and 30 g; on either side of it little changes.", "about 30.0 m from 10 g to 40 g"),
    ([10, 22, 30, 31], "levels_off", "From 30 g on it hardly rises.", "about 21.0 m from 10 g to 40 g"),
    ([10, 10.5, 11, 31], "starts_late", "Up to 30 g it hardly rises.", None),
    ([10, 20, 27, 31], "less_and_less", "It rises less and less.", None),
    ([31, 30, 27, 20], "starts_late", "Up to 20 g it hardly falls.", None),
    ([31, 27, 20, 10], "more_and_more", "It falls more and more.", None),
    ([10, 30, 12, 40], "other", "It does not go along a straight line.", None),
    ([10, 20, 30, 40], None, None, "about 10.0 m for every 10 g"),
]


@pytest.mark.parametrize(("means", "kind", "says", "size"), SHAPES, ids=[str(s[1]) for s in SHAPES])
def test_what_the_levels_do_beside_a_line_is_said_after_it(means: list[float], kind: str | None, says: str | None, size: str | None) -> None:
    table = {10.0 * (i + 1): [m - 0.1, m, m + 0.1] for i, m in enumerate(means)}
    found = analyse(rows(table), Context(factor="mass", response="distance", unit="m", factor_unit="g"))
    assert found.effect.kind == "trend"
    trend = found.effect.trend
    assert (None if trend.shape is None else trend.shape.kind) == kind
    verb = "rose" if means[-1] > means[0] else "fell"
    assert found.verdict.headline.startswith(f"Distance {verb} with mass: about ")
    assert says is None or says in found.verdict.says
    assert size is None or size in found.verdict.headline
    assert trend.drawn is (kind is None)
    assert (found.in_numbers[0].startswith("No one line or curve goes through these levels")) is (kind is not None)


def test_nine_equal_readings_get_no_line_and_no_share() -> None:
    found = analyse(rows({x: [4.0, 4.0, 4.0] for x in (1.0, 2.0, 3.0)}), Context(factor="mass", response="distance", unit="m"))
    assert found.effect.kind == "trend"
    assert not found.effect.trend.drawn
    assert found.in_numbers == ("No line is drawn through the trials, because no relation is seen that luck does not make as well.",)
    assert found.verdict.answer == "cannot_tell"


def test_a_rise_that_flattens_is_no_best_in_the_middle() -> None:
    """1 − e^(−3x) at five levels, with and without a last mean that luck put a little lower."""
    for last in (0.95, 0.88):
        table = {float(x): [8 * m - 0.5, 8 * m, 8 * m + 0.5] for x, m in enumerate((0.0, 0.53, 0.78, 0.9, last), 1)}
        found = ask(table)
        assert found.verdict.headline.startswith("Distance rose with band: about")
        assert found.effect.kind == "trend"
        assert found.effect.trend.middle is None
        assert all(f.optimum is None for f in found.effect.trend.forms)


def test_a_best_lies_between_the_neighbours_of_those_that_may_be_best() -> None:
    steep = [[1.0, 1.1, 0.9], [3.0, 3.1, 2.9], [5.0, 5.1, 4.9], [3.0, 2.9, 3.1], [1.0, 1.1, 0.9]]
    assert best_between([1, 2, 3, 4, 5], steep, best_is="high") == (2.0, 4.0)
    assert best_between([1, 2, 3, 4, 5], steep, best_is="low") == (1.0, 5.0)
    assert best_between([1, 2], steep[:2], best_is="high") is None


def test_a_peak_is_said_between_levels_and_only_leans_while_an_end_may_be_best() -> None:
    hill = ask({5.0: [1.0, 1.1, 0.9], 10.0: [2.0, 2.1, 1.9], 15.0: [2.1, 2.0, 2.2], 20.0: [1.0, 1.1, 0.9]})
    assert hill.verdict.answer == "clear"
    assert "is greatest in the middle, with band between 5 and 20." in hill.verdict.says
    slope = ask({5.0: [1.0, 1.1, 0.9], 10.0: [2.0, 2.1, 1.9], 15.0: [2.6, 2.4, 2.5], 20.0: [2.3, 2.6, 2.4]})
    assert slope.effect.kind == "trend"
    assert slope.effect.trend.middle is None
    assert "in the middle" not in slope.verdict.says


# --- the fast shuffle ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("skewed", [False, True])
def test_beyond_many_readings_the_limit_is_as_near_to_the_drawn_shuffle_as_it_says(skewed: bool, monkeypatch: pytest.MonkeyPatch) -> None:
    from bendro.core.statistics import shuffle

    rng = np.random.default_rng(5)
    size = LIMIT_FROM + 10
    for shift in (0.0, 0.1, 0.22):
        both = rng.exponential(size=size) if skewed else rng.normal(size=size)
        a, b = both[: size // 2], both[size // 2 :] + shift
        monkeypatch.setattr(shuffle, "LIMIT_FROM", size + 1)
        monkeypatch.setattr(shuffle, "ENOUGH_HITS", 10**9)
        drawn = shuffle_two(a, b)
        monkeypatch.undo()
        limit = shuffle_two(a, b)
        assert (drawn.method, limit.method) == ("drawn", "limit")
        assert limit.p == pytest.approx(drawn.p, abs=LIMIT_ERROR + 3 * math.sqrt(drawn.p / 20_000))


def test_shuffling_stops_when_luck_did_as_much_a_thousand_times() -> None:
    rng = np.random.default_rng(6)
    groups = [list(rng.normal(size=6)) for _ in range(4)]
    found = shuffle_groups(groups)
    assert found.arrangements < 20_000
    assert found.p == pytest.approx(float(stats.f_oneway(*groups).pvalue), abs=0.05)


@pytest.mark.parametrize(("k", "df"), [(2, 3.0), (3, 8.0), (4, 16.0), (6, 11.5), (8, 56.0)])
def test_the_studentised_range_is_the_librarys(k: int, df: float) -> None:
    for q in (0.5, 2.0, 3.7, 6.0):
        assert range_sf(q, k, df) == pytest.approx(float(stats.studentized_range.sf(q, k, df)), abs=3e-6)
    assert range_sf(range_isf(0.05, k, df), k, df) == pytest.approx(0.05, abs=1e-9)


# --- the audit ------------------------------------------------------------------------------------------------------


def test_an_odd_reading_is_found_at_three_repeats_by_all_levels_together() -> None:
    """Beside statsmodels' outlier test of the same model."""
    from statsmodels.formula.api import ols
    from statsmodels.stats.outliers_influence import OLSInfluence

    table = {"a": [1.60, 1.62, 1.58], "b": [1.70, 1.72, 1.69], "c": [1.63, 16.3, 1.66], "d": [1.80, 1.79, 1.83]}
    found = ask(table)
    odd = next(f for f in found.audit if f.code == "odd_reading")
    assert "16.3 m at c stands apart" in odd.says
    assert "1.63 would be in line: the decimal mark?" in odd.says
    model = ols(
        "y ~ C(level)", {"y": [v for values in table.values() for v in values], "level": [k for k in table for _ in range(3)]}
    ).fit()
    worst = int(np.argmax(np.abs(OLSInfluence(model).resid_studentized_external)))
    assert worst == 7
    assert (odd_of_all(list(table.values())) or ())[:2] == (2, 1)


@pytest.mark.parametrize(
    ("value", "others", "meant"),
    [(16.3, [1.6, 1.7, 1.65], "1.63"), (452, [4.4, 4.5, 4.6], "4.52"), (53, [3.4, 3.6, 3.5], None), (6.3, [3.5, 3.6, 3.7], "3.6"), (10.2, [4.0, 4.05, 3.98], "4.016"), (48, [4.0, 3.9, 4.1], "4"), (5.0, [4.0, 4.1], None)],
)  # fmt: skip
def test_the_slip_is_named_that_explains_a_reading(value: float, others: list[float], meant: str | None) -> None:
    found = slip_of(value, others)
    assert (found[0] if found else None) == meant


def test_levels_one_after_the_other_or_one_person_to_a_level_lean_at_most() -> None:
    table = {"thin": [2.0, 2.1, 2.2, 2.1, 2.0], "thick": [4.1, 4.2, 4.3, 4.2, 4.1]}
    after = [Trial(level=k, value=v, row=i, order=i) for i, (k, v) in enumerate([(k, v) for k in table for v in table[k]], 1)]
    found = analyse(after, Context(factor="band", response="distance", unit="m"))
    assert (found.verdict.answer, found.verdict.next) == (
        "leaning",
        "Shuffle the levels within blocks: one trial at each level, then again.",
    )
    alone = [Trial(level=t.level, value=t.value, row=t.row, person=str(t.level)) for t in rows(table)]
    assert analyse(alone, Context(factor="band", response="distance")).verdict.answer == "leaning"
    assert (
        analyse(after, Context(factor="version", response="distance", rounds=True)).verdict.answer == "clear"
    )  # rounds follow each other


def test_all_estimates_are_said() -> None:
    found = analyse(rows({"a": [4.0, 4.2, 4.1], "b": [5.0, 5.2, 5.1]}, kind="estimate"), Context(factor="f", response="r"))
    assert "all_estimated" in [f.code for f in found.audit]


# --- contests, survival, ranges --------------------------------------------------------------------------------------


def test_a_contest_names_its_places_by_the_rule_agreed_first() -> None:
    table = {"Gold": [4.5, 4.6, 4.4], "Blue": [3.0, 3.2, 3.1], "Green": [3.2, 3.0, 3.1]}
    says = analyse(rows(table), Context(factor="group", response="distance", unit="m", contest=True)).verdict.says
    assert says.startswith("By the average Gold is first with 4.5 m. Then Blue and Green (3.1 m). ")
    best = analyse(rows(table), Context(factor="group", response="distance", unit="m", contest=True, result="best")).verdict.says
    assert best.startswith("By the best trial Gold is first with 4.6 m. Then Blue and Green (3.2 m). ")


def test_survival_is_weighed_by_one_exact_test_over_all_designs() -> None:
    """2 × 2 is Fisher's; 3 × 2 against every table counted; Holm's first step is the least p times the number of pairs."""
    assert over_all([1, 4], [5, 5])[0] == pytest.approx(float(stats.fisher_exact([[1, 4], [4, 1]]).pvalue), rel=1e-9)
    kept, n = [0, 2, 3], [3, 3, 3]
    ways = {t: math.prod(math.comb(3, k) for k in t) for t in itertools.product(range(4), repeat=3) if sum(t) == sum(kept)}
    p = sum(w for w in ways.values() if w <= ways[(0, 2, 3)]) / sum(ways.values())
    assert over_all(kept, n) == (pytest.approx(p, rel=1e-9), True)
    many = over_all([5, 1, 3, 2, 4, 3, 2, 5], [5] * 8)
    assert many[1] is False
    assert 0 < (many[0] or 0) < 1
    drops = [Trial(level=k, outcome="survived" if i < s else "failed", row=1) for k, s in (("a", 9), ("b", 2), ("c", 5)) for i in range(10)]
    found = analyse(drops, Context(factor="pod", response="outcome"))
    assert found.effect.kind == "survival"
    s = found.effect.survival
    assert min(f.p for f in s.fisher_holm) == pytest.approx(3 * min(f.p for f in s.fisher))
    assert found.verdict.answer == answer_of(type("D", (), {"p": s.p})(), "shuffle", None, 0.05)


def test_a_design_that_passed_higher_than_it_failed_has_no_bracket_in_words() -> None:
    drops = [Trial(level=h, outcome=o, row=1) for h, o in ((1.0, "survived"), (2.0, "failed"), (3.0, "survived"), (4.0, "failed"))]
    found = analyse(drops, Context(factor="height", response="outcome", factor_unit="m"))
    assert found.effect.kind == "survival"
    assert found.effect.survival.mixed is True


def test_the_school_of_ranges_says_how_often_it_errs() -> None:
    """Three against three: 2 of 20 orders keep the ranges apart. The other figure against drawn readings."""
    luck, missed = ranges_err((3, 3)) or (0.0, 0.0)
    assert luck == pytest.approx(0.1)
    rng = np.random.default_rng(7)
    a, b = rng.normal(size=(20_000, 3)), rng.normal(2, 1, (20_000, 3))
    touch = 1 - np.mean((a.max(axis=1) < b.min(axis=1)) | (b.max(axis=1) < a.min(axis=1)))
    assert missed == pytest.approx(float(touch), abs=0.015)
    beside = ask({"a": [1.0, 1.1, 1.2], "b": [1.3, 1.4, 1.5]}, evidence="ranges").verdict.beside
    assert "by luck alone in about 10 in 100" in (beside or "")


# --- advice ---------------------------------------------------------------------------------------------------------


def test_the_advice_has_the_power_that_it_promises() -> None:
    """Noncentral t of statsmodels for two levels at the alpha that is left."""
    from statsmodels.stats.power import TTestIndPower

    design = Design(kind="two", levels=2, each=0.5)
    assert design.power(17, 0.05) == pytest.approx(TTestIndPower().power(1.0, 17, 0.045), abs=1e-6)
    wanted = design.wanted(2, 0.05)
    assert wanted is not None
    assert design.power(wanted, 0.05) >= 0.8 > design.power(wanted - 1, 0.05)


@pytest.mark.parametrize(
    "table",
    [
        {"a": [1.0, 1.0, 1.0], "b": [1.0, 1.0, 1.0]},
        {"a": [1.0, 1.1, 1.2], "b": [2.0]},
        {10.0: [1.0, 1.2, 1.1], 20.0: [3.0, 3.2, 3.1]},
        {float(i): [float(i)] for i in range(1, 31)},
        {"a": [0.0, 0.0, 0.0], "b": [0.0, 0.1, 0.0]},
        {"003": [1.0, 1.1, 1.0], "007": [3.0, 3.1, 3.0]},
        {"a": [1.0, 1.2], "b": [3.0, 3.1]},
        {1.0: [5.0, 5.1, 5.0], 2.0: [2.0, 2.1, 2.2], 3.0: [5.2, 5.0, 5.1]},
    ],
)
def test_odd_tables_get_an_answer_that_a_person_would_give(table: dict[Any, list[float]]) -> None:
    """Nothing fails, nothing says stop while something of weight is in doubt, every sentence ends."""
    found = ask(table)
    v = found.verdict
    assert v.says.endswith(".")
    grave = [f for f in found.audit if f.severity in ("stop", "warn")]
    assert not (grave and v.next.startswith("Stop"))
    if all(len(set(values)) == 1 for values in table.values()) and len({tuple(v) for v in table.values()}) == 1:
        assert v.answer == "cannot_tell"
    assert "nan" not in f"{v.says} {v.detail}".casefold()


def test_one_version_is_a_state_and_survival_has_its_advice() -> None:
    one = analyse(rows({"1": [1.0, 1.1, 1.2]}), Context(factor="version", response="r", rounds=True)).verdict
    assert one.says == "One version is tried so far; the next is compared with it when it is built."
    assert one.next == "Build the next version and try it beside this one."
    drops = [Trial(level=k, outcome="survived" if i < s else "failed", row=1) for k, s in (("a", 4), ("b", 2)) for i in range(5)]
    told = analyse(drops, Context(factor="pod", response="outcome")).verdict.next
    found = re.match(r"About (\d+) more trials at each level", told)
    assert found is not None
    # Cohen 1988, table 6.4.1 by his formula: h = 2 asin √0.8 − 2 asin √0.4 = 0.845 needs 22 at each level for power 0.8 at 0.05
    assert 17 <= int(found[1]) <= 22
