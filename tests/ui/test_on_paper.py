"""Every printed page is laid out for A4: what is drawn and written lies inside the paper, with its head. Boxes are read from the PDF."""

from __future__ import annotations

import io
import re
from typing import Any

import pdfplumber
import pytest
from playwright.sync_api import Page

from tests.api.test_showing import run_some
from tests.conftest import Application, TeacherClient, new_study
from tests.ui.conftest import go

pytestmark = pytest.mark.ui
#: A4 in PDF points (ISO 216: 210 × 297 mm), and the least margin that is left white.
WIDTH, HEIGHT, MARGIN = 595.3, 841.9, 28


def printed(page: Page) -> Any:
    page.wait_for_timeout(300)  # drawings follow the window's width
    return pdfplumber.open(io.BytesIO(page.pdf(prefer_css_page_size=True)))


def words(pdf: Any) -> str:
    text = " ".join(str(p.extract_text()) for p in pdf.pages)
    return re.sub(r"(?<=[:.])(?=[A-Z])", " ", text.replace("\n", " "))  # a blank between two styles is not always told


def lies_inside(pdf: Any) -> None:
    """Nothing that is drawn or written is cut off by the edge of the paper."""
    for sheet in pdf.pages:
        assert (abs(sheet.width - WIDTH) < 1, abs(sheet.height - HEIGHT) < 1) == (True, True)
        shown = [*sheet.chars, *[c for c in sheet.curves if c["x1"] - c["x0"] > 0.1], *sheet.rects]
        whole = [s for s in shown if s["x1"] - s["x0"] < WIDTH - 2]  # not the white of the page itself
        assert whole
        cut = [(s["object_type"], s.get("text"), s["x0"], s["x1"]) for s in whole if s["x0"] < MARGIN or s["x1"] > WIDTH - MARGIN]
        assert cut == []


def demo(page: Page, app: Application, title: str, where: str) -> dict[str, Any]:
    page.goto(app.url)
    page.get_by_role("button", name="Open the demo").click()
    page.get_by_role("button", name="New study").wait_for()
    study = next(s for s in page.request.get(f"{app.url}/api/studies").json() if s["title"] == title)
    go(page, app, study, where)
    found: dict[str, Any] = study
    return found


@pytest.mark.parametrize("width", [1280, 1920, 390])
def test_the_verdict_on_paper_holds_every_mark_column_and_the_right_equation(app: Application, page: Page, width: int) -> None:
    page.set_viewport_size({"width": width, "height": 800})
    demo(page, app, "Fizz signal", "work-out")
    page.get_by_role("heading", name=re.compile("greatest in the middle")).wait_for()
    pdf = printed(page)
    lies_inside(pdf)
    text = words(pdf)
    for part in (
        "Fizz signal",
        "Class 9 Teal",
        "Groups: Avocet",
        "How much water gives",
        "Prediction: A best in the middle",
        "95 % interval",
        "SD",
    ):
        assert part in text, part
    assert re.search(r"20\d\d", text)  # the day
    assert "(water)²" in text  # the peak that was preferred, not a straight line
    # the marks of four levels: void ones and kept ones, all on the sheet with the tape
    sheet = pdf.pages[0]
    marks = [c for c in sheet.curves if 5 < c["x1"] - c["x0"] < 20 and 5 < c["bottom"] - c["top"] < 20]
    assert len(marks) >= 16
    # the last column is whole: its numbers stand under its head
    heads = {w["text"]: w for w in sheet.extract_words()}
    assert heads["interval"]["x1"] <= WIDTH - MARGIN
    assert "1.51 to 2.00" in text or re.search(r"\d\.\d\d to \d\.\d\d", text)


def test_the_prediction_and_its_reason_stand_on_paper(app: Application, page: Page) -> None:
    demo(page, app, "Throwing a line over the dyke", "work-out")
    page.get_by_role("heading", name=re.compile("rose with counterweight")).wait_for()
    text = words(printed(page))
    assert "Prediction: The heavier the counterweight" in text
    assert "Reason: A heavier weight has more energy to give." in text


@pytest.mark.parametrize(("where", "part"), [("plan/lesson", "the lesson from"), ("plan/materials", "to buy")])
def test_the_lesson_and_the_shopping_list_fit_their_paper(app: Application, page: Page, where: str, part: str) -> None:
    demo(page, app, "Medicine drop", where)
    page.get_by_role("button", name="Print").wait_for()
    pdf = printed(page)
    lies_inside(pdf)
    text = words(pdf)
    for told in (part, "Class 9 Teal", "How does the spill-hole change", "Prediction: A wider hole", "Reason: More air"):
        assert told in text, told


