"""The shopping list of a week: its batches, extras and sessions with the house, the packs and the rule of keeping."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date, timedelta

from goodcrate.core.foods.food import Food
from goodcrate.core.recipes.mixtures import keep_group_of
from goodcrate.core.shop.needs import BatchToBuyFor, Need, Use, needs_of
from goodcrate.core.shop.packs import Pack
from goodcrate.core.shop.shopping_list import ShoppingList, ShopRules, Stock, shopping_list
from goodcrate.formats.reference import keep_groups, reference_foods
from goodcrate.services.calling import Caller
from goodcrate.services.store.house import House, house
from goodcrate.services.week.weeks import WeekPicture, week_picture


@dataclass(frozen=True)
class WeekShopping:
    """A week's list, the boxes of each dish, and how many of its meals nothing is bought for: no session cooks them."""

    picture: WeekPicture
    shopping: ShoppingList
    boxes: Mapping[str, int]
    not_cooked: int


def shopping_of(caller: Caller, first_day: date) -> WeekShopping | None:
    """What a week has to buy, or None when it was never opened. What stands weighed in has been bought."""
    picture = week_picture(caller, first_day)
    if picture is None:
        return None
    there = house(caller)
    key = ("shopping", tuple(f.open for f in there.foods))
    return picture.once(key, lambda: _shopping_of(picture, there))


def _shopping_of(picture: WeekPicture, there: House) -> WeekShopping:
    batches = tuple(_batches(picture))
    needs = needs_of(batches, _extras(picture), _raw_of(picture))
    stock = [Stock(f.open.food_key, f.open.grams, f.place, f.open.until) for f in there.foods]
    rules = ShopRules(
        _packs(needs),
        {n.food.key: group for n in needs if (group := keep_groups().get(keep_group_of(n.food, cooked=False)))},
        picture.capacity.keep_rule,
        next_use=picture.dates[-1] + timedelta(days=1),
    )
    cooked = [meal for meal in picture.meals if meal.from_box is None]
    served = {portion.placing_key for worked in picture.outcome.batches for portion in worked.plan.portions}
    boxes: dict[str, int] = {}
    for meal in cooked:
        name = picture.recipes[str(meal.recipe_id)].name
        boxes[name] = boxes.get(name, 0) + 1
    not_cooked = sum(str(meal.id) not in served for meal in cooked)
    return WeekShopping(picture, shopping_list(needs, stock, rules), boxes, not_cooked)


def _batches(picture: WeekPicture) -> Iterable[BatchToBuyFor]:
    days = {session.key: session.starts_at.date() for session in picture.sessions}
    eaten = {str(meal.id): meal.day for meal in picture.meals}
    for worked in picture.outcome.batches:
        plan, state = worked.plan, worked.outcome.state
        open_lines = tuple(line for line in state.lines if line.key not in state.weighed_keys)
        portions = tuple((eaten[portion.placing_key], portion.grams) for portion in plan.portions)
        yield BatchToBuyFor(picture.recipes[plan.recipe_key].name, days[plan.session_key], open_lines, portions)


def _extras(picture: WeekPicture) -> Iterable[tuple[Food, Use]]:
    """What eaters have every day besides their boxes."""
    for eater in picture.eaters:
        for extra in eater.extras:
            if extra.food is not None:
                for day in picture.dates:
                    yield extra.food, Use(extra.text, extra.tally.grams, day)


def _raw_of(picture: WeekPicture) -> Mapping[str, Food]:
    """By a cooked food's key the raw one it comes from, where the table knows just one."""
    from_raw: dict[str, list[Food]] = {}
    for food in reference_foods().values():
        if food.cooked_key:
            from_raw.setdefault(food.cooked_key, []).append(food)
    used = {line.food.key for worked in picture.outcome.batches for line in worked.record.lines}
    return {key: raws[0] for key, raws in from_raw.items() if key in used and len(raws) == 1}


def _packs(needs: Iterable[Need]) -> Mapping[str, tuple[Pack, ...]]:
    return {
        need.food.key: (Pack(need.food.key, need.food.pack_g, need.food.price),)
        for need in needs
        if need.food.pack_g is not None
    }
