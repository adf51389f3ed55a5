"""How a household shops: the way through its shop, loss, aim and budget; and what it always keeps."""

from collections.abc import Mapping
from dataclasses import dataclass
from uuid import UUID, uuid5

from sqlalchemy import select

from goodcrate.core.foods.food import Food
from goodcrate.core.foods.packs import AIMS
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown
from goodcrate.db.accounts import Household
from goodcrate.db.base import grams
from goodcrate.db.foods import FoodRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.shop import FloorRow
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.foods.own_foods import foods_by_key
from goodcrate.services.foods.shelf import foods_of

MOST_SPARE_PCT, MOST_FLOOR_G, MOST_BUDGET = 50.0, 100_000.0, 1_000_000.0
MOST_AISLES, LONGEST_AISLE = 40, 30


@dataclass(frozen=True)
class ShopSettings:
    """How a household shops: the way through its shop, loss bought on top (%), what its packs are chosen by, and what a
    week may cost (None: nothing is said)."""

    aisles: tuple[str, ...] = ()
    spare_pct: float = 0.0
    aim: str = "least_left"
    week_budget: float | None = None


def settings_in(session: HouseholdSession) -> ShopSettings:
    """How the household shops."""
    row = session.get(Household, session.household_id)
    if row is None:
        return ShopSettings()
    return ShopSettings(tuple(row.aisles or ()), row.spare_pct, row.pack_aim, row.week_budget)


def how_it_shops(caller: Caller) -> ShopSettings:
    """How the household shops."""
    with caller.transaction() as session:
        return settings_in(session)


def save_settings(caller: Caller, typed: ShopSettings) -> None:
    """Save how the household shops.

    Raises:
        InvalidInputs: naming every field that cannot be used.
        NotFound: when there is no such household any more.
    """
    faults = list(_faults(typed))
    if faults:
        raise InvalidInputs(faults)
    with caller.transaction() as session:
        row = session.get(Household, session.household_id)
        if row is None:
            raise NotFound("household")
        row.aisles, row.spare_pct = list(typed.aisles) or None, typed.spare_pct
        row.pack_aim, row.week_budget = typed.aim, typed.week_budget


def _faults(typed: ShopSettings) -> list[InvalidInput]:
    faults = []
    if not 0 <= typed.spare_pct <= MOST_SPARE_PCT:
        told = say("{percent} % cannot be the usual loss.", percent=shown(typed.spare_pct, 1))
        faults.append(InvalidInput("spare_pct", told, say("From 0 to {most} %.", most=shown(MOST_SPARE_PCT))))
    if typed.week_budget is not None and not 0 <= typed.week_budget <= MOST_BUDGET:
        told = say("{budget} is no budget for a week.", budget=shown(typed.week_budget, 2))
        faults.append(InvalidInput("week_budget", told, say("From 0 to {most}.", most=shown(MOST_BUDGET))))
    if typed.aim not in AIMS:
        faults.append(InvalidInput("aim", say("“{aim}” is no way to choose packs.", aim=typed.aim)))
    if len(typed.aisles) > MOST_AISLES or any(len(name) > LONGEST_AISLE for name in typed.aisles):
        told = say("At most {most} aisles, each of up to {longest} letters.", most=MOST_AISLES, longest=LONGEST_AISLE)
        faults.append(InvalidInput("aisles", told))
    return faults


def floors_in(session: HouseholdSession) -> Mapping[str, tuple[Food, float]]:
    """By its key each food that is always kept, with how much of it, in g."""
    rows = session.execute(select(FoodRow, FloorRow.grams).join(FloorRow, FloorRow.food_id == FoodRow.id))
    grams = {row.key: float(floor_g) for row, floor_g in rows if floor_g > 0}
    foods = foods_of(session, set(grams)) if grams else {}
    return {key: (food, grams[key]) for key, food in foods.items()}


def always_kept(caller: Caller) -> tuple[tuple[Food, float], ...]:
    """What is always kept, each food with its g, by name."""
    with caller.transaction() as session:
        return tuple(sorted(floors_in(session).values(), key=lambda f: f[0].name))


def keep_always(caller: Caller, food_key: str, floor_g: float) -> None:
    """Say that so many g of a food are always in the house; 0 says it no more.

    Raises:
        NotFound: when nobody knows the food.
        InvalidInput: for an amount nobody keeps.
    """
    if not 0 <= floor_g <= MOST_FLOOR_G:
        told = say("{grams} g cannot always be there.", grams=shown(floor_g, 1))
        raise InvalidInput("floor_g", told, say("From 0 to {most} g.", most=shown(MOST_FLOOR_G)))
    with caller.transaction() as session:
        keep_in(session, food_key, floor_g)


def keep_in(session: HouseholdSession, food_key: str, floor_g: float) -> None:
    """The same inside the caller's transaction, of an amount that can be.

    Raises:
        NotFound: when nobody knows the food.
    """
    food = foods_by_key(session, {food_key})[food_key]
    row_id = _floor_id(food.id)
    row = session.find(FloorRow, row_id)
    if row is None:
        session.add(FloorRow(id=row_id, food_id=food.id, grams=grams(floor_g)))
    else:
        row.grams = grams(floor_g)


def floor_of(session: HouseholdSession, food_key: str) -> float:
    """How much of a food is always kept, in g; 0 where nothing is said.

    Raises:
        NotFound: when nobody knows the food.
    """
    row = session.find(FloorRow, _floor_id(foods_by_key(session, {food_key})[food_key].id))
    return 0.0 if row is None else float(row.grams)


def _floor_id(food_id: UUID) -> UUID:
    return uuid5(food_id, "floor")
