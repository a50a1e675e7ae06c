"""Practice for pupils: without an account, and nothing is stored about anyone."""

from fastapi import APIRouter, Query

from bendro.core.practice.items import MOST_SEED, Kind, item, mark

from .shapes_class import MarkedOut, PracticeBody, PracticeOut

router = APIRouter(prefix="/api/practice", tags=["practice"])


@router.get("/{kind}", operation_id="practice")
def practice(kind: Kind, seed: int = Query(ge=0, le=MOST_SEED)) -> PracticeOut:
    """The problem of a number: the same number gives the same problem to everyone."""
    return PracticeOut.model_validate(item(kind, seed))


@router.post("/{kind}", operation_id="mark_practice")
def mark_practice(kind: Kind, body: PracticeBody) -> MarkedOut:
    """Whether an answer is right, and why."""
    return MarkedOut.model_validate(mark(kind, body.seed, body.answer))
