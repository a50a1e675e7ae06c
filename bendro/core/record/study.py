"""The record of one study, whole: what every conclusion is drawn from."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from ..draft import Draft
from ..planning.stock import Stock
from ..words import said
from .given import Deriving
from .seen import TrialSeen


@dataclass(frozen=True, slots=True, kw_only=True)
class VersionTold:
    """A version of a device as it was written down. since: the number of the version it was made from. changed: what differs from that one;
    broken: the rules of the plan that it does not keep, in sentences; properties: as written, by name; measured: lengths of what was cut, as written, by name; mass in g and cost in play money, None where not written."""

    device: str
    number: int
    since: int | None = None
    changed: tuple[str, ...] = ()
    why: str = ""
    failed: bool = False
    mass: float | None = None
    cost: float | None = None
    broken: tuple[str, ...] = ()
    properties: Mapping[str, str] = field(default_factory=dict)
    measured: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class StudyRecord:
    """trials: in the order of release. agreed: the plan as it stood before it was first changed with trials kept, None where it was not. work:
    the derived measures, ready; None where nothing is worked out."""

    draft: Draft
    trials: Sequence[TrialSeen]
    stock: Stock
    title: str = ""
    agreed: Draft | None = None
    versions: tuple[VersionTold, ...] = ()
    work: Deriving | None = None

    @property
    def counted(self) -> list[TrialSeen]:
        """Trials that count."""
        return [t for t in self.trials if t.counts]

    def line_of(self) -> dict[str, VersionTold]:
        """In design rounds, the versions by their number as levels are called; of the device with most versions where there are several."""
        devices = [v.device for v in self.versions]
        if not devices:
            return {}
        device = max(dict.fromkeys(devices), key=devices.count)
        return {str(v.number): v for v in self.versions if v.device == device}

    def used_by(self, name: str) -> VersionTold | None:
        """The version of a device that its counted trials used: the one recorded last, else the newest that is written down."""
        mine = {v.number: v for v in self.versions if said(v.device) == said(name)}
        used = [t.version for t in self.counted if t.version is not None and said(t.made_by or t.level) == said(name)]
        if used and used[-1] in mine:
            return mine[used[-1]]
        return mine[max(mine)] if mine else None
