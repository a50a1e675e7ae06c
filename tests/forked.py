"""Starts applications and commands for the tests without reading the whole program in anew for each: a process that has read it in once is
divided for every start. What runs then is `bendro.server` or `bendro.terminal` as ever, in a process of its own; the tests of the first start
and one of the terminal take the long way.

Run as `python -m tests.forked`: a line of JSON in (what to run, where its words go), the number of the new process out.
"""

from __future__ import annotations

import gc
import json
import os
import signal
import subprocess
import sys
import tempfile
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
                raise subprocess.TimeoutExpired("bendro.server", timeout)
            time.sleep(0.01)
        return 0


class Starter:
    """The process that is divided; begun with the first start."""

    def __init__(self) -> None:
        self._process: subprocess.Popen[str] | None = None

    def start(self, arguments: list[str], environment: dict[str, str], log: Path) -> Forked:
        """The application; what it says goes to the log."""
        return self._divide({"main": "start", "arguments": arguments, "environment": environment, "out": str(log), "err": str(log)})

    def run(self, main: str, arguments: list[str], typed: str = "", timeout: float = 120) -> subprocess.CompletedProcess[str]:
        """A command to its end. main: `terminal` or `start`."""
        with tempfile.TemporaryDirectory(prefix="bendro-forked-") as folder:
            files = {name: Path(folder) / name for name in ("in", "out", "err", "code")}
            files["in"].write_text(typed)
            made = self._divide({"main": main, "arguments": arguments, "environment": dict(os.environ), **{k: str(f) for k, f in files.items()}})
            made.wait(timeout)
            code = int(files["code"].read_text()) if files["code"].exists() else -1
            return subprocess.CompletedProcess([main, *arguments], code, files["out"].read_text(), files["err"].read_text())

    def _divide(self, asked: dict[str, Any]) -> Forked:
        if self._process is None:
            command = [sys.executable, "-m", "tests.forked"]
            self._process = subprocess.Popen(command, cwd=ROOT, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
        asking, telling = self._process.stdin, self._process.stdout
        assert asking is not None
        assert telling is not None
        asking.write(json.dumps(asked) + "\n")
        asking.flush()
        return Forked(int(telling.readline()))

    def stop(self) -> None:
        """Let the process that is divided go."""
        if self._process is not None:
            self._process.communicate()  # it ends when nothing more can be asked of it
            self._process = None


#: The one of this test process.
starter = Starter()


def _become(asked: dict[str, Any]) -> None:
    """The divided process: from here on as if it had been started alone."""
    signal.signal(signal.SIGCHLD, signal.SIG_DFL)
    os.setsid()
    append = os.O_WRONLY | os.O_CREAT | os.O_APPEND
    files = (os.open(asked.get("in", os.devnull), os.O_RDONLY), os.open(asked["out"], append, 0o644), os.open(asked["err"], append, 0o644))
    for there, here in enumerate(files):
        os.dup2(here, there)
    sys.stdin = open(0, closefd=False)  # noqa: SIM115
    os.environ.clear()
    os.environ.update(asked["environment"])
    sys.argv = [asked["main"], *asked["arguments"]]
    code = 1
    try:
        code = _main(asked["main"], asked["arguments"])
    finally:
        sys.stdout.flush()
        sys.stderr.flush()
        if "code" in asked:
            Path(asked["code"]).write_text(str(code))
        os._exit(code)


def _main(name: str, arguments: list[str]) -> int:
    try:
        if name == "start":
            from bendro.server.start import main

            return main(arguments)
        from bendro.terminal.commands import app as cli

        cli()
    except SystemExit as end:
        return end.code if isinstance(end.code, int) else 0 if end.code is None else 1
    return 0


def _serve() -> None:
    import uvicorn  # noqa: F401


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
