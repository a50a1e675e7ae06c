"""Planning and building through the API on a real PostgreSQL: the record, taking back, copies, forms, rota, versions, photos."""

from __future__ import annotations

import io
import json
import resource
from typing import Any
from uuid import uuid4

import httpx
import pytest
from PIL import Image

from bendro.core.planning.upgrade import PLAN_VERSION
from bendro.files.photo import MOST_MEMORY, small_photo
from tests.conftest import DRAFT, TeacherClient, new_study, sign_up, trial_body

pytestmark = pytest.mark.api


def patch(teacher: TeacherClient, study: dict[str, Any], **change: Any) -> dict[str, Any]:
    return teacher.ok("PATCH", f"/api/studies/{study['id']}", json={"version": study["version"], "draft": {**study["draft"], **change}})


def refused(answer: httpx.Response, status: int, code: str) -> dict[str, Any]:
    body: dict[str, Any] = answer.json()
    assert (answer.status_code, body["code"]) == (status, code), body
    return body


# --- the record of a plan --------------------------------------------------------------------------------------------


def test_every_change_is_on_record_and_can_be_taken_back_one_by_one(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    one = patch(teacher, study, repeats=6)
    two = patch(teacher, one, question="Another question?")
    held = teacher.ok("GET", f"/api/studies/{study['id']}/changes")
    assert [[c["where"] for c in row["changes"]] for row in held] == [["question"], ["repeats"]]
    back = teacher.ok("POST", f"/api/studies/{study['id']}/undo", json={"version": two["version"]})
    assert (back["draft"]["question"], back["draft"]["repeats"]) == (DRAFT["question"], 6)
    back = teacher.ok("POST", f"/api/studies/{study['id']}/undo", json={"version": back["version"]})
    assert back["draft"]["repeats"] == 3
    body = refused(teacher.http.post(f"/api/studies/{study['id']}/undo", json={"version": back["version"]}), 422, "nothing_to_undo")
    assert body["detail"] == "There is no change to undo."
    assert [row["undone"] for row in teacher.ok("GET", f"/api/studies/{study['id']}/changes")] == [True, True]


def test_a_sentence_being_typed_is_one_change(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    for text in ("How d", "How does i", "How does it fly?"):
        study = patch(teacher, study, question=text)
    held = teacher.ok("GET", f"/api/studies/{study['id']}/changes")
    assert [(c["was"], c["now"]) for row in held for c in row["changes"]] == [(DRAFT["question"], "How does it fly?")]


def test_what_is_typed_and_taken_away_again_leaves_no_change(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    study = patch(teacher, patch(teacher, study, repeats=6), repeats=3)
    assert teacher.ok("GET", f"/api/studies/{study['id']}/changes") == []


def test_taking_back_what_someone_else_changed_meanwhile_is_a_clash(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    patch(teacher, study, repeats=6)
    body = refused(teacher.http.post(f"/api/studies/{study['id']}/undo", json={"version": study["version"]}), 409, "study_changed")
    assert body["facts"]["theirs"]["draft"]["repeats"] == 6


def test_after_a_kept_trial_honest_changes_are_recorded_and_others_refused(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body())
    more = patch(teacher, study, repeats=5)
    bad = {"version": more["version"], "draft": {**more["draft"], "measures": [{**DRAFT["measures"][0], "rule": "To where it stops."}]}}
    body = refused(teacher.http.patch(f"/api/studies/{study['id']}", json=bad), 409, "plan_locked")
    assert body["where"] == "measures.0.rule"
    assert "the measuring rule cannot change from" in body["detail"]
    judged = patch(teacher, more, evidence="ranges")
    held = teacher.ok("GET", f"/api/studies/{study['id']}/changes")
    assert [row["with_trials"] for row in held] == [True, True]
    found = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")
    assert "judging_changed" in [f["code"] for f in found["audit"]]
    teacher.ok("POST", f"/api/studies/{study['id']}/undo", json={"version": judged["version"]})
    assert "judging_changed" in teacher.ok("GET", f"/api/studies/{study['id']}/analysis")["audit_checked"]


def test_a_way_of_judging_that_is_put_back_by_hand_is_as_agreed_however_many_changes_lie_between(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body())
    changed = patch(teacher, study, evidence="ranges")
    for repeats in range(4, 14):
        changed = patch(teacher, changed, repeats=repeats)
    path = f"/api/studies/{study['id']}/analysis"
    assert "judging_changed" in [f["code"] for f in teacher.ok("GET", path)["audit"]]
    patch(teacher, changed, evidence=study["draft"]["evidence"])
    assert "judging_changed" in teacher.ok("GET", path)["audit_checked"]


def test_the_prediction_and_its_reason_lock_with_the_first_kept_trial(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body())
    for change in ({"prediction": "Nearer."}, {"reason": "Now I know why."}, {"expect": "falls"}):
        body = {"version": study["version"], "draft": {**study["draft"], **change}}
        refused(teacher.http.patch(f"/api/studies/{study['id']}", json=body), 409, "prediction_locked")


# --- sign-off --------------------------------------------------------------------------------------------------------


def test_a_plan_is_signed_off_with_role_and_time_and_lapses_when_it_grows_riskier(teacher: TeacherClient) -> None:
    study = new_study(teacher, run=False)
    cautions = study["cautions"]
    path = f"/api/studies/{study['id']}/sign-off"
    refused(teacher.http.post(path, json={"id": str(uuid4()), "adult": "technician", "cautions": cautions[1:]}), 422, "cautions_left")
    refused(teacher.http.post(path, json={"id": str(uuid4()), "adult": " ", "cautions": cautions}), 422, "adult_missing")
    body = {"id": str(uuid4()), "adult": "technician", "cautions": cautions}
    signed = teacher.ok("POST", path, json=body)
    assert (signed["sign_off"]["adult"], signed["sign_off"]["covers"]) == ("technician", True)
    assert teacher.ok("POST", path, json=body)["sign_off"]["signed_at"] == signed["sign_off"]["signed_at"]
    higher = patch(teacher, signed, variable={**DRAFT["variable"], "levels": ["4", "6", "12"]})
    assert higher["sign_off"]["covers"] is False


# --- copies and forms ------------------------------------------------------------------------------------------------


def test_a_copy_has_the_plan_and_neither_trials_nor_prediction(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body())
    body = {"id": str(uuid4()), "title": "For another class", "groups": ["Owl"]}
    copy = teacher.ok("POST", f"/api/studies/{study['id']}/copy", json=body)
    assert (copy["kept"], copy["draft"]["prediction"], copy["draft"]["groups"]) == (0, "", ["Owl"])
    assert copy["draft"]["variable"] == study["draft"]["variable"]
    assert teacher.ok("POST", f"/api/studies/{study['id']}/copy", json=body)["id"] == copy["id"]  # twice pressed
    assert [s["title"] for s in teacher.ok("GET", "/api/studies")].count("For another class") == 1


def test_how_a_table_was_run_does_not_travel_with_a_copy(teacher: TeacherClient) -> None:
    rows = "trial,cord (cm),time (s)\n" + "".join(f"{n},{level},{1 + n / 10}\n" for n, level in enumerate([20] * 4 + [30] * 4 + [40] * 4, 1))
    made = teacher.ok("POST", "/api/tables/study", json={"id": str(uuid4()), "text": rows, "title": "Read in", "family": "launcher", "factor": "cord (cm)", "response": "time (s)"})
    assert made["draft"]["order"] == "listed"
    copy = teacher.ok("POST", f"/api/studies/{made['id']}/copy", json={"id": str(uuid4()), "title": "Again", "class_label": "8 Amber"})
    assert (copy["draft"]["order"], copy["draft"]["class_label"], copy["draft"]["measures"][0]["rule"]) == ("blocks", "8 Amber", "")


def test_a_plan_goes_out_and_comes_in_again_the_same(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    form = teacher.ok("GET", f"/api/studies/{study['id']}/plan.json")
    assert (form["form"], form["version"], form["title"]) == ("bendro-plan", PLAN_VERSION, "Test study")
    back = teacher.ok("POST", "/api/plans", json={"id": str(uuid4()), "text": json.dumps(form)})
    assert (back["title"], back["draft"]) == ("Test study", study["draft"])


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("", "plan_form_unreadable"),
        ("{", "plan_form_unreadable"),
        ("[1]", "plan_form_other"),
        ('{"form": "something else"}', "plan_form_other"),
        ('{"form": "bendro-plan", "version": 9}', "plan_form_version"),
        ('{"form": "bendro-plan", "version": 1, "title": "x", "draft": {"repeats": "many"}}', "plan_form_bad"),
        ('{"form": "bendro-plan", "version": 1, "title": "x", "draft": {"unknown": 1}}', "plan_form_bad"),
        ('{"form": "bendro-plan", "version": 1, "draft": {}}', "title_length"),
        ("[" * 100_000, "plan_form_unreadable"),
        ('{"form": "bendro-plan", "version": ' + "9" * 5_000 + "}", "plan_form_unreadable"),
        ('{"form": "bendro-plan", "version": 1, "title": "half \\ud800", "draft": {}}', "plan_form_unreadable"),
        ('{"form": "bendro-plan", "version": 1, "title": "zero \\u0000", "draft": {}}', "plan_form_unreadable"),
        ('{"form": "bendro-plan", "version": 1, "title": "x", "draft": {"levels\\ud800": 1}}', "plan_form_unreadable"),
    ],
)
def test_a_file_that_is_no_plan_is_refused_with_its_place(teacher: TeacherClient, text: str, code: str) -> None:
    refused(teacher.http.post("/api/plans", json={"id": str(uuid4()), "text": text}), 422, code)


# --- what lies ahead, rota, shopping ---------------------------------------------------------------------------------


def test_what_lies_ahead_follows_the_plan(teacher: TeacherClient) -> None:
    study = new_study(teacher, could_change=["pull-back", "band colour"])
    found = teacher.ok("GET", f"/api/studies/{study['id']}/ahead")
    assert found["outlook"]["trials"] == 9
    assert "band colour" in [k["name"] for k in found["kept_same"]]
    assert found["can"].startswith("It can say what the one thing")
    assert len(found["roles"]) == 3


def test_a_rota_is_made_kept_and_known_to_be_stale(teacher: TeacherClient) -> None:
    study = new_study(teacher, rota={"start": "09:10", "lesson_min": 50})
    path = f"/api/studies/{study['id']}/rota"
    assert teacher.ok("GET", path) is None
    made = teacher.ok("POST", path)
    assert made["rota"]["fits"]
    assert (made["start"], made["stale"]) == ("09:10", False)
    assert teacher.ok("GET", path) == made
    called = teacher.ok("GET", f"/api/studies/{study['id']}")["turns"]
    assert all(t["sitting"] for t in called)  # the lane, the wall and the sheet call by it
    assert not any(t["sitting"] for t in study["turns"])
    changed = patch(teacher, study, groups=["Red", "Blue", "Green"])
    assert teacher.ok("GET", path)["stale"] is True
    assert not any(t["sitting"] for t in changed["turns"])
    assert len(teacher.ok("POST", path)["lesson"]["groups"]) == 3
    assert teacher.ok("GET", path)["stale"] is False


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"groups": []}, "rota_no_groups"),
        ({"timing": {"adults": 0}}, "rota_no_adult"),
        ({"rota": {"start": "noon"}}, "clock_unreadable"),
        ({"variable": {**DRAFT["variable"], "levels": []}}, "rota_not_ready"),
        ({"groups": [f"g{i}" for i in range(61)]}, "rota_not_ready"),
    ],
)
def test_an_impossible_rota_says_why(teacher: TeacherClient, change: dict[str, Any], code: str) -> None:
    study = new_study(teacher, **change)
    refused(teacher.http.post(f"/api/studies/{study['id']}/rota"), 422, code)


