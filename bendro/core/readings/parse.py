"""Text that a person wrote for a reading -> `Reading`, or a refusal that says what was seen and what to write.

Codes of refusal: reading_empty, reading_too_long, reading_control, reading_formula, reading_words, reading_two_numbers,
reading_number, reading_thousands, reading_unit_missing, reading_unit_unknown, reading_wrong_dimension, reading_mixed,
reading_clock, reading_range, reading_mark, reading_fraction, reading_negative, reading_not_finite, reading_absurd,
reading_doubt, reading_step.
"""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass
from fractions import Fraction
from typing import Protocol

from ..errors import ReadingRefused
from .model import Kind, Reading
from .units import Quantity, convert, find_unit, quantities_of, quantity

MAX_CHARACTERS = 64
#: Powers of ten past this are refused before any arithmetic: no school reading needs them.
MAX_EXPONENT = 30

_SPACES = re.compile(r"[\u00a0\u2000-\u200a\u202f\u205f\u3000\t ]+")
_SAME = str.maketrans(
    {
        "−": "-",
        "–": "-",
        "—": "-",
        "‐": "-",
        "‑": "-",
        "′": "'",
        "’": "'",
        "‘": "'",
        "″": '"',
        "”": '"',
        "“": '"',
        "⁄": "/",
        "≧": "≥",
        "≦": "≤",
        "≈": "~",
        "∼": "~",
        "×": "x",
        "＋": "+",
    }
)
_VULGAR = {c: unicodedata.normalize("NFKC", c).replace("⁄", "/") for c in "½⅓⅔¼¾⅕⅖⅗⅘⅙⅚⅛⅜⅝⅞⅒"}
_SUPERSCRIPT = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻", "0123456789-")

_BEFORE: tuple[tuple[str, Kind], ...] = (
    (r">=|=>|≥|>|at least\b|no less than\b|more than\b|over\b", "at_least"),
    (r"<=|=<|≤|<|at most\b|no more than\b|less than\b|under\b|up to\b", "at_most"),
    (r"~|about\b|approx(?:imately)?\b\.?|ca\b\.?|c\.(?=\s*\d)|circa\b|around\b|roughly\b|nearly\b|est\b\.?|estimated?\b", "estimate"),
)
_AFTER: tuple[tuple[str, Kind], ...] = ((r"\+|or more\b|or over\b", "at_least"), (r"or less\b|or under\b", "at_most"))
_NUMBER = re.compile(r"(?P<sign>[+-]?)\s*(?P<body>\d[\d.,]*|[.,]\d[\d.,]*)(?P<exp>\s*(?:[eE]|\s?x\s?10\^?)(?P<power>[+-]?\d+))?")
_FRACTION = re.compile(r"(?P<top>\d+)\s*/\s*(?P<bottom>\d+)")
_POWER = r"(?:\^?[23](?!\s*[\d.,/A-Za-z])|[²³])?"
_UNIT = re.compile(
    r"per cent|percent|m s(?:\^?-1|⁻¹)|sq [a-z]+|[A-Za-zµμ°º%][A-Za-zµμ°º·]*" + _POWER + r"(?:/[A-Za-z]+" + _POWER + r")?\.?|''|'|\"|/s\b"
)
_CLOCK = re.compile(r"(?:(?P<h>\d{1,3}):)?(?P<m>\d{1,3}):(?P<s>\d+(?:[.,]\d+)?)\s*(?P<unit>min|mins|s|sec|h)?\.?$")
_FRAMES = re.compile(
    r"(?P<n>\d+)\s*(?:frames?|frs?|f)\.?\s*(?:@|at|/)\s*(?P<rate>\d+(?:[.,]\d+)?)\s*(?:fps|frames?\s*(?:/|per)\s*s(?:ec(?:ond)?)?|f/s|hz)?$",
    re.I,
)
_JOINED = re.compile(r"\s*(?:-|to\b|\.\.\.?|…)\s*")
_ACCEPTED = {
    "length": "452 cm, 4.52 m, 14 ft 10 in, ≥3.8 m or ~4 m",
    "time": "1.32 s, 1:03.4, ~2 s or 126 frames @ 240 fps",
    "mass": "65 g, 0.065 kg or 2.3 oz",
    "speed": "3.2 m/s or 12 km/h",
    "angle": "35° or 35 deg",
    "count": "12",
    "voltage": "0.85 V or 850 mV",
}


