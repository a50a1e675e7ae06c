"""Sentences and numbers that were untrue once: each stands here with the case that showed it."""

from __future__ import annotations

import io
import json
import re
import sys
from dataclasses import replace
from pathlib import Path
from typing import Any
from uuid import UUID, uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from bendro.core.analyse import analyse
from bendro.core.building.side_view import side_view
from bendro.core.building.version import RocketShape, VersionDraft, changes, differences, says_between
from bendro.core.context import Context
from bendro.core.draft import Draft, MeasureDraft
from bendro.core.errors import CalculationRefused, PlanRefused, ReadingRefused
from bendro.core.judgement.evidence import few_names
from bendro.core.judgement.wording import chance, percent
from bendro.core.measuring.out_of_line import ask_about, usual_range
from bendro.core.measuring.taking import take
from bendro.core.physics.calculators import calculate
from bendro.core.planning.lesson import lesson_of
from bendro.core.planning.order import turns
from bendro.core.planning.outlook import outlook
from bendro.core.planning.rota import make_rota
from bendro.core.planning.stock import Ran, take_stock
from bendro.core.planning.upgrade import PLAN_VERSION, read_plan, write_plan
from bendro.core.readings import combine, convert, read, step_of
from bendro.core.statistics.describe import at_place, describe, in_columns
from bendro.core.statistics.survival import survival
from bendro.core.trials import Trial
from bendro.terminal.commands import app
from tests.conftest import DRAFT

Rows = dict[Any, list[float]]


def trials(levels: Rows, **more: Any) -> list[Trial]:
    """Trials level by level in shuffled-like order (blocks), so that order and level are not mixed."""
    most = max((len(v) for v in levels.values()), default=0)
    made, order = [], 0
    for block in range(most):
        for level, values in levels.items():
            if block < len(values):
                order += 1
                made.append(Trial(level=level, value=values[block], order=order, block=str(block + 1), row=order, resolution=0.01, **more))
    return made


def ask(levels: Rows, **asked: Any) -> Any:
    return analyse(trials(levels), Context(**{"factor": "clay", "response": "distance", "unit": "m", "factor_unit": "g", **asked}))


# --- predictions -----------------------------------------------------------------------------------------------------

UP, DOWN = [2.0, 2.1, 2.05, 2.02], [3.0, 3.1, 3.05, 3.02]


@pytest.mark.parametrize(
    ("levels", "expect", "agrees"),
    [
        # two levels of a number: it rises or falls along the variable, whichever end is better
        ({0.0: UP, 10.0: DOWN}, "rises", True),
        ({0.0: UP, 10.0: DOWN}, "falls", False),
        ({0.0: DOWN, 10.0: UP}, "falls", True),
        # a hill is a best in the middle, a valley is none
        ({0.0: UP, 5.0: DOWN, 10.0: UP}, "peak", True),
        ({0.0: DOWN, 5.0: UP, 10.0: DOWN}, "peak", False),
        ({0.0: DOWN, 5.0: UP, 10.0: DOWN}, "rises", False),
        ({0.0: UP, 10.0: DOWN}, "none", False),
        # names: the level thought best, whatever its capitals
        ({"card": UP, "felt": DOWN}, "Felt", True),
        ({"card": UP, "felt": DOWN}, "card", False),
    ],
)
@pytest.mark.parametrize("reading", ["first", "middle", "senior"])
def test_the_prediction_is_held_against_what_happened(levels: Rows, expect: str, agrees: bool, reading: Any) -> None:
    said = ask(levels, expect=expect, reading=reading).verdict.prediction
    assert said is not None
    assert said.rstrip(".").removesuffix(" so far").endswith("the trials agree" if agrees else "do not agree"), said


def test_low_being_best_turns_a_valley_into_a_best_in_the_middle() -> None:
    found = ask({0.0: DOWN, 5.0: UP, 10.0: DOWN}, expect="peak", best_is="low")
    assert "agree" in str(found.verdict.prediction)
    assert "do not" not in str(found.verdict.prediction)
    assert found.effect.trend.forms[-1].optimum == pytest.approx(5.0, abs=0.5)


def test_no_optimum_is_offered_where_the_curve_turns_the_wrong_way() -> None:
    found = ask({0.0: DOWN, 5.0: UP, 10.0: DOWN})
    peak = next(f for f in found.effect.trend.forms if f.form == "peak")
    assert (peak.optimum, peak.optimum_ci95) == (None, None)
    assert found.verdict.says == "Distance is least in the middle of the levels tried, greater towards both ends."
    assert found.verdict.size is None


