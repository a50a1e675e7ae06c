"""The lesson rota: who builds, tests, improves and tests again, on which lane and under which adult, minute by minute.

Solved by OR-Tools' CP-SAT within a time limit; when the solver gives nothing in time a plain rule stands in and says so.
Lanes are alike and so are groups, so the solver only chooses starts under a capacity; lanes and adults are then dealt out in
the order of starting, which is always possible for intervals under a capacity (interval graphs are perfect).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

from ..errors import PlanRefused

MOST_GROUPS, MOST_LANES, MOST_ROUNDS = 60, 12, 6
#: Longest search, s; a lesson's rota of ordinary size is proved best in far less.
LIMIT_S = 5.0
What = Literal["build", "test", "improve", "wait", "tidy"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Lesson:
    """What a lesson holds. Whole minutes. adult_needed: every open lane has an adult of its own."""

    groups: tuple[str, ...]
    lanes: int
    adults: int
    adult_needed: bool
    build: int
    test: int
    improve: int
    rounds: int
    tidy: int
    minutes: int

    @property
    def open_lanes(self) -> int:
        return min(self.lanes, self.adults) if self.adult_needed else self.lanes


@dataclass(frozen=True, slots=True, kw_only=True)
class Sitting:
    """One group busy with one thing, from start to end (minutes from the beginning of the lesson). lane and adult: 1 …, only
    while testing."""

    group: str
    what: What
    round: int
    start: int
    end: int
    lane: int | None = None
    adult: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Rota:
    """needs: minutes from the first build to the last tidying. best: proved to be the shortest there is. change: the smallest
    single change that makes it fit, None where it fits or nothing single would do. closed: which lanes stay shut for want of an
    adult, as a sentence."""

    sittings: tuple[Sitting, ...]
    needs: int
    fits: bool
    over: int
    best: bool
    method: Literal["solver", "plain"]
    says: str
    change: str | None
    closed: str = ""


def make_rota(lesson: Lesson, *, limit_s: float = LIMIT_S) -> Rota:
    """The shortest rota. Raises PlanRefused `rota_inputs`, `rota_no_groups`, `rota_no_adult`."""
    _check(lesson)
    starts, best = _solve(lesson, limit_s)
    method: Literal["solver", "plain"] = "solver"
    if starts is None:
        starts, best, method = plain_starts(lesson), False, "plain"
    needs = _needs(lesson, starts)
    fits = needs <= lesson.minutes
    change = None if fits else _what_would_fit(lesson, limit_s)
    return Rota(
        sittings=_sittings(lesson, starts),
        needs=needs,
        fits=fits,
        over=max(0, needs - lesson.minutes),
        best=best,
        method=method,
        says=_says(lesson, needs, best, method),
        change=change,
        closed=_closed(lesson),
    )


def _closed(lesson: Lesson) -> str:
    """The lanes that no adult can open, named."""
    shut = [str(n) for n in range(lesson.open_lanes + 1, lesson.lanes + 1)]
    if not shut:
        return ""
    names = f"Lane {shut[0]} stays" if len(shut) == 1 else f"Lanes {', '.join(shut[:-1])} and {shut[-1]} stay"
    adults = "one adult is" if lesson.adults == 1 else f"{lesson.adults} adults are"
    return f"{names} closed: {adults} planned and each open lane needs one."


def _check(lesson: Lesson) -> None:
    if not lesson.groups:
        raise PlanRefused("A rota needs groups. Write their labels in the plan.", code="rota_no_groups", where="groups")
    if lesson.adult_needed and lesson.adults < 1:
        raise PlanRefused(
            "Pressure, height or a loaded launcher needs an adult at the lane, and no adult is planned.",
            code="rota_no_adult",
            where="timing.adults",
        )
    numbers = (lesson.build, lesson.improve, lesson.tidy)
    if (
        len(lesson.groups) > MOST_GROUPS
        or not 1 <= lesson.lanes <= MOST_LANES
        or not 1 <= lesson.rounds <= MOST_ROUNDS
        or lesson.test < 1
        or lesson.minutes < 1
        or min(numbers) < 0
        or max(*numbers, lesson.test, lesson.minutes) > 1440
    ):
        raise PlanRefused(
            f"A rota takes up to {MOST_GROUPS} groups, {MOST_LANES} lanes and {MOST_ROUNDS} rounds; a test lasts at least a minute and nothing more than a day.",
            code="rota_inputs",
            where="rota",
        )


Starts = list[list[int]]  # group -> round -> start of the test, minutes


def shortest_possible(lesson: Lesson) -> int:
    """A bound that no rota can beat, in minutes: one group's own work, and all tests over the open lanes."""
    own = lesson.build + lesson.rounds * lesson.test + (lesson.rounds - 1) * lesson.improve
    tests = math.ceil(len(lesson.groups) * lesson.rounds / lesson.open_lanes) * lesson.test
    return max(own, lesson.build + tests) + lesson.tidy


