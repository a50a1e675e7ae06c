"""the class comes in by a code, without accounts: what was opened, and the seats that were taken"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def _when(name: str, null: bool = False) -> sa.Column[object]:
    return sa.Column(name, sa.DateTime(timezone=True), nullable=null)


def upgrade() -> None:
    op.create_table(
        "joining",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("workspace_id", sa.Uuid(), nullable=False),
        sa.Column("study_id", sa.Uuid(), nullable=False),
        sa.Column("code", sa.String(), nullable=False),
        _when("opened_at"),
        _when("until"),
        _when("closed_at", null=True),
        sa.ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete="CASCADE"),
        sa.UniqueConstraint("code", name="joining_code_once"),
    )
    op.create_index("joining_by_study", "joining", ["study_id"])
    op.create_table(
        "seat",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("workspace_id", sa.Uuid(), nullable=False),
        sa.Column("study_id", sa.Uuid(), nullable=False),
        sa.Column("token_hash", sa.LargeBinary(), nullable=False),
        sa.Column("role", sa.String(), nullable=False),
        sa.Column("label", sa.String(), nullable=False),
        sa.Column("device", sa.String(), nullable=False),
        _when("joined_at"),
        _when("until"),
        _when("ended_at", null=True),
        sa.ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete="CASCADE"),
        sa.UniqueConstraint("token_hash", name="seat_token_once"),
    )
    op.create_index("seat_by_study", "seat", ["study_id"])


def downgrade() -> None:
    op.drop_table("seat")
    op.drop_table("joining")
