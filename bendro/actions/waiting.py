"""What waited in a browser and was saved there as a file, because it could not be sent from it: taken into its studies, or, where a study is
not there any more, into a new one made from the plan that the browser had."""

from __future__ import annotations

import base64
import binascii
from dataclasses import dataclass, field
from datetime import datetime
from typing import Annotated, Any, Literal
from uuid import UUID, uuid5

from pydantic import Field, ValidationError

from bendro.core.building.version import VersionDraft
from bendro.core.draft import Draft, Typed
from bendro.core.errors import CoreError, PlanRefused
from bendro.core.planning.upgrade import read_told
from bendro.core.record import TrialRecord
from bendro.core.seeing.given import SeenGiven
from bendro.store.errors import NotFound
from bendro.store.owned import Owned
from bendro.store.tables import Study, TrialRow

from .building import put_photo, put_version
from .errors import Refused
from .record import Ready, add_many, put_trial
from .seeing import keep_seen
from .studies import make_study, open_run
from .understanding import checked

FORM, VERSION = "bendro waiting", 1
MOST_STUDIES, MOST_TRIALS = 50, 5_000


class WaitingTrial(Typed):
    id: UUID
    body: TrialRecord


class WaitingVersion(Typed):
    id: UUID
    device: str = Field(max_length=60)
    draft: VersionDraft = VersionDraft()
    revision: int = Field(default=0, ge=0, le=10_000)
    withdrawn: bool = False


class WaitingPhoto(Typed):
    """jpeg: the picture as it was taken, in base64."""

    version_id: UUID
    jpeg: str = Field(max_length=28_000_000)


class WaitingSeen(Typed):
    """What was followed or felt at a trial, by the trial's id."""

    id: UUID
    body: SeenGiven


class WaitingRun(Typed):
    id: UUID
    adult: Annotated[str, Field(max_length=80)]
    cautions: list[Annotated[str, Field(max_length=600)]] = Field(max_length=60)
    mark: str = Field(default="", max_length=200)


class WaitingStudy(Typed):
    """plan: as the browser saw it last, None where it has none."""

    id: UUID
    title: str = Field(default="", max_length=120)
    plan: dict[str, Any] | None = None
    runs: list[WaitingRun] = Field(default=[], max_length=50)
    versions: list[WaitingVersion] = Field(default=[], max_length=500)
    photos: list[WaitingPhoto] = Field(default=[], max_length=100)
    trials: list[WaitingTrial] = Field(default=[], max_length=MOST_TRIALS)
    seen: list[WaitingSeen] = Field(default=[], max_length=MOST_TRIALS)


class WaitingFile(Typed):
    """form, version: of the file. kept_by: the teacher in whose sign-in all this was kept."""

    form: Literal["bendro waiting"]
    version: Literal[1]
    kept_by: str = Field(default="", max_length=80)
    studies: list[WaitingStudy] = Field(max_length=MOST_STUDIES)


@dataclass(slots=True, kw_only=True)
class Came:
    """What became of one study of a file. made: it was not there, and is a new one now. kept: trials that are there now. refused: what
    could not be taken, each in a sentence."""

    study_id: UUID
    title: str
    made: bool
    kept: int = 0
    refused: list[str] = field(default_factory=list)


def read_waiting(text: str) -> WaitingFile:
    """Raises Refused `waiting_other`."""
    try:
        return WaitingFile.model_validate_json(text.removeprefix("\ufeff"))
    except ValidationError as why:
        first = why.errors()[0]
        place = ".".join(str(p) for p in first["loc"][:5]) or "the file"
        raise Refused(
            f"This is not what a Bendro page saves of trials that wait, or it was changed ({place}). Nothing was read in. Save the file again.",
            code="waiting_other", where="file",
        ) from why  # fmt: skip


def take_waiting(owned: Owned, file: WaitingFile, *, now: datetime) -> list[Came]:
    """Take what waited into its studies. The same file again changes nothing. What cannot be taken is told and holds up nothing else."""
    return [_take(owned, one, file.kept_by, now) for one in file.studies]


