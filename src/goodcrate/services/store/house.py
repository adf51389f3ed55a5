"""What is in the house: boxes, leftovers and opened packs, how long they keep, and what of them is planned already."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from uuid import UUID, uuid5

from sqlalchemy import select

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import many, short, shown
from goodcrate.core.recipes.mixtures import keep_group_of
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.shop.pantry import Kept
from goodcrate.core.store.box import GONE, TAKEN_OUT, Box, BoxEvent, contents_tally
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
from goodcrate.db.store import BoxEventRow, BoxRow, OpenFoodRow
from goodcrate.formats.reference import keep_groups
from goodcrate.services.calling import Caller, NotFound, add_once, utc_now
from goodcrate.services.foods.own_foods import foods_by_key
from goodcrate.services.kitchen import setup_of
from goodcrate.services.recipes.library import RecipeValue, recipe_values
from goodcrate.services.recipes.pasting import weighed_foods
from goodcrate.services.store.boxes import boxes_there, boxes_with, happened, noted_box, pack, packed_event, undo
from goodcrate.services.store.pantry import KeptFood, food_kept

PLACES = {FRIDGE: Saying("fridge"), FREEZER: Saying("freezer"), CUPBOARD: Saying("cupboard")}
GROWN = frozenset({"vegetable", "fruit", "herb"})
"""Groups of foods that come without a date: their days count from the shop on."""
MOST_BOXES, SMALLEST_G, LARGEST_G = 60, 5.0, 5000.0


@dataclass(frozen=True)
class BoxesInHouse:
    """Equal boxes of a recipe that were put in together (their lot is `id`): those that are there, and those of them
    that no meal eats yet; what is in each, and until when they keep."""

    id: UUID
    recipe: Recipe
    boxes: tuple[Box, ...]
    grams: float
    servings: float
    kcal: float
    place: str
    since: date
    until: date
    why: str

    @property
    def count(self) -> int:
        """How many are there."""
        return len(self.boxes)

    @property
    def free_ids(self) -> tuple[UUID, ...]:
        """Those nobody eats yet."""
        return tuple(UUID(box.key) for box in self.boxes if box.for_meal is None)

    @property
    def free(self) -> int:
        """How many nobody eats yet."""
        return len(self.free_ids)

    @property
    def planned(self) -> int:
        """How many a meal is planned to eat."""
        return self.count - self.free

    @property
    def part(self) -> str:
        """The part of the dish that is in them, when that is not all of it: no meal is offered it as the dish."""
        made_of = {c.key: c.name for c in self.recipe.components if c.lines}
        held = {content.component_key for content in self.boxes[0].contents}
        if None in held or made_of.keys() <= held:
            return ""
        return ", ".join(made_of.get(str(key), "a part") for key in sorted(map(str, held)))

    @property
    def box(self) -> HouseBox:
        """Those nobody eats yet, as core offers them."""
        return HouseBox(str(self.id), self.recipe.key, self.grams, self.kcal, self.free, self.until)


@dataclass(frozen=True)
class FoodInHouse:
    """A food, opened or not, and why it keeps until then; `counted_g` is what it was when it was counted, if more;
    `printed` is the last day somebody gave."""

    id: UUID
    typed: str
    open: OpenFood
    place: str
    since: date
    why: str
    is_open: bool = True
    is_first: bool = False
    counted_g: float | None = None
    printed: date | None = None

    @property
    def weighed_in_g(self) -> float:
        """What was weighed into batches of it since it was counted, in g."""
        return 0.0 if self.counted_g is None else self.counted_g - self.open.grams

    @property
    def wants_using(self) -> bool:
        """Whether it is offered to be used up: what is open, has a last day, or is to be used first."""
        return self.is_open or self.is_first or self.open.until is not None


@dataclass(frozen=True)
class House:
    """All of it, what keeps shortest first."""

    boxes: tuple[BoxesInHouse, ...]
    foods: tuple[FoodInHouse, ...]

    @property
    def to_use_up(self) -> tuple[OpenFood, ...]:
        """The foods that are offered first to what is planned."""
        return tuple(f.open for f in self.foods if f.wants_using)

    @property
    def free_boxes(self) -> int:
        """Boxes that no meal eats yet."""
        return sum(b.free for b in self.boxes)


def house(caller: Caller) -> House:
    """What is in the house."""
    with caller.transaction() as session:
        return house_in(session)


def foods_in_house(session: HouseholdSession, kept: Sequence[KeptFood] | None = None) -> tuple[FoodInHouse, ...]:
    """The food in it, without boxes, what keeps shortest first; of what was read already, when it is given."""
    return _foods(session, food_kept(session) if kept is None else kept)


def _foods(session: HouseholdSession, kept: Sequence[KeptFood]) -> tuple[FoodInHouse, ...]:
    rule = setup_of(session).capacity.keep_rule if kept else CAUTIOUS
    opened = [_food(row, food, thing, rule) for row, food, thing in kept]
    return tuple(sorted(opened, key=lambda f: (f.open.until or date.max, f.open.name)))


def house_in(session: HouseholdSession) -> House:
    """The same inside the caller's transaction. What was packed for a meal is that meal's, and not among it."""
    lots: dict[tuple[str | None, float, str], list[Box]] = {}
    for box in boxes_there(session):
        lots.setdefault((box.lot_key, round(box.grams, 1), box.place), []).append(box)
    kept = food_kept(session)
    if not kept and not lots:
        return House((), ())
    rule = setup_of(session).capacity.keep_rule
    values = recipe_values(session, {UUID(lot[0].recipe_key) for lot in lots.values()})
    named = set[UUID]()
    boxes = []
    for lot in lots.values():
        lot_id = UUID(lot[0].lot_key or lot[0].key)
        if lot_id in named:  # one of the lot is elsewhere, or eaten from: it stands by itself
            lot_id = UUID(lot[0].key)
        named.add(lot_id)
        boxes.append(_boxes(lot_id, tuple(lot), values[UUID(lot[0].recipe_key)], rule))
    return House(tuple(sorted(boxes, key=lambda b: (b.until, b.recipe.name))), _foods(session, kept))


def _boxes(lot_id: UUID, lot: tuple[Box, ...], value: RecipeValue, rule: str) -> BoxesInHouse:
    one, serving = lot[0], value.serving.tally
    servings = one.grams / serving.grams if serving.grams > 0 else 1.0
    until, why = until_of(one, keeping_of(value.recipe, keep_groups(), rule), rule)
    share = one.grams / one.packed_g if one.packed_g > 0 else 0.0
    kcal = contents_tally(value.recipe, one.contents).scaled(share).amount("energy_kcal").value
    return BoxesInHouse(
        lot_id, value.recipe, lot, one.grams, servings, kcal, place=one.place, since=one.cooked_on, until=until, why=why
    )


def until_of(box: Box, keeping: DishKeeping | None, rule: str) -> tuple[date, str]:
    """The last day a box may be eaten, and why."""
    if box.until is not None:
        return box.until, say("the day you gave")
    if keeping is None:
        return box.cooked_on, say("nothing is known of it")
    group, is_frozen = keeping.group, box.place == FREEZER and bool(keeping.group.freezer_months)
    until = keeps_until(group, box.cooked_on, keeping.fridge_days, is_frozen=is_frozen)
    if is_frozen:
        months = many(group.freezer_months or 0, "month")
        return until, say("{months} frozen; {source}", months=months, source=group.source)
    decides = keeping.decided_by.lower()
    return until, say(
        "{fridge_days} by {rule} advice, {decides} decides; {source}",
        fridge_days=many(keeping.fridge_days, "day"),
        rule=rule,
        decides=decides,
        source=group.source,
    )


def _food(row: OpenFoodRow, food: FoodRow, thing: Kept, rule: str) -> FoodInHouse:
    until, why = _food_until(food.value(), row.place, thing, rule)
    opened = OpenFood(str(row.id), food.key, food.name, thing.grams, until)
    grams_then = None if thing.grams == float(row.grams) else float(row.grams)
    return FoodInHouse(
        row.id,
        row.typed,
        opened,
        row.place,
        thing.since,
        why,
        is_open=thing.is_open,
        is_first=row.is_first,
        counted_g=grams_then,
        printed=row.until,
    )


def _food_until(food: Food, place: str, thing: Kept, rule: str) -> tuple[date | None, str]:
    """The last day a food may be used, None where nobody knows it, and why."""
    if thing.until is not None:
        return thing.until, say("the date you gave")
    group = keep_groups().get(keep_group_of(food, cooked=False))
    if group is None:
        return None, say("nobody knows how long it keeps")
    if place == FREEZER and group.freezer_months:
        frozen_until = keeps_until(group, thing.since, 0, is_frozen=True)
        months = many(group.freezer_months, "month")
        return frozen_until, say("{months} frozen; {source}", months=months, source=group.source)
    if not thing.is_open and food.group not in GROWN:
        return None, say("not opened: the date on the pack counts")
    days = group.fridge_days_cautious if rule == CAUTIOUS else group.fridge_days_usual
    if group.keeps_dry and place == CUPBOARD:
        return None, say("keeps dry")
    told = say("{days} open by {rule} advice; {source}", days=many(days, "day"), rule=rule, source=group.source)
    if not thing.is_open:
        told = say("{days} by {rule} advice; {source}", days=many(days, "day"), rule=rule, source=group.source)
    return keeps_until(group, thing.since, days, is_frozen=False), told


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
    is_open: bool = True


def put_in(caller: Caller, typed: ThingInput) -> None:
    """Note what is in the house. Sending it twice notes it once.

    Raises:
        InvalidInputs: naming every field that cannot be used.
        NotFound: for a recipe the household does not have.
    """
    faults = []
    if typed.place not in PLACES:
        faults.append(
            InvalidInput(
                "place", say("“{place}” is no place for food.", place=typed.place), say("Fridge, freezer or cupboard.")
            )
        )
    if not 1 <= typed.count <= MOST_BOXES:
        faults.append(
            InvalidInput(
                "count",
                say("{count} boxes are not possible.", count=typed.count),
                say("1 to {MOST_BOXES}.", MOST_BOXES=MOST_BOXES),
            )
        )
    if typed.grams is not None and not SMALLEST_G <= typed.grams <= LARGEST_G:
        faults.append(
            InvalidInput(
                "grams",
                say("{grams} g in a box is not possible.", grams=short(typed.grams)),
                say("5 to {shown} g.", shown=shown(5000)),
            )
        )
    if typed.until is not None and typed.until < typed.since:
        faults.append(InvalidInput("until", say("It would be over before it began."), say("A later day.")))
    if faults:
        raise InvalidInputs(faults)
    with caller.transaction() as session:
        if typed.recipe_id is None:
            row = OpenFoodRow(id=typed.id, place=typed.place, since=typed.since, until=typed.until, typed="")
            row.counted_at, row.is_open = utc_now(), typed.is_open
            _read_food(session, row, typed.typed)
            add_once(session, row)
            return
        value = recipe_values(session, {typed.recipe_id}).get(typed.recipe_id)
        if value is None:
            raise InvalidInputs([InvalidInput("recipe_id", say("No recipe is chosen."), say("Choose one."))])
        in_each = typed.grams or value.serving.tally.grams
        if session.scalar(select(BoxRow.id).where(BoxRow.lot == typed.id).limit(1)) is not None:
            return
        for n in range(typed.count):
            box_id = uuid5(typed.id, f"box:{n}")
            box, content = noted_box(box_id, typed.id, typed.recipe_id, typed.since, in_each, typed.until)
            pack(session, caller, box, [content], packed_event(box_id, typed.place))


def _read_food(session: HouseholdSession, row: OpenFoodRow, typed: str) -> None:
    """A typed line as a food with its grams.

    Raises:
        InvalidInputs: when it is not understood.
    """
    found = weighed_foods(session, typed[:400], "typed", say("200 g quark"))
    if len(found) != 1:
        raise InvalidInputs([InvalidInput("typed", say("One food, with its amount."), say("Such as “200 g quark”."))])
    (food,) = found
    row.food_id = foods_by_key(session, {food.food_key})[food.food_key].id
    row.grams, row.typed = grams(food.amount.grams), food.said[:120]


@dataclass(frozen=True)
class TakenOut:
    """What became of boxes that are not there any more: how many of a lot (None: all that no meal eats), and why."""

    event_id: UUID
    kind: str = TAKEN_OUT
    count: int | None = None
    why: str = ""


def take_out(caller: Caller, thing_id: UUID, typed: TakenOut) -> None:
    """Say that an opened food, or boxes of a lot, are not in the house any more. Sending it twice says it once.

    Raises:
        NotFound: when the household has no such thing.
        InvalidInput: for what cannot become of a box, or more boxes than no meal eats.
    """
    if typed.kind not in GONE:
        raise InvalidInput(
            "kind",
            say("“{kind}” is no way for a box to go.", kind=typed.kind),
            say("One of {GONE}.", GONE=", ".join(GONE)),
        )
    with caller.transaction() as session:
        food = session.find(OpenFoodRow, thing_id)
        if food is not None:
            food.live = None
            return
        lot = _lot(session, thing_id)
        if any(session.find(BoxEventRow, uuid5(typed.event_id, box.key)) is not None for box in lot):
            return
        going = [box for box in lot if box.is_there and box.for_meal is None]
        if typed.count is not None:
            if not 1 <= typed.count <= len(going):
                wanted = say("{going} are there for nobody yet.", going=len(going))
                raise InvalidInput("count", say("{count} boxes cannot go.", count=typed.count), wanted)
            going = going[: typed.count]
        for box in going:
            event = BoxEvent(str(uuid5(typed.event_id, box.key)), typed.kind, utc_now(), why=typed.why)
            happened(session, caller, box, event)


def put_back(caller: Caller, thing_id: UUID, event_id: UUID | None = None) -> None:
    """Say that it is there after all: the boxes that went with one event, or all of the lot that are gone.

    Raises:
        NotFound: when the household has no such thing.
    """
    with caller.transaction() as session:
        food = session.find(OpenFoodRow, thing_id)
        if food is not None:
            food.live = 1
            return
        for box in _lot(session, thing_id):
            if box.state in GONE:
                last = next(e.key for e in reversed(box.log) if e.kind in GONE)
                if event_id is None or last == str(uuid5(event_id, box.key)):
                    undo(session, caller, UUID(last))


def _lot(session: HouseholdSession, lot: UUID) -> list[Box]:
    found = boxes_with(session, BoxRow.lot == lot) or boxes_with(session, BoxRow.id == lot)
    if not found:
        raise NotFound(say("thing in the house"))
    return found


def house_stays(
    session: HouseholdSession, placements: Sequence[Meal], recipes: Mapping[str, Recipe], rule: str
) -> dict[str, Stay]:
    """Where the boxes wait that meals eat from the house, by placing."""
    ids = {p.from_box for p in placements if p.from_box is not None}
    boxes = {UUID(b.key): b for b in boxes_with(session, BoxRow.id.in_(ids))} if ids else {}
    stays = {}
    for p in placements:
        box = boxes.get(p.from_box) if p.from_box is not None else None
        keeping = keeping_of(recipes[str(p.recipe_id)], keep_groups(), rule) if box is not None else None
        if box is None or keeping is None:
            continue
        last, _ = until_of(box, keeping, rule)
        stays[str(p.id)] = Stay(str(p.id), PAST if p.day > last else box.place, box.cooked_on, p.day, keeping)
    return stays
