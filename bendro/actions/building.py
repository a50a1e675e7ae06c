"""Devices and their versions: written down, changed, taken back, with a photo; and what the core says of each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from uuid import UUID, uuid5

from sqlalchemy import func
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, select

from bendro.core.building.drawing import Drawing
from bendro.core.building.faces import drawn
from bendro.core.building.line import in_line, told
from bendro.core.building.side_view import SideView, side_view
from bendro.core.building.version import Change, VersionDraft, differences, says_between
from bendro.core.draft import Draft
from bendro.core.planning.arithmetic import RuleMet
from bendro.core.record.study import VersionTold
from bendro.core.templates.as_cut import Asked, alike, asked_of
from bendro.core.templates.made import templates
from bendro.files.photo import small_photo
from bendro.store.owned import Owned
from bendro.store.tables import DeviceVersion, Photo, Study

from .errors import Clash, NotAllowed, Refused
from .plans import plan_of
from .record import note_event

MOST_VERSIONS = 500


@dataclass(frozen=True, slots=True, kw_only=True)
class VersionSeen:
    """A version with what the core says of it. cost: play money of its pieces. told: as the record has it; None of one that was taken back."""

    row: DeviceVersion
    draft: VersionDraft
    changed: tuple[Change, ...]
    says: str
    rules: tuple[RuleMet, ...]
    side: SideView | None
    drawing: Drawing | None
    cost: float
    photo: bool
    told: VersionTold | None = None
    as_cut: Asked | None = None


def check_own(owned: Owned, version_id: UUID, device: str, label: str | None) -> None:
    """A group writes down its own device alone, which bears its label. label: the group's, None for whoever may write any. Raises NotAllowed."""
    if label is None:
        return
    held = owned.find(DeviceVersion, version_id)
    devices = {d for d in (device, held.device if held is not None else "") if d.strip()}
    if any(" ".join(d.split()).casefold() != label.casefold() for d in devices):
        raise NotAllowed(f"{label}’s seat writes down the versions of {label}. This one is of another device.", code="not_own", where="device")


def put_version(
    owned: Owned, study_id: UUID, version_id: UUID, *, device: str, draft: VersionDraft, revision: int, withdrawn: bool, now: datetime
) -> DeviceVersion:
    """Write a version down, or change it. revision: the one that was being edited, 0 for a new one; a new one gets the next
    number of its device. Sent again unchanged, nothing changes. Raises Refused, Clash, NotFound."""
    owned.get(Study, study_id, lock="update")  # numbers are given one at a time
    label = " ".join(device.split())
    if not 1 <= len(label) <= 40:
        raise Refused("A device needs a label of 1 to 40 characters, such as the group’s.", code="device_label", where="device")
    _check_line(owned, study_id, label, version_id, draft)
    body = draft.model_dump(mode="json")
    row = owned.find(DeviceVersion, version_id, lock="update")
    if row is None:
        _insert(owned, study_id, version_id, label, body, now)
        return owned.get(DeviceVersion, version_id)
    if row.study_id != study_id:
        raise Refused("This version belongs to another study.", code="version_elsewhere")
    if row.body == body and row.device == label and row.withdrawn == withdrawn:
        return row
    if row.revision != revision:
        raise Clash(
            "Someone else changed this version meanwhile. Look at both and choose.",
            code="version_changed",
            where="revision",
            facts={"yours": body, "theirs": row.body, "revision": row.revision},
        )
    if row.device != label:
        row.device, row.number = label, _next_number(owned, study_id, label)
    row.body, row.withdrawn, row.revision, row.changed_at = body, withdrawn, row.revision + 1, now
    owned.session.add(row)
    note_event(owned, study_id, "version", version_id, row.revision, {"device": label, "number": row.number, "withdrawn": withdrawn}, now=now)
    return owned.get(DeviceVersion, version_id)


def add_version(
    owned: Owned, study_id: UUID, version_id: UUID, *, device: str, number: int, draft: VersionDraft, withdrawn: bool, now: datetime
) -> None:
    """A version under the number that it has elsewhere."""
    body = draft.model_dump(mode="json")
    owned.new(DeviceVersion, id=version_id, study_id=study_id, device=device, number=number, body=body, revision=1, withdrawn=withdrawn, created_at=now, changed_at=now)
    owned.session.flush()
    note_event(owned, study_id, "version", version_id, 1, {"device": device, "number": number, "withdrawn": withdrawn}, now=now)


def _insert(owned: Owned, study_id: UUID, version_id: UUID, label: str, body: dict[str, object], now: datetime) -> None:
    count = owned.session.exec(select(func.count()).select_from(DeviceVersion).where(DeviceVersion.study_id == study_id)).one()
    if count >= MOST_VERSIONS:
        raise Refused(f"A study holds at most {MOST_VERSIONS} versions.", code="versions_many")
    values = {
        "id": version_id,
        "workspace_id": owned.workspace_id,
        "study_id": study_id,
        "device": label,
        "number": _next_number(owned, study_id, label),
        "body": body,
        "revision": 1,
        "withdrawn": False,
        "created_at": now,
        "changed_at": now,
    }
    owned.session.exec(insert(DeviceVersion).values(**values).on_conflict_do_nothing(index_elements=["id"]))
    note_event(owned, study_id, "version", version_id, 1, {"device": label, "number": values["number"], "withdrawn": False}, now=now)


def _next_number(owned: Owned, study_id: UUID, label: str) -> int:
    held = owned.all(owned.select(DeviceVersion).where(DeviceVersion.study_id == study_id, DeviceVersion.device == label))
    return max((v.number for v in held), default=0) + 1


