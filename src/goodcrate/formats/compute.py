"""The JSON of `crate compute label` and `divide`, and what all commands share; `serving` has a module of its own.

Pydantic at the edge; the figures are core's.
"""

import json
from collections.abc import Iterator
from typing import Annotated, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from goodcrate.core.cook.batch_record import net_weight_g
from goodcrate.core.foods.food import DIETS, GROUPS, Food, check_food, usual_cooks_like
from goodcrate.core.foods.label import read_label
from goodcrate.core.foods.label_figures import PRINTED
from goodcrate.core.foods.label_queries import Query
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.nutrients import BY_KEY, NUTRIENTS, Composition, Tally, net_carbohydrate_g
from goodcrate.core.portion.division import BoxTarget, DivisionProblem, divide
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
    group: str = Field("", max_length=20, description=f"Its kind, which says how it keeps: {', '.join(GROUPS)}.")
    cooks_like: str | None = Field(None, description="rice, grain, pulse, flour or flakes; by its name when left out.")
    allergens: list[str] = Field(default_factory=list, max_length=14)
    diet: str = Field("none", description=f"One of {', '.join(sorted(DIETS))}.")
    contains_pork: bool = False


class NutrientOut(Model):
    """One nutrient. `value` is null when none of the food has a figure; with `at_least` it is a lower bound."""

    unit: str
    value: float | None
    standard_error: float
    at_least: bool
    unknown_share: float = Field(description="Share of the weight without a figure, 0 to 1.")


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


SMALLEST_NUMBER, LARGEST_NUMBER = 1e-6, 1e9
"""Numbers outside of these are slips, and would run out of what computers add up exactly."""


def _numbers(value: object, place: str = "") -> Iterator[tuple[str, float]]:
    """Every number of a JSON value with its place."""
    if isinstance(value, bool):
        return
    if isinstance(value, int | float):
        yield place or "file", float(value)
    elif isinstance(value, dict):
        for key, inner in value.items():
            yield from _numbers(inner, f"{place}.{key}".lstrip("."))
    elif isinstance(value, list):
        for n, inner in enumerate(value):
            yield from _numbers(inner, f"{place}.{n}".lstrip("."))


def read_request(model: type[M], text: str) -> M:
    """Read a request from JSON text.

    Raises:
        InvalidInputs: naming every field that cannot be used, or the place where the JSON breaks.
    """
    try:
        read = model.model_validate_json(text)
        wanted = f"0, or {SMALLEST_NUMBER:g} to {LARGEST_NUMBER:g}."
        odd = [
            InvalidInput(place, f"{value:g} is no number of a kitchen.", wanted)
            for place, value in _numbers(json.loads(text))
            if value and not SMALLEST_NUMBER <= abs(value) <= LARGEST_NUMBER
        ]
        if odd:
            raise InvalidInputs(odd)
        return read
    except ValidationError as error:
        faults = []
        for fault in error.errors(include_url=False):
            place = ".".join(str(part) for part in fault["loc"] if part not in ("str", "CustomFood")) or "file"
            faults.append(InvalidInput(place, fault["msg"] + "."))
        raise InvalidInputs(faults) from None


def nutrients_out(tally: Tally) -> dict[str, NutrientOut]:
    """All nutrients of a tally."""
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


def food_of(given: str | CustomFood, place: str) -> Food:
    """The food a request names or brings along.

    Raises:
        InvalidInput, InvalidInputs: naming the place when it cannot be used.
    """
    if isinstance(given, str):
        try:
            return reference_foods()[given]
        except KeyError:
            raise InvalidInput(place, f"“{given}” is no key of the reference table.") from None
    try:
        composition = Composition.of(given.per_100_g)
    except InvalidInput as fault:
        raise InvalidInput(f"{place}.per_100_g.{fault.field}", fault.problem, fault.wanted) from None
    usual = GROUPS.get(given.group)
    if given.group and usual is None:
        raise InvalidInput(f"{place}.group", f"“{given.group}” is no kind of food.", f"One of {', '.join(GROUPS)}.")
    keep = "pantry" if usual is None else usual.cooked_keep_group if given.state == "cooked" else usual.keep_group
    cooks_like = given.cooks_like
    food = Food(
        given.name,
        given.name,
        given.state,
        given.group or "own",
        composition,
        frozenset(given.allergens),
        diet=given.diet,
        contains_pork=given.contains_pork,
        cooks_like=usual_cooks_like(given.name, given.group, given.state) if cooks_like is None else cooks_like,
        keep_group=keep,
        cooked_yield=given.cooked_yield,
    )
    faults = [f for f in check_food(food) if f.field != "energy_kcal" or "more than pure fat" in f.problem]
    if faults:
        raise InvalidInputs([InvalidInput(f"{place}.{f.field}", f.problem, f.wanted) for f in faults])
    return food


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
    facts = {
        "basis_g": request.basis_g,
        "basis_ml": request.basis_ml,
        "pieces": request.pieces,
        "density": request.density_g_per_100_ml,
    }
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
        per_100_g=nutrients_out(Tally.of(reading.composition, 100.0)),
        net_carbohydrate_g=net_carbohydrate_g(
            reading.composition.as_mapping(), request.polyol_share, reading.composition.at_least
        ),
        energy_from_macros_kcal=reading.macro_energy_kcal,
        lines=[
            LabelLineOut(
                field=x.key,
                typed=x.typed,
                working=x.working,
                per_100_g=x.per_100_g,
                standard_error=x.standard_error,
                unit=x.unit,
            )
            for x in reading.lines
        ],
        queries=[_query_out(q) for q in reading.queries],
    )


def _query_out(query: Query) -> QueryOut:
    corrections = [CorrectionOut(words=c.words, changes=dict(c.changes)) for c in query.corrections]
    return QueryOut(field=query.field, problem=query.problem, cause=query.cause, corrections=corrections)
