"""From a plan to what is cut: the device's pieces for each level, what is the same for all of them, and what is still asked."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from ..draft import Draft, VariableDraft
from ..errors import CoreError, PlanRefused
from ..families import family, known
from ..planning.plan import level_unit, planned_levels, settings_of
from ..problem import Problem
from ..trials import Level
from ..words import said
from ..written import level_label, listed
from .device import PIECES, Device, devices_of
from .flying import QUARTER, line_lengths
from .piece import LEVEL_TALL, SMALL_TALL, Piece
from .sizes import SizeKind, Sizes

#: Pieces that serve all devices of a group: one is enough.
TOOLS = frozenset({QUARTER, "quadrant", "pitch gauge", "pull-back scale", "place on the straw"})
#: A letter is about so wide beside its height (of the heavy narrow letters of a level, and of the others; both with room to spare).
NARROW, WIDE = 0.55, 0.62
#: Sizes that one device can be set to again and again, and those that one piece marks for every device.
SETTABLE = frozenset({"arm length", "pivot position", "pull-back", "ring radius", "blade pitch", "launch angle"})
ALL_ON_ONE = frozenset({"blade pitch", "launch angle", "canopy side", "spill-hole width"})
Source = Literal["level", "plan", "typed", "built", "usual", "asked"]


@dataclass(frozen=True, slots=True, kw_only=True)
class SizeShown:
    """A size with where it comes from. value: as it stands, of a varied one its levels."""

    name: str
    kind: SizeKind
    unit: str
    value: str
    source: Source
    choices: tuple[str, ...]
    hint: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Tag:
    """Where the level and the group are written, mm on the piece: the left end of the level's base line, and the height of both letters. beside:
    below the piece, since there is no room on it."""

    x: float
    y: float
    level: float
    group: float
    beside: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Cutout:
    """One piece to cut. labels: the levels it is for, empty where it serves all. number: so many alike are cut for one group."""

    piece: Piece
    labels: tuple[str, ...]
    tag: Tag
    number: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Templates:
    """cutouts: for one group. says: what differs and what is the same. notes: what is cut to length and is no piece."""

    device: Device | None
    offered: tuple[Device, ...]
    varied: str
    sizes: tuple[SizeShown, ...]
    cutouts: tuple[Cutout, ...]
    says: str
    notes: tuple[str, ...]
    problems: tuple[Problem, ...]

    @property
    def shared(self) -> bool:
        """Whether one set serves the whole class: a pattern that is laid on the cloth and not cut up."""
        return bool(self.cutouts) and all(c.piece.kind == QUARTER for c in self.cutouts)


def device_of(draft: Draft) -> Device | None:
    """The device that the plan's templates are for: the one chosen, else the first of the family that has the variable among its sizes, else one
    that is built for a usual test of it."""
    offered = devices_of(draft.family) if known(draft.family) else ()
    chosen = next((d for d in offered if d.id == draft.templates.device), None)
    if chosen is not None or not offered:
        return chosen
    tested = {t.device for t in family(draft.family).tests if said(t.variable) == said(draft.variable.name)}
    fits = [d for d in offered if _size_named(d, draft.variable.name)] or [d for d in offered if d.id in tested]
    return [*fits, *offered][0]


def _size_named(d: Device, name: str) -> str:
    """The size that a plan calls so, "" where none."""
    key = said(name)
    return next((z.name for z in d.sizes if key in {said(z.name), *(said(n) for n in d.also.get(z.name, ()))}), "")


def templates(draft: Draft, built: Mapping[str, str] | None = None) -> Templates:
    """The templates of a plan for one group. built: properties that all versions of its devices have alike. A level that cannot be cut is told in
    `problems`, and the others stand."""
    d = device_of(draft)
    if d is None:
        says = "Choose the family of devices in the plan: its templates follow from it."
        return Templates(device=None, offered=(), varied="", sizes=(), cutouts=(), says="", notes=(), problems=(Problem(code="family_unknown", where="family", says=says),))
    same, shown = _same_for_all(draft, d, built or {})
    varied = _size_named(d, draft.variable.name) if draft.study_kind == "fair_test" else ""
    second = _size_named(d, draft.second.name) if draft.second is not None and draft.study_kind == "fair_test" else ""
    settings, why_none = _settings(draft, varied, second)
    marked = {said(name): list(dict.fromkeys(s.own[said(name)] for s in settings)) for name in (varied, second) if name and settings}
    one_device = draft.materials.devices_each == 1 and varied in SETTABLE
    problems, cut_from, made = list(why_none), [], []
    for s in [settings[0]] if one_device and settings else settings or ([_Setting()] if not varied else []):
        sizes = Sizes(
            defs={z.name: z for z in d.sizes}, written={**same, **s.own}, varied=varied,
            marked={k: v for k, v in marked.items() if one_device or k in ALL_ON_ONE},
        )  # fmt: skip
        label = "" if one_device else s.label
        try:
            made.append((s, PIECES[d.id](sizes)))
            cut_from.append((label, sizes))
        except PlanRefused as why:
            says = f"{label}: {why.says}" if label and why.code != "size_missing" else why.says
            problems.append(Problem(code=why.code, where=f"templates.sizes.{why.where}", says=says))
    every = [s.label for s in settings]
    shared = draft.materials.devices_each == 1  # one device, whatever of it is changed
    cutouts, differs = _cutouts(draft, [("" if one_device else label, pieces) for label, pieces in _by_size(made)], every, shared)
    return Templates(
        device=d, offered=devices_of(draft.family), varied=varied, sizes=shown, cutouts=cutouts,
        says=_says(draft, d, varied, shown, differs, one_device), notes=_notes(draft, d, cut_from, one_device), problems=tuple(dict.fromkeys(problems)),
    )  # fmt: skip


def _same_for_all(draft: Draft, d: Device, built: Mapping[str, str]) -> tuple[dict[str, str], tuple[SizeShown, ...]]:
    """What stands for each size, and how it is shown: what the plan holds, what was typed here, what all versions have, what is usual."""
    held = {_size_named(d, h.name): h.value for h in draft.hold if h.value.strip()}
    typed = {z.name: z.value for z in draft.templates.sizes if z.value.strip()}
    had = {_size_named(d, k): v for k, v in built.items() if v.strip()}
    vary = {_size_named(d, draft.variable.name): draft.variable} if draft.study_kind == "fair_test" else {}
    if draft.second is not None and draft.study_kind == "fair_test":
        vary[_size_named(d, draft.second.name)] = draft.second
    written: dict[str, str] = {}
    shown = []
    for z in d.sizes:
        known: list[tuple[Source, str]] = [("plan", held.get(z.name, "")), ("typed", typed.get(z.name, "")), ("built", had.get(z.name, "")), ("usual", z.usual)]
        source, text = next(((source, text) for source, text in known if text), ("asked", ""))
        if z.name in vary:
            source, text = "level", listed(_labels(vary[z.name])) if vary[z.name].levels else ""
        elif text:
            written[said(z.name)] = text
        shown.append(SizeShown(name=z.name, kind=z.kind, unit=z.unit, value=text, source=source, choices=z.choices, hint=z.hint))
    return written, tuple(shown)


def _labels(variable: VariableDraft) -> list[str]:
    return [t.strip() if variable.kind == "name" else _label(t, variable) for t in variable.levels]


def _label(text: str, variable: VariableDraft) -> str:
    try:
        return level_label(float(text), level_unit(variable))
    except ValueError:
        return text.strip()


@dataclass(frozen=True, slots=True, kw_only=True)
class _Setting:
    """One level: as it is called, as the first and as the second variable call it, and what of the sizes it sets."""

    label: str = ""
    one: str = ""
    two: str = ""
    own: Mapping[str, str] = field(default_factory=dict)


def _settings(draft: Draft, varied: str, second: str) -> tuple[list[_Setting], list[Problem]]:
    """Every level of a fair test, and why there is none where a size is varied."""
    if draft.study_kind != "fair_test":
        return [], []
    try:
        pairs, levels = settings_of(draft), planned_levels(draft)
    except CoreError as why:
        return [], [Problem(code=why.code, where="variable.levels", says=f"The plan’s levels: {why.says}")]
    if not levels and varied:
        says = f"The plan has no levels of the {varied} yet. Write them there, and the pieces follow."
        return [], [Problem(code="levels_missing", where="variable.levels", says=says)]
    found = []
    for p in levels:
        one, two = pairs.get(p.id, (p.shown, ""))
        texts = _as_text(one, draft.variable), _as_text(two, draft.second) if draft.second is not None else ""
        own = {said(name): text for name, text in zip((varied, second), texts, strict=True) if name}
        found.append(_Setting(label=p.label, one=texts[0], two=texts[1], own=own))
    return found, []


def _by_size(made: Sequence[tuple[_Setting, list[Piece]]]) -> list[tuple[str, list[Piece]]]:
    """The pieces of each level; of two variables only as many as differ in what is cut: three launch angles of one fin are one rocket."""
    alike: dict[tuple[Piece, ...], tuple[list[_Setting], list[Piece]]] = {}
    for s, pieces in made:
        alike.setdefault(tuple(_bare(p) for p in pieces if p.kind not in TOOLS), ([], pieces))[0].append(s)
    if len(alike) == len(made):
        return [(s.label, pieces) for s, pieces in made]
    by_first = len(alike) == len({s.one for s, _ in made})
    return [(group[0].one if by_first else listed([s.label for s in group]), pieces) for group, pieces in alike.values()]


def _as_text(level: Level, variable: VariableDraft) -> str:
    return level if isinstance(level, str) else level_label(level, level_unit(variable)).replace("−", "-")


def _bare(piece: Piece) -> Piece:
    """What is cut of it, without the strip that stands beside it."""
    return replace(piece, ruled=None, width=0.0, height=0.0, count=1)


def _cutouts(draft: Draft, made: Sequence[tuple[str, list[Piece]]], every: Sequence[str], shared: bool) -> tuple[tuple[Cutout, ...], bool]:
    """Pieces by kind and level. Where one differs between levels, every kind is cut for each level, but once what serves them all; of one device
    that is changed from level to level only what differs. shared: there is one device."""
    longest = max((len(g.strip()) for g in draft.groups), default=0)
    kinds = list(dict.fromkeys(p.kind for _, pieces in made for p in pieces))
    by_kind = {k: [(label, p) for label, pieces in made for p in pieces if p.kind == k] for k in kinds}
    unlike = {k for k, found in by_kind.items() if k not in TOOLS and (len({_bare(p) for _, p in found}) > 1 or len(found) < len(made))}
    cutouts = []
    for k, found in by_kind.items():
        if k in unlike or (unlike and not shared and k not in TOOLS):
            for label, p in found:
                piece, tag = tagged(p, label, longest)
                cutouts.append(Cutout(piece=piece, labels=(label,) if label else (), tag=tag, number=p.count))
            continue
        piece, tag = tagged(found[0][1], "all levels" if len(every) > 1 else "", longest)
        cutouts.append(Cutout(piece=piece, labels=(), tag=tag, number=max(p.count for _, p in found)))
    order = {label: n for n, (label, _) in enumerate(made)}
    cutouts.sort(key=lambda c: order.get(c.labels[0], -1) if c.labels else len(order))
    return tuple(cutouts), bool(unlike)


def tagged(piece: Piece, label: str, longest_group: int) -> tuple[Piece, Tag]:
    """The piece with a place for its level and its group: on it where both can be read, else below it."""
    x, y, wide, high = piece.room
    for level, group in ((LEVEL_TALL, SMALL_TALL), (4.5, 2.6), (3.4, 2.2)):
        if len(label) * level * NARROW <= wide and longest_group * group * WIDE <= wide and level + group + 2 <= high:
            return piece, Tag(x=round(x + 0.5, 2), y=round(y + level, 2), level=level, group=group, beside=False)
    tall = 2.6
    need = (len(label) + longest_group + 3) * tall * WIDE
    return replace(piece, width=max(piece.width, round(need, 2)), height=round(piece.height + tall + 1.8, 2)), Tag(
        x=0.0, y=round(piece.height + tall + 0.8, 2), level=tall, group=tall, beside=True
    )


def _says(draft: Draft, d: Device, varied: str, shown: Sequence[SizeShown], differs: bool, one_device: bool) -> str:
    same = [f"{z.name} {z.value}" for z in shown if z.source != "level" and z.value and z.name not in ("fin fixing",)]
    kept = f"{listed(same)}" if same else ""
    if one_device and varied:
        return f"One {d.name} for all levels, with a mark at each {varied}. {_large(kept)}."
    if varied and not differs and varied in ALL_ON_ONE:
        return f"One pattern for all levels, with a line at each {varied}: {kept}."
    if differs and varied:
        return f"The {varied} differs, everything else is the same: {kept}."
    if draft.study_kind == "fair_test" and draft.variable.name.strip():
        return f"The same template for every {draft.variable.name.strip()}: {kept}."
    return f"One to start from; the class’s own may differ: {kept}."


def _large(text: str) -> str:
    return text[:1].upper() + text[1:]


def _cm(mm: float) -> str:
    return f"{mm / 10:.4g} cm"


def _notes(draft: Draft, d: Device, runs: Sequence[tuple[str, Sizes]], one_device: bool) -> tuple[str, ...]:
    """What is cut to length: the lines of a canopy with their knots, and the thread that the class needs. Each Sizes has been cut from before."""
    if d.id != "canopy" or not runs or one_device:
        return ()
    groups = max(1, len([g for g in draft.groups if g.strip()]))
    says, cut = [], []
    for label, sizes in runs:
        lines, each = line_lengths(sizes)
        at = f"At {label}" if label and (sizes.is_varied("line length") or sizes.is_varied("number of lines")) else "For each canopy"
        says.append(f"{at}: cut {lines} lines of {_cm(each)}, {_cm(sizes.of('line length'))} between the knots and {_cm(sizes.of('for each knot'))} for each of the two knots.")
        cut.append((lines, each))
    devices = draft.materials.devices_each
    if devices and len(set(cut)) > 1:  # one canopy is strung anew for every level: how much thread that takes depends on what is used again
        return tuple(dict.fromkeys(says))
    cut = cut[:1] * devices if devices else cut
    canopies, count, total = len(cut) * groups, sum(n for n, _ in cut) * groups, sum(n * each for n, each in cut) * groups
    return (*dict.fromkeys(says), f"{canopies} {'canopy takes' if canopies == 1 else 'canopies take'} {count} lines, {total / 1000:.3g} m of thread in all.")
