"""What people write for a reading, what is understood, and what is refused with which reason."""

from __future__ import annotations

import math
import time

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bendro.core.errors import CoreError, ReadingRefused
from bendro.core.readings import QUANTITIES, combine, read, write

CASES = [
    # text, quantity, default unit -> kind, SI value, resolution in SI
    ("4.52", "length", "m", "exact", 4.52, 0.01),
    ("452 cm", "length", "m", "exact", 4.52, 0.01),
    ("4,52", "length", "m", "exact", 4.52, 0.01),
    ("14 ft 10 in", "length", "m", "exact", 178 * 0.0254, 0.0254),
    ("12'6\"", "length", "m", "exact", 150 * 0.0254, 0.0254),
    ("12'-6\"", "length", "m", "exact", 150 * 0.0254, 0.0254),
    ("5'10", "length", "m", "exact", 70 * 0.0254, 0.0254),
    ("3 ft 4 1/2 in", "length", "m", "exact", 40.5 * 0.0254, 0.5 * 0.0254),
    ("7 m 05 cm", "length", "m", "exact", 7.05, 0.01),
    ("15½ cm", "length", "m", "exact", 0.155, 0.005),
    ("3/4 in", "length", "m", "exact", 0.75 * 0.0254, 0.25 * 0.0254),
    ("4.5e2 cm", "length", "m", "exact", 4.5, 0.1),
    ("1.5×10² cm", "length", "m", "exact", 1.5, 0.1),
    ("1,234.5 mm", "length", "m", "exact", 1.2345, 0.0001),
    ("1.2 m", "length", "cm", "exact", 1.2, 0.1),
    ("0.350 s", "time", "s", "exact", 0.35, 0.001),
    ("1:03.42", "time", "s", "exact", 63.42, 0.01),
    ("1:02:03", "time", "s", "exact", 3723, 1),
    ("1 min 3.4 s", "time", "s", "exact", 63.4, 0.1),
    ("126 frames @ 240 fps", "time", "s", "exact", 0.525, 1 / 240),
    ("≥ 3.8 m", "length", "m", "at_least", 3.8, 0.1),
    (">3.8 m", "length", "m", "at_least", 3.8, 0.1),
    ("3.8 m+", "length", "m", "at_least", 3.8, 0.1),
    ("3.8+", "length", "m", "at_least", 3.8, 0.1),
    ("at least 380 cm", "length", "m", "at_least", 3.8, 0.01),
    ("≤ 2 s", "time", "s", "at_most", 2, 1),
    ("<2.5", "time", "s", "at_most", 2.5, 0.1),
    ("~40 ft", "length", "m", "estimate", 12.192, 0.3048),
    ("about 4", "length", "m", "estimate", 4, 1),
    ("ca. 4 m", "length", "m", "estimate", 4, 1),
    ("35-40 ft", "length", "m", "estimate", 37.5 * 0.3048, 0.3048),
    ("2 lb 3 oz", "mass", "g", "exact", 35 * 0.028349523125, 0.028349523125),
    ("12 km/h", "speed", None, "exact", 12 / 3.6, 1 / 3.6),
    ("-5°", "angle", None, "exact", -5, 1),
    ("12 turns", "count", None, "exact", 12, 1),
    ("850 mV", "voltage", None, "exact", 0.85, 0.001),
]


@pytest.mark.parametrize(("text", "quantity", "unit", "kind", "si", "step"), CASES)
def test_what_is_understood(text: str, quantity: str, unit: str | None, kind: str, si: float, step: float) -> None:
    found = read(text, quantity, unit)
    assert (found.kind, found.text) == (kind, text)
    assert found.si_value == pytest.approx(si, rel=1e-12)
    assert found.resolution * found.si_value / found.value == pytest.approx(step, rel=1e-9)


REFUSED = [
    ("", "reading_empty"),
    ("   ", "reading_empty"),
    ("~", "reading_empty"),
    ("fast", "reading_words"),
    ("4 m fast", "reading_words"),
    ("3 4", "reading_two_numbers"),
    ("3 m 20", "reading_two_numbers"),
    ("1'000", "reading_two_numbers"),
    ("4 s", "reading_wrong_dimension"),
    ("4 qq", "reading_unit_unknown"),
    ("-4 m", "reading_negative"),
    ("1e400", "reading_not_finite"),
    ("inf", "reading_not_finite"),
    ("nan", "reading_not_finite"),
    ("2000 km", "reading_absurd"),
    ("=A1", "reading_formula"),
    ("1+2", "reading_formula"),
    ("2*3", "reading_formula"),
    ("1.2.3", "reading_number"),
    ("4..5", "reading_number"),
    ("4,", "reading_number"),
    ("1,234", "reading_thousands"),
    ("7 m 105 cm", "reading_mixed"),
    ("3 cm 2 m", "reading_mixed"),
    ("1.5 m 3 cm", "reading_mixed"),
    ("~≥3", "reading_mark"),
    ("≥3-4 m", "reading_mark"),
    ("4-3 m", "reading_range"),
    ("1/0 m", "reading_fraction"),
    ("3\u200bm", "reading_control"),
    ("3 m\n", "reading_control"),
    ("٣", "reading_number"),
    ("9" * 65, "reading_too_long"),
]


