"""What a trial gives for a response: one rule for every analysis, table, picture and screen."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from ..draft import Draft
from ..errors import CoreError, PlanRefused
from ..measuring.derived import Facts, Prepared, Worked, derive, with_payload
from ..measuring.drops import Bracket, Drop, bracket, over
from ..measuring.scales import scale_of
from ..measuring.taking import HAND_S, Taken, doubt_of, one_of, survived
from ..measuring.zones import points_of, points_text
from ..once import once_for_each
from ..planning.ideas import holds, varied
from ..planning.plan import level_of, planned_levels
from ..planning.safety import drop_heights
from ..readings import Kind, convert, read
from ..readings.amounts import read_any
from ..trials import Level, Trial
from ..words import said
from ..written import at_place, decimals_of_step, with_unit, written_of
from .ladders import drops_of, whole_word
from .responses import FACTORS, HELD, ResponseSeen, factor_of, response_named
from .seen import TrialSeen


@dataclass(frozen=True, slots=True, kw_only=True)
class Given:
    """What one trial gives for a response. value: a number in its unit, a bound where kind says so; lean: the same with its sign, of a
    distance off the line; word: what became of it as a whole, on the plan's scale; survived: by the line agreed; text: as it is read aloud;
    why: why it gives nothing, "" where it does."""

    value: float | None = None
    kind: Kind = "exact"
    resolution: float | None = None
    doubt: float | None = None
    shared: float = 0.0
    timers: tuple[float, ...] = ()
    apart: tuple[int, ...] = ()
    lean: float | None = None
    word: str | None = None
    survived: bool | None = None
    text: str = ""
    why: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Made:
    """Versions of a study's devices: their properties by label and number."""

    properties: Mapping[tuple[str, int], Mapping[str, str]]

    def of(self, draft: Draft, t: TrialSeen, level: Level | None) -> Mapping[str, str]:
        """The properties of the version that was used: the one recorded; in design rounds the level; else the only one that the device
        or the group has."""
        called = int(level) if isinstance(level, float | int) else int(level) if isinstance(level, str) and level.strip().isdigit() else None
        number = t.version or (called if draft.study_kind == "design_rounds" else None)
        labels = [said(v) for v in (t.device, t.group, t.level) if v]
        mine = [(k, v) for k, v in self.properties.items() if said(k[0]) in labels]
        if number is not None:
            chosen = [v for k, v in (mine or self.properties.items()) if k[1] == number]
            return chosen[0] if len(chosen) == 1 else {}
        pool = mine or list(self.properties.items())
        return pool[0][1] if len(pool) == 1 else {}


@dataclass(frozen=True, slots=True, kw_only=True)
class Deriving:
    """The derived measures of a plan, ready for its trials. levels: in the variable's own unit."""

    draft: Draft
    ready: Mapping[str, Prepared]
    levels: Mapping[str, Level]
    made: Made
    thumb_s: float = HAND_S

    def at(self, t: TrialSeen) -> dict[str, Worked | str]:
        """Every derived measure of one trial, or what it lacks there."""
        level = self.levels.get(t.level)
        taken: dict[str, list[Taken]] = {}
        for r in t.readings:
            measure = self.draft.measure_of(r.measure)
            if r.reading is not None and measure is not None:
                doubt = doubt_of(measure, r.reading, how=r.taken, scatter_s=self.thumb_s)
                taken.setdefault(r.measure, []).append(r.reading.model_copy(update={"doubt": doubt}))
        readings: dict[str, Taken | Worked] = {m: one_of(each) for m, each in taken.items()}
        version = with_payload(self.made.of(self.draft, t, level), self.draft.rules.payload_mass)
        facts = Facts(readings=readings, level=level, level_unit=self.draft.variable.unit, version=version)
        return derive(self.ready, facts)


@once_for_each
def own_levels(draft: Draft) -> dict[str, Level]:
    """The setting of each level in the variable's own unit, by its identity; empty while the plan cannot be understood."""
    return _levels(draft, shown=False)


@once_for_each
def shown_levels(draft: Draft) -> dict[str, Level]:
    """The same in the unit in which levels are told."""
    return _levels(draft, shown=True)


def _levels(draft: Draft, *, shown: bool) -> dict[str, Level]:
    try:
        return {p.id: p.shown if shown else p.level for p in planned_levels(draft)}
    except CoreError:  # what keeps a plan from being understood is told where it is checked
        return {}


def level_named(draft: Draft, level_id: str) -> Level:
    """A level as it is told, by its identity; one that the plan has no more, as it was written."""
    levels = shown_levels(draft)
    return levels[level_id] if level_id in levels else level_of(draft.variable, level_id).level


