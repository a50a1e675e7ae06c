"""Long answers about a study, each made once for a state of the study and shared by all who ask: ten screens on a study of ten thousand
trials are told the same bytes."""

from __future__ import annotations

import ctypes
import threading
from collections import OrderedDict
from collections.abc import Callable, Iterable
from concurrent.futures import Future

import orjson

from bendro.store.owned import Owned

#: So much is remembered, in bytes and in answers; at least the newest.
MOST_BYTES, MOST_ANSWERS = 32_000_000, 200
#: So many long answers are made at one moment: each takes a core, and memory for everything that is recorded of a study.
AT_ONCE = 2
#: Above this an answer was a large piece of work, and what that took is given back to the machine.
LARGE_BYTES = 500_000
#: So many trials are written at a time.
PIECE = 500


class Told:
    """Whoever asks for the same state at the same time waits for one and the same making."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._making = threading.Semaphore(AT_ONCE)
        self._known: OrderedDict[object, Future[bytes]] = OrderedDict()

    def answer(self, state: object, mine: Owned, make: Callable[[], bytes]) -> bytes:
        """The answer for this state; make: called only where it is not known. Nothing of the database is held while one waits."""
        with self._lock:
            found = self._known.get(state)
            to_make = found is None
            if found is None:
                found = self._known[state] = Future()
            self._known.move_to_end(state)
        if to_make:
            self._make(state, found, mine, make)
        elif not found.done():
            mine.session.close()
        return found.result()

    def _make(self, state: object, found: Future[bytes], mine: Owned, make: Callable[[], bytes]) -> None:
        if not self._making.acquire(blocking=False):
            mine.session.close()
            self._making.acquire()
        try:
            found.set_result(make())
        except BaseException as why:
            with self._lock:
                self._known.pop(state, None)  # the next who asks tries again
            found.set_exception(why)
        else:
            with self._lock:
                self._forget()
            if len(found.result()) > LARGE_BYTES:
                mine.session.close()
                give_back()
        finally:
            self._making.release()

    def _forget(self) -> None:
        """The oldest go first; those that are still being made stay."""
        made = [(state, len(f.result())) for state, f in self._known.items() if f.done() and f.exception() is None]
        held = sum(size for _, size in made)
        for state, size in made[:-1]:
            if held <= MOST_BYTES and len(made) <= MOST_ANSWERS:
                return
            del self._known[state]
            held -= size
            made = made[1:]


def as_list(documents: Iterable[object]) -> bytes:
    """Documents as a list, written a piece at a time: the long list of them is never held."""
    pieces: list[bytes] = []
    piece: list[object] = []
    for one in documents:
        piece.append(one)
        if len(piece) == PIECE:
            pieces.append(orjson.dumps(piece)[1:-1])
            piece = []
    if piece:
        pieces.append(orjson.dumps(piece)[1:-1])
    return b"[" + b",".join(pieces) + b"]"


def give_back() -> None:
    """Memory that is free is given back to the machine, where the library of C can."""
    try:
        ctypes.CDLL("libc.so.6").malloc_trim(0)
    except (OSError, AttributeError):  # another library of C: it has its own ways
        return


told = Told()
