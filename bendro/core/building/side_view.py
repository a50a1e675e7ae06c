"""Where a device balances, seen from the side, and for a rocket where the air pushes."""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import CoreError
from ..physics.calculators import calculate
from ..readings import convert, read
from .version import VersionDraft

#: Margin in body diameters that is usual for small rockets (common practice).
USUAL_MARGIN = (1.0, 2.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class SidePart:
    """A part on the side view; position in mm from the nose or the front end, mass in g."""

    name: str
    mass: float
    position: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Outline:
    """A rocket's outline for drawing, mm."""

    nose_length: float
    body_diameter: float
    body_length: float
    fin_position: float
    root: float
    tip: float
    span: float
    sweep: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SideView:
    """Lengths in mm from the nose or the front end, masses in g. margin: calibers, positive when the centre of pressure lies
    behind the balance point. says: one sentence each, among them why something cannot be worked out."""

    parts: tuple[SidePart, ...]
    mass: float | None
    balance: float | None
    pressure: float | None
    margin: float | None
    length: float
    outline: Outline | None
    working: tuple[str, ...]
    says: tuple[str, ...]


def side_view(version: VersionDraft) -> SideView | None:
    """The side view of a version; None where neither parts nor a shape are written."""
    written = [p for p in version.parts if p.mass.strip() or p.position.strip()]
    if not written and version.shape is None:
        return None
    says: list[str] = []
    parts: list[SidePart] = []
    for p in written:
        try:
            parts.append(
                SidePart(
                    name=p.name.strip(),
                    mass=read(p.mass, "mass", "g").to("g"),
                    position=read(p.position, "length", "mm", signed=True).to("mm"),
                )
            )
        except CoreError as why:
            says.append(f"{p.name.strip() or 'A part'}: {why.says}")
    balance = mass = None
    working: tuple[str, ...] = ()
    if parts:
        try:
            found = calculate("balance-point", [("part", f"{p.mass!r} g @ {p.position!r} mm") for p in parts])
            balance, mass = found.outputs["position"].value * 1000, found.outputs["mass"].value * 1000
            working = found.working
            says.append(f"It balances {_as_typed(balance, version)} from the front, with {mass:.3g} g in total.")
        except CoreError as why:
            says.append(why.says)
    pressure, margin, more = _pressure(version, balance, says)
    length = _length(version, [p.position for p in parts], pressure)
    return SideView(
        outline=outline_of(version) if pressure is not None else None,
        parts=tuple(parts),
        mass=mass,
        balance=balance,
        pressure=pressure,
        margin=margin,
        length=length,
        working=(*working, *more),
        says=tuple(says),
    )


def _pressure(version: VersionDraft, balance: float | None, says: list[str]) -> tuple[float | None, float | None, tuple[str, ...]]:
    shape = version.shape
    if shape is None:
        return None, None, ()
    given = {k: v for k, v in shape.model_dump().items() if k not in ("body_length",) and str(v).strip()}
    if len(given) < 9:
        says.append("Write every measure of the nose and the fins to see where the air pushes.")
        return None, None, ()
    at = f"{balance!r} mm" if balance is not None else "0 mm"
    try:
        found = calculate("rocket-stability", [*((k, str(v)) for k, v in given.items()), ("balance_point", at)])
    except CoreError as why:
        says.append(f"{(why.where or 'shape').replace('_', ' ').capitalize()}: {why.says}")
        return None, None, ()
    pressure = found.outputs["centre_of_pressure"].value * 1000
    if balance is None:
        says.append(f"The air pushes at {_as_typed(pressure, version)} from the tip; write parts with their masses to see where it balances.")
        return pressure, None, found.working
    margin = found.outputs["margin_calibers"].value
    low, high = USUAL_MARGIN
    if margin < 0:
        word = "it would turn over: the balance point lies behind the centre of pressure. Add mass to the nose, or larger fins"
    elif margin < low:
        word = "little: it may wobble. A little mass in the nose moves the balance point forward"
    elif margin <= high:
        word = "in the usual range of one to two body diameters"
    else:
        word = "more than usual: in wind it turns its nose far into it"
    says.append(f"The air pushes at {_as_typed(pressure, version)} from the tip; the margin is {margin:.1f} body diameters, {word}.".replace("-", "−"))
    return pressure, margin, found.working


#: Decimals to which a place along the device is told, by unit.
_PLACES = {"mm": 0, "cm": 1, "m": 3, "in": 1, "ft": 2}


def _as_typed(mm: float, version: VersionDraft) -> str:
    """A place along the device in the unit in which its parts, or else its shape, were written."""
    shape = version.shape
    for text in (*(p.position for p in version.parts), shape.fin_position if shape else "", shape.nose_length if shape else ""):
        try:
            unit = read(text, "length").unit
        except CoreError:
            continue
        return f"{convert(mm, 'mm', unit):.{_PLACES.get(unit, 1)}f} {unit}"
    return f"{mm:.0f} mm"


def _mm(text: str) -> float | None:
    """A written length in mm; None where none can be read: the rest of the view stands without it."""
    try:
        return read(text, "length", "mm").to("mm")
    except CoreError:
        return None


def _length(version: VersionDraft, positions: list[float], pressure: float | None) -> float:
    """How long the device is drawn: to its written length, or to whatever lies farthest back."""
    known = [*positions, pressure or 0.0, 1.0]
    if version.shape is not None:
        fin, root = _mm(version.shape.fin_position), _mm(version.shape.root)
        known += [_mm(version.shape.body_length) or 0.0, (fin or 0.0) + (root or 0.0)]
    return max(known)


def outline_of(version: VersionDraft) -> Outline | None:
    """A rocket's outline from its measures; None where one of them is not written, or is no length."""
    shape = version.shape
    if shape is None:
        return None
    found = {k: _mm(getattr(shape, k)) for k in ("nose_length", "body_diameter", "fin_position", "root", "tip", "span", "sweep")}
    written = {k: v for k, v in found.items() if v is not None}
    if len(written) < len(found) or not (written["body_diameter"] > 0 and written["nose_length"] > 0):
        return None
    return Outline(body_length=_length(version, [], None), **written)
