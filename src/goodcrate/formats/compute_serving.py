"""What comes out of `crate compute serving`: a serving, a batch, another size, a fit, a swap and each variant."""

from collections.abc import Iterator, Sequence
from dataclasses import asdict

from pydantic import Field

from goodcrate.core.foods.food import check_energy
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.recipes import scaling, tune
from goodcrate.core.recipes.component import Component
from goodcrate.core.recipes.cooked_weight import expected_cooked_weight
from goodcrate.core.recipes.counting import left_out, traces_out
from goodcrate.core.recipes.filling_vessels import filling
from goodcrate.core.recipes.keeping import storage_of
from goodcrate.core.recipes.lint import LOOK, Note, lint
from goodcrate.core.recipes.recipe import Recipe, Serving, Variant, serving_of
from goodcrate.core.recipes.steps import hands_on_min, longest_chain_min, unattended_min
from goodcrate.core.recipes.variants import changed_components, swap, with_variant
from goodcrate.core.recipes.vessels import Vessel
from goodcrate.formats.compute import Model, NutrientOut, food_of, nutrients_out
from goodcrate.formats.reference import guidance, keep_groups, reference_foods
from goodcrate.formats.serving_request import FitIn, ScaleIn, ServingRequest, SwapIn, recipe_of


class LineOut(Model):
    """The working of one ingredient within the whole batch."""

    food: str
    grams: float
    kept_g: float = Field(description="Grams that stay in the food; negative for what is poured off.")
    standard_error_g: float
    energy_kcal_per_100_g: float | None
    energy_kcal: float | None
    protein_g: float | None
    share_of_energy_doubt: float = Field(description="Share of the serving's energy variance, 0 to 1.")


class StorageOut(Model):
    """How a component keeps, and who says so."""

    keep_group: str
    because: str
    fridge_days_cautious: int
    fridge_days_usual: int
    freezer_months: int | None
    thaw: str
    reheat: str
    cooling: str
    container: str
    texture: str
    source: str


class FillingOut(Model):
    """How a batch goes into its vessel."""

    vessel: str
    volume_ml: float
    loads_ml: list[float]
    fits: bool
    sentence: str


class WeightChangeOut(Model):
    """Grams that a pot gains, or (negative) loses, and why."""

    grams: float
    standard_error_g: float
    words: str
    is_unlisted: bool = Field(description="Water that the list does not hold.")


class ComponentOut(Model):
    """One component: its batch, and what a serving holds of it."""

    name: str
    ingredient_g: float
    taken_out_g: float
    water_g: float = Field(description="Water taken up; negative when lost.")
    cooked_g: float
    yield_factor: float
    yield_basis: str
    cooked_as: str = Field(description="What the yield is for: raw, drained, absorbed, simmered, roasted …")
    cooked_standard_error_g: float
    weight_changes: list[WeightChangeOut] = Field(description="From what stays in it to its cooked weight.")
    grams_per_serving: float
    lines: list[LineOut]
    per_100_g: dict[str, NutrientOut]
    storage: StorageOut
    filling: FillingOut | None


class NoteOut(Model):
    """Something to look at, or a caution with its source."""

    rule: str
    kind: str
    sentence: str
    place: str
    source: str


class VariantOut(Model):
    """The recipe as a variant makes it."""

    name: str
    cooked_apart: list[str]
    allergens: list[str]
    per_serving: dict[str, NutrientOut]


class ScaledLineOut(Model):
    """One line before and after, in g."""

    food: str
    before_g: float
    after_g: float
    note: str


class ScaledOut(Model):
    """The recipe in another size."""

    factor: float
    servings: float
    lines: list[ScaledLineOut]
    hands_on_min: float
    unattended_min: float
    fillings: list[FillingOut]
    kcal_per_serving_before: float
    kcal_per_serving_after: float


class MovedOut(Model):
    """A line the fit may move, in g of the recipe."""

    food: str
    before_g: float
    after_g: float
    at_limit: str


class MissOut(Model):
    """An aim that cannot be met within the limits."""

    nutrient: str
    low: float | None
    high: float | None
    reached: float


class FitOut(Model):
    """The fitted serving."""

    lines: list[MovedOut]
    before: dict[str, float]
    after: dict[str, float]
    misses: list[MissOut]


class ShiftOut(Model):
    """One nutrient of a serving before and after a swap, from the swapped food alone; null is unknown."""

    nutrient: str
    before: float | None
    after: float | None


