"""What a poster and a report say: the podium with its shared steps, the sections, and what is different since."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import pytest

from bendro.core.analyse import analyse
from bendro.core.conclusion.concluded import placed, places_said
from bendro.core.context import Context
from bendro.core.draft import Draft, Held, MeasureDraft, VariableDraft
from bendro.core.errors import PlanRefused
from bendro.core.judgement.places import Agreed
from bendro.core.planning.final import best_levels, final_plan, finalists
from bendro.core.planning.question import better_place
from bendro.core.report.changes import changed_since
from bendro.core.report.poster import sections
from bendro.core.results import Analysis
from bendro.core.trials import Trial
from tests.records import conclusion_of, record, row


def trials_of(readings: Mapping[Any, Sequence[float]]) -> list[Trial]:
    made, row = [], 0
    for level, values in readings.items():
        for block, value in enumerate(values, 1):
            row += 1
            made.append(Trial(row=row, level=level, value=value, resolution=0.01, block=str(block)))
    return made


def worked(readings: Mapping[Any, Sequence[float]], **asked: Any) -> Analysis:
    unit = "cm" if all(not isinstance(level, str) for level in readings) else None
    return analyse(trials_of(readings), Context(factor="folds", response="distance", unit="m", factor_unit=unit, **asked))


NAMES = Draft(question="Which?", variable=VariableDraft(name="device", kind="name", levels=["a", "b", "c", "d"]), measures=[MeasureDraft(id="m1", name="distance", unit="m")])


def steps(a: Analysis, draft: Draft = NAMES) -> list[tuple[int | None, bool, str, str]]:
    return [(s.place, s.shared, s.label, s.result) for s in placed(draft, a)]


APART = {"a": [1.01, 1.03, 1.02, 1.04], "b": [2.51, 2.53, 2.52, 2.50], "c": [2.52, 2.50, 2.53, 2.51]}


def test_a_step_is_shared_only_where_results_are_equal_as_written_and_a_line_says_what_can_be_told_apart() -> None:
    assert steps(worked(APART)) == [(1, True, "b", "2.52 m"), (1, True, "c", "2.52 m"), (3, False, "a", "1.03 m")]
    near = {"a": [22.0, 21.0, 23.0], "b": [16.0, 15.0, 14.0], "c": [11.0, 12.0, 10.0], "d": [10.5, 9.5, 11.5]}
    got = placed(NAMES, worked(near))
    assert [(s.place, s.shared, s.label) for s in got] == [(1, False, "a"), (2, False, "b"), (3, False, "c"), (4, False, "d")]
    assert [s.apart_from_next for s in got][2:] == [False, None]
    assert "c and d" in places_said(got)
    tied = placed(NAMES, worked({"a": [4.0, 5.0], "b": [5.0, 4.0], "c": [1.0, 1.5]}))
    assert [(s.place, s.shared) for s in tied] == [(1, True), (1, True), (3, False)]


def test_less_is_better_where_the_plan_says_so_and_a_number_variable_is_ordered_by_its_results() -> None:
    readings = {1.0: [4.0, 4.1, 4.2], 2.0: [3.0, 3.1, 3.2], 3.0: [5.0, 5.1, 5.2]}
    draft = NAMES.model_copy(update={"variable": VariableDraft(name="folds", quantity="length", unit="cm", levels=["1", "2", "3"])})
    assert [s[2] for s in steps(worked(readings, best_is="low"), draft)] == ["2 cm", "1 cm", "3 cm"]
    assert [s[2] for s in steps(worked(readings, best_is="high"), draft)] == ["3 cm", "1 cm", "2 cm"]
    assert [s.shape for s in placed(draft, worked(readings, best_is="low"))] == [1, 0, 2]


def test_two_that_luck_could_have_ordered_keep_their_places_and_the_line_says_so() -> None:
    close = placed(NAMES, worked({"a": [1.0, 1.4, 1.2], "b": [1.1, 1.5, 1.3]}))
    assert [(s.place, s.shared, s.label) for s in close] == [(1, False, "b"), (2, False, "a")]
    assert places_said(close) == "By results; the trials cannot tell the two apart yet."
    assert [s[2] for s in steps(worked({"a": [1.0, 1.1, 1.2], "b": [9.1, 9.5, 9.3]}))] == ["b", "a"]


def test_the_rule_agreed_goes_before_the_readings_and_who_breaks_a_rule_stands_below() -> None:
    agreed = tuple(Agreed(level=n, place=p, shared=s, result=r, why=f"{r}, 30 g") for n, p, s, r in (("a", 1, False, "2.4 m"), ("b", 2, True, "1.6 m"), ("c", 2, True, "1.6 m")))
    assert [(p, s, n) for p, s, n, _ in steps(worked(APART, agreed=agreed))] == [(1, False, "a"), (2, True, "b"), (2, True, "c")]
    got = placed(NAMES, worked(APART, agreed=agreed, outside={"a": "The device’s 190 g breaks the limit of 180 g."}))
    assert [(p.place, p.label, p.outside) for p in got] == [(1, "b", None), (1, "c", None), (None, "a", "The device’s 190 g breaks the limit of 180 g.")]


def plan(**more: Any) -> Draft:
    return Draft(
        question="Does it?", family="parachute", variable=VariableDraft(name="canopy side", kind="number", quantity="length", unit="cm", levels=["20", "30"]),
        measures=[MeasureDraft(id="m1", name="fall time", quantity="time", unit="s", rule="To first touch", timed=True, timers=3)],
        groups=["Avocet"], class_label="9 Teal", prediction="The wider falls slower", reason="it holds more air", repeats=3, hold=[Held(name="lines", how="four of 30 cm")], **more,
    )  # fmt: skip


TIMES = {"20": ["1.20", "1.30", "1.25"], "30": ["1.90", "2.00", "1.95"]}
IN_ORDER = [row(level, text) for level, texts in TIMES.items() for text in texts]
MIXED = [row(level, TIMES[level][n]) for n, levels in enumerate((("20", "30"), ("30", "20"), ("20", "30"))) for level in levels]


def test_every_part_of_a_poster_begins_with_what_is_known_of_the_record() -> None:
    void = [row("20", "", state="void", fault="tangled"), row("20", "", state="void", fault="tangled"), row("30", "", state="void", fault="late")]
    made = record(plan(), [*MIXED[:2], *void, *MIXED[2:]])
    c = conclusion_of(made)
    got = sections(made.draft, c, day="4 May 2026")
    assert got.who == "Avocet · 9 Teal · 4 May 2026"
    assert got.predicted == "The wider falls slower. Because: it holds more air."
    assert got.kept_same == ("lines: four of 30 cm (not recorded)",)
    assert got.how_sure.startswith("3 trials each, block by block, the levels mixed within each, timed by 1 hand. ")
    assert got.fairer.endswith("3 trials were void (20 cm: tangled 2; 30 cm: late 1).")
    assert got.method[:3] == (
        "Changed: canopy side (20 cm, 30 cm).", "Measured: fall time in s. To first touch.",
        "3 trials each, block by block, the levels mixed within each, timed by 1 hand; 3 void.",
    )  # fmt: skip
    assert "Void: tangled (2), late (1)." in got.method
    assert got.method[-1] == "The plan has 3 timers; there was one."
    assert got.does == "Fall time: 1.95 s (30 cm)."
    assert got.next == c.next


def test_how_it_was_run_is_told_from_the_record_and_not_from_the_plan() -> None:
    c = conclusion_of(record(plan(), IN_ORDER))
    assert c.as_run.order == "one level after another"
    assert "The plan shuffles the levels; they were run one after another." in c.as_run.not_followed
    assert conclusion_of(record(plan(), MIXED)).as_run.not_followed == ("The plan has 3 timers; there was one.",)


def test_each_reading_level_has_its_own_stems_and_marks() -> None:
    found = [sections(plan(reading_level=level), conclusion_of(record(plan(reading_level=level), MIXED)), day="") for level in ("first", "middle", "senior")]
    assert len({f.stems for f in found}) == len({f.marker for f in found}) == 3


def test_what_is_different_since_is_said_and_nothing_where_nothing_is() -> None:
    then = worked({"a": [1.0, 1.4, 1.2], "b": [1.1, 1.5, 1.3]})
    now = worked({"a": [1.0, 1.1, 1.2, 1.1], "b": [9.1, 9.5, 9.3]})
    assert changed_since(then, then) == ()
    told = changed_since(then, now)
    assert told[0].startswith("The verdict was “")
    assert "1 kept trial more." in told


# --- the final -------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("steps_of", "best_of", "names"), [
    ([(1, "a"), (2, "b"), (3, "c")], {}, ("a", "b", "c")),
    ([(1, "a"), (2, "b")], {"Red": "a", "Blue": "b"}, ("Red, a", "Blue, b")),
    ([(n, str(n)) for n in range(1, 10)], {}, ("1", "2", "3", "4", "5", "6")),
    ([(1, "a"), (2, "b"), *((3, f"s{n}") for n in range(5))], {}, ("a", "b")),
])  # fmt: skip
def test_the_best_are_called_to_a_final(steps_of: list[tuple[int, str]], best_of: dict[str, str], names: tuple[str, ...]) -> None:
    assert finalists(steps_of, best_of) == names


def test_a_final_is_a_contest_under_the_same_rule_and_needs_two() -> None:
    got = final_plan(plan(), ["Red, 20 cm", "Blue, 30 cm"])
    assert (got.study_kind, got.variable.levels, got.repeats, got.prediction, got.groups) == ("contest", ["Red, 20 cm", "Blue, 30 cm"], 3, "", [])
    assert got.measures == plan().measures
    assert [h.name for h in got.hold] == ["lines"]
    with pytest.raises(PlanRefused, match="needs two devices"):
        finalists([(1, "a")], {})


def test_the_best_level_of_a_group_is_that_of_its_best_mean() -> None:
    values = {"Red": {"a": [1.0, 3.0], "b": [2.5]}, "Blue": {"a": [4.0], "b": [2.0]}}
    assert best_levels(values, better="high") == {"Red": "b", "Blue": "a"}
    assert best_levels(values, better="low") == {"Red": "a", "Blue": "b"}


@pytest.mark.parametrize(
    ("question", "best"),
    [("Which paper lands last?", "high"), ("Does a clip make it land first?", "low"), ("Who lands first and who last?", "low"), ("Does the everlasting top win?", "low")],
)
def test_which_place_is_best_follows_the_question(question: str, best: str) -> None:
    assert better_place(question) == best


def test_an_interval_of_no_width_is_not_said() -> None:
    same = worked({"a": [1.0, 1.0, 1.0], "b": [2.0, 2.0, 2.0], "c": [3.0, 3.0, 3.0]})
    assert "interval" not in same.verdict.says
