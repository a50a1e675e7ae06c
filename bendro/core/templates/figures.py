"""Right and wrong, as small drawings: the slips that ruin a device, each drawn twice by one function."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial
from math import pi, sin

from ..building.drawing import Board, Drawing, Point, Written, along, arc
from ..building.version import VersionDraft

Draw = Callable[[Board, bool], str]


def _blades(b: Board, good: bool) -> str:
    b.line([(0, 0), (-30, -12)], "edge")
    b.line([(0, 0), (30, -12)] if good else [(0, 0), (-26, -22)], "edge")
    b.box(-4, 0, 8, 30)
    b.box(-6, 28, 12, 8, "dark")
    return "the blades leave to opposite sides" if good else "both blades leave to the same side"


def _tail(b: Board, good: bool) -> str:
    b.line([(-30, -10), (0, 0), (30, -10)], "edge")
    b.line([(0, 0), (0, 34)] if good else [(0, 0), (2, 14), (14, 30)], "edge")
    x = 0 if good else 14
    b.box(x - 4, 30, 8, 8, "dark")
    return "the tail hangs straight below" if good else "the tail is bent aside"


def _end(b: Board, good: bool) -> str:
    b.line([(0, 0), (60, 0)], "edge")
    b.shape([(0, -3), (14, -3), (14, 3), (0, 3)] if good else [(0, 0), (14, -12), (20, -6), (6, 4)])
    b.box(4, -6, 4, 12, "dark")
    return "the end lies folded flat under its clip" if good else "the end springs open"


def _wing_flat(b: Board, good: bool) -> str:
    b.box(0, -4, 12, 8, "dark")
    b.line([(12, 0), (66, 0)] if good else [(12, 0), (38, -10), (66, 4)], "edge")
    return "the wing is flat" if good else "the wing has a crease across"


def _hoop(b: Board, x: float, y: float, wide: float, lean: float = 0.0) -> None:
    b.shape([(x + 0.18 * wide * _cos(a) + lean * (wide / 2 - wide / 2 * _sin(a)) / wide, y - wide / 2 - wide / 2 * _sin(a)) for a in range(0, 360, 15)])


def _cos(a: float) -> float:
    return sin((a + 90) * pi / 180)


def _sin(a: float) -> float:
    return sin(a * pi / 180)


def _hoops(b: Board, good: bool) -> str:
    b.line([(0, 0), (70, 0)], "edge")
    _hoop(b, 8, 0, 20)
    _hoop(b, 62, 0 if good else 30, 30)
    return "both hoops stand on one side of the straw" if good else "one hoop hangs on the other side"


def _hoop_upright(b: Board, good: bool) -> str:
    b.line([(0, 0), (70, 0)], "edge")
    _hoop(b, 8, 0, 20)
    _hoop(b, 62, 0, 30, 0.0 if good else -26.0)
    return "the hoops stand upright" if good else "the hoop leans"


def _folds(b: Board, good: bool) -> str:
    b.box(0, 0, 70, 34)
    for i in (6, 12, 18):
        b.line([(0, i), (70, i if good else i + 8)], "fold")
    return "the folds lie side by side" if good else "the folds slant"


def _ring(b: Board, good: bool) -> str:
    high = 1.0 if good else 0.45
    for r in (24, 21):
        b.shape([(r * _cos(a), high * r * _sin(a)) for a in range(0, 360, 10)], "edge" if r == 24 else "thin")
    return "the ring is round" if good else "the ring is pressed flat"


def _plane(b: Board, wing: float, tail: float) -> None:
    b.box(0, -2, 70, 4)
    for x, long, turn in ((20, 34, wing), (64, 14, tail)):
        one, two = along((x, 0.0), 90 + turn, long), along((x, 0.0), 270 + turn, long)
        b.shape([one, (one[0] + 10, one[1]), (two[0] + 10, two[1]), two])


def _wing_square(b: Board, good: bool) -> str:
    _plane(b, 0 if good else 18, 0)
    return "the wing is square to the body" if good else "the wing is askew"


def _tail_flat(b: Board, good: bool) -> str:
    b.line([(-36, 0), (36, 0)], "edge")
    b.circle(0, 0, 4, "dark")
    b.line([along((0.0, -2.0), 0 if good else 24, 16), along((0.0, -2.0), 180 if good else 204, 16)], "thin")
    return "from the front, tail and wing are parallel" if good else "from the front, the tail is twisted"


def _fins(b: Board, good: bool) -> str:
    b.shape([(0, 0), (14, -7), (70, -7), (70, 7), (14, 7)])
    lean = 0 if good else 6
    b.shape([(50, -7), (60, -22), (70, -22), (70, -7)])
    b.shape([(50, 7 + lean), (60, 22 + lean), (74, 18), (70, 7)] if not good else [(50, 7), (60, 22), (70, 22), (70, 7)])
    b.line([(48, lean / 2), (70, -lean / 2)], "edge")
    return "the fins lie along the body" if good else "a fin is slanted"


def _nose(b: Board, good: bool) -> str:
    b.box(24, -9, 50, 18)
    b.shape([(0, 0), (24, -9), (24, 9)] if good else [(-6, -6), (18, -14), (20, 4)])
    if not good:
        for y in (-4, 2):
            b.line([(20, y), (6, y + 8)], "fold")
    return "the nose is closed all round" if good else "the nose gapes"


def _under_canopy(b: Board, good: bool) -> str:
    b.line(arc(0, 0, 34, 180, 0), "edge")
    b.line([(-34, 0), (34, 0)])
    foot: Point = (0, 46) if good else (9, 44)
    for x in (-34, -12, 12, 34):
        b.line([(x, 0), foot])
    if not good:
        b.line([(-34, 0), (-26, 26), foot], "fold")
    b.box(foot[0] - 6, foot[1], 12, 10, "payload")
    return "all lines are equally long and tight" if good else "one line is longer and hangs slack"


def _holes(b: Board, good: bool) -> str:
    b.box(0, 0, 50, 50)
    d = 7 if good else 1.5
    for x, y in ((d, d), (50 - d, d), (d, 50 - d), (50 - d, 50 - d)):
        b.circle(x, y, 2.5, "dark")
    return "the holes lie inside the edge" if good else "the holes lie at the very edge"


def _axles(b: Board, good: bool) -> str:
    b.box(0, 0, 70, 34)
    for x, lean in ((14, 0), (56, 0 if good else 9)):
        b.line([(x - lean, -8), (x + lean, 42)], "edge")
        b.box(x - lean - 7, -12, 14, 6, "dark")
        b.box(x + lean - 7, 40, 14, 6, "dark")
    return "the axles are parallel" if good else "the axles are not parallel"


def _sail(b: Board, good: bool) -> str:
    b.box(0, 0, 60, 8)
    for x in (12, 48):
        b.circle(x, 14, 7)
    b.line([(30, 0), (30, -46)], "edge")
    b.box(14, -44 if good else -20, 32, 36 if good else 41, "thin")
    b.line([(-6, 21), (70, 21)])
    return "the sail is clear of the floor" if good else "the sail drags on the floor"


def _runner(b: Board, good: bool) -> str:
    b.box(0, 0, 70, 8)
    b.line([(0, 12), (70, 12)] if good else [(0, 12), (24, 12), (32, 18), (40, 12), (70, 12)], "edge")
    b.line([(-6, 19), (76, 19)])
    return "the runner is flat" if good else "the runner has a wrinkle"


def _front(b: Board, good: bool) -> str:
    b.line([(70, 0), (12, 0), (0, -12)] if good else [(70, 0), (0, 3)], "edge")
    b.box(26, -14, 24, 13, "payload")
    b.line([(-8, 4), (76, 4)])
    return "the front is turned up" if good else "the front digs in"


def _arm(b: Board, good: bool) -> str:
    b.shape([(20, 30), (32, 0), (44, 30)])
    b.line([along((32.0, 0.0), 200, 44), along((32.0, 0.0), 20, 18)], "edge")
    b.circle(32, 0, 3, "dark")
    if not good:
        b.shape([(16, -6), (30, 4), (24, 14), (10, 2)], "fold")
    b.line([(-14, 30), (64, 30)])
    return "the arm swings free of the stop" if good else "the arm is taped to the stop"


def _cup(b: Board, good: bool) -> str:
    b.shape([(20, 30), (32, 0), (44, 30)])
    tip = along((32.0, 0.0), 205, 44)
    b.line([tip, along((32.0, 0.0), 25, 18)], "edge")
    b.line(arc(tip[0], tip[1] + (-6 if good else 6), 6, 180 if good else 0, 360 if good else 180, 10), "edge")
    b.circle(tip[0], tip[1] - 7 if good else tip[1] + 7, 4, "payload")
    b.line([(-14, 30), (64, 30)])
    return "the cup opens upward" if good else "the cup opens downward"


def _balanced(b: Board, good: bool) -> str:
    b.circle(0, 0, 30)
    b.circle(0, 0, 20, "fold")
    for a in (90, 180, 270, 360) if good else (60, 90, 120, 180):
        b.circle(*along((0.0, 0.0), a, 20), 5, "dark")
    b.circle(0, 0, 2.5, "payload")
    return "the clay is spread evenly" if good else "the clay is heaped on one side"


def _pin(b: Board, good: bool) -> str:
    b.box(-30, -2, 60, 4)
    b.line([(0, -18), (0, 16)] if good else [(-8, -17), (7, 15)], "edge")
    b.line([(-34, 18), (34, 18)])
    return "the pin is square to the disc" if good else "the pin leans"


def _pitch(b: Board, good: bool) -> str:
    for x, turn in ((-30, 30), (0, 30), (30, 30 if good else 70)):
        b.line([along((x, 0.0), turn, 12), along((x, 0.0), turn + 180, 12)], "edge")
        b.circle(x, 0, 2.5, "dark")
    b.line([(-44, 0), (44, 0)], "fold")
    return "every blade stands at the same angle" if good else "one blade stands at another angle"


def _hub(b: Board, good: bool) -> str:
    b.box(0, -30, 8, 60)
    gap = 8 if good else 0
    b.box(8 + gap, -8, 12, 16, "dark")
    b.line([(8, 0), (30 + gap, 0)], "edge")
    b.box(12 + gap, -34, 4, 68)
    return "the hub stands clear of the mast" if good else "the hub rubs on the mast"


def _payload(b: Board, good: bool) -> str:
    b.box(0, 0, 50, 50)
    waves: list[Point] = [(4 + 42 * i / 24, 48 - 12 * abs(_sin(90 * i / 3))) for i in range(25)]
    b.line(waves, "edge")
    b.box(17, 18 if good else 34, 16, 16, "payload")
    return "the payload lies in the middle on its cushion" if good else "the payload lies on the floor"


def _cone(b: Board, good: bool) -> str:
    b.box(0, 0, 50, 30)
    b.line([(0, 30), (25, 56), (50, 30)] if good else [(0, 30), (12, 38), (22, 34), (30, 40), (50, 30)], "edge")
    return "the cone is whole" if good else "the cone is crushed already"


_PAIRS: Mapping[str, tuple[str, str, Draw]] = {
    "blades": ("blades-apart", "blades-together", _blades),
    "tail": ("tail-straight", "tail-bent", _tail),
    "end": ("end-tight", "end-loose", _end),
    "wing": ("wing-flat", "wing-creased", _wing_flat),
    "hoops": ("hoops-in-line", "hoops-askew", _hoops),
    "hoop": ("hoop-upright", "hoop-leaning", _hoop_upright),
    "folds": ("folds-even", "folds-slanting", _folds),
    "ring": ("ring-round", "ring-flat", _ring),
    "square": ("wing-square", "wing-skew", _wing_square),
    "flat tail": ("tail-flat", "tail-twisted", _tail_flat),
    "fins": ("fins-straight", "fins-slanted", _fins),
    "nose": ("nose-closed", "nose-open", _nose),
    "lines": ("lines-equal", "lines-unequal", _under_canopy),
    "holes": ("holes-inset", "holes-edge", _holes),
    "axles": ("axles-parallel", "axles-askew", _axles),
    "sail": ("sail-clear", "sail-touching", _sail),
    "runner": ("runner-flat", "runner-wrinkled", _runner),
    "front": ("front-up", "front-flat", _front),
    "arm": ("arm-free", "arm-taped", _arm),
    "cup": ("cup-up", "cup-down", _cup),
    "balance": ("mass-balanced", "mass-aside", _balanced),
    "pin": ("pin-upright", "pin-leaning", _pin),
    "pitch": ("pitch-alike", "pitch-unlike", _pitch),
    "hub": ("hub-clear", "hub-rubbing", _hub),
    "payload": ("payload-middle", "payload-floor", _payload),
    "cone": ("cone-whole", "cone-crushed", _cone),
}


def _drawing(draw: Draw, good: bool) -> Drawing:
    board = Board()
    says = draw(board, good)
    return board.finish("from the side", f"{'Right' if good else 'Wrong'}: {says}.", Written(VersionDraft(), {}))


FIGURES: Mapping[str, Callable[[], Drawing]] = {
    name: partial(_drawing, draw, good) for right, wrong, draw in _PAIRS.values() for name, good in ((right, True), (wrong, False))
}
