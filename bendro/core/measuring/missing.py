"""What still has to be written before a trial can be kept; the lane says the same while the server is away (web/src/machines/missing.ts,
held to it by tests/drift/missing_cases.json)."""

from __future__ import annotations

from collections.abc import Collection

from ..draft import Draft, MeasureDraft
from .scales import scale_of


def payloads_of(draft: Draft, measure: MeasureDraft) -> int:
    """How many readings of a measure a trial has: one, or one for each payload of the device."""
    return len(draft.payloads) if measure.each_payload and len(draft.payloads) > 1 else 1


def missing(draft: Draft, written: Collection[int]) -> str:
    """What is missing for the first measure, as it is said; "" where nothing is. written: payloads (1 …) for which something stands there."""
    measure = draft.measure
    if len(set(written)) >= payloads_of(draft, measure):
        return ""
    if written:
        return "One payload is not judged yet. Judge it, or void the trial."
    if measure.timed:
        return "No time yet: press Release, or type the time."
    if scale_of(measure).number:
        return "Nothing is written yet. Type the reading, or void the trial."
    return "Nothing is chosen yet. Press what became of it, or void the trial."
