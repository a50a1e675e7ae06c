"""Bands along a tape that score points: a landing is read as a distance, its points follow."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..draft import MeasureDraft
from ..errors import CoreError
from ..once import once_for_each
from ..problem import Problem
from ..readings import read
from .taking import Taken


@dataclass(frozen=True, slots=True, kw_only=True)
class Band:
    """From start to end in the measure's unit, start < end."""

    start: float
    end: float
    points: int


@once_for_each
def bands_of(measure: MeasureDraft) -> tuple[tuple[Band, ...], tuple[Problem, ...]]:
    """The bands of a measure from near to far, and what is wrong with them."""
    made: list[Band] = []
    found: list[Problem] = []
    for at, zone in enumerate(measure.zones):
        try:
            start, end = (read(t, measure.quantity, measure.unit, signed=True).to(measure.unit) for t in (zone.start, zone.end))
        except CoreError as why:
            found.append(Problem(code=why.code, where=f"zones.{at}", says=f"Zone {at + 1}: {why.says}"))
            continue
        if not start < end:
            found.append(Problem(code="zone_order", where=f"zones.{at}", says=f"Zone {at + 1} ends where it starts or before; write where it starts first."))
            continue
        made.append(Band(start=start, end=end, points=zone.points))
    made.sort(key=lambda b: b.start)
    for a, b in zip(made, made[1:], strict=False):
        if b.start < a.end:
            found.append(Problem(code="zone_overlap", where="zones", says=f"Two zones lie over each other between {b.start:g} and {min(a.end, b.end):g} {measure.unit}."))
    if not measure.zones:
        found.append(Problem(code="zones_missing", where="zones", says="Say where each zone starts and ends, and its points."))
    return tuple(made), tuple(found)


def points_of(measure: MeasureDraft, taken: Taken) -> float | None:
    """The points of a landing; 0 short of the first band, beyond the last and between two. On a line the edge rule decides.
    None for a mere bound, unless it lies past every band."""
    bands, _ = bands_of(measure)
    value = taken.in_unit(measure.unit).value
    if taken.kind in ("at_least", "at_most"):
        past = all(b.end < value for b in bands) if taken.kind == "at_least" else all(value < b.start for b in bands)
        return 0.0 if past else None
    inside = [b.points for b in bands if b.start < value < b.end and not _on(value, b.start) and not _on(value, b.end)]
    if inside:
        return float(inside[0])
    touching = [b.points for b in bands if _on(value, b.start) or _on(value, b.end)]
    if not touching:
        return 0.0
    if len(touching) == 1:  # the outer edge of a band: inside it, or nothing
        return float(max(touching[0], 0) if measure.edge == "higher" else min(touching[0], 0))
    return float(max(touching) if measure.edge == "higher" else min(touching))


def _on(value: float, line: float) -> bool:
    """Whether a landing is on a line, however both were written: 8 ft 2 in and 2.4892 m are one place."""
    return math.isclose(value, line, rel_tol=1e-9, abs_tol=1e-12)


def score_name(measure: MeasureDraft) -> str:
    """What a zone measure is called where its points are judged, not the landing itself."""
    return f"score for {measure.name}"


def points_text(points: float) -> str:
    """Points as they are said: "1 point", "5 points", "−2 points"."""
    return f"{points:g} point{'' if abs(points) == 1 else 's'}".replace("-", "−")
