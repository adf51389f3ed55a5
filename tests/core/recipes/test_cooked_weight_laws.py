"""Laws of the expected weight, tried on random pots of all foods: the sums of `cooked_weight` may be argued with, these
may not."""

from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from goodcrate.core.ground.amounts import amount_of
from goodcrate.core.recipes.component import Component, IngredientLine
from goodcrate.core.recipes.cooked_weight import ExpectedWeight, expected_cooked_weight
from goodcrate.core.recipes.cooking import COOKED_AS, RAW
from goodcrate.core.recipes.evaporation import DRIED_OFF, LEAVES_FASTER, STEAM_RATES, water_share
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.steps import Step
from goodcrate.formats.reference import reference_foods

FOODS = reference_foods()
WET_OR_DRY = [key for key, food in FOODS.items() if food.composition.get("energy_kcal") is not None]
TEXTS = (
    "Simmer it under a lid",
    "Simmer it without a lid",
    "Boil it down",
    "Boil it and drain it",
    "Roast it",
    "Bake it",
    "Fry it in two lots",
    "Swell it in twice its water",
    "Soak it overnight, pour the water off",
    "Cut it",
    "Dry in the oven",
)
TOOLS = ("hob", "oven", "microwave", "rice_cooker", "fridge", "")

pots = st.lists(st.tuples(st.sampled_from(WET_OR_DRY), st.floats(1, 2000), st.booleans()), min_size=1, max_size=5)
steps = st.lists(st.tuples(st.sampled_from(TEXTS), st.sampled_from(TOOLS), st.floats(1, 240)), max_size=3)
words = st.sampled_from(["", *COOKED_AS])
Pot = list[tuple[str, float, bool]]
Told = list[tuple[str, str, float]]


def pot_of(inside: Pot, told: Told, cooked_as: str = "", times: float = 1.0) -> Component:
    """A component as its recipe makes it; `times` of everything, a third thing of a line poured off."""
    lines = tuple(
        IngredientLine(f"c.{n}", FOODS[key], amount_of(grams * times, "weighed"), is_poured_off=poured and n > 0)
        for n, (key, grams, poured) in enumerate(inside)
    )
    made = Component("c", "it", lines, cooked_as=cooked_as)
    said = tuple(Step(str(n), text, "c", tool, minutes) for n, (text, tool, minutes) in enumerate(told))
    return Recipe("r", "Dish", 2, (made,), said).components[0]


def weight_of(inside: Pot, told: Told, cooked_as: str = "", times: float = 1.0) -> ExpectedWeight:
    return expected_cooked_weight(pot_of(inside, told, cooked_as, times))


@settings(max_examples=250)
@given(pots, steps, words)
def test_a_weight_is_a_weight_with_a_doubt_and_its_changes_lead_to_it(inside: Pot, told: Told, word: str) -> None:
    component = pot_of(inside, told, word)
    weight = expected_cooked_weight(component)
    assert weight.standard_error_g >= 0
    assert weight.grams == component.kept_g + sum(change.grams for change in weight.changes)
    assert all(change.standard_error_g > 0 for change in weight.changes if change.grams)
    assert all(change.words for change in weight.changes)


@settings(max_examples=250)
@given(pots, steps, words)
def test_nothing_steams_off_but_water(inside: Pot, told: Told, word: str) -> None:
    """What is left weighs at least the solids that stay, whatever is done; poured-off lines left before."""
    component = pot_of([(key, grams, False) for key, grams, _ in inside], told, word)
    weight = expected_cooked_weight(component)
    usual = sum(x.kept_g * (1 - min(1.0, x.food.cooked_yield or 1.0)) for x in component.lines)
    solids = sum(x.kept_g * (1 - water_share(x.food)) for x in component.lines)
    poured_away = sum(x.kept_g for x in component.lines if x.food.key.startswith("water"))
    assert weight.grams >= solids - usual - poured_away - 1e-6


@settings(max_examples=200)
@given(pots, steps, words, st.floats(0.25, 4))
def test_twice_as_much_weighs_twice_as_much(inside: Pot, told: Told, word: str, times: float) -> None:
    once, more = weight_of(inside, told, word), weight_of(inside, told, word, times)
    assert abs(more.grams - once.grams * times) < 1e-6 * max(1.0, once.grams * times)
    assert more.method == once.method


@settings(max_examples=200)
@given(pots, steps)
def test_not_cooked_is_weight_in_whatever_the_steps_say(inside: Pot, told: Told) -> None:
    component = pot_of(inside, told, RAW)
    weight = expected_cooked_weight(component)
    assert weight.changes == ()
    assert weight.grams == component.kept_g
    assert weight.method == RAW
    without_steps = expected_cooked_weight(replace(pot_of(inside, []), cooked_as=""))
    assert without_steps.grams == weight.grams


@settings(max_examples=200)
@given(pots, st.sampled_from(["Simmer it under a lid", "Simmer it without a lid", "Bake it", "Boil it down"]))
def test_longer_in_the_heat_is_never_heavier(inside: Pot, text: str) -> None:
    tool = "oven" if text == "Bake it" else "hob"
    weights = [weight_of(inside, [(text, tool, minutes)]).grams for minutes in (5, 30, 120, 240)]
    assert weights == sorted(weights, reverse=True)


@settings(max_examples=200)
@given(pots, st.floats(5, 200))
def test_a_lid_keeps_more_in_than_none(inside: Pot, minutes: float) -> None:
    lid, ajar, none, down = (
        weight_of(inside, [(text, "hob", minutes)]).grams
        for text in ("Simmer it under a lid", "Simmer it", "Simmer it without a lid", "Simmer it until it cooks down")
    )
    assert lid >= ajar >= none >= down


def test_the_rates_are_in_the_order_a_cook_expects() -> None:
    rates = {key: rate.share_per_hour for key, rate in STEAM_RATES.items()}
    assert rates["lid"] < rates["simmer"] < rates["open"] < rates["reduce"]
    assert rates["bake"] < rates["roast"] < rates["fry"]
    assert LEAVES_FASTER > 1
    assert 0 < DRIED_OFF < 1
    assert all(rate.reasoning and 0 < rate.relative_error < 1 for rate in STEAM_RATES.values())
