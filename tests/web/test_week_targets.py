"""Targets of one week: the week is judged, fitted and placed by them, and the household's own stay."""

from uuid import uuid4

from goodcrate.services.calling import Caller
from goodcrate.services.targets.household_eaters import list_eaters
from goodcrate.services.week import history, weeks
from tests.conftest import MONDAY, Cook, text_of
from tests.services.kitchen import furnish
from tests.web import racing

THERE = f"/week/{MONDAY}"


def test_one_day_is_bigger_and_only_this_week(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    whose = str(kitchen.eater_id)
    sent = {"eater": whose, "day": "1", "energy_kcal": "+300", "id": str(uuid4())}
    for _ in range(2):
        cook.post(f"{THERE}/targets", sent)
    assert "Tue: +300 kcal" in text_of(cook.get(f"{THERE}/targets"))
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    energies = [picture.eaters[0].day_type_on(day).energy_kcal for day in (0, 1, 2)]  # type: ignore[union-attr]
    assert energies == [2450, 2750, 2450]
    assert list_eaters(household)[0].day_type_on(1).energy_kcal == 2450  # type: ignore[union-attr]
    assert "of 2,750 kcal" in text_of(cook.get("/today?day=2026-11-24"))
    history.close_week(household, MONDAY)  # judged by what it was
    closed = weeks.week_picture(household, MONDAY)
    assert closed is not None
    assert closed.eaters[0].day_type_on(1).energy_kcal == 2750  # type: ignore[union-attr]


def test_plants_only_this_week_refuses_meat_and_is_taken_back(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household, days=1)
    change_id = str(uuid4())
    cook.post(f"{THERE}/targets", {"eater": str(kitchen.eater_id), "plants_only": "1", "id": change_id})
    sent = {"gap": racing.slot(kitchen, 2), "recipe": str(kitchen.recipe_id), "days": "2026-11-25", "servings": "1"}
    refused = cook.post(f"{THERE}/place", {**sent, "id": str(uuid4())}, expect=422).text
    assert "eats plants only" in text_of(refused)
    cook.post(f"{THERE}/targets/{change_id}/back", {})
    cook.post(f"{THERE}/place", {**sent, "id": str(uuid4())})
    assert "everybody’s own targets hold" in text_of(cook.get(f"{THERE}/targets"))


def test_bad_figures_are_refused_and_kept(cook: Cook, household: Caller) -> None:
    whose = str(furnish(household).eater_id)
    for wrong in ({"energy_kcal": "lots"}, {"energy_kcal": "-2000"}, {"band": "fat_g", "band_by": "15"}):
        typed = {"eater": whose, "id": str(uuid4()), **wrong}
        refused = cook.post(f"{THERE}/targets", typed, expect=422).text
        assert all(f'value="{value}"' in refused for value in wrong.values())
    cook.post(f"{THERE}/targets", {"eater": whose, "band": "fat_g"}, expect=422)
    cook.post(f"{THERE}/targets", {"eater": str(uuid4()), "energy_kcal": "+10"}, expect=404)
