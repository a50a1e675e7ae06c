"""a heat's times, which the lane had pressed and told, are readings of their own: brought up from the stamps of its places"""

from __future__ import annotations

import json

import sqlalchemy as sa
from alembic import op

from bendro.core.errors import CoreError
from bendro.core.measuring.taking import Taken, take
from bendro.core.planning.upgrade import read_plan

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None

_PLACES = sa.text("""
select r.trial_id, r.payload, r.workspace_id, r.study_id, r.stamps, r.taken, r.source, s.draft from reading r
join trial t on t.id = r.trial_id join measure m on (m.study_id, m.id) = (r.study_id, r.measure) join study s on s.id = r.study_id
where t.heat <> '' and m.scale = 'order' and jsonb_array_length(r.stamps::jsonb) >= 2
""")
_ADD = sa.text("""
insert into reading (trial_id, measure, payload, workspace_id, study_id, texts, unit, taken, stamps, source, kind, value, resolution, doubt)
values (:trial_id, :measure, :payload, :workspace_id, :study_id, cast(:texts as json), 's', :taken, cast(:stamps as json), :source, :kind, :value, :resolution, :doubt)
on conflict do nothing
""")


def upgrade() -> None:
    connection = op.get_bind()
    for row in connection.execute(_PLACES).mappings().all():
        try:
            draft = read_plan(row["draft"])
        except CoreError:  # a plan that cannot be read has no measures to bring up
            continue
        seconds = f"{row['stamps'][-1] - row['stamps'][0]:.2f}"
        for m in draft.measures:
            if not (m.timed and m.scale == "quantity" and m.quantity == "time"):
                continue
            got = take(m, [seconds], unit="s", how=row["taken"])
            if isinstance(got, Taken):
                connection.execute(
                    _ADD,
                    {
                        **{k: row[k] for k in ("trial_id", "payload", "workspace_id", "study_id", "taken", "source")},
                        "measure": m.id, "texts": json.dumps([seconds]), "stamps": json.dumps(row["stamps"]),
                        "kind": got.kind, "value": got.value, "resolution": got.resolution, "doubt": got.doubt,
                    },
                )  # fmt: skip


def downgrade() -> None:
    """The readings that were brought up stay: they are what was timed."""
