"""Weighing in without a scale's word: spoons counted, what is left out or in as planned, swapped or added to taste."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date
from uuid import UUID, uuid5

from goodcrate.core.cook.batch_record import AS_PLANNED, BY_SPOON, LEFT_OUT, SWAPPED, Weighing, settled
from goodcrate.core.cook.weighing_doubts import WeighingDoubt
from goodcrate.core.foods.food import Food
from goodcrate.core.foods.measures import read_amount
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.targets.excluding import why_not_food
from goodcrate.db.base import grams
from goodcrate.db.cook import INGREDIENT, BatchLineRow, WeighingRow, last_events
from goodcrate.db.session import HouseholdSession
from goodcrate.services.calling import Caller, NotFound, add_once
from goodcrate.services.cook.cooking import AskedFirst, check_grams, line_to_weigh, log, started, worked_batch
from goodcrate.services.foods.own_foods import Measuring, foods_by_key, measuring_in
from goodcrate.services.week.weeks import WeekPicture, existing_week, load_picture, take_turns

TEASPOON, TABLESPOON = "teaspoon", "tablespoon"
MOST_SPOONS = 99
SPOONED_UP_TO_G = 150.0
"""More than that of something nobody counts in spoons: our line."""


@dataclass(frozen=True)
class SpoonSizes:
    """What a level spoon of a food weighs, in g."""

    teaspoon_g: float
    tablespoon_g: float


def spoon_sizes(caller: Caller, foods: Iterable[Food]) -> Mapping[str, SpoonSizes]:
    """By food key what spoons of it weigh with this household's; those whose density nobody knows are not there."""
    there = {food.key: food for food in foods}
    with caller.transaction() as session:
        measures = measuring_in(session, set(there))
    sized = ((key, _spoons_of(measures, food)) for key, food in there.items())
    return {key: spoons for key, spoons in sized if spoons is not None}


def _spoons_of(measures: Measuring, food: Food) -> SpoonSizes | None:
    try:
        each = (measures.weigh(read_amount(f"1 {spoon}"), food).amount.grams for spoon in (TEASPOON, TABLESPOON))
        return SpoonSizes(*each)
    except InvalidInput:
        return None


@dataclass(frozen=True)
class Tap:
    """A spoon more of a kind, or one less."""

    spoon: str
    is_less: bool = False


def count_spoon(caller: Caller, first_day: date, batch_id: UUID, line_id: UUID, event_id: UUID, tap: Tap) -> None:
    """Count a spoon of an ingredient: on top of those counted so far, on whichever device. A tap sent twice is one.

    Raises:
        NotFound: when batch or line is not the household's.
        InvalidInput: for a spoon nobody knows, a food whose spoons nobody can weigh, or too many of them.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        line = line_to_weigh(session, first_day, batch_id, line_id)
        if tap.spoon not in (TEASPOON, TABLESPOON):
            raise InvalidInput("spoon", say("“{spoon}” is no spoon.", spoon=tap.spoon[:20]), say("Tea- or tablespoon."))
        if session.find(WeighingRow, event_id) is not None:
            return
        food = line.value().food
        sizes = _spoons_of(measuring_in(session, {food.key}), food)
        if sizes is None:
            told = say("Nobody knows what a spoon of {name} weighs.", name=food.name.lower())
            raise InvalidInput("spoon", told, say("Weigh it, or give the food its density."))
        last = settled(last_events(session, batch_id)[batch_id]).get(str(line_id))
        counted = last if last is not None and last.how == BY_SPOON else Weighing(str(line_id), 0.0)
        step = -1 if tap.is_less else 1
        small = max(0, counted.teaspoons + (step if tap.spoon == TEASPOON else 0))
        large = max(0, counted.tablespoons + (step if tap.spoon == TABLESPOON else 0))
        if max(small, large) > MOST_SPOONS:
            raise InvalidInput("spoon", say("More than {most} spoons?", most=MOST_SPOONS), say("Weigh it."))
        net_g = small * sizes.teaspoon_g + large * sizes.tablespoon_g
        log(
            session,
            caller,
            event_id,
            batch_id=batch_id,
            kind=INGREDIENT,
            batch_line_id=line_id,
            net_g=round(net_g, 1) if small + large else None,
            how=BY_SPOON,
            teaspoons=small,
            tablespoons=large,
        )


def say_of_line(caller: Caller, first_day: date, batch_id: UUID, line_id: UUID, event_id: UUID, how: str) -> None:
    """Log that an ingredient was left out, or is in as planned.

    Raises:
        NotFound: when batch or line is not the household's.
        InvalidInput: for anything else.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        line = line_to_weigh(session, first_day, batch_id, line_id)
        _check_said(how)
        _say(session, caller, line, event_id, how)


