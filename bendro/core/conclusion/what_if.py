"""The same trials judged otherwise: beside the verdict, never instead of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from pydantic import BaseModel, ConfigDict, Field

from ..context import Context
from ..judgement.deciding import School
from ..statistics.describe import ResultOf
from ..trials import Trial


class WhatIf(BaseModel):
    """evidence, result: another school, None for the plan's. without: trials left out, by their number. estimates: whether readings that
    were estimated count. groups: only these, all where it is empty."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    evidence: School | None = None
    result: ResultOf | None = None
    without: tuple[int, ...] = Field(default=(), max_length=200)
    estimates: bool = True
    groups: tuple[str, ...] = Field(default=(), max_length=100)

    @property
    def anything(self) -> bool:
        """Whether it asks for something else than the plan."""
        return self != WhatIf()


def if_so(trials: Sequence[Trial], asked: Context, what: WhatIf) -> tuple[list[Trial], Context]:
    """The trials that are left and the question as it is then asked."""
    left = [
        t
        for t in trials
        if t.row not in what.without and (what.estimates or t.kind != "estimate") and (not what.groups or (t.group or "") in what.groups)
    ]
    return left, replace(asked, evidence=what.evidence or asked.evidence, result=what.result or asked.result)


def in_words(what: WhatIf) -> str:
    """What is supposed, as a heading: "the median for the mean, without trial 7"."""
    schools = {"shuffle": "judged by the shuffle", "interval": "judged by the interval", "ranges": "judged by the ranges"}
    parts = [schools[what.evidence]] if what.evidence else []
    parts += [f"the {what.result} as the result"] if what.result else []
    if what.without:
        numbers = ", ".join(str(n) for n in sorted(what.without))
        parts.append(f"without {'trial' if len(what.without) == 1 else 'trials'} {numbers}")
    parts += [] if what.estimates else ["without estimates"]
    parts += [f"only {', '.join(what.groups)}"] if what.groups else []
    return "; ".join(parts)
