"""The tables. Everything that a teacher makes carries its workspace; what must always hold is a named constraint."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any, Final
from uuid import UUID

from sqlalchemy import CheckConstraint, Column, DateTime, ForeignKeyConstraint, Index, LargeBinary, UniqueConstraint, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlmodel import Field, SQLModel

CASCADE: Final = "CASCADE"


def _when(*, null: bool = False) -> Any:
    return Field(sa_column=Column(DateTime(timezone=True), nullable=null))


def _json(*, null: bool = False) -> Any:
    return Field(sa_column=Column(JSONB(none_as_null=True), nullable=null))


class Workspace(SQLModel, table=True):
    """A school, or a single teacher."""

    __tablename__ = "workspace"
    id: UUID = Field(primary_key=True)
    name: str
    demo: bool = False
    created_at: datetime = _when()


class Account(SQLModel, table=True):
    __tablename__ = "account"
    __table_args__ = (UniqueConstraint("sign_in_name", name="sign_in_name_once"),)
    id: UUID = Field(primary_key=True)
    workspace_id: UUID = Field(foreign_key="workspace.id", ondelete=CASCADE, index=True)
    sign_in_name: str
    shown_name: str
    password_hash: str | None = None  # None: the demo account, entered by a button and only while demo is on
    created_at: datetime = _when()


class SignIn(SQLModel, table=True):
    """A server-side session. Only a hash of the cookie's token is kept. id: how it is spoken of; device: where it was opened, in
    words ("phone at 192.168.1.20")."""

    __tablename__ = "sign_in"
    __table_args__ = (UniqueConstraint("id", name="sign_in_id_once"), Index("sign_in_by_school", "workspace_id"))
    token_hash: bytes = Field(sa_column=Column(LargeBinary, primary_key=True))
    id: UUID
    account_id: UUID = Field(foreign_key="account.id", ondelete=CASCADE, index=True)
    workspace_id: UUID = Field(foreign_key="workspace.id", ondelete=CASCADE)
    device: str = ""
    created_at: datetime = _when()
    expires_at: datetime = _when()


class SignInTry(SQLModel, table=True):
    """One wrong try, under what it is counted by: "name:…", "address:…", "device:…"."""

    __tablename__ = "sign_in_try"
    __table_args__ = (Index("sign_in_try_by_key", "key", "at"),)
    id: int | None = Field(default=None, primary_key=True)
    key: str
    at: datetime = _when()


class KnownDevice(SQLModel, table=True):
    """A browser in which this account has signed in before: the guesses of others do not lock it out."""

    __tablename__ = "known_device"
    __table_args__ = (Index("known_device_by_account", "account_id"),)
    token_hash: bytes = Field(sa_column=Column(LargeBinary, primary_key=True))
    account_id: UUID = Field(foreign_key="account.id", ondelete=CASCADE, primary_key=True)
    used_at: datetime = _when()


class Invitation(SQLModel, table=True):
    """A code that lets one colleague into the workspace, once. Only its hash is kept."""

    __tablename__ = "invitation"
    __table_args__ = (UniqueConstraint("code_hash", name="invitation_code_once"),)
    id: UUID = Field(primary_key=True)
    code_hash: bytes = Field(sa_column=Column(LargeBinary, nullable=False))
    workspace_id: UUID = Field(foreign_key="workspace.id", ondelete=CASCADE, index=True)
    made_by: str
    created_at: datetime = _when()
    expires_at: datetime = _when()


class Study(SQLModel, table=True):
    """draft: the plan as typed, with the version of its form (core.planning.upgrade). version: rises with every change.
    archived: kept out of the way on Home. deleted_at: thrown away, and gone for good after a while.
    instrument_code: under which instruments send to its lane, None until one is wanted."""

    __tablename__ = "study"
    __table_args__ = (UniqueConstraint("workspace_id", "id", name="study_in_workspace"),)
    id: UUID = Field(primary_key=True)
    workspace_id: UUID = Field(foreign_key="workspace.id", ondelete=CASCADE)
    title: str
    draft: dict[str, Any] = _json()
    seed: int
    version: int = 1
    next_lesson: date | None = None
    finished: bool = False
    archived: bool = False
    instrument_code: str | None = Field(default=None, unique=True)
    deleted_at: datetime | None = _when(null=True)
    created_at: datetime = _when()
    changed_at: datetime = _when()


class Joining(SQLModel, table=True):
    """A study opened for a lesson: whoever types the code takes a seat, until it is closed or its time is over."""

    __tablename__ = "joining"
    __table_args__ = (
        ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),
        UniqueConstraint("code", "study_id", name="joining_code_once"),
        Index("joining_by_study", "study_id"),
    )
    id: UUID = Field(primary_key=True)
    workspace_id: UUID
    study_id: UUID
    code: str
    opened_at: datetime = _when()
    until: datetime = _when()
    closed_at: datetime | None = _when(null=True)


class Seat(SQLModel, table=True):
    """A device of the class in one lesson, without an account and without a name. Only a hash of the cookie's token is kept. role: of
    `core.rights`; label: the group's, or what it does; device: in words."""

    __tablename__ = "seat"
    __table_args__ = (
        ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),
        UniqueConstraint("token_hash", name="seat_token_once"),
        Index("seat_by_study", "study_id"),
    )
    id: UUID = Field(primary_key=True)
    workspace_id: UUID
    study_id: UUID
    token_hash: bytes = Field(sa_column=Column(LargeBinary, nullable=False))
    role: str
    label: str
    device: str = ""
    joined_at: datetime = _when()
    until: datetime = _when()
    ended_at: datetime | None = _when(null=True)


