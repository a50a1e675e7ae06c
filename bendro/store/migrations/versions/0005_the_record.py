"""a trial has many readings; versions, specimens, rungs and conditions have a home; events have a running number"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

JSON = postgresql.JSONB(astext_type=sa.Text())
TEXT_COLUMNS = ("texts", "unit", "reading", "also_text", "also_unit", "also_reading", "behaviour")


def upgrade() -> None:
    study = sa.ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete="CASCADE")
    op.create_table(
        "conditions",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("workspace_id", sa.Uuid(), nullable=False),
        sa.Column("study_id", sa.Uuid(), nullable=False),
        sa.Column("held", JSON, nullable=False),
        sa.Column("confirmed_at", sa.DateTime(timezone=True), nullable=False),
        study,
    )
    op.create_index("conditions_by_study", "conditions", ["study_id"])
    op.create_table(
        "reading",
        sa.Column("trial_id", sa.Uuid(), sa.ForeignKey("trial.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("measure", sa.Text(), primary_key=True),
        sa.Column("payload", sa.Integer(), primary_key=True),
        sa.Column("workspace_id", sa.Uuid(), nullable=False),
        sa.Column("texts", JSON, nullable=False),
        sa.Column("unit", sa.Text(), nullable=False),
        sa.Column("taken", sa.Text(), nullable=False),
        sa.Column("stamps", JSON, nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        *(sa.Column(name, sa.Float(), nullable=True) for name in ("value", "resolution", "doubt")),
        sa.Column("words", JSON, nullable=True),
        sa.Column("raw", JSON, nullable=True),
        sa.CheckConstraint("kind in ('exact', 'at_least', 'at_most', 'estimate', 'words', '')", name="reading_kind_known"),
        sa.CheckConstraint("(kind in ('words', '')) = (value is null)", name="reading_has_value"),
        sa.CheckConstraint("(kind = 'words') = (words is not null)", name="reading_has_words"),
    )
    _carry_over()
    op.drop_constraint("kept_trial_has_reading", "trial")
    for name in TEXT_COLUMNS:
        op.drop_column("trial", name)
    for name in ("specimen", "rung"):
        op.add_column("trial", sa.Column(name, sa.Text(), nullable=False, server_default=""))
    op.add_column("trial", sa.Column("version", sa.Integer(), nullable=True))
    op.add_column("trial", sa.Column("practice", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.add_column("trial", sa.Column("conditions_id", sa.Uuid(), sa.ForeignKey("conditions.id", ondelete="SET NULL"), nullable=True))
    op.add_column("trial", sa.Column("by", sa.Uuid(), nullable=True))
    _events()
    op.add_column("study", sa.Column("archived", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.add_column("study", sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True))


def _carry_over() -> None:
    """The one number, the second and the word of each trial become its readings m1, m2 and behaviour."""
    for measure, texts, unit, held in (
        ("m1", "texts", "unit", "reading"),
        ("m2", "jsonb_build_array(also_text)", "also_unit", "also_reading"),
    ):
        written = "jsonb_array_length(texts) > 0" if measure == "m1" else "also_text <> ''"
        op.execute(
            "insert into reading (trial_id, measure, payload, workspace_id, texts, unit, taken, stamps, kind, value, resolution, doubt, raw) "
            f"select id, '{measure}', 1, workspace_id, {texts}, {unit}, 'typed', '[]', coalesce({held}->>'kind', ''), "
            f"({held}->>'value')::float8, ({held}->>'resolution')::float8, ({held}->>'doubt')::float8, "
            f"nullif(case when jsonb_typeof({held}) = 'object' then {held} - '{{kind,value,resolution,doubt,unit}}'::text[] end, '{{}}'::jsonb) "
            f"from trial where {written} or jsonb_typeof({held}) = 'object'"
        )
    op.execute(
        "insert into reading (trial_id, measure, payload, workspace_id, texts, unit, taken, stamps, kind, words) "
        "select id, 'behaviour', 1, workspace_id, jsonb_build_array(behaviour), '', 'typed', '[]', 'words', jsonb_build_array(behaviour) "
        "from trial where behaviour <> ''"
    )


def _events() -> None:
    """The history of trials becomes the first kind of event; its bodies list their readings."""
    op.rename_table("trial_event", "event")
    op.execute("alter sequence if exists trial_event_id_seq rename to event_id_seq")
    op.execute("alter table event rename constraint trial_event_pkey to event_pkey")
    op.drop_constraint("trial_revision_once", "event")
    op.execute("alter table event drop constraint if exists trial_event_trial_id_fkey")
    op.alter_column("event", "trial_id", new_column_name="subject")
    op.add_column("event", sa.Column("study_id", sa.Uuid(), nullable=True))
    op.add_column("event", sa.Column("kind", sa.Text(), nullable=False, server_default="trial"))
    op.add_column("event", sa.Column("by", sa.Uuid(), nullable=True))
    op.add_column("event", sa.Column("device_at", sa.DateTime(timezone=True), nullable=True))
    op.execute("update event set study_id = trial.study_id, device_at = (event.body->>'released_at')::timestamptz from trial where trial.id = event.subject")
    op.alter_column("event", "study_id", nullable=False)
    op.create_foreign_key("event_of_study", "event", "study", ["workspace_id", "study_id"], ["workspace_id", "id"], ondelete="CASCADE")
    op.create_index("event_once", "event", ["kind", "subject", "revision"], unique=True)
    op.create_index("event_by_study", "event", ["study_id", "id"])
    op.execute(
        "update event set body = (body - '{texts,unit,also_text,also_unit,behaviour}'::text[]) || jsonb_build_object('readings', "
        "(case when jsonb_array_length(coalesce(body->'texts', '[]')) > 0 then jsonb_build_array(jsonb_strip_nulls(jsonb_build_object("
        "'measure', 'm1', 'payload', 1, 'texts', body->'texts', 'unit', body->'unit'))) else '[]'::jsonb end) || "
        "(case when coalesce(body->>'also_text', '') <> '' then jsonb_build_array(jsonb_strip_nulls(jsonb_build_object("
        "'measure', 'm2', 'payload', 1, 'texts', jsonb_build_array(body->'also_text'), 'unit', body->'also_unit'))) else '[]'::jsonb end) || "
        "(case when coalesce(body->>'behaviour', '') <> '' then jsonb_build_array(jsonb_build_object("
        "'measure', 'behaviour', 'payload', 1, 'texts', jsonb_build_array(body->'behaviour'))) else '[]'::jsonb end))"
    )


def downgrade() -> None:
    raise NotImplementedError("Trials with several readings do not fit the shape before; restore a backup that was made by that program.")
