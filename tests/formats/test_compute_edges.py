"""`crate compute` on what nobody means: absurd but finite numbers, and whatever stands twice, reversed or nowhere."""

import json
from collections.abc import Callable, Iterator
from copy import deepcopy
from typing import Any

import pytest
from pydantic import BaseModel

from goodcrate.core.ground.errors import GoodCrateError
from goodcrate.formats.compute import DivideRequest, LabelRequest, compute_divide, compute_label, read_request
from goodcrate.formats.compute_serving import compute_serving
from goodcrate.formats.compute_shop import ShopRequest, compute_shop
from goodcrate.formats.compute_week import WeekRequest, compute_week
from goodcrate.formats.serving_request import ServingRequest

DAY = {
    "eater": "maren",
    "day": 0,
    "energy_low_kcal": 400,
    "energy_high_kcal": 700,
    "protein_floor_g": 20,
    "bands": [{"nutrient": "fat_g", "low": 5, "high": 60}],
}
DISH = {
    "key": "stew",
    "name": "Stew",
    "kcal_per_g": 1.1,
    "protein_per_g": 0.08,
    "low_g": 200,
    "high_g": 700,
    "hands_on_min": 20,
    "keeps_days": 3,
    "freezes": True,
    "most_g": 3000,
    "others_per_g": {"fat_g": 0.03},
    "cost_per_g": 0.01,
    "unit_g": 40,
    "weighs": [{"food": "turkey", "per_g": 0.4, "days_before": 1}],
}
TILL = {
    "foods": [
        {
            "key": "turkey",
            "packs": [{"grams": 500, "price": 6}, {"grams": 800, "price": 9}],
            "price_per_g": 0.01,
            "needed": [{"day": -1, "grams": 200}],
            "house": [{"grams": 100, "until": 2}],
            "floor_g": 50,
        }
    ],
    "spare_pct": 5,
    "budget": 30,
}
SLOT = {"eater": "maren", "day": 0, "slot": "dinner", "dishes": ["stew"]}
SUNDAY = {"key": "sunday", "day": -1, "serves": [["maren", 0, "dinner"]]}
PLAN: dict[str, Any] = {
    "mode": "plan",
    "plan": {"slots": [SLOT], "days": [DAY], "dishes": [DISH], "sessions": [SUNDAY], "limit_seconds": 2}
    | {"till": TILL, "aim": "within_budget"},
}
PORTION = {
    "eater": "maren",
    "recipe": "stew",
    "grams": 500,
    "kcal_per_g": 1.1,
    "protein_per_g": 0.1,
    "low_g": 250,
    "high_g": 1000,
    "days": [0],
    "piece_g": 51,
    "wanted_kcal": [500],
    "sizes_g": [300, 400],
    "others_per_g": {"fat_g": 0.03},
}
FIT: dict[str, Any] = {"mode": "fit", "fit": {"portions": [PORTION], "days": [DAY]}}
FOOD = {"name": "Spray", "per_100_g": {"energy_kcal": 800, "fat_g": 90}, "cooked_yield": 1.2}
SERVING: dict[str, Any] = {
    "name": "Pot",
    "servings": 4,
    "components": [
        {
            "name": "pot",
            "cooked_g": 900,
            "yields_seen": [0.9],
            "minimum_ml": 300,
            "lines": [{"food": "turkey_thigh_raw", "amount_g": 800, "uptake": 0.9}, {"food": FOOD, "amount_g": 20}],
        }
    ],
    "steps": [{"text": "Boil it", "equipment": "hob", "minutes": 30, "low_c": 90, "high_c": 100, "checks_min": [5]}],
    "vessels": [{"name": "pot", "kind": "pot", "volume_ml": 4500, "minimum_ml": 10}],
    "scale": {"by": "servings", "to": 6},
    "fit": {
        "aims": [{"nutrient": "energy_kcal", "about": 400}],
        "limits": [{"line": "components.0.lines.0", "low_g": 400, "high_g": 1200}],
    },
}
DIVIDE: dict[str, Any] = {
    "net_g": 900,
    "boxes": [{"key": "a", "target_g": 300, "capacity_g": 400}, {"key": "b", "target_g": 600, "filled_g": 590}],
}
LABEL: dict[str, Any] = {"basis": "serving", "basis_g": 30, "printed": {"energy_kcal": 120, "fat_g": 8.5}}
SHOP: dict[str, Any] = {
    "needs": [
        {
            "food": {"name": "White cabbage", "group": "vegetable", "refuse_pct": 20},
            "uses": [{"dish": "turkey pot", "grams": 608, "day": "2026-11-22"}],
            "packs": [{"grams": 900, "price": 1.4}, {"grams": 450, "price": 0.9}],
            "floor_g": 20,
        },
        {"food": "rye_flakes_dry", "uses": [{"dish": "rye", "grams": 489, "day": "2026-11-22"}]},
    ],
    "house": [{"food": "rye_flakes_dry", "grams": 300}],
    "spare_pct": 3,
}
COMMANDS: list[tuple[type[BaseModel], Callable[[Any], BaseModel], dict[str, Any]]] = [
    (WeekRequest, compute_week, PLAN),
    (WeekRequest, compute_week, FIT),
    (ServingRequest, compute_serving, SERVING),
    (DivideRequest, compute_divide, DIVIDE),
    (LabelRequest, compute_label, LABEL),
    (ShopRequest, compute_shop, SHOP),
]
ABSURD = (5e-324, 1e-12, 1e-5, 1e8, 1e15, 1e308, -1e-9, -300, -1e308)


