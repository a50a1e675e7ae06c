"""What a trial is: scales, zones, drops with their bracket, derived measures with their doubt, identities."""

from __future__ import annotations

import itertools
import json
import math
from datetime import UTC, datetime
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from bendro.core.draft import Binding, DerivedDraft, Draft, Held, MeasureDraft, VariableDraft, Zone
from bendro.core.errors import CoreError
from bendro.core.families import families
from bendro.core.measuring.derived import Facts, Prepared, Worked, derive, prepare, prepare_all
from bendro.core.measuring.drops import Drop, bracket, next_rung, over
from bendro.core.measuring.scales import understand
from bendro.core.measuring.taking import Taken, Told, doubt_of, one_of, survived, take, whole_of
from bendro.core.measuring.zones import bands_of, points_of, points_text
from bendro.core.physics.calculators import CALCULATORS, calculate
from bendro.core.planning.plan import check, level_ids, planned_levels, planned_turns
from bendro.core.planning.record import locked_by_trials
from bendro.core.planning.rehearsal import modelled
from bendro.core.planning.safety import cautions_of, needs_adult
from bendro.core.planning.upgrade import read_plan, write_plan
from bendro.core.planning.usual import offers, usual_plan
from bendro.core.record import ReadingRecord, TrialRecord
from bendro.core.record.model import same_meant
from tests.conftest import DRAFT, ROOT

AT = datetime(2026, 5, 4, 10, tzinfo=UTC)
OUTCOME = MeasureDraft(id="m1", name="payload", scale="outcome", unit="", quantity="number", words=["untouched", "hairline", "cracked", "broken"], survived=2)
ORDER = MeasureDraft(id="m1", name="place", scale="order", unit="", quantity="number")
ZONES = MeasureDraft(
    id="m1", name="landing", scale="zone", quantity="length", unit="m",
    zones=[Zone(start="2", end="2.5", points=1), Zone(start="2.5", end="3", points=5), Zone(start="3 m", end="350 cm", points=2)],
)  # fmt: skip


# --- scales ----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("word", "lived"), [("untouched", True), (" Hairline ", True), ("cracked", False), ("broken", False), ("melted", None)])
def test_survived_is_what_lies_above_the_agreed_line(word: str, lived: bool | None) -> None:
    assert survived(OUTCOME, word) is lived


def test_an_outcome_is_one_of_the_agreed_words() -> None:
    assert understand(OUTCOME, ["CRACKED"]) == Told(words=("cracked",))
    assert understand(OUTCOME, [" "]) is None
    with pytest.raises(CoreError, match="“melted” is not on the agreed scale"):
        understand(OUTCOME, ["melted"])


@pytest.mark.parametrize(("text", "place"), [("1", 1), ("2nd", 2), ("3=", 3), ("2 equal", 2)])
def test_a_place_in_a_heat_may_be_shared(text: str, place: int) -> None:
    got = understand(ORDER, [text])
    assert isinstance(got, Taken)
    assert got.value == place


@pytest.mark.parametrize("text", ["0", "first", "1.5", "-1", "100"])
def test_what_is_no_place_is_refused(text: str) -> None:
    with pytest.raises(CoreError, match="is not a place"):
        understand(ORDER, [text])


@pytest.mark.parametrize(
    ("text", "points"),
    [
        ("1.99", 0), ("2", 1), ("2.2", 1), ("2.49 m", 1), ("260 cm", 5), ("3.4", 2), ("3.5", 2), ("3.51", 0),  # short, inside, beyond
        ("2.5", 5), ("3", 5),  # on a line: the higher points
    ],
)  # fmt: skip
def test_points_of_a_landing(text: str, points: int) -> None:
    taken = take(ZONES, [text])
    assert taken is not None
    assert points_of(ZONES, taken) == points


def test_on_a_line_the_agreed_edge_rule_decides_and_a_bound_scores_nothing_known() -> None:
    lower = ZONES.model_copy(update={"edge": "lower"})
    assert [points_of(lower, t) for text in ("2.5", "3", "2") if (t := take(lower, [text]))] == [1, 2, 0]
    assert [points_of(ZONES, t) for text in (">=2.2", ">=3.5", "<=1.9", "<=2.2") if (t := take(ZONES, [text]))] == [None, None, 0, None]
    assert [points_of(ZONES, t) for text in (">=3.6", "~2.7") if (t := take(ZONES, [text]))] == [0, 5]


