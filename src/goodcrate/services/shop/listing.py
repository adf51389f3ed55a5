"""The shopping list of a week: its batches, extras and sessions with the house, the packs and the rule of keeping."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from functools import cached_property
from uuid import UUID

from goodcrate.core.foods.food import Food
from goodcrate.core.recipes.mixtures import keep_group_of
from goodcrate.core.shop.costs import Eaten
from goodcrate.core.shop.label_reminders import labels_to_read
from goodcrate.core.shop.needs import BatchToBuyFor, Need, Use, needs_of
from goodcrate.core.shop.shelf import BOUGHT, ShelfEvent
from goodcrate.core.shop.shopping_list import ShopLine, ShoppingList, ShopRules, Stock, shopping_list
from goodcrate.core.targets.excluding import Exclusions
from goodcrate.db.changes import Kept
from goodcrate.db.session import HouseholdSession
from goodcrate.formats.reference import keep_groups
from goodcrate.services.calling import Caller
from goodcrate.services.foods.bought_as import raw_by_cooked
from goodcrate.services.foods.packs_known import Noted, noted_packs, packs_of
from goodcrate.services.shop.habits import ShopSettings, floors_in, settings_in
from goodcrate.services.shop.shelf import Shelf, shelf_in
from goodcrate.services.store.house import FoodInHouse, foods_in_house
from goodcrate.services.week.instead import Instead, list_instead
from goodcrate.services.week.weeks import WeekPicture, picture_in


@dataclass(frozen=True)
class WeekShopping:
    """A week's list.

    `shopping` is the whole of it, as if nothing had been bought for it yet; `still` has each food with all that
    is in the house now. `shelf` is what was said at the shelf, up to event `seq`. `unread` are recipe
    lines nobody has confirmed, each with its dish. `boxes` counts them by dish; `not_cooked` meals have no session.
    """

    picture: WeekPicture
    shopping: ShoppingList
    still: Mapping[str, ShopLine]
    shelf: Mapping[str, ShelfEvent]
    seq: int
    boxes: Mapping[str, int]
    eaten: tuple[Eaten, ...]
    not_cooked: int
    unread: tuple[tuple[str, str], ...]
    instead: tuple[Instead, ...]
    settings: ShopSettings
    floors: Mapping[str, float]
    labels: Mapping[str, tuple[frozenset[str], tuple[str, ...]]]

    @cached_property
    def bought(self) -> Mapping[str, ShelfEvent]:
        """What was bought for it, by food."""
        return {key: event for key, event in self.shelf.items() if event.kind == BOUGHT}


@dataclass(frozen=True)
class Around:
    """What a list depends on besides the picture of its week."""

    foods: tuple[FoodInHouse, ...]
    shelf: Shelf
    packs: Noted
    floors: Mapping[str, tuple[Food, float]]
    instead: tuple[Instead, ...]
    settings: ShopSettings

    @property
    def stock(self) -> Mapping[UUID, Stock]:
        """The food in the house, by its row."""
        return {f.id: Stock(f.open.food_key, f.open.grams, f.place, f.open.until) for f in self.foods}


def shopping_of(caller: Caller, first_day: date) -> WeekShopping | None:
    """What a week has to buy, or None when it was never opened. What stands weighed in has been bought."""
    with caller.transaction() as session:
        return _LISTS.get(session, (first_day,), lambda: _list(session, first_day))


_LISTS: Kept[WeekShopping | None] = Kept(64)


def _list(session: HouseholdSession, first_day: date) -> WeekShopping | None:
    picture = picture_in(session, first_day)
    if picture is None:
        return None
    needs = picture.once("needs", lambda: _needs(picture))
    return _shopping_of(picture, needs, around_of(session, picture.week.id))


def _needs(picture: WeekPicture) -> tuple[Need, ...]:
    used = {line.food.key for worked in picture.outcome.batches for line in worked.record.lines}
    raw_of = {key: raw for key, raw in raw_by_cooked().items() if key in used}
    return needs_of(batches_of(picture), extras_of(picture), raw_of)


_AROUND: Kept[Around] = Kept(64)


def around_of(session: HouseholdSession, week_id: UUID) -> Around:
    """What a list depends on besides its week; to be asked first in a transaction that only reads."""
    return _AROUND.get(session, ("shopping", week_id), lambda: _around(session, week_id))


def _around(session: HouseholdSession, week_id: UUID) -> Around:
    foods = _FOODS.get(session, (), lambda: foods_in_house(session))
    shelf = shelf_in(session, week_id)
    packs, floors, instead, settings = _HABITS.get(session, (week_id,), lambda: _habits(session, week_id))
    return Around(foods, shelf, packs, floors, instead, settings)


_Habits = tuple[Noted, Mapping[str, tuple[Food, float]], tuple[Instead, ...], ShopSettings]
_FOODS: Kept[tuple[FoodInHouse, ...]] = Kept(64)
_HABITS: Kept[_Habits] = Kept(64)


def _habits(session: HouseholdSession, week_id: UUID) -> _Habits:
    return noted_packs(session), floors_in(session), list_instead(session, week_id), settings_in(session)


def _shopping_of(picture: WeekPicture, needs: Sequence[Need], around: Around) -> WeekShopping:
    wanted = with_floors(needs, around)
    stock = around.stock
    before = [thing for row_id, thing in stock.items() if row_id not in around.shelf.stored]
    rules = rules_of(picture, wanted, around)
    whole = shopping_list(wanted, before, rules)
    now = (
        whole
        if len(before) == len(stock)
        else shopping_list(wanted, tuple(stock.values()), replace(rules, spare_pct=0))
    )
    cooked = [meal for meal in picture.meals if meal.from_box is None]
    served = {portion.placing_key for worked in picture.outcome.batches for portion in worked.plan.portions}
    names = {meal.id: picture.recipes[str(meal.recipe_id)].name for meal in cooked}
    boxes: dict[str, int] = {}
    for name in names.values():
        boxes[name] = boxes.get(name, 0) + 1
    dishes = {str(meal.recipe_id) for meal in cooked}
    return WeekShopping(
        picture,
        whole,
        {line.food.key: line for line in now.lines},
        around.shelf.foods,
        around.shelf.seq,
        boxes,
        eaten=tuple(Eaten(names[meal.id], meal.day, meal.servings) for meal in cooked),
        not_cooked=sum(str(meal.id) not in served for meal in cooked),
        unread=tuple(
            (p.text, picture.recipes[key].name) for key in sorted(dishes) for p in picture.recipes[key].pending
        ),
        instead=around.instead,
        settings=around.settings,
        floors=rules.floors,
        labels=labels_to_read(_eaten_by(picture)),
    )


def _eaten_by(picture: WeekPicture) -> Iterable[tuple[Exclusions, Food]]:
    """Who eats which food of the week."""
    eaters = {eater.id: eater for eater in picture.eaters}
    for eater_id, recipe_key in dict.fromkeys((m.eater_id, str(m.recipe_id)) for m in picture.meals if not m.from_box):
        for line in picture.recipes[recipe_key].lines:
            yield eaters[eater_id].exclusions, line.food


def with_floors(needs: Sequence[Need], around: Around) -> list[Need]:
    """What is needed, and what is always kept, by name."""
    needed = {n.food.key for n in needs}
    kept = [Need(food, ()) for key, (food, _) in around.floors.items() if key not in needed]
    return sorted((*needs, *kept), key=lambda n: (n.food.name, n.food.key))


def rules_of(picture: WeekPicture, wanted: Sequence[Need], around: Around) -> ShopRules:
    """What a list of a week is made by."""
    return ShopRules(
        {n.food.key: packs_of(n.food, around.packs) for n in wanted},
        {n.food.key: group for n in wanted if (group := keep_groups().get(keep_group_of(n.food, cooked=False)))},
        picture.capacity.keep_rule,
        aim=around.settings.aim,
        spare_pct=around.settings.spare_pct,
        floors={key: grams for key, (_, grams) in around.floors.items()},
        next_use=picture.dates[-1] + timedelta(days=1),
    )


def batches_of(picture: WeekPicture) -> Iterable[BatchToBuyFor]:
    """Its batches as far as they are not weighed in."""
    days = {session.key: session.starts_at.date() for session in picture.sessions}
    eaten = {str(meal.id): meal.day for meal in picture.meals}
    for worked in picture.outcome.batches:
        plan, state = worked.plan, worked.outcome.state
        open_lines = tuple(line for line in state.lines if line.key not in state.weighed_keys)
        portions = tuple((eaten[portion.placing_key], portion.grams) for portion in plan.portions)
        yield BatchToBuyFor(picture.recipes[plan.recipe_key].name, days[plan.session_key], open_lines, portions)


def extras_of(picture: WeekPicture) -> Iterable[tuple[Food, Use]]:
    """What eaters have every day besides their boxes."""
    for eater in picture.eaters:
        for extra in eater.extras:
            if extra.food is not None:
                for day in picture.dates:
                    yield extra.food, Use(extra.text, extra.tally.grams, day)
