"""What each group predicts before its first trial, and what it says of the result: in its own words, for the poster."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from sqlmodel import col

from bendro.core.written import sentence
from bendro.store.owned import Owned
from bendro.store.tables import GroupWord, Study, TrialRow

from .errors import Clash, NotAllowed, Refused
from .plans import plan_of
from .record import WHOLE_CLASS, note_event

LONGEST = 400


def words_of(owned: Owned, study_id: UUID) -> list[GroupWord]:
    """What the groups have written, by label. Raises NotFound."""
    owned.get(Study, study_id)
    found: list[GroupWord] = owned.all(owned.select(GroupWord).where(GroupWord.study_id == study_id).order_by(col(GroupWord.group_label)))
    return found


def put_words(owned: Owned, study_id: UUID, group: str, *, predicts: str, says: str, revision: int, own: str | None, now: datetime) -> GroupWord:
    """Write down what a group says; the same again changes nothing. own: the only group whose words whoever writes may touch. revision: that is
    written over. Raises NotFound, NotAllowed, Refused, Clash."""
    study = owned.get(Study, study_id, lock="update")
    label = group.strip()
    if own is not None and own != WHOLE_CLASS and label.casefold() != own.casefold():
        raise NotAllowed(f"{own}’s seat writes what {own} says.", code="not_own", where="group")
    groups = [g.strip() for g in plan_of(study).groups if g.strip()]
    known = next((g for g in groups if g.casefold() == label.casefold()), None)
    if groups and known is None:
        raise Refused(f"There is no group “{label[:30]}” in this study.", code="seat_group", where="group")
    name = known or WHOLE_CLASS
    word: GroupWord = owned.first(owned.select(GroupWord).where(GroupWord.study_id == study_id, GroupWord.group_label == name)) or owned.new(
        GroupWord, study_id=study_id, group_label=name, changed_at=now
    )
    new = (" ".join(predicts.split())[:LONGEST], " ".join(says.split())[:LONGEST])
    if (word.predicts, word.says) == new:
        return word
    if word.revision != revision:
        raise Clash("These words were changed on another device. Look at both and choose.", code="words_changed", facts={"theirs": {"predicts": word.predicts, "says": word.says}, "revision": word.revision})
    if new[0] != word.predicts:
        ran = owned.first(
            owned.select(TrialRow).where(TrialRow.study_id == study_id, TrialRow.state == "kept", col(TrialRow.practice).is_(False), *([TrialRow.group_label == name] if groups else []))
        )
        if ran is not None:
            raise Refused(f"{name} has run its first trial already: a prediction is written before it.", code="predicted_late", where="predicts")
    word.predicts, word.says = new
    word.revision, word.by, word.changed_at = word.revision + 1, owned.by, now
    owned.session.add(word)
    note_event(owned, study_id, "words", study_id, _number(owned, study_id), {"group": name, "predicts": word.predicts, "says": word.says}, now=now)
    return word


def _number(owned: Owned, study_id: UUID) -> int:
    """Of the change among all changes of the study's words, so that each is an event of its own."""
    owned.session.flush()
    return sum(w.revision for w in words_of(owned, study_id))


def as_lines(words: Sequence[GroupWord]) -> tuple[str, ...]:
    """As they stand on a poster: a line for each group."""
    made = []
    for w in words:
        parts = [f"predicted “{w.predicts.rstrip(' .')}”" if w.predicts else "", f"says “{w.says.rstrip(' .')}”" if w.says else ""]
        if any(parts):
            made.append(sentence(f"{w.group_label} {', and '.join(p for p in parts if p)}"))
    return tuple(made)