def test_a_line_is_one_place_in_whatever_unit_it_is_written() -> None:
    # 8 ft 2 in is 2.4892 m (1 ft = 0.3048 m, 1 in = 0.0254 m exactly: the international yard, 1959), though the machine's sums differ in the last digit
    feet = ZONES.model_copy(update={"zones": [Zone(start="8 ft", end="8 ft 2 in", points=1), Zone(start="8 ft 2 in", end="9 ft", points=4)]})
    landed = [t for text in ("2.4892", "248.92 cm", "8 ft 2 in", "2489.2 mm", "8 ft", "9 ft", "2.489", "2.4893") if (t := take(feet, [text]))]
    assert [points_of(feet, t) for t in landed] == [4, 4, 4, 4, 1, 4, 1, 4]
    assert [points_text(p) for p in (1, 5, 0, -1, -2)] == ["1 point", "5 points", "0 points", "−1 point", "−2 points"]


@pytest.mark.parametrize(
    ("zones", "code"),
    [([], "zones_missing"), ([Zone(start="3", end="2", points=1)], "zone_order"), ([Zone(start="1", end="3"), Zone(start="2", end="4")], "zone_overlap"),
     ([Zone(start="near", end="2")], "reading_words")],
)  # fmt: skip
def test_zones_that_cannot_be_are_told(zones: list[Zone], code: str) -> None:
    assert [p.code for p in bands_of(ZONES.model_copy(update={"zones": zones}))[1]] == [code]


# --- drops -----------------------------------------------------------------------------------------------------------

RUNGS = (1.0, 1.6, 2.4)


def climbed(holds: float) -> list[Drop]:
    """The drops of a specimen that survives up to `holds`, up the rungs until it fails."""
    made = []
    for r in RUNGS:
        made.append(Drop(height=r, survived=r <= holds))
        if r > holds:
            break
    return made


@pytest.mark.parametrize(
    ("holds", "known", "reading"),
    [(0.5, "below", (0.0, "exact")), (1.0, "between", (1.0, "exact")), (2.0, "between", (1.6, "exact")), (2.4, "at_least", (2.4, "at_least")), (9, "at_least", (2.4, "at_least"))],
)
def test_a_ladder_leaves_a_bracket_and_the_truth_lies_in_it(holds: float, known: str, reading: tuple[float, str]) -> None:
    got = bracket(climbed(holds), RUNGS)
    assert (got.known, got.reading, got.over) == (known, reading, True)
    assert (got.passed or 0.0) <= holds
    assert (got.failed is None or holds < got.failed)


def test_brackets_against_every_order_of_drops_that_there_is() -> None:
    """Enumeration: whatever was dropped from where, the bracket is the highest passed and the lowest failed."""
    for outcomes in itertools.product([True, False, None], repeat=len(RUNGS)):
        drops = [Drop(height=r, survived=o) for r, o in zip(RUNGS, outcomes, strict=True) if o is not None]
        for order in itertools.permutations(drops):
            got = bracket(order, RUNGS)
            high = max((d.height for d in drops if d.survived), default=None)
            low = min((d.height for d in drops if not d.survived), default=None)
            assert (got.passed, got.failed) == (high, low)
            assert (got.known == "mixed") == (high is not None and low is not None and high > low)
            assert got.over == (low is not None or high == RUNGS[-1])


def test_the_next_rung_is_the_lowest_untried_above_what_was_survived() -> None:
    assert next_rung([], RUNGS) == 1.0
    assert next_rung(climbed(1.2)[:1], RUNGS) == 1.6
    assert next_rung([Drop(height=1.6, survived=True)], RUNGS) == 2.4
    assert next_rung(climbed(1.2), RUNGS) is None
    assert next_rung(climbed(9), RUNGS) is None


