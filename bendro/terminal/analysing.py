"""`bin/bendro analyse`: a trial table, or a data package of a study, judged without the server."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any, Literal

import typer

from bendro.core.analyse import analyse
from bendro.core.context import Context
from bendro.core.errors import CoreError, TableRefused
from bendro.core.readings import read as read_text
from bendro.core.results import Analysis, GroupsEffect, SurvivalEffect
from bendro.files.trial_table import parse_table, take_trials

from .refusing import Json, refused

#: Keys of an analysis that only a page needs: numbers written for its tables, controls, the pieces of a sentence.
_FOR_SCREENS = frozenset({"shown", "places", "reading_places", "total_places", "act", "spans", "more", "in_numbers", "caps", "design", "drawn"})


def _without(value: Any, keys: frozenset[str]) -> Any:
    if isinstance(value, dict):
        # the places of a ranking are a result; those of a level are decimals
        return {k: _without(v, keys) for k, v in value.items() if (k not in keys or (k == "places" and isinstance(v, list))) and not (k == "near_end" and v is None)}
    return [_without(v, keys) for v in value] if isinstance(value, list) else value


def analysis_json(analysis: Analysis) -> dict[str, Any]:
    """The contract's JSON: keys of an effect that were not asked for are left out, and what is only for screens; numbers without
    an answer stay null."""
    found: dict[str, Any] = _without(analysis.model_dump(mode="json"), _FOR_SCREENS)
    optional = {"blocked", "paired", "friedman", "adjusted_for", "p", "bound", "half_height_ci95"}
    body: Any = found["effect"].get(found["effect"]["kind"] if found["effect"]["kind"] != "paired" else "difference")
    if isinstance(body, dict):
        for key in optional & {k for k, v in body.items() if v is None}:
            if not (key == "friedman" and isinstance(analysis.effect, GroupsEffect) and analysis.effect.groups.blocked):
                del body[key]
    found["ranking"] = [
        {"level": r.level, "place": r.place, "result": r.value, "apart_from_next": r.apart_from_next, "outside": r.outside} for r in analysis.ranking
    ]
    return found


def analyse_command(
    file: Annotated[Path, typer.Argument(help="A trial table (CSV), or a data package (.zip) of a study.")],
    factor: Annotated[str | None, typer.Option(help="Column of the variable that was changed; a package knows its own.")] = None,
    response: Annotated[str | None, typer.Option(help="Column of the reading, or `outcome`; a package knows its first measure.")] = None,
    treat_as: Annotated[Literal["number", "group"] | None, typer.Option(help="Take the levels as numbers (a trend) or as groups.")] = None,
    pair_by: Annotated[str | None, typer.Option(help="Compare within this column.")] = None,
    adjust_for: Annotated[str | None, typer.Option(help="A numeric column to hold equal.")] = None,
    evidence: Annotated[Literal["shuffle", "interval", "ranges"], typer.Option(help="When a difference is real.")] = "shuffle",
    level: Annotated[Literal["first", "middle", "senior"], typer.Option(help="Reading level of the sentences.")] = "middle",
    better: Annotated[Literal["high", "low"], typer.Option(help="Which end of the reading is best.")] = "high",
    survived: Annotated[str | None, typer.Option(help="Outcomes that count as survival, with commas between.")] = None,
    hold: Annotated[
        list[str] | None, typer.Option(help="A column meant to stay the same, NAME or NAME=TOLERANCE; may be repeated.")
    ] = None,
    skip_bad: Annotated[bool, typer.Option("--skip-bad", help="Leave bad cells out and list them.")] = False,
    as_json: Json = False,
) -> None:
    """Describe every level, weigh the effect, and give the verdict."""
    if file.suffix.casefold() == ".zip":
        _packed(file, response, factor, as_json)
        return
    try:
        if factor is None or response is None:
            raise TableRefused("Name the column of the variable with --factor and that of the reading with --response.", code="column_missing", where="factor" if factor is None else "response")
        table = parse_table(_bytes_of(file))
        also = [c for c in (adjust_for,) if c]
        if pair_by:
            also.append(pair_by)
        taken = take_trials(table, factor, response, treat_as=treat_as, skip_bad=skip_bad, also=also)
        held = {table.column(n).name: _tolerance(t) for n, _, t in (h.partition("=") for h in hold or [])}
        scale = None if survived is None else frozenset(w.strip().casefold() for w in survived.split(","))
        analysis = analyse(
            taken.trials,
            Context(
                factor=taken.factor.name,
                factor_unit=taken.factor_unit,
                response=taken.response.name.lower() if taken.response.name.casefold() == "outcome" else taken.response.name,
                unit=taken.unit,
                treat_as=treat_as,
                pair_by=None if pair_by is None else _named(table.column(pair_by).name),
                adjust_for=None if adjust_for is None else _named(table.column(adjust_for).name),
                evidence=evidence,
                reading=level,
                best_is=better,
                survived_when=scale,
                hold=held,
            ),
            skipped=taken.skipped,
        )
    except CoreError as error:
        refused(error, as_json)
    if as_json:
        print(json.dumps(analysis_json(analysis), ensure_ascii=False, allow_nan=False))
    else:
        _print_analysis(analysis)


def _packed(file: Path, response: str | None, factor: str | None, as_json: bool) -> None:
    """A data package knows all that a page knows, so it says the same words."""
    from . import verdict  # a table needs none of it

    try:
        made = verdict.concluded_of(verdict.packed(file), response, factor)
    except CoreError as error:
        refused(error, as_json)
    if as_json:
        print(json.dumps(analysis_json(made.found), ensure_ascii=False, allow_nan=False))
    else:
        verdict.say(made)


def _tolerance(text: str) -> float | None:
    return read_text(text, "number", "").value if text.strip() else None


def _named(column: str) -> str:
    return column.casefold() if column.casefold() in ("trial", "block", "group", "device", "person") else column


def _bytes_of(file: Path) -> bytes:
    try:
        return file.read_bytes()
    except OSError as why:
        raise TableRefused(f"“{file}” cannot be opened: {why.strerror}.", code="file_missing", where="file") from why


def _print_analysis(a: Analysis) -> None:
    unit = f" / {a.response.unit}" if a.response.unit else ""
    print(a.verdict.headline)
    more = "".join(span.text for span in a.verdict.more).strip()
    if more:
        print(more)
    if a.verdict.detail:
        print(a.verdict.detail)
    print(f"Next: {a.verdict.next}\n")
    head = [
        a.factor.name + (f" / {a.factor.unit}" if a.factor.unit else ""),
        "n",
        "void",
        f"mean{unit}",
        "median",
        "± half range",
        "SD",
        "95 % interval",
    ]
    rows = [
        [
            _cell(s.level),
            str(s.n_kept),
            str(s.n_void),
            _cell(s.mean),
            _cell(s.median),
            _cell(s.half_range),
            _cell(s.sd),
            "–" if s.ci95 is None else f"{_cell(s.ci95[0])} to {_cell(s.ci95[1])}",
        ]
        for s in a.levels
    ]
    if isinstance(a.effect, SurvivalEffect):
        head = [head[0], "survived", "of", "95 % (Wilson)", "95 % (exact)"]
        rows = [[_cell(s.level), str(s.survived), str(s.n), _shares(s.wilson95), _shares(s.exact95)] for s in a.effect.survival.levels]
    widths = [max(len(r[i]) for r in [head, *rows]) for i in range(len(head))]
    for row in [head, *rows]:
        print("  ".join(c.ljust(w) if i == 0 else c.rjust(w) for i, (c, w) in enumerate(zip(row, widths, strict=True))))
    print()
    for f in a.audit:
        print(f"{f.severity:5} {f.says} {f.do}")
    if not a.audit:
        print(f"Checked and clean: {', '.join(a.audit_checked)}.")
    for s in a.skipped:
        print(f"left out: {s}")
    print("A table does not tell the plan: whether trials are still to come, what was agreed to stay the same, what each version was made from. A data package does.")


def _shares(interval: tuple[float, float]) -> str:
    return f"{100 * interval[0]:.0f} to {100 * interval[1]:.0f} %"


def _cell(value: float | str | None) -> str:
    return "–" if value is None else value if isinstance(value, str) else f"{value:.6g}"


COMMANDS: dict[str, Callable[..., None]] = {"analyse": analyse_command}
