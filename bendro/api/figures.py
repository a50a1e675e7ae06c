"""Figures for a monitor, in the open text format (OpenMetrics), of all server processes together."""

from __future__ import annotations

import re
import shutil
from functools import cache

from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, Counter, Gauge, Histogram, generate_latest, values
from prometheus_client.multiprocess import MultiProcessCollector

from bendro.settings import settings

CONTENT_TYPE = CONTENT_TYPE_LATEST
_KINDS = (
    ("save", re.compile(r"^PUT /api/studies/[^/]+/trials/[^/]+$")),
    ("join", re.compile(r"^[A-Z]+ /api/join$")),
    ("screen", re.compile(r"/(?:screens|presses)(?:/|$)")),
    ("verdict", re.compile(r"^GET /api/studies/[^/]+/(?:analysis|conclusion)$")),
    ("call", re.compile(r" /api/")),
)


class Figures:
    """Of one process; what the others counted lies in files beside, where the start command has made a folder for them."""

    def __init__(self) -> None:
        self.calls = Counter("bendro_calls", "Calls answered, by what they are and their status", ["kind", "status"])
        self.seconds = Histogram("bendro_call_seconds", "From the call to its answer", ["kind"], buckets=(0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10))
        self.screens = Gauge("bendro_open_screens", "Screens whose stream stands", multiprocess_mode="livesum")

    def note(self, method: str, path: str, status: int, seconds: float) -> None:
        """One call was answered."""
        kind = kind_of(method, path)
        self.calls.labels(kind, str(status)).inc()
        self.seconds.labels(kind).observe(seconds)


@cache
def figures() -> Figures:
    return Figures()


def kind_of(method: str, path: str) -> str:
    """What a call is, among few kinds."""
    called = f"{method} {path}"
    return next((kind for kind, form in _KINDS if form.search(called)), "page")


def told(database_answers: bool) -> bytes:
    """All figures as text; those of the machine are looked up now."""
    beside = CollectorRegistry()
    if values.ValueClass is not values.MutexValue:  # files beside, since the folder was named before this was read in
        MultiProcessCollector(beside)  # type: ignore[no-untyped-call]
        parts = [generate_latest(beside)]
    else:
        parts = [generate_latest()]
    here = CollectorRegistry()
    Gauge("bendro_database_answers", "Whether the database answers", registry=here).set(database_answers)
    if settings().data is not None:
        Gauge("bendro_free_bytes", "Room where the data lie", registry=here).set(shutil.disk_usage(settings().data or ".").free)
    return b"".join([*parts, generate_latest(here)])
