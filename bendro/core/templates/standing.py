"""What rolls, throws, spins, turns in the wind or lands: carts, sleds, a launcher of card, discs, blades, pods."""

from __future__ import annotations

from math import radians, sin, sqrt

from ..errors import PlanRefused
from .piece import Cutter, Piece, Point, arc, at_angle, circle, round_length, sector
from .sizes import Setting, Sizes


def sail_outline(kind: str, area: float) -> list[Point]:
    """A sail of this area, mm²: foot along y = 0. square a·a; triangle ½·a·a·…: base and height √(2A); tall: 2.5 times as high as wide."""
    if kind == "triangle":
        a = sqrt(2 * area)
        return [(-a / 2, 0), (0, -a), (a / 2, 0)]
    wide = sqrt(area / 2.5) if kind == "tall" else sqrt(area)
    high = area / wide
    return [(-wide / 2, 0), (-wide / 2, -high), (wide / 2, -high), (wide / 2, 0)]


def _sail(s: Sizes) -> Piece:
    area, kind = s.of("sail area"), s.choice("sail shape")
    c, points = Cutter("sail"), sail_outline(kind, area)
    high = -min(y for _, y in points)
    c.cut(points)
    for y in (-0.12 * high, -(0.6 if kind == "triangle" else 0.88) * high):
        c.hole((0, y), 2.5)
    c.note((0, -0.12 * high + 6) if high > 80 else (0, -3), "mast through both holes", 2.2)
    c.room = (-high * 0.12, -high * 0.5, high * 0.24, high * 0.25)
    if s.is_varied("sail area") or s.is_varied("sail shape"):
        c.measured(s.varied, (points[0][0], 0), (points[-1][0], 0), what="foot of the sail", power=2)
    return c.finish()


def _wheel(s: Sizes, count: int) -> Piece:
    across = s.of("wheel diameter")
    c = Cutter("wheel", count)
    c.cut(circle((0, 0), across / 2))
    c.hole((0, 0), s.of("axle") / 2)
    for a in (0, 90, 180, 270):
        c.mark([at_angle((0, 0), a, across * 0.12 + 1.5), at_angle((0, 0), a, across * 0.22 + 1.5)])
    c.room = (-across * 0.3, across * 0.16, across * 0.6, across * 0.2)
    if s.is_varied("wheel diameter"):
        c.measured("wheel diameter", (-across / 2, across / 2), (across / 2, across / 2))
    return c.finish()


def cart(s: Sizes) -> list[Piece]:
    """A chassis folded to a tray, its wheels, and a sail of a given area."""
    long, wide, wall, wheels = s.of("body length"), s.of("body width"), 20.0, s.whole("number of wheels")
    if s.of("axle") > s.of("wheel diameter") / 2:
        raise PlanRefused("The axle is too thick for these wheels.", code="size_range", where="axle")
    c = Cutter("chassis")
    c.box(0, 0, long, wide + 2 * wall)
    c.up((0, wall), (long, wall))
    c.up((0, wall + wide), (long, wall + wide))
    pairs = (wheels + 1) // 2
    for i in range(pairs):
        x = long * (0.15 + 0.7 * (i / (pairs - 1) if pairs > 1 else 0.5))
        for y in (wall / 2, 1.5 * wall + wide):
            c.hole((x, y), s.of("axle") / 2 + 0.25)
        c.mark([(x, wall), (x, wall + wide)])
    c.note((0.15 * long + 9, wall + wide / 2), "axle", 2.4, 90)
    mast = (0.55 * long, wall + wide / 2)
    c.hole(mast, 2.5)
    c.note((mast[0] + 9, mast[1]), "mast", 2.4)
    c.room = (0.2 * long, wall + 2, 0.3 * long, wide / 2 - 5)
    if s.is_varied("body length"):
        c.measured("body length", (0, 0), (long, 0))
    return [c.finish(), _wheel(s, wheels), _sail(s)]


def sled(s: Sizes) -> list[Piece]:
    """A board with its front turned up, and the runner that is cut from each surface."""
    long, wide, lip = s.of("body length"), s.of("body width"), 15.0
    c = Cutter("sled")
    c.box(-lip, 0, long + lip, wide)
    c.up((0, 0), (0, wide))
    c.hole((-lip / 2, wide / 2), 2)
    c.note((-lip / 2, wide / 2 + 8), "cord", 2.4, 90)
    c.room = (8, 6, long * 0.5, 20)
    c.note((long - 18, wide - 5), "version ____", 2.4)
    if s.is_varied("body length"):
        c.measured("body length", (0, wide), (long, wide))
    r = Cutter("runner")
    r.box(0, 0, long, wide)
    r.note((long / 2, wide - 5), "runners that are compared are cut the same way of the grain", 2.6)
    r.room = (8, 6, long * 0.5, 20)
    return [c.finish(), r.finish()]


