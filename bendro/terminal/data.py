"""Commands about the data as a whole: where they are, backing up, going back."""

from __future__ import annotations

import fcntl
import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated, Any

import typer

from bendro import ROOT
from bendro.core.errors import CoreError

Data = Annotated[Path, typer.Option(help="Folder of the data.")]
File = Annotated[Path, typer.Argument(help="The backup; of an earlier version also a file of plain SQL.")]
USUAL = ROOT / ".data"


def database_command(data: Data = USUAL) -> None:
    """Print the address of the running database, for psql."""
    if os.environ.get("BENDRO_DATABASE"):
        print(os.environ["BENDRO_DATABASE"])
        return
    from bendro.server.postgres import Server

    server = Server(data / "postgres")
    port = server.running_port()
    if port is None:
        raise CoreError("Bendro is not running, so its database cannot be reached. Start it with bin/start.", code="database_not_running")
    print(server.address(port, "bendro"))


def backup_command(file: File, data: Data = USUAL) -> None:
    """Write all data into one file; also while Bendro runs."""
    from bendro.server.backup import back_up

    with _server(data) as (server, port):
        now = datetime.now(UTC)
        length = back_up(server, port, file.resolve(), now=now)
        # so that whoever erases a class is told what still holds a copy of it
        with (data / "backups.txt").open("a", encoding="utf-8") as noted:
            noted.write(f"{now.isoformat()} {file.resolve()}\n")
    print(f"Everything is in {file} ({length / 1e6:.1f} MB). Keep it somewhere else than on this machine.")


def restore_command(file: File, data: Data = USUAL) -> None:
    """Put what a backup holds in place of the data. Stop Bendro first."""
    from bendro.server.backup import restore

    with _server(data, alone=True) as (server, port):
        kept = restore(server, port, file.resolve(), now=datetime.now(UTC))
    print(f"The data are those of {file}. What was here before is kept as the database {kept}.")


def erase_command(
    label: Annotated[str, typer.Argument(help="The class, as its studies name it.")],
    year: Annotated[str, typer.Option(help="Its school year, where several have the same label.")] = "",
    school: Annotated[str, typer.Option(help="The school, where there are several.")] = "",
    yes: Annotated[bool, typer.Option("--yes", help="Erase it without asking once more.")] = False,
    data: Data = USUAL,
) -> None:
    """Erase a class for good, with the proof of it: rows before and after, and what still holds copies."""
    with _database(data):
        from sqlmodel import select

        from bendro.actions.erasing import erase_class
        from bendro.store.connect import session
        from bendro.store.owned import Owned
        from bendro.store.tables import Workspace

        with session() as opened:
            schools = [w for w in opened.exec(select(Workspace)).all() if school.strip().casefold() in ("", w.name.casefold())]
            if len(schools) != 1:
                names = ", ".join(w.name for w in opened.exec(select(Workspace)).all())
                raise CoreError(f"Name the school with --school: {names}.", code="school_unclear", where="school")
            typed = label if yes else input(f"Erase every study of {label}, for good? Type the class once more: ")
            done = erase_class(Owned(opened, schools[0].id), label, year, typed=typed, now=datetime.now(UTC), data=data.resolve())
            opened.commit()
    print(f"Erased {done.label}: {', '.join(done.titles)}.")
    for table, n in done.before.items():
        if n:
            print(f"  {table:16} {n:7} rows before, {done.after[table]} now")
    print("These still hold copies: " + "; ".join(done.copies) if done.copies else "No backup made since is known here.")


@contextmanager
def _database(data: Path) -> Iterator[None]:
    """The database of this machine, or the one outside that is named, for what follows."""
    if os.environ.get("BENDRO_DATABASE"):
        yield
        return
    with _server(data) as (server, port):
        os.environ["BENDRO_DATABASE"] = server.address(port, "bendro")
        yield


@contextmanager
def _server(data: Path, *, alone: bool = False) -> Iterator[tuple[Any, int]]:
    """The server of data and its port: the one that runs, or one that runs only for this command. alone: refused while Bendro
    runs, and Bendro cannot be started meanwhile."""
    from bendro.server.postgres import Server, ServerTrouble

    if os.environ.get("BENDRO_DATABASE"):
        raise CoreError("The data lie in a database outside (BENDRO_DATABASE). Back it up and restore it there, with its own tools: pg_dump and pg_restore.", code="data_outside")
    data = data.resolve()
    if not data.is_dir():
        raise CoreError(f"There are no data in {data}. Start Bendro once, or name the folder with --data.", code="data_missing")
    server = Server(data / "postgres")
    with (data / "start.lock").open("a+") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as why:
            port = server.running_port()
            if alone or port is None:
                raise CoreError("Bendro is running. Stop it first (Ctrl-C where it was started), then do this again.", code="running") from why
            yield server, port
            return
        try:
            server.start()
            port = server.running_port()
            if port is None:
                raise CoreError("PostgreSQL ended as soon as it had started. Its log is postgres/server.log.", code="database_not_running")
            yield server, port
        except ServerTrouble as why:
            raise CoreError(str(why), code="database_not_running") from why
        finally:
            server.stop()


COMMANDS: dict[str, Callable[..., None]] = {"database": database_command, "backup": backup_command, "restore": restore_command, "erase": erase_command}
