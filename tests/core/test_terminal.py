"""`bendro analyse`, `calc` and `read` as the open contract has them: every key of every kind, and every refusal with its place.
In one process, through the commands themselves, so that each case costs milliseconds."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import pytest
from typer.testing import CliRunner, Result

from bendro.terminal.commands import app

RUN = CliRunner()


def call(*words: str) -> Result:
    return RUN.invoke(app, list(words))


def answered(*words: str) -> dict[str, Any]:
    done = call(*words, "--json")
    assert done.exit_code == 0, done.output
    found: dict[str, Any] = json.loads(done.stdout)
    return found


def refused(*words: str) -> dict[str, str]:
    done = call(*words, "--json")
    assert done.exit_code == 2, done.output
    error: dict[str, str] = json.loads(done.stdout)["error"]
    assert set(error) == {"code", "says", "where"}
    assert error["says"] in done.stderr
    return error


@pytest.fixture
def table(tmp_path: Path) -> Any:
    """Writes a table and analyses it."""

    def make(text: str | bytes, factor: str, response: str, *options: str, refuse: bool = False) -> dict[str, Any]:
        file = tmp_path / "table.csv"
        file.write_bytes(text if isinstance(text, bytes) else text.encode())
        words = ("analyse", str(file), "--factor", factor, "--response", response, *options)
        return refused(*words) if refuse else answered(*words)

    return make


def no_nan(value: Any) -> None:
    if isinstance(value, Mapping):
        for v in value.values():
            no_nan(v)
    elif isinstance(value, list):
        for v in value:
            no_nan(v)
    elif isinstance(value, float):
        assert math.isfinite(value)


TWO = "paper,time (s)\na,1.21\na,1.34\na,1.28\na,1.40\nb,1.35\nb,1.49\nb,1.52\nb,1.44\n"
THREE = "d,t,heat\na,1.2,1\nb,1.4,1\nc,1.5,1\na,1.25,2\nb,1.38,2\nc,1.61,2\na,1.22,3\nb,1.44,3\nc,1.55,3\n"
LINE = "stretch (mm),distance (cm)\n46,148\n54,182\n48,173\n50,166\n44,109\n42,141\n52,166\n"
OUTCOMES = "height (m),outcome\n1,survived\n1,survived\n1.6,survived\n1.6,failed\n2.4,survived\n2.4,failed\n3.2,failed\n3.2,failed\n"
LEVEL_KEYS = {"level", "n_kept", "n_void", "mean", "median", "sd", "sem", "min", "max", "half_range", "ci95", "censored"}
DIFFERENCE_KEYS = {"between", "estimate", "ci95", "t", "df", "p_t", "p_shuffle", "shuffle_exact", "shuffle_arrangements"}
GROUP_KEYS = {"f", "p_anova", "f_welch", "p_welch", "p_shuffle", "pairs", "places"}


# --- the shapes ------------------------------------------------------------------------------------------------------


def test_a_difference(table: Any) -> None:
    """The check of formulas.md, section 3: values worked out by two routes."""
    found = table(TWO, "paper", "time")
    assert set(found) >= {"factor", "response", "levels", "effect", "audit", "verdict"}
    assert found["factor"] == {"name": "paper", "unit": None, "treated_as": "group"}
    assert found["response"] == {"name": "time", "unit": "s"}
    assert all(set(level) >= LEVEL_KEYS for level in found["levels"])
    assert {k for k in found["effect"] if k != "kind"} == {"difference"}
    d = found["effect"]["difference"]
    assert set(d) >= DIFFERENCE_KEYS
    assert d["between"] == ["a", "b"]
    assert (d["estimate"], d["t"], d["df"], d["p_t"]) == pytest.approx((0.1425, 2.5847, 5.952, 0.0418), abs=5e-5)
    assert d["ci95"] == pytest.approx([0.0073, 0.2777], abs=5e-5)
    assert (d["p_shuffle"], d["shuffle_exact"], d["shuffle_arrangements"]) == (pytest.approx(4 / 70), True, 70)
    assert set(found["verdict"]) >= {"answer", "says", "next"}
    no_nan(found)


def test_three_levels_are_groups_in_the_order_of_the_file(table: Any) -> None:
    found = table(THREE, "d", "t")
    assert [level["level"] for level in found["levels"]] == ["a", "b", "c"]
    g = found["effect"]["groups"]
    assert set(g) >= GROUP_KEYS
    assert {tuple(p["between"]) for p in g["pairs"]} == {("a", "b"), ("a", "c"), ("b", "c")}
    assert all(set(p) == {"between", "estimate", "ci95", "p_adjusted"} for p in g["pairs"])
    assert g["places"] == [["c"], ["b"], ["a"]]
    no_nan(found)


def test_pairs_and_blocks(table: Any) -> None:
    two = "\n".join(line for line in THREE.splitlines() if not line.startswith("c,"))
    found = table(two, "d", "t", "--pair-by", "heat")
    assert found["effect"]["kind"] == "paired"
    assert found["effect"]["difference"]["paired"] is True
    assert found["effect"]["difference"]["estimate"] == pytest.approx(((1.4 - 1.2) + (1.38 - 1.25) + (1.44 - 1.22)) / 3)
    blocked = table(THREE, "d", "t", "--pair-by", "heat")["effect"]
    assert (blocked["kind"], blocked["groups"]["blocked"]) == ("groups", True)
    assert set(blocked["groups"]) >= {"f", "p", "pairs"}
    assert set(blocked["groups"]["friedman"]) == {"chi2", "p", "kendall_w"}
    assert blocked["groups"]["friedman"]["kendall_w"] == 1  # every heat lands in one order


def test_a_covariate(table: Any) -> None:
    found = table(THREE, "d", "t", "--adjust-for", "heat")["effect"]["groups"]
    assert set(found["adjusted_for"]) == {"name", "slope", "slope_se", "p_slopes_differ"}
    assert found["adjusted_for"]["name"] == "heat"
    assert set(found) >= {"f", "p", "pairs"}


def test_a_trend_with_every_form_that_can_be_fitted(table: Any) -> None:
    found = table(LINE, "stretch", "distance")
    assert [level["level"] for level in found["levels"]] == [42, 44, 46, 48, 50, 52, 54]  # ascending
    assert found["levels"][0]["sd"] is None  # one trial shows no spread
    t = found["effect"]["trend"]
    assert set(t) >= {"preferred", "spearman", "forms"}
    forms = {f["form"]: f for f in t["forms"]}
    assert set(forms) == {"line", "proportional", "power", "peak"}
    for form, names in (
        ("line", {"intercept", "slope"}),
        ("proportional", {"slope"}),
        ("power", {"scale", "exponent"}),
        ("peak", {"a", "b", "c"}),
    ):
        assert set(forms[form]["coefficients"]) == names
        assert set(forms[form]) >= {"form", "coefficients", "ci95", "r2", "p", "aicc", "optimum", "optimum_ci95"}
    assert forms["line"]["coefficients"]["slope"] == pytest.approx(4.5536, abs=5e-5)
    assert t["preferred"] in forms
    no_nan(found)


def test_numbers_may_be_taken_as_names_and_two_numbers_are_a_difference(table: Any) -> None:
    text = "angle,d\n30,3.1\n30,3.2\n30,3.0\n45,4.1\n45,4.0\n45,4.3\n60,3.3\n60,3.1\n60,3.4\n"
    assert table(text, "angle", "d")["effect"]["kind"] == "trend"
    assert table(text, "angle", "d", "--treat-as", "group")["effect"]["kind"] == "groups"
    two = "\n".join(line for line in text.splitlines() if not line.startswith("60"))
    assert table(two, "angle", "d")["effect"]["kind"] == "difference"
    assert table(two, "angle", "d", "--treat-as", "number")["effect"]["kind"] == "trend"


def test_survival_with_its_half_height_and_a_ladder_that_separates(table: Any) -> None:
    s = table(OUTCOMES, "height", "outcome")["effect"]["survival"]
    assert set(s) >= {"levels", "fisher", "half_height", "bracket"}
    assert all(set(level) == {"level", "survived", "n", "wilson95", "exact95"} for level in s["levels"])
    assert 1.6 < s["half_height"] < 2.4
    assert len(s["half_height_ci95"]) == 2
    separated = table("height (m),outcome\n1,survived\n2,survived\n3,failed\n4,failed\n", "height", "outcome")["effect"]["survival"]
    assert (separated["half_height"], separated["bracket"]) == (None, [2.0, 3.0])
    named = table("pod,outcome\nx,survived\nx,failed\ny,failed\ny,failed\n", "pod", "outcome")["effect"]["survival"]
    assert named["fisher"] == [{"between": ["x", "y"], "p": pytest.approx(1.0)}]


def test_findings_have_their_four_keys_and_the_gravest_come_first(table: Any) -> None:
    found = table("d,t\na,1\nb,2\nb,2.1\n", "d", "t")["audit"]
    assert all(set(f) >= {"code", "severity", "says", "do"} for f in found)
    order = [["stop", "warn", "note"].index(f["severity"]) for f in found]
    assert order == sorted(order)
    assert found[0]["code"] == "single_trial"


@pytest.mark.parametrize(("level", "words"), [("first", "Luck alone"), ("middle", "Shuffling the readings"), ("senior", "p = 0.057")])
def test_the_reading_level_changes_the_words_and_not_the_numbers(table: Any, level: str, words: str) -> None:
    found = table(TWO, "paper", "time", "--level", level)
    assert words in found["verdict"]["detail"]
    assert found["effect"] == table(TWO, "paper", "time")["effect"]


@pytest.mark.parametrize(("school", "answer"), [("shuffle", "clear"), ("interval", "clear"), ("ranges", "cannot_tell")])
def test_the_school_of_evidence_decides(table: Any, school: str, answer: str) -> None:
    """Four against four: the shuffle's 4 of 70 lies beside steps of 0.029 and 0.057, too coarse to decide, so the interval does."""
    verdict = table(TWO, "paper", "time", "--evidence", school)["verdict"]
    assert verdict["answer"] == answer
    assert ("so the interval decides" in verdict["detail"]) is (school == "shuffle")


