"""Thresholds, edges and formulas on both sides and by value, so that none of them moves unnoticed."""

from __future__ import annotations

import itertools
import math
import re
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError
from scipy import stats

from bendro.core.analyse import analyse, can_pair
from bendro.core.context import Context
from bendro.core.draft import TimingDraft
from bendro.core.judgement.checks import EXPLAINS, EXPLAINS_P, THUMB_SHARE
from bendro.core.judgement.deciding import by_p
from bendro.core.judgement.verdict import MOST_REPEATS
from bendro.core.judgement.working import how_mean
from bendro.core.planning.order import turns
from bendro.core.planning.plan import MOST_GROUPS, MOST_LEVELS, check
from bendro.core.planning.rehearsal import Model, modelled, play, rehearse
from bendro.core.readings.timers import FLAG_MADS, FLAG_SECONDS, MAD_SCALE
from bendro.core.statistics import trend as trends
from bendro.core.statistics.compare import places
from bendro.core.statistics.describe import grubbs_critical
from bendro.core.statistics.landing import straighter_without_loss
from bendro.core.statistics.power import repeats_needed
from bendro.core.statistics.shuffle import ARRANGEMENTS, shuffle_groups, shuffle_slope, shuffle_two
from bendro.core.trials import Trial
from bendro.core.written import ReadingLevel
from tests.conftest import DRAFT
from tests.core.test_nothing_untrue import plan, trials

# --- judging ---------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("p", "answer"),
    [(0.0, "clear"), (0.05, "clear"), (0.0501, "leaning"), (0.1, "leaning"), (0.1001, "cannot_tell"), (1.0, "cannot_tell"), (None, "cannot_tell")],
)
def test_answers_by_p(p: float | None, answer: str) -> None:
    assert by_p(p) == answer


def with_column(share_wanted: float) -> list[Trial]:
    """Two levels of twelve trials each, whose scatter within a level is explained by `group` to this share."""
    rng = np.random.default_rng(4)
    group = np.array([1.0, -1.0] * 6)
    noise = rng.normal(size=12)
    noise -= noise.mean()
    noise -= group * (noise @ group) / 12  # nothing of the noise goes with the group
    noise *= math.sqrt(12 * (1 - share_wanted)) / np.linalg.norm(noise)
    values = math.sqrt(share_wanted) * group + noise
    made, order = [], 0
    for i in range(12):
        for level, base in (("a", 10.0), ("b", 10.5)):
            order += 1
            made.append(Trial(level=level, value=base + float(values[i]), group="Red" if group[i] > 0 else "Blue", order=order, row=order))
    return made


@pytest.mark.parametrize(("share", "told"), [(EXPLAINS - 0.01, False), (EXPLAINS + 0.01, True), (0.9, True), (0.1, False)])
def test_from_which_share_a_column_explains_the_scatter(share: float, told: bool) -> None:
    found = analyse(with_column(share), Context(factor="f", response="r"))
    finding = next((f for f in found.audit if f.code == "column_explains_scatter"), None)
    assert (finding is not None) is told
    if finding is not None:
        assert finding.evidence["share"] == pytest.approx(share, abs=1e-9)
    assert (EXPLAINS, EXPLAINS_P) == (0.4, 0.01)


def test_a_column_explains_only_beyond_doubt() -> None:
    """Six trials of which a column takes half of the scatter: p is far above 0.01, so nothing is said."""
    rows = [Trial(level=lv, value=v, group=g, order=i, row=i) for i, (lv, v, g) in enumerate([("a", 1.0, "R"), ("b", 2.4, "R"), ("a", 1.6, "B"), ("b", 2.5, "B"), ("a", 1.2, "B"), ("b", 2.0, "R")])]
    assert "column_explains_scatter" not in [f.code for f in analyse(rows, Context(factor="f", response="r")).audit]


def two_levels_apart(d: float) -> list[Trial]:
    """Four readings at each of two levels, d standard deviations apart, in an order that explains nothing."""
    first, second = [1.0, 2.0, 3.0, 4.0], [3.0, 1.0, 4.0, 2.0]
    sd = float(np.std(first, ddof=1))
    return trials({"a": first, "b": [v + d * sd for v in second]})


