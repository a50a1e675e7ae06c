"""What the lane asks before keeping, how it times, and what it makes of instruments that misbehave."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from bendro.core.draft import Draft, Held, Limit, MeasureDraft, VariableDraft
from bendro.core.errors import CoreError
from bendro.core.measuring.before_keeping import Others, bounds_of, level_range, questions
from bendro.core.measuring.heard import Got, Heard, Listener, heard_by
from bendro.core.measuring.taking import doubt_of, take
from bendro.core.measuring.thumb import share_says, thumb_of, thumb_says
from bendro.core.planning.held import not_held
from bendro.core.planning.plan import planned_turns
from bendro.instruments.simulate import events

DISTANCE = MeasureDraft(id="m1", name="distance", quantity="length", unit="m", step="1 cm", end="5 m")
TIME = MeasureDraft(id="m1", name="fall time", quantity="time", unit="s", step="0.01", timed=True)
VOLTS = MeasureDraft(id="m1", name="peak", quantity="voltage", unit="V")
NEAR = Others(at=[4.1, 4.2, 4.3], label="30 cm")


def asked(text: str, others: Others = NEAR, measure: MeasureDraft = DISTANCE, how: str = "typed") -> list[str]:
    taken = take(measure, [text], how=how)
    assert taken is not None
    return [q.doubt for q in questions(measure, taken, others, texts=[text], how=how)]


# --- out of line with its own level ----------------------------------------------------------------------------------


def test_a_reading_far_from_its_own_level_is_asked_about_with_the_others_in_the_sentence() -> None:
    taken = take(DISTANCE, ["2.9"])
    assert taken is not None
    found = questions(DISTANCE, taken, NEAR, texts=["2.9"])
    assert [q.says for q in found] == ["2.9 m is far from 4.1, 4.2 and 4.3 m at 30 cm. Read it again, or keep it."]
    assert asked("4.35") == []
    assert asked("4.19") == []


def test_the_bounds_of_a_level_are_a_prediction_interval_from_all_levels_and_scipys_is_the_same() -> None:
    at, elsewhere = [4.1, 4.4, 4.2], [[6.0, 6.3, 5.9], [8.1, 8.5]]
    usual = level_range(Others(at=at, elsewhere=elsewhere), 0.0)
    assert usual is not None
    groups = [np.array(v) for v in (at, *elsewhere)]
    free = sum(len(g) - 1 for g in groups)
    pooled = math.sqrt(sum(((g - g.mean()) ** 2).sum() for g in groups) / free)
    low, high = stats.t.interval(0.99, free, loc=np.mean(at), scale=pooled * math.sqrt(1 + 1 / 3))
    own = stats.t.interval(0.99, 2, loc=np.mean(at), scale=np.std(at, ddof=1) * math.sqrt(1 + 1 / 3))
    assert (usual.low, usual.high) == pytest.approx((min(low, own[0]), max(high, own[1])))


def test_about_one_clean_reading_in_a_hundred_is_asked_about() -> None:
    """Seeded: 4,000 further readings at a level of four, with two other levels."""
    rng, out = np.random.default_rng(11), 0
    for _ in range(4000):
        r = rng.normal(5, 0.3, 13)
        usual = level_range(Others(at=list(r[:4]), elsewhere=[list(r[4:8]), list(r[8:12])]), 0.0)
        assert usual is not None
        out += not usual.low <= r[12] <= usual.high
    assert 0.002 <= out / 4000 <= 0.014


@pytest.mark.parametrize(("others", "known"), [(Others(at=[4.0]), False), (Others(at=[4.0, 4.1]), False), (Others(at=[4.0, 4.1], elsewhere=[[6.0, 6.1]]), True), (Others(at=[4.0, 4.1, 4.2]), True), (Others(elsewhere=[[1.0, 2.0, 3.0]]), False)])
def test_nothing_is_asked_while_the_scatter_is_not_known(others: Others, known: bool) -> None:
    assert (level_range(others, 0.01) is not None) == known


def test_three_equal_readings_of_a_coarse_tool_are_no_scatter_of_none() -> None:
    assert asked("4.21", Others(at=[4.2, 4.2, 4.2])) == []
    assert asked("4.5", Others(at=[4.2, 4.2, 4.2])) == ["level"]


# --- the track's end, the tool's step, the meter -----------------------------------------------------------------------


@pytest.mark.parametrize(("text", "doubts"), [("4.98", []), ("4.99", []), ("5", ["track_end"]), ("5.00", ["track_end"]), ("5.20", ["track_end"]), ("5+", []), (">=5", [])])
def test_an_exact_reading_at_the_end_of_the_track_is_asked_about(text: str, doubts: list[str]) -> None:
    assert asked(text, Others()) == doubts


def test_what_is_offered_there_is_at_least() -> None:
    taken = take(DISTANCE, ["5.00"])
    assert taken is not None
    found = questions(DISTANCE, taken, Others(), texts=["5.00"])[0]
    assert found.offer == "5.00+"
    bound = take(DISTANCE, [found.offer])
    assert bound is not None
    assert (bound.kind, bound.value) == ("at_least", 5.0)
    assert bounds_of(DISTANCE, {}).anywhere.high < 5.0


@pytest.mark.parametrize(("text", "doubts"), [("4.21", []), ("4.213", ["finer"]), ("4.210", []), ("4.2", []), ("421.3 cm", []), ("~4.213", [])])
def test_what_is_finer_than_the_tool_reads_is_asked_about(text: str, doubts: list[str]) -> None:
    assert asked(text, Others()) == doubts


def test_a_meter_that_shows_the_same_again_was_perhaps_not_cleared() -> None:
    assert asked("2.31", Others(before=2.31), VOLTS) == ["meter"]
    assert asked("2.32", Others(before=2.31), VOLTS) == []


# --- how it was taken decides its step and doubt -----------------------------------------------------------------------


def test_frames_and_gates_have_their_own_step_and_no_thumb() -> None:
    frames = take(TIME, ["37 frames @ 30 fps"], how="frames")
    pressed = take(TIME, ["1.23"], how="pressed")
    gate = take(TIME, ["1.2334"], how="gate")
    assert frames is not None
    assert pressed is not None
    assert gate is not None
    assert frames.value == pytest.approx(37 / 30)
    assert frames.resolution == pytest.approx(1 / 30)
    assert gate.resolution == pytest.approx(0.0001)
    assert doubt_of(TIME, frames, how="frames") == pytest.approx(frames.doubt)
    assert doubt_of(TIME, gate, how="gate") < 0.001 < 0.09 < doubt_of(TIME, pressed, how="pressed")
    assert doubt_of(TIME, pressed, how="pressed", scatter_s=0.05) == pytest.approx(math.hypot(pressed.doubt, 0.05))


def test_a_video_of_a_variable_rate_is_read_with_half_its_spacing() -> None:
    taken = take(TIME, ["1.650 ± 0.033"], how="frames")
    assert taken is not None
    assert taken.value == 1.65
    assert 0.01 < taken.doubt <= 0.033


def test_a_thumb_against_known_intervals() -> None:
    thumb = thumb_of([1.0, 1.2, 1.4, 1.1, 1.3, 1.0], [1.10, 1.32, 1.48, 1.22, 1.38, 3.4])
    assert thumb.bias_s == pytest.approx(0.1)
    assert thumb.scatter_s == pytest.approx(np.std([0.10, 0.12, 0.08, 0.12, 0.08], ddof=1))
    assert (thumb.n, thumb.lost) == (5, 1)
    assert thumb_says(thumb) == "In 5 tries this thumb reads 0.10 s too long on average and scatters by 0.02 s. One try was left out."
    with pytest.raises(CoreError, match="1 of 2 tries can be counted; 5 are needed"):
        thumb_of([1.0, 1.0], [1.1, 9.0])
    with pytest.raises(CoreError, match="both above zero"):
        thumb_of([1.0], [])


def test_the_share_of_the_thumb_is_said_with_what_would_do_better() -> None:
    says = share_says([0.8, 0.84, 9.0], [])
    assert says == "A thumb scatters by about 0.10 s: 12 % of 0.84 s. Frames of a video would read to about 0.01 s."
    assert share_says([12.0], []) == "A thumb scatters by about 0.10 s: less than 1 % of 12.00 s."
    assert "3 of them together by 0.06 s: 3 % of 2.00 s" in share_says([2.0], [], 3)


# --- heats and lanes -----------------------------------------------------------------------------------------------


def plan(levels: Sequence[str], **more: object) -> Draft:
    return Draft.model_validate({
        "family": "rotor", "variable": VariableDraft(name="tip", kind="name", levels=list(levels)), "measures": [TIME], "repeats": 3,
        "prediction": "p", "reason": "r", **more,
    })  # fmt: skip


@pytest.mark.parametrize(("levels", "sizes"), [(3, [3]), (6, [6]), (7, [4, 3]), (12, [6, 6]), (13, [5, 4, 4])])
def test_a_block_is_let_go_together_in_heats_of_six_at_most(levels: int, sizes: list[int]) -> None:
    turns = planned_turns(plan([f"w{n}" for n in range(levels)], compared="side_by_side", order="random"), 5)
    heats: dict[int, list[int]] = {}
    for t in turns:
        heats.setdefault(t.heat, []).append(t.lane)
    assert [len(v) for v in heats.values()] == sizes * 3
    assert all(v == list(range(1, len(v) + 1)) for v in heats.values())
    assert {t.block for t in turns if t.heat == 1} == {1}


def test_turns_are_dealt_out_over_the_lanes_and_only_what_is_timed_or_placed_runs_in_heats() -> None:
    turns = planned_turns(plan(["a", "b", "c"], timing={"lanes": 2}), 5)
    assert [t.lane for t in turns] == [1, 2, 1, 2, 1, 2, 1, 2, 1]
    assert {t.heat for t in turns} == {0}
    typed = planned_turns(plan(["a", "b"], measures=[DISTANCE], compared="side_by_side"), 5)
    assert {t.heat for t in typed} == {0}


# --- what is held --------------------------------------------------------------------------------------------------


def test_a_broken_tolerance_and_a_passed_limit_are_said_at_once() -> None:
    draft = Draft(
        hold=[Held(name="line length", value="30 cm", tolerance="1 cm"), Held(name="fan", how="at 2"), Held(name="Drop height", value="2.6 m")],
        limits=[Limit(on="held", name="drop height", value="3 m")],
    )
    assert not_held(draft, {"line length": "31 cm", "fan": "at 3", "drop height": "2.6 m"}) == ()
    off = not_held(draft, {"line length": "0.33 m", "drop height": "310 cm"})
    assert [(n.name, n.says.split(".")[0]) for n in off] == [("line length", "line length is at 0"), ("drop height", "drop height is at 310 cm, and the limit that was set is 3 m")]
    assert "the plan holds it at 30 cm, within 1 cm" in off[0].says
    assert not_held(draft, {"line length": "29 cm", "drop height": "2.5 m"})[0].says.startswith("Drop height is at 2.5 m, and the plan holds it at 2.6 m")


# --- instruments -----------------------------------------------------------------------------------------------------


def hear(made: Sequence[Heard], measure: MeasureDraft = TIME) -> list[Got]:
    listener = Listener(measure)
    return [g for e in made for g in listener.hear(e)]


def states(got: Sequence[Got]) -> list[str]:
    return [g.state for g in got]


def gate(n: int, t: float, what: str, lane: int = 0) -> Heard:
    return Heard.model_validate({"instrument": "gate", "name": "gate 1", "n": n, "t": t, "what": what, "lane": lane})


def test_a_gate_times_by_its_own_clock_to_its_own_step() -> None:
    got = hear([gate(1, 10.0, "release"), gate(2, 10.8432, "land")])
    assert states(got) == ["started", "reading"]
    assert (got[1].text, got[1].unit, got[1].stamps, got[1].source) == ("0.843", "s", (10.0, 10.8432), "gate 1")
    assert hear([gate(1, 10.0, "release"), gate(2, 10.8432, "land")], MeasureDraft(id="m1", name="t", quantity="time", unit="ms", timed=True))[1].text == "843"


def test_doubled_late_missing_and_impossible_events_are_told_and_time_nothing_wrong() -> None:
    assert states(hear([gate(1, 1, "release"), gate(1, 1, "release"), gate(2, 1.9, "land"), gate(2, 1.9, "land")])) == ["started", "doubled", "reading", "doubled"]
    lost = hear([gate(1, 1, "release"), gate(3, 9.0, "land")])
    assert states(lost) == ["started", "told", "told"]
    assert "One event of gate 1 did not arrive" in " ".join(g.says for g in lost)
    late = hear([gate(2, 5.0, "release"), gate(1, 4.0, "land"), gate(3, 5.7, "land")])
    assert states(late) == ["started", "told", "reading"]
    assert "came late" in late[1].says
    bounce = hear([gate(1, 1.0, "release"), gate(2, 1.01, "land"), gate(3, 1.7, "land")])
    assert states(bounce) == ["started", "told", "reading"]
    assert bounce[2].text == "0.700"
    assert "a landing without a release" in hear([gate(1, 1.0, "land")])[0].says
    assert "That is no trial" in hear([gate(1, 1.0, "release"), gate(2, 5000.0, "land")])[1].says


def test_an_instrument_that_was_switched_off_and_on_is_heard_from_its_beginning() -> None:
    clock = hear([gate(1, 100.0, "release"), gate(2, 100.7, "land"), gate(3, 1.0, "release"), gate(4, 1.6, "land")])
    assert [g.text for g in clock if g.state == "reading"] == ["0.700", "0.600"]
    assert "gate 1 has started anew. Its clock begins again" in " ".join(g.says for g in clock)
    numbers = hear([gate(1, 100.0, "release"), gate(2, 100.7, "land"), gate(1, 130.0, "release"), gate(2, 130.5, "land")])
    assert [g.text for g in numbers if g.state == "reading"] == ["0.700", "0.500"]
    both = hear([gate(7, 100.0, "release"), gate(8, 100.7, "land"), gate(1, 2.0, "release"), gate(2, 2.8, "land")])
    assert [g.text for g in both if g.state == "reading"] == ["0.700", "0.800"]
    # a release that it was switched off in is lost, and stays told
    assert [g.lost for g in hear([gate(5, 100.0, "release"), gate(1, 1.0, "release")])] == [False, True, False]
    assert [g.lost for g in hear([gate(1, 1.0, "release"), gate(3, 1.6, "land")])][1]


def test_a_meter_that_was_not_cleared_is_asked_about_with_its_reading() -> None:
    made = [Heard.model_validate({"instrument": "meter", "name": "meter 1", "n": n, "t": float(n), "what": "value", "value": v, "unit": "V", "step": 0.01}) for n, v in ((1, 2.4), (2, 2.1))]
    readings = [g for g in hear(made, VOLTS) if g.state == "reading"]
    assert [bool(g.doubt) for g in readings] == [False, True]
    assert "was not cleared since 2.4 V" in readings[1].doubt


def test_gates_give_places_as_well_as_times() -> None:
    order = MeasureDraft(id="m1", name="landing order", scale="order", quantity="number", unit="")
    both = Draft(measures=[order, MeasureDraft(id="m2", name="fall time", quantity="time", unit="s", timed=True)])
    assert heard_by(both).id == "m2"
    assert heard_by(Draft(measures=[order])).quantity == "time"
    assert heard_by(Draft(measures=[TIME])) == TIME


def test_one_release_and_a_landing_for_each_lane_of_a_heat() -> None:
    got = hear([gate(1, 1.0, "release"), gate(2, 1.5, "land", 2), gate(3, 1.6, "land", 2), gate(4, 1.8, "land", 1), gate(5, 9.0, "release"), gate(6, 9.4, "land", 2)])
    assert states(got) == ["started", "reading", "told", "reading", "started", "reading"]
    assert [(g.lane, g.text, g.stamps) for g in got if g.state == "reading"] == [(2, "0.500", (1.0, 1.5)), (1, "0.800", (1.0, 1.8)), (2, "0.400", (9.0, 9.4))]
    assert "lane 2 land again. The first landing counts" in got[2].says
    # a landing that was lost leaves its lane open, and the others their times
    lost = hear([gate(1, 1.0, "release"), gate(2, 1.5, "land", 1), gate(4, 1.9, "land", 3)])
    assert [g.text for g in lost if g.state == "reading"] == ["0.500"]
    made = events("gate", 4, seed=3, lanes=3)
    assert [e.what for e in made] == ["release", "land", "land", "land"] * 4
    assert [e.n for e in made] == list(range(1, 17))
    assert {e.lane for e in made if e.what == "land"} == {1, 2, 3}
    assert states(hear(made)) == ["started", "reading", "reading", "reading"] * 4


def test_a_lane_hears_so_many_instruments_and_no_more() -> None:
    made = [Heard.model_validate({"instrument": "gate", "name": f"gate {n}", "n": 1, "t": 1.0, "what": "release"}) for n in range(26)]
    assert states(hear(made)) == ["started"] * 24 + ["told"] * 2


def test_a_scale_and_a_meter() -> None:
    def value(kind: str, n: int, v: float, unit: str, what: str = "value", step: float = 0.1) -> Heard:
        return Heard.model_validate({"instrument": kind, "name": kind, "n": n, "t": float(n), "what": what, "value": v, "unit": unit, "step": step})

    mass = MeasureDraft(id="m1", name="mass", quantity="mass", unit="g")
    assert hear([value("scale", 1, 0.0413, "kg", step=0.0001)], mass)[0].says == "scale reads 41.3 g."
    assert "cannot be" in hear([value("scale", 1, -3, "g")], mass)[0].says
    assert "no unit of mass" in hear([value("scale", 1, 3, "V")], mass)[0].says
    meter = hear([value("meter", 1, 2.4, "V"), value("meter", 2, 2.4, "V"), value("meter", 3, 0, "V", "cleared"), value("meter", 4, 2.2, "V")], VOLTS)
    assert states(meter) == ["reading", "told", "reading", "told", "reading"]
    assert "was not cleared since 2.4 V" in meter[1].says
    assert "this study measures peak" in hear([gate(1, 1, "release")], VOLTS)[0].says


@pytest.mark.parametrize("kind", ["gate", "sound", "scale", "meter"])
def test_the_simulated_ones_are_plausible_and_the_same_with_the_same_seed(kind: str) -> None:
    measure = {"gate": TIME, "sound": TIME, "scale": MeasureDraft(id="m1", name="m", quantity="mass", unit="g"), "meter": VOLTS}[kind]
    made = events(kind, 40, seed=4, height_m=2.0)  # type: ignore[arg-type]
    assert made == events(kind, 40, seed=4, height_m=2.0)  # type: ignore[arg-type]
    values = [float(g.text) for g in hear(made, measure) if g.state == "reading"]
    assert len(values) == 40
    # a fall of 2 m takes √(2·2/9.80665) = 0.6387 s (worked by hand)
    middle = {"gate": 0.6387, "sound": 0.6387 + 0.006, "scale": 40.0, "meter": 2.2}[kind]
    assert np.mean(values) == pytest.approx(middle, rel=0.03)


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from(["gate", "sound"]))
def test_a_misbehaving_instrument_never_gives_a_time_that_no_trial_took(seed: int, kind: str) -> None:
    clean = events(kind, 12, seed=seed)  # type: ignore[arg-type]
    true = {round(b.t - a.t, 3) for a, b in zip(clean[::2], clean[1::2], strict=True)}
    got = hear(events(kind, 12, seed=seed, faults=True))  # type: ignore[arg-type]
    assert {round(g.stamps[1] - g.stamps[0], 3) for g in got if g.state == "reading"} <= true
    assert sum(g.state == "reading" for g in got) <= 12
