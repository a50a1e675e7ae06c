"""Families, studies and their plans."""

from datetime import timedelta
from uuid import UUID

from fastapi import APIRouter, Request, Response
from pydantic import TypeAdapter

from bendro.actions import copying, lane_words, lesson, plan_record, studies, trials
from bendro.actions.analysing import newest_event, state_of
from bendro.actions.instruments import thumbs_of
from bendro.actions.plans import plan_of
from bendro.actions.studies import Standing
from bendro.core.conclusion.as_run import line_of
from bendro.core.draft import Draft
from bendro.core.families import Family, families
from bendro.core.measuring.heard import heard_by, instruments_for
from bendro.core.physics.calculators import CALCULATORS
from bendro.core.planning.choices import label_of
from bendro.core.planning.ideas import DROP_HEIGHT, holds, how_held, kept_same
from bendro.core.planning.outlook import roles_of
from bendro.core.planning.plan import planned_levels, unreadable
from bendro.core.planning.safety import cautions_of, check_safety, drop_heights, limits_in_words, safety_mark
from bendro.core.record.ladders import on_rungs
from bendro.core.record.responses import factors_of, responses_of
from bendro.core.words import said
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .constant import Constant
from .needs import Mine, Now, Teacher
from .screens import lanes_out
from .shapes import CalculatorInputOut, CalculatorOut, ProblemOut
from .shapes_lane import TurnOut
from .shapes_study import (
    CopyBody,
    FactorOut,
    HeldOut,
    LevelOut,
    NewStudyBody,
    PlanChangeOut,
    PlanFormBody,
    ResponseOut,
    RunBody,
    SignOffBody,
    StudyLine,
    StudyOut,
    StudyPatch,
    ThrownAwayOut,
    UndoBody,
    UsualBody,
)
from .told import told

router = APIRouter(prefix="/api", tags=["planning"])


def _line(s: Standing) -> dict[str, object]:
    return {
        "id": s.study.id,
        "title": s.study.title,
        "question": s.draft.question if s.draft else "",
        "family": s.draft.family if s.draft else "",
        "stage": s.stage,
        "kept": s.kept,
        "void": s.void,
        "extra": s.extra,
        "outside": s.outside,
        "planned": s.planned,
        "readable": s.draft is not None,
        "missing": s.missing,
        "next_act": s.next_act,
        "next_lesson": s.study.next_lesson,
        "class_label": s.draft.class_label if s.draft else "",
        "year": s.draft.year if s.draft else "",
        "archived": s.study.archived,
        "groups": len(s.draft.groups) if s.draft else 0,
        "version": s.study.version,
    }


def held_out(draft: Draft) -> list[HeldOut]:
    """What is held, as it is asked about at the lane: what is kept the same, and the one height of the drops."""
    named = {said(k.name) for k in kept_same(draft) if k.how}
    found = [h for h in holds(draft) if how_held(h) and (said(h.name) in named or (said(h.name) == DROP_HEIGHT and draft.drop is not None))]
    return [HeldOut(name=" ".join(h.name.split()), how=how_held(h), value=h.value, tolerance=h.tolerance) for h in found]


def study_out(owned: Owned, study: Study) -> StudyOut:
    """A whole study as the interface needs it. Raises PlanRefused for a plan that cannot be read."""
    draft = plan_of(study)
    seen, stock = trials.seen_trials(study, trials.rows_of(owned, study.id))
    s = studies.standing(owned, study, stock)
    run = studies.run_of(owned, study, draft)
    signed, covers = plan_record.last_sign_off(owned, study)
    return StudyOut.model_validate(
        {
            **_line(s),
            "draft": draft,
            "problems": [ProblemOut.model_validate(p) for p in s.problems],
            "levels": []
            if unreadable(draft)
            else [LevelOut(id=p.id, text=p.text, label=p.label) for p in planned_levels(draft)],
            "turns": [TurnOut.model_validate(t) for t in lesson.turns_called(owned, study)],
            "roles": roles_of(draft),
            "timing": trials.timing_of(draft, seen, list(thumbs_of(owned, study.id).values())) if draft.measure.timed else "",
            "usual": {} if unreadable(draft) else trials.usual_of(draft, seen),
            "responses": [ResponseOut.model_validate(r) for r in responses_of(draft)],
            "factors": [FactorOut.model_validate(f) for f in factors_of(draft, seen)],
            "rungs": drop_heights(draft) if on_rungs(draft) and not unreadable(draft) and not check_safety(draft) else [],
            "cautions": cautions_of(draft),
            "limits_said": limits_in_words(draft),
            "held_said": held_out(draft),
            "line_said": line_of(draft),
            "survival_said": label_of("survival", draft.survival, "") if draft.survival else "",
            "instruments": instruments_for(heard_by(draft).quantity),
            "lanes": lanes_out(lane_words.word_of(owned, study.id)),
            "newest": newest_event(owned, study.id),
            "safety_mark": safety_mark(draft),
            "run": None
            if run is None
            else {
                "id": run.run.id, "adult": run.run.adult, "cautions": run.run.cautions, "opened_at": run.run.opened_at, "open_until": run.open_until, "covers": run.covers
            },
            "sign_off": None
            if signed is None
            else {"id": signed.id, "adult": signed.adult, "signed_at": signed.signed_at, "covers": covers},
            "finished": study.finished,
            "changed_at": study.changed_at,
        }
    )  # fmt: skip


_FAMILIES = Constant(lambda: TypeAdapter(list[Family]).dump_json(list(families())))


