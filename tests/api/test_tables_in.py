"""A results table becomes a study whole or not at all, with every column that it has."""

from __future__ import annotations

import threading
from typing import Any
from uuid import uuid4

import pytest

from tests.conftest import TeacherClient, new_study, read_of, texts_of, trial_body

pytestmark = pytest.mark.api

HEAD = "trial,block,group,device,person,state,fault,note,pull (cm),distance (m),off (cm),behaviour,wind (m/s),colour"


def read_in(teacher: TeacherClient, text: str, **change: Any) -> dict[str, Any]:
    body = {"id": str(uuid4()), "text": text, "title": "Read in", "family": "launcher", "factor": "pull (cm)", "response": "distance (m)", **change}
    found: dict[str, Any] = teacher.ok("POST", "/api/tables/study", json=body)
    return found


def row(n: int, level: int = 4, **change: str) -> str:
    cells = {
        "trial": str(n), "block": str(n), "group": "Red", "device": "R2", "person": "seat 1", "state": "kept", "fault": "", "note": "gusty",
        "pull": str(level), "distance": f"{level / 2 + n / 100:.2f}", "off": "left 5", "behaviour": "curved", "wind": "1.5", "colour": "blue",
    }  # fmt: skip
    return ",".join({**cells, **change}.values())


def table(*rows: str) -> str:
    return "\r\n".join([HEAD, *rows]) + "\r\n"


SMALL = table(row(1), row(2), row(3), row(1, 6, note=""), row(2, 6, state="void", fault="frame lifted", distance=""), row(3, 6))


def test_what_each_column_becomes_is_said_before_anything_is_read(teacher: TeacherClient) -> None:
    found = teacher.ok("POST", "/api/tables", json={"text": SMALL})
    becomes = {c["header"]: c["becomes"] for c in found["columns"]}
    assert becomes["note"] == "note"
    assert becomes["behaviour"] == "behaviour"
    assert becomes["wind (m/s)"] == "column"
    assert "kept" not in becomes.values()


def test_group_device_person_note_behaviour_and_further_columns_stay(teacher: TeacherClient) -> None:
    study = read_in(teacher, SMALL, also=["off (cm)"])
    trials = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
    first = next(t for t in trials if t["level"] == "4" and t["block"] == 1)
    assert (first["group"], first["device"], first["person"], first["note"], texts_of(first, "behaviour")[0]) == ("Red", "R2", "seat 1", "gusty", "curved")
    assert read_of(first, "m2")["value"] == -5.0
    assert study["draft"]["measures"][1]["name"] == "off"
    out = teacher.ok("GET", f"/api/studies/{study['id']}/trials.csv").removeprefix("\ufeff").splitlines()
    assert out[0] == HEAD
    assert out[1].endswith("left 5,curved,1.5,blue")
    # and in again: the same study once more
    again = read_in(teacher, "\r\n".join(out), also=["off (cm)"])
    one, two = (teacher.ok("GET", f"/api/studies/{s['id']}/analysis") for s in (study, again))
    assert (one["levels"], one["effect"]) == (two["levels"], two["effect"])


def test_bendros_own_table_with_three_timers_comes_back_the_same(teacher: TeacherClient) -> None:
    measure = {"name": "fall time", "quantity": "time", "unit": "s", "rule": "r", "timers": 3}
    study = new_study(teacher, measures=[measure], timers_by="mean")
    for block in (1, 2, 3):
        for level in ("4", "6", "8"):
            texts = [f"{1 + block / 10 + float(level) / 10:.2f}", f"{1.02 + float(level) / 10:.2f}", f"{1.3 + float(level) / 10:.2f}"]
            body = trial_body(level=level, block=block, texts=texts, unit="s", released_at=f"2026-05-04T10:{block}{level}:00Z")
            teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=body)
    csv = teacher.ok("GET", f"/api/studies/{study['id']}/trials.csv")
    again = read_in(teacher, csv, factor="pull-back (cm)", response="fall time (s)")
    assert (again["draft"]["timers_by"], again["draft"]["measures"][0]["timers"]) == ("mean", 3)
    one, two = (teacher.ok("GET", f"/api/studies/{s['id']}/analysis") for s in (study, again))
    assert [lv["mean"] for lv in one["levels"]] == pytest.approx([lv["mean"] for lv in two["levels"]])
    assert [lv["n_kept"] for lv in two["levels"]] == [3, 3, 3]


