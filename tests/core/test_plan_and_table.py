"""Plans that are typed, orders that are drawn, families that ship, and the open trial table."""

from __future__ import annotations

from collections import Counter
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bendro.core.draft import Draft, Held, Limit
from bendro.core.errors import TableRefused
from bendro.core.families import families, order
from bendro.core.planning.order import turns
from bendro.core.planning.plan import check, level_of, planned_levels, planned_turns
from bendro.core.planning.safety import limit_places
from bendro.files.trial_table import parse_table, take_trials, write_table
from tests.conftest import DRAFT


def draft(**change: Any) -> Draft:
    return Draft.model_validate({**DRAFT, **change})


def under_limits(d: Draft, most: float) -> Draft:
    """The draft with every limit that it needs, and its heights written down. most: the highest level."""
    needed = [p for p in limit_places(d) if p.needed]
    values = {"variable": f"{most:g}", "rungs": "2 m", "held": "3 m"}
    return d.model_copy(
        update={
            "limits": [Limit(on=p.on, name=p.name, value=values[p.on]) for p in needed],
            "hold": [Held(name=p.name, value="2 m") for p in needed if p.on == "held"],
        }
    )


def grave(d: Draft) -> list[str]:
    return [p.code for p in check(d) if p.grave]


def levels(*typed: str, kind: str = "number") -> dict[str, Any]:
    return {**DRAFT["variable"], "kind": kind, "levels": list(typed)}


# --- plans -----------------------------------------------------------------------------------------------------------


def test_a_whole_plan_has_nothing_against_it() -> None:
    assert check(draft()) == ()


BAD_PLANS = [
    ({"variable": levels()}, "levels_few"),
    ({"variable": levels("4")}, "levels_few"),
    ({"variable": levels("4", "")}, "level_blank"),
    ({"variable": levels("4", "4.0")}, "level_twice"),
    ({"variable": levels("4", "40 mm")}, "level_twice"),
    ({"variable": levels("4", "wide")}, "reading_words"),
    ({"variable": levels("4", "6 s")}, "reading_wrong_dimension"),
    ({"variable": levels("4", "1e400")}, "reading_not_finite"),
    ({"variable": levels("4", "5-6")}, "level_not_exact"),
    ({"variable": levels(*map(str, range(200)))}, "levels_many"),
    ({"repeats": 0}, "repeats_range"),
    ({"repeats": 999}, "repeats_range"),
    ({"family": "kite"}, "family_unknown"),
    ({"groups": ["Red", "red"]}, "group_twice"),
    ({"groups": [f"g{i}" for i in range(61)]}, "groups_many"),
    ({"measures": [{**DRAFT["measures"][0], "unit": "s"}]}, "unit_unknown"),
    ({"measures": [{**DRAFT["measures"][0], "name": " "}]}, "measure_missing"),
    ({"measures": [{**DRAFT["measures"][0], "step": "fine"}]}, "step_unreadable"),
    ({"measures": [{**DRAFT["measures"][0], "step": "0"}]}, "step_unreadable"),
    ({"measures": [{**DRAFT["measures"][0], "step": "-1"}]}, "step_unreadable"),
    ({"variable": levels("felt", "Felt ", kind="name")}, "level_twice"),
]


@pytest.mark.parametrize(("change", "code"), BAD_PLANS)
def test_what_a_run_cannot_start_with(change: dict[str, Any], code: str) -> None:
    assert code in grave(draft(**change))
    assert planned_turns(draft(**change), 1) == ()


def test_what_is_asked_about_and_allowed() -> None:
    asked = {
        p.code for p in check(draft(repeats=2, prediction="", expect="", question="", variable=levels("4", "6", "900"))) if not p.grave
    }
    assert asked == {"repeats_few", "prediction_missing", "question_missing", "level_unusual"}
    assert grave(draft(repeats=2)) == []


def test_a_level_in_feet_among_centimetres_is_turned_into_the_variables_unit() -> None:
    assert [p.level for p in planned_levels(draft(variable=levels("4", "1 ft", "0.5 m")))] == [4.0, 30.48, 50.0]
    assert level_of(draft().variable, "4.50").text == "4.5"


