"""A weight that is far from plan is asked about before it counts: most often the food was weighed in another state."""

from dataclasses import dataclass

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown

FAR_SHARE = 1 / 3
"""More than a third over or under plan is asked about."""
SMALL_G = 10.0
"""A difference of so few grams is not: a pinch more of a spice is no slip."""
STATE_TOLERANCE = 0.15
"""Within so much of the food's cooked yield, it was most likely weighed cooked."""


@dataclass(frozen=True, slots=True)
class WeighingDoubt:
    """Why a weight is asked about, in words; `instead_g` is what is meant when it was weighed cooked."""

    words: str
    instead_g: float | None = None


def weighing_doubt(food: Food, planned_g: float, net_g: float) -> WeighingDoubt | None:
    """What to ask about `net_g` of a food of which `planned_g` were planned; None when it is near enough.

    Grams are those of the food as the recipe lists it.
    """
    if planned_g <= 0 or abs(net_g - planned_g) <= max(SMALL_G, FAR_SHARE * planned_g):
        return None
    ratio, cooked = net_g / planned_g, food.cooked_yield
    name = food.name.split(",")[0].lower()
    if cooked is not None and abs(cooked - 1) > FAR_SHARE and abs(ratio / cooked - 1) <= STATE_TOLERANCE:
        told = {"net_g": shown(net_g), "planned_g": shown(planned_g), "name": name, "state": food.state}
        words = say(
            "{net_g} g is about what {planned_g} g of {name} ({state}) weigh when cooked. The "
            "recipe counts them {state}: did you weigh them cooked?",
            **told,
        )
        return WeighingDoubt(words, net_g / cooked)
    told = {"net_g": shown(net_g), "name": name, "far": shown(abs(net_g - planned_g))}
    if net_g > planned_g:
        return WeighingDoubt(say("{net_g} g of {name} is {far} g more than planned. Is that right?", **told))
    return WeighingDoubt(say("{net_g} g of {name} is {far} g less than planned. Is that right?", **told))
