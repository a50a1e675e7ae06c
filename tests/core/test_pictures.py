"""What the pictures beside a verdict draw, against libraries used another way and by hand."""

from __future__ import annotations

import math

import numpy as np
import pytest
import statsmodels.api as sm

from bendro.core.analyse import analyse, evidence_of
from bendro.core.conclusion.pictures import crossed_of, fit_of, heats_of, landed_of, order_of
from bendro.core.context import Context
from bendro.core.results import TrendEffect
from bendro.core.statistics.trend import band_of
from bendro.core.trials import Trial

#: Anscombe's first set (Anscombe 1973, American Statistician 27, 17-21), as printed there.
X = [10.0, 8.0, 13.0, 9.0, 11.0, 14.0, 6.0, 4.0, 12.0, 7.0, 5.0]
Y = [8.04, 6.95, 7.58, 8.81, 8.33, 9.96, 7.24, 4.26, 10.84, 4.82, 5.68]


def line_of(x: list[float], y: list[float]) -> tuple[list[Trial], TrendEffect]:
    rows = [Trial(level=a, value=b, order=n, row=n) for n, (a, b) in enumerate(zip(x, y, strict=True), 1)]
    effect = analyse(rows, Context(factor="x", response="y", forms=("line",), treat_as="number")).effect
    assert isinstance(effect, TrendEffect)
    return rows, effect


def test_the_misses_and_the_band_of_a_line_are_the_librarys() -> None:
    rows, effect = line_of(X, Y)
    fit = fit_of(rows, effect)
    assert fit is not None
    model = sm.OLS(Y, sm.add_constant(X)).fit()
    assert [d.y for d in fit.misses] == pytest.approx(list(model.resid))
    assert [(d.trial, d.x) for d in fit.misses][:2] == [(1, 10.0), (2, 8.0)]
    assert fit.spread == pytest.approx(math.sqrt(model.mse_resid))
    at = [b[0] for b in fit.band]
    expected = model.get_prediction(sm.add_constant(np.array(at))).conf_int(alpha=0.05)
    assert np.array([b[1:] for b in fit.band]) == pytest.approx(expected)


@pytest.mark.parametrize("form", ["proportional", "peak", "power"])
def test_the_band_of_the_other_forms_is_the_librarys(form: str) -> None:
    x = np.array(X)
    columns = {"proportional": lambda v: v[:, None], "peak": lambda v: np.column_stack([np.ones_like(v), v, v**2]), "power": lambda v: sm.add_constant(np.log(v))}[form]
    y = np.log(Y) if form == "power" else np.array(Y)
    found = band_of(form, X, Y)  # type: ignore[arg-type]
    at = np.array([b[0] for b in found])
    expected = sm.OLS(y, columns(x)).fit().get_prediction(columns(at)).conf_int(alpha=0.05)
    assert np.array([b[1:] for b in found]) == pytest.approx(np.exp(expected) if form == "power" else expected)


def test_nothing_misses_a_bound_and_two_points_leave_no_band() -> None:
    rows, effect = line_of([1.0, 1.0, 2.0], [1.0, 1.2, 2.0])
    bounded = [*rows[:2], Trial(level=2.0, value=2.0, kind="at_least", order=3, row=3)]
    found = analyse(bounded, Context(factor="x", response="y", treat_as="number")).effect
    assert isinstance(found, TrendEffect)
    assert fit_of(bounded, found) is None
    assert band_of("line", [1.0, 2.0], [1.0, 2.0]) == ()
    assert fit_of([], effect) is None


def test_in_order_each_reading_stands_less_its_levels_mean_with_the_slope_of_the_model() -> None:
    values = {"a": [(1, 4.0), (4, 4.3), (5, 4.5)], "b": [(2, 6.0), (3, 6.1), (6, 6.6)]}
    rows = [Trial(level=level, value=v, order=n, row=n) for level, of in values.items() for n, v in of]
    asked = Context(factor="f", response="r")
    order = order_of(evidence_of(rows, analyse(rows, asked), asked))
    assert order is not None
    assert {(d.trial, round(d.y, 6)) for d in order.dots} == {(n, round(v - sum(w for _, w in of) / 3, 6)) for of in values.values() for n, v in of}
    model = sm.OLS([r.value for r in rows], np.array([[1.0, r.level == "b", r.order] for r in rows], float)).fit()
    assert (order.slope, order.p) == (pytest.approx(model.params[2]), pytest.approx(model.pvalues[2]))
    alone = [Trial(level="a", value=1.0, row=1)]
    assert order_of(evidence_of(alone, analyse(alone, asked), asked)) is None


def test_landings_have_their_middle_and_the_ring_that_holds_half() -> None:
    (found,) = landed_of({"a": [(1, 4.0, -0.3), (2, 4.0, 0.1), (3, 4.0, 0.2)], "b": []})
    assert (found.along, found.off, found.mean_off) == (4.0, pytest.approx(0.0), pytest.approx(0.2))
    assert found.half_radius == pytest.approx(0.2)  # of 0.1, 0.2 and 0.3 from the middle
    assert [(d.trial, d.x, d.y) for d in found.dots] == [(1, 4.0, -0.3), (2, 4.0, 0.1), (3, 4.0, 0.2)]


def test_both_variables_give_a_mean_for_each_pair_of_settings() -> None:
    cells = crossed_of([(4.0, 10.0, "felt"), (4.4, 10.0, "felt"), (6.0, 20.0, "felt"), (5.0, 10.0, "wood")])
    assert [(c.first, c.second, round(c.mean, 6), c.trials) for c in cells] == [(10.0, "felt", 4.2, 2), (20.0, "felt", 6.0, 1), (10.0, "wood", 5.0, 1)]


def test_heats_give_mean_places_and_only_whole_heats_count() -> None:
    times = {"1": (1.2, 1.5, 1.4), "2": (1.3, 1.3, 1.6), "3": (1.1, 1.4, 1.5)}
    rows = [Trial(level="abc"[i], value=v, block=b, row=1) for b, of in times.items() for i, v in enumerate(of)]
    found = heats_of([*rows, Trial(level="a", value=0.1, block="4", row=9)], best_is="low")
    assert found is not None
    # places by hand: 1 3 2; 1½ 1½ 3; 1 2 3
    assert [(p.level, round(p.mean_rank, 4)) for p in found.places] == [("a", round(3.5 / 3, 4)), ("b", round(6.5 / 3, 4)), ("c", round(8 / 3, 4))]
    assert found.heats == 3
    assert heats_of(rows, best_is="high") != found
    assert heats_of(rows[:3], best_is="low") is None
    assert heats_of([*rows, Trial(level="a", value=2.0, kind="at_least", block="1", row=9)], best_is="low") is None
