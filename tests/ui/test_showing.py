"""Show: the poster on its paper, written over, the report for the folder and the card."""

from __future__ import annotations

import re
from typing import Any

import pypdfium2
import pytest
from playwright.sync_api import Page, expect

from tests.api.test_showing import run_some
from tests.conftest import Application, TeacherClient, new_study
from tests.ui.conftest import fits_across, go, no_violations

pytestmark = pytest.mark.ui

LONG = "a device of forty letters and no mor"


def shown(page: Page, app: Application, study: dict[str, Any]) -> None:
    go(page, app, study, "show")
    page.get_by_role("button", name="Make the poster").click()
    page.locator("[data-poster]").wait_for()


def study_with(teacher: TeacherClient, levels: int = 4, **more: Any) -> dict[str, Any]:
    names = [f"{LONG} {n}" if levels > 4 else str(n + 1) for n in range(levels)]
    variable = {"name": "wing", "kind": "name", "quantity": "number", "unit": "", "levels": names}
    study = new_study(teacher, "Poster", family="glider", variable=variable, repeats=3, class_label="9 Teal", hold=[{"name": f"thing {n}", "how": "as agreed"} for n in range(5)], prediction="The second flies farthest", reason="it is the widest", **more)
    run_some(teacher, study, {n: [f"{4 + n / 4 + r / 50:.2f}" for r in range(3)] for n in range(levels)})
    return study


def at_rest(page: Page) -> None:
    """The drawing follows its place some frames later, on a busy machine many."""
    was = ""
    for _ in range(20):
        page.wait_for_timeout(400)
        now = page.locator("[data-drawn] [style*=transform]").first.evaluate("e => `${e.style.transform} ${e.offsetHeight}`")
        if now == was:
            return
        was = now
    raise AssertionError("the drawing never comes to rest")


def overlaps(page: Page) -> list[str]:
    """Texts of the poster that lie over one another or leave the page, by their boxes."""
    found: list[str] = page.evaluate("""() => {
      const page = document.querySelector('[data-poster]').getBoundingClientRect()
      const boxes = []
      const walk = document.createTreeWalker(document.querySelector('[data-page-body]'), NodeFilter.SHOW_TEXT)
      for (let n = walk.nextNode(); n; n = walk.nextNode()) {
        if (!n.data.trim() || n.parentElement.closest('.sr-only, figcaption')) continue
        const r = document.createRange()
        r.selectNodeContents(n)
        for (const b of r.getClientRects()) if (b.width > 1) boxes.push({text: n.data.trim(), b, of: n.parentElement})
      }
      const bad = []
      for (const {text, b} of boxes) if (b.left < page.left - 1 || b.right > page.right + 1 || b.top < page.top - 1 || b.bottom > page.bottom + 1) bad.push('off: ' + text)
      for (let i = 0; i < boxes.length; i += 1) for (let k = i + 1; k < boxes.length; k += 1) {
        const [p, q] = [boxes[i], boxes[k]]
        if (p.of === q.of) continue
        const w = Math.min(p.b.right, q.b.right) - Math.max(p.b.left, q.b.left)
        const h = Math.min(p.b.bottom, q.b.bottom) - Math.max(p.b.top, q.b.top)
        if (w > 2 && h > Math.min(p.b.height, q.b.height) * 0.4) bad.push(p.text + ' | ' + q.text)
      }
      return bad
    }""")
    return found


@pytest.mark.parametrize("levels", [4, 12])
def test_the_poster_stands_on_one_page_of_every_paper_with_nothing_cut(signed_in: tuple[Page, TeacherClient], app: Application, levels: int) -> None:
    page, teacher = signed_in
    shown(page, app, study_with(teacher, levels))
    no_violations(page)
    sizes = {"a4-across": (297, 210), "a4-upright": (210, 297), "a3-across": (420, 297), "a3-upright": (297, 420), "wall": (338.67, 190.5)}
    for paper, (wide, high) in sizes.items() if levels == 4 else list(sizes.items())[:2]:
        page.get_by_label("Paper").select_option(paper)
        page.locator(f"[data-poster={paper}]").wait_for()
        at_rest(page)
        assert overlaps(page) == [], paper
        made = pypdfium2.PdfDocument(page.pdf(prefer_css_page_size=True, print_background=True))
        assert len(made) == 1, paper
        assert made[0].get_size() == pytest.approx((wide / 25.4 * 72, high / 25.4 * 72), abs=2)
        text = "".join(made[0].get_textpage().get_text_range().split())
        assert "Fairernexttime" in text
        assert "Wepredicted" in text


