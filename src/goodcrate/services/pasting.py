"""Pasted ingredient lines matched with foods: what each was understood as, and whether it waits for a yes."""

from dataclasses import dataclass

from goodcrate.core.find import BEGINS, match, search_text, words_of
from goodcrate.core.foods import Food
from goodcrate.core.measures import counted_if_bare
from goodcrate.core.pasted import PastedLine, read_pasted
from goodcrate.services.calling import Caller
from goodcrate.services.foods import find_foods

CHOICES = 5


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
        return amount.text


def match_lines(caller: Caller, text: str) -> list[MatchedLine]:
    """Take pasted lines apart and find a food for each.

    Raises:
        InvalidInput: for more lines than a recipe holds.
    """
    return [_match(caller, line) for line in read_pasted(text)]


def _match(caller: Caller, line: PastedLine) -> MatchedLine:
    for place, query in enumerate(line.queries):
        found = [f.food for f in find_foods(caller, query, CHOICES)]
        if not found:
            continue
        doubts = list(line.doubts)
        how = match(words_of(query), "", search_text(found[0].name), is_own=True)
        if place > 0:
            doubts.insert(0, f"only “{query}” was found")
        elif how is not None and how.tier > BEGINS:
            doubts.insert(0, "the name is spelt otherwise")
        return MatchedLine(line, found[0], tuple(found[1:]), tuple(doubts))
    return MatchedLine(line, None, (), ("no such food is known", *line.doubts))
