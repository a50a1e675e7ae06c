"""A plain drawing of a version that grows from its properties: outlines in millimetres, and where each property sits on it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import cos, pi, sin
from typing import Literal

from ..errors import CoreError
from ..readings import read
from ..words import said
from .version import VersionDraft

#: edge: an outline, filled with the ground; thin: a fine line; fold: dashed; dark: filled with ink; payload: filled with the tape's colour.
Kind = Literal["edge", "thin", "fold", "dark", "payload"]
Point = tuple[float, float]
#: Lengths that are drawn, mm: less or more than these is drawn as these.
SMALLEST, LARGEST = 1.0, 3000.0
_ROUND = 24
_FEET = ("in", "ft", "yd", "in²", "ft²")


@dataclass(frozen=True, slots=True, kw_only=True)
class Stroke:
    """One line or shape. d: path data (SVG's syntax), mm from the upper left corner of the drawing."""

    kind: Kind
    d: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Pin:
    """Where a property is seen on the drawing, mm from its upper left corner."""

    name: str
    x: float
    y: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawing:
    """width, height in mm, y downward. to_scale: at least one length of it is written; what is not written is drawn as is usual.
    unit: of the tape beside it, as its sizes are written, and how many mm that is. says: what is seen, for somebody who cannot see it."""

    view: Literal["from the side", "from above", "from the front", "flat, as it is cut"]
    width: float
    height: float
    to_scale: bool
    unit: str
    unit_mm: float
    says: str
    strokes: tuple[Stroke, ...]
    pins: tuple[Pin, ...]


class Written:
    """The properties of a version as they are asked for by a drawing; what was asked for and stands there is remembered, with its place.
    units: of properties whose value is a bare number."""

    def __init__(self, draft: VersionDraft, units: Mapping[str, str]) -> None:
        self.draft = draft
        self.to_scale = False
        self.inches = False
        self._values = {said(p.name): p.value.strip() for p in draft.properties if p.name.strip() and p.value.strip()}
        self._units = {said(name): unit for name, unit in units.items() if unit}
        self.pins: list[tuple[str, Point]] = []

    def has(self, *names: str) -> bool:
        """Whether any of these is written."""
        return any(said(n) in self._values for n in names)

    def word(self, *names: str) -> str:
        """The first of these that is written, in small letters; "" where none is."""
        return next((said(self._values[said(n)]) for n in names if said(n) in self._values), "")

    def amount(self, quantity: str, unit: str, usual: float, *names: str, least: float = 0.0, most: float = LARGEST) -> float:
        """The first of these that can be read as an amount, in `unit`, else the usual one; held within what can be drawn."""
        for name in map(said, names):
            if name not in self._values:
                continue
            try:
                found = read(self._values[name], quantity, self._units.get(name, unit))
                value = found.to(unit)
            except CoreError:
                continue
            if found.unit in _FEET:
                self.inches = True
            return min(most, max(least, value))
        return usual

    def length(self, usual: float, *names: str, least: float = SMALLEST) -> float:
        """A length in mm; a bare number is in the property's unit, else in cm. It makes the drawing one to scale."""
        found = self.amount("length", "cm", -1.0, *names)
        if found < 0:
            return usual
        self.to_scale = True
        return min(LARGEST, max(least, found * 10))

    def area(self, usual: float, *names: str) -> float:
        """An area in mm²; it makes the drawing one to scale."""
        found = self.amount("area", "cm²", -1.0, *names, most=30_000)
        if found < 0:
            return usual
        self.to_scale = True
        return max(1.0, found * 100)

    def mass(self, usual: float, *names: str) -> float:
        """A mass in g."""
        return self.amount("mass", "g", usual, *names, most=5000)

    def count(self, usual: int, *names: str, least: int = 0, most: int = 16) -> int:
        """A whole number."""
        return round(self.amount("count", "count", usual, *names, least=least, most=most))

    def angle(self, usual: float, *names: str) -> float:
        """An angle in degrees."""
        return self.amount("angle", "°", usual, *names, most=90)

    def pin(self, at: Point, *names: str) -> None:
        """Say where these properties are seen; those that are not written have no pin."""
        for name in names:
            if any(said(p.name) == said(name) for p in self.draft.properties):
                self.pins.append((name, at))


class Board:
    """Shapes put down one after the other, anywhere; at the end they are moved so that the drawing begins at 0, 0."""

    def __init__(self) -> None:
        self._made: list[tuple[Kind, list[Point] | tuple[float, float, float], bool]] = []

    def line(self, points: Sequence[Point], kind: Kind = "thin") -> None:
        self._made.append((kind, list(points), False))

    def shape(self, points: Sequence[Point], kind: Kind = "edge") -> None:
        self._made.append((kind, list(points), True))

    def box(self, x: float, y: float, width: float, height: float, kind: Kind = "edge") -> None:
        self.shape([(x, y), (x + width, y), (x + width, y + height), (x, y + height)], kind)

    def circle(self, x: float, y: float, r: float, kind: Kind = "edge") -> None:
        self._made.append((kind, (x, y, r), True))

    def finish(
        self, view: Literal["from the side", "from above", "from the front", "flat, as it is cut"], says: str, written: Written
    ) -> Drawing:
        """The drawing, moved to its upper left corner."""
        xs, ys = self._reach()
        left, top = min(xs), min(ys)
        return Drawing(
            view=view,
            width=round(max(xs) - left, 1),
            height=round(max(ys) - top, 1),
            to_scale=written.to_scale,
            unit="in" if written.inches else "cm",
            unit_mm=25.4 if written.inches else 10.0,
            says=says,
            strokes=tuple(Stroke(kind=kind, d=_path(what, closed, left, top)) for kind, what, closed in self._made),
            pins=tuple(Pin(name=name, x=round(x - left, 1), y=round(y - top, 1)) for name, (x, y) in written.pins),
        )

    def _reach(self) -> tuple[list[float], list[float]]:
        xs: list[float] = []
        ys: list[float] = []
        for _, what, _ in self._made:
            if isinstance(what, tuple):
                x, y, r = what
                xs += [x - r, x + r]
                ys += [y - r, y + r]
            else:
                xs += [p[0] for p in what]
                ys += [p[1] for p in what]
        return xs, ys


def _path(what: list[Point] | tuple[float, float, float], closed: bool, left: float, top: float) -> str:
    if isinstance(what, tuple):
        x, y, r = what
        return f"M{x - r - left:.1f} {y - top:.1f}a{r:.1f} {r:.1f} 0 1 0 {2 * r:.1f} 0a{r:.1f} {r:.1f} 0 1 0 {-2 * r:.1f} 0z"
    return "M" + "L".join(f"{x - left:.1f} {y - top:.1f}" for x, y in what) + ("z" if closed else "")


def arc(x: float, y: float, r: float, begin: float, end: float, steps: int = _ROUND) -> list[Point]:
    """Points on a circle from angle to angle (degrees, 0 to the right, 90 upward)."""
    return [(x + r * cos(a * pi / 180), y - r * sin(a * pi / 180)) for a in (begin + (end - begin) * i / steps for i in range(steps + 1))]


def along(at: Point, angle: float, far: float, aside: float = 0.0) -> Point:
    """The point so far from `at` in the direction of an angle (degrees, 90 upward), and so far to the left of that."""
    c, s = cos(angle * pi / 180), sin(angle * pi / 180)
    return at[0] + far * c - aside * s, at[1] - far * s - aside * c


def moved(points: Sequence[Point], at: Point, angle: float) -> list[Point]:
    """Points that are given along and aside, put down at a place in the direction of an angle."""
    return [along(at, angle, far, aside) for far, aside in points]
