"""The open trial table: CSV (RFC 4180, UTF-8, header row) in and out. Reads bytes and text, never a path."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Literal, cast

from bendro.core.errors import ReadingRefused, TableRefused
from bendro.core.readings import Reading, convert, find_unit, read, write
from bendro.core.readings.units import quantities_of
from bendro.core.trials import Level, State, Trial

RESERVED = ("trial", "block", "group", "device", "person", "state", "fault", "note", "outcome")
#: So many lines at most stand above a header.
HEADER_WITHIN = 4
MAX_BYTES = 5_000_000
MAX_ROWS = 50_000
MAX_COLUMNS = 100
#: At least this share of numbers makes a column numeric, so that a stray word in it is asked about and not taken as a name.
MOSTLY = 0.8
#: A number with a decimal comma; where a table has one, all its numbers are read so, and "1.250" is asked about.
_COMMA_NUMBER = re.compile(r"(?<![\d.,])\d+,\d+(?![\d.,])")
_HEADER_UNIT = re.compile(r"^(?P<name>.*?)\s*\((?P<unit>[^()]*)\)\s*$")
#: A spreadsheet would run a cell that starts like this; a quote in front makes it text, and is taken off when read again.
#: What a spreadsheet would run, or what hides it; with the apostrophes before it, so that each is taken away as it was added.
#: The wide forms are signs as well to some spreadsheets.
_FORMULA = re.compile(r"'*[=+\-@\t\r\n＝＋－＠]")
_NUMBER = re.compile(r"[+-]?[\d.,]+(?:[eE][+-]?\d+)?")


@dataclass(frozen=True, slots=True)
class Column:
    header: str
    name: str
    unit: str | None


@dataclass(frozen=True, slots=True)
class Table:
    """A parsed table. rows: cells by header, stripped; lines: line in the file where each row starts (header is 1). notes: what was not taken for
    a trial, in sentences."""

    columns: tuple[Column, ...]
    rows: tuple[Mapping[str, str], ...]
    lines: tuple[int, ...]
    decimal_comma: bool
    notes: tuple[str, ...] = ()

    def column(self, wanted: str) -> Column:
        """By name or whole header, capitals ignored. Raises TableRefused `column_unknown`."""
        for c in self.columns:
            if wanted.strip().casefold() in (c.header.casefold(), c.name.casefold()):
                return c
        raise TableRefused(
            f"There is no column “{wanted}”. The columns are {', '.join(c.header for c in self.columns)}.",
            code="column_unknown",
            where="header",
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class TableTrials:
    """Trials taken from a table for one factor and one response."""

    trials: tuple[Trial, ...]
    factor: Column
    response: Column
    factor_unit: str | None
    unit: str | None
    skipped: tuple[str, ...] = ()
    texts: Mapping[int, str] = field(default_factory=dict)  # row -> reading as written


def parse_table(data: bytes | str) -> Table:
    """Bytes or text -> table. Raises TableRefused with the line at fault."""
    text = _decode(data)
    # a title may stand above the header, so the line with most separators tells
    first = max(text.lstrip("\r\n").split("\n", HEADER_WITHIN)[:HEADER_WITHIN], key=lambda line: max(_outside_quotes(line, d) for d in ",;\t"))
    delimiter = max(",;\t", key=lambda d: _outside_quotes(first, d)) if any(_outside_quotes(first, d) for d in ",;\t") else ","
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)
    try:
        lines = [(reader.line_num, [c.strip() for c in cells]) for cells in reader]
    except csv.Error as why:
        raise TableRefused(
            f"Line {reader.line_num} cannot be read as CSV: a quotation mark is opened and not closed, or stands inside a cell.",
            code="table_quotes",
            where=f"row {reader.line_num}",
        ) from why
    lines = [(n, cells) for n, cells in lines if any(cells)]
    if not lines:
        raise TableRefused("The table is empty. It needs a header row and a row for each trial.", code="table_empty", where="file")
    lines, notes = _below_title(lines)
    head = [_unescape(h) for h in lines[0][1]]
    body, more = _without_headers(lines[1:], lines[0][1])
    columns, body, told = _with_units(_header(head), body)
    notes += more + told
    if len(body) > MAX_ROWS:
        raise TableRefused(f"The table has {len(body)} rows; at most {MAX_ROWS} can be read.", code="table_too_long", where="file")
    rows = []
    for number, cells in body:
        if any(cells[len(columns) :]) or (len(cells) < len(list(columns)) and len(cells) == 1):
            raise TableRefused(
                f"Row {number} has {len(cells)} cells and the header {len(columns)}. Check for a separator inside a cell.",
                code="row_length",
                where=f"row {number}",
            )
        padded = cells + [""] * (len(columns) - len(cells))
        rows.append({c.header: _unescape(v) for c, v in zip(columns, padded, strict=False)})
    commas = delimiter != "," and any(_COMMA_NUMBER.search(cell) for row in rows for cell in row.values())
    return Table(columns=columns, rows=tuple(rows), lines=tuple(n for n, _ in body), decimal_comma=commas, notes=tuple(notes))


Lines = list[tuple[int, list[str]]]


def _below_title(lines: Lines) -> tuple[Lines, list[str]]:
    """Without what stands above the header: lines of one cell, while the next has several."""
    above: list[str] = []
    while len(lines) > 1 and len(above) < HEADER_WITHIN and sum(map(bool, lines[0][1])) == 1 and sum(map(bool, lines[1][1])) > 1:
        above.append(next(c for c in lines[0][1] if c))
        lines = lines[1:]
    return lines, [f"“{a[:60]}” stands above the header and is taken for a title." for a in above]


def _without_headers(body: Lines, header: Sequence[str]) -> tuple[Lines, list[str]]:
    """Without the header where it is written again, as on every printed page."""
    own = [c.casefold() for c in header if c]
    rest = [(n, cells) for n, cells in body if [c.casefold() for c in cells if c] != own]
    gone = len(body) - len(rest)
    return rest, [f"The header is written again in {gone} row{'s' if gone > 1 else ''}, which {'are' if gone > 1 else 'is'} no trial."] if gone else []


def _with_units(columns: tuple[Column, ...], body: Lines) -> tuple[tuple[Column, ...], Lines, list[str]]:
    """A row of units under the header belongs to it."""
    if not body:
        return columns, body, []
    bare = [c.strip("()[] ") for c in body[0][1]]
    units = [u for u in bare if u]
    if not units or not all(quantities_of(u) for u in units) or any(any(ch.isdigit() for ch in u.replace("²", "").replace("³", "")) for u in units):
        return columns, body, []
    named = tuple(Column(header=c.header, name=c.name, unit=bare[i] if i < len(bare) and bare[i] else c.unit) for i, c in enumerate(columns))
    return named, body[1:], ["The row of units under the header is taken as the units."]


#: Columns in which one name is often written once for all rows below it.
_NAMES = ("group", "device", "person", "block")


def merged(table: Table, factor: Column) -> tuple[Column, int, str] | None:
    """A column in which most rows are empty below a name, as merged cells of a sheet come out: with how many rows are empty and the first name.
    None where there is none."""
    for c in table.columns:
        if c.header != factor.header and c.name.casefold() not in _NAMES:
            continue
        cells = [row[c.header] for row in table.rows]
        empty = sum(not v for v in cells)
        if cells and cells[0] and empty and len(set(cells) - {""}) < len(cells) / 2 and empty >= len(cells) / 3:
            return c, empty, cells[0]
    return None


def filled_down(table: Table, column: Column) -> Table:
    """The table with each empty cell of a column as the one above it."""
    rows, last = [], ""
    for row in table.rows:
        last = row[column.header] or last
        rows.append({**row, column.header: last})
    return replace(table, rows=tuple(rows))


def _outside_quotes(line: str, mark: str) -> int:
    return re.sub(r'"[^"]*"', "", line).count(mark)


def _decode(data: bytes | str) -> str:
    if isinstance(data, str):
        return data.removeprefix("\ufeff")
    if len(data) > MAX_BYTES:
        raise TableRefused(
            f"The file has {len(data) / 1e6:.1f} MB; a trial table has at most {MAX_BYTES / 1e6:.0f} MB. "
            "Keep only the columns that are needed.",
            code="table_too_large",
            where="file",
        )
    if b"\x00" in data[:4096]:
        raise TableRefused(
            "This is not a CSV file: it has bytes that text cannot have. Save the sheet as “CSV UTF-8”.",
            code="table_encoding",
            where="file",
        )
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as why:
        line = data[: why.start].count(b"\n") + 1
        raise TableRefused(
            f"Line {line} has a character that is not UTF-8. Save the sheet as “CSV UTF-8” and read it again.",
            code="table_encoding",
            where=f"row {line}",
        ) from why


def _header(cells: Sequence[str]) -> tuple[Column, ...]:
    while cells and not cells[-1]:
        cells = cells[:-1]
    if len(cells) > MAX_COLUMNS:
        raise TableRefused(
            f"The header has {len(cells)} columns; at most {MAX_COLUMNS} can be read.", code="header_too_wide", where="row 1"
        )
    made: list[Column] = []
    for at, header in enumerate(cells, 1):
        if not header:
            raise TableRefused(f"Column {at} has no name in the header.", code="header_blank", where=f"row 1, column {at}")
        m = _HEADER_UNIT.match(header)
        name, unit = (m["name"].strip(), m["unit"].strip() or None) if m and m["name"].strip() else (header, None)
        if any(c.name.casefold() == name.casefold() for c in made):
            raise TableRefused(
                f"The header has “{name}” twice. Give each column its own name.", code="header_twice", where=f"row 1, column {at}"
            )
        made.append(Column(header=header, name=name, unit=unit))
    return tuple(made)


def take_trials(
    table: Table,
    factor: str,
    response: str,
    *,
    treat_as: Literal["number", "group"] | None = None,
    skip_bad: bool = False,
    also: Iterable[str] = (),
    void_rows: Collection[int] = (),
) -> TableTrials:
    """The trials for one factor and one response. also: further columns that must be numbers where they can be. void_rows: lines
    that are void besides those that say so.

    Raises TableRefused for the first bad cell, named by row and column, unless skip_bad; then bad rows are left out and listed.
    """
    factor_column, response_column = table.column(factor), table.column(response)
    if factor_column == response_column:
        raise TableRefused("The factor and the response are the same column.", code="same_column", where="header")
    wanted = [table.column(c) for c in also]
    bad: list[TableRefused] = []
    states = _states(table, void_rows, bad, skip_bad)
    levels, factor_unit = _levels(table, factor_column, states, treat_as, bad, skip_bad)
    is_outcome = response_column.name.casefold() == "outcome"
    readings, unit = ({}, None) if is_outcome else _readings(table, response_column, states, bad, skip_bad)
    others = _others(table, {factor_column.header, response_column.header}, wanted)
    trials, texts = [], {}
    for at, (row, line) in enumerate(zip(table.rows, table.lines, strict=True)):
        state = states.get(at)
        if state is None or at not in levels or (state == "kept" and not is_outcome and at not in readings):
            continue
        reading = readings.get(at)
        cell = _cells(table, row)
        trials.append(
            Trial(
                level=levels[at],
                state=state,
                row=line,
                order=_order(cell, line, bad, skip_bad),
                fault=cell.get("fault") or None,
                note=cell.get("note") or None,
                block=cell.get("block") or None,
                group=cell.get("group") or None,
                device=cell.get("device") or None,
                person=cell.get("person") or None,
                outcome=cell.get("outcome") or None,
                others=others[at],
                value=None if reading is None else reading.to(unit) if unit else reading.value,
                kind="exact" if reading is None else reading.kind,
                resolution=None if reading is None else _in(reading, reading.resolution, unit),
                doubt=None if reading is None else _in(reading, reading.standard_uncertainty, unit),
            )
        )
        texts[line] = write(reading) if reading is not None and table.decimal_comma else row[response_column.header]
    return TableTrials(
        trials=tuple(trials),
        factor=factor_column,
        response=response_column,
        factor_unit=factor_unit,
        unit=unit or response_column.unit,
        skipped=tuple(dict.fromkeys(f"{b.where}: {b.says}" for b in bad)),
        texts=texts,
    )


def _in(reading: Reading, size: float, unit: str | None) -> float:
    return convert(size, reading.unit, unit) if unit else size


def _cells(table: Table, row: Mapping[str, str]) -> dict[str, str]:
    return {c.name.casefold(): row[c.header] for c in table.columns if c.name.casefold() in RESERVED}


def _fail(bad: list[TableRefused], error: TableRefused, skip: bool) -> None:
    if not skip:
        raise error
    bad.append(error)


#: A remark says that a trial is void, where nothing else does.
_VOID = re.compile(r"\bvoid\b(?! of)", re.I)


def _states(table: Table, void_rows: Collection[int], bad: list[TableRefused], skip: bool) -> dict[int, State]:
    """Kept or void, by the state column or, where that says nothing, by an outcome "void"."""
    found: dict[int, State] = {}
    for at, (row, line) in enumerate(zip(table.rows, table.lines, strict=True)):
        cells = _cells(table, row)
        word = cells.get("state", "").casefold() or ("void" if cells.get("outcome", "").casefold() == "void" or _VOID.search(cells.get("note", "")) else "")
        if line in void_rows:
            found[at] = "void"
        elif word in ("", "kept", "void"):
            found[at] = cast(State, word or "kept")
        else:
            _fail(
                bad,
                TableRefused(f"“{word}” is not a state; write kept or void.", code="state_unknown", where=f"row {line}, column state"),
                skip,
            )
    return found


def _order(cell: Mapping[str, str], line: int, bad: list[TableRefused], skip: bool) -> int | None:
    text = cell.get("trial", "")
    if not text:
        return None
    if re.fullmatch(r"\d{1,9}(\.0+)?", text):
        return int(float(text))
    _fail(
        bad, TableRefused(f"“{text}” is not a trial number; write 1, 2, 3 …", code="trial_number", where=f"row {line}, column trial"), skip
    )
    return None


#: Cells of a table repeat (levels, groups, readings to one step), so each text is understood once.
CELLS_REMEMBERED = 50_000


@lru_cache(CELLS_REMEMBERED)
def _understood(text: str, quantity: str, unit: str | None, signed: bool | None, comma: bool) -> Reading | ReadingRefused:
    """A cell as a reading, or the reason why it is none."""
    if not any(c.isnumeric() for c in text):
        return ReadingRefused(f"“{text}” is not a number.", code="reading_words", where="reading")
    try:
        return read(text, quantity, unit, signed=signed, decimal_comma=comma)
    except ReadingRefused as why:
        return why


def _number(text: str, decimal_comma: bool) -> float | None:
    found = _understood(text, "number", "", None, decimal_comma)
    return found.value if isinstance(found, Reading) and found.kind == "exact" and found.unit == "" else None


def _levels(
    table: Table, column: Column, states: Mapping[int, State], treat_as: str | None, bad: list[TableRefused], skip: bool
) -> tuple[dict[int, Level], str | None]:
    texts = {at: row[column.header] for at, row in enumerate(table.rows) if at in states}
    for at, text in texts.items():
        if not text and states[at] == "kept":
            _fail(
                bad,
                TableRefused(
                    f"The level of {column.name} is empty. Write it, or mark the row void.",
                    code="cell_empty",
                    where=f"row {table.lines[at]}, column {column.header}",
                ),
                skip,
            )
    texts = {at: text for at, text in texts.items() if text}
    if treat_as != "group":
        _one_unit(table, column, {at: text for at, text in texts.items() if states[at] == "kept"})
    quantity, unit = _quantity_of(column, texts.values(), table.decimal_comma)
    numbers = {at: _level_number(text, quantity, unit, table.decimal_comma) for at, text in texts.items()}
    numeric = [at for at, v in numbers.items() if v is not None]
    if len(numeric) == len(texts):
        return {at: cast(float, numbers[at]) for at in numeric}, unit if unit else column.unit
    if treat_as == "number" or (treat_as is None and len(numeric) >= MOSTLY * len(texts)):
        for at in texts:
            if numbers[at] is None:
                _fail(
                    bad,
                    TableRefused(
                        f"“{texts[at][:40]}” is not a number, while the other levels of {column.name} are. Correct it, or take "
                        "the levels as groups.",
                        code="factor_not_number",
                        where=f"row {table.lines[at]}, column {column.header}",
                    ),
                    skip,
                )
        return {at: cast(float, numbers[at]) for at in numeric}, unit if unit else column.unit
    return dict(texts), column.unit


def _level_number(text: str, quantity: str, unit: str | None, comma: bool) -> float | None:
    if quantity == "number":
        return _number(text, comma)
    found = _understood(text, quantity, unit, True, comma)
    return found.to(unit) if isinstance(found, Reading) and found.kind == "exact" and unit else None


def _quantity_of(column: Column, texts: Iterable[str], comma: bool) -> tuple[str, str | None]:
    """Quantity and unit of a column: from its header, else from the unit that its cells carry."""
    if column.unit is not None:
        names = quantities_of(column.unit)
        return (names[0], find_unit(column.unit, names[0])) if names else ("number", None)
    sample = [t for t in texts if t][:200]
    if not sample or all(_readable(t, "number", "", comma) for t in sample):
        return "number", None
    counts = {
        name: sum(_readable(t, name, None, comma) is not None for t in sample)
        for name in _WITH_UNITS
    }
    best = max(counts, key=lambda k: counts[k])
    if counts[best] == 0 or _bare(sample, comma):
        return "number", None
    first = next(r for t in sample if (r := _readable(t, best, None, comma)) is not None)
    return best, first.unit


def _bare(texts: Iterable[str], comma: bool) -> str | None:
    """The first number that carries no unit; None where every cell carries one."""
    return next((t for t in texts if _readable(t, "number", "", comma) is not None), None)


def _one_unit(table: Table, column: Column, texts: Mapping[int, str]) -> None:
    """A unit written in some cells says nothing of the bare numbers beside it, so they are asked about. Raises TableRefused."""
    if column.unit is not None:
        return
    bare = _bare([t for t in texts.values() if t], table.decimal_comma)
    if bare is None:
        return
    for at, text in texts.items():
        measured = text and _readable(text, "number", "", table.decimal_comma) is None and any(_readable(text, name, None, table.decimal_comma) is not None for name in _WITH_UNITS)
        if measured:
            raise TableRefused(
                f"“{text[:40]}” carries a unit and “{bare[:40]}” none, so it is not known in what the bare numbers are. "
                f"Write their unit in brackets behind the name in the header: “{column.name} (…)”.",
                code="unit_unclear",
                where=f"row {table.lines[at]}, column {column.header}",
            )


_WITH_UNITS = ("length", "time", "mass", "speed", "angle", "voltage")


def _readable(text: str, quantity: str, unit: str | None, comma: bool) -> Reading | None:
    found = _understood(text, quantity, unit, True, comma)
    return found if isinstance(found, Reading) else None


def _readings(
    table: Table, column: Column, states: Mapping[int, State], bad: list[TableRefused], skip: bool
) -> tuple[dict[int, Reading], str | None]:
    texts = {at: row[column.header] for at, row in enumerate(table.rows) if at in states}
    _one_unit(table, column, {at: text for at, text in texts.items() if states[at] == "kept"})
    quantity, unit = _quantity_of(column, [t for at, t in texts.items() if states[at] == "kept"], table.decimal_comma)
    found: dict[int, Reading] = {}
    for at, text in texts.items():
        # a length in a table may be a position or a distance off the line, so it may be below zero
        signed = True if quantity == "length" else None
        read_as = unit if quantity != "number" else ""
        understood = _understood(text, quantity, read_as, signed, table.decimal_comma)
        if isinstance(understood, Reading):
            found[at] = understood
        elif states[at] == "kept":
            why = understood if any(c.isnumeric() for c in text) else _refusal(text, quantity, read_as)
            _fail(
                bad,
                TableRefused(
                    f"{why.says} Correct the cell, or mark the row void.", code=why.code, where=f"row {table.lines[at]}, column {column.header}"
                ),
                skip,
            )
    return found, unit


def _refusal(text: str, quantity: str, unit: str | None) -> ReadingRefused:
    """Why a cell without any digit is no reading, with an example of what would be."""
    try:
        read(text, quantity, unit)
    except ReadingRefused as why:
        return why
    return ReadingRefused(f"“{text}” is not a number.", code="reading_words", where="reading")


def _others(table: Table, taken: set[str], wanted: Sequence[Column]) -> list[dict[str, Level | None]]:
    columns = [c for c in table.columns if c.header not in taken and not _no_condition(c)]
    made: list[dict[str, Level | None]] = [{} for _ in table.rows]
    for c in {*columns, *wanted}:
        texts = [row[c.header] for row in table.rows]
        quantity, unit = _quantity_of(c, texts, table.decimal_comma)
        for at, text in enumerate(texts):
            number = _level_number(text, quantity, unit, table.decimal_comma) if text else None
            value = number if number is not None else text or None
            for name in (c.name, c.header):
                made[at][name[len(HELD_IN) :] if name.casefold().startswith(HELD_IN) else name] = value
    return made


#: How Bendro heads a column of conditions in its own table, and what its other columns tell: how a trial went, not what was changed for it.
HELD_IN = "held: "
_HOW_IT_WENT = frozenset({"trial", "state", "fault", "note", "outcome", "behaviour", "taken", "heat", "version", "specimen", "rung"})
_TIMER = re.compile(r"timer \d+")


def _no_condition(c: Column) -> bool:
    return c.name.casefold() in _HOW_IT_WENT or _TIMER.fullmatch(c.name.casefold()) is not None


def _escape(text: str) -> str:
    return f"'{text}" if _FORMULA.match(text) and not _NUMBER.fullmatch(text) else text


def _unescape(text: str) -> str:
    return text[1:] if text.startswith("'") and _FORMULA.match(text) else text


def write_table(headers: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """CSV text with CRLF ends (RFC 4180). None becomes an empty cell."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow([_escape(h) for h in headers])
    for row in rows:
        writer.writerow(["" if v is None else _escape(str(v)) for v in row])
    return out.getvalue()
