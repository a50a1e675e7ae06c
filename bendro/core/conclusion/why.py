"""How a verdict came about, for whoever wants to check it: the trials as given, what was asked, each finding, and each rule that decided."""

from __future__ import annotations

from dataclasses import MISSING, fields

from ..asking import asked_of
from ..context import Context
from ..judgement.deciding import BOUND, LEANING_P, of_difference, of_groups, of_survival, of_trend
from ..record.given import given
from ..record.responses import response_named
from ..record.study import StudyRecord
from ..results import Analysis, DifferenceEffect, GroupsEffect, NoEffect, PairedEffect, SurvivalEffect, TrendEffect

#: Of what is asked, what stands elsewhere in the lines already.
_ELSEWHERE = frozenset({"forms", "settings", "agreed", "level_order"})


def why(record: StudyRecord, found: Analysis, response: str = "") -> tuple[str, ...]:
    """Lines from the trials to the answer. found: the analysis of this response over the variable. Raises PlanRefused."""
    _, asked = asked_of(record, response)
    return (*_trials(record, response), "", *_asked(asked), "", *_findings(found), "", *_decided(found, asked))


def _trials(record: StudyRecord, response: str) -> list[str]:
    one = response_named(record.draft, response)
    assert one is not None  # asked_of has refused it otherwise
    lines = [f"Trials as they give {one.name}:"]
    for t in record.trials:
        if t.place == "outside":
            lines.append(f"  {t.number}. {t.level}: outside the plan. {t.why}")
        elif t.place == "practice":
            lines.append(f"  {t.number}. {t.level}: practice, never counted")
        elif t.state == "void":
            lines.append(f"  {t.number}. {t.level}: void, {t.fault}")
        else:
            got = given(record.draft, t, one, record.work)
            lines.append(f"  {t.number}. {t.level}{f' at {t.rung}' if t.rung else ''}: {got.text or f'nothing ({got.why})'}{' (a further one of its turn)' if t.place == 'extra' else ''}")
    return lines


def _asked(asked: Context) -> list[str]:
    """What is asked, where it is not as usual."""
    lines = ["What is asked:"]
    for f in fields(asked):
        usual = f.default if f.default is not MISSING else f.default_factory() if f.default_factory is not MISSING else None
        value = getattr(asked, f.name)
        if f.name not in _ELSEWHERE and value != usual:
            lines.append(f"  {f.name.replace('_', ' ')}: {value}")
    return lines


def _findings(found: Analysis) -> list[str]:
    lines = ["Doubts:"]
    for f in found.audit:
        cap = {"none": "", "leaning": " → the answer leans at most", "cannot_tell": " → the answer is “cannot tell”"}[f.caps]
        lines.append(f"  {f.severity} {f.code}: {f.says}{cap}")
    lines.append(f"  looked for and not found: {', '.join(found.audit_checked) or 'nothing could be looked at'}")
    return lines


def _decided(found: Analysis, asked: Context) -> list[str]:
    """The evidence that decided, its p, and the bounds that it was held against."""
    effect, lines = found.effect, ["What decided:"]
    if isinstance(effect, NoEffect):
        return [*lines, f"  {effect.says}"]
    decision = None
    if isinstance(effect, DifferenceEffect | PairedEffect):
        decision = of_difference(effect.difference, asked.evidence)
    elif isinstance(effect, TrendEffect):
        decision = of_trend(effect.trend, sum(1 for s in found.levels if s.n_kept), asked.evidence)
    elif isinstance(effect, GroupsEffect):
        decision = of_groups(effect.groups, asked.evidence)
    elif isinstance(effect, SurvivalEffect):
        decision = of_survival(effect.survival)
    bound = BOUND[asked.stage]
    if decision is not None and not asked.rounds and found.two is None:
        p = "none" if decision.p is None else f"{decision.p:.3g}"
        lines.append(f"  school: {asked.evidence}; decided by: {decision.by}; p = {p}; clear at or below {bound:g} (stage: {asked.stage}), leaning at or below {LEANING_P:g}")
        said = [("steps of the shuffle too coarse", decision.coarse), ("levels have unlike numbers of trials", decision.unlike), ("one level may scatter more", decision.unequal)]
        lines += [f"  {text}" for text, holds in said if holds]
    if found.two is not None:
        lines += [f"  {m.name}: {m.answer}, p among three questions = {m.p}" for m in (found.two.first, found.two.second)]
        lines.append(f"  one depends on the other: {found.two.depends}, p among three questions = {found.two.p_depends}")
    lines += [f"  {a.says} ({a.answer})" for a in found.against]
    lines.append(f"  answer: {found.verdict.answer}{' so far' if found.verdict.so_far else ''}")
    return lines

