"""What to change next week: each rule at its edges."""

import pytest

from goodcrate.core.review.learned import DishFate
from goodcrate.core.review.proposals import (
    Candidate,
    PackOffer,
    Proposal,
    better_yield,
    in_order,
    larger_pack,
    richest,
    room_for,
    smaller_by,
    to_relieve,
)


def fate(eaten_g: float, grams: float = 1000, aged_g: float = 0.0) -> DishFate:
    return DishFate("d", "e", 3, 0, grams, eaten_g, thrown_g=0.0, aged=1 if aged_g else 0, aged_g=aged_g)


@pytest.mark.parametrize(
    ("eaten_g", "by"), [(1000, None), (850, None), (849, 0.85), (820, 0.8), (640, 0.65), (310, 0.5), (0, 0.5)]
)
def test_portions_become_what_was_eaten_of_them(eaten_g: float, by: float | None) -> None:
    assert smaller_by(fate(eaten_g)) == by


def test_what_grew_too_old_makes_no_portion_smaller() -> None:
    assert smaller_by(fate(700, aged_g=300)) is None
    assert smaller_by(fate(350, aged_g=300)) == 0.5


def test_a_yield_is_offered_where_it_is_another() -> None:
    assert [better_yield(0.93, y) for y in (0.9486, 0.9485, 0.93, 0.91)] == [True, False, False, True]
    assert not better_yield(0, 0.9)


def test_the_richest_dish_keeps_energy_and_protein_and_what_is_cooked_anyway_comes_first() -> None:
    now = Candidate("now", 4, 400, 20)
    rich, poor, big = Candidate("rich", 12, 500, 26), Candidate("poor", 6, 400, 10), Candidate("big", 90, 1200, 90)
    best = richest([now, rich, poor, big], now, 400, 3)
    assert best is not None
    assert (best[0], round(best[1], 6)) == ("rich", 5.6), "12 × 0.8 − 4"
    assert richest([poor, big], now, 400, 1) is None, "less protein, or a third of a serving"
    there = Candidate("there", 10, 500, 26, is_there=True)
    best = richest([rich, there], now, 400, 3)
    assert best is not None
    assert (best[0], round(best[1], 6)) == ("there", 4)
    assert richest([there], now, 400, 4.1) is None
    assert richest([now], now, 400, 0) is None, "it stands there already"


def test_a_session_gets_the_room_it_took() -> None:
    assert [room_for([took], 120) for took in (139, 136, 135, 121, 100, 91)] == [150, 150, None, None, None, None]
    assert room_for([100, 163], 120) == 165
    assert room_for([], 120) is None
    assert room_for([80], 120) == 90


def test_a_dish_goes_to_the_next_session_with_as_much_room() -> None:
    assert to_relieve([40, -40]) == (0, 1)
    assert to_relieve([40, -39]) is None
    assert to_relieve([19, -90]) is None
    assert to_relieve([-40, 40]) is None, "never to an earlier one"
    assert to_relieve([0, 30, -30]) == (1, 2)
    assert to_relieve([40]) is None


def test_a_larger_pack_must_be_cheaper_and_used_up() -> None:
    bought = PackOffer(500, 2.0)
    assert larger_pack(bought, [PackOffer(1000, 3.6), PackOffer(2000, 7.0)], 300) == PackOffer(2000, 7.0)
    assert larger_pack(bought, [PackOffer(1000, 3.61)], 300) is None, "a tenth cheaper"
    assert larger_pack(bought, [PackOffer(2500, 5.0)], 300) is None, "it lasts longer than eight weeks"
    assert larger_pack(bought, [PackOffer(250, 0.1)], 300) is None
    assert larger_pack(bought, [PackOffer(1000, 1.0)], 0) is None


def test_few_are_told_the_most_urgent_first() -> None:
    kinds = ("minutes", "pack", "yield", "smaller", "richer", "room", "freeze")
    told = in_order(Proposal(f"{kind}:1", kind, "", "") for kind in kinds)
    assert [p.kind for p in told] == ["smaller", "freeze", "richer", "yield", "room", "pack"]
    near, far = Proposal("yield:a", "yield", "", "", 0.03), Proposal("yield:b", "yield", "", "", 0.05)
    assert in_order([near, far]) == [far, near]
