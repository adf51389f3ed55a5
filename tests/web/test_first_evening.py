"""The first evening through the pages: the short page of an eater, the shelf, and a week begun."""

import re
from datetime import date

import pytest

from goodcrate.core.week.placings import days_from_now, second_session
from goodcrate.services.calling import Caller
from goodcrate.services.recipes import starter_shelf
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import weeks
from goodcrate.services.week.beginning import begin_week
from tests.conftest import MONDAY, Cook, text_of
from tests.hostile import forms_of
from tests.web import racing


def first_eater(cook: Cook, expect: int = 303, changes: dict[str, str] | None = None, **more: str) -> str:
    url, fields = racing.first_eater()
    for name, value in {**(changes or {}), **more}.items():
        of_the_day = next(key for key in fields if key.startswith("day-")).rpartition("-")[0]
        fields[f"{of_the_day}-{name}" if name.startswith("energy") else name] = value
    return cook.post(url, fields, expect=expect).text


@pytest.mark.parametrize(
    ("meals", "slots"),
    [
        ("2", ["lunch", "dinner"]),
        ("3", ["breakfast", "lunch", "dinner"]),
        ("5", ["breakfast", "lunch", "snack", "dinner", "evening snack"]),
        ("many", ["breakfast", "lunch", "snack", "dinner"]),
    ],
)
def test_so_many_meals_become_slots(cook: Cook, household: Caller, meals: str, slots: list[str]) -> None:
    first_eater(cook, meals_a_day=meals, lunch_travels="on")
    (eater,) = household_eaters.list_eaters(household)
    assert [slot.name for slot in eater.slots] == slots
    lunch = eater.slots[slots.index("lunch")]
    assert (lunch.eaten_cold, lunch.travels) == (True, True)
    assert eater.day_types[0].target.energy_kcal == 2000
    assert eater.conditions is None  # nobody was asked


def test_what_cannot_be_used_is_named_and_what_was_typed_is_kept(cook: Cook, household: Caller) -> None:
    html = first_eater(cook, 422, energy_kcal="lots", meals_a_day="5", allergens="celery")
    assert "not a number" in text_of(html)
    assert 'value="lots"' in html
    assert 'value="5" selected' in html
    assert re.search(r'value="celery"\s+checked', html)
    assert household_eaters.list_eaters(household) == []
    sent = forms_of("/targets/first", html)["/targets/first"]
    assert ("name", "Nils") in sent.fields


def test_energy_is_worked_out_from_body_size_and_the_illness_question_counts(cook: Cook, household: Caller) -> None:
    body = {"age_years": "41", "height_cm": "182", "weight_kg": "84", "sex": "male", "was_asked": "1"}
    first_eater(cook, energy_way="body", energy_kcal="", changes=body)
    (eater,) = household_eaters.list_eaters(household)
    # 10 × 84 + 6.25 × 182 − 5 × 41 + 5 at rest, × 1.375 for light activity
    assert eater.day_types[0].energy_kcal == pytest.approx((840 + 1137.5 - 205 + 5) * 1.375, abs=6)
    assert eater.conditions == ()
    refused = first_eater(cook, 422, energy_way="body", energy_kcal="", changes=body | {"conditions": "kidney"})
    assert "doctor" in text_of(refused)


def test_the_shelf_names_what_an_eater_must_not_get(cook: Cook, household: Caller) -> None:
    first_eater(cook, diet="plant")
    shelf = cook.get("/recipes/shelf")
    text = text_of(shelf)
    assert "Turkey thigh and caraway cabbage pot holds turkey thigh" in text
    assert "Nils eats plants only" in text
    cook.post("/recipes/shelf", {"take": "smokedtofu"})
    after = cook.get("/recipes/shelf")
    assert "✓ in your library" in text_of(after)
    assert "Plan this week" in text_of(after)
    assert 'value="smokedtofu"' not in after
    cook.post("/recipes/shelf", {"take": "all"})
    taken = [offer for offer in starter_shelf.offers(household) if offer.is_taken]
    assert len(taken) > 8
    assert all(not offer.why_not for offer in taken)


def test_a_week_is_begun_with_its_sessions(household: Caller) -> None:
    assert begin_week(household, MONDAY) == date(2026, 11, 24)
    picture = weeks.week_picture(household, date(2026, 11, 24))
    assert picture is not None
    assert [str(s.starts_at) for s in picture.sessions] == ["2026-11-23 14:00:00", "2026-11-26 18:30:00"]
    assert picture.dates[-1] == date(2026, 11, 29)
    assert begin_week(household, date(2026, 11, 25)) == date(2026, 11, 24)  # the one that is there


def test_a_week_begun_ends_where_the_next_one_is(household: Caller) -> None:
    weeks.open_week(household, date(2026, 11, 27), 7)
    assert begin_week(household, MONDAY) == date(2026, 11, 24)
    picture = weeks.week_picture(household, date(2026, 11, 24))
    assert picture is not None
    assert picture.dates[-1] == date(2026, 11, 26)


@pytest.mark.parametrize(
    ("today", "first", "days", "again"),
    [
        (date(2026, 11, 23), date(2026, 11, 24), 6, "2026-11-26 18:30:00"),
        (date(2026, 11, 25), date(2026, 11, 26), 4, None),
        (date(2026, 11, 26), date(2026, 11, 27), 3, None),
        (date(2026, 11, 27), date(2026, 11, 30), 7, "2026-12-02 18:30:00"),
        (date(2026, 11, 29), date(2026, 11, 30), 7, "2026-12-02 18:30:00"),
    ],
)
def test_a_week_begins_tomorrow_or_after_the_weekend(today: date, first: date, days: int, again: str | None) -> None:
    assert days_from_now(today) == (first, days)
    second = second_session(first, days)
    assert (second and str(second)) == again
