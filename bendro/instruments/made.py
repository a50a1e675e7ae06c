"""A camera, a microphone and a phone in the carrier that are not there: scenes drawn by formula, with what is true of them. They are the demo of
the camera (try it without a tablet), the tests of it, and what Chromium is given for its camera and microphone."""

from __future__ import annotations

import math
import wave
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont
from scipy.constants import g as STANDARD_G

from bendro.core.seeing.felt import Log

WIDE, HIGH = 640, 360
#: Every picture is drawn so many times as large and made small, so that edges lie between points as a camera sees them.
FINE = 3
#: The shutter is open for this share of the time between two pictures, drawn as so many moments.
SHUTTER, MOMENTS = 0.4, 4
NOISE = 2.0
WALL, FLOOR, TAPE, INK = (226, 224, 212), (201, 194, 172), (244, 197, 49), (24, 32, 32)

Pen = ImageDraw.ImageDraw
Picture = NDArray[np.uint8]
Place = tuple[float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Scene:
    """A made scene. fps, seconds: of its clip; says: what is to be seen; look: what is looked for in it; marks: places of the picture, in points, where the tape
    shows so many metres; true: what is true of it; draw: everything that moves, at a time in s, on a picture FINE times as large; where: of
    what is followed, in points."""

    name: str
    says: str
    fps: float
    seconds: float
    look: str
    marks: tuple[tuple[Place, float], ...]
    true: Mapping[str, float]
    ground: Callable[[Pen], None]
    draw: Callable[[Pen, float], None]
    where: Callable[[float], Place]


def _box(pen: Pen, left: float, top: float, right: float, bottom: float, fill: tuple[int, int, int]) -> None:
    pen.rectangle([left * FINE, top * FINE, right * FINE, bottom * FINE], fill=fill)


def _ball(pen: Pen, at: Place, r: float, fill: tuple[int, int, int]) -> None:
    pen.ellipse([(at[0] - r) * FINE, (at[1] - r) * FINE, (at[0] + r) * FINE, (at[1] + r) * FINE], fill=fill)


def _shape(pen: Pen, points: list[Place], fill: tuple[int, int, int]) -> None:
    pen.polygon([(x * FINE, y * FINE) for x, y in points], fill=fill)


def _tape_along(pen: Pen, left: float, y: float, metre: float, metres: int) -> None:
    """A tape on the floor: its upper edge at y, a tick every 10 cm, a number every metre."""
    _box(pen, left - 6, y, left + metre * metres + 6, y + 20, TAPE)
    font = ImageFont.load_default(13 * FINE)
    for n in range(metres * 10 + 1):
        x = left + metre * n / 10
        _box(pen, x - 0.5, y, x + 0.5, y + (11 if n % 10 == 0 else 5), INK)
        if n % 10 == 0:
            pen.text(((x + 2) * FINE, (y + 5) * FINE), str(n // 10), fill=INK, font=font)


def _tape_up(pen: Pen, x: float, bottom: float, metre: float, metres: int) -> None:
    """A tape on the wall: 0 at the bottom."""
    _box(pen, x, bottom - metre * metres - 6, x + 22, bottom, TAPE)
    font = ImageFont.load_default(13 * FINE)
    for n in range(metres * 10 + 1):
        y = bottom - metre * n / 10
        _box(pen, x, y - 0.5, x + (11 if n % 10 == 0 else 5), y + 0.5, INK)
        if n % 10 == 0:
            pen.text(((x + 13) * FINE, (y - (15 if n == 0 else 7)) * FINE), str(n // 10), fill=INK, font=font)


def _roll() -> Scene:
    metre, left, y, begin, v0, slows = 130.0, 60.0, 300.0, 0.7, 1.75, 0.16

    def went(t: float) -> float:
        h = min(max(0.0, t - begin), v0 / slows)
        return float(0.1 + v0 * h - slows * h * h / 2)

    def ground(pen: Pen) -> None:
        _box(pen, 0, y, WIDE, HIGH, FLOOR)
        _tape_along(pen, left, y + 12, metre, 4)

    def draw(pen: Pen, t: float) -> None:
        x = left + metre * went(t)  # of the cart's front
        for wheel in (x - 46, x - 12):
            _ball(pen, (wheel, y - 7), 7, (60, 66, 66))
        _box(pen, x - 58, y - 26, x, y - 12, (150, 96, 44))
        _shape(pen, [(x - 32, y - 26), (x - 32, y - 104), (x - 4, y - 34)], (15, 79, 73))

    def crosses(at: float) -> float:
        return begin + (v0 - math.sqrt(v0 * v0 - 2 * slows * (at - 0.1))) / slows

    return Scene(
        name="roll", says="A sail cart rolls along 4 m of tape.", fps=30.0, seconds=3.6, look="slide",
        marks=(((left, y + 12), 0.0), ((left + 4 * metre, y + 12), 4.0)),
        true={"time_1_to_3_m": crosses(3.0) - crosses(1.0), "speed_1_to_3_m": 2.0 / (crosses(3.0) - crosses(1.0)), "deceleration": slows},
        ground=ground, draw=draw, where=lambda t: (left + metre * went(t) - 29, y - 19),
    )  # fmt: skip


def _fall(name: str, says: str, fps: float, look: str, stop_s: float, cushion: float) -> Scene:
    """A ball is let fall from 2 m, and is stopped evenly in so long by a cushion of so many metres, or at once by the floor."""
    metre, x, bottom, begin, r = 140.0, 300.0, 330.0, 0.35, 10.0
    height = 2.0 - cushion
    v, fell = math.sqrt(2 * STANDARD_G * height), math.sqrt(2 * height / STANDARD_G)

    def above(t: float) -> float:
        """Of the ball's lowest point, m."""
        h = max(0.0, t - begin)
        if h <= fell:
            return float(2.0 - STANDARD_G * h * h / 2)
        into = min(h - fell, stop_s)
        return float(cushion - (v * into - v * into * into / (2 * stop_s) if stop_s else 0.0))

    def ground(pen: Pen) -> None:
        _box(pen, 0, bottom, WIDE, HIGH, FLOOR)
        _tape_up(pen, x + 120, bottom, metre, 2)
        _box(pen, x - 34, bottom - metre * 2 - 2 * r - 12, x + 34, bottom - metre * 2 - 2 * r - 6, (120, 112, 96))

    def draw(pen: Pen, t: float) -> None:
        low = bottom - metre * above(t)
        if cushion:
            top = bottom - metre * cushion
            _shape(pen, [(x - 60, bottom), (x - 60, top), (x - 16, top), (x - 9, max(top, low)), (x + 9, max(top, low)), (x + 16, top), (x + 60, top), (x + 60, bottom)], (188, 170, 190))
        _ball(pen, (x, low - r), r, (170, 44, 36))
        _ball(pen, (x - 3, low - r - 3), 3, (236, 150, 130))

    return Scene(
        name=name, says=says, fps=fps, seconds=begin + fell + max(0.3, 4 * stop_s), look=look, marks=(((x + 120, bottom), 0.0), ((x + 120, bottom - 2 * metre), 2.0)),
        true={"g": STANDARD_G, "fall_time": fell, "impact_speed": v, "stop_time": stop_s, "crush": v * stop_s / 2},
        ground=ground, draw=draw, where=lambda t: (x, bottom - metre * above(t) - r),
    )  # fmt: skip


#: Terminal speeds of the three canopies, m/s, by lane.
_CANOPIES = (1.05, 1.35, 1.7)


def _heat() -> Scene:
    metre, bottom, begin, height = 130.0, 330.0, 0.5, 2.0
    lanes = (130.0, 320.0, 510.0)

    def above(lane: int, t: float) -> float:
        h, v = max(0.0, t - begin), _CANOPIES[lane]
        return float(max(0.0, height - v * v / STANDARD_G * math.log(math.cosh(STANDARD_G * h / v))))

    def lands(lane: int) -> float:
        v = _CANOPIES[lane]
        return float(v / STANDARD_G * math.acosh(math.exp(STANDARD_G * height / v**2)))

    def ground(pen: Pen) -> None:
        _box(pen, 0, bottom, WIDE, HIGH, FLOOR)
        _tape_up(pen, 24, bottom, metre, 2)

    def draw(pen: Pen, t: float) -> None:
        for lane, x in enumerate(lanes):
            low, wide = bottom - metre * above(lane, t), 44 - 10 * lane
            pen.pieslice([(x - wide) * FINE, (low - 66 - wide / 2) * FINE, (x + wide) * FINE, (low - 66 + 3 * wide / 2) * FINE], 180, 360, fill=((15, 79, 73), (170, 44, 36), (60, 80, 140))[lane])
            for side in (-wide, wide):
                pen.line([((x + side) * FINE, (low - 66 + wide / 2) * FINE), (x * FINE, (low - 12) * FINE)], fill=INK, width=FINE)
            _box(pen, x - 8, low - 14, x + 8, low, (110, 84, 60))

    return Scene(
        name="heat", says="Three canopies are let go together from 2 m.", fps=30.0, seconds=2.9, look="fall", marks=(((24, bottom), 0.0), ((24, bottom - 2 * metre), 2.0)),
        true={f"lane_{n + 1}": lands(n) for n in range(3)}, ground=ground, draw=draw, where=lambda t: (lanes[0], bottom - metre * above(0, t) - 7),
    )  # fmt: skip


def _spin() -> Scene:
    cx, cy, metre, r, turns, slows = 320.0, 175.0, 420.0, 0.3, 2.6, 0.3

    def turned(t: float) -> float:
        return 2 * math.pi * (turns * t - slows * t * t / 2)

    def at(t: float, radius: float, more: float = 0.0) -> Place:
        a = turned(t) + more
        return cx + metre * radius * math.cos(a), cy - metre * radius * math.sin(a)

    def ground(pen: Pen) -> None:
        _tape_along(pen, cx - metre / 2, 325, metre, 1)

    def draw(pen: Pen, t: float) -> None:
        for k in range(3):
            more = 2 * math.pi * k / 3
            _shape(pen, [at(t, 0.04, more - 1.2), at(t, r + 0.05, more - 0.16), at(t, r + 0.05, more + 0.16), at(t, 0.04, more + 1.2)], (150, 150, 140))
        _ball(pen, (cx, cy), 16, (70, 76, 76))
        _ball(pen, at(t, r), 10, (170, 30, 30))

    return Scene(
        name="spin", says="A rotor of three blades turns, with a mark on one.", fps=60.0, seconds=2.0, look="spin",
        marks=(((cx - metre / 2, 325), 0.0), ((cx + metre / 2, 325), 1.0)), true={"spin_rate": turns, "slowing": slows}, ground=ground, draw=draw, where=lambda t: at(t, r),
    )  # fmt: skip


MADE: dict[str, Scene] = {
    s.name: s
    for s in (
        _roll(),
        _fall("drop", "A ball is let fall from 2 m.", 60.0, "fall", 0.0, 0.0),
        _heat(),
        _spin(),
        _fall("impact", "A ball falls into a cushion, seen 240 times a second.", 240.0, "impact", 0.06, 0.4),
    )
}


def pictures(scene: Scene, *, fps: float | None = None, seed: int = 1) -> Iterator[tuple[float, Picture]]:
    """Every picture of a scene's clip (HIGH × WIDE × 3) with its time in s. fps: at another rate than the scene's own."""
    rate = fps or scene.fps
    rng = np.random.default_rng(seed)
    empty = Image.new("RGB", (WIDE * FINE, HIGH * FINE), WALL)
    scene.ground(ImageDraw.Draw(empty))
    for n in range(round(scene.seconds * rate)):
        t = n / rate
        mean = np.zeros((HIGH, WIDE, 3))
        moments = MOMENTS if scene.where(t) != scene.where(t + SHUTTER / rate) else 1
        for k in range(moments):
            one = empty.copy()
            scene.draw(ImageDraw.Draw(one), t + SHUTTER / rate * (k + 0.5) / moments)
            mean += np.asarray(one.resize((WIDE, HIGH), Image.Resampling.BOX), dtype=np.float64)
        noisy = mean / moments + rng.normal(0, NOISE, (HIGH, WIDE, 1))
        yield t, np.clip(np.rint(noisy), 0, 255).astype(np.uint8)


def write_camera(scene: Scene, path: Path, *, fps: float = 30.0) -> None:
    """The scene as uncompressed film (YUV4MPEG2), as Chromium takes it for its camera, over and over."""
    with path.open("wb") as out:
        out.write(f"YUV4MPEG2 W{WIDE} H{HIGH} F{round(fps)}:1 Ip A1:1 C420jpeg\n".encode())
        for _, picture in pictures(scene, fps=fps):
            y, cb, cr = Image.fromarray(picture).convert("YCbCr").split()
            half = (WIDE // 2, HIGH // 2)
            out.write(b"FRAME\n" + y.tobytes() + cb.resize(half, Image.Resampling.BOX).tobytes() + cr.resize(half, Image.Resampling.BOX).tobytes())


#: The clap of the made microphone, its thud so much later, s, and how often both come again.
CLAP_S, FALL_S, AGAIN_S, RATE = 1.5, 0.84, 4.0, 48_000


def write_microphone(path: Path, *, thuds: tuple[float, ...] = (CLAP_S, CLAP_S + FALL_S), seconds: float = AGAIN_S) -> None:
    """A clap and a thud as a wave file, as Chromium takes it for its microphone."""
    heard = np.random.default_rng(5).normal(0, 0.002, round(seconds * RATE))
    for at in thuds:
        ring = np.exp(-np.arange(int(0.08 * RATE)) / (0.012 * RATE))
        begin = round(at * RATE)
        heard[begin : begin + ring.size] += (ring * np.sin(np.arange(ring.size) * 0.4))[: heard.size - begin]
    with wave.open(str(path), "wb") as out:
        out.setnchannels(1)
        out.setsampwidth(2)
        out.setframerate(RATE)
        out.writeframes((np.clip(heard, -1, 1) * 28_000).astype("<i2").tobytes())


def phone_log(*, height: float = 1.6, stop_s: float = 0.05, rate: float = 60.0, most_g: float = 16.0, seed: int = 1) -> Log:
    """What a phone in the carrier tells of a free fall from so many metres and a blow of half a sine that takes so long, s: `rate` times a second,
    clipped at `most_g` times g."""
    rng = np.random.default_rng(seed)
    v = math.sqrt(2 * STANDARD_G * height)
    begin, fell = 1.0 + float(rng.uniform(0, 1 / rate)), v / STANDARD_G
    t = np.arange(0, begin + fell + stop_s + 0.7, 1 / rate)
    into = np.clip((t - begin - fell) / stop_s, 0, 1)
    a = np.where((t > begin) & (t < begin + fell), 0.0, STANDARD_G) + v * math.pi / (2 * stop_s) * np.sin(math.pi * into)
    felt = np.minimum(np.abs(a + rng.normal(0, 0.1, len(t))), most_g * STANDARD_G)
    return Log(t=[round(float(v), 4) for v in t], a=[round(float(v), 3) for v in felt])


def told(scene: Scene) -> dict[str, Any]:
    """What a page is told of a made scene: so that it can be tried without a tablet, and what is true of it."""
    return {"name": scene.name, "says": scene.says, "fps": scene.fps, "seconds": scene.seconds, "look": scene.look, "wide": WIDE, "high": HIGH,
            "marks": [{"x": x, "y": y, "at_m": m} for (x, y), m in scene.marks], "where": list(scene.where(0.0)), "true": dict(scene.true)}  # fmt: skip
