"""Recipes: ingredients by weight → a batch → per gram of cooked food → a portion.

Water gained or lost in the pot changes grams, never nutrients: a batch keeps the nutrients of
what went in, spread over what it weighs when cooked. Hence per gram = batch total ÷ cooked net
weight, and a portion is that times its grams.
"""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, fields, replace

from goodcrate.core.foods.food import Food, must_be_cooked
from goodcrate.core.ground.amounts import Amount, reading_error_g
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.find import words_of
from goodcrate.core.ground.nutrients import Measured, Tally
from goodcrate.core.recipes.steps import Step
from goodcrate.core.recipes.yields import LearnedYield


@dataclass(frozen=True, slots=True, kw_only=True)
class LineFlags:
    """What is said about a line besides its amount: carried by name wherever a line is typed, stored or computed."""

    is_discarded: bool = False
    is_optional: bool = False
    is_to_taste: bool = False
    is_poured_off: bool = False


FLAG_WORDS = {"is_optional": "optional", "is_to_taste": "to taste"}
"""Flags that are ticked in a recipe's form, as they are said there; the other two are what becomes of a line."""
LINE_FLAGS = tuple(f.name for f in fields(LineFlags))


def flags_of(line: object) -> dict[str, bool]:
    """The flags of a line, whatever form it has: a row, a form, a value."""
    return {name: getattr(line, name) for name in LINE_FLAGS}


@dataclass(frozen=True, slots=True)
class IngredientLine(LineFlags):
    """One food in one component, with its amount. `key` names it as a source of doubt.

    `uptake` is the share of it that stays in the food (oil left in the pan, marinade poured away, breading that falls
    off); a discarded line (bay leaf, bones) leaves nothing; a poured-off line (rendered fat, a broth kept for later)
    was never weighed in: it leaves the pot and takes its nutrients along. `use` says when it goes in, one of `USES`.
    An uncounted line is a trace whose grams and sodium count and nothing else (`goodcrate.core.recipes.counting`).
    """

    key: str
    food: Food
    amount: Amount
    uptake: float = 1.0
    use: str = ""
    is_uncounted: bool = False

    @property
    def kept_share(self) -> float:
        """The share of its grams and nutrients that stays in the food: 0 to 1, or −1 for what is poured off."""
        if self.is_poured_off:
            return -1.0
        return 0.0 if self.is_discarded else self.uptake

    @property
    def weighed_in_g(self) -> float:
        """Grams that go into the pot."""
        return 0.0 if self.is_poured_off else self.amount.grams

    @property
    def kept_g(self) -> float:
        """Grams that stay in the food before cooking takes or gives water; negative for what is poured off."""
        return self.amount.grams * self.kept_share

    @property
    def tally(self) -> Tally:
        """Nutrients of this line that stay in the food; negative for what is poured off."""
        share = abs(self.kept_share)
        tally = Tally.of(
            self.food.composition,
            self.amount.grams * share,
            self.amount.standard_error_g * share,
            self.key,
            figures_of(self.food),
        )
        if self.is_uncounted:
            tally = tally.only(_IN_TRACES)
        return tally.taken_off() if self.is_poured_off else tally


_IN_TRACES = frozenset({"sodium_mg"})
"""What counts even in a trace: a pinch of salt is no energy, and all of the sodium."""


def figures_of(food: Food) -> str:
    """The name under which the doubt of a food's own figures is kept: one food is one source, however often used."""
    return f"figures:{food.key}"


@dataclass(frozen=True, slots=True)
class PendingLine:
    """A line that was pasted or imported and is not understood yet, kept as it stands; it counts nothing.

    `food_key` and `amount` are what it may be, `doubt` why it waits for a yes.
    """

    key: str
    text: str
    doubt: str
    food_key: str = ""
    amount: str = ""


@dataclass(frozen=True, slots=True)
class StorageChoice:
    """What the cook chose about keeping a component; empty leaves it to its foods (`core.recipes.keeping`)."""

    keep_group: str = ""
    freezable: bool | None = None
    reheat: str = ""
    container: str = ""
    texture: str = ""


