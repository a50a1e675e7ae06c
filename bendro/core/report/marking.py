"""What is missing in a class's report, for the teacher who reads many of them at once."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ..draft import Draft
from ..planning.ideas import kept_same
from ..results import Analysis

#: Words by which a conclusion says more than trials can (common practice of markers).
TOO_SURE = ("prove", "proof", "definitely", "certainly", "always", "without doubt", "100%", "100 %")
#: Parts in which a conclusion may stand, where it has no part of its own.
CONCLUDES = ("found", "how_sure", "besides")
#: A conclusion of fewer words says nothing yet.
FEW_WORDS = 6


def missing(draft: Draft, a: Analysis, texts: Mapping[str, str], without: Sequence[str], *, planned: int) -> tuple[str, ...]:
    """In sentences, the most telling first. draft, a: as they were when the report was made. texts: what the class wrote over its parts;
    without: parts that were left out; planned: trials of the plan."""
    found: list[str] = []
    kept = sum(s.n_kept for s in a.levels)
    # the group's own words count wherever on the page they wrote them
    whole = " ".join(t.strip() for t in texts.values() if t.strip())
    conclusion = texts.get("conclusion", "").strip() or " ".join(texts[p].strip() for p in CONCLUDES if texts.get(p, "").strip())
    if len(conclusion.split()) < FEW_WORDS:
        found.append("No conclusion is written." if not conclusion else "The conclusion is only begun.")
    elif a.verdict.answer != "clear" and any(w in conclusion.casefold() for w in TOO_SURE):
        found.append("The conclusion says more than the trials can: the verdict is not clear.")
    elif not any(c.isdigit() for c in whole) and draft.reading_level != "first":
        found.append("The conclusion names no number.")
    predicted = f"{draft.prediction} {draft.reason} {texts.get('predicted', '')}"
    if not draft.prediction.strip() and not texts.get("predicted", "").strip():
        found.append("No prediction was made.")
    elif not draft.reason.strip() and "because" not in predicted.casefold():
        found.append("The prediction has no reason.")
    elif len(conclusion.split()) >= FEW_WORDS and not any(w in whole.casefold() for w in ("predict", "thought", "expected")) and draft.reading_level != "first":
        found.append("The conclusion does not go back to the prediction.")
    if kept < planned:
        found.append(f"{kept} of {planned} planned trials are in it.")
    if not draft.measure.rule.strip():
        found.append("It does not say how the reading was taken.")
    unsaid = [k.name for k in kept_same(draft) if not k.how]
    if unsaid and not texts.get("kept_same", "").strip():
        found.append(f"How {unsaid[0]} was kept the same is not said." if len(unsaid) == 1 else f"How {len(unsaid)} things were kept the same is not said.")
    if "fairer" in without:
        found.append("What would make it fairer was left out.")
    if not texts.get("next", "").strip() and not draft.decided.change.strip():
        found.append("What they would change next is not in their own words.")
    return tuple(found)
