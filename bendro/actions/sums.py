"""A class's sums checked against the study's own readings, and what the verdict would be otherwise."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal
from uuid import UUID

from sqlmodel import col

from bendro.core.errors import CoreError
from bendro.core.judgement.pupil_sum import SumChecked, check_range, check_sum
from bendro.store.owned import Owned
from bendro.store.tables import Event, Study

from .analysing import question_of
from .plans import plan_of
from .record import note_event
from .responses import levels_by_id

About = Literal["mean", "range"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Answered:
    """One pupil's or group's number: of which level (its identity), about what, as it was written."""

    level: str
    about: About
    text: str


def check_sums(owned: Owned, study_id: UUID, answers: Sequence[Answered], *, response: str = "") -> list[SumChecked | str]:
    """Each answer marked: right, with the slip named, or a sentence where it is no number or the level has nothing kept. Raises Refused."""
    trials, _ = question_of(owned, study_id, response=response)
    levels = levels_by_id(plan_of(owned.get(Study, study_id)))
    made: list[SumChecked | str] = []
    for one in answers:
        mine = [t for t in trials if t.level is not None and t.level == levels.get(one.level) and t.value is not None]
        kept = [t for t in mine if t.state == "kept"]
        step = min((t.resolution for t in kept if t.resolution), default=0.01)
        check = check_sum if one.about == "mean" else check_range
        try:
            made.append(check(one.text, [t.value or 0.0 for t in kept], [t.value or 0.0 for t in mine if t.state == "void"], step=step))
        except CoreError as why:
            made.append(why.says)
    return made


def keep_checked(owned: Owned, study_id: UUID, *, right: int, of: int, now: datetime) -> None:
    """How many of a class's sums were right when they were last checked. Raises NotFound."""
    owned.get(Study, study_id, lock="update")
    last = last_checked(owned).get(study_id)
    body = {"right": right, "of": of}
    if last is not None and last.body == body:
        return
    note_event(owned, study_id, "sums", study_id, 1 if last is None else last.revision + 1, body, now=now)
    owned.session.commit()


def last_checked(owned: Owned) -> dict[UUID, Event]:
    """By study, the last time that its class's sums were checked."""
    return {e.study_id: e for e in owned.all(owned.select(Event).where(Event.kind == "sums").order_by(col(Event.id)))}
