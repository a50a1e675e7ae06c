"""The database brought to the newest shape, and what follows from plans written anew where a step asks for it: the steps themselves know
nothing of plans, so that they stay as they are while the core goes on."""

from __future__ import annotations

import json
from collections.abc import Callable

from sqlalchemy import text
from sqlmodel import Session, select

from bendro.core.errors import CoreError, PlanRefused
from bendro.core.measuring.scales import scale_of
from bendro.core.measuring.taking import Taken, take
from bendro.core.planning.plan import unreadable
from bendro.store.connect import alone_with, engine_at, migrate
from bendro.store.owned import Owned
from bendro.store.tables import Study

from .plan_rows import write_plan_rows
from .plans import plan_in, plan_of
from .record import give_out_turns

_ASKED = text("select what from to_bring_up order by place")
_DONE = text("delete from to_bring_up where what = :what")
_PLACES = text("""
select r.trial_id, r.payload, r.workspace_id, r.study_id, r.stamps, r.taken, r.source, s.draft from reading r
join trial t on t.id = r.trial_id join measure m on (m.study_id, m.id) = (r.study_id, r.measure) join study s on s.id = r.study_id
where t.heat <> '' and m.scale = 'order' and jsonb_array_length(r.stamps::jsonb) >= 2
""")
_ADD = text("""
insert into reading (trial_id, measure, payload, workspace_id, study_id, texts, unit, taken, stamps, source, kind, value, resolution, doubt, clock_s)
values (:trial_id, :measure, :payload, :workspace_id, :study_id, cast(:texts as json), 's', :taken, cast(:stamps as json), :source, :kind, :value, :resolution, :doubt, 0)
on conflict do nothing
""")


def to_newest(url: str) -> None:
    """Bring the database at `url` to the newest shape. Of several that ask at one moment one does it and the others wait; after a kill on the
    way the next one makes it whole. Doing it again changes nothing. Raises NewerData."""
    with alone_with(url):
        migrate(url)
        bring_up(url)


def bring_up(url: str) -> None:
    """What the steps ask for, each in a transaction of its own."""
    engine = engine_at(url)
    try:
        with Session(engine) as session:
            for (what,) in session.connection().execute(_ASKED).all():
                _WAYS[what](session)
                session.connection().execute(_DONE, {"what": what})
                session.commit()
    finally:
        engine.dispose()


def _plan_rows(session: Session) -> None:
    """The rows of every plan that can be read, and the trial that fills each turn."""
    for study in session.exec(select(Study)).all():
        owned = Owned(session, study.workspace_id)
        try:
            write_plan_rows(owned, study)
            if not unreadable(plan_of(study)):
                give_out_turns(owned, study.id)
        except PlanRefused:  # its trials keep their levels and measures all the same
            continue


def _times_of_heats(session: Session) -> None:
    """A heat's times, which the lane had pressed and told, are readings of their own: brought up from the stamps of its places."""
    for row in session.connection().execute(_PLACES).mappings().all():
        try:
            draft = plan_in(row["draft"])
        except CoreError:  # a plan that cannot be read has no measures to bring up
            continue
        seconds = f"{row['stamps'][-1] - row['stamps'][0]:.2f}"
        for m in draft.measures:
            if not (m.timed and scale_of(m).quantity(m) == "time"):
                continue
            got = take(m, [seconds], unit="s", how=row["taken"])
            if isinstance(got, Taken):
                session.connection().execute(
                    _ADD,
                    {
                        **{k: row[k] for k in ("trial_id", "payload", "workspace_id", "study_id", "taken", "source")},
                        "measure": m.id, "texts": json.dumps([seconds]), "stamps": json.dumps(row["stamps"]),
                        "kind": got.kind, "value": got.value, "resolution": got.resolution, "doubt": got.doubt,
                    },
                )  # fmt: skip


_WAYS: dict[str, Callable[[Session], None]] = {"rows of plans": _plan_rows, "times of heats": _times_of_heats}
