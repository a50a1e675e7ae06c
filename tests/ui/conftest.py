"""A real browser on the real application: Debian's Chromium, no network."""

from __future__ import annotations

import re
import shutil
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, Playwright, expect

from bendro.api.needs import COOKIE
from tests.conftest import PASSWORD, Application, TeacherClient, let_in_at, sign_up

ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


#: Machines are shared and slow at times: so long a page may take for what usually takes a moment.
PATIENCE_MS = 40_000
expect.set_options(timeout=PATIENCE_MS / 2)


@pytest.fixture(scope="session")
def browser(playwright: Playwright) -> Iterator[Browser]:
    program = shutil.which("chromium") or shutil.which("chromium-browser")
    made = playwright.chromium.launch(executable_path=program, args=ARGUMENTS)
    yield made
    made.close()


@pytest.fixture
def context(browser: Browser, request: pytest.FixtureRequest) -> Iterator[BrowserContext]:
    # what opens the pages again while offline loads all of them beside: it is there in the tests that need it
    worker = "allow" if request.node.get_closest_marker("opened_offline") else "block"
    made = browser.new_context(viewport={"width": 1280, "height": 800}, service_workers=worker)
    made.set_default_timeout(PATIENCE_MS)
    # every part of a long page stands open, as a teacher may choose; folding has tests of its own
    made.add_init_script("localStorage.setItem('typed:unfold', 'all')")
    yield made
    made.close()


@pytest.fixture
def page(context: BrowserContext) -> Iterator[Page]:
    made = context.new_page()
    errors: list[str] = []
    made.on("pageerror", lambda e: errors.append(str(e)))
    yield made
    assert errors == []


@pytest.fixture
def signed_in(app: Application, page: Page, request: pytest.FixtureRequest) -> tuple[Page, TeacherClient]:
    """A page at Home with a fresh teacher signed in. The form has tests of its own."""
    teacher = sign_up(app)
    page.context.add_cookies([{"name": COOKIE, "value": let_in_at(app, teacher.name).token, "url": app.url, "httpOnly": True, "sameSite": "Strict"}])
    page.goto(app.url)
    page.get_by_role("button", name="New study").wait_for()
    if request.node.get_closest_marker("opened_offline"):
        page.evaluate("navigator.serviceWorker.ready.then(() => null)")  # from now on the pages come from the browser
    return page, teacher


def sign_in(page: Page, teacher: TeacherClient) -> None:
    """Through the form that stands there."""
    page.get_by_label("Sign-in name").fill(teacher.name)
    page.get_by_label("Password").fill(PASSWORD)
    page.keyboard.press("Enter")


def tick_cautions(page: Page) -> None:
    page.get_by_role("checkbox").first.wait_for()
    for box in page.get_by_role("checkbox").all():
        box.check()
    page.get_by_label("Adult in charge, by role").fill("class teacher")
    page.get_by_role("button", name="Open the run").click()


def go(page: Page, app: Application, study: dict[str, Any], where: str) -> None:
    page.goto(f"{app.url}/study/{study['id']}/{where}")
    page.get_by_role("navigation", name="Stages").wait_for()


def way(page: Page, name: str) -> None:
    """Another way of taking a reading at the lane."""
    page.get_by_role("button", name="Other ways").click()
    page.get_by_role("menuitem", name=name).click()


def saved(page: Page) -> None:
    expect(page.get_by_role("status").filter(has_text=re.compile(r"^Saved\.$"))).to_be_visible()


def until(page: Page, holds: Callable[[], bool]) -> None:
    """Wait until something holds that no locator can tell."""
    for _ in range(400):
        if holds():
            return
        page.wait_for_timeout(100)
    assert holds()


def fits_across(page: Page, width: int) -> None:
    """The page does not scroll sideways. What is drawn follows a new width a moment later, so this is waited for."""
    page.wait_for_function("most => document.documentElement.scrollWidth <= most", arg=width, timeout=5_000)


def no_violations(page: Page) -> None:
    """axe finds nothing (WCAG 2.2 A and AA)."""
    from pathlib import Path

    source = Path(__file__).resolve().parent.parent.parent / "web" / "node_modules" / "axe-core" / "axe.min.js"
    page.evaluate(source.read_text())
    found: Any = page.evaluate("axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice']})")
    assert [(v["id"], [n["target"] for n in v["nodes"]][:3]) for v in found["violations"]] == []
