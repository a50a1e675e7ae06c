"""What of a study can be analysed, and over what: each measure, what is worked out, and everything the record tells of a trial."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from bendro.core.errors import CoreError
from bendro.core.judgement.places import better_place
from bendro.core.measuring.derived import Facts, Prepared, Worked, derive, prepare_all
from bendro.core.measuring.drops import Bracket
from bendro.core.measuring.taking import HAND_S, Taken, doubt_of, one_of, whole_outcome
from bendro.core.measuring.thumb import scatter_of
from bendro.core.measuring.zones import points_of, score_name
from bendro.core.planning.draft import Draft, MeasureDraft
from bendro.core.planning.ideas import said
from bendro.core.planning.plan import level_of, planned_levels
from bendro.core.planning.safety import read_any
from bendro.core.readings import Kind
from bendro.core.trials import Level, Trial
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .building import versions_of
from .errors import Refused
from .instruments import thumbs_of
from .trials import Row, TrialSeen, brackets_of, on_rungs

Shape = Literal["number", "survival", "rungs", "places", "behaviour"]
#: What trials can be told apart by besides the variable, and what it is called on the page.
FACTORS = {"version": "version", "device": "device", "specimen": "specimen", "group": "group", "person": "person"}
HELD = "held:"
RUNG_RESPONSE = "highest rung survived"


@dataclass(frozen=True, slots=True, kw_only=True)
class ResponseSeen:
    """One thing that can be analysed. id: of the measure or derived measure; unit "" where it has none. scored: points for a reading,
    not the reading itself."""

    id: str
    name: str
    unit: str
    shape: Shape
    better: Literal["high", "low"]
    derived: bool
    scored: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class FactorSeen:
    """One thing that trials can be compared over. id "": the variable."""

    id: str
    name: str


def responses_of(draft: Draft) -> tuple[ResponseSeen, ...]:
    """Everything that a plan's trials can be analysed for, the first measure first."""
    made = [_response(draft, m, first=at == 0) for at, m in enumerate(draft.measures)]
    ready, _ = prepare_all(draft)
    made += [
        ResponseSeen(id=one.draft.id, name=one.draft.name, unit=one.unit, shape="number", better=one.draft.better, derived=True) for one in ready.values()
    ]
    return tuple(made)


def _response(draft: Draft, m: MeasureDraft, *, first: bool) -> ResponseSeen:
    shape: Shape = "number"
    name, unit = m.name, m.unit
    if m.scale == "outcome":
        shape, unit = "survival", ""
        if first and on_rungs(draft) and draft.drop is not None:
            shape, name, unit = "rungs", RUNG_RESPONSE, draft.drop.unit
    elif m.scale == "zone":
        name, unit = score_name(m), ""
    elif m.scale == "order":
        shape, unit = "places", ""
    elif m.scale == "behaviour":
        shape, unit = "behaviour", ""
    better = better_place(draft.question) if m.scale == "order" else "high" if m.scale in ("outcome", "zone") else m.better
    return ResponseSeen(id=m.id, name=name, unit=unit, shape=shape, better=better, derived=False, scored=m.scale == "zone")


def factors_of(draft: Draft, seen: Sequence[TrialSeen]) -> tuple[FactorSeen, ...]:
    """What differs between counted trials, so that something can be compared over it; the variable first."""
    made = [FactorSeen(id="", name=draft.variable.name)]
    counted = [t for t in seen if t.counts]
    for one, name in FACTORS.items():
        if len({v for t in counted if (v := _of(t, one))}) > 1:
            made.append(FactorSeen(id=one, name=name))
    held = dict.fromkeys(k for t in counted for k in t.conditions)
    made += [FactorSeen(id=f"{HELD}{k}", name=k) for k in held if len({t.conditions.get(k, "") for t in counted}) > 1]
    return tuple(made)


def _of(t: TrialSeen, factor: str) -> str:
    """The value of a factor other than the variable at one trial; "" where it is not recorded."""
    if factor.startswith(HELD):
        return t.conditions.get(factor.removeprefix(HELD), "").strip()
    if factor == "version":
        return "" if t.row["version"] is None else f"{t.row['device'] or t.row['group_label']} version {t.row['version']}".strip()
    column = {"group": "group_label"}.get(factor, factor)
    return str(t.row[column] or "").strip()


