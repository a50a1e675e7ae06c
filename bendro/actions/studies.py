"""Studies: make, plan, open a run, and where each stands."""

from __future__ import annotations

import zlib
from collections import OrderedDict
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from typing import Any, Literal
from uuid import UUID, uuid5

from sqlalchemy import text
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col

from bendro.core.draft import Draft
from bendro.core.errors import PlanRefused
from bendro.core.planning.plan import check
from bendro.core.planning.safety import RUN_HOURS, safety_mark
from bendro.core.planning.stock import Counts, Stock
from bendro.core.planning.upgrade import write_plan
from bendro.core.planning.usual import usual_plan
from bendro.core.problem import Problem
from bendro.store.owned import Owned
from bendro.store.tables import DeviceVersion, Run, Study

from .counting import counts_of
from .errors import Refused
from .plan_record import add_sign_off, check_cautions, check_version, keep_honest, record
from .plan_rows import write_plan_rows
from .plans import plan_of
from .record import note_event
from .trials import last_run, stocks_of

Stage = Literal["ask", "plan", "build", "run", "work_out", "show"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """Where a study stands: turns of the plan that a kept trial fills, void, extra and outside trials, the stage, what
    is missing and the one most useful next act. draft None: the plan cannot be read, and `missing` says why."""

    study: Study
    draft: Draft | None
    problems: tuple[Problem, ...]
    kept: int
    void: int
    extra: int
    outside: int
    planned: int
    stage: Stage
    missing: str
    next_act: str


def make_study(owned: Owned, *, study_id: UUID, title: str, draft: Draft, now: datetime, next_lesson: date | None = None) -> Study:
    """A new study under the id that the browser made. The same id again changes nothing and gives the first one."""
    add_study(owned, study_id=study_id, title=title, draft=draft, now=now, next_lesson=next_lesson)
    return owned.get(Study, study_id)


def add_study(
    owned: Owned, *, study_id: UUID, title: str, draft: Draft, now: datetime, next_lesson: date | None = None, seed: int | None = None
) -> bool:
    """As `make_study`; False when a study of this id was there already. seed: of its shuffled order, None for one of its own."""
    title = title.strip()
    if not 1 <= len(title) <= 120:
        raise Refused("A study needs a title of 1 to 120 characters.", code="title_length", where="title")
    made = owned.session.exec(
        insert(Study)
        .values(  # type: ignore[call-overload]
            id=study_id,
            workspace_id=owned.workspace_id,
            title=title,
            draft=write_plan(draft),
            seed=zlib.crc32(study_id.bytes) >> 1 if seed is None else seed,
            version=1,
            next_lesson=next_lesson,
            finished=False,
            created_at=now,
            changed_at=now,
        )
        .on_conflict_do_nothing()
        .returning(Study.id)
    )
    if made.first() is None:
        return False
    write_plan_rows(owned, owned.get(Study, study_id))
    return True


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
    archived: bool | None = None,
) -> Study:
    """Change what is given. version: the one that was being edited. A change that is already there is not made twice."""
    study = owned.get(Study, study_id, lock="update")
    wanted: dict[str, Any] = {}
    if title is not None:
        if not 1 <= len(title.strip()) <= 120:
            raise Refused("A study needs a title of 1 to 120 characters.", code="title_length", where="title")
        wanted["title"] = title.strip()
    if draft is not None:
        wanted["draft"] = write_plan(draft)
    if finished is not None:
        wanted["finished"] = finished
    if archived is not None:
        wanted["archived"] = archived
    if next_lesson is not None:
        wanted["next_lesson"] = None if next_lesson == "clear" else next_lesson
    changed = {k: v for k, v in wanted.items() if getattr(study, k) != v}
    if not changed:
        return study
    check_version(study, version, wanted)
    before = study.draft
    if "draft" in changed and draft is not None:
        record(owned, study, draft, with_trials=keep_honest(owned, study, draft), now=now)
    for key, value in changed.items():
        setattr(study, key, value)
    if "draft" in changed:
        write_plan_rows(owned, study, before=before)
    study.version += 1
    study.changed_at = now
    owned.session.add(study)
    note_event(owned, study_id, "plan", study_id, study.version, {"changed": sorted(changed)}, now=now)
    return study


#: So long a study that was thrown away can be taken back.
DAYS_TO_TAKE_BACK = 30