def test_sixty_groups_get_an_answer(teacher: TeacherClient) -> None:
    study = new_study(teacher, groups=[f"g{i}" for i in range(60)], timing={"lanes": 3, "adults": 3})
    found = teacher.ok("POST", f"/api/studies/{study['id']}/rota")
    assert len({s["group"] for s in found["rota"]["sittings"]}) == 60
    assert found["rota"]["change"]


def test_the_shopping_list_goes_out_as_csv(teacher: TeacherClient) -> None:
    items = [
        {
            "name": "=line",
            "form": "length",
            "per_device": "8",
            "piece": "50 cm",
            "packs": [{"name": "ball", "holds": "10 m", "price": "1,20"}],
        },
        {"name": "card", "per_device": "2"},
    ]
    study = new_study(teacher, materials={"items": items, "spare": 0})
    assert teacher.ok("GET", f"/api/studies/{study['id']}/shopping")["lines"][0]["cost"] == 1.2
    text = teacher.ok("GET", f"/api/studies/{study['id']}/shopping.csv")
    assert text.removeprefix("\ufeff").splitlines() == [
        "material,need,unit,pack,holds,buy,price,cost",
        "'=line,16,pieces,ball,10 m,1,1.2,1.20",  # a formula in a name is disarmed
        "card,4,pieces,,,,,",
    ]


