"""Takes the pictures in this folder from the demo data: `bin/shots`."""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path
from uuid import uuid4

import psycopg
from playwright.sync_api import Page, expect, sync_playwright

HERE = Path(__file__).resolve().parent
sys.path.insert(0, str(HERE.parent.parent))
from bendro.instruments.made import HIGH, MADE, WIDE
from tests.conftest import Application
from tests.ui.conftest import ARGUMENTS, tick_cautions


def settle(page: Page) -> None:
    page.wait_for_load_state("networkidle")
    page.evaluate("document.fonts.ready")
    page.mouse.move(2, 790)


def shot(page: Page, name: str, *, whole: bool = False) -> None:
    settle(page)
    page.screenshot(path=HERE / f"{name}.png", full_page=whole, animations="disabled")


def main() -> None:
    with tempfile.TemporaryDirectory(prefix="bendro-shots-") as folder, sync_playwright() as playwright:
        app = Application(Path(folder) / "data")
        app.folder.mkdir()
        app.start()
        try:
            browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=ARGUMENTS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            take(page, app)
            browser.close()
        finally:
            app.stop()


def take(page: Page, app: Application) -> None:
    url = app.url
    page.goto(url)
    page.get_by_role("button", name="Open the demo").wait_for()
    page.get_by_role("button", name="Open the demo").click()
    page.get_by_role("heading", name="Message glider").wait_for()
    shot(page, "home")
    page.get_by_role("link", name="Start from a usual test").click()
    page.get_by_role("heading", name="What shall we find out?").wait_for()
    ids = {s["title"]: s["id"] for s in page.evaluate("fetch('/api/studies').then(r => r.json())")}
    page.goto(f"{url}/study/{ids['Medicine drop']}/plan")
    page.get_by_role("button", name="Go to the run").wait_for()
    shot(page, "plan")
    page.goto(f"{url}/study/{ids['Medicine drop']}/ask")
    page.get_by_role("heading", name="Kept the same").wait_for()
    shot(page, "ask")
    page.goto(f"{url}/study/{ids['Medicine drop']}/plan/lesson")
    page.get_by_role("heading", name="It fits").wait_for()
    shot(page, "lesson")
    page.goto(f"{url}/study/{ids['Seed-wing']}/plan/templates")
    page.locator("[data-template-sheet]").first.wait_for()
    shot(page, "templates")
    page.goto(f"{url}/study/{ids['Pod, round by round']}/build")
    page.get_by_role("region", name="Versions on the shelf").wait_for()
    page.wait_for_load_state("networkidle")
    shot(page, "build")
    page.goto(f"{url}/study/{ids['Message glider']}/run")
    at_lane(page)
    page.get_by_role("button", name=re.compile("^Keep")).wait_for()
    page.locator("#timer-0").fill("6.14")
    expect(page.get_by_text("waiting to send")).to_have_count(0)
    shot(page, "run")
    page.goto(f"{url}/study/{ids['Cracker pod']}/run")
    at_lane(page)
    page.get_by_role("button", name=re.compile("^Keep")).wait_for()
    shot(page, "ladder")
    page.goto(f"{url}/study/{ids['Throwing a line over the dyke']}/work-out")
    page.get_by_role("heading", name=re.compile("rose with")).wait_for()
    page.get_by_role("tab", name="In order", exact=True).wait_for()
    shot(page, "work-out")
    page.goto(f"{url}/study/{ids['Throwing a line over the dyke']}/decide")
    page.get_by_role("button", name="arm length").click()
    page.get_by_label("Why?").fill("A longer arm moves faster at its end.")
    page.get_by_text("Saved.").wait_for()
    shot(page, "decide")
    page.goto(f"{url}/together?study={ids['Fizz signal']}")
    page.locator("[data-runners]").wait_for()
    shot(page, "together")
    page.goto(f"{url}/study/{ids['Message glider']}/wall")
    page.locator("[data-last]").wait_for()
    shot(page, "filling")
    page.goto(f"{url}/practice/luck?problem=10")
    page.get_by_role("button", name="It could be luck").click()
    page.locator("[data-marked]").wait_for()
    shot(page, "practice")
    page.goto(f"{url}/study/{ids['Fizz signal']}/work-out")
    page.get_by_role("tab", name="Against water").click()
    shot(page, "against")
    page.goto(f"{url}/study/{ids['Throwing a line over the dyke']}/show")
    page.get_by_role("button", name="Make the poster").click()
    page.locator("[data-poster]").wait_for()
    page.wait_for_timeout(1_000)  # its letters and pictures are fitted to the page
    shot(page, "poster")
    desk(page, app, ids["Medicine drop"])
    heat(page, url, ids["Seed-wing"])
    gate(page, url)
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{url}/study/{ids['Medicine drop']}/run")
    page.get_by_role("heading", name="Before the first trial").wait_for()
    tick_cautions(page)
    page.get_by_role("button", name=re.compile("Release")).wait_for()
    shot(page, "run-phone")


def at_lane(page: Page) -> None:
    """The run is open, or it is opened now."""
    cautions = page.get_by_role("heading", name=re.compile("^Before the (first|next) trial"))
    cautions.or_(page.get_by_role("button", name=re.compile("^Keep"))).first.wait_for()
    if cautions.count():
        tick_cautions(page)


