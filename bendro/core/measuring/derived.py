"""Derived measures: a calculator of the core with each input bound to something known. What is shared by all trials (one drop height)
is one doubt of them all, and is carried apart from the doubt of each reading."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache

from scipy.constants import g as STANDARD_G

from ..draft import Binding, DerivedDraft, Draft
from ..errors import CalculationRefused, CoreError
from ..once import once_for_each
from ..physics.calculator import Calculator, Input, Value, carry, shown, value_of, working_lines
from ..physics.calculators import CALCULATORS
from ..problem import Problem
from ..readings import QUANTITIES, Kind, convert
from ..readings.amounts import read_any
from ..trials import Level
from ..words import said
from .taking import Taken

#: A share of a quantity's size by which an input is moved to see which way the answer goes.
NUDGE = 1e-4


@dataclass(frozen=True, slots=True, kw_only=True)
class Worked:
    """A derived measure at one trial, in its unit. doubt: standard uncertainty from this trial's own readings; shared: from what is the
    same at every trial. lines: the working, with its numbers."""

    value: float
    kind: Kind
    doubt: float
    shared: float
    unit: str
    lines: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Prepared:
    """A derived measure whose shared inputs are understood. common: in SI, with doubts; own: inputs that differ from trial to trial,
    and where each comes from."""

    draft: DerivedDraft
    calculator: Calculator
    common: Mapping[str, Value]
    own: Mapping[str, Binding]
    unit: str


def quantity_of_output(unit: str) -> str:
    """The quantity whose SI unit this is; "number" for a bare number."""
    return next((name for name, q in QUANTITIES.items() if q.si == unit and name != "count"), "number")


@cache
def units_of_output(calculator: str, output: str) -> tuple[str, ...]:
    """Units in which an output can be shown, the SI one first; empty where calculator or output are not known."""
    known = CALCULATORS.get(calculator)
    if known is None or output not in known.outputs:
        return ()
    si = known.outputs[output]
    quantity = QUANTITIES.get(quantity_of_output(si))
    return (si, *(u for u in quantity.units if u != si)) if quantity and si in quantity.units else (si,)


def prepare(draft: Draft, derived: DerivedDraft, *, earlier: Sequence[str] = ()) -> Prepared | tuple[Problem, ...]:
    """A derived measure made ready, or what keeps it from being worked out, each at its place (`inputs.name` within it). earlier: ids of
    derived measures that stand before it and may be used."""
    calculator = CALCULATORS.get(derived.calculator)
    if calculator is None:
        return (Problem(code="calculator_unknown", where="calculator", says="Choose how it is worked out."),)
    if derived.output not in calculator.outputs:
        return (Problem(code="output_unknown", where="output", says=f"Choose what of “{calculator.title}” is wanted."),)
    units = units_of_output(derived.calculator, derived.output)
    found: list[Problem] = []
    if derived.unit and derived.unit not in units:
        found.append(Problem(code="unit_unknown", where="unit", says=f"“{derived.unit}” is not a unit of it; use {', '.join(u or 'no unit' for u in units)}."))
    if not derived.name.strip():
        found.append(Problem(code="derived_name_missing", where="name", says="Give what is worked out a name."))
    bound = {b.input: b for b in derived.inputs if b.source}
    common: dict[str, Value] = {}
    own: dict[str, Binding] = {}
    for one in calculator.inputs:
        binding = bound.get(one.name)
        if binding is None:
            if one.default is not None:
                common[one.name] = Value(value=one.default, unit=QUANTITIES[one.quantity].si)
            elif not one.optional and one.name not in calculator.one_of:
                found.append(_missing(one))
            continue
        got = _bound(draft, binding, one, earlier)
        if isinstance(got, Problem):
            found.append(got)
        elif isinstance(got, Value):
            common[one.name] = got
        else:
            own[one.name] = got
    if calculator.one_of and sum(n in common or n in own for n in calculator.one_of) != 1:
        names = " or ".join(n.replace("_", " ") for n in calculator.one_of)
        found.append(Problem(code="input_one_of", where=f"inputs.{calculator.one_of[0]}", says=f"Give exactly one of {names}."))
    if found:
        return tuple(found)
    return Prepared(draft=derived, calculator=calculator, common=common, own=own, unit=derived.unit or units[0])


def _missing(one: Input) -> Problem:
    name = one.name.replace("_", " ")
    return Problem(code="input_missing", where=f"inputs.{one.name}", says=f"Say where the {name} comes from: a reading, the setting, a thing held, the version, or a value typed here.")


def _bound(draft: Draft, binding: Binding, one: Input, earlier: Sequence[str]) -> Value | Binding | Problem:
    where, name = f"inputs.{one.name}", one.name.replace("_", " ")
    if binding.source in ("typed", "held"):
        held = next((h for h in draft.hold if said(h.name) == said(binding.of)), None) if binding.source == "held" else None
        text = binding.value if binding.source == "typed" else "" if held is None else held.value
        if held is not None and held.tolerance.strip() and held.value.strip() and "±" not in text:
            text = f"{held.value} ± {held.tolerance}"
        if binding.source == "held" and binding.of == "drop height" and draft.drop is not None and draft.drop.plan == "one_height" and draft.drop.heights:
            text = _with_unit(draft.drop.heights[0], draft.drop.unit)
        if not text.strip():
            whose = f"Write how {binding.of or name} is held" if binding.source == "held" else f"Write the {name}"
            return Problem(code="input_missing", where=where, says=f"{whose}, such as “{_example(one)}”.")
        try:
            return value_of(one, text)
        except CoreError as why:
            return Problem(code=why.code, where=where, says=why.says)
    if binding.source == "setting":
        if draft.variable.kind != "number":
            return Problem(code="input_setting_words", where=where, says="The setting is a name, not a number; choose another source.")
        if draft.variable.quantity != one.quantity:
            return Problem(code="input_quantity", where=where, says=f"The setting is {draft.variable.quantity}; {name} is {one.quantity}.")
        return binding
    if binding.source == "reading":
        measure = draft.measure_of(binding.of)
        if measure is None and binding.of not in earlier:
            return Problem(code="input_measure_gone", where=where, says=f"The measure that the {name} was read from is not in the plan. Choose another.")
        if measure is not None and measure.quantity != one.quantity:
            return Problem(code="input_quantity", where=where, says=f"“{measure.name}” is {measure.quantity}; {name} is {one.quantity}.")
        return binding
    if binding.source == "version" and not binding.of.strip():
        return Problem(code="input_missing", where=where, says=f"Say which property of the version is the {name}.")
    return binding


def _with_unit(text: str, unit: str) -> str:
    return f"{text} {unit}" if text.strip() and text.strip()[-1].isdigit() else text


def _example(one: Input) -> str:
    return f"2 {one.unit} ± 0.1 {one.unit}".strip()


@dataclass(frozen=True, slots=True, kw_only=True)
class Facts:
    """What is known of one trial: its readings and what was derived before, by identity; its setting in the variable's unit; the
    properties of the version that was used, by name, as written."""

    readings: Mapping[str, Taken | Worked]
    level: Level | None = None
    level_unit: str = ""
    version: Mapping[str, str] = field(default_factory=dict)


#: What a version weighs together with what it carries.
WITH_PAYLOAD = "mass with payload"


def with_payload(version: Mapping[str, str], payload: str) -> Mapping[str, str]:
    """The properties of a version with its mass and the payload's taken together, where both are written. payload: its mass as typed in the plan,
    a bare number in g."""
    own, carried = read_any(version.get("mass", "")), read_any(payload) or read_any(f"{payload.strip()} g")
    if own is None or carried is None or own.quantity != "mass" or carried.quantity != "mass":
        return version
    return {**version, WITH_PAYLOAD: f"{own.to('g') + carried.to('g'):.10g} g"}


def work_out(prepared: Prepared, facts: Facts, *, g: float = STANDARD_G) -> Worked | str:
    """The derived measure at one trial, or the sentence that says what it lacks there."""
    own: dict[str, Value] = {}
    shared: dict[str, Value] = dict(prepared.common)
    bounds: dict[str, Kind] = {}
    inputs = {i.name: i for i in prepared.calculator.inputs}
    for name, binding in prepared.own.items():
        one = inputs[name]
        try:
            if binding.source == "reading":
                got = facts.readings.get(binding.of)
                if got is None:
                    return f"{name.replace('_', ' ')} was not read"
                own[name] = _in_si(got.value, got.doubt, got.unit, one)
                if got.kind in ("at_least", "at_most"):
                    bounds[name] = got.kind
                if isinstance(got, Worked) and got.shared:
                    shared[f"{name}+shared"] = Value(value=0.0, unit="", doubt=_in_si(got.value, got.shared, got.unit, one).doubt)
            elif binding.source == "setting":
                if not isinstance(facts.level, float | int):
                    return f"{name.replace('_', ' ')} has no setting"
                shared[name] = _in_si(float(facts.level), 0.0, facts.level_unit, one)
            else:
                text = next((v for k, v in facts.version.items() if said(k) == said(binding.of)), "")
                if not text.strip() and binding.of == WITH_PAYLOAD:
                    return "the masses of the version and of its payload are not both written down"
                if not text.strip():
                    return f"the version that was used has no {binding.of} written down"
                shared[name] = value_of(one, text)
        except CoreError as why:
            return why.says
    try:
        return _answer(prepared, own, shared, bounds, g)
    except CalculationRefused as why:
        return why.says


def _in_si(value: float, doubt: float, unit: str, one: Input) -> Value:
    si = QUANTITIES[one.quantity].si
    return Value(value=convert(value, unit, si), unit=si, doubt=abs(convert(value + doubt, unit, si) - convert(value, unit, si)))


def _answer(prepared: Prepared, own: Mapping[str, Value], shared: Mapping[str, Value], bounds: Mapping[str, Kind], g: float) -> Worked:
    output, calculator = prepared.draft.output, prepared.calculator
    units = {output: calculator.outputs[output]}
    carried = {n.removesuffix("+shared"): v.doubt for n, v in shared.items() if n.endswith("+shared")}
    plain = {**{n: v for n, v in shared.items() if not n.endswith("+shared")}, **own}

    def function(x: Mapping[str, float]) -> Mapping[str, float]:
        found = calculator.function({**x, "g": g})
        if output not in found:
            raise CalculationRefused(f"{prepared.draft.name} needs a further input here.", code="input_missing", where=output)
        return {output: found[output]}

    def at(doubts: Mapping[str, float]) -> Value:
        return carry(function, {n: Value(value=v.value, unit=v.unit, doubt=doubts.get(n, 0.0)) for n, v in plain.items()}, units)[output]

    mine = at({n: v.doubt for n, v in own.items()})
    theirs = at({**{n: v.doubt for n, v in shared.items() if not n.endswith("+shared")}, **carried})
    kind = _kind(function, plain, bounds, output)
    si, unit = units[output], prepared.unit

    def to(value: float) -> float:
        return convert(value, si, unit) if unit != si else value

    lines = working_lines(calculator, plain, {output: Value(value=mine.value, unit=si, doubt=(mine.doubt**2 + theirs.doubt**2) ** 0.5)}, g)
    if unit != si:
        lines = (*lines, f"{shown(Value(value=mine.value, unit=si))} = {shown(Value(value=to(mine.value), unit=unit))}")
    zero = to(0.0)
    return Worked(value=to(mine.value), kind=kind, doubt=abs(to(mine.doubt) - zero), shared=abs(to(theirs.doubt) - zero), unit=unit, lines=lines)


def _kind(function: object, plain: Mapping[str, Value], bounds: Mapping[str, Kind], output: str) -> Kind:
    """Whether the answer is a bound, and which: *at least* a distance is *at least* a speed, *at least* a time *at most* one."""
    if not bounds:
        return "exact"
    base = {n: v.value for n, v in plain.items()}
    ways = set()
    for name, kind in bounds.items():
        step = abs(base[name]) * NUDGE or NUDGE
        more = function({**base, name: base[name] + step})[output] - function(base)[output]  # type: ignore[operator]
        ways.add(kind if more >= 0 else "at_most" if kind == "at_least" else "at_least")
    return ways.pop() if len(ways) == 1 else "estimate"


@once_for_each
def prepare_all(draft: Draft) -> tuple[Mapping[str, Prepared], tuple[Problem, ...]]:
    """All derived measures of a plan in their order, by identity, and what keeps others from being worked out."""
    ready: dict[str, Prepared] = {}
    found: list[Problem] = []
    for at, one in enumerate(draft.derived):
        got = prepare(draft, one, earlier=tuple(d.id for d in draft.derived[:at]))
        if isinstance(got, Prepared):
            ready[one.id] = got
        else:
            found += [Problem(code=p.code, where=f"derived.{at}.{p.where}", says=p.says, grave=False) for p in got]
    return ready, tuple(found)


def derive(ready: Mapping[str, Prepared], facts: Facts) -> dict[str, Worked | str]:
    """Every derived measure of one trial, later ones from earlier ones."""
    known: dict[str, Taken | Worked] = dict(facts.readings)
    made: dict[str, Worked | str] = {}
    for name, prepared in ready.items():
        got = work_out(prepared, Facts(readings=known, level=facts.level, level_unit=facts.level_unit, version=facts.version))
        made[name] = got
        if isinstance(got, Worked):
            known[name] = got
    return made


__all__ = ["Facts", "Prepared", "Worked", "derive", "prepare", "prepare_all", "units_of_output", "work_out"]
