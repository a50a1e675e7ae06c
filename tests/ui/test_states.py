"""Pages on which there is nothing yet, and pages that still wait: in one hand, with the one act that helps, and nothing untrue in between."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import Application, TeacherClient, new_study
from tests.ui.conftest import fits_across, go, no_violations

pytestmark = pytest.mark.ui

EMPTY = [
    ("run", "The plan is not ready yet", "Go on planning"),
    ("work-out", "Nothing to work out yet", "Go on planning"),
    ("decide", "Nothing to decide yet", "Go on planning"),
    ("sums", "No sums to check yet", "Go on planning"),
    ("show", "Nothing is shown yet", "To the lane"),
    ("trials", "All trials", "Go on planning"),
    ("sheet", "The recording sheet", "Go on planning"),
    ("build", "On the shelf", "Write the first device down"),
]


def test_an_empty_study_says_on_every_page_what_is_missing_and_what_to_do(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = teacher.ok("POST", "/api/studies", json={"id": "00000000-0000-4000-8000-0000000e0e0e", "title": "Empty one", "draft": {}})
    for where, title, act in EMPTY:
        go(page, app, study, where)
        expect(page.get_by_role("heading", level=1, name=title)).to_be_visible()
        expect(page.locator("main").get_by_text(act, exact=True)).to_be_visible()
        expect(page.get_by_role("button", name="Print")).to_have_count(0)  # what has nothing to print has no Print
        expect(page.get_by_text("Try again")).to_have_count(0)
        fits_across(page, 1280)
        no_violations(page)
    go(page, app, study, "ask")
    page.get_by_role("heading", name="What could be changed?").wait_for()
    expect(page.get_by_role("button", name="Print")).to_have_count(0)
    go(page, app, study, "plan/materials")
    expect(page.get_by_text("device to build")).to_be_visible()


def test_while_a_plan_opens_nothing_untrue_is_said(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Opening", hold=[{"name": "who releases", "how": "one person"}])
    page.route("**/ahead", lambda r: None)  # what the core says of it is still on its way
    go(page, app, study, "plan")
    kept = page.get_by_role("region", name="What is kept the same", exact=True)
    kept.get_by_role("button", name="What is kept the same").click()
    expect(kept.locator("[data-folded]")).to_have_text("…")
    page.unroute("**/ahead")
    page.reload()
    kept.get_by_role("button", name="What is kept the same").click()
    expect(kept.locator("[data-folded]")).to_contain_text("who releases (one person)")


def test_a_study_that_is_called_by_its_question_does_not_say_it_twice(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    new_study(teacher, "Does the arm matter", question="Does the arm matter?")
    page.goto(app.url)
    page.get_by_role("heading", level=1, name="Does the arm matter").wait_for()
    expect(page.get_by_text("Does the arm matter?", exact=True)).to_have_count(0)


@pytest.mark.parametrize("where", ["plan", "build", "run", "work-out", "show", "trials", "decide"])
def test_a_page_that_cannot_be_given_says_why_and_leads_on(signed_in: tuple[Page, TeacherClient], app: Application, where: str) -> None:
    page, _ = signed_in
    page.goto(f"{app.url}/study/00000000-0000-4000-8000-00000000dead/{where}")
    expect(page.get_by_role("heading", level=1, name="This page could not be opened")).to_be_visible()
    expect(page.get_by_role("alert")).to_contain_text("There is no such study here.")
    no_violations(page)
    page.get_by_role("link", name="All studies", exact=True).click()
    page.get_by_role("button", name="New study").wait_for()
