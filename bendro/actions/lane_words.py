"""What the teacher says to every lane at once: stop, go on, a line to read."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from bendro.store.owned import Owned
from bendro.store.tables import LaneWord, Study

from .record import note_event

LONGEST = 120


def word_of(owned: Owned, study_id: UUID) -> LaneWord | None:
    """What is said now, None where nothing ever was. The study is the caller's."""
    found: LaneWord | None = owned.first(owned.select(LaneWord).where(LaneWord.study_id == study_id))
    return found


def tell_lanes(owned: Owned, study_id: UUID, *, stopped: bool, said: str, now: datetime) -> LaneWord:
    """Stop every lane or lift it, and say a line; told to every open screen. The same again changes nothing. Raises NotFound."""
    owned.get(Study, study_id, lock="update")
    line = " ".join(said.split())[:LONGEST]
    word = word_of(owned, study_id) or owned.new(LaneWord, study_id=study_id, changed_at=now)
    if (word.stopped, word.said) == (stopped, line):
        return word
    word.stopped, word.said, word.revision, word.changed_at = stopped, line, word.revision + 1, now
    owned.session.add(word)
    note_event(owned, study_id, "lanes", study_id, word.revision, {"stopped": stopped, "said": line}, now=now)
    return word
