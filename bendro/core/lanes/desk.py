"""What the teacher should look at while the class runs, the most pressing first. Nothing here is about a child: groups, lanes, tablets."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal
from uuid import UUID

#: A tablet is told of when it has been silent for so long, in seconds; where it holds trials, sooner.
SILENT_S, SILENT_HOLDING_S = 90.0, 30.0
#: Of a lane's newest trials so many are looked at, and told of when so many are void.
NEWEST, VOIDS = 5, 2
#: A call is long when it takes so many times the pace, and this many seconds at least.
LONG_CALL, LONG_CALL_S = 3.0, 120.0
#: A group is behind when it has less than this part of what the others have, and they have so many.
SHARE, SHARE_FROM = 0.5, 2.0
#: A trial that was kept against a question stands in sight for so long, in seconds.
ASKED_S = 600.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Tried:
    """A trial as the desk sees it: label of its level, what was asked before it was kept."""

    lane: int
    group: str
    level: str
    void: bool
    fault: str
    asked: str
    released_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class Screen:
    """A lane's device. holds: trials that wait in it; called_since: since when it calls its turn, None where it calls none; away_since: since
    when nothing is heard of it."""

    id: UUID
    label: str
    lane: int
    called: str
    called_since: datetime | None
    away_since: datetime | None
    holds: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """code: what it is; says: the sentence; screen: whose turn can be handed on; lane: that can be opened or closed, 0 for none."""

    code: Literal["silent", "voids", "asked", "long_call", "behind"]
    says: str
    screen: UUID | None = None
    lane: int = 0


def minutes_said(seconds: float) -> str:
    """A while as it is spoken: "40 s", "3 min"."""
    return f"{round(seconds)} s" if seconds < 60 else f"{round(seconds / 60)} min"


def look_at(tried: Sequence[Tried], screens: Sequence[Screen], groups: Sequence[str], *, each_s: float, now: datetime) -> list[Look]:
    """What to look at. tried: in the order of release. groups: of the class. each_s: seconds of a trial at the pace so far."""
    return [*_silent(screens, now), *_long(screens, each_s, now), *_voids(tried), *_asked(tried, now), *_behind(tried, groups)]


def _silent(screens: Sequence[Screen], now: datetime) -> list[Look]:
    found = []
    for s in screens:
        if s.away_since is None:
            continue
        away = (now - s.away_since).total_seconds()
        if away < (SILENT_HOLDING_S if s.holds or s.called else SILENT_S):
            continue
        holds = f" and holds {s.holds} trial{'' if s.holds == 1 else 's'}. Nothing is lost: it sends them when it is back" if s.holds else ""
        called = f" It was called for {s.called}." if s.called else ""
        found.append(Look(code="silent", says=f"{s.label}’s tablet has been silent for {minutes_said(away)}{holds}.{called}", screen=s.id if s.called else None, lane=s.lane))
    return found


def _long(screens: Sequence[Screen], each_s: float, now: datetime) -> list[Look]:
    found = []
    for s in screens:
        if s.away_since is not None or s.called_since is None or not s.called:
            continue
        since = (now - s.called_since).total_seconds()
        if since > max(LONG_CALL_S, LONG_CALL * each_s):
            found.append(Look(code="long_call", says=f"{s.label} has called {s.called} for {minutes_said(since)}.", screen=s.id, lane=s.lane))
    return found


def _voids(tried: Sequence[Tried]) -> list[Look]:
    found = []
    for lane in sorted({t.lane for t in tried}):
        newest = [t for t in tried if t.lane == lane][-NEWEST:]
        void = [t for t in newest if t.void]
        if len(void) >= VOIDS:
            faults = list(dict.fromkeys(t.fault for t in void))
            found.append(Look(code="voids", says=f"Lane {lane}: {len(void)} of its last {len(newest)} trials were void ({'; '.join(faults[:2])}).", lane=lane))
    return found


def _asked(tried: Sequence[Tried], now: datetime) -> list[Look]:
    odd = [t for t in tried if t.asked and not t.void and (now - t.released_at).total_seconds() < ASKED_S]
    return [Look(code="asked", says=f"Lane {t.lane}, {', '.join(p for p in (t.group, t.level) if p)}: kept all the same. {t.asked}", lane=t.lane) for t in odd[-2:]]


def _behind(tried: Sequence[Tried], groups: Sequence[str]) -> list[Look]:
    kept = {g: sum(1 for t in tried if t.group == g and not t.void) for g in groups}
    found = []
    for g, n in kept.items():
        others = [m for o, m in kept.items() if o != g]
        mean = sum(others) / len(others) if others else 0.0
        if mean >= SHARE_FROM and n < SHARE * mean:
            found.append(Look(code="behind", says=f"{g} has {n or 'no'} trial{'' if n == 1 else 's'}; the others have {mean:.0f} on average."))
    return found