def given(draft: Draft, t: TrialSeen, one: ResponseSeen, work: Deriving | None = None) -> Given:
    """What a trial gives for a response. work: the plan's derived measures, for one that is derived. On rungs it is what became of the
    drop; what the drops of a specimen tell together is `trials_of`'s."""
    if one.derived:
        got = work.at(t).get(one.id) if work is not None else None
        return _worked(got)
    measure = draft.measure_of(one.id)
    assert measure is not None  # it is one of the plan's
    if one.shape in ("survival", "rungs"):
        word = whole_word(draft, t.readings, measure.id)
        if word is None:
            return Given(why="a payload was not judged" if any(r.measure == measure.id and r.words for r in t.readings) else "nothing was judged")
        return Given(word=word, survived=survived(measure, word), text=word)
    taken = [r.reading for r in t.readings if r.measure == one.id and r.reading is not None]
    if not taken:
        return Given(why="nothing was read")
    if one.scored:
        each = [points_of(measure, r) for r in taken]
        known = [p for p in each if p is not None]
        if len(known) < len(each):
            return Given(why="how far it went is only a bound, so its zone is not known")
        points = sum(known) / len(known)
        return Given(value=points, resolution=1.0, text=points_text(points))
    first = one_of(taken)
    made = Given(
        value=first.value, kind=first.kind, resolution=first.resolution, doubt=first.doubt, timers=first.timers or (), apart=first.flagged or (),
        text=_text(first, one.unit),
    )  # fmt: skip
    return _by_size(made, one) if one.by_size else made


def _by_size(found: Given, one: ResponseSeen) -> Given:
    """A distance off the line by its size: a bound to the left is one to the right."""
    value = found.value or 0.0
    turned: Kind = found.kind
    if value < 0:
        turned = {"at_least": "at_most", "at_most": "at_least"}.get(found.kind, found.kind)  # type: ignore[assignment]
    side = "" if value == 0 else " left" if value < 0 else " right"
    text = f"{with_unit(at_place(abs(value), _decimals(found.resolution)), one.unit)}{side}"
    return Given(value=abs(value), kind=turned, resolution=found.resolution, doubt=found.doubt, timers=found.timers, apart=found.apart, lean=value, text=text)


def _decimals(resolution: float | None) -> int | None:
    return decimals_of_step(resolution) if resolution else None


_MARKS = {"exact": "", "at_least": "≥ ", "at_most": "≤ ", "estimate": "~"}


def _text(taken: Taken, unit: str) -> str:
    value = at_place(taken.value, _decimals(taken.resolution))
    return f"{_MARKS[taken.kind]}{with_unit(value, unit)}"


def _worked(got: Worked | str | None) -> Given:
    if not isinstance(got, Worked):
        return Given(why=got or "it is not worked out by this plan")
    return Given(value=got.value, kind=got.kind, doubt=got.doubt, shared=got.shared, text=written_of(got.value, got.doubt + got.shared, got.kind, got.unit))


def trials_of(draft: Draft, seen: Sequence[TrialSeen], one: ResponseSeen, *, factor: str = "", work: Deriving | None = None) -> list[Trial]:
    """Trials as the statistics see them, in order of release; those outside the plan and practice are left out. factor: over what they
    are compared, "" for the variable. On rungs a specimen's drops are one trial. Raises PlanRefused for a response or factor that cannot be
    compared."""
    if one.shape == "behaviour":
        raise PlanRefused("Behaviours are counted, not averaged; they stand beside the numbers.", code="response_behaviour", where="response")
    if factor and factor not in FACTORS and not factor.startswith(HELD):
        raise PlanRefused("This is not recorded of trials.", code="factor_unknown", where="factor")
    levels = shown_levels(draft)
    made_of = drops_of(draft, seen) if one.shape == "rungs" else {}
    rungs = drop_heights(draft) if one.every else ()
    brackets = {cell: bracket(drops, drop_heights(draft)) for cell, drops in made_of.items()}
    step = rung_step(draft)
    done: set[tuple[int, str]] = set()
    dropped: set[tuple[str, str]] = set()
    made = []
    for t in seen:
        if t.place in ("outside", "practice"):
            continue
        level: Level | None = factor_of(t, factor) or None if factor else levels[t.level] if t.level in levels else level_of(draft.variable, t.level).level
        cell = (t.block, t.level)
        if one.shape == "rungs" and t.state == "kept":
            if cell in done or cell not in brackets:
                continue
            done.add(cell)
            got = _rungs(made_of[cell], rungs) if one.every else _rung(brackets[cell], step)
        else:
            got = given(draft, t, one, work)
        made.append(_trial(draft, t, level, got, again=_again(t, dropped)))
    return made


def rung_step(draft: Draft) -> float | None:
    """The step of the finest rung as it is written."""
    if draft.drop is None:
        return None
    unit = draft.drop.unit
    rungs = [read(text, "length", unit) for text in draft.drop.heights if text.strip()]
    return min((convert(r.resolution, r.unit, unit) for r in rungs), default=None)


