"""The data package: opened by an independent library, read back to an equal study, and refused when it is not what it says."""

from __future__ import annotations

import csv
import hashlib
import io
import json
import re
import subprocess
import zipfile
from pathlib import Path
from typing import Any
from uuid import uuid4

import frictionless
import pandas as pd
import pytest
from odf.opendocument import load
from PIL import Image

from bendro.files.package import Field, PackageRefused, TableOut, pack, unpack
from bendro.files.trial_table import parse_table
from tests.api.test_showing import run_some
from tests.conftest import Application, TeacherClient, new_study, sign_up, trial_body
from tests.forked import starter

pytestmark = pytest.mark.api


def package_of(teacher: TeacherClient, study: str) -> bytes:
    answer = teacher.http.get(f"/api/studies/{study}/package.zip")
    assert answer.status_code == 200
    assert answer.headers["content-type"] == "application/zip"
    return answer.content


def read_in(teacher: TeacherClient, data: bytes, study: str | None = None, title: str = "") -> Any:
    return teacher.http.put(f"/api/studies/{study or uuid4()}/package", content=data, params={"title": title}, headers={"content-type": "application/octet-stream"})


def parts(data: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(data)) as held:
        return {n: held.read(n) for n in held.namelist()}


def zipped(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for name, data in files.items():
            made.writestr(name, data)
    return out.getvalue()


def rich(teacher: TeacherClient) -> dict[str, Any]:
    """A study with voids, bounds, estimates, a practice, conditions, a version with a photo, and two trials of one moment."""
    study = new_study(teacher, "Odd, “quoted” = title", repeats=3)
    levels = [one["id"] for one in study["levels"]]
    put = f"/api/studies/{study['id']}/trials/"
    for body in (
        trial_body(levels[0], ">=4.5"), trial_body(levels[0], "~4.1", block=2, note="a; \"b\"\nc", released_at="2026-05-04T10:00:00Z"),
        trial_body(levels[1], "6.10", person="Bittern", conditions={"projectile": "bag 2"}, released_at="2026-05-04T10:01:00Z"),
        trial_body(levels[1], "3 ft", block=2, unit="m", state="void", fault="slipped", released_at="2026-05-04T10:02:00Z"),
        trial_body(levels[2], "8.05", practice=True, released_at="2026-05-04T10:03:00Z"), trial_body(levels[2], "8.12", released_at="2026-05-04T10:04:00Z"),
    ):  # fmt: skip
        teacher.ok("PUT", f"{put}{uuid4()}", json=body)
    one = str(uuid4())
    teacher.ok("PUT", f"/api/studies/{study['id']}/versions/{one}", json={"device": "Red", "draft": {"properties": [{"name": "wing", "value": "9 cm"}]}, "revision": 0})
    picture = io.BytesIO()
    Image.new("RGB", (60, 40), (200, 120, 0)).save(picture, "JPEG")
    teacher.http.put(f"/api/studies/{study['id']}/versions/{one}/photo", content=picture.getvalue(), headers={"content-type": "image/jpeg"}).raise_for_status()
    return study


def test_packed_read_in_and_packed_again_is_the_same_package(teacher: TeacherClient, app: Application) -> None:
    study = rich(teacher)
    first = package_of(teacher, study["id"])
    assert first == package_of(teacher, study["id"])  # the same study gives the same bytes
    other = sign_up(app)
    made = read_in(other, first)
    assert made.status_code == 201, made.text
    again = parts(package_of(other, made.json()["id"]))
    was = parts(first)
    photos = [n for n in was if n.startswith("photos/")]
    assert photos == ["photos/1.jpg"]
    for name in was.keys() - {*photos, "datapackage.json"}:
        assert again[name] == was[name], name
    with Image.open(io.BytesIO(again["photos/1.jpg"])) as shown:
        assert shown.size == (60, 40)
    for question in ("analysis", "pictures"):
        assert other.ok("GET", f"/api/studies/{made.json()['id']}/{question}") == teacher.ok("GET", f"/api/studies/{study['id']}/{question}")
    twice = read_in(other, first, made.json()["id"])
    assert twice.status_code == 201
    assert len(other.ok("GET", f"/api/studies/{made.json()['id']}/trials")) == 6


def test_an_independent_library_finds_the_package_valid_and_its_means_are_the_cores(teacher: TeacherClient, tmp_path: Path) -> None:
    """frictionless checks the descriptor, every schema, the types of all cells, sizes and hashes; pandas reads the table as it stands."""
    study = new_study(teacher, "Throws", repeats=3)
    run_some(teacher, study, {0: ["4.1", "4.2", "4.45"], 1: ["6.1", "6.2", "6.3"], 2: ["8.0", "8.3", "8.1"]})
    for name, data in parts(package_of(teacher, study["id"])).items():
        (tmp_path / name).parent.mkdir(exist_ok=True)
        (tmp_path / name).write_bytes(data)
    report = frictionless.Package(str(tmp_path / "datapackage.json")).validate()
    assert report.valid, report.flatten(["rowNumber", "fieldNumber", "type", "message"])
    table = pd.read_csv(tmp_path / "trials.csv")
    name = study["draft"]["measures"][0]["name"]
    means = table[table.state == "kept"].groupby("pull-back")[name].mean()
    core = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")["levels"]
    assert list(means.index) == [s["level"] for s in core]
    assert list(means) == pytest.approx([s["mean"] for s in core])
    levels = pd.read_csv(tmp_path / "levels.csv")
    assert list(levels["mean"]) == pytest.approx([s["mean"] for s in core])
    told = json.loads((tmp_path / "datapackage.json").read_text())
    units = {f["name"]: f.get("unit") for f in told["resources"][0]["schema"]["fields"]}
    assert (units["pull-back"], units[name]) == ("cm", "m")


def spoilt(data: bytes, how: str) -> bytes:
    files = parts(data)
    if how == "package_hash":
        files["trials.csv"] += b"x"
    if how == "package_path":
        files["../out.csv"] = b"x"
    if how == "package_missing":
        del files["trials.csv"]
    if how == "package_descriptor":
        del files["datapackage.json"]
    if how == "package_bomb":
        files["zeros.bin"] = bytes(30_000_000)
    if how == "package_many":
        files |= {f"f{n}": b"" for n in range(700)}
    if how in ("package_record", "package_newer"):
        record = json.loads(files["record.json"])
        record |= {"version": 99} if how == "package_newer" else {"trials": [{"block": "one"}]}
        files["record.json"] = json.dumps(record).encode()
        told = json.loads(files["datapackage.json"])
        mine = next(r for r in told["resources"] if r["path"] == "record.json")
        mine["hash"] = f"sha256:{hashlib.sha256(files['record.json']).hexdigest()}"
        files["datapackage.json"] = json.dumps(told).encode()
    return zipped(files)


@pytest.mark.parametrize("code", ["package_hash", "package_path", "package_missing", "package_descriptor", "package_bomb", "package_many", "package_record", "package_newer"])
def test_a_package_that_is_not_what_it_says_is_refused_with_the_reason_and_nothing_is_kept(teacher: TeacherClient, code: str) -> None:
    study = new_study(teacher, "Throws", repeats=2)
    run_some(teacher, study, {0: ["4.1", "4.2"]})
    wanted = str(uuid4())
    no = read_in(teacher, spoilt(package_of(teacher, study["id"]), code), wanted)
    assert (no.status_code, no.json()["code"]) == (422, code), no.text
    assert len(no.json()["detail"]) > 20
    assert teacher.http.get(f"/api/studies/{wanted}").status_code == 404


def test_what_is_no_package_of_a_study_is_refused(teacher: TeacherClient) -> None:
    assert read_in(teacher, b"no zip at all").json()["code"] == "package_zip"
    other = pack("x", "X", [TableOut(name="t", title="T", fields=[Field(name="a", type="number")], rows=[[1.5], [None]])], [], more={})
    assert read_in(teacher, other).json()["code"] == "package_other"
    assert unpack(other).files["t.csv"] == b'a\r\n1.5\r\n""\r\n'
    with pytest.raises(PackageRefused):
        unpack(b"")


def test_a_long_study_goes_out_to_every_form(teacher: TeacherClient) -> None:
    rows = "\r\n".join(f"{n},{n % 4 + 1},{4 + n % 4 + n % 7 / 10:.1f}" for n in range(1_500))
    body = {"id": str(uuid4()), "text": f"trial,stretch (cm),distance (m)\r\n{rows}\r\n", "title": "Many", "family": "launcher", "factor": "stretch (cm)", "response": "distance (m)", "also": []}
    study = teacher.http.post("/api/tables/study", json=body, timeout=120)
    study.raise_for_status()
    found = teacher.http.get(f"/api/studies/{study.json()['id']}/package.zip", timeout=120)
    assert set(parts(found.content)) == {
        "datapackage.json", "trials.csv", "levels.csv", "plan.json", "record.json", "conclusion.json", "as-written.csv",
    }  # fmt: skip
    assert len(pd.read_csv(io.BytesIO(parts(found.content)["trials.csv"]))) == 1_500
    sheet = teacher.http.get(f"/api/studies/{study.json()['id']}/study.ods", timeout=300)
    assert sheet.status_code == 200
    assert load(io.BytesIO(sheet.content)).spreadsheet is not None


def test_a_terminal_takes_a_study_out_while_bendro_runs(app: Application, tmp_path: Path) -> None:
    def run(*words: str) -> subprocess.CompletedProcess[str]:
        return starter.run("terminal", ["export", *words, "--data", str(app.folder)])

    listed = run()
    assert listed.returncode == 0
    assert "Fizz signal" in listed.stdout
    out = tmp_path / "fizz.zip"
    assert run("Fizz signal", "--out", str(out)).returncode == 0
    assert unpack(out.read_bytes()).descriptor["title"] == "Fizz signal"
    missing = run("No such study")
    assert (missing.returncode, "No study has this title" in missing.stderr) == (2, True)
    assert run("Fizz signal", "--as", "csv", "--out", str(tmp_path / "no" / "x.csv")).returncode == 2
    gone = starter.run("terminal", ["export", "--data", str(tmp_path)])
    assert (gone.returncode, "There are no data" in gone.stderr) == (2, True)


def test_every_text_cell_that_leaves_is_safe_to_open_and_reads_back_to_the_same_text(teacher: TeacherClient) -> None:
    """A spreadsheet runs a cell that begins with = + - @, a tab or a line's end, in either width."""
    names = ["=1+1", "+cmd", "-2+3", "@SUM(A1)", "＝1", "'=quoted", "plain"]
    variable = {"name": "=HYPERLINK(0)", "kind": "name", "levels": names, "unit": ""}
    materials = {"items": [{"name": "=felt()", "per_device": "2"}], "spare": 0}
    study = new_study(teacher, variable=variable, groups=["+Red"], repeats=1, limits=[], materials=materials)
    for n, level in enumerate(study["levels"]):
        teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body(level["id"], f"{n + 1}.5", group="+Red", note="-off"))
    tables = {name: data.decode() for name, data in parts(package_of(teacher, study["id"])).items() if name.endswith(".csv")}
    tables["trials.csv as it is taken out"] = teacher.http.get(f"/api/studies/{study['id']}/trials.csv").text.removeprefix("\ufeff")
    tables["shopping.csv"] = teacher.http.get(f"/api/studies/{study['id']}/shopping.csv").text.removeprefix("\ufeff")
    number = re.compile(r"[+-]?[\d.,]+(?:[eE][+-]?\d+)?")
    for name, table in tables.items():
        cells = [cell for row in csv.reader(io.StringIO(table)) for cell in row]
        assert [c for c in cells if c[:1] and c[0] in "=+-@\t\r\n＝＋－＠" and not number.fullmatch(c)] == [], name
    back = {row["=HYPERLINK(0)"] for row in parse_table(tables["trials.csv"]).rows}
    assert back == set(names)
    assert "'=felt()" in tables["shopping.csv"]


