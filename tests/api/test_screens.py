"""The screens of a class while a run goes on: turns that no two call, lanes that are handed on, what further phones time, and the teacher's desk."""

from __future__ import annotations

import threading
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import uuid4

import httpx
import psycopg
import pytest

from tests.api.test_live import heard, screen
from tests.api.test_seats import lesson, sit
from tests.conftest import Application, TeacherClient, new_study, trial_body

pytestmark = pytest.mark.api


@pytest.fixture
def grouped(teacher: TeacherClient) -> dict[str, Any]:
    return new_study(teacher, groups=["Avocet", "Curlew"], repeats=4)


def call(client: httpx.Client, study: dict[str, Any], screen_id: str, turns: list[dict[str, Any]], **more: Any) -> dict[str, Any]:
    body = {"doing": "calling" if turns else "looking", "turns": [{"block": t["block"], "level": t["level"]} for t in turns], **more}
    answer = client.put(f"/api/studies/{study['id']}/screens/{screen_id}", json=body)
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def named(said: dict[str, Any], screen_id: str) -> dict[str, Any]:
    found: dict[str, Any] = next(s for s in said["screens"] if s["id"] == screen_id)
    return found


def test_two_screens_never_call_the_same_turn(teacher: TeacherClient, grouped: dict[str, Any]) -> None:
    first, second = str(uuid4()), str(uuid4())
    turns = grouped["turns"]
    assert call(teacher.http, grouped, first, turns[:1])["granted"]
    refused = call(teacher.http, grouped, second, turns[:1])
    assert not refused["granted"]
    assert named(refused, second)["turns"] == []
    assert call(teacher.http, grouped, second, turns[1:2])["granted"]
    assert call(teacher.http, grouped, first, turns[:1])["granted"]  # said again it is still its own
    heat = call(teacher.http, grouped, first, [turns[1], turns[2]])
    assert not heat["granted"]  # together or not at all: the other of the two stays free
    assert call(teacher.http, grouped, second, turns[2:3])["granted"]
    assert call(teacher.http, grouped, first, turns[1:2])["granted"]  # which the second has let go


