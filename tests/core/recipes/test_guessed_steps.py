"""Minutes in the words of a step, in every form cooks write them."""

import pytest

from goodcrate.core.recipes.guessed_steps import guess_step, minutes_in


@pytest.mark.parametrize(
    ("text", "minutes"),
    [
        ("Simmer for 35 min", 35),
        ("Bake 45 to 55 minutes", 55),
        ("Bake 45–55 minutes at 180 °C", 55),
        ("Roast for 4½ hours", 270),
        ("Prove 1 1/2 hours", 90),
        ("Cook 1 hour 30 minutes", 90),
        ("Braise 2 hours and 15 minutes", 135),
        ("Rest for an hour", 60),
        ("Rest for half an hour", 30),
        ("Rest an hour and a half", 90),
        ("Soak two hours", 120),
        ("A 10-minute simmer", 10),
        ("Chill 1,5 h", 90),
        ("Fry 2 x 3 minutes", 3),
        ("Chop the onions", None),
        ("Heat to 180 °C", None),
        ("Serves 4 hungry people", None),
    ],
)
def test_minutes_are_read_as_they_are_written(text: str, minutes: float | None) -> None:
    assert minutes_in(text) == minutes


def test_a_step_longer_than_a_day_has_no_minutes() -> None:
    assert guess_step("s", "Ferment 90 hours").duration_min is None
    assert guess_step("s", "Ferment 20 hours").duration_min == 1200
    assert guess_step("s", "Bake", minutes=12).duration_min == 12
