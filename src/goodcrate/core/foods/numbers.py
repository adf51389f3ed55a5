"""Numbers as cooks write them: “1½”, “1 1/2”, “0,5”, “two and a half”, “a third of a”, “1,500”."""

import re

_SIGNS = {"½": 1 / 2, "⅓": 1 / 3, "⅔": 2 / 3, "¼": 1 / 4, "¾": 3 / 4, "⅛": 1 / 8, "⅜": 3 / 8, "⅝": 5 / 8, "⅞": 7 / 8}
_SIGN = "[½⅓⅔¼¾⅛⅜⅝⅞]"
_SMALL = ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
_WORDS = {
    **{word: n for n, word in enumerate(_SMALL, 1)},
    **{"dozen": 12, "half": 0.5, "quarter": 0.25, "third": 1 / 3, "couple": 2, "few": 3, "several": 4},
}
_OF_A = {"three quarters": 0.75, "two thirds": 2 / 3}
DIGITS = r"\d{1,3}(?:,\d{3})+(?:\.\d+)?|\d+(?:[.,]\d+)?"
PLAIN = (
    rf"(?:\d+\s*{_SIGN}|{_SIGN}|\d+\s+\d+\s*/\s*\d+|\d+\s*/\s*\d+|"
    rf"\d+\s+and\s+(?:a\s+)?(?:half|quarter|third|{_SIGN}|\d/\d)|{DIGITS})"
)
"""A number in figures."""
WORDED = (
    r"(?:half an? |half |a half |a quarter of an? |a quarter |quarter of an? |a third of an? |a third |"
    r"two thirds of an? |"
    r"three quarters of an? |an? dozen |a couple of |a couple |a few |several |"
    rf"(?:{'|'.join(_SMALL)})(?: and a half)? |an? (?=\S))"
)
"""A number in words, with the space behind it."""


def number_of(text: str) -> float:
    """The value of a number that `PLAIN` or `WORDED` found."""
    words = text.strip()
    share = next((value for name, value in _OF_A.items() if words.startswith(name)), None)
    if share is not None:
        return share
    words = re.sub(r"\s*/\s*", "/", words)
    parts = [part for part in words.split() if part not in ("a", "an", "of", "and")]
    return sum(_part(part) for part in parts) if parts else 1.0


def _part(part: str) -> float:
    if part in _WORDS:
        return float(_WORDS[part])
    if part[-1] in _SIGNS:
        return _SIGNS[part[-1]] + (float(part[:-1]) if part[:-1].strip() else 0.0)
    if "/" in part:
        top, _, bottom = part.partition("/")
        return float(top) / float(bottom) if float(bottom) else 0.0
    is_grouped = re.fullmatch(r"\d{1,3}(?:,\d{3})+(?:\.\d+)?", part)
    return float(part.replace(",", "" if is_grouped else "."))
