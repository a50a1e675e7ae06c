"""The versions of a study's devices looked at together: what each changed, which rules it keeps, what it costs."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..draft import Draft
from ..planning.arithmetic import RuleMet
from ..planning.materials import shop_bill
from ..record.study import VersionTold
from .rules import grams, rules_of
from .version import Change, VersionDraft, changes, newly_taken, says_lost, says_of

#: Rules that cannot be judged yet are no rules that are broken.
_NOT_JUDGED = frozenset({"weighed", "unpriced"})


@dataclass(frozen=True, slots=True, kw_only=True)
class InLine:
    """One version beside the one it was made from. says: what changed, for the class; cost: play money of its pieces."""

    draft: VersionDraft
    changed: tuple[Change, ...]
    says: str
    rules: tuple[RuleMet, ...]
    cost: float


def in_line(plan: Draft, typed: Mapping[tuple[str, int], VersionDraft]) -> dict[tuple[str, int], InLine]:
    """Each version by its device and number, in the order given; those of one device must be in the order of their numbers."""
    spent: dict[str, float] = {}
    paid: dict[str, list[int]] = {}  # versions for which something was bought
    made = {}
    for (device, number), draft in typed.items():
        before = typed.get((device, draft.since)) if draft.since else None
        changed = changes(before, draft) if before is not None else ()
        new = shop_bill(plan, newly_taken(before, draft)).cost
        made[device, number] = InLine(
            draft=draft,
            changed=changed,
            says=says_of(changed, draft.since) if before is not None or not draft.since else says_lost(draft.since),
            rules=rules_of(plan, draft, last=before, spent=spent.get(device, 0.0) + new, over=(*paid.get(device, []), number)),
            cost=shop_bill(plan, [(u.material, u.pieces) for u in draft.used]).cost,
        )
        spent[device] = spent.get(device, 0.0) + new
        paid.setdefault(device, []).extend([number] if new else [])
    return made


def told(device: str, number: int, one: InLine) -> VersionTold:
    """A version as the record has it."""
    body = one.draft
    # nobody has said yet whether the payload shows: that is a question, no broken rule
    broken = [r.says for r in one.rules if not r.met and r.rule not in _NOT_JUDGED and not (r.rule == "payload_shows" and body.payload_shows is None)]
    return VersionTold(
        device=device, number=number, since=body.since, changed=tuple(str(c) for c in one.changed), why=body.why, failed=body.failed, mass=grams(body.mass),
        cost=one.cost if body.used else None, broken=tuple(broken), properties={p.name.strip(): p.value for p in body.properties if p.name.strip()},
        measured={p.name.strip(): p.value for p in body.measured if p.value.strip()},
    )  # fmt: skip
