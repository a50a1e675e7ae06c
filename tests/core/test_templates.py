"""Pieces at true size: each by two witnesses, a formula of the trade and a geometry library; sheets on which nothing is cut off or overlaps."""

from __future__ import annotations

import io
import math
from collections.abc import Iterator
from dataclasses import replace
from itertools import combinations

import pytest
import svgelements
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, Polygon, box

from bendro.core.draft import Draft, Held, MaterialsDraft, SizeDraft, TemplatesDraft, VariableDraft
from bendro.core.errors import PlanRefused
from bendro.core.families import families
from bendro.core.planning.usual import usual_plan
from bendro.core.record.study import VersionTold
from bendro.core.templates import flying, rockets, standing
from bendro.core.templates.as_cut import Asked, asked_of, not_as_called
from bendro.core.templates.device import PIECES, devices
from bendro.core.templates.figures import FIGURES
from bendro.core.templates.lane import lane_pieces
from bendro.core.templates.made import Templates, templates
from bendro.core.templates.piece import Piece, area_of, sector
from bendro.core.templates.sheets import CORNER, PAPERS, PaperName, corrected, laid
from bendro.core.templates.sizes import Sizes
from bendro.core.words import said
from bendro.files.template_svg import template_svg

CM = 10.0


def sizes(device: str, varied: str = "", marked: dict[str, list[str]] | None = None, **own: str) -> Sizes:
    """The usual sizes of a device with some of one's own; underscores stand for spaces."""
    d = devices()[device]
    written = {said(z.name): z.usual for z in d.sizes if z.usual} | {said(k.replace("_", " ")): v for k, v in own.items()}
    return Sizes(defs={z.name: z for z in d.sizes}, written=written, varied=varied, marked=marked or {})


def one(device: str, kind: str, **own: str) -> Piece:
    return next(p for p in PIECES[device](sizes(device, **own)) if p.kind == kind)


def outline_area(piece: Piece) -> float:
    """By the geometry library, of the first closed cut; it must be a simple outline."""
    polygon = Polygon(piece.outline())
    assert polygon.is_valid
    return float(polygon.area)


# --- areas and lengths, by formula (common practice) and by the polygon ---------------------------------------------------------------


@pytest.mark.parametrize("area", [600.0, 1200.0, 2400.0, 50.0, 20_000.0])
@pytest.mark.parametrize("kind", rockets.OUTLINES)
def test_a_fin_has_the_area_that_it_is_called(kind: str, area: float) -> None:
    corners, root, _ = rockets.fin_outline(kind, area)
    assert Polygon(corners).area == pytest.approx(area, rel=5e-4)
    assert area_of(corners) == pytest.approx(Polygon(corners).area, rel=1e-12)
    on_the_body = [p for p in corners if abs(p[1]) < 1e-9]
    assert max(p[0] for p in on_the_body) - min(p[0] for p in on_the_body) == pytest.approx(root)


@pytest.mark.parametrize("kind", ["square", "triangle", "tall"])
def test_a_sail_and_a_blade_have_the_area_that_they_are_called(kind: str) -> None:
    for area in (10_000.0, 20_000.0, 30_000.0):
        assert Polygon(standing.sail_outline(kind, area)).area == pytest.approx(area)
        assert Polygon(standing.blade_outline(area)).area == pytest.approx(area)
    tall = Polygon(standing.sail_outline("tall", 10_000.0)).bounds
    assert (tall[3] - tall[1]) / (tall[2] - tall[0]) == pytest.approx(2.5)


@pytest.mark.parametrize(("across", "high"), [(22.6, 40.0), (90.0, 20.0), (30.0, 120.0), (90.0, 60.0)])
def test_a_cone_rolls_from_its_sector(across: float, high: float) -> None:
    """The sector's area is the cone's lateral area π·r·s, and its arc goes once round the base (common practice)."""
    r = across / 2
    slant, angle = sector(r, high)
    assert math.radians(angle) * slant == pytest.approx(math.pi * across)
    assert math.radians(angle) * slant**2 / 2 == pytest.approx(math.pi * r * slant)
    # a witness of its own: the sector as a polygon of the library
    turns = [math.radians(angle) * i / 4000 for i in range(4001)]
    drawn = Polygon([(0, 0), *((slant * math.cos(t), slant * math.sin(t)) for t in turns)])
    assert drawn.area == pytest.approx(math.pi * r * slant, rel=1e-4)


def test_the_nose_cone_as_drawn_is_its_sector_with_a_flap() -> None:
    piece = one("paper-rocket", "nose cone", launch_pipe="2.2 cm", nose_height="4 cm")
    slant, _ = sector(11.3, 40)
    flap = min(6.0, slant / 4)
    assert outline_area(piece) == pytest.approx(math.pi * 11.3 * slant + flap * (slant - flap), rel=1e-3)


def test_the_body_goes_once_round_the_pipe_and_overlaps() -> None:
    piece = one("paper-rocket", "body", launch_pipe="2.2 cm", overlap="1 cm", body_length="20 cm")
    assert (piece.width, piece.height) == pytest.approx((math.pi * 22.6 + 10, 200), abs=1e-3)
    seam = next(line for line in piece.lines if line.kind == "mark")
    assert seam.points[0][0] == pytest.approx(math.pi * 22.6, abs=1e-3)
    own = one("paper-rocket", "body", launch_pipe="2.2 cm", body_diameter="2.5 cm")
    assert own.width == pytest.approx(math.pi * 25 + 10, abs=1e-3)


