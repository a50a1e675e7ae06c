"""What flies or falls: rotors, gliders, canopies. Each function gives the pieces of one device from its sizes; proportions that are no size
are common practice."""

from __future__ import annotations

from math import cos, pi, radians, sqrt

from ..errors import PlanRefused
from .piece import Cutter, Piece, Point, Ruled, arc, at_angle, circle, round_length
from .sizes import Setting, Sizes


def rotor(s: Sizes) -> list[Piece]:
    """Two blades, a body, a tail with its end folded up under the clip."""
    blade, wide, cut = s.of("blade length"), s.of("blade width"), s.of("tip cut")
    body, tail, tail_wide, end = s.of("body height"), s.of("tail length"), s.of("tail width"), 12.0
    if tail_wide > 2 * wide:
        raise PlanRefused("The tail is wider than both blades together. Make it narrower.", code="size_range", where="tail width")
    if cut >= min(blade, wide):
        raise PlanRefused("A tip cut as long as the blade leaves no blade.", code="size_range", where="tip cut")
    if tail <= end:
        raise PlanRefused("The tail needs more than 1.2 cm: its end is folded up.", code="size_range", where="tail length")
    c, half, root, low = Cutter("rotor"), tail_wide / 2, blade + body, blade + body + tail
    left: list[Point] = [(-wide + cut, 0), (-wide, cut)] if cut else [(-wide, 0)]
    right: list[Point] = [(wide, cut), (wide - cut, 0)] if cut else [(wide, 0)]
    c.cut([*left, (-wide, root), (-half, root), (-half, low), (half, low), (half, root), (wide, root), *right])
    c.cut([(0, 0), (0, blade)], closed=False)
    c.up((-wide, blade), (0, blade))
    c.down((0, blade), (wide, blade))
    c.up((-half, low - end), (half, low - end))
    c.hole((0, low - end / 2), 1.5)
    if wide >= 20 and blade >= 30:
        c.note((-wide / 2, blade - 3), "fold to you", 2.4)
        c.note((wide / 2, blade - 3), "fold away", 2.4)
    if body >= 8:
        c.note((0, blade + body / 2), "version ____", 2.4)
    c.room = (-wide + 1.5, cut + 2, wide - 3, max(0.0, blade - cut - 8))
    if s.is_varied("blade width"):
        c.measured("blade width", (0, 0), (wide, 0))
    elif s.is_varied("tail length"):
        c.measured("tail length", (0, root), (0, low))
    elif s.is_varied("tip cut"):
        c.measured("tip cut", (wide, 0), (wide, cut)) if cut else None
    else:
        c.measured("blade length", (wide, 0), (wide, blade))
    return [c.finish()]


def seed(s: Sizes) -> list[Piece]:
    """One wing with a heavy end that is rolled up in two folds."""
    blade, wide, cut, heavy = s.of("blade length"), s.of("blade width"), s.of("tip cut"), s.of("heavy end")
    if cut >= min(blade, wide):
        raise PlanRefused("A tip cut as long as the wing leaves no wing.", code="size_range", where="tip cut")
    c = Cutter("seed")
    tip: list[Point] = [(blade - cut, wide), (blade, wide - cut)] if cut else [(blade, wide)]
    c.cut([(-heavy, 0), (blade, 0), *reversed(tip), (0, wide), (-heavy, wide)])
    c.up((-heavy / 2, 0), (-heavy / 2, wide))
    c.up((0, 0), (0, wide))
    c.hole((-heavy / 4, wide / 2), 1.5)
    c.note((-heavy / 4, wide - 3), "clip", 2.4)
    c.room = (2, 2, max(0.0, blade - cut - 6), wide - 8)
    c.note((min(22.0, blade / 2), wide - 3), "version ____", 2.4)
    if s.is_varied("blade width"):
        c.measured("blade width", (0, 0), (0, wide))
    elif s.is_varied("tip cut"):
        c.measured("tip cut", (blade - cut, wide), (blade, wide), cut) if cut else None
    else:
        c.measured("blade length", (0, wide), (blade, wide))
    return [c.finish()]


