"""The plain drawing of a version grows from its properties, to scale where a size is written. Areas and lengths are held against their
formulas by a second witness: the outline that is drawn, measured as a polygon."""

from __future__ import annotations

import re
from math import dist, hypot, isfinite

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bendro.core.building.drawing import Drawing
from bendro.core.building.faces import drawing_of, drawn
from bendro.core.building.version import Property, RocketShape, VersionDraft
from bendro.core.draft import Draft, VariableDraft
from bendro.core.families import families

FAMILIES = [f.id for f in families()]
Point = tuple[float, float]


def of(family: str, shape: RocketShape | None = None, **values: str) -> Drawing:
    draft = VersionDraft(properties=[Property(name=k.replace("_", " "), value=v) for k, v in values.items()], shape=shape)
    found = drawing_of(family, draft, {"spill hole width": "cm"})
    assert found is not None
    return found


def points(d: str) -> list[Point]:
    return [(float(x), float(y)) for x, y in re.findall(r"(-?[\d.]+) (-?[\d.]+)", d)]


def area(outline: list[Point]) -> float:
    """Of a polygon (the shoelace formula)."""
    pairs = zip(outline, [*outline[1:], outline[0]], strict=True)
    return abs(sum(a[0] * b[1] - b[0] * a[1] for a, b in pairs)) / 2


def length(line: list[Point]) -> float:
    return sum(dist(a, b) for a, b in zip(line, line[1:], strict=False))


def circles(drawing: Drawing) -> list[tuple[float, float, float]]:
    found = []
    for s in drawing.strokes:
        if m := re.match(r"M(-?[\d.]+) (-?[\d.]+)a([\d.]+) ", s.d):
            r = float(m[3])
            found.append((float(m[1]) + r, float(m[2]), r))
    return found


def test_every_family_has_a_face_and_no_family_none() -> None:
    for family in FAMILIES:
        plain = of(family)
        assert plain.strokes
        assert plain.says
        assert not plain.to_scale
    assert drawing_of("", VersionDraft(), {}) is None
    assert drawn(Draft(), VersionDraft()) is None


@pytest.mark.parametrize("family", FAMILIES)
def test_whatever_is_built_differently_is_seen_or_pinned(family: str) -> None:
    """Every variable of the family that is a thing of the device changes its drawing or is pinned to it."""
    elsewhere = {
        "gauge pressure",
        "launch angle",
        "band stretch",
        "ramp height",
        "push speed",
        "fan setting",
        "fan distance",
        "drop height",
        "landing surface",
    }
    (kind,) = [f for f in families() if f.id == family]
    for v in kind.variables:
        if v.name in elsewhere:
            continue
        made = []
        for value in (str(v.typical[0]), str(v.typical[-1])):
            found = drawing_of(family, VersionDraft(properties=[Property(name=v.name, value=value)]), {v.name: v.unit})
            assert found is not None
            made.append(found)
        assert made[0].strokes != made[1].strokes or any(p.name == v.name for p in made[0].pins), v.name


def test_a_rotor_is_as_long_as_its_blades_body_and_tail_and_as_wide_as_two_blades() -> None:
    d = of("rotor", blade_length="9 cm", blade_width="3 cm", tail_length="7 cm", tail_mass="0 g")
    assert d.to_scale
    assert (d.unit, d.unit_mm) == ("cm", 10)
    assert d.width == pytest.approx(60)
    assert d.height == pytest.approx(90 + 20 + 70)
    assert len([p for p in of("rotor", tail_mass="1 g").strokes if p.kind == "dark"]) == 1
    cut = of("rotor", blade_length="9 cm", blade_width="3 cm", tip_cut="1 cm")
    assert area(points(cut.strokes[0].d)) == pytest.approx(90 * 30 - 10 * 10 / 2, rel=1e-3)


def test_sizes_in_inches_have_a_tape_in_inches() -> None:
    d = of("rotor", blade_length="3 in", blade_width="1.25 in", tail_length="2 in")
    assert (d.unit, d.unit_mm) == ("in", 25.4)
    assert d.width == pytest.approx(2 * 1.25 * 25.4, abs=0.1)


def test_a_canopys_cloth_is_as_wide_as_its_side_and_its_lines_are_as_long_as_written() -> None:
    d = of("parachute", canopy_side="30 cm", line_length="40 cm", number_of_lines="8")
    dome = points(d.strokes[0].d)
    assert length(dome) == pytest.approx(300, rel=2e-3)
    lines = [points(s.d) for s in d.strokes if s.kind == "thin"]
    assert len(lines) == 8
    outer = max(length(line) for line in lines)
    assert outer == pytest.approx(400, rel=0.02)
    holed = of("parachute", canopy_side="30 cm", **{"spill-hole width": "6 cm"})
    halves = [points(s.d) for s in holed.strokes[:2]]
    assert sum(map(length, halves)) == pytest.approx(300 - 60, rel=3e-3)


@pytest.mark.parametrize("kind", ["square", "triangle", "swept"])
def test_a_fin_has_the_area_that_is_written_whatever_its_shape(kind: str) -> None:
    d = of("rocket", fin_area="12 cm²", fin_shape=kind, fin_number="4")
    largest = max(area(points(s.d)) for s in d.strokes if s.kind == "edge" and s.d.count("L") == 3)
    assert largest == pytest.approx(1200, rel=5e-3)


