"""Further commands: a pupil's sum, lesson time, packs, rehearsal. Registered on the command line by `commands.py`."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

import typer

from bendro.core.errors import PlanRefused
from bendro.core.judgement.pupil_sum import check_sum
from bendro.core.planning.arithmetic import Pack, cheapest_packs, lesson_time
from bendro.core.planning.rehearsal import rehearse
from bendro.core.readings import read


def _numbers(text: str) -> tuple[list[float], float]:
    """Numbers with commas (or semicolons) between, and the finest step written."""
    parts = [read(part, "number", "") for part in (text.split(";") if ";" in text else text.split(",")) if part.strip()]
    return [p.value for p in parts], min((p.resolution for p in parts), default=1.0)


def sum_command(
    answer: Annotated[str, typer.Argument(help="The pupil’s average.")],
    readings: Annotated[str, typer.Option(help="Kept readings with commas between.")],
    void: Annotated[str, typer.Option(help="Void readings with commas between.")] = "",
) -> None:
    """Check a pupil's average and name the slip."""
    kept, step = _numbers(readings)
    found = check_sum(answer, kept, _numbers(void)[0], step=step)
    print(found.says, *found.working, sep="\n")


def time_command(
    levels: Annotated[int, typer.Option()],
    repeats: Annotated[int, typer.Option()],
    lanes: Annotated[int, typer.Option()] = 1,
    setup: Annotated[float, typer.Option(help="Seconds to set up one trial.")] = 40,
    flight: Annotated[float, typer.Option(help="Seconds.")] = 5,
    reading: Annotated[float, typer.Option(help="Seconds to read and write.")] = 20,
    reset: Annotated[float, typer.Option(help="Seconds.")] = 15,
    lesson: Annotated[float, typer.Option(help="Minutes for trials.")] = 25,
) -> None:
    """How long the trials take, and the smallest change that makes them fit."""
    found = lesson_time(
        levels=levels, repeats=repeats, lanes=lanes, setup_s=setup, flight_s=flight, reading_s=reading, reset_s=reset, lesson_min=lesson
    )
    print(found.change or f"It takes {found.minutes:.0f} min and fits.")


def packs_command(
    need: Annotated[float, typer.Argument(help="Amount needed.")],
    packs: Annotated[list[str], typer.Argument(help="Packs as NAME=SIZE@PRICE.")],
) -> None:
    """The cheapest packs to buy, and what is left over."""
    made = []
    for text in packs:
        name, equals, rest = text.partition("=")
        size, at, price = rest.partition("@")
        if not equals or not at:
            raise PlanRefused(f"“{text}” is not a pack; write NAME=SIZE@PRICE, such as roll=10@2.50.", code="packs_inputs", where=text)
        made.append(Pack(name=name, size=read(size, "number", "").value, price=read(price, "number", "").value))
    found = cheapest_packs(need, made)
    for pack, count, unit in zip(made, found.counts, found.unit_prices, strict=True):
        print(f"{count} × {pack.name} ({unit:.4g} each unit)")
    print(f"cost {found.cost:g}, left over {found.left_over:g}, best unit price: {found.best_unit_price}")


def rehearse_command(
    family: Annotated[str, typer.Argument()],
    variable: Annotated[str, typer.Argument()],
    measure: Annotated[str, typer.Argument()],
    levels: Annotated[str, typer.Option(help="Levels with commas between.")],
    repeats: Annotated[int, typer.Option()] = 5,
    timers: Annotated[int, typer.Option()] = 1,
    seed: Annotated[int, typer.Option()] = 1,
) -> None:
    """Play a study through with likely readings: would so many repeats show the effect?"""
    numbers = _numbers(levels)[0]
    found = rehearse(family, variable, measure, numbers, repeats, timers=timers, seed=seed)
    for level, mean, sd, row in zip(numbers, found.expected, found.sd, found.readings, strict=True):
        print(f"{level:g}: about {mean:.3g} ± {sd:.2g}; likely {', '.join(f'{v:.3g}' for v in row)}")
    print(found.says)


COMMANDS: dict[str, Callable[..., None]] = {"sum": sum_command, "time": time_command, "packs": packs_command, "rehearse": rehearse_command}
