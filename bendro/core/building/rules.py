"""The rules a device is held to, each met or broken with its numbers."""

from __future__ import annotations

from collections.abc import Sequence

from ..draft import Draft
from ..errors import CoreError
from ..planning.arithmetic import RuleMet, mass_rules
from ..planning.materials import price_of, shop_bill
from ..readings import read
from ..written import listed, money
from .version import VersionDraft


def grams(text: str) -> float | None:
    """A written mass in g; None where nothing or no mass is written."""
    try:
        return read(text, "mass", "g").to("g") if text.strip() else None
    except CoreError:
        return None


def _number(text: str) -> float | None:
    try:
        return read(text, "number", "").value if text.strip() else None
    except CoreError:
        return None


def rules_of(draft: Draft, version: VersionDraft, *, last: VersionDraft | None, spent: float, over: Sequence[int] = ()) -> tuple[RuleMet, ...]:
    """Every rule of the plan for one version. last: the version it was made from. spent: play money that the group has
    spent with this version, for pieces that no earlier one had taken already; over: for which versions. A rule that cannot be judged yet (nothing weighed) is told as not met, with what is missing."""
    r = draft.rules
    mass, payload = grams(version.mass), grams(r.payload_mass)
    found: list[RuleMet] = []
    limit, multiple, share = grams(r.mass_limit), _number(r.payload_multiple), _number(r.share_of_last)
    if any(v is not None for v in (limit, multiple, share)):
        if mass is None:
            found.append(RuleMet(rule="weighed", met=False, says="Not weighed yet: write the mass to see its rules."))
        else:
            found += mass_rules(
                mass,
                payload_g=payload,
                limit_g=limit,
                multiple=multiple,
                last_device_g=grams(last.mass) if last is not None and share is not None else None,
                share_of_last=share if share is not None else 0.75,
            )
            if multiple is not None and payload is None:
                found.append(RuleMet(rule="multiple", met=False, says="Write the payload’s mass in the plan: the rule goes by it."))
    if r.payload_shows:
        says = "Part of the payload shows." if version.payload_shows else "Part of the payload must show, and nobody has said that it does."
        found.append(RuleMet(rule="payload_shows", met=bool(version.payload_shows), says=says))
    return (*found, *_money(draft, version, spent, over))


def _money(draft: Draft, version: VersionDraft, spent: float, over: Sequence[int]) -> Sequence[RuleMet]:
    r, found = draft.rules, []
    bill = shop_bill(draft, [(u.material, u.pieces) for u in version.used])
    coin = draft.materials.money
    if r.budget.strip():
        try:
            budget = price_of(r.budget, draft.materials.money)
        except CoreError as why:
            return [RuleMet(rule="budget", met=False, says=why.says)]
        left = budget - spent
        whose = f" over versions {listed([str(n) for n in over])}" if len(over) > 1 else ""
        says = f"{money(spent, coin)} of {money(budget, coin)} spent{whose}; {money(abs(left), coin)} {'left' if left >= 0 else 'too much'}."
        found.append(RuleMet(rule="budget", met=left >= 0, says=says))
        if bill.unpriced:
            found.append(
                RuleMet(rule="unpriced", met=False, says=f"No shop price for {', '.join(bill.unpriced)}: add it to the materials.")
            )
    if r.fixed_list:
        says = "Everything is on the list." if not bill.over_list else f"Past the list: {'; '.join(bill.over_list)}."
        found.append(RuleMet(rule="fixed_list", met=not bill.over_list, says=says))
    return found
