"""`bin/bendro read`: how a written reading is understood."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Annotated

import typer

from bendro.core.errors import CoreError
from bendro.core.readings import read as read_text

from .refusing import Json, refused


def read_command(
    text: Annotated[str, typer.Argument(help="What was written.")],
    quantity: Annotated[str, typer.Option("--as", help="length, time, mass, speed, angle, count or voltage.")],
    unit: Annotated[str | None, typer.Option(help="Unit of a bare number.")] = None,
    as_json: Json = False,
) -> None:
    """Understand one written reading."""
    try:
        found = read_text(text, quantity, unit)
    except CoreError as error:
        refused(error, as_json)
    shape = {
        "kind": found.kind,
        "value": found.value,
        "unit": found.unit,
        "si_value": found.si_value,
        "si_unit": found.si_unit,
        "resolution": found.resolution,
        "half_width": found.half_width,
        "standard_uncertainty": found.standard_uncertainty,
    }
    if as_json:
        print(json.dumps(shape, ensure_ascii=False, allow_nan=False))
    else:
        mark = {"exact": "", "at_least": "at least ", "at_most": "at most ", "estimate": "about "}[found.kind]
        print(
            f"{mark}{found.value:g} {found.unit} = {found.si_value:g} {found.si_unit}; read to {found.resolution:g} {found.unit}, "
            f"standard uncertainty {found.standard_uncertainty:.2g} {found.unit}"
        )


COMMANDS: dict[str, Callable[..., None]] = {"read": read_command}
