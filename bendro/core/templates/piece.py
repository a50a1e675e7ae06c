"""One piece to cut: its lines in millimetres, what is written on it, and the one size that is measured once it is cut."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from math import cos, hypot, pi, radians, sin
from typing import Literal

Point = tuple[float, float]
#: cut: solid. up: folded towards you. down: folded away. mark: drawn and never cut. hole: a round hole to cut or pierce.
LineKind = Literal["cut", "up", "down", "mark", "hole"]
#: Round lines are drawn with so many corners a turn: of a circle of 150 mm the chord strays by 0.02 mm.
CORNERS = 192
#: Beside a varied size stands a measuring strip so wide, mm, with what was measured written along it.
STRIP, STRIP_ROOM = 4.0, 10.0
LEVEL_TALL, SMALL_TALL = 6.0, 3.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """points: mm, y downward. Of a hole two: its middle, and a point on its rim."""

    kind: LineKind
    points: tuple[Point, ...]
    closed: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Note:
    """Words on a piece. at: where their middle stands; tall: height of the letters, mm; turn: degrees clockwise."""

    at: Point
    text: str
    tall: float = SMALL_TALL
    turn: float = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Ruled:
    """What is measured once the piece is cut. name: the varied size; what: the length that is measured for it; mm: as it is drawn; power: the size
    goes as so high a power of that length (2 for an area). The strip beside it runs from `begin` to `end`."""

    name: str
    what: str
    mm: float
    power: int
    begin: Point
    end: Point


@dataclass(frozen=True, slots=True, kw_only=True)
class Piece:
    """kind: the same for the same piece at every level. count: so many of it for one device. width, height: of everything that is drawn,
    mm, with the strip and the words beside it. room: a place within the outline (x, y, width, height) for the level and the group.
    levels: where it serves several levels, what is measured at each, by its label."""

    kind: str
    count: int
    width: float
    height: float
    lines: tuple[Line, ...]
    notes: tuple[Note, ...] = ()
    ruled: Ruled | None = None
    levels: tuple[tuple[str, Ruled], ...] = ()
    room: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)

    def outline(self) -> tuple[Point, ...]:
        """The corners of its first closed cut."""
        return next((line.points for line in self.lines if line.kind == "cut" and line.closed), ())


def area_of(points: Sequence[Point]) -> float:
    """Area of a polygon, mm² (the shoelace sum; common practice)."""
    turns = zip(points, [*points[1:], *points[:1]], strict=True)
    return abs(sum(x1 * y2 - x2 * y1 for (x1, y1), (x2, y2) in turns)) / 2


def arc(middle: Point, r: float, begin: float, end: float) -> list[Point]:
    """Points of an arc, from angle to angle in degrees (0 to the right, 90 upward)."""
    steps = max(2, round(CORNERS * abs(end - begin) / 360))
    return [(middle[0] + r * cos(radians(a)), middle[1] - r * sin(radians(a))) for a in (begin + (end - begin) * i / steps for i in range(steps + 1))]


def circle(middle: Point, r: float) -> list[Point]:
    return arc(middle, r, 0, 360)[:-1]


def at_angle(middle: Point, degrees: float, far: float) -> Point:
    return middle[0] + far * cos(radians(degrees)), middle[1] - far * sin(radians(degrees))


@dataclass
class Cutter:
    """A piece in the making, drawn anywhere; at the end it is moved so that it begins at 0, 0."""

    kind: str
    count: int = 1
    lines: list[Line] = field(default_factory=list)
    notes: list[Note] = field(default_factory=list)
    ruled: Ruled | None = None
    levels: list[tuple[str, Ruled]] = field(default_factory=list)
    room: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)

    def _put(self, kind: LineKind, points: Sequence[Point], closed: bool) -> None:
        self.lines.append(Line(kind=kind, points=tuple(points), closed=closed))

    def cut(self, points: Sequence[Point], closed: bool = True) -> None:
        self._put("cut", points, closed)

    def up(self, begin: Point, end: Point) -> None:
        self._put("up", (begin, end), False)

    def down(self, begin: Point, end: Point) -> None:
        self._put("down", (begin, end), False)

    def mark(self, points: Sequence[Point], closed: bool = False) -> None:
        self._put("mark", points, closed)

    def cross(self, at: Point, arm: float = 2.0) -> None:
        x, y = at
        self.mark([(x - arm, y), (x + arm, y)])
        self.mark([(x, y - arm), (x, y + arm)])

    def hole(self, middle: Point, r: float) -> None:
        self._put("hole", (middle, (middle[0] + r, middle[1])), False)

    def box(self, x: float, y: float, width: float, height: float) -> None:
        self.cut([(x, y), (x + width, y), (x + width, y + height), (x, y + height)])

    def note(self, at: Point, text: str, tall: float = SMALL_TALL, turn: float = 0) -> None:
        self.notes.append(Note(at=at, text=text, tall=tall, turn=turn))

    def measured(self, name: str, begin: Point, end: Point, mm: float | None = None, *, what: str = "", power: int = 1) -> None:
        """The strip stands beside what runs from begin to end: to the right of the piece where that is upright, else below it."""
        self.ruled = Ruled(name=name, what=what or name, mm=hypot(end[0] - begin[0], end[1] - begin[1]) if mm is None else mm, power=power, begin=begin, end=end)

    def finish(self) -> Piece:
        xs, ys = self._reach()
        left, top, right, low = min(xs), min(ys), max(xs), max(ys)
        ruled = self.ruled
        if ruled is not None:
            upright = abs(ruled.begin[0] - ruled.end[0]) < abs(ruled.begin[1] - ruled.end[1])
            if upright:
                begin, end, right = (right + 1.5, ruled.begin[1]), (right + 1.5, ruled.end[1]), right + 1.5 + STRIP_ROOM
            else:
                begin, end, low = (ruled.begin[0], low + 1.5), (ruled.end[0], low + 1.5), low + 1.5 + STRIP_ROOM
            ruled = replace(ruled, begin=(begin[0] - left, begin[1] - top), end=(end[0] - left, end[1] - top))

        def moved(p: Point) -> Point:
            return round(p[0] - left, 4), round(p[1] - top, 4)

        return Piece(
            kind=self.kind,
            count=self.count,
            width=round(right - left, 4),
            height=round(low - top, 4),
            lines=tuple(Line(kind=li.kind, points=tuple(map(moved, li.points)), closed=li.closed) for li in self.lines),
            notes=tuple(Note(at=moved(n.at), text=n.text, tall=n.tall, turn=n.turn) for n in self.notes),
            ruled=ruled,
            levels=tuple(self.levels),
            room=(*moved((self.room[0], self.room[1])), self.room[2], self.room[3]),
        )

    def _reach(self) -> tuple[list[float], list[float]]:
        xs: list[float] = []
        ys: list[float] = []
        for line in self.lines:
            points = line.points
            if line.kind == "hole":
                (x, y), r = points[0], points[1][0] - points[0][0]
                points = ((x - r, y - r), (x + r, y + r))
            xs += [p[0] for p in points]
            ys += [p[1] for p in points]
        return xs, ys


def sector(radius: float, height: float) -> tuple[float, float]:
    """(slant, angle in degrees) of the sector that rolls into a cone, both lengths in mm. Its area π·r·s is the cone's lateral area
    (common practice)."""
    slant = hypot(radius, height)
    return slant, 360 * radius / slant


def round_length(diameter: float) -> float:
    """What goes once round a tube of this diameter."""
    return pi * diameter