@dataclass(frozen=True, slots=True)
class Component:
    """What is cooked and divided on its own: rice, stew, dressing.

    `cooked_g` is its typed cooked net weight, `learned` what earlier pots weighed. `vessel` is the kind of vessel it is
    made in (`goodcrate.core.recipes.vessels`), `minimum_ml` the least it needs. `pending` lines are not understood yet.
    A component that belongs to another recipe says so in `used_from` (that recipe's key) and how many grams of it a
    serving takes in `serving_g`. `variant_of` is the component a variant's version stands for.
    `cooking` follows from the steps of its recipe (`cooking_of`) and is set there, as is whether it `is_alone` in it.
    """

    key: str
    name: str
    lines: tuple[IngredientLine, ...]
    cooked_g: float | None = None
    learned: LearnedYield | None = None
    storage: StorageChoice = field(default_factory=StorageChoice)
    vessel: str = ""
    minimum_ml: float | None = None
    pending: tuple[PendingLine, ...] = ()
    used_from: str = ""
    serving_g: float | None = None
    variant_of: str = ""
    cooking: str = field(default="", compare=False)
    is_alone: bool = field(default=False, compare=False)

    @property
    def is_used(self) -> bool:
        """Whether it is another recipe's component, served here too."""
        return bool(self.used_from)

    @property
    def kept_g(self) -> float:
        """Grams of ingredients that stay in it."""
        return sum(line.kept_g for line in self.lines)

    def with_lines(self, lines: Sequence[IngredientLine]) -> "Component":
        """The component with other lines: a typed cooked weight follows at the same yield."""
        cooked_g, before = self.cooked_g, self.kept_g
        after = sum(line.kept_g for line in lines)
        if cooked_g is not None and before > 0 and after > 0:
            cooked_g = cooked_g * after / before
        return replace(self, lines=tuple(lines), cooked_g=cooked_g)


_SEASONING = frozenset({"fat", "condiment", "spice", "herb", "sweet", "baking"})
UNCOOKED_USES = frozenset({"at_packing", "on_the_day"})


def step_heats(step: Step, component: Component) -> bool:
    """Whether a step heats a component: it names it or a food of it that a pot holds, or it is the only one."""
    if not step.heats or step.component_key not in ("", component.key):
        return False
    if step.component_key == component.key or component.is_alone:
        return True
    said = set(words_of(step.text))
    if said & set(words_of(component.name)):
        return True
    return any(
        not line.is_discarded
        and line.use not in UNCOOKED_USES
        and (must_be_cooked(line.food) or (line.food.group not in _SEASONING and said & set(words_of(line.food.name))))
        for line in component.lines
    )


IN_WATER = re.compile(r"\b(simmer|boil|swell|poach|steam|blanch|stew|brais|cook|tender|soft)", re.IGNORECASE)
"""Words of a step in which dry things take up water."""
_DRY_HEAT = frozenset({"oven", "air_fryer", "blender", "fridge", "cooling"})
HEATED, BOILED_IN_WATER = "heated", "boiled"


def cooking_of(component: Component, steps: Iterable[Step]) -> str:
    """Whether a component's own steps boil it in water, heat it otherwise, or (empty) do neither."""
    found = ""
    for step in steps:
        heats = step_heats(step, component)
        if step.component_key not in ("", component.key):
            continue
        if IN_WATER.search(step.text) and step.equipment not in _DRY_HEAT and (heats or step.component_key):
            return BOILED_IN_WATER
        found = HEATED if heats else found
    return found


@dataclass(frozen=True, slots=True)
class LineChange:
    """What a variant does to one line of its recipe: leave it out, or put `grams` of another food in its place."""

    line_key: str
    food: Food | None = None
    grams: float = 0.0

    @property
    def is_left_out(self) -> bool:
        """Whether the line is simply left out."""
        return self.food is None


@dataclass(frozen=True, slots=True)
class Variant:
    """The recipe for some of the eaters, different in a few lines (`goodcrate.core.recipes.variants`)."""

    key: str
    name: str
    eater_keys: tuple[str, ...]
    changes: tuple[LineChange, ...]


@dataclass(frozen=True, slots=True)
class Recipe:
    """Components that make `servings` equal servings, the steps that make them, and versions for single eaters.

    Raises:
        InvalidInput: when servings are not from 0.5 to 100, or a component stands in it twice.
    """

    key: str
    name: str
    servings: float
    components: tuple[Component, ...]
    steps: tuple[Step, ...] = ()
    variants: tuple[Variant, ...] = ()

    def __post_init__(self) -> None:
        if not 0.5 <= self.servings <= 100:
            raise InvalidInput(
                "servings", f"{self.servings:g} servings is outside what we compute.", "Give 0.5 to 100."
            )
        keys = [component.key for component in self.components]
        if len(set(keys)) < len(keys):
            raise InvalidInput("components", "A component stands in this recipe twice.", "Once is enough.")
        alone = len(self.components) == 1
        known = [c if c.is_used else replace(c, is_alone=alone) for c in self.components]
        told = tuple(c if c.is_used else replace(c, cooking=cooking_of(c, self.steps)) for c in known)
        object.__setattr__(self, "components", told)

    @property
    def lines(self) -> tuple[IngredientLine, ...]:
        """All ingredient lines, component by component."""
        return tuple(line for component in self.components for line in component.lines)

    @property
    def own_components(self) -> tuple[Component, ...]:
        """The components that are this recipe's own."""
        return tuple(c for c in self.components if not c.is_used)

    @property
    def pending(self) -> tuple[PendingLine, ...]:
        """Lines that are not understood yet; while there are any, every figure leaves something out."""
        return tuple(line for component in self.components for line in component.pending)

    @property
    def allergens(self) -> frozenset[str]:
        """Declared allergens of all its foods."""
        return allergens_of(self.lines)


