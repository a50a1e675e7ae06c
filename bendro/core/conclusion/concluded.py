"""From what was analysed to the conclusion: the one place where a study's findings are put into words for every surface."""

from __future__ import annotations

import hashlib
import json
from collections import Counter
from collections.abc import Callable, Mapping, Sequence

from ..draft import Draft
from ..errors import CoreError
from ..measuring.scales import scale_of
from ..planning.choices import label_of
from ..planning.plan import planned_levels
from ..record.built import built_for
from ..record.responses import ResponseSeen, response_named, responses_of, result_of_plan
from ..record.seen import TrialSeen
from ..record.study import StudyRecord
from ..record.two_measures import TwoMeasures, two_measures
from ..results import Analysis, LevelSummary, Ranked, SurvivalEffect
from ..written import RESULT_SAID, listed, start, with_unit
from .as_run import as_run
from .kept_same import kept_same
from .model import Beside, Conclusion, MadeOf, Numbered, Placed, VersionLine, WordsAt

#: How sure an answer is, in one sentence wherever it is said.
SURE = {
    "clear": "Luck would hardly do this.",
    "leaning": "It leans one way, and luck could still have done it.",
    "cannot_tell": "It cannot be told from luck yet.",
}


def conclude(record: StudyRecord, analysed: Callable[[str], Analysis], *, core: str = "") -> Conclusion:
    """The conclusion of a study from its record. analysed: gives the analysis of a measure by its identity, "" for the first; a further one that
    cannot be compared (CoreError), such as one of which only a bound was read, says nothing beside. Raises CoreError where the first cannot."""
    first = analysed("")
    others: list[tuple[ResponseSeen, Analysis]] = []
    for one in responses_of(record.draft)[1:]:
        if one.shape == "behaviour":
            continue
        try:
            others.append((one, analysed(one.id)))
        except CoreError:
            continue
    return concluded(record, first, others, core=core)


def concluded(record: StudyRecord, found: Analysis, others: Sequence[tuple[ResponseSeen, Analysis]] = (), *, core: str = "") -> Conclusion:
    """The conclusion of a study. found: the analysis of its first measure over its variable; others: of its further measures. core: version of
    the core."""
    draft, verdict = record.draft, found.verdict
    held = kept_same(record)
    places = placed(draft, found)
    decided = two_measures(draft, record.trials)
    best, why = _best(draft, found, places, decided)
    return Conclusion(
        question=draft.question.strip(),
        answer=verdict.answer,
        so_far=verdict.so_far,
        headline=verdict.headline,
        more="".join(s.text for s in verdict.more).strip(),
        detail=verdict.detail or "",
        prediction=verdict.prediction or "",
        next=verdict.next,
        act=verdict.act,
        as_run=as_run(record, found, held),
        kept_same=held,
        rule=rule_said(draft),
        places=places,
        places_said=" ".join(part for part in (places_said(places), _otherwise(draft, places, decided)) if part),
        best=best,
        best_why=why,
        numbers=numbered(draft, found),
        unit="" if found.response.unit in (None, "count") else found.response.unit or "",
        against=found.against,
        besides=tuple(_beside(one, a) for one, a in others),
        two_measures="" if decided is None else decided.says,
        behaviours=_words(draft, record.counted, lambda t: t.behaviours),
        faults=_words(draft, [t for t in record.trials if t.state == "void" and t.place not in ("outside", "practice")], lambda t: (t.fault,)),
        versions=_versions(record, found),
        doubts=found.audit,
        made_of=_made_of(record, core),
    )


def rule_said(draft: Draft) -> str:
    """What the result of a level goes by, in words."""
    if draft.study_kind == "contest" and draft.rank != "result":
        return label_of("rank", draft.rank, "").removeprefix("the ")
    one = response_named(draft)
    return f"share that {one.passed}" if one is not None and one.shape == "survival" else RESULT_SAID[result_of_plan(draft)]


