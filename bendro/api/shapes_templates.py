"""What is told of templates and build sheets."""

from typing import Literal

from bendro.actions.templates import OnPaper
from bendro.core.building.drawing import Drawing
from bendro.core.templates.device import Device, Said3
from bendro.core.templates.figures import FIGURES
from bendro.core.templates.made import Cutout, SizeShown, Tag
from bendro.core.templates.piece import LineKind, Note, Ruled
from bendro.core.templates.sheets import FOOT, HEAD, SQUARE, Layout
from bendro.files.template_svg import path_of

from .shapes import Answered, ProblemOut


class LineOut(Answered):
    """d: path data, mm on the piece."""

    kind: LineKind
    d: str


class PieceOut(Answered):
    """One piece at true size, mm. labels: the levels it is for; number: so many are cut for a group."""

    kind: str
    labels: list[str]
    number: int
    width: float
    height: float
    lines: list[LineOut]
    notes: list[Note]
    ruled: Ruled | None
    tag: Tag


class StepOut(Answered):
    minutes: float
    says: Said3


class SlipOut(Answered):
    """A slip that ruins it, drawn right and wrong."""

    says: str
    at: int
    right: Drawing
    wrong: Drawing


class BuildSheetOut(Answered):
    """How a device is built. minutes: for a class, in all."""

    name: str
    minutes: float
    sheet: str
    parts: list[str]
    tools: list[str]
    steps: list[StepOut]
    slips: list[SlipOut]
    look: list[str]
    cautions: list[str]


class OfferedOut(Answered):
    id: str
    name: str


class TemplatesOut(Answered):
    """The templates of a study. pieces, lane: what `layout` and `lane_layout` place by number. sheets: paper -> sheets for one group. shared: one set serves the class. head, foot, square:
    what every page keeps for its words, its line and its square, mm."""

    device: str
    offered: list[OfferedOut]
    varied: str
    says: str
    sizes: list[SizeShown]
    notes: list[str]
    problems: list[ProblemOut]
    groups: list[str]
    shared: bool
    pieces: list[PieceOut]
    lane: list[PieceOut]
    layout: Layout
    lane_layout: Layout
    sheets: dict[str, int]
    head: float
    foot: float
    square: float
    build: BuildSheetOut | None


Paper = Literal["a4", "a3", "letter", "legal", "tabloid"]


def _piece(c: Cutout) -> PieceOut:
    p = c.piece
    lines = [LineOut(kind=line.kind, d=path_of(line)) for line in p.lines]
    return PieceOut(kind=p.kind, labels=list(c.labels), number=c.number, width=p.width, height=p.height, lines=lines, notes=list(p.notes), ruled=p.ruled, tag=c.tag)


def build_out(d: Device) -> BuildSheetOut:
    return BuildSheetOut(
        name=d.name, minutes=d.minutes, sheet=d.sheet, parts=list(d.parts), tools=list(d.tools),
        steps=[StepOut(minutes=s.minutes, says=s.says) for s in d.steps],
        slips=[SlipOut(says=s.says, at=s.at, right=FIGURES[s.right](), wrong=FIGURES[s.wrong]()) for s in d.slips],
        look=list(d.look), cautions=list(d.cautions),
    )  # fmt: skip


def templates_out(made: OnPaper) -> TemplatesOut:
    found = made.found
    return TemplatesOut(
        device=found.device.id if found.device else "",
        offered=[OfferedOut(id=d.id, name=d.name) for d in found.offered],
        varied=found.varied, says=found.says, sizes=list(found.sizes), notes=list(found.notes),
        problems=[ProblemOut.model_validate(p) for p in found.problems],
        groups=list(made.groups),
        shared=found.shared,
        pieces=[_piece(c) for c in found.cutouts], lane=[_piece(c) for c in made.lane],
        layout=made.layout, lane_layout=made.lane_layout, sheets=dict(made.sheets),
        head=HEAD, foot=FOOT, square=SQUARE,
        build=build_out(found.device) if found.device else None,
    )  # fmt: skip
