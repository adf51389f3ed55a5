"""A day at the table without scripts: eaten, half, left, swapped, undone; food besides; jobs ticked."""

import re
from dataclasses import replace
from datetime import date, timedelta
from uuid import UUID, uuid4

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import select

from goodcrate.core.store.box import PACKED, UNDONE
from goodcrate.core.week.meals import Meal
from goodcrate.db.store import BoxEventRow, BoxRow
from goodcrate.services.at_table import eating
from goodcrate.services.at_table.slips import moves_after
from goodcrate.services.at_table.today import TodayPicture, today_of
from goodcrate.services.calling import Caller
from goodcrate.services.recipes import saving
from goodcrate.services.store import house, pantry
from goodcrate.services.store.boxes import own_box_id
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import placing
from tests.conftest import MONDAY, Cook, text_of
from tests.services.kitchen import Kitchen, eater_input, furnish, turkey_pot
from tests.web import racing

TUESDAY = MONDAY + timedelta(days=1)


def event(**fields: str) -> dict[str, str]:
    return {"event": str(uuid4()), **fields}


def there(kitchen: Kitchen, day: date = MONDAY) -> TodayPicture:
    found = today_of(kitchen.caller, day)
    assert found is not None
    return found


def kcal(kitchen: Kitchen, day: date = MONDAY) -> tuple[float, float]:
    """What was eaten on a day, and what it comes to."""
    today = there(kitchen, day)
    at_table = today.table.day(next(e for e in today.table.picture.eaters if e.id == kitchen.eater_id), day)
    return at_table.eaten.amount("energy_kcal").value, at_table.whole.amount("energy_kcal").value


