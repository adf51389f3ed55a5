"""How long what was cooked keeps, whether it freezes, how it is thawed, heated, packed and layered.

The figures are public guidance (`keeping.csv`, each row with its source). A printed use-by date and the local food
authority overrule them.
"""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from goodcrate.core.errors import InvalidInput
from goodcrate.core.foods import GROUPS, Food
from goodcrate.core.recipes import Component, IngredientLine
from goodcrate.core.steps import Step


@dataclass(frozen=True, slots=True)
class KeepGroup:
    """One row of `keeping.csv`: days in the fridge by cautious and by usual guidance, months in the freezer.

    `freezable` is yes, poor or no; `reheat_c` a core temperature in °C, None for what is eaten cold.
    """

    key: str
    fridge_days_cautious: int
    fridge_days_usual: int
    freezer_months: int | None
    freezable: str
    thaw: str
    reheat_c: float | None
    cool_rule: str
    why: str
    source: str

    @property
    def label(self) -> str:
        """Its name as a cook reads it."""
        return self.key.replace("_", " ")


@dataclass(frozen=True, slots=True)
class CoreTemperature:
    """One row of `cook-temps.csv`: a safe core temperature in °C with how long it must hold, and who says so."""

    kind: str
    core_c: float
    hold: str
    source: str
    note: str

    @property
    def label(self) -> str:
        """The kind as a cook reads it."""
        return self.kind.replace("_", " ")


CONTAINERS: Mapping[str, str] = {
    "": "as its grams fit",
    "box": "a box",
    "jar": "a jar",
    "pot": "a small pot, apart",
    "bag": "a flat bag",
    "on_top": "kept dry, on top on the day",
}
_DRY_STORE = frozenset({"pantry", "dried_spice", "fat", "opened_jar", "nuts", "opened_can", "frozen_veg", "bread"})
"""Groups that say how the packet keeps, not how a made dish does: they decide only when nothing else is in it."""
_COOKED_AS: Mapping[str, str] = {
    "raw_poultry": "cooked_poultry",
    "raw_meat": "cooked_meat",
    "raw_mince": "cooked_meat",
    "raw_fish": "cooked_fish",
    "egg_shell": "egg_bake",
    "egg_liquid": "egg_bake",
    "hard_veg": "cooked_veg",
    "leafy": "cooked_veg",
    "salad_veg": "cooked_veg",
    "cut_fruit": "cooked_veg",
    "whole_fruit": "cooked_veg",
    "frozen_veg": "cooked_veg",
    "fresh_herb": "cooked_veg",
    "milk": "cream_dessert",
    "opened_can": "soup_stew",
}
SMALLEST_SHARE = 0.02
"""A food under 2 % of a component's weight does not decide how it keeps, unless it is fish, meat or egg: our rule."""
_ALWAYS = frozenset({"cooked_poultry", "cooked_meat", "cooked_fish", "smoked_fish", "raw_fish", "raw_mince",
                     "egg_liquid", "egg_bake", "raw_poultry", "raw_meat"})  # fmt: skip


def is_cooked(component: Component, steps: Iterable[Step]) -> bool:
    """Whether a component is cooked: a step heats it, or it was said what its raw or dry foods weigh afterwards."""
    if any(step.heats and step.component_key in ("", component.key) for step in steps):
        return True
    return (component.cooked_g is not None or component.learned is not None) and any(
        line.food.needs_cooking_yield for line in component.lines
    )


def keep_group_of(food: Food, cooked: bool) -> str:
    """The keep group of a food within a made component: as it is, or as it keeps once cooked."""
    if not cooked:
        return food.keep_group
    if food.keep_group == "pantry" and food.needs_cooking_yield and food.group in GROUPS:
        if food.key.startswith("rice"):
            return "cooked_rice"
        return GROUPS[food.group].cooked_keep_group
    return _COOKED_AS.get(food.keep_group, food.keep_group)


@dataclass(frozen=True, slots=True)
class Storage:
    """What is known about keeping a component, and where each fact comes from.

    `because` names the food that decides, empty when the cook chose the group. `freezable` may be the cook's own word.
    """

    group: KeepGroup
    because: str
    is_chosen: bool
    freezable: bool
    freezes_poorly: bool
    reheat: str
    container: str
    texture: str

    @property
    def freezer_months(self) -> int | None:
        """Months in the freezer; None when it does not freeze."""
        return self.group.freezer_months if self.freezable else None


