"""Trials as they are run and mended, and readings as they are typed."""

from uuid import UUID

from fastapi import APIRouter

from bendro.actions import trials
from bendro.actions.trials import TrialGiven, TrialSeen
from bendro.store.tables import TrialEvent

from .needs import Mine, Now
from .shapes import LookedOut, ReadingBody, ReadingOut, TrialBody, TrialChangeOut, TrialOut

router = APIRouter(prefix="/api", tags=["running"])


def _out(seen: TrialSeen) -> TrialOut:
    row = seen.row
    return TrialOut.model_validate(
        {
            **row.model_dump(include={"id", "block", "level", "person", "device", "texts", "unit", "also_text", "also_unit", "behaviour"}),
            **row.model_dump(include={"state", "fault", "note", "released_at", "revision"}),
            "group": row.group_label,
            "reading": None if seen.reading is None else ReadingOut.model_validate(seen.reading),
            "also_reading": None if seen.also_reading is None else ReadingOut.model_validate(seen.also_reading),
            "number": seen.number,
            "place": seen.place,
            "why": seen.why,
        }
    )


@router.get("/studies/{study_id}/trials", operation_id="trials")
def all_trials(study_id: UUID, mine: Mine) -> list[TrialOut]:
    return [_out(t) for t in trials.study_trials(mine, study_id)]


@router.get("/studies/{study_id}/trials/taken-back", operation_id="taken_back")
def taken_back(study_id: UUID, mine: Mine) -> list[TrialOut]:
    return [_out(t) for t in trials.taken_back(mine, study_id)]


@router.put("/studies/{study_id}/trials/{trial_id}", operation_id="put_trial")
def put_trial(study_id: UUID, trial_id: UUID, body: TrialBody, mine: Mine, now: Now) -> TrialOut:
    row = trials.put_trial(mine, study_id, trial_id, TrialGiven(**body.model_dump()), now=now)
    return _out(trials.one_trial(mine, study_id, row))


@router.get("/studies/{study_id}/trials/{trial_id}/history", operation_id="trial_history")
def trial_history(study_id: UUID, trial_id: UUID, mine: Mine) -> list[TrialChangeOut]:
    return [_change(e) for e in trials.history_of(mine, study_id, trial_id)]


def _change(event: TrialEvent) -> TrialChangeOut:
    said = event.body
    return TrialChangeOut(
        revision=event.revision, received_at=event.received_at, texts=said["texts"], unit=said.get("unit", ""), also_text=said["also_text"],
        level=said["level"], block=said["block"], state=said["state"], fault=said["fault"], note=said["note"],
    )  # fmt: skip


@router.post("/studies/{study_id}/readings", operation_id="look_at_reading")
def look_at_reading(study_id: UUID, body: ReadingBody, mine: Mine) -> LookedOut:
    return LookedOut.model_validate(
        trials.look_at(mine, study_id, texts=body.texts, unit=body.unit, also=body.also, besides=body.besides)
    )
