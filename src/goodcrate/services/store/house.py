"""What is in the house: boxes, leftovers and opened packs, how long they keep, and what of them is planned already."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from uuid import UUID

from sqlalchemy import func, select

from goodcrate.core.ground.amounts import many
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.recipes.mixtures import keep_group_of
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.store.boxes_in_house import HouseBox, OpenFood
from goodcrate.core.week.meals import Meal
from goodcrate.core.week.storing import (
    CAUTIOUS,
    CUPBOARD,
    FREEZER,
    FRIDGE,
    PAST,
    DishKeeping,
    Stay,
    keeping_of,
    keeps_until,
)
from goodcrate.db.base import grams
from goodcrate.db.foods import FoodRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.store import HouseRow
from goodcrate.db.week import PlacementRow
from goodcrate.formats.reference import keep_groups
from goodcrate.services.calling import Caller, add_once, existing
from goodcrate.services.foods.own_foods import foods_by_key
from goodcrate.services.kitchen import setup_of
from goodcrate.services.recipes.library import RecipeValue, recipe_values
from goodcrate.services.recipes.pasting import weighed_foods

PLACES = {FRIDGE: "fridge", FREEZER: "freezer", CUPBOARD: "cupboard"}
MOST_BOXES, SMALLEST_G, LARGEST_G = 60, 5.0, 5000.0


@dataclass(frozen=True)
class BoxesInHouse:
    """Equal boxes of a recipe: how many there were, how many no meal eats yet, and until when they keep."""

    id: UUID
    recipe: Recipe
    count: int
    free: int
    grams: float
    servings: float
    kcal: float
    place: str
    since: date
    until: date
    why: str

    @property
    def box(self) -> HouseBox:
        """Those nobody eats yet, as core offers them."""
        return HouseBox(str(self.id), self.recipe.key, self.grams, self.kcal, self.free, self.until)


@dataclass(frozen=True)
class FoodInHouse:
    """An opened food, and why it keeps until then."""

    id: UUID
    typed: str
    open: OpenFood
    place: str
    since: date
    why: str


@dataclass(frozen=True)
class House:
    """All of it, what keeps shortest first."""

    boxes: tuple[BoxesInHouse, ...]
    foods: tuple[FoodInHouse, ...]

    @property
    def free_boxes(self) -> int:
        """Boxes that no meal eats yet."""
        return sum(b.free for b in self.boxes)


def house(caller: Caller) -> House:
    """What is in the house."""
    with caller.transaction() as session:
        return house_in(session)


def house_in(session: HouseholdSession) -> House:
    """The same inside the caller's transaction."""
    rows = session.scalars(select(HouseRow).where(HouseRow.live == 1).order_by(HouseRow.since, HouseRow.id)).all()
    if not rows:
        return House((), ())
    rule = setup_of(session).capacity.keep_rule
    counts = session.execute(
        select(PlacementRow.from_house, func.count())
        .where(PlacementRow.live == 1, PlacementRow.from_house.is_not(None))
        .group_by(PlacementRow.from_house)
    )
    eaten = {box_id: count for box_id, count in counts if box_id is not None}
    values = recipe_values(session, {row.recipe_id for row in rows if row.recipe_id is not None})
    boxes = [_boxes(row, values[row.recipe_id], rule, eaten.get(row.id, 0)) for row in rows if row.recipe_id in values]
    ids = {row.food_id for row in rows if row.food_id is not None}
    foods = {f.id: f for f in session.scalars(select(FoodRow).where(FoodRow.id.in_(ids)))} if ids else {}
    opened = [_food(row, foods[row.food_id], rule) for row in rows if row.food_id in foods]
    return House(
        tuple(sorted(boxes, key=lambda b: (b.until, b.recipe.name))),
        tuple(sorted(opened, key=lambda f: (f.open.until or date.max, f.open.name))),
    )


def _boxes(row: HouseRow, value: RecipeValue, rule: str, eaten: int) -> BoxesInHouse:
    serving = value.serving.tally
    servings = float(row.grams) / serving.grams if serving.grams > 0 else 1.0
    keeping = keeping_of(value.recipe, keep_groups(), rule)
    until, why = _until(row, keeping, rule)
    return BoxesInHouse(
        row.id, value.recipe, row.count, max(0, row.count - eaten), float(row.grams), servings,
        serving.amount("energy_kcal").value * servings, row.place, row.since, until, why,
    )  # fmt: skip


def _until(row: HouseRow, keeping: DishKeeping | None, rule: str) -> tuple[date, str]:
    """The last day a box may be eaten, and why."""
    if row.until is not None:
        return row.until, "the day you gave"
    if keeping is None:
        return row.since, "nothing is known of it"
    group, is_frozen = keeping.group, row.place == FREEZER and bool(keeping.group.freezer_months)
    until = keeps_until(group, row.since, keeping.fridge_days, is_frozen=is_frozen)
    if is_frozen:
        return until, f"{many(group.freezer_months or 0, 'month')} frozen; {group.source}"
    decides = keeping.decided_by.lower()
    return until, f"{many(keeping.fridge_days, 'day')} by {rule} advice, {decides} decides; {group.source}"