def _strip(kind: str, diameter: float, wide: float, overlap: float, name: str, varied: bool) -> Piece:
    c, once = Cutter(kind), round_length(diameter)
    c.box(0, 0, once + overlap, wide)
    c.mark([(once, 0), (once, wide)])
    c.note((once + overlap / 2, wide / 2), "glue", 2.4, 90)
    c.note((once / 2, wide - 3), f"{name}: edge to the line makes a ring {diameter / 10:.4g} cm across", 2.4)
    c.room = (3, 1.5, once - 6, wide - 7)
    if varied:
        c.measured("hoop diameter", (0, wide), (once, wide), once, what="small hoop from edge to line")
    return c.finish()


def hoops(s: Sizes) -> list[Piece]:
    """Two ring strips for a straw: the small one of the diameter, the large one of its own."""
    small, large, wide, overlap = s.of("hoop diameter"), s.of("larger hoop diameter"), s.of("hoop width"), s.of("overlap")
    if large < small:
        raise PlanRefused("The larger hoop is smaller than the other. Write its diameter anew.", code="size_range", where="larger hoop diameter")
    straw = Cutter("place on the straw")
    long = s.of("body length")
    straw.mark([(0, 0), (long, 0)])
    for x in (0.0, 6.0 + wide, long - 6 - wide, long):
        straw.mark([(x, -3), (x, 3)])
    straw.note((6 + wide / 2, 7), "hoop here", 2.4)
    straw.note((long - 6 - wide / 2, 7), "hoop here", 2.4)
    straw.note((long / 2, 7), f"lay the straw here: {long / 10:.4g} cm", 2.4)
    straw.mark([(0, 9), (long, 9)])
    if s.is_varied("body length"):
        straw.measured("body length", (0, 9), (long, 9))
    return [
        _strip("small hoop", small, wide, overlap, "small hoop", s.is_varied("hoop diameter")),
        _strip("large hoop", large, wide, overlap, "large hoop", False),
        straw.finish(),
    ]


def ring_wing(s: Sizes) -> list[Piece]:
    """A strip whose front edge is folded over and over, then closed to a ring."""
    across, deep, folds, each, overlap = s.of("hoop diameter"), s.of("strip depth"), s.whole("number of folds"), s.of("fold width"), s.of("overlap")
    if folds * each >= deep:
        raise PlanRefused(f"{folds} folds of {each / 10:g} cm use up the whole strip. Fewer folds, or a deeper strip.", code="size_range", where="number of folds")
    c, once = Cutter("ring wing"), round_length(across)
    c.box(0, 0, once + overlap, deep)
    for i in range(1, folds + 1):
        c.up((0, i * each), (once + overlap, i * each))
    c.mark([(once, 0), (once, deep)])
    c.note((once + overlap / 2, deep - 12), "tuck in", 2.4, 90)
    c.room = (3, folds * each + 2, once - 6, max(0.0, deep - folds * each - 10))
    c.note((20, deep - 3), "version ____", 2.4)
    if s.is_varied("hoop diameter"):
        c.measured("hoop diameter", (0, deep), (once, deep), once, what="strip from edge to line")
    elif folds and s.is_varied("number of folds"):
        c.measured("number of folds", (once + overlap, 0), (once + overlap, folds * each), folds * each, what="folded part of the strip")
    return [c.finish()]


