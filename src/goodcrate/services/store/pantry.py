"""Food in the house as it is kept: counted once, and less by what was weighed into batches since."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime
from uuid import UUID

from sqlalchemy import select

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown
from goodcrate.core.shop.pantry import Kept, Taking, after_taking
from goodcrate.core.week.storing import CUPBOARD, FREEZER, FRIDGE
from goodcrate.db import changes
from goodcrate.db.at_table import OffPlanRow
from goodcrate.db.base import grams
from goodcrate.db.cook import INGREDIENT, BatchLineRow, WeighingRow
from goodcrate.db.foods import FoodRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.store import OpenFoodRow
from goodcrate.services.calling import Caller, existing, utc_now
from goodcrate.services.foods.bought_as import as_bought

MOST_G = 100_000.0
USED_UP_G = 0.05
"""What a scale does not show is not there."""


KeptFood = tuple[OpenFoodRow, FoodRow, Kept]
"""A food in the house: its row, the food, and what is left of it."""


def food_kept(session: HouseholdSession) -> list[KeptFood]:
    """Every food in the house with what is left of it, those that are used up left out."""
    return _LEFT.get(session, (), lambda: _food_kept(session))


def _food_kept(session: HouseholdSession) -> list[KeptFood]:
    rows, foods = _COUNTED.get(session, (), lambda: _counted(session))
    if not rows:
        return []
    counted_at = {row.id: row.counted_at for row in rows}
    since = min(counted_at.values())
    kept = [_kept(row, foods[row.food_id].key) for row in rows]
    left = after_taking(kept, _TAKINGS.get(session, (since,), lambda: _takings(session, since)))
    counted = frozenset(counted_at.items())
    eaten = _EATEN.get(session, (counted,), lambda: _eaten_of(session, counted_at))
    found = [
        (row, foods[row.food_id], replace(thing, grams=thing.grams - eaten.get(row.id, 0.0)))
        for row, thing in zip(rows, left, strict=True)
    ]
    return [thing for thing in found if thing[2].grams > USED_UP_G]


_Counted = tuple[Sequence[OpenFoodRow], Mapping[UUID, FoodRow]]
# Each by itself: what is weighed in leaves what was counted as it is.
_LEFT: changes.Kept[list[KeptFood]] = changes.Kept(64)
_COUNTED: changes.Kept[_Counted] = changes.Kept(64)
_TAKINGS: changes.Kept[Sequence[Taking]] = changes.Kept(64)
_EATEN: changes.Kept[dict[UUID, float]] = changes.Kept(64)


def _counted(session: HouseholdSession) -> _Counted:
    """Every food in the house as it was counted, with the foods they are."""
    rows = session.scalars(
        select(OpenFoodRow).where(OpenFoodRow.live == 1).order_by(OpenFoodRow.since, OpenFoodRow.id)
    ).all()
    ids = {row.food_id for row in rows}
    foods = session.scalars(select(FoodRow).where(FoodRow.id.in_(ids))) if ids else ()
    return rows, {food.id: food for food in foods}


def _kept(row: OpenFoodRow, food_key: str) -> Kept:
    return Kept(
        str(row.id),
        food_key,
        float(row.grams),
        row.counted_at,
        row.since,
        row.until,
        is_open=row.is_open,
        is_first=row.is_first,
    )


def _eaten_of(session: HouseholdSession, counted_at: Mapping[UUID, datetime]) -> dict[UUID, float]:
    """What was eaten by the gram of things in the house since they were counted, in g."""
    rows = session.scalars(select(OffPlanRow).where(OffPlanRow.thing_id.in_(counted_at))).all()
    taken_back = set[UUID | None]()
    if rows:
        taken_back = set(session.scalars(select(OffPlanRow.undoes).where(OffPlanRow.undoes.in_([r.id for r in rows]))))
    eaten: dict[UUID, float] = {}
    for row in rows:
        if row.thing_id is not None and row.id not in taken_back and row.happened_at >= counted_at[row.thing_id]:
            eaten[row.thing_id] = eaten.get(row.thing_id, 0.0) + float(row.grams or 0)
    return eaten


def _takings(session: HouseholdSession, since: datetime) -> Sequence[Taking]:
    """What was weighed into batches since a moment, as bought: of each event what it says more, or less, than the one
    before it about the same line."""
    touched = select(WeighingRow.batch_line_id).where(WeighingRow.kind == INGREDIENT, WeighingRow.weighed_at >= since)
    rows = session.execute(
        select(FoodRow, WeighingRow.batch_line_id, WeighingRow.net_g, WeighingRow.weighed_at)
        .join(BatchLineRow, BatchLineRow.food_id == FoodRow.id)
        .join(WeighingRow, WeighingRow.batch_line_id == BatchLineRow.id)
        .where(BatchLineRow.id.in_(touched))
        .order_by(WeighingRow.seq)
    )
    takings, said = [], dict[UUID | None, float]()
    for food, line_id, net_g, weighed_at in rows:
        bought, grams_now = as_bought(food.value(), float(net_g or 0))
        takings.append(Taking(bought.key, grams_now - said.get(line_id, 0.0), weighed_at))
        said[line_id] = grams_now
    return takings


@dataclass(frozen=True)
class Put:
    """What is said of a food in the house: its grams now, where it is, its printed last day, whether it comes first."""

    grams: float
    place: str
    until: date | None = None
    is_first: bool = False


def put_right(caller: Caller, thing_id: UUID, typed: Put) -> None:
    """Say what is really there of a food: from now on this counts, whatever was weighed in before. Nothing there
    takes it out.

    Raises:
        NotFound: when the household has no such food in the house.
        InvalidInputs: naming every field that cannot be used.
    """
    faults = []
    if not 0 <= typed.grams <= MOST_G:
        told = say("{grams} g cannot be in the house.", grams=shown(typed.grams, 1))
        faults.append(InvalidInput("grams", told, say("From 0 to {most} g.", most=shown(MOST_G))))
    if typed.place not in (FRIDGE, FREEZER, CUPBOARD):
        told = say("“{place}” is no place for food.", place=typed.place)
        faults.append(InvalidInput("place", told, say("Fridge, freezer or cupboard.")))
    if faults:
        raise InvalidInputs(faults)
    with caller.transaction() as session:
        row = existing(session, OpenFoodRow, thing_id, say("thing in the house"))
        there = next((thing.grams for own, _, thing in food_kept(session) if own.id == thing_id), 0.0)
        row.place, row.until, row.is_first = typed.place, typed.until, typed.is_first
        if abs(there - typed.grams) <= USED_UP_G:
            return
        if typed.grams <= USED_UP_G:
            row.live = None
        else:
            row.grams, row.counted_at, row.live = grams(typed.grams), utc_now(), 1