def test_of_many_at_once_one_is_granted(teacher: TeacherClient, grouped: dict[str, Any]) -> None:
    granted: list[bool] = []
    cookies = dict(teacher.http.cookies)

    def one() -> None:
        with httpx.Client(base_url=teacher.url, cookies=cookies, timeout=60) as client:
            granted.append(call(client, grouped, str(uuid4()), grouped["turns"][:1])["granted"])

    threads = [threading.Thread(target=one) for _ in range(8)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert sorted(granted) == [False] * 7 + [True]


def test_a_turn_is_free_again_when_its_screen_left_was_silent_or_slept(app: Application, teacher: TeacherClient, grouped: dict[str, Any]) -> None:
    first, second, turn = str(uuid4()), str(uuid4()), grouped["turns"][:1]
    path = f"/api/studies/{grouped['id']}/screens/{first}"
    call(teacher.http, grouped, first, turn)
    assert teacher.http.delete(path).status_code == 204
    assert teacher.http.delete(path).status_code == 204  # left twice
    assert call(teacher.http, grouped, second, turn)["granted"]
    call(teacher.http, grouped, second, [])
    for change in ("update screen set away_at = now() - interval '40 seconds' where id = %s", "update screen set seen_at = now() - interval '3 minutes' where id = %s", "update claim set at = now() - interval '6 minutes' where screen_id = %s"):
        assert call(teacher.http, grouped, first, turn)["granted"], change
        assert not call(teacher.http, grouped, second, turn)["granted"], change
        with psycopg.connect(app.database(), autocommit=True) as rows:
            rows.execute(change, [first])
        assert call(teacher.http, grouped, second, turn)["granted"], change
        call(teacher.http, grouped, second, [])


def test_a_group_comes_before_a_teacher_who_only_looks(app: Application, teacher: TeacherClient, grouped: dict[str, Any]) -> None:
    seat = sit(app, lesson(teacher, grouped)["code"], "group", "Curlew")
    own = next(t for t in grouped["turns"] if t["group"] == "Curlew")
    theirs = next(t for t in grouped["turns"] if t["group"] == "Avocet")
    looks, tablet = str(uuid4()), str(uuid4())
    assert call(teacher.http, grouped, looks, [own])["granted"]
    assert call(seat, grouped, tablet, [own])["granted"]
    assert not call(teacher.http, grouped, looks, [own])["granted"]
    call(seat, grouped, tablet, [])
    call(teacher.http, grouped, looks, [own], half={"0": "4."})  # something is written: it is not only looked at
    assert not call(seat, grouped, tablet, [own])["granted"]
    path = f"/api/studies/{grouped['id']}/screens"
    refused = seat.put(f"{path}/{tablet}", json={"doing": "calling", "turns": [{"block": theirs["block"], "level": theirs["level"]}]})
    assert (refused.status_code, refused.json()["code"]) == (403, "not_own")
    stolen = seat.put(f"{path}/{looks}", json={"doing": "looking"})
    assert (stolen.status_code, stolen.json()["code"]) == (403, "screen_elsewhere")
    wall = sit(app, lesson(teacher, grouped)["code"], "wall")
    assert wall.put(f"{path}/{uuid4()}", json={"doing": "calling", "turns": [{"block": own["block"], "level": own["level"]}]}).status_code == 403
    assert wall.put(f"{path}/{uuid4()}", json={"doing": "falling", "fall": str(uuid4())}).status_code == 403


def test_a_lane_is_handed_on_with_what_is_half_typed(app: Application, teacher: TeacherClient, grouped: dict[str, Any]) -> None:
    code = lesson(teacher, grouped)["code"]
    mine, spare = sit(app, code, "group", "Curlew"), sit(app, code, "group", "Curlew")
    avocet = sit(app, code, "group", "Avocet")
    own = next(t for t in grouped["turns"] if t["group"] == "Curlew")
    a, b, c = (str(uuid4()) for _ in range(3))
    call(mine, grouped, a, [own], half={"0": "4.5"}, lane=2)
    call(spare, grouped, b, [])
    call(avocet, grouped, c, [])
    path = f"/api/studies/{grouped['id']}/screens"
    assert avocet.post(f"{path}/{a}/hand", json={"to": c}).json()["code"] == "not_own"
    assert mine.post(f"{path}/{a}/hand", json={"to": c}).json()["code"] == "not_own"  # it may not run Curlew's
    said = mine.post(f"{path}/{a}/hand", json={"to": b})
    assert said.status_code == 200, said.text
    now, before = named(said.json(), b), named(said.json(), a)
    assert (now["turns"], now["half"], now["lane"], now["handed"]) == ([{"block": own["block"], "level": own["level"]}], {"0": "4.5"}, 2, "from Curlew")
    assert (before["turns"], before["half"], before["handed"]) == ([], {}, "to Curlew")
    assert not call(mine, grouped, a, [own])["granted"]
    freed = teacher.http.post(f"{path}/{b}/hand", json={"to": None})  # the teacher frees a silent one's turn
    assert named(freed.json(), b)["handed"] == "to whoever is next"
    assert call(mine, grouped, a, [own])["granted"]


def test_what_is_timed_is_told_and_further_phones_join_it(app: Application, teacher: TeacherClient, grouped: dict[str, Any]) -> None:
    code = lesson(teacher, grouped)["code"]
    phones = [sit(app, code, "timer") for _ in range(2)]
    assert [p.get("/api/session").json()["shown_name"] for p in phones] == ["Timer 1", "Timer 2"]
    lane, fall = str(uuid4()), str(uuid4())
    ids = [str(uuid4()) for _ in phones]
    for p, one in zip(phones, ids, strict=True):
        call(p, grouped, one, [], doing="ready")
    with screen(teacher, grouped) as desk:
        assert heard(desk)["kind"] == "newest"
        call(teacher.http, grouped, lane, grouped["turns"][:1], doing="falling", fall=fall, released_at=1_000.0, round_trip_s=0.006)
        word = heard(desk)
        assert (word["kind"], word["n"], word["screen"]["doing"], word["screen"]["fall"], word["screen"]["released_at"]) == ("screen", 0, "falling", fall, 1_000.0)
        for p, one, landed in zip(phones, ids, (1_001.84, None), strict=True):
            answer = p.put(f"/api/studies/{grouped['id']}/falls/{fall}/presses/{one}", json={"landed_at": landed, "round_trip_s": 0.008})
            assert answer.status_code == 200, answer.text
        words = [heard(desk) for _ in phones]
        assert [(w["kind"], w["press"]["label"], w["press"]["landed_at"]) for w in words] == [("press", "Timer 1", 1_001.84), ("press", "Timer 2", None)]
    said = teacher.ok("GET", f"/api/studies/{grouped['id']}/screens")
    assert [(p["label"], p["landed_at"]) for p in said["presses"]] == [("Timer 1", 1_001.84), ("Timer 2", None)]
    first, second = said["presses"]
    assert (first["seconds"], second["seconds"]) == (pytest.approx(1.84), None)
    # by hand: half of each round trip over the root of three, both together (JCGM 100:2008, 4.3.7 and 5.1.2): hypot(3 ms, 4 ms) / root 3
    assert first["clock_s"] == pytest.approx(0.005 / 3**0.5)
    own = phones[1].put(f"/api/studies/{grouped['id']}/falls/{fall}/presses/{ids[1]}", json={"released_at": 1_000.1, "landed_at": 1_002.0, "round_trip_s": 0.5}).json()
    assert (own["seconds"], own["clock_s"]) == (pytest.approx(1.9), 0.0)  # one clock told both
    strange = phones[0].put(f"/api/studies/{grouped['id']}/falls/{fall}/presses/{ids[1]}", json={"landed_at": 1.0})
    assert strange.json()["code"] == "screen_elsewhere"


def test_the_doubt_of_compared_clocks_is_part_of_the_reading(teacher: TeacherClient) -> None:
    measures = [{"id": "m1", "name": "fall time", "quantity": "time", "unit": "s", "timed": True, "timers": 3}]
    study = new_study(teacher, measures=measures)
    doubts = []
    for block, clock in ((1, 0.0), (2, 0.2)):
        body = trial_body(block=block)
        body["readings"] = [{"measure": "m1", "texts": ["1.84", "1.88", "1.80"], "unit": "s", "taken": "phones", "source": "Timer 1, Timer 2", "clock_s": clock}]
        kept = teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=body)
        doubts.append(kept["readings"][0]["reading"]["doubt"])
        assert kept["readings"][0]["clock_s"] == clock
        assert kept["readings"][0]["reading"]["method"] == "median"
    # by hand: the root of the sum of the squares (JCGM 100:2008, 5.1.2)
    assert doubts[1] == pytest.approx((doubts[0] ** 2 + 0.2**2) ** 0.5)


