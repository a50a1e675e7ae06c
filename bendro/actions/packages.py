"""A whole study as a data package, and a package as a study: plain tables for a statistics program, and beside them the plan, the record
as it was written, the versions and their photos, from which another Bendro makes an equal study."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from typing import Annotated, Any, Literal
from uuid import UUID, uuid5

from pydantic import Field, ValidationError, field_validator
from sqlmodel import select

from bendro.core.analyse import described
from bendro.core.building.line import in_line, told
from bendro.core.building.version import VersionDraft
from bendro.core.conclusion.model import Conclusion
from bendro.core.draft import Draft, Typed
from bendro.core.errors import CoreError
from bendro.core.measuring.derived import prepare_all
from bendro.core.measuring.drops import Drop
from bendro.core.measuring.scales import scale_of
from bendro.core.measuring.taking import Taken, Told
from bendro.core.planning.plan import level_unit, planned_turns, unreadable
from bendro.core.planning.stock import OUTSIDE_WHY, Ran, take_stock
from bendro.core.record import ReadingRecord, TrialRecord
from bendro.core.record.given import Deriving, Made, own_levels, points_at, shown_levels
from bendro.core.record.ladders import drop_of, is_over, on_rungs, whole_word
from bendro.core.record.responses import responses_of
from bendro.core.record.seen import ReadingSeen, TrialSeen
from bendro.core.record.study import StudyRecord
from bendro.core.seeing.found import Found
from bendro.core.seeing.motion import MOST_POINTS
from bendro.core.trials import Level
from bendro.files.package import Field as Column
from bendro.files.package import FileOut, Package, PackageRefused, TableOut, pack, unpack
from bendro.files.photo import small_photo
from bendro.files.trial_table import MAX_ROWS
from bendro.store.errors import NotFound
from bendro.store.owned import Owned
from bendro.store.tables import DeviceVersion, Photo, Study

from .analysing import question_of
from .building import MOST_VERSIONS, add_version
from .copying import form_of, plan_form, read_form
from .plan_record import agreed_plan
from .plans import plan_of
from .record import Ready, add_many
from .responses import deriving
from .seeing import MOST_PICTURES, Seen, all_seen, pictures_of, put_picture, put_track
from .studies import add_study
from .tables import study_table
from .trials import Held, rows_of, seen_trials
from .understanding import checked

#: Of the record in a package; it rises when something is written otherwise.
RECORD_VERSION = 1
PLAN, RECORD, WRITTEN, CONCLUSION, AGREED = "plan.json", "record.json", "as-written.csv", "conclusion.json", "plan-as-agreed.json"


def study_package(owned: Owned, study_id: UUID, conclusion: Conclusion | None = None, *, photos: bool = True) -> bytes:
    """The study as a data package. conclusion: as it stands, None where nothing can be concluded. photos: whether the versions' photos go
    with it. Raises NotFound."""
    study = owned.get(Study, study_id)
    held = rows_of(owned, study_id)
    seen, _ = seen_trials(study, held)
    versions = owned.all(owned.select(DeviceVersion).where(DeviceVersion.study_id == study_id).order_by(DeviceVersion.device, DeviceVersion.number))
    pictures = {v.id: owned.first(owned.select(Photo).where(Photo.version_id == v.id)) for v in versions} if photos else {}
    shown = {v.id: f"photos/{n}.jpg" for n, v in enumerate(versions, 1) if pictures.get(v.id) is not None}
    agreed = agreed_plan(owned, study_id)
    agreed_form = None if agreed is None else form_of(agreed, study.title)
    plan = json.dumps(plan_form(owned, study_id), ensure_ascii=False, indent=1, sort_keys=True).encode()
    followed = all_seen(owned, study_id)
    record = {
        "version": RECORD_VERSION,
        "seed": study.seed,
        "trials": [_record(t, held) for t in held.trials],
        "seen": _seen(followed, held, photos=photos),
        "versions": [{"device": v.device, "number": v.number, "withdrawn": v.withdrawn, "body": v.body, "photo": shown.get(v.id, "")} for v in versions],
    }
    files = [
        FileOut(path=PLAN, title="The plan, as Bendro reads it back", data=plan, media="application/json"),
        FileOut(path=RECORD, title="Every trial as it was written, and the versions", data=_json(record), media="application/json"),
        *([FileOut(path=AGREED, title="The plan as it stood before it was changed with trials kept", data=_json(agreed_form), media="application/json")] if agreed_form is not None else []),
        *([FileOut(path=CONCLUSION, title="What the study found, as every page of Bendro says it", data=conclusion.model_dump_json(indent=1).encode(), media="application/json")] if conclusion is not None else []),
        FileOut(path=WRITTEN, title="The open trial table: readings as they were written", data=study_table(owned, study_id).encode(), media="text/csv"),
        *(FileOut(path=path, title="Photo of a version", data=photo.jpeg, media="image/jpeg") for i, path in shown.items() if (photo := pictures[i]) is not None),
    ]
    files += _pictures(owned, study_id, held) if photos else []
    tables = [*_tables(owned, study, seen), *_tracks(followed, seen)]
    name = re.sub(r"[^a-z0-9]+", "-", study.title.casefold()).strip("-") or "study"
    about = "Repeated trials of a home-made device. trials: plain numbers, one row a trial; void trials stay in it and count for nothing."
    return pack(name, study.title, tables, files, more={"description": about, "bendro": {"study": str(RECORD_VERSION)}})


def _numbers(seen: Sequence[TrialSeen]) -> dict[UUID, int]:
    """The number of each trial as the tables have it."""
    return {t.id: t.number for t in seen}


def _tracks(followed: Sequence[Seen], seen: Sequence[TrialSeen]) -> list[TableOut]:
    """What was followed and what was felt, one row a moment, in a table of its own each."""
    number = _numbers(seen)
    made = []
    for kind, title in (("followed", "Followed through clips: where it was in each picture"), ("felt", "Felt by a phone in the carrier")):
        of = sorted((s for s in followed if s.kind == kind and s.rows), key=lambda s: number.get(s.trial_id, 0))
        if of:
            fields = [Column(name="trial", type="integer", title="number in order of release"), *(Column(name=c, type="number") for c in of[0].columns)]
            made.append(TableOut(name=kind, title=title, fields=fields, rows=[[number.get(s.trial_id), *row] for s in of for row in s.rows]))
    return made


def _picture_path(at: int, place: int) -> str:
    """at: place of the trial in the record, 0 …"""
    return f"trials/{at + 1}-{place}.jpg"


def _pictures(owned: Owned, study_id: UUID, held: Held) -> list[FileOut]:
    at = {row["id"]: n for n, row in enumerate(held.trials)}
    return [FileOut(path=_picture_path(at[p.trial_id], p.place), title="Picture of a trial", data=p.jpeg, media="image/jpeg") for p in pictures_of(owned, study_id) if p.trial_id in at]


def _seen(followed: Sequence[Seen], held: Held, *, photos: bool) -> list[dict[str, Any]]:
    """What is kept beside the trials, by their place in the record, from which it is read back; the tables are for other programs."""
    at = {row["id"]: n for n, row in enumerate(held.trials)}
    return [
        {"trial": at[s.trial_id], "kind": s.kind, "columns": list(s.columns), "rows": [list(r) for r in s.rows], "found": [f.model_dump() for f in s.found], "pictures": s.pictures if photos else 0}
        for s in followed
        if s.trial_id in at
    ]


def _json(body: Mapping[str, Any]) -> bytes:
    return json.dumps(body, ensure_ascii=False, indent=1).encode()


#: Columns of a trial that go with it as they are.
_OWN = ("block", "level", "person", "device", "version", "specimen", "rung", "practice", "heat", "answered", "state", "fault", "note", "released_at")
_READING = ("measure", "payload", "texts", "unit", "taken", "stamps", "source", "clock_s")


def _record(row: Mapping[str, Any], held: Held) -> dict[str, Any]:
    """A trial in the form in which it was given, and what was told of it when it came."""
    given = TrialRecord(
        **{k: row[k] for k in _OWN},
        group=row["group_label"],
        conditions=dict(held.conditions.get(row["conditions_id"], {})) if row["conditions_id"] else {},
        readings=[ReadingRecord(**{k: r[k] for k in _READING}) for r in held.readings.get(row["id"], ())],
    )
    return {**given.meant(), "outside": row["outside"], "others": [list(pair) for pair in row["others"]]}


def _tables(owned: Owned, study: Study, seen: Sequence[TrialSeen]) -> list[TableOut]:
    draft = plan_of(study)
    if unreadable(draft):
        return []
    levels = shown_levels(draft)
    measures = [m for m in draft.measures if not scale_of(m).worded]
    outcomes = [m for m in draft.measures if scale_of(m).survives]
    work = deriving(owned, study, draft)
    derived = list(draft.derived) if work is not None else []
    scored = [r for r in responses_of(draft) if r.scored]
    numeric = all(isinstance(v, float | int) for v in levels.values())
    names = _once([draft.variable.name or "level", *(m.name for m in measures), *(f"{m.name} is" for m in measures), *(m.name for m in outcomes), *(r.name for r in scored), *(d.name for d in derived)])
    fields = [
        Column(name="trial", type="integer", title="number in order of release"), Column(name="block", type="integer"), Column(name="group", type="string"),
        Column(name="device", type="string"), Column(name="version", type="integer"), Column(name="person", type="string", title="who released it"),
        Column(name="state", type="string", title="kept counts; void, practice and outside count for nothing", one_of=("kept", "void", "practice", "outside")),
        Column(name="fault", type="string"),
        Column(name=names[0], type="number" if numeric else "string", title="the variable", unit=level_unit(draft.variable) if numeric else ""),
    ]  # fmt: skip
    at = 1
    fields += [Column(name=n, type="number", title=m.rule, unit=scale_of(m).unit(m)) for n, m in zip(names[at : at + len(measures)], measures, strict=True)]
    at += len(measures)
    kinds = ("exact", "at_least", "at_most", "estimate")
    fields += [Column(name=n, type="string", title="a bound or an estimate", one_of=kinds) for n in names[at : at + len(measures)]]
    at += len(measures)
    fields += [Column(name=n, type="string", title="outcome of the trial as a whole") for n in names[at : at + len(outcomes)]]
    at += len(outcomes)
    fields += [Column(name=n, type="number", title="by its zone") for n in names[at : at + len(scored)]]
    at += len(scored)
    fields += [Column(name=n, type="number", title="worked out", unit=d.unit) for n, d in zip(names[at:], derived, strict=True)]
    rows = []
    for t in seen:
        place = t.place if t.place in ("practice", "outside") else str(t.state)
        worked = work.at(t) if work is not None else {}
        taken = [t.taken(m.id) for m in measures]
        words = [whole_word(draft, t.readings, m.id) for m in outcomes]
        points = dict(points_at(draft, t))
        rows.append(
            [
                t.number, t.block, t.group, t.device, t.version, t.person, place, t.fault,
                _plain(levels.get(t.level, t.level)),
                *(None if r is None else float(r.value) for r in taken),
                *(None if r is None else r.kind for r in taken),
                *(w or "" for w in words),
                *(points.get(r.id) for r in scored),
                *(getattr(worked.get(d.id), "value", None) for d in derived),
            ]
        )  # fmt: skip
    return [TableOut(name="trials", title="Trials", fields=fields, rows=rows), *_levels(owned, study)]


def _levels(owned: Owned, study: Study) -> list[TableOut]:
    try:
        trials, asked = question_of(owned, study.id)
        found = described(trials, asked)
    except CoreError:  # a study whose trials do not fit its question has no means
        return []
    unit = asked.unit or ""
    one: list[tuple[str, Any]] = [
        ("mean", lambda s: s.mean), ("median", lambda s: s.median), ("sd", lambda s: s.sd), ("min", lambda s: s.min), ("max", lambda s: s.max),
        ("ci95_low", lambda s: None if s.ci95 is None else s.ci95[0]), ("ci95_high", lambda s: None if s.ci95 is None else s.ci95[1]),
    ]  # fmt: skip
    numeric = all(not isinstance(s.level, str) for s in found)
    fields = [
        Column(name=asked.factor or "level", type="number" if numeric else "string", unit=asked.factor_unit or ""),
        Column(name="kept", type="integer"), Column(name="void", type="integer"), *(Column(name=n, type="number", unit=unit) for n, _ in one),
    ]  # fmt: skip
    return [TableOut(name="levels", title="Levels, worked out", fields=fields, rows=[[_plain(s.level), s.n_kept, s.n_void, *(get(s) for _, get in one)] for s in found])]


def _plain(level: Level | None) -> object:
    return float(level) if isinstance(level, int) else level


def _once(names: Sequence[str]) -> list[str]:
    """Each name once, also beside the columns that every table has."""
    taken = {"trial", "block", "group", "device", "version", "person", "state", "fault"}
    made = []
    for name in names:
        own, n = name.strip() or "reading", 2
        while own in taken:
            own, n = f"{name} {n}", n + 1
        taken.add(own)
        made.append(own)
    return made


def study_from_package(owned: Owned, data: bytes, *, study_id: UUID, title: str, now: datetime) -> Study:
    """A new study equal to the packed one: plan, order, trials, versions and photos. The same study_id again changes nothing and gives
    the first. Raises NotFound, PackageRefused, Refused, ReadingRefused; nothing is kept then."""
    if owned.session.exec(select(Study.id).where(Study.id == study_id, Study.workspace_id != owned.workspace_id)).first() is not None:
        raise NotFound("study")  # of another school: it is not there
    package = unpack(data)
    record = _record_of(package)
    trials, versions, seed = record.trials, record.versions, record.seed
    if owned.find(Study, study_id) is not None:
        return owned.get(Study, study_id)
    photos = {path: small_photo(package.files[path]) for path in dict.fromkeys(v.photo for v in versions) if path in package.files}
    draft, own_title = read_form(package.files[PLAN].decode())
    add_study(owned, study_id=study_id, title=title.strip() or own_title, draft=draft, now=now, seed=seed)
    ids = sorted(uuid5(study_id, f"trial {n}") for n in range(len(trials)))  # trials of one moment keep their order
    ready = [
        Ready(id=one, given=(given := t.given()), readings=checked(draft, given)[1], others=t.others, outside=t.outside)
        for one, t in zip(ids, trials, strict=True)
    ]
    add_many(owned, study_id, ready, now=now)
    for n, v in enumerate(versions):
        version_id = uuid5(study_id, f"version {n}")
        add_version(owned, study_id, version_id, device=v.device, number=v.number, draft=v.body, withdrawn=v.withdrawn, now=now)
        if v.photo in photos:
            small = photos[v.photo]
            owned.new(Photo, id=uuid5(version_id, "photo"), version_id=version_id, jpeg=small.jpeg, width=small.width, height=small.height, taken_at=now)
    for s in record.seen:
        if s.trial >= len(ids):
            continue
        if s.kind:
            put_track(owned, study_id, ids[s.trial], {"kind": s.kind, "columns": s.columns, "rows": s.rows, "found": [f.model_dump() for f in s.found]}, now=now)
        for place in range(1, s.pictures + 1):
            path = _picture_path(s.trial, place)
            if path in package.files:
                put_picture(owned, study_id, ids[s.trial], place, small_photo(package.files[path]).jpeg, now=now)
    return owned.get(Study, study_id)


def record_in(data: bytes) -> tuple[StudyRecord, str]:
    """The record of a packed study, without a database, and its title. Raises PackageRefused, Refused, ReadingRefused."""
    package = unpack(data)
    packed = _record_of(package)
    draft, title = read_form(package.files[PLAN].decode())
    agreed = read_form(package.files[AGREED].decode())[0] if AGREED in package.files else None
    seen = [_packed_trial(draft, n, t) for n, t in enumerate(packed.trials, 1)]
    fills = _fills(draft, seen)
    ran = [
        Ran(id=t.id, block=t.block, level=t.level, state=t.state, practice=t.practice, outside=p.outside, fills=fills[t.id])
        for t, p in zip(seen, packed.trials, strict=True)
    ]
    stock = take_stock(planned_turns(draft, packed.seed), ran)
    line = in_line(draft, {(v.device, v.number): v.body for v in packed.versions if not v.withdrawn})
    properties = {key: {**{q.name: q.value for q in one.draft.properties}, **({"mass": one.draft.mass} if one.draft.mass.strip() else {})} for key, one in line.items()}
    ready, _ = prepare_all(draft) if draft.derived and not unreadable(draft) else ({}, ())
    work = Deriving(draft=draft, ready=ready, levels=own_levels(draft), made=Made(properties=properties)) if ready else None
    record = StudyRecord(
        draft=draft, title=title, trials=[replace(t, place=stock.place[t.id], why=OUTSIDE_WHY.get(stock.why.get(t.id, ""), "")) for t in seen], stock=stock, agreed=agreed,
        versions=tuple(told(*key, one) for key, one in line.items()), work=work,
    )  # fmt: skip
    return record, title


def _packed_trial(draft: Draft, number: int, packed: _PackedTrial) -> TrialSeen:
    trial = packed.given()
    readings = []
    for one, got in checked(draft, trial)[1]:
        measure = draft.measure_of(one.measure)
        taken = got if isinstance(got, Taken) else None
        if taken is not None and measure is not None:
            taken = scale_of(measure).in_plan_unit(measure, taken)
        words = got.words if isinstance(got, Told) else ()
        readings.append(ReadingSeen(measure=one.measure, payload=one.payload, texts=one.texts, unit=one.unit, taken=one.taken, stamps=one.stamps, source=one.source, clock_s=one.clock_s, reading=taken, words=words))
    return TrialSeen(
        id=UUID(int=number), number=number, block=trial.block, level=trial.level, group=trial.group, person=trial.person, device=trial.device, version=trial.version,
        specimen=trial.specimen, rung=trial.rung, practice=trial.practice, heat=trial.heat, answered=trial.answered, state=trial.state, fault=trial.fault, note=trial.note,
        released_at=trial.released_at, others=packed.others, readings=tuple(readings), conditions=trial.conditions,
    )  # fmt: skip


def _fills(draft: Draft, seen: Sequence[TrialSeen]) -> dict[UUID, bool]:
    """On rungs only the drop that ends a specimen's ladder fills its turn; every other trial does."""
    found: dict[UUID, bool] = {}
    drops: dict[tuple[int, str], list[Drop]] = {}
    for t in seen:
        found[t.id] = True
        if on_rungs(draft) and t.state == "kept" and not t.practice:
            cell = drops.setdefault((t.block, t.level), [])
            one = drop_of(draft, t.rung, whole_word(draft, t.readings))
            cell += [one] if one is not None else []
            found[t.id] = is_over(draft, cell)
    return found


