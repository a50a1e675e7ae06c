"""What the lane sends and hears: heats, how a reading was taken, what was answered, conditions, thumbs and instruments."""

from __future__ import annotations

import json
import subprocess
import sys
import time
from typing import Any
from uuid import uuid4

import httpx
import psycopg
import pytest
from websockets.exceptions import ConnectionClosed, InvalidStatus
from websockets.sync.client import ClientConnection, connect

from bendro.instruments.simulate import events
from tests.conftest import Application, TeacherClient, new_study, open_run, read_of, sign_up, trial_body

pytestmark = pytest.mark.api

FALL = [{"id": "m1", "name": "fall time", "quantity": "time", "unit": "s", "rule": "To first touch.", "timed": True}]


def put(teacher: TeacherClient, study: dict[str, Any], **body: Any) -> dict[str, Any]:
    return teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body(**body))


def test_how_a_reading_was_taken_its_heat_and_what_was_answered_are_kept_and_go_out(teacher: TeacherClient) -> None:
    study = new_study(teacher, measures=FALL, compared="side_by_side")
    assert {t["heat"] for t in study["turns"] if t["block"] == 1} == {1}
    reading = {"measure": "m1", "texts": ["37 frames @ 30 fps"], "unit": "s", "taken": "frames", "stamps": [0.4, 1.633], "source": "tablet 2"}
    heat = str(uuid4())
    kept = put(teacher, study, readings=[reading], heat=heat, answered=["9 s is far from the others. Is it what was read?"])
    assert kept["heat"] == heat
    assert kept["answered"] == ["9 s is far from the others. Is it what was read?"]
    assert {k: kept["readings"][0][k] for k in ("taken", "stamps", "source")} == {"taken": "frames", "stamps": [0.4, 1.633], "source": "tablet 2"}
    read = read_of(kept)
    assert read is not None
    assert read["resolution"] == pytest.approx(1 / 30)
    again = teacher.ok("GET", f"/api/studies/{study['id']}/trials")[0]
    assert again == kept
    table = teacher.http.get(f"/api/studies/{study['id']}/trials.csv").text
    assert "frames" in table


def test_a_trial_of_before_says_nothing_of_heats_and_is_the_same_sent_again(teacher: TeacherClient) -> None:
    study, trial = new_study(teacher), str(uuid4())
    for _ in range(2):
        kept = teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{trial}", json=trial_body())
    assert (kept["heat"], kept["answered"], kept["readings"][0]["source"]) == ("", [], "")


def test_conditions_that_are_not_as_planned_are_said_and_nothing_is_stored(teacher: TeacherClient) -> None:
    study = new_study(teacher, hold=[{"name": "line length", "value": "30 cm", "tolerance": "1 cm"}])
    path = f"/api/studies/{study['id']}/conditions"
    assert teacher.ok("POST", path, json={"conditions": {"line length": "30.5 cm"}}) == []
    found = teacher.ok("POST", path, json={"conditions": {"line length": "35 cm", "draught": "some"}})
    assert [n["name"] for n in found] == ["line length"]
    assert teacher.ok("GET", f"/api/studies/{study['id']}/trials") == []


def test_the_lane_is_told_the_bounds_of_each_level_and_the_track_end(teacher: TeacherClient) -> None:
    measure = [{"id": "m1", "name": "distance", "quantity": "length", "unit": "m", "rule": "r", "step": "1 cm", "end": "5 m"}]
    study = new_study(teacher, measures=measure, repeats=5)
    levels = [level["id"] for level in study["levels"]]
    for n, text in enumerate(["4.1", "4.2", "4.3"]):
        put(teacher, study, level=levels[0], text=text, block=n + 1)
    usual = teacher.ok("GET", f"/api/studies/{study['id']}")["usual"]["m1"]
    assert usual["at"][levels[0]]["low"] < 4.1 < 4.3 < usual["at"][levels[0]]["high"] < 5 > usual["anywhere"]["high"]
    looked = teacher.ok("POST", f"/api/studies/{study['id']}/readings", json={"measure": "m1", "texts": ["2.5"], "unit": "m", "level": levels[0]})
    assert [q["doubt"] for q in looked["questions"]] == ["level"]
    end = teacher.ok("POST", f"/api/studies/{study['id']}/readings", json={"measure": "m1", "texts": ["5.00"], "unit": "m", "level": levels[1]})
    assert next((q["doubt"], q["offer"]) for q in end["questions"]) == ("track_end", "5.00+")


