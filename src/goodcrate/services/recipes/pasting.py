"""Pasted ingredient lines matched with the household's foods: what each was understood as, and what it asks."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from uuid import UUID

from goodcrate.core.foods.food import Food
from goodcrate.core.foods.line.quantity import Quantity
from goodcrate.core.foods.line.reading import OFFERS, Understood
from goodcrate.core.foods.line.wording import OPTIONAL_FLAG, TO_TASTE_FLAG
from goodcrate.core.foods.line.words import FILLERS, tokens_of
from goodcrate.core.foods.measures import LONGEST_AMOUNT, NUTRIENT, FactMissing, TypedAmount, read_amount, split_amount
from goodcrate.core.foods.units import LOOSE, MASS, NONE, VOLUME
from goodcrate.core.ground.amounts import Amount
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.find import MOST_WORDS, best_matches, words_of
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import near
from goodcrate.core.recipes.pasted_lines import kept, split_lines
from goodcrate.db.session import HouseholdSession
from goodcrate.formats.line_words import line_reader
from goodcrate.services.calling import Caller
from goodcrate.services.foods.own_foods import Measuring, measuring_in
from goodcrate.services.foods.shelf import OWN, foods_of, keys_of_rows, shelf_of
from goodcrate.services.kitchen import setup_of
from goodcrate.services.recipes.habits import habits_of, words_key

SAME_G = 0.5
"""Amounts this near weigh the same, in g."""
LOOKED_AT = 12
"""So many of the household's own foods are looked at for a line."""


@dataclass(frozen=True)
class MatchedLine:
    """A pasted line with the food it was taken for and others it may mean; `doubts` are why it waits for a yes.

    `amount_text` is the amount as it goes into the line's field; empty when none is said or known.
    """

    text: str
    food: Food | None
    others: tuple[Food, ...]
    doubts: tuple[str, ...]
    amount_text: str = ""
    is_optional: bool = False
    is_to_taste: bool = False

    @property
    def typed(self) -> TypedAmount:
        """The amount to weigh.

        Raises:
            InvalidInput: when the line has none.
        """
        return read_amount(self.amount_text)


class Matcher:
    """Finds foods for many lines within one transaction."""

    def __init__(self, session: HouseholdSession) -> None:
        self._session = session
        self._shelf = shelf_of(session)
        self._reader = line_reader(setup_of(session).convention)
        self._habits = habits_of(session)

    def match_lines(self, text: str) -> list[MatchedLine]:
        """Understand the lines of a text.

        Raises:
            InvalidInput: for more lines than a recipe holds.
        """
        return [self.match(line) for line in split_lines(text)]

    def measuring(self, keys: set[str]) -> Measuring:
        """Foods by key with all that weighing their typed amounts needs, within the same transaction."""
        return measuring_in(self._session, keys)

    def match(self, line: str) -> MatchedLine:
        """One line: what was confirmed here for its words comes first, then the household's own food of that name."""
        asked, rest = _asked(line)
        found = self._reader.read(line if asked is None else f"100 g {rest}")
        own = self._own_of(found)
        chosen = self._habits.get(words_key(found.words)) or (own[0].key if own else None)
        keys = list(dict.fromkeys([*((chosen,) if chosen else ()), *(f.key for f in own), *found.offers]))[:OFFERS]
        known = foods_of(self._session, set(keys))
        foods = [known[key] for key in keys if key in known]
        asks = found.asks if chosen is None or chosen not in known else _of_the_amount(found)
        return MatchedLine(
            kept(line),
            foods[0] if foods else None,
            tuple(foods[1:]),
            asks if foods else (asks or (say("no such food is known"),)),
            asked.text if asked is not None else self._amount_text(found, foods[0] if foods else None),
            is_optional=OPTIONAL_FLAG in found.flags,
            is_to_taste=TO_TASTE_FLAG in found.flags,
        )

    def _amount_text(self, found: Understood, food: Food | None) -> str:
        """The amount as a cook would type it, so that it is weighed just so; by its grams where the line says more."""
        if food is None:
            return ""
        quantity, is_other = found.quantity, food.key != found.key
        if quantity is not None and quantity.kind == LOOSE and found.grams is not None and not is_other:
            text = f"{_number(quantity)} {quantity.unit}"
            sized = self._reader.scales.weigh_typed(TypedAmount(text, 0, 0, "count", quantity.unit), food)
            if sized is not None and abs(sized.amount.grams - found.grams) < SAME_G:
                return text
        return _amount_of(found, food, is_other=is_other)

    def _own_of(self, found: Understood) -> list[Food]:
        """The household's own foods that are called just so: a label of its own goes before any table."""
        telling = [w for w in found.words if w not in FILLERS]
        if not telling:
            return []
        best = best_matches(words_of(" ".join(telling))[:MOST_WORDS], self._shelf, LOOKED_AT, lambda e: e.is_own)
        keys = keys_of_rows(self._session, {UUID(e.key.removeprefix(OWN)) for e in best})
        foods = foods_of(self._session, {key for key in keys.values() if key not in self._reader.lexicon.foods})
        return [food for food in foods.values() if set(telling) == set(_name_words(food)) - FILLERS]


