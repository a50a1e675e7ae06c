"""a trial knows its heat and what was answered before it was kept; a reading knows whose timer or which instrument it came from"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("trial", sa.Column("heat", sa.Text(), nullable=False, server_default=""))
    op.add_column("trial", sa.Column("answered", postgresql.JSONB(astext_type=sa.Text()), nullable=False, server_default="[]"))
    op.add_column("reading", sa.Column("source", sa.Text(), nullable=False, server_default=""))
    op.add_column("study", sa.Column("instrument_code", sa.Text(), nullable=True))
    op.create_unique_constraint("study_instrument_code_key", "study", ["instrument_code"])


def downgrade() -> None:
    op.drop_column("study", "instrument_code")
    op.drop_column("reading", "source")
    op.drop_column("trial", "answered")
    op.drop_column("trial", "heat")
