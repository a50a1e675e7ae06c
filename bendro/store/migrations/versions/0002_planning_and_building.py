"""planning and building"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def _json(name: str) -> sa.Column[object]:
    return sa.Column(name, postgresql.JSONB(astext_type=sa.Text()), nullable=False)


def _when(name: str) -> sa.Column[object]:
    return sa.Column(name, sa.DateTime(timezone=True), nullable=False)


def _of_study() -> list[sa.schema.SchemaItem]:
    return [
        sa.Column("workspace_id", sa.Uuid(), nullable=False),
        sa.Column("study_id", sa.Uuid(), nullable=False),
        sa.ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete="CASCADE"),
    ]


def upgrade() -> None:
    op.create_table(
        "plan_change",
        sa.Column("id", sa.Integer(), primary_key=True),
        *_of_study(),
        _json("before"),
        _json("changes"),
        sa.Column("with_trials", sa.Boolean(), nullable=False),
        sa.Column("undone", sa.Boolean(), nullable=False),
        _when("at"),
    )
    op.create_index("plan_change_by_study", "plan_change", ["workspace_id", "study_id", "id"])
    op.create_table(
        "plan_sign_off",
        sa.Column("id", sa.Uuid(), primary_key=True),
        *_of_study(),
        sa.Column("adult", sa.String(), nullable=False),
        _json("cautions"),
        sa.Column("mark", sa.String(), nullable=False),
        _when("signed_at"),
    )
    op.create_index("ix_plan_sign_off_study_id", "plan_sign_off", ["study_id"])
    op.create_table(
        "rota",
        sa.Column("id", sa.Uuid(), primary_key=True),
        *_of_study(),
        _json("lesson"),
        sa.Column("start", sa.String(), nullable=False),
        _json("rota"),
        _when("made_at"),
        sa.UniqueConstraint("study_id", name="rota_once"),
    )
    op.create_table(
        "device_version",
        sa.Column("id", sa.Uuid(), primary_key=True),
        *_of_study(),
        sa.Column("device", sa.String(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        _json("body"),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("withdrawn", sa.Boolean(), nullable=False),
        _when("created_at"),
        _when("changed_at"),
        sa.UniqueConstraint("study_id", "device", "number", name="version_number_once"),
        sa.UniqueConstraint("workspace_id", "id", name="device_version_in_workspace"),
    )
    op.create_table(
        "photo",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("workspace_id", sa.Uuid(), nullable=False),
        sa.Column("version_id", sa.Uuid(), nullable=False),
        sa.Column("jpeg", sa.LargeBinary(), nullable=False),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        _when("taken_at"),
        sa.ForeignKeyConstraint(["workspace_id", "version_id"], ["device_version.workspace_id", "device_version.id"], ondelete="CASCADE"),
        sa.UniqueConstraint("version_id", name="photo_once"),
    )


def downgrade() -> None:
    for table in ("photo", "device_version", "rota", "plan_sign_off", "plan_change"):
        op.drop_table(table)
