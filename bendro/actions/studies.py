"""Studies: make, plan, open a run, and where each stands."""

from __future__ import annotations

import zlib
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, Literal
from uuid import UUID

from sqlalchemy import func
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import select

from bendro.core.planning.draft import Draft
from bendro.core.planning.order import Turn
from bendro.core.planning.plan import Problem, check, planned_turns
from bendro.store.owned import Owned
from bendro.store.tables import DeviceVersion, Run, Study, TrialRow

from .errors import Refused
from .plan_record import check_cautions, check_version, keep_honest, record

Stage = Literal["ask", "plan", "build", "run", "work_out", "show"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """Where a study stands: trials kept, void and planned, the stage, what is missing and the one most useful next act."""

    study: Study
    draft: Draft
    problems: tuple[Problem, ...]
    kept: int
    void: int
    planned: int
    stage: Stage
    missing: str
    next_act: str


def make_study(owned: Owned, *, study_id: UUID, title: str, draft: Draft, now: datetime, next_lesson: date | None = None) -> Study:
    """A new study under the id that the browser made. The same id again changes nothing and gives the first one."""
    title = title.strip()
    if not 1 <= len(title) <= 120:
        raise Refused("A study needs a title of 1 to 120 characters.", code="title_length", where="title")
    made = owned.session.exec(
        insert(Study)
        .values(  # type: ignore[call-overload]
            id=study_id,
            workspace_id=owned.workspace_id,
            title=title,
            draft=draft.model_dump(mode="json"),
            seed=zlib.crc32(study_id.bytes) >> 1,
            version=1,
            next_lesson=next_lesson,
            finished=False,
            created_at=now,
            changed_at=now,
        )
        .on_conflict_do_nothing()
        .returning(Study.id)
    )
    made.all()
    owned.session.commit()
    return owned.get(Study, study_id)


def change_study(
    owned: Owned,
    study_id: UUID,
    *,
    version: int,
    now: datetime,
    title: str | None = None,
    draft: Draft | None = None,
    finished: bool | None = None,
    next_lesson: date | Literal["clear"] | None = None,
) -> Study:
    """Change what is given. version: the one that was being edited. A change that is already there is not made twice."""
    study = owned.get(Study, study_id, lock=True)
    wanted: dict[str, Any] = {}
    if title is not None:
        if not 1 <= len(title.strip()) <= 120:
            raise Refused("A study needs a title of 1 to 120 characters.", code="title_length", where="title")
        wanted["title"] = title.strip()
    if draft is not None:
        wanted["draft"] = draft.model_dump(mode="json")
    if finished is not None:
        wanted["finished"] = finished
    if next_lesson is not None:
        wanted["next_lesson"] = None if next_lesson == "clear" else next_lesson
    changed = {k: v for k, v in wanted.items() if getattr(study, k) != v}
    if not changed:
        return study
    check_version(study, version, wanted)
    if "draft" in changed and draft is not None:
        record(owned, study, draft, with_trials=keep_honest(owned, study, draft), now=now)
    for key, value in changed.items():
        setattr(study, key, value)
    study.version += 1
    study.changed_at = now
    owned.session.add(study)
    owned.session.commit()
    return study


def open_run(owned: Owned, study_id: UUID, *, run_id: UUID, adult: str, ticked: list[str], now: datetime) -> Run:
    """Open a run once the adult in charge has ticked every caution. The same run_id again changes nothing."""
    study = owned.get(Study, study_id)
    known = owned.find(Run, run_id)
    if known is not None:
        return known
    draft = Draft.model_validate(study.draft)
    grave = [p for p in check(draft) if p.grave]
    if grave:
        raise Refused(f"The plan is not ready: {grave[0].says}", code="plan_not_ready", where=grave[0].where)
    check_cautions(draft, adult, ticked)
    owned.session.exec(
        insert(Run)
        .values(  # type: ignore[call-overload]
            id=run_id, workspace_id=owned.workspace_id, study_id=study_id, adult=adult.strip()[:80], cautions=ticked, opened_at=now
        )
        .on_conflict_do_nothing()
    )
    owned.session.commit()
    return owned.get(Run, run_id)


def last_run(owned: Owned, study_id: UUID) -> Run | None:
    """The run opened last, or None."""
    return owned.session.exec(owned.select(Run).where(Run.study_id == study_id).order_by(Run.opened_at.desc())).first()


def turns_of(study: Study) -> tuple[Turn, ...]:
    """The planned order; empty while the plan is not ready."""
    return planned_turns(Draft.model_validate(study.draft), study.seed)


def has_versions(owned: Owned, study_id: UUID) -> bool:
    """Whether any device of the study is written down."""
    return owned.session.exec(owned.select(DeviceVersion).where(DeviceVersion.study_id == study_id).limit(1)).first() is not None


def standing(owned: Owned, study: Study, counts: dict[str, int] | None = None) -> Standing:
    """Where one study stands."""
    draft = Draft.model_validate(study.draft)
    problems = check(draft)
    counts = _counts(owned, [study.id]).get(study.id, {}) if counts is None else counts
    kept, void = counts.get("kept", 0), counts.get("void", 0)
    grave = [p for p in problems if p.grave]
    planned = 0 if grave else len(draft.variable.levels) * draft.repeats
    stage: Stage
    if study.finished:
        stage, missing, act = "show", "", "Show the result"
    elif not draft.variable.name.strip() and not draft.measure.name.strip():
        stage, missing, act = "ask", "nothing is chosen yet", "Ask the class"
    elif grave:
        stage, missing, act = "plan", grave[0].says, "Go on planning"
    elif kept == 0 and draft.study_kind != "fair_test" and not has_versions(owned, study.id):
        stage, missing, act = "build", "no device is written down yet", "Write the devices down"
    elif kept == 0:
        stage, missing, act = "run", f"{planned} trials to run", "Start the run"
    elif kept < planned:
        stage, missing, act = "run", f"{planned - kept} of {planned} trials still to run", "Go on with the run"
    else:
        stage, missing, act = "work_out", "the verdict waits to be read", "Read the verdict"
    return Standing(
        study=study, draft=draft, problems=problems, kept=kept, void=void, planned=planned, stage=stage, missing=missing, next_act=act
    )


def _counts(owned: Owned, ids: list[UUID]) -> dict[UUID, dict[str, int]]:
    rows = owned.session.exec(
        select(TrialRow.study_id, TrialRow.state, func.count())
        .where(TrialRow.workspace_id == owned.workspace_id, TrialRow.study_id.in_(ids))
        .group_by(TrialRow.study_id, TrialRow.state)
    )  # type: ignore[attr-defined]
    found: dict[UUID, dict[str, int]] = {}
    for study_id, state, n in rows:
        found.setdefault(study_id, {})[state] = n
    return found


def home(owned: Owned) -> list[Standing]:
    """All studies, the next lesson's work first: by the day of the lesson, then work in the middle of its run, then the rest."""
    studies = owned.all(owned.select(Study))
    counts = _counts(owned, [s.id for s in studies])
    found = [standing(owned, s, counts.get(s.id, {})) for s in studies]
    rank = {"run": 0, "work_out": 1, "build": 2, "plan": 3, "ask": 4, "show": 5}
    return sorted(
        found,
        key=lambda s: (
            s.stage == "show",
            s.study.next_lesson is None,
            s.study.next_lesson or date.max,
            0 if 0 < s.kept < s.planned else 1,
            rank[s.stage],
            -s.study.changed_at.timestamp(),
        ),
    )