def test_a_trial_with_payloads_is_known_when_all_are_and_numbers_meet_in_their_mean() -> None:
    assert [whole_of(OUTCOME, words, 2) for words in (["untouched", "hairline"], ["untouched", "cracked"], ["untouched"], [])] == ["hairline", "cracked", None, None]
    assert whole_of(OUTCOME, ["broken"], 2) == "broken"  # one that failed is enough to know; the other was not judged
    depth = MeasureDraft(name="depth", quantity="length", unit="mm")
    one, two, bound = (take(depth, [t]) for t in ("4", "6", ">=8"))
    assert one is not None
    assert two is not None
    assert bound is not None
    assert one_of([one]) == one
    assert (one_of([one, two]).value, one_of([one, two]).kind, one_of([one, bound]).kind) == (5.0, "exact", "at_least")


# --- derived measures ------------------------------------------------------------------------------------------------


def falling(**change: Any) -> Draft:
    return Draft(
        variable=VariableDraft(name="canopy side", quantity="length", unit="cm", levels=["20", "30"]),
        measures=[MeasureDraft(id="m1", name="descent time", quantity="time", unit="s", rule="r", timed=True)],
        hold=[Held(name="drop height", value="4.2 m", tolerance="2 cm")],
        derived=[DerivedDraft(id="d1", name="descent speed", calculator="average-speed", output="speed", unit="m/s",
                              inputs=[Binding(input="distance", source="held", of="drop height"), Binding(input="time", source="reading", of="m1")])],
        **change,
    )  # fmt: skip


def read(text: str, draft: Draft, at: int = 0) -> Taken:
    got = take(draft.measures[at], [text])
    assert got is not None
    return got


def only(draft: Draft, **readings: Taken) -> Worked:
    got = derive(prepare_all(draft)[0], Facts(readings=readings))["d1"]
    assert isinstance(got, Worked), got
    return got


def test_a_derived_measure_by_hand_its_own_doubt_and_the_one_that_all_share() -> None:
    draft = falling()
    time = read("2.00", draft)
    got = only(draft, m1=time)
    assert got.value == pytest.approx(2.1)
    assert got.doubt == pytest.approx(2.1 * time.doubt / 2.0, rel=1e-6)
    assert got.shared == pytest.approx(2.1 * 0.02 / 4.2, rel=1e-6)
    assert any("4.2 m" in line and "2 s" in line for line in got.lines)


def test_doubts_of_a_derived_measure_against_monte_carlo() -> None:
    """JCGM 101:2008, Monte Carlo propagation: the same function on drawn inputs; drag coefficient from a timed fall."""
    draft = Draft(
        measures=[MeasureDraft(id="m1", name="time", quantity="time", unit="s")],
        derived=[DerivedDraft(id="d1", name="c", calculator="drag-from-descent", output="drag_coefficient", inputs=[
            Binding(input="height", source="typed", value="4.2 m ± 2 cm"), Binding(input="time", source="reading", of="m1"),
            Binding(input="mass", source="typed", value="60 g ± 1 g"), Binding(input="area", source="typed", value="0.16 m²")])],
    )  # fmt: skip
    time = Taken(kind="exact", value=2.1062, resolution=0.01, doubt=0.03, unit="s")
    got = only(draft, m1=time)
    assert got.value == pytest.approx(1.3, abs=2e-4)
    rng = np.random.default_rng(5)
    function = CALCULATORS["drag-from-descent"].function
    fixed = {"height": 4.2, "mass": 0.06, "area": 0.16, "air_density": 1.225, "g": 9.80665}

    def spread(**drawn: Any) -> float:
        rows = [function({**fixed, "time": 2.1062, **dict(zip(drawn, values, strict=True))})["drag_coefficient"] for values in zip(*drawn.values(), strict=True)]
        return float(np.std(rows))

    n = 3000
    assert got.doubt == pytest.approx(spread(time=rng.normal(2.1062, 0.03, n)), rel=0.06)
    assert got.shared == pytest.approx(spread(height=rng.normal(4.2, 0.02, n), mass=rng.normal(0.06, 0.001, n)), rel=0.06)


