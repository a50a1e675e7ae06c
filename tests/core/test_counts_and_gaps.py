"""Counts and points by a test of their own, shuffles that are counted and not dealt, blocks that lack a level, a falling survival."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats
from statsmodels.formula.api import glm
from statsmodels.genmod.families import Poisson
from statsmodels.stats.rates import test_poisson_2indep as poisson_2indep

from bendro.core.analyse import analyse
from bendro.core.context import Context
from bendro.core.judgement.working import how_difference
from bendro.core.results import DifferenceEffect, GroupsEffect, SurvivalEffect
from bendro.core.statistics import all_sums
from bendro.core.statistics.blocks import blocked
from bendro.core.statistics.counts import are_counts, counts_of, difference_interval, excess_of, over_all, two_totals
from bendro.core.statistics.shuffle import shuffle_two
from bendro.core.statistics.survival import falling_shares, share, survival
from bendro.core.trials import Trial


def trials(**levels: list[float]) -> list[Trial]:
    rows = [(level, v, i) for level, values in levels.items() for i, v in enumerate(values)]
    return [Trial(level=level, value=v, block=str(i), row=at) for at, (level, v, i) in enumerate(rows, 1)]


@settings(deadline=None, max_examples=60)
@given(st.lists(st.integers(0, 30), min_size=3, max_size=9), st.data())
def test_counting_sums_equals_trying_every_choice(whole: list[int], data: st.DataObject) -> None:
    n = data.draw(st.integers(1, len(whole) - 1))
    values = [v / 4 for v in whole]
    found = all_sums.share_of_choices(values, n)
    seen = abs(math.fsum(values[:n]) / n - math.fsum(values[n:]) / (len(values) - n))
    tried = [
        abs(math.fsum(values[i] for i in pick) / n - math.fsum(values[i] for i in range(len(values)) if i not in pick) / (len(values) - n))
        for pick in map(set, itertools.combinations(range(len(values)), n))
    ]
    assert found == pytest.approx(sum(t >= seen - 1e-9 for t in tried) / len(tried))


@settings(deadline=None, max_examples=60)
@given(st.lists(st.integers(-20, 20), min_size=1, max_size=9))
def test_counting_signs_equals_trying_every_sign(whole: list[int]) -> None:
    tried = [abs(sum(s * v for s, v in zip(signs, whole, strict=True))) for signs in itertools.product((1, -1), repeat=len(whole))]
    found = all_sums.share_of_signs([v / 10 for v in whole])
    assert found == pytest.approx(sum(t >= abs(sum(whole)) for t in tried) / len(tried))


def test_a_long_table_on_the_steps_of_a_tool_has_no_seed_and_agrees_with_the_drawn_shuffle() -> None:
    rng = np.random.default_rng(3)
    a, b = np.round(rng.normal(4.0, 0.3, 14), 1), np.round(rng.normal(4.2, 0.3, 16), 1)
    found = shuffle_two(list(a), list(b))
    drawn = stats.permutation_test((a, b), lambda x, y, axis: np.mean(x, axis) - np.mean(y, axis), n_resamples=40_000, rng=1, vectorized=True)
    assert (found.exact, found.seed, found.arrangements) == (True, None, math.comb(30, 14))
    assert found.p == pytest.approx(drawn.pvalue, abs=0.01)


def test_readings_on_no_step_are_dealt_as_before() -> None:
    rng = np.random.default_rng(4)
    assert shuffle_two(list(rng.normal(size=12)), list(rng.normal(size=12))).method == "drawn"


def test_a_step_that_is_no_part_of_ten_is_found_too() -> None:
    found = all_sums.steps_of([0.25, 1.0, 2.5])
    assert found is not None
    assert list(found) == [0, 1, 3]
    assert all_sums.steps_of([1 / 3, 2.0]) is None
    assert all_sums.ways_to_choose(np.arange(400), 200) is None  # more work than dealing


def test_two_totals_are_compared_as_the_library_does() -> None:
    """Przyborowski & Wilenski 1940; statsmodels' conditional test, whose two-sided p orders by probability."""
    for (a, n), (b, m) in (((3, 2), (12, 2)), ((0, 3), (9, 3)), ((20, 5), (41, 5))):
        ours = two_totals((a, n), (b, m), 1.0)
        theirs = poisson_2indep(a, n, b, m, method="exact-cond").pvalue
        assert ours == pytest.approx(float(theirs), rel=0.06) if n == m else ours > 0
        assert ours == pytest.approx(min(1.0, 2 * min(stats.binom.cdf(a, a + b, n / (n + m)), stats.binom.sf(a - 1, a + b, n / (n + m)))))


