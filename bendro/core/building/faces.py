"""How the devices of each family look, drawn from the properties of a version. Sizes that are not written are what is usual (common practice)."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from math import ceil, cos, pi, sin, sqrt

from ..draft import Draft
from ..families import family, known
from .drawing import Board, Drawing, Point, Written, along, arc, moved
from .side_view import Outline, outline_of
from .version import VersionDraft


def drawn(plan: Draft, version: VersionDraft) -> Drawing | None:
    """The drawing of a version of this plan's device; a bare number has the unit of the plan's variable or of the family's."""
    if not known(plan.family):
        return None
    units = {v.name: v.unit for v in family(plan.family).variables} | {plan.variable.name: plan.variable.unit}
    return drawing_of(plan.family, version, units, device=plan.templates.device)


_NONE = ("", "none", "no", "without", "0")


def drawing_of(kind: str, draft: VersionDraft, units: Mapping[str, str], device: str = "") -> Drawing | None:
    """The drawing of a version. kind: identity of its family; device: of its templates, where that looks otherwise than the family usually does;
    units: of properties that are written as bare numbers. None where there is no family to say how such a thing looks."""
    face = _DEVICES.get(device) or _FACES.get(kind)
    return None if face is None else face(Written(draft, units), Board())


def _launcher(w: Written, b: Board) -> Drawing:
    arm = w.length(250, "arm length", least=40)
    short = w.length(0.3 * arm, "pivot position", least=10)
    angle = w.angle(45, "release angle")
    bands = w.count(1, "number of bands", most=8)
    pull = w.length(0, "pull-back")
    weight = w.mass(0, "counterweight") or (0 if not w.has("counterweight") else 1000)
    shot = w.mass(10, "projectile mass")
    high = max(0.42 * arm, short * 1.1)
    lean = 180 + 38  # the arm is drawn pulled back
    pivot = (0.0, -high)
    cup, end = along(pivot, lean, arm), along(pivot, lean + 180, short)
    ground = max(0.0, cup[1] + 8)
    b.box(-0.75 * arm, ground, 1.35 * arm, 10)
    b.shape([(-22, ground), (0, -high), (22, ground)], "edge")
    b.shape(moved([(-short, -4), (arm, -4), (arm, 4), (-short, 4)], pivot, lean), "edge")
    b.circle(*pivot, 7, "dark")
    bowl = 0.05 * arm + 8
    b.circle(cup[0], cup[1] - bowl, min(0.8 * bowl, 4.5 * shot ** (1 / 3)), "payload")
    b.line(arc(cup[0], cup[1] - bowl, bowl, 180, 360, 10), "edge")
    if weight:
        side = min(70.0, 4.4 * weight ** (1 / 3))
        b.line([end, (end[0], end[1] + 14)])
        b.box(end[0] - side / 2, end[1] + 14, side, side, "dark")
        w.pin((end[0], end[1] + 14 + side / 2), "counterweight")
    foot = (end[0] + 0.05 * arm, ground)
    for i in range(0 if weight else bands):
        b.line([end, (foot[0] + 7 * i, foot[1])])
    w.pin(((end[0] + foot[0]) / 2, (end[1] + foot[1]) / 2), "number of bands")
    if pull:
        to = along(cup, lean - 90, -pull)
        b.line([cup, to], "fold")
        w.pin(to, "pull-back")
    shown = along(pivot, angle, 0.5 * arm)
    b.line([pivot, shown], "fold")
    w.pin(shown, "release angle")
    w.pin(along(pivot, lean, 0.6 * arm), "arm length")
    w.pin(pivot, "pivot position")
    w.pin((cup[0], cup[1] - bowl), "projectile mass", "projectile")
    return b.finish("from the side", "An arm on its pivot, pulled back, with the cup at its end.", w)


