"""Where packed boxes could go: a shelf of their place with room, held against every way."""

from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.core.store.shelves import Shelf, Standing, check_shelf, room_left, where_to_put

PLACE = st.sampled_from(["fridge", "freezer"])
SHELVES = st.lists(st.tuples(PLACE, st.integers(1, 4)), max_size=3)
BOXES = st.lists(PLACE, max_size=5)


def too_many(shelves: list[Shelf], there: list[Standing], chosen: dict[str, str]) -> int:
    """How many boxes stand where there is no room for them."""
    on = [b.shelf for b in there] + list(chosen.values())
    return sum(max(0, on.count(shelf.key) - (shelf.boxes or 99)) for shelf in shelves)


@given(SHELVES, BOXES, BOXES)
def test_no_way_has_fewer_boxes_without_room(
    named: list[tuple[str, int]], standing: list[str], fresh: list[str]
) -> None:
    shelves = [Shelf(f"s{n}", f"shelf {n}", place, boxes) for n, (place, boxes) in enumerate(named)]
    there = [
        Standing(f"t{n}", place, shelf=next((s.key for s in shelves if s.place == place), ""))
        for n, place in enumerate(standing)
    ]
    new = [Standing(f"n{n}", place) for n, place in enumerate(fresh)]
    found = dict(where_to_put(new, there, shelves))
    place_of = {s.key: s.place for s in shelves}
    assert all(place_of[found[b.key]] == b.place for b in new if b.key in found)
    assert {b.key for b in new} - found.keys() == {b.key for b in new if b.place not in place_of.values()}
    ways = product(*([s.key for s in shelves if s.place == b.place] for b in new if b.key in found))
    keys = [b.key for b in new if b.key in found]
    least = min(too_many(shelves, there, dict(zip(keys, way, strict=True))) for way in ways)
    assert too_many(shelves, there, found) == least


def test_litres_are_room_too_and_a_full_shelf_says_so() -> None:
    drawer = Shelf("d", "drawer", "fridge", 2, 1.0)
    assert room_left(drawer, [Standing("a", "fridge", 0.75)]) == (1, 0.25)
    assert room_left(drawer, [Standing("a", "fridge", 0.75)] * 3) == (-1, -1.25)
    assert room_left(Shelf("t", "top", "fridge"), [Standing("a", "fridge", 0.75)]) == (None, None)
    large = Shelf("l", "lower", "fridge", 9, 9.0)
    assert where_to_put([Standing("b", "fridge", 0.5)], [Standing("a", "fridge", 0.75, "d")], [drawer, large]) == {
        "b": "l"
    }


@pytest.mark.parametrize(
    ("shelf", "field"),
    [
        (Shelf("s", " ", "fridge"), "shelf_name"),
        (Shelf("s", "x" * 41, "fridge"), "shelf_name"),
        (Shelf("s", "roof", "roof"), "shelf_place"),
        (Shelf("s", "drawer", "fridge", 0), "shelf_boxes"),
        (Shelf("s", "drawer", "fridge", 2, float("nan")), "shelf_litres"),
        (Shelf("s", "drawer", "fridge", 2, 1e9), "shelf_litres"),
    ],
)
def test_a_shelf_that_cannot_be_is_refused_at_its_field(shelf: Shelf, field: str) -> None:
    check_shelf(Shelf("s", "drawer", "fridge", 14, 30))
    with pytest.raises(InvalidInputs) as refused:
        check_shelf(shelf)
    assert [f.field for f in refused.value.faults] == [field]
