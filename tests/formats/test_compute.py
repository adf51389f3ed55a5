"""`crate compute`: JSON in, JSON out, schemas as published, refusals that name the field."""

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import jsonschema
import pytest

from goodcrate.formats.compute_serving import compute_serving
from goodcrate.formats.schemas import SCHEMAS, schema_text
from goodcrate.formats.serving_request import ServingRequest

DOCS = Path(__file__).parents[2] / "docs" / "formats"
RECIPE: dict[str, Any] = {
    "name": "Turkey pot",
    "servings": 6,
    "components": [
        {
            "name": "pot",
            "cooked_g": 1930,
            "lines": [
                {"food": "turkey_thigh_raw", "amount_g": 1200},
                {"food": "rapeseed_oil", "amount_g": 40, "measure": "eye"},
                {"food": {"name": "own stock", "per_100_g": {"energy_kcal": 5}}, "amount_g": 100},
            ],
        }
    ],
}
DIVIDE: dict[str, Any] = {
    "gross_g": 2846,
    "tare_g": 1012,
    "boxes": [
        {"key": "Mon", "target_g": 314, "filled_g": 331},
        {"key": "Tue", "target_g": 314},
        {"key": "Wed", "target_g": 256},
    ],
}


def with_food(food: object) -> dict[str, Any]:
    return {**RECIPE, "components": [{"name": "x", "lines": [{"food": food, "amount_g": 1}]}]}


def test_a_label_is_computed_and_a_bad_one_names_its_field() -> None:
    done = crate("label", {"basis": "serving", "basis_g": 15, "printed": {"protein_g": "4", "energy_kcal": 94}})
    assert done.returncode == 0, done.stderr
    answer = json.loads(done.stdout)
    assert round(answer["per_100_g"]["protein_g"]["value"], 2) == 26.67
    assert answer["per_100_g"]["fat_g"]["value"] is None
    bad = crate("label", {"basis": "100ml", "printed": {"protein_g": "130", "colour": "red"}})
    assert (bad.returncode, bad.stdout) == (2, "")
    assert "printed.colour: No label prints this." in bad.stderr
    worse = crate("label", {"printed": {"protein_g": "130"}})
    assert "printed.protein_g: 130 g in 100 g is not possible." in worse.stderr
    assert "density_g_per_100_ml" in crate("label", {"basis": "100ml", "printed": {"fat_g": "1"}}).stderr


def crate(command: str, request: object) -> subprocess.CompletedProcess[str]:
    text = request if isinstance(request, str) else json.dumps(request)
    return subprocess.run(
        [sys.executable, "-m", "goodcrate", "compute", command, "-"],
        input=text,
        capture_output=True,
        text=True,
        check=False,
    )


@pytest.mark.parametrize("name", sorted(SCHEMAS))
def test_published_schemas_are_current_and_valid(name: str) -> None:
    text = (DOCS / f"{name}.schema.json").read_text()
    assert text == schema_text(name), "run ./crate schemas and commit"
    jsonschema.Draft202012Validator.check_schema(json.loads(text))


@pytest.mark.parametrize(("command", "request_"), [("serving", RECIPE), ("divide", DIVIDE)])
def test_results_keep_to_their_schemas(command: str, request_: dict[str, Any]) -> None:
    schema = {kind: json.loads((DOCS / f"{command}-{kind}.schema.json").read_text()) for kind in ("request", "result")}
    jsonschema.validate(request_, schema["request"])
    done = crate(command, request_)
    assert (done.returncode, done.stderr) == (0, "")
    jsonschema.validate(json.loads(done.stdout), schema["result"])


def test_a_serving_with_its_working() -> None:
    result = json.loads(crate("serving", RECIPE).stdout)
    energy = result["per_serving"]["energy_kcal"]
    assert energy["value"] == pytest.approx((1200 * 1.14 + 40 * 8.99 + 5) / 6)
    assert not energy["at_least"]
    iron = result["per_serving"]["iron_mg"]
    assert iron["at_least"]
    assert iron["unknown_share"] == pytest.approx(100 / 1340)
    oil = result["components"][0]["lines"][1]
    assert oil["standard_error_g"] == pytest.approx(14)
    assert oil["share_of_energy_doubt"] > 0.98
    assert result["components"][0]["yield_basis"] == "typed"


def test_a_division_with_a_filled_box() -> None:
    result = json.loads(crate("divide", DIVIDE).stdout)
    assert result["net_g"] == 1834
    assert [b["grams"] for b in result["boxes"]] == [331, 828, 675]
    assert result["remainder_g"] == 0