def _rocket(w: Written, b: Board) -> Drawing:
    o = outline_of(w.draft) or _usual_rocket(w)
    fins = w.count(
        int(w.draft.shape.fins) if w.draft.shape and w.draft.shape.fins.strip().isdigit() else 3,
        "fin number",
        "number of fins",
        least=0,
        most=8,
    )
    if outline_of(w.draft):
        w.to_scale = True
    half, tail = o.body_diameter / 2, o.body_length
    turns = [90 + 360 * i / fins for i in range(fins)]
    fin_tip = (o.fin_position + o.sweep + o.tip / 2, -half - o.span)

    def fin(turn: float) -> None:
        near, far = -half * sin(turn * pi / 180), -(half + o.span) * sin(turn * pi / 180)
        b.shape(
            [
                (o.fin_position, near),
                (o.fin_position + o.sweep, far),
                (o.fin_position + o.sweep + o.tip, far),
                (o.fin_position + o.root, near),
            ]
        )

    for turn in (t for t in turns if cos(t * pi / 180) < -0.05):
        fin(turn)
    round_nose = w.draft.shape is not None and w.draft.shape.nose == "ogive"
    bow = [(o.nose_length * i / 12, half * (sin(pi / 2 * i / 12) if round_nose else i / 12)) for i in range(13)]
    b.shape([*((x, -y) for x, y in bow), (tail, -half), (tail, half), *((x, y) for x, y in reversed(bow))])
    b.line([(o.nose_length, -half), (o.nose_length, half)])
    for turn in (t for t in turns if cos(t * pi / 180) >= -0.05):
        fin(turn)
    clay = w.mass(0, "nose mass")
    if clay:
        far = min(0.9, 0.35 + 0.05 * clay)
        b.shape([(x * far, y * far * s) for s in (-1, 1) for x, y in (bow if s < 0 else reversed(bow))], "dark")
    water = w.amount("volume", "ml", 0, "water", most=2000)
    if water:
        deep = min(0.8 * (tail - o.nose_length), water * 1000 / (pi * half * half))
        b.shape([(tail - deep, -half), (tail, -half), (tail, half), (tail - deep, half)], "payload")
        w.pin((tail - deep / 2, 0), "water")
    w.pin((o.nose_length / 2, 0), "nose mass")
    w.pin((0.45 * tail, -half), "body length")
    w.pin((0.3 * tail, 0), "canopy side", "canopy")
    w.pin(fin_tip, "fin area", "fin shape", "fin number", "number of fins")
    return b.finish("from the side", f"A rocket from the side, its nose to the left, with {fins} {'fin' if fins == 1 else 'fins'}.", w)


def _usual_rocket(w: Written) -> Outline:
    """A rocket whose nose and fins are not written down one by one. Fins have the area that is written, in the outline that is named."""
    body, area, kind = w.length(220, "body length", least=30), w.area(1200, "fin area"), w.word("fin shape")
    wide = 24.0
    if "triang" in kind:
        span = sqrt(2 * area)
        root, tip, sweep = span, 0.0, span
    elif "square" in kind:
        root = tip = span = sqrt(area)
        sweep = 0.0
    else:  # swept: the tip is half the root
        span = sqrt(area / 1.125)
        root, tip, sweep = 1.5 * span, 0.75 * span, 0.75 * span
    nose = min(50.0, body / 3)
    return Outline(
        nose_length=nose,
        body_diameter=wide,
        body_length=max(body, nose + root),
        fin_position=max(nose, body - root),
        root=root,
        tip=tip,
        span=span,
        sweep=sweep,
    )


