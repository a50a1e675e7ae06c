"""The decision with two measures: straighter is only better if it does not lose much distance."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..draft import Draft, MeasureDraft
from ..errors import CoreError
from ..measuring.scales import scale_of
from ..planning.plan import level_unit, planned_levels, settings_of
from ..readings import convert, read
from ..statistics.landing import straighter_without_loss
from ..trials import Level
from ..written import at_place, decimals_of_step, level_label, listed, start, with_unit
from .responses import off_the_line
from .seen import TrialSeen

Landed = dict[str, tuple[list[float], list[float]]]
#: Fewer landings than this at a level decide nothing about its scatter.
LANDINGS = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Pair:
    """Straighter without losing distance, from the first level to the second (identities); loss and worst_loss in the unit of distance."""

    first: str
    second: str
    straighter: bool
    loss: float
    worst_loss: float | None
    keeps_distance: bool
    says: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TwoMeasures:
    """The decision over all levels. best: the level's identity, "" where the trials do not decide. furthest: that with the greatest mean distance.
    pairs: every other level against it."""

    best: str
    furthest: str
    says: str
    pairs: tuple[Pair, ...]


def along_and_off(draft: Draft) -> tuple[MeasureDraft, MeasureDraft] | None:
    """The distance and the distance off the line, where the plan measures both."""
    first = draft.measure
    off = next((m for m in draft.measures[1:] if off_the_line(m) or (m.signed and m.quantity == "length")), None)
    if scale_of(first).quantity(first) != "length" or off is None:
        return None
    return first, off


def landed(draft: Draft, trials: Sequence[TrialSeen]) -> dict[str, tuple[list[float], list[float]]]:
    """Where counted trials landed, along and off the line in the unit of the distance, by the identity of their level."""
    pair = along_and_off(draft)
    found: dict[str, tuple[list[float], list[float]]] = {}
    if pair is None:
        return found
    along, off = pair
    for t in trials:
        one, two = t.taken(along.id), t.taken(off.id)
        if t.counts and one is not None and two is not None and one.kind == two.kind == "exact":
            at = found.setdefault(t.level, ([], []))
            at[0].append(one.value)
            at[1].append(two.in_unit(along.unit).value)
    return found


def two_measures(draft: Draft, trials: Sequence[TrialSeen]) -> TwoMeasures | None:
    """None where no margin was agreed, or fewer than two levels have enough landings."""
    pair = along_and_off(draft)
    if pair is None or not draft.margin.strip():
        return None
    unit = pair[0].unit
    try:
        margin = read(draft.margin, pair[0].quantity, unit).to(unit)
    except CoreError:  # said where the plan is checked
        return None
    at = landed(draft, trials)
    if draft.second is not None:
        return _crossed(draft, at, margin, unit, (pair[1], _decimals(trials, pair[1])))
    ids = [p.id for p in planned_levels(draft) if len(at.get(p.id, ((), ()))[0]) >= LANDINGS]
    if len(ids) < 2:
        return None
    # a bare number says what it is a number of
    labels = {p.id: f"{draft.variable.name.strip()} {p.label}" if p.label.isdigit() else p.label for p in planned_levels(draft)}
    furthest = max(ids, key=lambda i: sum(at[i][0]) / len(at[i][0]))
    made = []
    for other in ids:
        if other == furthest:
            continue
        found = straighter_without_loss(at[furthest], at[other], margin, unit)
        made.append(
            Pair(
                first=furthest, second=other, straighter=found.straighter, loss=found.loss, worst_loss=found.worst_loss,
                keeps_distance=found.keeps_distance, says=found.says,
            )
        )  # fmt: skip
    places = _decimals(trials, pair[1])
    miss = {i: sum(map(abs, at[i][1])) / len(at[i][1]) for i in ids}

    def off(i: str) -> str:
        return with_unit(at_place(convert(miss[i], unit, pair[1].unit), places), pair[1].unit)

    good = sorted((p for p in made if p.straighter and p.keeps_distance), key=lambda p: miss[p.second])
    within = f"within the margin of {draft.margin.strip()}"
    if good:
        best = good[0]
        says = f"{start(labels[best.second])} lands nearer the line than {labels[furthest]}, which goes furthest ({off(best.second)} off against {off(furthest)}), and keeps its distance {within}: by both measures it is best."
        return TwoMeasures(best=best.second, furthest=furthest, says=says, pairs=tuple(made))
    nearer = [p for p in made if p.straighter]
    if nearer:
        names = listed([labels[p.second] for p in nearer])
        says = f"{start(names)} {'lands' if len(nearer) == 1 else 'land'} nearer the line than {labels[furthest]}, but may lose more distance than the margin of {draft.margin.strip()}."
        return TwoMeasures(best="", furthest=furthest, says=says, pairs=tuple(made))
    nearest = min(ids, key=miss.__getitem__)
    if nearest == furthest:
        says = f"{start(labels[furthest])} goes furthest and lands nearest the line ({off(furthest)} off on average)."
        return TwoMeasures(best=furthest, furthest=furthest, says=says, pairs=tuple(made))
    return TwoMeasures(best="", furthest=furthest, says=f"No level is shown to land nearer the line than {labels[furthest]}, which goes furthest.", pairs=tuple(made))


def _crossed(draft: Draft, at: Landed, margin: float, unit: str, off: tuple[MeasureDraft, int]) -> TwoMeasures | None:
    """With two variables each is decided at like values of the other: a level is compared with what was run beside it, never with another
    setting of both. best: the setting of the furthest flight among those with the level that is decided on."""
    settings = {one: pair for one, pair in settings_of(draft).items() if len(at.get(one, ((), ()))[0]) >= LANDINGS}
    means = {one: sum(at[one][0]) / len(at[one][0]) for one in settings}
    if len(settings) < 4:
        return None
    says, allowed = [], set(settings)
    names = (draft.variable.name.strip(), draft.second.name.strip() if draft.second is not None else "")
    units = (level_unit(draft.variable), level_unit(draft.second) if draft.second is not None else "")
    for axis in (0, 1):
        found = _at_like(at, settings, means, axis, margin, unit)
        if found is None:
            continue
        one, other, both = found
        label, against = (level_label(v, units[axis] or None) for v in (one, other))
        miss = [with_unit(at_place(convert(v, unit, off[0].unit), off[1]), off[0].unit) for v in both]
        says.append(f"At the same {names[1 - axis]} {label} lands nearer the line than {against} ({miss[0]} off against {miss[1]}) and keeps its distance within the margin of {draft.margin.strip()}.")
        allowed = {i for i in allowed if settings[i][axis] == one}
    furthest = max(settings, key=means.__getitem__)
    labels = {p.id: p.label for p in planned_levels(draft)}
    if not says:
        return TwoMeasures(best="", furthest=furthest, says=f"Neither {names[0]} nor {names[1]} is shown to land nearer the line, at the same value of the other, without losing more than {draft.margin.strip()}.", pairs=())
    best = max(allowed, key=means.__getitem__) if allowed else ""
    if best:
        says.append(f"Of these {labels[best]} goes furthest: by both measures it is best.")
    return TwoMeasures(best=best, furthest=furthest, says=" ".join(says), pairs=())


def _at_like(at: Landed, settings: Mapping[str, tuple[Level, Level]], means: Mapping[str, float], axis: int, margin: float, unit: str) -> tuple[Level, Level, tuple[float, float]] | None:
    """The level of one variable that lands nearer the line than the furthest one without losing the margin, with that one and how far off both
    land; None where none does. Distances are taken from the mean of their value of the other variable, and only values at which every level was
    run count."""
    levels = list(dict.fromkeys(pair[axis] for pair in settings.values()))
    others = [v for v in dict.fromkeys(pair[1 - axis] for pair in settings.values()) if {p[axis] for p in settings.values() if p[1 - axis] == v} == set(levels)]
    if len(levels) < 2 or not others:
        return None
    middle = {v: math.fsum(m for one, m in means.items() if settings[one][1 - axis] == v) / len(levels) for v in others}
    pooled: dict[Level, tuple[list[float], list[float]]] = {v: ([], []) for v in levels}
    for one, pair in settings.items():
        if pair[1 - axis] in middle:
            pooled[pair[axis]][0].extend(d - middle[pair[1 - axis]] for d in at[one][0])
            pooled[pair[axis]][1].extend(at[one][1])
    furthest = max(levels, key=lambda v: math.fsum(pooled[v][0]) / len(pooled[v][0]))
    miss = {v: math.fsum(map(abs, pooled[v][1])) / len(pooled[v][1]) for v in levels}
    good = [v for v in levels if v != furthest and (f := straighter_without_loss(pooled[furthest], pooled[v], margin, unit)).straighter and f.keeps_distance]
    if not good:
        return None
    best = min(good, key=miss.__getitem__)
    return best, furthest, (miss[best], miss[furthest])


def _decimals(trials: Sequence[TrialSeen], off: MeasureDraft) -> int:
    steps = [r.resolution for t in trials if t.counts and (r := t.taken(off.id)) is not None and r.resolution]
    return max((decimals_of_step(s) for s in steps), default=2)
