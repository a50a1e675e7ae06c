"""What is laid, hung or stood at the lane: signs, labels for the tape, cards of the zones, the knots of a height string, targets."""

from __future__ import annotations

import math
from collections.abc import Iterator

from ..draft import Draft, MeasureDraft
from ..errors import CoreError
from ..families import family, known
from ..measuring.scales import scale_of
from ..planning.safety import drop_heights
from ..readings import convert, read
from ..words import said
from ..written import level_label
from .piece import Cutter, Piece, round_length

#: Floor labels where no end of the track is written: so many, at every half metre or foot (common practice).
USUAL_LABELS, MOST_LABELS = 10, 40
MOST_KNOTS = 30


def _card(kind: str, big: str, small: str, wide: float, high: float, count: int = 1) -> Piece:
    c = Cutter(kind, count)
    c.box(0, 0, wide, high)
    tall = min(high * (0.5 if small else 0.7), wide / max(1, len(big)) / 0.55)
    c.note((wide / 2, high * (0.42 if small else 0.5)), big, round(tall, 2))
    if small:
        c.note((wide / 2, high * 0.84), small, round(min(5.0, wide / max(1, len(small)) / 0.62), 2))
    return c.finish()


def lane_pieces(draft: Draft) -> tuple[Piece, ...]:
    """Everything for the lane that follows from this plan."""
    return (*_signs(draft), *_labels(draft), *_zones(draft), *_string(draft), *_targets(draft))


def _signs(draft: Draft) -> Iterator[Piece]:
    if known(draft.family) and family(draft.family).dropped:
        yield _card("drop sign", "KEEP CLEAR", "something falls here", 180, 50)
    elif known(draft.family) and any("distance" in m.name or "marks" in m.name for m in family(draft.family).measures):
        yield _card("start sign", "START", draft.start_line.strip()[:60], 180, 50)
    if draft.timing.lanes > 1:
        for n in range(1, draft.timing.lanes + 1):
            yield _card("lane number", str(n), "lane", 80, 80)


def _along(draft: Draft) -> MeasureDraft | None:
    """The distance that is read along the laid tape."""
    return next((m for m in draft.measures if scale_of(m).quantity(m) == "length" and not m.signed and "distance" in said(m.name) and "off the line" not in said(m.name)), None)


def _labels(draft: Draft) -> Iterator[Piece]:
    m = _along(draft)
    if m is None or not known(draft.family) or family(draft.family).dropped:
        return
    feet = m.unit in ("ft", "in", "yd")
    step, unit = (1.0, "ft") if feet else (0.5, "m")
    count = USUAL_LABELS
    if m.end.strip():
        try:
            there = read(m.end, "length", m.unit)
            count = min(MOST_LABELS, math.floor(convert(there.value, there.unit, unit) / step + 1e-9))
        except CoreError:  # said at the measure, in the plan
            count = USUAL_LABELS
    for n in range(1, count + 1):
        yield _card("floor label", level_label(n * step, unit), "", 56, 26)


def _zones(draft: Draft) -> Iterator[Piece]:
    for m in draft.measures:
        for z in m.zones:
            points = f"{z.points} {'point' if abs(z.points) == 1 else 'points'}"
            yield _card("zone card", points, f"from {z.start.strip()} to {z.end.strip()} {m.unit}", 110, 56)


def _string(draft: Draft) -> Iterator[Piece]:
    """The knots of a string that hangs beside the drop: from the floor, and from knot to knot."""
    unit = draft.drop.unit if draft.drop is not None else "m"
    try:
        heights = [float(h) for h in drop_heights(draft)][:MOST_KNOTS] if draft.drop is not None else []
    except CoreError:  # said at the heights, in the plan
        return
    if not heights:
        return
    c, row = Cutter("height string"), 7.0
    high = 24 + row * len(heights)
    c.box(0, 0, 84, high)
    c.note((42, 7), "Height string", 5)
    c.note((42, 14), f"a weight at its foot; knots in {unit}", 2.6)
    before = 0.0
    for i, h in enumerate(heights):
        y = 22 + row * i
        c.note((18, y), f"{h:g}", 4)
        c.note((52, y), f"{round(h - before, 6):g} {'from the floor' if i == 0 else 'above the last'}", 2.8)
        c.mark([(4, y + 2), (80, y + 2)])
        before = h
    yield c.finish()


def _targets(draft: Draft) -> Iterator[Piece]:
    """Targets to roll up and stand: one for each that can be hit."""
    hits = next((m for m in draft.measures if m.of and "target" in said(f"{m.name} {m.rule}")), None)
    if hits is None:
        return
    once, overlap, high = round_length(40), 10.0, 90.0
    for n in range(1, min(6, hits.of) + 1):
        c = Cutter("target to roll")
        c.box(0, 0, once + overlap, high)
        c.mark([(once, 0), (once, high)])
        c.note((once / 2, high / 2), str(n), 40)
        c.note((once + overlap / 2, high / 2), "glue", 2.4, 90)
        yield c.finish()
