"""What a row of the archive looks like: its columns by name and kind; read strictly, written exactly."""

import json
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import date, datetime, time
from decimal import Decimal, InvalidOperation
from math import isfinite
from typing import Any
from uuid import UUID

from goodcrate.core.ground.document import Document
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import Saying, say

ID, TEXT, WHOLE, FIGURE, DECIMAL, YES_NO, DAY, CLOCK, MOMENT, DOCUMENT = (
    "id",
    "text",
    "whole",
    "figure",
    "decimal",
    "yes_no",
    "day",
    "clock",
    "moment",
    "document",
)
LARGEST_WHOLE = 2**63 - 1
MOST_LETTERS = 4_000_000
"""The longest text, and the longest line, that is read."""
WANTED: Mapping[str, str] = {
    ID: Saying("An id, such as 6f1c0b8e-1f0a-4b3e-9d2c-0a1b2c3d4e5f."),
    TEXT: Saying("A text."),
    WHOLE: Saying("A whole number."),
    FIGURE: Saying("A number."),
    DECIMAL: Saying("A decimal number in quotes, such as “182.5”."),
    YES_NO: Saying("true or false."),
    DAY: Saying("A day, such as 2026-11-23."),
    CLOCK: Saying("A time, such as 12:30:00."),
    MOMENT: Saying("A day and time, such as 2026-11-23T12:30:00."),
    DOCUMENT: Saying("A document with its format number."),
}
_ID = re.compile(r"[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}")
_DECIMAL = re.compile(r"-?[0-9]{1,20}(\.[0-9]{1,20})?")
_DAY = re.compile(r"[0-9]{4}-[0-9]{2}-[0-9]{2}")
_CLOCK = re.compile(r"[0-9]{2}:[0-9]{2}:[0-9]{2}")
_MOMENT = re.compile(r"[0-9]{4}-[0-9]{2}-[0-9]{2}T[0-9]{2}:[0-9]{2}:[0-9]{2}(\.[0-9]{6})?")


@dataclass(frozen=True)
class ColumnShape:
    """A column: its kind, whether it may be missing (`null`, which is unknown, never zero), the most letters of a text,
    digits and decimals of a decimal, the format of a document, and the table whose row an id names."""

    name: str
    kind: str
    is_nullable: bool = False
    most_letters: int | None = None
    digits: int = 0
    decimals: int = 0
    format: int = 1
    points_to: str | None = None

    @property
    def wanted(self) -> str:
        """What would be right, in words."""
        return say(WANTED[self.kind])

    def read(self, value: object) -> object:
        """A value of the archive as the database takes it.

        Raises:
            ValueError: when it is not of this kind, or beyond its bounds.
        """
        if value is None:
            if not self.is_nullable:
                raise ValueError
            return None
        return _READ[self.kind](value, self)

    def write(self, value: Any) -> object:
        """A value of the database as it stands in the archive: nothing is rounded."""
        return value if value is None else _WRITE.get(self.kind, _same)(value)

    def schema(self) -> Document:
        """Its JSON Schema."""
        told: Document = dict(_SCHEMA[self.kind])
        if self.most_letters is not None:
            told["maxLength"] = self.most_letters
        if self.points_to is not None:
            told["description"] = f"id of a row of {self.points_to}"
        if self.kind == DECIMAL:
            told["description"] = f"at most {self.digits} digits, {self.decimals} of them decimals"
        if self.is_nullable:
            told["type"] = [told["type"], "null"]
        return told