def flat_wing(s: Sizes) -> list[Piece]:
    """Wing, tail and body of card or foam; places for the nose clay."""
    span, chord, long, tail = s.of("wing span"), s.of("wing chord"), s.of("body length"), s.of("tail span")
    wing = Cutter("wing")
    tip, sweep = 0.75 * chord, 0.25 * chord
    wing.cut([(-span / 2, sweep), (0, 0), (span / 2, sweep), (span / 2, sweep + tip), (0, chord), (-span / 2, sweep + tip)])
    wing.mark([(0, 0), (0, chord)])
    wing.note((8, chord / 2), "middle", 2.4, 90)
    wing.room = (-span / 2 + 3, sweep + 2, span / 2 - 8, tip - 6)
    if s.is_varied("wing span"):
        wing.measured("wing span", (-span / 2, chord), (span / 2, chord))
    rear = Cutter("tail")
    deep = 0.6 * chord
    rear.box(-tail / 2, 0, tail, deep)
    rear.mark([(0, 0), (0, deep)])
    rear.room = (-tail / 2 + 2, 2, tail / 2 - 4, deep - 4)
    body = Cutter("body")
    high = 15.0
    body.box(0, 0, long, high)
    body.mark(circle((7, high / 2), 5), True)
    body.note((19, high / 2), "clay", 2.4)
    at = 0.3 * long
    for x in (at, at + chord, long - deep):
        body.mark([(x, 0), (x, high)])
    body.note((at + chord / 2, 4), "wing", 2.4)
    body.note((long - deep / 2, 4), "tail", 2.4)
    body.room = (at + chord + 1, 1, max(0.0, long - deep - at - chord - 2), high - 2)
    if s.is_varied("body length"):
        body.measured("body length", (0, high), (long, high))
    return [wing.finish(), rear.finish(), body.finish()]


def hole_places(shape: str, across: float, lines: int, inset: float) -> list[Point]:
    """Where the lines are tied: equally spaced by angle, so far in from the edge. across: mm, side of a square, width over the flats of a
    hexagon, diameter of a circle."""
    begin = {"square": 45.0, "hexagon": 0.0, "circle": 90.0}[shape]
    return [at_angle((0.0, 0.0), begin + 360 * i / lines, _rim(shape, across - 2 * inset, begin + 360 * i / lines)) for i in range(lines)]


def _rim(shape: str, across: float, degrees: float) -> float:
    """From the middle to the rim in a direction."""
    if shape == "circle":
        return across / 2
    sides, first = (4, 0.0) if shape == "square" else (6, 30.0)
    step = 360 / sides
    off = (degrees - first + step / 2) % step - step / 2
    return across / 2 / cos(radians(off))


def across_for(shape: str, area: float) -> float:
    """Width of a shape of this area, mm from mm²: side, width over the flats, diameter."""
    return {"square": sqrt(area), "circle": 2 * sqrt(area / pi), "hexagon": sqrt(2 * area / sqrt(3))}[shape]


def canopy_outline(shape: str, across: float) -> list[Point]:
    if shape == "circle":
        return circle((0, 0), across / 2)
    if shape == "square":
        return [(-across / 2, -across / 2), (across / 2, -across / 2), (across / 2, across / 2), (-across / 2, across / 2)]
    return [at_angle((0, 0), a, across / sqrt(3)) for a in range(0, 360, 60)]


#: A canopy wider than this is drawn as a quarter to be laid on two folds, mm.
LARGE = 185.0
QUARTER = "canopy quarter"


def canopy(s: Sizes) -> list[Piece]:
    """The canopy whole with the places of its lines; of large ones one quarter that has a line for every level."""
    shape, lines, inset = s.choice("canopy shape"), s.whole("number of lines"), s.of("hole inset")
    sides, vents = s.settings("canopy side"), s.settings("spill-hole width")
    side, vent = s.of("canopy side"), s.of("spill-hole width")
    if s.is_varied("canopy shape"):  # of unlike shapes the same cloth: the area of the square with this side
        side = across_for(shape, side * side)
        sides = (Setting(label=sides[0].label, value=side),)
    for one in vents:
        if one.value >= min(p.value for p in sides) - 4 * inset:
            raise PlanRefused("The spill-hole reaches the lines. Make it smaller, or the canopy larger.", code="size_range", where="spill-hole width")
    if max(p.value for p in sides) > LARGE:
        return [quarter(s, shape, sides, vents, lines, inset)]
    return [canopy_piece(s, shape, side, vent, lines, inset)]


