"""What a plan can already tell while it is being made: how long it takes, what effect to expect, whether these repeats would
show it, and what the audit would object to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from ..draft import Draft
from ..errors import CoreError, PlanRefused
from ..families import family, known
from ..judgement.checks import THUMB_S, THUMB_SHARE
from ..judgement.deciding import School
from ..judgement.evidence import few_names
from ..judgement.wording import percent
from ..measuring.scales import scale_of
from ..readings import convert, find_unit, read
from ..results import Finding
from ..words import said
from .arithmetic import LessonTime, lesson_time
from .ideas import kept_same
from .order import Turn
from .plan import PlannedLevel, planned_levels, planned_turns, unreadable
from .rehearsal import Model, Rehearsal, modelled, play
from .safety import drop_heights, needs_adult
from .ways import Ways, ways_of

ROLES = ("release", "time", "measure", "write")


@dataclass(frozen=True, slots=True, kw_only=True)
class Outlook:
    """trials and practice: how many. time: of all of them over the lanes. rehearsal: likely readings, never real ones; None
    with why_not where none can be made. basis: physics of the family, or the teacher's own expectation. ways: of timing, where times are expected."""

    trials: int
    practice: int
    lanes_open: int
    time: LessonTime | None
    rehearsal: Rehearsal | None
    basis: Literal["physics", "guess"] | None
    why_not: str | None
    expects: str | None
    objections: tuple[Finding, ...]
    ways: Ways | None = None


def outlook(draft: Draft, seed: int) -> Outlook:
    """The outlook of a draft, ready or not. seed: of the order of trials and of the rehearsal."""
    grave = unreadable(draft)
    levels = () if grave else planned_levels(draft)
    turns = planned_turns(draft, seed)
    practice = draft.practice * max(len([g for g in draft.groups if g.strip()]), 1)
    lanes, drops = lanes_open(draft), _drops_a_trial(draft)
    rehearsed, basis, why = (None, None, grave[0].says) if grave else _rehearsed(draft, levels, seed)
    return Outlook(
        trials=len(turns),
        practice=practice,
        lanes_open=lanes,
        time=_time(draft, practice, lanes, drops) if turns and lanes else None,
        rehearsal=rehearsed,
        basis=basis,
        why_not=why,
        expects=_expects(draft, levels, rehearsed),
        objections=_objections(draft, turns, rehearsed, lanes),
        ways=_ways(draft, rehearsed),
    )


def _expects(draft: Draft, levels: Sequence[PlannedLevel], rehearsed: Rehearsal | None) -> str | None:
    """The effect to expect, in one sentence."""
    if rehearsed is None:
        return None
    said_in = scale_of(draft.measure).result_unit(draft.measure)
    unit = f" {said_in}" if said_in else ""
    # the smallest and the largest expected, told in the order of the levels
    ends = sorted(rehearsed.expected.index(v) for v in (min(rehearsed.expected), max(rehearsed.expected)))
    first, last = (f"{rehearsed.expected[i]:.2g}{unit} at {levels[i].label}" for i in ends)
    return f"Expect about {first} and {last}; repeats usually vary by about {max(rehearsed.sd):.1g}{unit}."


def adult_at_each(draft: Draft) -> bool:
    """Whether every open lane has an adult: because the teacher says so, or because pressure or height is in play."""
    return draft.rota.adult_needed or needs_adult(draft) is not None


def lanes_open(draft: Draft) -> int:
    """Lanes that can be open at once: each needs an adult where one is needed."""
    return min(draft.timing.lanes, draft.timing.adults) if adult_at_each(draft) else draft.timing.lanes


def _drops_a_trial(draft: Draft) -> int:
    """A trial up a ladder is several drops: at most one at each rung."""
    if draft.drop is None or draft.drop.plan == "one_height":
        return 1
    return max(1, len([h for h in draft.drop.heights if h.strip()]))


