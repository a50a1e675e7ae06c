"""Levels, measures and turns have rows of their own: they follow the plan, nothing read loses its name, and a turn is filled by one trial."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any
from uuid import uuid4

import psycopg
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.api.test_two_at_once import at_once
from tests.conftest import DRAFT, Application, TeacherClient, new_study, trial_body

pytestmark = pytest.mark.api


@pytest.fixture
def database(app: Application) -> Iterator[psycopg.Connection[Any]]:
    with psycopg.connect(app.database(), autocommit=True) as connection:
        yield connection


def filled(database: psycopg.Connection[Any], study: dict[str, Any]) -> dict[tuple[int, str], str | None]:
    rows = database.execute("select block, level, trial_id::text from turn where study_id = %s order by position", (study["id"],)).fetchall()
    return {(block, level): trial for block, level, trial in rows}


def save(teacher: TeacherClient, study: dict[str, Any], trial: object = "", **change: Any) -> dict[str, Any]:
    found: dict[str, Any] = teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{trial or uuid4()}", json=trial_body(**change))
    return found


def replan(teacher: TeacherClient, study: dict[str, Any], **change: Any) -> dict[str, Any]:
    now = teacher.ok("GET", f"/api/studies/{study['id']}")
    found: dict[str, Any] = teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": now["version"], "draft": {**now["draft"], **change}})
    return found


def levels(*texts: str) -> dict[str, Any]:
    return {**DRAFT["variable"], "levels": list(texts)}


def test_the_rows_say_what_the_plan_says(teacher: TeacherClient, database: psycopg.Connection[Any]) -> None:
    study = new_study(teacher, repeats=2)
    told = teacher.ok("GET", f"/api/studies/{study['id']}")
    rows = database.execute("select id, label, value from level where study_id = %s order by place", (study["id"],)).fetchall()
    assert [(i, label) for i, label, _ in rows] == [(one["id"], one["label"]) for one in told["levels"]]
    assert [value for *_, value in rows] == [float(one["text"]) for one in told["levels"]]
    measures = database.execute("select id, name, scale, unit from measure where study_id = %s order by place", (study["id"],)).fetchall()
    assert measures == [*((m["id"], m["name"], m["scale"], m["unit"]) for m in told["draft"]["measures"]), ("behaviour", "behaviour", "behaviour", "")]
    turns = database.execute("select position, block, level, group_label, lane, heat from turn where study_id = %s order by position", (study["id"],)).fetchall()
    assert turns == [(t["position"], t["block"], t["level"], t["group"], t["lane"], t["heat"]) for t in told["turns"]]
    assert len(turns) == 2 * len(rows)


def test_a_level_taken_out_keeps_its_row_and_one_put_back_its_place(teacher: TeacherClient, database: psycopg.Connection[Any]) -> None:
    study = new_study(teacher, limits=DRAFT["limits"], variable=levels("4", "6", "8"))
    places = "select id, place from level where study_id = %s order by id"
    replan(teacher, study, variable=levels("4", "8"))
    assert database.execute(places, (study["id"],)).fetchall() == [("4", 1), ("6", None), ("8", 2)]
    assert {level for _, level in filled(database, study)} == {"4", "8"}
    now = teacher.ok("GET", f"/api/studies/{study['id']}")
    teacher.ok("POST", f"/api/studies/{study['id']}/undo", json={"version": now["version"]})
    assert database.execute(places, (study["id"],)).fetchall() == [("4", 1), ("6", 2), ("8", 3)]


def test_a_trial_of_a_level_that_the_plan_has_no_more_is_kept_under_its_name(teacher: TeacherClient, database: psycopg.Connection[Any]) -> None:
    study = new_study(teacher, limits=DRAFT["limits"], variable=levels("4", "6", "8"))
    told = save(teacher, study, level="12", block=1)
    assert (told["place"], told["level"]) == ("outside", "12")
    assert database.execute("select place, text from level where study_id = %s and id = '12'", (study["id"],)).fetchall() == [(None, "12")]
    assert set(filled(database, study).values()) == {None}
    replan(teacher, study, variable=levels("4", "6", "12"))
    assert filled(database, study)[(1, "12")] == told["id"], "the plan has it now, so it fills its turn"


def test_of_many_kept_for_one_turn_in_the_same_moment_one_fills_it_and_each_is_told_so(teacher: TeacherClient, database: psycopg.Connection[Any]) -> None:
    study = new_study(teacher)
    for block in (1, 2, 3):
        answers = [a.json() for a in at_once([lambda block=block: teacher.http.put(f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body("4", block=block)) for _ in range(8)])]
        assert sorted(a["place"] for a in answers) == ["extra"] * 7 + ["turn"]
        holder = next(a["id"] for a in answers if a["place"] == "turn")
        assert filled(database, study)[(block, "4")] == holder
        places = {t["id"]: t["place"] for t in teacher.ok("GET", f"/api/studies/{study['id']}/trials")}
        assert {a["id"]: a["place"] for a in answers}.items() <= places.items(), "what was told stands"


def test_a_trial_that_has_its_turn_keeps_it_when_an_earlier_one_comes_in_late(teacher: TeacherClient, database: psycopg.Connection[Any]) -> None:
    study = new_study(teacher)
    first = save(teacher, study, level="4", released_at="2026-11-25T10:05:00Z")
    late = save(teacher, study, level="4", released_at="2026-11-25T10:01:00Z")
    assert (first["place"], late["place"]) == ("turn", "extra")
    assert {t["id"]: (t["number"], t["place"]) for t in teacher.ok("GET", f"/api/studies/{study['id']}/trials")} == {late["id"]: (1, "extra"), first["id"]: (2, "turn")}
    save(teacher, study, first["id"], level="4", state="void", fault="slipped from the cup", revision=2)
    assert filled(database, study)[(1, "4")] == late["id"], "a turn that was given up is filled by the one that was extra"
    back = save(teacher, study, first["id"], level="4", revision=3)
    assert (back["place"], filled(database, study)[(1, "4")]) == ("extra", late["id"])
    moved = save(teacher, study, late["id"], level="6", revision=2)
    assert (moved["place"], filled(database, study)[(1, "4")], filled(database, study)[(1, "6")]) == ("turn", first["id"], late["id"])


def test_a_level_mistyped_for_a_moment_changes_no_holder_of_a_turn(teacher: TeacherClient, database: psycopg.Connection[Any]) -> None:
    study = new_study(teacher, limits=DRAFT["limits"], variable=levels("4", "6", "8"))
    first = save(teacher, study, level="4", released_at="2026-11-25T10:05:00Z")
    late = save(teacher, study, level="4", released_at="2026-11-25T10:01:00Z")  # came in later, released earlier: a further one
    before = filled(database, study)
    assert before[(1, "4")] == first["id"]
    now = teacher.ok("GET", f"/api/studies/{study['id']}")
    mistyped = {**now["draft"]["variable"], "levels": ["4", "6x", "8"], "level_ids": ["4", "6", "8"]}
    replan(teacher, study, variable=mistyped)
    assert filled(database, study) == before
    replan(teacher, study, variable={**mistyped, "levels": ["4", "6", "8"]})
    assert filled(database, study) == before
    assert {t["id"]: t["place"] for t in teacher.ok("GET", f"/api/studies/{study['id']}/trials")} == {first["id"]: "turn", late["id"]: "extra"}


@pytest.mark.parametrize(
    ("statement", "constraint"),
    [
        ("update trial set level = 'nowhere' where id = %(trial)s", "trial_of_a_level"),
        ("update reading set measure = 'nothing' where trial_id = %(trial)s", "reading_of_a_measure"),
        ("update turn set trial_id = %(trial)s where study_id = %(study)s", "trial_fills_one_turn"),
        ("delete from level where study_id = %(study)s", "of_a_level"),
    ],
)
def test_the_database_itself_refuses_what_no_plan_ever_had(teacher: TeacherClient, database: psycopg.Connection[Any], statement: str, constraint: str) -> None:
    study = new_study(teacher)
    trial = save(teacher, study, level="4")
    with pytest.raises(psycopg.IntegrityError, match=constraint):
        database.execute(statement, {"trial": trial["id"], "study": study["id"]})


COUNTED = ("kept", "void", "extra", "outside", "planned", "stage", "missing", "next_act")
STEP = st.one_of(
    st.tuples(st.just("save"), st.integers(1, 3), st.sampled_from(("4", "6", "8")), st.integers(0, 59)),
    st.tuples(st.sampled_from(("void", "keep", "withdraw", "move", "practice")), st.integers(0, 9), st.sampled_from(("4", "6", "8")), st.just(0)),
    st.tuples(st.just("plan"), st.integers(1, 3), st.sampled_from(("4 6", "4 6 8", "6 8", "8 4 6")), st.just(0)),
)


@given(st.lists(STEP, min_size=3, max_size=9))
@settings(max_examples=15, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_whatever_happens_each_turn_is_filled_by_one_trial_that_can_fill_it(teacher: TeacherClient, database: psycopg.Connection[Any], steps: list[tuple[str, int, str, int]]) -> None:
    study = new_study(teacher, limits=DRAFT["limits"], variable=levels("4", "6", "8"), repeats=3)
    path = f"/api/studies/{study['id']}"
    bodies: dict[str, dict[str, Any]] = {}
    for what, n, text, minute in steps:
        if what == "save":
            bodies[one := str(uuid4())] = trial_body(text, block=n, released_at=f"2026-11-25T10:{minute:02}:00Z")
            teacher.ok("PUT", f"{path}/trials/{one}", json=bodies[one])
        elif what == "plan":  # the server may refuse it where trials are kept: nothing changes then
            now = teacher.ok("GET", path)
            teacher.http.patch(path, json={"version": now["version"], "draft": {**now["draft"], "variable": levels(*text.split()), "repeats": n}})
        elif bodies:
            one = list(bodies)[n % len(bodies)]
            change = {
                "void": {"state": "void", "fault": "slipped from the cup"}, "keep": {"state": "kept"}, "withdraw": {"state": "withdrawn"},
                "move": {"level": text}, "practice": {"practice": not bodies[one].get("practice", False)},
            }[what]  # fmt: skip
            bodies[one] = {**bodies[one], **change, "revision": bodies[one].get("revision", 1) + 1}
            teacher.ok("PUT", f"{path}/trials/{one}", json=bodies[one])
        trials = teacher.ok("GET", f"{path}/trials")
        can = {(t["block"], t["level"]) for t in trials if t["state"] == "kept" and t["place"] in ("turn", "extra")}
        holders = {(t["block"], t["level"]): t["id"] for t in trials if t["state"] == "kept" and t["place"] == "turn"}
        turns = filled(database, study)
        assert {cell: one for cell, one in turns.items() if one} == holders
        assert holders.keys() == can & turns.keys()
        told = teacher.ok("GET", path)
        assert turns.keys() == {(t["block"], t["level"]) for t in told["turns"]}
        at_home = next(s for s in teacher.ok("GET", "/api/studies") if s["id"] == study["id"])
        assert {k: at_home[k] for k in COUNTED} == {k: told[k] for k in COUNTED}, "Home counts, the study looks at each trial: they agree"
