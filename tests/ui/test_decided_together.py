"""The verdict on one screen, its pictures, what comes next, the class together, and practice, in a real browser."""

from __future__ import annotations

import re
from pathlib import Path
from uuid import uuid4
from xml.etree import ElementTree

import pytest
from PIL import Image
from playwright.sync_api import Browser, Page, expect

from tests.api.test_deciding_together import ps_of
from tests.api.test_showing import run_some
from tests.conftest import Application, TeacherClient, new_study, trial_body
from tests.outside.test_published import cli
from tests.ui.conftest import fits_across, go, no_violations

pytestmark = pytest.mark.ui
FOUR = {"variable": {"name": "pull-back", "quantity": "length", "unit": "cm", "levels": ["4", "6", "8", "10"]}, "limits": [{"on": "variable", "value": "12 cm"}]}
OUTSIDE = Path(__file__).parent.parent / "outside" / "data"
READINGS = {0: ["4.1", "4.2", "4.3"], 1: ["6.1", "6.3", "6.2"], 2: ["7.9", "8.2", "8.1"], 3: ["9.8", "10.3", "10.1"]}


def rounds_to(number: float, text: str) -> bool:
    """Whether a number as it is written on the page is this one, rounded."""
    written = text.replace("−", "-")
    places = len(written.partition(".")[2])
    return abs(float(written) - number) <= 0.5 * 10**-places + 1e-9


def in_sight(page: Page, selector: str, high: int = 800) -> bool:
    box = page.locator(selector).first.bounding_box()
    return box is not None and box["y"] >= 0 and box["y"] + box["height"] <= high


