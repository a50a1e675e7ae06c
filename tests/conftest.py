"""What the tests share: a real PostgreSQL, the real application in a process of its own, and teachers with workspaces."""

from __future__ import annotations

import os
import shutil
import socket
import ssl
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import cache
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx
import hypothesis
import pytest
from pwdlib import PasswordHash
from sqlalchemy import Engine, NullPool
from sqlmodel import Session, select

from bendro.actions.accounts import Let
from bendro.store.connect import engine_at
from tests.forked import Forked, starter

ROOT = Path(__file__).resolve().parent.parent
os.environ.pop("BENDRO_DATABASE", None)  # tests never touch a database of somebody else's
PASSWORD = "a long enough password"
#: All tests come from one address, so it may guess as often as it likes where that is not what is tested.
SETTINGS: dict[str, object] = {"sign_in_tries": 8, "sign_in_tries_of_address": 100_000, "body_s": 8}
# every client that is made would read the certificates of the world anew, and none is ever needed on loopback
ssl.create_default_context = cache(ssl.create_default_context)  # type: ignore[assignment]
# machines are shared and slow at times: no example has a deadline
hypothesis.settings.register_profile("bendro", deadline=None)
hypothesis.settings.load_profile("bendro")


def pytest_sessionfinish() -> None:
    starter.stop()


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Application:
    """bin/start's own program in a data folder of the test's; may be killed and started again at the same port."""

    def __init__(self, folder: Path, *options: str, alone: bool = False, **settings: object) -> None:
        """alone: read in anew, as the start command does it."""
        self.folder, self.options, self.port, self.alone = folder, options, free_port(), alone
        self.log = folder.parent / f"{folder.name}.log"
        self.settings = {f"BENDRO_{k.upper()}": str(v) for k, v in {**SETTINGS, **settings}.items()}
        self.url = f"http://localhost:{self.port}"
        self.process: subprocess.Popen[bytes] | Forked | None = None
        self._engine: tuple[str, Engine] | None = None

    def start(self) -> float:
        began = time.monotonic()
        arguments = ["--port", str(self.port), "--data", str(self.folder), *self.options]
        if self.alone:
            command = [sys.executable, "-m", "bendro.server", *arguments]
            with self.log.open("ab") as log:
                self.process = subprocess.Popen(command, cwd=ROOT, env={**os.environ, **self.settings}, stdout=log, stderr=log)
        else:
            self.process = starter.start(arguments, {**os.environ, **self.settings}, self.log)
        for _ in range(600):
            if self.process.poll() is not None:
                raise RuntimeError(self.told())
            try:
                if httpx.get(f"{self.url}/api/session", timeout=2).status_code == 200:
                    return time.monotonic() - began
            except httpx.TransportError:
                time.sleep(0.05)
        raise RuntimeError("the application did not start")

    def database(self) -> str:
        outside = self.settings.get("BENDRO_DATABASE_DIRECT") or self.settings.get("BENDRO_DATABASE")
        if outside:
            return outside
        from bendro.server.postgres import Server

        server = Server(self.folder / "postgres")
        port = server.running_port()
        assert port is not None
        return server.address(port, "bendro")

    def engine(self) -> Engine:
        """Connections to its database; made anew when it was started at another port."""
        address = self.database()
        if self._engine is None or self._engine[0] != address:
            self._engine = (address, engine_at(address, poolclass=NullPool))
        return self._engine[1]

    def workers(self) -> list[int]:
        """Its server processes, where there are several."""
        assert self.process is not None
        found = subprocess.run(["pgrep", "-P", str(self.process.pid)], capture_output=True, text=True, check=False).stdout.split()
        return [int(pid) for pid in found if "spawn_main" in Path(f"/proc/{pid}/cmdline").read_text(errors="replace")]

    def told(self) -> str:
        """What it has printed so far."""
        return self.log.read_text()

    def stop(self) -> None:
        """End it; its log goes with it."""
        if self.process is not None and self.process.poll() is None:
            self.process.terminate()
            self.process.wait(30)
        self.log.unlink(missing_ok=True)


def _folder(name: str) -> Path:
    return Path(tempfile.mkdtemp(prefix=f"bendro-{name}-", dir=ROOT / ".data" if (ROOT / ".data").exists() else None))


@pytest.fixture(scope="session")
def app() -> Iterator[Application]:
    """One application with the demo for the whole session."""
    folder = _folder("test")
    made = Application(folder)
    made.start()
    yield made
    made.stop()
    shutil.rmtree(folder)


@pytest.fixture(scope="session")
def empty_data() -> Iterator[Path]:
    """A data folder with an empty database of the newest shape, to be copied: making one takes seconds."""
    folder = _folder("empty")
    made = Application(folder, "--no-demo")
    made.start()
    made.stop()
    yield folder
    shutil.rmtree(folder)


