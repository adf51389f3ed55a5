"""Finding a food by what somebody types: word order, plural, accents and one slip do not matter.

Three ways a typed word can meet a word of a name, best first: it is the word or its beginning; it stands inside;
it is its beginning with one slip (a letter wrong, missing, too many, or two swapped).
"""

import heapq
import re
import unicodedata
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache

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


@lru_cache(maxsize=8192)
def words_of(text: str) -> tuple[str, ...]:
    """The words of a name or a query, plain and singular, in their order."""
    return tuple(singular(word) for word in re.findall(r"[^\W_]+", plain(text)))


def search_text(name: str) -> str:
    """What is kept beside a food's name to search in: its words, each with a space before it."""
    return "".join(f" {word}" for word in words_of(name))[:200]


def head_of(name: str) -> frozenset[str]:
    """The words that say what a food is, before what says more about it: “Garlic, raw, peeled” → garlic."""
    return frozenset(words_of(re.split(r"[,(]", name, maxsplit=1)[0]))


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


@dataclass(frozen=True, slots=True)
class Entry:
    """What is searched of one food: its `search_text`, and what it can be filtered by."""

    key: str
    searched: str
    group: str
    allergens: frozenset[str]
    energy_kcal: float | None
    protein_g: float | None
    is_own: bool


@dataclass(frozen=True, slots=True)
class Shelf:
    """Entries by key, and for every word of their texts, a space before it, the keys of the entries that hold it."""

    entries: Mapping[str, Entry]
    postings: Mapping[str, frozenset[str]]
    _vocabulary: str = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "_vocabulary", "\n".join(["", *self.postings, ""]))

    def words_with(self, piece: str) -> list[str]:
        """The words, a space before each, that hold a piece; looked for in one text of all, which is quickest."""
        text, words, end = self._vocabulary, [], 0
        while (place := text.find(piece, end)) >= 0:
            end = text.index("\n", place)
            words.append(text[text.rindex("\n", 0, place) + 1 : end])
        return words

    def keys_with(self, words: Iterable[str]) -> set[str]:
        """The keys of the entries that hold one of these words."""
        return set[str]().union(*[self.postings[word] for word in words])

    @classmethod
    def of(cls, entries: Iterable[Entry], onto: "Shelf | None" = None) -> "Shelf":
        """A shelf of these entries; `onto` another one, whose entries of the same keys they replace."""
        known = dict(onto.entries) if onto else {}
        postings = dict(onto.postings) if onto else {}
        added: dict[str, set[str]] = {}
        for entry in entries:
            before = known.get(entry.key)
            for word in before.searched.split() if before else ():
                postings[f" {word}"] = postings[f" {word}"] - {entry.key}
            for word in entry.searched.split():
                added.setdefault(f" {word}", set()).add(entry.key)
            known[entry.key] = entry
        for word, keys in added.items():
            postings[word] = postings.get(word, frozenset()) | keys
        return cls(known, postings)

    def without(self, keys: Iterable[str]) -> "Shelf":
        """The shelf without some entries."""
        gone = {key for key in keys if key in self.entries}
        if not gone:
            return self
        words = {f" {word}" for key in gone for word in self.entries[key].searched.split()}
        kept = {key: entry for key, entry in self.entries.items() if key not in gone}
        return Shelf(kept, {**self.postings, **{word: self.postings[word] - gone for word in words}})


MOST_JUDGED = 200
"""So many candidates are judged word by word; of more, those that begin with the query and are short."""
ENOUGH = 8
"""With fewer good answers than this, words with one slip are looked for too."""