def seconds_of_trial(draft: Draft) -> float:
    """Seconds of one trial with its reading and reset; each rung of a ladder is dropped and looked at by itself."""
    t = draft.timing
    return t.setup_s + _drops_a_trial(draft) * (t.flight_s + t.reading_s) + t.reset_s


def _time(draft: Draft, practice: int, lanes: int, drops: int) -> LessonTime | None:
    t = draft.timing
    if seconds_of_trial(draft) <= 0 or t.trials_min <= 0:
        return None
    return lesson_time(
        levels=len(draft.variable.levels) * (len(draft.second.levels) if draft.second is not None else 1),
        repeats=draft.repeats,
        lanes=lanes,
        setup_s=t.setup_s,
        flight_s=t.flight_s * drops,
        reading_s=t.reading_s * drops,
        reset_s=t.reset_s,
        lesson_min=t.trials_min,
        practice=practice,
        adult_each=adult_at_each(draft),
        fewer="" if draft.study_kind == "contest" else "levels" if draft.second is None else "settings of both variables",
    )


def _rehearsed(
    draft: Draft, levels: Sequence[PlannedLevel], seed: int
) -> tuple[Rehearsal | None, Literal["physics", "guess"] | None, str | None]:
    if draft.repeats < 2:
        return None, None, "One repeat shows no scatter, so there is nothing to rehearse."
    guess = _guessed(draft)
    # the family's physics gives a distance, not the points of its zone
    expected = guess or (None if scale_of(draft.measure).scored else modelled(draft.family, draft.variable.name, draft.measure.name))
    if expected is None:
        why = "No physics is known for this pair. Say what you expect at the first and last level, and how much repeats scatter."
        return None, None, why
    at = tuple(float(i) for i in range(len(levels))) if guess else tuple(float(p.level) for p in levels if isinstance(p.level, float))
    try:
        number = draft.variable.kind == "number"
        played = _played(expected, at, draft.repeats, draft.measure.timers, seed, draft.evidence, number)
    except (PlanRefused, ArithmeticError, ValueError):
        return None, None, "With these levels the family’s physics gives no reading to expect. Say what you expect instead."
    return played, "guess" if guess else "physics", None


def _ways(draft: Draft, rehearsed: Rehearsal | None) -> Ways | None:
    """What each way of timing would do, where a time is expected."""
    m = draft.measure
    unit = find_unit(m.unit, "time") if m.timed and m.quantity == "time" else None
    if rehearsed is None or unit is None:
        return None
    guess, model = _guessed(draft), modelled(draft.family, draft.variable.name, m.name)
    own = guess.scatter if guess else model.scatter * sum(rehearsed.expected) / len(rehearsed.expected) if model else 0.0
    return ways_of(rehearsed.expected, own, draft.repeats, second=convert(1.0, "s", unit), planned="thumbs" if m.timers > 2 else "thumb", unit=unit, carried=_carries(draft))


def _carries(draft: Draft) -> bool:
    """Whether a payload is carried, in whose place a phone can lie."""
    return draft.drop is not None or any("payload" in said(name) for name in (draft.variable.name, *(k.name for k in draft.hold), *(m.name for m in draft.measures)))


@dataclass(frozen=True, slots=True, kw_only=True)
class _Guess:
    """What the teacher expects at the first and the last level, and how much repeats scatter, in the unit that is judged."""

    first: float
    last: float
    scatter: float

    def model(self, count: int) -> Model:
        """A straight line from the first level to the last, by place."""
        step = (self.last - self.first) / max(count - 1, 1)
        return Model(true=lambda i: self.first + i * step, scatter=0.0, reading_error=self.scatter or 1e-9, timed=False)


@lru_cache(maxsize=256)
def _played(model: _Guess | Model, at: tuple[float, ...], repeats: int, timers: int, seed: int, school: School, number: bool) -> Rehearsal:
    """Played through once: most of what is typed into a plan (names, sentences, groups) changes nothing of it."""
    return play(model.model(len(at)) if isinstance(model, _Guess) else model, at, repeats, timers=timers, seed=seed, school=school, number=number)


