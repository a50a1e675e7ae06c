"""Trials with many readings, drop by drop, with versions and conditions, through the API; and studies put away and thrown away."""

from __future__ import annotations

import csv
import io
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import uuid4

import psycopg
import pytest

from bendro.core.analyse import analyse
from bendro.core.context import Context
from bendro.files.trial_table import parse_table, take_trials
from tests.conftest import Application, TeacherClient, new_study, read_of, texts_of, trial_body

pytestmark = pytest.mark.api

LAUNCH = [
    {"id": "m1", "name": "distance", "quantity": "length", "unit": "m", "rule": "r"},
    {"id": "m2", "name": "off the line", "quantity": "length", "unit": "cm", "rule": "r", "signed": True},
    {"id": "m3", "name": "hits", "scale": "count", "quantity": "count", "unit": "count", "rule": "r"},
]
OUTCOME = {"id": "m1", "name": "cracker", "scale": "outcome", "quantity": "number", "unit": "", "words": ["untouched", "hairline", "cracked"], "survived": 2, "rule": "r"}
POD: dict[str, Any] = {
    "family": "protector",
    "variable": {"name": "skirt folds", "kind": "number", "quantity": "count", "unit": "count", "levels": ["0", "2"]},
    "limits": [{"on": "rungs", "name": "", "value": "4 m"}],
    "measures": [OUTCOME],
}
LADDER = {"plan": "ladder", "heights": ["1", "1.6", "2.4"], "unit": "m", "payload": "fresh"}


def put(teacher: TeacherClient, study: dict[str, Any], body: dict[str, Any], id: str | None = None) -> dict[str, Any]:
    found: dict[str, Any] = teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{id or uuid4()}", json=body)
    return found


def get(teacher: TeacherClient, study: dict[str, Any], path: str = "", **params: Any) -> Any:
    return teacher.ok("GET", f"/api/studies/{study['id']}{path}", params=params)


def given(readings: list[tuple[str, str, str]], **more: Any) -> dict[str, Any]:
    return {**trial_body(**more), "readings": [{"measure": m, "texts": [t], "unit": u} for m, t, u in readings]}


