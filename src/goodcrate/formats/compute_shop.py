"""The JSON of `crate compute shop`: needs, packs and the house in; the list in whole packs, and what it costs, out."""

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from goodcrate.core.foods.food import GROUPS, Food
from goodcrate.core.foods.packs import Pack
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.nutrients import KEYS, Composition
from goodcrate.core.recipes.mixtures import keep_group_of
from goodcrate.core.shop.costs import cost_by_dish, till_of
from goodcrate.core.shop.needs import Need, Use
from goodcrate.core.shop.shopping_list import ShopLine, ShoppingList, ShopRules, Stock, shopping_list
from goodcrate.formats.compute import Model
from goodcrate.formats.reference import keep_groups, reference_foods

Edible = Annotated[float, Field(gt=0, le=50_000)]
Stored = Annotated[float, Field(ge=0, le=1_000_000)]


class OwnFood(Model):
    """A food the reference table does not have."""

    name: str = Field(min_length=1, max_length=160)
    group: str = Field("", max_length=20, description=f"Its kind, which says how it keeps: {', '.join(GROUPS)}.")
    refuse_pct: float | None = Field(None, ge=0, le=95, description="Waste of what is bought; unknown when left out.")
    aisle: str = Field("", max_length=40)


class UseIn(Model):
    """Part of a need: edible grams for a dish, on the day they are weighed or eaten."""

    dish: str = Field(min_length=1, max_length=160)
    grams: Edible
    day: date


class PackIn(Model):
    """A pack on sale. Without a price it is unknown, not free."""

    grams: float
    price: float | None = None


class NeedIn(Model):
    """A food, its uses, the packs it is sold in, and what is always kept of it."""

    food: str | OwnFood = Field(description="A key of the reference table, or a food of your own.")
    uses: list[UseIn] = Field(min_length=1, max_length=2000)
    packs: list[PackIn] = Field(default_factory=list, max_length=8)
    floor_g: Stored = 0.0


class StockIn(Model):
    """What is in the house of a food (its key, or its name): grams as it stands there, and its last day."""

    food: str
    grams: Stored
    place: Literal["fridge", "freezer", "cupboard"] = "cupboard"
    until: date | None = None


class ShopRequest(Model):
    """What a week needs and what there is."""

    needs: list[NeedIn] = Field(min_length=1, max_length=2000)
    house: list[StockIn] = Field(default_factory=list, max_length=2000)
    aim: Literal["least_left", "least_cost"] = "least_left"
    keep_rule: Literal["cautious", "usual"] = "cautious"
    spare_pct: float = Field(0.0, ge=0, le=50, description="Bought on top for the usual loss.")
    next_use: date | None = Field(None, description="The first day after this week; what keeps shorter is frozen.")


class PacksOut(Model):
    """So many packs of one size."""

    grams: float
    count: int
    price: float | None


class LeftOut(Model):
    """What is over of the packs, and where it goes."""

    grams: float
    place: str
    until: date | None
    why: str


class ShopLineOut(Model):
    """One food. All grams are as bought, but `edible_g`."""

    food: str
    name: str
    aisle: str
    dishes: list[str]
    edible_g: float
    needed_g: float
    spare_g: float
    floor_g: float
    house_g: float
    past_g: float
    buy_g: float
    packs: list[PacksOut]
    left: LeftOut | None
    price: float | None
    price_is_estimated: bool


class DishOut(Model):
    """What all of a dish costs as eaten; with `at_least` an ingredient has no price."""

    dish: str
    cost: float
    estimated: float
    at_least: bool


class ShopResult(Model):
    """The list. `eaten` = `price` − `in_packs` + `from_house`; `unpriced` names the foods that are in no sum."""

    lines: list[ShopLineOut]
    price: float
    estimated: float
    unpriced: list[str]
    in_packs: float
    from_house: float
    eaten: float
    dishes: list[DishOut]


@contextmanager
def _at(place: str) -> Iterator[None]:
    """What cannot be is named with its place in the request."""
    try:
        yield
    except InvalidInput as fault:
        raise InvalidInput(place, fault.problem, fault.wanted) from None


