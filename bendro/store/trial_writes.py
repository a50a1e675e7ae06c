"""The two statements of a save: one look at all that a trial is judged by, and one write of the trial with its readings, its conditions
and its event; and the one statement of a save where what it is judged by is known from the save before. The tables describe the columns:
rows go in as they are, by name."""

from __future__ import annotations

import re
from functools import cache

from sqlalchemy import TextClause, text
from sqlmodel import SQLModel

from bendro.core.rights import MAY, may, only_own

from .tables import ReadingRow, TrialRow

#: Study, the run opened last, the trial if it is there, and its stored revision of this number.
_SEEN = """
select s.draft::text as draft, s.seed, s.version, s.finished,
       (select r.mark from run r where r.study_id = s.id order by r.opened_at desc limit 1) as run_mark,
       t.study_id as held_study, t.revision as held_revision, e.body as held_body{more}
{source}
left join trial t on t.id = :trial_id and t.workspace_id = s.workspace_id
left join event e on e.kind = 'trial' and e.subject = :trial_id and e.revision = :revision
where s.id = :study_id and {whose}
for {lock} of s
"""
_MINE = {"more": "", "source": "from study s", "whose": "s.workspace_id = :workspace_id"}
LOOK = text(_SEEN.format(lock="share", **_MINE))

#: For a trial that may give up its turn: nobody else writes to the study meanwhile.
LOOK_ALONE = text(_SEEN.format(lock="update", **_MINE))

#: The same by the cookie's token: the sign-in, its school and the study in one look.
LOOK_SIGNED_IN = text(
    _SEEN.format(
        lock="share",
        more=", s.workspace_id, i.account_id",
        source="from sign_in i join workspace w on w.id = i.workspace_id join study s on s.workspace_id = i.workspace_id",
        whose="i.token_hash = :token_hash and i.expires_at > :now and (:demo or not w.demo)",
    )
)

#: Of a seat what `core.rights` says of its role: which may keep trials at all, and which only of its own group's turns.
_KEEPS = ", ".join(f"'{role}'" for role in MAY if role != "teacher" and may(role, "put_trial")) or "''"
_ONLY_OWN = ", ".join(f"'{role}'" for role in MAY if role != "teacher" and only_own(role, "put_trial")) or "''"
_SEAT_MAY = (
    f"i.token_hash = :token_hash and i.until > :now and i.ended_at is null and i.role in ({_KEEPS})"
    f" and (i.role not in ({_ONLY_OWN}) or i.label = :whole_class or lower(i.label) = :own_group)"
)

#: The same by the token of a seat: one of this study, that may keep a trial of this group.
LOOK_SEATED = text(
    _SEEN.format(
        lock="share", more=", s.workspace_id, i.id as account_id",
        source="from seat i join study s on s.workspace_id = i.workspace_id and s.id = i.study_id and s.deleted_at is null", whose=_SEAT_MAY,
    )
)

#: What happens is written and told to whoever listens (`live.events`) by one and the same statement: it is told when it is stored, and never else.
_EVENT = """
e as (insert into event (workspace_id, study_id, kind, subject, revision, body, by, device_at, received_at)
      select x.workspace_id, x.study_id, x.kind, x.subject, x.revision, x.body, x.by, x.device_at, x.received_at
      from jsonb_populate_record(null::event, cast(:event as jsonb)) x{only}
      on conflict (kind, subject, revision) do nothing returning id, workspace_id, study_id, kind, subject, revision),
told as (select pg_notify('bendro_event', json_build_object('study', o.study_id, 'n', o.id, 'kind', o.kind, 'subject', o.subject,
      'revision', o.revision)::text) from e o)
"""
_CONDITIONS = (
    "c as (insert into conditions select x.* from jsonb_populate_recordset(null::conditions, cast(:conditions as jsonb)) x{only} on conflict (id) do nothing)"
)

