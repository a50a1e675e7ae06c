"""The judge, further: readings that are only bounds, groups and heats, pairs by ranges, ladders, slips, and advice that is counted with the
test that will decide."""

from __future__ import annotations

import itertools
import math
from typing import Any

import numpy as np
import pytest
from scipy import stats

from bendro.core.analyse import analyse
from bendro.core.context import Context
from bendro.core.judgement.deciding import pairs_err
from bendro.core.judgement.foreseen import TRIED, Kind, Seen, clear_of
from bendro.core.results import Analysis
from bendro.core.statistics.bounds import near_end
from bendro.core.statistics.holm import shaffer
from bendro.core.statistics.shuffle import shuffle_parts
from bendro.core.statistics.unequal import largest_stands_out
from bendro.core.trials import Trial


def rows(table: dict[Any, list[float | str]], **same: Any) -> list[Trial]:
    """Level -> readings, dealt in turn; “>2.4” is at least 2.4."""
    made: list[Trial] = []
    for readings in itertools.zip_longest(*table.values()):
        for level, v in zip(table, readings, strict=True):
            if v is not None:
                bound = isinstance(v, str)
                made.append(Trial(level=level, value=float(str(v).lstrip(">")), kind="at_least" if bound else "exact", row=len(made) + 1, **same))
    return made


def ask(table: dict[Any, list[Any]], **more: Any) -> Analysis:
    return analyse(rows(table), Context(**{"factor": "surface", "response": "distance", "unit": "m", **more}))


def codes(found: Analysis) -> set[str]:
    return {f.code for f in found.audit}


# --- bounds -----------------------------------------------------------------------------------------------------------

SURFACES: dict[Any, list[Any]] = {"ice": [">2.40", 2.2, 2.31, 2.35], "felt": [1.1, 1.2, 1.15, 1.05], "card": [0.6, 0.7, 0.65, 0.62]}


@pytest.mark.parametrize("school", ["shuffle", "interval"])
def test_one_reading_beyond_the_tape_does_not_hide_three_plainly_different_surfaces(school: Any) -> None:
    found = ask(SURFACES, evidence=school)
    assert found.effect.kind == "groups"
    # four against four go no lower than 2 of 70, which Holm over three pairs takes to 0.086
    assert [round(p.p_adjusted or 1, 3) for p in found.effect.groups.pairs] == [0.029, 0.029, 0.029]
    assert (found.verdict.answer, found.effect.groups.pairs_method) == ("clear", "rank_shuffle_closed")
    assert "Ice and card differ by at least 1.67 m. The 95 % interval begins at 1.48 m and is open above." in found.verdict.says
    assert [r.apart_from_next for r in found.ranking] == [True, True, None]
    assert [p.shown.ci95 for p in found.effect.groups.pairs if p.shown] == ["beyond −1.00", "beyond −1.48", None]


def test_with_more_levels_than_are_closed_pairs_are_told_apart_by_shaffer() -> None:
    table: dict[Any, list[Any]] = {c: [at + n / 10 for n in range(5)] for at, c in enumerate("abcdef")}
    table["f"][4] = ">5.4"
    found = ask(table)
    assert found.effect.kind == "groups"
    assert found.effect.groups.pairs_method == "rank_shuffle_shaffer"
    assert max(p.p_adjusted or 1 for p in found.effect.groups.pairs) <= 10 * 2 / math.comb(10, 5)


def test_how_many_pairs_can_be_alike() -> None:
    """Shaffer 1986, table of the most pairs that can be true: four levels 6 3 3 3 2 1, five levels 10 6 6 6 6 4 4 3 2 1 (from memory). After the
    overall test the first step is as the second."""
    for levels, steps in ((4, [3, 3, 3, 3, 2, 1]), (5, [6, 6, 6, 6, 6, 4, 4, 3, 2, 1])):
        raw = [0.001 * (n + 1) for n in range(len(steps))]
        assert shaffer(raw, levels, 0.0) == pytest.approx(list(itertools.accumulate((s * p for s, p in zip(steps, raw, strict=True)), max)))
    assert min(shaffer([0.001, 0.2, 0.3], 3, 0.04)) == 0.04  # no pair is surer than the whole


