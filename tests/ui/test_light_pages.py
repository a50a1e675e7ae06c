"""How much a page loads before it can be used, and what happens when a part of it does not come."""

from __future__ import annotations

import re
from typing import Any

import httpx
import pytest
from playwright.sync_api import Browser, Page, expect

from tests.conftest import Application, TeacherClient, new_study
from tests.ui.test_the_lane import lane, stored

pytestmark = pytest.mark.ui
MOST_FOR_A_RUN = 120_000


def _loaded(app: Application, first: list[str]) -> dict[str, int]:
    """The scripts that these need, each with its bytes as they are sent."""
    sizes: dict[str, int] = {}
    wanted = list(first)
    with httpx.Client(base_url=app.url) as http:
        while wanted:
            name = wanted.pop()
            if name in sizes:
                continue
            with http.stream("GET", f"/assets/{name}", headers={"Accept-Encoding": "br"}) as answer:
                answer.raise_for_status()
                sizes[name] = sum(len(part) for part in answer.iter_raw())
                assert answer.headers.get("content-encoding") == "br" or sizes[name] < 600
            text = http.get(f"/assets/{name}").text
            wanted += re.findall(r"(?:from|import)\s*[`\"']\./([\w.-]+\.js)", text)
    return sizes


def test_the_script_of_a_run_is_light(app: Application) -> None:
    index = re.findall(r"assets/(index-[\w-]+\.js)", httpx.get(app.url).text)
    run = re.findall(r"assets/(Run-[\w-]+\.js)", httpx.get(f"{app.url}/assets/{index[0]}").text)
    sizes = _loaded(app, [index[0], run[0]])
    assert len(sizes) > 5
    assert sum(sizes.values()) <= MOST_FOR_A_RUN, sizes


@pytest.fixture
def bare_page(browser: Browser, signed_in: tuple[Page, TeacherClient]) -> Any:
    """A page of a browser that has nothing of the application yet, and no worker that keeps it."""
    context = browser.new_context(service_workers="block", storage_state=signed_in[0].context.storage_state())
    yield context.new_page(), signed_in[1]
    context.close()


def test_a_sheet_that_cannot_be_fetched_says_so_and_the_lane_goes_on(bare_page: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = bare_page
    study = new_study(teacher, "A part is missing")
    page.route("**/assets/NowSheet-*.js", lambda route: route.abort())
    lane(page, app, study)
    page.get_by_role("button", name="Conditions now").click()
    expect(page.get_by_text("This part of the page is not on this device yet")).to_be_visible()
    page.locator("#timer-0").fill("4.52")
    page.keyboard.press("Enter")
    assert stored(page, teacher, study, 1)[0]["readings"][0]["texts"] == ["4.52"]


def test_a_page_that_cannot_be_fetched_says_so_and_can_be_loaded_again(bare_page: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = bare_page
    study = new_study(teacher, "A page is missing")
    page.route("**/assets/Build-*.js", lambda route: route.abort())
    page.goto(f"{app.url}/study/{study['id']}/build")
    expect(page.get_by_role("heading", name="This page could not be shown")).to_be_visible()
    page.unroute("**/assets/Build-*.js")
    page.get_by_role("button", name="Load the page again").click()
    expect(page.get_by_role("navigation", name="Stages")).to_be_visible()
