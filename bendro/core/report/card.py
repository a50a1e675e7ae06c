"""What a product card says of the best device: its version's, as it was when the card was made."""

from __future__ import annotations

from dataclasses import dataclass

from ..conclusion.model import Conclusion
from ..errors import CoreError
from ..planning.materials import shopping
from ..record.built import version_at
from ..record.study import StudyRecord, VersionTold
from ..written import listed, with_unit


@dataclass(frozen=True, slots=True, kw_only=True)
class CardFacts:
    """name: of the device that is shown. Each further fact as it is written, "" where it is not known. one, thousand: what one and a thousand of
    them cost."""

    name: str
    mass: str
    parts: str
    one: str
    thousand: str
    assembly: str


def card_of(record: StudyRecord, c: Conclusion) -> CardFacts:
    """The card of the device that stands first by the rule agreed. Prices are those of the plan's materials, which are one device's."""
    draft, version = record.draft, shown_version(record, c)
    money = draft.materials.money
    parts, one, thousand, without = "", None, None, ""
    try:
        whole = shopping(draft)
        parts, one, thousand = ", ".join(line.name for line in whole.lines), whole.one, whole.thousand
        without = f" without {listed(whole.unpriced)}, which {'has' if len(whole.unpriced) == 1 else 'have'} no price" if whole.unpriced else ""
    except CoreError:  # what cannot be counted yet is told on the page of materials
        pass
    assembly = draft.materials.assembly_min.strip()
    return CardFacts(
        name=_name(record, c, version),
        mass="" if version is None or version.mass is None else f"{version.mass:g} g",
        parts=parts,
        one=_price(one, money) and f"{_price(one, money)}{without}",
        thousand=_price(thousand, money) and f"{_price(thousand, money)}{without}",
        assembly=f"{assembly} min" if assembly else "",
    )


def shown_version(record: StudyRecord, c: Conclusion) -> VersionTold | None:
    """The version that a card is about: in design rounds the best one; in a contest the best device's; in a fair test one
    that was built for the best level; else the only device's newest."""
    if record.draft.study_kind == "design_rounds":
        return next((v for n, v in record.line_of().items() if n in c.best), None)
    named = next((v for label in c.best if (v := version_at(record, label)) is not None), None)
    if named is not None:
        return named
    devices = {v.device for v in record.versions}
    return max(record.versions, key=lambda v: v.number) if len(devices) == 1 else None


def _name(record: StudyRecord, c: Conclusion, version: VersionTold | None) -> str:
    """A device by its own name; a level ("6 cm") is no name, so it stands with what was changed."""
    if record.draft.study_kind == "contest" and c.best:
        return c.best[0]
    if version is not None and (record.draft.study_kind == "design_rounds" or version.number > 1):
        return f"{version.device}, version {version.number}"
    if version is not None and len({v.device for v in record.versions}) == 1:
        return version.device
    return f"{record.title}: {record.draft.variable.name} {c.best[0]}" if c.best else record.title


def _price(value: float | None, money: str) -> str:
    return "" if value is None else with_unit(f"{value:,.2f}", money) if money else f"{value:,.2f}"
