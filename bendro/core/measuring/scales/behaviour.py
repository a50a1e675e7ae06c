"""How a device behaved: words of its family, several may hold."""

from __future__ import annotations

from collections.abc import Sequence

from ...draft import MeasureDraft
from ..taking import MOST_WORDS, TimersBy, Told
from .rules import ScaleRules


class Behaviour(ScaleRules):
    """Words that are noted beside what is measured; they do not answer a question."""

    name = "behaviour"
    shape = "behaviour"
    worded = True
    answers = False

    def understand(self, measure: MeasureDraft, texts: Sequence[str], *, unit: str | None, by: TimersBy, how: str) -> Told | None:
        words = tuple(dict.fromkeys(" ".join(t.split())[:60] for t in texts if t.strip()))
        return Told(words=words[:MOST_WORDS]) if words else None
