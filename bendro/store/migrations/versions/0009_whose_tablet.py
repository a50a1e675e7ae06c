"""a trial knows on which tablet it was kept, as which of that tablet's trials, by how much its clock was off, and for whom it was sent"""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("trial", sa.Column("tablet", sa.Text(), nullable=False, server_default=""))
    op.add_column("trial", sa.Column("tablet_number", sa.Integer(), nullable=True))
    op.add_column("trial", sa.Column("clock_ahead_s", sa.Float(), nullable=True))
    op.add_column("trial", sa.Column("kept_by", sa.Text(), nullable=False, server_default=""))
    op.create_index("trial_by_tablet", "trial", ["study_id", "tablet", "tablet_number"], postgresql_where=sa.text("tablet <> ''"))


def downgrade() -> None:
    op.drop_index("trial_by_tablet", table_name="trial")
    for name in ("kept_by", "clock_ahead_s", "tablet_number", "tablet"):
        op.drop_column("trial", name)