class _Make(Protocol):
    def __call__(self, amount: Fraction, step: Fraction, unit: str, kind: Kind = ..., half: Fraction | None = ...) -> Reading: ...


@dataclass(frozen=True, slots=True)
class _Number:
    amount: Fraction
    step: Fraction
    end: int
    written: str


@dataclass(frozen=True, slots=True)
class _Amount:
    """A number with the unit it ended up in; unit is None when nothing was written."""

    amount: Fraction
    step: Fraction
    unit: str | None
    end: int


def _refuse(code: str, says: str, q: Quantity | None = None) -> ReadingRefused:
    example = _ACCEPTED.get(q.name) if q else None
    return ReadingRefused(f"{says} Write it like {example}." if example else says, code=code, where="reading")


def read(
    text: str,
    quantity_name: str,
    default_unit: str | None = None,
    *,
    tool_step: str | None = None,
    signed: bool | None = None,
    decimal_comma: bool = False,
) -> Reading:
    """Understand one written reading.

    quantity_name: a key of `QUANTITIES`. default_unit: unit of a bare number. tool_step: smallest step of the tool
    ("1 mm"), which replaces the last written place as resolution. signed: whether below zero is possible, when the
    quantity's own rule does not fit (a distance off the line is signed). decimal_comma: a comma is always a decimal
    mark (files that use it throughout), and a point before three digits is asked about. Raises ReadingRefused, and nothing
    else, for any text.
    """
    q = quantity(quantity_name)
    if signed is not None and signed != q.signed:
        q = Quantity(name=q.name, si=q.si, units=q.units, absurd=q.absurd, signed=signed)
    unit = None if default_unit is None else _known_unit(default_unit, q)
    clean = _clean(text, q)
    body, mark = _marks(clean, q)
    reading = _understand(text, body, mark, q, unit, decimal_comma)
    if tool_step is not None:
        step = step_of(tool_step, quantity_name, unit or reading.unit, to=reading.unit)
        reading = Reading(
            text=reading.text,
            kind=reading.kind,
            quantity=reading.quantity,
            amount=reading.amount,
            unit=reading.unit,
            step=step,
            half=reading.half,
        )
    _check_bounds(reading, q)
    return reading


def step_of(text: str, quantity_name: str, unit: str, *, to: str | None = None) -> Fraction:
    """The smallest step of a tool, in `to` (or `unit`), > 0. A bare number is in `unit`. Raises ReadingRefused."""
    found = read(text, quantity_name, unit, signed=True)
    if found.kind != "exact" or found.amount <= 0:
        raise ReadingRefused(
            f"“{text.strip()}” is not the smallest step of a tool: a step is one value above zero.", code="reading_step", where="step"
        )
    return found.amount_in(to or unit)


def _known_unit(spelling: str, q: Quantity) -> str:
    unit = find_unit(spelling, q.name)
    if unit is None:
        raise _refuse("reading_unit_unknown", f"“{spelling[:20]}” is not a unit of {q.name}; use {_units(q)}.")
    return unit


def _units(q: Quantity) -> str:
    return ", ".join(u for u in q.units if u)


