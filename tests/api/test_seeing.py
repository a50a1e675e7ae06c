"""What a camera and a sensor send, and what becomes of it: readings, tracks beside trials, the package; whose it is."""

from __future__ import annotations

import base64
import io
import json
import math
import subprocess
import sys
import wave
import zipfile
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx
import pytest
from PIL import Image
from scipy.constants import g as STANDARD_G
from websockets.sync.client import connect

from bendro.core.measuring.taking import STEADY
from bendro.core.readings import read
from bendro.instruments.made import HIGH, MADE, WIDE, phone_log, pictures
from tests.conftest import Application, TeacherClient, new_study, open_run, read_of, sign_up, trial_body

pytestmark = pytest.mark.api

FALL = [{"id": "m1", "name": "fall time", "quantity": "time", "unit": "s", "rule": "To first touch.", "timed": True}]
STOP = {"id": "m2", "name": "stop time", "quantity": "time", "unit": "ms", "rule": "From touch to rest."}
MARKS = {"a": {"x": 100, "y": 460}, "b": {"x": 100, "y": 60}, "apart": "2 m", "touch": 1.0}


def track() -> dict[str, Any]:
    """A ball let fall from 2 m after 0.2 s, 200 points to the metre, 60 pictures a second."""
    t = [n / 60 for n in range(72)]
    y = [460 - 200 * max(0.0, 2.0 - STANDARD_G / 2 * max(0.0, s - 0.2) ** 2) for s in t]
    return {"t": t, "x": [300.0] * len(t), "y": y}


def jpeg(colour: tuple[int, int, int] = (200, 40, 40)) -> str:
    out = io.BytesIO()
    Image.new("RGB", (320, 180), colour).save(out, "JPEG", exif=Image.Exif())
    return base64.b64encode(out.getvalue()).decode()


def one(found: list[dict[str, Any]], id: str) -> dict[str, Any]:
    return next(f for f in found if f["id"] == id)


def test_two_crossings_become_a_time_in_the_plans_unit_and_with_the_tape_a_speed(teacher: TeacherClient) -> None:
    study = new_study(teacher, measures=[{**FALL[0], "unit": "ms"}])
    body = {"first": {"t": 5.0, "u": 0.003}, "last": {"t": 6.25, "u": 0.004}, "rate": 30}
    got = teacher.ok("POST", f"/api/studies/{study['id']}/gates", json=body)
    time = one(got["found"], "time")
    assert time["text"] == "1.250 ± 0.010"
    assert time["texts"]["ms"] == "1250 ± 10"
    assert got["says"] == []
    tape = [{"where": {"x": 0, "y": 9}, "at": "0"}, {"where": {"x": 300, "y": 9}, "at": "10 ft"}]
    with_tape = teacher.ok("POST", f"/api/studies/{study['id']}/gates", json={**body, "start": {"x": 50, "y": 0}, "end": {"x": 250, "y": 0}, "tape": tape})
    assert one(with_tape["found"], "length")["value"] == pytest.approx(2 / 3 * 3.048)
    assert one(with_tape["found"], "speed")["value"] == pytest.approx(2 / 3 * 3.048 / 1.25)
    for wrong, code in (({"last": {"t": 4.0, "u": 0}}, "gates_order"), ({"tape": [tape[0], {**tape[1], "at": "far"}], "start": {"x": 5, "y": 0}, "end": {"x": 50, "y": 0}}, "reading_words")):
        refused = teacher.http.post(f"/api/studies/{study['id']}/gates", json={**body, **wrong})
        assert (refused.status_code, refused.json()["code"]) == (422, code)


