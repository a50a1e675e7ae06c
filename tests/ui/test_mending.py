"""What is typed stays text, what is out of line is asked about, what two screens keep stays, and every trial can be mended."""

from __future__ import annotations

import re
from typing import Any
from uuid import uuid4

import psycopg
import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect

from tests.conftest import DRAFT, PASSWORD, Application, TeacherClient, new_study, texts_of, trial_body
from tests.ui.conftest import fits_across, go, no_violations, saved, tick_cautions

pytestmark = pytest.mark.ui


def put(teacher: TeacherClient, study: dict[str, Any], **change: Any) -> dict[str, Any]:
    found: dict[str, Any] = teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body(**change))
    return found


def trials(teacher: TeacherClient, study: dict[str, Any], wanted: int, page: Page) -> list[dict[str, Any]]:
    """The stored trials, once there are so many."""
    for _ in range(60):
        found: list[dict[str, Any]] = teacher.ok("GET", f"/api/studies/{study['id']}/trials")
        if len(found) == wanted:
            return found
        page.wait_for_timeout(100)
    raise AssertionError(f"{len(found)} trials, not {wanted}")


def on_lane(page: Page, app: Application, study: dict[str, Any]) -> None:
    go(page, app, study, "run")
    page.get_by_role("button", name=re.compile("^Keep")).wait_for()


def test_a_letter_in_a_field_that_holds_text_is_text(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "In ounces", measures=[{"name": "load lifted", "quantity": "mass", "unit": "oz", "rule": "Largest load."}])
    on_lane(page, app, study)
    page.keyboard.type("2.4 oz")
    page.keyboard.press("Enter")
    expect(page.locator("#reading-says")).to_contain_text("Kept 2.4 oz")
    page.keyboard.type("2.5 oz")  # its z took the trial before back
    expect(page.locator("#timer-0")).to_have_value("2.5 oz")
    page.keyboard.press("Enter")
    expect(page.locator("#reading-says")).to_contain_text("Kept 2.5 oz")
    page.keyboard.type("1survived?d")  # neither void, count-down nor key sheet
    expect(page.locator("#timer-0")).to_have_value("1survived?d")
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.locator("#timer-0").fill("")
    page.keyboard.press("v")
    page.get_by_role("dialog", name="Void: what went wrong?").wait_for()
    assert [texts_of(t) for t in trials(teacher, study, 2, page)] == [["2.4 oz"], ["2.5 oz"]]


def test_a_reading_out_of_line_is_asked_about_once_and_kept_if_it_is_meant(
    signed_in: tuple[Page, TeacherClient], app: Application, context: BrowserContext
) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Out of line", repeats=5)
    for block, text in enumerate(["4.2", "4.4", "4.6"], 1):
        put(teacher, study, text=text, block=block)
    on_lane(page, app, study)
    page.keyboard.type("452")
    page.keyboard.press("Enter")
    says = page.locator("#reading-says")
    expect(says).to_contain_text("452 m is far from the others, which are from 4.2 to 4.6 m. Were centimetres written as metres")
    expect(page.locator("#timer-0")).to_have_value("452")
    no_violations(page)
    page.locator("#timer-0").fill("4.52")
    page.keyboard.press("Enter")
    expect(says).to_contain_text("Kept 4.52")
    for text, words in (("-4", "is below zero"), ("99999", "far from the others")):
        page.locator("#timer-0").fill(text)
        page.keyboard.press("Enter")
        expect(says).to_contain_text(words)
    page.keyboard.press("Enter")  # it is what was read
    expect(says).to_contain_text("Kept 99999")
    context.set_offline(True)  # without a network it is asked as well
    page.keyboard.type("0.01")
    page.keyboard.press("Enter")
    expect(says).to_contain_text("Is the unit right, and the decimal mark?")


