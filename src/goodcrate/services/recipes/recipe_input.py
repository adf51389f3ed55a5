"""A recipe as it is typed, imported or kept as a document: what goes into saving, and the checks it must pass."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cache
from uuid import UUID

from pydantic import TypeAdapter

from goodcrate.core.cook.batch_record import check_lines
from goodcrate.core.foods.food import Food
from goodcrate.core.ground.amounts import Amount
from goodcrate.core.ground.document import Document, ReadDocument
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.same import once_for_same
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import short, shown
from goodcrate.core.recipes.component import (
    USES,
    Component,
    IngredientLine,
    LineFlags,
    PendingLine,
    StorageChoice,
    flags_of,
)
from goodcrate.core.recipes.cooking import COOKED_AS
from goodcrate.core.recipes.keeping import CONTAINERS, TEXTURES
from goodcrate.core.recipes.recipe import LineChange, Recipe, Variant
from goodcrate.core.recipes.step_checks import check_steps
from goodcrate.core.recipes.steps import Step
from goodcrate.core.recipes.variants import check_variants
from goodcrate.core.recipes.vessels import COOKS_IN
from goodcrate.core.recipes.yields import LearnedYield
from goodcrate.db.base import grams
from goodcrate.db.recipes import ComponentRow, LineRow, RecipeRow, step_of, stored_amount
from goodcrate.db.stored import by_name
from goodcrate.formats.reference import core_temperatures, keep_groups, reference_foods

MOST_LINES = 300


@dataclass(frozen=True)
class LineInput(LineFlags):
    """A typed ingredient line. `id` is made by the client and stays the line's.

    `kept_version` names figures of its food to compute with, when it keeps earlier ones; None leaves that as it is.
    """

    id: UUID
    food_key: str
    amount_g: float
    measure: str = "weighed"
    typed: str | None = None
    error_g: float | None = None
    uptake: float = 1.0
    use: str = ""
    kept_version: int | None = None

    @property
    def amount(self) -> Amount:
        """The amount as core computes with it; without an error of its own it has its measure's."""
        return stored_amount(grams(self.amount_g), self.measure, self.error_g, self.typed)

    def of(self, food: Food) -> IngredientLine:
        """The line as core computes with it."""
        return _computed_with(self, food)


@dataclass(frozen=True)
class ComponentInput:
    """A typed component; `cooked_g` None leaves the cooked weight to what pots taught, then to the foods' yields.

    With `used_component_id` it is another recipe's component, `serving_g` of it in a serving, and has no lines.
    """

    id: UUID
    name: str
    lines: tuple[LineInput, ...] = ()
    cooked_g: float | None = None
    storage: StorageChoice = field(default_factory=StorageChoice)
    vessel: str = ""
    minimum_ml: float | None = None
    pending: tuple[PendingLine, ...] = ()
    used_component_id: UUID | None = None
    serving_g: float | None = None
    cooked_as: str = ""


@dataclass(frozen=True)
class ChangeInput:
    """What a variant does to a line: leave it out (no food), or put so many g of a food in its place."""

    line_id: UUID
    food_key: str = ""
    amount_g: float = 0.0


@dataclass(frozen=True)
class VariantInput:
    """A typed variant: the recipe for some of the eaters."""

    id: UUID
    name: str
    eater_ids: tuple[UUID, ...]
    changes: tuple[ChangeInput, ...]


@dataclass(frozen=True)
class RecipeInput:
    """A typed recipe; `version` is the one it was read at, 0 for a new one.

    `facts` are what the cook taught about foods while typing (density, piece weight …), by food key and fact. `origin`
    says where an imported recipe came from. `page` names the open page it was typed on and `edit` counts its typing.
    """

    id: UUID
    name: str
    servings: float
    components: tuple[ComponentInput, ...]
    note: str = ""
    tags: tuple[str, ...] = ()
    version: int = 0
    facts: Mapping[str, Mapping[str, float]] = field(default_factory=dict)
    steps: tuple[Step, ...] = ()
    variants: tuple[VariantInput, ...] = ()
    origin: str = ""
    page: str = ""
    edit: int = 0

    @property
    def food_keys(self) -> set[str]:
        """The foods of all lines and variants."""
        keys = {line.food_key for c in self.components for line in c.lines}
        return keys | {change.food_key for v in self.variants for change in v.changes if change.food_key}

    @property
    def used_ids(self) -> set[UUID]:
        """The other recipes' components it uses."""
        return {c.used_component_id for c in self.components if c.used_component_id is not None}


@dataclass(frozen=True)
class Around:
    """What a typed recipe is computed with besides its lines: foods, kept figures, taught yields, used components."""

    foods: Mapping[str, Food]
    kept: Mapping[tuple[UUID, str], Food] = field(default_factory=dict)
    learned: Mapping[UUID, LearnedYield | None] = field(default_factory=dict)
    used: Mapping[UUID, Component] = field(default_factory=dict)