def test_gates_that_lie_otherwise_than_the_plan_reckons_are_told(teacher: TeacherClient) -> None:
    speed = {"id": "d1", "name": "mean speed", "calculator": "average-speed", "output": "speed", "inputs": [{"input": "distance", "source": "typed", "value": "2 m"}, {"input": "time", "source": "reading", "of": "m1"}]}
    study = new_study(teacher, measures=FALL, derived=[speed])
    body = {"first": {"t": 5.0, "u": 0.003}, "last": {"t": 6.25, "u": 0.004}, "rate": 30, "start": {"x": 100, "y": 0}, "touch": 0.5}
    body["tape"] = [{"where": {"x": 0, "y": 9}, "at": "0"}, {"where": {"x": 400, "y": 9}, "at": "4"}]
    path = f"/api/studies/{study['id']}/gates"
    assert len(teacher.ok("POST", path, json={**body, "end": {"x": 300, "y": 0}})["says"]) == 1
    off = teacher.ok("POST", path, json={**body, "end": {"x": 280, "y": 0}})["says"]
    assert off[1] == "The gates lie 1.800 m apart, and the plan reckons with 2 m. Drag them, or its speed is wrong."


def test_a_track_gives_g_and_is_kept_beside_its_trial_with_its_pictures(teacher: TeacherClient, app: Application) -> None:
    study = new_study(teacher, measures=FALL)
    followed = {"looked": "fall", "track": track(), "marks": MARKS}
    got = teacher.ok("POST", f"/api/studies/{study['id']}/followed", json=followed)
    g = one(got["found"], "acceleration")
    assert g["value"] == pytest.approx(STANDARD_G, rel=0.01)
    fall = one(got["found"], "fall_time")
    assert fall["value"] == pytest.approx(math.sqrt(4 / STANDARD_G), abs=0.005)
    trial = str(uuid4())
    reading = {"measure": "m1", "texts": [fall["texts"]["s"]], "unit": "s", "taken": "followed", "stamps": [0.0, 1.2], "source": "a clip"}
    kept = teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{trial}", json=trial_body(readings=[reading]))
    stood = read_of(kept)
    assert stood is not None
    assert stood["doubt"] == pytest.approx(fall["u"] * 2 / math.sqrt(3), rel=0.05)
    body = {"followed": followed, "pictures": [jpeg(), jpeg((30, 90, 30))]}
    for _ in range(2):  # sent again it is the same
        beside = teacher.ok("PUT", f"/api/studies/{study['id']}/seen/{trial}", json=body)
    assert (beside["kind"], beside["pictures"], len(beside["rows"])) == ("followed", 2, 72)
    assert teacher.ok("GET", f"/api/studies/{study['id']}/seen") == [trial]
    assert teacher.ok("GET", f"/api/studies/{study['id']}/seen/{trial}")["columns"][:3] == ["t_s", "x_m", "y_m"]
    shown = teacher.http.get(f"/api/studies/{study['id']}/seen/{trial}/2")
    assert Image.open(io.BytesIO(shown.content)).size == (320, 180)
    for path, code in ((f"seen/{uuid4()}", 404), (f"seen/{trial}/3", 404)):
        assert teacher.http.get(f"/api/studies/{study['id']}/{path}").status_code == code
    stranger = sign_up(app)
    assert stranger.http.get(f"/api/studies/{study['id']}/seen/{trial}").status_code == 404
    assert stranger.http.put(f"/api/studies/{study['id']}/seen/{trial}", json=body).status_code == 404


def test_what_was_followed_goes_into_the_package_as_a_table_and_comes_back(teacher: TeacherClient) -> None:
    study, trial = new_study(teacher, measures=FALL), str(uuid4())
    teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{trial}", json=trial_body(readings=[{"measure": "m1", "texts": ["0.64"], "unit": "s", "taken": "followed"}]))
    teacher.ok("PUT", f"/api/studies/{study['id']}/seen/{trial}", json={"followed": {"looked": "fall", "track": track(), "marks": MARKS}, "pictures": [jpeg()]})
    packed = teacher.http.get(f"/api/studies/{study['id']}/package.zip").content
    with zipfile.ZipFile(io.BytesIO(packed)) as held:
        lines = held.read("followed.csv").decode().splitlines()
        names = held.namelist()
        descriptor = json.loads(held.read("datapackage.json"))
    assert lines[0].lstrip("\ufeff").startswith("trial,t_s,x_m,y_m")
    assert len(lines) == 1 + 72
    assert lines[1].startswith("1,0,")
    assert any(n.startswith("trials/1-1") for n in names)
    assert "followed" in {r["name"] for r in descriptor["resources"]}
    again = str(uuid4())
    teacher.ok("PUT", f"/api/studies/{again}/package", content=packed, headers={"content-type": "application/zip"})
    (copy,) = teacher.ok("GET", f"/api/studies/{again}/seen")
    back, first = (teacher.ok("GET", f"/api/studies/{s}/seen/{t}") for s, t in ((again, copy), (study["id"], trial)))
    assert {k: v for k, v in back.items() if k != "trial_id"} == {k: v for k, v in first.items() if k != "trial_id"}
    assert Image.open(io.BytesIO(teacher.http.get(f"/api/studies/{again}/seen/{copy}/1").content)).size == (320, 180)


