"""The lanes while a class runs: what is missing of a trial, the pace, and what the desk is told to look at."""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bendro.core.draft import Draft, MeasureDraft
from bendro.core.lanes.desk import Screen, Tried, look_at, minutes_said
from bendro.core.lanes.pace import forecast, lesson_window, seconds_each
from bendro.core.measuring.clocks import clock_doubt, timed
from bendro.core.measuring.missing import missing

CASES = json.loads((Path(__file__).parent.parent / "drift" / "missing_cases.json").read_text())
NOW = datetime(2026, 3, 5, 11, 6, tzinfo=UTC)


def ago(seconds: float) -> datetime:
    return NOW - timedelta(seconds=seconds)


@pytest.mark.parametrize("case", CASES, ids=lambda c: c["says"] or "complete")
def test_what_is_missing_is_said_as_the_lane_says_it(case: dict[str, Any]) -> None:
    draft = Draft(measures=[MeasureDraft(**case["measure"])], payloads=case["payloads"])
    assert missing(draft, case["written"]) == case["says"]


def test_the_pace_is_the_middle_interval_and_a_long_pause_is_none_of_it() -> None:
    assert seconds_each([ago(s) for s in (90, 60, 30)]) is None  # two intervals say nothing yet
    assert seconds_each([ago(s) for s in (90, 60, 30, 0)]) == 30
    assert seconds_each([ago(s) for s in (1_000, 90, 60, 30, 0)]) == 30  # a lane that stood still for a quarter of an hour
    assert seconds_each([ago(s) for s in (600, 500, 400, 300, 40, 35, 30, 25, 20, 15, 10, 5, 0)]) == 5  # the newest count


def test_the_last_trial_is_in_when_the_slowest_lane_is_done() -> None:
    quick, slow = [ago(s) for s in (60, 40, 20, 0)], [ago(s) for s in (180, 120, 60, 0)]
    made = forecast({1: quick, 2: slow}, {1: 6, 2: 4}, kept=8, planned=18, plan_s=90, closed=frozenset(), now=NOW)
    assert (made.by, made.last_at) == ("pace", NOW + timedelta(seconds=240))
    shut = forecast({1: quick, 2: slow}, {1: 6, 2: 4}, kept=8, planned=18, plan_s=90, closed=frozenset({2}), now=NOW)
    assert shut.last_at == NOW + timedelta(seconds=10 * 20)  # what lane 2 has left is run at lane 1
    early = forecast({1: quick[:1], 2: []}, {1: 6, 2: 4}, kept=1, planned=11, plan_s=90, closed=frozenset(), now=NOW)
    assert (early.by, early.last_at) == ("plan", NOW + timedelta(seconds=6 * 90))
    assert forecast({1: quick}, {1: 6}, kept=4, planned=10, plan_s=90, closed=frozenset({1}), now=NOW).last_at is None
    assert forecast({1: quick}, {1: 0}, kept=10, planned=10, plan_s=90, closed=frozenset(), now=NOW).last_at is None


@given(st.lists(st.integers(1, 10_000), min_size=4, max_size=40))
def test_the_pace_lies_between_the_shortest_and_the_longest_interval(apart: list[int]) -> None:
    at, all_at = NOW, [NOW]
    for s in apart:
        at += timedelta(seconds=s)
        all_at.append(at)
    each = seconds_each(all_at)
    assert each is not None
    assert min(apart) <= each <= max(apart)


def tried(lane: int, group: str, *, void: bool = False, asked: str = "", s: float = 60) -> Tried:
    return Tried(lane=lane, group=group, level="8 cm", void=void, fault="tangled" if void else "", asked=asked, released_at=ago(s))


def tablet(label: str, **more: Any) -> Screen:
    return Screen(**({"id": uuid4(), "label": label, "lane": 1, "called": "8 cm", "called_since": ago(20), "away_since": None, "holds": 0} | more))


def test_nothing_is_said_of_a_class_that_runs_well() -> None:
    record = [tried(1, g) for g in ("Avocet", "Curlew", "Avocet", "Curlew", "Avocet")]
    assert look_at(record, [tablet("Avocet"), tablet("Curlew")], ["Avocet", "Curlew"], each_s=40, now=NOW) == []


def test_the_most_pressing_comes_first_and_names_whose_turn_can_be_handed_on() -> None:
    silent = tablet("Egret", away_since=ago(180), holds=2)
    long = tablet("Dunlin", lane=2, called_since=ago(240))
    record = [*(tried(1, "Avocet") for _ in range(4)), tried(2, "Dunlin", void=True), tried(2, "Dunlin", void=True), tried(1, "Avocet", asked="9 s is far from 2 s.")]
    found = look_at(record, [silent, long], ["Avocet", "Dunlin"], each_s=40, now=NOW)
    assert [f.code for f in found] == ["silent", "long_call", "voids", "asked", "behind"]
    assert found[0].says == "Egret’s tablet has been silent for 3 min and holds 2 trials. Nothing is lost: it sends them when it is back. It was called for 8 cm."
    assert (found[0].screen, found[1].says) == (silent.id, "Dunlin has called 8 cm for 4 min.")
    assert found[2].says == "Lane 2: 2 of its last 2 trials were void (tangled)."
    assert found[3].says == "Lane 1, Avocet, 8 cm: kept all the same. 9 s is far from 2 s."
    assert found[4].says == "Dunlin has no trials; the others have 5 on average."


@pytest.mark.parametrize(
    ("screen", "told"),
    [
        (tablet("Egret", away_since=ago(20), holds=3), False),  # a page that is loaded anew
        (tablet("Egret", away_since=ago(40), holds=3), True),
        (tablet("Egret", away_since=ago(80), called="", called_since=None), False),  # it holds nothing and is not called: it may sleep a while
        (tablet("Egret", away_since=ago(100), called="", called_since=None), True),
    ],
)
def test_a_silent_tablet_is_told_of_sooner_when_something_waits_for_it(screen: Screen, told: bool) -> None:
    assert bool(look_at([], [screen], [], each_s=40, now=NOW)) is told


def test_a_while_is_said_as_it_is_spoken() -> None:
    assert [minutes_said(s) for s in (40, 60, 200)] == ["40 s", "1 min", "3 min"]


def test_several_clocks_on_one_fall() -> None:
    """By hand; JCGM 100:2008, 4.3.7 (half a range over the root of three) and 5.1.2 (squares are added)."""
    assert clock_doubt(0.012) == pytest.approx(0.006 / 3**0.5)
    assert timed(10.0, 11.84, 0.003, 0.004) == (pytest.approx(1.84), pytest.approx(0.005))
    assert timed(10.0, 11.84) == (pytest.approx(1.84), 0.0)
    assert [timed(None, 11.0, 0.1), timed(10.0, None, 0.1), timed(10.0, 9.0, 0.1)] == [(None, 0.0)] * 3


def test_a_lesson_runs_from_its_first_opening_for_its_minutes() -> None:
    hour = timedelta(minutes=60)
    assert lesson_window(None, None, until=None, minutes=60, now=NOW) == (NOW, NOW + hour)
    assert lesson_window(ago(600), ago(300), until=None, minutes=60, now=NOW) == (ago(600), ago(600) + hour)
    assert lesson_window(ago(300), ago(600), until=NOW + 2 * hour, minutes=60, now=NOW) == (ago(600), NOW + 2 * hour)
    assert lesson_window(ago(4 * 3600), ago(300), until=None, minutes=60, now=NOW)[0] == ago(300)  # the run was opened for an earlier lesson
