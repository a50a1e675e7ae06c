"""The only writer of trials and readings: it checks plan and run, gives the trial its place, and writes trial, readings and event at
once. Every write may be sent again."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from functools import lru_cache
from typing import Any, NamedTuple
from uuid import UUID, uuid5

import orjson
from sqlalchemy import Row, TextClause

from bendro.core.draft import Draft
from bendro.core.measuring.missing import missing
from bendro.core.measuring.scales import same_quantity
from bendro.core.measuring.taking import Read, Told
from bendro.core.planning.plan import all_level_ids, planned_turns
from bendro.core.planning.safety import safety_mark
from bendro.core.planning.stock import OUTSIDE_WHY
from bendro.core.planning.upgrade import read_plan
from bendro.core.record import BEHAVIOUR, ReadingRecord, TrialRecord
from bendro.core.record.ladders import on_rungs
from bendro.core.record.model import same_meant
from bendro.store.errors import NotFound
from bendro.store.owned import Owned
from bendro.store.tables import Conditions, ReadingRow, Study, TrialRow
from bendro.store.trial_writes import ADD, ADD_MANY, ADD_STRANGE, CHANGE, FILL, GIVE_UP, GIVING_OUT, LATE, LOOK, LOOK_ALONE, STRANGERS

from .errors import Clash, NotAllowed, Refused
from .trials import Kept, rows_of, seen_trials
from .understanding import checked

#: A release before or after these years is no clock of a school, and cannot be told in every time zone.
FIRST_YEAR, LAST_YEAR = 1970, 2199
ROWS_AT_ONCE = 1000
#: The label of a seat in a lesson that has no groups.
WHOLE_CLASS = "the class"


@dataclass(frozen=True, slots=True, kw_only=True)
class _Plan:
    """A plan and what a save asks of it: its safety mark, the cells that it has turns for, and the levels and measures that have rows."""

    draft: Draft
    mark: str
    cells: frozenset[tuple[int, str]]
    levels: frozenset[str]
    measures: frozenset[str]


@lru_cache(maxsize=256)
def _plan(study_id: UUID, version: int, text: str) -> _Plan:
    """A plan read once for each of its versions."""
    draft = read_plan(json.loads(text))
    return _Plan(
        draft=draft, mark=safety_mark(draft), cells=frozenset((t.block, t.level) for t in planned_turns(draft, 0)),
        levels=all_level_ids(draft), measures=frozenset({BEHAVIOUR, *(m.id for m in draft.measures)}),
    )  # fmt: skip


class Known(NamedTuple):
    """What a new trial is judged by, as the save before it saw it: whose study it is, its plan, and the run opened last. Whether it still
    stands is seen by the write itself."""

    workspace_id: UUID
    account_id: UUID
    draft: str
    version: int
    run_mark: str
    finished: bool = False
    held_study: UUID | None = None
    held_revision: int | None = None
    held_body: dict[str, Any] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Save:
    """One revision of a trial on its way: whose, which, and when it came. It says what is looked at, judges what is seen, and says what
    is written; who sends the two statements is not its business."""

    workspace_id: UUID
    by: UUID | None
    study_id: UUID
    trial_id: UUID
    given: TrialRecord
    now: datetime

    @property
    def released_at(self) -> datetime:
        """When it was released, by the server's clock. Raises Refused for a time that no clock of a school could tell."""
        off = self.given.release_off_s(self.now)
        try:
            return _storable_time(self.given.released_at + timedelta(seconds=off))
        except OverflowError:
            return _storable_time(self.given.released_at)

    def looks(self) -> dict[str, Any]:
        """What the look needs."""
        return {"study_id": self.study_id, "workspace_id": self.workspace_id, "trial_id": self.trial_id, "revision": self.given.revision}

    def judge(self, seen: Row[Any] | Known) -> Write:
        """What is written, from what was seen of study, run and record. Raises ReadingRefused, and Refused, also for a release that no
        clock of a school could tell."""
        given = self.given
        plan = _plan(self.study_id, seen.version, seen.draft)
        draft, cells = plan.draft, plan.cells
        trial, readings = checked(draft, given)
        if seen.held_study is not None and seen.held_study != self.study_id:
            raise Refused("This trial belongs to another study.", code="trial_elsewhere")
        if seen.held_body is not None:
            return Write(statement=None, values={}, kept=None, draft=draft, same=same_meant(seen.held_body, given), standing=seen.held_revision or 0)
        held = seen.held_revision
        new = held is None
        if new:
            _check_run(seen.run_mark, seen.version, plan.mark, given)
            _check_whole(draft, given, readings)
        outside = "finished" if seen.finished and not given.placed else ""
        row, rows = _row(self, trial, outside), _reading_rows(self, readings)
        why = outside or _outside(cells, given) or ("" if _fits(draft, readings) else "measure")
        drops = on_rungs(draft)
        claims = bool(cells) and given.state == "kept" and not given.practice and not why and not drops
        values = {
            "trial": _text(row), "readings": _text(rows), "event": _text(_event(self)),
            "conditions": _text(_conditions(self)), "placed": given.placed, "claims": claims,
        }  # fmt: skip
        strange = given.level not in plan.levels or not plan.measures.issuperset(one.measure for one, _ in readings)
        statement = (ADD_STRANGE if strange else ADD) if new else CHANGE if given.revision > (held or 0) else LATE
        kept = None
        if new and cells and not drops and not given.practice:
            kept = Kept(trial=row, readings=rows, number=0, place="outside" if why else "turn", why=OUTSIDE_WHY.get(why, ""))
        return Write(
            statement=statement, values={k: v for k, v in values.items() if f":{k}" in statement.text}, kept=kept, draft=draft,
            claims=claims, gives_out=statement is CHANGE or (new and drops),
        )  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Write:
    """What a save writes: one statement that answers with a row when it has written. kept: what is answered without another look, None
    where the whole record must be seen for it. statement None: this revision is there already; same: with the same contents. claims: it
    takes its turn where that is free. gives_out: turns may be filled otherwise than before, which only the whole record tells."""

    statement: TextClause | None
    values: dict[str, Any]
    kept: Kept | None
    draft: Draft
    same: bool = True
    standing: int = 0
    claims: bool = False
    gives_out: bool = False

    def told(self, done: Row[Any]) -> Kept | None:
        """What is answered, from what the statement gave: its number, and whether its turn was filled already."""
        if self.kept is None:
            return None
        trial = {**self.kept.trial, "released_at": done.released_at}
        return replace(self.kept, trial=trial, number=done.before_it + 1, place="extra" if self.claims and not done.fills else self.kept.place)