class LaneWord(SQLModel, table=True):
    """What the teacher says to every lane of a study now. stopped: every lane stands still until it is lifted; said: a line, "" for none; shut:
    lanes that call nothing, by number, each with state (paused or closed), why and since; last_from: what is released after this is the last trial of its lane."""

    __tablename__ = "lane_word"
    __table_args__ = (ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),)
    study_id: UUID = Field(primary_key=True)
    workspace_id: UUID
    stopped: bool = False
    said: str = ""
    shut: dict[str, dict[str, str]] = _json()
    last_from: datetime | None = _when(null=True)
    revision: int = 0
    changed_at: datetime = _when()


class GroupWord(SQLModel, table=True):
    """What a group predicts and says of the result, in its own words. by: the account or seat that wrote last."""

    __tablename__ = "group_word"
    __table_args__ = (ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),)
    study_id: UUID = Field(primary_key=True)
    group_label: str = Field(primary_key=True)
    workspace_id: UUID
    predicts: str = ""
    says: str = ""
    revision: int = 0
    by: UUID | None = None
    changed_at: datetime = _when()


class Hearing(SQLModel, table=True):
    """What a lane has heard of its instruments: the measure that they read, what is known of each (both as the core writes them), and which
    screens listen, each until when (seconds since 1970)."""

    __tablename__ = "hearing"
    __table_args__ = (ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),)
    study_id: UUID = Field(primary_key=True)
    workspace_id: UUID
    measure: str = "{}"
    known: str = "{}"
    screens: dict[str, float] = _json()


class HeardReading(SQLModel, table=True):
    """A reading of an instrument that a trial has: one release is one trial."""

    __tablename__ = "heard_reading"
    __table_args__ = (ForeignKeyConstraint(["study_id"], ["hearing.study_id"], ondelete=CASCADE),)
    study_id: UUID = Field(primary_key=True)
    source: str = Field(primary_key=True)
    stamps: str = Field(primary_key=True)
    trial_id: UUID


class ToBringUp(SQLModel, table=True):
    """What an upgrade leaves to the program that knows plans; empty when that is done."""

    __tablename__ = "to_bring_up"
    what: str = Field(primary_key=True)
    place: int


