"""A made class that plays a lesson of the demo: a program of its own that comes in by the code, started and ended with the server."""

from __future__ import annotations

import subprocess
import sys
from uuid import UUID

#: At most so many lessons play at once.
MOST = 4
_playing: dict[UUID, subprocess.Popen[bytes]] = {}


def play(study_id: UUID, code: str, port: int, *, speed: float) -> bool:
    """Let a class play; False when one plays this lesson already, or too many play."""
    for one, process in list(_playing.items()):
        if process.poll() is not None:
            del _playing[one]
    if study_id in _playing or len(_playing) >= MOST:
        return False
    command = [sys.executable, "-m", "bendro.terminal", "class", code, "--to", f"http://127.0.0.1:{port}", "--speed", str(speed)]
    _playing[study_id] = subprocess.Popen(command, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    return True


def plays(study_id: UUID) -> bool:
    """Whether a made class plays this lesson."""
    process = _playing.get(study_id)
    return process is not None and process.poll() is None


def end() -> None:
    """With the server every made class ends."""
    for process in _playing.values():
        if process.poll() is None:
            process.terminate()
