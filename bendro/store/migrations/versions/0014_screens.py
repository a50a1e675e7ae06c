"""the screens of a class as they are now, the turns that they call, and what further phones timed; lanes that are shut"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def _when(name: str, null: bool = False) -> sa.Column[object]:
    return sa.Column(name, sa.DateTime(timezone=True), nullable=null)


def _study() -> tuple[sa.Column[object], sa.Column[object], sa.ForeignKeyConstraint]:
    return (
        sa.Column("workspace_id", sa.Uuid(), nullable=False),
        sa.Column("study_id", sa.Uuid(), nullable=False),
        sa.ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete="CASCADE"),
    )


def upgrade() -> None:
    op.create_table(
        "screen",
        sa.Column("id", sa.Uuid(), primary_key=True),
        *_study(),
        sa.Column("by", sa.Uuid(), nullable=False),
        sa.Column("role", sa.String(), nullable=False),
        sa.Column("label", sa.String(), nullable=False),
        sa.Column("lane", sa.Integer(), nullable=False),
        sa.Column("doing", sa.String(), nullable=False),
        sa.Column("turns", JSONB(), nullable=False),
        sa.Column("half", JSONB(), nullable=False),
        sa.Column("holds", sa.Integer(), nullable=False),
        sa.Column("fall", sa.Uuid(), nullable=True),
        sa.Column("released_at", sa.Float(), nullable=True),
        sa.Column("doubt_s", sa.Float(), nullable=True),
        sa.Column("handed", sa.String(), nullable=False),
        _when("since"),
        _when("seen_at"),
        _when("away_at", null=True),
    )
    op.create_index("screen_by_study", "screen", ["study_id"])
    op.create_table(
        "claim",
        *_study(),
        sa.Column("block", sa.Integer(), nullable=False),
        sa.Column("level", sa.String(), nullable=False),
        sa.Column("screen_id", sa.Uuid(), sa.ForeignKey("screen.id", ondelete="CASCADE"), nullable=False),
        _when("at"),
        sa.PrimaryKeyConstraint("study_id", "block", "level"),
    )
    op.create_index("claim_by_screen", "claim", ["screen_id"])
    op.create_table(
        "press",
        sa.Column("fall", sa.Uuid(), nullable=False),
        sa.Column("screen_id", sa.Uuid(), nullable=False),
        *_study(),
        sa.Column("label", sa.String(), nullable=False),
        sa.Column("released_at", sa.Float(), nullable=True),
        sa.Column("landed_at", sa.Float(), nullable=True),
        sa.Column("seconds", sa.Float(), nullable=True),
        sa.Column("clock_s", sa.Float(), nullable=False),
        _when("at"),
        sa.PrimaryKeyConstraint("fall", "screen_id"),
    )
    op.create_index("press_by_study", "press", ["study_id"])
    op.add_column("lane_word", sa.Column("shut", JSONB(), nullable=False, server_default="{}"))
    op.add_column("lane_word", sa.Column("last_from", sa.DateTime(timezone=True), nullable=True))
    op.add_column("reading", sa.Column("clock_s", sa.Float(), nullable=False, server_default="0"))
    for table, name in (("lane_word", "shut"), ("reading", "clock_s")):
        op.alter_column(table, name, server_default=None)


def downgrade() -> None:
    op.drop_column("reading", "clock_s")
    op.drop_column("lane_word", "last_from")
    op.drop_column("lane_word", "shut")
    for table in ("press", "claim", "screen"):
        op.drop_table(table)