def test_a_single_rate_has_garwoods_interval() -> None:
    """Garwood 1936: 10 seen, 4.795 to 18.39 (the table as it is printed in handbooks, from memory)."""
    low, high = difference_interval((0.0, 1), (10.0, 1), 1.0)
    assert high == pytest.approx(18.39, abs=0.01)
    assert low == pytest.approx(10 - math.hypot(10 - 4.795, 3.689), abs=0.01)  # 0 seen: up to 3.689


def test_several_totals_are_compared_by_every_way_to_share_them_and_by_the_generalised_line() -> None:
    p, exact = over_all([2.0, 3.0, 9.0], [1, 1, 1], 1.0, 0)
    law = stats.multinomial(14, [1 / 3] * 3)
    seen = law.pmf([2, 3, 9])
    tried = [(a, b, 14 - a - b) for a in range(15) for b in range(15 - a)]
    assert exact
    assert p == pytest.approx(sum(law.pmf(t) for t in tried if law.pmf(t) <= seen * (1 + 1e-9)))
    groups = {"a": [4.0, 6, 3, 5], "b": [7.0, 9, 6, 12], "c": [5.0, 4, 8, 6]}
    found, pairs = counts_of(groups)
    table = {"level": [k for k, v in groups.items() for _ in v], "y": [x for v in groups.values() for x in v]}
    full, none = (glm(f, table, family=Poisson()).fit(scale="X2") for f in ("y ~ level", "y ~ 1"))
    excess, free = excess_of(list(groups.values()))
    raw = excess / (stats.t.isf(0.025, free) / stats.norm.isf(0.025)) ** 2
    assert raw == pytest.approx(full.scale)
    chi2 = none.pearson_chi2 - full.pearson_chi2  # not nested exactly as ours, which takes Pearson's of the totals: near it
    assert found.p == pytest.approx(float(stats.f.sf(chi2 / 2 / full.scale, 2, free)), abs=0.02)
    assert [p.between for p in pairs] == [("a", "b"), ("a", "c"), ("b", "c")]
    assert pairs[0].ci95 is not None
    assert pairs[0].ci95[0] < pairs[0].estimate < pairs[0].ci95[1]
    assert pairs[0].ci95 == pytest.approx(difference_interval((18.0, 4), (34.0, 4), excess, 0.05 / 3))  # three pairs share the 5 %


def test_what_is_a_count() -> None:
    assert are_counts([0.0, 3.0])
    assert not are_counts([0.0, 0.0])
    assert not are_counts([1.5, 2.0])
    assert not are_counts([-1.0, 2.0])


def test_two_designs_thrown_once_are_compared_by_their_totals_and_lean_at_most() -> None:
    found = analyse(trials(A=[2.0], B=[19.0]), Context(factor="design", response="hits", unit="count"))
    assert isinstance(found.effect, DifferenceEffect)
    assert found.effect.difference.counts is not None
    assert found.effect.difference.counts.p < 0.001
    assert found.verdict.answer != "clear"  # one trial shows no spread


def test_counts_of_three_decide_by_their_totals_where_the_shuffle_is_too_coarse_and_say_so() -> None:
    found = analyse(trials(A=[2.0, 3, 1], B=[9.0, 11, 10]), Context(factor="design", response="hits", unit="count"))
    assert found.verdict.answer == "clear"
    assert "the totals decide, by a test for counts" in (found.verdict.detail or "")


def test_turns_that_scatter_less_than_hits_are_not_blurred() -> None:
    found = analyse(trials(A=[40.0, 41, 40], B=[44.0, 45, 44]), Context(factor="blade", response="turns", unit="count"))
    assert found.verdict.answer == "clear"


def test_a_contest_by_points_has_pairs_by_the_test_for_counts() -> None:
    found = analyse(
        trials(Gold=[5.0, 3, 5, 5, 3], Blue=[1.0, 0, 1, 0, 1], Green=[3.0, 5, 3, 5, 5]),
        Context(factor="group", response="points", counted=True, contest=True, result="total"),
    )
    assert isinstance(found.effect, GroupsEffect)
    assert found.effect.groups.pairs_method == "counts_holm"
    assert found.effect.groups.places == (("Gold", "Green"), ("Blue",))
    assert found.verdict.says.startswith("By the total Gold and Green share the first place with 21. Then Blue (3). ")