@pytest.fixture
def own_app(empty_data: Path) -> Iterator[Callable[..., Application]]:
    """Applications of the test's own, for killing and restarting."""
    made: list[Application] = []

    def make(*options: str, **settings: object) -> Application:
        folder = _folder("own")
        subprocess.run(["cp", "-a", f"{empty_data}/.", str(folder)], check=True)
        made.append(Application(folder, *options, **settings))
        made[-1].start()
        return made[-1]

    yield make
    for one in made:
        one.stop()
        shutil.rmtree(one.folder)


@dataclass
class TeacherClient:
    """A signed-in teacher in a workspace of their own."""

    http: httpx.Client
    name: str
    url: str

    def ok(self, method: str, path: str, **more: Any) -> Any:
        answer = self.http.request(method, path, **more)
        assert answer.is_success, answer.text
        return answer.json() if answer.content and "json" in answer.headers["content-type"] else answer.text


@cache
def _hashed() -> str:
    """The password of every teacher of the tests, hashed once: that is meant to be slow."""
    return PasswordHash.recommended().hash(PASSWORD)


def sign_up(app: Application, name: str | None = None) -> TeacherClient:
    """A teacher in a school of their own, signed in as `sign_in` does it, without the form and its hashing."""
    from bendro.actions.accounts import add_account
    from bendro.api.access import DEVICE_COOKIE
    from bendro.api.needs import COOKIE

    name = name or f"teacher-{uuid4().hex[:8]}"
    with Session(app.engine()) as session:
        account = add_account(session, sign_in_name=name, password=None, school="", now=datetime.now(UTC))
        account.password_hash = _hashed()
        session.add(account)
        session.commit()
    http = httpx.Client(base_url=app.url, timeout=60)
    let = let_in_at(app, name)
    http.cookies.set(COOKIE, let.token, domain="localhost.local", path="/")
    http.cookies.set(DEVICE_COOKIE, let.known, domain="localhost.local", path="/api/session")
    return TeacherClient(http, name, app.url)


def let_in_at(app: Application, name: str) -> Let:
    """A further sign-in of a teacher."""
    from bendro.actions.accounts import Door, let_in
    from bendro.store.tables import Account

    with Session(app.engine()) as session:
        account = session.exec(select(Account).where(Account.sign_in_name == name.casefold())).one()
        let = let_in(session, account, at=Door(address="127.0.0.1", device="computer"), now=datetime.now(UTC))
        session.commit()
        return let


@pytest.fixture
def teacher(app: Application) -> Iterator[TeacherClient]:
    made = sign_up(app)
    yield made
    made.http.close()


DRAFT: dict[str, Any] = {
    "question": "How does the pull-back change the distance?",
    "family": "launcher",
    "variable": {"name": "pull-back", "kind": "number", "quantity": "length", "unit": "cm", "levels": ["4", "6", "8"]},
    "measures": [{"name": "distance to first touch", "quantity": "length", "unit": "m", "rule": "Nearest edge at first touch."}],
    "repeats": 3,
    "groups": ["Red", "Blue"],
    "prediction": "Farther with more pull.",
    "expect": "rises",
    "limits": [{"on": "variable", "name": "", "value": "12 cm"}],
}


def new_study(teacher: TeacherClient, title: str = "Test study", *, run: bool = True, **change: Any) -> dict[str, Any]:
    """A study of the teacher's. run: the adult in charge has opened it, where the plan is ready."""
    own = {"limits": []} if change.keys() & {"variable", "family"} else {}  # the usual limit is on the pull-back
    made = teacher.ok("POST", "/api/studies", json={"id": str(uuid4()), "title": title, "draft": {**DRAFT, **own, **change}})
    return open_run(teacher, made) if run and not any(p["grave"] for p in made["problems"]) else made


def open_run(teacher: TeacherClient, study: dict[str, Any]) -> dict[str, Any]:
    """Every caution ticked at the lane; the study as it stands then."""
    body = {"id": str(uuid4()), "adult": "class teacher", "cautions": study["cautions"], "mark": study["safety_mark"]}
    return teacher.ok("POST", f"/api/studies/{study['id']}/runs", json=body)


def trial_body(
    level: str = "4", text: str = "4.52", *, texts: list[str] | None = None, unit: str = "m", also: tuple[str, str] | None = None,
    behaviour: str = "", **change: Any,
) -> dict[str, Any]:  # fmt: skip
    """A trial as the browser sends it. texts: of several timers; also: text and unit of the second measure."""
    readings = [{"measure": "m1", "texts": [text] if texts is None else texts, "unit": unit}]
    readings += [{"measure": "m2", "texts": [also[0]], "unit": also[1]}] if also else []
    readings += [{"measure": "behaviour", "texts": [behaviour]}] if behaviour else []
    return {"block": 1, "level": level, "group": "Red", "readings": readings, "released_at": "2026-05-04T10:00:00Z", **change}


def texts_of(trial: dict[str, Any], measure: str = "m1") -> list[str]:
    """What was written for a measure, as the server tells it."""
    return next((r["texts"] for r in trial["readings"] if r["measure"] == measure), [])


def read_of(trial: dict[str, Any], measure: str = "m1") -> dict[str, Any] | None:
    """What was understood for a measure."""
    return next((r["reading"] for r in trial["readings"] if r["measure"] == measure), None)
