"""What is said to be missing in a report."""

from __future__ import annotations

import pytest

from bendro.core.analyse import analyse
from bendro.core.context import Context
from bendro.core.draft import DecidedDraft, Draft, Held, MeasureDraft, VariableDraft
from bendro.core.report.marking import missing
from bendro.core.trials import Trial

DRAFT = Draft(
    variable=VariableDraft(name="wing", quantity="length", unit="cm", levels=["4", "6"]),
    measures=[MeasureDraft(id="m1", name="distance", quantity="length", unit="m", rule="First touch.")],
    hold=[Held(name="projectile", how="one bag")],
    prediction="Farther.",
    reason="More lift.",
    decided=DecidedDraft(change="nose"),
)


def found(*values: tuple[float, float]) -> list[Trial]:
    return [Trial(level=level, value=v, row=n) for n, (level, v) in enumerate(values, 1)]


CLEAR = analyse(found(*((4.0, 1 + n / 10) for n in range(3)), *((6.0, 3 + n / 10) for n in range(3))), Context(factor="wing", response="distance", unit="m"))
NOT = analyse(found((4.0, 1.0), (6.0, 1.1), (4.0, 1.2), (6.0, 0.9)), Context(factor="wing", response="distance", unit="m"))
WHOLE = "The trials show that 6 cm flies 2 m farther, as we predicted."


def test_a_whole_report_lacks_nothing() -> None:
    assert CLEAR.verdict.answer == "clear"
    assert missing(DRAFT, CLEAR, {"conclusion": WHOLE}, [], planned=6) == ()


@pytest.mark.parametrize(("change", "texts", "without", "planned", "says"), [
    ({}, {}, [], 6, "No conclusion is written."),
    ({}, {"conclusion": "We found that"}, [], 6, "The conclusion is only begun."),
    ({}, {"conclusion": "The trials show it flies much farther, as we predicted."}, [], 6, "The conclusion names no number."),
    ({}, {"conclusion": "The trials show that 6 cm flies 2 m farther."}, [], 6, "The conclusion does not go back to the prediction."),
    ({"reason": ""}, {"conclusion": WHOLE}, [], 6, "The prediction has no reason."),
    ({"prediction": ""}, {"conclusion": WHOLE}, [], 6, "No prediction was made."),
    ({}, {"conclusion": WHOLE}, [], 8, "6 of 8 planned trials are in it."),
    ({}, {"conclusion": WHOLE}, ["fairer"], 6, "What would make it fairer was left out."),
    ({"decided": DecidedDraft()}, {"conclusion": WHOLE}, [], 6, "What they would change next is not in their own words."),
    ({"hold": [Held(name="projectile")]}, {"conclusion": WHOLE}, [], 6, "How projectile was kept the same is not said."),
    ({"measures": [DRAFT.measures[0].model_copy(update={"rule": ""})]}, {"conclusion": WHOLE}, [], 6, "It does not say how the reading was taken."),
])  # fmt: skip
def test_each_thing_is_told_alone(change: dict[str, object], texts: dict[str, str], without: list[str], planned: int, says: str) -> None:
    assert missing(DRAFT.model_copy(update=change), CLEAR, texts, without, planned=planned) == (says,)


def test_a_conclusion_stronger_than_the_evidence_is_told() -> None:
    assert NOT.verdict.answer == "cannot_tell"
    told = missing(DRAFT, NOT, {"conclusion": "This proves that 6 cm is better, as we predicted."}, [], planned=4)
    assert told == ("The conclusion says more than the trials can: the verdict is not clear.",)
    assert missing(DRAFT, NOT, {"conclusion": "These 4 trials cannot tell what we predicted."}, [], planned=4) == ()