def test_fins_stand_at_equal_steps_round_the_body() -> None:
    for fins in (3, 4, 6):
        piece = one("paper-rocket", "body", fin_number=str(fins))
        places = sorted(line.points[0][0] for line in piece.lines if line.kind == "mark" and line.points[0][0] == line.points[1][0])[:fins]
        assert [b - a for a, b in zip(places, places[1:], strict=False)] == pytest.approx([math.pi * 22.6 / fins] * (fins - 1), abs=1e-3)


def test_notched_pairs_hold_two_fins_and_the_tube_between() -> None:
    for way in ("from the front", "from the tail"):
        piece = one("paper-rocket", f"pair of fins, notched {way}", fin_number="4", fin_fixing="notched pairs", fin_area="12 cm²", fin_shape="square")
        root = math.sqrt(1200)
        assert outline_area(piece) == pytest.approx(2 * 1200 + 22.6 * root - rockets.CARD * root / 2, rel=1e-6)


def test_a_hoop_strip_makes_its_ring_and_a_zigzag_its_depth() -> None:
    piece = one("hoops", "small hoop", hoop_diameter="5 cm", overlap="1.5 cm")
    assert piece.width == pytest.approx(math.pi * 50 + 15, abs=1e-3)
    wing = one("ring-wing", "ring wing", hoop_diameter="7 cm", overlap="2 cm", number_of_folds="4", fold_width="1 cm")
    assert wing.width == pytest.approx(math.pi * 70 + 20, abs=1e-3)
    assert [line.points[0][1] for line in wing.lines if line.kind == "up"] == pytest.approx([10, 20, 30, 40])
    zig = one("pod", "zigzag cushion", cushion_depth="2 cm")
    folds = sorted(line.points[0][0] for line in zig.lines if line.kind in ("up", "down"))
    assert {round(b - a, 3) for a, b in zip(folds, folds[1:], strict=False)} == {round(20 / math.sin(math.radians(60)), 3)}
    ways = [line.kind for line in sorted((li for li in zig.lines if li.kind in ("up", "down")), key=lambda li: li.points[0][0])]
    assert ways == ["up", "down"] * 3 + ["up"]


def test_a_rotor_has_two_blades_a_body_and_a_tail() -> None:
    piece = one("rotor", "rotor", blade_length="8 cm", blade_width="2.5 cm", tail_length="6 cm", tail_width="1.7 cm", body_height="1.5 cm")
    assert outline_area(piece) == pytest.approx(2 * 80 * 25 + 50 * 15 + 17 * 60)
    assert outline_area(one("rotor", "rotor", tip_cut="1 cm")) == pytest.approx(outline_area(piece) - 2 * 10 * 10 / 2)
    folds = {line.kind: abs(line.points[1][0] - line.points[0][0]) for line in piece.lines if line.kind in ("up", "down") and abs(line.points[0][1] - 80) < 1e-6}
    assert folds == {"up": pytest.approx(25), "down": pytest.approx(25)}
    wing = one("seed", "seed", blade_length="9 cm", blade_width="3 cm", tip_cut="2 cm", heavy_end="3 cm")
    assert outline_area(wing) == pytest.approx(120 * 30 - 20 * 20 / 2)


@pytest.mark.parametrize(("shape", "lines"), [("square", 4), ("square", 8), ("circle", 6), ("circle", 12), ("hexagon", 6)])
def test_lines_are_tied_equally_round_the_rim_and_inside_it(shape: str, lines: int) -> None:
    places = flying.hole_places(shape, 300, lines, 10)
    cloth = Polygon(flying.canopy_outline(shape, 300))
    assert len(places) == lines
    assert all(cloth.contains(Point(p)) for p in places)
    # 10 mm in from the sides; of a corner so far from both of its sides
    assert min(cloth.exterior.distance(Point(p)) for p in places) == pytest.approx(10, abs=0.05)
    turns = sorted(math.degrees(math.atan2(-y, x)) % 360 for x, y in places)
    assert [b - a for a, b in zip(turns, turns[1:], strict=False)] == pytest.approx([360 / lines] * (lines - 1))


def test_canopies_of_unlike_shapes_have_the_same_cloth() -> None:
    for shape in ("square", "circle", "hexagon"):
        across = flying.across_for(shape, 90_000)
        assert Polygon(flying.canopy_outline(shape, across)).area == pytest.approx(90_000, rel=5e-4)


def test_a_large_canopy_is_a_quarter_laid_on_two_folds() -> None:
    piece = PIECES["canopy"](sizes("canopy", **{"canopy_side": "30 cm", "spill-hole_width": "4 cm"}))[0]
    folds = [line for line in piece.lines if line.kind == "down"]
    assert sorted(LineString(f.points).length for f in folds) == pytest.approx([150, 150])
    assert sum(1 for line in piece.lines if line.kind == "hole") == 1  # a quarter of four
    whole = PIECES["canopy"](sizes("canopy", canopy_side="16 cm"))[0]
    assert outline_area(whole) == pytest.approx(160 * 160)
    assert sum(1 for line in whole.lines if line.kind == "hole") == 4