class _PackedTrial(TrialRecord):
    """others: further columns of a table it was read from. outside: why it could not be in the plan when it came."""

    others: list[tuple[Annotated[str, Field(max_length=200)], Annotated[str, Field(max_length=10_000)]]] = Field(max_length=200)
    outside: Literal["", "finished", "block", "level", "measure"]

    def given(self) -> TrialRecord:
        """The trial itself."""
        return TrialRecord.model_construct(**{name: getattr(self, name) for name in TrialRecord.model_fields})


class _PackedVersion(Typed):
    device: str = Field(min_length=1, max_length=40)
    number: int = Field(ge=1, le=10_000)
    withdrawn: bool
    body: VersionDraft
    photo: str = Field(default="", max_length=200)


class _PackedSeen(Typed):
    """trial: its place in the record, 0 …"""

    trial: int = Field(ge=0, le=MAX_ROWS)
    kind: Literal["", "followed", "felt"]
    columns: list[Annotated[str, Field(max_length=40)]] = Field(max_length=12)
    rows: list[list[float]] = Field(max_length=MOST_POINTS)
    found: list[Found] = Field(max_length=12)
    pictures: int = Field(ge=0, le=MOST_PICTURES)


class _Packed(Typed):
    """The record of a package, as `study_package` writes it."""

    version: int
    seed: int = Field(ge=0, le=2**31 - 1)
    trials: list[_PackedTrial] = Field(max_length=MAX_ROWS)
    versions: list[_PackedVersion] = Field(max_length=MOST_VERSIONS)
    seen: list[_PackedSeen] = Field(default=[], max_length=MAX_ROWS)

    @field_validator("versions")
    @classmethod
    def _each_once(cls, given: list[_PackedVersion]) -> list[_PackedVersion]:
        if len({(v.device, v.number) for v in given}) < len(given):
            raise ValueError("Two versions of one device have the same number")
        return given


def _record_of(package: Package) -> _Packed:
    for path in (PLAN, RECORD):
        if path not in package.files:
            raise PackageRefused(
                "This is a data package, but not one of a Bendro study: it has no plan and record. Import its table as a results table instead.",
                code="package_other", where=path,
            )  # fmt: skip
    try:
        found = json.loads(package.files[RECORD])
        package.files[PLAN].decode()
    except (ValueError, RecursionError) as why:
        raise PackageRefused("The record of this package cannot be read.", code="package_record", where=RECORD) from why
    if not isinstance(found, dict) or not isinstance(found.get("version"), int) or found["version"] > RECORD_VERSION:
        raise PackageRefused("This package was made by a newer Bendro. Bring this one up to date first.", code="package_newer", where=RECORD)
    try:
        return _Packed.model_validate(found)
    except ValidationError as why:
        first = why.errors()[0]
        place = ", ".join(str(p + 1) if isinstance(p, int) else str(p) for p in first["loc"][:4]) or "the record"
        said = first["msg"].removeprefix("Value error, ").rstrip(".")
        raise PackageRefused(
            f"The record of this package is not as Bendro writes it ({place}: {said}). Nothing was read in. Export it again.", code="package_record", where=RECORD
        ) from why
