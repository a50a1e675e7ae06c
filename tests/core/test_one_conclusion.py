"""One study says one thing: every surface of some forty studies is rendered and held against the one conclusion."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from functools import cache
from typing import Any

import pytest

from bendro.actions.spreadsheet import _conclusion as sheet_of
from bendro.core.conclusion.model import Conclusion
from bendro.core.measuring.taking import Taken
from bendro.core.planning.following import following
from bendro.core.planning.ideas import varied
from bendro.core.record.given import given
from bendro.core.record.responses import response_named, responses_of
from bendro.core.record.seen import ReadingSeen
from bendro.core.record.study import StudyRecord
from bendro.core.report.card import card_of
from bendro.core.report.poster import Sections, sections
from bendro.core.results import Analysis
from bendro.core.statistics.describe import NO_MEAN, describe
from bendro.core.trials import Trial
from bendro.core.words import said
from bendro.terminal.verdict import concluded_of, say
from tests.core.studies import STUDIES
from tests.records import conclusion_of, found_of

NAMES = sorted(STUDIES)
#: Two lines of a headline at 1280 px hold about so many letters.
TWO_LINES = 116


@cache
def made(name: str) -> tuple[StudyRecord, Analysis, Conclusion, Sections]:
    record = STUDIES[name]()
    c = conclusion_of(record)
    return record, found_of(record), c, sections(record.draft, c, day="4 May 2026")


def texts(value: Any) -> Iterator[str]:
    """Every text in a value, wherever it stands."""
    if isinstance(value, str):
        yield value
    elif isinstance(value, dict):
        for one in value.values():
            yield from texts(one)
    elif isinstance(value, list | tuple):
        for one in value:
            yield from texts(one)


@pytest.mark.parametrize("name", NAMES)
def test_every_surface_says_what_the_conclusion_says(name: str, capsys: pytest.CaptureFixture[str]) -> None:
    record, found, c, poster = made(name)
    assert (c.headline, c.answer, c.so_far) == (found.verdict.headline, found.verdict.answer, found.verdict.so_far)
    assert found.verdict.says == " ".join(part for part in (c.headline, c.more) if part)
    # places: the table, the podium, the sheet, Decide, the card
    places = [(p.label, p.result) for p in c.places]
    assert [p.level for p in c.places] == [r.level for r in found.ranking]
    first = [p.label for p in c.places if p.place == 1]
    assert list(c.best) == first or (c.two_measures and c.best_why == c.two_measures)
    follows = following(record.draft, c.best, c.best_why)
    assert ([b.label for b in follows.best], follows.why) == (list(c.best), c.best_why)
    rows = sheet_of(c)
    assert [(r[1], r[2]) for r in rows[len(rows) - len(places) :]] == places
    assert ["found", c.headline] in rows
    card = card_of(record, c)
    if c.best:
        assert all(label in poster.does for label in c.best)
        assert c.best[0] in card.name or record.versions
    # numbers: one text for one number
    by_level = {n.level: n for n in c.numbers}
    for p in c.places:
        if p.level in by_level and record.draft.rank != "rung_lightest":
            assert by_level[p.level].result == p.result
    for s in found.levels:
        if s.shown is not None and s.level in by_level:
            n = by_level[s.level]
            assert (n.mean, n.median, n.best, n.total) == (s.shown.mean, s.shown.median, s.shown.best, s.shown.total)
            assert s.quoted is not None
            assert n.mean == NO_MEAN or n.mean in s.quoted
    # how it was run, what was kept the same, besides
    assert list(poster.kept_same) == [k.says for k in c.kept_same]
    assert poster.how_sure.startswith(c.as_run.short)
    assert poster.method == (*c.as_run.lines, *c.as_run.not_followed)
    if c.as_run.order:
        assert any(c.as_run.order in line for line in poster.method)
    assert set(poster.besides) == {*(b.says for b in c.besides), *([c.two_measures] if c.two_measures else []), *(a.says for a in c.against)}
    # the terminal
    say(concluded_of(record))
    told = capsys.readouterr().out
    assert told.splitlines()[0] == c.headline
    assert c.as_run.short in told
    assert f"Next: {c.next}" in told


@pytest.mark.parametrize("name", NAMES)
def test_places_go_by_the_results_and_are_shared_only_where_they_are_equal_as_written(name: str) -> None:
    record, found, c, _ = made(name)
    inside = [p for p in c.places if p.place is not None]
    assert [p.place for p in inside] == sorted(p.place or 0 for p in inside)
    texts_of = Counter(p.result for p in inside)
    survival = found.effect.kind == "survival"
    for n, p in enumerate(inside):
        alike = texts_of[p.result] if not survival else sum(r.value == found.ranking[n].value for r in found.ranking if r.place is not None)
        assert p.shared == (alike > 1)
        assert p.place == 1 + sum(q.place is not None and q.place < (p.place or 0) for q in inside)
    if record.draft.rank == "result":
        values = [r.value if survival else float(re.findall(r"−?[\d.]+", r.result)[0].replace("−", "-")) for r in found.ranking if r.place is not None and r.value is not None]
        high = survival or (one := response_named(record.draft)) is None or one.better == "high"
        assert values == sorted(values, reverse=high)
    assert all(p.outside for p in c.places if p.place is None)
    assert c.places[len(inside) :] == tuple(p for p in c.places if p.place is None), "who breaks a rule stands below everybody"


@pytest.mark.parametrize("name", NAMES)
def test_a_headline_is_short_and_no_sentence_has_what_no_teacher_writes(name: str) -> None:
    _, found, c, poster = made(name)
    assert len(c.headline.split()) <= 14 or len(c.headline) <= TWO_LINES, c.headline
    everything = list(texts(c.model_dump(exclude={"doubts", "made_of"}))) + [str(v) for v in texts(vars(poster) if hasattr(poster, "__dict__") else [getattr(poster, f) for f in poster.__slots__])]
    for text in everything:
        assert not re.search(r"\d count\b|\b1 trials\b|\b1 readings\b|\d\.\d{6,}|nan|None|\binf\b| {2,}|\.\.(?!\.)|\(\)", text), text
        assert not re.search(r"\b(-\d)", text), f"a true minus sign: {text}"
    assert "n" not in [found.response.unit, c.unit]


@pytest.mark.parametrize("name", NAMES)
def test_what_is_varied_is_never_kept_the_same_and_each_has_its_state(name: str) -> None:
    record, _, c, _ = made(name)
    assert not {said(k.name) for k in c.kept_same} & varied(record.draft)
    agreed = {said(h.name) for h in record.draft.hold if h.value.strip() or h.how.strip()}
    assert {said(k.name) for k in c.kept_same} - {"drop height"} <= agreed
    for k in c.kept_same:
        recorded = [t for t in record.counted if any(said(name) == said(k.name) and text.strip() for name, text in t.conditions.items())]
        assert (k.state == "said") == (not recorded), k


@pytest.mark.parametrize("name", NAMES)
def test_what_a_trial_gives_is_what_is_analysed(name: str) -> None:
    """The sum of what the trials give is the total of the levels, for every measure."""
    record, _, _, _ = made(name)
    for one in responses_of(record.draft):
        if one.shape in ("behaviour", "rungs", "survival"):
            continue
        try:
            found = found_of(record, one.id)
        except Exception as why:
            assert "bound" in str(why) or "only" in str(why)
            continue
        values = [g.value for t in record.counted if (g := given(record.draft, t, one, record.work)).value is not None]
        assert sum(s.total or 0.0 for s in found.levels) == pytest.approx(sum(v or 0.0 for v in values))


# --- what was said falsely --------------------------------------------------------------------------------------------


def test_totals_of_22_16_11_and_7_have_four_places() -> None:
    c = made("a contest of totals")[2]
    assert [(p.place, p.label, p.result) for p in c.places] == [(1, "Avocet", "22"), (2, "Bittern", "16"), (3, "Curlew", "11"), (4, "Dunlin", "7")]
    assert c.headline == "By the total Avocet is first with 22."


def test_eight_devices_have_eight_places_and_a_headline_of_two_lines() -> None:
    c = made("a contest of eight")[2]
    assert [p.place for p in c.places] == list(range(1, 9))
    assert len(c.headline.split()) <= 14


def test_a_device_over_the_mass_limit_stands_below_the_line_with_the_reason() -> None:
    c = made("a contest with a broken rule")[2]
    assert (c.places[0].label, c.places[-1].label, c.places[-1].place) == ("Bittern", "Avocet", None)
    assert "Below the line: Avocet (The device’s 190 g breaks the limit of 180 g)." in c.more
    assert c.best == ("Bittern",)


def test_the_top_rung_is_the_one_that_was_there_and_who_breaks_a_rule_does_not_win_by_it() -> None:
    c = made("a ladder by rung and mass")[2]
    assert [(p.place, p.label) for p in c.places] == [(1, "Curlew"), (2, "Bittern"), (None, "Avocet"), (None, "Dunlin")]
    assert c.places[2].result == "≥ 2.5 m, 190 g"


@pytest.mark.parametrize(("name", "best"), [("which lands first", "1 g"), ("which lands last", "film"), ("heats with times", "1 g")])
def test_better_follows_the_question(name: str, best: str) -> None:
    assert made(name)[2].best == (best,)


def test_off_the_line_is_judged_by_its_size_and_its_lean_is_told_apart() -> None:
    record = made("off the line")[0]
    found = found_of(record, "m2")
    assert [s.mean for s in found.levels] == [19.0, pytest.approx(155 / 3), 2.0]
    assert [(r.level, r.place) for r in found.ranking] == [(8.0, 1), (4.0, 2), (6.0, 3)]
    assert found.levels[0].best == 16.0
    assert found.lean == "6 landed left and 3 right of the line; the middle of all lies 10 cm to the left."


def test_a_version_is_compared_with_the_one_it_was_made_from() -> None:
    _, found, c, _ = made("rounds past a failure")
    assert c.headline == "These trials cannot tell whether version 4 beats version 2."
    assert [(a.newest, a.other, a.role) for a in found.against] == [(4.0, 2.0, "made_from")]


def test_two_changes_at_once_are_said_of_the_design() -> None:
    c = made("rounds with two changes")[2]
    assert c.headline == "The design made the difference, but in it more than one thing was changed."


def test_straighter_without_losing_distance_is_one_decision_everywhere() -> None:
    _, found, c, poster = made("straighter without losing distance")
    assert c.best == ("card",)
    assert c.best_why == c.two_measures
    assert found.verdict.says.endswith(c.two_measures)
    assert "is best" not in c.headline, "the one measure does not say what is best"
    assert c.two_measures in poster.besides


def test_beside_a_decision_with_two_measures_the_one_measure_says_only_what_it_measures() -> None:
    c = made("straighter, a little shorter")[2]
    assert c.headline == "Distance depends on cover; felt gives the greatest."
    assert c.best == ("card",)


def test_what_is_varied_was_never_held_whatever_the_plan_and_the_lane_wrote_down() -> None:
    _, found, c, _ = made("held what is varied")
    assert [(k.name, k.state) for k in c.kept_same] == [("band", "held")]
    assert "control_not_held" not in [f.code for f in found.audit]


def test_a_bound_on_the_left_of_the_line_is_turned_with_its_size() -> None:
    record = made("off the line")[0]
    one = response_named(record.draft, "m2")
    assert one is not None
    trial = record.trials[0]
    for value, kind, wanted in ((-60.0, "at_least", "at_most"), (-60.0, "at_most", "at_least"), (60.0, "at_least", "at_least")):
        reading = ReadingSeen(measure="m2", reading=Taken(kind=kind, value=value, resolution=1.0, doubt=0.0, unit="cm"))  # type: ignore[arg-type]
        got = given(record.draft, replace(trial, readings=(reading,)), one)
        assert (got.value, got.kind, got.lean) == (60.0, wanted, value)


def test_a_coarser_estimate_takes_no_mean_its_decimals() -> None:
    rows = [Trial(level="a", value=2.81, resolution=0.01), *(Trial(level="a", value=v, resolution=1.0, kind="estimate") for v in (5.0, 6.0))]
    assert describe("a", rows, unit="m").quoted == "4.60 m"


def test_two_variables_are_answered_each_at_the_same_values_of_the_other() -> None:
    _, found, c, _ = made("two variables")
    assert c.headline == "Distance depends on fin area and on launch angle; 12 cm² with 30° is best."
    assert "At the same launch angle, 12 cm² and 6 cm² differ by about 2.00 m" in c.more
    assert "At the same fin area, 30° and 60° differ by about 1.00 m" in c.more
    assert found.effect.kind == "groups"
    assert len(found.effect.groups.pairs) == 4, "of six pairs those that differ in one thing"
    assert made("two variables, one depends")[2].headline == "What fin area does to distance depends on launch angle."


def test_compared_over_the_group_what_every_group_ran_is_taken_out() -> None:
    from tests.core.studies import mixed, plan
    from tests.records import record as made_by
    from tests.records import row

    rows = []
    for n, level in enumerate(("4", "6", "8")):
        for b in range(3):
            for group, more in (("Red", 0.0), ("Blue", 0.15)):
                rows.append(row(level, f"{2 + n + more + [0.00, 0.03, -0.02][b]:.2f}", group=group, block=b + 1 if group == "Red" else b + 4))
    record = made_by(plan(repeats=6), rows)
    assert mixed({"4": ["1"]})
    found = found_of(record, factor="group")
    assert found.effect.kind == "groups"
    assert found.effect.groups.blocked
    assert (found.effect.groups.p or 1.0) < 0.001
    assert found.verdict.answer == "leaning", "it was not planned, so it leans at most"


def test_how_it_was_run_is_told_from_the_record() -> None:
    assert made("a rise, one level after the other")[2].as_run.order == "one level after another"
    assert "block by block" in made("a rise")[2].as_run.order
    assert made("hand timed by three")[2].as_run.timers == "timed by 3 hands"
    assert made("hand timed by one of three")[2].as_run.timers == "timed by 1 hand"
    assert made("hand timed by one of three")[2].as_run.not_followed == ("The plan has 3 timers; there was one.",)
    assert made("heats with times")[2].as_run.order == "side by side in 3 heats"
    assert made("rounds past a failure")[2].as_run.order == "version after version"


def test_what_was_held_said_and_changed() -> None:
    c = made("held and not held")[2]
    assert [(k.name, k.state) for k in c.kept_same] == [("launch surface", "changed"), ("drop of the arm", "changed"), ("who claps", "said")]
    assert c.kept_same[0].says == "launch surface: agreed gym floor, but carpet in 3 of 9 trials"
    off = made("all twenty centimetres off")[2]
    assert off.kept_same[0].says == "ramp height: agreed 40 cm, within 1 cm, but 60 cm in 9 of 9 trials"
    assert "control_not_held" in [f.code for f in off.doubts]
    assert made("two variables")[2].kept_same == (), "the angle was varied, whatever the lane wrote down"


@pytest.mark.parametrize(
    ("name", "means"),
    [
        ("whole masses", ["4.5", "6.5", "8.5"]),
        ("counts", ["4.0", "0.7", "2.3"]),
        ("faults counted, few", ["0.5", "0.2", "1.8"]),
        ("one estimate", ["3.36", "2.12", "2.04"]),
        ("points in zones", ["5.0", "0.3", "2.3"]),
        ("a rise", ["2.15", "3.06", "4.06"]),
    ],
)
def test_means_are_written_as_a_class_writes_them(name: str, means: list[str]) -> None:
    assert [n.mean for n in made(name)[2].numbers] == means


def test_no_interval_goes_where_no_reading_can_be_and_no_spread_reads_zero() -> None:
    for name in NAMES:
        _, found, c, _ = made(name)
        one = response_named(made(name)[0].draft)
        assert one is not None
        for n in c.numbers:
            if one.least is not None and n.interval and "%" not in n.interval:
                assert not n.interval.startswith("−"), (name, n.interval)
        for s in found.levels:
            if s.sd and s.shown is not None and s.shown.sd is not None:
                assert float(s.shown.sd) > 0


def test_a_total_is_not_shown_beside_the_interval_of_a_mean() -> None:
    assert [n.spread for n in made("a contest of totals")[2].numbers] == ["", "", "", ""]


def test_inches_stay_inches_in_every_sentence() -> None:
    _, found, c, poster = made("a rise in inches")
    assert c.headline == "Distance rose with pull-back: about 0.96 m for every 6 in."
    assert [p.label for p in c.places] == ["18 in", "12 in", "6 in"]
    assert "Changed: pull-back (6 in, 12 in, 18 in)." in poster.method
    assert [s.level for s in found.levels] == [6.0, 12.0, 18.0]


def test_several_payloads_count_as_the_worst_in_every_place() -> None:
    record, found, c, _ = made("two eggs")
    one = response_named(record.draft)
    assert one is not None
    words = {(t.level, t.block): given(record.draft, t, one).word for t in record.counted}
    assert words == {("felt", 1): "untouched", ("felt", 2): "hairline", ("felt", 3): "untouched", ("card", 1): "broken", ("card", 2): "cracked", ("card", 3): "broken", ("film", 1): None, ("film", 2): "broken", ("film", 3): "untouched"}  # fmt: skip
    assert {n.label: n.result for n in c.numbers} == {"felt": "3 of 3", "card": "0 of 3", "film": "1 of 2"}
    assert found.effect.kind == "survival"


def test_bounds_make_a_difference_at_least_and_never_about() -> None:
    _, _, c, _ = made("off the end of the track")
    assert "Felt and film differ by at least 3.88 m" in c.more
    assert c.places[0].result == "≥ 5.93 m"


def test_the_advice_fits_the_family_and_the_kind_of_study() -> None:
    for name in NAMES:
        record, _, c, _ = made(name)
        advice = " ".join([c.next, *(f.do for f in c.doubts)])
        if record.draft.family in ("rotor", "parachute", "protector"):
            assert "track" not in advice
            assert "launch more gently" not in advice
        else:
            assert "Drop from higher" not in advice
        if record.draft.study_kind == "design_rounds":
            assert "Shuffle the levels" not in advice
        if record.draft.variable.kind == "name":
            assert "a level in between" not in advice
