"""Reports: what was shown of a study, frozen as it was told then, and what the class wrote over it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlmodel import col

from bendro.core.errors import CoreError
from bendro.core.judgement.evidence import level_label
from bendro.core.judgement.ranking import PlaceTaken
from bendro.core.judgement.working import Working
from bendro.core.planning.draft import Draft
from bendro.core.planning.final import best_levels, final_plan, finalists
from bendro.core.planning.following import Following, following, next_plan
from bendro.core.planning.ideas import said
from bendro.core.planning.plan import planned_levels
from bendro.core.report.changes import changed_since
from bendro.core.report.marking import missing
from bendro.core.report.podium import Step, podium, said_of
from bendro.core.report.poster import sections
from bendro.core.results import Analysis
from bendro.files.photo import thumbnail
from bendro.store.errors import NotFound
from bendro.store.owned import Owned
from bendro.store.tables import DeviceVersion, Photo, Report, Study

from .analysing import how, state_of
from .errors import Clash, Refused
from .plans import plan_of
from .responses import number_at, responses_of
from .studies import make_study
from .trials import TrialSeen

#: A report of more trials keeps their levels and not each of them.
MOST_TRIALS = 2_000
MOST_REPORTS = 50


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """What is frozen beside the sections, as the API tells it: study, trials and analysis as documents."""

    study: Mapping[str, Any]
    trials: Sequence[Mapping[str, Any]]
    analysis: Analysis


def make_report(owned: Owned, study_id: UUID, *, report_id: UUID, seen: Sequence[TrialSeen], shown: Shown, places: Sequence[PlaceTaken], made_by: str, now: datetime) -> Report:
    """Freeze a study as it is told now. made_by: version of the core. The same report_id again gives the first one. Raises Refused where nothing was kept."""
    study = owned.get(Study, study_id, lock="update")
    there = owned.session.get(Report, report_id)
    if there is not None:
        return report(owned, study_id, report_id)  # of another school or study: it is not there
    if not any(t.counts for t in seen):
        raise Refused("No trial has been kept yet, so there is nothing to show. Run one first.", code="report_empty", where="trials")
    held = owned.all(owned.select(Report).where(Report.study_id == study_id))
    if len(held) >= MOST_REPORTS:
        raise Refused(f"This study has {MOST_REPORTS} reports. Take one away before making another.", code="reports_many", where="report")
    draft = plan_of(study)
    row: Report = owned.new(
        Report, id=report_id, study_id=study_id, state=[str(s) for s in state_of(owned, study_id)], made_by=made_by,
        own={"texts": {}, "without": [], "comment": ""}, made_at=now,
        frozen={
            "study": dict(shown.study),
            "trials": [dict(t) for t in shown.trials] if len(shown.trials) <= MOST_TRIALS else [],
            "analysis": shown.analysis.model_dump(mode="json"),
            **(told := _told(draft, shown.analysis, seen, places)),
            "looks": _looks(owned, study_id, [str(s["label"]) for s in told["steps"]]),
            "workings": [asdict(w) for w in _workings(owned, study_id, draft, shown.analysis)],
        },
    )  # fmt: skip
    return row


def _told(draft: Draft, analysis: Analysis, seen: Sequence[TrialSeen], places: Sequence[PlaceTaken]) -> dict[str, Any]:
    steps = steps_of(draft, analysis, places)
    faults = [str(t.row["fault"]) for t in seen if t.row["state"] == "void"]
    conditions = list(dict.fromkeys(f"{name}: {how}" for t in seen if t.counts for name, how in t.conditions.items()))
    days = sorted({t.row["released_at"].date() for t in seen if t.counts})
    day = " to ".join(f"{d.day} {d:%B %Y}" for d in dict.fromkeys((days[0], days[-1])))
    said = sections(draft, analysis, steps, faults=faults, conditions=conditions[:12], day=day)
    return {"steps": [asdict(s) for s in steps], "steps_said": said_of(steps), "sections": asdict(said)}


def _looks(owned: Owned, study_id: UUID, labels: Sequence[str]) -> list[dict[str, Any]]:
    """How each device on the podium looks: of the newest version under its label (or, in design rounds, of the version of that number; where
    there is but one device, its newest) the photo made small, or the sketch. Those that have neither are left out."""
    rows = owned.all(owned.select(DeviceVersion).where(DeviceVersion.study_id == study_id, col(DeviceVersion.withdrawn).is_(False)).order_by(col(DeviceVersion.number)))
    alone = len({r.device for r in rows}) == 1
    made = []
    for label in dict.fromkeys(labels):
        mine = [r for r in rows if said(r.device) == said(label)] or [r for r in rows if str(r.number) == label and alone]
        if not mine and alone and len(labels) == 1:
            mine = rows
        for row in reversed(mine[-1:]):
            photo = owned.first(owned.select(Photo).where(Photo.version_id == row.id))
            sketch = row.body.get("sketch") or []
            if photo is not None or sketch:
                made.append({"label": label, "photo": "" if photo is None else thumbnail(photo.jpeg), "sketch": sketch if photo is None else []})
    return made


def steps_of(draft: Draft, analysis: Analysis, places: Sequence[PlaceTaken]) -> tuple[Step, ...]:
    """The podium of a study. places: by a rule of the plan's own, where it has one."""
    labels = [(p.level, level_label(p.level, draft.variable.unit)) for p in planned_levels(draft)]
    return podium(analysis, labels, agreed=places)


