"""frozen reports, with the sentences that a class writes on them"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

JSON = postgresql.JSONB(astext_type=sa.Text())


def upgrade() -> None:
    op.create_table(
        "report",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("workspace_id", sa.Uuid(), nullable=False),
        sa.Column("study_id", sa.Uuid(), nullable=False),
        sa.Column("state", JSON, nullable=False),
        sa.Column("frozen", JSON, nullable=False),
        sa.Column("made_by", sa.Text(), nullable=False),
        sa.Column("own", JSON, nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete="CASCADE"),
    )
    op.create_index("report_by_study", "report", ["study_id", "made_at"])


def downgrade() -> None:
    op.drop_table("report")
