"""The demo's studies at earlier stages: planned, built, asked; and the pod that is made better round by round."""

from __future__ import annotations

from datetime import datetime, timedelta
from itertools import groupby
from uuid import UUID

import numpy as np

from bendro.actions.building import put_version
from bendro.actions.lesson import make_lesson_rota
from bendro.actions.plan_record import sign_off
from bendro.actions.record import put_trial
from bendro.actions.studies import open_run
from bendro.core.building.version import DevicePart, Property, RocketShape, Used, VersionDraft
from bendro.core.draft import (
    Binding,
    DerivedDraft,
    Draft,
    DropDraft,
    Guess,
    Held,
    Limit,
    MaterialDraft,
    MaterialsDraft,
    MeasureDraft,
    PackDraft,
    RotaDraft,
    RulesDraft,
    TemplatesDraft,
    TimingDraft,
    VariableDraft,
)
from bendro.core.families import family
from bendro.core.planning.order import Turn
from bendro.core.planning.plan import planned_turns
from bendro.core.planning.safety import cautions_of
from bendro.core.planning.usual import usual_plan
from bendro.core.record import BEHAVIOUR, ReadingRecord, TrialRecord
from bendro.store.owned import Owned
from bendro.store.tables import DeviceVersion, Study

from .making import GROUPS, THUMB_S, Outcome, Part, Rng, demo_id, measure_of, plan_study, run_study, variable_of

RUNGS = ["1.0", "1.6", "2.4", "3.2", "4.2"]
LADDER = DropDraft(plan="ladder", heights=RUNGS, unit="m", payload="fresh")


def parts() -> list[Part]:
    """What this page makes, in its order."""
    studies = {
        "medicine": _medicine,
        "sled": _sled,
        "pods": _pods,
        "seed-wing": _seed_wing,
        "hoist": _hoist,
        "top": _top,
        "rounds": _rounds,
    }
    return [(DeviceVersion, demo_id("fizz", "device"), _fizz_device), *((Study, demo_id(key), make) for key, make in studies.items())]


def _fizz_device(owned: Owned, now: datetime) -> None:
    """The fizz signal's own body, with its nose, fins and parts written down."""
    put_version(
        owned,
        demo_id("fizz"),
        demo_id("fizz", "device"),
        device="Avocet",
        draft=VersionDraft(
            properties=[Property(name="fin number", value="4"), Property(name="body length", value="22 cm"), Property(name="nose mass", value="6 g")],
            parts=[
                DevicePart(name="nose clay", mass="6 g", position="25 mm"),
                DevicePart(name="body", mass="9 g", position="11 cm"),
                DevicePart(name="canister", mass="8 g", position="19 cm"),
                DevicePart(name="fins", mass="4 g", position="20 cm"),
            ],
            shape=RocketShape(nose="ogive", nose_length="50 mm", body_diameter="32 mm", body_length="220 mm", fins="4", root="45 mm", tip="25 mm",
                              span="38 mm", sweep="20 mm", fin_position="172 mm"),
            mass="27 g",
            checks=list(family("rocket").build_checks[:3]),
        ),
        revision=0,
        withdrawn=False,
        now=now - timedelta(days=2, hours=1),
    )  # fmt: skip


