"""The choices of a plan: each is one that the draft takes, named, and with its reason."""

from __future__ import annotations

from typing import get_args

import pytest

from bendro.core.draft import Binding, Draft, DropDraft, MaterialDraft, MeasureDraft
from bendro.core.judgement.audit import CHECKS, LOOKS_FOR
from bendro.core.measuring.heard import CALLED, READS, instruments_for
from bendro.core.planning.choices import CHOICES, UNITS_OFFERED, label_of
from bendro.core.planning.record import plan_changes
from bendro.core.readings import QUANTITIES

PARTS = {"drop": DropDraft, "measures": MeasureDraft, "materials": MaterialDraft, "derived": Binding}
UNEXPLAINED = {"expect", "reading_level", "drop.plan", "asked_by", "measures.scale", "materials.form", "derived.source"}


@pytest.mark.parametrize("field", sorted(CHOICES.keys() - {"expect", "drop.plan"}))
def test_every_way_that_a_plan_takes_is_offered_and_no_other(field: str) -> None:
    part, _, name = field.rpartition(".")
    model = PARTS[part] if part else Draft
    offered = [c.id for c in CHOICES[field]]
    assert set(offered) == set(get_args(model.model_fields[name].annotation)) - ({""} if part == "derived" else set())
    assert model.model_fields[name].default == offered[0] or not any(c.advised for c in CHOICES[field]), "what is advised is what a new plan begins with"


def test_a_plan_without_drops_is_one_of_the_ways_to_drop() -> None:
    assert [c.id for c in CHOICES["drop.plan"]] == ["", *sorted(get_args(DropDraft.model_fields["plan"].annotation), key=["ladder", "rungs", "one_height"].index)]


@pytest.mark.parametrize("field", sorted(CHOICES.keys() - UNEXPLAINED))
def test_each_says_what_speaks_for_it(field: str) -> None:
    assert all(c.why for c in CHOICES[field])
    assert sum(c.advised for c in CHOICES[field]) <= 1


def test_whatever_the_audit_looks_for_has_a_name() -> None:
    assert LOOKS_FOR.keys() == CHECKS.keys()


def test_units_offered_are_units_that_readings_know() -> None:
    assert [(q, u) for q, u in UNITS_OFFERED if u not in QUANTITIES[q].units] == []
    assert len(set(UNITS_OFFERED)) == len(UNITS_OFFERED)


def test_a_change_of_a_choice_is_told_in_the_words_of_the_page() -> None:
    (told,) = plan_changes(Draft(), Draft(evidence="ranges"))
    assert (told.was, told.now) == ("chance alone would rarely produce this", "the ranges do not overlap")
    (told,) = plan_changes(Draft(), Draft(expect="no such shape"))
    assert (told.was, told.now) == ("nothing", "no such shape")
    assert label_of("expect", "peak", "") == "a best in the middle"


def test_the_instruments_offered_for_a_measure_are_those_that_read_it() -> None:
    assert [kind for kind, _ in instruments_for("time")] == ["gate", "sound", "felt"]
    assert instruments_for("mass") == (("scale", "a scale"),)
    assert instruments_for("length") == ()
    assert {kind for q in QUANTITIES for kind, _ in instruments_for(q)} == set(READS) == set(CALLED)
