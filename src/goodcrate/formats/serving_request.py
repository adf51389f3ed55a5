"""What goes into `crate compute serving`: a recipe with all it may know, and what to work out besides."""

from dataclasses import replace
from typing import Annotated, Literal

from pydantic import Field

from goodcrate.core.ground.amounts import amount_of
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.recipes.component import Component, IngredientLine, PendingLine, StorageChoice
from goodcrate.core.recipes.recipe import LineChange, Recipe, Variant
from goodcrate.core.recipes.step_checks import check_steps
from goodcrate.core.recipes.steps import Step
from goodcrate.core.recipes.variants import check_variants
from goodcrate.core.recipes.yields import learned_yield
from goodcrate.formats.compute import CustomFood, Model, food_of
from goodcrate.formats.recipe_document import flags_in
from goodcrate.formats.reference import core_temperatures, keep_groups

Place = Annotated[str, Field(max_length=80, description="A line's place, such as components.0.lines.2.")]


class Line(Model):
    """An ingredient: a key of the reference table, or a food of your own."""

    food: str | CustomFood
    amount_g: Annotated[float, Field(ge=0, le=10_000, description="Grams.")]
    measure: Literal["weighed", "pack", "count", "volume", "eye"] = Field(
        "weighed", description="How the amount was established; decides its standard error."
    )
    uptake: float = Field(1.0, ge=0, le=1, description="Share that stays in the food: oil left in the pan, marinade.")
    discarded: bool = Field(False, description="Taken out after cooking with all it holds: bones, bay leaf.")
    poured_off: bool = Field(False, description="Leaves the pot with all it holds: rendered fat. Never weighed in.")
    use: Literal["", "night_before", "on_the_day", "at_packing"] = Field("", description="When it goes in.")
    optional: bool = False
    to_taste: bool = False


class StorageIn(Model):
    """What the cook chose about keeping; left out, it follows from the foods."""

    keep_group: str = ""
    freezable: bool | None = None
    reheat: str = ""
    container: str = ""
    texture: str = ""
    own_days: int | None = Field(None, ge=0, le=365, description="Days in the fridge of the cook's own.")
    days_because: str = Field("", max_length=200, description="Why longer than the guidance; without it, it is not.")


class UseIn(Model):
    """Another recipe's component served here: named by recipe and component."""

    recipe: str = Field(min_length=1, max_length=160)
    component: str = Field(min_length=1, max_length=80)
    grams: float = Field(ge=1, le=3000, description="Grams of it in a serving.")


class ComponentIn(Model):
    """What is cooked and divided on its own; with `uses` it is another recipe's."""

    name: str = Field("", max_length=80)
    lines: list[Line] = Field(default_factory=list, max_length=300)
    cooked_g: float | None = Field(
        None,
        gt=0,
        le=40_000,
        description="Cooked net weight in grams; left out: learned, then the foods' usual yields.",
    )
    yields_seen: list[Annotated[float, Field(gt=0, le=12)]] = Field(
        default_factory=list, max_length=100, description="Yields of pots weighed earlier, oldest first."
    )
    cooked_as: Literal["", "raw", "soaked", "drained", "absorbed", "simmered", "fried", "roasted", "baked", "dried"] = (
        Field("", description="How it is cooked; left out, its steps tell.")
    )
    vessel: Literal["", "pot", "pan", "tray", "bowl", "blender"] = ""
    minimum_ml: float | None = Field(None, gt=0, le=20_000)
    storage: StorageIn = Field(default_factory=StorageIn)
    not_understood: list[Annotated[str, Field(max_length=200)]] = Field(default_factory=list, max_length=300)
    uses: UseIn | None = None


class StepIn(Model):
    """A step; `after` are numbers of steps (from 1) that must be done before."""

    text: str = Field(min_length=1, max_length=600)
    component: int | None = Field(None, ge=0, description="Place of the component it works on; left out: all.")
    equipment: Literal["", "hob", "oven", "microwave", "air_fryer", "rice_cooker", "blender", "cooling", "fridge"] = ""
    minutes: float | None = Field(None, gt=0, le=1440)
    hands_on: bool = True
    low_c: float | None = None
    high_c: float | None = None
    core_kind: str = ""
    after: list[int] = Field(default_factory=list, max_length=60)
    at_once: bool = False
    checks_min: list[float] = Field(default_factory=list, max_length=20)


class ChangeIn(Model):
    """What a variant does to a line: leave it out, or put so many grams of another food in its place."""

    line: Place
    food: str | CustomFood | None = None
    amount_g: float = Field(0, ge=0, le=10_000)


class VariantIn(Model):
    """The recipe for somebody else."""

    name: str = Field(min_length=1, max_length=80)
    changes: list[ChangeIn] = Field(min_length=1, max_length=300)


class VesselIn(Model):
    """A vessel of the kitchen."""

    name: str = Field(min_length=1, max_length=80)
    kind: Literal["pot", "pan", "tray", "bowl", "blender", "box"]
    volume_ml: float = Field(ge=50, le=60_000)
    minimum_ml: float = Field(0, ge=0)
    count: int = Field(1, ge=1, le=20)


class RecipeIn(Model):
    """A recipe another one may take a component from."""

    name: str = Field("", max_length=160)
    servings: float = Field(ge=0.5, le=100)
    components: list[ComponentIn] = Field(min_length=1, max_length=40)