def _glider(w: Written, b: Board) -> Drawing:
    body = w.length(200, "body length", least=40)
    clay = w.mass(0, "nose clay")
    if w.has("hoop diameter", "larger surface") and not w.has("wing span"):
        small = w.length(50, "hoop diameter", least=15)
        large, back = 1.5 * small, "back" in w.word("larger surface") or not w.has("larger surface")
        front, rear = (small, large) if back else (large, small)
        for x, wide in ((0.06 * body, front), (0.94 * body, rear)):
            b.shape([(x + 0.16 * wide * cos(a * pi / 180), -wide / 2 - wide / 2 * sin(a * pi / 180)) for a in range(0, 360, 15)])
            b.shape(
                [(x + 12 + 0.16 * wide * cos(a * pi / 180), -wide / 2 - wide / 2 * sin(a * pi / 180)) for a in range(-90, 91, 15)], "thin"
            )
        b.box(0, -3, body, 6)
        w.pin((0.06 * body, -front), "hoop diameter")
        w.pin((0.94 * body, -rear), "larger surface")
        says = "A straw from the side with a hoop at each end."
        view = "from the side"
    else:
        span = w.length(250, "wing span", least=40)
        chord, tail = 0.26 * span, 0.38 * span
        at = 0.32 * body
        b.shape(
            [
                (at, -span / 2),
                (at + 0.75 * chord, -span / 2),
                (at + chord, 0),
                (at + 0.75 * chord, span / 2),
                (at, span / 2),
                (at - 0.12 * chord, 0),
            ]
        )
        b.shape([(body - 0.4 * tail, -tail / 2), (body, -tail / 2), (body, tail / 2), (body - 0.4 * tail, tail / 2)])
        b.box(0, -4, body, 8)
        for i in range(w.count(0, "number of folds", most=12)):
            x = at + 0.1 * chord + i * 0.6 * chord / 12
            b.line([(x, -span / 2), (x, span / 2)], "fold")
        w.pin((at + chord / 2, -span / 2), "wing span", "paper weight")
        w.pin((at + 0.1 * chord, span / 3), "number of folds")
        says = "A glider from above, its nose to the left."
        view = "from above"
    if clay:
        b.circle(0, 0, min(16, 3.4 * clay ** (1 / 3)), "dark")
    w.pin((0, 0), "nose clay")
    w.pin((0.6 * body, 0), "body length")
    return b.finish("from above" if view == "from above" else "from the side", says, w)


def _rotor(w: Written, b: Board) -> Drawing:
    blade, wide = w.length(80, "blade length", least=10), w.length(30, "blade width", least=5)
    tail, cut = w.length(60, "tail length", least=10), w.length(0, "tip cut", least=0)
    weight, neck = w.mass(0, "tail mass"), 20.0
    cut = min(cut, 0.8 * wide, 0.8 * blade)
    for way in (-1, 1):
        b.shape([(0, 0), (0, -blade), (way * (wide - cut), -blade), (way * wide, -blade + cut), (way * wide, 0)])
    b.shape(
        [
            (-wide, 0),
            (wide, 0),
            (wide, neck),
            (0.4 * wide, neck),
            (0.4 * wide, neck + tail),
            (-0.4 * wide, neck + tail),
            (-0.4 * wide, neck),
            (-wide, neck),
        ]
    )
    b.line([(-wide, 0), (wide, 0)], "fold")
    for way in (-1, 1):
        b.line([(way * 0.4 * wide, 0), (way * 0.4 * wide, neck)], "fold")
    b.line([(-0.4 * wide, neck + tail - 12), (0.4 * wide, neck + tail - 12)], "fold")
    clip = weight or w.word("clip", "paper clip", "tail clip") not in _NONE
    if clip:
        long = min(60.0, 18 + 10 * weight)
        b.box(-4, neck + tail - long, 8, long + 4, "dark")
    w.pin((wide, -0.6 * blade), "blade length")
    w.pin((0.6 * wide, -0.25 * blade), "blade width", "paper stock")
    w.pin((wide - cut / 2, -blade + cut / 2), "tip cut")
    w.pin((0.4 * wide, neck + 0.4 * tail), "tail length")
    w.pin((0, neck + tail), "tail mass", "clip", "paper clip", "tail clip")
    return b.finish(
        "flat, as it is cut", "A rotor flat on the table: two blades above, the body, and the tail below; dashed where it is folded.", w
    )


