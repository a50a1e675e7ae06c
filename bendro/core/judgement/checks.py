"""The further checks of the audit: design, people, tools, payloads. Each answers with a finding, with nothing, or with
NOT_LOOKED when the trials do not tell."""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Sequence

import numpy as np

from ..readings import find_unit
from ..results import Act, Finding, LevelName
from ..statistics.compare import spreads_differ
from ..statistics.odd import ODD_P, SLIP_P, odd_of_all
from ..statistics.tails import f_sf
from ..statistics.unequal import largest_stands_out
from ..trials import Trial
from ..words import said
from ..written import level_label, plural
from .evidence import NOT_LOOKED, Evidence, NotLooked, few_names
from .wording import percent

Looked = Finding | NotLooked | None
#: Scatter of one thumb on a stopwatch, s, and the share of a fall from which it swamps it (common practice).
THUMB_S, THUMB_SHARE = 0.1, 0.1
#: A hand-held watch shows hundredths; finer readings come from frames or gates.
WATCH_STEP_S = 0.01
#: A column that explains this share of the scatter within levels, beyond doubt, should be used.
EXPLAINS, EXPLAINS_P = 0.4, 0.01
#: Spreads are said to differ below this (rarer than where pairs change their method: clean tables are left in peace).
SPREADS_SAID_P = 0.02
#: With few repeats only the largest spread beside the others together can tell, and it needs to stand far out.
SPREAD_OUT_P = 0.005
#: Repeats that scatter by this share of the tool's step average its steps out (rounding of a spread of half a step loses little).
STEP_TO_SCATTER = 0.5
_YES = {"yes", "y", "true", "1", "reused", "used", "again"}
_NO = {"no", "n", "false", "0", "not"}


def _columns(e: Evidence) -> list[str]:
    """Names of the further columns, each once (a table names them by header and by name)."""
    names: dict[str, None] = {}
    for t in e.kept():
        names.update(dict.fromkeys(t.others))
    return [n for n in names if not re.search(r"\(.*\)$", n)]


def _repeated(e: Evidence) -> bool:
    return sum(s.n_kept >= 2 for s in e.levels) >= 2


def _versions_changed(e: Evidence) -> Looked:
    """Design rounds: a version in which more than one thing was changed."""
    tried = {t.level if isinstance(t.level, str) else f"{t.level:g}" for t in e.kept()}
    many = {v: what for v, what in e.asked.changed_since.items() if len(what) > 1 and v in tried}
    if not many:
        return None
    version, what = next(iter(many.items()))
    more = f" So it is with {few_names([f'version {v}' for v in list(many)[1:]], 'version')}." if len(many) > 1 else ""
    return Finding(
        code="more_than_one_change",
        severity="warn",
        design=True,
        about=tuple(many),
        evidence={"versions": ", ".join(many)},
        says=f"Version {version} changed {len(what)} things at once ({', '.join(what)}). If it does better, it cannot be told which of them did it.{more}",
        do="Build a version with only one of the changes and test it beside this one.",
        act=Act(kind="build"),
    )


def judging_changed(e: Evidence) -> Looked:
    if e.asked.judging_changed is None:
        return NOT_LOOKED
    if not e.asked.judging_changed:
        return None
    return Finding(
        code="judging_changed",
        severity="warn",
        evidence={"ways": ", ".join(e.asked.judging_changed)},
        says=f"After trials were kept, the plan was changed in {few_names(list(e.asked.judging_changed), 'way')}. A way of judging that is chosen after the readings are seen can be chosen to suit them.",
        do="Judge by what was agreed before the first trial, or say in the conclusion that it was changed.",
        act=Act(kind="plan", where="evidence"),
    )


def more_than_one_change(e: Evidence) -> Looked:
    if e.asked.changed_since:
        return _versions_changed(e)
    if not _repeated(e) or not _columns(e):
        return NOT_LOOKED
    together = []
    for name in [n for n in _columns(e) if n.casefold() not in e.used]:
        seen: dict[object, set[object]] = {}
        for t in e.kept():
            seen.setdefault(t.level, set()).add(t.others.get(name))
        # what is not written down for some trials may have been the same there
        if all(len(v) == 1 and None not in v for v in seen.values()) and len({next(iter(v)) for v in seen.values()}) > 1 and not _payload(name):
            together.append(name)
    if not together:
        return None
    return Finding(
        code="more_than_one_change",
        severity="warn",
        design=True,
        evidence={"columns": ", ".join(together)},
        says=f"{few_names([e.asked.factor, *together], 'column')} changed together ({_with_levels(e, together[0])}). If something got better, it cannot be told which of them did it.",
        do=f"Change {e.asked.factor} alone and hold {few_names(together, 'column')} still.",
    )


