"""How a component is kept: how long and whether it freezes, how it is heated, packed and layered.

How long follows from its foods (`core.recipes.mixtures`) or from the cook's choice. A printed use-by date and the
local food authority overrule the figures.
"""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from goodcrate.core.foods.food import Food
from goodcrate.core.foods.keep_groups import KeepGroup
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.same import once_for_same
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import at_least_heat
from goodcrate.core.recipes.component import Component, StorageChoice
from goodcrate.core.recipes.heating import heated_lines, is_cooked, still_raw
from goodcrate.core.recipes.mixtures import keeps_like
from goodcrate.core.recipes.steps import Step

APART = "pot"
CONTAINERS: Mapping[str, str] = {
    "": Saying("as its grams fit"),
    "box": Saying("a box"),
    "jar": Saying("a jar"),
    APART: Saying("a small pot, apart"),
    "bag": Saying("a flat bag"),
    "on_top": Saying("kept dry, on top on the day"),
}


@dataclass(frozen=True, slots=True)
class Storage:
    """What is known about keeping a component, and where each fact comes from.

    `because` names the food that decides, empty when the cook chose the group. `freezable` may be the cook's own word.
    `unheated` names raw meat, fish, egg or flour that no step heats. `by_foods` is how it would keep by its foods.
    """

    group: KeepGroup
    because: str
    is_chosen: bool
    freezable: bool
    freezes_poorly: bool
    reheat: str
    container: str
    texture: str
    unheated: tuple[str, ...]
    by_foods: KeepGroup
    own_days: int | None = None
    days_because: str = ""
    guidance_days: int = 0

    @property
    def freezer_months(self) -> int | None:
        """Months in the freezer; None when it does not freeze."""
        return self.group.freezer_months if self.freezable else None

    @property
    def is_longer_than_its_foods(self) -> bool:
        """Whether the cook chose a group, or days, that keep longer on either scale than its foods say."""
        ours, theirs = self.group, self.by_foods
        return (self.is_chosen or self.own_days is not None) and (
            ours.fridge_days_cautious > theirs.fridge_days_cautious or ours.fridge_days_usual > theirs.fridge_days_usual
        )


@once_for_same
def storage_of(component: Component, steps: Sequence[Step], groups: Mapping[str, KeepGroup]) -> Storage:
    """How a component keeps: the chosen group, else as its foods say together (`core.recipes.mixtures`).

    Salads, leaves, dressings and soft fruit freeze only when the cook says so.

    Raises:
        InvalidInput: when the chosen group is none we know.
    """
    chosen = component.storage
    cooked = is_cooked(component, steps)
    by_foods, because, applied = keeps_like(component, steps, groups)
    group = by_foods
    if chosen.keep_group:
        if chosen.keep_group not in groups:
            raise InvalidInput(
                "keep_group",
                say("“{keep_group}” is no keep group.", keep_group=chosen.keep_group),
                say("Choose one of the list."),
            )
        group, because, applied = groups[chosen.keep_group], "", (groups[chosen.keep_group],)
    guidance_days = group.fridge_days_cautious
    group = _in_own_days(group, chosen)
    can = group.freezable != "no" and group.freezer_months is not None
    texture = texture_of(component, cooked)
    unheated = tuple(dict.fromkeys(line.food.name for line in still_raw(component, steps)))
    is_eaten_raw = not cooked and not unheated  # what nobody said how to cook is asked about, not called a salad
    poorly = can and not unheated and (group.freezable == "poor" or (is_eaten_raw and _suffers(applied, texture)))
    return Storage(
        group,
        because,
        bool(chosen.keep_group),
        can and not poorly if chosen.freezable is None else chosen.freezable,
        poorly,
        chosen.reheat or _reheat_words(component, steps, applied),
        container=chosen.container or _container(component),
        texture=texture,
        unheated=unheated,
        by_foods=by_foods,
        own_days=chosen.own_days,
        days_because=chosen.days_because,
        guidance_days=guidance_days,
    )


def _in_own_days(group: KeepGroup, chosen: StorageChoice) -> KeepGroup:
    """A group with the cook's own days: fewer at will, more only with a reason. Its source stays."""
    own = chosen.own_days
    if own is None:
        return group
    if chosen.days_because.strip():
        return replace(group, fridge_days_cautious=own, fridge_days_usual=own)
    cautious, usual = min(own, group.fridge_days_cautious), min(own, group.fridge_days_usual)
    return replace(group, fridge_days_cautious=cautious, fridge_days_usual=usual)


_SOFT_WHEN_FROZEN = frozenset({"leafy", "salad_veg", "cut_veg", "cut_fruit", "whole_fruit", "fresh_herb",
                               "undressed_salad", "dressed_salad", "soft_dairy"})  # fmt: skip


def _suffers(applied: Iterable[KeepGroup], texture: str) -> bool:
    """Whether something raw goes limp or splits when frozen: leaves, cut vegetables and fruit, dressings."""
    return texture == WET or any(g.key in _SOFT_WHEN_FROZEN for g in applied)


def _reheat_words(component: Component, steps: Sequence[Step], applied: Sequence[KeepGroup]) -> str:
    heated = heated_lines(component, steps)
    raw_left = next((x.food.name for x in still_raw(component, steps) if x.key not in heated), "")
    if raw_left:
        return say("cook it first: no step heats {raw_left}", raw_left=raw_left.split(",")[0].lower())
    degrees = max((g.reheat_c for g in applied if g.reheat_c is not None), default=None)
    raw = [x.food for x in component.lines if x.key not in heated and _is_eaten_raw(x.food)]
    cold = [food.name.split(",")[0].lower() for food in raw]
    mixed_in = any(
        x.key not in heated and x.use not in ("at_packing", "on_the_day") and _is_eaten_raw(x.food)
        for x in component.lines
    )
    if degrees is None or not heated or mixed_in:  # leaves or fruit that stay raw cannot be taken out again
        return say("eat cold")
    words = say("heat once, until {degrees} in the middle and steaming all through", degrees=at_least_heat(degrees))
    return say("{words}; {cold} only after that", words=words, cold=" and ".join(cold[:2])) if cold else words


def _is_eaten_raw(food: Food) -> bool:
    return food.keep_group in ("leafy", "salad_veg", "cut_fruit", "whole_fruit")


CRISP, WET, LEAFY, FIRM = "crisp", "wet", "leaves", "firm"
TEXTURES: Mapping[str, str] = {
    "": Saying("from its foods"),
    WET: Saying("wet: dressing, sauce, soup"),
    FIRM: Saying("firm: grain, roots, meat"),
    LEAFY: Saying("leaves"),
    CRISP: Saying("crisp: toasted, crackers, nuts"),
}
_CRISP_WORDS = re.compile("crispbread|cracker|toasted|crouton|granola|crisps|rice cake|crumble")

_PASTE_WORDS = re.compile("butter|tahini|paste|chia|linseed|flax|ground|flour")
"""Nuts and seeds that are no longer crisp, or are meant to swell."""


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
    is_crunchy = food.group in ("nut_seed", "snack") and not _PASTE_WORDS.search(food.name.lower())
    if _CRISP_WORDS.search(words) or (is_crunchy and not cooked):
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
