"""Trials as they are run, and readings as they are typed."""

from uuid import UUID

from fastapi import APIRouter

from bendro.actions import trials
from bendro.actions.trials import TrialGiven, understand
from bendro.core.planning.draft import MeasureDraft
from bendro.store.tables import Study, TrialRow

from .needs import Mine, Now, Teacher
from .shapes import ReadingBody, ReadingOut, TrialBody, TrialOut

router = APIRouter(prefix="/api", tags=["running"])


def _out(row: TrialRow) -> TrialOut:
    fields = row.model_dump(exclude={"workspace_id", "study_id", "received_at"})
    return TrialOut.model_validate({**fields, "group": fields.pop("group_label")})


@router.get("/studies/{study_id}/trials", operation_id="trials")
def all_trials(study_id: UUID, mine: Mine) -> list[TrialOut]:
    mine.get(Study, study_id)
    return [_out(row) for row in trials.trials_of(mine, study_id)]


@router.put("/studies/{study_id}/trials/{trial_id}", operation_id="put_trial")
def put_trial(study_id: UUID, trial_id: UUID, body: TrialBody, mine: Mine, now: Now) -> TrialOut:
    return _out(trials.put_trial(mine, study_id, trial_id, TrialGiven(**body.model_dump()), now=now))


@router.post("/readings", operation_id="understand_reading")
def understand_reading(body: ReadingBody, _: Teacher) -> ReadingOut | None:
    measure = MeasureDraft(name="reading", quantity=body.quantity, unit=body.unit, step=body.step, signed=body.signed)
    found = understand(measure, [body.text])
    return None if found is None else ReadingOut.model_validate(found)
