"""Several studies of one test judged together, against statsmodels and by hand."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest
from statsmodels.formula.api import ols
from statsmodels.stats.anova import anova_lm

from bendro.core.conclusion.together import Part, judged, pooled, record_of, runners
from bendro.core.conclusion.together import test_of as same_test
from bendro.core.context import Context
from bendro.core.errors import TableRefused
from bendro.core.results import GroupsEffect, PairedEffect, SurvivalEffect
from bendro.core.trials import Trial

ASKED = Context(factor="canopy", response="fall time", factor_unit="cm", unit="s")


def made(seed: int, levels: tuple[float, ...] = (20.0, 30.0, 40.0), shift: float = 0.0, spread: float = 0.1, n: int = 3, **more: object) -> list[Trial]:
    rng = np.random.default_rng(seed)
    return [
        Trial(level=level, value=round(1 + level / 40 + shift + float(rng.normal()) * spread, 3), order=i, row=i, **more)  # type: ignore[arg-type]
        for i, level in enumerate([level for _ in range(n) for level in levels], 1)
    ]


def test_pooled_groups_are_the_librarys_additive_model_with_the_group_as_block() -> None:
    parts = [Part(name=name, trials=made(seed, shift=shift), asked=ASKED) for seed, (name, shift) in enumerate((("Red", 0.0), ("Blue", 0.8), ("Green", -0.4)))]
    found = judged(parts)
    assert found.within
    assert isinstance(found.analysis.effect, GroupsEffect)
    frame = pd.DataFrame([{"y": t.value, "level": str(t.level), "block": t.block} for t in found.trials])
    table = anova_lm(ols("y ~ C(level) + C(block)", frame).fit(), typ=2)
    assert found.analysis.effect.groups.f == pytest.approx(table.loc["C(level)", "F"])
    assert found.analysis.effect.groups.p == pytest.approx(table.loc["C(level)", "PR(>F)"])
    alike = anova_lm(ols("y ~ C(level) * C(block)", frame).fit(), typ=2).loc["C(level):C(block)", "PR(>F)"]
    assert f"interaction p = {alike:.2g}" in (found.alike or "")


def test_two_levels_are_paired_within_each_group() -> None:
    found = judged([Part(name=n, trials=made(s, levels=(20.0, 40.0)), asked=ASKED) for s, n in enumerate(("Red", "Blue", "Green", "Gold"))])
    assert isinstance(found.analysis.effect, PairedEffect)
    assert found.analysis.effect.difference.pairs == 4


def test_units_are_turned_and_other_quantities_refused() -> None:
    inches = Context(factor="canopy", response="fall time", factor_unit="in", unit="ms")
    other = [Trial(level=10.0, value=1500.0, row=1), Trial(level=12.0, value=1600.0, row=2)]
    trials, _ = pooled([Part(name="Red", trials=made(1), asked=ASKED), Part(name="Blue", trials=other, asked=inches)])
    assert [(t.level, t.value) for t in trials if t.block == "Blue"] == [(25.4, 1.5), (30.48, 1.6)]
    with pytest.raises(TableRefused) as no:
        pooled([Part(name="Red", trials=made(1), asked=ASKED), Part(name="Blue", trials=other, asked=Context(factor="canopy", response="fall time", factor_unit="in", unit="m"))])
    assert no.value.code == "pool_units"
    with pytest.raises(TableRefused) as names:
        pooled([Part(name="Red", trials=made(1), asked=ASKED), Part(name="Blue", trials=[Trial(level="big", value=1.0, row=1)], asked=ASKED)])
    assert names.value.code == "pool_levels"
    with pytest.raises(TableRefused) as nothing:
        pooled([])
    assert nothing.value.code == "pool_empty"


def test_groups_that_tried_one_level_each_are_judged_without_blocks_and_it_is_said() -> None:
    parts = [Part(name=n, trials=made(s, levels=(level,), n=4), asked=ASKED) for s, (n, level) in enumerate((("Red", 20.0), ("Blue", 30.0), ("Green", 40.0)))]
    found = judged(parts)
    assert (found.within, found.blocks, found.alike) == (False, 3, None)


def test_one_group_to_a_level_is_no_clear_answer_over_a_class() -> None:
    parts = [Part(name=name, trials=made(seed, levels=(level,), n=5), asked=ASKED) for seed, (name, level) in enumerate((("Curlew", 20.0), ("Egret", 30.0), ("Heron", 40.0)))]
    found = judged(parts).analysis
    mixed = next(f for f in found.audit if f.code == "group_mixed_with_level")
    assert "(Curlew at 20 cm, Egret at 30 cm and Heron at 40 cm)" in mixed.says
    assert (found.verdict.answer, found.verdict.next) == ("leaning", "Let every group run every level.")
    pods = [Part(name=n, trials=[Trial(level=level, outcome=word, row=1) for _ in range(6)], asked=Context(factor="pod", response="outcome", survival=True)) for n, level, word in (("Curlew", "foam", "survived"), ("Egret", "card", "failed"))]
    assert judged(pods).analysis.verdict.answer == "leaning"


def test_survival_is_pooled_without_blocks() -> None:
    asked = Context(factor="pod", response="outcome", survival=True)
    rows = [Trial(level=level, outcome=word, group=g, row=1) for g in ("Red", "Blue") for level, word in (("foam", "survived"), ("card", "failed"))]
    found = judged([Part(name="Pods", trials=rows, asked=asked)])
    assert isinstance(found.analysis.effect, SurvivalEffect)
    assert [(s.level, s.survived, s.n) for s in found.analysis.effect.survival.levels] == [("foam", 2, 2), ("card", 0, 2)]


def test_who_scatters_widely_is_named_beside_the_others_and_nobody_else() -> None:
    parts = [Part(name=n, trials=made(s, spread=0.6 if n == "Gold" else 0.1, n=4), asked=ASKED) for s, n in enumerate(("Red", "Blue", "Green", "Gold"))]
    found = runners(pooled(parts)[0])
    assert [(r.name, r.kept, r.wide) for r in found] == [("Red", 12, False), ("Blue", 12, False), ("Green", 12, False), ("Gold", 12, True)]
    alone = runners(pooled([Part(name="Red", trials=[Trial(level=20.0, value=1.0, row=1), Trial(level=20.0, state="void", row=2)], asked=ASKED)])[0])
    assert [(r.kept, r.void, r.spread, r.wide) for r in alone] == [(1, 1, None, False)]


def test_a_study_of_several_groups_is_split_by_its_groups() -> None:
    rows = [*made(1, group="Red"), *made(2, group="Blue")]
    assert {t.block for t in pooled([Part(name="Fall", trials=rows, asked=ASKED)])[0]} == {"Red", "Blue"}
    two = pooled([Part(name="Fall", trials=rows, asked=ASKED), Part(name="Again", trials=rows, asked=ASKED)])[0]
    assert {t.block for t in two} == {"Fall: Red", "Fall: Blue", "Again: Red", "Again: Blue"}


def test_the_record_needs_three_trials_where_anyone_has_three() -> None:
    rows = [Trial(level="a", value=v, block="Red", row=1) for v in (4.0, 4.2, 4.4)] + [Trial(level="b", value=9.0, block="Blue", row=2)]
    best = record_of(rows, best_is="high")
    assert best is not None
    assert (best.name, best.level, best.at.n_kept) == ("Red", "a", 3)
    assert best.at.ci95 == (pytest.approx(4.2 - 4.3027 * 0.2 / 3**0.5, abs=1e-4), pytest.approx(4.2 + 4.3027 * 0.2 / 3**0.5, abs=1e-4))  # t(2) = 4.3027
    assert record_of([], best_is="high") is None


def test_the_same_test_is_known_by_what_is_changed_and_measured() -> None:
    assert same_test(ASKED, "parachute") == same_test(Context(factor="the Canopy", response="Fall  time"), "parachute")
    assert same_test(ASKED, "parachute") != same_test(ASKED, "rotor")