def _rung(known: Bracket, step: float | None) -> Given:
    reading = known.reading
    return Given(why="no drop was judged") if reading is None else Given(value=reading[0], kind=reading[1], resolution=step)


def _rungs(drops: Sequence[Drop], rungs: Sequence[float]) -> Given:
    """How many rungs a specimen survived: at least so many while some are still to come."""
    return Given(value=float(len({d.height for d in drops if d.survived})), kind="exact" if over(drops, rungs, every=True) else "at_least", resolution=1.0)


def _again(t: TrialSeen, dropped: set[tuple[str, str]]) -> bool | None:
    """Whether the very specimen of a kept trial was released before; None where it is not recorded."""
    key = (t.device or t.level, t.specimen)
    if not key[1] or not t.counts:
        return None
    before = key in dropped
    dropped.add(key)
    return before


def _trial(draft: Draft, t: TrialSeen, level: Level | None, got: Given, *, again: bool | None) -> Trial:
    lacks = t.state == "kept" and got.value is None and got.survived is None
    gone = varied(draft)  # what is varied was never held, whatever an older lane has written down
    return Trial(
        level=level,
        value=got.value,
        kind=got.kind,
        resolution=got.resolution,
        doubt=got.doubt,
        timers=got.timers,
        timers_apart=got.apart,
        lean=got.lean,
        outcome=None if got.survived is None else "survived" if got.survived else "failed",
        state="void" if t.state == "void" else "kept",
        fault=t.fault or None,
        note=t.note or None,
        order=None if draft.order == "unknown" else t.number,
        block=str(t.block),
        heat=t.heat or None,
        group=t.group or None,
        person=t.person or None,
        device=t.device or None,
        version=None if t.version is None or draft.study_kind == "design_rounds" else f"{t.made_by} {t.version}".strip(),
        others={
            **{_bare(name): _value(text) for name, text in t.others},
            **{k: held_value(draft, k, v) for k, v in t.conditions.items() if said(k) not in gone},
            **({} if again is None or lacks else {"payload reused": "yes" if again else "no"} if draft.drop is not None and draft.drop.payload != "reused" else {}),
        },
        row=t.number,
    )


def _bare(header: str) -> str:
    """A column's name without its unit."""
    return re.sub(r"\s*\([^()]*\)$", "", header) or header


def _value(text: str) -> Level | None:
    """A further column's cell: a number where it is one, else its words; None where it is empty."""
    return float(text) if re.fullmatch(r"[+-]?\d+(\.\d+)?", text) else text or None


def held_value(draft: Draft, name: str, text: str) -> Level | None:
    """A held thing as it stood: in the unit in which the plan holds it, where both are amounts."""
    planned = next((h for h in holds(draft) if said(h.name) == said(name)), None)
    now, then = read_any(text), read_any(planned.value) if planned is not None else None
    if now is not None and then is not None and now.quantity == then.quantity:
        return now.to(then.unit)
    return _value(text.strip())


def held_units(draft: Draft, names: Iterable[str]) -> dict[str, str]:
    """The units in which the plan holds these things, where they are amounts with one."""
    values = {said(h.name): read_any(h.value) for h in holds(draft)}
    return {name: value.unit for name in names if (value := values.get(said(name))) is not None and value.unit not in ("", "count")}


def tolerances(draft: Draft, trials: Sequence[Trial]) -> dict[str, float | None]:
    """The held things that trials tell of, with the tolerance of the plan in the unit in which it holds them."""
    recorded = dict.fromkeys(k for t in trials for k in t.others)
    found: dict[str, float | None] = {}
    for held in holds(draft):
        name = next((k for k in recorded if said(k) == said(held.name)), None)
        if name is None:
            continue
        value, within = read_any(held.value), read_any(held.tolerance)
        stated = value.half_width if value is not None else None
        found[name] = within.to(value.unit) if value is not None and within is not None and value.quantity == within.quantity else stated
    return found


def points_at(draft: Draft, t: TrialSeen) -> list[tuple[str, float]]:
    """The points of each zone measure (by its identity) that a trial has a landing for."""
    made = []
    for m in draft.measures:
        one = response_named(draft, m.id) if scale_of(m).scored else None
        got = given(draft, t, one) if one is not None else None
        if got is not None and got.value is not None:
            made.append((m.id, got.value))
    return made


def number_at(draft: Draft, t: TrialSeen) -> float | None:
    """What a trial gives for the first measure, as a number: its reading, or the points of it; None for words."""
    one = response_named(draft)
    return None if one is None or one.shape in ("survival", "rungs", "behaviour") else given(draft, t, one).value
