"""Routes of foods: the finder, one food, comparing, the household's measures, and what the reference figures are."""

from collections.abc import Sequence
from typing import Annotated
from urllib.parse import urlencode

from fastapi import Query, Request
from fastapi.responses import Response

from goodcrate.core.foods.compare import BASES, METRIC_SPOON_ML, compare
from goodcrate.core.foods.food import (
    ALLERGEN_WORDS,
    ALLERGENS,
    CATALOGUE,
    COOKED,
    FOOD_FACTS,
    GROUPS,
    IMPORTED,
    LABEL,
    STATES,
    Food,
    bought_for,
    cooked_back,
    cooked_from,
)
from goodcrate.core.foods.measures import CONVENTIONS
from goodcrate.core.ground.amounts import read_grams, read_number
from goodcrate.core.ground.document import Document
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.nutrients import NUTRIENTS, Tally
from goodcrate.core.ground.typed import whole_of
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import coins
from goodcrate.formats.reference import measure_table
from goodcrate.services import household, kitchen
from goodcrate.services.calling import StaleWrite
from goodcrate.services.foods import labels, own_foods
from goodcrate.services.foods.own_foods import Filters
from goodcrate.services.recipes import compared
from goodcrate.web.drawing import energy_bar
from goodcrate.web.figures import plain
from goodcrate.web.finder import ask_finder
from goodcrate.web.foods.address import router
from goodcrate.web.foods.tapes import amount_tape, figure, food_tape, label_tape
from goodcrate.web.pages import NO_FAULTS, Faults, fragment, go, page
from goodcrate.web.security import Posted, Signed, Visitor, text

COMPARED = ("energy_kcal", "protein_g", "fat_g", "saturated_g", "carbohydrate_g", "sugars_g", "fibre_g", "sodium_mg")


def _filters(visitor: Visitor, group: str, free: str, protein: str, kcal: str) -> tuple[Filters, dict[str, str]]:
    """The filters typed, and what is wrong with them by field; a wrong one is left out."""
    faults, figures = {}, dict[str, float | None]()
    for name, typed in (("protein", protein), ("kcal", kcal)):
        figures[name] = None
        if typed.strip():
            try:
                figures[name] = read_number(typed, name, say("A number, such as 8."))
            except InvalidInput as fault:
                faults[name] = fault.message
    free_of = own_foods.household_allergens(visitor.caller) if free else frozenset[str]()
    return Filters(group if group in GROUPS else "", free_of, figures["protein"], figures["kcal"]), faults


@router.get("")
def food_list(
    request: Request,
    visitor: Signed,
    q: str = "",
    group: str = "",
    free: str = "",
    protein: str = "",
    kcal: str = "",
    food: Annotated[list[str] | None, Query()] = None,
    part: str = "",
) -> Response:
    """All foods, or those that answer what is typed: a name, an amount and a name, a barcode."""
    filters, wrong = _filters(visitor, group, free, protein, kcal)
    answer = ask_finder(request, visitor, q, filters=filters)
    wanted = list(dict.fromkeys((food or [])[:4]))
    chosen = _chosen(visitor, wanted)
    first = next((line for line in answer.lines if line.tally is not None), None)
    habits = kitchen.who_and_what(visitor.caller).shown
    tape = amount_tape(first, answer.words, habits) if first is not None else None
    typed = {"q": q, "group": group, "free": free, "protein": protein, "kcal": kcal}
    shown: Document = {
        "answer": answer,
        "first": first,
        "chosen": chosen,
        "typed": typed,
        "groups": GROUPS,
        "tape": tape,
        "faults": Faults(wrong),
        "habits": habits,
        "is_filtered": filters.is_on,
    }
    if part == "rows":
        response = fragment("foods/_rows.html", is_fragment=True, **shown)
        asked = {key: value for key, value in typed.items() if value}
        response.headers["HX-Replace-Url"] = "/foods" + (f"?{urlencode(asked)}" if asked else "")
        return response
    own, shipped = own_foods.count_foods(visitor.caller)
    barred = [ALLERGENS[a] for a in sorted(own_foods.household_allergens(visitor.caller))]
    return page(request, visitor, "foods/page.html", "foods", own=own, shipped=shipped, barred=barred, **shown)


@router.get("/about")
def about(request: Request, visitor: Signed) -> Response:
    """What the reference figures are and are not."""
    return page(request, visitor, "foods/about.html", "foods", shipped=own_foods.count_foods(visitor.caller)[1])


def _chosen(visitor: Visitor, keys: Sequence[str]) -> list[Food]:
    """Foods, and what the household makes, by their keys in this order; what nobody knows is left out."""
    known = own_foods.food_values(visitor.caller, {key for key in keys if ":" not in key})
    known = {**known, **compared.own_dish_foods(visitor.caller, keys)}
    return [known[key] for key in keys if key in known]


