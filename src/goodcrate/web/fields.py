"""The forms kit: a form is a Pydantic model whose fields say how their typed text is read.

::

    class PotFields(Fields):
        name: Annotated[str, words(80, "The pot needs a name.")]
        tare_g: Annotated[float | None, maybe(weight(20_000))] = None

`PotFields.of(form)` gives the values or every fault at its field; `PotFields.as_typed(form)` is what was typed, for the
form that is shown again. A form with rows has a `prefix` for each of them, such as `vessel-<id>-`.
"""

from collections.abc import Callable, Collection, Mapping
from datetime import date, datetime
from typing import Any, Self, get_origin
from uuid import UUID

from pydantic import BaseModel, BeforeValidator, ConfigDict, ValidationError, ValidationInfo
from pydantic_core import PydanticCustomError
from starlette.datastructures import FormData

from goodcrate.core.ground.amounts import LARGEST_LINE_G, read_grams, read_number
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import bounded, day_of, id_of, read_day, read_whole
from goodcrate.web.security import text

Reader = Callable[[str, str], Any]
"""Reads a typed text; its second argument is the field's name."""
Reading = BeforeValidator
"""How a field is read, beside its type."""


def reads(reader: Reader) -> BeforeValidator:
    """A field that is read so. What the reader refuses is said at the field."""

    def read(typed: Any, info: ValidationInfo) -> Any:
        if not isinstance(typed, str):
            return typed
        try:
            return reader(typed.strip(), info.field_name or "")
        except InvalidInput as fault:
            raise PydanticCustomError("typed", "{words}", {"words": fault.message}) from None

    return BeforeValidator(read)


def maybe(field: BeforeValidator) -> BeforeValidator:
    """The same, and None when nothing is typed."""

    def read(typed: Any, info: ValidationInfo) -> Any:
        return None if isinstance(typed, str) and not typed.strip() else field.func(typed, info)  # type: ignore[call-arg]

    return BeforeValidator(read)


def words(longest: int, needed: str = "") -> BeforeValidator:
    """A short text; `needed` is what is said when there is none."""

    def read(typed: str, name: str) -> str:
        if not typed and needed:
            raise InvalidInput(name, needed)
        return bounded(typed, name, longest)

    return reads(read)


def whole(smallest: int, largest: int, wanted: str = "Such as 2.") -> BeforeValidator:
    """A whole number, ends included."""
    return reads(lambda typed, name: read_whole(typed, name, wanted, smallest=smallest, largest=largest))


def number(smallest: float, largest: float, unit: str, wanted: str, *, scale: float = 1.0) -> BeforeValidator:
    """A number with or without its unit behind it, times `scale`: litres kept as millilitres, per cent as a share."""

    def read(typed: str, name: str) -> float:
        bare = bounded(typed, name).removesuffix(unit).strip()
        figure = read_number(bare, name, wanted, smallest=smallest, largest=largest)
        if not smallest <= figure <= largest:
            raise InvalidInput(name, f"{bare} {unit} is not possible.", wanted)
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
            raise InvalidInput(name, "This is no day and time.", wanted) from None
        if day_of(at.date().isoformat()) is None:
            raise InvalidInput(name, "This is no day of our age.", wanted)
        return at

    return reads(read)


def one_of(known: Collection[str], wanted: str = "Choose one.") -> BeforeValidator:
    """One of some words."""

    def read(typed: str, name: str) -> str:
        if typed not in known:
            raise InvalidInput(name, f"“{typed[:24]}” is not among the choices.", wanted)
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


class Fields(BaseModel):
    """A form, or a row of one. Fields that were not sent have their defaults; those without one read an empty text."""

    model_config = ConfigDict(frozen=True, extra="forbid", arbitrary_types_allowed=True)

    @classmethod
    def of(cls, form: FormData, prefix: str = "") -> Self:
        """The values that were typed.

        Raises:
            InvalidInputs: with every fault, each at its field.
        """
        sent: dict[str, Any] = {}
        for name, info in cls.model_fields.items():
            if get_origin(info.annotation) is tuple:
                sent[name] = tuple(str(value) for value in form.getlist(prefix + name))
            elif info.annotation is bool:
                sent[name] = prefix + name in form
            elif prefix + name in form or info.is_required():
                sent[name] = text(form, prefix + name)
        try:
            return cls.model_validate(sent)
        except ValidationError as error:
            raise InvalidInputs(
                InvalidInput(f"{prefix}{fault['loc'][0] if fault['loc'] else ''}", fault["msg"])
                for fault in error.errors(include_url=False, include_context=False, include_input=False)
            ) from None

    @classmethod
    def partly(cls, row: object, prefix: str, faults: list[InvalidInput]) -> Self:
        """The values of a row that keeps its typed texts by the fields' names: it is worked out while it is typed.

        What cannot be read has its default, and its fault is added; each field needs a default.
        """
        texts = row if isinstance(row, Mapping) else None
        sent = {name: getattr(row, name) if texts is None else texts.get(name, "") for name in cls.model_fields}
        try:
            return cls.model_validate(sent)
        except ValidationError as error:
            for fault in error.errors(include_url=False, include_context=False, include_input=False):
                name = str(fault["loc"][0])
                faults.append(InvalidInput(prefix + name, fault["msg"]))
                sent.pop(name, None)
            return cls.model_validate(sent)

    @classmethod
    def as_typed(cls, form: FormData, prefix: str = "") -> Mapping[str, str]:
        """What was typed, by field."""
        return {name: text(form, prefix + name) for name in cls.model_fields}

    @classmethod
    def names(cls, prefix: str = "") -> set[str]:
        """Where its faults can stand."""
        return {prefix + name for name in cls.model_fields}


def shown_day(value: date | None) -> str:
    """A day as its field shows it."""
    return "" if value is None else value.isoformat()