def test_large_canopies_of_several_sizes_are_one_pattern_with_a_line_for_each() -> None:
    made = templates(usual_plan("parachute", "canopy-side"))
    assert [(c.piece.kind, c.labels, c.number) for c in made.cutouts] == [("canopy quarter", (), 1)]
    piece = made.cutouts[0].piece
    assert made.shared
    assert sorted(max(x for x, _ in line.points) for line in piece.lines if line.kind == "cut") == pytest.approx([100, 150, 200])
    assert [label for label, _ in piece.levels] == ["20 cm", "30 cm", "40 cm"]
    assert sum(1 for line in piece.lines if line.kind == "hole") == 3
    vents = templates(usual_plan("parachute", "vent")).cutouts[0].piece
    assert [(label, r.mm) for label, r in vents.levels] == [("4 cm", 40), ("8 cm", 80)]
    draft = usual_plan("parachute", "canopy-side")
    asked = asked_of(draft, made, VersionTold(device="A", number=1, properties={"canopy side": "30 cm"}))
    assert asked == Asked(what="canopy side", called="30 cm", unit="cm", level="30 cm")
    assert [c.piece.kind for c in templates(usual_plan("rocket", "canopy")).cutouts if "canopy" in c.piece.kind] == ["canopy quarter"]


def test_twelve_lines_for_three_canopies_with_their_knots() -> None:
    """Three sizes, four lines each: twelve equal lines (common practice)."""
    made = templates(usual_plan("parachute", "canopy-side"))
    assert made.notes == (
        "For each canopy: cut 4 lines of 36 cm, 30 cm between the knots and 3 cm for each of the two knots.",
        "3 canopies take 12 lines, 4.32 m of thread in all.",
    )
    assert pytest.approx(4.32) == 12 * (0.30 + 2 * 0.03)


def test_the_quadrant_is_ruled_in_degrees_and_marks_every_level() -> None:
    piece = rockets.quadrant(sizes("paper-rocket", marked={"launch angle": ["30°", "45°", "60°"]}).settings("launch angle"))
    hole = next(line for line in piece.lines if line.kind == "hole").points[0]
    turns = [
        math.degrees(math.atan2(y - hole[1], x - hole[0]))
        for line in piece.lines
        if line.kind == "mark" and len(line.points) == 2
        for x, y in (line.points[1],)
        if math.dist(line.points[0], line.points[1]) > 20
    ]
    assert sorted(round(90 - t, 3) for t in turns) == [30, 45, 60]
    ticks = sum(1 for line in piece.lines if line.kind == "mark" and len(line.points) == 2) - 3
    assert ticks == 91


def test_one_disc_and_one_arm_are_marked_at_every_level() -> None:
    piece = PIECES["disc"](sizes("disc", "ring radius", {"ring radius": ["2 cm", "3 cm", "4 cm"]}, ring_radius="2 cm"))[0]
    rings = [line for line in piece.lines if line.kind == "mark" and line.closed]
    assert [Polygon(r.points).length / (2 * math.pi) for r in rings] == pytest.approx([20, 30, 40], rel=1e-3)
    assert Polygon(piece.outline()).length / (2 * math.pi) == pytest.approx(52, rel=1e-3)
    arm = next(p for p in PIECES["card-arm"](sizes("card-arm", "pivot position", {"pivot position": ["5 cm", "8 cm", "11 cm"]})) if p.kind == "arm")
    assert [line.points[0][0] for line in arm.lines if line.kind == "hole"] == pytest.approx([50, 80, 110])
    gauge = standing.pitch_gauge(sizes("card-turbine"), sizes("card-turbine", marked={"blade pitch": ["10°", "40°"]}).settings("blade pitch"))
    marks = [line.points for line in gauge.lines if line.kind == "mark"]
    assert [math.degrees(math.atan2(a[1] - b[1], b[0] - a[0])) for a, b in marks] == pytest.approx([10, 40], abs=1e-3)


