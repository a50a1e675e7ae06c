"""How the demo's studies are made: the same ids, numbers and times relative to now, every time."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime, timedelta
from typing import Any
from uuid import NAMESPACE_URL, UUID, uuid5

import numpy as np

from bendro.actions.record import put_trial
from bendro.actions.studies import make_study, open_run
from bendro.core.draft import Draft, MeasureDraft, VariableDraft
from bendro.core.families import family
from bendro.core.planning.order import Turn
from bendro.core.planning.plan import planned_turns
from bendro.core.planning.safety import cautions_of
from bendro.core.record import BEHAVIOUR, ReadingRecord, TrialRecord
from bendro.store.owned import Owned

GROUPS = ["Avocet", "Bittern", "Curlew", "Dunlin", "Egret", "Fulmar"]
#: Scatter of one thumb on a stopwatch, s (common practice: about 0.1).
THUMB_S = 0.08
Rng = np.random.Generator
#: One trial of the demo: texts, second reading, behaviour, fault of a void tried first (or "").
Outcome = tuple[list[str], str, str, str]
#: A piece of the demo: the table and id of the row by which it is known to be there, and what makes it.
Part = tuple[type[Any], UUID, Callable[[Owned, datetime], None]]


def demo_id(*parts: object) -> UUID:
    return uuid5(NAMESPACE_URL, "bendro-demo:" + ":".join(map(str, parts)))


def measure_of(family_id: str, name: str, **more: object) -> MeasureDraft:
    m = next(m for m in family(family_id).measures if m.name == name)
    return MeasureDraft(name=m.name, quantity=m.quantity, unit=m.unit, rule=m.rule, better=m.better, signed=m.signed, timed=m.timed, scale=m.scale, words=list(m.words), each_payload=m.each_payload, **{"timers": m.timers, **more})


def variable_of(family_id: str, name: str, levels: list[str]) -> VariableDraft:
    v = next(v for v in family(family_id).variables if v.name == name)
    return VariableDraft(name=v.name, kind=v.kind, quantity=v.quantity or "number", unit=v.unit, levels=levels)


def run_study(
    owned: Owned, study_id: UUID, draft: Draft, seed: int, begun: datetime, outcome: Callable[[Turn, Rng], Outcome], upto: int | None = None
) -> None:
    """Open a run and put its trials, a minute apart; a void is tried again at once."""
    open_run(owned, study_id, run_id=demo_id(study_id, "run"), adult="Teacher", ticked=list(cautions_of(draft)), now=begun)
    rng, at = np.random.default_rng(seed), begun
    for turn in planned_turns(draft, seed)[:upto]:
        texts, also, behaviour, fault = outcome(turn, rng)
        tries = [fault, ""] if fault else [""]
        for number, fault_now in enumerate(tries):
            at += timedelta(seconds=50 + float(rng.integers(0, 20)))
            put_trial(
                owned,
                study_id,
                demo_id(study_id, turn.block, turn.level, number),
                TrialRecord(
                    block=turn.block,
                    level=turn.level,
                    group=turn.group,
                    readings=_void_readings(draft, texts) if fault_now else _readings(draft, texts, also, behaviour),
                    state="void" if fault_now else "kept",
                    fault=fault_now,
                    note="",
                    released_at=at,
                    revision=1,
                ),
                now=at,
            )


def _void_readings(draft: Draft, texts: list[str]) -> list[ReadingRecord]:
    """What had been read before the fault was seen: about half."""
    return [ReadingRecord(measure="m1", texts=[f"{float(texts[0]) * 0.45:.2f}"], unit=draft.measure.unit)] if texts[0] else []


def _readings(draft: Draft, texts: list[str], also: str, behaviour: str) -> list[ReadingRecord]:
    made = [ReadingRecord(measure="m1", texts=texts, unit=draft.measure.unit)]
    if also:
        made.append(ReadingRecord(measure="m2", texts=[also], unit=draft.measures[1].unit))
    return [*made, ReadingRecord(measure=BEHAVIOUR, texts=[behaviour])] if behaviour else made


def plan_study(owned: Owned, key: str, title: str, draft: Draft, made: datetime, lesson: datetime | None) -> tuple[UUID, int]:
    study = make_study(
        owned, study_id=demo_id(key), title=title, draft=draft, now=made, next_lesson=None if lesson is None else lesson.date()
    )
    return study.id, study.seed
