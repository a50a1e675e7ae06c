"""What is cut from paper: templates on sheets and as SVG, with how the device is built."""

from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool

from bendro.actions import templates
from bendro.files.template_svg import template_svg

from .building import JPEG, SENT
from .needs import Mine, Now
from .shapes_templates import Paper, TemplatesOut, templates_out

router = APIRouter(prefix="/api", tags=["planning"])
_SVG: dict[int | str, dict[str, Any]] = {200: {"content": {"image/svg+xml": {"schema": {"type": "string"}}}}}
Ruler = Annotated[float, Query(gt=0, le=1000, allow_inf_nan=False)]


@router.get("/studies/{study_id}/templates", operation_id="templates")
def study_templates(
    study_id: UUID,
    mine: Mine,
    paper: Paper = "a4",
    margin: Annotated[float, Query(ge=0, le=100, allow_inf_nan=False, description="mm that the printer cannot reach")] = 10,
    line: Ruler = 100,
    square: Ruler = 50,
) -> TemplatesOut:
    """line, square: what the ruler read of the line of 100 mm and the height of the square of 50 mm on an uncorrected page."""
    return templates_out(templates.on_paper(mine, study_id, paper=paper, margin=margin, line=line, square=square))


@router.get("/studies/{study_id}/templates.svg", operation_id="templates_svg", response_class=Response, responses=_SVG)
def templates_svg(study_id: UUID, mine: Mine, piece: Annotated[int | None, Query(ge=0, le=1000)] = None, group: Annotated[str, Query(max_length=30)] = "") -> Response:
    """All the pieces of one group in one file for a cutting machine, or the one piece asked for."""
    name = f"templates-{str(study_id)[:8]}{'' if piece is None else f'-{piece + 1}'}.svg"
    body = template_svg(templates.cutouts_of(mine, study_id, piece), group)
    return Response(body, media_type="image/svg+xml", headers={"Content-Disposition": f'attachment; filename="{name}"'})


_PICTURES = "/studies/{study_id}/sheet-pictures"


@router.get(_PICTURES, operation_id="sheet_pictures")
def sheet_pictures(study_id: UUID, mine: Mine) -> list[UUID]:
    """The pictures of the school's own build sheet."""
    return templates.pictures_of(mine, study_id)


@router.get(_PICTURES + "/{picture_id}", operation_id="sheet_picture", response_class=Response, responses=JPEG)
def sheet_picture(study_id: UUID, picture_id: UUID, mine: Mine) -> Response:
    return Response(templates.picture_of(mine, study_id, picture_id).jpeg, media_type="image/jpeg")


@router.put(_PICTURES + "/{picture_id}", operation_id="put_sheet_picture", openapi_extra=SENT)
async def put_sheet_picture(study_id: UUID, picture_id: UUID, request: Request, mine: Mine, now: Now) -> list[UUID]:
    data = await request.body()

    def keep() -> list[UUID]:
        templates.put_picture(mine, study_id, picture_id, data, now=now)
        return templates.pictures_of(mine, study_id)

    return await run_in_threadpool(keep)


@router.delete(_PICTURES + "/{picture_id}", operation_id="drop_sheet_picture")
def drop_sheet_picture(study_id: UUID, picture_id: UUID, mine: Mine) -> list[UUID]:
    templates.drop_picture(mine, study_id, picture_id)
    return templates.pictures_of(mine, study_id)