def test_an_interval_open_on_its_side_begins_where_students_does() -> None:
    one, two = [1.0, 1.2, 1.1, 0.9], [2.4, 2.4, 2.2, 2.3]
    estimate = float(np.mean(two) - np.mean(one))
    begins, p = near_end(estimate, "at_least", one, two) or (0.0, 1.0)
    se = math.sqrt(max(np.var(one, ddof=1), np.var(two, ddof=1)) / 2)
    assert begins == pytest.approx(estimate - float(stats.t.ppf(0.975, 3)) * se)
    assert p == pytest.approx(2 * float(stats.t.sf(estimate / se, 3)))
    assert near_end(-estimate, "at_least", two, one) is None  # the bound makes this one larger, not surer
    assert near_end(estimate, "unknown", one, two) is None


def test_several_sets_at_once_are_dealt_each_within_itself() -> None:
    """Two sets of two against two: 6 × 6 arrangements, by a direct count."""
    parts = [[[1.0, 2.0], [4.0, 5.0]], [[1.0, 3.0], [2.0, 6.0]]]

    def between(a: tuple[float, ...], b: tuple[float, ...]) -> float:
        return (sum(a) / 2 - sum(b) / 2) ** 2

    sums = []
    for one in itertools.combinations(range(4), 2):
        for other in itertools.combinations(range(4), 2):
            total = 0.0
            for chosen, part in zip((one, other), parts, strict=True):
                flat = [*part[0], *part[1]]
                total += between(tuple(flat[i] for i in chosen), tuple(flat[i] for i in range(4) if i not in chosen))
            sums.append(total)
    seen = between((1, 2), (4, 5)) + between((1, 3), (2, 6))
    assert shuffle_parts(parts).p == pytest.approx(sum(s >= seen - 1e-9 for s in sums) / 36)


def test_bounds_take_no_part_in_the_audit_of_spreads_or_of_the_tools_step() -> None:
    wide: dict[Any, list[Any]] = {"ice": [">2.4", ">2.4", ">2.4", ">2.4"], "felt": [1.1, 1.9, 0.4, 2.1], "card": [0.6, 1.6, 0.2, 1.4]}
    assert "spread_unequal" not in codes(ask(wide))
    stepped = analyse(rows({"a": [">1.0", ">1.0", ">1.0"], "b": [1.0, 1.0, 1.0]}, resolution=0.5), Context(factor="f", response="r"))
    assert "resolution_too_coarse" not in codes(stepped)


# --- unlike spreads and numbers -------------------------------------------------------------------------------------------


def test_a_level_that_scatters_far_more_is_seen_at_three_repeats() -> None:
    """Spreads of 0.6, 0.6 and 14, for which the Brown-Forsythe test has too few readings."""
    found = ask({"a": [4.4, 5.0, 5.6], "b": [9.0, 23.0, -5.0], "c": [6.4, 7.0, 7.6]})
    assert "spread_unequal" in codes(found)
    assert (largest_stands_out([[4.4, 5.0, 5.6], [9.0, 23.0, -5.0], [6.4, 7.0, 7.6]]) or 1) == pytest.approx(3 * float(stats.f.sf(14**2 / 0.36, 2, 4)), rel=1e-6)


def test_far_unlike_numbers_of_two_levels_need_both_tests() -> None:
    few, many = [2.0, 2.6, 2.3], [2.9, 3.3, 2.7, 3.0, 3.2, 2.8, 3.1, 2.6]
    found = ask({"a": few, "b": many})
    assert found.effect.kind == "difference"
    d = found.effect.difference
    assert found.verdict.answer == ("clear" if max(d.p_t or 1, d.p_shuffle or 1) <= 0.05 else "leaning")


def test_a_clear_answer_that_rests_on_unlike_spreads_says_how_often_it_errs() -> None:
    found = ask({"a": [1.0, 3.2, 5.4], "b": [9.0, 9.1, 9.2], "c": [14.0, 14.1, 14.2]})
    assert found.verdict.answer == "clear"
    assert "up to 8 in 100 studies of nothing are called clear" in (found.verdict.beside or "")


# --- groups, heats, pairs -------------------------------------------------------------------------------------------------


def grouped(groups: int, repeats: int = 3, answer: float = 0.0) -> list[Trial]:
    """Levels a, b, c with each group's own way of answering to them."""
    rng = np.random.default_rng(groups)
    return [
        Trial(level=level, value=float(10 + g + at + answer * math.sin(3.0 * g + 2.0 * at) + 0.1 * rng.normal()), group=f"group {g}", row=1 + n)
        for n, (g, (at, level), _) in enumerate(itertools.product(range(groups), enumerate("abc"), range(repeats)))
    ]


