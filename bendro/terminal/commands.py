"""The command line: the same core without the server.

A group of commands is read in when one of it is called: most need no statistics, and none needs all."""

from __future__ import annotations

import functools
import importlib
from collections.abc import Callable
from typing import Any

import typer
from typer.core import TyperGroup
from typer.main import get_command

from bendro.core.errors import CoreError

from .refusing import refused

#: In which module of this package each command stands, in the order of the help.
WHERE = {
    "analyse": "analysing", "read": "reading", "calc": "calculating",
    "sum": "planning", "time": "planning", "packs": "planning", "rehearse": "planning",
    "landing": "tables", "two": "tables", "ranks": "tables", "timers": "tables", "repeats": "tables", "rota": "tables", "cut": "tables",
    "instrument": "instruments", "class": "made_class", "export": "export", "verdict": "verdict",
    "database": "data", "backup": "data", "restore": "data", "erase": "data",
}  # fmt: skip


def _plainly(command: Callable[..., None]) -> Callable[..., None]:
    """A command whose refusals are told as the others' are."""

    @functools.wraps(command)
    def told(**given: Any) -> None:
        try:
            command(**given)
        except CoreError as error:
            refused(error, bool(given.get("as_json", False)))

    return told


class _Commands(TyperGroup):
    def list_commands(self, ctx: Any) -> list[str]:
        return list(WHERE)

    def get_command(self, ctx: Any, cmd_name: str) -> Any:
        return command_named(cmd_name)


@functools.cache
def command_named(name: str) -> Any:
    """The command of this name, read in now; None where there is none."""
    if name not in WHERE:
        return None
    alone = typer.Typer(add_completion=False, pretty_exceptions_enable=False)
    alone.command(name)(_plainly(importlib.import_module(f".{WHERE[name]}", __package__).COMMANDS[name]))
    return get_command(alone)


app = typer.Typer(
    cls=_Commands,
    add_completion=False,
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    help="Repeated trials of small devices: analyse a trial table, work out a calculator, understand a reading.",
)


@app.callback()
def _every() -> None:
    """Repeated trials of small devices: analyse a trial table, work out a calculator, understand a reading."""