def _seed(w: Written, b: Board) -> Drawing:
    blade, wide, cut = w.length(90, "blade length", least=10), w.length(30, "blade width", least=5), w.length(0, "tip cut", least=0)
    cut, heavy = min(cut, 0.8 * wide, 0.8 * blade), w.length(15, "heavy end", least=4)
    b.shape([(0, 0), (blade, 0), (blade, wide - cut), (blade - cut, wide), (0, wide)])
    b.box(-heavy, 0, heavy, wide)
    b.line([(-heavy / 2, 0), (-heavy / 2, wide)], "fold")
    if w.mass(0, "tail mass") or w.word("clip", "paper clip") not in _NONE:
        b.box(-heavy - 6, wide / 2 - 4, heavy, 8, "dark")
    w.pin((0.5 * blade, 0), "blade length", "paper stock")
    w.pin((0.1 * blade, wide), "blade width")
    w.pin((blade - cut / 2, wide - cut / 2), "tip cut")
    w.pin((-heavy - 6, wide / 2), "tail mass", "clip", "paper clip", "heavy end")
    return b.finish("flat, as it is cut", "A single wing flat on the table, its folded heavy end to the left.", w)


def _parachute(w: Written, b: Board) -> Drawing:
    side = w.length(300, "canopy side", "canopy size", "canopy diameter", least=30)
    hole = min(0.8 * side, w.length(0, "spill-hole width", "spill-hole", least=0))
    line = w.length(side, "line length", least=20)
    lines, load = w.count(4, "number of lines", least=2), w.mass(30, "payload mass", "payload")
    r = side / pi  # the cloth's own width is the arc over its middle
    gap = 180 * hole / side / 2
    facets = 3 if "hex" in w.word("canopy shape") else 12
    for begin, end in ((180.0, 90 + gap), (90 - gap, 0.0)) if hole else ((180.0, 0.0),):
        b.line(arc(0, 0, r, begin, end, facets * (1 if hole else 2)), "edge")
    b.line([(r * cos(pi * i / 24), 0.16 * r * sin(pi * i / 24)) for i in range(25)], "edge")
    if hole:
        x, y = arc(0, 0, r, 90 - gap, 90 - gap, 1)[0]
        b.line([(x * cos(pi * i / 12), y + 0.16 * x * sin(pi * i / 12)) for i in range(25)])
        w.pin((0, y), "spill-hole width", "spill-hole")
    down = sqrt(max(line * line - r * r, (0.25 * line) ** 2))
    for i in range(lines):
        a = pi * (i + 0.5) / lines
        b.line([(r * cos(a), 0.16 * r * sin(a)), (0, down)])
    box = min(0.8 * r + 6, 11 * load ** (1 / 3))
    b.box(-box / 2, down, box, box, "payload")
    w.pin((r, 0), "canopy side", "canopy size", "canopy diameter")
    w.pin((-0.7 * r, -0.7 * r), "canopy shape", "canopy material")
    w.pin((0.5 * r, down / 2), "line length", "number of lines")
    w.pin((0, down + box / 2), "payload mass", "payload")
    return b.finish("from the side", f"A canopy from the side with {lines} lines and what hangs below.", w)