def card_arm(s: Sizes) -> list[Piece]:
    """A launcher of two cards: a trough with walls that hold the pivot, and an arm folded three layers thick."""
    arm, shorts = s.settings("arm length"), s.settings("pivot position")
    short = max(p.value for p in shorts)
    longest = max(p.value for p in arm)
    if s.is_varied("pivot position"):
        longest = max(longest, short * 1.2)
    wide, base, wall = 16.0, 50.0, 60.0
    trough = Cutter("frame")
    reach = min(250.0, 0.62 * longest + 40)
    trough.box(0, 0, reach, base + 2 * wall)
    for y in (wall, wall + base):
        trough.up((0, y), (reach, y))
    at = reach * 0.55
    for y in (12.0, 2 * wall + base - 12):
        trough.hole((at, y), 2.5)
        trough.hole((at - 34, y + (14 if y < wall else -14)), 2.5)
    trough.note((at + 10, 12), "pivot", 2.4)
    trough.note((at - 24, 26), "stop", 2.4)
    trough.room = (8, wall + 6, reach * 0.4, 22)
    trough.note((reach - 25, wall + base / 2), "version ____", 2.4)
    c = Cutter("arm")
    total = short + longest + 12
    c.box(0, 0, total, 3 * wide)
    for y in (wide, 2 * wide):
        c.up((0, y), (total, y))
    for p in shorts:
        c.hole((p.value, 1.5 * wide), 2.5)
        c.note((p.value, 1.5 * wide - 5), p.label if len(shorts) > 1 else "pivot", 2.6)
    cups = arm if len(arm) > 1 else arm[:1]
    for p in cups:
        x = shorts[0].value + p.value
        c.mark(circle((x, 1.5 * wide), 6), True)
        c.note((x, 1.5 * wide), p.label if len(arm) > 1 else "cup", 2.6)
    c.note((18, wide / 2), "fold over twice", 2.4)
    c.room = (total * 0.35, 2 * wide + 1, total * 0.5, wide - 2)
    if s.is_varied("arm length") and len(arm) == 1:
        c.measured("arm length", (short, 3 * wide), (short + longest, 3 * wide))
    elif s.is_varied("pivot position") and len(shorts) == 1:
        c.measured("pivot position", (0, 3 * wide), (short, 3 * wide))
    return [trough.finish(), c.finish(), pull_back(s)]


