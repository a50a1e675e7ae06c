"""An analysis is worked out once for a state, whoever asks, and beside the process that serves."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from uuid import uuid4

import pytest

from bendro.api import computing as module
from bendro.api.computing import REMEMBERED, Computing
from bendro.api.verdicts import MOST_FOLLOWED, Following
from bendro.core.analyse import analyse
from bendro.core.context import Context
from bendro.core.errors import CoreError
from bendro.core.once import once_for_each
from bendro.core.trials import Trial

ROOT = Path(__file__).resolve().parents[2]
ROWS = [Trial(level=float(level), value=level * 2 + n / 10, order=level * 3 + n, resolution=0.1) for level in (1, 2, 3) for n in range(3)]
ASKED = Context(factor="pull", response="distance")


@pytest.fixture
def made() -> Iterator[Computing]:
    one = Computing()
    yield one
    one.close()


def warm(one: Computing) -> None:
    one.answer("first", lambda: (ROWS, ASKED))
    for _ in range(600):
        if one._warm:
            return
        time.sleep(0.1)
    pytest.fail("the process beside never started")


def test_the_same_state_is_worked_out_once_and_says_what_the_core_says(made: Computing) -> None:
    asked: list[int] = []

    def ask() -> tuple[list[Trial], Context]:
        asked.append(1)
        return ROWS, ASKED

    told = [made.answer("state", ask) for _ in range(3)]
    assert len(asked) == 1
    assert len(set(told)) == 1
    assert json.loads(told[0]) == json.loads(analyse(ROWS, ASKED).model_dump_json())
    made.answer("another state", ask)
    assert len(asked) == 2


def test_those_who_ask_at_the_same_time_wait_for_one_working(made: Computing) -> None:
    asked: list[int] = []
    gate = threading.Event()

    def ask() -> tuple[list[Trial], Context]:
        asked.append(1)
        gate.wait(30)
        return ROWS, ASKED

    told: list[str] = []
    threads = [threading.Thread(target=lambda: told.append(made.answer("state", ask))) for _ in range(8)]
    for t in threads:
        t.start()
    gate.set()
    for t in threads:
        t.join()
    assert (len(asked), len(told), len(set(told))) == (1, 8, 1)


def test_a_refusal_comes_to_everyone_and_a_fault_is_not_remembered(made: Computing) -> None:
    odd = [*ROWS, Trial(level="thick", value=1.0, row=7)]
    for _ in range(2):
        with pytest.raises(CoreError, match="“thick” in pull is not a number") as why:
            made.answer("refused", lambda: (odd, Context(factor="pull", response="distance", treat_as="number")))
        assert why.value.where == "row 7"

    def broken() -> tuple[list[Trial], Context]:
        raise RuntimeError("the database went")

    with pytest.raises(RuntimeError, match="the database went"):
        made.answer("broken", broken)
    assert made.answer("broken", lambda: (ROWS, ASKED)).startswith("{")


def test_it_is_worked_out_beside_and_again_when_that_process_dies(made: Computing, monkeypatch: pytest.MonkeyPatch) -> None:
    warm(made)
    monkeypatch.setattr(module, "work", lambda *_: pytest.fail("worked out in the process that serves"))
    pool = made._pool
    assert pool is not None
    with pytest.raises(Exception, match=r"pickle|Can't"):
        made.answer("patched", lambda: (ROWS, ASKED))  # what would run beside is another function now: it was not run here
    monkeypatch.undo()
    for worker in pool._processes:
        os.kill(worker, signal.SIGKILL)
    assert made.answer("after", lambda: (ROWS, ASKED)) == made.answer("first", lambda: (ROWS, ASKED))


def test_only_so_many_states_are_remembered(made: Computing) -> None:
    asked: list[int] = []

    def ask() -> tuple[list[Trial], Context]:
        asked.append(1)
        return ROWS[:2], ASKED

    for n in range(REMEMBERED + 1):
        made.answer(n, ask)
    made.answer(0, ask)
    assert len(asked) == REMEMBERED + 2


def test_a_verdict_is_begun_ahead_only_for_who_asked_since_the_last_trial() -> None:
    following, one, other = Following(), uuid4(), uuid4()
    assert not following.take(one)
    following.note(one)
    assert not following.take(other)
    assert following.take(one)
    assert not following.take(one)  # nobody asked again: the next trial of a burst begins nothing
    for _ in range(MOST_FOLLOWED):
        following.note(uuid4())
    following.note(one)
    for _ in range(MOST_FOLLOWED):
        following.note(uuid4())
    assert not following.take(one)


def test_what_follows_from_a_plan_is_worked_out_once_for_it_and_anew_for_another() -> None:
    made: list[str] = []

    @once_for_each
    def work(plan: list[str], mark: int) -> str:
        made.append(plan[0])
        return f"{plan[0]} {mark}"

    a, b = ["alike"], ["alike"]
    assert [work(a, 1), work(a, 1), work(b, 1), work(a, 2)] == ["alike 1", "alike 1", "alike 1", "alike 2"]
    assert len(made) == 3


def test_what_cannot_be_worked_out_is_not_remembered() -> None:
    tried: list[int] = []

    @once_for_each
    def work(plan: list[str]) -> str:
        tried.append(1)
        raise CoreError("No.", code="no")

    plan = ["x"]
    for _ in range(2):
        with pytest.raises(CoreError):
            work(plan)
    assert len(tried) == 2


def test_too_much_for_the_memory_is_told_in_a_sentence(monkeypatch: pytest.MonkeyPatch) -> None:
    def too_much(*_: object) -> None:
        raise MemoryError

    monkeypatch.setattr(module, "analyse", too_much)
    told = module.work(ROWS, ASKED)
    assert isinstance(told, module._Refused)
    assert told.code == "analysis_large"
    assert told.says.startswith(f"{len(ROWS)} trials are more than can be worked out")


def test_the_process_beside_is_bounded_and_ends_with_its_parent() -> None:
    code = (
        "import os, resource, time\n"
        "from bendro.api.computing import Computing, _begin\n"
        "from tests.core.test_computing import ASKED, ROWS, warm\n"
        "if __name__ == '__main__':\n"
        "    one = Computing()\n"
        "    warm(one)\n"
        "    beside = one._pool.submit(os.getpid).result()\n"
        "    print(beside, one._pool.submit(resource.getrlimit, resource.RLIMIT_AS).result()[0], flush=True)\n"
        "    time.sleep(60)\n"
    )
    with tempfile.NamedTemporaryFile("w", suffix=".py", dir=ROOT / "tests" / "core", delete=False) as file:
        file.write(code)
    parent = subprocess.Popen([sys.executable, file.name], cwd=ROOT, stdout=subprocess.PIPE, text=True, env={**os.environ, "PYTHONPATH": str(ROOT)})
    try:
        assert parent.stdout is not None
        beside, most = (int(n) for n in parent.stdout.readline().split())
        assert most == module.MOST_MEMORY
        parent.kill()
        parent.wait()
        until = time.monotonic() + 10
        while Path(f"/proc/{beside}").exists() and Path(f"/proc/{beside}/stat").read_text().split()[2] != "Z" and time.monotonic() < until:
            time.sleep(0.05)
        assert not Path(f"/proc/{beside}").exists() or Path(f"/proc/{beside}/stat").read_text().split()[2] == "Z"
    finally:
        parent.kill()
        parent.communicate()
        Path(file.name).unlink()