def test_all_measures_of_a_trial_are_kept_analysed_and_go_out_and_in_again(teacher: TeacherClient) -> None:
    study = new_study(teacher, measures=LAUNCH)
    for n, (level, far) in enumerate([(lv, base + 0.03 * b) for b in range(3) for lv, base in (("4", 2.0), ("6", 3.0), ("8", 4.1))]):
        body = given([("m1", f"{far:.2f}", "m"), ("m2", f"left {n}", "cm"), ("m3", str(n % 3), "count")], level=level, behaviour="", block=n // 3 + 1)
        body["readings"].append({"measure": "behaviour", "texts": ["curved", "popped up"] if n % 2 else ["straight"]})
        put(teacher, study, {**body, "released_at": f"2026-05-04T10:{n:02d}:00Z"})
    trials = get(teacher, study, "/trials")
    assert read_of(trials[3], "m2")["value"] == -3.0
    assert texts_of(trials[3], "m3") == ["0"]
    assert [r["id"] for r in get(teacher, study)["responses"]] == ["m1", "m2", "m3"]
    assert get(teacher, study, "/analysis")["response"] == {"name": "distance", "unit": "m"}
    off = get(teacher, study, "/analysis", response="m2")
    assert (off["response"], off["levels"][0]["mean"]) == ({"name": "off the line", "unit": "cm"}, 3.0)  # by its size; the lean is told apart
    assert off["lean"] == "8 landed left and 0 right of the line; the middle of all lies 4 cm to the left."
    counts = get(teacher, study, "/beside")["behaviours"]
    assert next((b["level"], b["trials"], {w["word"]: w["count"] for w in b["words"]}) for b in counts) == ("4", 3, {"straight": 2, "curved": 1, "popped up": 1})

    text = get(teacher, study, "/trials.csv").lstrip("\ufeff")
    body = {"id": str(uuid4()), "text": text, "title": "Again", "family": "launcher", "factor": "pull-back (cm)", "response": "distance (m)", "also": ["off the line (cm)", "hits"]}
    again = teacher.ok("POST", "/api/tables/study", json=body)
    for one, two in zip(trials, get(teacher, again, "/trials"), strict=True):
        for m in ("m1", "m2", "m3"):
            assert read_of(one, m)["value"] == pytest.approx(read_of(two, m)["value"])
            assert texts_of(one, m) == texts_of(two, m)
        assert texts_of(one, "behaviour") == texts_of(two, "behaviour")
    assert get(teacher, again, "/analysis")["verdict"]["answer"] == get(teacher, study, "/analysis")["verdict"]["answer"]


def test_how_a_reading_was_taken_goes_out_with_it(teacher: TeacherClient) -> None:
    study = new_study(teacher, measures=[{"id": "m1", "name": "time", "quantity": "time", "unit": "s", "rule": "r", "timed": True}])
    pressed = {**trial_body("4"), "readings": [{"measure": "m1", "texts": ["2.10"], "unit": "s", "taken": "pressed", "stamps": [10.5, 12.6]}]}
    assert put(teacher, study, pressed)["readings"][0]["taken"] == "pressed"
    put(teacher, study, trial_body("6", "2.2", unit="s", released_at="2026-05-04T10:01:00Z"))
    table = list(csv.DictReader(io.StringIO(get(teacher, study, "/trials.csv").lstrip("\ufeff"))))
    assert [row["taken"] for row in table] == ["pressed", "typed"]


def test_a_reading_for_a_measure_that_the_plan_does_not_have_is_refused_and_said(teacher: TeacherClient) -> None:
    study = new_study(teacher, measures=LAUNCH)
    path = f"/api/studies/{study['id']}/trials/{uuid4()}"
    for reading, code in (
        (("m9", "4", "m"), "measure_gone"), (("m1", "4", "s"), "reading_unit"), (("m2", "sideways", "cm"), "reading_words"),
    ):  # fmt: skip
        answer = teacher.http.put(path, json=given([("m1", "4.2", "m"), reading] if reading[0] != "m1" else [reading]))
        assert answer.json()["code"] == code, answer.text
    assert get(teacher, study, "/trials") == []
    put(teacher, study, given([("m1", "4.2", "m"), ("m2", "left 3", "cm")]))
    gone = {"version": study["version"], "draft": {**study["draft"], "measures": LAUNCH[:1]}}
    refused = teacher.http.patch(f"/api/studies/{study['id']}", json=gone).json()
    assert (refused["code"], refused["where"]) == ("plan_locked", "measures.1")
    # another name and another unit change no reading
    inches = [{**LAUNCH[0], "name": "how far", "unit": "ft"}, *LAUNCH[1:]]
    now = teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": study["version"], "draft": {**study["draft"], "measures": inches}})
    assert now["outside"] == 0
    (trial,) = get(teacher, study, "/trials")
    assert read_of(trial)["value"] == pytest.approx(4.2 / 0.3048)
    assert texts_of(trial) == ["4.2"]


def test_a_level_typed_otherwise_takes_its_trials_along(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    put(teacher, study, trial_body("4", "2.0"))
    levels = {**study["draft"]["variable"], "levels": ["4.5", "6", "8"], "level_ids": ["4", "6", "8"]}
    now = teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": study["version"], "draft": {**study["draft"], "variable": levels}})
    assert (now["kept"], now["outside"], [lv["text"] for lv in now["levels"]]) == (1, 0, ["4.5", "6", "8"])
    assert [lv["level"] for lv in get(teacher, study, "/analysis")["levels"] if lv["n_kept"]] == [4.5]
    # a trial made offline under the plan before still finds its level
    put(teacher, now, trial_body("4", "2.1", block=2, plan_version=study["version"]))
    assert get(teacher, study)["kept"] == 2


def test_what_is_worked_out_stands_on_every_trial_with_what_it_lacks_and_can_be_asked_how(teacher: TeacherClient) -> None:
    derived = [{"id": "d1", "name": "mean speed", "calculator": "average-speed", "output": "speed", "unit": "m/s", "inputs": [
        {"input": "distance", "source": "reading", "of": "m1"}, {"input": "time", "source": "reading", "of": "m2"}]}]  # fmt: skip
    measures = [LAUNCH[0], {"id": "m2", "name": "time", "quantity": "time", "unit": "s", "rule": "r"}]
    study = new_study(teacher, measures=measures, derived=derived)
    kept = put(teacher, study, given([("m1", "6.00", "m"), ("m2", "2.00", "s")]))
    assert [(d["id"], d["value"], d["text"]) for d in kept["derived"]] == [("d1", 3.0, "3.000 m/s")]
    lacks = put(teacher, study, given([("m1", "4.0", "m")], block=2, released_at="2026-05-04T10:30:00Z"))
    assert (lacks["derived"][0]["value"], lacks["derived"][0]["says"]) == (None, "time was not read")
    at_least = put(teacher, study, given([("m1", ">=8.0", "m"), ("m2", "2.00", "s")], block=3, released_at="2026-05-04T11:00:00Z"))
    assert at_least["derived"][0]["text"].startswith("at least 4.0")
    found = get(teacher, study, "/analysis", response="d1")
    assert (found["response"], found["levels"][0]["n_kept"], found["levels"][0]["censored"]) == ({"name": "mean speed", "unit": "m/s"}, 2, 1)
    how = get(teacher, study, "/how", about="trial", first="1", response="d1")
    assert how["title"] == "mean speed of trial 1"
    assert any("6 m" in line and "2 s" in line and "3 m/s" in line for line in how["lines"])
    table = list(csv.DictReader(io.StringIO(get(teacher, study, "/trials.csv").lstrip("\ufeff"))))
    assert [row["mean speed (m/s)"] for row in table] == ["3", "", ">=4"]


def test_a_ladder_is_run_drop_by_drop_and_the_specimen_is_compared(teacher: TeacherClient) -> None:
    study = new_study(teacher, drop=LADDER, repeats=2, **POD)
    assert study["rungs"] == [1.0, 1.6, 2.4]

    minute = iter(range(60))

    def drop(level: str, block: int, rung: str, word: str) -> dict[str, Any]:
        body = {**trial_body(level, block=block, rung=rung, specimen=f"pod {block}"), "readings": [{"measure": "m1", "texts": [word]}]}
        return put(teacher, study, {**body, "released_at": f"2026-05-04T10:{next(minute):02d}:00Z"})

    drop("0", 1, "1", "untouched")
    assert get(teacher, study)["kept"] == 0  # its ladder is not over
    drop("0", 1, "1.6", "cracked")
    assert get(teacher, study)["kept"] == 1
    assert drop("0", 1, "2.4", "cracked")["place"] == "extra"
    for rung in ("1", "1.6", "2.4"):
        drop("2", 1, rung, "hairline")
    drop("2", 2, "1", "cracked")
    drop("0", 2, "1", "untouched")
    ladders = {(x["level"], x["block"]): (x["known"], x["passed"], x["failed"], x["next"]) for x in get(teacher, study, "/beside")["ladders"]}
    assert ladders == {("0", 1): ("between", 1.0, 1.6, None), ("2", 1): ("at_least", 2.4, None, None), ("2", 2): ("below", None, 1.0, None), ("0", 2): ("at_least", 1.0, None, 1.6)}
    found = get(teacher, study, "/analysis")
    assert found["response"] == {"name": "highest rung survived", "unit": "m"}
    assert [(lv["level"], lv["n_kept"], lv["censored"]) for lv in found["levels"]] == [(0.0, 2, 1), (2.0, 2, 1)]
    refused = teacher.http.put(f"/api/studies/{study['id']}/trials/{uuid4()}", json={**trial_body("0", block=2), "readings": [{"measure": "m1", "texts": ["melted"]}]})
    assert refused.json()["code"] == "outcome_unknown"
    table = list(csv.DictReader(io.StringIO(get(teacher, study, "/trials.csv").lstrip("\ufeff"))))
    assert (table[0]["rung"], table[0]["specimen"], table[0]["outcome"]) == ("1", "pod 1", "untouched")


def test_survival_is_judged_for_each_payload_and_one_that_was_not_judged_leaves_the_trial_out(teacher: TeacherClient) -> None:
    one = {"plan": "one_height", "heights": ["2"], "unit": "m", "payload": "fresh"}
    study = new_study(teacher, drop=one, payloads=["left", "right"], repeats=2, **{**POD, "measures": [{**OUTCOME, "each_payload": True}]})

    def release(level: str, block: int, *words: str) -> None:
        readings = [{"measure": "m1", "payload": n, "texts": [w]} for n, w in enumerate(words, 1)]
        put(teacher, study, {**trial_body(level, block=block), "readings": readings})

    release("0", 1, "untouched", "cracked")
    release("0", 2, "cracked", "cracked")
    release("2", 1, "untouched", "hairline")
    half = {**trial_body("2", block=2), "readings": [{"measure": "m1", "payload": 1, "texts": ["untouched"]}]}
    path = f"/api/studies/{study['id']}/trials/{uuid4()}"
    refused = teacher.http.put(path, json=half)
    assert (refused.status_code, refused.json()["code"]) == (422, "payload_missing")
    whole = [{"measure": "m1", "payload": n, "texts": ["untouched"]} for n in (1, 2)]
    teacher.ok("PUT", path, json={**half, "readings": whole})
    teacher.ok("PUT", path, json={**half, "revision": 2})  # a trial that is there already may be mended so
    levels = get(teacher, study, "/analysis")["effect"]["survival"]["levels"]
    assert [(lv["level"], lv["survived"], lv["n"]) for lv in levels] == [(0.0, 0, 2), (2.0, 1, 1)]
    three = {**trial_body("2", block=2), "readings": [{"measure": "m1", "payload": 3, "texts": ["untouched"]}]}
    assert teacher.http.put(f"/api/studies/{study['id']}/trials/{uuid4()}", json=three).json()["code"] == "payload_gone"


def test_what_is_worked_out_takes_every_payload_of_a_reading(teacher: TeacherClient) -> None:
    """Two payloads that moved 3 m and 5 m in 2 s: 4 m over 2 s is 2 m/s (by hand)."""
    derived = [{"id": "d1", "name": "mean speed", "calculator": "average-speed", "output": "speed", "unit": "m/s", "inputs": [
        {"input": "distance", "source": "reading", "of": "m1"}, {"input": "time", "source": "typed", "value": "2 s"}]}]  # fmt: skip
    study = new_study(teacher, payloads=["left", "right"], measures=[{**LAUNCH[0], "each_payload": True}], derived=derived)
    readings = [{"measure": "m1", "payload": n, "texts": [text], "unit": "m"} for n, text in enumerate(("3.00", "5.00"), 1)]
    kept = put(teacher, study, {**trial_body("4"), "readings": readings})
    assert kept["derived"][0]["value"] == pytest.approx(2.0)
    found = get(teacher, study, "/analysis", response="d1")
    assert found["levels"][0]["mean"] == pytest.approx(2.0)
    assert get(teacher, study, "/analysis")["levels"][0]["mean"] == 4.0


def test_a_specimen_of_two_payloads_climbs_on_only_while_both_survive(teacher: TeacherClient) -> None:
    study = new_study(teacher, drop=LADDER, payloads=["left", "right"], repeats=1, **{**POD, "measures": [{**OUTCOME, "each_payload": True}]})

    def drop(rung: str, *words: str) -> None:
        readings = [{"measure": "m1", "payload": n, "texts": [w]} for n, w in enumerate(words, 1)]
        put(teacher, study, {**trial_body("0"), "readings": readings, "rung": rung, "specimen": "pod 1", "released_at": f"2026-05-04T10:0{rung[0]}:0{len(rung)}Z"})

    drop("1", "untouched", "hairline")
    drop("1.6", "untouched", "cracked")
    (ladder,) = get(teacher, study, "/beside")["ladders"]
    assert (ladder["passed"], ladder["failed"], ladder["over"], ladder["next"]) == (1.0, 1.6, True, None)
    line = next(s for s in teacher.ok("GET", "/api/studies") if s["id"] == study["id"])
    assert line["kept"] == get(teacher, study)["kept"] == 1  # Home counts the turn as filled by the same rule


def test_kept_trials_without_what_is_asked_for_are_not_called_none(teacher: TeacherClient) -> None:
    momentum = {"id": "d1", "name": "launch momentum", "calculator": "impact", "output": "momentum_change", "unit": "kg·m/s",
                "inputs": [{"input": "mass", "source": "version", "of": "mass"}, {"input": "impact_speed", "source": "typed", "value": "2 m/s"},
                           {"input": "stop_time", "source": "typed", "value": "20 ms"}]}  # fmt: skip
    study = new_study(teacher, measures=LAUNCH[:2], derived=[momentum])
    put(teacher, study, given([("m1", "4.1", "m")]))
    verdicts = [get(teacher, study, "/analysis", response=r)["verdict"] for r in ("m2", "d1")]
    assert [v["says"] for v in verdicts] == ["One trial is kept, but it has no off the line.", "One trial is kept, but it has no launch momentum."]
    put(teacher, study, given([("m1", "6.1", "m")], level="6", released_at="2026-05-04T10:05:00Z"))
    again = get(teacher, study, "/analysis", response="d1")
    assert again["verdict"]["says"] == "2 trials are kept, but none of them has launch momentum."
    assert again["verdict"]["next"].startswith("Read it in the next trials; what is worked out needs everything")


def test_practice_is_recorded_shown_and_never_counted(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    assert put(teacher, study, trial_body(practice=True))["place"] == "practice"
    now = get(teacher, study)
    assert (now["kept"], len(get(teacher, study, "/trials"))) == (0, 1)
    assert get(teacher, study, "/analysis")["verdict"]["says"].startswith("No kept trial yet")
    assert "void,practice" in get(teacher, study, "/trials.csv")
    # a plan may still change while there is practice only
    teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": study["version"], "draft": {**study["draft"], "family": "glider", "limits": []}})


def test_conditions_persons_and_versions_go_with_a_trial_and_can_be_compared_over(teacher: TeacherClient) -> None:
    study = new_study(teacher, hold=[{"name": "fan distance", "value": "60 cm", "tolerance": "1 cm"}], repeats=4)
    teacher.ok("PUT", f"/api/studies/{study['id']}/versions/{uuid4()}", json={"device": "Red", "draft": {"mass": "20 g"}, "revision": 0})
    for n in range(8):
        held = {"fan distance": "60 cm" if n < 4 else "65 cm"}
        put(teacher, study, trial_body(["4", "6"][n % 2], f"{2 + n / 10}", block=n // 2 + 1, conditions=held, person=f"seat {n % 2 + 1}", device="Red", version=1 + n // 4,
                                       released_at=f"2026-05-04T10:{n:02d}:00Z"))  # fmt: skip
    assert [f["id"] for f in get(teacher, study)["factors"]] == ["", "version", "person", "held:fan distance"]
    audit = {f["code"]: f for f in get(teacher, study, "/analysis")["audit"]}
    assert "Fan distance (from 60 cm to 65 cm)" in audit["control_not_held"]["says"]
    assert "person_mixed_with_level" in audit
    over = get(teacher, study, "/analysis", factor="held:fan distance")
    assert [(lv["level"], lv["n_kept"]) for lv in over["levels"]] == [("60 cm", 4), ("65 cm", 4)]
    assert over["verdict"]["answer"] != "clear"
    assert "not_planned" in {f["code"] for f in over["audit"]}
    by_version = get(teacher, study, "/analysis", factor="version")
    assert [lv["level"] for lv in by_version["levels"]] == ["Red version 1", "Red version 2"]
    head = get(teacher, study, "/trials.csv").splitlines()[0]
    assert "held: fan distance" in head
    assert "version" in head
    assert "device" in head


def test_points_follow_from_the_zones_and_places_from_the_heats(teacher: TeacherClient) -> None:
    zones = [{"start": "2", "end": "3", "points": 1}, {"start": "3", "end": "3.5", "points": 5}]
    study = new_study(teacher, measures=[{"id": "m1", "name": "landing", "scale": "zone", "quantity": "length", "unit": "m", "rule": "r", "zones": zones},
                                         {"id": "m2", "name": "landing order", "scale": "order", "quantity": "number", "unit": ""}])  # fmt: skip
    for n, (level, far, place) in enumerate([("4", "2.5", "2"), ("6", "3.2", "1"), ("8", "4.2", "3=")]):
        put(teacher, study, given([("m1", far, "m"), ("m2", place, "")], level=level, released_at=f"2026-05-04T10:{n:02d}:00Z"))
    found = get(teacher, study, "/analysis")
    assert (found["response"]["name"], [lv["mean"] for lv in found["levels"]]) == ("score for landing", [1.0, 5.0, 0.0])
    assert [lv["mean"] for lv in get(teacher, study, "/analysis", response="m2")["levels"]] == [2.0, 1.0, 3.0]
    assert [r["scored"] for r in teacher.ok("GET", f"/api/studies/{study['id']}")["responses"]] == [True, False]


def test_points_are_told_wherever_a_landing_is(teacher: TeacherClient) -> None:
    zones = [{"start": "2", "end": "3", "points": 5}, {"start": "3", "end": "4", "points": 1}]
    landing = {"id": "m1", "name": "landing", "scale": "zone", "quantity": "length", "unit": "m", "rule": "r", "zones": zones, "better": "low"}
    study = new_study(teacher, measures=[landing], groups=["Red"], guess={"first": "2", "last": "4", "scatter": "1"})
    far = {"4": ["2.2", "2.9", "3"], "6": ["3.5", "1.2", "9"], "8": ["3.1", "3.2", "2.5"]}
    for level, texts in far.items():
        for block, text in enumerate(texts, 1):
            kept = put(teacher, study, given([("m1", text, "m")], level=level, block=block, group="Red", released_at=f"2026-05-04T10:0{level}:{block}0Z"))
    assert [(d["id"], d["value"], d["text"]) for d in kept["derived"]] == [("m1", 5.0, "5 points")]  # in the answer to the save
    got = {(t["level"], t["block"]): t["derived"][0]["value"] for t in teacher.ok("GET", f"/api/studies/{study['id']}/trials")}
    assert got == {("4", 1): 5, ("4", 2): 5, ("4", 3): 5, ("6", 1): 1, ("6", 2): 0, ("6", 3): 0, ("8", 1): 1, ("8", 2): 1, ("8", 3): 5}
    table = get(teacher, study, "/trials.csv")
    rows = list(csv.DictReader(io.StringIO(table)))
    assert [(r["landing (m)"], r["score for landing"]) for r in rows][:3] == [("2.2", "5"), ("2.9", "5"), ("3", "5")]
    from_table = analyse(take_trials(parse_table(table.encode()), "pull-back (cm)", "score for landing").trials, Context(factor="pull-back", response="points"))
    assert [s.mean for s in from_table.levels] == [s["mean"] for s in get(teacher, study, "/analysis")["levels"]] == [5, pytest.approx(1 / 3), pytest.approx(7 / 3)]
    # the most points are the best, whatever was chosen while the measure was still a length; so it is in the final
    teacher.ok("POST", f"/api/studies/{study['id']}/reports", json={"id": (report := str(uuid4()))})
    steps = teacher.ok("GET", f"/api/studies/{study['id']}/reports/{report}")["places"]
    assert (steps[0]["place"], steps[0]["label"]) == (1, "4 cm")
    # what is expected is asked for in points as well
    assert "Expect about 2 points at 4 cm and 4 points at 8 cm" in get(teacher, study, "/ahead")["outlook"]["expects"]


def test_straighter_without_losing_distance_is_decided_by_the_margin_of_the_plan(teacher: TeacherClient) -> None:
    study = new_study(teacher, measures=LAUNCH[:2], margin="30 cm", repeats=4)
    landed = {"4": ([4.0, 4.1, 3.9, 4.0], [30, -40, 35, -38]), "6": ([3.95, 4.05, 3.9, 4.0], [2, -3, 1, -2]), "8": ([2.0, 2.1, 1.9, 2.0], [1, 0, 2, -1])}
    for level, (along, off) in landed.items():
        for n, (a, o) in enumerate(zip(along, off, strict=True), 1):
            put(teacher, study, given([("m1", str(a), "m"), ("m2", str(o), "cm")], level=level, block=n, released_at=f"2026-05-04T10:{n:02d}:00Z"))
    beside = get(teacher, study, "/beside")
    one, two = beside["straighter"]  # every other level against the one that goes furthest
    assert (one["first"], one["second"], one["straighter"], one["keeps_distance"]) == ("4", "6", True, True)
    assert (two["first"], two["second"], two["straighter"], two["keeps_distance"]) == ("4", "8", True, False)
    assert "margin of 0.3 m" in two["says"]
    # headline, Decide, the conclusion and the panel say the same
    c = get(teacher, study, "/conclusion")
    assert c["two_measures"] == beside["decided"]
    assert beside["decided"].startswith("6 cm lands nearer the line than 4 cm, which goes furthest (2 cm off against 36 cm)")
    assert c["best"] == ["6 cm"]
    follows = get(teacher, study, "/following")
    assert ([b["label"] for b in follows["best"]], follows["why"]) == (["6 cm"], beside["decided"])
    assert get(teacher, study, "/analysis")["verdict"]["says"].endswith(beside["decided"])


def test_events_have_a_running_number_and_say_who(app: Application, teacher: TeacherClient) -> None:
    study = new_study(teacher)
    trial = str(uuid4())
    put(teacher, study, trial_body(), id=trial)
    put(teacher, study, trial_body(), id=trial)  # sent again: no second event
    put(teacher, study, trial_body(text="4.6", revision=2), id=trial)
    put(teacher, study, trial_body(text="4.52", revision=1), id=trial)
    teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": study["version"], "title": "Another"})
    with psycopg.connect(app.database()) as rows:
        found = rows.execute("select kind, revision, by is not null, id from event where study_id = %s order by id", (study["id"],)).fetchall()
    assert [r[:3] for r in found] == [("run", 1, True), ("trial", 1, True), ("trial", 2, True), ("plan", 2, True)]
    assert [r[3] for r in found] == sorted({r[3] for r in found})


@pytest.mark.parametrize("part", ["trial", "reading"])
def test_a_reading_without_its_trial_or_its_value_cannot_be_stored(app: Application, teacher: TeacherClient, part: str) -> None:
    study = new_study(teacher)
    trial = put(teacher, study, trial_body())["id"]
    alone = "insert into reading (trial_id, measure, payload, workspace_id, texts, unit, taken, stamps, kind) values (%s, 'm1', 1, gen_random_uuid(), '[]', '', 'typed', '[]', '')"
    statement, given_ = (alone, str(uuid4())) if part == "trial" else ("update reading set value = null where trial_id = %s", trial)
    with psycopg.connect(app.database(), autocommit=True) as rows, pytest.raises(psycopg.errors.IntegrityError):
        rows.execute(statement, (given_,))


def test_a_usual_test_is_a_whole_study_in_one_call(teacher: TeacherClient) -> None:
    body = {"id": str(uuid4()), "family": "vehicle", "test": "surface", "class_label": "9 Teal"}
    made = teacher.ok("POST", "/api/studies/usual", json=body)
    assert (made["stage"], made["planned"], made["class_label"], made["title"]) == ("run", 16, "9 Teal", "Which surface lets it slide farthest?")
    assert teacher.ok("POST", "/api/studies/usual", json=body)["id"] == made["id"]  # twice pressed
    assert teacher.http.post("/api/studies/usual", json={**body, "id": str(uuid4()), "test": "nothing"}).json()["code"] == "test_unknown"
    assert teacher.http.post("/api/studies/usual", json={**body, "id": str(uuid4()), "family": "boat"}).json()["code"] == "family_unknown"


def test_a_study_is_archived_thrown_away_and_taken_back_and_gone_after_thirty_days(app: Application, teacher: TeacherClient) -> None:
    study = new_study(teacher, "Put away")
    put(teacher, study, trial_body())
    teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": study["version"], "archived": True})
    assert [(s["title"], s["archived"]) for s in teacher.ok("GET", "/api/studies")] == [("Put away", True)]
    for _ in range(2):
        teacher.ok("DELETE", f"/api/studies/{study['id']}")
    assert teacher.ok("GET", "/api/studies") == []
    assert [s["title"] for s in teacher.ok("GET", "/api/studies/thrown-away")] == ["Put away"]
    teacher.ok("POST", f"/api/studies/{study['id']}/take-back")
    assert get(teacher, study)["kept"] == 1
    assert teacher.ok("GET", "/api/studies/thrown-away") == []
    teacher.ok("DELETE", f"/api/studies/{study['id']}")
    with psycopg.connect(app.database(), autocommit=True) as rows:
        rows.execute("update study set deleted_at = now() - interval '29 days 23 hours' where id = %s", (study["id"],))
        assert len(teacher.ok("GET", "/api/studies/thrown-away")) == 1
        rows.execute("update study set deleted_at = now() - interval '30 days 1 minute' where id = %s", (study["id"],))
        assert teacher.ok("GET", "/api/studies/thrown-away") == []
        assert rows.execute("select count(*) from trial where study_id = %s", (study["id"],)).fetchone() == (0,)


def test_an_outcome_column_of_a_table_becomes_a_study_of_survival(teacher: TeacherClient) -> None:
    text = "cushion,outcome,state,fault\nwool,survived,kept,\nwool,failed,kept,\nfoam,survived,kept,\nfoam,survived,kept,\nfoam,,void,hit the wall\n"
    body = {"id": str(uuid4()), "text": text, "title": "Cushions", "family": "protector", "factor": "cushion", "response": "outcome"}
    study = teacher.ok("POST", "/api/tables/study", json=body)
    assert study["draft"]["measures"][0]["words"] == ["survived", "failed"]
    levels = get(teacher, study, "/analysis")["effect"]["survival"]["levels"]
    assert [(lv["level"], lv["survived"], lv["n"]) for lv in levels] == [("wool", 1, 2), ("foam", 2, 2)]


def test_a_measure_of_words_that_the_table_does_not_explain_waits_for_its_line(teacher: TeacherClient) -> None:
    text = "cushion,outcome\nwool,dented\nfoam,fine\nwool,fine\nfoam,fine\n"
    body = {"id": str(uuid4()), "text": text, "title": "Words", "family": "protector", "factor": "cushion", "response": "outcome"}
    study = teacher.ok("POST", "/api/tables/study", json=body)
    assert "survived_line" in {p["code"] for p in study["problems"]}
    assert teacher.http.get(f"/api/studies/{study['id']}/analysis").json()["code"] == "plan_not_ready"


def test_two_variables_when_they_are_planned(teacher: TeacherClient) -> None:
    second = {"name": "band", "kind": "name", "quantity": "number", "unit": "", "levels": ["thin", "thick"]}
    variable = {"name": "pull-back", "kind": "number", "quantity": "length", "unit": "cm", "levels": ["4", "8"]}
    study = new_study(teacher, variable=variable, second=second, limits=[{"on": "variable", "name": "", "value": "12 cm"}])
    assert [(lv["id"], lv["label"]) for lv in study["levels"]] == [("4 × thin", "4 cm, thin"), ("4 × thick", "4 cm, thick"), ("8 × thin", "8 cm, thin"), ("8 × thick", "8 cm, thick")]
    assert study["planned"] == 12
    far = {"4 × thin": 2.0, "4 × thick": 2.1, "8 × thin": 3.0, "8 × thick": 5.0}  # thick matters only with much pull
    for n, (level, base) in enumerate((lv, b + 0.04 * k) for k in range(3) for lv, b in far.items()):
        put(teacher, study, trial_body(level, f"{base:.2f}", block=n // 4 + 1, released_at=f"2026-05-04T10:{n:02d}:00Z"))
    found = get(teacher, study, "/analysis")
    assert (found["factor"]["name"], [lv["level"] for lv in found["levels"]]) == ("pull-back and band", ["4 cm, thin", "4 cm, thick", "8 cm, thin", "8 cm, thick"])
    assert found["two"]["says"] == "What pull-back does depends on band."
    assert found["two"]["p_depends"] < 0.001
    assert found["verdict"]["headline"] == "What pull-back does to distance to first touch depends on band."
    table = list(csv.DictReader(io.StringIO(get(teacher, study, "/trials.csv").lstrip("\ufeff"))))
    assert {(row["pull-back (cm)"], row["band"]) for row in table} == {("4", "thin"), ("4", "thick"), ("8", "thin"), ("8", "thick")}
    # a combination that has trials is not taken out, and what both mean stays
    for change in ({**second, "levels": ["thin"]}, {**second, "name": "colour"}, None):
        answer = teacher.http.patch(f"/api/studies/{study['id']}", json={"version": study["version"], "draft": {**study["draft"], "second": change}})
        assert answer.json()["code"] in ("plan_locked", "level_has_trials")


def test_two_variables_have_limits_too(teacher: TeacherClient) -> None:
    many = {"name": "band", "kind": "name", "levels": [f"band {n}" for n in range(9)]}
    for change, code in ((many, "levels_many"), ({**many, "name": "pull-back", "levels": ["a", "b"]}, "variable_twice"), ({**many, "levels": ["a"]}, "levels_few")):
        study = new_study(teacher, run=False, second=change)
        assert code in {p["code"] for p in study["problems"] if p["where"].startswith("second")}, code


def test_a_tablet_whose_clock_is_wrong_is_told_and_its_trials_stand_at_the_right_time(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    now = datetime.now(UTC)
    right = put(teacher, study, trial_body("4", "2.0", released_at=now.isoformat(), sent_at=now.isoformat()))
    assert right["clock_off_s"] == 0
    slow = now - timedelta(days=365)  # a year behind: released ten seconds before it was sent
    body = trial_body("6", "3.0", released_at=(slow - timedelta(seconds=10)).isoformat(), sent_at=slow.isoformat())
    trial = str(uuid4())
    told = put(teacher, study, body, id=trial)
    assert told["clock_off_s"] == pytest.approx(365 * 86_400, abs=5)
    assert abs((datetime.fromisoformat(told["released_at"]) - now).total_seconds() + 10) < 5
    assert put(teacher, study, {**body, "sent_at": (slow + timedelta(seconds=3)).isoformat()}, id=trial)["revision"] == 1  # sent again
    # changed later, by a device whose clock is right: when it was released stays
    later = put(teacher, study, {**body, "released_at": told["released_at"], "note": "gusty", "revision": 2}, id=trial)
    assert later["released_at"] == told["released_at"]
    fast = now + timedelta(days=200 * 365)
    ahead = put(teacher, study, trial_body("8", "4.0", released_at=fast.isoformat(), sent_at=fast.isoformat()))
    assert ahead["clock_off_s"] < -100 * 365 * 86_400
    assert abs((datetime.fromisoformat(ahead["released_at"]) - now).total_seconds()) < 5


def test_a_contest_goes_by_the_highest_rung_and_then_the_lightest(teacher: TeacherClient) -> None:
    names = {"name": "device", "kind": "name", "quantity": "number", "unit": "", "levels": ["Gold", "Blue"]}
    study = new_study(teacher, drop=LADDER, repeats=2, study_kind="contest", groups=["Gold", "Blue"], rank="rung_lightest", **{**POD, "variable": names})
    for device, mass in (("Gold", "31 g"), ("Blue", "0.025 kg")):
        teacher.ok("PUT", f"/api/studies/{study['id']}/versions/{uuid4()}", json={"device": device, "draft": {"mass": mass}, "revision": 0})
    for n, (level, rung, word) in enumerate([("Gold", "1", "untouched"), ("Gold", "1.6", "cracked"), ("Blue", "1", "hairline"), ("Blue", "1.6", "cracked")]):
        body = {**trial_body(level, rung=rung, group=level, released_at=f"2026-05-04T10:{n:02d}:00Z"), "readings": [{"measure": "m1", "texts": [word]}]}
        put(teacher, study, body)
    c = get(teacher, study, "/conclusion")
    assert [(p["place"], p["label"], p["why"]) for p in c["places"]] == [(1, "Blue", "1.0 m, 25 g"), (2, "Gold", "1.0 m, 31 g")]
    assert c["rule"] == "highest rung, then the lightest"
