"""The class comes in: a study opened for a lesson by a short code, and the seats that are taken by it."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import cast
from uuid import UUID, uuid4

from sqlalchemy import func, update
from sqlmodel import Session, col, select

from bendro.core.draft import Draft
from bendro.core.rights import MAY, Role
from bendro.settings import settings
from bendro.store.owned import Owned
from bendro.store.tables import Joining, Seat, Study

from .accounts import Door, digest
from .errors import Refused
from .plans import plan_of
from .record import WHOLE_CLASS, note_event
from .tries import forgive, reserve

#: 32 signs without those that are mistaken for each other; a code has six of them, 30 bits.
SIGNS, LONG = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789", 6
#: What is typed for a sign that is not among them.
MEANT = {"0": "Q", "O": "Q", "1": "L", "I": "L"}
#: A lesson is open for so long at most, in hours.
MOST_HOURS = 24
MOST_SEATS = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class Offered:
    """What whoever typed the code may choose."""

    study_id: UUID
    title: str
    groups: tuple[str, ...]
    taken: tuple[str, ...]


def as_signs(typed: str) -> str:
    """A code as it is compared, however it was typed: small letters, blanks, 0 for O."""
    return "".join(MEANT.get(c, c) for c in typed.upper() if c.isascii() and c.isalnum())


def new_signs() -> str:
    """Six signs to be read off a wall and typed."""
    return "".join(secrets.choice(SIGNS) for _ in range(LONG))


def open_joining(owned: Owned, study_id: UUID, *, minutes: float, now: datetime, also: Sequence[UUID] = ()) -> Joining:
    """Open a study for the lesson; one that is open goes on with its code, until the later of both ends. minutes: 1 to a day. also: further studies that
    are let in under the same signs. Raises NotFound."""
    made = _open(owned, study_id, minutes=minutes, now=now, code=None)
    owned.session.flush()
    for one in dict.fromkeys(also):
        if one != study_id:
            _open(owned, one, minutes=minutes, now=now, code=made.code)
    return made


def _open(owned: Owned, study_id: UUID, *, minutes: float, now: datetime, code: str | None) -> Joining:
    owned.get(Study, study_id, lock="update")
    until = now + timedelta(minutes=min(max(minutes, 1), MOST_HOURS * 60))
    found = joining_of(owned, study_id, now=now)
    if found is not None:
        found.until, found.code = max(found.until, until), code or found.code
        owned.session.add(found)
        owned.session.exec(update(Seat).where(col(Seat.study_id) == study_id, col(Seat.ended_at).is_(None)).values(until=found.until))
        return found
    made = owned.new(Joining, id=uuid4(), study_id=study_id, code=code or new_signs(), opened_at=now, until=until)
    note_event(owned, study_id, "joining", made.id, 1, {"until": until.isoformat()}, now=now)
    return made


def joining_of(owned: Owned, study_id: UUID, *, now: datetime) -> Joining | None:
    """The code that lets in now. Raises NotFound."""
    owned.get(Study, study_id)
    found: Joining | None = owned.first(owned.select(Joining).where(Joining.study_id == study_id, col(Joining.closed_at).is_(None), Joining.until > now))
    return found


def close_joining(owned: Owned, study_id: UUID, *, now: datetime) -> None:
    """The lesson is over: its signs let nobody in any more, to none of their studies, and every seat ends. Raises NotFound."""
    owned.get(Study, study_id, lock="update")
    found = joining_of(owned, study_id, now=now)
    together = [] if found is None else owned.all(owned.select(Joining).where(Joining.code == found.code, col(Joining.closed_at).is_(None)))
    for one in together:
        one.closed_at = now
        owned.session.add(one)
        note_event(owned, one.study_id, "joining", one.id, 2, {"closed": True}, now=now)
    for study in dict.fromkeys([study_id, *(one.study_id for one in together)]):
        for seat in seats_of(owned, study, now=now):
            seat.ended_at = now
            owned.session.add(seat)


def seats_of(owned: Owned, study_id: UUID, *, now: datetime) -> list[Seat]:
    """Who is in, in the order of coming. Raises NotFound."""
    owned.get(Study, study_id)
    found = owned.all(owned.select(Seat).where(Seat.study_id == study_id, col(Seat.ended_at).is_(None), Seat.until > now))
    return sorted(found, key=lambda s: (s.joined_at, str(s.id)))


def end_seat(owned: Owned, study_id: UUID, seat_id: UUID, *, now: datetime) -> None:
    """Send one out; one that is out stays out. Raises NotFound."""
    owned.get(Study, study_id)
    found = owned.find(Seat, seat_id)
    if found is not None and found.study_id == study_id and found.ended_at is None:
        found.ended_at = now
        owned.session.add(found)
        note_event(owned, study_id, "seat", seat_id, 2, {"left": found.label}, now=now)


def look_at_code(session: Session, code: str, *, at: Door, now: datetime) -> list[Offered]:
    """What may be chosen under a code: its studies, most often one. Raises Refused `code_wrong`, TooManyTries."""
    made = []
    for joining, study, draft in _found(session, code, at, now):
        seats = seats_of(Owned(session, joining.workspace_id), study.id, now=now)
        made.append(Offered(study_id=study.id, title=study.title, groups=_groups(draft), taken=tuple(s.label for s in seats if s.role == "group")))
    return made


def join(session: Session, code: str, *, role: Role, label: str, at: Door, now: datetime, study_id: UUID | None = None) -> tuple[str, Seat]:
    """Take a seat: (the token of its cookie, the seat). A group's label may be taken twice, as after a dead battery; the teacher sees both. study_id:
    which of the lesson's studies, where there are several. Raises Refused, TooManyTries."""
    lessons = _found(session, code, at, now)
    chosen_lesson = next((one for one in lessons if one[1].id == study_id), None) if study_id is not None or len(lessons) > 1 else lessons[0]
    if chosen_lesson is None:
        raise Refused(f"Choose one of this lesson’s tests: {', '.join(s.title for _, s, _ in lessons)}.", code="seat_study", where="study_id")
    joining, study, draft = chosen_lesson
    if role == "teacher":
        raise Refused("A seat is a group’s, a timer’s, a colleague’s or the wall’s.", code="seat_role", where="role")
    owned = Owned(session, joining.workspace_id)
    groups = _groups(draft)
    chosen = next((g for g in groups if g.casefold() == label.strip().casefold()), None)
    if role == "group" and groups and chosen is None:
        raise Refused(f"There is no group “{label.strip()[:30]}” in this lesson. Choose one of {', '.join(groups)}.", code="seat_group", where="label")
    if len(seats_of(owned, study.id, now=now)) >= MOST_SEATS:
        raise Refused(f"{MOST_SEATS} devices are in already. The teacher can send some out.", code="seats_many", where="code")
    token = secrets.token_urlsafe(32)
    timers = 1 + session.exec(select(func.count()).select_from(Seat).where(Seat.study_id == study.id, Seat.role == "timer", Seat.joined_at >= joining.opened_at)).one()
    named = {"group": chosen or WHOLE_CLASS, "timer": f"Timer {timers}", "wall": "wall", "colleague": "colleague", "teacher": ""}[role]
    seat = owned.new(
        Seat, id=uuid4(), study_id=study.id, token_hash=digest(token), role=role, label=named, device=f"{at.device} at {at.address}", joined_at=now, until=joining.until
    )
    session.flush()
    note_event(Owned(session, joining.workspace_id, by=seat.id), study.id, "seat", seat.id, 1, {"role": role, "label": named}, now=now)
    return token, seat


