"""Finding a food by what somebody types: word order, plural, accents and one slip do not matter.

Three ways a typed word can meet a word of a name, best first: it is the word or its beginning; it stands inside;
it is its beginning with one slip (a letter wrong, missing, too many, or two swapped).
"""

import re
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass

_SPECIAL = str.maketrans({"ß": "ss", "æ": "ae", "œ": "oe", "ø": "o", "đ": "d", "ł": "l", "ð": "d", "þ": "th"})
BEGINS, INSIDE, SLIPPED = 0, 1, 2
SHORTEST_SLIP = 4
"""Below four letters one slip would match nearly anything."""
MOST_WORDS = 8


def plain(text: str) -> str:
    """Lower case without accents: “Crème Fraîche” → “creme fraiche”."""
    folded = unicodedata.normalize("NFKD", text.casefold().translate(_SPECIAL))
    return "".join(c for c in folded if not unicodedata.combining(c))


def singular(word: str) -> str:
    """A plain English word without its plural ending; only has to be the same for both forms, not to be a word."""
    if len(word) > 4 and word.endswith("ies"):
        return word[:-3] + "y"
    if len(word) > 4 and word.endswith(("oes", "ses", "xes", "zes", "ches", "shes")):
        return word[:-2]
    if len(word) > 3 and word.endswith("s") and not word.endswith(("ss", "us", "is")):
        return word[:-1]
    return word


def words_of(text: str) -> tuple[str, ...]:
    """The words of a name or a query, plain and singular, in their order."""
    return tuple(singular(word) for word in re.findall(r"[^\W_]+", plain(text)))


def search_text(name: str) -> str:
    """What is kept beside a food's name to search in: its words, each with a space before it."""
    return "".join(f" {word}" for word in words_of(name))[:200]


def is_one_slip(typed: str, word: str) -> bool:
    """Whether `typed` is `word`, or its beginning, with at most one slip (optimal string alignment distance ≤ 1)."""
    return any(
        0 < length <= len(word) and _distance_within_one(typed, word[:length])
        for length in (len(typed) - 1, len(typed), len(typed) + 1)
    )


def _distance_within_one(a: str, b: str) -> bool:
    if a == b:
        return True
    start = next((i for i, (x, y) in enumerate(zip(a, b, strict=False)) if x != y), min(len(a), len(b)))
    rest_a, rest_b = a[start:], b[start:]
    if len(rest_a) == len(rest_b):
        swapped = rest_a[:2] == rest_b[1::-1] and rest_a[2:] == rest_b[2:] and len(rest_a) >= 2
        return swapped or rest_a[1:] == rest_b[1:]
    longer, shorter = (rest_a, rest_b) if len(rest_a) > len(rest_b) else (rest_b, rest_a)
    return len(longer) - len(shorter) == 1 and longer[1:] == shorter


@dataclass(frozen=True, slots=True, order=True)
class Match:
    """How well a name answers a query; smaller is better. `tier` is the worst way one of its words was met."""

    tier: int
    not_own: bool
    looseness: int
    length: int
    name: str


def match(query: Sequence[str], name: str, searched: str, *, is_own: bool) -> Match | None:
    """How well a food answers the query's words, in any order, or None when one of them is nowhere in it.

    `searched` is its `search_text`. Within a tier the household's own foods come first, then names that begin with
    the query's first word, whole words, and short names.
    """
    words = searched.split()
    if not query:
        return Match(BEGINS, not is_own, 0, 0, name.casefold())
    tier = looseness = 0
    for typed in query:
        met, loose = _meet(typed, words, searched)
        if met is None:
            return None
        tier, looseness = max(tier, met), looseness + loose
    if not (words and words[0].startswith(query[0])):
        looseness += 2
    return Match(tier, not is_own, looseness, len(words), name.casefold())


def _meet(typed: str, words: Sequence[str], searched: str) -> tuple[int | None, int]:
    if typed in words:
        return BEGINS, 0
    if f" {typed}" in searched:
        return BEGINS, 1
    if len(typed) >= 3 and typed in searched:
        return INSIDE, 1
    if len(typed) >= SHORTEST_SLIP and any(is_one_slip(typed, word) for word in words):
        return SLIPPED, 1
    return None, 0


def slip_fragments(typed: str) -> tuple[str, ...]:
    """Pieces of a word's `search_text` of which one is there when the word was typed with any single slip.

    A slip in the second half leaves the first half at the word's start; one in the first half leaves the second half;
    two letters swapped across the middle are swapped back. So a database can look for candidates, and `match` judges.
    """
    half = len(typed) // 2
    unswapped = typed[: half - 1] + typed[half] + typed[half - 1] + typed[half + 1 :] if half else typed
    return tuple(dict.fromkeys((f" {typed[:half]}", typed[half:], f" {unswapped}")))
