"""What a calculator is: named inputs with units and ranges, a plain function, and the working shown line by line.

Doubts go through to first order with the `uncertainties` package; partial derivatives are central differences, so that
closed forms and integrated paths are treated alike. Where a result hardly changes with an input, as the range does near its best angle, the
curve decides, and the term of second order is added.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import uncertainties
from scipy.constants import g as STANDARD_G

from ..errors import CalculationRefused, CoreError
from ..readings import quantity, read
from ..written import listed as listing

Function = Callable[[Mapping[str, float]], Mapping[str, float]]
#: Relative step of the central differences: far above an integrator's noise, far below any curvature that matters.
STEP = 1e-5


@dataclass(frozen=True, slots=True, kw_only=True)
class Input:
    """One input. unit: of a bare number. low, high: bounds in SI; above: low itself is not allowed. default in SI."""

    name: str
    quantity: str
    unit: str
    low: float = 0.0
    high: float = math.inf
    above: bool = True
    default: float | None = None
    optional: bool = False
    says: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Calculator:
    """outputs: name -> SI unit. formulas: output -> text with {names} to put numbers in. one_of: inputs of which exactly
    one is given. choices: inputs that are words."""

    id: str
    title: str
    inputs: tuple[Input, ...]
    outputs: Mapping[str, str]
    formulas: Mapping[str, str]
    function: Function
    assumptions: tuple[str, ...]
    source: str
    one_of: tuple[str, ...] = ()
    choices: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    lists: str | None = None
    aliases: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Value:
    """A number in SI with its standard uncertainty (0 when exact)."""

    value: float
    unit: str
    doubt: float = 0.0
    curved: tuple[str, ...] = ()  # inputs with which it hardly changes here, so that its doubt comes from the curve


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    id: str
    inputs: Mapping[str, Value]
    outputs: Mapping[str, Value]
    working: tuple[str, ...]
    assumptions: tuple[str, ...]
    source: str


def understand(calculator: Calculator, given: Mapping[str, str]) -> dict[str, Value]:
    """Written inputs ("4.2 m ± 1 cm") as SI values. The doubt after ± is taken as a standard uncertainty.
    Raises CalculationRefused naming the input."""
    given = {calculator.aliases.get(name, name): text for name, text in given.items()}
    known = {i.name: i for i in calculator.inputs}
    for name in given:
        if name not in known and name not in calculator.choices:
            raise CalculationRefused(
                f"{calculator.id} has no input “{name}”; it takes {', '.join([*known, *calculator.choices])}.",
                code="input_unknown",
                where=name,
            )
    if calculator.one_of and sum(n in given for n in calculator.one_of) != 1:
        raise CalculationRefused(f"Give exactly one of {' and '.join(calculator.one_of)}.", code="input_one_of", where=calculator.one_of[0])
    found: dict[str, Value] = {}
    for name, one in known.items():
        if name in given:
            found[name] = value_of(one, given[name])
        elif one.default is not None:
            found[name] = Value(value=one.default, unit=quantity(one.quantity).si)
        elif not one.optional and name not in calculator.one_of:
            raise CalculationRefused(
                f"{calculator.id} needs {name} ({one.quantity}, such as “{_example(one)}”).", code="input_missing", where=name
            )
    return found


def _example(one: Input) -> str:
    return f"2 {one.unit}".strip()


def value_of(one: Input, text: str) -> Value:
    """One written input in SI, inside its range. Raises CalculationRefused."""
    try:
        reading = read(text, one.quantity, one.unit, signed=True)
    except CoreError as why:
        raise CalculationRefused(f"{one.name}: {why.says}", code=why.code, where=one.name) from why
    if reading.kind in ("at_least", "at_most"):
        raise CalculationRefused(f"{one.name}: “{text}” is only a bound; a calculator needs a value.", code="input_bound", where=one.name)
    si = quantity(one.quantity).si
    value = reading.si_value
    doubt = 0.0
    if reading.half is not None or reading.kind == "estimate":
        plain = float(reading.half) if reading.half is not None and reading.kind == "exact" else reading.standard_uncertainty
        doubt = abs(plain * reading.si_value / reading.value) if reading.value else plain
    if value < one.low or value > one.high or (one.above and value == one.low):
        bound = f"above {one.low:g}" if one.above else f"at least {one.low:g}"
        bound += f" and at most {one.high:g}" if math.isfinite(one.high) else ""
        raise CalculationRefused(
            f"{one.name} is {value:g} {si}; it must be {bound} {si}.".replace(" .", "."), code="input_range", where=one.name
        )
    return Value(value=value, unit=si, doubt=doubt)


def work(calculator: Calculator, given: Mapping[str, str], *, g: float = STANDARD_G) -> Answer:
    """Work it out from written inputs. Raises CalculationRefused."""
    words = {name: given[name].strip().lower() for name in calculator.choices if name in given}
    for name, allowed in calculator.choices.items():
        if words.get(name) not in allowed:
            raise CalculationRefused(f"{name} is one of {', '.join(allowed)}.", code="input_choice", where=name)
    values = understand(calculator, {n: t for n, t in given.items() if n not in calculator.choices})
    extra = {"g": g, **{f"{name}_{word}": 1.0 for name, word in words.items()}}
    outputs = carry(lambda x: calculator.function({**x, **extra}), values, calculator.outputs)
    return Answer(
        id=calculator.id,
        inputs=values,
        outputs=outputs,
        working=working_lines(calculator, values, outputs, g),
        assumptions=calculator.assumptions,
        source=calculator.source,
    )


def carry(function: Function, values: Mapping[str, Value], units: Mapping[str, str]) -> dict[str, Value]:
    """Outputs with their doubts, to first order; to second where the curve outweighs the slope. Source: GUM, JCGM 100:2008, 5.1.2 with its
    note; `uncertainties.wrap` carries the first order out."""
    plain = {n: v.value for n, v in values.items()}
    base = function(plain)
    doubtful = [n for n, v in values.items() if v.doubt > 0]
    found = {}
    for name, value in base.items():
        if not math.isfinite(value):
            raise CalculationRefused(
                f"{name} has no finite answer for these inputs. Check them for a slip.", code="answer_not_finite", where=name
            )
        doubt, curved = 0.0, tuple[str, ...]()
        if doubtful:

            def at(*numbers: float, name: str = name) -> float:
                return function({**plain, **dict(zip(doubtful, numbers, strict=True))})[name]

            wrapped = uncertainties.wrap(at, [_partial(at, i) for i in range(len(doubtful))])
            doubt = float(wrapped(*(uncertainties.ufloat(plain[n], values[n].doubt) for n in doubtful)).std_dev)
            bent = {n: _bend(function, plain, n, values[n].doubt, name, value) for n in doubtful}
            curved = tuple(n for n, b in bent.items() if b > CURVED * doubt)
            if curved:
                doubt = math.hypot(doubt, *(bent[n] for n in curved))
        found[name] = Value(value=value, unit=units[name], doubt=doubt, curved=curved)
    return found


#: The second order counts where it is more than this share of the first.
CURVED = 0.5


def _bend(function: Function, plain: Mapping[str, float], name: str, doubt: float, output: str, value: float) -> float:
    """What the curve of an output over one input adds to its doubt: |f″|u²/√2, from the output one doubt above and below. None of it where
    one of them cannot be worked out: a bend beyond an edge says nothing here."""
    try:
        above, below = (function({**plain, name: plain[name] + step})[output] for step in (doubt, -doubt))
    except (CoreError, ValueError, ZeroDivisionError, OverflowError):
        return 0.0
    bend = abs(above + below - 2 * value) / math.sqrt(2)
    return bend if math.isfinite(bend) and bend > 1e-9 * abs(value) else 0.0


def _partial(function: Callable[..., float], i: int) -> Callable[..., float]:
    def slope(*numbers: float) -> float:
        h = STEP * max(abs(numbers[i]), 1e-3)
        up, down = list(numbers), list(numbers)
        up[i] += h
        down[i] -= h
        return (function(*up) - function(*down)) / (2 * h)

    return slope


def shown(value: Value) -> str:
    """A value with its unit: "6 m/s", "40°"."""
    number = f"{value.value:.5g}".replace("-", "−").replace("e+0", "e")
    return number if not value.unit else f"{number}{'' if value.unit == '°' else ' '}{value.unit}"


def working_lines(calculator: Calculator, inputs: Mapping[str, Value], outputs: Mapping[str, Value], g: float) -> tuple[str, ...]:
    numbers = {**{n: shown(v) for n, v in inputs.items()}, **{n: shown(v) for n, v in outputs.items()}, "g": f"{g:g} m/s²"}
    lines = []
    for name, text in calculator.formulas.items():
        if name not in outputs:
            continue
        result = shown(outputs[name]) + (f" ± {outputs[name].doubt:.2g}" if outputs[name].doubt else "")
        put_in = re.sub(r"\{(\w+)\}([²³/]?)", lambda m: f"({numbers.get(m[1], m[1])}){m[2]}" if m[2] else numbers.get(m[1], m[1]), text)
        names = re.sub(r"\{(\w+)\}", r"\1", text)
        lines.append(f"{name} = {names} = {put_in} = {result}" if put_in != names else f"{name} = {result} ({names})")
        if outputs[name].curved or (name in NEVER_BELOW and outputs[name].value == 0 < outputs[name].doubt):
            lines.append(_at_edge(name, outputs[name]))
    return tuple(lines)


#: Outputs that lie at an edge where they are 0: they cannot be less.
NEVER_BELOW = frozenset({"range", "flight_time", "apex_height", "energy", "energy_lower", "speed", "speed_lower", "burnout_speed"})


def _at_edge(name: str, value: Value) -> str:
    """What is said of a result that hardly changes with an input, or that is 0 and cannot be less."""
    if name in NEVER_BELOW and value.value == 0:
        return f"Here {name.replace('_', ' ')} is 0 and cannot be less; with the doubts given it may be as much as about {value.doubt:.2g} {value.unit}."
    what = listing([c.replace("_", " ") for c in value.curved])
    return f"Here {name.replace('_', ' ')} hardly changes with {what}, as it does about a highest or a lowest value, so its doubt comes from the curve."


def listed(calculators: Sequence[Calculator]) -> list[dict[str, object]]:
    """What each calculator takes and gives, for a list."""
    return [
        {
            "id": c.id,
            "title": c.title,
            "outputs": dict(c.outputs),
            "assumptions": list(c.assumptions),
            "source": c.source,
            "inputs": [
                {"name": i.name, "quantity": i.quantity, "unit": i.unit, "default": i.default, "optional": i.optional or i.name in c.one_of}
                for i in c.inputs
            ]
            + [{"name": n, "choices": list(w)} for n, w in c.choices.items()],
        }
        for c in calculators
    ]
