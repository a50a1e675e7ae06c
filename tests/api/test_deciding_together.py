"""Pictures, what follows, the class together and practice, over HTTP."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import httpx
import pytest

from bendro.core.analyse import analyse
from bendro.core.context import Context
from bendro.files.trial_table import parse_table, take_trials
from tests.api.test_showing import run_some
from tests.conftest import Application, TeacherClient, new_study, sign_up, trial_body

pytestmark = pytest.mark.api
READINGS = {0: ["4.1", "4.2", "4.3"], 1: ["6.1", "6.2", "6.3"], 2: ["7.9", "8.0", "8.1"]}


def test_the_pictures_draw_the_trials_of_the_study(teacher: TeacherClient) -> None:
    study = new_study(teacher, repeats=3)
    run_some(teacher, study, READINGS)
    found = teacher.ok("GET", f"/api/studies/{study['id']}/pictures")
    misses = found["fit"]["misses"]
    assert len(misses) == 9
    assert sum(d["y"] for d in misses) == pytest.approx(0, abs=1e-6) or found["fit"]["form"] != "line"
    assert [d["trial"] for d in found["order"]["dots"]] == list(range(1, 10))
    assert found["landed"] == found["crossed"] == []
    empty = new_study(teacher)
    assert teacher.ok("GET", f"/api/studies/{empty['id']}/pictures")["order"] is None


def test_a_study_follows_with_the_best_held_and_once_only(teacher: TeacherClient) -> None:
    study = new_study(teacher, "Throws", repeats=3, could_change=["band width", "wind"])
    run_some(teacher, study, READINGS)
    path = f"/api/studies/{study['id']}/following"
    found = teacher.ok("GET", path)
    assert found["best"] == [{"id": study["levels"][2]["id"], "label": study["levels"][2]["label"]}]
    assert found["ideas"][0] == "band width"
    body = {"id": str(uuid4()), "best": found["best"][0]["id"], "change": "band width"}
    one, again = (teacher.ok("POST", path, json=body) for _ in range(2))
    assert one["id"] == again["id"] == body["id"]
    assert one["draft"]["variable"]["name"] == "band width"
    assert any(h["name"] == study["draft"]["variable"]["name"] for h in one["draft"]["hold"])
    bad = teacher.http.request("POST", path, json={**body, "id": str(uuid4()), "best": "nothing"})
    assert (bad.status_code, bad.json()["code"]) == (422, "next_best_unknown")


def test_two_groups_studies_are_judged_together_and_others_schools_never(teacher: TeacherClient, app: Application) -> None:
    one, two = (new_study(teacher, f"Throws of {name}", repeats=3, groups=[name], class_label="9 Teal") for name in ("Red", "Blue"))
    for study in (one, two):
        run_some(teacher, study, READINGS)
    tests = teacher.ok("GET", "/api/together")
    (mine,) = [t for t in tests if {s["id"] for s in t["studies"]} >= {one["id"], two["id"]}]
    assert [s["class_label"] for s in mine["studies"]][:2] == ["9 Teal", "9 Teal"]
    found = teacher.ok("GET", "/api/together/judged", params={"study": [one["id"], two["id"]]})
    assert (found["blocks"], found["within"]) == (2, True)
    assert [(r["kept"], r["wide"]) for r in found["runners"]] == [(9, False), (9, False)]
    assert [s["n_kept"] for s in found["analysis"]["levels"]] == [6, 6, 6]
    assert found["record"]["says"].startswith("8.0 m at 8 cm, 3 trials, 95 % interval ")
    assert {(s["sums_right"], s["sums_of"]) for s in mine["studies"]} == {(None, None)}
    level = one["levels"][0]["id"]
    answers = [{"level": level, "about": "mean", "text": text} for text in ("4.2", "12.6", "4.20")]
    for keep in (False, True, True):
        teacher.ok("POST", f"/api/studies/{one['id']}/sums", json={"answers": answers, "keep": keep})
    (mine,) = [t for t in teacher.ok("GET", "/api/together") if one["id"] in {s["id"] for s in t["studies"]}]
    assert {s["id"]: (s["sums_right"], s["sums_of"], s["sums_wrong"]) for s in mine["studies"]}[one["id"]] == (2, 3, [])
    whose = [{**a, "who": who} for a, who in zip(answers, ("Red", "Red", "a pupil"), strict=True)]
    wrong = [{**a, "text": "99", "who": "a pupil"} for a in answers[:1]]
    teacher.ok("POST", f"/api/studies/{one['id']}/sums", json={"answers": [*whose, *wrong], "keep": True})
    (mine,) = [t for t in teacher.ok("GET", "/api/together") if one["id"] in {s["id"] for s in t["studies"]}]
    # a group of the plan is named; what else stands before a row is not kept
    assert {s["id"]: (s["sums_right"], s["sums_of"], s["sums_wrong"]) for s in mine["studies"]}[one["id"]] == (2, 4, ["Red"])
    assert "a pupil" not in str(mine)
    other = sign_up(app)
    assert other.http.request("GET", "/api/together/judged", params={"study": one["id"]}).status_code == 404
    assert other.ok("GET", "/api/together") == []
    assert teacher.http.request("GET", "/api/together/judged", params={"study": []}).status_code == 422


def test_a_speed_is_right_from_the_trials_or_from_the_mean_times(teacher: TeacherClient) -> None:
    """4.2 m in 2 s and 3 s: 2.1 and 1.4 m/s, their mean 1.75; over the mean time of 2.5 s it is 1.68 (by hand)."""
    derived = [{"id": "d1", "name": "mean speed", "calculator": "average-speed", "output": "speed", "unit": "m/s", "inputs": [
        {"input": "distance", "source": "typed", "value": "4.2 m"}, {"input": "time", "source": "reading", "of": "m1"}]}]  # fmt: skip
    timed = [{"id": "m1", "name": "time", "quantity": "time", "unit": "s", "rule": "r"}]
    study = new_study(teacher, measures=timed, derived=derived, repeats=2)
    for block, text in enumerate(("2.00", "3.00"), 1):
        teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body("4", text, unit="s", block=block))
    answers = [{"level": level, "text": text} for level, text in (("4", "1.75"), ("4", "1.68"), ("4", "0.57"), ("4", "2.1"), ("6", "1.7"))]
    found = teacher.ok("POST", f"/api/studies/{study['id']}/sums", json={"answers": answers, "response": "d1"})
    assert [f["right"] for f in found] == [True, True, False, False, False]
    assert [f["slip"] for f in found[2:]] == ["upside_down", "one_trial_only", None]
    assert "no kept trial" in found[4]["says"]


def test_practice_needs_no_account_and_keeps_nothing(app: Application) -> None:
    for kind in ("unfair", "tape", "fall", "luck", "average"):
        one = httpx.get(f"{app.url}/api/practice/{kind}", params={"seed": 5})
        assert one.status_code == 200
        assert one.json() == httpx.get(f"{app.url}/api/practice/{kind}", params={"seed": 5}).json()
        assert "set-cookie" not in one.headers
    tape = httpx.get(f"{app.url}/api/practice/tape", params={"seed": 5}).json()
    right = httpx.post(f"{app.url}/api/practice/tape", json={"seed": 5, "answer": f"{tape['value']} {tape['unit']}"})
    assert right.json()["right"] is True
    bad = httpx.post(f"{app.url}/api/practice/tape", json={"seed": 5, "answer": "over there"})
    assert bad.status_code == 422
    assert bad.json()["detail"]
    assert httpx.get(f"{app.url}/api/practice/tape", params={"seed": 99_999}).status_code == 422


def test_the_page_and_the_terminal_give_the_same_numbers_for_every_demo_study(app: Application) -> None:
    demo = httpx.Client(base_url=app.url, headers={"origin": app.url}, timeout=60)
    demo.post("/api/session/demo").raise_for_status()
    compared = 0
    for line in demo.get("/api/studies").json():
        study = demo.get(f"/api/studies/{line['id']}").json()
        first = study["responses"][0] if study["responses"] else None
        if not line["kept"] or first is None or first["shape"] != "number" or study["draft"]["second"]:
            continue
        page = demo.get(f"/api/studies/{line['id']}/analysis").json()
        table = parse_table(demo.get(f"/api/studies/{line['id']}/trials.csv").text)
        within = study["draft"]["within"] or ("block" if study["draft"]["compared"] == "side_by_side" else "")
        treat = "group" if study["draft"]["variable"]["kind"] == "name" else None
        taken = take_trials(table, study["draft"]["variable"]["name"], first["name"], treat_as=treat, also=[within] if within else [])
        asked = Context(
            factor=taken.factor.name, factor_unit=taken.factor_unit, response=first["name"], unit=taken.unit, treat_as=treat, evidence=study["draft"]["evidence"],
            best_is=study["draft"]["measures"][0]["better"], pair_by=within or None, counted=study["draft"]["measures"][0]["scale"] == "count",
        )  # fmt: skip
        terminal = analyse(taken.trials, asked)
        called = [s.level if isinstance(s.level, str) else f"{s.level:g}" for s in terminal.levels]
        assert called == [s["level"] if isinstance(s["level"], str) else f"{s['level']:g}" for s in page["levels"]], line["title"]
        for ours, theirs in zip(terminal.levels, page["levels"], strict=True):
            assert (ours.n_kept, ours.n_void) == (theirs["n_kept"], theirs["n_void"]), line["title"]
            for number in ("mean", "median", "sd", "min", "max", "half_range"):
                assert getattr(ours, number) == pytest.approx(theirs[number]), (line["title"], number)
        assert terminal.effect.kind == page["effect"]["kind"], line["title"]
        ours_p, theirs_p = (ps_of(e) for e in (terminal.effect.model_dump(mode="json"), page["effect"]))
        assert ours_p == pytest.approx(theirs_p), line["title"]
        compared += 1
    assert compared >= 3


def ps_of(effect: dict[str, Any]) -> list[float]:
    """Every p of an effect, in their order."""
    found: list[float] = []
    for key, value in sorted(effect.items()):
        if isinstance(value, dict):
            found += ps_of(value)
        elif key.startswith("p_") and isinstance(value, float):
            found.append(value)
    return found
