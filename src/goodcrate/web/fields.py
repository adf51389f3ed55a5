"""The forms kit: a form is a Pydantic model whose fields say how their typed text is read.

::

    class PotFields(Fields):
        name: Annotated[str, words(80, "The pot needs a name.")]
        tare_g: Annotated[float | None, maybe(weight(20_000))] = None

`PotFields.of(form)` gives the values or every fault at its field; `PotFields.as_typed(form)` is what was typed, for the
form that is shown again. A form with rows has a `prefix` for each of them, such as `vessel-<id>-`. Forms that are
worked out while they are typed keep their texts in a row of their own and read what they can with `PotFields.partly`.
How a field is read (words, weights, days, choices) stands in `goodcrate.web.field_kinds`.
"""

from collections.abc import Callable, Mapping
from datetime import date
from typing import Self, get_origin

from pydantic import BaseModel, BeforeValidator, ConfigDict, ValidationError, ValidationInfo
from pydantic_core import PydanticCustomError
from starlette.datastructures import FormData

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.web.security import Sent, text

Reader = Callable[[str, str], object]
"""Reads a typed text; its second argument is the field's name."""
Reading = BeforeValidator
"""How a field is read, beside its type."""


def reads(reader: Reader) -> BeforeValidator:
    """A field that is read so. What the reader refuses is said at the field."""

    def read(typed: object, info: ValidationInfo) -> object:
        if not isinstance(typed, str):
            return typed
        try:
            return reader(typed.strip(), info.field_name or "")
        except InvalidInput as fault:
            raise PydanticCustomError("typed", "{words}", {"words": fault.message}) from None

    return BeforeValidator(read)


def maybe(field: BeforeValidator) -> BeforeValidator:
    """The same, and None when nothing is typed."""

    def read(typed: object, info: ValidationInfo) -> object:
        return None if isinstance(typed, str) and not typed.strip() else field.func(typed, info)  # type: ignore[call-arg]

    return BeforeValidator(read)


class Fields(BaseModel):
    """A form, or a row of one. Fields that were not sent have their defaults; those without one read an empty text."""

    model_config = ConfigDict(frozen=True, extra="forbid", arbitrary_types_allowed=True)

    @classmethod
    def of(cls, form: FormData, prefix: str = "") -> Self:
        """The values that were typed.

        Raises:
            InvalidInputs: with every fault, each at its field.
        """
        sent: dict[str, object] = {}
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
    def as_typed(cls, form: Sent, prefix: str = "") -> Mapping[str, str]:
        """What was typed, by field."""
        return {name: text(form, prefix + name) for name in cls.model_fields}

    @classmethod
    def names(cls, prefix: str = "") -> set[str]:
        """Where its faults can stand."""
        return {prefix + name for name in cls.model_fields}


def shown_day(value: date | None) -> str:
    """A day as its field shows it."""
    return "" if value is None else value.isoformat()
