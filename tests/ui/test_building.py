"""Building as a group does it: on a phone in a pupil's hand, with a photo, without a network, two at once."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import BrowserContext, Page, expect

from tests.api.test_planning_and_building import camera_photo
from tests.conftest import Application, TeacherClient, new_study
from tests.ui.conftest import fits_across, go, no_violations, saved

pytestmark = pytest.mark.ui


def test_a_group_writes_its_device_down_on_a_phone(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    items = [{"name": "card", "shop_price": "3"}, {"name": "tape", "shop_price": "1"}]
    study = new_study(teacher, "Phone build", rules={"mass_limit": "30 g", "budget": "10"}, materials={"items": items, "money": "coins"})
    page.set_viewport_size({"width": 390, "height": 844})
    page.clock.install()
    go(page, app, study, "build")
    page.get_by_role("button", name="Write the first device down").click()
    page.get_by_label("Which group’s device").select_option("Red")
    page.get_by_role("button", name="Write it down").click()
    page.get_by_role("heading", name="Red version 1").wait_for()
    page.get_by_label("Mass", exact=True).fill("34 g")
    expect(page.locator("[data-rule=limit]")).to_contain_text("not kept")
    expect(page.locator("[data-rule=limit]")).to_contain_text("34 g breaks the limit of 30 g")
    page.get_by_label("Mass", exact=True).fill("28 g")
    expect(page.locator("[data-rule=limit]")).to_contain_text("28 g keeps the limit")
    page.get_by_label("card", exact=True).fill("2")
    page.get_by_label("tape", exact=True).fill("5")
    expect(page.locator("[data-rule=budget]")).to_contain_text("11 coins of 10 coins spent; 1 coin too much.")
    page.get_by_label("tape", exact=True).fill("4")
    expect(page.locator("[data-rule=budget]")).to_contain_text("0 coins left")
    pinned = page.get_by_role("region", name="How it looks")
    name = pinned.get_by_label("Name of property 1").input_value()  # the plan's variable stands there
    pinned.get_by_label(name, exact=True).fill("6 cm")
    pinned.get_by_role("button", name="Add a property").click()
    pinned.get_by_label("Name of property").last.fill("glue")
    pinned.get_by_label("glue", exact=True).fill("hot")

    # a sketch with a finger, a stroke too many, a photo from the camera
    page.get_by_role("button", name="Draw or photograph it").click()
    board = page.get_by_role("img", name=re.compile("Empty sheet for a sketch"))
    board.scroll_into_view_if_needed()
    box = board.bounding_box()
    assert box is not None
    for up in (0.2, 0.6):
        page.mouse.move(box["x"] + 30, box["y"] + box["height"] * up)
        page.mouse.down()
        page.mouse.move(box["x"] + 200, box["y"] + box["height"] * up, steps=5)
        page.mouse.up()
    expect(page.get_by_role("img", name="Sketch in 2 strokes")).to_be_visible()
    page.get_by_role("button", name="Undo the last stroke").click()
    expect(page.get_by_role("img", name="Sketch in 1 stroke")).to_be_visible()
    photo = page.get_by_label("Photo of it")
    photo.set_input_files([{"name": "notes.jpg", "mimeType": "image/jpeg", "buffer": b"not a photo"}])
    expect(page.get_by_role("alert")).to_contain_text("This is not a photo that can be read.")
    photo.set_input_files([{"name": "pod.jpg", "mimeType": "image/jpeg", "buffer": camera_photo(800, 600)}])
    shown = page.get_by_role("dialog").get_by_role("img", name="Red, version 1")
    expect(shown).to_be_visible()
    photo = page.get_by_label("Another photo")
    photo.set_input_files([{"name": "pod.jpg", "mimeType": "image/jpeg", "buffer": camera_photo(400, 200)}])
    expect(shown).to_have_js_property("naturalHeight", 400)  # the newest one is shown, upright
    no_violations(page)
    page.keyboard.press("Escape")
    for face, seen in (("Drawing", "drawing"), ("Sketch", "sketch"), ("Photo", "photo")):
        page.get_by_role("button", name=face, exact=True).click()
        expect(page.locator(f"[data-bench={seen}]")).to_be_visible()
    checks = page.get_by_role("region", name="Before it is tried")
    for box_ in checks.get_by_role("checkbox").all():
        box_.check()
    expect(page.get_by_text("All looked at.")).to_be_visible()
    saved(page)
    no_violations(page)
    fits_across(page, 390)

    # the next version: a copy in which only what changed is typed
    page.get_by_role("button", name="Next version: change one thing").click()
    page.get_by_label("What one thing is changed, and why?").fill("It slipped from the cup.")
    page.get_by_role("button", name="Write it down").click()
    page.get_by_role("heading", name="Red version 2").wait_for()
    expect(page.locator("[data-changed]")).to_contain_text("Nothing that is written down changed since version 1.")
    pinned.get_by_label(name, exact=True).fill("8 cm")
    expect(page.locator(f"[data-pinned='{name}']")).to_contain_text("6 cm")
    expect(page.locator("[data-changed]")).to_contain_text("One thing changed since version 1")
    saved(page)
    page.clock.fast_forward(2_500)  # another bout of typing
    pinned.get_by_label("glue", exact=True).fill("a slip of the hand")
    page.clock.fast_forward(2_500)
    pinned.get_by_label("glue", exact=True).fill("worse")
    page.get_by_role("button", name="Undo what was typed last").click()
    expect(pinned.get_by_label("glue", exact=True)).to_have_value("a slip of the hand")
    page.get_by_role("button", name="Undo what was typed last").click()
    expect(pinned.get_by_label("glue", exact=True)).to_have_value("hot")
    expect(page.locator("[data-changed]")).to_contain_text("One thing changed since version 1")
    page.get_by_label("Anything else that was changed").fill("a wider cup")
    expect(page.locator("[data-changed]")).to_contain_text("but not which of them did it")
    page.get_by_label("Yes, that is everything that was changed.").check()
    saved(page)
    versions = teacher.ok("GET", f"/api/studies/{study['id']}/versions")
    assert [(v["number"], v["photo"], v["draft"]["since"]) for v in versions] == [(1, True, None), (2, False, 1)]
    assert len(versions[0]["draft"]["sketch"]) == 1
    assert versions[1]["draft"]["confirmed"] is True

    expect(page.locator("[data-arrow='1 2']")).to_contain_text("two at once")
    page.get_by_role("button", name="Lay two side by side").click()
    expect(page.locator("[data-compared]")).to_contain_text("2 things differ.")
    no_violations(page)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Remove this version").click()
    expect(page.get_by_role("button", name="Red, version 2")).to_have_count(0)
    page.reload()  # it stays on offer
    page.get_by_role("button", name="Restore Red 2").click()
    page.get_by_role("heading", name="Red version 2").wait_for()


@pytest.mark.opened_offline
def test_what_is_typed_of_a_device_outlives_a_lost_network_and_a_reload(
    signed_in: tuple[Page, TeacherClient], app: Application, context: BrowserContext
) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Lost network")
    teacher.ok("PUT", f"/api/studies/{study['id']}/versions/{study['id'][:-1]}0", json={"device": "Red", "draft": {}})
    go(page, app, study, "build")
    page.get_by_role("heading", name="Red version 1").wait_for()
    context.set_offline(True)
    page.get_by_label("Note", exact=True).fill("bent at the rim")
    expect(page.get_by_text("What is written stays in this browser.")).to_be_visible()
    page.reload()
    expect(page.get_by_label("Note", exact=True)).to_have_value("bent at the rim")
    context.set_offline(False)
    expect(page.get_by_role("status").filter(has_text=re.compile(r"^Saved\.$"))).to_be_visible(timeout=20_000)
    assert teacher.ok("GET", f"/api/studies/{study['id']}/versions")[0]["draft"]["note"] == "bent at the rim"


def test_two_who_write_of_one_device_are_told_and_choose(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Two pens")
    path = f"/api/studies/{study['id']}/versions/{study['id'][:-1]}0"
    teacher.ok("PUT", path, json={"device": "Red", "draft": {}})
    go(page, app, study, "build")
    page.get_by_role("heading", name="Red version 1").wait_for()
    teacher.ok("PUT", path, json={"device": "Red", "draft": {"note": "theirs"}, "revision": 1})
    page.get_by_label("Note", exact=True).fill("mine")
    expect(page.get_by_role("alert")).to_be_visible()
    expect(page.get_by_role("status").filter(has_text="Someone else changed this version meanwhile")).to_be_visible()
    page.get_by_role("button", name="Keep mine").click()
    saved(page)
    assert teacher.ok("GET", path.rsplit("/", 1)[0])[0]["draft"]["note"] == "mine"


def test_a_rocket_is_drawn_from_the_side_with_balance_and_pressure(app: Application, page: Page) -> None:
    page.goto(app.url)
    page.get_by_role("button", name="Open the demo").click()
    page.get_by_role("link", name=re.compile("Fizz signal")).click()
    page.get_by_role("link", name="Build").click()
    bench = page.get_by_role("region", name="How it looks")
    expect(bench.get_by_role("img").first).to_have_attribute("aria-label", re.compile("A rocket from the side, its nose to the left, with 4 fins."))
    expect(bench).to_contain_text("margin 1.2 × the body’s width")
    side = page.get_by_role("region", name="From the side")
    expect(side).to_contain_text("It balances 128 mm from the front, with 27 g in total.")
    expect(side).to_contain_text("the margin is 1.2 body diameters, in the usual range")
    side.get_by_text("How?").click()
    expect(side).to_contain_text("position = Σm·x / Σm")
    no_violations(page)


@pytest.mark.parametrize("width", [1280, 390])
def test_every_new_page_of_the_demo_is_free_of_violations_and_fits(app: Application, page: Page, width: int) -> None:
    page.set_viewport_size({"width": width, "height": 800 if width > 400 else 844})
    page.goto(app.url)
    page.get_by_role("button", name="Open the demo").click()
    page.get_by_role("button", name="New study").wait_for()
    ids = {s["title"]: s["id"] for s in page.evaluate("fetch('/api/studies').then(r => r.json())")}
    for title, where, wait in (
        ("Marsh hoist", "ask", "What could be changed?"),
        ("Medicine drop", "ask", "Kept the same"),
        ("Medicine drop", "plan", "Rehearsal"),
        ("Medicine drop", "plan/lesson", "It fits"),
        ("Medicine drop", "plan/materials", "Rules for a device"),
        ("Cracker pod", "plan", "Cautions and limits"),
        ("Cracker pod", "build", "On the shelf"),
    ):
        page.goto(f"{app.url}/study/{ids[title]}/{where}")
        page.get_by_role("heading", name=wait).first.wait_for()
        fits_across(page, width)
        no_violations(page)


def test_in_design_rounds_a_new_version_is_put_on_the_plan_and_run(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(
        teacher,
        "Rounds",
        study_kind="design_rounds",
        variable={"name": "version", "kind": "name", "levels": ["1", "2"]},
        expect="2",
        groups=["Red"],
    )
    for number in (1, 2):
        body = {"device": "Red", "draft": {"since": number - 1 or None, "properties": [{"name": "fins", "value": str(number)}]}}
        teacher.ok("PUT", f"/api/studies/{study['id']}/versions/{study['id'][:-1]}{number}", json=body)
    go(page, app, study, "build")
    expect(page.get_by_text("Version 2 is on the plan.")).to_be_visible()
    page.get_by_role("button", name="Next version: change one thing").click()
    page.get_by_role("button", name="Write it down").click()
    page.get_by_role("button", name="Put version 3 on the plan").click()
    expect(page.get_by_text("Version 3 is on the plan.")).to_be_visible()
    page.get_by_role("link", name="Go to the run").click()
    page.get_by_role("button", name=re.compile("^Keep")).wait_for()  # one more version changes nothing that was signed: no cautions anew
    for _ in range(50):
        held = teacher.ok("GET", f"/api/studies/{study['id']}")
        if held["planned"] == 9:
            break
        page.wait_for_timeout(100)
    assert [level["text"] for level in held["levels"]] == ["1", "2", "3"]
    no_violations(page)
