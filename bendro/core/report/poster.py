"""The sentences of a poster and of a report: every part begins with what is known, and the class may write its own over it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..measuring.zones import score_name
from ..planning.draft import Draft
from ..planning.following import said_next
from ..planning.ideas import kept_same
from ..results import Analysis, Finding
from .podium import Step

Part = Literal["who", "predicted", "found", "kept_same", "how_sure", "fairer", "next", "method", "conclusion", "name", "for_whom", "does", "packed"]
PARTS: tuple[Part, ...] = ("who", "predicted", "found", "kept_same", "how_sure", "fairer", "next", "method", "conclusion", "name", "for_whom", "does", "packed")
#: On a poster so many doubts are named; the report has all.
DOUBTS = 2
#: In which order trials were run, as a method says it.
_ORDER = {"blocks": "in shuffled order, block by block", "listed": "one level after the other", "random": "all shuffled together", "unknown": "in an order that the table does not tell"}
#: By which school a report was judged, and by what a level is known; what was only supposed beside it is never shown in one.
_JUDGED = {"shuffle": "by shuffling the readings among the levels", "interval": "by 95 % intervals", "ranges": "by whether ranges touch"}
_RESULT = {"mean": "mean", "median": "median", "best": "best trial", "total": "total"}
#: How a conclusion begins at each reading level.
_STEMS: dict[str, tuple[str, ...]] = {
    "first": ("We found that", "We think this is because", "Next time we would"),
    "middle": ("The trials show that", "This fits our prediction because / does not fit our prediction because", "It would be fairer if", "Next we would change"),
    "senior": ("The evidence supports / does not support the prediction, because", "A physical explanation is", "The largest uncertainty comes from", "It could be reduced by", "A further test would"),
}  # fmt: skip
#: What a marker looks for in a report.
_MARKER = {
    "first": ("The question says what was changed and what was measured.", "The trials stand in a table with units.", "The conclusion says what was found."),
    "middle": ("One thing was changed; what was kept the same is listed.", "Repeats, a mean and the spread are shown with units.", "The conclusion uses the numbers and goes back to the prediction.", "At least one thing is named that would make it fairer."),
    "senior": ("Variables, controls and their tolerances are stated.", "Uncertainty is given and used in the comparison.", "Voids and anomalies are accounted for.", "The conclusion is no stronger than the evidence.", "A physical explanation is given and limits are named."),
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Sections:
    """What stands on a poster, report and card before anything is written over it. Each is a text; kept_same a list."""

    who: str
    predicted: str
    found: str
    kept_same: tuple[str, ...]
    how_sure: str
    fairer: str
    next: str
    method: tuple[str, ...]
    stems: tuple[str, ...]
    marker: tuple[str, ...]
    does: str


def sections(draft: Draft, a: Analysis, steps: Sequence[Step], *, faults: Sequence[str], conditions: Sequence[str], day: str) -> Sections:
    """The sections of a study from what was analysed. faults: of every void trial, one each. conditions: how things stood, in words. day:
    on which the trials were run, as it is written."""
    return Sections(
        who=" · ".join(p for p in (", ".join(draft.groups[:8]), draft.class_label, day) if p),
        predicted=_predicted(draft),
        found=_sentence(a.verdict.prediction or ""),
        kept_same=tuple(f"{k.name}: {k.how}" if k.how else k.name for k in kept_same(draft)),
        how_sure=_how_sure(draft, a),
        fairer=_fairer(a, faults),
        next=said_next(draft) or a.verdict.next,
        method=_method(draft, a, faults, conditions),
        stems=_STEMS[draft.reading_level],
        marker=_MARKER[draft.reading_level],
        does=_does(draft, steps),
    )


def _sentence(text: str) -> str:
    text = text.strip()
    return text if not text or text[-1] in ".?!" else f"{text}."


def _predicted(draft: Draft) -> str:
    if not draft.prediction.strip():
        return ""
    reason = draft.reason.strip()
    return f"{_sentence(draft.prediction)} {_sentence('Because: ' + reason) if reason else ''}".strip()


def _how_sure(draft: Draft, a: Analysis) -> str:
    kept = [s.n_kept for s in a.levels if s.n_kept]
    each = f"{kept[0]} trials each" if kept and len(set(kept)) == 1 else f"{min(kept)} to {max(kept)} trials each" if kept else "No trials yet"
    timers = f", {draft.measure.timers} timers" if draft.measure.timed and draft.measure.timers > 1 else ""
    word = {"clear": "Luck would hardly do this.", "leaning": "It leans one way, and luck could still have done it.", "cannot_tell": "It cannot be told from luck yet."}
    return f"{each}, {_ORDER[draft.order]}{timers}. {word[a.verdict.answer]}"


def _fairer(a: Analysis, faults: Sequence[str]) -> str:
    doubts: list[Finding] = [f for f in a.audit if f.severity in ("stop", "warn")][:DOUBTS]
    told = [f.do for f in doubts]
    if faults:
        most, n = Counter(faults).most_common(1)[0]
        told.append(f"{len(faults)} {'trial was' if len(faults) == 1 else 'trials were'} void and run again{f' ({most})' if n == len(faults) else f', mostly “{most}”' if n > 1 else ''}.")
    return " ".join(told) or "Nothing was found that made it unfair; more repeats would make it surer."


def _method(draft: Draft, a: Analysis, faults: Sequence[str], conditions: Sequence[str]) -> tuple[str, ...]:
    v, m = draft.variable, draft.measure
    levels = ", ".join(f"{text.strip()}{'' if v.kind == 'name' or not v.unit or v.unit == 'count' else ' ' + v.unit}" for text in v.levels)
    lines = [
        f"Changed: {v.name or 'the level'} ({levels}).",
        _sentence(f"Measured: {m.name or 'the reading'}{'' if m.unit in ('', 'count') else ' in ' + m.unit}. {m.rule.strip()}"),
        f"Each level {draft.repeats} times, {_ORDER[draft.order]}.",
    ]
    lines += [_sentence(f"Start line: {draft.start_line.strip()}")] if draft.start_line.strip() else []
    lines += [_sentence(f"Void when: {draft.void_rule.strip()}")] if draft.void_rule.strip() else []
    if faults:
        lines.append("Void and run again: " + ", ".join(f"{fault} ({n})" for fault, n in Counter(faults).most_common()) + ".")
    lines += [_sentence(f"As it was: {'; '.join(conditions)}")] if conditions else []
    lines.append(f"Judged {_JUDGED[draft.evidence]}; the result of a level is its {_RESULT[draft.result]}, of all kept trials.")
    estimated = sum(s.estimated for s in a.levels)
    return (*lines, f"{estimated} readings are estimates.") if estimated else tuple(lines)


def _does(draft: Draft, steps: Sequence[Step]) -> str:
    if not steps:
        return ""
    best = [s for s in steps if s.place == 1]
    name = score_name(draft.measure) if draft.measure.scale == "zone" else draft.measure.name
    return f"{name[:1].upper()}{name[1:]}: {best[0].number} ({' and '.join(s.label for s in best)})."
