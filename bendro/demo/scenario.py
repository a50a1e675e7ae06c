"""The invented demo: Fernhollow School's Marsh Rescue Week. Numbers come from the core's physics with seeded scatter and
reading errors, so that they are realistic and the same every time."""

from __future__ import annotations

import math
from collections.abc import Callable
from datetime import datetime, timedelta
from uuid import NAMESPACE_URL, UUID, uuid5

import numpy as np
from sqlalchemy import delete
from sqlmodel import Session, select

from bendro.actions.accounts import DEMO_NAME, add_account
from bendro.actions.studies import change_study, make_study, open_run
from bendro.actions.trials import TrialGiven, put_trial
from bendro.core.families import family
from bendro.core.physics.motion import drag_fall_time, flight_range, flight_time, terminal_speed
from bendro.core.planning.draft import Draft, MeasureDraft, VariableDraft
from bendro.core.planning.order import Turn
from bendro.core.planning.plan import planned_turns
from bendro.store.owned import Owned
from bendro.store.tables import Account, Study, Workspace

GROUPS = ["Avocet", "Bittern", "Curlew", "Dunlin", "Egret", "Fulmar"]
SCHOOL = "Fernhollow School"
#: The study made last: when it is there, the demo is whole.
LAST_MADE = "medicine"
#: Scatter of one thumb on a stopwatch, s (common practice: about 0.1).
THUMB_S = 0.08
Rng = np.random.Generator
#: One trial of the demo: texts, second reading, behaviour, fault of a void tried first (or "").
Outcome = tuple[list[str], str, str, str]


def _id(*parts: object) -> UUID:
    return uuid5(NAMESPACE_URL, "bendro-demo:" + ":".join(map(str, parts)))


def load(session: Session, *, now: datetime) -> bool:
    """Make the demo workspace once; False when it is there already. One that was cut short while it was made is made anew."""
    known = session.exec(select(Account).where(Account.sign_in_name == DEMO_NAME)).first()
    if known is not None:
        if Owned(session, known.workspace_id).find(Study, _id(LAST_MADE)) is not None:
            return False
        session.exec(delete(Workspace).where(Workspace.id == known.workspace_id))  # type: ignore[call-overload, arg-type]
        session.commit()
    account = add_account(session, sign_in_name=DEMO_NAME, password=None, school=SCHOOL, now=now, demo=True)
    account.shown_name = "Demo teacher"
    session.commit()
    owned = Owned(session, account.workspace_id)
    for make in (_dyke, _fizz, _glider, _medicine):
        make(owned, now)
    return True


def _measure(family_id: str, name: str, **more: object) -> MeasureDraft:
    m = next(m for m in family(family_id).measures if m.name == name)
    return MeasureDraft(name=m.name, quantity=m.quantity, unit=m.unit, rule=m.rule, better=m.better, signed=m.signed, timed=m.timed, **more)  # type: ignore[arg-type]


def _variable(family_id: str, name: str, levels: list[str]) -> VariableDraft:
    v = next(v for v in family(family_id).variables if v.name == name)
    return VariableDraft(name=v.name, kind=v.kind, quantity=v.quantity or "number", unit=v.unit, levels=levels)


def _run(
    owned: Owned, study_id: UUID, draft: Draft, seed: int, begun: datetime, outcome: Callable[[Turn, Rng], Outcome], upto: int | None = None
) -> None:
    """Open a run and put its trials, a minute apart; a void is tried again at once."""
    open_run(owned, study_id, run_id=_id(study_id, "run"), adult="Teacher", ticked=list(family(draft.family).cautions), now=begun)
    rng, at = np.random.default_rng(seed), begun
    for turn in planned_turns(draft, seed)[:upto]:
        texts, also, behaviour, fault = outcome(turn, rng)
        tries = [fault, ""] if fault else [""]
        for number, fault_now in enumerate(tries):
            at += timedelta(seconds=50 + float(rng.integers(0, 20)))
            put_trial(
                owned,
                study_id,
                _id(study_id, turn.block, turn.level, number),
                TrialGiven(
                    block=turn.block,
                    level=turn.level,
                    group=turn.group,
                    person=turn.group,
                    texts=[] if fault_now and not texts[0] else ([f"{float(texts[0]) * 0.45:.2f}"] if fault_now else texts),
                    also_text="" if fault_now else also,
                    behaviour="" if fault_now else behaviour,
                    state="void" if fault_now else "kept",
                    fault=fault_now,
                    note="",
                    released_at=at,
                    revision=1,
                ),
                now=at,
            )


def _study(owned: Owned, key: str, title: str, draft: Draft, made: datetime, lesson: datetime | None) -> tuple[UUID, int]:
    study = make_study(owned, study_id=_id(key), title=title, draft=draft, now=made, next_lesson=None if lesson is None else lesson.date())
    return study.id, study.seed


