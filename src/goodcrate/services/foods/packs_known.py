"""Packs the household knows of a food, with what they cost last and before, by its own shops."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from uuid import UUID

from sqlalchemy import select

from goodcrate.core.foods.food import Food
from goodcrate.core.foods.packs import Pack
from goodcrate.core.shop.shelf import ShelfEvent
from goodcrate.db.base import grams
from goodcrate.db.foods import FoodRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.shop import PackRow
from goodcrate.formats.reference import reference_foods
from goodcrate.services.calling import Caller, NotFound, add_once, existing, utc_now
from goodcrate.services.foods.own_foods import food_row, foods_by_key

WHOLE_G = 0.05


@dataclass(frozen=True)
class PackSeen:
    """A pack as it was seen on a day."""

    id: UUID
    grams: float
    price: float | None
    shop: str
    day: date


Noted = Mapping[str, Mapping[tuple[float, str], Pack]]
"""By a food's key, of each size (g) and shop the pack that was seen last."""


def noted_packs(session: HouseholdSession) -> Noted:
    """Every pack the household noted, by its food."""
    rows = (
        select(PackRow.id, PackRow.grams, PackRow.shop, PackRow.price, FoodRow.id.label("food_id"), FoodRow.origin_key)
        .join(FoodRow, FoodRow.id == PackRow.food_id)
        .where(PackRow.live == 1)
    )
    found: dict[str, dict[tuple[float, str], Pack]] = {}
    for row in session.execute(rows.order_by(PackRow.day, PackRow.noted_at)):
        packs = found.setdefault(row.origin_key or str(row.food_id), {})
        packs[float(row.grams), row.shop] = Pack(str(row.id), float(row.grams), row.price)
    return found


def packs_of(food: Food, noted: Noted) -> tuple[Pack, ...]:
    """The packs a food is sold in: its own, and those that were noted of it."""
    own = {} if food.pack_g is None else {(food.pack_g, ""): Pack(food.key, food.pack_g, food.price)}
    return tuple((own | dict(noted.get(food.key, {}))).values())


def list_packs(session: HouseholdSession, food_id: UUID) -> tuple[PackSeen, ...]:
    """Every pack of a food that was noted, the oldest first."""
    rows = select(PackRow).where(PackRow.food_id == food_id, PackRow.live == 1).order_by(PackRow.day, PackRow.noted_at)
    return tuple(PackSeen(row.id, float(row.grams), row.price, row.shop, row.day) for row in session.scalars(rows))


@dataclass(frozen=True)
class OnSale:
    """A food and every pack of it that was noted, the oldest first; its own pack is in the food."""

    food: Food
    packs: tuple[PackSeen, ...]


def food_on_sale(caller: Caller, food_key: str) -> OnSale:
    """A food with the packs that were noted of it.

    Raises:
        NotFound: when nobody knows the food.
    """
    with caller.transaction() as session:
        row = food_row(session, food_key)
        if row is not None:
            return OnSale(row.value(), list_packs(session, row.id))
        food = reference_foods().get(food_key)
        if food is None:
            raise NotFound("food")
        return OnSale(food, ())


def add_pack(caller: Caller, pack_id: UUID, food_key: str, pack: Pack, shop: str, day: date) -> None:
    """Note a pack of a food, and what it cost on a day. Sent twice it is noted once.

    Raises:
        NotFound: when nobody knows the food.
    """
    with caller.transaction() as session:
        food = foods_by_key(session, {food_key})[food_key]
        _add(session, PackRow(id=pack_id, food_id=food.id, shop=shop[:40], price=pack.price, day=day, live=1), pack)


def _add(session: HouseholdSession, row: PackRow, pack: Pack) -> None:
    row.grams, row.noted_at = grams(pack.grams), utc_now()
    add_once(session, row)


def remove_pack(caller: Caller, pack_id: UUID) -> None:
    """Take a pack out: a size that is not sold any more, or a price typed wrong.

    Raises:
        NotFound: when the household has no such pack.
    """
    with caller.transaction() as session:
        existing(session, PackRow, pack_id, "pack").live = None


def seen_price(session: HouseholdSession, event_id: UUID, food: FoodRow, event: ShelfEvent, today: date) -> None:
    """Note what a pack cost by what was paid: of the largest known pack that what was bought is a multiple of, else of
    one as large as all of it."""
    bought, paid = event.grams or 0.0, event.price or 0.0
    sizes = sorted((p.grams for p in packs_of(food.value(), noted_packs(session))), reverse=True)
    size = next(
        (s for s in sizes if s > 0 and abs(bought / s - round(bought / s)) * s < WHOLE_G and bought >= s), bought
    )
    if not 1 <= size <= 25_000:
        return
    pack = Pack(food.key, size, round(paid * size / bought, 2))
    _add(
        session, PackRow(id=event_id, food_id=food.id, shop=event.shop[:40], price=pack.price, day=today, live=1), pack
    )
