"""Recipes over time and between meals: versions, undo, components served twice, versions for one eater, taught yields,
files in and out."""

import json
from dataclasses import replace
from uuid import UUID, uuid4

import pytest

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.recipes.component import PendingLine, StorageChoice
from goodcrate.core.recipes.steps import Step
from goodcrate.formats.recipe_document import PortableRecipe
from goodcrate.formats.recipe_jsonld import archive_of, find_recipes, jsonld_of
from goodcrate.services import kitchen
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.cook import cooking
from goodcrate.services.kitchen import VesselInput
from goodcrate.services.portion import filling
from goodcrate.services.recipes import library, recipe_files, recipe_input, saving, versions
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import placing, weeks
from tests.services.kitchen import MONDAY, eater_input, furnish, place, turkey_pot


def full_recipe(eater_id: UUID) -> recipe_input.RecipeInput:
    """The turkey pot with everything a recipe may know."""
    typed = turkey_pot()
    pot = replace(
        typed.components[0],
        storage=StorageChoice("soup_stew", True, "heat it", "box", "firm"),
        vessel="pot",
        minimum_ml=300.0,
        cooked_g=1800.0,
        pending=(PendingLine(str(uuid4()), "a glug of joy", "no such food is known"),),
    )
    first = Step(str(uuid4()), "Brown the turkey", str(pot.id), "hob", 12.0)
    then = Step(
        str(uuid4()),
        "Roast it",
        str(pot.id),
        "oven",
        40.0,
        False,
        low_c=170.0,
        high_c=190.0,
        core_kind="poultry",
        after=(first.key,),
        follows_at_once=True,
        checks_min=(20.0,),
    )
    oil = typed.components[0].lines[2]
    less = recipe_input.VariantInput(
        uuid4(), "olive oil", (eater_id,), (recipe_input.ChangeInput(oil.id, "olive_oil", 35.0),)
    )
    return replace(typed, components=(pot,), steps=(first, then), variants=(less,), tags=("hot",), origin="a page")


def with_grams(typed: recipe_input.RecipeInput, grams: float, version: int) -> recipe_input.RecipeInput:
    """The same recipe with another weight of its first ingredient."""
    component = typed.components[0]
    lines = (replace(component.lines[0], amount_g=grams), *component.lines[1:])
    return replace(typed, version=version, components=(replace(component, lines=lines), *typed.components[1:]))


def first_grams(caller: Caller, recipe_id: UUID) -> float:
    return library.get_recipe(caller, recipe_id).recipe.components[0].lines[0].amount.grams


def test_everything_a_recipe_knows_comes_back_and_fits_a_document(household: Caller) -> None:
    eater = eater_input()
    household_eaters.save_eater(household, eater)
    typed = full_recipe(eater.id)
    assert saving.save_recipe(household, typed) == 1
    back = library.get_input(household, typed.id)
    assert back == replace(typed, version=1)
    assert recipe_input.of_document(json.loads(json.dumps(recipe_input.as_document(back)))) == back
    assert saving.save_recipe(household, back) == 1  # nothing changed, no new version


def test_what_cannot_be_saved_is_named_all_at_once(household: Caller) -> None:
    eater = eater_input()
    typed = full_recipe(eater.id)
    pot = typed.components[0]
    odd = replace(
        typed,
        name="",
        steps=(Step("x", "", "gone", "cauldron", 0.0),),
        components=(replace(pot, vessel="bath", storage=StorageChoice("mystery", container="hat"), minimum_ml=-1.0),),
        variants=(replace(typed.variants[0], name="", eater_ids=()),),
    )
    with pytest.raises(InvalidInputs) as caught:
        saving.save_recipe(household, odd)
    fields = {f.field.replace(str(pot.id), "C").replace(str(typed.variants[0].id), "V") for f in caught.value.faults}
    assert fields == {
        "name",
        "step-x-text",
        "step-x-equipment",
        "step-x-component",
        "step-x-minutes",
        "component-C-vessel",
        "component-C-minimum",
        "component-C-keep",
        "variant-V-name",
        "variant-V-eaters",
    }
    many = tuple(recipe_input.LineInput(uuid4(), "quark", 5) for _ in range(301))
    with pytest.raises(InvalidInputs, match="302 ingredient lines are too many"):
        saving.save_recipe(household, replace(typed, components=(replace(pot, lines=many),)))


