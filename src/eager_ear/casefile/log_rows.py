"""Rows of a phone's log as numbers: whichever separator, decimal mark, encoding and clock it was written with.

Read in blocks, so that a long log never stands in memory as text. A row that cannot be read is left out and counted;
more than one in a hundred, and the log is refused with the first such line.
"""

from __future__ import annotations

import csv
import io
import re
from array import array
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

import numpy as np

from eager_ear.casefile.errors import UnclearTable, UnreadableFile
from eager_ear.casefile.log_columns import find_axes, find_time, is_header
from eager_ear.core.units import FloatArray

MOST_ROWS = 1_500_000
LONGEST_LINE = 20_000
HEADER_WITHIN = 40
ROWS_SHOWN = 5
# A time and an axis, in so many rows that it is a table and no accident.
FEWEST_COLUMNS = 2
FEWEST_ALIKE = 4
UNREADABLE_SHARE = 0.01
COMMENT = ("#", "//", "%")
CLOCK = re.compile(
    r"(?:(?P<date>\d{4}-\d\d-\d\d|\d\d[./]\d\d[./]\d{4})[ T])?(?P<h>\d\d?):(?P<m>\d\d):(?P<s>\d\d(?:[.,:]\d+)?)"
)


@dataclass(frozen=True, kw_only=True)
class Rows:
    """A log's table: names, numbers [shape=(rows, columns)], NaN in what is left out, and how many rows were."""

    header: tuple[str, ...]
    table: FloatArray
    left_out: int
    cut_short: bool


@dataclass(frozen=True, kw_only=True)
class Shape:
    """How a log is written. first_line : number of the line behind the header."""

    encoding: str
    separator: str
    decimal_comma: bool
    header: tuple[str, ...]
    first_line: int


def read_rows(path: Path, *, name: str, wanted: Sequence[int] | None = None, shape: Shape | None = None) -> Rows:
    """The numbers of a log.

    Parameters
    ----------
    wanted : places of the columns that matter; all of them by default

    Raises
    ------
    UnreadableFile
        No table, or more than one row in a hundred that cannot be read; names the first such line.
    """
    shape = shape or find_shape(path, name=name)
    places = list(wanted) if wanted is not None else list(range(len(shape.header)))
    # A plain buffer of numbers: it grows without ever being there twice.
    numbers = array("d")
    bad: list[tuple[int, str]] = []
    count = bad_count = 0
    last_bad = False
    for number, cells in _cells(path, shape, name):
        row = _numbers(cells, places, shape)
        last_bad = row is None or len(cells) < len(shape.header)
        if row is None:
            bad_count += 1
            if len(bad) < 3:
                bad.append((number, shape.separator.join(cells)[:60]))
            continue
        numbers.extend(row)
        count += 1
        if count > MOST_ROWS:
            raise UnreadableFile(file=name, reason=f"has more than {MOST_ROWS} rows.")
    # A last line that breaks off is what a flat battery leaves.
    counted = bad_count - (1 if last_bad and bad_count else 0)
    if counted > UNREADABLE_SHARE * (count + counted):
        line, text = bad[0]
        raise UnreadableFile(
            file=name,
            reason=f"{bad_count} of {count + bad_count} lines cannot be read, the first is line {line}: “{text}”.",
        )
    if count == 0:
        raise UnreadableFile(file=name, reason="has a header but no rows.")
    table = np.frombuffer(numbers).reshape(count, len(places))
    return Rows(header=shape.header, table=table, left_out=counted, cut_short=counted != bad_count)


def find_shape(path: Path, *, name: str) -> Shape:
    """How a log is written, from its first lines. Raises UnreadableFile, UnclearTable."""
    if path.stat().st_size == 0:
        raise UnreadableFile(file=name, reason="is empty.")
    encoding = _encoding(path)
    with path.open(encoding=encoding, newline="", errors="strict") as file:
        try:
            lines = [line for _, line in zip(range(HEADER_WITHIN), _lines(file, name), strict=False)]
        except UnicodeError as exc:
            raise UnreadableFile(file=name, reason="is not a CSV table.") from exc
    for number, line in enumerate(lines):
        if not line.strip() or line.lstrip().startswith(COMMENT):
            continue
        if line.startswith("sep="):
            continue
        for separator in (";", "\t", ","):
            cells = _split_line(line, separator)
            if (len(cells) > 1 and is_header(cells)) or (separator == "," and is_header(cells)):
                comma = separator != "," and _has_decimal_comma(lines[number + 1 :], separator)
                return Shape(
                    encoding=encoding,
                    separator=separator,
                    decimal_comma=comma,
                    header=tuple(cells),
                    first_line=number + 1,
                )
    nameless = _nameless(lines, encoding)
    if nameless is not None:
        raise unclear(path, nameless, name, "Which columns are the time and the acceleration?")
    raise UnreadableFile(
        file=name,
        reason="is not a CSV table with a header that names its columns, such as t_s, ax_m_s2, ay_m_s2, az_m_s2.",
    )