class SwapOut(Model):
    """The other food's grams and everything that shifts."""

    food: str
    grams: float
    shifts: list[ShiftOut]
    allergens_gained: list[str]
    allergens_lost: list[str]


class ServingResult(Model):
    """A serving and the whole batch, with the working, and whatever else was asked for."""

    name: str
    servings: float
    serving_g: float
    allergens: list[str]
    not_understood: list[str]
    per_serving: dict[str, NutrientOut]
    per_batch: dict[str, NutrientOut]
    left_out: dict[str, NutrientOut] | None = Field(description="Traces a serving holds that are not counted.")
    components: list[ComponentOut]
    hands_on_min: float
    unattended_min: float
    longest_chain_min: float
    notes: list[NoteOut]
    variants: list[VariantOut]
    scaled: ScaledOut | None
    fit: FitOut | None
    swap: SwapOut | None


def compute_serving(request: ServingRequest) -> ServingResult:
    """Per serving and per batch, with errors and working, and whatever else the request asks for.

    Raises:
        InvalidInput, InvalidInputs: naming the field that cannot be used.
    """
    recipe = recipe_of(request)
    if request.leave_traces_out:
        recipe = traces_out(recipe)
    serving = serving_of(recipe)
    vessels = [
        Vessel(str(n), v.name, v.kind, v.volume_ml, v.minimum_ml, v.count) for n, v in enumerate(request.vessels)
    ]
    return ServingResult(
        name=request.name,
        servings=request.servings,
        serving_g=serving.tally.grams,
        allergens=sorted(recipe.allergens),
        not_understood=[p.text for p in recipe.pending],
        per_serving=nutrients_out(serving.tally),
        per_batch=nutrients_out(serving.tally.scaled(request.servings)),
        left_out=nutrients_out(left_out(recipe)) if request.leave_traces_out else None,
        components=_components_out(recipe, serving, vessels),
        hands_on_min=hands_on_min(recipe.steps),
        unattended_min=unattended_min(recipe.steps),
        longest_chain_min=longest_chain_min(recipe.steps),
        notes=[
            NoteOut(rule=n.rule, kind=n.kind, sentence=n.sentence, place=n.place, source=n.source)
            for n in (*lint(recipe, guidance()), *_energy_notes(recipe))
        ],
        variants=[_variant_out(recipe, v) for v in recipe.variants],
        scaled=None if request.scale is None else _scaled_out(recipe, request.scale, vessels),
        fit=None if request.fit is None else _fit_out(recipe, request.fit),
        swap=None if request.swap is None else _swap_out(recipe, request.swap),
    )


def _components_out(recipe: Recipe, serving: Serving, vessels: Sequence[Vessel]) -> list[ComponentOut]:
    doubt = dict(serving.tally.doubt_shares("energy_kcal"))
    out = []
    for part in serving.parts:
        lines = []
        for line in part.component.lines:
            energy, protein = line.tally.amount("energy_kcal"), line.tally.amount("protein_g")
            lines.append(
                LineOut(
                    food=line.food.name,
                    grams=line.amount.grams,
                    kept_g=line.kept_g,
                    standard_error_g=line.amount.standard_error_g,
                    energy_kcal_per_100_g=line.food.composition.get("energy_kcal"),
                    energy_kcal=None if energy.is_unknown else energy.value,
                    protein_g=None if protein.is_unknown else protein.value,
                    share_of_energy_doubt=doubt.get(line.key, 0.0),
                )
            )
        out.append(
            ComponentOut(
                name=part.component.name,
                ingredient_g=part.expected.ingredient_g,
                taken_out_g=part.batch.taken_out_g,
                water_g=part.batch.water_g,
                cooked_g=part.expected.grams,
                yield_factor=part.expected.yield_factor,
                yield_basis=part.expected.basis.replace("’", "'"),
                cooked_as=part.expected.method,
                cooked_standard_error_g=part.expected.standard_error_g,
                weight_changes=[WeightChangeOut(**asdict(change)) for change in part.expected.changes],
                grams_per_serving=part.grams,
                lines=lines,
                per_100_g=nutrients_out(part.batch.portion(100.0, standard_error_g=0.0)),
                storage=_storage_out(part.component, recipe),
                filling=_filling_out(part.component, vessels),
            )
        )
    return out


def _energy_notes(recipe: Recipe) -> Iterator[Note]:
    """Foods of one's own whose energy is apart from their protein, fat and carbohydrate: queried, not refused."""
    for line in recipe.lines:
        for fault in () if line.food.key in reference_foods() else check_energy(line.food.composition):
            yield Note("energy_apart", LOOK, f"{line.food.name}: {fault.problem}", line.key)