def best_matches(
    query: Sequence[str], shelf: Shelf, limit: int, passes: Callable[[Entry], bool] | None = None
) -> list[Entry]:
    """The entries that answer a query best and pass a filter, best first; without a query all by their words."""
    if not query:
        entries = [e for e in shelf.entries.values() if passes is None or passes(e)]
        return heapq.nsmallest(limit, entries, key=lambda e: (not e.is_own, e.searched))
    strict = _with_words(query, shelf)
    found = _judged(query, _passing(strict, shelf, passes))
    if len(found) < ENOUGH and any(len(word) >= SHORTEST_SLIP for word in query):
        slipped = _with_slips(query, shelf) - {e.key for _, e in found}
        found += _judged(query, _passing(slipped, shelf, passes))
    found.sort(key=lambda pair: (pair[0], pair[1].key))
    return [entry for _, entry in found[:limit]]


def _passing(keys: Iterable[str], shelf: Shelf, passes: Callable[[Entry], bool] | None) -> list[Entry]:
    entries = map(shelf.entries.__getitem__, keys)
    return list(entries) if passes is None else [e for e in entries if passes(e)]


def _with_words(query: Sequence[str], shelf: Shelf) -> set[str]:
    """Keys of entries that hold each typed word: inside one of theirs, or, when it is short, at the start of one."""
    keys: set[str] | None = None
    for typed in query:
        inside = typed if len(typed) >= 3 else f" {typed}"
        meant = shelf.keys_with(shelf.words_with(inside))
        keys = meant if keys is None else keys & meant
        if not keys:
            break
    return keys or set()


def _judged(query: Sequence[str], candidates: Sequence[Entry]) -> list[tuple[Match, Entry]]:
    """Candidates with how well they answer; of too many, those that begin with the query's words, then the short."""
    if len(candidates) > MOST_JUDGED:
        begins = candidates
        for word in query:
            start = f" {word}"
            begins = [e for e in begins if start in e.searched]
        first = f" {query[0]}"
        starts = [e for e in begins if e.searched.startswith(first)]
        enough = next((some for some in (starts, begins) if len(some) >= MOST_JUDGED), candidates)
        candidates = _shortest(enough)
    judged = []
    for entry in candidates:
        how = match(query, entry.searched, entry.searched, is_own=entry.is_own)
        if how is not None:
            judged.append((how, entry))
    return judged


def _shortest(candidates: Sequence[Entry]) -> list[Entry]:
    """The `MOST_JUDGED` shortest, the household's own first; of equally long ones those that stand first in a list."""
    sizes = [len(e.searched) - 1000 * e.is_own for e in candidates]
    longest = sorted(sizes)[MOST_JUDGED - 1]
    shorter = [e for e, size in zip(candidates, sizes, strict=True) if size < longest]
    as_long = [e for e, size in zip(candidates, sizes, strict=True) if size == longest]
    as_long.sort(key=lambda e: (e.searched, e.key))
    return shorter + as_long[: MOST_JUDGED - len(shorter)]


def _with_slips(query: Sequence[str], shelf: Shelf) -> set[str]:
    """Keys of entries that hold, for each typed word, that word or one a single slip away from it."""
    keys: set[str] | None = None
    for typed in query:
        inside = typed if len(typed) >= 3 else f" {typed}"
        words = shelf.words_with(inside)
        if len(typed) >= SHORTEST_SLIP:
            near = {word for piece in slip_fragments(typed) for word in shelf.words_with(piece)}
            words += [word for word in near if is_one_slip(typed, word[1:])]
        meant = shelf.keys_with(words)
        keys = meant if keys is None else keys & meant
        if not keys:
            break
    return keys or set()


def slip_fragments(typed: str) -> tuple[str, str, str]:
    """Pieces of a word, a space before its start, of which one is there when it was typed with any single slip.

    A slip in the second half leaves the first half at the word's start; one in the first half leaves the second half;
    two letters swapped across the middle are swapped back. They find candidates cheaply; `is_one_slip` judges.
    """
    half = len(typed) // 2
    unswapped = typed[: half - 1] + typed[half] + typed[half - 1] + typed[half + 1 :] if half else typed
    return f" {typed[:half]}", typed[half:], f" {unswapped}"
