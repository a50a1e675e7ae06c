"""Analyses: each worked out once for a state of a study, in a process beside the one that serves, never on the road of a save."""

from __future__ import annotations

import atexit
import multiprocessing
import os
import resource
import signal
import threading
from collections import OrderedDict
from collections.abc import Callable, Sequence
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from multiprocessing.connection import wait

from bendro.core.analyse import analyse
from bendro.core.context import Context
from bendro.core.errors import CoreError
from bendro.core.trials import Trial

#: More trials than this are only worked out beside, where memory has an end.
MOST_HERE = 20_000
#: So many states are remembered; an analysis as text is some tens of kilobytes.
REMEMBERED = 256


@dataclass(frozen=True, slots=True)
class _Refused:
    says: str
    code: str
    where: str | None


def work(trials: Sequence[Trial], asked: Context) -> str | _Refused:
    """The analysis as the API tells it, or why there is none; plain enough to go from one process to another."""
    try:
        return analyse(trials, asked).model_dump_json()
    except CoreError as why:
        return _Refused(why.says, why.code, why.where)
    except MemoryError:
        return _Refused(
            f"{len(trials)} trials are more than can be worked out at once on this computer. Leave some out, or split the study.", "analysis_large", None
        )


#: The process beside takes so much memory at most, in bytes of addresses: four times what 50,000 trials need.
MOST_MEMORY = 4_000_000_000


def _begin() -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl-C is for the server, which then lets this one go
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    parent = multiprocessing.parent_process()
    if parent is not None:
        threading.Thread(target=_end_with, args=(parent.sentinel,), daemon=True).start()


def _end_with(parent: int) -> None:
    """The pipe that the parent holds closes when it ends, however it ends."""
    wait([parent])
    os._exit(0)


class Computing:
    """Remembers what was worked out. Whoever asks for the same state at the same time waits for one and the same working."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._known: OrderedDict[object, Future[str | _Refused]] = OrderedDict()
        self._pool: ProcessPoolExecutor | None = None
        self._warm = False

    def answer(self, state: object, asked: Callable[[], tuple[Sequence[Trial], Context]]) -> str:
        """The analysis of this state, as text. asked: gives the trials and what is asked of them, called only where the state is not
        known. Raises CoreError as `analyse` does."""
        with self._lock:
            found = self._known.get(state)
            mine = found is None
            if found is None:
                found = self._known[state] = Future()
                while len(self._known) > REMEMBERED:
                    self._known.popitem(last=False)
            else:
                self._known.move_to_end(state)
        if mine:
            try:
                found.set_result(self._work(*asked()))
            except BaseException as why:
                with self._lock:
                    self._known.pop(state, None)  # the next who asks tries again
                found.set_exception(why)
        told = found.result()
        if isinstance(told, _Refused):
            raise CoreError(told.says, code=told.code, where=told.where)
        return told

    def _work(self, trials: Sequence[Trial], asked: Context) -> str | _Refused:
        with self._lock:
            if self._pool is None:
                self._pool = ProcessPoolExecutor(1, mp_context=multiprocessing.get_context("spawn"), initializer=_begin)
                self._pool.submit(work, (), asked).add_done_callback(self._is_warm)
                atexit.register(self.close)
            pool = self._pool if self._warm else None
        if pool is None:  # the process beside is still starting: this one is worked out here
            return work(trials, asked)
        try:
            return pool.submit(work, trials, asked).result()
        except BrokenProcessPool:
            with self._lock:
                self._pool, self._warm = None, False
            if len(trials) > MOST_HERE:
                return _Refused("The working-out was interrupted. Ask for it again in a moment.", "analysis_interrupted", None)
            return work(trials, asked)

    def _is_warm(self, first: Future[str | _Refused]) -> None:
        self._warm = first.exception() is None

    def close(self) -> None:
        """Let the process beside go."""
        if self._pool is not None:
            self._pool.shutdown(wait=False, cancel_futures=True)


computing = Computing()
