"""The teacher's desk: the lesson as it goes, what to look at, and when the last trial will be in."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID

from sqlmodel import col

from bendro.core.draft import Draft
from bendro.core.lanes.desk import Look, Screen, Tried, look_at
from bendro.core.lanes.pace import Forecast, forecast, lesson_window
from bendro.core.planning.outlook import seconds_of_trial
from bendro.core.planning.plan import planned_levels
from bendro.core.rights import may
from bendro.store.owned import Owned
from bendro.store.tables import Joining, Run, ScreenRow, Study

from . import screens
from .lane_words import word_of
from .lesson import turns_called
from .plans import plan_of
from .seats import role_named
from .trials import rows_of, seen_trials


@dataclass(frozen=True, slots=True, kw_only=True)
class Desk:
    """begins, ends: of the lesson as it is run; last_call: when the lanes should let go for the last time, so that all is tidied by the end."""

    begins: datetime
    ends: datetime
    last_call: datetime
    forecast: Forecast
    look: Sequence[Look]


def desk(owned: Owned, study_id: UUID, *, now: datetime) -> Desk:
    """The desk as it is now. Raises NotFound, PlanRefused."""
    study = owned.get(Study, study_id)
    draft = plan_of(study)
    seen, stock = seen_trials(study, rows_of(owned, study_id))
    turns = turns_called(owned, study)
    lane_of = {(t.block, t.level): max(1, t.lane) for t in turns}
    label = {p.id: p.label for p in planned_levels(draft)}
    begins, ends = _lesson(owned, study_id, draft, now)
    fresh = [t for t in seen if not t.practice and t.place != "outside" and t.state != "withdrawn" and _time(t.released_at) >= begins - timedelta(minutes=5)]
    tried = [
        Tried(
            lane=lane_of.get((t.block, t.level), 1), group=t.group, level=label.get(t.level, t.level), void=t.state == "void", fault=t.fault,
            asked=t.answered[0] if t.answered else "", released_at=_time(t.released_at),
        )
        for t in fresh
    ]  # fmt: skip
    filled = set(stock.filled_by)
    left = Counter(max(1, t.lane) for t in turns if (t.block, t.level) not in filled)
    every = {lane: left[lane] for lane in sorted({max(1, t.lane) for t in turns})}
    word = word_of(owned, study_id)
    closed = frozenset(int(n) for n in (word.shut if word else {}))
    made = forecast(
        {lane: [t.released_at for t in tried if t.lane == lane] for lane in every}, every, kept=len(filled), planned=len(turns),
        plan_s=max(1.0, seconds_of_trial(draft)), closed=closed, now=now,
    )  # fmt: skip
    lanes_of = screens.now_of(owned, study_id, now=now).screens
    found = look_at(tried, [_screen(s, label, now) for s in lanes_of if may(role_named(s.role), "put_trial")], [g.strip() for g in draft.groups if g.strip()], each_s=made.each_s, now=now)
    return Desk(begins=begins, ends=ends, last_call=ends - timedelta(minutes=draft.rota.tidy_min), forecast=made, look=found)


def _screen(row: ScreenRow, label: dict[str, str], now: datetime) -> Screen:
    return Screen(
        id=row.id, label=row.label, lane=row.lane, called=", ".join(label.get(level, level) for _, level in row.turns), called_since=row.since if row.turns else None,
        away_since=screens.away_since(row, now=now), holds=row.holds,
    )  # fmt: skip


def _time(released: datetime | str) -> datetime:
    return released if isinstance(released, datetime) else datetime.fromisoformat(released)


def _lesson(owned: Owned, study_id: UUID, draft: Draft, now: datetime) -> tuple[datetime, datetime]:
    day = now - timedelta(hours=12)
    run = owned.first(owned.select(Run).where(Run.study_id == study_id, Run.opened_at > day).order_by(Run.opened_at))
    opened = owned.first(owned.select(Joining).where(Joining.study_id == study_id, Joining.opened_at > day).order_by(col(Joining.opened_at).desc()))
    return lesson_window(
        None if run is None else run.opened_at, None if opened is None else opened.opened_at,
        until=None if opened is None or opened.closed_at is not None else opened.until, minutes=draft.rota.lesson_min, now=now,
    )  # fmt: skip
