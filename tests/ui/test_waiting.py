"""What waits in a browser: held where it can be, told where it cannot, and never lost when a sign-in, a study or a clock is gone."""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import psycopg
import pytest
from playwright.sync_api import Page, expect

from tests.conftest import Application, TeacherClient, new_study, sign_up, texts_of

from .conftest import go, no_violations, sign_in, until, way

pytestmark = pytest.mark.ui

REFUSED = """
indexedDB.open = () => { throw new DOMException('refused', 'SecurityError') }
"""
FULL = """
for (const name of ['add', 'put']) IDBObjectStore.prototype[name] = () => { throw new DOMException('full', 'QuotaExceededError') }
"""
TIMED = [{"name": "fall time", "quantity": "time", "unit": "s", "timed": True, "rule": "Release to first touch.", "better": "high"}]
#: The device's clock, wrong by so much until it is put right.
CLOCK = """
const Real = Date
window.wrongByMs = Number(sessionStorage.getItem('wrong') ?? %d)
globalThis.Date = class extends Real {
  constructor(...given) { given.length ? super(...given) : super(Real.now() + window.wrongByMs) }
  static now() { return Real.now() + window.wrongByMs }
}
"""


def keep(page: Page, text: str) -> None:
    page.locator("#timer-0").fill(text)
    page.keyboard.press("Enter")


def colleague_of(app: Application, teacher: TeacherClient) -> TeacherClient:
    """A colleague in the same school."""
    made = sign_up(app)
    of = done(app, "select workspace_id from account where sign_in_name = %s", teacher.name)[0][0]
    done(app, "update sign_in set workspace_id = %s where account_id = (select id from account where sign_in_name = %s)", of, made.name)
    done(app, "update account set workspace_id = %s where sign_in_name = %s", of, made.name)
    return made


def done(app: Application, statement: str, *values: object) -> list[Any]:
    """Something that happens to the database behind the pages."""
    with psycopg.connect(app.database(), autocommit=True) as rows:
        found = rows.execute(statement.encode(), values)
        return found.fetchall() if found.description else []


def two_waiting(page: Page, app: Application, teacher: TeacherClient) -> dict[str, Any]:
    """A study whose lane has kept two trials without a network."""
    study = new_study(teacher, "Over the pond")
    go(page, app, study, "run")
    page.locator("#timer-0").wait_for()
    page.context.set_offline(True)
    keep(page, "4.61")
    keep(page, "4.70")
    expect(page.get_by_role("button", name="2 waiting to send")).to_be_visible()
    return study


def stored(teacher: TeacherClient, study: dict[str, Any]) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
    return found


@pytest.mark.parametrize("how", ["refused", "full"])
def test_a_browser_that_can_hold_nothing_says_so_and_every_trial_is_sent(signed_in: tuple[Page, TeacherClient], app: Application, how: str, tmp_path: Path) -> None:
    page, teacher = signed_in
    study = new_study(teacher)
    page.add_init_script({"refused": REFUSED, "full": FULL}[how])
    go(page, app, study, "run")
    keep(page, "4.52")
    expect(page.locator("#reading-says")).to_contain_text("Kept 4.52")
    expect(page.locator("[data-holds=nothing]")).to_contain_text("Keep this page open until they are sent")
    until(page, lambda: [texts_of(t) for t in stored(teacher, study)] == [["4.52"]])
    page.context.set_offline(True)
    keep(page, "4.61")
    keep(page, "4.70")
    page.get_by_role("button", name="2 waiting to send").click()
    expect(page.get_by_role("dialog")).to_contain_text("only in this open page")
    no_violations(page)
    with page.expect_download() as saved:
        page.get_by_role("button", name="Save all as a file").click()
    saved.value.save_as(tmp_path / "waiting.json")
    told = json.loads((tmp_path / "waiting.json").read_text())
    assert [t["body"]["readings"][0]["texts"] for t in told["studies"][0]["trials"]] == [["4.61"], ["4.70"]]
    page.get_by_role("button", name="Close").click()
    asked: list[str] = []
    page.once("dialog", lambda d: (asked.append(d.type), d.dismiss()))
    page.evaluate("setTimeout(() => location.reload(), 0)")
    until(page, lambda: asked == ["beforeunload"])
    page.context.set_offline(False)
    until(page, lambda: len(stored(teacher, study)) == 3)
    expect(page.get_by_role("button", name="waiting to send")).to_have_count(0)


