"""Foods: finding them in the household and in the reference table, and taking one in."""

import unicodedata
from dataclasses import dataclass

from sqlalchemy import select

from goodcrate.core.foods import Food
from goodcrate.db.foods import FoodRow
from goodcrate.db.session import HouseholdSession
from goodcrate.formats.reference import reference_foods
from goodcrate.services.calling import Caller, NotFound


@dataclass(frozen=True)
class FoundFood:
    """A food in a list: what it is, and whether the household already uses it."""

    food: Food
    is_household: bool


def _plain(text: str) -> str:
    folded = unicodedata.normalize("NFKD", text.casefold())
    return "".join(c for c in folded if not unicodedata.combining(c))


def _rank(words: list[str], name: str) -> int | None:
    """0 is best; None when a word of the query is not in the name. Words may come in any order."""
    plain = _plain(name)
    if not all(word in plain for word in words):
        return None
    starts = plain.replace(",", " ").split()
    return sum(0 if any(s.startswith(word) for s in starts) else 1 for word in words) + (
        0 if words and plain.startswith(words[0]) else 1
    )


def find_foods(caller: Caller, query: str, limit: int = 60) -> list[FoundFood]:
    """Foods whose names hold all typed words, in any order and case, accents aside.

    Best match first, the household's own before the reference table's; without a query all foods by name.
    """
    with caller.transaction() as session:
        own = [row.value() for row in session.scalars(select(FoodRow).order_by(FoodRow.name))]
    own_keys = {food.key for food in own}
    shipped = [food for food in reference_foods().values() if food.key not in own_keys]
    words = _plain(query[:80]).split()
    found = []
    for is_household, foods in ((True, own), (False, shipped)):
        for food in foods:
            rank = _rank(words, food.name)
            if rank is not None:
                found.append((rank, not is_household, food.name.casefold(), FoundFood(food, is_household)))
    found.sort(key=lambda item: item[:3])
    return [item[3] for item in found[:limit]]


def food_by_key(caller: Caller, key: str) -> FoundFood:
    """One food by its key, the household's own row before the reference's.

    Raises:
        NotFound: when neither has it.
    """
    with caller.transaction() as session:
        row = session.scalar(select(FoodRow).where(FoodRow.origin_key == key))
        if row is not None:
            return FoundFood(row.value(), True)
    try:
        return FoundFood(reference_foods()[key], False)
    except KeyError:
        raise NotFound("food") from None


def count_foods(caller: Caller) -> tuple[int, int]:
    """How many foods the household uses, and how many the reference table holds."""
    with caller.transaction() as session:
        return len(session.scalars(select(FoodRow.id)).all()), len(reference_foods())


def foods_by_key(session: HouseholdSession, keys: set[str]) -> dict[str, FoodRow]:
    """The household's rows for these keys; reference foods are taken in on first use.

    Raises:
        NotFound: for a key that is in neither.
    """
    rows = {row.origin_key: row for row in session.scalars(select(FoodRow).where(FoodRow.origin_key.in_(keys)))}
    for key in sorted(keys - rows.keys()):
        food = reference_foods().get(key)
        if food is None:
            raise NotFound("food")
        rows[key] = FoodRow.taken_in(session.household_id, food)
        session.add(rows[key])
    session.flush()
    return {key: rows[key] for key in keys}


def food_values(caller: Caller, keys: set[str]) -> dict[str, Food]:
    """Foods by key for computing, nothing taken in; keys nobody knows are left out."""
    with caller.transaction() as session:
        rows = session.scalars(select(FoodRow).where(FoodRow.origin_key.in_(keys)))
        known = {food.key: food for food in (row.value() for row in rows)}
    return known | {key: reference_foods()[key] for key in keys - known.keys() if key in reference_foods()}