def _clean(text: str, q: Quantity) -> str:
    if len(text) > MAX_CHARACTERS:
        raise _refuse("reading_too_long", f"That is {len(text)} characters; a reading has at most {MAX_CHARACTERS}.", q)
    if any(unicodedata.category(c) in {"Cc", "Cf", "Cs", "Co", "Cn"} and c != "\t" for c in text):
        raise _refuse("reading_control", "There is a character in it that cannot be seen.", q)
    clean = _SPACES.sub(" ", text).strip()
    if not clean:
        raise _refuse("reading_empty", "Nothing is written here.", q)
    clean = clean.translate(_SAME)
    for sign, plain in _VULGAR.items():
        clean = clean.replace(sign, f" {plain}")
    if re.search(r"10\s*\^?[⁰¹²³⁴⁵⁶⁷⁸⁹⁻]", clean):
        clean = re.sub(r"(10)([⁰¹²³⁴⁵⁶⁷⁸⁹⁻]+)", lambda m: m[1] + "^" + m[2].translate(_SUPERSCRIPT), clean)
    if any(c.isdigit() and c not in "0123456789²³" for c in clean):
        raise _refuse("reading_number", f"“{text}” has digits that are not 0 to 9.", q)
    clean = clean.strip()
    if (clean[0] == "=" and not clean.startswith(("=>", "=<"))) or re.search(r"\d\s*[*+]\s*\d|[a-z]+\(", clean, re.I):
        raise _refuse("reading_formula", f"“{text}” is a sum, not a reading. Type the number that was read.", q)
    return clean


def _marks(clean: str, q: Quantity) -> tuple[str, Kind]:
    """Take off one mark of kind, before or after."""
    found: list[Kind] = []
    body = clean
    for _ in range(2):
        for pattern, kind in _BEFORE:
            m = re.match(rf"(?:{pattern})\s*", body, re.I)
            if m:
                found.append(kind)
                body = body[m.end() :]
                break
    for pattern, kind in _AFTER:
        m = re.search(rf"\s*(?:{pattern})$", body, re.I)
        if m and m.start() > 0:
            found.append(kind)
            body = body[: m.start()]
    if len(body) > 1 and "+" in body and re.search(r"\d\+\s*[a-zA-Z'\"]+$", body):  # "3.8+ m"
        found.append("at_least")
        body = body.replace("+", "", 1)
    if len(found) > 1:
        raise _refuse("reading_mark", f"“{clean}” carries two marks (at least, at most, about); keep one.", q)
    if not body.strip():
        raise _refuse("reading_empty", f"“{clean}” has a mark but no number.", q)
    return body.strip(), found[0] if found else "exact"


def _understand(text: str, body: str, mark: Kind, q: Quantity, default: str | None, comma: bool) -> Reading:
    def made(amount: Fraction, step: Fraction, unit: str, kind: Kind = mark, half: Fraction | None = None) -> Reading:
        return Reading(text=text, kind=kind, quantity=q.name, amount=amount, unit=unit, step=step, half=half)

    if q.name == "time":
        special = _frames(body, q) or _clock(body, q)
        if special is not None:
            return made(special.amount, special.step, "s")
    body, side = _side(body, q)
    m = re.match(r"between\s+(.*)\s+and\s+(.*)$", body, re.I)
    if m:
        body = f"{m[1]} to {m[2]}"
    first = _amount(body, 0, q, default, comma)
    rest = body[first.end :]
    if not rest.strip():
        unit = _unit_of(first, q, default)
        return made(first.amount * side, first.step, unit)
    tolerance = re.match(r"\s*(?:±|\+/-|\+-)\s*", rest)
    if tolerance:
        return _with_tolerance(first, body, first.end + tolerance.end(), mark, q, default, comma, made, side)
    joined = _JOINED.match(rest)
    if joined:
        return _range(first, body, first.end + joined.end(), mark, q, default, comma, made)
    raise _leftover(body, rest, q)


def _side(body: str, q: Quantity) -> tuple[str, int]:
    """ "left 12 cm", "12 cm L": left of the line counts below zero. Only where below zero is possible."""
    if not q.signed or q.name == "angle":
        return body, 1
    m = re.match(r"(left|right|l|r)\b\s*(?=[\d.,])", body, re.I)
    if m:
        return body[m.end() :], -1 if m[1][0].lower() == "l" else 1
    m = re.search(r"\s(left|right|l|r)$", body, re.I)
    if m and not (m[1].lower() == "l" and q.name == "volume"):
        return body[: m.start()], -1 if m[1][0].lower() == "l" else 1
    return body, 1


