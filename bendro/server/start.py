"""Starts everything: the server of data, migrations, the demo, and the pages at one address. Stops cleanly on Ctrl-C."""

from __future__ import annotations

import argparse
import contextlib
import fcntl
import getpass
import hashlib
import os
import re
import shutil
import signal
import socket
import sys
import tempfile
import threading
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from typing import IO

from bendro.server.listening import EVERYWHERE, HERE, CannotListen, addresses, listen, numbers
from bendro.server.options import parser, processes_of
from bendro.server.outside import look_at
from bendro.server.postgres import Server, ServerTrouble
from bendro.server.working import Place, spare_memory, work
from bendro.store.errors import NewerData

#: A name in a network (RFC 1123, section 2.1).
_NAME = re.compile(r"(?!-)[A-Za-z0-9-]{1,63}(?<!-)(\.(?!-)[A-Za-z0-9-]{1,63}(?<!-))*")
#: Connections to the database: of one process, and of whoever looks beside.
OF_A_PROCESS, BESIDE = 34, 26


def main(arguments: list[str] | None = None) -> int:
    asked = parser().parse_args(arguments)
    n = processes_of(asked.processes)
    if n is None:
        print(f"“{asked.processes}” is no number of processes. Give 1 to 64, or auto: bin/start --processes auto", file=sys.stderr)
        return 1
    data = asked.data.resolve()
    try:
        data.mkdir(parents=True, exist_ok=True)
        lock = (data / "start.lock").open("a+")
    except OSError as why:
        print(f"The data folder {data} cannot be written: {why.strerror}. Choose another: bin/start --data FOLDER", file=sys.stderr)
        return 1
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        if asked.add_account or asked.reset_password:
            return _beside(asked, data)
        lock.seek(0)
        print(f"Bendro is running already: {lock.read().strip() or 'it is just starting'}", file=sys.stderr)
        return 0
    figures = _place_for_figures(data)
    os.environ["PROMETHEUS_MULTIPROC_DIR"] = str(figures)
    spare_memory()
    signal.signal(signal.SIGTERM, _interrupt)
    try:
        heard = _listen(asked, data)
        with _database(data, n) as url:
            return _serve(asked, url, heard, n, lock)
    except (CannotListen, ServerTrouble, NewerData) as why:
        print(why, file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 0
    finally:
        shutil.rmtree(figures, ignore_errors=True)


def _place_for_figures(data: Path) -> Path:
    """Where the processes count together: in memory, since a full disk under a file that is mapped would end them; those of an earlier start
    are none of them."""
    memory = Path("/dev/shm")
    place = memory / f"bendro-figures-{hashlib.sha256(str(data).encode()).hexdigest()[:12]}" if os.access(memory, os.W_OK) else data / "figures"
    shutil.rmtree(place, ignore_errors=True)
    try:
        place.mkdir(mode=0o700)
    except FileExistsError:  # left by another user's start of the same folder
        return Path(tempfile.mkdtemp(prefix=f"{place.name}-", dir=place.parent))
    return place


def _interrupt(*_: object) -> None:
    raise KeyboardInterrupt


@dataclass(slots=True)
class _Heard:
    """Where pages are served. addresses: what is typed on a tablet; names: under which Bendro answers beside the machine's own; authority: of
    this machine, which tablets are told to trust."""

    places: list[Place]
    address: str
    addresses: list[str] = field(default_factory=list)
    names: list[str] = field(default_factory=list)
    authority: Path | None = None


def _listen(asked: argparse.Namespace, data: Path) -> _Heard:
    """Raises CannotListen."""
    for option, given in (("--local-name", [asked.local_name or "bendro"]), ("--name", asked.name)):
        odd = next((n for n in given if not _NAME.fullmatch(n) or (option == "--local-name" and "." in n)), None)
        if odd is not None:
            raise CannotListen(f"“{odd}” is no name of a machine. Give letters, digits and hyphens{'' if option == '--local-name' else ' with points between, without https://'}: {option} {'bendro' if option == '--local-name' else 'bendro.school.example'}")
    local = [f"{asked.local_name}.local"] if asked.local_name else []
    named = [*asked.name, *local]
    secure = asked.https or asked.certificate or asked.key
    if secure and asked.host in ("127.0.0.1", "localhost", "::1"):
        asked.host = EVERYWHERE[0]  # https is for the network
    reached = numbers(asked.host)
    address = f"http://{'localhost' if asked.host in (HERE, *EVERYWHERE) else asked.host}:{asked.port}"
    if not secure:
        outside = addresses("https", 443, named) if asked.proxy else addresses("http", asked.port, [*named, *reached])  # a proxy takes the school's names
        return _Heard([Place(listen(asked.host, asked.port))], address, outside, named)
    files, more, authority = _certificate(asked, data, [*named, *reached])
    port = asked.https_port or asked.port + 1
    places = [Place(listen(HERE, asked.port)), Place(listen(asked.host, port, option="--https-port"), files)]
    return _Heard(places, f"http://localhost:{asked.port}", addresses("https", port, [*named, *(more or reached)]), [*named, *more], authority)


def _certificate(asked: argparse.Namespace, data: Path, names: list[str]) -> tuple[tuple[Path, Path], list[str], Path | None]:
    """The files of the certificate, the names in it where it is the school's own, and the authority where it is ours. Raises CannotListen."""
    from bendro.server.certificates import CertificateTrouble, given, own

    now = datetime.now(UTC)
    try:
        if asked.certificate or asked.key:
            if not (asked.certificate and asked.key):
                raise CertificateTrouble("A certificate and its key are given together: --certificate FILE --key FILE.")
            files = (asked.certificate.resolve(), asked.key.resolve())
            return files, [n for n in given(*files, now=now) if not n.startswith("*")], None
        machine = socket.gethostname().casefold()
        certificate, key, authority = own(data / "https", sorted({*names, "localhost", HERE, machine, f"{machine}.local"}), now=now)
    except (CertificateTrouble, OSError, ValueError) as why:
        raise CannotListen(str(why)) from why
    return (certificate, key), [], authority


@contextlib.contextmanager
def _database(data: Path, n: int) -> Iterator[str]:
    """The address of the database while it is needed: one outside, or a server of Bendro's own that is looked after. Raises ServerTrouble."""
    outside = os.environ.get("BENDRO_DATABASE", "")
    if outside:
        look_at(outside, os.environ.get("BENDRO_DATABASE_DIRECT", ""))
        _load()
        yield outside
        return
    server = Server(data / "postgres", connections=n * OF_A_PROCESS + BESIDE)
    try:
        with ThreadPoolExecutor(1) as pool:  # the rest of the program is read in meanwhile: each takes a second or two
            starting = pool.submit(server.start)
            _load()
            url = starting.result()
        ended = threading.Event()
        watch = threading.Thread(target=server.keep_alive, args=(ended,), daemon=True)
        watch.start()
        try:
            yield url
        finally:
            ended.set()
            watch.join(20)
    finally:
        server.stop()


def _load() -> None:
    import bendro.api.app
    import bendro.demo.scenario  # noqa: F401


def _serve(asked: argparse.Namespace, url: str, heard: _Heard, n: int, lock: IO[str]) -> int:
    from bendro.actions.accounts import anyone, new_code

    _say_settings(asked, url, heard, new_code())
    from bendro.actions.bringing_up import to_newest
    from bendro.settings import settings
    from bendro.store.connect import engine, session

    to_newest(url)
    with session() as opened:
        if not asked.no_demo:
            from bendro.demo.scenario import load

            load(opened, now=datetime.now(UTC))
        _accounts(opened, asked)
        first = not anyone(opened)
    lock.seek(0)
    lock.truncate()
    lock.write(heard.address)
    lock.flush()
    print(f"Bendro is at {heard.address}   (Ctrl-C stops it; data stay)", flush=True)
    if heard.addresses:
        print(f"Tablets in the same network: {'   '.join(heard.addresses)}", flush=True)
    if heard.authority is not None:
        from bendro.server.certificates import fingerprint

        print(f"Each tablet trusts this machine once: {heard.addresses[0] if heard.addresses else heard.address}/trust\nFingerprint of its authority: {fingerprint(heard.authority)}", flush=True)
    if first:
        print(f"There is no account yet. The code for making the first one: {settings().first_code}", flush=True)
    with _renewing(asked, heard), _announced(asked, heard):
        if n == 1:
            work(heard.places)
        else:
            from bendro.server.processes import Processes

            engine().dispose()  # each process has connections of its own
            Processes(n, heard.places).run()
    return 0


def _say_settings(asked: argparse.Namespace, url: str, heard: _Heard, first_code: str) -> None:
    """What the options say, as settings of this process and of those below it."""
    def joined(name: str, *more: str) -> str:
        return ",".join([*more, *filter(None, [os.environ.get(name, "")])])

    os.environ.update(
        BENDRO_DATABASE=url, BENDRO_DEMO="0" if asked.no_demo else "1", BENDRO_FIRST_CODE=first_code, BENDRO_DATA=str(asked.data.resolve()),
        BENDRO_PROXIES=joined("BENDRO_PROXIES", *asked.proxy), BENDRO_HOST_NAMES=joined("BENDRO_HOST_NAMES", *heard.names),
        BENDRO_ADDRESSES=",".join(heard.addresses), BENDRO_HERE=heard.address, BENDRO_TRUST_AT="" if heard.authority is None else str(heard.authority),
    )  # fmt: skip
    if asked.log_json:
        os.environ["BENDRO_LOG_JSON"] = "1"


@contextlib.contextmanager
def _renewing(asked: argparse.Namespace, heard: _Heard) -> Iterator[None]:
    """Our own certificate is looked at every day, and renewed in time; the processes take up the new one by themselves."""
    ended = threading.Event()

    def go_on() -> None:
        while not ended.wait(86_400):
            with contextlib.suppress(CannotListen):  # the disk is full, say: there are weeks left, and it is tried again
                _certificate(asked, asked.data.resolve(), [*heard.names, *numbers(asked.host)])

    if heard.authority is not None:
        threading.Thread(target=go_on, daemon=True).start()
    try:
        yield
    finally:
        ended.set()


@contextlib.contextmanager
def _announced(asked: argparse.Namespace, heard: _Heard) -> Iterator[None]:
    """The name in the local network, as long as pages are served."""
    if not asked.local_name:
        yield
        return
    from bendro.server.announcing import announced

    secure = any(p.certificate for p in heard.places)
    with announced(asked.local_name, numbers(asked.host) or [HERE], heard.places[-1].socket.getsockname()[1], secure=secure):
        yield


def _beside(asked: argparse.Namespace, data: Path) -> int:
    """Accounts made or mended while Bendro runs, in its database."""
    if not os.environ.get("BENDRO_DATABASE"):
        server = Server(data / "postgres")
        port = server.running_port()
        if port is None:
            print("Bendro is just starting. Try again in a moment.", file=sys.stderr)
            return 1
        os.environ["BENDRO_DATABASE"] = server.address(port, "bendro")
    from bendro.store.connect import session

    with session() as opened:
        return 0 if _accounts(opened, asked) else 2


def _accounts(session, asked: argparse.Namespace) -> bool:  # type: ignore[no-untyped-def]
    """What is asked about accounts at the terminal; False when it was refused, with the reason told."""
    from bendro.actions.accounts import add_account, reset_password
    from bendro.core.errors import CoreError

    try:
        if asked.add_account:
            name = input("Sign-in name: ")
            code = input("Code of a colleague’s invitation (leave empty for a school of its own): ").strip()
            school = "" if code else input("Name of the school (or leave empty): ")
            add_account(session, sign_in_name=name, password=_new_password(), school=school, invitation=code, now=datetime.now(UTC))
            session.commit()
            print("The account is made.")
        if asked.reset_password:
            reset_password(session, sign_in_name=asked.reset_password, wanted=_new_password())
            session.commit()
            print("The password is changed; this teacher is signed out everywhere.")
    except CoreError as why:
        session.rollback()
        print(why.says, file=sys.stderr)
        return False
    return True


def _new_password() -> str:
    return getpass.getpass("Password (10 characters or more): ")
