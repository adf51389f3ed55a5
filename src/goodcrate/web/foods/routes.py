"""Routes of foods: the list with its finder, one food, and what the reference figures are and are not."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from goodcrate.core.foods import ALLERGENS
from goodcrate.core.nutrients import NUTRIENTS
from goodcrate.services import foods
from goodcrate.web.pages import fragment, page
from goodcrate.web.security import Signed

router = APIRouter(prefix="/foods")


@router.get("")
def food_list(request: Request, visitor: Signed, q: str = "", part: str = "") -> Response:
    """All foods, or those whose names hold the typed words."""
    found = foods.find_foods(visitor.caller, q)
    own, shipped = foods.count_foods(visitor.caller)
    if part == "rows":
        return fragment("foods/_rows.html", found=found, q=q)
    return page(request, visitor, "foods/page.html", "foods", found=found, q=q, own=own, shipped=shipped)


@router.get("/about")
def about(request: Request, visitor: Signed) -> Response:
    """What the reference figures are and are not."""
    return page(request, visitor, "foods/about.html", "foods", shipped=foods.count_foods(visitor.caller)[1])


@router.get("/{key}")
def one_food(request: Request, visitor: Signed, key: str) -> Response:
    """Everything known about one food, the unknown included."""
    found = foods.food_by_key(visitor.caller, key)
    figures = [(n, found.food.composition.get(n.key)) for n in NUTRIENTS]
    unknown = [n.label for n, figure in figures if figure is None]
    allergens = [ALLERGENS[a] for a in sorted(found.food.allergens)]
    return page(
        request, visitor, "foods/food.html", "foods",
        food=found.food, is_household=found.is_household, figures=figures, unknown=unknown, allergens=allergens,
    )  # fmt: skip
