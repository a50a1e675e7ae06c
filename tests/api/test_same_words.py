"""One study says the same on every road out of it: page, conclusion, report, spreadsheet, data package, terminal."""

from __future__ import annotations

import csv
import io
import json
import zipfile
from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest
from typer.testing import CliRunner

from bendro.actions.packages import record_in
from bendro.terminal.commands import app as terminal
from bendro.terminal.verdict import concluded_of
from tests.api.test_spreadsheet import sheets
from tests.conftest import Application, TeacherClient, sign_up
from tests.forked import starter

pytestmark = pytest.mark.api


@pytest.fixture(scope="module")
def demo(app: Application) -> TeacherClient:
    client = sign_up(app)
    client.http.post("/api/session/demo")
    return client


def with_trials(demo: TeacherClient) -> list[dict[str, Any]]:
    return [line for line in demo.ok("GET", "/api/studies") if line["kept"]]


def test_a_package_says_word_for_word_what_the_page_says(demo: TeacherClient, tmp_path: Path) -> None:
    for line in with_trials(demo):
        path = f"/api/studies/{line['id']}"
        told = demo.ok("GET", f"{path}/conclusion")
        data = demo.http.get(f"{path}/package.zip").content
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            assert json.loads(packed.read("conclusion.json")) == told
        mine = concluded_of(record_in(data)[0]).conclusion.model_dump(mode="json")
        assert mine == told, line["title"]
        file = tmp_path / "study.zip"
        file.write_bytes(data)
        said = CliRunner().invoke(terminal, ["analyse", str(file)])
        assert (said.exit_code, said.output.splitlines()[0]) == (0, told["headline"]), said.output
        why = CliRunner().invoke(terminal, ["verdict", str(file), "--why"])
        assert (why.exit_code, why.output.splitlines()[0]) == (0, told["headline"])
        assert f"answer: {told['answer']}" in why.output


def test_the_terminal_says_of_a_study_of_this_machine_what_the_page_says(demo: TeacherClient, app: Application) -> None:
    """While Bendro runs; the demo is there once for each account of the tests, so it is asked for by id."""
    line = with_trials(demo)[0]
    told = demo.ok("GET", f"/api/studies/{line['id']}/conclusion")
    said = starter.run("terminal", ["verdict", line["id"], "--why", "--data", str(app.folder)])
    assert said.returncode == 0, said.stderr
    assert said.stdout.splitlines()[0] == told["headline"]
    assert f"answer: {told['answer']}" in said.stdout
    none = starter.run("terminal", ["verdict", "no such title", "--data", str(app.folder)])
    assert none.returncode == 2
    assert "No study has this title or id; these are here." in none.stderr


def test_a_report_and_a_spreadsheet_say_what_the_conclusion_says(demo: TeacherClient) -> None:
    for line in with_trials(demo):
        path = f"/api/studies/{line['id']}"
        told = demo.ok("GET", f"{path}/conclusion")
        report = demo.ok("POST", f"{path}/reports", json={"id": str(uuid4())})
        assert report["conclusion"] == told
        assert report["places"] == told["places"]
        assert report["analysis"]["verdict"]["headline"] == told["headline"] == demo.ok("GET", f"{path}/analysis")["verdict"]["headline"]
        assert report["sections"]["kept_same"] == [k["says"] for k in told["kept_same"]]
        assert report["sections"]["how_sure"].startswith(told["as_run"]["short"])
        follows = demo.ok("GET", f"{path}/following")
        assert ([b["label"] for b in follows["best"]], follows["why"]) == (told["best"], told["best_why"])
        found = [[value for value, _ in row] for row in sheets(demo.http.get(f"{path}/study.ods").content)["conclusion"]]
        assert ["found", told["headline"]] in [row[:2] for row in found]
        places = [row for row in found if row[:1] and row[1:2] and row[1] in [p["label"] for p in told["places"]] and row[0] != "found"]
        assert [(row[1], row[2]) for row in places] == [(p["label"], p["result"]) for p in told["places"]]


def test_the_terminal_reads_bendros_own_table_to_the_same_first_sentence_or_says_what_it_cannot_know(demo: TeacherClient, tmp_path: Path) -> None:
    """What a table cannot tell is the plan: that trials are still to come (so far), and the rule of rounds and contests."""
    compared = 0
    for line in with_trials(demo):
        path = f"/api/studies/{line['id']}"
        study = demo.ok("GET", path)
        draft = study["draft"]
        first = study["responses"][0]
        if first["shape"] != "number" or draft["study_kind"] != "fair_test" or draft["second"] or draft["compared"] == "side_by_side":
            continue
        file = tmp_path / "own.csv"
        text = demo.http.get(f"{path}/trials.csv").text
        file.write_text(text, encoding="utf-8")
        head = next(csv.reader(io.StringIO(text.removeprefix("\ufeff"))))
        column = next(h for h in head if h.startswith(draft["variable"]["name"]))
        reading = next(h for h in head if h.startswith(first["name"]))
        said = CliRunner().invoke(terminal, ["analyse", str(file), "--factor", column, "--response", reading, "--level", draft["reading_level"], "--better", first["better"]])
        assert said.exit_code == 0, said.output
        told = demo.ok("GET", f"{path}/conclusion")
        if not told["so_far"]:
            assert said.output.splitlines()[0] == told["headline"], line["title"]
            compared += 1
        assert "A table does not tell the plan" in said.output
    assert compared >= 2