def test_the_stream_of_a_screen_is_its_presence(app: Application, teacher: TeacherClient, grouped: dict[str, Any]) -> None:
    mine = str(uuid4())
    call(teacher.http, grouped, mine, grouped["turns"][:1])
    with screen(teacher, grouped) as desk:
        assert heard(desk)["kind"] == "newest"
        with screen(teacher, grouped, f"?screen={mine}") as own:
            assert heard(own)["kind"] == "newest"
            own.send("clock 7")
            word = heard(own)
            assert (word["kind"], word["subject"]) == ("clock", "7")
            assert abs(word["at"] - datetime.now(UTC).timestamp()) < 60
        gone = heard(desk)
        assert (gone["kind"], gone["subject"]) == ("screen", mine)
        assert gone["screen"]["away_at"] is not None
        with screen(teacher, grouped, f"?screen={mine}") as own:
            back = heard(desk)
            assert (back["subject"], back["screen"]["away_at"]) == (mine, None)
            own.send("leave")  # the page goes for good
            left = heard(desk)
            assert (left["kind"], left["subject"], left["screen"]) == ("screen", mine, None)


def test_lanes_are_opened_paused_and_closed_and_the_last_trial_is_called(app: Application, teacher: TeacherClient, grouped: dict[str, Any]) -> None:
    path = f"/api/studies/{grouped['id']}/lanes"
    assert teacher.ok("PUT", f"{path}/2", json={"state": "closed", "why": "the adult is at lane 1"})["shut"]["2"]["why"] == "the adult is at lane 1"
    said = teacher.ok("PUT", path, json={"stopped": False, "said": "", "last": True})
    assert (list(said["shut"]), said["last_from"] is not None) == (["2"], True)
    assert teacher.ok("GET", f"/api/studies/{grouped['id']}")["lanes"] == said
    assert teacher.ok("PUT", path, json={"stopped": False, "said": "", "last": True})["last_from"] == said["last_from"]  # pressed twice
    assert teacher.ok("PUT", f"{path}/2", json={"state": "open"})["shut"] == {}
    assert teacher.ok("PUT", path, json={"stopped": False, "said": "", "last": False})["last_from"] is None
    seat = sit(app, lesson(teacher, grouped)["code"], "group", "Curlew")
    assert seat.put(f"{path}/1", json={"state": "closed"}).status_code == 403
    assert seat.get(f"/api/studies/{grouped['id']}/desk").status_code == 403


