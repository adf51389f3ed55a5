"""Saving recipes and eaters: once, whole, or not at all."""

from dataclasses import replace
from datetime import time, timedelta
from typing import Any
from uuid import uuid4

import pytest

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.find import plain
from goodcrate.core.targets.day_target import NutrientBand
from goodcrate.core.targets.target_ways import DayWay
from goodcrate.db.targets import EaterRow
from goodcrate.services.calling import Caller, NotFound, StaleWrite
from goodcrate.services.cook import cooking
from goodcrate.services.foods import own_foods
from goodcrate.services.recipes import library, recipe_input, saving
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import fitting, nearby, placing, weeks
from tests.services.kitchen import MONDAY, eater_input, furnish, turkey_pot


def test_a_recipe_comes_back_as_it_was_saved(household: Caller) -> None:
    typed = turkey_pot()
    saving.save_recipe(household, typed)
    saved = library.get_recipe(household, typed.id)
    known = own_foods.food_values(household, {line.food_key for c in typed.components for line in c.lines})
    assert saved.recipe == library.compute(household, typed, known)
    assert saved.version == 1


def test_sending_a_new_recipe_twice_saves_one(household: Caller) -> None:
    typed = turkey_pot()
    assert saving.save_recipe(household, typed) == saving.save_recipe(household, typed) == 1
    assert len(library.list_recipes(household)) == 1


def test_lines_change_move_and_go_and_the_version_counts(household: Caller) -> None:
    typed = turkey_pot()
    saving.save_recipe(household, typed)
    component = typed.components[0]
    meat, cabbage, oil = component.lines
    lines = (oil, replace(meat, amount_g=1300, measure="pack"), recipe_input.LineInput(uuid4(), "swede_raw", 200))
    changed = replace(typed, version=1, components=(replace(component, lines=lines),))
    assert saving.save_recipe(household, changed) == 2
    saved = library.get_recipe(household, typed.id)
    assert [(x.food.key, x.amount.grams, x.amount.measure) for x in saved.recipe.components[0].lines] == [
        ("rapeseed_oil", 40, "eye"),
        ("turkey_thigh_raw", 1300, "pack"),
        ("swede_raw", 200, "weighed"),
    ]
    assert str(cabbage.id) not in {x.key for x in saved.recipe.components[0].lines}
    with pytest.raises(StaleWrite) as caught:
        saving.save_recipe(household, replace(typed, version=1, name="Too late"))
    assert caught.value.current_version == 2


def test_every_fault_is_named_and_nothing_is_saved(household: Caller) -> None:
    typed = turkey_pot("", grams=12_000)
    with pytest.raises(InvalidInputs) as caught:
        saving.save_recipe(household, replace(typed, servings=0))
    line = typed.components[0].lines[0].id
    assert {f.field for f in caught.value.faults} == {"name", "servings", f"line-{line}-amount"}
    with pytest.raises(InvalidInputs, match="no ingredient"):
        saving.save_recipe(household, replace(typed, components=()))
    with pytest.raises(NotFound):
        library.get_recipe(household, typed.id)


def test_two_kilograms_of_salt_are_a_slip(household: Caller) -> None:
    typed = turkey_pot()
    salty = replace(typed.components[0], lines=(recipe_input.LineInput(uuid4(), "salt", 2000),))
    with pytest.raises(InvalidInputs, match="salt"):
        saving.save_recipe(household, replace(typed, components=(salty,)))


def test_a_food_nobody_knows_is_refused_and_nothing_is_half_saved(household: Caller) -> None:
    typed = turkey_pot()
    odd = replace(typed.components[0], lines=(recipe_input.LineInput(uuid4(), "unobtainium", 20),))
    with pytest.raises(NotFound):
        saving.save_recipe(household, replace(typed, components=(odd,)))
    assert library.list_recipes(household) == []


def test_a_cooked_component_may_leave_its_recipe_and_the_week_keeps_it(household: Caller) -> None:
    kitchen = furnish(household)
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    plan = picture.outcome.batches[0].plan
    cooking.start_batch(household, MONDAY, cooking.batch_id_for(picture.week.id, plan.session_key, plan.component_key))
    saving.save_recipe(household, replace(turkey_pot(version=1), id=kitchen.recipe_id))
    assert plan.component_key not in {c.key for c in library.get_recipe(household, kitchen.recipe_id).recipe.components}
    kept = weeks.week_picture(household, MONDAY)
    assert kept is not None
    assert kept.outcome.batches[0].plan == plan
    with pytest.raises(InvalidInput, match="being cooked"):
        weeks.take_new_version(household, MONDAY, kitchen.recipe_id)


def test_reference_foods_are_taken_in_once(household: Caller) -> None:
    saving.save_recipe(household, turkey_pot())
    saving.save_recipe(household, turkey_pot("Another"))
    assert own_foods.count_foods(household)[0] == 3


