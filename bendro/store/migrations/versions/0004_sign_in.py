"""sign-ins are told apart and shown, tries are counted by name, address and device, colleagues come by invitation"""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def _time(name: str, **more: object) -> sa.Column[object]:
    return sa.Column(name, sa.DateTime(timezone=True), nullable=False, **more)  # type: ignore[arg-type]


def upgrade() -> None:
    op.add_column("sign_in", sa.Column("id", sa.Uuid(), nullable=False, server_default=sa.text("gen_random_uuid()")))
    op.add_column("sign_in", sa.Column("device", sa.Text(), nullable=False, server_default=""))
    op.add_column("sign_in", _time("created_at", server_default=sa.func.now()))
    op.create_unique_constraint("sign_in_id_once", "sign_in", ["id"])
    op.create_index("ix_sign_in_account_id", "sign_in", ["account_id"])
    op.drop_table("wrong_password")
    op.create_table("sign_in_try", sa.Column("id", sa.Integer(), primary_key=True), sa.Column("key", sa.Text(), nullable=False), _time("at"))
    op.create_index("sign_in_try_by_key", "sign_in_try", ["key", "at"])
    op.create_table(
        "known_device",
        sa.Column("token_hash", sa.LargeBinary(), primary_key=True),
        sa.Column("account_id", sa.Uuid(), sa.ForeignKey("account.id", ondelete="CASCADE"), primary_key=True),
        _time("used_at"),
    )
    op.create_table(
        "invitation",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("code_hash", sa.LargeBinary(), nullable=False),
        sa.Column("workspace_id", sa.Uuid(), sa.ForeignKey("workspace.id", ondelete="CASCADE"), nullable=False),
        sa.Column("made_by", sa.Text(), nullable=False),
        _time("created_at"),
        _time("expires_at"),
        sa.UniqueConstraint("code_hash", name="invitation_code_once"),
    )
    op.create_index("ix_invitation_workspace_id", "invitation", ["workspace_id"])


def downgrade() -> None:
    for table in ("invitation", "known_device", "sign_in_try"):
        op.drop_table(table)
    op.create_table("wrong_password", sa.Column("id", sa.Integer(), primary_key=True), sa.Column("sign_in_name", sa.Text(), nullable=False), _time("at"))
    op.create_index("ix_wrong_password_sign_in_name", "wrong_password", ["sign_in_name"])
    op.drop_index("ix_sign_in_account_id", "sign_in")
    op.drop_constraint("sign_in_id_once", "sign_in")
    for column in ("id", "device", "created_at"):
        op.drop_column("sign_in", column)