def _workings(owned: Owned, study_id: UUID, draft: Draft, a: Analysis) -> list[Working]:
    """The sums that a report shows: the first level's mean, and the difference between the first level and the last."""
    ids = [p.id for p in planned_levels(draft) if any(s.level == p.level and s.n_kept and s.mean is not None for s in a.levels)]
    if draft.measure.scale in ("outcome", "order") or not ids:
        return []
    mean = how(owned, study_id, about="mean", first=ids[0], second=None)
    return [mean] if len(ids) < 2 else [mean, how(owned, study_id, about="difference", first=ids[0], second=ids[-1])]


def reports_of(owned: Owned, study_id: UUID) -> list[Report]:
    """The reports of a study, the newest first. Raises NotFound."""
    owned.get(Study, study_id)
    return owned.all(owned.select(Report).where(Report.study_id == study_id).order_by(col(Report.made_at).desc(), Report.id))


def report(owned: Owned, study_id: UUID, report_id: UUID, *, lock: bool = False) -> Report:
    """Raises NotFound."""
    found = owned.get(Report, report_id, lock="update" if lock else "none")
    if found.study_id != study_id:
        raise NotFound("report")
    return found


def differs(owned: Owned, row: Report, now: Callable[[], Analysis]) -> tuple[str, ...]:
    """What the study as it stands says otherwise than a report of it; empty where its state is the same. now: gives its analysis. A study
    that can no longer be analysed says why, and its report stays."""
    if row.state == [str(s) for s in state_of(owned, row.study_id)]:
        return ()
    try:
        return changed_since(Analysis.model_validate(row.frozen["analysis"]), now())
    except (CoreError, Refused) as why:
        return (why.says,)


def write_over(owned: Owned, study_id: UUID, report_id: UUID, own: Mapping[str, Any], revision: int) -> Report:
    """Keep what the class wrote over a report, and which parts it left out. revision: of the report that it was written on. The same
    again changes nothing. Raises Clash, NotFound."""
    row = report(owned, study_id, report_id, lock=True)
    if row.own == dict(own):
        return row
    if row.revision != revision:
        raise Clash("This report was written on by someone else meanwhile. Look at theirs first.", code="report_changed", facts={"revision": row.revision, "theirs": row.own})
    row.own, row.revision = dict(own), row.revision + 1
    owned.session.add(row)
    return row