def _with_levels(e: Evidence, column: str) -> str:
    """What of a column went with each level: "fins 3 with 15 cm, 6 with 25 cm"."""
    at = {s.level: next((t.column(column) for t in e.kept() if t.level == s.level), None) for s in e.levels}
    unit = e.asked.hold_units.get(column)
    each = [f"{level_label(value, unit)} with {e.label(level)}" for level, value in at.items() if value is not None]
    return f"{column}: {few_names(each)}"


def control_not_held(e: Evidence) -> Looked:
    if not e.asked.hold:
        return NOT_LOOKED
    out = []
    for name, tolerance in e.asked.hold.items():
        values = [v for t in e.kept() if (v := t.column(name)) is not None]  # where it is not written down it may have been the same
        numbers = [v for v in values if isinstance(v, float | int)]
        planned, room = e.asked.held_at.get(name), tolerance or 0.0
        unit = f" {e.asked.hold_units[name]}" if name in e.asked.hold_units else ""
        if len(numbers) == len(values) and numbers:
            low, high = min(numbers), max(numbers)
            away = max(abs(low - planned), abs(high - planned)) if isinstance(planned, float | int) else 0.0
            if high - low > 2 * room + 1e-12:
                out.append(f"{name} (from {low:g}{unit} to {high:g}{unit})")
            elif away > room + 1e-9 * max(1.0, abs(low)):
                out.append(f"{name} (at {low:g}{'' if low == high else f' to {high:g}'}{unit} and not at {planned:g}{unit})")
        elif len({str(v).strip().casefold() for v in values} | ({planned.strip().casefold()} if isinstance(planned, str) and values else set())) > 1:
            out.append(name)
    if not out:
        return None
    return Finding(
        code="control_not_held",
        severity="warn",
        evidence={"columns": ", ".join(out)},
        says=f"{few_names(out, 'thing')} should have stayed the same and did not.",
        do="Run the trials that are off again, or compare only the trials that are alike in it.",
        act=Act(kind="trials"),
    )


def level_not_as_cut(e: Evidence) -> Looked:
    """A level whose device measures otherwise than it is called, as its version has it."""
    if not e.asked.as_cut:
        return NOT_LOOKED if e.asked.as_cut is None else None
    far = any(share is not None and share >= 0.5 for _, share in e.asked.as_cut)
    return Finding(
        code="level_not_as_cut",
        severity="warn",
        evidence={"levels": len(e.asked.as_cut)},
        says=f"{few_names([says for says, _ in e.asked.as_cut], 'level')}."
        + (" That is as near to the next level as to its own." if far else " The levels were not quite what they are called."),
        do="Cut these again and run them, or call the level what it measures.",
        act=Act(kind="build"),
    )


def _alone_at(e: Evidence, column: str) -> list[tuple[LevelName, str]] | None:
    """Levels of which every trial (two or more) has one and the same in a column, though others stand in it elsewhere, each with what it
    has. None where that was not looked at: not written for every trial, nothing repeated, or the column itself is compared."""
    kept = e.kept()
    if e.asked.contest or column in e.used or not _repeated(e) or not kept:  # in a contest each group releases its own device: that is the contest
        return None
    seen = [(t.level, t.column(column)) for t in kept]
    if any(v is None for _, v in seen) or (column != "person" and all(str(v).casefold() == str(level).casefold() for level, v in seen)):
        return None  # the level is the device, or the group's own
    if len({v for _, v in seen}) < 2:
        return []
    found = []
    for s in e.levels:
        mine = {v for level, v in seen if level == s.level}
        if s.n_kept >= 2 and len(mine) == 1:
            found.append((s.level, str(next(iter(mine)))))
    return found


def _told(e: Evidence, found: Sequence[tuple[LevelName, str]]) -> str:
    """The levels, and what went with each: "thin and thick (Curlew at thin and Egret at thick)"."""
    names = few_names([e.label(level) for level, _ in found])
    several = len({who for _, who in found}) > 1
    return f"{names} ({few_names([f'{who} at {e.label(level)}' for level, who in found]) if several else found[0][1]})"


