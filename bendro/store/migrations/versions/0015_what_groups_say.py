"""what each group predicts and says of the result, in its own words; several studies under one code"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "group_word",
        sa.Column("study_id", sa.Uuid(), nullable=False),
        sa.Column("group_label", sa.String(), nullable=False),
        sa.Column("workspace_id", sa.Uuid(), nullable=False),
        sa.Column("predicts", sa.String(), nullable=False),
        sa.Column("says", sa.String(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("by", sa.Uuid(), nullable=True),
        sa.Column("changed_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("study_id", "group_label"),
    )
    # the studies of one lesson share its signs
    op.drop_constraint("joining_code_once", "joining")
    op.create_unique_constraint("joining_code_once", "joining", ["code", "study_id"])


def downgrade() -> None:
    op.drop_table("group_word")
    op.drop_constraint("joining_code_once", "joining")
    op.create_unique_constraint("joining_code_once", "joining", ["code"])