@pytest.mark.parametrize(
    "bend",
    [
        lambda r: r.update(seed=2**70),
        lambda r: r["versions"].append(r["versions"][0]),
        lambda r: r["versions"][0].update(number=0),
        lambda r: r["trials"][0].update(note="a\x00b"),
        lambda r: r["trials"][0].update(outside="elsewhere"),
        lambda r: r["versions"][0].update(device="x" * 500),
        lambda r: r["versions"][0].update(device="\x00"),
        lambda r: r.update(trials="none"),
    ],
)
def test_a_record_that_no_database_holds_is_refused_with_its_place(teacher: TeacherClient, bend: Any) -> None:
    files = parts(package_of(teacher, rich(teacher)["id"]))
    record = json.loads(files["record.json"])
    bend(record)
    files["record.json"] = json.dumps(record).encode()
    no = read_in(teacher, repacked(files))
    assert (no.status_code, no.json()["code"]) == (422, "package_record"), no.text
    assert "Nothing was read in" in no.json()["detail"]


def repacked(files: dict[str, bytes], **more: Any) -> bytes:
    """With hashes that fit."""
    told = json.loads(files["datapackage.json"]) | more
    for r in told["resources"]:
        if r["path"] in files:
            r["hash"] = f"sha256:{hashlib.sha256(files[r['path']]).hexdigest()}"
    return zipped({**files, "datapackage.json": json.dumps(told).encode()})


def test_a_file_is_unfolded_once_however_often_it_is_named(teacher: TeacherClient, monkeypatch: pytest.MonkeyPatch) -> None:
    from bendro.files import package

    data = package_of(teacher, rich(teacher)["id"])
    files = parts(data)
    told = json.loads(files["datapackage.json"])
    unfolded: list[str] = []
    real = package._bytes
    monkeypatch.setattr(package, "_bytes", lambda held, info: (unfolded.append(info.filename), real(held, info))[1])
    package.unpack(repacked(files, resources=told["resources"] * 40))
    assert len(unfolded) == len(set(unfolded)) == len(files)
    many = [{"path": f"x{n}", "hash": ""} for n in range(700)]
    with pytest.raises(PackageRefused, match="names 70"):
        package.unpack(repacked(files, resources=[*told["resources"], *many]))
    twice = [*told["resources"], {**told["resources"][0], "hash": "sha256:00"}]
    with pytest.raises(PackageRefused, match="twice"):
        package.unpack(zipped({**files, "datapackage.json": json.dumps({**told, "resources": twice}).encode()}))
