"""Targets of one week: the week is judged, fitted and placed by them, and the household's own stay."""

from uuid import uuid4

from goodcrate.services.calling import Caller
from goodcrate.services.targets.household_eaters import list_eaters
from goodcrate.services.week import fitting, history, weeks
from tests.conftest import MONDAY, Cook, text_of
from tests.hostile import forms_of
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


def test_the_mean_of_the_week_counts_where_it_is_asked_for(cook: Cook, household: Caller) -> None:
    """Three dinners a twentieth over: alone the days are out; with room they are in, and the mean is what is fitted."""
    whose = furnish(household, servings=4.5).eater_id
    page = f"/targets/{whose}"
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    kcal = next(iter(picture.outcome.boxes.values())).tally.amount("energy_kcal").value

    def save(room: str, expect: int = 303, share: float = 0.95) -> str:
        sent = dict(forms_of(page, cook.get(page))[page].fields)
        aimed = {name: f"{kcal * share:.0f}" for name, value in sent.items() if value and name.endswith("-energy_kcal")}
        return text_of(cook.post(page, {**sent, **aimed, "day_room_pct": room}, expect=expect).text)

    assert "A day off by 60 % is not possible." in save("60", expect=422)
    assert "no day under 1,000 kcal is planned" in save("25", expect=422, share=1150 / kcal)
    save("")
    assert "The week’s mean: " in text_of(cook.get(f"/today?day={MONDAY}"))
    assert "0 of 3 days in band" in text_of(cook.get(THERE))
    save("15")
    told = text_of(cook.get("/targets"))
    assert "The week’s mean counts:" in told
    assert "A single day may be off by 15 %." in told
    shown = text_of(cook.get(THERE))
    assert "3 of 3 days in band" in shown
    assert "mean +5.3 %, over by" in shown
    assert "The week’s mean counts:" in text_of(cook.get(f"/today?day={MONDAY}"))
    [mean] = fitting.fit(household, MONDAY).fit.means
    assert (mean.was_met, mean.is_met) == (False, True)
    assert "the week’s mean:" in text_of(cook.get(f"{THERE}/fit"))
