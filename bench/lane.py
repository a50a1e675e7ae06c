"""The lane as a hand feels it: from a key to the mark that is kept, and how much the page moves, over a run of three hundred trials
typed without a pause: the queue runs behind. Measured in the browser itself, by the events' own stamps and the frame in which it is drawn."""

from __future__ import annotations

import re
import shutil
import statistics
import sys
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from playwright.sync_api import sync_playwright

from tests.conftest import PASSWORD, Application, new_study, sign_up
from tests.ui.conftest import ARGUMENTS

LEVELS, REPEATS = 6, 50
_WATCH = """() => {
  globalThis.took = []; globalThis.moved = 0
  new PerformanceObserver(l => { for (const e of l.getEntries()) globalThis.moved += e.value }).observe({type: 'layout-shift', buffered: true})
  let from = null
  window.addEventListener('keydown', e => { if (e.key === 'Enter') from = e.timeStamp }, true)
  new MutationObserver(() => {
    if (from === null || !/^Kept/.test(document.querySelector('#reading-says')?.innerText ?? '')) return
    const began = from; from = null
    requestAnimationFrame(t => globalThis.took.push(Math.max(t, performance.now()) - began))
  }).observe(document.body, {subtree: true, childList: true, characterData: true})
}"""


def main() -> None:
    with tempfile.TemporaryDirectory(prefix="bendro-bench-") as folder, sync_playwright() as playwright:
        app = Application(Path(folder) / "data", "--no-demo")
        app.folder.mkdir()
        app.start()
        try:
            teacher = sign_up(app)
            levels = [str(n + 1) for n in range(LEVELS)]
            study = new_study(teacher, "Bench", repeats=REPEATS, variable={"name": "pull-back", "kind": "number", "quantity": "length", "unit": "cm", "levels": levels})
            browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=ARGUMENTS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(app.url)
            page.get_by_label("Sign-in name").fill(teacher.name)
            page.get_by_label("Password").fill(PASSWORD)
            page.keyboard.press("Enter")
            page.get_by_role("button", name="New study").wait_for()
            page.goto(f"{app.url}/study/{study['id']}/run")
            page.get_by_role("button", name=re.compile("^Keep")).wait_for()
            page.evaluate(_WATCH)
            for n in range(LEVELS * REPEATS):
                page.keyboard.type(f"4.{n % 10}")
                page.keyboard.press("Enter")
                page.evaluate("n => new Promise(done => { const see = () => globalThis.took.length >= n ? done() : requestAnimationFrame(see); see() })", n + 1)
            took, moved = sorted(page.evaluate("globalThis.took")), page.evaluate("globalThis.moved")
            browser.close()
        finally:
            app.stop()
    print(f"Key to the kept mark, {len(took)} trials: median {statistics.median(took):.0f} ms, p99 {took[int(0.99 * len(took))]:.0f} ms, most {took[-1]:.0f} ms")
    print(f"Layout shift over the run: {moved:.3f}")


if __name__ == "__main__":
    main()
