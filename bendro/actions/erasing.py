"""A class is erased: every row of its studies, counted before and after, and what still holds copies of them named."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from uuid import UUID

from sqlalchemy import func, text
from sqlmodel import SQLModel, col, select

from bendro.store.owned import Owned
from bendro.store.tables import DeviceVersion, Photo, Study

from .errors import Refused
from .plans import plan_of

#: In the folder of the data: which backups were written, a line each.
BACKUPS = "backups.txt"


@dataclass(frozen=True, slots=True, kw_only=True)
class ClassOf:
    """A class as its studies name it. rows: of all its studies together."""

    label: str
    year: str
    studies: Sequence[tuple[UUID, str]]
    since: datetime
    rows: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Erased:
    """The proof. before, after: rows by table. copies: backups and kept databases that still hold what was there when they were made."""

    label: str
    titles: Sequence[str]
    before: Mapping[str, int]
    after: Mapping[str, int]
    copies: Sequence[str]
    at: datetime


def classes(owned: Owned) -> list[ClassOf]:
    """Every class that studies are of, also those that were thrown away, by label and year; studies of no class last, under ""."""
    found: dict[tuple[str, str], list[Study]] = {}
    for study in owned.all(owned.select(Study)):
        draft = plan_of(study)
        found.setdefault((draft.class_label.strip(), draft.year.strip()), []).append(study)
    return [
        ClassOf(
            label=label, year=year, studies=[(s.id, s.title) for s in sorted(studies, key=lambda s: s.title)], since=min(s.created_at for s in studies),
            rows=sum(rows_of_studies(owned, [s.id for s in studies]).values()),
        )
        for (label, year), studies in sorted(found.items(), key=lambda one: (one[0][0] == "", one[0]))
    ]  # fmt: skip


def rows_of_studies(owned: Owned, ids: Sequence[UUID]) -> dict[str, int]:
    """Rows of these studies in every table, by its name."""
    counts = {}
    for name, table in sorted(SQLModel.metadata.tables.items()):
        if name == "study":
            found = owned.session.execute(select(func.count()).select_from(table).where(table.c.id.in_(ids))).scalar_one()
        elif "study_id" in table.c:
            found = owned.session.execute(select(func.count()).select_from(table).where(table.c.study_id.in_(ids))).scalar_one()
        elif name == Photo.__tablename__:
            versions = select(DeviceVersion.id).where(col(DeviceVersion.study_id).in_(ids))
            found = owned.session.execute(select(func.count()).select_from(table).where(table.c.version_id.in_(versions))).scalar_one()
        else:
            continue
        counts[name] = int(found)
    return counts


def erase_class(owned: Owned, label: str, year: str, *, typed: str, now: datetime, data: Path | None = None) -> Erased:
    """Erase every study of a class for good. typed: the class's label once more, as whoever asks has typed it. Erased twice, the second finds
    nothing. Raises Refused."""
    found = next((c for c in classes(owned) if (c.label, c.year) == (label.strip(), year.strip())), None)
    if found is None:
        raise Refused(f"There is no class “{label.strip()}” here. Nothing was erased.", code="class_unknown", where="class_label")
    if not found.label or typed.strip().casefold() != found.label.casefold():
        raise Refused("Type the class as it is written, and it is erased. Nothing was erased.", code="class_not_typed", where="typed")
    ids = [one for one, _ in found.studies]
    before = rows_of_studies(owned, ids)
    copies = copies_since(owned, found.since, data)
    owned.session.execute(text("delete from study where workspace_id = :school and id = any(:ids)"), {"school": owned.workspace_id, "ids": ids})
    owned.session.flush()
    after = rows_of_studies(owned, ids)
    return Erased(label=found.label, titles=[t for _, t in found.studies], before=before, after=after, copies=copies, at=now)


def copies_since(owned: Owned, since: datetime, data: Path | None) -> list[str]:
    """Backups that were written since, as the folder of the data has noted them, and databases that a restore has kept."""
    named = []
    noted = data / BACKUPS if data is not None else None
    if noted is not None and noted.is_file():
        for line in noted.read_text().splitlines():
            at, _, path = line.partition(" ")
            if path and datetime.fromisoformat(at) >= since:
                named.append(f"{path}, written {at[:10]}{'' if Path(path).exists() else ' (no longer there)'}")
    kept = owned.session.execute(text("select datname from pg_database where datname like 'bendro\\_%' and datname <> current_database() order by 1"))
    return [*named, *(f"the database {name}, kept by a restore" for (name,) in kept)]
