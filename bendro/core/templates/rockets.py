"""A paper rocket round its launch pipe, and the quadrant that its launch angle is read from."""

from __future__ import annotations

from math import pi, sqrt

from ..errors import PlanRefused
from .flying import LARGE, canopy_piece, quarter
from .piece import Cutter, Piece, Point, arc, at_angle, round_length, sector
from .sizes import Setting, Sizes

#: The tube slides freely when it is so much wider than the pipe, mm (common practice: two layers of paper).
SLIDES = 0.6
#: Thickness of card that a notch is cut for, mm.
CARD = 0.5
OUTLINES = ("square", "triangle", "swept", "half-round")


def fin_outline(kind: str, area: float) -> tuple[list[Point], float, float]:
    """(corners, root, span) of one fin of this area, mm and mm²: root along y = 0 from 0, the tip at negative y. Areas: a·a, ½·a·a, 1.125·a²
    (root 1.5 a, tip 0.75 a), ½·π·r² (common practice)."""
    if kind == "square":
        a = sqrt(area)
        return [(0, 0), (0, -a), (a, -a), (a, 0)], a, a
    if kind == "triangle":
        a = sqrt(2 * area)
        return [(0, 0), (a, -a), (a, 0)], a, a
    if kind == "swept":
        a = sqrt(area / 1.125)
        return [(0, 0), (0.75 * a, -a), (1.5 * a, -a), (1.5 * a, 0)], 1.5 * a, a
    r = sqrt(2 * area / pi)
    return list(reversed(arc((r, 0), r, 0, 180))), 2 * r, r


def tube_width(s: Sizes) -> float:
    """Diameter of the tube, mm: what is written, else what slides on the pipe. Raises PlanRefused where it does not go over the pipe."""
    pipe = s.of("launch pipe")
    if not s.has("body diameter"):
        return pipe + SLIDES
    body = s.of("body diameter")
    if body < pipe + SLIDES / 2:
        raise PlanRefused(
            f"A body {body / 10:.4g} cm across does not go over a pipe of {pipe / 10:.4g} cm. Write more than that, or measure the pipe again.",
            code="size_pipe", where="body diameter",
        )  # fmt: skip
    return body


def paper_rocket(s: Sizes) -> list[Piece]:
    """Body tube, nose cone, fins of a given area and number, and the quadrant."""
    across, long, overlap, nose = tube_width(s), s.of("body length"), s.of("overlap"), s.of("nose height")
    fins, area, kind, off = s.whole("fin number"), s.of("fin area"), s.choice("fin shape"), s.of("stand-off")
    fixing = s.choice("fin fixing")
    corners, root, span = fin_outline(kind, area)
    if root + off > long:
        raise PlanRefused("The fins are longer than the body behind its nose. Choose smaller fins or a longer body.", code="size_range", where="fin area")
    made = [_body(s, across, long, overlap, fins, root, off), _nose(across, nose)]
    if fixing == "notched pairs":
        if fins != 4:
            raise PlanRefused(f"Notched pairs stand crosswise and make 4 fins, not {fins}. Choose tabs, or 4 fins.", code="size_range", where="fin fixing")
        made += [_pair(s, corners, root, across, way) for way in ("from the front", "from the tail")]
    else:
        made.append(_fin(s, corners, root, span, fins))
    if s.has("canopy side"):
        sides = s.settings("canopy side")
        large = max(p.value for p in sides) > LARGE
        made.append(quarter(s, "square", sides, (), 4, 8.0) if large else canopy_piece(s, "square", s.of("canopy side"), 0.0, 4, 8.0))
    return [*made, quadrant(s.settings("launch angle"))]


def _body(s: Sizes, across: float, long: float, overlap: float, fins: int, root: float, off: float) -> Piece:
    c, once = Cutter("body"), round_length(across)
    c.box(0, 0, once + overlap, long)
    c.mark([(once, 0), (once, long)])
    c.mark([(0, long - off), (once, long - off)])
    c.note((once / 2, long - off + 2.5), "fins end here", 2.2)
    for i in range(fins):
        x = once * (i + 0.5) / fins
        c.mark([(x, long - off - root), (x, long - off)])
    c.note((once + overlap / 2, long / 2), "glue", 2.4, 90)
    c.note((once / 2, 4), "nose end", 2.4)
    c.room = (3, 8, once - 6, max(0.0, min(26.0, long - root - off - 12)))
    c.note((once / 2, min(long - root - off - 3, 40)), "version ____", 2.4)
    if s.is_varied("body length"):
        c.measured("body length", (once + overlap, 0), (once + overlap, long))
    return c.finish()


