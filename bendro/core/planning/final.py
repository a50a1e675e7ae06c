"""The plan of a final: the best of each group, or the best devices, called to one last contest."""

from __future__ import annotations

import math
import statistics
from collections.abc import Callable, Mapping, Sequence
from typing import Literal

from ..draft import DecidedDraft, Draft, VariableDraft
from ..errors import PlanRefused

#: So many stand in a final; a heat holds no more.
MOST = 6
REPEATS = 3


def finalists(steps: Sequence[tuple[int, str]], best_of: Mapping[str, str]) -> tuple[str, ...]:
    """Who is called: in a plan of groups each group with the level that was its best, else the first of the podium with all who share
    their step. steps: place and label, best first; best_of: by group the label of its best level, empty where groups release devices of
    their own or there are none. Raises PlanRefused where fewer than two could meet."""
    names = [f"{group}, {label}" for group, label in best_of.items()] if len(best_of) > 1 else []
    if not names:
        last = max((place for place, _ in steps[:MOST]), default=0)
        names = [label for place, label in steps if place <= last]
        if len(names) > MOST:  # a step shared by too many is left out whole
            names = [label for place, label in steps if place < last]
    if len(names) < 2:
        raise PlanRefused("A final needs two devices that were tried. Run more of them first.", code="final_few", where="levels")
    return tuple(names[:MOST])


def best_levels(
    values: Mapping[str, Mapping[str, Sequence[float]]], *, better: Literal["high", "low"], result: Literal["mean", "median", "best", "total"] = "mean"
) -> dict[str, str]:
    """By group the level with its best result. values: kept readings in one unit, by group and level, at least one each. result: what the
    study calls the result of a level."""
    sign = 1 if better == "high" else -1

    def of(readings: Sequence[float]) -> float:
        if result == "best":
            return (max if better == "high" else min)(readings)
        ways: dict[str, Callable[[Sequence[float]], float]] = {"mean": statistics.fmean, "median": statistics.median, "total": math.fsum}
        return ways[result](readings)

    return {group: max(levels, key=lambda i: sign * of(levels[i])) for group, levels in values.items()}


def final_plan(draft: Draft, names: Sequence[str]) -> Draft:
    """A contest of these devices under the same rule: measured, held, limited and released as before; the prediction is made anew."""
    question = draft.question.strip()
    return draft.model_copy(
        update={
            "question": f"Which is best? Final of: {question}"[:300] if question else "Which is best?",
            "study_kind": "contest",
            "variable": VariableDraft(name="device", kind="name", quantity="number", unit="", levels=[n[:60] for n in names]),
            "second": None,
            "groups": [],
            "repeats": REPEATS,
            "reserve": 0,
            "limits": [limit for limit in draft.limits if limit.on != "variable"],
            "prediction": "",
            "reason": "",
            "expect": "",
            "decided": DecidedDraft(),
        }
    )
