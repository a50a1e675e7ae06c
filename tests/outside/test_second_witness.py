"""A second witness for each method: a published result on an open data set where there is one, and a general-purpose library
used in another way than the core uses it. Values "from memory" are those that the reference manual of R prints for its own
example data sets; the data sets themselves are printed in the works named."""

from __future__ import annotations

import itertools
import math
from typing import Any

import numpy as np
import pandas as pd
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import constants, stats
from statsmodels.stats.anova import AnovaRM
from statsmodels.stats.multicomp import pairwise_tukeyhsd
from statsmodels.stats.oneway import anova_oneway
from statsmodels.stats.power import TTestIndPower
from statsmodels.stats.weightstats import CompareMeans, DescrStatsW

from bendro.core.analyse import analyse
from bendro.core.context import Context
from bendro.core.readings import convert, read
from bendro.core.statistics.blocks import blocked
from bendro.core.statistics.compare import three_or_more
from bendro.core.statistics.describe import describe, grubbs_critical, odd_reading
from bendro.core.statistics.landing import two_variables
from bendro.core.statistics.power import power_of, repeats_for
from bendro.core.statistics.shuffle import shuffle_groups, shuffle_signs, shuffle_two
from bendro.core.statistics.survival import share, survival
from bendro.core.trials import Trial
from bendro.files.trial_table import parse_table, take_trials


def trials(**levels: list[float]) -> list[Trial]:
    return [Trial(level=level, value=v, block=str(i)) for level, values in levels.items() for i, v in enumerate(values)]


def rows(level: str, values: Any) -> list[Trial]:
    return [Trial(level=level, value=float(v)) for v in values]


def asked(text: str, factor: str, response: str, **more: Any) -> Any:
    """A table through the whole road, as `bendro analyse` takes it."""
    taken = take_trials(parse_table(text), factor, response, treat_as=more.get("treat_as"))
    question = Context(factor=taken.factor.name, response=taken.response.name, factor_unit=taken.factor_unit, unit=taken.unit, **more)
    return analyse(taken.trials, question)


# --- describing: NIST Statistical Reference Datasets, univariate (constructed so that the certified values are exact) -------


@pytest.mark.parametrize(
    ("values", "mean", "sd"),
    [
        ([10000001, 10000003, 10000002], 10000002, 1),  # NumAcc1
        ([1.2] + [1.1, 1.3] * 500, 1.2, 0.1),  # NumAcc2
        ([1000000.2] + [1000000.1, 1000000.3] * 500, 1000000.2, 0.1),  # NumAcc3
        ([10000000.2] + [10000000.1, 10000000.3] * 500, 10000000.2, 0.1),  # NumAcc4
    ],
)
def test_nist_univariate_numacc(values: list[float], mean: float, sd: float) -> None:
    found = describe("a", rows("a", values))
    assert found.mean == pytest.approx(mean, rel=1e-14)
    assert found.sd == pytest.approx(sd, rel=1e-7)


@settings(max_examples=50)
@given(st.lists(st.floats(-1e3, 1e3), min_size=3, max_size=30).filter(lambda v: np.ptp(v) > 1e-3))
def test_the_interval_of_the_mean_against_statsmodels(values: list[float]) -> None:
    found = describe("a", rows("a", values))
    assert found.ci95 == pytest.approx(DescrStatsW(values).tconfint_mean(), rel=1e-9, abs=1e-9)
    assert found.median == pytest.approx(float(pd.Series(values).median()), abs=1e-12)


def test_an_odd_reading_of_the_handbook() -> None:
    """NIST/SEMATECH e-Handbook 1.3.5.17.1: mass spectrometer readings, G = 2.4687 at 245.57; that the two-sided critical value
    for n = 8 is 2.1266 is from memory."""
    values = [199.31, 199.53, 200.19, 200.82, 201.92, 201.95, 202.18, 245.57]
    assert max(abs(np.array(values) - np.mean(values))) / np.std(values, ddof=1) == pytest.approx(
        2.4687, abs=1e-4
    )  # printed cut off, not rounded
    assert grubbs_critical(8) == pytest.approx(2.1266, abs=5e-5)
    assert odd_reading(values, step=0.01) == 7
    assert odd_reading(values[:-1], step=0.01) is None


