"""Usual tests, several measures, drops, what is worked out, practice and conditions, in a real browser."""

from __future__ import annotations

import re
from datetime import UTC, datetime
from typing import Any

import pytest
from playwright.sync_api import BrowserContext, Page, expect

from tests.conftest import Application, TeacherClient, new_study, read_of, texts_of
from tests.ui.conftest import fits_across, go, no_violations, saved, tick_cautions, until

pytestmark = pytest.mark.ui

LAUNCH = [
    {"id": "m1", "name": "distance", "quantity": "length", "unit": "m", "rule": "Nearest edge."},
    {"id": "m2", "name": "off the line", "quantity": "length", "unit": "cm", "rule": "At right angles.", "signed": True},
]
POD: dict[str, Any] = {
    "family": "protector",
    "variable": {"name": "skirt folds", "kind": "number", "quantity": "count", "unit": "count", "levels": ["0", "2"]},
    "limits": [{"on": "rungs", "name": "", "value": "4 m"}],
    "measures": [{"id": "m1", "name": "cracker", "scale": "outcome", "quantity": "number", "unit": "", "words": ["untouched", "hairline", "cracked"], "survived": 2, "rule": "r"}],
    "drop": {"plan": "ladder", "heights": ["1", "1.6", "2.4"], "unit": "m", "payload": "fresh"},
    "repeats": 2,
    "order": "listed",
}
FALL: dict[str, Any] = {
    "measures": [{"id": "m1", "name": "fall time", "quantity": "time", "unit": "s", "rule": "To first touch.", "timed": True}],
    "derived": [{"id": "d1", "name": "descent speed", "calculator": "average-speed", "output": "speed", "unit": "m/s",
                 "inputs": [{"input": "distance", "source": "typed", "value": "4.2 m"}, {"input": "time", "source": "reading", "of": "m1"}]}],
}  # fmt: skip


def lane(page: Page, app: Application, study: dict[str, Any]) -> None:
    go(page, app, study, "run")
    page.get_by_role("button", name=re.compile("^Keep")).wait_for()


def stored(page: Page, trials: int) -> None:
    """Wait until so many trials of the study on the lane lie on the server."""
    path = "location.pathname.replace('/study', '/api/studies').replace(/\\/(run|sheet)$/, '/trials')"
    until(page, lambda: page.evaluate(f"fetch({path}).then(r => r.json()).then(t => t.length)") == trials)


def test_a_new_teachers_first_kept_trial_takes_twelve_presses(signed_in: tuple[Page, TeacherClient]) -> None:
    """From Home after signing in: a usual test, a look, the run. A typed word counts as one press for its field."""
    page, teacher = signed_in
    page.evaluate("localStorage.setItem('typed:unfold', '')")
    presses = 0

    def press(name: str | re.Pattern[str], role: Any = "link") -> None:
        nonlocal presses
        presses += 1
        page.get_by_role(role, name=name).first.click()

    press("Start from a usual test")
    press(re.compile("Which surface lets it slide farthest"), "button")
    press("Go to the run", "button")
    page.get_by_role("heading", name="Before the first trial").wait_for()
    page.get_by_role("checkbox").first.wait_for()
    boxes = page.get_by_role("checkbox").all()
    tick_cautions(page)
    presses += len(boxes) + 1 + 1  # the boxes, the adult's field, opening the run
    page.get_by_role("button", name=re.compile("^Keep")).wait_for()
    page.keyboard.type("1.62")
    page.keyboard.press("Enter")
    presses += 2
    expect(page.locator("#reading-says")).to_contain_text("Kept 1.62 m")
    assert presses <= 12
    stored(page, 1)
    (line,) = teacher.ok("GET", "/api/studies")
    assert line["title"] == "Which surface lets it slide farthest?"
    (trial,) = teacher.ok("GET", f"/api/studies/{line['id']}/trials")
    assert trial["derived"][0]["id"] == "d1"
    assert trial["derived"][0]["value"] == pytest.approx(1.5**2 / (2 * 9.80665 * 1.62))