@dataclass(frozen=True, slots=True, kw_only=True)
class Made:
    """Versions of a study's devices: their properties by label and number."""

    properties: Mapping[tuple[str, int], Mapping[str, str]]

    def of(self, draft: Draft, row: Row, level: Level | None) -> Mapping[str, str]:
        """The properties of the version that was used: the one recorded; in design rounds the level; else the only one that the device
        or the group has."""
        number = row["version"] or (int(level) if draft.study_kind == "design_rounds" and isinstance(level, float | int) else None)
        labels = [said(v) for v in (row["device"], row["group_label"], str(row["level"])) if v]
        mine = [(k, v) for k, v in self.properties.items() if said(k[0]) in labels]
        if number is not None:
            chosen = [v for k, v in (mine or self.properties.items()) if k[1] == number]
            return chosen[0] if len(chosen) == 1 else {}
        pool = mine or list(self.properties.items())
        return pool[0][1] if len(pool) == 1 else {}


def made_of(owned: Owned, study_id: Any) -> Made:
    """The versions that were written down for a study."""
    return Made(
        properties={
            (v.row.device, v.row.number): {**{p.name: p.value for p in v.draft.properties}, **({"mass": v.draft.mass} if v.draft.mass.strip() else {})}
            for v in versions_of(owned, study_id)
        }
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Deriving:
    """The derived measures of a plan, ready for its trials."""

    draft: Draft
    ready: Mapping[str, Prepared]
    levels: Mapping[str, Level]
    made: Made
    thumb_s: float = HAND_S

    def at(self, t: TrialSeen) -> dict[str, Worked | str]:
        """Every derived measure of one trial, or what it lacks there."""
        level = self.levels.get(t.row["level"])
        taken: dict[str, list[Taken]] = {}
        for r in t.readings:
            measure = self.draft.measure_of(r.measure)
            if r.reading is not None and measure is not None:
                doubt = doubt_of(measure, r.reading, how=r.taken, scatter_s=self.thumb_s)
                taken.setdefault(r.measure, []).append(r.reading.model_copy(update={"doubt": doubt}))
        readings: dict[str, Taken | Worked] = {m: one_of(each) for m, each in taken.items()}
        facts = Facts(readings=readings, level=level, level_unit=self.draft.variable.unit, version=self.made.of(self.draft, t.row, level))
        return derive(self.ready, facts)


def deriving(owned: Owned, study: Study, draft: Draft) -> Deriving | None:
    """None where the plan works nothing out."""
    ready, _ = prepare_all(draft) if draft.derived else ({}, ())
    if not ready:
        return None
    thumbs = list(thumbs_of(owned, study.id).values()) if draft.measure.timed else []
    return Deriving(draft=draft, ready=ready, levels=levels_by_id(draft), made=made_of(owned, study.id), thumb_s=scatter_of(thumbs))


def levels_by_id(draft: Draft) -> dict[str, Level]:
    """The setting of each level by its identity; empty while the plan cannot be understood."""
    try:
        return {p.id: p.level for p in planned_levels(draft)}
    except CoreError:
        return {}


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """What one trial gives for a response: a number or an outcome, or nothing."""

    value: float | None = None
    kind: Kind = "exact"
    resolution: float | None = None
    doubt: float | None = None
    shared: float = 0.0
    timers: tuple[float, ...] = ()
    apart: tuple[int, ...] = ()
    outcome: str | None = None


def core_trials(owned: Owned, study: Study, draft: Draft, seen: Sequence[TrialSeen], *, response: str = "", factor: str = "") -> list[Trial]:
    """Trials as the core sees them, in order of release; those outside the plan and practice are left out. On rungs a specimen's drops
    are one trial. Raises Refused for a response or factor that is not there."""
    wanted = response or draft.measure.id
    one = next((r for r in responses_of(draft) if r.id == wanted), None)
    if one is None:
        raise Refused("This measure is not in the plan.", code="measure_unknown", where="response")
    if one.shape == "behaviour":
        raise Refused("Behaviours are counted, not averaged; they stand beside the numbers.", code="response_behaviour", where="response")
    if factor and factor not in FACTORS and not factor.startswith(HELD):
        raise Refused("This is not recorded of trials.", code="factor_unknown", where="factor")
    work = deriving(owned, study, draft) if one.derived else None
    levels = levels_by_id(draft)
    brackets = brackets_of(draft, seen) if one.shape == "rungs" else {}
    done: set[tuple[int, str]] = set()
    made = []
    dropped: set[tuple[str, str]] = set()
    for t in seen:
        if t.place in ("outside", "practice"):
            continue
        level: Level | None = _of(t, factor) or None if factor else _level(draft, levels, t.row["level"])
        cell = (t.row["block"], t.row["level"])
        if one.shape == "rungs" and t.row["state"] == "kept":
            if cell in done or cell not in brackets:
                continue
            done.add(cell)
            got = _rung(brackets[cell])
        else:
            got = _found(draft, one, t, work)
        made.append(_trial(draft, t, level, got, again=_again(t, dropped)))
    return made


def _again(t: TrialSeen, dropped: set[tuple[str, str]]) -> bool | None:
    """Whether the very specimen of a kept trial was released before; None where it is not recorded."""
    key = (str(t.row["device"] or t.row["level"]), str(t.row["specimen"]))
    if not key[1] or not t.counts:
        return None
    before = key in dropped
    dropped.add(key)
    return before


def _level(draft: Draft, levels: Mapping[str, Level], level_id: str) -> Level:
    return levels[level_id] if level_id in levels else level_of(draft.variable, level_id).level


def _rung(known: Bracket) -> Found:
    reading = known.reading
    if reading is None:
        return Found()
    return Found(value=reading[0], kind=reading[1])


def _found(draft: Draft, one: ResponseSeen, t: TrialSeen, work: Deriving | None) -> Found:
    if one.derived:
        got = work.at(t).get(one.id) if work is not None else None
        return Found(value=got.value, kind=got.kind, doubt=got.doubt, shared=got.shared) if isinstance(got, Worked) else Found()
    measure = draft.measure_of(one.id)
    assert measure is not None  # it is one of the plan's
    mine = [r for r in t.readings if r.measure == one.id]
    if one.shape == "survival":
        return Found(outcome=whole_outcome(measure, [w for r in mine for w in r.words], len(draft.payloads) if measure.each_payload else 1))
    taken = [r.reading for r in mine if r.reading is not None]
    if not taken:
        return Found()
    if measure.scale == "zone":
        return Found(value=points_of(measure, taken[0]))
    first = one_of(taken)
    return Found(
        value=first.value, kind=first.kind, resolution=first.resolution, doubt=first.doubt, timers=first.timers or (), apart=first.flagged or ()
    )


def points_at(draft: Draft, t: TrialSeen) -> list[tuple[str, float]]:
    """The points of each zone measure (by its identity) that a trial has a landing for."""
    zones = [m for m in draft.measures if m.scale == "zone"]
    landed = [(m.id, points_of(m, taken)) for m in zones if (taken := t.taken(m.id)) is not None]
    return [(one, points) for one, points in landed if points is not None]


def number_at(draft: Draft, t: TrialSeen) -> float | None:
    """What a trial gives for the first measure, as a number: its reading, or the points of it."""
    if draft.measure.scale == "zone":
        return dict(points_at(draft, t)).get(draft.measure.id)
    read = t.taken(draft.measure.id)
    return None if read is None else read.value


def _trial(draft: Draft, t: TrialSeen, level: Level | None, got: Found, *, again: bool | None) -> Trial:
    row = t.row
    lacks = row["state"] == "kept" and got.value is None and got.outcome is None
    return Trial(
        level=level,
        value=got.value,
        kind=got.kind,
        resolution=got.resolution,
        doubt=got.doubt,
        timers=got.timers,
        timers_apart=got.apart,
        outcome=got.outcome,
        state="void" if row["state"] == "void" else "kept",
        fault=row["fault"] or None,
        note=row["note"] or None,
        order=None if draft.order == "unknown" else t.number,
        block=str(row["block"]),
        group=row["group_label"] or None,
        person=row["person"] or None,
        device=row["device"] or None,
        others={
            **{_bare(name): _value(text) for name, text in row["others"]},
            **{k: _held_value(draft, k, v) for k, v in t.conditions.items()},
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


def _held_value(draft: Draft, name: str, text: str) -> Level | None:
    """A held thing as it stood: in the unit in which the plan holds it, where both are amounts."""
    planned = next((h for h in draft.hold if said(h.name) == said(name)), None)
    now, then = read_any(text), read_any(planned.value) if planned is not None else None
    if now is not None and then is not None and now.quantity == then.quantity:
        return now.to(then.unit)
    return _value(text.strip())


def tolerances(draft: Draft, trials: Sequence[Trial]) -> dict[str, float | None]:
    """The held things that trials tell of, with the tolerance of the plan in the unit in which it holds them."""
    recorded = dict.fromkeys(k for t in trials for k in t.others)
    found: dict[str, float | None] = {}
    for held in draft.hold:
        name = next((k for k in recorded if said(k) == said(held.name)), None)
        if name is None:
            continue
        value, within = read_any(held.value), read_any(held.tolerance)
        found[name] = within.to(value.unit) if value is not None and within is not None and value.quantity == within.quantity else None
    return found