# --- two levels: Student's sleep data (Student 1908, Biometrika 6, 20; values of R's t.test from memory) ---------------------

SLEEP = {"one": [0.7, -1.6, -0.2, -1.2, -0.1, 3.4, 3.7, 0.8, 0.0, 2.0], "two": [1.9, 0.8, 1.1, 0.1, -0.1, 4.4, 5.5, 1.6, 4.6, 3.4]}


def test_students_sleep_data_unpaired() -> None:
    found = analyse(trials(**SLEEP), Context(factor="drug", response="extra")).effect.difference
    assert (found.estimate, found.t, found.df, found.p_t) == pytest.approx((1.58, 1.8608, 17.776, 0.07939), abs=5e-4)
    assert found.ci95 == pytest.approx((-0.2054832, 3.3654832), abs=5e-7)
    other = CompareMeans(DescrStatsW(SLEEP["two"]), DescrStatsW(SLEEP["one"])).tconfint_diff(usevar="unequal")
    assert found.ci95 == pytest.approx(other, rel=1e-9)


def test_students_sleep_data_paired() -> None:
    found = analyse(trials(**SLEEP), Context(factor="drug", response="extra", pair_by="block")).effect.difference
    assert (found.estimate, found.t, found.df, found.p_t) == pytest.approx((1.58, 4.0621, 9, 0.002833), abs=5e-5)
    assert found.ci95 == pytest.approx((0.7001142, 2.4598858), abs=5e-7)
    # every sign flipped by hand: 2^10
    d = np.subtract(SLEEP["two"], SLEEP["one"])
    flips = np.array(list(itertools.product((1, -1), repeat=10)))
    exact = float(np.mean(np.abs(flips @ d) >= abs(d.sum()) - 1e-9))
    assert (found.p_shuffle, found.shuffle_exact, found.shuffle_arrangements) == (pytest.approx(exact), True, 1024)


def test_fishers_own_shuffle_of_darwins_maize() -> None:
    """Fisher 1935, The Design of Experiments, section 21: of the 2^15 sign arrangements of Darwin's 15 pairs (eighths of an
    inch) 863 give a total of 314 or more, so 1,726 are as extreme either way: 5.267 %. Past 20,000 arrangements the core
    counts sums instead of trying signs."""
    darwin = [49, -67, 8, 16, 6, 23, 28, 41, 14, 29, 56, 24, 75, 60, -48]
    assert sum(darwin) == 314
    flips = np.array(list(itertools.product((1, -1), repeat=15)))
    assert int(np.sum(flips @ np.array(darwin) >= 314)) == 863
    found = shuffle_signs([float(v) for v in darwin])
    assert found.exact
    assert found.p == 2 * 863 / 2**15


@settings(max_examples=40)
@given(st.integers(3, 5).flatmap(lambda n: st.permutations(range(1, 2 * n + 1))))
def test_the_shuffle_of_ranks_is_the_exact_rank_sum_test(ranks: list[int]) -> None:
    """On ranks without ties the exact shuffle of two equal levels is Wilcoxon's rank-sum test, for which scipy keeps the null
    distribution by recursion (Mann & Whitney 1947) and deals nothing."""
    half = len(ranks) // 2
    x, y = [float(v) for v in ranks[:half]], [float(v) for v in ranks[half:]]
    expected = stats.mannwhitneyu(x, y, method="exact", alternative="two-sided").pvalue
    assert shuffle_two(x, y).p == pytest.approx(expected, abs=1e-9)


# --- three levels: Dobson's plant growth (Dobson 1983, An Introduction to Statistical Modelling; R's PlantGrowth) -------------

PLANTS = {
    "ctrl": [4.17, 5.58, 5.18, 6.11, 4.50, 4.61, 5.17, 4.53, 5.33, 5.14],
    "trt1": [4.81, 4.17, 4.41, 3.59, 5.87, 3.83, 6.03, 4.89, 4.32, 4.69],
    "trt2": [6.31, 5.12, 5.54, 5.50, 5.37, 5.29, 4.92, 6.15, 5.80, 5.26],
}