def put_trial(owned: Owned, study_id: UUID, trial_id: UUID, given: TrialRecord, *, now: datetime) -> Kept:
    """Store a revision of a trial exactly once.

    Sent again: nothing changes. An older revision that arrives late is kept in the history only. The same revision with
    other contents is a clash, answered with both. The plan cannot change while a trial is being stored. Raises ReadingRefused,
    Refused, Clash, NotFound.
    """
    save = Save(workspace_id=owned.workspace_id, by=owned.by, study_id=study_id, trial_id=trial_id, given=given, now=now)
    for _ in range(2):
        seen = owned.session.execute(LOOK if given.revision == 1 else LOOK_ALONE, save.looks()).first()
        if seen is None:
            raise NotFound("study")
        write = save.judge(seen)
        if write.statement is None:
            if not write.same:
                raise Clash(
                    "This trial was changed on another device. Look at both and choose.",
                    code="trial_changed",
                    facts={"yours": given.meant(), "theirs": _as_it_stands(owned, trial_id), "revision": write.standing},
                )
            return _stored(owned, trial_id)
        done = owned.session.execute(write.statement, write.values).first()
        if done is not None:
            if write.gives_out:
                give_out_turns(owned, study_id)
            return write.told(done) or _stored(owned, trial_id)
        # the same id was being written at this moment: look again, what stands is compared then
    raise NotFound("trial")  # the id is another workspace's


def check_own(owned: Owned, study_id: UUID, trial_id: UUID, given: TrialRecord, label: str) -> None:
    """A group keeps and mends the trials of its own turns. label: the group's. Raises NotAllowed."""
    held = owned.find(TrialRow, trial_id)
    groups = {given.group, *([held.group_label] if held is not None and held.study_id == study_id else [])}
    if label != WHOLE_CLASS and any(g.strip().casefold() != label.casefold() for g in groups):
        raise NotAllowed(f"{label}’s seat keeps the trials of {label}. This one is of another group.", code="not_own", where="group")


