"""Versions of a device: what changed, which rules are kept, where it balances and where the air pushes."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bendro.core.building.rules import rules_of
from bendro.core.building.side_view import side_view
from bendro.core.building.version import VersionDraft, changes, newly_taken, same_value, says_of
from bendro.core.draft import Draft


def version(
    mass: str = "", since: int | None = None, used: dict[str, float] | None = None, also: str = "", **properties: str
) -> VersionDraft:
    return VersionDraft.model_validate(
        {
            "since": since,
            "mass": mass,
            "also_changed": also,
            "properties": [{"name": k.replace("_", " "), "value": v} for k, v in properties.items()],
            "used": [{"material": k, "pieces": v} for k, v in (used or {}).items()],
        }
    )


# --- what changed ----------------------------------------------------------------------------------------------------

ONE = version(mass="40 g", fins="3", canopy_side="30 cm", paper="thin")


@pytest.mark.parametrize(
    ("later", "found"),
    [
        (version(mass="40 g", fins="3", canopy_side="30 cm", paper="thin"), []),
        # another unit, another case, another way of writing the same number is no change
        (version(mass="40 g", Fins="3.0", canopy_side="0.3 m", paper="Thin "), []),
        (version(mass="40 g", fins="4", canopy_side="30 cm", paper="thin"), ["fins (3 → 4)"]),
        # the mass follows from what else changed, and is a change of its own only when nothing else is
        (version(mass="44 g", fins="4", canopy_side="30 cm", paper="thin"), ["fins (3 → 4)"]),
        (version(mass="44 g", fins="3", canopy_side="30 cm", paper="thin"), ["mass (40 g → 44 g)"]),
        (version(mass="40 g", fins="3", canopy_side="30 cm", paper="thin", nose="clay"), ["nose (now clay)"]),
        (version(mass="40 g", fins="3", canopy_side="30 cm"), ["paper (no longer thin)"]),
        (
            version(mass="40 g", fins="3", canopy_side="30 cm", paper="thin", also="glue; who built it"),
            ["glue (now changed)", "who built it (now changed)"],
        ),
        (version(mass="40 g", fins="3", canopy_side="30 cm", paper="thin", used={"tape": 2}), ["pieces of tape (0 → 2)"]),
    ],
)
def test_what_changed_is_worked_out_from_what_was_written(later: VersionDraft, found: list[str]) -> None:
    assert [str(c) for c in changes(ONE, later)] == found


@given(st.integers(1, 1500), st.sampled_from([("cm", "mm", 10), ("m", "cm", 100), ("kg", "g", 1000), ("min", "s", 60)]))
def test_a_value_in_another_unit_is_the_same_value(n: int, units: tuple[str, str, int]) -> None:
    large, small, ratio = units
    assert same_value(f"{n} {large}", f"{n * ratio} {small}")
    assert not same_value(f"{n} {large}", f"{n * ratio + 1} {small}")


def test_nothing_changes_between_a_version_and_itself() -> None:
    assert changes(ONE, ONE) == ()


def test_the_sentence_says_what_can_and_cannot_be_concluded() -> None:
    two = changes(ONE, version(fins="4", canopy_side="20 cm", paper="thin"))
    assert says_of(two, 1) == (
        "Two things changed since version 1: fins (3 → 4) and canopy side (30 cm → 20 cm). "
        "Once both are tested, it can be told whether it does better, but not which of them did it."
    )
    assert says_of(two[:1], 1) == "One thing changed since version 1: fins (3 → 4). Once both are tested, a real difference between them is its doing."
    assert says_of((), 1).startswith("Nothing that is written down changed since version 1.")
    assert says_of((), None).startswith("The first of its line")


# --- the rules -------------------------------------------------------------------------------------------------------


def rules(
    given: dict[str, Any], one: VersionDraft, last: VersionDraft | None = None, spent: float = 0, **materials: Any
) -> dict[str, tuple[bool, str]]:
    d = Draft.model_validate({"rules": given, "materials": materials})
    return {r.rule: (r.met, r.says) for r in rules_of(d, one, last=last, spent=spent)}


@pytest.mark.parametrize(
    ("given", "mass", "rule", "met"),
    [
        # at the bound is kept, above it broken
        ({"mass_limit": "60 g"}, "60 g", "limit", True),
        ({"mass_limit": "60 g"}, "60.1 g", "limit", False),
        ({"mass_limit": "2 oz"}, "56 g", "limit", True),
        ({"payload_mass": "30 g", "payload_multiple": "2"}, "30 g", "multiple", True),
        ({"payload_mass": "30 g", "payload_multiple": "2"}, "31 g", "multiple", False),
        ({"share_of_last": "0.75"}, "30 g", "share_of_last", True),
        ({"share_of_last": "0,75"}, "31 g", "share_of_last", False),
    ],
)
def test_mass_rules_on_both_sides_of_their_bounds(given: dict[str, str], mass: str, rule: str, met: bool) -> None:
    assert rules(given, version(mass=mass), last=version(mass="40 g"))[rule][0] is met


def test_a_rule_that_cannot_be_judged_yet_says_what_is_missing() -> None:
    assert rules({"mass_limit": "60 g"}, version())["weighed"] == (False, "Not weighed yet: write the mass to see its rules.")
    assert not rules({"payload_multiple": "2"}, version(mass="30 g"))["multiple"][0]
    assert "share_of_last" not in rules({"share_of_last": "0.75"}, version(mass="30 g"))  # a first version has none before it
    assert rules({}, version(mass="30 g")) == {}


def test_pieces_carried_over_from_the_version_before_are_not_taken_twice() -> None:
    one = version(used={"card": 2, "tape": 2})
    assert newly_taken(None, one) == [("card", 2), ("tape", 2)]
    assert newly_taken(one, one) == []
    assert newly_taken(one, version(used={"card": 3, "foam": 1, "tape": 1})) == [("card", 1), ("foam", 1)]


def test_the_budget_says_what_is_spent_and_left() -> None:
    items = [{"name": "card", "shop_price": "3"}, {"name": "tape", "shop_price": "1,50"}]
    one = version(used={"card": 2, "tape": 2})
    assert rules({"budget": "20"}, one, spent=20, items=items, money="coins")["budget"] == (
        True,
        "20 coins of 20 coins spent; 0 coins left.",
    )
    assert rules({"budget": "20"}, one, spent=20.5, items=items)["budget"] == (False, "20.5 of 20 spent; 0.5 too much.")
    assert not rules({"budget": "20"}, version(used={"foam": 1}), items=items)["unpriced"][0]
    assert not rules({"budget": "dear"}, one, items=items)["budget"][0]


def test_the_fixed_list_and_the_payload_that_must_show() -> None:
    items = [{"name": "card", "allowed": "1"}]
    assert rules({"fixed_list": True}, version(used={"card": 1}), items=items)["fixed_list"][0]
    assert rules({"fixed_list": True}, version(used={"card": 2}), items=items)["fixed_list"] == (
        False,
        "Past the list: card: 2 where 1 are allowed.",
    )
    assert not rules({"payload_shows": True}, version())["payload_shows"][0]
    assert rules({"payload_shows": True}, VersionDraft(payload_shows=True))["payload_shows"][0]


# --- from the side ---------------------------------------------------------------------------------------------------

SHAPE = {"nose": "cone", "nose_length": "60 mm", "body_diameter": "24 mm", "fins": "4", "root": "60 mm", "tip": "30 mm", "span": "40 mm", "sweep": "25 mm", "fin_position": "260 mm"}  # fmt: skip


def drawn(shape: dict[str, str] | None = None, *parts: tuple[str, str]) -> VersionDraft:
    return VersionDraft.model_validate(
        {"shape": shape, "parts": [{"name": f"p{i}", "mass": m, "position": p} for i, (m, p) in enumerate(parts)]}
    )


def test_it_balances_where_the_moments_are_equal() -> None:
    found = side_view(drawn(None, ("12 g", "30 mm"), ("20 g", "10 cm")))
    assert found is not None
    assert found.balance == pytest.approx((12 * 30 + 20 * 100) / 32)
    assert found.mass == pytest.approx(32)
    assert (found.pressure, found.margin) == (None, None)
    # a law: the parts' moments about the balance point add up to nothing
    assert sum(p.mass * (p.position - (found.balance or 0)) for p in found.parts) == pytest.approx(0, abs=1e-9)


def test_the_centre_of_pressure_is_barrowmans() -> None:
    """The values of the calculator rocket-stability (Barrowman 1966; both centres worked out by hand in formulas.md)."""
    found = side_view(drawn(SHAPE, ("30 g", "200 mm")))
    assert found is not None
    assert found.pressure == pytest.approx(263.52, abs=0.01)
    assert found.margin == pytest.approx((263.52 - 200) / 24, abs=0.001)
    assert found.outline is not None
    assert found.outline.fin_position == 260
    assert found.length == 320


@pytest.mark.parametrize(
    ("at", "words"),
    [("230 mm", "in the usual range"), ("255 mm", "it may wobble"), ("280 mm", "would turn over"), ("100 mm", "more than usual")],
)
def test_the_margin_is_said_in_words(at: str, words: str) -> None:
    found = side_view(drawn(SHAPE, ("30 g", at)))
    assert found is not None
    assert words in found.says[-1]


def test_what_cannot_be_worked_out_says_why_and_the_rest_stands() -> None:
    assert side_view(VersionDraft()) is None
    found = side_view(drawn({**SHAPE, "root": "long"}, ("30 g", "200 mm"), ("heavy", "10 mm")))
    assert found is not None
    assert found.balance == pytest.approx(200)
    assert found.pressure is None
    assert any("p1: " in s for s in found.says)
    assert any(s.startswith("Root: ") for s in found.says)
    missing = side_view(drawn({**SHAPE, "sweep": ""}))
    assert missing is not None
    assert missing.says == ("Write every measure of the nose and the fins to see where the air pushes.",)
