"""Problems for pupils: every answer that can be chosen or written is marked rightly, tried by enumeration."""

from __future__ import annotations

import math
import statistics

import pytest

from bendro.core.errors import CoreError, ReadingRefused
from bendro.core.practice.items import FLAWS, GOOD_THUMB_S, KINDS, MOST_SEED, Row, item, mark

SEEDS = range(24)


def flaw_by_eye(rows: tuple[Row, ...]) -> str:
    """What is unfair in a table, found without the core."""
    levels = list(dict.fromkeys(r.level for r in rows))
    of = {level: [r for r in rows if r.level == level] for level in levels}
    if len({len(v) for v in of.values()}) > 1:
        return "unequal_repeats"
    if len({r.held for r in rows}) > 1:
        return "control_not_held"
    if all(len({r.person for r in v}) == 1 for v in of.values()):
        return "person_mixed_with_level"
    if [r.level for r in rows] == [r.level for level in levels for r in of[level]]:
        return "order_mixed_with_level"
    return "fair"


def test_exactly_one_flaw_is_right_and_it_is_the_one_that_is_there() -> None:
    seen = set()
    for seed in SEEDS:
        one = item("unfair", seed)
        right = [c.id for c in one.choices if mark("unfair", seed, c.id).right]
        assert right == [flaw_by_eye(one.rows)]
        seen.add(right[0])
    assert seen == {code or "fair" for code in FLAWS}


def test_a_tape_is_right_to_its_step_only() -> None:
    for seed in SEEDS:
        one = item("tape", seed)
        assert one.value is not None
        assert one.step is not None
        assert one.span is not None
        assert one.span[0] < one.value < one.span[1]
        assert mark("tape", seed, f"{one.value:g} {one.unit}").right
        assert mark("tape", seed, f"{one.value:g}").right
        for off in (-2, -1, 1, 2):
            assert not mark("tape", seed, f"{one.value + off * one.step:.6g}").right
        ten = mark("tape", seed, f"{one.value * 10:.6g}")
        assert "slipped" in ten.says
    assert "finer than this tape" in mark("tape", 0, f"{item('tape', 0).value:.4f}").says


def test_a_fall_is_marked_by_how_near_the_thumb_comes() -> None:
    for seed in SEEDS:
        known = item("fall", seed).value
        assert known is not None
        height = 9.80665 * known**2 / 2  # m, from rest
        assert 1.19 < height < 11.01
        for off in (-0.19, 0.0, 0.19):
            assert mark("fall", seed, f"{known + off:.3f} s").right
        assert math.isclose(GOOD_THUMB_S, 0.2)
        assert "too long" in mark("fall", seed, f"{known + 0.3:.2f} s").says
        assert "too short" in mark("fall", seed, f"{known - 0.3:.2f} s").says


def test_different_or_luck_goes_by_the_judge_and_both_come() -> None:
    truths = []
    for seed in SEEDS:
        one = item("luck", seed)
        a, b = ([r.value for r in one.rows if r.level == name] for name in "AB")
        right = [c.id for c in one.choices if mark("luck", seed, c.id).right]
        assert len(right) == 1
        if max(a) < min(b) or max(b) < min(a):  # five against five apart: 2 of 252 arrangements
            assert right == ["different"]
        truths += right
    assert set(truths) == {"different", "luck"}


def test_the_average_leaves_the_void_out_and_names_the_slip() -> None:
    for seed in SEEDS:
        rows = item("average", seed).rows
        kept, (void,) = [r.value for r in rows if not r.void], [r.value for r in rows if r.void]
        assert mark("average", seed, f"{statistics.fmean(kept):.2f} m").right
        assert mark("average", seed, f"{statistics.fmean([*kept, void]):.2f}").says == "A void trial was counted in."
        assert mark("average", seed, f"{sum(kept):.1f}").says.startswith("The readings were added but not divided")


def test_a_number_brings_the_same_problem_back_and_others_are_refused() -> None:
    for kind in KINDS:
        assert item(kind, 7) == item(kind, 7)
        assert item(kind, 7) != item(kind, 8)
        for bad in (-1, MOST_SEED + 1):
            with pytest.raises(CoreError) as no:
                item(kind, bad)
            assert no.value.code == "practice_seed"
    with pytest.raises(ReadingRefused):
        mark("tape", 1, "about there")