class ScreenRow(SQLModel, table=True):
    """A screen of the class as it is now: nothing here is a record, and what is a day old is gone. by: the account or seat. lane: 0 for all.
    doing: looking, calling, falling, asked, ready, timing. turns: called or held, each its block and level. half: texts that are half
    typed. holds: trials that wait in it. fall: what is being timed, released_at by the server's clock in seconds, doubt_s of that.
    handed: from whom it took the lane over, or to whom it gave it. since: when doing and turns became what they are."""

    __tablename__ = "screen"
    __table_args__ = (
        ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),
        Index("screen_by_study", "study_id"),
    )
    id: UUID = Field(primary_key=True)
    workspace_id: UUID
    study_id: UUID
    by: UUID
    role: str
    label: str
    lane: int = 0
    doing: str = "looking"
    turns: list[list[Any]] = _json()
    half: dict[str, str] = _json()
    holds: int = 0
    fall: UUID | None = None
    released_at: float | None = None
    doubt_s: float | None = None
    handed: str = ""
    since: datetime = _when()
    seen_at: datetime = _when()
    away_at: datetime | None = _when(null=True)


class Claim(SQLModel, table=True):
    """A turn that a screen calls, so that no other calls it meanwhile."""

    __tablename__ = "claim"
    __table_args__ = (
        ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),
        ForeignKeyConstraint(["screen_id"], ["screen.id"], ondelete=CASCADE),
        Index("claim_by_screen", "screen_id"),
    )
    study_id: UUID = Field(primary_key=True)
    block: int = Field(primary_key=True)
    level: str = Field(primary_key=True)
    workspace_id: UUID
    screen_id: UUID
    at: datetime = _when()


class Press(SQLModel, table=True):
    """What a further phone timed of a fall: its landing, and its own release where it pressed that as well, by the server's clock in seconds; or
    that it did not see it. seconds: that it gives, None where it gives none; clock_s: by how much its clocks may differ; heard: its microphone heard the landing, no thumb pressed."""

    __tablename__ = "press"
    __table_args__ = (
        ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),
        Index("press_by_study", "study_id"),
    )
    fall: UUID = Field(primary_key=True)
    screen_id: UUID = Field(primary_key=True)
    workspace_id: UUID
    study_id: UUID
    label: str
    released_at: float | None = None
    landed_at: float | None = None
    seconds: float | None = None
    clock_s: float = 0.0
    heard: bool = False
    at: datetime = _when()


class Run(SQLModel, table=True):
    """A run opened by the adult in charge, with the cautions that were ticked. mark: of the plan it was opened for
    (core.planning.safety.safety_mark)."""

    __tablename__ = "run"
    __table_args__ = (ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),)
    id: UUID = Field(primary_key=True)
    workspace_id: UUID
    study_id: UUID = Field(index=True)
    adult: str
    cautions: list[str] = _json()
    mark: str = ""
    opened_at: datetime = _when()


class Conditions(SQLModel, table=True):
    """How the held things of a study stood, as confirmed at one time: each thing and what was said of it. Trials point to the set in
    force."""

    __tablename__ = "conditions"
    __table_args__ = (
        ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),
        Index("conditions_by_study", "study_id"),
    )
    id: UUID = Field(primary_key=True)
    workspace_id: UUID
    study_id: UUID
    held: dict[str, str] = _json()
    confirmed_at: datetime = _when()


class LevelRow(SQLModel, table=True):
    """One level of a study: its identity, by which trials know it, and how it is called. place: in the plan, from 1; None where the plan
    does not have it (any more). value: in the variable's unit, None for a name."""

    __tablename__ = "level"
    __table_args__ = (ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),)
    study_id: UUID = Field(primary_key=True)
    id: str = Field(primary_key=True)
    workspace_id: UUID
    place: int | None = None
    text: str
    label: str
    value: float | None = None


