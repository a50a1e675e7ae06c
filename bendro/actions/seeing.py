"""What a camera or a sensor followed at a trial, kept beside it: the table of numbers, and small pictures where they were wanted."""

from __future__ import annotations

import base64
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from scipy.constants import g as STANDARD_G
from sqlmodel import col, select

from bendro.core.measuring.derived import prepare_all
from bendro.core.measuring.heard import Got, Heard
from bendro.core.planning.plan import unreadable
from bendro.core.seeing.felt import Felt, Log, felt
from bendro.core.seeing.felt import table_of as felt_table
from bendro.core.seeing.followed import Looked, Told, look
from bendro.core.seeing.found import Found
from bendro.core.seeing.given import FollowedGiven, SeenGiven
from bendro.core.seeing.marks import Corners, Marks
from bendro.core.seeing.motion import Track, table_of
from bendro.files.photo import small_photo
from bendro.store.errors import NotFound
from bendro.store.owned import Owned
from bendro.store.tables import FeltLog, Study, TrackRow, TrialPicture, TrialRow

from . import hearing
from .errors import NotAllowed, Refused
from .plans import plan_of

#: Calculators of a speed from a time, and what they call the length.
OVER = {"average-speed": "distance", "gate-speed": "spacing"}
#: So many small pictures of one trial say what is to be seen.
MOST_PICTURES = 4
#: So many logs wait for their trials.
MOST_LOGS = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class Seen:
    """kind: followed or felt, "" where only pictures are kept. rows of columns; found: what was worked out; pictures: how many."""

    trial_id: UUID
    kind: str
    columns: Sequence[str]
    rows: Sequence[Sequence[float]]
    found: Sequence[Found]
    pictures: int


def followed(kind: Looked, track: Track, laid: Marks | Corners) -> Told:
    """What a track tells. Raises CoreError."""
    return look(kind, track, laid, g=STANDARD_G)


def apart_in_plan(owned: Owned, study_id: UUID) -> tuple[float, float] | None:
    """The length by which the plan works out a speed from a time, m, with its standard uncertainty; None where it works out none, or reads the length
    anew at every trial. Raises NotFound."""
    draft = plan_of(owned.get(Study, study_id))
    if unreadable(draft):
        return None
    ready, _ = prepare_all(draft)
    for one in ready.values():
        if one.calculator.id in OVER:
            held = one.common.get(OVER[one.calculator.id])
            if held is not None:
                return held.value, held.doubt
    return None


def fell(log: Log) -> Felt:
    """What a log tells. Raises CoreError."""
    return felt(log, g=STANDARD_G)


def tell_lane(owned: Owned, study_id: UUID, name: str, log: Log, got: Felt, *, number: int, lane: int, units: Mapping[str, Sequence[str]], now: datetime) -> list[Got] | None:
    """The fall that a phone felt, told to the lanes that listen: what became of it, None where none listens. The log waits for the trial that is kept with
    it. number: of the phone's own drops, 1 …; lane: of a heat, 0 where one thing falls; units: in which the plan reads each quantity. Raises NotFound."""
    owned.get(Study, study_id, lock="share")
    fall = got.found[0]
    steady = {"instrument": "felt", "name": name[:40], "step": max(1e-6, got.gap_s), "lane": lane}
    # every drop has two numbers of its own, so that one that is sent again is known
    events = [
        Heard.model_validate({**steady, "n": 2 * number, "t": max(0.0, got.release_s), "what": "release"}),
        Heard.model_validate({**steady, "n": 2 * number + 1, "t": max(0.0, got.land_s), "what": "land", "u": fall.u}),
    ]
    more = tuple((f.name, f.quantity, tuple((u, f.in_unit(u)) for u in dict.fromkeys([f.unit, *units.get(f.quantity, ())]))) for f in got.found)
    given = hearing.hear(owned.session, study_id, events, now=now, more=more)
    if given is None:
        return None
    told = [g for one in given for g in one]
    for reading in (g for g in told if g.state == "reading"):
        _wait(owned, study_id, reading.source, reading.stamps, log, now)
    return told


def _wait(owned: Owned, study_id: UUID, source: str, stamps: Sequence[float], log: Log, now: datetime) -> None:
    """Keep a log until its trial is kept; the oldest of many go."""
    held = owned.all(owned.select(FeltLog).where(FeltLog.study_id == study_id).order_by(col(FeltLog.felt_at)))
    for old in held[: max(0, len(held) - MOST_LOGS + 1)]:
        owned.session.delete(old)
    if not any((one.source, one.stamps) == (source, _key(stamps)) for one in held):
        owned.new(FeltLog, study_id=study_id, source=source, stamps=_key(stamps), log=log.model_dump(), felt_at=now)


def _key(stamps: Sequence[float]) -> str:
    return json.dumps([round(float(s), 6) for s in stamps])


def waiting_log(owned: Owned, study_id: UUID, source: str, stamps: Sequence[float]) -> Log | None:
    """The log of a reading that a lane heard, None where it is gone; it waits no longer."""
    row = owned.first(owned.select(FeltLog).where(FeltLog.study_id == study_id, FeltLog.source == source, FeltLog.stamps == _key(stamps)))
    if row is None:
        return None
    owned.session.delete(row)
    return Log.model_validate(row.log)