def _medicine(owned: Owned, now: datetime) -> None:
    """Planned whole, with wall, materials, rota and sign-off; not yet run."""
    draft = Draft(
        question="How does the spill-hole change the descent time of the medicine parachute?",
        family="parachute",
        could_change=["spill-hole width", "canopy size", "line length", "payload", "how the canopy is folded"],
        could_measure=["descent time", "landing place", "how much it swings"],
        variable=variable_of("parachute", "spill-hole width", ["0", "4", "8", "12"]),
        measures=[measure_of("parachute", "descent time", timers=3)],
        derived=[
            DerivedDraft(
                name="descent speed", calculator="average-speed", output="speed", unit="m/s", better="low",
                inputs=[Binding(input="distance", source="held", of="drop height"), Binding(input="time", source="reading", of="m1")],
            )
        ],
        hold=[
            Held(name="drop height", value="4.2 m", tolerance="5 cm"),
            Held(name="payload", value="60 g", tolerance="1 g"),
            Held(name="line length", value="50 cm", tolerance="2 mm", how="cut together"),
            Held(name="number of lines", how="eight"),
            Held(name="how the canopy is folded", how="in four, then once, held by the middle"),
            Held(name="who releases", how="the adult at the rail, at the caller's word"),
            Held(name="canopy size", value="44 cm", tolerance="5 mm", how="each side of the square"),
            Held(name="room draught", how="doors shut, fans off"),
        ],
        repeats=4,
        groups=GROUPS,
        class_label="9 Teal",
        start_line="The rail of the gym balcony",
        void_rule="It did not open, or it touched the wall",
        prediction="A wider hole makes it fall faster.",
        reason="More air goes through the hole, so less of it pushes back.",
        expect="falls",
        limits=[Limit(on="held", name="drop height", value="4.5 m")],
        timing=TimingDraft(trials_min=25, lanes=2, adults=2, setup_s=20, flight_s=4, reading_s=20, reset_s=25),
        rota=RotaDraft(start="10:20", lesson_min=55, build_min=15, improve_min=6, rounds=2, tidy_min=5),
        materials=MaterialsDraft(
            money="coins",
            spare=1,
            assembly_min="12",
            hourly="9",
            items=[
                MaterialDraft(
                    name="kite cloth",
                    form="sheet",
                    per_device="1",
                    piece="44 x 44 cm",
                    packs=[
                        PackDraft(name="length off the roll", holds="100 x 150 cm", price="4.20"),
                        PackDraft(name="square", holds="50 x 50 cm", price="1.10"),
                    ],
                ),
                MaterialDraft(
                    name="line",
                    form="length",
                    per_device="8",
                    piece="50 cm",
                    packs=[PackDraft(name="ball", holds="10 m", price="1.20"), PackDraft(name="reel", holds="50 m", price="4.50")],
                ),
                MaterialDraft(name="clay", form="mass", per_device="60 g", packs=[PackDraft(name="block", holds="500 g", price="2.40")]),
                MaterialDraft(name="stickers", form="count", per_device="8", packs=[PackDraft(name="sheet", holds="24", price="0.60")]),
            ],
        ),
    )
    study_id, _ = plan_study(owned, "medicine", "Medicine drop", draft, now - timedelta(hours=3), now + timedelta(days=3))
    sign_off(
        owned,
        study_id,
        sign_off_id=demo_id("medicine", "sign-off"),
        adult="class teacher",
        ticked=list(cautions_of(draft)),
        now=now - timedelta(hours=2),
    )
    make_lesson_rota(owned, study_id, now=now - timedelta(hours=2))


def _sled(owned: Owned, now: datetime) -> None:
    """Planned: runners of four kinds, a board of 4 m that plastic film will run off."""
    draft = Draft(
        question="Which runner lets the reed-bed sled slide farthest?",
        family="vehicle",
        variable=variable_of("vehicle", "runner surface", ["card", "felt", "plastic film", "sandpaper"]),
        measures=[measure_of("vehicle", "slide distance")],
        could_change=["runner surface", "load", "push"],
        could_measure=["slide distance", "time between marks"],
        hold=[Held(name="push", how="a cord over a pulley, let go at the mark"), Held(name="start mark", how="the front edge on the tape")],
        repeats=5,
        groups=GROUPS,
        class_label="9 Teal",
        prediction="Plastic film slides farthest.",
        reason="It is the smoothest, so friction is least.",
        expect="plastic film",
        guess=Guess(first="1.6 m", last="0.7 m", scatter="15 cm"),
    )
    plan_study(owned, "sled", "Reed-bed sled", draft, now - timedelta(hours=4), None)


