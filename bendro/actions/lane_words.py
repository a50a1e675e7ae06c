"""What the teacher says to the lanes: stop, go on, a line to read, which of them are shut, and which trial is the last."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Literal
from uuid import UUID

from bendro.store.owned import Owned
from bendro.store.tables import LaneWord, Study

from .record import note_event

LONGEST = 120


def word_of(owned: Owned, study_id: UUID) -> LaneWord | None:
    """What is said now, None where nothing ever was. The study is the caller's."""
    found: LaneWord | None = owned.first(owned.select(LaneWord).where(LaneWord.study_id == study_id))
    return found


def tell_lanes(owned: Owned, study_id: UUID, *, stopped: bool, said: str, last: bool, now: datetime) -> LaneWord:
    """Stop every lane or lift it, say a line, and call the last trial of each; told to every open screen. The same again changes nothing. Raises NotFound."""
    owned.get(Study, study_id, lock="update")
    line = " ".join(said.split())[:LONGEST]
    word = _word(owned, study_id, now)
    last_from = (word.last_from or now) if last else None
    if (word.stopped, word.said, word.last_from) == (stopped, line, last_from):
        return word
    word.stopped, word.said, word.last_from = stopped, line, last_from
    return _changed(owned, word, {"stopped": stopped, "said": line, "last": last}, now)


def set_lane(owned: Owned, study_id: UUID, lane: int, *, state: Literal["open", "paused", "closed"], why: str, now: datetime) -> LaneWord:
    """Open, pause or close one lane; a shut one calls nothing new. The same again changes nothing. Raises NotFound."""
    owned.get(Study, study_id, lock="update")
    word = _word(owned, study_id, now)
    shut: Mapping[str, Mapping[str, str]] = word.shut or {}
    rest = {n: dict(at) for n, at in shut.items() if n != str(lane)}
    reason = " ".join(why.split())[:LONGEST]
    before = shut.get(str(lane))
    if (state == "open" and before is None) or (before is not None and (before["state"], before["why"]) == (state, reason)):
        return word
    word.shut = rest if state == "open" else {**rest, str(lane): {"state": state, "why": reason, "since": now.isoformat()}}
    return _changed(owned, word, {"lane": lane, "state": state, "why": reason}, now)


def _word(owned: Owned, study_id: UUID, now: datetime) -> LaneWord:
    return word_of(owned, study_id) or owned.new(LaneWord, study_id=study_id, shut={}, changed_at=now)


def _changed(owned: Owned, word: LaneWord, body: Mapping[str, object], now: datetime) -> LaneWord:
    word.revision, word.changed_at = word.revision + 1, now
    owned.session.add(word)
    note_event(owned, word.study_id, "lanes", word.study_id, word.revision, body, now=now)
    return word
