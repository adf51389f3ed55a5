"""Sentences in the language of who reads them. English stands in the code and is the key of every translation.

`say` is for a sentence made now, `Saying` for a text that stands in a table and is shown later. Templates need neither:
`web.sentences` finds theirs.
"""

from collections.abc import Callable, Mapping
from contextvars import ContextVar
from dataclasses import dataclass, field
from html import escape
from typing import Self

ENGLISH = "en"


MONTHS = (
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
)
DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
DAYS_SHORT = tuple(day[:3] for day in DAYS)


@dataclass(frozen=True, eq=False)
class Words:
    """A language: its messages by the English ones, and what it says of a count, by the English word for one.

    `form_of` chooses among the forms of a count, as the catalogue's plural rule does.
    """

    language: str = ENGLISH
    messages: Mapping[str, str] = field(default_factory=dict)
    plurals: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    form_of: Callable[[int], int] = lambda count: int(count != 1)
    months: tuple[str, ...] = MONTHS
    days: tuple[str, ...] = DAYS
    days_short: tuple[str, ...] = DAYS_SHORT

    def of(self, message: str) -> str:
        """A message in this language; the English one where nobody has put it into it."""
        return self.messages.get(message) or message

    def counted(self, count: int, one: str, more: str) -> str:
        """The word for so many."""
        forms = self.plurals.get(one, ())
        return forms[min(self.form_of(count), len(forms) - 1)] if forms else one if count == 1 else more


IN_ENGLISH = Words()
WORDS: ContextVar[Words] = ContextVar("words", default=IN_ENGLISH)
"""The language of what is being answered."""


def say(message: str, /, **values: object) -> str:
    """A sentence, with its figures and names put in by name: `say("{grams} g are left", grams=shown(250))`."""
    told = WORDS.get().of(message)
    return told.format_map(values) if values else told


class Saying(str):
    """A text of a table: English as a value, in the reader's language wherever it is shown."""

    __slots__ = ()

    def __new__(cls, english: str) -> Self:
        """The English text."""
        return super().__new__(cls, english)

    @property
    def english(self) -> str:
        """The text itself."""
        return str.__str__(self)

    def __str__(self) -> str:
        return WORDS.get().of(str.__str__(self))

    def __format__(self, spec: str) -> str:
        return format(str(self), spec)

    def __add__(self, other: str) -> str:
        return str(self) + other

    def __radd__(self, other: str) -> str:
        return other + str(self)

    def lower(self) -> str:
        """In small letters."""
        return str(self).lower()

    def capitalize(self) -> str:
        """With a capital at its start."""
        return str(self).capitalize()

    def format(self, *args: object, **named: object) -> str:
        """With figures put in, in the reader's language."""
        return str(self).format(*args, **named)

    def __html__(self) -> str:
        return escape(str(self))
