"""Pieces as SVG in millimetres, for a cutting machine or a drawing program: what is cut, folded, drawn and written on layers of their own."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from xml.etree import ElementTree as Xml

from bendro.core.templates.made import Cutout
from bendro.core.templates.piece import Line, LineKind

#: Layer of each kind of line; colours that a machine's program tells apart, with the dashes that the paper has.
LAYERS: dict[str, tuple[tuple[LineKind, ...], str]] = {"cut": (("cut", "hole"), "#ff0000"), "fold": (("up", "down"), "#0000ff"), "mark": (("mark",), "#000000")}
DASHES: dict[LineKind, str] = {"up": "4 2", "down": "6 1.5 1 1.5"}
#: On one file for a machine the pieces lie in rows so wide, so far apart, mm.
BED, APART = 400.0, 4.0


def path_of(line: Line) -> str:
    """Path data of a line (SVG's syntax), mm to a thousandth."""
    if line.kind == "hole":
        (x, y), r = line.points[0], line.points[1][0] - line.points[0][0]
        return f"M{x - r:.3f} {y:.3f}a{r:.3f} {r:.3f} 0 1 0 {2 * r:.3f} 0a{r:.3f} {r:.3f} 0 1 0 {-2 * r:.3f} 0z"
    return "M" + "L".join(f"{x:.3f} {y:.3f}" for x, y in line.points) + ("z" if line.closed else "")


def template_svg(cutouts: Sequence[Cutout], group: str) -> str:
    """One file with every piece as often as it is cut, laid in rows. group: written on each, "" for none."""
    places = list(_rows([c for c in cutouts for _ in range(c.number)]))
    width = max((x + c.piece.width for c, x, _ in places), default=0.0)
    height = max((y + c.piece.height for c, _, y in places), default=0.0)
    svg = Xml.Element(
        "svg", {"xmlns": "http://www.w3.org/2000/svg", "width": f"{width:.3f}mm", "height": f"{height:.3f}mm", "viewBox": f"0 0 {width:.3f} {height:.3f}"}
    )
    for name, (kinds, colour) in LAYERS.items():
        layer = Xml.SubElement(svg, "g", {"id": name, "fill": "none", "stroke": colour, "stroke-width": "0.1"})
        for c, x, y in places:
            at = Xml.SubElement(layer, "g", {"transform": f"translate({x:.3f} {y:.3f})"})
            for line in c.piece.lines:
                if line.kind in kinds:
                    Xml.SubElement(at, "path", {"d": path_of(line), **({"stroke-dasharray": DASHES[line.kind]} if line.kind in DASHES else {})})
    words = Xml.SubElement(svg, "g", {"id": "words", "font-family": "sans-serif", "fill": "#000000"})
    for c, x, y in places:
        at = Xml.SubElement(words, "g", {"transform": f"translate({x:.3f} {y:.3f})"})
        label = " · ".join([*c.labels, *([group] if group else [])])
        if label:
            Xml.SubElement(at, "text", {"x": f"{c.tag.x:.2f}", "y": f"{c.tag.y:.2f}", "font-size": f"{c.tag.group:.2f}"}).text = label
        for note in c.piece.notes:
            turn = {"transform": f"rotate({note.turn:g} {note.at[0]:.2f} {note.at[1]:.2f})"} if note.turn else {}
            where = {"x": f"{note.at[0]:.2f}", "y": f"{note.at[1] + note.tall * 0.35:.2f}", "font-size": f"{note.tall:g}", "text-anchor": "middle"}
            Xml.SubElement(at, "text", {**where, **turn}).text = note.text
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + Xml.tostring(svg, encoding="unicode") + "\n"


def _rows(cutouts: Iterable[Cutout]) -> Iterable[tuple[Cutout, float, float]]:
    x = y = high = 0.0
    for c in cutouts:
        if x and x + c.piece.width > BED:
            x, y, high = 0.0, y + high + APART, 0.0
        yield c, x, y
        x, high = x + c.piece.width + APART, max(high, c.piece.height)
