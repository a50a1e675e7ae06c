"""Is it a fair test? Each check looks at the trials and answers with a finding or with nothing."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from ..results import Act, Finding, LevelSummary
from ..statistics.tails import t_two
from ..trials import Trial
from ..written import at_place, plural, start
from . import checks
from .evidence import FEW, NOT_LOOKED, Evidence, NotLooked, few_names

#: A level whose share of voids is at least this and at least this many times the others' piles up.
VOID_SHARE, VOID_TIMES, VOID_LEAST = 0.3, 2.0, 2
#: Rarer than this; with the other statistical checks beside it a clean table gets a doubt at most once in ten.
DRIFT_P = 0.02
DRIFT_TRIALS = 6
#: More trials than this at one level are not asked for to make it level with another.
MOST_MORE = 20


def _alone(alone: int, levels: int, names: str) -> str:
    if alone == levels:
        return "Every level has only one kept trial."
    return f"{alone} of {levels} levels {'has' if alone == 1 else 'have'} only one kept trial ({names})."


def single_trial(e: Evidence) -> Finding | None:
    alone = [s for s in e.levels if s.n_kept == 1]
    if not alone or e.asked.pair_by is not None:
        return None
    names = few_names([e.label(s.level) for s in alone])
    stop = not e.single_by_design
    return Finding(
        code="single_trial",
        severity="stop" if stop else "warn",
        caps="cannot_tell" if stop else "none",
        evidence={"levels": len(alone)},
        says=f"{_alone(len(alone), len(e.levels), names)} One trial shows no spread, so luck cannot be told from a real difference there.",
        do=f"Run at least two more trials at {names}.",
        act=Act(kind="run"),
    )


def few_repeats(e: Evidence) -> Finding | None:
    few = [s for s in e.levels if 1 < s.n_kept < FEW]
    if not few or e.asked.pair_by is not None:
        return None
    names = few_names([f"{e.label(s.level)} ({s.n_kept})" for s in few])
    return Finding(
        code="few_repeats",
        severity="warn",
        evidence={"levels": len(few), "wanted": FEW},
        says=f"Fewer than {FEW} kept trials at {names}.",
        do=f"Repeat until every level has at least {FEW}, better 5.",
        act=Act(kind="run"),
    )


def unequal_repeats(e: Evidence) -> Finding | None:
    counts = [s.n_kept for s in e.levels]
    if len(counts) < 2 or min(counts) == max(counts):
        return None
    low, high = min(e.levels, key=lambda s: s.n_kept), max(e.levels, key=lambda s: s.n_kept)
    serious = low.n_kept * 2 <= high.n_kept
    return Finding(
        code="unequal_repeats",
        severity="warn" if serious else "note",
        evidence={"fewest": low.n_kept, "most": high.n_kept},
        says=f"{e.label(low.level)} has {plural(low.n_kept, 'kept trial')}, {e.label(high.level)} has {high.n_kept}: "
        "the means are not equally well known.",
        do=_level_up(e, low, high),
        act=Act(kind="run"),
    )


def _level_up(e: Evidence, low: LevelSummary, high: LevelSummary) -> str:
    more = high.n_kept - low.n_kept
    if more > MOST_MORE:
        return f"Say in the conclusion that {e.label(low.level)} rests on fewer trials than {e.label(high.level)}."
    return f"Run {more} more at {e.label(low.level)}."


def voids_pile_up(e: Evidence) -> Finding | NotLooked | None:
    shares = [(s, s.n_void / (s.n_void + s.n_kept)) for s in e.levels if s.n_void + s.n_kept]
    if len(shares) < 2:
        return NOT_LOOKED
    worst, share = max(shares, key=lambda p: p[1])
    others_void = sum(s.n_void for s, _ in shares) - worst.n_void
    others_all = sum(s.n_void + s.n_kept for s, _ in shares) - worst.n_void - worst.n_kept
    others = others_void / others_all if others_all else 0.0
    if worst.n_void < VOID_LEAST or share < VOID_SHARE or share < VOID_TIMES * others:
        return None
    return Finding(
        code="voids_pile_up",
        severity="warn",
        evidence={"void": worst.n_void, "of": worst.n_void + worst.n_kept, "void_elsewhere": others_void, "of_elsewhere": others_all},
        says=f"{worst.n_void} of {worst.n_void + worst.n_kept} trials at {e.label(worst.level)} were void, against {others_void} of "
        f"{others_all} elsewhere. If one level keeps failing, that is a result.",
        do=f"Say in the conclusion how often {e.label(worst.level)} failed, and look at its faults.",
        act=Act(kind="trials", rows=tuple(t.row for t in e.trials if t.state == "void" and t.level == worst.level)),
    )


def censored(e: Evidence) -> Finding | None:
    bounded = [(s, [t.kind for t in e.kept() if t.level == s.level and t.kind in ("at_least", "at_most")]) for s in e.levels]
    bounded = [(s, kinds) for s, kinds in bounded if kinds]
    if not bounded:
        return None
    total = sum(len(k) for _, k in bounded)
    words = {"at_least": "at least", "at_most": "at most"}
    kinds = {k for _, ks in bounded for k in ks}
    kinds_in: set[str] = set(kinds)
    kind = words[kinds.pop()] if len(kinds) == 1 else "only a bound on"
    names = few_names([f"{e.label(s.level)} ({len(k)} of {s.n_kept})" for s, k in bounded])
    return Finding(
        code="censored",
        severity="warn",
        evidence={"readings": total},
        says=f"{plural(total, 'reading')} {'is' if total == 1 else 'are'} {kind} what is written: {names}. "
        "What is known there is only a bound and levels are compared by rank.",
        do=_more_room(e, kinds_in),
        act=Act(kind="trials", rows=tuple(t.row for t in e.kept() if t.kind in ("at_least", "at_most"))),
    )


#: What makes room for a reading that ran out of it; what a reading lies below is read more finely.
_ROOM = {
    "tape": {True: "Lay a longer tape, and run those again.", False: "Make the track or tape longer, or launch more gently, and run those again."},
    "time": {True: "Watch to the end, and run those again.", False: "Watch to the end, and run those again."},
    "height": {True: "Add a higher rung, within the limit that the teacher has set, and run those again.", False: "Find a place with more height above it, or launch more gently, and run those again."},
    "other": {True: "Choose a tool that reads further, and run those again.", False: "Choose a tool that reads further, and run those again."},
}  # fmt: skip


def _more_room(e: Evidence, kinds: set[str]) -> str:
    if kinds == {"at_most"}:
        return "Choose a tool that reads smaller values, and run those again."
    return _ROOM[e.asked.cover][bool(e.asked.dropped)]


def drift_of(e: Evidence) -> tuple[np.ndarray, tuple[float, float]] | None:
    """Trial order, and the slope on it with its p from one model with the levels in it, for kept trials whose order is known; None when
    too few. Source: analysis of covariance (Frisch & Waugh 1933, Econometrica 1)."""
    rows = [t for t in e.kept() if t.order is not None and t.value is not None]
    by_level: dict[object, list[Trial]] = {}
    for t in rows:
        by_level.setdefault(t.level, []).append(t)
    used = [level for level in by_level.values() if len(level) > 1]
    n = sum(map(len, used))
    if n < DRIFT_TRIALS:
        return None
    values = [np.array([t.value or 0.0 for t in level]) for level in used]
    orders = [np.array([float(t.order or 0) for t in level]) for level in used]
    residual = np.concatenate([v - v.mean() for v in values])
    across = np.concatenate([o - o.mean() for o in orders])  # order, with what goes along with the level taken out
    df = n - len(used) - 1
    if e.asked.pair_by is not None:  # compared within blocks: from one to the next it may drift
        residual, across, df = _within_blocks([t for level in used for t in level], [t.level for level in used for t in level], e.asked.pair_by)
    scale = max(float(np.max(np.abs(v))) for v in values)
    if df < 1 or across @ across == 0 or np.ptp(residual) <= 1e-12 * scale:
        return None
    slope = float(across @ residual / (across @ across))
    rest = float(residual @ residual - slope * (across @ residual))
    p = 0.0 if rest <= 0 else t_two(slope * math.sqrt(float(across @ across) * df / rest), df)
    return np.concatenate(orders), (slope, p)


def _within_blocks(rows: list[Trial], levels: list[object], column: str) -> tuple[np.ndarray, np.ndarray, int]:
    """Readings and their order with levels and blocks taken out of both, and the freedoms left for a slope."""
    names, blocks = list(dict.fromkeys(levels)), list(dict.fromkeys(t.column(column) for t in rows))
    design = np.array([[*(float(v == n) for n in names), *(float(t.column(column) == b) for b in blocks[1:])] for t, v in zip(rows, levels, strict=True)])
    y, x = np.array([t.value or 0.0 for t in rows]), np.array([float(t.order or 0) for t in rows])
    left = [v - design @ np.linalg.lstsq(design, v, rcond=None)[0] for v in (y, x)]
    return left[0], left[1], len(rows) - int(np.linalg.matrix_rank(design)) - 1


def drift_with_order(e: Evidence) -> Finding | NotLooked | None:
    found = drift_of(e)
    if found is None:
        return NOT_LOOKED
    order, (slope, p) = found
    if not p < DRIFT_P:
        return None
    whole = slope * float(np.ptp(order))
    places = max(0, 1 - int(np.floor(np.log10(abs(whole))))) if whole else None
    word = "fell" if slope < 0 else "rose"
    return Finding(
        code="drift_with_order",
        severity="warn",
        evidence={"slope_per_trial": slope, "p": p, "over_all": whole},
        says=f"Readings {word} by about {at_place(abs(whole), places)}{' ' + e.asked.unit if e.asked.unit else ''} from trial {order.min():.0f} to trial "
        f"{order.max():.0f} whatever the level. Perhaps {'the device wore out, or the hands changed' if e.asked.dropped else 'someone tired, or what sets it going slackened'}.",
        do=_against_drift(e),
    )


def _against_drift(e: Evidence) -> str:
    check = "look the device over between releases" if e.asked.dropped else "check the band or the launcher"
    if e.asked.rounds:  # versions come one after the other: what can be done is to run the earlier one again beside the newest
        return f"Run the version that it was made from again beside the newest, turn by turn, and {check}."
    if _mixed(e):  # they did shuffle
        return f"Rest between blocks, and {check}; the levels were mixed, so each suffers alike."
    return f"Shuffle the levels within blocks, rest between blocks, and {check}."


def _mixed(e: Evidence) -> bool:
    """Whether every block holds several levels, not always in one order."""
    blocks: dict[str | None, list[Trial]] = {}
    for t in sorted((t for t in e.kept() if t.order is not None), key=lambda t: t.order or 0):
        blocks.setdefault(t.block, []).append(t)
    orders = {tuple(t.level for t in rows) for rows in blocks.values()}
    return len(blocks) > 1 and None not in blocks and len(orders) > 1 and all(len(set(order)) > 1 for order in orders)


#: What each check looks for, as it is listed where it found nothing.
LOOKS_FOR: dict[str, str] = {
    "single_trial": "a level with one trial",
    "few_repeats": "too few repeats",
    "unequal_repeats": "unequal repeats",
    "voids_pile_up": "voids at one level",
    "all_estimated": "readings all estimated",
    "censored": "readings off the tape",
    "drift_with_order": "drift with the order of trials",
    "level_not_as_cut": "a level that was not cut as it is called",
    "more_than_one_change": "two things changed at once",
    "control_not_held": "things meant to stay the same",
    "person_mixed_with_level": "one person to a level",
    "group_mixed_with_level": "one group to a level",
    "device_mixed_with_level": "one device or version to a level",
    "order_mixed_with_level": "levels run one after another",
    "estimated_mixed_with_measured": "estimates among measured readings",
    "resolution_too_coarse": "too coarse a tool",
    "reaction_dominates": "a thumb’s reaction",
    "payload_mixed": "different payloads",
    "payload_reused": "payloads used again",
    "spread_unequal": "unequal spreads",
    "odd_reading": "odd readings",
    "line_does_not_fit": "a line that does not fit",
    "prediction_missing": "a missing prediction",
    "measuring_rule_missing": "a missing measuring rule",
    "instrument_not_reset": "meters not reset",
    "column_explains_scatter": "a column that explains the scatter",
    "judging_changed": "a way of judging chosen afterwards",
    "timers_apart": "timers that do not agree",
    "not_planned": "a comparison that was not planned",
}

Check = Callable[[Evidence], Finding | NotLooked | None]
CHECKS: dict[str, Check] = {
    "single_trial": single_trial,
    "few_repeats": few_repeats,
    "unequal_repeats": unequal_repeats,
    "voids_pile_up": voids_pile_up,
    "censored": censored,
    "drift_with_order": drift_with_order,
    **{
        f.__name__: f
        for f in (
            checks.more_than_one_change,
            checks.control_not_held,
            checks.level_not_as_cut,
            checks.person_mixed_with_level,
            checks.group_mixed_with_level,
            checks.device_mixed_with_level,
            checks.order_mixed_with_level,
            checks.estimated_mixed_with_measured,
            checks.all_estimated,
            checks.resolution_too_coarse,
            checks.reaction_dominates,
            checks.payload_mixed,
            checks.payload_reused,
            checks.spread_unequal,
            checks.odd_reading,
            checks.line_does_not_fit,
            checks.prediction_missing,
            checks.measuring_rule_missing,
            checks.instrument_not_reset,
            checks.judging_changed,
            checks.timers_apart,
            checks.not_planned,
            checks.column_explains_scatter,
        )
    },
}
#: Checks of the plan and of voids: they have something to look at before any trial is kept.
WITHOUT_TRIALS = {"prediction_missing", "measuring_rule_missing", "judging_changed", "voids_pile_up"}
_WEIGHT = {"stop": 0, "warn": 1, "note": 2}


def audit(evidence: Evidence) -> tuple[tuple[Finding, ...], tuple[str, ...]]:
    """Findings, the gravest first, and the codes of what was checked and found clean."""
    nothing_kept = not evidence.kept()
    answers = {
        code: NOT_LOOKED if nothing_kept and code not in WITHOUT_TRIALS else check(evidence) for code, check in CHECKS.items()
    }
    # a sentence that begins with a thing's own name begins large all the same
    found = [f.model_copy(update={"says": start(f.says)}) for f in answers.values() if isinstance(f, Finding)]
    return tuple(sorted(found, key=lambda f: _WEIGHT[f.severity])), tuple(code for code, f in answers.items() if f is None)
