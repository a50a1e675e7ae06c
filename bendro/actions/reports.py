"""Reports: what was shown of a study, frozen as it was told then, and what the class wrote over it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlmodel import col

from bendro.core.building.faces import drawn
from bendro.core.building.version import VersionDraft
from bendro.core.conclusion.model import Conclusion
from bendro.core.draft import Draft
from bendro.core.errors import CoreError
from bendro.core.judgement.working import Working
from bendro.core.measuring.scales import scale_of
from bendro.core.planning.final import best_levels, final_plan, finalists
from bendro.core.planning.following import Following, following, next_plan
from bendro.core.planning.plan import planned_levels
from bendro.core.record.built import version_at
from bendro.core.record.given import number_at
from bendro.core.record.responses import responses_of
from bendro.core.record.seen import TrialSeen
from bendro.core.record.study import StudyRecord
from bendro.core.report.card import card_of, shown_version
from bendro.core.report.changes import changed_since
from bendro.core.report.marking import missing
from bendro.core.report.poster import sections
from bendro.core.results import Analysis
from bendro.files.photo import thumbnail
from bendro.store.errors import NotFound
from bendro.store.owned import Owned
from bendro.store.tables import DeviceVersion, Photo, Report, Study

from .analysing import how, record_of, state_of
from .errors import Clash, Refused
from .group_words import as_lines, words_of
from .plans import plan_of
from .studies import make_study

#: A report of more trials keeps their levels and not each of them.
MOST_TRIALS = 2_000
MOST_REPORTS = 50


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """What is frozen, as the API tells it: study and trials as documents, the analysis and the conclusion."""

    study: Mapping[str, Any]
    trials: Sequence[Mapping[str, Any]]
    analysis: Analysis
    conclusion: Conclusion


def make_report(owned: Owned, study_id: UUID, *, report_id: UUID, shown: Shown, made_by: str, now: datetime) -> Report:
    """Freeze a study as it is told now. made_by: version of the core. The same report_id again gives the first one. Raises Refused where nothing was kept."""
    owned.get(Study, study_id, lock="update")
    there = owned.session.get(Report, report_id)
    if there is not None:
        return report(owned, study_id, report_id)  # of another school or study: it is not there
    record = record_of(owned, study_id)
    if not record.counted:
        raise Refused("No trial has been kept yet, so there is nothing to show. Run one first.", code="report_empty", where="trials")
    held = owned.all(owned.select(Report).where(Report.study_id == study_id))
    if len(held) >= MOST_REPORTS:
        raise Refused(f"This study has {MOST_REPORTS} reports. Take one away before making another.", code="reports_many", where="report")
    c = shown.conclusion
    lines = as_lines(words_of(owned, study_id))
    # what the group wrote and left out in its last one goes on: nobody writes it twice
    last = max(held, key=lambda r: (r.made_at, str(r.id)), default=None)
    own = {"texts": dict(last.own.get("texts", {})), "without": list(last.own.get("without", [])), "also": list(last.own.get("also", [])), "comment": ""} if last is not None else {"texts": {}, "without": [], "also": ["groups"] if lines else [], "comment": ""}
    row: Report = owned.new(
        Report, id=report_id, study_id=study_id, state=[str(s) for s in state_of(owned, study_id)], made_by=made_by,
        own=own, made_at=now,
        frozen={
            "study": dict(shown.study),
            "trials": [dict(t) for t in shown.trials] if len(shown.trials) <= MOST_TRIALS else [],
            "analysis": shown.analysis.model_dump(mode="json"),
            "conclusion": c.model_dump(mode="json"),
            "sections": asdict(sections(record.draft, c, day=_day(record), groups=lines)),
            "card": _card(owned, study_id, record, c),
            "looks": _looks(owned, study_id, record, c),
            "workings": [asdict(w) for w in _workings(owned, study_id, record.draft, shown.analysis)],
        },
    )  # fmt: skip
    return row


def _day(record: StudyRecord) -> str:
    """On which days the counted trials were run."""
    days = sorted({t.released_at.date() for t in record.counted if isinstance(t.released_at, datetime)})
    return " to ".join(f"{d.day} {d:%B %Y}" for d in dict.fromkeys((days[0], days[-1])))


def _looks(owned: Owned, study_id: UUID, record: StudyRecord, c: Conclusion) -> list[dict[str, Any]]:
    """How each device in the places looks: of the version that was used under its label (or, in design rounds, of the version of that number; in a
    fair test of one that was built for the level; where there is but one device, its newest). Those of which nothing is drawn are left out."""
    rows = _versions(owned, study_id)
    labels = list(dict.fromkeys(p.label for p in c.places))
    alone = len({device for device, _ in rows}) == 1
    made = []
    for label in labels:
        used = version_at(record, label) or (record.versions[-1] if alone and len(labels) == 1 and record.versions else None)
        look = None if used is None else _look(owned, record.draft, rows.get((used.device, used.number)))
        if look is not None:
            made.append({"label": label, **look})
    return made


def _versions(owned: Owned, study_id: UUID) -> dict[tuple[str, int], DeviceVersion]:
    rows = owned.all(owned.select(DeviceVersion).where(DeviceVersion.study_id == study_id, col(DeviceVersion.withdrawn).is_(False)).order_by(col(DeviceVersion.number)))
    return {(r.device, r.number): r for r in rows}


def _look(owned: Owned, plan: Draft, row: DeviceVersion | None) -> dict[str, Any] | None:
    """How one version looks: its photo made small, or its sketch, or else its plain drawing; None where there is none of them."""
    if row is None:
        return None
    photo = owned.first(owned.select(Photo).where(Photo.version_id == row.id))
    if photo is not None:
        return {"photo": thumbnail(photo.jpeg), "sketch": [], "drawing": None}
    if sketch := row.body.get("sketch"):
        return {"photo": "", "sketch": sketch, "drawing": None}
    plain = drawn(plan, VersionDraft.model_validate(row.body))
    return None if plain is None else {"photo": "", "sketch": [], "drawing": asdict(plain)}


def _card(owned: Owned, study_id: UUID, record: StudyRecord, c: Conclusion) -> dict[str, Any]:
    """The card with the look of its own version."""
    shown = shown_version(record, c)
    look = None if shown is None else _look(owned, record.draft, _versions(owned, study_id).get((shown.device, shown.number)))
    return {**asdict(card_of(record, c)), "look": None if look is None or shown is None else {"label": shown.device, **look}}


def _workings(owned: Owned, study_id: UUID, draft: Draft, a: Analysis) -> list[Working]:
    """The sums that a report shows: the first level's mean, and the difference between the first level and the last."""
    ids = [p.id for p in planned_levels(draft) if any(s.level == p.shown and s.n_kept and s.mean is not None for s in a.levels)]
    if not scale_of(draft.measure).number or not ids:
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
    steps = [(int(s["place"]), str(s["label"])) for s in places_of(frozen) if s["place"] is not None]
    names = finalists(steps, {} if draft.study_kind == "contest" else _best_of_groups(draft, seen))
    plan = Draft.model_validate(final_plan(draft, names).model_dump())
    return make_study(owned, study_id=final_id, title=f"{study.title}: the final"[:120], draft=plan, now=now)


