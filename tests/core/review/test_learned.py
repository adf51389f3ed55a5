"""What a week taught: how exactly boxes were filled, by hand; what was finished; what only grew too old."""

import pytest

from goodcrate.core.cook.batch_record import AS_PLANNED, ON_SCALE
from goodcrate.core.review.learned import BoxFate, SessionTime, accuracy_of, dish_fates, even_shares


def test_boxes_are_held_against_their_even_share_of_what_was_packed() -> None:
    """Planned 400, 400, 200 of a pot that gave 950: even shares 380, 380, 190."""
    boxes = even_shares([("", 400, 390), ("", 400, 370), (ON_SCALE, 200, 190)])
    typed, scale = accuracy_of(boxes)
    assert (typed.how, typed.boxes, typed.miss_g, typed.largest_g) == ("", 2, 10, 10)
    assert typed.over_g == pytest.approx(0)
    assert typed.miss_share == pytest.approx(10 / 380)
    assert (scale.how, scale.boxes, scale.miss_g) == (ON_SCALE, 1, 0)
    assert even_shares([("", 400, 380)]) == [], "a single box has all there is"
    assert even_shares([("", 0, 380), ("", 0, 20)]) == []


def test_boxes_filled_as_divided_were_read_off_no_scale() -> None:
    boxes = even_shares([("", 300, 330), (AS_PLANNED, 300, 285), (AS_PLANNED, 300, 285)])
    assert [(a.how, a.boxes, a.miss_g) for a in accuracy_of(boxes)] == [("", 1, 30)]


def test_what_was_left_is_told_by_dish_and_eater() -> None:
    boxes = [
        BoxFate("stew", "oskar", 400, 400),
        BoxFate("stew", "oskar", 400, 393),
        BoxFate("stew", "oskar", 400, 392),
        BoxFate("pot", "maren", 200, 0, 200, "not liked"),
        BoxFate("pot", "maren", 200, 100),
        BoxFate("stew", "maren", 300, 0, 300, "too old"),
        BoxFate("stew", "maren", 300, 300),
    ]
    pot, stew, old = dish_fates(boxes)
    assert (pot.dish_key, pot.eaten_share, pot.is_never_finished, pot.thrown_g) == ("pot", 0.25, True, 200)
    assert (old.aged, old.aged_g, old.eaten_share) == (1, 300, 1.0), "that it grew too old says nothing of its size"
    assert (stew.boxes, stew.finished, stew.is_favourite) == (3, 3, True), "2 % cling to the box"
    assert not old.is_favourite
    assert SessionTime(120, 150).over_min == 30
