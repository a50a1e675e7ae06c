"""Places of a contest by the rule that was agreed."""

from __future__ import annotations

import pytest

from bendro.core.judgement.ranking import Entrant, ranking


def places(rule: str, *entrants: Entrant) -> list[tuple[int, str]]:
    return [(p.place, p.name) for p in ranking(entrants, rule, "m") if p.place is not None]  # type: ignore[arg-type]


def test_the_highest_rung_first_then_the_lightest_and_equals_share() -> None:
    found = ranking(
        [
            Entrant(name="Gold", rung=1.6, mass=31), Entrant(name="Blue", rung=2.4, mass=40), Entrant(name="Green", rung=2.4, mass=35),
            Entrant(name="Rust", rung=1.6, mass=31), Entrant(name="Teal", rung=0.0, mass=9), Entrant(name="Grey"),
        ],
        "rung_lightest", "m",
    )  # fmt: skip
    assert [(p.place, p.shared, p.name) for p in found] == [
        (1, False, "Green"), (2, False, "Blue"), (3, True, "Gold"), (3, True, "Rust"), (5, False, "Teal"), (None, False, "Grey"),
    ]  # fmt: skip
    assert [p.why for p in found] == ["2.4 m, 35 g", "2.4 m, 40 g", "1.6 m, 31 g", "1.6 m, 31 g", "no rung, 9 g", "not dropped yet"]


def test_the_top_rung_is_written_as_it_is_and_as_a_bound() -> None:
    (found,) = ranking([Entrant(name="Gold", rung=2.5, on_top=True, mass=31)], "rung_lightest", "m")
    assert found.result == found.why == "≥ 2.5 m, 31 g"


def test_a_mass_that_is_not_written_down_stands_behind_those_of_its_rung() -> None:
    assert places("rung_lightest", Entrant(name="a", rung=2.0), Entrant(name="b", rung=2.0, mass=99), Entrant(name="c", rung=1.0, mass=1)) == [(1, "b"), (2, "a"), (3, "c")]


@pytest.mark.parametrize(("survived", "drops", "stands"), [(2, 3, True), (1, 2, False), (0, 3, False), (3, 3, True), (0, 0, False)])
def test_the_cheapest_must_have_survived_more_often_than_not(survived: int, drops: int, stands: bool) -> None:
    found = places("cheapest", Entrant(name="a", cost=5, survived=survived, drops=drops), Entrant(name="b", cost=9, survived=1, drops=1))
    assert found == ([(1, "a"), (2, "b")] if stands else [(1, "b")])


def test_without_a_cost_there_is_no_place_and_nobody_makes_an_empty_podium() -> None:
    assert places("cheapest", Entrant(name="a", survived=1, drops=1)) == []
    assert places("rung_lightest") == []
