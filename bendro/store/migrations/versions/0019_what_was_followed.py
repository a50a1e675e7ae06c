"""what a camera or a sensor followed at a trial, as a table of numbers, and small pictures of it where they were wanted"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None

_STUDY = (["workspace_id", "study_id"], ["study.workspace_id", "study.id"])


def upgrade() -> None:
    op.create_table(
        "track",
        sa.Column("trial_id", sa.Uuid(), sa.ForeignKey("trial.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("workspace_id", sa.Uuid(), nullable=False),
        sa.Column("study_id", sa.Uuid(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        *(sa.Column(name, postgresql.JSONB(), nullable=False) for name in ("columns", "rows", "found")),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(*_STUDY, ondelete="CASCADE"),
    )
    op.create_index("track_by_study", "track", ["study_id"])
    op.create_table(
        "trial_picture",
        sa.Column("trial_id", sa.Uuid(), sa.ForeignKey("trial.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("place", sa.Integer(), primary_key=True),
        sa.Column("workspace_id", sa.Uuid(), nullable=False),
        sa.Column("study_id", sa.Uuid(), nullable=False),
        sa.Column("jpeg", sa.LargeBinary(), nullable=False),
        sa.Column("taken_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(*_STUDY, ondelete="CASCADE"),
    )
    op.create_index("trial_picture_by_study", "trial_picture", ["study_id"])
    op.add_column("press", sa.Column("heard", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.create_table(
        "felt_log",
        sa.Column("study_id", sa.Uuid(), primary_key=True),
        sa.Column("source", sa.String(), primary_key=True),
        sa.Column("stamps", sa.String(), primary_key=True),
        sa.Column("workspace_id", sa.Uuid(), nullable=False),
        sa.Column("log", postgresql.JSONB(), nullable=False),
        sa.Column("felt_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(*_STUDY, ondelete="CASCADE"),
    )


def downgrade() -> None:
    op.drop_table("felt_log")
    op.drop_column("press", "heard")
    op.drop_table("trial_picture")
    op.drop_table("track")
