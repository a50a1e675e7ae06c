"""The spreadsheet of a study, opened by a library that has no part in the program's own reading of tables."""

from __future__ import annotations

import io
import re
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
    assert list(got) == ["trials", "levels", "plan", "materials"]
    head = [c for c, _ in got["trials"][0]]
    rows = [dict(zip(head, (c for c, _ in r), strict=False)) for r in got["trials"][1:]]
    analysis = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")
    assert [r["counts"] for r in rows].count("no") == 1
    for at, level in enumerate(got["levels"][1:3]):
        (label, _), (kept, count), (mean, average), (low, _), (high, _), (spread, _) = level
        mine = [r["reading as number"] for r in rows if r["level"] == label and r["counts"] == "yes"]
        assert (kept, mean) == (len(mine), pytest.approx(sum(mine) / len(mine)))
        assert mean == pytest.approx(analysis["levels"][at]["mean"])
        assert (low, high, spread) == (min(mine), max(mine), pytest.approx(max(mine) - min(mine)))
        assert count.startswith("of:=COUNTIFS([trials.")
        where = re.search(r"AVERAGEIFS\(\[trials\.\$([A-Z]+)\$2", average)
        assert where is not None
        assert head[sum((ord(c) - 64) * 26**n for n, c in enumerate(reversed(where[1]))) - 1] == "reading as number"
        assert f'"{label}"' in average


def test_a_study_without_trials_and_one_with_a_plan_that_is_not_ready(teacher: TeacherClient) -> None:
    got = sheets(teacher.http.get(f"/api/studies/{new_study(teacher)['id']}/study.ods").content)
    assert len(got["trials"]) == 1
    assert got["levels"][1][1][0] == 0.0
    refused = teacher.http.get(f"/api/studies/{new_study(teacher, run=False, variable={'name': '', 'levels': []})['id']}/study.ods")
    assert refused.status_code == 422
