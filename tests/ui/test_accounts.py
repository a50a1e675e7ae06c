"""Making the first account, inviting a colleague and ending a sign-in, on the pages themselves."""

from __future__ import annotations

import re
from typing import Any

import httpx
import pytest
from playwright.sync_api import BrowserContext, Page, expect

from tests.conftest import PASSWORD

from .conftest import no_violations

pytestmark = pytest.mark.ui


def test_from_the_first_account_to_a_colleague_and_back(own_app: Any, page: Page, context: BrowserContext) -> None:
    app = own_app()
    code = re.search(r"making the first one: (\S+)", app.told())
    assert code is not None
    page.goto(app.url)
    page.get_by_role("button", name="Make the first account").click()
    page.get_by_label("Code").fill("AAAA AAAA")
    page.get_by_label("Sign-in name").fill("T Marsh")
    page.get_by_label("School").fill("Fen School")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Make the account").click()
    expect(page.get_by_text("This is not the code that the terminal shows")).to_be_visible()
    page.get_by_label("Code").fill(code[1])
    page.get_by_role("button", name="Make the account").click()
    page.get_by_role("button", name="Settings").click()
    page.get_by_text("Teachers of Fen School").click()
    page.get_by_role("button", name="Invite a colleague").click()
    expect(page.get_by_text("It is shown this once")).to_be_visible()
    no_violations(page)
    invitation = page.locator("strong.big").inner_text()

    assert context.browser is not None
    theirs = context.browser.new_context().new_page()
    theirs.goto(app.url)
    assert theirs.get_by_role("button", name="Make the first account").count() == 0
    theirs.get_by_role("button", name="A colleague invited me").click()
    theirs.get_by_label("Code").fill(invitation)
    theirs.get_by_label("Sign-in name").fill("R Sedge")
    theirs.get_by_label("Password").fill(PASSWORD)
    theirs.get_by_role("button", name="Make the account").click()
    theirs.get_by_role("button", name="Settings").click()
    expect(theirs.get_by_text("Signed in as R Sedge, Fen School.")).to_be_visible()

    elsewhere = httpx.Client(base_url=app.url, timeout=60)
    elsewhere.post("/api/session", json={"sign_in_name": "T Marsh", "password": PASSWORD}).raise_for_status()
    page.get_by_role("button", name="Close").click()
    page.get_by_role("button", name="Settings").click()
    page.get_by_text("Where you are signed in (2)").click()
    page.get_by_role("button", name="End it").click()
    expect(page.get_by_text("Where you are signed in (1)")).to_be_visible()
    assert elsewhere.get("/api/studies").status_code == 401
    page.get_by_text("Teachers of Fen School").click()
    page.get_by_role("button", name="Remove R Sedge …").click()
    expect(page.get_by_text("R Sedge will not be able to sign in any more. The studies stay.")).to_be_visible()
    page.get_by_role("button", name="Remove R Sedge", exact=True).click()
    expect(page.get_by_text("R Sedge")).to_have_count(0)
    theirs.reload()
    expect(theirs.get_by_role("button", name="Sign in")).to_be_visible()
