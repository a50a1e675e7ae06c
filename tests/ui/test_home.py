"""Home answers for the next lesson: what comes stands above, what is past does not; what is found elsewhere is said."""

from __future__ import annotations

from datetime import date, timedelta
from uuid import uuid4

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import Application, TeacherClient, new_study, trial_body
from tests.ui.conftest import go, no_violations

pytestmark = pytest.mark.ui


def due(teacher: TeacherClient, title: str, days: int | None, **more: object) -> None:
    made = new_study(teacher, title, **more)
    if days is not None:
        teacher.ok("PATCH", f"/api/studies/{made['id']}", json={"version": made["version"], "next_lesson": (date.today() + timedelta(days=days)).isoformat()})


def test_a_lesson_that_comes_stands_above_one_that_is_past(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    due(teacher, "Last week’s", -7)
    due(teacher, "Without a day", None, class_label="7 Blue")
    page.goto(app.url)
    expect(page.get_by_text("Go on with", exact=True)).to_be_visible()  # nothing comes: no lesson is called the next
    expect(page.get_by_text("Next lesson")).to_have_count(0)
    for title, days in (("Second", 1), ("First", 1), ("Later", 6)):
        due(teacher, title, days, class_label="8 Amber" if title == "Later" else "")
    page.reload()
    expect(page.get_by_text("Next lesson: Tomorrow", exact=True)).to_be_visible()
    above = page.get_by_role("heading", level=1)
    expect(above).to_have_text("First")
    expect(page.locator("[data-also]")).to_contain_text("Also tomorrow")
    expect(page.locator("[data-also]").get_by_role("listitem")).to_have_count(1)
    expect(page.locator("[data-also]")).to_contain_text("Second")
    # by class, those without one last
    sections = page.locator("section[aria-label]").evaluate_all("all => all.map(s => s.getAttribute('aria-label'))")
    assert sections == ["Also that day", "8 Amber", "7 Blue", "Without a class"] or sections == ["Also that day", "7 Blue", "8 Amber", "Without a class"]
    no_violations(page)


def test_what_is_found_among_the_archived_is_said(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    for n in range(4):
        new_study(teacher, f"Current {n}")
    old = new_study(teacher, "Seed-wing of last year")
    teacher.ok("PATCH", f"/api/studies/{old['id']}", json={"version": old["version"], "archived": True})
    page.goto(app.url)
    page.get_by_label("Find").fill("seed-wing")
    expect(page.locator("[data-elsewhere]")).to_contain_text("One with these words is archived.")
    page.get_by_role("button", name="Show it").click()
    expect(page.get_by_role("link", name="Seed-wing of last year")).to_be_visible()


@pytest.mark.parametrize("where", ["run", "sheet"])
def test_a_finished_study_asks_before_it_takes_a_trial(signed_in: tuple[Page, TeacherClient], app: Application, where: str) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Done with")
    teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body())
    now = teacher.ok("GET", f"/api/studies/{study['id']}")
    teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": now["version"], "finished": True})
    go(page, app, study, where)
    asks = page.get_by_role("region", name="This study is finished")
    expect(asks).to_contain_text("1 of 9 trials are kept. To add a trial, open it again")
    no_violations(page)
    asks.get_by_role("button", name="Open it again").click()
    expect(asks).to_have_count(0)
    shown = page.get_by_role("heading", name="The recording sheet") if where == "sheet" else page.get_by_role("button", name="Keep")
    expect(shown).to_be_visible()
    assert teacher.ok("GET", f"/api/studies/{study['id']}")["finished"] is False
