"""A recipe with all we know as plain JSON values, under our own namespace: what exports carry and imports read back.

Documented in `docs/recipe-format.md`. Foods of the reference table are named by key, others carried whole, so that
another household can take the recipe in. Values outside the bounds are refused, unknown fields ignored.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from goodcrate.core.foods.food import OF_A_FOOD, Food, check_food
from goodcrate.core.ground.amounts import MEASURES, Amount
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.nutrients import KEYS, Composition
from goodcrate.core.recipes.component import LINE_FLAGS, Component, IngredientLine, PendingLine, StorageChoice, flags_of
from goodcrate.core.recipes.cooking import COOKED_AS
from goodcrate.core.recipes.recipe import LineChange, Recipe, Variant
from goodcrate.core.recipes.steps import Step
from goodcrate.core.recipes.yields import LearnedYield
from goodcrate.formats.reference import OUTSIDE_THE_FACTORS, reference_foods

FORMAT = 1
Key = Annotated[str, Field(min_length=1, max_length=120)]
Text = Annotated[str, Field(max_length=600)]
Grams = Annotated[float, Field(ge=0, le=40_000)]
Minutes = Annotated[float, Field(ge=0, le=1440)]
Celsius = Annotated[float, Field(ge=0, le=400)]
Figure = Annotated[float, Field(ge=-1e8, le=1e8)]
Times = Annotated[float, Field(gt=0, le=50)]


class Part(BaseModel):
    """What later versions may add is ignored; numbers are finite."""

    model_config = ConfigDict(extra="ignore", allow_inf_nan=False)


class DocFood(Part):
    """A food that is not in the reference table, or differs from it, whole."""

    name: str = Field(min_length=1, max_length=160)
    state: str = Field(max_length=20)
    group: str = Field(max_length=20)
    per_100_g: dict[Annotated[str, Field(max_length=30)], Figure]
    errors_per_100_g: dict[Annotated[str, Field(max_length=30)], Figure] = Field(default_factory=dict)
    at_least: list[Annotated[str, Field(max_length=30)]] = Field(default_factory=list, max_length=40)
    allergens: list[Annotated[str, Field(max_length=30)]] = Field(default_factory=list, max_length=14)
    diet: str = Field("plant", max_length=10)
    contains_pork: bool = False
    cooks_like: str = Field("", max_length=10)
    density_g_per_ml: Times | None = None
    each_name: str | None = Field(None, max_length=80)
    each_g: Grams | None = None
    refuse_pct: Annotated[float, Field(ge=0, le=100)] | None = None
    keep_group: str = Field("pantry", max_length=30)
    cooked_key: str | None = Field(None, max_length=80)
    cooked_yield: Times | None = None
    aisle: str = Field("", max_length=30)
    pack_g: Grams | None = None
    serving_g: Grams | None = None
    price: Annotated[float, Field(ge=0, le=1e6)] | None = None
    barcode: str | None = Field(None, max_length=14)
    note: str = Field("", max_length=2000)
    source: str = Field("", max_length=160)


class DocLine(Part):
    """An ingredient line; `food` is a key of `foods` or of the reference table."""

    key: Key
    food: Key
    grams: Annotated[float, Field(ge=0, le=10_000)]
    measure: str = "weighed"
    standard_error_g: Grams = 0.0
    typed: str = Field("", max_length=60)
    uptake: float = Field(1.0, ge=0, le=1)
    discarded: bool = False
    poured_off: bool = False
    use: str = Field("", max_length=12)
    optional: bool = False
    to_taste: bool = False


class DocPending(Part):
    """A line nobody understood yet, as it stood."""

    key: Key
    text: str = Field(max_length=200)
    doubt: str = Field("", max_length=200)
    food_key: str = Field("", max_length=120)
    amount: str = Field("", max_length=60)


class DocStorage(Part):
    """What the cook chose about keeping."""

    keep_group: str = Field("", max_length=30)
    freezable: bool | None = None
    reheat: str = Field("", max_length=200)
    container: str = Field("", max_length=12)
    texture: str = Field("", max_length=12)
    own_days: int | None = Field(None, ge=0, le=365)
    days_because: str = Field("", max_length=200)


class DocYield(Part):
    """A yield learned from weighed pots."""

    factor: Times
    low: Times
    high: Times
    pots: int = Field(ge=1, le=1_000_000)


class DocComponent(Part):
    """A component; with `used_from` it belongs to another recipe, named by that key, and is carried whole."""

    key: Key
    name: str = Field("", max_length=120)
    lines: list[DocLine] = Field(default_factory=list, max_length=300)
    cooked_g: float | None = Field(None, gt=0, le=40_000)
    learned: DocYield | None = None
    storage: DocStorage = Field(default_factory=DocStorage)
    vessel: str = Field("", max_length=12)
    minimum_ml: float | None = Field(None, gt=0, le=20_000)
    pending: list[DocPending] = Field(default_factory=list, max_length=300)
    used_from: str = Field("", max_length=120)
    serving_g: float | None = Field(None, ge=1, le=3000)
    cooked_as: str = Field("", max_length=12)


class DocStep(Part):
    """A step; see `goodcrate.core.recipes.steps`."""

    key: Key
    text: Text
    component: str = Field("", max_length=120)
    equipment: str = Field("", max_length=12)
    minutes: Minutes | None = None
    hands_on: bool = True
    low_c: Celsius | None = None
    high_c: Celsius | None = None
    core_kind: str = Field("", max_length=40)
    after: list[Key] = Field(default_factory=list, max_length=60)
    at_once: bool = False
    checks_min: list[Minutes] = Field(default_factory=list, max_length=20)


class DocChange(Part):
    """What a variant does to a line."""

    line: Key
    food: str = Field("", max_length=120)
    grams: Grams = 0.0


class DocVariant(Part):
    """The recipe for some of the eaters; `eaters` are the household's own ids or names."""

    key: Key
    name: str = Field("", max_length=80)
    eaters: list[Key] = Field(default_factory=list, max_length=6)
    changes: list[DocChange] = Field(default_factory=list, max_length=300)