def _text(made: Any) -> str:
    return orjson.dumps(made).decode()


def give_out_turns(owned: Owned, study_id: UUID) -> None:
    """Every turn is filled by the trial that fills it as the whole record tells: one that holds its turn keeps it. Raises NotFound, PlanRefused."""
    owned.session.execute(GIVING_OUT, {"study_id": str(study_id)})
    study = owned.get(Study, study_id)
    _, stock = seen_trials(study, rows_of(owned, study_id))
    filled = _text([{"block": block, "level": level, "trial_id": str(one)} for (block, level), one in stock.filled_by.items()])
    for statement in (GIVE_UP, FILL):  # given up first: no trial fills two turns, not even for a moment
        owned.session.execute(statement, {"study_id": study_id, "filled": filled})


def _storable_time(released: datetime) -> datetime:
    if not FIRST_YEAR <= released.year <= LAST_YEAR:
        raise Refused(
            f"The clock of this device says the year {released.year}. Set its date, or write the trial down again.",
            code="release_year",
            where="released_at",
        )
    return released


def _check_run(run_mark: str | None, version: int, mark: str, given: TrialRecord) -> None:
    """A first trial needs a run that the adult in charge has opened for the plan under which it was written."""
    if run_mark is None:
        raise Refused(
            "No run is open for this study. The adult in charge reads the cautions and opens it first.", code="run_not_open", where="run"
        )
    if given.plan_version == version and run_mark != mark:
        raise Refused(
            "The plan has changed since the run was opened. The adult in charge reads the cautions and opens it again.",
            code="run_lapsed",
            where="run",
        )


def _check_whole(draft: Draft, given: TrialRecord, readings: Sequence[tuple[ReadingRecord, Read | None]]) -> None:
    """A trial is kept when everything that answers the question is written; what was kept otherwise before stays as it is."""
    first = draft.measure.id
    lacks = missing(draft, {one.payload for one, got in readings if one.measure == first and got is not None}) if given.state == "kept" else ""
    if lacks:
        raise Refused(lacks, code="payload_missing", where="reading")


def _outside(cells: frozenset[tuple[int, str]], given: TrialRecord) -> str:
    """Why a trial has no place in the plan, as `take_stock` has it; "" where it has one."""
    if not cells or (given.block, given.level) in cells:
        return ""
    return "block" if any(level == given.level for _, level in cells) else "level"


def _fits(draft: Draft, readings: Sequence[tuple[ReadingRecord, Read | None]]) -> bool:
    first = draft.measure
    return all(same_quantity(one.unit, first) for one, _ in readings if one.measure == first.id)


def _row(save: Save, trial: TrialRecord, outside: str, others: Sequence[Sequence[str]] = ()) -> dict[str, Any]:
    return {
        **trial.model_dump(mode="json", exclude={"group", "readings", "conditions", "placed", "fault", "released_at", "sent_at"}),
        "id": str(save.trial_id), "workspace_id": str(save.workspace_id), "study_id": str(save.study_id), "group_label": trial.group,
        "fault": trial.fault.strip(), "conditions_id": None if not trial.conditions else str(conditions_id(save.study_id, trial.conditions)),
        "outside": outside, "others": [list(pair) for pair in others], "released_at": save.released_at.isoformat(),
        "by": None if save.by is None else str(save.by), "received_at": save.now.isoformat(),
    }  # fmt: skip


def _reading_rows(save: Save, readings: Sequence[tuple[ReadingRecord, Read | None]]) -> list[dict[str, Any]]:
    return [
        {
            "trial_id": str(save.trial_id), "measure": one.measure, "payload": one.payload, "workspace_id": str(save.workspace_id),
            "study_id": str(save.study_id), "texts": list(one.texts), "unit": one.unit, "taken": one.taken, "stamps": list(one.stamps), "source": one.source, "clock_s": one.clock_s, **_understood_columns(got),
        }
        for one, got in readings
    ]  # fmt: skip


def _understood_columns(got: Read | None) -> dict[str, Any]:
    none: dict[str, Any] = {"kind": "", "value": None, "resolution": None, "doubt": None, "words": None, "raw": None}
    if isinstance(got, Told):
        return {**none, "kind": "words", "words": list(got.words)}
    if got is None:
        return none
    held = got.model_dump(mode="json", exclude_none=True)
    held.pop("unit", None)
    numbers = {k: held.pop(k) for k in ("kind", "value", "resolution", "doubt")}
    return {**none, **numbers, "raw": held or None}