def test_a_bound_stays_a_bound_the_right_way_round() -> None:
    slide = Draft(
        measures=[MeasureDraft(id="m1", name="slide", quantity="length", unit="m")],
        derived=[DerivedDraft(id="d1", name="friction", calculator="friction-from-slide", output="coefficient", inputs=[
            Binding(input="speed", source="typed", value="1.8 m/s"), Binding(input="distance", source="reading", of="m1")])],
    )  # fmt: skip
    assert only(slide, m1=read("0.62", slide)).value == pytest.approx(0.2664, abs=5e-5)
    assert only(slide, m1=read(">=0.62", slide)).kind == "at_most"  # slides at least so far: at most so much friction
    speed = falling()
    assert only(speed, m1=Taken(kind="at_least", value=2.0, resolution=0.01, doubt=0.0, unit="s")).kind == "at_most"


def test_one_derived_measure_feeds_the_next_and_shared_doubt_goes_with_it() -> None:
    draft = Draft(
        measures=[MeasureDraft(id="m1", name="stop time", quantity="time", unit="ms")],
        derived=[
            DerivedDraft(id="d1", name="impact speed", calculator="free-fall", output="impact_speed", inputs=[Binding(input="height", source="typed", value="2.5 m ± 1 cm")]),
            DerivedDraft(id="d2", name="force", calculator="impact", output="average_force", unit="N", inputs=[
                Binding(input="mass", source="version", of="mass"), Binding(input="impact_speed", source="reading", of="d1"), Binding(input="stop_time", source="reading", of="m1")]),
        ],
    )  # fmt: skip
    ready, problems = prepare_all(draft)
    assert problems == ()
    made = derive(ready, Facts(readings={"m1": read("8", draft)}, version={"mass": "65 g"}))
    force = made["d2"]
    assert isinstance(force, Worked)
    assert force.value == pytest.approx(56.89, abs=0.02)
    assert force.shared == pytest.approx(56.89 * 0.5 * 0.01 / 2.5, rel=0.01)
    assert derive(ready, Facts(readings={"m1": read("8", draft)}))["d2"] == "the version that was used has no mass written down"
    assert derive(ready, Facts(readings={}, version={"mass": "65 g"}))["d2"] == "stop time was not read"


@pytest.mark.parametrize(
    ("change", "where", "code"),
    [
        ({"calculator": "nothing"}, "calculator", "calculator_unknown"), ({"output": "colour"}, "output", "output_unknown"), ({"unit": "kg"}, "unit", "unit_unknown"),
        ({"name": " "}, "name", "derived_name_missing"), ({"inputs": []}, "inputs.distance", "input_missing"),
        ({"inputs": [Binding(input="distance", source="held", of="colour"), Binding(input="time", source="reading", of="m1")]}, "inputs.distance", "input_missing"),
        ({"inputs": [Binding(input="distance", source="typed", value="4.2 s"), Binding(input="time", source="reading", of="m1")]}, "inputs.distance", "reading_wrong_dimension"),
        ({"inputs": [Binding(input="distance", source="reading", of="m1"), Binding(input="time", source="reading", of="m1")]}, "inputs.distance", "input_quantity"),
        ({"inputs": [Binding(input="distance", source="setting"), Binding(input="time", source="reading", of="m9")]}, "inputs.time", "input_measure_gone"),
    ],
)  # fmt: skip
def test_what_keeps_a_measure_from_being_worked_out_is_said_at_its_place(change: dict[str, Any], where: str, code: str) -> None:
    draft = falling()
    got = prepare(draft, draft.derived[0].model_copy(update=change))
    assert not isinstance(got, Prepared)
    assert (got[0].where, got[0].code) == (where, code)


def test_a_thumb_is_part_of_the_doubt_of_a_timed_reading() -> None:
    measure = MeasureDraft(name="t", quantity="time", unit="s", timed=True, timers=3)
    one, three = take(measure, ["2.00"]), take(measure, ["2.00", "2.02", "2.04"])
    assert one is not None
    assert three is not None
    assert doubt_of(measure, one) == pytest.approx(math.hypot(one.doubt, 0.1))
    assert doubt_of(measure, three) == pytest.approx(math.hypot(three.doubt, 0.1 / math.sqrt(3)))
    assert doubt_of(measure.model_copy(update={"timed": False}), one) == one.doubt


