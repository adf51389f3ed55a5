"""An ingredient line understood: which food, how much, what is unsure and why, and the next foods it may mean."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from goodcrate.core.foods.line import asking
from goodcrate.core.foods.line.naming import Candidate, Lexicon, candidates, literals_of
from goodcrate.core.foods.line.quantity import Quantity, brackets_of, take_quantity, take_quantity_anywhere
from goodcrate.core.foods.line.weighing import WITH_WASTE, Scales
from goodcrate.core.foods.line.wording import (
    CUT_OFF,
    PEEL,
    as_fat,
    flags_of,
    hints_of,
    part_of,
    with_brackets,
    with_unit_of_name,
    without_flags,
)
from goodcrate.core.foods.line.words import FILLERS, clean, tokens_of
from goodcrate.core.foods.units import LOOSE, MASS, NONE
from goodcrate.core.ground.wording import Saying

NEAREST_PEEL = ("lemon", "peel")
"""What stands nearest to the peel of a fruit that has no row."""
NO_ROW = Saying("no such food is known: the nearest are offered")
OFFERS = 4
"""The food a line is taken for, and the next three."""
_ASIDE = frozenset(
    {
        *("skin", "bone", "boneless", "skinless", "drained", "raw", "cooked", "frozen", "dried", "dry", "smoked"),
        *("canned", "can", "low", "free", "reduced", "hot", "cold"),
    }
)
"""Words that stand in rows' names and name no food by themselves."""


@dataclass(frozen=True, slots=True)
class Understood:
    """One line. `key` is the food, None when none is known; `grams` edible, None when no amount is said or known.

    `asks` are the questions it waits with, in words; `offers` are the foods it may mean, likeliest first; `words` are
    what it names, as they are known here.
    """

    text: str
    key: str | None
    grams: float | None
    error_g: float
    asks: tuple[str, ...]
    offers: tuple[str, ...]
    flags: tuple[str, ...]
    quantity: Quantity | None
    words: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class _Named:
    found: Sequence[Candidate]
    asks: tuple[str, ...]
    words: tuple[str, ...]
    near: Sequence[str] = ()