def test_the_class_writes_over_the_parts_and_leaves_one_out(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = study_with(teacher)
    shown(page, app, study)
    page.get_by_role("button", name="Write on it").click()
    page.locator("[data-part=next]").fill("We bend the tips up.")
    page.get_by_role("button", name="how sure").click()
    page.get_by_role("button", name="Look at it").click()
    body = page.locator("[data-page-body]")
    expect(body).to_contain_text("We bend the tips up.")
    expect(body).not_to_contain_text("How sure")
    page.wait_for_timeout(1_200)  # written down after a pause
    page.reload()
    expect(page.locator("[data-page-body]")).to_contain_text("We bend the tips up.")
    page.get_by_role("tab", name="Report for the folder").click()
    expect(page.locator("[data-folder]")).to_contain_text("Changed: wing (1, 2, 3, 4).")
    expect(page.locator("[data-all-trials] li")).to_have_count(12)
    page.get_by_label("For the group, from the teacher").fill("Which one was odd?")
    no_violations(page)
    page.wait_for_timeout(1_200)
    report = teacher.ok("GET", f"/api/studies/{study['id']}/reports")[0]
    assert report["own"] == {"texts": {"next": "We bend the tips up."}, "without": ["how_sure"], "also": [], "comment": "Which one was odd?"}
    assert len(pypdfium2.PdfDocument(page.pdf(prefer_css_page_size=True))) <= 2
    page.get_by_role("tab", name="Product card").click()
    expect(page.locator("[data-card]")).to_contain_text("Distance to first touch: 4.77 m")
    no_violations(page)
    page.get_by_role("tab", name="Podium on the wall").click()
    expect(page.locator("[data-podium] [data-place='1'] div")).to_be_visible()
    page.get_by_role("button", name="Call a final of the best").click()
    page.wait_for_url("**/plan")
    final = next(s for s in teacher.ok("GET", "/api/studies") if s["title"] == "Poster: the final")
    called = teacher.ok("GET", f"/api/studies/{final['id']}")
    assert called["draft"]["study_kind"] == "contest"
    assert len(called["levels"]) >= 2


def test_a_later_trial_offers_a_new_one_and_the_old_one_stays(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = study_with(teacher)
    shown(page, app, study)
    run_some(teacher, study, {0: ["1.00"]})
    page.reload()
    expect(page.locator("[data-changed]")).to_contain_text("1 kept trial more.")
    told = page.locator("[data-page-body] section, [data-page-body] h1, [data-podium]")
    before = told.all_inner_texts()
    page.get_by_role("button", name="Make a new one").click()
    expect(page.locator("[data-changed]")).to_have_count(0)
    page.get_by_text(re.compile("^All 2 of this study")).click()
    page.get_by_role("listitem").filter(has_text=":").get_by_role("link").last.click()
    expect(page.locator("[data-changed]")).to_be_visible()
    assert told.all_inner_texts() == before


def test_without_trials_show_leads_to_the_lane_and_on_a_phone_it_fits(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    go(page, app, new_study(teacher, "Empty"), "show")
    expect(page.get_by_role("link", name="To the lane")).to_be_visible()
    page.set_viewport_size({"width": 390, "height": 844})
    shown(page, app, study_with(teacher))
    fits_across(page, 390)
    no_violations(page)


def test_the_poster_of_every_demo_study_stands_whole_on_its_page(page: Page, app: Application) -> None:
    page.goto(app.url)
    page.get_by_role("button", name="Open the demo").click()
    page.get_by_role("button", name="New study").wait_for()
    lines = [s for s in page.evaluate("fetch('/api/studies').then(r => r.json())") if s["kept"]]
    assert len(lines) >= 5
    for line in lines:
        page.goto(f"{app.url}/study/{line['id']}/show")
        page.get_by_role("button", name=re.compile("^Make the poster")).or_(page.locator("[data-poster]")).first.wait_for()
        if not page.locator("[data-poster]").count():
            page.get_by_role("button", name="Make the poster").click()
        page.locator("[data-poster]").wait_for()
        for paper in ("a4-across", "wall"):
            page.get_by_label("Paper").select_option(paper)
            page.locator(f"[data-poster={paper}]").wait_for()
            page.wait_for_timeout(400)
            assert overlaps(page) == [], (line["title"], paper)
            made = pypdfium2.PdfDocument(page.pdf(prefer_css_page_size=True, print_background=True))
            assert len(made) == 1, (line["title"], paper)
            grey = made[0].render(scale=0.6).to_pil().convert("L")
            assert len([n for n in grey.histogram() if n]) > 10, line["title"]  # something is drawn


def test_in_grey_print_every_level_is_told_apart_by_its_shape_and_stands_out_from_the_paper(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    shown(page, app, study_with(teacher, 8))
    page.emulate_media(media="print")
    seen = page.evaluate("""() => {
      const grey = (c) => { const [r, g, b] = c.match(/[\\d.]+/g).map(Number); return 0.299 * r + 0.587 * g + 0.114 * b }
      const marks = [...document.querySelectorAll('[data-page-body] g.land path, [data-page-body] svg g > g > path[fill]')]
      const of = {}
      for (const m of marks) { const fill = getComputedStyle(m).fill; if (fill.startsWith('rgb')) (of[m.getAttribute('d')] ??= grey(fill)) }
      return of
    }""")
    dark = {d: value for d, value in seen.items() if value < 128}
    assert len(dark) >= 8  # eight levels, eight outlines, each dark enough on white paper to be seen without colour