def test_plant_growth_as_published() -> None:
    found = analyse(trials(**PLANTS), Context(factor="group", response="weight"))
    g = found.effect.groups
    assert (g.f, g.p_anova) == pytest.approx((4.8461, 0.01591), abs=5e-5)
    assert (g.f_welch, g.p_welch) == pytest.approx((5.181, 0.01739), abs=5e-4)
    tukey = {
        ("ctrl", "trt1"): (-0.371, -1.0622161, 0.3202161, 0.3908711),
        ("ctrl", "trt2"): (0.494, -0.1972161, 1.1852161, 0.1979960),
        ("trt1", "trt2"): (0.865, 0.1737839, 1.5562161, 0.0120064),
    }
    for pair in g.pairs:
        assert (pair.estimate, *pair.ci95, pair.p_adjusted) == pytest.approx(tukey[pair.between], abs=2e-4)
    assert g.places == (("trt2", "ctrl", "trt1"),)  # the best and the middle cannot be separated, nor the middle and the last
    # places are not chained through that: they go by the results
    ranking = [(r.level, r.place, r.apart_from_next) for r in found.ranking]
    assert ranking == [("trt2", 1, False), ("ctrl", 2, False), ("trt1", 3, None)]


def test_plant_growth_against_statsmodels() -> None:
    g = analyse(trials(**PLANTS), Context(factor="group", response="weight")).effect.groups
    welch = anova_oneway(list(PLANTS.values()), use_var="unequal", welch_correction=True)
    assert (g.f_welch, g.p_welch) == pytest.approx((welch.statistic, welch.pvalue), rel=1e-9)
    names = [n for n, v in PLANTS.items() for _ in v]
    other = pairwise_tukeyhsd(np.concatenate(list(PLANTS.values())), names)
    assert [p.estimate for p in g.pairs] == pytest.approx(list(other.meandiffs))
    assert np.array([p.ci95 for p in g.pairs]) == pytest.approx(other.confint, abs=1e-4)


def test_unequal_spreads_are_compared_by_games_and_howell() -> None:
    """Games & Howell 1976, worked out from its definition with the studentized range."""
    values = {"a": [10.0, 10.1, 9.9, 10.05, 9.95, 10.0], "b": [12.0, 15.0, 9.0, 18.0, 6.0, 13.0], "c": [20.0, 20.2, 19.8, 20.1, 19.9, 20.0]}
    g = three_or_more({k: rows(k, v) for k, v in values.items()})
    assert g.pairs_method == "games_howell"
    for pair in g.pairs:
        x, y = (np.array(values[n]) for n in pair.between)
        vx, vy = x.var(ddof=1) / len(x), y.var(ddof=1) / len(y)
        df = (vx + vy) ** 2 / (vx**2 / (len(x) - 1) + vy**2 / (len(y) - 1))
        q = abs(y.mean() - x.mean()) / math.sqrt((vx + vy) / 2)
        assert pair.p_adjusted == pytest.approx(stats.studentized_range.sf(q, 3, df), abs=1e-6)
        half = stats.studentized_range.isf(0.05, 3, df) * math.sqrt((vx + vy) / 2)
        assert pair.ci95 == pytest.approx((pair.estimate - half, pair.estimate + half), rel=1e-5)


def test_the_shuffle_of_three_levels_against_every_deal() -> None:
    groups = [[1.0, 2.0], [2.5, 4.0], [3.5, 6.0]]
    flat = [v for g in groups for v in g]

    def between(parts: list[list[float]]) -> float:
        return sum(len(p) * (np.mean(p) - np.mean(flat)) ** 2 for p in parts)

    seen, hits = 0, 0
    for first in itertools.combinations(range(6), 2):
        rest = [i for i in range(6) if i not in first]
        for second in itertools.combinations(rest, 2):
            third = [i for i in rest if i not in second]
            seen += 1
            hits += between([[flat[i] for i in part] for part in (first, second, third)]) >= between(groups) - 1e-9
    found = shuffle_groups(groups)
    assert (found.arrangements, found.exact) == (seen, True)
    assert found.p == pytest.approx(hits / seen)


# --- blocks: rounding first base (Hollander & Wolfe 1973, table 7.1; R's friedman.test from memory) ---------------------------

