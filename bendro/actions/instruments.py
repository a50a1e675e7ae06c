"""What instruments need of the record: a code by which they find their lane, and how the thumbs of a class did in practice."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from datetime import datetime, timedelta
from uuid import UUID, uuid5

from sqlalchemy import exists
from sqlmodel import Session, col, select

from bendro.core.measuring.thumb import Thumb, thumb_of
from bendro.core.planning.safety import RUN_HOURS
from bendro.store.errors import NotFound
from bendro.store.owned import Owned
from bendro.store.tables import Event, Run, Study

from .record import note_event

#: Letters and digits that are not taken for one another when a code is read out.
_LETTERS = "ABCDEFGHJKMNPQRSTUVWXYZ23456789"
CODE_LENGTH = 10
THUMB = "thumb"


def instrument_code(owned: Owned, study_id: UUID, *, anew: bool = False) -> str:
    """The code under which instruments send to this study; made the first time. anew: another one, so that whoever knows the one before
    sends to nobody. Raises NotFound."""
    study = owned.get(Study, study_id, lock="update")
    if anew or not study.instrument_code:
        study.instrument_code = "".join(secrets.choice(_LETTERS) for _ in range(CODE_LENGTH))
        owned.session.add(study)
    return study.instrument_code or ""


def as_instrument_code(typed: str) -> str | None:
    """A code as it is compared, or None for what cannot be one."""
    plain = typed.strip().upper()
    return plain if len(plain) == CODE_LENGTH and plain.isascii() and plain.isalnum() else None


def study_of_code(session: Session, code: str, *, now: datetime) -> UUID:
    """The study that listens under a code: while its run is open the code is the whole right to send. Raises NotFound."""
    plain = as_instrument_code(code)
    opened = exists().where(col(Run.study_id) == Study.id, col(Run.opened_at) > now - timedelta(hours=RUN_HOURS))
    listening = (Study.instrument_code == plain, col(Study.deleted_at).is_(None), col(Study.finished).is_(False), opened)
    found = None if plain is None else session.exec(select(Study.id).where(*listening)).first()
    if found is None:
        raise NotFound("instrument_code")
    return found


def practise_thumb(owned: Owned, study_id: UUID, who: str, shown: Sequence[float], pressed: Sequence[float], *, now: datetime) -> Thumb:
    """Keep how a thumb did against known intervals, in s; the newest of each seat or number counts. Raises CoreError, NotFound."""
    owned.get(Study, study_id)
    thumb = thumb_of(shown, pressed)
    name = " ".join(who.split())
    subject = uuid5(study_id, f"thumb:{name.casefold()}")
    last = owned.first(owned.select(Event).where(Event.kind == THUMB, Event.subject == subject).order_by(col(Event.revision).desc()).limit(1))
    body = {"who": name, "bias_s": thumb.bias_s, "scatter_s": thumb.scatter_s, "n": thumb.n, "lost": thumb.lost}
    note_event(owned, study_id, THUMB, subject, 1 if last is None else last.revision + 1, body, now=now)
    return thumb


def thumbs_of(owned: Owned, study_id: UUID) -> dict[str, Thumb]:
    """The newest practice of each thumb of a study, by seat or number."""
    newest = {e.subject: e.body for e in owned.all(owned.select(Event).where(Event.kind == THUMB, Event.study_id == study_id).order_by(Event.id))}
    return {body["who"]: Thumb(**{k: body[k] for k in ("bias_s", "scatter_s", "n", "lost")}) for body in newest.values()}
