"""What becomes of what no box takes: tasted, thrown away, or put by as a food of the pantry with the pot's figures."""

from datetime import date
from uuid import UUID, uuid5

from goodcrate.core.cook.batch_record import PANTRY, RESTS
from goodcrate.core.foods.food import COOKED
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import day_month, shown
from goodcrate.core.portion.week_outcome import WorkedBatch
from goodcrate.core.recipes.as_food import batch_as_food
from goodcrate.core.recipes.keeping import storage_of
from goodcrate.core.week.storing import FREEZER, FRIDGE
from goodcrate.db.base import grams
from goodcrate.db.cook import REST_KIND, WeighingRow
from goodcrate.db.foods import FoodRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.store import OpenFoodRow
from goodcrate.formats.reference import keep_groups
from goodcrate.services.calling import Caller, add_once, utc_now
from goodcrate.services.cook.cooking import log, started, worked_batch
from goodcrate.services.foods.labels import put_figures
from goodcrate.services.portion.filling import at_the_bench
from goodcrate.services.week.weeks import WeekPicture, existing_week, load_picture

PLACES = (FRIDGE, FREEZER)
LEAST_G = 0.1


def food_of_pot(batch_id: UUID) -> UUID:
    """The id of the food that is left of a pot: always the same, so that putting by twice makes one food."""
    return uuid5(batch_id, "put by")


def kept_of_pot(batch_id: UUID) -> UUID:
    """The id of what the pantry has of it."""
    return uuid5(batch_id, "in the pantry")


def say_rest(
    caller: Caller, first_day: date, batch_id: UUID, event_id: UUID, kind: str, net_g: float, place: str = FRIDGE
) -> None:
    """Log what became of what is left in the pot: so many g were tasted, thrown away or put by, in all. What is put by
    is a food of the pantry then, in the fridge or the freezer.

    Raises:
        NotFound: when the week asks for no such batch.
        InvalidInput: before the pot is weighed, for another fate or place, or for more than is left.
    """
    _check_kind(kind)
    if place not in PLACES:
        told = say("“{place}” is no place for cooked food.", place=place)
        raise InvalidInput("rest_g", told, say("Fridge or freezer."))
    with at_the_bench(caller, first_day) as session:
        picture = load_picture(session, existing_week(session, first_day))
        worked = worked_batch(picture, batch_id)
        outcome, before_g = worked.outcome, worked.outcome.rest_g.get(kind, 0.0)
        if outcome.state.pot_g is None:
            raise InvalidInput("rest_g", say("The pot is not weighed yet."), say("Weigh it first."))
        left_g = outcome.left_g + before_g
        if session.find(WeighingRow, event_id) is None and not 0 < net_g <= left_g + 0.05:
            told = say("{left_g} g are left in the pot.", left_g=shown(left_g))
            raise InvalidInput("rest_g", told, say("More than 0 g, up to that."))
        batch = started(session, first_day, batch_id)
        is_new = log(session, caller, event_id, batch_id=batch.id, kind=REST_KIND, net_g=net_g, rest_as=kind)
        if is_new and kind == PANTRY:
            food = _as_food(session, picture, worked, batch_id)
            _keep(session, kept_of_pot(batch_id), food, net_g - before_g, place, _cooked_on(picture, worked))


def take_rest_back(caller: Caller, first_day: date, batch_id: UUID, event_id: UUID, kind: str) -> None:
    """It is in the pot after all; the reading stays in the log.

    Raises:
        NotFound: when the week asks for no such batch.
        InvalidInput: for another fate.
    """
    _check_kind(kind)
    with at_the_bench(caller, first_day) as session:
        batch = started(session, first_day, batch_id)
        log(session, caller, event_id, batch_id=batch.id, kind=REST_KIND, net_g=None, rest_as=kind)
        row = session.find(OpenFoodRow, kept_of_pot(batch_id))
        if row is not None and kind == PANTRY:
            row.live = None


def _check_kind(kind: str) -> None:
    if kind not in RESTS:
        told = say("Tasted, thrown away or put by.")
        raise InvalidInput("rest_as", say("We do not know this fate."), told)


def _as_food(session: HouseholdSession, picture: WeekPicture, worked: WorkedBatch, batch_id: UUID) -> FoodRow:
    recipe = picture.recipes[worked.plan.recipe_key]
    component = next(c for c in recipe.components if c.key == worked.plan.component_key)
    cooked_on = _cooked_on(picture, worked)
    name = component.name if len(recipe.components) > 1 else recipe.name
    told = {"name": name[:120], "day": day_month(cooked_on)}
    group = storage_of(component, recipe.steps, keep_groups()).group.key
    batch = worked.outcome.state.batch
    food = batch_as_food(str(food_of_pot(batch_id)), say("{name}, cooked {day}", **told), batch, group)
    row = session.find(FoodRow, food_of_pot(batch_id))
    if row is None:
        row = FoodRow(id=food_of_pot(batch_id), source="", source_kind=COOKED, figures_at=utc_now())
        row.put(food)
        add_once(session, row)
    else:
        put_figures(session, row, food)
    session.flush()
    return row


def _cooked_on(picture: WeekPicture, worked: WorkedBatch) -> date:
    return next(s.starts_at.date() for s in picture.sessions if s.key == worked.plan.session_key)


def _keep(session: HouseholdSession, row_id: UUID, food: FoodRow, more_g: float, place: str, since: date) -> None:
    """So much more (or less) of it is there; what was used of it meanwhile stays used."""
    row = session.find(OpenFoodRow, row_id)
    there_g = 0.0 if row is None or row.live is None else float(row.grams)
    if row is None:
        row = OpenFoodRow(id=row_id, food_id=food.id, typed="", until=None, is_first=True)
        session.add(row)
    if there_g == 0:
        row.counted_at = utc_now()
    row.place, row.since, row.is_open = place, since, True
    row.live = 1 if there_g + more_g >= LEAST_G else None
    row.grams = grams(max(LEAST_G, there_g + more_g))
