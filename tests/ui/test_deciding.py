"""The class's sums and "what if", in a real browser, against the core's own answers."""

from __future__ import annotations

import re
from uuid import uuid4

import pytest
from playwright.sync_api import Page, expect

from tests.api.test_showing import run_some
from tests.conftest import Application, TeacherClient, new_study, trial_body
from tests.ui.conftest import fits_across, go, no_violations
from tests.ui.test_the_record import FALL

pytestmark = pytest.mark.ui


def test_a_speed_is_marked_beside_its_slip(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Speeds", repeats=2, groups=["Red"], **FALL)
    level = study["levels"][0]["id"]
    for block, text in enumerate(("2.00", "3.00"), 1):
        teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body(level, text, unit="s", block=block))
    go(page, app, study, "sums")
    page.get_by_label("What they worked out").select_option(label="descent speed in m/s, for each level")
    box = page.locator("[data-sums] tbody tr").first.locator("input").nth(1)
    for text, mark in (("1.75", "right"), ("1.68", "right"), ("0.57", "upside_down")):
        box.fill(text)
        page.get_by_role("button", name="Check", exact=True).click()
        expect(page.locator("[data-mark]")).to_have_attribute("data-mark", mark)
    page.goto(f"{app.url}/together?study={study['id']}")
    expect(page.locator("[data-sums-right]")).to_have_text("0 of 1 sums right; not all of Red")


def test_a_pasted_table_of_sums_is_marked_with_the_slips_named(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Sums", repeats=3)
    run_some(teacher, study, {0: ["4.0", "4.2", "5.0"], 1: ["6.1", "6.2", "6.3"]})
    go(page, app, study, "sums")
    page.get_by_role("heading", name="Check the sums").wait_for()
    no_violations(page)
    box = page.locator("[data-sums] tbody tr").first.locator("input").nth(1)
    box.focus()
    page.evaluate("""() => { const d = new DataTransfer(); d.setData('text', '4.4\\t6.2\\n13.2\\t6.1\\n4.2\\tsix');
      document.activeElement.dispatchEvent(new ClipboardEvent('paste', {clipboardData: d, bubbles: true, cancelable: true})) }""")
    page.get_by_role("button", name="Check", exact=True).click()
    expect(page.locator("[data-sums-said]")).to_have_text("2 of 6 right.")
    marks = [m.get_attribute("data-mark") for m in page.locator("[data-mark]").all()]
    # 4.0 + 4.2 + 5.0 = 13.2, ÷ 3 = 4.4; the middle one is 4.2; of 6.1, 6.2, 6.3 the mean is 6.2 (worked by hand)
    assert [marks[n] for n in (0, 1, 2, 4)] == ["right", "right", "not_divided", "median_for_mean"]
    expect(page.locator("[data-mark=not_divided]")).to_contain_text("added but not divided by 3")
    expect(page.locator("[data-mark=median_for_mean]")).to_contain_text("the middle reading, not the mean")
    page.get_by_label("What they worked out").select_option("range")
    box.fill("1.0")
    page.get_by_role("button", name="Check", exact=True).click()
    expect(page.locator("[data-mark]").first).to_have_attribute("data-mark", "right")
    page.reload()
    expect(box).to_have_value("1.0")
    page.emulate_media(media="print")
    expect(page.locator("[data-practice-sums]")).to_contain_text("4.0 m, 4.2 m, 5.0 m")
    first = page.locator("[data-answers] tbody tr").first
    first.wait_for()
    assert [c.inner_text() for c in first.locator("td").all()] == ["3", "13.2 m", "4.4 m", "5 m", "4 m", "1 m"]
    page.emulate_media(media="screen")
    page.get_by_role("checkbox", name=re.compile("answers for the teacher")).uncheck()
    page.emulate_media(media="print")
    expect(page.locator("[data-practice-sums]")).to_be_visible()
    expect(page.locator("[data-answers]")).to_have_count(0)
    page.emulate_media(media="screen")
    page.set_viewport_size({"width": 390, "height": 844})
    fits_across(page, 390)


def test_what_if_stands_beside_the_verdict_and_changes_nothing(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "What if", repeats=3)
    run_some(teacher, study, {0: ["4.1", "4.2", "9.9"], 1: ["6.1", "6.2", "6.3"]})
    before = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")
    go(page, app, study, "work-out")
    page.get_by_role("button", name="What if …").click()
    page.get_by_label("Without trials, by number").fill("3")
    page.get_by_label("What the result is").select_option("median")
    page.get_by_role("button", name="Look", exact=True).click()
    supposed = page.locator("[data-supposed]")
    expect(supposed).to_contain_text("The median as the result; without trial 3", ignore_case=True)
    asked = teacher.ok("POST", f"/api/studies/{study['id']}/what-if", json={"without": [3], "result": "median"})
    expect(supposed).to_contain_text(asked["analysis"]["verdict"]["says"])
    assert asked["analysis"]["levels"][0]["n_kept"] == 2
    no_violations(page)
    assert teacher.ok("GET", f"/api/studies/{study['id']}/analysis") == before
    page.get_by_label("Without trials, by number").fill("the odd one")
    page.get_by_role("button", name="Look", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("is not a list of trial numbers")


def test_a_best_at_the_end_can_be_gone_past_with_one_press(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    """As the verdict advises; another choice of the class has no levels of the concluded best beside it."""
    page, teacher = signed_in
    study = new_study(teacher, "Pull-backs")
    for level, start in (("4", 2.0), ("6", 3.0), ("8", 4.0)):
        for block in (1, 2, 3):
            teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body(level, f"{start + block * 0.05:.2f}", block=block, released_at=f"2026-05-04T10:0{block}:0{level}Z"))
    go(page, app, study, "decide")
    page.get_by_role("button", name="4 cm").click()
    expect(page.get_by_role("button", name=re.compile("Same thing"))).to_have_count(0)
    page.get_by_role("button", name="8 cm").click()
    expect(page.get_by_role("button", name=re.compile("Same thing, between: 6, 6.67, 7.33, 8.cm"))).to_be_visible()
    page.get_by_role("button", name=re.compile("Same thing, past it: 8, 10, 12.cm")).click()
    expect(page.get_by_label("The plan so far")).to_contain_text("3 levels × 3 repeats")
    expect(page.get_by_role("textbox", name="Level 3")).to_have_value("12")
