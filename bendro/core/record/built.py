"""What the versions of the devices say about the levels: which was built for a level, and what else went along with it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ..draft import Draft
from ..planning.ideas import varied
from ..planning.plan import PlannedLevel, planned_levels, unreadable
from ..readings.amounts import read_any
from ..trials import Level, Trial
from ..words import said
from ..written import listed
from .seen import TrialSeen
from .study import StudyRecord, VersionTold

#: What a property is never held against: it follows from the variable as often as not.
_FOLLOWS = frozenset({"mass"})


def _same(one: str, two: str) -> bool:
    a, b = read_any(one), read_any(two)
    if a is None or b is None or a.quantity != b.quantity:
        return said(one).replace(" ", "") == said(two).replace(" ", "")
    return abs(a.si_value - b.si_value) <= 1e-9 * max(abs(a.si_value), abs(b.si_value))


def built_for(draft: Draft, versions: Sequence[VersionTold], level: PlannedLevel) -> tuple[VersionTold, ...]:
    """The versions in which the variable is as at this level, as their properties say it."""
    name = said(draft.variable.name)
    return tuple(v for v in versions if any(said(k) == name and (_same(text, level.label) or _same(text, level.text)) for k, text in v.properties.items()))


def version_at(record: StudyRecord, label: str) -> VersionTold | None:
    """The version that stands under the label of a level: in design rounds that of its number, in a fair test the first that was built for the
    level, else the one that the device of this label used."""
    if record.draft.study_kind == "design_rounds":
        return record.line_of().get(label)
    if record.draft.study_kind == "fair_test":
        level = next((p for p in planned_levels(record.draft) if p.label == label), None)
        built = () if level is None else built_for(record.draft, record.versions, level)
        if built:
            return built[0]
    return record.used_by(label)


def _bare(version: VersionTold, gone: frozenset[str]) -> dict[str, str]:
    return {k.strip(): text for k, text in version.properties.items() if said(k) not in gone | _FOLLOWS and text.strip()}


def with_properties(record: StudyRecord, trials: Sequence[Trial]) -> list[Trial]:
    """Trials of a fair test with the properties of the version that was used beside them: the one recorded, else the only one that was built for
    the level. What the plan varies or measures is left out."""
    draft = record.draft
    if draft.study_kind != "fair_test" or not any(v.properties for v in record.versions):
        return list(trials)
    gone = varied(draft)
    used = {t.number: _used(record, t) for t in record.trials}
    made = []
    for t in trials:
        version = used.get(t.row) if t.row is not None else None
        more: dict[str, Level | None] = {} if version is None else {k: text for k, text in _bare(version, gone).items() if k not in t.others}
        made.append(replace(t, others={**t.others, **more}) if more else t)
    return made


def _used(record: StudyRecord, t: TrialSeen) -> VersionTold | None:
    if t.version is not None:
        return next((v for v in record.versions if v.number == t.version and (not t.device or said(v.device) == said(t.device))), None)
    level = next((p for p in planned_levels(record.draft) if p.id == t.level), None)
    built = () if level is None else built_for(record.draft, record.versions, level)
    return built[0] if len(built) == 1 else None


def went_along(draft: Draft, versions: Sequence[VersionTold]) -> str:
    """What else differs between the levels as they are built, said before the run: "fins: 3 at 10 cm, 4 at 15 cm"; "" where nothing does."""
    if draft.study_kind != "fair_test" or unreadable(draft):
        return ""
    gone = varied(draft)
    at: dict[str, dict[str, set[str]]] = {}
    for level in planned_levels(draft):
        for v in built_for(draft, versions, level):
            for name, text in _bare(v, gone).items():
                at.setdefault(name, {}).setdefault(level.label, set()).add(said(text))
    along = [(name, by) for name, by in at.items() if len(by) > 1 and all(len(v) == 1 for v in by.values()) and len({next(iter(v)) for v in by.values()}) > 1]
    return "; ".join(f"{name}: {listed([f'{next(iter(v))} at {label}' for label, v in by.items()])}" for name, by in along)

