"""what the teacher says to every lane: stop, or a line"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "lane_word",
        sa.Column("study_id", sa.Uuid(), primary_key=True),
        sa.Column("workspace_id", sa.Uuid(), nullable=False),
        sa.Column("stopped", sa.Boolean(), nullable=False),
        sa.Column("said", sa.String(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("changed_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete="CASCADE"),
    )


def downgrade() -> None:
    op.drop_table("lane_word")