def test_what_cannot_be_kept_beside_a_trial_is_refused_and_nothing_is_lost(teacher: TeacherClient) -> None:
    study, trial = new_study(teacher, measures=FALL), str(uuid4())
    path = f"/api/studies/{study['id']}/seen/{trial}"
    followed = {"looked": "fall", "track": track(), "marks": MARKS}
    assert teacher.http.put(path, json={"followed": followed}).status_code == 404  # its trial is not there yet
    teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{trial}", json=trial_body(readings=[{"measure": "m1", "texts": ["0.64"], "unit": "s"}]))
    teacher.ok("PUT", path, json={"followed": followed})
    still = {"t": [n / 30 for n in range(20)], "x": [5.0] * 20, "y": [5.0] * 20}
    for body, code in (
        ({"pictures": [jpeg()] * 5}, "pictures_many"),
        ({"pictures": ["no base64 at all!"]}, "picture_broken"),
        ({"pictures": [base64.b64encode(b"no picture").decode()]}, "photo_unreadable"),
        ({"followed": {**followed, "track": still}}, "track_still"),
        ({"followed": {"looked": "fall", "track": track()}}, "not_as_expected"),
    ):
        refused = teacher.http.put(path, json=body)
        assert refused.status_code == 422
        assert refused.json()["code"] == code or code == "not_as_expected"
    assert teacher.ok("GET", path)["kind"] == "followed"


def test_a_landing_is_read_off_a_picture_to_the_step_of_the_plans_tape(teacher: TeacherClient) -> None:
    study = new_study(teacher, measures=[{"id": "m1", "name": "distance", "quantity": "length", "unit": "cm", "rule": "To the nearest edge.", "step": "1"}])
    numbers = [{"where": {"x": 100, "y": 300}, "at": "3 m"}, {"where": {"x": 900, "y": 300}, "at": "350 cm"}]
    got = teacher.ok("POST", f"/api/studies/{study['id']}/tape-picture", json={"numbers": numbers, "mark": {"x": 507, "y": 310}})
    (distance,) = got["found"]
    assert distance["value"] == pytest.approx(3.25)
    assert read(distance["texts"]["cm"], "length", "cm").value == pytest.approx(325)
    empty = teacher.http.post(f"/api/studies/{study['id']}/tape-picture", json={"numbers": [numbers[0], {**numbers[1], "at": ""}], "mark": {"x": 507, "y": 310}})
    assert (empty.status_code, empty.json()["code"], empty.json()["where"]) == (422, "reading_empty", "numbers")


def test_a_heard_time_is_put_right_for_the_way_of_the_sound(teacher: TeacherClient) -> None:
    study = new_study(teacher, measures=FALL)
    path = f"/api/studies/{study['id']}/heard-time"
    plain = teacher.ok("POST", path, json={"from_s": 1.0, "to_s": 1.84})
    assert one(plain["found"], "time")["value"] == pytest.approx(0.84)
    assert "3 ms for every metre" in plain["says"][0]
    near = teacher.ok("POST", path, json={"from_s": 1.0, "to_s": 1.84, "release": "0", "land": "3.432 m"})
    assert one(near["found"], "time")["value"] == pytest.approx(0.83)  # 3.432 m at 343.2 m/s: 10 ms, by hand
    assert one(near["found"], "time")["u"] < 0.004
    pressed = teacher.ok("POST", path, json={"from_s": 1.0, "to_s": 1.84, "pressed": True, "land": "0 m"})
    assert one(pressed["found"], "time")["u"] == pytest.approx(0.1, rel=0.01)  # the thumb's scatter
    assert teacher.http.post(path, json={"from_s": 2.0, "to_s": 1.0}).json()["code"] == "heard_order"


