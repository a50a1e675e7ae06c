"""What the groups of the demo built: one device for each level, or the one that all of them use; sizes as they would be typed."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime, timedelta

from bendro.actions.building import put_version
from bendro.core.building.version import Property, VersionDraft
from bendro.core.families import family
from bendro.store.owned import Owned
from bendro.store.tables import DeviceVersion, Study

from .making import GROUPS, Part, demo_id

#: By study: its family, what every device of it has, and for each device what it has of its own with its mass in g.
_BUILT: dict[str, tuple[str, dict[str, str], list[tuple[dict[str, str], str]]]] = {
    "dyke": ("launcher", {"arm length": "40 cm", "pivot position": "12 cm", "release angle": "42°", "projectile": "felt bag"}, [({}, "460 g")]),
    "glider": ("glider", {"wing span": "24 cm", "body length": "22 cm"}, [({"nose clay": f"{n} g"}, f"{14 + n} g") for n in (0, 1, 2, 3)]),
    "medicine": (
        "parachute",
        {"canopy side": "40 cm", "line length": "50 cm", "number of lines": "8", "canopy material": "kite cloth"},
        [({"spill-hole width": f"{n} cm"}, f"{m} g") for n, m in ((0, 19), (4, 19), (8, 18), (12, 17))],
    ),
    "sled": ("vehicle", {"body length": "16 cm"}, [({"runner surface": s}, "85 g") for s in ("card", "felt", "plastic film", "sandpaper")]),
    "seed-wing": ("rotor", {"blade length": "9 cm", "blade width": "3 cm", "tail mass": "0.5 g"}, [({"tip cut": f"{n} cm"}, "3 g") for n in (0, 1, 2)]),
    "hoist": ("turbine", {"blade number": "4", "blade area": "40 cm²", "blade material": "card"}, [({"blade pitch": f"{n}°"}, "62 g") for n in (10, 20, 30, 40)]),
    "top": ("spinner", {"added mass": "12 g"}, [({"ring radius": f"{n} cm"}, "38 g") for n in (2, 3, 4)]),
}  # fmt: skip


#: What the ruler said of some of them once they were cut.
_MEASURED: dict[str, list[dict[str, str]]] = {"seed-wing": [{}, {"tip cut": "1.0 cm"}, {"tip cut": "1.95 cm"}]}


def parts() -> list[Part]:
    """A part for each study: known to be there by its first device."""
    return [(DeviceVersion, demo_id(key, "device", 0), _maker(key)) for key in _BUILT]


def _maker(key: str) -> Callable[[Owned, datetime], None]:
    def make(owned: Owned, now: datetime) -> None:
        kind, same, devices = _BUILT[key]
        study = owned.get(Study, demo_id(key))
        for i, (own, mass) in enumerate(devices):
            properties = [Property(name=k, value=v) for k, v in {**own, **same}.items()]
            measured = [Property(name=k, value=v) for k, v in _MEASURED.get(key, [{}] * len(devices))[i].items()]
            draft = VersionDraft(properties=properties, measured=measured, mass=mass, checks=list(family(kind).build_checks))
            put_version(
                owned,
                study.id,
                demo_id(key, "device", i),
                device=GROUPS[i],
                draft=draft,
                revision=0,
                withdrawn=False,
                now=min(now, study.created_at + timedelta(minutes=10 + i)),
            )

    return make