def _pods(owned: Owned, now: datetime) -> None:
    """Half dropped: skirts of 0 to 3 folds up the ladder, drop by drop, a fresh cracker at every rung; more folds survive higher."""
    draft = Draft(
        question="Do more folds in the skirt let the cracker pod survive a higher drop?",
        family="protector",
        variable=variable_of("protector", "skirt folds", ["0", "1", "2", "3"]),
        measures=[measure_of("protector", "what became of the payload", survived=2)],
        could_change=["skirt folds", "cushion depth", "drop height"],
        could_measure=["what became of the payload", "device mass"],
        repeats=4,
        groups=GROUPS,
        class_label="9 Teal",
        drop=LADDER,
        prediction="More folds survive higher.",
        reason="They squash more slowly.",
        expect="rises",
        limits=[Limit(on="rungs", value="4.5 m")],
        guess=Guess(first="1.6 m", last="3.2 m", scatter="0.6 m"),
        rules=RulesDraft(mass_limit="45 g", payload_mass="6 g", budget="20", payload_shows=True),
        materials=MaterialsDraft(
            money="coins",
            items=[
                MaterialDraft(name="card", form="sheet", per_device="1", piece="21 x 29.7 cm", shop_price="3",
                              packs=[PackDraft(name="large sheet", holds="42 x 59.4 cm", price="0.80")]),
                MaterialDraft(name="skirt strip", form="length", per_device="3", piece="40 cm", shop_price="2",
                              packs=[PackDraft(name="roll", holds="5 m", price="1.50")]),
                MaterialDraft(name="tape", form="length", per_device="1", piece="30 cm", shop_price="1",
                              packs=[PackDraft(name="roll", holds="10 m", price="0.90")]),
            ],
        ),
    )  # fmt: skip
    study_id, seed = plan_study(owned, "pods", "Cracker pod", draft, now - timedelta(days=1), now + timedelta(days=5))
    for at, (group, folds, mass, strips) in enumerate(
        [("Avocet", 0, 22, 0), ("Bittern", 1, 26, 1), ("Curlew", 2, 31, 2), ("Dunlin", 3, 37, 3)]
    ):
        put_version(
            owned,
            study_id,
            demo_id("pods", group),
            device=group,
            draft=VersionDraft(
                properties=[Property(name="skirt folds", value=str(folds)), Property(name="cushion", value="crumpled paper"), Property(name="outer size", value="9 cm")],
                mass=f"{mass} g",
                used=[Used(material="card", pieces=1), Used(material="tape", pieces=2), *([Used(material="skirt strip", pieces=strips)] if strips else [])],
                checks=list(family("protector").build_checks),
                payload_shows=True,
            ),
            revision=0,
            withdrawn=False,
            now=now - timedelta(hours=20 - at),
        )  # fmt: skip
    _climb(owned, study_id, draft, seed, now - timedelta(hours=3))


#: About how high a pod of so many folds survives, m.
_HOLDS = {"0": 1.3, "1": 2.1, "2": 3.1, "3": 3.3}


def _climb(owned: Owned, study_id: UUID, draft: Draft, seed: int, begun: datetime) -> None:
    """Two pods of each kind, each dropped from rung to rung until it fails or stands on the top rung."""
    open_run(owned, study_id, run_id=demo_id(study_id, "run"), adult="Teacher", ticked=list(cautions_of(draft)), now=begun)
    rng, at = np.random.default_rng(seed), begun
    for turn in planned_turns(draft, seed)[:8]:
        holds = _HOLDS[turn.level] + rng.normal(0, 0.35)
        for rung in RUNGS:
            at += timedelta(seconds=45 + float(rng.integers(0, 20)))
            passed = float(rung) <= holds
            word = ("untouched" if rng.random() < 0.6 else "hairline") if passed else ("cracked" if rng.random() < 0.6 else "broken")
            put_trial(
                owned,
                study_id,
                demo_id(study_id, turn.block, turn.level, rung),
                TrialRecord(
                    block=turn.block, level=turn.level, group=turn.group, specimen=f"pod {turn.block}", rung=rung, released_at=at,
                    readings=[
                        ReadingRecord(measure="m1", texts=[word]),
                        ReadingRecord(measure=BEHAVIOUR, texts=["landed upright" if rng.random() < 0.7 else "bounced"]),
                    ],
                ),
                now=at,
            )  # fmt: skip
            if not passed:
                break


