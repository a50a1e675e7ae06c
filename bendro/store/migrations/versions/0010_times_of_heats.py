"""a heat's times, which the lane had pressed and told, are readings of their own: brought up from the stamps of its places"""

from __future__ import annotations

from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Which measures a plan times is for the program that knows plans."""
    op.execute("create table if not exists to_bring_up (what text primary key, place integer not null)")
    op.execute("insert into to_bring_up values ('times of heats', 2) on conflict do nothing")


def downgrade() -> None:
    """The readings that were brought up stay: they are what was timed."""