def test_levels_compared_within_blocks_still_rise_or_fall() -> None:
    rising = {0.0: [1.0, 2.0, 3.0, 4.0], 1.0: [1.5, 2.5, 3.52, 4.5], 2.0: [2.0, 3.01, 4.0, 5.0]}
    assert "the trials agree" in str(ask(rising, pair_by="block", expect="rises").verdict.prediction)
    assert "do not agree" in str(ask(rising, pair_by="block", expect="peak").verdict.prediction)


# --- sentences -------------------------------------------------------------------------------------------------------


def test_a_sentence_is_its_spans_read_one_after_the_other() -> None:
    for levels in ({0.0: UP, 10.0: DOWN}, {"a": UP, "b": DOWN, "c": UP}, {0.0: UP, 5.0: DOWN, 10.0: UP}, {"a": [1.0]}, {}):
        verdict = ask(levels).verdict
        headline, more = ("".join(s.text for s in spans) for spans in (verdict.spans, verdict.more))
        assert verdict.headline == headline
        assert verdict.says == " ".join(part for part in (headline, more) if part)
        if verdict.size is not None:
            assert verdict.size in [s.text for s in (*verdict.spans, *verdict.more) if s.holds == "size"]


def test_a_difference_through_bounds_is_at_least_and_never_about_at_least() -> None:
    rows = [*trials({"a": UP}), *trials({"b": [5.0, 5.1, 5.2, 5.3]}, kind="at_least")]
    says = analyse(rows, Context(factor="runner", response="distance", unit="m")).verdict.says
    assert "at least 3.11 m greater with b" in says
    assert "about at least" not in says
    # the smaller level is the bound: the difference can only be less
    rows = [*trials({"a": [5.0, 5.1, 5.2, 5.3]}), *trials({"b": UP}, kind="at_least")]
    assert "at most 3.1 m" in analyse(rows, Context(factor="runner", response="distance", unit="m")).verdict.says
    # bounds at both: no size at all
    rows = [*trials({"a": UP}, kind="at_least"), *trials({"b": [5.0, 5.1, 5.2, 5.3]}, kind="at_least")]
    says = analyse(rows, Context(factor="runner", response="distance", unit="m")).verdict.says
    assert "by how much cannot be told" in says or "cannot tell" in says


def test_survival_that_ends_at_one_height_says_so() -> None:
    rows = [Trial(level=h, outcome=o, row=i) for i, (h, o) in enumerate([(1.0, "survived"), (3.0, "survived"), (3.0, "failed"), (1.0, "survived")])]
    detail = analyse(rows, Context(factor="height", factor_unit="m", response="outcome")).verdict.detail
    assert detail == "At 3 m some survive and some fail, so the limit lies near it."
    apart = [Trial(level=h, outcome=o, row=i) for i, (h, o) in enumerate([(1.0, "survived"), (3.0, "failed")])]
    detail = analyse(apart, Context(factor="height", factor_unit="m", response="outcome")).verdict.detail
    assert detail == "The limit lies between 1 m (passed) and 3 m (failed)."


def _dropped(by_level: dict[float, str]) -> str | None:
    """Each letter one trial: s survived, f failed."""
    ends = [(level, {"s": "survived", "f": "failed"}[end]) for level, of in by_level.items() for end in of]
    return analyse([Trial(level=v, outcome=o, row=i) for i, (v, o) in enumerate(ends)], Context(factor="height", factor_unit="m", response="outcome")).verdict.detail


def test_a_limit_is_never_told_the_wrong_way_round() -> None:
    assert _dropped({1.0: "fff", 3.0: "sss"}) == "None survived up to 1 m, and all from 3 m on."
    assert _dropped({1.0: "fff", 2.0: "fff", 3.0: "sss", 4.0: "sss"}) == "None survived up to 2 m, and all from 3 m on."
    assert _dropped({1.0: "fff", 2.0: "sfs", 3.0: "sss"}) == "None survived up to 1 m, and all from 3 m on."
    assert _dropped({1.0: "fff", 3.0: "sff"}) == "Some survived above where others failed, so the limit is mixed: there is no bracket yet."


