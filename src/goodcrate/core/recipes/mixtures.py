"""How long what a cook makes keeps: the one place where that is decided.

A component of two or more foods, or one cut, cracked, soaked, opened, mixed or cooked, is a prepared food. It keeps
like the strictest group that applies, on the cautious and on the usual scale separately. Groups of whole fruit, eggs in
their shell, unopened tins and the dry store never describe it; water or milk makes dry things perishable; what cannot
be told keeps like cooked leftovers. The days are those of `keeping.csv`, each with its source.
"""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from goodcrate.core.foods.food import BOILED, GROUPS, Food
from goodcrate.core.foods.keep_groups import KeepGroup
from goodcrate.core.ground.same import once_for_same
from goodcrate.core.recipes.component import Component, IngredientLine
from goodcrate.core.recipes.heating import heated_lines, is_cooked
from goodcrate.core.recipes.steps import Step

LEFTOVERS, IN_OIL, DRY_MIX, DRY_BAKE = "leftovers", "in_oil", "dry_mix", "dry_bake"
_NEVER = frozenset({"pantry", "dried_spice", "fat", "nuts", "hard_cheese", "egg_shell", "whole_fruit", "hard_veg"})
"""Groups that say how a packet, a whole fruit or an egg in its shell keeps: none describes a made dish."""
_DRY = frozenset({"pantry", "dried_spice", "nuts"})
_COOKED_AS: Mapping[str, str] = {
    "raw_poultry": "cooked_poultry", "raw_meat": "cooked_meat", "raw_mince": "cooked_meat", "raw_offal": "cooked_meat",
    "raw_bacon": "cooked_meat", "raw_fish": "cooked_fish", "smoked_fish": "cooked_fish", "egg_shell": "egg_bake",
    "egg_liquid": "egg_bake", "egg_boiled": "egg_bake", "hard_veg": "cooked_veg", "leafy": "cooked_veg",
    "salad_veg": "cooked_veg", "cut_veg": "cooked_veg", "cut_fruit": "cooked_veg", "whole_fruit": "cooked_veg",
    "frozen_veg": "cooked_veg", "fresh_herb": "cooked_veg", "milk": "cream_dessert", "soft_dairy": "casserole_bake",
    "hard_cheese": "casserole_bake", "opened_can": "soup_stew", "opened_jar": "soup_stew", "tofu": "cooked_legume",
    "bread": "casserole_bake", "undressed_salad": "cooked_veg", "dressed_salad": "cooked_veg",
}  # fmt: skip
_PREPARED_AS: Mapping[str, str] = {"egg_shell": "egg_liquid", "whole_fruit": "cut_fruit", "hard_veg": "cut_veg"}
_BOILED_AS: Mapping[str, str] = {"rice": "cooked_rice", "grain": "cooked_grain", "pulse": "cooked_legume"}
_SEASONS = frozenset({"condiment", "spice", "sweet", "baking", "supplement", "drink"})
"""What seasons or wets a cooked dish from the dry store: salt, sugar, vinegar, water."""
_IN_OIL_KINDS = frozenset({"vegetable", "herb", "spice"})
OIL_SHARE = 0.5
"""Raw garlic, herbs or vegetables under mostly oil keep germs without air: from half of the weight, our line."""
LARGEST_WHOLE_FRUIT_G = 350.0
"""A heavier fruit is cut to go into a box: our line."""


def keep_group_of(food: Food, cooked: bool) -> str:
    """The keep group of one food: as its packet says, or as it keeps once cooked."""
    if not cooked:
        return food.keep_group
    if _is_boiled(food):
        return _BOILED_AS[food.cooks_like]
    if food.keep_group == "pantry":
        group = GROUPS.get(food.group)
        cooks = group is not None and food.needs_cooking_yield and group.cooked_keep_group not in _NEVER
        return group.cooked_keep_group if cooks and group is not None else LEFTOVERS
    return _COOKED_AS.get(food.keep_group, food.keep_group)


def _is_boiled(food: Food) -> bool:
    """Whether it keeps like something boiled in this dish; rice does in any state."""
    return food.cooks_like == "rice" or (food.cooks_like in _BOILED_AS and food.state != "ready")