#: That all stands as it was known: the sign-in, the plan, and the run opened last. The study is held until the write is done.
_G = (
    "g as (select 1 from study s where s.id = :study_id and s.workspace_id = :workspace_id and s.version = :version and not s.finished"
    " and (select r.mark from run r where r.study_id = s.id order by r.opened_at desc limit 1) = :run_mark"
    " and exists ({who}) for share of s),"
)
_AS_KNOWN = _G.format(
    who="select 1 from sign_in i join workspace w on w.id = i.workspace_id where i.token_hash = :token_hash and i.expires_at > :now"
    " and i.account_id = :by and i.workspace_id = s.workspace_id and (:demo or not w.demo)"
)
_AS_KNOWN_SEATED = _G.format(who=f"select 1 from seat i where i.id = :by and i.study_id = s.id and i.workspace_id = s.workspace_id and {_SEAT_MAY}")

#: Levels and measures that the plan does not have (any more) get a row all the same, so that nothing that was read is without its name.
_STRANGE_LEVELS = (
    "insert into level (study_id, id, workspace_id, text, label) select distinct study_id, level, workspace_id, level, level"
    " from jsonb_populate_recordset(null::trial, {trials}) on conflict do nothing"
)
_STRANGE_MEASURES = (
    "insert into measure (study_id, id, workspace_id, name, scale, quantity, unit, better)"
    " select distinct study_id, measure, workspace_id, measure, '', '', '', 'high'"
    " from jsonb_populate_recordset(null::reading, cast(:readings as jsonb)) on conflict do nothing"
)
_STRANGERS = f"sl as ({_STRANGE_LEVELS.format(trials='jsonb_build_array(cast(:trial as jsonb))')}), sm as ({_STRANGE_MEASURES}),"
STRANGERS = text(f"with sl as ({_STRANGE_LEVELS.format(trials='cast(:trials as jsonb)')}) {_STRANGE_MEASURES}")
#: The trials of one tablet were released in the order of its own numbers: one that says that it was released before its forerunner, since
#: the clock was put right between them, follows it closely.
_AFTER = (
    "cast(:trial as jsonb) || coalesce((select jsonb_build_object('released_at', max(o.released_at) + interval '1 millisecond') from trial o"
    " where o.study_id = cast(cast(:trial as jsonb)->>'study_id' as uuid) and o.tablet <> '' and o.tablet = cast(:trial as jsonb)->>'tablet'"
    " and o.tablet_number < cast(cast(:trial as jsonb)->>'tablet_number' as int)"
    " having max(o.released_at) >= cast(cast(:trial as jsonb)->>'released_at' as timestamptz)), '{{}}'::jsonb)"
)
_ADD = (
    "with {first}" + _CONDITIONS + ","
    "t as (insert into trial select x.* from jsonb_populate_record(null::trial, " + _AFTER + ") x{only} on conflict (id) do nothing"
    " returning id, workspace_id, study_id, block, level, released_at),"
    "r as (insert into reading select x.* from jsonb_populate_recordset(null::reading, cast(:readings as jsonb)) x, t),"
    # of two that are kept for one turn in the same moment the second waits here for the first, and is extra
    "f as (update turn u set trial_id = t.id from t where :claims and (u.study_id, u.block, u.level) = (t.study_id, t.block, t.level)"
    " and u.trial_id is null returning 1),"
    + _EVENT.format(only=", t")
    + "select e.id, exists (select 1 from f) as fills, (select count(*) from trial o where o.workspace_id = t.workspace_id"
    " and o.study_id = t.study_id and o.state <> 'withdrawn' and (o.released_at, o.id) < (t.released_at, t.id)) as before_it, t.released_at from e, t, told"
)

