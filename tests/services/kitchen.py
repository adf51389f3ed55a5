"""A small kitchen for the tests of services and pages: one eater, one recipe, one week."""

from dataclasses import dataclass, replace
from datetime import date, time
from uuid import UUID, uuid4

from goodcrate.db.jobs import JobRow
from goodcrate.services import household
from goodcrate.services.calling import Caller, utc_now
from goodcrate.services.recipes import recipe_input, saving
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import placing, weeks

MONDAY = date(2026, 11, 23)


@dataclass(frozen=True)
class Kitchen:
    """Ids of what was made."""

    caller: Caller
    eater_id: UUID
    slot_id: UUID
    recipe_id: UUID
    component_id: UUID
    line_ids: tuple[UUID, ...]


def turkey_pot(
    name: str = "Turkey pot", grams: float = 1200, version: int = 0, **ids: UUID
) -> recipe_input.RecipeInput:
    """Turkey thigh, cabbage and a spoon of oil by eye, for six; cooked weight from the foods' yields."""
    lines = (
        recipe_input.LineInput(ids.get("a", uuid4()), "turkey_thigh_raw", grams),
        recipe_input.LineInput(ids.get("b", uuid4()), "cabbage_raw", 900),
        recipe_input.LineInput(ids.get("c", uuid4()), "rapeseed_oil", 40, "eye"),
    )
    component = recipe_input.ComponentInput(ids.get("component", uuid4()), "pot", lines)
    return recipe_input.RecipeInput(ids.get("recipe", uuid4()), name, 6, (component,), version=version)


def eater_input(name: str = "Maren", energy_kcal: float = 2450, **facts: object) -> household_eaters.EaterInput:
    """One kind of day and one slot."""
    day = household_eaters.DayTypeInput(uuid4(), "every day", energy_kcal, 100, weekdays=tuple(range(7)))
    slot = household_eaters.SlotInput(uuid4(), "dinner", time(19, 30))
    return household_eaters.EaterInput(uuid4(), name, (day,), (slot,), **facts)  # type: ignore[arg-type]


def furnish(caller: Caller, servings: float = 1.0, days: int = 3) -> Kitchen:
    """Make the kitchen and place the recipe on the week's first days."""
    recipe, eater = turkey_pot(), eater_input()
    saving.save_recipe(caller, recipe)
    household_eaters.save_eater(caller, eater)
    weeks.open_week(caller, MONDAY)
    kitchen = Kitchen(
        caller,
        eater.id,
        eater.slots[0].id,
        recipe.id,
        recipe.components[0].id,
        tuple(line.id for line in recipe.components[0].lines),
    )
    place(kitchen, servings, days)
    return kitchen


def place(kitchen: Kitchen, servings: float, days: int) -> list[UUID]:
    """Place the recipe on the first days."""
    dates = tuple(date(2026, 11, 23 + n) for n in range(days))
    typed = placing.PlaceInput(uuid4(), kitchen.eater_id, kitchen.slot_id, kitchen.recipe_id, servings, dates)
    return placing.place(kitchen.caller, MONDAY, typed)


def planner_job(week_id: UUID, **state: object) -> JobRow:
    """A planner's job that was asked for nothing in particular, as its row."""
    now = utc_now()
    facts = {"status": "done", "started_at": now, "beat_at": now, **state}
    asked: dict[str, object] = {"wishes": {}, "opened": []}
    return JobRow(id=uuid4(), kind="plan_week", week_id=week_id, input=asked, result={}, **{"best": [], **facts})


def set_cups(caller: Caller, convention: str, polyol_share: float = 0.5) -> None:
    """Measure with these cups and spoons from now on."""
    there = household.settings(caller)
    household.save_settings(caller, replace(there, convention=convention, polyol_share=polyol_share, version=None))