def plain_starts(lesson: Lesson) -> Starts:
    """The plain rule: at each moment a lane is free, the group that has waited longest for its test goes on."""
    free = [lesson.build] * lesson.open_lanes
    ready = [lesson.build] * len(lesson.groups)
    made: Starts = [[] for _ in lesson.groups]
    for _ in range(len(lesson.groups) * lesson.rounds):
        waiting = [g for g in range(len(made)) if len(made[g]) < lesson.rounds]
        lane = min(range(len(free)), key=lambda i: free[i])
        g = min(waiting, key=lambda g: (max(ready[g], free[lane]), ready[g], g))
        start = max(ready[g], free[lane])
        made[g].append(start)
        free[lane] = start + lesson.test
        ready[g] = start + lesson.test + lesson.improve
    return made


def _solve(lesson: Lesson, limit_s: float) -> tuple[Starts | None, bool]:
    """Starts and whether they are proved best. A plain rota that meets the bound is best and needs no solver."""
    plain = plain_starts(lesson)
    if _needs(lesson, plain) == shortest_possible(lesson):
        return plain, True
    if limit_s <= 0:
        return None, False
    from ortools.sat.python import cp_model  # only here: loading it takes longer than most rotas

    model = cp_model.CpModel()
    latest = _needs(lesson, plain) - lesson.tidy
    begin = [
        [model.new_int_var(lesson.build, max(latest - lesson.test, lesson.build), f"s{g}_{r}") for r in range(lesson.rounds)]
        for g in range(len(lesson.groups))
    ]
    tests = [model.new_fixed_size_interval_var(s, lesson.test, f"t{g}_{r}") for g, row in enumerate(begin) for r, s in enumerate(row)]
    model.add_cumulative(tests, [1] * len(tests), lesson.open_lanes)
    for row in begin:
        for a, b in zip(row, row[1:], strict=False):
            model.add(b >= a + lesson.test + lesson.improve)
    for one, two in zip(begin, begin[1:], strict=False):  # groups are alike: the first listed goes first
        model.add(one[0] <= two[0])
    end = model.new_int_var(shortest_possible(lesson) - lesson.tidy, latest, "end")
    for row in begin:
        model.add(end >= row[-1] + lesson.test)
    model.minimize(end * 10_000 + sum(s for row in begin for s in row))
    for row, hint in zip(begin, plain, strict=True):
        for var, value in zip(row, hint, strict=True):
            model.add_hint(var, value)
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = limit_s
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = 1
    status = solver.solve(model)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return None, False
    return [[int(solver.value(s)) for s in row] for row in begin], status == cp_model.OPTIMAL


def _needs(lesson: Lesson, starts: Starts) -> int:
    return max(row[-1] for row in starts) + lesson.test + lesson.tidy