# --- tables as they come ---------------------------------------------------------------------------------------------


def test_semicolons_decimal_commas_and_a_byte_order_mark(table: Any) -> None:
    text = "\ufeffpaper;time (s)\na;1,21\na;1,34\nb;1,35\nb;1,49\n"
    found = table(text, "paper", "time")
    assert [level["mean"] for level in found["levels"]] == pytest.approx([1.275, 1.42])


def test_units_are_turned_into_the_headers_and_bounds_are_kept(table: Any) -> None:
    text = "s,d (cm)\n1,3 ft 4 in\n1,1.02 m\n2,>=2 m\n2,~190\n"
    found = table(text, "s", "d", "--treat-as", "group")
    assert found["levels"][0]["mean"] == pytest.approx((101.6 + 102) / 2)
    assert found["levels"][1]["censored"] == 1
    assert found["effect"]["difference"]["bound"] == "at_least"
    assert found["effect"]["difference"]["ci95"] is None
    assert {"censored", "estimated_mixed_with_measured"} <= {f["code"] for f in found["audit"]}


def test_void_rows_need_no_reading_and_are_counted(table: Any) -> None:
    text = "state,fault,p,t\nkept,,a,1\n,,a,2\nvoid,slipped,a,\nkept,,b,3\nkept,,b,4\n"
    found = table(text, "p", "t")
    assert [(level["n_kept"], level["n_void"]) for level in found["levels"]] == [(2, 1), (2, 0)]