def _with_tolerance(
    first: _Amount, body: str, at: int, mark: Kind, q: Quantity, default: str | None, comma: bool, made: _Make, side: int
) -> Reading:
    second = _amount(body, at, q, default, comma)
    if body[second.end :].strip() or mark not in ("exact", "estimate"):
        raise _leftover(body, body[second.end :] or body, q)
    if second.amount <= 0:
        raise _refuse("reading_doubt", f"“{body}”: a doubt after ± is above zero. Leave it out when there is none to state.", q)
    amount, half, step, unit = _together_in_finer(first, second, q, default)
    return made(amount * side, step, unit, mark, half)


def _range(first: _Amount, body: str, at: int, mark: Kind, q: Quantity, default: str | None, comma: bool, made: _Make) -> Reading:
    second = _amount(body, at, q, default, comma)
    if body[second.end :].strip():
        raise _leftover(body, body[second.end :], q)
    if mark not in ("exact", "estimate"):
        raise _refuse("reading_mark", f"“{body}” is a range; it cannot be at least or at most as well.", q)
    low, high, step, unit = _together_in_finer(first, second, q, default)
    if not low < high:
        raise _refuse("reading_range", f"“{body}” does not run from the smaller to the larger; a range goes up.", q)
    return made((low + high) / 2, step, unit, "estimate", (high - low) / 2)


def _together_in_finer(first: _Amount, second: _Amount, q: Quantity, default: str | None) -> tuple[Fraction, Fraction, Fraction, str]:
    """Two amounts and the smaller step in one unit: the finer of the two written ("10 cm to 1 m" is in cm)."""
    one, two = first.unit or second.unit, second.unit or first.unit
    if one is None or two is None or one == two:
        return first.amount, second.amount, min(first.step, second.step), one or _unit_of(first, q, default)
    unit = one if convert(1.0, one, two) < 1 else two
    a, b = (Fraction(str(round(convert(1.0, u, unit), 9))) for u in (one, two))
    return first.amount * a, second.amount * b, min(first.step * a, second.step * b), unit


def _unit_of(part: _Amount, q: Quantity, default: str | None) -> str:
    if part.unit is not None:
        return part.unit
    if default is not None:
        return default
    if q.name == "count":
        return "count"
    if q.name == "number":
        return ""
    raise _refuse("reading_unit_missing", f"There is no unit; {q.name} needs one of {_units(q)}.", q)


def _leftover(body: str, rest: str, q: Quantity) -> ReadingRefused:
    rest = rest.strip()
    if re.match(r"[\d.,+-]", rest):
        return _refuse("reading_two_numbers", f"“{body}” has two numbers and it is not plain how they belong together.", q)
    return _refuse("reading_words", f"“{rest}” after the number is not understood.", q)


def _frames(body: str, q: Quantity) -> _Number | None:
    m = _FRAMES.match(body)
    if m is None:
        return None
    rate = Fraction(m["rate"].replace(",", "."))
    if rate <= 0:
        raise _refuse("reading_number", "A frame rate of 0 gives no time.", q)
    return _Number(Fraction(int(m["n"])) / rate, 1 / rate, len(body), body)


def _clock(body: str, q: Quantity) -> _Number | None:
    if ":" not in body:
        return None
    m = _CLOCK.match(body)
    whole, _, part = (m["s"] if m else "").replace(",", ".").partition(".")
    if m is None or len(whole) != 2 or int(whole) > 59 or (m["h"] is not None and (len(m["m"]) != 2 or int(m["m"]) > 59)):
        raise _refuse("reading_clock", f"“{body}” is not minutes and seconds: seconds have two digits and stay below 60.", q)
    seconds = Fraction(f"{whole}.{part or 0}") + 60 * int(m["m"]) + 3600 * int(m["h"] or 0)
    return _Number(seconds, Fraction(1, 10 ** len(part)), len(body), body)


