"""Reports: frozen, listed, written over."""

from __future__ import annotations

import json
from typing import Any
from uuid import UUID

from fastapi import APIRouter, Response

from bendro import __version__
from bendro.actions import reports, trials
from bendro.actions.reports import Shown
from bendro.core.conclusion.model import Conclusion
from bendro.core.results import Analysis
from bendro.store.owned import Owned
from bendro.store.tables import Report, Study

from .needs import Mine, Now
from .planning import study_out
from .shapes_class import MarkingOut
from .shapes_shown import FollowingOut, NextBody, OwnBody, ReportBody, ReportLineOut, ReportOut
from .shapes_study import StudyOut
from .trial_documents import trial_documents
from .verdicts import concluded, worked_out

router = APIRouter(prefix="/api", tags=["showing"])


def _analysis(mine: Owned, study_id: UUID) -> Analysis:
    return Analysis.model_validate_json(worked_out(mine, study_id))


@router.post("/studies/{study_id}/reports", operation_id="make_report", response_model=ReportOut, status_code=201)
def make_report(study_id: UUID, body: ReportBody, mine: Mine, now: Now) -> Response:
    study = mine.get(Study, study_id)
    seen = trials.study_trials(mine, study_id)
    analysis, conclusion = _analysis(mine, study_id), concluded(mine, study_id)
    shown = Shown(
        study=study_out(mine, study).model_dump(mode="json"),
        trials=list(trial_documents(mine, study_id, seen)) if len(seen) <= reports.MOST_TRIALS else [{}] * len(seen),
        analysis=analysis,
        conclusion=conclusion,
    )
    row = reports.make_report(mine, study_id, report_id=body.id, shown=shown, made_by=__version__, now=now)
    return Response(json.dumps(_whole(row, ()), ensure_ascii=False), media_type="application/json", status_code=201)


@router.post("/studies/{study_id}/reports/{report_id}/final", operation_id="make_final", status_code=201)
def make_final(study_id: UUID, report_id: UUID, body: ReportBody, mine: Mine, now: Now) -> StudyOut:
    """A study for the final of those who stood best. id: of the new study."""
    seen = trials.study_trials(mine, study_id)
    return study_out(mine, reports.make_final(mine, study_id, final_id=body.id, report_id=report_id, seen=seen, now=now))


@router.get("/marking", operation_id="marking")
def marking(mine: Mine) -> list[MarkingOut]:
    """The newest report of every study that has one, with what is missing in it."""
    return [
        MarkingOut.model_validate({**_line(m.row), "study_id": m.study.id, "title": m.study.title, "class_label": m.draft.class_label, "year": m.draft.year,
                                   "groups": [g for g in m.draft.groups if g.strip()], "missing": list(m.missing)})
        for m in reports.to_mark(mine)
    ]  # fmt: skip


@router.get("/studies/{study_id}/following", operation_id="what_follows")
def what_follows(study_id: UUID, mine: Mine) -> FollowingOut:
    """The best by the rule agreed, and what could be changed next."""
    return FollowingOut.model_validate(reports.what_follows(mine, study_id, concluded(mine, study_id)))


@router.post("/studies/{study_id}/following", operation_id="make_next", status_code=201)
def make_next(study_id: UUID, body: NextBody, mine: Mine, now: Now) -> StudyOut:
    """The study that follows: the best held, one thing changed. id: of the new study."""
    made = reports.make_next(mine, study_id, next_id=body.id, best=body.best, change=body.change, between=body.between, past=body.past, now=now)
    return study_out(mine, made)


@router.get("/studies/{study_id}/conclusion", operation_id="conclusion", response_model=Conclusion)
def conclusion(study_id: UUID, mine: Mine) -> Conclusion:
    """What the study found, whole: every surface renders it."""
    return concluded(mine, study_id)


@router.get("/studies/{study_id}/reports", operation_id="reports")
def all_reports(study_id: UUID, mine: Mine) -> list[ReportLineOut]:
    return [ReportLineOut.model_validate(_line(r)) for r in reports.reports_of(mine, study_id)]


@router.get("/studies/{study_id}/reports/{report_id}", operation_id="report", response_model=ReportOut)
def one_report(study_id: UUID, report_id: UUID, mine: Mine) -> Response:
    """As it was frozen: nothing of it is worked out anew."""
    row = reports.report(mine, study_id, report_id)
    return Response(json.dumps(_whole(row, reports.differs(mine, row, lambda: _analysis(mine, study_id))), ensure_ascii=False), media_type="application/json")


@router.put("/studies/{study_id}/reports/{report_id}", operation_id="write_on_report")
def write_on(study_id: UUID, report_id: UUID, body: OwnBody, mine: Mine) -> ReportLineOut:
    own = {"texts": {k: v for k, v in body.texts.items() if v.strip()}, "without": sorted(set(body.without)), "also": sorted(set(body.also)), "comment": body.comment}
    return ReportLineOut.model_validate(_line(reports.write_over(mine, study_id, report_id, own, body.revision)))


@router.delete("/studies/{study_id}/reports/{report_id}", operation_id="take_report_away", status_code=204)
def take_away(study_id: UUID, report_id: UUID, mine: Mine) -> None:
    reports.take_away(mine, study_id, report_id)


def _line(row: Report) -> dict[str, Any]:
    verdict = row.frozen["analysis"]["verdict"]
    return {
        "id": str(row.id), "made_at": row.made_at.isoformat(), "made_by": row.made_by, "answer": verdict["answer"], "says": verdict["says"],
        "kept": sum(s["n_kept"] for s in row.frozen["analysis"]["levels"]), "revision": row.revision, "own": {"also": [], **row.own},
    }  # fmt: skip


def _whole(row: Report, changed: tuple[str, ...]) -> dict[str, Any]:
    """A report as it was frozen; one of an earlier version has its places as steps, and neither a conclusion nor a card."""
    older: dict[str, Any] = {"looks": [], "conclusion": None, "card": None}
    frozen = {k: v for k, v in row.frozen.items() if k not in ("steps", "steps_said")}
    sections = {"besides": [], **row.frozen["sections"]}
    places = [_step(s) for s in row.frozen["steps"]] if "steps" in row.frozen else row.frozen["conclusion"]["places"]
    said = row.frozen.get("steps_said", "") if "steps" in row.frozen else row.frozen["conclusion"]["places_said"]
    looks = [{"drawing": None, **one} for one in frozen.get("looks", [])]
    card = {"look": None, **frozen["card"]} if frozen.get("card") else None
    return {**_line(row), **older, **frozen, "looks": looks, "card": card, "sections": sections, "places": places, "places_said": said, "changed": list(changed)}


def _step(s: dict[str, Any]) -> dict[str, Any]:
    """A step of a podium, as reports before this version have it, as a place."""
    return {"level": s["label"], "label": s["label"], "shape": s["shape"], "place": s["place"], "shared": s["shared"], "result": s["number"], "why": "", "apart_from_next": s.get("apart_from_next"), "outside": None}