def _take(owned: Owned, one: WaitingStudy, kept_by: str, now: datetime) -> Came:
    study = owned.find(Study, one.id)
    if study is not None and study.deleted_at is None:
        return _into(owned, study, one, kept_by, now)
    if one.plan is None:
        return Came(
            study_id=one.id, title=one.title, made=False,
            refused=[f"“{one.title or 'A study'}” is not here any more, and the file has no plan of it: its {len(one.trials)} trials stay in the file."],
        )  # fmt: skip
    try:
        draft = read_told(one.plan)
    except PlanRefused as why:
        return Came(study_id=one.id, title=one.title, made=False, refused=[f"The plan of “{one.title}” in this file cannot be read: {why.says}"])
    return _anew(owned, one, draft, kept_by, now)


def _into(owned: Owned, study: Study, one: WaitingStudy, kept_by: str, now: datetime) -> Came:
    came = Came(study_id=study.id, title=study.title, made=False)
    for run in one.runs:
        _try(owned, came, "The opening of the run", lambda run=run: open_run(owned, study.id, run_id=run.id, adult=run.adult, ticked=run.cautions, mark=run.mark, now=now))
    _versions(owned, came, one, lambda own: own, now)
    for trial in one.trials:
        given = _sent_for(trial.body, kept_by)
        came.kept += _try(owned, came, _called(given), lambda trial=trial, given=given: put_trial(owned, study.id, trial.id, given, now=now))
    _seen(owned, came, one, lambda own: own, now)
    return came


def _anew(owned: Owned, one: WaitingStudy, draft: Draft, kept_by: str, now: datetime) -> Came:
    """A new study of this school, whose identities follow from those of the file, so that the same file makes it once."""
    study_id = uuid5(one.id, f"waiting in {owned.workspace_id}")
    title = f"{one.title or draft.question or 'Trials that waited'}"[:110]
    there = owned.find(Study, study_id) is not None
    study = make_study(owned, study_id=study_id, title=title, draft=draft, now=now)
    came = Came(study_id=study.id, title=study.title, made=not there)
    _versions(owned, came, one, lambda own: uuid5(study_id, str(own)), now)
    ready = []
    newest: dict[UUID, TrialRecord] = {}
    for t in one.trials:
        if t.id not in newest or t.body.revision > newest[t.id].revision:
            newest[t.id] = t.body
    for own, body in newest.items():
        trial_id = uuid5(study_id, str(own))
        if owned.find(TrialRow, trial_id) is not None:
            came.kept += 1
            continue
        given = _sent_for(body, kept_by).model_copy(update={"revision": 1, "plan_version": None})
        try:
            ready.append(Ready(id=trial_id, given=given, readings=checked(draft, given)[1]))
        except CoreError as why:
            came.refused.append(f"{_called(given)}: {why.says}")
    add_many(owned, study_id, ready, now=now)
    came.kept += len(ready)
    _seen(owned, came, one, lambda own: uuid5(study_id, str(own)), now)
    return came


def _versions(owned: Owned, came: Came, one: WaitingStudy, as_id: Any, now: datetime) -> None:
    for v in one.versions:
        _try(
            owned, came, f"A version of {v.device}",
            lambda v=v: put_version(owned, came.study_id, as_id(v.id), device=v.device, draft=v.draft, revision=v.revision, withdrawn=v.withdrawn, now=now),
        )  # fmt: skip
    for p in one.photos:
        _try(owned, came, "A photo", lambda p=p: put_photo(owned, came.study_id, as_id(p.version_id), _picture(p.jpeg), now=now))


def _seen(owned: Owned, came: Came, one: WaitingStudy, as_id: Any, now: datetime) -> None:
    for s in one.seen:
        _try(owned, came, "What was followed or felt at a trial", lambda s=s: keep_seen(owned, came.study_id, as_id(s.id), s.body, own=None, now=now))


def _picture(text: str) -> bytes:
    try:
        return base64.b64decode(text, validate=True)
    except binascii.Error as why:
        raise Refused("Its picture is damaged in the file.", code="photo_unreadable", where="photo") from why


def _try(owned: Owned, came: Came, called: str, act: Any) -> int:
    """Do one thing by itself: what is refused is told, and leaves nothing."""
    try:
        with owned.session.begin_nested():
            act()
    except (CoreError, NotFound) as why:
        came.refused.append(f"{called}: {why.says}")
        return 0
    return 1


def _sent_for(given: TrialRecord, kept_by: str) -> TrialRecord:
    return given if given.kept_by or not kept_by else given.model_copy(update={"kept_by": kept_by})


def _called(given: TrialRecord) -> str:
    written = next((", ".join(r.texts) for r in given.readings if r.written), "")
    return f"{given.level}, {given.group or 'the class'}{f': “{written}”' if written else ''}"