def test_a_track_end_that_is_no_length_is_told_in_the_plan(teacher: TeacherClient) -> None:
    measure = [{"id": "m1", "name": "distance", "quantity": "length", "unit": "m", "rule": "r", "end": "the wall"}]
    study = new_study(teacher, measures=measure, run=False)
    assert "end_unreadable" in [p["code"] for p in study["problems"]]


def test_thumbs_are_kept_for_the_study_and_the_newest_of_each_counts(teacher: TeacherClient) -> None:
    study = new_study(teacher, measures=FALL, derived=[{"id": "d1", "name": "speed", "calculator": "average-speed", "output": "speed", "unit": "m/s", "inputs": [{"input": "distance", "source": "typed", "value": "4 m"}, {"input": "time", "source": "reading", "of": "m1"}]}])
    path = f"/api/studies/{study['id']}/thumbs"
    shown = [1.0, 1.1, 1.2, 1.3, 1.4]
    first = teacher.ok("POST", path, json={"who": "seat 1", "shown": shown, "pressed": [s + 0.3 for s in shown]})
    assert first["bias_s"] == pytest.approx(0.3)
    off = [0.31, 0.29, 0.33, 0.27, 0.30]
    teacher.ok("POST", path, json={"who": "Seat 1", "shown": shown, "pressed": [s + o for s, o in zip(shown, off, strict=True)]})
    teacher.ok("POST", path, json={"who": "seat 2", "shown": shown, "pressed": [s + o for s, o in zip(shown, off, strict=True)]})
    found = teacher.ok("GET", path)
    assert sorted(t["who"] for t in found) == ["Seat 1", "seat 2"]
    put(teacher, study, text="1.00", unit="s")
    says = teacher.ok("GET", f"/api/studies/{study['id']}")["timing"]
    assert says.startswith("These thumbs scatter by about 0.0")
    refused = teacher.http.post(path, json={"who": "seat 1", "shown": [1.0], "pressed": [1.1]})
    assert refused.status_code == 422
    assert "5 are needed" in refused.json()["detail"]


# --- instruments -----------------------------------------------------------------------------------------------------


def lane(app: Application, teacher: TeacherClient, study: dict[str, Any]) -> ClientConnection:
    cookie = "; ".join(f"{k}={v}" for k, v in teacher.http.cookies.items())
    return connect(f"{app.url.replace('http', 'ws')}/api/studies/{study['id']}/lane", additional_headers={"Cookie": cookie})


def heard(socket: ClientConnection) -> dict[str, Any]:
    found: dict[str, Any] = json.loads(socket.recv(timeout=10))
    return found


def test_a_gate_sends_lines_of_json_and_every_open_lane_hears_the_reading(app: Application, teacher: TeacherClient) -> None:
    study = new_study(teacher, measures=FALL)
    code = teacher.ok("POST", f"/api/studies/{study['id']}/instruments")["code"]
    assert teacher.ok("POST", f"/api/studies/{study['id']}/instruments")["code"] == code
    made = events("gate", 1, seed=3)
    lines = "\n".join(e.model_dump_json() for e in made)
    outside = httpx.Client(base_url=app.url)  # an instrument signs in nowhere: its code is its right
    nobody = outside.post(f"/api/instruments/{code}", content=lines, headers={"content-type": "text/plain"})
    assert [json.loads(line)["state"] for line in nobody.text.splitlines()] == ["nobody", "nobody"]
    with lane(app, teacher, study) as one, lane(app, teacher, study) as two:
        answer = outside.post(f"/api/instruments/{code.lower()}", content=lines + "\n\n{oops\n", headers={"content-type": "text/plain"})
        assert [json.loads(line)["state"] for line in answer.text.splitlines()] == ["started", "reading", "refused"]
        for socket in (one, two):
            assert heard(socket)["state"] == "started"
            reading = heard(socket)
            assert (reading["state"], reading["taken"], reading["source"]) == ("reading", "gate", "gate 1")
            assert float(reading["text"]) == pytest.approx(made[1].t - made[0].t, abs=0.0006)
        with connect(f"{app.url.replace('http', 'ws')}/api/instruments/{code}") as instrument:
            instrument.send(made[0].model_dump_json())
            assert json.loads(instrument.recv(timeout=10))["state"] == "doubled"


