"""How a command refuses: the sentence, and as JSON where that was asked for."""

from __future__ import annotations

import json
import sys
from typing import Annotated, NoReturn

import typer

from bendro.core.errors import CoreError

Json = Annotated[bool, typer.Option("--json", help="Answer as JSON on standard output.")]


def refused(error: CoreError, as_json: bool) -> NoReturn:
    where = f" ({error.where})" if error.where else ""
    print(f"{error.says}{where}", file=sys.stderr)
    if as_json:
        print(json.dumps({"error": {"code": error.code, "says": error.says, "where": error.where}}, ensure_ascii=False))
    raise typer.Exit(2)
