"""The devices that have templates and a build sheet: one file for each beside this one, checked against what stands here."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import cache
from importlib import resources
from typing import Literal

import yaml
from pydantic import BaseModel, ConfigDict, Field, model_validator

from ..errors import PlanRefused
from ..families import family
from . import flying, rockets, standing
from .figures import FIGURES
from .piece import Piece
from .sizes import Size, Sizes

Cutting = Callable[[Sizes], list[Piece]]
PIECES: Mapping[str, Cutting] = {
    "rotor": flying.rotor,
    "seed": flying.seed,
    "hoops": flying.hoops,
    "ring-wing": flying.ring_wing,
    "flat-wing": flying.flat_wing,
    "canopy": flying.canopy,
    "paper-rocket": rockets.paper_rocket,
    "cart": standing.cart,
    "sled": standing.sled,
    "card-arm": standing.card_arm,
    "disc": standing.disc,
    "card-turbine": standing.card_turbine,
    "pod": standing.pod,
}


class Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Said3(Part):
    """The same step said at three reading levels."""

    first: str
    middle: str
    senior: str

    def at(self, level: Literal["first", "middle", "senior"]) -> str:
        return {"first": self.first, "middle": self.middle, "senior": self.senior}[level]


class Step(Part):
    """minutes: what it takes a class (common practice)."""

    minutes: float = Field(gt=0, le=30)
    says: Said3


class Slip(Part):
    """A slip that ruins it. at: the step at which it happens, 1 first. right, wrong: pictures of `figures.FIGURES`."""

    says: str
    at: int = Field(ge=1, le=10)
    right: str
    wrong: str


class Device(Part):
    """also: sizes that are known by another name in a plan, size -> names. sheet: what is cut from."""

    id: str = Field(pattern="^[a-z-]+$")
    family: str
    name: str
    place: int
    sheet: str = "paper"
    sizes: tuple[Size, ...] = Field(min_length=2)
    also: dict[str, tuple[str, ...]] = {}
    parts: tuple[str, ...] = Field(min_length=1)
    tools: tuple[str, ...] = Field(min_length=1)
    steps: tuple[Step, ...] = Field(min_length=6, max_length=10)
    slips: tuple[Slip, ...] = Field(min_length=2, max_length=3)
    look: tuple[str, ...] = Field(min_length=1)
    cautions: tuple[str, ...] = Field(min_length=1)

    @model_validator(mode="after")
    def _known(self) -> Device:
        if self.id not in PIECES:
            raise ValueError(f"{self.id}: no pieces are drawn for it")
        if any(slip.at > len(self.steps) for slip in self.slips):
            raise ValueError(f"{self.id}: a slip happens at a step that there is not")
        if any(name not in FIGURES for slip in self.slips for name in (slip.right, slip.wrong)):
            raise ValueError(f"{self.id}: a slip has a picture that is not drawn")
        return self

    @property
    def minutes(self) -> float:
        return sum(step.minutes for step in self.steps)


@cache
def devices() -> Mapping[str, Device]:
    """Every device, in the order of the families and their places."""
    folder = resources.files(__package__) / "devices"
    read = [Device.model_validate(yaml.safe_load(f.read_text(encoding="utf-8"))) for f in folder.iterdir() if f.name.endswith(".yaml")]
    return {d.id: d for d in sorted(read, key=lambda d: (family(d.family).place, d.place))}


def device(device_id: str) -> Device:
    """One device. Raises PlanRefused `device_unknown`."""
    found = devices().get(device_id)
    if found is None:
        raise PlanRefused(f"“{device_id[:40]}” is not one of the devices that have a template.", code="device_unknown", where="device")
    return found


def devices_of(family_id: str) -> tuple[Device, ...]:
    return tuple(d for d in devices().values() if d.family == family_id)
