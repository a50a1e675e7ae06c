"""How a study was really run, from its record: how often, in which order, timed and released by whom, under which conditions."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from itertools import pairwise

from ..draft import Draft
from ..measuring.scales import scale_of
from ..measuring.taking import STEADY, passed_said
from ..planning.choices import label_of
from ..planning.plan import planned_levels, runs_heats
from ..record.responses import result_of_plan
from ..record.seen import TrialSeen
from ..record.study import StudyRecord
from ..results import Analysis
from ..written import RESULT_SAID, listed, plural, sentence
from .kept_same import kept_same
from .model import AsRun, KeptSame

#: By which school a study was judged.
_JUDGED = {"shuffle": "by shuffling the readings among the levels", "interval": "by 95 % intervals", "ranges": "by whether ranges touch"}
_STEADILY = {
    "frames": "from video frames", "camera": "by the camera as a gate", "followed": "by following it through a clip", "sound": "by sound",
    "felt": "by a phone that felt the fall", "gate": "by a gate", "scale": "by a scale", "meter": "by a meter", "picture": "off a picture",
}  # fmt: skip
ONE_AFTER_THE_OTHER = "one level after another"


def as_run(record: StudyRecord, found: Analysis, held: Sequence[KeptSame] | None = None) -> AsRun:
    """The ways that the counted trials of a study were run. held: what was kept the same, where it is known already."""
    draft, counted = record.draft, record.counted
    kept = [s.n_kept for s in found.levels if s.n_kept]
    each = "No trial yet" if not kept else f"{plural(kept[0], 'trial')} each" if min(kept) == max(kept) else f"{min(kept)} to {max(kept)} trials each"
    order, timers, people = order_of(draft, counted), timers_of(draft, counted), people_of(counted)
    void = sum(t.state == "void" and t.place not in ("outside", "practice") for t in record.trials)
    short = ", ".join(p for p in (each, order, timers) if p)
    return AsRun(
        each=each,
        order=order,
        timers=timers,
        people=people,
        short=f"{short}.",
        line=line_of(draft),
        lines=_lines(record, found, each, order, timers, people, void, kept_same(record) if held is None else held),
        not_followed=_not_followed(draft, counted, [] if found.verdict.so_far else kept, order),
    )


def line_of(draft: Draft) -> str:
    """Which outcomes count as survived, by the line that was agreed; "" where the first measure is none of survival."""
    m = draft.measure
    above = [" ".join(w.split()) for w in m.words[: m.survived]]
    if not scale_of(m).survives or not above or passed_said(m) != "survived":
        return ""
    return f"Only “{above[0]}” counts as survived." if len(above) == 1 else f"{listed([f'“{w}”' for w in above])} count as survived."


def order_of(draft: Draft, counted: Sequence[TrialSeen]) -> str:
    """In which order the levels were released, as it happened; "" where there is nothing to order."""
    levels = {t.level for t in counted}
    if len(levels) < 2:
        return ""
    if draft.order == "unknown":
        return "in an order that the table does not tell"
    heats = {t.heat for t in counted if t.heat}
    if heats and all(t.heat for t in counted):
        return f"side by side in {plural(len(heats), 'heat')}"
    ran = [t.level for t in sorted(counted, key=lambda t: t.number)]
    n = len(levels)
    if sum(a != b for a, b in pairwise(ran)) == n - 1:
        if len(ran) == n:
            return ""  # each level once, so there is no order to tell
        return "version after version" if draft.study_kind == "design_rounds" else ONE_AFTER_THE_OTHER
    rounds = [ran[i : i + n] for i in range(0, len(ran), n)]
    if all(len(set(one)) == len(one) for one in rounds):
        alike = all(one == rounds[0][: len(one)] for one in rounds)
        return "round by round in the same order" if alike else "block by block, the levels mixed within each"
    return "the levels mixed"


def timers_of(draft: Draft, counted: Sequence[TrialSeen]) -> str:
    """How times were taken, and by how many hands; "" for what is not timed."""
    first = draft.measure
    if scale_of(first).quantity(first) != "time" or not first.timed:
        return ""  # read off a picture, as a stop time is: no hand has timed it
    readings = [r for t in counted if (r := t.of(first.id)) is not None and r.reading is not None]
    if not readings:
        return ""
    steady = Counter(r.taken for r in readings if r.taken in STEADY)
    if steady and sum(steady.values()) == len(readings):
        return "timed " + listed([_STEADILY.get(how, how) for how in steady])
    if all(r.taken == "table" for r in readings) and not any(r.reading is not None and r.reading.timers for r in readings):
        return ""  # a table does not tell how its times were taken
    hands = [max(1, len(r.reading.timers or ())) for r in readings if r.reading is not None and r.taken not in STEADY]
    low, high = min(hands), max(hands)
    by = f"timed by {plural(high, 'hand')}" if low == high else f"timed by {low} to {high} hands"
    return by if not steady else f"{by}, {sum(steady.values())} of {len(readings)} {listed([_STEADILY.get(how, how) for how in steady])}"


def people_of(counted: Sequence[TrialSeen]) -> str:
    """How many released them; "" where it was not written down for every trial."""
    people = {t.person for t in counted}
    if not counted or "" in people:
        return ""
    return "released by one person" if len(people) == 1 else f"released by {len(people)} people in turn"


def _not_followed(draft: Draft, counted: Sequence[TrialSeen], kept: Sequence[int], order: str) -> tuple[str, ...]:
    told = []
    rounds = draft.study_kind == "design_rounds" or runs_heats(draft)
    if draft.order in ("blocks", "random") and order == ONE_AFTER_THE_OTHER and not rounds:
        told.append("The plan shuffles the levels; they were run one after another.")
    if kept and min(kept) < draft.repeats:
        told.append(f"The plan has {draft.repeats} repeats; {'one level has' if sum(k < draft.repeats for k in kept) == 1 else 'some levels have'} {min(kept)}.")
    first = draft.measure
    if first.timed and first.timers > 1:
        readings = [r for t in counted if (r := t.of(first.id)) is not None and r.reading is not None and r.taken not in STEADY]
        most = max((len(r.reading.timers or (0,)) for r in readings if r.reading is not None), default=first.timers)
        if most < first.timers:
            told.append(f"The plan has {first.timers} timers; there {'was one' if most == 1 else f'were {most}'}.")
    return tuple(told)


def _lines(
    record: StudyRecord, found: Analysis, each: str, order: str, timers: str, people: str, void: int, held: Sequence[KeptSame]
) -> tuple[str, ...]:
    draft, m = record.draft, record.draft.measure
    tried = {t.level for t in record.counted}
    labels = [p.label for p in planned_levels(draft) if p.id in tried or not tried]
    changed = draft.variable.name or "the level"
    if draft.second is not None:
        changed = f"{changed} and {draft.second.name}"
    read_in = scale_of(m).unit(m)
    unit = "" if read_in in ("", "count") else f" in {read_in}"
    lines = [
        f"Changed: {changed} ({'; '.join(labels) if draft.second is not None else ', '.join(labels)}).",
        sentence(f"Measured: {m.name or 'the reading'}{unit}. {m.rule.strip()}"),
        f"{', '.join(p for p in (each, order, timers, people) if p)}{f'; {void} void' if void else ''}.",
    ]
    lines += [line_of(draft)] if line_of(draft) else []
    lines += [sentence(f"Start line: {draft.start_line.strip()}")] if draft.start_line.strip() else []
    lines += [sentence(f"Void when: {draft.void_rule.strip()}")] if draft.void_rule.strip() else []
    faults = [t.fault for t in record.trials if t.state == "void" and t.place not in ("outside", "practice")]
    if faults:
        lines.append("Void: " + ", ".join(f"{fault} ({n})" for fault, n in Counter(faults).most_common()) + ".")
    recorded = [k.says for k in held if k.state != "said"]
    lines += [sentence(f"As it was recorded: {'; '.join(recorded)}")] if recorded else []
    rule = label_of("rank", draft.rank, "") if draft.study_kind == "contest" and draft.rank != "result" else ""
    by = f"Places by {rule}." if rule else f"Judged {_JUDGED[draft.evidence]}; the result of a level is its {RESULT_SAID[result_of_plan(draft)]}, of all kept trials."
    lines.append(by)
    estimated = sum(s.estimated for s in found.levels)
    return (*lines, f"{plural(estimated, 'reading')} {'is an estimate' if estimated == 1 else 'are estimates'}.") if estimated else tuple(lines)