def test_the_desk_tells_what_to_look_at_and_when_the_last_is_in(app: Application, teacher: TeacherClient, grouped: dict[str, Any]) -> None:
    code = lesson(teacher, grouped, minutes=50)["code"]
    began = datetime.now(UTC)
    desk = teacher.ok("GET", f"/api/studies/{grouped['id']}/desk")
    assert (desk["forecast"]["kept"], desk["forecast"]["planned"], desk["forecast"]["by"]) == (0, len(grouped["turns"]), "plan")
    assert desk["look"] == []
    curlew = sit(app, code, "group", "Curlew")
    tablet = str(uuid4())
    own = [t for t in grouped["turns"] if t["group"] == "Curlew"]
    call(curlew, grouped, tablet, own[:1], holds=2)
    with psycopg.connect(app.database(), autocommit=True) as rows:
        rows.execute("update screen set away_at = now() - interval '3 minutes' where id = %s", [tablet])
    for n, t in enumerate(t for t in grouped["turns"] if t["group"] == "Avocet"):
        body = trial_body(block=t["block"], level=t["level"], group="Avocet", text="4.5") | {"released_at": (began - timedelta(seconds=20 * (4 - n))).isoformat()}
        if n in (1, 2):
            body |= {"state": "void", "fault": "slipped from the cup"}
        teacher.ok("PUT", f"/api/studies/{grouped['id']}/trials/{uuid4()}", json=body)
    desk = teacher.ok("GET", f"/api/studies/{grouped['id']}/desk")
    says = {look["code"]: look for look in desk["look"]}
    assert "Curlew’s tablet has been silent for 3 min and holds 2 trials. Nothing is lost" in says["silent"]["says"]
    assert says["silent"]["screen"] == tablet
    assert "2 of its last" in says["voids"]["says"]
    assert "slipped from the cup" in says["voids"]["says"]
    assert "Curlew has no trials" in says["behind"]["says"]
    left = desk["forecast"]["planned"] - desk["forecast"]["kept"]
    assert desk["forecast"]["by"] == "pace"
    assert desk["forecast"]["each_s"] == pytest.approx(20, abs=0.5)
    last = datetime.fromisoformat(desk["forecast"]["last_at"]) - datetime.now(UTC)
    assert last.total_seconds() == pytest.approx(left * 20, abs=15)
