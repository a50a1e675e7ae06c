"""Starts everything: the server of data, migrations, the demo, and the pages at one address. Stops cleanly on Ctrl-C."""

from __future__ import annotations

import argparse
import ctypes
import errno
import fcntl
import gc
import getpass
import os
import signal
import socket
import sys
import threading
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime
from pathlib import Path

from bendro import ROOT
from bendro.server.postgres import Server, ServerTrouble
from bendro.store.errors import NewerData


def main(arguments: list[str] | None = None) -> int:
    parser = argparse.ArgumentParser(prog="bin/start", description="Start Bendro.")
    parser.add_argument("--port", type=int, default=8713, help="port of the pages (default 8713)")
    parser.add_argument("--host", default="127.0.0.1", help="address to listen on; 0.0.0.0 lets tablets in the same network in")
    parser.add_argument("--name", action="append", default=[], help="a further name under which pages are opened, such as bendro.school.example")
    parser.add_argument("--proxy", action="append", default=[], metavar="ADDRESS", help="address of a proxy in front of Bendro, which may say who calls and that https was used")
    parser.add_argument("--no-demo", action="store_true", help="start without the demo scenario")
    parser.add_argument("--data", type=Path, default=ROOT / ".data", help="folder of the data")
    parser.add_argument("--add-account", action="store_true", help="make an account here at the terminal; also while Bendro runs")
    parser.add_argument("--reset-password", metavar="NAME", help="set a new password for an account at the terminal; also while Bendro runs")
    asked = parser.parse_args(arguments)
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
    hindered = _why_not(asked.host, asked.port)
    if hindered:
        print(hindered, file=sys.stderr)
        return 1
    _spare_memory()
    signal.signal(signal.SIGTERM, _interrupt)
    server = Server(data / "postgres")
    try:
        try:
            url = _start_while_loading(server)
        except ServerTrouble as why:
            print(why, file=sys.stderr)
            return 1
        ended = threading.Event()
        watch = threading.Thread(target=server.keep_alive, args=(ended,), daemon=True)
        watch.start()
        try:
            return _serve(asked, url, lock)
        except NewerData as why:
            print(why, file=sys.stderr)
            return 1
        finally:
            ended.set()
            watch.join(20)
    except KeyboardInterrupt:
        return 0
    finally:
        server.stop()


def _start_while_loading(server: Server) -> str:
    """Start the server of data while the rest of the program is read in: each takes a second or two."""
    with ThreadPoolExecutor(1) as pool:
        starting = pool.submit(server.start)
        import bendro.api.app
        import bendro.demo.scenario  # noqa: F401

        return starting.result()


def _interrupt(*_: object) -> None:
    raise KeyboardInterrupt


def _why_not(host: str, port: int) -> str:
    """Why pages cannot be served at this address, and what to do; "" where they can."""
    if not 1 <= port <= 65_535:
        return f"There is no port {port}: ports go from 1 to 65535. Choose another: bin/start --port 8713"
    try:
        family, *_, address = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM, flags=socket.AI_PASSIVE)[0]
    except (socket.gaierror, UnicodeError):
        return f"“{host}” is no address of a machine that is known here. Use --host 127.0.0.1, or --host 0.0.0.0 for tablets in the same network."
    with socket.socket(family) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(address)
        except OSError as why:
            match why.errno:
                case errno.EADDRINUSE:
                    return f"Port {port} is taken by another program. Choose another: bin/start --port {port + 1 if port < 65_535 else 8713}"
                case errno.EADDRNOTAVAIL:
                    return f"{host} is not an address of this machine. Use --host 127.0.0.1, or --host 0.0.0.0 for tablets in the same network."
                case errno.EACCES:
                    return f"Port {port} may only be used by an administrator. Choose one above 1023: bin/start --port 8713"
                case _:
                    return f"Pages cannot be served at {host}, port {port}: {why.strerror}."
    return ""


#: Of glibc: into how many heaps memory is divided, and how much free memory at its end is kept.
_ARENAS, _TRIM = -8, -1


def _spare_memory() -> None:
    """Threads share two heaps, and what is free is given back, where the library of C can: a server that once made a large answer would
    otherwise hold that memory to its end."""
    try:
        mallopt = ctypes.CDLL("libc.so.6").mallopt
    except (OSError, AttributeError):
        return
    mallopt(_ARENAS, 2)
    mallopt(_TRIM, 16_000_000)


def _serve(asked: argparse.Namespace, url: str, lock) -> int:  # type: ignore[no-untyped-def]
    os.environ["BENDRO_DATABASE_URL"] = url
    os.environ["BENDRO_DEMO"] = "0" if asked.no_demo else "1"
    from bendro.actions.accounts import anyone, new_code

    os.environ["BENDRO_FIRST_CODE"] = new_code()
    os.environ["BENDRO_DATA"] = str(asked.data.resolve())
    os.environ["BENDRO_PROXIES"] = ",".join([*asked.proxy, os.environ.get("BENDRO_PROXIES", "")]).strip(",")
    os.environ["BENDRO_HOST_NAMES"] = ",".join([*asked.name, os.environ.get("BENDRO_HOST_NAMES", "")])
    import uvicorn

    from bendro.actions.bringing_up import to_newest
    from bendro.api.app import make_app
    from bendro.settings import settings
    from bendro.store.connect import session

    to_newest(url)
    with session() as opened:
        if not asked.no_demo:
            from bendro.demo.scenario import load

            load(opened, now=datetime.now(UTC))
        _accounts(opened, asked)
        first = not anyone(opened)
    address = f"http://{'localhost' if asked.host in ('127.0.0.1', '0.0.0.0') else asked.host}:{asked.port}"
    lock.seek(0)
    lock.truncate()
    lock.write(address)
    lock.flush()
    config = uvicorn.Config(
        make_app(),
        host=asked.host,
        port=asked.port,
        log_level="warning",
        access_log=False,
        proxy_headers=bool(settings().proxies),  # from nobody else is it believed who calls
        forwarded_allow_ips=settings().proxies,
        timeout_graceful_shutdown=5,
        ws="websockets-sansio",
        ws_max_size=64_000,  # a line of an instrument is short
        timeout_keep_alive=75,  # tablets come back every few seconds: the connection is still there
    )
    # what was loaded stays to the end: it need not be looked through again and again while thousands of rows pass
    gc.collect()
    gc.freeze()
    gc.set_threshold(20_000, 20, 50)
    print(f"Bendro is at {address}   (Ctrl-C stops it; data stay)", flush=True)
    if first:
        print(f"There is no account yet. The code for making the first one: {settings().first_code}", flush=True)
    uvicorn.Server(config).run()
    return 0


def _beside(asked: argparse.Namespace, data: Path) -> int:
    """Accounts made or mended while Bendro runs, in its database."""
    server = Server(data / "postgres")
    port = server.running_port()
    if port is None:
        print("Bendro is just starting. Try again in a moment.", file=sys.stderr)
        return 1
    os.environ["BENDRO_DATABASE_URL"] = server.address(port, "bendro").replace("postgresql://", "postgresql+psycopg://")
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


if __name__ == "__main__":
    sys.exit(main())
