"""Pieces laid on sheets of paper: as few as are found, every piece of a kind the same way round, what is larger than a sheet in tiles."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import product
from typing import Literal

from ..errors import PlanRefused
from ..planning.cutting import laid_together

PaperName = Literal["a4", "a3", "letter", "legal", "tabloid"]
#: Width and height, mm. ISO 216:2007 for the A sizes; ANSI/ASME Y14.1 (sizes A and B) for letter and tabloid, 8.5 × 14 in for legal.
PAPERS: Mapping[PaperName, tuple[float, float]] = {
    "a4": (210.0, 297.0),
    "a3": (297.0, 420.0),
    "letter": (215.9, 279.4),
    "legal": (215.9, 355.6),
    "tabloid": (279.4, 431.8),
}
#: On every page, mm: what stands above the pieces, what stands below, and the square of 50 mm with its words in the lower right corner.
HEAD, FOOT, SQUARE = 21.0, 17.0, 50.0
CORNER = (SQUARE + 4, SQUARE + 6)
#: Between pieces, mm; and by how much two tiles overlap where they are joined.
GAP, OVERLAP = 4.0, 10.0
MOST_PIECES = 400
#: So many pieces are tried on one sheet less with the solver; of more the first fit stands.
SOLVED = 24


@dataclass(frozen=True, slots=True, kw_only=True)
class Tile:
    """A part of a piece that is larger than a sheet. name: "A1", letters across and numbers down; the window on the piece, mm; joins: side ->
    the tile that continues it."""

    name: str
    x: float
    y: float
    width: float
    height: float
    joins: tuple[tuple[Literal["left", "right", "top", "bottom"], str], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Placed:
    """n: which of the pieces. x, y: its upper left corner, mm from that of the place for pieces. turned: a quarter turn to the right."""

    n: int
    x: float
    y: float
    turned: bool = False
    tile: Tile | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Layout:
    """sheets: what lies on each. width, height: of a sheet, mm; margin: kept free; inner: of the place for pieces, before the correction."""

    width: float
    height: float
    margin: float
    inner: tuple[float, float]
    sheets: tuple[tuple[Placed, ...], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Corrected:
    """By how much a printer's pages are to be stretched, across and down."""

    across: float = 1.0
    down: float = 1.0


def corrected(line_mm: float, square_mm: float) -> Corrected:
    """From what the ruler reads of the line of 100 mm and of the height of the square of 50 mm on an uncorrected page. Raises PlanRefused
    `ruler_strange` where a printer is off by more than a fifth: that is a setting and not a printer."""
    across, down = 100 / line_mm if line_mm > 0 else 0.0, 50 / square_mm if square_mm > 0 else 0.0
    if not (0.8 <= across <= 1.25 and 0.8 <= down <= 1.25):
        raise PlanRefused(
            f"{line_mm:g} mm for the line and {square_mm:g} mm for the square are far from 100 and 50. Print at 100 % (not “fit to page”) and measure again.",
            code="ruler_strange", where="line",
        )  # fmt: skip
    return Corrected(across=across, down=down)


def laid(pieces: Sequence[tuple[str, float, float]], paper: PaperName, margin: float, by: Corrected | None = None, *, quick: bool = False) -> Layout:
    """pieces: (kind, width, height) of each, mm. margin: 3 to 25 mm. quick: by first fit alone. Raises PlanRefused `pieces_many`, `margin_range`."""
    if not 3 <= margin <= 25:
        raise PlanRefused(f"A margin of {margin:g} mm cannot be printed. Choose 3 to 25 mm.", code="margin_range", where="margin")
    if len(pieces) > MOST_PIECES:
        raise PlanRefused(f"{len(pieces)} pieces for one group are more than {MOST_PIECES}. Take fewer levels.", code="pieces_many", where="levels")
    by = by or Corrected()
    wide, high = PAPERS[paper]
    inner = ((wide - 2 * margin) / by.across, (high - 2 * margin - HEAD - FOOT) / by.down)
    sheets = _laid(tuple((k, math.ceil(w + GAP), math.ceil(h + GAP)) for k, w, h in pieces), int(inner[0] + GAP), int(inner[1] + GAP), quick)
    return Layout(width=wide, height=high, margin=margin, inner=(round(inner[0], 3), round(inner[1], 3)), sheets=sheets)


@lru_cache(maxsize=256)
def _laid(pieces: tuple[tuple[str, int, int], ...], wide: int, high: int, quick: bool) -> tuple[tuple[Placed, ...], ...]:
    """All in whole mm, each piece with its gap."""
    corner = (wide - math.ceil(CORNER[0] + GAP), high - math.ceil(CORNER[1] + GAP))
    items: list[tuple[str, int, int]] = []
    of: list[Placed] = []
    for n, (kind, w, h) in enumerate(pieces):
        if _fits(w, h, wide, high, corner) or _fits(h, w, wide, high, corner):
            items.append((kind, w, h))
            of.append(Placed(n=n, x=0, y=0))
            continue
        for part in _tiles(n, w - GAP, h - GAP, wide - GAP, corner[1] - GAP):
            assert part.tile is not None
            # a tile lies as its piece does: never turned once more
            items.append(("", math.ceil(part.tile.width + GAP - 1e-6), math.ceil(part.tile.height + GAP - 1e-6)))
            of.append(part)
    sheets = _packed(items, wide, high, corner, quick)
    made = [sorted((replace(of[p.n], x=p.x, y=p.y, turned=of[p.n].turned or p.turned) for p in s), key=lambda p: p.n) for s in sheets]
    return tuple(tuple(s) for s in sorted(made, key=lambda s: [p.n for p in s]))