def throw_away(owned: Owned, study_id: UUID, *, now: datetime) -> Study:
    """Throw a study away: it is out of sight, and gone for good after thirty days. Doing it again changes nothing."""
    study = owned.get(Study, study_id, lock="update")
    if study.deleted_at is None:
        study.deleted_at = now
        owned.session.add(study)
        note_event(owned, study_id, "thrown_away", study_id, study.version, {"title": study.title}, now=now)
    return study


def take_back(owned: Owned, study_id: UUID) -> Study:
    """A study that was thrown away is as it was. Doing it again changes nothing."""
    study = owned.get(Study, study_id, lock="update")
    if study.deleted_at is not None:
        study.deleted_at = None
        owned.session.add(study)
    return study


def thrown_away(owned: Owned, *, now: datetime) -> list[Study]:
    """Studies that can still be taken back, the newest first. Those whose thirty days are over are gone for good now."""
    over = now - timedelta(days=DAYS_TO_TAKE_BACK)
    for study in owned.all(owned.select(Study).where(col(Study.deleted_at) < over)):
        owned.session.delete(study)
    return owned.all(owned.select(Study).where(col(Study.deleted_at).is_not(None)).order_by(col(Study.deleted_at).desc()))


def usual_study(owned: Owned, *, study_id: UUID, family_id: str, test_id: str, class_label: str, groups: list[str], now: datetime) -> Study:
    """A new study from one of the family's usual tests. Raises Refused `test_unknown`, PlanRefused `family_unknown`."""
    draft = usual_plan(family_id, test_id)
    if draft is None:
        raise Refused("The family has no such test. Choose one from Home.", code="test_unknown", where="test")
    made = draft.model_copy(update={"class_label": class_label.strip()[:60], "groups": [g.strip() for g in groups if g.strip()]})
    return make_study(owned, study_id=study_id, title=draft.question, draft=made, now=now)


