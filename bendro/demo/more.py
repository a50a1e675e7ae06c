"""The demo's studies at earlier stages: planned, built, asked; and the pod that is made better round by round."""

from __future__ import annotations

from datetime import datetime, timedelta

from bendro.actions.building import put_version
from bendro.actions.lesson import make_lesson_rota
from bendro.actions.plan_record import sign_off
from bendro.core.building.version import DevicePart, Property, RocketShape, Used, VersionDraft
from bendro.core.families import family
from bendro.core.planning.draft import (
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
    TimingDraft,
    VariableDraft,
)
from bendro.core.planning.order import Turn
from bendro.core.planning.safety import cautions_of
from bendro.store.owned import Owned
from bendro.store.tables import DeviceVersion, Study

from .making import GROUPS, Outcome, Part, Rng, demo_id, measure_of, plan_study, run_study, variable_of

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
        measure=measure_of("parachute", "descent time", timers=3),
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
        measure=measure_of("vehicle", "slide distance"),
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
    """Built and waiting for their drops: skirts of 0 to 3 folds, up the ladder, a fresh cracker at every rung."""
    draft = Draft(
        question="Do more folds in the skirt let the cracker pod survive a higher drop?",
        family="protector",
        variable=variable_of("protector", "skirt folds", ["0", "1", "2", "3"]),
        measure=measure_of("protector", "peak height survived"),
        could_change=["skirt folds", "cushion depth", "drop height"],
        could_measure=["peak height survived", "device mass"],
        repeats=4,
        groups=GROUPS,
        class_label="9 Teal",
        survival="hairline",
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
    study_id, _ = plan_study(owned, "pods", "Cracker pod", draft, now - timedelta(days=1), now + timedelta(days=5))
    for at, (group, folds, mass, strips) in enumerate(
        [("Avocet", 0, 22, 0), ("Bittern", 1, 26, 1), ("Curlew", 2, 31, 2), ("Dunlin", 3, 37, 3)]
    ):
        put_version(
            owned,
            study_id,
            demo_id("pods", group),
            device=group,
            draft=VersionDraft(
                properties=[Property(name="skirt folds", value=str(folds)), Property(name="cushion", value="crumpled paper")],
                mass=f"{mass} g",
                used=[Used(material="card", pieces=1), Used(material="tape", pieces=2), *([Used(material="skirt strip", pieces=strips)] if strips else [])],
                checks=list(family("protector").build_checks),
                payload_shows=True,
            ),
            revision=0,
            withdrawn=False,
            now=now - timedelta(hours=20 - at),
        )  # fmt: skip


def _seed_wing(owned: Owned, now: datetime) -> None:
    """Planned as heats: three wings let go together, so that each heat is compared within itself."""
    draft = Draft(
        question="Does cutting the tip of the seed-wing make it fall faster?",
        family="rotor",
        variable=variable_of("rotor", "tip cut", ["0", "1", "2"]),
        measure=measure_of("rotor", "fall time"),
        also=measure_of("rotor", "landing order"),
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
    plan_study(owned, "seed-wing", "Seed-wing", draft, now - timedelta(days=2), None)


def _hoist(owned: Owned, now: datetime) -> None:
    """Still being asked: the wall is full, nothing is chosen yet."""
    draft = Draft(
        family="turbine",
        could_change=["blade pitch", "blade number", "blade area", "fan distance", "how stiff the blades are", "load"],
        could_measure=["lifting time", "peak voltage", "load lifted"],
    )
    plan_study(owned, "hoist", "Marsh hoist", draft, now - timedelta(days=3), None)


def _top(owned: Owned, now: datetime) -> None:
    """Begun: the levels are set, the measure is not."""
    draft = Draft(
        question="Does a wider ring of clay keep the steady top spinning longer?",
        family="spinner",
        variable=variable_of("spinner", "ring radius", ["2", "3", "4"]),
        measure=MeasureDraft(name=""),
        groups=GROUPS,
        class_label="9 Teal",
        repeats=5,
    )
    plan_study(owned, "top", "Steady top", draft, now - timedelta(days=4), None)


#: Version, what is written of it, why, mass in g, and about how high it survives (m).
_VERSIONS: list[tuple[dict[str, str], str, str, float]] = [
    ({"skirt folds": "0", "cushion": "none", "corners": "square"}, "", "24 g", 1.0),
    ({"skirt folds": "1", "cushion": "none", "corners": "square"}, "It broke at the rim, so the rim needs something that gives.", "27 g", 1.5),
    ({"skirt folds": "2", "cushion": "none", "corners": "square"}, "One fold helped; a second may help more.", "30 g", 2.2),
    ({"skirt folds": "2", "cushion": "crumpled paper", "corners": "round"}, "The cracker hit the floor of the pod, and the corners split.", "33 g", 3.1),
    ({"skirt folds": "3", "cushion": "crumpled paper", "corners": "round"}, "The rim touched again from 3.2 m.", "36 g", 3.4),
]  # fmt: skip


def _rounds(owned: Owned, now: datetime) -> None:
    """Five versions of one pod; the fourth changed two things at once."""
    draft = Draft(
        question="Does the newest pod survive a higher drop than the one before?",
        family="protector",
        study_kind="design_rounds",
        variable=VariableDraft(name="version", kind="name", levels=["1", "2", "3", "4", "5"]),
        measure=measure_of("protector", "peak height survived"),
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
