"""Something else taken at the shelf: what it brings to the boxes, and the recipes of the week that follow it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from uuid import UUID, uuid5

from sqlalchemy import select

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.shop.shelf import INSTEAD, OPEN, ShelfEvent
from goodcrate.core.targets.excluding import why_not_food
from goodcrate.core.week.meals import Meal
from goodcrate.db.foods import FoodRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.shop import InsteadRow
from goodcrate.services.calling import Caller, NotFound, add_once, existing
from goodcrate.services.foods.own_foods import foods_by_key
from goodcrate.services.shop.shelf import note_in
from goodcrate.services.week.weeks import WeekPicture, existing_week, take_turns, week_picture


@dataclass(frozen=True)
class Told:
    """What another food would bring to a week's boxes: how many of them hold it, the grams, and the shift of energy and
    protein in all of them together (None: a figure is unknown); `why_not` is why somebody must not get it."""

    food: Food
    grams: float
    boxes: int
    energy_kcal: float | None
    protein_g: float | None
    why_not: str = ""

    @property
    def energy_a_box(self) -> float | None:
        """The shift of energy in a box, in kcal."""
        return None if self.energy_kcal is None or not self.boxes else self.energy_kcal / self.boxes

    @property
    def protein_a_box(self) -> float | None:
        """The shift of protein in a box, in g."""
        return None if self.protein_g is None or not self.boxes else self.protein_g / self.boxes


def told_of(picture: WeekPicture, food_key: str, other: Food) -> Told:
    """What it would bring to take another food wherever a week's recipes say one."""
    meals = [m for m in picture.meals if m.from_box is None]
    users = [m for m in meals if any(x.food.key == food_key for x in picture.recipes[str(m.recipe_id)].lines)]
    grams = energy = protein = 0.0
    is_known = True
    for worked in picture.outcome.batches:
        for line in (x for x in worked.outcome.state.lines if x.food.key == food_key):
            kept_g = abs(line.kept_g)
            grams += kept_g
            for key in ("energy_kcal", "protein_g"):
                before, after = line.food.composition.get(key), other.composition.get(key)
                if before is None or after is None:
                    is_known = False
                elif key == "energy_kcal":
                    energy += (after - before) / 100 * kept_g
                else:
                    protein += (after - before) / 100 * kept_g
    return Told(
        other,
        grams,
        len(users),
        energy if is_known else None,
        protein if is_known else None,
        _why_not(picture, users, other),
    )


def _why_not(picture: WeekPicture, users: Sequence[Meal], other: Food) -> str:
    eating = {meal.eater_id for meal in users}
    whys = (why_not_food(eater.exclusions, other) for eater in picture.eaters if eater.id in eating)
    return next((why for why in whys if why), "")


@dataclass(frozen=True)
class Swap:
    """A food and the one that is taken instead, by their keys."""

    food_key: str
    other_key: str


def take_instead(caller: Caller, first_day: date, row_id: UUID, swap: Swap, today: date) -> None:
    """Take another food wherever a week's recipes say one, from now on. Batches that are begun stay as they are.

    Raises:
        NotFound: when there is no such week or food.
        InvalidInput: when it is the same food, or somebody who eats it must not get it.
    """
    picture = week_picture(caller, first_day)
    if picture is None:
        raise NotFound("week")
    if swap.food_key == swap.other_key:
        raise InvalidInput("other", say("That is the same food."), say("Choose another."))
    with caller.transaction() as session:
        take_turns(session, first_day)
        if session.find(InsteadRow, row_id) is not None:
            return
        foods = foods_by_key(session, {swap.food_key, swap.other_key})
        food, other = foods[swap.food_key], foods[swap.other_key]
        if why_not := told_of(picture, swap.food_key, other.value()).why_not:
            raise InvalidInput("other", why_not, say("Choose another."))
        _end_those_before(session, picture.week.id, food.id, other.id)
        row = InsteadRow(id=row_id, week_id=picture.week.id, food_id=food.id, instead_id=other.id, live=1)
        add_once(session, row)
        event = ShelfEvent(swap.food_key, INSTEAD)
        note_in(session, caller, existing_week(session, first_day), uuid5(row_id, "taken"), event, today)


def _end_those_before(session: HouseholdSession, week_id: UUID, food_id: UUID, other_id: UUID) -> None:
    """What was taken for this food before, and the same the other way round, is taken no more."""
    for row in session.scalars(select(InsteadRow).where(InsteadRow.week_id == week_id, InsteadRow.live == 1)):
        if row.food_id == food_id or (row.food_id, row.instead_id) == (other_id, food_id):
            row.live = None
    session.flush()


def undo_instead(caller: Caller, first_day: date, row_id: UUID, today: date) -> None:
    """Take again what the recipes say.

    Raises:
        NotFound: when the week takes nothing instead under this id.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        row = existing(session, InsteadRow, row_id, say("food instead"))
        if row.live is None:
            return
        row.live = None
        week = existing_week(session, first_day)
        food = existing(session, FoodRow, row.food_id, "food")
        event = ShelfEvent(food.key, OPEN)
        note_in(session, caller, week, uuid5(row_id, "undone"), event, today)