def placed(draft: Draft, found: Analysis) -> tuple[Placed, ...]:
    """The levels in the order of the results, as they are called and drawn."""
    at = {p.shown: (n, p.label) for n, p in enumerate(planned_levels(draft))}

    def one(r: Ranked) -> Placed:
        shape, label = at.get(r.level, (0, str(r.level)))
        return Placed(
            level=r.level, label=label, shape=shape, place=r.place, shared=r.shared, result=r.result, why=r.why, apart_from_next=r.apart_from_next, outside=r.outside
        )

    return tuple(one(r) for r in found.ranking)


def _otherwise(draft: Draft, places: Sequence[Placed], decided: TwoMeasures | None) -> str:
    """Beside places by one measure, what is best by both, where that is another."""
    if decided is None or not decided.best:
        return ""
    label = next(p.label for p in planned_levels(draft) if p.id == decided.best)
    first = [p.label for p in places if p.place == 1]
    return "" if label in first else f"By {draft.measure.name} alone; by both measures {label} is best."


def places_said(places: Sequence[Placed]) -> str:
    """One line beside the places, on what the trials can tell apart; "" where that was not looked at."""
    inside = [p for p in places if p.place is not None]
    looked = [(a, b) for a, b in zip(inside, inside[1:], strict=False) if a.apart_from_next is not None and a.place != b.place]
    like = [(a.label, b.label) for a, b in looked if a.apart_from_next is False]
    if not like:
        return ""
    if len(like) == len(looked):
        return "By results; the trials cannot tell neighbours apart yet." if len(inside) > 2 else "By results; the trials cannot tell the two apart yet."
    named = "; ".join(f"{one} and {two}" for one, two in like[:3])
    return f"The trials cannot tell apart: {named}{' and more' if len(like) > 3 else ''}."


def _best(draft: Draft, found: Analysis, places: Sequence[Placed], decided: TwoMeasures | None) -> tuple[tuple[str, ...], str]:
    """Who stands first by the rule agreed, and how sure that is."""
    if decided is not None and decided.best:
        label = next(p.label for p in planned_levels(draft) if p.id == decided.best)
        return (label,), decided.says
    inside = [p for p in places if p.place is not None]
    first = [p for p in inside if p.place == 1]
    if not first:
        below = [p for p in places if p.outside]
        return (), "No device keeps the rules yet." if below else "No trial is kept yet, so none is best."
    names = listed([f"{draft.variable.name} {p.label}" if draft.study_kind == "design_rounds" else p.label for p in first])
    rest = inside[len(first) :]
    like = rest[0].label if rest and first[-1].apart_from_next is False else ""
    sure = f"The trials cannot tell {'it' if len(first) == 1 else 'them'} from {like} yet." if like else SURE[found.verdict.answer]
    by = f"By the {rule_said(draft)} {names} {'is best' if len(first) == 1 else 'share the first place; they are best'}."
    return tuple(p.label for p in first), f"{by} {sure}" if decided is None else f"{by} {decided.says}"


def numbered(draft: Draft, found: Analysis) -> tuple[Numbered, ...]:
    """The numbers of every level that was tried, as they are written."""
    labels = {p.shown: p.label for p in planned_levels(draft)}
    unit = found.response.unit
    if isinstance(found.effect, SurvivalEffect):
        kept = {s.level: s for s in found.levels}
        return tuple(
            Numbered(
                level=s.level, label=labels.get(s.level, str(s.level)), kept=s.n, void=kept[s.level].n_void if s.level in kept else 0, result=f"{s.survived} of {s.n}",
                interval=f"{100 * s.wilson95[0]:.0f} to {100 * s.wilson95[1]:.0f} %",
            )
            for s in found.effect.survival.levels
        )  # fmt: skip
    return tuple(_numbered(s, labels.get(s.level, str(s.level)), unit, draft) for s in found.levels if s.n_kept or s.n_void)


