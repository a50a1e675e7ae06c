"""A study as an OpenDocument spreadsheet: a sheet each for trials, levels, plan and materials, with formulas for the means, so that pupils
see how they come about. Written with odfpy; source of the form: OpenDocument v1.2, part 2 (OpenFormula)."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass

from odf.opendocument import OpenDocumentSpreadsheet
from odf.table import Table, TableCell, TableRow
from odf.text import P

Cell = str | float | int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Formula:
    """A cell that is worked out: the formula in OpenFormula, and the value that it gives, None where it gives none."""

    text: str
    value: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """A sheet's name and its rows from the top."""

    name: str
    rows: Sequence[Sequence[Cell | Formula]]


def ods(sheets: Sequence[Sheet]) -> bytes:
    """The spreadsheet as a file."""
    document = OpenDocumentSpreadsheet()
    for sheet in sheets:
        table = Table(name=sheet.name)
        for row in sheet.rows:
            made = TableRow()
            for cell in row:
                made.addElement(_cell(cell))
            table.addElement(made)
        document.spreadsheet.addElement(table)
    out = io.BytesIO()
    document.save(out)
    return out.getvalue()


def _cell(cell: Cell | Formula) -> TableCell:
    if isinstance(cell, Formula):
        if cell.value is None:
            return TableCell(formula=f"of:={cell.text}")
        return _shown(TableCell(formula=f"of:={cell.text}", valuetype="float", value=repr(cell.value)), f"{cell.value:.6g}")
    if cell is None or cell == "":
        return TableCell()
    if isinstance(cell, str):
        return _shown(TableCell(valuetype="string"), cell)
    return _shown(TableCell(valuetype="float", value=repr(cell)), f"{cell:g}")


def _shown(cell: TableCell, text: str) -> TableCell:
    cell.addElement(P(text=text))
    return cell


def column(n: int) -> str:
    """The letters of a column, 0 for A."""
    letters = ""
    n += 1
    while n:
        n, rest = divmod(n - 1, 26)
        letters = chr(65 + rest) + letters
    return letters
