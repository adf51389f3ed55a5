"""A week that is over is history: whatever is changed afterwards, it is judged by what held then."""

from dataclasses import replace
from datetime import date, timedelta
from uuid import uuid4

import pytest

from goodcrate.core.cook.batch_record import COOKED_DOWN
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.services import household as settings
from goodcrate.services import kitchen as galley
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.cook import cooking
from goodcrate.services.foods import labels
from goodcrate.services.portion import filling
from goodcrate.services.recipes import library, recipe_input, saving
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import history, placing, weeks
from goodcrate.services.week.weeks import WeekPicture
from tests.services.kitchen import MONDAY, Kitchen, furnish, set_cups

OVER = MONDAY + timedelta(days=7)
"""The first day after the week."""


@pytest.fixture
def kitchen(household: Caller) -> Kitchen:
    return furnish(household, 1.5, days=4)


def picture_of(kitchen: Kitchen) -> WeekPicture:
    picture = weeks.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    return picture


def figures(kitchen: Kitchen) -> tuple[object, ...]:
    """What a week says: its days' targets and sums, its batches, and how long its boxes keep."""
    picture = picture_of(kitchen)
    (eater,) = picture.eaters
    day_type = eater.day_type_on(0)
    boxes = [picture.outcome.boxes[str(meal.id)] for meal in picture.meals]
    return (
        day_type,
        eater.slots,
        eater.extras_tally.amount("energy_kcal"),
        [box.tally.amount(key) for box in boxes for key in ("energy_kcal", "protein_g", "fibre_g")],
        [(w.plan.cooked_g, w.outcome.state.expected_g) for w in picture.outcome.batches],
        [picture.stays[str(meal.id)].place for meal in picture.meals],
        picture.polyol_share,
    )


def change_everything(kitchen: Kitchen) -> None:
    """Another target, another name and share of its slot, other figures of its foods, another recipe, other advice."""
    caller = kitchen.caller
    eater = household_eaters.get_eater(caller, kitchen.eater_id)
    (kind,), (slot,) = eater.day_types, eater.slots
    household_eaters.save_eater(
        caller,
        household_eaters.EaterInput(
            eater.id,
            "Maren",
            (household_eaters.DayTypeInput(kind.id, "lean", 1900, 130, weekdays=(0, 1)),),
            (household_eaters.SlotInput(slot.id, "supper", slot.at),),
            version=eater.version,
        ),
    )
    label = {
        "basis": "100g",
        "fibre": "apart",
        "energy_kcal": "90",
        "fat_g": "0.2",
        "carbohydrate_g": "5",
        "protein_g": "9",
        "fibre_g": "2",
    }
    labels.save_food(caller, labels.FoodInput(uuid4(), "Cabbage", label, "raw", "vegetable", origin_key="cabbage_raw"))
    saved = library.get_input(caller, kitchen.recipe_id)
    (component,) = saved.components
    saving.save_recipe(caller, replace(saved, components=(replace(component, lines=component.lines[:1]),)))
    set_cups(caller, "us", 1.0)
    galley.save_capacity(caller, galley.Capacity(keep_rule="cautious"))


def test_a_week_that_is_over_keeps_what_it_was_judged_by(kitchen: Kitchen) -> None:
    before = figures(kitchen)
    history.close_what_is_over(kitchen.caller, OVER - timedelta(days=1))
    assert not picture_of(kitchen).week.is_closed  # its last day is not over
    history.close_what_is_over(kitchen.caller, OVER)
    assert picture_of(kitchen).week.is_closed
    change_everything(kitchen)
    assert figures(kitchen) == before
    assert picture_of(kitchen).newer == []


def test_an_open_week_follows_what_is_changed(kitchen: Kitchen) -> None:
    """Else the test above could not fail."""
    before = figures(kitchen)
    change_everything(kitchen)
    after = figures(kitchen)
    assert all(a != b for a, b in zip(before[:2], after[:2], strict=True))
    assert before[3] != after[3]
    assert before[6] != after[6]


