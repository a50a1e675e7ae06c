"""An agreed ordered list of words, with the line above which a device survived."""

from __future__ import annotations

from collections.abc import Sequence

from ...draft import MeasureDraft
from ...errors import CoreError
from ...problem import Problem
from ...words import said
from ..taking import TimersBy, Told
from .rules import ScaleRules


class Outcome(ScaleRules):
    """One of the agreed words, the best first."""

    name = "outcome"
    shape = "survival"
    worded = True
    best = "high"
    column = "outcome"

    def understand(self, measure: MeasureDraft, texts: Sequence[str], *, unit: str | None, by: TimersBy, how: str) -> Told | None:
        word = next((" ".join(t.split()) for t in texts if t.strip()), None)
        if word is None:
            return None
        found = next((w for w in measure.words if w.strip().casefold() == word.casefold()), None)
        if found is None:
            known = ", ".join(measure.words) or "none yet: agree them in the plan"
            raise CoreError(f"“{word}” is not on the agreed scale ({known}). Choose one of these words.", code="outcome_unknown", where="reading")
        return Told(words=(found.strip(),))

    def problems(self, measure: MeasureDraft, where: str) -> list[Problem]:
        words = [said(w) for w in measure.words]
        if len(words) < 2 or any(not w for w in words) or len(set(words)) < len(words):
            says = "Agree at least two outcomes in words, the best first, each once: untouched, hairline, cracked."
            return [Problem(code="outcome_words", where=f"{where}.words", says=says)]
        if not 1 <= measure.survived < len(words):
            says = "Say down to which outcome it counts as survived: teachers differ on a hairline crack, so there is no default."
            return [Problem(code="survived_line", where=f"{where}.survived", says=says)]
        return []
