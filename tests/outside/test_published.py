"""The main job against published numbers and foreign libraries; the source stands beside each check.

The two open data sets and the pairs are from R's package DAAG (Maindonald & Braun, Data Analysis and Graphics Using R;
GPL-3), kept as small CSV files; the NIST files are those that scipy ships with its tests.
"""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import scipy.stats
import statsmodels.api as sm
from statsmodels.stats.multicomp import pairwise_tukeyhsd
from statsmodels.stats.power import TTestIndPower

from bendro.core.analyse import analyse
from bendro.core.context import Context
from bendro.core.statistics.blocks import adjusted, blocked
from bendro.core.statistics.describe import grubbs_critical, odd_reading
from bendro.core.statistics.power import power_of, repeats_for
from bendro.core.statistics.survival import half_height, share, survival
from bendro.core.statistics.trend import line, peak, power
from bendro.core.trials import Trial
from tests.forked import starter

DATA = Path(__file__).parent / "data"
ROOT = DATA.parent.parent.parent


def cli(*words: str, code: int = 0) -> Any:
    done = starter.run("terminal", [*words, "--json"])
    assert done.returncode == code, done.stderr
    return json.loads(done.stdout)


def test_elastic_band_line() -> None:
    """DAAG elasticband: coefficients as printed by R's lm(distance ~ stretch)."""
    found = cli("analyse", str(DATA / "elasticband.csv"), "--factor", "stretch", "--response", "distance")
    form = next(f for f in found["effect"]["trend"]["forms"] if f["form"] == "line")
    assert form["coefficients"]["intercept"] == pytest.approx(-63.571, abs=5e-4)
    assert form["coefficients"]["slope"] == pytest.approx(4.5536, abs=5e-5)
    assert form["se"]["slope"] == pytest.approx(1.5432, abs=5e-5)
    assert (form["r2"], form["residual_sd"], form["p"]) == pytest.approx((0.6352, 16.332, 0.0319), abs=5e-4)
    assert found["levels"][0] == {**found["levels"][0], "level": 42, "n_kept": 1, "sd": None, "ci95": None, "half_range": None}
    assert "single_trial" in [f["code"] for f in found["audit"]]


def test_model_cars_line_and_levels() -> None:
    """DAAG modelcars: R's lm(distance.traveled ~ starting.point)."""
    found = cli("analyse", str(DATA / "modelcars.csv"), "--factor", "starting.point", "--response", "distance.traveled")
    form = next(f for f in found["effect"]["trend"]["forms"] if f["form"] == "line")
    assert form["coefficients"]["intercept"] == pytest.approx(8.0833, abs=5e-5)
    assert form["coefficients"]["slope"] == pytest.approx(2.0139, abs=5e-5)
    assert (form["se"]["slope"], form["r2"]) == pytest.approx((0.1312, 0.9593), abs=5e-5)
    assert [s["mean"] for s in found["levels"]] == pytest.approx([13.5, 20.958, 26.5, 31.792], abs=5e-4)
    assert found["verdict"]["answer"] == "clear"


def test_model_cars_as_groups_against_statsmodels() -> None:
    found = cli(
        "analyse", str(DATA / "modelcars.csv"), "--factor", "starting.point", "--response", "distance.traveled", "--treat-as", "group"
    )
    cells = [line.split(",") for line in (DATA / "modelcars.csv").read_text().splitlines()[1:]]
    foreign = pairwise_tukeyhsd([float(c[0]) for c in cells], [float(c[1]) for c in cells])
    ours = [p["p_adjusted"] for p in found["effect"]["groups"]["pairs"]]
    assert ours == pytest.approx(list(foreign.pvalues), abs=2e-4)
    assert found["effect"]["groups"]["places"] == [[12.0], [9.0], [6.0], [3.0]]


def test_paired_bands() -> None:
    """DAAG pair65, heated against ambient: Maindonald & Braun, section on paired comparisons."""
    found = cli("analyse", str(DATA / "pair65.csv"), "--factor", "treatment", "--response", "stretch", "--pair-by", "band")
    d = found["effect"]["difference"]
    assert found["effect"]["kind"] == "paired"
    assert d["paired"] is True
    assert (d["estimate"], *d["ci95"]) == pytest.approx((6.333, 1.642, 11.025), abs=5e-4)
    assert (d["t"], d["p_t"]) == pytest.approx((3.113, 0.0144), abs=5e-4)