def test_carts_sleds_gliders_and_pods_are_as_large_as_they_are_called() -> None:
    wheel = one("cart", "wheel", wheel_diameter="4 cm")
    assert wheel.width == pytest.approx(40, abs=0.02)
    assert Polygon(wheel.outline()).area == pytest.approx(math.pi * 400, rel=1e-3)
    chassis = one("cart", "chassis", body_length="16 cm", body_width="7 cm")
    assert (chassis.width, chassis.height) == (160, 70 + 2 * 20)
    assert sorted(line.points[0][1] for line in chassis.lines if line.kind == "up") == [20, 90]
    sled = PIECES["sled"](sizes("sled", body_length="16 cm", body_width="8 cm"))
    assert [outline_area(p) for p in sled] == [pytest.approx((160 + 15) * 80), pytest.approx(160 * 80)]
    wing = one("flat-wing", "wing", wing_span="24 cm", wing_chord="6 cm")
    assert outline_area(wing) == pytest.approx(240 * (60 + 45) / 2)  # two trapeziums, 6 cm in the middle and 4.5 cm at the tips
    assert wing.width == 240
    ring = one("pod", "base ring", outer_size="9 cm")
    rims = [Polygon(line.points).area for line in ring.lines if line.kind == "cut"]
    assert rims == pytest.approx([math.pi * 45**2, math.pi * 35**2], rel=1e-3)
    cone = one("pod", "crumple cone", outer_size="9 cm", crumple_length="4 cm")
    glue = next(line for line in cone.lines if line.kind == "mark")
    slant, angle = sector(45, 40)
    assert outline_area(cone) == pytest.approx(math.pi * slant**2 * (angle + 14) / 360, rel=1e-3)
    assert math.dist(*glue.points) == pytest.approx(slant, abs=1e-3)
    skirt = one("pod", "skirt", outer_size="9 cm", skirt_folds="3")
    assert (skirt.width, skirt.height) == (pytest.approx(math.pi * 90 + 12, abs=1e-3), 25 + 3 * 8)
    assert [line.kind for line in skirt.lines if line.kind in ("up", "down")] == ["up", "down", "up"]


def test_the_launcher_folds_from_two_cards() -> None:
    frame, arm, scale = PIECES["card-arm"](sizes("card-arm", arm_length="20 cm", pivot_position="5 cm"))
    assert (frame.width, frame.height) == (pytest.approx(0.62 * 200 + 40), 50 + 2 * 60)
    assert (arm.width, arm.height) == (50 + 200 + 12, 48)
    cup = next(line for line in arm.lines if line.kind == "mark" and line.closed)
    assert (min(x for x, _ in cup.points) + max(x for x, _ in cup.points)) / 2 == pytest.approx(250)
    holes = sorted(line.points[0] for line in frame.lines if line.kind == "hole")
    assert [y for _, y in holes] == pytest.approx([26, 170 - 26, 12, 170 - 12])  # through both walls alike
    assert scale.width == 85 + 8
    marked = next(p for p in PIECES["card-arm"](sizes("card-arm", marked={"pull-back": ["4 cm", "8 cm"]})) if p.kind == "pull-back scale")
    assert sorted(line.points[0][0] - 4 for line in marked.lines if line.kind == "mark" and line.points[1][1] == 22) == [40, 80]


def test_a_quarter_has_a_quarter_of_the_cloth() -> None:
    for shape in ("square", "circle", "hexagon"):
        across = 300.0
        piece = PIECES["canopy"](sizes("canopy", **{"canopy_side": "30 cm", "canopy_shape": shape}))[0]
        rim = next(line.points for line in piece.lines if line.kind == "cut")
        corner = next(line.points[0] for line in piece.lines if line.kind == "down")
        assert 4 * Polygon([corner, *rim]).area == pytest.approx(Polygon(flying.canopy_outline(shape, across)).area, rel=1e-3), shape


# --- a level differs from its neighbour only in what the variable says ------------------------------------------------------------------

LENGTHS = [("rotor", "blade length", 1.0, 18.0), ("rotor", "blade width", 1.0, 9.0), ("hoops", "hoop diameter", 2.0, 7.0), ("paper-rocket", "body length", 8.0, 40.0), ("cart", "wheel diameter", 2.0, 9.0), ("pod", "crumple length", 1.0, 9.0), ("pod", "cushion depth", 1.0, 9.0)]  # fmt: skip


@settings(max_examples=40, deadline=None)
@given(case=st.sampled_from(LENGTHS), one_=st.integers(0, 10), two=st.integers(0, 10))
def test_the_piece_of_a_level_differs_only_in_what_the_variable_says(case: tuple[str, str, float, float], one_: int, two: int) -> None:
    device, name, low, high = case
    levels = [f"{low + (high - low) * n / 10:.4g} cm" for n in (one_, two)]
    made = [PIECES[device](sizes(device, name, **{name.replace(" ", "_"): text})) for text in levels]
    unlike = {a.kind for a, b in zip(*made, strict=True) if replace(a, ruled=None) != replace(b, ruled=None)}
    only = {"rotor": {"rotor"}, "hoops": {"small hoop"}, "cart": {"wheel"}, "paper-rocket": {"body"}, "pod": {"crumple cone", "zigzag cushion"}}[device]
    assert unlike <= only
    assert bool(unlike) == (levels[0] != levels[1])
    for pieces, text in zip(made, levels, strict=True):
        ruled = [p.ruled for p in pieces if p.ruled is not None]
        assert [r.name for r in ruled] == [name]
        if device in ("rotor", "cart", "paper-rocket"):  # what is measured is the size itself
            assert ruled[0].mm == pytest.approx(float(text.removesuffix(" cm")) * CM, abs=1e-3)
            assert math.dist(ruled[0].begin, ruled[0].end) == pytest.approx(ruled[0].mm, abs=1e-3)


def test_every_piece_of_every_device_is_a_sound_drawing() -> None:
    for d in devices().values():
        for piece in PIECES[d.id](sizes(d.id)):
            for line in piece.lines:
                ends = [line.points[0]] if line.kind == "hole" else line.points
                assert all(-1e-6 <= x <= piece.width + 1e-6 and -1e-6 <= y <= piece.height + 1e-6 for x, y in ends), (d.id, piece.kind)
            if piece.outline():
                assert Polygon(piece.outline()).is_valid, (d.id, piece.kind)
                # folds lie within what is cut out
                cloth = Polygon(piece.outline()).buffer(0.01)
                assert all(cloth.covers(LineString(li.points)) for li in piece.lines if li.kind in ("up", "down")), (d.id, piece.kind)


