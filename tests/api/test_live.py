"""What one screen keeps, every other open screen is told: over real connections, in the order of the record."""

from __future__ import annotations

import asyncio
import json
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any
from uuid import UUID, uuid4

import psycopg
import pytest
from websockets.exceptions import ConnectionClosed
from websockets.sync.client import ClientConnection, connect

from bendro.api.needs import COOKIE
from bendro.live.events import Events, Word
from tests.conftest import Application, TeacherClient, new_study, sign_up, trial_body

#: So long a word may take on a slow machine; how long it does take is told by bench/.
PATIENCE_S = 20


@contextmanager
def screen(teacher: TeacherClient, study: dict[str, Any], more: str = "") -> Iterator[ClientConnection]:
    cookie = f"{COOKIE}={teacher.http.cookies[COOKIE]}"
    with connect(f"{teacher.url.replace('http', 'ws', 1)}/api/studies/{study['id']}/live{more}", additional_headers={"Cookie": cookie}) as opened:
        yield opened


def heard(opened: ClientConnection) -> dict[str, Any]:
    found: dict[str, Any] = json.loads(opened.recv(timeout=PATIENCE_S))
    return found


def put(teacher: TeacherClient, study: dict[str, Any], **more: Any) -> dict[str, Any]:
    found: dict[str, Any] = teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body(**more))
    return found


def test_a_trial_is_told_to_every_screen_with_its_document_and_in_order(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    with screen(teacher, study) as one, screen(teacher, study) as two:
        assert [heard(s)["kind"] for s in (one, two)] == ["newest", "newest"]
        kept = [put(teacher, study, block=n, level=level, text=f"4.{n}") for n in (1, 2) for level in ("4", "6")]
        for s in (one, two):
            words = [heard(s) for _ in kept]
            assert [w["subject"] for w in words] == [k["id"] for k in kept]
            assert [w["kind"] for w in words] == ["trial"] * 4
            assert all(a["n"] < b["n"] for a, b in zip(words, words[1:], strict=False))
            by_id = {k["id"]: k for k in kept}
            told = [w["trial"] for w in words if "trial" in w]  # where this process has it at hand when the word comes
            assert told
            assert all((t["readings"], t["number"], t["place"]) == tuple(by_id[t["id"]][k] for k in ("readings", "number", "place")) for t in told)
        body = trial_body(block=1, level="4", text="4.1") | {"revision": 2, "state": "void", "fault": "slipped from the cup"}
        teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{kept[0]['id']}", json=body)
        word = heard(one)
        assert (word["kind"], word["subject"], word["revision"]) == ("trial", kept[0]["id"], 2)


def test_plans_versions_and_runs_are_told_by_their_kind(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    with screen(teacher, study) as one:
        newest = heard(one)["n"]
        changed = teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": study["version"], "draft": study["draft"] | {"reason": "It is longer."}})
        word = heard(one)
        assert (word["kind"], word["revision"]) == ("plan", changed["version"])
        assert word["n"] > newest
        version = str(uuid4())
        teacher.ok("PUT", f"/api/studies/{study['id']}/versions/{version}", json={"device": "Red", "draft": {}, "revision": 0})
        assert (heard(one)["kind"]) == "version"


def test_another_study_is_not_heard_and_another_school_is_not_let_in(app: Application, teacher: TeacherClient) -> None:
    study, other = new_study(teacher), new_study(teacher)
    with screen(teacher, study) as one:
        heard(one)
        put(teacher, other)
        mine = put(teacher, study)
        assert heard(one)["subject"] == mine["id"]
    with pytest.raises(Exception, match=r"4401|403|rejected"), screen(sign_up(app), study) as strange:
        heard(strange)


def test_the_stream_ends_with_the_sign_in(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    with screen(teacher, study) as one:
        heard(one)
        teacher.http.delete("/api/session")
        with pytest.raises(ConnectionClosed) as ended:
            heard(one)
        assert ended.value.rcvd is not None
        assert ended.value.rcvd.code == 4401


def test_a_word_that_is_lost_is_followed_by_one_that_says_so(app: Application, teacher: TeacherClient) -> None:
    """The connection that listens is cut, as when the database is started again: screens are told to read the record anew, and hear on."""
    study = new_study(teacher)
    with screen(teacher, study) as one:
        heard(one)
        with psycopg.connect(app.database(), autocommit=True) as rows:
            cut = rows.execute("select pg_terminate_backend(pid) from pg_stat_activity where query ilike 'listen bendro_event%' and datname = current_database()")
            assert cut.rowcount >= 1
        assert heard(one)["kind"] == "again"
        kept = put(teacher, study)
        assert heard(one)["subject"] == kept["id"]


def test_nothing_is_held_when_nobody_listens(app: Application, teacher: TeacherClient) -> None:
    study = new_study(teacher)
    with screen(teacher, study) as one:
        heard(one)
    with psycopg.connect(app.database(), autocommit=True) as rows:
        for _ in range(100):
            left = rows.execute("select count(*) from pg_stat_activity where query ilike 'listen bendro_event%' and datname = current_database()").fetchone()
            if left == (0,):
                break
            rows.execute("select pg_sleep(0.1)")
        assert left == (0,)


def test_the_word_of_another_process_waits_for_nothing_and_ones_own_for_its_document(monkeypatch: pytest.MonkeyPatch) -> None:
    """Hundreds of trials a second come from the other processes: a pause for each would pile up."""
    study, own, other = uuid4(), uuid4(), uuid4()

    def word(trial: UUID) -> str:
        return json.dumps({"study": str(study), "n": 1, "kind": "trial", "subject": str(trial), "revision": 1})

    async def never(seconds: float) -> None:
        raise AssertionError(f"it waited {seconds} s")

    async def run() -> None:
        events = Events(None)  # type: ignore[arg-type]
        told: asyncio.Queue[Word] = asyncio.Queue()
        events._screens[study] = {told}
        with monkeypatch.context() as at_once:
            at_once.setattr(asyncio, "sleep", never)
            await events._hear(word(other))
        assert (await told.get()).trial is None
        with events.saving(own, 1):
            hearing = asyncio.create_task(events._hear(word(own)))
            await asyncio.sleep(0)
            events.remember({"id": str(own), "revision": 1})
            await hearing
        assert (await told.get()).trial == {"id": str(own), "revision": 1}
        assert not events._saving

    asyncio.run(run())