def test_two_timed_falls_against_scipy() -> None:
    """Values worked out twice before the project began, and scipy's own Welch test."""
    a, b = [1.21, 1.34, 1.28, 1.40], [1.35, 1.49, 1.52, 1.44]
    rows = [Trial(level=n, value=v) for n, values in (("a", a), ("b", b)) for v in values]
    effect = analyse(rows, Context(factor="band", response="time", unit="s")).effect
    assert effect.kind == "difference"
    d = effect.difference
    assert (d.estimate, *d.ci95) == pytest.approx((0.1425, 0.0073, 0.2777), abs=5e-5)  # type: ignore[misc]
    assert (d.t, d.df, d.p_t) == pytest.approx((2.5847, 5.952, 0.0418), abs=5e-4)
    assert d.p_shuffle == pytest.approx(4 / 70)
    foreign = sm.stats.CompareMeans.from_data(b, a).tconfint_diff(usevar="unequal")
    assert d.ci95 == pytest.approx(foreign)


# --- NIST Statistical Reference Datasets, as shipped by scipy -------------------------------------------------------------

NIST = Path(scipy.stats.__file__).parent / "tests" / "data"
# The averages of SmLs07 to SmLs09 stand on a leading 10^12; NIST itself says double precision keeps few digits there.
ANOVA = [
    ("SiRstv.dat", 1e-11),
    ("SmLs01.dat", 1e-11),
    ("SmLs02.dat", 1e-11),
    ("SmLs03.dat", 1e-11),
    ("AtmWtAg.dat", 1e-9),
    ("SmLs04.dat", 1e-9),
    ("SmLs05.dat", 1e-9),
    ("SmLs06.dat", 1e-9),
    ("SmLs07.dat", 1e-3),
    ("SmLs08.dat", 1e-3),
    ("SmLs09.dat", 1e-3),
]


@pytest.mark.parametrize(("name", "tolerance"), ANOVA)
def test_nist_one_way_anova(name: str, tolerance: float) -> None:
    """NIST StRD, one-way analysis of variance: certified F."""
    text = (NIST / "nist_anova" / name).read_text()
    certified = float(re.search(r"Between \w+\s+\d+\s+\S+\s+\S+\s+(\S+)", text).group(1))  # type: ignore[union-attr]
    numbers = [line.split() for line in text.splitlines()[60:] if re.match(r"^\s*\d+\s+[\d.Ee+-]+\s*$", line)]
    rows = [Trial(level=f"level {int(g)}", value=float(v)) for g, v in numbers]
    assert len(rows) > 20
    from bendro.core.statistics.compare import three_or_more

    levels: dict[Any, list[Trial]] = {}
    for row in rows:
        levels.setdefault(row.level, []).append(row)
    assert three_or_more(levels).f == pytest.approx(certified, rel=tolerance)


def test_nist_norris_line() -> None:
    """NIST StRD, linear regression, Norris: certified coefficients, their SDs, the residual SD and r²."""
    data = np.array([[float(v) for v in r.split()] for r in (NIST / "nist_linregress" / "Norris.dat").read_text().splitlines()[60:96]])
    form = line(data[:, 1], data[:, 0])
    assert form.coefficients["intercept"] == pytest.approx(-0.262323073774029, rel=1e-10)
    assert form.coefficients["slope"] == pytest.approx(1.00211681802045, rel=1e-12)
    assert (form.se["intercept"], form.se["slope"]) == pytest.approx((0.232818234301152, 0.429796848199937e-03), rel=1e-9)
    assert (form.residual_sd, form.r2) == pytest.approx((0.884796396144373, 0.999993745883712), rel=1e-9)


# --- handbook values and other libraries -----------------------------------------------------------------------------------


def test_grubbs_critical_values() -> None:
    """Grubbs 1969, table 1, two-sided 5 %; and the worked example of NIST/SEMATECH e-Handbook 1.3.5.17.1."""
    assert [grubbs_critical(n) for n in (3, 4, 5, 6)] == pytest.approx([1.1543, 1.4812, 1.7150, 1.8871], abs=1e-4)
    tietjen = [199.31, 199.53, 200.19, 200.82, 201.92, 201.95, 202.18, 245.57]
    assert grubbs_critical(8) == pytest.approx(2.1266, abs=5e-4)  # two-sided; the handbook's 2.032 is the one-sided value
    assert odd_reading(tietjen) == 7


def test_repeats_for_a_wanted_difference() -> None:
    """Power 0.8 at 5 %: values worked out before, and statsmodels' TTestIndPower by another road."""
    assert [repeats_for(d) for d in (1, 1.5, 2, 2.5)] == pytest.approx([16.7, 8.06, 5.09, 3.76], abs=0.02)
    foreign = TTestIndPower()
    for n, d in ((4, 1.2), (8, 0.9), (20, 0.4)):
        assert power_of(n, d) == pytest.approx(float(foreign.power(d, n, 0.05)), abs=1e-9)