#: A new trial, which takes its turn where that is free and it claims it. Gives the event's number, whether it fills its turn, and how many
#: were released before it; or no row when the same id was written a moment before.
ADD = text(_ADD.format(first="", only=""))
ADD_STRANGE = text(_ADD.format(first=_STRANGERS, only=""))
#: The same where all stands as it was known; no row, and nothing done, where it does not.
ADD_AS_KNOWN = text(_ADD.format(first=_AS_KNOWN, only=", g"))
ADD_AS_KNOWN_SEATED = text(_ADD.format(first=_AS_KNOWN_SEATED, only=", g"))

#: What only the first writing of a trial knows, and what it is known by; and the same of a reading.
_FIRST_ONLY = ("id", "workspace_id", "study_id", "outside", "others", "released_at", "tablet", "tablet_number", "clock_ahead_s", "kept_by")
_WHOSE = ("trial_id", "measure", "payload", "workspace_id", "study_id")


def _following(table: type[SQLModel], given: str, kept: tuple[str, ...]) -> str:
    """Every other column as it is given."""
    return ", ".join(f"{name} = {given}.{name}" for name in table.model_fields if name not in kept)


#: A later revision of a trial: the row and its readings are replaced, except for what only the first writing knows (when it was released).
CHANGE = text(
    f"with {_CONDITIONS.format(only='')},{_STRANGERS}"
    "n as (select * from jsonb_populate_record(null::trial, cast(:trial as jsonb))),"
    f"t as (update trial o set {_following(TrialRow, 'n', _FIRST_ONLY)}, outside = case when :placed then '' else o.outside end"
    " from n where o.id = n.id and o.revision < n.revision returning o.id),"
    "w as (select * from jsonb_populate_recordset(null::reading, cast(:readings as jsonb))),"
    "d as (delete from reading o using t where o.trial_id = t.id"
    " and not exists (select 1 from w where w.measure = o.measure and w.payload = o.payload)),"
    f"r as (insert into reading select w.* from w, t on conflict (trial_id, measure, payload) do update set {_following(ReadingRow, 'excluded', _WHOSE)}),"
    + _EVENT.format(only="")
    + "select e.id from e, told"
)

_MANY = "insert into {table}{into} select {what} from jsonb_populate_recordset(null::{table}, cast(:rows as jsonb)){else_}"
_OF_EVENT = "workspace_id, study_id, kind, subject, revision, body, by, device_at, received_at"
#: Very many new trials: their conditions, the trials, their readings, their events.
ADD_MANY = (
    text(_MANY.format(table="conditions", into="", what="*", else_=" on conflict (id) do nothing")),
    text(_MANY.format(table="trial", into="", what="*", else_="")),
    text(_MANY.format(table="reading", into="", what="*", else_="")),
    text(_MANY.format(table="event", into=f" ({_OF_EVENT})", what=_OF_EVENT, else_="")),
)

#: The turns of a study are given up, or filled, as they are told: by which trial each is filled.
GIVE_UP = text(
    "update turn u set trial_id = null where u.study_id = :study_id and u.trial_id is not null and not exists"
    " (select 1 from jsonb_to_recordset(cast(:filled as jsonb)) x (block int, level text, trial_id uuid)"
    " where (x.block, x.level, x.trial_id) = (u.block, u.level, u.trial_id))"
)
FILL = text(
    "update turn u set trial_id = x.trial_id from jsonb_to_recordset(cast(:filled as jsonb)) x (block int, level text, trial_id uuid)"
    " where u.study_id = :study_id and (u.block, u.level) = (x.block, x.level) and u.trial_id is distinct from x.trial_id"
)
#: Whoever gives out the turns of a study that many write to does it alone.
GIVING_OUT = text("select pg_advisory_xact_lock(hashtextextended(cast(:study_id as text), 0))")

#: A revision that is older than what stands: it goes into the history only.
LATE = text("with " + _EVENT.format(only="") + "select e.id from e, told")


@cache
def as_sent(statement: TextClause) -> bytes:
    """A statement as the driver takes it, its values by name."""
    return re.sub(r"(?<!:):(\w+)", r"%(\1)s", statement.text).encode()