@pytest.mark.parametrize(
    ("query", "first"),
    [("dry barl", "Pearl barley, dry"), ("barley DRY", "Pearl barley, dry"), ("crème fraîche", "Crème fraîche")],
)
def test_foods_are_found_by_words_in_any_order_case_and_accents(household: Caller, query: str, first: str) -> None:
    names = [found.food.name for found in own_foods.find_foods(household, query)]
    assert plain(names[0]).startswith(plain(first))
    assert own_foods.find_foods(household, "no such food") == []


def test_an_eater_comes_back_and_is_saved_once(household: Caller) -> None:
    typed = eater_input(excluded_allergens=("celery",), no_pork=True, dislikes="olives")
    for _ in range(2):
        household_eaters.save_eater(household, typed)
    (eater,) = household_eaters.list_eaters(household)
    assert (eater.name, eater.excluded_allergens, eater.no_pork, eater.dislikes) == (
        "Maren",
        ("celery",),
        True,
        "olives",
    )
    assert eater.day_types[0].target.energy_kcal == 2450
    household_eaters.save_eater(household, replace(typed, version=1, name="Maren T"))
    with pytest.raises(StaleWrite):
        household_eaters.save_eater(household, replace(typed, version=1))


def test_a_very_low_target_needs_a_clinicians_confirmation(household: Caller) -> None:
    with pytest.raises(InvalidInputs, match="registered dietitian"):
        household_eaters.save_eater(household, eater_input(energy_kcal=900))
    household_eaters.save_eater(household, eater_input(energy_kcal=900, clinician_confirmed=True))
    assert household_eaters.list_eaters(household)[0].day_types[0].clinician_confirmed


def test_a_slot_that_is_removed_leaves_the_day_and_stays_in_the_weeks_that_hold_it(household: Caller) -> None:
    kitchen = furnish(household)
    supper = household_eaters.SlotInput(uuid4(), "supper", time(21, 0))
    first = household_eaters.get_eater(household, kitchen.eater_id)
    typed = replace(eater_input(version=first.version), id=kitchen.eater_id, slots=(supper,))
    household_eaters.save_eater(household, typed)
    assert [s.name for s in household_eaters.get_eater(household, kitchen.eater_id).slots] == ["supper"]
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    assert [s.name for s in picture.eaters[0].slots] == ["supper", "dinner"]
    assert len(picture.meals) == 3
    later = MONDAY + timedelta(days=7)
    weeks.open_week(household, later)
    after = weeks.week_picture(household, later)
    assert after is not None
    assert [s.name for s in after.eaters[0].slots] == ["supper"]
    lunch = replace(supper, id=uuid4(), name="lunch")
    household_eaters.save_eater(
        household, replace(typed, version=typed.version + 1, slots=(lunch,))
    )  # no meals: it goes whole
    with household.transaction() as session:
        row = session.find(EaterRow, kitchen.eater_id)
        assert row is not None
        assert [s.name for s in row.all_slots] == ["lunch", "dinner"]


def test_a_form_cannot_take_another_eaters_day_or_slot(household: Caller) -> None:
    maren, oskar = eater_input(), eater_input("Oskar")
    household_eaters.save_eater(household, maren)
    for rows in ({"day_types": maren.day_types}, {"slots": maren.slots}):
        with pytest.raises(NotFound):
            household_eaters.save_eater(household, replace(oskar, **rows))
    assert len(household_eaters.list_eaters(household)) == 1


def test_an_eater_put_aside_is_planned_for_no_more_kept_in_past_weeks_and_can_come_back(household: Caller) -> None:
    kitchen = furnish(household)
    household_eaters.put_aside(household, kitchen.eater_id, aside=True)
    assert household_eaters.list_eaters(household) == []
    assert [e.name for e in household_eaters.list_put_aside(household)] == ["Maren"]
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    assert [e.name for e in picture.eaters] == ["Maren"]
    later = MONDAY + timedelta(days=7)
    weeks.open_week(household, later)
    after = weeks.week_picture(household, later)
    assert after is not None
    assert after.eaters == []
    household_eaters.put_aside(household, kitchen.eater_id, aside=False)
    assert [e.name for e in household_eaters.list_eaters(household)] == ["Maren"]
    with pytest.raises(NotFound):
        household_eaters.put_aside(household, uuid4(), aside=True)


def test_the_session_at_hand_is_found_in_whatever_week_it_stands(household: Caller) -> None:
    """A Sunday session of next week is reached on Saturday and Sunday; weeks may begin on any day."""
    assert nearby.week_at_hand(household, MONDAY) is None
    weeks.open_week(household, MONDAY)  # cooked on Sunday the 22nd
    thursday = MONDAY + timedelta(days=10)
    weeks.open_week(household, thursday, 5)  # cooked on Wednesday the 2nd
    at_hand = {n: nearby.week_at_hand(household, MONDAY + timedelta(days=n)) for n in (-2, -1, 0, 3, 6, 8, 9, 20)}
    assert at_hand == {
        -2: MONDAY,
        -1: MONDAY,
        0: MONDAY,
        3: MONDAY,
        6: thursday,
        8: thursday,
        9: thursday,
        20: thursday,
    }
    around = nearby.nearby_sessions(household, thursday)
    assert around.earlier is not None
    assert (around.earlier.first_day, around.later) == (MONDAY, None)
    later = nearby.nearby_sessions(household, MONDAY).later
    assert later is not None
    assert later.starts_at.date() == thursday - timedelta(days=1)


