"""A class that plays itself, from a terminal: `bin/bendro class CODE`."""

from __future__ import annotations

import sys
from typing import Annotated

import typer


def play(
    code: Annotated[str, typer.Argument(help="The six signs on the wall")],
    to: Annotated[str, typer.Option(help="Address of Bendro")] = "http://localhost:8713",
    timers: Annotated[int, typer.Option(min=0, max=12, help="Phones that only time")] = 4,
    seed: Annotated[int, typer.Option(help="The same class again with the same number")] = 1,
    speed: Annotated[float, typer.Option(min=0.1, max=1_000, help="So many times as quick as a class")] = 4.0,
    most: Annotated[int | None, typer.Option(min=1, help="Trials that a group keeps at most")] = None,
) -> None:
    """Groups and timers come in by the code and run the lesson, as a real class would: to see the desk alive before the first real lesson."""
    import asyncio  # only here: the other commands start without them

    from bendro.demo.players.device import Refused
    from bendro.demo.players.lesson import run_class

    try:
        kept = asyncio.run(run_class(to, code, timers=timers, seed=seed, speed=speed, most=most, tell=lambda line: print(line, flush=True)))
    except Refused as why:
        print(str(why), file=sys.stderr)
        raise typer.Exit(2) from why
    except KeyboardInterrupt:
        return
    print(f"{kept} trials were kept.")


COMMANDS = {"class": play}
