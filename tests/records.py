"""Records of studies made by hand, without a database: what was written, understood and placed as the program does it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any
from uuid import UUID

from bendro.core.analyse import analyse
from bendro.core.asking import asked_of
from bendro.core.conclusion.concluded import concluded
from bendro.core.conclusion.model import Conclusion
from bendro.core.draft import Draft, MeasureDraft
from bendro.core.errors import CoreError
from bendro.core.families import families
from bendro.core.measuring.derived import prepare_all
from bendro.core.measuring.scales import understand
from bendro.core.measuring.taking import Told
from bendro.core.planning.plan import planned_turns
from bendro.core.planning.rehearsal import modelled
from bendro.core.planning.stock import Ran, take_stock
from bendro.core.record import BEHAVIOUR
from bendro.core.record.given import Deriving, Made, own_levels
from bendro.core.record.ladders import drop_of, is_over, on_rungs, whole_word
from bendro.core.record.responses import responses_of
from bendro.core.record.seen import ReadingSeen, TrialSeen
from bendro.core.record.study import StudyRecord, VersionTold
from bendro.core.results import Analysis

BEHAVIOURS = MeasureDraft(id=BEHAVIOUR, name="behaviour", scale="behaviour", quantity="number", unit="")


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """A trial as a test writes it. level: its identity. texts: by measure (m1 …), one for each payload; several timers of one payload stand
    in a list. block None: the next of its level."""

    level: str
    texts: Mapping[str, Sequence[str | list[str]]] = field(default_factory=dict)
    block: int | None = None
    state: str = "kept"
    fault: str = ""
    more: Mapping[str, Any] = field(default_factory=dict)
    behaviour: Sequence[str] = ()
    taken: str = "typed"


def row(level: str, *first: str | list[str], **more: Any) -> Row:
    """A kept trial whose first measure was written so, one text for each payload."""
    own = {k: more.pop(k) for k in ("block", "state", "fault", "behaviour", "taken") if k in more}
    also = {k: [v] if isinstance(v, str) else v for k, v in more.pop("also", {}).items()}
    return Row(level=level, texts={"m1": list(first), **also}, more=more, **own)


def _readings(draft: Draft, r: Row) -> tuple[ReadingSeen, ...]:
    made = []
    for measure_id, payloads in r.texts.items():
        measure = draft.measure_of(measure_id)
        assert measure is not None, measure_id
        for n, texts in enumerate(payloads, 1):
            written = texts if isinstance(texts, list) else [texts]
            got = understand(measure, written, by=draft.timers_by, how=r.taken)
            words = got.words if isinstance(got, Told) else ()
            reading = None if isinstance(got, Told) or got is None else got if measure.scale == "order" else got.in_unit(measure.unit)
            made.append(ReadingSeen(measure=measure_id, payload=n, texts=written, unit=measure.unit, taken=r.taken, reading=reading, words=words))
    if r.behaviour:
        made.append(ReadingSeen(measure=BEHAVIOUR, texts=list(r.behaviour), words=tuple(r.behaviour)))
    return tuple(made)


def record(draft: Draft, rows: Sequence[Row], *, versions: Sequence[VersionTold] = (), agreed: Draft | None = None, seed: int = 7, properties: Mapping[tuple[str, int], Mapping[str, str]] | None = None) -> StudyRecord:
    """The record of these trials, in the order in which they stand."""
    blocks: dict[str, int] = {}
    made: list[TrialSeen] = []
    for n, r in enumerate(rows, 1):
        block = r.block
        if block is None:
            block = blocks.get(r.level, 0) + 1
            if r.state == "kept":
                blocks[r.level] = block
        made.append(TrialSeen(id=UUID(int=n), number=n, block=block, level=r.level, state=r.state, fault=r.fault, readings=_readings(draft, r), **r.more))
    ran = [Ran(id=t.id, block=t.block, level=t.level, state=t.state, practice=t.practice, fills=_fills(draft, made[:n])) for n, t in enumerate(made, 1)]
    stock = take_stock(planned_turns(draft, seed), ran)
    placed = [TrialSeen(**{f: getattr(t, f) for f in t.__slots__} | {"place": stock.place[t.id]}) for t in made]
    ready, _ = prepare_all(draft) if draft.derived else ({}, ())
    work = Deriving(draft=draft, ready=ready, levels=own_levels(draft), made=Made(properties=properties or {})) if ready else None
    return StudyRecord(draft=draft, title="A study", trials=placed, stock=stock, agreed=agreed, versions=tuple(versions), work=work)


def _fills(draft: Draft, so_far: Sequence[TrialSeen]) -> bool:
    """On rungs only the drop that ends a specimen's ladder fills its turn."""
    last = so_far[-1]
    if not on_rungs(draft):
        return True
    mine = [t for t in so_far if (t.block, t.level) == (last.block, last.level) and t.state == "kept"]
    drops = [d for t in mine if (d := drop_of(draft, t.rung, whole_word(draft, t.readings))) is not None]
    return is_over(draft, drops)


def found_of(made: StudyRecord, response: str = "", factor: str = "") -> Analysis:
    """The analysis of a record."""
    return analyse(*asked_of(made, response, factor))


def conclusion_of(made: StudyRecord) -> Conclusion:
    """The conclusion of a record, with every further measure that can be compared."""
    others = []
    for one in responses_of(made.draft)[1:]:
        if one.shape == "behaviour":
            continue
        try:
            others.append((one, found_of(made, one.id)))
        except CoreError:
            continue
    return concluded(made, found_of(made), others, core="test")


#: What every family's file expects, by family, variable and measure.
MODELS = {(f.id, e.variable, e.measure): m for f in families() for e in f.expected if (m := modelled(f.id, e.variable, e.measure)) is not None}