def test_what_groups_repeated_counts_once_where_there_are_several() -> None:
    """F of the groups' means at each level, as in a randomized complete block (Montgomery): not of the 54 readings."""
    trials = grouped(6, answer=1.0)
    found = analyse(trials, Context(factor="runner", response="distance", pair_by="group"))
    assert found.effect.kind == "groups"
    g = found.effect.groups
    means = np.array([[np.mean([t.value for t in trials if t.level == level and t.group == f"group {k}"]) for level in "abc"] for k in range(6)])
    left = means - means.mean(axis=0) - means.mean(axis=1)[:, None] + means.mean()
    f = 6 * float(((means.mean(axis=0) - means.mean()) ** 2).sum()) / 2 / (float((left**2).sum()) / 10)
    assert (g.f, g.df, g.over, g.blocks) == (pytest.approx(f), (2.0, 10.0), "like_these", 6)
    assert found.verdict.answer == "cannot_tell" or "groups like these" in (found.verdict.beside or "")


def test_of_few_groups_the_answer_holds_for_these() -> None:
    found = analyse(grouped(3), Context(factor="runner", response="distance", pair_by="group"))
    assert found.effect.kind == "groups"
    assert found.effect.groups.over == "these"
    assert (found.verdict.answer, found.verdict.beside) == ("clear", "This is so for these 3 groups; what holds for groups like these would take at least 4.")
    whole = analyse(grouped(6), Context(factor="runner", response="distance", pair_by="group"))
    assert whole.verdict.beside == "This holds for groups like these: each one’s mean at a level counts once, however often it repeated it."


@pytest.mark.parametrize("pairs", [3, 5, 6])
def test_pairs_by_ranges_say_their_error_and_nothing_below_six(pairs: int) -> None:
    """The sign test: all n one way in 2 of 2ⁿ."""
    assert pairs_err(pairs) == pytest.approx(float(stats.binomtest(pairs, pairs).pvalue))
    trials = [Trial(level=level, value=1.0 + at + n / 10, block=str(n), row=1) for n in range(pairs) for at, level in enumerate("ab")]
    found = analyse(trials, Context(factor="clip", response="time", pair_by="block", evidence="ranges"))
    assert found.verdict.answer == ("clear" if pairs >= 6 else "cannot_tell")
    assert f"points {pairs} pairs one way in {'25' if pairs == 3 else '6' if pairs == 5 else '3'} in 100" in (found.verdict.beside or "")
    assert ("below 6 pairs there is no verdict" in (found.verdict.beside or "")) is (pairs < 6)


def test_in_blocks_by_ranges_every_two_levels_must_differ_one_way() -> None:
    trials = [Trial(level=level, value=1.0 + at + n / 10, block=str(n), row=1) for n in range(6) for at, level in enumerate("abc")]
    asked = Context(factor="clip", response="time", pair_by="block", evidence="ranges")
    assert analyse(trials, asked).verdict.answer == "clear"
    turned = [t if t.block != "2" or t.level == "a" else Trial(level="c" if t.level == "b" else "b", value=t.value, block="2", row=1) for t in trials]
    assert analyse(turned, asked).verdict.answer == "cannot_tell"


# --- slips, drift, advice -------------------------------------------------------------------------------------------------


def test_a_column_explains_only_beyond_what_its_number_of_values_would_by_luck() -> None:
    """Beside statsmodels' comparison of the models with and without the column."""
    from statsmodels.formula.api import ols
    from statsmodels.stats.anova import anova_lm

    from bendro.core.judgement.checks import _explained

    rng = np.random.default_rng(2)
    trials = [Trial(level="abcdef"[n % 6], value=float(n % 6 + rng.normal()), others={"wind": float(rng.integers(1, 9)), "hand": "lmr"[int(rng.integers(3))]}, row=n) for n in range(18)]
    frame = {"y": [t.value for t in trials], "level": [t.level for t in trials], "wind": [t.others["wind"] for t in trials], "hand": [t.others["hand"] for t in trials]}
    for name, term in (("wind", "wind"), ("hand", "C(hand)")):
        share, p, _ = _explained(trials, name)
        table = anova_lm(ols("y ~ C(level)", frame).fit(), ols(f"y ~ C(level) + {term}", frame).fit())
        assert p == pytest.approx(float(table["Pr(>F)"].iloc[1]), rel=1e-9)
        assert share == pytest.approx(1 - float(table["ssr"].iloc[1]) / float(table["ssr"].iloc[0]), rel=1e-9)


