"""What to buy for a class, what it costs, and what is left over; the play-money shop and the fixed list."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from ..draft import Draft, MaterialDraft, PackDraft
from ..errors import CoreError, PlanRefused
from ..problem import Problem
from ..readings import convert, read
from .arithmetic import Pack, cheapest_packs, device_cost, needed
from .cutting import Cut, pieces_from_length, pieces_from_sheet, sets_from_sheet

_BY = re.compile(r"\s*(?:x|×|\*|by)\s*", re.I)
_MONEY = re.compile(r"^[^\d.,-]{0,4}\s*([\d.,-]+)\s*[^\d.,-]{0,8}$")
_BULK = {"mass": "g", "volume": "ml"}


@dataclass(frozen=True, slots=True, kw_only=True)
class PackOffer:
    """One pack. pieces: what one gives (pieces, or the amount for mass and volume). unit_price: for one piece or unit."""

    name: str
    holds: str
    price: float
    pieces: float
    unit_price: float | None
    buy: int
    cost: float | None
    cut: Cut | None


@dataclass(frozen=True, slots=True, kw_only=True)
class ShoppingLine:
    """One material. need: pieces for all devices and spare ones, or the amount in `unit`. left_over in the same. waste:
    share of what is bought that cannot be used, 0 to 1, for lengths and sheets. each: money of one device's part."""

    name: str
    need: float
    unit: str
    packs: tuple[PackOffer, ...]
    cost: float | None
    left_over: float | None
    waste: float | None
    cheapest_unit: str | None
    each: float | None
    says: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Shopping:
    """The whole list. one, thousand: money for a device and for a thousand, with assembly, of what has a price; None while nothing has one.
    unpriced: the materials that are not in them."""

    devices: int
    lines: tuple[ShoppingLine, ...]
    total: float | None
    one: float | None
    thousand: float | None
    problems: tuple[Problem, ...]
    unpriced: tuple[str, ...] = ()


#: Hundredths of the money, as they are written behind a number.
_PENCE = re.compile(r"([\d.,\s]+?)\s*(?:p|pence|penny|ct|cts|cents?|¢)\.?", re.I)


def price_of(text: str, money: str = "") -> float:
    """Money as people write it: "2.50", "2,50", "£2.50", "3 tokens", "80p" (hundredths, unless that is the plan's own money). Raises CoreError `price_unreadable`,
    `price_negative`."""
    small = None if money.strip() and _PENCE.fullmatch(f"1 {money.strip()}") else _PENCE.fullmatch(text.strip())
    m = _MONEY.match(text.strip())
    try:
        value = read(small[1], "number", "").value / 100 if small else read(m[1] if m else text, "number", "").value
    except CoreError as why:
        more = f" {why.says}" if why.code == "reading_thousands" else " Write it like 2.50 or 2,50."
        raise PlanRefused(f"“{text.strip()}” is not a price.{more}", code="price_unreadable") from why
    if value < 0:
        raise PlanRefused(f"“{text.strip()}” is below zero; a price is not.", code="price_negative")
    return value


def size_of(text: str) -> tuple[float, float]:
    """A rectangle in mm: "44 x 44 cm", "297 × 210 mm". Raises CoreError."""
    parts = _BY.split(text.strip())
    if len(parts) != 2:
        raise PlanRefused(f"“{text.strip()}” is not a rectangle; write it like 44 x 44 cm.", code="size_unreadable")
    last = read(parts[1], "length")
    first = read(parts[0], "length", last.unit)
    return convert(first.value, first.unit, "mm"), convert(last.value, last.unit, "mm")


#: Between the shapes that are cut from one sheet together.
_SHAPES = re.compile(r"\s*(?:;|\+|\band\b)\s*", re.I)


def shapes_of(text: str) -> tuple[tuple[float, float], ...]:
    """The shapes of one set in mm: "10 x 19 cm; 5 x 5 cm". Raises CoreError."""
    return tuple(size_of(part) for part in _SHAPES.split(text.strip()) if part)


def count_of(text: str) -> int:
    """A whole number above zero. Raises CoreError `count_unreadable`."""
    try:
        value = read(text, "count").value
    except CoreError as why:
        raise PlanRefused(f"“{text.strip()}” is not a number of pieces.", code="count_unreadable") from why
    if value < 1 or value != int(value):
        raise PlanRefused(f"“{text.strip()}” is not a whole number of pieces above zero.", code="count_unreadable")
    return int(value)


def _per_device(m: MaterialDraft) -> float:
    return read(m.per_device, m.form).to(_BULK[m.form]) if m.form in _BULK else float(count_of(m.per_device))