def _vehicle(w: Written, b: Board) -> Drawing:
    long = w.length(180, "body length", least=60)
    wheel, wheels = w.length(40, "wheel diameter", least=8), w.count(4, "number of wheels", least=2, most=8)
    sled = w.has("runner surface") and not w.has("number of wheels", "wheel diameter", "wheel stiffness")
    under = 8.0 if sled else 0.6 * wheel
    b.box(0, -under - 18, long, 18)
    if sled:
        b.shape([(-10, -8), (long, -8), (long, 0), (0, 0)], "dark")
        w.pin((0.3 * long, -4), "runner surface")
    else:
        seen = ceil(wheels / 2)
        for i in range(seen):
            x = long * (0.16 + 0.68 * i / max(1, seen - 1))
            b.circle(x, -wheel / 2, wheel / 2)
            for a in range(0, 180, 45) if "stiff" in w.word("wheel stiffness") else ():
                b.line([along((x, -wheel / 2), a, wheel / 2), along((x, -wheel / 2), a + 180, wheel / 2)])
            b.circle(x, -wheel / 2, 3, "dark")
        w.pin((0.84 * long, -wheel / 2), "wheel diameter", "wheel stiffness", "number of wheels")
    top = -under - 18
    load = w.mass(0, "load mass")
    if load:
        side = min(90.0, 7 * load ** (1 / 3))
        b.box(0.12 * long, top - side, side, side, "payload")
        w.pin((0.12 * long + side / 2, top - side / 2), "load mass")
    if w.has("sail area", "sail shape", "sail size"):
        area, kind = w.area(20_000, "sail area", "sail size"), w.word("sail shape")
        wide, high = (
            (sqrt(area / 2.5), sqrt(2.5 * area))
            if "tall" in kind
            else (sqrt(2 * area), sqrt(2 * area))
            if "tri" in kind
            else (sqrt(area), sqrt(area))
        )
        mast = 0.55 * long
        b.line([(mast, top), (mast, top - 15 - high)], "edge")
        left, foot = mast - wide / 2, top - 12
        b.shape(
            [(left, foot), (left + wide, foot), (mast, foot - high)]
            if "tri" in kind
            else [(left, foot), (left + wide, foot), (left + wide, foot - high), (left, foot - high)]
        )
        w.pin((left + wide, foot - 0.4 * high), "sail area", "sail shape", "sail size")
    w.pin((long, top + 9), "body length")
    return b.finish("from the side", "A sled from the side." if sled else "A cart from the side on its wheels.", w)


def _spinner(w: Written, b: Board) -> Drawing:
    ring = w.length(30, "ring radius", least=5)
    mass = w.mass(0, "added mass")
    arms = w.count(0, "number of arms", most=8)
    rim = ring + 14
    places = [along((0.0, 0.0), 90 + 360 * i / (arms or 4), ring) for i in range(arms or 4)]
    if arms:
        for i in range(arms):
            turn = 90 + 360 * i / arms
            b.shape(
                [
                    *moved([(0, -11), (ring, -11)], (0, 0), turn),
                    *(along(places[i], turn + a, 11) for a in range(-80, 81, 20)),
                    *moved([(ring, 11), (0, 11)], (0, 0), turn),
                ]
            )
        b.circle(0, 0, 16)
    else:
        b.circle(0, 0, rim)
        b.circle(0, 0, ring, "fold")
    dot = min(10.0, 4.2 * (mass / len(places)) ** (1 / 3)) if mass else 3.0
    for x, y in places:
        b.circle(x, y, dot, "dark" if mass else "edge")
    b.circle(0, 0, 8 if w.word("bearing") in ("bead", "ball race") else 4, "payload")
    if w.word("bearing") == "ball race":
        for i in range(8):
            b.circle(*along((0.0, 0.0), 45 * i, 6), 1.4, "dark")
    w.pin(places[0], "ring radius", "added mass")
    w.pin(places[1], "number of arms")
    w.pin((0, 0), "tip", "bearing")
    return b.finish("from above", f"A spinner from above{f' with {arms} arms' if arms else ''}, its added mass round the middle.", w)


