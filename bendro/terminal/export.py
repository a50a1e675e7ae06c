"""Studies out of the data folder from a terminal: the trial table, the spreadsheet, the data package. Bendro may run meanwhile."""

from __future__ import annotations

import os
import re
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Literal
from uuid import UUID

import typer

from bendro import ROOT
from bendro.core.conclusion.model import Conclusion
from bendro.core.errors import CoreError

if TYPE_CHECKING:
    from sqlmodel import Session

    from bendro.store.owned import Owned

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
    with with_study(study.strip(), data) as found:
        if found is None:
            if study.strip():
                raise typer.Exit(2)
            return
        _write(*found, form, out, photos=photos)


@contextmanager
def with_study(wanted: str, data: Path) -> Iterator[tuple[Owned, UUID] | None]:
    """A study of this machine by its title or id, with its school's rows; None where it is not there, after the studies that are have been
    listed. Bendro may run meanwhile."""
    from bendro.server.postgres import Server, ServerTrouble  # only here: the other commands start without a database

    if os.environ.get("BENDRO_DATABASE"):
        from bendro.store.connect import session

        with session() as opened:
            yield _found(opened, wanted)
        return
    if not (data / "postgres").is_dir():
        print(f"There are no data in {data}. Name the folder that bin/start uses: --data FOLDER", file=sys.stderr)
        raise typer.Exit(2)
    server = Server(data.resolve() / "postgres")
    port = server.running_port()
    try:
        address = server.start() if port is None else server.address(port, "bendro")
        os.environ["BENDRO_DATABASE"] = address
        from bendro.store.connect import session

        with session() as opened:
            yield _found(opened, wanted)
    except ServerTrouble as why:
        print(why, file=sys.stderr)
        raise typer.Exit(2) from why
    finally:
        if port is None:
            server.stop()


def _found(opened: Session, wanted: str) -> tuple[Owned, UUID] | None:
    from sqlmodel import col, select

    from bendro.store.owned import Owned
    from bendro.store.tables import Study

    all_studies = list(opened.exec(select(Study).where(col(Study.deleted_at).is_(None)).order_by(Study.title)).all())
    found = [s for s in all_studies if wanted and (str(s.id) == wanted or s.title.casefold() == wanted.casefold())]
    if len(found) == 1:
        return Owned(opened, found[0].workspace_id), found[0].id
    for s in found or all_studies:
        print(f"{s.id}  {s.title}")
    if wanted:
        print(f"{len(found) or 'No'} studies have this title; name one by its id." if found else "No study has this title or id; these are here.", file=sys.stderr)
    return None


def _write(owned: Owned, study_id: UUID, form: Form, out: Path | None, *, photos: bool) -> None:
    from bendro import __version__
    from bendro.actions.analysing import conclude
    from bendro.actions.packages import study_package
    from bendro.actions.spreadsheet import study_ods
    from bendro.actions.tables import study_table
    from bendro.store.tables import Study

    title = owned.get(Study, study_id).title

    def concluded() -> Conclusion | None:
        try:
            return conclude(owned, study_id, core=__version__)
        except CoreError:  # its plan or its trials do not allow one yet; the file goes without it
            return None

    try:
        made = {
            "csv": lambda: study_table(owned, study_id).encode(),
            "ods": lambda: study_ods(owned, study_id, concluded()),
            "package": lambda: study_package(owned, study_id, concluded(), photos=photos),
        }[form]()
    except CoreError as why:
        print(why.says, file=sys.stderr)
        raise typer.Exit(2) from why
    name = re.sub(r"[^\w ,.-]", "", title).strip() or "study"
    path = out or Path(f"{name}.{_END[form]}")
    try:
        path.write_bytes(made)
    except OSError as why:
        print(f"{path} cannot be written: {why.strerror}.", file=sys.stderr)
        raise typer.Exit(2) from why
    print(f"{path}: {len(made):,} bytes")


COMMANDS = {"export": export}