def canopy_piece(s: Sizes, shape: str, across: float, vent: float, lines: int, inset: float) -> Piece:
    """One canopy, whole."""
    c = Cutter("canopy")
    c.cut(canopy_outline(shape, across))
    for p in hole_places(shape, across, lines, inset):
        c.hole(p, 1.5)
    if vent:
        c.cut(circle((0, 0), vent / 2))
        c.cross((0, 0))
    c.room = (-across / 4, vent / 2 + 3, across / 2, 16)
    c.note((0, -vent / 2 - 5), "version ____", 2.4)
    if s.is_varied("spill-hole width"):
        if vent:
            c.measured("spill-hole width", (-vent / 2, across / 2), (vent / 2, across / 2), vent)
    else:
        c.measured("canopy side", (-across / 2, across / 2), (across / 2, across / 2))
    return c.finish()


def _rim_quarter(shape: str, across: float) -> list[Point]:
    """The rim of the quarter to the right of and below the middle."""
    r = across / 2
    if shape == "circle":
        return arc((0, 0), r, 0, -90)
    if shape == "square":
        return [(r, 0), (r, r), (0, r)]
    top = across / sqrt(3)
    return [(top, 0), at_angle((0, 0), -60, top), (0, r)]


def quarter(s: Sizes, shape: str, sides: tuple[Setting, ...], vents: tuple[Setting, ...], lines: int, inset: float) -> Piece:
    """A quarter whose straight sides lie on two folds of the cloth, with a line for every side and every spill-hole."""
    c = Cutter(QUARTER)
    far = max(p.value for p in sides)
    for p in sides:
        rim = _rim_quarter(shape, p.value)
        c.cut(rim, closed=False)
        for x, y in hole_places(shape, p.value, lines, inset):
            if x >= -1e-6 and y >= -1e-6:
                c.hole((x, y), 1.5)
        if len(sides) > 1:
            c.note((p.value / 2 - 3, p.value / 6), p.label, 4, 90)
            c.levels.append((p.label, Ruled(name="canopy side", what="canopy side", mm=p.value, power=1, begin=(0, 0), end=(0, 0))))
    for p in vents:
        if p.value:
            c.cut(arc((0, 0), p.value / 2, 0, -90), closed=False)
        if len(vents) > 1:
            c.note((p.value / 2 * 0.71 + 3, p.value / 2 * 0.71 + 3), p.label if p.value else "", 3)
            if p.value:
                c.levels.append((p.label, Ruled(name="spill-hole width", what="spill-hole", mm=p.value, power=1, begin=(0, 0), end=(0, 0))))
    top = far / sqrt(3) if shape == "hexagon" else far / 2
    c.down((0, 0), (top, 0))
    c.down((0, 0), (0, far / 2))
    widest = max((p.value for p in vents), default=0.0)
    middle = (widest + far) / 4
    c.note((middle, 4), "on the fold of the cloth", 3)
    c.note((4, middle), "on the fold of the cloth", 3, 90)
    c.note((middle, middle + 14), "a quarter: fold the cloth twice, lay both these sides on the folds", 2.6)
    c.room = (widest / 2 + 12, 8, far / 4, 22)
    if len(sides) == 1 and not s.is_varied("spill-hole width"):
        c.measured("canopy side", (0, 0), (far / 2, 0), far / 2, what="half of the canopy side")
    return c.finish()


def line_lengths(s: Sizes) -> tuple[int, float]:
    """(number of lines, mm to cut for each): what hangs between the knots and what each of two knots takes."""
    return s.whole("number of lines"), s.of("line length") + 2 * s.of("for each knot")
