"""The boat's week as it went, put in through the services: what was cooked, packed, eaten and left."""

from collections.abc import Iterable, Iterator
from datetime import date, timedelta
from typing import NamedTuple
from uuid import UUID

from goodcrate.core.cook.batch_record import COOKED_DOWN
from goodcrate.core.ground.writing import week_start
from goodcrate.core.portion.filled_boxes import WEIGHED
from goodcrate.core.portion.week_outcome import WorkedBatch
from goodcrate.core.store.box import PART_EATEN, THROWN_AWAY
from goodcrate.demo.load import place_week
from goodcrate.demo.week import POT_TARE_G
from goodcrate.services.at_table import eating, off_plan
from goodcrate.services.at_table.eating import Said
from goodcrate.services.calling import Caller
from goodcrate.services.cook import cooking
from goodcrate.services.portion import filling
from goodcrate.services.recipes.starter_shelf import household_id as _id
from goodcrate.services.week import history, weeks

POTS = {
    "barley and beetroot": 0.985,
    "rhubarb quark": 1.0,
    "slice": 0.955,
    "chicken and prunes": 0.99,
    "stew": 0.96,
    "cottage cheese and eggs": 1.0,
}
"""The pots that were weighed, by component, with what they weighed against what was expected; the other boxes were
packed as planned."""


LEFT_OUT = {("swede mash", "butter_salted")}
"""What was not put in at the stove, by component and food."""


class Otherwise(NamedTuple):
    """What was otherwise than planned: of whom, on which weekday (Monday is 0), in which slot, and how it went."""

    eater: str
    weekday: int
    slot: str
    said: Said


WENT = (
    Otherwise("maren", 1, "snack", Said(THROWN_AWAY, why="not liked")),
    Otherwise("maren", 1, "dinner", Said(PART_EATEN, share=0.9)),
    Otherwise("maren", 2, "snack", Said(PART_EATEN, share=0.5)),
    Otherwise("oskar", 4, "box two", Said(PART_EATEN, share=0.6)),
    Otherwise("oskar", 6, "box two", Said(THROWN_AWAY, why="too old")),
)
BESIDES = (("maren", 1, "oat biscuits, 185 kcal"), ("maren", 5, "cake, 310 kcal"))


class Filled(NamedTuple):
    """A box that took more or less of a component than was divided for it."""

    component: str
    eater: str
    weekday: int
    more_g: float


FILLED = (
    Filled("barley and beetroot", "maren", 1, 24.0),
    Filled("stew", "oskar", 3, -7.0),
    Filled("slice", "oskar", 0, 5.0),
)


def live_through(caller: Caller, first_day: date, *, close: bool = True) -> None:
    """Cook, pack and eat what the boat placed in a week, and close it unless somebody else does."""
    for batch_id, _, name in list(_batches(caller, first_day)):
        if name in {component for component, _ in LEFT_OUT}:
            cooking.start_batch(caller, first_day, batch_id)
    for batch_id, worked, name in list(_batches(caller, first_day)):
        for line in worked.outcome.state.lines:
            if (name, line.food.key) in LEFT_OUT:
                event = _id(caller, first_day, "left out", line.key)
                cooking.weigh_ingredient(caller, first_day, batch_id, UUID(line.key), event, 0)
        if name in POTS:
            _weigh_pot(caller, first_day, batch_id, worked, name)
        if name in POTS or worked.outcome.state.pot_g is not None:
            _fill(caller, first_day, batch_id, name)
    _eat(caller, first_day, WENT)
    if close:
        history.close_week(caller, first_day)


LAST_WEIGHED = "slice"
"""The one pot that was weighed in the week before: a demo must be there soon."""


def live_last_week(caller: Caller, today: date | None) -> None:
    """The week before the boat's own one, the same, eaten and closed: there is something to look back on."""
    before = week_start(today or date.today()) - timedelta(days=7)
    place_week(caller, before)
    for batch_id, worked, name in _batches(caller, before):
        if name == LAST_WEIGHED:
            _weigh_pot(caller, before, batch_id, worked, name)
            _fill(caller, before, batch_id, name)
            break
    _eat(caller, before, (WENT[0], WENT[-1]))
    history.close_week(caller, before)


def _weigh_pot(caller: Caller, first_day: date, batch_id: UUID, worked: WorkedBatch, name: str) -> None:
    gross_g = round(worked.outcome.state.expected_g * POTS[name]) + POT_TARE_G
    event = _id(caller, first_day, "pot", str(batch_id))
    filling.weigh_pot(caller, first_day, batch_id, event, gross_g, POT_TARE_G, shortfall=COOKED_DOWN)


def _batches(caller: Caller, first_day: date) -> Iterator[tuple[UUID, WorkedBatch, str]]:
    """The week's batches with their ids and the names of their components."""
    picture = weeks.week_picture(caller, first_day)
    assert picture is not None
    for worked in picture.outcome.batches:
        recipe = picture.recipes[worked.plan.recipe_key]
        name = next(c.name for c in recipe.components if c.key == worked.plan.component_key)
        yield cooking.batch_id_for(picture.week.id, worked.plan.session_key, worked.plan.component_key), worked, name


def _fill(caller: Caller, first_day: date, batch_id: UUID, name: str) -> None:
    """Fill the boxes of a pot: first those that took more or less, then the others as divided."""
    picture = weeks.week_picture(caller, first_day)
    assert picture is not None
    worked = cooking.worked_batch(picture, batch_id)
    meals = {str(meal.id): meal for meal in picture.meals}
    eaters = {_id(caller, "maren"): "maren", _id(caller, "oskar"): "oskar"}
    for portion in worked.outcome.portions:
        meal = meals[portion.placing_key]
        more = (
            f.more_g
            for f in FILLED
            if (f.component, f.eater, first_day + timedelta(days=f.weekday)) == (name, eaters[meal.eater_id], meal.day)
        )
        grams = next(more, None)
        if grams is not None and portion.stage != WEIGHED:
            event = _id(caller, first_day, "box", str(meal.id), name)
            filling.weigh_box(caller, first_day, batch_id, meal.id, event, portion.grams + grams)
    filling.fill_as_divided(caller, first_day, batch_id, _id(caller, first_day, "boxes", str(batch_id)))


def _eat(caller: Caller, first_day: date, otherwise: Iterable[Otherwise]) -> None:
    picture = weeks.week_picture(caller, first_day)
    assert picture is not None
    at = {(meal.slot_id, meal.day): meal.id for meal in picture.meals}
    for o in otherwise:
        meal_id = at[_id(caller, o.eater, "slot", o.slot), first_day + timedelta(days=o.weekday)]
        eating.say_eaten(caller, first_day, meal_id, _id(caller, first_day, "eaten", str(meal_id)), o.said)
    eating.say_rest_eaten(caller, first_day, _id(caller, first_day, "the rest was eaten"), picture.dates[-1])
    for eater, weekday, typed in BESIDES:
        event = _id(caller, first_day, "besides", eater, weekday)
        off_plan.note(caller, _id(caller, eater), first_day + timedelta(days=weekday), event, typed)
