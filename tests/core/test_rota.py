"""The rota against small cases with known best answers, against every order tried by hand, and against what must always hold."""

from __future__ import annotations

import itertools
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bendro.core.errors import PlanRefused
from bendro.core.planning.lesson import seated
from bendro.core.planning.order import Turn, in_heats, in_lanes, turns
from bendro.core.planning.rota import Lesson, Rota, make_rota, plain_starts, shortest_possible


def lesson(count: int = 4, **change: Any) -> Lesson:
    given = {"lanes": 2, "adults": 2, "adult_needed": True, "build": 10, "test": 5, "improve": 5, "rounds": 2, "tidy": 5, "minutes": 50}
    return Lesson(**{"groups": tuple(f"G{i}" for i in range(1, count + 1)), **given, **change})


def nobody_in_two_places(rota: Rota) -> bool:
    for who in ("group", "lane", "adult"):
        seen: dict[object, list[tuple[int, int]]] = {}
        for s in rota.sittings:
            if getattr(s, who) is not None:
                seen.setdefault(getattr(s, who), []).append((s.start, s.end))
        for spans in seen.values():
            spans.sort()
            if any(a[1] > b[0] for a, b in itertools.pairwise(spans)):
                return False
    return True


def best_by_trying(one: Lesson) -> int:
    """Every order of all visits, each placed as early as it can be: the shortest of them is the shortest there is."""
    visits = [g for g in range(len(one.groups)) for _ in range(one.rounds)]
    best = 10**6
    for order in set(itertools.permutations(visits)):
        free, ready = [one.build] * one.open_lanes, [one.build] * len(one.groups)
        end = 0
        for g in order:
            lane = min(range(len(free)), key=lambda i: free[i])
            start = max(free[lane], ready[g])
            free[lane] = start + one.test
            ready[g] = start + one.test + one.improve
            end = max(end, start + one.test)
        best = min(best, end)
    return best + one.tidy


# --- known best answers ----------------------------------------------------------------------------------------------


def test_one_group_goes_straight_through() -> None:
    found = make_rota(lesson(1))
    assert (found.needs, found.best) == (10 + 5 + 5 + 5 + 5, True)
    assert [(s.what, s.start, s.end) for s in found.sittings] == [
        ("build", 0, 10),
        ("test", 10, 15),
        ("improve", 15, 20),
        ("test", 20, 25),
        ("tidy", 25, 30),
    ]


def test_two_groups_on_one_lane_test_while_the_other_improves() -> None:
    # 10 build, then A B A B of 5 each without a gap, 5 tidy
    found = make_rota(lesson(2, lanes=1, adults=1))
    assert (found.needs, found.best, found.fits) == (35, True, True)


def test_the_adults_and_not_the_lanes_decide_how_many_are_open() -> None:
    crowded = make_rota(lesson(4, lanes=4, adults=1, minutes=100))
    assert crowded.needs == 10 + 8 * 5 + 5
    assert {s.lane for s in crowded.sittings if s.what == "test"} == {1}
    free = make_rota(lesson(4, lanes=4, adults=0, adult_needed=False))
    assert free.needs == 30
    assert all(s.adult is None for s in free.sittings)


def test_what_cannot_fit_says_by_how_much_and_what_would_make_it_fit() -> None:
    found = make_rota(lesson(6, lanes=1, adults=1, test=4, minutes=50))
    assert (found.fits, found.needs, found.over) == (False, 63, 13)
    assert found.says == "It takes 63 min, 13 more than the lesson has; no order of the groups is shorter."
    assert found.change == "One more lane with one more adult makes it fit."


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"minutes": 27, "groups": ("A",)}, "2 min for improving instead of 5 make it fit"),
        ({"minutes": 40, "lanes": 2, "adults": 1, "groups": tuple("ABCD")}, "One more adult, so that one more lane can be open"),
        ({"minutes": 40, "lanes": 1, "adults": 3, "groups": tuple("ABCD")}, "One more lane makes it fit"),
        ({"minutes": 20, "improve": 0, "rounds": 2, "groups": ("A",)}, "2 min for a test instead of 5 make it fit"),
        ({"minutes": 17, "improve": 0, "test": 1, "rounds": 3, "groups": ("A",)}, "2 rounds of testing instead of 3 make it fit"),
        ({"minutes": 16, "improve": 0, "test": 1, "rounds": 2, "groups": ("A",)}, "1 round of testing instead of 2 make it fit"),
        ({"minutes": 40, "lanes": 12, "adults": 12, "groups": tuple(f"g{i}" for i in range(60))}, "min for a test instead of 5"),
        ({"minutes": 50, "lanes": 3, "adults": 3, "test": 9, "groups": tuple(f"g{i}" for i in range(60))}, "Share it over"),
    ],
)
def test_the_change_that_is_named_does_make_it_fit(change: dict[str, Any], words: str) -> None:
    found = make_rota(lesson(**change))
    assert not found.fits
    assert found.change is not None
    assert words in found.change


# --- against every order ---------------------------------------------------------------------------------------------


