"""A meal that is no recipe: a pear, bread and butter, 120 kcal of hazelnuts, placed in a slot as it is typed."""

from datetime import date
from uuid import UUID, uuid5

from sqlalchemy import select

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.db.recipes import RecipeRow
from goodcrate.services.calling import Caller, existing
from goodcrate.services.foods.own_foods import food_values
from goodcrate.services.household import seed_of
from goodcrate.services.recipes.library import PLAIN
from goodcrate.services.recipes.pasting import WeighedFood, weighed_foods
from goodcrate.services.recipes.recipe_input import ComponentInput, LineInput, RecipeInput
from goodcrate.services.recipes.saving import save_recipe
from goodcrate.services.week.placing import PlaceInput, place

MOST_FOODS, LONGEST = 4, 400


def place_plain(
    caller: Caller, first_day: date, place_id: UUID, eater_id: UUID, slot_id: UUID, day: date, *, typed: str
) -> None:
    """Put a food or a few, typed a line each, into a slot. They are planned, bought and counted as any meal; the same
    foods with the same grams are the same meal on every day. Sending it twice places once.

    Raises:
        NotFound: when week, eater or slot is not the household's.
        InvalidInputs: naming every line that is not understood, or what the eater must not get.
        StaleWrite: when somebody filled the same slot at the same moment.
    """
    with caller.transaction() as session:
        foods = weighed_foods(session, typed[:LONGEST], "plain", say("160 g pear"))
    if not 1 <= len(foods) <= MOST_FOODS:
        told = say("Nothing is typed.") if not foods else say("These are more than {most} foods.", most=MOST_FOODS)
        raise InvalidInputs([InvalidInput("plain", told, say("Such as “160 g pear”; more than a few are a recipe."))])
    recipe_id = _recipe_id(seed_of(caller), foods)
    with caller.transaction() as session:
        is_new = session.find(RecipeRow, recipe_id) is None
    if is_new:
        save_recipe(caller, _recipe(caller, recipe_id, foods))
        with caller.transaction() as session:
            existing(session, RecipeRow, recipe_id, "recipe").is_archived = True  # offered nowhere by itself
    place(caller, first_day, PlaceInput(place_id, eater_id, slot_id, recipe_id, 1.0, (day,)))


def count_plain(caller: Caller) -> int:
    """How many plain foods were placed as meals so far."""
    with caller.transaction() as session:
        return len(session.scalars(select(RecipeRow.id).where(RecipeRow.origin == PLAIN)).all())


def _recipe_id(seed: UUID, foods: list[WeighedFood]) -> UUID:
    made_of = "|".join(f"{food.food_key}:{food.amount.grams:.1f}" for food in foods)
    return uuid5(seed, f"plain:{made_of}")


def _recipe(caller: Caller, recipe_id: UUID, foods: list[WeighedFood]) -> RecipeInput:
    known = food_values(caller, {food.food_key for food in foods})
    names = [known[food.food_key].name.split(",")[0] for food in foods]
    name = names[0] if len(names) == 1 else say("{some} and {last}", some=", ".join(names[:-1]), last=names[-1].lower())
    lines = tuple(
        LineInput(
            uuid5(recipe_id, f"line:{n}"),
            food.food_key,
            food.amount.grams,
            food.amount.measure,
            typed=food.amount.typed,
        )
        for n, food in enumerate(foods)
    )
    part = ComponentInput(uuid5(recipe_id, "part"), name[:80], lines)
    return RecipeInput(recipe_id, name[:120], 1.0, (part,), origin=PLAIN)
