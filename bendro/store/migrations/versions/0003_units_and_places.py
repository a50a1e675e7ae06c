"""trials carry the unit they were written in; runs what they were opened for; people are no longer made up from groups"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for name in ("unit", "also_unit", "device", "outside"):
        op.add_column("trial", sa.Column(name, sa.Text(), nullable=False, server_default=""))
    op.add_column("trial", sa.Column("plan_version", sa.Integer(), nullable=True))
    op.add_column("trial", sa.Column("others", postgresql.JSONB(astext_type=sa.Text()), nullable=False, server_default="[]"))
    op.add_column("run", sa.Column("mark", sa.Text(), nullable=False, server_default=""))
    # readings lay in the unit of the plan, which could not change once one was kept
    op.execute(
        "update trial set unit = coalesce(study.draft->'measure'->>'unit', ''), also_unit = coalesce(study.draft->'also'->>'unit', '') "
        "from study where study.id = trial.study_id"
    )
    # the lane wrote the group's label as the person who released, whoever did
    op.execute("update trial set person = '' where person = group_label")


def downgrade() -> None:
    for name in ("unit", "also_unit", "device", "outside", "plan_version", "others"):
        op.drop_column("trial", name)
    op.drop_column("run", "mark")
