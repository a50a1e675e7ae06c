"""Which trial fills a turn: the one that has it, else the first that can; the others are extra, and drops that lead up to the end of a
specimen are of its turn."""

from __future__ import annotations

from uuid import UUID

from hypothesis import given
from hypothesis import strategies as st

from bendro.core.planning.order import Turn
from bendro.core.planning.stock import Ran, Stock, take_stock

PLAN = [Turn(position=n, block=b, level=lv, group="") for n, (b, lv) in enumerate([(1, "a"), (1, "b"), (2, "a"), (2, "b")], 1)]
A1 = (1, "a")


def ran(n: int, cell: tuple[int, str] = A1, *, state: str = "kept", holds: bool = False, fills: bool = True, practice: bool = False, outside: str = "") -> Ran:
    return Ran(id=UUID(int=n), block=cell[0], level=cell[1], state=state, holds=holds, fills=fills, practice=practice, outside=outside)


def places(stock: Stock) -> list[str]:
    return [stock.place[one] for one in sorted(stock.place)]


def test_who_has_a_turn_keeps_it_though_another_was_released_before() -> None:
    stock = take_stock(PLAN, [ran(1), ran(2, holds=True), ran(3)])
    assert places(stock) == ["extra", "turn", "extra"]
    assert stock.filled_by == {A1: UUID(int=2)}
    assert (stock.filled, stock.extra, stock.counts.planned) == (1, 2, 4)


def test_a_turn_that_nobody_has_goes_to_the_first_that_can_fill_it() -> None:
    assert take_stock(PLAN, [ran(1, state="void"), ran(2, practice=True), ran(3, outside="measure"), ran(4), ran(5)]).filled_by == {A1: UUID(int=4)}


def test_what_cannot_fill_a_turn_has_none_though_it_had() -> None:
    for lost in (ran(1, state="void", holds=True), ran(1, practice=True, holds=True), ran(1, outside="finished", holds=True), ran(1, fills=False, holds=True), ran(1, (9, "a"), holds=True)):
        assert take_stock(PLAN, [lost, ran(2)]).filled_by == {A1: UUID(int=2)}


def test_drops_that_lead_up_to_the_end_are_of_the_turn_and_those_after_it_are_extra() -> None:
    stock = take_stock(PLAN, [ran(1, fills=False), ran(2, fills=False), ran(3, holds=True), ran(4), ran(5, fills=False)])
    assert places(stock) == ["turn", "turn", "turn", "extra", "extra"]
    assert stock.filled_by == {A1: UUID(int=3)}


@given(st.lists(st.tuples(st.sampled_from([(1, "a"), (1, "b"), (2, "a"), (3, "a")]), st.sampled_from(["kept", "void", "withdrawn"]), st.booleans(), st.booleans()), max_size=14))
def test_giving_out_twice_gives_the_same(made: list[tuple[tuple[int, str], str, bool, bool]]) -> None:
    """What was given out stays as it is when nothing happens: whoever fills a turn is the one that has it from then on."""
    trials = [ran(n, cell, state=state, holds=holds, practice=practice) for n, (cell, state, holds, practice) in enumerate(made)]
    once = take_stock(PLAN, trials)
    again = take_stock(PLAN, [ran(n, cell, state=state, practice=practice, holds=once.filled_by.get(cell) == UUID(int=n)) for n, (cell, state, _, practice) in enumerate(made)])
    assert (again.filled_by, again.place, again.counts) == (once.filled_by, once.place, once.counts)
    assert len(set(once.filled_by.values())) == len(once.filled_by)
    assert all(once.place[one] == "turn" for one in once.filled_by.values())
