"""The screens of a class as they are now: which turn each calls, what is being timed, and what further phones timed of it. None of it is a
record; each change is told to every other screen by the statement that writes it."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID

from sqlalchemy import text

from bendro.core.lanes.now import Pressed, ScreenNow, TurnOf
from bendro.core.measuring.clocks import clock_doubt, timed
from bendro.core.planning.plan import planned_turns
from bendro.core.rights import Role, may, only_own
from bendro.store.errors import NotFound
from bendro.store.owned import Owned
from bendro.store.tables import Press, ScreenRow, Study

from .errors import NotAllowed
from .plans import plan_of
from .record import WHOLE_CLASS
from .seats import role_named

#: A screen of which nothing was heard for so long is away, though nobody saw it go (its server process died), in seconds.
UNHEARD_S = 75
#: A turn is claimed for so long after the last sign of life at it, and by a screen that is away for so long, in seconds.
CLAIM_S, CLAIM_AWAY_S = 300, 20
#: What was here so long ago is forgotten.
FORGET = timedelta(hours=20)
#: A word that is told is shorter than PostgreSQL's 8,000 bytes; what is half typed is then read with the list.
MOST_TOLD = 7_000

_PUT = text("""
insert into screen (id, workspace_id, study_id, by, role, label, lane, doing, turns, half, holds, fall, released_at, doubt_s, handed, since, seen_at, away_at)
values (:id, :workspace_id, :study_id, :by, :role, :label, :lane, :doing, cast(:turns as jsonb), cast(:half as jsonb), :holds, :fall, :released_at, :doubt_s, '', :now, :now, null)
on conflict (id) do update set study_id = excluded.study_id, role = excluded.role, label = excluded.label, lane = excluded.lane, doing = excluded.doing,
 turns = excluded.turns, half = excluded.half, holds = excluded.holds, fall = excluded.fall, released_at = excluded.released_at, doubt_s = excluded.doubt_s,
 since = case when (screen.doing, screen.turns) is distinct from (excluded.doing, excluded.turns) then excluded.since else screen.since end,
 handed = case when screen.turns = excluded.turns then screen.handed else '' end, seen_at = excluded.seen_at, away_at = null
 where screen.workspace_id = excluded.workspace_id and screen.by = excluded.by
returning id
""")
#: Taken where it is free, the screen's own, a screen's that is away or asleep, or only looked at by a teacher while its own group calls it.
_CLAIM = text("""
insert into claim (study_id, block, level, workspace_id, screen_id, at)
select :study_id, x.block, x.level, :workspace_id, :id, :now from jsonb_to_recordset(cast(:turns as jsonb)) x (block int, level text) order by 1, 2, 3
on conflict (study_id, block, level) do update set screen_id = excluded.screen_id, at = excluded.at
 where claim.screen_id = excluded.screen_id or claim.at < :stale
  or not exists (select 1 from screen s where s.id = claim.screen_id and s.study_id = claim.study_id and s.seen_at > :unheard and (s.away_at is null or s.away_at > :away)
   and not (s.doing = 'calling' and s.half = '{}'::jsonb and s.role in ('teacher', 'colleague') and :role = 'group'))
returning block, level
""")
#: Who claims the turns of a study does it alone: the statement after this sees what the one before has written.
_ALONE = text("select pg_advisory_xact_lock(hashtextextended('claims ' || :study_id, 0))")
_LET_GO = text("delete from claim where screen_id = :id and not exists (select 1 from jsonb_to_recordset(cast(:turns as jsonb)) x (block int, level text)"
               " where (x.block, x.level) = (claim.block, claim.level))")  # fmt: skip
_TELL = text("select pg_notify('bendro_event', :said)")
_OLD = text("delete from screen where study_id = :study_id and seen_at < :old")
_OLD_PRESSES = text("delete from press where study_id = :study_id and at < :old")


@dataclass(frozen=True, slots=True, kw_only=True)
class Here:
    """Who says it: the caller's role, what it is called, and its group where it may only touch what is its own."""

    role: Role
    label: str
    own: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class AsNow:
    """What is so now: every screen, and what further phones pressed. granted: whether the turns that were asked for are this screen's."""

    screens: Sequence[ScreenRow]
    presses: Sequence[Press]
    granted: bool = True


