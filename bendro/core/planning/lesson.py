"""From a plan to the lesson that a rota is made for, and from the rota to the order in which the lanes call."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from itertools import groupby

from ..draft import Draft
from ..errors import PlanRefused
from .order import Turn
from .outlook import adult_at_each, seconds_of_trial
from .rota import Lesson, Sitting


def visit_minutes(draft: Draft, planned: int) -> int:
    """Minutes of one group's visit to a lane: its share of the planned trials and its practice, over the rounds; or what the
    plan says. At least 1."""
    if draft.rota.test_min:
        return draft.rota.test_min
    trials = _trials_each(draft, planned) + draft.practice
    return max(1, math.ceil(math.ceil(trials / _visits(draft, planned)) * seconds_of_trial(draft) / 60))


def _trials_each(draft: Draft, planned: int) -> int:
    """Planned trials of the group that has most of them."""
    return math.ceil(planned / max(len([g for g in draft.groups if g.strip()]), 1))


def _visits(draft: Draft, planned: int) -> int:
    """How often each group comes to the lane: as the plan says, but never oftener than it has trials to run."""
    return min(draft.rota.rounds, max(1, _trials_each(draft, planned))) if planned else draft.rota.rounds


def lesson_of(draft: Draft, planned: int) -> Lesson:
    """The lesson of a draft with so many planned trials. Raises PlanRefused `rota_not_ready` where there are none and no time
    for a test is given."""
    if not planned and not draft.rota.test_min:
        raise PlanRefused(
            "The plan is not ready, so it is not known how long a test takes. Finish the plan, or write the minutes of a test.",
            code="rota_not_ready",
            where="rota.test_min",
        )
    r, t = draft.rota, draft.timing
    return Lesson(
        groups=tuple(g.strip() for g in draft.groups if g.strip()),
        lanes=t.lanes,
        adults=t.adults,
        adult_needed=adult_at_each(draft),
        build=r.build_min,
        test=visit_minutes(draft, planned),
        improve=r.improve_min if draft.study_kind == "design_rounds" else 0,  # in a fair test nothing is changed between visits
        rounds=_visits(draft, planned),
        tidy=r.tidy_min,
        minutes=r.lesson_min,
    )


def seated(turns: Sequence[Turn], sittings: Sequence[Sitting], practice: int) -> tuple[Turn, ...]:
    """Turns as the rota calls them: sitting after sitting, lane beside lane. A group's practice releases and its turns, in their
    order, are shared out over its visits as `visit_minutes` shares them. As they are where the rota does not seat every group (devices
    of a contest) or where several are let go together. practice: releases of each group before its first turn, 0 …"""
    visits = {g: list(own) for g, own in groupby(sorted((s for s in sittings if s.lane), key=lambda s: (s.group, s.start)), key=lambda s: s.group)}
    own = {g: [t for t in turns if t.group == g] for g in {t.group for t in turns}}
    if any(t.heat for t in turns) or not own.keys() <= visits.keys():
        return tuple(turns)
    number = {start: n for n, start in enumerate(sorted({s.start for seats in visits.values() for s in seats}), 1)}
    called = []
    for group, has in own.items():
        seats = visits[group]
        each = math.ceil((len(has) + practice) / len(seats))
        for release, turn in enumerate(has, practice):
            at = seats[release // each]
            called.append(replace(turn, lane=at.lane or 1, sitting=number[at.start]))
    return tuple(sorted(called, key=lambda t: (t.sitting, t.lane, t.position)))