def test_a_phone_that_felt_a_fall_tells_the_lane_and_its_log_goes_with_the_trial(teacher: TeacherClient, app: Application) -> None:
    study, trial = new_study(teacher, measures=[*FALL, STOP]), str(uuid4())
    open_run(teacher, study)
    path = f"/api/studies/{study['id']}/felt"
    log = phone_log(height=1.6).model_dump()
    alone = teacher.ok("POST", path, json={"log": log, "number": 1})
    assert (alone["heard"], alone["told"]) == (False, [])
    assert one(alone["found"], "fall_time")["value"] == pytest.approx(math.sqrt(3.2 / STANDARD_G), abs=0.01)
    cookies = "; ".join(f"{k}={v}" for k, v in teacher.http.cookies.items())
    with connect(f"{app.url.replace('http', 'ws')}/api/studies/{study['id']}/lane", additional_headers={"cookie": cookies}) as lane:
        told = teacher.ok("POST", path, json={"log": log, "number": 2})
        assert told["heard"] is True
        heard = [json.loads(lane.recv(timeout=10)) for _ in range(2)]
        assert [h["state"] for h in heard] == ["started", "reading"]
        again = teacher.ok("POST", path, json={"log": log, "number": 2})
        assert all("twice" in t for t in again["told"])
    reading = heard[1]
    assert reading["taken"] == "felt"
    assert reading["text"] == one(told["found"], "fall_time")["text"]
    more = {name: dict(texts) for name, _, texts in reading["more"]}
    assert set(more["stop time"]) == {"s", "ms"}  # in the unit in which the plan reads it as well
    given = [{"measure": "m1", "texts": [reading["text"]], "unit": "s", "taken": "felt", "stamps": reading["stamps"], "source": reading["source"]}]
    kept = teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{trial}", json=trial_body(readings=given))
    assert kept["readings"][0]["taken"] == "felt"
    for kind, rows in (("felt", len(log["t"])), ("felt", len(log["t"]))):  # sent again, the log is with the trial already
        beside = teacher.ok("PUT", f"/api/studies/{study['id']}/seen/{trial}", json={"felt": {"source": reading["source"], "stamps": reading["stamps"]}})
        assert (beside["kind"], len(beside["rows"])) == (kind, rows)
    refused = teacher.http.post(path, json={"log": {"t": [n / 60 for n in range(90)], "a": [9.8] * 90}, "number": 3})
    assert (refused.status_code, refused.json()["code"]) == (422, "log_no_fall")


def test_every_new_way_is_one_of_the_record_and_steadier_than_a_thumb(teacher: TeacherClient) -> None:
    study = new_study(teacher, measures=FALL, repeats=6)
    for n, taken in enumerate(("camera", "followed", "felt", "sound", "picture")):
        assert taken in STEADY
        given = [{"measure": "m1", "texts": ["1.352 ± 0.010"], "unit": "s", "taken": taken}]
        kept = teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body(block=n + 1, readings=given))
        assert kept["readings"][0]["taken"] == taken
        stood = read_of(kept)
        assert stood is not None
        assert stood["doubt"] == pytest.approx(0.010 / math.sqrt(3))


# --- what ships --------------------------------------------------------------------------------------------------------