def say_of_rest(caller: Caller, first_day: date, batch_id: UUID, event_id: UUID, how: str) -> None:
    """The same of everything that is not in yet, at once.

    Raises:
        NotFound: when the week asks for no such batch.
        InvalidInput: for anything but left out and as planned.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        batch = started(session, first_day, batch_id)
        _check_said(how)
        outcome = worked_batch(load_picture(session, existing_week(session, first_day)), batch_id).outcome
        left = {line.key for line in outcome.state.not_in_yet}
        for line in batch.lines:
            if str(line.id) in left:
                _say(session, caller, line, uuid5(event_id, str(line.id)), how)


def _check_said(how: str) -> None:
    if how not in (LEFT_OUT, AS_PLANNED):
        raise InvalidInput("how", say("“{how}” is nothing that is said of an ingredient.", how=how[:20]))


def _say(session: HouseholdSession, caller: Caller, line: BatchLineRow, event_id: UUID, how: str) -> None:
    net_g = float(line.planned_g) if how == AS_PLANNED else 0.0
    log(session, caller, event_id, batch_id=line.batch_id, kind=INGREDIENT, batch_line_id=line.id, net_g=net_g, how=how)


@dataclass(frozen=True)
class PutIn:
    """A food that was not planned, `net_g` of it; `instead_of` is the planned line it went in for."""

    food_key: str
    net_g: float
    instead_of: UUID | None = None


def put_in(
    caller: Caller, first_day: date, batch_id: UUID, event_id: UUID, typed: PutIn, *, is_sure: bool = True
) -> None:
    """Log a food that was added to taste, or went in for another. The batch is started if it was not.

    Raises:
        AskedFirst: when somebody who gets a box of it must not get that food, and nobody is sure yet.
        NotFound: when batch, line or food is not the household's.
        InvalidInput: for no food, or a weight none has.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        batch = started(session, first_day, batch_id)
        line_id = uuid5(event_id, "line")
        if any(line.id == line_id for line in batch.lines):
            return
        if not typed.food_key:
            raise InvalidInput("food", say("Which food?"), say("Choose one that was found."))
        row = foods_by_key(session, {typed.food_key})[typed.food_key]
        check_grams(row.value(), typed.net_g)
        if typed.net_g <= 0:
            raise InvalidInput("net_g", say("How much of it went in?"), say("Give its grams."))
        picture = load_picture(session, existing_week(session, first_day))
        if not is_sure and (why := _why_not(picture, batch_id, row.value())):
            raise AskedFirst(WeighingDoubt(why), "food")
        if typed.instead_of is not None:
            replaced = next((line for line in batch.lines if line.id == typed.instead_of), None)
            if replaced is None or replaced.is_poured_off:
                raise NotFound("ingredient")
            _say(session, caller, replaced, event_id, SWAPPED)
        line = BatchLineRow(
            id=line_id,
            batch_id=batch_id,
            food_id=row.id,
            planned_g=grams(0),
            measure="weighed",
            position=len(batch.lines),
            instead_of=typed.instead_of,
        )
        if add_once(session, line):
            session.flush()
            own = uuid5(event_id, "in")
            log(session, caller, own, batch_id=batch_id, kind=INGREDIENT, batch_line_id=line_id, net_g=typed.net_g)
            session.expire(batch)


def _why_not(picture: WeekPicture, batch_id: UUID, food: Food) -> str:
    """Why somebody who gets a box of a batch must not get a food; empty when nobody stands against it."""
    boxes = {portion.placing_key for portion in worked_batch(picture, batch_id).outcome.portions}
    eating = {meal.eater_id for meal in picture.meals if str(meal.id) in boxes}
    whys = (why_not_food(eater.exclusions, food) for eater in picture.eaters if eater.id in eating)
    return next((why for why in whys if why), "")
