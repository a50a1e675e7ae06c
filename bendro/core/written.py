"""How numbers are written: the one module of the core that turns a number into text for people to read.

The rule is one that can be said in class. A mean, a median, a best and a range have as many decimals as the readings have (the number that
most of them have; a bound or an estimate never coarsens the others). A mean of counts, points or places has one decimal, from thirty trials
two. A total has the decimals of what is added. A standard deviation and the half-width of an interval have two figures, an interval the
decimals of its mean, an effect as many as its half-width has with two figures. A spread that is not zero is never written as zero.
Source: common practice of school laboratories; JCGM 100:2008, 7.2.6, for two figures of a doubt.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Sequence
from decimal import ROUND_HALF_UP, Decimal
from typing import Literal

#: From so many trials on, a mean of whole numbers has two decimals.
MANY = 30
#: More decimals than this are never written.
MOST_DECIMALS = 6
_EXACT = 1e-9


def at_place(value: float, places: int | None) -> str:
    """A number written to so many places, halves away from zero as they are rounded by hand (5.35 gives 5.4, 8.05 gives 8.1),
    with a true minus sign."""
    if places is None:
        text = f"{value:.6g}"
    else:
        # twelve digits first: a mean that is 5.35 on paper may be 5.3499999999999996 in the machine
        rounded = Decimal(f"{value:.12g}").quantize(Decimal(1).scaleb(-places), ROUND_HALF_UP)
        text = f"{rounded if rounded else 0:.{max(places, 0)}f}"
    return text.replace("-", "−")


def decimals_of_step(step: float) -> int:
    """Decimals of a reading taken in steps of this size (> 0): 0.25 has two, 0.5 one, 1 and 10 none; of a step that is no round number
    (an inch in centimetres, a frame in seconds) as many as show it."""
    for places in range(4):
        if abs(step * 10**places - round(step * 10**places)) < _EXACT * step * 10**places and round(step * 10**places) in (1, 2, 5, 10, 20, 25, 50, 100):
            return places
    return min(max(0, math.ceil(-math.log10(step) - _EXACT)), MOST_DECIMALS)


def decimals_of_value(value: float) -> int:
    """Decimals that a number is written with when nothing is known of its tool; three at most."""
    return next((n for n in range(3) if abs(round(value, n) - value) <= _EXACT * max(1.0, abs(value))), 3)


#: What is stated beside a reading holds 95 of 100: so many standard uncertainties to either side. Source: JCGM 100:2008, 6.3.3.
COVERS = 2.0


def stated(value: float, u: float, kind: Literal["exact", "at_least", "at_most", "estimate"] = "exact") -> str:
    """A number as a reading is written and read back, u its standard uncertainty (>= 0, same unit): to the two figures of what holds 95 of 100, which
    stands beside it; a bound with its sign."""
    half = COVERS * u
    places = two_figures(half) if half > 0 else None
    if places is None:  # nothing is known of its doubt: four figures
        shown = two_figures(value)
        places = 3 if shown is None else shown + 2
    places = min(max(0, places), MOST_DECIMALS)
    text = at_place(value, places).replace("−", "-")
    if kind == "at_least":
        return f"{text}+"
    if kind == "at_most":
        return f"≤ {text}"
    return f"{text} ± {at_place(half, places)}" if half > 0 else text


def most_common(decimals: Iterable[int]) -> int | None:
    """The number of decimals that most have, of several the finer; None of none."""
    counts = Counter(decimals)
    return max(counts, key=lambda d: (counts[d], d)) if counts else None


def two_figures(size: float) -> int | None:
    """Decimals that show two figures of a size (negative: tens, hundreds); None for zero."""
    if not size or not math.isfinite(size):
        return None
    exponent = int(f"{abs(size):.1e}".split("e")[1])  # after rounding: 0.0996 has the two figures of 0.10
    return 1 - exponent


def spread(size: float) -> str:
    """A spread to two figures; "0" only where it is zero."""
    places = two_figures(size)
    return "0" if places is None else at_place(size, places)


def whole_mean(trials: int) -> int:
    """Decimals of a mean of counts, points or places."""
    return 2 if trials >= MANY else 1


def half_decimals(half: float, decimals: int) -> int:
    """Decimals of half a range by hand: those of the readings, and one more where halving makes it so."""
    exact = abs(round(half, decimals) - half) <= _EXACT * max(1.0, abs(half))
    return decimals if exact else decimals + 1


def interval(low: float, high: float, decimals: int, *, least: float | None = None, most: float | None = None) -> str | None:
    """An interval with the decimals of its mean, and more where its ends would read alike; None of one of no width. least, most: where no
    reading can lie beyond, so that it is said from which side the interval is open."""
    if high - low <= _EXACT * max(abs(low), abs(high)):
        return None
    while decimals < MOST_DECIMALS and at_place(low, decimals) == at_place(high, decimals):
        decimals += 1
    below, above = least is not None and low < least - _EXACT, most is not None and high > most + _EXACT
    if below and above:
        return f"{at_place(least or 0.0, decimals)} to {at_place(most or 0.0, decimals)}"
    if below:
        return f"up to {at_place(high, decimals)}"
    if above:
        return f"from {at_place(low, decimals)}"
    return f"{at_place(low, decimals)} to {at_place(high, decimals)}"


def effect_decimals(value: float, half: float | None, most: int | None = None) -> int:
    """Decimals of an effect: as many as its half-width has with two figures, yet no more than the means have from which a class takes it
    (most); without a half-width two figures of its own. Never so few that it would read as zero."""
    places = two_figures(half) if half and half > _EXACT * abs(value) else None
    if places is None:
        places = two_figures(value)
    if places is None:
        return 1
    if most is not None:
        places = min(places, most)
    own = two_figures(value)
    return max(places, own - 1) if own is not None and round(value, places) == 0 else places


def place_of(doubt: float | None, resolution: float | None, n: int) -> int | None:
    """Decimal places of a single value that is worked out (negative: tens, hundreds); None when nothing limits it.

    One significant figure of the doubt, two if it starts with 1, and never finer than resolution/√n justifies.
    Source: common practice; GUM, JCGM 100:2008, 7.2.6.
    """
    places: list[int] = []
    if doubt:
        first = math.floor(math.log10(doubt) + 1e-12)
        leading = int(f"{doubt:.1e}"[0])
        if int(f"{doubt:.1e}".split("e")[1]) > first:
            first += 1
        places.append(-first + (1 if leading == 1 else 0))
    if resolution:
        places.append(math.floor(-math.log10(resolution / math.sqrt(max(n, 1))) + 1e-9))
    return min(places) if places else None


_MARKS = {"exact": "", "at_least": "at least ", "at_most": "at most ", "estimate": "about "}


def written_of(value: float, doubt: float, kind: str, unit: str) -> str:
    """One value as it is read aloud, to the place of its doubt: "1.41 m/s", "at least 3.6 m"."""
    text = f"{_MARKS[kind]}{at_place(value, place_of(doubt, None, 1)) if doubt else at_place(float(f'{value:.4g}'), None)}"
    return with_unit(text, unit)


def with_unit(text: str, unit: str | None) -> str:
    """A number with its unit: "1.2 m", "45°", "£2", "7" for what is counted."""
    if unit in (None, "", "count"):
        return text
    if unit in MONEY:
        return f"{unit}{text}"
    return f"{text}{'' if unit == '°' else ' '}{unit}"


#: Signs of money stand before the number.
MONEY = ("£", "$", "€")
#: A p below this is written as such: further digits mean nothing to a class.
LEAST_P = 0.001


def p_text(p: float | None) -> str | None:
    """A p as it is read aloud: "0.042", "below 0.001"."""
    if p is None:
        return None
    return f"below {LEAST_P:g}" if p < LEAST_P else at_place(p, 3 if p < 0.1 else 2)


def start(text: str) -> str:
    """First letter large, the rest as it is."""
    return text[:1].upper() + text[1:]


def listed(names: Sequence[str], word: str = "and") -> str:
    """ "a", "a and b", "a, b and c"."""
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} {word} {names[-1]}"


def money(amount: float, word: str) -> str:
    """Play money or a currency as it is said: "1 coin", "14 coins", "2.5 €"; word: as the plan has it, "" where none is named."""
    one = abs(amount) == 1 and len(word) > 2 and word.endswith("s") and not word.endswith("ss")
    return with_unit(f"{amount:g}", word[:-1] if one else word) if word else f"{amount:g}"


def plural(n: int, noun: str) -> str:
    """ "1 reading", "3 readings"."""
    return f"{n} {noun}{'' if n == 1 else 's'}"


ReadingLevel = Literal["first", "middle", "senior"]


def level_label(level: float | str, unit: str | None) -> str:
    """A level as it is read aloud: "2.5 kg", "felt"."""
    if isinstance(level, str):
        return level
    text = f"{level:g}".replace("-", "−")
    if unit in MONEY:
        return f"{unit}{text}"
    return text if unit in (None, "", "count") else f"{text}{'' if unit in ('°', '%') else ' '}{unit}"


def sentence(text: str) -> str:
    """A text that ends as a sentence does; "" stays so."""
    text = text.strip()
    return text if not text or text[-1] in ".?!" else f"{text}."


#: What a level's result is called where places are told.
RESULT_SAID = {"mean": "average", "median": "middle reading", "best": "best trial", "total": "total"}
