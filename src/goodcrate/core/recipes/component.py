"""What a recipe is made of: ingredient lines with what becomes of them, and the components they belong to."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, fields, replace

from goodcrate.core.foods.food import Food, must_be_cooked
from goodcrate.core.ground.amounts import Amount
from goodcrate.core.ground.find import words_of
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.ground.same import once_for_same
from goodcrate.core.ground.wording import Saying
from goodcrate.core.recipes.cooking import Cooking
from goodcrate.core.recipes.steps import Step
from goodcrate.core.recipes.yields import LearnedYield


@dataclass(frozen=True, slots=True, kw_only=True)
class LineFlags:
    """What is said about a line besides its amount: carried by name wherever a line is typed, stored or computed."""

    is_discarded: bool = False
    is_optional: bool = False
    is_to_taste: bool = False
    is_poured_off: bool = False


FLAG_WORDS = {"is_optional": Saying("optional"), "is_to_taste": Saying("to taste")}
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
        return _tally_of(self)


@once_for_same
def _tally_of(line: IngredientLine) -> Tally:
    share, amount = abs(line.kept_share), line.amount
    tally = Tally.of(
        line.food.composition, amount.grams * share, amount.standard_error_g * share, line.key, figures_of(line.food)
    )
    if line.is_uncounted:
        tally = tally.only(_IN_TRACES)
    return tally.taken_off() if line.is_poured_off else tally


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
    """What the cook chose about keeping a component; empty leaves it to its foods (`core.recipes.keeping`).

    `own_days` in the fridge are shorter than the guidance at will, longer only with the reason, `days_because`.
    """

    keep_group: str = ""
    freezable: bool | None = None
    reheat: str = ""
    container: str = ""
    texture: str = ""
    own_days: int | None = None
    days_because: str = ""


@dataclass(frozen=True, slots=True)
class Component:
    """What is cooked and divided on its own: rice, stew, dressing.

    `cooked_g` is its typed cooked net weight, `learned` what earlier pots weighed. `vessel` is the kind of vessel it is
    made in (`goodcrate.core.recipes.vessels`), `minimum_ml` the least it needs. `pending` lines are not understood yet.
    A component that belongs to another recipe says so in `used_from` (that recipe's key) and how many grams of it a
    serving takes in `serving_g`. `variant_of` is the component a variant's version stands for.
    `cooked_as` is the cook's word for how it is cooked (`goodcrate.core.recipes.cooking`), empty when its steps tell.
    `cooking` follows from both and is set by the recipe, as is whether it `is_alone` in it.
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
    cooked_as: str = ""
    cooking: Cooking | None = field(default=None, compare=False)
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

    def times(self, factor: float) -> "Component":
        """So many times as much of all of it."""
        lines = tuple(replace(x, amount=x.amount.scaled_to(x.amount.grams * factor)) for x in self.lines)
        return replace(self, lines=lines, cooked_g=None if self.cooked_g is None else self.cooked_g * factor)


ALL_OF_IT = "all of it"
"""The name that is stored for a component nobody named, in whatever language: it is told by it."""

_SEASONING = frozenset({"fat", "condiment", "spice", "herb", "sweet", "baking"})


UNCOOKED_USES = frozenset({"at_packing", "on_the_day"})
AT_TABLE_USES = frozenset({"on_the_day", "night_before"})
LATER_USES = UNCOOKED_USES | AT_TABLE_USES
"""When a line goes in that no session asks for."""


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


def allergens_of(lines: Iterable[IngredientLine]) -> frozenset[str]:
    """Declared allergens in these lines. Labels overrule: recipes of bought foods change."""
    return frozenset().union(*(line.food.allergens for line in lines))


USES: Mapping[str, str] = {
    "": Saying("when cooking"),
    "night_before": Saying("the night before"),
    "on_the_day": Saying("on the day"),
    "at_packing": Saying("at packing"),
}
"""When a line goes in; what is not cooked belongs in a component of its own."""