def test_drift_is_only_looked_for_where_the_order_is_written(table: Any) -> None:
    values = [3.0, 3.1, 3.2, 3.3, 3.4, 3.5, 3.6, 3.7]
    unordered = "p,t\n" + "".join(f"{'ab'[i % 2]},{v}\n" for i, v in enumerate(values))
    ordered = "trial,p,t\n" + "".join(f"{i + 1},{'ab'[i % 2]},{v}\n" for i, v in enumerate(values))
    assert "drift_with_order" not in {f["code"] for f in table(unordered, "p", "t")["audit"]}
    assert "drift_with_order" in {f["code"] for f in table(ordered, "p", "t")["audit"]}


def test_a_bad_cell_is_named_and_may_be_left_out(table: Any) -> None:
    text = "p,t (s)\na,1.2\na,far\nb,1.5\nb,1.6\n"
    error = table(text, "p", "t", refuse=True)
    assert (error["code"], error["where"]) == ("reading_words", "row 3, column t (s)")
    found = table(text, "p", "t", "--skip-bad")
    assert [level["n_kept"] for level in found["levels"]] == [1, 2]
    assert found["skipped"][0].startswith("row 3, column t (s): ")


@pytest.mark.parametrize(
    ("text", "factor", "options", "code"),
    [
        ("", "p", (), "table_empty"),
        ("p,p\n1,2\n", "p", (), "header_twice"),
        ("p,,t\n1,2,3\n", "p", (), "header_blank"),
        ("p,t\na,1,9\n", "p", (), "row_length"),
        ('p,t\n"a,1\n', "p", (), "table_quotes"),
        ("p,t\na,1\n", "q", (), "column_unknown"),
        ("p,t\na,1\n", "t", (), "same_column"),
        ("p,t\n,1\nb,2\n", "p", (), "cell_empty"),
        ("p,t,state\na,1,lost\n", "p", (), "state_unknown"),
        ("p,t,trial\na,1,first\n", "p", (), "trial_number"),
        ("p,t\na,1\nb,2\n", "p", ("--treat-as", "number"), "factor_not_number"),
        ("p,t\n1,1\n2,2\n3,3\n4,4\nfive,5\n", "p", (), "factor_not_number"),
        ("p,t,w\na,1,x\nb,2,y\n", "p", ("--adjust-for", "w"), "covariate_not_number"),
        ("p,t,w\na,1,1\na,2,1\nb,2,1\nb,3,1\n", "p", ("--adjust-for", "w"), "covariate_constant"),
        ("p,t,w\na,1,\nb,2,1\n", "p", ("--pair-by", "w"), "pair_missing"),
        ("p,t,w\na,>1,1\nb,2,1\n", "p", ("--pair-by", "w"), "bound_in_model"),
        ("p,t,w\na,1,1\nb,2,2\nc,3,3\n", "p", ("--pair-by", "w"), "blocks_confounded"),
        ("p,t,w\na,1,1\na,2,1\nb,2,2\nb,3,2\n", "p", ("--adjust-for", "w"), "covariate_confounded"),
    ],
)
def test_a_table_that_cannot_be_analysed_says_why(table: Any, text: str, factor: str, options: tuple[str, ...], code: str) -> None:
    assert table(text, factor, "t", *options, refuse=True)["code"] == code