def test_a_smooth_curve_names_no_height_outside_the_bracket_of_its_own_sentence() -> None:
    """The shares pass one half between 1 and 2 m; a curve through all of them, of a shape they have not, would pass it at more."""
    rows = {0.5: "sss", 1.0: "sss", 2.0: "sff", 3.0: "sff", 4.0: "sff"}
    says = _dropped(rows)
    assert says is not None
    found = re.fullmatch(r"Half survive between 1 m and 2 m(?:, at about ([\d.]+) m by a smooth curve)?\.", says)
    assert found is not None, says
    assert found[1] is None or 1.0 <= float(found[1]) <= 2.0
    curve = survival({level: [c == "s" for c in of] for level, of in rows.items()}, numeric=True)
    assert (curve.half_height is not None and curve.half_height > 2.0) == (found[1] is None)
    inside = _dropped({1.0: "ssss", 2.0: "ssfs", 3.0: "sfff", 4.0: "ffff"})
    assert inside is not None
    assert re.search(r"at about 2\.\d+ m by a smooth curve", inside)


@pytest.mark.parametrize(
    ("names", "noun", "said"),
    [
        (["a"], "level", "a"),
        (list("abcd"), "level", "a, b, c and d"),
        (list("abcde"), "level", "a, b, c, d and 1 more level"),
        (list("abcdef"), "timer", "a, b, c, d and 2 more timers"),
    ],
)
def test_the_rest_of_many_names_is_counted(names: list[str], noun: str, said: str) -> None:
    assert few_names(names, noun) == said


@pytest.mark.parametrize(
    ("p", "arrangements", "exact", "said"),
    [
        (4 / 70, 70, True, "4 of 70"),
        (1.0, 20_000, False, "nearly all"),
        (0.995, 20_000, False, "nearly all"),
        (0.994, 20_000, False, "about 99 in 100"),
        (0.01, 20_000, False, "about 1 in 100"),
        (0.004, 20_000, False, "about 1 in 250"),
        (1 / 20_001, 20_000, False, "fewer than 1 in 20,000"),
    ],
)
def test_how_often_chance_would_do_it(p: float, arrangements: int, exact: bool, said: str) -> None:
    assert chance(p, arrangements, exact) == said


def test_a_percentage_has_one_space() -> None:
    assert percent(0.14) == "14 %"
    everything = json.dumps([ask({"a": UP, "b": DOWN}).model_dump(mode="json"), ask({}).model_dump(mode="json")])
    assert "  %" not in everything


def test_an_empty_table_is_not_called_clean() -> None:
    found = ask({})
    assert (found.audit, found.audit_checked) == ((), ())


def test_no_more_trials_are_asked_for_than_a_class_can_run() -> None:
    def advice(more: int) -> str:
        found = ask({"a": [1.0, 1.1, 1.2], "b": [2.0 + i / 100 for i in range(3 + more)]})
        return next(f.do for f in found.audit if f.code == "unequal_repeats")

    assert advice(1) == "Run 1 more at a."
    assert advice(20) == "Run 20 more at a."
    assert advice(21).startswith("Say in the conclusion that a rests on fewer trials")


def test_levels_that_do_not_differ_are_not_said_to_differ_by_nothing() -> None:
    found = ask({"a": [1.0, 1.0, 1.0], "b": [1.0, 1.0, 1.0]})
    says = next(f.says for f in found.audit if f.code == "resolution_too_coarse")
    assert "neither the levels nor the repeats differ by as much" in says
    assert "only 0" not in says


# --- numbers ---------------------------------------------------------------------------------------------------------


@given(st.integers(1, 99_999), st.sampled_from([("m", "cm", 100), ("m", "mm", 1000), ("kg", "g", 1000), ("cm", "mm", 10), ("ft", "in", 12)]))
def test_a_unit_is_changed_without_a_speck(n: int, units: tuple[str, str, int]) -> None:
    large, small, ratio = units
    value = n / 100
    assert convert(value, large, small) == float(f"{n * ratio / 100:.12g}")
    assert convert(convert(value, large, small), small, large) == value


def test_known_ratios_are_exact() -> None:
    """US customary foot 0.3048 m and inch 0.0254 m exactly (NIST SP 811)."""
    assert (convert(1, "ft", "m"), convert(1, "in", "m"), convert(12, "in", "ft")) == (0.3048, 0.0254, 1.0)
    assert read("4.52 m", "length").to("cm") == 452.0