def test_verdict_tape_numbers_and_doubts_of_four_levels_stand_on_one_screen(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Four levels", repeats=3, **FOUR)
    run_some(teacher, study, READINGS)
    go(page, app, study, "work-out")
    page.get_by_role("tab", name="In order", exact=True).wait_for()
    for part in ("h1", "#drawn svg", "[data-doubts]", "[data-in-short]"):
        assert in_sight(page, part), part
    shown = page.locator("[data-doubts] > li:visible")
    found = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")
    assert shown.count() == min(3, len(found["audit"]))
    weights = {"stop": 0, "warn": 1, "note": 2}
    heaviest = sorted(found["audit"], key=lambda f: weights[f["severity"]])[0]
    expect(shown.first).to_have_attribute("data-finding", heaviest["code"])
    if len(found["audit"]) > 3:
        page.get_by_role("button", name=re.compile(r"more$")).click()
        expect(shown).to_have_count(len(found["audit"]))
    page.get_by_role("button", name=re.compile("checks found nothing$")).click()
    expect(page.get_by_text("too few repeats").or_(page.get_by_text("readings off the tape")).first).to_be_visible()
    what = shown.first.get_by_role("button", name=re.compile("^What to do"))
    if what.get_attribute("aria-expanded") == "false":
        what.click()
    expect(shown.first).to_contain_text(heaviest["do"])
    page.locator("[data-in-short] button").first.click()
    expect(page.locator("[data-working] math[aria-label*='4.1 + 4.2 + 4.3'] mfrac").first).to_be_visible()
    page.get_by_role("button", name="Step by step").click()
    expect(page.locator("[data-working] li")).to_have_count(1)
    page.get_by_role("button", name="Next step").click()
    expect(page.locator("[data-working] li")).to_have_count(2)
    page.keyboard.press("Escape")
    no_violations(page)
    for width in (390, 1024):
        page.set_viewport_size({"width": width, "height": 844})
        fits_across(page, width)


def test_each_picture_stands_where_its_numbers_say_and_is_saved(signed_in: tuple[Page, TeacherClient], app: Application, tmp_path: Path) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Pictures", repeats=3, **FOUR)
    run_some(teacher, study, READINGS)
    found = teacher.ok("GET", f"/api/studies/{study['id']}/pictures")
    go(page, app, study, "work-out")
    page.get_by_role("tab", name="In order", exact=True).click()
    page.wait_for_timeout(100)
    marks = page.evaluate("""() => [...document.querySelectorAll('#drawn [data-plot] g[transform^=translate]')].map((g) => {
      const m = /translate\\(([-\\d.]+) ([-\\d.]+)\\)/.exec(g.getAttribute('transform')); return [Number(m[1]), Number(m[2])] })""")
    dots = found["order"]["dots"]
    assert len(marks) == len(dots) == 12
    # positions are a straight line of the numbers: two marks give the scale, all others must lie on it
    for at, key in ((0, "x"), (1, "y")):
        values = [d[key] for d in dots]
        low, high = values.index(min(values)), values.index(max(values))
        scale = (marks[high][at] - marks[low][at]) / (values[high] - values[low])
        for mark, value in zip(marks, values, strict=True):
            assert mark[at] == pytest.approx(marks[low][at] + (value - values[low]) * scale, abs=0.3)
    page.get_by_role("button", name="As a table").click()
    expect(page.locator("[data-as-table] tbody tr")).to_have_count(12)
    page.get_by_role("tab", name="Against pull-back").click()
    expect(page.locator("[data-band]")).to_have_count(1)
    page.get_by_role("tab", name="Off the curve").click()
    with page.expect_download() as down:
        page.get_by_role("button", name="Save this picture").click()
        page.get_by_role("menuitem", name="As SVG").click()
    down.value.save_as(tmp_path / "a.svg")
    drawn = ElementTree.parse(tmp_path / "a.svg").getroot()
    assert drawn.tag.endswith("svg")
    text = (tmp_path / "a.svg").read_text()
    assert all("var(" not in (e.get("style") or "") and e.get("class") is None for e in drawn.iter())
    assert "url(\"data:font" in text
    assert "http://localhost" not in text
    with page.expect_download() as down:
        page.get_by_role("button", name="Save this picture").click()
        page.get_by_role("menuitem", name="As PNG, for a slide (1200 wide)").click()
    down.value.save_as(tmp_path / "a.png")
    with Image.open(tmp_path / "a.png") as image:
        assert image.width == 1200
        assert image.convert("RGB").getpixel((2, 2)) != (0, 0, 0)
        assert len(image.convert("RGB").getcolors(100_000) or []) > 20
    no_violations(page)


def test_the_floor_from_above_and_both_variables_are_drawn(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    measures = [
        {"id": "m1", "name": "distance", "quantity": "length", "unit": "m", "rule": "First touch."},
        {"id": "m2", "name": "off the line", "quantity": "length", "unit": "cm", "rule": "Square to it.", "signed": True, "better": "low"},
    ]
    study = new_study(teacher, "Landing", repeats=2, measures=measures, second={"name": "band", "kind": "name", "levels": ["thin", "thick"]})
    for n, level in enumerate(study["levels"]):
        for block, (far, off) in enumerate((("4.1", "-12"), ("4.6", "8")), 1):
            body = {"block": block, "level": level["id"], "group": "Red", "released_at": f"2026-05-04T{9 + n:02}:0{block}:00Z"}
            readings = [{"measure": "m1", "texts": [far], "unit": "m"}, {"measure": "m2", "texts": [off], "unit": "cm"}]
            teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json={**body, "readings": readings})
    go(page, app, study, "work-out")
    page.get_by_role("tab", name="From above").click()
    expect(page.locator("#drawn ellipse")).to_have_count(len(study["levels"]))
    page.get_by_role("tab", name="Both variables").click()
    expect(page.locator("#drawn [data-second]")).to_have_count(2)
    page.get_by_role("button", name="As a table").click()
    expect(page.locator("[data-as-table] tbody tr")).to_have_count(len(study["levels"]))
    no_violations(page)


def test_behaviours_are_drawn_a_mark_for_each_trial_by_level_and_by_version(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Behaviours", repeats=3, groups=["Red"])
    for mass in ("20 g", "25 g"):
        teacher.ok("PUT", f"/api/studies/{study['id']}/versions/{uuid4()}", json={"device": "Red", "draft": {"mass": mass}, "revision": 0})
    noted = {("4", 1): ("1", "straight"), ("4", 2): ("2", "curved"), ("6", 1): ("2", "straight"), ("6", 2): ("2", "straight")}
    for (level, block), (version, word) in noted.items():
        body = trial_body(level, "4.2", block=block, behaviour=word, version=int(version), device="Red")
        teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=body)
    go(page, app, study, "work-out")
    for tab, counts in (
        ("Behaviour", {"4 cm": {"straight": 1, "curved": 1}, "6 cm": {"straight": 2, "curved": 0}}),
        ("By version", {"Red version 1": {"straight": 1, "curved": 0}, "Red version 2": {"straight": 2, "curved": 1}}),
    ):
        page.get_by_role("tab", name=tab).click()
        for row, words in counts.items():
            for word, n in words.items():
                cell = page.locator(f"[data-behaved] [data-row='{row}'] [data-word='{word}']")
                expect(cell.locator("path")).to_have_count(n)
                expect(cell.locator("text")).to_have_text(str(n or "–"))
        page.get_by_role("button", name="As a table").click()
        expect(page.locator("[data-as-table] tbody tr")).to_have_count(len(counts))
        page.get_by_role("button", name="Fold the table").click()
    no_violations(page)


#: Open data (R package DAAG, GPL), as in tests/outside: the file, what was changed, what was read, what it is compared within.
OPEN = [
    ("elasticband.csv", "stretch (mm)", "distance (cm)", []),
    ("modelcars.csv", "starting.point", "distance.traveled (cm)", []),
    ("pair65.csv", "treatment", "stretch (mm)", ["--pair-by", "band"]),
]


@pytest.mark.parametrize(("file", "factor", "response", "more"), OPEN)
def test_the_page_and_the_terminal_give_the_same_numbers_for_open_data(
    signed_in: tuple[Page, TeacherClient], app: Application, file: str, factor: str, response: str, more: list[str]
) -> None:
    page, teacher = signed_in
    body = {"id": str(uuid4()), "text": (OUTSIDE / file).read_text(), "title": file, "family": "launcher", "factor": factor, "response": response}
    study = teacher.ok("POST", "/api/tables/study", json=body)
    if more:  # the page compares within what the plan says
        draft = {**study["draft"], "within": "block"}
        study = teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": study["version"], "draft": draft})
    terminal = cli("analyse", str(OUTSIDE / file), "--factor", factor.split(" (")[0], "--response", response.split(" (")[0], *more)
    go(page, app, study, "work-out")
    rows = page.locator("[data-in-short] tbody tr")
    expect(rows).to_have_count(len(terminal["levels"]))
    for row, s in zip(rows.all(), terminal["levels"], strict=True):
        n, mean, interval = (c.inner_text() for c in row.locator("td").all())
        assert int(n) == s["n_kept"]
        assert rounds_to(s["mean"], mean)
        ends = interval.split(" to ")
        assert all(map(rounds_to, (s["ci95"]["low"], s["ci95"]["high"]) if isinstance(s["ci95"], dict) else s["ci95"], ends)) if s["ci95"] else interval == "–"
    found = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")
    assert found["verdict"]["answer"] == terminal["verdict"]["answer"]
    assert ps_of(found["effect"]) == pytest.approx(ps_of(terminal["effect"]))
    assert ps_of(found["effect"])


def test_what_comes_next_has_its_button_and_adds_the_repeats(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "More", repeats=4)
    for block, row in enumerate((("4.1", "4.8", "4.6"), ("4.9", "4.3", "5.2"), ("4.4", "4.6", "4.4"), ("4.2", "4.9", "4.8")), 1):
        for n in (block % 3, (block + 1) % 3, (block + 2) % 3):  # mixed, as the plan orders it
            body = trial_body(study["levels"][n]["id"], row[n], block=block, released_at=f"2026-05-04T{9 + block:02}:{(n - block) % 3 + 10}:00Z")
            teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=body)
    go(page, app, study, "work-out")
    page.get_by_role("button", name=re.compile(r"^Add .* and run$")).click()
    page.wait_for_url(re.compile("/run$"))
    assert teacher.ok("GET", f"/api/studies/{study['id']}")["draft"]["repeats"] > 4


