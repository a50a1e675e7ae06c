"""Pieces cut from stock: lengths from a roll, rectangles from a sheet with straight cuts from edge to edge."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache, lru_cache

from ..errors import PlanRefused

#: Sizes are cut on a grid of whole millimetres.
GRID_MM = 1
#: Past so many pieces along a side the rows are simply counted: a better pattern would save less than one piece in a hundred.
MANY_ALONG = 40


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """One piece on the sheet: its near corner and its size, mm."""

    x: int
    y: int
    width: int
    height: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Cut:
    """count: pieces from one sheet of width × height, mm. waste: share of it that is left over, 0 to 1. places: where each is cut."""

    width: int
    height: int
    count: int
    waste: float
    places: tuple[Place, ...]


def pieces_from_length(stock_mm: float, piece_mm: float) -> int:
    """Whole pieces from one length; nothing is joined. Both in mm, > 0. Raises PlanRefused `cut_inputs`."""
    if stock_mm <= 0 or piece_mm <= 0:
        raise PlanRefused("A length and a piece are above zero.", code="cut_inputs")
    return int(stock_mm / piece_mm + 1e-9)


def pieces_from_sheet(sheet_mm: tuple[float, float], piece_mm: tuple[float, float]) -> Cut:
    """The most rectangles of one size that straight cuts from edge to edge give, turned either way. Sizes in mm, 1 to 10,000.
    Raises PlanRefused `cut_inputs`.

    Cuts are only tried at sums of the piece's sides, which loses nothing. Source: Gilmore & Gomory 1965, Operations
    Research 13, 94-120 (guillotine cuts); Herz 1972, IBM J. Res. Dev. 16, 462-469 (canonical positions).
    """
    return _cut(*(round(v / GRID_MM) for v in (*sheet_mm, *piece_mm)))


#: So many sets of shapes are tried on one sheet, each search for so long (the solver's own count, so that every machine finds the same).
MOST_SETS, SEARCH = 12, 1.0


def sets_from_sheet(sheet_mm: tuple[float, float], shapes_mm: tuple[tuple[float, float], ...]) -> Cut:
    """How many whole sets of several shapes one sheet gives, each shape turned either way, none over another: found with OR-Tools' CP-SAT, one set
    more as long as it finds a place for every piece. Sizes in mm, 1 to 10,000. Raises PlanRefused `cut_inputs`."""
    sizes = [round(v / GRID_MM) for pair in (sheet_mm, *shapes_mm) for v in pair]
    if not shapes_mm or min(sizes) < 1 or max(sizes) > 10_000:
        raise PlanRefused("A sheet and a piece measure 1 mm to 10 m along each side.", code="cut_inputs")
    (width, height), shapes = (sizes[0], sizes[1]), tuple(zip(sizes[2::2], sizes[3::2], strict=True))
    return _sets(width, height, shapes)


@lru_cache(maxsize=256)
def _sets(width: int, height: int, shapes: tuple[tuple[int, int], ...]) -> Cut:
    area = sum(a * b for a, b in shapes)
    found: tuple[Place, ...] = ()
    count = 0
    for n in range(1, min(MOST_SETS, width * height // area) + 1):
        placed = _laid(width, height, shapes * n)
        if placed is None:
            break
        found, count = placed, n
    return Cut(width=width, height=height, count=count, waste=1 - count * area / (width * height), places=found)


def _laid(width: int, height: int, pieces: tuple[tuple[int, int], ...]) -> tuple[Place, ...] | None:
    """A place for every piece on the sheet, each turned as it fits, or None where none is found."""
    if any(min(a, b) > min(width, height) or max(a, b) > max(width, height) for a, b in pieces):
        return None
    found = laid_together(width, height, [(str(n), a, b) for n, (a, b) in enumerate(pieces)], sheets=1)
    if found is None:
        return None
    return tuple(Place(x=x, y=y, width=b if turned else a, height=a if turned else b) for (a, b), (_, x, y, turned) in zip(pieces, found, strict=True))


def laid_together(
    width: int, height: int, pieces: Sequence[tuple[str, int, int]], *, sheets: int, free: tuple[int, int] | None = None
) -> list[tuple[int, int, int, bool]] | None:
    """(sheet, x, y, turned) for every piece on so many sheets, or None where the solver finds none in its time. pieces: (kind, width, height) in mm;
    every piece of a kind lies the same way round, so that the grain of the paper is the same. free: the corner from which on every sheet is kept free, None where nothing is."""
    from ortools.sat.python import cp_model  # only here: loading it takes longer than most plans

    model = cp_model.CpModel()
    turned = {k: model.new_bool_var(f"t{k}") for k in dict.fromkeys(k for k, _, _ in pieces)}
    at, across, up = [], [], []
    taken = (width, height) if free is None else free
    for s in range(sheets if free else 0):  # the sheets lie side by side, each with its corner taken
        across.append(model.new_fixed_size_interval_var(s * width + taken[0], width - taken[0], f"c{s}"))
        up.append(model.new_fixed_size_interval_var(taken[1], height - taken[1], f"d{s}"))
    for n, (kind, a, b) in enumerate(pieces):
        sheet = model.new_int_var(0, sheets - 1, f"s{n}")
        x, y = model.new_int_var(0, width, f"x{n}"), model.new_int_var(0, height, f"y{n}")
        w, h = model.new_int_var(min(a, b), max(a, b), f"w{n}"), model.new_int_var(min(a, b), max(a, b), f"h{n}")
        model.add(w == a + (b - a) * turned[kind])
        model.add(h == b + (a - b) * turned[kind])
        if not kind:  # of no kind: never turned
            model.add(turned[kind] == 0)
        model.add(x + w <= width)
        model.add(y + h <= height)
        left, right = model.new_int_var(0, sheets * width, f"l{n}"), model.new_int_var(0, sheets * width, f"r{n}")
        top = model.new_int_var(0, height, f"u{n}")
        model.add(left == sheet * width + x)
        across.append(model.new_interval_var(left, w, right, f"i{n}"))
        up.append(model.new_interval_var(y, h, top, f"j{n}"))
        at.append((sheet, x, y, kind))
    model.add_no_overlap_2d(across, up)
    solver = cp_model.CpSolver()
    solver.parameters.max_deterministic_time = SEARCH
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = 1
    if solver.solve(model) not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return None
    return [(int(solver.value(s)), int(solver.value(x)), int(solver.value(y)), bool(solver.value(turned[k]))) for s, x, y, k in at]


@lru_cache(maxsize=512)
def _cut(width: int, height: int, a: int, b: int) -> Cut:
    if min(width, height, a, b) < 1 or max(width, height, a, b) > 10_000:
        raise PlanRefused("A sheet and a piece measure 1 mm to 10 m along each side.", code="cut_inputs")
    if max(width, height) / min(a, b) > MANY_ALONG:
        places = _rows(width, height, a, b)
    else:
        places = _best(width, height, a, b)
    return Cut(width=width, height=height, count=len(places), waste=1 - len(places) * a * b / (width * height), places=places)


def _sums(most: int, a: int, b: int) -> list[int]:
    """Every sum of a's and b's up to `most`, ascending, with 0."""
    return sorted({i * a + j * b for i in range(most // a + 1) for j in range((most - i * a) // b + 1)})


def _best(width: int, height: int, a: int, b: int) -> tuple[Place, ...]:
    across, up = _sums(width, a, b), _sums(height, a, b)

    def shrink(size: int, sums: list[int]) -> int:
        return sums[bisect_right(sums, size) - 1]  # what lies past the last sum is never used

    @cache
    def most(w: int, h: int) -> tuple[int, str, int]:
        """(count, how, where): how is none, piece (upright), turned, or a cut across or up."""
        found = (0, "none", 0)
        if w >= a and h >= b:
            found = (1, "piece", 0)
        elif w >= b and h >= a:
            found = (1, "turned", 0)
        if w * h < 2 * a * b:
            return found
        for x in across[1:]:
            if 2 * x > w:
                break
            n = most(x, h)[0] + most(shrink(w - x, across), h)[0]
            if n > found[0]:
                found = (n, "across", x)
        for y in up[1:]:
            if 2 * y > h:
                break
            n = most(w, y)[0] + most(w, shrink(h - y, up))[0]
            if n > found[0]:
                found = (n, "up", y)
        return found

    placed: list[Place] = []

    def lay(x: int, y: int, w: int, h: int) -> None:
        _, how, at = most(w, h)
        if how == "piece":
            placed.append(Place(x=x, y=y, width=a, height=b))
        elif how == "turned":
            placed.append(Place(x=x, y=y, width=b, height=a))
        elif how == "across":
            lay(x, y, at, h)
            lay(x + at, y, shrink(w - at, across), h)
        elif how == "up":
            lay(x, y, w, at)
            lay(x, y + at, w, shrink(h - at, up))

    lay(0, 0, shrink(width, across), shrink(height, up))
    return tuple(placed)


def _rows(width: int, height: int, a: int, b: int) -> tuple[Place, ...]:
    """The better of all upright and all turned, for pieces that are tiny beside the sheet."""
    upright, turned = (width // a) * (height // b), (width // b) * (height // a)
    w, h = (a, b) if upright >= turned else (b, a)
    return tuple(Place(x=i * w, y=j * h, width=w, height=h) for j in range(math.floor(height / h)) for i in range(math.floor(width / w)))
