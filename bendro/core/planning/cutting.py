"""Pieces cut from stock: lengths from a roll, rectangles from a sheet with straight cuts from edge to edge."""

from __future__ import annotations

import math
from bisect import bisect_right
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