def storage_of(component: Component, steps: Sequence[Step], groups: Mapping[str, KeepGroup]) -> Storage:
    """How a component keeps: the chosen group, else that of the food in it that keeps shortest.

    Raises:
        InvalidInput: when the chosen group is none we know.
    """
    chosen = component.storage
    cooked = is_cooked(component, steps)
    if chosen.keep_group:
        if chosen.keep_group not in groups:
            raise InvalidInput("keep_group", f"“{chosen.keep_group}” is no keep group.", "Choose one of the list.")
        group, because = groups[chosen.keep_group], ""
    else:
        group, because = _shortest(component.lines, cooked, groups)
    can = group.freezable != "no" and group.freezer_months is not None
    reheat = chosen.reheat or _reheat_words(group, cooked)
    return Storage(
        group, because, bool(chosen.keep_group), can if chosen.freezable is None else chosen.freezable,
        group.freezable == "poor", reheat, chosen.container or _container(component), texture_of(component, cooked),
    )  # fmt: skip


def _shortest(lines: Sequence[IngredientLine], cooked: bool, groups: Mapping[str, KeepGroup]) -> tuple[KeepGroup, str]:
    whole = sum(line.amount.grams for line in lines) or 1.0
    best: tuple[tuple[int, int, str], KeepGroup, str] | None = None
    for line in lines:
        if line.is_discarded or line.is_poured_off:
            continue
        key = keep_group_of(line.food, cooked)
        group = groups.get(key)
        if group is None or (line.amount.grams / whole < SMALLEST_SHARE and key not in _ALWAYS):
            continue
        rank = (0 if key not in _DRY_STORE else 1, group.fridge_days_cautious, key)
        if best is None or rank < best[0]:
            best = (rank, group, line.food.name)
    if best is None:
        return groups["soup_stew"], ""
    return best[1], best[2]


def _reheat_words(group: KeepGroup, cooked: bool) -> str:
    if group.reheat_c is None or not cooked:
        return "eat cold"
    return f"heat once, until {group.reheat_c:g} °C in the middle and steaming all through"


CRISP, WET, LEAFY, FIRM = "crisp", "wet", "leaves", "firm"
TEXTURES: Mapping[str, str] = {
    "": "from its foods",
    WET: "wet: dressing, sauce, soup",
    FIRM: "firm: grain, roots, meat",
    LEAFY: "leaves",
    CRISP: "crisp: toasted, crackers, nuts",
}
_CRISP_WORDS = re.compile("crispbread|cracker|toasted|crouton|granola|crisps|rice cake|crumble")


def texture_of(component: Component, cooked: bool) -> str:
    """What a component is like in the box, for what must be kept apart and what goes to the bottom.

    The cook's word, else by weight: mostly crisp things, mostly leaves, mostly liquid, else firm.
    """
    if component.storage.texture:
        return component.storage.texture
    whole = sum(max(0.0, line.kept_g) for line in component.lines)
    if whole <= 0:
        return FIRM
    shares = {CRISP: 0.0, LEAFY: 0.0, WET: 0.0}
    for line in component.lines:
        kind = _line_texture(line.food, cooked, component.name)
        if kind in shares:
            shares[kind] += max(0.0, line.kept_g) / whole
    return max((s for s in shares if shares[s] > 0.5), key=lambda s: shares[s], default=FIRM)


def _line_texture(food: Food, cooked: bool, component_name: str) -> str:
    words = f"{food.name} {component_name}".lower()
    if _CRISP_WORDS.search(words) or (food.group in ("nut_seed", "snack") and not cooked):
        return CRISP
    if not cooked and (food.keep_group == "leafy" or food.group == "herb"):
        return LEAFY
    is_liquid = food.density_g_per_ml is not None and food.density_g_per_ml >= 0.85 and food.state == "ready"
    if food.keep_group in ("milk", "soft_dairy") and "cheese" not in words:
        return WET
    return WET if is_liquid and food.group in ("fat", "condiment", "drink", "dairy", "sweet", "fruit") else FIRM


_LAYERS = (WET, FIRM, LEAFY, CRISP)


def layering(components: Iterable[tuple[Component, str]]) -> tuple[Component, ...]:
    """Components with their textures from the bottom of a jar up: dressing, firm, leaves, crisp on top."""
    order = {texture: place for place, texture in enumerate(_LAYERS)}
    return tuple(c for c, _ in sorted(components, key=lambda item: order.get(item[1], 1)))


def _container(component: Component) -> str:
    grams = max(0.0, component.kept_g)
    texture = texture_of(component, cooked=False)
    if texture == CRISP:
        return "on_top"
    per_line = [line for line in component.lines if line.food.group in ("fat", "condiment")]
    if texture == WET and grams and sum(line.kept_g for line in per_line) / grams > 0.1:
        return "pot"
    return "box"
