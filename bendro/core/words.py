"""How names and ideas are compared, whatever case, article or spaces they were typed with."""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache


@lru_cache(maxsize=4096)
def said(text: str) -> str:
    """An idea as it is compared: without case, articles at the front and extra spaces."""
    words = text.casefold().split()
    return " ".join(words[1:] if len(words) > 1 and words[0] in ("the", "a", "an") else words)


def unlike(ideas: Iterable[str]) -> list[str]:
    """Ideas in order, each once, blank ones left out."""
    seen: dict[str, str] = {}
    for idea in ideas:
        if idea.strip():
            seen.setdefault(said(idea), " ".join(idea.split()))
    return list(seen.values())
