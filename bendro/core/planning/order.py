"""The order in which trials are run."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import groupby

import numpy as np

from ..draft import MOST_IN_HEAT, Order


@dataclass(frozen=True, slots=True, kw_only=True)
class Turn:
    """One planned trial: the repeat (block) of a level, who has it, and where it stands in the order (1…).
    A turn is known by its block and level, so that adding repeats or levels later moves no trial already run. lane: on which it is run,
    1…; heat: the release that it shares with others, 1…, or 0 where each is released by itself; sitting: of the rota, 1…, or 0 without one."""

    position: int
    block: int
    level: str
    group: str
    lane: int = 1
    heat: int = 0
    sitting: int = 0




def in_lanes(made: Sequence[Turn], lanes: int, groups: Sequence[str] = ()) -> tuple[Turn, ...]:
    """Turns dealt out over lanes that call at the same time: each group on one lane, the first on the first, as a rota seats
    them, where that shares them evenly; else one turn after the other. lanes >= 1."""
    if groups and len(groups) % lanes == 0:
        return tuple(replace(t, lane=1 + groups.index(t.group) % lanes) for t in made)
    return tuple(replace(t, lane=1 + (t.position - 1) % lanes) for t in made)


def in_heats(made: Sequence[Turn]) -> tuple[Turn, ...]:
    """Turns in blocks, each block let go together on lanes of its own; one of more than six in heats as even as can be."""
    heats: list[Turn] = []
    number = 0
    for _, group in groupby(made, key=lambda t: t.block):
        block = list(group)
        parts = math.ceil(len(block) / MOST_IN_HEAT)
        for part in np.array_split(np.arange(len(block)), parts):
            number += 1
            heats += [replace(block[int(i)], heat=number, lane=lane) for lane, i in enumerate(part, 1)]
    return tuple(heats)


def turns(levels: Sequence[str], repeats: int, groups: Sequence[str], order: Order, seed: int) -> tuple[Turn, ...]:
    """Every planned trial in order. levels: at least one; repeats >= 1; groups may be empty.

    blocks: each block holds every level once, shuffled. listed: level after level. random: all shuffled together.
    unknown: trials came from a table that does not tell their order; further ones are called as listed.
    The same seed gives the same order. Groups go round so that each meets each level as evenly as the counts allow, whatever the
    order.
    Source: common practice; Fisher 1935, The Design of Experiments (randomized blocks).
    """
    cells = [(block, level) for block in range(1, repeats + 1) for level in levels]
    if order == "blocks":
        placed = []
        for block in range(1, repeats + 1):
            rng = np.random.default_rng([seed, block])
            placed += [(block, levels[i]) for i in rng.permutation(len(levels))]
    elif order in ("listed", "unknown"):
        placed = [(block, level) for level in levels for block in range(1, repeats + 1)]
    else:
        rng = np.random.default_rng(seed)
        placed = [cells[i] for i in rng.permutation(len(cells))]
    made = []
    for position, (block, level) in enumerate(placed, 1):
        group = groups[_whose(block - 1, levels.index(level), len(levels), len(groups))] if groups else ""
        made.append(Turn(position=position, block=block, level=level, group=group))
    return tuple(made)


def _whose(block: int, level: int, levels: int, groups: int) -> int:
    """Which group has a level in a block (all from 0). Groups go round over the cells of the plan, so that their loads differ by one
    at most; where that would bring a group back to the level that it has had, it moves on by one, so that each group meets each
    level as often as any other, give or take one."""
    until_the_same_again = groups // math.gcd(levels, groups)
    return (block * levels + level + block // until_the_same_again) % groups