def test_a_trial_acknowledged_just_before_the_network_goes_stays_kept(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Network gone")
    on_lane(page, app, study)
    page.route("**/api/studies/*/trials", lambda call: call.abort())  # the list cannot be asked again
    sent = []
    page.on("request", lambda r: sent.append(r.post_data_json) if r.method == "PUT" and "/trials/" in r.url else None)
    for text in ("4.2", "4.4", "4.6"):
        page.keyboard.type(text)
        page.keyboard.press("Enter")
        expect(page.locator("#reading-says")).to_contain_text(f"Kept {text}")
        page.wait_for_timeout(1_300)  # the list is asked for, and asked again
    assert [texts_of(t) for t in sent] == [["4.2"], ["4.4"], ["4.6"]]
    assert len({(t["block"], t["level"]) for t in sent}) == 3


def test_a_wild_timer_is_told_before_it_is_kept_with_the_time_together(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    measure = {"name": "fall time", "quantity": "time", "unit": "s", "rule": "r", "timed": True, "timers": 3}
    study = new_study(teacher, "Wild timer", measures=[measure], timers_by="mean")
    on_lane(page, app, study)
    for n, text in enumerate(["2.10", "2.14", "12.1"]):
        page.locator(f"#timer-{n}").fill(text)
    expect(page.locator("#reading-says")).to_contain_text("Together 5.44667 s (the mean).")
    expect(page.locator("#reading-says")).to_contain_text("12.1 s stands apart from the other timers")
    page.get_by_role("button", name=re.compile("^Keep")).click()
    page.get_by_role("button", name="It is what was read").click()
    expect(page.locator("#reading-says")).to_contain_text("Kept 2.10")
    trials(teacher, study, 1, page)
    go(page, app, study, "work-out")
    expect(page.locator("[data-finding=timers_apart]")).to_contain_text("The timers do not agree in trial 1")


def test_two_screens_on_one_turn_both_stay_and_the_second_notices(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Two tablets")
    on_lane(page, app, study)
    turn = study["turns"][0]
    page.keyboard.type("4.4")
    put(teacher, study, level=turn["level"], group=turn["group"], text="4.3")  # the other tablet
    expect(page.locator("[data-taken]")).to_be_visible(timeout=10_000)
    expect(page.locator("#timer-0")).to_have_value("4.4")  # what was typed stays in sight
    page.keyboard.press("Enter")
    expect(page.locator("[data-taken]")).to_have_count(0)
    expect(page.get_by_role("region", name="Then")).to_contain_text("1 of 9 kept")
    both = trials(teacher, study, 2, page)
    assert sorted(t["place"] for t in both) == ["extra", "turn"]
    page.get_by_role("link", name="All trials").click()
    expect(page.get_by_text("1 of 9 turns kept, 1 extra")).to_be_visible()


def test_what_the_plan_agreed_is_at_the_lane_also_on_a_phone(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Agreed", hold=[{"name": "projectile", "value": "12 g"}], void_rule="It bounced", limits=[{"on": "variable", "value": "5 in"}])
    page.set_viewport_size({"width": 390, "height": 844})
    on_lane(page, app, study)
    page.get_by_role("button", name="What was agreed").click()
    agreed = page.get_by_role("dialog").locator("[data-agreed]")
    for part in ("pull-back: never above 5 in", "projectile: 12 g", "It bounced", "Nearest edge at first touch."):
        expect(agreed).to_contain_text(part)
    no_violations(page)
    page.keyboard.press("Escape")
    expect(page.get_by_text(re.compile("^then "))).to_be_visible()
    fits_across(page, 390)


def test_an_open_run_is_asked_again_when_a_level_is_raised(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Raised")
    on_lane(page, app, study)
    draft = {**study["draft"], "variable": {**DRAFT["variable"], "levels": ["4", "6", "8", "11"]}}
    teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": study["version"], "draft": draft})
    expect(page.locator("[data-lapsed]")).to_be_visible(timeout=10_000)
    expect(page.get_by_text("pull-back: never above 12 cm")).to_be_visible()
    no_violations(page)
    tick_cautions(page)
    page.get_by_role("button", name=re.compile("^Keep")).wait_for()


def test_a_trial_is_corrected_voided_brought_back_and_placed_with_its_history(
    signed_in: tuple[Page, TeacherClient], app: Application
) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Mended")
    put(teacher, study, text="4.2")
    put(teacher, study, text="4.4", block=2, released_at="2026-05-04T10:01:00Z")
    put(teacher, study, text="4.6", level="banana", released_at="2026-05-04T10:02:00Z")
    go(page, app, study, "work-out")
    expect(page.get_by_text("One trial stands outside the plan and counts for nothing here.")).to_be_visible()
    page.get_by_role("button", name="More", exact=True).click()
    page.get_by_role("menuitem", name="All trials").click()
    rows = page.locator("[data-trial]")
    expect(rows).to_have_count(3)
    no_violations(page)

    rows.nth(0).get_by_role("button").click()
    page.get_by_label("distance to first touch, m").fill("4.25")
    page.get_by_label("Note").fill("read again")
    page.get_by_role("button", name="Save the change").click()
    expect(rows.nth(0)).to_contain_text("4.25 m")
    expect(rows.nth(0)).to_contain_text("read again")

    rows.nth(1).get_by_role("button").click()
    no_violations(page)
    page.get_by_role("button", name="frame lifted").click()
    expect(rows.nth(1)).to_contain_text("void: frame lifted")
    rows.nth(1).get_by_role("button").click()
    page.get_by_role("button", name="Restore").click()
    expect(rows.nth(1)).not_to_contain_text("void")

    expect(rows.nth(2)).to_contain_text("outside the plan. The plan has no such level.")
    rows.nth(2).get_by_role("button").click()
    page.get_by_label("Level").select_option("6 cm")
    page.get_by_role("button", name="Place it in the plan").click()
    expect(rows.nth(2)).not_to_contain_text("outside the plan")

    rows.nth(1).get_by_role("button").click()
    expect(page.locator("[data-revision]")).to_have_count(3)
    expect(page.locator("[data-revision='2']")).to_contain_text("void 4.4 m at 4, block 2: frame lifted")
    page.keyboard.press("Escape")
    page.set_viewport_size({"width": 390, "height": 844})
    fits_across(page, 390)
    now = teacher.ok("GET", f"/api/studies/{study['id']}")
    assert (now["kept"], now["void"], now["outside"]) == (3, 0, 0)


def test_a_correction_that_is_out_of_line_is_asked_about_too(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Asked again", repeats=4)
    for block, text in enumerate(["4.2", "4.4", "4.6", "4.5"], 1):
        put(teacher, study, text=text, block=block, released_at=f"2026-05-04T10:0{block}:00Z")
    go(page, app, study, "trials")
    page.locator("[data-trial='4']").get_by_role("button").click()
    page.get_by_label("distance to first touch, m").fill("450")
    page.get_by_role("button", name="Save the change").click()
    expect(page.get_by_role("alert")).to_contain_text("Were centimetres written as metres")
    page.get_by_role("button", name="Save the change").click()
    expect(page.locator("[data-trial='4']")).to_contain_text("450 m")


def test_what_the_audit_advises_has_its_control_beside_it(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Within", variable={"name": "runner", "kind": "name", "levels": ["card", "felt"]}, repeats=4)
    for block in (1, 2):
        for base, group in enumerate(("Red", "Blue", "Green", "White", "Black", "Grey"), 2):
            for level, more in (("card", 0.0), ("felt", 0.3 + 0.01 * (base % 3))):
                put(teacher, study, level=level, block=block, group=group, text=f"{base + more + 0.01 * block:.2f}")
    go(page, app, study, "work-out")
    found = page.locator("[data-finding=column_explains_scatter]")
    expect(found).to_contain_text("Compare within each group")
    found.get_by_role("button", name=re.compile("^What to do")).click()
    found.get_by_role("button", name="Compare within each group").click()
    expect(page.locator("[data-within]")).to_contain_text("Compared within each group.")
    page.get_by_role("heading", level=1, name=re.compile("was about 0.31 m greater with felt")).wait_for()
    page.get_by_role("button", name="Compare all trials together").click()
    expect(page.locator("[data-within]")).to_have_count(0)


def test_a_pull_back_gets_its_limit_before_its_levels(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Limit first", variable={"name": "", "levels": []}, limits=[])
    go(page, app, study, "plan")
    page.get_by_label("Variable", exact=True).select_option(label="pull-back (cm)")
    expect(page.get_by_role("textbox", name="Level 1")).to_have_count(0)  # nothing is suggested without a limit
    page.get_by_label("Your limit on pull-back: never above").fill("6 cm")
    page.get_by_role("button", name=re.compile("Use the usual spread: 3, 4, 5, 6 cm")).click()
    saved(page)
    limits = page.get_by_role("region", name="Cautions and limits")
    expect(limits.get_by_label("Your limit on")).to_have_value("variable:")
    limits.get_by_label("Your limit on").select_option("")
    expect(limits.get_by_text("limits nothing in this plan").first).to_be_visible()
    expect(limits.get_by_role("button", name="Sign off the plan")).to_be_disabled()
    no_violations(page)


def test_a_plan_that_cannot_be_read_stands_alone_on_home(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    bad = new_study(teacher, "From another program")
    new_study(teacher, "Sound")
    with psycopg.connect(app.database(), autocommit=True) as connection:
        connection.execute("update study set draft = draft || '{\"wind_rose\": 3}' where id = %s", (bad["id"],))
    page.goto(app.url)
    line = page.locator("[data-unreadable]")
    expect(line).to_contain_text("wind_rose cannot be read")
    expect(page.get_by_role("heading", name="Sound")).to_be_visible()
    no_violations(page)
    with page.expect_download() as download:
        line.get_by_role("link", name="Take its plan out as a file").click()
    assert "wind_rose" in download.value.path().read_text()


def test_who_sets_the_question_is_saved_and_stays(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Teacher's question")
    go(page, app, study, "ask")
    page.get_by_label("Who sets the question").select_option("teacher")
    saved(page)
    page.reload()
    expect(page.get_by_label("Who sets the question")).to_have_value("teacher")
    page.get_by_label("The question", exact=True).fill("What does the pull do?")
    saved(page)
    assert teacher.ok("GET", f"/api/studies/{study['id']}")["draft"]["question"] == "What does the pull do?"


def test_a_password_is_changed_and_other_devices_are_signed_out(
    signed_in: tuple[Page, TeacherClient], app: Application, browser: Browser
) -> None:
    page, teacher = signed_in
    page.get_by_role("button", name="Settings").click()
    page.get_by_text("Change the password").click()
    page.get_by_label("Present password").fill("not this one")
    page.get_by_label("New password").fill("another long password")
    page.get_by_role("button", name="Change it").click()
    expect(page.get_by_role("dialog")).to_contain_text("This is not the present password.")
    page.get_by_label("Present password").fill(PASSWORD)
    page.get_by_label("New password").fill("          ")
    page.get_by_role("button", name="Change it").click()
    expect(page.get_by_role("dialog")).to_contain_text("it needs at least 10")
    page.get_by_label("New password").fill("another long password")
    page.get_by_role("button", name="Change it").click()
    expect(page.get_by_text("The password is changed.")).to_be_visible()
    no_violations(page)
    assert teacher.http.get("/api/studies").status_code == 401  # the other device
    again = teacher.http.post("/api/session", json={"sign_in_name": teacher.name, "password": "another long password"})
    assert again.status_code == 200


def test_a_stale_rota_says_so_on_the_wall_and_closed_lanes_are_named(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "On the wall", timing={"lanes": 3, "adults": 1}, groups=["Red", "Blue"])
    teacher.ok("POST", f"/api/studies/{study['id']}/rota")
    go(page, app, study, "plan/lesson")
    expect(page.get_by_text("Lanes 2 and 3 stay closed: one adult is planned and each open lane needs one.")).to_be_visible()
    expect(page.get_by_label("Improve, min")).to_have_count(0)  # a fair test improves nothing between visits
    page.get_by_label("Tidy up, min").fill("9")
    saved(page)
    page.get_by_role("button", name="On the wall").click()
    expect(page.locator("[data-stale]")).to_contain_text("The plan has changed since this rota was made.")


def test_a_trial_taken_back_is_in_the_list_and_comes_back(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    page, teacher = signed_in
    study = new_study(teacher, "Undone")
    on_lane(page, app, study)
    page.keyboard.type("4.4")
    page.keyboard.press("Enter")
    expect(page.locator("#reading-says")).to_contain_text("Kept 4.4")
    page.locator("h1").first.click()
    page.locator("#timer-0").fill("")
    page.keyboard.press("z")
    expect(page.locator("#reading-says")).to_contain_text("Undone")
    trials(teacher, study, 0, page)
    go(page, app, study, "trials")
    gone = page.locator("[data-taken-back]")
    expect(gone).to_contain_text("4.4 m")
    no_violations(page)
    gone.get_by_role("button", name="Restore").click()
    expect(page.locator("[data-trial='1']")).to_contain_text("4.4 m")
    expect(gone).to_have_count(0)


def test_the_unit_on_the_tape_can_be_read_in_every_light(signed_in: tuple[Page, TeacherClient], app: Application) -> None:
    """Contrast of the tape's unit against its box: at least 4.5 : 1 (WCAG 2.2, 1.4.3)."""
    page, teacher = signed_in
    study = new_study(teacher, "Lights")
    put(teacher, study)
    on_lane(page, app, study)
    for theme in ("day", "sun", "hall"):
        page.evaluate("t => { document.documentElement.dataset.theme = t }", theme)
        pair = page.evaluate(
            """() => [...document.querySelectorAll('figure svg')].filter(s => s.checkVisibility()).map(s => {
              const text = [...s.querySelectorAll('text')].find(t => t.textContent === 'm'), box = text.previousElementSibling
              return [getComputedStyle(text).fill, getComputedStyle(box).fill]
            })[0]"""
        )
        one, two = ([int(v) for v in re.findall(r"\d+", c)[:3]] for c in pair)
        assert contrast(one, two) >= 4.5, (theme, pair)


def contrast(one: list[int], two: list[int]) -> float:
    """Source: WCAG 2.2, relative luminance and contrast ratio."""

    def luminance(rgb: list[int]) -> float:
        linear = [v / 255 / 12.92 if v / 255 <= 0.04045 else ((v / 255 + 0.055) / 1.055) ** 2.4 for v in rgb]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    light, dark = sorted((luminance(one), luminance(two)), reverse=True)
    return (light + 0.05) / (dark + 0.05)
