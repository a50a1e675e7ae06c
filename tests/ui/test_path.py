"""The whole road as its user goes it: sign in, plan, run by keyboard with a void, offline for two trials, verdict, CSV."""

from __future__ import annotations

import re
from typing import Any
from uuid import uuid4

import pytest
from playwright.sync_api import BrowserContext, Page, expect

from tests.conftest import DRAFT, Application, TeacherClient, new_study, read_of, texts_of, trial_body
from tests.ui.conftest import fits_across, no_violations, tick_cautions

pytestmark = pytest.mark.ui


def open_run(page: Page, study: dict[str, Any]) -> None:
    page.goto(page.url.split("/", 3)[0] + "//" + page.url.split("/")[2] + f"/study/{study['id']}/run")
    if study["run"] is None:
        page.get_by_role("heading", name="Before the first trial").wait_for()
        tick_cautions(page)
    page.get_by_role("button", name=re.compile("^Keep")).wait_for()


def keep(page: Page, text: str) -> None:
    page.locator("#timer-0").fill("")
    page.keyboard.type(text)
    page.keyboard.press("Enter")
    expect(page.locator("#reading-says")).to_contain_text(f"Kept {text}")


@pytest.mark.opened_offline
def test_from_sign_in_to_verdict_and_table(signed_in: tuple[Page, TeacherClient], context: BrowserContext) -> None:
    page, teacher = signed_in
    page.get_by_role("button", name="New study").click()
    page.keyboard.type("Ferry sling")
    page.keyboard.press("Enter")

    page.get_by_label("What will the trials answer?").fill("How does the number of bands change the distance?")
    page.get_by_label("Family of devices").select_option("Launcher")
    page.get_by_label("Variable").select_option(label="number of bands")
    page.get_by_role("button", name="Remove level 3").click()
    page.get_by_label("Measure", exact=True).select_option("distance to first touch")
    page.get_by_label("Repeats of each level").fill("2")
    page.get_by_label("Group names").fill("Heron, Stork")
    page.get_by_label("What will happen?").fill("Two bands go farther.")
    page.get_by_label("In short").select_option("rises")
    expect(page.get_by_label("The plan so far")).to_contain_text("trials: 2 levels × 2 repeats")
    no_violations(page)
    page.get_by_role("button", name="Go to the run").click()

    page.get_by_role("heading", name="Before the first trial").wait_for()
    expect(page.get_by_role("button", name="3 lines still to tick")).to_be_disabled()
    no_violations(page)
    tick_cautions(page)
    field = page.locator("#timer-0")
    expect(field).to_be_focused()
    no_violations(page)

    expect(page.locator("[data-practice]")).to_contain_text("First one practice release for each group. It does not count")
    keep(page, "4.52")
    expect(page.locator("[data-practice]")).to_have_count(0)
    # a void by keyboard: V, then the digit of its fault; the turn comes again
    page.keyboard.press("v")
    page.get_by_role("dialog").wait_for()
    page.keyboard.press("1")
    expect(page.locator("#reading-says")).to_contain_text("Void: slipped from the cup")
    # nonsense is refused beside the field and stays there
    page.keyboard.type("far away")
    page.keyboard.press("Enter")
    expect(page.locator("#reading-says")).to_contain_text("is not a number")
    expect(field).to_have_value("far away")

    context.set_offline(True)
    keep(page, "6.1")
    keep(page, "4.60")
    expect(page.get_by_role("button", name="2 waiting to send")).to_be_visible()
    page.reload()  # the pages themselves come from the browser
    expect(page.get_by_role("button", name="2 waiting to send")).to_be_visible()
    context.set_offline(False)
    expect(page.get_by_role("button", name="waiting to send")).to_have_count(0, timeout=20_000)

    page.locator("#timer-0").focus()
    keep_last = "6 m 30 cm"
    page.keyboard.type(keep_last)
    expect(page.locator("#reading-says")).to_contain_text("Read as 6.3 m.")
    page.keyboard.press("Enter")
    page.get_by_role("heading", name="All 4 trials are in").wait_for()
    study = next(s for s in teacher.ok("GET", "/api/studies") if s["title"] == "Ferry sling")
    for _ in range(50):
        states = [t["state"] for t in teacher.ok("GET", f"/api/studies/{study['id']}/trials")]
        if len(states) == 5:
            break
        page.wait_for_timeout(100)
    assert sorted(states) == ["kept"] * 4 + ["void"]

    page.get_by_role("link", name="Read the verdict").click()
    page.get_by_role("heading", name=re.compile("cannot tell|rose|was about", re.I)).first.wait_for()
    expect(page.locator("[data-finding=few_repeats]")).to_be_visible()
    page.get_by_role("button", name=re.compile("How was the mean at")).first.click()
    expect(page.locator("[data-working] math[aria-label*='÷ 2'] mfrac").first).to_be_visible()
    no_violations(page)
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("against .* worked out")).click()
    expect(page.locator("[data-working]")).to_contain_text("difference = mean at")
    page.keyboard.press("Escape")
    no_violations(page)
    with page.expect_download() as download:
        page.get_by_role("button", name="Take it along").click()
        page.get_by_role("menuitem", name="Results table (CSV)").click()
    text = download.value.path().read_text(encoding="utf-8-sig")
    assert text.splitlines()[0].endswith("number of bands,distance to first touch (m),behaviour")
    assert text.count("\n") == 6
    assert "slipped from the cup" in text


