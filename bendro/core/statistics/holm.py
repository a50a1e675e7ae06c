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


def shaffer(raw: Sequence[float], levels: int, overall: float) -> list[float]:
    """Each p of all pairs of so many levels among all of them, after one test over all (overall, that none is less than): of the pairs no
    more can be alike than the ones already told apart leave room for. Source: Shaffer 1986, J. Am. Stat. Assoc. 81, 826-831."""
    possible = _alike(levels)
    held, adjusted = overall, [0.0] * len(raw)
    for rank, at in enumerate(sorted(range(len(raw)), key=lambda k: raw[k])):
        left = len(raw) - max(rank, 1)  # after the overall test one pair at least differs
        held = max(held, min(1.0, max(n for n in possible if n <= left) * raw[at]))
        adjusted[at] = held
    return adjusted


def _alike(levels: int) -> set[int]:
    """How many pairs of so many levels can be alike at once."""
    if levels < 2:
        return {0}
    return {size * (size - 1) // 2 + rest for size in range(1, levels + 1) for rest in _alike(levels - size)}
