"""How many grams a line's amount is: weighed, by volume, by the piece, from a tin; each with its error."""

import re
from dataclasses import dataclass
from math import hypot, sqrt

from goodcrate.core.foods.food import Food
from goodcrate.core.foods.line.quantity import Quantity, take_quantity
from goodcrate.core.foods.line.sizes import GROUP_WORDS, Size, SizeTable, words_of_food
from goodcrate.core.foods.line.words import clean, tokens_of
from goodcrate.core.foods.measures import MeasureTable, TypedAmount
from goodcrate.core.foods.units import BY_HAND, CONTAINERS, LOOSE, MASS, NONE, POURED_ML, VOLUME
from goodcrate.core.foods.weighed_amounts import Weighed
from goodcrate.core.ground.amounts import Amount
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import near

DRAINED_SHARE = {"fish": 0.76}
"""What stays of a tin's weight when it is drained, by group; 0.6 for the others: most tins of 400 g hold 240 g."""
USUAL_DRAINED_SHARE = 0.6
DRAINED_ERROR = 0.06
WITH_WASTE = re.compile(
    r"\bin (?:their|the|its) (?:shells?|pods?|skins?)\b|\bunshelled\b|\bbone[- ]in\b|\bon the bone\b|\bunpeeled\b|"
    r"\bwith bones?\b"
)
_WITHOUT_WASTE = re.compile(r"\bboneless\b|\bbones? removed\b|\bshelled\b|\bmeat only\b|\bdrained weight\b")
_IS_DRAINED = re.compile(r"drained weight|\bg drained\b")
BOUGHT_WHOLE = frozenset({"drumstick", "wing", "rib", "shank"})
"""Cuts that are weighed with their bone unless a line says otherwise."""
WASTE_ERROR = 0.05
SHELL_SHARE, SHELL_ERROR = 0.5, 0.1
"""Of nuts in their shells about half is nut; where a row says how much of it is waste, that counts."""
EGG_SIZES = {0.7: 0.84, 1.3: 1.14, 1.5: 1.28}
"""Eggs are graded: a small one is 16 % lighter than a medium one, a large one 14 % heavier."""
OWN_DENSITY_ERROR, OWN_PIECE_ERROR, OWN_PACK_ERROR, POURED_ERROR = 0.05, 0.2, 0.1, 0.5
LEAST_ERROR = 0.05
LOOSELY_CUT = frozenset({"flaked", "shredded", "grated"})
"""Cut so, a food lies looser in a cup than its row says."""
HANDFUL = {"nut_seed": Size(30, 0.4), "vegetable": Size(25, 0.4), "herb": Size(10, 0.45), "fruit": Size(70, 0.4)}
KNOB = {"fat": Size(15, 0.5)}
SAME_AS_PIECE = frozenset({"fillet", "spear", "cob", "nest", "cube", "sheet", "head", "bulb", "leaf"})
OF_THE_ROW = frozenset({"piece", "fillet", "slice", "clove", "stick", "sheet", "nest", "cube"})
NOT_A_PIECE = (
    "tablespoon",
    "teaspoon",
    "handful",
    "tub",
    "can",
    "pack",
    "pot",
    "mug",
    "glass",
    "bottle",
    "square",
    "scoop",
)


@dataclass(frozen=True, slots=True)
class Weight:
    """Grams of an amount with their standard error, in g."""

    grams: float
    error_g: float

    def times(self, share: float, relative_error: float) -> "Weight":
        """A share of it, known with a relative error."""
        grams = self.grams * share
        return Weight(grams, hypot(self.error_g * share, grams * relative_error))


