"""A version of a device and its photo made while the server cannot be reached."""

from __future__ import annotations

import io

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.conftest import Application, TeacherClient, new_study
from tests.ui.conftest import go, no_violations, until

pytestmark = pytest.mark.ui


def test_a_version_and_its_photo_begun_without_a_network_are_sent_once_it_is_back(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Begun offline", groups=["Red", "Blue"])
    go(page, app, study, "build")
    page.get_by_role("button", name="Write the first device down").wait_for()
    page.route("**/api/**", lambda r: r.abort())
    page.get_by_role("button", name="Write the first device down").click()
    page.get_by_label("Which group’s device").select_option("Red")
    page.get_by_role("button", name="Write it down").click()
    page.get_by_role("button", name="Red, version 1").wait_for()
    page.get_by_label("Mass").fill("23 g")
    picture = io.BytesIO()
    Image.new("RGB", (300, 200), (10, 120, 90)).save(picture, "JPEG")
    page.get_by_role("button", name="Draw or photograph it").click()
    page.locator("input[type=file]").set_input_files({"name": "pod.jpg", "mimeType": "image/jpeg", "buffer": picture.getvalue()})
    page.keyboard.press("Escape")
    expect(page.locator("[data-photo-waits]")).to_be_visible()
    page.get_by_role("button", name="2 waiting to send").click()
    expect(page.get_by_role("dialog")).to_contain_text("A version of Red")
    expect(page.get_by_role("dialog")).to_contain_text("A photo of a version")
    page.keyboard.press("Escape")
    no_violations(page)
    page.unroute("**/api/**")
    page.reload()  # as a tablet that was put away and opened again
    until(page, lambda: [(v["number"], v["draft"]["mass"], v["photo"]) for v in teacher.ok("GET", f"/api/studies/{study['id']}/versions")] == [(1, "23 g", True)])
    expect(page.get_by_role("button", name="Red, version 1")).to_have_count(1)
    expect(page.locator("[data-photo-waits]")).to_have_count(0)
    expect(page.get_by_text("waiting to send")).to_have_count(0)