# --- versions --------------------------------------------------------------------------------------------------------


def put(
    teacher: TeacherClient, study: dict[str, Any], device: str = "Red", revision: int = 0, id: str | None = None, **body: Any
) -> dict[str, Any]:
    withdrawn = body.pop("withdrawn", False)
    path = f"/api/studies/{study['id']}/versions/{id or uuid4()}"
    return teacher.ok("PUT", path, json={"device": device, "draft": body, "revision": revision, "withdrawn": withdrawn})


def shelf(teacher: TeacherClient, study: dict[str, Any]) -> list[dict[str, Any]]:
    """The versions that were not taken back."""
    return [v for v in teacher.ok("GET", f"/api/studies/{study['id']}/versions") if not v["withdrawn"]]


def fins(n: int) -> dict[str, Any]:
    return {"properties": [{"name": "fins", "value": str(n)}]}


def test_every_version_keeps_its_number_even_when_one_is_taken_back(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    one = put(teacher, study, **fins(3))
    two = put(teacher, study, since=1, **fins(4))
    other = put(teacher, study, device="Blue")
    assert [(v["device"], v["number"]) for v in (one, two, other)] == [("Red", 1), ("Red", 2), ("Blue", 1)]
    assert two["says"].startswith("One thing changed since version 1: fins (3 → 4).")
    put(teacher, study, id=two["id"], revision=1, since=1, withdrawn=True, **fins(4))
    assert [v["number"] for v in shelf(teacher, study) if v["device"] == "Red"] == [1]
    assert put(teacher, study, since=1, **fins(5))["number"] == 3
    assert put(teacher, study, since=3, **fins(6))["says"].startswith("One thing changed since version 3")
    put(teacher, study, id=two["id"], revision=2, since=1, **fins(4))
    assert [v["number"] for v in shelf(teacher, study) if v["device"] == "Red"] == [1, 2, 3, 4]


def test_a_version_whose_parent_was_taken_back_says_so(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    one = put(teacher, study, **fins(3))
    put(teacher, study, since=1, **fins(4))
    put(teacher, study, id=one["id"], revision=1, withdrawn=True, **fins(3))
    assert [v["says"] for v in shelf(teacher, study)] == [
        "Version 1, from which it was made, was removed, so what changed cannot be told. Restore it to see."
    ]


def test_a_version_sent_twice_is_stored_once_and_two_editors_are_told(teacher: TeacherClient) -> None:
    study, version_id = new_study(teacher), str(uuid4())
    first = put(teacher, study, id=version_id, **fins(3))
    assert put(teacher, study, id=version_id, **fins(3))["revision"] == first["revision"] == 1
    assert put(teacher, study, id=version_id, revision=1, **fins(4))["revision"] == 2
    late = {"device": "Red", "draft": fins(5), "revision": 1}
    body = refused(teacher.http.put(f"/api/studies/{study['id']}/versions/{version_id}", json=late), 409, "version_changed")
    assert body["facts"]["theirs"]["properties"][0]["value"] == "4"
    assert body["facts"]["revision"] == 2


@pytest.mark.parametrize(
    ("body", "code"), [({"device": " ", "draft": {}}, "device_label"), ({"device": "Red", "draft": {"since": 4}}, "since_unknown")]
)
def test_a_version_from_nowhere_is_refused(teacher: TeacherClient, body: dict[str, Any], code: str) -> None:
    study = new_study(teacher)
    refused(teacher.http.put(f"/api/studies/{study['id']}/versions/{uuid4()}", json=body), 422, code)


def test_a_version_cannot_start_from_itself_or_from_a_later_one(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    one = put(teacher, study, **fins(3))
    put(teacher, study, since=1, **fins(4))
    for since in (1, 2):
        body = {"device": "Red", "draft": {"since": since, **fins(3)}, "revision": 1}
        refused(teacher.http.put(f"/api/studies/{study['id']}/versions/{one['id']}", json=body), 422, "since_unknown")


def test_any_two_versions_are_compared(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    a, b = (
        put(teacher, study, mass="40 g", **fins(3)),
        put(teacher, study, device="Blue", properties=[{"name": "fins", "value": "4"}, {"name": "nose", "value": "clay"}]),
    )
    found = teacher.ok("GET", f"/api/studies/{study['id']}/versions/compare", params={"first": a["id"], "second": b["id"]})
    assert [c["name"] for c in found["changed"]] == ["fins", "nose"]
    assert found["says"].startswith("2 things differ.")
    alike = teacher.ok("GET", f"/api/studies/{study['id']}/versions/compare", params={"first": a["id"], "second": a["id"]})
    assert alike["says"] == "Nothing that is written down differs."


def test_design_rounds_take_what_changed_from_the_versions_that_were_built(teacher: TeacherClient) -> None:
    study = new_study(teacher, study_kind="design_rounds", variable={"name": "version", "kind": "name", "levels": ["1", "2"]}, repeats=4)
    put(teacher, study, properties=[{"name": "fins", "value": "3"}, {"name": "nose", "value": "none"}])
    put(teacher, study, since=1, properties=[{"name": "fins", "value": "4"}, {"name": "nose", "value": "clay"}])
    for i, (a, b) in enumerate([(3.0, 5.0), (3.1, 5.1), (3.05, 5.2), (3.2, 5.05)]):
        for level, value in (("1", a), ("2", b)):
            teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body(level, str(value), block=i + 1))
    found = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")
    assert found["verdict"]["about"] == "design"
    assert "Version 2 changed 2 things at once" in next(f["says"] for f in found["audit"] if f["code"] == "more_than_one_change")


def test_side_by_side_drops_are_compared_within_their_blocks(teacher: TeacherClient) -> None:
    """Paired analysis separates what unpaired cannot: the heats differ more than the levels do."""
    variable = {"name": "tip cut", "kind": "name", "levels": ["0", "1"]}
    heats = [(1.0, 1.1), (2.0, 2.12), (3.0, 3.09), (4.0, 4.11)]
    answers = {}
    for compared in ("timed", "side_by_side"):
        study = new_study(teacher, compared=compared, variable=variable, repeats=4)
        for i, pair in enumerate(heats, 1):
            for level, value in zip(("0", "1"), pair, strict=True):
                teacher.ok("PUT", f"/api/studies/{study['id']}/trials/{uuid4()}", json=trial_body(level, f"{value:.2f}", block=i))
        answers[compared] = teacher.ok("GET", f"/api/studies/{study['id']}/analysis")
    assert answers["timed"]["effect"]["kind"] == "difference"
    assert answers["side_by_side"]["effect"]["kind"] == "paired"
    assert answers["side_by_side"]["effect"]["difference"]["p_t"] < 0.001 < 0.5 < answers["timed"]["effect"]["difference"]["p_t"]


# --- photos ----------------------------------------------------------------------------------------------------------


def camera_photo(width: int = 3000, height: int = 2000) -> bytes:
    """A JPEG as a camera writes it: with the place where it was taken, and lying on its side."""
    image = Image.new("RGB", (width, height), (200, 60, 40))
    data = Image.Exif()
    data[0x0112] = 6  # turned a quarter
    data[0x010F] = "camera maker"
    data.get_ifd(0x8825)[2] = (51.0, 30.0, 0.0)
    out = io.BytesIO()
    image.save(out, "JPEG", exif=data)
    return out.getvalue()


def test_a_photo_is_made_small_upright_and_without_its_place(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    version = put(teacher, study)
    path = f"/api/studies/{study['id']}/versions/{version['id']}/photo"
    assert teacher.http.get(path).status_code == 404
    sent = camera_photo()
    assert b"camera maker" in sent
    assert teacher.ok("PUT", path, content=sent, headers={"Content-Type": "image/jpeg"})["photo"] is True
    answer = teacher.http.get(path)
    assert answer.headers["content-type"] == "image/jpeg"
    kept = Image.open(io.BytesIO(answer.content))
    assert kept.size == (1067, 1600)
    assert dict(kept.getexif()) == {}
    assert b"camera maker" not in answer.content
    assert teacher.ok("DELETE", path)["photo"] is False
    assert teacher.ok("DELETE", path)["photo"] is False


@pytest.mark.parametrize(
    ("data", "code"),
    [
        (b"", "photo_empty"),
        (b"not a photo at all", "photo_unreadable"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "photo_unreadable"),
        (camera_photo()[:900], "photo_unreadable"),
    ],
)
def test_what_is_no_photo_is_refused_and_the_old_one_stays(teacher: TeacherClient, data: bytes, code: str) -> None:
    study = new_study(teacher)
    version = put(teacher, study)
    path = f"/api/studies/{study['id']}/versions/{version['id']}/photo"
    teacher.ok("PUT", path, content=camera_photo(300, 200))
    refused(teacher.http.put(path, content=data), 422, code)
    assert teacher.http.get(path).status_code == 200


def test_a_photo_of_thirty_megabytes_is_refused_before_it_is_read(teacher: TeacherClient) -> None:
    study = new_study(teacher)
    version = put(teacher, study)
    answer = teacher.http.put(f"/api/studies/{study['id']}/versions/{version['id']}/photo", content=b"x" * 30_000_000)
    body = refused(answer, 413, "too_large")
    assert body["detail"] == "That is 30 MB; at most 20 MB can be read. Send a smaller file."


def test_a_photo_with_too_many_points_is_refused(teacher: TeacherClient) -> None:
    out = io.BytesIO()
    Image.new("1", (12_000, 8_000)).save(out, "PNG")  # a few kilobytes that would unfold to 96 million points
    study = new_study(teacher)
    version = put(teacher, study)
    refused(teacher.http.put(f"/api/studies/{study['id']}/versions/{version['id']}/photo", content=out.getvalue()), 422, "photo_huge")


def test_unfolding_a_photo_takes_no_memory_of_the_application() -> None:
    """A few kilobytes that would unfold to hundreds of megabytes: the caller's own peak memory hardly moves."""
    out = io.BytesIO()
    Image.new("1", (5_000, 4_900)).save(out, "PNG")
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    small = small_photo(out.getvalue())
    assert (small.width, small.height) == (1600, 1568)
    assert (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) * 1024 < 30_000_000 < 5_000 * 4_900 * 3
    assert resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss * 1024 < MOST_MEMORY


def test_nobody_reaches_another_workspaces_versions_under_a_study_of_their_own(teacher: TeacherClient, app: Any) -> None:
    study = new_study(teacher)
    version = put(teacher, study, **fins(3))
    teacher.ok("PUT", f"/api/studies/{study['id']}/versions/{version['id']}/photo", content=camera_photo(30, 20))
    other = sign_up(app)
    own = new_study(other)
    theirs = f"/api/studies/{own['id']}/versions/{version['id']}"
    assert other.http.put(theirs, json={"device": "Red", "draft": fins(9), "revision": 1}).status_code == 404
    for method in ("GET", "PUT", "DELETE"):
        assert other.http.request(method, f"{theirs}/photo", content=camera_photo(30, 20) if method == "PUT" else None).status_code == 404
    assert teacher.ok("GET", f"/api/studies/{study['id']}/versions")[0]["draft"]["properties"][0]["value"] == "3"