def test_levels_of_one_and_the_same_mean_are_answered() -> None:
    """Rounding once left F a hair below zero, where the library has no p and the whole analysis stopped."""
    found = analyse(trials(a=[1.0, 1, 0], b=[1.0, 1, 0], c=[0.0, 1, 1], d=[2.0, 0, 0]), Context(factor="f", response="r"))
    assert isinstance(found.effect, GroupsEffect)
    assert (found.effect.groups.f, found.effect.groups.p_anova, found.verdict.answer) == (0.0, 1.0, "cannot_tell")


def test_blocks_that_lack_a_level_are_shuffled_within_themselves() -> None:
    """Every order within every block tried, with the extra sum of squares of the levels by least squares each time."""
    cells = [("a", "1", 4.1), ("b", "1", 5.0), ("c", "1", 6.2), ("a", "2", 3.8), ("c", "2", 5.5), ("b", "3", 4.4), ("c", "3", 5.9), ("a", "3", 4.0)]
    found = blocked([v for _, _, v in cells], [a for a, _, _ in cells], [b for _, b, _ in cells])
    level = np.array([[a == "b", a == "c"] for a, _, _ in cells], float)
    block = np.array([[1.0, b == "2", b == "3"] for _, b, _ in cells])

    def explained(y: np.ndarray) -> float:
        def rss(design: np.ndarray) -> float:
            return float(((y - design @ np.linalg.lstsq(design, y, rcond=None)[0]) ** 2).sum())

        return rss(block) - rss(np.hstack([block, level]))

    y = np.array([v for _, _, v in cells])
    rows = [[i for i, (_, b, _) in enumerate(cells) if b == name] for name in "123"]
    dealt = [explained(y[list(itertools.chain(*order))]) for order in itertools.product(*(list(itertools.permutations(r)) for r in rows))]
    seen = explained(y[list(itertools.chain(*rows))])
    assert (found.shuffle_exact, found.shuffle_arrangements) == (True, 72)
    assert found.p_shuffle == pytest.approx(sum(d >= seen - 1e-9 for d in dealt) / 72)


def test_whole_blocks_are_shuffled_as_ever() -> None:
    found = blocked([1.0, 2, 3, 2, 3, 4, 1, 3, 4], list("abcabcabc"), list("111222333"))
    assert found.p_shuffle == pytest.approx(6 / 216)


def test_survival_is_made_never_to_rise() -> None:
    """Ayer et al. 1955: a level that survives more often than the one below it is pooled with it."""
    shares = [share(level, k, 5) for level, k in ((1.0, 5), (2.0, 3), (3.0, 4), (4.0, 1), (5.0, 0))]
    assert falling_shares(shares) == pytest.approx([1.0, 0.7, 0.7, 0.2, 0.0])
    found = survival({s.level: [True] * s.survived + [False] * (5 - s.survived) for s in shares}, numeric=True)
    assert found.half_between == (3.0, 4.0)
    assert found.half_height is not None
    assert 3.0 < found.half_height < 4.0


def test_a_half_at_a_level_is_that_level_and_a_curve_says_nothing_beyond_what_was_tried() -> None:
    half = survival({1.0: [True] * 4, 2.0: [True, True, False, False], 3.0: [True, False, False, False]}, numeric=True)
    assert half.half_between == (2.0, 2.0)
    beyond = survival({1.0: [True] * 5, 2.0: [True] * 4 + [False], 3.0: [True] * 4 + [False]}, numeric=True)
    assert (beyond.half_between, beyond.half_height) == (None, None)
    rows = [
        Trial(level=level, outcome=word, order=i, row=i)
        for i, (level, word) in enumerate(
            [(1.0, "survived")] * 4 + [(2.0, "survived")] * 3 + [(2.0, "failed"), (3.0, "survived")] + [(3.0, "failed")] * 3, 1
        )
    ]
    said = analyse(rows, Context(factor="height", response="outcome", factor_unit="m"))
    assert isinstance(said.effect, SurvivalEffect)
    assert (said.verdict.detail or "").startswith("Half survive between 2 m and 3 m, at about 2.52 m by a smooth curve.")


def test_the_working_of_counts_says_their_totals_and_not_a_t_test() -> None:
    rows = trials(A=[2.0, 3, 1], B=[9.0, 11, 10])
    asked = Context(factor="design", response="hits", unit="count")
    lines = how_difference(rows, "A", "B", asked, analyse(rows, asked).effect).lines
    assert "totals: 6 in 3 and 30 in 3 trials" in lines
    assert not any("Welch" in line for line in lines)
    few = trials(A=[2.0], B=[19.0])
    once = how_difference(few, "A", "B", asked, analyse(few, asked).effect).lines
    assert "Each level was tried once, so hits are taken as independent." in once
