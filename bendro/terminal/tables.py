"""Further commands on a trial table: landing scatter with the two-measure decision, two variables at once, landing order; and the
rota and the cutting of a plan. Registered on the command line by `commands.py`."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Annotated

import typer

from bendro.core.errors import PlanRefused, TableRefused
from bendro.core.planning.cutting import pieces_from_length, pieces_from_sheet
from bendro.core.planning.materials import size_of
from bendro.core.planning.rota import Lesson, make_rota
from bendro.core.readings import combine, convert, read
from bendro.core.statistics.landing import landing, ranks, straighter_without_loss, two_variables
from bendro.core.statistics.power import detectable, repeats_needed
from bendro.core.trials import Trial
from bendro.files.trial_table import TableTrials, parse_table, take_trials

File = Annotated[Path, typer.Argument(help="The trial table (CSV).")]


def _taken(file: Path, factor: str, response: str) -> TableTrials:
    try:
        data = file.read_bytes()
    except OSError as why:
        raise TableRefused(f"“{file}” cannot be opened: {why.strerror}.", code="file_missing", where="file") from why
    return take_trials(parse_table(data), factor, response)


def _kept(taken: TableTrials) -> list[Trial]:
    return [t for t in taken.trials if t.counts and t.value is not None]


def landing_command(
    file: File,
    factor: Annotated[str, typer.Option()],
    along: Annotated[str, typer.Option(help="Column of the distance along the line.")],
    off: Annotated[str, typer.Option(help="Column of the distance off the line; left counts below zero.")],
    margin: Annotated[str, typer.Option(help="Loss of distance that is bearable, such as 30 cm.")] = "",
) -> None:
    """Landing scatter of every level, and whether the last flies straighter than the first without losing distance."""
    first, second = _taken(file, factor, along), _taken(file, factor, off)
    unit = first.unit or ""
    sideways = {t.row: t.value for t in _kept(second)}
    points: dict[object, tuple[list[float], list[float]]] = {}
    for t in _kept(first):
        if t.row in sideways:
            where = points.setdefault(t.level, ([], []))
            where[0].append(float(t.value or 0.0))
            where[1].append(_in(float(sideways[t.row] or 0.0), second.unit, unit))
    if len(points) < 2:
        raise TableRefused("Landing needs two levels whose trials have both distances.", code="landing_thin", where="factor")
    for level, (a, o) in points.items():
        s = landing(a, o)
        spread = "–" if s.sd_along is None or s.sd_off is None else f"{s.sd_along:.3g} along, {s.sd_off:.3g} off"
        print(
            f"{level}: n {s.n}, middle {s.mean_along:.4g} {unit} along and {s.mean_off:.3g} off, SD {spread}, half within {s.half_radius:.3g} {unit}"
        )
    if margin:
        ends = list(points.values())
        bearable = read(margin, "length", unit or None).to(unit or "m")
        print(straighter_without_loss(ends[0], ends[-1], bearable).says)


def _in(value: float, unit: str | None, to: str) -> float:
    return convert(value, unit, to) if unit and to else value


def two_command(
    file: File,
    first: Annotated[str, typer.Option(help="The first variable.")],
    second: Annotated[str, typer.Option(help="The second variable.")],
    response: Annotated[str, typer.Option()],
) -> None:
    """Two planned variables at once: both main effects and whether one depends on the other."""
    a, b = _taken(file, first, response), _taken(file, second, response)
    other = {t.row: t.level for t in _kept(b)}
    rows = [t for t in _kept(a) if t.level is not None and other.get(t.row) is not None]
    found = two_variables(
        [float(t.value or 0.0) for t in rows], [t.level or "" for t in rows], [other[t.row] or "" for t in rows], (first, second)
    )
    print(f"{first}: p = {found.p_first:.4g}; {second}: p = {found.p_second:.4g}; together: p = {found.p_interaction:.4g}")
    print(found.says)


def ranks_command(
    file: File,
    heat: Annotated[str, typer.Option(help="Column of the heat.")],
    device: Annotated[str, typer.Option(help="Column of the device.")],
    order: Annotated[str, typer.Option(help="Column of the landing order, or of a time.")],
) -> None:
    """Mean ranks of devices let go together, with Friedman's test and Kendall's W."""
    by_device, by_heat = _taken(file, device, order), _taken(file, heat, order)
    heat_of = {t.row: t.level for t in _kept(by_heat)}
    heats: dict[object, dict[str, float]] = {}
    for t in _kept(by_device):
        heats.setdefault(heat_of.get(t.row), {})[str(t.level)] = float(t.value or 0.0)
    found = ranks(list(heats.values()))
    for name, rank in sorted(found.mean_ranks.items(), key=lambda p: p[1]):
        print(f"{name}: mean rank {rank:.3g}")
    if found.chi2 is not None:
        print(f"Friedman chi² = {found.chi2:.4g}, p = {found.p:.4g}, Kendall’s W = {found.kendall_w:.3g}")


def timers_command(
    times: Annotated[list[str], typer.Argument(help="One time from each timer.")],
    bias: Annotated[str, typer.Option(help="Each timer’s known lateness, with commas between.")] = "",
) -> None:
    """Several timers on one fall made into one time; a timer that stands apart is pointed out."""
    late = [read(b, "time", "s", signed=True).to("s") for b in bias.split(",") if b.strip()] or None
    found = combine([read(t, "time", "s").to("s") for t in times], bias=late)
    print(f"{found.value:.4g} s ({found.method} of {len(times)})")
    for at in found.flagged:
        print(f"Timer {at + 1} ({times[at]}) stands apart: was there a slip? It still counts.")


def repeats_command(
    difference: Annotated[float, typer.Option(help="The difference that should be seen.")],
    sd: Annotated[float, typer.Option(help="Standard deviation of repeats, in the same unit.")],
    have: Annotated[int, typer.Option(help="Repeats at each level so far.")] = 0,
) -> None:
    """How many repeats at each level show a difference in four of five studies, and what the present ones could have seen."""
    wanted = repeats_needed(difference, sd)
    print(f"{wanted} at each level." if wanted else "More than a class can run: change the variable further or measure more finely.")
    seen = detectable(have, sd) if have >= 2 else None
    if seen is not None:
        print(f"With {have} at each level a difference of {seen:.3g} would have shown.")


def rota_command(
    groups: Annotated[str, typer.Argument(help="Labels with commas between.")],
    lanes: Annotated[int, typer.Option()] = 1,
    adults: Annotated[int, typer.Option()] = 1,
    build: Annotated[int, typer.Option(help="Minutes.")] = 10,
    test: Annotated[int, typer.Option(help="Minutes.")] = 5,
    improve: Annotated[int, typer.Option(help="Minutes.")] = 5,
    rounds: Annotated[int, typer.Option()] = 2,
    tidy: Annotated[int, typer.Option(help="Minutes.")] = 5,
    lesson: Annotated[int, typer.Option(help="Minutes in all.")] = 50,
    without_adults: Annotated[bool, typer.Option("--without-adults", help="Lanes need no adult of their own.")] = False,
) -> None:
    """The shortest lesson rota: who builds, tests and improves when, and what would make it fit."""
    found = make_rota(
        Lesson(
            groups=tuple(g.strip() for g in groups.split(",") if g.strip()),
            lanes=lanes,
            adults=adults,
            adult_needed=not without_adults,
            build=build,
            test=test,
            improve=improve,
            rounds=rounds,
            tidy=tidy,
            minutes=lesson,
        )
    )
    print(found.says, found.change or "")
    for s in found.sittings:
        if s.what == "test":
            print(f"{s.start:3d} to {s.end:3d} min  lane {s.lane}  {s.group}")


def cut_command(
    stock: Annotated[str, typer.Argument(help="A length (10 m) or a sheet (42 x 59.4 cm).")],
    piece: Annotated[str, typer.Argument(help="A length (50 cm) or a rectangle (12 x 18 cm).")],
) -> None:
    """How many pieces one length or one sheet gives, and what is left."""
    sides: Sequence[str] = [t for t in (stock, piece) if any(mark in t for mark in (" x ", "×", " by "))]
    if len(sides) == 1:
        raise PlanRefused("Either both are lengths or both are rectangles.", code="cut_inputs")
    if not sides:
        whole, part = read(stock, "length").to("mm"), read(piece, "length").to("mm")
        n = pieces_from_length(whole, part)
        print(f"{n} pieces; {100 * (1 - n * part / whole):.0f} % is offcut.")
        return
    found = pieces_from_sheet(size_of(stock), size_of(piece))
    print(f"{found.count} pieces; {100 * found.waste:.0f} % is offcut.")


COMMANDS: dict[str, Callable[..., None]] = {
    "landing": landing_command,
    "two": two_command,
    "ranks": ranks_command,
    "timers": timers_command,
    "repeats": repeats_command,
    "rota": rota_command,
    "cut": cut_command,
}
