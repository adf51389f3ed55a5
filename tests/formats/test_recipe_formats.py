"""Recipes out and in again: nothing is lost, and whatever else comes in is bounded plain text."""

import json
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pyld import jsonld

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.amounts import Amount
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.nutrients import Composition
from goodcrate.core.recipes.component import Component, IngredientLine, PendingLine, StorageChoice
from goodcrate.core.recipes.cooking import COOKED_AS
from goodcrate.core.recipes.recipe import LineChange, Recipe, Variant
from goodcrate.core.recipes.steps import Step
from goodcrate.core.recipes.yields import LearnedYield
from goodcrate.formats.recipe_csv import read_lines, write_lines
from goodcrate.formats.recipe_document import PortableRecipe, document_of, recipe_from
from goodcrate.formats.recipe_jsonld import NAMESPACE, archive_of, find_recipes, found_steps, jsonld_of, minutes_of
from goodcrate.formats.reference import reference_foods
from tests.core.dishes import turkey_pot

words = st.text(st.characters(codec="utf-8", exclude_categories=["C"]), min_size=1, max_size=30)
some = st.floats(0, 90, allow_nan=False)
own_foods = st.builds(
    lambda name, figures, price: Food(
        f"own:{name}", name, "raw", "vegetable", Composition.of(figures), frozenset({"milk"}), price=price
    ),
    words,
    st.fixed_dictionaries({"energy_kcal": some, "protein_g": st.floats(0, 30), "iron_mg": some}),
    st.none() | st.floats(0, 99),
)
all_foods = st.sampled_from(sorted(reference_foods())).map(reference_foods().__getitem__) | own_foods


@st.composite
def portable(draw: st.DrawFn) -> PortableRecipe:
    components, keys = [], []
    own = {f.key: f for f in draw(st.lists(all_foods, min_size=2, max_size=4))}
    food = st.sampled_from(sorted(own)).map(own.__getitem__)
    for c in range(draw(st.integers(1, 3))):
        lines = []
        for n in range(draw(st.integers(1, 3))):
            amount = Amount(draw(st.floats(0, 900)), "volume", draw(some), draw(st.just("") | words))
            lines.append(
                IngredientLine(
                    f"{c}.{n}",
                    draw(food),
                    amount,
                    draw(st.floats(0, 1)),
                    draw(st.sampled_from(["", "on_the_day"])),
                    is_discarded=draw(st.booleans()),
                    is_optional=draw(st.booleans()),
                    is_to_taste=draw(st.booleans()),
                )
            )
        keys += [x.key for x in lines]
        components.append(
            Component(
                f"c{c}",
                draw(words),
                tuple(lines),
                draw(st.none() | st.floats(1, 900)),
                draw(st.none() | st.just(LearnedYield(0.8, 0.7, 0.9, 3))),
                draw(
                    st.just(StorageChoice())
                    | st.just(StorageChoice("leafy", False, "cold", "jar", "crisp"))
                    | st.builds(StorageChoice, own_days=st.integers(0, 365), days_because=st.just("") | words)
                ),
                vessel=draw(st.sampled_from(["", "pot"])),
                minimum_ml=draw(st.none() | st.just(300.0)),
                cooked_as=draw(st.sampled_from(["", *COOKED_AS])),
                pending=draw(st.just(()) | st.just((PendingLine("p", "a glug", "no amount", "quark", "1"),))),
            )
        )
    steps = (
        Step(
            "1",
            draw(words),
            "c0",
            "oven",
            20.0,
            False,
            low_c=170,
            high_c=190,
            core_kind="fish",
            after=(),
            follows_at_once=True,
            checks_min=(5.0,),
        ),
        Step("2", "Eat"),
    )
    change = LineChange(keys[0], draw(st.none() | food), 12.5)
    variants = draw(st.just(()) | st.just((Variant("v", "mild", ("oskar",), (change,)),)))
    recipe = Recipe("r", draw(words), draw(st.floats(0.5, 100)), tuple(components), steps, variants)
    return PortableRecipe(recipe, draw(st.just("") | words), tuple(draw(st.lists(words, max_size=3, unique=True))))


