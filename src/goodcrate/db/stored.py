"""JSON in a column: always with a format number around it, and read by name.

A number that is not known, a key that is not known and one that is missing without a default are errors that name it.
"""

from collections.abc import Mapping
from dataclasses import MISSING, fields
from typing import TypeVar

from sqlalchemy import JSON, Dialect
from sqlalchemy.types import TypeDecorator

from goodcrate.core.ground.errors import InvalidInput

T = TypeVar("T")


class StoredOtherwise(InvalidInput):
    """Something is stored in a way this Good Crate does not read."""

    def __init__(self, problem: str) -> None:
        super().__init__("stored", problem, "It may come from a newer Good Crate.")


class Stored(TypeDecorator[object]):
    """A value as `{"format": n, "value": …}`; NULL is None. `format` counts what the value looked like."""

    impl = JSON
    cache_ok = True

    def __init__(self, format: int = 1) -> None:  # noqa: A002 (the word that is stored)
        super().__init__(none_as_null=True)
        self.format = format

    def process_bind_param(self, value: object, dialect: Dialect) -> object:  # noqa: ARG002
        """What goes into the column."""
        return None if value is None else {"format": self.format, "value": value}

    def process_result_value(self, value: object, dialect: Dialect) -> object:  # noqa: ARG002
        """What comes out of it.

        Raises:
            StoredOtherwise: for another format, or none.
        """
        if value is None:
            return None
        if not isinstance(value, dict) or value.keys() != {"format", "value"} or value["format"] != self.format:
            found = value.get("format") if isinstance(value, dict) else None
            raise StoredOtherwise(f"Stored in format {found}; this Good Crate reads format {self.format}.")
        return value["value"]


def by_name(kind: type[T], stored: Mapping[str, object], **made: object) -> T:
    """A dataclass from what was stored of it, key by key; `made` takes the place of what is stored under a name.

    Raises:
        StoredOtherwise: naming the keys that are not known, or missing and without a default.
    """
    known = {f.name: f for f in fields(kind)}  # type: ignore[arg-type]
    unknown = sorted(stored.keys() - known.keys())
    needed = {n for n, f in known.items() if f.default is MISSING and f.default_factory is MISSING}
    missing = sorted(needed - stored.keys() - made.keys())
    if unknown or missing:
        said = [f"does not know {', '.join(unknown)}"] if unknown else []
        said += [f"misses {', '.join(missing)}"] if missing else []
        raise StoredOtherwise(f"A stored {kind.__name__} {' and '.join(said)}.")
    return kind(**{**stored, **made})