@pytest.mark.parametrize("text", ["3.8 m ± -0.1", "3.8 m ± −0.1", "3.8 m ± 0", "3.8 m +/- 0 cm"])
def test_a_doubt_is_above_zero(text: str) -> None:
    with pytest.raises(ReadingRefused, match="a doubt after ± is above zero") as told:
        read(text, "length")
    assert told.value.code == "reading_doubt"
    assert read("3.8 m ± 0.1", "length").half_width == 0.1


@pytest.mark.parametrize("step", ["0", "-1", "0 cm", "about 1", "≥1"])
def test_a_tools_step_is_one_value_above_zero(step: str) -> None:
    with pytest.raises(ReadingRefused):
        read("4.52", "length", "m", tool_step=step)


def test_a_bare_step_is_in_the_plans_unit_whatever_the_reading_is_written_in() -> None:
    assert float(step_of("1", "length", "cm")) == 1
    measure = MeasureDraft(name="d", quantity="length", unit="cm", step="1")
    taken = take(measure, ["0.5 m"])
    assert taken is not None
    assert (taken.value, taken.resolution) == (50.0, 1.0)
    metres = take(measure, ["0.5"], unit="m")
    assert metres is not None
    assert metres.resolution == pytest.approx(0.01)
    assert metres.in_unit("cm").value == 50.0


def test_what_is_beyond_reading_is_told_in_digits() -> None:
    with pytest.raises(ReadingRefused) as told:
        read("1000000000000.5", "number", "")
    assert "1e+12" not in told.value.says
    assert " ." not in told.value.says
    assert "1,000,000,000,000" in told.value.says


@pytest.mark.parametrize(("value", "places", "text"), [(5.35, 1, "5.4"), (8.05, 1, "8.1"), (2.675, 2, "2.68"), (-0.04, 1, "0.0"), (1250, -2, "1300"), (0.5, 0, "1"), (-2.5, 0, "−3")])
def test_halves_are_rounded_as_by_hand(value: float, places: int, text: str) -> None:
    assert at_place(value, places) == text


def test_a_mean_has_the_decimals_of_its_readings_and_a_spread_two_figures() -> None:
    fine = [Trial(level="a", value=v, row=i, resolution=0.01) for i, v in enumerate([1.10, 1.11, 1.12])]
    wild = [Trial(level="b", value=v, row=i, resolution=0.01) for i, v in enumerate([1.0, 2.0, 3.1])]
    made = in_columns([describe("a", fine, unit="m"), describe("b", wild, unit="m")], unit="m")
    shown = [s.shown for s in made]
    assert [s.mean for s in shown if s] == ["1.11", "2.03"]
    assert [s.quoted for s in made] == ["1.11 m", "2.03 m"]
    assert [s.sd for s in shown if s] == ["0.010", "1.1"]
    assert [s.half_range for s in shown if s] == ["0.01", "1.05"]


@pytest.mark.parametrize(("result", "kind", "texts"), [("best", "exact", ["1.12", "3.10"]), ("total", "exact", ["3.33", "6.10"]), ("best", "at_least", ["≥ 1.12", "≥ 3.10"])])
def test_the_best_and_the_total_are_written_to_the_readings_decimals_with_their_mark(result: Any, kind: Any, texts: list[str]) -> None:
    fine = [Trial(level="a", value=v, row=i, resolution=0.01, kind=kind) for i, v in enumerate([1.10, 1.11, 1.12])]
    wild = [Trial(level="b", value=v, row=i, resolution=0.01, kind=kind) for i, v in enumerate([1.0, 2.0, 3.1])]
    made = in_columns([describe(x, t, unit="m", result=result) for x, t in (("a", fine), ("b", wild))], unit="m", result=result)
    assert [s.shown.result for s in made if s.shown] == texts


