"""The invented demo: Fernhollow School's Marsh Rescue Week. Numbers come from the core's physics with seeded scatter and
reading errors, so that they are realistic and the same every time."""

from __future__ import annotations

import math
from datetime import datetime, timedelta

from sqlalchemy import delete
from sqlmodel import Session, select

from bendro.actions.accounts import DEMO_NAME, add_account
from bendro.actions.studies import change_study
from bendro.core.draft import Binding, DerivedDraft, Draft, Limit
from bendro.core.physics.motion import flight_range, flight_time
from bendro.core.planning.order import Turn
from bendro.store.owned import Owned
from bendro.store.tables import Account, Study, Workspace

from . import devices, more
from .making import GROUPS, THUMB_S, Outcome, Part, Rng, demo_id, measure_of, plan_study, run_study, variable_of

SCHOOL = "Fernhollow School"
#: Behind the school's name while the demo is made for the first time.
HALF_MADE = " (being made)"


def load(session: Session, *, now: datetime) -> bool:
    """Make the demo workspace once, and later only what a newer version adds to it; False when nothing was missing. What
    teachers made or changed in it stays. One that was cut short while it was first made is made anew."""
    known = session.exec(select(Account).where(Account.sign_in_name == DEMO_NAME)).first()
    if known is not None:
        held = session.get(Workspace, known.workspace_id)
        if held is not None and not held.name.endswith(HALF_MADE):
            owned = Owned(session, known.workspace_id)
            missing = [make for table, row_id, make in _parts() if owned.find(table, row_id) is None]
            for make in missing:
                make(owned, now)
                session.commit()
            return bool(missing)
        session.exec(delete(Workspace).where(Workspace.id == known.workspace_id))  # type: ignore[arg-type]
        session.commit()
    account = add_account(session, sign_in_name=DEMO_NAME, password=None, school=SCHOOL + HALF_MADE, now=now, demo=True)
    account.shown_name = "Demo teacher"
    session.commit()
    owned = Owned(session, account.workspace_id)
    for _, _, make in _parts():
        make(owned, now)
        session.commit()
    whole = session.get(Workspace, account.workspace_id)
    if whole is not None:
        whole.name = SCHOOL
        session.commit()
    return True


def _parts() -> list[Part]:
    """Everything in the demo, in the order of making: the row by which it is known to be there, and what makes it."""
    first: list[Part] = [(Study, demo_id("dyke"), _dyke), (Study, demo_id("fizz"), _fizz), (Study, demo_id("glider"), _glider)]
    return [*first, *more.parts(), *devices.parts()]


def _dyke(owned: Owned, now: datetime) -> None:
    """Finished: a clear rising effect; one odd short throw, void with its fault."""
    draft = Draft(
        question="How does the counterweight change how far the line is thrown over the dyke?",
        family="launcher",
        variable=variable_of("launcher", "counterweight", ["1.0", "1.5", "2.0", "2.5"]),
        measures=[measure_of("launcher", "distance to first touch"), measure_of("launcher", "distance off the line")],
        repeats=5,
        groups=GROUPS,
        class_label="9 Teal",
        prediction="The heavier the counterweight, the farther it throws.",
        reason="A heavier weight has more energy to give.",
        expect="rises",
        limits=[Limit(on="variable", value="2.5 kg")],
    )
    begun = now - timedelta(days=6)
    study_id, seed = plan_study(owned, "dyke", "Throwing a line over the dyke", draft, begun - timedelta(hours=1), None)

    def outcome(turn: Turn, rng: Rng) -> Outcome:
        energy = 0.40 * float(turn.level) * 9.81 * 0.5  # share of the falling weight's energy that reaches the bag, 0.5 m drop
        speed = math.sqrt(2 * energy / 0.12) * (1 + rng.normal(0, 0.018))
        along = flight_range(speed, 42 + rng.normal(0, 1.2), 0.9)
        off = rng.normal(2, 11)
        fault = "slipped from the cup" if (turn.block, turn.level) == (3, "2") else ""
        return [f"{along:.2f}"], f"{off:.0f}", "straight" if abs(off) < 18 else "curved", fault

    run_study(owned, study_id, draft, seed, begun, outcome)
    change_study(owned, study_id, version=1, finished=True, now=begun + timedelta(hours=1))


def _fizz(owned: Owned, now: datetime) -> None:
    """All trials run, waiting for its verdict: a peak in the middle, voids pile up at 20 ml."""
    draft = Draft(
        question="How much water gives the fizz signal the longest flight?",
        family="rocket",
        variable=variable_of("rocket", "water", ["5", "10", "15", "20"]),
        measures=[measure_of("rocket", "hang time", timers=2)],
        derived=[
            DerivedDraft(
                name="apex from the hang time", calculator="hang-time", output="apex_height", unit="m",
                inputs=[Binding(input="time", source="reading", of="m1")],
            )
        ],
        repeats=4,
        groups=GROUPS,
        class_label="9 Teal",
        prediction="A best in the middle: too little water makes little gas, too much leaves no room for it.",
        expect="peak",
    )
    begun = now - timedelta(days=2)
    study_id, seed = plan_study(owned, "fizz", "Fizz signal", draft, begun - timedelta(hours=1), None)

    def outcome(turn: Turn, rng: Rng) -> Outcome:
        speed = {"5": 8.6, "10": 10.9, "15": 10.2, "20": 7.6}[turn.level] * (1 + rng.normal(0, 0.04))
        true = flight_time(speed, 86, 0.0)
        fault = "blew off early" if turn.level == "20" and turn.block in (1, 2, 4) else ""
        return [f"{true + rng.normal(0, THUMB_S):.2f}" for _ in range(2)], "", "straight", fault

    run_study(owned, study_id, draft, seed, begun, outcome)


def _glider(owned: Owned, now: datetime) -> None:
    """In the middle of its run: straighter with nose mass and, past 2 g, shorter."""
    draft = Draft(
        question="How does clay on the nose change how far and how straight the message glider flies?",
        family="glider",
        variable=variable_of("glider", "nose clay", ["0", "1", "2", "3"]),
        measures=[measure_of("glider", "distance"), measure_of("glider", "distance off the line")],
        margin="0.6 m",
        repeats=5,
        groups=GROUPS,
        class_label="9 Teal",
        prediction="Straighter with more clay, but it will dive when there is too much.",
        expect="peak",
    )
    begun = now - timedelta(days=1)
    study_id, seed = plan_study(owned, "glider", "Message glider", draft, begun - timedelta(hours=1), now)

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

    run_study(owned, study_id, draft, seed, begun, outcome, upto=11)
