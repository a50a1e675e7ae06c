"""A data package: a zip of tables with their schemas, as the open specification of Frictionless data says it (datapackage.json, version 1:
resources with path, schema, bytes and hash). Made and read here; what stands in it is the business of whoever asks."""

from __future__ import annotations

import hashlib
import io
import json
import zipfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from bendro.core.errors import CoreError

from .trial_table import write_table

#: What a package may hold when it is read in: files, and bytes of all of them unfolded.
MOST_FILES, MOST_BYTES = 600, 80_000_000
#: A file that unfolds to more than so many times its size is no table or picture.
MOST_RATIO = 400
DESCRIPTOR = "datapackage.json"


class PackageRefused(CoreError):
    """A package that cannot be read, with the reason."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Field:
    """A column: its name, what it holds, its unit and what it means."""

    name: str
    type: Literal["string", "number", "integer", "boolean", "datetime"]
    title: str = ""
    unit: str = ""
    one_of: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class TableOut:
    """A table of a package. rows: cells in the order of the fields, None where there is nothing."""

    name: str
    title: str
    fields: Sequence[Field]
    rows: Sequence[Sequence[object]]


@dataclass(frozen=True, slots=True, kw_only=True)
class FileOut:
    """Anything else of a package, such as a plan or a picture."""

    path: str
    title: str
    data: bytes
    media: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Package:
    """What was read: the descriptor and every file that it names, each with its hash checked."""

    descriptor: Mapping[str, Any]
    files: Mapping[str, bytes] = field(default_factory=dict)


def pack(name: str, title: str, tables: Sequence[TableOut], files: Sequence[FileOut], *, more: Mapping[str, Any]) -> bytes:
    """The package as bytes of a zip: the same contents give the same bytes. name: lower case, for machines; more: further keys."""
    held: dict[str, bytes] = {}
    resources: list[dict[str, Any]] = []
    for t in tables:
        path = f"{t.name}.csv"
        held[path] = _csv(t)
        schema = {"fields": [_field(f) for f in t.fields], "missingValues": [""]}
        about = {"profile": "tabular-data-resource", "format": "csv", "encoding": "utf-8", "schema": schema}
        resources.append({"name": t.name, "path": path, "title": t.title, "mediatype": "text/csv", **about, **_proof(held[path])})
    for f in files:
        held[f.path] = f.data
        name_of = f.path.rsplit(".", 1)[0].replace("/", "-").lower()
        resources.append({"name": name_of, "path": f.path, "title": f.title, "mediatype": f.media, **_proof(f.data)})
    whole = {"profile": "data-package", "name": name, "title": title, **more, "resources": resources}
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for path, data in {DESCRIPTOR: json.dumps(whole, ensure_ascii=False, indent=1).encode(), **held}.items():
            made.writestr(zipfile.ZipInfo(path, (1980, 1, 1, 0, 0, 0)), data, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def _field(f: Field) -> dict[str, Any]:
    made: dict[str, Any] = {"name": f.name, "type": f.type}
    if f.title:
        made["title"] = f.title
    if f.unit:
        made["unit"] = f.unit
    if f.one_of:
        made["constraints"] = {"enum": list(f.one_of)}
    return made


def _csv(t: TableOut) -> bytes:
    return write_table([f.name for f in t.fields], [[_cell(cell) for cell in row] for row in t.rows]).encode()


def _cell(value: object) -> object:
    """Numbers as they are read anywhere; text and nothing as they are."""
    if isinstance(value, bool):
        return "true" if value else "false"
    return f"{value:.12g}" if isinstance(value, float) else value


def _proof(data: bytes) -> dict[str, Any]:
    return {"bytes": len(data), "hash": f"sha256:{hashlib.sha256(data).hexdigest()}"}


def unpack(data: bytes) -> Package:
    """Read a package whole. Raises PackageRefused: no zip, no descriptor, a path that climbs out, a file that is missing, too large, unfolds
    to far too much, or is not the one that was packed."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as held:
            return _read(held)
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, zipfile.LargeZipFile) as why:
        raise _no("This file is no data package: it cannot be opened as a zip.", "package_zip") from why


def _read(held: zipfile.ZipFile) -> Package:
    infos = {i.filename: i for i in held.infolist() if not i.is_dir()}
    if len(infos) > MOST_FILES:
        raise _no(f"This package holds {len(infos)} files; at most {MOST_FILES} are read.", "package_many")
    for name in infos:
        if not _inside(name):
            raise _no(f"This package holds a file with the path “{name[:60]}”, which leads out of it. Nothing was read.", "package_path")
    if sum(i.file_size for i in infos.values()) > MOST_BYTES or any(i.file_size > MOST_RATIO * max(i.compress_size, 64) for i in infos.values()):
        raise _no("This package unfolds to far more than a study holds. Nothing was read.", "package_bomb")
    if DESCRIPTOR not in infos:
        raise _no(f"There is no {DESCRIPTOR} in this zip, so it is not a data package.", "package_descriptor")
    try:
        descriptor = json.loads(_bytes(held, infos[DESCRIPTOR]))
        resources = list(dict.fromkeys((str(r["path"]), str(r.get("hash", ""))) for r in descriptor["resources"]))
    except (ValueError, KeyError, TypeError, RecursionError) as why:
        raise _no(f"The {DESCRIPTOR} of this package cannot be read.", "package_descriptor") from why
    if len(resources) > MOST_FILES:
        raise _no(f"This package names {len(resources)} files; at most {MOST_FILES} are read.", "package_many")
    files: dict[str, bytes] = {}
    for path, proof in resources:
        if not _inside(path) or path not in infos:
            raise _no(f"The package names “{path[:60]}”, which is not in it.", "package_missing")
        if path in files:  # one file has one content: it is unfolded and looked at once
            raise _no(f"The package names “{path[:60]}” twice, with hashes that differ. Export it again.", "package_hash")
        files[path] = _bytes(held, infos[path])
        if proof and proof.removeprefix("sha256:") != hashlib.sha256(files[path]).hexdigest():
            raise _no(f"“{path}” is not the file that was packed: it was changed or damaged on the way. Export it again.", "package_hash")
    return Package(descriptor=descriptor, files=files)


def _bytes(held: zipfile.ZipFile, info: zipfile.ZipInfo) -> bytes:
    """No more than the zip says of itself: one that lies is refused."""
    with held.open(info) as opened:
        data = opened.read(info.file_size + 1)
    if len(data) != info.file_size:
        raise _no("This package unfolds to more than it says of itself. Nothing was read.", "package_bomb")
    return data


def _inside(path: str) -> bool:
    return bool(path) and not path.startswith(("/", "\\")) and ":" not in path and "\\" not in path and ".." not in path.split("/")


def _no(says: str, code: str) -> PackageRefused:
    return PackageRefused(says, code=code, where="file")
