"""Ask and Plan as a teacher and a class use them: by keyboard and on a projector."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import DRAFT, Application, TeacherClient, new_study, read_of, texts_of
from tests.ui.conftest import fits_across, go, no_violations, saved

pytestmark = pytest.mark.ui

NAME = """() => { const e = document.activeElement; if (!e || e === document.body) return '';
  return e.getAttribute('aria-label') || (e.labels && e.labels[0] && e.labels[0].textContent.trim()) || e.textContent.trim() }"""


def tab_to(page: Page, name: str, most: int = 160) -> None:
    """Press Tab until what has the focus is called so; nothing else touches the page."""
    for _ in range(most):
        page.keyboard.press("Tab")
        if re.fullmatch(name, page.evaluate(NAME)):
            return
    raise AssertionError(f"no key reaches {name}")


def test_a_class_plans_a_parachute_test_by_keyboard_alone(signed_in: tuple[Page, TeacherClient]) -> None:
    page, teacher = signed_in
    tab_to(page, "New study")
    page.keyboard.press("Enter")
    page.get_by_role("dialog").wait_for()
    page.keyboard.type("Balcony drop")
    tab_to(page, "Ask the class first", 6)
    page.keyboard.press("Enter")

    # the wall: the family, then ideas as they are called out
    page.get_by_role("heading", name="What could be changed?").wait_for()
    tab_to(page, "Family of devices")
    page.keyboard.type("Para")
    expect(page.get_by_text("canopies of cloth")).to_be_visible()
    tab_to(page, r"What could be changed\? Another idea")
    for idea in ("canopy side", "the colour", "Canopy  side"):
        page.keyboard.type(idea)
        page.keyboard.press("Enter")
    expect(page.get_by_text("It is on the wall already.")).to_be_visible()
    page.keyboard.press("ControlOrMeta+a")
    page.keyboard.press("Delete")
    tab_to(page, r"What could be measured\? Another idea")
    page.keyboard.type("descent time")
    page.keyboard.press("Enter")
    page.keyboard.press("Shift+Tab")
    no_violations(page)

    # what a group takes; the rest is kept the same by itself
    page.get_by_role("link", name="Bendro, all studies").focus()
    tab_to(page, "Change this: canopy side")
    page.keyboard.press("Enter")
    tab_to(page, "Measure this: descent time")
    page.keyboard.press("Enter")
    expect(page.locator("[data-question]")).to_have_text("How does canopy side affect descent time?")
    expect(page.get_by_role("region", name="Kept the same")).to_contain_text("the colour")
    expect(page.get_by_role("region", name="Kept the same")).to_contain_text("drop height")
    expect(page.get_by_role("region", name="Kept the same")).not_to_contain_text("canopy side")
    tab_to(page, "Make it the question")
    page.keyboard.press("Enter")
    tab_to(page, r"How\? drop height")
    page.keyboard.press("Enter")
    page.get_by_role("dialog").wait_for()
    page.keyboard.type("4.2 m")
    page.keyboard.press("Tab")
    page.keyboard.type("5 s")
    expect(page.get_by_role("dialog")).to_contain_text("a tolerance needs a value of the same kind")
    page.keyboard.press("ControlOrMeta+a")
    page.keyboard.type("5 cm")
    page.keyboard.press("Escape")
    expect(page.get_by_role("region", name="Kept the same")).to_contain_text("4.2 m, within 5 cm")
    saved(page)

    # the plan answers while it is made
    page.get_by_role("link", name="Bendro, all studies").focus()
    tab_to(page, "Plan it")
    page.keyboard.press("Enter")
    aside = page.get_by_label("The plan so far")
    expect(aside).to_contain_text("trials: 3 levels × 5 repeats")
    expect(page.get_by_label("What will the trials answer?")).to_have_value("How does canopy side affect descent time?")
    expect(aside).to_contain_text("of 10 such studies would show the effect")
    expect(aside.locator("[data-finding=prediction_missing]")).to_be_visible()
    tab_to(page, "Repeats of each level")
    page.keyboard.type("2")
    expect(aside.locator("[data-finding=few_repeats]")).to_be_visible()
    page.keyboard.press("ControlOrMeta+a")
    page.keyboard.type("40")
    expect(aside).to_contain_text(re.compile("make it fit|makes it fit|Share it over"))
    page.keyboard.press("ControlOrMeta+a")
    page.keyboard.type("4")
    expect(aside).to_contain_text("It fits.")
    tab_to(page, "Group names, separated by commas")
    page.keyboard.type("Avocet, Bittern, Curlew, Dunlin")
    tab_to(page, r"What will happen\?")
    page.keyboard.type("The larger, the slower.")
    tab_to(page, r"Why\?")
    page.keyboard.type("It holds more air.")
    tab_to(page, "In short")
    page.keyboard.type("it rises")
    expect(aside.locator("[data-finding=prediction_missing]")).to_have_count(0)

    # the limit, and the sign-off by role
    tab_to(page, "Your limit on drop height: never above")
    page.keyboard.type("quite high")
    expect(page.get_by_text("is not a limit").first).to_be_visible()
    page.keyboard.press("ControlOrMeta+a")
    page.keyboard.type("4 m")  # below the height at which it is dropped
    expect(page.get_by_text("drop height is kept at 4.2 m, above the limit of 4 m").first).to_be_visible()
    page.keyboard.press("ControlOrMeta+a")
    page.keyboard.type("4.5 m")
    tab_to(page, "Sign off the plan")
    page.keyboard.press("Enter")
    dialog = page.get_by_role("dialog")
    dialog.wait_for()
    no_violations(page)
    for n in range(3):
        if n:
            page.keyboard.press("Tab")
        page.keyboard.press("Space")
    page.keyboard.press("Tab")
    page.keyboard.type("class teacher")
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    expect(dialog).to_have_count(0)
    expect(page.get_by_text("Signed off by")).to_contain_text("class teacher")
    assert "safe" not in page.get_by_role("region", name="Cautions and limits").inner_text().lower()
    no_violations(page)

    study = next(s for s in teacher.ok("GET", "/api/studies") if s["title"] == "Balcony drop")
    held = teacher.ok("GET", f"/api/studies/{study['id']}")
    assert (held["planned"], held["sign_off"]["covers"]) == (12, True)
    assert held["draft"]["hold"] == [{"name": "drop height", "value": "4.2 m", "tolerance": "5 cm", "how": ""}]
    assert (held["draft"]["reason"], held["draft"]["expect"]) == ("It holds more air.", "rises")
    assert [p for p in held["problems"] if p["grave"]] == []


def test_likely_marks_are_drawn_apart_from_real_ones(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Rehearsed")
    go(page, app, study, "plan")
    part = page.get_by_role("region", name="Rehearsal")
    expect(part).to_contain_text("none of them was measured, and none is ever counted")
    drawn = part.get_by_role("img", name=re.compile("Rehearsal, not real: 4 cm about"))
    expect(drawn.locator("path[stroke-dasharray]")).to_have_count(9)
    part.get_by_label("What you expect at the first level").fill("2 m")
    part.get_by_label("and at the last level").fill("2.05 m")
    part.get_by_label("Repeats usually vary by about").fill("0.4 m")
    expect(part).to_contain_text("from what you expect")
    expect(part).to_contain_text("More repeats alone would not do")
    assert teacher.ok("GET", f"/api/studies/{study['id']}/trials") == []
    assert teacher.ok("GET", f"/api/studies/{study['id']}/analysis")["effect"]["reason"] == "no_trials"


def test_a_level_over_the_limit_is_refused_and_the_usual_spread_keeps_below_it(
    signed_in: tuple[Page, TeacherClient], app: Application
) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Limited", limits=[{"on": "variable", "value": "6 cm"}])
    go(page, app, study, "plan")
    expect(page.get_by_text("8 is above the limit of 6 cm that you have set").first).to_be_visible()
    expect(page.get_by_role("button", name="Go to the run")).to_have_count(0)
    page.get_by_role("button", name=re.compile("Use the usual spread")).click()
    expect(page.get_by_role("button", name="Go to the run")).to_be_visible()
    levels = teacher.ok("GET", f"/api/studies/{study['id']}")["draft"]["variable"]["levels"]
    assert max(map(float, levels)) <= 6


def test_a_change_is_taken_back_and_stays_on_record(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Undone")
    go(page, app, study, "plan")
    page.get_by_label("Repeats of each level").fill("7")
    expect(page.get_by_label("The plan so far")).to_contain_text("3 levels × 7 repeats")
    page.get_by_role("button", name="Undo the last change").click()
    expect(page.get_by_label("Repeats of each level")).to_have_value("3")
    expect(page.get_by_text("The last change is undone.")).to_be_visible()
    page.get_by_role("button", name="What was changed").click()
    expect(page.get_by_role("dialog")).to_contain_text("the repeats: 3 → 7")
    expect(page.get_by_role("dialog")).to_contain_text("undone")
    no_violations(page)
    assert teacher.ok("GET", f"/api/studies/{study['id']}")["draft"]["repeats"] == 3


def test_too_long_a_sentence_is_refused_at_its_place_and_stays(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Too long")
    go(page, app, study, "plan")
    page.get_by_label("Why?").fill("because " * 50)
    expect(page.get_by_text("This has 400 characters; at most 300 fit here.").first).to_be_visible()
    expect(page.get_by_text("reason: This has 400 characters")).to_be_visible()
    page.reload()
    expect(page.get_by_label("Why?")).to_have_value("because " * 50)
    page.get_by_label("Why?").fill("because of the air")
    saved(page)
    assert teacher.ok("GET", f"/api/studies/{study['id']}")["draft"]["reason"] == "because of the air"


def test_what_is_typed_on_one_page_is_there_on_the_next(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Page to page")
    go(page, app, study, "plan")
    page.get_by_label("Where the start line is").fill("The yellow line")
    page.get_by_role("link", name="The lesson").click()  # at once, before it is sent
    page.get_by_label("Begins at").fill("11:15")
    page.get_by_role("link", name="The plan").click()
    expect(page.get_by_label("Where the start line is")).to_have_value("The yellow line")
    page.get_by_label("Where the start line is").fill("The red line")
    saved(page)
    held = teacher.ok("GET", f"/api/studies/{study['id']}")["draft"]
    assert (held["start_line"], held["rota"]["start"]) == ("The red line", "11:15")


def test_the_plan_is_copied_kept_as_a_file_and_loaded_again(
    signed_in: tuple[Page, TeacherClient], app: Application, tmp_path: Path
) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Passed on", class_label="7 Blue")
    go(page, app, study, "plan")
    with page.expect_download() as download:
        page.get_by_role("link", name="Plan as a file").click()
    file = tmp_path / "plan.json"
    download.value.save_as(file)
    assert json.loads(file.read_text())["draft"]["repeats"] == 3
    page.get_by_role("button", name="Copy for another class").click()
    page.get_by_label("Its title").fill("Passed on to 8 Amber")
    expect(page.get_by_label("Its class")).to_have_value("")
    page.get_by_label("Its class").fill("8 Amber")
    page.get_by_label("Its group names, separated by commas").fill("Owl, Kite")
    page.get_by_role("button", name="Copy it").click()
    expect(page.get_by_role("heading", name="Plan: Passed on to 8 Amber")).to_be_attached()
    expect(page.get_by_label("What will happen?")).to_have_value("")
    expect(page.get_by_label("Group names")).to_have_value("Owl, Kite")
    assert {s["title"]: s["class_label"] for s in teacher.ok("GET", "/api/studies")} == {"Passed on": "7 Blue", "Passed on to 8 Amber": "8 Amber"}

    page.get_by_role("link", name="Bendro, all studies").click()
    page.get_by_role("button", name="New study").click()
    page.get_by_label("What is it called?").fill("From a file")
    other = tmp_path / "other.json"
    other.write_text("{}")
    page.get_by_label("Start from a plan file").set_input_files(other)
    page.get_by_role("button", name="Plan it").click()
    expect(page.get_by_role("dialog")).to_contain_text("This is JSON, but not a plan")
    page.get_by_label("Start from a plan file").set_input_files(file)
    page.get_by_role("button", name="Plan it").click()
    expect(page.get_by_label("What will the trials answer?")).to_have_value(DRAFT["question"])
    assert sorted(s["title"] for s in teacher.ok("GET", "/api/studies")) == ["From a file", "Passed on", "Passed on to 8 Amber"]


def test_a_group_of_its_own_takes_another_choice_from_the_same_wall(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "One wall", could_change=["pull-back", "release angle"], could_measure=["distance to first touch"])
    go(page, app, study, "ask")
    page.get_by_role("button", name="Give one group a different choice").click()
    page.get_by_label("Which group").select_option("Blue")
    page.get_by_label("It changes").select_option("release angle")
    page.get_by_label("It measures").select_option("distance to first touch")
    page.get_by_role("button", name="Make its study").click()
    expect(page.locator("[data-question]")).to_have_text("How does release angle affect distance to first touch?")
    made = next(s for s in teacher.ok("GET", "/api/studies") if s["title"] == "One wall: Blue")
    held = teacher.ok("GET", f"/api/studies/{made['id']}")
    assert (held["draft"]["groups"], held["draft"]["variable"]["unit"], held["kept"]) == (["Blue"], "°", 0)
    assert teacher.ok("GET", f"/api/studies/{study['id']}")["draft"]["variable"]["name"] == "pull-back"


# --- the lesson and the materials ------------------------------------------------------------------------------------


def test_the_rota_is_made_shown_on_the_wall_with_the_time_and_known_to_be_stale(
    signed_in: tuple[Page, TeacherClient], app: Application
) -> None:
    page, teacher = signed_in
    groups = ["Avocet", "Bittern", "Curlew", "Dunlin"]
    study = new_study(
        teacher, "Lesson", groups=groups, rota={"start": "09:10", "test_min": 5, "lesson_min": 40, "build_min": 10, "improve_min": 5}
    )
    page.clock.install(time="2026-05-04T09:22:30")
    go(page, app, study, "plan/lesson")
    page.get_by_role("button", name="Make the rota").click()
    expect(page.get_by_role("heading", name="15 min too long")).to_be_visible()
    expect(page.locator("[data-rota-says]")).to_contain_text("One more lane with one more adult makes it fit.")
    no_violations(page)
    page.get_by_label("Lanes").fill("2")
    page.get_by_label("Adults").fill("2")
    expect(page.get_by_text("The plan has changed since this rota was made.")).to_be_visible()
    page.get_by_role("button", name="Make the rota again").click()
    expect(page.get_by_role("heading", name="It fits")).to_be_visible()
    expect(page.get_by_role("row", name=re.compile("^Avocet 09:10 builds 09:20 tests, lane 1, adult 1"))).to_be_visible()
    page.get_by_role("button", name="On the wall").click()
    expect(page.get_by_role("timer")).to_have_text("09:22")
    expect(page.get_by_role("region", name="Lane 1")).to_contain_text("Avocet")
    expect(page.get_by_role("region", name="Lane 2")).to_contain_text("until 09:25, then Dunlin at 09:25")
    expect(page.get_by_text("28 min to the bell.")).to_be_visible()
    no_violations(page)
    page.clock.fast_forward("03:00")
    expect(page.get_by_role("region", name="Lane 1")).to_contain_text("Curlew")
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="It fits")).to_be_visible()


def test_a_rota_without_an_adult_says_so(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "No adult", timing={"adults": 0})
    go(page, app, study, "plan/lesson")
    page.get_by_role("button", name="Make the rota").click()
    expect(page.get_by_role("alert")).to_contain_text("needs an adult at the lane, and no adult is planned")


def test_materials_are_counted_cut_and_priced_as_they_are_typed(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Shop", groups=["A", "B", "C"])
    go(page, app, study, "plan/materials")
    page.get_by_role("button", name="Add a material").click()
    page.get_by_label("Material", exact=True).fill("cloth")
    page.get_by_label("How it is used").select_option("cut from sheets")
    page.get_by_label("Size of each piece").fill("40 x 40 cm")
    page.get_by_role("button", name="Add a pack of cloth").click()
    page.get_by_label("holds").fill("1 x 1 m")
    page.get_by_label("price").fill("1,250")
    expect(page.get_by_text("could be 1.250 or 1250").first).to_be_visible()
    page.get_by_label("price").fill("2,40")
    listed = page.get_by_role("complementary", name="Shopping list")
    expect(listed).to_contain_text("4 pieces of 40 x 40 cm in all: buy 1 × 1 x 1 m; nothing is left over.")
    expect(listed.get_by_role("img", name="4 pieces cut from 1 x 1 m")).to_be_visible()
    expect(listed).to_contain_text("2.40")
    page.get_by_label("holds").fill("0 m")
    expect(page.get_by_text("is not a rectangle").first).to_be_visible()
    page.get_by_label("holds").fill("1 x 1 m")
    page.get_by_label("Budget for each group, in play money").fill("20")
    page.get_by_label("Shop price of a piece").fill("5")
    no_violations(page)
    with page.expect_download() as download:
        page.get_by_role("link", name="List as CSV").click()
    assert "cloth,4,pieces,1 x 1 m,1 x 1 m,1,2.4,2.40" in download.value.path().read_text(encoding="utf-8-sig")
    saved(page)
    page.set_viewport_size({"width": 390, "height": 844})
    fits_across(page, 390)


def test_a_ladder_is_read_by_its_rungs(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(
        teacher,
        "Ladder",
        family="protector",
        variable={"name": "skirt folds", "kind": "number", "quantity": "count", "unit": "count", "levels": ["0", "1"]},
        measures=[{"name": "peak height survived", "quantity": "length", "unit": "m", "rule": "Highest rung."}],
        survival="hairline",
        drop={"plan": "ladder", "heights": ["1.0", "1.6", "5 ft 11 in"], "payload": "fresh"},
        void_rule="It hit the wall",
        limits=[{"on": "rungs", "value": "6 ft"}],
        repeats=2,
    )
    go(page, app, study, "run")
    expect(page.get_by_text("drop height: never above 6 ft")).to_be_visible()
    rungs = page.get_by_role("group", name=re.compile("Highest rung survived: a hairline crack is allowed"))
    expect(page.get_by_text("It hit the wall")).to_be_visible()
    rungs.get_by_role("button", name="1.6 m").click()
    expect(page.locator("#timer-0")).to_have_value("1.6")
    expect(rungs.get_by_role("button", name="1.6 m")).to_have_attribute("aria-pressed", "true")
    for pick, read_as in (("all, 5 ft 11 in", "Read as at least 1.8034 m."), ("not the first", "Read as at most 1 m.")):
        rungs.get_by_role("button", name=pick).click()
        expect(page.locator("#reading-says")).to_contain_text(read_as)
    expect(page.locator("#timer-0")).to_have_value("<1.0")
    no_violations(page)
    page.get_by_role("button", name=re.compile("^Keep")).click()
    expect(page.locator("#reading-says")).to_contain_text("Kept <1.0")
    for _ in range(50):
        trials = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
        if trials:
            break
        page.wait_for_timeout(100)
    assert (texts_of(trials[0]), read_of(trials[0])["kind"]) == (["<1.0"], "at_most")


def test_only_a_number_is_said_to_be_read_in_a_unit(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    """A measure of one's own keeps the unit of the blank form, whatever scale is chosen."""
    page, teacher = signed_in
    measures = [
        {"id": "m1", "name": "distance"}, {"id": "m2", "name": "shell", "scale": "outcome", "words": ["whole", "broken"], "survived": 1},
        {"id": "m3", "name": "place", "scale": "order"}, {"id": "m4", "name": "landing", "scale": "zone", "zones": [{"start": "1", "end": "2", "points": 5}]},
    ]  # fmt: skip
    study = new_study(teacher, "Scales", measures=measures)
    go(page, app, study, "plan")
    page.get_by_role("button", name="What is measured", expanded=True).click()
    expect(page.get_by_text("distance in m; shell; place; landing in m")).to_be_visible()
    go(page, app, study, "sheet")
    heads = [h.strip().lower() for h in page.get_by_role("columnheader").all_inner_texts()]
    assert {"distance / m", "shell", "place", "landing / m"} <= set(heads), heads
