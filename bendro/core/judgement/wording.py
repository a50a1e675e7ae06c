"""Words and numbers for sentences: how a difference is named, and how a number is rounded for reading aloud."""

from __future__ import annotations

import math
from typing import Literal

from ..readings import QUANTITIES, find_unit
from ..results import Interval
from ..statistics.describe import at_place

ReadingLevel = Literal["first", "middle", "senior"]

_WORDS = {"time": ("longer", "shorter"), "length": ("greater", "less"), "count": ("more", "fewer"), "mass": ("heavier", "lighter")}


def more_or_less(unit: str | None, positive: bool) -> str:
    """The comparing word that fits the unit: a time is longer, a distance greater."""
    for name, words in _WORDS.items():
        if unit and find_unit(unit, name):
            return words[0 if positive else 1]
    return "higher" if positive else "lower"


def known_quantity(unit: str | None) -> str | None:
    """The first quantity of which this is a printed unit."""
    return next((n for n, q in QUANTITIES.items() if unit and unit in q.units), None)


def sized(value: float, interval: Interval | None, unit: str | None) -> str:
    """A size to the place that its interval allows: "1.2 m"."""
    return f"{at_place(abs(value), _places(value, interval))}{' ' + unit if unit else ''}"


def spanned(interval: Interval, unit: str | None, value: float = 0.0) -> str:
    """An interval read aloud: "1.1 to 1.3 m"; numbers below zero keep their sign."""
    places = _places(value, interval)
    return f"{at_place(interval[0], places)} to {at_place(interval[1], places)}{' ' + unit if unit else ''}"


def _places(value: float, interval: Interval | None) -> int:
    half = (interval[1] - interval[0]) / 2 if interval else 0.0
    base = half if half > 1e-9 * abs(value) else abs(value) / 10  # an interval of no width says nothing about places
    if base <= 0 or not math.isfinite(base):
        return 1
    places = -math.floor(math.log10(base)) + (1 if f"{base:.1e}"[0] == "1" else 0)
    if value and round(value, places) == 0:  # the doubt is larger than the size: show the size's first digit all the same
        places = -math.floor(math.log10(abs(value)))
    return places


def start(text: str) -> str:
    """First letter large, the rest as it is."""
    return text[:1].upper() + text[1:]


def percent(share: float) -> str:
    """A share (0 to 1) as it is read aloud: "14 %"."""
    return f"{100 * share:.0f} %"


#: From this share of the arrangements on, counts say no more than "nearly all of them".
NEARLY_ALL = 0.995


#: What a level's result is called where places are told.
RESULT_SAID = {"mean": "average", "median": "middle reading", "best": "best trial", "total": "total"}
#: More arrangements than this are not pictured any more.
MOST_SAID = 1_000_000


def chance(p: float, arrangements: int, exact: bool) -> str:
    """How often luck alone would do it, in counts that can be pictured; to be followed by "arrangements" or "shuffles"."""
    if exact and arrangements <= MOST_SAID:
        return f"{round(p * arrangements):,} of {arrangements:,}".replace(",", " ")
    if p <= 1.5 / (arrangements + 1) and not exact:
        return f"fewer than 1 in {arrangements:,}".replace(",", " ")
    if p < 0.01:
        return f"about 1 in {round(1 / p):,}".replace(",", " ")
    return "nearly all" if p >= NEARLY_ALL else f"about {round(100 * p)} in 100"