def person_mixed_with_level(e: Evidence) -> Looked:
    found = _alone_at(e, "person")
    if not found:
        return NOT_LOOKED if found is None else None
    return Finding(
        code="person_mixed_with_level",
        severity="warn",
        caps="leaning",
        evidence={"levels": len(found)},
        says=f"One person alone released every trial at {_told(e, found)}, so person and level cannot be told apart there.",
        do="Let everyone take turns at every level.",
        act=Act(kind="run"),
    )


def group_mixed_with_level(e: Evidence) -> Looked:
    found = _alone_at(e, "group")
    if not found:
        return NOT_LOOKED if found is None else None
    return Finding(
        code="group_mixed_with_level",
        severity="warn",
        caps="leaning",
        evidence={"levels": len(found)},
        says=f"One group alone ran every trial at {_told(e, found)}, so group and level cannot be told apart there.",
        do="Let every group run every level.",
        act=Act(kind="run"),
    )


def _made_for_it(e: Evidence, versions: set[str]) -> bool:
    """Whether the variable alone is what was changed from version to version, by what is written of them."""
    changed = [what for version, what in e.asked.changed_in.items() if version in versions]
    return bool(changed) and all([said(w) for w in what] == [said(e.asked.factor)] for what in changed)


def device_mixed_with_level(e: Evidence) -> Looked:
    """A device or a version of one to a level; not where the variable is what was changed from one version to the next."""
    if e.asked.rounds:
        return NOT_LOOKED
    seen = {column: _alone_at(e, column) for column in ("device", "version")}
    if all(found is None for found in seen.values()):
        return NOT_LOOKED
    column, found = next(((c, f) for c, f in seen.items() if f and not (c == "version" and _made_for_it(e, {who for _, who in f}))), ("", None))
    if not found:
        return None
    return Finding(
        code="device_mixed_with_level",
        severity="warn",
        caps="leaning",
        evidence={"levels": len(found)},
        says=f"One {column} alone was released in every trial at {_told(e, found)}, so {column} and level cannot be told apart there.",
        do=f"Try every {column} at every level, or two or more at each.",
        act=Act(kind="run"),
    )


def order_mixed_with_level(e: Evidence) -> Looked:
    if e.asked.rounds:  # versions are built one after the other: that is the kind of study, no doubt about it
        return NOT_LOOKED
    rows = sorted((t for t in e.kept() if t.order is not None), key=lambda t: t.order or 0)
    if len(rows) < len(e.kept()) or not _repeated(e):
        return NOT_LOOKED
    changes = sum(a.level != b.level for a, b in zip(rows, rows[1:], strict=False))
    if changes != len({t.level for t in rows}) - 1:
        return None
    return Finding(
        code="order_mixed_with_level",
        severity="warn",
        caps="leaning",
        evidence={"changes_of_level": changes},
        says=f"All trials at one level of {e.asked.factor} were run before the next, so tiredness or a slackening band cannot be told from {e.asked.factor}.",
        do="Shuffle the levels within blocks: one trial at each level, then again.",
        act=Act(kind="plan", where="order"),
    )


def estimated_mixed_with_measured(e: Evidence) -> Looked:
    kinds = [t.kind for t in e.kept()]
    guessed = kinds.count("estimate")
    if guessed in (0, len(kinds)):
        return None
    return Finding(
        code="estimated_mixed_with_measured",
        severity="warn",
        evidence={"estimated": guessed, "measured": len(kinds) - guessed},
        says=f"{guessed} of {len(kinds)} readings {'was estimated by eye and stands' if guessed == 1 else 'were estimated by eye and stand'} among measured ones.",
        do="Measure those again, or estimate all alike.",
        act=Act(kind="trials", rows=tuple(t.row for t in e.kept() if t.kind == "estimate")),
    )


