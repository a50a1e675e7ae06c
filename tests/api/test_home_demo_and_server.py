"""Home's order, the demo's stories, readings and working over HTTP, and the server of data that looks after itself."""

from __future__ import annotations

import re
import subprocess
import sys
from datetime import date, timedelta
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx
import pytest
from sqlalchemy import text as sql

from bendro.core.analyse import analyse
from bendro.core.context import Context
from bendro.core.trials import Trial
from bendro.server.postgres import Server
from tests.conftest import DRAFT, ROOT, Application, TeacherClient, new_study, read_of, trial_body
from tests.forked import starter

pytestmark = pytest.mark.api


@pytest.fixture(scope="module")
def demo(app: Application) -> httpx.Client:
    client = httpx.Client(base_url=app.url, timeout=60)
    assert client.post("/api/session/demo").json()["shown_name"] == "Demo teacher"
    return client


def analysis(demo: httpx.Client, title: str) -> dict[str, Any]:
    study = next(s for s in demo.get("/api/studies").json() if s["title"] == title)
    found: dict[str, Any] = demo.get(f"/api/studies/{study['id']}/analysis").json()
    return found


def test_the_demo_stands_at_the_stages_that_its_page_names(demo: httpx.Client) -> None:
    lines = {s["title"]: s for s in demo.get("/api/studies").json()}
    assert {t: (s["stage"], s["kept"], s["planned"]) for t, s in lines.items()} == {
        "Throwing a line over the dyke": ("show", 20, 20),
        "Fizz signal": ("work_out", 16, 16),
        "Message glider": ("run", 11, 20),
        "Medicine drop": ("run", 0, 16),
        "Reed-bed sled": ("run", 0, 20),
        "Cracker pod": ("run", 8, 16),
        "Seed-wing": ("work_out", 12, 12),
        "Marsh hoist": ("work_out", 16, 16),
        "Steady top": ("plan", 0, 0),
        "Pod, round by round": ("work_out", 15, 15),
    }


def test_the_demo_tells_its_stories(demo: httpx.Client) -> None:
    dyke = analysis(demo, "Throwing a line over the dyke")
    assert (dyke["verdict"]["answer"], dyke["effect"]["trend"]["spearman"] > 0.9) == ("clear", True)
    assert sum(s["n_void"] for s in dyke["levels"]) == 1
    wing = analysis(demo, "Seed-wing")
    assert wing["effect"]["kind"] != "trend"  # compared within each heat
    assert wing["verdict"]["answer"] == "clear"
    study = next(s for s in demo.get("/api/studies").json() if s["title"] == "Seed-wing")
    trials = demo.get(f"/api/studies/{study['id']}/trials").json()
    assert len({t["heat"] for t in trials}) == 4
    every = [Trial(level=float(t["level"]), value=read_of(t)["value"], order=n, resolution=0.01) for n, t in enumerate(trials, 1)]
    apart = analyse(every, Context(factor="tip cut", factor_unit="cm", response="fall time", unit="s"))
    assert apart.verdict.answer != "clear"  # what the heats hide from whoever takes every trial for itself
    fizz = analysis(demo, "Fizz signal")
    assert fizz["effect"]["trend"]["preferred"] == "peak"
    assert fizz["audit"][0]["code"] == "voids_pile_up"
    peak = next(f for f in fizz["effect"]["trend"]["forms"] if f["form"] == "peak")
    assert 5 < peak["optimum"] < 20
    rounds = analysis(demo, "Pod, round by round")
    two_changes = next(f for f in rounds["audit"] if f["code"] == "more_than_one_change")
    assert two_changes["says"].startswith("Version 4 changed 2 things at once")
    assert rounds["verdict"]["about"] == "variable"  # the newest, 5, changed one thing


def test_the_demos_medicine_drop_is_planned_to_the_end(demo: httpx.Client) -> None:
    study = next(s for s in demo.get("/api/studies").json() if s["title"] == "Medicine drop")
    path = f"/api/studies/{study['id']}"
    assert demo.get(path).json()["sign_off"]["covers"] is True
    rota = demo.get(f"{path}/rota").json()
    assert (rota["rota"]["fits"], rota["stale"]) == (True, False)
    ahead = demo.get(f"{path}/ahead").json()
    assert all(k["how"] for k in ahead["kept_same"])
    assert ahead["outlook"]["rehearsal"]["share_clear"] > 0.8
    assert ahead["outlook"]["objections"] == []
    shopping = demo.get(f"{path}/shopping").json()
    assert shopping["problems"] == []
    assert shopping["total"] == 13.1