def conditions_id(study_id: UUID, held: Mapping[str, str]) -> UUID:
    """One identity for one set of conditions, so that trials made offline share it."""
    return uuid5(study_id, "conditions:" + json.dumps(dict(sorted(held.items())), ensure_ascii=False))


def _conditions(save: Save) -> list[dict[str, Any]]:
    held = save.given.conditions
    if not held:
        return []
    return [
        {
            "id": str(conditions_id(save.study_id, held)), "workspace_id": str(save.workspace_id), "study_id": str(save.study_id), "held": held,
            "confirmed_at": save.now.isoformat(),
        }
    ]  # fmt: skip


def _event(save: Save) -> dict[str, Any]:
    return {
        "workspace_id": str(save.workspace_id), "study_id": str(save.study_id), "kind": "trial", "subject": str(save.trial_id),
        "revision": save.given.revision, "body": save.given.meant(), "by": None if save.by is None else str(save.by),
        "device_at": save.given.released_at.isoformat(), "received_at": save.now.isoformat(),
    }  # fmt: skip


def _stored(owned: Owned, trial_id: UUID) -> Kept:
    row = owned.get(TrialRow, trial_id)
    readings = owned.all(owned.select(ReadingRow).where(ReadingRow.trial_id == trial_id))
    return Kept(trial=row.model_dump(), readings=[r.model_dump() for r in readings], number=0, place=None)


def _as_it_stands(owned: Owned, trial_id: UUID) -> dict[str, Any]:
    """A trial in the form in which it is given."""
    row = owned.get(TrialRow, trial_id)
    readings = owned.all(owned.select(ReadingRow).where(ReadingRow.trial_id == trial_id))
    held = owned.find(Conditions, row.conditions_id) if row.conditions_id else None
    return TrialRecord(
        **row.model_dump(include=set(TrialRecord.model_fields)),
        group=row.group_label,
        conditions=held.held if held else {},
        readings=[ReadingRecord(**r.model_dump(include=set(ReadingRecord.model_fields))) for r in readings],
    ).meant()


@dataclass(frozen=True, slots=True, kw_only=True)
class Ready:
    """A trial that was understood already, such as one of a table: others are its further columns; outside: why it has no place in the
    plan, "" where it has one."""

    id: UUID
    given: TrialRecord
    readings: Sequence[tuple[ReadingRecord, Read | None]]
    others: Sequence[tuple[str, str]] = ()
    outside: str = ""


def add_many(owned: Owned, study_id: UUID, trials: Sequence[Ready], *, now: datetime) -> None:
    """Many new trials of a study at once, each with its readings and its first event, and the turns that they fill."""
    rows, readings, events = [], [], []
    held: dict[str, dict[str, Any]] = {}
    for t in trials:
        save = Save(workspace_id=owned.workspace_id, by=owned.by, study_id=study_id, trial_id=t.id, given=t.given, now=now)
        rows.append(_row(save, t.given, t.outside, t.others))
        readings += _reading_rows(save, t.readings)
        events.append(_event(save))
        held |= {c["id"]: c for c in _conditions(save)}
    if not rows:
        return
    owned.session.execute(STRANGERS, {"trials": _text([{k: r[k] for k in ("study_id", "level", "workspace_id")} for r in rows]), "readings": _text(readings)})
    for statement, made in zip(ADD_MANY, (list(held.values()), rows, readings, events), strict=True):
        for start in range(0, len(made), ROWS_AT_ONCE):
            owned.session.execute(statement, {"rows": _text(made[start : start + ROWS_AT_ONCE])})
    give_out_turns(owned, study_id)


def note_event(owned: Owned, study_id: UUID, kind: str, subject: UUID, revision: int, body: Mapping[str, Any], *, now: datetime) -> None:
    """Append an event about something else than a trial. The same again changes nothing."""
    event = {
        "workspace_id": str(owned.workspace_id), "study_id": str(study_id), "kind": kind, "subject": str(subject), "revision": revision,
        "body": dict(body), "by": None if owned.by is None else str(owned.by), "device_at": None, "received_at": now.isoformat(),
    }  # fmt: skip
    owned.session.execute(LATE, {"event": _text(event)})
