"""A household's foods in memory: what the finder searches, and the values computed with, renewed by what changed.

Both are kept under the household's food stamp. Each change of foods counts that stamp up and waits for its turn to do
so: whoever has seen a stamp has seen every change up to it, and only rows with a later one need to be read again.
"""

from functools import cache
from uuid import UUID

from sqlalchemy import ColumnElement, or_, select

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.find import Entry, Shelf, search_text
from goodcrate.db.changes import Memo
from goodcrate.db.foods import FoodRow, is_settled, stamp_of
from goodcrate.db.session import HouseholdSession
from goodcrate.formats.reference import reference_foods

OWN = "own:"
"""Marks the key of a household's own row, which is its id; reference foods keep their own keys."""
_SHELVES: Memo[tuple[int, Shelf]] = Memo(80)
_FOODS: Memo[tuple[int, dict[str, Food]]] = Memo(80)
"""By household, with the stamp they were read at: what was written since is read and put to them."""


@cache
def _reference_shelf() -> Shelf:
    return Shelf.of(entry_of(food) for food in reference_foods().values())


def entry_of(food: Food) -> Entry:
    """What is searched and filtered of a shipped food."""
    return Entry(
        food.key,
        search_text(food.name),
        food.group,
        food.allergens,
        food.composition.get("energy_kcal"),
        food.composition.get("protein_g"),
        is_own=False,
    )


def shelf_of(session: HouseholdSession) -> Shelf:
    """The household's shelf as this transaction sees its foods; a food taken in hides its reference row."""
    stamp, (seen, shelf) = stamp_of(session), (_SHELVES.find(session.household_id) or (0, _reference_shelf()))
    if stamp == seen:
        return shelf
    if stamp < seen:  # an older view of the database than the shelf's: it is not kept
        return _renewed(session, _reference_shelf(), 0)
    shelf = _renewed(session, shelf, seen)
    return _SHELVES.put(session.household_id, (stamp, shelf))[1] if is_settled(session) else shelf


def _renewed(session: HouseholdSession, shelf: Shelf, since: int) -> Shelf:
    """The shelf with every row written after a stamp put on it anew."""
    rows = session.execute(
        select(
            FoodRow.id,
            FoodRow.origin_key,
            FoodRow.search_text,
            FoodRow.food_group,
            FoodRow.allergens,
            FoodRow.energy_kcal,
            FoodRow.protein_g,
        ).where(FoodRow.stamp > since)
    ).all()
    own = [
        Entry(
            f"{OWN}{r.id}", r.search_text, r.food_group, frozenset(r.allergens), r.energy_kcal, r.protein_g, is_own=True
        )
        for r in rows
    ]
    return Shelf.of(own, shelf).without({r.origin_key for r in rows if r.origin_key})


def foods_of(session: HouseholdSession, keys: set[str]) -> dict[str, Food]:
    """Foods by key as this transaction sees them, the household's own before the reference's; unknown keys left out."""
    household, stamp = session.household_id, stamp_of(session)
    seen, known = _FOODS.find(household) or (stamp, {})
    if seen > stamp:  # an older view of the database: nothing is kept of it
        return _read(session, keys)
    if seen < stamp:
        changed = session.execute(select(FoodRow.id, FoodRow.origin_key).where(FoodRow.stamp > seen)).all()
        gone = {row.origin_key or str(row.id) for row in changed}
        known = {key: food for key, food in known.items() if key not in gone}
    missing = keys - known.keys()
    if missing:
        known = {**known, **_read(session, missing)}
    if is_settled(session):
        _FOODS.put(household, (stamp, known))
    return {key: known[key] for key in keys if key in known}


def _read(session: HouseholdSession, keys: set[str]) -> dict[str, Food]:
    own = {key: row.value() for key, row in rows_by_key(session, keys).items()}
    return own | {key: reference_foods()[key] for key in keys - own.keys() if key in reference_foods()}


def rows_by_key(session: HouseholdSession, keys: set[str]) -> dict[str, FoodRow]:
    """The household's rows for these keys: origins in the reference table, or rows' own ids."""
    ids = {row_id for key in keys if (row_id := as_id(key)) is not None}
    condition: ColumnElement[bool] = FoodRow.origin_key.in_(keys - {str(i) for i in ids})
    if ids:
        condition = or_(condition, FoodRow.id.in_(ids))
    return {row.key: row for row in session.scalars(select(FoodRow).where(condition))}


def keys_of_rows(session: HouseholdSession, ids: set[UUID]) -> dict[UUID, str]:
    """The keys foods go by, for ids of the household's rows."""
    if not ids:
        return {}
    rows = session.execute(select(FoodRow.id, FoodRow.origin_key).where(FoodRow.id.in_(ids)))
    return {row.id: row.origin_key or str(row.id) for row in rows}


def as_id(key: str) -> UUID | None:
    """A key that is a row's id, else None."""
    try:
        return UUID(key)
    except ValueError:
        return None
