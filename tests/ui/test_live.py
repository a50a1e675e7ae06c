"""What one screen does, the others show: without a reload, without asking, and after they were away."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any
from uuid import uuid4

import pytest
from playwright.sync_api import Browser, Page, Request, expect

from tests.conftest import Application, TeacherClient, new_study, trial_body
from tests.ui.conftest import PATIENCE_MS, go

pytestmark = pytest.mark.ui
Signed = tuple[Page, TeacherClient]


@pytest.fixture
def other(signed_in: Signed, browser: Browser) -> Iterator[Page]:
    """A second screen of the same teacher."""
    page, _ = signed_in
    context = browser.new_context(storage_state=page.context.storage_state(), viewport={"width": 1280, "height": 800}, service_workers="block")
    context.set_default_timeout(PATIENCE_MS)
    made = context.new_page()
    yield made
    context.close()


def put(teacher: TeacherClient, study: dict[str, Any], **more: Any) -> dict[str, Any]:
    found: dict[str, Any] = teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body(**more))
    return found


def asked(page: Page) -> list[str]:
    """What the page asks from now on."""
    found: list[str] = []

    def note(r: Request) -> None:
        if "/api/" in r.url:
            found.append(f"{r.method} {r.url.partition('/api/')[2]}")

    page.on("request", note)
    return found


def test_a_kept_trial_is_on_every_other_screen_and_nobody_asks_in_between(signed_in: Signed, other: Page, app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, repeats=3)
    go(page, app, study, "work-out")
    go(other, app, study, "run")
    other.get_by_role("button", name=re.compile("^Keep")).wait_for()
    expect(page.get_by_text("Nothing to work out yet", exact=False).or_(page.get_by_role("link", name="Go to the run")).first).to_be_visible()
    other.locator("#timer-0").fill("4.52")
    other.get_by_role("button", name=re.compile("^Keep")).click()
    expect(page.get_by_role("figure", name=re.compile(r"4\.52 m, 1 kept"))).to_be_visible()
    other.wait_for_timeout(1_000)
    here, there = asked(page), asked(other)
    page.wait_for_timeout(7_000)  # twice as long as screens used to ask
    assert here == []
    assert there == []
    had = teacher.ok("GET", f"/api/studies/{study['id']}/trials")[0]["level"]  # which turn is the first is shuffled
    another = next(lv for lv in study["levels"] if lv["id"] != had)
    put(teacher, study, block=2, level=another["id"], text="5.9")
    expect(page.get_by_role("figure", name=re.compile(rf"{another['text']}: mean 5\.90? m, 1 kept"))).to_be_visible()


def test_a_plan_and_a_version_that_change_elsewhere_are_shown(signed_in: Signed, other: Page, app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher)
    go(page, app, study, "plan")
    go(other, app, study, "build")
    expect(page.get_by_label("Why?")).to_be_visible()
    teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": study["version"], "draft": study["draft"] | {"reason": "It has more time to push."}})
    expect(page.get_by_label("Why?")).to_have_value("It has more time to push.")
    teacher.ok("PUT", f"/api/studies/{study['id']}/versions/{uuid4()}", json={"device": "Curlew", "draft": {"mass": "20 g"}, "revision": 0})
    expect(other.get_by_role("heading", name=re.compile("Curlew"))).to_be_visible()


def test_a_screen_that_was_away_catches_up(signed_in: Signed, app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, repeats=3)
    go(page, app, study, "trials")
    page.wait_for_load_state("networkidle")
    page.context.set_offline(True)
    kept = [put(teacher, study, block=n, level="4", text=f"4.{n}") for n in (1, 2)]
    page.wait_for_timeout(500)
    page.context.set_offline(False)
    for k in kept:
        expect(page.get_by_text(k["readings"][0]["texts"][0], exact=False).first).to_be_visible()


def test_where_no_stream_comes_through_the_screen_asks_by_itself(signed_in: Signed, app: Application) -> None:
    """As behind a proxy that lets no such connection through."""
    page, teacher = signed_in
    study = new_study(teacher, repeats=3)
    page.context.route_web_socket(re.compile(r"/live(\?|$)"), lambda ws: ws.close())
    go(page, app, study, "trials")
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(2_500)  # it is tried three times
    put(teacher, study, block=1, level="4", text="4.77")
    expect(page.get_by_text("4.77", exact=False).first).to_be_visible()
    expect(page.locator("[data-asking]")).to_contain_text("it asks every few seconds instead")
