"""Pasted ingredient lines matched with foods: what each was understood as, and whether it waits for a yes."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from uuid import UUID

from goodcrate.core.foods.food import STATES, Food
from goodcrate.core.foods.measures import FactMissing, TypedAmount, counted_if_bare, is_a_count_of_nothing, piece_rank
from goodcrate.core.ground.amounts import Amount
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.find import BEGINS, MOST_WORDS, SLIPPED, best_matches, head_of, match, search_text, words_of
from goodcrate.core.recipes.pasted_lines import PastedLine, read_pasted
from goodcrate.db.session import HouseholdSession
from goodcrate.services.calling import Caller
from goodcrate.services.foods.own_foods import Measuring, measuring_in
from goodcrate.services.foods.shelf import OWN, foods_of, keys_of_rows, shelf_of

CHOICES = 5
"""So many foods are offered for a line."""
LOOKED_AT = 24
"""So many of the finder's best are put in order for a line: a short compound stands before “Garlic, raw, peeled”."""


@dataclass(frozen=True)
class MatchedLine:
    """A pasted line with the food it was taken for and others it may mean; `doubts` are why it waits for a yes."""

    line: PastedLine
    food: Food | None
    others: tuple[Food, ...]
    doubts: tuple[str, ...]

    @property
    def amount_text(self) -> str:
        """The amount as it goes into the line's field: a bare count is counted in pieces."""
        amount = self.line.amount
        if amount is None:
            return ""
        if self.food is not None and counted_if_bare(amount, self.food).unit == "piece" and not amount.unit:
            return f"{amount.text} pcs"
        return f"{amount.text} {amount.state}".strip() if amount.state else amount.text

    @property
    def typed(self) -> TypedAmount:
        """The amount to weigh; a line without one has none.

        Raises:
            LookupError: when the line has no amount.
        """
        if self.line.amount is None or self.food is None:
            raise LookupError("a line without an amount cannot be weighed")
        return replace(counted_if_bare(self.line.amount, self.food), text=self.amount_text)


def _state_rank(food: Food, states: tuple[str, ...]) -> int:
    """How well a food's state fits the words of a line; the order of the finder decides among equals."""
    return states.index(food.state) if food.state in states else len(states)


def _ranked(found: Sequence[Food], line: PastedLine, query: str) -> tuple[list[Food], list[Food]]:
    """Foods the finder found for a line, best first, and those that its words name just as well as the first.

    “Garlic” is the food of that name before “garlic powder”; “pepper” is as much black pepper as sweet pepper. A list
    that says nothing of it was weighed before cooking.
    """
    words, is_count = words_of(query), line.amount is not None and line.amount.kind is None
    typed = frozenset(words)

    def rank(food: Food) -> tuple[int, ...]:
        how = match(words, "", search_text(food.name), is_own=True)
        pieces = piece_rank(food, query) if is_count else 0
        tier = SLIPPED if how is None else how.tier
        is_cooked = food.state == "cooked" and not line.states
        return tier, pieces, _state_rank(food, line.states), not head_of(food.name) <= typed, is_cooked

    ranked = sorted(found, key=rank)
    first = ranked[0]
    if head_of(first.name) <= typed:
        return ranked, []
    alike = [f for f in ranked[1:] if typed <= head_of(f.name) != head_of(first.name) and rank(f) == rank(first)]
    return ranked, alike


class Matcher:
    """Finds foods for many lines within one transaction; the same words are looked up once."""

    def __init__(self, session: HouseholdSession) -> None:
        self._session = session
        self._shelf = shelf_of(session)
        self._found: dict[str, list[Food]] = {}
        self._own_keys: dict[UUID, str] = {}
        self._foods: dict[str, Food] = {}

    def match_lines(self, text: str) -> list[MatchedLine]:
        """Take pasted lines apart and find a food for each.

        Raises:
            InvalidInput: for more lines than a recipe holds.
        """
        return [self._match(line) for line in read_pasted(text)]

    def measuring(self, keys: set[str]) -> Measuring:
        """Foods by key with all that weighing their typed amounts needs, within the same transaction."""
        return measuring_in(self._session, keys)

    def _find(self, query: str) -> list[Food]:
        if query not in self._found:
            best = best_matches(words_of(query[:120])[:MOST_WORDS], self._shelf, LOOKED_AT, None)
            own = {UUID(e.key.removeprefix(OWN)) for e in best if e.is_own}
            self._own_keys |= keys_of_rows(self._session, own - self._own_keys.keys())
            keys = [self._own_keys[UUID(e.key.removeprefix(OWN))] if e.is_own else e.key for e in best]
            missing = set(keys) - self._foods.keys()
            if missing:
                self._foods |= foods_of(self._session, missing)
            self._found[query] = [self._foods[key] for key in keys if key in self._foods]
        return self._found[query]

    def _match(self, line: PastedLine) -> MatchedLine:
        for place, query in enumerate(line.queries):
            found = self._find(query)
            if not found:
                continue
            doubts = list(line.doubts)
            bare = line.amount
            ranked, alike = _ranked(found, line, query)
            if bare is not None and is_a_count_of_nothing(bare, ranked[0], query):
                doubts.append(f"{bare.text} of what: grams or pieces?")
            how = match(words_of(query), "", search_text(ranked[0].name), is_own=True)
            spelt_alike = how is None or how.tier <= BEGINS
            if place > 0 and not spelt_alike:
                continue  # neither all its words nor spelt so: that would be guessing twice
            if place > 0:
                doubts.insert(0, f"only “{query}” was found")
            elif not spelt_alike:
                doubts.insert(0, "the name is spelt otherwise")
            elif alike:
                doubts.insert(0, f"it may also be {alike[0].name[:1].lower()}{alike[0].name[1:]}")
            if line.states and ranked[0].state not in line.states:
                doubts.insert(0, f"this is {STATES[ranked[0].state]}")
            return MatchedLine(line, ranked[0], tuple(ranked[1:CHOICES]), tuple(doubts))
        return MatchedLine(line, None, (), ("no such food is known", *line.doubts))


def match_lines(caller: Caller, text: str) -> list[MatchedLine]:
    """Take pasted lines apart and find a food for each.

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
        said, food, doubts = matched.line.text, matched.food, matched.doubts
        if food is None or doubts or matched.line.amount is None:
            why = doubts[0] if doubts else "there is no amount"
            faults.append(InvalidInput(field, f"“{said[:60]}”: {why}.", f"Such as “{example}”."))
            continue
        try:
            amount = matcher.measuring({food.key}).weigh(matched.typed, food, field=field).amount
        except (FactMissing, InvalidInput) as fault:
            faults.append(InvalidInput(field, f"“{said[:60]}”: {fault}", "Give grams."))
            continue
        found.append(WeighedFood(said, food.key, amount))
    if faults:
        raise InvalidInputs(faults)
    return found
