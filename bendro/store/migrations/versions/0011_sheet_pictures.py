"""pictures of a school's own build sheet"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "sheet_picture",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("workspace_id", sa.Uuid(), nullable=False),
        sa.Column("study_id", sa.Uuid(), nullable=False),
        sa.Column("jpeg", sa.LargeBinary(), nullable=False),
        sa.Column("taken_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete="CASCADE"),
    )
    op.create_index("sheet_picture_by_study", "sheet_picture", ["study_id", "taken_at"])


def downgrade() -> None:
    op.drop_table("sheet_picture")