BASES = """5.40 5.50 5.55 5.85 5.70 5.75 5.20 5.60 5.50 5.55 5.50 5.40 5.90 5.85 5.70 5.45 5.55 5.60 5.40 5.40 5.35 5.45 5.50 5.35
5.25 5.15 5.00 5.85 5.80 5.70 5.25 5.20 5.10 5.65 5.55 5.45 5.60 5.35 5.45 5.05 5.00 4.95 5.50 5.50 5.40 5.45 5.55 5.50
5.55 5.55 5.35 5.45 5.50 5.55 5.50 5.45 5.25 5.65 5.60 5.40 5.70 5.65 5.55 6.30 6.30 6.25"""


def bases() -> tuple[list[float], list[str], list[str]]:
    values = [float(v) for v in BASES.split()]
    return values, ["round out", "narrow", "wide"] * 22, [str(i // 3) for i in range(66)]


def test_rounding_first_base_as_published() -> None:
    values, ways, players = bases()
    text = "player,way,time (s)\n" + "\n".join(f"{p},{w},{v}" for v, w, p in zip(values, ways, players, strict=True))
    g = asked(text, "way", "time", pair_by="player").effect.groups
    assert g.blocked is True
    assert (g.friedman.chi2, g.friedman.p) == pytest.approx((11.1429, 0.003805), abs=5e-5)
    assert g.friedman.kendall_w == pytest.approx(11.1429 / (22 * 2), abs=1e-5)


def test_blocks_against_the_repeated_measures_analysis_of_statsmodels() -> None:
    values, ways, players = bases()
    found = blocked(values, ways, players)
    table = AnovaRM(pd.DataFrame({"y": values, "way": ways, "player": players}), "y", "player", within=["way"]).fit().anova_table
    assert found.f == pytest.approx(float(table["F Value"].iloc[0]), rel=1e-9)
    assert found.p == pytest.approx(float(table["Pr > F"].iloc[0]), rel=1e-7)


# --- a numeric variable: stopping distance of cars (Ezekiel 1930, Methods of Correlation Analysis; R's cars) ------------------

SPEED = "4 4 7 7 8 9 10 10 10 11 11 12 12 12 12 13 13 13 13 14 14 14 14 15 15 15 16 16 17 17 17 18 18 18 18 19 19 19 20 20 20 20 20 22 23 24 24 24 24 25"  # fmt: skip
STOP = "2 10 4 22 16 10 18 26 34 17 28 14 20 24 28 26 34 34 46 26 36 60 80 20 26 54 32 40 32 40 50 42 56 76 84 36 46 68 32 48 52 56 64 66 54 70 92 93 120 85"  # fmt: skip


def test_stopping_distance_of_cars_as_published() -> None:
    text = "speed (mph),distance (ft)\n" + "\n".join(f"{s},{d}" for s, d in zip(SPEED.split(), STOP.split(), strict=True))
    found = asked(text, "speed", "distance")
    forms = {f.form: f for f in found.effect.trend.forms}
    line = forms["line"]
    assert (line.coefficients["intercept"], line.coefficients["slope"]) == pytest.approx((-17.5791, 3.9324), abs=5e-5)
    assert (line.se["slope"], line.r2, line.residual_sd) == pytest.approx((0.4155, 0.6511, 15.38), abs=5e-3)
    assert line.p == pytest.approx(1.49e-12, rel=5e-3)
    power = forms["power"]
    assert (math.log(power.coefficients["scale"]), power.coefficients["exponent"]) == pytest.approx((-0.7297, 1.6024), abs=5e-5)
    assert power.r2 == pytest.approx(0.7331, abs=5e-5)
    assert found.effect.trend.spearman == pytest.approx(0.8303568, abs=5e-7)
    assert (found.factor.unit, found.response.unit) == ("mph", "ft")


# --- two variables: breaks of warp threads (Tippett 1950, Technological Applications of Statistics; R's warpbreaks) -----------

BREAKS = {
    ("A", "L"): [26, 30, 54, 25, 70, 52, 51, 26, 67], ("A", "M"): [18, 21, 29, 17, 12, 18, 35, 30, 36], ("A", "H"): [36, 21, 24, 18, 10, 43, 28, 15, 26],
    ("B", "L"): [27, 14, 29, 19, 29, 31, 41, 20, 44], ("B", "M"): [42, 26, 19, 16, 39, 28, 21, 39, 29], ("B", "H"): [20, 21, 24, 17, 13, 15, 15, 16, 28],
}  # fmt: skip


def test_two_variables_as_published() -> None:
    cells = [(w, t, float(v)) for (w, t), values in BREAKS.items() for v in values]
    found = two_variables([v for *_, v in cells], [w for w, *_ in cells], [t for _, t, _ in cells], ("wool", "tension"))
    assert (found.p_first, found.p_second, found.p_interaction) == pytest.approx((0.0582130, 0.0006926, 0.0210442), abs=5e-7)
    assert found.says == "What wool does depends on tension (interaction p = 0.021)."


# --- survival against scipy's own intervals, and the exact test from the hypergeometric distribution -------------------------


@given(st.integers(1, 40).flatmap(lambda n: st.tuples(st.integers(0, n), st.just(n))))
def test_shares_against_scipy(counted: tuple[int, int]) -> None:
    k, n = counted
    found = share("a", k, n)
    test = stats.binomtest(k, n)
    for mine, method in ((found.wilson95, "wilson"), (found.exact95, "exact")):
        theirs = test.proportion_ci(0.95, method)
        assert mine == pytest.approx((theirs.low, theirs.high), abs=1e-9)


@given(st.lists(st.booleans(), min_size=1, max_size=12), st.lists(st.booleans(), min_size=1, max_size=12))
def test_fishers_exact_test_from_its_definition(a: list[bool], b: list[bool]) -> None:
    found = survival({"a": a, "b": b}, numeric=False).fisher[0].p
    kept, n = sum(a) + sum(b), len(a) + len(b)
    null = stats.hypergeom(n, kept, len(a))
    seen = null.pmf(sum(a))
    assert found == pytest.approx(sum(p for k in range(len(a) + 1) if (p := null.pmf(k)) <= seen * (1 + 1e-7)), rel=1e-6)


# --- power against statsmodels -----------------------------------------------------------------------------------------------


@settings(max_examples=40, deadline=None)
@given(st.floats(0.3, 3), st.integers(2, 30))
def test_power_against_statsmodels(d: float, n: int) -> None:
    theirs = TTestIndPower().power(d, n, 0.05)
    mine = power_of(n, d)
    assert mine is not None
    if math.isfinite(theirs):
        assert mine == pytest.approx(theirs, abs=1e-6)


@pytest.mark.parametrize("d", [0.5, 0.8, 1.0, 1.5])
def test_repeats_against_statsmodels(d: float) -> None:
    assert repeats_for(d) == pytest.approx(float(np.squeeze(TTestIndPower().solve_power(d, power=0.8, alpha=0.05))), abs=1e-4)


# --- units: exact definitions (NIST SP 811) as scipy's table of constants holds them ----------------------------------------


@pytest.mark.parametrize(
    ("unit", "si", "factor"),
    [
        ("in", "m", constants.inch), ("ft", "m", constants.foot), ("yd", "m", constants.yard), ("oz", "kg", constants.oz), ("lb", "kg", constants.pound),
        ("mph", "m/s", constants.mph), ("km/h", "m/s", constants.kmh), ("min", "s", constants.minute), ("h", "s", constants.hour), ("psi", "Pa", constants.psi),
        ("atm", "Pa", constants.atm), ("bar", "Pa", constants.bar), ("l", "m³", constants.liter), ("rad", "°", 180 / math.pi), ("in²", "m²", constants.inch**2),
    ],
)  # fmt: skip
def test_units_against_scipys_constants(unit: str, si: str, factor: float) -> None:
    assert convert(1.0, unit, si) == pytest.approx(factor, rel=1e-12)


@given(st.integers(0, 40), st.integers(0, 11), st.integers(0, 7))
def test_feet_inches_and_eighths_by_hand(feet: int, inches: int, eighths: int) -> None:
    written = f"{feet} ft {inches} {eighths}/8 in" if eighths else f"{feet} ft {inches} in"
    found = read(written, "length")
    assert found.si_value == pytest.approx((feet * 12 + inches + eighths / 8) * 0.0254, abs=1e-12)
