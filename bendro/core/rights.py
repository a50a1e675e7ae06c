"""Who may do what, in one place: the routes ask it, and the pages show nothing that may not be done."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

#: teacher: an account. The others are seats in one lesson: a colleague runs lanes, a group its own turns, a timer times, the wall shows.
Role = Literal["teacher", "colleague", "group", "timer", "wall"]
#: enter: come in and go. look: see the study as it stands. run: keep and mend trials of any turn. run own: of one's own group's turns. build own:
#: versions of one's own device. time: tell how a thumb times. lead: plan, delete, report, and whatever else is the teacher's. school: what is
#: not of one study.
Act = Literal["enter", "look", "run", "run own", "build own", "time", "lead", "school"]

MAY: Mapping[Role, frozenset[Act]] = {
    "teacher": frozenset({"enter", "look", "run", "run own", "build own", "time", "lead", "school"}),
    "colleague": frozenset({"enter", "look", "run", "run own", "time"}),
    "group": frozenset({"enter", "look", "run own", "build own", "time"}),
    "timer": frozenset({"enter", "look", "time"}),
    "wall": frozenset({"enter", "look"}),
}
#: What each call of the interface is; one that does not stand here is the teacher's alone.
CALLS: Mapping[str, Act] = {
    **dict.fromkeys(("who_am_i", "sign_in", "sign_in_demo", "first_account", "invited_account", "sign_out", "look_at_code", "join", "practice", "mark_practice", "send_events", "here", "trust", "help", "made", "made_log"), "enter"),
    **dict.fromkeys(("families", "study", "trials", "rota", "versions", "photo", "sheet_picture", "sheet_pictures", "conclusion", "analysis", "live", "lane", "say_screen", "screens", "leave_screen", "words", "joining", "seen", "all_seen", "trial_picture"), "look"),
    **dict.fromkeys(("put_trial", "look_at_reading", "look_at_gates", "look_at_heard_time", "look_at_followed", "look_at_tape_picture", "keep_seen", "look_at_conditions", "trial_history", "taken_back", "hand_on"), "run own"),
    **dict.fromkeys(("desk", "set_lane", "tell_lanes"), "run"),
    **dict.fromkeys(("put_version", "put_photo", "drop_photo", "put_words"), "build own"),
    **dict.fromkeys(("thumbs", "practise_thumb", "press", "look_at_felt"), "time"),
    **dict.fromkeys(("calculators", "marking", "study_from_plan", "school", "invite", "withdraw_invitation", "end_sign_in", "remove_teacher", "change_password", "home", "make_study", "thrown_away", "usual_study", "look_into_table", "study_from_table", "tests", "judged_together", "classes", "erase_class", "take_waiting"), "school"),
}  # fmt: skip
WHAT: Mapping[Role, str] = {"teacher": "A teacher", "colleague": "A colleague’s seat", "group": "A group’s seat", "timer": "A timer’s seat", "wall": "The wall"}


def act_of(call: str) -> Act:
    """What a call of the interface is, by its name."""
    return CALLS.get(call, "lead")


def may(role: Role, call: str) -> bool:
    """Whether somebody in this role may make a call at all; whose the thing is, the act itself looks at."""
    return act_of(call) in MAY[role]


def only_own(role: Role, call: str) -> bool:
    """Whether it may only touch what is its own."""
    return act_of(call) in ("run own", "build own") and "run" not in MAY[role]