def test_home_puts_the_next_lesson_first_then_what_is_half_done(teacher: TeacherClient) -> None:
    later, sooner, half, rest = (new_study(teacher, t) for t in ("later", "sooner", "half done", "not begun"))
    for study, days in ((later, 5), (sooner, 1)):
        body = {"version": 1, "next_lesson": (date.today() + timedelta(days=days)).isoformat()}
        teacher.ok("PATCH", f"/api/studies/{study['id']}", json=body)
    teacher.ok("PUT", f"/api/studies/{half['id']}/trials/{uuid4()}", json=trial_body())
    order = [s["title"] for s in teacher.ok("GET", "/api/studies")]
    assert order == ["sooner", "later", "half done", "not begun"]
    teacher.ok("PATCH", f"/api/studies/{sooner['id']}", json={"version": 2, "finished": True})
    assert teacher.ok("GET", "/api/studies")[-1]["title"] == "sooner"
    assert rest["missing"] == "9 trials to run"
    cleared = teacher.ok("PATCH", f"/api/studies/{later['id']}", json={"version": 2, "next_lesson": "clear"})
    assert cleared["next_lesson"] is None


def test_a_draft_that_is_not_ready_is_kept_and_says_what_is_missing(teacher: TeacherClient) -> None:
    variable = {**DRAFT["variable"], "levels": ["4", "wide", ""]}
    study = new_study(teacher, "Not ready", variable=variable)
    assert study["draft"]["variable"]["levels"] == ["4", "wide", ""]
    assert (study["stage"], study["planned"], study["turns"]) == ("plan", 0, [])
    assert {p["where"] for p in study["problems"]} >= {"variable.levels.1", "variable.levels.2"}
    assert teacher.http.get(f"/api/studies/{study['id']}/analysis").json()["code"] == "plan_not_ready"


READINGS = [
    ("4.52", "length", "m", {"kind": "exact", "value": 4.52, "resolution": 0.01}),
    ("452 cm", "length", "m", {"kind": "exact", "value": 4.52, "resolution": 0.01}),
    ("3.8+", "length", "m", {"kind": "at_least", "value": 3.8}),
    ("~4 m", "length", "cm", {"kind": "estimate", "value": 400.0, "doubt": 100.0}),
    ("1:03.4", "time", "s", {"kind": "exact", "value": 63.4, "resolution": 0.1}),
]


@pytest.mark.parametrize(("text", "quantity", "unit", "wanted"), READINGS)
def test_a_reading_is_echoed_in_the_measures_unit(
    teacher: TeacherClient, text: str, quantity: str, unit: str, wanted: dict[str, Any]
) -> None:
    study = new_study(teacher, measures=[{"name": "reading", "quantity": quantity, "unit": unit, "rule": "r"}])
    found = teacher.ok("POST", f"/api/studies/{study['id']}/readings", json={"measure": "m1", "texts": [text], "unit": unit})["reading"]
    for key, value in wanted.items():
        assert found[key] == (pytest.approx(value) if isinstance(value, float) else value), key


