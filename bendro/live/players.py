"""A made class that plays a lesson of the demo: a program of its own that comes in by the code, started and ended with the server."""

from __future__ import annotations

import contextlib
import fcntl
import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path
from uuid import UUID

#: At most so many lessons play at once.
MOST = 4
_playing: list[subprocess.Popen[bytes]] = []


def play(study_id: UUID, code: str, to: str, folder: Path, *, speed: float) -> bool:
    """Let a class play; False when one plays this lesson already, or too many play. folder: where whoever plays holds a lock, so that every
    server process of this machine knows of it. Raises OSError."""
    _playing[:] = [p for p in _playing if p.poll() is None]
    folder.mkdir(parents=True, exist_ok=True)
    with contextlib.ExitStack() as held:
        place, lesson = (_first_free(folder, names, held) for names in ([f"place-{n}" for n in range(MOST)], [f"lesson-{study_id}"]))
        if place is None or lesson is None:
            return False
        command = [sys.executable, "-m", "bendro.terminal", "class", code, "--to", to, "--speed", str(speed)]
        # the locks go on with the program that inherits them, and are gone with it
        _playing.append(subprocess.Popen(command, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, pass_fds=(place, lesson)))
    return True


def _first_free(folder: Path, names: Sequence[str], held: contextlib.ExitStack) -> int | None:
    for name in names:
        opened = held.enter_context((folder / name).open("a"))
        with contextlib.suppress(BlockingIOError):
            fcntl.flock(opened, fcntl.LOCK_EX | fcntl.LOCK_NB)
            return opened.fileno()
    return None


def end() -> None:
    """With the server every made class ends."""
    for process in _playing:
        if process.poll() is None:
            process.terminate()
