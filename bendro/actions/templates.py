"""What is cut from paper for a study: its pieces laid on sheets, and how its device is built."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from uuid import UUID

from bendro.core.draft import Draft
from bendro.core.templates.as_cut import alike
from bendro.core.templates.lane import lane_pieces
from bendro.core.templates.made import Cutout, Templates, tagged, templates
from bendro.core.templates.sheets import PAPERS, Corrected, Layout, PaperName, corrected, laid
from bendro.files.photo import small_photo
from bendro.store.errors import NotFound
from bendro.store.owned import Owned
from bendro.store.tables import SheetPicture, Study

from .building import versions_of
from .errors import Refused
from .plans import plan_of


@dataclass(frozen=True, slots=True, kw_only=True)
class OnPaper:
    """found: what one group cuts; lane: what is cut once for the class. layout, lane_layout: on the paper asked for; `Placed.n` counts the pieces
    of `found.cutouts`, or of `lane`. sheets: paper -> how many one group takes, by the quick way of laying."""

    found: Templates
    lane: tuple[Cutout, ...]
    groups: tuple[str, ...]
    layout: Layout
    lane_layout: Layout
    sheets: dict[PaperName, int]


def on_paper(owned: Owned, study_id: UUID, *, paper: PaperName, margin: float, line: float, square: float) -> OnPaper:
    """line, square: what the ruler reads of an uncorrected page's line of 100 mm and of the height of its square, mm. Raises NotFound, PlanRefused."""
    draft, found = _templates(owned, study_id)
    by = corrected(line, square)
    lane = tuple(Cutout(piece=p, labels=(), tag=replace(tagged(p, "", 0)[1], level=0.0, group=0.0), number=p.count) for p in lane_pieces(draft))
    return OnPaper(
        found=found,
        lane=lane,
        groups=tuple(g.strip() for g in draft.groups if g.strip()),
        layout=_laid(found.cutouts, paper, margin, by),
        lane_layout=_laid(lane, paper, margin, by),
        sheets={name: len(_laid(found.cutouts, name, margin, by, quick=True).sheets) for name in PAPERS},
    )


def cutouts_of(owned: Owned, study_id: UUID, piece: int | None) -> Sequence[Cutout]:
    """Every piece of one group, or the one asked for by its place. Raises NotFound."""
    _, found = _templates(owned, study_id)
    if piece is None:
        return found.cutouts
    if not 0 <= piece < len(found.cutouts):
        raise NotFound("piece")
    return [replace(found.cutouts[piece], number=1)]


MOST_PICTURES = 6


def pictures_of(owned: Owned, study_id: UUID) -> list[UUID]:
    """The pictures of the school's own build sheet, in the order in which they were added. Raises NotFound."""
    owned.get(Study, study_id)
    found = owned.all(owned.select(SheetPicture).where(SheetPicture.study_id == study_id))
    return [p.id for p in sorted(found, key=lambda p: (p.taken_at, str(p.id)))]


def put_picture(owned: Owned, study_id: UUID, picture_id: UUID, data: bytes, *, now: datetime) -> None:
    """Add a picture; the same one again changes nothing. Raises PhotoRefused, Refused, NotFound."""
    owned.get(Study, study_id, lock="update")  # they are counted one at a time
    had = pictures_of(owned, study_id)
    if picture_id in had:
        return
    if len(had) >= MOST_PICTURES:
        raise Refused(f"A build sheet has room for {MOST_PICTURES} pictures. Remove one first.", code="pictures_many", where="picture")
    owned.new(SheetPicture, id=picture_id, study_id=study_id, jpeg=small_photo(data).jpeg, taken_at=now)


def picture_of(owned: Owned, study_id: UUID, picture_id: UUID) -> SheetPicture:
    """One of them. Raises NotFound."""
    found = owned.get(SheetPicture, picture_id)
    if found.study_id != study_id:
        raise NotFound("picture")
    return found


def drop_picture(owned: Owned, study_id: UUID, picture_id: UUID) -> None:
    """Take it away; where there is none, nothing happens."""
    found = owned.find(SheetPicture, picture_id)
    if found is not None and found.study_id == study_id:
        owned.session.delete(found)


def _templates(owned: Owned, study_id: UUID) -> tuple[Draft, Templates]:
    draft = plan_of(owned.get(Study, study_id))
    return draft, templates(draft, _alike(owned, study_id))


def _alike(owned: Owned, study_id: UUID) -> dict[str, str]:
    """The properties that every version of the study's devices has, with one and the same value."""
    return alike(v.told.properties for v in versions_of(owned, study_id) if v.told is not None and not v.told.failed)


def _laid(cutouts: Sequence[Cutout], paper: PaperName, margin: float, by: Corrected, *, quick: bool = False) -> Layout:
    """Every piece as often as it is cut; what lies where counts the cutouts again."""
    of = [i for i, c in enumerate(cutouts) for _ in range(c.number)]
    made = laid([(cutouts[i].piece.kind, cutouts[i].piece.width, cutouts[i].piece.height) for i in of], paper, margin, by, quick=quick)
    return replace(made, sheets=tuple(tuple(replace(p, n=of[p.n]) for p in sheet) for sheet in made.sheets))