def test_a_lane_is_the_schools_own_and_a_code_opens_its_study_only(app: Application, teacher: TeacherClient) -> None:
    study = new_study(teacher, measures=FALL)
    stranger = sign_up(app)
    assert stranger.http.post(f"/api/studies/{study['id']}/instruments").status_code == 404
    assert stranger.http.get(f"/api/studies/{study['id']}/thumbs").status_code == 404
    for client in (stranger, None):
        cookie = "" if client is None else "; ".join(f"{k}={v}" for k, v in client.http.cookies.items())
        with pytest.raises((InvalidStatus, ConnectionClosed)), connect(f"{app.url.replace('http', 'ws')}/api/studies/{study['id']}/lane", additional_headers={"Cookie": cookie}) as s:
            s.recv(timeout=5)
    cookie = "; ".join(f"{k}={v}" for k, v in teacher.http.cookies.items())
    with pytest.raises((InvalidStatus, ConnectionClosed)), connect(f"{app.url.replace('http', 'ws')}/api/studies/{study['id']}/lane", additional_headers={"Cookie": cookie}, origin="http://elsewhere.example") as s:  # type: ignore[arg-type]
        s.recv(timeout=5)
    unknown = httpx.post(f"{app.url}/api/instruments/ABCDEFGHJK", content="{}", headers={"content-type": "text/plain"})
    assert unknown.status_code == 404


def test_a_simulated_instrument_from_the_page_and_from_the_terminal(app: Application, teacher: TeacherClient) -> None:
    study = new_study(teacher, measures=[{"id": "m1", "name": "peak", "quantity": "voltage", "unit": "V", "rule": "r"}])
    code = teacher.ok("POST", f"/api/studies/{study['id']}/instruments")["code"]
    with lane(app, teacher, study) as socket:
        told = teacher.ok("POST", f"/api/studies/{study['id']}/instruments/simulate", json={"instrument": "meter", "trials": 1})
        assert [t["state"] for t in told] == ["told", "reading"]
        assert heard(socket)["says"] == "meter 1 is cleared."
        assert heard(socket)["state"] == "reading"
        made = subprocess.run(
            [sys.executable, "-m", "bendro.terminal", "instrument", "meter", "--code", code, "--to", app.url, "--trials", "2", "--every-s", "0", "--seed", "5", "--first", "20"],
            capture_output=True, text=True, check=True,
        )  # fmt: skip
        assert made.stdout.count('"state": "reading"') == 2
        assert [heard(socket)["state"] for _ in range(5)].count("reading") == 2
    lost = subprocess.run([sys.executable, "-m", "bendro.terminal", "instrument", "gate", "--code", "ABCDEFGHJK", "--to", app.url, "--every-s", "0"], capture_output=True, text=True, check=False)
    assert lost.returncode == 2


def test_who_is_sent_away_hears_nothing_more_within_a_second(app: Application, teacher: TeacherClient) -> None:
    study = new_study(teacher, measures=FALL)
    with lane(app, teacher, study) as socket:
        code = teacher.ok("POST", f"/api/studies/{study['id']}/instruments")["code"]
        teacher.http.delete("/api/session").raise_for_status()
        began = time.monotonic()
        with pytest.raises(ConnectionClosed) as gone:
            socket.recv(timeout=10)
        assert time.monotonic() - began < 2
        assert gone.value.rcvd is not None
        assert gone.value.rcvd.code == 4401
        httpx.post(f"{app.url}/api/instruments/{code}", content=events("gate", 1, seed=3)[0].model_dump_json())
        with pytest.raises(ConnectionClosed):
            socket.recv(timeout=2)


def test_an_instruments_code_is_good_for_its_lesson_and_until_it_is_renewed(app: Application, teacher: TeacherClient) -> None:
    closed = new_study(teacher, run=False, measures=FALL)
    early = teacher.ok("POST", f"/api/studies/{closed['id']}/instruments")["code"]
    line = events("gate", 1, seed=3)[0].model_dump_json()

    def sent(code: str) -> int:
        return httpx.post(f"{app.url}/api/instruments/{code}", content=line).status_code

    assert sent(early) == 404  # no run is open
    study = new_study(teacher, measures=FALL)
    path = f"/api/studies/{study['id']}/instruments"
    first = teacher.ok("POST", path)["code"]
    with connect(f"{app.url.replace('http', 'ws')}/api/instruments/{first}") as instrument:
        instrument.send(line)
        assert json.loads(instrument.recv(timeout=10))["state"] == "nobody"
        second = teacher.ok("POST", path, params={"anew": True})["code"]
        with pytest.raises(ConnectionClosed):
            instrument.recv(timeout=10)
    assert (sent(first), sent(second)) == (404, 200)
    with psycopg.connect(app.database(), autocommit=True) as rows:  # the lesson was yesterday
        rows.execute("update run set opened_at = opened_at - interval '1 day' where study_id = %s", (study["id"],))
    assert sent(second) == 404
    open_run(teacher, study)
    assert sent(second) == 404  # another lesson has another code
    assert sent(teacher.ok("POST", path)["code"]) == 200
