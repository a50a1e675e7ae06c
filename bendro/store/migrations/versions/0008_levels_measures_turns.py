"""levels, measures and turns have rows of their own, to which trials and readings point; a turn holds the one trial that fills it"""

import json
from typing import Any

import sqlalchemy as sa
from alembic import op

from bendro.core.errors import PlanRefused
from bendro.core.planning.plan import planned_levels, planned_turns, unreadable
from bendro.core.planning.upgrade import read_plan
from bendro.core.written import level_label

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

BY_STUDY = ["workspace_id", "study_id"]


def upgrade() -> None:
    study = [sa.ForeignKeyConstraint(BY_STUDY, ["study.workspace_id", "study.id"], ondelete="CASCADE") for _ in range(3)]
    op.create_table(
        "level",
        sa.Column("study_id", sa.Uuid(), primary_key=True),
        sa.Column("id", sa.Text(), primary_key=True),
        sa.Column("workspace_id", sa.Uuid(), nullable=False),
        sa.Column("place", sa.Integer(), nullable=True),
        sa.Column("text", sa.Text(), nullable=False),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("value", sa.Float(), nullable=True),
        study[0],
    )
    op.create_table(
        "measure",
        sa.Column("study_id", sa.Uuid(), primary_key=True),
        sa.Column("id", sa.Text(), primary_key=True),
        sa.Column("workspace_id", sa.Uuid(), nullable=False),
        sa.Column("place", sa.Integer(), nullable=True),
        *(sa.Column(name, sa.Text(), nullable=False) for name in ("name", "scale", "quantity", "unit", "better")),
        study[1],
    )
    op.create_table(
        "turn",
        sa.Column("study_id", sa.Uuid(), primary_key=True),
        sa.Column("block", sa.Integer(), primary_key=True),
        sa.Column("level", sa.Text(), primary_key=True),
        sa.Column("workspace_id", sa.Uuid(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("group_label", sa.Text(), nullable=False),
        sa.Column("lane", sa.Integer(), nullable=False),
        sa.Column("heat", sa.Integer(), nullable=False),
        sa.Column("trial_id", sa.Uuid(), sa.ForeignKey("trial.id", ondelete="SET NULL"), nullable=True),
        study[2],
        sa.ForeignKeyConstraint(["study_id", "level"], ["level.study_id", "level.id"], name="turn_of_a_level"),
        sa.UniqueConstraint("trial_id", name="trial_fills_one_turn"),
    )
    op.add_column("reading", sa.Column("study_id", sa.Uuid(), nullable=True))
    op.execute("update reading r set study_id = t.study_id from trial t where t.id = r.trial_id")
    op.alter_column("reading", "study_id", nullable=False)
    _carry_over()
    op.create_foreign_key("trial_of_a_level", "trial", "level", ["study_id", "level"], ["study_id", "id"])
    op.create_foreign_key("reading_of_a_measure", "reading", "measure", ["study_id", "measure"], ["study_id", "id"])


def _carry_over() -> None:
    """The rows of every plan that can be read, then those that only trials know, then the trial that fills each turn."""
    bind = op.get_bind()
    levels, measures, turns = (sa.Table(name, sa.MetaData(), autoload_with=bind) for name in ("level", "measure", "turn"))
    on_rungs: list[Any] = []
    for study_id, workspace_id, stored, seed in bind.execute(sa.text("select id, workspace_id, draft::text, seed from study")).all():
        try:
            draft = read_plan(json.loads(stored))
        except PlanRefused:  # its trials keep their levels and measures all the same
            continue
        own = {"study_id": study_id, "workspace_id": workspace_id}
        ready = () if unreadable(draft) else planned_levels(draft)
        rows: list[dict[str, Any]] = [
            {**own, "id": p.id, "place": n, "text": p.text, "label": level_label(p.level, draft.variable.unit), "value": None if isinstance(p.level, str) else p.level}
            for n, p in enumerate(ready, 1)
        ]
        read = [{**own, "id": m.id, "place": n, "name": m.name, "scale": m.scale, "quantity": m.quantity, "unit": m.unit, "better": m.better} for n, m in enumerate(draft.measures, 1)]
        called = [
            {**own, "block": t.block, "level": t.level, "position": t.position, "group_label": t.group, "lane": t.lane, "heat": t.heat, "trial_id": None}
            for t in planned_turns(draft, seed)
        ]
        for table, made in ((levels, rows), (measures, read), (turns, called)):
            if made:
                bind.execute(sa.insert(table), made)
        if draft.drop is not None and draft.drop.plan != "one_height" and draft.measure.scale == "outcome":
            on_rungs.append(study_id)
    op.execute("insert into level select distinct study_id, level, workspace_id, null::int, level, level, null::float8 from trial on conflict do nothing")
    op.execute("insert into measure select distinct study_id, measure, workspace_id, null::int, measure, '', '', '', 'high' from reading on conflict do nothing")
    bind.execute(
        sa.text(
            "update turn u set trial_id = f.id from (select distinct on (study_id, block, level) study_id, block, level, id from trial "
            "where state = 'kept' and not practice and outside = '' order by study_id, block, level, released_at, id) f "
            "where (u.study_id, u.block, u.level) = (f.study_id, f.block, f.level) and not (u.study_id = any(:rungs))"
        ),
        {"rungs": on_rungs},
    )


def downgrade() -> None:
    op.drop_constraint("trial_of_a_level", "trial")
    op.drop_constraint("reading_of_a_measure", "reading")
    op.drop_column("reading", "study_id")
    for table in ("turn", "measure", "level"):
        op.drop_table(table)
