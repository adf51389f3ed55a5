"""Weeks as a table: one row for each meal, with what its box holds and how sure that is."""

from collections.abc import Iterator
from datetime import date

from sqlalchemy import select

from goodcrate.core.ground.nutrients import KEYS
from goodcrate.db.week import WeekRow
from goodcrate.formats.csv_table import as_text
from goodcrate.services.calling import Caller
from goodcrate.services.week.weeks import WeekPicture, load_picture

Row = tuple[object, ...]
PLAIN = ("week", "days", "day", "slot", "at", "eater", "dish", "servings", "grams", "stage", "pinned")
WEEKS_HEADER = (*PLAIN, *KEYS, "not_known")
"""`stage` says how sure the grams are: planned, divided or weighed. `not_known` names the nutrients with no figure for
some of the food: theirs are lower bounds, and empty when nothing is known."""


def first_days(caller: Caller) -> list[date]:
    """The first days of the household's weeks, oldest first."""
    with caller.transaction() as session:
        return list(session.scalars(select(WeekRow.first_day).order_by(WeekRow.first_day)))


def meals_of_week(caller: Caller, first_day: date) -> list[Row]:
    """The meals of one week, by day, time and eater; none where there is no such week."""
    with caller.transaction() as session:
        week = session.scalar(select(WeekRow).where(WeekRow.first_day == first_day))
        return [] if week is None else list(_meals(load_picture(session, week)))


def _meals(picture: WeekPicture) -> Iterator[Row]:
    slots = {slot.id: slot for eater in picture.eaters for slot in eater.slots}
    names = {eater.id: eater.name for eater in picture.eaters}
    last = (picture.week.first_day.isoformat(), picture.week.days)
    for meal in sorted(picture.meals, key=lambda m: (m.day, slots[m.slot_id].at, names[m.eater_id])):
        slot, box = slots[meal.slot_id], picture.outcome.boxes[str(meal.id)]
        dish = picture.recipes[box.placing.recipe_key].name
        told = [as_text(slot.name), slot.at.isoformat("minutes"), as_text(names[meal.eater_id]), as_text(dish)]
        grams = sum(part.grams for part in box.parts)
        figures = box.tally.amounts()
        unknown = " ".join(key for key, f in zip(KEYS, figures, strict=True) if f.is_at_least)
        yield (
            *last,
            meal.day.isoformat(),
            *told,
            f"{meal.servings:.10g}",
            f"{grams:.10g}",
            box.stage,
            "yes" if meal.is_pinned else "no",
            *(None if f.is_unknown else f"{f.value:.10g}" for f in figures),
            unknown,
        )