@pytest.mark.parametrize(
    ("command", "request_", "says"),
    [
        ("serving", "{", "file"),
        ("serving", {**RECIPE, "servings": 0}, "servings"),
        ("serving", {**RECIPE, "servngs": 6}, "servngs"),
        ("serving", with_food("swed"), "components.0.lines.0.food"),
        ("serving", with_food({"name": "y", "per_100_g": {"protein_g": 130}}), "components.0.lines.0.food.protein_g"),
        ("divide", {"boxes": DIVIDE["boxes"]}, "net_g"),
        ("divide", {"net_g": 300, **DIVIDE}, "net_g"),
        ("divide", {"net_g": 300, "boxes": DIVIDE["boxes"]}, "filled boxes hold"),
        ("divide", {"gross_g": 900, "tare_g": 1000, "boxes": DIVIDE["boxes"]}, "gross_g"),
        ("divide", {"net_g": 5, "boxes": [{"key": "a", "target_g": -1}]}, "boxes.0.target_g"),
    ],
)
def test_bad_input_ends_with_status_two_and_names_the_field(command: str, request_: object, says: str) -> None:
    done = crate(command, request_)
    assert done.returncode == 2
    assert says in done.stderr
    assert "Traceback" not in done.stderr
    assert done.stdout == ""