def test_what_was_weighed_is_counted_with_the_figures_of_then(kitchen: Kitchen) -> None:
    picture = picture_of(kitchen)
    plan = picture.outcome.batches[0].plan
    batch_id = cooking.batch_id_for(picture.week.id, plan.session_key, plan.component_key)
    cooking.start_batch(kitchen.caller, MONDAY, batch_id)
    filling.weigh_pot(kitchen.caller, MONDAY, batch_id, uuid4(), 1500, 0, shortfall=COOKED_DOWN)
    filling.fill_as_divided(kitchen.caller, MONDAY, batch_id, uuid4())
    before = figures(kitchen)
    history.close_week(kitchen.caller, MONDAY)
    change_everything(kitchen)
    assert figures(kitchen) == before


def test_a_cook_closes_and_opens_a_week_until_it_is_over(kitchen: Kitchen) -> None:
    caller, before = kitchen.caller, figures(kitchen)
    for _ in range(2):  # sent twice
        history.close_week(caller, MONDAY)
    change_everything(kitchen)
    assert figures(kitchen) == before
    history.open_again(caller, MONDAY, OVER - timedelta(days=1))
    assert figures(kitchen) != before
    history.close_week(caller, MONDAY)
    with pytest.raises(InvalidInput, match="This week is closed"):
        weeks.take_new_version(caller, MONDAY, kitchen.recipe_id)
    with pytest.raises(InvalidInput, match="This week is over"):
        history.open_again(caller, MONDAY, OVER)
    with pytest.raises(NotFound):
        history.close_week(caller, date(2027, 3, 1))


def test_what_comes_into_a_closed_week_is_kept_with_it(kitchen: Kitchen) -> None:
    caller = kitchen.caller
    history.close_week(caller, MONDAY)
    line = recipe_input.LineInput(uuid4(), "bulgur_dry", 400)
    component = recipe_input.ComponentInput(uuid4(), "pot", (line,))
    recipe = recipe_input.RecipeInput(uuid4(), "Barley", 4, (component,))
    saving.save_recipe(caller, recipe)
    day = MONDAY + timedelta(days=5)
    placing.place(
        caller, MONDAY, placing.PlaceInput(uuid4(), kitchen.eater_id, kitchen.slot_id, recipe.id, 1.0, (day,))
    )
    before = figures(kitchen)
    label = {
        "basis": "100g",
        "fibre": "apart",
        "energy_kcal": "300",
        "fat_g": "1",
        "carbohydrate_g": "50",
        "protein_g": "9",
        "fibre_g": "9",
    }
    labels.save_food(caller, labels.FoodInput(uuid4(), "Barley", label, "dry", "grain", origin_key="bulgur_dry"))
    assert figures(kitchen)[3:5] == before[3:5]  # where a box waits follows the food, not its figures


def test_a_week_that_cannot_be_closed_stops_nobody(kitchen: Kitchen, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(*_: object) -> None:
        raise InvalidInput("stored", "It cannot be read.")

    monkeypatch.setattr(history, "_judged_by", broken)
    history.close_what_is_over(kitchen.caller, OVER)
    assert history.is_settled(kitchen.caller, OVER)
    assert not picture_of(kitchen).week.is_closed


def test_the_demo_keeps_its_extras_and_variants(demo: Caller) -> None:
    """Closing changes no figure: every eater, extra, variant and batch of the boat is kept as it stands."""
    picture = weeks.week_picture(demo, MONDAY)
    assert picture is not None
    with demo.transaction() as session:
        row = weeks.existing_week(session, MONDAY)
        row.judged_by = history._judged_by(session, row)
        judged = history.judged_by(row)
        session.rollback()
    assert judged is not None
    assert judged.eaters == tuple(picture.eaters)
    for recipe in picture.recipes.values():
        assert judged.recipe(recipe) == recipe


def test_settings_are_untouched_by_closing(kitchen: Kitchen) -> None:
    before = settings.settings(kitchen.caller)
    history.close_week(kitchen.caller, MONDAY)
    assert settings.settings(kitchen.caller) == before
