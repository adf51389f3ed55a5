"""The demo week looked back on: each day's steps lead exactly from what was planned to what was eaten."""

from datetime import timedelta
from uuid import uuid4

import pytest

from goodcrate.core.review.day_story import BESIDES, NOT_EATEN, PORTION, STOVE, TABLE, TO_COME
from goodcrate.services.at_table import eating, off_plan
from goodcrate.services.calling import Caller
from goodcrate.services.review.week_story import EaterDayStory, means, week_story
from goodcrate.services.week import weeks
from tests.conftest import MONDAY
from tests.services.kitchen import furnish
from tests.web import racing


def day(caller: Caller, name: str, n: int) -> EaterDayStory:
    picture = weeks.week_picture(caller, MONDAY)
    assert picture is not None
    days = week_story(caller, picture).days
    assert len(days) == len(picture.dates) * len(picture.eaters)
    return next(d for d in days if d.eater.name.startswith(name) and d.day == MONDAY + timedelta(days=n))


def test_marens_tuesday_before_it_is_eaten_is_that_of_the_worked_example(demo: Caller) -> None:
    """Planned 1.4 servings of 480.71 kcal for dinner; the pot as weighed, then 445 and 248 g divided."""
    story = day(demo, "Maren", 1).of("energy_kcal")
    assert story.planned == pytest.approx(567.75 + 822.5425 + 346.06 + 1.4 * 480.7067, abs=0.01)
    assert story.packed == pytest.approx(2428.417, abs=0.01)
    assert story.eaten == 0
    dinner = {s.kind: s.amount for s in story.steps if s.kind in (STOVE, PORTION)}
    share = 1.4 / 4.05
    at_stove = (1417.1566 + 540 * 0.37 + 203 * 0.77 + 27 * 7.45) * share - 1.4 * 480.7067
    assert dinner[STOVE] == pytest.approx(at_stove, abs=0.01)
    assert dinner[STOVE] + dinner[PORTION] == pytest.approx(692.0643 - 1.4 * 480.7067, abs=0.01)
    assert {s.kind for s in story.steps} == {STOVE, PORTION, TO_COME}


def test_whatever_is_said_the_steps_sum(household: Caller) -> None:
    kitchen = furnish(household)
    first, second = racing.meals(kitchen)[:2]
    eating.say_eaten(household, MONDAY, first, uuid4(), eating.Said("part_eaten", share=0.5))
    off_plan.note(household, kitchen.eater_id, MONDAY, uuid4(), "cake, 350 kcal")
    eating.say_eaten(household, MONDAY, second, uuid4(), eating.Said("given_away"))
    for n, kinds in ((0, {NOT_EATEN, BESIDES}), (1, {NOT_EATEN}), (2, {TO_COME})):
        for nutrient in ("energy_kcal", "protein_g", "iron_mg"):
            whole = day(household, "Maren", n)
            story = whole.of(nutrient)
            assert story.planned + sum(s.amount for s in story.steps) == pytest.approx(story.eaten, abs=1e-9)
            assert story.eaten == pytest.approx(whole.eaten.amount(nutrient).value)
        assert {s.kind for s in day(household, "Maren", n).of("energy_kcal").steps} == kinds
    [(key, kcal, unknown)] = means([day(household, "Maren", n) for n in range(3)], ["energy_kcal"])
    assert key == "energy_kcal"
    over = [day(household, "Maren", n).of("energy_kcal").eaten for n in (0, 1)]
    assert kcal == pytest.approx(sum(over) / 2), "of the third day nothing is said"
    assert 0 <= unknown < 1
    assert TABLE not in {s.kind for s in day(household, "Maren", 0).of("energy_kcal").steps}