@pytest.mark.parametrize(("d", "words"), [(1.1, "more trials at each level would settle"), (0.05, "would take more repeats than a class can run")])
def test_the_most_repeats_that_are_a_plan(d: float, words: str) -> None:
    found = analyse(two_levels_apart(d), Context(factor="f", response="r"))
    assert words in found.verdict.next
    assert MOST_REPEATS == 40


def test_how_many_more_is_what_has_power_for_the_seen_effect_less_what_is_there_and_two_at_least() -> None:
    """Beside the noncentral t of the library function, which does not know of the trials at hand: they speak for the effect already, so
    fewer may do, but not many fewer; for half of the effect no fewer."""
    for d in (1.1, 1.3):
        found = analyse(two_levels_apart(d), Context(factor="f", response="r"))
        assert found.verdict.answer == "cannot_tell"
        told = re.match(r"About (\d+) more trials at each level would settle a difference of that size(?:; about (\d+) one half as large|; one half as large would take more than 40)", found.verdict.next)
        assert told is not None, found.verdict.next
        least = (repeats_needed(d, 1.0) or 0) - 4
        assert max(0.7 * least, 2) <= int(told[1]) <= 3 * least
        assert told[2] is None or int(told[2]) > 2 * int(told[1])


def test_further_trials_of_a_plan_are_counted_with_the_stricter_bound() -> None:
    free, planned = (analyse(two_levels_apart(1.3), Context(factor="f", response="r", planned=p)).verdict.next for p in (False, True))
    first, second = (int(re.findall(r"\d+", text)[0]) for text in (free, planned))
    assert second > first


def test_devices_that_cannot_be_separated_share_a_place_in_words() -> None:
    close = {"a": [5.0, 5.1, 5.05, 5.02], "b": [5.04, 5.06, 5.1, 5.0], "c": [2.0, 2.1, 2.05, 2.02]}
    says = analyse(trials(close), Context(factor="device", response="distance", unit="m")).verdict.says
    assert "; a stands first. It cannot be told from b." in says or "; b stands first. It cannot be told from a." in says or "a and b stand first together" in says
    alone = {"a": [9.0, 9.1, 9.05, 9.02], "b": [5.04, 5.06, 5.1, 5.0], "c": [2.0, 2.1, 2.05, 2.02]}
    assert "; a is best. A and c differ by" in analyse(trials(alone), Context(factor="device", response="distance", unit="m")).verdict.says


def test_places_split_only_where_everyone_above_is_apart_from_everyone_below() -> None:
    from bendro.core.results import Pair

    def pair(a: str, b: str, p: float) -> Pair:
        return Pair(between=(a, b), estimate=1.0, ci95=None, p_adjusted=p)

    middles, names = [3.0, 2.0, 1.0], ["a", "b", "c"]
    assert places(names, middles, [pair("a", "b", 0.04), pair("a", "c", 0.04), pair("b", "c", 0.2)]) == (("a",), ("b", "c"))
    assert places(names, middles, [pair("a", "b", 0.2), pair("a", "c", 0.04), pair("b", "c", 0.2)]) == (("a", "b", "c"),)
    assert places(names, middles, [pair("a", "b", 0.05), pair("a", "c", 0.05), pair("b", "c", 0.05)]) == (("a", "b", "c"),)  # at the edge
    assert places(names, middles, [pair("a", "b", 0.01), pair("a", "c", 0.01), pair("b", "c", 0.01)], best_is="low") == (("c",), ("b",), ("a",))


@pytest.mark.parametrize(("shortest", "told"), [(0.99, True), (1.0, False), (1.01, False)])
def test_from_which_share_a_thumb_swamps_a_fall(shortest: float, told: bool) -> None:
    rows = trials({"a": [shortest] * 3, "b": [shortest + 0.4, shortest + 0.5, shortest + 0.41]})
    found = analyse(rows, Context(factor="f", response="t", unit="s", hand_timed=True))
    assert ("reaction_dominates" in [f.code for f in found.audit]) is told
    assert THUMB_SHARE == 0.1


