"""Verdicts of whole studies from a terminal: from a data package, or from the data folder of this machine."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

import typer

from bendro import ROOT, __version__
from bendro.core.analyse import analyse
from bendro.core.asking import asked_of
from bendro.core.conclusion.concluded import conclude
from bendro.core.conclusion.model import Conclusion
from bendro.core.conclusion.why import why
from bendro.core.errors import TableRefused
from bendro.core.record.responses import FactorSeen, ResponseSeen, factors_of, responses_of
from bendro.core.record.study import StudyRecord
from bendro.core.results import Analysis
from bendro.core.words import said

USUAL = ROOT / ".data"


@dataclass(frozen=True, slots=True, kw_only=True)
class Concluded:
    """A study's record, the analysis that was asked for, and the conclusion."""

    record: StudyRecord
    found: Analysis
    conclusion: Conclusion
    response: str


def concluded_of(record: StudyRecord, response: str | None = None, factor: str | None = None) -> Concluded:
    """What a record says. response, factor: names, as they are called in the plan; None for the first measure over the variable. Raises
    CoreError."""
    one, over = _response(record, response), _factor(record, factor)
    kept: dict[str, Analysis] = {}

    def analysed(measure: str) -> Analysis:
        kept[measure] = analyse(*asked_of(record, measure))
        return kept[measure]

    conclusion = conclude(record, analysed, core=__version__)
    same = one.id == record.draft.measure.id and not over.id
    found = kept[""] if same else analyse(*asked_of(record, one.id, over.id))
    return Concluded(record=record, found=found, conclusion=conclusion, response=one.id)


def _response(record: StudyRecord, name: str | None) -> ResponseSeen:
    all_of = responses_of(record.draft)
    found = all_of[0] if name is None else next((r for r in all_of if said(r.name) == said(name) or r.id == name), None)
    if found is None:
        raise TableRefused(f"The study measures no “{name}”; it has {', '.join(r.name for r in all_of)}.", code="measure_unknown", where="response")
    return found


def _factor(record: StudyRecord, name: str | None) -> FactorSeen:
    all_of = factors_of(record.draft, record.trials)
    found = all_of[0] if name is None else next((f for f in all_of if said(f.name) == said(name) or f.id == name), None)
    if found is None:
        raise TableRefused(f"Trials cannot be compared over “{name}”; there is {', '.join(f.name for f in all_of)}.", code="factor_unknown", where="factor")
    return found


def packed(file: Path) -> StudyRecord:
    """The record in a data package. Raises CoreError."""
    from bendro.actions.packages import record_in  # only here: the other commands start without it

    try:
        return record_in(file.read_bytes())[0]
    except OSError as why_not:
        raise TableRefused(f"“{file}” cannot be opened: {why_not.strerror}.", code="file_missing", where="file") from why_not


def verdict_command(
    study: Annotated[str, typer.Argument(help="A data package (.zip), or the title or id of a study of this machine.")],
    reasons: Annotated[bool, typer.Option("--why", help="The trials as given, what was asked, each doubt, and what decided.")] = False,
    response: Annotated[str | None, typer.Option(help="Another measure than the first.")] = None,
    data: Annotated[Path, typer.Option(help="Folder of the data, as bin/start has it")] = USUAL,
) -> None:
    """Say what a study found, and with --why how that came about."""
    if study.endswith(".zip"):
        record = packed(Path(study))
    else:
        from bendro.terminal.export import with_study

        with with_study(study, data) as found:
            if found is None:
                raise typer.Exit(2)
            from bendro.actions.analysing import record_of

            record = record_of(*found)
    made = concluded_of(record, response)
    say(made)
    if reasons:
        print()
        print("\n".join(why(record, made.found, made.response)))


def say(made: Concluded) -> None:
    """A conclusion in sentences, word for word as the pages have it."""
    c, v = made.conclusion, made.found.verdict
    print(v.headline)
    for more in ("".join(s.text for s in v.more).strip(), v.detail, c.as_run.short, c.as_run.line, *c.as_run.not_followed, *(b.says for b in c.besides), *(a.says for a in c.against[1:])):
        if more:
            print(more)
    print(f"Next: {v.next}")


COMMANDS: dict[str, Callable[..., None]] = {"verdict": verdict_command}
