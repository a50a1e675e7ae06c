"""What a plan can already say, the lesson rota, and what to buy."""

from __future__ import annotations

from uuid import UUID

from fastapi import APIRouter, Response

from bendro.actions import lesson
from bendro.actions.lesson import Ahead, RotaMade
from bendro.core.planning.materials import Shopping

from .needs import Mine, Now

router = APIRouter(prefix="/api", tags=["lesson"])


@router.get("/studies/{study_id}/ahead", operation_id="ahead")
def ahead(study_id: UUID, mine: Mine) -> Ahead:
    return lesson.ahead(mine, study_id)


@router.get("/studies/{study_id}/rota", operation_id="rota")
def rota(study_id: UUID, mine: Mine) -> RotaMade | None:
    return lesson.lesson_rota(mine, study_id)


@router.post("/studies/{study_id}/rota", operation_id="make_rota")
def make_rota(study_id: UUID, mine: Mine, now: Now) -> RotaMade:
    return lesson.make_lesson_rota(mine, study_id, now=now)


@router.get("/studies/{study_id}/shopping", operation_id="shopping")
def shopping(study_id: UUID, mine: Mine) -> Shopping:
    return lesson.shopping_list(mine, study_id)


@router.get(
    "/studies/{study_id}/shopping.csv",
    operation_id="shopping_table",
    response_class=Response,
    responses={200: {"content": {"text/csv": {"schema": {"type": "string"}}}}},
)
def shopping_table(study_id: UUID, mine: Mine) -> Response:
    return Response(
        "\ufeff" + lesson.shopping_table(mine, study_id),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="shopping-{str(study_id)[:8]}.csv"'},
    )
