"""levels, measures and turns have rows of their own, to which trials and readings point; a turn holds the one trial that fills it"""

import sqlalchemy as sa
from alembic import op

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
    """The rows that trials and readings point to. Those of plans follow, made by the program that knows plans."""
    op.execute("insert into level select distinct study_id, level, workspace_id, null::int, level, level, null::float8 from trial on conflict do nothing")
    op.execute("insert into measure select distinct study_id, measure, workspace_id, null::int, measure, '', '', '', 'high' from reading on conflict do nothing")
    op.execute("create table if not exists to_bring_up (what text primary key, place integer not null)")
    op.execute("insert into to_bring_up values ('rows of plans', 1) on conflict do nothing")


def downgrade() -> None:
    op.drop_constraint("trial_of_a_level", "trial")
    op.drop_constraint("reading_of_a_measure", "reading")
    op.drop_column("reading", "study_id")
    for table in ("turn", "measure", "level"):
        op.drop_table(table)