def test_a_week_that_is_running_already_cooks_today_and_not_last_sunday(household: Caller) -> None:
    weeks.open_week(household, MONDAY, today=MONDAY + timedelta(days=2))
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    assert [f"{s.starts_at:%d %H:%M}" for s in picture.sessions] == ["25 14:00"]
    other = MONDAY + timedelta(days=7)
    weeks.open_week(household, other, today=MONDAY + timedelta(days=2))
    ahead = weeks.week_picture(household, other)
    assert ahead is not None
    assert [f"{s.starts_at:%d %H:%M}" for s in ahead.sessions] == ["29 14:00"]


def test_a_target_from_body_size_is_saved_with_its_way_and_comes_back(household: Caller) -> None:
    typed = eater_input(extras="200 ml whole milk\n5 g salt")
    day = replace(
        typed.day_types[0],
        way=DayWay("body", change_pct=-10, protein_way="per_kg", protein_value=1.6),
        bands=(NutrientBand("fibre_g", 30),),
    )
    slots = tuple(replace(s, share_pct=100, within_min=5) for s in typed.slots)
    body: dict[str, Any] = {"sex": "male", "age_years": 41, "height_cm": 182, "weight_kg": 84}
    household_eaters.save_eater(household, replace(typed, day_types=(day,), slots=slots, **body, conditions=()))
    eater = household_eaters.get_eater(household, typed.id)
    (saved,) = eater.day_types
    assert (saved.energy_kcal, saved.protein_floor_g, saved.bands) == (2200, 134, (NutrientBand("fibre_g", 30),))
    assert (saved.way["energy_way"], saved.way["change_pct"]) == ("body", -10)
    assert (eater.conditions, eater.weight_kg) == ((), 84)
    assert [x.text for x in eater.extras] == ["200 ml whole milk", "5 g salt"]
    assert eater.extras_tally.amount("energy_kcal").value == pytest.approx(132, abs=6)
    assert eater.extras_tally.amount("energy_kcal").standard_error > 0
    assert eater.slots[0].must_be_cold  # nobody heats a box in five minutes

    asked = replace(typed, day_types=(day,), **body, conditions=("diabetes",), version=1)
    with pytest.raises(InvalidInputs, match="we compute no target"):
        household_eaters.save_eater(household, asked)


def test_extras_shares_and_conditions_that_cannot_be_are_named(household: Caller) -> None:
    typed = eater_input()
    slot = typed.slots[0]
    for wrong, field in (
        (replace(typed, extras="200 ml moonshine"), "extras"),
        (replace(typed, extras="milk"), "extras"),
        (replace(typed, slots=(replace(slot, share_pct=60),)), "slots"),
        (replace(typed, slots=(replace(slot, within_min=999),)), f"{slot.id}-within_min"),
        (replace(typed, conditions=("bad mood",)), "conditions"),
        (replace(typed, diet="stones"), "diet"),
        (replace(typed, meal_block_kcal=5, snack_block_kcal=200), "meal_block_kcal"),
    ):
        with pytest.raises(InvalidInputs) as caught:
            household_eaters.save_eater(household, wrong)
        assert [f.field for f in caught.value.faults] == [field]
    assert household_eaters.list_eaters(household) == []


def test_who_eats_plants_only_gets_no_meat_and_no_milk(household: Caller) -> None:
    typed = eater_input(diet="plant")
    household_eaters.save_eater(household, typed)
    recipe = turkey_pot()
    saving.save_recipe(household, recipe)
    weeks.open_week(household, MONDAY)
    meal = placing.PlaceInput(uuid4(), typed.id, typed.slots[0].id, recipe.id, 1, (MONDAY,))
    with pytest.raises(InvalidInputs, match="eats plants only"):
        placing.place(household, MONDAY, meal)


def test_what_is_eaten_besides_counts_in_the_day_and_in_its_fit(household: Caller) -> None:
    kitchen = furnish(household, 3, days=3)
    before = fitting.fit(household, MONDAY).fit.days[0]
    eater = household_eaters.get_eater(household, kitchen.eater_id)
    typed = eater_input(extras="500 ml whole milk")
    day, slot = replace(typed.day_types[0], id=eater.day_types[0].id), replace(typed.slots[0], id=kitchen.slot_id)
    household_eaters.save_eater(household, replace(typed, id=eater.id, day_types=(day,), slots=(slot,), version=1))
    after = fitting.fit(household, MONDAY).fit.days[0]
    assert after.kcal_before == pytest.approx(before.kcal_before + 330, abs=15)