def _asked(line: str) -> tuple[TypedAmount | None, str]:
    """An amount that is asked for by what it gives, and its food: “120 kcal hazelnuts”."""
    try:
        typed, rest = split_amount(line[:LONGEST_AMOUNT])
    except InvalidInput:
        return None, line
    return (typed, rest) if typed is not None and typed.kind == NUTRIENT else (None, line)


def _name_words(food: Food) -> Sequence[str]:
    return tokens_of(food.name)


def _of_the_amount(found: Understood) -> tuple[str, ...]:
    """What is still asked when the food is known: only the amount."""
    return () if found.quantity is not None else (say("no amount is given"),)


def _amount_of(found: Understood, food: Food, *, is_other: bool) -> str:
    quantity = found.quantity
    if quantity is None:
        return ""
    if quantity.kind == VOLUME and food.density_g_per_ml is not None and quantity.unit != "drop":
        return _in_words(quantity)
    is_plain_piece = quantity.kind == NONE and quantity.size == 1.0 and food.each_g is not None
    if is_plain_piece and found.grams is not None and abs(found.grams - quantity.middle * (food.each_g or 0)) < 1:
        return f"{_number(quantity)} pcs"
    if found.grams is None or (is_other and quantity.kind != MASS):
        return _number(quantity) if quantity.kind == NONE else ""
    grams = f"{near(found.grams, 4)} g"
    return grams if quantity.kind == MASS else f"{grams} by eye"


def _number(quantity: Quantity) -> str:
    low, high = f"{near(quantity.low, 4)}", f"{near(quantity.high, 4)}"
    return low if low == high else f"{low}–{high}"


def _in_words(quantity: Quantity) -> str:
    unit = {"tablespoon": "tbsp", "teaspoon": "tsp", "litre": "l", "fluid_ounce": "fl oz"}.get(
        quantity.unit, quantity.unit
    )
    heaped = "heaped " if quantity.is_heaped and unit in ("tbsp", "tsp") else ""
    return f"{_number(quantity)} {heaped}{unit}"


def match_lines(caller: Caller, text: str) -> list[MatchedLine]:
    """Understand pasted lines with the household's foods.

    Raises:
        InvalidInput: for more lines than a recipe holds.
    """
    with caller.transaction() as session:
        return Matcher(session).match_lines(text)


@dataclass(frozen=True)
class WeighedFood:
    """A typed line that is understood and weighed: what was said, which food, and how much."""

    said: str
    food_key: str
    amount: Amount


def weighed_foods(session: HouseholdSession, text: str, field: str, example: str) -> list[WeighedFood]:
    """Lines such as “200 g quark”, each with its food and weight; for places where nothing may stay in doubt.

    Raises:
        InvalidInputs: naming every line that is not understood.
    """
    faults, found = [], []
    matcher = Matcher(session)
    for matched in matcher.match_lines(text) if text.strip() else ():
        said, food, doubts = matched.text, matched.food, matched.doubts
        if food is None or doubts or not matched.amount_text:
            why = doubts[0] if doubts else say("there is no amount")
            faults.append(InvalidInput(field, f"“{said[:60]}”: {why}.", say("Such as “{example}”.", example=example)))
            continue
        try:
            amount = matcher.measuring({food.key}).weigh(matched.typed, food, field=field).amount
        except (FactMissing, InvalidInput) as fault:
            faults.append(InvalidInput(field, f"“{said[:60]}”: {fault}", say("Give grams.")))
            continue
        found.append(WeighedFood(said, food.key, replace(amount, typed=amount.typed)))
    if faults:
        raise InvalidInputs(faults)
    return found