def _fits(w: int, h: int, wide: int, high: int, corner: tuple[int, int]) -> bool:
    """Whether it has a place on an empty sheet, clear of the square in the corner."""
    return w <= wide and h <= high and (w <= corner[0] or h <= corner[1])


def _packed(items: Sequence[tuple[str, int, int]], wide: int, high: int, corner: tuple[int, int], quick: bool) -> list[tuple[Placed, ...]]:
    """The fewest sheets that are found: first fit in several orders and with every kind either way round, then one sheet less with the solver.
    items: (kind, width, height); those of no kind are never turned."""
    pieces = dict(enumerate(items))
    kinds = list(dict.fromkeys(k for k, _, _ in items if k))
    ways = list(product((False, True), repeat=len(kinds))) if len(kinds) <= 5 else [(False,) * len(kinds), (True,) * len(kinds)]
    best: list[list[Placed]] | None = None
    for way in ways:
        turned = {"": False, **dict(zip(kinds, way, strict=True))}
        sized = {n: (h, w) if turned[k] else (w, h) for n, (k, w, h) in pieces.items()}
        if any(not _fits(w, h, wide, high, corner) for w, h in sized.values()):
            continue
        for order in (lambda _: (0, 0), lambda s: (-s[1], -s[0]), lambda s: (-s[0] * s[1], 0), lambda s: (-s[0], -s[1])):
            made = _first_fit(sorted(sized, key=lambda n: (*order(sized[n]), n)), sized, wide, high, corner, {n: turned[pieces[n][0]] for n in sized})
            if best is None or len(made) < len(best):
                best = made
    if best is None:  # some kind lies only one way and another only the other: each as it fits
        fit = {n: bool(pieces[n][0]) and not _fits(w, h, wide, high, corner) for n, (_, w, h) in pieces.items()}
        sized = {n: (h, w) if fit[n] else (w, h) for n, (_, w, h) in pieces.items()}
        best = _first_fit(list(sized), sized, wide, high, corner, fit)
    least = math.ceil(sum(w * h for _, w, h in pieces.values()) / (wide * high - (wide - corner[0]) * (high - corner[1])))
    if not quick and least < len(best) and len(pieces) <= SOLVED:
        tight = laid_together(wide, high, items, sheets=len(best) - 1, free=corner)
        if tight is not None:
            return [tuple(Placed(n=i, x=x, y=y, turned=t) for i, (s, x, y, t) in enumerate(tight) if s == sheet) for sheet in range(len(best) - 1)]
    return [tuple(s) for s in best]


def _first_fit(
    order: Sequence[int], sized: Mapping[int, tuple[int, int]], wide: int, high: int, corner: tuple[int, int], turned: Mapping[int, bool]
) -> list[list[Placed]]:
    """Each piece at the first free corner, topmost and then leftmost, of the first sheet that has one."""
    sheets: list[list[tuple[int, int, int, int, int]]] = []
    for n in order:
        w, h = sized[n]
        for sheet in [*sheets, None]:
            if sheet is None:
                sheet = []
                sheets.append(sheet)
            spots = sorted({(0, 0), *((x + a, y) for _, x, y, a, _ in sheet), *((x, y + b) for _, x, y, _, b in sheet), *((0, y + b) for _, _, y, _, b in sheet)}, key=lambda p: (p[1], p[0]))
            at = next((p for p in spots if _free(p, w, h, sheet, wide, high, corner)), None)
            if at is not None:
                sheet.append((n, *at, w, h))
                break
    return [[Placed(n=n, x=x, y=y, turned=turned[n]) for n, x, y, _, _ in sheet] for sheet in sheets]


def _free(at: tuple[int, int], w: int, h: int, sheet: Sequence[tuple[int, int, int, int, int]], wide: int, high: int, corner: tuple[int, int]) -> bool:
    x, y = at
    if x + w > wide or y + h > high or (x + w > corner[0] and y + h > corner[1]):
        return False
    return all(x + w <= a or a + c <= x or y + h <= b or b + d <= y for _, a, b, c, d in sheet)


def _tiles(n: int, w: float, h: float, wide: float, high: float) -> list[Placed]:
    """The piece cut into windows that overlap where they are joined; turned where that takes fewer."""

    def counts(a: float, b: float) -> tuple[int, int]:
        return (1 if a <= wide else math.ceil((a - OVERLAP) / (wide - OVERLAP))), (1 if b <= high else math.ceil((b - OVERLAP) / (high - OVERLAP)))

    turned = math.prod(counts(h, w)) < math.prod(counts(w, h))
    a, b = (h, w) if turned else (w, h)
    across, down = counts(a, b)
    each_w, each_h = (a + (across - 1) * OVERLAP) / across, (b + (down - 1) * OVERLAP) / down

    def name(i: int, j: int) -> str:
        return f"{chr(65 + i % 26)}{j + 1}"

    made = []
    for j in range(down):
        for i in range(across):
            sides = (("left", i - 1, j), ("right", i + 1, j), ("top", i, j - 1), ("bottom", i, j + 1))
            joins = tuple((side, name(p, q)) for side, p, q in sides if 0 <= p < across and 0 <= q < down)
            tile = Tile(name=name(i, j), x=round(i * (each_w - OVERLAP), 3), y=round(j * (each_h - OVERLAP), 3), width=round(each_w, 3), height=round(each_h, 3), joins=joins)  # type: ignore[arg-type]
            made.append(Placed(n=n, x=0.0, y=0.0, turned=turned, tile=tile))
    return made