def test_an_outcome_that_says_void_is_a_void_trial(teacher: TeacherClient) -> None:
    text = "pull (cm),distance (m),outcome\r\n4,2.1,survived\r\n4,9.9,void\r\n6,3.1,survived\r\n6,3.2,\r\n"
    trials = teacher.ok("GET", f"/api/studies/{read_in(teacher, text)['id']}/trials")
    assert [t["state"] for t in trials] == ["kept", "void", "kept", "kept"]


def test_a_point_before_three_digits_is_asked_about_where_others_have_commas(teacher: TeacherClient) -> None:
    text = "pull;distance (mm)\r\n4;12,5\r\n4;1.250\r\n6;13,5\r\n"
    body = {"id": str(uuid4()), "text": text, "title": "Commas", "family": "launcher", "factor": "pull", "response": "distance (mm)"}
    answer = teacher.http.post("/api/tables/study", json=body)
    assert (answer.status_code, answer.json()["code"]) == (422, "reading_thousands")
    assert "row 3" in answer.json()["where"]
    # with points throughout it is a number
    assert read_in(teacher, text.replace(",5", ".5"), factor="pull", response="distance (mm)")["kept"] == 3


def test_a_bad_cell_leaves_nothing_behind(teacher: TeacherClient) -> None:
    rows = [row(n) for n in range(1, 40)] + [row(40, distance="quite far")]
    before = teacher.ok("GET", "/api/studies")
    body = {"id": str(uuid4()), "text": table(*rows), "title": "Half", "family": "launcher", "factor": "pull (cm)", "response": "distance (m)"}
    answer = teacher.http.post("/api/tables/study", json=body)
    assert answer.status_code == 422
    assert "row 41" in answer.json()["where"]
    assert teacher.ok("GET", "/api/studies") == before


def test_nobody_sees_a_half_read_table(teacher: TeacherClient) -> None:
    """While a long table is read in, others see no study or the whole of it."""
    rows = [row(n % 50 + 1, 4 + 2 * (n % 3)) for n in range(3000)]
    study_id = str(uuid4())
    seen: set[int] = set()
    done = threading.Event()

    def look() -> None:
        while not done.is_set():
            answer = teacher.http.get(f"/api/studies/{study_id}/trials")
            seen.add(len(answer.json()) if answer.status_code == 200 else 0)

    looker = threading.Thread(target=look)
    looker.start()
    read_in(teacher, table(*rows), id=study_id)
    done.set()
    looker.join()
    assert seen <= {0, 3000}
    assert len(teacher.ok("GET", f"/api/studies/{study_id}/trials")) == 3000


@pytest.mark.parametrize(("column", "order", "numbers"), [
    (None, "unknown", [None] * 6),
    ([1, 2, 3, 4, 5, 6], "blocks", [1, 2, 3, 4, 5, 6]),
    ([1, 4, 2, 5, 3, 6], "listed", [1, 4, 2, 5, 3, 6]),
    ([1, 3, 2, 4, 5, 6], "random", [1, 3, 2, 4, 5, 6]),
])  # fmt: skip
def test_the_order_of_the_rows_is_not_taken_for_the_order_of_the_trials(
    teacher: TeacherClient, column: list[int] | None, order: str, numbers: list[int | None]
) -> None:
    rows = [("4", "2.1"), ("6", "3.1"), ("4", "2.2"), ("6", "3.0"), ("4", "2.3"), ("6", "3.2")]
    head = "pull (cm),distance (m)" if column is None else "trial,pull (cm),distance (m)"
    lines = [",".join([*([] if column is None else [str(column[i])]), *row]) for i, row in enumerate(rows)]
    body = {"id": str(uuid4()), "text": "\n".join([head, *lines]), "title": "Order", "family": "launcher", "factor": "pull (cm)", "response": "distance (m)"}
    study = teacher.ok("POST", "/api/tables/study", json=body)
    assert study["draft"]["order"] == order
    found = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")
    # nothing is said of the order where it is not known
    assert ("order_mixed_with_level" in {f["code"] for f in found["audit"]}) == (order == "listed")
    pictures = teacher.ok("GET", f"/api/studies/{study['id']}/pictures")
    assert (pictures["order"] is None) == (order == "unknown")