# --- from a plan ------------------------------------------------------------------------------------------------------------------------


def usual_templates() -> Iterator[tuple[str, Draft, Templates]]:
    for f in families():
        for t in f.tests:
            draft = usual_plan(f.id, t.id)
            assert draft is not None
            yield f"{f.id} {t.id}", draft, templates(draft)


def test_every_usual_test_brings_its_templates() -> None:
    for name, draft, made in usual_templates():
        limited = draft.study_kind == "fair_test" and not draft.variable.levels and bool(made.varied)  # stores energy: its levels are the teacher's
        assert made.device is not None, name
        assert made.device.id == draft.templates.device, name
        assert bool(made.cutouts) != limited, name
        assert [p.code for p in made.problems] == (["levels_missing"] if limited else []), name


def test_where_a_level_differs_every_level_has_all_its_pieces() -> None:
    made = templates(usual_plan("rocket", "fins"))
    by_level = {label: {c.piece.kind: c.number for c in made.cutouts if c.labels == (label,)} for label in ("6 cm²", "12 cm²", "24 cm²")}
    assert set(map(str, by_level.values())) == {str({"body": 1, "nose cone": 1, "fin": 3})}
    bodies = [c.piece for c in made.cutouts if c.piece.kind == "body"]
    assert len({tuple(li for li in b.lines if li.kind in ("cut", "up", "down")) for b in bodies}) == 1  # what is kept the same is cut the same
    assert [c.number for c in made.cutouts if c.piece.kind == "quadrant"] == [1]
    assert made.says.startswith("The fin area differs, everything else is the same: launch pipe 2.2 cm, body length 20 cm")


def test_three_launch_angles_of_one_fin_are_one_rocket() -> None:
    made = templates(usual_plan("rocket", "fins-and-angle"))
    assert [c.labels for c in made.cutouts if c.piece.kind == "body"] == [("6 cm²",), ("12 cm²",)]


def test_a_variable_that_is_not_a_size_has_one_template_for_all() -> None:
    made = templates(usual_plan("rotor", "papers"))
    assert [(c.piece.kind, c.labels) for c in made.cutouts] == [("rotor", ())]
    assert made.says.startswith("The same template for every paper stock: blade length 8 cm")


def test_one_device_with_more_and_more_blades_has_blades_enough_and_a_hub_for_each() -> None:
    made = templates(usual_plan("turbine", "blade-number"))
    assert [(c.piece.kind, c.labels, c.number) for c in made.cutouts] == [("hub", (n,), 1) for n in "2346"] + [("blade", (), 6), ("pitch gauge", (), 1)]


def plan(device: str, family: str, variable: str, levels: list[str], unit: str = "cm", quantity: str = "length", **more: object) -> Draft:
    return Draft(
        question="How does it change?", family=family, variable=VariableDraft(name=variable, quantity=quantity, unit=unit, levels=levels),
        templates=TemplatesDraft(device=device, **({"sizes": more.pop("sizes")} if "sizes" in more else {})), materials=MaterialsDraft(devices_each=0), **more,  # type: ignore[arg-type]
    )  # fmt: skip


def test_sizes_come_from_the_plan_then_what_is_typed_then_the_versions_then_what_is_usual() -> None:
    draft = plan("rotor", "rotor", "blade length", ["6", "8"], sizes=[SizeDraft(name="tail width", value="2 cm")], hold=[Held(name="blade width", value="3 cm")])
    made = templates(draft, {"tail length": "7 cm"})
    assert {s.name: (s.value, s.source) for s in made.sizes} == {
        "blade length": ("6 cm and 8 cm", "level"), "blade width": ("3 cm", "plan"), "tip cut": ("0 cm", "usual"), "body height": ("1.5 cm", "usual"),
        "tail length": ("7 cm", "built"), "tail width": ("2 cm", "typed"),
    }  # fmt: skip
    assert made.cutouts[0].piece.height == pytest.approx(60 + 15 + 70)


