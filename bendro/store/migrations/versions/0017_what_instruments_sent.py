"""what a lane has heard of its instruments, and which readings were kept, so that several server processes know it"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "hearing",
        sa.Column("study_id", sa.Uuid(), nullable=False),
        sa.Column("workspace_id", sa.Uuid(), nullable=False),
        sa.Column("measure", sa.Text(), nullable=False),
        sa.Column("known", sa.Text(), nullable=False),
        sa.Column("screens", JSONB(), nullable=False),
        sa.ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("study_id"),
    )
    op.create_table(
        "heard_reading",
        sa.Column("study_id", sa.Uuid(), nullable=False),
        sa.Column("source", sa.Text(), nullable=False),
        sa.Column("stamps", sa.Text(), nullable=False),
        sa.Column("trial_id", sa.Uuid(), nullable=False),
        sa.ForeignKeyConstraint(["study_id"], ["hearing.study_id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("study_id", "source", "stamps"),
    )


def downgrade() -> None:
    op.drop_table("heard_reading")
    op.drop_table("hearing")