@dataclass(frozen=True)
class TableShape:
    """A table of the archive: its columns, and which sets of them only one row may have. The rows of a log stand in the
    order they came in."""

    name: str
    columns: tuple[ColumnShape, ...]
    uniques: tuple[tuple[str, ...], ...] = ()
    is_log: bool = False

    @property
    def by_name(self) -> Mapping[str, ColumnShape]:
        """Its columns by name."""
        return {column.name: column for column in self.columns}

    def read(self, row: object, where: str) -> dict[str, Any]:
        """A row as the database takes it.

        Raises:
            InvalidInput: naming the place, when a column is missing, not known, or not of its kind.
        """
        if not isinstance(row, dict):
            raise InvalidInput(where, say("This is no row."), say("A JSON object with its columns by name."))
        if row.keys() != self.by_name.keys():
            unknown = sorted(str(name)[:40] for name in row.keys() - self.by_name.keys())
            missing = sorted(self.by_name.keys() - row.keys())
            problem = (
                say("It has a column “{name}” that is not known.", name=unknown[0])
                if unknown
                else say("It lacks the column “{name}”.", name=missing[0])
            )
            raise InvalidInput(where, problem)
        read: dict[str, Any] = {}
        for column in self.columns:
            try:
                read[column.name] = column.read(row[column.name])
            except (ValueError, OverflowError, InvalidOperation):
                shown = say("{name}: “{value}” cannot be read.", name=column.name, value=str(row[column.name])[:40])
                raise InvalidInput(where, shown, column.wanted) from None
        return read

    def write(self, row: Mapping[str, Any]) -> Document:
        """A row as it stands in the archive."""
        return {column.name: column.write(row[column.name]) for column in self.columns}

    def schema(self) -> Document:
        """Its JSON Schema: what one line holds."""
        return {
            "type": "object",
            "additionalProperties": False,
            "required": [column.name for column in self.columns],
            "properties": {column.name: column.schema() for column in self.columns},
        }


def _same(value: Any) -> object:
    return value


def _text(value: object, column: ColumnShape) -> str:
    if not isinstance(value, str) or len(value) > (column.most_letters or MOST_LETTERS):
        raise ValueError
    value.encode()  # half a pair of surrogates is no text
    return value


def _matching(pattern: re.Pattern[str], value: object) -> str:
    if not isinstance(value, str) or pattern.fullmatch(value) is None:
        raise ValueError
    return value


def _whole(value: object, _: ColumnShape) -> int:
    if type(value) is not int or abs(value) > LARGEST_WHOLE:
        raise ValueError
    return value


def _figure(value: object, _: ColumnShape) -> float:
    if type(value) not in (int, float) or not isfinite(number := float(value)):  # type: ignore[arg-type]
        raise ValueError
    return number


def _decimal(value: object, column: ColumnShape) -> Decimal:
    number = Decimal(_matching(_DECIMAL, value))
    if abs(number) >= 10 ** (column.digits - column.decimals) or number != round(number, column.decimals):
        raise ValueError
    return number


def _yes_no(value: object, _: ColumnShape) -> bool:
    if not isinstance(value, bool):
        raise ValueError
    return value


def _document(value: object, column: ColumnShape) -> str:
    if not isinstance(value, dict) or value.keys() != {"format", "value"} or value["format"] != column.format:
        raise ValueError
    return json.dumps(value, ensure_ascii=False, allow_nan=False)


_READ: Mapping[str, Callable[[Any, ColumnShape], object]] = {
    ID: lambda value, _: UUID(_matching(_ID, value)),
    TEXT: _text,
    WHOLE: _whole,
    FIGURE: _figure,
    DECIMAL: _decimal,
    YES_NO: _yes_no,
    DAY: lambda value, _: date.fromisoformat(_matching(_DAY, value)),
    CLOCK: lambda value, _: time.fromisoformat(_matching(_CLOCK, value)),
    MOMENT: lambda value, _: datetime.fromisoformat(_matching(_MOMENT, value)),
    DOCUMENT: _document,
}
_WRITE: Mapping[str, Callable[[Any], object]] = {
    ID: str,
    DOCUMENT: json.loads,
    DECIMAL: lambda value: f"{value:f}",
    YES_NO: bool,
    DAY: date.isoformat,
    CLOCK: time.isoformat,
    MOMENT: datetime.isoformat,
}
_SCHEMA: Mapping[str, Mapping[str, object]] = {
    ID: {"type": "string", "format": "uuid"},
    TEXT: {"type": "string"},
    WHOLE: {"type": "integer"},
    FIGURE: {"type": "number"},
    DECIMAL: {"type": "string", "pattern": "^-?[0-9]+([.][0-9]+)?$"},
    YES_NO: {"type": "boolean"},
    DAY: {"type": "string", "format": "date"},
    CLOCK: {"type": "string", "format": "time"},
    MOMENT: {"type": "string", "format": "date-time", "$comment": "UTC, or the household's clock for sessions"},
    DOCUMENT: {
        "type": "object",
        "required": ["format", "value"],
        "properties": {"format": {"type": "integer"}, "value": True},
        "additionalProperties": False,
    },
}