def test_a_group_decides_what_comes_next_and_its_study_begins(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Deciding", repeats=3, could_change=["band width"], **FOUR)
    run_some(teacher, study, READINGS)
    go(page, app, study, "decide")
    expect(page.locator("[data-best]")).to_contain_text("By the average 10 cm is best.")
    no_violations(page)
    page.get_by_role("button", name="band width").click()
    page.get_by_label("Why?").fill("A wider band stores more.")
    expect(page.get_by_text("Saved.")).to_be_visible()
    page.reload()
    expect(page.get_by_label("Why?")).to_have_value("A wider band stores more.")
    page.set_viewport_size({"width": 390, "height": 844})
    fits_across(page, 390)
    page.get_by_role("button", name="Plan it: change band width").click()
    page.wait_for_url(re.compile("/plan$"))
    made = teacher.ok("GET", f"/api/studies/{page.url.split('/')[-2]}")
    assert made["draft"]["variable"]["name"] == "band width"
    assert {"name": "pull-back", "value": "10 cm", "tolerance": "", "how": ""} in made["draft"]["hold"]


def test_the_class_stands_on_one_page(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    for name, spoilt in (("Red", False), ("Blue", False), ("Gold", True)):
        study = new_study(teacher, f"Throws of {name}", repeats=3, groups=[name], class_label="9 Teal")
        run_some(teacher, study, {0: ["2.0", "6.2", "4.4"], 1: ["3.9", "8.6", "6.3"], 2: READINGS[2]} if spoilt else {n: READINGS[n] for n in range(3)})
    page.goto(f"{app.url}/")
    page.get_by_role("link", name="The class together").click()
    expect(page.locator("[data-answer]")).to_be_visible()
    expect(page.locator("[data-runners] tbody tr")).to_have_count(3)
    expect(page.locator("[data-runners] tr", has_text="Gold")).to_contain_text("scatters widely")
    expect(page.get_by_text("3 groups, each compared with itself")).to_be_visible()
    expect(page.locator("[data-record]")).to_contain_text("The record:")
    page.get_by_role("checkbox", name=re.compile("Throws of Gold")).uncheck()
    expect(page.locator("[data-runners] tbody tr")).to_have_count(2)
    no_violations(page)
    page.set_viewport_size({"width": 390, "height": 844})
    fits_across(page, 390)


def test_a_pupil_practises_on_a_phone_without_an_account(browser: Browser, app: Application) -> None:
    context = browser.new_context(viewport={"width": 390, "height": 844})
    page = context.new_page()
    page.goto(f"{app.url}/practice/tape?problem=12")
    value = page.locator("[data-tape]").get_attribute("data-tape")
    unit = re.search(r"in (\w+)\.", page.get_by_role("heading", level=2).inner_text())
    assert unit is not None
    page.get_by_label("Your answer").fill(f"{value} {unit[1]}")
    page.keyboard.press("Enter")
    expect(page.locator("[data-marked=right]")).to_be_visible()
    expect(page.locator("[data-score]")).to_have_text("1 right of 1")
    page.get_by_role("button", name="Next problem").click()
    expect(page.get_by_label("Problem number")).to_have_value("13")
    for kind in ("unfair", "luck"):
        page.goto(f"{app.url}/practice/{kind}?problem=3")
        page.get_by_role("group", name="Your answer").get_by_role("button").first.click()
        expect(page.locator("[data-marked]")).to_be_visible()
        fits_across(page, 390)
    page.goto(f"{app.url}/practice/fall?problem=3")
    page.get_by_role("button", name="Ready").press("Space")
    thumb = page.get_by_role("button", name="Press: let go, and landed")
    thumb.press("Space")
    page.wait_for_timeout(300)
    thumb.press("Space")
    expect(page.locator("[data-marked]")).to_contain_text(re.compile(r"yours 0\.[2-5]\d s"))
    no_violations(page)
    assert context.cookies() == []
    context.close()


def test_the_lesson_fills_on_the_wall_while_trials_come_in(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "On the wall", repeats=3, **FOUR)
    run_some(teacher, study, {0: ["4.1", "4.2"]})
    page.goto(f"{app.url}/study/{study['id']}/wall")
    expect(page.locator("[data-count]")).to_have_text("2 of 12")
    expect(page.locator("[data-last]")).to_contain_text("4.2 m")
    assert page.locator("[data-next]").evaluate("e => parseFloat(getComputedStyle(e).fontSize)") >= 100
    before = page.locator("[data-next]").inner_text()
    run_some(teacher, study, {n: texts[:1] for n, texts in READINGS.items() if n})  # from another screen
    expect(page.locator("[data-count]")).to_have_text("5 of 12", timeout=15_000)
    assert before
    assert page.evaluate("document.documentElement.scrollHeight") <= 800
    no_violations(page)


def test_a_teacher_marks_the_classs_reports_on_one_page(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    made = []
    for name in ("Red", "Blue"):
        study = new_study(teacher, f"Report of {name}", repeats=3, class_label="9 Teal", **FOUR)
        run_some(teacher, study, READINGS)
        made.append((study, teacher.ok("POST", f"/api/studies/{study['id']}/reports", json={"id": str(uuid4())})))
    page.goto(f"{app.url}/marking")
    one = page.locator(f"[data-report='{made[0][0]['id']}']")
    expect(one.locator("[data-missing]")).to_contain_text("No conclusion is written.")
    one.get_by_label("To the group").fill("Say what you found, with its number.")
    expect(one.get_by_text("Saved.")).to_be_visible()
    no_violations(page)
    study, report = made[0]
    path = f"/api/studies/{study['id']}/reports/{report['id']}"
    held = teacher.ok("GET", path)
    assert held["own"]["comment"] == "Say what you found, with its number."
    conclusion = "The trials show that 10 cm throws 6 m farther than 4 cm, as we predicted."
    teacher.ok("PUT", path, json={**held["own"], "texts": {"conclusion": conclusion}, "revision": held["revision"]})
    page.reload()
    expect(one.locator("li", has_text="conclusion")).to_have_count(0)
    expect(one.get_by_label("To the group")).to_have_value("Say what you found, with its number.")
    page.set_viewport_size({"width": 390, "height": 844})
    fits_across(page, 390)


def test_a_whole_study_goes_out_and_comes_back_as_a_data_package(signed_in: tuple[Page, TeacherClient], app: Application, tmp_path: Path) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Packed", repeats=3, **FOUR)
    run_some(teacher, study, READINGS)
    go(page, app, study, "work-out")
    with page.expect_download() as down:
        page.get_by_role("button", name="Take it along").click()
        page.get_by_role("menuitem", name="Whole study (data package)").click()
    down.value.save_as(tmp_path / "packed.zip")
    page.goto(f"{app.url}/read-in")
    page.get_by_label("The file").set_input_files(tmp_path / "packed.zip")
    page.wait_for_url(re.compile("/work-out$"))
    again = page.url.split("/")[-2]
    assert again != study["id"]
    assert teacher.ok("GET", f"/api/studies/{again}/analysis") == teacher.ok("GET", f"/api/studies/{study['id']}/analysis")
    (tmp_path / "bad.zip").write_bytes(b"PK not a zip")
    page.goto(f"{app.url}/read-in")
    page.get_by_label("The file").set_input_files(tmp_path / "bad.zip")
    expect(page.get_by_role("alert")).to_contain_text("it cannot be opened as a zip")
