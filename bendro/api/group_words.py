"""What each group says in its own words."""

from uuid import UUID

from fastapi import APIRouter

from bendro.actions import group_words
from bendro.core.rights import only_own

from .needs import Mine, Now, Teacher
from .shapes_class import GroupWordOut, GroupWordsBody

router = APIRouter(prefix="/api", tags=["class"])


@router.get("/studies/{study_id}/words", operation_id="words")
def words(study_id: UUID, mine: Mine) -> list[GroupWordOut]:
    return [GroupWordOut.model_validate(w) for w in group_words.words_of(mine, study_id)]


@router.put("/studies/{study_id}/words/{group}", operation_id="put_words")
def put_words(study_id: UUID, group: str, body: GroupWordsBody, me: Teacher, mine: Mine, now: Now) -> GroupWordOut:
    """What a group predicts, which is written before its first trial, and what it says of the result."""
    own = me.shown_name if only_own(me.role, "put_words") else None
    return GroupWordOut.model_validate(group_words.put_words(mine, study_id, group, predicts=body.predicts, says=body.says, revision=body.revision, own=own, now=now))
