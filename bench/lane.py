"""How fast the pages answer, in a real browser: `bin/bench lane`. Prints; asserts nothing, since machines are shared and noisy.

Key to mark: from the stamp of the Enter that keeps a trial to the frame after the one in which its mark stands on the tape, over a run of
300 trials, with what the run moved (layout shift). Last key to verdict: to the frame in which the verdict stands, over twenty studies; and
what the server and the browser had to do for it, one after the other."""

from __future__ import annotations

import math
import shutil
import statistics
import sys
import time
from pathlib import Path
from typing import Any

import numpy as np
from playwright.sync_api import Page, sync_playwright

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))
from bench.run import served, table_of, times
from bendro.core.analyse import analyse
from bendro.core.context import Context
from bendro.core.trials import Trial
from tests.api.test_showing import run_some
from tests.conftest import DRAFT, PASSWORD, Application, TeacherClient, new_study
from tests.ui.conftest import ARGUMENTS

RUN, STUDIES, LEVELS, MANY = 300, 20, 4, 10_000
LIMIT = [{"on": "variable", "name": "", "value": "12 cm"}]
#: What is kept the same: in numbers and in words, as the usual tests have it. Every trial carries it, and it is held against the plan.
HELD = [
    {"name": "release angle", "value": "40 °", "tolerance": "2 °"},
    {"name": "projectile", "value": "12 g", "tolerance": "0.5 g"},
    {"name": "launcher held down at the same place", "how": "both corners on the taped marks"},
    {"name": "person who releases", "how": "one releaser for the whole test"},
    {"name": "band", "how": "the same band, rested between trials"},
]
STANDS = {h["name"]: h.get("value") or h["how"] for h in HELD}

KEEP = """async ({texts, settle}) => {
  const took = [], wait = (ms) => new Promise((r) => setTimeout(r, ms)), frame = () => new Promise((r) => requestAnimationFrame(r))
  const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set
  const moved = []
  new PerformanceObserver((l) => { for (const e of l.getEntries()) if (!e.hadRecentInput)
    moved.push([took.length, e.value, e.sources.map((s) => (s.node?.outerHTML ?? s.node?.data ?? '').slice(0, 60))]) }).observe({type: 'layout-shift', buffered: false})
  const count = () => document.querySelectorAll('figure svg g.land, figure svg path[stroke="var(--floor)"]').length
  for (const text of texts) {
    const field = document.getElementById('timer-0')
    set.call(field, text); field.dispatchEvent(new Event('input', {bubbles: true}))
    await wait(settle)  // a pupil's hand goes from the last digit to Enter
    const before = count(), from = performance.now()
    field.dispatchEvent(new KeyboardEvent('keydown', {key: 'Enter', bubbles: true, cancelable: true}))
    while (count() === before && performance.now() - from < 4000) await frame()
    took.push(performance.now() - from)
    await wait(settle)
  }
  return {took, moved}
}"""

VERDICT = """async () => {
  performance.clearResourceTimings()
  const from = performance.now()
  document.getElementById('timer-0').dispatchEvent(new KeyboardEvent('keydown', {key: 'Enter', bubbles: true, cancelable: true}))
  while (!document.querySelector('[data-verdict]') && performance.now() - from < 9000) await new Promise((r) => requestAnimationFrame(r))
  const end = performance.now()
  return {took: end - from, calls: performance.getEntriesByType('resource').map((e) => [e.name.split('/').pop().split('?')[0].slice(0, 12), e.startTime - from, e.responseEnd - from])}
}"""


SWITCH = """async () => {
  const told = [], wait = (ms) => new Promise((r) => setTimeout(r, ms))
  let long = []
  new PerformanceObserver((l) => { for (const e of l.getEntries()) long.push(e.duration) }).observe({type: 'longtask', buffered: false})
  for (const button of [...document.querySelectorAll('[role=tablist][aria-label="How the trials are drawn"] button')]) {
    long = []
    button.click()
    await wait(2500)
    told.push([button.textContent, long])
  }
  return told
}"""


def spread(name: str, ms: list[float]) -> None:
    s = sorted(ms)

    def at(share: float) -> float:
        return s[math.ceil(share * len(s)) - 1]

    print(f"  {name:34} median {statistics.median(s):6.1f} ms   95 % {at(0.95):6.1f} ms   99 % {at(0.99):6.1f} ms   most {s[-1]:6.1f} ms   of {len(s)}")


def studies(page: Page, app: Application, teacher: TeacherClient) -> None:
    print(f"From the last key to the verdict ({LEVELS} levels, 3 repeats)")
    took: list[float] = []
    calls: list[list[Any]] = []
    rng = np.random.default_rng(5)
    for n in range(STUDIES + 1):
        study = new_study(teacher, f"Last key {n}", limits=LIMIT, hold=HELD, variable={**DRAFT["variable"], "levels": ["4", "6", "8", "10"]}, repeats=3)
        run_some(teacher, study, {i: [f"{2 * i + 4 + rng.normal(0, 0.2):.2f}" for _ in range(3 if i < LEVELS - 1 else 2)] for i in range(LEVELS)}, conditions=STANDS)
        page.goto(f"{app.url}/study/{study['id']}/run")
        page.locator("#timer-0").fill(f"{2 * LEVELS + 2:.2f}")
        page.wait_for_timeout(700)
        found = page.evaluate(VERDICT)
        if n:  # the first wakes the process that works it out
            took.append(found["took"])
        calls = found["calls"]
    spread("on the screen", took)
    for name, begun, ended in calls:
        print(f"    {name:14} from {begun:6.1f} to {ended:6.1f} ms (the last study)")