def test_every_usual_derived_measure_of_the_nine_families_can_be_worked_out() -> None:
    for fam in families():
        for w in fam.worked:
            calculator = CALCULATORS[w.calculator]
            assert w.output in calculator.outputs, (fam.id, w.name)
            assert set(w.inputs) <= {i.name for i in calculator.inputs}, (fam.id, w.name)
            needed = {i.name for i in calculator.inputs if i.default is None and not i.optional} - set(calculator.one_of)
            assert needed <= set(w.inputs), (fam.id, w.name)


def test_glide_ratio_and_spin_down_by_hand() -> None:
    glide = calculate("glide-ratio", [("distance", "6 m"), ("height", "1.5 m"), ("time", "2 s")]).outputs
    assert (glide["ratio"].value, glide["mean_speed"].value) == (pytest.approx(4.0), pytest.approx(math.hypot(6, 1.5) / 2))
    spin = calculate("spin-down", [("turns", "100"), ("time", "20 s")]).outputs  # even slowing: first rate twice the mean, gone in 20 s
    assert (spin["mean_rate"].value, spin["first_rate"].value, spin["lost_each_second"].value) == (5.0, 10.0, 0.5)


# --- usual tests -----------------------------------------------------------------------------------------------------

TESTS = [(f.id, t.id) for f in families() for t in f.tests]


@pytest.mark.parametrize(("family", "test"), TESTS)
def test_a_usual_test_is_whole_but_for_what_is_the_teachers_to_set(family: str, test: str) -> None:
    draft = usual_plan(family, test)
    assert draft is not None
    assert draft.question.endswith("?")
    assert draft.void_rule
    assert draft.materials.items
    assert draft.hold
    assert draft.prediction == ""
    assert draft.expect == ""
    assert draft.limits == []
    assert not (draft.drop and draft.drop.heights)
    assert all(m.rule for m in draft.measures)
    grave = {p.code for p in check(draft) if p.grave}
    assert grave <= {"limit_missing", "levels_few", "zones_missing", "survived_line", "rungs_few", "payload_use_missing"}
    assert read_plan(write_plan(draft)) == draft


def test_each_family_has_its_usual_tests_and_one_that_is_ready_as_it_stands_where_nothing_is_dropped_or_stored() -> None:
    assert all(2 <= len(f.tests) <= 8 for f in families())
    ready = {f for f, t in TESTS if not any(p.grave for p in check(usual_plan(f, t) or Draft()))}
    assert ready >= {"launcher", "rocket", "glider", "vehicle", "spinner", "turbine"}


def test_what_the_family_usually_works_out_is_offered_bound_to_what_the_plan_has() -> None:
    draft = usual_plan("turbine", "pitch") or Draft()
    offered = {o.derived.name: o for o in offers(draft)}
    assert "lifting power" not in offered
    assert "share of the wind's power" in offered
    assert {b.input: (b.source, b.of) for b in offered["share of the wind's power"].derived.inputs}["power_out"] == ("reading", "d1")
    plain = Draft(family="rotor", measures=[MeasureDraft(id="m1", name="fall time", quantity="time", unit="s")])
    turns = next(o for o in offers(plain) if o.derived.name == "turns per second")
    assert [m.name for m in turns.needs] == ["turns"]
    assert turns.needs[0].id == "m2"


# --- identities ------------------------------------------------------------------------------------------------------


def test_a_level_typed_otherwise_stays_the_same_level() -> None:
    before = VariableDraft(name="mass", quantity="mass", unit="kg", levels=["1", "2"])
    assert level_ids(before) == ("1", "2")
    after = before.model_copy(update={"levels": ["1.0 kg", "2.5", "1"], "level_ids": ["1", "2", ""]})
    assert level_ids(after) == ("1", "2", "1′")  # the new level is not taken for the old one of that text
    assert [(p.id, p.text) for p in planned_levels(Draft(variable=before.model_copy(update={"levels": ["1.50", "2"], "level_ids": ["1", "2"]})))] == [("1", "1.5"), ("2", "2")]