def resolution_too_coarse(e: Evidence) -> Looked:
    if e.asked.are_counted or e.asked.whole or e.asked.on_rungs:  # what is counted, or dropped from rungs, has no tool with a step
        return NOT_LOOKED
    steps = [t.resolution for t in e.kept() if t.resolution and t.kind not in ("at_least", "at_most")]
    means = [s.mean for s in e.levels if s.mean is not None and not s.censored]
    if not steps or len(means) < 2:
        return NOT_LOOKED
    every = [s.mean for s in e.levels if s.mean is not None]  # a bound that lies apart shows a difference, too
    step, effect = float(np.median(steps)), max(every) - min(every)
    free = [(s.n_kept - 1, s.sd) for s in e.levels if s.sd is not None]
    scatter = math.sqrt(sum(n * (sd or 0.0) ** 2 for n, sd in free) / sum(n for n, _ in free)) if free else 0.0
    # steps hide what is there only where neither the scatter nor the effect is larger than they are
    if scatter >= step * STEP_TO_SCATTER or effect >= step:
        return None
    unit = f" {e.asked.unit}" if e.asked.unit else ""
    return Finding(
        code="resolution_too_coarse",
        severity="warn",
        evidence={"step": step, "effect": effect, "scatter": scatter},
        says=f"The readings are taken to {step:g}{unit}; neither the levels nor the repeats differ by as much, so a smaller difference cannot show.",
        do="Read with a finer tool, or change the variable further.",
        act=Act(kind="plan", where="measure"),
    )


def reaction_dominates(e: Evidence) -> Looked:
    steps = [t.resolution for t in e.kept() if t.resolution]
    if not (e.asked.unit and find_unit(e.asked.unit, "time")) or not steps or e.asked.hand_timed is False:
        return NOT_LOOKED
    second = {"ms": 1000.0, "s": 1.0, "min": 1 / 60, "h": 1 / 3600}[e.asked.unit]
    if e.asked.hand_timed is None and float(np.median(steps)) / second < WATCH_STEP_S * 0.999:
        return NOT_LOOKED  # frames or gates
    shortest = min((s for s in e.levels if s.mean), key=lambda s: s.mean or 0.0, default=None)
    if shortest is None or shortest.mean is None:
        return NOT_LOOKED
    share = THUMB_S / (shortest.mean / second)
    if share <= THUMB_SHARE:
        return None
    return Finding(
        code="reaction_dominates",
        severity="warn",
        evidence={"scatter_s": THUMB_S, "share": share},
        says=f"At {e.label(shortest.level)} the time is about {shortest.mean / second:.2f} s; a thumb’s scatter of {THUMB_S:g} s is {percent(share)} of it.",
        do=f"{'Drop from higher within your limits, use' if e.asked.dropped else 'Use'} three timers, or count video frames.",
        act=Act(kind="plan", where="measure"),
    )


def _payload(name: str) -> bool:
    return name.casefold().startswith("payload") or name.casefold() in ("reused", "egg")


def _payload_values(e: Evidence, *, reuse: bool) -> list[tuple[Trial, str]]:
    found = []
    for t in e.kept():
        for name, value in t.others.items():
            low = name.casefold()
            about_reuse = "reus" in low or "fresh" in low or "state" in low
            if value is not None and (_payload(name) or "reus" in low) and about_reuse == reuse and "(" not in name:
                found.append((t, f"{low}={str(value).casefold()}" if reuse else str(value).casefold()))
    return found


def payload_mixed(e: Evidence) -> Looked:
    found = _payload_values(e, reuse=False)
    if not found:
        return NOT_LOOKED
    kinds = sorted({re.sub(r"\s*(reused|fresh)\s*", "", v) for _, v in found})
    if len(kinds) < 2:
        return None
    return Finding(
        code="payload_mixed",
        severity="stop",
        caps="cannot_tell",
        evidence={"kinds": ", ".join(kinds)},
        says=f"Different payloads ({few_names(kinds, 'kind')}) stand in one comparison. They do not break alike, so the devices cannot be compared.",
        do="Compare only trials with one kind of payload.",
    )


def payload_reused(e: Evidence) -> Looked:
    found = [*_payload_values(e, reuse=True), *[(t, v) for t, v in _payload_values(e, reuse=False) if "reused" in v]]
    if not found:
        return NOT_LOOKED
    again = [
        t
        for t, v in found
        if "reused" in v.split("=")[-1] or (v.split("=")[-1] in _YES and "fresh" not in v) or ("fresh" in v and v.split("=")[-1] in _NO)
    ]
    if not again:
        return None
    return Finding(
        code="payload_reused",
        severity="warn",
        evidence={"trials": len(again)},
        says=f"{plural(len(again), 'trial')} used a payload that had been dropped before. Damage adds up, so a failure there says less.",
        do="Use a fresh payload for each drop, or reuse in every trial alike and say so.",
        act=Act(kind="trials", rows=tuple(t.row for t in again)),
    )


