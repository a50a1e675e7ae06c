"""Shuffle (permutation) tests: how often chance alone would make an effect as large. All through scipy's permutation_test."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import stats

Array = NDArray[np.float64]
#: Up to here every arrangement is tried; beyond, this many are drawn (formulas, section 3).
ARRANGEMENTS = 20_000
#: Seed of the drawn shuffles; stored with the result so that anyone gets the same p again.
SHUFFLE_SEED = 20_000
#: Statistics are compared to this share of their own scale, so that arrangements equal on paper tie whatever the last bits say.
TIE_DECIMALS = 9
_BATCH_NUMBERS = 2_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class ShuffleResult:
    """p in (0, 1]; exact: every arrangement tried; smallest_p: the smallest p these arrangements could give."""

    p: float
    exact: bool
    arrangements: int
    seed: int | None
    smallest_p: float


def _run(data: tuple[Sequence[float], ...], statistic: Callable[..., Any], kind: str, possible: int, alike: int) -> ShuffleResult:
    exact = possible <= ARRANGEMENTS
    size = max(sum(len(d) for d in data), 1)
    arrays = tuple(np.asarray(d, dtype=float) for d in data)
    smallest = alike / possible if exact else 1 / (ARRANGEMENTS + 1)
    if min(a.size for a in arrays) < 2:  # scipy takes no sample of one
        p = _p_with_single(arrays, statistic, exact) if kind == "independent" else 1.0
        return ShuffleResult(
            p=p, exact=exact, arrangements=possible if exact else ARRANGEMENTS, seed=None if exact else SHUFFLE_SEED, smallest_p=smallest
        )
    found = stats.permutation_test(
        arrays,
        statistic,
        permutation_type=kind,
        alternative="greater",
        vectorized=True,
        n_resamples=np.inf if exact else ARRANGEMENTS,
        batch=max(_BATCH_NUMBERS // size, 1),
        rng=np.random.default_rng(SHUFFLE_SEED),
    )
    p = float(found.pvalue)
    return ShuffleResult(
        p=min(p, 1.0),
        exact=exact,
        arrangements=possible if exact else ARRANGEMENTS,
        seed=None if exact else SHUFFLE_SEED,
        smallest_p=smallest,
    )


def _splits(left: tuple[int, ...], sizes: Sequence[int]) -> Iterator[tuple[int, ...]]:
    """Every way to deal `left` into samples of these sizes, laid end to end."""
    if len(sizes) == 1:
        yield left
        return
    for chosen in itertools.combinations(left, sizes[0]):
        rest = tuple(i for i in left if i not in chosen)
        for tail in _splits(rest, sizes[1:]):
            yield chosen + tail


def _p_with_single(samples: tuple[Array, ...], statistic: Callable[..., Any], exact: bool) -> float:
    """The same test where a level has a single reading."""
    sizes, flat = [s.size for s in samples], np.concatenate(samples)
    cuts = np.cumsum(sizes)[:-1]
    if exact:
        dealt = flat[np.array(list(_splits(tuple(range(flat.size)), sizes)))]
    else:
        dealt = np.random.default_rng(SHUFFLE_SEED).permuted(np.tile(flat, (ARRANGEMENTS, 1)), axis=1)
    hits = int(np.sum(statistic(*np.split(dealt, cuts, axis=1), axis=-1) >= statistic(*samples, axis=-1)))
    return hits / len(dealt) if exact else (hits + 1) / (ARRANGEMENTS + 1)


def _tied(values: Any, scale: float) -> Any:
    return np.round(np.asarray(values) / scale, TIE_DECIMALS) if scale > 0 else np.zeros_like(np.asarray(values))


def shuffle_two(a: Sequence[float], b: Sequence[float]) -> ShuffleResult:
    """Two-sided on |difference of means|. Source: Fisher 1935, The Design of Experiments, section 21; Pitman 1937."""
    both = np.concatenate([np.asarray(a, float), np.asarray(b, float)])
    centre, scale = float(np.mean(both)), float(np.ptp(both))

    def statistic(x: Array, y: Array, axis: int = -1) -> Any:
        return _tied(np.abs(np.mean(y - centre, axis=axis) - np.mean(x - centre, axis=axis)), scale)

    return _run((a, b), statistic, "independent", math.comb(len(a) + len(b), len(a)), 2 if len(a) == len(b) else 1)


def shuffle_groups(groups: Sequence[Sequence[float]]) -> ShuffleResult:
    """On the F statistic: the sum of squares between levels orders arrangements as F does, since the total is fixed."""
    everything = np.concatenate([np.asarray(g, float) for g in groups])
    centre, scale = float(np.mean(everything)), float(np.ptp(everything)) ** 2 * len(everything)

    def statistic(*samples: Array, axis: int = -1) -> Any:
        between = sum(s.shape[axis] * np.mean(s - centre, axis=axis) ** 2 for s in samples)
        return _tied(between, scale)

    sizes = [len(g) for g in groups]
    possible, left = 1, sum(sizes)
    for size in sizes:
        possible *= math.comb(left, size)
        left -= size
    alike = math.prod(math.factorial(sizes.count(s)) for s in set(sizes))
    return _run(tuple(groups), statistic, "independent", possible, alike)


def shuffle_signs(differences: Sequence[float]) -> ShuffleResult:
    """Sign flips of paired differences, two-sided. Source: Fisher 1935, section 21."""
    scale = float(np.max(np.abs(differences))) if len(differences) else 0.0

    def statistic(d: Array, axis: int = -1) -> Any:
        return _tied(np.abs(np.mean(d, axis=axis)), scale)

    return _run((differences,), statistic, "samples", 2 ** len(differences), 2)


def shuffle_slope(x: Sequence[float], y: Sequence[float]) -> ShuffleResult:
    """Readings dealt anew over the levels; two-sided on the slope of the line."""
    across = np.asarray(x, float) - np.mean(x)
    centre = float(np.mean(y))
    scale = float(np.sum(np.abs(across))) * float(np.ptp(y))

    def statistic(dealt: Array, axis: int = -1) -> Any:
        return _tied(np.abs(np.sum((dealt - centre) * across, axis=axis)), scale)

    return _run((y,), statistic, "pairings", math.factorial(min(len(y), 30)), 2)


def bound_scores(values: Sequence[float], kinds: Sequence[str]) -> list[float]:
    """Gehan scores: for each reading, how many others are surely smaller less how many are surely larger, where *at least*
    and *at most* readings are only compared as far as their bound allows. Without bounds this orders as ranks do.
    Source: Gehan 1965, Biometrika 52, 203-223."""
    exact = np.array([k not in ("at_least", "at_most") for k in kinds])
    given = np.asarray(values, float)
    low = np.where(np.array([k == "at_most" for k in kinds]), -np.inf, given)
    high = np.where(np.array([k == "at_least" for k in kinds]), np.inf, given)
    smaller = np.searchsorted(np.sort(high), low, side="right").astype(float)
    larger = len(given) - np.searchsorted(np.sort(low), high, side="left").astype(float)
    alike = np.sort(given[exact])
    ties = np.searchsorted(alike, given, side="right") - np.searchsorted(
        alike, given, side="left"
    )  # equal exact readings, oneself among them
    return [float(v) for v in np.where(exact, smaller - ties - (larger - ties), smaller - larger)]
