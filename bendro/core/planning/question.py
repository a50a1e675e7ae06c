"""Which way is better, as the question of a study has it."""

from __future__ import annotations

import re

from ..trials import Better

_PLACES = {"low": re.compile(r"\bfirst\b", re.I), "high": re.compile(r"\blast\b", re.I)}
#: What a question says of a time. "Longer" and "shorter" alone are words of the variable, so they count only beside staying up.
_TIMES = {
    "low": re.compile(r"\b(lands?|landing|down|there|reach(es)?|arrives?|falls?|finish(es)?|comes?)\b[^.?]*\bfirst\b|\bfirst (to|down)\b|\b(fastest|quickest|soonest|sooner)\b|\b(falls?|lands?|drops?|comes? down|rolls?|runs?|goes?|travels?|lifts?)\b[^.?]*\b(faster|quicker)\b", re.I),
    "high": re.compile(r"\b(lands?|landing|down|there|reach(es)?|arrives?|falls?|finish(es)?|comes?)\b[^.?]*\blast\b|\blast (to|down)\b|\bslowest\b|\b(falls?|lands?|drops?|comes? down)\b[^.?]*\b(slower|more slowly)\b|\b(stays?|staying|up|aloft|in the air|flies|fly|spins?|glides?)\b[^.?]*\blongest\b", re.I),
}  # fmt: skip


def better_place(question: str) -> Better:
    """Which end of the places is best: the last where the question asks who lands last, else the first."""
    return _asked(question, _PLACES) or "low"


def better_time(question: str) -> Better | None:
    """Which end of a time the question asks for: the least where it asks what lands first, the greatest where it asks what falls slowest
    or stays up longest; None where it is not plain."""
    return _asked(question, _TIMES)


def _asked(question: str, by: dict[str, re.Pattern[str]]) -> Better | None:
    low, high = (by[end].search(question) is not None for end in ("low", "high"))
    if low == high:
        return None
    return "low" if low else "high"