class MeasureRow(SQLModel, table=True):
    """One measure of a study: its identity, by which readings know it, and what is read. place: in the plan, from 1; None where the plan
    does not have it (any more)."""

    __tablename__ = "measure"
    __table_args__ = (ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),)
    study_id: UUID = Field(primary_key=True)
    id: str = Field(primary_key=True)
    workspace_id: UUID
    place: int | None = None
    name: str
    scale: str
    quantity: str
    unit: str
    better: str


class TurnRow(SQLModel, table=True):
    """One planned trial, known by its block and level. position: in the order of the plan, from 1. trial_id: the one kept trial that
    fills it; None while it is to be run."""

    __tablename__ = "turn"
    __table_args__ = (
        ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),
        ForeignKeyConstraint(["study_id", "level"], ["level.study_id", "level.id"], name="turn_of_a_level"),
        UniqueConstraint("trial_id", name="trial_fills_one_turn"),
    )
    study_id: UUID = Field(primary_key=True)
    block: int = Field(primary_key=True)
    level: str = Field(primary_key=True)
    workspace_id: UUID
    position: int
    group_label: str = ""
    lane: int = 1
    heat: int = 0
    trial_id: UUID | None = Field(default=None, foreign_key="trial.id", ondelete="SET NULL")


class TrialRow(SQLModel, table=True):
    """One trial, without its readings. level: the identity of a level. state `withdrawn`: taken back by undo, never counted. practice:
    recorded, never counted. rung: height of a drop as written. outside: why it could not be in the plan when it came. others: further
    columns of a table it was read from, each its heading and its text, in the order of the table. heat: the same for all that were let go
    together. answered: questions asked before it was kept. tablet, tablet_number, clock_ahead_s: where it was kept, as which of that
    device's trials, and by how much its clock was ahead. kept_by: the teacher in whose sign-in it was kept, where another sent it. by: the
    account that wrote it."""

    __tablename__ = "trial"
    __table_args__ = (
        ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),
        ForeignKeyConstraint(["study_id", "level"], ["level.study_id", "level.id"], name="trial_of_a_level"),
        CheckConstraint("state in ('kept', 'void', 'withdrawn')", name="trial_state_known"),
        CheckConstraint("state <> 'void' or fault <> ''", name="void_trial_names_fault"),
        Index("trial_by_study", "workspace_id", "study_id", "released_at", "id"),
        Index("trial_by_level", "study_id", "level"),
        Index("trial_by_conditions", "conditions_id", postgresql_where=text("conditions_id is not null")),
        Index("trial_by_tablet", "study_id", "tablet", "tablet_number", postgresql_where=text("tablet <> ''")),
    )
    id: UUID = Field(primary_key=True)
    workspace_id: UUID
    study_id: UUID
    block: int
    level: str
    group_label: str = ""
    person: str = ""
    device: str = ""
    version: int | None = None
    specimen: str = ""
    rung: str = ""
    practice: bool = False
    conditions_id: UUID | None = Field(default=None, foreign_key="conditions.id", ondelete="SET NULL")
    heat: str = ""
    answered: list[str] = _json()
    state: str = "kept"
    fault: str = ""
    note: str = ""
    outside: str = ""
    plan_version: int | None = None
    tablet: str = ""
    tablet_number: int | None = None
    clock_ahead_s: float | None = None
    kept_by: str = ""
    others: list[list[str]] = _json()
    released_at: datetime = _when()
    revision: int = 1
    by: UUID | None = None
    received_at: datetime = _when()