@once_for_same
def keeps_like(
    component: Component, steps: Sequence[Step], groups: Mapping[str, KeepGroup]
) -> tuple[KeepGroup, str, tuple[KeepGroup, ...]]:
    """How a component keeps by its foods, the food that decides, and every group that applies.

    The first is a group of its own when no single one is strictest on both scales: the fewest days of each. Lines that
    go in on the day are not mixed in: each counts as it is.
    """
    cooked, heated = is_cooked(component, steps), heated_lines(component, steps)
    made = [x for x in component.lines if not x.is_discarded and not x.is_poured_off and x.use != "on_the_day"]
    later = [x for x in component.lines if not x.is_discarded and not x.is_poured_off and x.use == "on_the_day"]
    found: list[tuple[str, str]] = []
    if made:
        alone = len(made) == 1 and not cooked and _is_left_whole(made[0], component, steps)
        found += [(made[0].food.keep_group, made[0].food.name)] if alone else _prepared(made, component, steps, heated)
    found += [(line.food.keep_group, line.food.name) for line in later]
    if made and not heated and any(step.heats and not step.component_key for step in steps):
        found.append((LEFTOVERS, made[0].food.name))  # some step heats something: whether this too cannot be told
    known = [(groups[key], name) for key, name in found if key in groups]
    if not known:
        return groups[LEFTOVERS], "", (groups[LEFTOVERS],)
    known.sort(key=lambda k: (k[0].fridge_days_cautious, k[0].fridge_days_usual, k[0].key, k[1]))
    applied = tuple(dict.fromkeys(group for group, _ in known))
    return _strictest(applied), known[0][1], applied


def _strictest(applied: Sequence[KeepGroup]) -> KeepGroup:
    """The first group with the fewest days of all on each scale, and the fewest months of those that freeze."""
    first = applied[0]
    by_usual = min(applied, key=lambda g: g.fridge_days_usual)
    months = [g.freezer_months for g in applied if g.freezer_months is not None]
    freezes_all = all(g.freezable != "no" for g in applied)
    freezable = "no" if not freezes_all else "poor" if any(g.freezable == "poor" for g in applied) else "yes"
    two = by_usual.fridge_days_usual < first.fridge_days_usual
    return replace(
        first,
        fridge_days_usual=by_usual.fridge_days_usual,
        freezer_months=min(months) if freezes_all and months else None,
        freezable=freezable,
        keeps_dry=all(g.keeps_dry for g in applied),
        why=f"{first.why} {by_usual.why}" if two else first.why,
        reheat_c=max((g.reheat_c for g in applied if g.reheat_c is not None), default=None),
        source=f"{first.source}; {by_usual.source}" if two and by_usual.source != first.source else first.source,
    )


def _is_left_whole(line: IngredientLine, component: Component, steps: Sequence[Step]) -> bool:
    """Whether a single food goes into its box as it comes: not cracked, cut, soaked or boiled."""
    food = line.food
    if food.keep_group == "egg_shell" or (food.cooks_like in BOILED and food.state not in ("cooked", "ready")):
        return False
    if food.keep_group in ("whole_fruit", "hard_veg"):
        counted = line.amount.measure == "count" and (food.each_g or 0) <= LARGEST_WHOLE_FRUIT_G
        worked_on = any(s.component_key in ("", component.key) and s.equipment in ("", "blender") for s in steps)
        return counted and not worked_on
    is_brewed = food.group == "drink" and food.keep_group == "pantry"
    return (food.group in GROUPS and not is_brewed) or food.keep_group != "pantry"


def _prepared(
    lines: Sequence[IngredientLine], component: Component, steps: Sequence[Step], heated: frozenset[str]
) -> list[tuple[str, str]]:
    """The groups that apply to a prepared food, each with the food it comes from; none when nothing tells."""
    cooked = bool(heated)
    own_steps = [s for s in steps if s.component_key in ("", component.key)]
    wet = [line for line in lines if _is_wet(line.food)]
    moist = bool(wet) or any(_is_moist(line.food) for line in lines)
    if not moist and not any(line.food.cooks_like in BOILED for line in lines):
        is_blended = any(s.equipment == "blender" for s in own_steps)
        return _of_dry_things(lines, cooked, is_blended)
    if cooked and _is_dough(lines) and any(s.equipment == "oven" for s in own_steps):
        return [(DRY_BAKE, _floury(lines))]
    found: list[tuple[str, str]] = []
    for line in lines:
        key = _as_prepared(line, line.key in heated, bool(wet))
        if key:
            found.append((key, line.food.name))
    found += _of_the_whole(lines, heated)
    return found


def _of_dry_things(lines: Sequence[IngredientLine], cooked: bool, is_blended: bool) -> list[tuple[str, str]]:
    """Dry things only: baked through like bread, pressed like chilled sweets, stirred together like a muesli.

    With a food whose kind nobody told, raw flour, or oil, they keep like leftovers.
    """
    untold = next((line.food.name for line in lines if line.food.group not in GROUPS), "")
    raw_flour = next((line.food.name for line in lines if line.food.cooks_like == "flour" and not cooked), "")
    bread = next((line.food.name for line in lines if line.food.keep_group == "bread"), "")
    is_fatty = any(line.food.group == "fat" or line.food.keep_group == "fat" for line in lines)
    sticky = next((x.food.name for x in lines if (x.food.composition.get("sugars_g") or 0) >= 60), "")
    first = (LEFTOVERS, untold or raw_flour or lines[0].food.name)
    if untold or raw_flour:
        found = [first]
    elif cooked:
        found = [(DRY_BAKE, _floury(lines))] if _floury(lines) else [first]
    elif bread:
        found = [("bread", bread)]
    elif is_fatty:
        found = _of_the_whole(lines, frozenset()) or [first]
    elif sticky and (is_blended or any(x.food.group in ("condiment", "sweet") for x in lines)):
        found = [("raw_dough_bites", sticky)]
    else:
        found = [(DRY_MIX, lines[0].food.name)]
    return found