def put_screen(owned: Owned, study_id: UUID, screen_id: UUID, given: ScreenNow, here: Here, *, now: datetime) -> AsNow:
    """A screen says what it is doing; the turns that it calls are its own from then on, all or none. Raises NotFound, NotAllowed for
    another's screen, for what the role may not do, and for another group's turns."""
    study = owned.get(Study, study_id)
    _check(here, given, study)
    turns = json.dumps([{"block": t.block, "level": t.level} for t in sorted(given.turns, key=lambda t: (t.block, t.level))])
    values = {
        "id": screen_id, "workspace_id": owned.workspace_id, "study_id": study_id, "by": owned.by, "role": here.role, "label": here.label, "lane": given.lane,
        "doing": given.doing, "turns": json.dumps([[t.block, t.level] for t in given.turns]), "half": json.dumps(given.half), "holds": given.holds, "fall": given.fall,
        "released_at": given.released_at, "doubt_s": None if given.round_trip_s is None else clock_doubt(given.round_trip_s), "now": now,
    }  # fmt: skip
    if owned.session.execute(_PUT, values).first() is None:
        raise NotAllowed("This screen is another’s. Open the page anew.", code="screen_elsewhere")
    owned.session.execute(_OLD, {"study_id": study_id, "old": now - FORGET})
    owned.session.execute(_ALONE, {"study_id": str(study_id)})
    owned.session.execute(_LET_GO, {"id": screen_id, "turns": turns})
    granted = True
    if given.turns:
        since = {"stale": now - timedelta(seconds=CLAIM_S), "unheard": now - timedelta(seconds=UNHEARD_S), "away": now - timedelta(seconds=CLAIM_AWAY_S)}
        got = owned.session.execute(_CLAIM, {"study_id": study_id, "workspace_id": owned.workspace_id, "id": screen_id, "turns": turns, "now": now, "role": here.role, **since}).all()
        granted = len(got) == len({(t.block, t.level) for t in given.turns})
        if not granted:  # a heat is called whole or not at all
            owned.session.execute(_LET_GO, {"id": screen_id, "turns": "[]"})
    row = _row(owned, study_id, screen_id)
    if not granted:
        row.turns = [] if given.doing in ("calling", "looking") else row.turns
        owned.session.add(row)
        owned.session.flush()
    tell_screen(owned, row, now=now)
    return now_of(owned, study_id, now=now, granted=granted)


def now_of(owned: Owned, study_id: UUID, *, now: datetime, granted: bool = True) -> AsNow:
    """Every screen as it is, and the presses of the falls that are in hand. Raises NotFound."""
    owned.get(Study, study_id)
    owned.session.expire_all()
    screens = owned.all(owned.select(ScreenRow).where(ScreenRow.study_id == study_id, ScreenRow.seen_at > now - FORGET))
    presses = owned.all(owned.select(Press).where(Press.study_id == study_id, Press.at > now - timedelta(minutes=15)))
    return AsNow(screens=sorted(screens, key=lambda s: (s.label, str(s.id))), presses=sorted(presses, key=lambda p: p.at), granted=granted)


def leave_screen(owned: Owned, study_id: UUID, screen_id: UUID, *, now: datetime) -> None:
    """The page was left: it calls nothing more. Leaving twice is the same. Raises NotFound."""
    owned.get(Study, study_id)
    row = owned.find(ScreenRow, screen_id)
    if row is None or row.study_id != study_id or row.by != owned.by:
        return
    owned.session.delete(row)
    owned.session.flush()
    _tell(owned, study_id, {"kind": "screen", "subject": str(screen_id), "screen": None})


def away(owned: Owned, study_id: UUID, screen_id: UUID, *, gone: bool, now: datetime) -> None:
    """The stream of a screen ended, or is back. A screen that is not known is not told of."""
    row = owned.find(ScreenRow, screen_id)
    if row is None or row.study_id != study_id or row.by != owned.by or (row.away_at is not None) == gone:
        return
    row.away_at, row.seen_at = (now, row.seen_at) if gone else (None, now)
    owned.session.add(row)
    owned.session.flush()
    tell_screen(owned, row, now=now)


def hand_on(owned: Owned, study_id: UUID, screen_id: UUID, to: UUID | None, here: Here, *, now: datetime) -> AsNow:
    """Give what a screen calls, with what is half typed, to another one; to: None frees its turn for whoever is next. Handing what is
    handed changes nothing. Raises NotFound, NotAllowed."""
    owned.session.execute(_ALONE, {"study_id": str(study_id)})
    row = _row(owned, study_id, screen_id)
    if here.own is not None and row.by != owned.by:
        raise NotAllowed(f"{here.label}’s seat hands its own lane on, and no other.", code="not_own", where="screen")
    turns, half, lane = row.turns, row.half, row.lane
    if to is not None:
        other = _row(owned, study_id, to)
        if not may(role_named(other.role), "put_trial") or (only_own(role_named(other.role), "put_trial") and not _all_of(owned, study_id, turns, other.label)):
            raise NotAllowed(f"{other.label} may not run this turn.", code="not_own", where="to")
        if turns:
            owned.session.execute(_LET_GO, {"id": to, "turns": "[]"})
            owned.session.execute(text("update claim set screen_id = :to, at = :now where screen_id = :id"), {"to": to, "id": screen_id, "now": now})
            other.turns, other.half, other.lane, other.doing, other.since, other.handed = turns, half, lane, "calling", now, f"from {row.label}"
            owned.session.add(other)
            owned.session.flush()
            tell_screen(owned, other, now=now)
        row.handed = f"to {other.label}"
    else:
        row.handed = "to whoever is next"
    owned.session.execute(_LET_GO, {"id": screen_id, "turns": "[]"})
    row.turns, row.half, row.doing, row.since = [], {}, "looking", now
    owned.session.add(row)
    owned.session.flush()
    tell_screen(owned, row, now=now)
    return now_of(owned, study_id, now=now)