# --- sheets as they are kept in schools --------------------------------------------------------------------------------


def refused(teacher: TeacherClient, text: str, **change: Any) -> dict[str, Any]:
    body = {"id": str(uuid4()), "text": text, "title": "Read in", "family": "launcher", "factor": "arm", "response": "distance", **change}
    answer = teacher.http.post("/api/tables/study", json=body)
    assert answer.status_code == 422, answer.text
    found: dict[str, Any] = answer.json()
    return found


SHEET = "Lever launchers of 8 Amber,,\narm,distance,remark\ncm,m,\n20,4.1,\n20,4.3,\narm,distance,remark\n25,4.9,\n25,5.1,void: it hit the bench\n25,5.0,\n"


def test_a_title_a_row_of_units_and_a_second_header_are_no_trials(teacher: TeacherClient) -> None:
    seen = teacher.ok("POST", "/api/tables", json={"text": SHEET})
    assert seen["rows"] == 5
    assert [c["header"] for c in seen["columns"]] == ["arm", "distance", "remark"]
    assert " ".join(seen["notes"]) == "“Lever launchers of 8 Amber” stands above the header and is taken for a title. The header is written again in 1 row, which is no trial. The row of units under the header is taken as the units."
    study = read_in(teacher, SHEET.replace("remark", "note"), factor="arm", response="distance")
    assert [level["label"] for level in study["levels"]] == ["20 cm", "25 cm"]
    assert study["draft"]["measures"][0]["unit"] == "m"
    trials = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
    assert [(t["state"], t["note"]) for t in trials if t["note"]] == [("void", "void: it hit the bench")]


MERGED = "group,arm,distance (m)\nHeron,20,4.1\n,20,4.3\n,25,5.0\nStork,20,4.0\n,25,5.1\n,25,4.9\n"


def test_rows_below_a_name_are_asked_about(teacher: TeacherClient) -> None:
    asked = refused(teacher, MERGED)
    assert asked["code"] == "cells_merged"
    assert "4 of 6 rows have no group below a name such as “Heron”" in asked["detail"]
    same = read_in(teacher, MERGED, factor="arm", response="distance", blanks="same")
    groups = [t["group"] for t in teacher.ok("GET", f"/api/studies/{same['id']}/trials")]
    assert sorted(groups) == ["Heron"] * 3 + ["Stork"] * 3
    none = read_in(teacher, MERGED, factor="arm", response="distance", blanks="none")
    assert sorted(t["group"] for t in teacher.ok("GET", f"/api/studies/{none['id']}/trials")) == [""] * 4 + ["Heron", "Stork"]


def test_every_bad_cell_is_named_at_once_and_the_rest_can_be_taken(teacher: TeacherClient) -> None:
    text = "arm,distance\n20,4.1\n20,far\n20,4.2\n25,5.0\n25,off the hall\n25,5.1\nlong,4.4\n"
    found = refused(teacher, text)
    assert found["code"] == "cells_bad"
    assert found["detail"].startswith("3 cells are not understood.")
    for row_said in ("row 3", "row 6", "row 8"):
        assert row_said in found["detail"]
    study = read_in(teacher, text, factor="arm", response="distance", leave_bad=True)
    assert study["kept"] == 4


def test_levels_that_are_numbers_can_be_taken_as_names(teacher: TeacherClient) -> None:
    study = read_in(teacher, "design,distance (m)\n1,4.1\n1,4.2\n2,5.0\n2,5.1\n", factor="design", response="distance", as_names=True)
    assert study["draft"]["variable"]["kind"] == "name"