def _sittings(lesson: Lesson, starts: Starts) -> tuple[Sitting, ...]:
    tests = sorted((s, g, r) for g, row in enumerate(starts) for r, s in enumerate(row))
    free = [0] * lesson.open_lanes
    lane_of: dict[tuple[int, int], int] = {}
    for start, g, r in tests:
        lane = next(i for i, at in enumerate(free) if at <= start)
        free[lane] = start + lesson.test
        lane_of[g, r] = lane + 1
    made: list[Sitting] = []
    for g, label in enumerate(lesson.groups):
        if lesson.build:
            made.append(Sitting(group=label, what="build", round=1, start=0, end=lesson.build))
        at = lesson.build
        for r, start in enumerate(starts[g]):
            if r and lesson.improve:
                made.append(Sitting(group=label, what="improve", round=r + 1, start=at, end=at + lesson.improve))
                at += lesson.improve
            if start > at:
                made.append(Sitting(group=label, what="wait", round=r + 1, start=at, end=start))
            lane = lane_of[g, r]
            at = start + lesson.test
            made.append(
                Sitting(group=label, what="test", round=r + 1, start=start, end=at, lane=lane, adult=lane if lesson.adult_needed else None)
            )
        last = _needs(lesson, starts) - lesson.tidy
        if last > at:
            made.append(Sitting(group=label, what="wait", round=lesson.rounds, start=at, end=last))
        if lesson.tidy:
            made.append(Sitting(group=label, what="tidy", round=lesson.rounds, start=last, end=last + lesson.tidy))
    return tuple(made)


def _says(lesson: Lesson, needs: int, best: bool, method: str) -> str:
    if needs <= lesson.minutes:
        spare = lesson.minutes - needs
        return f"It takes {needs} of {lesson.minutes} min" + (f"; {spare} min are left." if spare else ", with nothing to spare.")
    how = "no order of the groups is shorter" if best else "a shorter order was not found" + (" in time" if method == "plain" else "")
    return f"It takes {needs} min, {needs - lesson.minutes} more than the lesson has; {how}."


def _what_would_fit(lesson: Lesson, limit_s: float) -> str | None:
    """The first single change, from the least to the largest, with which it fits; found with the same solver."""

    def fits(changed: Lesson) -> bool:
        if shortest_possible(changed) > changed.minutes:
            return False
        starts, _ = _solve(changed, min(limit_s, 1.0))
        return _needs(changed, starts if starts is not None else plain_starts(changed)) <= changed.minutes

    for change, sentence in _changes(lesson):
        if fits(change):
            return sentence
    per_round = replace(lesson, rounds=1)
    if lesson.rounds > 1 and fits(per_round):
        return f"Test once in each lesson: {lesson.rounds} lessons."
    lessons = _lessons(lesson, fits)
    return f"Share it over {lessons} lessons, some of the groups in each." if lessons else None


def _changes(lesson: Lesson) -> list[tuple[Lesson, str]]:
    made: list[tuple[Lesson, str]] = []
    for cut in range(1, lesson.improve + 1):
        made.append(
            (
                replace(lesson, improve=lesson.improve - cut),
                f"{lesson.improve - cut} min for improving instead of {lesson.improve} make it fit.",
            )
        )
    if lesson.lanes < MOST_LANES:
        more = replace(lesson, lanes=lesson.lanes + 1)
        if not lesson.adult_needed or lesson.adults > lesson.lanes:
            made.append((more, "One more lane makes it fit."))
        elif lesson.adults == lesson.lanes:
            made.append((replace(more, adults=lesson.adults + 1), "One more lane with one more adult makes it fit."))
    if lesson.adult_needed and lesson.adults < lesson.lanes:
        made.append((replace(lesson, adults=lesson.adults + 1), "One more adult, so that one more lane can be open, makes it fit."))
    for test in range(lesson.test - 1, 0, -1):
        made.append(
            (replace(lesson, test=test), f"{test} min for a test instead of {lesson.test} make it fit: plan fewer trials at each visit.")
        )
    if lesson.rounds > 1:
        made.append(
            (
                replace(lesson, rounds=lesson.rounds - 1),
                f"{lesson.rounds - 1} round{'s' if lesson.rounds > 2 else ''} of testing instead of {lesson.rounds} make it fit.",
            )
        )
    for cut in range(1, lesson.build):
        made.append((replace(lesson, build=lesson.build - cut), f"{lesson.build - cut} min for building instead of {lesson.build} make it fit."))
    if lesson.build:
        made.append((replace(lesson, build=0), "Build in the lesson before, and it fits."))
    return made


def _lessons(lesson: Lesson, fits: Callable[[Lesson], bool]) -> int | None:
    """Into how many lessons the groups must be shared, or None where one group alone is too long."""
    for lessons in range(2, len(lesson.groups) + 1):
        if fits(replace(lesson, groups=lesson.groups[: math.ceil(len(lesson.groups) / lessons)])):
            return lessons
    return None