@router.get("/families", operation_id="families", response_model=list[Family])
def all_families(_: Teacher, request: Request) -> Response:
    return _FAMILIES.answer(request)


@router.get("/studies", operation_id="home")
def home(mine: Mine) -> list[StudyLine]:
    return [StudyLine.model_validate(_line(s)) for s in studies.home(mine)]


@router.post("/studies", operation_id="make_study", status_code=201)
def make_study(body: NewStudyBody, mine: Mine, now: Now) -> StudyOut:
    return study_out(mine, studies.make_study(mine, study_id=body.id, title=body.title, draft=body.draft, now=now))


@router.post("/studies/usual", operation_id="usual_study", status_code=201)
def usual_study(body: UsualBody, mine: Mine, now: Now) -> StudyOut:
    made = studies.usual_study(
        mine, study_id=body.id, family_id=body.family, test_id=body.test, class_label=body.class_label, groups=body.groups, now=now
    )
    return study_out(mine, made)


@router.get("/studies/thrown-away", operation_id="thrown_away")
def thrown_away(mine: Mine, now: Now) -> list[ThrownAwayOut]:
    kept = timedelta(days=studies.DAYS_TO_TAKE_BACK)
    return [ThrownAwayOut(id=s.id, title=s.title, until=(s.deleted_at + kept).date()) for s in studies.thrown_away(mine, now=now) if s.deleted_at]


@router.delete("/studies/{study_id}", operation_id="throw_away", status_code=204)
def throw_away(study_id: UUID, mine: Mine, now: Now) -> None:
    studies.throw_away(mine, study_id, now=now)


@router.post("/studies/{study_id}/take-back", operation_id="take_back", status_code=204)
def take_back(study_id: UUID, mine: Mine) -> None:
    studies.take_back(mine, study_id)


@router.get("/calculators", operation_id="calculators", response_model=list[CalculatorOut])
def all_calculators(_: Teacher, request: Request) -> Response:
    return _CALCULATORS.answer(request)


def _calculators() -> list[CalculatorOut]:
    return [
        CalculatorOut(
            id=c.id, title=c.title, outputs=list(c.outputs), one_of=list(c.one_of),
            inputs=[CalculatorInputOut(name=i.name, quantity=i.quantity, unit=i.unit, optional=i.optional or i.default is not None) for i in c.inputs],
        )
        for c in CALCULATORS.values()
        if not c.lists and not c.choices
    ]  # fmt: skip


_CALCULATORS = Constant(lambda: TypeAdapter(list[CalculatorOut]).dump_json(_calculators()))


@router.get("/studies/{study_id}", operation_id="study", response_model=StudyOut)
def one_study(study_id: UUID, mine: Mine) -> Response:
    word = lane_words.word_of(mine, study_id)
    state = ("study", *state_of(mine, study_id), 0 if word is None else word.revision)
    made = told.answer(state, mine, lambda: study_out(mine, mine.get(Study, study_id)).model_dump_json().encode())
    return Response(made, media_type="application/json")


@router.patch("/studies/{study_id}", operation_id="change_study")
def change_study(study_id: UUID, body: StudyPatch, mine: Mine, now: Now) -> StudyOut:
    given = {name: getattr(body, name) for name in body.model_fields_set - {"version"}}
    return study_out(mine, studies.change_study(mine, study_id, version=body.version, now=now, **given))


@router.post("/studies/{study_id}/runs", operation_id="open_run", status_code=201)
def open_run(study_id: UUID, body: RunBody, mine: Mine, now: Now) -> StudyOut:
    studies.open_run(mine, study_id, run_id=body.id, adult=body.adult, ticked=body.cautions, mark=body.mark, now=now)
    return study_out(mine, mine.get(Study, study_id))


@router.post("/studies/{study_id}/sign-off", operation_id="sign_off", status_code=201)
def sign_off(study_id: UUID, body: SignOffBody, mine: Mine, now: Now) -> StudyOut:
    plan_record.sign_off(mine, study_id, sign_off_id=body.id, adult=body.adult, ticked=body.cautions, now=now)
    return study_out(mine, mine.get(Study, study_id))


@router.get("/studies/{study_id}/changes", operation_id="plan_changes")
def plan_changes(study_id: UUID, mine: Mine) -> list[PlanChangeOut]:
    return [PlanChangeOut.model_validate(c) for c in plan_record.changes_of(mine, study_id)]


@router.post("/studies/{study_id}/undo", operation_id="undo_plan")
def undo_plan(study_id: UUID, body: UndoBody, mine: Mine, now: Now) -> StudyOut:
    return study_out(mine, plan_record.undo_plan(mine, study_id, version=body.version, now=now))


@router.post("/studies/{study_id}/copy", operation_id="copy_study", status_code=201)
def copy_study(study_id: UUID, body: CopyBody, mine: Mine, now: Now) -> StudyOut:
    return study_out(mine, copying.copy_study(mine, study_id, copy_id=body.id, title=body.title, groups=body.groups, class_label=body.class_label, now=now))


@router.get("/studies/{study_id}/plan.json", operation_id="plan_form")
def plan_form(study_id: UUID, mine: Mine, response: Response) -> dict[str, object]:
    response.headers["Content-Disposition"] = f'attachment; filename="plan-{str(study_id)[:8]}.json"'
    return copying.plan_form(mine, study_id)


@router.post("/plans", operation_id="study_from_plan", status_code=201)
def study_from_plan(body: PlanFormBody, mine: Mine, now: Now) -> StudyOut:
    return study_out(mine, copying.study_from_form(mine, body.text, study_id=body.id, title=body.title, now=now))