def run(page: Page, app: Application, teacher: TeacherClient) -> None:
    print(f"From the key to the mark, a run of {RUN} trials")
    study = new_study(teacher, "A long run", limits=LIMIT, variable={**DRAFT["variable"], "levels": ["4", "5", "6", "7", "8", "9"]}, repeats=RUN // 6)
    page.goto(f"{app.url}/study/{study['id']}/run")
    page.locator("#timer-0").wait_for()
    page.wait_for_timeout(800)
    page.set_default_timeout(600_000)
    found = page.evaluate(KEEP, {"texts": [f"{5 + (n % 7) / 10:.1f}" for n in range(RUN)], "settle": 250})
    spread("on the tape", found["took"])
    # what the first trial takes away with it (the word on practice releases), and the end of the run, are not the run
    moved = [(at, by, what) for at, by, what in found["moved"] if 1 < at < RUN]
    for at, by, what in moved:
        if by > 1e-3:
            print(f"    after {at} trials by {by:.4f}: {what[:2]}")
    print(f"  moved in the run (layout shift)    {sum(by for _, by, _ in moved):.4f}")


SCROLL = """async () => {
  const long = [], wait = (ms) => new Promise((r) => setTimeout(r, ms))
  new PerformanceObserver((l) => { for (const e of l.getEntries()) long.push(e.duration) }).observe({type: 'longtask', buffered: false})
  const all = document.documentElement.scrollHeight
  for (let y = 0; y < all; y += 120) { window.scrollTo(0, y); await wait(30) }
  for (let y = all; y > 0; y -= 400) { window.scrollTo(0, y); await wait(30) }
  await wait(200)
  return [long, all]
}"""


def sheet(page: Page, app: Application, teacher: TeacherClient) -> None:
    """Thirty readings of a paper sheet typed in by a hand that presses four keys a second, and as fast as the page takes them."""
    print("A sheet of thirty readings typed in")
    for name, delay in (("by a hand, four keys a second", 250), ("as fast as it is taken", 0)):
        study = new_study(teacher, f"Sheet {name}", limits=LIMIT, variable={**DRAFT["variable"], "levels": ["4", "6", "8"]}, repeats=10)
        page.goto(f"{app.url}/study/{study['id']}/sheet")
        page.locator("#sheet-0-0").focus()
        keys, began = 0, time.perf_counter()
        for turn in range(30):
            text = f"{4 + (turn % 7) / 10:.2f}"
            page.keyboard.type(text, delay=delay)
            page.keyboard.press("Enter", delay=delay)
            keys += len(text) + 1
        page.get_by_text("30 of 30 rows kept").wait_for()
        took = time.perf_counter() - began
        page.wait_for_timeout(1_500)
        stored = len(teacher.ok("GET", f"/api/studies/{study['id']}/trials"))
        print(f"  {name:34} {keys} keys, {took:5.1f} s until all are kept, {stored} on the server")


def ten_thousand(page: Page, app: Application, teacher: TeacherClient) -> None:
    print(f"Studies of {MANY} trials in Work out")
    rows = [Trial(level=4.0 + 2 * (n % 3), value=round((4 + 2 * (n % 3)) / 2 + (n % 97) / 100, 2), order=n + 1, row=n + 1, resolution=0.01) for n in range(MANY)]
    asked = Context(factor="pull", response="distance", factor_unit="cm", unit="m")
    analyse(rows, asked)
    bare = statistics.median(times(3, lambda _: analyse(rows, asked)))
    opened = []
    for n in range(3):
        study = teacher.ok("POST", "/api/tables/study", json=table_of(MANY, f"Ten thousand {n}"))
        began = time.perf_counter()
        page.goto(f"{app.url}/study/{study['id']}/work-out")
        page.locator("[data-answer]").first.wait_for(timeout=120_000)
        opened.append(time.perf_counter() - began)
    middle = statistics.median(opened)
    print(f"  bare analysis {1e3 * bare:.0f} ms; opened for the first time {1e3 * middle:.0f} ms; ratio {middle / bare:.2f}")
    page.get_by_role("tab", name="Levels", exact=True).wait_for(timeout=60_000)
    page.wait_for_timeout(1_500)
    long, height = page.evaluate(SCROLL)
    print(f"  scrolled over {height} px; tasks over 50 ms: {[round(t) for t in long] or 'none'}")
    for name, long in page.evaluate(SWITCH):
        print(f"  {name}: tasks over 50 ms: {[round(t) for t in long] or 'none'}")


def main() -> None:
    with served() as (app, teacher), sync_playwright() as browsers:
        browser = browsers.chromium.launch(executable_path=shutil.which("chromium"), args=ARGUMENTS)
        page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
        page.goto(app.url)
        page.get_by_label("Sign-in name").fill(teacher.name)
        page.get_by_label("Password").fill(PASSWORD)
        page.keyboard.press("Enter")
        page.get_by_role("button", name="New study").wait_for()
        studies(page, app, teacher)
        run(page, app, teacher)
        sheet(page, app, teacher)
        ten_thousand(page, app, teacher)
        browser.close()


if __name__ == "__main__":
    main()