@settings(max_examples=60)
@given(portable())
def test_what_goes_out_comes_back_whole(one: PortableRecipe) -> None:
    assert recipe_from(json.loads(json.dumps(document_of(one)))) == one
    found = find_recipes(json.dumps(archive_of([jsonld_of(one)] * 2)))
    assert [recipe_from(f.document or {}) for f in found] == [one, one]


# The few schema.org terms an export uses, with the kind of value each takes (schema.org, version 29).
TERMS: dict[str, type | tuple[type, ...]] = {
    "name": str,
    "recipeYield": str,
    "recipeIngredient": str,
    "recipeInstructions": dict,
    "description": str,
    "keywords": str,
    "prepTime": str,
    "totalTime": str,
    "nutrition": dict,
    "suitableForDiet": str,
    "text": str,
    "position": int,
    "calories": str,
    "servingSize": str,
    "proteinContent": str,
    "fatContent": str,
    "saturatedFatContent": str,
    "carbohydrateContent": str,
    "sugarContent": str,
    "fiberContent": str,
    "sodiumContent": str,
}


def no_network(url: str, options: object) -> dict[str, Any]:
    """The context of schema.org as far as it matters here: every plain term is one of its own."""
    assert url.rstrip("/") == "https://schema.org"
    return {"contextUrl": None, "documentUrl": url, "document": {"@context": {"@vocab": "https://schema.org/"}}}


def check_nodes(node: dict[str, Any]) -> None:
    for key, values in node.items():
        if key.startswith("@"):
            continue
        if key == f"{NAMESPACE}document":
            assert values[0]["@type"] == "@json"
            continue
        term = key.removeprefix("https://schema.org/")
        assert term in TERMS, key
        for value in values:
            plain = value.get("@value", value)
            assert isinstance(plain, TERMS[term]), (term, plain)
            if isinstance(plain, dict):
                assert plain["@type"][0].startswith("https://schema.org/")
                check_nodes(plain)


def test_an_export_is_valid_json_ld_with_nothing_but_recipe_terms() -> None:
    exported = json.loads(json.dumps(jsonld_of(PortableRecipe(turkey_pot(), "Good cold.", ("hot", "freezes")))))
    [node] = jsonld.expand(exported, {"documentLoader": no_network})
    assert node["@type"] == ["https://schema.org/Recipe"]
    check_nodes(node)
    assert exported["totalTime"] == "PT1H27M"
    assert exported["nutrition"]["calories"] == "481 kcal"


PAGE = """<html><head><script>alert(1)</script><script type="application/ld+json">
{"@context": "https://schema.org", "@graph": [{"@type": "WebPage"}, {"@type": ["Thing", "Recipe"],
"name": "Pea &amp;amp; dill <b>soup</b><script>steal()<\\/script>", "recipeYield": ["6", "6 bowls"],
"recipeIngredient": ["500 g split peas, dry", "<i>2 tbsp</i> rapeseed oil", 7, {"a": 1}],
"recipeInstructions": [{"@type": "HowToSection", "itemListElement": [
{"@type": "HowToStep", "text": "Boil the peas", "timeRequired": "PT45M"}, "Add dill"]}],
"keywords": "Hot, Freezes well", "author": {"name": "somebody"}, "nutrition": {"calories": "310 calories"}}]}
</script></head></html>"""


def test_a_page_gives_its_recipe_as_plain_text() -> None:
    [found] = find_recipes(PAGE)
    assert found.name == "Pea & dill soup"
    assert (found.servings, found.claimed_kcal, found.tags) == (6, 310, ("hot", "freezes-well"))
    assert found.lines == (("", ("500 g split peas, dry", "2 tbsp rapeseed oil", "7")),)
    steps = found_steps(found)
    assert [(s.text, s.duration_min, s.after) for s in steps] == [
        ("Boil the peas", 45, ()),
        ("Add dill", None, ("s1",)),
    ]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "nothing in it"),
        ("not json", "not JSON at line 1"),
        ("[1, 2]", "No schema.org/Recipe"),
        ("<p>no data</p>", "no JSON-LD"),
        ("[" * 50_000, "nested too deeply|not JSON"),
        ('{"a":' * 90 + '{"@type": "Recipe"}' + "}" * 90, "nested too deeply"),
        (json.dumps([{"x": [n]} for n in range(110_000)]), "too much"),
        (" " * 12_000_001, "more than we take"),
        (json.dumps([{"@type": "Recipe", "name": "x"}] * 1001), "more than we take at once"),
    ],
)
def test_what_is_no_recipe_or_too_much_is_refused(text: str, said: str) -> None:
    with pytest.raises(InvalidInput, match=said):
        find_recipes(text)


