"""Units as people write them, by quantity; conversion through pint.

Each quantity has an SI unit, the units Bendro prints, the spellings it accepts, and a bound past which
a value is absurd for a school trial.
"""

from __future__ import annotations

import json
import math
from dataclasses import dataclass
from fractions import Fraction
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

from ..errors import CoreError

if TYPE_CHECKING:
    import pint


@dataclass(frozen=True, slots=True, kw_only=True)
class Quantity:
    """A kind of thing that is read. absurd: bound in SI. signed: whether a value below zero can be. unlikely: bound in SI past
    which a reading of a school trial is asked about before it is kept (common practice); None where none is known."""

    name: str
    si: str
    units: dict[str, tuple[str, ...]]  # printed unit -> other spellings accepted
    absurd: float
    signed: bool = False
    unlikely: float | None = None


_QUANTITIES = (
    Quantity(
        name="length",
        si="m",
        absurd=1e6,
        unlikely=200,
        units={
            "mm": ("millimetre", "millimetres", "millimeter", "millimeters"),
            "cm": ("centimetre", "centimetres", "centimeter", "centimeters", "cms"),
            "dm": ("decimetre", "decimetres"),
            "m": ("metre", "metres", "meter", "meters", "mtr", "mtrs"),
            "km": ("kilometre", "kilometres", "kilometer", "kilometers"),
            "in": ("inch", "inches", "ins", '"', "''"),
            "ft": ("foot", "feet", "'"),
            "yd": ("yard", "yards", "yds"),
        },
    ),
    Quantity(
        name="time",
        si="s",
        absurd=1e5,
        unlikely=1800,
        units={
            "ms": ("millisecond", "milliseconds", "msec"),
            "s": ("sec", "secs", "second", "seconds", '"', "''"),
            "min": ("mins", "minute", "minutes", "'"),
            "h": ("hr", "hrs", "hour", "hours"),
        },
    ),
    Quantity(
        name="mass",
        si="kg",
        absurd=1e4,
        unlikely=50,
        units={
            "mg": ("milligram", "milligrams"),
            "g": ("gram", "grams", "gramme", "grammes", "gm", "gms", "gr"),
            "kg": ("kilo", "kilos", "kilogram", "kilograms", "kgs"),
            "oz": ("ounce", "ounces"),
            "lb": ("lbs", "pound", "pounds"),
        },
    ),
    Quantity(
        name="speed",
        si="m/s",
        absurd=1e4,
        unlikely=100,
        units={
            "m/s": ("mps", "m/sec", "m s-1", "m s^-1", "ms-1", "m·s⁻¹", "m s⁻¹"),
            "cm/s": ("cm/sec",),
            "mm/s": (),
            "km/h": ("kph", "kmh", "km/hr"),
            "ft/s": ("fps", "ft/sec"),
            "mph": ("mi/h", "miles/h"),
        },
    ),
    Quantity(
        name="angle", si="°", absurd=3600, signed=True, units={"°": ("deg", "degs", "degree", "degrees", "º"), "rad": ("radian", "radians")}
    ),
    Quantity(
        name="count", si="count", absurd=1e6, unlikely=5000, units={"count": ("turn", "turns", "rev", "revs", "times", "hits", "pcs", "points", "pts")}
    ),
    Quantity(name="voltage", si="V", absurd=1e5, unlikely=100, signed=True, units={"mV": ("millivolt", "millivolts"), "V": ("volt", "volts"), "kV": ()}),
    Quantity(
        name="area",
        si="m²",
        absurd=1e6,
        units={
            "mm²": ("mm2", "mm^2"),
            "cm²": ("cm2", "cm^2", "sq cm"),
            "m²": ("m2", "m^2", "sq m"),
            "in²": ("in2", "in^2", "sq in"),
            "ft²": ("ft2", "ft^2", "sq ft"),
        },
    ),
    Quantity(
        name="volume",
        si="m³",
        absurd=1e4,
        units={
            "ml": ("mL", "cc", "cm3", "cm^3", "cm³", "millilitre", "millilitres"),
            "cl": ("cL",),
            "l": ("L", "litre", "litres", "liter", "liters", "dm3", "dm³"),
            "m³": ("m3", "m^3"),
        },
    ),
    Quantity(
        name="pressure", si="Pa", absurd=1e9, units={"Pa": (), "hPa": (), "kPa": (), "MPa": (), "mbar": (), "bar": ("bars",), "psi": (), "atm": ()}
    ),
    Quantity(name="force", si="N", absurd=1e8, units={"mN": (), "N": ("newton", "newtons"), "kN": ()}),
    Quantity(name="energy", si="J", absurd=1e9, units={"mJ": (), "J": ("joule", "joules"), "kJ": ()}),
    Quantity(name="power", si="W", absurd=1e9, units={"mW": (), "W": ("watt", "watts"), "kW": ()}),
    Quantity(name="stiffness", si="N/m", absurd=1e9, units={"N/m": (), "N/cm": (), "N/mm": ()}),
    Quantity(
        name="density", si="kg/m³", absurd=1e5, units={"kg/m³": ("kg/m3", "kg/m^3"), "g/cm³": ("g/cm3", "g/cm^3", "g/ml"), "g/l": ("g/L",)}
    ),
    Quantity(name="acceleration", si="m/s²", absurd=1e7, signed=True, units={"m/s²": ("m/s2", "m/s^2")}),
    Quantity(name="momentum", si="kg·m/s", absurd=1e8, units={"kg·m/s": ("kg m/s", "N s", "N·s")}),
    Quantity(name="inertia", si="kg·m²", absurd=1e8, units={"kg·m²": ("kg m2", "kg m²")}),
    Quantity(name="rate", si="1/s", absurd=1e6, units={"1/s": ("/s", "Hz", "rps", "rev/s", "turns/s"), "rpm": ("rev/min",)}),
    Quantity(name="slowing", si="1/s²", absurd=1e6, units={"1/s²": ("turns/s²",)}),
    Quantity(name="number", si="", absurd=1e12, signed=True, units={"": (), "%": ("per cent", "percent")}),
)
QUANTITIES: dict[str, Quantity] = {q.name: q for q in _QUANTITIES}

