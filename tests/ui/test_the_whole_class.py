"""The whole class at once, each with its own browser: the teacher's desk, two groups, two timers and the wall."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any
from uuid import uuid4

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.conftest import Application, TeacherClient, new_study, trial_body
from tests.ui.conftest import PATIENCE_MS, fits_across, go, no_violations
from tests.ui.test_seats import Come, come, lesson  # noqa: F401 - the fixture
from tests.ui.test_the_lane import stored

pytestmark = pytest.mark.ui
Signed = tuple[Page, TeacherClient]
TIMED = [{"id": "m1", "name": "fall time", "quantity": "time", "unit": "s", "timed": True, "timers": 3, "step": "0.01"}]
GROUPS = ["Avocet", "Curlew"]


@pytest.fixture
def other(signed_in: Signed, browser: Browser) -> Iterator[Page]:
    """A second screen of the same teacher."""
    page, _ = signed_in
    context = browser.new_context(storage_state=page.context.storage_state(), viewport={"width": 1280, "height": 800}, service_workers="block")
    context.set_default_timeout(PATIENCE_MS)
    yield context.new_page()
    context.close()


def called(page: Page) -> str:
    return page.get_by_label("Now on the lane").get_attribute("data-called") or ""


def keep(page: Page, text: str) -> None:
    page.locator("#timer-0").fill(text)
    page.get_by_role("button", name=re.compile("^Keep")).first.click()


def test_a_lesson_with_desk_lanes_timers_and_wall(signed_in: Signed, come: Come, app: Application) -> None:  # noqa: F811
    page, teacher = signed_in
    study = new_study(teacher, "Pulled", groups=GROUPS, repeats=2, measures=TIMED, timing={"lanes": 2})
    code = lesson(page, app, study)
    lanes = {g: come(code, re.compile(f"^{g}")) for g in GROUPS}
    timers = [come(code, re.compile("^A timer")) for _ in range(2)]
    wall = come(code, "This is the wall")
    go(page, app, study, "desk")
    expect(page.get_by_role("heading", name="The teacher’s desk")).to_be_attached()
    for n, t in enumerate(timers, 1):
        expect(t.get_by_role("heading", name=f"Timer {n}")).to_be_visible()
        expect(t.get_by_text("Clock compared", exact=False)).to_be_visible()
        fits_across(t, 390)
    no_violations(timers[0])
    expect(wall.get_by_label("Lanes").get_by_text("Lane 2", exact=False)).to_be_visible()
    lane = lanes["Curlew"]
    expect(lane.locator("[data-phones='2']")).to_contain_text(re.compile(r"2 timers ready, clocks agree within \d+ ms"))
    lane.get_by_role("button", name=re.compile("^Release")).dispatch_event("pointerdown")
    # what is being timed is on the desk and on the phones at once
    expect(page.locator("[data-time-tape]")).to_contain_text("falling")
    for t in timers:
        expect(t.locator("[data-timer=running]")).to_be_visible()
        expect(t.get_by_text("for Curlew", exact=False)).to_be_visible()
    lane.wait_for_timeout(700)
    timers[0].get_by_role("button", name=re.compile("^Landed")).dispatch_event("pointerdown")
    timers[1].get_by_role("button", name="Leave it out").click()
    lane.get_by_role("button", name=re.compile("^Landed")).dispatch_event("pointerdown")
    expect(lane.get_by_label("Further timers")).to_contain_text(re.compile(r"Timer 1 \d\.\d\d s.*Timer 2 did not see it"))
    expect(lane.locator("#timer-1")).to_have_value(re.compile(r"^\d\.\d\d$"))
    lane.get_by_role("button", name=re.compile("^Keep")).last.click()  # one that did not see it holds nothing up
    expect(lane.get_by_role("status").filter(has_text="Kept")).to_be_visible()
    kept = stored(lane, teacher, study, 1)
    reading = kept[0]["readings"][0]
    assert (reading["taken"], reading["source"], len(reading["texts"])) == ("phones", "Timer 1", 2)
    assert 0 < reading["clock_s"] < 0.5
    assert all(0.4 < float(t) < 20 for t in reading["texts"])
    # its mark is on the desk and on the wall, without a reload
    expect(page.locator("[data-row] [data-mark=kept]")).to_have_count(1)
    expect(wall.locator("[data-count]")).to_have_text(f"1 of {len(study['turns'])}")
    expect(page.locator("[data-forecast]")).to_contain_text(f"1 of {len(study['turns'])}")
    no_violations(page)
    fits_across(page, 1280)
    # a lane is closed with the reason, and opened again
    own = {t["group"]: t["lane"] for t in study["turns"]}["Avocet"]
    page.get_by_role("button", name=f"Close lane {own}").click()
    page.get_by_label(f"Why is lane {own} closed?").fill("the adult is at the other lane")
    page.keyboard.press("Enter")
    expect(lanes["Avocet"].get_by_role("heading", name=f"Lane {own} is closed")).to_be_visible()
    expect(lanes["Avocet"].get_by_text("the adult is at the other lane")).to_be_visible()
    expect(lanes["Curlew"].get_by_label("Now on the lane")).to_be_visible()
    page.get_by_role("button", name=f"Open lane {own}").click()
    expect(lanes["Avocet"].get_by_label("Now on the lane")).to_be_visible()
    # the last trial of each lane
    page.get_by_role("button", name="Last trial on each lane").click()
    expect(page.get_by_role("button", name="Go on after the last trial")).to_be_visible()  # what is let go from now on is the last
    keep(lanes["Avocet"], "1.91")
    over = lanes["Avocet"].get_by_role("heading", name="The last trial is in")
    asked = lanes["Avocet"].get_by_role("button", name=re.compile("^It is what was read"))
    expect(over.or_(asked).first).to_be_visible()
    if not over.is_visible():
        asked.click()
    expect(over).to_be_visible()
    page.get_by_role("button", name="Go on after the last trial").click()
    expect(lanes["Avocet"].get_by_label("Now on the lane")).to_be_visible()
    # stop stands on those that time as well
    page.get_by_role("button", name="Stop every lane").click()
    expect(timers[0].get_by_role("alertdialog")).to_contain_text("STOP")
    page.get_by_role("alertdialog").get_by_role("button", name="Lift the stop").click()
    expect(timers[0].get_by_role("alertdialog")).to_have_count(0)


def test_two_lanes_never_call_the_same_turn_and_what_is_let_go_of_is_called_again(signed_in: Signed, other: Page, app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, repeats=2, groups=["Red"])
    go(page, app, study, "run")
    page.get_by_label("Now on the lane").wait_for()
    for _ in range(100):
        if teacher.ok("GET", f"/api/studies/{study['id']}/screens")["screens"]:
            break
        page.wait_for_timeout(100)
    go(other, app, study, "run")
    other.get_by_label("Now on the lane").wait_for()

    def two() -> list[tuple[int, str]]:
        said = teacher.ok("GET", f"/api/studies/{study['id']}/screens")["screens"]
        return [(t["block"], t["level"]) for s in said for t in s["turns"]]

    for _ in range(100):
        turns = two()
        if len(turns) == 2:
            break
        page.wait_for_timeout(100)
    assert len(set(turns)) == 2
    keep(other, "4.5")
    expect(other.get_by_role("status").filter(has_text="Kept")).to_be_visible()
    assert (teacher.ok("GET", f"/api/studies/{study['id']}/trials")[0]["block"], teacher.ok("GET", f"/api/studies/{study['id']}/trials")[0]["level"]) in turns
    page.goto(f"{app.url}/study/{study['id']}/plan")  # the first screen leaves: its turn is free at once
    for _ in range(100):
        if len(two()) == 1:
            break
        page.wait_for_timeout(100)
    assert len(two()) == 1
    left = [t for t in study["turns"] if (t["block"], t["level"]) not in {(k["block"], k["level"]) for k in teacher.ok("GET", f"/api/studies/{study['id']}/trials")}]
    for _ in left:
        keep(other, "4.6")
        other.wait_for_timeout(300)
        if other.get_by_role("button", name=re.compile("^It is what was read")).count():
            other.get_by_role("button", name=re.compile("^It is what was read")).click()
    expect(other.get_by_role("heading", name=f"All {study['planned']} trials are in")).to_be_visible()
    trials = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
    assert all(t["place"] == "turn" for t in trials)


def test_a_lane_is_handed_to_another_device_with_what_is_half_typed(signed_in: Signed, other: Page, app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, repeats=2, groups=["Red"])
    go(other, app, study, "run")
    other.get_by_label("Now on the lane").wait_for()
    go(page, app, study, "run")
    page.get_by_label("Now on the lane").wait_for()
    page.wait_for_timeout(800)
    turn = called(page)
    page.locator("#timer-0").fill("4.7")
    page.wait_for_timeout(1_500)  # what is half typed is told a moment later
    page.get_by_role("button", name="Other ways").click()
    page.get_by_role("menuitem", name="Hand this lane on").click()
    no_violations(page)
    page.get_by_role("dialog").get_by_role("button", name="the teacher").click()
    expect(page.get_by_text("Handed to the teacher.")).to_be_visible()
    expect(other.locator("#timer-0")).to_have_value("4.7")
    assert called(other) == turn
    expect(page.locator("#timer-0")).to_have_value("")


def test_a_tablet_that_was_away_makes_an_extra_and_nothing_is_lost(signed_in: Signed, come: Come, app: Application) -> None:  # noqa: F811
    """Two devices of one group, one without a network: both may call the same turn, one is extra, and both are told."""
    page, teacher = signed_in
    study = new_study(teacher, "Pulled", groups=GROUPS, repeats=2)
    code = lesson(page, app, study)
    one, two = come(code, "Curlew"), come(code, re.compile("^Curlew"))
    for p in (one, two):
        p.get_by_label("Now on the lane").wait_for()
    one.wait_for_timeout(1_500)
    one.context.set_offline(True)
    turn = called(one)
    keep(one, "4.40")
    expect(one.get_by_text(re.compile("1 .*wait", re.I)).first).to_be_visible()
    own = next(t for t in study["turns"] if t["group"] == "Curlew" and next(lv["label"] for lv in study["levels"] if lv["id"] == t["level"]) == turn)
    teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body(block=own["block"], level=own["level"], group="Curlew", text="4.41"))
    one.context.set_offline(False)
    for _ in range(300):
        trials = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
        if len(trials) == 2:
            break
        one.wait_for_timeout(100)
    assert sorted(t["readings"][0]["texts"][0] for t in trials) == ["4.40", "4.41"]
    assert sorted(t["place"] for t in trials) in (["extra", "turn"], ["turn", "turn"])


def test_the_desk_tells_of_a_silent_tablet_and_hands_its_turn_on(signed_in: Signed, app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Pulled", groups=GROUPS, repeats=2)
    code = lesson(page, app, study)
    import httpx
    import psycopg

    seat = httpx.Client(base_url=app.url, timeout=60)
    seat.post("/api/join", json={"code": code, "role": "group", "label": "Curlew"}).raise_for_status()
    own = next(t for t in study["turns"] if t["group"] == "Curlew")
    tablet = str(uuid4())
    body: dict[str, Any] = {"doing": "calling", "lane": own["lane"], "turns": [{"block": own["block"], "level": own["level"]}], "holds": 2}
    seat.put(f"/api/studies/{study['id']}/screens/{tablet}", json=body).raise_for_status()
    with psycopg.connect(app.database(), autocommit=True) as rows:
        rows.execute("update screen set away_at = now() - interval '3 minutes' where id = %s", [tablet])
    go(page, app, study, "desk")
    expect(page.locator("[data-look=silent]")).to_contain_text("Curlew’s tablet has been silent for 3 min and holds 2 trials. Nothing is lost")
    page.get_by_role("button", name="Hand its turn on").click()
    for _ in range(100):
        found = teacher.ok("GET", f"/api/studies/{study['id']}/screens")["screens"]
        if not found[0]["turns"]:
            break
        page.wait_for_timeout(100)
    assert (found[0]["turns"], found[0]["handed"]) == ([], "to whoever is next")