def test_measures_are_known_by_identity_whatever_their_name_or_place() -> None:
    made = Draft(measures=[MeasureDraft(name="a"), MeasureDraft(name="b", id="m1"), MeasureDraft(name="c", id="m1")])
    assert len({m.id for m in made.measures}) == 3
    old = Draft(measures=[MeasureDraft(id="m1", name="a", rule="r"), MeasureDraft(id="m2", name="b")])
    named = Draft(measures=[MeasureDraft(id="m1", name="along", unit="in", rule="r"), MeasureDraft(id="m2", name="b")])
    assert locked_by_trials(old, named) is None  # another name and another unit change no reading
    gone = locked_by_trials(old, Draft(measures=old.measures[:1]))
    turned = locked_by_trials(old, Draft(measures=list(reversed(old.measures))))
    assert gone is not None
    assert gone.where == "measures.1"
    assert turned is not None
    assert turned.where == "measures"


def test_an_outcome_scale_may_gain_words_but_its_line_stays() -> None:
    def plan(words: list[str], line: int) -> Draft:
        return Draft(measures=[OUTCOME.model_copy(update={"words": words, "survived": line})])

    old = plan(["untouched", "cracked"], 1)
    assert locked_by_trials(old, plan(["untouched", "cracked", "lost"], 1)) is None
    assert locked_by_trials(old, plan(["untouched", "hairline", "cracked"], 2)) is None  # a new word above the line
    for words, line, where in ((["untouched"], 1, "words"), (["cracked", "untouched"], 1, "words"), (["untouched", "cracked", "lost"], 2, "survived")):
        fixed = locked_by_trials(old, plan(words, line))
        assert fixed is not None
        assert fixed.where == f"measures.0.{where}"


def test_a_plan_of_the_form_before_keeps_its_measures_in_their_order() -> None:
    old = {"schema_version": 2, **{k: v for k, v in DRAFT.items() if k != "measures"}, "measure": DRAFT["measures"][0], "also": {"name": "off", "quantity": "length", "unit": "cm"}}
    draft = read_plan(old)
    assert [(m.id, m.name, m.unit) for m in draft.measures] == [("m1", "distance to first touch", "m"), ("m2", "off", "cm")]
    assert [m.id for m in read_plan({**old, "also": None}).measures] == ["m1"]


# --- the record itself -----------------------------------------------------------------------------------------------


def trial(**change: Any) -> TrialRecord:
    given: dict[str, Any] = {"block": 1, "level": "4", "released_at": AT, "readings": [{"measure": "m1", "texts": ["4.52"], "unit": "m"}], **change}
    return TrialRecord.model_validate(given)


@given(
    st.lists(st.tuples(st.sampled_from(["m1", "m2", "behaviour"]), st.integers(1, 6), st.lists(st.text("0123456789.abc ", min_size=1, max_size=8), min_size=1, max_size=3)), max_size=6, unique_by=lambda r: r[:2]),
    st.dictionaries(st.text("abc ", min_size=1, max_size=6), st.text("0123", min_size=1, max_size=4), max_size=3),
    st.booleans(),
)  # fmt: skip
def test_a_trial_is_the_same_after_its_way_through_the_history(readings: list[Any], conditions: dict[str, str], practice: bool) -> None:
    made = trial(readings=[{"measure": m, "payload": p, "texts": t} for m, p, t in readings], conditions=conditions, practice=practice)
    assert same_meant(made.meant(), made)
    again = TrialRecord.model_validate({**made.meant(), "revision": made.revision})
    assert again.meant() == made.meant()
    if any(r.written for r in made.readings):
        assert not same_meant(made.meant(), trial(readings=[], conditions=conditions, practice=practice))


def test_a_trial_is_strict() -> None:
    for bad in ({"readings": [{"measure": "m1", "texts": ["1"]}, {"measure": "m1", "texts": ["2"]}]}, {"colour": "red"}, {"block": 0}, {"readings": [{"measure": "m1", "texts": ["a\x00"]}]},
                {"readings": [{"measure": "m1", "payload": 7, "texts": ["1"]}]}, {"readings": [{"measure": "m1", "texts": [4.5]}]}):  # fmt: skip
        with pytest.raises(ValidationError):
            trial(**bad)


def test_what_an_older_program_wrote_without_a_unit_is_the_same_trial() -> None:
    made = trial()
    held = made.meant()
    held["readings"] = [{"measure": "m1", "payload": 1, "texts": ["4.52"]}]
    assert same_meant(held, made)
    assert not same_meant({**held, "readings": [{"measure": "m1", "payload": 1, "texts": ["4.53"]}]}, made)
    assert ReadingRecord(measure="m1", texts=[" "]).written is False


