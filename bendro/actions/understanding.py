"""What was written for a trial, understood as the plan of its study has it."""

from __future__ import annotations

from bendro.core.draft import Draft, MeasureDraft
from bendro.core.errors import CoreError
from bendro.core.measuring.scales import same_quantity, understand
from bendro.core.measuring.taking import Read, Taken, with_clocks
from bendro.core.record import BEHAVIOUR, ReadingRecord, TrialRecord

from .errors import Refused

BEHAVIOURS = MeasureDraft(id=BEHAVIOUR, name="behaviour", scale="behaviour", quantity="number", unit="")


def checked(draft: Draft, given: TrialRecord) -> tuple[TrialRecord, list[tuple[ReadingRecord, Read | None]]]:
    """The trial with its readings understood. A void trial keeps what was written even where it is no reading. Raises Refused,
    ReadingRefused."""
    if given.state == "void" and not given.fault.strip():
        raise Refused("A void trial needs its fault named: what went wrong?", code="fault_missing", where="fault")
    read: list[tuple[ReadingRecord, Read | None]] = []
    for one in given.readings:
        if not one.written:
            continue
        try:
            read.append((one, understood(draft, one)))
        except CoreError:
            if given.state == "kept":
                raise
            read.append((one, None))
    first = draft.measure.id
    if given.state == "kept" and not any(one.measure == first and got is not None for one, got in read):
        raise Refused(
            "Nothing is written for this trial. Type the reading, or void the trial and name the fault.",
            code="reading_empty",
            where="reading",
        )
    return given, read


def understood(draft: Draft, one: ReadingRecord) -> Read | None:
    """A reading under the unit in which it was written. A measure that the plan does not have, and a unit that the measure does not
    have, are refused with what fits."""
    measure = BEHAVIOURS if one.measure == BEHAVIOUR else draft.measure_of(one.measure)
    if measure is None:
        raise Refused(
            "The plan no longer has the measure that this was read for. Look at the plan and write it again.", code="measure_gone", where="reading"
        )
    if one.payload > max(1, len(draft.payloads)):
        raise Refused(f"The plan has no payload {one.payload}. Look at the plan and write it again.", code="payload_gone", where="reading")
    if not same_quantity(one.unit, measure):
        raise Refused(
            f"This was written in {one.unit or 'no unit'}, and {measure.name or 'the measure'} is read in {measure.unit or 'no unit'} now. "
            "Look at the plan and write it again.",
            code="reading_unit",
            where="reading",
        )
    got = understand(measure, one.texts, unit=one.unit, by=draft.timers_by, how=one.taken)
    return with_clocks(got, one.clock_s) if isinstance(got, Taken) and measure.quantity == "time" else got
