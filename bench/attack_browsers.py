"""Two real browsers on one study, cut from the network in turns, with trials kept, voided, taken back and corrected, and the plan changed
half-way: what each lane said is what the record holds."""

from __future__ import annotations

import random
import re
import shutil
import time
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

from bench.attack_class import running
from bendro.api.needs import COOKIE
from tests.conftest import TeacherClient, let_in_at, new_study, texts_of
from tests.ui.conftest import ARGUMENTS

TURNS, LEVELS = 120, 8


def _void(page: Page) -> None:
    page.locator("#timer-0").fill("")
    page.keyboard.press("v")
    page.get_by_role("dialog").wait_for()
    page.keyboard.press("1")
    expect(page.locator("#reading-says")).to_contain_text("Void:")


def _take_back(page: Page) -> str:
    """Undo; what was in hand again, which is then cleared."""
    page.locator("#timer-0").fill("")
    page.keyboard.press("z")
    expect(page.locator("#reading-says")).to_contain_text("Taken back")
    said = page.locator("#reading-says").inner_text()
    page.locator("#timer-0").fill("")
    found = re.search(r"Taken back: ([\d.]+)", said)
    return found[1] if found else ""


def _corrected(teacher: TeacherClient, path: str, chance: random.Random) -> tuple[str, str] | None:
    """Another screen corrects one of the stored trials."""
    held = [t for t in teacher.ok("GET", path) if t["state"] == "kept"]
    if not held:
        return None
    one = chance.choice(held)
    was, now = texts_of(one)[0], f"{texts_of(one)[0]}5"
    keys = ("block", "level", "group", "person", "device", "version", "specimen", "rung", "practice", "conditions", "heat", "answered", "fault", "note", "released_at")
    readings = [{"measure": "m1", "texts": [now], "unit": "m"}]
    body = {**{k: one[k] for k in keys}, "state": "kept", "readings": readings, "revision": one["revision"] + 1}
    answer = teacher.http.put(f"{path}/{one['id']}", json=body)
    return (was, now) if answer.status_code == 200 else None


def two_browsers(folder: Path, chance: random.Random) -> str:
    """120 turns by two browsers that are cut in turns."""
    levels = [str(4 + n) for n in range(LEVELS)]
    with running(folder) as (app, teacher, _):
        variable = {"name": "pull-back", "kind": "number", "quantity": "length", "unit": "cm", "levels": levels}
        study = new_study(teacher, variable=variable, repeats=TURNS // LEVELS, groups=[], limits=[{"on": "variable", "name": "", "value": "20 cm"}])
        path = f"/api/studies/{study['id']}/trials"
        # what every lane said, by its text, which no two trials share
        said: dict[str, str] = {}
        acts = {"kept": 0, "void": 0, "taken back": 0, "corrected": 0, "cut": 0}
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=shutil.which("chromium") or shutil.which("chromium-browser"), args=ARGUMENTS)
            pages: list[Page] = []
            for _ in range(2):
                context = browser.new_context(viewport={"width": 1280, "height": 800}, service_workers="block")
                context.set_default_timeout(20_000)
                context.add_cookies([{"name": COOKIE, "value": let_in_at(app, teacher.name).token, "url": app.url}])
                page = context.new_page()
                page.goto(f"{app.url}/study/{study['id']}/run")
                page.locator("#timer-0").wait_for()
                pages.append(page)
            for turn in range(TURNS):
                page, other = pages[turn % 2], pages[1 - turn % 2]
                if turn % 10 == 0:
                    acts["cut"] += 1
                    page.context.set_offline(True)
                    other.context.set_offline(False)
                number = 4.001 + turn / 1000
                text = f"{number:.3f}"
                _kept_or_asked(page, text)
                said[text] = "kept"
                acts["kept"] += 1
                act = chance.random()
                if act < 0.12:
                    _void(page)
                    acts["void"] += 1
                elif act < 0.24:
                    back = _take_back(page)
                    acts["taken back"] += 1
                    if back in said:
                        said[back] = "withdrawn"
                elif act < 0.32 and (done := _corrected(teacher, path, chance)) is not None:
                    said.pop(done[0], None)
                    said[done[1]] = "kept"
                    acts["corrected"] += 1
                if turn == TURNS // 2:
                    now = teacher.ok("GET", f"/api/studies/{study['id']}")
                    draft = {**now["draft"], "question": "How far does it fly with more pull-back?"}
                    teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": now["version"], "draft": draft})
            for page in pages:
                page.context.set_offline(False)
            until = time.monotonic() + 90
            while time.monotonic() < until and any(p.get_by_role("button", name=re.compile("waiting|to correct")).count() for p in pages):
                time.sleep(0.5)
            left = [p.get_by_role("button", name=re.compile("waiting|to correct")).inner_text() for p in pages if p.get_by_role("button", name=re.compile("waiting|to correct")).count()]
            browser.close()
        there = {texts_of(t)[0]: t["state"] for t in teacher.ok("GET", path) if texts_of(t)}
        back = {texts_of(t)[0] for t in teacher.ok("GET", f"{path}/taken-back") if texts_of(t)}
        lost = [t for t, state in said.items() if (state == "kept" and there.get(t) != "kept") or (state == "withdrawn" and t not in back)]
        assert not lost, f"{len(lost)} of {len(said)} are not as their lane said: {lost[:5]}; left: {left}"
        assert not left, f"something still waits: {left}"
        strange = [t for t, state in there.items() if state == "kept" and said.get(t) != "kept"]
        assert not strange, f"{len(strange)} stand there that no lane kept so: {strange[:5]}"
        voids = sum(t["state"] == "void" for t in teacher.ok("GET", path))
        assert voids == acts["void"], f"{voids} void trials of {acts['void']}"
        return f"{TURNS} turns by two browsers, {', '.join(f'{n} {what}' for what, n in acts.items())}: all as the lanes said"


def _kept_or_asked(page: Page, text: str) -> None:
    page.locator("#timer-0").fill(text)
    page.keyboard.press("Enter")
    says = page.locator("#reading-says")
    expect(says).to_contain_text(re.compile(rf"Kept {re.escape(text)}|\?|finer|others"), timeout=20_000)
    if f"Kept {text}" not in says.inner_text():
        page.keyboard.press("Enter")  # meant so
        expect(says).to_contain_text(f"Kept {text}", timeout=20_000)
