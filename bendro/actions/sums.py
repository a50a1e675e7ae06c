"""A class's sums checked against the study's own readings, and what the verdict would be otherwise."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Literal
from uuid import UUID

from sqlmodel import col

from bendro.core.errors import CoreError
from bendro.core.judgement.pupil_sum import SumChecked, check_range, check_sum, check_worked
from bendro.core.measuring.derived import Worked
from bendro.core.measuring.taking import Taken, one_of
from bendro.core.record.given import Deriving, shown_levels
from bendro.store.owned import Owned
from bendro.store.tables import Event, Study

from .analysing import question_of
from .plans import plan_of
from .record import note_event
from .responses import deriving
from .trials import rows_of, seen_trials

About = Literal["mean", "range"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Answered:
    """One pupil's or group's number: of which level (its identity), about what, as it was written. who: the label of its row."""

    level: str
    about: About
    text: str
    who: str = ""


def check_sums(owned: Owned, study_id: UUID, answers: Sequence[Answered], *, response: str = "") -> list[SumChecked | str]:
    """Each answer marked: right, with the slip named, or a sentence where it is no number or the level has nothing kept. response: the
    measure or what is worked out, "" for the first measure. Raises Refused."""
    trials, asked = question_of(owned, study_id, response=response)
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    levels = shown_levels(draft)
    work = deriving(owned, study, draft)
    worked = work is not None and response in work.ready
    means = _worked_from_means(owned, study, work, response) if work is not None and worked else {}
    made: list[SumChecked | str] = []
    for one in answers:
        mine = [t for t in trials if t.level is not None and t.level == levels.get(one.level) and t.value is not None]
        kept = [t.value or 0.0 for t in mine if t.state == "kept"]
        try:
            if worked:
                made.append(check_worked(one.text, kept, means.get(one.level), unit=asked.unit or ""))
                continue
            step = min((t.resolution for t in mine if t.resolution and t.state == "kept"), default=0.01)
            check = check_sum if one.about == "mean" else check_range
            made.append(check(one.text, kept, [t.value or 0.0 for t in mine if t.state == "void"], step=step, unit=asked.unit or ""))
        except CoreError as why:
            made.append(why.says)
    return made


def _worked_from_means(owned: Owned, study: Study, work: Deriving, response: str) -> dict[str, float]:
    """What the plan works out, for each level (by its identity) from the means of its kept readings."""
    seen, _ = seen_trials(study, rows_of(owned, study.id))
    found: dict[str, float] = {}
    for level in {t.level for t in seen}:
        mine = [t for t in seen if t.counts and t.level == level]
        if not mine:
            continue
        taken: dict[tuple[str, int], list[Taken]] = {}
        for t in mine:
            for r in t.readings:
                if r.reading is not None:
                    taken.setdefault((r.measure, r.payload), []).append(r.reading)
        first = mine[0]
        averaged = tuple(
            r if r.reading is None else replace(r, reading=one_of(taken[r.measure, r.payload])) for r in first.readings
        )
        got = work.at(replace(first, readings=averaged)).get(response)
        if isinstance(got, Worked):
            found[level] = got.value
    return found


def keep_checked(owned: Owned, study_id: UUID, answers: Sequence[Answered], right: Sequence[bool], *, now: datetime) -> None:
    """How many of a class's sums were right when they were last checked, and in which groups of the plan some were not. A row with any
    other label stays unnamed: nothing about a pupil is kept. Raises NotFound."""
    study = owned.get(Study, study_id, lock="update")
    groups = [g.strip() for g in plan_of(study).groups]
    wrong = [g for g in groups if any(a.who.strip() == g and not ok for a, ok in zip(answers, right, strict=True))]
    last = last_checked(owned).get(study_id)
    body = {"right": sum(right), "of": len(right), "wrong": wrong}
    if last is not None and last.body == body:
        return
    note_event(owned, study_id, "sums", study_id, 1 if last is None else last.revision + 1, body, now=now)


def last_checked(owned: Owned) -> dict[UUID, Event]:
    """By study, the last time that its class's sums were checked."""
    return {e.study_id: e for e in owned.all(owned.select(Event).where(Event.kind == "sums").order_by(col(Event.id)))}
