"""What single lessons need, in the browser: what is missing has its field, a round that is scored at its end, cautions that changed, a lighter
version, a table with holes, and each usual test in ten presses."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import pytest
import yaml
from playwright.sync_api import Locator, Page, expect

from bendro.core.families import families
from tests.conftest import Application, TeacherClient, new_study, texts_of
from tests.ui.conftest import fits_across, go, no_violations, tick_cautions, until
from tests.ui.lessons.runner import Lesson, Run, every

pytestmark = pytest.mark.ui
LESSONS = [Lesson.model_validate(yaml.safe_load(f.read_text(encoding="utf-8"))) for f in every(Path(__file__).parent / "lessons")]
RUN_WHOLE = {lesson.usual for lesson in LESSONS}
#: What is answered where a plan asks for it, by what its field begins with.
ANSWERS = {"The devices": "Amber, Birch", "Levels of": "1, 2, 3", "Never above": "4", "The drop height": "2 m", "Dropped from": "2", "Rungs in": "0.5, 1, 1.5", "Edges of the zones": "1, 2, 3"}
CHOSEN = {"counts as survived": 1, "One payload": 1}
REST = [f"{f.id} {t.id}" for f in families() for t in f.tests if f"{f.id} {t.id}" not in RUN_WHOLE]


@pytest.mark.parametrize("usual", REST)
def test_the_first_kept_trial_of_a_usual_test_takes_ten_presses(usual: str, signed_in: tuple[Page, TeacherClient]) -> None:
    """Those of which no lesson is run whole; a typed field counts as one."""
    page, teacher = signed_in
    page.get_by_role("link", name="Start from a usual test").click()
    page.locator(f"[data-test='{usual}']").click()
    presses = 2
    page.get_by_label("The plan so far").wait_for()
    go_on = page.get_by_role("button", name="Go to the run")
    needed = page.locator("[data-needed]")
    go_on.or_(needed).first.wait_for()

    def still_open() -> list[Locator]:
        return [f for f in needed.locator("input, select").all() if f.input_value() in ("", "0")]

    for _ in range(6):
        until(page, lambda: go_on.is_visible() or bool(still_open()))  # what was answered last is being kept
        if go_on.is_visible():
            break
        open_ = still_open()
        label = needed.locator("label", has=page.locator(f"xpath=self::*[@for='{open_[0].get_attribute('id')}']")).inner_text()
        presses += 1
        known = next((v for k, v in ANSWERS.items() if label.startswith(k)), None)
        if known is not None:
            open_[0].fill(known)
        else:
            open_[0].select_option(index=next(v for k, v in CHOSEN.items() if k in label))
        page.wait_for_timeout(900)
    go_on.click()
    page.get_by_role("button", name=re.compile("are read: tick them")).click()
    page.get_by_role("button", name="Open the run").click()
    presses += 3
    run = Run(page)
    presses += run.first_trial()
    assert presses <= 10, presses
    (line,) = teacher.ok("GET", "/api/studies")
    for _ in range(100):
        kept = teacher.ok("GET", f"/api/studies/{line['id']}/trials")
        if kept:
            break
        page.wait_for_timeout(100)
    assert kept[0]["state"] == "kept"


PUCKS: dict[str, Any] = {
    "family": "vehicle", "study_kind": "contest", "result": "total", "repeats": 2, "order": "listed",
    "variable": {"name": "device", "kind": "name", "levels": ["Amber", "Birch"]}, "expect": "", "groups": [],
    "measures": [{"id": "m1", "name": "stop in the zones", "scale": "zone", "quantity": "length", "unit": "m", "rule": "To the front", "zones": [{"start": "1", "end": "1.5", "points": 1}, {"start": "1.5", "end": "2", "points": 2}]}],
}  # fmt: skip


def test_a_round_is_scored_as_it_lies_at_its_end(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Pucks", **{**PUCKS, "order": "blocks"})
    go(page, app, study, "run")
    place = {"Amber": "1.20", "Birch": "1.70"}
    for _ in range(2):
        called = page.get_by_label("Now on the lane").get_attribute("data-called") or ""
        there = int(page.get_by_label("Now on the lane").get_attribute("data-trials") or 0)
        page.locator("#timer-0").fill(place[called])
        page.keyboard.press("Enter")
        expect(page.locator(f"[data-trials='{there + 1}']")).to_be_visible()
    pushed = page.get_by_label("Round 1 as it lies")
    expect(pushed).to_contain_text("Where does each piece lie now?")
    no_violations(page)
    pushed.get_by_label("Amber, m").fill("1.60")
    pushed.get_by_role("button", name="Write the new place").click()
    expect(pushed).to_have_count(0)
    for _ in range(100):
        trials = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
        if sorted(texts_of(t)[0] for t in trials) == ["1.60", "1.70"]:
            break
        page.wait_for_timeout(100)
    moved = next(t for t in trials if t["level"] == "Amber")
    assert (texts_of(moved)[0], moved["note"]) == ("1.60", "pushed on by a later one, from 1.20 m")
    assert moved["given"][0]["value"] == 2.0


def test_in_one_lesson_only_what_has_changed_is_ticked_again(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Again", run=False)
    go(page, app, study, "run")
    tick_cautions(page)
    page.locator("#timer-0").wait_for()
    draft = {**study["draft"], "variable": {**study["draft"]["variable"], "levels": [*study["draft"]["variable"]["levels"], "9"]}}
    teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": study["version"], "draft": draft})
    page.reload()
    expect(page.locator("[data-lapsed]")).to_be_visible()
    expect(page.get_by_role("button", name="1 line still to tick")).to_be_disabled()
    page.get_by_role("checkbox", name="The changed levels, limits, drops or adults are read.").check()
    page.get_by_role("button", name="Open the run").click()
    page.locator("#timer-0").wait_for()


def test_a_next_version_at_three_quarters_of_the_mass_has_its_limit(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Lighter", **PUCKS)
    teacher.ok("PUT", f"/api/studies/{study['id']}/versions/{study['id'][:-1]}1", json={"device": "Amber", "draft": {"mass": "48 g"}})
    go(page, app, study, "build")
    page.get_by_role("button", name="Another device").click()
    expect(page.get_by_label("Which group’s device").locator("option")).to_contain_text(["Choose …", "Amber", "Birch"])
    page.get_by_label("Which group’s device").select_option("Amber")
    page.get_by_role("checkbox", name="At three quarters of its mass: at most 36 g.").check()
    page.get_by_role("button", name="Write it down").click()
    page.get_by_role("article", name="Amber, version 2").wait_for()
    page.get_by_label("Mass", exact=True).fill("40 g")
    rule = page.locator("[data-rule]").filter(has_text="40 g")
    expect(rule).to_contain_text("not kept")
    expect(rule).to_contain_text("36 g")
    page.get_by_label("Mass", exact=True).fill("35 g")
    expect(page.locator("[data-rule]").filter(has_text="35 g")).not_to_contain_text("not kept")


def test_a_table_with_holes_is_asked_about_and_taken_without_its_bad_rows(signed_in: tuple[Page, TeacherClient], app: Application, tmp_path: Path) -> None:
    page, teacher = signed_in
    sheet = tmp_path / "sheet.csv"
    sheet.write_text("Launchers,,\ngroup,arm (cm),distance (m)\nHeron,20,4.1\n,20,4.3\n,25,far\n,25,5.1\nStork,20,near\n,25,4.9\n,25,5.0\n", encoding="utf-8")
    page.goto(f"{app.url}/read-in")
    page.get_by_label("The file").set_input_files(sheet)
    expect(page.get_by_text("“Launchers” stands above the header")).to_be_visible()
    page.get_by_label("What was changed").select_option("arm (cm)")
    page.get_by_label("What was read").select_option("distance (m)")
    page.get_by_role("button", name="Make the study").click()
    expect(page.get_by_text("5 of 7 rows have no group")).to_be_visible()
    no_violations(page)
    page.get_by_role("button", name="The name above is meant").click()
    expect(page.get_by_text("2 cells are not understood")).to_be_visible()
    page.get_by_role("button", name="Make the study without these rows").click()
    page.locator("[data-answer]").wait_for()
    (line,) = teacher.ok("GET", "/api/studies")
    trials = teacher.ok("GET", f"/api/studies/{line['id']}/trials")
    assert sorted(t["group"] for t in trials) == ["Heron"] * 3 + ["Stork"] * 2


def test_the_lane_of_six_has_every_landing_key_in_sight_on_a_phone(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    levels = ["thin", "card", "foil", "crepe", "news", "trace"]
    study = new_study(
        teacher, "Six at once", family="rotor", compared="side_by_side", repeats=1, groups=[], expect="", variable={"name": "paper", "kind": "name", "levels": levels},
        measures=[{"id": "m1", "name": "fall time", "quantity": "time", "unit": "s", "rule": "To first touch", "timed": True}], hold=[{"name": "drop height", "value": "2 m"}], limits=[{"on": "held", "name": "drop height", "value": "2 m"}],
    )  # fmt: skip
    page.set_viewport_size({"width": 390, "height": 844})
    go(page, app, study, "run")
    page.get_by_role("heading", name="Heat 1 of 1").wait_for()
    page.locator("[data-lane='6']").wait_for()
    page.keyboard.press("Space")
    expect(page.get_by_text("one press lets all of them go")).to_have_count(0)
    for lane in range(1, 7):
        box = page.locator(f"[data-lane='{lane}'] [data-press]").bounding_box()
        assert box is not None
        assert box["y"] + box["height"] <= 844
        assert box["height"] >= 72
    fits_across(page, 390)
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_contain_text("landed, by lane")


def test_keys_are_told_at_home_as_well(signed_in: tuple[Page, TeacherClient]) -> None:
    page, _ = signed_in
    page.get_by_role("link", name="Start from a usual test").wait_for()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_contain_text("keep the reading")


def test_one_of_three_timers_is_asked_about_and_at_least_is_kept_by_enter(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Three thumbs", measures=[{"id": "m1", "name": "fall time", "quantity": "time", "unit": "s", "rule": "To first touch", "timed": True, "timers": 3}])
    go(page, app, study, "run")
    page.locator("#timer-0").fill("1.20")
    page.get_by_role("button", name=re.compile("^Keep")).click()
    expect(page.locator("#reading-says")).to_contain_text("Only 1 of 3 timers is written.")
    page.get_by_role("button", name=re.compile("^It is what was read")).click()
    expect(page.locator("#reading-says")).to_contain_text("Kept 1.20")
    far = new_study(teacher, "Off the end")
    go(page, app, far, "run")
    page.locator("#timer-0").fill("6.0")
    page.get_by_role("button", name="At least").click()
    page.keyboard.press("Enter")
    expect(page.locator("#reading-says")).to_contain_text("Kept 6.0+")
