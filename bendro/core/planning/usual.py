"""A family's usual tests as whole plans, and its usual derived measures bound to what a plan has."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..draft import (
    Binding,
    DerivedDraft,
    Draft,
    DropDraft,
    Held,
    MaterialDraft,
    MaterialsDraft,
    MeasureDraft,
    RulesDraft,
    TemplatesDraft,
    TimingDraft,
    VariableDraft,
)
from ..families import family
from ..families.schema import Family, Measure, WorkedOut
from ..measuring.scales import scale_named
from ..words import said


@dataclass(frozen=True, slots=True, kw_only=True)
class Offer:
    """A derived measure that the plan could have with one press. needs: measures that it reads and the plan does not have yet, ready to
    be added with it."""

    derived: DerivedDraft
    needs: tuple[MeasureDraft, ...]


def measure_draft(m: Measure, measure_id: str = "", *, survived: int = 0) -> MeasureDraft:
    """A measure of the family as a plan has it."""
    return MeasureDraft(
        id=measure_id, name=m.name, scale=m.scale, quantity=m.quantity, unit=m.unit, rule=m.rule, step=f"{m.step:g}" if scale_named(m.scale).number and not scale_named(m.scale).whole and m.quantity != "count" else "",
        better=m.better, signed=m.signed, timed=m.timed, timers=m.timers, words=list(m.words), survived=survived, each_payload=m.each_payload, of=m.of,
    )  # fmt: skip


def usual_plan(family_id: str, test_id: str) -> Draft | None:
    """The whole plan of a usual test; None where the family has no such test. What stores energy or height is left to the teacher, who
    sets the limit first, and the prediction to the class."""
    fam = family(family_id)
    test = next((t for t in fam.tests if t.id == test_id), None)
    if test is None:
        return None
    own = {m.name: m for m in fam.measures}
    first = own[test.measures[0]]
    draft = Draft(
        question=test.says,
        family=fam.id,
        asked_by="teacher",
        study_kind=test.kind,
        variable=_variable(fam, test.variable, test.levels),
        second=None if test.second is None else _variable(fam, test.second.variable, test.second.levels),
        measures=[measure_draft(own[name], f"m{n}", survived=test.survived if n == 1 else 0) for n, name in enumerate(test.measures, 1)],
        hold=[Held(name=h.name, value=h.value, tolerance=h.tolerance, how=h.how) for h in test.hold],
        repeats=test.repeats,
        people=test.people,
        void_rule=test.void_rule,
        compared=test.compared,
        drop=None if test.drop is None else DropDraft(plan=test.drop.plan, payload=test.drop.payload),
        margin=test.margin,
        rank=test.rank,
        result=test.result,
        rules=RulesDraft(**test.rules.model_dump()),
        templates=TemplatesDraft(device=test.device),
        payloads=list(test.payloads),
        materials=MaterialsDraft(
            devices_each=1 if test.one_device or test.kind != "fair_test" else 0,
            items=[MaterialDraft(name=m.name, form=m.form, per_device=m.per_device, piece=m.piece) for m in test.materials]
        ),
        timing=TimingDraft(setup_s=fam.setup_s, reset_s=fam.reset_s, flight_s=first.flight_s, reading_s=first.reading_s),
    )
    if test.timers:
        draft = draft.model_copy(update={"measures": [draft.measure.model_copy(update={"timers": test.timers}), *draft.measures[1:]]})
    for name in test.worked:
        offer = _offer(draft, fam, next(w for w in fam.worked if w.name == name))
        draft = draft.model_copy(update={"measures": [*draft.measures, *offer.needs], "derived": [*draft.derived, offer.derived]})
    return Draft.model_validate(draft.model_dump())


def _variable(fam: Family, name: str, levels: Sequence[str]) -> VariableDraft:
    """A variable of the family; what it does not have are the devices of a contest or the versions of design rounds, told apart by name."""
    known = next((v for v in fam.variables if v.name == name), None)
    if known is None:
        return VariableDraft(name=name, kind="name", levels=list(levels))
    return VariableDraft(name=known.name, kind=known.kind, quantity=known.quantity or "number", unit=known.unit, levels=list(levels))


def offers(draft: Draft) -> tuple[Offer, ...]:
    """The family's usual derived measures that the plan does not have yet, each bound to what the plan has. One that needs another
    derived measure is offered once that is there."""
    if not draft.family:
        return ()
    fam = family(draft.family)
    have = {said(d.name) for d in draft.derived}
    return tuple(
        _offer(draft, fam, w)
        for w in fam.worked
        if said(w.name) not in have and all(said(s.partition(":")[2]) in have for s in w.inputs.values() if s.startswith("worked:"))
    )


def _offer(draft: Draft, fam: Family, w: WorkedOut) -> Offer:
    ids = {said(m.name): m.id for m in draft.measures}
    worked = {said(d.name): d.id for d in draft.derived}
    needs: list[MeasureDraft] = []
    inputs = []
    for name, source in w.inputs.items():
        kind, _, of = source.partition(":")
        if kind == "typed":
            inputs.append(Binding(input=name, source="typed"))
        elif kind == "worked":
            inputs.append(Binding(input=name, source="reading", of=worked.get(said(of), "")))
        elif kind == "reading":
            if said(of) not in ids:
                free = next(f"m{n}" for n in range(1, 99) if f"m{n}" not in ids.values())
                ids[said(of)] = free
                needs.append(measure_draft(next(m for m in fam.measures if m.name == of), free))
            inputs.append(Binding(input=name, source="reading", of=ids[said(of)]))
        elif kind == "held" and _is_the_setting(draft, of):
            inputs.append(Binding(input=name, source="setting"))
        else:
            inputs.append(Binding(input=name, source="held" if kind == "held" else "version", of=of))
    taken = {d.id for d in draft.derived}
    free = next(f"d{n}" for n in range(1, 99) if f"d{n}" not in taken)
    return Offer(derived=DerivedDraft(id=free, name=w.name, calculator=w.calculator, output=w.output, unit=w.unit, better=w.better, inputs=inputs), needs=tuple(needs))


def _is_the_setting(draft: Draft, held: str) -> bool:
    """A thing that is usually held, changed in this plan: the pull-back for the pull-back mark."""
    changed = said(draft.variable.name)
    return bool(changed) and (said(held) == changed or said(held).startswith(f"{changed} "))
