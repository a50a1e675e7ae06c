"""what an upgrade leaves to the program that knows plans is asked for in a table; a database that is past those steps has it empty"""

from __future__ import annotations

from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("create table if not exists to_bring_up (what text primary key, place integer not null)")


def downgrade() -> None:
    op.drop_table("to_bring_up")