def test_survival_shares() -> None:
    """Wilson 1927 and Clopper & Pearson 1934; the second also from scipy's beta quantiles."""
    assert share("a", 0, 3).wilson95 == pytest.approx((0, 0.5615), abs=5e-5)
    assert share("a", 0, 3).exact95 == pytest.approx((0, 0.7076), abs=5e-5)
    assert share("a", 2, 5).wilson95 == pytest.approx((0.1176, 0.7693), abs=5e-5)
    assert share("a", 2, 5).exact95 == pytest.approx((scipy.stats.beta.ppf(0.025, 2, 4), scipy.stats.beta.ppf(0.975, 3, 3)))
    assert share("a", 3, 3).wilson95 == pytest.approx((0.4385, 1), abs=5e-5)
    assert share("a", 3, 3).exact95 == pytest.approx((0.2924, 1), abs=5e-5)


def test_lady_tasting_tea() -> None:
    """Fisher 1935, The Design of Experiments, chapter 2: 3 of 4 right has the two-sided p 34/70."""
    found = survival({"first": [True, True, True, False], "second": [True, False, False, False]}, numeric=False)
    assert found.fisher[0].p == pytest.approx(34 / 70)


def test_half_height_against_statsmodels_logit() -> None:
    rungs = {1.0: [True] * 4, 1.6: [True, True, True, False], 2.4: [True, False, True, False], 3.2: [False, False, True, False]}
    x = [h for h, o in rungs.items() for _ in o]
    y = [float(v) for o in rungs.values() for v in o]
    fit = sm.Logit(y, sm.add_constant(x)).fit(disp=0)
    middle, interval = half_height(rungs)
    assert middle == pytest.approx(-fit.params[0] / fit.params[1], rel=1e-6)
    assert interval is not None
    assert interval[0] < middle < interval[1]  # type: ignore[operator]


def test_separated_ladder_gives_the_bracket_and_no_estimate() -> None:
    found = survival({1.0: [True, True], 1.6: [True, True], 2.4: [False, False]}, numeric=True)
    assert (found.half_height, found.bracket, found.separated) == (None, (1.6, 2.4), True)


def test_blocks_against_balanced_two_way_sums() -> None:
    """Box, Hunter & Hunter, Statistics for Experimenters, penicillin yield in randomized blocks (from memory): treatments
    F = 1.24 on 3 and 12, blocks are blends."""
    blends = {"1": [89, 88, 97, 94], "2": [84, 77, 92, 79], "3": [81, 87, 87, 85], "4": [87, 92, 89, 84], "5": [79, 81, 80, 88]}
    values = [float(v) for row in blends.values() for v in row]
    found = blocked(values, ["A", "B", "C", "D"] * 5, [b for b in blends for _ in range(4)])
    assert found.f == pytest.approx(1.24, abs=5e-3)
    assert found.df == (3.0, 12.0)
    # the direct sums of squares, without a model
    table = np.array(list(blends.values()), float)
    rest = table - table.mean(0) - table.mean(1, keepdims=True) + table.mean()
    assert found.f == pytest.approx((5 * ((table.mean(0) - table.mean()) ** 2).sum() / 3) / ((rest**2).sum() / 12))
    assert found.friedman is not None
    assert found.friedman.chi2 == pytest.approx(float(scipy.stats.friedmanchisquare(*table.T).statistic))


def test_covariate_against_residual_sums() -> None:
    """The level's F given the covariate equals the drop in residual sum of squares between two plain regressions."""
    rng = np.random.default_rng(7)
    x = rng.uniform(0, 10, 24)
    level = np.repeat(["a", "b", "c"], 8)
    y = 2 + 1.5 * x + (level == "b") * 0.8 + (level == "c") * 1.1 + rng.normal(0, 0.6, 24)
    found = adjusted(list(y), list(level), list(x), "angle")
    ones = np.ones(24)
    full = sm.OLS(y, np.column_stack([ones, level == "b", level == "c", x]).astype(float)).fit()
    less = sm.OLS(y, np.column_stack([ones, x])).fit()
    assert found.f == pytest.approx((less.ssr - full.ssr) / 2 / (full.ssr / 20))
    assert found.adjusted_for is not None
    assert (found.adjusted_for.slope, found.adjusted_for.slope_se) == pytest.approx((full.params[3], full.bse[3]))
    assert found.pairs[0].estimate == pytest.approx(full.params[1])


def test_power_law_and_peak_against_polyfit() -> None:
    x, y = np.array([1.0, 2, 3, 4, 5, 6]), np.array([1.1, 4.2, 8.7, 16.4, 24.6, 36.5])
    form = power(x, y)
    slope, intercept = np.polyfit(np.log(x), np.log(y), 1)
    assert form is not None
    assert (form.coefficients["exponent"], form.coefficients["scale"]) == pytest.approx((slope, np.exp(intercept)))
    up = np.array([2.0, 3.1, 3.6, 3.5, 2.9, 2.0])
    c, b, a = np.polyfit(x, up, 2)
    bent = peak(x, up)
    assert bent is not None
    assert [bent.coefficients[k] for k in "abc"] == pytest.approx([a, b, c])
    assert bent.optimum == pytest.approx(-b / (2 * c))