@pytest.mark.parametrize(
    ("draft", "code", "words"),
    [
        (plan("paper-rocket", "rocket", "fin area", ["0", "12"], "cm²", "area"), "size_range", "A fin area of 0 cm² leaves nothing to cut"),
        (plan("paper-rocket", "rocket", "fin area", ["12"], "cm²", "area", sizes=[SizeDraft(name="body diameter", value="2 cm")]), "size_pipe", "does not go over a pipe of 2.2 cm"),
        (plan("paper-rocket", "rocket", "fin area", ["12", "900"], "cm²", "area"), "size_range", "A fin area of 900 cm² cannot be cut. Choose 0.5 to 200 cm²"),
        (plan("paper-rocket", "rocket", "fin number", ["3", "5"], "count", "count", sizes=[SizeDraft(name="fin fixing", value="notched pairs")]), "size_range", "make 4 fins, not 3"),
        (plan("rotor", "rotor", "blade length", ["6"], sizes=[SizeDraft(name="tail width", value="soft")]), "size_unreadable", "The tail width:"),
        (plan("disc", "spinner", "ring radius", ["0.1", "3"]), "size_range", "A ring radius of 0.1 cm cannot be cut"),
        (plan("ring-wing", "glider", "number of folds", ["2", "14"], "count", "count"), "size_range", "14 folds of 1 cm use up the whole strip"),
        (plan("canopy", "parachute", "spill-hole width", ["4", "29"]), "size_range", "The spill-hole reaches the lines"),
        (plan("rotor", "rotor", "tip cut", ["1", "3"]), "size_range", "leaves no blade"),
        (plan("rotor", "rotor", "blade length", ["6", "x"]), "reading_words", "The plan’s levels"),
    ],
)
def test_what_cannot_be_cut_is_told_and_the_other_levels_stand(draft: Draft, code: str, words: str) -> None:
    made = templates(draft)
    assert made.problems[0].code == code, made.problems
    assert words in made.problems[0].says
    assert bool(made.cutouts) == (len(made.problems) < len(draft.variable.levels) and code not in ("size_unreadable", "reading_words"))


def test_a_size_that_is_missing_is_asked_at_its_field() -> None:
    bare = Sizes(defs=sizes("rotor").defs, written={})
    with pytest.raises(PlanRefused) as why:
        PIECES["rotor"](bare)
    assert (why.value.code, why.value.where) == ("size_missing", "blade length")


def test_inches_with_halves_and_quarters() -> None:
    made = templates(plan("rotor", "rotor", "blade length", ["2 1/2 in", "3¼ in"], "in"))
    assert not made.problems
    assert [c.piece.ruled.mm for c in made.cutouts if c.piece.ruled] == pytest.approx([2.5 * 25.4, 3.25 * 25.4])


def test_twelve_levels_and_a_family_without_devices() -> None:
    made = templates(plan("rotor", "rotor", "blade length", [str(n) for n in range(3, 15)]))
    assert len(made.cutouts) == 12
    assert [p.code for p in templates(Draft()).problems] == ["family_unknown"]


def test_a_label_that_does_not_fit_stands_beside_its_piece() -> None:
    small = templates(plan("paper-rocket", "rocket", "fin area", ["1", "12"], "cm²", "area", groups=["Bittern"]))
    tags = {c.labels[0]: c.tag for c in small.cutouts if c.piece.kind == "fin"}
    assert tags["1 cm²"].beside
    assert not tags["12 cm²"].beside
    tiny = next(c for c in small.cutouts if c.piece.kind == "fin" and c.labels == ("1 cm²",))
    assert tiny.tag.y <= tiny.piece.height
    assert tiny.piece.width >= len("1 cm² · Bittern") * tiny.tag.level * 0.5


# --- on sheets ----------------------------------------------------------------------------------------------------------------------------


def sheets_are_sound(pieces: list[tuple[str, float, float]], paper: PaperName, margin: float, line: float = 100, *, quick: bool = False) -> int:
    """Every piece once (or its tiles), inside the sheet, clear of the others and of the square; a kind always the same way round."""
    made = laid(pieces, paper, margin, corrected(line, 50), quick=quick)
    wide, high = made.inner
    ways: dict[str, set[bool]] = {}
    seen: dict[int, float] = {}
    for sheet in made.sheets:
        taken = [box(wide - CORNER[0] + 4, high - CORNER[1] + 4, wide, high)]
        for p in sheet:
            kind, w, h = pieces[p.n]
            a, b = (p.tile.width, p.tile.height) if p.tile else (h, w) if p.turned else (w, h)
            lies = box(p.x, p.y, p.x + a, p.y + b)
            assert lies.bounds[2] <= wide + 1e-6, (kind, paper)
            assert lies.bounds[3] <= high + 1e-6, (kind, paper)
            taken.append(lies)
            if p.tile is None:
                ways.setdefault(kind, set()).add(p.turned)
            seen[p.n] = seen.get(p.n, 0.0) + (a * b if p.tile else w * h)
        assert all(one_.intersection(two).area < 1e-6 for one_, two in combinations(taken, 2))
    assert set(seen) == set(range(len(pieces)))
    assert all(seen[n] >= w * h - 1e-3 for n, (_, w, h) in enumerate(pieces))
    assert all(len(turned) == 1 for turned in ways.values()), "of one kind the grain lies one way"
    return len(made.sheets)


@pytest.mark.parametrize("paper", list(PAPERS))
def test_no_piece_of_a_usual_test_overlaps_or_leaves_its_sheet(paper: PaperName) -> None:
    for name, draft, made in usual_templates():
        pieces = [(c.piece.kind, c.piece.width, c.piece.height) for c in made.cutouts for _ in range(c.number)]
        if pieces:
            assert sheets_are_sound(pieces, paper, 10, quick=paper not in ("a4", "letter")) >= 1, name  # the solver's own laying on two of them
        lane = [(p.kind, p.width, p.height) for p in lane_pieces(draft)]
        if lane:
            sheets_are_sound(lane, paper, 15)