def test_a_box_is_eaten_half_or_not_and_each_is_undone(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    meal = racing.meals(kitchen)[0]
    _, planned = kcal(kitchen)
    said = f"/today/{MONDAY}/{meal}/eaten"
    assert "Turkey pot" in text_of(cook.get("/today"))
    for kind, eaten, whole, words in (
        ("eaten", planned, planned, "eaten"),
        ("half", planned / 2, planned / 2, "eaten in part"),
        ("left", 0, 0, "left for another day"),
        ("given_away", 0, 0, "given away"),
    ):
        sent = event(kind=kind)
        for _ in range(2):  # pressed twice is said once
            cook.post(said, sent)
        assert kcal(kitchen) == pytest.approx((eaten, whole), rel=1e-3)
        assert words in text_of(cook.get("/today"))
        cook.post(f"/today/{MONDAY}/undo", {"event": sent["event"]})
        assert kcal(kitchen) == pytest.approx((0, planned))
    with household.transaction() as session:
        rows = session.scalars(select(BoxEventRow).where(BoxEventRow.box_id == own_box_id(meal))).all()
    kinds = [row.kind for row in rows]
    assert kinds.count(UNDONE) == 8  # each of four, and that it was packed for it
    assert kinds.count(PACKED) == 4


def test_what_cannot_be_is_refused_at_its_place_and_nothing_is_lost(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    meal = racing.meals(kitchen)[0]
    said = f"/today/{MONDAY}/{meal}/eaten"
    for grams, words in (("-5", "cannot be negative"), ("9999", "There are"), ("much", ""), ("", "")):
        refused = cook.post(said, event(kind="part_eaten", grams=grams), expect=422).text
        assert words in text_of(refused)
        assert f'value="{grams}"' in refused
    assert "Why was it thrown away?" in text_of(cook.post(said, event(kind="thrown_away", why=""), expect=422).text)
    cook.post(said, event(kind="vanished"), expect=422)
    cook.post(said, event(kind="eaten"))
    again = cook.post(said, event(kind="eaten"), expect=422).text
    assert "not in the house" in text_of(again)
    cook.post(f"/today/{MONDAY}/{uuid4()}/eaten", event(kind="eaten"), expect=404)
    assert kcal(kitchen)[0] == pytest.approx(kcal(kitchen)[1])


def two_days(household: Caller) -> tuple[Kitchen, UUID, Meal]:
    """A kitchen with a pot on Monday and a smaller one on Tuesday: Monday's meal by its id, and Tuesday's."""
    kitchen = furnish(household, days=1)
    soup = turkey_pot("Small pot", 600)
    saving.save_recipe(household, soup)
    placing.place(
        household, MONDAY, placing.PlaceInput(uuid4(), kitchen.eater_id, kitchen.slot_id, soup.id, 1, (TUESDAY,))
    )
    tuesday = next(m for m in there(kitchen).table.picture.meals if m.recipe_id == soup.id)
    return kitchen, racing.meals(kitchen)[0], tuesday


def test_a_box_is_swapped_given_and_thrown_away_from_its_page_and_its_week(cook: Cook, household: Caller) -> None:
    kitchen, meal, tuesday = two_days(household)
    before = (*kcal(kitchen), *kcal(kitchen, TUESDAY))
    swapped = (*before[2:], *before[:2])
    page, in_week = f"/box/{own_box_id(meal)}", f"/week/{MONDAY}?box={meal}"
    for shown, sends, fields in (
        (page, f"{page}/swap", {}),
        (in_week, f"/today/{MONDAY}/{meal}/swap", {"back": "week"}),
    ):
        assert "Maren, Tue" in text_of(cook.get(shown))
        sent = event(other=str(tuesday.id), **fields)
        for _ in range(2):
            assert cook.post(sends, sent).headers["location"] == shown
        assert (*kcal(kitchen), *kcal(kitchen, TUESDAY)) == pytest.approx(swapped)
        refused = cook.post(sends, event(other="", **fields), expect=422)
        assert "No meal is chosen." in text_of(refused.text)
        cook.post(f"{page}/undo", {"event": sent["event"]})
        assert (*kcal(kitchen), *kcal(kitchen, TUESDAY)) == pytest.approx(before)
    for kind in ("given_away", "thrown_away"):
        sent = event(kind=kind, why="spilt", back="week")
        cook.post(f"/today/{MONDAY}/{meal}/eaten", sent)
        assert kind.replace("_", " ") in text_of(cook.get(in_week)).lower()
        refused = cook.post(f"/today/{MONDAY}/{meal}/eaten", event(kind="eaten", back="week"), expect=422)
        assert "not in the house" in text_of(refused.text)
        cook.post(f"/today/{MONDAY}/undo", {"event": sent["event"], "back": "week", "meal": str(meal)})
    assert (*kcal(kitchen), *kcal(kitchen, TUESDAY)) == pytest.approx(before)


def test_two_days_swap_their_boxes_and_one_undo_takes_both_back(cook: Cook, household: Caller) -> None:
    kitchen, meal, tuesday = two_days(household)
    before = (*kcal(kitchen), *kcal(kitchen, tuesday.day))
    assert before[:2] != before[2:]
    sent = event(other=str(tuesday.id))
    for _ in range(2):
        cook.post(f"/today/{MONDAY}/{meal}/swap", sent)
    assert (*kcal(kitchen), *kcal(kitchen, tuesday.day)) == pytest.approx((*before[2:], *before[:2]))
    assert "swapped with Maren’s Tuesday" in text_of(cook.get("/today"))
    read = cook.get(f"/today?day={tuesday.day}")
    undo = re.search(r"/undo.*?name=\"event\" value=\"([^\"]+)\"", read, re.DOTALL)
    assert undo is not None
    cook.post(f"/today/{MONDAY}/undo", {"event": undo[1]})  # from the other day's card
    assert (*kcal(kitchen), *kcal(kitchen, tuesday.day)) == pytest.approx(before)
    cook.post(f"/today/{MONDAY}/{meal}/swap", event(other=str(meal)), expect=422)
    cook.post(f"/today/{MONDAY}/{meal}/swap", event(other=""), expect=422)


def test_nobody_is_offered_or_given_a_box_they_must_not_get(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    oskar = eater_input("Oskar", diet="plant")
    household_eaters.save_eater(household, oskar)
    pot = turkey_pot("Cabbage pot")
    beans = replace(pot, components=(replace(pot.components[0], lines=pot.components[0].lines[1:]),))
    saving.save_recipe(household, beans)
    placing.place(household, MONDAY, placing.PlaceInput(uuid4(), oskar.id, oskar.slots[0].id, beans.id, 1, (MONDAY,)))
    theirs = next(m for m in there(kitchen).table.picture.meals if m.eater_id == oskar.id)
    assert "Oskar, Mon" not in text_of(cook.get(f"/today?eater={kitchen.eater_id}"))
    refused = cook.post(f"/today/{MONDAY}/{racing.meals(kitchen)[0]}/swap", event(other=str(theirs.id)), expect=422)
    assert "eats plants only" in text_of(refused.text)


def test_food_besides_counts_at_once_and_is_taken_back_once(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    _, planned = kcal(kitchen)
    mine = {"eater": str(kitchen.eater_id), "day": str(MONDAY)}
    sent = event(typed="100 g rapeseed oil", **mine)
    for _ in range(2):
        cook.post("/today/off-plan", sent)
    cook.post("/today/off-plan", event(typed="cake, 350 kcal", **mine))
    oil = kcal(kitchen)[1] - planned - 350
    assert oil == pytest.approx(900, rel=0.03)
    assert "350 ± 88 kcal" in text_of(cook.get("/today"))
    for wrong in ("", "something nice", "-3 g quark"):
        refused = cook.post("/today/off-plan", event(typed=wrong, **mine), expect=422).text
        assert wrong in refused
    for _ in range(2):
        cook.post(f"/today/off-plan/{sent['event']}/back", mine)
    assert kcal(kitchen)[1] == pytest.approx(planned + 350)
    cook.post("/today/off-plan", event(typed="cake, 350 kcal", eater=str(uuid4())), expect=404)


def test_a_day_that_is_short_may_eat_from_the_house_and_there_is_less_of_it(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    thing = uuid4()
    house.put_in(household, house.ThingInput(thing, "fridge", MONDAY, typed="200 g quark"))
    cook.post(f"/today/{MONDAY}/{racing.meals(kitchen)[0]}/eaten", event(kind="left"))
    read = cook.get("/today")
    assert "besides" in text_of(read)
    offered = re.search(r'name="thing" value="([^"]+)".*?name="grams" value="([^"]+)"', read, re.DOTALL)
    assert offered is not None
    assert offered[1] == str(thing)
    sent = event(thing=offered[1], grams="150", eater=str(kitchen.eater_id), day=str(MONDAY))
    for _ in range(2):
        cook.post("/today/off-plan", sent)
    with household.transaction() as session:
        ((_, _, kept),) = [k for k in pantry.food_kept(session) if k[0].id == thing]
    assert kept.grams == pytest.approx(50)
    more = cook.post("/today/off-plan", event(thing=str(thing), grams="60", eater=str(kitchen.eater_id)), expect=422)
    assert "There are 50 g of it." in text_of(more.text)
    cook.post(f"/today/off-plan/{sent['event']}/back", {})
    with household.transaction() as session:
        ((_, _, kept),) = [k for k in pantry.food_kept(session) if k[0].id == thing]
    assert kept.grams == pytest.approx(200)


def test_jobs_are_ticked_and_a_box_that_thaws_is_in_the_fridge(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household, days=7)
    sunday = MONDAY + timedelta(days=6)
    today = there(kitchen, sunday - timedelta(days=1))
    thaws = [m for m in today.table.picture.meals if today.table.picture.stays[str(m.id)].thaw_on == today.day]
    assert thaws
    address = f"/today?day={today.day}"
    assert "freezer to fridge" in text_of(cook.get(address))
    eating.say_eaten(household, MONDAY, thaws[0].id, kept := uuid4(), eating.Said("part_eaten", grams=5))
    eating.undo_said(household, MONDAY, kept)
    subject = f"thaw:{thaws[0].id}"
    cook.post("/today/done", event(subject=subject, is_done="1", day=str(today.day)))
    assert 'aria-pressed="true"' in cook.get(address)
    cook.post("/today/done", event(subject=subject, is_done="0", day=str(today.day)))
    assert 'aria-pressed="true"' not in cook.get(address)
    cook.post("/today/done", event(subject="rob:the bank", is_done="1"), expect=404)


def test_a_box_is_eaten_from_its_week_too(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    meal = racing.meals(kitchen)[0]
    in_week = f"/week/{MONDAY}?box={meal}"
    assert ">Half</button>" in cook.get(in_week)
    assert ">Half</button>" not in cook.get(f"/week/{MONDAY}?box={racing.meals(kitchen)[1]}"), "tomorrow is to come"
    sent = event(kind="half", back="week")
    answer = cook.post(f"/today/{MONDAY}/{meal}/eaten", sent)
    assert answer.headers["location"] == in_week
    assert "Eaten in part" in text_of(cook.get(in_week))
    back = cook.post(f"/today/{MONDAY}/undo", {"event": sent["event"], "back": "week", "meal": str(meal)})
    assert back.headers["location"] == in_week
    assert ">Half</button>" in cook.get(in_week)


def test_what_goes_on_the_plate_is_weighed_there_and_counts(cook: Cook, household: Caller) -> None:
    """40 g of oil in six servings are 6.7 g on a plate, 8.84 kcal in each: 12 g are so much more, half of it half."""
    kitchen = furnish(household)
    meal, line = racing.meals(kitchen)[0], str(racing.on_the_day(kitchen))
    _, planned = kcal(kitchen)
    oil = next(
        x.food for x in there(kitchen).table.recipe(there(kitchen).table.plates[str(meal)]).components[0].lines[2:]
    )
    per_g = (oil.composition.get("energy_kcal") or 0.0) / 100
    assert "weigh 7 g" in text_of(cook.get("/today"))
    said = f"/today/{MONDAY}/{meal}/weighed"
    assert 'value="-3"' in cook.post(said, event(line=line, weighed="-3"), expect=422).text
    sent = event(line=line, weighed="12", ticks=f"now:{meal}:line:{line}")
    for _ in range(2):
        cook.post(said, sent)
    more = (12 - 40 / 6) * per_g
    assert kcal(kitchen)[1] == pytest.approx(planned + more)
    page = cook.get("/today")
    assert "12 g weighed" in text_of(page)
    assert 'aria-pressed="true"' in page
    cook.post(f"/today/{MONDAY}/{meal}/eaten", event(kind="half"))
    assert kcal(kitchen) == pytest.approx(((planned + more) / 2,) * 2, rel=1e-3)  # half a box, to 0.1 g
    cook.post(said, event(line=line, as_planned="1"))
    assert kcal(kitchen)[0] == pytest.approx(planned / 2, rel=1e-3)
    assert "cannot be negative" in text_of(cook.post(said, event(line=line, weighed="-3"), expect=422).text), (
        "though it is eaten"
    )
    cook.post(said, event(line=str(kitchen.line_ids[0]), weighed="3"), expect=404)
    cook.post(f"/today/{MONDAY}/{uuid4()}/weighed", event(line=line, weighed="3"), expect=404)


def test_what_is_for_the_night_is_weighed_the_evening_before(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    tuesday, line = racing.meals(kitchen)[1], str(racing.on_the_day(kitchen, "night_before"))
    _, planned = kcal(kitchen, TUESDAY)
    assert "Put in 7 g rapeseed oil" in text_of(cook.get("/today"))
    cook.post(f"/today/{MONDAY}/{tuesday}/weighed", event(line=line, weighed="0"))
    assert "0 g weighed" in text_of(cook.get("/today"))
    assert kcal(kitchen, TUESDAY)[1] < planned - 50


def test_days_without_a_week_or_a_meal_teach(cook: Cook, household: Caller) -> None:
    assert "No week holds this day yet" in text_of(cook.get("/today"))
    kitchen = furnish(household, days=1)
    assert kitchen
    assert "has no meal on this day yet" in text_of(cook.get(f"/today?day={TUESDAY}"))
    assert "No week holds" in text_of(cook.get("/today?day=1999-01-01"))
    assert "Turkey pot" in text_of(cook.get("/today?day=nonsense"))


def test_whose_phone_it_is_is_remembered(cook: Cook, household: Caller, client: TestClient) -> None:
    furnish(household)
    oskar = eater_input("Oskar")
    household_eaters.save_eater(household, oskar)
    assert "Maren has" not in text_of(cook.get(f"/today?eater={oskar.id}"))
    assert "Oskar has no meal" in text_of(cook.get("/today"))
    assert UUID(client.cookies["eats"]) == oskar.id


def test_moves_leave_alone_what_is_past_its_date_and_a_clinicians_target(cook: Cook, household: Caller) -> None:
    """Monday's box may be eaten smaller after a cake; Wednesday's, whose last day is Monday, is in no move."""
    kitchen = furnish(household)
    cook.post(f"/portion/{racing.weighed(cook, kitchen)}/fill", event())
    wednesday = MONDAY + timedelta(days=2)
    with household.transaction() as session:
        box = session.find(BoxRow, own_box_id(racing.meals(kitchen)[2]))
        assert box is not None
        box.until = MONDAY
    for day in (MONDAY, wednesday):
        sent = event(typed="cake, 2400 kcal", eater=str(kitchen.eater_id), day=str(day))
        cook.post("/today/off-plan", sent)

    def kinds(day: date, energy_kcal: float) -> set[str]:
        today = there(kitchen, day)
        (eater,) = today.table.picture.eaters
        types = tuple(replace(d, energy_kcal=energy_kcal, protein_floor_g=0) for d in eater.day_types)
        return {move.kind for move in moves_after(today, replace(eater, day_types=types))}

    assert "less" in kinds(MONDAY, 2450)
    assert kinds(wednesday, 2450).isdisjoint({"less", "swap"})
    assert kinds(MONDAY, 900) == set()


def test_a_day_beyond_all_weeks_is_today(cook: Cook) -> None:
    for day in ("9999-12-31", "0001-01-01", "no day"):
        assert "23 November" in text_of(cook.get(f"/today?day={day}"))