def _storage_out(component: Component, recipe: Recipe) -> StorageOut:
    s = storage_of(component, recipe.steps, keep_groups())
    return StorageOut(
        keep_group=s.group.key,
        because=s.because,
        fridge_days_cautious=s.group.fridge_days_cautious,
        fridge_days_usual=s.group.fridge_days_usual,
        freezer_months=s.freezer_months,
        thaw=s.group.thaw,
        reheat=s.reheat,
        cooling=s.group.cool_rule,
        container=s.container,
        texture=s.texture,
        source=s.group.source,
    )


def _filling_out(component: Component, vessels: Sequence[Vessel]) -> FillingOut | None:
    f = filling(component, expected_cooked_weight(component).grams, vessels)
    if f is None:
        return None
    return FillingOut(
        vessel=f.vessel.name, volume_ml=f.volume_ml, loads_ml=list(f.loads_ml), fits=f.fits, sentence=f.sentence
    )


def _variant_out(recipe: Recipe, variant: Variant) -> VariantOut:
    made = with_variant(recipe, variant)
    return VariantOut(
        name=variant.name,
        cooked_apart=[c.name for c in changed_components(recipe, variant)],
        allergens=sorted(made.allergens),
        per_serving=nutrients_out(serving_of(made).tally),
    )


def _scaled_out(recipe: Recipe, scale: ScaleIn, vessels: Sequence[Vessel]) -> ScaledOut:
    if scale.by in ("servings", "portion_g") and scale.to is None:
        raise InvalidInput("scale.to", "To how much?", "Give servings, or grams of a portion.")
    to = scale.to or 1.0
    if scale.by == "servings":
        factor = scaling.factor_for_servings(recipe, to)
    elif scale.by == "portion_g":
        factor = scaling.factor_for_portion(recipe, to)
    elif scale.by == "whole_packs":
        factor = scaling.factor_for_whole_packs(recipe, scale.line)
    elif scale.by == "whole_pieces":
        factor = scaling.factor_for_whole_eggs(recipe, scale.line)
    else:
        factor = scaling.factor_for_vessel(recipe, vessels)
    keeps = recipe.servings if scale.by == "portion_g" else None
    done = scaling.scaled(
        recipe, factor, servings=keeps, vessels=vessels, seasoning_under_proportional=not scale.seasoning_in_full
    )
    return ScaledOut(
        factor=factor,
        servings=done.recipe.servings,
        lines=[
            ScaledLineOut(food=x.line.food.name, before_g=x.before_g, after_g=x.after_g, note=x.note)
            for x in done.lines
        ],
        hands_on_min=done.hands_on_min[1],
        unattended_min=done.unattended_min[1],
        fillings=[
            FillingOut(
                vessel=f.vessel.name, volume_ml=f.volume_ml, loads_ml=list(f.loads_ml), fits=f.fits, sentence=f.sentence
            )
            for _, f in done.fillings
        ],
        kcal_per_serving_before=done.kcal_per_serving[0],
        kcal_per_serving_after=done.kcal_per_serving[1],
    )


def _fit_out(recipe: Recipe, fit: FitIn) -> FitOut:
    aims = tuple(
        tune.about(a.nutrient, a.about) if a.about is not None else tune.Aim(a.nutrient, a.low, a.high)
        for a in fit.aims
    )
    limits = tuple(tune.Limits(x.line, x.low_g, x.high_g) for x in fit.limits)
    done = tune.fit_serving(tune.FitProblem(recipe, aims, limits))
    return FitOut(
        lines=[MovedOut(food=m.name, before_g=m.before_g, after_g=m.after_g, at_limit=m.at_limit) for m in done.moves],
        before=dict(done.before),
        after=dict(done.after),
        misses=[MissOut(nutrient=a.nutrient, low=a.low, high=a.high, reached=v) for a, v in done.misses],
    )


def _swap_out(recipe: Recipe, given: SwapIn) -> SwapOut:
    line = next((x for x in recipe.lines if x.key == given.line), None)
    if line is None:
        raise InvalidInput("swap.line", f"There is no line “{given.line}”.", "Such as components.0.lines.2.")
    done = swap(line, food_of(given.food, "swap.food"), given.by, recipe.servings)
    return SwapOut(
        food=done.food.name,
        grams=done.grams,
        shifts=[ShiftOut(nutrient=s.key, before=s.before, after=s.after) for s in done.shifts],
        allergens_gained=list(done.gains),
        allergens_lost=list(done.loses),
    )