def keep_seen(owned: Owned, study_id: UUID, trial_id: UUID, given: SeenGiven, *, own: str | None, now: datetime) -> Seen:
    """Keep what was followed or felt at a trial, and its pictures; sent again, it is the same. own: the group whose trials alone may be touched.
    Raises NotFound, NotAllowed, Refused, CoreError, PhotoRefused."""
    owned.get(Study, study_id)
    trial = owned.find(TrialRow, trial_id, lock="update")
    if trial is None or trial.study_id != study_id:
        raise NotFound("trial")
    if own is not None and trial.group_label != own:
        raise NotAllowed(f"This trial is not {own}’s. Ask the teacher.", code="not_own")
    if len(given.pictures) > MOST_PICTURES:
        raise Refused(f"{len(given.pictures)} pictures were sent; a trial keeps {MOST_PICTURES}. Choose the ones that show it.", code="pictures_many", where="pictures")
    pictures = [_decoded(p) for p in given.pictures]
    log = None if given.felt is None else waiting_log(owned, study_id, given.felt.source, given.felt.stamps)
    values = _worked(given.followed, log)
    if values is not None:
        put_track(owned, study_id, trial_id, values, now=now)
    for place, data in enumerate(pictures, 1):
        put_picture(owned, study_id, trial_id, place, small_photo(data).jpeg, now=now)
    owned.session.flush()
    kept = all_seen(owned, study_id, trial_id=trial_id)
    return kept[0] if kept else Seen(trial_id=trial_id, kind="", columns=(), rows=(), found=(), pictures=0)


def _decoded(text: str) -> bytes:
    try:
        return base64.b64decode(text, validate=True)
    except ValueError as why:  # binascii.Error is one
        raise Refused("A picture did not arrive whole. Keep it again.", code="picture_broken", where="pictures") from why


def _worked(track: FollowedGiven | None, log: Log | None) -> dict[str, Any] | None:
    if track is not None:
        told = followed(track.looked, track.track, track.laid())
        columns, rows = table_of(told.motion)
        return {"kind": "followed", "columns": list(columns), "rows": rows, "found": [f.model_dump() for f in told.found]}
    if log is not None:
        columns, rows = felt_table(log)
        return {"kind": "felt", "columns": list(columns), "rows": rows, "found": [f.model_dump() for f in fell(log).found]}
    return None


def put_track(owned: Owned, study_id: UUID, trial_id: UUID, values: Mapping[str, Any], *, now: datetime) -> None:
    """The table of a trial, in place of one that was there. values: kind, columns, rows, found, as the row has them."""
    row = owned.first(owned.select(TrackRow).where(TrackRow.trial_id == trial_id))
    if row is not None:
        owned.session.delete(row)
        owned.session.flush()
    owned.new(TrackRow, trial_id=trial_id, study_id=study_id, made_at=now, **values)


def put_picture(owned: Owned, study_id: UUID, trial_id: UUID, place: int, jpeg: bytes, *, now: datetime) -> None:
    """A small picture of a trial at its place, instead of one that was there."""
    row = owned.first(owned.select(TrialPicture).where(TrialPicture.trial_id == trial_id, TrialPicture.place == place))
    if row is None:
        owned.new(TrialPicture, trial_id=trial_id, study_id=study_id, place=place, jpeg=jpeg, taken_at=now)
    else:
        row.jpeg, row.taken_at = jpeg, now
        owned.session.add(row)


def seen_of(owned: Owned, study_id: UUID, trial_id: UUID) -> Seen:
    """What is kept of a trial. Raises NotFound where nothing is."""
    found = all_seen(owned, study_id, trial_id=trial_id)
    if not found:
        raise NotFound("seen")
    return found[0]


def all_seen(owned: Owned, study_id: UUID, *, trial_id: UUID | None = None) -> list[Seen]:
    """What is kept of every trial of a study, or of one. Raises NotFound."""
    owned.get(Study, study_id)
    only = () if trial_id is None else (trial_id,)
    tracks = {t.trial_id: t for t in owned.all(owned.select(TrackRow).where(TrackRow.study_id == study_id, *(TrackRow.trial_id == i for i in only)))}
    pictures: dict[UUID, int] = {}
    of = select(TrialPicture.trial_id).where(TrialPicture.workspace_id == owned.workspace_id, TrialPicture.study_id == study_id, *(TrialPicture.trial_id == i for i in only))
    for one in owned.session.exec(of).all():
        pictures[one] = pictures.get(one, 0) + 1
    made = []
    for one in sorted({*tracks, *pictures}, key=str):
        t = tracks.get(one)
        made.append(
            Seen(trial_id=one, kind=t.kind if t else "", columns=t.columns if t else (), rows=t.rows if t else (), found=[Found.model_validate(f) for f in t.found] if t else (), pictures=pictures.get(one, 0))
        )
    return made


def seen_ids(owned: Owned, study_id: UUID) -> list[UUID]:
    """Of which trials anything is kept, without reading it. Raises NotFound."""
    owned.get(Study, study_id)
    found = {i for table in (TrackRow, TrialPicture) for i in owned.session.exec(select(table.trial_id).where(table.workspace_id == owned.workspace_id, table.study_id == study_id)).all()}
    return sorted(found, key=str)


def picture_of(owned: Owned, study_id: UUID, trial_id: UUID, place: int) -> bytes:
    """One small picture. Raises NotFound."""
    found: TrialPicture | None = owned.first(owned.select(TrialPicture).where(TrialPicture.study_id == study_id, TrialPicture.trial_id == trial_id, TrialPicture.place == place))
    if found is None:
        raise NotFound("picture")
    return found.jpeg


def pictures_of(owned: Owned, study_id: UUID) -> list[TrialPicture]:
    """All small pictures of a study's trials, in order."""
    return list(owned.all(owned.select(TrialPicture).where(TrialPicture.study_id == study_id).order_by(col(TrialPicture.trial_id), col(TrialPicture.place))))