def _as_prepared(line: IngredientLine, cooked: bool, is_wet: bool) -> str:
    """The group one line gives a moist dish; empty for what never describes one."""
    food = line.food
    from_dry_store = food.keep_group in _DRY or food.keep_group == "fat"
    if cooked:
        key = keep_group_of(food, True)
        if from_dry_store and (key in (LEFTOVERS, *_NEVER) or food.group in _SEASONS):
            key = "" if food.group in GROUPS else LEFTOVERS
    elif _is_boiled(food):
        key = _BOILED_AS[food.cooks_like]
    elif from_dry_store:
        key = _dry_in_a_dish(food, is_wet)
    else:
        key = _PREPARED_AS.get(food.keep_group, food.keep_group)
    return "" if key in _NEVER else key


def _dry_in_a_dish(food: Food, is_wet: bool) -> str:
    """What something of the dry store becomes among moist things, uncooked."""
    if food.group not in GROUPS:
        return LEFTOVERS
    if food.group == "condiment":
        return "opened_jar" if _is_liquid_condiment(food) else ""
    if is_wet and food.group in ("grain", "nut_seed"):
        return "soaked_oats"
    soaks = ("legume", "fruit", "soya", "vegetable", "supplement", "dairy", "baking", "snack")
    return LEFTOVERS if is_wet and food.group in soaks else ""


def _of_the_whole(lines: Sequence[IngredientLine], heated: frozenset[str]) -> list[tuple[str, str]]:
    """What only the mixture tells: garlic or herbs under oil, a filled sandwich, dressed leaves."""
    found = []
    whole = sum(max(0.0, line.kept_g) for line in lines) or 1.0
    oils = [x for x in lines if x.food.group == "fat"]
    under = [x for x in lines if x.food.group in _IN_OIL_KINDS]
    if under and sum(max(0.0, x.kept_g) for x in oils) / whole >= OIL_SHARE:
        found.append((IN_OIL, under[0].food.name))
    kinds = {line.food.keep_group for line in lines}
    if (
        not heated
        and "bread" in kinds
        and any(_is_moist(line.food) and line.food.keep_group != "bread" for line in lines)
    ):
        found.append(("sandwich_filling", next(x.food.name for x in lines if x.food.keep_group == "bread")))
    leaf = next((x.food.name for x in lines if x.food.keep_group == "leafy" and x.key not in heated), "")
    if leaf and any(x.food.group in ("fat", "condiment", "dairy") for x in lines):
        found.append(("dressed_salad", leaf))
    return found


def _is_wet(food: Food) -> bool:
    """Liquid enough to soak dry things: water, milk, drinks, juice, yoghurt, stock."""
    if food.group == "fat":
        return False
    if food.group == "drink" or food.keep_group in ("milk", "soft_dairy"):
        return True
    if food.group == "condiment":
        return _is_liquid_condiment(food)
    is_liquid = food.state in ("ready", "canned_whole") and (food.density_g_per_ml or 0) >= 0.95
    return is_liquid and food.group in ("dairy", "fruit", "vegetable")


def _is_moist(food: Food) -> bool:
    """Whether a food brings water along: everything but the dry store, fats, sugars and bread."""
    if _is_wet(food):
        return True
    if food.keep_group in _DRY | {"fat"}:
        return _is_liquid_condiment(food)
    return food.keep_group != "bread"


def _is_liquid_condiment(food: Food) -> bool:
    """Vinegar and the like: not salt, honey or syrup, in which nothing grows."""
    is_liquid = food.state == "ready" and (food.density_g_per_ml or 0) >= 0.9
    return food.group == "condiment" and is_liquid and (food.composition.get("sugars_g") or 0) < 60


def _floury(lines: Sequence[IngredientLine]) -> str:
    """The name of what a dry bake is made of; empty when there is none."""
    kinds = ("flour", "flakes")
    return next((x.food.name for x in lines if x.food.cooks_like in kinds or x.food.group in ("nut_seed", "grain")), "")


def _is_dough(lines: Sequence[IngredientLine]) -> bool:
    """Flour or flakes with nothing moist but water: bread, crackers, flapjacks."""
    floury = any(line.food.cooks_like in ("flour", "flakes") for line in lines)
    return floury and all(
        line.food.keep_group in _DRY | {"fat"}
        and line.food.group not in ("fruit", "vegetable")
        and not _is_liquid_condiment(line.food)
        and (line.food.group != "drink" or not line.food.composition.get("energy_kcal"))
        and line.food.cooks_like not in BOILED
        for line in lines
    )
