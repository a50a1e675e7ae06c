"""Which way of timing is enough: against the power of the t test as its tables have it."""

from __future__ import annotations

import math

import pytest

from bendro.core.planning.ways import WAYS, ways_of
from bendro.core.statistics.power import power_of


def test_a_thumb_needs_as_many_trials_as_the_tables_say() -> None:
    """Effects of 2, 1.5 and 1 standard deviations need 5.09, 8.06 and 16.7 at each of two levels, rounded up (two groups, α = 0.05, power 0.8: as in the
    tables of Cohen 1988, Statistical Power Analysis, 2.4)."""
    for d, n in ((2.0, 6), (1.5, 9), (1.0, 17)):
        found = ways_of([1.0, 1.0 + 0.1 * d], 0.0, 5)
        assert found is not None
        thumb = next(w for w in found.ways if w.id == "thumb")
        assert thumb.needed == n
        power = power_of(n, d)
        assert power is not None
        assert power >= 0.8


def test_the_ways_come_from_the_coarsest_and_their_doubts_are_those_of_two_moments() -> None:
    found = ways_of([0.6, 0.8], 0.03, 3)
    assert found is not None
    doubts = [w.u for w in found.ways]
    assert doubts == sorted(doubts, reverse=True)
    assert WAYS["frames"][1] == pytest.approx(1 / 30 / math.sqrt(6))  # JCGM 100:2008, 4.3.7: two rectangles one picture wide
    assert WAYS["thumbs"][1] == pytest.approx(0.1 / math.sqrt(3))
    assert "six" not in found.says
    assert "takes 6 trials at each level" in found.says
    assert "felt" in {w.id for w in found.ways}
    without = ways_of([0.6, 0.8], 0.03, 3, carried=False)
    assert without is not None
    assert "felt" not in {w.id for w in without.ways}  # nothing is carried, so no phone lies there
    in_ms = ways_of([600.0, 800.0], 30.0, 3, second=1000.0, unit="ms")
    assert in_ms is not None
    assert [w.needed for w in in_ms.ways] == [w.needed for w in found.ways]


def test_what_no_way_can_show_and_what_a_thumb_shows_is_said_plainly() -> None:
    thumb = ways_of([1.8, 2.6], 0.1, 5)
    assert thumb is not None
    assert thumb.says.startswith("One thumb will do")
    hopeless = ways_of([0.5, 0.501], 0.2, 3)
    assert hopeless is not None
    assert "change the variable further" in hopeless.says
    assert all(w.needed is None and not w.enough for w in hopeless.ways)
    assert ways_of([1.0, 1.0], 0.1, 3) is None
    assert ways_of([1.0, 2.0], 0.1, 1) is None