def test_bytes_that_are_no_text_are_told(table: Any) -> None:
    assert table("höhe,t\n1,2\n".encode("latin-1"), "höhe", "t", refuse=True)["code"] == "table_encoding"
    assert table(b"PK\x03\x04\x00\x00", "p", "t", refuse=True)["code"] == "table_encoding"
    assert refused("analyse", "no-such-file.csv", "--factor", "a", "--response", "b")["code"] == "file_missing"


def test_an_outcome_that_is_neither_is_asked_about(table: Any) -> None:
    text = "pod,outcome\nx,survived\nx,hairline\ny,failed\n"
    assert table(text, "pod", "outcome", refuse=True)["code"] == "outcome_unknown"
    found = table(text, "pod", "outcome", "--survived", "survived,hairline")
    assert [level["survived"] for level in found["effect"]["survival"]["levels"]] == [2, 0]


def test_for_people_the_verdict_comes_first_and_survival_has_its_own_table(table: Any, tmp_path: Path) -> None:
    file = tmp_path / "people.csv"
    file.write_text(OUTCOMES)
    done = call("analyse", str(file), "--factor", "height", "--response", "outcome")
    lines = done.stdout.splitlines()
    assert lines[0] == "These trials cannot tell whether height changes survival."
    assert any(line.split() == ["height", "/", "m", "survived", "of", "95", "%", "(Wilson)", "95", "%", "(exact)"] for line in lines)
    file.write_text(TWO)
    assert (
        call("analyse", str(file), "--factor", "paper", "--response", "time")
        .stdout.splitlines()[0]
        .startswith("Time was about 0.14 s longer")
    )


