"""Trials as they are run and mended, and readings as they are typed."""

from uuid import UUID

from fastapi import APIRouter

from bendro.actions import record, responses, trials
from bendro.actions.plans import plan_of
from bendro.actions.responses import Deriving
from bendro.actions.trials import TrialSeen
from bendro.core.measuring.derived import Worked
from bendro.core.record import ReadingRecord, TrialRecord
from bendro.core.statistics.describe import written_of
from bendro.store.owned import Owned
from bendro.store.tables import Event, Study

from .needs import Mine, Now
from .shapes import LookedOut, ReadingBody, ReadingSeenOut, TrialBody, TrialChangeOut, TrialOut, WorkedOut

router = APIRouter(prefix="/api", tags=["running"])
_SAME = ("id", "block", "level", "person", "device", "version", "specimen", "rung", "practice", "state", "fault", "note", "released_at", "revision")


def _out(seen: TrialSeen, work: Deriving | None) -> TrialOut:
    return TrialOut.model_validate(
        {
            **{k: seen.row[k] for k in _SAME},
            "group": seen.row["group_label"],
            "readings": [ReadingSeenOut.model_validate(r) for r in seen.readings],
            "derived": [] if work is None or seen.place == "outside" or seen.row["state"] != "kept" else _worked(seen, work),
            "conditions": dict(seen.conditions),
            "number": seen.number,
            "place": seen.place,
            "why": seen.why,
        }
    )


def _worked(seen: TrialSeen, work: Deriving) -> list[WorkedOut]:
    made = []
    for one, got in work.at(seen).items():
        if isinstance(got, Worked):
            made.append(WorkedOut(id=one, value=got.value, text=written_of(got.value, got.doubt + got.shared, got.kind, got.unit), says=""))
        else:
            made.append(WorkedOut(id=one, value=None, text="", says=got))
    return made


def _work(mine: Owned, study_id: UUID) -> Deriving | None:
    study = mine.get(Study, study_id)
    return responses.deriving(mine, study, plan_of(study))


@router.get("/studies/{study_id}/trials", operation_id="trials")
def all_trials(study_id: UUID, mine: Mine) -> list[TrialOut]:
    work = _work(mine, study_id)
    return [_out(t, work) for t in trials.study_trials(mine, study_id)]


@router.get("/studies/{study_id}/trials/taken-back", operation_id="taken_back")
def taken_back(study_id: UUID, mine: Mine) -> list[TrialOut]:
    return [_out(t, None) for t in trials.taken_back(mine, study_id)]


@router.put("/studies/{study_id}/trials/{trial_id}", operation_id="put_trial")
def put_trial(study_id: UUID, trial_id: UUID, body: TrialBody, mine: Mine, now: Now) -> TrialOut:
    kept = record.put_trial(mine, study_id, trial_id, TrialRecord.model_construct(**dict(body)), now=now)
    return _out(trials.one_trial(mine, study_id, kept, body.conditions), _work(mine, study_id))


@router.get("/studies/{study_id}/trials/{trial_id}/history", operation_id="trial_history")
def trial_history(study_id: UUID, trial_id: UUID, mine: Mine) -> list[TrialChangeOut]:
    return [_change(e) for e in trials.history_of(mine, study_id, trial_id)]


def _change(event: Event) -> TrialChangeOut:
    said = event.body
    return TrialChangeOut(
        revision=event.revision, received_at=event.received_at, readings=[ReadingRecord.model_validate(r) for r in said["readings"]],
        level=said["level"], block=said["block"], state=said["state"], fault=said["fault"], note=said["note"],
    )  # fmt: skip


@router.post("/studies/{study_id}/readings", operation_id="look_at_reading")
def look_at_reading(study_id: UUID, body: ReadingBody, mine: Mine) -> LookedOut:
    given = ReadingRecord.model_validate(body.model_dump(exclude={"besides"}))
    return LookedOut.model_validate(trials.look_at(mine, study_id, given, besides=body.besides))
