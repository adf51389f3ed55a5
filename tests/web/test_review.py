"""A week looked back on: days on their beams, why one is as it is, what the days brought; and what is not known."""

import csv
import io
import re
from dataclasses import replace
from datetime import date, timedelta
from uuid import uuid4

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import update

from goodcrate.core.week.meals import Meal
from goodcrate.db.targets import EaterRow
from goodcrate.services.at_table import eating, off_plan
from goodcrate.services.calling import Caller
from goodcrate.services.recipes import library, recipe_input, saving
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import placing, weeks
from tests.conftest import MONDAY, Cook, text_of
from tests.services.kitchen import furnish
from tests.web import racing

THERE = f"/review/{MONDAY}"


def bars_on(page: str) -> tuple[float, list[float], float]:
    """A day's bars as they are read: planned, each step, eaten."""
    table = text_of(page[page.index('class="bars"') :].split("</table>", maxsplit=1)[0])
    planned, eaten = (
        float(n.replace(",", "")) for n in re.findall(r"(?:planned|eaten) ([\d,.]+) (?:kcal|g|mg)", table)
    )
    return (
        planned,
        [float(n.replace(",", "").replace("−", "-")) for n in re.findall(r" ([+−][\d,.]+)(?: |$)", table)],
        eaten,
    )