# --- calc and read ---------------------------------------------------------------------------------------------------


def test_a_calculation_has_its_keys_working_and_doubt() -> None:
    found = answered("calc", "free-fall", "height=2.5 m ± 1 cm")
    assert set(found) == {"id", "inputs", "outputs", "working", "assumptions", "source"}
    assert found["inputs"]["height"]["value"] == 2.5
    time = found["outputs"]["time"]
    assert (time["value"], time["unit"]) == (pytest.approx(0.71404, abs=5e-6), "s")
    # t is proportional to the root of h: half the relative doubt
    assert time["uncertainty"] == pytest.approx(0.71404 * 0.5 * 0.01 / 2.5, rel=1e-3)
    assert any("2.5 m" in line for line in found["working"])
    assert answered("calc", "free-fall", "height=2.5 m", "--g", "10")["outputs"]["time"]["value"] == pytest.approx(math.sqrt(0.5))


def test_parts_come_again_and_again() -> None:
    found = answered("calc", "balance-point", "part=12 g @ 30 mm", "part=20 g @ 10 cm")
    assert found["outputs"]["position"]["value"] == pytest.approx(0.07375)


@pytest.mark.parametrize(
    ("words", "code"),
    [
        (("teleport",), "calculator_unknown"),
        (("free-fall",), "input_missing"),
        (("free-fall", "height"), "input_form"),
        (("free-fall", "height=2 m", "mass=3 g"), "input_unknown"),
        (("free-fall", "height=2 m", "height=3 m"), "input_twice"),
        (("free-fall", "height=2 s"), "reading_wrong_dimension"),
        (("free-fall", "height=0 m"), "input_range"),
        (("free-fall", "height=-2 m"), None),
        (("impact", "mass=65 g", "impact_speed=7 m/s"), None),
        (("drag-from-descent", "height=4.2 m", "time=0.5 s", "mass=60 g", "area=0.16 m2"), None),  # faster than falling freely
    ],
)
def test_what_a_calculator_refuses(words: tuple[str, ...], code: str | None) -> None:
    error = refused("calc", *words)
    assert error["says"].endswith(".")
    if code:
        assert error["code"] == code


def test_a_reading_has_its_keys() -> None:
    found = answered("read", "3 ft 4 1/2 in", "--as", "length")
    assert found == {
        "kind": "exact",
        "value": 40.5,
        "unit": "in",
        "si_value": pytest.approx(1.0287),
        "si_unit": "m",
        "resolution": 0.5,
        "half_width": None,
        "standard_uncertainty": pytest.approx(0.5 / math.sqrt(12)),
    }
    assert answered("read", "35-40 ft", "--as", "length")["half_width"] == 2.5
    assert answered("read", "4.52", "--as", "length", "--unit", "m")["unit"] == "m"


@pytest.mark.parametrize(
    ("text", "quantity", "code"),
    [
        ("far", "length", "reading_words"),
        ("4.5", "length", "reading_unit_missing"),
        ("4 s", "length", "reading_wrong_dimension"),
        ("4", "colour", "quantity_unknown"),
    ],
)
def test_what_is_no_reading(text: str, quantity: str, code: str) -> None:
    assert refused("read", text, "--as", quantity)["code"] == code


# --- the further commands --------------------------------------------------------------------------------------------


def said(*words: str) -> str:
    done = call(*words)
    assert done.exit_code == 0, done.output
    return done.stdout