class ScaleIn(Model):
    """Another size: by servings, a portion in g, whole packs or pieces of a line, or the largest vessel."""

    by: Literal["servings", "portion_g", "whole_packs", "whole_pieces", "vessel"]
    to: float | None = Field(None, gt=0)
    line: Place = ""
    seasoning_in_full: bool = Field(False, description="Multiply salt, leavening and strong spices like all others.")


class AimIn(Model):
    """What one nutrient of a serving should come to; `about` is a band of 3 % around a value."""

    nutrient: str
    about: float | None = None
    low: float | None = None
    high: float | None = None


class LimitIn(Model):
    """A line that may move between two weights in the recipe, in g."""

    line: Place
    low_g: float = Field(ge=0, le=10_000)
    high_g: float = Field(ge=0, le=10_000)


class FitIn(Model):
    """Fit one serving by moving named lines within limits."""

    aims: list[AimIn] = Field(min_length=1, max_length=10)
    limits: list[LimitIn] = Field(min_length=1, max_length=300)


class SwapIn(Model):
    """Another food in a line's place."""

    line: Place
    food: str | CustomFood
    by: Literal["energy", "protein", "weight"] = "energy"


class ServingRequest(RecipeIn):
    """A recipe: components that make so many servings, with whatever else is known, and what to work out besides."""

    steps: list[StepIn] = Field(default_factory=list, max_length=60)
    variants: list[VariantIn] = Field(default_factory=list, max_length=6)
    other_recipes: list[RecipeIn] = Field(default_factory=list, max_length=40)
    vessels: list[VesselIn] = Field(default_factory=list, max_length=60)
    scale: ScaleIn | None = None
    fit: FitIn | None = None
    swap: SwapIn | None = None
    leave_traces_out: bool = Field(False, description="Spices, herbs and leaf salad count their sodium only.")


def recipe_of(request: ServingRequest) -> Recipe:
    """The request as core's recipe; lines and components are named by their places.

    Raises:
        InvalidInput, InvalidInputs: naming the line whose food cannot be used, or a use that goes in a circle.
    """
    components = tuple(_component(request, request, c, ()) for c in range(len(request.components)))
    steps = tuple(
        Step(
            str(n),
            s.text,
            "" if s.component is None else f"components.{s.component}",
            s.equipment,
            s.minutes,
            s.hands_on,
            low_c=s.low_c,
            high_c=s.high_c,
            core_kind=s.core_kind,
            after=tuple(map(str, s.after)),
            follows_at_once=s.at_once,
            checks_min=tuple(s.checks_min),
        )
        for n, s in enumerate(request.steps, 1)
    )
    check_steps(steps, [c.key for c in components], [t.kind for t in core_temperatures()])
    variants = tuple(
        Variant(
            f"variants.{n}",
            v.name,
            ("somebody",),
            tuple(
                LineChange(x.line, None if x.food is None else food_of(x.food, f"variants.{n}"), x.amount_g)
                for x in v.changes
            ),
        )
        for n, v in enumerate(request.variants)
    )
    keys = [line.key for c in components for line in c.lines]
    faults = [f for v in variants for f in check_variants([v], keys)]
    if faults:
        raise InvalidInputs(faults)
    return Recipe("recipe", request.name, request.servings, components, steps, variants)


def _component(request: ServingRequest, recipe: RecipeIn, place: int, trail: tuple[tuple[str, str], ...]) -> Component:
    given = recipe.components[place]
    where = f"components.{place}" if recipe is request else f"{recipe.name}/{given.name}"
    if given.uses is not None:
        return _used(request, given.uses, where, trail)
    lines = []
    for n, line in enumerate(given.lines):
        amount = amount_of(line.amount_g, line.measure)
        lines.append(
            IngredientLine(
                f"{where}.lines.{n}",
                food_of(line.food, f"{where}.lines.{n}.food"),
                amount,
                line.uptake,
                line.use,
                **flags_in(line),
            )
        )
    if not lines and not given.not_understood:
        raise InvalidInput(f"{where}.lines", "A component needs an ingredient.", "Give one, or `uses`.")
    pending = tuple(PendingLine(f"{where}.{n}", t, "not understood") for n, t in enumerate(given.not_understood))
    s = given.storage
    if s.keep_group and s.keep_group not in keep_groups():
        raise InvalidInput(f"{where}.storage.keep_group", f"“{s.keep_group}” is no keep group.")
    storage = StorageChoice(**s.model_dump())
    return Component(
        where,
        given.name,
        tuple(lines),
        given.cooked_g,
        learned_yield(given.yields_seen),
        storage,
        vessel=given.vessel,
        minimum_ml=given.minimum_ml,
        pending=pending,
        cooked_as=given.cooked_as,
    )


def _used(request: ServingRequest, use: UseIn, where: str, trail: tuple[tuple[str, str], ...]) -> Component:
    """Another recipe's component, followed to where it is really made."""
    if (use.recipe, use.component) in trail or use.recipe == request.name:
        raise InvalidInput(
            f"{where}.uses", f"{use.recipe} / {use.component} goes in a circle.", "Make it in one place."
        )
    for other in request.other_recipes:
        if other.name != use.recipe:
            continue
        for n, candidate in enumerate(other.components):
            if candidate.name == use.component:
                made = _component(request, other, n, (*trail, (use.recipe, use.component)))
                return replace(made, used_from=use.recipe, serving_g=use.grams)
    raise InvalidInput(f"{where}.uses", f"There is no component “{use.component}” of “{use.recipe}”.", "Name another.")