def _check_line(owned: Owned, study_id: UUID, label: str, version_id: UUID, draft: VersionDraft) -> None:
    if draft.since is None:
        return
    held = owned.all(owned.select(DeviceVersion).where(DeviceVersion.study_id == study_id, DeviceVersion.device == label))
    earlier = next((v for v in held if v.number == draft.since), None)
    own = next((v for v in held if v.id == version_id), None)
    if earlier is None or earlier.id == version_id or (own is not None and own.number < earlier.number):
        raise Refused(f"{label} has no earlier version {draft.since} to start from.", code="since_unknown", where="since")


def versions_of(owned: Owned, study_id: UUID, *, taken_back: bool = False) -> list[VersionSeen]:
    """All versions, device by device in the order of their numbers. taken_back: those that were taken back as well; nothing is
    worked out for them."""
    study = owned.get(Study, study_id)
    plan = plan_of(study)
    rows: Sequence[DeviceVersion] = owned.all(
        owned.select(DeviceVersion).where(DeviceVersion.study_id == study_id).order_by(DeviceVersion.device, DeviceVersion.number)
    )
    photos = set(
        owned.session.exec(
            select(Photo.version_id).where(Photo.workspace_id == owned.workspace_id, col(Photo.version_id).in_([r.id for r in rows]))
        )
    )
    line = in_line(plan, {(r.device, r.number): VersionDraft.model_validate(r.body) for r in rows if not r.withdrawn})
    made = []
    for row in rows:
        if row.withdrawn:
            made += [_taken_back(row, plan)] if taken_back else []
            continue
        one = line[row.device, row.number]
        made.append(
            VersionSeen(
                row=row, draft=one.draft, changed=one.changed, says=one.says, rules=one.rules, side=side_view(one.draft), drawing=drawn(plan, one.draft), cost=one.cost, photo=row.id in photos,
                told=told(row.device, row.number, one),
            )
        )  # fmt: skip
    return made


def with_asked(owned: Owned, study_id: UUID, seen: Sequence[VersionSeen]) -> list[VersionSeen]:
    """The same versions, each with what is measured of it once it is cut."""
    plan = plan_of(owned.get(Study, study_id))
    known = [v.told for v in versions_of(owned, study_id) if v.told is not None]
    made = templates(plan, alike(t.properties for t in known if not t.failed))
    return [v if v.told is None else replace(v, as_cut=asked_of(plan, made, v.told)) for v in seen]


def _taken_back(row: DeviceVersion, plan: Draft) -> VersionSeen:
    draft = VersionDraft.model_validate(row.body)
    return VersionSeen(
        row=row, draft=draft, changed=(), says="This version was removed.", rules=(), side=side_view(draft), drawing=drawn(plan, draft), cost=0.0, photo=False
    )


def one_version(owned: Owned, study_id: UUID, version_id: UUID) -> VersionSeen:
    """One version as `versions_of` shows it. Raises NotFound."""
    row = owned.get(DeviceVersion, version_id)
    return next((v for v in versions_of(owned, study_id) if v.row.id == version_id), None) or _taken_back(row, plan_of(owned.get(Study, study_id)))


@dataclass(frozen=True, slots=True, kw_only=True)
class Compared:
    """Two versions side by side: every difference, and the sentence that says what can be concluded."""

    changed: tuple[Change, ...]
    says: str


def compare_versions(owned: Owned, study_id: UUID, first: UUID, second: UUID) -> Compared:
    """Any two versions of a study, of one device or of two. Raises NotFound, Refused."""
    one, two = owned.get(DeviceVersion, first), owned.get(DeviceVersion, second)
    if {one.study_id, two.study_id} != {study_id}:
        raise Refused("These versions belong to another study.", code="version_elsewhere")
    found = differences(VersionDraft.model_validate(one.body), VersionDraft.model_validate(two.body))
    return Compared(changed=found, says=says_between(found))


def put_photo(owned: Owned, study_id: UUID, version_id: UUID, data: bytes, *, now: datetime) -> Photo:
    """Keep a version's photo, in place of the one before. Raises PhotoRefused, NotFound."""
    _of_study(owned, study_id, version_id)
    small = small_photo(data)
    owned.get(DeviceVersion, version_id, lock="update")  # of two at one moment the second waits, and replaces the first
    values = {"jpeg": small.jpeg, "width": small.width, "height": small.height, "taken_at": now}
    owned.session.exec(
        insert(Photo)
        .values(id=uuid5(version_id, "photo"), workspace_id=owned.workspace_id, version_id=version_id, **values)
        .on_conflict_do_update(constraint="photo_once", set_=values)
    )
    return photo_of(owned, study_id, version_id)


def photo_of(owned: Owned, study_id: UUID, version_id: UUID) -> Photo:
    """The photo of a version. Raises NotFound."""
    _of_study(owned, study_id, version_id)
    return owned.get(Photo, uuid5(version_id, "photo"))


def drop_photo(owned: Owned, study_id: UUID, version_id: UUID) -> None:
    """Take the photo away; where there is none, nothing happens."""
    _of_study(owned, study_id, version_id)
    found = owned.find(Photo, uuid5(version_id, "photo"))
    if found is not None:
        owned.session.delete(found)


def _of_study(owned: Owned, study_id: UUID, version_id: UUID) -> DeviceVersion:
    row = owned.get(DeviceVersion, version_id)
    if row.study_id != study_id:
        raise Refused("This version belongs to another study.", code="version_elsewhere")
    return row
