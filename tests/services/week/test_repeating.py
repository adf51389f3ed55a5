"""Weeks repeated into gaps: last week, a pattern, moved on by days, one kind of dish for another."""

from datetime import timedelta
from uuid import UUID, uuid4

import pytest

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.recipes.exchanging import kind_of
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.recipes import library, saving
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import choosing, placing, repeating, weeks
from goodcrate.services.week.repeating import Repeat
from tests.services.kitchen import MONDAY, furnish, turkey_pot

NEXT = MONDAY + timedelta(days=7)


def days_of(caller: Caller, first_day: object = NEXT) -> list[int]:
    picture = weeks.week_picture(caller, first_day)  # type: ignore[arg-type]
    assert picture is not None
    return [(p.day - NEXT).days for p in picture.meals]


def test_last_week_comes_into_the_gaps_and_what_stands_stays(household: Caller) -> None:
    kitchen = furnish(household, 1.5, days=3)
    weeks.open_week(household, NEXT)
    mine = placing.PlaceInput(uuid4(), kitchen.eater_id, kitchen.slot_id, kitchen.recipe_id, 0.7, (NEXT,))
    (own,) = placing.place(household, NEXT, mine)
    assert repeating.sources(household, NEXT).weeks == ((MONDAY, 3),)
    done = repeating.repeat(household, NEXT, Repeat(MONDAY.isoformat()))
    assert (len(done.placed), done.left_out) == (2, ())
    picture = weeks.week_picture(household, NEXT)
    assert picture is not None
    assert [p.servings for p in picture.meals] == [0.7, 1.5, 1.5]
    assert picture.meals[0].id == own
    choosing.take_out(household, NEXT, done.placed)
    assert days_of(household) == [0]


def test_days_are_shifted_and_those_that_fall_out_are_left(household: Caller) -> None:
    furnish(household, 1, days=3)
    weeks.open_week(household, NEXT)
    assert len(repeating.repeat(household, NEXT, Repeat(MONDAY.isoformat(), 5)).placed) == 2
    assert days_of(household) == [5, 6]
    repeating.repeat(household, NEXT, Repeat(MONDAY.isoformat(), -2))
    assert days_of(household) == [0, 5, 6]


def test_a_pattern_keeps_a_week_and_is_repeated_from_any(household: Caller, neighbour: Caller) -> None:
    kitchen = furnish(household, 1.2, days=2)
    pattern = uuid4()
    for _ in range(2):
        repeating.save_pattern(household, MONDAY, pattern, "  short week ")
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    choosing.take_out(household, MONDAY, [p.id for p in picture.meals])
    assert repeating.sources(household, NEXT).patterns == ((pattern, "short week", 2),)
    assert len(repeating.repeat(household, MONDAY, Repeat(str(pattern))).placed) == 2
    weeks.open_week(neighbour, MONDAY)
    with pytest.raises(NotFound):
        repeating.repeat(neighbour, MONDAY, Repeat(str(pattern)))
    repeating.remove_pattern(household, pattern)
    with pytest.raises(NotFound):
        repeating.repeat(household, MONDAY, Repeat(str(pattern)))
    with pytest.raises(InvalidInput, match="needs a name"):
        repeating.save_pattern(household, MONDAY, uuid4(), " ")
    assert household_eaters.get_eater(household, kitchen.eater_id).name == "Maren"


def test_same_again_with_fish_instead_of_poultry_keeps_energy_and_exclusions(demo: Caller) -> None:
    first, other = MONDAY + timedelta(days=70), MONDAY + timedelta(days=77)
    weeks.open_week(demo, first)
    maren = next(e for e in household_eaters.list_eaters(demo) if e.name.startswith("Maren"))
    dinner = next(s for s in maren.slots if s.name == "dinner")
    every = library.list_recipes(demo)
    turkey = next(p for p in every if p.recipe.name.startswith("Turkey"))
    meal = placing.PlaceInput(uuid4(), maren.id, dinner.id, UUID(turkey.recipe.key), 1, (first,))
    placing.place(demo, first, meal)
    weeks.open_week(demo, other)
    done = repeating.repeat(demo, other, Repeat(first.isoformat(), instead_of="poultry", take="fish"))
    assert len(done.placed) == 1
    before, after = weeks.week_picture(demo, first), weeks.week_picture(demo, other)
    assert before is not None
    assert after is not None
    (old,), (new,) = before.meals, after.meals
    assert kind_of(after.recipes[str(new.recipe_id)]) == "fish"
    kcal = [p.outcome.boxes[str(row.id)].tally.amount("energy_kcal").value for p, row in ((before, old), (after, new))]
    assert kcal[1] == pytest.approx(kcal[0], rel=0.01)
    for odd in (
        Repeat(first.isoformat(), 40),
        Repeat(first.isoformat(), take="fish"),
        Repeat(first.isoformat(), instead_of="stone", take="fish"),
    ):
        with pytest.raises(InvalidInputs):
            repeating.repeat(demo, other, odd)
    choosing.take_out(demo, other, done.placed)
    none = repeating.repeat(demo, other, Repeat(first.isoformat(), instead_of="poultry", take="pork"))
    assert none.placed == ()
    assert "No recipe with pork can stand in Maren’s dinner" in none.left_out[0]


def test_what_an_eater_must_not_get_any_more_is_left_out_and_said(household: Caller) -> None:
    furnish(household, 1, days=1)
    weeks.open_week(household, NEXT)
    recipe = turkey_pot()
    saving.save_recipe(household, recipe)
    eater = household_eaters.list_eaters(household)[0]
    typed = household_eaters.EaterInput(
        eater.id,
        eater.name,
        tuple(household_eaters.DayTypeInput(d.id, d.name, d.energy_kcal, d.protein_floor_g) for d in eater.day_types),
        tuple(household_eaters.SlotInput(s.id, s.name, s.at) for s in eater.slots),
        diet="vegetarian",
        version=1,
    )
    household_eaters.save_eater(household, typed)
    done = repeating.repeat(household, NEXT, Repeat(MONDAY.isoformat()))
    assert done.placed == ()
    assert "eats no meat and no fish" in done.left_out[0]
