"""Words and numbers for sentences: how a difference is named, and how a number is rounded for reading aloud."""

from __future__ import annotations

import re

from ..readings import QUANTITIES, find_unit
from ..results import Interval
from ..written import at_place, effect_decimals, with_unit
from ..written import interval as written_interval

_WORDS = {"time": ("longer", "shorter"), "length": ("greater", "less"), "count": ("more", "fewer"), "mass": ("heavier", "lighter")}


def more_or_less(unit: str | None, positive: bool) -> str:
    """The comparing word that fits the unit: a time is longer, a distance greater."""
    for name, words in _WORDS.items():
        if unit and find_unit(unit, name):
            return words[0 if positive else 1]
    return "higher" if positive else "lower"


#: Names of levels that begin like this need no "with": "at the back".
_PLACE_WORDS = frozenset({"at", "in", "on", "under", "over", "with", "without", "near", "behind", "before", "after", "inside", "outside", "above", "below", "beside", "from", "to"})


def with_level(label: str, named: str = "") -> str:
    """What stands before a level in a sentence: "with ", or nothing where its name says how it stands. named: the variable, where it is said too."""
    return "" if not named and label.split(" ", 1)[0].casefold() in _PLACE_WORDS else f"with {named}"


def several(name: str) -> bool:
    """Whether a measure is called by a plural: "hits of five shots", "turns", "rungs survived"."""
    head = re.split(r" (?:of|to|from|at|in|per|off|between)\b", name.strip())[0].split()
    ends = [w for w in (head[0], head[-1]) if w] if head else []
    return any(re.search(r"[^su]s$", w) is not None for w in ends)


def known_quantity(unit: str | None) -> str | None:
    """The first quantity of which this is a printed unit."""
    return next((n for n, q in QUANTITIES.items() if unit and unit in q.units), None)


def sized(value: float, interval: Interval | None, unit: str | None, most: int | None = None) -> str:
    """A size to the place that its interval allows: "1.2 m". most: decimals that the means have."""
    return with_unit(at_place(abs(value), _places(value, interval, most)), unit)


def spanned(interval: Interval, unit: str | None, value: float = 0.0, most: int | None = None) -> str:
    """An interval read aloud, with the decimals of the size that stands in it: "1.1 to 1.3 m"; numbers below zero keep their sign."""
    places = _places(value, interval, most)
    return with_unit(written_interval(*interval, places) or at_place(interval[0], places), unit)


def begins_at(near: float, value: float, unit: str | None, most: int | None = None) -> str:
    """The near end of an interval that is open, with the decimals that the whole interval would have."""
    return with_unit(at_place(near, _places(value, (near, 2 * value - near), most)), unit)


def _places(value: float, interval: Interval | None, most: int | None) -> int:
    return effect_decimals(value, None if interval is None else (interval[1] - interval[0]) / 2, most)


def percent(share: float) -> str:
    """A share (0 to 1) as it is read aloud: "14 %"."""
    return f"{100 * share:.0f} %"


#: From this share of the arrangements on, counts say no more than "nearly all of them".
NEARLY_ALL = 0.995


#: What a prediction's shape says.
EXPECTED = {"rises": "it rises", "falls": "it falls", "peak": "a best in the middle", "none": "no effect"}
#: More arrangements than this are not pictured any more.
MOST_SAID = 1_000_000

#: Where every reading is the same there is one way to deal them out.
NOTHING_TO_SHUFFLE = "All readings are equal: there is nothing to shuffle."


def chance(p: float, arrangements: int, exact: bool) -> str:
    """How often luck alone would do it, in counts that can be pictured; to be followed by "arrangements" or "shuffles"."""
    if exact and arrangements <= MOST_SAID:
        return f"{round(p * arrangements):,} of {arrangements:,}"
    if p <= 1.5 / (arrangements + 1) and not exact:
        return f"fewer than 1 in {arrangements:,}"
    if p < 0.01:
        return f"about 1 in {round(1 / p):,}"
    return "nearly all" if p >= NEARLY_ALL else f"about {round(100 * p)} in 100"