def test_a_timed_trial_takes_two_presses_from_the_events_own_stamps(signed_in: tuple[Page, TeacherClient]) -> None:
    page, teacher = signed_in
    measure = {"name": "fall time", "quantity": "time", "unit": "s", "rule": "To first touch.", "timed": True}
    study = new_study(teacher, "Timed", measures=[measure])
    open_run(page, study)
    page.locator("body").press("Space")
    expect(page.get_by_role("timer")).to_be_visible()
    # events with their own stamps: the handler runs later, the time does not change
    page.evaluate("""async () => {
      const held = performance.now(); while (performance.now() - held < 700) {}
    }""")
    page.keyboard.press("Space")
    expect(page.locator("#reading-says")).to_contain_text("Kept ")
    for _ in range(50):
        trials = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
        if trials:
            break
        page.wait_for_timeout(100)
    assert len(trials) == 1
    assert 0.7 <= read_of(trials[0])["value"] < 5
    page.keyboard.press("z")
    expect(page.locator("#reading-says")).to_contain_text("Undone")
    expect(page.locator("#timer-0")).to_have_value(texts_of(trials[0])[0])


def test_a_half_typed_reading_outlives_a_reload(signed_in: tuple[Page, TeacherClient]) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Half typed")
    open_run(page, study)
    page.keyboard.type("14 ft 1")
    page.reload()
    expect(page.locator("#timer-0")).to_have_value("14 ft 1")


def test_a_trial_refused_on_arrival_is_mended_and_not_lost(signed_in: tuple[Page, TeacherClient], context: BrowserContext) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Mend")
    open_run(page, study)
    context.set_offline(True)
    page.keyboard.type("4 furlongs")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="1 waiting to send")).to_be_visible()
    context.set_offline(False)
    page.get_by_role("button", name="1 to correct").click(timeout=20_000)
    expect(page.get_by_role("dialog")).to_contain_text("is not a unit of length")
    no_violations(page)
    page.get_by_label("Corrected reading").fill("4 ft")
    page.get_by_role("button", name="Send again").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    assert texts_of(teacher.ok("GET", f"/api/studies/{study['id']}/trials")[0]) == ["4 ft"]


def test_two_people_planning_are_told_and_choose(signed_in: tuple[Page, TeacherClient]) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Both plan")
    page.goto(page.url.rstrip("/") + f"/study/{study['id']}/plan")
    expect(page.get_by_label("Repeats of each level")).to_have_value("3")
    teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": 1, "draft": {**DRAFT, "repeats": 6}})
    page.get_by_label("Repeats of each level").fill("4")
    expect(page.get_by_role("alert")).to_contain_text("6 repeats")
    page.get_by_role("button", name="Keep mine").click()
    expect(page.get_by_text("Saved.")).to_be_visible()
    expect(page.get_by_label("The plan so far")).to_contain_text("3 levels × 4 repeats")
    assert teacher.ok("GET", f"/api/studies/{study['id']}")["draft"]["repeats"] == 4


def test_bad_plans_say_why_at_their_place(signed_in: tuple[Page, TeacherClient]) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Bad plan")
    page.goto(page.url.rstrip("/") + f"/study/{study['id']}/plan")
    page.get_by_role("textbox", name="Level 2").fill("4.0")
    expect(page.get_by_text("is the same level as").first).to_be_visible()
    page.get_by_label("Repeats of each level").fill("999")
    expect(page.get_by_text("999 repeats cannot be run").first).to_be_visible()
    page.reload()
    expect(page.get_by_role("textbox", name="Level 2")).to_have_value("4.0")


def test_a_table_is_read_in_and_a_bad_cell_is_named(signed_in: tuple[Page, TeacherClient]) -> None:
    page, _ = signed_in
    page.get_by_role("link", name="Import a results table").click()

    def offer(name: str, data: bytes) -> None:
        page.get_by_label("The file").set_input_files([{"name": name, "mimeType": "text/csv", "buffer": data}])

    offer("latin.csv", "h\xf6he,zeit\n1,2\n".encode("latin-1"))
    expect(page.get_by_role("alert")).to_contain_text("UTF-8")
    offer("twice.csv", b"a,a\n1,2\n")
    expect(page.get_by_role("alert")).to_contain_text("twice")
    offer("bad.csv", b"pull (cm),distance (m)\n4,2.1\n6,far\n8,3.9\n")
    page.get_by_role("button", name="Make the study").click()
    expect(page.get_by_role("alert")).to_contain_text("row 3, column distance (m)")
    offer("good.csv", b"pull (cm);distance (m)\n4;2,10\n6;3,05\n8;3,90\n4;2,20\n6;3,15\n8;4,02\n")
    no_violations(page)
    page.get_by_role("button", name="Make the study").click()
    page.get_by_role("heading", name=re.compile("rose with pull")).wait_for()