def test_a_study_of_eight_levels_and_long_names_still_fits(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    from uuid import uuid4

    from tests.conftest import trial_body

    page, teacher = signed_in
    levels = [f"a rather long name of kind {n}" for n in range(8)]
    study = new_study(teacher, "Long", variable={"name": "material of the runner", "kind": "name", "levels": levels}, repeats=3)
    for block in (1, 2, 3):
        for n, level in enumerate(levels):
            body = trial_body(level, f"{n + block / 10:.2f}", block=block, released_at=f"2026-05-04T1{block}:{n:02}:00Z")
            teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=body)
    go(page, app, study, "work-out")
    page.get_by_role("heading", name="The numbers").wait_for()
    lies_inside(printed(page))


@pytest.mark.parametrize(
    ("title", "where", "told", "pages"),
    [
        (
            "Medicine drop",
            "plan",
            ("the plan", "Class 9 Teal", "What is kept the same", "drop height (4.2 m", "The drop zone is marked", "risk assessment", "16"),
            1,
        ),
        (
            "Medicine drop",
            "ask",
            ("what could be changed and measured", "Class 9 Teal", "spill-hole width", "how much it swings", "Kept the same"),
            1,
        ),
        (
            "Pod, round by round",
            "build",
            ("the versions", "Egret", "One thing changed since version 4", "skirt folds", "two at once", "2.9 m"),
            1,
        ),
    ],
)
def test_what_is_planned_asked_and_built_is_laid_out_for_paper(
    app: Application, page: Page, title: str, where: str, told: tuple[str, ...], pages: int
) -> None:
    demo(page, app, title, where)
    page.get_by_role("button", name="Print").wait_for()
    page.wait_for_load_state("networkidle")
    pdf = printed(page)
    lies_inside(pdf)
    assert len(pdf.pages) == pages
    text = words(pdf)
    for part in told:
        assert part in text, part
    # nothing of the screen on it
    for pressed in (
        "Open every part",
        "Change this",
        "Measure this",
        "Go to the run",
        "Add a property",
        "Draw or photograph it",
        "Undo",
        "Saved.",
        "Next version",
    ):
        assert pressed not in text, pressed


def test_twelve_designs_with_long_names_hold_their_numbers_on_every_paper(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    """Steps of the podium hold their numbers, and the names at the tape are letters that can be read."""
    page, teacher = signed_in
    names = [
        f"{n} with a rather long name for a device"
        for n in ("Amber", "Birch", "Cedar", "Dogwood", "Elder", "Fir", "Gorse", "Hazel", "Ivy", "Juniper", "Kelp", "Larch")
    ]
    variable = {"name": "device", "kind": "name", "levels": [n[:40].strip() for n in names]}
    study = new_study(
        teacher,
        "Twelve designs",
        study_kind="contest",
        question="Whose launcher throws farthest?",
        variable=variable,
        groups=[],
        expect="",
        repeats=2,
    )
    run_some(teacher, study, {n: [f"{4 + 0.4 * n:.2f}", f"{4.1 + 0.4 * n:.2f}"] for n in range(12)})
    go(page, app, study, "show")
    page.get_by_role("button", name="Make the poster").click()
    for paper in ("A4 across", "A4 upright", "A3 across", "A3 upright", "Wall, 16:9"):
        page.get_by_label("Paper").select_option(paper)
        page.locator("[data-poster]").wait_for()
        page.wait_for_timeout(600)  # what is drawn is fitted frame by frame
        held = page.evaluate(
            """() => [...document.querySelectorAll('[data-step]')].map(s => [s.scrollHeight <= s.clientHeight + 1,
                 s.getBoundingClientRect().top >= s.closest('ol').getBoundingClientRect().top - 1])"""
        )
        assert len(held) == 6
        assert all(all(one) for one in held), paper
        # in millimetres on its paper: the page is shown smaller than it is
        letters = page.evaluate(
            """() => { const p = document.querySelector('[data-poster]'); const k = p.offsetWidth / p.getBoundingClientRect().width
                 return Math.min(...[...p.querySelectorAll('[data-drawn] text.big')].map(t => t.getBoundingClientRect().height * k)) / (96 / 25.4) }"""
        )
        assert letters > 1.9, f"{paper}: letters {letters:.1f} mm high"