def spread_unequal(e: Evidence) -> Looked:
    exact = [s for s in e.levels if not s.censored]  # a bound hides its scatter
    values = [[t.value for t in e.kept() if t.level == s.level and t.value is not None] for s in exact]
    p, out = spreads_differ([v for v in values if v]), largest_stands_out([v for v in values if len(v) > 1])
    if p is None and out is None:
        return NOT_LOOKED
    if (p is None or p >= SPREADS_SAID_P) and (out is None or out >= SPREAD_OUT_P):
        return None
    wide, narrow = (choose(exact, key=lambda s: s.sd or 0.0) for choose in (max, min))
    return Finding(
        code="spread_unequal",
        severity="note",
        evidence={"p": min(v for v in (p, out) if v is not None)},
        says=f"Readings vary far more at {e.label(wide.level)} (SD {wide.sd or 0:.2g}) than at {e.label(narrow.level)} (SD {narrow.sd or 0:.2g}).",
        do="Look for what is unsteady there. The verdict allows for spreads that differ.",
    )


def line_does_not_fit(e: Evidence) -> Looked:
    """Levels that lie further from a straight line than their repeats scatter, and do nothing else that could be said of them."""
    trend = e.trend
    if trend is None or trend.rise_ci95 is None or len(e.levels) < 3:
        return NOT_LOOKED
    if trend.shape is None or trend.shape.kind != "other" or trend.middle is not None:
        return None
    return Finding(
        code="line_does_not_fit",
        severity="note",
        evidence={"p": trend.shape.p},
        says=f"A straight line does not fit: the levels of {e.asked.factor} lie further from it than their repeats scatter.",
        do="Go by the levels’ own results, not by one number for every step; a level in between would show more of the shape.",
        act=Act(kind="plan", where="levels"),
    )


def odd_reading(e: Evidence) -> Looked:
    """A reading that stands apart from its level, judged by the scatter of all levels together."""
    if not e.asked.ask_about_odd or e.asked.places:  # one place gives the others away: none is odd by itself
        return NOT_LOOKED
    rows = [t for t in e.kept() if t.value is not None and t.kind not in ("at_least", "at_most")]
    by_level = [[t for t in rows if t.level == s.level] for s in e.levels]
    found = odd_of_all([[t.value or 0.0 for t in level] for level in by_level], step=_coarsest(rows))
    if found is None:
        return NOT_LOOKED
    if not found or found[2] > SLIP_P:
        return None
    level, place, p = found
    odd = by_level[level][place]
    others = [t.value or 0.0 for t in by_level[level] if t is not odd]
    scatter = _scatter_without(by_level, odd)
    slip = slip_of(odd.value or 0.0, others, scatter, length=not e.asked.are_counted and (not e.asked.unit or find_unit(e.asked.unit, "length") is not None))
    if p > ODD_P and (slip is None or abs((odd.value or 0.0) - float(slip[0])) < SLIP_FAR * scatter):
        return None  # what a slip explains is asked about sooner, where it moves the reading far
    meant = f" {slip[0]} would be in line: {slip[1]}?" if slip else ""
    return Finding(
        code="odd_reading",
        severity="note",
        evidence={"readings": 1, "row": odd.row, **({"slip": slip[1]} if slip else {})},
        says=f"{level_label(odd.value or 0.0, e.asked.unit)} at {e.label(odd.level or '')} stands apart from the other readings there, by the scatter of all levels.{meant} Was there a fault?",
        do="Keep it unless a fault was seen; if one was, mark the trial void with that fault.",
        act=Act(kind="trials", rows=(odd.row,)),
    )


#: A slip that explains a reading moves it by so many standard deviations of the others.
SLIP_FAR = 5.0


def _scatter_without(by_level: Sequence[Sequence[Trial]], odd: Trial) -> float:
    """Standard deviation of the readings about their levels, one left out."""
    values = [np.array([t.value or 0.0 for t in level if t is not odd]) for level in by_level]
    free = sum(v.size - 1 for v in values if v.size > 1)
    return math.sqrt(sum(float(((v - v.mean()) ** 2).sum()) for v in values if v.size > 1) / free) if free else 0.0


def _coarsest(rows: Sequence[Trial]) -> float:
    return max((t.resolution or 0.0 for t in rows), default=0.0)


