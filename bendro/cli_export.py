"""Studies out of the data folder from a terminal: the trial table, the spreadsheet, the data package. Bendro may run meanwhile."""

from __future__ import annotations

import os
import re
import sys
from pathlib import Path
from typing import Annotated, Literal

import typer

from bendro.core.errors import CoreError

ROOT = Path(__file__).resolve().parent.parent
Form = Literal["csv", "ods", "package"]
_END: dict[Form, str] = {"csv": "csv", "ods": "ods", "package": "zip"}


def export(
    study: Annotated[str, typer.Argument(help="The study’s title or its id; leave it out to list what there is.")] = "",
    form: Annotated[Form, typer.Option("--as", help="csv (trial table), ods (spreadsheet), package (data package, a zip)")] = "package",
    out: Annotated[Path | None, typer.Option(help="Where to write; by default the title in this folder")] = None,
    data: Annotated[Path, typer.Option(help="Folder of the data, as bin/start has it")] = ROOT / ".data",
    photos: Annotated[bool, typer.Option(help="Photos of the versions go with a package")] = True,
) -> None:
    """Write a study of this machine's Bendro to a file."""
    from bendro.postgres import Server, ServerTrouble  # only here: the other commands start without a database

    if not (data / "postgres").is_dir():
        print(f"There are no data in {data}. Name the folder that bin/start uses: --data FOLDER", file=sys.stderr)
        raise typer.Exit(2)
    server = Server(data.resolve() / "postgres")
    port = server.running_port()
    try:
        address = server.start() if port is None else server.address(port, "bendro").replace("postgresql://", "postgresql+psycopg://")
        os.environ["BENDRO_DATABASE_URL"] = address
        _write(study.strip(), form, out, photos=photos)
    except ServerTrouble as why:
        print(why, file=sys.stderr)
        raise typer.Exit(2) from why
    finally:
        if port is None:
            server.stop()


def _write(wanted: str, form: Form, out: Path | None, *, photos: bool) -> None:
    from sqlmodel import col, select

    from bendro.actions.packages import study_package
    from bendro.actions.spreadsheet import study_ods
    from bendro.actions.tables import study_table
    from bendro.store.connect import session
    from bendro.store.owned import Owned
    from bendro.store.tables import Study

    with session() as opened:
        all_studies = list(opened.exec(select(Study).where(col(Study.deleted_at).is_(None)).order_by(Study.title)).all())
        found = [s for s in all_studies if wanted and (str(s.id) == wanted or s.title.casefold() == wanted.casefold())]
        if len(found) != 1:
            for s in found or all_studies:
                print(f"{s.id}  {s.title}")
            if wanted:
                print(f"{len(found) or 'No'} studies have this title; name one by its id." if found else "No study has this title or id; these are here.", file=sys.stderr)
                raise typer.Exit(2)
            return
        owned = Owned(opened, found[0].workspace_id)
        try:
            made = {
                "csv": lambda: study_table(owned, found[0].id).encode(),
                "ods": lambda: study_ods(owned, found[0].id),
                "package": lambda: study_package(owned, found[0].id, photos=photos),
            }[form]()
        except CoreError as why:
            print(why.says, file=sys.stderr)
            raise typer.Exit(2) from why
        name = re.sub(r"[^\w ,.-]", "", found[0].title).strip() or "study"
        path = out or Path(f"{name}.{_END[form]}")
        try:
            path.write_bytes(made)
        except OSError as why:
            print(f"{path} cannot be written: {why.strerror}.", file=sys.stderr)
            raise typer.Exit(2) from why
        print(f"{path}: {len(made):,} bytes".replace(",", " "))


COMMANDS = {"export": export}