def test_landing_scatter_and_the_two_measure_decision(tmp_path: Path) -> None:
    file = tmp_path / "landing.csv"
    straight = (
        [(6.0, 40), (6.2, -35), (5.9, 52), (6.1, -44), (6.0, 38), (6.1, -41)],
        [(5.9, 4), (6.0, -6), (6.1, 5), (5.9, -3), (6.0, 7), (6.05, -2)],
    )
    text = "clay (g),along (m),off (cm)\n" + "".join(f"{level},{a},{o}\n" for level, rows in enumerate(straight) for a, o in rows)
    file.write_text(text)
    words = ("landing", str(file), "--factor", "clay", "--along", "along", "--off", "off")
    told = said(*words, "--margin", "40 cm")
    assert "0.0: n 6, middle 6.05 m along" in told
    assert told.splitlines()[-1].startswith("It flies straighter, and loses at most")
    assert "but may lose more than the margin of 0.01" in said(*words, "--margin", "1 cm")


def test_two_variables_and_landing_orders_at_the_terminal(tmp_path: Path) -> None:
    file = tmp_path / "two.csv"
    file.write_text("wool,tension,breaks\nA,L,26\nA,L,30\nA,H,36\nA,H,21\nB,L,27\nB,L,14\nB,H,20\nB,H,21\n")
    told = said("two", str(file), "--first", "wool", "--second", "tension", "--response", "breaks")
    assert "What wool does does not visibly depend on tension" in told
    file.write_text("heat,wing,place\n1,a,1\n1,b,2\n1,c,3\n2,a,1\n2,b,2\n2,c,3\n3,a,1\n3,b,3\n3,c,2\n")
    told = said("ranks", str(file), "--heat", "heat", "--device", "wing", "--order", "place")
    assert told.splitlines()[0] == "a: mean rank 1"
    assert "Kendall’s W = 0.778" in told
    assert call("ranks", "none.csv", "--heat", "h", "--device", "d", "--order", "o").exit_code == 2


def test_timers_repeats_rota_and_cutting_at_the_terminal() -> None:
    assert said("timers", "1.21", "1.25", "1.9").splitlines() == [
        "1.25 s (median of 3)",
        "Timer 3 (1.9) stands apart: was there a slip? It still counts.",
    ]
    assert said("timers", "1.30", "1.42", "--bias", "0.1,0.2").startswith("1.21 s (mean of 2)")
    # formulas.md, section 3: d = 1.5 takes 8.06, rounded up
    assert said("repeats", "--difference", "1.5", "--sd", "1", "--have", "4").startswith("9 at each level.")
    told = said("rota", "A,B,C,D,E,F", "--test", "4")
    assert told.startswith(
        "It takes 63 min, 13 more than the lesson has; no order of the groups is shorter. One more lane with one more adult"
    )
    assert told.count("lane 1") == 12
    assert said("cut", "100 x 150 cm", "44 x 44 cm") == "6 pieces; 23 % is offcut.\n"
    assert said("cut", "1 m", "30 cm") == "3 pieces; 10 % is offcut.\n"
    assert call("cut", "1 m", "30 x 30 cm").exit_code == 2
    assert call("rota", "A", "--adults", "0").exit_code == 2


def test_the_ranking_is_told_by_machine_with_results_in_full(tmp_path: Path) -> None:
    table = tmp_path / "t.csv"
    table.write_text("device,points\n" + "".join(f"{n},{v}\n" for n, values in {"A": (5, 6, 5), "B": (5, 5, 6), "C": (1, 0, 1)}.items() for v in values))
    done = CliRunner().invoke(app, ["analyse", str(table), "--factor", "device", "--response", "points", "--json"])
    assert done.exit_code == 0
    ranking = json.loads(done.stdout)["ranking"]
    assert [set(r) for r in ranking] == [{"level", "place", "result", "apart_from_next", "outside"}] * 3
    assert [(r["level"], r["place"]) for r in ranking] == [("A", 1), ("B", 1), ("C", 3)]
    assert ranking[0]["result"] == pytest.approx(16 / 3, rel=1e-12)
    assert ranking[1]["apart_from_next"] is True