def _dyke(owned: Owned, now: datetime) -> None:
    """Finished: a clear rising effect; one odd short throw, void with its fault."""
    draft = Draft(
        question="How does the counterweight change how far the line is thrown over the dyke?",
        family="launcher",
        variable=_variable("launcher", "counterweight", ["1.0", "1.5", "2.0", "2.5"]),
        measure=_measure("launcher", "distance to first touch"),
        also=_measure("launcher", "distance off the line"),
        repeats=5,
        groups=GROUPS,
        prediction="The heavier the counterweight, the farther, because more energy goes into the arm.",
        expect="rises",
    )
    begun = now - timedelta(days=6)
    study_id, seed = _study(owned, "dyke", "Throwing a line over the dyke", draft, begun - timedelta(hours=1), None)

    def outcome(turn: Turn, rng: Rng) -> Outcome:
        energy = 0.40 * float(turn.level) * 9.81 * 0.5  # share of the falling weight's energy that reaches the bag, 0.5 m drop
        speed = math.sqrt(2 * energy / 0.12) * (1 + rng.normal(0, 0.018))
        along = flight_range(speed, 42 + rng.normal(0, 1.2), 0.9)
        off = rng.normal(2, 11)
        fault = "slipped from the cup" if (turn.block, turn.level) == (3, "2") else ""
        return [f"{along:.2f}"], f"{off:.0f}", "straight" if abs(off) < 18 else "curved", fault

    _run(owned, study_id, draft, seed, begun, outcome)
    change_study(owned, study_id, version=1, finished=True, now=begun + timedelta(hours=1))


def _fizz(owned: Owned, now: datetime) -> None:
    """All trials run, waiting for its verdict: a peak in the middle, voids pile up at 20 ml."""
    draft = Draft(
        question="How much water gives the fizz signal the longest flight?",
        family="rocket",
        variable=_variable("rocket", "water", ["5", "10", "15", "20"]),
        measure=_measure("rocket", "hang time", timers=2),
        repeats=4,
        groups=GROUPS,
        prediction="A best in the middle: too little water makes little gas, too much leaves no room for it.",
        expect="peak",
    )
    begun = now - timedelta(days=2)
    study_id, seed = _study(owned, "fizz", "Fizz signal", draft, begun - timedelta(hours=1), None)

    def outcome(turn: Turn, rng: Rng) -> Outcome:
        speed = {"5": 8.6, "10": 10.9, "15": 10.2, "20": 7.6}[turn.level] * (1 + rng.normal(0, 0.04))
        true = flight_time(speed, 86, 0.0)
        fault = "blew off early" if turn.level == "20" and turn.block in (1, 2, 4) else ""
        return [f"{true + rng.normal(0, THUMB_S):.2f}" for _ in range(2)], "", "straight", fault

    _run(owned, study_id, draft, seed, begun, outcome)


def _glider(owned: Owned, now: datetime) -> None:
    """In the middle of its run: straighter with nose mass and, past 2 g, shorter."""
    draft = Draft(
        question="How does clay on the nose change how far and how straight the message glider flies?",
        family="glider",
        variable=_variable("glider", "nose clay", ["0", "1", "2", "3"]),
        measure=_measure("glider", "distance"),
        also=_measure("glider", "distance off the line"),
        repeats=5,
        groups=GROUPS,
        prediction="Straighter with more clay, but it will dive when there is too much.",
        expect="peak",
    )
    begun = now - timedelta(days=1)
    study_id, seed = _study(owned, "glider", "Message glider", draft, begun - timedelta(hours=1), now)

    def outcome(turn: Turn, rng: Rng) -> Outcome:
        clay = float(turn.level)
        ratio = {0: 3.4, 1: 4.3, 2: 4.4, 3: 3.1}[int(clay)] * (1 + rng.normal(0, 0.07))
        off = rng.normal(0, 95 / (1 + 1.1 * clay))
        behaviour = (
            "stalled"
            if clay == 0 and rng.random() < 0.6
            else "nose-dived"
            if clay == 3 and rng.random() < 0.5
            else "straight"
            if abs(off) < 40
            else "curved"
        )
        return [f"{1.5 * ratio:.2f}"], f"{off:.0f}", behaviour, ""

    _run(owned, study_id, draft, seed, begun, outcome, upto=11)


def medicine_time(spill_hole_cm: float, rng: Rng) -> float:
    """True fall time in s of the medicine drop from 4.2 m: a 44 cm square of kite cloth, 60 g, with a round spill-hole."""
    area = 0.44**2 - math.pi * (spill_hole_cm / 200) ** 2
    terminal = terminal_speed(0.060, area, (1.30 - 0.035 * spill_hole_cm) * (1 + rng.normal(0, 0.02)))
    return drag_fall_time(4.2, terminal)


def _medicine(owned: Owned, now: datetime) -> None:
    """Planned and ready, not yet run."""
    draft = Draft(
        question="How does the spill-hole change the descent time of the medicine parachute?",
        family="parachute",
        variable=_variable("parachute", "spill-hole width", ["0", "4", "8", "12"]),
        measure=_measure("parachute", "descent time", timers=3),
        repeats=4,
        groups=GROUPS,
        prediction="A wider hole lets more air through, so it falls faster.",
        expect="falls",
    )
    _study(owned, "medicine", "Medicine drop", draft, now - timedelta(hours=3), now + timedelta(days=3))
