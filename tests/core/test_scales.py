"""The scales in their one table: each is there, and what it says of itself hangs together."""

from __future__ import annotations

from typing import get_args

import pytest

from bendro.core.draft import MeasureDraft, Scale, Zone
from bendro.core.measuring.scales import same_quantity, scale_named, scale_of, understand
from bendro.core.measuring.taking import Taken, Told

OF = {
    "quantity": MeasureDraft(id="m1", name="distance", unit="m"),
    "count": MeasureDraft(id="m1", name="turns", scale="count", quantity="count", unit="count"),
    "outcome": MeasureDraft(id="m1", name="shell", scale="outcome", words=["whole", "cracked"], survived=1),
    "zone": MeasureDraft(id="m1", name="landing", scale="zone", zones=[Zone(start="1", end="2", points=-5), Zone(start="2", end="3", points=10)]),
    "order": MeasureDraft(id="m1", name="place", scale="order"),
    "behaviour": MeasureDraft(id="m1", name="how it flew", scale="behaviour"),
}


@pytest.mark.parametrize("name", get_args(Scale))
def test_a_scale_is_known_by_its_name_and_reads_what_is_written(name: Scale) -> None:
    rules, m = scale_named(name), OF[name]
    assert rules.name == name == m.scale
    assert scale_of(m) is rules
    written = {"outcome": "Cracked", "behaviour": "spun  twice", "order": "2="}.get(name, "2")
    got = understand(m, [written])
    assert isinstance(got, Told) if rules.worded else isinstance(got, Taken)
    assert understand(m, ["", " "]) is None
    assert (rules.number, rules.worded) != (True, True)
    assert (rules.unit(m) != "") == rules.number
    assert same_quantity("kg", m) != rules.number  # what has no unit minds none


def test_what_is_judged_is_said_by_the_scale() -> None:
    said = {name: (r.quantity(m), r.result_unit(m), r.result_name(m), r.limits(m)) for name, m in OF.items() if (r := scale_of(m))}
    assert said == {
        "quantity": ("length", "m", "distance", (0.0, None)),
        "count": ("count", "", "turns", (0.0, None)),
        "outcome": ("", "", "shell", (None, None)),
        "zone": ("count", "points", "score for landing", (-5.0, 10.0)),
        "order": ("", "", "place", (1.0, None)),
        "behaviour": ("", "", "how it flew", (None, None)),
    }
    signed = OF["quantity"].model_copy(update={"signed": True})
    assert scale_of(signed).limits(signed) == (None, None)


def test_what_a_scale_needs_of_the_plan() -> None:
    needs = {name: [p.code for p in scale_named(name).problems(MeasureDraft(name="x", scale=name), "measures.0")] for name in get_args(Scale)}
    assert needs == {"quantity": [], "count": [], "outcome": ["outcome_words"], "zone": ["zones_missing"], "order": [], "behaviour": []}