def test_a_store_that_is_cleared_while_the_page_is_open_is_filled_again(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = two_waiting(page, app, teacher)
    page.evaluate("new Promise((done, no) => { const r = indexedDB.deleteDatabase('bendro'); r.onsuccess = done; r.onerror = no })")
    held = """() => new Promise((done) => {
      const r = indexedDB.open('bendro')
      r.onsuccess = () => {
        const all = r.result.objectStoreNames.contains('waiting') ? r.result.transaction('waiting').objectStore('waiting').count() : { result: 0 }
        all.onsuccess = () => { r.result.close(); done(all.result) }
      }
    })"""
    until(page, lambda: page.evaluate(held) == 2)
    expect(page.locator("[data-holds]")).to_have_count(0)
    page.context.set_offline(False)
    until(page, lambda: len(stored(teacher, study)) == 2)


def test_signed_out_in_the_middle_of_a_lesson_the_lane_stays_and_goes_on(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher)
    go(page, app, study, "run")
    keep(page, "4.52")
    until(page, lambda: len(stored(teacher, study)) == 1)
    page.keyboard.type("4.6")
    done(app, "delete from sign_in where account_id = (select id from account where sign_in_name = %s)", teacher.name)
    over = page.locator("[data-signed-out]")
    expect(over).to_contain_text("This sign-in has ended. What you typed stays here")
    expect(page.locator("#timer-0")).to_have_value("4.6")
    no_violations(page)
    page.locator("#timer-0").press("Enter")
    expect(page.get_by_role("button", name="1 waiting: sign in again")).to_be_visible()
    page.keyboard.type("4.7")
    sign_in(page, teacher)
    expect(over).to_have_count(0)
    expect(page.locator("#timer-0")).to_have_value("4.7")
    expect(page.get_by_role("button", name="waiting")).to_have_count(0)
    page.locator("#timer-0").press("Enter")
    expect(page.get_by_role("button", name="waiting")).to_have_count(0)
    assert done(app, "select count(*) from trial where study_id = %s", study["id"]) == [(3,)]


def test_trials_of_a_colleague_who_was_removed_are_sent_for_her_or_taken_along(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = two_waiting(page, app, teacher)
    other, colleague = sign_up(app), colleague_of(app, teacher)
    done(app, "delete from account where sign_in_name = %s", teacher.name)
    page.context.set_offline(False)
    expect(page.locator("[data-signed-out]")).to_be_visible(timeout=20_000)
    # whoever opens Bendro next in this browser is told, without a reading
    page.goto(app.url)
    left = page.locator("[data-leftover]")
    expect(left).to_contain_text("2 trials of “Over the pond”, kept by")
    assert "4.61" not in page.inner_text("body")
    no_violations(page)
    sign_in(page, other)  # of another school
    page.get_by_role("button", name="New study").wait_for()
    expect(left).to_contain_text("2 trials, of another school")
    assert "Over the pond" not in page.inner_text("body")
    assert left.get_by_role("button", name="Send them").count() == 0
    assert left.get_by_role("button", name="Save as a file").count() == 1
    page.get_by_role("button", name="Settings").click()
    page.get_by_role("button", name="Sign out").click()
    page.get_by_label("Sign-in name").wait_for()
    sign_in(page, colleague)
    page.get_by_role("button", name="New study").wait_for()
    left.get_by_role("button", name="Send them").click()
    expect(left).to_have_count(0)
    go(page, app, study, "trials")
    page.locator("[data-trial='1']").get_by_role("button").click()
    expect(page.locator("[data-revision='1']")).to_contain_text(f"sent by {colleague.name} for {teacher.name}")


def test_trials_of_a_study_that_is_gone_become_a_new_one_and_a_file_is_taken_back(signed_in: tuple[Page, TeacherClient], app: Application, tmp_path: Path) -> None:
    page, teacher = signed_in
    study = two_waiting(page, app, teacher)
    done(app, "delete from study where id = %s", study["id"])  # as an older backup has it
    page.context.set_offline(False)
    page.get_by_role("button", name="2 to correct").click()
    lost = page.locator("[data-lost]")
    expect(lost).to_contain_text("Over the pond: 2 trials for a study that is not on the server any more.")
    with page.expect_download() as saved:
        lost.get_by_role("button", name="Save as a file").click()
    file = tmp_path / "waiting.json"
    saved.value.save_as(file)
    lost.get_by_role("button", name="Make it a new study").click()
    expect(page.get_by_role("button", name="to correct")).to_have_count(0)
    [made] = [s for s in teacher.ok("GET", "/api/studies") if s["title"] == "Over the pond"]
    assert made["id"] != study["id"]
    assert sorted(texts_of(t) for t in stored(teacher, made)) == [["4.61"], ["4.70"]]
    # the file makes the same study in another school, once
    other = sign_up(app)
    page.context.clear_cookies()
    page.goto(f"{app.url}/read-in")
    sign_in(page, other)
    for _ in range(2):
        page.get_by_label("The file").set_input_files(file)
        expect(page.locator("[data-came]")).to_contain_text("Over the pond: 2 trials are there")
    no_violations(page)
    [theirs] = other.ok("GET", "/api/studies")
    trials = stored(other, theirs)
    assert sorted(texts_of(t) for t in trials) == [["4.61"], ["4.70"]]
    assert {t["kept_by"] for t in trials} == {teacher.name}
    (tmp_path / "other.json").write_text('{"form": "another"}')
    page.get_by_label("The file").set_input_files(tmp_path / "other.json")
    expect(page.get_by_text("This is not what a Bendro page saves of trials that wait")).to_be_visible()


@pytest.mark.parametrize("wrong_days", [365, 1, -365])
def test_a_wrong_clock_opens_a_run_and_puts_no_trial_at_another_time_or_place(signed_in: tuple[Page, TeacherClient], app: Application, wrong_days: int) -> None:
    page, teacher = signed_in
    study = new_study(teacher)
    page.add_init_script(CLOCK % (wrong_days * 86_400_000))
    go(page, app, study, "run")
    keep(page, "4.50")  # the run is open, whatever this device takes the day for
    expect(page.locator("[data-clock]")).to_contain_text("This device’s clock is")
    page.locator("[data-clock]").get_by_role("button", name="Good").click()
    expect(page.locator("[data-clock]")).to_have_count(0)
    page.context.set_offline(True)
    for text in ("4.61", "4.72", "4.83"):
        keep(page, text)
    page.evaluate("window.wrongByMs = 0; sessionStorage.setItem('wrong', '0')")  # put right before anything is sent
    keep(page, "4.94")
    page.context.set_offline(False)
    until(page, lambda: len(stored(teacher, study)) == 5)
    trials = sorted(stored(teacher, study), key=lambda t: t["number"])
    assert [texts_of(t)[0] for t in trials] == ["4.50", "4.61", "4.72", "4.83", "4.94"]
    now = datetime.now(UTC)
    assert all(abs(datetime.fromisoformat(t["released_at"]) - now) < timedelta(minutes=2) for t in trials)
    assert [texts_of(t)[0] for t in stored(teacher, study)] == [texts_of(t)[0] for t in trials]


def test_a_time_that_runs_goes_on_over_a_reload_and_a_look_at_the_plan(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, measures=TIMED)
    go(page, app, study, "run")
    page.get_by_role("button", name="Release").click()
    began = page.evaluate("performance.timeOrigin + performance.now()")
    page.reload()
    page.get_by_role("button", name="Land").first.wait_for()
    page.get_by_role("link", name="Plan").click()
    page.get_by_role("navigation", name="Stages").get_by_role("link", name="Run").click()
    page.get_by_role("button", name="Land").first.click()
    passed = (page.evaluate("performance.timeOrigin + performance.now()") - began) / 1000
    until(page, lambda: len(stored(teacher, study)) == 1)
    kept = float(texts_of(stored(teacher, study)[0])[0])
    assert passed - 1.5 < kept < passed + 0.5
    page.reload()
    page.get_by_role("button", name="Release").wait_for()  # what was kept does not go on


def test_the_study_that_stands_above_on_home_is_archived_and_thrown_away_as_well(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    new_study(teacher, "Over the pond")
    page.reload()
    expect(page.get_by_role("heading", name="Over the pond")).to_be_visible()
    page.get_by_role("button", name="More for Over the pond").click()
    page.get_by_role("button", name="Delete it").click()
    expect(page.locator("[data-thrown-away]")).to_contain_text("Over the pond")
    assert teacher.ok("GET", "/api/studies") == []


def test_an_instruments_code_is_made_anew_by_a_button(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, measures=TIMED)
    go(page, app, study, "run")
    way(page, "Instruments")
    dialog = page.get_by_role("dialog")
    first = dialog.locator("strong.big").inner_text()
    dialog.get_by_role("button", name="Make a new code").click()
    expect(dialog.locator("strong.big")).not_to_have_text(first)
    line = '{"n": 1, "source": "gate 1", "kind": "release", "at": 1.0}\n'
    assert teacher.http.post(f"/api/instruments/{first}", content=line).status_code == 404
    assert teacher.http.post(f"/api/instruments/{dialog.locator('strong.big').inner_text()}", content=line).status_code == 200
