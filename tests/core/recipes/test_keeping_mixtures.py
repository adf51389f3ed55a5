"""Random mixtures of all foods, ours and published: none keeps longer than its strictest food, none is served raw.

The bounds are worked out here from the foods' own groups and `keeping.csv` alone, without the rules they judge.
"""

from hypothesis import given, settings
from hypothesis import strategies as st

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.amounts import amount_of
from goodcrate.core.ground.find import words_of
from goodcrate.core.recipes.component import Component, IngredientLine, StorageChoice
from goodcrate.core.recipes.keeping import Storage, storage_of
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.steps import Step
from goodcrate.core.week.storing import CAUTIOUS, USUAL, keeping_of
from goodcrate.formats.reference import keep_groups, read_table, reference_foods

DAYS = {
    r["keep_group"]: (int(r["fridge_days_cautious"]), int(r["fridge_days_usual"])) for r in read_table("keeping.csv")
}
DRY_STORE = {"pantry", "dried_spice", "fat", "nuts", "dry_mix"}
ONLY_WHOLE = {"whole_fruit": "cut_fruit", "hard_veg": "cut_veg", "egg_shell": "egg_liquid"}
RAW_ANIMAL = {"raw_poultry", "raw_meat", "raw_mince", "raw_fish", "raw_offal", "raw_bacon", "egg_shell", "egg_liquid"}
COOKED_AT_MOST = (4, 7)
"""No made dish of `keeping.csv` keeps longer than its longest prepared groups, bread and pressed sweets."""
COOKED_KIND = {
    "raw_poultry": "cooked_poultry",
    "raw_meat": "cooked_meat",
    "raw_mince": "cooked_meat",
    "raw_fish": "cooked_fish",
    "smoked_fish": "cooked_fish",
    "cooked_poultry": "cooked_poultry",
    "cooked_meat": "cooked_meat",
    "cooked_fish": "cooked_fish",
    "cooked_rice": "cooked_rice",
    "hard_veg": "cooked_veg",
    "leafy": "cooked_veg",
    "soup_stew": "soup_stew",
}
FOODS = reference_foods()
AS_ITS_FOODS = StorageChoice()
keys = st.sampled_from(list(FOODS))
tools = st.sampled_from(["", "hob", "oven", "blender", "fridge", "microwave"])


@st.composite
def mixtures(draw: st.DrawFn, fewest: int = 2) -> tuple[tuple[str, ...], str]:
    inside = draw(st.lists(keys, min_size=fewest, max_size=5, unique=True))
    return tuple(inside), draw(tools)


def component_of(inside: tuple[str, ...], storage: StorageChoice = AS_ITS_FOODS) -> Component:
    lines = tuple(IngredientLine(f"c.{n}", FOODS[key], amount_of(100, "weighed")) for n, key in enumerate(inside))
    return Component("c", "it", lines, storage=storage)


def steps_of(tool: str) -> tuple[Step, ...]:
    return (Step("1", "Make it", "c", tool, 20),) if tool else ()


def kept(inside: tuple[str, ...], tool: str) -> Storage:
    return storage_of(component_of(inside), steps_of(tool), keep_groups())


def most_days(food: Food, is_heated: bool) -> tuple[int, int]:
    """The most days, cautious and usual, that a mixture with this food may keep."""
    group = food.keep_group
    if food.cooks_like == "rice" and (is_heated or food.state == "cooked"):
        return DAYS["cooked_rice"]
    if is_heated:
        return DAYS[COOKED_KIND[group]] if group in COOKED_KIND else COOKED_AT_MOST
    if group in DRY_STORE or group == "hard_cheese":
        return (10_000, 10_000)
    return DAYS[ONLY_WHOLE.get(group, group)]


@settings(max_examples=400, deadline=None)
@given(mixtures())
def test_no_mixture_keeps_longer_than_its_strictest_food(mixture: tuple[tuple[str, ...], str]) -> None:
    inside, tool = mixture
    group = kept(inside, tool).group
    for food in (FOODS[key] for key in inside):
        cautious, usual = most_days(food, tool in ("hob", "oven", "microwave"))
        assert group.fridge_days_cautious <= cautious, (food.name, group.key)
        assert group.fridge_days_usual <= usual, (food.name, group.key)
    assert group.source


@settings(max_examples=400, deadline=None)
@given(mixtures(fewest=1))
def test_nothing_with_raw_meat_fish_or_egg_is_eaten_cold(mixture: tuple[tuple[str, ...], str]) -> None:
    inside, tool = mixture
    if any(FOODS[key].keep_group in RAW_ANIMAL for key in inside) and tool not in ("hob", "oven", "microwave"):
        storage = kept(inside, tool)
        assert "eat cold" not in storage.reheat
        assert storage.unheated


LEAVES = [key for key, f in FOODS.items() if f.keep_group == "leafy" and f.state == "raw"]


@settings(max_examples=300, deadline=None)
@given(st.sampled_from(LEAVES), mixtures(fewest=1))
def test_no_salad_leaf_is_heated_or_planned_into_the_freezer(leaf: str, mixture: tuple[tuple[str, ...], str]) -> None:
    """Leaves beside something else that is cooked by name stay raw, and whatever holds raw leaves is not frozen."""
    others = tuple(key for key in mixture[0] if FOODS[key].keep_group not in RAW_ANIMAL and key != leaf)
    if not others:
        return
    part = component_of((leaf, *others))
    cook = Step("1", f"Boil {FOODS[others[0]].name}", "c", "hob", 20)
    named = words_of(FOODS[others[0]].name)
    if set(named) & set(words_of(FOODS[leaf].name)):
        return
    storage = storage_of(part, (cook,), keep_groups())
    assert not storage.reheat.startswith("heat once") or "only after that" in storage.reheat
    raw = storage_of(part, (), keep_groups())
    if not raw.unheated and not any(x.food.cooks_like in ("rice", "grain", "pulse") for x in part.lines):
        assert not raw.freezable
        keeping = keeping_of(Recipe("r", "Dish", 2, (part,)), keep_groups(), USUAL)
        assert keeping is not None
        assert not keeping.freezes


@settings(max_examples=200, deadline=None)
@given(mixtures(), st.integers(0, 60), st.booleans())
def test_own_days_are_shorter_at_will_and_longer_only_with_a_reason(
    mixture: tuple[tuple[str, ...], str], days: int, has_reason: bool
) -> None:
    inside, tool = mixture
    by_guidance = kept(inside, tool)
    choice = StorageChoice(own_days=days, days_because="measured here" if has_reason else "")
    part = component_of(inside, storage=choice)
    own = storage_of(part, steps_of(tool), keep_groups())
    for rule, guided in (
        (CAUTIOUS, by_guidance.group.fridge_days_cautious),
        (USUAL, by_guidance.group.fridge_days_usual),
    ):
        keeping = keeping_of(Recipe("r", "Dish", 2, (part,), steps_of(tool)), keep_groups(), rule)
        assert keeping is not None
        assert keeping.fridge_days == (days if has_reason else min(days, guided))
    assert own.group.source == by_guidance.group.source