def seat_of(session: Session, token: str | None, *, now: datetime) -> Seat | None:
    """The seat behind a cookie, while it stands."""
    if not token:
        return None
    return session.exec(select(Seat).where(Seat.token_hash == digest(token), col(Seat.ended_at).is_(None), Seat.until > now)).first()


def leave(session: Session, token: str | None, *, now: datetime) -> None:
    """Whoever sits there goes; going twice is the same."""
    seat = seat_of(session, token, now=now)
    if seat is not None:
        end_seat(Owned(session, seat.workspace_id, by=seat.id), seat.study_id, seat.id, now=now)


def role_of(seat: Seat) -> Role:
    """The role as it was taken."""
    return role_named(seat.role)


def role_named(role: str) -> Role:
    """A role by its name; a word that is none may do nothing but look."""
    return cast("Role", role) if role in MAY else "wall"


def seats_named(session: Session, seats: Sequence[UUID]) -> dict[UUID, str]:
    """What these seats are called."""
    return {s.id: s.label for s in session.exec(select(Seat).where(col(Seat.id).in_(seats))).all()}


def _groups(draft: Draft) -> tuple[str, ...]:
    """The groups of the lesson; in a contest without groups each device is its own."""
    named = tuple(g.strip() for g in draft.groups if g.strip())
    return named or (tuple(t.strip() for t in draft.variable.levels if t.strip()) if draft.study_kind == "contest" else ())


def _found(session: Session, code: str, at: Door, now: datetime) -> list[tuple[Joining, Study, Draft]]:
    """The lesson's studies under a code, at least one. A try is counted before it is looked at, by where it comes from and all together, and forgiven where it is right:
    so many guesses find one of 2³⁰ codes never."""
    address, everywhere = f"join:{at.address}", "join:all"
    reserve(session, {address: settings().join_tries_of_address, everywhere: settings().join_tries_of_all}, now)
    signs = as_signs(code)
    rows = session.exec(select(Joining, Study).where(Joining.code == signs, col(Joining.closed_at).is_(None), Joining.until > now, Study.id == Joining.study_id)).all()
    found = sorted(((j, s) for j, s in rows if s.deleted_at is None), key=lambda one: (one[0].opened_at, one[1].title))
    if not found:
        raise Refused("This code lets nobody in: it is mistyped, or the lesson is over. Look at the wall again.", code="code_wrong", where="code")
    forgive(session, once=(address, everywhere))
    return [(j, s, plan_of(s)) for j, s in found]
