"""`bin/bendro calc`: a formula with its working."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Annotated

import typer

from bendro.core.errors import CalculationRefused, CoreError
from bendro.core.physics.calculator import listed
from bendro.core.physics.calculators import CALCULATORS, calculate
from bendro.core.readings import read as read_text

from .refusing import Json, refused


def calc_command(
    id: Annotated[str | None, typer.Argument(help="Identifier of the calculator.")] = None,
    inputs: Annotated[list[str] | None, typer.Argument(help='Inputs as name="value unit ± doubt".')] = None,
    g: Annotated[str, typer.Option(help="Gravity in m/s²; 9.8, 9.81 and 10 are used in schools.")] = "9.80665",
    list_all: Annotated[bool, typer.Option("--list", help="List every calculator with its inputs.")] = False,
    as_json: Json = False,
) -> None:
    """Work out a formula with its working, units and doubt."""
    try:
        if list_all or id is None:
            everything = listed(list(CALCULATORS.values()))
            if as_json:
                print(json.dumps(everything, ensure_ascii=False))
            else:
                for c in CALCULATORS.values():
                    print(
                        f"{c.id:24} {c.title}: {', '.join([i.name for i in c.inputs] + list(c.choices) + ([c.lists] if c.lists else []))}"
                    )
            return
        given = []
        for word in inputs or []:
            name, sign, text = word.partition("=")
            if not sign:
                raise CalculationRefused(f'“{word}” is not an input; write name="value unit".', code="input_form", where=word)
            given.append((name.strip(), text.strip()))
        gravity = read_text(g, "acceleration", "m/s²").si_value
        answer = calculate(id, given, g=gravity)
    except CoreError as error:
        refused(error, as_json)
    shape = {
        "id": answer.id,
        "inputs": {n: {"value": v.value, "unit": v.unit} for n, v in answer.inputs.items()},
        "outputs": {n: {"value": v.value, "unit": v.unit, "uncertainty": v.doubt} for n, v in answer.outputs.items()},
        "working": list(answer.working),
        "assumptions": list(answer.assumptions),
        "source": answer.source,
    }
    if as_json:
        print(json.dumps(shape, ensure_ascii=False, allow_nan=False))
    else:
        print(*answer.working, *(f"Assumes: {a}" for a in answer.assumptions), f"Source: {answer.source}", sep="\n")


COMMANDS: dict[str, Callable[..., None]] = {"calc": calc_command}