# --- timers and what is out of line ----------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("times", "flagged"),
    [
        # three scaled MADs (3 × 1.4826 × 0.10 = 0.445 s) and 0.15 s: further than both, never exactly at them
        ([2.0, 2.1, 2.2, 2.54], ()),
        ([2.00, 2.10, 2.20, 2.20, 2.66], (4,)),
        ([2.00, 2.10, 2.20, 2.20, 2.64], ()),
        ([2.10, 2.10, 2.25], ()),  # 0.15 s is the edge
        ([2.10, 2.10, 2.26], (2,)),
        ([2.10, 2.14, 12.1], (2,)),
        # of two it cannot be told which one slipped
        ([2.0, 2.5], ()),
        ([2.0, 2.51], (0, 1)),
        ([2.0], ()),
    ],
)
def test_which_timers_stand_apart(times: list[float], flagged: tuple[int, ...]) -> None:
    assert combine(times).flagged == flagged


LENGTH = MeasureDraft(name="distance", quantity="length", unit="m")
FOURS = [4.2, 4.4, 4.6]


@pytest.mark.parametrize(
    ("text", "others", "words"),
    [
        ("23", FOURS, None),  # five times the largest is the edge
        ("23.1", FOURS, "far from the others"),
        ("0.84", FOURS, None),
        ("0.83", FOURS, "far from the others"),
        ("452", FOURS, "Were centimetres written as metres"),
        ("46", FOURS, "Did the decimal mark slip"),
        ("99999", FOURS, "Is it what was read"),
        # without three others only what no school trial reads is asked about
        ("200", [4.2, 4.4], None),
        ("201", [4.2, 4.4], "more than a trial of this kind usually reads"),
        ("0.01", [], None),
    ],
)
def test_what_is_out_of_line_is_asked_about(text: str, others: list[float], words: str | None) -> None:
    taken = take(LENGTH, [text])
    assert taken is not None
    asked = ask_about(taken, others, "length", signed=False)
    assert asked is None if words is None else words in str(asked)


def test_below_zero_is_asked_about_until_something_was_below_zero() -> None:
    taken = take(LENGTH.model_copy(update={"signed": True}), ["-4"])
    assert taken is not None
    assert "below zero" in str(ask_about(taken, FOURS, "length", signed=True))
    assert ask_about(taken, [-3.0, 4.0, 5.0], "length", signed=True) is None
    assert usual_range([0.0, 4.0, 5.0], "length", "m", signed=False).low == 0.0


# --- what is done and what is left -----------------------------------------------------------------------------------

CASES = json.loads((Path(__file__).parent.parent / "drift" / "turn_cases.json").read_text())


@pytest.mark.parametrize("case", CASES, ids=[c["name"] for c in CASES])
def test_what_is_left_to_run(case: dict[str, Any]) -> None:
    """The cases are shared with the browser's own rule, which goes on while the server is away (web/src/machines/turns.test.ts)."""
    plan = turns(case["levels"], case["repeats"], [], case["order"], case["seed"])
    if at := case.get("sittings"):  # as the rota calls them
        plan = tuple(sorted((replace(t, sitting=at[t.position - 1]) for t in plan), key=lambda t: (t.sitting, t.position)))
    assert [(t.block, t.level) for t in plan] == [(t["block"], t["level"]) for t in case["turns"]]
    ran = [Ran(id=UUID(int=i), block=t["block"], level=t["level"], state=t["state"], outside=t.get("outside", "")) for i, t in enumerate(case["trials"])]
    stock = take_stock(plan, ran)
    assert [f"{t.block}:{t.level}" for t in stock.left] == case["left"]
    assert (stock.filled, stock.extra, stock.outside) == tuple(case["counts"])


@given(st.lists(st.tuples(st.integers(1, 4), st.sampled_from(["a", "b", "x"]), st.sampled_from(["kept", "void", "withdrawn"])), max_size=30))
def test_every_trial_has_one_place_and_every_turn_is_filled_or_left(made: list[tuple[int, str, str]]) -> None:
    plan = turns(["a", "b"], 3, [], "blocks", 7)
    ran = [Ran(id=uuid4(), block=b, level=lv, state=s) for b, lv, s in made]
    stock = take_stock(plan, ran)
    assert stock.filled + len(stock.left) == len(plan)
    kept = [r for r in ran if r.state == "kept" and stock.place[r.id] != "outside"]
    assert len(kept) == stock.filled + stock.extra
    assert set(stock.place) == {r.id for r in ran if r.state != "withdrawn"}
    assert all(stock.place[r.id] == "outside" for r in ran if r.id in stock.place and (r.level == "x" or r.block > 3))


def test_without_a_plan_nothing_is_outside_it() -> None:
    assert take_stock((), [Ran(id=uuid4(), block=9, level="a", state="kept")]).outside == 0


