"""Every arrangement of a shuffle counted without dealing one: readings lie on the steps of a tool, so their sums take few values, and
how many arrangements lead to each sum is worked out by adding one reading after the other."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

#: Readings are looked for on steps of a whole, a tenth … a ten-thousandth.
FINEST = 4
#: A reading is on its step when it is as near as this share of the step.
NEAR = 1e-6
#: More additions than this take longer than dealing arrangements out does.
MOST_WORK = 4_000_000


def steps_of(values: Sequence[float]) -> NDArray[np.int64] | None:
    """The readings as whole numbers of their common step, counted from the least; None where they lie on no step."""
    given = np.asarray(values, float)
    for places in range(FINEST + 1):
        scaled = (given - given.min()) * 10.0**places
        whole = np.rint(scaled)
        if bool((np.abs(scaled - whole) <= NEAR).all()):
            found = whole.astype(np.int64)
            return np.asarray(found // max(int(np.gcd.reduce(found)), 1), np.int64)
    return None


def ways_to_choose(steps: NDArray[np.int64], k: int) -> NDArray[np.float64] | None:
    """For every sum from 0: in how many ways k of the readings add to it. None where that is more work than dealing.
    Source: the recursion of Pagano & Tritchler 1983, J. Am. Stat. Assoc. 78, 435-440, in plain whole numbers."""
    top = int(np.sort(steps)[len(steps) - k :].sum())
    if len(steps) * k * (top + 1) > MOST_WORK:
        return None
    ways = np.zeros((k + 1, top + 1))
    ways[0, 0] = 1.0
    for at, step in enumerate(steps, start=1):
        high = min(at, k)
        if step > top:
            continue
        ways[1 : high + 1, step:] += ways[:high, : top + 1 - step].copy()
    return np.asarray(ways[k])


def share_of_choices(values: Sequence[float], n: int) -> float | None:
    """Share of all choices of n readings whose mean differs from that of the rest by as much as the first n do; None where it cannot be
    counted so. 0 < n < len(values)."""
    steps = steps_of(values)
    ways = None if steps is None else ways_to_choose(steps, n)
    if steps is None or ways is None:
        return None
    size, total = len(steps), int(steps.sum())
    off = np.abs(np.arange(len(ways)) * size - n * total)  # whole numbers, so ties are ties
    seen = abs(int(steps[:n].sum()) * size - n * total)
    return math.fsum(ways[off >= seen]) / math.fsum(ways)


def share_of_signs(differences: Sequence[float]) -> float | None:
    """Share of all signs whose sum is as far from zero; None where it cannot be counted so."""
    given = np.abs(np.asarray(differences, float))
    steps = steps_of([0.0, *given])  # from zero, because a sign turns a difference round
    if steps is None:
        return None
    sizes = steps[1:]
    top = int(sizes.sum())
    if len(sizes) * (top + 1) > MOST_WORK:
        return None
    ways = np.zeros(top + 1)
    ways[0] = 1.0
    for size in sizes:  # the sum of those that count as positive
        if size:
            ways[size:] += ways[: top + 1 - size].copy()
        else:
            ways *= 2
    seen = abs(int((np.sign(differences) * sizes).sum()))
    off = np.abs(2 * np.arange(top + 1) - top)
    return math.fsum(ways[off >= seen]) / 2.0 ** len(sizes)