# --- order -----------------------------------------------------------------------------------------------------------


@given(st.integers(1, 6), st.integers(1, 8), st.integers(0, 5), st.integers(0, 2**31), st.sampled_from(["blocks", "listed", "random"]))
def test_every_order_holds_every_trial_once_and_shares_them_out(n: int, repeats: int, groups: int, seed: int, order: Any) -> None:
    names, labels = [f"L{i}" for i in range(n)], [f"G{i}" for i in range(groups)]
    made = turns(names, repeats, labels, order, seed)
    assert Counter((t.block, t.level) for t in made) == Counter((b, name) for b in range(1, repeats + 1) for name in names)
    assert made == turns(names, repeats, labels, order, seed)
    load = Counter(t.group for t in made)
    assert max(load.values()) - min(load.values()) <= 1
    if order == "blocks":
        assert [t.block for t in made] == sorted(t.block for t in made)


def test_more_repeats_later_leave_the_earlier_blocks_as_they_were() -> None:
    names = ["a", "b", "c", "d"]
    assert [(t.block, t.level) for t in turns(names, 5, [], "blocks", 9)][:12] == [
        (t.block, t.level) for t in turns(names, 3, [], "blocks", 9)
    ]


# --- families --------------------------------------------------------------------------------------------------------


def test_the_nine_families_are_whole() -> None:
    made = families()
    assert [f.id for f in made] == list(order())
    for f in made:
        for v in f.variables:
            assert len(v.typical) >= 2, (f.id, v.name)
        assert all(c.endswith(".") for c in (*(c.says for c in f.cautions), *f.build_checks)), f.id


@pytest.mark.parametrize("family_id", order())
def test_a_plan_made_only_of_a_familys_own_words_can_be_run(family_id: str) -> None:
    f = next(f for f in families() if f.id == family_id)
    for v in f.variables:
        for m in f.measures:
            made = draft(
                family=f.id,
                variable={
                    "name": v.name,
                    "kind": v.kind,
                    "quantity": v.quantity or "number",
                    "unit": v.unit,
                    "levels": [str(x) for x in v.typical],
                },
                measures=[{"name": m.name, "quantity": m.quantity, "unit": m.unit, "rule": m.rule, "signed": m.signed, "step": f"{m.step:g}"}],
                limits=[],
                **({"survival": "hairline", "drop": {"plan": "one_height", "heights": ["2"]}} if m.survival else {}),
            )
            made = under_limits(made, max((float(x) for x in v.typical if not isinstance(x, str)), default=0.0))
            assert check(made) == (), (f.id, v.name, m.name)


# --- the open trial table ------------------------------------------------------------------------------------------------

TABLE = "trial,state,fault,pull (cm),distance (m)\r\n1,kept,,4,2.10\r\n2,,,6,>=3.8\r\n3,void,slipped,6,\r\n4,kept,,4,7 ft\r\n"


def test_a_table_is_taken_with_its_units_bounds_and_voids() -> None:
    taken = take_trials(parse_table(TABLE), "pull", "distance")
    assert (taken.factor_unit, taken.unit) == ("cm", "m")
    assert [(t.level, t.value and round(t.value, 4), t.kind, t.state) for t in taken.trials] == [
        (4.0, 2.1, "exact", "kept"),
        (6.0, 3.8, "at_least", "kept"),
        (6.0, None, "exact", "void"),
        (4.0, 2.1336, "exact", "kept"),
    ]


def test_semicolons_decimal_commas_and_a_byte_order_mark_are_understood() -> None:
    data = "\ufeffpull (cm);distance (m)\n4;2,10\n6;1,250\n".encode()
    taken = take_trials(parse_table(data), "pull", "DISTANCE (m)")
    assert [t.value for t in taken.trials] == [2.1, 1.25]


