"""What the pictures beside a verdict draw: numbers only, in the unit of the reading; how they look is the page's."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..judgement.audit import drift_of
from ..judgement.deciding import CLEAR_P
from ..judgement.evidence import Evidence
from ..results import LevelName, TrendEffect
from ..statistics.landing import landing, ranks
from ..statistics.trend import band_of, value_at
from ..trials import Trial
from ..written import LEAST_P, at_place, p_text


@dataclass(frozen=True, slots=True, kw_only=True)
class Dot:
    """One trial in a picture. trial: its number in order of release."""

    trial: int | None
    level: LevelName
    x: float
    y: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Fit:
    """The preferred form against its readings. misses: reading − what the form says there, over the setting; band: of the fitted mean
    (setting, low, high); spread: of the misses (standard deviation), None where none is left to judge it by."""

    form: str
    misses: tuple[Dot, ...]
    band: tuple[tuple[float, float, float], ...]
    spread: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class InOrder:
    """Each reading less the mean of its level, over its place in the order of release. slope: per trial, and its p, with the levels in the
    model; None below six trials."""

    dots: tuple[Dot, ...]
    slope: float | None
    p: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Landed:
    """Where the trials of one level landed: along and off the line, in one unit; their middle, the radius about it that holds half, and the
    mean distance off the line. side: "off" of a dot is its y."""

    level: LevelName
    dots: tuple[Dot, ...]
    along: float
    off: float
    half_radius: float
    mean_off: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Cell:
    """Mean of the trials at one setting of both variables."""

    first: LevelName
    second: LevelName
    mean: float
    trials: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    level: LevelName
    mean_rank: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Heats:
    """Mean rank of each level over heats that held them all, first is 1; Friedman's p and Kendall's W where they can be had; says: both in a
    sentence."""

    heats: int
    places: tuple[Place, ...]
    p: float | None
    kendall_w: float | None
    says: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Pictures:
    fit: Fit | None = None
    order: InOrder | None = None
    landed: tuple[Landed, ...] = ()
    crossed: tuple[Cell, ...] = ()
    heats: Heats | None = None


def fit_of(trials: Sequence[Trial], effect: TrendEffect) -> Fit | None:
    """None where no form is drawn, or readings are only bounds, because nothing misses a bound by so much."""
    trend = effect.trend
    form = next(f for f in trend.forms if f.form == trend.preferred)
    kept = [(t, float(t.level), float(t.value)) for t in trials if t.counts and isinstance(t.level, float | int) and t.value is not None]
    if trend.bound or not trend.drawn or not kept:
        return None
    misses = tuple(Dot(trial=t.order, level=x, x=x, y=y - value_at(form, x)) for t, x, y in kept)
    spread = form.residual_sd if form.form != "power" else math.sqrt(math.fsum(d.y**2 for d in misses) / max(len(misses) - 2, 1))
    return Fit(form=form.form, misses=misses, band=band_of(form.form, [x for _, x, _ in kept], [y for *_, y in kept]), spread=spread)


def order_of(evidence: Evidence) -> InOrder | None:
    """None where the order of release is not known, or fewer than two trials have a value."""
    rows = [t for t in evidence.kept() if t.order is not None and t.value is not None]
    if len(rows) < 2:
        return None
    by_level: dict[LevelName, list[float]] = {}
    for t in rows:
        by_level.setdefault(_level(t), []).append(float(t.value or 0.0))
    dots = tuple(
        Dot(trial=t.order, level=_level(t), x=float(t.order or 0), y=float(t.value or 0.0) - math.fsum(by_level[_level(t)]) / len(by_level[_level(t)]))
        for t in rows
    )
    found = drift_of(evidence)
    slope, p = found[1] if found is not None else (None, None)
    return InOrder(dots=dots, slope=slope, p=p)


def _level(t: Trial) -> LevelName:
    return t.level if t.level is not None else ""


def landed_of(levels: Mapping[LevelName, Sequence[tuple[int | None, float, float]]]) -> tuple[Landed, ...]:
    """levels: of each, its landings (trial, along, off the line), one unit."""
    made = []
    for level, points in levels.items():
        if not points:
            continue
        found = landing([p[1] for p in points], [p[2] for p in points])
        made.append(
            Landed(
                level=level,
                dots=tuple(Dot(trial=n, level=level, x=along, y=off) for n, along, off in points),
                along=found.mean_along,
                off=found.mean_off,
                half_radius=found.half_radius,
                mean_off=found.mean_abs_off,
            )
        )
    return tuple(made)


def crossed_of(rows: Sequence[tuple[float, LevelName, LevelName]]) -> tuple[Cell, ...]:
    """rows: (reading, first setting, second setting). Cells in the order in which they are met."""
    cells: dict[tuple[LevelName, LevelName], list[float]] = {}
    for value, first, second in rows:
        cells.setdefault((first, second), []).append(value)
    return tuple(Cell(first=a, second=b, mean=math.fsum(v) / len(v), trials=len(v)) for (a, b), v in cells.items())


def heats_of(trials: Sequence[Trial], *, best_is: str, column: str = "block") -> Heats | None:
    """Readings turned into places within each heat (a block, or what else stands in the column, that holds every level once or more, by its mean). None below two heats or
    two levels, or where readings are only bounds."""
    kept = [t for t in trials if t.counts and t.value is not None and t.column(column) is not None]
    if any(t.kind in ("at_least", "at_most") for t in kept):
        return None
    levels = list(dict.fromkeys(_level(t) for t in kept))
    cells: dict[str, dict[LevelName, list[float]]] = {}
    for t in kept:
        cells.setdefault(str(t.column(column)), {}).setdefault(_level(t), []).append(float(t.value or 0.0))
    sign = -1.0 if best_is == "high" else 1.0
    whole = [{str(n): sign * math.fsum(row[n]) / len(row[n]) for n in levels} for row in cells.values() if len(row) == len(levels)]
    if len(whole) < 2 or len(levels) < 2:
        return None
    found = ranks(whole)
    places = sorted((Place(level=n, mean_rank=found.mean_ranks[str(n)]) for n in levels), key=lambda p: p.mean_rank)
    return Heats(heats=len(whole), places=tuple(places), p=found.p, kendall_w=found.kendall_w, says=_agree(len(whole), found.p, found.kendall_w))


def _agree(heats: int, p: float | None, w: float | None) -> str:
    """Whether heats order the levels alike beyond luck, by Friedman's test at the bound of every verdict."""
    begins = f"The mean place over {heats} heats; 1 is the best."
    if p is None or w is None:
        return begins
    agree = "Heats order them more alike than luck would" if p <= CLEAR_P else "Luck alone could order the heats so"
    return f"{begins} {agree} (Kendall’s W = {at_place(w, 2)}, Friedman’s p {'' if p < LEAST_P else '= '}{p_text(p)})."
