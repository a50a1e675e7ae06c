"""Long answers are made once and shared; a full disk and a log that cannot be written are told and end nothing."""

from __future__ import annotations

import json
import sys
import threading
import time
from typing import Any, cast

import pytest
from psycopg.errors import DiskFull
from psycopg.errors import OperationalError as Away

from bendro.api import errors
from bendro.api import told as module
from bendro.api.errors import Lines, database_away
from bendro.api.told import Told, as_list
from bendro.store.owned import Owned


class _Session:
    closed = 0

    def close(self) -> None:
        self.closed += 1


class _Mine:
    def __init__(self) -> None:
        self.session = _Session()


def mine() -> Owned:
    return cast(Owned, _Mine())


def test_who_asks_at_the_same_time_waits_for_one_making_and_holds_no_connection() -> None:
    told, made, go_on, all_mine = Told(), [], threading.Event(), [mine() for _ in range(6)]

    def make() -> bytes:
        made.append(1)
        go_on.wait(10)
        return b"answer"

    answers: list[bytes] = []
    asking = [threading.Thread(target=lambda one=one: answers.append(told.answer("state", one, make))) for one in all_mine]
    for thread in asking:
        thread.start()
    while sum(cast(Any, one).session.closed for one in all_mine) < 5:
        time.sleep(0.01)
    go_on.set()
    for thread in asking:
        thread.join()
    assert (len(made), answers) == (1, [b"answer"] * 6)
    assert told.answer("another", mine(), lambda: b"b") == b"b"


def test_what_failed_is_tried_again_and_the_oldest_answers_go_first(monkeypatch: pytest.MonkeyPatch) -> None:
    told = Told()

    def fails() -> bytes:
        raise ValueError("no")

    for _ in range(2):
        with pytest.raises(ValueError, match="no"):
            told.answer("state", mine(), fails)
    assert told.answer("state", mine(), lambda: b"yes") == b"yes"
    monkeypatch.setattr(module, "MOST_BYTES", 25)
    for name in "abc":
        told.answer(name, mine(), lambda: b"0123456789")
    assert [len(f.result()) for f in told._known.values()] == [10, 10]
    told.answer("large", mine(), lambda: b"x" * 100)
    assert [len(f.result()) for f in told._known.values()] == [100]  # the newest stays, however large


@pytest.mark.parametrize("n", [0, 1, 499, 500, 501, 1_000, 1_001])
def test_a_list_written_in_pieces_is_the_list(n: int) -> None:
    assert json.loads(as_list({"n": i, "text": f"“{i}”"} for i in range(n))) == [{"n": i, "text": f"“{i}”"} for i in range(n)]


def test_a_full_disk_is_told_as_such(monkeypatch: pytest.MonkeyPatch) -> None:
    answer = database_away(DiskFull("could not extend file"))
    said = json.loads(bytes(answer.body))
    assert (answer.status_code, said["code"]) == (507, "disk_full")
    assert "waits on this device" in said["detail"]
    assert json.loads(bytes(database_away(Away("server closed the connection")).body))["code"] == "database_away"
    # a database that stopped for want of room does not always say so
    monkeypatch.setattr(errors, "disk_is_full", lambda: True)
    assert json.loads(bytes(database_away(Away("server closed the connection")).body))["code"] == "disk_full"


def test_a_line_of_the_log_that_cannot_be_written_goes_to_the_other_stream_or_nowhere(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    class Full:
        def write(self, _: str) -> int:
            raise OSError(28, "No space left on device")

        def flush(self) -> None:
            raise OSError(28, "No space left on device")

    monkeypatch.setattr(sys, "stdout", Full())
    Lines().error("a line")
    assert "a line" in capsys.readouterr().err
    monkeypatch.setattr(sys, "stderr", Full())
    Lines().error("another")  # nothing is raised
