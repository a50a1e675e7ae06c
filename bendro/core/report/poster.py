"""The parts of a poster, a report and a product card: what of a conclusion each shows, and what the class may write over it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..conclusion.concluded import SURE, best_said
from ..conclusion.model import Conclusion
from ..draft import Draft
from ..planning.following import said_next
from ..results import Finding
from ..written import sentence

Part = Literal["who", "predicted", "found", "kept_same", "how_sure", "fairer", "next", "method", "conclusion", "name", "for_whom", "does", "packed", "besides"]
PARTS: tuple[Part, ...] = ("who", "predicted", "found", "kept_same", "how_sure", "fairer", "next", "method", "conclusion", "name", "for_whom", "does", "packed", "besides")
#: What a class may take in besides, where there is something of it: how devices behaved, what went wrong, the line of versions, what each group says in its own words.
Further = Literal["behaviours", "faults", "versions", "groups"]
#: On a poster so many doubts are named; the report has all.
DOUBTS = 2
#: How a conclusion begins at each reading level.
_STEMS: dict[str, tuple[str, ...]] = {
    "first": ("We found that", "We think this is because", "Next time we would"),
    "middle": ("The trials show that", "This fits our prediction because / does not fit our prediction because", "It would be fairer if", "Next we would change"),
    "senior": ("The evidence supports / does not support the prediction, because", "A physical explanation is", "The largest uncertainty comes from", "It could be reduced by", "A further test would"),
}  # fmt: skip
#: What was found of how the readings were taken belongs to how sure one is.
_HOW_READ = ("all_estimated", "estimated_mixed_with_measured")
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
    besides: tuple[str, ...]
    stems: tuple[str, ...]
    marker: tuple[str, ...]
    does: str
    groups: tuple[str, ...] = ()


def sections(draft: Draft, c: Conclusion, *, day: str, groups: tuple[str, ...] = ()) -> Sections:
    """The parts of a conclusion in their places. day: on which the trials were run, as it is written; groups: what each says in its own words."""
    return Sections(
        who=" · ".join(p for p in (", ".join(draft.groups[:8]), draft.class_label, day) if p),
        predicted=_predicted(draft),
        found=sentence(c.prediction),
        kept_same=tuple(k.says for k in c.kept_same),
        how_sure=" ".join([c.as_run.short, *([c.as_run.line] if c.as_run.line else []), *(f.says for f in c.doubts if f.code in _HOW_READ), SURE[c.answer]]),
        fairer=_fairer(c),
        next=said_next(draft) or c.next,
        method=(*c.as_run.lines, *c.as_run.not_followed),
        besides=(*(b.says for b in c.besides), *((c.two_measures,) if c.two_measures else ()), *(a.says for a in c.against)),
        stems=_STEMS[draft.reading_level],
        marker=_MARKER[draft.reading_level],
        does=best_said(draft, c),
        groups=groups,
    )


def _predicted(draft: Draft) -> str:
    if not draft.prediction.strip():
        return ""
    reason = draft.reason.strip()
    because = reason if reason.casefold().startswith("because") else f"Because: {reason}"
    return f"{sentence(draft.prediction)} {sentence(because) if reason else ''}".strip()


def _fairer(c: Conclusion) -> str:
    doubts: Sequence[Finding] = [f for f in c.doubts if f.severity in ("stop", "warn")][:DOUBTS]
    told = [f.do for f in doubts]
    void = sum(n.void for n in c.numbers)
    if void:
        # of one trial its count is said already
        each = "; ".join(f"{f.label}: {f.says.removesuffix(' 1') if void == 1 else f.says}" for f in c.faults[:3])
        told.append(f"{void} {'trial was' if void == 1 else 'trials were'} void{f' ({each})' if each else ''}.")
    return " ".join(told) or "The checks that could be made found no doubt; more repeats would make it surer."