def numbers(value: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """The way to every number of a request."""
    inner = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, part in inner:
        yield from numbers(part, (*path, key))
    if isinstance(value, int | float) and not isinstance(value, bool):
        yield path


def with_number(request: dict[str, Any], path: tuple[Any, ...], number: float) -> dict[str, Any]:
    changed = deepcopy(request)
    at: Any = changed
    for key in path[:-1]:
        at = at[key]
    at[path[-1]] = number
    return changed


@pytest.mark.parametrize(
    ("model", "act", "request_"), COMMANDS, ids=["plan", "fit", "serving", "divide", "label", "shop"]
)
def test_an_absurd_number_anywhere_is_refused_or_computed(
    model: type[BaseModel], act: Callable[[Any], BaseModel], request_: dict[str, Any]
) -> None:
    act(read_request(model, json.dumps(request_)))
    refused = []
    for path in numbers(request_):
        for number in ABSURD:
            try:
                act(read_request(model, json.dumps(with_number(request_, path, number)))).model_dump_json()
            except GoodCrateError as error:
                refused.append(str(error))
    assert all(refused)
    assert len(refused) > len(list(numbers(request_)))


def plan(**changes: Any) -> dict[str, Any]:
    return {"mode": "plan", "plan": {**PLAN["plan"], **changes}}


@pytest.mark.parametrize(
    ("request_", "place"),
    [
        (plan(slots=[SLOT, SLOT]), "slots.1"),
        (plan(dishes=[DISH, DISH]), "dishes.1"),
        (plan(days=[DAY, DAY]), "days.1"),
        (plan(days=[{**DAY, "energy_low_kcal": 900}]), "days.0.energy_low_kcal"),
        (plan(days=[{**DAY, "bands": [{"nutrient": "fat_g", "low": 9, "high": 5}]}]), "days.0.bands.0"),
        (plan(slots=[{**SLOT, "fixed": ["stew", -300]}]), "slots.0.fixed"),
        (plan(slots=[{**SLOT, "dishes": ["soup"]}]), "slots.0.dishes"),
        (plan(slots=[SLOT, {**SLOT, "day": 1}]), "slots.1.day"),  # a day without a band, and a dish with a largest size
        (plan(sessions=[{**SUNDAY, "day": 2}]), "sessions.0.serves"),
        (plan(dishes=[{**DISH, "others_per_g": {"fat_g": -0.1}}]), "others_per_g.fat_g"),
        (plan(dishes=[{**DISH, "low_g": 800}]), "dishes.0.low_g"),
        ({"mode": "fit", "fit": {"portions": [PORTION, PORTION], "days": [DAY]}}, "fit.portions.1"),
        ({"mode": "fit", "fit": {"portions": [PORTION], "days": [DAY, DAY]}}, "fit.days.1"),
        ({"mode": "fit", "fit": {"portions": [PORTION], "days": [{**DAY, "energy_high_kcal": 5}]}}, "fit.days.0"),
    ],
)
def test_what_stands_twice_reversed_or_nowhere_is_named(request_: dict[str, Any], place: str) -> None:
    with pytest.raises(GoodCrateError) as caught:
        compute_week(read_request(WeekRequest, json.dumps(request_)))
    assert place in "\n".join(str(f) for f in getattr(caught.value, "faults", [caught.value]))


def test_a_serving_refuses_a_line_limited_twice_an_empty_aim_and_negative_fat() -> None:
    limit = SERVING["fit"]["limits"][0]
    for fit, says in (
        ({**SERVING["fit"], "limits": [limit, limit]}, "limited twice"),
        ({**SERVING["fit"], "aims": [{"nutrient": "energy_kcal"}]}, "come to"),
    ):
        with pytest.raises(GoodCrateError, match=says):
            compute_serving(read_request(ServingRequest, json.dumps({**SERVING, "fit": fit})))
    lean = with_number(SERVING, ("components", 0, "lines", 1, "food", "per_100_g", "fat_g"), -3)
    with pytest.raises(GoodCrateError, match="fat_g"):
        compute_serving(read_request(ServingRequest, json.dumps(lean)))


def test_energy_apart_from_its_figures_is_queried_and_not_refused() -> None:
    sweet = {"name": "Erythritol", "per_100_g": {"energy_kcal": 0, "carbohydrate_g": 99.8, "protein_g": 0, "fat_g": 0}}
    lines = [{"food": sweet, "amount_g": 30}, {"food": "quark", "amount_g": 300}]
    given = {"name": "Bowl", "servings": 2, "components": [{"name": "bowl", "lines": lines}]}
    result = compute_serving(read_request(ServingRequest, json.dumps(given)))
    assert "energy_apart" in {n.rule for n in result.notes}