@once_for_same
def _component_of(c: ComponentInput, learned: LearnedYield | None, *lines: IngredientLine) -> Component:
    return Component(
        str(c.id),
        c.name,
        lines,
        c.cooked_g,
        learned,
        c.storage,
        vessel=c.vessel,
        minimum_ml=c.minimum_ml,
        pending=c.pending,
        cooked_as=c.cooked_as,
    )


@once_for_same
def _computed_with(line: LineInput, food: Food) -> IngredientLine:
    return IngredientLine(str(line.id), food, line.amount, line.uptake, line.use, **flags_of(line))


def recipe_of(typed: RecipeInput, around: Around) -> Recipe:
    """What is typed as core's recipe; lines with foods that are not known are left out.

    Raises:
        InvalidInput: when the servings cannot be used, or a component stands in it twice.
    """
    components = []
    for c in typed.components:
        if c.used_component_id is not None:
            source = around.used.get(c.used_component_id)
            if source is not None:
                components.append(replace(source, serving_g=c.serving_g))
            continue
        lines = tuple(
            line.of(around.kept.get((line.id, line.food_key), around.foods[line.food_key]))
            for line in c.lines
            if line.food_key in around.foods
        )
        components.append(_component_of(c, around.learned.get(c.id), *lines))
    variants = tuple(
        Variant(
            str(v.id),
            v.name,
            tuple(map(str, v.eater_ids)),
            tuple(
                LineChange(str(x.line_id), around.foods[x.food_key] if x.food_key else None, x.amount_g)
                for x in v.changes
                if not x.food_key or x.food_key in around.foods
            ),
        )
        for v in typed.variants
    )
    return Recipe(str(typed.id), typed.name, typed.servings, tuple(components), typed.steps, variants)


@cache
def _adapter() -> TypeAdapter[RecipeInput]:
    return TypeAdapter(RecipeInput)


def as_document(typed: RecipeInput) -> Document:
    """A recipe as JSON values, everything of it, to be kept."""
    document: Document = _adapter().dump_python(typed, mode="json")
    return document


def of_document(document: ReadDocument) -> RecipeInput:
    """A kept recipe again."""
    return _adapter().validate_python(document)


def _component_as_typed(c: ComponentRow) -> ComponentInput:
    return ComponentInput(
        c.id,
        c.name,
        tuple(_line_as_typed(x) for x in c.lines),
        None if c.cooked_g is None else float(c.cooked_g),
        by_name(StorageChoice, c.storage),
        c.vessel,
        minimum_ml=c.minimum_ml,
        pending=tuple(by_name(PendingLine, p) for p in c.pending),
        used_component_id=c.used_component_id,
        serving_g=None if c.serving_g is None else float(c.serving_g),
        cooked_as=c.cooked_as,
    )


def _line_as_typed(x: LineRow) -> LineInput:
    return LineInput(
        x.id,
        x.food.key,
        float(x.amount_g),
        x.measure,
        x.amount_text,
        x.error_g,
        uptake=x.uptake,
        use=x.use_at,
        **flags_of(x),
        kept_version=x.figures_version if x.keeps_figures else None,
    )


def input_of(row: RecipeRow) -> RecipeInput:
    """A saved recipe as it would be typed, with its version and the figures its lines keep."""
    variants = tuple(
        VariantInput(
            UUID(v["key"]),
            v["name"],
            tuple(UUID(e) for e in v["eaters"]),
            tuple(
                ChangeInput(x.line_id, x.food.key if x.food is not None else "", float(x.amount_g))
                for x in row.changes
                if str(x.variant_id) == v["key"]
            ),
        )
        for v in row.variants
    )
    return RecipeInput(
        row.id,
        row.name,
        row.servings,
        tuple(_component_as_typed(c) for c in row.components),
        row.note,
        tuple(row.tags),
        version=row.version,
        facts={},
        steps=tuple(step_of(s) for s in row.steps),
        variants=variants,
        origin=row.origin,
    )


def check_recipe(typed: RecipeInput) -> None:
    """Refuse what cannot be saved.

    Raises:
        InvalidInputs: naming every field that cannot be used.
    """
    faults = [*_head_faults(typed)]
    for c in typed.components:
        faults.extend(_component_faults(c))
        faults.extend(_flag_faults(c.lines))
        try:
            check_lines([(f"line-{line.id}-amount", line.amount_g) for line in c.lines])
        except InvalidInputs as found:
            faults.extend(found.faults)
    try:
        keys = [str(c.used_component_id or c.id) for c in typed.components]
        check_steps(typed.steps, keys, [t.kind for t in core_temperatures()])
    except InvalidInputs as found:
        faults.extend(found.faults)
    line_keys = {str(line.id) for c in typed.components for line in c.lines}
    any_food = next(iter(reference_foods().values()))  # only whether there is one is judged here
    variants = [
        Variant(
            str(v.id),
            v.name,
            tuple(map(str, v.eater_ids)),
            tuple(LineChange(str(x.line_id), any_food if x.food_key else None, x.amount_g) for x in v.changes),
        )
        for v in typed.variants
    ]
    faults.extend(check_variants(variants, line_keys))
    if faults:
        raise InvalidInputs(faults)