def _food(row: HouseRow, food: FoodRow, rule: str) -> FoodInHouse:
    group = keep_groups().get(keep_group_of(food.value(), cooked=False))
    until, why = row.until, "the date you gave"
    if until is None and group is not None:
        days = group.fridge_days_cautious if rule == CAUTIOUS else group.fridge_days_usual
        frozen = row.place == FREEZER and bool(group.freezer_months)
        until = keeps_until(group, row.since, days, is_frozen=frozen)
        why = (
            f"{many(group.freezer_months or 0, 'month')} frozen"
            if frozen
            else f"{many(days, 'day')} open by {rule} advice"
        )
        why += f"; {group.source}"
    opened = OpenFood(str(row.id), food.key, food.name, float(row.grams), until)
    return FoodInHouse(row.id, row.typed, opened, row.place, row.since, why)


@dataclass(frozen=True)
class ThingInput:
    """Boxes of a recipe, or a food typed as “200 g quark”; `id` is made by the client."""

    id: UUID
    place: str
    since: date
    until: date | None = None
    recipe_id: UUID | None = None
    count: int = 1
    grams: float | None = None
    typed: str = ""


def put_in(caller: Caller, typed: ThingInput) -> None:
    """Note what is in the house. Sending it twice notes it once.

    Raises:
        InvalidInputs: naming every field that cannot be used.
        NotFound: for a recipe the household does not have.
    """
    faults = []
    if typed.place not in PLACES:
        faults.append(InvalidInput("place", f"“{typed.place}” is no place for food.", "Fridge, freezer or cupboard."))
    if not 1 <= typed.count <= MOST_BOXES:
        faults.append(InvalidInput("count", f"{typed.count} boxes are not possible.", f"1 to {MOST_BOXES}."))
    if typed.grams is not None and not SMALLEST_G <= typed.grams <= LARGEST_G:
        faults.append(InvalidInput("grams", f"{typed.grams:g} g in a box is not possible.", "5 to 5,000 g."))
    if typed.until is not None and typed.until < typed.since:
        faults.append(InvalidInput("until", "It would be over before it began.", "A later day."))
    if faults:
        raise InvalidInputs(faults)
    with caller.transaction() as session:
        row = HouseRow(
            id=typed.id, count=typed.count, place=typed.place, since=typed.since, until=typed.until, typed=""
        )
        if typed.recipe_id is not None:
            value = recipe_values(session, {typed.recipe_id}).get(typed.recipe_id)
            if value is None:
                raise InvalidInputs([InvalidInput("recipe", "No recipe is chosen.", "Choose one.")])
            row.recipe_id, row.grams = typed.recipe_id, grams(typed.grams or value.serving.tally.grams)
        else:
            _read_food(session, row, typed.typed)
        add_once(session, row)


def _read_food(session: HouseholdSession, row: HouseRow, typed: str) -> None:
    """A typed line as a food with its grams.

    Raises:
        InvalidInputs: when it is not understood.
    """
    found = weighed_foods(session, typed[:400], "typed", "200 g quark")
    if len(found) != 1:
        raise InvalidInputs([InvalidInput("typed", "One food, with its amount.", "Such as “200 g quark”.")])
    (food,) = found
    row.food_id = foods_by_key(session, {food.food_key})[food.food_key].id
    row.grams, row.typed = grams(food.amount.grams), food.said[:120]


def take_out(caller: Caller, row_id: UUID, *, there: bool = False) -> None:
    """Say that something is not in the house any more, or (`there`) that it is after all.

    Meals that were placed from it stay.

    Raises:
        NotFound: when the household has no such thing.
    """
    with caller.transaction() as session:
        existing(session, HouseRow, row_id, "thing in the house").live = 1 if there else None


def house_stays(
    session: HouseholdSession, placements: Sequence[Meal], recipes: Mapping[str, Recipe], rule: str
) -> dict[str, Stay]:
    """Where the boxes wait that meals eat from the house, by placing."""
    ids = {p.from_house for p in placements if p.from_house is not None}
    rows = {r.id: r for r in session.scalars(select(HouseRow).where(HouseRow.id.in_(ids)))} if ids else {}
    stays = {}
    for p in placements:
        row = rows.get(p.from_house) if p.from_house is not None else None
        keeping = keeping_of(recipes[str(p.recipe_id)], keep_groups(), rule) if row is not None else None
        if row is None or keeping is None:
            continue
        last, _ = _until(row, keeping, rule)
        stays[str(p.id)] = Stay(str(p.id), PAST if p.day > last else row.place, row.since, p.day, keeping)
    return stays
