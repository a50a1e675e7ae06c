"""Several comparisons at once: each p among all of them."""

from __future__ import annotations

from collections.abc import Sequence


def holm(raw: Sequence[float]) -> list[float]:
    """Each p among all of them, in their order. Source: Holm 1979, Scand. J. Stat. 6, 65-70."""
    held, adjusted = 0.0, [0.0] * len(raw)
    for rank, at in enumerate(sorted(range(len(raw)), key=lambda k: raw[k])):
        held = max(held, min(1.0, (len(raw) - rank) * raw[at]))
        adjusted[at] = held
    return adjusted