@pytest.mark.parametrize(
    ("voids", "kept", "elsewhere", "told"),
    [
        # two voids at least, three in ten of the level's trials at least, twice the share elsewhere at least
        (2, 4, 0, True),
        (1, 2, 0, False),
        (2, 5, 0, False),
        (3, 7, 0, True),
        (3, 5, 1, True),
        (3, 5, 2, False),
    ],
)
def test_when_voids_pile_up(voids: int, kept: int, elsewhere: int, told: bool) -> None:
    rows = trials({"a": [1.0 + i / 10 for i in range(kept)], "b": [2.0 + i / 10 for i in range(6)]})
    rows += [Trial(level="a", state="void", fault="x", row=90 + i) for i in range(voids)]
    rows += [Trial(level="b", state="void", fault="x", row=95 + i) for i in range(elsewhere)]
    found = analyse(rows, Context(factor="f", response="r"))
    assert ("voids_pile_up" in [f.code for f in found.audit]) is told


def test_unequal_repeats_are_serious_from_half_on() -> None:
    def severity(few: int, many: int) -> str:
        found = analyse(trials({"a": [1.0 + i / 50 for i in range(few)], "b": [2.0 + i / 50 for i in range(many)]}), Context(factor="f", response="r"))
        return next(f.severity for f in found.audit if f.code == "unequal_repeats")

    assert (severity(3, 6), severity(4, 7), severity(5, 6)) == ("warn", "note", "note")


@pytest.mark.parametrize(("code", "n", "severity"), [("single_trial", 1, "stop"), ("few_repeats", 2, "warn"), (None, 3, None)])
def test_how_few_repeats_are_few(code: str | None, n: int, severity: str | None) -> None:
    found = analyse(trials({"a": [1.0, 1.1, 1.2][:n], "b": [2.0, 2.2, 2.1][:n]}), Context(factor="f", response="r"))
    few = {f.code: f.severity for f in found.audit if f.code in ("single_trial", "few_repeats")}
    assert few == ({} if code is None else {code: severity})


# --- numbers ---------------------------------------------------------------------------------------------------------


def test_the_working_of_a_sum_of_squares_by_value() -> None:
    rows = trials({"a": [1.0, 2.0, 4.0]})
    summary = analyse(rows, Context(factor="f", response="r", unit="m")).levels[0]

    def lines(reading: ReadingLevel) -> str:
        return "\n".join(how_mean(rows, "a", None, summary, unit="m", reading=reading).lines)

    # mean 7/3; squares 16/9 + 1/9 + 25/9 = 14/3; SD = √(14/3 ÷ 2) = 1.52753; t(0.975, 2) = 4.30265
    assert "√(4.66667 ÷ 2) = 1.52753 m" in lines("middle")
    assert "2.33333 ± 4.30265 × 1.52753 ÷ √3 = −1.46125 to 6.12792 m" in lines("senior")
    assert "half range = (largest − smallest) ÷ 2 = (4 − 1) ÷ 2 = 1.5 m" in lines("first")
    assert "SD" not in lines("first")
    assert f"{summary.quoted}" in lines("first")


@pytest.mark.parametrize(
    ("sizes", "arrangements", "exact"),
    [((8, 8), 12_870, True), ((8, 9), ARRANGEMENTS, False), ((7, 9), 11_440, True), ((4, 12), 1820, True), ((5, 20), ARRANGEMENTS, False)],
)
def test_up_to_where_every_arrangement_is_tried(sizes: tuple[int, int], arrangements: int, exact: bool) -> None:
    """C(16, 8) = 12,870 and C(17, 8) = 24,310 lie on either side of 20,000."""
    rng = np.random.default_rng(2)
    found = shuffle_two(rng.normal(size=sizes[0]), rng.normal(size=sizes[1]))
    assert found.exact is exact
    assert found.arrangements <= arrangements
    assert (found.seed is None) is exact


def test_exactly_twenty_thousand_would_still_be_tried(monkeypatch: pytest.MonkeyPatch) -> None:
    from bendro.core.statistics import shuffle

    for most, exact in ((70, True), (69, False)):
        monkeypatch.setattr(shuffle, "ARRANGEMENTS", most)
        assert shuffle.shuffle_two([1.0, 2.0, 3.0, 4.0], [5.0, 6.0, 7.0, 9.000003]).exact is exact


def test_three_groups_are_counted_as_every_way_of_dealing_them() -> None:
    found = shuffle_groups([[1.0, 2.0], [3.0, 5.0], [8.0, 9.0]])
    assert (found.arrangements, found.exact) == (90, True)  # 6! ÷ (2! 2! 2!)
    assert found.p == pytest.approx(6 / 90)  # the levels alone may change places
    slope = shuffle_slope([1.0, 2.0, 3.0, 4.0], [1.0, 2.0, 3.0, 4.5])
    assert (slope.arrangements, slope.p) == (24, pytest.approx(2 / 24))