def pull_back(s: Sizes) -> Piece:
    """A scale for the pull-back, with a line at each setting."""
    marks = s.settings("pull-back")
    far = max(85.0, max((p.value for p in marks), default=0.0) + 15)
    c = Cutter("pull-back scale")
    c.box(0, 0, far + 8, 22)
    for i in range(int(far) + 1):
        c.mark([(4 + i, 0), (4 + i, 7 if i % 10 == 0 else 5 if i % 5 == 0 else 3)])
        if i % 10 == 0 and i:
            c.note((4 + i, 9.5), str(i // 10), 2.6)
    for p in marks:
        if p.value:
            c.mark([(4 + p.value, 7), (4 + p.value, 22)])
            c.note((4 + p.value + 4, 16), p.label, 2.6, 90)
    c.note((12, 19.5), "cm", 2.4)
    c.room = (18, 12, max(0.0, min((p.value for p in marks), default=far) - 18), 9)
    return c.finish()


def disc(s: Sizes) -> list[Piece]:
    """A card disc with a circle at every radius and the places for the mass on it."""
    rings, places, hole = s.settings("ring radius"), s.whole("number of places"), s.of("centre hole")
    rim = max(s.of("disc radius") if s.has("disc radius") else 0.0, max(p.value for p in rings) + 12)
    c = Cutter("disc")
    c.cut(circle((0, 0), rim))
    c.hole((0, 0), hole / 2)
    for p in rings:
        if p.value <= hole / 2:
            raise PlanRefused(f"A ring of {p.label} lies within the hole in the middle.", code="size_range", where="ring radius")
        c.mark(circle((0, 0), p.value), True)
        for i in range(places):
            c.cross(at_angle((0, 0), 90 + 360 * i / places, p.value), 2.5)
        c.note(at_angle((0, 0), 90 + 180 / places, p.value - 2.5), p.label, 2.6)
    c.room = (-rim * 0.35, rim * 0.45, rim * 0.7, rim * 0.22)
    if len(rings) == 1:
        c.measured("ring radius", (0, rim), (rings[0].value, rim))
    return [c.finish()]


def blade_outline(area: float) -> list[Point]:
    """A blade of this area, mm², 2.6 times as long as it is wide in the middle, wider outside: root along y = 0."""
    long = sqrt(2.6 * area)
    mean = area / long
    return [(-0.3 * mean, 0), (-0.7 * mean, -long), (0.7 * mean, -long), (0.3 * mean, 0)]


def card_turbine(s: Sizes) -> list[Piece]:
    """Blades of a given area with a stem, the hub with a slot for each, and a gauge for the pitch."""
    area, number, pitches = s.of("blade area"), s.whole("blade number"), s.settings("blade pitch")
    c, points = Cutter("blade", number), blade_outline(area)
    long, half = -min(y for _, y in points), 4.0
    c.cut([*points, (half, 0), (half, 18), (-half, 18), (-half, 0)])
    c.mark([(points[0][0], 0), (points[-1][0], 0)])
    c.mark([(0, -long), (0, 18)])
    c.note((0, 9), "stem", 2.2, 90)
    mean = area / long
    c.room = (-0.4 * mean, -0.9 * long, 0.8 * mean, long * 0.4)
    if s.is_varied("blade area"):
        c.measured("blade area", (0.7 * mean, -long), (0.7 * mean, 0), what="length of the blade", power=2)
    hub = Cutter("hub")
    r = 25.0
    hub.cut(circle((0, 0), r))
    hub.hole((0, 0), s.of("axle") / 2)
    for i in range(number):
        a = 90 + 360 * i / number
        hub.mark([at_angle((0, 0), a, r - 14), at_angle((0, 0), a, r)])
    hub.note((0, 9), f"{number} stems", 2.4)
    hub.room = (-12, 11, 24, 8)
    return [c.finish(), hub.finish(), pitch_gauge(s, pitches)]


def pitch_gauge(s: Sizes, pitches: tuple[Setting, ...], r: float = 55.0) -> Piece:
    """A quarter card that stands on the hub: the blade's edge lies along the line of its angle, counted from the plane of the wheel."""
    c = Cutter("pitch gauge")
    c.cut([(0, 0), (r, 0), *arc((0, 0), r, 0, 90)[1:]])
    for p in pitches:
        c.mark([at_angle((0, 0), p.value, 8), at_angle((0, 0), p.value, r - 9)])
        c.note(at_angle((0, 0), p.value, r - 5), p.label, 2.6)
    c.note((r * 0.55, -2.5), "plane of the wheel", 2.0)
    c.room = (4, -r * 0.94, r * 0.28, 9)
    return c.finish()


def panel_for(depth: float) -> float:
    """Width of a zigzag's panels that stands so high when they lean at 60° (common practice), mm."""
    return depth / sin(radians(60))


def pod(s: Sizes) -> list[Piece]:
    """Base ring, crumple cone, zigzag cushion and folded skirt round a carrier."""
    outer, crumple, cushion, folds = s.of("outer size"), s.of("crumple length"), s.of("cushion depth"), s.whole("skirt folds")
    overlap, made = 12.0, []
    ring = Cutter("base ring")
    ring.cut(circle((0, 0), outer / 2))
    ring.cut(circle((0, 0), outer / 2 - 10))
    ring.cross((0, 0))
    ring.note((0, outer / 2 - 5), "base ring", 2.4)
    ring.room = (-outer * 0.2, -8, outer * 0.4, 16)
    made.append(ring.finish())
    if crumple:
        slant, angle = sector(outer / 2, crumple)
        cone, glue = Cutter("crumple cone"), min(14.0, 356 - angle)
        if glue < 4:
            raise PlanRefused("So flat a cone has nothing to glue it by. Make the crumple length larger.", code="size_range", where="crumple length")
        rim = arc((0, 0), slant, -90, -90 + angle + glue)
        cone.cut([(0, 0), *reversed(rim)])
        cone.mark([(0, 0), at_angle((0, 0), -90 + angle, slant)])
        cone.note(at_angle((0, 0), -90 + angle + glue / 2, slant * 0.75), "glue", 2.2)
        cone.room = (slant * 0.1, slant * 0.35, slant * 0.45, slant * 0.25)
        if s.is_varied("crumple length"):
            cone.measured("crumple length", rim[0], (0, 0), slant, what="slope of the cone")
        made.append(cone.finish())
    if cushion:
        panel, teeth, wide = panel_for(cushion), 8, 30.0
        zig = Cutter("zigzag cushion")
        zig.box(0, 0, panel * teeth, wide)
        for i in range(1, teeth):
            (zig.up if i % 2 else zig.down)((i * panel, 0), (i * panel, wide))
        zig.room = (1, 2, panel * teeth - 2, 14)
        if s.is_varied("cushion depth"):
            zig.measured("cushion depth", (0, wide), (panel, wide), panel, what="one panel of the zigzag")
        made.append(zig.finish())
    made.append(_skirt(outer, folds, overlap))
    return made


def _skirt(outer: float, folds: int, overlap: float) -> Piece:
    once, flat, pleat = round_length(outer), 25.0, 8.0
    skirt = Cutter("skirt")
    high = flat + folds * pleat
    skirt.box(0, 0, once + overlap, high)
    skirt.mark([(once, 0), (once, high)])
    for i in range(folds):
        (skirt.up if i % 2 == 0 else skirt.down)((0, flat + i * pleat), (once + overlap, flat + i * pleat))
    skirt.note((once + overlap / 2, flat / 2), "glue", 2.4, 90)
    skirt.room = (4, 2, once - 10, flat - 6)
    return skirt.finish()