def _numbered(s: LevelSummary, label: str, unit: str | None, draft: Draft) -> Numbered:
    shown = s.shown
    if shown is None:
        return Numbered(level=s.level, label=label, kept=s.n_kept, void=s.n_void, result="")
    school = draft.doubt if draft.doubt != "auto" else "half_range" if draft.reading_level == "first" else "ci95"
    doubt = {"half_range": shown.half_range and f"± {shown.half_range}", "sd": shown.sd and f"SD {shown.sd}", "ci95": shown.ci95}[school] or ""
    # the doubt of a mean says nothing about a total, a median or a best
    spread = doubt if draft.result == "mean" else f"± {shown.half_range} (half the range)" if shown.half_range and draft.result == "median" else ""
    return Numbered(
        level=s.level, label=label, kept=s.n_kept, void=s.n_void, result=with_unit(shown.result, unit), mean=shown.mean, median=shown.median,
        best=shown.best or "", total=shown.total or "", spread=spread, interval=shown.ci95 or "",
    )  # fmt: skip


def _beside(one: ResponseSeen, found: Analysis) -> Beside:
    """A further measure in a sentence."""
    lean = f" {found.lean}" if found.lean else ""
    kept = [s for s in found.levels if s.n_kept]
    if len(kept) > 1 and len({v for s in kept for v in (s.min, s.max)}) == 1 and kept[0].shown is not None and kept[0].min is not None:
        return Beside(about=one.name, answer="cannot_tell", says=f"{start(one.name)} was {with_unit(kept[0].shown.mean, one.unit)} in every trial.")
    return Beside(about=one.name, answer=found.verdict.answer, says=f"{found.verdict.headline}{lean}")


def _words(draft: Draft, trials: Sequence[TrialSeen], of: Callable[[TrialSeen], Sequence[str]]) -> tuple[WordsAt, ...]:
    made = []
    for p in planned_levels(draft):
        mine = [t for t in trials if t.level == p.id and any(of(t))]
        if mine:
            counts = Counter(w for t in mine for w in of(t) if w)
            made.append(WordsAt(label=p.label, trials=len(mine), says=", ".join(f"{word} {n}" for word, n in counts.most_common())))
    return tuple(made)


def _versions(record: StudyRecord, found: Analysis) -> tuple[VersionLine, ...]:
    """Every version with what changed and what came of it; in design rounds with its result, in a contest with its device's, in a fair test with
    that of the level that it was built for."""
    results: Mapping[str, str] = {p.label: p.result for p in placed(record.draft, found)}
    line = record.line_of() if record.draft.study_kind == "design_rounds" else {}
    used = {p.text: v.number for p in planned_levels(record.draft) if (v := record.used_by(p.text)) is not None}
    at = {} if record.draft.study_kind != "fair_test" else {id(v): results.get(p.label, "") for p in planned_levels(record.draft) for v in built_for(record.draft, record.versions, p)}
    made = []
    for v in record.versions:
        mine = line.get(str(v.number))
        result = results.get(str(v.number), "") if mine is v else results.get(v.device, "") if used.get(v.device) == v.number else at.get(id(v), "")
        made.append(VersionLine(device=v.device, number=v.number, since=v.since, changed=v.changed, result=result, failed=v.failed))
    return tuple(made)


def _made_of(record: StudyRecord, core: str) -> MadeOf:
    trials = hashlib.sha256()
    for t in record.trials:  # by what they tell, not by identities: a package that was read in is the same study
        told = [t.number, t.level, t.place, t.state, [[r.measure, r.payload, list(r.texts), r.unit] for r in t.readings]]
        trials.update(json.dumps(told, ensure_ascii=False).encode())
    plan = hashlib.sha256(record.draft.model_dump_json().encode())
    return MadeOf(core=core, plan=plan.hexdigest()[:16], trials=trials.hexdigest()[:16], counted=len(record.counted))


def _which(draft: Draft, labels: Sequence[str]) -> str:
    """Levels as they are called in a sentence: a version by its word."""
    return listed(labels) if draft.study_kind != "design_rounds" else f"version{'' if len(labels) == 1 else 's'} {listed(labels)}"


def best_said(draft: Draft, conclusion: Conclusion) -> str:
    """What the best does, as a product card has it; "" where none is first."""
    first = [p for p in conclusion.places if p.label in conclusion.best]
    if not first:
        return ""
    shown = responses_of(draft)[0]
    name = shown.name if shown.shape == "rungs" else scale_of(draft.measure).result_name(draft.measure)
    return f"{name[:1].upper()}{name[1:]}: {first[0].result or first[0].why} ({_which(draft, [p.label for p in first])})."
