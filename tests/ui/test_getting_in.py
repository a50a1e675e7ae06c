"""How tablets get here: the address on the sign-in page of the machine, the trust in its certificate, the pages of help."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.conftest import Application, TeacherClient, free_port
from tests.ui.conftest import fits_across, no_violations

pytestmark = pytest.mark.ui


def test_tablets_are_told_the_address_and_how_to_trust_this_machine(own_app: Callable[..., Application], browser: Browser) -> None:
    port = free_port()
    app = own_app("--no-demo", "--https", "--https-port", str(port), "--name", "bendro.school.example")
    with browser.new_context(viewport={"width": 1280, "height": 800}) as context:
        page = context.new_page()
        page.goto(app.url)
        tablets = page.get_by_label("Tablets", exact=True)
        expect(tablets.get_by_text(f"https://bendro.school.example:{port}", exact=True)).to_be_visible()
        expect(tablets.get_by_role("img", name=f"Scan to open https://bendro.school.example:{port}")).to_be_visible()
        no_violations(page)
        tablets.get_by_role("link", name="Each tablet trusts this machine once").click()
        expect(page.get_by_role("heading", name="Trust this machine")).to_be_visible()
        shown = page.locator("[data-fingerprint]").inner_text()
        assert shown in app.told()
        with page.expect_download() as taken:
            page.get_by_role("link", name="Take the certificate").click()
        assert taken.value.suggested_filename == "bendro-authority.crt"
        no_violations(page)
        page.set_viewport_size({"width": 390, "height": 844})
        fits_across(page, 390)


def test_where_nobody_else_gets_in_there_is_nothing_to_scan_and_nothing_to_trust(app: Application, page: Page) -> None:
    page.goto(app.url)
    expect(page.get_by_role("button", name="Sign in", exact=True)).to_be_visible()
    expect(page.get_by_label("Tablets", exact=True)).to_have_count(0)
    page.goto(f"{app.url}/trust")
    expect(page.get_by_text("Nothing needs to be done here", exact=False)).to_be_visible()


def test_settings_lead_to_the_guide_the_technicians_page_and_the_licences(signed_in: tuple[Page, TeacherClient]) -> None:
    page, _ = signed_in
    page.get_by_role("button", name="Settings").click()
    page.get_by_role("link", name="For whoever looks after this Bendro").click()
    expect(page.get_by_role("heading", name="For whoever looks after Bendro")).to_be_visible()
    expect(page.get_by_role("heading", name="Backups")).to_be_visible()
    no_violations(page)
    page.go_back()
    page.get_by_role("button", name="Settings").click()
    page.get_by_role("link", name="A lesson with Bendro, step by step").click()
    expect(page.get_by_role("heading", name=re.compile("^A lesson with Bendro"))).to_be_visible()
    page.set_viewport_size({"width": 390, "height": 844})
    fits_across(page, 390)
    page.go_back()
    page.get_by_role("button", name="Settings").click()
    page.get_by_role("link", name="Licences of what is in it").click()
    expect(page.get_by_text("Licences of what is in Bendro", exact=False)).to_be_visible()