def _amount(body: str, at: int, q: Quantity, default: str | None, comma: bool) -> _Amount:
    """One amount at `at`: a number and unit, or mixed units in falling order ("3 ft 4 1/2 in")."""
    parts: list[tuple[_Number, str | None]] = []
    while True:
        while at < len(body) and body[at] == " ":
            at += 1
        if parts and not re.match(r"[\d.,]", body[at : at + 1]):
            if not (body[at : at + 1] == "-" and parts[-1][1] == "ft" and re.match(r"-\s*\d[\d ./]*(?:\"|'')", body[at:])):
                break
            at += 1  # 12'-6": the dash only joins
        number = _number(body, at, q, comma)
        at = number.end
        m = _UNIT.match(body, at + (1 if body[at : at + 1] == " " else 0))
        unit = None
        if m and m[0].lower().rstrip(".") not in ("to", "and", "x"):
            unit = find_unit(m[0], q.name)
            if unit is None:
                raise _wrong_unit(body, m[0], q)
            at = m.end()
        parts.append((number, unit))
        if unit is None:
            break
    return _together(body, parts, at, q)


def _wrong_unit(body: str, seen: str, q: Quantity) -> ReadingRefused:
    others = [name for name in quantities_of(seen) if name != q.name]
    if others:
        return _refuse("reading_wrong_dimension", f"“{body}” reads as {others[0]}; {q.name} is wanted here.", q)
    return _refuse("reading_unit_unknown", f"“{seen}” is not a unit of {q.name}; use {_units(q)}.", q)


def _together(body: str, parts: list[tuple[_Number, str | None]], end: int, q: Quantity) -> _Amount:
    if len(parts) == 1:
        number, unit = parts[0]
        return _Amount(number.amount, number.step, unit, end)
    if parts[-1][1] is None:
        if (
            parts[-2][1] == "ft" and "'" in body and len(parts) == 2 and re.fullmatch(r"\d\d?([.,]\d+)?|\d\d?\s.*", parts[1][0].written)
        ):  # 5'10
            parts = [parts[0], (parts[1][0], "in")]
        else:
            raise _refuse("reading_two_numbers", f"“{body}” has a second number without a unit.", q)
    last, unit = parts[-1]
    total, negative = last.amount, parts[0][0].amount < 0
    for (number, big), (small, finer) in zip(parts, parts[1:], strict=False):
        ratio = Fraction(str(round(convert(1.0, big or "", finer or ""), 9)))
        if ratio <= 1:
            raise _refuse("reading_mixed", f"“{body}” has {big} before {finer}; write the larger unit first, once.", q)
        if small.amount >= ratio:
            raise _refuse("reading_mixed", f"“{body}”: {small.written} {finer} is a whole {big} or more.", q)
        if number.amount.denominator != 1 or number.step != 1:
            raise _refuse("reading_mixed", f"“{body}”: only the last of several units can have a part of a unit.", q)
        total += abs(number.amount) * Fraction(str(round(convert(1.0, big or "", unit or ""), 9)))
    return _Amount(-total if negative else total, last.step, unit, end)


def _number(body: str, at: int, q: Quantity, comma: bool) -> _Number:
    """A number at `at`: decimal, scientific, whole with fraction, or fraction."""
    m = _NUMBER.match(body, at)
    if m is None:
        what = body[at:].strip() or body
        if not re.search(r"\d", what) and what.lower() in ("inf", "nan", "infinity", "-inf"):
            raise _refuse("reading_not_finite", f"“{what}” is not a number that can be read.", q)
        raise _refuse("reading_words", f"“{what}” is not a number.", q)
    sign = -1 if m["sign"] == "-" else 1
    alone = _FRACTION.match(body, m.start("body"))
    if alone and not m["exp"]:
        value, step = _fraction(body, alone, q)
        return _Number(sign * value, step, alone.end(), alone[0])
    amount, step = _decimal(m["body"], q, comma)
    end = m.end()
    if m["power"]:
        power = int(m["power"][:6])
        if abs(power) > MAX_EXPONENT:
            raise _refuse("reading_not_finite", f"“{m[0]}” is beyond anything that can be read.", q)
        amount, step = amount * Fraction(10) ** power, step * Fraction(10) ** power
    elif step == 1:
        tail = re.compile(r"(?:\s+|\s?-\s?)(?=\d+\s*/\s*\d)").match(body, end)
        part = _FRACTION.match(body, tail.end()) if tail else None
        if part:
            more, step = _fraction(body, part, q)
            if more >= 1:
                raise _refuse("reading_fraction", f"“{part[0]}” after a whole number must be less than one.", q)
            return _Number(sign * (amount + more), step, part.end(), body[at : part.end()])
    return _Number(sign * amount, step, end, m["body"])