class Document(Part):
    """The whole recipe."""

    format: Literal[1] = 1
    key: Key
    name: str = Field(min_length=1, max_length=160)
    servings: float = Field(ge=0.5, le=100)
    note: str = Field("", max_length=4000)
    tags: list[Annotated[str, Field(max_length=40)]] = Field(default_factory=list, max_length=12)
    foods: dict[Key, DocFood] = Field(default_factory=dict, max_length=300)
    components: list[DocComponent] = Field(default_factory=list, max_length=40)
    steps: list[DocStep] = Field(default_factory=list, max_length=60)
    variants: list[DocVariant] = Field(default_factory=list, max_length=6)


@dataclass(frozen=True)
class PortableRecipe:
    """A recipe with what stands around it."""

    recipe: Recipe
    note: str = ""
    tags: tuple[str, ...] = ()


def _doc_food(food: Food) -> DocFood:
    figures = {key: f for key, f in food.composition.as_mapping().items() if f is not None}
    errors = dict(zip(KEYS, food.composition.errors_per_100_g, strict=False))
    return DocFood(
        per_100_g=figures,
        errors_per_100_g=errors,
        at_least=sorted(food.composition.at_least),
        allergens=sorted(food.allergens),
        **{name: getattr(food, name) for name in ("group", *OF_A_FOOD)},
    )


def _core_food(key: str, doc: DocFood, place: str) -> Food:
    errors = tuple(doc.errors_per_100_g.get(k, 0.0) for k in KEYS) if doc.errors_per_100_g else ()
    try:
        composition = Composition(Composition.of(doc.per_100_g).per_100_g, errors, frozenset(doc.at_least))
    except InvalidInput as fault:
        raise InvalidInput(f"{place}.per_100_g.{fault.field}", fault.problem, fault.wanted) from None
    food = Food(
        key=key,
        composition=composition,
        allergens=frozenset(doc.allergens),
        **{name: getattr(doc, name) for name in ("group", *OF_A_FOOD)},
    )
    faults = [f for f in check_food(food) if f.field != "energy_kcal" or key not in OUTSIDE_THE_FACTORS]
    impossible = [f for f in faults if f.field not in ("energy_kcal", "diet")]  # queries, no refusals
    if impossible:
        raise InvalidInputs([InvalidInput(f"{place}.{f.field}", f.problem, f.wanted) for f in impossible])
    return food


def _foods_of(recipe: Recipe) -> dict[str, Food]:
    foods = {line.food.key: line.food for line in recipe.lines}
    foods |= {c.food.key: c.food for v in recipe.variants for c in v.changes if c.food is not None}
    return foods


def document_of(portable: PortableRecipe) -> dict[str, object]:
    """A recipe as JSON values."""
    recipe = portable.recipe
    foods = {k: _doc_food(f) for k, f in _foods_of(recipe).items() if reference_foods().get(k) != f}
    document = Document(
        key=recipe.key,
        name=recipe.name,
        servings=recipe.servings,
        note=portable.note,
        tags=list(portable.tags),
        foods=foods,
        components=[_doc_component(c) for c in recipe.components],
        steps=[_doc_step(s) for s in recipe.steps],
        variants=[
            DocVariant(
                key=v.key,
                name=v.name,
                eaters=list(v.eater_keys),
                changes=[
                    DocChange(line=c.line_key, food=c.food.key if c.food else "", grams=c.grams) for c in v.changes
                ],
            )
            for v in recipe.variants
        ],
    )
    return document.model_dump(exclude_defaults=True) | {"format": FORMAT}


