"""Every page on a phone: nothing scrolls sideways, and what is pressed is large enough for a thumb (44 px; WCAG 2.2, 2.5.5)."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page

from tests.api.test_showing import run_some
from tests.conftest import Application, TeacherClient, new_study
from tests.ui.conftest import fits_across

pytestmark = pytest.mark.ui

PAGES = [
    ("", "/"),
    ("", "/usual"),
    ("", "/practice"),
    ("", "/together"),
    ("", "/marking"),
    ("", "/read-in"),
    *(("Medicine drop", w) for w in ("ask", "plan", "plan/lesson", "plan/materials", "build", "sheet")),
    *(("Message glider", w) for w in ("run", "work-out", "show", "trials", "decide", "sums")),
    *(("Pod, round by round", w) for w in ("build", "work-out")),
    ("Cracker pod", "work-out"),
]
#: Everything that can be pressed and is lower or narrower than a thumb; a box counts with the label that is pressed for it.
SMALL = """() => {
  const found = []
  for (const e of document.querySelectorAll('button, a[href], input, select, textarea, summary, [role=tab]')) {
    const own = e.getBoundingClientRect()
    if (!own.width || !own.height || getComputedStyle(e).visibility === 'hidden' || e.closest('.sr-only') || e.matches('[class*=sr-only]')) continue
    const box = (e.closest('label') ?? e).getBoundingClientRect()
    if (Math.max(own.height, box.height) < 43.5 || Math.max(own.width, box.width) < 24) found.push([e.tagName, e.innerText || e.getAttribute('aria-label') || '', own.width, own.height])
  }
  return found
}"""


def test_every_page_of_the_demo_is_for_a_thumb(own_app: Callable[..., Application], page: Page) -> None:
    app = own_app()  # as it ships: what other tests leave in the demo is not looked at here
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(app.url)
    page.get_by_role("button", name="Open the demo").click()
    page.get_by_role("button", name="New study").wait_for()
    ids = {s["title"]: s["id"] for s in page.evaluate("fetch('/api/studies').then(r => r.json())")}
    # there are reports to look at and to mark, whatever other tests have made
    report = "id => fetch(`/api/studies/${id}/reports`, {method: 'POST', headers: {'content-type': 'application/json'}, body: JSON.stringify({id: crypto.randomUUID()})}).then(r => r.status)"
    for _ in range(2):
        assert page.evaluate(report, ids["Message glider"]) in (200, 201)
    small: list[Any] = []
    for title, where in PAGES:
        page.goto(f"{app.url}/study/{ids[title]}/{where}" if title else f"{app.url}{where}")
        page.locator("main h1").first.wait_for(state="attached")
        page.wait_for_load_state("networkidle")
        fits_across(page, 390)
        small += [(title, where, *one) for one in page.evaluate(SMALL)]
    assert small == []


def test_a_question_without_a_blank_makes_no_page_wider(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    long = "Pullbackdistanceofthelaunchermadefromoneclothespeg"
    study = new_study(teacher, long, question=f"{long}?", groups=["Pullbackdistanceoft", "Blue"], prediction=long)
    run_some(teacher, study, {0: ["2.0", "2.2", "2.4"], 1: ["3.9", "4.6", "4.3"], 2: ["6.1", "6.0", "6.3"]})
    page.set_viewport_size({"width": 390, "height": 844})
    for where in ("ask", "plan", "plan/lesson", "plan/materials", "build", "run", "sheet", "work-out", "decide", "show", "trials", "sums"):
        page.goto(f"{app.url}/study/{study['id']}/{where}")
        page.locator("main h1").first.wait_for(state="attached")
        page.wait_for_load_state("networkidle")
        fits_across(page, 390)
    page.goto(app.url)
    page.get_by_role("heading", name=long).first.wait_for()
    fits_across(page, 390)