@settings(max_examples=12, deadline=None)
@given(
    st.lists(st.tuples(st.sampled_from("abc"), st.floats(8, 420), st.floats(8, 420)), min_size=1, max_size=9),
    st.sampled_from(list(PAPERS)), st.sampled_from([5.0, 10.0, 20.0]), st.sampled_from([97.0, 100.0, 104.0]),
)  # fmt: skip
def test_any_pieces_are_laid_soundly(pieces: list[tuple[str, float, float]], paper: PaperName, margin: float, line: float) -> None:
    of_a_kind = {k: (w, h) for k, w, h in pieces}  # the pieces of a kind are alike
    sheets_are_sound([(k, *of_a_kind[k]) for k, _, _ in pieces], paper, margin, line)


def test_the_solver_finds_a_sheet_less_than_the_first_fit() -> None:
    draft = usual_plan("rocket", "body-length")
    pieces = [(c.piece.kind, c.piece.width, c.piece.height) for c in templates(draft).cutouts for _ in range(c.number)]
    assert len(laid(pieces, "a4", 10).sheets) <= len(laid(pieces, "a4", 10, quick=True).sheets)


def test_tiles_overlap_by_a_strip_and_name_their_neighbours() -> None:
    made = laid([("skirt", 300.0, 40.0)], "a4", 10)
    one_, two = (p.tile for sheet in made.sheets for p in sheet)
    assert one_ is not None
    assert two is not None
    assert one_.x + one_.width - two.x == pytest.approx(10)
    assert two.x + two.width == pytest.approx(300)
    assert (one_.joins, two.joins) == ((("right", "B1"),), (("left", "A1"),))


def test_what_the_ruler_reads_stretches_the_next_print() -> None:
    by = corrected(97, 49)
    assert (97 * by.across, 49 * by.down) == pytest.approx((100, 50))
    for line, square in ((50, 50), (100, 5), (0, 50), (1000, 50)):
        with pytest.raises(PlanRefused) as why:
            corrected(line, square)
        assert why.value.code == "ruler_strange"
    with pytest.raises(PlanRefused):
        laid([("a", 10, 10)], "a4", 0)
    with pytest.raises(PlanRefused):
        laid([("a", 10, 10)] * 401, "a4", 10)


def test_sheets_have_the_sizes_of_their_standards() -> None:
    """ISO 216:2007 (A4, A3); ANSI/ASME Y14.1 sizes A and B, 8.5 × 11 and 11 × 17 in; legal 8.5 × 14 in."""
    assert PAPERS["a4"] == (210, 297)
    assert PAPERS["a3"] == (297, 420)
    assert PAPERS["letter"] == pytest.approx((8.5 * 25.4, 11 * 25.4))
    assert PAPERS["tabloid"] == pytest.approx((11 * 25.4, 17 * 25.4))
    assert PAPERS["legal"] == pytest.approx((8.5 * 25.4, 14 * 25.4))


# --- SVG, read by another library -------------------------------------------------------------------------------------------------------------


def test_the_svg_is_in_millimetres_and_on_layers() -> None:
    """Read by svgelements at 25.4 units an inch, so that a unit is a millimetre."""
    made = templates(usual_plan("rotor", "blade-length"))
    text = template_svg(made.cutouts, "Curlew")
    drawing = svgelements.SVG.parse(io.StringIO(text), ppi=25.4)
    layers = {g.id: g for g in drawing.select(lambda e: isinstance(e, svgelements.Group) and e.id)}
    assert list(layers) == ["cut", "fold", "mark", "words"]
    cut = list(layers["cut"].select(lambda e: isinstance(e, svgelements.Path)))
    heights = sorted({round(p.bbox()[3] - p.bbox()[1], 2) for p in cut if p.bbox()[2] - p.bbox()[0] > 20})
    assert heights == [blade * 10 + 15 + 60 for blade in (4, 6, 8, 10)]
    fold = list(layers["fold"].select(lambda e: isinstance(e, svgelements.Path)))
    assert len(fold) == 4 * 3
    assert text.count(">Curlew<") == 0
    assert text.count("· Curlew<") == 4
    assert "<text" in text
    assert drawing.width == pytest.approx(max(p.bbox()[2] for p in cut), abs=15)


def test_each_piece_alone_is_as_large_as_it_is_drawn() -> None:
    for _, _, made in usual_templates():
        for c in made.cutouts[:2]:
            drawing = svgelements.SVG.parse(io.StringIO(template_svg([replace(c, number=1)], "")), ppi=25.4)
            assert (drawing.width, drawing.height) == pytest.approx((c.piece.width, c.piece.height), abs=0.01)


# --- the lane, and how it is built -----------------------------------------------------------------------------------------------------------------