def allergens_of(lines: Iterable[IngredientLine]) -> frozenset[str]:
    """Declared allergens in these lines. Labels overrule: recipes of bought foods change."""
    return frozenset().union(*(line.food.allergens for line in lines))


@dataclass(frozen=True, slots=True)
class ExpectedWeight:
    """What a component should weigh when cooked, in g, and where that comes from."""

    grams: float
    ingredient_g: float
    basis: str

    @property
    def yield_factor(self) -> float:
        """Cooked net weight ÷ ingredient weight."""
        return self.grams / self.ingredient_g if self.ingredient_g > 0 else 1.0


USES: Mapping[str, str] = {
    "": "when cooking",
    "night_before": "the night before",
    "on_the_day": "on the day",
    "at_packing": "at packing",
}
"""When a line goes in; what is not cooked belongs in a component of its own."""

TYPED, FROM_FOODS, AS_WEIGHED = "typed", "from the foods’ usual yields", "taken as weighed in"
LEARNED = "learned from your pots"


def expected_cooked_weight(component: Component) -> ExpectedWeight:
    """The cooked net weight to expect: typed, else learned from earlier pots, else what goes in with its usual yields.

    Yields apply to what is cooked: dry foods take up water only where a step boils them, liquid of the list first; what
    loses weight loses it only where a step heats it. Nothing cooked means weight in = weight out.
    """
    ingredient_g = sum(line.weighed_in_g for line in component.lines)
    if component.cooked_g is not None:
        return ExpectedWeight(component.cooked_g, ingredient_g, TYPED)
    if component.learned is not None and ingredient_g > 0:
        return ExpectedWeight(ingredient_g * component.learned.factor, ingredient_g, LEARNED)
    grams = component.kept_g + _water_taken_up_g(component) - _lost_in_heat_g(component)
    basis = AS_WEIGHED if grams == component.kept_g else FROM_FOODS
    return ExpectedWeight(grams, ingredient_g, basis)


LISTED_WATER_SHARE = 0.5
"""With half as much liquid in the list as there are dry things, the list holds all the water: our line."""


def _water_taken_up_g(component: Component) -> float:
    """Water from outside the list that dry foods take up when a step boils them: none when the list holds the water."""
    if component.cooking != BOILED_IN_WATER:
        return 0.0
    dry = [(x.kept_g, x.food.cooked_yield or 1.0) for x in component.lines if x.kept_g > 0]
    swelling = [(grams, factor) for grams, factor in dry if factor > 1]
    listed_g = sum(x.kept_g for x in component.lines if x.kept_g > 0 and x.food.is_liquid)
    if listed_g >= LISTED_WATER_SHARE * sum(grams for grams, _ in swelling):
        return 0.0
    return max(0.0, sum(grams * (factor - 1) for grams, factor in swelling) - listed_g)


def _lost_in_heat_g(component: Component) -> float:
    """What foods lose when a step heats them, by their usual yields."""
    if not component.cooking:
        return 0.0
    kept = [(x.kept_g, x.food.cooked_yield) for x in component.lines if x.kept_g > 0]
    return sum(grams * (1 - factor) for grams, factor in kept if factor is not None and factor < 1)


@dataclass(frozen=True, slots=True)
class Batch:
    """One cooking of one component: nutrients of what stays in it, over what it weighs when cooked.

    `ingredient_g` is everything weighed in, what is poured away or taken out included.
    """

    lines: tuple[IngredientLine, ...]
    ingredient_g: float
    cooked_g: float
    tally: Tally

    @property
    def taken_out_g(self) -> float:
        """Grams that went in and do not stay: bones, marinade, oil left in the pan, fat poured off."""
        return sum(line.weighed_in_g - line.kept_g for line in self.lines)

    @property
    def water_g(self) -> float:
        """Grams of water taken up (or, negative, lost) between what stays and what it weighs cooked."""
        return self.cooked_g - sum(line.kept_g for line in self.lines)

    @property
    def yield_factor(self) -> float:
        """Cooked net weight ÷ ingredient weight."""
        return self.cooked_g / self.ingredient_g if self.ingredient_g > 0 else 1.0

    def per_100_g(self, nutrient: str) -> Measured:
        """One nutrient in 100 g of the cooked food.

        Raises:
            InvalidInput: for a key that is no nutrient.
        """
        return self.portion(100.0, standard_error_g=0.0).amount(nutrient)

    def portion(self, grams: float, source: str = "portion", standard_error_g: float | None = None) -> Tally:
        """Nutrients in `grams` of this batch, with the doubt of weighing that portion on a 1 g scale by default.

        Raises:
            InvalidInput: when grams are negative, or food is taken from a batch that weighs nothing.
        """
        if grams < 0:
            raise InvalidInput("grams", "A portion cannot be negative.", "Give 0 or more grams.")
        if grams > 0 and self.cooked_g <= 0:
            raise InvalidInput("grams", "The batch weighs nothing.", "Weigh the ingredients or the pot first.")
        share = grams / self.cooked_g if grams > 0 else 0.0
        error = reading_error_g() if standard_error_g is None else standard_error_g
        return self.tally.scaled(share).with_weighing_error(error, source)