#: What a factor between what is written and what the others say can come from.
_SLIPS = ((10.0, "the decimal mark"), (0.1, "the decimal mark"), (100.0, "centimetres for metres"), (0.01, "metres for centimetres"), (2.54, "centimetres for inches"), (1 / 2.54, "inches for centimetres"), (12.0, "inches for feet"), (1 / 12, "feet for inches"), (1000.0, "thousandths"), (0.001, "thousands"))


#: What was meant lies within so many standard deviations of the other readings.
MEANT_WITHIN = 2.5


def slip_of(value: float, others: Sequence[float], scatter: float = 0.0, *, length: bool = True) -> tuple[str, str] | None:
    """The reading that was perhaps meant, and the slip that made it what is written; None where no slip brings it among the others
    (within their range, widened by half of it on each side, or by what readings scatter at all levels). length: units of length may be mixed up."""
    if len(others) < 2 or value == 0:
        return None
    spread = max(max(others) - min(others), 0.05 * abs(float(np.mean(others))))
    wide = max(spread / 2, MEANT_WITHIN * scatter)
    low, high = min(others) - wide, max(others) + wide
    for factor, name in _SLIPS:
        if not length and " for " in name:
            continue
        if low <= value / factor <= high:
            return f"{value / factor:.4g}", name
    digits = f"{value:g}"
    places = [at for at, c in enumerate(digits) if c.isdigit()]
    for one, next_one in itertools.pairwise(places):
        swapped = list(digits)
        swapped[one], swapped[next_one] = swapped[next_one], swapped[one]
        if digits[one] != digits[next_one] and low <= float("".join(swapped)) <= high:
            return "".join(swapped), "two digits swapped"
    return None


def all_estimated(e: Evidence) -> Looked:
    kinds = [t.kind for t in e.kept()]
    if not kinds or any(k != "estimate" for k in kinds):
        return None
    return Finding(
        code="all_estimated",
        severity="note",
        evidence={"readings": len(kinds)},
        says="Every reading was estimated by eye, none was measured.",
        do="Say so in the conclusion, or measure the next ones.",
    )


def prediction_missing(e: Evidence) -> Looked:
    if e.asked.prediction is None:
        return NOT_LOOKED
    if e.asked.prediction.strip():
        return None
    return Finding(
        code="prediction_missing",
        severity="note",
        says="No prediction was written before the trials, so there is nothing to hold the result against.",
        do="Write one before the next round.",
        act=Act(kind="plan", where="prediction"),
    )


def measuring_rule_missing(e: Evidence) -> Looked:
    if e.asked.measuring_rule is None:
        return NOT_LOOKED
    if e.asked.measuring_rule.strip():
        return None
    return Finding(
        code="measuring_rule_missing",
        severity="note",
        says=f"It is not written how {e.asked.response} was read: from where, to where, which edge.",
        do="Agree on a measuring rule and write it in the plan.",
        act=Act(kind="plan", where="measure"),
    )


_NOT_RESET = re.compile(r"not (?:cleared|reset|zeroed|re-?armed)|(?:meter|load|scale) not ", re.I)


def instrument_not_reset(e: Evidence) -> Looked:
    kept = e.kept()
    named = [n for n in _columns(e) if re.search(r"clear|reset|zero", n, re.I)]
    if not named and not any(t.note or t.fault for t in e.trials):
        return NOT_LOOKED
    bad = [
        t
        for t in kept
        if _NOT_RESET.search(f"{t.note or ''} {t.fault or ''}") or any(str(t.others.get(n)).casefold() in _NO for n in named)
    ]
    if not bad:
        return None
    return Finding(
        code="instrument_not_reset",
        severity="warn",
        evidence={"trials": len(bad)},
        says=f"In {plural(len(bad), 'kept trial')} the meter, scale or load had not been reset, so the reading carries the last one in it.",
        do=f"Mark {'it' if len(bad) == 1 else 'them'} void with that fault and run {'it' if len(bad) == 1 else 'them'} again.",
        act=Act(kind="trials", rows=tuple(t.row for t in bad)),
    )