def _holds(m: MaterialDraft, pack: PackDraft) -> tuple[float, Cut | None]:
    """What one pack gives, in pieces or in the bulk unit. Raises CoreError; `pack_empty` where it gives nothing."""
    cut: Cut | None = None
    if m.form == "count":
        gives = float(count_of(pack.holds)) if pack.holds.strip() != "0" else 0.0
    elif m.form in _BULK:
        gives = read(pack.holds, m.form).to(_BULK[m.form])
    elif m.form == "length":
        gives = float(pieces_from_length(read(pack.holds, "length").to("mm"), read(m.piece, "length").to("mm")))
    else:
        shapes = shapes_of(m.piece)
        cut = sets_from_sheet(size_of(pack.holds), shapes) if len(shapes) > 1 else pieces_from_sheet(size_of(pack.holds), size_of(m.piece))
        gives = float(cut.count)
        if gives <= 0 and len(shapes) > 1:
            raise PlanRefused(f"The {len(shapes)} shapes do not fit on one sheet of {pack.holds.strip()}. List them as materials of their own.", code="pack_empty")
    if gives <= 0:
        raise PlanRefused(f"A pack that holds “{pack.holds.strip()}” gives no piece of {m.name or 'this'}.", code="pack_empty")
    return gives, cut


def shopping(draft: Draft) -> Shopping:
    """The shopping list of a draft: every material for all devices of all groups and the spare ones. A material that cannot be
    worked out is told in `problems` and the rest stands."""
    groups = max(len([g for g in draft.groups if g.strip()]), 1)
    devices = groups * (draft.materials.devices_each or max(len(draft.variable.levels), 1))
    lines: list[ShoppingLine] = []
    problems: list[Problem] = []
    for at, m in enumerate(draft.materials.items):
        try:
            lines.append(_line(m, at, devices, draft.materials.spare, problems, draft.materials.money))
        except CoreError as why:
            problems.append(Problem(code=why.code, where=f"materials.items.{at}.{why.where or 'per_device'}", says=why.says, grave=False))
    one, thousand = _costs(draft, lines, problems)
    total = None if any(li.cost is None for li in lines) or not lines else round(sum(li.cost or 0.0 for li in lines), 6)
    return Shopping(devices=devices, lines=tuple(lines), total=total, one=one, thousand=thousand, problems=tuple(problems), unpriced=tuple(li.name for li in lines if li.each is None) if one is not None else ())


def _line(m: MaterialDraft, at: int, devices: int, spare: int, problems: list[Problem], money: str) -> ShoppingLine:
    if not m.name.strip():
        raise PlanRefused("This material has no name.", code="material_blank", where="name")
    try:
        each = _per_device(m)
    except CoreError as why:
        raise why.at("per_device") from why
    several = m.form == "sheet" and len(_SHAPES.split(m.piece.strip())) > 1
    need, unit = needed(each, devices, spare), _BULK.get(m.form, "sets" if several else "pieces")
    offers = []
    for place, pack in enumerate(m.packs):
        try:
            gives, cut = _holds(m, pack)
            price = price_of(pack.price, money) if pack.price.strip() else None
        except CoreError as why:
            where = "price" if why.code.startswith("price") else "holds"
            problems.append(Problem(code=why.code, where=f"materials.items.{at}.packs.{place}.{where}", says=why.says, grave=False))
            continue
        offers.append((pack, gives, price, cut))
    return _bought(m, need, unit, each, [(p, g, c) for p, g, price, c in offers], [price for _, _, price, _ in offers])


def _bought(
    m: MaterialDraft,
    need: float,
    unit: str,
    each: float,
    offers: Sequence[tuple[PackDraft, float, Cut | None]],
    prices: Sequence[float | None],
) -> ShoppingLine:
    amount = f"{need:g} {unit}" + (f" of {m.piece.strip()}" if unit == "pieces" and m.piece.strip() else "")
    if m.form == "length" and m.piece.strip():
        piece = read(m.piece, "length")
        whole = "ft" if piece.unit in ("in", "ft", "yd") else "m"  # in the system in which the piece was written
        amount += f" ({need * piece.to(whole):g} {whole})"
    if not offers:
        return ShoppingLine(
            name=m.name.strip(),
            need=need,
            unit=unit,
            packs=(),
            cost=None,
            left_over=None,
            waste=None,
            cheapest_unit=None,
            each=None,
            says=f"{amount} in all. Name a pack to see how many to buy.",
        )
    priced = all(p is not None for p in prices)
    packs = [
        Pack(name=p.name.strip() or p.holds.strip(), size=g, price=float(price or 0.0) if priced else g)
        for (p, g, _), price in zip(offers, prices, strict=True)
    ]
    chosen = cheapest_packs(need, packs)
    left = sum(c * p.size for c, p in zip(chosen.counts, packs, strict=True)) - need
    bought = sum(c * p.size for c, p in zip(chosen.counts, packs, strict=True))
    shown = tuple(
        PackOffer(
            name=pack.name, holds=p.holds.strip(), price=pack.price if priced else 0.0, pieces=g,
            unit_price=pack.price / g if priced else None, buy=n, cost=round(n * pack.price, 6) if priced else None, cut=cut,
        )
        for pack, (p, g, cut), n in zip(packs, offers, chosen.counts, strict=True)
    )  # fmt: skip
    what = " and ".join(f"{n} × {p.name}" for n, p in zip(chosen.counts, packs, strict=True) if n)
    spare = f"; {left:g} {unit} are left over" if left > 1e-9 else "; nothing is left over"
    return ShoppingLine(
        name=m.name.strip(), need=need, unit=unit, packs=shown, cost=round(chosen.cost, 6) if priced else None, left_over=left,
        waste=_waste(m, offers, chosen.counts), cheapest_unit=chosen.best_unit_price if priced and len(packs) > 1 else None,
        each=chosen.cost / bought * each if priced and bought else None, says=f"{amount} in all: buy {what}{spare}.",
    )  # fmt: skip


