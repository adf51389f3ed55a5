"""Typed text from outside, whatever it is: bounded before it is read; the one reader of whole numbers, ids and days.

A pattern that tries again at every letter takes minutes over a text of thousands of letters, and the interpreter with
it: whoever reads typed text with one calls `bounded` first.
"""

import re
from datetime import date
from uuid import UUID

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import Saying, say

LONGEST_NUMBER = 60
"""Letters of a typed number with its unit: the longest one meant is far shorter."""
LARGEST_WHOLE = 10**12
LARGEST_NUMBER = 1e12
"""No figure of a kitchen is larger, in whatever unit; a file that holds one is broken."""
EARLIEST_DAY, LATEST_DAY = date(2000, 1, 1), date(2199, 12, 31)
"""Days of weeks and boxes: beyond them lie slips, and days that cannot be counted on from."""


def bounded(text: str, field: str, longest: int = LONGEST_NUMBER) -> str:
    """The text without the space around it, once it is short enough to be read.

    Raises:
        InvalidInput: when it is longer than `longest` letters.
    """
    typed = text.strip()
    if len(typed) > longest:
        raise InvalidInput(
            field,
            say("“{typed}…” is {typed2} letters long.", typed=typed[:24], typed2=len(typed)),
            say("At most {longest} are read here.", longest=longest),
        )
    return typed


def whole_of(text: str, largest: int = LARGEST_WHOLE) -> int | None:
    """A whole number, 0 or more, of plain digits; None when it is none, or larger than `largest`."""
    digits = text.strip()
    if not (digits.isascii() and digits.isdigit()) or len(digits.lstrip("0")) > len(str(largest)):
        return None
    value = int(digits.lstrip("0") or "0")
    return value if value <= largest else None


def read_whole(
    text: str, field: str, wanted: str = Saying("Such as 2."), *, smallest: int = 0, largest: int = 9999
) -> int:
    """A typed whole number from `smallest` to `largest`.

    Raises:
        InvalidInput: for anything else.
    """
    value = whole_of(text)
    if value is None:
        raise InvalidInput(field, say("“{text}” is not a whole number.", text=text.strip()[:24]), wanted)
    if not smallest <= value <= largest:
        raise InvalidInput(
            field,
            say("{value} is not possible.", value=value),
            say("From {smallest} to {largest}.", smallest=smallest, largest=largest),
        )
    return value


_SHARE = re.compile(r"(?:(\d{1,2})\s*/\s*(\d{1,2})|(\d{1,3})\s*%)")


def share_of(text: str) -> float | None:
    """A share of something as it is typed: “1/3”, “25 %”; None for anything else, or for nothing or more than all."""
    found = _SHARE.fullmatch(text.strip()) if len(text) <= LONGEST_NUMBER else None
    if found is None:
        return None
    part, whole, percent = found.groups()
    share = int(percent) / 100 if percent else int(part) / int(whole) if int(whole) else 0.0
    return share if 0 < share <= 1 else None


def id_of(text: object) -> UUID | None:
    """An id as our own forms make them (36 letters); None for anything else."""
    if not isinstance(text, str) or len(text) != 36 or not text.isascii():
        return None
    try:
        found = UUID(text)
    except ValueError:
        return None
    return found if str(found) == text.lower() else None


def day_of(text: object) -> date | None:
    """A day as YYYY-MM-DD, from `EARLIEST_DAY` to `LATEST_DAY`; None for anything else."""
    if not isinstance(text, str) or len(text) != 10 or not text.isascii():
        return None
    try:
        day = date.fromisoformat(text)
    except ValueError:
        return None
    return day if EARLIEST_DAY <= day <= LATEST_DAY and day.isoformat() == text else None


def read_day(text: str, field: str) -> date:
    """A typed day.

    Raises:
        InvalidInput: when it is none, or lies in another age.
    """
    day = day_of(text.strip())
    if day is None:
        raise InvalidInput(field, say("“{text}” is no day.", text=text.strip()[:20]), say("Such as 2026-11-22."))
    return day