def desk(page: Page, app: Application, of: str) -> None:
    """The teacher's desk while a made class runs a copy of the medicine drop: it plays in a minute, and is laid out over the minutes that a class takes."""
    url = app.url
    again = copied(page, of, "Medicine drop")
    page.goto(f"{url}/study/{again}/run")
    page.get_by_role("heading", name="Before the first trial").wait_for()
    tick_cautions(page)
    page.get_by_role("button", name=re.compile("Release")).wait_for()
    page.goto(f"{url}/study/{again}/plan/class")
    page.get_by_role("button", name="Let the class in").click()
    code = page.locator("[data-signs]").inner_text()
    let_play(url, code)
    with psycopg.connect(app.database(), autocommit=True) as rows:
        for table in ("run", "joining"):
            rows.execute(f"update {table} set opened_at = now() - interval '24 minutes' where study_id = %s", [again])
        spread = "update trial t set released_at = now() - interval '24 minutes' + o.n * interval '100 seconds' from (select id, row_number() over (order by released_at) n from trial where study_id = %(of)s) o where o.id = t.id"
        rows.execute(spread, {"of": again})
    page.goto(f"{url}/study/{again}/desk")
    page.locator("[data-row] [data-mark]").nth(9).wait_for()
    shot(page, "desk")


def let_play(url: str, code: str) -> None:
    """The class plays in a program of its own until it has kept what the picture shows."""
    subprocess.run([sys.executable, "-m", "bendro.terminal", "class", code, "--to", url, "--speed", "30", "--most", "2", "--timers", "2"], check=True, timeout=240, stdout=subprocess.DEVNULL)


def copied(page: Page, of: str, title: str) -> str:
    """A copy of a study of the demo, without its trials."""
    again = str(uuid4())
    page.evaluate(
        """([of, id, title]) => fetch(`/api/studies/${of}/copy`, {method: 'POST', headers: {'content-type': 'application/json'},
        body: JSON.stringify({id, title})})""",
        [of, again, title],
    )
    return again


def heat(page: Page, url: str, of: str) -> None:
    """The second heat of a copy of the seed-wings, one down and two still falling; times come from the keys' own stamps."""
    again = copied(page, of, "Seed-wing")
    page.goto(f"{url}/study/{again}/run")
    page.get_by_role("heading", name="Before the first trial").wait_for()
    tick_cautions(page)
    page.get_by_role("heading", name="Heat 1 of 4").wait_for()
    press = """([key, ms]) => { const e = new KeyboardEvent('keydown', {key, bubbles: true, cancelable: true});
        Object.defineProperty(e, 'timeStamp', {value: ms}); document.body.dispatchEvent(e) }"""
    page.evaluate("document.activeElement.blur()")
    for key, ms in ((" ", 1000), ("1", 2490), ("2", 2650), ("3", 2360)):
        page.evaluate(press, [key, ms])
        page.wait_for_timeout(150)
    page.get_by_role("heading", name="Heat 2 of 4").wait_for()
    page.evaluate("from => { performance.now = () => from + 1580 }", 1000)
    for key, ms in ((" ", 1000), ("2", 2360)):
        page.evaluate(press, [key, ms])
        page.wait_for_timeout(150)
    shot(page, "heat")


def gate(page: Page, url: str) -> None:
    """The usual test of sail carts with the made camera as its gate, laid against the tape of its picture."""
    of = str(uuid4())
    page.evaluate(
        """id => fetch('/api/studies/usual', {method: 'POST', headers: {'content-type': 'application/json'},
        body: JSON.stringify({id, family: 'vehicle', test: 'sail-area', class_label: '8b', groups: ['Curlew', 'Heron']})})""",
        of,
    )
    page.goto(f"{url}/study/{of}/run")
    at_lane(page)
    page.get_by_role("button", name="Other ways").click()
    page.get_by_role("menuitem", name="The camera as a gate").click()
    page.get_by_role("button", name="Try it without a camera").click()
    page.get_by_role("button", name="Lines and tape").click()
    page.get_by_role("button", name="Lay the tape").click()
    box = page.locator("[data-gate]").bounding_box()
    assert box is not None
    for (x, y), _ in MADE["roll"].marks:
        page.mouse.click(box["x"] + x / WIDE * box["width"], box["y"] + y / HIGH * box["height"])
    page.get_by_label("and there").fill("4 m")
    for name, at_m in (("start gate", 1.0), ("end gate", 3.0)):  # drawn to the metre by the arrow keys
        line = page.locator(f"[data-line='{name}']")
        line.focus()
        for _ in range(60):
            x = float(line.locator("line").first.get_attribute("x1") or 0) / box["width"] * WIDE
            off = MADE["roll"].marks[0][0][0] + 130 * at_m - x
            if abs(off) < 2:
                break
            page.keyboard.press("ArrowRight" if off > 0 else "ArrowLeft")
    page.get_by_role("button", name="Lines and tape").click()
    page.get_by_role("button", name="It counts now").click()
    page.get_by_text("Written down:").wait_for()
    page.evaluate("window.scrollTo(0, 0)")
    shot(page, "gate")


if __name__ == "__main__":
    main()
