"""The verdict as it would be otherwise, and a pupil's range checked."""

from __future__ import annotations

import pytest

from bendro.core.analyse import analyse
from bendro.core.conclusion.what_if import WhatIf, if_so, in_words
from bendro.core.context import Context
from bendro.core.errors import CoreError
from bendro.core.judgement.pupil_sum import check_range
from bendro.core.trials import Trial

TRIALS = [
    Trial(level="a", value=1.0, row=1, group="Red"), Trial(level="a", value=1.2, row=2, group="Blue"), Trial(level="a", value=9.0, row=3, group="Red", kind="estimate"),
    Trial(level="b", value=2.0, row=4, group="Red"), Trial(level="b", value=2.2, row=5, group="Blue"), Trial(level="b", value=2.1, row=6, group="Blue", state="void", fault="slipped"),
]  # fmt: skip
ASKED = Context(factor="wing", response="distance", unit="m")


@pytest.mark.parametrize(("what", "rows", "says"), [
    (WhatIf(), [1, 2, 3, 4, 5, 6], ""),
    (WhatIf(without=(3, 5)), [1, 2, 4, 6], "without trials 3, 5"),
    (WhatIf(estimates=False), [1, 2, 4, 5, 6], "without estimates"),
    (WhatIf(groups=("Blue",)), [2, 5, 6], "only Blue"),
    (WhatIf(evidence="ranges", result="median", without=(3,)), [1, 2, 4, 5, 6], "judged by the ranges; the median as the result; without trial 3"),
])  # fmt: skip
def test_trials_are_left_out_and_the_school_changed_only_in_what_is_supposed(what: WhatIf, rows: list[int], says: str) -> None:
    left, asked = if_so(TRIALS, ASKED, what)
    assert [t.row for t in left] == rows
    assert (asked.evidence, asked.result) == (what.evidence or "shuffle", what.result or "mean")
    assert in_words(what) == says
    assert what.anything == bool(says)
    assert ASKED.evidence == "shuffle"


def test_without_the_odd_one_the_means_are_those_of_the_rest() -> None:
    left, asked = if_so(TRIALS, ASKED, WhatIf(without=(3,)))
    means = {s.level: s.mean for s in analyse(left, asked).levels}
    assert means == {"a": pytest.approx(1.1), "b": pytest.approx(2.1)}


@pytest.mark.parametrize(("answer", "slip"), [
    ("1.4", None), ("1.40", None), ("0.7", "half_range"), ("5.4", "largest_only"), ("4.0", "smallest_only"), ("9.4", "added"),
    ("3.4", "void_included"), ("14", "unit_slip"), ("3.3", None),
])  # fmt: skip
def test_a_pupils_range_is_marked_with_its_slip(answer: str, slip: str | None) -> None:
    """Readings 4.0, 5.4, 4.6 and a void 2.0: the range is 1.4 (worked by hand)."""
    found = check_range(answer, [4.0, 5.4, 4.6], [2.0], step=0.1)
    assert found.slip == slip
    assert found.right == (answer in ("1.4", "1.40"))
    assert found.working == ("range = largest − smallest = 5.4 − 4 = 1.4",)


def test_there_is_no_range_of_nothing() -> None:
    with pytest.raises(CoreError, match="no kept reading"):
        check_range("1", [], step=0.1)