@router.get("/compare")
def compare_foods(request: Request, visitor: Signed, food: Annotated[list[str] | None, Query()] = None) -> Response:
    """Two to four foods side by side, the difference in words."""
    keys = list(dict.fromkeys((food or [])[:8]))
    chosen, there = _chosen(visitor, keys), household.settings(visitor.caller)
    spoon = measure_table().get("tablespoon", there.convention).value or METRIC_SPOON_ML
    dishes = compared.own_dishes(visitor.caller)
    try:
        comparison = compare(chosen, spoon)
    except InvalidInput as fault:
        return page(
            request,
            visitor,
            "foods/compare.html",
            "foods",
            status=422,
            comparison=None,
            chosen=chosen,
            dishes=dishes,
            faults=Faults({}, say("{part} Tick them in the list of foods.", part=fault.message)),
        )
    nutrients = [n for n in NUTRIENTS if n.key in COMPARED]
    return page(
        request,
        visitor,
        "foods/compare.html",
        "foods",
        comparison=comparison,
        chosen=chosen,
        bases=BASES,
        bars=[energy_bar(Tally.of(f.composition, 100.0)) for f in chosen],
        nutrients=nutrients,
        currency=there.currency,
        figure=figure,
        dishes=dishes,
        shown=kitchen.who_and_what(visitor.caller).shown,
    )


@router.get("/measures")
def measures(request: Request, visitor: Signed) -> Response:
    """How sure each measure is, and which cups and spoons are the household's."""
    ours = household.settings(visitor.caller).convention
    rows = measure_table().rows
    return page(request, visitor, "foods/measures.html", "foods", rows=rows, ours=ours, conventions=CONVENTIONS)


@router.get("/{key}")
def one_food(request: Request, visitor: Signed, key: str, amount: str = "") -> Response:
    """Everything known about one food, the unknown included."""
    return _food_page(request, visitor, key)


WHERE_FROM = {
    LABEL: Saying("Typed from its label"),
    CATALOGUE: Saying("From the barcode catalogue, looked over by you"),
    IMPORTED: Saying("From a file: {}"),
    COOKED: Saying("Cooked and weighed here, from {}"),
}
"""What is said of a food's figures by the kind of their source; a reference food names its own."""


def _food_page(
    request: Request,
    visitor: Visitor,
    key: str,
    faults: Faults = NO_FAULTS,
    status: int = 200,
    typed: dict[str, str] | None = None,
) -> Response:
    shown = own_foods.food_page(visitor.caller, key)
    food, settings = shown.food, household.settings(visitor.caller)
    figures = food.composition.as_mapping()
    errors = dict(zip(figures, food.composition.errors_per_100_g or (0.0,) * len(figures), strict=True))
    typical = shown.typical.composition.as_mapping() if shown.typical else {}
    unknown = [n.label for n in NUTRIENTS if figures[n.key] is None]
    habits = kitchen.who_and_what(visitor.caller).shown
    tape = label_tape(food.name, shown.reading, habits) if shown.reading else food_tape(food, settings.polyol_share)
    return page(
        request,
        visitor,
        "foods/food.html",
        "foods",
        status=status,
        faults=faults,
        shown=shown,
        food=food,
        nutrients=NUTRIENTS,
        figures=figures,
        errors=errors,
        typical=typical,
        unknown=unknown,
        known=len(NUTRIENTS) - len(unknown),
        where_from=WHERE_FROM.get(shown.source_kind, "{}").format(food.source),
        cooked_from=cooked_from,
        cooked_back=cooked_back,
        bought_for=bought_for,
        kinds_of_state=STATES,
        groups=GROUPS,
        allergens=[ALLERGEN_WORDS[a] for a in sorted(food.allergens)],
        facts=_fact_fields(shown.food, typed),
        settings=settings,
        tape=tape,
        figure=figure,
        bar=energy_bar(Tally.of(food.composition, 100.0)),
    )


def _fact_fields(food: object, typed: dict[str, str] | None) -> list[tuple[str, str, str, str]]:
    """The facts a kitchen can teach: name, words, unit, value as shown (density as the weight of 100 ml)."""
    fields = []
    for name, fact in FOOD_FACTS.items():
        value = getattr(food, name)
        if name == "density_g_per_ml" and value is not None:
            value *= 100
        said = "" if value is None else coins(value) if name == "price" else plain(value)
        fields.append((name, fact.words, fact.unit, said if typed is None else typed.get(name, said)))
    return fields


@router.post("/{key}/facts")
def save_facts(request: Request, visitor: Signed, form: Posted, key: str) -> Response:
    """Remember what the kitchen knows about a food."""
    typed = {name: text(form, name) for name in FOOD_FACTS}
    facts: dict[str, float | None] = {}
    faults = []
    for name, value in typed.items():
        try:
            facts[name] = _fact(name, value)
        except InvalidInput as fault:
            faults.append(fault)
    try:
        if faults:
            raise InvalidInputs(faults)
        labels.remember_facts(visitor.caller, key, facts, whole_of(text(form, "version")))
    except InvalidInputs as error:
        return _food_page(request, visitor, key, Faults.of(error, set(FOOD_FACTS)), 422, typed)
    except StaleWrite as error:
        return _food_page(request, visitor, key, Faults.of(error), 409, typed)
    return go(f"/foods/{key}")


def _fact(name: str, typed: str) -> float | None:
    if not typed.strip():
        return None
    if name in ("each_g", "pack_g", "serving_g"):
        return read_grams(typed, name, 25_000, allow_zero=False)
    value = read_number(typed.rstrip(" %g"), name, say("A number."), largest=250)
    return value / 100 if name == "density_g_per_ml" else value


@router.post("/{key}/reference")
def back_to_reference(visitor: Signed, form: Posted, key: str) -> Response:
    """Give a food its typical figures again."""
    labels.back_to_reference(visitor.caller, key)
    return go(f"/foods/{key}")