def take_away(owned: Owned, study_id: UUID, report_id: UUID) -> None:
    """A report is gone; the study stays. Raises NotFound."""
    owned.session.delete(report(owned, study_id, report_id))


def make_final(owned: Owned, study_id: UUID, *, final_id: UUID, report_id: UUID, seen: Sequence[TrialSeen], now: datetime) -> Study:
    """A study for the final of those who stood best on a report. The same final_id again gives the first. Raises PlanRefused, NotFound."""
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    frozen = report(owned, study_id, report_id).frozen
    steps = [(int(s["place"]), str(s["label"])) for s in frozen["steps"]]
    names = finalists(steps, {} if draft.study_kind == "contest" else _best_of_groups(draft, seen))
    plan = Draft.model_validate(final_plan(draft, names).model_dump())
    return make_study(owned, study_id=final_id, title=f"{study.title}: the final"[:120], draft=plan, now=now)


def _best_of_groups(draft: Draft, seen: Sequence[TrialSeen]) -> dict[str, str]:
    """By group the label of the level with its best mean of the first measure."""
    labels = {p.id: level_label(p.level, draft.variable.unit) for p in planned_levels(draft)}
    values: dict[str, dict[str, list[float]]] = {}
    for t in seen:
        value = number_at(draft, t)
        if t.counts and value is not None and t.row["group_label"]:
            values.setdefault(t.row["group_label"], {}).setdefault(t.row["level"], []).append(value)
    return {group: labels.get(level, "") for group, level in best_levels(values, better=responses_of(draft)[0].better).items()}


def what_follows(owned: Owned, study_id: UUID, analysis: Analysis, places: Sequence[PlaceTaken]) -> Following:
    """The best by the rule agreed and what could be changed next. Raises NotFound."""
    draft = plan_of(owned.get(Study, study_id))
    steps = steps_of(draft, analysis, places)
    first = [s for s in steps if s.place == 1]
    like = steps[len(first)].label if first and len(steps) > len(first) and first[-1].apart_from_next is False else ""
    return following(draft, analysis, [s.label for s in first], like=like)


def make_next(owned: Owned, study_id: UUID, *, next_id: UUID, best: str, change: str, between: bool, now: datetime) -> Study:
    """The study that follows, its best level held and one thing changed. The same next_id again gives the first. Raises PlanRefused."""
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    plan = Draft.model_validate(next_plan(draft, best=best, change=change, between=between).model_dump())
    return make_study(owned, study_id=next_id, title=f"{study.title}: {plan.variable.name}"[:120], draft=plan, now=now)


@dataclass(frozen=True, slots=True, kw_only=True)
class ToMark:
    """The newest report of a study and what is missing in it. draft: the plan as it was then."""

    study: Study
    row: Report
    draft: Draft
    missing: tuple[str, ...]


def to_mark(owned: Owned) -> tuple[ToMark, ...]:
    """The newest report of every study that is neither archived nor thrown away, by class and title."""
    studies = {s.id: s for s in owned.all(owned.select(Study).where(col(Study.deleted_at).is_(None), col(Study.archived).is_(False)))}
    newest: dict[UUID, Report] = {}
    for row in owned.all(owned.select(Report).order_by(col(Report.made_at), Report.id)):
        if row.study_id in studies:
            newest[row.study_id] = row
    made = []
    for row in newest.values():
        draft = Draft.model_validate(row.frozen["study"]["draft"])
        analysis, planned = Analysis.model_validate(row.frozen["analysis"]), int(row.frozen["study"]["planned"])
        told = missing(draft, analysis, row.own.get("texts", {}), row.own.get("without", []), planned=planned)
        made.append(ToMark(study=studies[row.study_id], row=row, draft=draft, missing=told))
    return tuple(sorted(made, key=lambda m: (m.draft.class_label, m.draft.year, m.study.title)))
