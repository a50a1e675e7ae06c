"""The spreadsheet of a study, opened by a library that has no part in the program's own reading of tables."""

from __future__ import annotations

import io
import subprocess
from pathlib import Path
from typing import Any

import pytest
from odf import opendocument, table, teletype

from tests.api.test_showing import run_some
from tests.conftest import TeacherClient, new_study, trial_body

pytestmark = pytest.mark.api


def sheets(data: bytes) -> dict[str, list[list[Any]]]:
    """Every sheet's cells: numbers as they are held, texts as they are shown, with the formula where there is one."""
    document = opendocument.load(io.BytesIO(data))
    found = {}
    for sheet in document.spreadsheet.getElementsByType(table.Table):
        rows = []
        for row in sheet.getElementsByType(table.TableRow):
            cells = []
            for cell in row.getElementsByType(table.TableCell):
                value = cell.getAttribute("value")
                cells.append((float(value) if value is not None else teletype.extractText(cell), cell.getAttribute("formula")))
            rows.append(cells)
        found[sheet.getAttribute("name")] = rows
    return found


def test_the_formulas_of_the_levels_give_the_cores_means_from_the_sheet_of_trials(teacher: TeacherClient) -> None:
    study = new_study(teacher, "Sheet \"of\" trials", repeats=3)
    run_some(teacher, study, {0: ["4.1", "430 cm", "4.2"], 1: ["6.1", "6.3", "6.2"]})
    body = trial_body(study["levels"][0]["id"], "1.0", block=3, state="void", fault="slipped", released_at="2026-05-04T20:00:00Z")
    teacher.ok("PUT", f"/api/studies/{study['id']}/trials/2b1b6c1e-0d1f-4d55-8e8a-111111111111", json=body)
    got = sheets(teacher.http.get(f"/api/studies/{study['id']}/study.ods").content)
    assert list(got) == ["trials", "levels", "conclusion", "plan", "materials"]
    head = [c for c, _ in got["trials"][0]]
    rows = [dict(zip(head, (c for c, _ in r), strict=False)) for r in got["trials"][1:]]
    analysis = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")
    assert [r["counts"] for r in rows].count("no") == 1
    for at, level in enumerate(got["levels"][1:3]):
        (label, _), (kept, count), (total, _), (mean, average), (low, _), (high, _), (spread, _) = level
        mine = [r["reading as number"] for r in rows if r["level"] == label and r["counts"] == "yes"]
        assert (kept, total, mean) == (len(mine), pytest.approx(sum(mine)), pytest.approx(sum(mine) / len(mine)))
        assert mean == pytest.approx(analysis["levels"][at]["mean"])
        assert (low, high, spread) == (min(mine), max(mine), pytest.approx(max(mine) - min(mine)))
        assert count.startswith("of:=SUMPRODUCT(([trials.")
        assert average == f"of:=IF([.B{at + 2}]=0;\"\";[.C{at + 2}]/[.B{at + 2}])"
        assert not any(label in (formula or "") for _, formula in level), "names are never compared: they would be read as patterns"


NAMES = ["card (thick)", "Card?", "card", "felt.x", ">4", "A+B", "a|b", "=1", '"quoted"', "~x*"]


def test_the_free_office_suite_works_out_what_the_core_does(teacher: TeacherClient, tmp_path: Path) -> None:
    """Every formula's value is taken out of the file, so that the suite has to work it out, and compared with the core's."""
    names = {"name": "cover", "kind": "name", "quantity": "number", "unit": "", "levels": NAMES}
    study = new_study(teacher, "Names that look like patterns", variable=names, repeats=2)
    run_some(teacher, study, {n: [f"{n + 1}.{n}", f"{n + 2}.5"] for n in range(len(NAMES) - 1)})  # one level has nothing
    document = opendocument.load(io.BytesIO(teacher.http.get(f"/api/studies/{study['id']}/study.ods").content))
    for cell in document.spreadsheet.getElementsByType(table.TableCell):
        if cell.getAttribute("formula"):
            for name in ("value", "valuetype"):
                if cell.getAttribute(name) is not None:
                    cell.removeAttribute(name)
            for text in list(cell.childNodes):
                cell.removeChild(text)
    document.save(str(tmp_path / "bare.ods"))
    command = ["soffice", "--headless", "--norestore", f"-env:UserInstallation=file://{tmp_path}/office", "--convert-to", "ods:calc8", "--outdir", str(tmp_path / "out"), str(tmp_path / "bare.ods")]
    subprocess.run(command, check=True, capture_output=True, timeout=240)
    got = sheets((tmp_path / "out" / "bare.ods").read_bytes())["levels"]
    analysis = {s["level"]: s for s in teacher.ok("GET", f"/api/studies/{study['id']}/analysis")["levels"]}
    assert [row[0][0] for row in got[1 : 1 + len(NAMES)]] == NAMES
    for row in got[1 : 1 + len(NAMES)]:
        label, kept, *values = (value for value, _ in row[:7])
        told = analysis.get(label)
        if told is None:
            assert (kept, values) == (0, ["", "", "", "", ""])
            continue
        assert kept == told["n_kept"]
        assert values == [pytest.approx(v, rel=1e-12) for v in (told["total"], told["mean"], told["min"], told["max"], told["max"] - told["min"])]


def test_what_was_found_stands_in_a_sheet_of_its_own_word_for_word(teacher: TeacherClient) -> None:
    study = new_study(teacher, repeats=3)
    run_some(teacher, study, {0: ["4.1", "4.3", "4.2"], 1: ["6.1", "6.3", "6.2"]})
    c = teacher.ok("GET", f"/api/studies/{study['id']}/conclusion")
    got = [[value for value, _ in row] for row in sheets(teacher.http.get(f"/api/studies/{study['id']}/study.ods").content)["conclusion"]]
    assert ["found", c["headline"]] in got
    assert ["how it was run", c["as_run"]["short"]] in got
    assert [row[:3] for row in got[-len(c["places"]) :]] == [[str(p["place"]), p["label"], p["result"]] for p in c["places"]]


def test_a_study_without_trials_and_one_with_a_plan_that_is_not_ready(teacher: TeacherClient) -> None:
    got = sheets(teacher.http.get(f"/api/studies/{new_study(teacher)['id']}/study.ods").content)
    assert len(got["trials"]) == 1
    assert got["levels"][1][1][0] == 0.0
    refused = teacher.http.get(f"/api/studies/{new_study(teacher, run=False, variable={'name': '', 'levels': []})['id']}/study.ods")
    assert refused.status_code == 422