# What pint calls those of our units that it spells differently.
_PINT = {
    "°": "degree",
    "count": "dimensionless",
    "": "dimensionless",
    "%": "percent",
    "1/s": "turn/second",
    "rpm": "turn/minute",
    "l": "liter",
    "cl": "centiliter",
    "ml": "milliliter",
    "mph": "mile/hour",
    "in": "inch",
    "ft": "foot",
    "yd": "yard",
    "h": "hour",
    "min": "minute",
    "lb": "pound",
    "oz": "ounce",
}
_POWERS = str.maketrans({"²": "^2", "³": "^3", "·": "*"})


def quantity(name: str) -> Quantity:
    """The quantity called `name`. Raises CoreError `quantity_unknown`."""
    try:
        return QUANTITIES[name]
    except KeyError:
        known = ", ".join(QUANTITIES)
        raise CoreError(f"“{name}” is not a quantity Bendro reads. It reads {known}.", code="quantity_unknown", where="quantity") from None


@cache
def _aliases(name: str) -> dict[str, str]:
    table: dict[str, str] = {}
    for unit, others in quantity(name).units.items():
        for spelling in (unit, *others):
            table[spelling] = unit
    for spelling, unit in list(table.items()):  # a capital is forgiven where it means nothing else ("CM", "Sec")
        table.setdefault(spelling.lower(), unit)
    return table


def find_unit(spelling: str, name: str) -> str | None:
    """The printed unit for a spelling of quantity `name`, or None."""
    table = _aliases(name)
    bare = spelling.strip().rstrip(".")
    bare = bare.replace("μ", "µ")
    return table.get(bare) or table.get(bare.lower())


def quantities_of(spelling: str) -> list[str]:
    """Every quantity in which this spelling is a unit; for saying what was seen."""
    return [name for name in QUANTITIES if find_unit(spelling, name) is not None and spelling.strip()]


@cache
def _registry() -> pint.UnitRegistry:
    import pint  # slow to load: only where a unit is turned into another

    return pint.UnitRegistry(cache_folder=None)


#: Digits that are believed of a ratio of two units as it comes from the library's floating-point arithmetic.
RATIO_DIGITS = 13


@cache
def ratio(unit: str, to: str) -> Fraction:
    """How many `to` one `unit` is, as an exact fraction where it is one: 100 for m in cm, 1/12 for in in ft."""
    found = factor(unit, to)
    straight, turned = f"{found:.{RATIO_DIGITS}g}", f"{1 / found:.{RATIO_DIGITS}g}"
    # definitions have few digits one way round (0.0254 m in an inch, 12 inches in a foot); that way round is exact
    return Fraction(straight) if len(straight.strip("0.")) <= len(turned.strip("0.")) else 1 / Fraction(turned)


@cache
def _known() -> dict[str, dict[str, float]]:
    """What pint says of every two units of a quantity, written down: reading its definitions takes longer than most commands.
    Made by bin/types; tests/drift asks pint again."""
    found: dict[str, dict[str, float]] = json.loads((Path(__file__).parent / "factors.json").read_text(encoding="utf-8"))
    return found


def factors_file() -> str:
    """The table of `_known` as pint has it now."""
    pairs = {u: {to: asked_of_pint(u, to) for to in q.units if to != u} for q in _QUANTITIES for u in q.units}
    return json.dumps({u: row for u, row in pairs.items() if row}, ensure_ascii=False, indent=0) + "\n"


@cache
def factor(unit: str, to: str) -> float:
    """How many `to` one `unit` is. Both are printed units of one quantity. Raises CoreError `unit_mismatch`."""
    if unit == to:
        return 1.0
    known = _known().get(unit, {}).get(to)
    return asked_of_pint(unit, to) if known is None else known


def asked_of_pint(unit: str, to: str) -> float:
    """How many `to` one `unit` is, as the library has it. Raises CoreError `unit_mismatch`."""
    from pint import DimensionalityError, UndefinedUnitError

    ureg = _registry()
    try:
        one = ureg.Quantity(1.0, _PINT.get(unit, unit).translate(_POWERS))
        return float(one.to(_PINT.get(to, to).translate(_POWERS)).magnitude)
    except (UndefinedUnitError, DimensionalityError) as why:
        raise CoreError(
            f"{unit or 'a plain number'} cannot be turned into {to or 'a plain number'}.", code="unit_mismatch", where="unit"
        ) from why


def convert(value: float, unit: str, to: str) -> float:
    """`value` in `unit`, expressed in `to`. Raises CoreError `unit_mismatch`."""
    if unit == to or not math.isfinite(value):
        return value
    return float(Fraction(repr(float(value))) * ratio(unit, to))  # in decimals, so that 4.52 m is 452 cm and not 451.99999999999994