def _guessed(draft: Draft) -> _Guess | None:
    if not (draft.guess.first.strip() and draft.guess.last.strip()):
        return None
    m = draft.measure
    quantity = scale_of(m).quantity(m)
    unit = "count" if quantity == "count" else m.unit  # of a zone the points are judged
    try:
        first, last = (read(t, quantity, unit, signed=True).to(unit) for t in (draft.guess.first, draft.guess.last))
        scatter = read(draft.guess.scatter, quantity, unit).to(unit) if draft.guess.scatter.strip() else 0.05 * abs(first)
    except CoreError:
        return None
    return _Guess(first=first, last=last, scatter=scatter)


def _objections(draft: Draft, turns: Sequence[Turn], rehearsed: Rehearsal | None, lanes: int) -> tuple[Finding, ...]:
    """What the audit would say of trials run by this plan, and what the plan itself leaves open."""
    found = [
        *_few(draft),
        *_order(draft),
        *_one_releaser(draft, turns),
        *_unsaid(draft),
        *_too_quick(draft, rehearsed),
        *_one_step(draft, rehearsed),
        *_no_lane(draft, lanes),
        *_used_again(draft),
    ]
    weight = {"stop": 0, "warn": 1, "note": 2}
    return tuple(sorted(found, key=lambda f: weight[f.severity]))


def _few(draft: Draft) -> list[Finding]:
    if draft.repeats == 1:
        says = "One trial at each level shows no spread, so luck could not be told from a real difference."
        return [Finding(code="single_trial", severity="stop", says=says, do="Plan at least three repeats.", evidence={"repeats": 1})]
    if draft.repeats == 2:
        says = "Two trials at each level say little about the spread."
        return [Finding(code="few_repeats", severity="warn", says=says, do="Plan three repeats or more.", evidence={"repeats": 2})]
    return []


def _order(draft: Draft) -> list[Finding]:
    if draft.order != "listed" or draft.repeats < 2 or draft.study_kind == "design_rounds":  # versions come one after the other
        return []
    says = (
        f"Every trial at one level of {draft.variable.name} would be run before the next, so tiredness and order could not be told from it."
    )
    return [Finding(code="order_mixed_with_level", severity="warn", says=says, do="Shuffle the levels within blocks.")]


def _one_releaser(draft: Draft, turns: Sequence[Turn]) -> list[Finding]:
    groups = {t.group for t in turns}
    if draft.study_kind == "contest" or len(groups) < 2 or draft.repeats < 2:
        return []
    alone = [level for level in dict.fromkeys(t.level for t in turns) if len({t.group for t in turns if t.level == level}) == 1]
    if not alone:
        return []
    says = f"One group alone would run every trial at {', '.join(alone[:3])}, so the group’s hand could not be told from the level."
    return [Finding(code="person_mixed_with_level", severity="warn", says=says, do="Use one repeat more, or let one group release all.")]


def _unsaid(draft: Draft) -> list[Finding]:
    found = []
    if not draft.prediction.strip() and not draft.expect:
        found.append(
            Finding(
                code="prediction_missing", severity="note", says="No prediction is written yet.", do="Write one before the first trial."
            )
        )
    if not draft.measure.rule.strip():
        says = "Nobody has said from where to where the reading is taken."
        found.append(Finding(code="measuring_rule_missing", severity="warn", says=says, do="Write the measuring rule."))
    loose = [k.name for k in kept_same(draft) if not k.how]
    if loose:
        says = f"Nobody has said yet how {few_names(loose, 'thing', 3)} {'is' if len(loose) == 1 else 'are'} kept the same."
        found.append(
            Finding(code="control_not_held", severity="note", says=says, do="Write a value with a tolerance, or a sentence, on Ask.")
        )
    return found