def test_advice_never_counts_beside_a_reading_that_a_slip_explains() -> None:
    found = ask({"a": [41.0, 43.0, 42.0], "b": [44.0, 17.0, 43.0]})
    odd = next(f for f in found.audit if f.code == "odd_reading")
    assert "inches for centimetres" in odd.says
    assert found.verdict.next.startswith("Look at that reading first. Keep it unless a fault was seen")
    assert found.verdict.act is not None
    assert found.verdict.act.kind == "trials"


@pytest.mark.parametrize("school", ["shuffle", "interval"])
def test_advice_counts_no_trials_where_readings_ran_out_of_room(school: Any) -> None:
    found = ask({"a": [">2.4", 1.0, 2.0], "b": [1.5, ">2.4", 0.8]}, evidence=school, cover="tape")
    assert found.verdict.answer == "cannot_tell"
    assert found.verdict.next == "Make the track or tape longer, or launch more gently, and run those again."


def test_by_ranges_more_trials_are_not_advised() -> None:
    found = ask({"a": [1.0, 1.4, 1.2, 1.6], "b": [1.5, 1.9, 1.3, 2.0]}, evidence="ranges")
    assert found.verdict.next.startswith("More repeats widen ranges")


def test_who_mixed_the_levels_is_not_told_to_mix_them() -> None:
    order = ["ab", "ba", "ab", "ba", "ab", "ba"]
    trials = [Trial(level=level, value=5.0 - 0.3 * n + (level == "b") * 0.1 * (n % 3 - 1), order=2 * n + at, row=2 * n + at, block=str(n)) for n, pair in enumerate(order) for at, level in enumerate(pair, 1)]
    drift = next(f for f in analyse(trials, Context(factor="f", response="r")).audit if f.code == "drift_with_order")
    assert drift.do.startswith("Rest between blocks, and check the band or the launcher; the levels were mixed")
    assert "drift_with_order" not in codes(analyse(trials, Context(factor="f", response="r", pair_by="block")))  # from block to block it may


KINDS: list[tuple[Kind, dict[str, Any]]] = [("two", {}), ("groups", {}), ("trend", {"at": (10.0, 20.0, 30.0)}), ("pairs", {}), ("blocks", {})]


@pytest.mark.parametrize(("kind", "more"), KINDS, ids=[k for k, _ in KINDS])
def test_what_is_foreseen_is_what_the_verdict_says(kind: Kind, more: dict[str, Any]) -> None:
    """Sixty tables of six repeats by the batch and by the whole of `analyse`: the shuffle's limit agrees but at the edge."""
    k = 2 if kind in ("two", "pairs") else 3
    tables = np.random.default_rng(8).normal(size=(60, k, 6)) + np.linspace(0, 1.8, k)[:, None]
    levels: list[Any] = list(more.get("at", "abc"))
    said = []
    for table in tables:
        trials = [Trial(level=levels[at], value=float(v) + 40, block=str(n), row=1) for at in range(k) for n, v in enumerate(table[at])]
        asked = Context(factor="f", response="r", pair_by="block" if kind in ("pairs", "blocks") else None)
        said.append(analyse(trials, asked).verdict.answer == "clear")
    foreseen = clear_of(kind, tables, "shuffle", **more)
    assert 10 < sum(said) < 60
    assert float(np.mean(foreseen == np.array(said))) >= 0.95


@pytest.mark.parametrize("levels", [3, 4, 5])
def test_a_best_in_the_middle_is_foreseen_as_the_verdict_says_it(levels: int) -> None:
    """Hills and valleys, with and without an end that may be as good: the batch against the whole of `analyse`."""
    at = [float(10 * n) for n in range(1, levels + 1)]
    rng = np.random.default_rng(levels)
    hill = 1 - (2 * np.linspace(0, 1, levels) - 1) ** 2
    tables = np.array([sign * size * hill[:, None] + rng.normal(size=(levels, 4)) for sign in (1, -1) for size in (1.5, 2.5, 4.0) for _ in range(12)])
    for first in ("slope", "bend"):
        said = []
        for table in tables:
            trials = [Trial(level=x, value=float(v) + 40, block=str(n), row=1) for x, row in zip(at, table, strict=True) for n, v in enumerate(row)]
            said.append(analyse(trials, Context(factor="f", response="r", expect="peak" if first == "bend" else None)).verdict.answer == "clear")
        foreseen = clear_of("trend", tables, "shuffle", at=at, first=first)  # type: ignore[arg-type]
        assert 10 < sum(said) < len(tables)
        assert float(np.mean(foreseen == np.array(said))) >= 0.94


