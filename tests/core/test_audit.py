"""Every doubt of the audit with a small table that has it and one that has not; its sentence is true of the numbers."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from bendro.core.analyse import Question, analyse
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


def ask(rows: list[Trial], **more: Any) -> dict[str, Any]:
    a = analyse(rows, Question(**{"factor": "band", "response": "distance", "unit": "m", **more}))
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
    ("more_than_one_change", each(GOOD, others_fins=lambda n, t: 3.0 if t.level == "thin" else 4.0), {}, "band and fins"),
    ("control_not_held", each(GOOD, others_angle=lambda n, t: 40.0 + n), {"hold": {"angle": 1.0}}, "angle (from 40 to 47)"),
    (
        "person_mixed_with_level",
        each(GOOD, person=lambda n, t: "Avocet" if t.level == "thin" else ["Bittern", "Curlew"][n % 2]),
        {},
        "at thin",
    ),
    ("order_mixed_with_level", each(sorted(GOOD, key=lambda t: str(t.level)), order=lambda n, t: n + 1), {}, "before the next"),
    ("estimated_mixed_with_measured", each(GOOD, kind=lambda n, t: "estimate" if n == 2 else "exact"), {}, "1 of 8 readings was estimated"),
    ("resolution_too_coarse", shuffled([1.0, 1.1, 1.0, 1.1], [1.0, 1.1, 1.1, 1.1], resolution=0.1), {}, "taken to 0.1 m"),
    ("reaction_dominates", shuffled([0.6, 0.62, 0.61, 0.63], [0.8, 0.82, 0.81, 0.83]), TIMES, "0.61 s; a thumb's scatter of 0.1 s is 16 %"),
    ("payload_mixed", each(GOOD, others_payload=lambda n, t: "raw" if n % 2 else "boiled"), {}, "boiled and raw"),
    ("payload_reused", each(GOOD, others_reused=lambda n, t: "yes" if n > 5 else "no"), {}, "2 trials used a payload"),
    ("spread_unequal", shuffled([1.0, 1.01, 1.02, 1.01, 1.0, 1.01], [1.0, 4.0, 2.2, 6.1, 0.3, 5.2]), {}, "more at thick"),
    ("odd_reading", shuffled([1.0, 1.02, 1.01, 1.0, 1.01, 3.0], [2.0, 2.2, 2.1, 2.15, 2.1, 2.2]), {}, "3 at thin"),
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
]
# code, rows that have it not though it was looked for, question
HAVE_NOT = [
    ("more_than_one_change", each(GOOD, others_fins=lambda n, t: 3.0 + n % 3), {}),
    ("control_not_held", each(GOOD, others_angle=lambda n, t: 40.0 + n % 2), {"hold": {"angle": 1.0}}),
    ("person_mixed_with_level", each(GOOD, person=lambda n, t: ["Avocet", "Bittern", "Curlew"][n % 3]), {}),
    ("person_mixed_with_level", each(GOOD, person=lambda n, t: "Avocet"), {}),
    ("order_mixed_with_level", GOOD, {}),
    ("estimated_mixed_with_measured", each(GOOD, kind=lambda n, t: "estimate"), {}),
    ("resolution_too_coarse", GOOD, {}),
    ("reaction_dominates", shuffled([2.6, 2.62, 2.61, 2.63], [2.8, 2.82, 2.81, 2.83]), TIMES),
    ("payload_mixed", each(GOOD, others_payload=lambda n, t: "raw"), {}),
    ("payload_reused", each(GOOD, others_reused=lambda n, t: "no"), {}),
    ("spread_unequal", GOOD, {}),
    ("odd_reading", GOOD, {}),
    ("prediction_missing", GOOD, {"prediction": "Farther."}),
    ("measuring_rule_missing", GOOD, {"measuring_rule": "Nearest edge."}),
    ("instrument_not_reset", each(GOOD, note=lambda n, t: "clear run"), {}),
    ("column_explains_scatter", each(GOOD, group=lambda n, t: ["Red", "Blue"][n % 2]), {}),
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
    }
    assert not unseen & ask(plain)["clean"]


def test_two_changes_at_once_make_the_verdict_one_on_the_design() -> None:
    found = ask(each(GOOD, others_fins=lambda n, t: 3.0 if t.level == "thin" else 4.0))
    assert found["verdict"].about == "design"
    assert found["verdict"].says.startswith("The design made the difference, but not only band was changed")


def test_mixed_payloads_stop_the_verdict() -> None:
    assert ask(each(GOOD, others_payload=lambda n, t: "raw" if n % 2 else "boiled"))["verdict"].answer == "cannot_tell"


def test_frames_and_gates_are_not_blamed_on_a_thumb() -> None:
    fine = shuffled([0.6, 0.62, 0.61, 0.63], [0.8, 0.82, 0.81, 0.83], resolution=1 / 240)
    assert "reaction_dominates" not in ask(fine, **TIMES)["codes"]