def open_run(owned: Owned, study_id: UUID, *, run_id: UUID, adult: str, ticked: list[str], now: datetime, mark: str = "") -> Run:
    """Open a run once the adult in charge has ticked every caution; that signs the plan off as well. mark: of the plan that was
    read, "" for the plan as it stands. The same run_id again changes nothing."""
    study = owned.get(Study, study_id)
    known = owned.find(Run, run_id)
    if known is not None:
        if known.study_id != study_id:
            raise Refused("This run belongs to another study.", code="run_elsewhere")
        return known
    draft = plan_of(study)
    grave = [p for p in check(draft) if p.grave]
    if grave:
        raise Refused(f"The plan is not ready: {grave[0].says}", code="plan_not_ready", where=grave[0].where)
    check_cautions(draft, adult, ticked)
    before = last_run(owned, study_id)
    if study.instrument_code and (before is None or before.opened_at + timedelta(hours=RUN_HOURS) < now):
        study.instrument_code = None  # another lesson: whoever knows the code of the last one sends to nobody
        owned.session.add(study)
    read = mark or safety_mark(draft)
    owned.session.exec(
        insert(Run)
        .values(
            id=run_id, workspace_id=owned.workspace_id, study_id=study_id, adult=adult.strip()[:80], cautions=ticked, mark=read, opened_at=now
        )
        .on_conflict_do_nothing()
    )
    note_event(owned, study_id, "run", run_id, 1, {"adult": adult.strip()[:80]}, now=now)
    add_sign_off(owned, study_id, sign_off_id=uuid5(run_id, "sign-off"), adult=adult, ticked=ticked, mark=read, now=now)
    return owned.get(Run, run_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class RunSeen:
    """The run opened last. covers: the plan stands as it was read then. open_until: the cautions are read again after this."""

    run: Run
    covers: bool
    open_until: datetime


def run_of(owned: Owned, study: Study, draft: Draft) -> RunSeen | None:
    """The run opened last, or None."""
    run = last_run(owned, study.id)
    if run is None:
        return None
    return RunSeen(run=run, covers=run.mark == safety_mark(draft), open_until=run.opened_at + timedelta(hours=RUN_HOURS))


def has_versions(owned: Owned, study_id: UUID) -> bool:
    """Whether any device of the study is written down."""
    return owned.first(owned.select(DeviceVersion).where(DeviceVersion.study_id == study_id).limit(1)) is not None


def standing(owned: Owned, study: Study, stock: Stock | None = None) -> Standing:
    """Where one study stands. stock: of its plan, where it is known already. Raises PlanRefused for a plan that cannot be read."""
    draft = plan_of(study)
    return _standing(owned, study, draft, (stock or stocks_of(owned, [(study, draft)])[study.id]).counts)


def _standing(owned: Owned, study: Study, draft: Draft, done: Counts) -> Standing:
    problems = check(draft)
    grave = [p for p in problems if p.grave]
    planned, kept = done.planned, done.filled
    stage: Stage
    if study.finished:
        stage, missing, act = "show", "", "Show the result"
    elif not draft.variable.name.strip() and not draft.measure.name.strip():
        stage, missing, act = "ask", "nothing is chosen yet", "Ask the class"
    elif grave and not (planned and kept == planned):  # what is all run can be worked out, whatever its limits say
        stage, missing, act = "plan", grave[0].says, "Go on planning"
    elif kept == 0 and draft.study_kind != "fair_test" and not has_versions(owned, study.id):
        stage, missing, act = "build", "no device is written down yet", "Write the devices down"
    elif kept == 0:
        stage, missing, act = "run", f"{planned} trials to run", "Start the run"
    elif kept < planned:
        stage, missing, act = "run", f"{planned - kept} of {planned} trials still to run", "Go on with the run"
    else:
        stage, missing, act = "work_out", "the verdict is ready", "Read the verdict"
    return Standing(
        study=study,
        draft=draft,
        problems=problems,
        kept=kept,
        void=done.void,
        extra=done.extra,
        outside=done.outside,
        planned=planned,
        stage=stage,
        missing=missing,
        next_act=act,
    )


def _unreadable(study: Study, why: PlanRefused) -> Standing:
    """A study whose plan cannot be read stands by itself; the others are not in its way."""
    return Standing(
        study=study, draft=None, problems=(), kept=0, void=0, extra=0, outside=0, planned=0, stage="plan",
        missing=why.says, next_act="Take its plan out as a file",
    )  # fmt: skip


class _Remembered(OrderedDict[object, "Standing"]):
    """Where studies stand, by their state; the oldest go first. Several calls may use it at once: each step is one of the dictionary's."""

    def __setitem__(self, state: object, stands: Standing) -> None:
        super().__setitem__(state, replace(stands, study=None))  # type: ignore[arg-type]  # a row belongs to its session
        while len(self) > STATES_REMEMBERED:
            self.popitem(last=False)


STATES_REMEMBERED = 5_000
_STANDS = _Remembered()


#: Of each study by itself, through its index: what the other schools of a district have written is not looked at.
_NEWEST = text(
    "select s.id, e.newest, e.many from unnest(cast(:studies as uuid[])) s (id)"
    " cross join lateral (select max(id) as newest, count(*) as many from event where event.study_id = s.id) e where e.many > 0"
)


def home(owned: Owned) -> list[Standing]:
    """All studies, the next lesson's work first: by the day of the lesson, then work in the middle of its run, then the rest."""
    readable: list[tuple[Study, Draft]] = []
    found: list[Standing] = []
    studies = owned.all(owned.select(Study).where(col(Study.deleted_at).is_(None)))
    # newest number and how many: of two saves at one moment the one with the lower number may be committed second
    last = {study_id: (newest, many) for study_id, newest, many in owned.session.execute(_NEWEST, {"studies": [s.id for s in studies]}).all()}
    states: dict[UUID, object] = {}
    for study in studies:
        states[study.id] = state = (study.id, study.version, last.get(study.id), hash(str(study.draft)))
        held = _STANDS.get(state)
        if held is not None:
            found.append(replace(held, study=study))
            continue
        try:
            readable.append((study, plan_of(study)))
        except PlanRefused as why:
            found.append(_unreadable(study, why))
    counts = counts_of(owned, readable) if readable else {}
    for study, draft in readable:
        stands = _standing(owned, study, draft, counts[study.id])
        found.append(stands)
        _STANDS[states[study.id]] = stands
    rank = {"run": 0, "work_out": 1, "build": 2, "plan": 3, "ask": 4, "show": 5}
    return sorted(
        found,
        key=lambda s: (
            s.draft is None,
            s.stage == "show",
            s.study.next_lesson is None,
            s.study.next_lesson or date.max,
            0 if 0 < s.kept < s.planned else 1,
            rank[s.stage],
            -s.study.changed_at.timestamp(),
        ),
    )
