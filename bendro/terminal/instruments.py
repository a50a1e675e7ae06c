"""Simulated instruments from a terminal, sending to a lane that is open on a screen."""

from __future__ import annotations

import secrets
import sys
import time
from typing import Annotated

import typer

from bendro.core.measuring.heard import Instrument
from bendro.instruments.simulate import events


def instrument(
    kind: Annotated[Instrument, typer.Argument(help="gate, scale, meter or sound")],
    code: Annotated[str, typer.Option(help="The code that the lane shows under Instruments")],
    to: Annotated[str, typer.Option(help="Address of Bendro")] = "http://localhost:8713",
    trials: Annotated[int, typer.Option(min=1, max=500)] = 3,
    every_s: Annotated[float, typer.Option(min=0, max=600, help="Seconds between two events")] = 1.0,
    faults: Annotated[bool, typer.Option(help="Lose, double and delay some events")] = False,
    seed: Annotated[int | None, typer.Option(help="The same again with the same number")] = None,
    first: Annotated[int, typer.Option(min=1, help="Number of the first event")] = 1,
    lanes: Annotated[int, typer.Option(min=0, max=6, help="So many let go together, as a heat")] = 0,
) -> None:
    """A simulated instrument: plausible events, sent one by one; what the lane made of each is printed."""
    import httpx  # only here: the other commands start without it

    made = events(kind, trials, seed=secrets.randbits(32) if seed is None else seed, faults=faults, first=first, lanes=lanes)
    for at, event in enumerate(made):
        if at and every_s:
            time.sleep(every_s)
        try:
            answer = httpx.post(f"{to.rstrip('/')}/api/instruments/{code}", content=event.model_dump_json(), headers={"content-type": "text/plain"}, timeout=10)
        except httpx.HTTPError as why:
            print(f"Bendro does not answer at {to}: {why}. Is it started, and is the address right?", file=sys.stderr)
            raise typer.Exit(2) from why
        if answer.status_code != 200:
            print(answer.json()["detail"] if "detail" in answer.text else answer.text, file=sys.stderr)
            raise typer.Exit(2)
        print(answer.text.strip())


COMMANDS = {"instrument": instrument}
