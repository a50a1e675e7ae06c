"""Devices, their versions and photos."""

from typing import Any
from uuid import UUID

from fastapi import APIRouter, Request, Response
from fastapi.concurrency import run_in_threadpool

from bendro.actions import building
from bendro.actions.building import Compared, VersionSeen
from bendro.store.owned import Owned

from .needs import Mine, Now, Teacher
from .shapes_study import VersionBody, VersionOut

router = APIRouter(prefix="/api", tags=["building"])
JPEG: dict[int | str, dict[str, Any]] = {200: {"content": {"image/jpeg": {"schema": {"type": "string", "format": "binary"}}}}}
SENT = {"requestBody": {"required": True, "content": {"image/*": {"schema": {"type": "string", "format": "binary"}}}}}


def _out(seen: VersionSeen) -> VersionOut:
    return VersionOut(
        id=seen.row.id,
        device=seen.row.device,
        number=seen.row.number,
        revision=seen.row.revision,
        created_at=seen.row.created_at,
        draft=seen.draft,
        changed=list(seen.changed),
        changes_said=[str(c) for c in seen.changed],
        says=seen.says,
        rules=list(seen.rules),
        side=seen.side,
        drawing=seen.drawing,
        cost=seen.cost,
        photo=seen.photo,
        as_cut=seen.as_cut,
        withdrawn=seen.row.withdrawn,
    )


def _one(mine: Owned, study_id: UUID, version_id: UUID) -> VersionOut:
    return _out(building.with_asked(mine, study_id, [building.one_version(mine, study_id, version_id)])[0])


@router.get("/studies/{study_id}/versions", operation_id="versions")
def versions(study_id: UUID, mine: Mine) -> list[VersionOut]:
    return [_out(v) for v in building.with_asked(mine, study_id, building.versions_of(mine, study_id, taken_back=True))]


@router.get("/studies/{study_id}/versions/compare", operation_id="compare_versions")
def compare_versions(study_id: UUID, first: UUID, second: UUID, mine: Mine) -> Compared:
    return building.compare_versions(mine, study_id, first, second)


@router.put("/studies/{study_id}/versions/{version_id}", operation_id="put_version")
def put_version(study_id: UUID, version_id: UUID, body: VersionBody, mine: Mine, me: Teacher, now: Now) -> VersionOut:
    building.check_own(mine, version_id, body.device, me.seat)
    building.put_version(
        mine, study_id, version_id, device=body.device, draft=body.draft, revision=body.revision, withdrawn=body.withdrawn, now=now
    )
    return _one(mine, study_id, version_id)


@router.get("/studies/{study_id}/versions/{version_id}/photo", operation_id="photo", response_class=Response, responses=JPEG)
def photo(study_id: UUID, version_id: UUID, mine: Mine) -> Response:
    return Response(building.photo_of(mine, study_id, version_id).jpeg, media_type="image/jpeg")


@router.put("/studies/{study_id}/versions/{version_id}/photo", operation_id="put_photo", openapi_extra=SENT)
async def put_photo(study_id: UUID, version_id: UUID, request: Request, mine: Mine, me: Teacher, now: Now) -> VersionOut:
    data = await request.body()

    def keep() -> VersionOut:
        building.check_own(mine, version_id, "", me.seat)
        building.put_photo(mine, study_id, version_id, data, now=now)
        return _one(mine, study_id, version_id)

    return await run_in_threadpool(keep)


@router.delete("/studies/{study_id}/versions/{version_id}/photo", operation_id="drop_photo")
def drop_photo(study_id: UUID, version_id: UUID, mine: Mine, me: Teacher) -> VersionOut:
    building.check_own(mine, version_id, "", me.seat)
    building.drop_photo(mine, study_id, version_id)
    return _one(mine, study_id, version_id)
