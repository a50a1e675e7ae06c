"""Several server processes behind one address: each takes what comes, and one that dies is started again. What they hold together lies in
PostgreSQL."""

from __future__ import annotations

import multiprocessing
import os
import signal
import sys
import threading
import time
from multiprocessing.connection import wait
from multiprocessing.context import SpawnProcess

from .working import Place, work_below

#: One that ends so soon after its start is started again only after so long, in seconds: it would end again.
SOON_S, PAUSE_S = 5.0, 2.0
#: Told to end, a process has so long, in seconds.
END_S = 12.0


class Processes:
    """So many workers, looked after until `end`."""

    def __init__(self, n: int, places: list[Place]) -> None:
        self._n, self._places = n, places
        self._spawn = multiprocessing.get_context("spawn")
        self._workers: list[tuple[SpawnProcess, float]] = []
        self._ended = threading.Event()

    def run(self) -> None:
        """Until a signal comes."""
        for one in (signal.SIGTERM, signal.SIGINT):
            signal.signal(one, lambda *_: self._ended.set())
        self._workers = [self._start() for _ in range(self._n)]
        while not self._ended.is_set():
            wait([worker.sentinel for worker, _ in self._workers], timeout=0.5)
            for n, (worker, since) in enumerate(self._workers):
                if worker.is_alive() or self._ended.is_set():
                    continue
                _forget_figures(worker.pid)
                print(f"A server process ended ({worker.exitcode}); another one takes its place.", file=sys.stderr, flush=True)
                if time.monotonic() - since < SOON_S:
                    self._ended.wait(PAUSE_S)
                self._workers[n] = self._start()
        self._end()

    def _start(self) -> tuple[SpawnProcess, float]:
        worker = self._spawn.Process(target=work_below, args=(self._places, os.getpid()), daemon=False)
        worker.start()
        return worker, time.monotonic()

    def _end(self) -> None:
        for worker, _ in self._workers:
            worker.terminate()
        until = time.monotonic() + END_S
        for worker, _ in self._workers:
            worker.join(max(0.0, until - time.monotonic()))
            if worker.is_alive():
                worker.kill()
                worker.join(5)


def _forget_figures(pid: int | None) -> None:
    """What a process that died showed as standing stands no more; what it counted stays."""
    from prometheus_client.multiprocess import mark_process_dead

    mark_process_dead(pid)  # type: ignore[no-untyped-call]