def _waste(m: MaterialDraft, offers: Sequence[tuple[PackDraft, float, Cut | None]], counts: Sequence[int]) -> float | None:
    """Share of what is bought that no piece can be cut from."""
    if m.form == "sheet":
        used = [(n, cut) for (_, _, cut), n in zip(offers, counts, strict=True) if n and cut]
        whole = sum(n for n, _ in used)
        return sum(n * cut.waste for n, cut in used) / whole if whole else None
    if m.form != "length":
        return None
    piece = read(m.piece, "length").to("mm")
    bought = sum(n * read(p.holds, "length").to("mm") for (p, _, _), n in zip(offers, counts, strict=True))
    cut_out = sum(n * g * piece for (_, g, _), n in zip(offers, counts, strict=True))
    return 1 - cut_out / bought if bought else None


def _costs(draft: Draft, lines: Sequence[ShoppingLine], problems: list[Problem]) -> tuple[float | None, float | None]:
    """Money for one device and for a thousand with the time to put it together; a thousand is bought anew in the cheapest packs."""
    d = draft.materials
    lines = [li for li in lines if li.each is not None]
    if not lines:
        return None, None
    try:
        minutes = read(d.assembly_min, "time", "min").to("min") if d.assembly_min.strip() else 0.0
    except CoreError as why:
        problems.append(Problem(code=why.code, where="materials.assembly_min", says=why.says, grave=False))
        return None, None
    try:
        hourly = price_of(d.hourly, d.money) if d.hourly.strip() else 0.0
    except CoreError as why:
        problems.append(Problem(code=why.code, where="materials.hourly", says=why.says, grave=False))
        return None, None
    work = device_cost(0.0, minutes, hourly).one
    bulk = sum(
        cheapest_packs(_share(li, draft) * 1000, [Pack(name=p.name, size=p.pieces, price=p.price) for p in li.packs]).cost for li in lines
    )
    return device_cost(sum(li.each or 0.0 for li in lines), minutes, hourly).one, bulk + 1000 * work


def _share(line: ShoppingLine, draft: Draft) -> float:
    return next(_per_device(m) for m in draft.materials.items if m.name.strip() == line.name)


@dataclass(frozen=True, slots=True, kw_only=True)
class ShopBill:
    """What a device's pieces cost in play money, and what goes past the fixed list. unpriced: pieces without a shop price."""

    cost: float
    over_list: tuple[str, ...]
    unpriced: tuple[str, ...]


def shop_bill(draft: Draft, used: Sequence[tuple[str, float]]) -> ShopBill:
    """The bill of one device: used = (material, pieces). A material that the plan does not list is unpriced and, under a
    fixed list, past it."""
    known = {m.name.strip().casefold(): m for m in draft.materials.items}
    cost, over, unpriced = 0.0, [], []
    for name, pieces in used:
        m = known.get(name.strip().casefold())
        try:
            price = price_of(m.shop_price, draft.materials.money) if m is not None and m.shop_price.strip() else None
            allowed = (
                float(count_of(m.allowed))
                if m is not None and m.allowed.strip() not in ("", "0")
                else (0.0 if m is None or m.allowed.strip() == "0" else None)
            )
        except CoreError:
            price, allowed = None, None
        if price is None:
            unpriced.append(name.strip())
        else:
            cost += price * pieces
        if draft.rules.fixed_list and allowed is not None and pieces > allowed:
            over.append(f"{name.strip()}: {pieces:g} where {allowed:g} are allowed")
    return ShopBill(cost=cost, over_list=tuple(over), unpriced=tuple(unpriced))