def _best_of_groups(draft: Draft, seen: Sequence[TrialSeen]) -> dict[str, str]:
    """By group the label of the level with its best result of the first measure."""
    labels = {p.id: p.label for p in planned_levels(draft)}
    values: dict[str, dict[str, list[float]]] = {}
    for t in seen:
        value = number_at(draft, t)
        if t.counts and value is not None and t.group:
            values.setdefault(t.group, {}).setdefault(t.level, []).append(value)
    return {group: labels.get(level, "") for group, level in best_levels(values, better=responses_of(draft)[0].better, result=draft.result).items()}


def places_of(frozen: Mapping[str, Any]) -> list[dict[str, Any]]:
    """The places in a frozen report; one of an earlier version has them as steps."""
    found: list[dict[str, Any]] = frozen["conclusion"]["places"] if "conclusion" in frozen else frozen["steps"]
    return found


def what_follows(owned: Owned, study_id: UUID, conclusion: Conclusion) -> Following:
    """The best by the rule agreed and what could be changed next. Raises NotFound."""
    return following(plan_of(owned.get(Study, study_id)), conclusion.best, conclusion.best_why)


def make_next(owned: Owned, study_id: UUID, *, next_id: UUID, best: str, change: str, between: bool, past: bool, now: datetime) -> Study:
    """The study that follows, its best level held and one thing changed. The same next_id again gives the first. Raises PlanRefused."""
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    plan = Draft.model_validate(next_plan(draft, best=best, change=change, between=between, past=past).model_dump())
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
    for row in owned.all(owned.select(Report).where(col(Report.study_id).in_(list(studies))).order_by(col(Report.made_at), Report.id)):
        if row.study_id in studies:
            newest[row.study_id] = row
    made = []
    for row in newest.values():
        draft = Draft.model_validate(row.frozen["study"]["draft"])
        analysis, planned = Analysis.model_validate(row.frozen["analysis"]), int(row.frozen["study"]["planned"])
        told = missing(draft, analysis, row.own.get("texts", {}), row.own.get("without", []), planned=planned)
        made.append(ToMark(study=studies[row.study_id], row=row, draft=draft, missing=told))
    return tuple(sorted(made, key=lambda m: (m.draft.class_label, m.draft.year, m.study.title)))