def _food(given: str | OwnFood, place: str) -> Food:
    if isinstance(given, str):
        try:
            return reference_foods()[given]
        except KeyError:
            raise InvalidInput(place, f"“{given}” is no key of the reference table.") from None
    usual = GROUPS.get(given.group)
    if given.group and usual is None:
        raise InvalidInput(f"{place}.group", f"“{given.group}” is no kind of food.", f"One of {', '.join(GROUPS)}.")
    return Food(
        given.name,
        given.name,
        "ready",
        given.group,
        Composition((None,) * len(KEYS)),
        refuse_pct=given.refuse_pct,
        keep_group="" if usual is None else usual.keep_group,
        aisle=given.aisle,
    )


def compute_shop(request: ShopRequest) -> ShopResult:
    """Make the list.

    Raises:
        InvalidInput: naming the place of what cannot be used.
    """
    needs, packs = [], dict[str, list[Pack]]()
    for n, given in enumerate(request.needs):
        food = _food(given.food, f"needs.{n}.food")
        if food.key in packs:
            raise InvalidInput(f"needs.{n}.food", f"“{food.key}” stands here twice.", "Put its uses together.")
        uses = sorted((Use(u.dish, u.grams, u.day) for u in given.uses), key=lambda u: (u.day, u.dish))
        needs.append(Need(food, tuple(uses)))
        packs[food.key] = []
        for m, pack in enumerate(given.packs):
            with _at(f"needs.{n}.packs.{m}"):
                packs[food.key].append(Pack(f"{food.key} {m}", pack.grams, pack.price))
    foods = {need.food.key for need in needs}
    for n, there in enumerate(request.house):
        if there.food not in foods:
            raise InvalidInput(f"house.{n}.food", f"Nothing here needs “{there.food}”.", "Name a food of the needs.")
    groups = {
        need.food.key: group
        for need in needs
        if (group := keep_groups().get(keep_group_of(need.food, cooked=False))) is not None
    }
    rules = ShopRules(
        packs,
        groups,
        request.keep_rule,
        request.aim,
        request.spare_pct,
        {need.food.key: given.floor_g for need, given in zip(needs, request.needs, strict=True)},
        next_use=request.next_use,
    )
    stock = [Stock(there.food, there.grams, there.place, there.until) for there in request.house]
    with _at("needs"):
        return _result(shopping_list(needs, stock, rules))


def _result(shopping: ShoppingList) -> ShopResult:
    till = till_of(shopping)
    return ShopResult(
        lines=[_line(line) for line in shopping.lines],
        price=shopping.price,
        estimated=shopping.estimated,
        unpriced=[line.food.key for line in shopping.unpriced],
        in_packs=till.in_packs,
        from_house=till.from_house,
        eaten=round(till.eaten, 4),
        dishes=[
            DishOut(dish=d.dish, cost=round(d.cost, 4), estimated=round(d.estimated, 4), at_least=d.is_at_least)
            for d in cost_by_dish(shopping)
        ],
    )


def _line(line: ShopLine) -> ShopLineOut:
    left = line.remains
    bought: Sequence[tuple[Pack, int]] = () if line.buying is None else line.buying.packs
    return ShopLineOut(
        food=line.food.key,
        name=line.food.name,
        aisle=line.food.aisle,
        dishes=list(line.need.dishes),
        edible_g=round(line.need.edible_g, 1),
        needed_g=round(line.needed_g, 1),
        spare_g=round(line.spare_g, 1),
        floor_g=round(line.floor_g, 1),
        house_g=round(line.house_g, 1),
        past_g=round(line.past_g, 1),
        buy_g=line.buy_g,
        packs=[PacksOut(grams=pack.grams, count=count, price=pack.price) for pack, count in bought],
        left=None if left is None else LeftOut(grams=left.grams, place=left.place, until=left.until, why=left.why),
        price=line.price,
        price_is_estimated=line.is_price_estimated,
    )