def _turbine(w: Written, b: Board) -> Drawing:
    number = w.count(3, "blade number", "number of blades", least=1)
    area, pitch = w.area(4000, "blade area"), w.angle(25, "blade pitch")
    long = sqrt(2.6 * area)
    wide, seen = area / long, cos(pitch * pi / 180)
    b.box(-5, 0, 10, 1.7 * long)
    b.box(-0.45 * long, 1.7 * long, 0.9 * long, 10)
    for i in range(number):
        turn = 90 + 360 * i / number
        root = along((0.0, 0.0), turn, 12)
        b.shape(
            moved(
                [
                    (0, -3),
                    (0.25 * long, -wide * seen / 2),
                    (long, -wide * seen / 2),
                    (long, wide * seen / 2),
                    (0.25 * long, wide * seen / 2),
                    (0, 3),
                ],
                root,
                turn,
            )
        )
        b.line(moved([(0.25 * long, wide * (seen - 0.5)), (long, wide * (seen - 0.5))], root, turn))
    b.circle(0, 0, 12, "dark")
    tip = along((0.0, 0.0), 90 + 360 * (number - 1) / number if number > 1 else 90, 12 + 0.7 * long)
    w.pin(tip, "blade area", "blade pitch", "blade material")
    w.pin((0, 0), "blade number", "number of blades")
    return b.finish("from the front", f"A wheel of {number} {'blade' if number == 1 else 'blades'} from the front, on its mast.", w)


def _protector(w: Written, b: Board) -> Drawing:
    wide = w.length(90, "outer size", "width", least=40)
    high = w.length(1.15 * wide, "height", "outer height", least=40)
    folds, crumple = w.count(0, "skirt folds", most=8), w.length(0, "crumple length", least=0)
    foot = -(26.0 if folds else 0.0) - crumple
    r = 0.18 * wide if "round" in w.word("corners") else 0.0
    if r:
        top, low, right = foot - high + r, foot - r, wide - r
        centres: list[Point] = [(right, top), (r, top), (r, low), (right, low)]
        b.shape([p for i, (x, y) in enumerate(centres) for p in arc(x, y, r, 90 * i, 90 * i + 90, 6)])
    else:
        b.box(0, foot - high, wide, high)
    cushion = w.word("cushion")
    deep = min(0.45 * high, w.length(14, "cushion depth", least=0)) if w.has("cushion depth") or cushion not in _NONE else 0.0
    egg = 0.38 * wide
    b.box(wide / 2 - egg / 2, foot - deep - 0.12 * high - egg, egg, egg, "payload")
    if deep:
        waves = [(0.08 * wide + 0.84 * wide * i / 48, foot - 0.06 * high - deep * abs(sin(pi * i / 8))) for i in range(49)]
        b.line(waves, "edge")
    if crumple:
        teeth = 6
        b.line([(wide * i / (2 * teeth), foot + (crumple if i % 2 else 0)) for i in range(2 * teeth + 1)], "edge")
    for way, x in ((-1, 0.08 * wide), (1, 0.92 * wide)):
        steps = 2 * folds
        for i in range(folds):
            y = foot + crumple + 26 * i / folds
            b.line(
                [
                    (x + way * 26 * 2 * i / steps, y),
                    (x + way * (26 * 2 * i / steps + 14), y + 13 / folds),
                    (x + way * 26 * 2 * (i + 1) / steps, y + 26 / folds),
                ],
                "edge",
            )
    w.pin((0.96 * wide, foot - 0.94 * high), "corners", "outer size", "width", "height")
    w.pin((wide / 2, foot - deep - 0.12 * high - egg / 2), "payload", "device mass", "passenger")
    w.pin((0.8 * wide, foot - 0.06 * high - deep / 2), "cushion", "cushion depth")
    w.pin((0.9 * wide, foot + crumple / 2), "crumple length")
    w.pin((0.92 * wide + 18, foot + crumple + 14), "skirt folds")
    return b.finish("from the side", "A pod from the side with what it carries in it.", w)


_DEVICES: dict[str, Callable[[Written, Board], Drawing]] = {"seed": _seed}
_FACES: dict[str, Callable[[Written, Board], Drawing]] = {
    "launcher": _launcher,
    "rocket": _rocket,
    "glider": _glider,
    "rotor": _rotor,
    "parachute": _parachute,
    "vehicle": _vehicle,
    "spinner": _spinner,
    "turbine": _turbine,
    "protector": _protector,
}
