"""what happens to the record is told to whoever listens, by the statement that writes it"""

from __future__ import annotations

from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None

# of one statement one word for each study: a table of ten thousand rows that is read in is told once
_TELL = """
create function tell_events() returns trigger language plpgsql as $$
begin
  perform pg_notify('bendro_event', json_build_object(
    'study', study_id, 'workspace', workspace_id, 'n', max(id), 'kind', case when count(*) = 1 then min(kind) else 'many' end,
    'subject', case when count(*) = 1 then min(subject::text) else '' end, 'revision', max(revision))::text)
  from told group by workspace_id, study_id;
  return null;
end $$
"""


def upgrade() -> None:
    op.execute(_TELL)
    op.execute("create trigger event_is_told after insert on event referencing new table as told for each statement execute function tell_events()")


def downgrade() -> None:
    op.execute("drop trigger event_is_told on event")
    op.execute("drop function tell_events()")
