"""Bands along a tape that score points: the landing is read, its points are judged."""

from __future__ import annotations

from ...draft import MeasureDraft
from ...problem import Problem
from ..zones import bands_of, score_name
from .rules import NumberRules


class ZoneScale(NumberRules):
    """Read as a distance, judged as points; the most points are best."""

    name = "zone"
    whole = True
    scored = True
    best = "high"

    def problems(self, measure: MeasureDraft, where: str) -> list[Problem]:
        return [Problem(code=p.code, where=f"{where}.{p.where}", says=p.says) for p in bands_of(measure)[1]]

    def quantity(self, measure: MeasureDraft) -> str:
        return "count"

    def result_unit(self, measure: MeasureDraft) -> str:
        return "points"

    def result_name(self, measure: MeasureDraft) -> str:
        return score_name(measure)

    def limits(self, measure: MeasureDraft) -> tuple[float | None, float | None]:
        points = [float(z.points) for z in measure.zones]
        return min([0.0, *points]), max([0.0, *points])
