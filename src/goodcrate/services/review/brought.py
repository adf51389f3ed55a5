"""What brought the nutrients of a week's days: the foods of each box as its batch was cooked, and what is there that
would help."""

from collections.abc import Iterable, Mapping, Sequence

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.nutrients import KEYS, Tally
from goodcrate.core.portion.week_outcome import BoxPart, PlacedBox, WorkedBatch
from goodcrate.core.recipes.component import IngredientLine
from goodcrate.core.review.intakes import Standing, standings
from goodcrate.core.review.sources import FromFoods, Helps, helping
from goodcrate.core.store.at_table import Plate
from goodcrate.core.targets.eater import Eater
from goodcrate.core.targets.excluding import why_not_food
from goodcrate.db.changes import Kept
from goodcrate.formats.reference import intake_table
from goodcrate.services.calling import Caller
from goodcrate.services.review.week_story import EaterDayStory, WeekStory, means
from goodcrate.services.store.pantry import food_kept


def eaten_foods(story: WeekStory, days: Iterable[EaterDayStory]) -> list[FromFoods]:
    """All that was eaten on some days, box by box, with the foods it was made of."""
    batches = {(w.plan.session_key, w.plan.component_key): w for w in story.table.picture.outcome.batches}
    found: list[FromFoods] = []
    for day in days:
        for meal in day.meals:
            plate = story.table.plates[meal.meal_key]
            if plate.eaten.grams > 0:
                found += _of_plate(story, batches, plate)
        found += [FromFoods(food.tally, ((food.said, food.tally),)) for food in day.besides]
        found += [FromFoods(extra.tally, ((extra.text, extra.tally),)) for extra in day.eater.extras]
    return found


def _of_plate(story: WeekStory, batches: Mapping[tuple[str, str], WorkedBatch], plate: Plate) -> Iterable[FromFoods]:
    placed = story.table.placed(plate)
    told = [0.0] * len(KEYS)
    for part in placed.parts:
        known = tuple(
            e * p / w if w > 0 else 0.0
            for e, p, w in zip(plate.eaten.known, part.tally.known, placed.tally.known, strict=True)
        )
        told = [t + k for t, k in zip(told, known, strict=True)]
        foods = tuple((short_name(line), line.tally) for line in _lines(story, batches, placed, part))
        yield FromFoods(Tally(part.grams, known), foods)
    left = tuple(max(0.0, e - t) for e, t in zip(plate.eaten.known, told, strict=True))
    if max(left) > 0:  # weighed at the table, of a nutrient that nothing in the box has
        yield FromFoods(Tally(0.0, left), ())


def short_name(line: IngredientLine) -> str:
    """A food as it is called among others: “turkey thigh”."""
    return line.food.name.split(",")[0].lower()


def _lines(
    story: WeekStory, batches: Mapping[tuple[str, str], WorkedBatch], placed: PlacedBox, part: BoxPart
) -> Sequence[IngredientLine]:
    """What a part of a box is made of: as its batch was cooked, else as its recipe is written."""
    batch = batches.get((str(placed.placing.session_key), part.component_key))
    if batch is not None:
        return batch.outcome.state.lines
    recipe = story.table.picture.recipes[placed.placing.recipe_key]
    return next((c.lines for c in recipe.components if c.key == part.component_key), ())


def standings_of(days: Sequence[EaterDayStory], eater: Eater) -> list[Standing]:
    """How each nutrient stands of which something is asked of an eater, on the mean of the days that are over."""
    told = standings(intake_table(), means(days, KEYS), eater.sex, eater.age_years, eater.weight_kg)
    return [s for s in told if s.asked.wanted is not None or s.asked.limits]


def foods_there(caller: Caller) -> list[Food]:
    """The foods that are in the house."""
    with caller.transaction() as session:
        return _THERE.get(session, ("foods there",), lambda: [food.value() for _, food, _ in food_kept(session)])


_THERE: Kept[list[Food]] = Kept(64)


def foods_of_week(story: WeekStory) -> list[Food]:
    """The foods of the week's recipes, each once."""
    foods = (line.food for r in story.table.picture.recipes.values() for c in r.components for line in c.lines)
    return list({food.key: food for food in foods}.values())


def that_help(foods: Iterable[Food], eater: Eater, nutrient: str, wanted: float) -> list[Helps]:
    """Which of some foods, that an eater may get, would help where so much of a nutrient is asked a day: no spices and
    herbs, of which nobody eats a portion."""
    suiting = (f for f in foods if not f.is_trace_kind and why_not_food(eater.exclusions, f) is None)
    figures = ((f.name, f.composition.get(nutrient), f.composition.get("energy_kcal")) for f in suiting)
    return helping(((name.split(",")[0].lower(), amount, kcal) for name, amount, kcal in figures), wanted)