def batch_of(lines: Sequence[IngredientLine], cooked_g: float) -> Batch:
    """Put ingredients into a pot that weighs `cooked_g` net when cooked.

    Raises:
        InvalidInput: when there are ingredients and the cooked weight is not above zero, or more of something is poured
            off than went in.
    """
    tally = Tally.sum([line.tally for line in lines])
    if tally.grams > 0 and cooked_g <= 0:
        raise InvalidInput("cooked_g", "A cooked batch weighs more than 0 g.", "Give its net weight in grams.")
    if any(line.is_poured_off for line in lines):
        tally = _less_poured_off(lines, tally)
    weighed_in_g = sum(line.weighed_in_g for line in lines)
    return Batch(tuple(lines), weighed_in_g, cooked_g, tally.with_grams(cooked_g))


_COUNTED = ("energy_kcal", "protein_g", "fat_g", "carbohydrate_g")


def _less_poured_off(lines: Sequence[IngredientLine], tally: Tally) -> Tally:
    """A batch's tally after something was poured off: nothing can leave that was not in.

    Energy and what gives it must add up, to a hundredth. Of other nutrients, whose typical figures may not fit
    together, no more leaves than went in. What leaves in an unknown amount makes unknown what stays.
    """
    poured = Tally.sum([line.tally for line in lines if line.is_poured_off])
    for key in _COUNTED:
        left, out = tally.amount(key).value, -poured.amount(key).value
        if left < -max(1e-9, 0.01 * out):
            word = key.rsplit("_", 1)[0]
            raise InvalidInput("poured_off", f"More {word} is poured off than went in.", "Mend the amounts.")
    if tally.grams <= 0:
        raise InvalidInput("poured_off", "More is poured off than went in.", "Mend the amounts.")
    left_unknown = [u > 0 for u in poured.unknown_g]  # how much of it left is not known, so neither is what stays
    return replace(
        tally,
        known=tuple([0.0 if gone else max(0.0, k) for k, gone in zip(tally.known, left_unknown, strict=True)]),
        unknown_g=tuple([tally.grams if gone else u for u, gone in zip(tally.unknown_g, left_unknown, strict=True)]),
    )


@dataclass(frozen=True, slots=True)
class ComponentServing:
    """One component's share in a serving."""

    component: Component
    expected: ExpectedWeight
    batch: Batch
    grams: float
    tally: Tally


@dataclass(frozen=True, slots=True)
class Serving:
    """One serving of a recipe: grams and nutrients per component, and in all."""

    parts: tuple[ComponentServing, ...]
    tally: Tally


def portion_g(recipe: Recipe, component: Component, cooked_g: float) -> float:
    """Grams of a component in one serving of a recipe, when its whole batch weighs `cooked_g`."""
    return component.serving_g if component.serving_g is not None else cooked_g / recipe.servings


def serving_of(recipe: Recipe, servings: float = 1.0) -> Serving:
    """Nutrients of so many servings, each component divided equally over the recipe's servings.

    Of another recipe's component a serving takes its `serving_g`. No portion weighing is added: this is the recipe as
    planned. Components without ingredients are left out.

    Raises:
        InvalidInput: for a negative number of servings or an impossible cooked weight.
    """
    if servings < 0:
        raise InvalidInput("servings", "Servings cannot be negative.", "Give 0 or more.")
    parts = []
    for component in recipe.components:
        if not component.lines:
            continue
        expected = expected_cooked_weight(component)
        batch = batch_of(component.lines, expected.grams)
        grams = portion_g(recipe, component, expected.grams) * servings
        parts.append(ComponentServing(component, expected, batch, grams, batch.portion(grams, standard_error_g=0.0)))
    return Serving(tuple(parts), Tally.sum(part.tally for part in parts))
