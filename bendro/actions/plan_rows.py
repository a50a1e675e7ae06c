"""The rows of a plan, written with it: its levels and measures, to which trials and readings point, and its turns. A level or a measure
that was taken out of the plan keeps its row, without a place in it, so that what was read of it stays readable."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from sqlalchemy import text

from bendro.core.draft import Draft
from bendro.core.planning.plan import all_level_ids, planned_levels, planned_turns, unreadable
from bendro.store.owned import Owned
from bendro.store.tables import Study, TrialRow

from .plans import plan_in, plan_of
from .record import give_out_turns
from .understanding import BEHAVIOURS

Rows = dict[str, list[dict[str, Any]]]

_WRITE = text("""
with nl as (select * from jsonb_populate_recordset(null::level, cast(:levels as jsonb))),
nm as (select * from jsonb_populate_recordset(null::measure, cast(:measures as jsonb))),
nt as (select * from jsonb_populate_recordset(null::turn, cast(:turns as jsonb))),
l as (insert into level select * from nl on conflict (study_id, id) do update
  set place = excluded.place, text = excluded.text, label = excluded.label, value = excluded.value),
m as (insert into measure select * from nm on conflict (study_id, id) do update
  set place = excluded.place, name = excluded.name, scale = excluded.scale, quantity = excluded.quantity, unit = excluded.unit, better = excluded.better),
t as (insert into turn select * from nt on conflict (study_id, block, level) do update
  set position = excluded.position, group_label = excluded.group_label, lane = excluded.lane, heat = excluded.heat),
gl as (update level set place = null where study_id = :study_id and place is not null and id not in (select id from nl)),
gm as (update measure set place = null where study_id = :study_id and place is not null and id not in (select id from nm))
delete from turn where :readable and study_id = :study_id and (block, level) not in (select block, level from nt)
""")


def plan_rows(draft: Draft, seed: int) -> Rows:
    """The rows of a plan without whose they are. A plan that cannot be understood yet has levels by their identity alone, and no turns."""
    levels: list[dict[str, Any]]
    if unreadable(draft):
        levels = [{"id": one, "place": n, "text": one, "label": one, "value": None} for n, one in enumerate(sorted(all_level_ids(draft)), 1)]
    else:
        levels = [
            {"id": p.id, "place": n, "text": p.text, "label": p.label, "value": None if isinstance(p.level, str) else p.level}
            for n, p in enumerate(planned_levels(draft), 1)
        ]
    measures = [
        {"id": m.id, "place": n, "name": m.name, "scale": m.scale, "quantity": m.quantity, "unit": m.unit, "better": m.better}
        for n, m in enumerate([*draft.measures, BEHAVIOURS], 1)
    ]
    turns = [
        {"block": t.block, "level": t.level, "position": t.position, "group_label": t.group, "lane": t.lane, "heat": t.heat, "trial_id": None}
        for t in planned_turns(draft, seed)
    ]
    return {"levels": levels, "measures": measures, "turns": turns}


def write_plan_rows(owned: Owned, study: Study, *, before: Mapping[str, Any] | None = None) -> None:
    """Bring the rows of a study's plan to what the plan says, and give its turns out anew. A plan that cannot be understood for a moment, because
    a level is being typed, leaves its turns as they are: each keeps the trial that fills it. before: the plan as it was stored, None for a new
    study. Raises PlanRefused."""
    draft = plan_of(study)
    readable = not unreadable(draft)
    rows = plan_rows(draft, study.seed)
    if before is None or plan_rows(plan_in(before), study.seed) != rows:
        _write(owned, study, rows, readable=readable)
    if before is not None and readable and owned.first(owned.select(TrialRow).where(TrialRow.study_id == study.id).limit(1)) is not None:
        give_out_turns(owned, study.id)


def _write(owned: Owned, study: Study, rows: Rows, *, readable: bool) -> None:
    own = {"study_id": str(study.id), "workspace_id": str(owned.workspace_id)}
    values = {name: json.dumps([{**own, **row} for row in made]) for name, made in rows.items()}
    owned.session.execute(_WRITE, {"study_id": study.id, "readable": readable, **values})
