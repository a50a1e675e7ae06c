"""How sizes are rounded when they are read aloud."""

import pytest

from bendro.core.judgement.wording import chance, sized, spanned

SIZES = [
    (1.8123, (1.71, 1.91), "1.81 m"),
    (9.107, (1.17, 17.04), "9.1 m"),
    (-0.1425, (-0.2777, -0.0073), "0.14 m"),
    # the doubt is far larger than the size: its first digit is shown all the same
    (4.967, (-26.0, 36.0), "5 m"),
    (0.02, (-3.0, 3.0), "0.02 m"),
    (0.0, (-1.0, 1.0), "0.0 m"),
]


@pytest.mark.parametrize(("value", "interval", "text"), SIZES)
def test_a_size_is_rounded_to_the_place_of_its_doubt(value: float, interval: tuple[float, float], text: str) -> None:
    assert sized(value, interval, "m") == text


def test_an_interval_keeps_its_signs_with_true_minus() -> None:
    assert spanned((-0.04, 0.31), "s", 0.135) == "−0.04 to 0.31 s"


def test_chance_is_told_in_counts_that_can_be_pictured() -> None:
    assert chance(4 / 70, 70, True) == "4 of 70"
    assert chance(1 / 20_001, 20_000, False) == "fewer than 1 in 20,000"
    assert chance(0.004, 20_000, False) == "about 1 in 250"
    assert chance(0.23, 20_000, False) == "about 23 in 100"