def _seed_wing(owned: Owned, now: datetime) -> None:
    """All run, in heats: three wings let go together. Hands and draughts differ from heat to heat by more than a cut tip does, so that
    only the comparison within each heat can tell."""
    draft = Draft(
        question="Does cutting the tip of the seed-wing make it fall faster?",
        templates=TemplatesDraft(device="seed"),
        family="rotor",
        variable=variable_of("rotor", "tip cut", ["0", "1", "2"]),
        measures=[measure_of("rotor", "fall time"), measure_of("rotor", "landing order")],
        compared="side_by_side",
        repeats=4,
        groups=GROUPS[:3],
        prediction="A shorter wing falls faster.",
        reason="It holds less air.",
        expect="falls",
        hold=[Held(name="drop height", value="2.6 m", tolerance="2 cm")],
        limits=[Limit(on="held", name="drop height", value="3 m")],
        guess=Guess(first="1.9 s", last="1.6 s", scatter="0.15 s"),
        timing=TimingDraft(trials_min=20, lanes=1, adults=1),
    )
    begun = now - timedelta(days=2)
    study_id, seed = plan_study(owned, "seed-wing", "Seed-wing", draft, begun - timedelta(hours=1), None)
    open_run(owned, study_id, run_id=demo_id(study_id, "run"), adult="Teacher", ticked=list(cautions_of(draft)), now=begun)
    rng, at = np.random.default_rng(seed), begun
    for _, turns in groupby(planned_turns(draft, seed), key=lambda t: t.heat):
        together = list(turns)
        at += timedelta(seconds=150 + float(rng.integers(0, 60)))
        hand = (0.12, -0.2, 0.21, -0.13)[together[0].heat - 1]  # of the whole heat: who let go, from how high, in which draught
        took = {t.level: round(1.92 - 0.09 * float(t.level) + hand + rng.normal(0, 0.02), 2) for t in together}
        for t in together:
            place = 1 + sum(s < took[t.level] for s in took.values())
            put_trial(
                owned,
                study_id,
                demo_id(study_id, t.block, t.level),
                TrialRecord(
                    block=t.block, level=t.level, group=t.group, heat=str(demo_id(study_id, "heat", t.heat)), released_at=at,
                    readings=[
                        ReadingRecord(measure="m1", texts=[f"{took[t.level]:.2f}"], unit="s", taken="lanes"),
                        ReadingRecord(measure="m2", texts=[f"{place}{'=' if list(took.values()).count(took[t.level]) > 1 else ''}"], taken="lanes"),
                    ],
                ),
                now=at,
            )  # fmt: skip


def _hoist(owned: Owned, now: datetime) -> None:
    """All run: a best pitch; one run with the load not reset; the lifting power is worked out."""
    plan = usual_plan("turbine", "pitch")
    assert plan is not None
    draft = plan.model_copy(
        update={
            "question": "Which pitch lets the marsh hoist lift its bag fastest?",
            "class_label": "9 Teal",
            "groups": GROUPS[:4],
            "prediction": "Thirty degrees: a flat blade only stirs the air, a steep one blocks it.",
        }
    )
    begun = now - timedelta(days=3)
    study_id, seed = plan_study(owned, "hoist", "Marsh hoist", draft, begun - timedelta(hours=1), None)

    def outcome(turn: Turn, rng: Rng) -> Outcome:
        lifts = {"10": 6.4, "20": 4.1, "30": 3.5, "40": 4.6}[turn.level] * (1 + rng.normal(0, 0.06))
        fault = "load not reset" if (turn.block, turn.level) == (2, "20") else ""
        return [f"{lifts + rng.normal(0, THUMB_S):.2f}"], "", "started at once" if turn.level != "10" else "needed a push", fault

    run_study(owned, study_id, draft, seed, begun, outcome)