def test_the_made_clips_ship_and_show_what_their_formulas_say(app: Application) -> None:
    """Each shipped clip is taken apart: as many pictures as the formula gives, at its times, and the thing where the formula has it."""
    av = pytest.importorskip("av")
    for name, scene in MADE.items():
        got = httpx.get(f"{app.url}/api/made/{name}")
        assert (got.status_code, got.headers["content-type"]) == (200, "video/webm")
        with av.open(io.BytesIO(got.content)) as clip:
            frames = [(float(f.time), f.to_ndarray(format="rgb24")) for f in clip.decode(video=0)]
        assert len(frames) == round(scene.seconds * scene.fps)
        for n in (0, len(frames) // 2, len(frames) - 1):
            t, picture = frames[n]
            assert t == pytest.approx(n / scene.fps, abs=0.0011)
            assert picture.shape == (HIGH, WIDE, 3)
            drawn = next(p for k, (_, p) in enumerate(pictures(scene)) if k == n)
            assert float(abs(picture.astype(int) - drawn.astype(int)).mean()) < 4  # of 255: noise and the coding
    assert httpx.get(f"{app.url}/api/made/nothing").status_code == 404
    assert len(httpx.get(f"{app.url}/api/made-log").json()["t"]) > 60


@pytest.mark.parametrize(("taken", "says"), [("pressed", True), ("camera", False), ("followed", False), ("sound", False)])
def test_a_thumb_is_blamed_only_where_a_thumb_has_timed(teacher: TeacherClient, taken: str, says: bool) -> None:
    """Short times: by a thumb its scatter dominates them; by the camera nobody is told to count frames, and the poster says how it was timed."""
    study = new_study(teacher, measures=FALL, repeats=3, groups=[])
    levels = [v["id"] for v in study["levels"]]
    for block in (1, 2, 3):
        for n, level in enumerate(levels):
            given = [{"measure": "m1", "texts": [f"{0.42 + 0.06 * n + 0.004 * block:.3f}"], "unit": "s", "taken": taken}]
            teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body(block=block, level=level, group="", readings=given))
    found = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")
    assert ("reaction_dominates" in {f["code"] for f in found["audit"]}) is says
    as_run = teacher.ok("GET", f"/api/studies/{study['id']}/conclusion")["as_run"]["timers"]
    assert as_run == {"pressed": "timed by 1 hand", "camera": "timed by the camera as a gate", "followed": "timed by following it through a clip", "sound": "timed by sound"}[taken]


def test_what_was_followed_waits_in_a_file_and_is_taken_in_with_its_trial(teacher: TeacherClient) -> None:
    """A browser that could not send saves its trials as a file: the track beside one of them comes with it, once."""
    study, trial = new_study(teacher, measures=FALL), str(uuid4())
    body = trial_body(readings=[{"measure": "m1", "texts": ["0.64"], "unit": "s", "taken": "followed"}])
    seen = {"followed": {"looked": "fall", "track": track(), "marks": MARKS}, "felt": None, "pictures": [jpeg()]}
    whole = {"id": study["id"], "title": "", "plan": study["draft"], "runs": [], "versions": [], "photos": [], "trials": [{"id": trial, "body": body}], "seen": [{"id": trial, "body": seen}]}
    text = json.dumps({"form": "bendro waiting", "version": 1, "kept_by": "", "studies": [whole]})
    for _ in range(2):
        (came,) = teacher.ok("POST", "/api/waiting", json={"text": text})
        assert (came["kept"], came["refused"]) == (1, [])
        beside = teacher.ok("GET", f"/api/studies/{study['id']}/seen/{trial}")
        assert (beside["kind"], beside["pictures"]) == ("followed", 1)
    teacher.ok("DELETE", f"/api/studies/{study['id']}")
    (anew,) = teacher.ok("POST", "/api/waiting", json={"text": text})
    assert (anew["made"], anew["refused"]) == (True, [])
    (copy,) = teacher.ok("GET", f"/api/studies/{anew['study_id']}/seen")
    assert teacher.ok("GET", f"/api/studies/{anew['study_id']}/seen/{copy}")["rows"] == beside["rows"]