def test_the_demo_on_every_view_and_theme_is_free_of_violations(app: Application, page: Page) -> None:
    page.goto(app.url)
    page.get_by_role("button", name="Open the demo").wait_for()
    no_violations(page)
    page.get_by_role("button", name="Open the demo").click()
    expect(page.get_by_role("heading", name="Message glider")).to_be_visible()
    no_violations(page)
    page.get_by_role("link", name=re.compile("Throwing a line")).click()
    page.get_by_role("heading", name=re.compile("rose with counterweight")).wait_for()
    for theme in ("Sun", "Hall", "Day"):
        page.get_by_role("button", name="Settings").click()
        page.get_by_text(theme, exact=True).click()
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
        no_violations(page)
    page.set_viewport_size({"width": 390, "height": 844})
    fits_across(page, 390)
    page.set_viewport_size({"width": 1280, "height": 800})
    page.get_by_role("tab", name="Against counterweight").click()
    expect(page.get_by_role("img", name=re.compile("against counterweight"))).to_be_visible()
    no_violations(page)


def test_one_thumb_on_a_phone(signed_in: tuple[Page, TeacherClient]) -> None:
    page, teacher = signed_in
    measure = {"name": "fall time", "quantity": "time", "unit": "s", "rule": "To first touch.", "timed": True}
    study = new_study(teacher, "Phone", measures=[measure])
    page.set_viewport_size({"width": 390, "height": 844})
    open_run(page, study)
    target = page.get_by_role("button", name=re.compile("Release"))
    box = target.bounding_box()
    assert box is not None
    assert box["height"] >= 72
    assert box["y"] + box["height"] < 844
    target.click()
    expect(page.get_by_role("timer")).to_have_text(re.compile(r"^(0\.[2-9]|[1-9])"))
    page.get_by_role("button", name=re.compile("Landed")).click()
    expect(page.locator("#reading-says")).to_contain_text("Kept ")
    fits_across(page, 390)
    no_violations(page)
    for name in ("Keep", "Void", "Undo"):
        size = page.get_by_role("button", name=re.compile(f"^{name}")).bounding_box()
        assert size is not None
        assert min(size["height"], size["width"]) >= 48


def test_the_same_trial_changed_on_two_devices_is_shown_with_both(signed_in: tuple[Page, TeacherClient], context: BrowserContext) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Two devices")
    trial = str(uuid4())
    turn = study["turns"][0]
    first = trial_body(level=turn["level"], group=turn["group"], text="4.40", block=turn["block"])
    teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{trial}", json=first)
    open_run(page, study)
    context.set_offline(True)
    page.keyboard.press("z")  # take it back here …
    expect(page.get_by_role("button", name="1 waiting to send")).to_be_visible()
    teacher.ok(
        "PUT", f"/api/studies/{study['id']}/trials/{trial}", json={**first, "readings": [{"measure": "m1", "texts": ["4.44"], "unit": "m"}], "revision": 2}
    )  # … while it is mended there
    context.set_offline(False)
    page.get_by_role("button", name="1 to correct").click(timeout=20_000)
    expect(page.get_by_role("dialog")).to_contain_text("changed on another device")
    page.get_by_role("button", name=re.compile("Keep theirs: “4.44”")).click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    assert texts_of(teacher.ok("GET", f"/api/studies/{study['id']}/trials")[0]) == ["4.44"]


def test_the_count_down_the_key_sheet_and_at_least(signed_in: tuple[Page, TeacherClient]) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Keys")
    open_run(page, study)
    page.keyboard.press("d")
    expect(page.get_by_role("button", name="Stop the count-down")).to_have_text("3")
    expect(page.get_by_role("button", name="Stop the count-down")).to_have_text("Go", timeout=6_000)
    expect(page.get_by_role("button", name="Stop the count-down")).to_have_count(0)
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("void, then a digit for the fault")
    no_violations(page)
    page.keyboard.press("Escape")
    expect(page.locator("#timer-0")).to_be_focused()
    page.keyboard.type("3.8")
    page.get_by_role("button", name=re.compile("^At least")).click()
    expect(page.locator("#timer-0")).to_have_value("3.8+")
    expect(page.locator("#reading-says")).to_contain_text("Read as at least 3.8 m.")
