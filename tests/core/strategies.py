"""Generated foods, lines and recipes for the property tests."""

from hypothesis import strategies as st

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.amounts import MEASURES, amount_of
from goodcrate.core.ground.nutrients import KEYS, Composition
from goodcrate.core.recipes.component import Component, IngredientLine
from goodcrate.core.recipes.recipe import Recipe

figures = st.none() | st.floats(0, 900, allow_nan=False)
compositions = st.lists(figures, min_size=len(KEYS), max_size=len(KEYS)).map(lambda f: Composition(tuple(f)))
weights = st.integers(1, 100_000).map(lambda tenths: tenths / 10)
yields = st.none() | st.floats(0.2, 6)


@st.composite
def foods(draw: st.DrawFn) -> Food:
    name = draw(st.sampled_from(["turkey", "barley", "okra", "swede", "quark"]))
    return Food(name, name, "raw", "grain", draw(compositions), cooked_yield=draw(yields))


@st.composite
def lines(draw: st.DrawFn, count: int = 6) -> tuple[IngredientLine, ...]:
    made = draw(st.lists(st.tuples(foods(), weights, st.sampled_from(sorted(MEASURES))), min_size=1, max_size=count))
    return tuple(IngredientLine(f"line {n}", food, amount_of(g, m)) for n, (food, g, m) in enumerate(made))


@st.composite
def recipes(draw: st.DrawFn) -> Recipe:
    groups = draw(st.lists(lines(count=4), min_size=1, max_size=3))
    components = []
    for n, group in enumerate(groups):
        named = tuple(IngredientLine(f"{n}.{x.key}", x.food, x.amount) for x in group)
        components.append(Component(f"component {n}", f"component {n}", named, draw(st.none() | weights)))
    return Recipe("recipe", "recipe", draw(st.integers(1, 12)), tuple(components))
