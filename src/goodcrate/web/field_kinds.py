"""How the fields of a form are read: words, numbers with their units, days, choices."""

from collections.abc import Collection
from datetime import datetime
from uuid import UUID

from pydantic import BeforeValidator

from goodcrate.core.ground.amounts import LARGEST_LINE_G, read_grams, read_number
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.typed import bounded, day_of, id_of, read_day, read_whole
from goodcrate.core.ground.wording import Saying, say
from goodcrate.web.fields import reads


def words(longest: int, needed: str = "") -> BeforeValidator:
    """A short text; `needed` is what is said when there is none."""

    def read(typed: str, name: str) -> str:
        if not typed and needed:
            raise InvalidInput(name, needed)
        return bounded(typed, name, longest)

    return reads(read)


def whole(smallest: int, largest: int, wanted: str = Saying("Such as 2.")) -> BeforeValidator:
    """A whole number, ends included."""
    return reads(lambda typed, name: read_whole(typed, name, wanted, smallest=smallest, largest=largest))


def number(smallest: float, largest: float, unit: str, wanted: str, *, scale: float = 1.0) -> BeforeValidator:
    """A number with or without its unit behind it, times `scale`: litres kept as millilitres, per cent as a share."""

    def read(typed: str, name: str) -> float:
        bare = bounded(typed, name).removesuffix(unit).strip()
        figure = read_number(bare, name, wanted, smallest=smallest, largest=largest)
        if not smallest <= figure <= largest:
            raise InvalidInput(name, say("{bare} {unit} is not possible.", bare=bare, unit=unit), wanted)
        return figure * scale

    return reads(read)


def weight(largest_g: float = LARGEST_LINE_G, *, allow_zero: bool = True) -> BeforeValidator:
    """A weight in whatever unit of mass, in g."""
    return reads(lambda typed, name: read_grams(typed, name, largest_g, allow_zero))


def day() -> BeforeValidator:
    """A day."""
    return reads(read_day)


def moment(wanted: str) -> BeforeValidator:
    """A day with a time, by the household's own clock."""

    def read(typed: str, name: str) -> datetime:
        try:
            at = datetime.fromisoformat(typed[:25]).replace(tzinfo=None)
        except ValueError:
            raise InvalidInput(name, say("This is no day and time."), wanted) from None
        if day_of(at.date().isoformat()) is None:
            raise InvalidInput(name, say("This is no day of our age."), wanted)
        return at

    return reads(read)


def one_of(known: Collection[str], wanted: str = Saying("Choose one.")) -> BeforeValidator:
    """One of some words."""

    def read(typed: str, name: str) -> str:
        if typed not in known:
            raise InvalidInput(name, say("“{typed}” is not among the choices.", typed=typed[:24]), wanted)
        return typed

    return reads(read)


def an_id(wanted: str) -> BeforeValidator:
    """The id of a thing that is chosen."""

    def read(typed: str, name: str) -> UUID:
        found = id_of(typed)
        if found is None:
            raise InvalidInput(name, wanted)
        return found

    return reads(read)