def test_a_day_shows_how_it_came_about_to_the_last_kcal(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    first, second = racing.meals(kitchen)[:2]
    assert cook.client.get("/review", follow_redirects=False).headers["location"] == THERE
    assert "nothing said of it yet" in text_of(cook.get(THERE))
    assert "Say on Today what was eaten" in text_of(cook.get(THERE))
    eating.say_eaten(household, MONDAY, first, uuid4(), eating.Said("part_eaten", share=0.5))
    off_plan.note(household, kitchen.eater_id, MONDAY, uuid4(), "cake, 350 kcal")
    eating.say_eaten(household, MONDAY, second, uuid4(), eating.Said("given_away"))
    page = cook.get(f"{THERE}?day={kitchen.eater_id}.{MONDAY}")
    read = text_of(page)
    for words in ("Why Maren’s Monday was short", "g left", "cake, 350 kcal", "What the days brought"):
        assert words in read
    planned, steps, eaten = bars_on(page)
    assert len(steps) == 2
    assert planned + sum(steps) == eaten
    assert "dinner: given away" in text_of(cook.get(f"{THERE}?day={kitchen.eater_id}.{MONDAY.replace(day=24)}"))
    assert "not known" in read
    assert re.search(r"Iron .*? of (8|18)", read), "what is asked of any adult, or of this one"


def test_a_day_that_is_not_over_is_not_judged(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    off_plan.note(household, kitchen.eater_id, MONDAY, uuid4(), "cake, 350 kcal")
    read = text_of(cook.get(THERE))
    assert re.search(r"350 of [\d,]+ kcal so far", read)
    assert "What the days brought" not in read, "no day is over"


def test_where_no_week_is_the_page_teaches(cook: Cook) -> None:
    assert "each day stands here on its beam" in text_of(cook.get("/review"))
    assert "each day stands here on its beam" in text_of(cook.get("/review/2030-01-07"))


def placed_in(caller: Caller, days_later: int) -> list[Meal]:
    """The meals of the week that starts so many days later."""
    picture = weeks.week_picture(caller, MONDAY + timedelta(days=days_later))
    assert picture is not None
    return list(picture.meals)


def eat_all(cook: Cook) -> str:
    """Say on the review that all was eaten; where that leads."""
    found = re.search(r'name="event" value="([^"]+)"', cook.get(THERE))
    assert found is not None
    return cook.post(f"{THERE}/eaten", {"event": found[1]}).headers["location"]


def test_a_whole_week_is_eaten_by_one_click_and_back(cook: Cook, household: Caller, client: TestClient) -> None:
    furnish(household)
    assert isinstance(client.app, FastAPI)
    client.app.state.clock = lambda: MONDAY + timedelta(days=1)
    assert "Nothing is said of 2 boxes up to today" in text_of(cook.get(THERE))
    there = cook.get(eat_all(cook))
    assert "The rest was eaten as it was packed" in text_of(there)
    assert "Nothing is said of" not in text_of(there)
    assert "nothing said of it yet" in text_of(there), "the third day is to come"
    event = re.search(r'name="event" value="([^"]+)"', there)
    assert event is not None
    cook.post(f"{THERE}/eaten/undo", {"event": event[1]})
    assert "Nothing is said of 2 boxes up to today" in text_of(cook.get(THERE))


def test_any_nutrient_has_its_steps_and_its_sources(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    eating.say_eaten(household, MONDAY, racing.meals(kitchen)[0], uuid4(), eating.Said("part_eaten", share=0.25))
    for nutrient, unit in (("protein_g", "g"), ("sodium_mg", "mg")):
        page = cook.get(f"{THERE}?of={nutrient}&what={kitchen.eater_id}.{nutrient}")
        planned, steps, eaten = bars_on(page)
        assert round(planned + sum(steps), 1) == eaten
        assert f"{unit}" in page
    tape = text_of(page[page.index("<aside") :])
    assert "turkey thigh" in tape
    assert "asked for 1,500" in tape
    assert "Sex or age is not given" in tape
    read = text_of(cook.get(f"{THERE}?on={MONDAY}"))
    assert "What Monday brought" in read
    assert "of the protein came from turkey thigh" in read


def test_a_proposal_is_taken_and_taken_back(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    key = racing.proposal(kitchen)
    read = text_of(cook.get(THERE))
    found = re.search(r"Maren: Turkey pot of (\d+) g, not (\d+)", read)
    assert found is not None
    half, whole = found[1], found[2]
    assert abs(int(whole) - 2 * int(half)) <= 1, "half of each was eaten"
    assert "Use in week 49" in read
    cook.post(f"{THERE}/take", {"proposal": key})
    assert "✓ in week 49" in text_of(cook.get(THERE))
    assert [round(m.servings, 6) for m in placed_in(household, 7)] == [0.5, 0.5]
    assert all(m.is_pinned for m in placed_in(household, 7)), "no fit and no plan makes them larger again"
    cook.post(f"{THERE}/take/undo", {"proposal": key})
    assert "✓ in week 49" not in text_of(cook.get(THERE))
    assert [(m.servings, m.is_pinned) for m in placed_in(household, 7)] == [(1.0, False)] * 2
    cook.post(f"{THERE}/take", {"proposal": "smaller:nobody:nothing"}, expect=404)
    cook.post(f"{THERE}/take/undo", {"proposal": "yield:nothing"}, expect=404)


def test_what_was_changed_since_is_not_taken_back_in_silence(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    key = racing.taken(kitchen)
    meal = placed_in(household, 7)[0]
    placing.change_servings(household, meal.id, 0.75, meal.version)
    answer = cook.post(f"{THERE}/take/undo", {"proposal": key}, expect=422)
    assert "This was changed since." in text_of(answer.text)
    assert "✓ in week 49" in text_of(answer.text)


def test_the_table_holds_all_that_is_behind_the_page(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    off_plan.note(household, kitchen.eater_id, MONDAY, uuid4(), "=cake, 350 kcal")
    eat_all(cook)
    rows = list(csv.DictReader(io.StringIO(cook.get(f"{THERE}/review.csv").removeprefix("\ufeff"))))
    monday = [r for r in rows if r["day"] == str(MONDAY) and r["nutrient"] == "energy_kcal"]
    planned, eaten = (next(float(r["amount"]) for r in monday if r["what"] == what) for what in ("planned", "eaten"))
    steps = [float(r["amount"]) for r in monday if r["what"] == "step"]
    assert planned + sum(steps) == pytest.approx(eaten, abs=1e-4)
    assert 350 in [round(step) for step in steps]
    assert {r["what"] for r in rows} >= {"planned", "in_boxes", "eaten", "not_known", "mean", "asked", "limit", "dish"}
    assert all(not cell.startswith("=") for row in rows for cell in row.values())
    paper = text_of(cook.get(f"{THERE}/print"))
    assert "Maren, a day on the mean" in paper
    assert "1 of 1 day in band" not in paper
    for there in ("print", "review.csv"):
        cook.get(f"/review/2030-01-07/{there}", expect=404)


def test_weeks_stand_over_time_once_they_are_closed(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    assert "Nothing closed yet" in text_of(cook.get("/review/over-time"))
    eating.say_eaten(household, MONDAY, racing.meals(kitchen)[0], uuid4(), eating.Said("eaten"))
    cook.post(f"{THERE}/close")
    assert "Week 48, closed" in text_of(cook.get(THERE))
    first = text_of(cook.get("/review/over-time?of=energy_kcal"))
    eating.say_eaten(household, MONDAY, racing.meals(kitchen)[1], uuid4(), eating.Said("part_eaten", share=0.5))
    second = text_of(cook.get("/review/over-time?of=energy_kcal"))
    assert "48, from 23 November" in first
    assert first != second, "said after it was closed, it counts"
    assert "No closed week knows this figure yet" in text_of(cook.get("/review/over-time?of=sessions_min"))
    assert "Energy" in text_of(cook.get("/review/over-time?of=nonsense"))


def test_body_weight_is_for_who_asks_and_may(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    there = f"/review/weight/{kitchen.eater_id}"
    assert "One question first" in text_of(cook.get(there))
    assert "not asked yet" in text_of(cook.post(f"{there}/begin", expect=422).text)
    racing.weight_log(kitchen)
    assert "70 ±" in text_of(cook.get(there))
    for kg, day, words in (
        ("7", str(MONDAY), "7 kg is not possible."),
        ("70", "2026-11-24", "still to come"),
        ("seventy", str(MONDAY), "Give a number"),
        ("70", "soon", "day"),
    ):
        answer = cook.post(there, {"kg": kg, "day": day}, expect=422)
        assert words in text_of(answer.text)
        assert f'value="{kg}"' in answer.text, "nothing typed is lost"
    cook.post(there, {"kg": "154.3 lb", "day": str(MONDAY)})
    assert text_of(cook.get(there)).count("23 November") >= 1
    cook.post(f"{there}/out", {"day": str(MONDAY)})
    assert "Nothing noted yet" in text_of(cook.get(there))
    cook.post(f"{there}/away")
    assert "A quiet log" in text_of(cook.get(there))
    cook.post(there, {"kg": "70", "day": str(MONDAY)}, expect=404)
    with household.transaction() as session:
        session.execute(update(EaterRow).where(EaterRow.id == kitchen.eater_id).values(conditions=["pregnant"]))
    assert "Weight belongs with licensed care" in text_of(cook.get(there))
    cook.post(f"{there}/begin", expect=422)
    assert there not in cook.get(THERE), "never shown with a condition ticked"


def test_foods_and_eaters_that_are_gone_are_still_told(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    eat_all(cook)
    cook.post(f"{THERE}/close")
    before = text_of(cook.get(THERE)).split("What was learned")[0]
    household_eaters.put_aside(household, kitchen.eater_id, aside=True)
    library_of = library.get_input(household, kitchen.recipe_id)
    saving.save_recipe(household, replace(library_of, name="Another pot", components=(one_food(),)))
    after = text_of(cook.get(THERE)).split("What was learned")[0]
    assert "Maren" in after
    assert re.findall(r"short by [\d,]+", before) == re.findall(r"short by [\d,]+", after)


def one_food() -> recipe_input.ComponentInput:
    line = recipe_input.LineInput(uuid4(), "cabbage_raw", 500)
    return recipe_input.ComponentInput(uuid4(), "pot", (line,))


def test_a_week_of_one_day_is_looked_back_on_like_any_other(cook: Cook, household: Caller) -> None:
    first = date(2026, 12, 7)
    kitchen = furnish(household)
    weeks.open_week(household, first, days=1)
    typed = placing.PlaceInput(uuid4(), kitchen.eater_id, kitchen.slot_id, kitchen.recipe_id, 1.0, (first,))
    placing.place(household, first, typed)
    eating.say_rest_eaten(household, first, uuid4(), first)
    read = text_of(cook.get(f"/review/{first}"))
    assert "0 of 1 day in band" in read
    assert "Weigh a pot when it is done: its yield is learned." in read, "nothing was weighed: it says what would teach"
    assert "Weigh boxes as you fill them" in read
    assert text_of(cook.get(f"/review/{first}/print")).count("Mon") == 1
    cook.post(f"/review/{first}/close")
    assert "50, from 7 December" in text_of(cook.get("/review/over-time"))


def test_before_anything_is_said_of_a_week_the_one_before_is_looked_back_on(
    cook: Cook, household: Caller, client: TestClient
) -> None:
    kitchen, following = furnish(household), MONDAY + timedelta(days=7)
    racing.proposal(kitchen)  # the next week has meals
    assert isinstance(client.app, FastAPI)
    client.app.state.clock = lambda: following
    assert cook.client.get("/review", follow_redirects=False).headers["location"] == THERE
    eating.say_eaten(household, following, placed_in(household, 7)[0].id, uuid4(), eating.Said("eaten"))
    there = cook.client.get("/review", follow_redirects=False).headers["location"]
    assert there == f"/review/{following}"
    client.app.state.clock = lambda: following + timedelta(days=7)
    assert cook.client.get("/review", follow_redirects=False).headers["location"] == f"/review/{following}"


def test_what_is_taken_back_or_given_away_teaches_nothing(cook: Cook, household: Caller) -> None:
    kitchen, undone = furnish(household), uuid4()
    first, second = racing.meals(kitchen)[:2]
    eating.say_eaten(household, MONDAY, first, undone, eating.Said("thrown_away", why="not liked"))
    assert "thrown away, Maren’s: not liked" in text_of(cook.get(THERE))
    off_plan.note(household, kitchen.eater_id, MONDAY, uuid4(), "cake, 350 kcal")
    assert "too much not known to call it low" in text_of(cook.get(THERE)), (
        "of the cake nothing but its energy is known"
    )
    eating.undo_said(household, MONDAY, undone)
    eating.say_eaten(household, MONDAY, first, uuid4(), eating.Said("part_eaten", share=0.9))
    eating.say_eaten(household, MONDAY, second, uuid4(), eating.Said("given_away"))
    read = text_of(cook.get(f"{THERE}?day={kitchen.eater_id}.{MONDAY}"))
    assert "not liked" not in read
    assert "never finished it" not in read
    story = cook.get(f"{THERE}/review.csv")
    assert "0 of 1 boxes finished" in story, "the one that was given away is none of them"
