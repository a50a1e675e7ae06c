"""The order in which trials are run."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

Order = Literal["blocks", "listed", "random"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Turn:
    """One planned trial: the repeat (block) of a level, who has it, and where it stands in the order (1…).
    A turn is known by its block and level, so that adding repeats or levels later moves no trial already run."""

    position: int
    block: int
    level: str
    group: str


def turns(levels: Sequence[str], repeats: int, groups: Sequence[str], order: Order, seed: int) -> tuple[Turn, ...]:
    """Every planned trial in order. levels: at least one; repeats >= 1; groups may be empty.

    blocks: each block holds every level once, shuffled. listed: level after level. random: all shuffled together.
    The same seed gives the same order. Groups go round so that each meets each level as evenly as the counts allow.
    Source: common practice; Fisher 1935, The Design of Experiments (randomized blocks).
    """
    cells = [(block, level) for block in range(1, repeats + 1) for level in levels]
    if order == "blocks":
        placed = []
        for block in range(1, repeats + 1):
            rng = np.random.default_rng([seed, block])
            placed += [(block, levels[i]) for i in rng.permutation(len(levels))]
    elif order == "listed":
        placed = [(block, level) for level in levels for block in range(1, repeats + 1)]
    else:
        rng = np.random.default_rng(seed)
        placed = [cells[i] for i in rng.permutation(len(cells))]
    met = dict.fromkeys(((g, level) for g in groups for level in levels), 0)
    load = dict.fromkeys(groups, 0)
    made = []
    for position, (block, level) in enumerate(placed, 1):
        group = ""
        if groups:
            group = min(groups, key=lambda g: (load[g], met[g, level], (groups.index(g) + position) % len(groups)))
            load[group] += 1
            met[group, level] += 1
        made.append(Turn(position=position, block=block, level=level, group=group))
    return tuple(made)