def test_as_many_fins_are_drawn_as_there_are() -> None:
    for n in (3, 4, 6):
        d = of("rocket", fin_number=str(n))
        assert len([s for s in d.strokes if s.d.endswith("z") and s.d.count("L") == 3]) == n
        assert f"{n} fins" in d.says


def test_a_rocket_whose_measures_are_written_is_drawn_by_them() -> None:
    shape = RocketShape(nose_length="50 mm", body_diameter="32 mm", body_length="220 mm", fins="4", root="45 mm", tip="25 mm", span="38 mm", sweep="20 mm", fin_position="172 mm")  # fmt: skip
    d = of("rocket", shape=shape)
    assert d.to_scale
    assert d.width == pytest.approx(max(220, 172 + 45))
    assert d.height == pytest.approx(32 + 2 * 38)
    assert of("rocket", shape=shape.model_copy(update={"span": "wide"})).height != d.height  # what cannot be read is drawn as is usual


def test_a_sail_has_its_area_and_the_wheels_their_diameter() -> None:
    for kind in ("square", "tall", "triangle"):
        d = of("vehicle", sail_area="200 cm²", sail_shape=kind, wheel_diameter="5 cm")
        sails = [area(points(s.d)) for s in d.strokes if s.kind == "edge" and s.d.endswith("z") and s.d.count("L") in (2, 3)]
        assert any(a == pytest.approx(20_000, rel=1e-3) for a in sails), kind
        assert sorted(r for _, _, r in circles(d))[-1] == pytest.approx(25)


def test_added_mass_lies_on_its_ring() -> None:
    d = of("spinner", ring_radius="4 cm", added_mass="12 g")
    dark = [c for c, s in zip(circles(d), d.strokes, strict=True) if s.kind == "dark"]
    assert len(dark) == 4
    middle = d.width / 2, d.height / 2
    assert all(hypot(x - middle[0], y - middle[1]) == pytest.approx(40, abs=0.2) for x, y, _ in dark)
    assert len([s for s in of("spinner", number_of_arms="3", added_mass="9 g").strokes if s.kind == "dark"]) == 3


def test_blades_have_their_number_and_turn_their_edge_with_the_pitch() -> None:
    flat, steep = (of("turbine", blade_number="4", blade_area="40 cm²", blade_pitch=p) for p in ("0°", "60°"))
    blades = [[area(points(s.d)) for s in d.strokes if s.kind == "edge" and s.d.count("L") == 5] for d in (flat, steep)]
    assert [len(b) for b in blades] == [4, 4]
    # seen from the front a pitched blade's width is its cosine (the taper at the root keeps a little of its own)
    assert blades[1][0] / blades[0][0] == pytest.approx(0.5, abs=0.08)


def test_a_pod_stands_on_as_many_folds_as_its_skirt_has() -> None:
    heights = {n: of("protector", outer_size="9 cm", skirt_folds=str(n)) for n in (0, 1, 3)}
    assert [len(d.strokes) - len(heights[0].strokes) for d in heights.values()] == [0, 2, 6]
    assert heights[0].width == pytest.approx(90)
    assert of("protector", cushion="none").strokes != of("protector", cushion="wool").strokes
    tall = of("protector", outer_size="9 cm", crumple_length="4 cm")
    assert tall.height - heights[0].height == pytest.approx(40, abs=0.2)


def test_a_bare_number_has_the_unit_of_the_plan() -> None:
    plan = Draft(family="parachute", variable=VariableDraft(name="spill-hole width", unit="in", quantity="length", levels=["2"]))
    bare, said = (drawn(plan, VersionDraft(properties=[Property(name="Spill-hole width", value=v)])) for v in ("2", "2 in"))
    assert bare is not None
    assert bare == said
    assert bare.unit == "in"


def test_a_pin_lies_on_the_drawing() -> None:
    d = of("launcher", arm_length="30 cm", release_angle="45°", pivot_position="8 cm", counterweight="1.5 kg")
    assert {p.name for p in d.pins} == {"arm length", "release angle", "pivot position", "counterweight"}
    assert all(-1 <= p.x <= d.width + 1 and -1 <= p.y <= d.height + 1 for p in d.pins)


names = st.sampled_from(
    sorted({v.name for f in families() for v in f.variables} | {"corners", "outer size", "number of lines", "tail clip"})
)
values = st.one_of(
    st.text(st.characters(exclude_categories=("Cc", "Cs")), max_size=12),
    st.builds(
        lambda n, u: f"{n:g} {u}",
        st.floats(-1e6, 1e9, allow_nan=False),
        st.sampled_from(["cm", "mm", "in", "g", "kg", "cm²", "°", "", "ml"]),
    ),
)


@given(st.sampled_from(FAMILIES), st.lists(st.tuples(names, values), max_size=6))
def test_whatever_is_typed_gives_a_drawing_of_finite_size(family: str, typed: list[tuple[str, str]]) -> None:
    found = drawing_of(family, VersionDraft(properties=[Property(name=n, value=v) for n, v in typed]), {})
    assert found is not None
    assert 0 < found.width < 30_000
    assert 0 < found.height < 30_000
    assert all(isfinite(x) and isfinite(y) for s in found.strokes for x, y in points(s.d))
    assert not any(word in s.d for s in found.strokes for word in ("nan", "inf", "e+"))