def test_usual_tests_are_found_by_what_they_are_about(signed_in: tuple[Page, TeacherClient]) -> None:
    page, _ = signed_in
    page.get_by_role("link", name="Start from a usual test").click()
    expect(page.locator("[data-test='launcher arm-length']")).to_contain_text("arm length 20, 25, 30, 35 cm")
    expect(page.locator("[data-test='launcher angle']")).to_contain_text("55, 65°")
    page.get_by_label("Find by what it is about").fill("power lift")
    expect(page.locator("[data-test]")).to_have_count(1)
    expect(page.locator("[data-test]")).to_contain_text("Which pitch lifts the load fastest?")
    page.get_by_label("Find by what it is about").fill("submarine")
    expect(page.get_by_text("No usual test is about that")).to_be_visible()
    page.get_by_label("Find by what it is about").fill("")
    no_violations(page)
    page.set_viewport_size({"width": 390, "height": 844})
    fits_across(page, 390)


@pytest.fixture
def folding(context: BrowserContext) -> None:
    """The page as it comes: parts fold unless the teacher has chosen otherwise."""
    context.add_init_script("localStorage.setItem('typed:unfold', '')")


@pytest.mark.usefixtures("folding")
def test_a_part_folds_into_what_stands_in_it_and_what_is_missing_is_open(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Folded", run=False, prediction="", expect="", variable={"name": "pull-back", "kind": "number", "quantity": "length", "unit": "cm", "levels": []})
    go(page, app, study, "plan")
    often = page.get_by_role("region", name="How often, and who")
    expect(often.locator("[data-folded]")).to_have_text("3 repeats of each level, Red, Blue; shuffled in blocks")
    expect(page.get_by_role("region", name="The one thing to change").locator("[data-folded]")).to_have_count(0)
    expect(page.get_by_label("What will happen?")).to_be_visible()
    no_violations(page)
    often.get_by_role("button", name=re.compile("How often")).click()
    page.get_by_label("Repeats of each level").fill("4")
    saved(page)
    often.get_by_role("button", name=re.compile("How often")).click()
    expect(often.locator("[data-folded]")).to_contain_text("4 repeats")
    page.get_by_role("button", name="Open every part").click()
    expect(page.locator("[data-folded]")).to_have_count(0)


def test_measures_are_added_ordered_and_removed_and_one_is_worked_out(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Measures", run=False, family="turbine", measures=[{"id": "m1", "name": "lifting time", "quantity": "time", "unit": "s", "rule": "r", "timed": True}],
                      variable={"name": "blade pitch", "kind": "number", "quantity": "angle", "unit": "°", "levels": ["20", "40"]}, hold=[{"name": "load", "value": "50 g"}])  # fmt: skip
    go(page, app, study, "plan")
    page.get_by_role("button", name="+ turns", exact=True).click()
    page.get_by_role("button", name="+ peak voltage").click()
    saved(page)
    page.locator("[data-measure=m3]").get_by_role("button", name="Move it up").click()
    saved(page)
    assert [m["name"] for m in teacher.ok("GET", f"/api/studies/{study['id']}")["draft"]["measures"]] == ["lifting time", "peak voltage", "turns"]
    page.get_by_role("button", name="Remove the second measure").click()
    saved(page)
    page.get_by_role("button", name="+ lifting power").click()
    power = page.locator("[data-derived=d1]")
    expect(power).to_contain_text("Write how lifting height is held")
    power.get_by_label("lifting height is held at").fill("0.6 m")
    expect(power.get_by_text("Write how lifting height is held")).to_have_count(0)
    saved(page)
    draft = teacher.ok("GET", f"/api/studies/{study['id']}")["draft"]
    assert [m["id"] for m in draft["measures"]] == ["m1", "m2"]
    assert [(d["name"], d["unit"]) for d in draft["derived"]] == [("lifting power", "mW")]
    assert {"name": "lifting height", "value": "0.6 m", "tolerance": "", "how": ""} in draft["hold"]
    no_violations(page)


def test_an_outcome_scale_and_zones_are_edited_in_words(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Scale", run=False, **{**POD, "measures": [{**POD["measures"][0], "survived": 0}]})
    go(page, app, study, "plan")
    scale = page.locator("[data-outcome-scale]")
    expect(scale).to_contain_text("there is no default")
    scale.get_by_role("button", name="line below “untouched”").click()
    expect(scale.get_by_role("button", name="counts above this line")).to_have_attribute("aria-pressed", "true")
    scale.get_by_role("button", name="Add an outcome").click()
    scale.get_by_label("Outcome 4", exact=True).fill("lost")
    saved(page)
    measure = teacher.ok("GET", f"/api/studies/{study['id']}")["draft"]["measures"][0]
    assert (measure["words"], measure["survived"]) == (["untouched", "hairline", "cracked", "lost"], 1)
    page.get_by_role("button", name="It carries several payloads").click()
    saved(page)
    assert teacher.ok("GET", f"/api/studies/{study['id']}")["draft"]["payloads"] == ["payload 1", "payload 2"]

    aim = teacher.ok("POST", "/api/studies/usual", json={"id": "00000000-0000-4000-8000-" + study["id"][-12:], "family": "launcher", "test": "aim"})
    go(page, app, aim, "plan")
    zones = page.locator("[data-zones]")
    zones.get_by_role("button", name="Add a zone").click()
    zones.get_by_label("Zone 1 from").fill("2")
    zones.get_by_label("to", exact=True).fill("2.5")
    zones.get_by_label("Points", exact=True).fill("5")
    expect(zones.get_by_role("img", name="2 to 2.5 m: 5 points")).to_be_visible()
    saved(page)
    assert teacher.ok("GET", f"/api/studies/{aim['id']}")["draft"]["measures"][0]["zones"] == [{"start": "2", "end": "2.5", "points": 5}]
    no_violations(page)


def test_all_measures_of_a_trial_and_its_behaviours_are_one_tab_away(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Two measures", measures=LAUNCH)
    lane(page, app, study)
    page.keyboard.type("4.52")
    page.keyboard.press("Enter")  # to the next measure
    page.keyboard.type("left 12")
    page.get_by_role("button", name="curved").click()
    page.get_by_role("button", name="tumbled").click()
    page.get_by_role("button", name=re.compile("^Keep")).click()
    expect(page.locator("#reading-says")).to_contain_text("Kept 4.52 m")
    expect(page.get_by_role("button", name="curved")).to_have_attribute("aria-pressed", "false")
    stored(page, 1)
    (trial,) = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
    found = read_of(trial, "m2")
    assert found is not None
    assert (found["value"], texts_of(trial, "behaviour")) == (-12.0, ["curved", "tumbled"])
    page.keyboard.press("Escape")
    page.locator("h1").first.click()
    page.keyboard.press("z")  # taken back: both readings and the words are in their places again
    expect(page.locator("#timer-0")).to_have_value("4.52")
    expect(page.get_by_role("button", name="tumbled")).to_have_attribute("aria-pressed", "true")
    no_violations(page)
    page.set_viewport_size({"width": 390, "height": 844})
    fits_across(page, 390)


def test_a_sheet_of_drops_is_typed_in_by_digits_alone(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Drops on paper", **POD)
    page.goto(f"{app.url}/study/{study['id']}/sheet")
    box = page.get_by_label("Turn 1, 0: cracker from 1 m")
    box.wait_for()
    no_violations(page)
    box.focus()
    # untouched, hairline, then cracked at the top rung; the second specimen fails at once; the third's first drop
    for digit in "123" + "3" + "1":
        page.keyboard.press(digit)
        page.wait_for_timeout(150)
    expect(page.get_by_text("2 of 4 specimens are through.")).to_be_visible()
    rows = page.locator("[data-drop-sheet] tbody tr")
    assert [c.inner_text() for c in rows.nth(0).locator("[data-rung]").all()] == ["untouched", "hairline", "cracked"]
    assert [c.inner_text() for c in rows.nth(1).locator("[data-rung]").all()] == ["cracked", "–", "–"]
    expect(page.get_by_label("Turn 3, 2: cracker from 1.6 m")).to_be_focused()
    stored(page, 5)
    kept = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
    assert [(t["level"], t["block"], t["rung"], texts_of(t)) for t in kept] == [
        ("0", 1, "1", ["untouched"]), ("0", 1, "1.6", ["hairline"]), ("0", 1, "2.4", ["cracked"]), ("0", 2, "1", ["cracked"]), ("2", 1, "1", ["untouched"]),
    ]  # fmt: skip
    assert {t["readings"][0]["taken"] for t in kept} == {"sheet"}
    page.set_viewport_size({"width": 390, "height": 844})
    fits_across(page, 390)


def test_a_ladder_is_climbed_by_keys_drop_by_drop(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Ladder", **POD)
    lane(page, app, study)
    for rung, key, word in (("1 m", "1", "untouched"), ("1.6 m", "2", "hairline"), ("2.4 m", "3", "cracked")):
        expect(page.get_by_label("Reading")).to_contain_text(f"from {rung}")
        page.keyboard.press(key)
        expect(page.locator(f"[data-outcome={word}]")).to_have_attribute("aria-pressed", "true")
        page.keyboard.press("Enter")
        expect(page.locator("#reading-says")).to_contain_text(f"Kept {word} from {rung}")
    expect(page.get_by_label("Reading")).to_contain_text("from 1 m")  # the next specimen begins at the first rung
    expect(page.locator("[data-ladder] [data-bracket]")).to_have_count(1)
    no_violations(page)
    page.set_viewport_size({"width": 390, "height": 844})
    fits_across(page, 390)
    page.set_viewport_size({"width": 1280, "height": 800})
    go(page, app, study, "work-out")
    expect(page.locator("[data-ladder]")).to_have_attribute("aria-label", re.compile("between 1.6 and 2.4 m"))
    expect(page.locator("[data-specimens]")).to_contain_text("between 1.6 and 2.4 m")
    no_violations(page)


def test_two_payloads_of_a_drop_have_an_outcome_each_by_one_key(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Pair", **{**POD, "payloads": ["left", "right"], "measures": [{**POD["measures"][0], "each_payload": True}]})
    lane(page, app, study)
    reading = page.get_by_label("Reading")
    expect(reading).to_contain_text("cracker, left, from 1 m")
    for key in ("1", "2", "Enter"):
        page.keyboard.press(key)
    expect(page.locator("#reading-says")).to_contain_text("Kept untouched, hairline from 1 m")
    page.keyboard.press("1")
    page.keyboard.press("Enter")  # the right one is not told yet
    expect(page.locator("#reading-says")).to_contain_text("One payload is not judged yet")
    stored(page, 1)
    page.keyboard.press("3")
    page.keyboard.press("Enter")
    expect(page.locator("#reading-says")).to_contain_text("Kept untouched, cracked from 1.6 m")
    stored(page, 2)
    kept = [[(r["payload"], r["words"]) for r in t["readings"]] for t in teacher.ok("GET", f"/api/studies/{study['id']}/trials")]
    assert kept == [[(1, ["untouched"]), (2, ["hairline"])], [(1, ["untouched"]), (2, ["cracked"])]]
    expect(page.locator("[data-ladder] [data-bracket]")).to_have_count(1)  # one that failed ends the specimen: the worst counts


def test_what_is_worked_out_is_echoed_chosen_and_asked_how(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Worked out", **FALL)
    lane(page, app, study)
    for text in ("2.10", "2.00", "1.90", "2.05", "2.20", "2.15"):
        page.keyboard.type(text)
        page.keyboard.press("Enter")
        expect(page.locator("#reading-says")).to_contain_text(f"Kept {text}")
    expect(page.locator("#reading-says")).to_contain_text(re.compile(r"1\.9\d? m/s|2\.0 m/s"))
    go(page, app, study, "work-out")
    page.get_by_role("button", name="descent speed", exact=True).click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("descent speed")
    expect(page.get_by_role("region", name="The numbers for each level").get_by_role("columnheader", name="mean / m/s")).to_be_visible()
    page.get_by_role("button", name="descent speed, trial by trial").click()
    page.get_by_role("button", name="How was descent speed of trial 2 worked out?").click()
    expect(page.locator("[data-working] math[aria-label*='speed = distance / time = 4.2 m / 2 s = 2.1 m/s']")).to_be_visible()
    no_violations(page)


def test_practice_and_how_things_stand_now(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Practice", hold=[{"name": "fan distance", "value": "60 cm", "tolerance": "1 cm"}])
    lane(page, app, study)
    page.keyboard.press("p")
    expect(page.get_by_text("Practice, not counted")).to_be_visible()
    page.keyboard.type("4.1")
    page.keyboard.press("Enter")
    expect(page.locator("#reading-says")).to_contain_text("Practice noted, not counted")
    page.keyboard.press("n")
    sheet = page.get_by_role("dialog", name="Conditions now")
    sheet.get_by_label("Who releases, by seat or number").fill("seat 3")
    sheet.get_by_label("fan distance").fill("61 cm")
    no_violations(page)
    sheet.get_by_role("button", name="It stands so").click()
    expect(page.locator("[data-released]")).to_contain_text("seat 3")
    page.locator("#timer-0").fill("4.2")
    page.keyboard.press("Enter")
    expect(page.locator("#reading-says")).to_contain_text("Kept 4.2")
    stored(page, 2)
    practice, counted = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
    assert (practice["place"], practice["conditions"]) == ("practice", {"fan distance": "60 cm"})  # as planned, until it is told otherwise
    assert (counted["person"], counted["conditions"]) == ("seat 3", {"fan distance": "61 cm"})
    assert teacher.ok("GET", f"/api/studies/{study['id']}")["kept"] == 1


def test_a_study_is_put_away_found_and_taken_back_on_home(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    for n in range(10):
        new_study(teacher, f"Study {n}", run=False, class_label="9 Teal" if n % 2 else "8 Rust")
    page.goto(app.url)
    expect(page.get_by_role("region", name="9 Teal")).to_be_visible()
    page.get_by_label("Find").fill("study 7")
    expect(page.locator("li", has_text="Study 7")).to_have_count(1)
    expect(page.get_by_text("Study 5")).to_have_count(0)
    page.get_by_role("button", name="More for Study 7").click()
    no_violations(page)
    page.get_by_role("button", name="Archive it").click()
    expect(page.get_by_text("No study with these words.")).to_be_visible()
    page.get_by_role("button", name=re.compile("Archived")).click()
    page.get_by_role("button", name="More for Study 7").click()
    page.get_by_role("button", name="Delete it").click()
    gone = page.locator("[data-thrown-away]")
    expect(gone).to_contain_text("Study 7")
    gone.get_by_role("button", name="Restore").click()
    expect(page.get_by_role("button", name="More for Study 7")).to_be_visible()
    no_violations(page)


def test_what_is_at_work_in_the_family_stands_on_ask_at_the_reading_level(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "At work", run=False, family="parachute", variable={"name": "", "levels": []}, reading_level="senior")
    go(page, app, study, "ask")
    part = page.locator("[data-at-work]")
    part.get_by_text("What is at work, and what to ask").click()
    expect(part).to_contain_text("Terminal speed is √(2mg/ρSC_D)")
    expect(part).to_contain_text("Which falls slowest, and why?")
    expect(part).to_contain_text("Do your three timers agree?")
    no_violations(page)


def test_a_second_variable_is_planned_as_combinations(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Two variables", run=False)
    go(page, app, study, "plan")
    page.get_by_role("button", name="Add a second variable").click()
    page.get_by_label("Second variable", exact=True).select_option("projectile")
    page.get_by_label(re.compile("Levels of the second variable")).fill("felt bag, cork")
    expect(page.get_by_text("6 combinations, each run 3 times.")).to_be_visible()
    saved(page)
    assert teacher.ok("GET", f"/api/studies/{study['id']}")["planned"] == 18
    no_violations(page)
    page.get_by_role("button", name="Remove the second variable").click()
    saved(page)
    assert teacher.ok("GET", f"/api/studies/{study['id']}")["planned"] == 9


def test_a_tablet_with_a_wrong_clock_is_told_so(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Slow clock")
    page.add_init_script(
        """{ const off = 365 * 86400000, Real = Date
        globalThis.Date = class extends Real { constructor(...a) { if (a.length) super(...a); else super(Real.now() - off) } static now() { return Real.now() - off } } }"""
    )
    lane(page, app, study)
    page.keyboard.type("4.52")
    page.keyboard.press("Enter")
    expect(page.locator("[data-clock]")).to_contain_text("This device’s clock is 365 days slow. Bendro puts the times right; set it when you can.")
    (trial,) = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
    assert trial["released_at"][:4] == str(datetime.now(UTC).year)
    no_violations(page)


def test_the_places_of_a_contest_stand_by_the_rule_agreed(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    names = {"name": "device", "kind": "name", "quantity": "number", "unit": "", "levels": ["Gold", "Blue"]}
    study = new_study(teacher, "Contest", **{**POD, "variable": names, "study_kind": "contest", "groups": ["Gold", "Blue"]})
    go(page, app, study, "plan")
    page.get_by_label("Places go by").select_option("rung_lightest")
    saved(page)
    lane(page, app, study)
    for key, told in (("1", "untouched from 1 m"), ("3", "cracked from 1.6 m"), ("3", "cracked from 1 m")):
        page.keyboard.press(key)
        page.keyboard.press("Enter")
        expect(page.locator("#reading-says")).to_contain_text(f"Kept {told}")
    stored(page, 3)
    go(page, app, study, "work-out")
    expect(page.locator("[data-places] li").first).to_contain_text("Gold")
    no_violations(page)


def test_a_page_that_is_opened_begins_at_its_top(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, _ = signed_in
    page.get_by_role("link", name="Start from a usual test").click()
    page.get_by_role("button", name=re.compile("From how high does it still survive")).click()
    page.get_by_role("heading", name=re.compile("The question")).wait_for()
    page.wait_for_function("window.scrollY === 0")