def test_the_number_advised_is_the_least_with_which_four_of_five_would_be_clear() -> None:
    seen = Seen(kind="groups", means=(1.0, 1.4, 2.0), spreads=(0.8, 0.7, 0.9), scatter=0.85, repeats=4)
    wanted = seen.wanted("shuffle", 0.05)
    assert wanted in TRIED
    before = TRIED[TRIED.index(wanted) - 1]
    assert seen.share(wanted, "shuffle", 0.05) >= 0.8 > seen.share(before, "shuffle", 0.05)
    assert (seen.wanted("shuffle", 0.01) or 99) > wanted
    assert (seen.wanted("shuffle", 0.05, of=0.5) or 99) > 2 * wanted
    assert Seen(kind="two", means=(1.0, 1.01), spreads=(1.0, 1.0), scatter=1.0, repeats=4).wanted("shuffle", 0.05) is None


# --- survival -------------------------------------------------------------------------------------------------------------


def drops(*levels: tuple[float, int, int]) -> list[Trial]:
    return [Trial(level=at, outcome="survived" if n < kept else "failed", row=1) for at, kept, of in levels for n in range(of)]


def test_a_level_that_all_survived_is_not_beyond_the_limit() -> None:
    found = analyse(drops((1.0, 4, 4), (2.0, 0, 4), (3.0, 4, 4), (4.0, 0, 4)), Context(factor="height", response="outcome", factor_unit="m"))
    assert found.effect.kind == "survival"
    assert (found.effect.survival.half_between, found.effect.survival.half_height) == (None, None)
    assert "the limit is mixed" in (found.verdict.detail or "")


# --- odd tables -----------------------------------------------------------------------------------------------------------

ODD: list[tuple[str, list[Trial], dict[str, Any], str, str]] = [
    ("a step", rows({10.0: [41, 41.2, 40.8], 20.0: [41, 40.9, 41.1], 30.0: [70, 70.2, 69.8], 40.0: [71, 71.1, 70.9]}), {"factor_unit": "g"}, "clear", "There is a step between 20 g and 30 g"),
    ("a plateau", rows({10.0: [10, 10.2, 9.8], 20.0: [22, 22.1, 21.9], 30.0: [30, 30.1, 29.9], 40.0: [30.5, 30.6, 30.4]}), {"factor_unit": "g"}, "clear", "From 30 g on it hardly rises."),
    ("inverted survival", drops((1.0, 0, 4), (2.0, 2, 4), (3.0, 4, 4)), {"response": "outcome", "factor_unit": "m"}, "clear", "4 of 4 survived with 3 m"),
    ("one group to a level", [Trial(level=level, value=v, group=g, row=1) for level, g, vs in (("a", "Curlew", [1.0, 1.1, 1.2]), ("b", "Egret", [4.0, 4.1, 4.2])) for v in vs], {}, "leaning", "seems to be"),
    ("all bounds", rows({"a": [">2.4", ">2.4", ">2.4"], "b": [">2.4", ">2.4", ">2.4"]}), {}, "cannot_tell", "cannot tell"),
    ("equal readings", rows({1.0: [4, 4, 4], 2.0: [4, 4, 4], 3.0: [4, 4, 4]}), {}, "cannot_tell", "cannot tell"),
]


@pytest.mark.parametrize(("name", "trials", "more", "answer", "words"), ODD, ids=[o[0] for o in ODD])
def test_a_further_odd_table_gets_an_answer_that_a_person_would_give(name: str, trials: list[Trial], more: dict[str, Any], answer: str, words: str) -> None:
    v = analyse(trials, Context(**{"factor": "mass", "response": "distance", "unit": "m", **more})).verdict
    assert (v.answer, words in v.says) == (answer, True), v.says
    assert not (answer != "clear" and v.next.startswith("Stop"))
    assert ("Try a level between 20 g and 30 g to find where the step lies" in v.next) is (name == "a step")