@settings(max_examples=40, deadline=None)
@given(st.integers(1, 3), st.integers(1, 2), st.integers(1, 4), st.integers(0, 6), st.integers(1, 2), st.integers(0, 5))
def test_no_order_of_small_lessons_is_shorter(groups: int, lanes: int, test: int, improve: int, rounds: int, build: int) -> None:
    one = lesson(groups, lanes=lanes, adults=lanes, test=test, improve=improve, rounds=rounds, build=build)
    found = make_rota(one)
    assert found.best
    assert found.needs == best_by_trying(one)


# --- what always holds -----------------------------------------------------------------------------------------------


@settings(max_examples=60, deadline=None)
@given(st.integers(1, 14), st.integers(1, 4), st.integers(1, 4), st.booleans(), st.integers(1, 9), st.integers(0, 9), st.integers(1, 3))
def test_nobody_is_in_two_places_and_every_visit_is_there(
    groups: int, lanes: int, adults: int, needed: bool, test: int, improve: int, rounds: int
) -> None:
    one = lesson(groups, lanes=lanes, adults=adults, adult_needed=needed, test=test, improve=improve, rounds=rounds)
    found = make_rota(one, limit_s=0.5)
    assert nobody_in_two_places(found)
    tests = [s for s in found.sittings if s.what == "test"]
    assert len(tests) == groups * rounds
    assert all(s.end - s.start == test for s in tests)
    assert all((s.adult is not None) is needed for s in tests)
    for g in one.groups:
        mine = sorted(s.start for s in tests if s.group == g)
        assert all(b - a >= test + improve for a, b in itertools.pairwise(mine))
    assert shortest_possible(one) <= found.needs <= max(row[-1] for row in plain_starts(one)) + test + one.tidy
    assert max(s.end for s in found.sittings) == found.needs


def test_without_time_to_search_the_plain_rule_stands_in_and_says_so() -> None:
    one = lesson(7, lanes=3, adults=3, test=4, improve=7, rounds=3, minutes=40)
    found = make_rota(one, limit_s=0)
    assert (found.method, found.best) == ("plain", False)
    assert nobody_in_two_places(found)
    assert make_rota(one).needs <= found.needs


def test_the_same_lesson_gives_the_same_rota() -> None:
    one = lesson(7, lanes=3, adults=3, test=4, improve=7, rounds=3)
    assert make_rota(one).sittings == make_rota(one).sittings


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"groups": ()}, "rota_no_groups"),
        ({"adults": 0}, "rota_no_adult"),
        ({"lanes": 0}, "rota_inputs"),
        ({"lanes": 13}, "rota_inputs"),
        ({"test": 0}, "rota_inputs"),
        ({"build": -1}, "rota_inputs"),
        ({"minutes": 0}, "rota_inputs"),
        ({"groups": tuple(f"g{i}" for i in range(61))}, "rota_inputs"),
    ],
)
def test_an_impossible_lesson_is_refused_with_its_reason(change: dict[str, Any], code: str) -> None:
    with pytest.raises(PlanRefused) as why:
        make_rota(lesson(**change))
    assert why.value.code == code


# --- from the rota to the lanes ---------------------------------------------------------------------------------------


def called_by(one: Lesson, practice: int, *, levels: int = 3, repeats: int = 8) -> tuple[Turn, ...]:
    made = in_lanes(turns([str(n) for n in range(levels)], repeats, one.groups, "blocks", 7), one.lanes, one.groups)
    return seated(made, make_rota(one).sittings, practice)


@pytest.mark.parametrize(
    ("practice", "counted"),
    [(0, [2, 1]), (1, [1, 2]), (2, [1, 2]), (3, [0, 3])],  # three turns and the practice, as many as fit a visit
)
def test_turns_and_practice_share_the_visits(practice: int, counted: list[int]) -> None:
    one = lesson(8, test=4, build=12, improve=0)
    visits = [s for s in make_rota(one).sittings if s.what == "test"]
    starts = sorted({s.start for s in visits})
    called = called_by(one, practice)
    for group in one.groups:
        sittings = sorted(1 + starts.index(s.start) for s in visits if s.group == group)
        assert [sum(t.group == group and t.sitting == n for t in called) for n in sittings] == counted


@given(st.integers(1, 9), st.integers(1, 3), st.integers(1, 3), st.integers(0, 4), st.integers(1, 6))
def test_each_turn_is_called_once_by_its_group_on_the_lane_of_its_sitting(groups: int, lanes: int, rounds: int, practice: int, repeats: int) -> None:
    one = lesson(groups, lanes=lanes, adults=lanes, rounds=rounds, minutes=400)
    called = called_by(one, practice, repeats=repeats)
    assert len({(t.block, t.level) for t in called}) == len(called) == 3 * repeats
    assert [t.sitting for t in called] == sorted(t.sitting for t in called)
    starts = sorted({s.start for s in make_rota(one).sittings if s.what == "test"})
    seats = {(s.group, 1 + starts.index(s.start), s.lane) for s in make_rota(one).sittings if s.what == "test"}
    assert {(t.group, t.sitting, t.lane) for t in called} <= seats


def test_what_the_rota_does_not_seat_stays_as_it_is() -> None:
    sittings = make_rota(lesson(4)).sittings
    others = turns(["a", "b"], 2, ["Red", "Blue"], "blocks", 7)  # of a contest: the devices release, not the groups
    assert seated(others, sittings, 0) == others
    heats = in_heats(turns(["a", "b"], 2, lesson(4).groups, "blocks", 7))
    assert seated(heats, sittings, 0) == heats