def test_a_missing_file_is_named() -> None:
    done = subprocess.run(
        [sys.executable, "-m", "goodcrate", "compute", "serving", "no-such.json"],
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 2
    assert "no-such.json" in done.stderr


FULL: dict[str, Any] = {
    "name": "Pea pot",
    "servings": 4,
    "components": [
        {
            "name": "pot",
            "vessel": "pot",
            "yields_seen": [2.0, 2.4, 2.2],
            "storage": {"keep_group": "soup_stew"},
            "lines": [
                {"food": "split_peas_dry", "amount_g": 400},
                {"food": "celery_raw", "amount_g": 150},
                {"food": "rapeseed_oil", "amount_g": 40, "uptake": 0.5},
                {"food": "salt", "amount_g": 6},
            ],
            "not_understood": ["a glug of joy"],
        },
        {"name": "mash", "uses": {"recipe": "Turkey", "component": "swede mash", "grams": 150}},
    ],
    "other_recipes": [
        {
            "name": "Turkey",
            "servings": 6,
            "components": [
                {"name": "swede mash", "cooked_g": 1000, "lines": [{"food": "swede_raw", "amount_g": 1100}]}
            ],
        }
    ],
    "steps": [
        {"text": "Sweat the celery in the oil", "component": 0, "equipment": "hob", "minutes": 8},
        {"text": "Simmer the peas", "component": 0, "equipment": "hob", "minutes": 45, "hands_on": False, "after": [1]},
    ],
    "variants": [{"name": "without celery", "changes": [{"line": "components.0.lines.1"}]}],
    "vessels": [{"name": "large pot", "kind": "pot", "volume_ml": 1500}],
    "scale": {"by": "servings", "to": 12},
    "fit": {
        "aims": [{"nutrient": "energy_kcal", "about": 400}],
        "limits": [{"line": "components.0.lines.0", "low_g": 200, "high_g": 600}],
    },
    "swap": {"line": "components.0.lines.2", "food": "butter_salted"},
}


def test_serving_works_out_all_that_a_recipe_may_know() -> None:
    done = crate("serving", FULL)
    assert done.returncode == 0, done.stderr
    answer = json.loads(done.stdout)
    jsonschema.validate(answer, json.loads(schema_text("serving-result")))
    pot, mash = answer["components"]
    assert (pot["taken_out_g"], round(pot["cooked_g"]), pot["yield_basis"]) == (20, 1311, "learned from your pots")
    assert (mash["grams_per_serving"], mash["filling"]) == (150, None)
    assert pot["storage"]["fridge_days_cautious"] == 2
    assert not pot["filling"]["fits"]
    assert answer["not_understood"] == ["a glug of joy"]
    assert (answer["hands_on_min"], answer["unattended_min"], answer["longest_chain_min"]) == (8, 45, 53)
    assert {"not_understood", "missing_cool_down"} <= {n["rule"] for n in answer["notes"]}
    [variant] = answer["variants"]
    assert (variant["cooked_apart"], "celery" in variant["allergens"]) == (["pot, without celery"], False)
    assert answer["scaled"]["servings"] == 12
    salt = next(x for x in answer["scaled"]["lines"] if x["food"] == "Table salt")
    assert salt["after_g"] == pytest.approx(6 * 3**0.8, abs=0.5)
    assert answer["fit"]["after"]["energy_kcal"] == pytest.approx(400, rel=0.031)
    assert answer["swap"]["grams"] == pytest.approx(40 * 8.99 / 7.45, abs=0.5)


def test_a_circle_of_components_is_refused_at_its_place() -> None:
    def using(recipe: str, component: str) -> dict[str, Any]:
        return {"name": component, "uses": {"recipe": recipe, "component": component, "grams": 100}}

    circle = {
        "name": "Mine",
        "servings": 2,
        "components": [using("A", "sauce")],
        "other_recipes": [
            {"name": "A", "servings": 2, "components": [using("B", "sauce")]},
            {"name": "B", "servings": 2, "components": [using("A", "sauce")]},
        ],
    }
    done = crate("serving", circle)
    assert done.returncode == 2
    assert "goes in a circle" in done.stderr
    bad = json.loads(json.dumps(FULL))
    bad["components"][0]["lines"][0]["uptake"] = 3
    bad["steps"][0]["equipment"] = "cauldron"
    refused = crate("serving", bad)
    assert refused.returncode == 2
    assert "components.0.lines.0.uptake" in refused.stderr
    assert "steps.0.equipment" in refused.stderr
    nobody = crate("serving", {**FULL, "swap": {"line": "nothing", "food": "quark"}})
    assert (nobody.returncode, "swap.line" in nobody.stderr) == (2, True)


def test_a_week_is_fitted_and_planned_from_files() -> None:
    band = {"eater": "maren", "day": 0, "energy_low_kcal": 970, "energy_high_kcal": 1030, "protein_floor_g": 60}
    portion = {
        "eater": "maren",
        "recipe": "stew",
        "grams": 500,
        "kcal_per_g": 1.1,
        "protein_per_g": 0.1,
        "low_g": 250,
        "high_g": 1000,
        "days": [0],
    }
    done = crate("week", {"mode": "fit", "fit": {"portions": [portion], "days": [band]}})
    assert done.returncode == 0, done.stderr
    answer = json.loads(done.stdout)
    jsonschema.validate(answer, json.loads(schema_text("week-result")))
    assert 970 <= answer["fit"]["days"][0]["kcal"] <= 1030
    assert answer["fit"]["proven_best"]
    dish = {
        "key": "stew",
        "name": "Stew",
        "kcal_per_g": 1.1,
        "protein_per_g": 0.1,
        "low_g": 250,
        "high_g": 1000,
        "hands_on_min": 20,
        "keeps_days": 3,
        "freezes": True,
    }
    slot = {"eater": "maren", "day": 0, "slot": "dinner", "dishes": ["stew"]}
    sunday = {"key": "sunday", "day": -1, "serves": [["maren", 0, "dinner"]]}
    plan = {"slots": [slot], "days": [band], "dishes": [dish], "sessions": [sunday]}
    done = crate("week", {"mode": "plan", "plan": plan})
    assert done.returncode == 0, done.stderr
    answer = json.loads(done.stdout)
    assert (answer["plan"]["batches"], answer["plan"]["proven_best"]) == (1, True)
    hungry = {**plan, "days": [{**band, "protein_floor_g": 300}]}
    answer = json.loads(crate("week", {"mode": "plan", "plan": hungry}).stdout)
    assert answer["plan"] is None
    assert answer["conflicts"][0]["rule"] == "protein"
    assert crate("week", {"mode": "plan"}).returncode == 2


def test_a_serving_without_traces_says_what_it_leaves_out() -> None:
    lines = [{"food": "quark", "amount_g": 400}, {"food": "lettuce_romaine_raw", "amount_g": 80}]
    given = {"name": "Bowl", "servings": 2, "components": [{"name": "bowl", "lines": lines}]}
    whole = compute_serving(ServingRequest.model_validate(given))
    school = compute_serving(ServingRequest.model_validate({**given, "leave_traces_out": True}))
    assert whole.left_out is None
    assert school.left_out is not None
    left = school.left_out["energy_kcal"].value or 0.0
    assert left == pytest.approx(40 * 0.17)
    both = (school.per_serving["energy_kcal"].value or 0.0) + left
    assert both == pytest.approx(whole.per_serving["energy_kcal"].value)
    assert school.serving_g == whole.serving_g