def _fraction(body: str, m: re.Match[str], q: Quantity) -> tuple[Fraction, Fraction]:
    bottom = int(m["bottom"])
    if not 0 < bottom <= 10_000 or len(m["top"]) > 12:
        raise _refuse("reading_fraction", f"“{m[0]}” is not a fraction that a ruler or a watch shows.", q)
    return Fraction(int(m["top"]), bottom), Fraction(1, bottom)


def _decimal(body: str, q: Quantity, comma: bool) -> tuple[Fraction, Fraction]:
    """Digits with a point or a comma. A comma before three digits is asked about, not guessed."""
    points, commas = body.count("."), body.count(",")
    if body[-1] in ".,":
        if body[-1] == "." and points == 1 and not commas:  # "4." at the end of a note
            return Fraction(int(body[:-1])), Fraction(1)
        raise _refuse("reading_number", f"“{body}” ends in a mark without digits after it.", q)
    if (points > 1 and not (commas == 1 and re.fullmatch(r"\d{1,3}(\.\d{3})+,\d+", body))) or (
        commas > 1 and not re.fullmatch(r"\d{1,3}(,\d{3})+(\.\d+)?", body)
    ):
        raise _refuse("reading_number", f"“{body}” has more than one decimal mark.", q)
    if points and commas:
        if re.fullmatch(r"\d{1,3}(,\d{3})+\.\d+", body):
            body = body.replace(",", "")
        elif re.fullmatch(r"\d{1,3}(\.\d{3})+,\d+", body):
            body = body.replace(".", "").replace(",", ".")
        else:
            raise _refuse("reading_number", f"“{body}” has both a point and a comma.", q)
    elif commas > 1:
        body = body.replace(",", "")
    elif commas == 1:
        if re.fullmatch(r"[1-9]\d{0,2},\d{3}", body) and not comma:
            raise _refuse(
                "reading_thousands",
                f"“{body}” could be {body.replace(',', '.')} or {body.replace(',', '')}; write it with a point, or without the comma.",
            )
        body = body.replace(",", ".")
    elif points == 1 and comma and re.fullmatch(r"[1-9]\d{0,2}\.\d{3}", body):
        raise _refuse(
            "reading_thousands",
            f"“{body}” could be {body.replace('.', '')} or {body.replace('.', ',')}, since the other numbers have decimal commas; write it "
            "without the point, or with a comma.",
        )
    whole, _, part = body.partition(".")
    return Fraction(f"{whole or 0}.{part or 0}"), Fraction(1, 10 ** len(part))


def _large(number: float) -> str:
    return f"{number:,.0f}"


def _check_bounds(reading: Reading, q: Quantity) -> None:
    if reading.amount < 0 and not q.signed:
        raise _refuse("reading_negative", f"“{reading.text.strip()}” is below zero; {q.name} cannot be.", q)
    try:
        value = reading.si_value
    except OverflowError:
        value = float("inf")
    if abs(value) > q.absurd:
        raise _refuse(
            "reading_absurd",
            f"“{reading.text.strip()}” is more than anything that is read here: at most {_large(q.absurd)}{' ' + q.si if q.si not in ('', 'count') else ''}. "
            "Check the unit and the decimal mark.",
            q,
        )