def _nose(across: float, high: float) -> Piece:
    """The sector that rolls into a cone, with a flap to glue. Its edge fits round the tube."""
    slant, angle = sector(across / 2, high)
    c, flap = Cutter("nose cone"), min(6.0, slant / 4)
    rim = arc((0, 0), slant, -90, -90 + angle) if angle < 360 else arc((0, 0), slant, 0, 359)
    begin = rim[0]
    aside: list[Point] = [(begin[0] - flap, begin[1] - flap), (-flap, flap)]
    c.cut([(0, 0), *reversed(rim), *aside])
    c.up((0, 0), begin)
    c.note((-flap / 2, slant / 2), "glue", 2.2, 90)
    c.room = (4, slant * 0.45, min(slant * 0.6, 30.0), slant * 0.3)
    return c.finish()


def _fin(s: Sizes, corners: list[Point], root: float, span: float, count: int) -> Piece:
    """One fin with a tab that is folded aside and glued along the mark."""
    c, tab = Cutter("fin", count), 6.0
    c.cut([*corners, (root - 1, tab), (1, tab)])
    c.up((0, 0), (root, 0))
    c.note((root / 2, tab / 2), "glue", 2.2)
    c.room = (root * 0.35, -span * 0.45, root * 0.6, span * 0.4)
    if s.is_varied("fin area") or s.is_varied("fin shape"):
        c.measured(s.varied, (0, tab), (root, tab), root, what="root edge of the fin", power=2)
    return c.finish()


def _pair(s: Sizes, corners: list[Point], root: float, across: float, way: str) -> Piece:
    """Two fins in one, the width of the tube between them; half a notch lets the other pair cross it."""
    c, half = Cutter(f"pair of fins, notched {way}"), across / 2
    one = [(x, y - half) for x, y in corners]
    notch = [(root / 2, -CARD / 2), (root / 2, CARD / 2)]
    if way == "from the front":
        ends = [(0.0, -CARD / 2), *notch, (0.0, CARD / 2)]
        c.cut([*one, *((x, -y) for x, y in reversed(one)), *reversed(ends)])
    else:
        ends = [(root, -CARD / 2), *notch, (root, CARD / 2)]
        c.cut([*one, *ends, *((x, -y) for x, y in reversed(one))])
    c.mark([(0, -half), (root, -half)])
    c.mark([(0, half), (root, half)])
    c.room = (root * 0.35, -half - root * 0.4, root * 0.6, root * 0.3)
    if s.is_varied("fin area") or s.is_varied("fin shape"):
        c.measured(s.varied, (0, 0), (root, 0), root, what="root edge of the fin", power=2)
    return c.finish()


def quadrant(angles: tuple[Setting, ...], r: float = 80.0) -> Piece:
    """A quarter circle to be taped along a rule: a plumb line from its hole hangs over the angle that the rule is raised by."""
    c = Cutter("quadrant")
    c.cut([(-8, -10), (r + 6, -10), (r + 6, 0), *arc((0, 0), r + 6, 0, -90), (-8, r + 6)])
    c.hole((0, 0), 1.5)
    c.mark(arc((0, 0), r, 0, -90))
    for a in range(91):
        long = 8.0 if a % 10 == 0 else 5.5 if a % 5 == 0 else 3.0
        c.mark([at_angle((0, 0), a - 90, r), at_angle((0, 0), a - 90, r - long)])
        if a % 10 == 0 and 0 < a < 90:
            c.note(at_angle((0, 0), a - 90, r - 12), str(a), 3.2)
    for one in angles:
        c.mark([at_angle((0, 0), one.value - 90, 10), at_angle((0, 0), one.value - 90, r - 15)])
        c.note(at_angle((0, 0), one.value - 90 + 3, r * 0.55), one.label, 3.0)
    c.note((r * 0.7, -5), "this edge along the rule", 2.6)
    c.note((r * 0.3, r * 0.62), "plumb line", 2.4)
    c.room = (3, -9.5, 26, 9)
    return c.finish()