CASES = json.loads((ROOT / "tests" / "drift" / "drop_cases.json").read_text())


@pytest.mark.parametrize("case", CASES, ids=[c["says"] for c in CASES])
def test_the_rule_of_the_next_rung_that_the_lane_shares(case: dict[str, Any]) -> None:
    drops = [Drop(height=h, survived=s) for h, s in case["drops"]]
    every = case.get("every", False)
    assert (next_rung(drops, case["rungs"], every=every), over(drops, case["rungs"], every=every)) == (case["next"], case["over"])


KITE = """
id: kite
place: 10
name: Kite
covers: flat kites on a short line
variables:
  - {name: tail length, quantity: length, unit: cm, sensible: [0, 300], typical: [0, 50, 100]}
  - {name: sail area, quantity: area, unit: cm², typical: [400, 600]}
  - {name: sail shape, kind: name, typical: [diamond, square]}
measures:
  - {name: time aloft, quantity: time, unit: s, rule: From leaving the hand to first touch., tool: stopwatch, step: 0.01, timed: true}
  - {name: line angle, quantity: angle, unit: °, rule: From level up to the kite., tool: angle finder, step: 1}
keep_same: [line length, fan setting, who lets go]
faults: [line tangled, hit the ground at once]
behaviours: [steady, dived]
build_checks: [The bridle is tied at the mark., The tail is tied on.]
cautions: [Nobody runs with a line., Away from overhead lines.]
calculators: [height-by-angle, average-speed]
materials: [paper, sticks]
adult_because: it is let go outside
forces: {first: Wind pushes it up., middle: Lift balances weight and pull., senior: Lift and drag on a bridled plate.}
terms:
  lift: {first: The push up., middle: Force at right angles to the wind., senior: "½ρv²SC_L."}
  drag: {first: The push back., middle: Force along the wind., senior: "½ρv²SC_D."}
questions: {before: ["What will the tail do?", "Which way will it turn?"], after: ["What did you see?", "Why did it dive?"]}
worked:
  - {name: height, calculator: height-by-angle, output: height, unit: m, inputs: {baseline: "held:line length", angle: "reading:line angle"}}
expected:
  - {variable: tail length, measure: time aloft, form: line, sizes: {start: 10, slope: 0.1}, scatter: 0.1, reading_error: 0.1, timed: true}
tests:
  - {id: tail, says: "Does a longer tail keep it up longer?", variable: tail length, levels: ["0", "50", "100"], measures: [time aloft], void_rule: The line tangles., hold: [{name: fan setting, value: "2"}], materials: [{name: paper}]}
  - {id: shape, says: "Which shape flies higher on its line?", variable: sail shape, levels: [diamond, square], measures: [line angle], worked: [height], void_rule: The line tangles., hold: [{name: line length, value: 3 m}], materials: [{name: paper}]}
"""


def test_a_tenth_family_is_one_file(tmp_path: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    """Its adult rule, cautions, tests and what is worked out are in the file: no code knows it."""
    from bendro.core.families import schema

    (tmp_path / "kite.yaml").write_text(KITE)
    monkeypatch.setattr(schema, "FOLDERS", [*schema.FOLDERS, tmp_path])
    schema._all.cache_clear()
    try:
        assert [f.id for f in families()][-1] == "kite"
        draft = usual_plan("kite", "shape")
        assert draft is not None
        assert [p.code for p in check(draft) if p.grave] == []
        assert needs_adult(draft) == "it is let go outside"
        assert cautions_of(draft) == ("Nobody runs with a line.", "Away from overhead lines.")
        got = derive(prepare_all(draft)[0], Facts(readings={"m1": read("30", draft)}))["d1"]
        assert isinstance(got, Worked)
        assert got.value == pytest.approx(3 * math.tan(math.radians(30)))
        assert planned_turns(draft, 1)
        expects = modelled("kite", "tail length", "time aloft")
        assert expects is not None
        assert expects.true(50.0) == pytest.approx(10 + 0.1 * 50)
    finally:
        modelled.cache_clear()
        schema._all.cache_clear()