def put_press(owned: Owned, study_id: UUID, fall: UUID, screen_id: UUID, given: Pressed, *, now: datetime) -> Press:
    """A further phone has pressed, or leaves it out; pressed again it is the newer. Raises NotFound, NotAllowed."""
    row = _row(owned, study_id, screen_id)
    if row.by != owned.by:
        raise NotAllowed("This screen is another’s. Open the page anew.", code="screen_elsewhere")
    owned.session.execute(_OLD_PRESSES, {"study_id": study_id, "old": now - FORGET})
    made: Press | None = owned.first(owned.select(Press).where(Press.fall == fall, Press.screen_id == screen_id))
    if made is not None and made.study_id != study_id:
        raise NotFound("fall")
    made = made or owned.new(Press, fall=fall, screen_id=screen_id, study_id=study_id, label=row.label, at=now)
    made.released_at, made.landed_at, made.at, made.label, made.heard = given.released_at, given.landed_at, now, row.label, given.heard
    if given.released_at is not None:  # both ends by its own clock
        made.seconds, made.clock_s = timed(given.released_at, given.landed_at)
    else:
        lane: ScreenRow | None = owned.first(owned.select(ScreenRow).where(ScreenRow.study_id == study_id, ScreenRow.fall == fall))
        made.seconds, made.clock_s = (None, 0.0) if lane is None else timed(lane.released_at, given.landed_at, lane.doubt_s or 0.0, clock_doubt(given.round_trip_s))
    owned.session.add(made)
    owned.session.flush()
    _tell(owned, study_id, {"kind": "press", "subject": str(fall), "press": {**made.model_dump(mode="json", exclude={"workspace_id", "study_id"})}})
    return made


def tell_screen(owned: Owned, row: ScreenRow, *, now: datetime) -> None:
    owned.session.refresh(row)
    _tell(owned, row.study_id, {"kind": "screen", "subject": str(row.id), "screen": screen_document(row, now=now)})


def away_since(row: ScreenRow, *, now: datetime) -> datetime | None:
    """Since when nothing is heard of a screen, None while it is here; also of one whose server process died before it could say so."""
    return row.seen_at if row.away_at is None and row.seen_at < now - timedelta(seconds=UNHEARD_S) else row.away_at


def screen_document(row: ScreenRow, *, now: datetime) -> dict[str, object]:
    """A screen as it is told."""
    unheard = away_since(row, now=now)
    told = row.model_dump(mode="json", exclude={"workspace_id", "study_id", "seen_at", "away_at", "turns"})
    return {**told, "turns": [{"block": b, "level": level} for b, level in row.turns], "away_at": None if unheard is None else unheard.isoformat()}


def _tell(owned: Owned, study_id: UUID, said: dict[str, object]) -> None:
    """In the same transaction as what it tells of: it is told when that is stored, and never else."""
    word = json.dumps({"study": str(study_id), "n": 0, "revision": 0, **said}, ensure_ascii=False)
    if len(word.encode()) > MOST_TOLD:
        word = json.dumps({"study": str(study_id), "n": 0, "revision": 0, "kind": "screens", "subject": said["subject"]})
    owned.session.execute(_TELL, {"said": word})


def _row(owned: Owned, study_id: UUID, screen_id: UUID) -> ScreenRow:
    owned.get(Study, study_id)
    row = owned.get(ScreenRow, screen_id)
    if row.study_id != study_id:
        raise NotFound("screen")
    return row


def _check(here: Here, given: ScreenNow, study: Study) -> None:
    if given.turns and not may(here.role, "put_trial"):
        raise NotAllowed("This seat calls no turns.", code="not_allowed", where="turns")
    if (given.fall is not None or given.doing in ("falling", "timing", "ready")) and not may(here.role, "press"):
        raise NotAllowed("This seat times nothing.", code="not_allowed", where="fall")
    if given.turns and here.own is not None and here.own != WHOLE_CLASS and not _groups_of(study, given.turns) <= {here.own.casefold(), ""}:
        raise NotAllowed(f"{here.own}’s seat calls the turns of {here.own}.", code="not_own", where="turns")


def _groups_of(study: Study, turns: Sequence[TurnOf]) -> set[str]:
    by = {(t.block, t.level): t.group for t in planned_turns(plan_of(study), study.seed)}
    return {by.get((t.block, t.level), "").strip().casefold() for t in turns}


def _all_of(owned: Owned, study_id: UUID, turns: Sequence[Sequence[object]], group: str) -> bool:
    study = owned.get(Study, study_id)
    return group == WHOLE_CLASS or _groups_of(study, [TurnOf(block=int(str(b)), level=str(level)) for b, level in turns]) <= {group.casefold(), ""}