def test_hostile_values_become_bounded_text() -> None:
    nasty = {
        "@type": "Recipe",
        "name": "<img src=x onerror=alert(1)>" + "A" * 5000,
        "recipeYield": {"value": -5},
        "recipeIngredient": ["x" * 10_000, None, True, ["y"], "<b></b>", "\u202e\x00 1 egg", *["1 egg"] * 900],
        "recipeInstructions": {"text": "&lt;script&gt;alert(1)&lt;/script&gt; stir"},
        "nutrition": "lots",
        "gc:document": ["not", "a", "document"],
    }
    [found] = find_recipes(json.dumps(nasty))
    assert found.name == "A" * 160
    assert (found.servings, found.document) == (None, None)
    lines = found.lines[0][1]
    assert len(lines) <= 300
    assert max(map(len, lines)) == 200
    assert "1 egg" in lines
    assert all("<" not in line and "\x00" not in line for line in lines)
    assert [text for text, _ in found.steps] == ["stir"]
    assert len(found.notices) == 2


def test_a_document_of_ours_that_cannot_be_is_refused_at_its_place() -> None:
    good = document_of(PortableRecipe(turkey_pot()))
    bad = json.loads(json.dumps(good))
    bad["components"][0]["lines"][0]["grams"] = -4
    bad["servings"] = 900
    with pytest.raises(InvalidInputs) as caught:
        recipe_from(bad)
    assert {f.field for f in caught.value.faults} == {"components.0.lines.0.grams", "servings"}
    for change in ({"food": "unobtainium"}, {"measure": "guess"}):
        odd = json.loads(json.dumps(good))
        odd["components"][0]["lines"][0] |= change
        with pytest.raises(InvalidInputs, match=r"components\.0\.lines\.0"):
            recipe_from(odd)
    fat = replace(reference_foods()["quark"], key="own")
    line = replace(turkey_pot().lines[0], food=fat)
    own = json.loads(json.dumps(document_of(PortableRecipe(Recipe("r", "r", 1, (Component("c", "c", (line,)),))))))
    own["foods"]["own"]["per_100_g"]["protein_g"] = 130
    with pytest.raises(InvalidInputs, match=r"foods\.own\.protein_g"):
        recipe_from(own)


def test_lines_as_csv() -> None:
    text = write_lines([PortableRecipe(turkey_pot())])
    assert text.splitlines()[0].startswith("recipe,servings,component,ingredient,amount,grams,food_key,energy_kcal")
    [found] = read_lines(text.encode())
    assert (found.name, found.servings) == ("Turkey pot", 6)
    assert [name for name, _ in found.lines] == ["turkey and cabbage", "swede mash"]
    assert found.lines[1][1][2] == "40 g Butter, salted"
    semicolons = 'Recipe;Ingredient;Amount\nSoup;peas;500 g\n;nothing;\nSoup;"=HYPERLINK(1)";\n'
    [soup] = read_lines(semicolons.encode("cp1252"))
    assert soup.lines == (("", ("500 g peas", "=HYPERLINK(1)")),)
    formula = replace(turkey_pot(), name="=SUM(A1)")
    assert "'=SUM(A1)" in write_lines([PortableRecipe(formula)])
    for wrong in (b"a,b\n1,2\n", b"recipe,ingredient\n,\n", b""):
        with pytest.raises(InvalidInput):
            read_lines(wrong)


@pytest.mark.parametrize(
    ("text", "minutes"), [("PT45M", 45), ("PT1H30M", 90), ("P1D", 1440), ("PT0M", None), ("soon", None), ("P9D", None)]
)
def test_durations(text: str, minutes: float | None) -> None:
    assert minutes_of(text) == minutes
