"""The screens of a class as they are now: what each calls, hands on and times; and the teacher's desk."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from fastapi import APIRouter

from bendro.actions import desk as desks
from bendro.actions import lane_words, screens
from bendro.actions.screens import AsNow, Here
from bendro.core.rights import only_own
from bendro.store.tables import LaneWord

from .needs import Mine, Now, Teacher
from .shapes_now import DeskOut, HandBody, LaneBody, LanesBody, PressBody, PressOut, ScreenBody, ScreensOut
from .shapes_study import LanesOut

router = APIRouter(prefix="/api", tags=["lanes"])


def _here(me: Teacher) -> Here:
    return Here(role=me.role, label=me.shown_name if me.role != "teacher" else "the teacher", own=me.shown_name if only_own(me.role, "put_trial") else None)


def _out(found: AsNow, now: datetime) -> ScreensOut:
    return ScreensOut.model_validate(
        {
            "screens": [screens.screen_document(s, now=now) for s in found.screens],
            "presses": [p.model_dump(exclude={"workspace_id", "study_id"}) for p in found.presses],
            "granted": found.granted,
        }
    )


def lanes_out(word: LaneWord | None) -> LanesOut:
    """What is said to the lanes, as every page has it."""
    return LanesOut() if word is None else LanesOut(stopped=word.stopped, said=word.said, shut=word.shut or {}, last_from=word.last_from)


@router.get("/studies/{study_id}/screens", operation_id="screens")
def all_screens(study_id: UUID, mine: Mine, now: Now) -> ScreensOut:
    """Every screen that is or was here in this lesson, and what further phones timed."""
    return _out(screens.now_of(mine, study_id, now=now), now)


@router.put("/studies/{study_id}/screens/{screen_id}", operation_id="say_screen")
def say_screen(study_id: UUID, screen_id: UUID, body: ScreenBody, me: Teacher, mine: Mine, now: Now) -> ScreensOut:
    """What this screen does now. Its turns are its own from then on, unless another called them: then granted is false."""
    return _out(screens.put_screen(mine, study_id, screen_id, body, _here(me), now=now), now)


@router.delete("/studies/{study_id}/screens/{screen_id}", operation_id="leave_screen", status_code=204)
def leave_screen(study_id: UUID, screen_id: UUID, mine: Mine, now: Now) -> None:
    """The page was left."""
    screens.leave_screen(mine, study_id, screen_id, now=now)


@router.post("/studies/{study_id}/screens/{screen_id}/hand", operation_id="hand_on")
def hand_on(study_id: UUID, screen_id: UUID, body: HandBody, me: Teacher, mine: Mine, now: Now) -> ScreensOut:
    """Hand what a screen calls to another one, with what is half typed; to nobody: to whoever is next."""
    return _out(screens.hand_on(mine, study_id, screen_id, body.to, _here(me), now=now), now)


@router.put("/studies/{study_id}/falls/{fall_id}/presses/{screen_id}", operation_id="press")
def press(study_id: UUID, fall_id: UUID, screen_id: UUID, body: PressBody, mine: Mine, now: Now) -> PressOut:
    """What a further phone timed of a fall, or that it did not see it."""
    return PressOut.model_validate(screens.put_press(mine, study_id, fall_id, screen_id, body, now=now).model_dump(exclude={"workspace_id", "study_id"}))


@router.put("/studies/{study_id}/lanes", operation_id="tell_lanes")
def tell_lanes(study_id: UUID, body: LanesBody, mine: Mine, now: Now) -> LanesOut:
    """Stop every lane, lift it, say a line to all of them, or call the last trial of each."""
    return lanes_out(lane_words.tell_lanes(mine, study_id, stopped=body.stopped, said=body.said, last=body.last, now=now))


@router.put("/studies/{study_id}/lanes/{lane}", operation_id="set_lane")
def set_lane(study_id: UUID, lane: int, body: LaneBody, mine: Mine, now: Now) -> LanesOut:
    """Open, pause or close one lane."""
    return lanes_out(lane_words.set_lane(mine, study_id, max(1, min(lane, 24)), state=body.state, why=body.why, now=now))


@router.get("/studies/{study_id}/desk", operation_id="desk")
def desk(study_id: UUID, mine: Mine, now: Now) -> DeskOut:
    """The lesson as it goes: what to look at, and when the last trial will be in."""
    return DeskOut.model_validate(desks.desk(mine, study_id, now=now))