def _too_quick(draft: Draft, rehearsed: Rehearsal | None) -> list[Finding]:
    m = draft.measure
    if not m.timed or rehearsed is None or find_unit(m.unit, "time") != "s":
        return []
    shortest = min(rehearsed.expected)
    if shortest <= 0 or THUMB_S / shortest <= THUMB_SHARE:
        return []
    says = f"The shortest fall is expected at about {shortest:.2g} s; a thumb’s scatter of {THUMB_S:g} s is {percent(THUMB_S / shortest)} of it."
    return [
        Finding(
            code="reaction_dominates",
            severity="warn",
            says=says,
            do=f"{'Drop from higher within your limit, use' if family(draft.family).dropped else 'Use'} three timers, or count video frames.",
            evidence={"shortest_s": shortest},
        )
    ]


def _one_step(draft: Draft, rehearsed: Rehearsal | None) -> list[Finding]:
    m = draft.measure
    if rehearsed is None or not m.step.strip() or scale_of(m).scored:
        return []
    try:
        step = read(m.step, m.quantity, m.unit).to(m.unit)
    except CoreError:
        return []
    effect = max(rehearsed.expected) - min(rehearsed.expected)
    if effect >= step:
        return []
    says = f"The levels are expected to differ by {effect:.2g} {m.unit}, less than one step of the tool ({step:g} {m.unit})."
    return [
        Finding(code="resolution_too_coarse", severity="warn", says=says, do="Read with a finer tool, or set the levels further apart.")
    ]


def _no_lane(draft: Draft, lanes: int) -> list[Finding]:
    if lanes:
        return []
    says = "No adult is planned, and each lane needs one."
    return [Finding(code="adult_missing", severity="stop", says=says, do="Plan an adult for every open lane, or leave the launch out.")]


def _used_again(draft: Draft) -> list[Finding]:
    if draft.drop is None or draft.drop.payload != "reused" or len(drop_heights_or_none(draft)) < 2:
        return []
    says = "One payload climbs all rungs: damage adds up, so a failure may belong to an earlier drop."
    return [Finding(code="payload_reused", severity="note", says=says, do="Look at the payload after every drop, or use a fresh one.")]


def drop_heights_or_none(draft: Draft) -> tuple[float, ...]:
    """The drop heights, or nothing while one of them cannot be read."""
    try:
        return drop_heights(draft)
    except CoreError:
        return ()


Releases = Literal["in turn", "one", "adult"]


def roles_of(draft: Draft) -> tuple[tuple[str, ...], ...]:
    """Who does what in each block of a draft, as far as the roles differ."""
    return roles(draft.people, max(1, min(draft.repeats, 12)), timed=any(m.timed for m in draft.measures), releases=who_releases(draft))


def who_releases(draft: Draft) -> Releases:
    """An adult where things are let fall from a height, as the cautions say; one pupil of a group where it is held who releases or
    throws; else each in turn."""
    if draft.drop is not None or (known(draft.family) and family(draft.family).dropped and needs_adult(draft)):
        return "adult"
    return "one" if any(k.how and said(k.name).startswith(("who ", "person who ")) for k in kept_same(draft)) else "in turn"


def roles(people: int, blocks: int, *, timed: bool = True, releases: Releases = "in turn") -> tuple[tuple[str, ...], ...]:
    """Who does what in each block: pupil 1 … people; the roles move on by one from block to block, so that everyone
    has each. With fewer people than roles one pupil has two. timed: something is timed by hand, so that one of them times. releases: in
    turn like the rest, always the first pupil, or an adult and none of them. people 1 to 6, blocks >= 1."""
    made = []
    asked = [r for r in ROLES if (timed or r != "time") and (releases == "in turn" or r != "release")]
    first = 1 if releases == "one" and people > 1 else 0
    for block in range(blocks):
        seats: list[list[str]] = [[] for _ in range(people)]
        if releases == "one":
            seats[0].append("release")
        for at, role in enumerate(asked):
            seats[first + (at + block) % (people - first)].append(role)
        made.append(tuple(" and ".join(s) or "watch the lane" for s in seats))
    return tuple(made)
