"""Shuffle (permutation) tests: how often chance alone would make an effect as large.

Few arrangements are all tried, and many readings on the steps of a tool are counted without trying; other ones are drawn, in batches, until it is plain that chance does as much often enough; for many
readings the shuffle follows its known limit so closely that nothing is drawn."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from scipy import stats

from .all_sums import share_of_choices, share_of_signs

Array = NDArray[np.float64]
#: Up to here every arrangement is tried; beyond, this many are drawn (formulas, section 3).
ARRANGEMENTS = 20_000
#: Drawing stops early once so many arrangements did as much: p is then known to a thirtieth of itself, and is far from small.
#: Source: Besag & Clifford 1991, Biometrika 78, 301-304.
ENOUGH_HITS = 1_000
#: Above so many readings the shuffle is not drawn: p comes from its limit. LIMIT_ERROR: by how much that may be out, about
#: (compared with drawn shuffles of even and of skewed readings in the tests).
LIMIT_FROM, LIMIT_ERROR = 300, 0.004
#: Seed of the drawn shuffles; stored with the result so that anyone gets the same p again.
SHUFFLE_SEED = 20_000
#: Statistics that differ by less than this share of their scale are ties: equal on paper, whatever the last bits say.
TIE_SHARE = 1e-9
_BATCH, _BATCH_NUMBERS = 1_000, 2_000_000
#: Orders of up to so many readings are kept: 160 batches are at most 20 MB.
KEPT_ORDERS = 64
Method = Literal["all", "drawn", "limit"]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShuffleResult:
    """p in (0, 1]. exact: every arrangement tried. arrangements: how many there are, or were drawn; 0 where p comes from the
    limit. smallest_p: the smallest p these arrangements could give; largest_below: the largest p at or below 0.05 that they could
    give without ties, which is how fully a test at 0.05 uses its 0.05."""

    p: float
    exact: bool
    arrangements: int
    seed: int | None
    smallest_p: float
    method: Method
    largest_below: float = 0.05


def _counted(hits: int, tried: int, exact: bool, smallest: float, step: int) -> ShuffleResult:
    """p of a statistic that `hits` of the arrangements reach; drawn ones count the one at hand among them."""
    if exact:
        below = math.floor(0.05 * tried / step + 1e-9) * step / tried
        return ShuffleResult(p=hits / tried, exact=True, arrangements=tried, seed=None, smallest_p=smallest, method="all", largest_below=below)
    return ShuffleResult(
        p=(hits + 1) / (tried + 1), exact=False, arrangements=tried, seed=SHUFFLE_SEED, smallest_p=1 / (ARRANGEMENTS + 1), method="drawn"
    )


def _all_counted(p: float, possible: int, step: int) -> ShuffleResult:
    """Every arrangement was looked at, though none was dealt. step: how many do exactly as much, one like the other."""
    return ShuffleResult(p=p, exact=True, arrangements=possible, seed=None, smallest_p=step / possible, method="all")


def _limit(p: float) -> ShuffleResult:
    return ShuffleResult(p=float(max(p, 1e-300)), exact=False, arrangements=0, seed=None, smallest_p=0.0, method="limit")


def _drawn(values: Array, reaches: Callable[[Array], NDArray[np.bool_]], deal: Callable[[np.random.Generator, int], Array]) -> ShuffleResult:
    """reaches: dealt readings (arrangements, readings…) -> whether each does as much as the readings at hand."""
    rng = np.random.default_rng(SHUFFLE_SEED)
    batch = max(1, min(_BATCH, _BATCH_NUMBERS // max(values.size, 1)))
    hits = tried = 0
    while tried < ARRANGEMENTS and hits < ENOUGH_HITS:
        now = min(batch, ARRANGEMENTS - tried)
        hits += int(np.count_nonzero(reaches(deal(rng, now))))
        tried += now
    return _counted(hits, tried, False, 0.0, 1)


def _dealt(values: Array) -> Callable[[np.random.Generator, int], Array]:
    """Orders of the readings: always the same ones for so many readings, so they are kept."""
    if values.size > KEPT_ORDERS:
        return lambda rng, now: rng.permuted(np.broadcast_to(values, (now, values.size)), axis=1)
    begun = itertools.count()
    return lambda _, now: values[_kept_orders(values.size, next(begun))[:now]]


@lru_cache(maxsize=160)
def _kept_orders(n: int, batch: int) -> NDArray[np.int16]:
    rng = np.random.default_rng([SHUFFLE_SEED, n, batch])
    return rng.permuted(np.broadcast_to(np.arange(n, dtype=np.int16), (_BATCH, n)), axis=1)


def _splits(left: tuple[int, ...], sizes: Sequence[int]) -> Iterator[tuple[int, ...]]:
    """Every way to deal `left` into samples of these sizes, laid end to end."""
    if len(sizes) == 1:
        yield left
        return
    for chosen in itertools.combinations(left, sizes[0]):
        rest = tuple(i for i in left if i not in chosen)
        for tail in _splits(rest, sizes[1:]):
            yield chosen + tail


@lru_cache(maxsize=16)
def _all_splits(sizes: tuple[int, ...]) -> NDArray[np.intp]:
    return np.array(list(_splits(tuple(range(sum(sizes))), sizes)), dtype=np.intp)


@lru_cache(maxsize=16)
def _chosen(n: int, k: int) -> NDArray[np.intp]:
    """Every choice of k of n."""
    flat = itertools.chain.from_iterable(itertools.combinations(range(n), k))
    return np.fromiter(flat, np.intp, math.comb(n, k) * k).reshape(-1, k)


@lru_cache(maxsize=4)
def _orders(n: int) -> NDArray[np.intp]:
    return np.array(list(itertools.permutations(range(n))), dtype=np.intp)


@lru_cache(maxsize=4)
def _signs(n: int) -> Array:
    return np.asarray(1.0 - 2.0 * ((np.arange(2**n)[:, None] >> np.arange(n)) & 1), dtype=np.float64)


def _reaching(statistic: Callable[[Array], Any], observed: float, scale: float) -> Callable[[Array], NDArray[np.bool_]]:
    edge = observed - TIE_SHARE * scale
    return lambda dealt: np.asarray(statistic(dealt)) >= edge


def shuffle_two(a: Sequence[float], b: Sequence[float]) -> ShuffleResult:
    """Two-sided on |difference of means|. Source: Fisher 1935, The Design of Experiments, section 21; Pitman 1937."""
    n, m = len(a), len(b)
    both = np.concatenate([np.asarray(a, float), np.asarray(b, float)])
    both -= both.mean()
    scale = float(np.ptp(both))
    if scale == 0:
        return _counted(1, 1, True, 1.0, 1)
    observed, size = abs(float(both[n:].mean() - both[:n].mean())), n + m
    # the sum of all is zero, so one sample's sum gives the difference
    k, factor = (n, 1 / n + 1 / m) if n <= m else (m, 1 / n + 1 / m)
    possible = math.comb(size, n)
    reaches = _reaching(lambda sums: np.abs(sums) * factor, observed, scale)
    if possible <= ARRANGEMENTS:
        step = 2 if n == m else 1
        return _counted(int(np.count_nonzero(reaches(both[_chosen(size, k)].sum(axis=1)))), possible, True, step / possible, step)
    counted = share_of_choices([*a, *b], n) if size <= LIMIT_FROM else None
    if counted is not None:
        return _all_counted(counted, possible, 2 if n == m else 1)
    if size > LIMIT_FROM:
        return _limit(_p_of_share(observed**2 / factor, both, 1))
    return _drawn(both, lambda dealt: reaches(dealt[:, :k].sum(axis=1)), _dealt(both))


def _p_of_share(explained: float, centred: Array, df: int) -> float:
    """The limit of the shuffle of a sum of squares: the share of all squares follows the beta law as in the F test.
    Source: Pitman 1937, Biometrika 29, 322-335; Box & Andersen 1955, J. R. Stat. Soc. B 17."""
    share = min(max(explained / float(centred @ centred), 0.0), 1.0)
    return float(stats.beta.sf(share, df / 2, (centred.size - 1 - df) / 2))


def shuffle_groups(groups: Sequence[Sequence[float]]) -> ShuffleResult:
    """On the F statistic: the sum of squares between levels orders arrangements as F does, since the total is fixed."""
    sizes = tuple(len(g) for g in groups)
    values = np.concatenate([np.asarray(g, float) for g in groups])
    values -= values.mean()
    scale = float(np.ptp(values)) ** 2 * values.size
    if scale == 0:
        return _counted(1, 1, True, 1.0, 1)
    starts = np.concatenate([[0], np.cumsum(sizes)[:-1]])
    counts = np.asarray(sizes, float)

    def between(dealt: Array) -> Any:
        return (np.add.reduceat(dealt, starts, axis=-1) ** 2) @ (1 / counts)

    observed = float(between(values))
    reaches = _reaching(between, observed, scale)
    possible = _ways(sizes)
    if possible <= ARRANGEMENTS:
        alike = math.prod(math.factorial(sizes.count(s)) for s in set(sizes))
        return _counted(int(np.count_nonzero(reaches(values[_all_splits(sizes)]))), possible, True, alike / possible, alike)
    if values.size > LIMIT_FROM:
        return _limit(_p_of_share(observed, values, len(sizes) - 1))
    return _drawn(values, reaches, _dealt(values))


def shuffle_parts(parts: Sequence[Sequence[Sequence[float]]]) -> ShuffleResult:
    """Several sets of levels at once, each dealt anew within itself only: on the sum of squares between the levels of every set. parts: sets of
    levels of readings. Source: Edgington & Onghena, Randomization Tests (as the F of `shuffle_groups`, over sets)."""
    sets = [(np.concatenate([np.asarray(v, float) for v in part]), tuple(len(v) for v in part)) for part in parts]
    sets = [(values - values.mean(), sizes) for values, sizes in sets]
    scale = sum(float(np.ptp(values)) ** 2 * values.size for values, _ in sets)
    if scale == 0:
        return _counted(1, 1, True, 1.0, 1)

    def between(dealt: Array, sizes: tuple[int, ...]) -> Array:
        starts = np.concatenate([[0], np.cumsum(sizes)[:-1]])
        return np.asarray((np.add.reduceat(dealt, starts, axis=-1) ** 2) @ (1 / np.asarray(sizes, float)))

    edge = sum(float(between(values, sizes)) for values, sizes in sets) - TIE_SHARE * scale
    possible = math.prod(_ways(sizes) for _, sizes in sets)
    if possible <= ARRANGEMENTS:
        sums = np.zeros(1)
        for values, sizes in sets:
            sums = (sums[:, None] + between(values[_all_splits(sizes)], sizes)[None]).ravel()
        return _counted(int(np.count_nonzero(sums >= edge)), possible, True, 1 / possible, 1)
    rng, hits, tried = np.random.default_rng(SHUFFLE_SEED), 0, 0
    while tried < ARRANGEMENTS and hits < ENOUGH_HITS:
        found = sum(between(rng.permuted(np.broadcast_to(values, (_BATCH, values.size)), axis=1), sizes) for values, sizes in sets)
        hits += int(np.count_nonzero(np.asarray(found) >= edge))
        tried += _BATCH
    return _counted(hits, tried, False, 0.0, 1)


def _ways(sizes: Sequence[int]) -> int:
    """In how many ways readings are dealt over levels of these sizes."""
    return math.factorial(sum(sizes)) // math.prod(math.factorial(n) for n in sizes)


def shuffle_signs(differences: Sequence[float]) -> ShuffleResult:
    """Sign flips of paired differences, two-sided. Source: Fisher 1935, section 21."""
    d = np.asarray(differences, float)
    scale = float(np.max(np.abs(d))) * d.size if d.size else 0.0
    if scale == 0:
        return _counted(1, 1, True, 1.0, 1)
    observed, possible = abs(float(d.sum())), 2**d.size
    reaches = _reaching(np.abs, observed, scale)
    if possible <= ARRANGEMENTS:
        return _counted(int(np.count_nonzero(reaches(_signs(d.size) @ d))), possible, True, 2 / possible, 2)
    counted = share_of_signs(differences) if d.size <= LIMIT_FROM else None
    if counted is not None:
        return _all_counted(counted, possible, 2)
    if d.size > LIMIT_FROM:
        return _limit(2 * float(stats.norm.sf(observed / math.sqrt(float(d @ d)))))
    return _drawn(d, lambda signs: reaches(signs @ d), lambda rng, now: np.asarray(1.0 - 2.0 * rng.integers(0, 2, (now, d.size)), dtype=np.float64))


def shuffle_shapes(x: Sequence[float], y: Sequence[float], most: int = 2) -> tuple[ShuffleResult, ...]:
    """Readings dealt anew over the levels; two-sided on the slope of the line, and with three levels or more on the bend at right angles to
    it (most: 1 leaves it out). Each has its own p; both are counted over the same arrangements."""
    values, shapes = np.asarray(y, float) - np.mean(y), _shapes(x, most if len(set(x)) > 2 else 1)
    one = _counted(1, 1, True, 1.0, 1)
    if float(np.ptp(values)) == 0:
        return tuple(one for _ in shapes.T)
    edges = np.abs(values @ shapes) - TIE_SHARE * float(np.sqrt(values @ values))
    at, sizes = np.unique(np.asarray(x, float), return_counts=True)
    if values.size <= 30 and _ways([int(n) for n in sizes]) <= ARRANGEMENTS:
        splits = _all_splits(tuple(int(n) for n in sizes))
        order = np.argsort(np.asarray(x, float), kind="stable")  # splits are laid end to end, level after level
        reached = np.count_nonzero(np.abs(values[splits] @ shapes[order]) >= edges, axis=0)
        # turned end for end, evenly laid levels give as steep a slope
        even = bool(np.allclose(at - at[0], (at[-1] - at)[::-1]) and (sizes == sizes[::-1]).all())
        alike = [2 if even else 1, *(_alike_bends(sizes, shapes[order][:, 1]) if shapes.shape[1] > 1 else [])]
        return tuple(_counted(int(hits), len(splits), True, step / len(splits), step) for hits, step in zip(reached, alike, strict=True))
    if values.size > LIMIT_FROM:
        return tuple(_limit(_p_of_share(float(values @ shape) ** 2, values, 1)) for shape in shapes.T)
    deal, rng, hits, tried = _dealt(values), np.random.default_rng(SHUFFLE_SEED), np.zeros(shapes.shape[1], int), 0
    batch = max(1, min(_BATCH, _BATCH_NUMBERS // values.size))
    while tried < ARRANGEMENTS and hits.min() < ENOUGH_HITS:
        now = min(batch, ARRANGEMENTS - tried)
        hits += np.count_nonzero(np.abs(deal(rng, now) @ shapes) >= edges, axis=0)
        tried += now
    return tuple(_counted(int(h), tried, False, 0.0, 1) for h in hits)


def _alike_bends(sizes: NDArray[np.int64], bend: Array) -> list[int]:
    """In how many arrangements the readings bend alike: those of levels with one and the same part in the bend may change places."""
    together: dict[float, list[int]] = {}
    for n, part in zip(sizes, bend[np.cumsum(sizes) - 1], strict=True):
        together.setdefault(round(float(part), 9), []).append(int(n))
    return [math.prod(math.factorial(sum(of)) // math.prod(map(math.factorial, of)) for of in together.values())]


def shuffle_slope(x: Sequence[float], y: Sequence[float]) -> ShuffleResult:
    """The slope alone."""
    return shuffle_shapes(x, y, 1)[0]


def _shapes(x: Sequence[float], most: int) -> Array:
    """Slope, and bend at right angles to it: columns of length one that sum to zero (readings × shapes)."""
    across = np.asarray(x, float) - np.mean(x)
    across /= float(np.ptp(across)) or 1.0
    raw = np.column_stack([across**power for power in range(most + 1)])
    shapes: Array = np.linalg.qr(raw)[0][:, 1:]
    return shapes


def shuffle_blocks(blocks: Sequence[Array], shapes: Sequence[Array]) -> ShuffleResult:
    """Readings dealt anew over the places within each block. blocks: each block's readings; shapes: for each block, its readings'
    places × directions, the directions at right angles to every block and of length one over all readings, so that the squares along
    them are the sum of squares of the levels within blocks, whole blocks or not.
    Source: Fisher 1935, section 26; Edgington & Onghena, Randomization Tests, randomized blocks."""
    within = [np.asarray(b, float) - float(np.mean(b)) for b in blocks]
    scale = sum(float(w @ w) for w in within)
    if scale == 0:
        return _counted(1, 1, True, 1.0, 1)

    def along(parts: Sequence[Any]) -> Any:
        return np.sum(sum(part @ shape for part, shape in zip(parts, shapes, strict=True)) ** 2, axis=-1)

    edge = float(along(within)) - TIE_SHARE * scale
    possible = math.prod(math.factorial(min(w.size, 30)) for w in within)
    if possible <= ARRANGEMENTS:
        at = np.zeros((1, shapes[0].shape[1]))
        for readings, shape in zip(within, shapes, strict=True):
            at = (at[:, None, :] + (readings[_orders(readings.size)] @ shape)[None]).reshape(-1, shape.shape[1])
        alike = math.factorial(within[0].size) if len({w.size for w in within}) == 1 else 1
        return _counted(int(np.count_nonzero(np.sum(at**2, axis=1) >= edge)), possible, True, alike / possible, alike)
    rng, hits, tried = np.random.default_rng(SHUFFLE_SEED), 0, 0
    while tried < ARRANGEMENTS and hits < ENOUGH_HITS:
        parts = [rng.permuted(np.broadcast_to(w, (_BATCH, w.size)), axis=1) for w in within]
        hits += int(np.count_nonzero(along(parts) >= edge))
        tried += _BATCH
    return _counted(hits, tried, False, 0.0, 1)


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
