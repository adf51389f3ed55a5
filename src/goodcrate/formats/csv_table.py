"""Tables as CSV, in and out: the one place that reads and writes them, whatever program saved them.

Commas, semicolons or tabs; UTF-8, UTF-16 by its mark, or Windows-1252. A text that a spreadsheet would run as a formula
is written behind a quote, which is taken off again when it is read.
"""

import csv
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from io import StringIO

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import Saying, say

LARGEST_FILE_BYTES = 8_000_000
ENCODINGS: Mapping[str, str] = {
    "auto": Saying("work it out"),
    "utf-8": "UTF-8",
    "utf-16": "UTF-16",
    "cp1252": Saying("Windows-1252 (Western European)"),
}


@dataclass(frozen=True, slots=True)
class DecodedFile:
    """A file as text, the encoding it was read with, and what is worth saying about that."""

    text: str
    encoding: str
    notice: str = ""


def decode_file(data: bytes, encoding: str = "auto") -> DecodedFile:
    """Turn an uploaded file into text: UTF-8 first, UTF-16 by its mark, else Windows-1252 with a word of warning.

    Raises:
        InvalidInput: when it is empty, too large, no text, or does not fit the chosen encoding.
    """
    if len(data) > LARGEST_FILE_BYTES:
        raise InvalidInput(
            "file",
            say("{data:.0f} MB is too large.", data=len(data) / 1000000.0),
            say("At most {LARGEST_FILE_BYTES:.0f} MB: split it.", LARGEST_FILE_BYTES=LARGEST_FILE_BYTES / 1000000.0),
        )
    if not data.strip():
        raise InvalidInput("file", say("The file is empty."), say("Choose a CSV file with a header row."))
    if encoding not in ENCODINGS:
        raise InvalidInput(
            "encoding", say("“{encoding}” is no encoding we read.", encoding=encoding), say("Choose one.")
        )
    if encoding == "auto" and data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        encoding = "utf-16"
    notice = ""
    try:
        text = data.decode("utf-8-sig" if encoding in ("auto", "utf-8") else encoding)
        used = "utf-8" if encoding in ("auto", "utf-8") else encoding
    except UnicodeDecodeError as error:
        if encoding != "auto":
            line = data[: error.start].count(b"\n") + 1
            raise InvalidInput(
                "encoding",
                say("Line {line} is not {ENCODINGS}.", line=line, ENCODINGS=ENCODINGS[encoding]),
                say("Choose another encoding, or “work it out”."),
            ) from None
        text, used = data.decode("cp1252", errors="replace"), "cp1252"
        line = data[: error.start].count(b"\n") + 1
        notice = say("Not UTF-8 (line {line}), so it was read as Windows-1252. Check the accents below.", line=line)
    if "\x00" in text:
        raise InvalidInput("file", say("This is no text file."), say("Save the table as CSV."))
    return DecodedFile(text, used, notice)


def delimiter_of(first_line: str) -> str:
    """What separates the columns: of comma, semicolon and tab the one that stands most often in the first line."""
    return max((",", ";", "\t"), key=first_line.count)


@dataclass(frozen=True)
class CsvTable:
    """A table as it is read: its header, what separates its columns, and its rows with the numbers of their lines."""

    header: Sequence[str]
    delimiter: str
    rows: Iterator[tuple[int, list[str]]]

    @classmethod
    def of(cls, text: str) -> "CsvTable":
        """A text as a table; empty rows are left out, and rows are read as they are asked for."""
        delimiter = delimiter_of(text.lstrip("\r\n").partition("\n")[0])
        rows = _rows(text, delimiter)
        return cls(next(rows, (0, []))[1], delimiter, rows)

    def records(self) -> Iterator[dict[str, str]]:
        """The rows by the names of their columns, in small letters; cells that no column is named for fall away."""
        names = [name.strip().lower() for name in self.header]
        for _, cells in self.rows:
            yield {name: cell for name, cell in zip(names, cells, strict=False) if name}


def _rows(text: str, delimiter: str) -> Iterator[tuple[int, list[str]]]:
    """Rows that are not empty.

    Raises:
        InvalidInput: naming the line that cannot be read.
    """
    reader = csv.reader(StringIO(text, newline=""), delimiter=delimiter)
    while True:
        try:
            cells = next(reader)
        except StopIteration:
            return
        except csv.Error as error:
            raise InvalidInput(
                "file",
                say("Line {line_num}: {error}.", line_num=reader.line_num, error=error),
                say("Look for an unclosed quote."),
            ) from None
        if any(cell.strip() for cell in cells):
            yield reader.line_num, cells


def write_table(header: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """A table as CSV text, header first; None is an empty cell."""
    return "".join(map(table_line, (header, *rows)))


def table_line(cells: Sequence[object]) -> str:
    """One row as CSV text; None is an empty cell."""
    out = StringIO()
    csv.writer(out, lineterminator="\n").writerow("" if cell is None else cell for cell in cells)
    return out.getvalue()


_FORMULA = ("=", "+", "@", "-", "\t", "\r")


def as_text(text: str) -> str:
    """A text a spreadsheet will not run as a formula."""
    return f"'{text}" if text.startswith(_FORMULA) else text


def as_meant(cell: str) -> str:
    """A cell without the quote that keeps a spreadsheet from running it."""
    return cell[1:] if cell.startswith("'") and cell[1:].startswith(_FORMULA) else cell