@pytest.mark.parametrize(
    ("margin", "keeps"),
    [(1.0, True), (0.2, False)],
)
def test_the_two_measure_decision_by_value(margin: float, keeps: bool) -> None:
    """Straighter: |off| falls, by shuffle; the loss of distance at the interval's worst end against the margin (Welch)."""
    wild = ([5.0, 5.2, 4.9, 5.1, 5.05], [0.9, -0.8, 0.7, -1.0, 0.85])
    tame = ([4.8, 4.9, 5.0, 4.7, 4.85], [0.1, -0.05, 0.15, -0.1, 0.08])
    found = straighter_without_loss(wild, tame, margin)
    worst = stats.ttest_ind(wild[0], tame[0], equal_var=False).confidence_interval(0.95).high
    assert found.p_straighter == pytest.approx(2 / 252)
    assert found.loss == pytest.approx(0.2)
    assert found.worst_loss == pytest.approx(worst)
    assert (found.straighter, found.keeps_distance) == (True, keeps)
    assert (" and loses" if keeps else " but may lose") in found.says
    turned = straighter_without_loss(tame, wild, margin)
    assert turned.straighter is False  # the other way round it flies less straight, however small p is
    assert turned.p_straighter == found.p_straighter
    assert straighter_without_loss(wild, tame, float(worst)).keeps_distance is True  # the margin itself is bearable


def test_grubbs_critical_values_of_the_handbook() -> None:
    """Two-sided at 5 %, from the formula of NIST/SEMATECH e-Handbook 1.3.5.17.1 (given in the brief: 1.1543, 1.4812, 1.7150, 1.8871)."""
    for n, value in ((3, 1.1543), (4, 1.4812), (5, 1.7150), (6, 1.8871)):
        assert grubbs_critical(n) == pytest.approx(value, abs=1e-4)


def test_the_rule_for_timers_by_its_numbers() -> None:
    assert (FLAG_MADS, FLAG_SECONDS, MAD_SCALE) == (3.0, 0.15, 1.4826)


def test_a_rehearsals_curve_is_the_models_own() -> None:
    model = Model(true=lambda x: 2 + 3 * x, scatter=0.1, reading_error=0.3)
    found = play(model, [1.0, 4.0], 4, timers=1, seed=3)
    assert found.expected == (5.0, 14.0)
    assert found.sd == pytest.approx((math.hypot(0.5, 0.3), math.hypot(1.4, 0.3)))
    three = play(model, [1.0, 4.0], 4, timers=3, seed=3)
    assert three.sd == pytest.approx((math.hypot(0.5, 0.3 / math.sqrt(3)), math.hypot(1.4, 0.3 / math.sqrt(3))))
    assert len(found.readings) == 2
    assert all(len(row) == 4 for row in found.readings)


def test_forms_are_drawn_over_the_levels_tried() -> None:
    rows = trials({1.0: [1.0, 1.1], 2.0: [2.0, 2.1], 4.0: [4.0, 4.2]})
    form = trends.fit_trend(rows).forms[0]
    assert (form.curve[0][0], form.curve[-1][0], len(form.curve)) == (1.0, 4.0, trends.CURVE_POINTS + 1)
    assert form.curve[0][1] == pytest.approx(trends.value_at(form, 1.0))


# --- planning --------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("minutes", "fits"), [(0, True), (600, True), (600.1, False), (-0.1, False)])
def test_the_bounds_of_the_minutes_for_trials(minutes: float, fits: bool) -> None:
    if fits:
        assert TimingDraft(trials_min=minutes).trials_min == minutes
    else:
        with pytest.raises(ValidationError):
            TimingDraft(trials_min=minutes)


