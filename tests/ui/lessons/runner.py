"""One lesson from Home to the poster, through the real pages, by a file of data: what is planned, every reading, what must be said where."""

from __future__ import annotations

import csv
import io
import re
import statistics
import zipfile
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal
from uuid import uuid4

from playwright.sync_api import Locator, Page, expect
from pydantic import BaseModel, ConfigDict

from tests.conftest import TeacherClient

WIDE, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}
#: Words that no page may show, whatever the lesson.
NEVER = ("undefined", "NaN", "[object", "null,", "None ")
#: So often is a page looked at, five times a second, until what it must say is there.
LOOKS = 75
Reading = str | dict[str, Any]


class Known(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Said(Known):
    """What a page must say and what it may not."""

    has: list[str] = []
    never: list[str] = []


class Lesson(Known):
    """usual: "family test", or own: fields of a plan of the class's own, in order. needed, plan: fields filled or chosen in the plan, by label.
    versions: built before the run. readings: by level as it is called, in the order in which they come. heats: the order of landing in each. gate: every
    trial is timed by the camera as a gate, played by the made clip.
    means: worked by hand, by level. best: the level that Decide keeps. podium: places with their labels. presses: at most so many from Home to
    the first kept trial."""

    lesson: str
    usual: str = ""
    own: list[dict[str, str]] = []
    needed: dict[str, str] = {}
    plan: list[dict[str, str]] = []
    versions: list[dict[str, Any]] = []
    phone: bool = False
    practice: bool = False
    trials: int
    readings: dict[str, list[Reading]] = {}
    heats: list[list[str]] = []
    gate: bool = False
    lane: Said = Said()
    answer: Literal["Clear", "Leaning", "Cannot tell yet"] | None = None
    means: dict[str, str] = {}
    column: str = "mean"
    verdict: Said = Said()
    decide: Said = Said()
    best: str = ""
    podium: list[tuple[str, str, str]] = []
    poster: Said = Said()
    report: Said = Said()
    exports: Said = Said()
    presses: int = 10
    everywhere: Said = Said()


@dataclass
class Ran:
    """What a lesson took: presses and fields to the first kept trial, and in all."""

    first: int = 0
    all: int = 0
    entered: dict[str, list[str]] = field(default_factory=dict)


def run(lesson: Lesson, page: Page, teacher: TeacherClient) -> Ran:
    return _Running(lesson, page, teacher).run()


class _Running:
    def __init__(self, lesson: Lesson, page: Page, teacher: TeacherClient) -> None:
        self.lesson, self.page, self.teacher, self.ran = lesson, page, teacher, Ran()
        self.left = {level: list(given) for level, given in lesson.readings.items()}

    # --- the whole road --------------------------------------------------------------------------------------------

    def run(self) -> Ran:
        self.plan()
        self.build()
        self.open_run()
        self.trials()
        self.work_out()
        self.decide()
        self.show()
        self.exports()
        return self.ran

    @property
    def study_id(self) -> str:
        found = re.search(r"/study/([0-9a-f-]+)", self.page.url)
        assert found, self.page.url
        return found[1]

    def count(self, n: int = 1) -> None:
        self.ran.all += n

    def says(self, told: Callable[[], str], said: Said, where: str) -> None:
        """told: gives the text of the page, looked at again until everything that must be said has come."""
        for _ in range(LOOKS):
            flat = " ".join(told().replace("\u00a0", " ").replace("\u2060", "").split())
            if all(words in flat for words in (*said.has, *self.lesson.everywhere.has)):
                break
            self.page.wait_for_timeout(200)
        for words in (*said.has, *self.lesson.everywhere.has):
            assert words in flat, f"{where} does not say “{words}”: {flat[:1500]}"
        for words in (*said.never, *self.lesson.everywhere.never, *NEVER):
            assert words not in flat, f"{where} says “{words}”: …{flat[max(0, flat.index(words) - 200) : flat.index(words) + 200]}…"

    def seen(self) -> str:
        return self.page.locator("body").inner_text()

    def fits(self, where: str) -> None:
        wide = self.page.viewport_size["width"] if self.page.viewport_size else 0
        need = self.page.evaluate("document.documentElement.scrollWidth")
        assert need <= wide + 1, f"{where} is {need} wide on a screen of {wide}"

    # --- plan and build --------------------------------------------------------------------------------------------

    def plan(self) -> None:
        page, lesson = self.page, self.lesson
        if lesson.usual:
            page.get_by_role("link", name="Start from a usual test").click()
            page.locator(f"[data-test='{lesson.usual}']").click()
            self.count(2)
        else:
            page.get_by_role("button", name="New study").click()
            page.keyboard.type(lesson.lesson[:40])
            page.keyboard.press("Enter")
            self.count(3)
        page.get_by_label("The plan so far").or_(page.get_by_role("heading", name=re.compile("^(Plan|Ask)"))).first.wait_for()
        for step in lesson.own:
            self.step(step)
        for label, value in lesson.needed.items():
            self.put(page.locator("[data-needed]").get_by_label(label), value)
        for step in lesson.plan:
            self.step(step)
        go = page.get_by_role("button", name=re.compile("^Go to the run|^Go on with the run"))
        go.wait_for()
        self.fits("the plan")
        go.click()
        self.count()

    def step(self, step: Mapping[str, str]) -> None:
        """One thing done in the plan: {label: value} fills or chooses, {press: name} presses, {open: name} follows a link."""
        page = self.page
        for label, value in step.items():
            if label == "press":
                page.get_by_role("button", name=value).first.click()
                self.count()
            elif label == "open":
                page.get_by_role("link", name=value, exact=True).first.click()
                self.count()
            else:
                name, _, at = label.partition("|")  # "Unit|1": the second of that name
                self.put(page.get_by_label(name).and_(page.locator("input, select, textarea")).nth(int(at or 0)), value)

    def put(self, place: Any, value: str) -> None:
        place.wait_for()
        if place.evaluate("e => e.tagName") == "SELECT":
            place.select_option(label=value)
        else:
            place.fill(value)
        self.count()

    def build(self) -> None:
        for n, v in enumerate(self.lesson.versions):
            draft = {k: x for k, x in v.items() if k != "device"}
            body = {"device": v.get("device", ""), "draft": draft, "revision": 0}
            made = self.teacher.http.put(f"/api/studies/{self.study_id}/versions/{uuid4()}", json=body)
            assert made.status_code == 200, (n, made.text)

    def open_run(self) -> None:
        page = self.page
        page.get_by_role("heading", name=re.compile("^Before the (first|next) trial")).wait_for()
        boxes = page.get_by_role("checkbox")
        boxes.first.wait_for()
        every = page.get_by_role("button", name=re.compile("are read: tick them"))
        if every.count():
            every.click()
            self.count()
        else:
            for box in boxes.all():
                box.check()
                self.count()
        expect(page.get_by_label("Adult in charge, by role")).not_to_have_value("")
        page.get_by_role("button", name="Open the run").click()
        self.count()

    # --- the lane ---------------------------------------------------------------------------------------------------

    def trials(self) -> None:
        page, lesson = self.page, self.lesson
        page.set_viewport_size(PHONE if lesson.phone else WIDE)  # type: ignore[arg-type]
        (page.locator("[data-lanes]") if lesson.heats else page.locator("#reading-says")).wait_for()
        self.fits("the lane")
        self.says(self.seen, lesson.lane, "the lane")
        for order in lesson.heats:
            self.heat(order)
        if lesson.gate:
            self.gated()
        elif not lesson.heats:
            while sum(map(len, self.left.values())):
                called = page.get_by_label("Now on the lane").get_attribute("data-called") or ""
                assert self.left.get(called), f"{called} is called, and {self.left} is left"
                self.trial(called, self.left[called].pop(0))
        page.get_by_role("heading", name=re.compile("trials are in|are in$")).wait_for()
        page.set_viewport_size(WIDE)  # type: ignore[arg-type]
        expect(page.get_by_text("waiting to send")).to_have_count(0)
        page.get_by_role("link", name="Read the verdict").click()
        self.count()

    def gated(self) -> None:
        """Every trial is seen crossing two lines, and kept by Enter."""
        page = self.page
        page.get_by_role("button", name="Other ways").click()
        page.get_by_role("menuitem", name="The camera as a gate").click()
        page.get_by_role("button", name="Try it without a camera").click()
        page.get_by_role("button", name="It counts now").click()
        self.count(4)
        written = page.get_by_text(re.compile("^Written down: "))
        asked = page.get_by_role("button", name=re.compile("^It is what was read"))
        for n in range(1, self.lesson.trials + 1):
            written.wait_for()
            page.keyboard.press("Enter")
            self.count()
            for _ in range(200):
                if len(self.teacher.ok("GET", f"/api/studies/{self.study_id}/trials")) >= n:
                    break
                if asked.count():  # one that lies far from the others is meant all the same
                    page.keyboard.press("Enter")
                page.wait_for_timeout(100)
            if not self.ran.first:
                self.ran.first = self.ran.all

    def heat(self, order: list[str]) -> None:
        """Let go together, and landed in this order; "=" joins two that land together."""
        page = self.page
        page.locator("[data-press]").first.wait_for()
        kept = page.locator("#root").get_attribute("data-nothing")
        assert kept is None
        heading = page.get_by_role("heading", name=re.compile(r"^Heat "))
        before = heading.inner_text()
        page.keyboard.press("Space")
        self.count()
        for level in order:
            page.wait_for_timeout(60)
            page.keyboard.press(page.locator(f"[data-called='{level}']").get_attribute("data-lane") or "")
            self.count()
        noted = page.get_by_role("status").filter(has_text="Kept")
        meant = page.get_by_role("button", name=re.compile("^It is what was read"))
        meant.or_(noted).first.wait_for()
        if meant.count():  # the presses are in this machine's own time: a slow moment puts one far from those before it
            meant.click()
        expect(noted).to_be_visible()
        if not self.ran.first:
            self.ran.first = self.ran.all
        if order is not self.lesson.heats[-1]:
            expect(heading).not_to_have_text(before)

    def trial(self, level: str, reading: Reading) -> None:
        page = self.page
        there = int(page.get_by_label("Now on the lane").get_attribute("data-trials") or 0)
        given = {"first": reading} if isinstance(reading, str) else dict(reading)
        first, asks, now = str(given.pop("first", "")), given.pop("asks", ""), given.pop("now", {})
        if now:
            self.stands(now)
        if first.startswith("void"):
            page.get_by_role("button", name=re.compile("^Void")).first.click()
            page.get_by_role("dialog").get_by_role("button", name=re.compile(re.escape(first.removeprefix("void ").strip()))).first.click()
            self.count(2)
            self.noted(there)
            return
        for word in given.pop("behaviours", []):
            page.locator("[data-behaviours]").get_by_role("button", name=word, exact=True).click()
            self.count()
        self.write(page.locator("[aria-label='Reading']"), "", first)
        for label, value in given.items():
            self.write(page.locator("[aria-label='Reading']"), label, str(value))
        page.get_by_role("button", name=re.compile("^Keep( Enter)?$")).first.click()
        self.count()
        says = page.locator("#reading-says")
        meant = page.get_by_role("button", name=re.compile("^It is what was read"))
        if asks:
            expect(says).to_contain_text(asks)
        else:  # how the turns were shuffled decides whether a reading lies far from those before it
            meant.or_(self.after(there)).first.wait_for()
        if meant.count():
            meant.click()
            self.count()
        self.noted(there)
        self.ran.entered.setdefault(level, []).append(first)
        if not self.ran.first:
            self.ran.first = self.ran.all

    def stands(self, now: Mapping[str, str]) -> None:
        """How things stand now is written, as when a height or a person changes."""
        page = self.page
        page.keyboard.press("n")
        sheet = page.get_by_role("dialog", name="Conditions now")
        for label, value in now.items():
            sheet.get_by_label(label).fill(value)
            self.count()
        sheet.get_by_role("button", name=re.compile("^It stands so")).click()
        again = sheet.get_by_role("button", name="It stands so all the same")
        for _ in range(200):  # the server says whether it stands as planned, or the sheet is gone
            if again.count() or not sheet.count():
                break
            page.wait_for_timeout(100)
        if again.count():
            again.click()
        self.count(2)
        expect(sheet).to_have_count(0)

    def noted(self, there: int) -> None:
        """Wait until one trial more is on the lane than there were, or the last is in."""
        expect(self.after(there)).to_be_visible()

    def after(self, there: int) -> Locator:
        """The lane with one trial more, or the end of the run."""
        lane = self.page.locator(f"[data-called][data-trials='{there + 1}']")
        return lane.or_(self.page.get_by_role("heading", name=re.compile("are in$")))

    def write(self, part: Any, label: str, value: str) -> None:
        """A number is typed, a word is pressed; "1 / 2 / 3" are several timers."""
        if not label:
            field_ = part.locator("#timer-0")
            if field_.count():
                for n, text in enumerate(value.split(" / ")):
                    (field_ if n == 0 else part.get_by_label(f"Timer {n + 1}")).fill(text)
                    self.count()
                return
            for group, word in zip(part.get_by_role("group").filter(has=self.page.locator("[data-outcome]")).all(), value.split(" / "), strict=False):
                group.locator(f"[data-outcome='{word}']").click()
                self.count()
            return
        group = part.get_by_role("group", name=label, exact=True)
        if group.count():
            group.locator(f"[data-outcome='{value}']").click()
        else:
            part.get_by_label(re.compile(f"^{re.escape(label)}")).first.fill(value)
        self.count()

    # --- what came of it ---------------------------------------------------------------------------------------------

    def work_out(self) -> None:
        page, lesson = self.page, self.lesson
        page.locator("[data-answer]").wait_for()
        expect(page.locator("[data-answer]")).not_to_contain_text("So far")
        if lesson.answer:
            expect(page.locator("[data-answer]")).to_have_text(lesson.answer)
        page.get_by_role("heading", name="The numbers", exact=True).wait_for()
        page.wait_for_load_state("networkidle")
        self.fits("Work out")
        self.says(self.seen, lesson.verdict, "Work out")
        trials = self.teacher.ok("GET", f"/api/studies/{self.study_id}/trials")
        assert sum(t["state"] == "kept" and not t["practice"] for t in trials) == lesson.trials
        if lesson.means:
            every_number = page.get_by_role("button", name="All of them, with median, total and spread")
            if every_number.count():  # of many levels the whole table is folded
                every_number.click()
            table = page.get_by_role("region", name=re.compile("^The numbers for each level|^How many")).first
            head = [th.inner_text().split(" /")[0] for th in table.locator("thead th").all()]
            at = head.index(lesson.column) if lesson.column in head else 1
            for level, mean in lesson.means.items():
                row = table.locator("tbody tr").filter(has=page.locator("th", has_text=re.compile(rf"^\s*{re.escape(level).replace(chr(92) + ' ', '.')}\s*$")))
                shown = row.locator("th, td").nth(at).inner_text().strip()
                assert shown == mean, f"{lesson.column} of {level}: {shown}, by hand {mean}"
                self.by_hand(level, mean)

    def by_hand(self, level: str, mean: str) -> None:
        """The mean written in the lesson against the readings of the lesson, where these are plain numbers of one unit."""
        texts = self.ran.entered.get(level, [])
        if self.lesson.column == "mean" and texts and all(re.fullmatch(r"-?\d+(\.\d+)?", t) for t in texts):
            worked = statistics.fmean(map(float, texts))
            digits = len(mean.partition(".")[2])
            assert abs(worked - float(mean.replace("−", "-"))) <= 0.5 * 10**-digits + 1e-9, f"{level}: {worked} is not {mean}"

    def decide(self) -> None:
        page, lesson = self.page, self.lesson
        page.get_by_role("link", name=re.compile("^Decide")).first.click()
        page.locator("[data-best]").wait_for()
        self.fits("Decide")
        self.says(self.seen, lesson.decide, "Decide")
        if lesson.best:
            expect(page.get_by_role("group", name="Which is kept").get_by_role("button", pressed=True)).to_have_text(re.compile(rf"^\s*{re.escape(lesson.best)}\s*$"))
        page.get_by_role("link", name="Back to the verdict").click()
        page.locator("[data-answer]").wait_for()

    def show(self) -> None:
        page, lesson = self.page, self.lesson
        page.get_by_role("link", name="Show it").click()
        page.get_by_role("button", name="Make the poster").click()
        poster = page.locator("[data-poster]")
        poster.wait_for()
        self.says(poster.inner_text, lesson.poster, "the poster")
        if lesson.podium:
            shown = []
            for place in page.locator("[data-poster] [data-place]").all():
                shown.append(" ".join(place.inner_text().split()))
            for place, label, result in lesson.podium:
                assert any(s.startswith(f"place {place} ") or s.startswith(f"{place} ") for s in shown), (place, shown)
                mine = next((s for s in shown if label in s), "")
                assert re.search(rf"(^|place ){re.escape(place)}(\s|$)", mine), f"{label} is not at {place}: {shown}"
                assert result in mine.replace("\u00a0", " "), f"{label} with {result}: {shown}"
        page.get_by_role("button", name="Report", exact=True).or_(page.get_by_role("tab", name="Report")).first.click()
        page.locator("[data-folder]").wait_for()
        self.says(page.locator("[data-folder]").inner_text, lesson.report, "the report")

    def exports(self) -> None:
        http, at, lesson = self.teacher.http, f"/api/studies/{self.study_id}", self.lesson
        table = http.get(f"{at}/trials.csv")
        assert table.status_code == 200
        rows = list(csv.DictReader(io.StringIO(table.text.lstrip("\ufeff"))))
        assert sum(r["state"] == "kept" for r in rows) == lesson.trials
        sheet = http.get(f"{at}/study.ods")
        assert sheet.status_code == 200
        with zipfile.ZipFile(io.BytesIO(sheet.content)) as whole:
            text = re.sub(r"<[^>]+>", " ", whole.read("content.xml").decode())
        conclusion = self.teacher.ok("GET", f"{at}/conclusion")
        pack = http.get(f"{at}/package.zip")
        assert pack.status_code == 200
        self.says(lambda: table.text + text, lesson.exports, "the exports")
        headline = str(conclusion["headline"])
        self.page.goto(f"{self.page.url.split('/study')[0]}/study/{self.study_id}/work-out")
        self.page.locator("[data-answer]").wait_for()
        shown = " ".join(self.page.locator("h1").first.inner_text().replace("\u00a0", " ").replace("\u2060", "").split())
        assert shown == " ".join(headline.split()), (shown, headline)


class Run:
    """The lane, for whoever only wants its first trial."""

    def __init__(self, page: Page) -> None:
        self.page = page

    def first_trial(self) -> int:
        """Keep one trial, or one whole heat, with whatever is read there; how many presses and fields it took."""
        page = self.page
        page.locator("[data-lanes]").or_(page.locator("#reading-says")).first.wait_for()
        if page.locator("[data-lanes]").count():
            page.keyboard.press("Space")
            lanes = page.locator("[data-lane]").count()
            for lane in range(1, lanes + 1):
                page.wait_for_timeout(80)
                page.keyboard.press(str(lane))
            expect(page.get_by_role("status").filter(has_text="Kept")).to_be_visible()
            return 1 + lanes
        presses = 1
        for field_ in page.locator("[aria-label='Reading'] input").all():
            field_.fill("1.50" if field_.get_attribute("inputmode") == "decimal" else "2")
            presses += 1
        for group in page.get_by_role("group").filter(has=page.locator("[data-outcome]")).all():
            group.locator("[data-outcome]").first.click()
            presses += 1
        page.get_by_role("button", name=re.compile("^Keep( Enter)?$")).first.click()
        expect(page.locator("[data-called][data-trials='1']").or_(page.get_by_role("heading", name=re.compile("are in$")))).to_be_visible()
        return presses


def every(folder: Path) -> list[Path]:
    """The files of the lessons, in order."""
    return sorted(folder.glob("*.yaml"))