def test_the_terminal_writes_a_made_camera_and_microphone_and_a_made_phone_speaks_to_a_lane(teacher: TeacherClient, app: Application, tmp_path: Path) -> None:
    def bendro(*words: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run([sys.executable, "-m", "bendro.terminal", "instrument", *words], capture_output=True, text=True, timeout=120, check=False)

    film, sound = tmp_path / "spin.y4m", tmp_path / "hall.wav"
    told = bendro("camera", "--clip", "spin", "--write", str(film))
    assert told.returncode == 0
    assert f"--use-file-for-fake-video-capture={film}" in told.stdout
    assert "spin_rate 2.6000" in told.stdout
    with film.open("rb") as held:
        assert held.readline() == f"YUV4MPEG2 W{WIDE} H{HIGH} F30:1 Ip A1:1 C420jpeg\n".encode()
    assert film.stat().st_size == pytest.approx(60 * WIDE * HIGH * 1.5, rel=0.01)  # 2 s, 30 a second
    assert bendro("microphone", "--write", str(sound)).returncode == 0
    with wave.open(str(sound)) as held_sound:
        assert held_sound.getnframes() / held_sound.getframerate() == pytest.approx(4.0)
    unknown = bendro("camera", "--clip", "rocket")
    assert (unknown.returncode, "roll, drop, heat, spin, impact" in unknown.stderr) == (2, True)
    assert bendro("gate").returncode == 2  # without a code nobody listens
    study = new_study(teacher, measures=FALL)
    open_run(teacher, study)
    code = teacher.ok("POST", f"/api/studies/{study['id']}/instruments")["code"]
    cookies = "; ".join(f"{k}={v}" for k, v in teacher.http.cookies.items())
    with connect(f"{app.url.replace('http', 'ws')}/api/studies/{study['id']}/lane", additional_headers={"cookie": cookies}) as lane:
        sent = bendro("felt", "--code", code, "--to", app.url, "--trials", "1", "--every-s", "0", "--seed", "4")
        assert sent.returncode == 0, sent.stderr
        heard = [json.loads(lane.recv(timeout=10)) for _ in range(2)]
    assert (heard[1]["state"], heard[1]["taken"]) == ("reading", "felt")
    assert " ± " in heard[1]["text"]


def test_a_groups_seat_keeps_what_it_followed_beside_its_own_trials_only(teacher: TeacherClient, app: Application) -> None:
    study = new_study(teacher, measures=FALL)
    code = teacher.ok("POST", f"/api/studies/{study['id']}/joining", json={"minutes": 60})["code"]
    own, others = str(uuid4()), str(uuid4())
    level = {t["group"]: t["level"] for t in study["turns"] if t["block"] == 1}
    for trial, group in ((own, "Red"), (others, "Blue")):
        given = [{"measure": "m1", "texts": ["0.64"], "unit": "s"}]
        teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{trial}", json=trial_body(level=level[group], group=group, readings=given))
    seen = {"followed": {"looked": "fall", "track": track(), "marks": MARKS}}
    with httpx.Client(base_url=app.url) as seat:
        seat.post("/api/join", json={"code": code, "role": "group", "label": "Red"}).raise_for_status()
        assert seat.post(f"/api/studies/{study['id']}/followed", json=seen["followed"]).status_code == 200
        assert seat.put(f"/api/studies/{study['id']}/seen/{own}", json=seen).status_code == 200
        refused = seat.put(f"/api/studies/{study['id']}/seen/{others}", json=seen)
        assert (refused.status_code, refused.json()["code"]) == (403, "not_own")
        assert seat.get(f"/api/studies/{study['id']}/seen").json() == [own]
        felt = seat.post(f"/api/studies/{study['id']}/felt", json={"log": phone_log().model_dump(), "number": 1})
        assert felt.status_code == 200
    with httpx.Client(base_url=app.url) as wall:
        wall.post("/api/join", json={"code": code, "role": "wall"}).raise_for_status()
        assert wall.put(f"/api/studies/{study['id']}/seen/{own}", json=seen).status_code == 403
        assert wall.get(f"/api/studies/{study['id']}/seen/{own}").status_code == 200
