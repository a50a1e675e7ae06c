"""Starts applications for the tests without reading the whole program in anew for each: a process that has read it in once is divided for
every start. What runs then is `bendro.launch` as ever, in a process of its own; the tests of the first start take the long way.

Run as `python -m tests.forked`: a line of JSON in (`arguments`, `environment`, `log`), the number of the new process out.
"""

from __future__ import annotations

import gc
import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent


class Forked:
    """One application, spoken of as a `subprocess.Popen` is."""

    def __init__(self, pid: int) -> None:
        self.pid = pid

    def poll(self) -> int | None:
        """None while it runs; otherwise 0: nobody asks how it ended."""
        try:
            os.kill(self.pid, 0)
        except ProcessLookupError:
            return 0
        return None

    def send_signal(self, number: int) -> None:
        if self.poll() is None:
            os.kill(self.pid, number)

    def terminate(self) -> None:
        self.send_signal(signal.SIGTERM)

    def kill(self) -> None:
        self.send_signal(signal.SIGKILL)

    def wait(self, timeout: float = 60) -> int:
        until = time.monotonic() + timeout
        while self.poll() is None:
            if time.monotonic() > until:
                raise subprocess.TimeoutExpired("bendro.launch", timeout)
            time.sleep(0.01)
        return 0


class Starter:
    """The process that is divided; begun with the first start."""

    def __init__(self) -> None:
        self._process: subprocess.Popen[str] | None = None

    def start(self, arguments: list[str], environment: dict[str, str], log: Path) -> Forked:
        if self._process is None:
            command = [sys.executable, "-m", "tests.forked"]
            self._process = subprocess.Popen(command, cwd=ROOT, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
        asking, telling = self._process.stdin, self._process.stdout
        assert asking is not None
        assert telling is not None
        asking.write(json.dumps({"arguments": arguments, "environment": environment, "log": str(log)}) + "\n")
        asking.flush()
        return Forked(int(telling.readline()))

    def stop(self) -> None:
        """Let the process that is divided go."""
        if self._process is not None:
            self._process.communicate()  # it ends when nothing more can be asked of it
            self._process = None


def _become(asked: dict[str, Any]) -> None:
    """The divided process: from here on as if it had been started alone."""
    signal.signal(signal.SIGCHLD, signal.SIG_DFL)
    os.setsid()
    log = os.open(asked["log"], os.O_WRONLY | os.O_CREAT | os.O_APPEND, 0o644)
    nothing = os.open(os.devnull, os.O_RDONLY)
    for here, there in ((nothing, 0), (log, 1), (log, 2)):
        os.dup2(here, there)
    os.environ.clear()
    os.environ.update(asked["environment"])
    from bendro.launch import main

    code = 1
    try:
        code = main(asked["arguments"])
    finally:
        sys.stdout.flush()
        os._exit(code)


def _serve() -> None:
    import uvicorn  # noqa: F401

    import bendro.api.app
    import bendro.demo.scenario  # noqa: F401

    gc.freeze()
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # who has ended is forgotten at once
    for line in sys.stdin:
        asked = json.loads(line)
        divided = os.fork()
        if divided == 0:
            _become(asked)
        print(divided, flush=True)


if __name__ == "__main__":
    _serve()