def _top(owned: Owned, now: datetime) -> None:
    """Begun: the levels are set, the measure is not."""
    draft = Draft(
        question="Does a wider ring of clay keep the steady top spinning longer?",
        family="spinner",
        variable=variable_of("spinner", "ring radius", ["2", "3", "4"]),
        measures=[MeasureDraft(name="")],
        groups=GROUPS,
        class_label="9 Teal",
        repeats=5,
    )
    plan_study(owned, "top", "Steady top", draft, now - timedelta(days=4), None)


#: Version, what is written of it, why, mass in g, and about how high it survives (m).
_VERSIONS: list[tuple[dict[str, str], str, str, float]] = [
    ({"outer size": "9 cm", "skirt folds": "0", "cushion": "none", "corners": "square"}, "", "24 g", 1.0),
    ({"outer size": "9 cm", "skirt folds": "1", "cushion": "none", "corners": "square"}, "It broke at the rim, so the rim needs something that gives.", "27 g", 1.5),
    ({"outer size": "9 cm", "skirt folds": "2", "cushion": "none", "corners": "square"}, "One fold helped; a second may help more.", "30 g", 2.2),
    ({"outer size": "9 cm", "skirt folds": "2", "cushion": "crumpled paper", "corners": "round"}, "The cracker hit the floor of the pod, and the corners split.", "33 g", 3.1),
    ({"outer size": "9 cm", "skirt folds": "3", "cushion": "crumpled paper", "corners": "round"}, "The rim touched again from 3.2 m.", "36 g", 3.4),
]  # fmt: skip


def _rounds(owned: Owned, now: datetime) -> None:
    """Five versions of one pod; the fourth changed two things at once."""
    draft = Draft(
        question="Does the newest pod survive a higher drop than the one before?",
        family="protector",
        study_kind="design_rounds",
        variable=VariableDraft(name="version", kind="name", levels=["1", "2", "3", "4", "5"]),
        measures=[measure_of("protector", "peak height survived")],
        order="listed",
        repeats=3,
        groups=["Egret"],
        survival="hairline",
        drop=LADDER,
        prediction="Each version survives higher than the last.",
        reason="Every round mends what broke.",
        expect="5",
        limits=[Limit(on="rungs", value="4.5 m")],
        rules=RulesDraft(mass_limit="40 g"),
    )
    begun = now - timedelta(days=9)
    study_id, seed = plan_study(owned, "rounds", "Pod, round by round", draft, begun - timedelta(hours=1), None)
    for number, (properties, why, mass, _) in enumerate(_VERSIONS, 1):
        put_version(
            owned,
            study_id,
            demo_id("rounds", number),
            device="Egret",
            draft=VersionDraft(
                since=number - 1 or None,
                why=why,
                confirmed=number > 1,
                properties=[Property(name=k, value=v) for k, v in properties.items()],
                parts=[DevicePart(name="skirt", mass="12 g", position="15 mm"), DevicePart(name="body", mass="15 g", position="60 mm")],
                mass=mass,
                checks=list(family("protector").build_checks),
                failed=number == 1,
            ),
            revision=0,
            withdrawn=False,
            now=begun - timedelta(minutes=60 - 10 * number),
        )
    run_study(owned, study_id, draft, seed, begun, _drop)


def _drop(turn: Turn, rng: Rng) -> Outcome:
    """The highest rung survived, about the version's own height; past the last rung only a bound is known."""
    held = _VERSIONS[int(turn.level) - 1][3] + rng.normal(0, 0.35)
    passed = [r for r in RUNGS if float(r) <= held]
    text = RUNGS[0] if not passed else f">={RUNGS[-1]}" if passed[-1] == RUNGS[-1] else passed[-1]
    return [text], "", "landed upright" if rng.random() < 0.7 else "bounced", ""
