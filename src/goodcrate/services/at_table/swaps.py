"""Which meals a box can be swapped with: what Today, a box's page and the week offer."""

from datetime import date

from goodcrate.core.week.meals import Meal
from goodcrate.services.at_table.eating import why_not_swapped
from goodcrate.services.at_table.table import Table

MOST_OFFERED = 8


def swaps_for(table: Table, meal: Meal, from_day: date) -> list[Meal]:
    """Meals from a day on whose boxes a meal's box can be swapped with, at most `MOST_OFFERED`: those of the same slot
    first, then the eater's others, then everybody's. None where its own box is not to be eaten any more."""
    mine = table.plates[str(meal.id)]
    if not mine.is_open:
        return []
    found: list[Meal] = []
    for other in sorted(
        table.picture.meals, key=lambda m: (m.eater_id != meal.eater_id, m.slot_id != meal.slot_id, m.day)
    ):
        plate = table.plates[str(other.id)]
        same_dish = table.recipe(plate).key == table.recipe(mine).key
        if other.id == meal.id or other.day < from_day or not plate.is_open or same_dish:
            continue
        if why_not_swapped(table, meal, other) or why_not_swapped(table, other, meal):
            continue
        found.append(other)
        if len(found) == MOST_OFFERED:
            break
    return found
