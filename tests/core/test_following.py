"""What follows a verdict: the plan with the best held and one thing changed."""

from __future__ import annotations

import pytest

from bendro.core.analyse import analyse
from bendro.core.context import Context
from bendro.core.draft import DecidedDraft, Draft, Held, Limit, MeasureDraft, VariableDraft
from bendro.core.errors import PlanRefused
from bendro.core.planning.final import final_plan
from bendro.core.planning.following import following, next_plan, said_next
from bendro.core.trials import Trial

DRAFT = Draft(
    question="How does pull-back affect distance?",
    family="launcher",
    could_change=["band width", "pull-back", "wind"],
    variable=VariableDraft(name="pull-back", quantity="length", unit="cm", levels=["4", "6", "8"]),
    measures=[MeasureDraft(id="m1", name="distance", quantity="length", unit="m")],
    hold=[Held(name="band width", value="6 mm"), Held(name="projectile", how="one bean bag")],
    limits=[Limit(on="variable", value="10 cm")],
    prediction="Farther.",
    expect="rises",
)
TRIALS = [Trial(level=level, value=level / 2 + n / 10, row=int(level) + n) for level in (4.0, 6.0, 8.0) for n in range(3)]
FOUND = analyse(TRIALS, Context(factor="pull-back", response="distance", factor_unit="cm", unit="m"))


def test_the_best_is_named_with_its_rule_and_the_classs_ideas_come_first() -> None:
    found = following(DRAFT, ["8 cm"], "By the average 8 cm is best.")
    assert [b.label for b in found.best] == ["8 cm"]
    assert found.why.startswith("By the average 8 cm is best.")
    assert found.ideas[:2] == ("band width", "wind")
    assert "pull-back" not in found.ideas
    assert "distance" not in found.ideas
    assert found.between == ("6", "6.67", "7.33", "8")
    shared = following(DRAFT, ["6 cm", "8 cm"], "By the average 6 cm and 8 cm share the first place.")
    assert "6 cm and 8 cm share the first place" in shared.why
    assert shared.between == ()
    assert following(DRAFT, [], "").best == ()


def test_the_next_plan_holds_the_best_and_everything_else_and_predicts_anew() -> None:
    plan = next_plan(DRAFT, best="8", change="band width")
    assert plan.variable.name == "band width"
    assert [(h.name, h.value, h.how) for h in plan.hold] == [("projectile", "", "one bean bag"), ("pull-back", "8 cm", "")]
    assert [(one.on, one.name, one.value) for one in plan.limits] == [("held", "pull-back", "10 cm")]
    assert plan.question == "How does band width affect distance?"
    assert (plan.prediction, plan.expect, plan.repeats) == ("", "", DRAFT.repeats)
    assert plan.measures == DRAFT.measures


def test_the_same_thing_between_the_neighbours_of_the_best() -> None:
    plan = next_plan(DRAFT, best="6", change="", between=True)
    assert plan.variable.levels == ["4", "5.33", "6.67", "8"]
    assert plan.hold == DRAFT.hold
    assert plan.limits == DRAFT.limits


@pytest.mark.parametrize(("given", "code"), [
    ({"best": "9", "change": "wind"}, "next_best_unknown"), ({"best": "8", "change": " "}, "next_change_missing"),
    ({"best": "8", "change": "The pull-back"}, "next_change_missing"),
])  # fmt: skip
def test_what_cannot_follow_is_refused(given: dict[str, str], code: str) -> None:
    with pytest.raises(PlanRefused) as no:
        next_plan(DRAFT, **given)
    assert no.value.code == code


def test_past_a_best_at_the_end_as_far_as_the_limit_lets() -> None:
    free = DRAFT.model_copy(update={"limits": []})
    assert following(free, ["8 cm"], "").past == ("8", "10", "12")
    assert following(DRAFT, ["8 cm"], "").past == ("8", "10")  # 12 cm is above the teacher's 10 cm
    assert following(DRAFT.model_copy(update={"limits": [Limit(on="variable", value="9 cm")]}), ["8 cm"], "").past == ()
    assert following(DRAFT, ["6 cm"], "").past == ()  # in the middle there is nothing past it
    assert following(DRAFT, ["4 cm"], "").past == ("4", "2")  # and no pull-back of 0
    plan = next_plan(DRAFT, best="8", change="", past=True)
    assert (plan.variable.levels, plan.limits, plan.prediction) == (["8", "10"], DRAFT.limits, "")
    with pytest.raises(PlanRefused, match="No level can be set past this one"):
        next_plan(DRAFT, best="6", change="", past=True)


def test_between_names_there_is_nothing() -> None:
    names = DRAFT.model_copy(update={"variable": VariableDraft(name="fin", kind="name", levels=["round", "square"])})
    with pytest.raises(PlanRefused) as no:
        next_plan(names, best="round", change="", between=True)
    assert no.value.code == "next_between"
    held = next_plan(names, best="round", change="wind").hold[-1]
    assert (held.name, held.value, held.how) == ("fin", "", "round")


def test_what_one_class_decided_does_not_go_into_what_follows() -> None:
    written = DRAFT.model_copy(update={"decided": DecidedDraft(best="8", change="band width", why="A wider band stores more")})
    assert next_plan(written, best="8", change="wind").decided == DecidedDraft()
    assert final_plan(written, ["A", "B"]).decided == DecidedDraft()


def test_what_was_decided_is_said_on_the_poster() -> None:
    written = DRAFT.model_copy(update={"decided": DecidedDraft(best="8", change="band width", why="A wider band stores more")})
    assert said_next(written) == "Next we change band width with pull-back at 8 cm: A wider band stores more."
    assert said_next(DRAFT) == ""