@dataclass(frozen=True, slots=True)
class Reader:
    """All that is needed to understand lines: known names, sizes, the household's cups and spoons."""

    lexicon: Lexicon
    scales: Scales

    def read(self, text: str) -> Understood:
        """One line, understood as far as it can be."""
        line = clean(text)
        flags = flags_of(line)
        bare, inside = brackets_of(without_flags(line))
        part, bare = part_of(bare)
        quantity, rest = _amount_of(bare)
        quantity, more = with_brackets(with_unit_of_name(quantity, rest), inside)
        named = self._named(as_fat(rest), more, quantity, part)
        food = self.lexicon.foods[named.found[0].key] if named.found else None
        weight, weighable = None, food
        if named.near and quantity is not None and quantity.kind == MASS:
            weighable = self.lexicon.foods[named.near[0]]  # grams are grams, whichever is chosen
        if weighable is not None and quantity is not None:
            weight = self.scales.weight_of(quantity, weighable, f"{line} {part}")
        asks = (*named.asks, *asking.of_the_amount(food, named.words, quantity, weight, flags))
        return Understood(
            text,
            None if food is None else food.key,
            None if weight is None else round(weight.grams, 2),
            0.0 if weight is None else weight.error_g,
            tuple(dict.fromkeys(asks)),
            self._offers(named.found) or tuple(named.near[:OFFERS]),
            flags=flags,
            quantity=quantity,
            words=named.words,
        )

    def _named(self, rest: str, more: str, quantity: Quantity | None, part: str) -> _Named:
        main, after = self._segments(CUT_OFF.sub("", WITH_WASTE.sub(" ", rest)) or rest)
        hints = hints_of(f"{after} {more}", quantity)
        hints |= {w for w in self._words(more) if w in self.lexicon.forms and w not in FILLERS}
        main = f"{main} {part}".strip()
        either = [side for side in re.split(r"\s+or\s+", main) if side.strip()]
        name = self._first_of(either) if len(either) > 1 else main
        words = self._words(name)
        found = candidates(words, self.lexicon, hints, literals_of(name))
        found = _what_is_counted(found, quantity, self.lexicon)
        if near := self.lexicon.nearest_to(words, found):
            return _Named((), (NO_ROW,), words, near)
        if part == PEEL and not (found and PEEL in found[0].form.needs):
            found = [*candidates(NEAREST_PEEL, self.lexicon)[:1], *found]
        asks = tuple(asking.of_the_name(words, found, hints, part, self.lexicon))
        if len(either) > 1:
            second = candidates(self._words(take_quantity(either[1])[1]), self.lexicon)
            asks = (*asks, *asking.of_either(found, second, self.lexicon))
        elif found and found[0].open_words:
            sides = [s for s in re.split(r"\s+(?:and|&|plus)\s+", main) if s.strip()]
            each = [candidates(self._words(side), self.lexicon) for side in sides]
            asks = asking.of_two_foods(each, asks, quantity, self.lexicon)
        return _Named(found, asks, words)

    def _offers(self, found: Sequence[Candidate]) -> tuple[str, ...]:
        """What a line is taken for, and what else it may mean: its kin first, then what else holds the words.

        The published twin of a food of ours is no other food.
        """
        if not found:
            return ()
        foods, first = self.lexicon.foods, self.lexicon.foods[found[0].key]
        kin, kind = (
            [key for key in keys if foods[key].state == first.state]
            for keys in (self.lexicon.kin_of(first), self.lexicon.kind_of(first))
        )
        rest = [c.key for c in found[1:]]
        alike = [key for key in rest if foods[key].group == first.group]
        others = dict.fromkeys(key for key in (*kin, *alike, *kind, *rest) if key != first.key)
        return (first.key, *sorted(others, key=lambda key: foods[key].name.endswith("(FDC)")))[:OFFERS]

    def _first_of(self, either: Sequence[str]) -> str:
        """The first of two that are named; “red or yellow pepper” shares its last word."""
        first = either[0]
        names_a_food = any(self._may_name(w) for w in self._words(first)) and candidates(
            self._words(first), self.lexicon
        )
        return first if names_a_food else f"{first} {either[1].split()[-1]}"

    def _segments(self, text: str) -> tuple[str, str]:
        """The part of a line that names the food, and what stands behind it."""
        segments = [s.strip() for s in re.split(r"[,;]| - ", text) if s.strip()]
        for place, segment in enumerate(segments, 1):
            if any(self._may_name(w) for w in self._words(segment)):
                return " ".join(segments[:place]), " ".join(segments[place:])
        return " ".join(segments), ""

    def _may_name(self, word: str) -> bool:
        is_known = word in self.lexicon.forms or self.lexicon.may_be_near(word)
        return is_known and word not in _ASIDE and word not in FILLERS

    def _words(self, text: str) -> tuple[str, ...]:
        return tuple(self.lexicon.spelt(w) for w in tokens_of(text))


def _what_is_counted(found: list[Candidate], quantity: Quantity | None, lexicon: Lexicon) -> list[Candidate]:
    """“1 pepper” is no black pepper: what is counted comes in pieces."""
    if quantity is None or quantity.kind != NONE or not found or lexicon.foods[found[0].key].group != "spice":
        return found
    counted = [c for c in found if not c.open_words and lexicon.foods[c.key].group in ("vegetable", "fruit")]
    return [*counted[:1], *(c for c in found if c not in counted[:1])]


def _amount_of(bare: str) -> tuple[Quantity | None, str]:
    quantity, rest = take_quantity(bare)
    if quantity is None or (quantity.kind == NONE and not rest.strip(" ,")):
        quantity, rest = take_quantity_anywhere(bare)
    if quantity is not None and quantity.kind == LOOSE and not rest.strip(" ,."):
        return replace(quantity, kind=NONE, unit=""), quantity.unit  # “5 cloves” are the spice
    return quantity, rest
