"""A week's portions fitted, kept, and put back."""

from dataclasses import replace
from typing import Any
from uuid import uuid4

import pytest

from goodcrate.core.targets.day_target import NutrientBand
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.cook import cooking
from goodcrate.services.portion import filling
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import choosing, fitting, weeks
from tests.services.kitchen import MONDAY, eater_input, furnish


def servings(caller: Caller) -> set[float]:
    picture = weeks.week_picture(caller, MONDAY)
    assert picture is not None
    return {p.servings for p in picture.meals}


def aim_at(caller: Caller, energy_kcal: float, bands: tuple[NutrientBand, ...] = (), **facts: Any) -> None:
    """Another target for the one eater, with the same slot."""
    eater = household_eaters.list_eaters(caller)[0]
    slot = household_eaters.SlotInput(eater.slots[0].id, "dinner", eater.slots[0].at)
    typed = eater_input(energy_kcal=energy_kcal, **facts)
    typed = replace(typed, day_types=(replace(typed.day_types[0], bands=bands),))
    household_eaters.save_eater(caller, replace(typed, id=eater.id, version=eater.version, slots=(slot,)))


def test_nothing_is_fitted_to_a_target_under_a_thousand(household: Caller) -> None:
    furnish(household, servings=2.0)
    aim_at(household, 800, clinician_confirmed=True)
    shown = fitting.fit(household, MONDAY)
    assert (shown.days, shown.moves) == (0, ())


def test_a_fit_is_shown_taken_kept_or_put_back(household: Caller) -> None:
    furnish(household, servings=3.5)
    aim_at(household, 1050)
    shown = fitting.fit(household, MONDAY)
    assert (shown.days, shown.met_before, shown.fit.days_met) == (3, 0, 3)
    [move] = shown.moves
    assert (move.boxes, move.after_g % 5) == (3, 0)
    assert servings(household) == {3.5}
    assert fitting.take_fit(household, MONDAY) == 1
    [fitted] = servings(household)
    assert fitted == pytest.approx(move.servings, abs=1e-6)
    assert fitting.fit(household, MONDAY).moves == ()
    fitting.settle_fit(household, MONDAY, keep=False)
    assert servings(household) == {3.5}
    fitting.take_fit(household, MONDAY)
    fitting.settle_fit(household, MONDAY, keep=True)
    fitting.settle_fit(household, MONDAY, keep=False)  # kept is kept
    assert servings(household) == {fitted}
    with pytest.raises(NotFound):
        fitting.fit(household, MONDAY.replace(day=2))


def test_a_fit_keeps_other_bands_whole_blocks_and_what_is_pinned(household: Caller) -> None:
    furnish(household, servings=3.5)
    aim_at(household, 1050, bands=(NutrientBand("fat_g", None, 1.0),))
    shown = fitting.fit(household, MONDAY)
    assert shown.fit.days_met == 0
    assert all(dict(d.missed).get("fat_g", 0) > 0.5 for d in shown.fit.days)  # no portion has so little fat

    aim_at(household, 1050)
    free = fitting.fit(household, MONDAY).moves[0].after_kcal
    aim_at(household, 1050, meal_block_kcal=500.0, snack_block_kcal=460.0)
    blocks = fitting.fit(household, MONDAY)
    assert [m.after_kcal for m in blocks.moves] == [pytest.approx(1000, abs=6)]  # two meals come nearest to the band
    assert free == pytest.approx(1050, rel=0.031)

    aim_at(household, 1050)
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    first = picture.meals[0]
    choosing.pin(household, MONDAY, [first.id], on=True)
    pinned = fitting.fit(household, MONDAY)
    assert [m.boxes for m in pinned.moves] == [2]
    fitting.take_fit(household, MONDAY)
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    assert {p.id for p in picture.meals if p.servings == 3.5} == {first.id}


def test_what_is_divided_already_is_not_moved_and_days_with_gaps_are_left_out(household: Caller) -> None:
    furnish(household, servings=1.0)
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    plan = picture.outcome.batches[0].plan
    batch_id = cooking.batch_id_for(picture.week.id, plan.session_key, plan.component_key)
    filling.weigh_pot(household, MONDAY, batch_id, uuid4(), 1700, 1000, shortfall="cooked_down")
    shown = fitting.fit(household, MONDAY)
    assert shown.moves == ()
    assert shown.days == 3
    eater = household_eaters.list_eaters(household)[0]
    slots = (
        household_eaters.SlotInput(eater.slots[0].id, "dinner", eater.slots[0].at),
        household_eaters.SlotInput(uuid4(), "lunch", eater.slots[0].at.replace(hour=12)),
    )
    household_eaters.save_eater(household, replace(eater_input(), id=eater.id, version=eater.version, slots=slots))
    shown = fitting.fit(household, MONDAY)
    assert (shown.days, shown.gaps) == (0, 3)
