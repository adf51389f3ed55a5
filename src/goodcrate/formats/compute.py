"""The JSON of `crate compute …`: what goes in, what comes out, and the JSON Schemas of both.

Pydantic at the edge; the figures are core's.
"""

import json
from typing import Annotated, Any, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from goodcrate.core.amounts import amount_of
from goodcrate.core.cook import net_weight_g
from goodcrate.core.errors import InvalidInput, InvalidInputs
from goodcrate.core.foods import Food, check_food
from goodcrate.core.label import PRINTED, read_label
from goodcrate.core.nutrients import BY_KEY, NUTRIENTS, Composition, Tally, net_carbohydrate_g
from goodcrate.core.portion import BoxTarget, DivisionProblem, divide
from goodcrate.core.recipes import Component, IngredientLine, Recipe, serving_of
from goodcrate.formats.reference import reference_foods

Grams = Annotated[float, Field(ge=0, le=1_000_000)]


class Model(BaseModel):
    """Nothing unknown is taken, so that a misspelt field is an error and not a silent nothing."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class CustomFood(Model):
    """A food of your own, per 100 g. A nutrient left out is unknown, not zero."""

    name: str = Field(min_length=1, max_length=160)
    per_100_g: dict[str, float | None] = Field(description=f"Figures by nutrient key: {', '.join(BY_KEY)}.")
    state: Literal["raw", "dry", "cooked", "ready", "canned_drained", "canned_whole", "frozen", "smoked"] = "ready"
    cooked_yield: float | None = Field(None, gt=0, le=12, description="Grams cooked per gram as weighed.")


class Line(Model):
    """An ingredient: a key of the reference table, or a food of your own."""

    food: str | CustomFood
    amount_g: Annotated[float, Field(ge=0, le=10_000, description="Grams.")]
    measure: Literal["weighed", "pack", "count", "volume", "eye"] = Field(
        "weighed", description="How the amount was established; decides its standard error."
    )
    uptake: float = Field(1.0, ge=0, le=1, description="Share that stays in the food: oil left in the pan, marinade.")
    discarded: bool = Field(False, description="Taken out after cooking with all it holds: bones, bay leaf.")


class ComponentIn(Model):
    """What is cooked and divided on its own."""

    name: str = Field(min_length=1, max_length=80)
    lines: list[Line] = Field(min_length=1, max_length=300)
    cooked_g: float | None = Field(
        None, gt=0, le=40_000, description="Cooked net weight in grams; left out: from the foods' usual yields."
    )


class ServingRequest(Model):
    """A recipe: components that make so many servings."""

    name: str = Field("", max_length=160)
    servings: float = Field(ge=0.5, le=100)
    components: list[ComponentIn] = Field(min_length=1, max_length=40)


class NutrientOut(Model):
    """One nutrient. `value` is null when none of the food has a figure; with `at_least` it is a lower bound."""

    unit: str
    value: float | None
    standard_error: float
    at_least: bool
    unknown_share: float = Field(description="Share of the weight without a figure, 0 to 1.")


class LineOut(Model):
    """The working of one ingredient within the whole batch."""

    food: str
    grams: float
    standard_error_g: float
    energy_kcal_per_100_g: float | None
    energy_kcal: float | None
    protein_g: float | None
    share_of_energy_doubt: float = Field(description="Share of the serving's energy variance, 0 to 1.")


class ComponentOut(Model):
    """One component: its batch, and what a serving holds of it."""

    name: str
    ingredient_g: float
    cooked_g: float
    yield_factor: float
    yield_basis: str
    grams_per_serving: float
    lines: list[LineOut]
    per_100_g: dict[str, NutrientOut]


class ServingResult(Model):
    """A serving and the whole batch, with the working."""

    name: str
    servings: float
    serving_g: float
    allergens: list[str]
    per_serving: dict[str, NutrientOut]
    per_batch: dict[str, NutrientOut]
    components: list[ComponentOut]


class BoxIn(Model):
    """One box: its target, what it can hold, and what is already in it."""

    key: str = Field(min_length=1, max_length=80)
    target_g: float = Field(gt=0, le=1_000_000)
    capacity_g: Grams | None = None
    filled_g: Grams | None = Field(None, description="Grams already in it; such a box stays as it is.")


class DivideRequest(Model):
    """A weighed batch, and the boxes it goes into."""

    net_g: float | None = Field(None, gt=0, le=1_000_000, description="Net weight; or give gross_g and tare_g.")
    gross_g: Grams | None = None
    tare_g: Grams | None = None
    boxes: list[BoxIn] = Field(min_length=1, max_length=500)
    step_g: int = Field(1, ge=1, le=100)
    policy: Literal["spread", "keep"] = Field(
        "spread", description="spread: the pot comes out even. keep: never past a target, the rest stays."
    )


class BoxOut(Model):
    """What one box gets."""

    key: str
    grams: float
    target_g: float
    deviation: float = Field(description="Share away from the target, signed.")
    was_filled: bool


class DivideResult(Model):
    """The boxes and what stays in the pot; together they are the net weight."""

    net_g: float
    boxes: list[BoxOut]
    remainder_g: float


class LabelRequest(Model):
    """A label as printed. Give printed figures as text to keep their digits: "4.0" is surer than "4"."""

    name: str = Field("", max_length=160)
    basis: Literal["100g", "100ml", "serving", "pack", "pieces"] = Field(
        "100g", description="What the figures are per."
    )
    basis_g: float | None = Field(None, gt=0, le=5000, description="Grams of the serving, the pack or the pieces.")
    basis_ml: float | None = Field(
        None, gt=0, le=5000, description="Millilitres of the serving or pack, without grams."
    )
    pieces: float | None = Field(None, gt=0, le=1000, description="How many pieces the grams are; only about.")
    density_g_per_100_ml: float | None = Field(None, ge=2, le=250, description="What 100 ml weigh, in grams.")
    fibre: Literal["apart", "inside"] = Field(
        "apart", description="Whether fibre is listed apart from carbohydrate (as in Europe) or counted inside it."
    )
    printed: dict[str, str | float] = Field(description=f"Printed figures by name: {', '.join(PRINTED)}.")
    polyol_share: float = Field(0.5, ge=0, le=1, description="Share of polyols left out of net carbohydrate.")


class LabelLineOut(Model):
    """One printed figure on its way to 100 g."""

    field: str
    typed: str
    working: str
    per_100_g: float | None
    standard_error: float
    unit: str


class CorrectionOut(Model):
    """A ready correction: label fields to change."""

    words: str
    changes: dict[str, str]


class QueryOut(Model):
    """What does not fit together on the label, its likeliest cause, and corrections; nothing was changed."""

    field: str
    problem: str
    cause: str
    corrections: list[CorrectionOut]


class LabelResult(Model):
    """The label per 100 g, with its working and what was queried."""

    name: str
    basis: str
    basis_g: float
    each_g: float | None
    per_100_g: dict[str, NutrientOut]
    net_carbohydrate_g: float | None = Field(
        description="Total carbohydrate - fibre - the share of polyols, per 100 g."
    )
    energy_from_macros_kcal: float | None
    lines: list[LabelLineOut]
    queries: list[QueryOut]


M = TypeVar("M", bound=BaseModel)


def read_request(model: type[M], text: str) -> M:
    """Read a request from JSON text.

    Raises:
        InvalidInputs: naming every field that cannot be used, or the place where the JSON breaks.
    """
    try:
        return model.model_validate_json(text)
    except ValidationError as error:
        faults = []
        for fault in error.errors(include_url=False):
            place = ".".join(str(part) for part in fault["loc"] if part not in ("str", "CustomFood")) or "file"
            faults.append(InvalidInput(place, fault["msg"] + "."))
        raise InvalidInputs(faults) from None


def _nutrients(tally: Tally) -> dict[str, NutrientOut]:
    out = {}
    for nutrient in NUTRIENTS:
        amount = tally.amount(nutrient.key)
        out[nutrient.key] = NutrientOut(
            unit=nutrient.unit,
            value=None if amount.is_unknown else amount.value,
            standard_error=amount.standard_error,
            at_least=amount.is_at_least,
            unknown_share=amount.unknown_share,
        )
    return out


def _food(given: str | CustomFood, place: str) -> Food:
    if isinstance(given, str):
        try:
            return reference_foods()[given]
        except KeyError:
            raise InvalidInput(place, f"“{given}” is no key of the reference table.") from None
    try:
        composition = Composition.of(given.per_100_g)
    except InvalidInput as fault:
        raise InvalidInput(f"{place}.per_100_g.{fault.field}", fault.problem, fault.wanted) from None
    food = Food(given.name, given.name, given.state, "own", composition, cooked_yield=given.cooked_yield)
    faults = check_food(food)
    if faults:
        raise InvalidInputs([InvalidInput(f"{place}.{f.field}", f.problem, f.wanted) for f in faults])
    return food


def recipe_of(request: ServingRequest) -> Recipe:
    """The request as core's recipe.

    Raises:
        InvalidInput, InvalidInputs: naming the line whose food cannot be used.
    """
    components = []
    for c, component in enumerate(request.components):
        lines = []
        for n, line in enumerate(component.lines):
            place = f"components.{c}.lines.{n}"
            food = _food(line.food, f"{place}.food")
            amount = amount_of(line.amount_g, line.measure)
            lines.append(IngredientLine(place, food, amount, line.uptake, line.discarded))
        components.append(Component(f"components.{c}", component.name, tuple(lines), component.cooked_g))
    return Recipe("recipe", request.name, request.servings, tuple(components))


def compute_serving(request: ServingRequest) -> ServingResult:
    """Per serving and per batch, with errors and working.

    Raises:
        InvalidInput, InvalidInputs: naming the field that cannot be used.
    """
    recipe = recipe_of(request)
    serving = serving_of(recipe)
    doubt = dict(serving.tally.doubt_shares("energy_kcal"))
    components = []
    for part in serving.parts:
        lines = []
        for line in part.component.lines:
            energy, protein = line.tally.amount("energy_kcal"), line.tally.amount("protein_g")
            lines.append(
                LineOut(
                    food=line.food.name,
                    grams=line.amount.grams,
                    standard_error_g=line.amount.standard_error_g,
                    energy_kcal_per_100_g=line.food.composition.get("energy_kcal"),
                    energy_kcal=None if energy.is_unknown else energy.value,
                    protein_g=None if protein.is_unknown else protein.value,
                    share_of_energy_doubt=doubt.get(line.key, 0.0),
                )
            )
        components.append(
            ComponentOut(
                name=part.component.name,
                ingredient_g=part.expected.ingredient_g,
                cooked_g=part.expected.grams,
                yield_factor=part.expected.yield_factor,
                yield_basis=part.expected.basis.replace("’", "'"),
                grams_per_serving=part.grams,
                lines=lines,
                per_100_g=_nutrients(part.batch.portion(100.0, standard_error_g=0.0)),
            )
        )
    return ServingResult(
        name=request.name,
        servings=request.servings,
        serving_g=serving.tally.grams,
        allergens=sorted(recipe.allergens),
        per_serving=_nutrients(serving.tally),
        per_batch=_nutrients(serving.tally.scaled(request.servings)),
        components=components,
    )


def compute_divide(request: DivideRequest) -> DivideResult:
    """Divide a weighed batch.

    Raises:
        InvalidInput, InvalidInputs: naming the field that cannot be used.
    """
    if request.net_g is not None:
        if request.gross_g is not None or request.tare_g is not None:
            raise InvalidInput("net_g", "Give either net_g, or gross_g and tare_g.")
        net_g = request.net_g
    elif request.gross_g is not None and request.tare_g is not None:
        net_g = net_weight_g(request.gross_g, request.tare_g)
    else:
        raise InvalidInput("net_g", "The net weight is missing.", "Give net_g, or gross_g and tare_g.")
    boxes = tuple(BoxTarget(b.key, b.target_g, b.capacity_g, b.filled_g) for b in request.boxes)
    division = divide(DivisionProblem(net_g, boxes, request.step_g, request.policy))
    out = [
        BoxOut(key=f.key, grams=f.grams, target_g=b.target_g, deviation=f.deviation, was_filled=f.was_filled)
        for b, f in zip(boxes, division.boxes, strict=True)
    ]
    return DivideResult(net_g=net_g, boxes=out, remainder_g=division.remainder_g)


def _typed(value: str | float) -> str:
    return value if isinstance(value, str) else f"{value:.10g}"


def compute_label(request: LabelRequest) -> LabelResult:
    """A typed label per 100 g, with the queries raised.

    Raises:
        InvalidInputs: naming every field that cannot be used.
    """
    unknown = [key for key in request.printed if key not in PRINTED]
    if unknown:
        raise InvalidInputs([InvalidInput(f"printed.{key}", "No label prints this.") for key in unknown])
    facts = {"basis_g": request.basis_g, "basis_ml": request.basis_ml, "pieces": request.pieces,
             "density": request.density_g_per_100_ml}  # fmt: skip
    typed = {name: _typed(value) for name, value in facts.items() if value is not None}
    typed |= {"basis": request.basis, "fibre": request.fibre}
    typed |= {key: _typed(value) for key, value in request.printed.items()}
    reading = read_label(typed)
    if reading.faults or reading.basis_g is None:
        places = {"density": "density_g_per_100_ml", **{key: f"printed.{key}" for key in PRINTED}}
        raise InvalidInputs([InvalidInput(places.get(f.field, f.field), f.problem, f.wanted) for f in reading.faults])
    return LabelResult(
        name=request.name,
        basis=reading.basis_words,
        basis_g=reading.basis_g,
        each_g=reading.each_g,
        per_100_g=_nutrients(Tally.of(reading.composition, 100.0)),
        net_carbohydrate_g=net_carbohydrate_g(reading.composition.as_mapping(), request.polyol_share),
        energy_from_macros_kcal=reading.macro_energy_kcal,
        lines=[
            LabelLineOut(field=x.key, typed=x.typed, working=x.working, per_100_g=x.per_100_g,
                         standard_error=x.standard_error, unit=x.unit)
            for x in reading.lines
        ],
        queries=[
            QueryOut(field=q.field, problem=q.problem, cause=q.cause,
                     corrections=[CorrectionOut(words=c.words, changes=dict(c.changes)) for c in q.corrections])
            for q in reading.queries
        ],
    )  # fmt: skip


SCHEMAS: dict[str, type[BaseModel]] = {
    "serving-request": ServingRequest,
    "serving-result": ServingResult,
    "label-request": LabelRequest,
    "label-result": LabelResult,
    "divide-request": DivideRequest,
    "divide-result": DivideResult,
}


def schema_text(name: str) -> str:
    """One published JSON Schema, as it stands in `docs/formats/`."""
    schema: dict[str, Any] = {"$schema": "https://json-schema.org/draft/2020-12/schema"}
    schema |= SCHEMAS[name].model_json_schema(mode="serialization" if name.endswith("result") else "validation")
    return json.dumps(schema, indent=2, ensure_ascii=False) + "\n"
