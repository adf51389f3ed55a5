"""What was worked out from the same values is not worked out again: they never change, so it is never stale."""

from collections.abc import Callable, Hashable
from functools import wraps
from types import GeneratorType
from typing import ParamSpec, TypeVar

from goodcrate.core.ground.wording import WORDS
from goodcrate.core.ground.writing import WRITING

P = ParamSpec("P")
R = TypeVar("R")
H = TypeVar("H", bound=Hashable)
_CHANGING = frozenset({list, GeneratorType})
KEPT = 512
"""Answers kept by each function: a recipe's foods and components are asked after again and again while it is typed."""


_FIRST: dict[Hashable, Hashable] = {}


def the_same(value: H) -> H:
    """Of equal values the first that came, so that `once_for_same` knows what is read again from a form."""
    first = _FIRST.get(value)
    if type(first) is type(value):
        return first
    if len(_FIRST) >= KEPT:
        _FIRST.clear()
    _FIRST[value] = value
    return value


def once_for_same(asked: Callable[P, R]) -> Callable[P, R]:
    """A pure function of values that never change, asked once for the very same objects.

    By identity: comparing a recipe costs as much as working it out; figures by their value. What is not a tuple or a
    frozen value where a sequence is asked for (a list, a generator) is worked out each time. An answer holds what it
    was asked with, so that no other object can take its place.
    """
    kept: dict[tuple[float, ...], tuple[tuple[object, ...], R]] = {}

    @wraps(asked)
    def answered(*args: P.args, **named: P.kwargs) -> R:
        if named or not _CHANGING.isdisjoint(map(type, args)):
            return asked(*args, **named)
        writing, words = WRITING.get(), WORDS.get()  # an answer may hold words
        key = (id(writing), id(words), *(x if type(x) is float else id(x) for x in args))
        known = kept.get(key)
        if known is not None:
            return known[1]
        answer = asked(*args, **named)
        if len(kept) >= KEPT:
            kept.clear()
        kept[key] = ((writing, words, *args), answer)
        return answer

    return answered