def test_the_lane_has_its_signs_labels_zones_knots_and_targets() -> None:
    def kinds(family: str, test: str) -> dict[str, int]:
        found: dict[str, int] = {}
        for p in lane_pieces(usual_plan(family, test)):
            found[p.kind] = found.get(p.kind, 0) + 1
        return found

    assert kinds("launcher", "pull-back") == {"start sign": 1, "floor label": 10}
    assert kinds("launcher", "pivot-targets")["target to roll"] == 5
    assert kinds("vehicle", "puck-zones").get("zone card", 0) == len(usual_plan("vehicle", "puck-zones").measures[0].zones)
    assert kinds("rotor", "papers") == {"drop sign": 1}
    draft = usual_plan("protector", "ladder")
    draft = draft.model_copy(update={"drop": draft.drop.model_copy(update={"heights": ["1.0", "1.6", "2.4"], "unit": "m"})})
    string = next(p for p in lane_pieces(draft) if p.kind == "height string")
    assert [n.text for n in string.notes][2:] == ["1", "1 from the floor", "1.6", "0.6 above the last", "2.4", "0.8 above the last"]
    lanes = usual_plan("glider", "nose-clay").model_copy(update={"timing": usual_plan("glider", "nose-clay").timing.model_copy(update={"lanes": 3})})
    assert [n.text for p in lane_pieces(lanes) if p.kind == "lane number" for n in p.notes if n.tall > 8] == ["1", "2", "3"]


def test_each_family_has_a_build_sheet_at_three_reading_levels() -> None:
    assert {d.family for d in devices().values()} == {f.id for f in families()}
    for d in devices().values():
        assert 6 <= len(d.steps) <= 10
        for step in d.steps:
            texts = [step.says.at(level) for level in ("first", "middle", "senior")]
            assert len(set(texts)) >= 2, (d.id, texts)
            assert all(t.endswith((".", "?")) and t[0].isupper() for t in texts), (d.id, texts)
            assert len(texts[0].split()) / max(1, texts[0].count(".") + texts[0].count("?")) <= 14, (d.id, texts[0])
        assert all(t.device in devices() and devices()[t.device].family == f.id for f in families() for t in f.tests)
    assert set(FIGURES) == {name for d in devices().values() for s in d.slips for name in (s.right, s.wrong)}


def test_right_and_wrong_are_unlike_drawings() -> None:
    for d in devices().values():
        for slip in d.slips:
            right, wrong = FIGURES[slip.right](), FIGURES[slip.wrong]()
            assert right.strokes != wrong.strokes, slip
            assert right.says.startswith("Right: ")
            assert wrong.says.startswith("Wrong: ")


# --- what was really cut ---------------------------------------------------------------------------------------------------------------------------


def told(level: str, measured: str, what: str = "blade length", **more: object) -> VersionTold:
    return VersionTold(device="Curlew", number=1, properties={"blade length": level}, measured={what: measured} if measured else {}, **more)  # type: ignore[arg-type]


def test_a_version_is_asked_for_what_was_varied_in_it() -> None:
    draft = plan("rotor", "rotor", "blade length", ["6", "8", "10"])
    assert asked_of(draft, templates(draft), told("8 cm", "")) == Asked(what="blade length", called="8 cm", unit="cm", level="8 cm")
    fins = plan("paper-rocket", "rocket", "fin area", ["6", "12"], "cm²", "area")
    asked = asked_of(fins, templates(fins), VersionTold(device="A", number=1, properties={"fin area": "12 cm²"}))
    assert asked is not None
    assert (asked.what, asked.called) == ("root edge of the fin", f"{1.5 * math.sqrt(12 / 1.125):.3g} cm")
    feet = plan("rotor", "rotor", "blade length", ["2 1/2 in", "3 in"], "in")
    assert asked_of(feet, templates(feet), told("2.5 in", "")) == Asked(what="blade length", called="2.5 in", unit="in", level="2.5 in")
    assert asked_of(draft, templates(draft), told("9 cm", "")) is None  # no level of the plan
    assert asked_of(usual_plan("rotor", "papers"), templates(usual_plan("rotor", "papers")), told("8 cm", "")) is None


@pytest.mark.parametrize(
    ("level", "measured", "says", "share"),
    [
        ("8 cm", "7.9", None, None),  # a ruler's millimetre
        ("8 cm", "8.15 cm", None, None),  # less than a tenth of the way to the next
        ("8 cm", "7.6", "8 cm was cut as 7.6 cm (Curlew 1)", 0.2),
        ("8 cm", "92 mm", "8 cm was cut as 9.2 cm (Curlew 1)", 0.6),
        ("8 cm", "soft", None, None),  # said where it is written
        ("8 cm", "", None, None),
    ],
)
def test_a_level_that_was_cut_otherwise_is_told(level: str, measured: str, says: str | None, share: float | None) -> None:
    draft = plan("rotor", "rotor", "blade length", ["6", "8", "10"])
    found = not_as_called(draft, [told(level, measured)])
    assert [(f.says, f.share) for f in found] == ([] if says is None else [(says, pytest.approx(share))])
    assert not_as_called(draft, [told(level, measured, failed=True)]) == ()


def test_of_an_area_the_edge_is_measured_and_the_area_is_told() -> None:
    draft = plan("paper-rocket", "rocket", "fin area", ["6", "12"], "cm²", "area")
    root = 1.5 * math.sqrt(12 / 1.125)
    version = VersionTold(device="Egret", number=2, properties={"fin area": "12 cm²"}, measured={"root edge of the fin": f"{root * 0.9:.3f} cm"})
    assert [f.says for f in not_as_called(draft, [version])] == ["12 cm² was cut as 9.72 cm² (Egret 2)"]
