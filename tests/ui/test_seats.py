"""The class comes in by the signs on the wall, each group with its own browser, and runs its turns; the teacher sees who is in."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.conftest import Application, TeacherClient, new_study, open_run
from tests.ui.conftest import PATIENCE_MS, fits_across, go, no_violations
from tests.ui.test_the_lane import stored

pytestmark = pytest.mark.ui
Signed = tuple[Page, TeacherClient]
Come = Callable[..., Page]


@pytest.fixture
def come(browser: Browser, app: Application) -> Iterator[Come]:
    """A phone of the class, which comes in by the code."""
    opened = []

    def in_(code: str, group: str | re.Pattern[str] = "", *, scanned: bool = False) -> Page:
        context = browser.new_context(viewport={"width": 390, "height": 844}, service_workers="block")
        context.set_default_timeout(PATIENCE_MS)
        opened.append(context)
        phone = context.new_page()
        phone.goto(f"{app.url}/join" + (f"?code={code.replace(' ', '')}" if scanned else ""))
        if not scanned:
            phone.get_by_label("The six signs on the wall").fill(code.lower())
            phone.keyboard.press("Enter")
        phone.get_by_role("heading", name="Which group are you?").wait_for()
        no_violations(phone)
        phone.get_by_role("button", name=group).click()
        return phone

    yield in_
    for context in opened:
        context.close()


def lesson(page: Page, app: Application, study: dict[str, Any]) -> str:
    """The teacher lets the class in: the signs on the wall."""
    go(page, app, study, "plan/class")
    page.get_by_role("button", name="Let the class in").click()
    signs = page.locator("[data-signs]")
    expect(signs).to_have_text(re.compile(r"^\w{3} \w{3}$"))
    return signs.inner_text()


def test_two_groups_run_their_own_turns_and_the_teacher_sees_who_is_in(signed_in: Signed, come: Come, app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Pulled", groups=["Avocet", "Curlew"], repeats=2, run=False)
    code = lesson(page, app, study)
    expect(page.get_by_role("img", name=re.compile("^Scan to open"))).to_be_visible()
    no_violations(page)
    wall = come(code, "This is the wall")
    expect(wall.locator("[data-coming-in] [data-group='Curlew']")).to_have_attribute("data-in", "0")
    expect(wall.locator("[data-signs]")).to_have_text(code)
    no_violations(wall)
    curlew = come(code, "Curlew")
    expect(page.locator("[data-group='Curlew']")).to_have_attribute("data-in", "1")
    expect(wall.locator("[data-group='Curlew']")).to_have_attribute("data-in", "1")
    expect(wall.get_by_role("button", name="Send out")).to_have_count(0)
    expect(page.locator("[data-group='Avocet']")).to_contain_text("not here yet")
    expect(curlew.get_by_role("heading", name="The lane is not open yet")).to_be_visible()
    open_run(teacher, study)  # the teacher opens it: the phone notices by itself
    wall.locator("[data-next]").wait_for()
    curlew.get_by_role("button", name=re.compile("^Keep")).wait_for()
    fits_across(curlew, 390)
    avocet = come(code, re.compile("^Avocet"), scanned=True)
    avocet.get_by_role("button", name=re.compile("^Keep")).wait_for()
    own = {g: [t for t in teacher.ok("GET", f"/api/studies/{study['id']}")["turns"] if t["group"] == g] for g in ("Avocet", "Curlew")}
    for phone, group, text in ((curlew, "Curlew", "4.1"), (avocet, "Avocet", "5.2")):
        expect(phone.get_by_label("Now on the lane")).to_contain_text(group)
        phone.locator("#timer-0").fill(text)
        phone.get_by_role("button", name=re.compile("^Keep")).click()
        expect(phone.get_by_role("status").filter(has_text="Kept")).to_be_visible()
        assert own[group]
    kept = stored(curlew, teacher, study, 2)
    assert {t["group"]: t["readings"][0]["texts"] for t in kept} == {"Curlew": ["4.1"], "Avocet": ["5.2"]}
    history = teacher.ok("GET", f"/api/studies/{study['id']}/trials/{kept[0]['id']}/history")
    assert history[0]["sent_by"] == kept[0]["group"]
    # what may not be done is not shown
    for hidden in ("Plan", "Work out", "Show"):
        expect(curlew.get_by_role("link", name=hidden, exact=True)).to_have_count(0)
    curlew.goto(f"{app.url}/study/{study['id']}/plan")
    expect(curlew).to_have_url(re.compile("/run$"))
    curlew.reload()
    expect(curlew.get_by_label("Now on the lane")).to_contain_text("Curlew")  # a seat survives a reload


def test_a_group_is_sent_out_and_the_lesson_is_closed(signed_in: Signed, come: Come, app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Pulled", groups=["Avocet", "Curlew"], repeats=2)
    code = lesson(page, app, study)
    curlew, wall = come(code, "Curlew"), come(code, "This is the wall")
    curlew.get_by_role("button", name=re.compile("^Keep")).wait_for()
    wall.locator("[data-next]").wait_for()
    expect(page.get_by_text("and 1 other", exact=False)).to_be_visible()
    page.get_by_role("button", name="Send out Curlew").click()
    expect(page.locator("[data-group='Curlew']")).to_have_attribute("data-in", "0")
    expect(curlew.get_by_role("heading", name="The lesson is over")).to_be_visible()
    page.get_by_role("button", name="Close, and send all out").click()
    expect(page.get_by_role("button", name="Let the class in")).to_be_visible()
    expect(wall.get_by_role("heading", name="The lesson is over")).to_be_visible()
    late = wall.context.new_page()
    late.goto(f"{app.url}/join")
    late.get_by_label("The six signs on the wall").fill(code)
    late.keyboard.press("Enter")
    expect(late.get_by_text("This code lets nobody in", exact=False)).to_be_visible()


def test_a_trial_is_kept_on_a_phone_without_a_network_and_sent_later(signed_in: Signed, come: Come, app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Pulled", groups=["Avocet", "Curlew"], repeats=2)
    curlew = come(lesson(page, app, study), "Curlew")
    curlew.get_by_role("button", name=re.compile("^Keep")).wait_for()
    curlew.context.set_offline(True)
    curlew.locator("#timer-0").fill("4.44")
    curlew.get_by_role("button", name=re.compile("^Keep")).click()
    expect(curlew.get_by_text(re.compile("1 .*wait", re.I)).first).to_be_visible()
    curlew.context.set_offline(False)
    expect(page.get_by_role("heading", name="The class comes in")).to_be_attached()
    for _ in range(200):
        kept = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
        if kept:
            break
        curlew.wait_for_timeout(100)
    assert [(t["group"], t["readings"][0]["texts"]) for t in kept] == [("Curlew", ["4.44"])]


def test_stop_stands_on_every_lane_until_it_is_lifted(signed_in: Signed, come: Come, app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Pulled", groups=["Avocet", "Curlew"], repeats=2)
    code = lesson(page, app, study)
    curlew, wall = come(code, "Curlew"), come(code, "This is the wall")
    curlew.get_by_role("button", name=re.compile("^Keep")).wait_for()
    wall.locator("[data-next]").wait_for()
    curlew.locator("#timer-0").fill("4.4")
    page.get_by_role("button", name="Stop every lane").click()
    for phone in (curlew, wall):
        expect(phone.get_by_role("alertdialog")).to_contain_text("STOP")
        expect(phone.get_by_role("button", name="Lift the stop")).to_have_count(0)  # only the teacher lifts it
    no_violations(curlew)
    curlew.keyboard.press("Enter")  # nothing below is pressed
    curlew.wait_for_timeout(400)
    assert teacher.ok("GET", f"/api/studies/{study['id']}/trials") == []
    curlew.reload()
    expect(curlew.get_by_role("alertdialog")).to_contain_text("STOP")
    page.get_by_role("button", name="Lift the stop").click()
    expect(curlew.get_by_role("alertdialog")).to_have_count(0)
    expect(curlew.locator("#timer-0")).to_have_value("4.4")  # nothing typed is lost
    page.get_by_label("A line for every lane").fill("Five minutes left.")
    page.get_by_role("button", name="Say it").click()
    expect(curlew.locator("[data-said]")).to_have_text("Five minutes left.")
    assert curlew.request.put(f"{app.url}/api/studies/{study['id']}/lanes", data={"stopped": False}).status == 403


def test_a_group_writes_its_prediction_and_its_sentence_for_the_poster(signed_in: Signed, come: Come, app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Pulled", groups=["Avocet", "Curlew"], repeats=2)
    curlew = come(lesson(page, app, study), "Curlew")
    curlew.get_by_role("link", name="Say", exact=True).click()
    curlew.get_by_label("What do you predict, and why?").fill("It goes further.")
    curlew.reload()  # half typed, nothing is lost
    expect(curlew.get_by_label("What do you predict, and why?")).to_have_value("It goes further.")
    no_violations(curlew)
    fits_across(curlew, 390)
    curlew.get_by_role("button", name="Write it down").click()
    expect(curlew.get_by_text("It is with the teacher", exact=False)).to_be_visible()
    curlew.get_by_role("link", name="Run", exact=True).click()
    curlew.locator("#timer-0").fill("4.4")
    curlew.get_by_role("button", name=re.compile("^Keep")).click()
    expect(curlew.get_by_role("status").filter(has_text="Kept")).to_be_visible()
    curlew.get_by_role("link", name="Say", exact=True).click()
    expect(curlew.get_by_text("Your first trial is in", exact=False)).to_be_visible()
    curlew.get_by_label("What did you find out?").fill("It went 4.4 m.")
    curlew.get_by_role("button", name="Write it down").click()
    expect(curlew.get_by_text("It is with the teacher", exact=False)).to_be_visible()
    go(page, app, study, "show")
    page.get_by_role("button", name="Make the poster").click()
    expect(page.get_by_label("In the groups’ own words").first).to_contain_text("Curlew predicted “It goes further”, and says “It went 4.4 m”.")


def test_a_class_is_erased_by_one_button_with_the_proof(signed_in: Signed, app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Pulled", class_label="8b", groups=["Avocet"])
    page.goto(app.url)
    page.get_by_role("button", name="Settings").click()
    page.get_by_text("Erase a class", exact=True).click()
    page.get_by_role("button", name="Erase 8b …").click()
    gone = page.get_by_role("button", name="Erase 8b for good")
    expect(gone).to_be_disabled()
    page.get_by_label("Type 8b to erase it").fill("8b")
    no_violations(page)
    gone.click()
    expect(page.locator("[data-erased]")).to_contain_text("8b is erased: Pulled.")
    expect(page.locator("[data-erased] tr").filter(has_text=re.compile("^study"))).to_contain_text("10")  # one before, none now
    assert teacher.http.get(f"/api/studies/{study['id']}").status_code == 404