@given(st.integers(1, 7), st.integers(1, 7), st.integers(1, 12), st.sampled_from(["blocks", "listed", "random"]))
def test_groups_meet_every_level_as_evenly_as_the_counts_allow(groups: int, levels: int, repeats: int, order: Any) -> None:
    names, labels = [f"L{i}" for i in range(levels)], [f"G{i}" for i in range(groups)]
    met = dict.fromkeys(itertools.product(labels, names), 0)
    for t in turns(names, repeats, labels, order, 5):
        met[t.group, t.level] += 1
    for level in names:
        counts = [met[g, level] for g in labels]
        assert max(counts) - min(counts) <= 1, (level, counts)
    loads = [sum(met[g, lv] for lv in names) for g in labels]
    assert max(loads) - min(loads) <= 1


@pytest.mark.parametrize(
    ("change", "code", "grave"),
    [
        ({"repeats": 50}, None, False),
        ({"repeats": 51}, "repeats_range", True),
        ({"repeats": 3}, None, False),
        ({"repeats": 2}, "repeats_few", False),
        ({"groups": [f"g{i}" for i in range(MOST_GROUPS)]}, None, False),
        ({"groups": [f"g{i}" for i in range(MOST_GROUPS + 1)]}, "groups_many", True),
        ({"variable": {**DRAFT["variable"], "levels": [str(1 + i / 10) for i in range(MOST_LEVELS)]}}, None, False),
        ({"variable": {**DRAFT["variable"], "levels": [str(1 + i / 10) for i in range(MOST_LEVELS + 1)]}}, "levels_many", True),
        ({"groups": ["x" * 30]}, None, False),
        ({"groups": ["x" * 31]}, "group_blank", True),
    ],
)
def test_the_bounds_of_a_plan(change: dict[str, Any], code: str | None, grave: bool) -> None:
    found = {p.code: p.grave for p in check(plan(**change))}
    assert found == ({} if code is None else {code: grave})


def test_what_can_be_compared_within_a_column() -> None:
    def rows(**more: Any) -> list[Trial]:
        return [Trial(level=lv, value=1.0, group=g, **more) for g in ("R", "B") for lv in ("a", "b")]

    assert can_pair(rows(), "group")
    assert not can_pair(rows(), "person")  # nobody is named
    assert not can_pair(rows(kind="at_least"), "group")
    assert not can_pair(rows()[:3], "group")  # one group alone holds both levels
    assert not can_pair([*rows(), Trial(level="a", value=1.0)], "group")


def test_every_finding_that_names_trials_names_those_that_it_is_about() -> None:
    rows = trials({"a": [1.0, 1.1, 1.05, 1.02], "b": [2.0, 2.1, 2.05, 2.02]})
    rows = [r if r.row != 5 else Trial(level=r.level, value=r.value, order=r.order, block=r.block, row=5, note="load not reset", kind="estimate") for r in rows]
    acts = {f.code: f.act for f in analyse(rows, Context(factor="f", response="r")).audit}
    for code in ("instrument_not_reset", "estimated_mixed_with_measured"):
        act = acts[code]
        assert act is not None
        assert (act.kind, act.rows) == ("trials", (5,))


#: What the models expect at one value each, worked out by hand, in the measure's unit.
MODELLED = [
    ("spinner", "ring radius", "spin time", 2.0, 4 + 1.4 * 4),
    ("turbine", "blade pitch", "lifting time", 34.0, 6 + 0.012 * 100),
    ("protector", "crumple length", "stop time", 14.0, 50.0),
    ("vehicle", "push speed", "slide distance", 2.0, 4 / (2 * 0.27 * 9.81)),
    ("vehicle", "ramp height", "distance to rest", 20.0, 2.5),
]


@pytest.mark.parametrize(("family", "variable", "measure", "at", "expected"), MODELLED)
def test_a_model_expects_what_its_formula_gives(family: str, variable: str, measure: str, at: float, expected: float) -> None:
    model = modelled(family, variable, measure)
    assert model is not None
    assert model.true(at) == pytest.approx(expected)


def test_one_timer_is_the_usual_number_and_more_make_the_scatter_smaller() -> None:
    alone, again, three = (rehearse("spinner", "ring radius", "spin time", [2, 2.2], 12, seed=4, **n) for n in ({}, {"timers": 1}, {"timers": 3}))
    assert alone == again
    assert three != alone


def test_the_times_of_a_new_plan_are_those_that_its_page_names() -> None:
    fresh = TimingDraft()
    assert (fresh.trials_min, fresh.lanes, fresh.adults) == (25, 1, 1)
    assert (fresh.setup_s, fresh.flight_s, fresh.reading_s) == (20, 5, 20)