def unclear(path: Path, shape: Shape, name: str, question: str) -> UnclearTable:
    """The question, with the header and the first rows as they are written, for a person to say what they mean."""
    first = [
        tuple(cell[:40] for cell in cells)
        for _, (_, cells) in zip(range(ROWS_SHOWN), _cells(path, shape, name), strict=False)
    ]
    time, axes = find_time(shape.header), find_axes(shape.header)
    meant = [""] * len(shape.header)
    for letter, column in zip("txyz", (time, *axes), strict=True):
        if column is not None:
            meant[column.place] = letter
    return UnclearTable(
        file=name,
        reason=question,
        question=question,
        rows=(shape.header, *first),
        meant=tuple(meant),
        separator=shape.separator,
        lines_before=shape.first_line,
    )


def _nameless(lines: Sequence[str], encoding: str) -> Shape | None:
    """How a table is written whose names are not known: rows of as many numbers each, below a line or none of names."""
    for separator in (";", "\t", ","):
        rows = [_split_line(line, separator) for line in lines]
        width = len(rows[-1]) if rows else 0
        comma = separator != "," and _has_decimal_comma(lines, separator)
        numeric = [len(row) == width and sum(_is_number(c, comma) for c in row) >= FEWEST_COLUMNS for row in rows]
        if width < FEWEST_COLUMNS or sum(numeric) < FEWEST_ALIKE or not any(numeric):
            continue
        first = numeric.index(True)
        above = rows[first - 1] if first > 0 and len(rows[first - 1]) == width else [""] * width
        return Shape(encoding=encoding, separator=separator, decimal_comma=comma, header=tuple(above), first_line=first)
    return None


def _is_number(cell: str, decimal_comma: bool) -> bool:
    try:
        float(cell.replace(",", ".") if decimal_comma else cell)
    except ValueError:
        return clock_s(cell) is not None
    return True


def _encoding(path: Path) -> str:
    with path.open("rb") as file:
        head = file.read(4)
    if head[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return "utf-16"
    return "utf-8-sig"


def _lines(file: Iterable[str], name: str) -> Iterator[str]:
    for line in file:
        if len(line) > LONGEST_LINE:
            raise UnreadableFile(file=name, reason=f"has a line of more than {LONGEST_LINE} characters.")
        yield line.rstrip("\r\n")


def _split_line(line: str, separator: str) -> list[str]:
    try:
        return [cell.strip() for cell in next(csv.reader(io.StringIO(line), delimiter=separator), [])]
    except csv.Error:
        return []


def _has_decimal_comma(lines: Sequence[str], separator: str) -> bool:
    cells = [cell for line in lines for cell in line.split(separator)]
    return any(re.fullmatch(r"\s*-?\d+,\d+\s*", cell) for cell in cells)


def _cells(path: Path, shape: Shape, name: str) -> Iterator[tuple[int, list[str]]]:
    try:
        with path.open(encoding=shape.encoding, newline="") as file:
            for number, line in enumerate(_lines(file, name), start=1):
                if number > shape.first_line and line.strip() and not line.startswith(COMMENT):
                    if '"' in line:
                        yield number, _split_line(line, shape.separator)
                    else:
                        yield number, line.split(shape.separator)
    except UnicodeError as exc:
        raise UnreadableFile(file=name, reason="is not a CSV table: some of it is no text.") from exc


def _numbers(cells: Sequence[str], places: Sequence[int], shape: Shape) -> list[float] | None:
    """The wanted cells as numbers, None where one is missing or no number."""
    out: list[float] = []
    for place in places:
        if place >= len(cells):
            return None
        cell = cells[place]
        try:
            value = float(cell.replace(",", ".") if shape.decimal_comma else cell)
        except ValueError:
            clock = clock_s(cell)
            if clock is None:
                return None
            value = clock
        if not abs(value) < 1e20:
            return None
        out.append(value)
    return out


def clock_s(text: str) -> float | None:
    """A clock time, with or without its date, in seconds; None for any other text.

    >>> clock_s("10:00:01.250") - clock_s("10:00:00.750")
    0.5
    >>> clock_s("2026-11-29 00:00:00") - clock_s("2026-11-28 23:59:59")
    1.0
    """
    match = CLOCK.fullmatch(text.strip().rstrip("Z"))
    if match is None:
        return None
    day = 0.0
    if match.group("date"):
        text = match.group("date").replace("/", ".")
        form = "%Y-%m-%d" if "-" in text else "%d.%m.%Y"
        try:
            day = datetime.strptime(text, form).toordinal() * 86400.0
        except ValueError:
            return None
    seconds = float(re.sub(r"[,:]", ".", match.group("s")))
    return day + 3600.0 * int(match.group("h")) + 60.0 * int(match.group("m")) + seconds
