"""Recipes of the boat as core values, for tests that need real foods."""

from goodcrate.core.ground.amounts import amount_of
from goodcrate.core.recipes.component import Component, IngredientLine
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.steps import Step
from goodcrate.core.recipes.vessels import Vessel
from goodcrate.formats.reference import reference_foods

POT = Vessel("pot", "large pot", "pot", 4500)
BLENDER = Vessel("blender", "stick blender beaker", "blender", 900, 300)
TRAYS = Vessel("tray", "half tray", "tray", 2400, count=2)


def ingredient(key: str, food: str, grams: float, measure: str = "weighed") -> IngredientLine:
    """A line of a reference food."""
    return IngredientLine(key, reference_foods()[food], amount_of(grams, measure))


def component(key: str, lines: str, cooked_g: float | None = None, name: str = "") -> Component:
    """A component written as `food grams [measure], …`; its lines are `key.0`, `key.1` …"""
    parts = [part.split() for part in lines.split(",")]
    made = tuple(ingredient(f"{key}.{n}", p[0], float(p[1]), *p[2:3]) for n, p in enumerate(parts))
    return Component(key, name or key, made, cooked_g)


def turkey_pot() -> Recipe:
    """Turkey and cabbage with swede mash, six servings, with steps."""
    pot = component(
        "pot",
        "turkey_thigh_raw 1200, cabbage_raw 900, onion_raw 200, caraway_seed 8, rapeseed_oil 40, salt 8",
        1930,
        "turkey and cabbage",
    )
    mash = component("mash", "swede_raw 800, potato_raw 300, butter_salted 40", 1100, "swede mash")
    steps = (
        Step("1", "Brown the turkey in the oil", "pot", "hob", 12),
        Step("2", "Sweat cabbage and onion with the caraway", "pot", "hob", 10, after=("1",)),
        Step("3", "Simmer under a lid", "pot", "hob", 35, False, core_kind="poultry", after=("2",), checks_min=(15.0,)),
        Step("4", "Boil swede and potato, mash with the butter", "mash", "hob", 25, False),
        Step("5", "Cool everything in shallow boxes", "", "cooling", 30, False, after=("3", "4")),
    )
    return Recipe("turkey", "Turkey pot", 6, (pot, mash), steps)
