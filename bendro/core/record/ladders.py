"""Drops of the record on rungs: which trials are drops, and what those of one specimen tell together."""

from __future__ import annotations

from collections.abc import Sequence

from ..draft import Draft
from ..measuring.drops import Bracket, Drop, bracket, over
from ..measuring.scales import scale_of
from ..measuring.taking import survived, whole_of
from ..planning.safety import drop_heights
from ..readings import read
from .seen import ReadingSeen, TrialSeen


def on_rungs(draft: Draft) -> bool:
    """Whether each trial is one drop of a specimen at a rung."""
    return scale_of(draft.measure).survives and draft.drop is not None and draft.drop.plan != "one_height"


def every_rung(draft: Draft) -> bool:
    """Whether every specimen is dropped from every rung, failed or not."""
    return on_rungs(draft) and draft.drop is not None and draft.drop.plan == "rungs"


def is_over(draft: Draft, drops: Sequence[Drop]) -> bool:
    """Whether no drop is left for a specimen of this plan."""
    return over(drops, drop_heights(draft), every=every_rung(draft))


def payloads_of(draft: Draft, measure_id: str) -> int:
    """How many payloads a measure is read for at each trial."""
    measure = draft.measure_of(measure_id)
    return max(1, len(draft.payloads)) if measure is not None and measure.each_payload else 1


def whole_word(draft: Draft, readings: Sequence[ReadingSeen], measure_id: str = "") -> str | None:
    """What became of a trial as a whole, on the scale of an outcome (of the first measure where none is named)."""
    measure = draft.measure_of(measure_id or draft.measure.id)
    if measure is None or not measure.words:
        return None
    return whole_of(measure, [r.words[0] for r in readings if r.measure == measure.id and r.words], payloads_of(draft, measure.id))


def drop_of(draft: Draft, rung: str, word: str | None) -> Drop | None:
    """A trial as a drop at its rung; None where the rung or the outcome is not known."""
    passed = survived(draft.measure, word) if word else None
    if passed is None or draft.drop is None or not rung.strip():
        return None
    return Drop(height=read(rung, "length", draft.drop.unit).to(draft.drop.unit), survived=passed)


def drops_of(draft: Draft, trials: Sequence[TrialSeen]) -> dict[tuple[int, str], list[Drop]]:
    """The counted drops of each specimen in the order of release, by the block and level of its turn."""
    drops: dict[tuple[int, str], list[Drop]] = {}
    for t in trials:
        if t.counts:
            one = drop_of(draft, t.rung, whole_word(draft, t.readings))
            if one is not None:
                drops.setdefault((t.block, t.level), []).append(one)
    return drops


def brackets_of(draft: Draft, trials: Sequence[TrialSeen]) -> dict[tuple[int, str], Bracket]:
    """What the drops of each specimen tell, by the block and level of its turn."""
    rungs = drop_heights(draft)
    return {cell: bracket(made, rungs) for cell, made in drops_of(draft, trials).items()}