def test_undo_twice_is_redo_and_any_version_can_come_back(household: Caller) -> None:
    typed = turkey_pot()
    saving.save_recipe(household, typed)
    with pytest.raises(InvalidInput, match="nothing to undo"):
        versions.undo(household, typed.id)
    saving.save_recipe(household, with_grams(typed, 1000, 1))
    saving.save_recipe(household, with_grams(typed, 800, 2))
    versions.undo(household, typed.id)
    assert first_grams(household, typed.id) == 1000
    versions.undo(household, typed.id)
    assert first_grams(household, typed.id) == 800
    versions.restore(household, typed.id, 1)
    assert first_grams(household, typed.id) == 1200
    assert [v.version for v in versions.past_versions(household, typed.id)] == [5, 4, 3, 2, 1]
    with pytest.raises(NotFound):
        versions.restore(household, typed.id, 77)


def test_versions_are_pruned_but_for_those_weeks_were_planned_with(
    household: Caller, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(versions, "KEEP_PAST", 2)
    made = furnish(household)  # the week is planned with version 1
    typed = library.get_input(household, made.recipe_id)
    for n in range(1, 6):
        saving.save_recipe(household, with_grams(typed, 500.0 + n, n))
    versions.undo(household, made.recipe_id)
    assert [v.version for v in versions.past_versions(household, made.recipe_id)] == [6, 5, 1]
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    assert picture.outcome.batches[0].record.lines[0].amount.grams == 600  # 3 of 6 servings of 1,200 g
    [newer] = picture.newer
    assert newer.planned_kcal > newer.now_kcal
    weeks.take_new_version(household, MONDAY, made.recipe_id)
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    assert picture.newer == []
    assert picture.outcome.batches[0].record.lines[0].amount.grams == pytest.approx(252, abs=0.5)


def test_a_recipe_placed_anew_brings_its_present_version(household: Caller) -> None:
    made = furnish(household, days=1)
    typed = library.get_input(household, made.recipe_id)
    saving.save_recipe(household, with_grams(typed, 600, 1))
    place(made, 1.0, 2)  # the recipe is in the week already: it keeps its version
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    assert len(picture.newer) == 1
    for placement in picture.meals:
        placing.take_out_meal(household, placement.id)
    place(made, 1.0, 1)
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    assert picture.newer == []


def stew_with(component_id: UUID, grams: float = 150.0) -> recipe_input.RecipeInput:
    """Another recipe that serves a component of the first."""
    link = recipe_input.ComponentInput(uuid4(), "pot", used_component_id=component_id, serving_g=grams)
    carrots = recipe_input.ComponentInput(uuid4(), "carrots", (recipe_input.LineInput(uuid4(), "carrot_raw", 400),))
    return recipe_input.RecipeInput(uuid4(), "Carrots and pot", 4, (carrots, link))


def test_a_component_served_twice_follows_its_recipe_and_is_cooked_once(household: Caller) -> None:
    made = furnish(household, days=1)
    other = stew_with(made.component_id)
    saving.save_recipe(household, other)
    before = library.get_recipe(household, other.id).serving
    assert [(p.component.key, p.grams) for p in before.parts][1] == (str(made.component_id), 150)
    assert library.get_input(household, other.id) == replace(other, version=1)
    slot_day = placing.PlaceInput(uuid4(), made.eater_id, made.slot_id, other.id, 2.0, (MONDAY.replace(day=24),))
    placing.place(household, MONDAY, slot_day)
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    pots = [b for b in picture.outcome.batches if b.plan.component_key == str(made.component_id)]
    assert len(pots) == 1
    assert len(pots[0].plan.portions) == 2
    # The lighter pot counts in the other recipe at once; in the week once it is taken.
    saving.save_recipe(household, with_grams(library.get_input(household, made.recipe_id), 600, 1))
    after = {p.recipe.key: p.serving for p in library.list_recipes(household)}[str(other.id)]
    assert after.tally.amount("protein_g").value < before.tally.amount("protein_g").value
    again = weeks.week_picture(household, MONDAY)
    assert again is not None
    assert again.outcome.batches[0].record == picture.outcome.batches[0].record


def test_components_cannot_be_used_in_a_circle(household: Caller) -> None:
    first = turkey_pot()
    saving.save_recipe(household, first)
    own = recipe_input.ComponentInput(uuid4(), "pot", used_component_id=first.components[0].id, serving_g=100.0)
    with pytest.raises(InvalidInputs, match="goes in a circle"):
        saving.save_recipe(household, replace(first, version=1, components=(*first.components, own)))
    other = stew_with(first.components[0].id)
    saving.save_recipe(household, other)
    with pytest.raises(InvalidInputs, match="borrowed itself"):
        saving.save_recipe(household, stew_with(other.components[1].id))
    with pytest.raises(InvalidInputs, match="no such component"):
        saving.save_recipe(household, stew_with(uuid4()))
    with pytest.raises(InvalidInputs, match="How much of it"):
        saving.save_recipe(household, stew_with(first.components[0].id, 0.0))


def test_one_eater_gets_a_version_of_their_own(household: Caller) -> None:
    made = furnish(household, days=1)
    oskar = eater_input("Oskar", 1950, excluded_allergens=("celery",))
    household_eaters.save_eater(household, oskar)
    typed = library.get_input(household, made.recipe_id)
    celery = recipe_input.LineInput(uuid4(), "celery_raw", 200)
    pot = replace(typed.components[0], lines=(*typed.components[0].lines, celery))
    mash = recipe_input.ComponentInput(uuid4(), "mash", (recipe_input.LineInput(uuid4(), "swede_raw", 600),))
    typed = replace(typed, components=(pot, mash), version=1)
    saving.save_recipe(household, typed)
    weeks.take_new_version(household, MONDAY, made.recipe_id)
    his = placing.PlaceInput(uuid4(), oskar.id, oskar.slots[0].id, made.recipe_id, 1.0, (MONDAY,))
    with pytest.raises(InvalidInputs, match="celery"):
        placing.place(household, MONDAY, his)
    without = recipe_input.VariantInput(uuid4(), "without celery", (oskar.id,), (recipe_input.ChangeInput(celery.id),))
    saving.save_recipe(household, replace(typed, version=2, variants=(without,)))
    weeks.take_new_version(household, MONDAY, made.recipe_id)
    placing.place(household, MONDAY, his)
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    named = [(w.plan.component_key, len(w.plan.portions), len(w.record.lines)) for w in picture.outcome.batches]
    assert sorted(n[1:] for n in named) == [(1, 3), (1, 4), (2, 1)]  # his pot, her pot, one mash for both
    apart = next(key for key, boxes, lines in named if (boxes, lines) == (1, 3))
    session_key = picture.outcome.batches[0].plan.session_key
    batch_id = cooking.batch_id_for(picture.week.id, session_key, apart)
    cooking.start_batch(household, MONDAY, batch_id)
    filling.weigh_pot(household, MONDAY, batch_id, uuid4(), 1200, 1000, shortfall="cooked_down")
    again = weeks.week_picture(household, MONDAY)
    assert again is not None
    assert sum(w.is_started for w in again.outcome.batches) == 1


def weigh(household: Caller, gross_g: float, reason: str | None, first_day: object = MONDAY) -> UUID:
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    plan = picture.outcome.batches[0].plan
    batch_id = cooking.batch_id_for(picture.week.id, plan.session_key, plan.component_key)
    filling.weigh_pot(household, MONDAY, batch_id, uuid4(), gross_g, 1000, shortfall=reason)
    return batch_id


def test_a_weighed_pot_teaches_its_yield_unless_some_was_eaten(household: Caller) -> None:
    made = furnish(household)
    weigh(household, 1700, "taken_out")
    assert library.get_recipe(household, made.recipe_id).recipe.components[0].learned is None
    batch_id = weigh(household, 1749, "cooked_down")  # 749 g net of 1,070 g weighed in
    recipe = library.get_recipe(household, made.recipe_id)
    learned = recipe.recipe.components[0].learned
    assert learned is not None
    assert learned.factor == pytest.approx(0.7)
    assert recipe.serving.parts[0].expected.grams == pytest.approx(2140 * 0.7)
    filling.take_out_pot(household, MONDAY, batch_id, uuid4())
    assert library.get_recipe(household, made.recipe_id).recipe.components[0].learned is None


def test_copies_and_archive(household: Caller) -> None:
    made = furnish(household)
    copy_id = uuid4()
    assert saving.duplicate(household, made.recipe_id, copy_id) == copy_id
    saving.duplicate(household, made.recipe_id, copy_id)
    names = [p.recipe.name for p in library.list_recipes(household)]
    assert names == ["Turkey pot", "Turkey pot (copy)"]
    copy = library.get_recipe(household, copy_id)
    assert copy.serving.tally.amount("energy_kcal") == library.get_recipe(
        household, made.recipe_id
    ).serving.tally.amount("energy_kcal")
    saving.archive(household, made.recipe_id, archived=True)
    assert [p.recipe.name for p in library.list_recipes(household)] == ["Turkey pot (copy)"]
    assert [p.recipe.name for p in library.list_recipes(household, archived=True)] == ["Turkey pot"]
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    assert len(picture.outcome.boxes) == 3
    assert picture.newer == []


# --- files


SOUP = {
    "@type": "Recipe",
    "name": "Pea soup",
    "recipeYield": "6",
    "recipeIngredient": [
        "500 g split peas, dry",
        "300g carrots",
        "2 tbsp rapeseed oil",
        "zest of 2 limes",
        "a glug of moonshine",
        "salt to taste",
    ],
    "recipeInstructions": "Simmer for 45 minutes",
}


def test_an_import_weighs_what_is_sure_and_keeps_the_rest_as_it_stood(household: Caller) -> None:
    [found] = find_recipes(json.dumps(SOUP))
    reviewed = recipe_files.review(household, found)
    sure = {x.text: x.line.amount_g for x in reviewed.lines if x.line is not None}
    assert sure == {"500 g split peas, dry": 500, "300g carrots": 300, "2 tbsp rapeseed oil": 27.5, "salt to taste": 0}
    unsure = {x.text: x.doubt for x in reviewed.lines if x.line is None}
    assert unsure["zest of 2 limes"].startswith("no peel but lemon peel is known")
    assert [x.line.is_to_taste for x in reviewed.lines if x.text == "salt to taste" and x.line] == [True]
    recipe_id = uuid4()
    assert recipe_files.take_in(household, found, recipe_id) == recipe_files.take_in(household, found, recipe_id)
    saved = library.get_recipe(household, recipe_id)
    assert [p.text for p in saved.recipe.pending] == list(unsure)
    assert (saved.recipe.steps[0].duration_min, saved.recipe.steps[0].is_hands_on) == (45, False)


def test_our_own_export_comes_back_whole_also_next_door(household: Caller, neighbour: Caller) -> None:
    from goodcrate.services.foods import labels

    eater = eater_input("Maren")
    household_eaters.save_eater(household, eater)
    household_eaters.save_eater(neighbour, eater_input("Maren"))
    skyr = labels.save_food(
        household, labels.FoodInput(uuid4(), "Harbour skyr", {"basis": "100g", "energy_kcal": "62", "protein_g": "11"})
    )
    typed = full_recipe(eater.id)
    own = recipe_input.LineInput(uuid4(), skyr, 200)
    pot = replace(typed.components[0], lines=(*typed.components[0].lines, own))
    typed = replace(typed, components=(pot,))
    saving.save_recipe(household, typed)
    saved = library.get_recipe(household, typed.id)
    [found] = find_recipes(json.dumps(jsonld_of(PortableRecipe(saved.recipe, saved.note, saved.tags))))
    for caller in (household, neighbour):
        there = library.get_recipe(caller, recipe_files.take_in(caller, found, uuid4()))
        assert there.serving.tally.known == pytest.approx(saved.serving.tally.known)
        assert there.recipe.components[0].storage == saved.recipe.components[0].storage
        assert [s.text for s in there.recipe.steps] == [s.text for s in saved.recipe.steps]
        assert there.recipe.steps[1].after == (there.recipe.steps[0].key,)
        assert there.recipe.allergens == saved.recipe.allergens
    ours = library.get_recipe(household, recipe_files.take_in(household, found, uuid4()))
    assert [v.name for v in ours.recipe.variants] == ["olive oil"]
    assert ours.recipe.lines[-1].food.key == skyr  # the same food, not a second one


def test_an_archive_goes_on_where_it_stopped_and_one_bad_recipe_blocks_nothing(household: Caller) -> None:
    broken = {**SOUP, "name": "Broken", "gc:document": {"key": "x", "name": "x", "servings": 900}}
    found = find_recipes(json.dumps({"@graph": [SOUP, broken, *[{**SOUP, "name": f"Soup {n}"} for n in range(9)]]}))
    import_id = uuid4()
    recipe_files.upload(household, import_id, "soups.json", found)
    recipe_files.upload(household, import_id, "soups.json", found)
    first = recipe_files.advance(household, import_id, seconds=0)
    assert 0 < first.done < first.total == 11
    while not recipe_files.progress(household, import_id).is_finished:
        recipe_files.advance(household, import_id, seconds=0)
    done = recipe_files.advance(household, import_id)
    assert [r["verdict"] for r in done.report].count("refused") == 1
    assert "servings" in json.dumps(done.report[1])
    assert len(library.list_recipes(household)) == 10
    with pytest.raises(NotFound):
        recipe_files.progress(household, uuid4())


def test_a_whole_library_comes_back_as_it_went_out(household: Caller, neighbour: Caller) -> None:
    furnish(household)
    everything = [PortableRecipe(p.recipe, p.note, p.tags) for p in library.list_recipes(household)]
    found = find_recipes(json.dumps(archive_of(map(jsonld_of, everything))))
    recipe_files.upload(neighbour, import_id := uuid4(), "all.json", found)
    assert recipe_files.advance(neighbour, import_id).is_finished
    there, here = library.list_recipes(neighbour), library.list_recipes(household)
    assert [p.serving.tally.known for p in there] == [p.serving.tally.known for p in here]


def test_vessels_are_saved_whole_or_not_at_all(household: Caller) -> None:
    pot = VesselInput(uuid4(), "large pot", "pot", 4500, tare_g=1012)
    bowl = VesselInput(uuid4(), "bowl", "bowl", 3000)
    kitchen.save_vessels(household, [pot, bowl])
    assert [(v.name, v.volume_ml, v.tare_g) for v in kitchen.vessels(household)] == [
        ("large pot", 4500, 1012),
        ("bowl", 3000, None),
    ]
    with pytest.raises(InvalidInputs) as caught:
        kitchen.save_vessels(household, [replace(pot, volume_ml=3), replace(bowl, name="", count=0, tare_g=-1)])
    assert {f.field.split("-")[-1] for f in caught.value.faults} == {"volume_ml", "name", "count", "tare_g"}
    kitchen.save_vessels(household, [replace(bowl, count=2)], shown=[pot.id, bowl.id])
    assert [(v.name, v.count) for v in kitchen.vessels(household)] == [("bowl", 2)]