def not_planned(e: Evidence) -> Looked:
    """Compared over something that was only recorded: the trials were not shuffled over it."""
    if not e.asked.not_planned:
        return None if e.asked.judging_changed is not None else NOT_LOOKED
    return Finding(
        code="not_planned",
        severity="warn",
        caps="leaning",
        evidence={"factor": e.asked.factor},
        says=f"The plan did not set out to compare {e.asked.factor}. Trials were not shared out over it, so something else may go with it.",
        do=f"Take it as an idea; to be sure, plan a test that changes {e.asked.factor} alone.",
        act=Act(kind="plan", where="variable"),
    )


def timers_apart(e: Evidence) -> Looked:
    """Several timers on one fall of which one stands apart from the others."""
    several = [t for t in e.kept() if len(t.timers) > 1]
    if not several:
        return NOT_LOOKED
    apart = [t for t in several if t.timers_apart]
    if not apart:
        return None
    one = apart[0]
    times = few_names([f"{v:g}" for v in one.timers], "timer")
    unit = f" {e.asked.unit}" if e.asked.unit else ""
    rest = f", and in {plural(len(apart) - 1, 'more trial')}" if len(apart) > 1 else ""
    return Finding(
        code="timers_apart",
        severity="warn",
        evidence={"trials": len(apart), "of": len(several)},
        says=f"The timers do not agree in trial {one.row} ({times}{unit}, taken as {one.value:.3g}{unit}){rest}. Was one stopped late, or not at all?",
        do="Mend the time that slipped, or mark the trial void with that fault.",
        act=Act(kind="trials", rows=tuple(t.row for t in apart)),
    )


def column_explains_scatter(e: Evidence) -> Looked:
    """A column left out that explains much of the scatter within levels: the commonest way to miss a real difference."""
    kept = [t for t in e.kept() if t.value is not None]
    candidates = [
        n
        for n in (*_columns(e), "block", "group", "device", "person")
        if n.casefold() not in e.used and any(t.column(n) is not None for t in kept)
    ]
    if len(kept) < 6 or not candidates or not _repeated(e):
        return NOT_LOOKED
    best: tuple[float, str, bool] | None = None
    for name in candidates:
        share, p, number = _explained([t for t in kept if t.column(name) is not None], name)
        # the more columns there are, the more often one of them explains something by luck
        if share >= EXPLAINS and p < EXPLAINS_P / len(candidates) and (best is None or share > best[0]):
            best = (share, name, number)
    if best is None:
        return None
    share, name, number = best
    return Finding(
        code="column_explains_scatter",
        severity="warn",
        evidence={"column": name, "share": share},
        says=f"“{name}” explains about {percent(share)} of the scatter between trials at one level.",
        do=f"{f'Adjust for {name}' if number else f'Compare within each {name}'}, so that it is held equal.",
        act=Act(kind="within", column=name) if not number else None,
    )


def _explained(rows: Sequence[Trial], name: str) -> tuple[float, float, bool]:
    """Share of the scatter within levels that a column explains and its p, with the levels in the model: by a line for numbers with many
    values and by its values otherwise. Source: extra sum of squares (Draper & Smith 1998, Applied Regression Analysis, 6.1)."""
    found = [t.column(name) for t in rows]
    distinct = sorted({str(v) for v in found})
    number = all(isinstance(v, float | int) for v in found) and len(distinct) > 2
    if len(rows) < 6 or len(distinct) < 2 or (not number and len(distinct) > len(rows) / 2):
        return 0.0, 1.0, number
    y = np.array([t.value or 0.0 for t in rows])
    levels = list(dict.fromkeys(t.level for t in rows))
    of_level = np.array([[float(t.level == level) for level in levels] for t in rows])
    column = np.array([[float(v or 0.0)] for v in found]) if number else np.array([[float(str(v) == d) for d in distinct[1:]] for v in found])
    without, free = _left(of_level, y)
    whole, left = _left(np.hstack([of_level, column]), y)
    if without <= 1e-12 * float(y @ y) or left < 1 or free == left:
        return 0.0, 1.0, number
    share = (without - whole) / without
    if whole <= 1e-12 * without:
        return 1.0, 0.0, number
    return share, f_sf((without - whole) / (free - left) / (whole / left), free - left, left), number


def _left(design: np.ndarray, y: np.ndarray) -> tuple[float, int]:
    """What a model leaves of the readings (sum of squares), and its freedoms."""
    params, _, rank, _ = np.linalg.lstsq(design, y, rcond=None)
    return float(((y - design @ params) ** 2).sum()), len(y) - int(rank)