def test_the_working_over_http_shows_the_numbers_and_refuses_what_is_not_there(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    path = f"/api/studies/{study['id']}"
    for i, (level, text) in enumerate([("4", "2.0"), ("4", "2.2"), ("6", "3.0"), ("6", "3.4")]):
        teacher.ok(
            "PUT",
            f"{path}/trials/{uuid4()}",
            json=trial_body(level=level, text=text, block=1 + i % 2, released_at=f"2026-05-04T10:0{i}:00Z"),
        )
    mean = teacher.ok("GET", f"{path}/how", params={"about": "mean", "first": "4"})
    assert "= (2.0 + 2.2) ÷ 2" in mean["lines"]
    both = teacher.ok("GET", f"{path}/how", params={"about": "difference", "first": "4", "second": "6"})
    assert "= 3.2 − 2.1 = 1.1 m" in both["lines"]
    assert teacher.http.get(f"{path}/how", params={"about": "mean", "first": "8"}).json()["code"] == "level_unknown"
    assert teacher.http.get(f"{path}/how", params={"about": "median", "first": "4"}).status_code == 422


def test_a_second_measure_and_behaviour_go_out_in_the_table(teacher: TeacherClient) -> None:
    also = {"name": "distance off the line", "quantity": "length", "unit": "cm", "rule": "r", "signed": True}
    study = new_study(teacher, measures=[*DRAFT["measures"], also])
    path = f"/api/studies/{study['id']}"
    kept = teacher.ok("PUT", f"{path}/trials/{uuid4()}", json=trial_body(also=("left 12", "cm"), behaviour="curved"))
    assert read_of(kept, "m2")["value"] == -12
    refused = teacher.http.put(f"{path}/trials/{uuid4()}", json=trial_body(also=("sideways", "cm")))
    assert refused.status_code == 422
    head, row = teacher.ok("GET", f"{path}/trials.csv").splitlines()
    assert head.endswith("distance off the line (cm),behaviour")
    assert row.endswith("left 12,curved")


def test_a_withdrawn_trial_leaves_the_tape_and_the_table_and_comes_back_by_no_accident(teacher: TeacherClient) -> None:
    study, trial = new_study(teacher), str(uuid4())
    path = f"/api/studies/{study['id']}"
    teacher.ok("PUT", f"{path}/trials/{trial}", json=trial_body())
    teacher.ok("PUT", f"{path}/trials/{trial}", json=trial_body(state="withdrawn", revision=2))
    teacher.ok("PUT", f"{path}/trials/{trial}", json=trial_body())  # the first revision, sent again late
    assert teacher.ok("GET", f"{path}/trials") == []
    assert len(teacher.ok("GET", f"{path}/trials.csv").splitlines()) == 1
    assert teacher.ok("GET", path)["kept"] == 0


def test_unknown_addresses_answer_with_a_problem_and_pages_with_the_page(app: Application) -> None:
    lost = httpx.get(f"{app.url}/api/nothing-here")
    assert (lost.status_code, lost.json()["code"]) == (404, "no_such_call")
    page = httpx.get(f"{app.url}/study/whatever/run")
    assert page.status_code == 200
    assert "text/html" in page.headers["content-type"]
    assert "default-src 'self'" in page.headers["content-security-policy"]


def test_nothing_that_is_served_names_another_host(app: Application) -> None:
    page = httpx.get(f"{app.url}/").text
    assert "http://" not in page.replace("http://www.w3.org", "")
    assert "https://" not in page


# --- the server of data and the launcher -----------------------------------------------------------------------------------


def test_a_half_made_cluster_and_a_strangers_lock_are_put_right(tmp_path: Path) -> None:
    tmp_path.chmod(0o755)
    server = Server(tmp_path / "postgres")
    (tmp_path / "postgres" / "cluster").mkdir(parents=True)  # initdb cut short: a folder without PG_VERSION
    first = server.start()
    again = Server(tmp_path / "postgres")
    assert again.start() == first  # a server that runs is taken over, not started twice
    again.stop()
    assert again.running_port() is None
    (tmp_path / "postgres" / "cluster" / "postmaster.pid").write_text("1\n/elsewhere\n0\n5432\n")  # process 1 is alive and a stranger
    assert server.start().startswith("postgresql://bendro:")
    server.stop()
    server.stop()


def test_a_taken_port_is_told_with_what_to_do(app: Application, tmp_path: Path) -> None:
    def start(*options: str) -> subprocess.CompletedProcess[str]:
        return starter.run("start", [*options, "--data", str(tmp_path / "data")])

    done = start("--port", str(app.port))
    assert done.returncode == 1
    assert f"--port {app.port + 1}" in done.stderr
    for options, said in {
        ("--host", "203.0.113.9"): "203.0.113.9 is not an address of this machine",
        ("--host", "no such machine"): "is no address of a machine that is known here",
        ("--port", "99999"): "There is no port 99999: ports go from 1 to 65535",
        ("--port", "0"): "There is no port 0",
    }.items():
        done = start(*options)
        assert (done.returncode, said in done.stderr, "Traceback" in done.stderr) == (1, True, False), done.stderr


def test_starting_twice_names_the_address_that_runs(app: Application) -> None:
    done = subprocess.run(
        [sys.executable, "-m", "bendro.server", "--data", str(app.folder)], cwd=ROOT, capture_output=True, text=True, timeout=60
    )
    assert done.returncode == 0
    assert f"running already: {app.url}" in done.stderr


def at_the_terminal(app: Application, typed: str, *options: str) -> subprocess.CompletedProcess[str]:
    """The start command beside the one that runs, in a session without a terminal of its own, so that passwords come from the input."""
    return starter.run("start", ["--data", str(app.folder), *options], typed)


def test_accounts_are_made_and_passwords_reset_while_it_runs(app: Application) -> None:
    name = f"ada-{uuid4().hex[:6]}"
    made = at_the_terminal(app, f"{name}\n\n\na long enough password\n", "--add-account")
    assert (made.returncode, "The account is made." in made.stdout) == (0, True)

    def sign_in(password: str) -> int:
        return httpx.post(f"{app.url}/api/session", json={"sign_in_name": name, "password": password}).status_code

    assert sign_in("a long enough password") == 200
    again = at_the_terminal(app, f"{name}\n\n\na long enough password\n", "--add-account")
    assert (again.returncode, "is taken" in again.stderr) == (2, True)
    assert at_the_terminal(app, "quite another one\n", "--reset-password", name).returncode == 0
    assert (sign_in("a long enough password"), sign_in("quite another one")) == (422, 200)
    unknown = at_the_terminal(app, "quite another one\n", "--reset-password", "nobody here")
    assert (unknown.returncode, "There is no account" in unknown.stderr) == (2, True)
    blank = at_the_terminal(app, "            \n", "--reset-password", name)
    assert (blank.returncode, "needs at least 10" in blank.stderr) == (2, True)


def test_the_address_of_the_database_is_given_while_it_runs_and_refused_when_not(app: Application, tmp_path: Path) -> None:
    def ask(folder: Path) -> subprocess.CompletedProcess[str]:
        return starter.run("terminal", ["database", "--data", str(folder)])

    assert ask(app.folder).stdout.strip() == app.database()
    assert ask(tmp_path).returncode == 2


def database(app: Any) -> Any:
    from sqlmodel import Session, create_engine

    return Session(create_engine(app.database().replace("postgresql://", "postgresql+psycopg://")))


def restarted(app: Any) -> httpx.Client:
    app.process.terminate()
    app.process.wait(30)
    app.start()
    client = httpx.Client(base_url=app.url, timeout=60)
    client.post("/api/session/demo").raise_for_status()
    return client


def test_a_newer_version_adds_to_the_demo_and_leaves_what_was_made_in_it(own_app: Any) -> None:
    from bendro.demo.making import demo_id

    app = own_app()
    client = httpx.Client(base_url=app.url, timeout=60)
    client.post("/api/session/demo").raise_for_status()
    client.post("/api/studies", json={"id": str(uuid4()), "title": "Made in the demo"}).raise_for_status()
    version = client.get(f"/api/studies/{demo_id('dyke')}").json()["version"]
    client.patch(f"/api/studies/{demo_id('dyke')}", json={"version": version, "title": "Renamed"}).raise_for_status()
    with database(app) as session:
        session.exec(sql(f"delete from study where id = '{demo_id('sled')}'"))  # as an older version would have left it
        session.commit()
    titles = {s["title"] for s in restarted(app).get("/api/studies").json()}
    assert {"Made in the demo", "Renamed", "Reed-bed sled", "Pod, round by round"} <= titles
    assert len(titles) == 11


def test_a_demo_that_was_cut_short_while_it_was_made_is_made_anew(own_app: Any) -> None:
    app = own_app()
    with database(app) as session:
        session.exec(sql("update workspace set name = name || ' (being made)' where demo"))
        session.exec(sql("delete from trial"))
        session.commit()
    client = restarted(app)
    assert client.get("/api/session").json()["workspace"] == "Fernhollow School"
    assert {s["title"]: s["kept"] for s in client.get("/api/studies").json()}["Throwing a line over the dyke"] == 20


def test_pages_come_compressed_as_the_browser_takes_them_and_assets_stay_for_a_year(app: Application) -> None:
    plain = httpx.get(app.url, headers={"Accept-Encoding": "identity"})
    script = re.search(r'src="(/assets/index-[^"]+\.js)"', plain.text)
    assert script is not None
    sizes = {}
    for taken, form in (("br, gzip", "br"), ("gzip", "gzip"), ("identity", None), ("br;q=0, gzip", "gzip"), ("", None)):
        with httpx.stream("GET", app.url + script[1], headers={"Accept-Encoding": taken}) as answer:
            body = b"".join(answer.iter_raw())
            assert answer.headers.get("content-encoding") == form
            assert answer.headers["vary"] == "Accept-Encoding"
            assert "immutable" in answer.headers["cache-control"]
            assert answer.headers["content-type"].startswith("text/javascript")
            sizes[form] = len(body)
    assert sizes["br"] < sizes["gzip"] < sizes[None]
    assert httpx.get(f"{app.url}/study/anything/run", headers={"Accept-Encoding": "gzip"}).text == plain.text
    assert httpx.get(f"{app.url}/assets/gone.js").status_code == 404
    assert httpx.get(f"{app.url}/assets/../../settings.py").text == plain.text  # no path climbs out
