"""A day's steps lead from what was planned to what was eaten, to the last digit, whatever happened."""

from collections.abc import Sequence
from datetime import date

from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.ground.nutrients import Composition, Tally
from goodcrate.core.review.day_story import BESIDES, NOT_EATEN, PORTION, STOVE, MealStory, day_story, whole_steps
from goodcrate.core.store.at_table import OffPlan

DAY = date(2026, 11, 24)


def kcal(of: float) -> Tally:
    return Tally.of(Composition.of({"energy_kcal": 100}), of)


def meal(key: str, at: Sequence[float]) -> MealStory:
    planned, cooked, packed, on_plate, weighed, eaten = (kcal(grams) for grams in at)
    return MealStory(key, planned, cooked, packed, on_plate, with_weighed=weighed, eaten=eaten)


MEALS = st.builds(lambda at: meal("m", at), st.lists(st.floats(0, 2000), min_size=6, max_size=6))
FOODS = st.builds(lambda n, g: OffPlan(str(n), DAY, "cake", kcal(g)), st.integers(), st.floats(0, 900))


@given(st.lists(MEALS, max_size=6), st.lists(FOODS, max_size=4), st.floats(0, 300))
def test_the_steps_sum_exactly(meals: list[MealStory], besides: list[OffPlan], extras: float) -> None:
    story = day_story(meals, besides, kcal(extras), "energy_kcal")
    assert abs(story.planned + sum(step.amount for step in story.steps) - story.eaten) < 1e-6
    shown = whole_steps([step.amount for step in story.steps], story.planned, story.eaten)
    assert sum(shown) == int(story.eaten + 0.5) - int(story.planned + 0.5)
    assert all(abs(one - step.amount) < 2 for one, step in zip(shown, story.steps, strict=True))


def test_maren_s_tuesday_by_hand() -> None:
    """24 g more in the lunch box, a mash without cream, a snack left, oat biscuits, some of dinner left."""
    lunch = meal("lunch", (392, 392, 415.5, 415.5, 415.5, 415.5))
    dinner = meal("dinner", (700, 662.1, 662.1, 662.1, 662.1, 600.2))
    snack = meal("snack", (350.1, 350.1, 350.1, 350.1, 350.1, 0))
    biscuits = OffPlan("b", DAY, "2 oat biscuits", kcal(185))
    story = day_story([lunch, snack, dinner], [biscuits], Tally(), "energy_kcal")
    assert [(s.kind, s.key, round(s.amount, 1)) for s in story.steps] == [
        (PORTION, "lunch", 23.5),
        (NOT_EATEN, "snack", -350.1),
        (STOVE, "dinner", -37.9),
        (NOT_EATEN, "dinner", -61.9),
        (BESIDES, "b", 185.0),
    ]
    assert whole_steps([s.amount for s in story.steps], story.planned, story.eaten) == [24, -350, -38, -62, 185]
    assert (round(story.planned, 1), round(story.packed, 1), round(story.eaten, 1)) == (1442.1, 1427.7, 1200.7)