def _doc_component(c: Component) -> DocComponent:
    learned = c.learned
    return DocComponent(
        key=c.key,
        name=c.name,
        lines=[_doc_line(x) for x in c.lines],
        cooked_g=c.cooked_g,
        learned=None
        if learned is None
        else DocYield(factor=learned.factor, low=learned.low, high=learned.high, pots=learned.pots),
        storage=DocStorage(
            keep_group=c.storage.keep_group,
            freezable=c.storage.freezable,
            reheat=c.storage.reheat,
            container=c.storage.container,
            texture=c.storage.texture,
            own_days=c.storage.own_days,
            days_because=c.storage.days_because,
        ),
        vessel=c.vessel,
        minimum_ml=c.minimum_ml,
        pending=[
            DocPending(key=p.key, text=p.text, doubt=p.doubt, food_key=p.food_key, amount=p.amount) for p in c.pending
        ],
        used_from=c.used_from,
        serving_g=c.serving_g,
        cooked_as=c.cooked_as,
    )


def _doc_line(x: IngredientLine) -> DocLine:
    return DocLine(
        key=x.key,
        food=x.food.key,
        grams=x.amount.grams,
        measure=x.amount.measure,
        standard_error_g=x.amount.standard_error_g,
        typed=x.amount.typed,
        uptake=x.uptake,
        use=x.use,
        **{name.removeprefix("is_"): flag for name, flag in flags_of(x).items()},
    )


def _doc_step(s: Step) -> DocStep:
    return DocStep(
        key=s.key,
        text=s.text,
        component=s.component_key,
        equipment=s.equipment,
        minutes=s.duration_min,
        hands_on=s.is_hands_on,
        low_c=s.low_c,
        high_c=s.high_c,
        core_kind=s.core_kind,
        after=list(s.after),
        at_once=s.follows_at_once,
        checks_min=list(s.checks_min),
    )


def recipe_from(document: Mapping[str, object]) -> PortableRecipe:
    """The recipe of a document.

    Raises:
        InvalidInputs: naming every place that cannot be used.
    """
    try:
        doc = Document.model_validate(document)
    except ValidationError as error:
        faults = [
            InvalidInput(".".join(str(part) for part in fault["loc"]) or "document", fault["msg"] + ".")
            for fault in error.errors(include_url=False)
        ]
        raise InvalidInputs(faults) from None
    try:
        return _recipe_of(doc)
    except InvalidInput as fault:
        raise InvalidInputs([fault]) from None


def _recipe_of(doc: Document) -> PortableRecipe:
    own = {key: _core_food(key, food, f"foods.{key}") for key, food in doc.foods.items()}

    def food(key: str, place: str) -> Food:
        """Raises InvalidInput for a key nobody knows."""
        known = own.get(key) or reference_foods().get(key)
        if known is None:
            raise InvalidInput(place, f"“{key}” is neither in the document nor in the reference table.")
        return known

    components = []
    for c, component in enumerate(doc.components):
        lines = tuple(
            _core_line(x, food(x.food, f"components.{c}.lines.{n}.food"), f"components.{c}.lines.{n}")
            for n, x in enumerate(component.lines)
        )
        components.append(_core_component(component, lines))
    variants = tuple(
        Variant(
            v.key,
            v.name,
            tuple(v.eaters),
            tuple(LineChange(x.line, food(x.food, f"variants.{n}") if x.food else None, x.grams) for x in v.changes),
        )
        for n, v in enumerate(doc.variants)
    )
    steps = tuple(
        Step(
            s.key,
            s.text,
            s.component,
            s.equipment,
            s.minutes,
            s.hands_on,
            low_c=s.low_c,
            high_c=s.high_c,
            core_kind=s.core_kind,
            after=tuple(s.after),
            follows_at_once=s.at_once,
            checks_min=tuple(s.checks_min),
        )
        for s in doc.steps
    )
    recipe = Recipe(doc.key, doc.name, doc.servings, tuple(components), steps, variants)
    return PortableRecipe(recipe, doc.note, tuple(doc.tags))


def flags_in(document: BaseModel) -> dict[str, bool]:
    """A line's flags in a document, where they stand without their “is”."""
    return {name: getattr(document, name.removeprefix("is_")) for name in LINE_FLAGS}


def _core_line(x: DocLine, food: Food, place: str) -> IngredientLine:
    if x.measure not in MEASURES:
        raise InvalidInput(f"{place}.measure", f"“{x.measure}” is no measure.", f"One of {', '.join(MEASURES)}.")
    amount = Amount(x.grams, x.measure, x.standard_error_g, x.typed)
    return IngredientLine(x.key, food, amount, x.uptake, x.use, **flags_in(x))


def _core_component(c: DocComponent, lines: tuple[IngredientLine, ...]) -> Component:
    x, s = c.learned, c.storage
    learned = None if x is None else LearnedYield(x.factor, x.low, x.high, x.pots)
    storage = StorageChoice(**s.model_dump())
    pending = tuple(PendingLine(p.key, p.text, p.doubt, p.food_key, p.amount) for p in c.pending)
    return Component(
        c.key,
        c.name,
        lines,
        c.cooked_g,
        learned,
        storage,
        vessel=c.vessel,
        minimum_ml=c.minimum_ml,
        pending=pending,
        used_from=c.used_from,
        serving_g=c.serving_g,
        cooked_as=c.cooked_as if c.cooked_as in COOKED_AS else "",
    )