class ReadingRow(SQLModel, table=True):
    """One reading of a trial: texts as they were written (one for each timer, or words), and what was understood: value, resolution and
    doubt in `unit`, the unit under which it was written; or words. taken: how it came about; stamps: of the presses, in the device's own
    seconds; source: whose timer, or which instrument; clock_s: by how much the clocks of several phones may differ; raw: what several timers gave."""

    __tablename__ = "reading"
    __table_args__ = (
        ForeignKeyConstraint(["study_id", "measure"], ["measure.study_id", "measure.id"], name="reading_of_a_measure"),
        CheckConstraint("kind in ('exact', 'at_least', 'at_most', 'estimate', 'words', '')", name="reading_kind_known"),
        CheckConstraint("(kind in ('words', '')) = (value is null)", name="reading_has_value"),
        CheckConstraint("(kind = 'words') = (words is not null)", name="reading_has_words"),
        Index("reading_by_measure", "study_id", "measure"),
    )
    trial_id: UUID = Field(primary_key=True, foreign_key="trial.id", ondelete=CASCADE)
    measure: str = Field(primary_key=True)
    payload: int = Field(primary_key=True)
    workspace_id: UUID
    study_id: UUID
    texts: list[str] = _json()
    unit: str = ""
    taken: str = "typed"
    stamps: list[float] = _json()
    source: str = ""
    clock_s: float = 0.0
    kind: str = ""
    value: float | None = None
    resolution: float | None = None
    doubt: float | None = None
    words: list[str] | None = _json(null=True)
    raw: dict[str, Any] | None = _json(null=True)


class Event(SQLModel, table=True):
    """What happened to the record, in the order of id: a trial kept, voided or mended, a plan changed, a run opened, a version built.
    subject: the row it is about; by: the account; device_at: the device's own time, where it gives one."""

    __tablename__ = "event"
    __table_args__ = (
        ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),
        Index("event_once", "kind", "subject", "revision", unique=True),
        Index("event_by_study", "study_id", "id"),
    )
    id: int | None = Field(default=None, primary_key=True)
    workspace_id: UUID
    study_id: UUID
    kind: str
    subject: UUID
    revision: int
    body: dict[str, Any] = _json()
    by: UUID | None = None
    device_at: datetime | None = _when(null=True)
    received_at: datetime = _when()


class PlanChange(SQLModel, table=True):
    """One change to a plan. before: the draft as it was. changes: what differs (where, was, now). with_trials: trials had been
    kept already. undone: taken back again; the row stays as a record."""

    __tablename__ = "plan_change"
    __table_args__ = (
        ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),
        Index("plan_change_by_study", "workspace_id", "study_id", "id"),
    )
    id: int | None = Field(default=None, primary_key=True)
    workspace_id: UUID
    study_id: UUID
    before: dict[str, Any] = _json()
    changes: list[dict[str, Any]] = _json()
    with_trials: bool = False
    undone: bool = False
    at: datetime = _when()


class PlanSignOff(SQLModel, table=True):
    """The adult in charge has read the cautions of a plan. mark: of what was signed (core.planning.safety.safety_mark)."""

    __tablename__ = "plan_sign_off"
    __table_args__ = (ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),)
    id: UUID = Field(primary_key=True)
    workspace_id: UUID
    study_id: UUID = Field(index=True)
    adult: str
    cautions: list[str] = _json()
    mark: str
    signed_at: datetime = _when()


class RotaRow(SQLModel, table=True):
    """The rota made last for a study: the lesson it was made for, and its sittings."""

    __tablename__ = "rota"
    __table_args__ = (
        ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),
        UniqueConstraint("study_id", name="rota_once"),
    )
    id: UUID = Field(primary_key=True)
    workspace_id: UUID
    study_id: UUID
    lesson: dict[str, Any] = _json()
    start: str
    rota: dict[str, Any] = _json()
    made_at: datetime = _when()


class DeviceVersion(SQLModel, table=True):
    """One version of a device. body: as typed (core.building.version.VersionDraft). number: 1 … within the device, never used
    twice. withdrawn: taken back by undo, never counted."""

    __tablename__ = "device_version"
    __table_args__ = (
        ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),
        UniqueConstraint("study_id", "device", "number", name="version_number_once"),
        UniqueConstraint("workspace_id", "id", name="device_version_in_workspace"),
    )
    id: UUID = Field(primary_key=True)
    workspace_id: UUID
    study_id: UUID
    device: str
    number: int
    body: dict[str, Any] = _json()
    revision: int = 1
    withdrawn: bool = False
    created_at: datetime = _when()
    changed_at: datetime = _when()


