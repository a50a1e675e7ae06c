"""what belongs to a row is found by an index, however many schools there are: when a study is looked at, and when it is deleted"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_index("reading_by_measure", "reading", ["study_id", "measure"])
    op.create_index("trial_by_level", "trial", ["study_id", "level"])
    op.create_index("trial_by_conditions", "trial", ["conditions_id"], postgresql_where=sa.text("conditions_id is not null"))
    op.create_index("known_device_by_account", "known_device", ["account_id"])
    op.create_index("sign_in_by_school", "sign_in", ["workspace_id"])


def downgrade() -> None:
    for name, table in (("reading_by_measure", "reading"), ("trial_by_level", "trial"), ("trial_by_conditions", "trial"), ("known_device_by_account", "known_device"), ("sign_in_by_school", "sign_in")):
        op.drop_index(name, table)
