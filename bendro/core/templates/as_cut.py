"""Whether a level was what it was called: what a version measures, held against what its piece was drawn with."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from ..draft import Draft
from ..errors import CoreError
from ..planning.plan import PlannedLevel, level_unit, planned_levels
from ..readings import convert, read
from ..record.built import built_for
from ..record.study import VersionTold
from ..words import said
from ..written import level_label, with_unit
from .made import Templates, templates
from .piece import Ruled

#: A ruler on paper is read to a millimetre, whichever way: less is no slip.
RULER_MM = 1.0
#: A level that is off by more than this share of the way to its neighbour is told; from the second on it lies as near to that one.
TOLD, HALF_WAY = 0.1, 0.5
#: Where there is no neighbour: this share of the size itself.
ALONE = 0.05
_FEET = frozenset({"in", "ft", "yd", "in²", "ft²", "yd²"})


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """What is measured of a version once it is cut. what: which length; called: what it was drawn with, as it is written; unit: in which a bare
    number is read; level: as it is called."""

    what: str
    called: str
    unit: str
    level: str


@dataclass(frozen=True, slots=True, kw_only=True)
class AsCut:
    """A level that was not what it was called. level: its name. says: "8 cm was cut as 7.2 cm (Curlew 1)". share: of the way to the nearest
    other level; None where there is none."""

    level: str
    says: str
    share: float | None


def asked_of(draft: Draft, made: Templates, version: VersionTold) -> Asked | None:
    """What is measured of this version; None where its level is not known or nothing of it is varied in size."""
    found = _drawn(draft, made, version)
    if found is None:
        return None
    level, ruled = found
    unit = "in" if level_unit(draft.variable) in _FEET else "cm"
    return Asked(what=ruled.what, called=with_unit(f"{convert(ruled.mm, 'mm', unit):.3g}", unit), unit=unit, level=level.label)


def _drawn(draft: Draft, made: Templates, version: VersionTold) -> tuple[PlannedLevel, Ruled] | None:
    if draft.study_kind != "fair_test" or draft.second is not None or any(p.where == "variable.levels" for p in made.problems):
        return None  # levels that cannot be read are told in the plan
    level = next((p for p in planned_levels(draft) if built_for(draft, [version], p)), None)
    if level is None:
        return None
    ruled = next((c.piece.ruled for c in made.cutouts if level.label in c.labels and c.piece.ruled is not None), None) or next(
        (r for c in made.cutouts for label, r in c.piece.levels if label == level.label), None
    )
    return None if ruled is None else (level, ruled)


def not_as_called(draft: Draft, versions: Sequence[VersionTold]) -> tuple[AsCut, ...]:
    """The levels whose devices were cut otherwise than they are called, by more than a ruler can tell and more than a tenth of the way to the
    next level."""
    made = templates(draft, alike(v.properties for v in versions if not v.failed))
    found = []
    for v in versions:
        drawn = None if v.failed or not v.measured else _drawn(draft, made, v)
        if drawn is None:
            continue
        level, ruled = drawn
        text = next((t for k, t in v.measured.items() if said(k) == said(ruled.what)), "")
        one = _held_against(draft, level, ruled, text, f"{v.device} {v.number}")
        found += [one] if one is not None else []
    return tuple(found)


def _held_against(draft: Draft, level: PlannedLevel, ruled: Ruled, text: str, whose: str) -> AsCut | None:
    unit = level_unit(draft.variable)
    try:
        mm = read(text, "length", "in" if unit in _FEET else "cm").to("mm") if text.strip() else 0.0
    except CoreError:  # said where it is written
        return None
    if mm <= 0 or abs(mm - ruled.mm) <= RULER_MM:
        return None
    by = (mm / ruled.mm) ** ruled.power
    if not isinstance(level.shown, float | int):
        return AsCut(level=level.label, says=f"{level.label}: the {ruled.what} is {by - 1:+.0%} off ({whose})", share=None) if abs(by - 1) > ALONE else None
    was = float(level.shown) * by
    others = [float(p.shown) for p in planned_levels(draft) if isinstance(p.shown, float | int) and p.id != level.id]
    gap = min((abs(o - float(level.shown)) for o in others), default=0.0)
    share = abs(was - float(level.shown)) / gap if gap else None
    if (share is not None and share < TOLD) or (share is None and abs(by - 1) < ALONE):
        return None
    return AsCut(level=level.label, says=f"{level.label} was cut as {level_label(float(f'{was:.3g}'), unit)} ({whose})", share=share)


def alike(properties: Iterable[Mapping[str, str]]) -> dict[str, str]:
    """The properties that all of these have with one and the same value. properties: a mapping for each."""
    had: list[Mapping[str, str]] = [{said(k): v.strip() for k, v in each.items() if v.strip()} for each in properties]
    return {name: value for name, value in had[0].items() if all(said(other.get(name, "")) == said(value) for other in had)} if had else {}