class Photo(SQLModel, table=True):
    """A photo of a version: JPEG, made anew from what was sent, so that no place or camera data are kept."""

    __tablename__ = "photo"
    __table_args__ = (
        ForeignKeyConstraint(["workspace_id", "version_id"], ["device_version.workspace_id", "device_version.id"], ondelete=CASCADE),
        UniqueConstraint("version_id", name="photo_once"),
    )
    id: UUID = Field(primary_key=True)
    workspace_id: UUID
    version_id: UUID
    jpeg: bytes = Field(sa_column=Column(LargeBinary, nullable=False))
    width: int
    height: int
    taken_at: datetime = _when()


class SheetPicture(SQLModel, table=True):
    """A picture on the school's own build sheet: JPEG, made anew from what was sent."""

    __tablename__ = "sheet_picture"
    __table_args__ = (
        ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),
        Index("sheet_picture_by_study", "study_id", "taken_at"),
    )
    id: UUID = Field(primary_key=True)
    workspace_id: UUID
    study_id: UUID
    jpeg: bytes = Field(sa_column=Column(LargeBinary, nullable=False))
    taken_at: datetime = _when()


class TrackRow(SQLModel, table=True):
    """What a camera or a sensor followed at a trial: a table of plain numbers, never a picture. kind: followed or felt; columns: their names with units,
    rows of them; found: what was worked out from it (core.seeing.found), as it was told."""

    __tablename__ = "track"
    __table_args__ = (ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE), Index("track_by_study", "study_id"))
    trial_id: UUID = Field(primary_key=True, foreign_key="trial.id", ondelete=CASCADE)
    workspace_id: UUID
    study_id: UUID
    kind: str
    columns: list[str] = _json()
    rows: list[list[float]] = _json()
    found: list[dict[str, Any]] = _json()
    made_at: datetime = _when()


class FeltLog(SQLModel, table=True):
    """What a phone felt and told the lanes, until the trial is kept to which it belongs. source, stamps: of the reading as the lane heard it."""

    __tablename__ = "felt_log"
    __table_args__ = (ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),)
    study_id: UUID = Field(primary_key=True)
    source: str = Field(primary_key=True)
    stamps: str = Field(primary_key=True)
    workspace_id: UUID
    log: dict[str, Any] = _json()
    felt_at: datetime = _when()


class TrialPicture(SQLModel, table=True):
    """A small picture of a trial, where one was wanted: JPEG, made anew from what was sent. place: 1 … among those of its trial."""

    __tablename__ = "trial_picture"
    __table_args__ = (
        ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),
        Index("trial_picture_by_study", "study_id"),
    )
    trial_id: UUID = Field(primary_key=True, foreign_key="trial.id", ondelete=CASCADE)
    place: int = Field(primary_key=True)
    workspace_id: UUID
    study_id: UUID
    jpeg: bytes = Field(sa_column=Column(LargeBinary, nullable=False))
    taken_at: datetime = _when()


class Report(SQLModel, table=True):
    """What was shown of a study, frozen. state: of the study when it was made (plan version, last event). frozen: the study, its trials,
    the analysis and the sections, as they were told then. made_by: version of the core. own: what the class wrote (texts by part), the
    parts that it left out, and what a marker said; revision: rises with every change of it."""

    __tablename__ = "report"
    __table_args__ = (
        ForeignKeyConstraint(["workspace_id", "study_id"], ["study.workspace_id", "study.id"], ondelete=CASCADE),
        Index("report_by_study", "study_id", "made_at"),
    )
    id: UUID = Field(primary_key=True)
    workspace_id: UUID
    study_id: UUID
    state: list[Any] = _json()
    frozen: dict[str, Any] = _json()
    made_by: str
    own: dict[str, Any] = _json()
    revision: int = 1
    made_at: datetime = _when()