@pytest.mark.parametrize(("text", "code"), REFUSED)
def test_what_is_refused_and_why(text: str, code: str) -> None:
    with pytest.raises(ReadingRefused) as caught:
        read(text, "length", "m")
    assert caught.value.code == code
    assert caught.value.says.endswith(".")
    assert len(caught.value.says) > 20


def test_a_clock_with_seconds_past_59_is_refused() -> None:
    with pytest.raises(ReadingRefused, match="below 60"):
        read("1:75", "time", "s")


def test_a_bare_number_needs_a_unit_from_somewhere() -> None:
    with pytest.raises(ReadingRefused, match="no unit"):
        read("4.2", "length")


def test_left_of_the_line_counts_below_zero() -> None:
    assert read("left 12", "length", "cm", signed=True).value == -12
    assert read("5 cm R", "length", "cm", signed=True).value == 5


def test_the_tools_step_replaces_the_last_digit() -> None:
    assert read("4.5", "length", "m", tool_step="1 cm").resolution == pytest.approx(0.01)


def test_two_readings_that_look_alike_keep_their_resolution() -> None:
    assert read("20.50", "length", "cm").resolution == 0.01
    assert read("20.5", "length", "cm").resolution == 0.1


def test_standard_uncertainty_by_kind() -> None:
    # GUM, JCGM 100:2008, F.2.2.1: a step of 0.01 gives 0.01/√12; 4.3.7: a rectangular half-width a gives a/√3
    assert read("4.52 m", "length").standard_uncertainty == pytest.approx(0.01 / math.sqrt(12))
    assert read("35-40 ft", "length").standard_uncertainty == pytest.approx(2.5 / math.sqrt(3))
    assert read("~40 ft", "length").standard_uncertainty == pytest.approx(10)


_units = [
    (q.name, u) for q in QUANTITIES.values() for u in q.units if q.name in ("length", "time", "mass", "speed", "angle", "voltage", "volume")
]


@given(st.sampled_from(_units), st.decimals(0, 27, places=3), st.integers(0, 3), st.sampled_from(["", "~", "≥", "≤"]))
def test_what_is_printed_is_read_back(unit: tuple[str, str], value: object, places: int, mark: str) -> None:
    first = read(f"{mark}{value:.{places}f} {unit[1]}", unit[0])
    again = read(write(first), unit[0])
    assert (again.kind, again.amount, again.unit, again.step, again.half) == (first.kind, first.amount, first.unit, first.step, first.half)


@given(st.integers(0, 40), st.integers(0, 11), st.sampled_from([2, 4, 8, 16]), st.integers(0, 15))
def test_mixed_units_and_fractions_are_read_back(feet: int, inches: int, bottom: int, top: int) -> None:
    first = read(f"{feet} ft {inches} {top % bottom}/{bottom} in", "length")
    assert first.amount == 12 * feet + inches + (top % bottom) / bottom
    assert read(write(first), "length").amount == first.amount


@settings(max_examples=400)
@given(st.text(max_size=80) | st.text("0123456789.,+-~≥ /'\"fteinmscx^°=()@²½eE", max_size=30), st.sampled_from(list(QUANTITIES)))
def test_no_text_raises_anything_but_its_own_error(text: str, quantity: str) -> None:
    try:
        found = read(text, quantity, next(iter(QUANTITIES[quantity].units)))
    except CoreError as why:
        assert why.code.startswith("reading_")
    else:
        assert math.isfinite(found.si_value)
        assert found.resolution > 0


def test_ten_thousand_characters_are_refused_at_once() -> None:
    # the issue's own bound: under a millisecond a character; one refusal of junk is compared with that
    for junk in ("9" * 10_000, "١" * 10_000, "ft " * 3_333, "😀" * 10_000, "(" * 10_000):
        began = time.perf_counter()
        with pytest.raises(ReadingRefused, match="characters"):
            read(junk, "length", "m")
        assert time.perf_counter() - began < 0.001 * len(junk)


def test_several_timers_make_one_time_and_the_odd_one_is_flagged() -> None:
    assert combine([2.10, 2.20]).value == pytest.approx(2.15)
    together = combine([2.10, 2.14, 2.61])
    assert (together.value, together.method, together.flagged) == (2.14, "median", (2,))
    assert combine([2.10, 2.14, 2.24]).flagged == ()  # further than 3 MADs, but not by 0.15 s
    assert combine([2.1, 2.3], bias=[0.1, 0.1]).value == pytest.approx(2.1)
    with pytest.raises(CoreError, match="No timer"):
        combine([])
