"""From tracks, logs and touches to readings: against ways made by formula, with the noise that a camera has."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
import pytest
from scipy.constants import g as STANDARD_G

from bendro.core.errors import CoreError
from bendro.core.physics.calculators import CALCULATORS
from bendro.core.readings import read
from bendro.core.seeing.felt import Felt, Log, felt
from bendro.core.seeing.followed import Told, look
from bendro.core.seeing.found import Found
from bendro.core.seeing.gate import Crossed, Gates, Touched, passed
from bendro.core.seeing.marks import Corners, Marks, Point, plane_of
from bendro.core.seeing.motion import Track, table_of
from bendro.core.seeing.tape_picture import TapePicture, read_off
from bendro.core.written import stated

#: 200 points of the picture are a metre; the scale is touched as well as a finger can.
SCALE = 200.0
MARKS = Marks(a=Point(x=40, y=460), b=Point(x=40, y=60), apart_m=2.0, touch=1.0)


def one(found: tuple[Found, ...], id: str) -> Found:
    return next(f for f in found if f.id == id)


def filmed(way: Callable[[float], tuple[float, float]], until: float, fps: float, *, noise: float = 0.25, seed: int = 1, uneven: float = 0.0) -> Track:
    """A track in points of the picture of a way in metres (x to the right, y upwards), seen so many times a second."""
    rng = np.random.default_rng(seed)
    t = np.arange(0, until, 1 / fps)
    t = np.sort(t + uneven / fps * rng.uniform(-0.5, 0.5, len(t)))
    places = np.array([way(float(v)) for v in t])
    return Track(t=t.tolist(), x=(40 + SCALE * places[:, 0] + rng.normal(0, noise, len(t))).tolist(), y=(460 - SCALE * places[:, 1] + rng.normal(0, noise, len(t))).tolist())


def dropped(height: float, terminal: float | None = None, hold: float = 0.2) -> Callable[[float], tuple[float, float]]:
    """Held for a moment, then let fall: free, or with a drag that grows as the square of the speed (the fall in closed form: y = v²/g ln cosh(g t/v),
    common knowledge of mechanics)."""

    def way(t: float) -> tuple[float, float]:
        h = max(0.0, t - hold)
        fell = STANDARD_G * h * h / 2 if terminal is None else terminal**2 / STANDARD_G * math.log(math.cosh(STANDARD_G * h / terminal))
        return 0.5, max(0.0, height - fell)

    return way


@pytest.mark.parametrize(("fps", "noise", "uneven"), [(24, 0.25, 0.0), (30, 0.25, 0.0), (30, 0.8, 0.0), (30, 0.25, 0.5), (60, 0.25, 0.0), (240, 0.5, 0.0)])
def test_g_comes_out_of_a_fall_that_was_followed(fps: float, noise: float, uneven: float) -> None:
    inside = []
    for seed in range(20):
        got = look("fall", filmed(dropped(2.0), 1.1, fps, noise=noise, seed=seed, uneven=uneven), MARKS, g=STANDARD_G)
        a = one(got.found, "acceleration")
        inside.append(abs(a.value - STANDARD_G) <= 2 * a.u)
        assert a.value == pytest.approx(STANDARD_G, rel=0.02 if noise < 0.5 else 0.05)
    assert sum(inside) >= 18
    assert "evenly" in got.says[0]


@pytest.mark.parametrize("fps", [30, 60, 240])
def test_how_long_it_fell_is_told_from_the_release_to_the_touch_or_not_at_all(fps: float) -> None:
    fell, inside = math.sqrt(2 * 2.0 / STANDARD_G), 0
    for seed in range(10):
        got = look("fall", filmed(dropped(2.0), 1.2, fps, seed=seed), MARKS, g=STANDARD_G)
        time, height = one(got.found, "fall_time"), one(got.found, "fall_height")
        assert time.value == pytest.approx(fell, abs=0.7 / fps)
        assert height.value == pytest.approx(2.0, abs=0.05)
        inside += abs(time.value - fell) <= 2 * time.u
    assert inside >= 8
    no_end = look("fall", filmed(dropped(2.0), 0.75, fps), MARKS, g=STANDARD_G)
    assert not any(f.id == "fall_time" for f in no_end.found)
    assert any("landing is not in the track" in s for s in no_end.says)
    no_start = look("fall", filmed(dropped(2.0, hold=-0.2), 1.0, fps), MARKS, g=STANDARD_G)
    assert not any(f.id == "fall_time" for f in no_start.found)
    assert any("release is not in the track" in s for s in no_start.says)


@pytest.mark.parametrize("fps", [30, 60])
def test_a_terminal_speed_is_told_from_one_that_is_not_reached(fps: float) -> None:
    reached = look("fall", filmed(dropped(2.2, terminal=1.3), 1.9, fps), MARKS, g=STANDARD_G)
    speed = one(reached.found, "terminal_speed")
    assert speed.value == pytest.approx(1.3, abs=max(2 * speed.u, 0.02))
    assert "terminal speed" in reached.says[0]
    not_yet = look("fall", filmed(dropped(2.2, terminal=6.0), 0.9, fps), MARKS, g=STANDARD_G)
    assert not any(f.id == "terminal_speed" for f in not_yet.found)


def thrown(speed: float, angle: float, start: float = 0.5, hold: float = 0.1) -> Callable[[float], tuple[float, float]]:
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))

    def way(t: float) -> tuple[float, float]:
        h = max(0.0, t - hold)
        y = start + speed * s * h - STANDARD_G * h * h / 2
        return (speed * c * h, y) if y > 0 else (speed * c * h, 0.0)

    return way


@pytest.mark.parametrize(("speed", "angle"), [(4.0, 40.0), (5.0, 60.0), (3.0, 20.0)])
def test_how_a_thing_was_launched(speed: float, angle: float) -> None:
    got = look("launch", filmed(thrown(speed, angle), 0.7, 60), MARKS, g=STANDARD_G)
    v, a = one(got.found, "launch_speed"), one(got.found, "launch_angle")
    assert v.value == pytest.approx(speed, abs=3 * v.u + 0.03)
    assert a.value == pytest.approx(angle, abs=3 * a.u + 0.5)
    # the apex by the calculator of the core, which is checked against a text book elsewhere
    apex = CALCULATORS["projectile"].function({"speed": speed, "angle": angle, "release_height": 0.0, "g": STANDARD_G})["apex_height"]
    assert one(got.found, "apex").value == pytest.approx(apex, rel=0.03)


def test_a_crooked_picture_is_said_and_a_level_tape_puts_it_straight() -> None:
    track = filmed(thrown(4.0, 40.0), 0.55, 60)
    turned = math.radians(12)
    x, y = np.array(track.x), np.array(track.y)
    crooked = Track(t=track.t, x=(x * math.cos(turned) - y * math.sin(turned)).tolist(), y=(x * math.sin(turned) + y * math.cos(turned)).tolist())
    level = Marks(a=Point(x=0, y=0), b=Point(x=400 * math.cos(turned), y=400 * math.sin(turned)), apart_m=2.0, touch=1.0, lie="level")
    assert one(look("launch", crooked, level, g=STANDARD_G).found, "launch_angle").value == pytest.approx(40, abs=1)
    assert one(look("launch", crooked, MARKS, g=STANDARD_G).found, "launch_angle").value == pytest.approx(28, abs=1.5)


def slid(speed: float, deceleration: float, hold: float = 0.15) -> Callable[[float], tuple[float, float]]:
    def way(t: float) -> tuple[float, float]:
        h = min(max(0.0, t - hold), speed / deceleration)
        return speed * h - deceleration * h * h / 2, 0.02

    return way


@pytest.mark.parametrize("fps", [24, 30, 60])
def test_how_a_thing_slid_to_rest(fps: float) -> None:
    got = look("slide", filmed(slid(1.8, 2.6), 1.4, fps), MARKS, g=STANDARD_G)
    a = one(got.found, "deceleration")
    assert a.value == pytest.approx(2.6, abs=max(3 * a.u, 0.1))
    assert one(got.found, "slide").kind == "exact"
    still_going = look("slide", filmed(slid(1.8, 1.0), 1.0, fps), MARKS, g=STANDARD_G)
    assert one(still_going.found, "slide").kind == "at_least"
    assert any("still going" in s for s in still_going.says)


def stopped(height: float, took: float, hold: float = 0.2) -> Callable[[float], tuple[float, float]]:
    """A fall, then an even stop that takes so long."""
    v = math.sqrt(2 * STANDARD_G * height)
    fell = v / STANDARD_G

    def way(t: float) -> tuple[float, float]:
        h = max(0.0, t - hold)
        if h <= fell:
            return 0.5, 0.4 + height - STANDARD_G * h * h / 2
        into = min(h - fell, took)
        return 0.5, 0.4 - (v * into - v * into * into / (2 * took))

    return way


@pytest.mark.parametrize(("fps", "took"), [(240, 0.03), (240, 0.06), (120, 0.05)])
def test_a_stop_is_timed_and_its_depth_read(fps: float, took: float) -> None:
    inside = []
    for seed in range(10):
        got = look("impact", filmed(stopped(1.5, took), 1.0, fps, seed=seed), MARKS, g=STANDARD_G)
        speed, time, depth = (one(got.found, n) for n in ("impact_speed", "stop_time", "crush"))
        v = math.sqrt(2 * STANDARD_G * 1.5)
        assert speed.value == pytest.approx(v, rel=0.03)
        assert time.value == pytest.approx(took, abs=0.25 * took)
        assert depth.value == pytest.approx(v * took / 2, rel=0.25)
        inside.append(abs(time.value - took) <= 2 * time.u)
    assert sum(inside) >= 8


def test_a_stop_that_is_too_quick_for_the_pictures_is_a_bound() -> None:
    got = look("impact", filmed(stopped(1.5, 0.01), 1.0, 30), MARKS, g=STANDARD_G)
    time = one(got.found, "stop_time")
    assert time.kind == "at_most"
    assert time.value >= 0.01
    assert read(time.text, "time", "s").kind == "at_most"


def test_turns_are_counted_and_what_is_too_quick_is_refused() -> None:
    got = look("spin", filmed(lambda t: (0.6 + 0.3 * math.cos(2 * math.pi * 3.2 * t), 1 + 0.3 * math.sin(2 * math.pi * 3.2 * t)), 2.0, 60), MARKS, g=STANDARD_G)
    rate = one(got.found, "spin_rate")
    assert rate.value == pytest.approx(3.2, abs=3 * rate.u + 0.005)
    assert one(got.found, "tip_speed").value == pytest.approx(2 * math.pi * 0.3 * 3.2, rel=0.02)
    slows = look("spin", filmed(lambda t: (0.6 + 0.3 * math.cos(2 * math.pi * (3 * t - 0.4 * t * t)), 1 + 0.3 * math.sin(2 * math.pi * (3 * t - 0.4 * t * t))), 2.0, 60), MARKS, g=STANDARD_G)
    assert one(slows.found, "slowing").value == pytest.approx(0.8, rel=0.1)
    with pytest.raises(CoreError) as refused:
        look("spin", filmed(lambda t: (0.6 + 0.3 * math.cos(2 * math.pi * 13 * t), 1 + 0.3 * math.sin(2 * math.pi * 13 * t)), 2.0, 30), MARKS, g=STANDARD_G)
    assert refused.value.code == "spin_quick"


def test_what_cannot_be_told_from_a_track_is_said() -> None:
    still = filmed(lambda t: (0.5, 1.0), 1.0, 30)
    for kind, track, code in (
        ("fall", still, "track_still"),
        ("fall", Track(t=[0, 0.1], x=[1, 2], y=[1, 2]), "track_short"),
        ("fall", Track(t=[0.1] * 8, x=list(range(8)), y=list(range(8))), "track_times"),
        ("fall", Track(t=[0.1], x=[], y=[]), "track_times"),
        ("impact", filmed(dropped(2.0), 0.7, 30), "track_no_end"),
        ("spin", filmed(dropped(2.0), 0.7, 30), "track_no_end"),
    ):
        with pytest.raises(CoreError) as why:
            look(kind, track, MARKS, g=STANDARD_G)  # type: ignore[arg-type]
        assert why.value.code == code
    lost = look("fall", filmed(dropped(2.0), 0.7, 30).model_copy(update={"lost": 3}), MARKS, g=STANDARD_G)
    assert any("3 of the pictures" in s for s in lost.says)


def test_the_track_is_a_table_with_its_units() -> None:
    got: Told = look("fall", filmed(dropped(2.0), 0.8, 30), MARKS, g=STANDARD_G)
    head, rows = table_of(got.motion)
    assert head[:3] == ("t_s", "x_m", "y_m")
    assert len(rows) == len(got.motion.t)
    assert rows[0][2] == pytest.approx(2.0, abs=0.01)


# --- the plane ---------------------------------------------------------------------------------------------------------


def test_four_corners_of_a_rectangle_seen_aslant_against_points_worked_by_hand() -> None:
    """A floor of 2 m by 1 m seen so that its far side is half as long: the middle of the rectangle lies where its diagonals cross, which in the
    picture is a third of the way up (by hand: the diagonals of the trapezium (0,0) (8,0) (6,6) (2,6) cross at (4, 4))."""
    plane = plane_of(Corners(corners=[Point(x=0, y=600), Point(x=800, y=600), Point(x=600, y=0), Point(x=200, y=0)], wide_m=2.0, high_m=1.0))
    metres = plane.metres(np.array([[0, 600], [800, 600], [600, 0], [200, 0], [400, 200], [400, 600], [400, 0]], dtype=np.float64))
    expected = [(0, 0), (2, 0), (2, 1), (0, 1), (1, 0.5), (1, 0), (1, 1)]
    assert metres == pytest.approx(np.array(expected), abs=1e-9)


def test_corners_that_do_not_go_round_and_marks_that_lie_on_each_other_are_refused() -> None:
    crossed = [Point(x=0, y=600), Point(x=600, y=0), Point(x=800, y=600), Point(x=200, y=0)]
    with pytest.raises(CoreError) as why:
        plane_of(Corners(corners=crossed, wide_m=2, high_m=1))
    assert why.value.code == "corners_crossed"
    with pytest.raises(CoreError) as close:
        plane_of(Marks(a=Point(x=5, y=5), b=Point(x=9, y=5), apart_m=1))
    assert close.value.code == "marks_close"


# --- the gate ----------------------------------------------------------------------------------------------------------


def gates(**more: object) -> Gates:
    given: dict[str, object] = {"first": Crossed(t=10.0, u=0.003), "last": Crossed(t=11.352, u=0.004), "rate": 30.0}
    return Gates.model_validate({**given, **more})


def test_a_gate_gives_a_time_and_with_the_tape_a_speed_worked_by_hand() -> None:
    alone = passed(gates())
    assert [f.id for f in alone.found] == ["time"]
    assert alone.found[0].u == pytest.approx(0.005)  # 3-4-5
    assert alone.found[0].text == "1.352 ± 0.010"
    tape = [Touched(where=Point(x=100, y=400), at_m=0.0), Touched(where=Point(x=900, y=400), at_m=4.0)]
    with_tape = passed(gates(start=Point(x=300, y=200), end=Point(x=700, y=200), tape=tape))
    length, speed = one(with_tape.found, "length"), one(with_tape.found, "speed")
    assert length.value == pytest.approx(2.0)
    assert speed.value == pytest.approx(2.0 / 1.352)
    # each touch (1.5 points) moves its end: at shares of 1/4 and 3/4 that is 1.5/800 × √(0.25² + 0.75² + 0.75² + 0.25²) of 4 m
    assert length.u == pytest.approx(4.0 * 1.5 / 800 * math.sqrt(1.25))
    assert speed.u == pytest.approx(speed.value * math.hypot(length.u / 2.0, 0.005 / 1.352))
    assert with_tape.says == f"2.000 m in 1.352 s: {speed.text} m/s"


def test_gates_crossed_the_other_way_or_lying_on_each_other_are_told() -> None:
    for given, code in (
        (gates(last=Crossed(t=9.0, u=0.01)), "gates_order"),
        (gates(start=Point(x=300, y=0), end=Point(x=300, y=9), tape=[Touched(where=Point(x=0, y=0), at_m=0), Touched(where=Point(x=800, y=0), at_m=4)]), "marks_close"),
        (gates(start=Point(x=300, y=0), end=Point(x=500, y=9), tape=[Touched(where=Point(x=0, y=0), at_m=0), Touched(where=Point(x=5, y=0), at_m=4)]), "marks_close"),
    ):
        with pytest.raises(CoreError) as why:
            passed(given)
        assert why.value.code == code


# --- felt --------------------------------------------------------------------------------------------------------------


def logged(height: float, stop_s: float, rate: float, *, most_g: float = 1e9, drag: float = 0.0, seed: int = 3, phase: float = 0.0) -> Log:
    """Lying still for a second, a fall, a half-sine blow of so long that takes all the speed, and still again."""
    rng = np.random.default_rng(seed)
    fall, v = math.sqrt(2 * height / STANDARD_G), math.sqrt(2 * STANDARD_G * height)
    top = v * math.pi / (2 * stop_s)
    t = np.arange(phase / rate, 1 + fall + stop_s + 0.8, 1 / rate)

    def feels(s: float) -> float:
        if s < 1:
            return STANDARD_G
        if s < 1 + fall:
            return drag * STANDARD_G
        if s < 1 + fall + stop_s:
            return STANDARD_G + top * math.sin(math.pi * (s - 1 - fall) / stop_s)
        return STANDARD_G

    a = np.abs(np.array([feels(float(s)) for s in t]) + rng.normal(0, 0.15, len(t)))
    return Log(t=t.tolist(), a=np.minimum(a, most_g * STANDARD_G).tolist())


@pytest.mark.parametrize("rate", [60.0, 100.0, 200.0])
def test_a_phone_feels_its_fall_and_from_how_high(rate: float) -> None:
    inside, heights = 0, 0
    for n in range(20):
        got: Felt = felt(logged(1.6, 0.05, rate, phase=n / 20, seed=n), g=STANDARD_G)
        time, height = one(got.found, "fall_time"), one(got.found, "fall_height")
        inside += abs(time.value - math.sqrt(2 * 1.6 / STANDARD_G)) <= 2 * time.u
        heights += abs(height.value - 1.6) <= 2 * height.u
        assert got.rate == pytest.approx(rate, rel=0.01)
    assert inside >= 18
    assert heights >= 18


def test_a_slow_blow_has_a_peak_and_a_stop_time_and_a_clipped_one_is_at_least() -> None:
    v = math.sqrt(2 * STANDARD_G * 1.0)
    soft = felt(logged(1.0, 0.08, 200), g=STANDARD_G)
    assert one(soft.found, "peak").value == pytest.approx(STANDARD_G + v * math.pi / 0.16, rel=0.05)
    assert one(soft.found, "stop_time").value == pytest.approx(0.08, rel=0.2)
    clipped = felt(logged(1.0, 0.03, 200, most_g=8), g=STANDARD_G)
    assert one(clipped.found, "peak").kind == "at_least"
    assert read(one(clipped.found, "peak").text, "acceleration", "m/s²").kind == "at_least"
    assert any("no more than 8 g" in s for s in clipped.says)
    quick = felt(logged(1.0, 0.01, 60), g=STANDARD_G)
    assert one(quick.found, "stop_time").kind == "at_most"


def test_a_fall_that_the_air_holds_gives_no_height() -> None:
    held = felt(logged(1.6, 0.05, 100, drag=0.5), g=STANDARD_G)
    assert not any(f.id == "fall_height" for f in held.found)
    assert "the air held it" in held.says[0]


def test_a_log_without_a_drop_is_told() -> None:
    lying = Log(t=[i / 60 for i in range(120)], a=[9.81] * 120)
    for log, code in ((lying, "log_no_fall"), (Log(t=[0.0, 1.0], a=[1.0, 2.0]), "log_short"), (Log(t=[0.0] * 30, a=[1.0] * 30), "log_times")):
        with pytest.raises(CoreError) as why:
            felt(log, g=STANDARD_G)
        assert why.value.code == code


# --- a landing in a picture --------------------------------------------------------------------------------------------


def picture(numbers: list[tuple[float, float]], mark: float, beside: float = 0.0, step: float = 0.01, touch: float = 1.5) -> TapePicture:
    return TapePicture(numbers=[Touched(where=Point(x=x, y=300), at_m=v) for x, v in numbers], mark=Point(x=mark, y=300 + beside), step_m=step, touch=touch)


def test_a_landing_is_read_off_a_picture_by_two_numbers_and_by_three_where_the_tape_runs_away() -> None:
    got = read_off(picture([(100, 3.0), (900, 3.5)], 500))
    assert got.distance.value == pytest.approx(3.25)
    assert got.distance.text == "3.25 ± 0.01"
    assert read(got.distance.text, "length", "m").value == pytest.approx(3.25)
    assert got.says == ()

    def seen(v: float) -> float:  # a tape that runs away: x = (300 v + 20) / (0.2 v + 1), made up
        return (300 * v + 20) / (0.2 * v + 1)

    for v in (1.5, 2.4, 3.7):
        assert read_off(picture([(seen(n), n) for n in (1.0, 2.0, 4.0)], seen(v))).distance.value == pytest.approx(v)
    assert read_off(picture([(seen(n), n) for n in (1.0, 2.0, 4.0)], seen(2.0))).distance.value == pytest.approx(2.0)
    assert read_off(picture([(900, 3.0), (100, 3.5)], 500)).distance.value == pytest.approx(3.25)


def test_what_is_wrong_with_such_a_picture_is_told() -> None:
    assert "beside the tape" in read_off(picture([(100, 3.0), (900, 3.5)], 500, beside=200)).says[0]
    assert "beyond" in read_off(picture([(100, 3.0), (500, 3.5)], 700)).says[0]
    assert "not to its step" in read_off(picture([(100, 3.0), (300, 4.0)], 200)).says[0]
    for numbers, mark, code in (([(100.0, 3.0), (105.0, 3.5)], 102.0, "marks_close"), ([(100.0, 3.0), (500.0, 3.0)], 300.0, "marks_close"), ([(100.0, 3.0), (500.0, 3.5)], 2500.0, "mark_beyond"), ([(100.0, 3.0), (300.0, 4.0), (500.0, 3.5)], 200.0, "tape_crooked")):
        with pytest.raises(CoreError) as why:
            read_off(picture(numbers, mark))
        assert why.value.code == code


def test_a_number_is_written_as_a_reading_is() -> None:
    for value, u, kind, text in ((1.35216, 0.005, "exact", "1.352 ± 0.010"), (16.0, 0.0, "at_least", "16.00+"), (0.0667, 0.008, "at_most", "≤ 0.067"), (9.81, 0.13, "exact", "9.81 ± 0.26")):
        assert stated(value, u, kind) == text  # type: ignore[arg-type]
        assert read(text, "number", "").value == pytest.approx(value, rel=0.01)
    speed = Found(id="v", name="speed", quantity="speed", value=1.5, u=0.01, unit="m/s", text="1.500 ± 0.020")
    assert speed.in_unit("km/h") == "5.400 ± 0.072"
    assert speed.in_unit("m/s") == speed.text