# --- plans of other versions -----------------------------------------------------------------------------------------


def test_a_plan_comes_back_as_it_was_written() -> None:
    draft = Draft.model_validate(DRAFT)
    assert read_plan(write_plan(draft)) == draft
    assert write_plan(draft)["schema_version"] == PLAN_VERSION


@pytest.mark.parametrize(
    ("plan", "bound"),
    [
        ({"variable": {"name": "pull-back"}, "limits": [{"name": "pull-back", "value": "6 cm"}]}, ("variable", "")),
        ({"variable": {"name": "gauge pressure"}, "limits": [{"name": "Pressure", "value": "2 bar"}]}, ("variable", "")),
        ({"drop": {"heights": ["1"]}, "limits": [{"name": "height", "value": "3 m"}]}, ("rungs", "")),
        ({"hold": [{"name": "drop height", "value": "2 m"}], "limits": [{"name": "height", "value": "3 m"}]}, ("held", "drop height")),
        ({"variable": {"name": "gauge pressure"}, "limits": [{"name": "max push", "value": "2 bar"}]}, ("", "max push")),
    ],
)
def test_a_limit_of_the_first_version_binds_to_what_it_bound_to(plan: dict[str, Any], bound: tuple[str, str]) -> None:
    limit = read_plan(plan).limits[0]
    assert (limit.on, limit.name) == bound


@pytest.mark.parametrize("plan", [{"retired": 1}, {"repeats": "many"}, {"limits": 3}, {"schema_version": 2, "limits": [{"of": 1}]}, {"variable": []}])
def test_a_plan_that_cannot_be_read_says_where(plan: dict[str, Any]) -> None:
    with pytest.raises(PlanRefused) as told:
        read_plan(plan)
    assert told.value.code == "plan_unreadable"


@pytest.mark.parametrize("version", [PLAN_VERSION + 1, 0, -1, "two", None])
def test_a_plan_of_a_newer_program_is_not_guessed_at(version: Any) -> None:
    with pytest.raises(PlanRefused, match="in version"):
        read_plan({"schema_version": version})


# --- building, rota, outlook -----------------------------------------------------------------------------------------


def test_two_fins_get_no_margin() -> None:
    """Barrowman's method weighs three fins or more (Barrowman 1966)."""

    def view(fins: str) -> Any:
        shape = RocketShape(nose_length="60 mm", body_diameter="24 mm", fins=fins, root="60 mm", tip="30 mm", span="40 mm", sweep="25 mm", fin_position="260 mm")
        return side_view(VersionDraft(shape=shape))

    assert view("3").pressure is not None
    assert view("2").pressure is None
    assert "3" in view("2").says[0]
    with pytest.raises(CalculationRefused):
        calculate("rocket-stability", [("nose", "cone"), *((k, v) for k, v in {"nose_length": "60 mm", "body_diameter": "24 mm", "fins": "2", "root": "60 mm", "tip": "30 mm", "span": "40 mm", "sweep": "25 mm", "fin_position": "260 mm", "balance_point": "0.2 m"}.items())])


def test_what_is_written_for_one_alone_is_not_called_the_same() -> None:
    found = differences(VersionDraft(mass="11 g"), VersionDraft())
    assert [(c.name, c.was, c.now) for c in found] == [("mass", "11 g", None)]
    assert says_between(found) == "Only mass is written for one and not for the other, so whether they differ in it cannot be told."
    assert differences(VersionDraft(mass="11 g"), VersionDraft(mass="0.011 kg")) == ()
    assert changes(VersionDraft(mass="11 g"), VersionDraft()) == ()  # a new version that is not weighed yet


def plan(**change: Any) -> Draft:
    return Draft.model_validate({**DRAFT, **change})


@pytest.mark.parametrize(
    ("kind", "planned", "rounds", "visits", "improve"),
    [
        # never more visits than a group has trials, and nothing is improved between the visits of a fair test
        ("fair_test", 9, 2, 2, 0),
        ("fair_test", 2, 3, 1, 0),
        ("fair_test", 6, 6, 3, 0),
        ("contest", 4, 3, 2, 0),
        ("design_rounds", 12, 3, 3, 5),
    ],
)
def test_how_often_a_group_comes_to_the_lane(kind: str, planned: int, rounds: int, visits: int, improve: int) -> None:
    lesson = lesson_of(plan(study_kind=kind, rota={"rounds": rounds, "improve_min": 5}), planned)
    assert (lesson.rounds, lesson.improve) == (visits, improve)