@dataclass(frozen=True, slots=True)
class Scales:
    """What amounts are weighed with: sizes of pieces, and the household's cups and spoons."""

    sizes: SizeTable
    measures: MeasureTable
    convention: str = "metric"

    def weight_of(self, quantity: Quantity, food: Food, line: str) -> Weight | None:
        """The grams of an amount of a food; None when nothing says what its unit weighs."""
        if quantity.kind == MASS:
            grams = quantity.grams or 0.0
            return _edible(Weight(grams, _spread(quantity, grams)), quantity, food, line)
        typed = frozenset(tokens_of(line))
        one = self._one(quantity, food, typed)
        if one is None:
            return None
        factor = EGG_SIZES.get(quantity.size, 1.0) if food.group == "egg" else quantity.size
        grams = quantity.middle * one.grams * factor
        count = max(1.0, quantity.middle) if quantity.kind in (LOOSE, NONE) else 1.0
        return Weight(
            grams, hypot(grams * max(LEAST_ERROR, one.relative_error / sqrt(count)), _spread(quantity, grams))
        )

    def weigh_typed(self, typed: TypedAmount, food: Food) -> Weighed | None:
        """An amount typed beside its food, by the tables of sizes: “1 bunch”, “2 scoops”, “a third of a bag”."""
        quantity, rest = take_quantity(clean(typed.text))
        if quantity is None or quantity.kind not in (LOOSE, NONE) or rest.strip(" ,."):
            return None
        weight = self.weight_of(quantity, food, "")
        if weight is None or not quantity.middle:
            return None
        each, unit = weight.grams / quantity.middle, quantity.unit or "piece"
        grams = round(weight.grams, 1)
        working = say(
            "{middle} × {unit} of about {each} g", middle=near(quantity.middle, 3), unit=unit, each=near(each, 3)
        )
        kind = "eye" if unit in BY_HAND else "count"
        return Weighed(Amount(grams, kind, weight.error_g, typed.text), working)

    def _one(self, quantity: Quantity, food: Food, typed: frozenset[str]) -> Size | None:
        """What one of the unit weighs."""
        unit = quantity.unit or "piece"
        if quantity.kind == VOLUME:
            return self._by_volume(quantity, food, typed)
        if unit in POURED_ML:
            return self._piece(food, unit, typed) or self._poured(unit, food, typed)
        if unit in CONTAINERS or unit == "scoop":
            return self._piece(food, unit, typed) or _of_its_pack(unit, food)
        found = self._piece(food, unit, typed)
        if found is None and unit in SAME_AS_PIECE:
            found = self._piece(food, "piece", typed)
        if found is None and unit in OF_THE_ROW and food.each_g and _is_piece(food, unit):
            found = Size(food.each_g, OWN_PIECE_ERROR)
        by_group = {"handful": HANDFUL, "knob": KNOB}.get(unit, {})
        return found or by_group.get(food.group)

    def _piece(self, food: Food, unit: str, typed: frozenset[str]) -> Size | None:
        return self.sizes.piece(words_of_food(food, typed), unit, typed)

    def _poured(self, unit: str, food: Food, typed: frozenset[str]) -> Size | None:
        density = self._density(food, typed)
        return None if density is None else Size(POURED_ML[unit] * density.grams, POURED_ERROR)

    def _by_volume(self, quantity: Quantity, food: Food, typed: frozenset[str]) -> Size | None:
        is_heaped = quantity.is_heaped and quantity.unit in ("tablespoon", "teaspoon")
        row = self.measures.get(f"{quantity.unit}_heaped" if is_heaped else quantity.unit, self.convention)
        density = self._density(food, typed)
        if row.value is None or density is None:
            return None
        return Size(row.value * density.grams, hypot(row.relative_error, density.relative_error))

    def _density(self, food: Food, typed: frozenset[str]) -> Size | None:
        """Grams of a millilitre: the row's own, or what foods of its words or its group usually have."""
        own = None if food.density_g_per_ml is None else Size(food.density_g_per_ml, OWN_DENSITY_ERROR)
        if own is not None and not typed & LOOSELY_CUT:
            return own
        words = words_of_food(food, typed)
        if food.group == "herb":
            return self.sizes.density(frozenset({"herb"}))
        if food.group == "spice" and words & {"dried", "leaf"}:
            return self.sizes.density(words | {"dried", "herb"}, typed)
        return (
            self.sizes.density(words, typed) or own or self.sizes.density(frozenset({GROUP_WORDS.get(food.group, "")}))
        )


def _spread(quantity: Quantity, grams: float) -> float:
    """The doubt a range leaves: half its width over √3, in g."""
    if quantity.high <= quantity.low or not quantity.middle:
        return 0.0
    return grams * (quantity.high - quantity.low) / quantity.middle / 2 / sqrt(3)


def _is_piece(food: Food, unit: str) -> bool:
    """Whether the row's own piece is what is counted: a leaf of basil is, a spoonful of it is not."""
    name = (food.each_name or "").lower()
    return not any(word in name for word in NOT_A_PIECE) if unit == "piece" else unit in name


def _of_its_pack(unit: str, food: Food) -> Size | None:
    """A pack as the row has it: its tin, its block, its tub."""
    name = (food.each_name or "").lower()
    same = {"block": ("block",), "tub": ("tub", "pot"), "scoop": ("scoop",)}.get(unit, (unit,))
    if food.each_g and any(word in name for word in same):
        return Size(food.each_g, OWN_PACK_ERROR)
    is_tin = unit in ("can", "jar") and food.state.startswith("canned")
    return Size(food.pack_g, OWN_PACK_ERROR) if is_tin and food.pack_g else None


def _edible(weight: Weight, quantity: Quantity, food: Food, line: str) -> Weight:
    """A weight as its row counts it: a tin drained, bones and shells out where the line has them."""
    if quantity.container == "can" and food.state == "canned_drained" and not _IS_DRAINED.search(line):
        return weight.times(DRAINED_SHARE.get(food.group, USUAL_DRAINED_SHARE), DRAINED_ERROR)
    has_waste = WITH_WASTE.search(line) or BOUGHT_WHOLE & set(tokens_of(line))
    if not has_waste or _WITHOUT_WASTE.search(line):
        return weight
    if food.refuse_pct:
        return weight.times(1 - food.refuse_pct / 100, WASTE_ERROR)
    return weight.times(SHELL_SHARE, SHELL_ERROR) if food.group == "nut_seed" else weight