def _head_faults(typed: RecipeInput) -> Iterator[InvalidInput]:
    if not typed.name.strip():
        yield InvalidInput("name", say("The recipe needs a name."), say("Up to 160 letters."))
    elif len(typed.name) > 160:
        yield InvalidInput("name", say("{name} letters are too many.", name=len(typed.name)), say("Up to 160."))
    if not 0.5 <= typed.servings <= 100:
        yield InvalidInput(
            "servings",
            say("{servings} servings is not possible.", servings=short(typed.servings)),
            say("Give {short} to 100.", short=short(0.5)),
        )
    if not any(c.lines or c.pending or c.used_component_id for c in typed.components):
        yield InvalidInput("lines", say("There is no ingredient yet."), say("Find a food and give its grams."))
    count = sum(len(c.lines) + len(c.pending) for c in typed.components)
    if count > MOST_LINES:
        yield InvalidInput(
            "lines",
            say("{count} ingredient lines are too many.", count=count),
            say("At most {MOST_LINES}: split it.", MOST_LINES=MOST_LINES),
        )
    ids = [x for c in typed.components for x in (c.id, *(line.id for line in c.lines))]
    if len(set(ids)) < len(ids):
        yield InvalidInput(
            "lines", say("An ingredient stands in this recipe twice under one id."), say("Take one of them out.")
        )
    used = [c.used_component_id for c in typed.components if c.used_component_id is not None]
    if len(set(used)) < len(used):
        yield InvalidInput("components", say("The same component is used twice."), say("Once is enough."))


def _component_faults(c: ComponentInput) -> Iterator[InvalidInput]:
    place = f"component-{c.id}"
    if len(c.name) > 80:
        yield InvalidInput(f"{place}-name", say("This name is too long."), say("Up to 80 letters."))
    if c.cooked_g is not None and c.cooked_g <= 0:
        yield InvalidInput(f"{place}-cooked", say("Cooked food weighs more than 0 g."))
    if c.used_component_id is not None:
        if c.serving_g is None or not 1 <= c.serving_g <= 3000:
            yield InvalidInput(
                f"{place}-serving",
                say("How much of it is in a serving?"),
                say("From 1 to {shown} g.", shown=shown(3000)),
            )
        return
    if c.vessel and c.vessel not in COOKS_IN:
        yield InvalidInput(
            f"{place}-vessel", say("“{vessel}” is no kind of vessel.", vessel=c.vessel), say("Choose one.")
        )
    if c.minimum_ml is not None and not 0 < c.minimum_ml <= 20_000:
        yield InvalidInput(
            f"{place}-minimum",
            say("{minimum_ml} ml is not possible.", minimum_ml=short(c.minimum_ml)),
            say("Up to 20 l."),
        )
    if c.cooked_as and c.cooked_as not in COOKED_AS:
        yield InvalidInput(
            f"{place}-cooked_as",
            say("“{cooked_as}” is no way of cooking here.", cooked_as=c.cooked_as),
            say("Choose one."),
        )
    s = c.storage
    yield from _own_days_faults(s, place)
    if s.keep_group and s.keep_group not in keep_groups():
        yield InvalidInput(
            f"{place}-keep", say("“{keep_group}” is no keep group.", keep_group=s.keep_group), say("Choose one.")
        )
    if s.container not in CONTAINERS or s.texture not in TEXTURES:
        yield InvalidInput(f"{place}-keep", say("This container or texture is not known."), say("Choose one."))
    if len(s.reheat) > 200:
        yield InvalidInput(
            f"{place}-reheat", say("{reheat} letters are too many.", reheat=len(s.reheat)), say("Up to 200.")
        )


MOST_OWN_DAYS = 365
LONGEST_REASON = 200


def _own_days_faults(s: StorageChoice, place: str) -> Iterator[InvalidInput]:
    if s.own_days is not None and not 0 <= s.own_days <= MOST_OWN_DAYS:
        yield InvalidInput(
            f"{place}-own_days",
            say("{own_days} days are not possible.", own_days=s.own_days),
            say("0 to {MOST_OWN_DAYS} days.", MOST_OWN_DAYS=MOST_OWN_DAYS),
        )
    if len(s.days_because) > LONGEST_REASON:
        problem = say("{days_because} letters are too many.", days_because=len(s.days_because))
        yield InvalidInput(
            f"{place}-days_because", problem, say("Up to {LONGEST_REASON}.", LONGEST_REASON=LONGEST_REASON)
        )


def _flag_faults(lines: Sequence[LineInput]) -> Iterator[InvalidInput]:
    for line in lines:
        if not 0 <= line.uptake <= 1:
            yield InvalidInput(f"line-{line.id}-uptake", say("From 0 to 100 % can stay in the food."))
        if line.use not in USES:
            yield InvalidInput("lines", say("“{use}” is no time to add an ingredient.", use=line.use))
        if line.is_poured_off and (line.is_discarded or line.uptake != 1):
            yield InvalidInput(
                f"line-{line.id}-uptake", say("What is poured off is poured off whole."), say("Leave it at 100 %.")
            )