BAD_TABLES = [
    (b"", "table_empty", "file"),
    (b"a,b\n1,2", "column_unknown", "header"),
    (b"pull,pull,distance\n", "header_twice", "column 2"),
    (b"pull,,distance\n", "header_blank", "column 2"),
    ("pull,distanc\xe9\n".encode("latin-1"), "table_encoding", "row 1"),
    (b"PK\x03\x04\x00\x00", "table_encoding", "file"),
    (b"pull,distance\n4,2,3,4\n", "row_length", "row 2"),
    (b'pull,distance\n4,"2\n', "table_quotes", "row"),
    (b"pull,distance (m)\n4,2\n4,far\n", "reading_words", "row 3, column distance (m)"),
    (b"pull,distance (m)\n4,\n", "reading_empty", "row 2"),
    (b"pull,distance (s)\n4,-2\n", "reading_negative", "row 2"),
    (b"pull,distance\n,2\n", "cell_empty", "row 2, column pull"),
    (b"pull,distance,state\n4,2,lost\n", "state_unknown", "row 2, column state"),
    (b"pull,distance,trial\n4,2,first\n", "trial_number", "column trial"),
    (b"pull,distance\n1,1\n2,1\n3,1\n4,1\n5,1\nsix,1\n", "factor_not_number", "row 7, column pull"),
    (b"x" * 5_000_001, "table_too_large", "file"),
]


@pytest.mark.parametrize(("data", "code", "where"), BAD_TABLES)
def test_a_bad_table_is_refused_at_its_place(data: bytes, code: str, where: str) -> None:
    with pytest.raises(TableRefused) as caught:
        take_trials(parse_table(data), "pull", "distance")
    assert caught.value.code == code
    assert where in (caught.value.where or "")


def test_bad_cells_may_be_left_out_and_are_listed() -> None:
    taken = take_trials(parse_table(b"pull,distance (m)\n4,2\n4,far\n6,3\n"), "pull", "distance", skip_bad=True)
    assert len(taken.trials) == 2
    assert "row 3" in taken.skipped[0]


def test_a_cell_that_a_spreadsheet_would_run_is_written_as_text_and_read_back() -> None:
    text = write_table(["note", "pull", "distance"], [["=1+1", "4", "-2.5"], ["@x", "5", "3"]])
    assert "'=1+1" in text
    assert ",-2.5" in text
    assert [r["note"] for r in parse_table(text).rows] == ["=1+1", "@x"]


@pytest.mark.parametrize("text", ["=1+1", "+1+1", "-1+1", "@x", "\r=1+1", "\n=1+1", "'=1+1", "''@x", "-x"])
def test_no_cell_or_header_reaches_a_spreadsheet_as_a_formula(text: str) -> None:
    written = write_table(["note", text, "distance"], [["a", text, "5"]])
    assert f"'{text}" in written.split("distance")[0]
    assert f"'{text}" in written.split("distance")[1]
    table = parse_table(written)
    assert [c.header for c in table.columns][1].strip() == text.strip()
    assert table.rows[0][table.columns[1].header] == text


def test_ten_thousand_rows_are_taken() -> None:
    body = "pull,distance (m)\n" + "".join(f"{4 + i % 3},{2 + i % 7}.{i % 10}\n" for i in range(10_000))
    assert len(take_trials(parse_table(body), "pull", "distance").trials) == 10_000


@pytest.mark.parametrize(
    ("rows", "where"),
    [
        (["a,1.60", "a,1.62", "b,165 cm", "b,1.70"], "row 4, column distance"),
        (["a,120 ms", "a,0.13", "b,0.14"], "row 2, column distance"),
        (["10,1.6", "10 cm,1.7", "20,1.8"], "row 3, column band"),
    ],
)
def test_a_unit_in_one_cell_never_rescales_the_bare_numbers_beside_it(rows: list[str], where: str) -> None:
    table = parse_table("band,distance\n" + "\n".join(rows))
    with pytest.raises(TableRefused) as no:
        take_trials(table, "band", "distance")
    assert (no.value.code, no.value.where) == ("unit_unclear", where)
    head = "band (cm),distance (m)" if "ms" not in rows[0] else "band,distance (s)"
    read_in = take_trials(parse_table(head + "\n" + "\n".join(rows)), "band", "distance").trials
    assert max(t.value or 0 for t in read_in) < 2
    every = take_trials(parse_table("band,distance\na,160 cm\na,1.62 m\nb,165 cm"), "band", "distance")
    assert [t.value for t in every.trials] == pytest.approx([160, 162, 165])
