"""A week looked back on: each eater's days from planned to eaten, by the boxes, the batches and what was said."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from functools import cached_property
from typing import TypeVar

from goodcrate.core.ground.amounts import amount_of
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.portion.week_outcome import PlacedBox
from goodcrate.core.recipes.recipe import serving_of
from goodcrate.core.review.day_story import DayStory, MealStory, day_story
from goodcrate.core.store.at_table import OffPlan, Plate
from goodcrate.core.store.for_the_meal import later_lines
from goodcrate.core.targets.day_target import Standing, judge_energy, judge_protein
from goodcrate.core.targets.eater import Eater
from goodcrate.db.changes import Kept, Shared
from goodcrate.db.session import HouseholdSession
from goodcrate.services.at_table.table import Table, table_in
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.week.weeks import WeekPicture, week_of, week_picture

T = TypeVar("T")


@dataclass(frozen=True)
class EaterDayStory:
    """A day of an eater: its meals at their stations, food besides, and the usual extras."""

    eater: Eater
    day: date
    meals: tuple[MealStory, ...]
    besides: tuple[OffPlan, ...]
    extras: Tally

    def of(self, nutrient: str) -> DayStory:
        """The day by one nutrient."""
        return day_story(self.meals, self.besides, self.extras, nutrient)

    @property
    def is_said(self) -> bool:
        """Whether anything was said of it: of one of its meals, or of food besides."""
        return bool(self.besides) or any(not meal.is_open for meal in self.meals)

    @property
    def is_open(self) -> bool:
        """Whether a meal of it is still to be eaten."""
        return any(meal.is_open for meal in self.meals)

    @property
    def is_over(self) -> bool:
        """Whether something was said of it and nothing is to come: it can be judged."""
        return self.is_said and not self.is_open

    @cached_property
    def eaten(self) -> Tally:
        """All that was eaten, the usual extras too."""
        return Tally.sum([*(m.eaten for m in self.meals), *(food.tally for food in self.besides), self.extras])


@dataclass(frozen=True)
class WeekStory(Shared):
    """A week's days, by eater and date, in the order of the week.

    It is shared until the household's next change; `once` keeps what is made of it and of all else there is beside it.
    """

    table: Table
    days: tuple[EaterDayStory, ...]


def week_story(caller: Caller, picture: WeekPicture) -> WeekStory:
    """A week from planned to eaten, as it stands; kept until the household's next change, of whatever kind.

    Raises:
        NotFound: when the week is not there any more.
    """
    with caller.transaction() as session:
        story = _STORIES.get(session, (picture.week.first_day,), lambda: _week_story(session, picture.week.first_day))
    if story is None:
        raise NotFound("week")
    return story


_STORIES: Kept[WeekStory | None] = Kept(64, of_all=True)


def newest_week(caller: Caller, today: date) -> date | None:
    """The first day of the week to look back on: the one that holds today once something was said of it, else the one
    before it; None where neither is there."""
    now = week_of(caller, today)
    before = week_of(caller, (today - timedelta(days=7)) if now is None else now - timedelta(days=1))
    picture = None if now is None or before is None else week_picture(caller, now)
    if picture is not None and not any(day.is_said for day in week_story(caller, picture).days):
        return before
    return now or before


def _week_story(session: HouseholdSession, first_day: date) -> WeekStory | None:
    table = table_in(session, first_day)
    if table is None:
        return None
    picture = table.picture
    cooked = _cooked(picture)
    days = []
    for day in picture.dates:
        for eater in picture.eaters:
            at_table = table.day(eater, day)
            meals = tuple(_meal(table, cooked, plate) for plate in at_table.plates)
            days.append(EaterDayStory(eater, day, meals, at_table.off_plan, eater.extras_tally))
    return WeekStory(table, tuple(days))


def _cooked(picture: WeekPicture) -> Mapping[tuple[str, str], Tally]:
    """By placing and component: its planned share of what its batch really holds."""
    shares: dict[tuple[str, str], Tally] = {}
    for worked in picture.outcome.batches:
        plan, whole = worked.plan, worked.outcome.state.batch.tally
        for portion in plan.portions if plan.cooked_g > 0 else ():
            shares[portion.placing_key, plan.component_key] = whole.scaled(portion.grams / plan.cooked_g)
    return shares


def _meal(table: Table, cooked: Mapping[tuple[str, str], Tally], plate: Plate) -> MealStory:
    own = table.picture.outcome.boxes[plate.meal_key]
    recipe = table.picture.recipes[own.placing.recipe_key]
    serving = serving_of(recipe)
    at_stove = [
        cooked.get((plate.meal_key, part.component.key), part.tally.scaled(own.placing.servings))
        for part in serving.parts
    ]
    on_plate = own.tally if plate.box is None else table.placed(plate).tally
    weighed = _with_weighed(table, plate, table.placed(plate), on_plate)
    return MealStory(
        plate.meal_key,
        serving.tally.scaled(own.placing.servings),
        Tally.sum(at_stove),
        own.tally,
        on_plate,
        with_weighed=weighed,
        eaten=plate.eaten,
        is_open=plate.is_open,
    )


def _with_weighed(table: Table, plate: Plate, placed: PlacedBox, on_plate: Tally) -> Tally:
    """What stood on a plate, with its ingredients as they were weighed at the table."""
    recipe = table.picture.recipes[placed.placing.recipe_key]
    lines, there = later_lines(recipe), on_plate
    for (meal, line_key), grams in table.weighed.items():
        line = lines.get(line_key)
        if meal == plate.meal_key and line is not None and recipe.servings > 0:
            planned = line.tally.scaled(placed.placing.servings / recipe.servings)
            there = Tally.sum((there, replace(line, amount=amount_of(grams)).tally)).without(planned)
    return there


def is_in_band(day: EaterDayStory) -> bool:
    """Whether a day kept to its energy band and its protein floor."""
    target = day.eater.target_on(day.day.weekday())
    if target is None:
        return False
    kcal, protein = (day.eaten.amount(key).value for key in ("energy_kcal", "protein_g"))
    return {judge_energy(kcal, target).standing, judge_protein(protein, target).standing} == {Standing.INSIDE}


def means(days: Sequence[EaterDayStory], keys: Sequence[str]) -> list[tuple[str, float, float]]:
    """Of some days of an eater, by nutrient: the known mean a day in its unit, and the share of the weight eaten whose
    content is not known. Only days that are over count."""
    eaten = [day.eaten for day in days if day.is_over]
    if not eaten:
        return []
    whole = Tally.sum(eaten)
    amounts = {key: whole.amount(key) for key in keys}
    by_kcal_only = whole.grams <= 0 and whole.amount("energy_kcal").value > 0  # its weight was never said
    return [
        (key, a.value / len(eaten), 1.0 if by_kcal_only and not a.value else a.unknown_share)
        for key, a in amounts.items()
    ]
