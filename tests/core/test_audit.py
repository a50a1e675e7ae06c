"""Every doubt of the audit with a small table that has it and one that has not; its sentence is true of the numbers."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from bendro.core.analyse import analyse
from bendro.core.context import Context
from bendro.core.judgement.audit import CHECKS
from bendro.core.trials import Trial


def shuffled(a: list[float] = [1.0, 1.2, 1.1, 1.15], b: list[float] = [2.0, 2.2, 2.1, 2.15], **same: Any) -> list[Trial]:  # noqa: B006
    """Two levels in blocks, the order within a block turned each time."""
    rows = []
    for i, pair in enumerate(zip(a, b, strict=True)):
        both = [("thin", pair[0]), ("thick", pair[1])]
        rows += both if i % 2 == 0 else both[::-1]
    return [Trial(level=level, value=value, order=n, row=n, **{"resolution": 0.01, **same}) for n, (level, value) in enumerate(rows, 1)]


def each(rows: list[Trial], **columns: Any) -> list[Trial]:
    """Rows with fields worked out from (row number, trial); others as others_NAME."""
    made = []
    for n, t in enumerate(rows):
        values = {k: f(n, t) for k, f in columns.items()}
        others = {k.removeprefix("others_"): v for k, v in values.items() if k.startswith("others_")}
        made.append(replace(t, **{k: v for k, v in values.items() if not k.startswith("others_")}, others={**t.others, **others}))
    return made


def over_numbers(*means: float) -> list[Trial]:
    """Levels 1, 2, 3 … with three readings about each mean."""
    return [Trial(level=float(at), value=mean + off, resolution=0.01, row=3 * at + n) for n, off in enumerate((-0.1, 0.0, 0.1)) for at, mean in enumerate(means, 1)]


def ask(rows: list[Trial], **more: Any) -> dict[str, Any]:
    a = analyse(rows, Context(**{"factor": "band", "response": "distance", "unit": "m", **more}))
    return {
        "codes": {f.code for f in a.audit},
        "clean": set(a.audit_checked),
        "says": {f.code: f.says for f in a.audit},
        "verdict": a.verdict,
    }


GOOD = shuffled()
TIMES = {"response": "fall time", "unit": "s"}
# code, rows that have it, question, words that must stand in its sentence
HAVE = [
    ("more_than_one_change", each(GOOD, others_fins=lambda n, t: 3.0 if t.level == "thin" else 4.0), {}, "Band and fins"),
    ("control_not_held", each(GOOD, others_angle=lambda n, t: 40.0 + n), {"hold": {"angle": 1.0}}, "Angle (from 40 to 47)"),
    ("level_not_as_cut", GOOD, {"as_cut": (("8 cm was cut as 7.6 cm (Curlew 1)", 0.2),)}, "8 cm was cut as 7.6 cm (Curlew 1). The levels were not quite"),
    ("level_not_as_cut", GOOD, {"as_cut": (("8 cm was cut as 9.2 cm (Curlew 1)", 0.6),)}, "as near to the next level as to its own"),
    ("control_not_held", each(GOOD, others_angle=lambda n, t: 40.0 + 2.5 * (n % 2)), {"hold": {"angle": 1.0}}, "Angle (from 40 to 42.5)"),
    ("control_not_held", each(GOOD, others_angle=lambda n, t: 41.5), {"hold": {"angle": 1.0}, "held_at": {"angle": 40.0}}, "Angle (at 41.5 and not at 40)"),
    (
        "person_mixed_with_level",
        each(GOOD, person=lambda n, t: "Avocet" if t.level == "thin" else ["Bittern", "Curlew"][n % 2]),
        {},
        "at thin",
    ),
    ("group_mixed_with_level", each(GOOD, group=lambda n, t: "Curlew" if t.level == "thin" else "Egret"), {}, "(Curlew at thin and Egret at thick)"),
    ("device_mixed_with_level", each(GOOD, device=lambda n, t: "Amber" if t.level == "thin" else "Cedar"), {}, "One device alone was released in every trial at thin and thick (Amber at thin and Cedar at thick)"),
    ("device_mixed_with_level", each(GOOD, device=lambda n, t: "Amber", version=lambda n, t: "Amber 1" if t.level == "thin" else "Amber 2"), {"changed_in": {"Amber 2": ("band", "nose")}}, "One version alone"),
    ("order_mixed_with_level", each(sorted(GOOD, key=lambda t: str(t.level)), order=lambda n, t: n + 1), {}, "before the next"),
    ("estimated_mixed_with_measured", each(GOOD, kind=lambda n, t: "estimate" if n == 2 else "exact"), {}, "1 of 8 readings was estimated"),
    ("resolution_too_coarse", shuffled([1.0, 1.0, 1.0, 1.0], [1.0, 1.0, 1.1, 1.0], resolution=0.1), {}, "taken to 0.1 m"),
    ("all_estimated", each(GOOD, kind=lambda n, t: "estimate"), {}, "Every reading was estimated"),
    ("reaction_dominates", shuffled([0.6, 0.62, 0.61, 0.63], [0.8, 0.82, 0.81, 0.83]), TIMES, "0.61 s; a thumb’s scatter of 0.1 s is 16 %"),
    ("payload_mixed", each(GOOD, others_payload=lambda n, t: "raw" if n % 2 else "boiled"), {}, "boiled and raw"),
    ("payload_reused", each(GOOD, others_reused=lambda n, t: "yes" if n > 5 else "no"), {}, "2 trials used a payload"),
    ("spread_unequal", shuffled([1.0, 1.01, 1.02, 1.01, 1.0, 1.01], [1.0, 4.0, 2.2, 6.1, 0.3, 5.2]), {}, "more at thick"),
    ("odd_reading", shuffled([1.0, 1.02, 1.01, 1.0, 1.01, 3.0], [2.0, 2.2, 2.1, 2.15, 2.1, 2.2]), {}, "3 m at thin"),
    ("line_does_not_fit", over_numbers(1, 3, 1.4, 4), {}, "A straight line does not fit"),
    ("prediction_missing", GOOD, {"prediction": ""}, "No prediction"),
    ("measuring_rule_missing", GOOD, {"measuring_rule": " "}, "how distance was read"),
    ("instrument_not_reset", each(GOOD, note=lambda n, t: "meter not cleared" if n == 3 else None), {}, "In 1 kept trial "),
    (
        "column_explains_scatter",
        each(
            shuffled([1.0, 2.0, 1.05, 2.05], [1.5, 2.5, 1.55, 2.52]),
            group=lambda n, t: (
                "Red" if ((t.value or 0) % 1 < 0.2 and t.level == "thin" and (t.value or 0) < 1.5) or t.value in (1.5, 1.55) else "Blue"
            ),
        ),
        {},
        "group",
    ),
    (
        "timers_apart",
        each(GOOD, timers=lambda n, t: (1.0, 1.1, 9.0 if n == 2 else 1.0), timers_apart=lambda n, t: (2,) if n == 2 else ()),
        {},
        "do not agree in trial",
    ),
    ("not_planned", GOOD, {"not_planned": True}, "did not set out to compare"),
    ("judging_changed", GOOD, {"judging_changed": ("when a difference is real",)}, "changed in when a difference is real"),
]
# code, rows that have it not though it was looked for, question
HAVE_NOT = [
    ("level_not_as_cut", GOOD, {"as_cut": ()}),
    ("more_than_one_change", each(GOOD, others_fins=lambda n, t: 3.0 + n % 3), {}),
    ("control_not_held", each(GOOD, others_angle=lambda n, t: 40.0 + n % 2), {"hold": {"angle": 1.0}}),
    ("control_not_held", each(GOOD, others_angle=lambda n, t: 40.0 + 2.0 * (n % 2)), {"hold": {"angle": 1.0}}),
    ("control_not_held", each(GOOD, others_angle=lambda n, t: 41.0), {"hold": {"angle": 1.0}, "held_at": {"angle": 40.0}}),
    ("control_not_held", each(GOOD, others_angle=lambda n, t: 40.0), {"hold": {"angle": 0.5}}),  # the plan does not say at what
    ("control_not_held", each(GOOD, others_angle=lambda n, t: 40.0 if n % 3 else None), {"hold": {"angle": 1.0}}),  # not written down each time
    ("more_than_one_change", each(GOOD, others_fins=lambda n, t: 3.0 if t.level == "thin" else None), {}),
    ("person_mixed_with_level", each(GOOD, person=lambda n, t: ["Avocet", "Bittern", "Curlew"][n % 3]), {}),
    ("person_mixed_with_level", each(GOOD, person=lambda n, t: "Avocet"), {}),
    ("group_mixed_with_level", each(GOOD, group=lambda n, t: ["Curlew", "Egret"][n % 2]), {}),
    ("device_mixed_with_level", each(GOOD, device=lambda n, t: ["Amber", "Cedar"][n % 2]), {}),
    ("device_mixed_with_level", each(GOOD, version=lambda n, t: "Amber 1" if t.level == "thin" else "Amber 2"), {"changed_in": {"Amber 2": ("Band",)}}),
    ("order_mixed_with_level", GOOD, {}),
    ("estimated_mixed_with_measured", each(GOOD, kind=lambda n, t: "estimate"), {}),
    ("resolution_too_coarse", GOOD, {}),
    ("all_estimated", GOOD, {}),
    ("reaction_dominates", shuffled([2.6, 2.62, 2.61, 2.63], [2.8, 2.82, 2.81, 2.83]), TIMES),
    ("payload_mixed", each(GOOD, others_payload=lambda n, t: "raw"), {}),
    ("payload_reused", each(GOOD, others_reused=lambda n, t: "no"), {}),
    ("spread_unequal", GOOD, {}),
    ("odd_reading", GOOD, {}),
    ("line_does_not_fit", over_numbers(1, 2, 3, 4), {}),
    ("line_does_not_fit", over_numbers(1, 1, 3, 3), {}),
    ("line_does_not_fit", over_numbers(1, 3, 3, 1), {}),
    ("prediction_missing", GOOD, {"prediction": "Farther."}),
    ("measuring_rule_missing", GOOD, {"measuring_rule": "Nearest edge."}),
    ("instrument_not_reset", each(GOOD, note=lambda n, t: "clear run"), {}),
    ("column_explains_scatter", each(GOOD, group=lambda n, t: ["Red", "Blue"][n % 2]), {}),
    ("timers_apart", each(GOOD, timers=lambda n, t: (1.0, 1.1, 1.0)), {}),
    ("not_planned", GOOD, {"judging_changed": ()}),
    ("judging_changed", GOOD, {"judging_changed": ()}),
]


@pytest.mark.parametrize(("code", "rows", "asked", "words"), HAVE, ids=[h[0] for h in HAVE])
def test_a_table_that_has_it(code: str, rows: list[Trial], asked: dict[str, Any], words: str) -> None:
    found = ask(rows, **asked)
    assert code in found["codes"]
    assert words in found["says"][code]


@pytest.mark.parametrize(("code", "rows", "asked"), HAVE_NOT, ids=[h[0] for h in HAVE_NOT])
def test_a_table_that_has_it_not(code: str, rows: list[Trial], asked: dict[str, Any]) -> None:
    found = ask(rows, **asked)
    assert code not in found["codes"]
    assert code in found["clean"]


def test_every_check_is_tested_both_ways() -> None:
    first_six = {
        "single_trial",
        "few_repeats",
        "unequal_repeats",
        "voids_pile_up",
        "censored",
        "drift_with_order",
    }  # in test_trials_to_verdict
    assert {h[0] for h in HAVE} | first_six == set(CHECKS)
    assert {h[0] for h in HAVE_NOT} | first_six == set(CHECKS)


def test_what_the_trials_do_not_tell_is_not_called_clean() -> None:
    plain = [Trial(level=t.level, value=t.value) for t in GOOD]
    unseen = {
        "person_mixed_with_level",
        "order_mixed_with_level",
        "resolution_too_coarse",
        "reaction_dominates",
        "payload_mixed",
        "payload_reused",
        "prediction_missing",
        "measuring_rule_missing",
        "instrument_not_reset",
        "more_than_one_change",
        "control_not_held",
        "level_not_as_cut",
        "judging_changed",
    }
    assert not unseen & ask(plain)["clean"]


def test_two_changes_at_once_make_the_verdict_one_on_the_design() -> None:
    found = ask(each(GOOD, others_fins=lambda n, t: 3.0 if t.level == "thin" else 4.0))
    assert found["verdict"].about == "design"
    assert found["verdict"].says.startswith("There is a difference, but not only band was changed")


def test_mixed_payloads_stop_the_verdict() -> None:
    assert ask(each(GOOD, others_payload=lambda n, t: "raw" if n % 2 else "boiled"))["verdict"].answer == "cannot_tell"


def test_frames_and_gates_are_not_blamed_on_a_thumb() -> None:
    fine = shuffled([0.6, 0.62, 0.61, 0.63], [0.8, 0.82, 0.81, 0.83], resolution=1 / 240)
    assert "reaction_dominates" not in ask(fine, **TIMES)["codes"]


# --- design rounds ---------------------------------------------------------------------------------------------------

ROUNDS = [
    Trial(level=v, value=x, order=n, row=n, resolution=0.01)
    for n, (v, x) in enumerate(
        [("1", 1.0), ("2", 1.5), ("3", 2.5)] * 1
        + [("1", 1.1), ("2", 1.6), ("3", 2.6), ("1", 1.05), ("2", 1.55), ("3", 2.55), ("1", 1.0), ("2", 1.5), ("3", 2.5)],
        1,
    )
]


def rounds(**more: Any) -> dict[str, Any]:
    return ask(ROUNDS, **{"factor": "version", "response": "height survived", "rounds": True, **more})


def test_design_rounds_ask_only_whether_the_newest_beats_the_one_before() -> None:
    found = rounds(changed_since={"1": (), "2": ("folds (0 → 1)",), "3": ("folds (1 → 2)",)})
    assert found["verdict"].says.startswith("Height survived was about 1.00 m greater with version 3 than with version 2")
    assert (found["verdict"].answer, found["verdict"].about) == ("clear", "variable")
    assert "more_than_one_change" in found["clean"]


def test_two_changes_in_the_newest_version_make_the_verdict_one_on_the_design() -> None:
    found = rounds(changed_since={"1": (), "2": ("folds (0 → 1)",), "3": ("folds (1 → 2)", "corners (square → round)")})
    assert found["verdict"].about == "design"
    assert found["verdict"].says.startswith("The design made the difference, but in it more than one thing was changed. Height survived")
    assert "Version 3 changed 2 things at once (folds (1 → 2), corners (square → round))" in found["says"]["more_than_one_change"]


def test_two_changes_in_an_older_version_stay_a_doubt_and_do_not_touch_the_verdict() -> None:
    found = rounds(changed_since={"1": (), "2": ("folds", "corners"), "3": ("folds",)})
    assert "more_than_one_change" in found["codes"]
    assert found["verdict"].about == "variable"


def test_a_version_that_beats_nothing_is_said_so() -> None:
    same = [
        Trial(level=v, value=x, order=n, row=n, resolution=0.01)
        for n, (v, x) in enumerate(zip(["1", "2", "3"] * 3, [1.0, 1.1, 1.2, 1.2, 1.3, 1.0, 1.1, 1.0, 1.3], strict=True))
    ]
    said = ask(same, factor="version", response="height", rounds=True)["verdict"].says
    assert said.startswith("These trials cannot tell whether version 3 beats version 2.")


# --- an odd reading of a coarse tool ---------------------------------------------------------------------------------


def test_three_readings_of_a_coarse_tool_are_not_odd_because_two_are_alike() -> None:
    from bendro.core.statistics.describe import odd_reading

    assert odd_reading([1.6, 1.6, 1.0]) == 2  # G is 1.1547 whatever the third reading is: above the critical 1.1543
    assert odd_reading([1.6, 1.6, 1.0], step=0.1) is None
    assert odd_reading([1.01, 1.02, 1.0, 1.01, 1.02, 3.0], step=0.01) == 5


def test_an_odd_reading_is_left_alone_where_the_school_says_so() -> None:
    rows = shuffled([1.0, 1.02, 1.01, 1.0, 1.01, 3.0], [2.0, 2.2, 2.1, 2.15, 2.1, 2.2])
    found = ask(rows, ask_about_odd=False)
    assert "odd_reading" not in found["codes"] | found["clean"]


def test_a_leaning_verdict_with_two_changes_claims_no_more_than_it_leans() -> None:
    """What went along with the level may be how it was run: the difference is laid to nothing, and hedged where the verdict only leans."""
    both = {"others_height": lambda n, t: 1.2 if t.level == "thin" else 2.4, "person": lambda n, t: "seat 1" if t.level == "thin" else "seat 2"}
    told = ask(each(GOOD, **both))["verdict"]
    assert told.answer == "leaning"
    assert told.says.startswith("There seems to be a difference, but not only band was changed.")
    assert "design" not in told.says
