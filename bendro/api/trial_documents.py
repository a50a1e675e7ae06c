"""Trials as they are told."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import UTC
from typing import Any
from uuid import UUID

from bendro.actions import responses
from bendro.actions.plans import plan_of
from bendro.core.draft import Draft
from bendro.core.measuring.derived import Worked
from bendro.core.measuring.zones import points_text
from bendro.core.record.given import Deriving, given, points_at
from bendro.core.record.responses import responses_of
from bendro.core.record.seen import ReadingSeen, TrialSeen
from bendro.core.written import written_of
from bendro.store.owned import Owned
from bendro.store.tables import Study

#: What a row has as the trial was given.
_SAME = ("block", "level", "group", "person", "device", "version", "specimen", "rung", "practice", "heat", "answered", "state", "fault", "note", "kept_by", "revision")


def trial_document(seen: TrialSeen, draft: Draft | None, work: Deriving | None, *, clock_off_s: float = 0.0) -> dict[str, Any]:
    """A trial as `TrialOut` has it; draft: the plan by which its points are told, where it counts. Built by hand: a page of ten thousand
    is not checked a second time on its way out."""
    released, inside = seen.released_at, seen.place != "outside"
    return {
        **{k: getattr(seen, k) for k in _SAME},
        "id": str(seen.id),
        "released_at": (released if isinstance(released, str) else released.astimezone(UTC).isoformat()).replace("+00:00", "Z"),
        "readings": [_reading(r) for r in seen.readings],
        "derived": [*_points(seen, draft), *_worked(seen, work)] if inside and seen.state == "kept" else [],
        "given": _given(seen, draft, work) if inside and draft is not None else [],
        "conditions": dict(seen.conditions),
        "number": seen.number,
        "place": seen.place,
        "why": seen.why,
        "clock_off_s": clock_off_s,
    }


def _reading(r: ReadingSeen) -> dict[str, Any]:
    t = r.reading
    told = None
    if t is not None:
        told = {
            "kind": t.kind, "value": t.value, "resolution": t.resolution, "doubt": t.doubt, "timers": t.timers, "flagged": t.flagged,
            "method": t.method, "scatter": t.scatter,
        }  # fmt: skip
    return {
        "measure": r.measure, "payload": r.payload, "texts": r.texts, "unit": r.unit, "taken": r.taken, "stamps": r.stamps, "source": r.source,
        "clock_s": r.clock_s,
        "reading": told, "words": r.words,
    }  # fmt: skip


def _points(seen: TrialSeen, draft: Draft | None) -> list[dict[str, Any]]:
    """What the landings of a trial score, under the identity of their measure: there the reading itself is a place."""
    got = [] if draft is None else points_at(draft, seen)
    return [{"id": one, "value": points, "text": points_text(points), "says": ""} for one, points in got]


def _given(seen: TrialSeen, draft: Draft, work: Deriving | None) -> list[dict[str, Any]]:
    """What a trial gives for every measure that is read, by the core's one rule; what is worked out stands under derived."""
    made = []
    for one in responses_of(draft):
        if not one.derived and one.shape != "behaviour":
            got = given(draft, seen, one, work)
            made.append({"id": one.id, "value": got.value, "kind": got.kind, "word": got.word, "survived": got.survived, "text": got.text, "says": got.why})
    return made


def _worked(seen: TrialSeen, work: Deriving | None) -> list[dict[str, Any]]:
    if work is None:
        return []
    made: list[dict[str, Any]] = []
    for one, got in work.at(seen).items():
        if isinstance(got, Worked):
            made.append({"id": one, "value": got.value, "text": written_of(got.value, got.doubt + got.shared, got.kind, got.unit), "says": ""})
        else:
            made.append({"id": one, "value": None, "text": "", "says": got})
    return made


def plan_and_work(mine: Owned, study_id: UUID) -> tuple[Draft, Deriving | None]:
    """What is needed for telling a study's trials beside themselves."""
    study = mine.get(Study, study_id)
    draft = plan_of(study)
    return draft, responses.deriving(mine, study, draft)


def trial_documents(mine: Owned, study_id: UUID, seen: Sequence[TrialSeen]) -> Iterator[dict[str, Any]]:
    """Trials as they are told, one after the other."""
    draft, work = plan_and_work(mine, study_id)
    return (trial_document(t, draft, work) for t in seen)
