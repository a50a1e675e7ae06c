"""One version of a device as it is written down, and what changed between two of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from pydantic import Field

from ..draft import Amount, Short, Text, Typed
from ..errors import CoreError
from ..readings import read
from ..readings.amounts import read_any
from ..words import said

MOST_PROPERTIES, MOST_PARTS, MOST_STROKES, MOST_POINTS = 30, 30, 200, 400
#: Two written amounts closer than this share of their size are the same setting (30 cm and 0.3 m).
SAME_SHARE = 1e-9


class Property(Typed):
    """One thing about the device that a change could be made to: "canopy side" "30 cm"."""

    name: str = Short
    value: str = Field(default="", max_length=60)


class DevicePart(Typed):
    """A part with its mass and where its own balance point lies, from the nose or the front end."""

    name: str = Short
    mass: str = Amount
    position: str = Amount


class Used(Typed):
    """Pieces of a material of the plan."""

    material: str = Short
    pieces: float = Field(default=1, ge=0, le=10_000)


class RocketShape(Typed):
    """What the centre of pressure is worked out from (calculator rocket-stability); fin_position: from the tip of the nose to
    where the fin's leading edge meets the body."""

    nose: Literal["cone", "ogive"] = "cone"
    nose_length: str = Amount
    body_diameter: str = Amount
    body_length: str = Amount
    fins: str = Amount
    root: str = Amount
    tip: str = Amount
    span: str = Amount
    sweep: str = Amount
    fin_position: str = Amount


Point = tuple[float, float]


class VersionDraft(Typed):
    """One version as typed. since: the earlier version's number it was made from, None for a first one. confirmed: the person
    has seen what changed and says that this is all. measured: lengths as the ruler said once it was cut. sketch: strokes on a square from 0 to 1."""

    since: int | None = Field(default=None, ge=1, le=10_000)
    why: str = Text
    also_changed: str = Text
    confirmed: bool = False
    properties: list[Property] = Field(default=[], max_length=MOST_PROPERTIES)
    measured: list[Property] = Field(default=[], max_length=8)
    parts: list[DevicePart] = Field(default=[], max_length=MOST_PARTS)
    shape: RocketShape | None = None
    mass: str = Amount
    used: list[Used] = Field(default=[], max_length=40)
    checks: list[str] = Field(default=[], max_length=30)
    payload_shows: bool | None = None
    failed: bool = False
    note: str = Field(default="", max_length=1000)
    sketch: list[list[Point]] = Field(default=[], max_length=MOST_STROKES)


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """One difference: what, and its two values as written; None where it was not written down."""

    name: str
    was: str | None
    now: str | None

    def __str__(self) -> str:
        if self.was is None:
            return f"{self.name} (now {self.now})"
        return f"{self.name} (no longer {self.was})" if self.now is None else f"{self.name} ({self.was} → {self.now})"


def same_value(one: str, two: str) -> bool:
    """Whether two written values are one setting: alike in words, or equal amounts in other units."""
    if said(one) == said(two):
        return True
    a, b = read_any(one), read_any(two)
    if a is None or b is None or a.quantity != b.quantity:
        try:
            return read(one, "number", "").value == read(two, "number", "").value
        except CoreError:
            return False
    return abs(a.si_value - b.si_value) <= SAME_SHARE * max(abs(a.si_value), abs(b.si_value))


def changes(before: VersionDraft, after: VersionDraft) -> tuple[Change, ...]:
    """What differs between two versions by what was written down, in the order of the later one; with what the person says was
    changed besides. The mass follows from the rest and is not a change of its own unless nothing else differs."""
    old = {said(p.name): p for p in before.properties if p.name.strip() and p.value.strip()}
    new = {said(p.name): p for p in after.properties if p.name.strip() and p.value.strip()}
    found = [
        Change(name=p.name.strip(), was=old[k].value.strip() if k in old else None, now=p.value.strip())
        for k, p in new.items()
        if k not in old or not same_value(old[k].value, p.value)
    ]
    found += [Change(name=p.name.strip(), was=p.value.strip(), now=None) for k, p in old.items() if k not in new]
    found += _used(before, after)
    found += [Change(name=t.strip(), was=None, now="changed") for t in after.also_changed.split(";") if t.strip()]
    one, two = before.mass.strip(), after.mass.strip()
    if not found and one and two and not same_value(one, two):
        found.append(Change(name="mass", was=one, now=two))
    return tuple(found)


def differences(one: VersionDraft, two: VersionDraft) -> tuple[Change, ...]:
    """What differs between any two versions side by side: as `changes`, and a mass that is written for one of them alone."""
    found = changes(one, two)
    masses = one.mass.strip(), two.mass.strip()
    if not found and any(masses) and not all(masses):
        return (Change(name="mass", was=masses[0] or None, now=masses[1] or None),)
    return found


def newly_taken(before: VersionDraft | None, after: VersionDraft) -> list[tuple[str, float]]:
    """Pieces that a version takes from the shop: those of the version it was made from are there already."""
    had = {said(u.material): u.pieces for u in (before.used if before is not None else ())}
    return [(u.material, more) for u in after.used if (more := u.pieces - had.get(said(u.material), 0.0)) > 0]


def _used(before: VersionDraft, after: VersionDraft) -> list[Change]:
    old = {said(u.material): u for u in before.used if u.pieces}
    new = {said(u.material): u for u in after.used if u.pieces}
    named = {said(p.name) for p in (*before.properties, *after.properties)}
    found = []
    for k in dict.fromkeys((*new, *old)):
        was, now = old.get(k), new.get(k)
        if k in named or (was is not None and now is not None and was.pieces == now.pieces):
            continue
        either = now or was
        assert either is not None
        found.append(
            Change(
                name=f"pieces of {either.material.strip()}", was=f"{was.pieces:g}" if was else "0", now=f"{now.pieces:g}" if now else "0"
            )
        )
    return found


def says_of(found: Sequence[Change], since: int | None) -> str:
    """The sentence for the class: what changed since which version, and what cannot be concluded when it was more than one thing."""
    if since is None:
        return "The first of its line: nothing before it to compare with."
    if not found:
        return f"Nothing that is written down changed since version {since}. Write what is different, or it is the same device again."
    names = [str(c) for c in found]
    if len(found) == 1:
        return f"One thing changed since version {since}: {names[0]}. Once both are tested, a real difference between them is its doing."
    listed = f"{', '.join(names[:-1])} and {names[-1]}"
    count = {2: "Two", 3: "Three", 4: "Four"}.get(len(found), str(len(found)))
    return f"{count} things changed since version {since}: {listed}. Once both are tested, it can be told whether it does better, but not which of them did it."


def says_between(found: Sequence[Change]) -> str:
    """The same for any two versions side by side, whichever came first."""
    if not found:
        return "Nothing that is written down differs."
    if len(found) == 1 and None in (found[0].was, found[0].now):
        return f"Only {found[0].name} is written for one and not for the other, so whether they differ in it cannot be told."
    if len(found) == 1:
        return f"Only one thing differs: {found[0]}. Once both are tested, a real difference between them is its doing."
    return f"{len(found)} things differ. Once both are tested, it can be told whether one does better, but not which of the differences did it."


def says_lost(since: int) -> str:
    """What is said of a version whose earlier one was taken back."""
    return f"Version {since}, from which it was made, was removed, so what changed cannot be told. Restore it to see."