@pytest.mark.parametrize(
    ("lanes", "adults", "closed"),
    [
        (2, 2, ""),
        (2, 1, "Lane 2 stays closed: one adult is planned and each open lane needs one."),
        (4, 2, "Lanes 3 and 4 stay closed: 2 adults are planned and each open lane needs one."),
    ],
)
def test_a_lane_that_no_adult_can_open_is_named(lanes: int, adults: int, closed: str) -> None:
    d = plan(timing={"lanes": lanes, "adults": adults}, rota={"test_min": 4})
    assert make_rota(lesson_of(d, 9)).closed == closed


def test_what_is_expected_is_told_in_the_order_of_the_levels_with_their_unit() -> None:
    """A lifting time is best when it is short; the sentence still goes from the lower pitch to the higher."""
    d = plan(
        family="turbine",
        variable={"name": "blade pitch", "kind": "number", "quantity": "angle", "unit": "°", "levels": ["20", "40"]},
        measures=[{"name": "lifting time", "quantity": "time", "unit": "s", "rule": "r", "better": "low", "timed": True}],
        limits=[],
    )
    says = outlook(d, 1).expects
    assert says is not None
    assert says.startswith("Expect about 6.2 s at 20° and 9.1 s at 40°;")


# --- the terminal ----------------------------------------------------------------------------------------------------

ODD_TABLES = [
    "f,r\nd,~4\nd,3\nd,3\nc,3\nb,3\nb,3\n",
    "f,r\n3,~4\n1,~4\n2,~4\n1,3.8+\n",
    "f,r\na,1\n",
    "f,r\n1,0\n2,0\n3,0\n1,0\n",
]


@pytest.mark.parametrize("table", ODD_TABLES)
@pytest.mark.parametrize("evidence", ["shuffle", "interval"])
def test_no_library_speaks_on_standard_error(tmp_path: Path, table: str, evidence: str, monkeypatch: pytest.MonkeyPatch) -> None:
    """Warnings are errors in these tests, so a library that warns fails here."""
    file, told = tmp_path / "t.csv", io.StringIO()
    file.write_text(table)
    monkeypatch.setattr(sys, "stderr", told)
    done = CliRunner().invoke(app, ["analyse", str(file), "--factor", "f", "--response", "r", "--evidence", evidence, "--json"])
    assert (done.exit_code, told.getvalue()) == (0, "")


def test_the_terminals_json_holds_nothing_that_is_only_for_screens(tmp_path: Path) -> None:
    file = tmp_path / "t.csv"
    file.write_text("f,r\na,1.0\na,1.1\na,1.2\nb,2.0\nb,2.1\nb,2.2\nc,3.0\nc,3.1\nc,3.2\n")
    told = CliRunner().invoke(app, ["analyse", str(file), "--factor", "f", "--response", "r", "--json"])
    found = json.loads(told.stdout)
    assert set(found["effect"]["groups"]["pairs"][0]) == {"between", "estimate", "ci95", "p_adjusted"}
    assert found["effect"]["groups"]["places"] == [["c"], ["b"], ["a"]]
    for key in ("shown", "spans", "act", "reading_places"):
        assert f'"{key}"' not in told.stdout


def test_where_all_readings_are_equal_there_is_nothing_to_shuffle() -> None:
    for levels in ({"thin": [2.0] * 3, "thick": [2.0] * 3}, {"a": [2.0] * 3, "b": [2.0] * 3, "c": [2.0] * 3}):
        told = ask(levels)
        assert told.verdict.answer == "cannot_tell"
        assert told.verdict.detail.startswith("All readings are equal: there is nothing to shuffle.")
        assert "1 of 1" not in " ".join((told.verdict.says, told.verdict.detail, *told.in_numbers))


def test_of_levels_with_one_trial_it_is_said_how_many() -> None:
    every = ask({"thin": [2.0], "thick": [3.0]})
    assert any(f.says.startswith("Every level has only one kept trial. One trial shows no spread") for f in every.audit)
    one = ask({"thin": [2.0], "thick": [3.0, 3.1, 3.2]})
    assert any(f.says.startswith("1 of 2 levels has only one kept trial (thin).") for f in one.audit)
